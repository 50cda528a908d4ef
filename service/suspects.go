package service

import (
	"context"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/suspects"
	"kaiku/wire"
)

// Suspects works out which faults would explain what is known of a home, and what to ask or try next: of an issue with what its caller said and since
// when it is so, or, where none is named, of the home as it stands.
func (s *Service) Suspects(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue]) (wire.Suspects, error) {
	h, err := s.read(ctx, a, "list-suspects", code)
	if err != nil {
		return wire.Suspects{}, err
	}
	about := suspects.Case{Home: h.Index, Plan: h.Plan, Statuses: h.Statuses, Findings: h.Findings, Load: h.Load(), Faults: suspects.Shipped(), OnSite: s.OnSite(), Now: h.Now}
	if id != "" {
		i, ok := h.Issues.Get(id)
		if !ok {
			return wire.Suspects{}, refuse("no-such-record", "kind", "issue", "id", string(id))
		}
		about.Answers, about.Since = i.Answers, i.Since
		if about.Since.IsZero() {
			about.Since = i.OpenedAt
		}
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Suspects{}, err
	}
	return t.Suspects(suspects.Of(about), about.Faults, about.Answers), nil
}

// AnswerIssue notes what the caller said to one question, in place of what was said to it before, or takes an answer back.
func (s *Service) AnswerIssue(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue], in wire.IssueAnswer, r Request) (wire.Suspects, error) {
	if !suspects.Shipped().Known(in.Question) {
		return wire.Suspects{}, refuse("no-such-question", "question", in.Question)
	}
	_, err := s.write(ctx, a, "answer-issue", code, "", r, func(d *dossier.Dossier) error {
		i := d.Issues.Find(id)
		if i == nil {
			return refuse("no-such-record", "kind", "issue", "id", string(id))
		}
		if i.State == dossier.IssueClosed {
			return refuse("issue-closed")
		}
		if strings.HasPrefix(in.Question, suspects.LookAt) {
			if !d.Has(in.About) {
				return refuse("no-such-record", "kind", in.About.Kind, "id", in.About.ID)
			}
		} else if suspects.NeedsPath(in.Question) {
			if _, there := d.Paths.Get(dossier.ID[dossier.Path](in.About.ID)); !there || in.About.Kind != "path" {
				return refuse("answer-without-path", "question", in.Question)
			}
		} else {
			in.About = dossier.Ref{}
		}
		same := func(x dossier.Answered) bool { return x.Question == in.Question && x.About == in.About }
		i.Answers = slices.DeleteFunc(slices.Clone(i.Answers), same)
		if !in.TakenBack {
			i.Answers = append(i.Answers, dossier.Answered{Question: in.Question, About: in.About, Said: in.Said, By: a.ID, At: dossier.At(r.doneAt(s.now()))})
		}
		return nil
	})
	if err != nil {
		return wire.Suspects{}, err
	}
	return s.Suspects(ctx, a, code, id)
}
