package network_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/homes"
)

// Every device of a sound home has its way to the line, over links that are there, each hop one
// nearer; a link is either on a way or spare.
func TestGraphLeadsToTheLine(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Sound(t)
		nodes, spare := network.Graph(h.Dossier.Index())
		depth := map[dossier.ID[dossier.Device]]int{}
		for _, n := range nodes {
			depth[n.Device] = n.Depth
		}
		ways := 0
		for _, n := range nodes {
			require.GreaterOrEqual(t, n.Depth, 0, h.Label(n.Device.Ref()))
			if n.Up == "" {
				require.Equal(t, h.Router, n.Device)
				continue
			}
			ways++
			require.Equal(t, depth[n.Parent]+1, n.Depth)
		}
		require.Len(t, h.Links, ways+len(spare))
	})
}

func TestGraphOfRingsAndLooseEnds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		nodes, spare := network.Graph(d.Index())
		require.Len(t, nodes, len(d.Devices))
		require.LessOrEqual(t, len(spare), len(d.Links))
	})
	h := rapid.Custom(homes.Sound).Example(3)
	dossier.RemoveRecord(h.Dossier, h.ServerLink.Ref())
	nodes, _ := network.Graph(h.Dossier.Index())
	for _, n := range nodes {
		assert.Equal(t, n.Device == h.Server, n.Depth < 0, h.Label(n.Device.Ref()))
	}
}

func TestAddressPlan(t *testing.T) {
	d := homes.Small().Clone()
	s := &d.Segments[0]
	s.Gateway, s.PoolFirst, s.PoolLast = netip.MustParseAddr("10.20.4.1"), netip.MustParseAddr("10.20.4.11"), netip.MustParseAddr("10.20.4.14")
	s.Reservations = []dossier.Reservation{{HardwareAddress: "02:4b:49:00:00:99", Address: netip.MustParseAddr("10.20.4.12")}}
	d.Interfaces[0].AddressBy, d.Interfaces[1].AddressBy = dossier.BySetting, dossier.ByLease
	homes.PutIn(d, 5, dossier.Interface{Device: d.Devices[0].ID, Name: "eth1", Segment: s.ID, Addresses: addr("10.20.4.11")})
	homes.PutIn(d, 6, dossier.Interface{Device: d.Devices[0].ID, Name: "eth2", Segment: s.ID, Addresses: append(addr("10.77.7.7"), netip.MustParseAddr("fe80::1"))})
	plan := network.Plan(d)
	require.Len(t, plan, 2)
	home := plan[1]
	assert.Equal(t, "home", d.Label(home.Segment.Ref()))
	var said []string
	for _, spot := range home.Spots {
		said = append(said, spot.Address.String())
	}
	assert.Equal(t, []string{"10.20.4.1", "10.20.4.10", "10.20.4.11", "10.20.4.12", "10.77.7.7"}, said)
	gateway, server, both, kept, outside := home.Spots[0], home.Spots[1], home.Spots[2], home.Spots[3], home.Spots[4]
	assert.Equal(t, []network.UseOf{network.UseGateway}, gateway.Uses)
	assert.InDelta(t, 1.0/255, gateway.Share, 1e-9)
	assert.Equal(t, []network.UseOf{network.UseFixed}, server.Uses)
	assert.False(t, server.InPool)
	assert.True(t, both.Clash && both.InPool)
	assert.Equal(t, []network.UseOf{network.UseLeased, network.UseHeld}, both.Uses)
	assert.Equal(t, []network.UseOf{network.UseReserved}, kept.Uses)
	assert.Empty(t, kept.Holders)
	assert.True(t, outside.Outside)
	assert.Equal(t, 2, home.Free, "two of four are taken")
	assert.InDelta(t, 11.0/255, home.PoolFrom, 1e-9)
	assert.InDelta(t, 14.0/255, home.PoolTill, 1e-9)
}
