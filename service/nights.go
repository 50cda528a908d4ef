package service

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

const (
	// nightOpen is for how long after its time a repetition still begins, where the machine was off or busy.
	nightOpen = 2 * time.Hour
	// NightPause is how long after a failure a test is carried out again before it is believed: lines are renewed and machines restarted at night.
	NightPause = 5 * time.Minute
)

// Nightly says when the tests of a home are repeated overnight, and what came of the last time.
func (s *Service) Nightly(ctx context.Context, a Actor, code string) (wire.Nightly, error) {
	d, err := s.Home(ctx, a, "show-nightly", code)
	if err != nil {
		return wire.Nightly{}, err
	}
	return s.nightly(ctx, d)
}

func (s *Service) nightly(ctx context.Context, d *dossier.Dossier) (wire.Nightly, error) {
	row, err := s.store.NightOf(ctx, d.Home().ID)
	if err != nil {
		return wire.Nightly{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Nightly{}, err
	}
	out := wire.Nightly{At: row.At}
	if row.At != "" {
		out.By = people.Name(row.ByPerson)
	}
	if out.Last, err = lastRun(row); err != nil {
		return out, err
	}
	if out.Last != nil {
		out.Last.Sentence = views.NightSaid(*out.Last, s.runsIn("nightly", d.Home().Code), s.now())
	}
	return out, nil
}

// lastRun reads what came of the last repetition; nil where there was none.
func lastRun(row store.Night) (*wire.NightRun, error) {
	if row.Last == "" {
		return nil, nil
	}
	run := &wire.NightRun{}
	if err := json.Unmarshal([]byte(row.Last), run); err != nil {
		return nil, fmt.Errorf("read the last repetition of household %s: %w", row.HouseholdID, err)
	}
	return run, nil
}

// SetNightly sets at what time the tests of a home are repeated overnight, on behalf of the actor; no time ends it.
func (s *Service) SetNightly(ctx context.Context, a Actor, code string, in wire.SetNightly) (wire.Nightly, error) {
	d, err := s.Home(ctx, a, "set-nightly", code)
	if err != nil {
		return wire.Nightly{}, err
	}
	if s.prober == nil {
		return wire.Nightly{}, refuse("not-on-site", "code", code)
	}
	if err := s.store.SetNight(ctx, d.Home().ID, in.At, a.ID); err != nil {
		return wire.Nightly{}, err
	}
	s.feed.publish(wire.Event{Household: code, Revision: d.Revision, By: a.ID})
	return s.nightly(ctx, d)
}

// RepeatDue begins the repetitions that are due now, each as a job of its own, and says what kept one from beginning.
func (s *Service) RepeatDue(ctx context.Context) error {
	if s.prober == nil {
		return nil
	}
	rows, err := s.store.Nights(ctx)
	if err != nil {
		return err
	}
	for _, row := range rows {
		last, errLast := lastRun(row)
		err = errors.Join(err, errLast)
		if last == nil {
			last = &wire.NightRun{}
		}
		if nightDue(s.now(), row.At, last.Began) {
			err = errors.Join(err, s.beginNight(ctx, row))
		}
	}
	return err
}

// nightDue reports whether a repetition at that clock time begins now: it is past, by no more than nightOpen, and none has begun since.
func nightDue(now time.Time, at string, last time.Time) bool {
	clock, err := time.Parse("15:04", at)
	if err != nil {
		return false
	}
	y, m, d := now.Date()
	due := time.Date(y, m, d, clock.Hour(), clock.Minute(), 0, 0, now.Location())
	if due.After(now) {
		due = time.Date(y, m, d-1, clock.Hour(), clock.Minute(), 0, 0, now.Location())
	}
	return now.Sub(due) < nightOpen && last.Before(due)
}

func (s *Service) beginNight(ctx context.Context, row store.Night) error {
	d, err := s.store.Load(ctx, row.HouseholdID)
	if err != nil {
		return err
	}
	code := d.Home().Code
	run := wire.NightRun{Began: dossier.At(s.now())}
	keep := func(ctx context.Context) error {
		body, err := json.Marshal(run)
		if err != nil {
			return err
		}
		if err = s.store.PutNightRun(ctx, row.HouseholdID, string(body)); err == nil {
			s.feed.publish(wire.Event{Household: code, Revision: d.Revision, By: row.ByPerson})
		}
		return err
	}
	person, err := s.store.PersonByID(ctx, row.ByPerson)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	a := s.actor(person)
	when := s.now().Format("2 Jan 15:04")
	place, errPlace := s.prober.Where()
	switch {
	case errPlace != nil:
		run.Failed = wording.Night("no-place", map[string]string{"when": when, "detail": errPlace.Error()})
	case err != nil || person.SuspendedAt != nil || a.require("run-tests", d, nil) != nil:
		run.Failed = wording.Night("no-right", map[string]string{"when": when, "name": cmp.Or(person.Name, "somebody who has left")})
	case !network.Here(d, place):
		run.Failed = wording.Night("elsewhere", map[string]string{"when": when})
	}
	if run.Failed != "" {
		run.Ended = run.Began
		return keep(ctx)
	}
	var tests []proving.Test
	tests, run.Asleep = proving.NewPlan(d.Index()).AtNight()
	_, err = s.startJob(ctx, a, "nightly", code, len(tests), func(ctx context.Context, j *job) (err error) {
		defer func() {
			run.Ended = dossier.At(s.now())
			if ctx.Err() != nil {
				run.Failed = wording.Night("stopped", nil)
			}
			err = errors.Join(err, keep(context.WithoutCancel(ctx)))
		}()
		if err := keep(ctx); err != nil { // it is not begun again, whatever comes
			return err
		}
		return s.repeatTests(ctx, a, code, tests, &run, j)
	})
	return err
}

// repeatTests carries out the tests, records what is another than what is known, and carries out a second time, after a pause, those that
// failed though they had passed, with all that need them.
func (s *Service) repeatTests(ctx context.Context, a Actor, code string, tests []proving.Test, run *wire.NightRun, j *job) error {
	came := proving.Run{}
	var again []proving.Test
	for _, t := range tests {
		if came.LeaveOut(t) != "" {
			again = append(again, t)
			continue
		}
		outcome, anew, err := s.repeatOne(ctx, a, code, t.ID(), false, run, j)
		if err != nil {
			return err
		}
		if came[t.ID()] = outcome; anew {
			again = append(again, t)
		}
	}
	if !slices.ContainsFunc(again, func(t proving.Test) bool { return came[t.ID()] == dossier.Fail }) {
		for range again {
			j.leftOut()
		}
		return nil
	}
	j.step(wording.Night("again", map[string]string{"tests": wording.Count(len(again), "test"), "minutes": wording.Count(int(s.nightPause.Minutes()), "minute")}))
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(s.nightPause):
	}
	for _, t := range again {
		delete(came, t.ID())
	}
	for _, t := range again {
		if came.LeaveOut(t) != "" {
			j.leftOut()
			continue
		}
		outcome, _, err := s.repeatOne(ctx, a, code, t.ID(), true, run, j)
		if err != nil {
			return err
		}
		came[t.ID()] = outcome
	}
	return nil
}

// repeatOne carries out one test. Anew says that a failure is not believed before it was seen a second time.
func (s *Service) repeatOne(ctx context.Context, a Actor, code, id string, second bool, run *wire.NightRun, j *job) (outcome dossier.Outcome, anew bool, err error) {
	h, err := s.read(ctx, a, "run-tests", code)
	if err != nil {
		return "", false, err
	}
	was, planned := h.Test(id)
	if !planned {
		return "", false, nil // what it was about is no longer in use
	}
	title := views.TestTitle(h.Dossier, was.Test)
	j.step(title)
	result, err := s.prober.Probe(ctx, h.Dossier, was.Test)
	if err != nil {
		return "", false, fmt.Errorf("repeat test %s: %w", id, err)
	}
	if result.Outcome == dossier.Fail && shown(was.Status) != dossier.Fail && !second {
		return dossier.Fail, true, nil
	}
	run.Repeated++
	said := wire.NightUndone{Test: id, Title: title, Said: wording.Result(result)}
	switch {
	case result.Outcome == dossier.Impossible:
		run.Undone = append(run.Undone, said)
		j.looked()
	case known(h.Dossier, was, result.Outcome):
		run.AsBefore++
		j.looked()
	default:
		in := wire.MachineAttempt(result, said.Said)
		in.Conditions = wording.Night("conditions", nil)
		made, err := s.recordAttempt(ctx, a, code, in, begun{h.Revision, was.Test.Facts()}, Request{})
		if err != nil {
			return "", false, err
		}
		if made.Test.Status == was.Status {
			run.AsBefore++
		} else {
			run.Changed = append(run.Changed, wire.NightChange{NightUndone: said, Was: was.Status, Is: made.Test.Status})
		}
		j.did(made)
	}
	return result.Outcome, false, nil
}

// known reports whether an outcome says nothing that is not known: the status stands for it, or the newest attempt had it on the same facts.
func known(d *dossier.Dossier, st proving.TestStatus, outcome dossier.Outcome) bool {
	if shown(st.Status) == outcome {
		return true
	}
	newest := dossier.Attempt{}
	for _, a := range d.Attempts {
		if proving.TestID(a.Test, a.Subjects) == st.Test.ID() && a.At.After(newest.At) {
			newest = a
		}
	}
	return newest.How == dossier.ByMachine && newest.Outcome == outcome && slices.Equal(newest.Facts, st.Test.Facts())
}

// shown is the outcome that a status stands for while its facts hold; others say nothing of how a test would go now.
func shown(s proving.Status) dossier.Outcome {
	switch s {
	case proving.Proven:
		return dossier.Pass
	case proving.Marginal:
		return dossier.Marginal
	case proving.Failed:
		return dossier.Fail
	}
	return ""
}

// nightTodos says in the morning what the last repetition found, to the custodian.
func (s *Service) nightTodos(ctx context.Context, h *assess.Assessment) ([]wire.Todo, error) {
	row, err := s.store.NightOf(ctx, h.Home().ID)
	if err != nil || row.At == "" {
		return nil, err
	}
	last, err := lastRun(row)
	if err != nil || last == nil {
		return nil, err
	}
	return views.NightTodo(h, *last, s.now()), nil
}
