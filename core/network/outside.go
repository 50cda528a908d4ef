package network

import (
	"cmp"
	"net/netip"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// OuterKind says what sort of address a line gives the home, of one family.
type OuterKind string

// Sorts of outer address. Only a public one can be called from outside.
const (
	OuterUnknown       OuterKind = "unknown"
	OuterPublic        OuterKind = "public"
	OuterCarrierShared OuterKind = "carrier-shared"
	OuterSecondRouter  OuterKind = "behind-second-router"
	OuterCarrier       OuterKind = "carrier-private"
)

// Values lists the sorts.
func (OuterKind) Values() []string {
	return []string{string(OuterUnknown), string(OuterPublic), string(OuterCarrierShared), string(OuterSecondRouter), string(OuterCarrier)}
}

// LineReach says how a home can be reached over one of its lines, IPv4 and IPv6 apart. Box is the
// recorded router between the home's own and the line, if there is one, and Change the one of the two
// that has to be set otherwise: one that must not be touched is named only where there is no other.
type LineReach struct {
	Line     dossier.ID[dossier.Line]
	V4, V6   OuterKind
	Box      dossier.ID[dossier.Device]
	Change   dossier.ID[dossier.Device]
	Relay    bool // a machine outside is called by both ends
	Wished   bool // outside viewing is wished
	CanServe bool // someone outside can reach the home in some way
}

// Outside returns how the home can be reached over each line.
func Outside(x *dossier.Index) []LineReach {
	v := &view{x, knowledge.Knowledge{}, time.Time{}}
	var out []LineReach
	for _, l := range x.Lines {
		out = append(out, v.reach(l))
	}
	return out
}

var (
	// carrierShared is what carriers share among customers (RFC 6598, section 7).
	carrierShared = netip.MustParsePrefix("100.64.0.0/10")
	// softwire is the inner side of dual-stack lite: IPv4 without an address of one's own
	// (RFC 6333, section 5.7; RFC 7335).
	softwire = netip.MustParsePrefix("192.0.0.0/29")
)

func (v *view) reach(l dossier.Line) LineReach {
	r := LineReach{Line: l.ID, V4: OuterUnknown, V6: OuterUnknown, Relay: slices.Contains(l.WaysIn, dossier.WayRelay)}
	outer, inner := v.routersInRow(l)
	private := OuterCarrier
	if inner != "" {
		private = OuterSecondRouter
		r.Box, r.Change = outer, outer
		if box, _ := v.Devices.Get(outer); box.Handling != "" {
			if own, _ := v.Devices.Get(inner); own.Handling == "" {
				r.Change = inner
			}
		}
	}
	a, seen := l.OuterAddress, l.SeenAddress
	if !a.IsValid() {
		a = v.outerAddressOf(l.Router)
	}
	switch {
	case inner != "" && outer == l.Router:
		r.V4 = OuterSecondRouter // the line ends at the provider's box, and another router stands behind it
	case !a.Is4():
	case carrierShared.Contains(a):
		r.V4 = OuterCarrierShared
	case a.IsPrivate() || softwire.Contains(a) || a.IsLinkLocalUnicast():
		r.V4 = private
	case seen.Is4() && seen != a:
		r.V4 = private
	default:
		r.V4 = OuterPublic
	}
	if p := l.OuterPrefix; p.IsValid() && p.Addr().Is6() && p.Addr().IsGlobalUnicast() && !p.Addr().IsPrivate() || l.SeenAddress6.Is6() && l.SeenAddress6.IsGlobalUnicast() && !l.SeenAddress6.IsPrivate() {
		r.V6 = OuterPublic
	}
	r.Wished = slices.ContainsFunc(v.Wishes, func(w dossier.Wish) bool { return w.What == dossier.WishOutsideViewing })
	r.CanServe = r.V4 == OuterPublic || r.V6 == OuterPublic || r.Relay
	return r
}

// routersInRow returns two recorded routers that both translate addresses, the one on the line first,
// or nothing. The line may be recorded as ending at either.
func (v *view) routersInRow(l dossier.Line) (outer, inner dossier.ID[dossier.Device]) {
	if box := v.between(l); box != "" {
		return box, l.Router
	}
	for _, one := range v.Devices {
		if one.ID == l.Router || !one.Is(dossier.RoleRouter) {
			continue
		}
		for _, i := range v.InterfacesOf(one.ID) {
			if i.Facing == dossier.FacingOutside && (v.linkedTo(i.ID, l.Router) || slices.ContainsFunc(i.Addresses, func(a netip.Addr) bool { return v.serves(l.Router, a) })) {
				return l.Router, one.ID
			}
		}
	}
	return "", ""
}

// outerAddressOf returns the address of a router's port that faces outside.
func (v *view) outerAddressOf(router dossier.ID[dossier.Device]) netip.Addr {
	for _, i := range v.InterfacesOf(router) {
		if i.Facing == dossier.FacingOutside && len(i.Addresses) > 0 {
			return i.Addresses[0]
		}
	}
	return netip.Addr{}
}

func (v *view) linkedTo(adapter dossier.ID[dossier.Interface], device dossier.ID[dossier.Device]) bool {
	return slices.ContainsFunc(v.Links, func(l dossier.Link) bool {
		near, far := v.EndsOf(l)
		return l.Near == adapter && far == device || l.Far == adapter && near == device
	})
}

// serves reports whether the address lies in a segment on the home's side of a router.
func (v *view) serves(router dossier.ID[dossier.Device], a netip.Addr) bool {
	return slices.ContainsFunc(v.InterfacesOf(router), func(i dossier.Interface) bool {
		s, known := v.Segments.Get(i.Segment)
		return known && i.Facing != dossier.FacingOutside && s.Prefix.Contains(a)
	})
}

// between returns the recorded router that stands between the line's router and the line: one
// that is linked to a port of it that faces outside, or has that port's address in its segment.
func (v *view) between(l dossier.Line) dossier.ID[dossier.Device] {
	address := l.OuterAddress
	if !address.IsValid() {
		address = v.outerAddressOf(l.Router)
	}
	for _, one := range v.Devices {
		if one.ID == l.Router || !one.Is(dossier.RoleRouter) {
			continue
		}
		for _, i := range v.InterfacesOf(l.Router) {
			if i.Facing == dossier.FacingOutside && v.linkedTo(i.ID, one.ID) {
				return one.ID
			}
		}
		if address.IsValid() && address.IsPrivate() && v.serves(one.ID, address) && !v.serves(l.Router, address) {
			return one.ID
		}
	}
	return ""
}

// outerAddressPrivate finds lines over which the home cannot be reached by IPv4, because a second
// router or the carrier translates its address.
func outerAddressPrivate(v *view) []Finding {
	return v.unreachable(OuterSecondRouter, OuterCarrier)
}

// carrierSharedAddress finds lines whose address the carrier shares among its customers.
func carrierSharedAddress(v *view) []Finding { return v.unreachable(OuterCarrierShared) }

func (v *view) unreachable(kinds ...OuterKind) []Finding {
	var out []Finding
	for _, l := range v.Lines {
		r := v.reach(l)
		if !slices.Contains(kinds, r.V4) {
			continue
		}
		f := about(refs(l.ID.Ref()), "line", l.Name, "address", dossier.Said("address-not-recorded"), "cause", dossier.Coded(r.V4), "who", dossier.Said("the-carrier"), "seen", dossier.Value{}, "how", dossier.Said("ask-the-carrier"))
		if a := cmp.Or(l.OuterAddress, v.outerAddressOf(l.Router)); a.IsValid() {
			f.Values["address"] = dossier.Named(a.String())
		}
		if r.Box != "" {
			f.Subjects = append(f.Subjects, r.Change.Ref())
			f.Values["who"] = dossier.Named(v.Label(r.Box.Ref()))
			switch {
			case r.Change != r.Box:
				f.Values["how"] = dossier.Said("access-point-only", "change", v.Label(r.Change.Ref()), "box", v.Label(r.Box.Ref()))
			default:
				f.Values["how"] = dossier.Said("bridge-or-forward", "box", v.Label(r.Box.Ref()))
			}
		}
		if l.SeenAddress.IsValid() && l.SeenAddress != l.OuterAddress {
			f.Values["seen"] = dossier.Said("seen-outside", "address", l.SeenAddress.String())
		}
		f.Values["besides"] = dossier.Said("no-other-way-in")
		switch {
		case r.V6 == OuterPublic:
			f.Values["besides"] = dossier.Said("over-ipv6")
		case r.Relay:
			f.Values["besides"] = dossier.Said("over-relay")
		}
		if f.Severity = Warning; r.Wished && !r.CanServe {
			f.Severity = Blocker
		} else if r.CanServe {
			f.Keeps = keepsNone
		}
		out = append(out, f)
	}
	return out
}
