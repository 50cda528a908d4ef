package propose_test

import (
	"net/netip"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/knowledge"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/pathkind"
	"kaiku/core/propose"
	"kaiku/homes"
)

func look(d *dossier.Dossier) *assess.Assessment {
	return assess.Assess(d, knowledge.Knowledge{}, homes.Day)
}

// stick adds a player to a sound home, in the segment of its screen, with a wish for films in its room.
func stick(t require.TestingT, seed int) (*homes.SoundHome, dossier.ID[dossier.Device]) {
	h := rapid.Custom(homes.Sound).Example(seed)
	screen, _ := h.Devices.Get(h.Screen)
	port, there := h.Interfaces.Get(h.ScreenPort)
	require.True(t, there)
	v := homes.Put(h, dossier.Device{Name: "stick", Room: screen.Room, Roles: []dossier.Role{dossier.RolePlayer}})
	homes.Put(h, dossier.Interface{Device: v, Name: "wireless", Segment: port.Segment, Addresses: []netip.Addr{h.Address(77)}, AddressBy: dossier.BySetting, Medium: dossier.OnRadio})
	h.Wishes = nil
	homes.Put(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: screen.Room, Need: dossier.Needed})
	return h, v
}

func proposed(h *homes.SoundHome, device dossier.ID[dossier.Device]) propose.Proposal {
	v, _ := h.Devices.Get(device)
	return propose.For(look(h.Dossier), v)
}

func find(t require.TestingT, p propose.Proposal, k dossier.PathKind, s dossier.ID[dossier.Source]) propose.Way {
	for _, w := range p.Wished {
		for _, way := range w.Ways {
			if way.Path.Kind == k && way.Path.Source == s {
				return way
			}
		}
	}
	require.Failf(t, "no such way", "%s", k)
	return propose.Way{}
}

// A way says what would be found of it if it were recorded, and recording it finds just that.
func TestAWayIsWhatRecordingItWouldShow(t *testing.T) {
	for seed := range 20 {
		h, device := stick(t, seed)
		before := look(h.Dossier)
		p := proposed(h, device)
		require.Equal(t, dossier.Film, p.Wished[0].What)
		for _, w := range p.Wished[0].Ways {
			require.False(t, w.Exists)
			made := w.Path
			made.ID, made.Name = "", "the new one"
			id := homes.Put(h, made)
			after := look(h.Dossier)
			blocked := slices.ContainsFunc(after.Findings, func(f network.Finding) bool {
				return f.Severity == network.Blocker && slices.Contains(f.Subjects, id.Ref()) && !f.Among(before.Findings)
			})
			assert.Equal(t, !w.Possible(), blocked, "seed %d: %s from %s: %v", seed, w.Path.Kind, h.Label(w.Path.Source.Ref()), w.Blocks)
			i := slices.IndexFunc(after.Load().Alone, func(c load.Case) bool { return c.Paths[0] == id })
			assert.Equal(t, after.Load().Alone[i].State, w.Load.State)
			h.Paths.Delete(id)
		}
	}
}

func TestWhatKeepsAWayFromWorking(t *testing.T) {
	h, device := stick(t, 1)
	pull := func() propose.Way { return find(t, proposed(h, device), dossier.AVPull, h.Source) }
	require.True(t, pull().Possible(), "%v", pull().Blocks)
	assert.Equal(t, dossier.ByMulticast, pull().Path.FoundBy)
	assert.NotEmpty(t, pull().Second)
	assert.False(t, pull().Path.DeviceEnd.Address.IsValid(), "what is found by multicast is not typed in")
	assert.True(t, pull().Path.ServerEnd.Address.IsValid())
	assert.Equal(t, 40210, pull().Path.ServerEnd.Port)

	// In a segment of its own nothing is heard by multicast, but a typed address does.
	other := homes.Put(h, dossier.Segment{Name: "other", Prefix: netip.MustParsePrefix("10.99.1.0/24")})
	for _, i := range h.Interfaces {
		if i.Device == device {
			homes.Set(h, i.ID, func(i *dossier.Interface) {
				i.Segment, i.Addresses = other, []netip.Addr{netip.MustParseAddr("10.99.1.7")}
			})
		}
	}
	w := pull()
	require.True(t, w.Possible(), "%v", w.Blocks)
	assert.NotEqual(t, dossier.ByMulticast, w.Path.FoundBy)
	push := find(t, proposed(h, device), dossier.AVPush, h.Source)
	require.False(t, push.Possible(), "what is pushed is found by multicast alone")
	assert.Equal(t, "different-segments", push.Blocks[0].Code)
	assert.NotEqual(t, []dossier.Ref{device.Ref()}, push.Blocks[0].Subjects, "the segments are named, not only the device")
	for _, f := range push.Blocks {
		assert.NotContains(t, f.Subjects, push.Path.ID.Ref(), "nothing refers to a path that is not recorded")
	}

	homes.Set(h, other, func(s *dossier.Segment) { s.Isolation = dossier.IsolationGuestToHome })
	assert.False(t, pull().Possible())
	assert.True(t, find(t, proposed(h, device), dossier.Copy, h.Source).Possible(), "a copy plays from the device itself")
	ways := proposed(h, device).Wished[0].Ways
	assert.True(t, ways[0].Possible(), "what can work stands first")
	assert.False(t, ways[len(ways)-1].Possible())
}

func TestWhatADeviceIsTakenToBeAbleTo(t *testing.T) {
	h, device := stick(t, 2)
	seen := func(k dossier.PathKind) propose.Sign { return find(t, proposed(h, device), k, h.Source).Seen }
	assert.Equal(t, propose.None, seen(dossier.AVPull))
	assert.Equal(t, propose.None, seen(dossier.AVPush))
	homes.Put(h, dossier.RegisterEntry{Device: device, Server: h.Server, RecognisedAs: "a player"})
	assert.Equal(t, propose.ByServer, seen(dossier.AVPull))
	homes.Set(h, device, func(v *dossier.Device) { v.Roles = append(v.Roles, dossier.RoleRenderer) })
	assert.Equal(t, propose.ByRole, seen(dossier.AVPush))
	homes.Put(h, dossier.Path{Name: "recorded", Device: device, Source: h.Source, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast})
	w := find(t, proposed(h, device), dossier.AVPull, h.Source)
	assert.True(t, w.Exists)
	assert.Equal(t, "recorded", w.Path.Name)
	assert.Equal(t, propose.ByRecord, w.Seen)
	push := find(t, proposed(h, device), dossier.AVPush, h.Source)
	assert.Equal(t, w.Path.ID, push.Path.FallBack, "the recorded way is there when the other fails")
}

func TestWhatIsWished(t *testing.T) {
	h, device := stick(t, 3)
	what := func() (out []dossier.ContentKind) {
		for _, w := range proposed(h, device).Wished {
			out = append(out, w.What)
		}
		return out
	}
	assert.Equal(t, []dossier.ContentKind{dossier.Film}, what())
	homes.Put(h, dossier.Wish{What: dossier.WishKind(dossier.LiveTV), Device: device, Need: dossier.Welcome})
	homes.Put(h, dossier.Wish{What: dossier.WishOutsideViewing, Need: dossier.Welcome})
	assert.Equal(t, []dossier.ContentKind{dossier.Film, dossier.LiveTV}, what())
	p := proposed(h, device)
	assert.True(t, p.Wished[1].None, "nothing sends television here")
	homes.Set(h, device, func(v *dossier.Device) { v.ContentKinds = []dossier.ContentKind{dossier.LiveTV} })
	assert.Equal(t, []dossier.ContentKind{dossier.LiveTV}, what(), "what it does not play is not wished of it")
	h.Wishes = nil
	assert.Equal(t, []dossier.ContentKind{""}, what())
	var without []dossier.PathKind
	for _, w := range p.Without {
		without = append(without, w.Kind)
	}
	for _, k := range pathkind.Kinds {
		speaks := slices.ContainsFunc(h.Sources, func(s dossier.Source) bool { return slices.Contains(k.Speaks, s.Protocol) })
		assert.Equal(t, !speaks, slices.Contains(without, k.Name), "%s", k.Name)
	}
}

// What plays goes before what does not, and a way over which the network does not carry it goes last of what plays as much.
func TestTheBestWayStandsFirst(t *testing.T) {
	h, device := stick(t, 4)
	homes.Set(h, h.Folder, func(f *dossier.Folder) {
		f.ContentKind = dossier.Film
		f.Mix = []dossier.FormatEntry{{Container: dossier.MP4, Video: dossier.HEVC, Width: 1920, Height: 1080, FrameRate: 25, BitDepth: 8, Range: dossier.SDR, Sound: dossier.AAC, Channels: 2, Items: 3, Hours: 5}}
	})
	homes.Set(h, h.Source, func(s *dossier.Source) { s.Converts = dossier.ConvertsAll })
	homes.Put(h, dossier.Decoding{Device: device, Complete: []dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound}, Entries: []dossier.DecodingEntry{
		{Part: dossier.PartContainer, Format: "mp4", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}, {Part: dossier.PartVideo, Format: "h264", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		{Part: dossier.PartSound, Format: "aac-lc", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}}})
	p := proposed(h, device)
	ways := p.Wished[0].Ways
	assert.Equal(t, dossier.AVPull, ways[0].Path.Kind, "the server converts for it")
	assert.Contains(t, ways[0].Plays.Of, forecast.PictureConverted)
	copied := find(t, p, dossier.Copy, h.Source)
	assert.Contains(t, copied.Plays.Of, forecast.Unplayable, "a copy converts nothing")
	assert.Contains(t, copied.Cannot, pathkind.Convert)
	assert.Contains(t, copied.Open, "copy-made")
}

// Proposing changes nothing, never fails and says the same twice, whatever is recorded.
func TestProposingForDrawnHomes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		for _, v := range d.Devices {
			one := propose.For(look(d), v)
			for _, w := range one.Wished {
				possible := true
				for _, way := range w.Ways {
					require.False(t, way.Possible() && !possible, "a way that cannot work stands before one that can")
					possible = way.Possible()
					require.Equal(t, v.ID, way.Path.Device)
					require.Contains(t, way.Path.FoundBy.Values(), string(way.Path.FoundBy))
					for _, f := range way.Blocks {
						require.NotEmpty(t, f.Subjects)
						require.NotContains(t, f.Subjects, way.Path.ID.Ref(), "nothing refers to a path that is not recorded")
					}
				}
			}
			require.Len(t, propose.For(look(d), v).Wished, len(one.Wished))
		}
		assert.Equal(t, before, d)
	})
}

// A wish counts in its room, on its device, or everywhere; nowhere else.
func TestWhereAWishCounts(t *testing.T) {
	h, device := stick(t, 5)
	v, _ := h.Devices.Get(device)
	elsewhere := homes.Put(h, dossier.Room{Name: "elsewhere"})
	for _, c := range []struct {
		name string
		wish dossier.Wish
		want dossier.ContentKind
	}{
		{"in its room", dossier.Wish{Room: v.Room}, dossier.Photo},
		{"in no room: everywhere", dossier.Wish{}, dossier.Photo},
		{"in another room", dossier.Wish{Room: elsewhere}, ""},
		{"on this device, whatever the room", dossier.Wish{Device: device, Room: elsewhere}, dossier.Photo},
		{"on another device in its room", dossier.Wish{Device: h.Server, Room: v.Room}, ""},
	} {
		h.Wishes = nil
		c.wish.What, c.wish.Need = dossier.WishKind(dossier.Photo), dossier.Needed
		homes.Put(h, c.wish)
		assert.Equal(t, c.want, proposed(h, device).Wished[0].What, c.name)
	}
}

// Of a source with several folders, a way counts those with what is wished and no others.
func TestAWayCountsWhatIsWished(t *testing.T) {
	h, device := stick(t, 6)
	entry := func(items int, hours float64) []dossier.FormatEntry {
		return []dossier.FormatEntry{{Container: dossier.MP4, Video: dossier.H264, Sound: dossier.AAC, Items: items, Hours: hours}}
	}
	homes.Set(h, h.Folder, func(f *dossier.Folder) { f.ContentKind, f.Mix = dossier.Film, entry(3, 5) })
	second := homes.Put(h, dossier.Folder{Source: h.Source, Name: "more films", ContentKind: dossier.HomeVideo, AlsoHolds: []dossier.ContentKind{dossier.Film}, Mix: entry(4, 7)})
	homes.Put(h, dossier.Folder{Source: h.Source, Name: "music", ContentKind: dossier.Music, Mix: entry(100, 200)})
	for i := range h.Folders {
		h.Folders[i].ItemsOnDisk = 0
	}
	w := find(t, proposed(h, device), dossier.AVPull, h.Source)
	assert.ElementsMatch(t, []dossier.ID[dossier.Folder]{h.Folder, second}, w.Folders)
	var sum forecast.Share
	for _, s := range w.Plays.Of {
		sum.Items, sum.Hours = sum.Items+s.Items, sum.Hours+s.Hours
	}
	assert.Equal(t, forecast.Share{Items: 7, Hours: 12}, sum)
}

// The second way of finding is another one than the first; a server of files is no stream, and one that sends is.
func TestTheSecondWayAndStreams(t *testing.T) {
	h, device := stick(t, 7)
	w := find(t, proposed(h, device), dossier.AVPull, h.Source)
	assert.Equal(t, []dossier.FoundBy{dossier.ByMulticast, dossier.ByName}, []dossier.FoundBy{w.Path.FoundBy, w.Second})
	kinds := func(protocol dossier.Protocol) (out []dossier.PathKind) {
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Protocol = protocol })
		for _, w := range proposed(h, device).Wished[0].Ways {
			if w.Path.Source == h.Source {
				out = append(out, w.Path.Kind)
			}
		}
		return out
	}
	assert.NotContains(t, kinds(dossier.ProtocolHTTP), dossier.Stream, "files")
	assert.Contains(t, kinds(dossier.ProtocolRTSP), dossier.Stream)
}
