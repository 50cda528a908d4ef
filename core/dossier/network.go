package dossier

import (
	"net/netip"
	"slices"
)

// Networked reports whether a device of these roles is on the network at all: a plain screen or a
// receiver need not be.
func (d Device) Networked() bool {
	return slices.ContainsFunc(d.Roles, func(r Role) bool { return r != RoleScreen && r != RoleReceiver })
}

// InterfacesOf returns the adapters of a device, in the order of their ids.
func (d *Dossier) InterfacesOf(device ID[Device]) []Interface {
	var out []Interface
	for i := range d.Interfaces { // by index: a home has many adapters, and this is asked often
		if d.Interfaces[i].Device == device {
			out = append(out, d.Interfaces[i])
		}
	}
	return out
}

// ListensOn returns the adapters a source can be reached at: the one it is bound to, or all of
// its device.
func (d *Dossier) ListensOn(s Source) []Interface {
	if i, ok := d.Interfaces.Get(s.Interface); ok {
		return []Interface{i}
	}
	return d.InterfacesOf(s.Device)
}

// SegmentOf returns the segment of an address on an adapter: the one recorded for the adapter,
// or else the only segment whose prefix contains the address.
func (d *Dossier) SegmentOf(i Interface, a netip.Addr) ID[Segment] {
	if i.Segment != "" {
		return i.Segment
	}
	var found ID[Segment]
	for _, s := range d.Segments {
		if s.Prefix.Contains(a) {
			if found != "" {
				return ""
			}
			found = s.ID
		}
	}
	return found
}

// SegmentsOf returns the segments that the adapters are in, without doubles, in the order found.
func (d *Dossier) SegmentsOf(interfaces []Interface) []ID[Segment] {
	var out []ID[Segment]
	seen := map[ID[Segment]]bool{}
	for _, i := range interfaces {
		addresses := i.Addresses
		if len(addresses) == 0 {
			addresses = []netip.Addr{{}}
		}
		for _, a := range addresses {
			if s := d.SegmentOf(i, a); s != "" && !seen[s] {
				seen[s] = true
				out = append(out, s)
			}
		}
	}
	return out
}

// AddressOf returns the first address at which a source can be reached, or the zero Addr.
func (d *Dossier) AddressOf(s Source) netip.Addr {
	for _, i := range d.ListensOn(s) {
		if len(i.Addresses) > 0 {
			return i.Addresses[0]
		}
	}
	return netip.Addr{}
}
