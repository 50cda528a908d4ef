package service

import (
	"context"
	"slices"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
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
			if err := openFrom(h, d, &i, in.Test); err != nil {
				return err
			}
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

// openFrom takes along the newest failed attempt of the test that the issue is opened from. A test that
// has not failed is the one that will prove the remedy: a call tells of a symptom before anybody tried.
func openFrom(h *assess.Assessment, d *dossier.Dossier, i *dossier.Issue, test string) error {
	st, ok := h.Test(test)
	if !ok {
		return refuse("no-such-test", "id", test)
	}
	if st.Status == proving.Failed || st.Status == proving.Marginal {
		i.FailedAttempt = st.Attempt
	} else {
		i.Test = test
	}
	if len(i.Subjects) == 0 {
		i.Subjects = st.Test.Subjects
	}
	return nil
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
	t, err := s.tester(ctx, h)
	if err != nil {
		return wire.Issue{}, err
	}
	return t.issue(a, i), nil
}

// issue says an issue with the steps that the actor can take.
func (t tester) issue(a Actor, i dossier.Issue) wire.Issue {
	d, people := t.Dossier, t.people
	out := wire.Issue{Record: i, Owner: people.name(i.Owner), OpenedBy: people.name(i.OpenedBy), Subjects: []wire.Named{}, TriedBy: []string{}, StepsTaken: []string{}}
	for _, r := range i.Subjects {
		out.Subjects = append(out.Subjects, named(d, r))
	}
	for _, try := range i.Tries {
		out.TriedBy = append(out.TriedBy, people.name(try.By))
	}
	if st, ok := t.Test(proving.TestOf(d, i)); ok {
		said := t.test(st)
		out.Test = &said
	}
	_, out.CanClose = proofOf(d, i)
	if a.may(Writes, d, nil) {
		for _, step := range issueSteps {
			if slices.Contains(step.from, i.State) && !(step.name == "take" && i.State == dossier.IssueInHand && i.Owner == a.ID) {
				out.StepsTaken = append(out.StepsTaken, step.name)
			}
		}
	}
	return out
}

// proofOf returns the newest attempt that proves the remedy.
func proofOf(d *dossier.Dossier, i dossier.Issue) (dossier.ID[dossier.Attempt], bool) {
	if i.State != dossier.IssueRemedied {
		return "", false
	}
	for _, a := range slices.Backward(d.Attempts) {
		if proves(d, i, a) {
			return a.ID, true
		}
	}
	return "", false
}

// issueStep is one use-case of an issue: from which states, and what it does.
type issueStep struct {
	name string
	from []dossier.IssueState
	do   func(time.Time, Actor, *dossier.Dossier, *dossier.Issue, wire.IssueStep, staff) error
}

var (
	notClosed = []dossier.IssueState{dossier.IssueOpen, dossier.IssueInHand, dossier.IssueWaiting, dossier.IssueRemedied}
	workable  = []dossier.IssueState{dossier.IssueOpen, dossier.IssueInHand, dossier.IssueWaiting}
)

var issueSteps = []issueStep{
	{"take", notClosed, func(_ time.Time, a Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.Owner = a.ID
		if i.State != dossier.IssueRemedied {
			i.State, i.WaitingOn = dossier.IssueInHand, ""
		}
		if in.NextStep != "" {
			i.NextStep = in.NextStep
		}
		return nil
	}},
	{"next", notClosed, func(_ time.Time, _ Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.NextStep = in.NextStep
		return need("/nextStep", in.NextStep)
	}},
	{"try", notClosed, func(at time.Time, a Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.Tries = append(i.Tries, dossier.Try{ID: newID(), At: at, By: a.ID, What: in.What, Showed: in.Showed})
		return need("/what", in.What)
	}},
	{"wait", workable, func(_ time.Time, _ Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.State, i.WaitingOn, i.PromisedUntil = dossier.IssueWaiting, in.On, in.Until
		return need("/on", in.On)
	}},
	{"give", notClosed, func(_ time.Time, _ Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, people staff) error {
		to, err := people.receiver(in.To)
		i.Owner = to.ID
		return err
	}},
	{"remedy", workable, func(at time.Time, _ Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.State, i.Remedy, i.Cause, i.RemediedAt, i.WaitingOn = dossier.IssueRemedied, in.Remedy, in.Cause, at, ""
		return need("/remedy", in.Remedy)
	}},
	{"close", notClosed, func(at time.Time, _ Actor, d *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		proof, proven := proofOf(d, *i)
		if !proven && in.Why == "" {
			return refuse("no-proof")
		}
		i.State, i.Proof, i.ClosedWhy, i.ClosedAt = dossier.IssueClosed, proof, in.Why, at
		return nil
	}},
	{"reopen", []dossier.IssueState{dossier.IssueRemedied, dossier.IssueClosed}, func(_ time.Time, _ Actor, _ *dossier.Dossier, i *dossier.Issue, in wire.IssueStep, _ staff) error {
		i.State, i.Proof, i.ClosedWhy = dossier.IssueOpen, "", ""
		i.ClosedAt, i.RemediedAt = time.Time{}, time.Time{}
		return need("/why", in.Why)
	}},
}

func need(pointer, value string) error {
	if value == "" {
		return dossier.Faults{{Pointer: pointer, Code: dossier.FaultRequired}}
	}
	return nil
}

// StepIssue carries out the named step of an issue: take, next, try, wait, give, remedy, close or
// reopen.
func (s *Service) StepIssue(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue], name string, in wire.IssueStep, r Request) (wire.Issue, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Issue{}, err
	}
	n := slices.IndexFunc(issueSteps, func(st issueStep) bool { return st.name == name })
	if n < 0 {
		return wire.Issue{}, refuse("no-such-page")
	}
	step := issueSteps[n]
	w, err := s.write(ctx, a, name+"-issue", code, in.Why, r, func(d *dossier.Dossier) error {
		i := d.Issues.Find(id)
		if i == nil {
			return refuse("no-such-record", "kind", "issue", "id", string(id))
		}
		if !slices.Contains(step.from, i.State) {
			return refuse("wrong-state", "label", "The issue \""+i.Symptom+"\"", "state", string(i.State), "needed", stateList(step.from))
		}
		return step.do(dossier.At(r.doneAt(s.now())), a, d, i, in, people)
	})
	if err != nil {
		return wire.Issue{}, err
	}
	return s.issueView(ctx, a, w.Dossier, id)
}

func stateList[S ~string](states []S) string {
	out := ""
	for n, st := range states {
		switch {
		case n > 0 && n == len(states)-1:
			out += " or "
		case n > 0:
			out += ", "
		}
		out += string(st)
	}
	return out
}
