package matching_test

import (
	"fmt"
	"net/netip"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
)

// beside is the one host of a scan beside the record.
func beside(t *testing.T, d *dossier.Dossier, h matching.Host, chosen matching.Choice) matching.Beside {
	all := matching.Compare(d, look(h), matching.Scan{}, chosen)
	require.NotEmpty(t, all)
	return all[0]
}

// share adds a share that the host says it has.
func share(h *matching.Host, name string, folders ...string) {
	n := h.Add("source", 0)
	h.Say(n, "protocol", dossier.ProtocolSMB, matching.BySMB)
	h.Say(n, "port", 445, matching.BySMB)
	h.Say(n, "locator", "/"+name, matching.BySMB)
	for _, f := range folders {
		at := h.Add("folder", n)
		h.Say(at, "name", f, matching.BySMB)
	}
}

func TestSharesOfOneServerAreToldApartByTheirLocator(t *testing.T) {
	d := home()
	id := cellar().record(d, 1)
	s := dossier.Source{Device: id, Name: "films share", Protocol: dossier.ProtocolSMB, Port: 445, Locator: "/films"}
	s.ID = homes.ID[dossier.Source](20)
	d.Sources.Put(s)
	h := cellar().host()
	share(&h, "films", "Old", "New")
	share(&h, "music")
	b := beside(t, d, h, nil)
	var found []dossier.Ref
	for n, seen := range b.Host.Seen {
		if seen.Kind == "source" && seen.Members["protocol"] == dossier.ProtocolSMB {
			found = append(found, b.Records[n])
		}
	}
	assert.Equal(t, []dossier.Ref{s.ID.Ref(), {}}, found, "the second share is new")
	matching.Take(d, b, every, ids())
	require.NoError(t, dossier.Apply(d, nil))
	var names []string
	for _, one := range d.Sources {
		names = append(names, one.Name)
	}
	assert.ElementsMatch(t, []string{"media", "films share", "share music"}, names)
	assert.Len(t, d.Folders, 2)
	assert.Equal(t, dossier.HomeVideo, d.Folders[0].ContentKind, "what lies in it nobody said")
}

func TestAnAdapterIsTheSameWhenItIsRenumbered(t *testing.T) {
	for _, c := range []struct {
		name     string
		recorded []netip.Addr
		want     []netip.Addr
	}{
		{"its one address", []netip.Addr{netip.MustParseAddr("10.20.4.10")}, []netip.Addr{netip.MustParseAddr("10.20.4.77")}},
		{"that of another network stays", []netip.Addr{netip.MustParseAddr("10.20.4.10"), netip.MustParseAddr("10.20.9.10"), netip.MustParseAddr("2001:db8::1")},
			[]netip.Addr{netip.MustParseAddr("10.20.4.77"), netip.MustParseAddr("10.20.9.10"), netip.MustParseAddr("2001:db8::1")}},
		{"none was recorded", nil, []netip.Addr{netip.MustParseAddr("10.20.4.77")}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := home()
			cellar().record(d, 1)
			i := d.Interfaces[0]
			i.Addresses = c.recorded
			d.Interfaces.Put(i)
			now := cellar()
			now.at = netip.MustParseAddr("10.20.4.77")
			matching.Take(d, beside(t, d, now.host(), nil), every, ids())
			require.Len(t, d.Interfaces, 1)
			assert.Equal(t, c.want, d.Interfaces[0].Addresses)
		})
	}
	d := home()
	cellar().record(d, 1)
	now := cellar()
	now.at, now.hardware = netip.MustParseAddr("10.20.4.77"), "02:4b:49:00:01:77"
	b := beside(t, d, now.host(), matching.Choice{matching.Key(now.host()): homes.ID[dossier.Device](1)})
	matching.Take(d, b, every, ids())
	assert.Len(t, d.Interfaces, 2, "another hardware address is another adapter")
}

func TestNamesFitTheirMembersAndAreGivenOnce(t *testing.T) {
	d := home()
	newID := ids()
	long := strings.Repeat("long name ", 30)
	for n := range 3 {
		v := seen{udn: strings.Repeat("x", n+1), at: netip.AddrFrom4([4]byte{10, 20, 4, byte(50 + n)}), shown: long}
		matching.Take(d, beside(t, d, v.host(), nil), every, newID)
	}
	require.Len(t, d.Devices, 3)
	for n, v := range d.Devices {
		assert.LessOrEqual(t, len([]rune(v.Name)), 80)
		assert.Equal(t, n > 0, strings.HasSuffix(v.Name, []string{"", " 2", " 3"}[n]) && n > 0)
	}
	plain := matching.NewHost(segment, netip.MustParseAddr("10.20.4.99"))
	assert.Equal(t, "10.20.4.99", plain.Called())
	plain.Say(0, "make", "Orre", matching.ByUPnP)
	plain.Say(0, "model", "OR-7", matching.ByUPnP)
	assert.Equal(t, "Orre OR-7", plain.Called())
	plain.Say(0, "hostName", "pier.home.arpa", matching.ByDNS)
	assert.Equal(t, "pier", plain.Called())
}

// What a gateway says of its line and of its segment goes to their records, if there are any.
func TestAGatewaySpeaksForItsLineAndItsSegment(t *testing.T) {
	gateway := func() matching.Host {
		h := matching.NewHost(segment, netip.MustParseAddr("10.20.4.1"))
		h.Say(0, "udn", "uuid:1", matching.ByUPnP)
		h.Say(h.Add("line", 0), "outerAddress", netip.MustParseAddr("203.0.113.9"), matching.ByIGD)
		n := h.Add("segment", 0)
		h.Say(n, "poolFirst", netip.MustParseAddr("10.20.4.100"), matching.ByLeases)
		h.Say(n, "gateway", netip.MustParseAddr("10.20.4.1"), matching.ByLeases)
		return h
	}
	d := home()
	matching.Take(d, beside(t, d, gateway(), nil), every, ids())
	assert.Empty(t, d.Lines, "a line is not made from what a gateway says")
	assert.Equal(t, netip.MustParseAddr("10.20.4.100"), d.Segments[0].PoolFirst)

	d = home()
	line := dossier.Line{Name: "fibre", Kind: dossier.LineFibre}
	line.ID = homes.ID[dossier.Line](1)
	d.Lines.Put(line)
	matching.Take(d, beside(t, d, gateway(), nil), every, ids())
	assert.Equal(t, netip.MustParseAddr("203.0.113.9"), d.Lines[0].OuterAddress)
	matching.Take(d, beside(t, d, gateway(), nil), every, ids()) // now that it is a device, it is the segment's DHCP server
	assert.Equal(t, []dossier.ID[dossier.Device]{d.Devices[0].ID}, d.Segments[0].DHCPServers)
	again := beside(t, d, gateway(), nil)
	assert.Equal(t, matching.AsRecorded, again.Status, "%+v", again.Differences)
}

// A clock that is wrong is a reading, and read again it is none the more.
func TestAWrongClockIsReadOnce(t *testing.T) {
	slow := func(off float64) matching.Host {
		h := cellar().host()
		n := h.Add("reading", 0)
		h.Say(n, "what", dossier.ClockOffsetS, matching.ByHTTP)
		h.Say(n, "value", off, matching.ByHTTP)
		h.Say(n, "how", dossier.KnownRead, matching.ByHTTP)
		h.Say(n, "at", homes.Day, matching.ByHTTP)
		return h
	}
	d := home()
	id := cellar().record(d, 1)
	newID := ids()
	matching.Take(d, beside(t, d, slow(-10800), nil), every, newID)
	require.Len(t, d.Readings, 1)
	assert.Equal(t, id.Ref(), d.Readings[0].Subject)
	matching.Take(d, beside(t, d, slow(-10802), nil), every, newID)
	assert.Len(t, d.Readings, 1)
	matching.Take(d, beside(t, d, slow(-90), nil), every, newID)
	assert.Len(t, d.Readings, 2, "a reading is never changed")
}

func TestTheNewestLookAtEachSegmentCounts(t *testing.T) {
	const guest = dossier.ID[dossier.Segment]("01890000-0003-7000-8000-000000000001")
	at := func(minutes int, short bool, segments ...dossier.ID[dossier.Segment]) matching.Scan {
		g := matching.Scan{ID: string(rune('a' + minutes)), Ended: homes.Day.Add(time.Duration(minutes) * time.Minute), Short: short}
		for _, s := range segments {
			g.Segments = append(g.Segments, matching.CoveredSegment{Segment: s})
			h := matching.NewHost(s, netip.MustParseAddr("10.20.4.10"))
			h.Say(0, "serial", g.ID, matching.ByUPnP)
			g.Hosts = append(g.Hosts, h)
			g.Asked = append(g.Asked, matching.Question{Segment: s, Way: matching.BySSDP})
		}
		return g
	}
	serials := func(g matching.Scan) map[dossier.ID[dossier.Segment]]any {
		out := map[dossier.ID[dossier.Segment]]any{}
		for _, h := range g.Hosts {
			out[h.Segment] = h.Seen[0].Members["serial"]
		}
		return out
	}
	now, before := matching.Latest([]matching.Scan{at(9, false, segment), at(7, false, guest), at(5, false, segment, guest), at(3, false, segment)})
	assert.Equal(t, map[dossier.ID[dossier.Segment]]any{segment: "j", guest: "h"}, serials(now))
	assert.Equal(t, map[dossier.ID[dossier.Segment]]any{segment: "f", guest: "f"}, serials(before))
	assert.Equal(t, "j", now.ID)
	assert.Len(t, now.Asked, 2)

	now, before = matching.Latest([]matching.Scan{at(9, true, segment), at(5, false, segment)})
	assert.Equal(t, "f", serials(now)[segment], "one that was cut short says nothing of what it did not see")
	assert.Empty(t, before.Segments)
	now, _ = matching.Latest([]matching.Scan{at(9, true, segment)})
	assert.True(t, now.Short, "unless there is no other")
	now, _ = matching.Latest(nil)
	assert.Empty(t, now.ID)
}

// A stored look fits the home as it is now.
func TestAStoredLookFitsTheHome(t *testing.T) {
	d := home()
	g := look(cellar().host())
	stranger := cellar().host()
	stranger.Segment = "01890000-0003-7000-8000-00000000ffff"
	odd := cellar().host()
	odd.Seen[0].Members["colour"] = "red"
	g.Hosts = append(g.Hosts, stranger, odd)
	g.Segments = append(g.Segments, matching.CoveredSegment{Segment: stranger.Segment})
	g.Fit(d)
	assert.Len(t, g.Hosts, 1)
	assert.Len(t, g.Segments, 1)
}

func TestWhatKnowsBetterIsKept(t *testing.T) {
	h := matching.NewHost(segment, netip.MustParseAddr("10.20.4.9"))
	h.Say(0, "name", "from its page", matching.ByHTTP)
	h.Say(0, "name", "from mDNS", matching.ByMDNS)
	h.Say(0, "name", "from its page again", matching.ByHTTP)
	assert.Equal(t, "from mDNS", h.Seen[0].Members["name"])
	h.Say(0, "name", "described", matching.ByUPnP)
	h.Say(0, "name", "", matching.ByUPnP)
	h.Say(0, "roles", []dossier.Role{}, matching.ByUPnP)
	assert.Equal(t, "described", h.Seen[0].Members["name"])
	assert.NotContains(t, h.Seen[0].Members, "roles", "what is empty says nothing")
}

// A telephone that is only there is told of, and not recorded with everything that is certain.
func TestWhoHasNoRoleIsNotRecordedWithoutAWord(t *testing.T) {
	h := matching.NewHost(segment, netip.MustParseAddr("10.20.4.88"))
	h.Say(1, "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:00:88"), matching.ByNeighbours)
	h.Say(0, "hostName", "somebody", matching.ByDNS)
	b := beside(t, home(), h, nil)
	assert.Equal(t, matching.Unknown, b.Status)
	for _, x := range b.Differences {
		assert.False(t, x.Certain, x.Member)
	}
	h.Say(0, "roles", []dossier.Role{dossier.RoleRenderer}, matching.ByUPnP)
	assert.True(t, beside(t, home(), h, nil).Differences[0].Certain)
}

// A later scan of one host changes what is known of that host, and of no other; if it does not answer, it is
// not seen any more.
func TestAScanOfOneHost(t *testing.T) {
	at := func(a string) matching.Host { return matching.NewHost(segment, netip.MustParseAddr(a)) }
	scan := func(minutes int, only string, hosts ...matching.Host) matching.Scan {
		g := look(hosts...)
		g.ID, g.Ended = fmt.Sprint("scan ", minutes), homes.Day.Add(time.Duration(minutes)*time.Minute)
		if only != "" {
			g.Only = netip.MustParseAddr(only)
		}
		return g
	}
	all := scan(1, "", at("10.20.4.10"), at("10.20.4.11"))
	addresses := func(g matching.Scan) (out []string) {
		for _, h := range g.Hosts {
			out = append(out, h.Address.String())
		}
		slices.Sort(out)
		return out
	}
	now, _ := matching.Latest([]matching.Scan{scan(3, "10.20.4.12", at("10.20.4.12")), scan(2, "10.20.4.11"), all})
	assert.Equal(t, []string{"10.20.4.10", "10.20.4.12"}, addresses(now))
	assert.Equal(t, "scan 3", now.ID)
	unasked := scan(2, "10.20.4.11")
	unasked.Unasked = []netip.Addr{netip.MustParseAddr("10.20.4.11")}
	now, _ = matching.Latest([]matching.Scan{unasked, all})
	assert.Equal(t, []string{"10.20.4.10"}, addresses(now))
	assert.Equal(t, unasked.Unasked, now.Unasked, "it is neither there nor silent")
	now, _ = matching.Latest([]matching.Scan{scan(3, "10.20.4.11"), unasked, all})
	assert.Empty(t, now.Unasked, "it was asked since")
	cut := scan(2, "10.20.4.11")
	cut.Short = true
	now, _ = matching.Latest([]matching.Scan{cut, all})
	assert.Equal(t, []string{"10.20.4.10", "10.20.4.11"}, addresses(now), "one that was stopped before it had an answer says nothing")
	now, before := matching.Latest([]matching.Scan{scan(9, "", at("10.20.4.10")), scan(3, "10.20.4.12", at("10.20.4.12")), all})
	assert.Equal(t, []string{"10.20.4.10"}, addresses(now), "a newer scan of all is newer")
	assert.Equal(t, []string{"10.20.4.10", "10.20.4.11"}, addresses(before))
}
