package network_test

import (
	"fmt"
	"maps"
	"net/netip"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/homes"
)

func addr(s string) []netip.Addr { return []netip.Addr{netip.MustParseAddr(s)} }

// second adds another source to the server, and pool gives the home segment a DHCP pool.
func second(d *dossier.Dossier, s dossier.Source) {
	s.ID, s.Device, s.Name = homes.ID[dossier.Source](9), d.Devices[0].ID, "second"
	if s.Protocol == "" {
		s.Protocol = dossier.ProtocolHTTP
	}
	d.Sources.Put(s)
}

func pool(d *dossier.Dossier) {
	d.Segments[0].PoolFirst, d.Segments[0].PoolLast = netip.MustParseAddr("10.20.4.11"), netip.MustParseAddr("10.20.4.99")
}

func TestFindings(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		codes  []string
		about  func(*dossier.Dossier) dossier.Ref
		values map[string]string
	}{
		{"a home in order has none", func(*dossier.Dossier) {}, nil, nil, nil},
		{"two devices with one address in one segment clash", func(d *dossier.Dossier) { d.Interfaces[1].Addresses = addr("10.20.4.10") },
			[]string{"address-clash"}, func(d *dossier.Dossier) dossier.Ref { return d.Interfaces[1].ID.Ref() },
			map[string]string{"address": "10.20.4.10", "segment": "home", "devices": "lamp screen, granite server"}},
		{"the same address in two segments does not clash", func(d *dossier.Dossier) {
			d.Interfaces[1].Addresses = addr("10.20.4.10")
			d.Interfaces[1].Segment = d.Segments[1].ID
			d.Paths[0].FoundBy = dossier.ByTypedAddress
		}, []string{"address-outside-segment"}, nil, map[string]string{"adapter": "lamp screen wired", "segment": "guest", "prefix": "10.20.5.0/24"}},
		{"an address twice on one adapter does not clash with itself", func(d *dossier.Dossier) {
			d.Interfaces[1].Addresses = append(addr("10.20.4.11"), addr("10.20.4.11")...)
		}, nil, nil, nil},
		{"a segment that is not recorded is known by its prefix", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = "", addr("10.20.4.10")
		}, []string{"address-clash"}, func(d *dossier.Dossier) dossier.Ref { return d.Interfaces[1].ID.Ref() }, nil},
		{"a device on the guest segment cannot find by multicast", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
		}, []string{"different-segments"}, func(d *dossier.Dossier) dossier.Ref { return d.Paths[0].ID.Ref() },
			map[string]string{"device": "lamp screen", "deviceSegments": "guest (10.20.5.0/24)", "server": "granite server", "serverSegments": "home (10.20.4.0/24)"}},
		{"it can by a typed address", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			d.Paths[0].FoundBy = dossier.ByTypedAddress
		}, nil, nil, nil},
		{"a retired path is not spoken of", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			d.Paths[0].Retired = true
		}, nil, nil, nil},
		{"a server with a second adapter in the device's segment is found", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			second := dossier.Interface{Device: d.Devices[0].ID, Name: "eth1", Segment: d.Segments[1].ID, Addresses: addr("10.20.5.10")}
			second.ID = homes.ID[dossier.Interface](9)
			d.Interfaces.Put(second)
		}, []string{"several-adapters"}, nil, nil},
		{"but not when it listens on the other one", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			second := dossier.Interface{Device: d.Devices[0].ID, Name: "eth1", Segment: d.Segments[1].ID, Addresses: addr("10.20.5.10")}
			second.ID = homes.ID[dossier.Interface](9)
			d.Interfaces.Put(second)
			d.Sources[0].Interface = d.Interfaces[0].ID
		}, []string{"listens-elsewhere"}, func(d *dossier.Dossier) dossier.Ref { return d.Sources[0].ID.Ref() },
			map[string]string{"source": "granite server media", "adapter": "wired (10.20.4.10)", "device": "lamp screen", "segments": "guest (10.20.5.0/24)", "bind": "eth1 (10.20.5.10)", "there": "guest"}},
		{"an address that a device gave itself", func(d *dossier.Dossier) { d.Interfaces[1].Addresses = addr("169.254.7.9") },
			[]string{"no-lease"}, func(d *dossier.Dossier) dossier.Ref { return d.Interfaces[1].ID.Ref() }, map[string]string{"address": "169.254.7.9"}},
		{"an IPv6 address of the link is in every segment", func(d *dossier.Dossier) { d.Interfaces[1].Addresses = addr("fe80::11") }, nil, nil, nil},
		{"a gateway nobody reaches", func(d *dossier.Dossier) { d.Segments[0].Gateway = netip.MustParseAddr("10.20.5.1") },
			[]string{"gateway-outside-segment"}, func(d *dossier.Dossier) dossier.Ref { return d.Segments[0].ID.Ref() }, map[string]string{"gateway": "10.20.5.1", "prefix": "10.20.4.0/24"}},
		{"a segment within another", func(d *dossier.Dossier) { d.Segments[1].Prefix = netip.MustParsePrefix("10.20.4.128/25") },
			[]string{"segments-overlap"}, func(d *dossier.Dossier) dossier.Ref { return d.Segments[1].ID.Ref() }, map[string]string{"other": "home"}},
		{"two sources on one port of one host", func(d *dossier.Dossier) { second(d, dossier.Source{Port: 40210}) },
			[]string{"port-clash"}, func(d *dossier.Dossier) dossier.Ref { return d.Sources[1].ID.Ref() }, map[string]string{"port": "40210", "source": "second", "other": "media"}},
		{"on the port that SSDP shares there is no clash", func(d *dossier.Dossier) {
			d.Sources[0].Port = 1900
			second(d, dossier.Source{Port: 1900})
		}, nil, nil, nil},
		{"bound to two adapters there is no clash", func(d *dossier.Dossier) {
			d.Sources[0].Interface = d.Interfaces[0].ID
			second(d, dossier.Source{Port: 40210, Interface: "another"})
		}, nil, nil, nil},
		{"ends that disagree", func(d *dossier.Dossier) {
			d.Paths[0].ServerEnd = dossier.End{Address: netip.MustParseAddr("10.20.4.10"), Port: 40210, Locator: "/films/"}
			d.Paths[0].DeviceEnd = dossier.End{Address: netip.MustParseAddr("10.20.4.12"), Port: 40210, Locator: "films"}
		}, []string{"ends-disagree"}, func(d *dossier.Dossier) dossier.Ref { return d.Paths[0].ID.Ref() }, map[string]string{"what": "address-differs device=10.20.4.12 server=10.20.4.10"}},
		{"what one end leaves open is no disagreement", func(d *dossier.Dossier) { d.Paths[0].ServerEnd = dossier.End{Port: 40210, Name: "Granite"} }, nil, nil, nil},
		{"one hardware address twice", func(d *dossier.Dossier) {
			d.Interfaces[0].HardwareAddress, d.Interfaces[1].HardwareAddress = "02:4b:49:00:00:10", "02:4b:49:00:00:10"
		}, []string{"hardware-address-clash"}, func(d *dossier.Dossier) dossier.Ref { return d.Interfaces[1].ID.Ref() },
			map[string]string{"adapters": "lamp screen wired, granite server wired"}},
		{"an address set within the lease pool", func(d *dossier.Dossier) {
			pool(d)
			d.Interfaces[1].AddressBy = dossier.BySetting
		}, []string{"address-in-lease-pool"}, func(d *dossier.Dossier) dossier.Ref { return d.Interfaces[1].ID.Ref() }, map[string]string{"first": "10.20.4.11", "last": "10.20.4.99"}},
		{"a lease from the pool is right", func(d *dossier.Dossier) {
			pool(d)
			d.Interfaces[1].AddressBy = dossier.ByLease
		}, nil, nil, nil},
		{"and so is a reserved one", func(d *dossier.Dossier) {
			pool(d)
			d.Interfaces[1].AddressBy, d.Interfaces[1].HardwareAddress = dossier.BySetting, "02:4b:49:00:00:11"
			d.Segments[0].Reservations = []dossier.Reservation{{HardwareAddress: "02:4b:49:00:00:11", Address: netip.MustParseAddr("10.20.4.11")}}
		}, nil, nil, nil},
		{"two servers of one name", func(d *dossier.Dossier) {
			second(d, dossier.Source{Port: 8300, ShownName: "granite"})
			d.Sources[1].Device = d.Devices[1].ID
		},
			[]string{"same-name"}, func(d *dossier.Dossier) dossier.Ref { return d.Sources[1].ID.Ref() }, map[string]string{"name": "granite"}},
		{"a share that can be written", func(d *dossier.Dossier) {
			second(d, dossier.Source{Protocol: dossier.ProtocolSMB, Writable: dossier.Yes})
		},
			[]string{"writable-share"}, func(d *dossier.Dossier) dossier.Ref { return d.Sources[1].ID.Ref() }, nil},
		{"titles that the index lacks", func(d *dossier.Dossier) { d.Folders[0].ItemsOnDisk, d.Folders[0].ItemsInIndex = 12, 9 },
			[]string{"titles-missing"}, func(d *dossier.Dossier) dossier.Ref { return d.Folders[0].ID.Ref() }, map[string]string{"missing": "3 1"}},
		{"a restart that is owed", func(d *dossier.Dossier) {
			c := dossier.Change{Device: d.Devices[0].ID, What: "new folder", FollowUps: []dossier.FollowUp{dossier.FollowUpIndex, dossier.FollowUpRestart}, Done: []dossier.FollowUp{dossier.FollowUpIndex}}
			c.ID = homes.ID[dossier.Change](9)
			d.Changes.Put(c)
		}, []string{"restart-due"}, func(d *dossier.Dossier) dossier.Ref { return d.Changes[0].ID.Ref() }, map[string]string{"change": "new folder", "device": "granite server"}},
		{"a server that starts at log-in", func(d *dossier.Dossier) {
			c := dossier.Software{Device: d.Devices[0].ID, Name: "Ahtola", Does: dossier.SoftwareServer, Starts: dossier.StartsAtLogin}
			c.ID = homes.ID[dossier.Software](9)
			d.Software.Put(c)
		}, []string{"starts-at-login-only", "settings-copy-missing"}, func(d *dossier.Dossier) dossier.Ref { return d.Software[0].ID.Ref() }, map[string]string{"starts": "at-log-in"}},
		{"of a device whose segment nobody knows nothing is said", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = "", nil
		}, nil, nil, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.change(d)
			found := network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day)
			var codes []string
			for _, f := range found {
				codes = append(codes, f.Code)
				assert.NotEmpty(t, f.Subjects)
			}
			require.Equal(t, c.codes, codes)
			if c.about != nil {
				assert.Equal(t, c.about(d), found[0].Subjects[0])
			}
			for name, v := range c.values {
				assert.Equal(t, v, text(found[0].Values[name]), name)
			}
		})
	}
}

// A few faults at once: the gravest stand first, and each is found once.
func TestFindingsByGravity(t *testing.T) {
	d := homes.Small().Clone()
	d.Folders[0].ItemsOnDisk, d.Folders[0].ItemsInIndex = 2, 1
	d.Interfaces[1].Addresses = addr("169.254.7.9")
	found := network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day)
	require.Len(t, found, 2)
	assert.Equal(t, network.Blocker, found[0].Severity)
	assert.Equal(t, network.Warning, found[1].Severity)
}

func TestFindingsAreTheSameEveryTime(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		assert.Equal(t, network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day), network.Findings(d.Clone().Index(), knowledge.Knowledge{}, homes.Day))
		assert.Equal(t, before, d, "a computation changed the dossier")
	})
}

// "Is everything on the same network?" has one answer for the home and one for each path.
func TestOneNetwork(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		home   network.Union
		path   network.Union
		apart  int
	}{
		{"in one segment", func(*dossier.Dossier) {}, network.UnionWhole, network.UnionWhole, 0},
		{"nobody recorded where the screen is", func(d *dossier.Dossier) {
			d.Devices[1].Roles = append(d.Devices[1].Roles, dossier.RolePlayer)
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = "", nil
		}, network.UnionUnknown, network.UnionUnknown, 0},
		{"a plain screen is not asked for", func(d *dossier.Dossier) { d.Interfaces[1].Segment, d.Interfaces[1].Addresses = "", nil }, network.UnionWhole, network.UnionUnknown, 0},
		{"with the guests", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
		}, network.UnionApart, network.UnionApart, 1},
		{"with the guests, multicast is passed on", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			d.Segments[0].MulticastTo = []dossier.ID[dossier.Segment]{d.Segments[1].ID}
		}, network.UnionApart, network.UnionPassed, 1},
		{"with the guests, found by a typed address", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			d.Paths[0].FoundBy = dossier.ByTypedAddress
		}, network.UnionApart, network.UnionRouted, 1},
		{"kept apart from the home all the same", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			d.Paths[0].FoundBy, d.Segments[1].Isolation = dossier.ByTypedAddress, dossier.IsolationBoth
		}, network.UnionApart, network.UnionApart, 1},
		{"two radios of one segment kept apart", func(d *dossier.Dossier) {
			d.Interfaces[0].Medium, d.Interfaces[1].Medium, d.Segments[0].Isolation = dossier.OnRadio, dossier.OnRadio, dossier.IsolationRadioToRadio
		}, network.UnionWhole, network.UnionApart, 0},
		{"a wired server is reached all the same", func(d *dossier.Dossier) {
			d.Interfaces[0].Medium, d.Interfaces[1].Medium, d.Segments[0].Isolation = dossier.OnCable, dossier.OnRadio, dossier.IsolationRadioToRadio
		}, network.UnionWhole, network.UnionWhole, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.change(d)
			h := network.OneNetwork(d.Index())
			assert.Equal(t, c.home, h.Union)
			assert.Len(t, h.Apart, c.apart)
			require.Len(t, h.Paths, 1)
			assert.Equal(t, c.path, h.Paths[0].Union)
		})
	}
}

func TestOutside(t *testing.T) {
	for _, c := range []struct {
		name        string
		outer, seen string
		prefix      string
		second      bool
		v4, v6      network.OuterKind
		canServe    bool
	}{
		{"nothing is known", "", "", "", false, network.OuterUnknown, network.OuterUnknown, false},
		{"an address of its own", "203.0.113.9", "203.0.113.9", "", false, network.OuterPublic, network.OuterUnknown, true},
		{"shared by the carrier", "100.64.3.4", "198.51.100.1", "", false, network.OuterCarrierShared, network.OuterUnknown, false},
		{"shared by the carrier, with IPv6", "100.64.3.4", "198.51.100.1", "2001:db8:7::/56", false, network.OuterCarrierShared, network.OuterPublic, true},
		{"a unique local prefix is no way in", "100.64.3.4", "", "fd00:7::/56", false, network.OuterCarrierShared, network.OuterUnknown, false},
		{"private, nothing recorded between", "10.0.0.4", "198.51.100.1", "", false, network.OuterCarrier, network.OuterUnknown, false},
		{"private behind a second router", "10.77.0.2", "198.51.100.1", "", true, network.OuterSecondRouter, network.OuterUnknown, false},
		{"dual-stack lite", "192.0.0.2", "198.51.100.1", "", false, network.OuterCarrier, network.OuterUnknown, false},
		{"seen outside as another", "203.0.113.9", "198.51.100.1", "", false, network.OuterCarrier, network.OuterUnknown, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			router := dossier.Device{Name: "router", Roles: []dossier.Role{dossier.RoleRouter}}
			homes.PutIn(d, 7, router)
			l := dossier.Line{Name: "line", Router: homes.ID[dossier.Device](7)}
			for text, into := range map[*string]*netip.Addr{&c.outer: &l.OuterAddress, &c.seen: &l.SeenAddress} {
				if *text != "" {
					*into = netip.MustParseAddr(*text)
				}
			}
			if c.prefix != "" {
				l.OuterPrefix = netip.MustParsePrefix(c.prefix)
			}
			if c.second {
				homes.PutIn(d, 8, router)
				homes.PutIn(d, 7, dossier.Interface{Device: homes.ID[dossier.Device](7), Name: "wan", Facing: dossier.FacingOutside})
				homes.PutIn(d, 8, dossier.Interface{Device: homes.ID[dossier.Device](8), Name: "lan"})
				homes.PutIn(d, 7, dossier.Link{Near: homes.ID[dossier.Interface](7), Far: homes.ID[dossier.Interface](8), Kind: dossier.LinkCable})
			}
			homes.PutIn(d, 7, l)
			r := network.Outside(d.Index())[0]
			assert.Equal(t, []network.OuterKind{c.v4, c.v6}, []network.OuterKind{r.V4, r.V6})
			assert.Equal(t, c.canServe, r.CanServe)
		})
	}
}

// Several shares of one file server are no clash; two media servers at one port are.
func TestOneServerGivesSeveralSourcesAtOnePort(t *testing.T) {
	for _, c := range []struct {
		name  string
		a, b  dossier.Source
		clash bool
	}{
		{"two shares", dossier.Source{Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/films"}, dossier.Source{Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/music"}, false},
		{"one share twice", dossier.Source{Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/films"}, dossier.Source{Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/films"}, true},
		{"a list and a stream", dossier.Source{Protocol: dossier.ProtocolM3U, Port: 8090, Locator: "/aerial.m3u"}, dossier.Source{Protocol: dossier.ProtocolHTTP, Port: 8090, Locator: "/channel/1"}, false},
		{"two media servers", dossier.Source{Protocol: dossier.ProtocolUPnPAV, Port: 40210, Locator: "/a.xml"}, dossier.Source{Protocol: dossier.ProtocolUPnPAV, Port: 40210, Locator: "/b.xml"}, true},
		{"a share and a stream", dossier.Source{Protocol: dossier.ProtocolSMB, Port: 8080, Locator: "/a"}, dossier.Source{Protocol: dossier.ProtocolHTTP, Port: 8080, Locator: "/b"}, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small()
			for n, s := range []dossier.Source{c.a, c.b} {
				s.Device, s.Name, s.ID = d.Devices[0].ID, string(rune('a'+n)), homes.ID[dossier.Source](40+n)
				d.Sources.Put(s)
			}
			clash := slices.ContainsFunc(network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day), func(f network.Finding) bool { return f.Code == "port-clash" })
			assert.Equal(t, c.clash, clash)
		})
	}
}

// text writes a value of a finding on one line.
func text(v dossier.Value) string {
	parts := slices.Concat(v.Names, v.Codes)
	if v.Unit != "" {
		parts = append(parts, strings.TrimSpace(fmt.Sprintf("%g %s %s", v.Number, v.Unit, v.Known)))
	}
	for _, p := range v.Phrases {
		one := p.Code
		for _, slot := range slices.Sorted(maps.Keys(p.Of)) {
			one += " " + slot + "=" + p.Of[slot]
		}
		parts = append(parts, one)
	}
	return strings.Join(parts, ", ")
}

// What rests on an estimate says so, and a measured value keeps how it was measured.
func TestQuantitiesSayHowTheyAreKnown(t *testing.T) {
	d := homes.Small()
	r := dossier.Reading{What: dossier.ClockOffsetS, Value: -10801, Subject: d.Devices[0].ID.Ref(), How: dossier.KnownRead, At: homes.Day}
	r.ID = homes.ID[dossier.Reading](1)
	d.Readings.Put(r)
	d.Sources[0].RateCapMbps = 4
	d.Folders[0].Mix = []dossier.FormatEntry{{Container: "mp4", AverageMbps: 7}}
	values := map[string]map[string]dossier.Value{}
	for _, f := range network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day) {
		values[f.Code] = f.Values
	}
	assert.Equal(t, "10801 s read", text(values["clock-wrong"]["off"]))
	assert.Equal(t, "4 Mb/s", text(values["rate-capped"]["limit"]), "nobody recorded how")
	assert.Equal(t, "12 Mb/s estimated", text(values["rate-capped"]["needed"]), "a peak that nobody recorded is a guess")
	d.Folders[0].Mix[0].PeakMbps = 7.1
	for _, f := range network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day) {
		values[f.Code] = f.Values
	}
	assert.Equal(t, "7 Mb/s", text(values["rate-capped"]["needed"]))
}

// In 2.4 GHz channels disturb each other that lie less than five apart; elsewhere only the same one does.
func TestWhichChannelsDisturbEachOther(t *testing.T) {
	for _, c := range []struct {
		a, b   dossier.Band
		ca, cb int
		want   bool
	}{
		{dossier.Band2, dossier.Band2, 1, 1, true}, {dossier.Band2, dossier.Band2, 1, 5, true}, {dossier.Band2, dossier.Band2, 5, 1, true},
		{dossier.Band2, dossier.Band2, 1, 6, false}, {dossier.Band2, dossier.Band2, 6, 1, false},
		{dossier.Band5, dossier.Band5, 36, 36, true}, {dossier.Band5, dossier.Band5, 36, 40, false},
		{dossier.Band2, dossier.Band5, 1, 1, false}, {dossier.Band5, dossier.Band6, 37, 37, false},
	} {
		d := homes.Small().Clone()
		for n, of := range []struct {
			band    dossier.Band
			channel int
		}{{c.a, c.ca}, {c.b, c.cb}} {
			homes.PutIn(d, 20+n, dossier.Device{Name: fmt.Sprint("mast ", n), Roles: []dossier.Role{dossier.RoleAccessPoint}})
			homes.PutIn(d, 20+n, dossier.Interface{Device: homes.ID[dossier.Device](20 + n), Name: "radio", Medium: dossier.OnRadio, Band: of.band, Channel: of.channel})
		}
		found := slices.ContainsFunc(network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day), func(f network.Finding) bool { return f.Code == "same-channel-crowded" })
		assert.Equal(t, c.want, found, "%v", c)
	}
}

// A cable is proposed only where it carries more than the Wi-Fi was measured to: of 100 Mb/s it carries 94.
func TestACableIsProposedWhereItCarriesMore(t *testing.T) {
	for measured, want := range map[float64]bool{0: true, 93: true, 94: true, 95: false, 100: false} {
		d := homes.Small().Clone()
		screen := d.Devices[1].ID
		d.Interfaces[1].Medium = dossier.OnRadio
		homes.PutIn(d, 20, dossier.Interface{Device: screen, Name: "port", Medium: dossier.OnCable, PortMbps: 100})
		homes.PutIn(d, 20, dossier.Outlet{Room: d.Devices[1].Room, Name: "L1", TestedMbps: 1000})
		if measured > 0 {
			homes.PutIn(d, 20, dossier.Reading{What: dossier.DownMbps, Value: measured, Subject: screen.Ref(), How: dossier.KnownMeasured, At: homes.Day})
		}
		found := slices.ContainsFunc(network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day), func(f network.Finding) bool { return f.Code == "wireless-beside-outlet" })
		assert.Equal(t, want, found, "Wi-Fi at %v", measured)
	}
}
