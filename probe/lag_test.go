package probe

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/practice"
)

func TestWaitsAreProlongedByHowFarTheMachineHasFallenBehind(t *testing.T) {
	for _, c := range []struct {
		name string
		lost time.Duration // of 100 s
		want time.Duration // of a wait of 1 s
	}{
		{"nothing", 0, time.Second},
		{"as much as any machine", 4 * time.Second, time.Second},
		{"a quarter", 25 * time.Second, 2 * time.Second},
		{"three quarters", 75 * time.Second, 4 * time.Second},
		{"more than has passed", 500 * time.Second, 4 * time.Second},
	} {
		l := &lag{began: time.Now().Add(-100 * time.Second)}
		l.lost.Store(int64(c.lost))
		assert.InDelta(t, c.want, l.patient(time.Second), float64(50*time.Millisecond), c.name)
	}
	assert.Equal(t, time.Second, (*lag)(nil).patient(time.Second), "where it is not measured")
}

// TestTheWholeOutlastsWhatWasGivenToItsParts of a machine that was busy at the beginning only.
func TestTheWholeOutlastsWhatWasGivenToItsParts(t *testing.T) {
	l := &lag{began: time.Now().Add(-2 * time.Second)}
	l.lost.Store(int64(time.Second))
	part := l.patient(8 * time.Second)
	assert.InDelta(t, 24*time.Second, part, float64(time.Second))
	l.began = l.began.Add(-time.Hour)
	assert.Equal(t, 12*time.Second, l.patient(12*time.Second))
	assert.GreaterOrEqual(t, l.outlast(12*time.Second), part*12/8)
	assert.Equal(t, 12*time.Second, (*lag)(nil).outlast(12*time.Second))
}

// TestOneLateTimerIsNotMuchOfABeginning is of the first moments of a scan.
func TestOneLateTimerIsNotMuchOfABeginning(t *testing.T) {
	l := &lag{began: time.Now()}
	l.lost.Store(int64(lagStep))
	assert.Equal(t, time.Second, l.patient(time.Second))
}

func TestOnlyWhatIsLateBeyondATimersOwnIsLost(t *testing.T) {
	l := &lag{began: time.Now()}
	l.slept(lagStep)
	l.slept(lagStep + lagSlack)
	assert.Zero(t, l.lost.Load())
	l.slept(lagStep + 3*time.Second)
	assert.Equal(t, 3*time.Second, time.Duration(l.lost.Load()))
}

// ear keeps when it was told to listen no longer.
type ear struct {
	once sync.Once
	end  chan time.Time
}

func (e *ear) SetReadDeadline(at time.Time) error {
	if !at.IsZero() {
		e.once.Do(func() { e.end <- time.Now() })
	}
	return nil
}

func TestABusyMachineListensLonger(t *testing.T) {
	began := time.Now()
	l := &lag{began: began.Add(-time.Hour)}
	l.lost.Store(int64(time.Hour))
	e := &ear{end: make(chan time.Time, 1)}
	defer l.hear(t.Context(), e, 50*time.Millisecond)()
	assert.GreaterOrEqual(t, (<-e.end).Sub(began), 200*time.Millisecond)

	ctx, cancel := context.WithCancel(t.Context())
	stopped := &ear{end: make(chan time.Time, 1)}
	defer l.hear(ctx, stopped, time.Hour)()
	cancel()
	<-stopped.end // at once
}

func TestWhatABusyMachineDidNotHearIsNotSilent(t *testing.T) {
	h := practice.New(111)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	d := bare(h)
	p := Prober{Guard: Guard{Within: loopback}, Late: time.Second, late: -time.Hour} // whatever else this machine is doing
	before, err := p.Scan(t.Context(), d, nil)
	require.NoError(t, err)
	require.False(t, before.Cut, "%s", before.Notes)
	require.NotEmpty(t, before.Hosts)
	h.Stop()
	p.late = time.Hour
	after, err := p.Scan(t.Context(), d, nil)
	require.NoError(t, err)
	assert.True(t, after.Cut)
	require.NotEmpty(t, after.Notes)
	assert.Contains(t, after.Notes[len(after.Notes)-1], "this machine was busy with other things for 100 % of the scan and may have missed answers")
	for _, b := range matching.Compare(d, after, before, nil) {
		assert.NotEqual(t, matching.SinceGone, b.Since, "%s", b.Host.Address)
	}
}

// TestABusyMachineFailsNothingByItsOwnSlowness asks once more, and does not call a silence a failure to which it did not listen.
func TestABusyMachineFailsNothingByItsOwnSlowness(t *testing.T) {
	for _, c := range []struct {
		name, kind string
		at         string
		late       time.Duration
		outcome    dossier.Outcome
		observed   string
	}{
		{"silent, and this machine listened", "found", "127.77.34.40", -time.Hour, dossier.Fail, "silence"},
		{"silent, and it did not listen", "found", "127.77.34.40", time.Hour, dossier.Impossible, "machine-busy"},
		{"refused, however busy it is", "reach", "127.77.34.41", time.Hour, dossier.Fail, "refused"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := recorded(34)
			setAddress(d, c.at)
			r, err := Prober{Guard: Guard{Within: loopback}, late: c.late}.Probe(t.Context(), d, planned(d, c.kind, d.Paths[0].ID.Ref()))
			require.NoError(t, err)
			assert.Equal(t, c.outcome, r.Outcome)
			assert.Equal(t, c.observed, string(r.Observed), "%v", r.Said)
			if r.Observed == "machine-busy" {
				assert.Equal(t, map[string]string{"percent": "100"}, r.Said)
			}
		})
	}
}

func TestWhatDidNotComeOnABusyMachineIsAskedForOnceMore(t *testing.T) {
	d := recorded(34)
	setAddress(d, "127.77.34.41")
	began := time.Now()
	_, err := Prober{Guard: Guard{Within: loopback}, late: 300 * time.Millisecond}.Probe(t.Context(), d, planned(d, "found", d.Paths[0].ID.Ref()))
	require.NoError(t, err)
	assert.Greater(t, time.Since(began), 3500*time.Millisecond, "one search takes 2.5 s by that")
}
