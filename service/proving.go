package service

import (
	"context"
	"fmt"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Findings returns what is wrong with a home, said.
func (s *Service) Findings(ctx context.Context, a Actor, code string) ([]wire.Finding, error) {
	d, err := s.Home(ctx, a, "list-findings", code)
	if err != nil {
		return nil, err
	}
	return findingsOf(d, s.now()), nil
}

func named(d *dossier.Dossier, r dossier.Ref) wire.Named {
	return wire.Named{Ref: r, Label: d.FullLabel(r)}
}

// Plan returns the commissioning plan with where every test stands.
func (s *Service) Plan(ctx context.Context, a Actor, code string) (wire.Plan, error) {
	d, err := s.Home(ctx, a, "list-tests", code)
	if err != nil {
		return wire.Plan{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Plan{}, err
	}
	statuses := proving.Statuses(d)
	p := wire.Plan{Revision: d.Revision, Coverage: proving.Cover(statuses), Tests: make([]wire.Test, len(statuses))}
	for i, st := range statuses {
		p.Tests[i] = testOf(d, st, people)
	}
	return p, nil
}

func testOf(d *dossier.Dossier, st proving.TestStatus, people staff) wire.Test {
	path, _ := d.Paths.Get(st.Test.Path)
	words := wording.Test(st.Test.Kind.Name, proving.Contents(d, path))
	device, _ := d.Devices.Get(path.Device)
	t := wire.Test{ID: st.Test.ID(), Kind: st.Test.Kind.Name, Title: words.Title, Expected: words.Expected, Do: words.Do, By: st.Test.By,
		Minutes: st.Test.Kind.Minutes, Required: st.Test.Required, After: st.Test.After, About: named(d, st.Test.Subjects[0]), Path: named(d, st.Test.Path.Ref()),
		Device: named(d, path.Device.Ref()), Status: st.Status, At: st.At, Attempt: string(st.Attempt)}
	if room, ok := d.Rooms.Get(device.Room); ok {
		t.Room, t.Floor = named(d, room.ID.Ref()), room.Floor
	}
	if deciding, ok := d.Attempts.Get(st.Attempt); ok {
		t.ByPerson, t.Observed = people.name(deciding.By), deciding.Note
	}
	for _, one := range d.Attempts {
		if proving.TestID(one.Test, one.Subjects) == t.ID {
			t.Attempts++
		}
	}
	if e, ok := waiverOf(d, t.ID); ok {
		t.Waiver = &wire.Waiver{Record: e, By: people.name(e.By)}
	}
	for _, c := range st.Changes {
		label := d.Label(c.Subject)
		if i, ok := d.Interfaces.Get(dossier.ID[dossier.Interface](c.Subject.ID)); ok {
			label = d.Label(i.Device.Ref()) // an adapter is known by its device
		}
		t.Changes = append(t.Changes, wire.FactChange{Subject: wire.Named{Ref: c.Subject, Label: label}, Name: c.Name, From: c.From, To: c.To,
			Sentence: wording.Fact(label, c.Name, readable(d, c.From), readable(d, c.To))})
	}
	for _, i := range d.Issues {
		if failed, ok := d.Attempts.Get(i.FailedAttempt); ok && i.State != dossier.IssueClosed && proving.TestID(failed.Test, failed.Subjects) == t.ID {
			t.OpenIssues = append(t.OpenIssues, named(d, i.ID.Ref()))
		}
	}
	return t
}

// readable says a fact's value: a fact that is an id is said by what people call the record.
func readable(d *dossier.Dossier, value string) string {
	if len(value) != 36 {
		return value
	}
	if ref, ok := d.RefOf(value); ok {
		return d.Label(ref)
	}
	return "a record that has been removed"
}

// RecordAttempt stores an attempt at a test with the facts it depends on. A pass on the test
// of a remedied issue proves the remedy and closes the issue in the same write.
func (s *Service) RecordAttempt(ctx context.Context, a Actor, code string, in wire.NewAttempt, r Request) (wire.AttemptMade, error) {
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
	w, err := s.write(ctx, a, "record-attempt", code, "", r, func(d *dossier.Dossier) error {
		t, ok := proving.Find(d, in.Test)
		if !ok {
			return refuse("no-such-test", "id", in.Test)
		}
		if t.By == proving.Automatic && in.How == dossier.ByEye {
			return refuse("attempt-by-machine", "test", wording.Tests[t.Kind.Name].Title)
		}
		if d.Has(in.ID.Ref()) {
			return refuse("id-taken", "id", string(in.ID))
		}
		made := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: in.Outcome, Observed: in.Observed, Values: in.Values,
			Conditions: in.Conditions, Note: in.Note, How: in.How, By: a.ID, At: in.At, Facts: t.Facts}
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

// closeProven closes the remedied issues that were opened from this test before the attempt.
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
// from.
func proves(d *dossier.Dossier, i dossier.Issue, a dossier.Attempt) bool {
	failed, ok := d.Attempts.Get(i.FailedAttempt)
	return ok && a.Outcome == dossier.Pass && !a.At.Before(i.RemediedAt) &&
		proving.TestID(a.Test, a.Subjects) == proving.TestID(failed.Test, failed.Subjects)
}

// RunTests lets this machine carry out tests, one after the other, as a job. What was recorded
// stays when it is stopped.
func (s *Service) RunTests(ctx context.Context, a Actor, code string, in wire.Run) (wire.Job, error) {
	d, err := s.Home(ctx, a, "run-tests", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site", "code", code)
	}
	tests := Automatic(d, in.Tests)
	if len(tests) == 0 {
		return wire.Job{}, refuse("nothing-to-run")
	}
	return s.startJob(ctx, a, "run-tests", code, len(tests), func(ctx context.Context, j *job) error {
		for _, id := range tests {
			t, _ := proving.Find(d, id)
			j.step(wording.Tests[t.Kind.Name].Title + ", " + d.FullLabel(t.Subjects[0]))
			result, err := s.prober.Probe(ctx, d, id)
			if err != nil {
				return fmt.Errorf("run test %s: %w", id, err)
			}
			made, err := s.RecordAttempt(ctx, a, code, wire.MachineAttempt(result, wording.Result(result)), Request{})
			if err != nil {
				return err
			}
			j.did(made)
		}
		return nil
	})
}

// Automatic returns the tests a machine can do: those asked for, or all, in walking order.
func Automatic(d *dossier.Dossier, asked []string) []string {
	var out []string
	for _, t := range proving.Plan(d) {
		if t.By == proving.Automatic && (len(asked) == 0 || slices.Contains(asked, t.ID())) {
			out = append(out, t.ID())
		}
	}
	return out
}

// Needed returns the prerequisites of a home's paths, in the order of work.
func (s *Service) Needed(ctx context.Context, a Actor, code string) ([]wire.Prerequisite, error) {
	d, err := s.Home(ctx, a, "list-needed", code)
	if err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	out := []wire.Prerequisite{}
	for _, p := range proving.Prerequisites(d) {
		said := wording.Prerequisites[p.Need.What]
		one := wire.Prerequisite{What: p.Need.What, Side: p.Need.Side, Title: said.Sentence, Why: said.Remedy, Subject: named(d, p.Subject),
			Met: p.Met(), DoneBy: people.name(p.DoneBy), DoneAt: p.DoneAt, ProvedBy: p.ProvedBy, Refused: p.Refused, Note: p.Why}
		for _, id := range p.Paths {
			one.Paths = append(one.Paths, named(d, id.Ref()))
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
		p, ok := proving.Needed(d, in.What, in.Subject)
		if !ok {
			return refuse("not-needed", "what", in.What)
		}
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
