package service

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/reel"
	"kaiku/safely"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// Findings returns what is wrong with a home, said.
func (s *Service) Findings(ctx context.Context, a Actor, code string) ([]wire.Finding, error) {
	h, err := s.read(ctx, a, "list-findings", code)
	if err != nil {
		return nil, err
	}
	return views.Findings(h.Dossier, h.Findings), nil
}

// Plan returns the commissioning plan with where every test stands, and the fewest acts that make
// everything proven.
func (s *Service) Plan(ctx context.Context, a Actor, code string) (wire.Plan, error) {
	h, err := s.read(ctx, a, "list-tests", code)
	if err != nil {
		return wire.Plan{}, err
	}
	t, err := s.said(ctx, h)
	if err != nil {
		return wire.Plan{}, err
	}
	p := wire.Plan{Unfinished: views.Unfinished(h), Revision: h.Revision, Coverage: h.Coverage, Tests: make([]wire.Test, len(h.Statuses)), Reproof: t.Steps(h.Reproof), Minutes: h.Minutes}
	for i, st := range h.Statuses {
		p.Tests[i] = t.Test(st)
	}
	return p, nil
}

// said returns the home to be said, with who changed what since its oldest proof that no longer holds.
func (s *Service) said(ctx context.Context, h *assess.Assessment) (views.Home, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return views.Home{}, err
	}
	var entries []dossier.Entry
	if since := views.Since(h); since < h.Revision {
		entries, err = s.store.Journal(ctx, h.Home().ID, store.JournalQuery{After: since})
	}
	return views.New(h, people, entries), err
}

// begun is what a test stood on when it began.
type begun struct {
	asOf  uint64
	facts []dossier.Fact
}

// begins returns what the test stood on at that revision or, where none is given, at that time. A test
// that was not planned at that time stands on the facts as they are now: there were none before.
func (s *Service) begins(ctx context.Context, h *assess.Assessment, test string, asOf uint64, at time.Time) (begun, error) {
	t, planned := h.Plan.Find(test)
	if !planned {
		return begun{}, refuse("no-such-test", "id", test)
	}
	now := begun{h.Revision, t.Facts()}
	if asOf > h.Revision {
		return begun{}, refuse("revision-in-future", "revision", strconv.FormatUint(asOf, 10))
	}
	given := asOf > 0
	home := h.Home().ID
	if !given {
		var err error
		if asOf, err = s.store.RevisionAt(ctx, home, at); err != nil {
			return begun{}, err
		}
	}
	entries, err := s.store.Journal(ctx, home, store.JournalQuery{After: asOf})
	if err != nil || !slices.ContainsFunc(entries, func(e dossier.Entry) bool { return proving.Matters(e.Subject.Kind) }) {
		now.asOf = min(now.asOf, max(asOf, 1))
		return now, err
	}
	then, _, err := s.store.At(ctx, home, asOf)
	if err != nil {
		return begun{}, err
	}
	old, planned := proving.NewPlan(then.Index()).Find(test)
	switch {
	case planned:
		return begun{asOf, old.Facts()}, nil
	case given:
		return begun{}, refuse("no-such-test", "id", test)
	}
	return now, nil
}

// RecordAttempt stores an attempt at a test with the facts it depends on, as they were when the test
// began. A pass on the test of a remedied issue proves the remedy and closes the issue in the same
// write.
func (s *Service) RecordAttempt(ctx context.Context, a Actor, code string, in wire.NewAttempt, r Request) (wire.AttemptMade, error) {
	h, err := s.read(ctx, a, "list-tests", code)
	if err != nil {
		return wire.AttemptMade{}, err
	}
	at := r.doneAt(s.now())
	if !in.At.IsZero() && in.At.Before(at) {
		at = in.At
	}
	b, err := s.begins(ctx, h, in.Test, in.AsOf, at)
	if err != nil {
		return wire.AttemptMade{}, err
	}
	if in.How == dossier.ByMachine {
		t, _ := h.Plan.Find(in.Test)
		switch {
		case t.By != proving.Automatic:
			return wire.AttemptMade{}, refuse("not-by-machine", "test", views.TestTitle(h.Dossier, t))
		case in.Reading != nil || !in.Observed.Fits(in.Outcome):
			return wire.AttemptMade{}, refuse("not-a-machine-result", "outcome", string(in.Outcome), "observed", cmp.Or(string(in.Observed), "nothing"))
		}
	}
	return s.recordAttempt(ctx, a, code, in, b, r)
}

func (s *Service) recordAttempt(ctx context.Context, a Actor, code string, in wire.NewAttempt, b begun, r Request) (wire.AttemptMade, error) {
	if in.How == "" {
		in.How = dossier.ByEye
	}
	if in.At.IsZero() {
		in.At = r.doneAt(s.now())
	}
	if in.At.After(s.now().Add(time.Minute)) {
		return wire.AttemptMade{}, refuse("attempt-in-future", "at", in.At.Format(time.RFC3339))
	}
	if in.ID == "" {
		in.ID = dossier.ID[dossier.Attempt](newID())
	}
	var closed []dossier.Ref
	w, err := s.write(ctx, a, "record-attempt", code, "", r, func(d *dossier.Dossier) (err error) {
		closed, err = s.put(d, a, in, b)
		return err
	})
	if err != nil {
		return wire.AttemptMade{}, err
	}
	if w.Repeated != (dossier.Ref{}) {
		in.ID = dossier.ID[dossier.Attempt](w.Repeated.ID)
	}
	return s.attemptMade(ctx, w.Dossier, in.ID, in.Test, closed)
}

// put writes an attempt, and returns the issues that it closes.
func (s *Service) put(d *dossier.Dossier, a Actor, in wire.NewAttempt, b begun) ([]dossier.Ref, error) {
	kind, subject, _ := strings.Cut(in.Test, ":")
	ref, there := d.RefOf(subject)
	if !there {
		return nil, refuse("no-such-test", "id", in.Test)
	}
	if d.Has(in.ID.Ref()) {
		return nil, refuse("id-taken", "id", string(in.ID))
	}
	if err := judge(kind, &in); err != nil {
		return nil, err
	}
	if in.Sample != "" {
		clip, err := reel.Named(in.Sample)
		if err != nil {
			return nil, refuse("no-such-sample", "name", in.Sample)
		}
		in.Conditions = strings.TrimSuffix("with the sample "+clip.Name+", "+in.Conditions, ", ")
		s.shows(d, kind, ref, clip, in.Outcome)
	}
	made := dossier.Attempt{Test: kind, Subjects: []dossier.Ref{ref}, Outcome: in.Outcome, Observed: in.Observed, Values: in.Values,
		Conditions: in.Conditions, Note: in.Note, How: in.How, By: a.ID, At: in.At, Facts: b.facts, Version: proving.Version, AsOf: b.asOf}
	made.ID = in.ID
	d.Attempts.Put(made)
	if made.Outcome != dossier.Pass {
		return nil, nil
	}
	return remedy.CloseProven(d, made, dossier.At(s.now())), nil
}

// judge computes the outcome where something was read off a sample clip; elsewhere there has to be one.
func judge(kind string, in *wire.NewAttempt) error {
	switch {
	case in.Reading == nil && in.Outcome == "":
		return refuse("no-outcome")
	case in.Reading == nil && in.How == dossier.ByEye: // what was measured meanwhile is said with what was seen
		if name, longest := proving.LongestFor(kind); in.Outcome == dossier.Pass && in.Values[name] > longest {
			return refuse("measured-too-late", "measured", wording.Measured(name, in.Values[name]), "longest", fmt.Sprintf("%g", longest))
		}
		for _, name := range slices.Sorted(maps.Keys(in.Values)) {
			in.Note = strings.TrimPrefix(in.Note+"; "+wording.Measured(name, in.Values[name]), "; ")
		}
		return nil
	case in.Reading == nil:
		return nil
	case in.Outcome != "":
		return refuse("outcome-and-reading")
	}
	r, rate := *in.Reading, in.Reading.Rate
	var judged proving.Judged
	known, read := false, ""
	reads := proving.ReadingOf(kind)
	if reads == proving.ReadsLips {
		if r.Frames == nil || rate == 0 {
			return refuse("reading-incomplete", "missing", "the frames between flash and beep, and how many of them the film has in a second")
		}
		judged, known = proving.JudgeLips(*r.Frames, rate)
		read = fmt.Sprintf("%g frames from flash to beep, at %g in a second", *r.Frames, rate)
	} else if reads != proving.ReadsNothing {
		if rate == 0 {
			rate = 25
			if clip, err := reel.Named(in.Sample); err == nil {
				rate = cmp.Or(clip.Format().FrameRate, rate)
			}
		}
		codes := proving.Codes{After: time.Duration(r.AfterS * float64(time.Second))}
		var err error
		for _, one := range []struct {
			name, text string
			to         *time.Duration
		}{{"asked", r.Asked, &codes.From}, {"seen", r.Seen, &codes.Seen}} {
			if *one.to, err = proving.TimeCode(one.text, rate); err != nil {
				return refuse("not-a-time-code", "name", one.name, "text", one.text, "rate", fmt.Sprintf("%g", rate))
			}
		}
		if reads == proving.ReadsStanding && r.AfterS == 0 {
			return refuse("reading-incomplete", "missing", "how much time passed between the two readings")
		}
		judged, known = proving.JudgeCodes(reads, codes)
		read = fmt.Sprintf("from %s, %s seen after %s", r.Asked, r.Seen, codes.After)
	}
	if !known {
		return refuse("nothing-to-read", "test", wording.Tests[kind].Title)
	}
	in.Outcome, in.Values = judged.Outcome, map[string]float64{judged.Name: judged.Value}
	said := wording.Measured(judged.Name, judged.Value) + " (" + read + ")"
	in.Note = strings.TrimPrefix(in.Note+"; "+said, "; ")
	return nil
}

// shows records what a test with a sample clip shows of what the device of the path decodes. A marginal result shows nothing for certain.
func (s *Service) shows(d *dossier.Dossier, test string, on dossier.Ref, clip reel.Clip, outcome dossier.Outcome) {
	path, is := d.Paths.Get(dossier.ID[dossier.Path](on.ID))
	if !is || outcome != dossier.Pass && outcome != dossier.Fail {
		return
	}
	one := dossier.Decoding{Device: path.Device}
	one.ID = dossier.ID[dossier.Decoding](newID())
	if at := slices.IndexFunc(d.Decodings, func(p dossier.Decoding) bool { return p.Device == path.Device }); at >= 0 {
		one = d.Decodings[at]
	}
	shown := format.Shown(one.Entries, clip.Format(), test, outcome == dossier.Pass)
	// What a server converted on the way says nothing of the device.
	if source, _ := d.Sources.Get(path.Source); len(shown) == 0 || path.Mode == dossier.ThroughServer && source.Converts != "" && source.Converts != dossier.ConvertsNothing {
		return
	}
	one.Entries = format.WithProof(one.Entries, shown)
	d.Decodings.Put(one)
}

// Samples lists the sample clips.
func (s *Service) Samples(_ context.Context, a Actor) ([]wire.Sample, error) {
	if err := a.require("list-samples", nil, nil); err != nil {
		return nil, err
	}
	out := make([]wire.Sample, len(reel.Clips))
	for i, c := range reel.Clips {
		out[i] = wire.Sample{Name: c.Name, File: c.File, What: wording.Format(c.Format()), Media: c.Media, Seconds: c.Seconds, Bytes: c.Bytes()}
	}
	return out, nil
}

// RecordRound stores what a person saw at several tests in one go: all of it or nothing. Each stands on the facts as they were when
// the round began.
func (s *Service) RecordRound(ctx context.Context, a Actor, code string, in wire.NewRound, r Request) (wire.RoundMade, error) {
	h, err := s.read(ctx, a, "list-tests", code)
	if err != nil {
		return wire.RoundMade{}, err
	}
	now := r.doneAt(s.now())
	if in.At.IsZero() {
		in.At = now
	}
	if in.At.After(s.now().Add(time.Minute)) {
		return wire.RoundMade{}, refuse("attempt-in-future", "at", in.At.Format(time.RFC3339))
	}
	began := now
	if in.At.Before(began) {
		began = in.At
	}
	var all []wire.NewAttempt
	stood := map[string]begun{}
	for _, one := range in.Results {
		if _, twice := stood[one.Test]; twice {
			return wire.RoundMade{}, refuse("test-twice", "id", one.Test)
		}
		if stood[one.Test], err = s.begins(ctx, h, one.Test, in.AsOf, began); err != nil {
			return wire.RoundMade{}, err
		}
		all = append(all, wire.NewAttempt{ID: cmp.Or(one.ID, dossier.ID[dossier.Attempt](newID())), Test: one.Test, Outcome: one.Outcome, Reading: one.Reading, Observed: one.Observed, Values: one.Values, Note: one.Note,
			Conditions: in.Conditions, Sample: in.Sample, How: dossier.ByEye, At: in.At})
	}
	closed := map[string][]dossier.Ref{}
	w, err := s.write(ctx, a, "record-round", code, "", r, func(d *dossier.Dossier) error {
		clear(closed)
		for _, one := range all {
			refs, err := s.put(d, a, one, stood[one.Test])
			if err != nil {
				return err
			}
			closed[one.Test] = refs
		}
		return nil
	})
	if err != nil {
		return wire.RoundMade{}, err
	}
	out := wire.RoundMade{Attempts: []wire.AttemptMade{}, Revision: w.Dossier.Revision}
	first, repeated := w.Dossier.Attempts.Get(dossier.ID[dossier.Attempt](w.Repeated.ID))
	for _, one := range all {
		if repeated { // what was recorded then is what was recorded at that instant
			kind, subject, _ := strings.Cut(one.Test, ":")
			for _, x := range w.Dossier.Attempts {
				if x.At.Equal(first.At) && x.By == first.By && x.Test == kind && x.Subjects[0].ID == subject {
					one.ID, out.Revision = x.ID, x.Revision
				}
			}
		}
		made, err := s.attemptMade(ctx, w.Dossier, one.ID, one.Test, closed[one.Test])
		if err != nil {
			return out, err
		}
		out.Attempts = append(out.Attempts, made)
	}
	return out, nil
}

func (s *Service) attemptMade(ctx context.Context, d *dossier.Dossier, id dossier.ID[dossier.Attempt], test string, closed []dossier.Ref) (wire.AttemptMade, error) {
	out := wire.AttemptMade{}
	var err error
	if out.Test, err = s.testNow(ctx, d, test); err != nil {
		return out, err
	}
	out.Attempt, _ = d.Attempts.Get(id)
	for _, r := range closed {
		out.Closed = append(out.Closed, views.Named(d, r))
	}
	return out, nil
}

// RunTests lets this machine carry out tests as a job: one after the other, outward from the source; a test is left out if one has failed
// that it needs. Those that go on for long are carried out side by side, as a job of their own, and only where they are named. What was recorded
// stays when it is stopped.
func (s *Service) RunTests(ctx context.Context, a Actor, code string, in wire.Run) (wire.Job, error) {
	h, err := s.read(ctx, a, "run-tests", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site", "code", code)
	}
	var wanted func(proving.Test) bool
	if len(in.Tests) > 0 {
		wanted = func(t proving.Test) bool { return slices.Contains(in.Tests, t.ID()) }
	}
	tests := h.Plan.ForMachine(wanted)
	if len(tests) == 0 {
		return wire.Job{}, refuse("nothing-to-run")
	}
	long := slices.ContainsFunc(tests, func(t proving.Test) bool { return t.Kind.Lasts() > 0 })
	kind := "run-tests"
	switch {
	case slices.ContainsFunc(tests, func(t proving.Test) bool { return t.Kind.Name == "long-play" }):
		kind = "long-play"
	case long:
		kind = "keep-searching"
	}
	return s.startJob(ctx, a, kind, code, len(tests), func(ctx context.Context, j *job) error {
		if long {
			return s.runBeside(ctx, a, code, h.Plan.Beside(tests), j)
		}
		run := proving.Run{}
		for _, t := range tests {
			if run.LeaveOut(t) != "" {
				j.leftOut()
				continue
			}
			outcome, err := s.runOne(ctx, a, code, t.ID(), j)
			if err != nil {
				return err
			}
			run[t.ID()] = outcome
		}
		return nil
	})
}

// runBeside carries out tests that go on for long, each row of them beside the others.
func (s *Service) runBeside(ctx context.Context, a Actor, code string, rows [][]proving.Test, j *job) error {
	var all sync.WaitGroup
	errs := make([]error, len(rows))
	for n, row := range rows {
		safely.Go(&all, func(fell *safely.Panicked) { errs[n] = fell }, func() {
			for _, t := range row {
				if _, errs[n] = s.runOne(ctx, a, code, t.ID(), j); errs[n] != nil {
					return
				}
			}
		})
	}
	all.Wait()
	return errors.Join(errs...)
}

// runOne carries out one test, if it is still in the plan, and records what it showed.
func (s *Service) runOne(ctx context.Context, a Actor, code, id string, j *job) (dossier.Outcome, error) {
	h, err := s.read(ctx, a, "run-tests", code) // someone may have written since the last test
	if err != nil {
		return "", err
	}
	t, planned := h.Plan.Find(id)
	if !planned {
		return "", nil // what it was about is no longer in use
	}
	j.step(views.TestTitle(h.Dossier, t))
	result, err := s.prober.Probe(ctx, h.Dossier, t)
	if err != nil {
		return "", fmt.Errorf("run test %s: %w", id, err)
	}
	made, err := s.recordAttempt(ctx, a, code, wire.MachineAttempt(result, wording.Result(result)), begun{h.Revision, t.Facts()}, Request{})
	if err != nil {
		return "", err
	}
	j.did(made)
	return result.Outcome, nil
}

// Needed returns the prerequisites of a home's paths, in the order of work.
func (s *Service) Needed(ctx context.Context, a Actor, code string) ([]wire.Prerequisite, error) {
	h, err := s.read(ctx, a, "list-needed", code)
	if err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	return views.Prerequisites(h, people), nil
}

// Tick says a prerequisite is done.
func (s *Service) Tick(ctx context.Context, a Actor, code string, in wire.Tick, r Request) error {
	return s.setTick(ctx, a, "tick-prerequisite", code, in, r, func(p *dossier.Prerequisite) {
		p.DoneBy, p.DoneAt, p.Why = a.ID, dossier.At(s.now()), in.Note
	})
}

// Refuse counts that a prerequisite was refused, such as a permission prompt answered no.
func (s *Service) Refuse(ctx context.Context, a Actor, code string, in wire.Tick, r Request) error {
	return s.setTick(ctx, a, "refuse-prerequisite", code, in, r, func(p *dossier.Prerequisite) {
		p.DoneBy, p.DoneAt, p.Why = "", time.Time{}, in.Note
		p.Refused++
	})
}

// Untick takes a tick back.
func (s *Service) Untick(ctx context.Context, a Actor, code string, in wire.Tick, r Request) error {
	return s.setTick(ctx, a, "untick-prerequisite", code, in, r, func(p *dossier.Prerequisite) {
		p.DoneBy, p.DoneAt, p.Why = "", time.Time{}, in.Note
	})
}

func (s *Service) setTick(ctx context.Context, a Actor, operation, code string, in wire.Tick, r Request, set func(*dossier.Prerequisite)) error {
	id := dossier.ID[dossier.Prerequisite](newID())
	_, err := s.write(ctx, a, operation, code, "", r, func(d *dossier.Dossier) error {
		x := d.Index()
		all := proving.Prerequisites(x, nil, nil)
		i := slices.IndexFunc(all, func(p proving.Prerequisite) bool { return p.Need.What == in.What && p.Subject == in.Subject })
		if i < 0 {
			return refuse("not-needed", "what", in.What)
		}
		p := all[i]
		record := dossier.Prerequisite{Subject: in.Subject, Side: p.Need.Side, What: in.What}
		record.ID = id
		if p.Record != "" {
			record, _ = d.Prerequisites.Get(p.Record)
		}
		set(&record)
		d.Prerequisites.Put(record)
		return nil
	})
	return err
}
