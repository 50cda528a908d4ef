package service

import (
	"context"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/views"
	"kaiku/wire"
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
	return views.Preview(before, views.New(after, people, nil)), nil
}
