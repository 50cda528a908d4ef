package load_test

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/homes"
)

// house is a home that is built up link by link: a router, a server on a cable, and what a test adds.
type house struct {
	*homes.Built
	router dossier.ID[dossier.Device]
	server dossier.ID[dossier.Device]
	source dossier.ID[dossier.Source]
	uplink dossier.ID[dossier.Link] // from the server to the router
}

func (h *house) link(kind dossier.LinkKind, from, to dossier.ID[dossier.Device], rate float64, channel int) dossier.ID[dossier.Link] {
	medium := map[dossier.LinkKind]dossier.Medium{dossier.LinkRadio: dossier.OnRadio, dossier.LinkPowerline: dossier.OnPowerline}[kind]
	if medium == "" {
		medium = dossier.OnCable
	}
	return h.Link(kind, h.Adapter(from, medium, 0), h.Adapter(to, medium, 0), rate, channel)
}

// path is a path from the server's source with a folder of which the heaviest needs so many Mb/s after 5 s.
func (h *house) path(to dossier.ID[dossier.Device], needs float64) dossier.ID[dossier.Path] {
	return h.pathFrom(to, "", dossier.FormatEntry{Video: dossier.H264, Height: 1080, Needed5Mbps: needs})
}

func (h *house) pathFrom(to, liesOn dossier.ID[dossier.Device], mix ...dossier.FormatEntry) dossier.ID[dossier.Path] {
	folder := homes.Add(h.Built, &h.Folders, func(id dossier.ID[dossier.Folder]) (f dossier.Folder) {
		f.ID, f.Name, f.Source, f.ContentKind, f.Mix, f.LiesOn = id, fmt.Sprint("folder ", h.N), h.source, dossier.Film, mix, liesOn
		return
	})
	return homes.Add(h.Built, &h.Paths, func(id dossier.ID[dossier.Path]) (p dossier.Path) {
		p.ID, p.Name, p.Device, p.Source, p.Folders, p.Kind, p.FoundBy = id, fmt.Sprint("path ", h.N), to, h.source, []dossier.ID[dossier.Folder]{folder}, dossier.AVPull, dossier.ByMulticast
		return
	})
}

func (h *house) read(of dossier.Ref, mbps float64, at time.Time) dossier.ID[dossier.Reading] {
	return homes.Add(h.Built, &h.Readings, func(id dossier.ID[dossier.Reading]) (r dossier.Reading) {
		r.ID, r.What, r.Value, r.Subject, r.At, r.How = id, dossier.DownMbps, mbps, of, at, dossier.KnownMeasured
		return
	})
}

func newHouse() *house {
	h := &house{Built: homes.Build()}
	h.router, h.server = h.Device("router", dossier.RoleRouter), h.Device("server", dossier.RoleServer)
	h.source = homes.Add(h.Built, &h.Sources, func(id dossier.ID[dossier.Source]) (s dossier.Source) {
		s.ID, s.Name, s.Device, s.Protocol = id, "media", h.server, dossier.ProtocolUPnPAV
		return
	})
	h.uplink = h.link(dossier.LinkCable, h.server, h.router, 1000, 0)
	return h
}

func (h *house) alone(t require.TestingT, p dossier.ID[dossier.Path]) load.Case {
	for _, c := range load.Of(h.Index(), time.UTC).Alone {
		if c.Paths[0] == p {
			return c
		}
	}
	require.Fail(t, "no such path")
	return load.Case{}
}

func (h *house) changes(c load.Case) []load.Tried { return load.Changes(h.Index(), time.UTC, c) }

func (h *house) together() load.Case {
	var all []dossier.ID[dossier.Path]
	for _, p := range h.Paths {
		all = append(all, p.ID)
	}
	return load.Together(h.Index(), time.UTC, all)
}

var day = time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)

// A wired way carries what TCP gets of the rate; the narrowest link is the bottleneck.
func TestAWiredWay(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	slow := h.link(dossier.LinkCable, screen, h.router, 100, 0)
	c := h.alone(t, h.path(screen, 50))
	assert.InDelta(t, 60, c.Flows[0].Mbps, 1e-9, "with head-room of a fifth")
	assert.Equal(t, []dossier.ID[dossier.Device]{h.server, h.router, screen}, c.Flows[0].Way)
	use, _ := c.Bottleneck()
	assert.Equal(t, load.Medium{Kind: load.Wire, Link: slow, From: h.router}, use.Medium)
	assert.InDelta(t, 60/94.15, use.Share, 1e-9)
	assert.Equal(t, dossier.KnownRead, use.Known)
	assert.Equal(t, load.Roomy, c.State)
	assert.Equal(t, 1, c.AtOnce)
	assert.Equal(t, dossier.ID[dossier.Device](""), c.Surest)
}

// On the air every hop on one channel takes its time; on another channel it takes that one's.
func TestAirTime(t *testing.T) {
	build := func(second int, measured float64) load.Case {
		h := newHouse()
		bridge, screen := h.Device("bridge", dossier.RoleRepeater), h.Device("screen", dossier.RoleScreen)
		h.link(dossier.LinkRadio, bridge, h.router, 400, 36)
		h.link(dossier.LinkRadio, screen, bridge, 200, second)
		p := h.path(screen, 25)
		if measured > 0 {
			h.read(screen.Ref(), measured, day)
		}
		return h.alone(t, p)
	}
	one := build(36, 0)
	use, _ := one.Bottleneck()
	assert.InDelta(t, 30/(400*.55)+30/(200*.55), use.Share, 1e-9, "both hops on one channel")
	assert.Len(t, use.By, 2)
	assert.Equal(t, dossier.KnownAssumed, use.Known)
	assert.NotEmpty(t, one.Surest, "a reading would make it surer")

	two := build(149, 0)
	use, _ = two.Bottleneck()
	assert.InDelta(t, 30/(200*.55), use.Share, 1e-9, "the second hop has a channel of its own")

	read := build(36, 50)
	use, _ = read.Bottleneck()
	assert.InDelta(t, 30.0/50, use.Share, 1e-9, "a reading at the end stands for the whole chain on one channel")
	assert.Len(t, use.By, 1)
	assert.Len(t, use.Medium.Links, 2)
	assert.Equal(t, dossier.KnownMeasured, use.By[0].Known)
	assert.Equal(t, dossier.KnownRead, use.Known, "as what the film needs was read")
	assert.Empty(t, read.Surest)

	apart := build(149, 150)
	use, _ = apart.Bottleneck()
	assert.InDelta(t, 30.0/150, use.Share, 1e-9, "over two channels it is the least of each, where more is not known")
	assert.Equal(t, dossier.KnownEstimated, use.Known)
	assert.Equal(t, dossier.KnownAssumed, apart.Uses[1].Known, "the first hop can do more by its rate than was measured through both")
}

// Devices of one channel share its time, whatever access point they are at; those of another do not.
func TestSetsAddUp(t *testing.T) {
	h := newHouse()
	point := h.Device("access point", dossier.RoleAccessPoint)
	h.link(dossier.LinkCable, point, h.router, 1000, 0)
	for i, at := range []dossier.ID[dossier.Device]{h.router, h.router, point} {
		v := h.Device(fmt.Sprint("screen ", i), dossier.RoleScreen)
		h.link(dossier.LinkRadio, v, at, 200, []int{36, 36, 44}[i])
		h.path(v, 25)
	}
	c := h.together()
	use, _ := c.Bottleneck()
	assert.Equal(t, 36, use.Medium.Channel)
	assert.InDelta(t, 2*30/110.0, use.Share, 1e-9)
	assert.Equal(t, load.Roomy, c.State)
	for i, l := range h.Links {
		if l.Channel == 44 {
			h.Links[i].Channel = 36
		}
	}
	c = h.together()
	use, _ = c.Bottleneck()
	assert.InDelta(t, 3*30/110.0, use.Share, 1e-9)
	assert.Equal(t, load.Tight, c.State)
}

// What is not known is never called good, and what is certainly too much is said although something else is not known.
func TestWhatIsNotKnown(t *testing.T) {
	gaps := func(c load.Case) []load.Gap { return c.Flows[0].Gaps }
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	p := h.path(screen, 25)
	assert.Equal(t, []load.Gap{load.NoWay}, gaps(h.alone(t, p)))
	assert.Equal(t, load.NotKnown, h.alone(t, p).State)

	l := h.link(dossier.LinkRadio, screen, h.router, 0, 36)
	c := h.alone(t, p)
	assert.Equal(t, []load.Gap{load.NoRate}, gaps(c))
	assert.Equal(t, []any{load.NotKnown, -1, screen}, []any{c.State, c.AtOnce, c.Surest})
	h.read(screen.Ref(), 0, day)
	assert.Equal(t, load.NotKnown, h.alone(t, p).State, "a reading of nothing is no rate")
	h.Links.Find(l).RateMbps = math.Inf(1)
	assert.Equal(t, load.NotKnown, h.alone(t, p).State)
	h.Links.Find(l).RateMbps = 200
	assert.Equal(t, load.Roomy, h.alone(t, p).State)

	h.Folders[0].Mix = []dossier.FormatEntry{{Needed5Mbps: 10}, {}}
	assert.Equal(t, []load.Gap{load.NoDemand}, gaps(h.alone(t, p)), "one of its forms may need anything")
	h.Folders[0].Mix = nil
	c = h.alone(t, p)
	assert.Equal(t, dossier.KnownAssumed, c.Flows[0].Known, "where nothing was read, it is what films usually need")
	assert.InDelta(t, 20*10/15.0*1.2, c.Flows[0].Mbps, 1e-9)
	h.Paths.Find(p).NoFolders = true
	assert.Equal(t, []load.Gap{load.NoFolders}, gaps(h.alone(t, p)))
	h.Paths.Find(p).NoFolders = false

	other := h.Device("other screen", dossier.RoleScreen)
	h.path(other, 5)
	assert.Equal(t, load.NotKnown, h.together().State, "the way of one is not known")
	h.Folders[0].Mix = []dossier.FormatEntry{{Needed5Mbps: 200}}
	assert.Equal(t, load.Overloaded, h.together().State, "and the other is too much by itself")
	assert.Empty(t, load.Together(h.Index(), time.UTC, nil).Uses)
	assert.Equal(t, load.NotKnown, load.Together(h.Index(), time.UTC, nil).State)
}

// A path to the server's own screen, and a copy on the device, take nothing of the network.
func TestWhatStaysOnOneMachine(t *testing.T) {
	h := newHouse()
	own := h.alone(t, h.path(h.server, 25))
	assert.Empty(t, own.Uses)
	assert.Equal(t, load.Roomy, own.State)
	screen := h.Device("screen", dossier.RoleScreen)
	p := h.path(screen, 25)
	h.Paths.Find(p).Kind = dossier.Copy
	assert.Equal(t, []any{load.Roomy, 0, -1}, []any{h.alone(t, p).State, len(h.alone(t, p).Uses), h.alone(t, p).AtOnce})
}

// Files on another machine go to the server first, over its one cable in and out.
func TestFilesOnAnotherMachine(t *testing.T) {
	h := newHouse()
	store, screen := h.Device("store", dossier.RoleStorage), h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkRadio, store, h.router, 100, 36)
	h.link(dossier.LinkRadio, screen, h.router, 100, 36)
	p := h.pathFrom(screen, store, dossier.FormatEntry{Needed5Mbps: 30})
	c := h.alone(t, p)
	assert.Equal(t, []dossier.ID[dossier.Device]{store, h.router, h.server, h.router, screen}, c.Flows[0].Way)
	use, _ := c.Bottleneck()
	assert.InDelta(t, 2*36/55.0, use.Share, 1e-9, "both legs on one channel")
	require.Equal(t, load.Overloaded, c.State)
	kinds := []load.ChangeKind{}
	for _, ch := range h.changes(c) {
		kinds = append(kinds, ch.Kind)
		assert.Less(t, ch.Share, use.Share)
	}
	assert.Contains(t, kinds, load.MoveFiles)
	assert.Contains(t, kinds, load.LighterCopies)
}

// Between two segments a flow passes the router, even where a shorter way of cables leads there.
func TestBetweenSegmentsThroughTheRouter(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, screen, h.server, 1000, 0)
	h.link(dossier.LinkCable, screen, h.router, 100, 0)
	p := h.path(screen, 25)
	assert.Len(t, h.alone(t, p).Flows[0].Links, 1)
	for i := range h.Interfaces {
		h.Interfaces[i].Segment = homes.ID[dossier.Segment](1)
		if h.Interfaces[i].Device == screen {
			h.Interfaces[i].Segment = homes.ID[dossier.Segment](2)
		}
	}
	for n := 1; n <= 2; n++ {
		s := dossier.Segment{Name: fmt.Sprint(n)}
		s.ID = homes.ID[dossier.Segment](n)
		h.Segments.Put(s)
	}
	assert.Equal(t, []dossier.ID[dossier.Device]{h.server, h.router, screen}, h.alone(t, p).Flows[0].Way)
}

// Of two ways with as many links the wider one is taken.
func TestTheWiderOfTwoWays(t *testing.T) {
	h := newHouse()
	a, b, screen := h.Device("a", dossier.RoleSwitch), h.Device("b", dossier.RoleSwitch), h.Device("screen", dossier.RoleScreen)
	h.link(dossier.LinkCable, a, h.router, 100, 0)
	h.link(dossier.LinkCable, b, h.router, 1000, 0)
	h.link(dossier.LinkCable, screen, a, 1000, 0)
	h.link(dossier.LinkCable, screen, b, 1000, 0)
	assert.Contains(t, h.alone(t, h.path(screen, 25)).Flows[0].Way, b)
}

// Which reading counts: one of the evening, the device's own, the lower where they contradict, and none of what is gone.
func TestWhichReadingCounts(t *testing.T) {
	evening := time.Date(2026, 3, 3, 20, 0, 0, 0, time.UTC)
	cases := []struct {
		name  string
		add   func(*house, dossier.ID[dossier.Device])
		rate  float64
		known dossier.Known
	}{
		{"none", func(*house, dossier.ID[dossier.Device]) {}, 110, dossier.KnownAssumed},
		{"its own", func(h *house, s dossier.ID[dossier.Device]) { h.read(s.Ref(), 70, day) }, 70, dossier.KnownMeasured},
		{"an evening's before one by day", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 60, evening)
		}, 60, dossier.KnownMeasured},
		{"not an evening's of long ago", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 60, evening.AddDate(0, -2, 0))
		}, 70, dossier.KnownMeasured},
		{"two of one day that contradict", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.read(s.Ref(), 20, day.Add(-time.Hour))
		}, 20, dossier.KnownEstimated},
		{"a laptop's in the room", func(h *house, s dossier.ID[dossier.Device]) {
			v, _ := h.Devices.Get(s)
			r := h.read(dossier.Ref{}, 40, day)
			h.Readings.Find(r).Room, h.Readings.Find(r).MeasuredWith = v.Room, "laptop"
		}, 40, dossier.KnownEstimated},
		{"its own before a laptop's", func(h *house, s dossier.ID[dossier.Device]) {
			r := h.read(s.Ref(), 40, day.Add(time.Hour))
			h.Readings.Find(r).MeasuredWith = "laptop"
			h.read(s.Ref(), 70, day)
		}, 70, dossier.KnownMeasured},
		{"more than the radio can do: it was made over a cable", func(h *house, s dossier.ID[dossier.Device]) { h.read(s.Ref(), 900, day) }, 110, dossier.KnownAssumed},
		{"the link was changed since", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(s.Ref(), 70, day)
			h.Links[len(h.Links)-1].Revision = 9
		}, 70, dossier.KnownEstimated},
		{"one of its cable says nothing of its radio", func(h *house, s dossier.ID[dossier.Device]) {
			h.read(h.Adapter(s, dossier.OnCable, 100).Ref(), 90, day)
		}, 110, dossier.KnownAssumed},
	}
	for _, c := range cases {
		h := newHouse()
		screen := h.Device("screen", dossier.RoleScreen)
		h.link(dossier.LinkRadio, screen, h.router, 200, 36)
		p := h.path(screen, 25)
		c.add(h, screen)
		use, _ := h.alone(t, p).Bottleneck()
		require.NotEmpty(t, use.By, c.name)
		assert.InDelta(t, c.rate, use.By[0].Rate, 1e-9, c.name)
		assert.Equal(t, c.known, use.By[0].Known, c.name)
	}
}

// A device's reading over its cable replaces the cable's rate only where less got through.
func TestAReadingOverACable(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	l := h.link(dossier.LinkCable, screen, h.router, 1000, 0)
	p := h.path(screen, 25)
	h.read(screen.Ref(), 30, day)
	use, _ := h.alone(t, p).Bottleneck()
	assert.Equal(t, dossier.KnownRead, use.Known, "one that does not say over what may be older than the cable")
	h.read(l.Ref(), 50, day)
	use, _ = h.alone(t, p).Bottleneck()
	assert.InDelta(t, 30.0/50, use.Share, 1e-9)
	assert.Equal(t, dossier.KnownMeasured, use.By[0].Known)
}

// What is proposed is what the home lacks, and making it is as good as was said.
func TestChanges(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	radio := h.link(dossier.LinkRadio, screen, h.router, 60, 36)
	p := h.path(screen, 25)
	kinds := func() (out []load.ChangeKind) {
		for _, c := range h.changes(h.alone(t, p)) {
			out = append(out, c.Kind)
		}
		return out
	}
	require.Equal(t, load.Overloaded, h.alone(t, p).State)
	assert.NotContains(t, kinds(), load.WireDevice, "there is no outlet")
	h.Links.Find(radio).RateMbps = 54
	v, _ := h.Devices.Get(screen)
	port := h.Adapter(h.router, dossier.OnCable, 1000)
	outlet := homes.Add(h.Built, &h.Outlets, func(id dossier.ID[dossier.Outlet]) (o dossier.Outlet) {
		o.ID, o.Room, o.Name, o.PatchedTo = id, v.Room, "A1", port
		return
	})
	c := h.alone(t, p)
	require.NotEmpty(t, h.changes(c))
	assert.Equal(t, load.Change{Kind: load.WireDevice, Device: screen, Outlet: outlet, Mbps: 100, Share: 30 / 94.15, State: load.Roomy}, h.changes(c)[0].Change)
	assert.NotContains(t, kinds(), load.RunCable, "no cable has to be laid where one lies")
	h.Outlets.Find(outlet).Tested = dossier.TestFailed
	assert.NotContains(t, kinds(), load.WireDevice)
	h.Devices.Find(screen).Carried = true
	assert.NotContains(t, kinds(), load.RunCable, "what is carried about stays on radio")
}

func TestChangesOfWiresAndChannels(t *testing.T) {
	h := newHouse()
	screen := h.Device("screen", dossier.RoleScreen)
	l := h.link(dossier.LinkCable, screen, h.router, 100, 0)
	p := h.path(screen, 80)
	for i := range h.Interfaces {
		h.Interfaces[i].PortMbps = 1000
	}
	c := h.alone(t, p)
	require.NotEmpty(t, h.changes(c))
	assert.Equal(t, []any{load.ReplaceLink, l, 1000.0}, []any{h.changes(c)[0].Kind, h.changes(c)[0].Link, h.changes(c)[0].Mbps})
	for i := range h.Interfaces {
		h.Interfaces[i].PortMbps = 100
	}
	assert.Equal(t, load.FasterPorts, h.changes(h.alone(t, p))[0].Kind)

	h = newHouse()
	point := h.Device("access point", dossier.RoleAccessPoint)
	h.link(dossier.LinkCable, point, h.router, 1000, 0)
	for _, at := range []dossier.ID[dossier.Device]{h.router, point} {
		v := h.Device("screen", dossier.RoleScreen)
		id := h.link(dossier.LinkRadio, v, at, 100, 36)
		one, _ := h.Links.Get(id)
		h.Interfaces.Find(one.Far).Band, h.Interfaces.Find(one.Far).Channel = dossier.Band5, 36
		h.path(v, 25)
	}
	c = h.together()
	require.Equal(t, load.Overloaded, c.State)
	require.NotEmpty(t, h.changes(c))
	assert.Equal(t, []any{load.OtherChannel, 44, load.Roomy}, []any{h.changes(c)[0].Kind, h.changes(c)[0].Channel, h.changes(c)[0].State})
	assert.InDelta(t, 30/55.0, h.changes(c)[0].Share, 1e-9)
}

// What comes over the internet line takes of it; what goes out is reckoned in streams.
func TestTheInternetLine(t *testing.T) {
	h := newHouse()
	radio := h.Device("radio", dossier.RolePlayer)
	h.link(dossier.LinkCable, radio, h.router, 100, 0)
	p := h.path(radio, 1)
	h.Paths.Find(p).Kind = dossier.Feed
	assert.Equal(t, []load.Gap{load.NoLine}, h.alone(t, p).Flows[0].Gaps)
	line := homes.Add(h.Built, &h.Lines, func(id dossier.ID[dossier.Line]) (l dossier.Line) { l.ID, l.SoldDownMbps = id, 4; return })
	use, _ := h.alone(t, p).Bottleneck()
	assert.Equal(t, load.Use{Medium: load.Medium{Kind: load.LineInto, Line: line}, Share: 0.3, Known: dossier.KnownAssumed, Mbps: 4, By: []load.Part{{Path: p, Share: 0.3, Rate: 4, Known: dossier.KnownAssumed}}}, use)
	assert.Equal(t, 3, h.alone(t, p).AtOnce, "three take exactly 90 %")
	assert.Empty(t, load.Of(h.Index(), time.UTC).Uplinks)
	h.Lines.Find(line).SoldUpMbps = 40
	sold := load.Of(h.Index(), time.UTC).Uplinks[0]
	assert.InDelta(t, 32, sold.Mbps, 1e-9)
	assert.Equal(t, dossier.KnownAssumed, sold.Known)
	h.Lines.Find(line).DownMbps, h.Lines.Find(line).UpMbps = 3, 40
	use, _ = h.alone(t, p).Bottleneck()
	assert.InDelta(t, 0.4, use.Share, 1e-9, "as measured, not as sold")
	up := load.Of(h.Index(), time.UTC).Uplinks[0]
	assert.InDelta(t, 32, up.Mbps, 1e-9)
	assert.Equal(t, dossier.KnownMeasured, up.Known)
	var atOnce []int
	for _, q := range up.Qualities {
		atOnce = append(atOnce, q.AtOnce)
	}
	assert.Equal(t, []int{0, 2, 4, 4}, atOnce)
}

// draw draws a house of cables, radios and powerline, with loops and with devices that hang on nothing.
func draw(t *rapid.T) *house {
	h := newHouse()
	gear := []dossier.ID[dossier.Device]{h.router, h.server}
	kinds := []dossier.LinkKind{dossier.LinkCable, dossier.LinkRadio, dossier.LinkPowerline, dossier.LinkFibre, dossier.LinkCoax}
	rates := []float64{0, 10, 100, 433, 1000}
	for i := range rapid.IntRange(1, 6).Draw(t, "devices") {
		v := h.Device(fmt.Sprint("device ", i), dossier.RoleScreen, dossier.RoleSwitch)
		for range rapid.IntRange(0, 2).Draw(t, "links") {
			h.link(rapid.SampledFrom(kinds).Draw(t, "kind"), v, rapid.SampledFrom(gear).Draw(t, "to"), rapid.SampledFrom(rates).Draw(t, "rate"), rapid.SampledFrom([]int{0, 36, 40, 149}).Draw(t, "channel"))
		}
		if rapid.Bool().Draw(t, "read") {
			h.read(v.Ref(), rapid.SampledFrom([]float64{0, 5, 40, 300}).Draw(t, "reading"), day)
		}
		gear = append(gear, v)
		h.pathFrom(v, rapid.SampledFrom(append(gear, "")).Draw(t, "files"), dossier.FormatEntry{Needed5Mbps: rapid.SampledFrom([]float64{0, 1, 25, 90}).Draw(t, "needs")})
	}
	return h
}

func shares(c load.Case) map[string]float64 {
	out := map[string]float64{}
	for _, use := range c.Uses {
		out[fmt.Sprint(use.Medium.Kind, use.Medium.Link, use.Medium.From, use.Medium.Band, use.Medium.Channel, use.Medium.Radio)] = use.Share
	}
	return out
}

// Whatever is recorded: nothing crashes, all is the same twice, shares are numbers, flows are whole, and a set takes of each medium exactly
// what its paths take of it alone.
func TestLoadsAddUpInDrawnHouses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := draw(t)
		all := load.Of(h.Index(), time.UTC)
		assert.Equal(t, all, load.Of(h.Clone().Index(), time.UTC))
		sum := map[string]float64{}
		for _, c := range all.Alone {
			for k, s := range shares(c) {
				require.False(t, math.IsNaN(s) || math.IsInf(s, 0), "%v", c)
				require.GreaterOrEqual(t, s, 0.0)
				sum[k] += s
			}
			f := c.Flows[0]
			require.Len(t, f.Way, len(f.Links)+1)
			for i, id := range f.Links {
				l, _ := h.Links.Get(id)
				near, far := h.Index().EndsOf(l)
				require.ElementsMatch(t, []dossier.ID[dossier.Device]{f.Way[i], f.Way[i+1]}, []dossier.ID[dossier.Device]{near, far}, "a flow goes on where it came to")
			}
			if len(f.Gaps) > 0 {
				require.Contains(t, []load.State{load.NotKnown, load.Overloaded}, c.State)
			} else {
				p, _ := h.Paths.Get(c.Paths[0])
				require.Equal(t, p.Device, f.Way[len(f.Way)-1])
			}
		}
		for k, s := range shares(h.together()) {
			require.InDelta(t, sum[k], s, 1e-9, k)
		}
	})
}

// A faster link never takes more of anything's time where the ways stay the same; a path less never takes more of anything.
func TestLessIsNeverMore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := draw(t)
		before := h.together()
		least := before.Paths[1:]
		for k, s := range shares(load.Together(h.Index(), time.UTC, least)) {
			require.LessOrEqual(t, s, shares(before)[k]+1e-9)
		}
		i := rapid.IntRange(0, len(h.Links)-1).Draw(t, "link")
		if h.Links[i].RateMbps == 0 {
			return
		}
		h.Links[i].RateMbps *= 4
		after := h.together()
		for n, f := range after.Flows {
			if !slices.Equal(f.Links, before.Flows[n].Links) {
				return
			}
		}
		// A reading of more than the slower link could do was not believed, and is now: it may be less than was assumed.
		if len(h.Readings) > 0 {
			return
		}
		for k, s := range shares(after) {
			require.LessOrEqual(t, s, shares(before)[k]+1e-9, k)
		}
	})
}

// What is said of a change is what comes of making it.
func TestAChangeLeavesWhatWasSaid(t *testing.T) {
	seen := map[load.ChangeKind]bool{}
	rapid.Check(t, func(t *rapid.T) {
		h := draw(t)
		c := h.together()
		worst, _ := c.Bottleneck()
		for i, ch := range h.changes(c) {
			seen[ch.Kind] = true
			require.Less(t, ch.Share, worst.Share)
			require.NotEqual(t, load.NotKnown, ch.State)
			if i > 0 {
				require.LessOrEqual(t, slices.Index(load.States, h.changes(c)[i-1].State), slices.Index(load.States, ch.State))
			}
			if ch.Kind == load.ReplaceLink || ch.Kind == load.FasterPorts {
				d := h.Clone()
				d.Links.Find(ch.Link).RateMbps = ch.Mbps
				after := load.Together(d.Index(), time.UTC, c.Paths)
				use, _ := after.Bottleneck()
				require.InDelta(t, ch.Share, use.Share, 1e-9)
			}
		}
	})
	assert.True(t, seen[load.FasterPorts], "%v", seen)
}

// A home of 60 devices, half of them on radio at four access points, with 20 folders of 30 forms each.
func BenchmarkLoad(b *testing.B) {
	h := newHouse()
	gear := []dossier.ID[dossier.Device]{h.router}
	for i := range 4 {
		point := h.Device(fmt.Sprint("access point ", i), dossier.RoleAccessPoint)
		h.link(dossier.LinkCable, point, h.router, 1000, 0)
		gear = append(gear, point)
	}
	for i := range 20 {
		mix := make([]dossier.FormatEntry, 30)
		for n := range mix {
			mix[n] = dossier.FormatEntry{Video: dossier.H264, Height: 1080, AverageMbps: float64(n + i)}
		}
		homes.Add(h.Built, &h.Folders, func(id dossier.ID[dossier.Folder]) (f dossier.Folder) {
			f.ID, f.Name, f.Source, f.ContentKind, f.Mix = id, fmt.Sprint("folder ", i), h.source, dossier.Film, mix
			return
		})
	}
	set := dossier.BusySet{Name: "evening"}
	for i := range 60 {
		v := h.Device(fmt.Sprint("device ", i), dossier.RoleScreen)
		h.link([]dossier.LinkKind{dossier.LinkCable, dossier.LinkRadio}[i%2], v, gear[i%len(gear)], 866, []int{0, 36}[i%2])
		h.read(v.Ref(), 200, day)
		id := homes.Add(h.Built, &h.Paths, func(id dossier.ID[dossier.Path]) (p dossier.Path) {
			p.ID, p.Name, p.Device, p.Source, p.Kind = id, fmt.Sprint("path ", i), v, h.source, dossier.AVPull
			return
		})
		set.Paths = append(set.Paths, id)
	}
	set.ID = homes.ID[dossier.BusySet](1)
	h.BusySets.Put(set)
	x := h.Index()
	for b.Loop() {
		all := load.Of(x, time.UTC)
		for _, c := range slices.Concat(all.Alone, all.Sets) {
			load.Changes(x, time.UTC, c)
		}
	}
	b.ReportMetric(5, "aim-ms")
	b.ReportMetric(float64(b.Elapsed().Microseconds())/1000/float64(b.N), "measured-ms")
	b.ReportMetric(float64(b.Elapsed().Microseconds())/5000/float64(b.N), "ratio")
}
