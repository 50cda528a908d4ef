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
	"kaiku/homes"
	"kaiku/practice"
	"kaiku/practice/layout"
)

// archive starts a house whose server also offers its Matroska films as MP4, and records the films as pushed to the device at that address.
func archive(t *testing.T, octet, host byte) (*practice.House, *dossier.Dossier, dossier.Path) {
	h, err := practice.Build(layout.SailLoft, octet)
	require.NoError(t, err)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	d := recorded(octet).Clone()
	d.Sources[0].UDN, d.Sources[0].ShownName, d.Sources[0].Converts = "", "", dossier.ConvertsAll
	d.Interfaces[1].Addresses = []netip.Addr{netip.AddrFrom4([4]byte{127, 77, octet, host})}
	d.Folders[0].Name, d.Folders[0].ContentKind = "Films", dossier.Film
	path := &d.Paths[0]
	path.Kind, path.FoundBy, path.Mode, path.Folders = dossier.AVPush, dossier.ByMulticast, dossier.ThroughServer, []dossier.ID[dossier.Folder]{d.Folders[0].ID}
	return h, d, *path
}

// What a device cannot play as it is is played to it in the form that the server makes; where it plays everything as it is, there is nothing to see.
func TestWhatIsConvertedIsPlayed(t *testing.T) {
	t.Parallel()
	h, d, path := archive(t, 137, 101)
	test := planned(d, "converts", path.ID.Ref())
	require.Equal(t, proving.Automatic, test.By)
	r, err := quickly().Probe(t.Context(), d, test)
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("played"), r.Observed, "%v", r)
	assert.Equal(t, dossier.Pass, r.Outcome)

	require.NoError(t, h.Switch("rate-cap", true))
	r, err = quickly().Probe(t.Context(), d, test)
	require.NoError(t, err)
	assert.Contains(t, []dossier.Outcome{dossier.Marginal, dossier.Fail}, r.Outcome, "%v", r)
	require.NoError(t, h.Switch("rate-cap", false))

	d.Interfaces[1].Addresses[0] = netip.AddrFrom4([4]byte{127, 77, 137, 102}) // the office screen plays Matroska
	r, err = quickly().Probe(t.Context(), d, test)
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("nothing-converted"), r.Observed, "%v", r)
	assert.Equal(t, dossier.Impossible, r.Outcome)
}

// Playing is watched at the heaviest minute, where it is known; and for long, one title after the other.
func TestPlayingIsWatchedWhereItIsHeaviest(t *testing.T) {
	t.Parallel()
	_, d, path := archive(t, 139, 102)
	d.Folders[0].Mix = []dossier.FormatEntry{{Container: dossier.Matroska, Heaviest: "Films/Film 38.mkv", HeaviestAt: 1800.5}}
	r, err := quickly().Probe(t.Context(), d, planned(d, "plays", path.ID.Ref()))
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("played"), r.Observed, "%v", r)
	assert.InDelta(t, 1800, r.Values["fromS"], 0, "it was watched from the heaviest minute on")

	long := planned(d, "long-play", path.ID.Ref())
	require.Equal(t, proving.Automatic, long.By)
	assert.Equal(t, time.Hour, long.Kind.Lasts())
	r, err = quickly().Probe(t.Context(), d, long)
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("no-stall-seen"), r.Observed, "%v", r)
	assert.Equal(t, dossier.Impossible, r.Outcome, "that the screen stays on is not for a machine to say")
}

// A title that ends too soon is followed by another; one that stalls in any of them has stalled.
func TestPlayingForLongGoesOnToTheNext(t *testing.T) {
	for name, c := range map[string]struct {
		at    func(time.Duration) string
		sees  string
		again int
	}{
		"it plays":  {exactly, "no-stall-seen", 2},
		"it stands": {func(d time.Duration) string { return exactly(min(d, time.Second)) }, "stalled", 0},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			x := &transport{at: c.at}
			if c.again > 0 {
				x.ends = 2500 * time.Millisecond
			}
			r := facing(t, x)
			r.length = 4 * time.Second
			again := 0
			r.goOnFor(t.Context(), 6*time.Second, func(context.Context) bool { again++; return true })
			assert.Equal(t, c.sees, string(r.result.Observed), "%v", r.result.Said)
			assert.Equal(t, c.again, again)
		})
	}
}

func TestTheHeaviestFileIsKnownByItsName(t *testing.T) {
	folders := []dossier.Folder{{Mix: []dossier.FormatEntry{{Heaviest: "b/Fog Signal.mkv", HeaviestAt: 61.9}, {}}}}
	for _, c := range []struct {
		o    object
		want time.Duration
	}{
		{object{title: "Fog Signal", length: time.Hour}, 61 * time.Second},
		{object{title: "Fog Signal.mkv"}, 61 * time.Second},
		{object{title: "other", res: resource{address: "http://127.0.0.1/x/Fog%20Signal.mkv"}}, 0},
		{object{title: "Fog Signal", length: time.Minute}, 0},
		{object{title: "Fog Signals"}, 0},
		{object{}, 0},
	} {
		assert.Equal(t, c.want, heaviestOf(folders, c.o), "%+v", c.o)
	}
	assert.Zero(t, heaviestOf([]dossier.Folder{homes.Small().Folders[0]}, object{title: "x"}))
}
