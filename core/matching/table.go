package matching

import (
	"net/netip"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// Sighting is one adapter that a table of leases or neighbours, or a machine's list of its own
// adapters, speaks of.
type Sighting struct {
	HardwareAddress dossier.HardwareAddr
	Addresses       []netip.Addr
	Name            string // host name, or the adapter's own name
	Leased          bool   // the addresses come from a DHCP server
	Own             bool   // it is an adapter of the machine that wrote the table
	At              time.Time
}

// SameAdapterName is the reason by which an adapter of a machine is known in the machine's own list.
const SameAdapterName What = "same-adapter-name"

// AdapterOf returns the recorded adapter that a table speaks of, and by what it is known: by its MAC
// address; by an address of an adapter of which no MAC address is recorded, unless the host name
// contradicts; or by its name on the machine that wrote the table, own. Nothing else is sure enough: a
// false merge is worse than a double.
func AdapterOf(d *dossier.Dossier, s Sighting, own dossier.ID[dossier.Device]) (dossier.Interface, What, bool) {
	for _, i := range d.Interfaces {
		if i.HardwareAddress != "" && i.HardwareAddress == s.HardwareAddress {
			return i, SameHardware, true
		}
	}
	for _, i := range d.Interfaces {
		if i.HardwareAddress == "" && slices.ContainsFunc(i.Addresses, func(a netip.Addr) bool { return slices.Contains(s.Addresses, a) }) && !s.contradicts(d, i) {
			return i, SameAddress, true
		}
		if s.Own && i.Device == own && strings.EqualFold(i.Name, s.Name) {
			return i, SameAdapterName, true
		}
	}
	return dossier.Interface{}, "", false
}

// contradicts reports whether what the table says of a host speaks against the device of an adapter.
func (s Sighting) contradicts(d *dossier.Dossier, i dossier.Interface) bool {
	device, known := d.Devices.Get(i.Device)
	if !known || s.Own {
		return false
	}
	h := NewHost(i.Segment, s.Addresses[0])
	h.Say(0, "hostName", s.Name, ByLeases)
	against := weigh(h, identity{device: device}, false)
	return slices.ContainsFunc(against.Reasons, func(r Reason) bool { return r.Weight < 0 })
}

// Fill puts into an adapter what the table says of it: addresses of the families that it speaks of,
// how it comes by them where nobody said otherwise, and its segment.
func (s Sighting) Fill(d *dossier.Dossier, i *dossier.Interface) {
	i.HardwareAddress = s.HardwareAddress
	var kept []netip.Addr
	for _, a := range i.Addresses {
		if !slices.ContainsFunc(s.Addresses, func(seen netip.Addr) bool { return seen.Is4() == a.Is4() }) {
			kept = append(kept, a)
		}
	}
	i.Addresses = append(kept, s.Addresses...)
	if s.Leased && i.AddressBy == "" {
		i.AddressBy = dossier.ByLease
	}
	at, known := d.Segments.Get(i.Segment)
	holds := func(one dossier.Segment) bool {
		return slices.ContainsFunc(s.Addresses, func(a netip.Addr) bool { return one.Prefix.Contains(a) || one.Prefix6.Contains(a) })
	}
	if known && holds(at) {
		return
	}
	if n := slices.IndexFunc(d.Segments, holds); n >= 0 {
		i.Segment = d.Segments[n].ID
	}
}
