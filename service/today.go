package service

import (
	"context"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
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
	if a.Role != Technician {
		if out.Firm, err = s.store.CountHomes(ctx, a.Now); err != nil {
			return out, err
		}
	}
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
		h, err := s.assess(ctx, d)
		if err != nil {
			return out, err
		}
		if d.Home().Custodian == a.ID {
			found, err := s.nightTodos(ctx, h)
			if err != nil {
				return out, err
			}
			out.Waiting = append(out.Waiting, found...)
		}
		out.Waiting = append(out.Waiting, views.Waiting(a.reader(), h, people)...)
	}
	if a.may(Waives, nil, nil) {
		if err := s.reviews(ctx, a, &out, involved); err != nil {
			return out, err
		}
	}
	if a.may(Assigns, nil, nil) {
		offered, err := s.store.OnOffer(ctx)
		if err != nil {
			return out, err
		}
		for _, row := range offered {
			if dossier.PersonID(row.OfferedTo) != a.ID {
				out.Others = append(out.Others, views.Unwatched(row.Code, row.Name, dossier.PersonID(row.Custodian), dossier.PersonID(row.OfferedTo), people))
			}
		}
	}
	return out, nil
}

// reviews adds the waivers of other homes that a lead is to look at again.
func (s *Service) reviews(ctx context.Context, a Actor, out *wire.Today, involved []store.Summary) error {
	rows, err := s.store.Homes(ctx, store.HomesQuery{With: []string{"review"}, Today: a.Now, Limit: 50})
	if err != nil {
		return err
	}
	for _, row := range rows {
		if slices.ContainsFunc(involved, func(h store.Summary) bool { return h.HouseholdID == row.HouseholdID }) {
			continue
		}
		d, err := s.store.Load(ctx, wire.HomeID(row.HouseholdID))
		if err != nil {
			return err
		}
		out.Waiting = append(out.Waiting, views.Reviews(&assess.Assessment{State: custody.State{Index: d.Index()}}, a.Now)...)
	}
	return nil
}

// Overview answers what is not proven, what is open, who the custodian is and what to do next.
func (s *Service) Overview(ctx context.Context, a Actor, code string) (wire.Overview, error) {
	h, err := s.read(ctx, a, "show-overview", code)
	if err != nil {
		return wire.Overview{}, err
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Overview{}, err
	}
	d, people := h.Dossier, t.People
	o := wire.Overview{Unfinished: views.Unfinished(h), Household: d.Home(), Revision: d.Revision, Custodian: people.Get(d.Home().Custodian), Coverage: h.Coverage, Wishes: t.SayWishes(), Reproof: t.Steps(h.Reproof), Minutes: h.Minutes,
		NotProven: []wire.Test{}, Findings: views.Findings(d, h.Findings), Issues: []wire.Issue{}, MayWrite: a.may(Writes, d, nil), Counts: map[string]int{}}
	for _, st := range h.Statuses {
		if st.Status != proving.Proven && st.Test.Required {
			o.NotProven = append(o.NotProven, t.Test(st))
		}
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return o, err
	}
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed {
			o.Issues = append(o.Issues, t.Issue(i, faults, a.ID, o.MayWrite))
		}
	}
	rank := proving.Status("").Values()
	slices.SortStableFunc(o.NotProven, func(a, b wire.Test) int {
		return slices.Index(rank, string(a.Status)) - slices.Index(rank, string(b.Status))
	})
	if last, ok := custody.Latest(d); ok && last.State != dossier.Accepted {
		v := a.handover(d, last, people)
		o.Handover = &v
	}
	for _, k := range dossier.Kinds {
		o.Counts[k.Name] = k.In(d).Len()
	}
	o.Next = views.Next(a.reader(), h, people)
	return o, nil
}

// reader is the actor as one who reads.
func (a Actor) reader() views.Reader {
	return views.Reader{ID: a.ID, Reviews: a.may(Waives, nil, nil), Now: a.Now}
}
