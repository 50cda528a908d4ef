package matching_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/netip"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
)

const segment = dossier.ID[dossier.Segment]("01890000-0003-7000-8000-000000000000")

// seen is a device as it is in truth, for tests.
type seen struct {
	name, hostName, make, model, serial, udn, source string
	hardware                                         dossier.HardwareAddr
	at                                               netip.Addr
	port                                             int
	shown                                            string
}

// host is what the network says of the device; without names the members that stay unsaid.
func (s seen) host(without ...string) matching.Host {
	h := matching.NewHost(segment, s.at)
	say := func(n int, member string, value any) {
		if !slices.Contains(without, member) {
			h.Say(n, member, value, matching.ByUPnP)
		}
	}
	say(0, "name", s.shown)
	say(0, "hostName", s.hostName)
	say(0, "make", s.make)
	say(0, "model", s.model)
	say(0, "serial", s.serial)
	say(1, "hardwareAddress", s.hardware)
	if s.source != "" {
		n := h.Add("source", 0)
		say(n, "protocol", dossier.Protocol(s.source))
		say(n, "port", s.port)
		say(n, "shownName", s.shown)
		say(n, "udn", s.udn)
	} else {
		say(0, "udn", s.udn)
	}
	return h
}

// record puts the device into d; without names the members that nobody wrote down.
func (s seen) record(d *dossier.Dossier, n int, without ...string) dossier.ID[dossier.Device] {
	v := dossier.Device{Name: s.name, Make: s.make, Model: s.model, Serial: s.serial, HostName: s.hostName, UDN: s.udn}
	v.ID = homes.ID[dossier.Device](n)
	i := dossier.Interface{Device: v.ID, Name: "wired", HardwareAddress: s.hardware, Addresses: []netip.Addr{s.at}, Segment: segment}
	i.ID = homes.ID[dossier.Interface](n)
	source := dossier.Source{Device: v.ID, Name: "media", Protocol: dossier.Protocol(s.source), Port: s.port, ShownName: s.shown, UDN: s.udn}
	source.ID = homes.ID[dossier.Source](n)
	for _, w := range without {
		switch w {
		case "make":
			v.Make = ""
		case "model":
			v.Model = ""
		case "serial":
			v.Serial = ""
		case "hostName":
			v.HostName = ""
		case "udn":
			v.UDN, source.UDN = "", ""
		case "hardwareAddress":
			i.HardwareAddress = ""
		}
	}
	if s.source != "" {
		v.UDN = ""
		d.Sources.Put(source)
	}
	d.Devices.Put(v)
	d.Interfaces.Put(i)
	return v.ID
}

func home() *dossier.Dossier {
	d := &dossier.Dossier{}
	s := dossier.Segment{Name: "home", Prefix: netip.MustParsePrefix("10.20.4.0/24")}
	s.ID = segment
	d.Segments.Put(s)
	return d
}

func cellar() seen {
	return seen{name: "granite server", hostName: "granite", make: "Tuulkivi", model: "TK-4 Cellar", serial: "TK4-00317", udn: "uuid:10", source: "upnp-av",
		hardware: "02:4b:49:00:01:10", at: netip.MustParseAddr("10.20.4.10"), port: 40210, shown: "Granite"}
}

func TestOnlySomethingUniqueIsSure(t *testing.T) {
	for _, c := range []struct {
		name   string
		alter  func(*seen)
		unsaid []string
		class  matching.Class
	}{
		{"all agrees", func(*seen) {}, nil, matching.Sure},
		{"renumbered, renamed, but of the same hardware address", func(s *seen) {
			s.at, s.hostName, s.shown, s.udn, s.serial = netip.MustParseAddr("10.20.4.77"), "other", "Other", "", ""
		}, nil, matching.Sure},
		{"known by its UDN alone", func(s *seen) { s.at, s.hostName, s.hardware = netip.MustParseAddr("10.20.4.77"), "other", "" }, []string{"serial", "model"}, matching.Sure},
		{"address, name, model and source, nothing unique", func(s *seen) {}, []string{"hardwareAddress", "udn", "serial"}, matching.Likely},
		{"the same model put in its place", func(s *seen) { s.hardware, s.udn, s.serial = "02:4b:49:00:09:99", "uuid:99", "TK4-00999" }, nil, matching.Likely},
		{"another model with its name and address", func(s *seen) { s.model = "TK-9 Vault" }, []string{"hardwareAddress", "udn", "serial"}, matching.None},
		{"its hardware address in another model", func(s *seen) { s.model = "TK-9 Vault" }, []string{"udn", "serial"}, matching.Likely},
		{"an address alone", func(*seen) {}, []string{"hardwareAddress", "udn", "serial", "model", "hostName", "shownName", "name", "port", "protocol"}, matching.None},
		{"a label says more than the announcement", func(s *seen) { s.model = "TK-4" }, nil, matching.Sure},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := home()
			id := cellar().record(d, 1)
			now := cellar()
			c.alter(&now)
			m := matching.MatchHosts(d, []matching.Host{now.host(c.unsaid...)})[0]
			assert.Equal(t, c.class, m.Class, "%+v", m.Candidates)
			if c.class == matching.Sure {
				assert.Equal(t, id, m.Device)
				assert.NotEmpty(t, m.Reasons)
			}
		})
	}
}

func TestTwoHostsAreOneDeviceOnlyByTwoAdapters(t *testing.T) {
	d := home()
	id := cellar().record(d, 1)
	second := dossier.Interface{Device: id, Name: "second", HardwareAddress: "02:4b:49:00:01:11", Segment: segment}
	second.ID = homes.ID[dossier.Interface](2)
	d.Interfaces.Put(second)
	other := seen{hardware: "02:4b:49:00:01:11", at: netip.MustParseAddr("10.20.4.11")}
	m := matching.MatchHosts(d, []matching.Host{cellar().host(), other.host()})
	assert.Equal(t, matching.Sure, m[0].Class)
	assert.Equal(t, matching.Sure, m[1].Class)
	assert.Equal(t, id, m[1].Device)

	twin := cellar()
	twin.at, twin.hardware = netip.MustParseAddr("10.20.4.12"), "02:4b:49:00:01:12"
	m = matching.MatchHosts(d, []matching.Host{cellar().host("hardwareAddress"), twin.host("hardwareAddress")})
	for _, one := range m {
		assert.NotEqual(t, matching.Sure, one.Class, "two devices with one UDN")
	}
}

func TestARandomHardwareAddressProvesNothing(t *testing.T) {
	d := home()
	cellar().record(d, 1)
	i := d.Interfaces[0]
	i.Randomised = dossier.Yes
	d.Interfaces.Put(i)
	m := matching.MatchHosts(d, []matching.Host{cellar().host("udn", "serial")})
	assert.Equal(t, matching.Likely, m[0].Class)
}

// TestNoFalseMergeInAThousandHomes draws homes, changes them as homes change, and holds what is
// sure against the truth.
func TestNoFalseMergeInAThousandHomes(t *testing.T) {
	members := []string{"hardwareAddress", "udn", "serial", "model", "make", "hostName", "shownName", "name"}
	var hosts, sure, shown, wrong int
	for n := range 1000 {
		r := rand.New(rand.NewPCG(uint64(n), 7))
		some := func(p float64) []string {
			var out []string
			for _, m := range members {
				if r.Float64() < p {
					out = append(out, m)
				}
			}
			return out
		}
		make := func(serial int) seen {
			model := fmt.Sprintf("M-%d", r.IntN(4))
			s := seen{name: fmt.Sprintf("device %d", serial), make: "Norrvik", model: model, serial: fmt.Sprintf("S%d-%d", n, serial), udn: fmt.Sprintf("uuid:%d-%d", n, serial),
				hardware: dossier.HardwareAddr(fmt.Sprintf("02:4b:%02x:%02x:00:%02x", n>>8, n&255, serial)), at: netip.AddrFrom4([4]byte{10, 20, 4, byte(10 + serial)}),
				hostName: strings.ToLower(model), shown: model, port: 40210} // many keep the names they were delivered with
			if r.IntN(2) == 0 {
				s.hostName, s.shown = fmt.Sprintf("host-%d", serial), fmt.Sprintf("Shown %d", serial)
			}
			if r.IntN(2) == 0 {
				s.source = "upnp-av"
			}
			return s
		}
		d := home()
		var list []matching.Host
		truth := []dossier.ID[dossier.Device]{}
		for serial := range 3 + r.IntN(20) {
			v := make(serial)
			id := v.record(d, serial, some(0.3)...)
			switch r.IntN(8) {
			case 0: // renumbered
				v.at = netip.AddrFrom4([4]byte{10, 20, 4, byte(100 + serial)})
			case 1: // renamed
				v.hostName, v.shown = "new-name", "New name"
			case 2: // two have changed their addresses
				v.at = netip.AddrFrom4([4]byte{10, 20, 4, byte(10 + (serial+1)%20)})
			case 3: // replaced, often by the same model with the same names and address
				other := make(serial + 100)
				other.at = v.at
				if r.IntN(2) == 0 {
					other.model, other.hostName, other.shown = v.model, v.hostName, v.shown
				}
				v, id = other, ""
			case 4: // switched off
				continue
			case 5: // a new one beside it
				list = append(list, make(serial+50).host(some(0.3)...))
				truth = append(truth, "")
			}
			list = append(list, v.host(some(0.3)...))
			truth = append(truth, id)
		}
		for i, m := range matching.MatchHosts(d, list) {
			hosts++
			if m.Class == matching.Sure {
				sure++
				if m.Device != truth[i] {
					wrong++
					t.Errorf("home %d: %v was taken for %s: %+v", n, list[i].Address, d.Label(m.Device.Ref()), m.Reasons)
				}
			}
			if truth[i] != "" && slices.ContainsFunc(m.Candidates, func(c matching.Candidate) bool { return c.Device == truth[i] }) {
				shown++
			}
		}
	}
	assert.Zero(t, wrong, "false merges")
	assert.Greater(t, sure*2, hosts, "more than half are known without asking")
	t.Logf("%d hosts: %d sure, %d shown with the right device, %d false merges", hosts, sure, shown, wrong)
}

func look(hosts ...matching.Host) matching.Scan {
	return matching.Scan{Segments: []matching.CoveredSegment{{Segment: segment}}, Hosts: hosts, Ended: homes.Day}
}

func difference(t *testing.T, b matching.Beside, kind, member string) matching.Difference {
	for _, d := range b.Differences {
		if d.Kind == kind && d.Member == member {
			return d
		}
	}
	require.Failf(t, "no such difference", "%s.%s in %+v", kind, member, b.Differences)
	return matching.Difference{}
}

func ids() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("01890000-ffff-7000-8000-%012x", n) }
}

func every(matching.Difference) bool { return true }

func TestWhatIsSeenStandsBesideTheRecord(t *testing.T) {
	d := home()
	id := cellar().record(d, 1, "model", "serial")
	now := cellar()
	now.at, now.shown = netip.MustParseAddr("10.20.4.12"), "Granite two"
	all := matching.Compare(d, look(now.host()), matching.Scan{}, nil)
	require.Len(t, all, 1)
	b := all[0]
	assert.Equal(t, matching.Changed, b.Status)
	assert.Equal(t, id, b.Device)
	assert.Equal(t, matching.New, difference(t, b, "device", "model").Relation)
	address := difference(t, b, "interface", "addresses")
	assert.Equal(t, matching.Differs, address.Relation)
	assert.Equal(t, []netip.Addr{now.at}, address.After)
	assert.True(t, difference(t, b, "source", "shownName").Certain)
	assert.Equal(t, matching.Same, difference(t, b, "device", "name").Relation, "a name that people gave stays")

	matching.Take(d, b, func(x matching.Difference) bool { return x.Certain }, ids())
	v, _ := d.Devices.Get(id)
	assert.Equal(t, "granite server", v.Name)
	assert.Equal(t, "TK-4 Cellar", v.Model)
	assert.Equal(t, "Granite two", d.Sources[0].ShownName)
	assert.Len(t, d.Devices, 1)
	again := matching.Compare(d, look(now.host()), matching.Scan{}, nil)
	for _, x := range again[0].Differences {
		assert.True(t, x.Relation == matching.Same || !x.Certain, "%+v", x)
	}
}

func TestANewHostBecomesADeviceWithAllThatBelongsToIt(t *testing.T) {
	d := home()
	h := cellar().host()
	folder := h.Add("folder", 2)
	h.Say(folder, "name", "Films", matching.ByUPnP)
	h.Say(folder, "contentKind", dossier.Film, matching.ByUPnP)
	h.Say(folder, "itemsInIndex", 3, matching.ByUPnP)
	twin := cellar()
	twin.at, twin.hardware, twin.udn, twin.serial, twin.hostName = netip.MustParseAddr("10.20.4.11"), "02:4b:49:00:01:11", "uuid:11", "x", "two"
	newID := ids()
	for _, b := range matching.Compare(d, look(h, twin.host()), matching.Scan{}, nil) {
		assert.Equal(t, matching.Unknown, b.Status)
		assert.NotEmpty(t, matching.Take(d, b, every, newID))
	}
	require.NoError(t, dossier.Apply(d, nil))
	require.Len(t, d.Devices, 2)
	assert.Equal(t, "Granite", d.Devices[0].Name)
	assert.Equal(t, "Granite 2", d.Devices[1].Name, "a name is not given twice")
	assert.Equal(t, d.Devices[0].ID, d.Sources[0].Device)
	assert.Equal(t, d.Sources[0].ID, d.Folders[0].Source)
	assert.Equal(t, 3, d.Folders[0].ItemsInIndex)
	for _, b := range matching.Compare(d, look(h, twin.host()), matching.Scan{}, nil) {
		assert.Equal(t, matching.AsRecorded, b.Status, "%+v", b.Differences)
	}
}

func TestWhatIsUnsureIsNotTakenUntilSomebodySays(t *testing.T) {
	d := home()
	id := cellar().record(d, 1, "udn", "hardwareAddress", "serial")
	h := cellar().host()
	b := matching.Compare(d, look(h), matching.Scan{}, nil)[0]
	assert.Equal(t, matching.Unsure, b.Status)
	for _, x := range b.Differences {
		assert.False(t, x.Certain)
	}
	b = matching.Compare(d, look(h), matching.Scan{}, matching.Choice{b.Key: id})[0]
	assert.Equal(t, matching.Changed, b.Status)
	b = matching.Compare(d, look(h), matching.Scan{}, matching.Choice{b.Key: ""})[0]
	assert.Equal(t, matching.Unknown, b.Status)
}

func TestNewGoneAndChangedSinceTheLookBefore(t *testing.T) {
	d := home()
	id := cellar().record(d, 1)
	cellar := cellar()
	phone := seen{udn: "uuid:31", at: netip.MustParseAddr("10.20.4.31"), shown: "phone"}
	frame := seen{udn: "uuid:24", at: netip.MustParseAddr("10.20.4.24"), shown: "frame"}
	moved := frame
	moved.shown = "photo frame"
	all := matching.Compare(d, look(moved.host(), phone.host()), look(cellar.host(), frame.host()), nil)
	by := map[string]matching.Beside{}
	for _, b := range all {
		by[b.Host.Address.String()] = b
	}
	require.Len(t, by, 3)
	assert.Equal(t, matching.SinceChanged, by["10.20.4.24"].Since)
	assert.Equal(t, []matching.Change{{Kind: "device", Label: "frame", Member: "name", Was: "frame", Is: "photo frame"}}, by["10.20.4.24"].Changes)
	assert.Equal(t, matching.SinceNew, by["10.20.4.31"].Since)
	assert.Equal(t, matching.NotSeen, by["10.20.4.10"].Status)
	assert.Equal(t, matching.SinceGone, by["10.20.4.10"].Since)
	assert.Equal(t, id, by["10.20.4.10"].Device)

	// Of one that could not be asked nothing is said, whether it is recorded or not.
	unasked := look()
	unasked.Unasked = []netip.Addr{netip.MustParseAddr("10.20.4.10"), netip.MustParseAddr("10.20.4.24")}
	assert.Empty(t, matching.Compare(d, unasked, look(cellar.host(), frame.host()), nil))
	elsewhere := matching.Compare(d, matching.Scan{}, look(cellar.host()), nil)
	assert.Empty(t, elsewhere, "of a segment that was not looked at nothing is said")
}

// What a host says is the same in whatever order it came.
func TestTheOrderOfAnswersIsNoChange(t *testing.T) {
	build := func(order []int) matching.Host {
		h := cellar().host()
		h.Say(h.Add("source", 0), "protocol", dossier.ProtocolSMB, matching.BySMB)
		for _, n := range order {
			h.Say(h.Add("folder", 2+n%2), "name", fmt.Sprint("folder ", n), matching.BySMB)
		}
		h.Answers = append(h.Answers, matching.Question{Way: matching.BySMB, Ended: matching.Answered})
		h.Settle()
		return h
	}
	want := build([]int{0, 1, 2, 3, 4})
	for _, order := range [][]int{{4, 3, 2, 1, 0}, {2, 0, 4, 1, 3}} {
		got := build(order)
		assert.Equal(t, want, got)
		assert.Empty(t, got.Since(want))
	}
	assert.Equal(t, "folder", want.Seen[4].Kind)
	assert.Equal(t, 2, want.Seen[4].Of)
	assert.Len(t, build([]int{0}).Since(build([]int{0, 1})), 1, "a folder is gone")
	for _, ended := range []matching.Ended{matching.Silent, matching.Refused, matching.Broken, matching.Denied, matching.Stopped, matching.NotAsked} {
		hangs := build([]int{0})
		hangs.Answers = []matching.Question{{Way: matching.BySMB, Ended: ended}}
		assert.Empty(t, hangs.Since(build([]int{0, 1})), "a share that ends in %s has not lost its folders", ended)
		assert.Empty(t, build([]int{0, 1}).Since(hangs), "and when it answers again, they have not appeared")
	}
}

// A machine with two adapters is one device with two, whether it is recorded or not; a clone of it, and two
// of one model, are two.
func TestOneMachineIsOneDevice(t *testing.T) {
	second := cellar()
	second.at, second.hardware = netip.MustParseAddr("10.20.4.11"), "02:4b:49:00:00:11"
	joined := matching.Join([]matching.Host{cellar().host(), second.host()})
	require.Len(t, joined, 1)
	assert.Equal(t, []netip.Addr{netip.MustParseAddr("10.20.4.11")}, joined[0].Also)
	adapters, sources := 0, 0
	for _, s := range joined[0].Seen {
		switch s.Kind {
		case "interface":
			adapters++
		case "source":
			sources++
		}
	}
	assert.Equal(t, 2, adapters)
	assert.Equal(t, 1, sources, "what both addresses serve is one source")

	behind := func(at string) matching.Host {
		return seen{at: netip.MustParseAddr(at), hardware: "02:4b:49:00:00:40"}.host()
	}
	assert.Len(t, matching.Join([]matching.Host{behind("10.20.4.40"), behind("10.20.4.41")}), 2, "a repeater may stand for all that hangs on it")

	alias := cellar()
	alias.at = netip.MustParseAddr("10.20.4.12")
	joined = matching.Join([]matching.Host{cellar().host(), alias.host()})
	require.Len(t, joined, 1)
	assert.Len(t, joined[0].Seen[1].Members["addresses"], 2, "one adapter with two addresses")

	bare := func(s seen) seen { s.serial, s.hostName, s.hardware = "", "", ""; return s }
	assert.Len(t, matching.Join([]matching.Host{bare(cellar()).host(), bare(second).host()}), 2, "a UDN alone may be one of a whole series")

	clone := second
	clone.serial = "TK4-77777"
	assert.Len(t, matching.Join([]matching.Host{cellar().host(), clone.host()}), 2, "a cloned disk is another machine")
	twin := second
	twin.serial, twin.udn, twin.hostName = "", "uuid:77", ""
	assert.Len(t, matching.Join([]matching.Host{cellar().host(), twin.host()}), 2, "two of one model are two")

	d := home()
	all := matching.Compare(d, look(cellar().host(), second.host()), matching.Scan{}, nil)
	require.Len(t, all, 1)
	n := 0
	matching.Take(d, all[0], func(matching.Difference) bool { return true }, func() string { n++; return fmt.Sprintf("01890000-ffff-7000-8000-%012d", n) })
	require.Len(t, d.Devices, 1)
	assert.Len(t, d.InterfacesOf(d.Devices[0].ID), 2)
	again := matching.Compare(d, look(cellar().host(), second.host()), matching.Scan{}, nil)
	require.Len(t, again, 1)
	assert.Equal(t, matching.AsRecorded, again[0].Status, "%v", again[0].Differences)
}

// One of the same model at the address of a recorded one, with other unique names, may be a replacement: it is
// neither new nor the same without a word, and the old one is not silent.
func TestAReplacedDeviceIsAskedAbout(t *testing.T) {
	d := home()
	id := cellar().record(d, 1)
	other := cellar()
	other.hardware, other.udn, other.serial = "02:4b:49:00:09:99", "uuid:99", "TK4-00999"
	all := matching.Compare(d, look(other.host()), matching.Scan{}, nil)
	require.Len(t, all, 1, "the old one is not told silent")
	assert.Equal(t, matching.Unsure, all[0].Status)
	require.Len(t, all[0].Match.Candidates, 1)
	assert.Equal(t, id, all[0].Match.Candidates[0].Device)
	assert.True(t, slices.ContainsFunc(all[0].Match.Candidates[0].Reasons, func(r matching.Reason) bool { return r.What == matching.Replaced }))
	for _, x := range all[0].Differences {
		assert.False(t, x.Certain, "nothing is recorded before somebody said")
	}
}

func TestDeclaredDecodingGivesWayToProof(t *testing.T) {
	d := home()
	v := seen{name: "screen", udn: "uuid:21", at: netip.MustParseAddr("10.20.4.21")}
	id := v.record(d, 1)
	p := dossier.Decoding{Device: id, Entries: []dossier.DecodingEntry{
		{Part: dossier.PartVideo, Format: "hevc", Able: dossier.No, Evidence: dossier.EvidenceProven},
		{Part: dossier.PartContainer, Format: "mp4", Able: dossier.No, Limits: "to 4 GiB", Evidence: dossier.EvidenceDataSheet}}}
	p.ID = homes.ID[dossier.Decoding](1)
	d.Decodings.Put(p)
	h := v.host()
	n := h.Add("decoding", 0)
	yes := func(part dossier.FormatPart, format dossier.FormatTerm) dossier.DecodingEntry {
		return dossier.DecodingEntry{Part: part, Format: format, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}
	}
	h.Say(n, "entries", []dossier.DecodingEntry{yes(dossier.PartVideo, "hevc"), yes(dossier.PartContainer, "mp4"), yes(dossier.PartSound, "mp3")}, matching.ByUPnP)
	x := difference(t, matching.Compare(d, look(h), matching.Scan{}, nil)[0], "decoding", "entries")
	assert.False(t, x.Certain)
	after := x.After.([]dossier.DecodingEntry)
	require.Len(t, after, 3)
	assert.Equal(t, p.Entries[0], after[0], "a proof stays")
	assert.Equal(t, dossier.DecodingEntry{Part: dossier.PartContainer, Format: "mp4", Able: dossier.Yes, Limits: "to 4 GiB", Evidence: dossier.EvidenceDeclared}, after[1])
}

func TestAGatheringFromElsewhereIsChecked(t *testing.T) {
	d := home()
	good := look(cellar().host())
	b, err := json.Marshal(good)
	require.NoError(t, err)
	var read matching.Scan
	require.NoError(t, json.Unmarshal(b, &read))
	require.NoError(t, read.Check(d))
	assert.Equal(t, good.Hosts[0].Seen, read.Hosts[0].Seen, "values have their types again")
	for name, spoil := range map[string]func(*matching.Scan){
		"unknown segment":     func(g *matching.Scan) { g.Segments[0].Segment = "x" },
		"outside":             func(g *matching.Scan) { g.Hosts[0].Address = netip.MustParseAddr("192.0.2.1") },
		"not looked at":       func(g *matching.Scan) { g.Segments = nil },
		"no device":           func(g *matching.Scan) { g.Hosts[0].Seen = nil },
		"unknown member":      func(g *matching.Scan) { g.Hosts[0].Seen[0].Members["colour"] = "red" },
		"server's own":        func(g *matching.Scan) { g.Hosts[0].Seen[0].Members["id"] = "x" },
		"another type":        func(g *matching.Scan) { g.Hosts[0].Seen[2].Members["port"] = "many" },
		"unknown kind":        func(g *matching.Scan) { g.Hosts[0].Seen[2].Kind = "issue" },
		"belongs to none":     func(g *matching.Scan) { g.Hosts[0].Seen[2].Of = 7 },
		"belongs to a wrong":  func(g *matching.Scan) { g.Hosts[0].Seen[2].Of = 1 },
		"a second device":     func(g *matching.Scan) { g.Hosts[0].Seen[2].Kind = "device" },
		"no word of the list": func(g *matching.Scan) { g.Hosts[0].Seen[2].Members["protocol"] = "smoke" },
	} {
		g := look(cellar().host())
		spoil(&g)
		if g.Check(d) == nil { // the segment was covered all the same
			assert.Empty(t, g.Hosts, name)
			assert.True(t, g.Cut, name)
			assert.Len(t, g.Notes, 1, name)
		}
	}
	both := look(cellar().host(), seen{udn: "uuid:31", at: netip.MustParseAddr("10.20.4.31"), shown: "phone"}.host())
	both.Hosts[0].Seen[0].Members["colour"] = "red"
	require.NoError(t, both.Check(d))
	require.Len(t, both.Hosts, 1, "one that cannot be kept does not cost the others")
	assert.Contains(t, both.Notes[0], "1 of 3 entries were left out")
	id := cellar().record(d, 1)
	for _, b := range matching.Compare(d, both, matching.Scan{}, nil) {
		assert.NotEqual(t, id, b.Device, "who was left out is not silent")
	}

	long := cellar().host()
	for range 900 {
		long.Add("folder", 2)
	}
	long.Services = make([]matching.Service, 212)
	long.Cut()
	assert.Len(t, long.Services, 200)
	assert.Equal(t, 12, long.Answers[0].LeftOut)
	assert.LessOrEqual(t, len(long.Seen), 600)
}

func FuzzClean(f *testing.F) {
	for _, s := range []string{"", "Lamp room screen", "a\x00b\u202Ec\u2066d", strings.Repeat("ä", 500), "\xff\xfe", "שלום", "\ufeff \t\n x"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		out := matching.Clean(s)
		assert.LessOrEqual(t, utf8.RuneCountInString(out), 120)
		assert.True(t, utf8.ValidString(out))
		assert.Equal(t, out, matching.Clean(out))
		assert.NotContains(t, out, "\n")
	})
}

func BenchmarkCompare(b *testing.B) {
	d := home()
	var hosts []matching.Host
	for n := range 60 {
		v := cellar()
		v.name, v.udn, v.serial, v.hostName = fmt.Sprintf("device %d", n), fmt.Sprintf("uuid:%d", n), fmt.Sprintf("s%d", n), fmt.Sprintf("h%d", n)
		v.hardware, v.at = dossier.HardwareAddr(fmt.Sprintf("02:4b:49:00:02:%02x", n)), netip.AddrFrom4([4]byte{10, 20, 4, byte(n + 1)})
		v.record(d, n)
		hosts = append(hosts, v.host())
	}
	g := look(hosts...)
	began := time.Now()
	for b.Loop() {
		matching.Compare(d, g, matching.Scan{}, nil)
	}
	b.ReportMetric(float64(time.Since(began).Microseconds())/1000/float64(b.N), "ms/compare")
}

// Addresses of IPv6 come and go without anything having changed: one that is known again is enough.
func TestTemporaryAddressesAreNoChange(t *testing.T) {
	at := netip.MustParseAddr
	stable, monday, tuesday, elsewhere := at("2001:db8:4::10"), at("2001:db8:4::aaaa"), at("2001:db8:4::bbbb"), at("2001:db8:5::10")
	four := at("10.20.4.10")
	scanned := func(all ...netip.Addr) matching.Scan {
		h := cellar().host()
		h.Say(1, "addresses", all, matching.ByNeighbours)
		return look(h)
	}
	for name, one := range map[string]struct {
		recorded, before, now []netip.Addr
		since                 matching.Since
		relation              matching.Relation
		after                 []netip.Addr
	}{
		"a new temporary one":        {[]netip.Addr{four, stable}, []netip.Addr{four, stable, monday}, []netip.Addr{four, stable, tuesday}, matching.SinceSame, matching.Same, []netip.Addr{four, stable}},
		"none answered this time":    {[]netip.Addr{four, stable}, []netip.Addr{four, stable}, []netip.Addr{four}, matching.SinceSame, matching.Same, []netip.Addr{four, stable}},
		"another prefix":             {[]netip.Addr{four, stable}, []netip.Addr{four, stable}, []netip.Addr{four, elsewhere}, matching.SinceChanged, matching.Differs, []netip.Addr{four, elsewhere, stable}},
		"another address of IPv4":    {[]netip.Addr{four, stable}, []netip.Addr{four, stable}, []netip.Addr{at("10.20.4.11"), stable}, matching.SinceChanged, matching.Differs, []netip.Addr{at("10.20.4.11"), stable}},
		"the recorded one is silent": {[]netip.Addr{four, stable}, []netip.Addr{four, monday}, []netip.Addr{four, monday}, matching.SinceSame, matching.Differs, []netip.Addr{four, monday}},
	} {
		t.Run(name, func(t *testing.T) {
			d := home()
			cellar().record(d, 1)
			i := d.Interfaces[0]
			i.Addresses = one.recorded
			d.Interfaces.Put(i)
			all := matching.Compare(d, scanned(one.now...), scanned(one.before...), nil)
			require.Len(t, all, 1)
			assert.Equal(t, one.since, all[0].Since, "%v", all[0].Changes)
			n := slices.IndexFunc(all[0].Differences, func(f matching.Difference) bool { return f.Member == "addresses" })
			assert.Equal(t, one.relation, all[0].Differences[n].Relation)
			assert.Equal(t, one.after, all[0].Differences[n].After)
		})
	}
}

// A host that has only an address of its link belongs to a scan, and has no address to be recorded.
func TestAHostOfTheLinkAlone(t *testing.T) {
	h := matching.NewHost(segment, netip.MustParseAddr("fe80::10"))
	h.Say(1, "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:01:99"), matching.ByNeighbours)
	g := look(h)
	require.NoError(t, g.Check(home()))
	require.Len(t, g.Hosts, 1)
	assert.NotContains(t, g.Hosts[0].Seen[1].Members, "addresses")
}

// The margins, with the weights written out: ten points for a UDN against what another device gathers.
func TestTheBestMustLeadByThree(t *testing.T) {
	for _, c := range []struct {
		name  string
		of    func(*dossier.Device) // the other device, beside the address it shares
		sure  bool
		leads int
	}{
		{"its address and its host name: 10 against 6", func(v *dossier.Device) { v.HostName = "granite" }, true, 4},
		{"and the same shown name: 10 against 8", func(v *dossier.Device) { v.HostName, v.Name = "granite", "Granite" }, false, 2},
		{"its address and the model, and a source like it: 10 against 7", func(v *dossier.Device) { v.Name, v.Model = "Granite", "TK-4 Cellar" }, true, 3},
	} {
		d := home()
		s := cellar()
		s.hardware, s.serial = "", ""
		id := s.record(d, 1, "hostName", "model", "make")
		d.Interfaces = nil
		d.Devices[0].Name, d.Sources[0].ShownName, d.Sources[0].Port = "server", "", 0
		other := dossier.Device{}
		other.ID = homes.ID[dossier.Device](2)
		c.of(&other)
		d.Devices.Put(other)
		i := dossier.Interface{Device: other.ID, Name: "wired", Addresses: []netip.Addr{s.at}, Segment: segment}
		i.ID = homes.ID[dossier.Interface](2)
		d.Interfaces.Put(i)
		m := matching.MatchHosts(d, []matching.Host{s.host("make")})[0]
		require.Len(t, m.Candidates, 2, c.name)
		assert.Equal(t, c.leads, m.Candidates[0].Points-m.Candidates[1].Points, "%s: %+v", c.name, m.Candidates)
		assert.Equal(t, c.sure, m.Class == matching.Sure, c.name)
		if c.sure {
			assert.Equal(t, id, m.Device, c.name)
		} else {
			assert.Empty(t, m.Device, "%s: nothing is said where two lie close", c.name)
		}
	}
}

// From four points on a match is worth showing: an address alone is not, a host name with a like source is.
func TestAMatchIsShownFromFourPoints(t *testing.T) {
	for _, c := range []struct {
		name   string
		unsaid []string
		shown  bool
	}{
		{"an address: 3", []string{"hardwareAddress", "udn", "serial", "model", "hostName", "shownName", "name", "port", "protocol"}, false},
		{"an address and a like source: 4", []string{"hardwareAddress", "udn", "serial", "model", "hostName", "shownName", "name"}, true},
		{"the model and the shown name: 4", []string{"hardwareAddress", "udn", "serial", "hostName", "port", "protocol", "address"}, true},
	} {
		d := home()
		now := cellar()
		now.record(d, 1)
		if c.name[:9] == "the model" {
			now.at = netip.MustParseAddr("10.20.4.77")
		}
		m := matching.MatchHosts(d, []matching.Host{now.host(c.unsaid...)})[0]
		assert.Equal(t, c.shown, len(m.Candidates) > 0, "%s: %+v", c.name, m.Candidates)
	}
}
