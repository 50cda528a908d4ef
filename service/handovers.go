package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/wire"
	"kaiku/wording"
)

// DraftHandover drafts the handover of a home from its custodian to someone else, with the
// points that the journal since the last accepted handover gives.
func (s *Service) DraftHandover(ctx context.Context, a Actor, code string, in wire.NewHandover, r Request) (wire.Handover, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Handover{}, err
	}
	to, err := people.receiver(in.To)
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
	if in.Since > 0 && (a.Role != Lead && a.Role != Coordinator || told.since != in.Since) {
		return wire.Handover{}, refuse("no-baseline")
	}
	w, err := s.write(ctx, a, "draft-handover", code, "", r, func(d *dossier.Dossier) error {
		if d.Home().Custodian == to.ID {
			return refuse("same-person", "name", to.Name)
		}
		if last, ok := custody.Latest(d); ok && last.State == dossier.Offered {
			return refuse("wrong-state", "label", "The last handover", "state", "offered", "needed", "answered by its receiver")
		}
		h := dossier.Handover{From: d.Home().Custodian, To: to.ID, State: dossier.Drafted, Note: in.Note, DraftedAt: dossier.At(s.now()),
			SinceRevision: told.since, UntilRevision: told.until, Points: told.points}
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

// told is what a handover tells: the points, and the revisions they lie between.
type told struct {
	since, until uint64
	points       []dossier.Point
}

// tell computes the points from the journal since the last accepted handover or, where there was none,
// since the baseline.
func (s *Service) tell(ctx context.Context, code string, baseline uint64) (told, error) {
	d, err := s.home(ctx, code)
	if err != nil {
		return told{}, err
	}
	t := told{until: d.Revision, since: baseline}
	for _, h := range d.Handovers {
		if h.State == dossier.Accepted {
			t.since = h.UntilRevision
		}
	}
	before, entries, err := s.store.At(ctx, d.Home().ID, t.since)
	if err != nil {
		return told{}, fmt.Errorf("replay the journal of %s: %w", code, err)
	}
	h, err := s.assess(ctx, d)
	if err != nil {
		return told{}, err
	}
	t.points = custody.Points(assess.Assess(before, knowledge.Knowledge{}, s.now()).State, h.State, entries)
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

func (s *Service) handoverView(ctx context.Context, a Actor, d *dossier.Dossier, id dossier.ID[dossier.Handover]) (wire.Handover, error) {
	h, ok := d.Handovers.Get(id)
	if !ok {
		return wire.Handover{}, refuse("no-such-record", "kind", "handover", "id", string(id))
	}
	people, err := s.staff(ctx)
	return handoverOf(a, d, h, people), err
}

func handoverOf(a Actor, d *dossier.Dossier, h dossier.Handover, people staff) wire.Handover {
	out := wire.Handover{Record: h, From: people.get(h.From), To: people.get(h.To), Points: []wire.Point{}, StepsOK: []string{}}
	for _, p := range h.Points {
		out.Points = append(out.Points, wire.Point{Point: p, Sentence: wording.Point(p)})
		if !p.Confirmed {
			out.Unread++
		}
	}
	if slices.Contains(offerable, h.State) {
		for _, g := range custody.Gates(d) {
			said := wording.Gate(g)
			out.Gates = append(out.Gates, wire.Gate{Gate: g, Sentence: said.Sentence, Remedy: said.Remedy})
		}
	}
	for _, step := range handoverSteps {
		right, _ := RightOf(step.name + "-handover")
		if slices.Contains(step.from, h.State) && a.may(right, d, &h) {
			out.StepsOK = append(out.StepsOK, step.name)
		}
	}
	return out
}

type handoverStep struct {
	name string
	from []dossier.HandoverState
	do   func(*Service, *dossier.Dossier, *dossier.Handover, wire.HandoverStep, told) error
}

var (
	offerable = []dossier.HandoverState{dossier.Drafted, dossier.Returned, dossier.Outdated}
	onOffer   = []dossier.HandoverState{dossier.Offered}
)

var handoverSteps = []handoverStep{
	{"offer", offerable, (*Service).offer},
	{"answer", []dossier.HandoverState{dossier.Returned}, func(_ *Service, _ *dossier.Dossier, h *dossier.Handover, in wire.HandoverStep, _ told) error {
		p, err := pointOf(h, in.Point)
		if err != nil {
			return err
		}
		p.Answer = in.Answer
		return need("/answer", in.Answer)
	}},
	{"confirm", onOffer, func(_ *Service, _ *dossier.Dossier, h *dossier.Handover, in wire.HandoverStep, _ told) error {
		points := in.Points
		if in.Point != "" {
			points = append(slices.Clone(points), in.Point)
		}
		for _, id := range points {
			p, err := pointOf(h, id)
			if err != nil {
				return err
			}
			p.Confirmed = true
		}
		if len(points) == 0 {
			return need("/point", "")
		}
		return nil
	}},
	{"ask", onOffer, func(_ *Service, _ *dossier.Dossier, h *dossier.Handover, in wire.HandoverStep, _ told) error {
		p, err := pointOf(h, in.Point)
		if err != nil {
			return err
		}
		p.Confirmed, p.Question, p.Answer = false, in.Question, ""
		return need("/question", in.Question)
	}},
	{"accept", onOffer, (*Service).accept},
	{"return", onOffer, func(s *Service, _ *dossier.Dossier, h *dossier.Handover, in wire.HandoverStep, _ told) error {
		asked := slices.ContainsFunc(h.Points, func(p dossier.Point) bool { return p.Question != "" && p.Answer == "" })
		if !asked && in.Why == "" {
			return refuse("nothing-asked")
		}
		h.State, h.ReturnedWhy, h.EndedAt = dossier.Returned, in.Why, dossier.At(s.now())
		return nil
	}},
}

// offer puts the handover before its receiver, with the points as they are now; answers to
// questions that were asked before are kept.
func (s *Service) offer(d *dossier.Dossier, h *dossier.Handover, _ wire.HandoverStep, t told) error {
	if gates := custody.Gates(d); len(gates) > 0 {
		var all []string
		for _, g := range gates {
			said := wording.Gate(g)
			all = append(all, said.Sentence+" "+said.Remedy)
		}
		return refuse("gate-closed", "said", strings.Join(all, " "))
	}
	if h.From != d.Home().Custodian {
		return refuse("wrong-state", "label", "The home", "state", "in someone else's custody", "needed", "in the giver's custody")
	}
	earlier := h.Points
	h.Points = slices.Clone(t.points)
	for n := range h.Points {
		p := &h.Points[n]
		for _, e := range earlier {
			if tellsOf(e, *p) {
				p.Question, p.Answer = e.Question, e.Answer
			}
		}
	}
	h.SinceRevision, h.UntilRevision = t.since, t.until
	h.State, h.OfferedAt, h.ReturnedWhy, h.EndedAt = dossier.Offered, dossier.At(s.now()), "", time.Time{}
	return nil
}

// tellsOf reports whether two points, of an earlier offer and of this one, are about the same thing.
func tellsOf(a, b dossier.Point) bool {
	if a.Code != b.Code || a.Subject != b.Subject {
		return false
	}
	for _, name := range []string{"test", "finding", "kind", "area"} {
		if a.Values[name] != b.Values[name] {
			return false
		}
	}
	return true
}

// accept moves custody, and with it the giver's open issues, once every point is read back.
func (s *Service) accept(d *dossier.Dossier, h *dossier.Handover, _ wire.HandoverStep, _ told) error {
	open := 0
	for _, p := range h.Points {
		if !p.Confirmed {
			open++
		}
	}
	if open > 0 {
		return refuse("points-open", "n", wording.Agree(open, "point has", "points have"))
	}
	h.State, h.EndedAt = dossier.Accepted, dossier.At(s.now())
	d.Household[0].Custodian = h.To
	for n := range d.Issues {
		if i := &d.Issues[n]; i.Owner == h.From && i.State != dossier.IssueClosed {
			i.Owner = h.To
		}
	}
	return nil
}

func pointOf(h *dossier.Handover, id string) (*dossier.Point, error) {
	n := slices.IndexFunc(h.Points, func(p dossier.Point) bool { return p.ID == id })
	if n < 0 {
		return nil, refuse("no-such-record", "kind", "point", "id", id)
	}
	return &h.Points[n], nil
}

// StepHandover carries out the named step: offer, answer, confirm, ask, accept or return.
func (s *Service) StepHandover(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Handover], name string, in wire.HandoverStep, r Request) (wire.Handover, error) {
	n := slices.IndexFunc(handoverSteps, func(st handoverStep) bool { return st.name == name })
	if n < 0 {
		return wire.Handover{}, refuse("no-such-page")
	}
	step := handoverSteps[n]
	operation := name + "-handover"
	var t told
	if name == "offer" {
		d, err := s.home(ctx, code)
		if err != nil {
			return wire.Handover{}, err
		}
		drafted, _ := d.Handovers.Get(id)
		if t, err = s.tell(ctx, code, drafted.SinceRevision); err != nil {
			return wire.Handover{}, err
		}
	}
	w, err := s.write(ctx, a, operation, code, in.Why, r, func(d *dossier.Dossier) error {
		h := d.Handovers.Find(id)
		if h == nil {
			return refuse("no-such-record", "kind", "handover", "id", string(id))
		}
		if err := a.require(operation, d, h); err != nil {
			return err
		}
		if !slices.Contains(step.from, h.State) {
			return refuse("wrong-state", "label", "The handover", "state", string(h.State), "needed", stateList(step.from))
		}
		if name == "offer" && d.Revision != t.until {
			return errMoved
		}
		return step.do(s, d, h, in, t)
	})
	if errors.Is(err, errMoved) {
		return s.StepHandover(ctx, a, code, id, name, in, r) // someone wrote between telling and offering: tell again
	}
	if err != nil {
		return wire.Handover{}, err
	}
	return s.handoverView(ctx, a, w.Dossier, id)
}

var errMoved = errors.New("the home changed while the handover was being offered")
