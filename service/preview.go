package service

import (
	"context"
	"encoding/json"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/views"
	"kaiku/wire"
)

// Step is one change of several: what is done, and the record it is done to.
type Step struct {
	Verb dossier.Verb
	Change
}

// Steps are changes that are made one after the other: read makes the n-th from the home as those before left it.
type Steps struct {
	N    int
	Read func(n int, d *dossier.Dossier) (Step, error)
}

type supposedKey struct{}

// Supposing returns a context in which homes are read as if these changes had been made. Nothing is written.
func Supposing(ctx context.Context, steps Steps) context.Context {
	return context.WithValue(ctx, supposedKey{}, steps)
}

func supposed(ctx context.Context) (Steps, bool) {
	steps, is := ctx.Value(supposedKey{}).(Steps)
	return steps, is
}

// suppose returns the home as it would be after the changes, checked as if it were written.
func (s *Service) suppose(ctx context.Context, a Actor, before *dossier.Dossier, steps Steps) (*dossier.Dossier, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	next := before.Clone()
	if _, err := steps.make(next, people); err != nil {
		return nil, err
	}
	s.completes(before, next, s.now())
	if faults := dossier.Settle(before, next); len(faults) > 0 {
		return nil, faults
	}
	entries, err := dossier.Seal(before, next, dossier.Cause{Actor: a.ID, At: s.now()})
	if err != nil {
		return nil, err
	}
	if faults := dossier.Check(next, entries); len(faults) > 0 {
		return nil, faults
	}
	return next, nil
}

// make makes the changes in a home, and returns what they are about.
func (steps Steps) make(d *dossier.Dossier, people views.People) ([]Step, error) {
	var made []Step
	for n := range steps.N {
		one, err := steps.Read(n, d)
		if err != nil {
			return made, err
		}
		if one.Verb == dossier.Remove {
			dossier.RemoveRecord(d, dossier.Ref{Kind: one.Kind.Name, ID: one.ID})
			made = append(made, one)
			continue
		}
		if err := one.resolvePeople(people); err != nil {
			return made, err
		}
		if one.ID == "" {
			one.ID = newID()
		}
		if one.Verb == dossier.Add && d.Has(dossier.Ref{Kind: one.Kind.Name, ID: one.ID}) {
			return made, refuse("id-taken", "id", one.ID)
		}
		dossier.SetID(one.Record, one.ID)
		one.Kind.In(d).PutAny(one.Record)
		made = append(made, one)
	}
	return made, nil
}

// Preview tells what changes would do to what is proven, without storing them.
func (s *Service) Preview(ctx context.Context, a Actor, code string, steps Steps) (wire.Preview, error) {
	before, err := s.read(ctx, a, "preview-changes", code)
	if err != nil {
		return wire.Preview{}, err
	}
	next, err := s.suppose(ctx, a, before.Dossier, steps)
	if err != nil {
		return wire.Preview{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Preview{}, err
	}
	return views.Preview(before, views.New(assess.Assess(next, before.Knowledge, s.now()), people, nil)), nil
}

// MakeSupposed makes several changes in one write: all of them or none. What others changed in one of these records since the
// revision asOf is not written over.
func (s *Service) MakeSupposed(ctx context.Context, a Actor, code string, asOf uint64, steps Steps, r Request) (wire.Made, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Made{}, err
	}
	var out wire.Made
	r.answer = func() ([]byte, error) { return json.Marshal(out) }
	w, err := s.write(ctx, a, "make-supposed", code, "supposed, then made", r, func(d *dossier.Dossier) error {
		before := d.Clone()
		made, err := steps.make(d, people)
		if err != nil {
			return err
		}
		for _, one := range made {
			if err := a.require(string(one.Verb)+"-"+one.Kind.Name, before, nil); err != nil {
				return err
			}
			if was, there := one.Kind.In(before).Lookup(one.ID); there && was.Changed() > asOf {
				return refuse("record-changed", "by", "Somebody", "label", one.Kind.Label(before, was))
			}
		}
		out = wire.Made{Revision: d.Revision + 1, Records: []wire.Named{}}
		for _, one := range made {
			if ref := (dossier.Ref{Kind: one.Kind.Name, ID: one.ID}); d.Has(ref) && !slices.ContainsFunc(out.Records, func(n wire.Named) bool { return n.ID == ref.ID }) {
				out.Records = append(out.Records, views.Named(d, ref))
			}
		}
		return nil
	})
	switch {
	case err != nil:
		return wire.Made{}, err
	case len(w.Answer) > 0: // a repeated request is answered as the first one was
		out = wire.Made{}
		return out, json.Unmarshal(w.Answer, &out)
	}
	out.Revision = w.Dossier.Revision // which is the old one where nothing differed
	return out, nil
}
