package homes

import (
	"fmt"
	"maps"
	"net/netip"
	"reflect"

	"pgregory.net/rapid"

	"kaiku/core/dossier"
)

// SoundHome is a home without faults, with the ids of what every such home has: a router on an
// internet line, a switch, an access point, a server with a source and a folder; a screen on
// radio that finds the server by multicast, and a wired player in another room with its address
// typed in.
type SoundHome struct {
	*dossier.Dossier
	Home                      dossier.ID[dossier.Segment]
	Line                      dossier.ID[dossier.Line]
	Router, Switch, AP        dossier.ID[dossier.Device]
	Server, Screen, Player    dossier.ID[dossier.Device]
	ServerPort, ScreenPort    dossier.ID[dossier.Interface]
	PlayerPort, APPort, Radio dossier.ID[dossier.Interface]
	ServerLink                dossier.ID[dossier.Link]
	Source                    dossier.ID[dossier.Source]
	Folder                    dossier.ID[dossier.Folder]
	ScreenPath, PlayerPath    dossier.ID[dossier.Path]
	Software                  dossier.ID[dossier.Software]
	Evening                   dossier.ID[dossier.BusySet]
	SettingsCopy              dossier.ID[dossier.SettingsCopy]
	Opening                   dossier.ID[dossier.Opening]
	t                         *rapid.T
	made                      map[string]int
	hosts, ports, hardware    int
}

// Sound draws a home without faults: nothing computed of it is a blocker, a warning or advice.
func Sound(t *rapid.T) *SoundHome {
	h := &SoundHome{Dossier: &dossier.Dossier{}, t: t, made: map[string]int{}, hosts: 99}
	begin(h.Dossier)
	for n := range rapid.IntRange(2, 6).Draw(t, "rooms") {
		Put(h, dossier.Room{Name: fmt.Sprint("room ", n), Floor: n / 2, Order: n})
	}
	h.network()
	h.server()
	h.screens()
	Put(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: RoomID(0), Need: dossier.Needed})
	if rapid.Bool().Draw(t, "outside viewing") {
		Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
	}
	stampAll(h.Dossier)
	return h
}

// Copy returns the home again, to be changed without the first.
func (h *SoundHome) Copy() *SoundHome {
	c := *h
	c.Dossier, c.made = h.Clone(), maps.Clone(h.made)
	return &c
}

// Put adds a record with the next id of its kind and returns that.
func Put[T dossier.Record](h *SoundHome, r T) dossier.ID[T] {
	k := kindOf[T]()
	id := ID[T](h.made[k.Name])
	h.made[k.Name]++
	dossier.SetID(&r, string(id))
	k.In(h.Dossier).PutAny(&r)
	return id
}

// Set changes one record.
func Set[T dossier.Record](h *SoundHome, id dossier.ID[T], change func(*T)) {
	k := kindOf[T]()
	r, ok := k.In(h.Dossier).Lookup(string(id))
	if !ok {
		panic("no " + k.Name + " " + string(id))
	}
	changed := r.(T)
	change(&changed)
	k.In(h.Dossier).PutAny(&changed)
}

// Address returns an address of the home segment.
func (h *SoundHome) Address(host int) netip.Addr {
	return netip.AddrFrom4([4]byte{10, 20, 4, byte(host)})
}

func (h *SoundHome) mac() dossier.HardwareAddr {
	h.hardware++
	return dossier.HardwareAddr(fmt.Sprintf("02:4b:49:00:%02x:%02x", h.hardware/256, h.hardware%256))
}

func (h *SoundHome) network() {
	h.Router = Put(h, dossier.Device{Name: "router", Room: RoomID(0), Roles: []dossier.Role{dossier.RoleRouter}})
	h.Switch = Put(h, dossier.Device{Name: "switch", Room: RoomID(0), Roles: []dossier.Role{dossier.RoleSwitch}})
	h.AP = Put(h, dossier.Device{Name: "access point", Room: RoomID(1), Roles: []dossier.Role{dossier.RoleAccessPoint}})
	outside := netip.MustParseAddr("203.0.113.9")
	Put(h, dossier.Interface{Device: h.Router, Name: "wan", Facing: dossier.FacingOutside, Medium: dossier.OnCable, Addresses: []netip.Addr{outside}})
	l := dossier.Line{Name: "line", Kind: dossier.LineFibre, Router: h.Router, OuterAddress: outside, SeenAddress: outside}
	if rapid.Bool().Draw(h.t, "IPv6") {
		l.OuterPrefix = netip.MustParsePrefix("2001:db8:40::/56")
	}
	h.Line = Put(h, l)
	for n := range rapid.IntRange(1, 3).Draw(h.t, "segments") {
		at := func(host byte) netip.Addr { return netip.AddrFrom4([4]byte{10, 20, byte(4 + n), host}) }
		s := dossier.Segment{Name: fmt.Sprint("segment ", n), Prefix: netip.PrefixFrom(at(0), 24), VLAN: n * 10, Gateway: at(1), PoolFirst: at(100), PoolLast: at(199),
			DHCPServers: []dossier.ID[dossier.Device]{h.Router}, NameServers: []netip.Addr{at(1)}}
		if n > 0 {
			s.Isolation = rapid.SampledFrom([]dossier.Isolation{dossier.IsolationNone, dossier.IsolationGuestToHome, dossier.IsolationBoth}).Draw(h.t, "isolation")
		}
		if rapid.Bool().Draw(h.t, "snooping") {
			s.Snooping, s.Querier = dossier.Yes, dossier.Yes
		}
		id := Put(h, s)
		Put(h, dossier.Interface{Device: h.Router, Name: fmt.Sprint("lan", n), Facing: dossier.FacingHome, Medium: dossier.OnCable, PortMbps: 1000, HardwareAddress: h.mac(), Addresses: []netip.Addr{at(1)}, Segment: id, AddressBy: dossier.BySetting})
	}
	h.Home = ID[dossier.Segment](0)
	lan := ID[dossier.Interface](1)
	h.cable(lan, 1000)
	h.APPort = Put(h, dossier.Interface{Device: h.AP, Name: "wired", Medium: dossier.OnCable, PortMbps: 1000, HardwareAddress: h.mac(), Addresses: []netip.Addr{h.Address(2)}, Segment: h.Home, AddressBy: dossier.BySetting})
	h.cable(h.APPort, 1000)
	h.Radio = Put(h, dossier.Interface{Device: h.AP, Name: "radio", Medium: dossier.OnRadio, SSID: "Home", Band: dossier.Band5, Channel: 44})
}

// cable links an adapter to the next port of the switch.
func (h *SoundHome) cable(near dossier.ID[dossier.Interface], mbps float64) dossier.ID[dossier.Link] {
	h.ports++
	port := Put(h, dossier.Interface{Device: h.Switch, Name: fmt.Sprint("port ", h.ports), Medium: dossier.OnCable, PortMbps: 1000})
	return Put(h, dossier.Link{Near: near, Far: port, Kind: dossier.LinkCable, RateMbps: mbps})
}

func (h *SoundHome) server() {
	h.Server = Put(h, dossier.Device{Name: "server", Room: RoomID(0), Roles: []dossier.Role{dossier.RoleServer}, NetworkClass: dossier.ClassTrusted, SupplyWatts: 60, NeedsWatts: 40})
	hardware := h.mac()
	by := rapid.SampledFrom([]dossier.AddressBy{dossier.BySetting, dossier.ByReservation, dossier.ByLease}).Draw(h.t, "server's address by")
	if by != dossier.BySetting {
		Set(h, h.Home, func(s *dossier.Segment) {
			s.Reservations = append(s.Reservations, dossier.Reservation{HardwareAddress: hardware, Address: h.Address(10)})
		})
	}
	h.ServerPort = Put(h, dossier.Interface{Device: h.Server, Name: "eth0", Medium: dossier.OnCable, PortMbps: 1000, HardwareAddress: hardware, Addresses: []netip.Addr{h.Address(10)}, Segment: h.Home, AddressBy: by})
	h.ServerLink = h.cable(h.ServerPort, 1000)
	h.Source = Put(h, dossier.Source{Device: h.Server, Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: 40210, ShownName: "Granite", RateCapMbps: float64(rapid.SampledFrom([]int{0, 40}).Draw(h.t, "cap"))})
	items := rapid.IntRange(1, 900).Draw(h.t, "items")
	h.Folder = Put(h, dossier.Folder{Source: h.Source, Name: "Films", ContentKind: dossier.Film, ItemsOnDisk: items, ItemsInIndex: items, ReadableBy: []string{"media"},
		Mix: []dossier.FormatEntry{{Container: dossier.Matroska, Height: 1080, AverageMbps: 8, PeakMbps: 20}}})
	h.Software = Put(h, dossier.Software{Device: h.Server, Name: "Ahtola", Does: dossier.SoftwareServer, Starts: dossier.StartsWithMachine, RunsAs: "media", EndsOn: "2027-01-01"})
	h.SettingsCopy = Put(h, dossier.SettingsCopy{Device: h.Server, TakenAt: Day, Holds: dossier.CopySettings, Where: "office"})
	h.Opening = Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 40210, Direction: dossier.Inward, State: dossier.OpeningOpen})
	Put(h, dossier.Opening{Device: h.Server, Transport: dossier.UDP, Port: 1900, Direction: dossier.Inward, State: dossier.OpeningOpen})
}

func (h *SoundHome) screens() {
	h.Screen, h.ScreenPort, h.ScreenPath = h.device("screen", 1, dossier.RoleScreen, dossier.OnRadio, dossier.ByMulticast)
	h.Player, h.PlayerPort, h.PlayerPath = h.device("player", 0, dossier.RolePlayer, dossier.OnCable, dossier.ByTypedAddress)
	h.Evening = Put(h, dossier.BusySet{Name: "evening", Paths: []dossier.ID[dossier.Path]{h.ScreenPath, h.PlayerPath}})
	for n := range rapid.IntRange(0, 5).Draw(h.t, "more devices") {
		h.device(fmt.Sprint("device ", n), rapid.IntRange(0, len(h.Rooms)-1).Draw(h.t, "room"), rapid.SampledFrom([]dossier.Role{dossier.RolePlayer, dossier.RoleRenderer, dossier.RoleScreen}).Draw(h.t, "role"),
			rapid.SampledFrom([]dossier.Medium{dossier.OnRadio, dossier.OnCable}).Draw(h.t, "medium"), rapid.SampledFrom([]dossier.FoundBy{dossier.ByMulticast, dossier.ByTypedAddress, dossier.ByName}).Draw(h.t, "found by"))
	}
}

// device adds a device by lease with one adapter and one path to the server's films.
func (h *SoundHome) device(name string, room int, role dossier.Role, on dossier.Medium, by dossier.FoundBy) (dossier.ID[dossier.Device], dossier.ID[dossier.Interface], dossier.ID[dossier.Path]) {
	h.hosts++
	d := Put(h, dossier.Device{Name: name, Room: RoomID(room), Roles: []dossier.Role{role}, SendsWake: dossier.Yes})
	rate := rapid.SampledFrom([]float64{100, 1000}).Draw(h.t, "port rate")
	i := Put(h, dossier.Interface{Device: d, Name: "adapter", Medium: on, PortMbps: rate, HardwareAddress: h.mac(), Addresses: []netip.Addr{h.Address(h.hosts)}, Segment: h.Home, AddressBy: dossier.ByLease})
	if on == dossier.OnCable {
		outlet := Put(h, dossier.Outlet{Room: RoomID(room), Name: name, TestedMbps: 1000})
		Set(h, h.cable(i, rate), func(l *dossier.Link) { l.Outlet = outlet })
	} else {
		Put(h, dossier.Link{Near: i, Far: h.Radio, Kind: dossier.LinkRadio, RateMbps: 400})
		Put(h, dossier.Reading{What: dossier.SignalDbm, Value: -55, Subject: d.Ref(), How: dossier.KnownRead, At: Day})
	}
	end := dossier.End{Address: h.Address(10), Port: 40210}
	p := Put(h, dossier.Path{Name: name + " films", Device: d, Source: h.Source, Folders: []dossier.ID[dossier.Folder]{h.Folder}, Kind: dossier.AVPull, FoundBy: by, ServerEnd: end, DeviceEnd: end})
	return d, i, p
}

// Furnished draws a sound home with a record of every kind that proofs can stand on: accounts and
// their secrets, settings, what servers know of devices, a display chain, a second path as
// fall-back, a control point, files on another machine, hours, a stream from a second source.
func Furnished(t *rapid.T) *SoundHome {
	h := Sound(t)
	secret := Put(h, dossier.Secret{Name: "share password", Kind: dossier.SecretPassword, SealedAs: "a", SealedAt: Day})
	Put(h, dossier.Secret{Name: "Wi-Fi", Kind: dossier.SecretPassword, Segment: h.Home, SealedAs: "b", SealedAt: Day})
	account := Put(h, dossier.Account{Name: "household", Login: "keeper", Secret: secret, SignedIn: []dossier.ID[dossier.Device]{h.Screen}})
	for _, subject := range []dossier.Ref{h.Server.Ref(), h.Screen.Ref(), h.Router.Ref(), h.Switch.Ref(), h.Software.Ref()} {
		Put(h, dossier.Setting{Subject: subject, Name: "Sleep after", Value: "never"})
	}
	Put(h, dossier.RegisterEntry{Device: h.Screen, Server: h.Server, RecognisedAs: "screen", Admission: dossier.LetIn})
	bar := Put(h, dossier.Device{Name: "sound bar", Room: RoomID(1), Roles: []dossier.Role{dossier.RoleReceiver}})
	Put(h, dossier.ChainLink{From: h.Screen, To: bar, Input: "2"})
	Put(h, dossier.Software{Device: h.Screen, Name: "player", Does: dossier.SoftwarePlayer, Version: "1"})
	phone := Put(h, dossier.Device{Name: "telephone", Carried: true, Roles: []dossier.Role{dossier.RoleControlPoint}})
	Put(h, dossier.Interface{Device: phone, Name: "wireless", Medium: dossier.OnRadio, Segment: h.Home, Addresses: []netip.Addr{h.Address(60)}})
	store := Put(h, dossier.Device{Name: "file store", Room: RoomID(0), Roles: []dossier.Role{dossier.RoleStorage}})
	Put(h, dossier.Interface{Device: store, Name: "eth0", Medium: dossier.OnCable, Segment: h.Home, Addresses: []netip.Addr{h.Address(61)}})
	series := Put(h, dossier.Folder{Source: h.Source, Name: "Series", ContentKind: dossier.Series, ItemsOnDisk: 9, ItemsInIndex: 9, ReadableBy: []string{"media"}, LiesOn: store})
	share := Put(h, dossier.Source{Device: h.Server, Name: "share", Protocol: dossier.ProtocolSMB, Port: 445, Account: account, Locator: "/films"})
	Put(h, dossier.Folder{Source: share, Name: "Films", ContentKind: dossier.Film, ItemsOnDisk: 4, ItemsInIndex: 4, ReadableBy: []string{"media"}})
	second := Put(h, dossier.Path{Name: "screen share", Device: h.Screen, Source: share, Kind: dossier.Share, FoundBy: dossier.ByName, Account: account})
	Set(h, h.ScreenPath, func(p *dossier.Path) {
		p.Folders, p.FallBack, p.ControlPoint, p.Marks = append(p.Folders, series), second, phone, dossier.MarksAtServer
	})
	Set(h, h.Server, func(v *dossier.Device) { v.Standby, v.Wake = dossier.Yes, dossier.WakePacket })
	Put(h, dossier.Source{Device: store, Name: "radio", Protocol: dossier.ProtocolUPnPAV, Port: 40211, ShownName: "Store"})
	Put(h, dossier.Restriction{Name: "late", Device: h.Screen, From: "22:00", Until: "06:00"})
	Put(h, dossier.DHCPServer{Device: h.Router, Segment: h.Home})
	Put(h, dossier.Opening{Device: h.Screen, Transport: dossier.UDP, Port: 50000, Direction: dossier.Inward, State: dossier.OpeningOpen})
	Put(h, dossier.Wish{What: dossier.WishResumeAcrossRooms})
	Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
	Put(h, dossier.Issue{Symptom: "hum", State: dossier.IssueOpen, OpenedAt: Day})
	Put(h, dossier.Change{Device: h.Server, What: "moved", At: Day, Effect: dossier.EffectNone})
	Put(h, dossier.Visit{Purpose: "prove", Technician: Person, Starts: Day})
	Put(h, dossier.Due{What: "trial", Kind: dossier.DueTrial, On: "2026-09-01"})
	stampAll(h.Dossier)
	return h
}

// Redraw gives one member of a record another value of those it can have, and reports whether it
// is another. Members that never change, and those of attempts, waivers and handovers, are left.
func Redraw(t *rapid.T, d *dossier.Dossier, ref dossier.Ref, f dossier.Field) bool {
	k, r, ok := d.Record(ref)
	if !ok || f.Rule == dossier.Fixed || f.Rule == dossier.Server {
		return false
	}
	p := reflect.New(k.Type)
	p.Elem().Set(reflect.ValueOf(r))
	one := reflect.New(f.Type).Elem()
	if f.Required || rapid.IntRange(0, 4).Draw(t, "empty") > 0 {
		artist{t, d, false}.value(f, one)
	}
	if f.Refers == "any" && one.IsZero() && f.Required {
		return false
	}
	f.In(p).Set(one)
	before := r
	k.In(d).PutAny(p.Interface())
	after, _ := k.In(d).Lookup(ref.ID)
	return !reflect.DeepEqual(f.Get(before), f.Get(after))
}
