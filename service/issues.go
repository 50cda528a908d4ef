package service

import (
	"context"

	"kaiku/core/dossier"
	"kaiku/core/remedy"
	"kaiku/wire"
)

// OpenIssue opens an issue; from a failed test, it takes that test's newest failed attempt along.
func (s *Service) OpenIssue(ctx context.Context, a Actor, code string, in wire.NewIssue, r Request) (wire.Issue, error) {
	if in.ID == "" {
		in.ID = dossier.ID[dossier.Issue](newID())
	}
	h, err := s.read(ctx, a, "list-tests", code)
	if err != nil {
		return wire.Issue{}, err
	}
	w, err := s.write(ctx, a, "open-issue", code, "", r, func(d *dossier.Dossier) error {
		if d.Has(in.ID.Ref()) {
			return refuse("id-taken", "id", string(in.ID))
		}
		i := dossier.Issue{Symptom: in.Symptom, Subjects: in.Subjects, Reporter: in.Reporter, Since: in.Since,
			Promise: in.Promise, PromisedUntil: in.PromisedUntil,
			State: dossier.IssueOpen, OpenedBy: a.ID, OpenedAt: dossier.At(r.doneAt(s.now()))}
		i.ID = in.ID
		if in.Test != "" {
			st, ok := h.Test(in.Test)
			if !ok {
				return refuse("no-such-test", "id", in.Test)
			}
			remedy.From(st, &i)
		}
		d.Issues.Put(i)
		return nil
	})
	if err != nil {
		return wire.Issue{}, err
	}
	if w.Repeated != (dossier.Ref{}) {
		in.ID = dossier.ID[dossier.Issue](w.Repeated.ID)
	}
	return s.issueView(ctx, a, w.Dossier, in.ID)
}

// Issue returns an issue with names and the steps that are possible now.
func (s *Service) Issue(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue]) (wire.Issue, error) {
	d, err := s.Home(ctx, a, "view-issue", code)
	if err != nil {
		return wire.Issue{}, err
	}
	return s.issueView(ctx, a, d, id)
}

func (s *Service) issueView(ctx context.Context, a Actor, d *dossier.Dossier, id dossier.ID[dossier.Issue]) (wire.Issue, error) {
	i, ok := d.Issues.Get(id)
	if !ok {
		return wire.Issue{}, refuse("no-such-record", "kind", "issue", "id", string(id))
	}
	h, err := s.assess(ctx, d)
	if err != nil {
		return wire.Issue{}, err
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Issue{}, err
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return wire.Issue{}, err
	}
	return t.Issue(i, faults, a.ID, a.may(Writes, d, nil)), nil
}

// StepIssue carries out the named step of an issue: take, next, try, wait, give, remedy, close or
// reopen.
func (s *Service) StepIssue(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue], name string, in wire.IssueStep, r Request) (wire.Issue, error) {
	step, known := remedy.Find(name)
	if !known {
		return wire.Issue{}, refuse("no-such-page")
	}
	given := remedy.Given{By: a.ID, At: dossier.At(r.doneAt(s.now())), Try: newID(), NextStep: in.NextStep, What: in.What, Showed: in.Showed, On: in.On, Until: in.Until,
		Cause: in.Cause, Remedy: in.Remedy, Why: in.Why, With: in.With, Fault: in.Fault, FaultAt: in.FaultAt}
	if in.Fault != "" {
		faults, err := s.faults(ctx)
		if err != nil {
			return wire.Issue{}, err
		}
		if faults.Mode(in.Fault) == nil {
			return wire.Issue{}, refuse("unknown-fault", "id", in.Fault)
		}
	}
	if in.To != "" {
		people, err := s.staff(ctx)
		if err != nil {
			return wire.Issue{}, err
		}
		to, err := receiver(people, in.To)
		if err != nil {
			return wire.Issue{}, err
		}
		given.To = to.ID
	}
	w, err := s.write(ctx, a, name+"-issue", code, in.Why, r, func(d *dossier.Dossier) error {
		i := d.Issues.Find(id)
		if i == nil {
			return refuse("no-such-record", "kind", "issue", "id", string(id))
		}
		return step.Take(d, i, given)
	})
	if err != nil {
		return wire.Issue{}, err
	}
	return s.issueView(ctx, a, w.Dossier, id)
}
