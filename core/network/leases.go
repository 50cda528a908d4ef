package network

import (
	"math/big"
	"net/netip"
	"slices"

	"kaiku/core/dossier"
)

// poolOutsideSegment finds lease pools that give out addresses of another segment.
func poolOutsideSegment(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		if s.PoolFirst.IsValid() && s.PoolLast.IsValid() && (outsideOf(s, s.PoolFirst) || outsideOf(s, s.PoolLast)) {
			out = append(out, about(refs(s.ID.Ref()), "segment", s.Name, "first", s.PoolFirst.String(), "last", s.PoolLast.String(), "prefix", s.Prefix.String()))
		}
	}
	return out
}

// reservationOutsideSegment finds reservations that no member of the segment can use.
func reservationOutsideSegment(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		for _, r := range s.Reservations {
			if r.Address.IsValid() && outsideOf(s, r.Address) {
				out = append(out, about(refs(s.ID.Ref()), "segment", s.Name, "address", r.Address.String(), "for", string(r.HardwareAddress), "prefix", s.Prefix.String()))
			}
		}
	}
	return out
}

// nearlyFull is the part of a DHCP pool that may be taken before visitors go without.
const nearlyFull = 0.9

// poolNearlyFull finds lease pools of which the recorded devices alone take nearly everything.
func poolNearlyFull(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		size := poolSize(s.PoolFirst, s.PoolLast)
		if size == 0 {
			continue
		}
		taken := map[netip.Addr]bool{}
		for _, r := range s.Reservations {
			if inPool(s, r.Address) {
				taken[r.Address] = true
			}
		}
		for _, i := range v.Interfaces {
			for _, a := range i.Addresses {
				if i.Segment == s.ID && inPool(s, a) {
					taken[a] = true
				}
			}
		}
		if float64(len(taken)) >= nearlyFull*size {
			out = append(out, about(refs(s.ID.Ref()), "segment", s.Name, "taken", dossier.Counted(len(taken)), "size", dossier.Counted(int(size)), "first", s.PoolFirst.String(), "last", s.PoolLast.String()))
		}
	}
	return out
}

// poolSize returns how many addresses lie from first to last, both counted; 0 for none.
func poolSize(first, last netip.Addr) float64 {
	if !first.IsValid() || !last.IsValid() || first.BitLen() != last.BitLen() || last.Less(first) {
		return 0
	}
	n := new(big.Int).Sub(new(big.Int).SetBytes(last.AsSlice()), new(big.Int).SetBytes(first.AsSlice()))
	size, _ := new(big.Float).SetInt(n).Float64()
	return size + 1
}

// offer is what one DHCP server gives out in a segment.
type offer struct {
	by          dossier.Ref
	first, last netip.Addr
	gateway     netip.Addr
	names       []netip.Addr
}

// twoDHCPServers finds segments in which more than one device gives out addresses. What a device
// gets is then a matter of who answers first (RFC 2131, section 3.1). Where both say the same and
// give out different addresses it is only a warning.
func twoDHCPServers(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		offers := v.offers(s)
		if len(offers) < 2 {
			continue
		}
		f := about(refs(s.ID.Ref()), "segment", s.Name)
		var by []dossier.Ref
		var differ dossier.Value
		for n, o := range offers {
			by = append(by, o.by)
			if outsideOf(s, o.first) && o.first.IsValid() {
				differ = differ.And(dossier.Said("dhcp-outside", "server", v.Label(o.by), "prefix", s.Prefix.String()))
			}
			for _, p := range offers[:n] {
				differ = differ.And(o.against(p))
			}
		}
		f.Subjects, f.Values["servers"] = append(f.Subjects, by...), dossier.Named(v.labels(by)...)
		f.Values["differ"] = dossier.Said("dhcp-agree")
		if f.Severity = Warning; len(differ.Phrases) > 0 {
			f.Severity, f.Values["differ"] = Blocker, differ.Once()
		}
		out = append(out, f)
	}
	return out
}

// offers returns what each DHCP server of a segment gives out. A server without an offer of its
// own gives out what the segment has recorded.
func (v *view) offers(s dossier.Segment) []offer {
	var out []offer
	for _, o := range v.DHCPServers {
		if o.Segment == s.ID {
			out = append(out, offer{o.Device.Ref(), o.PoolFirst, o.PoolLast, o.Gateway, o.NameServers})
		}
	}
	own := 0
	for _, id := range s.DHCPServers {
		if slices.ContainsFunc(out, func(o offer) bool { return o.by == id.Ref() }) {
			continue
		}
		o := offer{by: id.Ref()}
		if own++; own == 1 { // of a second one without an offer nothing is known
			o = offer{id.Ref(), s.PoolFirst, s.PoolLast, s.Gateway, s.NameServers}
		}
		out = append(out, o)
	}
	return out
}

// against says in what two offers contradict each other.
func (o offer) against(p offer) (differ dossier.Value) {
	if o.gateway.IsValid() && p.gateway.IsValid() && o.gateway != p.gateway {
		differ = differ.And(dossier.Said("gateways-differ"))
	}
	if len(o.names) > 0 && len(p.names) > 0 && !slices.Equal(o.names, p.names) {
		differ = differ.And(dossier.Said("name-servers-differ"))
	}
	if o.first.IsValid() && p.first.IsValid() && o.first.Compare(p.last) <= 0 && p.first.Compare(o.last) <= 0 {
		differ = differ.And(dossier.Said("pools-overlap"))
	}
	return differ
}
