package network_test

import (
	"fmt"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/dossier/homes"
	"kaiku/core/network"
)

func addr(s string) []netip.Addr { return []netip.Addr{netip.MustParseAddr(s)} }

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
		}, nil, nil, nil},
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
		}, nil, nil, nil},
		{"but not when it listens on the other one", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = d.Segments[1].ID, addr("10.20.5.11")
			second := dossier.Interface{Device: d.Devices[0].ID, Name: "eth1", Segment: d.Segments[1].ID, Addresses: addr("10.20.5.10")}
			second.ID = homes.ID[dossier.Interface](9)
			d.Interfaces.Put(second)
			d.Sources[0].Interface = d.Interfaces[0].ID
		}, []string{"different-segments"}, func(d *dossier.Dossier) dossier.Ref { return d.Paths[0].ID.Ref() }, nil},
		{"of a device whose segment nobody knows nothing is said", func(d *dossier.Dossier) {
			d.Interfaces[1].Segment, d.Interfaces[1].Addresses = "", nil
		}, nil, nil, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.change(d)
			found := network.Findings(d)
			var codes []string
			for _, f := range found {
				codes = append(codes, f.Code)
				assert.Equal(t, network.Blocker, f.Severity)
			}
			require.Equal(t, c.codes, codes)
			if c.about != nil {
				assert.Equal(t, c.about(d), found[0].Subjects[0])
			}
			for name, v := range c.values {
				assert.Equal(t, v, found[0].Values[name], name)
			}
		})
	}
}

func TestFindingsAreTheSameEveryTime(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		assert.Equal(t, network.Findings(d), network.Findings(d.Clone()))
		assert.Equal(t, before, d, "a computation changed the dossier")
	})
}

func BenchmarkFindings(b *testing.B) {
	d := homes.Small().Clone()
	for n := range 200 {
		i := dossier.Interface{Device: d.Devices[n%2].ID, Name: fmt.Sprint("if", n), Segment: d.Segments[0].ID, Addresses: addr(fmt.Sprintf("10.20.4.%d", n%250))}
		i.ID = homes.ID[dossier.Interface](n + 100)
		d.Interfaces.Put(i)
	}
	for b.Loop() {
		network.Findings(d)
	}
	b.ReportMetric(5e6, "aim-ns/op")
}
