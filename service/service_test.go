package service_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/demo"
	"kaiku/practice"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// prober fails every test, or stops the run after the first.
type prober struct{ cancel context.CancelFunc }

func (prober) View(context.Context, *dossier.Dossier, dossier.ID[dossier.Source], dossier.ID[dossier.Device]) (matching.View, error) {
	return matching.View{}, nil
}

func (prober) Where() (network.Place, error) { return network.Place{}, nil }

func (prober) Watch(context.Context, *dossier.Dossier, dossier.ID[dossier.Path], proving.Watched, func(proving.Moment)) error {
	return nil
}

func (prober) ReadFolder(context.Context, *dossier.Dossier, dossier.Folder, contents.Wanted, func(contents.Progress)) (contents.Contents, error) {
	return contents.Contents{}, nil
}

func (prober) ScanOf(context.Context, *dossier.Dossier, matching.Wanted, func(matching.Progress)) (matching.Scan, error) {
	return matching.Scan{}, nil
}

func (p prober) Probe(ctx context.Context, _ *dossier.Dossier, test proving.Test) (proving.Result, error) {
	if p.cancel != nil {
		defer p.cancel()
	}
	return proving.Result{Test: test.ID(), Outcome: dossier.Fail, Observed: "refused", Said: map[string]string{"address": "10.0.0.1:80"}, At: time.Now()}, ctx.Err()
}

// filled is the demo's home on the demo's clock, which has stopped.
func filled(t *testing.T, p service.Prober) (*service.Service, map[string]service.Actor) {
	return filledWith(t, service.Options{Prober: p})
}

// keepers is a data folder with the demo's home, filled once; each test works on a copy.
var keepers = sync.OnceValues(func() (*demo.Clock, error) {
	clock := demo.NewClock(time.Now())
	house := practice.New(1)
	if err := house.Start(context.Background()); err != nil {
		return nil, err
	}
	defer house.Stop()
	st, err := store.Open(context.Background(), keepersDir, store.Options{Now: clock.Now})
	if err != nil {
		return nil, err
	}
	return clock, errors.Join(demo.Fill(context.Background(), service.New(st, service.Options{Now: clock.Now}), clock, 1, "H-0001"), st.Close())
})

var keepersDir string

func TestMain(m *testing.M) {
	var err error
	if keepersDir, err = os.MkdirTemp("", "kaiku-keepers-"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	_ = os.RemoveAll(keepersDir)
	os.Exit(code)
}

func filledWith(t *testing.T, o service.Options) (*service.Service, map[string]service.Actor) {
	clock, err := keepers()
	require.NoError(t, err)
	dir := filepath.Join(t.TempDir(), "data")
	require.NoError(t, os.CopyFS(dir, os.DirFS(keepersDir)))
	st, err := store.Open(t.Context(), dir, store.Options{Now: clock.Now, Guard: true})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := service.New(st, o)
	people, err := st.People(t.Context())
	require.NoError(t, err)
	actors := map[string]service.Actor{}
	for _, one := range people {
		actors[one.Login] = service.Actor{ID: one.ID, Name: one.Name, Role: service.Role(one.Role)}
	}
	return s, actors
}

func TestTodaySaysWhatWaitsForWhom(t *testing.T) {
	s, as := filled(t, nil)
	for _, c := range []struct {
		who           string
		waiting, held []string
		others        []string
	}{
		{"maarit", []string{"handover-to-me"}, nil, nil},
		{"petri", []string{"issue-mine", "blockers", "tests-failed", "tests-untried"}, []string{"H-0001"}, nil},
		{"ilona", nil, nil, []string{"handover-unwatched"}},
		{"tilit", nil, nil, nil},
	} {
		t.Run(c.who, func(t *testing.T) {
			today, err := s.Today(t.Context(), as[c.who])
			require.NoError(t, err)
			var waiting, held, others []string
			for _, w := range today.Waiting {
				waiting = append(waiting, w.Code)
				assert.NotContains(t, w.Sentence, "{", "a slot was not filled")
				assert.NotEmpty(t, w.Place)
			}
			for _, h := range today.Held {
				held = append(held, h.Code)
			}
			for _, o := range today.Others {
				others = append(others, o.Code)
			}
			assert.Equal(t, c.waiting, waiting)
			assert.Equal(t, c.held, held)
			assert.Equal(t, c.others, others)
		})
	}
	_, err := s.Today(t.Context(), service.Actor{})
	assertRefused(t, err, "not-logged-in")
}

func assertRefused(t *testing.T, err error, code string) {
	t.Helper()
	var r *service.Refusal
	require.ErrorAs(t, err, &r)
	assert.Equal(t, code, r.Code)
	assert.Contains(t, wording.Errors, r.Code)
	assert.NotEmpty(t, r.Error())
}

func TestOverviewAnswersFourQuestions(t *testing.T) {
	s, as := filled(t, nil)
	o, err := s.Overview(t.Context(), as["petri"], "H-0001")
	require.NoError(t, err)
	assert.Len(t, o.NotProven, o.Coverage.Required-o.Coverage.Proven)
	assert.Equal(t, 1, o.Coverage.Proven)
	assert.Len(t, o.Issues, 1)
	assert.Equal(t, "Petri Lokki", o.Custodian.Name)
	assert.NotEmpty(t, o.Next)
	assert.True(t, o.MayWrite)
	require.NotNil(t, o.Handover)
	assert.Equal(t, dossier.Offered, o.Handover.Record.State)
	o, err = s.Overview(t.Context(), as["maarit"], "H-0001")
	require.NoError(t, err)
	assert.False(t, o.MayWrite)
	assert.Equal(t, "handover-to-me", o.Next[0].Code, "what waits for the asking person comes first")
	assert.Contains(t, o.Handover.StepsOK, "confirm")
	_, err = s.Overview(t.Context(), as["petri"], "H-0999")
	assertRefused(t, err, "no-such-household")
}

// ended waits for a job.
func ended(t *testing.T, s *service.Service, a service.Actor, j wire.Job, err error) wire.Job {
	require.NoError(t, err)
	assert.Equal(t, "running", j.State)
	j, err = s.Job(t.Context(), a, j.Household, j.ID, 20*time.Second)
	require.NoError(t, err)
	require.NotEqual(t, "running", j.State)
	return j
}

// held is a prober whose tests last until they are stopped.
type held struct{ begun chan struct{} }

func (held) View(context.Context, *dossier.Dossier, dossier.ID[dossier.Source], dossier.ID[dossier.Device]) (matching.View, error) {
	return matching.View{}, nil
}

func (held) Where() (network.Place, error) { return network.Place{}, nil }

func (held) Watch(context.Context, *dossier.Dossier, dossier.ID[dossier.Path], proving.Watched, func(proving.Moment)) error {
	return nil
}

func (held) ReadFolder(context.Context, *dossier.Dossier, dossier.Folder, contents.Wanted, func(contents.Progress)) (contents.Contents, error) {
	return contents.Contents{}, nil
}

func (held) ScanOf(context.Context, *dossier.Dossier, matching.Wanted, func(matching.Progress)) (matching.Scan, error) {
	return matching.Scan{}, nil
}

func (h held) Probe(ctx context.Context, _ *dossier.Dossier, test proving.Test) (proving.Result, error) {
	close(h.begun)
	<-ctx.Done()
	return proving.Result{Test: test.ID()}, ctx.Err()
}

func TestAJobTellsHowFarItIsAndIsStopped(t *testing.T) {
	h := held{make(chan struct{})}
	s, as := filled(t, h)
	defer s.Close()
	_, _, events, stop := s.Follow(s.LastEvent())
	defer stop()
	j, err := s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	require.NoError(t, err)
	assert.Equal(t, 7, j.Of)
	<-h.begun
	e := <-events
	require.NotNil(t, e.Job)
	assert.Equal(t, "Source answers, parlour films", e.Job.Doing)
	assert.Equal(t, "running", e.Job.State)
	assert.Zero(t, e.Revision, "nothing was written")
	_, err = s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	assertRefused(t, err, "job-running")
	_, err = s.StopJob(t.Context(), as["tilit"], "H-0001", j.ID)
	assertRefused(t, err, "not-allowed")
	_, err = s.Job(t.Context(), as["tilit"], "H-0001", "nonsense", 0)
	assertRefused(t, err, "no-such-job")
	j, err = s.StopJob(t.Context(), as["petri"], "H-0001", j.ID)
	require.NoError(t, err)
	assert.Equal(t, "stopped", j.State)
	assert.Empty(t, j.Made)
	e = <-events
	assert.Equal(t, "stopped", e.Job.State)
	list, err := s.Jobs(t.Context(), as["tilit"], "H-0001")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, j, list[0])
}

func TestAServiceThatEndsStopsItsJobs(t *testing.T) {
	h := held{make(chan struct{})}
	s, as := filled(t, h)
	j, err := s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	require.NoError(t, err)
	<-h.begun
	s.Close()
	j, err = s.Job(t.Context(), as["petri"], "H-0001", j.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "stopped", j.State)
	_, err = s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	require.ErrorIs(t, err, context.Canceled)
}

func TestAMachinesFailureIsRecordedWithWhatItSaw(t *testing.T) {
	s, as := filled(t, prober{})
	defer s.Close()
	j, err := s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	done := ended(t, s, as["petri"], j, err)
	assert.Equal(t, "ended", done.State)
	assert.Equal(t, done.Of, done.Done)
	require.Len(t, done.Made, 4, "two paths: whether the source answers and the server is found; what needs that is left out")
	assert.Equal(t, done.Of-4, done.LeftOut)
	for _, m := range done.Made {
		assert.Equal(t, proving.Failed, m.Test.Status)
		assert.Equal(t, "the connection to 10.0.0.1:80 was refused", m.Attempt.Note)
		assert.Equal(t, dossier.ByMachine, m.Attempt.How)
	}
	_, err = s.RunTests(t.Context(), as["maarit"], "H-0001", wire.Run{})
	assertRefused(t, err, "not-allowed")
}

func TestAttemptsUnderAnOfferOutdateIt(t *testing.T) {
	s, as := filled(t, prober{})
	defer s.Close()
	j, err := s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{})
	ended(t, s, as["petri"], j, err)
	o, err := s.Overview(t.Context(), as["petri"], "H-0001")
	require.NoError(t, err)
	assert.Equal(t, dossier.Outdated, o.Handover.Record.State)
	assert.Contains(t, o.Handover.StepsOK, "offer")
}

func TestUnknownStepsAndRecords(t *testing.T) {
	s, as := filled(t, nil)
	ctx := t.Context()
	_, err := s.StepIssue(ctx, as["petri"], "H-0001", "x", "dance", wire.IssueStep{}, service.Request{})
	assertRefused(t, err, "no-such-page")
	_, err = s.StepIssue(ctx, as["petri"], "H-0001", "x", "take", wire.IssueStep{}, service.Request{})
	assertRefused(t, err, "no-such-record")
	_, err = s.StepHandover(ctx, as["petri"], "H-0001", "x", "dance", wire.HandoverStep{}, service.Request{})
	assertRefused(t, err, "no-such-page")
	_, err = s.StepHandover(ctx, as["petri"], "H-0001", "x", "offer", wire.HandoverStep{}, service.Request{})
	assertRefused(t, err, "no-such-record")
	_, err = s.Issue(ctx, as["petri"], "H-0001", "x")
	assertRefused(t, err, "no-such-record")
	_, err = s.Handover(ctx, as["petri"], "H-0001", "x")
	assertRefused(t, err, "no-such-record")
	err = s.Assign(ctx, as["aino"], "H-0001", wire.Assign{To: "nobody", Why: "x"}, service.Request{})
	assertRefused(t, err, "no-such-person")
	_, err = s.Begin(ctx, as["aino"], wire.NewHousehold{Code: "H-0002", Name: "x", Custodian: "tilit"}, service.Request{})
	assertRefused(t, err, "no-receiver")
	_, err = s.Begin(ctx, as["aino"], wire.NewHousehold{Code: "H-0001", Name: "x"}, service.Request{})
	assertRefused(t, err, "code-taken")
}

func TestOneIdempotencyKeyMakesOneIssue(t *testing.T) {
	s, as := filled(t, nil)
	r := service.Request{Key: "k", Hash: "h"}
	first, err := s.OpenIssue(t.Context(), as["petri"], "H-0001", wire.NewIssue{Symptom: "hum"}, r)
	require.NoError(t, err)
	again, err := s.OpenIssue(t.Context(), as["petri"], "H-0001", wire.NewIssue{Symptom: "hum"}, r)
	require.NoError(t, err)
	assert.Equal(t, first.Record.ID, again.Record.ID)
	_, err = s.OpenIssue(t.Context(), as["petri"], "H-0001", wire.NewIssue{Symptom: "buzz"}, service.Request{Key: "k", Hash: "other"})
	assertRefused(t, err, "key-reused")
	_, err = s.OpenIssue(t.Context(), as["aino"], "H-0001", wire.NewIssue{Symptom: "hum"}, r)
	require.NoError(t, err, "another person's key is another key")
}

func TestEveryRightHasWordsAndEveryKindItsOperations(t *testing.T) {
	_, declared := service.RightOf("dance-room")
	assert.False(t, declared)
	for _, k := range dossier.Kinds {
		for _, op := range []string{"list-" + k.Plural, "show-" + k.Name} {
			r, ok := service.RightOf(op)
			assert.True(t, ok, op)
			assert.Equal(t, service.Reads, r)
		}
		for _, v := range []dossier.Verb{dossier.Add, dossier.Set, dossier.Remove} {
			r, ok := service.RightOf(string(v) + "-" + k.Name)
			byCase := v == dossier.Add && (k.Name == "secret" || k.Name == "attachment") // added by a use-case of their own
			assert.Equal(t, k.Allows(v) || byCase, ok, "%s %s", v, k.Name)
			if ok {
				assert.Equal(t, service.Writes, r)
			}
		}
	}
}
