package matching

import (
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// twoEnds is a home with one path, whose server was scanned as the test says it.
type twoEnds struct {
	*homes.SoundHome
	host Beside
}

func (h *twoEnds) rows(t testing.TB) map[EndMember]EndRow {
	var hosts []Beside
	if h.host.Key != "" {
		hosts = append(hosts, h.host)
	}
	for _, p := range Ends(h.Index(), hosts, time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)) {
		if p.Path == h.PlayerPath {
			out := map[EndMember]EndRow{}
			for _, r := range p.Rows {
				out[r.Member] = r
			}
			return out
		}
	}
	require.Fail(t, "the path has no ends")
	return nil
}

// seen lets the scan see the server with its source, with these members and what would change by them.
func (h *twoEnds) seen(members map[string]any, differs ...string) {
	s := NewHost(h.Home, netip.MustParseAddr("10.20.4.10"))
	n := s.Add("source", 0)
	for m, v := range members {
		s.Say(n, m, v, ByUPnP)
	}
	h.host = Beside{Key: "granite", Host: s, Device: h.Server, Match: Match{Class: Sure}, Status: AsRecorded, Records: []dossier.Ref{h.Server.Ref(), h.ServerPort.Ref(), h.Source.Ref()}}
	for _, m := range differs {
		h.host.Differences = append(h.host.Differences, Difference{Place: n, Kind: "source", Member: m, Relation: Differs})
	}
}

// What the server has, what the device has and what was seen are held against each other.
func TestEndsAndTheScanBesideEachOther(t *testing.T) {
	one := func(server, device, seen int, differs ...string) EndRow {
		var row EndRow
		rapid.Check(t, func(rt *rapid.T) {
			h := &twoEnds{SoundHome: homes.Sound(rt)}
			homes.Set(h.SoundHome, h.Source, func(s *dossier.Source) { s.Port = server })
			homes.Set(h.SoundHome, h.PlayerPath, func(p *dossier.Path) { p.ServerEnd, p.DeviceEnd = dossier.End{}, dossier.End{Port: device} })
			if seen != 0 {
				h.seen(map[string]any{"port": seen}, differs...)
			}
			row = h.rows(t)[EndPort]
		})
		return row
	}
	assert.Equal(t, EndRow{Member: EndPort, Server: []string{"8"}, Device: []string{"8"}, Agreement: Agree}, one(8, 8, 0))
	assert.Equal(t, EndRow{Member: EndPort, Server: []string{"8"}, Agreement: OneSays}, one(8, 0, 0))
	assert.Equal(t, Agreement(""), one(0, 0, 0).Agreement, "nothing is said of it at all")
	assert.Equal(t, DeviceOther, one(8, 9, 0).Agreement)
	assert.Equal(t, DeviceOther, one(8, 9, 8).Agreement, "the device is wrong, and the server as it is recorded")
	assert.Equal(t, DeviceOther, one(7, 9, 8, "port").Agreement, "all three differ: what the server has now counts")
	behind := one(7, 8, 8, "port")
	assert.Equal(t, RecordOld, behind.Agreement)
	assert.Len(t, behind.Corrects, 1)
	assert.Equal(t, RecordOld, one(7, 0, 8, "port").Agreement)
	assert.Equal(t, Agree, one(0, 8, 8, "port").Agreement)
	assert.Empty(t, one(7, 8, 8, "locator").Corrects, "another member's difference corrects nothing")
}

// Of the server's addresses any will do, one family says nothing of the other, and one that is typed in while the server has it by lease is
// told.
func TestAddressesOfBothEnds(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		h := &twoEnds{SoundHome: homes.Sound(rt)}
		set := func(by dossier.AddressBy, typed string, own ...string) EndRow {
			homes.Set(h.SoundHome, h.ServerPort, func(i *dossier.Interface) {
				i.Addresses, i.AddressBy = nil, by
				for _, a := range own {
					i.Addresses = append(i.Addresses, netip.MustParseAddr(a))
				}
			})
			homes.Set(h.SoundHome, h.PlayerPath, func(p *dossier.Path) {
				p.FoundBy, p.DeviceEnd = dossier.ByTypedAddress, dossier.End{Address: netip.MustParseAddr(typed)}
			})
			return h.rows(t)[EndAddress]
		}
		assert.Equal(t, Agree, set(dossier.BySetting, "10.20.4.10", "10.20.4.10", "10.20.4.11").Agreement)
		assert.Equal(t, DeviceOther, set(dossier.BySetting, "10.20.4.12", "10.20.4.10", "10.20.4.11").Agreement)
		assert.Equal(t, OneSays, set(dossier.BySetting, "2001:db8:4::10", "10.20.4.10").Agreement)
		assert.False(t, set(dossier.ByReservation, "10.20.4.10", "10.20.4.10").ByLease)
		assert.True(t, set(dossier.ByLease, "10.20.4.10", "10.20.4.10").ByLease)
		assert.False(t, set(dossier.ByLease, "10.20.4.12", "10.20.4.10").ByLease, "it is another one's")
		h.seen(nil)
		assert.Equal(t, DeviceOther, set(dossier.BySetting, "10.20.4.11", "10.20.4.11").Agreement, "it was seen at .10")
	})
}

// Accounts and clocks are compared as they are recorded.
func TestAccountsAndClocksOfBothEnds(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		h := &twoEnds{SoundHome: homes.Sound(rt)}
		account := func(name string) dossier.ID[dossier.Account] {
			return homes.Put(h.SoundHome, dossier.Account{Name: name})
		}
		keeper, guest := account("keeper"), account("guest")
		_, asked := h.rows(t)[EndAccount]
		assert.False(t, asked, "a source without an account asks for none")
		homes.Set(h.SoundHome, h.Source, func(s *dossier.Source) { s.Account = keeper })
		homes.Set(h.SoundHome, h.PlayerPath, func(p *dossier.Path) { p.Account = guest })
		assert.Equal(t, DeviceOther, h.rows(t)[EndAccount].Agreement)
		homes.Set(h.SoundHome, h.PlayerPath, func(p *dossier.Path) { p.Account = keeper })
		assert.Equal(t, Agree, h.rows(t)[EndAccount].Agreement)

		clock := func(at dossier.ID[dossier.Device], seconds float64) {
			homes.Put(h.SoundHome, dossier.Reading{Subject: at.Ref(), What: dossier.ClockOffsetS, Value: seconds, At: time.Date(2026, 3, 4, 0, 0, len(h.Readings), 0, time.UTC)})
		}
		clock(h.Server, 20)
		_, told := h.rows(t)[EndClock]
		assert.False(t, told, "one clock alone says nothing of the other")
		clock(h.Player, -40)
		assert.Equal(t, Agree, h.rows(t)[EndClock].Agreement, "60 s are one minute")
		clock(h.Player, -41)
		assert.Equal(t, DeviceOther, h.rows(t)[EndClock].Agreement)
	})
}

// A server that is not surely recognised counts as not seen, one that was silent is told so, and what differs comes first.
func TestWhoseEndsComeFirst(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		h := &twoEnds{SoundHome: homes.Sound(rt)}
		h.seen(map[string]any{"port": 9}, "port")
		h.host.Match.Class = Likely
		list := Ends(h.Index(), []Beside{h.host}, homes.Day)
		require.NotEmpty(t, list)
		for _, p := range list {
			assert.Nil(t, p.Host)
			assert.False(t, p.Silent)
		}
		h.host = Beside{Device: h.Server, Status: NotSeen}
		for _, p := range Ends(h.Index(), []Beside{h.host}, homes.Day) {
			assert.True(t, p.Silent)
		}
		homes.Set(h.SoundHome, h.PlayerPath, func(p *dossier.Path) { p.DeviceEnd = dossier.End{Name: "another"} })
		list = Ends(h.Index(), nil, homes.Day)
		assert.Equal(t, h.PlayerPath, list[0].Path)
		assert.Equal(t, DeviceOther, list[0].Agreement())
	})
}

// A port that is open, refused or silent is told apart from one that nobody asked at.
func TestWhatAScanSawOfAPort(t *testing.T) {
	h := Host{Open: []int{445}, Answers: []Question{{Way: ByHTTP, Port: 80, Ended: Refused}, {Way: ByHTTP, Port: 81, Ended: NotAsked}, {Way: ByNetBIOS, Port: 137, Ended: Silent}, {Way: ByHTTP, Port: 5353, Ended: Refused}}}
	h.Hear(1900)
	h.Hear(5353)
	h.Hear(1900)
	assert.Equal(t, []int{1900, 5353}, h.Heard)
	for transport, ports := range map[dossier.Transport]map[int]Ended{
		dossier.TCP: {445: Answered, 80: Refused, 81: "", 82: "", 1900: "", 137: "", 5353: Refused},
		dossier.UDP: {1900: Answered, 5353: Answered, 137: Silent, 445: "", 80: "", 3702: ""},
	} {
		for port, want := range ports {
			got, asked := h.PortSeen(transport, port)
			assert.Equal(t, want, got, "%s %d", transport, port)
			assert.Equal(t, want != "", asked, "%s %d", transport, port)
		}
	}
}
