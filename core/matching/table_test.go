package matching_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
)

// An adapter is known by what is unique to it; an address alone only where nothing contradicts.
func TestWhichAdapterATableSpeaksOf(t *testing.T) {
	base := homes.Small().Clone()
	base.Interfaces[0].HardwareAddress = "02:4b:49:00:00:10"
	server, adapter := base.Devices[0], base.Interfaces[0]
	at := adapter.Addresses[0]
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		seen   matching.Sighting
		own    dossier.ID[dossier.Device]
		by     matching.What
	}{
		{"its MAC address", nil, matching.Sighting{HardwareAddress: adapter.HardwareAddress, Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.77")}}, "", matching.SameHardware},
		{"another MAC address at its address", nil, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{at}}, "", ""},
		{"its address, of which no MAC address is recorded", func(d *dossier.Dossier) { d.Interfaces[0].HardwareAddress = "" }, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{at}}, "", matching.SameAddress},
		{"its address, with the host name that is recorded", func(d *dossier.Dossier) { d.Interfaces[0].HardwareAddress, d.Devices[0].HostName = "", "granite.local" }, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{at}, Name: "granite"}, "", matching.SameAddress},
		{"its address, with another host name", func(d *dossier.Dossier) { d.Interfaces[0].HardwareAddress, d.Devices[0].HostName = "", "granite.local" }, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{at}, Name: "telephone"}, "", ""},
		{"its name on its own machine", nil, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.77")}, Name: adapter.Name, Own: true}, server.ID, matching.SameAdapterName},
		{"a stranger", nil, matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.77")}}, "", ""},
	} {
		d := base.Clone()
		if c.change != nil {
			c.change(d)
		}
		i, by, found := matching.AdapterOf(d, c.seen, c.own)
		assert.Equal(t, c.by, by, c.name)
		assert.Equal(t, c.by != "", found, c.name)
		if found {
			assert.Equal(t, adapter.ID, i.ID, c.name)
		}
	}
}

// What a table does not speak of stays: addresses of the other family, and how an address is set.
func TestFillKeepsWhatTheTableDoesNotSay(t *testing.T) {
	d := homes.Small()
	i := d.Interfaces[0]
	i.Addresses, i.AddressBy = append(i.Addresses, netip.MustParseAddr("2001:db8::7")), dossier.BySetting
	d.Segments[0].Prefix6 = netip.MustParsePrefix("2001:db8:4::/64")
	matching.Sighting{HardwareAddress: "02:4b:49:00:00:99", Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.77")}, Leased: true}.Fill(d, &i)
	assert.Equal(t, []netip.Addr{netip.MustParseAddr("2001:db8::7"), netip.MustParseAddr("10.20.4.77")}, i.Addresses)
	assert.Equal(t, dossier.BySetting, i.AddressBy)
	i.Segment = ""
	matching.Sighting{Addresses: []netip.Addr{netip.MustParseAddr("2001:db8:4::9")}}.Fill(d, &i)
	assert.Equal(t, d.Segments[0].ID, i.Segment, "an IPv6 address says its segment too")
}
