package network

import (
	"net/netip"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// Node is one device of the home's network with the link by which it reaches the line: over the
// fewest hops to where the line ends. A device that no chain of links joins to it has no link.
type Node struct {
	Device   dossier.ID[dossier.Device]
	Up       dossier.ID[dossier.Link]   // "" at the root and for what is not joined
	Parent   dossier.ID[dossier.Device] // the device at the other end of Up
	Depth    int                        // hops to the root; 0 at the root, -1 for what is not joined
	Segments []dossier.ID[dossier.Segment]
}

// Graph returns the devices in the order of their ids, each with its way to the line, and the
// links that are not in use: second cables, rings, spare ones. The root is where the first
// line ends, or else the first router.
func Graph(x *dossier.Index) (nodes []Node, spare []dossier.ID[dossier.Link]) {
	v := &view{x, knowledge.Knowledge{}, time.Time{}}
	at := map[dossier.ID[dossier.Device]]int{}
	for n, one := range x.Devices {
		nodes = append(nodes, Node{Device: one.ID, Depth: -1, Segments: v.SegmentsAt(one.ID)})
		at[one.ID] = n
	}
	links := map[dossier.ID[dossier.Device]][]dossier.Link{}
	for _, l := range x.Links {
		near, far := v.endsOf(l)
		links[near.ID] = append(links[near.ID], l)
		links[far.ID] = append(links[far.ID], l)
	}
	used := map[dossier.ID[dossier.Link]]bool{}
	var queue []dossier.ID[dossier.Device]
	if root, ok := at[v.Router()]; ok {
		nodes[root].Depth = 0
		queue = append(queue, nodes[root].Device)
	}
	for len(queue) > 0 {
		here := queue[0]
		queue = queue[1:]
		for _, l := range links[here] {
			near, far := v.endsOf(l)
			other := near.ID
			if other == here {
				other = far.ID
			}
			if n, ok := at[other]; ok && nodes[n].Depth < 0 {
				nodes[n].Depth, nodes[n].Parent, nodes[n].Up = nodes[at[here]].Depth+1, here, l.ID
				used[l.ID] = true
				queue = append(queue, other)
			}
		}
	}
	for _, l := range x.Links {
		if !used[l.ID] {
			spare = append(spare, l.ID)
		}
	}
	return nodes, spare
}

// UseOf says what an address of a segment is there for.
type UseOf string

// Uses of an address.
const (
	UseGateway  UseOf = "gateway"
	UseReserved UseOf = "reserved"
	UseFixed    UseOf = "set-on-device"
	UseLeased   UseOf = "lease"
	UseHeld     UseOf = "held" // someone has it, nobody knows how
)

// Values lists the uses.
func (UseOf) Values() []string {
	return []string{string(UseGateway), string(UseReserved), string(UseFixed), string(UseLeased), string(UseHeld)}
}

// Spot is one address of a segment that is taken, by whom and for what. Share is its place in the
// prefix, from 0 to 1. Clash: more than one adapter has it. InPool: the DHCP server may give it
// out. Outside: it does not lie in the prefix at all, and has no place in it.
type Spot struct {
	Address netip.Addr
	Share   float64
	Uses    []UseOf
	Holders []dossier.Ref
	Clash   bool
	InPool  bool
	Outside bool
}

// Strip is the address plan of one segment: its pool and every address that is taken, in order.
type Strip struct {
	Segment            dossier.ID[dossier.Segment]
	PoolFrom, PoolTill float64 // places of the pool in the prefix; both 0 without one
	Spots              []Spot
	Free               int // addresses of the pool that no recorded adapter has
}

// Plan returns the address plan of each segment in the order of their names, IPv4 only: nobody
// plans IPv6 addresses by hand.
func Plan(d *dossier.Dossier) []Strip {
	v := look(d, time.Time{})
	var out []Strip
	for _, s := range d.Segments {
		if s.Prefix.IsValid() && s.Prefix.Addr().Is4() {
			out = append(out, v.strip(s))
		}
	}
	slices.SortStableFunc(out, func(a, b Strip) int { return strings.Compare(v.Label(a.Segment.Ref()), v.Label(b.Segment.Ref())) })
	return out
}

func (v *view) strip(s dossier.Segment) Strip {
	spots := map[netip.Addr]*Spot{}
	take := func(a netip.Addr, use UseOf, by dossier.Ref) {
		if !a.Is4() {
			return
		}
		spot := spots[a]
		if spot == nil {
			spot = &Spot{Address: a, InPool: inPool(s, a), Outside: !s.Prefix.Contains(a)}
			if !spot.Outside {
				spot.Share = shareOf(s.Prefix, a)
			}
			spots[a] = spot
		}
		if !slices.Contains(spot.Uses, use) {
			spot.Uses = append(spot.Uses, use)
		}
		if by.Kind != "segment" && !slices.Contains(spot.Holders, by) {
			spot.Holders = append(spot.Holders, by)
			spot.Clash = len(spot.Holders) > 1
		}
	}
	take(s.Gateway, UseGateway, s.ID.Ref())
	for _, r := range s.Reservations {
		take(r.Address, UseReserved, s.ID.Ref())
	}
	uses := map[dossier.AddressBy]UseOf{dossier.BySetting: UseFixed, dossier.ByLease: UseLeased, dossier.ByReservation: UseReserved}
	for _, i := range v.Interfaces {
		for _, a := range i.Addresses {
			if v.SegmentOf(i, a) == s.ID {
				use, known := uses[i.AddressBy]
				if !known {
					use = UseHeld
				}
				take(a, use, i.ID.Ref())
			}
		}
	}
	strip := Strip{Segment: s.ID, Free: int(poolSize(s.PoolFirst, s.PoolLast))}
	if strip.Free > 0 && s.Prefix.Contains(s.PoolFirst) && s.Prefix.Contains(s.PoolLast) {
		strip.PoolFrom, strip.PoolTill = shareOf(s.Prefix, s.PoolFirst), shareOf(s.Prefix, s.PoolLast)
	}
	for _, spot := range spots {
		strip.Spots = append(strip.Spots, *spot)
		if spot.InPool {
			strip.Free--
		}
	}
	slices.SortFunc(strip.Spots, func(a, b Spot) int { return a.Address.Compare(b.Address) })
	return strip
}

// shareOf returns the place of an IPv4 address in its prefix, from 0 for the first to 1 for the last.
func shareOf(p netip.Prefix, a netip.Addr) float64 {
	whole := float64(uint64(1)<<(32-p.Bits())) - 1
	if whole <= 0 {
		return 0
	}
	return (poolSize(p.Masked().Addr(), a) - 1) / whole
}
