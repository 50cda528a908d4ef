package service_test

import (
	"context"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/service"
	"kaiku/wire"
)

// nightProber answers as it is told, and counts how often each test was carried out.
type nightProber struct {
	prober
	now     func() time.Time
	mu      sync.Mutex
	fails   map[string]int // identity of a test, how often it fails yet
	cannot  string
	carried map[string]int
}

func (p *nightProber) Probe(ctx context.Context, _ *dossier.Dossier, t proving.Test) (proving.Result, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.carried[t.ID()]++
	out := proving.Result{Test: t.ID(), Outcome: dossier.Pass, Observed: "answered", Said: map[string]string{"roundTripMs": "3", "folders": "3"}, At: p.now()}
	if p.fails[t.ID()] > 0 {
		p.fails[t.ID()]--
		out.Outcome, out.Observed, out.Said = dossier.Fail, "refused", map[string]string{"address": "127.77.1.10:8200"}
	}
	if t.ID() == p.cannot {
		out.Outcome, out.Observed = dossier.Impossible, "machine-busy"
	}
	return out, ctx.Err()
}

// night is a home whose tests are repeated at three, and the clock of its machine.
type night struct {
	*testing.T
	service *service.Service
	as      map[string]service.Actor
	prober  *nightProber
	now     time.Time
}

func newNight(t *testing.T) *night {
	clock, err := keepers()
	require.NoError(t, err)
	n := &night{T: t}
	at := func() time.Time { return n.now }
	n.now = clock.Now().AddDate(0, 0, 1)
	n.prober = &nightProber{now: at, fails: map[string]int{}, carried: map[string]int{}}
	n.service, n.as = filledWith(t, service.Options{Prober: n.prober, Now: at, NightPause: time.Nanosecond})
	t.Cleanup(n.service.Close)
	_, err = n.service.SetNightly(t.Context(), n.as["petri"], "H-0001", wire.SetNightly{At: "03:00"})
	require.NoError(t, err)
	return n
}

// at lets it be that many minutes after midnight of the n-th day, begins what is due and waits for it.
func (n *night) at(day, minutes int) wire.NightRun {
	y, m, d := n.now.Date()
	n.now = time.Date(y, m, d+day, 0, minutes, 0, 0, n.now.Location())
	require.NoError(n, n.service.RepeatDue(n.Context()))
	n.service.Settle()
	return n.last("H-0001")
}

func (n *night) last(code string) wire.NightRun {
	got, err := n.service.Nightly(n.Context(), n.as["petri"], code)
	require.NoError(n, err)
	if got.Last == nil {
		return wire.NightRun{}
	}
	return *got.Last
}

func (n *night) statuses() map[string]proving.Status {
	p, err := n.service.Plan(n.Context(), n.as["petri"], "H-0001")
	require.NoError(n, err)
	out := map[string]proving.Status{}
	for _, t := range p.Tests {
		out[t.ID] = t.Status
	}
	return out
}

func TestTestsAreRepeatedByNight(t *testing.T) {
	n := newNight(t)
	assert.Zero(t, n.at(1, 179), "it began before its time")
	first := n.at(0, 180)
	require.NotZero(t, first.Ended)
	assert.Empty(t, first.Failed)
	assert.NotZero(t, first.Changed, "what was not proven is proven by the first night")
	again := n.at(0, 200)
	assert.Equal(t, first.Began, again.Began, "it ran twice in one night")

	before := n.statuses()
	var lost, shaky, undone string
	for id := range n.prober.carried {
		kind, _, _ := strings.Cut(id, ":")
		k, _ := proving.KindNamed(kind)
		assert.True(t, k.Quiet, "%s disturbs somebody", id)
		if before[id] != proving.Proven || len(k.After) > 0 && kind != "opens" {
			continue
		}
		switch kind {
		case "found":
			lost = id
		case "reach":
			shaky = id
		case "opens":
			undone = id
		}
	}
	require.NotEmpty(t, lost)
	require.NotEmpty(t, shaky)
	n.prober.fails = map[string]int{lost: 9, shaky: 1}
	n.prober.cannot = undone
	second := n.at(1, 185)
	require.Len(t, second.Changed, 1, "a failure that does not come again is none: %v", second.Changed)
	assert.Equal(t, wire.NightChange{NightUndone: wire.NightUndone{Test: lost, Title: second.Changed[0].Title, Said: second.Changed[0].Said}, Was: proving.Proven, Is: proving.Failed}, second.Changed[0])
	assert.Equal(t, second.Repeated, second.AsBefore+len(second.Undone)+1)
	require.Len(t, second.Undone, 1)
	after := n.statuses()
	assert.Equal(t, proving.Proven, after[undone], "what could not be carried out says nothing")
	assert.Equal(t, proving.Failed, after[lost])

	today, err := n.service.Today(t.Context(), service.Actor{ID: n.as["petri"].ID, Name: "Petri", Role: service.Technician, Now: n.now})
	require.NoError(t, err)
	assert.Equal(t, "night-found", today.Waiting[0].Code)
	assert.Contains(t, today.Waiting[0].Sentence, "is failed, and was proven before")

	third := n.at(1, 185)
	assert.Empty(t, third.Changed, "a failure that is known is not recorded again")
	n.now = n.now.Add(3 * 24 * time.Hour)
	assert.Contains(t, n.last("H-0001").Sentence, "did not run in the nights since")
}

// What is repeated in somebody's name needs that person's right, and a machine that stands in the home.
func TestNothingIsRepeatedWithoutRightOrElsewhere(t *testing.T) {
	n := newNight(t)
	_, err := n.service.Begin(t.Context(), n.as["petri"], wire.NewHousehold{Code: "H-0900", Name: "Far House"}, service.Request{})
	require.NoError(t, err)
	_, err = n.service.SetNightly(t.Context(), n.as["petri"], "H-0900", wire.SetNightly{At: "03:00"})
	require.NoError(t, err)
	_, err = n.service.SetNightly(t.Context(), n.as["tilit"], "H-0001", wire.SetNightly{At: "04:00"})
	var no *service.Refusal
	require.ErrorAs(t, err, &no, "who may not write sets no time")
	n.at(1, 190)
	assert.Contains(t, n.last("H-0900").Failed, "was not in the home")

	carried := len(n.prober.carried)
	yes := true
	_, err = n.service.ChangePerson(t.Context(), n.as["ilona"], n.as["petri"].ID, wire.PersonChange{Suspended: &yes, HandOnTo: string(n.as["maarit"].ID)})
	require.NoError(t, err)
	y, m, d := n.now.Date()
	n.now = time.Date(y, m, d+1, 3, 30, 0, 0, n.now.Location())
	require.NoError(t, n.service.RepeatDue(t.Context()))
	n.service.Settle()
	got, err := n.service.Nightly(t.Context(), n.as["ilona"], "H-0001")
	require.NoError(t, err)
	assert.Contains(t, got.Last.Failed, "may not run tests here any more")
	assert.Len(t, n.prober.carried, carried)
}

func TestWhenANightIsDue(t *testing.T) {
	at := func(s string) time.Time {
		out, err := time.ParseInLocation("2006-01-02 15:04", s, time.UTC)
		require.NoError(t, err)
		return out
	}
	for _, c := range []struct {
		now, at, last string
		due           bool
	}{
		{"2026-11-29 02:59", "03:00", "2026-11-28 03:00", false},
		{"2026-11-29 03:00", "03:00", "2026-11-28 03:00", true},
		{"2026-11-29 03:10", "03:00", "2026-11-29 03:00", false},
		{"2026-11-29 04:59", "03:00", "2026-11-28 03:00", true},
		{"2026-11-29 05:00", "03:00", "2026-11-28 03:00", false}, // the machine was off; people are about
		{"2026-11-29 00:20", "23:30", "2026-11-27 23:31", true},  // over midnight
		{"2026-11-29 00:20", "23:30", "2026-11-28 23:31", false},
		{"2026-11-29 03:00", "", "2026-11-28 03:00", false},
	} {
		assert.Equal(t, c.due, service.NightDue(at(c.now), c.at, at(c.last)), "%v", c)
	}
}

// watcher is a source that is watched, and goes through a restart.
type watcher struct{ prober }

func (watcher) Watch(_ context.Context, _ *dossier.Dossier, _ dossier.ID[dossier.Path], _ proving.Watched, tell func(proving.Moment)) error {
	for n, what := range []proving.Happening{proving.IsThere, proving.IsAway, proving.Answers, proving.OpensAgain} {
		tell(proving.Moment{What: what, After: time.Duration(n*20) * time.Second})
	}
	return nil
}

// What was seen while a source was watched is given back with the numbers to record, and nothing is recorded by itself.
func TestWhatIsWatchedIsGivenBack(t *testing.T) {
	s, as := filled(t, watcher{})
	t.Cleanup(s.Close)
	ctx, petri := t.Context(), as["petri"]
	plan, err := s.Plan(ctx, petri, "H-0001")
	require.NoError(t, err)
	var step wire.ProofStep
	for _, one := range plan.Reproof {
		if one.Act == "restart-server" {
			step = one
		}
	}
	require.NotEmpty(t, step.Watch)
	job, err := s.Watch(ctx, petri, "H-0001", wire.Watch{Test: step.Watch})
	require.NoError(t, err)
	s.Settle()
	job, err = s.Job(ctx, petri, "H-0001", job.ID, 0)
	require.NoError(t, err)
	require.NotNil(t, job.Watched)
	assert.Equal(t, map[string]float64{"answersAfterS": 20, "opensAfterS": 40}, job.Watched.Values)
	assert.Equal(t, "The server answers again, 20 s after it went away.", job.Watched.Moments[2].Sentence)
	now, err := s.Plan(ctx, petri, "H-0001")
	require.NoError(t, err)
	assert.Equal(t, plan.Revision, now.Revision)

	made, err := s.RecordAttempt(ctx, petri, "H-0001", wire.NewAttempt{Test: step.Watch, Outcome: dossier.Pass, Values: job.Watched.Values, Note: "it plays"}, service.Request{})
	require.NoError(t, err)
	assert.Equal(t, "it plays; The server answered again after 20 s; Its folders opened again after 40 s", made.Attempt.Note)

	// What was measured to take longer than the test allows has not passed.
	for _, x := range plan.Tests {
		name, longest := proving.LongestFor(x.Kind)
		if name == "" {
			continue
		}
		late := wire.NewAttempt{Test: x.ID, Outcome: dossier.Pass, Values: map[string]float64{name: longest + 1}}
		_, err = s.RecordAttempt(ctx, petri, "H-0001", late, service.Request{})
		require.ErrorContains(t, err, "The test allows", x.Kind)
		late.Outcome = dossier.Marginal
		_, err = s.RecordAttempt(ctx, petri, "H-0001", late, service.Request{})
		require.NoError(t, err, x.Kind)
		late.Outcome, late.Values[name] = dossier.Pass, longest
		_, err = s.RecordAttempt(ctx, petri, "H-0001", late, service.Request{})
		require.NoError(t, err, x.Kind)
	}

	var no *service.Refusal
	_, err = s.Watch(ctx, petri, "H-0001", wire.Watch{Test: strings.Replace(step.Watch, "survives-restart", "plays", 1)})
	require.ErrorAs(t, err, &no)
	_, err = s.Watch(ctx, petri, "H-0001", wire.Watch{Test: "survives-restart:nowhere"})
	require.ErrorAs(t, err, &no)
	office, as := filled(t, nil)
	_, err = office.Watch(ctx, as["petri"], "H-0001", wire.Watch{Test: step.Watch})
	require.ErrorAs(t, err, &no)
}
