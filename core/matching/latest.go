package matching

import (
	"net/netip"
	"slices"

	"kaiku/core/dossier"
)

// Latest puts together, from looks with the newest first, what was seen of every segment in the
// latest complete scan of it, and the one before. A scan that was stopped early counts only
// if there is no other: what it did not see proves nothing. A later scan of one host says of that host alone
// what is so now: also that it does not answer any more.
func Latest(looks []Scan) (now, before Scan) {
	var ofOne []Scan
	looks = slices.DeleteFunc(slices.Clone(looks), func(g Scan) bool {
		if g.Only.IsValid() {
			ofOne = append(ofOne, g)
		}
		return g.Only.IsValid()
	})
	defer func() {
		for _, g := range slices.Backward(ofOne) {
			now.patch(g)
		}
	}()
	whole := slices.DeleteFunc(slices.Clone(looks), func(g Scan) bool { return g.Short })
	times := map[dossier.ID[dossier.Segment]]int{}
	for _, g := range append(whole, slices.DeleteFunc(slices.Clone(looks), func(g Scan) bool { return !g.Short })...) {
		for _, l := range g.Segments {
			switch times[l.Segment]++; times[l.Segment] {
			case 1:
				now.add(g, l)
			case 2:
				if !g.Short {
					before.add(g, l)
				}
			}
		}
	}
	return now, before
}

// patch takes over what a later scan of one host says.
func (g *Scan) patch(one Scan) {
	if !one.Ended.After(g.Ended) || one.Short && len(one.Hosts) == 0 {
		return
	}
	g.Hosts = slices.DeleteFunc(slices.Clone(g.Hosts), func(h Host) bool { return h.Address == one.Only })
	g.Hosts = append(g.Hosts, one.Hosts...)
	g.Unasked = slices.DeleteFunc(slices.Clone(g.Unasked), func(a netip.Addr) bool { return a == one.Only })
	g.open(one)
	g.ID, g.Ended, g.By, g.With = one.ID, one.Ended, one.By, one.With
}

// add takes over one segment of a scan.
func (g *Scan) add(from Scan, l CoveredSegment) {
	if from.Ended.After(g.Ended) {
		g.ID, g.Began, g.Ended, g.By, g.With = from.ID, from.Began, from.Ended, from.By, from.With
	}
	g.Short, g.Cut = g.Short || from.Short, g.Cut || from.Cut
	g.open(from)
	g.Segments = append(g.Segments, l)
	for _, q := range from.Asked {
		if q.Segment == l.Segment {
			g.Asked = append(g.Asked, q)
		}
	}
	for _, h := range from.Hosts {
		if h.Segment == l.Segment {
			g.Hosts = append(g.Hosts, h)
		}
	}
}

// open takes over what a scan left open.
func (g *Scan) open(from Scan) {
	for _, note := range from.Notes {
		if !slices.Contains(g.Notes, note) {
			g.Notes = append(g.Notes, note)
		}
	}
	for _, a := range from.Unasked {
		if !slices.Contains(g.Unasked, a) {
			g.Unasked = append(g.Unasked, a)
		}
	}
}
