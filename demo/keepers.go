package demo

import (
	"errors"
	"net/http"
	"net/netip"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/practice/layout"
	"kaiku/service"
	"kaiku/wire"
)

// keepersHouse is H-0001: a lighthouse dwelling of three floors of granite, whose devices are the
// practice house in 127.77.octet.0/24. It is in the middle of commissioning, offered by Petri to
// Maarit, not yet accepted.
func (b *builder) keepersHouse(octet byte) {
	const code = "H-0001"
	at := func(segment, host byte) netip.Addr { return netip.AddrFrom4([4]byte{127, 77, segment, host}) }
	b.do("begin "+code, func() error {
		_, err := b.s.Begin(b.ctx, b.people["ilona"], wire.NewHousehold{Code: code, Name: "The Keeper's House", Address: "Lighthouse Path 1, Vesikarinne",
			Contacts:    []dossier.Contact{{Name: "Eila Majakka", Phone: "555-0101", Email: "eila@example.org", Note: "mornings; speaks for the household"}},
			AccessNotes: "Ring the bell by the pier, the dog is friendly. No parking above high water.", Custodian: "petri"}, service.Request{})
		return err
	})
	b.wait(26 * time.Hour)
	room := func(name string, floor, order int) dossier.Room {
		return put(b, "petri", code, dossier.Room{Name: name, Floor: floor, Order: order})
	}
	cellar, kitchen, parlour := room("cellar", -1, 1), room("kitchen", 0, 1), room("parlour", 0, 2)
	room("keeper's bedroom", 1, 1)
	lamp := room("lamp room", 2, 1)
	home := put(b, "petri", code, dossier.Segment{Name: "home", Prefix: netip.PrefixFrom(at(octet, 0), 24), SSID: "Keepers", Gateway: at(octet, 1), NameServers: []netip.Addr{at(octet, 1)}, NamePort: layout.NamePort,
		PoolFirst: at(octet, 100), PoolLast: at(octet, 199), Isolation: dossier.IsolationNone})
	guest := put(b, "petri", code, dossier.Segment{Name: "guest", Prefix: netip.PrefixFrom(at(octet+1, 0), 24), VLAN: 20, SSID: "Keepers guests", Gateway: at(octet+1, 1),
		PoolFirst: at(octet+1, 100), PoolLast: at(octet+1, 199), Isolation: dossier.IsolationGuestToHome})
	device := func(d dossier.Device, wired dossier.Interface) dossier.Device {
		made := put(b, "petri", code, d)
		wired.Device = made.ID
		put(b, "petri", code, wired)
		return made
	}
	device(dossier.Device{Name: "router", Room: kitchen.ID, Roles: []dossier.Role{dossier.RoleRouter, dossier.RoleAccessPoint}, Make: "Orre", Model: "OR-7 Pier", Firmware: "3.2.1"},
		dossier.Interface{Name: "lan", HardwareAddress: "02:4b:49:00:01:01", Addresses: []netip.Addr{at(octet, 1)}, Segment: home.ID, AddressBy: dossier.BySetting})
	server := device(dossier.Device{Name: "granite server", Room: cellar.ID, Roles: []dossier.Role{dossier.RoleServer}, Make: "Tuulkivi", Model: "TK-4 Cellar", Firmware: "6.1",
		Serial: "TK4-00317", Menus: "Browser at its address, port 80; the log-in is in the firm's keeping"},
		dossier.Interface{Name: "eth0", HardwareAddress: "02:4b:49:00:01:10", Addresses: []netip.Addr{at(octet, 10)}, Segment: home.ID, AddressBy: dossier.BySetting, Medium: dossier.OnCable, PortMbps: 1000})
	screen := device(dossier.Device{Name: "lamp room screen", Room: lamp.ID, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-43", Variant: "B",
		Firmware: "3.1", UDN: layout.ScreenUDN, Menus: "Third button under the screen"},
		dossier.Interface{Name: "wireless", HardwareAddress: "02:4b:49:00:01:21", Addresses: []netip.Addr{at(octet, 21)}, Segment: home.ID, AddressBy: dossier.BySetting, Medium: dossier.OnRadio})
	device(dossier.Device{Name: "kitchen screen", Room: kitchen.ID, Roles: []dossier.Role{dossier.RoleScreen, dossier.RoleRenderer}, Make: "Norrvik", Model: "NV-24"},
		dossier.Interface{Name: "wireless", HardwareAddress: "02:4b:49:00:01:22", Addresses: []netip.Addr{at(octet, 22)}, Segment: home.ID, AddressBy: dossier.BySetting, Medium: dossier.OnRadio})
	stick := device(dossier.Device{Name: "parlour stick", Room: parlour.ID, Roles: []dossier.Role{dossier.RolePlayer}, Make: "Palvara", Model: "PV-2", Firmware: "1.9.0"},
		dossier.Interface{Name: "wireless", HardwareAddress: "02:4b:49:00:01:33", Addresses: []netip.Addr{at(octet+1, 133)}, Segment: guest.ID, AddressBy: dossier.ByLease, Medium: dossier.OnRadio})
	source := put(b, "petri", code, dossier.Source{Device: server.ID, Name: "media server", Protocol: dossier.ProtocolUPnPAV, Port: layout.ServerPort,
		Locator: layout.Locator, ShownName: layout.ServerName, UDN: layout.ServerUDN})
	films := put(b, "petri", code, dossier.Folder{Source: source.ID, Name: "Films", ContentKind: dossier.Film, ItemsOnDisk: 3, ItemsInIndex: 3, Mix: []dossier.FormatEntry{
		{Container: dossier.MP4, Video: dossier.H264, Profile: dossier.ProfileHigh, Level: "4.1", Width: 1920, Height: 1080, FrameRate: 25, Interlaced: dossier.No, BitDepth: 8, Chroma: dossier.Chroma420, Range: dossier.SDR,
			Sound: dossier.AAC, Channels: 2, SampleRate: 48000, Items: 2, Hours: 3.2, Gigabytes: 12.1, AverageMbps: 8.4, Needed5Mbps: 12.6, Heaviest: "oil-lamps.mp4"},
		{Container: dossier.Matroska, Video: dossier.HEVC, Profile: dossier.ProfileMain10, Level: "4", Width: 1920, Height: 1080, FrameRate: 25, Interlaced: dossier.No, BitDepth: 10, Chroma: dossier.Chroma420, Range: dossier.SDR,
			Sound: dossier.EAC3, Channels: 6, SampleRate: 48000, Subtitles: dossier.SubRip, SubtitlesIn: dossier.SubtitlesInside, Items: 1, Hours: 1.9, Gigabytes: 7.2, AverageMbps: 8.4}}})
	put(b, "petri", code, dossier.Folder{Source: source.ID, Name: "Music", ContentKind: dossier.Music, ItemsOnDisk: 2, ItemsInIndex: 2})
	end := dossier.End{Address: at(octet, 10), Port: layout.ServerPort, Name: layout.ServerName}
	path := func(name string, d dossier.Device) dossier.Path {
		return put(b, "petri", code, dossier.Path{Name: name, Device: d.ID, Source: source.ID, Folders: []dossier.ID[dossier.Folder]{films.ID},
			Kind: dossier.AVPull, FoundBy: dossier.ByMulticast, Mode: dossier.ThroughServer, ServerEnd: end, DeviceEnd: end})
	}
	lampFilms := path("lamp room films", screen)
	parlourFilms := path("parlour films", stick)
	store := device(dossier.Device{Name: "file store", Room: cellar.ID, Roles: []dossier.Role{dossier.RoleStorage, dossier.RoleServer}, Make: "Tuulkivi", Model: "TS-2 Kelp", HostName: "kelp"},
		dossier.Interface{Name: "eth0", HardwareAddress: "02:4b:49:00:01:11", Addresses: []netip.Addr{at(octet, 11)}, Segment: home.ID, AddressBy: dossier.BySetting, Medium: dossier.OnCable, PortMbps: 1000})
	put(b, "petri", code, dossier.Source{Device: store.ID, Name: "media share", Protocol: dossier.ProtocolSMB, Port: layout.SharePort, Locator: "/media"})
	b.survey(code, server, screen, home)
	b.inventory(code, home.ID, server, screen, source, lampFilms, parlourFilms)
	b.commission(&site{builder: b, code: code, as: "petri"}, octet, server, home, lampFilms, parlourFilms)
}

// survey adds what was found on the walk through the house.
func (b *builder) survey(code string, server, screen dossier.Device, home dossier.Segment) {
	d := b.home(code)
	room := func(name string) dossier.ID[dossier.Room] {
		return named(d.Rooms, func(r dossier.Room) bool { return r.Name == name }).ID
	}
	adapter := func(device, name string) dossier.ID[dossier.Interface] {
		return named(d.Interfaces, func(i dossier.Interface) bool { return d.Label(i.Device.Ref()) == device && i.Name == name }).ID
	}
	port := put(b, "petri", code, dossier.Interface{Device: named(d.Devices, func(v dossier.Device) bool { return v.Name == "router" }).ID, Name: "port 3", HardwareAddress: "02:4b:49:00:01:04", Medium: dossier.OnCable, PortMbps: 1000, Facing: dossier.FacingHome})
	put(b, "petri", code, dossier.Interface{Device: port.Device, Name: "port 4", HardwareAddress: "02:4b:49:00:01:06", Medium: dossier.OnCable, PortMbps: 1000, Facing: dossier.FacingHome})
	cellar := put(b, "petri", code, dossier.Outlet{Room: room("cellar"), Name: "C1", Cable: dossier.Cat6, PatchedTo: port.ID, Patching: "panel in the cellar, port 3", TestedMbps: 1000, TestedOn: b.today()})
	put(b, "petri", code, dossier.Outlet{Room: room("parlour"), Name: "P1", Cable: dossier.Cat5e, Note: "behind the sofa, not patched yet"})
	put(b, "petri", code, dossier.Line{Name: "fibre", Kind: dossier.LineFibre, Provider: "the parish line company", Router: port.Device, SoldDownMbps: 200, SoldUpMbps: 100,
		DownMbps: 187, UpMbps: 96, MeasuredAt: b.clock.now, OuterAddress: netip.MustParseAddr("203.0.113.17"), SeenAddress: netip.MustParseAddr("203.0.113.17"), OuterPrefix: netip.MustParsePrefix("2001:db8:40::/56")})
	put(b, "petri", code, dossier.Link{Near: adapter("granite server", "eth0"), Far: port.ID, Kind: dossier.LinkCable, RateMbps: 1000, Outlet: cellar.ID})
	set(&site{builder: b, code: code, as: "petri"}, home.ID, func(s *dossier.Segment) { s.DHCPServers = []dossier.ID[dossier.Device]{port.Device} })
	radio := put(b, "petri", code, dossier.Interface{Device: port.Device, Name: "radio", HardwareAddress: "02:4b:49:00:01:05", Medium: dossier.OnRadio, SSID: "Keepers", Band: dossier.Band5, Channel: 44, Facing: dossier.FacingHome})
	repeater := put(b, "petri", code, dossier.Device{Name: "bedroom repeater", Room: room("keeper's bedroom"), Roles: []dossier.Role{dossier.RoleRepeater}, Make: "Orre", Model: "OR-R Buoy", Handling: "it took a day to find its place"})
	bridge := put(b, "petri", code, dossier.Interface{Device: repeater.ID, Name: "radio", HardwareAddress: "02:4b:49:00:01:40", Medium: dossier.OnRadio, SSID: "Keepers", Band: dossier.Band5, Channel: 44})
	put(b, "petri", code, dossier.Link{Near: bridge.ID, Far: radio.ID, Kind: dossier.LinkRadio, RateMbps: 243, Band: dossier.Band5, Channel: 44, Note: "through one granite floor"})
	put(b, "petri", code, dossier.Link{Near: adapter("lamp room screen", "wireless"), Far: bridge.ID, Kind: dossier.LinkRadio, RateMbps: 173, Band: dossier.Band5, Channel: 44, Note: "through the second one, on the same channel"})
	put(b, "petri", code, dossier.Link{Near: adapter("parlour stick", "wireless"), Far: radio.ID, Kind: dossier.LinkRadio, RateMbps: 120, Band: dossier.Band5, Channel: 44, Note: "behind the screen, where the signal is worst"})
	put(b, "petri", code, dossier.DHCPServer{Device: port.Device, Segment: named(d.Segments, func(s dossier.Segment) bool { return s.Name == "guest" }).ID, Note: "the router's own, for guests only"})
	for _, m := range []struct {
		what  dossier.Quantity
		value float64
	}{{dossier.DownMbps, 31.5}, {dossier.SignalDbm, -72}} {
		put(b, "petri", code, dossier.Reading{What: m.what, Value: m.value, Subject: screen.ID.Ref(), Room: screen.Room, How: dossier.KnownMeasured, At: b.clock.now, Conditions: "evening, stair door closed"})
	}
	put(b, "petri", code, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: screen.Room, Need: dossier.Needed, Note: "The lamp room is where they watch on Saturdays"})
	put(b, "petri", code, dossier.Wish{What: dossier.WishKind(dossier.Music), Room: room("kitchen"), Need: dossier.Welcome})
	b.do("answer a gap of the survey", func() error {
		return b.s.AnswerGap(b.ctx, b.people["petri"], code, wire.AnswerGap{Code: "no-outlets", About: screen.Room.Ref(), Answer: dossier.NoneHere, Note: "Granite all round; no cable was ever laid up here"}, service.Request{})
	})
	put(b, "petri", code, dossier.Restriction{Name: "no films after ten in the bedroom", Room: room("keeper's bedroom"), Contents: []dossier.ContentKind{dossier.Film}, From: "22:00", Until: "07:00", SetWhere: "server, list of devices"})
}

// inventory adds what runs on the machines and how it is opened.
func (b *builder) inventory(code string, home dossier.ID[dossier.Segment], server, screen dossier.Device, source dossier.Source, paths ...dossier.Path) {
	petri := b.people["petri"]
	var secret dossier.Secret
	b.do("keep a secret", func() (err error) {
		secret, err = b.s.AddSecret(b.ctx, petri, code, wire.NewSecret{Name: "server log-in", Kind: dossier.SecretPassword, Device: server.ID, Note: "its menus in the browser", Body: "made-up-and-long"}, service.Request{})
		return err
	})
	put(b, "petri", code, dossier.Account{Name: "server administrator", Login: "keeper", Secret: secret.ID, SignedIn: []dossier.ID[dossier.Device]{server.ID}})
	put(b, "petri", code, dossier.Software{Device: server.ID, Name: "Ahtola", Does: dossier.SoftwareServer, Version: "2.6", NewestPackaged: "2.6", NewestKnown: "3.1", Licence: dossier.LicenceTrial,
		EndsOn: dossier.Date(b.clock.now.AddDate(0, 0, 30).Format(time.DateOnly)), Starts: dossier.StartsWithMachine, RunsAs: "media"})
	put(b, "petri", code, dossier.RegisterEntry{Device: screen.ID, Server: server.ID, RecognisedAs: "NV screen", Admission: dossier.LetIn, Note: "server, list of devices"})
	b.do("keep the Wi-Fi password", func() error {
		_, err := b.s.AddSecret(b.ctx, petri, code, wire.NewSecret{Name: "Wi-Fi password", Kind: dossier.SecretPassword, Segment: home, Note: "for everything that stays in the house", Body: "granite-under-gulls"}, service.Request{})
		return err
	})
	b.do("set a step of a recipe", func() error {
		_, err := b.s.SetRecipeStep(b.ctx, petri, code, wire.SetRecipeStep{Recipe: "Norrvik NV-43", Setting: "Sound return", Subject: screen.ID.Ref()}, service.Request{})
		return err
	})
	put(b, "petri", code, dossier.Setting{Subject: server.ID.Ref(), Name: "Sleep after", Menu: "Power", Value: "never", MustBe: "never", Why: "the screens cannot wake it", ConfirmedAt: b.clock.now})
	put(b, "petri", code, dossier.Decoding{Device: screen.ID, Note: "read from the screen itself", Entries: []dossier.DecodingEntry{
		{Part: dossier.PartContainer, Format: dossier.FormatTerm(dossier.MP4), Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.H264), Level: "4.1", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		{Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.AAC), Channels: 2, SampleRate: 48000, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.HEVC), Profile: dossier.ProfileMain10, Able: dossier.No, Evidence: dossier.EvidenceDataSheet}}})
	put(b, "petri", code, dossier.ConvertedCopy{Folder: paths[0].Folders[0], Title: "Fog Signal", Items: 1, For: []dossier.ID[dossier.Device]{screen.ID}, From: "Matroska; HEVC main 10", Into: "MP4; H.264 high, 1920x1080; AAC stereo", State: dossier.CopyWanted, To: "a folder of its own, beside Films"})
	bar := put(b, "petri", code, dossier.Device{Name: "lamp room sound bar", Room: screen.Room, Roles: []dossier.Role{dossier.RoleReceiver}, Make: "Kielo", Model: "KB-1"})
	put(b, "petri", code, dossier.ChainLink{From: screen.ID, To: bar.ID, Input: "2, return", BestMode: "2160p50, 8 bit, SDR", SoundReturn: dossier.SoundReturnPlain, Note: "stereo only; the longer cable is ordered"})
	put(b, "petri", code, dossier.Opening{Device: server.ID, Transport: dossier.TCP, Port: source.Port, Direction: dossier.Inward, NetworkClass: dossier.ClassTrusted, State: dossier.OpeningOpen, For: "browsing and films"})
	put(b, "petri", code, dossier.Opening{Device: server.ID, Transport: dossier.UDP, Port: 1900, Direction: dossier.Inward, NetworkClass: dossier.ClassTrusted, State: dossier.OpeningOpen, For: "being found"})
	var all []dossier.ID[dossier.Path]
	for _, p := range paths {
		all = append(all, p.ID)
	}
	put(b, "petri", code, dossier.BusySet{Name: "Saturday evening", Paths: all, Note: "both screens, from eight to ten"})
	kept := put(b, "petri", code, dossier.SettingsCopy{Device: server.ID, TakenAt: b.clock.now, Holds: dossier.CopySettings, Where: "office share, H-0001", Version: "2.6"})
	put(b, "petri", code, dossier.Change{Device: server.ID, What: "Films folder moved to the larger disk", At: b.clock.now, FollowUps: []dossier.FollowUp{dossier.FollowUpIndex, dossier.FollowUpRestart},
		Done: []dossier.FollowUp{dossier.FollowUpIndex, dossier.FollowUpRestart}, SettingsCopy: kept.ID})
	b.do("keep a log", func() error {
		_, err := b.s.AddAttachment(b.ctx, petri, code, wire.NewAttachment{Subject: server.ID.Ref(), Caption: "Start of the server after the move", FileName: "server.log"},
			[]byte("08:12:01 starting, settings of version 2.6\n08:12:03 folder Films: 3 items\n08:12:03 folder Music: 2 items\n08:12:04 answering on port 40210\n"), service.Request{})
		return err
	})
}

// plan adds what lies ahead: visits, waits and dates.
func (b *builder) plan(code string, source dossier.Source) {
	maarit, petri := b.people["maarit"].ID, b.people["petri"].ID
	put(b, "ilona", code, dossier.Visit{Purpose: "Cable to the lamp room, then prove it", Technician: maarit, Starts: b.clock.ago(-2), Minutes: 180,
		Bring: []dossier.Item{{What: "long cable for the stairwell", Ready: true}, {What: "drill for granite"}}, Bench: []dossier.Item{{What: "newest firmware of the screen on a stick"}}})
	put(b, "petri", code, dossier.LongTask{What: "First index of the Films folder", Subject: source.ID.Ref(), StartedAt: b.clock.now, ExpectedAt: b.clock.now.Add(9 * time.Hour), CheckedBy: petri,
		EndedAt: b.clock.now.Add(20 * time.Minute), Showed: "ended with 3 items, none missing"})
	put(b, "ilona", code, dossier.Due{What: "Trial of the server software ends", Kind: dossier.DueTrial, On: dossier.Date(b.clock.now.AddDate(0, 0, 24).Format(time.DateOnly)), Subject: source.Device.Ref()})
}

// commission brings the home to where the demo finds it: proven at the source, stuttering on the
// screen, an issue in hand, and a handover on offer.
func (b *builder) commission(h *site, octet byte, server dossier.Device, home dossier.Segment, path, aside dossier.Path) {
	petri, code := b.people["petri"], h.code
	for _, what := range []string{"server-software-runs", "starts-with-machine", "folders-added", "address-reserved"} {
		b.do("tick "+what, func() error {
			return b.s.Tick(b.ctx, petri, code, wire.Tick{What: what, Subject: server.ID.Ref()}, service.Request{})
		})
	}
	b.do("tick multicast", func() error {
		return b.s.Tick(b.ctx, petri, code, wire.Tick{What: "multicast-passes", Subject: home.ID.Ref()}, service.Request{})
	})
	test := func(kind string) string { return proving.TestID(kind, []dossier.Ref{path.ID.Ref()}) }
	b.wait(5 * 24 * time.Hour)
	h.prove(octet, func(t wire.Test) bool { return t.ID == test("reach") })
	h.attempt(b.stutters(octet), test("plays"))
	var issue wire.Issue
	b.do("open issue", func() (err error) {
		issue, err = b.s.OpenIssue(b.ctx, petri, code, wire.NewIssue{Symptom: "Films stutter on the lamp room screen", Test: test("plays"), Reporter: "Eila Majakka"}, service.Request{})
		return err
	})
	step := func(name string, in wire.IssueStep) {
		b.do(name+" issue", func() error {
			_, err := b.s.StepIssue(b.ctx, petri, code, issue.Record.ID, name, in, service.Request{})
			return err
		})
	}
	step("take", wire.IssueStep{NextStep: "Measure throughput where the screen stands, door open and closed"})
	step("try", wire.IssueStep{What: "Moved the repeater from the stairs to the bedroom", Showed: "one stall instead of two"})
	b.do("set a test aside", func() error {
		_, err := b.s.WaiveTest(b.ctx, b.people["aino"], code, wire.NewWaiver{Test: proving.TestID("plays", []dossier.Ref{aside.ID.Ref()}),
			Why: "The stick goes back to the shop; its test waits for the new one", Until: dossier.Date(b.clock.now.AddDate(0, 0, 40).Format(time.DateOnly))}, service.Request{})
		return err
	})
	b.plan(code, b.sourceOf(code, path))
	b.wait(9 * 24 * time.Hour)
	var handover wire.Handover
	b.do("draft handover", func() (err error) {
		handover, err = b.s.DraftHandover(b.ctx, petri, code, wire.NewHandover{To: "maarit",
			Note: "Do not touch the repeater in the bedroom: it took a day to find its place. Bring a long cable for the stairwell."}, service.Request{})
		return err
	})
	b.do("offer handover", func() error {
		_, err := b.s.StepHandover(b.ctx, petri, code, handover.Record.ID, "offer", wire.HandoverStep{}, service.Request{})
		return err
	})
}

// stutters plays a film on the lamp room screen while the air to it is bad.
func (b *builder) stutters(octet byte) (out wire.NewAttempt) {
	b.do("watch a film stutter", func() error {
		bad := func(state string) error {
			_, err := layout.Ask(b.ctx, octet, http.MethodPut, "/faults/slow-station/"+state, nil)
			return err
		}
		if err := bad("on"); err != nil {
			return err
		}
		seen, err := layout.Send(b.ctx, octet, layout.Errand{Test: "plays", Screen: layout.ScreenName, Folder: "Films", Title: "A Winter of Oil Lamps"})
		out = judged(seen)
		return errors.Join(err, bad("off"))
	})
	return out
}
