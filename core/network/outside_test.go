package network_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/homes"
)

// Two routers in a row are found however the line is recorded, and what is to be changed is never the
// one that must not be touched, while there is another.
func TestTwoRoutersInARow(t *testing.T) {
	box := netip.MustParseAddr("192.168.77.1")
	for _, c := range []struct {
		name              string
		lineAt            string // where the line is recorded to end
		linked, onLine    bool   // whether a link joins the two; whether the line has the address itself
		boxHands, ownHand string
		change            string
	}{
		{"the line ends at the own router", "own", true, true, "", "", "box"},
		{"by the address alone", "own", false, true, "", "", "box"},
		{"by the address of its outer port", "own", false, false, "", "", "box"},
		{"the line ends at the provider's box", "box", true, false, "", "", "box"},
		{"and no link is recorded", "box", false, false, "", "", "box"},
		{"the box is the provider's, and is not touched", "box", true, false, "belongs to the provider", "", "own"},
		{"the same, recorded from the other side", "own", true, true, "belongs to the provider", "", "own"},
		{"neither may be touched", "own", true, true, "provider", "rented too", "box"},
	} {
		t.Run(c.name, func(t *testing.T) {
			h := rapid.Custom(homes.Sound).Example(7)
			h.Segments[0].Isolation = ""
			provider := homes.Put(h, dossier.Device{Name: "box", Roles: []dossier.Role{dossier.RoleRouter}, Handling: c.boxHands})
			homes.Set(h, h.Router, func(v *dossier.Device) { v.Name, v.Handling = "own", c.ownHand })
			lan := homes.Put(h, dossier.Segment{Name: "between", Prefix: netip.PrefixFrom(box, 24).Masked()})
			port := homes.Put(h, dossier.Interface{Device: provider, Name: "lan 1", Facing: dossier.FacingHome, Addresses: []netip.Addr{box}, Segment: lan})
			wan := homes.ID[dossier.Interface](0)
			homes.Set(h, wan, func(i *dossier.Interface) { i.Addresses = []netip.Addr{netip.MustParseAddr("192.168.77.20")} })
			if c.linked {
				homes.Put(h, dossier.Link{Near: wan, Far: port, Kind: dossier.LinkCable})
			}
			homes.Set(h, h.Line, func(l *dossier.Line) {
				l.OuterAddress, l.SeenAddress, l.OuterPrefix = netip.Addr{}, netip.Addr{}, netip.Prefix{}
				switch {
				case c.lineAt == "box":
					l.Router = provider
					l.OuterAddress = netip.MustParseAddr("203.0.113.9")
				case c.onLine:
					l.OuterAddress = netip.MustParseAddr("192.168.77.20")
				}
			})
			reach := network.Outside(h.Index())[0]
			assert.Equal(t, network.OuterSecondRouter, reach.V4)
			assert.Equal(t, "box", h.Label(reach.Box.Ref()), "the one that translates for the other")
			assert.Equal(t, c.change, h.Label(reach.Change.Ref()))
		})
	}
}

// One adapter in two VLANs is recorded once for each; two adapters of one segment, or of two devices,
// that have one MAC address are a clash.
func TestOneAdapterInTwoVLANsIsNoClash(t *testing.T) {
	h := rapid.Custom(homes.Sound).Example(3)
	tagged := homes.Put(h, dossier.Segment{Name: "tagged", Prefix: netip.MustParsePrefix("10.88.0.0/24"), VLAN: 88})
	port, _ := h.Interfaces.Get(h.ServerPort)
	again := homes.Put(h, dossier.Interface{Device: h.Server, Name: "eth0.88", HardwareAddress: port.HardwareAddress, Segment: tagged, Addresses: []netip.Addr{netip.MustParseAddr("10.88.0.10")}})
	clashes := func() int {
		n := 0
		for _, f := range network.Findings(h.Index(), knowledge.Knowledge{}, homes.Day) {
			if f.Code == "hardware-address-clash" {
				n++
			}
		}
		return n
	}
	assert.Zero(t, clashes())
	homes.Set(h, again, func(i *dossier.Interface) { i.Segment = h.Home })
	assert.Equal(t, 1, clashes())
	homes.Set(h, again, func(i *dossier.Interface) { i.Segment, i.Device = tagged, h.Screen })
	assert.Equal(t, 1, clashes())
}
