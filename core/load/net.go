package load

import (
	"cmp"
	"math"
	"slices"
	"time"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/throughput"
)

// goodputOf is what TCP carries of the rate of a link. Of a radio's and a powerline adapter's rate, where nothing was measured, it is less
// than of a wire's: planning values, judgement.
var goodputOf = map[dossier.LinkKind]float64{dossier.LinkCable: throughput.Wired, dossier.LinkFibre: throughput.Wired, dossier.LinkCoax: throughput.Wired, dossier.LinkRadio: 0.55, dossier.LinkPowerline: 0.4}

// net is a home's network as flows see it.
type net struct {
	*dossier.Index
	evening  *time.Location
	channels map[chanKey]chanKey // channels of one band that overlap, by the lowest of them
	readings map[measuredAt]goodput
	needs    map[dossier.ID[dossier.Folder]]demand.Rate
	edges    map[dossier.ID[dossier.Device]][]edge
	trees    map[dossier.ID[dossier.Device]]map[dossier.ID[dossier.Device]]*reached
}

// measuredAt is a device of which a reading is asked for: over a cable, or over radio or the mains wiring, where one that another
// device took in its room counts as well.
type measuredAt struct {
	device dossier.ID[dossier.Device]
	onAir  bool
}

type chanKey struct {
	band    dossier.Band
	channel int
}

// goodput is what TCP got at a device by a reading, and the revision in which that was recorded; 0 if there is none.
type goodput struct {
	mbps     float64
	known    dossier.Known
	revision uint64
}

// hop is one medium on a flow's way. Rate is what TCP gets over it alone, in Mb/s.
type hop struct {
	medium Medium
	rate   float64
	known  dossier.Known
	mbps   float64
	once   sent // what counts once for all paths that have it; the zero value for what counts for each
}

// flow is a flow with the hops of its way.
type flow struct {
	Flow
	hops []hop
}

func newNet(x *dossier.Index, evening *time.Location) *net {
	n := &net{Index: x, evening: evening, channels: map[chanKey]chanKey{}, readings: map[measuredAt]goodput{}, needs: map[dossier.ID[dossier.Folder]]demand.Rate{},
		edges: map[dossier.ID[dossier.Device]][]edge{}, trees: map[dossier.ID[dossier.Device]]map[dossier.ID[dossier.Device]]*reached{}}
	n.joinChannels()
	for i := range n.Links {
		l := &n.Links[i]
		if near, far := n.EndsOf(*l); l.Kind != dossier.LinkDisplay && near != far {
			width, _ := n.alone(*l)
			n.edges[near] = append(n.edges[near], edge{l, far, width})
			n.edges[far] = append(n.edges[far], edge{l, near, width})
		}
	}
	return n
}

// joinChannels puts channels that hear each other into one, by the lowest of them.
func (n *net) joinChannels() {
	var all []chanKey
	for _, i := range n.Interfaces {
		if k := (chanKey{i.Band, i.Channel}); k.channel != 0 && !slices.Contains(all, k) {
			all = append(all, k)
		}
	}
	for _, l := range n.Links {
		if k := (chanKey{l.Band, l.Channel}); k.channel != 0 && !slices.Contains(all, k) {
			all = append(all, k)
		}
	}
	slices.SortFunc(all, func(a, b chanKey) int { return cmp.Or(cmp.Compare(a.band, b.band), cmp.Compare(a.channel, b.channel)) })
	for i, k := range all {
		n.channels[k] = k
		if i > 0 && all[i-1].band == k.band && k.band.Overlap(k.channel, all[i-1].channel) {
			n.channels[k] = n.channels[all[i-1]]
		}
	}
}

// mediumKey tells media apart.
type mediumKey struct {
	kind    MediumKind
	link    dossier.ID[dossier.Link]
	from    dossier.ID[dossier.Device]
	line    dossier.ID[dossier.Line]
	band    dossier.Band
	channel int
	radio   dossier.ID[dossier.Interface]
}

func (m Medium) key() mediumKey {
	return mediumKey{m.Kind, m.Link, m.From, m.Line, m.Band, m.Channel, m.Radio}
}

func (k mediumKey) compare(o mediumKey) int {
	return cmp.Or(cmp.Compare(k.kind, o.kind), cmp.Compare(k.band, o.band), cmp.Compare(k.channel, o.channel), cmp.Compare(k.link, o.link), cmp.Compare(k.from, o.from), cmp.Compare(k.line, o.line), cmp.Compare(k.radio, o.radio))
}

func (m *Medium) add(o Medium) {
	for _, l := range o.Links {
		if !slices.Contains(m.Links, l) {
			m.Links = append(m.Links, l)
		}
	}
}

// flow follows what a path carries from where the files are to the device, which is the nth of those that its source serves at once.
func (n *net) flow(p dossier.Path, nth int) flow {
	out := flow{Flow: Flow{Path: p.ID, Way: []dossier.ID[dossier.Device]{}, Links: []dossier.ID[dossier.Link]{}}}
	if p.Kind == dossier.Copy {
		out.Way = append(out.Way, p.Device)
		return out // it plays from the device's own medium
	}
	rate, folder, gap := n.needed(p)
	out.Mbps, out.Known, out.Folder = rate.Mbps, rate.Known, folder
	if gap != "" {
		out.gap(gap, p.ID.Ref())
	}
	_, server := n.ServerOf(p)
	legs := []dossier.ID[dossier.Device]{server.ID, p.Device}
	if f, _ := n.Folders.Get(folder); f.LiesOn != "" && f.LiesOn != server.ID {
		legs = append([]dossier.ID[dossier.Device]{f.LiesOn}, legs...)
	}
	out.Way = append(out.Way, legs[0])
	switch {
	case p.Kind == dossier.Feed:
		n.overLine(&out)
	case slices.Contains(ofFiles, p.Kind):
		n.fromDisk(&out, legs[0])
	}
	channel, toAll := n.castOf(p, nth)
	for i := range len(legs) - 1 {
		for _, leg := range n.throughRouter(legs[i], legs[i+1]) {
			whole := false
			if toAll {
				whole = n.castLeg(&out, channel, leg[0], leg[1])
			} else {
				whole = n.leg(&out, leg[0], leg[1])
			}
			if !whole {
				return out // what goes on from there is not known either
			}
		}
	}
	return out
}

// ofFiles are the kinds of path that read files when they play.
var ofFiles = []dossier.PathKind{dossier.AVPull, dossier.AVPush, dossier.OwnPlayer, dossier.Share}

// fromDisk reads the flow from the storage of the machine that has the files. That of a machine with a fixed place is taken to be fast enough
// where nothing is recorded of it; what is carried around may have its files on anything.
func (n *net) fromDisk(f *flow, at dossier.ID[dossier.Device]) {
	d, _ := n.Devices.Get(at)
	h := hop{medium: Medium{Kind: Disk, From: at}, rate: d.DiskMbps, mbps: d.DiskMbps, known: dossier.KnownRead}
	switch {
	case sound(d.DiskMbps):
	case d.Carried:
		h.rate, h.mbps = 0, 0
		f.gap(NoDisk, at.Ref())
	default:
		return
	}
	f.hops = append(f.hops, h)
}

func (f *flow) gap(g Gap, at dossier.Ref) {
	if len(f.Gaps) == 0 {
		f.At = at
	}
	if !slices.Contains(f.Gaps, g) {
		f.Gaps = append(f.Gaps, g)
	}
}

// overLine lets the flow come into the home over the internet line.
func (n *net) overLine(f *flow) {
	if len(n.Lines) == 0 {
		f.gap(NoLine, f.Path.Ref())
		return
	}
	l := n.Lines[0] // which of several it comes over is not recorded
	h := hop{medium: Medium{Kind: LineInto, Line: l.ID}, rate: l.DownMbps, mbps: l.DownMbps, known: dossier.KnownMeasured}
	if h.rate <= 0 {
		h.rate, h.mbps, h.known = l.SoldDownMbps, l.SoldDownMbps, dossier.KnownAssumed
	}
	if !sound(h.rate) {
		h.rate = 0
		f.gap(NoLine, l.ID.Ref())
	}
	f.hops = append(f.hops, h)
}

// throughRouter splits a leg between devices that are in no common segment: what goes from one segment into another passes the router.
func (n *net) throughRouter(from, to dossier.ID[dossier.Device]) [][2]dossier.ID[dossier.Device] {
	a, b := n.SegmentsAt(from), n.SegmentsAt(to)
	common := slices.ContainsFunc(a, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(b, s) })
	if router := n.Router(); len(a) > 0 && len(b) > 0 && !common && router != "" && router != from && router != to {
		return [][2]dossier.ID[dossier.Device]{{from, router}, {router, to}}
	}
	return [][2]dossier.ID[dossier.Device]{{from, to}}
}

// step is one link of a way, and the device that sends over it.
type step struct {
	link dossier.Link
	from dossier.ID[dossier.Device]
	to   dossier.ID[dossier.Device]
}

// edge is a link as it is seen from one of its ends. Width is what it carries at most, for choosing among ways.
type edge struct {
	link  *dossier.Link
	to    dossier.ID[dossier.Device]
	width float64
}

// reached is how a device is reached from another: over which link, from where, after how many, and how wide the narrowest is.
type reached struct {
	link  *dossier.Link
	from  dossier.ID[dossier.Device]
	width float64
	hops  int
}

// ways returns how every device is reached from one: over the fewest links, and of as many over those whose narrowest is the widest.
func (n *net) ways(from dossier.ID[dossier.Device]) map[dossier.ID[dossier.Device]]*reached {
	if known := n.trees[from]; known != nil {
		return known
	}
	at := map[dossier.ID[dossier.Device]]*reached{from: {width: math.Inf(1)}}
	layer := []dossier.ID[dossier.Device]{from}
	for hops := 1; len(layer) > 0; hops++ {
		var next []dossier.ID[dossier.Device]
		for _, here := range layer {
			for _, e := range n.edges[here] {
				width := min(at[here].width, e.width)
				have := at[e.to]
				switch {
				case have == nil:
					at[e.to] = &reached{e.link, here, width, hops}
					next = append(next, e.to)
				case have.hops == hops && width > have.width:
					*have = reached{e.link, here, width, hops}
				}
			}
		}
		layer = next
	}
	n.trees[from] = at
	return at
}

// way returns the links from one device to another, if there is a way.
func (n *net) way(from, to dossier.ID[dossier.Device]) ([]step, bool) {
	at := n.ways(from)
	if at[to] == nil {
		return nil, false
	}
	out := make([]step, 0, at[to].hops)
	for here := to; here != from; here = at[here].from {
		out = append(out, step{*at[here].link, at[here].from, here})
	}
	slices.Reverse(out)
	return out, true
}

// steps are those of a leg of a flow; none where it stays on one device or an end of it is not recorded, and none either where no way leads
// there, which the flow then says.
func (n *net) steps(f *flow, from, to dossier.ID[dossier.Device]) (out []step, whole bool) {
	if from == to || from == "" || to == "" {
		return nil, true
	}
	out, whole = n.way(from, to)
	if !whole {
		f.gap(NoWay, to.Ref())
	}
	return out, whole
}

// alone is what TCP gets over a link by its rate, and how that is known; 0 if no rate is recorded.
func (n *net) alone(l dossier.Link) (float64, dossier.Known) {
	rate, known := l.RateMbps, dossier.KnownRead
	if rate == 0 && shared(l.Kind) == "" {
		near, _ := n.Interfaces.Get(l.Near)
		far, _ := n.Interfaces.Get(l.Far)
		if near.PortMbps > 0 && far.PortMbps > 0 {
			rate, known = min(near.PortMbps, far.PortMbps), dossier.KnownAssumed
		}
	}
	if !sound(rate) {
		return 0, ""
	}
	if shared(l.Kind) != "" || l.Kind == dossier.LinkCoax {
		known = dossier.KnownAssumed
	}
	return rate * goodputOf[l.Kind], known
}

// sound reports whether a rate is one that something can be divided by.
func sound(rate float64) bool { return rate > 0 && !math.IsInf(rate, 1) && !math.IsNaN(rate) }

// shared is the kind of medium by whose air time a link is shared; "" for a wire.
func shared(k dossier.LinkKind) MediumKind {
	switch k {
	case dossier.LinkRadio:
		return Channel
	case dossier.LinkPowerline:
		return Mains
	}
	return ""
}

// leg lets the flow go from one device to another. What was measured with TCP at the end of the leg contains all its hops: over one shared
// medium it is the rate of the whole chain, which then counts once; over several it is that of the last one, where it is less than what was
// measured before that one, and else only the least that each of them gives.
func (n *net) leg(f *flow, from, to dossier.ID[dossier.Device]) (whole bool) {
	steps, whole := n.steps(f, from, to)
	if len(steps) == 0 {
		return whole
	}
	measured := n.readAt(steps[len(steps)-1])
	media := map[mediumKey]bool{}
	for _, s := range steps {
		if k := shared(s.link.Kind); k != "" {
			media[n.mediumOf(s).key()] = true
		}
	}
	chain := map[mediumKey]int{}     // hops for which the reading already stands, by their medium
	taken := map[mediumKey]float64{} // seconds that the hops so far take for a Mb, by their medium
	narrowest := math.Inf(1)         // what was measured through the hops so far; 0 if nothing was
	for _, s := range steps {
		f.Way, f.Links = append(f.Way, s.to), append(f.Links, s.link.ID)
		h := hop{medium: n.mediumOf(s)}
		h.rate, h.known = n.alone(s.link)
		key := h.medium.key()
		switch {
		case shared(s.link.Kind) == "":
			h.mbps = h.rate
			if s.to == to && len(media) == 0 && measured.mbps > 0 && measured.mbps < h.rate {
				h.rate, h.mbps, h.known = measured.mbps, measured.mbps, measured.known // it got less than its cable could carry
			}
		case measured.mbps > 0 && len(media) == 1:
			if at, counted := chain[key]; counted {
				f.hops[at].medium.add(h.medium)
				continue
			}
			chain[key] = len(f.hops)
			h.rate, h.known = measured.mbps, measured.known
			if s.link.RateMbps > 0 && h.rate > s.link.RateMbps {
				h.rate, h.known = s.link.RateMbps*goodputOf[s.link.Kind], dossier.KnownAssumed // it was made over something else
			}
		case measured.mbps > 0:
			at := n.readAt(s)
			switch rest := 1/at.mbps - taken[key]; {
			case at.mbps > 0 && at.mbps < narrowest*narrower && rest > 0:
				h.rate, h.known = 1/rest, at.known // the reading is about this hop
			case measured.mbps > h.rate:
				h.rate, h.known = measured.mbps, weakest(measured.known, dossier.KnownEstimated)
			default:
				h.known = weakest(h.known, dossier.KnownEstimated)
			}
			if h.rate > 0 {
				taken[key] += 1 / h.rate
			}
			narrowest = at.mbps
		}
		if h.rate <= 0 {
			f.gap(NoRate, s.link.ID.Ref())
		}
		f.hops = append(f.hops, h)
	}
	return true
}

// narrower is by how much a reading has to lie below another to tell of another hop: readings of one thing differ by that.
const narrower = 0.95

// readAt returns what was measured at the end of a step; where the link was changed since, as an estimate.
func (n *net) readAt(s step) goodput {
	out := n.measured(s.to, s.link.Kind)
	if out.mbps > 0 && s.link.Revision > out.revision {
		out.known = weakest(out.known, dossier.KnownEstimated)
	}
	return out
}

// mediumOf returns what a link goes over in that direction.
func (n *net) mediumOf(s step) Medium {
	switch shared(s.link.Kind) {
	case Mains:
		return Medium{Kind: Mains, Links: []dossier.ID[dossier.Link]{s.link.ID}}
	case Channel:
		near, _ := n.Interfaces.Get(s.link.Near)
		far, _ := n.Interfaces.Get(s.link.Far)
		for _, k := range []chanKey{{s.link.Band, s.link.Channel}, {far.Band, far.Channel}, {near.Band, near.Channel}} {
			if k.channel != 0 {
				k = n.channels[k]
				return Medium{Kind: Channel, Band: k.band, Channel: k.channel, Links: []dossier.ID[dossier.Link]{s.link.ID}}
			}
		}
		return Medium{Kind: Channel, Band: cmp.Or(s.link.Band, far.Band, near.Band), Radio: far.ID, Links: []dossier.ID[dossier.Link]{s.link.ID}}
	}
	return Medium{Kind: Wire, Link: s.link.ID, From: s.from}
}

// Readings of the busy evening are of these hours.
const eveningFrom, eveningUntil = 17, 23

// A reading by day is preferred to one of an evening that lies this long before it.
const eveningHolds = 30 * 24 * time.Hour

// measured returns what TCP got at a device: what the device measured, or else another in its room. A reading over a way without
// radio says nothing of one with radio, so another device's counts only where the link that ends there is a shared medium.
func (n *net) measured(device dossier.ID[dossier.Device], over dossier.LinkKind) goodput {
	at := measuredAt{device, shared(over) != ""}
	if known, asked := n.readings[at]; asked {
		return known
	}
	d, _ := n.Devices.Get(device)
	out := n.reading(func(r dossier.Reading) bool { return n.own(r, at) })
	if out.mbps == 0 && at.onAir {
		out = n.reading(func(r dossier.Reading) bool {
			return r.MeasuredWith != "" && r.Subject.Kind != "line" && (n.MeasuredAt(r.Subject) == device || d.Room != "" && r.Room == d.Room)
		})
		if out.mbps > 0 {
			out.known = weakest(out.known, dossier.KnownEstimated)
		}
	}
	n.readings[at] = out
	return out
}

// own reports whether a reading was made by the device itself over what it is asked of. One that names no adapter and no link is
// taken to be of radio and never of a cable: it may have been made before there was one.
func (n *net) own(r dossier.Reading, of measuredAt) bool {
	if r.MeasuredWith != "" || n.MeasuredAt(r.Subject) != of.device {
		return false
	}
	wired := false
	switch r.Subject.Kind {
	case "interface":
		i, _ := n.Interfaces.Get(dossier.ID[dossier.Interface](r.Subject.ID))
		wired = i.Medium == dossier.OnCable
	case "link":
		l, _ := n.Links.Get(dossier.ID[dossier.Link](r.Subject.ID))
		wired = shared(l.Kind) == ""
	}
	return wired != of.onAir
}

// reading returns the newest of the readings of throughput that count, those of an evening before others. Where readings of one day
// contradict each other by more than half, the lowest is taken, as an estimate.
func (n *net) reading(counts func(dossier.Reading) bool) goodput {
	var newest, evening dossier.Reading
	for _, r := range n.Readings {
		if r.What != dossier.DownMbps || !sound(r.Value) || !counts(r) {
			continue
		}
		if newest.ID == "" || r.At.After(newest.At) {
			newest = r
		}
		if hour := r.At.In(n.evening).Hour(); hour >= eveningFrom && hour < eveningUntil && (evening.ID == "" || r.At.After(evening.At)) {
			evening = r
		}
	}
	if newest.ID == "" {
		return goodput{}
	}
	of := newest
	if evening.ID != "" && newest.At.Sub(evening.At) < eveningHolds {
		of = evening
	}
	out := goodput{of.Value, cmp.Or(of.How, dossier.KnownAssumed), of.Revision}
	for _, r := range n.Readings {
		apart := r.At.Sub(of.At).Abs()
		if r.What != dossier.DownMbps || r.ID == of.ID || apart > 24*time.Hour || !sound(r.Value) || !counts(r) {
			continue
		}
		if r.Value < of.Value/2 || r.Value > 2*of.Value {
			out.mbps, out.known = min(out.mbps, r.Value), weakest(out.known, dossier.KnownEstimated)
		}
	}
	return out
}
