package matching

import (
	"fmt"
	"net/netip"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
)

const here = dossier.ID[dossier.Segment]("01890000-0003-7000-8000-000000000000")

// saying is a host that says members of its device, by pairs; "adapter" is a MAC address, "folder" a folder with three items.
func saying(pairs ...string) Host {
	h := NewHost(here, netip.MustParseAddr("10.20.4.10"))
	for i := 0; i+1 < len(pairs); i += 2 {
		switch name, value := pairs[i], pairs[i+1]; name {
		case "adapter":
			h.Say(1, "hardwareAddress", dossier.HardwareAddr(value), ByUPnP)
		case "folder":
			n := h.Add("folder", 0)
			h.Say(n, "name", value, ByDirectory)
			h.Say(n, "itemsInIndex", 3, ByDirectory)
		default:
			h.Say(0, name, value, ByUPnP)
		}
	}
	return h
}

// Two hosts are one machine when two things agree, one of them unique, and nothing contradicts.
func TestWhatMakesTwoHostsOneMachine(t *testing.T) {
	for _, c := range []struct {
		name string
		a, b Host
		want bool
	}{
		{"nothing is said", saying(), saying(), false},
		{"a MAC address alone: it may be a repeater's", saying("adapter", "02:4b:49:00:01:10"), saying("adapter", "02:4b:49:00:01:10"), false},
		{"a UDN alone: it may be that of a series", saying("udn", "uuid:1"), saying("udn", "uuid:1"), false},
		{"both", saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1"), saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1"), true},
		{"a UDN and the host name, with another domain", saying("udn", "uuid:1", "hostName", "granite.local"), saying("udn", "uuid:1", "hostName", "Granite"), true},
		{"a UDN and another host name", saying("udn", "uuid:1", "hostName", "granite"), saying("udn", "uuid:1", "hostName", "basalt"), false},
		{"a UDN and the same folders", saying("udn", "uuid:1", "folder", "Films"), saying("udn", "uuid:1", "folder", "Films"), true},
		{"a UDN and other folders", saying("udn", "uuid:1", "folder", "Films"), saying("udn", "uuid:1", "folder", "Music"), false},
		{"the host name and the same folders: nothing unique", saying("hostName", "granite", "folder", "Films"), saying("hostName", "granite", "folder", "Films"), false},
		{"serial and model", saying("serial", "TK4-00317", "model", "TK-4"), saying("serial", "TK4-00317", "model", "TK-4"), true},
		{"a serial of six characters and the model", saying("serial", "123456", "model", "TK-4"), saying("serial", "123456", "model", "TK-4"), true},
		{"one of five is none", saying("serial", "00000", "model", "TK-4"), saying("serial", "00000", "model", "TK-4"), false},
		{"serial, and a model that says more", saying("serial", "TK4-00317", "model", "TK-4"), saying("serial", "TK4-00317", "model", "TK-4 Cellar"), false},
		{"serial without a model, and a UDN", saying("serial", "TK4-00317", "udn", "uuid:1"), saying("serial", "TK4-00317", "udn", "uuid:1"), true},
		{"both, and another model", saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "model", "TK-4"), saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "model", "TK-9"), false},
		{"both, and a model that says more", saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "model", "TK-4"), saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "model", "TK-4 Cellar"), true},
		{"both, and another make", saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "make", "Orre"), saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "make", "Kielo"), false},
		{"both, and another serial", saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "serial", "1111111"), saying("adapter", "02:4b:49:00:01:10", "udn", "uuid:1", "serial", "2222222"), false},
	} {
		assert.Equal(t, c.want, oneMachine(c.a, c.b), c.name)
		assert.Equal(t, c.want, oneMachine(c.b, c.a), "%s, the other way round", c.name)
	}
}

func TestTextsThatAreAlike(t *testing.T) {
	for pair, want := range map[[2]string]bool{{"TK-4", "tk4"}: true, {"NV-43", "NV-43 B"}: true, {"abc", "abcd"}: true, {"ab", "abcd"}: false, {"abcd", "ab"}: false, {"ab", "AB"}: true, {"abc", "xyz"}: false} {
		assert.Equal(t, want, alike(pair[0], pair[1]), pair)
	}
	for title, want := range map[string]string{"The Long Ebb.mp4": "thelongebb", "the-long-ebb": "thelongebb", "Vol. 2": "vol2", "a.b": "a", ".hidden": "hidden", "x.abcde": "x", "x.abcdef": "xabcdef", "Fog (1961)": "fog1961"} {
		assert.Equal(t, want, titleKey(title), title)
	}
	for pair, want := range map[[2]string]bool{{"oillamps", "awinterofoillamps"}: true, {"awinterofoillamps", "oillamps"}: true, {"abcdefg", "abcdefgh"}: true, {"abcdefgh", "abcdef"}: false} {
		assert.Equal(t, want, holds(pair[0], pair[1]), pair)
	}
	assert.Equal(t, "ab…", cut("abcdef", 3))
	assert.Equal(t, "abc", cut("abc", 3))
}

// A text is cut at 120 characters, with a sign for what is left out.
func TestHowLongATextMayBe(t *testing.T) {
	assert.Equal(t, strings.Repeat("x", 120), Clean(strings.Repeat("x", 120)))
	assert.Equal(t, strings.Repeat("x", 119)+"…", Clean(strings.Repeat("x", 121)))
	assert.Equal(t, strings.Repeat("é", 119)+"…", Clean(strings.Repeat("é", 1000)), "cut between characters")
	assert.Equal(t, 3*119+3, len(Clean(strings.Repeat("は", 321))), "a text that is cut twice ends like one that is cut once")
}

func TestBoundsOfAScanAndAHost(t *testing.T) {
	for all, want := range map[int]bool{mostAsked: false, mostAsked + 1: true} {
		g := Scan{Asked: make([]Question, all)}
		g.cut()
		assert.Len(t, g.Asked, mostAsked)
		assert.Equal(t, want, g.Cut, "%d questions", all)
	}
	for all, want := range map[int]bool{mostHosts: false, mostHosts + 1: true} {
		g := Scan{Hosts: make([]Host, all)}
		g.cut()
		assert.Len(t, g.Hosts, mostHosts)
		assert.Equal(t, want, g.Cut, "%d hosts", all)
	}
	for _, c := range []struct{ answers, services, seen, keptAnswers int }{
		{mostAnswers, 1, 1, mostAnswers}, {mostAnswers + 1, 1, 1, mostAnswers - 2}, {mostAnswers, mostServices, mostSeen, mostAnswers},
		{mostAnswers, mostServices + 1, 1, mostAnswers - 1}, {mostAnswers, 1, mostSeen + 1, mostAnswers - 1}, {0, mostServices + 3, mostSeen + 4, 2},
	} {
		h := Host{Answers: make([]Question, c.answers), Services: make([]Service, c.services), Seen: make([]Seen, c.seen), Open: make([]int, mostOpen+1)}
		h.Cut()
		assert.Len(t, h.Answers, c.keptAnswers, "%+v", c)
		assert.LessOrEqual(t, len(h.Services), mostServices)
		assert.LessOrEqual(t, len(h.Seen), mostSeen)
		assert.Len(t, h.Open, mostOpen)
		if left := c.services - mostServices; left > 0 {
			n := len(h.Answers) - 1
			if c.seen > mostSeen {
				n--
			}
			assert.Equal(t, Question{Way: ByMDNS, Ended: Answered, Answers: mostServices, LeftOut: left, Detail: fmt.Sprintf("%d of %d kept", mostServices, c.services)}, h.Answers[n])
		}
	}
}

// A way that knows better stays; an empty value says nothing, a count of none does.
func TestWhichWayIsBelieved(t *testing.T) {
	h := saying()
	h.Say(0, "model", "of its banner", ByHTTP)
	h.Say(0, "model", "of its description", ByUPnP)
	h.Say(0, "model", "of its banner", ByHTTP)
	assert.Equal(t, "of its description", h.text(0, "model"))
	h.Say(0, "model", "again", ByUPnP)
	assert.Equal(t, "again", h.text(0, "model"), "the same way may say it anew")
	h.Say(0, "model", "", ByUPnP)
	assert.Equal(t, "again", h.text(0, "model"))
	n := h.Add("folder", 0)
	h.Say(n, "itemsInIndex", 0, ByDirectory)
	assert.Equal(t, 0, h.Seen[n].Members["itemsInIndex"])
	assert.Equal(t, "", h.text(99, "model"))
	assert.Equal(t, len(byRank), rank("known to a person"))
	assert.Less(t, rank(BySweep), rank(ByUPnP))
}

func TestHowMuchASeenRecordIsARecordedOne(t *testing.T) {
	at := []netip.Addr{netip.MustParseAddr("10.20.4.10")}
	seen := func(kind string, pairs ...any) Seen {
		s := Seen{Kind: kind, Members: map[string]any{}}
		for i := 0; i+1 < len(pairs); i += 2 {
			s.Members[pairs[i].(string)] = pairs[i+1]
		}
		return s
	}
	upnp := dossier.ProtocolUPnPAV
	for _, c := range []struct {
		name string
		s    Seen
		r    dossier.Record
		want int
	}{
		{"the same MAC address", seen("interface", "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:01:10")), dossier.Interface{HardwareAddress: "02:4b:49:00:01:10"}, 3},
		{"the same address, no MAC address recorded", seen("interface", "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:01:10")), dossier.Interface{Addresses: at}, 2},
		{"the same address, none seen", seen("interface"), dossier.Interface{Addresses: at, HardwareAddress: "02:4b:49:00:01:10"}, 2},
		{"the same address and another MAC address", seen("interface", "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:01:99")), dossier.Interface{Addresses: at, HardwareAddress: "02:4b:49:00:01:10"}, 0},
		{"another address", seen("interface"), dossier.Interface{}, 0},
		{"another protocol", seen("source", "protocol", dossier.ProtocolSMB), dossier.Source{Protocol: upnp}, 0},
		{"another UDN", seen("source", "protocol", upnp, "udn", "uuid:2"), dossier.Source{Protocol: upnp, UDN: "uuid:1"}, 0},
		{"the protocol alone", seen("source", "protocol", upnp), dossier.Source{Protocol: upnp}, 1},
		{"UDN, locator, port and shown name", seen("source", "protocol", upnp, "udn", "uuid:1", "locator", "/d.xml", "port", 40210, "shownName", "Granite"),
			dossier.Source{Protocol: upnp, UDN: "uuid:1", Locator: "/d.xml", Port: 40210, ShownName: "Granite"}, 17},
		{"a share by its port: it is another one", seen("source", "protocol", dossier.ProtocolSMB, "port", 445, "locator", "/music"), dossier.Source{Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/films"}, 0},
		{"a share by its locator", seen("source", "protocol", dossier.ProtocolSMB, "locator", "/films"), dossier.Source{Protocol: dossier.ProtocolSMB, Locator: "/films"}, 5},
		{"a share without a recorded locator", seen("source", "protocol", dossier.ProtocolSMB, "locator", "/films"), dossier.Source{Protocol: dossier.ProtocolSMB}, 1},
		{"a folder in another case", seen("folder", "name", "films"), dossier.Folder{Name: "Films"}, 1},
		{"another folder", seen("folder", "name", "Music"), dossier.Folder{Name: "Films"}, 0},
		{"software that does the same", seen("software", "does", dossier.SoftwareServer), dossier.Software{Does: dossier.SoftwareServer}, 1},
		{"software that does something else", seen("software", "does", dossier.SoftwareServer), dossier.Software{Does: dossier.SoftwarePlayer}, 0},
	} {
		assert.Equal(t, c.want, likeness(c.s, at, c.r), c.name)
	}
}

// The one adapter of a device stays the same when it is renumbered, unless its MAC address is another.
func TestTheOnlyAdapterOfADevice(t *testing.T) {
	const device = dossier.ID[dossier.Device]("01890000-0002-7000-8000-000000000001")
	adapter := func(n int, hw dossier.HardwareAddr) dossier.Interface {
		i := dossier.Interface{Device: device, HardwareAddress: hw}
		i.ID = dossier.ID[dossier.Interface](fmt.Sprintf("01890000-0004-7000-8000-%012d", n))
		return i
	}
	one, two := saying("adapter", "02:4b:49:00:01:10"), saying("adapter", "02:4b:49:00:01:10")
	two.Say(two.Add("interface", 0), "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:01:11"), ByUPnP)
	for _, c := range []struct {
		name     string
		recorded []dossier.Interface
		seen     Host
		want     bool
	}{
		{"its MAC address is not recorded", []dossier.Interface{adapter(1, "")}, one, true},
		{"none is seen", []dossier.Interface{adapter(1, "02:4b:49:00:01:10")}, saying(), true},
		{"it is the same", []dossier.Interface{adapter(1, "02:4b:49:00:01:10")}, one, true},
		{"it is another", []dossier.Interface{adapter(1, "02:4b:49:00:01:99")}, one, false},
		{"two are seen", []dossier.Interface{adapter(1, "")}, two, false},
		{"two are recorded", []dossier.Interface{adapter(1, ""), adapter(2, "")}, one, false},
		{"none is recorded", nil, one, false},
	} {
		d := &dossier.Dossier{}
		for _, i := range c.recorded {
			d.Interfaces.Put(i)
		}
		assert.Equal(t, c.want, loneAdapter(d, device, c.seen, 1) != dossier.Ref{}, c.name)
	}
}

// A value that lies within five of the newest reading was read already; an older reading does not count.
func TestWhatWasReadAlready(t *testing.T) {
	noon := time.Date(2026, 3, 2, 12, 0, 0, 0, time.UTC)
	device := dossier.Ref{Kind: "device", ID: "01890000-0002-7000-8000-000000000001"}
	d := &dossier.Dossier{}
	put := func(n int, of dossier.Ref, what dossier.Quantity, value float64, at time.Time) {
		r := dossier.Reading{Subject: of, What: what, Value: value, At: at}
		r.ID = dossier.ID[dossier.Reading](fmt.Sprintf("01890000-0005-7000-8000-%012d", n))
		d.Readings.Put(r)
	}
	put(1, device, dossier.SignalDbm, -50, noon)
	put(2, device, dossier.SignalDbm, -70, noon.Add(-time.Hour))
	put(3, dossier.Ref{Kind: "device", ID: "other"}, dossier.SignalDbm, -60, noon.Add(time.Hour))
	put(4, device, dossier.DownMbps, 60, noon.Add(time.Hour))
	read := func(value float64) bool {
		return readAlready(d, device, Seen{Kind: "reading", Members: map[string]any{"what": dossier.SignalDbm, "value": value}}) != dossier.Ref{}
	}
	for value, want := range map[float64]bool{-50: true, -55: true, -45: true, -56: false, -44: false, -70: false} {
		assert.Equal(t, want, read(value), value)
	}
	d.Readings = nil
	assert.False(t, read(0))
}

// The description's name is shown by whichever record has it; a source counts once.
func TestWhatASourceWeighs(t *testing.T) {
	d := &dossier.Dossier{}
	v := dossier.Device{Name: "granite"}
	v.ID = "01890000-0002-7000-8000-000000000001"
	d.Devices.Put(v)
	for n := range 2 {
		s := dossier.Source{Device: v.ID, Protocol: dossier.ProtocolUPnPAV, Port: 40210, ShownName: "Granite"}
		s.ID = dossier.ID[dossier.Source](fmt.Sprintf("01890000-0006-7000-8000-%012d", n))
		d.Sources.Put(s)
	}
	weight := func(h Host) int { return weigh(h, identityOf(d, d.Devices[0]), false).Points }
	source := func(name string, port int) Host {
		h := saying()
		for range 2 {
			n := h.Add("source", 0)
			h.Say(n, "protocol", dossier.ProtocolUPnPAV, ByUPnP)
			h.Say(n, "port", port, ByUPnP)
			h.Say(n, "shownName", name, ByUPnP)
		}
		return h
	}
	assert.Equal(t, weights[SameShownName]+weights[SameSource], weight(source("Granite", 40210)))
	assert.Equal(t, weights[SameSource], weight(source("Other", 40210)))
	assert.Equal(t, weights[SameShownName], weight(source("Granite", 1)))
	assert.Equal(t, weights[SameShownName], weight(saying("name", "GRANITE")), "its own name, in any case")
	both := source("Granite", 1)
	both.Say(0, "name", "granite", ByUPnP)
	assert.Equal(t, weights[SameShownName], weight(both), "one name counts once")
	assert.Zero(t, weight(saying("name", "other")))
}

// Products of a line are taken without what stands in brackets, at most eight.
func TestWhatStandsInBracketsIsNoProduct(t *testing.T) {
	names := func(line string) (out []string) {
		for _, p := range Products(line) {
			out = append(out, p.Name+" "+p.Version)
		}
		return out
	}
	assert.Equal(t, []string{"Kuunari 6", "Ahtola 2.6"}, names("Kuunari/6 (a (b) c) UPnP/1.1 Ahtola/2.6"))
	assert.Equal(t, []string{"One 1", "Two 2"}, names("One/1 closed) Two/2"))
	assert.Len(t, names(strings.Repeat("P/1 ", 12)), 8)
}
