package views

import (
	"math"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/recurring"
	"kaiku/core/suspects"
	"kaiku/wire"
	"kaiku/wording"
)

// Suspects says what would explain what is known of a home, and what to do next.
func (t Home) Suspects(s suspects.Suspects, f *suspects.Faults, answers []dossier.Answered) wire.Suspects {
	out := wire.Suspects{Failures: s.Failures, Evidence: s.Evidence, Sure: s.Sure, None: round(s.None), Suspects: []wire.Suspect{}, Steps: []wire.SuspectStep{}, Answers: []wire.AnswerGiven{}, Complaints: []wire.ComplaintCode{}}
	first, at := "", ""
	if len(s.List) > 0 {
		first, at = s.List[0].Mode.Title, t.place(s.List[0].About).Label
	}
	out.Sentence = wording.SuspectsSentence(s, first, at)
	for _, one := range s.List {
		out.Suspects = append(out.Suspects, t.suspect(one, f))
	}
	for _, one := range s.Steps {
		out.Steps = append(out.Steps, t.suspectStep(one, f))
	}
	for _, a := range answers {
		given := wire.AnswerGiven{IssueAnswer: wire.IssueAnswer{Question: a.Question, About: a.About, Said: a.Said}, Asked: t.asked(f, a.Question, a.About), By: t.People.Name(a.By), At: a.At}
		if a.About.ID != "" {
			given.Of = Named(t.Dossier, a.About)
		}
		out.Answers = append(out.Answers, given)
	}
	for _, c := range suspects.Complaints {
		out.Complaints = append(out.Complaints, wire.ComplaintCode{Code: c.Code, Text: wording.Complaints[c.Code]})
	}
	out.Paths = []wire.Named{}
	for _, p := range t.InUse {
		out.Paths = append(out.Paths, Named(t.Dossier, p.ID.Ref()))
	}
	return out
}

func round(p float64) float64 { return math.Round(p*1000) / 1000 }

// place says where a suspect is. A link is called by the devices that it joins.
func (t Home) place(r dossier.Ref) wire.Named {
	out := Named(t.Dossier, r)
	if l, ok := t.Links.Get(dossier.ID[dossier.Link](r.ID)); ok && r.Kind == "link" {
		near, far := t.EndsOf(l)
		out.Label = wording.LinkBetween(t.Label(near.Ref()), t.Label(far.Ref()))
	}
	return out
}

// asked is a question in words.
func (t Home) asked(f *suspects.Faults, question string, about dossier.Ref) string {
	if q := f.Question(question); q != nil {
		return q.Text
	}
	if id, look := strings.CutPrefix(question, suspects.LookAt); look {
		if m := f.Mode(id); m != nil {
			return m.Look.Text
		}
	}
	return wording.AskComplaint(question, t.FullLabel(about))
}

func (t Home) suspect(one suspects.Suspect, f *suspects.Faults) wire.Suspect {
	m := one.Mode
	out := wire.Suspect{Mode: m.ID, Title: m.Title, About: t.place(one.About), Probability: round(one.P), Word: suspects.WordFor(one.P), For: []string{}, Against: []string{},
		Look: m.Look.Text, LookBy: m.Look.By, LookMinutes: m.Look.Minutes, Remedy: m.Remedy, Minutes: m.Minutes, Bring: m.Parts, Proves: []wire.Named{}, Source: m.Source}
	if one.With != nil {
		out.With = one.With.Mode.Title + ", at " + t.place(one.With.About).Label
	}
	for _, g := range one.For {
		out.For = append(out.For, t.ground(g, f))
		if e := g.Evidence; e != nil && e.Failed {
			if a, there := t.Attempts.Get(e.Attempt); there {
				id := proving.TestID(a.Test, a.Subjects)
				if test, planned := t.Plan.Find(id); planned {
					out.Proves = append(out.Proves, wire.Named{Ref: dossier.Ref{Kind: "test", ID: id}, Label: TestTitle(t.Dossier, test)})
				}
			}
		}
	}
	for _, g := range one.Against {
		out.Against = append(out.Against, t.ground(g, f))
	}
	return out
}

// ground says one thing that speaks for or against a suspect.
func (t Home) ground(g suspects.Ground, f *suspects.Faults) string {
	switch {
	case g.Finding != nil:
		return "Found in the record: " + strings.TrimRight(wording.Finding(*g.Finding).Sentence, ".")
	case g.Look != nil:
		return "Looked: " + g.Look.Look.Text + map[bool]string{true: " It was so", false: " It was not so"}[g.Yes]
	case g.Question != "":
		said := "no"
		if g.Yes {
			said = "yes"
		}
		return f.Question(g.Question).Text + " The caller says " + said
	}
	e := g.Evidence
	if e.Attempt == "" {
		return "The caller says: " + wording.AskComplaint(e.Said, t.FullLabel(e.Path.Ref())) + map[bool]string{true: "", false: " It does"}[e.Failed || e.Said != suspects.Works]
	}
	a, _ := t.Attempts.Get(e.Attempt)
	path, _ := t.Paths.Get(e.Path)
	said := wording.Failed(wording.Test(e.Kind, t.Brings(path)).Title, t.FullLabel(a.Subjects[0]), a.Note, e.Failed, e.Class)
	switch {
	case g.Unexplained:
		return "Left unexplained: " + said
	case e.Old:
		return said + ", before it began"
	}
	return said
}

func (t Home) suspectStep(s suspects.Step, f *suspects.Faults) wire.SuspectStep {
	out := wire.SuspectStep{By: s.By, Minutes: s.Minutes, Bits: math.Round(s.Bits*100) / 100}
	if s.About.ID != "" {
		out.About = t.place(s.About)
	}
	switch {
	case s.Test != "":
		out.Kind, out.Test = "test", s.Test
		test, _ := t.Plan.Find(s.Test)
		out.Sentence = TestTitle(t.Dossier, test)
	case s.Question != "":
		out.Kind, out.Question = "question", s.Question
		out.Sentence = t.asked(f, s.Question, s.About)
	default:
		out.Kind, out.Mode = "look", s.Mode.ID
		out.Sentence = s.Mode.Look.Text
	}
	return out
}

// Recurring says what keeps coming back.
func Recurring(lines []recurring.Line, f *suspects.Faults) []wire.Recurring {
	out := []wire.Recurring{}
	for _, l := range lines {
		one := wire.Recurring{Kind: l.Kind, What: l.What, Faults: l.Faults, Homes: l.Homes, Years: hundredth(l.Years), Rate: hundredth(l.Rate), Low: hundredth(l.Low), High: hundredth(l.High), Enough: l.Enough, Modes: []string{}, Sentence: wording.Recurs(l)}
		for _, c := range l.Modes {
			title := c.Mode // one that the firm has removed since
			if m := f.Mode(c.Mode); m != nil {
				title = m.Title
			}
			one.Modes = append(one.Modes, wording.Times(title, c.Times))
		}
		out = append(out, one)
	}
	return out
}

func hundredth(x float64) float64 { return math.Round(100*x) / 100 }
