package proving

import (
	"fmt"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// reachFacts: that the source answers at its address depends on where it listens and on the
// segments of both ends.
func reachFacts(d *view, c Case) []dossier.Fact {
	p := c.Path
	source, _ := d.Sources.Get(p.Source)
	facts := []dossier.Fact{
		{Subject: source.ID.Ref(), Name: "protocol", Value: string(source.Protocol)},
		{Subject: source.ID.Ref(), Name: "port", Value: number(source.Port)},
		{Subject: source.ID.Ref(), Name: "locator", Value: source.Locator},
		{Subject: source.ID.Ref(), Name: "interface", Value: string(source.Interface)},
		{Subject: p.ID.Ref(), Name: "source", Value: string(p.Source)},
	}
	facts = append(facts, addressFacts(d.ListensOn(source))...)
	return append(facts, segmentFacts(d, d.ListensOn(source))...)
}

// foundFacts: that the device's segment hears the server depends on reach, on the names it is told
// apart by and on where the device is.
func foundFacts(d *view, c Case) []dossier.Fact {
	p := c.Path
	source, _ := d.Sources.Get(p.Source)
	facts := append(d.on(onReach, c),
		dossier.Fact{Subject: source.ID.Ref(), Name: "shownName", Value: source.ShownName},
		dossier.Fact{Subject: source.ID.Ref(), Name: "udn", Value: source.UDN},
		dossier.Fact{Subject: p.ID.Ref(), Name: "foundBy", Value: string(p.FoundBy)},
		dossier.Fact{Subject: p.ID.Ref(), Name: "device", Value: string(p.Device)},
	)
	return append(facts, segmentFacts(d, d.InterfacesOf(p.Device))...)
}

// toldApartFacts: the names of all servers count.
func toldApartFacts(d *view, c Case) []dossier.Fact {
	facts := d.on(onFound, c)
	for _, s := range otherServers(d.Dossier, c.Path) {
		facts = append(facts, dossier.Fact{Subject: s.ID.Ref(), Name: "shownName", Value: s.ShownName})
	}
	return facts
}

// opensFacts: that the folders open depends on reach, on their names and on the server's version.
func opensFacts(d *view, c Case) []dossier.Fact {
	facts := append(d.on(onReach, c), serverFacts(d, c.Path)...)
	for _, f := range Reached(d.Dossier, c.Path) {
		facts = append(facts, folderFacts(f)...)
	}
	return facts
}

// completeFacts: a count of the folder's items depends on how many are on the disk, and where.
func completeFacts(d *view, c Case) []dossier.Fact {
	facts := append(d.on(onReach, c), serverFacts(d, c.Path)...)
	return append(append(facts, folderFacts(c.Folder)...),
		dossier.Fact{Subject: c.Folder.ID.Ref(), Name: "itemsOnDisk", Value: number(c.Folder.ItemsOnDisk)})
}

func folderFacts(f dossier.Folder) []dossier.Fact {
	return []dossier.Fact{{Subject: f.ID.Ref(), Name: "name", Value: f.Name}, {Subject: f.ID.Ref(), Name: "liesOn", Value: string(f.LiesOn)}}
}

// serverFacts are the versions of the serving machine and of its software.
func serverFacts(d *view, p dossier.Path) []dossier.Fact {
	source, _ := d.Sources.Get(p.Source)
	server, _ := d.Devices.Get(source.Device)
	facts := []dossier.Fact{{Subject: server.ID.Ref(), Name: "firmware", Value: server.Firmware}}
	for _, s := range d.Software {
		if s.Device == server.ID && s.Does == dossier.SoftwareServer {
			facts = append(facts, dossier.Fact{Subject: s.ID.Ref(), Name: "version", Value: s.Version})
		}
	}
	return facts
}

// playsFacts: that it plays on this screen depends on all of that, and on the device itself.
func playsFacts(d *view, c Case) []dossier.Fact {
	p := c.Path
	device, _ := d.Devices.Get(p.Device)
	facts := append(d.on(onFound, c),
		dossier.Fact{Subject: p.ID.Ref(), Name: "mode", Value: string(p.Mode)},
		dossier.Fact{Subject: device.ID.Ref(), Name: "model", Value: strings.TrimSpace(device.Model + " " + device.Variant)},
		dossier.Fact{Subject: device.ID.Ref(), Name: "firmware", Value: device.Firmware},
	)
	facts = append(facts, serverFacts(d, p)...)
	return append(facts, addressFacts(d.InterfacesOf(p.Device))...)
}

// appearsFacts: that a new file appears depends on playing and on where the files are.
func appearsFacts(d *view, c Case) []dossier.Fact {
	facts := d.on(onPlays, c)
	for _, f := range Reached(d.Dossier, c.Path) {
		facts = append(facts, folderFacts(f)...)
	}
	return facts
}

// writeFacts: that writing is refused depends on the share, the account and what is recorded of it.
func writeFacts(d *view, c Case) []dossier.Fact {
	source, _ := d.Sources.Get(c.Path.Source)
	return append(append(d.on(onReach, c), serverFacts(d, c.Path)...),
		dossier.Fact{Subject: source.ID.Ref(), Name: "account", Value: string(source.Account)},
		dossier.Fact{Subject: source.ID.Ref(), Name: "writable", Value: string(source.Writable)})
}

func hoursFacts(d *view, c Case) []dossier.Fact {
	facts := d.on(onFound, c)
	for _, r := range restrictions(d.Dossier, c.Path) {
		facts = append(facts, dossier.Fact{Subject: r.ID.Ref(), Name: "hours", Value: strings.Trim(string(r.From)+" - "+string(r.Until), " -")},
			dossier.Fact{Subject: r.ID.Ref(), Name: "setWhere", Value: r.SetWhere})
	}
	return facts
}

// fallBackFacts: the second-best path depends on its own facts.
func fallBackFacts(d *view, c Case) []dossier.Fact {
	other, _ := d.Paths.Get(c.Path.FallBack)
	return append(d.on(onPlays, Case{Path: other}), dossier.Fact{Subject: c.Path.ID.Ref(), Name: "fallBack", Value: string(c.Path.FallBack)})
}

func busySetFacts(d *view, c Case) []dossier.Fact {
	var facts []dossier.Fact
	for _, p := range inUse(d.Dossier, c.Set) {
		facts = append(facts, d.on(onPlays, Case{Path: p})...)
	}
	return facts
}

// restartFacts: whether it serves after a power cut depends on how the server's software starts.
func restartFacts(d *view, c Case) []dossier.Fact {
	facts := d.on(onPlays, c)
	source, _ := d.Sources.Get(c.Path.Source)
	for _, s := range d.Software {
		if s.Device == source.Device && s.Does == dossier.SoftwareServer {
			facts = append(facts, dossier.Fact{Subject: s.ID.Ref(), Name: "starts", Value: string(s.Starts)})
		}
	}
	return facts
}

func wakeFacts(d *view, c Case) []dossier.Fact {
	source, _ := d.Sources.Get(c.Path.Source)
	server, _ := d.Devices.Get(source.Device)
	facts := append(d.on(onFound, c), dossier.Fact{Subject: server.ID.Ref(), Name: "wake", Value: string(server.Wake)},
		dossier.Fact{Subject: server.ID.Ref(), Name: "standby", Value: string(server.Standby)})
	for _, i := range d.InterfacesOf(server.ID) {
		facts = append(facts, dossier.Fact{Subject: i.ID.Ref(), Name: "hardwareAddress", Value: string(i.HardwareAddress)})
	}
	return facts
}

func addressFacts(interfaces []dossier.Interface) []dossier.Fact {
	var out []dossier.Fact
	for _, i := range interfaces {
		out = append(out, dossier.Fact{Subject: i.ID.Ref(), Name: "addresses", Value: joined(i.Addresses)})
	}
	return out
}

func segmentFacts(d *view, interfaces []dossier.Interface) []dossier.Fact {
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
