package network_test

import (
	"net/netip"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/homes"
)

// need finds what is needed of a port of a host.
func need(t require.TestingT, d *dossier.Dossier, host dossier.ID[dossier.Device], transport dossier.Transport, port int) network.NeededOpening {
	needed, _ := network.Openings(d.Index())
	i := slices.IndexFunc(needed, func(n network.NeededOpening) bool {
		return n.Host == host && n.Transport == transport && n.Port == port
	})
	require.GreaterOrEqual(t, i, 0, "%s %d: %v", transport, port, needed)
	return needed[i]
}

func TestNeededOpenings(t *testing.T) {
	h := rapid.Custom(homes.Sound).Example(1)
	h.Openings = nil
	media := need(t, h.Dossier, h.Server, dossier.TCP, 40210)
	assert.Equal(t, network.NeedUnknown, media.State)
	assert.Equal(t, []string{"fetching"}, media.For)
	assert.Contains(t, media.Paths, h.ScreenPath)
	home, _ := h.Segments.Get(h.Home)
	assert.Contains(t, media.From, home.Prefix, "from where the devices are")
	assert.Equal(t, []string{"being-found"}, need(t, h.Dossier, h.Server, dossier.UDP, 1900).For)
	answers := need(t, h.Dossier, h.Screen, dossier.UDP, 0)
	assert.Equal(t, []string{"hearing-answers"}, answers.For)
	for _, from := range answers.From {
		assert.True(t, from.IsSingleIP(), "answers come from the server alone")
	}

	// A path that is not in use needs nothing, and neither does a copy.
	for _, p := range h.Paths {
		homes.Set(h, p.ID, func(p *dossier.Path) { p.Retired = true })
	}
	needed, _ := network.Openings(h.Index())
	assert.Empty(t, needed)
}

// How a needed opening stands follows from all that is recorded of its port.
func TestHowAnOpeningStands(t *testing.T) {
	one := func(state dossier.OpeningState, class dossier.NetworkClass, ports ...int) dossier.Opening {
		o := dossier.Opening{Transport: dossier.TCP, Direction: dossier.Inward, State: state, NetworkClass: class, Port: 40210}
		if len(ports) == 2 {
			o.Port, o.LastPort = ports[0], ports[1]
		}
		return o
	}
	udp, out := one(dossier.OpeningOpen, ""), one(dossier.OpeningOpen, "")
	udp.Transport, out.Direction = dossier.UDP, dossier.Outward
	for _, c := range []struct {
		name string
		list []dossier.Opening
		want network.OpeningNeed
	}{
		{"nothing", nil, network.NeedUnknown},
		{"open", []dossier.Opening{one(dossier.OpeningOpen, "")}, network.NeedOpen},
		{"open in a range", []dossier.Opening{one(dossier.OpeningOpen, "", 40200, 40210)}, network.NeedOpen},
		{"open beside it", []dossier.Opening{one(dossier.OpeningOpen, "", 40211, 40299), one(dossier.OpeningOpen, "", 40200, 40209)}, network.NeedUnknown},
		{"another transport", []dossier.Opening{udp}, network.NeedUnknown},
		{"another direction", []dossier.Opening{out}, network.NeedUnknown},
		{"blocked", []dossier.Opening{one(dossier.OpeningBlocked, "")}, network.NeedShut},
		{"refused", []dossier.Opening{one(dossier.OpeningRefused, "")}, network.NeedRefused},
		{"asked", []dossier.Opening{one(dossier.OpeningAsked, "")}, network.NeedAsked},
		{"asked, then opened", []dossier.Opening{one(dossier.OpeningAsked, ""), one(dossier.OpeningOpen, "")}, network.NeedOpen},
		{"open and blocked", []dossier.Opening{one(dossier.OpeningOpen, ""), one(dossier.OpeningBlocked, "")}, network.NeedDoubt},
		{"open for the class of network that it is", []dossier.Opening{one(dossier.OpeningOpen, dossier.ClassTrusted)}, network.NeedOpen},
		{"open for any class", []dossier.Opening{one(dossier.OpeningOpen, dossier.ClassAny)}, network.NeedOpen},
		{"open for another class", []dossier.Opening{one(dossier.OpeningOpen, dossier.ClassUntrusted)}, network.NeedClass},
		{"open for another class and for this one", []dossier.Opening{one(dossier.OpeningOpen, dossier.ClassUntrusted), one(dossier.OpeningOpen, dossier.ClassTrusted)}, network.NeedOpen},
	} {
		h := rapid.Custom(homes.Sound).Example(1)
		h.Openings = nil
		homes.Set(h, h.Server, func(v *dossier.Device) { v.NetworkClass = dossier.ClassTrusted })
		for _, o := range c.list {
			o.Device = h.Server
			homes.Put(h, o)
		}
		got := need(t, h.Dossier, h.Server, dossier.TCP, 40210)
		assert.Equal(t, c.want, got.State, c.name)
		assert.Equal(t, c.want == network.NeedUnknown, got.Record == "", c.name)
	}
}

func TestWhatRoutersLetInAndWhatIsOpenForNothing(t *testing.T) {
	h := rapid.Custom(homes.Sound).Example(1)
	h.Openings, h.Lines = nil, nil
	homes.Put(h, dossier.Line{Name: "fibre", Kind: dossier.LineFibre, Router: h.Router})
	homes.Set(h, h.Source, func(s *dossier.Source) { s.OutsidePort, s.OutsideBy = 50443, dossier.WayForwarding })
	n := need(t, h.Dossier, h.Router, dossier.TCP, 50443)
	assert.True(t, n.Outside)
	assert.Equal(t, 40210, n.ToPort)
	assert.NotEmpty(t, n.To)
	assert.Contains(t, n.Paths, h.ScreenPath)
	homes.Set(h, h.Source, func(s *dossier.Source) { s.OutsideBy = dossier.WayRelay })
	needed, _ := network.Openings(h.Index())
	assert.False(t, slices.ContainsFunc(needed, func(n network.NeededOpening) bool { return n.Outside }), "a relay needs none")

	idle := homes.Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 41999, Direction: dossier.Inward, State: dossier.OpeningOpen})
	homes.Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 40210, Direction: dossier.Inward, State: dossier.OpeningOpen})
	homes.Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 41998, Direction: dossier.Inward, State: dossier.OpeningBlocked})
	_, spare := network.Openings(h.Index())
	require.Len(t, spare, 1)
	assert.Equal(t, idle, spare[0].ID)
}

// Whatever is recorded, every port of every path is among what is needed, once for each host.
func TestOpeningsOfDrawnHomes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		needed, _ := network.Openings(d.Index())
		seen := map[any]bool{}
		for _, n := range needed {
			k := struct {
				host dossier.ID[dossier.Device]
				tr   dossier.Transport
				port int
				out  bool
				to   int
			}{n.Host, n.Transport, n.Port, n.Outside, n.ToPort}
			if !n.Outside {
				require.False(t, seen[k], "%v", n)
				require.NotEmpty(t, n.Paths)
			}
			seen[k] = true
			require.Contains(t, n.State.Values(), string(n.State))
			for _, f := range n.From {
				require.NotEqual(t, netip.Prefix{}, f)
			}
		}
	})
}
