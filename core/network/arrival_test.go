package network_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/homes"
	"kaiku/wording"
)

func TestArrival(t *testing.T) {
	d := homes.Small().Clone()
	d.Segments[0].Gateway, d.Segments[0].DHCPServers = netip.MustParseAddr("10.20.4.1"), []dossier.ID[dossier.Device]{d.Devices[0].ID}
	d.Interfaces[0].HardwareAddress, d.Interfaces[1].HardwareAddress = "02:4b:49:00:00:10", "02:4b:49:00:00:11"
	at := func(prefix string) []network.PlaceAdapter {
		return []network.PlaceAdapter{{Name: "eth0", Prefixes: []netip.Prefix{netip.MustParsePrefix(prefix)}}}
	}
	met := func(hardware, address string) []network.Neighbour {
		return []network.Neighbour{{HardwareAddress: dossier.HardwareAddr(hardware), Address: netip.MustParseAddr(address)}}
	}
	for _, c := range []struct {
		name string
		p    network.Place
		want []string
		said string // the last remark
	}{
		{"somewhere else", network.Place{Adapters: at("10.77.9.4/24"), Gateways: addr("10.77.9.1")}, []string{"not-in-home"}, "This machine is in none of the home's recorded segments."},
		{"in the home", network.Place{Adapters: at("10.20.4.77/24"), Gateways: addr("10.20.4.1")}, []string{"in-segment", "gateway-as-recorded"}, "The gateway is 10.20.4.1, as recorded."},
		{"behind another router", network.Place{Adapters: at("10.20.4.77/24"), Gateways: addr("10.20.4.254")}, []string{"in-segment", "gateway-differs"}, "The gateway of home is recorded as 10.20.4.1, but here it is 10.20.4.254."},
		{"with the guests, whose gateway nobody noted", network.Place{Adapters: at("10.20.5.77/24"), Gateways: addr("10.20.5.1")}, []string{"in-segment", "gateway-not-recorded"}, "The gateway here is 10.20.5.1, but none is recorded for guest."},
		{"a range that is wider than recorded", network.Place{Adapters: at("10.20.4.77/23")}, []string{"in-segment", "prefix-differs"}, "home is recorded as 10.20.4.0/24, but the network here is 10.20.4.0/23."},
		{"with a lease from the router", network.Place{Adapters: at("10.20.4.77/24"), Leases: []network.Lease{{Adapter: "eth0", Address: netip.MustParseAddr("10.20.4.77"), Server: netip.MustParseAddr("10.20.4.10")}}},
			[]string{"in-segment", "lease-as-recorded"}, "eth0 was given 10.20.4.77 by the DHCP server 10.20.4.10, as recorded."},
		{"with a lease from somebody else", network.Place{Adapters: at("10.20.4.77/24"), Leases: []network.Lease{{Adapter: "eth0", Address: netip.MustParseAddr("10.20.4.77"), Server: netip.MustParseAddr("10.20.4.254")}}},
			[]string{"in-segment", "lease-server-other"}, "eth0 was given 10.20.4.77 by 10.20.4.254, which is not the DHCP server recorded for home."},
		{"beside the server", network.Place{Adapters: at("10.20.4.77/24"), Neighbours: met("02:4b:49:00:00:10", "10.20.4.10")}, []string{"in-segment", "neighbour-as-recorded"}, "granite server is at 10.20.4.10, as recorded."},
		{"the server has moved", network.Place{Adapters: at("10.20.4.77/24"), Neighbours: met("02:4b:49:00:00:10", "10.20.4.99")}, []string{"in-segment", "neighbour-moved"}, "granite server is at 10.20.4.99, which is not recorded for it."},
		{"somebody has the screen's address", network.Place{Adapters: at("10.20.4.77/24"), Neighbours: met("02:4b:49:00:00:99", "10.20.4.11")}, []string{"in-segment", "neighbour-other"}, "10.20.4.11 is recorded for lamp screen, but the MAC address there is 02:4b:49:00:00:99."},
		{"a stranger", network.Place{Adapters: at("10.20.4.77/24"), Neighbours: met("02:4b:49:00:00:99", "10.20.4.50")}, []string{"in-segment", "neighbour-unknown"}, "10.20.4.50 with the MAC address 02:4b:49:00:00:99 is not recorded."},
	} {
		t.Run(c.name, func(t *testing.T) {
			var codes []string
			var last string
			for _, r := range network.Arrive(d, c.p) {
				codes = append(codes, r.Code)
				last, _ = wording.Arrival(r)
			}
			assert.Equal(t, c.want, codes)
			assert.Equal(t, c.said, last)
		})
	}
}

// A machine that is carried elsewhere, where the same addresses are in use, must not take that for the home.
func TestWhetherAMachineIsHere(t *testing.T) {
	d := homes.Small().Clone()
	d.Segments[0].Gateway = netip.MustParseAddr("10.20.4.10")
	d.Interfaces[0].HardwareAddress, d.Interfaces[1].HardwareAddress = "02:4b:49:00:00:10", "02:4b:49:00:00:11"
	in := []network.PlaceAdapter{{Name: "eth0", Prefixes: []netip.Prefix{netip.MustParsePrefix("10.20.4.77/24")}}}
	met := func(hardware, address string) []network.Neighbour {
		return []network.Neighbour{{HardwareAddress: dossier.HardwareAddr(hardware), Address: netip.MustParseAddr(address)}}
	}
	for _, c := range []struct {
		name string
		p    network.Place
		here bool
	}{
		{"by the recorded gateway", network.Place{Adapters: in, Gateways: addr("10.20.4.10")}, true},
		{"with a recorded neighbour", network.Place{Adapters: in, Neighbours: met("02:4b:49:00:00:10", "10.20.4.10")}, true},
		{"nothing is known but the range", network.Place{Adapters: in}, false},
		{"by another gateway", network.Place{Adapters: in, Gateways: addr("10.20.4.254"), Neighbours: met("02:4b:49:00:00:10", "10.20.4.10")}, false},
		{"by a gateway of that address that is another", network.Place{Adapters: in, Gateways: addr("10.20.4.10"), Neighbours: met("02:4b:49:00:00:99", "10.20.4.10")}, false},
		{"nowhere", network.Place{}, false},
	} {
		assert.Equal(t, c.here, network.Here(d, c.p), c.name)
	}
	d.Segments[0].Prefix = netip.MustParsePrefix("127.77.1.0/24")
	assert.True(t, network.Here(d, network.Place{}), "the practice house is in every machine")
}
