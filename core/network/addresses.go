package network

import (
	"net/netip"
	"slices"

	"kaiku/core/dossier"
)

// linkLocal is what a device gives itself when no DHCP server answers (RFC 3927, section 2.1).
var linkLocal = netip.MustParsePrefix("169.254.0.0/16")

// addressClash finds addresses that two adapters in one segment both have. ARP then answers with
// either, so that both work intermittently (RFC 5227, section 1.1).
func addressClash(v *view) []Finding {
	type place struct {
		segment dossier.ID[dossier.Segment]
		address netip.Addr
	}
	holders := map[place][]dossier.Interface{}
	var order []place
	for _, i := range v.Interfaces {
		for _, a := range i.Addresses {
			p := place{v.SegmentOf(i, a), a}
			if len(holders[p]) == 0 {
				order = append(order, p)
			}
			if !slices.ContainsFunc(holders[p], func(o dossier.Interface) bool { return o.ID == i.ID }) {
				holders[p] = append(holders[p], i)
			}
		}
	}
	var out []Finding
	for _, p := range order {
		if len(holders[p]) < 2 {
			continue
		}
		f := about(nil, "address", p.address.String(), "segment", v.Label(p.segment.Ref()))
		var names []string
		// The newest adapter stands first: it is the one most likely recorded or set wrongly.
		for _, i := range slices.Backward(holders[p]) {
			f.Subjects = append(f.Subjects, i.ID.Ref(), i.Device.Ref())
			names = append(names, v.Label(i.Device.Ref()))
		}
		f.Values["devices"] = dossier.Named(names...)
		out = append(out, f)
	}
	return out
}

// hardwareAddressClash finds one MAC address at two adapters: a copied record, or a cloned
// machine. Reservations and neighbours then name either. One adapter that is in several VLANs is
// recorded once for each, and is no clash with itself.
func hardwareAddressClash(v *view) []Finding {
	holders := map[dossier.HardwareAddr][]dossier.Interface{}
	var order []dossier.HardwareAddr
	for _, i := range v.Interfaces {
		if i.HardwareAddress == "" {
			continue
		}
		if len(holders[i.HardwareAddress]) == 0 {
			order = append(order, i.HardwareAddress)
		}
		holders[i.HardwareAddress] = append(holders[i.HardwareAddress], i)
	}
	var out []Finding
	for _, a := range order {
		if len(holders[a]) < 2 || v.oneInSeveralVLANs(holders[a]) {
			continue
		}
		f := about(nil, "address", string(a))
		var names []string
		for _, i := range slices.Backward(holders[a]) {
			f.Subjects = append(f.Subjects, i.ID.Ref())
			names = append(names, v.FullLabel(i.ID.Ref()))
		}
		f.Values["adapters"] = dossier.Named(names...)
		out = append(out, f)
	}
	return out
}

// oneInSeveralVLANs reports whether the records are of one device, each in another VLAN.
func (v *view) oneInSeveralVLANs(list []dossier.Interface) bool {
	vlans := map[int]bool{}
	for _, i := range list {
		s, known := v.Segments.Get(i.Segment)
		if !known || i.Device != list[0].Device || vlans[s.VLAN] {
			return false
		}
		vlans[s.VLAN] = true
	}
	return true
}

// hardwareAddressRandomised finds devices that are set to show changing MAC addresses: it
// breaks reservations, and servers take them for new ones. Decided by the setting, not by the
// bit of the address alone.
func hardwareAddressRandomised(v *view) []Finding {
	var out []Finding
	for _, i := range v.Interfaces {
		if i.Randomised == dossier.Yes {
			out = append(out, about(refs(i.ID.Ref(), i.Device.Ref()), "adapter", v.FullLabel(i.ID.Ref())))
		}
	}
	return out
}

// noLease finds adapters with an address that a device gives itself.
func noLease(v *view) []Finding {
	return eachAddress(v, func(i dossier.Interface, a netip.Addr, _ dossier.Segment, _ bool) bool { return linkLocal.Contains(a) })
}

// addressOutsideSegment finds addresses that do not lie in the segment recorded for the adapter.
// Addresses of the link alone (169.254/16, fe80::/10) are no part of a segment's prefix, and an
// IPv6 address of a segment without a recorded IPv6 prefix says nothing.
func addressOutsideSegment(v *view) []Finding {
	return eachAddress(v, func(_ dossier.Interface, a netip.Addr, s dossier.Segment, known bool) bool {
		return known && outsideOf(s, a) && !linkLocal.Contains(a) && !a.IsLinkLocalUnicast()
	})
}

// outsideOf reports whether the address is in neither prefix of the segment, of those of its family.
func outsideOf(s dossier.Segment, a netip.Addr) bool {
	ofFamily := false
	for _, p := range []netip.Prefix{s.Prefix, s.Prefix6} {
		if p.IsValid() && p.Addr().Is4() == a.Is4() {
			if p.Contains(a) {
				return false
			}
			ofFamily = true
		}
	}
	return ofFamily
}

// addressInLeasePool finds addresses set on a device that the DHCP server may give to another.
// A router's address that is set on itself counts too.
func addressInLeasePool(v *view) []Finding {
	return eachAddress(v, func(i dossier.Interface, a netip.Addr, s dossier.Segment, known bool) bool {
		return known && i.AddressBy == dossier.BySetting && inPool(s, a) && !reserved(s, i, a)
	})
}

func inPool(s dossier.Segment, a netip.Addr) bool { return within(s.PoolFirst, s.PoolLast, a) }

func within(first, last, a netip.Addr) bool {
	return first.IsValid() && last.IsValid() && first.Compare(a) <= 0 && a.Compare(last) <= 0
}

func reserved(s dossier.Segment, i dossier.Interface, a netip.Addr) bool {
	return slices.ContainsFunc(s.Reservations, func(r dossier.Reservation) bool {
		return r.Address == a && (i.HardwareAddress == "" || r.HardwareAddress == i.HardwareAddress)
	})
}

// eachAddress makes a finding of every address for which wrong is true.
func eachAddress(v *view, wrong func(dossier.Interface, netip.Addr, dossier.Segment, bool) bool) []Finding {
	var out []Finding
	for _, i := range v.Interfaces {
		s, known := v.Segments.Get(i.Segment)
		for _, a := range i.Addresses {
			if !wrong(i, a, s, known) {
				continue
			}
			f := about(refs(i.ID.Ref(), i.Device.Ref()), "address", a.String(), "adapter", v.FullLabel(i.ID.Ref()))
			if known {
				f.Values["segment"], f.Values["prefix"] = dossier.Named(s.Name), dossier.Named(s.Prefix.String())
				if s.PoolFirst.IsValid() {
					f.Values["first"], f.Values["last"] = dossier.Named(s.PoolFirst.String()), dossier.Named(s.PoolLast.String())
				}
			}
			out = append(out, f)
		}
	}
	return out
}

// gatewayOutsideSegment finds gateways that no member of the segment can reach.
func gatewayOutsideSegment(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		if s.Gateway.IsValid() && outsideOf(s, s.Gateway) && !s.Gateway.IsLinkLocalUnicast() {
			out = append(out, about(refs(s.ID.Ref()), "segment", s.Name, "gateway", s.Gateway.String(), "prefix", s.Prefix.String()))
		}
	}
	return out
}

// segmentsOverlap finds two segments of which one contains addresses of the other: a router then
// sends to one of them only.
func segmentsOverlap(v *view) []Finding {
	var out []Finding
	for n, s := range v.Segments {
		for _, o := range v.Segments[:n] {
			for _, p := range [][2]netip.Prefix{{s.Prefix, o.Prefix}, {s.Prefix6, o.Prefix6}} {
				if p[0].IsValid() && p[1].IsValid() && p[0].Overlaps(p[1]) {
					out = append(out, about(refs(s.ID.Ref(), o.ID.Ref()), "segment", s.Name, "prefix", p[0].String(), "other", o.Name, "otherPrefix", p[1].String()))
				}
			}
		}
	}
	return out
}

// typedAddressNotReserved finds addresses that someone typed into a device although their owner
// has them by lease only: the commonest reason why something worked until the power cut.
func typedAddressNotReserved(v *view) []Finding {
	var out []Finding
	for _, i := range v.Interfaces {
		if i.AddressBy != dossier.ByLease {
			continue
		}
		s, _ := v.Segments.Get(i.Segment)
		for _, a := range i.Addresses {
			f := about(refs(i.ID.Ref(), i.Device.Ref()), "address", a.String(), "adapter", v.FullLabel(i.ID.Ref()))
			for _, p := range v.InUse {
				if p.FoundBy == dossier.ByTypedAddress && p.DeviceEnd.Address == a && !reserved(s, i, a) {
					f.Subjects = append(f.Subjects, p.ID.Ref())
				}
			}
			if len(f.Subjects) > 2 {
				f.Values["paths"] = dossier.Named(v.labels(f.Subjects[2:])...)
				out = append(out, f)
			}
		}
	}
	return out
}

// boundToLease finds sources bound to an address that comes from a lease: with another address
// the source does not start.
func boundToLease(v *view) []Finding {
	var out []Finding
	for _, s := range v.Sources {
		i, bound := v.Interfaces.Get(s.Interface)
		segment, _ := v.Segments.Get(i.Segment)
		if bound && i.AddressBy == dossier.ByLease && slices.ContainsFunc(i.Addresses, func(a netip.Addr) bool { return !reserved(segment, i, a) }) {
			out = append(out, about(refs(i.ID.Ref(), s.ID.Ref(), s.Device.Ref()), "source", v.FullLabel(s.ID.Ref()), "adapter", i.Name, "address", i.Addresses[0].String()))
		}
	}
	return out
}
