package probe

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
)

// What is pushed to several devices at once is watched on all of them, and those that stand still are named.
func TestASetIsPlayedTogether(t *testing.T) {
	h := start(t, 135)
	d := everyWay(135)
	kitchen := dossier.Device{Name: "kitchen music", Roles: []dossier.Role{dossier.RoleScreen}}
	kitchen.ID = homes.ID[dossier.Device](800)
	d.Devices.Put(kitchen)
	adapter := dossier.Interface{Device: kitchen.ID, Name: "wlan0", Segment: d.Segments[0].ID, Addresses: []netip.Addr{netip.AddrFrom4([4]byte{127, 77, 135, 23})}}
	adapter.ID = homes.ID[dossier.Interface](800)
	d.Interfaces.Put(adapter)
	songs := dossier.Folder{Source: d.Sources[0].ID, Name: "Music", ContentKind: dossier.Music}
	songs.ID = homes.ID[dossier.Folder](800)
	d.Folders.Put(songs)
	music := dossier.Path{Name: "kitchen music", Kind: dossier.AVPush, Device: kitchen.ID, Source: d.Sources[0].ID, FoundBy: dossier.ByMulticast, Folders: []dossier.ID[dossier.Folder]{songs.ID}}
	music.ID = homes.ID[dossier.Path](800)
	d.Paths.Put(music)
	set := dossier.BusySet{Name: "evening", Paths: []dossier.ID[dossier.Path]{music.ID}}
	for _, p := range d.Paths {
		if p.Name == "pushed films" {
			set.Paths = append(set.Paths, p.ID)
		}
	}
	set.ID = homes.ID[dossier.BusySet](800)
	d.BusySets.Put(set)
	tracks, err := quickly().Probe(t.Context(), d, planned(d, "gapless", music.ID.Ref()))
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("no-gap-seen"), tracks.Observed, "%v", tracks)
	// The stick in the parlour takes one track at a time.
	adapter.Segment, adapter.Addresses = d.Segments[1].ID, []netip.Addr{netip.AddrFrom4([4]byte{127, 77, 136, 133})}
	d.Interfaces.Put(adapter)
	tracks, err = quickly().Probe(t.Context(), d, planned(d, "gapless", music.ID.Ref()))
	require.NoError(t, err)
	assert.Equal(t, dossier.Observed("no-next"), tracks.Observed, "%v", tracks)
	adapter.Segment, adapter.Addresses = d.Segments[0].ID, []netip.Addr{netip.AddrFrom4([4]byte{127, 77, 135, 23})}
	d.Interfaces.Put(adapter)

	test := planned(d, "busy-set", set.ID.Ref())
	require.Equal(t, proving.Automatic, test.By)
	played := func() proving.Result {
		r, err := quickly().Probe(t.Context(), d, test)
		require.NoError(t, err)
		return r
	}
	r := played()
	assert.Equal(t, dossier.Pass, r.Outcome, "%v", r)
	assert.Equal(t, dossier.Observed("all-played"), r.Observed)
	assert.InDelta(t, 2, r.Values["paths"], 0)

	require.NoError(t, h.Switch("slow-station", true))
	r = played()
	assert.Equal(t, dossier.Fail, r.Outcome)
	assert.Equal(t, dossier.Observed("some-stalled"), r.Observed, "%v", r)
	assert.Equal(t, "pushed films", r.Said["stalled"], "the music goes on")
	require.NoError(t, h.Switch("slow-station", false))

	// One that cannot be found keeps the set from being played, and nothing is left playing.
	d.Interfaces.Find(adapter.ID).Addresses = []netip.Addr{netip.AddrFrom4([4]byte{127, 77, 135, 99})}
	r = played()
	assert.Equal(t, dossier.Impossible, r.Outcome)
	d.Paths.Find(music.ID).Kind = dossier.AVPull
	assert.Equal(t, proving.Eye, planned(d, "busy-set", set.ID.Ref()).By, "what is not pushed cannot be started by a machine")
}
