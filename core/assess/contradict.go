package assess

import (
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/proving"
)

// Tried is a test that shows whether a forecast is right, and how it stands.
type Tried struct {
	Test   string // identity
	Kind   string
	Status proving.Status
}

// Contradiction is a result, on facts that hold, that cannot be if the forecast of its path is right.
type Contradiction struct {
	Path dossier.ID[dossier.Path]
	Test string
	Code string
	At   dossier.ID[dossier.Attempt]
}

// Codes of contradictions.
const (
	FailsThoughFit    = "fails-though-fit"    // it did not play, and all of it should
	PlaysThoughUnfit  = "plays-though-unfit"  // it played, and nothing of it should
	SilentThoughHeard = "silent-though-heard" // no sound, and all of it should be heard
	HeardThoughSilent = "heard-though-silent" // sound, and all of it should be silent
)

// Against returns by path the tests that show whether the forecast is right, and where one speaks against it. A test that failed because of what
// lies before the decoding, such as a server that does not answer, says nothing of it; nor does one whose facts have changed, nor a forecast of
// which something is not known.
func (a *Assessment) Against() (map[dossier.ID[dossier.Path]][]Tried, []Contradiction) {
	tried := map[dossier.ID[dossier.Path]][]Tried{}
	before := map[dossier.ID[dossier.Path]]bool{} // paths of which something that comes first failed
	by := map[dossier.ID[dossier.Path]]map[string]proving.TestStatus{}
	for _, st := range a.Statuses {
		path, kind := st.Test.Path, st.Test.Kind.Name
		switch kind {
		case "plays", "sound":
			tried[path] = append(tried[path], Tried{st.Test.ID(), kind, st.Status})
			if by[path] == nil {
				by[path] = map[string]proving.TestStatus{}
			}
			by[path][kind] = st
		case "reach", "found", "opens", "complete":
			before[path] = before[path] || st.Status == proving.Failed || st.Status == proving.InDoubt
		}
	}
	cells := map[dossier.ID[dossier.Path]][]forecast.Cell{}
	for _, c := range a.Forecast().Cells {
		cells[c.Path] = append(cells[c.Path], c)
	}
	var out []Contradiction
	for _, p := range a.InUse {
		of := cells[p.ID]
		if len(of) == 0 {
			continue
		}
		add := func(kind, code string) {
			st := by[p.ID][kind]
			out = append(out, Contradiction{p.ID, st.Test.ID(), code, st.Attempt})
		}
		plays, sound := by[p.ID]["plays"].Status, by[p.ID]["sound"].Status
		if attempt, there := a.Attempts.Get(by[p.ID]["plays"].Attempt); there && plays == proving.Failed && !before[p.ID] && decodes(attempt.Observed) && all(of, good) {
			add("plays", FailsThoughFit)
		}
		if plays == proving.Proven && all(of, only(forecast.Unplayable)) {
			add("plays", PlaysThoughUnfit)
		}
		if sound == proving.Failed && plays != proving.Failed && all(of, good) {
			add("sound", SilentThoughHeard)
		}
		if sound == proving.Proven && all(of, only(forecast.Silent)) {
			add("sound", HeardThoughSilent)
		}
	}
	return tried, out
}

// decodes reports whether what was seen may be a matter of decoding, and not of the way there.
func decodes(o dossier.Observed) bool {
	switch o.Class() {
	case dossier.ClassSilent, dossier.ClassRefused, dossier.ClassSlow, dossier.ClassEmpty, dossier.ClassNotDone:
		return o == "renderer-refused"
	}
	return true
}

func all(cells []forecast.Cell, is func(forecast.Cell) bool) bool {
	for _, c := range cells {
		if !is(c) {
			return false
		}
	}
	return true
}

// good: all of it plays with its sound, and of all of it that is known.
func good(c forecast.Cell) bool {
	return c.Unread == 0 && (c.Grade() == forecast.Plays || c.Grade() == forecast.Converted)
}

// only returns whether all of a cell has one outcome.
func only(o forecast.Outcome) func(forecast.Cell) bool {
	return func(c forecast.Cell) bool {
		shares := c.Shares()
		return c.Unread == 0 && len(shares) == 1 && shares[0].Outcome == o
	}
}
