package service

import (
	"context"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Today returns what waits for the actor and what the actor holds.
func (s *Service) Today(ctx context.Context, a Actor) (wire.Today, error) {
	if err := a.require("today", nil, nil); err != nil {
		return wire.Today{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Today{}, err
	}
	out := wire.Today{Waiting: []wire.Todo{}, Held: []wire.HouseholdRow{}, Others: []wire.Todo{}}
	involved, err := s.store.Involving(ctx, a.ID)
	if err != nil {
		return out, err
	}
	for _, row := range involved {
		d, err := s.store.Load(ctx, wire.HomeID(row.HouseholdID))
		if err != nil {
			return out, err
		}
		if d.Home().Custodian == a.ID {
			out.Held = append(out.Held, rowOf(row, people))
		}
		out.Waiting = append(out.Waiting, waiting(a, d, people)...)
	}
	if a.may(Assigns, nil, nil) {
		offered, err := s.store.OnOffer(ctx)
		if err != nil {
			return out, err
		}
		for _, row := range offered {
			if dossier.PersonID(row.OfferedTo) != a.ID {
				out.Others = append(out.Others, wire.Todo{Code: "handover-unwatched", Household: row.Code, Name: row.Name, Place: "handover",
					Sentence: wording.Fill(wording.Todos["handover-unwatched"], map[string]string{
						"from": people.name(dossier.PersonID(row.Custodian)), "to": people.name(dossier.PersonID(row.OfferedTo))})})
			}
		}
	}
	return out, nil
}

// waiting returns what in this home waits for the actor, the most pressing first.
func waiting(a Actor, d *dossier.Dossier, people staff) []wire.Todo {
	l := todos{d: d}
	mine := d.Home().Custodian == a.ID
	if h, ok := custody.Latest(d); ok {
		place := "handover/" + string(h.ID)
		switch {
		case h.State == dossier.Offered && h.To == a.ID:
			l.add("handover-to-me", place, "from", people.name(h.From))
		case h.State == dossier.Returned && h.From == a.ID && mine:
			l.add("handover-returned", place, "to", people.name(h.To), "why", orQuestions(h.ReturnedWhy))
		case h.State == dossier.Outdated && h.From == a.ID && mine:
			l.add("handover-outdated", place, "to", people.name(h.To))
		}
	}
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed && i.Owner == a.ID {
			l.add("issue-mine", "issues/"+string(i.ID), "symptom", i.Symptom, "state", wording.Plain(string(i.State)))
		}
	}
	if mine {
		l.addOpen()
	}
	return l.list
}

func orQuestions(why string) string {
	if why == "" {
		return "with questions"
	}
	return why
}

type todos struct {
	d    *dossier.Dossier
	list []wire.Todo
}

func (l *todos) add(code, place string, pairs ...string) {
	values := map[string]string{}
	for i := 0; i+1 < len(pairs); i += 2 {
		values[pairs[i]] = pairs[i+1]
	}
	h := l.d.Home()
	l.list = append(l.list, wire.Todo{Code: code, Household: h.Code, Name: h.Name, Place: place, Sentence: wording.Fill(wording.Todos[code], values)})
}

// addOpen adds what is open in the home for whoever is answerable.
func (l *todos) addOpen() {
	for _, i := range l.d.Issues {
		if i.State == dossier.IssueOpen && i.Owner == "" {
			l.add("issue-unowned", "issues/"+string(i.ID), "symptom", i.Symptom)
		}
	}
	blockers := 0
	for _, f := range findingsOf(l.d) {
		if f.Severity == "blocker" {
			blockers++
		}
	}
	c := proving.Cover(proving.Standings(l.d))
	for _, n := range []struct {
		code, place, word string
		n                 int
	}{{"blockers", "overview", "blocker", blockers}, {"tests-failed", "proving", "test", c.Failed},
		{"tests-stale", "proving", "test", c.Stale}, {"tests-untried", "proving", "test", c.Untried}} {
		if n.n > 0 {
			l.add(n.code, n.place, "n", wording.Count(n.n, n.word))
		}
	}
}

// Overview answers what is not proven, what is open, who has the home and what to do next.
func (s *Service) Overview(ctx context.Context, a Actor, code string) (wire.Overview, error) {
	d, err := s.Home(ctx, a, "show-overview", code)
	if err != nil {
		return wire.Overview{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Overview{}, err
	}
	standings := proving.Standings(d)
	o := wire.Overview{Household: d.Home(), Revision: d.Revision, Custodian: people.get(d.Home().Custodian), Coverage: proving.Cover(standings),
		NotProven: []wire.Test{}, Findings: findingsOf(d), Issues: []wire.Issue{}, MayWrite: a.may(Writes, d, nil), Counts: map[string]int{}}
	for _, st := range standings {
		if st.State != proving.Proven {
			o.NotProven = append(o.NotProven, testOf(d, st, people))
		}
	}
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed {
			o.Issues = append(o.Issues, issueOf(a, d, i, people))
		}
	}
	if h, ok := custody.Latest(d); ok && h.State != dossier.Accepted {
		v := handoverOf(a, d, h, people)
		o.Handover = &v
	}
	for _, k := range dossier.Kinds {
		o.Counts[k.Name] = k.In(d).Len()
	}
	o.Next = next(a, d, people)
	return o, nil
}

// next is what to do next in this home: what waits for the actor, or for its custodian.
func next(a Actor, d *dossier.Dossier, people staff) []wire.Todo {
	out := waiting(a, d, people)
	if d.Home().Custodian != a.ID {
		l := todos{d: d}
		l.addOpen()
		out = append(out, l.list...)
	}
	if out == nil {
		out = []wire.Todo{}
	}
	return out
}
