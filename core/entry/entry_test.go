package entry_test

import (
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/entry"
	"kaiku/homes"
)

// said writes a card on one line for each of its lines.
func said(c entry.Card) []string {
	var out []string
	for _, l := range c.Lines {
		one := string(l.What)
		switch {
		case l.Secret != "":
			one += " secret"
		case l.Value != "":
			one += " " + l.Value
		case !l.Known():
			one += " ?"
		}
		if len(l.Others) > 0 {
			one += " or " + strings.Join(l.Others, " or ")
		}
		if l.Entered != "" {
			one += " not " + l.Entered
		}
		out = append(out, one)
	}
	return out
}

func TestWhatIsKeyedIn(t *testing.T) {
	wifi := func(d *dossier.Dossier) { d.Interfaces[1].Medium = dossier.OnRadio }
	kept := func(d *dossier.Dossier) {
		s := dossier.Secret{Name: "Wi-Fi password", Kind: dossier.SecretPassword, Segment: d.Segments[0].ID}
		s.ID = homes.ID[dossier.Secret](1)
		d.Secrets.Put(s)
	}
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		want   []string
	}{
		{"a list of streams whose page knows the device by a key", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium = dossier.OnCable
			p := &d.Paths[0]
			p.Kind, p.FoundBy, p.DeviceKey = dossier.StreamList, dossier.ByTypedAddress, homes.ID[dossier.Secret](1)
			d.Sources[0].Locator = "https://lists.example/harbour.m3u"
		}, []string{"cable", "link https://lists.example/harbour.m3u", "key secret"}},
		{"a server found by itself, by cable", func(d *dossier.Dossier) { d.Interfaces[1].Medium = dossier.OnCable }, []string{"cable", "choose granite"}},
		{"its name is not recorded", func(d *dossier.Dossier) { d.Interfaces[1].Medium, d.Sources[0].ShownName = dossier.OnCable, "" }, []string{"cable", "choose ?"}},
		{"by Wi-Fi of which neither name nor password is recorded", wifi, []string{"wifi ?", "password ?", "choose granite"}},
		{"by Wi-Fi", func(d *dossier.Dossier) { wifi(d); kept(d); d.Segments[0].SSID = "Lamps" }, []string{"wifi Lamps", "password secret", "choose granite"}},
		{"on the guests' Wi-Fi, where it cannot find the server", func(d *dossier.Dossier) {
			wifi(d)
			kept(d)
			d.Segments[0].SSID, d.Segments[1].SSID = "Lamps", "Guests"
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, []netip.Addr{netip.MustParseAddr("10.20.5.30")}
		}, []string{"wifi Lamps not Guests", "password secret", "choose granite"}},
		{"an address that is typed in", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].FoundBy = dossier.OnCable, dossier.ByTypedAddress
			d.Interfaces[0].Addresses = append(d.Interfaces[0].Addresses, netip.MustParseAddr("2001:db8::10"))
			d.Paths[0].DeviceEnd = dossier.End{Address: netip.MustParseAddr("10.20.4.99"), Port: 40210}
		}, []string{"cable", "address 10.20.4.10 or 2001:db8::10 not 10.20.4.99", "port 40210"}},
		{"a stream at an IPv6 address", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium = dossier.OnCable
			d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("2001:db8::10")}
			d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol, d.Sources[0].Locator = dossier.Stream, dossier.ByNothing, dossier.ProtocolRTSP, "/one"
		}, []string{"cable", "link rtsp://[2001:db8::10]:40210/one"}},
		{"a feed that is a web address", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium = dossier.OnCable
			d.Paths[0].Kind, d.Sources[0].Protocol, d.Sources[0].Locator = dossier.Feed, dossier.ProtocolHTTP, "https://feeds.example.org/a"
		}, []string{"cable", "link https://feeds.example.org/a"}},
		{"nobody recorded how it is connected", func(d *dossier.Dossier) { d.Interfaces[1].Device = d.Devices[0].ID }, []string{"network ?", "choose granite"}},
		{"an adapter that is used by its segment alone", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Interfaces[1].Addresses = dossier.OnCable, nil
			d.Interfaces[1].Segment = d.Segments[0].ID
		}, []string{"cable", "choose granite"}},
		{"an adapter that nothing uses", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Interfaces[1].Addresses, d.Interfaces[1].Segment = dossier.OnCable, nil, ""
		}, []string{"network ?", "choose granite"}},
		{"an adapter that a link uses", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Interfaces[1].Addresses, d.Interfaces[1].Segment = dossier.OnCable, nil, ""
			homes.PutIn(d, 1, dossier.Link{Near: d.Interfaces[0].ID, Far: d.Interfaces[1].ID, Kind: dossier.LinkCable})
		}, []string{"cable", "choose granite"}},
		{"a link of another adapter", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Interfaces[1].Addresses, d.Interfaces[1].Segment = dossier.OnCable, nil, ""
			homes.PutIn(d, 1, dossier.Interface{Device: d.Devices[0].ID, Name: "second"})
			homes.PutIn(d, 1, dossier.Link{Near: d.Interfaces[0].ID, Far: homes.ID[dossier.Interface](1), Kind: dossier.LinkCable})
		}, []string{"network ?", "choose granite"}},
		{"on radio without a segment, known by its address", func(d *dossier.Dossier) {
			wifi(d)
			d.Interfaces[1].Segment, d.Segments[0].SSID = "", "Lamps"
		}, []string{"wifi Lamps", "password ?", "choose granite"}},
		{"an address and a port that are typed in wrongly", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].FoundBy = dossier.OnCable, dossier.ByTypedAddress
			d.Paths[0].DeviceEnd = dossier.End{Port: 40999}
		}, []string{"cable", "address 10.20.4.10", "port 40210 not 40999"}},
		{"an address of which only the path knows", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].FoundBy, d.Interfaces[0].Addresses = dossier.OnCable, dossier.ByTypedAddress, nil
			d.Paths[0].ServerEnd.Address = netip.MustParseAddr("10.20.4.12")
		}, []string{"cable", "address 10.20.4.12", "port 40210"}},
		{"what the path knows stands back where the adapter has one", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].FoundBy = dossier.OnCable, dossier.ByTypedAddress
			d.Paths[0].ServerEnd.Address = netip.MustParseAddr("10.20.4.12")
		}, []string{"cable", "address 10.20.4.10", "port 40210"}},
		{"an address of IPv4 first, of the link never", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].FoundBy = dossier.OnCable, dossier.ByTypedAddress
			d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("fe80::1"), netip.MustParseAddr("2001:db8::10"), netip.MustParseAddr("10.20.4.10")}
			d.Segments[0].Prefix6 = netip.MustParsePrefix("2001:db8::/64")
		}, []string{"cable", "address 10.20.4.10 or 2001:db8::10", "port 40210"}},
		{"with an account whose password is not kept", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium = dossier.OnCable
			a := dossier.Account{Name: "family", Login: "lamps"}
			a.ID = homes.ID[dossier.Account](1)
			d.Accounts.Put(a)
			d.Sources[0].Account = a.ID
		}, []string{"cable", "choose granite", "login lamps", "password ?"}},
		{"pushed to it", func(d *dossier.Dossier) { d.Interfaces[1].Medium, d.Paths[0].Kind = dossier.OnCable, dossier.AVPush }, []string{"cable", "choose granite", "consent"}},
		{"a copy", func(d *dossier.Dossier) {
			d.Interfaces[1].Medium, d.Paths[0].Kind, d.Paths[0].FoundBy = dossier.OnCable, dossier.Copy, dossier.ByNothing
		}, []string{"cable", "by-itself"}},
	} {
		d := homes.Small().Clone()
		d.Sources[0].ShownName = "granite"
		c.change(d)
		assert.Equal(t, c.want, said(entry.Of(d.Index(), d.Paths[0], nil)), c.name)
	}
}

// Of whatever home, a card can be made of every path; it names secrets and never shows them, and what
// nobody recorded it does not make up.
func TestACardOfAnyPath(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		for _, p := range d.Paths {
			c := entry.Of(d.Index(), p, nil)
			require.NotEmpty(t, c.Lines)
			for _, l := range c.Lines {
				require.Contains(t, entry.What("").Values(), string(l.What))
				require.True(t, l.Entered == "" || l.Entered != l.Value, "what is entered as it must be is no difference: %v", l)
			}
		}
	})
}
