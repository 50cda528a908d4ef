package load_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/homes"
)

// slowRadio is a house with a screen on a radio that is too slow for its film.
func slowRadio() (h *house, screen dossier.ID[dossier.Device], path dossier.ID[dossier.Path]) {
	h = newHouse()
	screen = h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkRadio, screen, h.router, 60, 36)
	return h, screen, h.path(screen, 30)
}

// kindsFor lists what is proposed for a path.
func (h *house) kindsFor(t require.TestingT, p dossier.ID[dossier.Path]) (out []load.ChangeKind) {
	for _, c := range h.changes(h.alone(t, p)) {
		out = append(out, c.Kind)
	}
	return out
}

// The bounds of the states belong to the better side.
func TestStatesAtTheirBounds(t *testing.T) {
	for share, want := range map[float64]load.State{0: load.Roomy, 0.70: load.Roomy, 0.7001: load.Tight, 0.90: load.Tight, 0.9001: load.Overloaded} {
		assert.Equal(t, want, load.Use{Share: share}.State(), share)
	}
	assert.Equal(t, load.NotKnown, load.Use{Share: 0.1, More: true}.State())
	assert.Equal(t, load.Overloaded, load.Use{Share: 0.95, More: true}.State(), "whatever more there is")
}

// A cable is only laid to a port that is free: facing the home, not linked, not patched to an outlet.
func TestACableNeedsAFreePort(t *testing.T) {
	for name, c := range map[string]struct {
		port func(h *house, port dossier.ID[dossier.Interface])
		free bool
	}{
		"free":           {func(*house, dossier.ID[dossier.Interface]) {}, true},
		"on radio":       {func(h *house, p dossier.ID[dossier.Interface]) { h.Interfaces.Find(p).Medium = dossier.OnRadio }, false},
		"to the outside": {func(h *house, p dossier.ID[dossier.Interface]) { h.Interfaces.Find(p).Facing = dossier.FacingOutside }, false},
		"patched": {func(h *house, p dossier.ID[dossier.Interface]) {
			homes.Add(h.Built, &h.Outlets, func(id dossier.ID[dossier.Outlet]) (o dossier.Outlet) {
				o.ID, o.Name, o.PatchedTo = id, "B1", p
				return
			})
		}, false},
		"linked, at its near end": {func(h *house, p dossier.ID[dossier.Interface]) {
			homes.Add(h.Built, &h.Links, func(id dossier.ID[dossier.Link]) (l dossier.Link) {
				l.ID, l.Near, l.Kind = id, p, dossier.LinkCable
				return
			})
		}, false},
		"linked, at its far end": {func(h *house, p dossier.ID[dossier.Interface]) {
			homes.Add(h.Built, &h.Links, func(id dossier.ID[dossier.Link]) (l dossier.Link) {
				l.ID, l.Far, l.Kind = id, p, dossier.LinkCable
				return
			})
		}, false},
	} {
		h, _, p := slowRadio()
		c.port(h, h.Adapter(h.router, dossier.OnCable, 1000))
		assert.Equal(t, c.free, len(h.kindsFor(t, p)) > 0 && h.kindsFor(t, p)[0] == load.RunCable, name)
	}
}

// What a new cable gives is what the slower port gives; a port of the device that is not recorded is taken to do 100 Mb/s.
func TestWhatANewCableGives(t *testing.T) {
	for _, c := range []struct{ own, other, want float64 }{{0, 1000, 100}, {1000, 1000, 1000}, {1000, 100, 100}, {100, 1000, 100}, {1000, 0, 1000}, {10, 1000, 10}} {
		h, screen, p := slowRadio()
		h.Folders[0].Mix[0].Needed5Mbps = 26 // with head-room 31.2, of 33 that the radio gives
		if c.own > 0 {
			h.Adapter(screen, dossier.OnCable, c.own)
		}
		h.Adapter(screen, dossier.OnRadio, 300) // has no part in it
		h.Adapter(h.router, dossier.OnCable, c.other)
		changes := h.changes(h.alone(t, p))
		if c.own == 10 {
			for _, ch := range changes {
				assert.NotEqual(t, load.RunCable, ch.Kind, "it would be slower than the radio")
			}
			continue
		}
		require.NotEmpty(t, changes)
		assert.Equal(t, []any{load.RunCable, c.want}, []any{changes[0].Kind, changes[0].Mbps}, c)
	}
}

// An outlet counts where the device is, tested or not, patched or not; not where something else is plugged in.
func TestWhichOutletCounts(t *testing.T) {
	add := func(h *house, screen dossier.ID[dossier.Device]) *dossier.Outlet {
		v, _ := h.Devices.Get(screen)
		id := homes.Add(h.Built, &h.Outlets, func(id dossier.ID[dossier.Outlet]) (o dossier.Outlet) {
			o.ID, o.Name, o.Room = id, "A1", v.Room
			return
		})
		return h.Outlets.Find(id)
	}
	h, screen, p := slowRadio()
	add(h, screen)
	assert.NotContains(t, h.kindsFor(t, p), load.WireDevice, "it is patched to nothing, and nothing is free")
	port := h.Adapter(h.router, dossier.OnCable, 1000)
	first := h.changes(h.alone(t, p))[0]
	assert.Equal(t, []any{load.WireDevice, true, 100.0}, []any{first.Kind, first.Patch, first.Mbps})
	h.Outlets[0].PatchedTo, h.Outlets[0].TestedMbps = port, 80
	first = h.changes(h.alone(t, p))[0]
	assert.Equal(t, []any{load.WireDevice, false, 80.0}, []any{first.Kind, first.Patch, first.Mbps}, "no more than it was tested with")
	h.Outlets[0].Room = ""
	assert.NotContains(t, h.kindsFor(t, p), load.WireDevice, "where it is, is not known")
	v, _ := h.Devices.Get(screen)
	h.Outlets[0].Room = v.Room
	homes.Add(h.Built, &h.Links, func(id dossier.ID[dossier.Link]) (l dossier.Link) {
		l.ID, l.Near, l.Outlet, l.Kind = id, h.Adapter(h.server, dossier.OnCable, 0), h.Outlets[0].ID, dossier.LinkCable
		return
	})
	assert.NotContains(t, h.kindsFor(t, p), load.WireDevice, "somebody is plugged in there")
	h.Devices.Find(screen).Room = ""
	h.Outlets[0].Room = ""
	h.Links = h.Links[:len(h.Links)-1]
	assert.NotContains(t, h.kindsFor(t, p), load.WireDevice, "nowhere is no room")
}

// Mains wiring is relieved by a cable as radio is; a cable is not by another one.
func TestMainsWiringIsRelievedByACable(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkPowerline, screen, h.router, 80, 0)
	h.Adapter(h.router, dossier.OnCable, 1000)
	p := h.path(screen, 30)
	use, _ := h.alone(t, p).Bottleneck()
	assert.Equal(t, load.Mains, use.Medium.Kind)
	assert.InDelta(t, 36/32.0, use.Share, 1e-9)
	assert.Equal(t, screen, h.alone(t, p).Surest, "a reading there would tell")
	assert.Contains(t, h.kindsFor(t, p), load.RunCable)

	h = newHouse()
	screen = h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, screen, h.router, 100, 0)
	h.Adapter(h.router, dossier.OnCable, 1000)
	p = h.path(screen, 80)
	assert.NotContains(t, h.kindsFor(t, p), load.RunCable)
	assert.Empty(t, h.alone(t, p).Surest, "a reading of a cable is not what is missing")
}

// A link is worth replacing where both ports do more than it gives, and faster ports where they do not yet do a gigabit.
func TestFasterCables(t *testing.T) {
	for _, c := range []struct {
		near, far, rate float64
		want            []load.ChangeKind
	}{
		{1000, 1000, 100, []load.ChangeKind{load.ReplaceLink}},
		{100, 100, 100, []load.ChangeKind{load.FasterPorts}},
		{1000, 100, 100, []load.ChangeKind{load.FasterPorts}},
		{0, 1000, 100, []load.ChangeKind{load.FasterPorts}},
		{1000, 1000, 0, nil}, // by its ports it gives enough
	} {
		h := newHouse()
		screen := h.Device("screen", dossier.RoleScreen)
		id := h.link(dossier.LinkCable, screen, h.router, c.rate, 0)
		l, _ := h.Links.Get(id)
		h.Interfaces.Find(l.Near).PortMbps, h.Interfaces.Find(l.Far).PortMbps = c.near, c.far
		p := h.path(screen, 80)
		var got []load.ChangeKind
		for _, k := range h.kindsFor(t, p) {
			if k != load.LighterCopies {
				got = append(got, k)
			}
		}
		assert.Equal(t, c.want, got, c)
	}
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, screen, h.router, 1000, 0)
	p := h.path(screen, 750)
	assert.NotContains(t, h.kindsFor(t, p), load.FasterPorts, "it does a gigabit already")
}

// Where no channel is left that hears no other, none is proposed; a repeater moves with the access point that it hangs on.
func TestOtherChannels(t *testing.T) {
	build := func(taken ...int) (*house, load.Case) {
		h := newHouse()
		point, repeater := h.Device("access point", dossier.RoleAccessPoint), h.Device("repeater", dossier.RoleRepeater)
		h.link(dossier.LinkCable, point, h.router, 1000, 0)
		h.link(dossier.LinkRadio, repeater, point, 400, 36)
		up, _ := h.Links.Get(h.Links[len(h.Links)-1].ID)
		one, other := h.Device("screen", dossier.RoleScreen), h.Device("screen", dossier.RoleScreen)
		// The screen hangs on the repeater's one radio, which is the near end of its link upwards.
		homes.Add(h.Built, &h.Links, func(id dossier.ID[dossier.Link]) (l dossier.Link) {
			l.ID, l.Near, l.Far, l.Kind, l.RateMbps, l.Band, l.Channel = id, h.Adapter(one, dossier.OnRadio, 0), up.Near, dossier.LinkRadio, 200, dossier.Band5, 36
			return
		})
		h.link(dossier.LinkRadio, other, h.router, 100, 36)
		for _, c := range taken {
			v := h.Adapter(h.router, dossier.OnRadio, 0)
			h.Interfaces.Find(v).Band, h.Interfaces.Find(v).Channel = dossier.Band5, c
		}
		h.path(one, 25)
		h.path(other, 25)
		c := h.together()
		return h, c
	}
	h, c := build()
	require.Equal(t, load.Overloaded, c.State)
	var to []int
	for _, ch := range h.changes(c) {
		if ch.Kind == load.OtherChannel {
			to = append(to, ch.Channel)
			moved := 0
			for i, l := range ch.Home.Links {
				if l.Channel != h.Links[i].Channel {
					moved++
				}
			}
			assert.Contains(t, []int{1, 2}, moved, "the repeater and its screen go together, and the other screen alone")
			radio, _ := ch.Home.Interfaces.Get(ch.Radio)
			assert.Equal(t, ch.Channel, radio.Channel, "it is the named radio that goes")
			for _, l := range ch.Home.Links {
				if l.Far == ch.Radio {
					assert.Equal(t, ch.Channel, l.Channel)
				}
			}
		}
	}
	assert.Equal(t, []int{44, 44}, to)
	h, c = build(44, 149, 157)
	for _, ch := range h.changes(c) {
		assert.NotEqual(t, load.OtherChannel, ch.Kind, "all others are taken")
	}
}

// Changes are looked for where little is left or too little, and nowhere else.
func TestWhereChangesAreLookedFor(t *testing.T) {
	for rate, want := range map[float64]load.State{60: load.Overloaded, 82: load.Tight, 200: load.Roomy} {
		h, _, p := slowRadio()
		h.Links[len(h.Links)-1].RateMbps = rate
		h.Adapter(h.router, dossier.OnCable, 1000)
		require.Equal(t, want, h.alone(t, p).State)
		assert.Equal(t, want != load.Roomy, len(h.kindsFor(t, p)) > 0, want)
	}
}

// Channels of 2.4 GHz that overlap share their air; those of other bands do not, whatever their numbers.
func TestChannelsThatOverlap(t *testing.T) {
	for _, c := range []struct {
		band   dossier.Band
		second int
		shared bool
	}{{dossier.Band2, 1, true}, {dossier.Band2, 3, true}, {dossier.Band2, 6, false}, {dossier.Band5, 1, false}, {dossier.Band5, 3, false}} {
		h := newHouse()
		for i, channel := range []int{1, c.second} {
			v := h.Device("screen", dossier.RoleScreen)
			l := h.Links.Find(h.link(dossier.LinkRadio, v, h.router, 200, channel))
			l.Band, l.Channel = []dossier.Band{dossier.Band2, c.band}[i], channel
			h.path(v, 10)
		}
		use, _ := h.together().Bottleneck()
		assert.Equal(t, c.shared, len(use.By) == 2, "%+v", c)
	}
}

// What was got over a cable says nothing of the one before it.
func TestAReadingIsAboutItsCable(t *testing.T) {
	h := newHouse()
	hub, screen := h.Device("switch", dossier.RoleSwitch), h.Device("screen", dossier.RoleScreen)
	first := h.link(dossier.LinkCable, hub, h.router, 1000, 0)
	last := h.link(dossier.LinkCable, screen, hub, 1000, 0)
	p := h.path(screen, 10)
	h.read(last.Ref(), 40, day)
	rates := map[dossier.ID[dossier.Link]]float64{}
	for _, use := range h.alone(t, p).Uses {
		rates[use.Medium.Link] = use.Mbps
	}
	assert.InDelta(t, 40, rates[last], 1e-9)
	assert.Greater(t, rates[first], 900.0)
}

// Lighter copies are proposed where they are lighter, and only what is heavier gets lighter.
func TestLighterCopies(t *testing.T) {
	h, _, p := slowRadio()
	h.Folders[0].Mix = append(h.Folders[0].Mix, dossier.FormatEntry{Needed5Mbps: 1})
	h.Folders[0].ContentKind = dossier.Film
	c := h.alone(t, p)
	list := h.changes(c)
	require.NotEmpty(t, list)
	require.Equal(t, load.LighterCopies, list[0].Kind)
	after := list[0].Home
	assert.Equal(t, []float64{list[0].Mbps, 1}, []float64{after.Folders[0].Mix[0].Needed5Mbps, after.Folders[0].Mix[1].Needed5Mbps})
	assert.Equal(t, 30.0, h.Folders[0].Mix[0].Needed5Mbps, "the home itself is as it was")
	h.Folders[0].Mix[0].Needed5Mbps = list[0].Mbps
	h.Links[len(h.Links)-1].RateMbps = 20
	assert.NotContains(t, h.kindsFor(t, p), load.LighterCopies)
}

// The bounds of what counts of readings.
func TestReadingsAtTheirBounds(t *testing.T) {
	evening := time.Date(2026, 3, 3, 20, 0, 0, 0, time.UTC)
	rate := func(add func(h *house, screen dossier.ID[dossier.Device])) (float64, dossier.Known) {
		h, screen, p := slowRadio()
		h.Links[len(h.Links)-1].RateMbps = 200
		add(h, screen)
		use, _ := h.alone(t, p).Bottleneck()
		require.NotEmpty(t, use.By)
		return use.By[0].Rate, use.By[0].Known
	}
	for _, c := range []struct {
		name string
		add  func(h *house, s dossier.ID[dossier.Device])
		want float64
	}{
		{"at five in the afternoon it is evening", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 60, time.Date(2026, 3, 3, 17, 0, 0, 0, time.UTC))
			h.read(s.Ref(), 70, day)
		}, 60},
		{"at eleven at night it is not any more", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 60, time.Date(2026, 3, 3, 23, 0, 0, 0, time.UTC))
			h.read(s.Ref(), 70, day)
		}, 70},
		{"the newer of two evenings", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 60, evening)
			h.read(s.Ref(), 65, evening.AddDate(0, 0, -2))
		}, 60},
		{"an evening of thirty days before", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 60, evening)
			h.read(s.Ref(), 70, evening.AddDate(0, 0, 30))
		}, 70},
		{"half as much does not contradict", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 35, day.Add(-time.Hour))
		}, 70},
		{"twice as much does not contradict", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 35, day)
			h.read(s.Ref(), 70, day.Add(-time.Hour))
		}, 35},
		{"more than twice as much: the lower counts, which is the newest", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 34, day)
			h.read(s.Ref(), 70, day.Add(-time.Hour))
		}, 34},
		{"a day apart they are of one day", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 20, day.Add(-24*time.Hour))
		}, 20},
		{"of two days before", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 20, day.Add(-25*time.Hour))
		}, 70},
		{"another quantity", func(h *house, s dossier.ID[dossier.Device]) {
			r := h.read(s.Ref(), 70, day)
			h.Readings.Find(r).What = dossier.UpMbps
		}, 110},
		{"as much as the radio's rate", func(h *house, s dossier.ID[dossier.Device]) { h.read(s.Ref(), 200, day) }, 200},
		{"of the internet line by a laptop beside it", func(h *house, s dossier.ID[dossier.Device]) {
			v, _ := h.Devices.Get(s)
			r := h.read(dossier.Ref{Kind: "line", ID: "x"}, 40, day)
			h.Readings.Find(r).MeasuredWith, h.Readings.Find(r).Room = "laptop", v.Room
		}, 110},
		{"by a laptop in no room", func(h *house, s dossier.ID[dossier.Device]) {
			h.Devices.Find(s).Room = ""
			r := h.read(dossier.Ref{}, 40, day)
			h.Readings.Find(r).MeasuredWith = "laptop"
		}, 110},
	} {
		got, _ := rate(c.add)
		assert.InDelta(t, c.want, got, 1e-9, c.name)
	}
	_, known := rate(func(h *house, s dossier.ID[dossier.Device]) {
		h.read(s.Ref(), 70, day)
		h.Links[len(h.Links)-1].Revision, h.Readings[0].Revision = 3, 3
	})
	assert.Equal(t, dossier.KnownMeasured, known, "changed in the same write, it is of the link as it is")
}

// Over several channels a reading counts for the last hop where it is lower than the one before; less what other hops take of the channel.
func TestReadingsThroughSeveralHops(t *testing.T) {
	build := func(first, second, third int, atBridge, atEnd, atScreen float64) load.Case {
		h := newHouse()
		bridge, end, screen := h.Device("bridge", dossier.RoleRepeater), h.Device("end", dossier.RoleRepeater), h.Device("screen", dossier.RoleScreen)
		h.link(dossier.LinkRadio, bridge, h.router, 400, first)
		h.link(dossier.LinkRadio, end, bridge, 400, second)
		if third > 0 {
			h.link(dossier.LinkRadio, screen, end, 400, third)
		} else {
			screen = end
		}
		p := h.path(screen, 10)
		if atBridge > 0 {
			h.read(bridge.Ref(), atBridge, day)
		}
		if atEnd > 0 {
			h.read(end.Ref(), atEnd, day)
		}
		h.read(screen.Ref(), atScreen, day)
		return h.alone(t, p)
	}
	share := func(c load.Case, channel int) (float64, dossier.Known) {
		for _, use := range c.Uses {
			if use.Medium.Channel == channel {
				return use.Share, use.Known
			}
		}
		return 0, ""
	}
	narrow := build(36, 149, 0, 100, 0, 60)
	s, known := share(narrow, 149)
	assert.InDelta(t, 12/60.0, s, 1e-9)
	assert.Equal(t, dossier.KnownRead, known, "measured, and what the film needs was read")
	s, _ = share(narrow, 36)
	assert.InDelta(t, 12/100.0, s, 1e-9)
	s, known = share(build(36, 149, 0, 100, 0, 97), 149)
	assert.InDelta(t, 12/220.0, s, 1e-9, "as much as before that hop: it says nothing of it")
	assert.Equal(t, dossier.KnownAssumed, known)
	s, _ = share(build(36, 149, 0, 0, 0, 60), 149)
	assert.InDelta(t, 12/220.0, s, 1e-9, "nothing was measured before that hop")
	// Three hops, of which the first and the last are on one channel: 1/60 s for a Mb, of which the first takes 1/100.
	s, _ = share(build(36, 149, 36, 100, 0, 60), 36)
	assert.InDelta(t, 12/100.0+12/220.0, s, 1e-9, "what was measured after the second is missing")
	s, _ = share(build(36, 149, 36, 100, 80, 60), 36)
	assert.InDelta(t, 12/100.0+12*(1/60.0-1/100.0), s, 1e-9, "what the first takes of the channel is left out of the reading of the third")
	s, _ = share(build(36, 149, 36, 100, 80, 60), 149)
	assert.InDelta(t, 12/80.0, s, 1e-9)
	s, known = share(build(36, 149, 0, 100, 0, 300), 149)
	assert.InDelta(t, 12/300.0, s, 1e-9, "each hop gives at least as much as all of them")
	assert.Equal(t, dossier.KnownEstimated, known)
}

// Ports alone tell the rate of a cable, if both are recorded; a channel of which the band differs is another one.
func TestWhatPortsAndBandsTell(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	id := h.link(dossier.LinkCable, screen, h.router, 0, 0)
	l, _ := h.Links.Get(id)
	p := h.path(screen, 25)
	assert.Equal(t, []load.Gap{load.NoRate}, h.alone(t, p).Flows[0].Gaps)
	h.Interfaces.Find(l.Near).PortMbps = 100
	assert.Equal(t, []load.Gap{load.NoRate}, h.alone(t, p).Flows[0].Gaps)
	h.Interfaces.Find(l.Far).PortMbps = 1000
	use, _ := h.alone(t, p).Bottleneck()
	assert.InDelta(t, 30/94.15, use.Share, 1e-9)
	assert.Equal(t, dossier.KnownAssumed, use.Known)

	h = newHouse()
	for i, band := range []dossier.Band{dossier.Band5, dossier.Band6} {
		v := h.Device("screen", dossier.RoleScreen)
		l := h.link(dossier.LinkRadio, v, h.router, 200, 37-i)
		h.Links.Find(l).Band = band
		h.path(v, 25)
	}
	assert.InDelta(t, 30/110.0, h.together().Uses[0].Share, 1e-9)
}

// The first gap is told with its place; of a folder that is heavier the need counts, whichever stands first.
func TestTheHeaviestFolderCounts(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, screen, h.router, 100, 0)
	p := h.path(screen, 10)
	heavy := homes.Add(h.Built, &h.Folders, func(id dossier.ID[dossier.Folder]) (f dossier.Folder) {
		f.ID, f.Name, f.Source, f.ContentKind, f.Mix = id, "heavy", h.source, dossier.Film, []dossier.FormatEntry{{Needed5Mbps: 5}, {Needed5Mbps: 20}, {Needed5Mbps: 7}}
		return
	})
	h.Paths.Find(p).Folders = append(h.Paths.Find(p).Folders, heavy)
	f := h.alone(t, p).Flows[0]
	assert.Equal(t, heavy, f.Folder)
	assert.InDelta(t, 24, f.Mbps, 1e-9)
	slices := h.Paths.Find(p).Folders
	slices[0], slices[1] = slices[1], slices[0]
	assert.Equal(t, heavy, h.alone(t, p).Flows[0].Folder)

	lost := h.Device("lost screen", dossier.RoleScreen)
	q := h.path(lost, 10)
	h.Folders[len(h.Folders)-1].Mix = []dossier.FormatEntry{{}}
	f = h.alone(t, q).Flows[0]
	assert.Equal(t, []load.Gap{load.NoDemand, load.NoWay}, f.Gaps)
	assert.Equal(t, q.Ref(), f.At, "the first of them")
}
