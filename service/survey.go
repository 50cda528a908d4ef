package service

import (
	"context"
	"slices"

	"kaiku/core/dossier"
	"kaiku/core/survey"
	"kaiku/views"
	"kaiku/wire"
)

// Survey returns the walk through a home with what is missing and found in each room, and what is
// known of its network.
func (s *Service) Survey(ctx context.Context, a Actor, code string) (wire.Survey, error) {
	h, err := s.read(ctx, a, "show-survey", code)
	if err != nil {
		return wire.Survey{}, err
	}
	d := h.Dossier
	out := wire.Survey{Revision: d.Revision, Network: views.OneNetwork(d, h.Union), Lines: []wire.LineReach{}, MayWrite: a.may(Writes, d, nil)}
	people, err := s.staff(ctx)
	if err != nil {
		return out, err
	}
	for _, r := range h.Outside {
		out.Lines = append(out.Lines, views.Line(d, r))
	}
	found := survey.ByRoom(d, h.Findings)
	for _, stop := range h.Walk {
		one := views.Stop(d, stop, found[stop.Room], people)
		out.Missing += len(one.Gaps)
		out.Stops = append(out.Stops, one)
	}
	return out, nil
}

// AnswerGap stores that nothing is to be recorded for a gap of the survey, and who said so, or
// withdraws that.
func (s *Service) AnswerGap(ctx context.Context, a Actor, code string, in wire.AnswerGap, r Request) error {
	_, err := s.write(ctx, a, "answer-gap", code, in.Note, r, func(d *dossier.Dossier) error {
		i := slices.IndexFunc(d.GapAnswers, func(g dossier.GapAnswer) bool { return g.Gap == in.Code && g.Subject == in.About })
		if i >= 0 {
			d.GapAnswers.Delete(d.GapAnswers[i].ID)
		}
		if in.Answer == "" {
			if i < 0 {
				return refuse("no-such-gap", "gap", in.Code)
			}
			return nil
		}
		open := slices.ContainsFunc(survey.Walk(d.Index()), func(stop survey.Stop) bool {
			return slices.Contains(stop.Gaps, survey.Gap{Code: in.Code, Subject: in.About})
		})
		if !open {
			return refuse("no-such-gap", "gap", in.Code)
		}
		g := dossier.GapAnswer{Gap: in.Code, Subject: in.About, Answer: in.Answer, Note: in.Note, By: a.ID, At: dossier.At(r.doneAt(s.now()))}
		g.ID = dossier.ID[dossier.GapAnswer](newID())
		d.GapAnswers.Put(g)
		return nil
	})
	return err
}
