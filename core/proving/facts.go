package proving

import (
	"fmt"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// reachFacts: that the source answers at its address stands on where it listens and on the
// segments of both ends.
func reachFacts(d *dossier.Dossier, p dossier.Path) []dossier.Fact {
	source, _ := d.Sources.Get(p.Source)
	facts := []dossier.Fact{
		{Subject: source.ID.Ref(), Name: "protocol", Value: string(source.Protocol)},
		{Subject: source.ID.Ref(), Name: "port", Value: number(source.Port)},
		{Subject: source.ID.Ref(), Name: "locator", Value: source.Locator},
		{Subject: source.ID.Ref(), Name: "interface", Value: string(source.Interface)},
		{Subject: p.ID.Ref(), Name: "source", Value: string(p.Source)},
	}
	facts = append(facts, addressFacts(d.ListensOn(source))...)
	return ordered(append(facts, segmentFacts(d, d.ListensOn(source))...))
}

// foundFacts: that the device's segment hears the server stands on reach, on the names it is told
// apart by and on where the device is.
func foundFacts(d *dossier.Dossier, p dossier.Path) []dossier.Fact {
	source, _ := d.Sources.Get(p.Source)
	facts := append(reachFacts(d, p),
		dossier.Fact{Subject: source.ID.Ref(), Name: "shownName", Value: source.ShownName},
		dossier.Fact{Subject: source.ID.Ref(), Name: "udn", Value: source.UDN},
		dossier.Fact{Subject: p.ID.Ref(), Name: "foundBy", Value: string(p.FoundBy)},
		dossier.Fact{Subject: p.ID.Ref(), Name: "device", Value: string(p.Device)},
	)
	return ordered(append(facts, segmentFacts(d, d.InterfacesOf(p.Device))...))
}

// playsFacts: that it plays on this screen stands on all of that, and on the device itself.
func playsFacts(d *dossier.Dossier, p dossier.Path) []dossier.Fact {
	device, _ := d.Devices.Get(p.Device)
	source, _ := d.Sources.Get(p.Source)
	server, _ := d.Devices.Get(source.Device)
	facts := append(foundFacts(d, p),
		dossier.Fact{Subject: p.ID.Ref(), Name: "mode", Value: string(p.Mode)},
		dossier.Fact{Subject: device.ID.Ref(), Name: "model", Value: strings.TrimSpace(device.Model + " " + device.Variant)},
		dossier.Fact{Subject: device.ID.Ref(), Name: "firmware", Value: device.Firmware},
		dossier.Fact{Subject: server.ID.Ref(), Name: "firmware", Value: server.Firmware},
	)
	return ordered(append(facts, addressFacts(d.InterfacesOf(p.Device))...))
}

func addressFacts(interfaces []dossier.Interface) []dossier.Fact {
	var out []dossier.Fact
	for _, i := range interfaces {
		out = append(out, dossier.Fact{Subject: i.ID.Ref(), Name: "addresses", Value: joined(i.Addresses)})
	}
	return out
}

func segmentFacts(d *dossier.Dossier, interfaces []dossier.Interface) []dossier.Fact {
	var out []dossier.Fact
	for _, id := range d.SegmentsOf(interfaces) {
		s, _ := d.Segments.Get(id)
		out = append(out,
			dossier.Fact{Subject: id.Ref(), Name: "prefix", Value: s.Prefix.String()},
			dossier.Fact{Subject: id.Ref(), Name: "isolation", Value: string(s.Isolation)})
	}
	return out
}

func joined(addresses []netip.Addr) string {
	names := make([]string, len(addresses))
	for i, a := range addresses {
		names[i] = a.String()
	}
	slices.Sort(names)
	return strings.Join(names, " ")
}

func number(n int) string {
	if n == 0 {
		return ""
	}
	return fmt.Sprint(n)
}

func ordered(facts []dossier.Fact) []dossier.Fact {
	slices.SortFunc(facts, func(a, b dossier.Fact) int {
		if c := a.Subject.Compare(b.Subject); c != 0 {
			return c
		}
		return strings.Compare(a.Name, b.Name)
	})
	return slices.Compact(facts)
}
