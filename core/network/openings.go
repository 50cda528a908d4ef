package network

import (
	"cmp"
	"net/netip"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/pathkind"
)

// NeededOpening is one opening inward that paths need in the firewall of a host, and what is recorded of it.
type NeededOpening struct {
	Host      dossier.ID[dossier.Device]
	Transport dossier.Transport
	Port      int            // 0 for whichever port the host itself has sent from: answers to its own search
	From      []netip.Prefix // of the segments from which packets come, or the addresses of the server that answers; none if they are not known
	Outside   bool           // they come from outside the home
	To        []netip.Addr   // the host's addresses; of a router that passes something on, those of the server
	ToPort    int            // the server's port, where a router passes something on to it
	For       []string       // codes of what it is needed for
	Paths     []dossier.ID[dossier.Path]
	State     OpeningNeed
	Record    dossier.ID[dossier.Opening] // what decides the state, if anything is recorded
}

// OpeningNeed says how a needed opening stands, by the record.
type OpeningNeed string

// How a needed opening stands.
const (
	NeedOpen    OpeningNeed = "open"
	NeedShut    OpeningNeed = "shut"         // blocked
	NeedRefused OpeningNeed = "refused"      // the host asked, and somebody refused
	NeedAsked   OpeningNeed = "asked"        // the host asked; the answer is still due
	NeedDoubt   OpeningNeed = "contradicts"  // recorded as open and as shut
	NeedClass   OpeningNeed = "other-class"  // open, but for another class of network than the host takes this one for
	NeedUnknown OpeningNeed = "not-recorded" // nothing is recorded of it
)

// Values lists them, the worst first.
func (OpeningNeed) Values() []string {
	return []string{string(NeedShut), string(NeedRefused), string(NeedDoubt), string(NeedClass), string(NeedAsked), string(NeedUnknown), string(NeedOpen)}
}

// Openings returns the openings that the paths in use need, host by host, and those recorded as open that no path needs.
func Openings(x *dossier.Index) (needed []NeededOpening, spare []dossier.Opening) {
	v := &view{x, knowledge.Knowledge{}, time.Time{}}
	type key struct {
		host      dossier.ID[dossier.Device]
		transport dossier.Transport
		port      int
	}
	at := map[key]int{}
	add := func(host dossier.ID[dossier.Device], need pathkind.Port, from []netip.Prefix, p dossier.Path) {
		k := key{host, need.Transport, need.Number}
		i, known := at[k]
		if !known {
			i = len(needed)
			at[k] = i
			one := NeededOpening{Host: host, Transport: need.Transport, Port: need.Number, To: addressesAt(v, host)}
			one.State, one.Record = v.stands(host, need)
			needed = append(needed, one)
		}
		n := &needed[i]
		for _, f := range from {
			if !slices.Contains(n.From, f) {
				n.From = append(n.From, f)
			}
		}
		if !slices.Contains(n.For, need.For) {
			n.For = append(n.For, need.For)
		}
		if !slices.Contains(n.Paths, p.ID) {
			n.Paths = append(n.Paths, p.ID)
		}
	}
	for _, p := range v.InUse {
		source, server := v.ServerOf(p)
		if server.ID == p.Device {
			continue
		}
		for _, need := range pathkind.PortsFor(p, source) {
			switch {
			case need.Direction != dossier.Inward:
			case need.At == pathkind.AtServer:
				add(server.ID, need, v.prefixes(v.SegmentsAt(p.Device)), p)
			default:
				add(p.Device, need, hostPrefixes(addressesAt(v, server.ID)), p)
			}
		}
	}
	needed = append(needed, v.fromOutside()...)
	labels := map[dossier.ID[dossier.Device]]string{}
	for _, n := range needed {
		labels[n.Host] = v.Label(n.Host.Ref())
	}
	slices.SortStableFunc(needed, func(a, b NeededOpening) int {
		return cmp.Or(cmp.Compare(labels[a.Host], labels[b.Host]), cmp.Compare(a.Transport, b.Transport), cmp.Compare(a.Port, b.Port))
	})
	for _, o := range v.Openings {
		if o.State == dossier.OpeningOpen && o.Direction == dossier.Inward && !slices.ContainsFunc(needed, func(n NeededOpening) bool {
			return n.Host == o.Device && n.Transport == o.Transport && (n.Port == 0 || n.Port >= o.Port && n.Port <= max(o.Port, o.LastPort))
		}) {
			spare = append(spare, o)
		}
	}
	return needed, spare
}

// fromOutside returns what routers have to let in for the sources that can be reached from outside.
func (v *view) fromOutside() []NeededOpening {
	var out []NeededOpening
	for _, s := range v.Sources {
		if s.OutsidePort == 0 || s.OutsideBy == dossier.WayRelay {
			continue // a relay is reached from within
		}
		for _, l := range v.Lines {
			if l.Router == "" {
				continue
			}
			need := pathkind.Port{Transport: dossier.TCP, Direction: dossier.Inward, Number: s.OutsidePort}
			one := NeededOpening{Host: l.Router, Transport: dossier.TCP, Port: s.OutsidePort, Outside: true, To: addressesAt(v, s.Device), ToPort: cmp.Or(s.Port, pathkind.MainPort(s.Protocol)), For: []string{"from-outside"}}
			for _, p := range v.InUse {
				if p.Source == s.ID {
					one.Paths = append(one.Paths, p.ID)
				}
			}
			one.State, one.Record = v.stands(l.Router, need)
			out = append(out, one)
		}
	}
	return out
}

// stands says how an opening of a host stands by what is recorded. What is open for another class of network than the host's does
// not count as open.
func (v *view) stands(host dossier.ID[dossier.Device], need pathkind.Port) (OpeningNeed, dossier.ID[dossier.Opening]) {
	device, _ := v.Devices.Get(host)
	rank := OpeningNeed("").Values()
	state, by := NeedUnknown, dossier.ID[dossier.Opening]("")
	open, shut := false, false
	for _, o := range v.OpeningsOf(host) {
		if o.Transport != need.Transport || o.Direction != need.Direction || need.Number == 0 || need.Number < o.Port || need.Number > max(o.Port, o.LastPort) {
			continue
		}
		one := map[dossier.OpeningState]OpeningNeed{dossier.OpeningOpen: NeedOpen, dossier.OpeningBlocked: NeedShut, dossier.OpeningRefused: NeedRefused, dossier.OpeningAsked: NeedAsked}[o.State]
		if one == NeedOpen && o.NetworkClass != "" && o.NetworkClass != dossier.ClassAny && device.NetworkClass != "" && o.NetworkClass != device.NetworkClass {
			one = NeedClass
		}
		open, shut = open || one == NeedOpen, shut || one == NeedShut || one == NeedRefused
		if by == "" || slices.Index(rank, string(one)) < slices.Index(rank, string(state)) {
			state, by = one, o.ID
		}
	}
	switch {
	case open && shut: // what a firewall does then follows from the order of its rules, which is not recorded
		state = NeedDoubt
	case open:
		state = NeedOpen
	}
	return state, by
}

func (v *view) prefixes(segments []dossier.ID[dossier.Segment]) []netip.Prefix {
	var out []netip.Prefix
	for _, id := range segments {
		s, _ := v.Segments.Get(id)
		for _, p := range []netip.Prefix{s.Prefix, s.Prefix6} {
			if p.IsValid() {
				out = append(out, p)
			}
		}
	}
	return out
}

func addressesAt(v *view, device dossier.ID[dossier.Device]) []netip.Addr {
	var out []netip.Addr
	for _, i := range v.InterfacesOf(device) {
		if i.Facing != dossier.FacingOutside {
			out = append(out, i.Addresses...)
		}
	}
	return out
}

func hostPrefixes(list []netip.Addr) []netip.Prefix {
	var out []netip.Prefix
	for _, a := range list {
		out = append(out, netip.PrefixFrom(a, a.BitLen()))
	}
	return out
}
