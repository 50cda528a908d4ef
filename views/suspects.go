package views

import (
	"math"
	"strings"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/recurring"
	"kaiku/core/suspects"
	"kaiku/wire"
	"kaiku/wording"
)

// Suspects says what would explain what is known of a home, and what to do next.
func (t Home) Suspects(s suspects.Suspects, f *suspects.Faults, answers []dossier.Answered, changes []dossier.Entry) wire.Suspects {
	out := wire.Suspects{Changes: []wire.ChangeBefore{}, Failures: s.Failures, Evidence: s.Evidence, Sure: s.Sure, None: round(s.None), Suspects: []wire.Suspect{}, Steps: []wire.SuspectStep{}, Answers: []wire.AnswerGiven{}, Complaints: []wire.ComplaintCode{}}
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
	for _, e := range changes {
		out.Changes = append(out.Changes, wire.ChangeBefore{About: Named(t.Dossier, e.Subject), At: when(e), By: t.People.Name(e.By), What: wording.Members(e, func(id string) string { return Said(t.Dossier, t.People, id) })})
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
	if question == suspects.AfterThat {
		return wording.AskAfter(t.FullLabel(about))
	}
	if m := f.Looked(question); m != nil {
		return m.Look.Text
	}
	if m := f.Swapped(question); m != nil {
		return wording.Swap(m.Swap, t.place(about).Label)
	}
	return wording.AskComplaint(question, t.FullLabel(about))
}

func (t Home) suspect(one suspects.Suspect, f *suspects.Faults) wire.Suspect {
	m := one.Mode
	out := wire.Suspect{Mode: m.ID, Title: m.Title, About: t.place(one.About), Probability: round(one.P), Word: suspects.WordFor(one.P), For: []string{}, Against: []string{},
		Look: m.Look.Text, LookBy: m.Look.By, LookMinutes: m.Look.Minutes, Remedy: m.Remedy, Minutes: m.Minutes, Bring: m.Parts, Source: m.Source}
	if l := f.Learned(m.ID); l != nil {
		out.Source += "; " + wording.OddsLearned(*l)
	}
	if one.With != nil {
		out.With = t.faultAt(one.With.Mode, one.With.About)
	}
	for _, g := range one.For {
		out.For = append(out.For, t.ground(g, f))
	}
	out.Proves = testsNamed(t.Assessment, one.Proves(t.Index))
	for _, g := range one.Against {
		out.Against = append(out.Against, t.ground(g, f))
	}
	return out
}

// testsNamed names those tests that are planned.
func testsNamed(h *assess.Assessment, ids []string) []wire.Named {
	out := []wire.Named{}
	for _, id := range ids {
		if test, planned := h.Plan.Find(id); planned {
			out = append(out, wire.Named{Ref: dossier.Ref{Kind: "test", ID: id}, Label: TestTitle(h.Dossier, test)})
		}
	}
	return out
}

// faultAt says a fault and where it is.
func (t Home) faultAt(m *suspects.Mode, at dossier.Ref) string {
	return m.Title + ", at " + t.place(at).Label
}

// ground says one thing that speaks for or against a suspect.
func (t Home) ground(g suspects.Ground, f *suspects.Faults) string {
	switch {
	case g.Finding != nil:
		return "Found in the record: " + strings.TrimRight(wording.Finding(*g.Finding).Sentence, ".")
	case g.After.ID != "":
		return wording.CameAfter(t.FullLabel(g.After))
	case g.Swap:
		return wording.Swapped(g.Look.Swap, g.Yes)
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

// then is what follows a step if it comes out one way.
func (t Home) then(of suspects.Step, then suspects.Then, f *suspects.Faults) string {
	sure, next := "", ""
	if then.Sure != nil {
		sure = t.faultAt(then.Sure.Mode, then.Sure.About)
	} else if then.Next != nil {
		step := t.suspectStep(*then.Next, f)
		next = wording.NextStep(step.Kind, step.Sentence)
	}
	return wording.Then(of.Test != "", then.Yes, then.P, sure, next)
}

func (t Home) suspectStep(s suspects.Step, f *suspects.Faults) wire.SuspectStep {
	out := wire.SuspectStep{By: s.By, Minutes: s.Minutes, Bits: math.Round(s.Bits*100) / 100, Question: s.Noted()}
	if s.About.ID != "" {
		out.About = t.place(s.About)
	}
	for _, then := range s.Then {
		out.Then = append(out.Then, t.then(s, then, f))
	}
	switch {
	case s.Test != "":
		out.Kind, out.Test = "test", s.Test
		test, _ := t.Plan.Find(s.Test)
		out.Sentence = TestTitle(t.Dossier, test)
	case s.Question != "":
		out.Kind, out.Sentence = "question", t.asked(f, s.Question, s.About)
	case s.Swap:
		out.Kind, out.Mode, out.Sentence = "swap", s.Mode.ID, wording.Swap(s.Mode.Swap, out.About.Label)
	default:
		out.Kind, out.Mode, out.Sentence = "look", s.Mode.ID, s.Mode.Look.Text
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

// LearnedOdds says by what the odds of faults have moved.
func LearnedOdds(moved []suspects.Learned, where map[string][]wire.FoundHere) []wire.LearnedOdds {
	out := []wire.LearnedOdds{}
	for _, l := range moved {
		from := where[l.Mode.ID]
		if from == nil {
			from = []wire.FoundHere{}
		}
		out = append(out, wire.LearnedOdds{Mode: l.Mode.ID, Title: l.Mode.Title, Came: l.Mode.Odds, Odds: hundredth(l.Odds), Found: l.Found, Of: l.Of, Expected: hundredth(l.Expected), Kept: l.Kept, From: from, Sentence: wording.OddsLearned(l)})
	}
	return out
}

// SharedFaults says which faults show in several homes, and what to do in each.
func SharedFaults(list []recurring.Shared, f *suspects.Faults) []wire.SharedFault {
	out := []wire.SharedFault{}
	for _, s := range list {
		one := wire.SharedFault{Mode: s.Mode, Title: s.Mode, Kind: s.Kind, What: s.What, Homes: []wire.SharedIn{}, Besides: []wire.SharedIn{},
			Sentence: wording.SharedBy(s.What, s.Reporting(), s.Found, s.Reporting()+len(s.Homes))}
		look := ""
		if m := f.Mode(s.Mode); m != nil {
			one.Title, one.Remedy, look = m.Title, m.Remedy, m.Look.Text
		}
		for _, r := range s.Reports {
			one.Homes = append(one.Homes, wire.SharedIn{Household: r.Home.Home().Code, Name: r.Home.Home().Name, Issue: Named(r.Home, r.Issue.ID.Ref()), State: string(r.Issue.State), Found: r.Found, Probability: round(r.P),
				Do: wording.DoWithShared(true, r.Found, r.Issue.State, r.Issue.Proof != "", look)})
		}
		for _, d := range s.Homes {
			one.Besides = append(one.Besides, wire.SharedIn{Household: d.Home().Code, Name: d.Home().Name, Do: wording.DoWithShared(false, false, "", false, look)})
		}
		out = append(out, one)
	}
	return out
}
