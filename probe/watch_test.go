package probe

import (
	"context"
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/practice"
)

// attended watches the source of the path with that name, does what a person would do at each moment, and returns what was seen.
func attended(t *testing.T, d *dossier.Dossier, path string, what proving.Watched, lasts time.Duration, does map[proving.Happening]func()) []proving.Moment {
	t.Helper()
	var of dossier.ID[dossier.Path]
	for _, p := range d.Paths {
		if p.Name == path {
			of = p.ID
		}
	}
	require.NotEmpty(t, of, path)
	var seen []proving.Moment
	p := Prober{Guard: Guard{Within: loopback}, WatchFor: lasts, WatchEach: 50 * time.Millisecond}
	require.NoError(t, p.Watch(t.Context(), d, of, what, func(m proving.Moment) {
		seen = append(seen, m)
		if act := does[m.What]; act != nil {
			act()
		}
	}))
	return seen
}

func happenings(seen []proving.Moment) (out []proving.Happening) {
	for _, m := range seen {
		out = append(out, m.What)
	}
	return out
}

// A server is followed through a restart, through sleep, and through a sample clip that is put into a folder and taken out.
func TestASourceIsWatchedWhileAPersonWorks(t *testing.T) {
	h := practice.New(131)
	require.NoError(t, h.Start(t.Context()))
	defer h.Stop()
	d := everyWay(131)
	flip := func(fault string, on bool) func() {
		return func() { assert.NoError(t, h.Switch(fault, on)) }
	}
	seen := attended(t, d, "photographs", proving.WatchesReturn, time.Minute, map[proving.Happening]func(){proving.IsThere: flip("goodbye", true), proving.IsAway: flip("goodbye", false)})
	assert.Equal(t, []proving.Happening{proving.IsThere, proving.IsAway, proving.Answers, proving.IsListed, proving.OpensAgain}, happenings(seen))
	values := proving.WatchValues(seen)
	assert.Len(t, values, 3)
	assert.LessOrEqual(t, values["answersAfterS"], values["listedAfterS"])
	assert.LessOrEqual(t, values["listedAfterS"], values["opensAfterS"])

	// It answers again before it is fit for use: its folders hang until somebody helps.
	flip("folders-hang", true)()
	seen = attended(t, d, "photographs", proving.WatchesReturn, 8*time.Second, map[proving.Happening]func(){proving.IsThere: flip("goodbye", true), proving.IsAway: flip("goodbye", false)})
	assert.NotContains(t, happenings(seen), proving.OpensAgain)
	assert.Equal(t, proving.GivenUp, seen[len(seen)-1].What)
	flip("folders-hang", false)()

	put := func(there bool) func() {
		return func() { assert.NoError(t, h.PutSample("Photos", there)) }
	}
	seen = attended(t, d, "photographs", proving.WatchesSamples, time.Minute, map[proving.Happening]func(){proving.IsThere: put(true), proving.Appeared: put(false)})
	assert.Equal(t, []proving.Happening{proving.IsThere, proving.Appeared, proving.Gone}, happenings(seen))
	assert.Contains(t, seen[1].Said, proving.SamplePrefix)

	// One that lies there from before is not taken for a new one.
	put(true)()
	seen = attended(t, d, "photographs", proving.WatchesSamples, time.Minute, map[proving.Happening]func(){proving.IsThere: put(false)})
	assert.Equal(t, []proving.Happening{proving.IsThere, proving.Gone}, happenings(seen))
	assert.Contains(t, seen[0].Said, proving.SamplePrefix)

	flip("asleep", true)()
	began := make(chan struct{})
	go func() {
		<-began
		flip("asleep", false)()
	}()
	seen = attended(t, d, "attic films", proving.WatchesWaking, time.Minute, map[proving.Happening]func(){proving.IsAway: func() { close(began) }})
	assert.Equal(t, []proving.Happening{proving.IsAway, proving.Answers}, happenings(seen), "it slept from the beginning")

	stopped, stop := context.WithCancel(t.Context())
	stop()
	require.ErrorIs(t, Prober{Guard: Guard{Within: loopback}}.Watch(stopped, d, d.Paths[0].ID, proving.WatchesReturn, func(proving.Moment) {}), context.Canceled)
	seen = attended(t, everyWay(131), "fog log", proving.WatchesSamples, time.Minute, nil)
	assert.Equal(t, []proving.Happening{proving.CannotSee}, happenings(seen))
	far := d.Clone()
	far.Segments[0].Prefix = netip.MustParsePrefix("10.20.4.0/24")
	seen = attended(t, far, "photographs", proving.WatchesReturn, time.Minute, nil)
	assert.Equal(t, []proving.Happening{proving.CannotSee}, happenings(seen))
}
