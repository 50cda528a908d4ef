package custody

import (
	"slices"
	"strconv"
	"time"

	"kaiku/core/dossier"
)

// Told is what a handover tells: the points, and the revisions they lie between.
type Told struct {
	Since, Until uint64
	Points       []dossier.Point
}

// Given is what comes with a step of a handover; each step takes what it needs of it.
type Given struct {
	At                    time.Time
	Points                []string // ids of points
	Question, Answer, Why string
	Told                  Told // for an offer
}

// Step is one step of a handover, and the states from which it can be taken.
type Step struct {
	Name string
	From []dossier.HandoverState
	do   func(*dossier.Dossier, *dossier.Handover, Given) error
}

// Offerable are the states in which a handover can be offered.
var Offerable = []dossier.HandoverState{dossier.Drafted, dossier.Returned, dossier.Outdated}

var onOffer = []dossier.HandoverState{dossier.Offered}

// Steps lists the steps of a handover.
var Steps = []Step{
	{"offer", Offerable, offer},
	{"answer", []dossier.HandoverState{dossier.Returned}, func(_ *dossier.Dossier, h *dossier.Handover, in Given) error {
		return eachPoint(h, in, func(p *dossier.Point) error {
			p.Answer = in.Answer
			return dossier.Needs("/answer", in.Answer)
		})
	}},
	{"confirm", onOffer, func(_ *dossier.Dossier, h *dossier.Handover, in Given) error {
		return eachPoint(h, in, func(p *dossier.Point) error {
			p.Confirmed = true
			return nil
		})
	}},
	{"ask", onOffer, func(_ *dossier.Dossier, h *dossier.Handover, in Given) error {
		return eachPoint(h, in, func(p *dossier.Point) error {
			p.Confirmed, p.Question, p.Answer = false, in.Question, ""
			return dossier.Needs("/question", in.Question)
		})
	}},
	{"accept", onOffer, accept},
	{"return", onOffer, func(_ *dossier.Dossier, h *dossier.Handover, in Given) error {
		asked := slices.ContainsFunc(h.Points, func(p dossier.Point) bool { return p.Question != "" && p.Answer == "" })
		if !asked && in.Why == "" {
			return dossier.Refuse("nothing-asked")
		}
		h.State, h.ReturnedWhy, h.EndedAt = dossier.Returned, in.Why, in.At
		return nil
	}},
}

// FindStep returns the step of that name.
func FindStep(name string) (Step, bool) {
	n := slices.IndexFunc(Steps, func(s Step) bool { return s.Name == name })
	if n < 0 {
		return Step{}, false
	}
	return Steps[n], true
}

// Take changes the handover by the step, or says why not. An error may leave the handover changed.
func (s Step) Take(d *dossier.Dossier, h *dossier.Handover, in Given) error {
	if err := dossier.InState(h.ID.Ref(), h.State, s.From); err != nil {
		return err
	}
	return s.do(d, h, in)
}

// Draft makes a handover of a home from its custodian to someone else. One that is on offer has to be
// answered first.
func Draft(d *dossier.Dossier, to dossier.PersonID, t Told, at time.Time) (dossier.Handover, error) {
	if last, ok := Latest(d); ok && last.State == dossier.Offered {
		return dossier.Handover{}, dossier.Refuse("handover-on-offer")
	}
	return dossier.Handover{From: d.Home().Custodian, To: to, State: dossier.Drafted, DraftedAt: at,
		SinceRevision: t.Since, UntilRevision: t.Until, Points: t.Points}, nil
}

// Closed is the refusal of an offer that gates hold back.
type Closed []Gate

func (c Closed) Error() string { return "refused: gates hold the handover back" }

// offer puts the handover before its receiver, with the points as they are now; answers to
// questions that were asked before are kept.
func offer(d *dossier.Dossier, h *dossier.Handover, in Given) error {
	if gates := Gates(d); len(gates) > 0 {
		return Closed(gates)
	}
	if h.From != d.Home().Custodian {
		return dossier.Refuse("not-the-custodian")
	}
	earlier := h.Points
	h.Points = slices.Clone(in.Told.Points)
	for n := range h.Points {
		p := &h.Points[n]
		for _, e := range earlier {
			if tellsOf(e, *p) {
				p.Question, p.Answer = e.Question, e.Answer
			}
		}
	}
	h.SinceRevision, h.UntilRevision = in.Told.Since, in.Told.Until
	h.State, h.OfferedAt, h.ReturnedWhy, h.EndedAt = dossier.Offered, in.At, "", time.Time{}
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
func accept(d *dossier.Dossier, h *dossier.Handover, in Given) error {
	open := 0
	for _, p := range h.Points {
		if !p.Confirmed {
			open++
		}
	}
	if open > 0 {
		return dossier.Refuse("points-open", "n", strconv.Itoa(open))
	}
	h.State, h.EndedAt = dossier.Accepted, in.At
	d.Household[0].Custodian = h.To
	for n := range d.Issues {
		if i := &d.Issues[n]; i.Owner == h.From && i.State != dossier.IssueClosed {
			i.Owner = h.To
		}
	}
	return nil
}

// eachPoint does something with each of the points that are named, of which there must be one.
func eachPoint(h *dossier.Handover, in Given, do func(*dossier.Point) error) error {
	for _, id := range in.Points {
		n := slices.IndexFunc(h.Points, func(p dossier.Point) bool { return p.ID == id })
		if n < 0 {
			return dossier.Refuse("no-such-record", "kind", "point", "id", id)
		}
		if err := do(&h.Points[n]); err != nil {
			return err
		}
	}
	if len(in.Points) == 0 {
		return dossier.Needs("/point", "")
	}
	return nil
}
