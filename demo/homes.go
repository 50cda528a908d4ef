package demo

import (
	"fmt"
	"net/netip"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/service"
	"kaiku/wire"
	"kaiku/wording"
)

// hosts writes addresses of the home in that octet.
func hosts(octet byte) func(host byte) string {
	return func(host byte) string { return fmt.Sprintf("127.77.%d.%d", octet, host) }
}

// frame is what every home on paper begins with: router, switch and home segment.
type frame struct {
	router, hub dossier.Device
	lan, wan    dossier.ID[dossier.Interface]
	air         dossier.ID[dossier.Interface]
	home        dossier.ID[dossier.Segment]
	ports       []dossier.ID[dossier.Interface]
}

// frame adds a router and a switch in a room and the home segment of a /24.
func (h *site) frame(room dossier.ID[dossier.Room], prefix string, outside dossier.Interface) (f frame) {
	p := netip.MustParsePrefix(prefix)
	at := func(host byte) netip.Addr { b := p.Addr().As4(); b[3] = host; return netip.AddrFrom4(b) }
	f.home = add(h, dossier.Segment{Name: "home", Prefix: p, Gateway: at(1), PoolFirst: at(100), PoolLast: at(199), NameServers: []netip.Addr{at(1)}, Isolation: dossier.IsolationNone}).ID
	outside.Name, outside.Facing, outside.Medium = "wan", dossier.FacingOutside, dossier.OnCable
	var ids []dossier.ID[dossier.Interface]
	f.router, ids = h.device(dossier.Device{Name: "router", Room: room, Roles: []dossier.Role{dossier.RoleRouter, dossier.RoleAccessPoint}, Make: "Orre", Model: "OR-7 Pier", Firmware: "3.2.1", MapsPorts: dossier.No},
		dossier.Interface{Name: "lan", Addresses: []netip.Addr{at(1)}, Segment: f.home, AddressBy: dossier.BySetting, Medium: dossier.OnCable, PortMbps: 1000, Facing: dossier.FacingHome}, outside,
		dossier.Interface{Name: "radio", Medium: dossier.OnRadio, Band: dossier.Band5, Channel: 36, Facing: dossier.FacingHome})
	f.lan, f.wan, f.air = ids[0], ids[1], ids[2]
	var ports []dossier.Interface
	for _, name := range []string{"port 1", "port 2", "port 3", "port 4"} {
		ports = append(ports, dossier.Interface{Name: name, Medium: dossier.OnCable, PortMbps: 1000})
	}
	f.hub, f.ports = h.device(dossier.Device{Name: "switch", Room: room, Roles: []dossier.Role{dossier.RoleSwitch}, Make: "Orre", Model: "OS-5 Jetty"}, ports...)
	add(h, dossier.Link{Near: f.ports[0], Far: f.lan, Kind: dossier.LinkCable, RateMbps: 1000})
	set(h, f.home, func(s *dossier.Segment) { s.DHCPServers = []dossier.ID[dossier.Device]{f.router.ID} })
	return f
}

// wired is an adapter on cable, with an address from the DHCP server.
func (f frame) wired(address string, by dossier.AddressBy) dossier.Interface {
	return dossier.Interface{Name: "wired", Medium: dossier.OnCable, PortMbps: 1000, Addresses: ips(address), Segment: f.home, AddressBy: by}
}

func (f frame) radio(address string) dossier.Interface {
	return dossier.Interface{Name: "wireless", Medium: dossier.OnRadio, Addresses: ips(address), Segment: f.home, AddressBy: dossier.ByLease}
}

// wireless adds a device that is on the network by the router's radio.
func (h *site) wireless(f frame, mbps float64, d dossier.Device, address string) dossier.Device {
	made, ids := h.device(d, f.radio(address))
	add(h, dossier.Link{Near: ids[0], Far: f.air, Kind: dossier.LinkRadio, RateMbps: mbps, Band: dossier.Band5, Channel: 36})
	return made
}

// served adds server software with a copy of its settings, and the ports it needs, open.
func (h *site) served(server dossier.Device, s dossier.Software, source dossier.Source) dossier.Source {
	s.Device, s.Does, s.Name, s.Starts, s.RunsAs = server.ID, dossier.SoftwareServer, "Ahtola", dossier.StartsWithMachine, "media"
	add(h, s)
	add(h, dossier.SettingsCopy{Device: server.ID, TakenAt: h.clock.now, Holds: dossier.CopySettings, Where: "office share, " + h.code, Version: s.Version})
	source.Device, source.Protocol, source.Port, source.Locator = server.ID, dossier.ProtocolUPnPAV, 40210, "/description.xml"
	made := add(h, source)
	add(h, dossier.Opening{Device: server.ID, Transport: dossier.TCP, Port: 40210, Direction: dossier.Inward, NetworkClass: dossier.ClassTrusted, State: dossier.OpeningOpen, For: "browsing and fetching"})
	add(h, dossier.Opening{Device: server.ID, Transport: dossier.UDP, Port: 1900, Direction: dossier.Inward, NetworkClass: dossier.ClassTrusted, State: dossier.OpeningOpen, For: "being found"})
	return made
}

func (h *site) path(name string, device dossier.Device, source dossier.Source, address string, marks dossier.MarksPlace, folders ...dossier.Folder) dossier.Path {
	end := dossier.End{Address: ip(address), Port: source.Port, Name: source.ShownName}
	p := dossier.Path{Name: name, Device: device.ID, Source: source.ID, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast, Mode: dossier.ThroughServer, ServerEnd: end, DeviceEnd: end, Marks: marks}
	for _, f := range folders {
		p.Folders = append(p.Folders, f.ID)
	}
	return add(h, p)
}

// sailLoft is H-0002: a boatyard attic with a projector and a photographer's archive. Its films
// are converted ahead of time for a player that cannot decode 10-bit; everything was proven and
// signed off, one screen has updated itself since, and the trial of its server software ends soon.
func (b *builder) sailLoft(octet byte) {
	at := hosts(octet)
	h := b.begin("maarit", 2, wire.NewHousehold{Code: "H-0002", Name: "Sail Loft", Address: "Boatyard Lane 4, Vesikarinne",
		Contacts: []dossier.Contact{{Name: "Oskari Purje", Phone: "555-0142", Email: "oskari@example.org", Note: "in the yard until four"}}, AccessNotes: "Outer stairs; the key hangs with the yard's foreman."})
	h.wait(20 * time.Hour)
	office, loft := h.room("office", 0, 1, "four sockets behind the desk"), h.room("sail loft", 1, 1, "two sockets under the beam")
	f := h.frame(office, at(0)+"/24", dossier.Interface{Addresses: ips("198.51.100.22")})
	add(h, dossier.Line{Name: "fibre", Kind: dossier.LineFibre, Router: f.router.ID, SoldDownMbps: 500, SoldUpMbps: 250, DownMbps: 481, UpMbps: 244, MeasuredAt: h.clock.now,
		OuterAddress: ip("198.51.100.22"), SeenAddress: ip("198.51.100.22")})
	beam := add(h, dossier.Outlet{Room: loft, Name: "L1", Cable: dossier.Cat6a, PatchedTo: f.ports[2], TestedMbps: 1000, TestedOn: h.today()})
	server, nics := h.device(dossier.Device{Name: "archive server", Room: office, Roles: []dossier.Role{dossier.RoleServer, dossier.RoleStorage}, Make: "Tuulkivi", Model: "TK-8 Vault", Firmware: "6.1", Serial: "TK8-00112",
		NetworkClass: dossier.ClassTrusted, Medium: "eight disks, two of them spare"}, f.wired(at(10), dossier.BySetting))
	add(h, dossier.Link{Near: nics[0], Far: f.ports[1], Kind: dossier.LinkCable, RateMbps: 1000})
	player, nics := h.device(dossier.Device{Name: "projector player", Room: loft, Roles: []dossier.Role{dossier.RolePlayer}, Make: "Palvara", Model: "PV-4", Variant: "A", Firmware: "2.2.0", Serial: "PV4-20871"}, f.wired(at(101), dossier.ByLease))
	add(h, dossier.Link{Near: nics[0], Far: f.ports[2], Kind: dossier.LinkCable, RateMbps: 1000, Outlet: beam.ID})
	projector := add(h, dossier.Device{Name: "projector", Room: loft, Roles: []dossier.Role{dossier.RoleScreen}, Make: "Norrvik", Model: "NP-1080"})
	add(h, dossier.ChainLink{From: player.ID, To: projector.ID, Input: "1", BestMode: "1080p60, 8 bit, SDR"})
	screen, nics := h.device(dossier.Device{Name: "office screen", Room: office, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-55", Firmware: "3.1"}, f.wired(at(102), dossier.ByLease))
	add(h, dossier.Link{Near: nics[0], Far: f.ports[3], Kind: dossier.LinkCable, RateMbps: 1000})
	able := func(part dossier.FormatPart, format dossier.FormatTerm, known dossier.Evidence) dossier.DecodingEntry {
		d := dossier.DecodingEntry{Part: part, Format: format, Able: dossier.Yes, Evidence: known}
		if format == "jpeg" {
			d.Width, d.Height = 8192, 8192
		}
		return d
	}
	add(h, dossier.Decoding{Device: screen.ID, Note: "read from the screen itself", Complete: []dossier.FormatPart{dossier.PartContainer}, Entries: []dossier.DecodingEntry{
		able(dossier.PartContainer, "jpeg", dossier.EvidenceDeclared), able(dossier.PartContainer, "mp4", dossier.EvidenceDeclared), able(dossier.PartContainer, "matroska", dossier.EvidenceDeclared),
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.H264), Profile: dossier.ProfileHigh, Level: "4.2", Width: 1920, Height: 1080, FrameRate: 60, BitDepth: 8, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.HEVC), Profile: dossier.ProfileMain10, Level: "5.1", Width: 3840, Height: 2160, FrameRate: 60, BitDepth: 10, Range: dossier.PQ, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		able(dossier.PartSound, "aac-lc", dossier.EvidenceDeclared), {Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.AC3), Channels: 6, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}}})
	add(h, dossier.Decoding{Device: player.ID, Entries: []dossier.DecodingEntry{
		able(dossier.PartContainer, "mp4", dossier.EvidenceProven), able(dossier.PartContainer, "matroska", dossier.EvidenceProven), able(dossier.PartContainer, "jpeg", dossier.EvidenceProven), able(dossier.PartSound, "aac-lc", dossier.EvidenceProven),
		{Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.AC3), Channels: 6, Able: dossier.Yes, Evidence: dossier.EvidenceProven},
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.H264), Level: "4.2", Able: dossier.Yes, Evidence: dossier.EvidenceProven},
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.HEVC), Profile: dossier.ProfileMain10, Able: dossier.No, Evidence: dossier.EvidenceProven}}})
	source := h.served(server, dossier.Software{Version: "3.1", NewestKnown: "3.1", Licence: dossier.LicenceTrial, EndsOn: day(h.clock.today.AddDate(0, 0, 12))}, dossier.Source{Name: "media server", ShownName: "Sail Loft", Converts: dossier.ConvertsNothing})
	folder := func(name string, of dossier.ContentKind, items int, mix dossier.FormatEntry) dossier.Folder {
		mix.Items = items
		return add(h, dossier.Folder{Source: source.ID, Name: name, ContentKind: of, ItemsOnDisk: items, ItemsInIndex: items, IndexedAt: h.clock.now, ReadableBy: []string{"media"}, Mix: []dossier.FormatEntry{mix}})
	}
	photos := folder("Photographs", dossier.Photo, 48214, dossier.FormatEntry{Container: dossier.JPEG, Width: 6000, Height: 4000})
	films := folder("Films", dossier.Film, 38, dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC, Profile: dossier.ProfileMain10, Level: "5.1", Width: 3840, Height: 2160, FrameRate: 24, BitDepth: 10, Range: dossier.PQ, Sound: dossier.AC3, Channels: 6, Hours: 71, AverageMbps: 58, PeakMbps: 96})
	converted := folder("Films, converted", dossier.Film, 38, dossier.FormatEntry{Container: dossier.MP4, Video: dossier.H264, Profile: dossier.ProfileHigh, Level: "4.1", Width: 1920, Height: 1080, FrameRate: 24, Sound: dossier.AAC, Channels: 2, Hours: 71, AverageMbps: 9, PeakMbps: 18})
	first := h.path("projector films", player, source, at(10), dossier.MarksOnDevice, converted, films)
	h.path("projector photographs", player, source, at(10), "", photos)
	h.path("office photographs and films", screen, source, at(10), dossier.MarksOnDevice, photos, films, converted)
	add(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: loft, Need: dossier.Needed})
	add(h, dossier.Wish{What: dossier.WishKind(dossier.Photo), Room: office, Need: dossier.Needed, Note: "to show customers their boats"})
	add(h, dossier.Reading{What: dossier.DownMbps, Value: 612, Subject: player.ID.Ref(), Room: loft, How: dossier.KnownMeasured, At: h.clock.now, Conditions: "evening"})
	add(h, dossier.ConvertedCopy{Folder: films.ID, Title: "All films of the folder", Items: 38, For: []dossier.ID[dossier.Device]{player.ID}, From: wording.Format(films.Mix[0]), Into: wording.Format(converted.Mix[0]), State: dossier.CopyDone,
		To: "the folder Films, converted, beside the originals", GigabytesBefore: 1854, GigabytesAfter: 288, DoneOn: h.today(), Note: "converted by the server at night"})
	add(h, dossier.LongTask{What: "Converting 38 films ahead of time", Subject: converted.ID.Ref(), StartedAt: h.clock.now, ExpectedAt: h.clock.now.Add(60 * time.Hour), CheckedBy: h.people["maarit"].ID,
		EndedAt: h.clock.now.Add(55 * time.Hour), Showed: "38 of 38 done"})
	h.wait(8 * 24 * time.Hour)
	h.repaired("Nothing plays since the power cut", "Oskari Purje", first, server)
	h.prove(octet, required())
	add(h, dossier.Visit{Purpose: "Sign-off", Technician: h.people["maarit"].ID, Starts: h.clock.now, Minutes: 60, Outcome: "Walked through all three paths with the customer, who signed without waivers."})
	add(h, dossier.Due{What: "Trial of the server software ends", Kind: dossier.DueTrial, On: day(h.clock.today.AddDate(0, 0, 12)), Subject: server.ID.Ref(), Note: "The customer decides whether to buy."})
}

// sailLoftYesterday is what the customer told on the telephone: the office screen has updated itself, so that what was proven on it was proven with
// the firmware before.
func (b *builder) sailLoftYesterday() {
	h := &site{builder: b, code: "H-0002", as: "maarit"}
	screen := named(b.home(h.code).Devices, func(v dossier.Device) bool { return v.Name == "office screen" })
	set(h, screen.ID, func(v *dossier.Device) { v.Firmware = "3.2" })
}

// alderRow is H-0004: a terraced house with three children. Hours are blocked, one player is for
// music only, one device is recognised only as unknown, and two rooms that wish to resume keep
// their marks in different places.
func (b *builder) alderRow(octet byte) {
	at := hosts(octet)
	h := b.begin("maarit", 4, wire.NewHousehold{Code: "H-0004", Name: "Alder Row 6", Address: "Alder Row 6, Vesikarinne",
		Contacts: []dossier.Contact{{Name: "Lempi Leppä", Phone: "555-0164", Email: "lempi@example.org", Note: "not before nine"}}, AccessNotes: "Somebody is home after three."})
	h.wait(22 * time.Hour)
	hall, living, kitchen := h.room("hall cupboard", 0, 1, "one socket, full"), h.room("living room", 0, 2, ""), h.room("kitchen", 0, 3, "")
	girls, boy := h.room("girls' room", 1, 1, ""), h.room("boy's room", 1, 2, "")
	f := h.frame(hall, at(0)+"/24", dossier.Interface{Addresses: ips("203.0.113.64")})
	add(h, dossier.Line{Name: "cable", Kind: dossier.LineCable, Router: f.router.ID, SoldDownMbps: 250, SoldUpMbps: 25, DownMbps: 233, UpMbps: 24, MeasuredAt: h.clock.now,
		OuterAddress: ip("203.0.113.64"), SeenAddress: ip("203.0.113.64")})
	server, nics := h.device(dossier.Device{Name: "hall server", Room: hall, Roles: []dossier.Role{dossier.RoleServer, dossier.RoleStorage}, Make: "Tuulkivi", Model: "TK-4 Cellar", Firmware: "6.1", NetworkClass: dossier.ClassTrusted}, f.wired(at(10), dossier.BySetting))
	add(h, dossier.Link{Near: nics[0], Far: f.ports[1], Kind: dossier.LinkCable, RateMbps: 1000})
	screen := h.wireless(f, 400, dossier.Device{Name: "living room screen", Room: living, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-55", Firmware: "3.1"}, at(101))
	girlsPlayer := h.wireless(f, 400, dossier.Device{Name: "girls' player", Room: girls, Roles: []dossier.Role{dossier.RolePlayer}, Make: "Palvara", Model: "PV-2", Firmware: "1.9.0"}, at(102))
	boyScreen := h.wireless(f, 400, dossier.Device{Name: "boy's screen", Room: boy, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-32", Firmware: "19.0"}, at(103))
	radio := h.wireless(f, 400, dossier.Device{Name: "kitchen music player", Room: kitchen, Roles: []dossier.Role{dossier.RolePlayer}, Make: "Kielo", Model: "KM-1", Firmware: "5.0", ContentKinds: []dossier.ContentKind{dossier.Music, dossier.Radio}}, at(104))
	source := h.served(server, dossier.Software{Version: "3.1", NewestKnown: "3.1", Licence: dossier.LicenceBought}, dossier.Source{Name: "media server", ShownName: "Alder Row", Newcomers: dossier.KeptOut, Language: "fi", Region: "FI"})
	for _, e := range []dossier.RegisterEntry{{Device: screen.ID, RecognisedAs: "NV screen"}, {Device: girlsPlayer.ID, RecognisedAs: "PV player"},
		{Device: boyScreen.ID, RecognisedAs: "unknown", Admission: dossier.ByHours, From: "07:00", Until: "20:00", Note: "set in the server's list of devices"},
		{Device: radio.ID, RecognisedAs: "KM player", Offered: []dossier.ContentKind{dossier.Music, dossier.Radio}}} {
		e.Server = server.ID
		add(h, e)
	}
	folder := func(name string, of dossier.ContentKind, items int) dossier.Folder {
		return add(h, dossier.Folder{Source: source.ID, Name: name, ContentKind: of, ItemsOnDisk: items, ItemsInIndex: items, IndexedAt: h.clock.now, ReadableBy: []string{"media"}})
	}
	films, series, music := folder("Films", dossier.Film, 214), folder("Series", dossier.Series, 803), folder("Music", dossier.Music, 6120)
	first := h.path("living room films", screen, source, at(10), dossier.MarksAtServer, films, series)
	h.path("girls' series", girlsPlayer, source, at(10), dossier.MarksOnDevice, series)
	h.path("boy's series", boyScreen, source, at(10), dossier.MarksAtServer, series)
	h.path("kitchen music", radio, source, at(10), "", music)
	add(h, dossier.Restriction{Name: "no series after eight in the boy's room", Room: boy, Device: boyScreen.ID, Contents: []dossier.ContentKind{dossier.Series}, From: "20:00", Until: "07:00", SetWhere: "server, list of devices"})
	add(h, dossier.Wish{What: dossier.WishResumeAcrossRooms, Room: living, Need: dossier.Needed, Note: "begun downstairs, ended upstairs"})
	add(h, dossier.Wish{What: dossier.WishResumeAcrossRooms, Room: girls, Need: dossier.Needed})
	add(h, dossier.Wish{What: dossier.WishKind(dossier.Music), Room: kitchen, Need: dossier.Needed})
	h.wait(4 * 24 * time.Hour)
	h.repaired("The living room finds no server this morning", "Lempi Leppä", first, server)
	h.prove(octet, required("resumes-elsewhere"))
}

// repaired is an issue whose fault was found and remedied: the server program had not started by itself. The tests that follow prove it.
func (h *site) repaired(symptom, reporter string, path dossier.Path, server dossier.Device) {
	by := h.people[h.as]
	var issue wire.Issue
	h.do("open issue", func() (err error) {
		issue, err = h.s.OpenIssue(h.ctx, by, h.code, wire.NewIssue{Symptom: symptom, Reporter: reporter, Test: proving.TestID("plays", []dossier.Ref{path.ID.Ref()})}, service.Request{})
		return err
	})
	h.do("remedy issue", func() error {
		_, err := h.s.StepIssue(h.ctx, by, h.code, issue.Record.ID, "remedy", wire.IssueStep{Remedy: "Set the program to start with the machine", Cause: "It started only once somebody had logged in",
			Fault: "starts-at-login-only", FaultAt: server.ID.Ref()}, service.Request{})
		return err
	})
}

// alderRowAgain: the line company brought another router, and with it another address range.
// What was proven on the old one is no longer proof.
func (b *builder) alderRowAgain(before, now byte) {
	was, is := hosts(before), hosts(now)
	h := &site{builder: b, code: "H-0004", as: "maarit"}
	d := b.home(h.code)
	router := named(d.Devices, func(v dossier.Device) bool { return v.Name == "router" })
	set(h, router.ID, func(v *dossier.Device) { v.Model, v.Firmware = "OR-9 Breakwater", "4.0.2" })
	moved := func(a netip.Addr) netip.Addr {
		return ip(is(a.As4()[3]))
	}
	for _, s := range d.Segments {
		set(h, s.ID, func(s *dossier.Segment) {
			s.Prefix = netip.MustParsePrefix(is(0) + "/24")
			s.Gateway, s.PoolFirst, s.PoolLast, s.NameServers = moved(s.Gateway), moved(s.PoolFirst), moved(s.PoolLast), []netip.Addr{moved(s.Gateway)}
		})
	}
	for _, i := range d.Interfaces {
		if i.Segment != "" {
			set(h, i.ID, func(i *dossier.Interface) { i.Addresses = []netip.Addr{moved(i.Addresses[0])} })
		}
	}
	for _, p := range d.Paths {
		set(h, p.ID, func(p *dossier.Path) {
			p.ServerEnd.Address, p.DeviceEnd.Address = moved(p.ServerEnd.Address), moved(p.DeviceEnd.Address)
		})
	}
	add(h, dossier.Change{Device: router.ID, What: fmt.Sprintf("Router replaced by the line company; the home was %s/24 and is %s/24 now", was(0), is(0)), At: h.clock.now, Note: "found when the caller said that nothing plays"})
	add(h, dossier.Visit{Purpose: "Prove the home again on the new router", Technician: h.people["maarit"].ID, Starts: h.clock.ago(-1), Minutes: 120,
		Bring: []dossier.Item{{What: "list of what is no longer proof", Ready: true}}})
}

// ryeCorner is H-0003: the flat over the bakery. A second router stands before the line, so that
// nobody can watch from outside; the server listens on its wrong adapter; the films lie on
// another computer's external disk. It waits for the line provider.
func (b *builder) ryeCorner() {
	h := b.begin("petri", 3, wire.NewHousehold{Code: "H-0003", Name: "Rye Corner", Address: "Mill Street 2, Vesikarinne",
		Contacts: []dossier.Contact{{Name: "Aarre Leipuri", Phone: "555-0133", Email: "aarre@example.org", Note: "asleep after noon, bakes from two"}}, AccessNotes: "Through the bakery; flour on everything."})
	h.wait(24 * time.Hour)
	bakery, living := h.room("bakery office", 0, 1, "two sockets, one for the oven's clock"), h.room("living room", 1, 1, "six sockets")
	f := h.frame(living, "10.20.3.0/24", dossier.Interface{})
	before := add(h, dossier.Segment{Name: "before the router", Prefix: netip.MustParsePrefix("172.16.3.0/24"), Gateway: ip("172.16.3.1"), PoolFirst: ip("172.16.3.100"), PoolLast: ip("172.16.3.199"), Isolation: dossier.IsolationNone})
	set(h, f.wan, func(i *dossier.Interface) {
		i.Addresses, i.Segment, i.AddressBy = ips("172.16.3.102"), before.ID, dossier.ByLease
	})
	box, ports := h.device(dossier.Device{Name: "line box", Room: bakery, Roles: []dossier.Role{dossier.RoleRouter}, Make: "Orre", Model: "OB-1", Handling: "the line provider's own box; only they may change it"},
		dossier.Interface{Name: "lan", Addresses: ips("172.16.3.1"), Segment: before.ID, AddressBy: dossier.BySetting, Medium: dossier.OnCable, PortMbps: 1000, Facing: dossier.FacingHome})
	set(h, before.ID, func(s *dossier.Segment) { s.DHCPServers = []dossier.ID[dossier.Device]{box.ID} })
	add(h, dossier.Link{Near: f.wan, Far: ports[0], Kind: dossier.LinkCable, RateMbps: 1000})
	line := add(h, dossier.Line{Name: "line of the bakery", Kind: dossier.LineDSL, Provider: "the parish line company", Router: f.router.ID, SoldDownMbps: 100, SoldUpMbps: 20, DownMbps: 88, UpMbps: 17, MeasuredAt: h.clock.now,
		OuterAddress: ip("172.16.3.102"), SeenAddress: ip("203.0.113.30"), Note: "shared with the shop below"})
	server, nics := h.device(dossier.Device{Name: "counter server", Room: living, Roles: []dossier.Role{dossier.RoleServer}, Make: "Tuulkivi", Model: "TK-2 Shelf", Firmware: "6.0", NetworkClass: dossier.ClassTrusted},
		f.wired("10.20.3.10", dossier.BySetting), dossier.Interface{Name: "second port", Medium: dossier.OnCable, PortMbps: 1000, Addresses: ips("172.16.3.10"), Segment: before.ID, AddressBy: dossier.BySetting})
	add(h, dossier.Link{Near: nics[0], Far: f.ports[1], Kind: dossier.LinkCable, RateMbps: 1000})
	computer, cnics := h.device(dossier.Device{Name: "bakery computer", Room: bakery, Roles: []dossier.Role{dossier.RoleStorage}, Make: "Tuulkivi", Model: "TK-1", Medium: "external disk on its desk", Standby: dossier.Yes, Wake: dossier.WakePacket}, f.wired("10.20.3.20", dossier.BySetting))
	add(h, dossier.Link{Near: cnics[0], Far: f.ports[2], Kind: dossier.LinkCable, RateMbps: 1000})
	screen := h.wireless(f, 400, dossier.Device{Name: "living room screen", Room: living, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-43", Variant: "B", Firmware: "3.1"}, "10.20.3.101")
	source := h.served(server, dossier.Software{Version: "3.1", NewestKnown: "3.1", Licence: dossier.LicenceFree}, dossier.Source{Name: "media server", ShownName: "Rye Corner", Interface: nics[1]})
	films := add(h, dossier.Folder{Source: source.ID, Name: "Films", ContentKind: dossier.Film, ItemsOnDisk: 96, ItemsInIndex: 96, IndexedAt: h.clock.now, LiesOn: computer.ID, ReadableBy: []string{"media"},
		Locations: []dossier.Location{{Form: dossier.FormLocal, Text: "/mnt/bakery/films"}, {Form: dossier.FormSMB, Text: "//bakery-computer/films"}}})
	h.path("living room films", screen, source, "10.20.3.10", dossier.MarksAtServer, films)
	add(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: living, Need: dossier.Needed})
	add(h, dossier.Wish{What: dossier.WishOutsideViewing, Need: dossier.Needed, Note: "from the summer cottage"})
	h.wait(3 * 24 * time.Hour)
	var issue wire.Issue
	h.do("open issue", func() (err error) {
		issue, err = h.s.OpenIssue(h.ctx, h.people["petri"], h.code, wire.NewIssue{Symptom: "Nothing can be reached from outside", Subjects: []dossier.Ref{line.ID.Ref(), box.ID.Ref()}, Reporter: "Aarre Leipuri"}, service.Request{})
		return err
	})
	step := func(name string, in wire.IssueStep) {
		h.do(name+" issue", func() error {
			_, err := h.s.StepIssue(h.ctx, h.people["petri"], h.code, issue.Record.ID, name, in, service.Request{})
			return err
		})
	}
	step("take", wire.IssueStep{NextStep: "Ask the line provider to let the box only bridge"})
	step("try", wire.IssueStep{What: "Asked on their hot-line", Showed: "promised a call back within three weeks"})
	step("wait", wire.IssueStep{On: "the line provider", Until: h.clock.ago(-5)})
}

// outerSkerry is H-0005: a cabin on a mobile line. The carrier shares its address, IPv6 would do;
// the server sleeps and the screen cannot wake it. Its survey is done, its inventory begun.
func (b *builder) outerSkerry() {
	h := b.begin("petri", 5, wire.NewHousehold{Code: "H-0005", Name: "Outer Skerry cabin", Address: "Outer Skerry, Vesikarinne",
		Contacts: []dossier.Contact{{Name: "Meri Luoto", Phone: "555-0155", Email: "meri@example.org", Note: "only at week-ends"}}, AccessNotes: "By boat; the key lies under the anchor."})
	h.wait(26 * time.Hour)
	cabin, shed := h.room("cabin", 0, 1, "four sockets, from the battery"), h.room("boat shed", 0, 2, "one socket, from the battery")
	f := h.frame(cabin, "10.20.5.0/24", dossier.Interface{Addresses: ips("100.72.10.4")})
	add(h, dossier.Outlet{Room: shed, Name: "S1", Cable: dossier.Cat5e, PatchedTo: f.ports[2], TestedMbps: 100, TestedOn: h.today(), Note: "outdoor cable, 40 m"})
	add(h, dossier.Line{Name: "mobile", Kind: dossier.LineMobile, Router: f.router.ID, SoldDownMbps: 100, DownMbps: 34, UpMbps: 3.1, MeasuredAt: h.clock.now,
		OuterAddress: ip("100.72.10.4"), SeenAddress: ip("198.51.100.90"), SeenAddress6: ip("2001:db8:5::10"), OuterPrefix: netip.MustParsePrefix("2001:db8:5::/56")})
	server, nics := h.device(dossier.Device{Name: "cabin server", Room: cabin, Roles: []dossier.Role{dossier.RoleServer}, Make: "Tuulkivi", Model: "TK-2 Shelf", NetworkClass: dossier.ClassTrusted, Standby: dossier.Yes, Wake: dossier.WakePacket,
		PowerSupply: "from the battery"}, f.wired("10.20.5.10", dossier.BySetting))
	add(h, dossier.Link{Near: nics[0], Far: f.ports[1], Kind: dossier.LinkCable, RateMbps: 1000})
	screen := h.wireless(f, 400, dossier.Device{Name: "cabin screen", Room: cabin, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-32", SendsWake: dossier.No}, "10.20.5.101")
	source := add(h, dossier.Source{Device: server.ID, Name: "media server", Protocol: dossier.ProtocolUPnPAV, Port: 40210, ShownName: "Outer Skerry"})
	h.path("cabin films", screen, source, "10.20.5.10", "")
	add(h, dossier.Reading{What: dossier.SignalDbm, Value: -58, Subject: screen.ID.Ref(), Room: cabin, How: dossier.KnownRead, At: h.clock.now})
	add(h, dossier.Reading{What: dossier.DownMbps, Value: 142, Subject: screen.ID.Ref(), Room: cabin, How: dossier.KnownMeasured, At: h.clock.now, Conditions: "afternoon"})
	add(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: cabin, Need: dossier.Needed})
	add(h, dossier.Wish{What: dossier.WishOutsideViewing, Need: dossier.Welcome, Note: "to look at the pictures of the bird camera from town"})
	add(h, dossier.Visit{Purpose: "Finish the inventory, prove the films", Technician: h.people["petri"].ID, Starts: h.clock.ago(-6), Minutes: 300, Bring: []dossier.Item{{What: "boat"}, {What: "adapter that sends wake packets"}}})
}
