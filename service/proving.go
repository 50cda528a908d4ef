package service

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// Findings returns what is wrong with a home, said.
func (s *Service) Findings(ctx context.Context, a Actor, code string) ([]wire.Finding, error) {
	h, err := s.read(ctx, a, "list-findings", code)
	if err != nil {
		return nil, err
	}
	return findingsSaid(h.Dossier, h.Findings), nil
}

func named(d *dossier.Dossier, r dossier.Ref) wire.Named {
	return wire.Named{Ref: r, Label: d.FullLabel(r)}
}

// Plan returns the commissioning plan with where every test stands, and the fewest acts that make
// everything proven.
func (s *Service) Plan(ctx context.Context, a Actor, code string) (wire.Plan, error) {
	h, err := s.read(ctx, a, "list-tests", code)
	if err != nil {
		return wire.Plan{}, err
	}
	t, err := s.tester(ctx, h)
	if err != nil {
		return wire.Plan{}, err
	}
	p := wire.Plan{Revision: h.Revision, Coverage: h.Coverage, Tests: make([]wire.Test, len(h.Statuses)), Reproof: t.steps(h.Reproof), Minutes: h.Minutes}
	for i, st := range h.Statuses {
		p.Tests[i] = t.test(st)
	}
	return p, nil
}

// tester says tests, with the people and the changes behind them.
type tester struct {
	*assess.Assessment
	people  staff
	changes map[memberOf]dossier.Entry // the newest change of each member, of what is stale or in doubt
	tried   map[string]int             // attempts by test
}

type memberOf struct {
	record dossier.Ref
	member string
}

// tester reads the journal as far back as the oldest proof that is stale or in doubt.
func (s *Service) tester(ctx context.Context, h *assess.Assessment) (tester, error) {
	t := tester{Assessment: h, changes: map[memberOf]dossier.Entry{}, tried: map[string]int{}}
	for _, one := range h.Attempts {
		t.tried[proving.TestID(one.Test, one.Subjects)]++
	}
	var err error
	if t.people, err = s.staff(ctx); err != nil {
		return t, err
	}
	since := h.Revision
	for _, st := range h.Statuses {
		if st.Status == proving.Stale || st.Status == proving.InDoubt {
			since = min(since, begunAt(h, st))
		}
	}
	if since == h.Revision {
		return t, nil
	}
	entries, err := s.store.Journal(ctx, h.Home().ID, store.JournalQuery{After: since})
	for _, e := range entries {
		for _, members := range []map[string]json.RawMessage{e.Before, e.After} {
			for p := range members {
				t.changes[memberOf{e.Subject, strings.SplitN(p[1:], "/", 2)[0]}] = e
			}
		}
		t.changes[memberOf{e.Subject, ""}] = e
	}
	return t, err
}

// begunAt is the revision of the home when the deciding attempt began; for an old one, when it was
// stored.
func begunAt(h *assess.Assessment, st proving.TestStatus) uint64 {
	if st.AsOf > 0 {
		return st.AsOf
	}
	a, _ := h.Attempts.Get(st.Attempt)
	return a.Revision
}

// test says where a test stands.
func (t tester) test(st proving.TestStatus) wire.Test {
	path, _ := t.Paths.Get(st.Test.Path)
	words := wording.Test(st.Test.Kind.Name, t.Brings(path))
	device, _ := t.Devices.Get(path.Device)
	d := t.Dossier
	out := wire.Test{ID: st.Test.ID(), Kind: st.Test.Kind.Name, Title: words.Title, Expected: words.Expected, Do: words.Do, By: st.Test.By,
		Minutes: st.Test.Kind.Minutes, Required: st.Test.Required, After: st.Test.After, About: named(d, st.Test.Subjects[0]), Path: named(d, st.Test.Path.Ref()),
		Device: named(d, path.Device.Ref()), Status: st.Status, At: st.At, Attempt: string(st.Attempt), Attempts: t.tried[st.Test.ID()], Witness: st.Witness}
	if room, ok := t.Rooms.Get(device.Room); ok {
		out.Room, out.Floor = named(d, room.ID.Ref()), room.Floor
	}
	if deciding, ok := t.Attempts.Get(st.Attempt); ok {
		out.ByPerson, out.Observed = t.people.name(deciding.By), deciding.Note
		if st.Witness {
			out.Observed = wording.Witness(d.FullLabel(deciding.Subjects[0]), out.Observed)
		}
	}
	if e, ok := waiverOf(d, out.ID); ok {
		out.Waiver = &wire.Waiver{Record: e, By: t.people.name(e.By)}
	}
	for _, c := range st.Changes {
		out.Changes = append(out.Changes, t.change(c))
	}
	for _, one := range st.Doubts {
		out.Doubts = append(out.Doubts, t.doubtSaid(one))
	}
	if st.Status == proving.InDoubt || st.Status == proving.Stale {
		step := t.steps([]proving.Step{t.Assessment.Plan.ShortestFor(st)})[0]
		out.Again = &step
	}
	for _, i := range t.Issues {
		if failed, ok := t.Attempts.Get(i.FailedAttempt); ok && i.State != dossier.IssueClosed && proving.TestID(failed.Test, failed.Subjects) == out.ID {
			out.OpenIssues = append(out.OpenIssues, named(d, i.ID.Ref()))
		}
	}
	return out
}

// change says one fact that differs between a proof and now, and who changed it when.
func (t tester) change(c proving.FactChange) wire.FactChange {
	label := t.FullLabel(c.Subject)
	if i, ok := t.Interfaces.Get(dossier.ID[dossier.Interface](c.Subject.ID)); ok {
		label = t.Label(i.Device.Ref()) // an adapter is known by its device
	}
	if label == "" {
		label = "that has been removed"
		if c.Name != "" {
			label = "a " + wording.Noun(c.Subject.Kind) + " " + label
		}
	}
	out := wire.FactChange{Subject: wire.Named{Ref: c.Subject, Label: label}, Name: c.Name, From: c.From, To: c.To,
		Sentence: wording.Fact(label, c.Subject.Kind, c.Name, readable(t.Dossier, c.From), readable(t.Dossier, c.To))}
	e, known := t.changes[memberOf{c.Subject, c.Name}]
	if !known {
		e, known = t.changes[memberOf{c.Subject, ""}]
	}
	if known {
		out.By, out.When = t.people.name(e.By), when(e)
	}
	return out
}

// when is when a change was made: it may have been written later.
func when(e dossier.Entry) time.Time {
	if !e.DoneAt.IsZero() {
		return e.DoneAt
	}
	return e.At
}

// doubtSaid says what speaks against a proof, and who wrote it when.
func (t tester) doubtSaid(one proving.Doubt) wire.Doubt {
	out := wire.Doubt{Code: string(one.Code), About: named(t.Dossier, one.Subject), When: one.At}
	values := map[string]string{"about": out.About.Label}
	for k, v := range one.Values {
		values[k] = v
	}
	if one.Code == proving.DoubtFinding {
		for _, f := range t.Findings {
			if f.Is(values["finding"], one.Subject) {
				values["said"] = wording.Finding(f).Sentence
				break
			}
		}
	}
	out.Sentence = wording.Doubt(one.Code, one.Subject.Kind, values)
	if e, known := t.changes[memberOf{one.Subject, ""}]; known {
		out.By = t.people.name(e.By)
		if out.When.IsZero() {
			out.When = when(e)
		}
	}
	return out
}

// steps says the acts that prove tests.
func (t tester) steps(list []proving.Step) []wire.ProofStep {
	out := []wire.ProofStep{}
	for _, one := range list {
		at := named(t.Dossier, one.At)
		out = append(out, wire.ProofStep{Act: one.Act.Name, At: at, Sentence: wording.Act(one.Act.Name, at.Label), Minutes: one.Minutes, Tests: one.Tests, Shows: one.Shows})
	}
	return out
}

// readable says a fact's value: ids in it are said by what people call the records.
func readable(d *dossier.Dossier, value string) string {
	parts := strings.Split(value, ", ")
	for i, one := range parts {
		if len(one) != 36 || strings.Count(one, "-") != 4 {
			continue
		}
		if ref, ok := d.RefOf(one); ok {
			parts[i] = d.Label(ref)
		} else {
			parts[i] = "a record that has been removed"
		}
	}
	return strings.Join(parts, ", ")
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
	kind, subject, _ := strings.Cut(in.Test, ":")
	var closed []dossier.Ref
	w, err := s.write(ctx, a, "record-attempt", code, "", r, func(d *dossier.Dossier) error {
		ref, there := d.RefOf(subject)
		if !there {
			return refuse("no-such-test", "id", in.Test)
		}
		if d.Has(in.ID.Ref()) {
			return refuse("id-taken", "id", string(in.ID))
		}
		made := dossier.Attempt{Test: kind, Subjects: []dossier.Ref{ref}, Outcome: in.Outcome, Observed: in.Observed, Values: in.Values,
			Conditions: in.Conditions, Note: in.Note, How: in.How, By: a.ID, At: in.At, Facts: b.facts, Version: proving.Version, AsOf: b.asOf}
		made.ID = in.ID
		d.Attempts.Put(made)
		if in.Outcome == dossier.Pass {
			closed = closeProven(d, made, dossier.At(s.now()))
		}
		return nil
	})
	if err != nil {
		return wire.AttemptMade{}, err
	}
	if w.Repeated != (dossier.Ref{}) {
		in.ID = dossier.ID[dossier.Attempt](w.Repeated.ID)
	}
	return s.attemptMade(ctx, w.Dossier, in.ID, in.Test, closed)
}

func (s *Service) attemptMade(ctx context.Context, d *dossier.Dossier, id dossier.ID[dossier.Attempt], test string, closed []dossier.Ref) (wire.AttemptMade, error) {
	out := wire.AttemptMade{}
	var err error
	if out.Test, err = s.testNow(ctx, d, test); err != nil {
		return out, err
	}
	out.Attempt, _ = d.Attempts.Get(id)
	for _, r := range closed {
		out.Closed = append(out.Closed, named(d, r))
	}
	return out, nil
}

// closeProven closes the remedied issues that were opened from this test, or name it, before the
// attempt.
func closeProven(d *dossier.Dossier, a dossier.Attempt, now time.Time) []dossier.Ref {
	var closed []dossier.Ref
	for n := range d.Issues {
		i := &d.Issues[n]
		if i.State == dossier.IssueRemedied && proves(d, *i, a) {
			i.State, i.Proof, i.ClosedAt = dossier.IssueClosed, a.ID, now
			closed = append(closed, i.ID.Ref())
		}
	}
	return closed
}

// proves reports whether the attempt is a pass, after the remedy, of the test an issue was opened
// from or names.
func proves(d *dossier.Dossier, i dossier.Issue, a dossier.Attempt) bool {
	test := proving.TestOf(d, i)
	return test != "" && a.Outcome == dossier.Pass && !a.At.Before(i.RemediedAt) && proving.TestID(a.Test, a.Subjects) == test
}

// RunTests lets this machine carry out tests, one after the other, as a job. What was recorded
// stays when it is stopped.
func (s *Service) RunTests(ctx context.Context, a Actor, code string, in wire.Run) (wire.Job, error) {
	h, err := s.read(ctx, a, "run-tests", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site", "code", code)
	}
	var tests []string
	for _, t := range h.Plan.Tests {
		if t.By == proving.Automatic && (len(in.Tests) == 0 || slices.Contains(in.Tests, t.ID())) {
			tests = append(tests, t.ID())
		}
	}
	if len(tests) == 0 {
		return wire.Job{}, refuse("nothing-to-run")
	}
	return s.startJob(ctx, a, "run-tests", code, len(tests), func(ctx context.Context, j *job) error {
		for _, id := range tests {
			h, err := s.read(ctx, a, "run-tests", code) // someone may have written since the last test
			if err != nil {
				return err
			}
			t, planned := h.Plan.Find(id)
			if !planned {
				continue // what it was about is no longer in use
			}
			j.step(wording.Tests[t.Kind.Name].Title + ", " + h.FullLabel(t.Subjects[0]))
			result, err := s.prober.Probe(ctx, h.Dossier, t)
			if err != nil {
				return fmt.Errorf("run test %s: %w", id, err)
			}
			made, err := s.recordAttempt(ctx, a, code, wire.MachineAttempt(result, wording.Result(result)), begun{h.Revision, t.Facts()}, Request{})
			if err != nil {
				return err
			}
			j.did(made)
		}
		return nil
	})
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
	out := []wire.Prerequisite{}
	for _, p := range h.Prerequisites {
		said := wording.Prerequisites[p.Need.What]
		one := wire.Prerequisite{What: p.Need.What, Side: p.Need.Side, Title: said.Sentence, Why: said.Remedy, Subject: named(h.Dossier, p.Subject),
			Met: p.Met(), DoneBy: people.name(p.DoneBy), DoneAt: p.DoneAt, Refused: p.Refused, Note: p.Why}
		if st, ok := h.Test(p.ProvedBy); ok {
			one.ProvedBy = wording.Tests[st.Test.Kind.Name].Title + ", " + h.FullLabel(st.Test.Subjects[0])
		}
		for _, id := range p.Paths {
			one.Paths = append(one.Paths, named(h.Dossier, id.Ref()))
		}
		out = append(out, one)
	}
	return out, nil
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
		all := proving.Prerequisites(x, nil)
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
