package network

import (
	"net/netip"
	"slices"
	"time"

	"kaiku/core/dossier"
)

// Place is what a machine's own operating system says of where it is: nothing was asked for it.
type Place struct {
	Adapters   []PlaceAdapter
	Gateways   []netip.Addr
	Servers    []netip.Addr // name servers
	Neighbours []Neighbour
	Leases     []Lease
}

// Lease is an address that this machine has from a DHCP server.
type Lease struct {
	Adapter string
	Address netip.Addr
	Server  netip.Addr
}

// PlaceAdapter is one adapter of the machine, with its addresses and their prefixes.
type PlaceAdapter struct {
	Name            string
	HardwareAddress dossier.HardwareAddr
	Prefixes        []netip.Prefix // the address of each is the adapter's own
}

// Neighbour is one machine that this one has spoken with lately.
type Neighbour struct {
	HardwareAddress dossier.HardwareAddr
	Address         netip.Addr
}

// Remark is one thing to know on arriving, or to settle before leaving. Subject is the record it
// is about, if there is one.
type Remark struct {
	Code    string
	Subject dossier.Ref
	Values  map[string]string
}

// NewRemark makes a remark of values, given as name and text in turn.
func NewRemark(code string, about dossier.Ref, values ...string) Remark {
	out := make(map[string]string, len(values)/2)
	for i := 0; i < len(values); i += 2 {
		out[values[i]] = values[i+1]
	}
	return Remark{code, about, out}
}

// Arrive compares where a machine is with what is recorded of the home: in which segment it is, by
// which adapter, whether the gateway is the recorded one, and which neighbours are recorded, are
// elsewhere than recorded, or are strangers. The first remark says whether this is the home at all.
func Arrive(d *dossier.Dossier, p Place) []Remark {
	v := look(d, time.Time{})
	var out []Remark
	say := func(code string, about dossier.Ref, values ...string) {
		out = append(out, NewRemark(code, about, values...))
	}
	var in []dossier.Segment
	for _, a := range p.Adapters {
		for _, own := range a.Prefixes {
			for _, s := range d.Segments {
				if !own.Addr().IsLinkLocalUnicast() && (s.Prefix.Contains(own.Addr()) || s.Prefix6.Contains(own.Addr())) {
					say("in-segment", s.ID.Ref(), "segment", s.Name, "adapter", a.Name, "address", own.String())
					if !slices.ContainsFunc(in, func(o dossier.Segment) bool { return o.ID == s.ID }) {
						in = append(in, s)
					}
					if own.Addr().Is4() && own.Bits() != s.Prefix.Bits() {
						say("prefix-differs", s.ID.Ref(), "segment", s.Name, "recorded", s.Prefix.String(), "here", own.Masked().String())
					}
				}
			}
		}
	}
	if len(in) == 0 {
		say("not-in-home", dossier.Ref{})
	}
	for _, g := range p.Gateways {
		i := slices.IndexFunc(in, func(s dossier.Segment) bool { return s.Prefix.Contains(g) || s.Prefix6.Contains(g) })
		switch {
		case i < 0:
		case in[i].Gateway == g:
			say("gateway-as-recorded", in[i].ID.Ref(), "gateway", g.String())
		case in[i].Gateway.IsValid():
			say("gateway-differs", in[i].ID.Ref(), "segment", in[i].Name, "recorded", in[i].Gateway.String(), "here", g.String())
		default:
			say("gateway-not-recorded", in[i].ID.Ref(), "segment", in[i].Name, "here", g.String())
		}
	}
	for _, l := range p.Leases {
		i := slices.IndexFunc(in, func(s dossier.Segment) bool { return s.Prefix.Contains(l.Address) })
		if i < 0 || !l.Server.IsValid() {
			continue
		}
		code, own := "lease-server-unknown", v.addressesOf(in[i].DHCPServers)
		switch {
		case slices.Contains(own, l.Server):
			code = "lease-as-recorded"
		case len(own) > 0:
			code = "lease-server-other"
		}
		say(code, in[i].ID.Ref(), "segment", in[i].Name, "adapter", l.Adapter, "address", l.Address.String(), "server", l.Server.String())
	}
	for _, n := range p.Neighbours { // neighbours elsewhere are not part of this home
		if slices.ContainsFunc(in, func(s dossier.Segment) bool { return s.Prefix.Contains(n.Address) || s.Prefix6.Contains(n.Address) }) {
			v.meet(n, in, say)
		}
	}
	return out
}

// Here reports whether a machine can be sure of being in the home, so that it asks the home's own devices and no others: it is in a recorded segment,
// where the gateway or a neighbour is as recorded, and no other machine has the gateway's address. A home on loopback is in every machine.
func Here(d *dossier.Dossier, p Place) bool {
	if slices.ContainsFunc(d.Segments, func(s dossier.Segment) bool { return s.Prefix.IsValid() && s.Prefix.Addr().IsLoopback() }) {
		return true
	}
	known := false
	for _, r := range Arrive(d, p) {
		switch r.Code {
		case "gateway-as-recorded", "neighbour-as-recorded":
			known = true
		case "gateway-differs":
			return false
		case "neighbour-other":
			if slices.ContainsFunc(p.Gateways, func(g netip.Addr) bool { return g.String() == r.Values["address"] }) {
				return false
			}
		}
	}
	return known
}

// addressesOf returns all addresses of the devices.
func (v *view) addressesOf(devices []dossier.ID[dossier.Device]) []netip.Addr {
	var out []netip.Addr
	for _, d := range devices {
		for _, i := range v.InterfacesOf(d) {
			out = append(out, i.Addresses...)
		}
	}
	return out
}

// meet compares one neighbour with the record.
func (v *view) meet(n Neighbour, in []dossier.Segment, say func(string, dossier.Ref, ...string)) {
	for _, i := range v.Interfaces {
		if i.HardwareAddress != n.HardwareAddress {
			continue
		}
		if slices.Contains(i.Addresses, n.Address) || n.Address.IsLinkLocalUnicast() {
			say("neighbour-as-recorded", i.Device.Ref(), "device", v.Label(i.Device.Ref()), "address", n.Address.String())
			return
		}
		say("neighbour-moved", i.ID.Ref(), "device", v.Label(i.Device.Ref()), "address", n.Address.String())
		return
	}
	for _, i := range v.Interfaces {
		if slices.Contains(i.Addresses, n.Address) && i.HardwareAddress != "" && slices.ContainsFunc(in, func(s dossier.Segment) bool { return s.ID == i.Segment }) {
			say("neighbour-other", i.ID.Ref(), "device", v.Label(i.Device.Ref()), "address", n.Address.String(), "hardware", string(n.HardwareAddress))
			return
		}
	}
	say("neighbour-unknown", dossier.Ref{}, "address", n.Address.String(), "hardware", string(n.HardwareAddress))
}

// NewSegment returns the network that a machine is on, as a segment that the home does not have
// yet: an IPv4 network with a gateway, which overlaps no recorded one. It is named home while no
// segment is recorded, and after its prefix later.
func NewSegment(d *dossier.Dossier, p Place) (dossier.Segment, bool) {
	for _, a := range p.Adapters {
		for _, own := range a.Prefixes {
			if !own.Addr().Is4() || own.Addr().IsLoopback() || own.Addr().IsLinkLocalUnicast() || own.Bits() > 30 {
				continue
			}
			recorded := slices.ContainsFunc(d.Segments, func(s dossier.Segment) bool { return s.Prefix.Overlaps(own.Masked()) })
			i := slices.IndexFunc(p.Gateways, own.Contains)
			if recorded || i < 0 {
				continue
			}
			s := dossier.Segment{Name: "home", Prefix: own.Masked(), Gateway: p.Gateways[i]}
			if len(d.Segments) > 0 {
				s.Name = "network " + s.Prefix.Addr().String()
			}
			return s, true
		}
	}
	return dossier.Segment{}, false
}
