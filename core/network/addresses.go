package network

import (
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// linkLocal is what a device gives itself when no lease server answers (RFC 3927, section 2.1).
var linkLocal = netip.MustParsePrefix("169.254.0.0/16")

// hardwareAddressClash finds one hardware address at two adapters: a copied record, or a cloned
// machine. Reservations and neighbours then name either.
func hardwareAddressClash(d *dossier.Dossier) []Finding {
	holders := map[dossier.HardwareAddr][]dossier.Interface{}
	var order []dossier.HardwareAddr
	for _, i := range d.Interfaces {
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
		if len(holders[a]) < 2 {
			continue
		}
		f := Finding{Values: map[string]string{"address": string(a)}}
		var names []string
		for _, i := range slices.Backward(holders[a]) {
			f.Subjects = append(f.Subjects, i.ID.Ref())
			names = append(names, d.FullLabel(i.ID.Ref()))
		}
		f.Values["adapters"] = strings.Join(names, ", ")
		out = append(out, f)
	}
	return out
}

// noLease finds adapters with an address that a device gives itself.
func noLease(d *dossier.Dossier) []Finding {
	return eachAddress(d, func(i dossier.Interface, a netip.Addr, _ dossier.Segment, _ bool) bool { return linkLocal.Contains(a) })
}

// addressOutsideSegment finds addresses that do not lie in the segment recorded for the adapter.
// Addresses of the link alone (169.254/16, fe80::/10) are no part of a segment's prefix.
func addressOutsideSegment(d *dossier.Dossier) []Finding {
	return eachAddress(d, func(_ dossier.Interface, a netip.Addr, s dossier.Segment, known bool) bool {
		return known && a.Is4() == s.Prefix.Addr().Is4() && !s.Prefix.Contains(a) && !linkLocal.Contains(a) && !a.IsLinkLocalUnicast()
	})
}

// addressInLeasePool finds addresses set on a device that the lease server may give to another.
// A router's address that is set on itself counts too.
func addressInLeasePool(d *dossier.Dossier) []Finding {
	return eachAddress(d, func(i dossier.Interface, a netip.Addr, s dossier.Segment, known bool) bool {
		return known && i.AddressBy == dossier.BySetting && inPool(s, a) && !reserved(s, i, a)
	})
}

func inPool(s dossier.Segment, a netip.Addr) bool {
	return s.PoolFirst.IsValid() && s.PoolLast.IsValid() && s.PoolFirst.Compare(a) <= 0 && a.Compare(s.PoolLast) <= 0
}

func reserved(s dossier.Segment, i dossier.Interface, a netip.Addr) bool {
	return slices.ContainsFunc(s.Reservations, func(r dossier.Reservation) bool {
		return r.Address == a && (i.HardwareAddress == "" || r.HardwareAddress == i.HardwareAddress)
	})
}

// eachAddress makes a finding of every address for which wrong is true.
func eachAddress(d *dossier.Dossier, wrong func(dossier.Interface, netip.Addr, dossier.Segment, bool) bool) []Finding {
	var out []Finding
	for _, i := range d.Interfaces {
		for _, a := range i.Addresses {
			s, known := d.Segments.Get(i.Segment)
			if !wrong(i, a, s, known) {
				continue
			}
			f := Finding{Subjects: []dossier.Ref{i.ID.Ref(), i.Device.Ref()}, Values: map[string]string{"address": a.String(), "adapter": d.FullLabel(i.ID.Ref())}}
			if known {
				f.Values["segment"], f.Values["prefix"] = s.Name, s.Prefix.String()
				if s.PoolFirst.IsValid() {
					f.Values["pool"] = s.PoolFirst.String() + " to " + s.PoolLast.String()
				}
			}
			out = append(out, f)
		}
	}
	return out
}

// gatewayOutsideSegment finds gateways that no member of the segment can reach.
func gatewayOutsideSegment(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, s := range d.Segments {
		if s.Gateway.IsValid() && s.Prefix.IsValid() && s.Gateway.Is4() == s.Prefix.Addr().Is4() && !s.Prefix.Contains(s.Gateway) && !s.Gateway.IsLinkLocalUnicast() {
			out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref()}, Values: map[string]string{"segment": s.Name, "gateway": s.Gateway.String(), "prefix": s.Prefix.String()}})
		}
	}
	return out
}

// segmentsOverlap finds two segments of which one contains addresses of the other: a router then
// sends to one of them only.
func segmentsOverlap(d *dossier.Dossier) []Finding {
	var out []Finding
	for n, s := range d.Segments {
		for _, o := range d.Segments[:n] {
			if s.Prefix.IsValid() && o.Prefix.IsValid() && s.Prefix.Overlaps(o.Prefix) {
				out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref(), o.ID.Ref()},
					Values: map[string]string{"segment": s.Name, "prefix": s.Prefix.String(), "other": o.Name, "otherPrefix": o.Prefix.String()}})
			}
		}
	}
	return out
}
