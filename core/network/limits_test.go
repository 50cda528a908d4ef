package network

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// As many as are allowed are no finding; one more is.
func TestSeatsAtTheirLimits(t *testing.T) {
	for _, c := range []struct {
		seats, used int
		short       bool
	}{{0, 3, false}, {3, 3, false}, {2, 3, true}, {1, 0, false}} {
		d := homes.Small().Clone()
		a := dossier.Account{Name: "films", Seats: c.seats}
		a.ID = homes.ID[dossier.Account](1)
		for i := range c.used {
			a.SignedIn = append(a.SignedIn, homes.ID[dossier.Device](i))
		}
		d.Accounts.Put(a)
		assert.Equal(t, c.short, len(licenceSeatsShort(look(d, homes.Day))) > 0, "account %+v", c)

		d = homes.Small().Clone()
		s := dossier.Software{Name: "media", Device: d.Sources[0].Device, Does: dossier.SoftwareServer, Seats: c.seats}
		s.ID = homes.ID[dossier.Software](1)
		d.Software = dossier.Records[dossier.Software]{s}
		first := d.Paths[0]
		d.Paths = nil
		for i := range c.used {
			v := dossier.Device{Name: string(rune('a' + i))}
			v.ID = homes.ID[dossier.Device](50 + i)
			d.Devices.Put(v)
			p := first
			p.ID, p.Device = homes.ID[dossier.Path](50+i), v.ID
			d.Paths.Put(p)
		}
		assert.Equal(t, c.short, len(licenceSeatsShort(look(d, homes.Day))) > 0, "licence %+v", c)
	}
}

// Two DHCP servers contradict each other in gateways, in name servers and in what they give out, and only where both say something.
func TestWhatTwoDHCPServersContradictEachOtherIn(t *testing.T) {
	at := netip.MustParseAddr
	says := func(a, b offer) (out []string) {
		for _, p := range a.against(b).Phrases {
			out = append(out, p.Code)
		}
		return out
	}
	pool := func(first, last string) offer { return offer{first: at(first), last: at(last)} }
	assert.Empty(t, says(offer{gateway: at("10.0.0.1")}, offer{gateway: at("10.0.0.1")}))
	assert.Empty(t, says(offer{gateway: at("10.0.0.1")}, offer{}))
	assert.Empty(t, says(offer{names: []netip.Addr{at("10.0.0.1")}}, offer{}))
	assert.Empty(t, says(offer{}, offer{names: []netip.Addr{at("10.0.0.1")}}))
	assert.Equal(t, []string{"gateways-differ"}, says(offer{gateway: at("10.0.0.1")}, offer{gateway: at("10.0.0.2")}))
	assert.Equal(t, []string{"name-servers-differ"}, says(offer{names: []netip.Addr{at("10.0.0.1")}}, offer{names: []netip.Addr{at("10.0.0.2")}}))
	assert.Equal(t, []string{"pools-overlap"}, says(pool("10.0.0.10", "10.0.0.20"), pool("10.0.0.20", "10.0.0.30")), "in one address")
	assert.Equal(t, []string{"pools-overlap"}, says(pool("10.0.0.20", "10.0.0.30"), pool("10.0.0.10", "10.0.0.20")))
	assert.Empty(t, says(pool("10.0.0.10", "10.0.0.19"), pool("10.0.0.20", "10.0.0.30")))
	assert.Empty(t, says(pool("10.0.0.10", "10.0.0.19"), offer{}))
}

// Signals, pictures and pools at the limits of what is said of them.
func TestSignalsAndPoolsAtTheirLimits(t *testing.T) {
	for _, c := range []struct {
		dbm    float64
		height int
		weak   bool
	}{{-70, 1080, false}, {-71, 1080, true}, {-67, 2160, false}, {-68, 2160, true}, {-68, 2159, false}} {
		d := homes.Small().Clone()
		v := &d.Devices[1]
		v.Roles, v.Carried = []dossier.Role{dossier.RoleScreen}, false
		d.Folders[0].Mix = []dossier.FormatEntry{{Height: c.height}}
		d.Paths = d.Paths[:1]
		r := dossier.Reading{Subject: v.ID.Ref(), What: dossier.SignalDbm, Value: c.dbm, At: homes.Day, How: dossier.KnownMeasured}
		r.ID = homes.ID[dossier.Reading](1)
		d.Readings = dossier.Records[dossier.Reading]{r}
		assert.Equal(t, c.weak, len(weakSignal(look(d, homes.Day))) > 0, "%+v", c)
	}
	for last, full := range map[string]bool{"10.9.0.19": true, "10.9.0.20": false} { // nine of ten, and of eleven
		d := homes.Small().Clone()
		s := dossier.Segment{Name: "pool", Prefix: netip.MustParsePrefix("10.9.0.0/24"), PoolFirst: netip.MustParseAddr("10.9.0.10"), PoolLast: netip.MustParseAddr(last)}
		s.ID = homes.ID[dossier.Segment](40)
		d.Segments.Put(s)
		for n := range 9 {
			i := dossier.Interface{Device: d.Devices[0].ID, Name: string(rune('a' + n)), Segment: s.ID, Addresses: []netip.Addr{netip.AddrFrom4([4]byte{10, 9, 0, byte(10 + n)})}}
			i.ID = homes.ID[dossier.Interface](40 + n)
			d.Interfaces.Put(i)
		}
		assert.Equal(t, full, len(poolNearlyFull(look(d, homes.Day))) > 0, last)
	}
}
