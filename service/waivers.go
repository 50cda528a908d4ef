package service

import (
	"context"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/views"
	"kaiku/wire"
)

// WaiveTest sets a required test aside, with the reason. A second waiver of one test takes
// the place of the first.
func (s *Service) WaiveTest(ctx context.Context, a Actor, code string, in wire.NewWaiver, r Request) (wire.Test, error) {
	w, err := s.write(ctx, a, "waive-test", code, in.Why, r, func(d *dossier.Dossier) error {
		t, ok := proving.NewPlan(d.Index()).Find(in.Test)
		if !ok {
			return refuse("no-such-test", "id", in.Test)
		}
		made := dossier.Waiver{Test: t.Kind.Name, Subjects: t.Subjects, Why: in.Why, Until: in.Until, By: a.ID, At: dossier.At(s.now())}
		made.ID = dossier.ID[dossier.Waiver](newID())
		if old, ok := views.WaiverOf(d, in.Test); ok {
			made.ID = old.ID
		}
		d.Waivers.Put(made)
		return nil
	})
	if err != nil {
		return wire.Test{}, err
	}
	return s.testNow(ctx, w.Dossier, in.Test)
}

// RequireTest ends the waiver of a test.
func (s *Service) RequireTest(ctx context.Context, a Actor, code, test string, r Request) (wire.Test, error) {
	w, err := s.write(ctx, a, "require-test", code, "", r, func(d *dossier.Dossier) error {
		e, ok := views.WaiverOf(d, test)
		if !ok {
			return refuse("not-waived", "id", test)
		}
		d.Waivers.Delete(e.ID)
		return nil
	})
	if err != nil {
		return wire.Test{}, err
	}
	return s.testNow(ctx, w.Dossier, test)
}

// testNow returns where one test stands.
func (s *Service) testNow(ctx context.Context, d *dossier.Dossier, test string) (wire.Test, error) {
	h, err := s.assess(ctx, d)
	if err != nil {
		return wire.Test{}, err
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Test{}, err
	}
	st, ok := h.Test(test)
	if !ok {
		return wire.Test{}, refuse("no-such-test", "id", test)
	}
	return t.Test(st), nil
}
