package load_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/homes"
)

// television is a house whose source sends so many channels of live television by multicast, and whose devices are in one segment.
func television(channels int, set func(*dossier.Segment)) (*house, func(to dossier.ID[dossier.Device]) dossier.ID[dossier.Path]) {
	h := newHouse()
	home := homes.Add(h.Built, &h.Segments, func(id dossier.ID[dossier.Segment]) (s dossier.Segment) { s.ID, s.Name = id, "home"; return })
	set(h.Segments.Find(home))
	h.Sources.Find(h.source).Multicast = dossier.Yes
	folder := homes.Add(h.Built, &h.Folders, func(id dossier.ID[dossier.Folder]) (f dossier.Folder) {
		f.ID, f.Name, f.Source, f.ContentKind, f.ItemsInIndex = id, "channels", h.source, dossier.LiveTV, channels
		f.Mix = []dossier.FormatEntry{{Video: dossier.H264, Height: 1080, Needed5Mbps: 10}}
		return
	})
	return h, func(to dossier.ID[dossier.Device]) dossier.ID[dossier.Path] {
		return homes.Add(h.Built, &h.Paths, func(id dossier.ID[dossier.Path]) (p dossier.Path) {
			p.ID, p.Name, p.Device, p.Source, p.Folders, p.Kind = id, "watching "+string(id), to, h.source, []dossier.ID[dossier.Folder]{folder}, dossier.Tuner
			return
		})
	}
}

// watched is the load of all paths at once; what stands in no other segment stands in the first.
func (h *house) watched() load.Case {
	for i := range h.Interfaces {
		if h.Interfaces[i].Segment == "" {
			h.Interfaces[i].Segment = h.Segments[0].ID
		}
	}
	return h.together()
}

// on returns how much of a medium is taken, and 0 of one that carries nothing.
func on(c load.Case, is func(load.Medium) bool) float64 {
	for _, use := range c.Uses {
		if is(use.Medium) {
			return use.Share
		}
	}
	return 0
}

func snooping(s *dossier.Segment) { s.Snooping, s.Querier = dossier.Yes, dossier.Yes }

// A channel goes over a cable once for all who watch it; nothing says that two watch the same, as long as there are as many.
func TestAChannelGoesOverACableOnce(t *testing.T) {
	for _, c := range []struct {
		name              string
		channels, viewers int
		once              float64 // how many times over the server's cable
	}{
		{"one channel", 1, 3, 1}, {"two channels for three", 2, 3, 2}, {"more channels than viewers", 40, 3, 3}, {"nobody says how many", 0, 3, 3}, {"one viewer", 40, 1, 1},
	} {
		h, watches := television(c.channels, snooping)
		bedroom := h.Device("switch", dossier.RoleSwitch)
		h.link(dossier.LinkCable, bedroom, h.router, 100, 0)
		for range c.viewers {
			screen := h.Device("screen", dossier.RoleScreen)
			h.link(dossier.LinkCable, screen, bedroom, 100, 0)
			watches(screen)
		}
		all := h.watched()
		assert.InDelta(t, c.once*12/941.5, on(all, func(m load.Medium) bool { return m.Link == h.uplink }), 1e-9, c.name)
		assert.InDelta(t, 12/94.15, on(all, func(m load.Medium) bool { return m.From == bedroom }), 1e-9, "%s: a screen is sent what it watches alone", c.name)
		assert.Len(t, all.Uses, 2+c.viewers, c.name)

		h.Sources.Find(h.source).Multicast = dossier.No
		assert.InDelta(t, float64(c.viewers)*12/941.5, on(h.watched(), func(m load.Medium) bool { return m.Link == h.uplink }), 1e-9, "%s, sent to each", c.name)
	}
}

// Over radio it is sent at the lowest rate once for all stations, or to each at its own.
func TestMulticastOnRadio(t *testing.T) {
	radio := func(m load.Medium) bool { return m.Kind == load.Channel }
	for _, c := range []struct {
		name    string
		channel int
		set     func(*dossier.Segment)
		share   float64
		known   dossier.Known
	}{
		{"at the lowest rate of 5 GHz", 36, func(*dossier.Segment) {}, 12 / 4.8, dossier.KnownAssumed},
		{"at the lowest rate of 2.4 GHz", 6, func(*dossier.Segment) {}, 12 / 0.8, dossier.KnownAssumed},
		{"at a rate that was set", 36, func(s *dossier.Segment) { s.CastMbps = 24 }, 12 / 19.2, dossier.KnownRead},
		{"to each at its own rate", 36, func(s *dossier.Segment) { s.CastToEach = dossier.Yes }, 12/110. + 12/40., dossier.KnownAssumed},
	} {
		h, watches := television(1, func(s *dossier.Segment) { snooping(s); c.set(s) })
		for i, rate := range []float64{200, 866} {
			screen := h.Device("screen", dossier.RoleScreen)
			l := h.link(dossier.LinkRadio, screen, h.router, rate, c.channel)
			h.Links.Find(l).Band = map[bool]dossier.Band{true: dossier.Band5, false: dossier.Band2}[c.channel > 14]
			watches(screen)
			if i == 1 {
				h.read(screen.Ref(), 40, day)
			}
		}
		all := h.watched()
		assert.InDelta(t, c.share, on(all, radio), 1e-9, c.name)
		use, _ := all.Bottleneck()
		assert.Equal(t, c.known, use.Known, c.name)
	}
}

// Where switches do not keep it from ports that have not asked for it, it goes everywhere in the segment and nowhere else; where nobody knows, the
// load is not known, unless there is nowhere else to go.
func TestMulticastGoesEverywhereWithoutSnooping(t *testing.T) {
	build := func(set func(*dossier.Segment)) (*house, dossier.ID[dossier.Link], dossier.ID[dossier.Link]) {
		h, watches := television(5, set)
		screen, other, point, phone := h.Device("screen", dossier.RoleScreen), h.Device("other", dossier.RoleScreen), h.Device("point", dossier.RoleAccessPoint), h.Device("phone", dossier.RoleControlPoint)
		h.link(dossier.LinkCable, screen, h.router, 100, 0)
		beside := h.link(dossier.LinkCable, other, h.router, 100, 0)
		h.link(dossier.LinkCable, point, h.router, 1000, 0)
		h.link(dossier.LinkRadio, phone, point, 400, 36)
		behind := h.Device("behind a screen", dossier.RoleScreen)
		far := h.link(dossier.LinkCable, behind, other, 100, 0)
		watches(screen)
		return h, beside, far
	}
	radio := func(m load.Medium) bool { return m.Kind == load.Channel }

	h, beside, far := build(func(s *dossier.Segment) { s.Snooping = dossier.No })
	c := h.watched()
	assert.InDelta(t, 12/94.15, on(c, func(m load.Medium) bool { return m.Link == beside }), 1e-9)
	assert.Zero(t, on(c, func(m load.Medium) bool { return m.Link == far }), "a screen passes nothing on")
	assert.InDelta(t, 12/4.8, on(c, radio), 1e-9, "nobody on Wi-Fi watches, and it takes all of its air time")
	assert.Equal(t, load.Overloaded, c.State)
	first := h.changes(c)[0]
	assert.Equal(t, []any{load.SnoopingOn, h.Segments[0].ID, load.Roomy}, []any{first.Kind, first.Segment, first.State})
	after := first.Home.Index()
	assert.Equal(t, dossier.Yes, after.Segments[0].Querier, "without one, whoever watches is forgotten")
	assert.Equal(t, dossier.Answer(""), h.Segments[0].Querier, "the home that was given is left as it is")

	h, beside, _ = build(func(s *dossier.Segment) { s.Snooping = dossier.No })
	guests := homes.Add(h.Built, &h.Segments, func(id dossier.ID[dossier.Segment]) (s dossier.Segment) { s.ID, s.Name = id, "guests"; return })
	l, _ := h.Links.Get(beside)
	h.Interfaces.Find(l.Near).Segment = guests
	assert.Zero(t, on(h.watched(), func(m load.Medium) bool { return m.Link == beside }), "another segment")

	h, _, _ = build(func(s *dossier.Segment) { s.Snooping = "" })
	c = h.watched()
	assert.Equal(t, load.NotKnown, c.State)
	assert.Equal(t, []load.Gap{load.NoSnooping}, c.Flows[0].Gaps)
	assert.Equal(t, h.Segments[0].ID.Ref(), c.Flows[0].At)

	h, watches := television(5, func(s *dossier.Segment) { s.Snooping = "" })
	screen := h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, screen, h.router, 100, 0)
	watches(screen)
	assert.Equal(t, load.Roomy, h.watched().State, "there is nowhere else to go")
}

// What leaves most room for television on Wi-Fi is that each station is sent it at its own rate.
func TestTelevisionOnWiFiIsSentToEach(t *testing.T) {
	h, watches := television(5, snooping)
	for range 2 {
		screen := h.Device("screen", dossier.RoleScreen)
		h.link(dossier.LinkRadio, screen, h.router, 400, 36)
		watches(screen)
	}
	c := h.watched()
	assert.Equal(t, load.Overloaded, c.State)
	var kinds []load.ChangeKind
	for _, ch := range h.changes(c) {
		kinds = append(kinds, ch.Kind)
		if ch.Kind == load.CastToEach {
			assert.InDelta(t, 24/220., ch.Share, 1e-9)
		}
	}
	assert.Contains(t, kinds, load.CastToEach)
	assert.NotContains(t, kinds, load.SnoopingOn, "it is on")
}

// Files come from a storage that reads only so fast; that of what is carried around is not taken to be fast enough.
func TestFilesComeFromADisk(t *testing.T) {
	disk := func(m load.Medium) bool { return m.Kind == load.Disk }
	for _, c := range []struct {
		name    string
		mbps    float64
		carried bool
		kind    dossier.PathKind
		share   float64
		state   load.State
	}{
		{"a fixed server of which nothing is known", 0, false, dossier.AVPull, 0, load.Roomy},
		{"a fixed server with a slow card", 80, false, dossier.AVPull, 1.5, load.Overloaded},
		{"a carried one of which nothing is known", 0, true, dossier.AVPull, 0, load.NotKnown},
		{"a carried one with a disk that does", 800, true, dossier.Share, 0.15, load.Roomy},
		{"what is live comes from no disk", 80, true, dossier.Tuner, 0, load.Roomy},
		{"a copy is read where it is", 80, true, dossier.Copy, 0, load.Roomy},
	} {
		h := newHouse()
		h.Devices.Find(h.server).DiskMbps, h.Devices.Find(h.server).Carried = c.mbps, c.carried
		for range 2 {
			screen := h.Device("screen", dossier.RoleScreen)
			h.link(dossier.LinkCable, screen, h.router, 1000, 0)
			h.Paths.Find(h.path(screen, 50)).Kind = c.kind
		}
		all := h.together()
		assert.InDelta(t, c.share, on(all, disk), 1e-9, c.name)
		assert.Equal(t, c.state, all.State, c.name)
		for _, use := range all.Uses {
			if use.Medium.Kind == load.Disk && c.mbps > 0 {
				assert.Equal(t, []any{h.server, dossier.KnownEstimated, c.mbps}, []any{use.Medium.From, use.Known, use.Mbps}, "%s: two files are read in turn", c.name)
			}
		}
		if c.state == load.NotKnown {
			assert.Equal(t, []load.Gap{load.NoDisk}, all.Flows[0].Gaps)
			assert.Equal(t, h.server, all.Surest)
		}
	}

	h := newHouse()
	store, screen := h.Device("store", dossier.RoleStorage), h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, store, h.router, 1000, 0)
	h.link(dossier.LinkCable, screen, h.router, 1000, 0)
	h.Devices.Find(store).DiskMbps = 100
	h.pathFrom(screen, store, dossier.FormatEntry{Video: dossier.H264, Height: 1080, Needed5Mbps: 50})
	c := h.together()
	assert.InDelta(t, 0.6, on(c, disk), 1e-9, "the machine that has the files reads them")
	assert.Equal(t, dossier.KnownRead, c.Uses[0].Known, "one file")
}

// A viewer more never asks less of anything, neither does a switch that passes everything on, and sending to each asks least of the air.
func TestMulticastAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, watches := television(rapid.IntRange(0, 4).Draw(t, "channels"), snooping)
		gear := []dossier.ID[dossier.Device]{h.router}
		for range rapid.IntRange(0, 3).Draw(t, "switches") {
			s := h.Device("switch", dossier.RoleSwitch, dossier.RoleAccessPoint)
			h.link(dossier.LinkCable, s, rapid.SampledFrom(gear).Draw(t, "at"), rapid.SampledFrom([]float64{100, 1000}).Draw(t, "rate"), 0)
			gear = append(gear, s)
		}
		for range rapid.IntRange(1, 6).Draw(t, "screens") {
			screen := h.Device("screen", dossier.RoleScreen)
			kind := rapid.SampledFrom([]dossier.LinkKind{dossier.LinkCable, dossier.LinkRadio}).Draw(t, "kind")
			h.link(kind, screen, rapid.SampledFrom(gear).Draw(t, "on"), 400, map[dossier.LinkKind]int{dossier.LinkRadio: rapid.SampledFrom([]int{36, 44}).Draw(t, "channel")}[kind])
			watches(screen)
		}
		not := func(more, less load.Case, why string) {
			for _, use := range less.Uses {
				require.GreaterOrEqual(t, on(more, func(m load.Medium) bool {
					return m.Kind == use.Medium.Kind && m.Link == use.Medium.Link && m.From == use.Medium.From && m.Channel == use.Medium.Channel
				})+1e-9, use.Share, why)
			}
		}
		all := h.watched()
		last := h.Paths[len(h.Paths)-1]
		h.Paths.Delete(last.ID)
		not(all, h.watched(), "a viewer less")
		h.Paths.Put(last)
		h.Segments[0].Snooping = dossier.No
		not(h.watched(), all, "everywhere")
		h.Segments[0].Snooping = dossier.Yes
		h.Sources.Find(h.source).Multicast = dossier.No
		each := h.watched()
		for _, use := range all.Uses {
			if use.Medium.Kind == load.Wire {
				require.LessOrEqual(t, use.Share, on(each, func(m load.Medium) bool { return m.Link == use.Medium.Link && m.From == use.Medium.From })+1e-9)
			}
		}
	})
}
