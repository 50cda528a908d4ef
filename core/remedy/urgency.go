package remedy

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Level says how soon an issue has to be seen to.
type Level string

// Levels.
const (
	Today    Level = "today"
	ThisWeek Level = "this-week"
	CanWait  Level = "can-wait"
)

// Values lists them, the most urgent first.
func (Level) Values() []string { return []string{string(Today), string(ThisWeek), string(CanWait)} }

// ReasonCode says why an issue is as urgent as it is.
type ReasonCode string

// Reasons.
const (
	NothingPlays  ReasonCode = "nothing-plays"  // a path does not play that a needed wish hangs on, and nothing else is known to serve it
	ElsewhereToo  ReasonCode = "elsewhere-too"  // another path is proven that serves the same wish in the same place
	FallBackWorks ReasonCode = "fall-back"      // the path's fall-back is proven to play
	FallBackOpen  ReasonCode = "fall-back-open" // it has a fall-back of which nothing is proven
	PlaysBadly    ReasonCode = "plays-badly"    // it plays, and something else fails
	NotKnownWhat  ReasonCode = "not-known"      // nothing that is recorded says what no longer works
	Overdue       ReasonCode = "overdue"        // what was promised to the customer is overdue
	DueSoon       ReasonCode = "due-soon"       // it falls due within a day
	ForLong       ReasonCode = "for-long"       // it has been so for a week or more
)

// Reasons lists them all.
var Reasons = []ReasonCode{NothingPlays, ElsewhereToo, FallBackWorks, FallBackOpen, PlaysBadly, NotKnownWhat, Overdue, DueSoon, ForLong}

// Reason is one of them, with the record that it is about and an instant, where it has one.
type Reason struct {
	Code  ReasonCode
	About dossier.Ref
	At    time.Time
}

// Urgency is how soon an issue has to be seen to, and why.
type Urgency struct {
	Level   Level
	Reasons []Reason
}

// playing are complaints and kinds of test with whose failure nothing is watched at all.
var playing = []string{"reach", "found", "opens", "plays", "not-listed", "listed-empty", "never-opens", "refused", "does-not-start", "wrong-thing"}

// Urgent works out how urgent an issue is: from what the household can no longer watch, whether something else serves it, what was promised, and since
// when it is so. The limits are judgement.
func Urgent(x *dossier.Index, statuses []proving.TestStatus, wishes []proving.WishStatus, i dossier.Issue, now time.Time) Urgency {
	var out Urgency
	add := func(level Level, r Reason) {
		if out.Level == "" || slices.Index(level.Values(), string(level)) < slices.Index(level.Values(), string(out.Level)) {
			out.Level = level
		}
		out.Reasons = append(out.Reasons, r)
	}
	plays := map[dossier.ID[dossier.Path]]proving.Status{}
	failed := map[dossier.ID[dossier.Path]]bool{}
	broken := map[dossier.ID[dossier.Path]]bool{}
	for _, st := range statuses {
		if st.Test.Kind.Name == "plays" {
			plays[st.Test.Path] = st.Status
		}
		if st.Status == proving.Failed {
			failed[st.Test.Path] = true
			broken[st.Test.Path] = broken[st.Test.Path] || slices.Contains(playing, st.Test.Kind.Name)
		}
	}
	for _, a := range i.Answers {
		if a.About.Kind == "path" && a.Said == dossier.Yes && a.Question != "works" {
			failed[dossier.ID[dossier.Path](a.About.ID)] = true
			broken[dossier.ID[dossier.Path](a.About.ID)] = broken[dossier.ID[dossier.Path](a.About.ID)] || slices.Contains(playing, a.Question)
		}
	}
	known := false
	for _, p := range Concerned(x, i) {
		if !failed[p] {
			continue
		}
		known = true
		if !broken[p] {
			add(CanWait, Reason{Code: PlaysBadly, About: p.Ref()})
			continue
		}
		path, _ := x.Paths.Get(p)
		fallBack := plays[path.FallBack]
		other := otherwise(wishes, p, plays)
		switch {
		case path.FallBack != "" && good(fallBack):
			add(ThisWeek, Reason{Code: FallBackWorks, About: path.FallBack.Ref()})
		case other != "":
			add(ThisWeek, Reason{Code: ElsewhereToo, About: other.Ref()})
		default:
			add(Today, Reason{Code: NothingPlays, About: p.Ref()})
			if path.FallBack != "" {
				add(CanWait, Reason{Code: FallBackOpen, About: path.FallBack.Ref()})
			}
		}
	}
	if !known {
		add(ThisWeek, Reason{Code: NotKnownWhat})
	}
	switch due := i.PromisedUntil; {
	case due.IsZero():
	case !now.Before(due):
		add(Today, Reason{Code: Overdue, At: due})
	case due.Sub(now) <= 24*time.Hour:
		add(Today, Reason{Code: DueSoon, At: due})
	}
	since := i.Since
	if since.IsZero() {
		since = i.OpenedAt
	}
	if !since.IsZero() && now.Sub(since) >= 7*24*time.Hour {
		add(ThisWeek, Reason{Code: ForLong, At: since})
	}
	return out
}

func good(s proving.Status) bool { return s == proving.Proven || s == proving.Marginal }

// otherwise is another path that is proven to play and serves a wish that the path serves, in the same place.
func otherwise(wishes []proving.WishStatus, p dossier.ID[dossier.Path], plays map[dossier.ID[dossier.Path]]proving.Status) dossier.ID[dossier.Path] {
	for _, w := range wishes {
		for _, place := range w.Places {
			if !slices.Contains(place.Paths, p) {
				continue
			}
			for _, other := range place.Paths {
				if other != p && good(plays[other]) {
					return other
				}
			}
		}
	}
	return ""
}

// Concerned are the paths in use that an issue is about: by the test that it was opened from or that will prove its remedy, by what it is said to be
// about, and by what its caller said.
func Concerned(x *dossier.Index, i dossier.Issue) []dossier.ID[dossier.Path] {
	about := slices.Clone(i.Subjects)
	if kind, subject, ok := strings.Cut(proving.TestOf(x.Dossier, i), ":"); ok && kind != "" {
		about = append(about, dossier.Ref{Kind: "path", ID: subject}, dossier.Ref{Kind: "folder", ID: subject})
	}
	for _, a := range i.Answers {
		about = append(about, a.About)
	}
	var out []dossier.ID[dossier.Path]
	for _, p := range x.InUse {
		_, server := x.ServerOf(p)
		one := []dossier.Ref{p.ID.Ref(), p.Device.Ref(), p.Source.Ref(), server.ID.Ref()}
		for _, f := range x.Reached(p) {
			one = append(one, f.ID.Ref())
		}
		if slices.ContainsFunc(about, func(r dossier.Ref) bool { return r.ID != "" && slices.Contains(one, r) }) {
			out = append(out, p.ID)
		}
	}
	return out
}
