package load

import (
	"cmp"
	"slices"

	"kaiku/core/dossier"
)

// cast is what is sent once for all who have asked for it: one channel of a source, to a multicast group.
type cast struct {
	source  dossier.ID[dossier.Source]
	channel int // the place of the first viewer who watches it among those of the source
}

// sent is one channel going out of one device over one medium, which counts once for all who watch it.
type sent struct {
	cast
	from   dossier.ID[dossier.Device]
	medium mediumKey
}

// Of what access points send to all, each packet is sent once at a rate that every station knows and is not acknowledged. Where nothing else
// is set, that is the lowest of them: 1 Mb/s at 2.4 GHz and 6 Mb/s above (IEEE 802.11-2020, 15.4.4.3 and 17.3.2.2).
var slowest = map[dossier.Band]float64{dossier.Band2: 1, dossier.Band5: 6, dossier.Band6: 6}

// castGoodput is what is left of such a rate for the picture. A packet of 1316 bytes takes 1.97 ms at 6 Mb/s with what goes before and between
// (IEEE 802.11-2020, 17.4.3), which leaves 0.89, and 0.59 ms at 24 Mb/s, which leaves 0.75. A planning value between.
const castGoodput = 0.8

// castOf returns what the nth viewer of a path's source is sent, if the source sends by multicast. Nothing says that two watch the same
// channel: each is taken to watch another, as long as the folders of the path have as many.
func (n *net) castOf(p dossier.Path, nth int) (cast, bool) {
	s, _ := n.ServerOf(p)
	if s.Multicast != dossier.Yes {
		return cast{}, false
	}
	channels := 0
	for _, f := range n.Reached(p) {
		if f.ContentKind == dossier.LiveTV || f.ContentKind == dossier.Radio {
			channels += max(f.ItemsOnDisk, f.ItemsInIndex)
		}
	}
	if channels > 0 {
		nth %= channels
	}
	return cast{s.ID, nth}, true
}

// castLeg lets a channel go from one device to another by multicast. Where no switch keeps it from ports that have not asked for it, it goes
// everywhere in the segment.
func (n *net) castLeg(f *flow, c cast, from, to dossier.ID[dossier.Device]) (whole bool) {
	steps, whole := n.steps(f, from, to)
	if len(steps) == 0 {
		return whole
	}
	segment := n.segmentOf(from, to)
	on := map[sent]bool{}
	for _, s := range steps {
		f.Way, f.Links = append(f.Way, s.to), append(f.Links, s.link.ID)
		h := n.castHop(c, segment, s)
		if h.rate <= 0 {
			f.gap(NoRate, s.link.ID.Ref())
		}
		on[h.once] = true
		f.hops = append(f.hops, h)
	}
	if segment.Snooping == dossier.Yes {
		return true
	}
	for _, s := range n.flooded(from, segment) {
		h := n.castHop(c, segment, s)
		if h.once == (sent{}) || on[h.once] {
			continue // a station that has not asked for it is not sent it
		}
		if segment.Snooping != dossier.No {
			f.gap(NoSnooping, cmp.Or(segment.ID.Ref(), from.Ref()))
			break
		}
		on[h.once] = true
		f.hops = append(f.hops, h)
	}
	return true
}

// castHop is a channel going over one link. Over radio it takes air time once for all stations of one access point, unless that sends it to
// each of them.
func (n *net) castHop(c cast, segment dossier.Segment, s step) hop {
	h := hop{medium: n.mediumOf(s)}
	h.rate, h.known = n.alone(s.link)
	switch {
	case shared(s.link.Kind) == "":
		h.mbps = h.rate
	case h.medium.Kind == Channel && segment.CastToEach == dossier.Yes:
		if at := n.readAt(s); at.mbps > 0 {
			h.rate, h.known = at.mbps, at.known
		}
		return h
	case h.medium.Kind == Channel:
		h.rate, h.known = segment.CastMbps*castGoodput, dossier.KnownRead
		if !sound(h.rate) {
			h.rate, h.known = cmp.Or(slowest[h.medium.Band], slowest[dossier.Band2])*castGoodput, dossier.KnownAssumed
		}
	}
	h.once = sent{c, s.from, h.medium.key()}
	return h
}

// segmentOf is the first segment that both are in, or else the first of those that the one that sends is in.
func (n *net) segmentOf(from, to dossier.ID[dossier.Device]) dossier.Segment {
	a, b := n.SegmentsAt(from), n.SegmentsAt(to)
	for _, id := range a {
		if slices.Contains(b, id) {
			s, _ := n.Segments.Get(id)
			return s
		}
	}
	var s dossier.Segment
	if all := slices.Concat(a, b); len(all) > 0 {
		s, _ = n.Segments.Get(all[0])
	}
	return s
}

// flooded are the links, each in the direction away from the device, that are reached by what one device sends to all in a segment.
func (n *net) flooded(from dossier.ID[dossier.Device], segment dossier.Segment) []step {
	inside := func(i dossier.ID[dossier.Interface]) bool {
		one, _ := n.Interfaces.Get(i)
		return one.Segment == "" || one.Segment == segment.ID
	}
	var out []step
	seen := map[dossier.ID[dossier.Device]]bool{from: true}
	for queue := []dossier.ID[dossier.Device]{from}; len(queue) > 0; queue = queue[1:] {
		here := queue[0]
		if d, _ := n.Devices.Get(here); here != from && !d.IsGear() {
			continue
		}
		for _, e := range n.edges[here] {
			if seen[e.to] || !inside(e.link.Near) || !inside(e.link.Far) {
				continue
			}
			seen[e.to] = true
			out = append(out, step{*e.link, here, e.to})
			queue = append(queue, e.to)
		}
	}
	return out
}

// lessCast lists what makes room where multicast takes it up: having switches pass it only to ports that have asked for it, and having access
// points send it to each station at its own rate.
func (n *net) lessCast(f Flow, worst Use) []supposed {
	p, _ := n.Paths.Get(f.Path)
	source, server := n.ServerOf(p)
	segment := n.segmentOf(server.ID, p.Device)
	if source.Multicast != dossier.Yes || segment.ID == "" {
		return nil
	}
	var out []supposed
	if segment.Snooping == dossier.No {
		out = append(out, supposed{Change{Kind: SnoopingOn, Segment: segment.ID}, func(d *dossier.Dossier) {
			change(&d.Segments, segment.ID, func(s *dossier.Segment) { s.Snooping, s.Querier = dossier.Yes, dossier.Yes })
		}})
	}
	if worst.Medium.Kind == Channel && segment.CastToEach != dossier.Yes {
		out = append(out, supposed{Change{Kind: CastToEach, Segment: segment.ID}, func(d *dossier.Dossier) {
			change(&d.Segments, segment.ID, func(s *dossier.Segment) { s.CastToEach = dossier.Yes })
		}})
	}
	return out
}
