package service

import (
	"context"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Step is one change of a preview: what is done, and the record it is done to.
type Step struct {
	Verb dossier.Verb
	Change
}

// Preview tells what a change would do to what is proven, without storing it: it assesses a changed
// copy of the home. Each step is made from the copy as the steps before left it.
func (s *Service) Preview(ctx context.Context, a Actor, code string, steps int, step func(n int, d *dossier.Dossier) (Step, error)) (wire.Preview, error) {
	before, err := s.read(ctx, a, "preview-changes", code)
	if err != nil {
		return wire.Preview{}, err
	}
	next := before.Clone()
	for n := range steps {
		one, err := step(n, next)
		if err != nil {
			return wire.Preview{}, err
		}
		if one.Verb == dossier.Remove {
			dossier.RemoveRecord(next, dossier.Ref{Kind: one.Kind.Name, ID: one.ID})
			continue
		}
		if err := s.resolvePeople(ctx, one.Change); err != nil {
			return wire.Preview{}, err
		}
		if one.ID == "" {
			one.ID = newID()
		}
		dossier.SetID(one.Record, one.ID)
		one.Kind.In(next).PutAny(one.Record)
	}
	if faults := dossier.Settle(before.Dossier, next); len(faults) > 0 {
		return wire.Preview{}, faults
	}
	entries, err := dossier.Seal(before.Dossier, next, dossier.Cause{Actor: a.ID, At: s.now()})
	if err != nil {
		return wire.Preview{}, err
	}
	if faults := dossier.Check(next, entries); len(faults) > 0 {
		return wire.Preview{}, faults
	}
	after := assess.Assess(next, before.Knowledge, s.now())
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Preview{}, err
	}
	return previewOf(before, tester{Assessment: after, people: people}), nil
}

// previewOf compares two assessments of one home.
func previewOf(before *assess.Assessment, after tester) wire.Preview {
	out := wire.Preview{Before: before.Coverage, After: after.Coverage, Stale: []wire.PreviewTest{}, InDoubt: []wire.PreviewTest{}, Proven: []wire.PreviewTest{}, Asked: []wire.PreviewTest{}, Dropped: []wire.PreviewTest{},
		Found: findingsSaid(after.Dossier, without(after.Findings, before.Findings)), Gone: findingsSaid(before.Dossier, without(before.Findings, after.Findings))}
	good := func(s proving.Status) bool { return s == proving.Proven || s == proving.Marginal }
	var lost []proving.TestStatus
	for _, st := range after.Statuses {
		was, planned := before.Test(st.Test.ID())
		one := wire.PreviewTest{ID: st.Test.ID(), Title: wording.Tests[st.Test.Kind.Name].Title, About: named(after.Dossier, st.Test.Subjects[0]), Required: st.Test.Required}
		switch {
		case !planned:
			if st.Test.Required {
				out.Asked = append(out.Asked, one)
			}
		case good(was.Status) && st.Status == proving.Stale:
			said := after.test(st)
			one.Sentence = said.Changes[0].Sentence
			out.Stale = append(out.Stale, one)
			lost = append(lost, st)
		case good(was.Status) && st.Status == proving.InDoubt:
			one.Sentence = after.test(st).Doubts[0].Sentence
			out.InDoubt = append(out.InDoubt, one)
			lost = append(lost, st)
		case !good(was.Status) && st.Status == proving.Proven:
			out.Proven = append(out.Proven, one)
		}
	}
	for _, was := range before.Statuses {
		if _, planned := after.Test(was.Test.ID()); !planned && good(was.Status) {
			out.Dropped = append(out.Dropped, wire.PreviewTest{ID: was.Test.ID(), Title: wording.Tests[was.Test.Kind.Name].Title, About: named(before.Dossier, was.Test.Subjects[0]), Required: was.Test.Required})
		}
	}
	required := slices.DeleteFunc(slices.Clone(lost), func(s proving.TestStatus) bool { return !s.Test.Required })
	steps, minutes := after.Plan.Reproof(required)
	out.Again, out.Minutes = after.steps(steps), minutes
	out.Sentence = wording.Preview(len(out.Stale), len(out.InDoubt), len(out.Proven), minutes)
	return out
}

// without returns the findings that have no like among the others.
func without(list, others []network.Finding) []network.Finding {
	return slices.DeleteFunc(slices.Clone(list), func(f network.Finding) bool { return f.Among(others) })
}
