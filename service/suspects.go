package service

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/recurring"
	"kaiku/core/remedy"
	"kaiku/core/survey"
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
	faults, err := s.learned(ctx)
	if err != nil {
		return wire.Suspects{}, err
	}
	var i dossier.Issue
	if id != "" {
		var ok bool
		if i, ok = h.Issues.Get(id); !ok {
			return wire.Suspects{}, refuse("no-such-record", "kind", "issue", "id", string(id))
		}
	}
	found, changes, err := s.suspectsOf(ctx, h, i, faults)
	if err != nil {
		return wire.Suspects{}, err
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Suspects{}, err
	}
	return t.Suspects(found, faults, remedy.Whole(h.Dossier, i).Answers, changes), nil
}

// suspectsOf works out the suspects of an issue of a home, or, of none, of the home as it stands, and what was changed before it began.
func (s *Service) suspectsOf(ctx context.Context, h *assess.Assessment, i dossier.Issue, faults *suspects.Faults) (suspects.Suspects, []dossier.Entry, error) {
	i = remedy.Whole(h.Dossier, i)
	about := suspects.Case{Home: h.Index, Plan: h.Plan, Statuses: h.Statuses, Findings: h.Findings, Load: h.Load(), Faults: faults, Now: h.Now, Answers: i.Answers, Since: i.Since}
	var changes []dossier.Entry
	if !about.Since.IsZero() {
		journal, err := s.store.Journal(ctx, h.Home().ID, store.JournalQuery{Since: about.Since.Add(-remedy.Before)})
		if err != nil {
			return suspects.Suspects{}, nil, err
		}
		changes = remedy.ChangesBefore(h.Plan, remedy.Concerned(h.Index, i), journal, about.Since)
		for _, e := range changes {
			about.Changed = append(about.Changed, e.Subject)
		}
	}
	return suspects.Of(about), changes, nil
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
		if suspects.AtPlace(in.Question) {
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

// learned are the modes with the odds that follow from what the firm has found.
func (s *Service) learned(ctx context.Context) (*suspects.Faults, error) {
	out, _, _, err := s.learn(ctx)
	return out, err
}

// learn returns the modes with the odds that follow from what was found, what that changes, and where each was found.
func (s *Service) learn(ctx context.Context) (*suspects.Faults, []suspects.Learned, map[string][]wire.FoundHere, error) {
	faults, err := s.faults(ctx)
	if err != nil {
		return nil, nil, nil, err
	}
	kept, err := s.store.KeptOdds(ctx)
	if err != nil {
		return nil, nil, nil, err
	}
	list, err := s.store.FaultsFound(ctx)
	if err != nil {
		return nil, nil, nil, err
	}
	times, where := map[string]int{}, map[string][]wire.FoundHere{}
	for _, f := range list {
		times[f.Fault]++
		where[f.Fault] = append(where[f.Fault], wire.FoundHere{Household: f.Household, Issue: f.Issue})
	}
	out, moved := faults.Learn(times, kept)
	return out, moved, where, nil
}

// LearnedOdds says by what the odds of faults have moved: what was found in the homes of the firm, and what it keeps as it came.
func (s *Service) LearnedOdds(ctx context.Context, a Actor) ([]wire.LearnedOdds, error) {
	if err := a.require("list-odds", nil, nil); err != nil {
		return nil, err
	}
	_, moved, where, err := s.learn(ctx)
	if err != nil {
		return nil, err
	}
	return views.LearnedOdds(moved, where), nil
}

// KeepOdds keeps the odds of a mode as they came, whatever is found, or lets them follow it again.
func (s *Service) KeepOdds(ctx context.Context, a Actor, id string, kept bool) error {
	if err := a.require("keep-odds", nil, nil); err != nil {
		return err
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return err
	}
	if faults.Mode(id) == nil {
		return refuse("unknown-fault", "id", id)
	}
	one := suspects.KeptOdds{ID: id}
	return s.store.ChangeKeptOdds(ctx, a.ID, func(list []suspects.KeptOdds) ([]suspects.KeptOdds, error) {
		switch there := slices.Contains(list, one); {
		case kept && !there:
			list = append(list, one)
		case !kept:
			list = slices.DeleteFunc(list, func(k suspects.KeptOdds) bool { return k == one })
		}
		return list, nil
	})
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

// everyHome gives each home of the firm in turn, in the order of their codes.
func (s *Service) everyHome(ctx context.Context, each func(*dossier.Dossier) error) error {
	list, err := s.store.Homes(ctx, store.HomesQuery{Limit: -1})
	if err != nil {
		return err
	}
	for _, one := range list {
		if err := ctx.Err(); err != nil {
			return err
		}
		d, err := s.store.Load(ctx, wire.HomeID(one.HouseholdID))
		if err != nil {
			return err
		}
		if err := each(d); err != nil {
			return err
		}
	}
	return nil
}

// Recurring says what keeps coming back in the homes of the firm: faults by model of device and by program, over the years of the homes that have it. With
// a home, what it says of the devices there, or of one of them.
func (s *Service) Recurring(ctx context.Context, a Actor, code string, device dossier.ID[dossier.Device]) ([]wire.Recurring, error) {
	if err := a.require("list-recurring", nil, nil); err != nil {
		return nil, err
	}
	var of *dossier.Index
	if code != "" {
		d, err := s.home(ctx, code)
		if err != nil {
			return nil, err
		}
		if _, there := d.Devices.Get(device); !there && device != "" {
			return nil, refuse("no-such-record", "kind", "device", "id", string(device))
		}
		of = d.Index()
	}
	faults, err := s.faults(ctx)
	if err != nil {
		return nil, err
	}
	var all []recurring.Home
	err = s.everyHome(ctx, func(d *dossier.Dossier) error {
		first, err := s.store.Journal(ctx, d.Home().ID, store.JournalQuery{Limit: 1})
		h := recurring.Home{Dossier: d}
		if len(first) > 0 {
			h.Since = first[0].At
		}
		all = append(all, h)
		return err
	})
	if err != nil {
		return nil, err
	}
	lines := recurring.Of(all, s.now())
	if of != nil {
		lines = recurring.About(lines, of, device)
	}
	return views.Recurring(lines, faults), nil
}

// For how long a fault that was found and remedied counts among those that show in several homes, and how likely one that is only suspected has to be.
const (
	foundLately  = 180 * 24 * time.Hour
	suspectedFor = 0.3
)

// SharedFaults says which faults show in several homes that have a model or a program in common, what to do in each of them, and who else has it.
func (s *Service) SharedFaults(ctx context.Context, a Actor) ([]wire.SharedFault, error) {
	if err := a.require("list-shared-faults", nil, nil); err != nil {
		return nil, err
	}
	faults, err := s.learned(ctx)
	if err != nil {
		return nil, err
	}
	var all []recurring.Home
	var reports []recurring.Report
	err = s.everyHome(ctx, func(d *dossier.Dossier) error {
		all = append(all, recurring.Home{Dossier: d})
		var h *assess.Assessment
		for _, i := range d.Issues {
			r := recurring.Report{Home: d, Issue: i, Mode: i.Fault, About: i.FaultAt, Found: i.Fault != ""}
			switch {
			case r.Found && (i.State != dossier.IssueClosed || s.now().Sub(i.ClosedAt) < foundLately):
				reports = append(reports, r)
			case r.Found || i.State == dossier.IssueClosed || i.State == dossier.IssueRemedied:
			default:
				if h == nil {
					var err error
					if h, err = s.assess(ctx, d); err != nil {
						return err
					}
				}
				found, _, err := s.suspectsOf(ctx, h, i, faults)
				if err != nil {
					return err
				}
				for _, one := range found.List {
					if one.P >= suspectedFor {
						r.Mode, r.About, r.P = one.Mode.ID, one.About, one.P
						reports = append(reports, r)
					}
				}
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return views.SharedFaults(recurring.Together(all, reports), faults), nil
}

// wantedParts are the parts that the faults would ask for which are suspected behind the issues that are open, and the tests that prove the remedies.
func (s *Service) wantedParts(ctx context.Context, h *assess.Assessment) (parts []survey.Wanted, tests []string, err error) {
	faults, err := s.learned(ctx)
	if err != nil {
		return nil, nil, err
	}
	add := func(id string) {
		if id != "" && !slices.Contains(tests, id) {
			tests = append(tests, id)
		}
	}
	for _, i := range h.Issues {
		if i.State == dossier.IssueClosed {
			continue
		}
		add(proving.TestOf(h.Dossier, i))
		if i.State == dossier.IssueRemedied {
			continue
		}
		found, _, err := s.suspectsOf(ctx, h, i, faults)
		if err != nil {
			return nil, nil, err
		}
		for n, one := range found.List {
			if one.P < worthBringing {
				continue
			}
			for _, part := range one.Mode.Parts {
				parts = append(parts, survey.Wanted{Part: part, About: []dossier.Ref{i.ID.Ref(), one.About}})
			}
			if n > 0 {
				continue
			}
			for _, id := range one.Proves(h.Index) {
				add(id)
			}
		}
	}
	return parts, tests, nil
}

// worthBringing is how likely a fault has to be for its parts to be brought.
const worthBringing = 0.1
