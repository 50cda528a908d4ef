package service

import (
	"context"
	"fmt"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// DraftHandover drafts the handover of a home from its custodian to someone else, with the
// points that the journal since the last accepted handover gives.
func (s *Service) DraftHandover(ctx context.Context, a Actor, code string, in wire.NewHandover, r Request) (wire.Handover, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Handover{}, err
	}
	to, err := receiver(people, in.To)
	if err != nil {
		return wire.Handover{}, err
	}
	if in.ID == "" {
		in.ID = dossier.ID[dossier.Handover](newID())
	}
	told, err := s.tell(ctx, code, in.Since)
	if err != nil {
		return wire.Handover{}, err
	}
	if in.Since > 0 && (a.Role != Lead && a.Role != Coordinator || told.Since != in.Since) {
		return wire.Handover{}, refuse("no-baseline")
	}
	w, err := s.write(ctx, a, "draft-handover", code, "", r, func(d *dossier.Dossier) error {
		if d.Home().Custodian == to.ID {
			return refuse("same-person", "name", to.Name)
		}
		h, err := custody.Draft(d, to.ID, told, dossier.At(s.now()))
		if err != nil {
			return err
		}
		h.Note = in.Note
		h.ID = in.ID
		d.Handovers.Put(h)
		return nil
	})
	if err != nil {
		return wire.Handover{}, err
	}
	if w.Repeated != (dossier.Ref{}) {
		in.ID = dossier.ID[dossier.Handover](w.Repeated.ID)
	}
	return s.handoverView(ctx, a, w.Dossier, in.ID)
}

// tell computes the points from the journal since the last accepted handover or, where there was none,
// since the baseline.
func (s *Service) tell(ctx context.Context, code string, baseline uint64) (custody.Told, error) {
	d, err := s.home(ctx, code)
	if err != nil {
		return custody.Told{}, err
	}
	t := custody.Told{Until: d.Revision, Since: baseline}
	for _, h := range d.Handovers {
		if h.State == dossier.Accepted {
			t.Since = h.UntilRevision
		}
	}
	before, entries, err := s.store.At(ctx, d.Home().ID, t.Since)
	if err != nil {
		return custody.Told{}, fmt.Errorf("replay the journal of %s: %w", code, err)
	}
	h, err := s.assess(ctx, d)
	if err != nil {
		return custody.Told{}, err
	}
	t.Points = custody.Points(assess.Assess(before, knowledge.Knowledge{}, s.now()).State, h.State, entries)
	return t, nil
}

// Handover returns a handover with names, sentences, and the steps the actor can take.
func (s *Service) Handover(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Handover]) (wire.Handover, error) {
	d, err := s.Home(ctx, a, "view-handover", code)
	if err != nil {
		return wire.Handover{}, err
	}
	return s.handoverView(ctx, a, d, id)
}

// handover says a handover as the actor may act on it.
func (a Actor) handover(d *dossier.Dossier, h dossier.Handover, people views.People) wire.Handover {
	return views.Handover(d, h, people, func(step string) bool {
		right, _ := RightOf(step + "-handover")
		return a.may(right, d, &h)
	})
}

func (s *Service) handoverView(ctx context.Context, a Actor, d *dossier.Dossier, id dossier.ID[dossier.Handover]) (wire.Handover, error) {
	h, ok := d.Handovers.Get(id)
	if !ok {
		return wire.Handover{}, refuse("no-such-record", "kind", "handover", "id", string(id))
	}
	people, err := s.staff(ctx)
	return a.handover(d, h, people), err
}

// StepHandover carries out the named step: offer, answer, confirm, ask, accept or return.
func (s *Service) StepHandover(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Handover], name string, in wire.HandoverStep, r Request) (wire.Handover, error) {
	step, known := custody.FindStep(name)
	if !known {
		return wire.Handover{}, refuse("no-such-page")
	}
	operation := name + "-handover"
	given := custody.Given{At: dossier.At(s.now()), Points: in.Points, Question: in.Question, Answer: in.Answer, Why: in.Why}
	if in.Point != "" {
		given.Points = append(slices.Clone(in.Points), in.Point)
	}
	var w store.Written
	err := s.steadily(ctx, code, func(ctx context.Context) error {
		if name == "offer" {
			d, err := s.home(ctx, code)
			if err != nil {
				return err
			}
			drafted, _ := d.Handovers.Get(id)
			if given.Told, err = s.tell(ctx, code, drafted.SinceRevision); err != nil {
				return err
			}
		}
		var err error
		w, err = s.write(ctx, a, operation, code, in.Why, r, func(d *dossier.Dossier) error {
			h := d.Handovers.Find(id)
			if h == nil {
				return refuse("no-such-record", "kind", "handover", "id", string(id))
			}
			if err := a.require(operation, d, h); err != nil {
				return err
			}
			if name == "offer" && d.Revision != given.Told.Until {
				return errMoved
			}
			return step.Take(d, h, given)
		})
		return err
	})
	if err != nil {
		return wire.Handover{}, err
	}
	return s.handoverView(ctx, a, w.Dossier, id)
}
