package practice_test

import (
	"bufio"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/bluenviron/gortsplib/v4"
	"github.com/bluenviron/gortsplib/v4/pkg/base"
	"github.com/huin/goupnp/dcps/av1"
	"github.com/huin/goupnp/dcps/internetgateway2"
	"github.com/miekg/dns"
	"github.com/pion/rtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/ipv4"

	"kaiku/practice"
	"kaiku/practice/layout"
)

func body(t *testing.T, where string) (int, string) {
	resp, err := (&http.Client{Transport: &http.Transport{DisableKeepAlives: true}}).Get("http://" + where)
	require.NoError(t, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp.StatusCode, string(b)
}

func TestTheGatewayForwardsPortsAndGivesOutAddresses(t *testing.T) {
	h := start(t, 51)
	wan, err := internetgateway2.NewWANIPConnection2ClientsByURLCtx(t.Context(), description(t, h.Gateway))
	require.NoError(t, err)
	_, outside, protocol, inside, client, enabled, about, _, err := wan[0].GetGenericPortMappingEntry(0)
	require.NoError(t, err)
	assert.Equal(t, []any{uint16(40443), "TCP", uint16(layout.ServerPort), "127.77.51.10", true, "Ahtola"}, []any{outside, protocol, inside, client, enabled, about})
	_, _, _, _, _, _, _, _, err = wan[0].GetGenericPortMappingEntry(2)
	require.ErrorContains(t, err, "<errorCode>713<", "the list ends")
	lan, err := internetgateway2.NewLANHostConfigManagement1ClientsByURLCtx(t.Context(), description(t, h.Gateway))
	require.NoError(t, err)
	first, last, err := lan[0].GetAddressRange()
	require.NoError(t, err)
	assert.Equal(t, "127.77.51.100 127.77.51.199", first+" "+last)
	reserved, err := lan[0].GetReservedAddresses()
	require.NoError(t, err)
	assert.Equal(t, "127.77.51.10,127.77.51.11", reserved)
	require.NoError(t, h.Switch("second-gateway", true))
	older, err := internetgateway2.NewWANIPConnection1ClientsByURLCtx(t.Context(), description(t, h.Device("box")))
	require.NoError(t, err)
	outer, err := older[0].GetExternalIPAddress()
	require.NoError(t, err)
	assert.Equal(t, layout.OuterAddress.String(), outer, "the box before it has the public one")
	assert.Equal(t, "10.177.4.20<nil>", viewer{t, h}.outer())
}

// The router's table of leases is what a technician imports.
func TestTheLeaseTableIsThatOfTheHouse(t *testing.T) {
	h := start(t, 59)
	_, table := body(t, "127.77.59.1:40381/leases")
	assert.Contains(t, table, "127.77.59.21,02:4b:49:00:01:21,lamp-room-screen,")
	assert.NotContains(t, table, h.Device("parlour-stick").Address.Addr().String(), "guests have another pool")
}

// A screen that is served too slowly stands still now and then: its position falls behind.
func TestAStarvedScreenFallsBehind(t *testing.T) {
	h := start(t, 60)
	require.NoError(t, h.Switch("slow-station", true))
	clients, err := av1.NewAVTransport1ClientsByURLCtx(t.Context(), description(t, h.Screen))
	require.NoError(t, err)
	c := clients[0]
	require.NoError(t, c.SetAVTransportURI(0, "http://"+h.Server.Address.String()+"/media/1-3", `<DIDL-Lite><item><res duration="0:01:40"/></item></DIDL-Lite>`)) // 12.6 Mb/s over 2
	require.NoError(t, c.Play(0, "1"))
	began := time.Now()
	require.Eventually(t, func() bool {
		_, _, _, _, at, _, _, _, err := c.GetPositionInfo(0)
		require.NoError(t, err)
		return strings.HasPrefix(at, "0:00:01")
	}, 30*time.Second, 20*time.Millisecond)
	assert.Greater(t, time.Since(began), 2500*time.Millisecond, "a second of it takes six to come")
}

func TestTheTunerHasChannelsAGuideAndRecordings(t *testing.T) {
	h := start(t, 52)
	at := h.Device("aerial").Address.String()
	_, list := body(t, at+"/aerial.m3u")
	assert.Equal(t, 4, strings.Count(list, "#EXTINF"))
	_, text := body(t, at+"/guide.xml")
	var guide struct {
		Channels []struct {
			ID string `xml:"id,attr"`
		} `xml:"channel"`
		Programmes []struct {
			Start   string `xml:"start,attr"`
			Channel string `xml:"channel,attr"`
			Title   string `xml:"title"`
		} `xml:"programme"`
	}
	require.NoError(t, xml.Unmarshal([]byte(text), &guide))
	assert.Len(t, guide.Channels, 4)
	require.Len(t, guide.Programmes, 120)
	begins, err := time.Parse("20060102150405 -0700", guide.Programmes[0].Start)
	require.NoError(t, err)
	assert.WithinRange(t, begins, time.Now().Add(-2*time.Hour), time.Now())
	for _, p := range guide.Programmes {
		assert.Contains(t, list, `tvg-id="`+p.Channel+`"`)
	}
	resp, err := http.Get("http://" + at + "/channel/1")
	require.NoError(t, err)
	packet := make([]byte, 188)
	_, err = io.ReadFull(resp.Body, packet)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, byte(0x47), packet[0])
	for path, status := range map[string]int{"/channel/0": 404, "/channel/9": 404, "/channel/x": 404, "/recordings/none.ts": 404} {
		got, _ := body(t, at+path)
		assert.Equal(t, status, got, path)
	}
	_, recorded := body(t, at+"/kept.m3u")
	assert.Contains(t, recorded, "/recordings/storm-warning.ts")
	part, err := http.NewRequest(http.MethodGet, "http://"+at+"/recordings/storm-warning.ts", nil)
	require.NoError(t, err)
	part.Header.Set("Range", "bytes=0-187")
	resp, err = http.DefaultClient.Do(part)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, 206, resp.StatusCode, "a recording can be searched in")
}

func TestTheHarbourViewPlays(t *testing.T) {
	h := start(t, 53)
	where, err := base.ParseURL("rtsp://" + h.Device("harbour").Address.String() + "/harbour")
	require.NoError(t, err)
	tcp := gortsplib.TransportTCP
	c := gortsplib.Client{Scheme: where.Scheme, Host: where.Host, Transport: &tcp}
	require.NoError(t, c.Start2())
	defer c.Close()
	described, answer, err := c.Describe(where)
	require.NoError(t, err)
	assert.Equal(t, "Harbour view", described.Title)
	assert.Equal(t, base.HeaderValue{"Harbour/1"}, answer.Header["Server"])
	require.NoError(t, c.SetupAll(described.BaseURL, described.Medias))
	got := make(chan uint16, 8)
	c.OnPacketRTP(described.Medias[0], described.Medias[0].Formats[0], func(p *rtp.Packet) {
		select {
		case got <- p.SequenceNumber:
		default:
		}
	})
	_, err = c.Play(nil)
	require.NoError(t, err)
	first := <-got
	assert.Equal(t, first+1, <-got)
}

// ask puts one question by mDNS and returns the answers that come from the home within a while.
func ask(t *testing.T, h *practice.House, from netip.Addr, name string, kind uint16) []dns.RR {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	lc, err := net.ListenUDP("udp4", &net.UDPAddr{IP: from.AsSlice()})
	require.NoError(t, err)
	defer lc.Close()
	require.NoError(t, ipv4.NewPacketConn(lc).SetMulticastInterface(lo))
	hear, err := net.ListenMulticastUDP("udp4", lo, &net.UDPAddr{IP: net.IPv4(224, 0, 0, 251), Port: 5353})
	require.NoError(t, err)
	defer hear.Close()
	q, err := new(dns.Msg).SetQuestion(name, kind).Pack()
	require.NoError(t, err)
	_, err = lc.WriteTo(q, &net.UDPAddr{IP: net.IPv4(224, 0, 0, 251), Port: 5353})
	require.NoError(t, err)
	_ = hear.SetReadDeadline(time.Now().Add(patience))
	var out []dns.RR
	b := make([]byte, 9000)
	for {
		n, from, err := hear.ReadFromUDPAddrPort(b)
		if err != nil {
			return out
		}
		var m dns.Msg
		if h.Segment.Contains(from.Addr().Unmap()) && m.Unpack(b[:n]) == nil && m.Response {
			out = append(out, m.Answer...)
		}
	}
}

func TestServicesAreAnnouncedInTheirOwnSegmentOnly(t *testing.T) {
	h := start(t, 54)
	home, guest := netip.MustParseAddr("127.77.54.250"), netip.MustParseAddr("127.77.55.250")
	types := ask(t, h, home, "_services._dns-sd._udp.local.", dns.TypePTR)
	kinds := map[string]bool{}
	for _, r := range types {
		kinds[r.(*dns.PTR).Ptr] = true
	}
	assert.Equal(t, map[string]bool{"_http._tcp.local.": true, "_smb._tcp.local.": true, "_nfs._tcp.local.": true, "_rtsp._tcp.local.": true}, kinds)
	srv := ask(t, h, home, `Harbour\ view._rtsp._tcp.local.`, dns.TypeSRV)
	require.NotEmpty(t, srv)
	assert.Equal(t, uint16(layout.RTSPPort), srv[0].(*dns.SRV).Port)
	a := ask(t, h, home, "kelp.local.", dns.TypeA)
	require.NotEmpty(t, a)
	assert.Equal(t, "127.77.54.11", a[0].(*dns.A).A.String())
	assert.Empty(t, ask(t, h, guest, "_services._dns-sd._udp.local.", dns.TypePTR), "guests hear nothing of it")
	c := dns.Client{Timeout: time.Second}
	server := netip.AddrPortFrom(h.Gateway.Address.Addr(), layout.NamePort).String()
	m, _, err := c.Exchange(new(dns.Msg).SetQuestion("granite.home.arpa.", dns.TypeA), server)
	require.NoError(t, err)
	assert.Equal(t, "127.77.54.10", m.Answer[0].(*dns.A).A.String())
	m, _, err = c.Exchange(new(dns.Msg).SetQuestion("elsewhere.example.", dns.TypeA), server)
	require.NoError(t, err)
	assert.Equal(t, dns.RcodeRefused, m.Rcode)
}

func TestARestrictedScreenIsShownOneFolder(t *testing.T) {
	h := start(t, 56)
	v := viewer{t, h}
	for agent, want := range map[string]int{"": 3, "Kuunari/6 UPnP/1.1 NorrvikJunior/2.6": 1, "Kuunari/6 UPnP/1.1 KieloMusic/2.0": 3, "Kuunari/6 UPnP/1.1 Norrvik/3.1": 3} {
		assert.Equal(t, want, strings.Count(v.browse("0", agent), "<container"), agent)
	}
	attic, err := av1.NewContentDirectory1ClientsByURLCtx(t.Context(), description(t, h.Device("attic")))
	require.NoError(t, err)
	_, n, _, _, err := attic[0].Search("0", `dc:title contains "pier"`, "*", 0, 0, "")
	require.NoError(t, err)
	assert.Equal(t, uint32(1), n)
	_, _, _, _, err = attic[0].Search("0", `upnp:class = "x"`, "*", 0, 0, "")
	assert.ErrorContains(t, err, "<errorCode>708<")
	c, err := av1.NewContentDirectory1ClientsByURLCtx(t.Context(), description(t, h.Server))
	require.NoError(t, err)
	page, returned, total, _, err := c[0].Browse("3", "BrowseDirectChildren", "*", 200, 100, "")
	require.NoError(t, err)
	assert.Equal(t, []uint32{40, 240}, []uint32{returned, total})
	assert.Contains(t, page, "From the lamp room, 201<")
}

// Faults are switched from outside too, while the house runs.
func TestTheControlSwitchesFaults(t *testing.T) {
	h := start(t, 57)
	at := layout.ControlAddress(57).String()
	put := func(path string) int {
		r, err := http.NewRequest(http.MethodPut, "http://"+at+path, nil)
		require.NoError(t, err)
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		return resp.StatusCode
	}
	assert.Equal(t, 200, put("/faults/clock-wrong/on"))
	assert.True(t, h.On("clock-wrong"))
	_, list := body(t, at+"/faults")
	assert.Contains(t, list, `"clock-wrong","says":"The server's clock is three hours slow."`)
	assert.Equal(t, len(layout.Faults), strings.Count(list, `"name"`))
	assert.Equal(t, 200, put("/faults/clock-wrong/off"))
	assert.False(t, h.On("clock-wrong"))
	assert.Equal(t, 404, put("/faults/nothing/on"))
}

// The export is read by NFS, and rubbish is not answered.
func TestTheMountServiceKnowsItsCalls(t *testing.T) {
	h := start(t, 58)
	assert.Contains(t, viewer{t, h}.exports(), "/kelp")
	for _, rubbish := range []string{"", "GET / HTTP/1.1\r\n\r\n", strings.Repeat("\xff", 64)} {
		c, err := net.Dial("tcp4", netip.AddrPortFrom(h.Device("kelp").Address.Addr(), layout.MountPort).String())
		require.NoError(t, err)
		_, _ = fmt.Fprint(c, rubbish)
		_ = c.(*net.TCPConn).CloseWrite() // it may have broken off already
		_, err = bufio.NewReader(c).ReadByte()
		assert.True(t, errors.Is(err, io.EOF) || errors.Is(err, syscall.ECONNRESET), "%v", err)
		require.NoError(t, c.Close())
	}
}
