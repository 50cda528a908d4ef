package suspects

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Complaint is what a caller says is wrong, with what it means in tests.
type Complaint struct {
	Code  string
	Test  string
	Fails bool
	Class dossier.Class // how it ends; "" where that says nothing of it
}

// Works is the complaint that there is none: on that path it plays.
const Works = "works"

// Complaints lists what callers say, outward from the source.
var Complaints = []Complaint{
	{"not-listed", "found", true, dossier.ClassSilent},
	{"listed-empty", "opens", true, dossier.ClassEmpty},
	{"never-opens", "opens", true, dossier.ClassSilent},
	{"refused", "plays", true, dossier.ClassRefused},
	{"does-not-start", "plays", true, dossier.ClassSilent},
	{"stalls", "plays", true, dossier.ClassSlow},
	{"wrong-thing", "plays", true, dossier.ClassWrong},
	{"no-sound", "sound", true, ""},
	{"sound-late", "lip-sync", true, ""},
	{"picture-cut", "picture-fits", true, ""},
	{"no-subtitles", "subtitles", true, ""},
	{"starts-over", "resumes", true, ""},
	{"new-missing", "sample-appears", true, ""},
	{"stalls-together", "busy-set", true, dossier.ClassSlow},
	{"not-outside", "outside", true, ""},
	{Works, "plays", false, ""},
}

// complaintNamed returns the complaint with that code.
func complaintNamed(code string) (Complaint, bool) {
	i := slices.IndexFunc(Complaints, func(c Complaint) bool { return c.Code == code })
	if i < 0 {
		return Complaint{}, false
	}
	return Complaints[i], true
}

// settle leaves out what failed only because something that it needs failed: it says nothing more. What was tried while what it needs is known to work
// says something of its own cause alone.
func settle(list []Evidence) []Evidence {
	done := outcomesOf(list)
	var out []Evidence
	for n := range list {
		e := list[n]
		broken := done.settle(&e)
		if e.Failed && broken {
			continue
		}
		out = append(out, e)
	}
	return out
}

// seenAt is a kind of test on a path.
type seenAt struct {
	path dossier.ID[dossier.Path]
	kind string
}

// outcomes are what has been seen of each kind of test on each path since the fault began; a failure rather than a pass.
type outcomes map[seenAt]*Evidence

func outcomesOf(list []Evidence) outcomes {
	out := outcomes{}
	for n := range list {
		if e := &list[n]; !e.Old && e.Folder == "" {
			if was := out[seenAt{e.Path, e.Kind}]; was == nil || e.Failed && !was.Failed {
				out[seenAt{e.Path, e.Kind}] = e
			}
		}
	}
	return out
}

// settle notes of an observation whether what it needs is known to work, and reports whether that is known to fail.
func (k outcomes) settle(e *Evidence) (broken bool) {
	paths := e.Paths
	if len(paths) == 0 {
		paths = []dossier.ID[dossier.Path]{e.Path}
	}
	for _, before := range needs[e.Kind] {
		for _, p := range paths {
			if b := k[seenAt{p, before}]; b != nil {
				broken = broken || b.Failed && b.weight >= 1
				e.settled = e.settled || !b.Failed
			}
		}
	}
	e.settled = e.settled && !broken
	return broken
}

// once lets one thing that was asked of a source for several of its paths, with one result, count once: it is one observation.
func once(list []Evidence, plan *proving.Plan) {
	type asked struct {
		source   dossier.ID[dossier.Source]
		kind     string
		failed   bool
		observed dossier.Observed
	}
	key := func(e *Evidence) asked { return asked{plan.SourceOf(e.Path), e.Kind, e.Failed, e.Observed} }
	times := map[asked]float64{}
	for n := range list {
		if list[n].inside {
			times[key(&list[n])]++
		}
	}
	for n := range list {
		if e := &list[n]; e.inside {
			e.weight /= times[key(e)]
		}
	}
}

// NeedsPath reports whether a question is about one path, and not about the home.
func NeedsPath(question string) bool {
	_, said := complaintNamed(question)
	return said
}

// Known reports whether something can be asked: a complaint, or one of the questions.
func (f *Faults) Known(question string) bool {
	_, said := complaintNamed(question)
	return said || question == AfterThat || f.Question(question) != nil || f.shown(question) != nil
}

// AfterThat asks whether it came after the change of a record.
const AfterThat = "after-change"

// AtPlace reports whether a question is about one record: a component that was looked at, or for which something else was put in, or what was changed.
func AtPlace(question string) bool {
	return question == AfterThat || strings.HasPrefix(question, LookAt) || strings.HasPrefix(question, SwapFor)
}

// LookAt begins what is answered when a suspect was looked at, and SwapFor when something else was put in its place; the id of its mode follows.
const (
	LookAt  = "look:"
	SwapFor = "swap:"
)

// shown returns a test for modes that a look or an exchange shows; nil for another question.
func (f *Faults) shown(question string) func(*Mode) bool {
	if m := f.Looked(question); m != nil {
		return func(other *Mode) bool { return other.ID == m.ID }
	}
	if m := f.Swapped(question); m != nil {
		return func(other *Mode) bool { return other.Swap == m.Swap }
	}
	return nil
}

// Looked returns the mode that was looked at; nil for another question.
func (f *Faults) Looked(question string) *Mode { return f.after(question, LookAt) }

// Swapped returns a mode of those that an exchange shows; nil for another question.
func (f *Faults) Swapped(question string) *Mode {
	if m := f.after(question, SwapFor); m != nil && m.Swap != "" {
		return m
	}
	return nil
}

func (f *Faults) after(question, beginning string) *Mode {
	id, so := strings.CutPrefix(question, beginning)
	if !so {
		return nil
	}
	return f.Mode(id)
}

// Evidence is one thing that is known and weighs for or against faults.
type Evidence struct {
	Kind     string                     // kind of test
	Path     dossier.ID[dossier.Path]   // that it is about, or the first of those
	Paths    []dossier.ID[dossier.Path] // all of them, of a set in use at once
	Folder   dossier.ID[dossier.Folder] // of a test about a folder
	Failed   bool
	Class    dossier.Class               // how it failed; "" if that is not known
	Observed dossier.Observed            // what a machine saw; "" for what a person did
	Attempt  dossier.ID[dossier.Attempt] // that it comes from
	Said     string                      // or the complaint that it comes from
	Old      bool                        // it passed before the fault began, or may have
	weight   float64                     // how far it counts
	class    int                         // of failing; -1 where that is not known
	trust    float64                     // how often such an observation is right
	settled  bool                        // what it needs is known to work
	inside   bool                        // it was seen at the server's end, and says nothing of the device
}

// Weights of what is known. A pass from before the fault began says only that it once worked, and a result between pass and fail speaks half as loud.
// Judgement.
const (
	oldPass  = 0.15
	halfFail = 0.5
	byTest   = 0.99 // how often a recorded result is right
	byCaller = 0.88 // how often a layman names the right thing
)

// atServersEnd are the acts that a machine does at the server's end: what it sees says nothing of the device.
var atServersEnd = []string{"ask-source", "try-writing", "keep-searching"}

// observation is one of a test, before it is known what came of it.
func observation(plan *proving.Plan, t *proving.Test, byMachine bool) Evidence {
	e := Evidence{Kind: t.Kind.Name, Path: t.Path, weight: 1, trust: byTest, class: -1, inside: byMachine && slices.Contains(atServersEnd, t.Kind.Act)}
	switch t.Kind.About {
	case proving.AboutFolder:
		e.Folder = dossier.ID[dossier.Folder](t.Subjects[0].ID)
	case proving.AboutSet:
		e.Paths = plan.InSet(*t)
	}
	return e
}

// gather collects what is known of a home: the results that hold, and what was answered. Since is when the fault began, as far as it is known.
func gather(plan *proving.Plan, statuses []proving.TestStatus, attempts func(dossier.ID[dossier.Attempt]) (dossier.Attempt, bool), since time.Time, answers []dossier.Answered) []Evidence {
	var out []Evidence
	var newest time.Time // failure
	for _, st := range statuses {
		if st.Status == proving.Failed && st.At.After(newest) {
			newest = st.At
		}
	}
	for _, st := range statuses {
		a, there := attempts(st.Attempt)
		if !there || st.Status == proving.Stale || st.Status == proving.Untried || st.Status == proving.Waived && a.Outcome == dossier.Impossible {
			continue
		}
		e := observation(plan, &st.Test, a.How == dossier.ByMachine)
		e.Failed, e.Class, e.Observed, e.Attempt = a.Outcome == dossier.Fail, a.Observed.Class(), a.Observed, a.ID
		if a.Outcome == dossier.Marginal {
			e.Failed, e.weight = e.Class == "" || e.Class == dossier.ClassSlow, halfFail
			if e.Failed {
				e.Class = dossier.ClassSlow
			}
		}
		if !e.Failed {
			e.Class, e.Observed = "", ""
			e.Old = !since.IsZero() && a.At.Before(since) || since.IsZero() && a.At.Before(newest.Add(-24*time.Hour)) || st.Status == proving.InDoubt
			if e.Old {
				e.weight = oldPass
			}
		}
		out = append(out, e)
	}
	for n := range out {
		out[n].class = slices.Index(failing[:], out[n].Class)
	}
	out = settle(out)
	once(out, plan)
	for _, said := range answers {
		c, complaint := complaintNamed(said.Question)
		if !complaint || said.Said == "" {
			continue
		}
		failed := c.Fails == (said.Said == dossier.Yes)
		e := Evidence{Kind: c.Test, Path: dossier.ID[dossier.Path](said.About.ID), Failed: failed, Said: said.Question, weight: 1, trust: byCaller}
		if failed {
			e.Class = c.Class
		}
		e.class = slices.Index(failing[:], e.Class)
		out = append(out, e)
	}
	return out
}
