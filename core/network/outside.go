package network

import (
	"net/netip"
	"slices"
	"time"

	"kaiku/core/dossier"
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
// recorded router between the home's own and the line, if there is one.
type LineReach struct {
	Line     dossier.ID[dossier.Line]
	V4, V6   OuterKind
	Box      dossier.ID[dossier.Device]
	Relay    bool // a machine outside is called by both ends
	Wished   bool // outside viewing is wished
	CanServe bool // someone outside can reach the home in some way
}

// Outside returns how the home can be reached over each line.
func Outside(x *dossier.Index) []LineReach {
	v := &view{x, time.Time{}}
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
	r := LineReach{Line: l.ID, V4: OuterUnknown, V6: OuterUnknown, Box: v.between(l), Relay: slices.Contains(l.WaysIn, dossier.WayRelay)}
	private := OuterCarrier
	if r.Box != "" {
		private = OuterSecondRouter
	}
	a, seen := l.OuterAddress, l.SeenAddress
	switch {
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

// between returns the recorded router that stands between the line's router and the line: one
// that is linked to a port of it that faces outside, or has the outer address in its segment.
func (v *view) between(l dossier.Line) dossier.ID[dossier.Device] {
	for _, link := range v.Links {
		near, _ := v.Interfaces.Get(link.Near)
		far, _ := v.Interfaces.Get(link.Far)
		if far.Device == l.Router && far.Facing == dossier.FacingOutside {
			near, far = far, near
		}
		if other, _ := v.Devices.Get(far.Device); near.Device == l.Router && near.Facing == dossier.FacingOutside && hasRole(other, dossier.RoleRouter) {
			return other.ID
		}
	}
	for _, s := range v.Segments {
		if !l.OuterAddress.IsValid() || outsideOf(s, l.OuterAddress) || !s.Prefix.Contains(l.OuterAddress) {
			continue
		}
		for _, i := range v.Interfaces {
			if other, _ := v.Devices.Get(i.Device); i.Segment == s.ID && other.ID != l.Router && hasRole(other, dossier.RoleRouter) {
				return other.ID
			}
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
		f := about(refs(l.ID.Ref()), "line", l.Name, "address", l.OuterAddress.String(), "cause", string(r.V4), "who", "the carrier", "seen", "", "how", "ask the carrier for a public address")
		if r.Box != "" {
			f.Subjects = append(f.Subjects, r.Box.Ref())
			f.Values["who"], f.Values["how"] = v.Label(r.Box.Ref()), "let "+v.Label(r.Box.Ref())+" only bridge, or forward the port there too"
		}
		if l.SeenAddress.IsValid() && l.SeenAddress != l.OuterAddress {
			f.Values["seen"] = ", seen outside as " + l.SeenAddress.String()
		}
		f.Values["besides"] = "No other way in is recorded."
		switch {
		case r.V6 == OuterPublic:
			f.Values["besides"] = "Over IPv6 it can be reached with an opening in the router."
		case r.Relay:
			f.Values["besides"] = "A relay is recorded, which both ends call."
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
