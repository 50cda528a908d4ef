package service

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/recurring"
	"kaiku/core/suspects"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// Suspects works out which faults would explain what is known of a home, and what to ask or try next: of an issue with what its caller said and since
// when it is so, or, where none is named, of the home as it stands.
func (s *Service) Suspects(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Issue]) (wire.Suspects, error) {
	h, err := s.read(ctx, a, "list-suspects", code)
	if err != nil {
		return wire.Suspects{}, err
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return wire.Suspects{}, err
	}
	about := suspects.Case{Home: h.Index, Plan: h.Plan, Statuses: h.Statuses, Findings: h.Findings, Load: h.Load(), Faults: faults, Now: h.Now}
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
	faults, err := s.faults(ctx)
	if err != nil {
		return wire.Suspects{}, err
	}
	if !faults.Known(in.Question) {
		return wire.Suspects{}, refuse("no-such-question", "question", in.Question)
	}
	_, err = s.write(ctx, a, "answer-issue", code, "", r, func(d *dossier.Dossier) error {
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

// faults are the modes that come with Kaiku, with those of the firm.
func (s *Service) faults(ctx context.Context) (*suspects.Faults, error) {
	own, err := s.store.Faults(ctx)
	if err != nil {
		return nil, err
	}
	return suspects.Shipped().With(own), nil
}

// ExportFaults returns the fault modes that the firm uses as a file: those that come with Kaiku, with its own.
func (s *Service) ExportFaults(ctx context.Context, a Actor) ([]byte, error) {
	if err := a.require("export-faults", nil, nil); err != nil {
		return nil, err
	}
	f, err := s.faults(ctx)
	if err != nil {
		return nil, err
	}
	return json.MarshalIndent(f, "", "  ")
}

// notUsable refuses a file of fault modes for what is wrong in it.
func notUsable(err error) error {
	return refuse("faults-not-readable", "detail", strings.TrimPrefix(err.Error(), suspects.ErrFaults.Error()+": "))
}

// ImportFaults takes up the modes and questions of a file in place of those with the same ids, and says what that changes; with try nothing is stored.
func (s *Service) ImportFaults(ctx context.Context, a Actor, body []byte, try bool) ([]wire.KnowledgeChange, error) {
	operation := "import-faults"
	if try {
		operation = "compare-faults"
	}
	if err := a.require(operation, nil, nil); err != nil {
		return nil, err
	}
	in, err := suspects.Parse(body)
	if err != nil {
		return nil, notUsable(err)
	}
	return s.changeFaults(ctx, a, try, func(own suspects.Faults) (suspects.Faults, error) {
		next := own.With(*in)
		return suspects.Shipped().Own(*next), nil
	})
}

// RemoveFault removes a mode of the firm; one that comes with Kaiku is then again as it came.
func (s *Service) RemoveFault(ctx context.Context, a Actor, id string) error {
	if err := a.require("remove-fault", nil, nil); err != nil {
		return err
	}
	_, err := s.changeFaults(ctx, a, false, func(own suspects.Faults) (suspects.Faults, error) {
		was := len(own.Modes)
		own.Modes = slices.DeleteFunc(slices.Clone(own.Modes), func(m suspects.Mode) bool { return m.ID == id })
		if len(own.Modes) == was {
			return own, refuse("no-such-fault", "id", id)
		}
		return own, nil
	})
	return err
}

// changeFaults changes the firm's own modes, if all modes together can be used afterwards.
func (s *Service) changeFaults(ctx context.Context, a Actor, try bool, change func(suspects.Faults) (suspects.Faults, error)) ([]wire.KnowledgeChange, error) {
	var was, is *suspects.Faults
	checked := func(own suspects.Faults) (suspects.Faults, error) {
		next, err := change(own)
		if err != nil {
			return own, err
		}
		was, is = suspects.Shipped().With(own), suspects.Shipped().With(next)
		if err := is.Check(); err != nil {
			return own, notUsable(err)
		}
		return next, nil
	}
	if try {
		own, err := s.store.Faults(ctx)
		if err == nil {
			_, err = checked(own)
		}
		if err != nil {
			return nil, err
		}
	} else if err := s.store.ChangeFaults(ctx, a.ID, checked); err != nil {
		return nil, err
	}
	return views.FaultsDifference(was, is)
}

// Recurring says what keeps coming back in the homes of the firm: faults by model of device and by program, over the years of the homes that have it.
func (s *Service) Recurring(ctx context.Context, a Actor) ([]wire.Recurring, error) {
	if err := a.require("list-recurring", nil, nil); err != nil {
		return nil, err
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Homes(ctx, store.HomesQuery{Limit: -1})
	if err != nil {
		return nil, err
	}
	var all []recurring.Home
	for _, one := range list {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		d, err := s.store.Load(ctx, dossier.ID[dossier.Household](one.HouseholdID))
		if err != nil {
			return nil, err
		}
		first, err := s.store.Journal(ctx, d.Home().ID, store.JournalQuery{Limit: 1})
		if err != nil {
			return nil, err
		}
		h := recurring.Home{Dossier: d}
		if len(first) > 0 {
			h.Since = first[0].At
		}
		all = append(all, h)
	}
	return views.Recurring(recurring.Of(all, s.now()), faults), nil
}
