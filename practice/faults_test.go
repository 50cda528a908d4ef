package practice_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/cloudsoda/go-smb2"
	"github.com/huin/goupnp/dcps/av1"
	"github.com/huin/goupnp/dcps/internetgateway2"
	"github.com/huin/goupnp/soap"
	"github.com/miekg/dns"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/ipv4"

	"kaiku/practice"
	"kaiku/practice/layout"
)

// viewer looks at a house through its sockets, as some device would.
type viewer struct {
	t *testing.T
	h *practice.House
}

// patience is how long something is awaited that may never answer.
const patience = time.Second

// from is an HTTP client at an address of the home's segment.
func (v viewer) from(host byte, agent string) *http.Client {
	a := v.h.Segment.Addr().As4()
	a[3] = host
	d := net.Dialer{LocalAddr: &net.TCPAddr{IP: a[:]}, Timeout: patience}
	return &http.Client{Timeout: patience, Transport: agented{&http.Transport{DialContext: d.DialContext, DisableKeepAlives: true}, agent}}
}

type agented struct {
	http.RoundTripper
	agent string
}

func (a agented) RoundTrip(r *http.Request) (*http.Response, error) {
	r.Header.Set("User-Agent", a.agent)
	return a.RoundTripper.RoundTrip(r)
}

// get is what a web address gives: its status and the beginning of its body, or how it failed.
func (v viewer) get(host byte, where string) string {
	resp, err := v.from(host, "").Get("http://" + where)
	if err != nil {
		return failure(err)
	}
	defer resp.Body.Close()
	b := make([]byte, 600)
	n, _ := io.ReadFull(resp.Body, b)
	return fmt.Sprint(resp.StatusCode, " ", string(b[:n]))
}

func failure(err error) string {
	var timeout net.Error
	switch text := err.Error(); {
	case strings.Contains(text, "refused"):
		return "refused"
	case strings.Contains(text, "reset"), strings.Contains(text, "EOF"):
		return "broken off"
	default:
		if ok := asTimeout(err, &timeout); ok {
			return "time-out"
		}
		return text
	}
}

func asTimeout(err error, into *net.Error) bool {
	for ; err != nil; err = unwrap(err) {
		if e, ok := err.(net.Error); ok && e.Timeout() {
			*into = e
			return true
		}
	}
	return false
}

func unwrap(err error) error {
	if u, ok := err.(interface{ Unwrap() error }); ok {
		return u.Unwrap()
	}
	return nil
}

func (v viewer) dial(d *practice.Device) string {
	c, err := net.DialTimeout("tcp4", d.Address.String(), patience)
	if err != nil {
		return failure(err)
	}
	defer c.Close()
	_ = c.SetReadDeadline(time.Now().Add(100 * time.Millisecond))
	_, err = c.Read(make([]byte, 1))
	return "open, " + failure(err)
}

// browse is what a folder of the server shows to someone.
func (v viewer) browse(id, agent string) string {
	at := *description(v.t, v.h.Server)
	at.Path = "/control/ContentDirectory"
	c := soap.NewSOAPClient(at)
	c.HTTPClient = *v.from(50, agent)
	args := struct{ ObjectID, BrowseFlag, Filter, StartingIndex, RequestedCount, SortCriteria string }{id, "BrowseDirectChildren", "*", "0", "0", ""}
	var out struct{ Result, NumberReturned, TotalMatches, UpdateID string }
	if err := c.PerformActionCtx(v.t.Context(), av1.URN_ContentDirectory_1, "Browse", &args, &out); err != nil {
		return failure(err)
	}
	return out.TotalMatches + out.Result
}

// search is who answers an SSDP search in the home.
func (v viewer) search() string {
	lo, err := net.InterfaceByName("lo")
	require.NoError(v.t, err)
	a := v.h.Segment.Addr().As4()
	a[3] = 254
	c, err := net.ListenUDP("udp4", &net.UDPAddr{IP: a[:]})
	require.NoError(v.t, err)
	defer c.Close()
	require.NoError(v.t, ipv4.NewPacketConn(c).SetMulticastInterface(lo))
	_, err = c.WriteTo([]byte("M-SEARCH * HTTP/1.1\r\nHOST: 239.255.255.250:1900\r\nMAN: \"ssdp:discover\"\r\nMX: 1\r\nST: upnp:rootdevice\r\n\r\n"), &net.UDPAddr{IP: net.IPv4(239, 255, 255, 250), Port: 1900})
	require.NoError(v.t, err)
	_ = c.SetReadDeadline(time.Now().Add(patience))
	var out []string
	b := make([]byte, 4096)
	for {
		n, err := c.Read(b)
		if err != nil {
			slices.Sort(out)
			return strings.Join(out, " ")
		}
		r, err := http.ReadResponse(bufio.NewReader(bytes.NewReader(b[:n])), nil)
		require.NoError(v.t, err)
		out = append(out, r.Header.Get("Location"))
	}
}

// amount tells how much of a film comes within a while: little or much.
func (v viewer) amount(host byte) string {
	c := v.from(host, "")
	c.Timeout = 1500 * time.Millisecond
	resp, err := c.Get("http://" + v.h.Server.Address.String() + "/media/1-1")
	if err != nil {
		return failure(err)
	}
	defer resp.Body.Close()
	n, _ := io.CopyN(io.Discard, resp.Body, 500_000)
	if n < 500_000 { // at 2 Mb/s it is 375,000, and else it is there at once
		return "little"
	}
	return "much"
}

func (v viewer) outer() string {
	all, err := internetgateway2.NewWANIPConnection2ClientsByURLCtx(v.t.Context(), description(v.t, v.h.Gateway))
	if err != nil || len(all) == 0 {
		return "none"
	}
	text, err := all[0].GetExternalIPAddress()
	return fmt.Sprint(text, err)
}

// share is what a guest sees of the file share.
func (v viewer) share() string {
	ctx, cancel := context.WithTimeout(v.t.Context(), 2*time.Second)
	defer cancel()
	c, err := net.DialTimeout("tcp4", netip.AddrPortFrom(v.h.Device("kelp").Address.Addr(), layout.SharePort).String(), patience)
	if err != nil {
		return failure(err)
	}
	defer c.Close()
	_ = c.SetDeadline(time.Now().Add(2 * time.Second))
	s, err := (&smb2.Dialer{Initiator: &smb2.NTLMInitiator{User: "guest"}}).DialConn(ctx, c, "kelp")
	if err != nil {
		return "no session"
	}
	share, err := s.Mount("media")
	require.NoError(v.t, err)
	films, err := share.ReadDir("Films")
	said := fmt.Sprint(len(films), os.IsPermission(err))
	f, err := share.Create("from-a-test")
	if err == nil {
		require.NoError(v.t, f.Close())
		require.NoError(v.t, share.Remove("from-a-test"))
	}
	return said + fmt.Sprint(" written ", err == nil)
}

func (v viewer) exports() string {
	c, err := net.DialTimeout("tcp4", netip.AddrPortFrom(v.h.Device("kelp").Address.Addr(), layout.MountPort).String(), patience)
	require.NoError(v.t, err)
	defer c.Close()
	var call []byte
	for _, w := range []uint32{40 | 1<<31, 7, 0, 2, 100005, 3, 5, 0, 0, 0, 0} {
		call = binary.BigEndian.AppendUint32(call, w)
	}
	_, err = c.Write(call)
	require.NoError(v.t, err)
	_ = c.SetReadDeadline(time.Now().Add(patience))
	b := make([]byte, 500)
	n, err := c.Read(b)
	require.NoError(v.t, err)
	return string(b[28:n])
}

func (v viewer) rtsp() string {
	c, err := net.DialTimeout("tcp4", v.h.Device("harbour").Address.String(), patience)
	require.NoError(v.t, err)
	defer c.Close()
	_, _ = fmt.Fprintf(c, "DESCRIBE rtsp://%s/harbour RTSP/1.0\r\nCSeq: 1\r\n\r\n", v.h.Device("harbour").Address)
	_ = c.SetReadDeadline(time.Now().Add(patience))
	line, _ := bufio.NewReader(c).ReadString('\n')
	return line
}

// plays puts a film on the lamp room screen and tells whether its position moves.
func (v viewer) plays(file string) string {
	clients, err := av1.NewAVTransport1ClientsByURLCtx(v.t.Context(), description(v.t, v.h.Screen))
	require.NoError(v.t, err)
	c := clients[0]
	if err := c.SetAVTransportURI(0, "http://"+v.h.Server.Address.String()+"/media/"+file, ""); err != nil {
		return "refused"
	}
	require.NoError(v.t, c.Play(0, "1"))
	defer func() { _ = c.Stop(0) }()
	for range 50 {
		_, _, _, _, at, _, _, _, err := c.GetPositionInfo(0)
		require.NoError(v.t, err)
		if at != "0:00:00.0" {
			return "moves"
		}
		<-time.After(100 * time.Millisecond) // that it stands still can only be seen by looking for a while
	}
	return "stands"
}

// seen says for each fault where it is seen.
var seen = map[string]func(viewer) string{
	"folders-hang":       func(v viewer) string { return v.browse("1", "") },
	"old-address":        viewer.search,
	"connection-refused": func(v viewer) string { return v.dial(v.h.Server) },
	"silent":             func(v viewer) string { return v.get(50, v.h.Server.Address.String()+layout.Locator) },
	"port-held":          func(v viewer) string { return v.get(50, v.h.Server.Address.String()+layout.Locator) },
	"wrong-adapter":      func(v viewer) string { return v.dial(v.h.Server) },
	"same-name":          func(v viewer) string { return v.get(50, v.h.Device("eila").Address.String()+layout.Locator) },
	"unknown-titles":     func(v viewer) string { return v.browse("1", "") },
	"wrong-kind":         func(v viewer) string { return v.browse("2", "") },
	"index-unfinished":   func(v viewer) string { return v.browse("1", "") },
	"index-empty":        func(v viewer) string { return v.browse("1", "") },
	"index-slow":         func(v viewer) string { return v.browse("1", "") },
	"no-rights":          func(v viewer) string { return v.browse("1", "") },
	"trial-ended":        func(v viewer) string { return v.browse("0", "") },
	"rate-cap":           func(v viewer) string { return v.amount(50) },
	"restart-due":        func(v viewer) string { return v.browse("0", "") },
	"settings-reset":     func(v viewer) string { return v.get(50, v.h.Server.Address.String()+layout.Locator) },
	"device-blocked":     func(v viewer) string { return v.browse("0", "Kuunari/6 UPnP/1.1 Norrvik/3.1") },
	"blocked-hours":      func(v viewer) string { return v.get(50, v.h.Server.Address.String()+"/media/1-1")[:3] },
	"opening-refused": func(v viewer) string {
		return v.get(50, v.h.Server.Address.String()+layout.Locator) + " but itself " + v.get(10, v.h.Server.Address.String()+layout.Locator)
	},
	"clock-wrong": func(v viewer) string {
		resp, err := v.from(50, "").Get("http://" + v.h.Server.Address.String() + layout.Locator)
		require.NoError(v.t, err)
		defer resp.Body.Close()
		at, err := http.ParseTime(resp.Header.Get("Date"))
		require.NoError(v.t, err)
		return fmt.Sprint(time.Since(at) > time.Hour)
	},
	"goodbye":            func(v viewer) string { return v.dial(v.h.Server) + v.search() },
	"slow-station":       func(v viewer) string { return v.amount(21) },
	"second-gateway":     func(v viewer) string { return v.outer() + v.search() },
	"mapping-off":        func(v viewer) string { return v.outer() },
	"names-silent":       func(v viewer) string { return v.reverse() },
	"multicast-lost":     viewer.search,
	"asleep":             func(v viewer) string { return v.get(50, v.h.Device("attic").Address.String()+layout.Locator) },
	"will-not-wake":      func(v viewer) string { return v.get(50, v.h.Device("attic").Address.String()+layout.Locator) },
	"list-old-address":   func(v viewer) string { return v.get(50, v.h.Device("aerial").Address.String()+"/aerial.m3u") },
	"guide-missing":      func(v viewer) string { return v.get(50, v.h.Device("aerial").Address.String()+"/guide.xml")[:3] },
	"channel-dead":       func(v viewer) string { return v.get(50, v.h.Device("aerial").Address.String()+"/channel/2")[:3] },
	"recordings-missing": func(v viewer) string { return v.get(50, v.h.Device("aerial").Address.String()+"/kept.m3u") },
	"feed-empty":         func(v viewer) string { return v.get(50, v.h.Device("foghorn").Address.String()+"/log.xml") },
	"stream-not-started": func(v viewer) string { return v.get(50, v.h.Device("foghorn").Address.String()+"/foghorn.ts")[:3] },
	"rtsp-password":      viewer.rtsp,
	"share-writable":     viewer.share,
	"share-no-rights":    viewer.share,
	"share-hangs":        viewer.share,
	"exports-closed":     viewer.exports,
	"screen-off":         func(v viewer) string { return v.dial(v.h.Screen) },
	"screen-stalls":      func(v viewer) string { return v.plays("1-1") },
	"picture-cropped":    func(v viewer) string { return v.errand("picture-fits") },
	"sound-late":         func(v viewer) string { return v.errand("lip-sync") },
	"screen-lies":        func(v viewer) string { return v.plays("1-2") },
}

// errand is what somebody sees in front of the lamp room screen.
func (v viewer) errand(test string) string {
	seen, err := layout.Send(v.t.Context(), 46, layout.Errand{Test: test, Screen: layout.ScreenName, Folder: "Films"})
	require.NoError(v.t, err)
	return seen.Says
}

func (v viewer) reverse() string {
	name, err := dns.ReverseAddr(v.h.Server.Address.Addr().String())
	require.NoError(v.t, err)
	c := dns.Client{Timeout: patience}
	m, _, err := c.ExchangeContext(v.t.Context(), new(dns.Msg).SetQuestion(name, dns.TypePTR), netip.AddrPortFrom(v.h.Gateway.Address.Addr(), layout.NamePort).String())
	if err != nil {
		return failure(err)
	}
	return fmt.Sprint(len(m.Answer))
}

// shows says what is seen with each fault, and not without it.
var shows = map[string]string{
	"folders-hang": `(?i)(deadline|timeout) exceeded`, "old-address": `127\.77\.46\.99:40210`, "connection-refused": `^refused$`, "silent": `^time-out$`,
	"port-held": `^503 old instance`, "wrong-adapter": `^refused$`, "same-name": `<friendlyName>Granite<`, "unknown-titles": `<dc:title>Unknown<`,
	"wrong-kind": `^5.*The Long Ebb</dc:title><upnp:class>object.item.audioItem`, "index-unfinished": `^2<`, "index-empty": `^0<`, "index-slow": `^0<`,
	"no-rights": `<errorCode>720<`, "trial-ended": `^1<.*childCount="1"`, "rate-cap": `^little$`, "restart-due": `^2<`,
	"settings-reset": `<friendlyName>New media server<`, "device-blocked": `^0<`, "blocked-hours": `^403$`, "opening-refused": `^broken off but itself 200 `,
	"clock-wrong": `^true$`, "goodbye": `^refused`, "slow-station": `^little$`, "second-gateway": `^10\.177\.4\.20<nil>.*127\.77\.46\.2:40001`,
	"mapping-off": `^none$`, "names-silent": `^time-out$`, "multicast-lost": `^$`, "asleep": `^time-out$`, "will-not-wake": `^time-out$`,
	"list-old-address": `127\.77\.46\.98:40413/channel/1`, "guide-missing": `^404$`, "channel-dead": `^404$`, "recordings-missing": `^200 #EXTM3U\n#PLAYLIST:Recordings\n$`,
	"feed-empty": `foghorn</title></channel>`, "stream-not-started": `^503$`, "rtsp-password": ` 401 Unauthorized`, "share-writable": ` written true$`, "share-no-rights": `^0 true `, "share-hangs": `^no session$`,
	"exports-closed": `^\x00{4}$`, "screen-off": `^refused$`, "screen-stalls": `^stands$`, "screen-lies": `^refused$`, "picture-cropped": `cannot be seen`, "sound-late": `240 ms after`,
}

// TestEveryFaultIsSeenAndGoesAgain switches each fault and looks through the sockets.
func TestEveryFaultIsSeenAndGoesAgain(t *testing.T) {
	h := start(t, 46)
	require.Empty(t, h.Notes)
	require.GreaterOrEqual(t, len(layout.Faults), 25)
	v := viewer{t, h}
	dates := regexp.MustCompile(`start="[^"]*"|\d{14}|at [\d:.]+ after \d+ ms`) // and what is measured
	for _, f := range layout.Faults {
		t.Run(f.Name, func(t *testing.T) {
			look := seen[f.Name]
			require.Contains(t, shows, f.Name)
			require.NotNil(t, look, "nothing looks for this fault")
			assert.NotEmpty(t, f.Says)
			assert.NotEmpty(t, f.Tests)
			v.t = t
			before := dates.ReplaceAllString(look(v), "")
			require.NoError(t, h.Switch(f.Name, true))
			with := look(v)
			require.NoError(t, h.Switch(f.Name, false))
			assert.Regexp(t, shows[f.Name], with)
			assert.NotRegexp(t, shows[f.Name], before)
			after := look(v)
			for n := 0; n < 40 && dates.ReplaceAllString(after, "") != before; n++ { // a device that was opened again may take a moment
				after = look(v)
			}
			assert.Equal(t, before, dates.ReplaceAllString(after, ""), "it stays")
		})
	}
	assert.Len(t, seen, len(layout.Faults))
	require.ErrorIs(t, h.Switch("nothing", true), layout.ErrNoFault)
}

func TestTheSleeperWakesByItsPacketAlone(t *testing.T) {
	h := practice.New(48)
	require.NoError(t, h.Switch("asleep", true))
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	attic := h.Device("attic")
	wake := netip.AddrPortFrom(attic.Address.Addr(), layout.WakePort)
	hw := attic.HardwareAddress()
	send := func(packet []byte) {
		c, err := net.DialUDP("udp4", nil, net.UDPAddrFromAddrPort(wake))
		require.NoError(t, err)
		defer c.Close()
		_, err = c.Write(packet)
		require.NoError(t, err)
	}
	magic := func(hw []byte) []byte { return append(bytes.Repeat([]byte{255}, 6), bytes.Repeat(hw, 16)...) }
	other := slices.Clone(hw[:])
	other[5]++
	send(magic(other))
	send([]byte("rubbish"))
	assert.True(t, attic.Asleep())
	send(magic(hw[:]))
	require.Eventually(t, func() bool { return !attic.Asleep() }, 2*time.Second, time.Millisecond)
	assert.Contains(t, viewer{t, h}.get(50, attic.Address.String()+layout.Locator), "Attic")
}

func TestTheStreamIsOneForAllAndDiesOnSeek(t *testing.T) {
	h := start(t, 47)
	at := "http://" + h.Device("foghorn").Address.String() + "/foghorn.ts"
	first, err := http.Get(at)
	require.NoError(t, err)
	defer first.Body.Close()
	second, err := http.Get(at)
	require.NoError(t, err)
	defer second.Body.Close()
	packet := make([]byte, 188)
	for _, r := range []io.Reader{first.Body, second.Body} {
		_, err = io.ReadFull(r, packet)
		require.NoError(t, err)
		assert.Equal(t, byte(0x47), packet[0])
	}
	assert.Empty(t, first.Header.Get("Accept-Ranges"))
	seek, err := http.NewRequest(http.MethodGet, at, nil)
	require.NoError(t, err)
	seek.Header.Set("Range", "bytes=100000-")
	third, err := http.DefaultClient.Do(seek)
	require.NoError(t, err)
	require.NoError(t, third.Body.Close())
	assert.Equal(t, 503, third.StatusCode)
	_, err = io.Copy(io.Discard, first.Body)
	require.NoError(t, err, "it ends for the others too")
	list, err := http.Get("http://" + h.Device("foghorn").Address.String() + "/foghorn/index.m3u8")
	require.NoError(t, err)
	b, err := io.ReadAll(list.Body)
	require.NoError(t, err)
	require.NoError(t, list.Body.Close())
	parts := regexp.MustCompile(`(?m)^part-\d+\.ts$`).FindAllString(string(b), -1)
	require.Len(t, parts, 3)
	part, err := http.Get("http://" + h.Device("foghorn").Address.String() + "/foghorn/" + parts[0])
	require.NoError(t, err)
	n, err := io.Copy(io.Discard, part.Body)
	require.NoError(t, err)
	require.NoError(t, part.Body.Close())
	assert.Zero(t, n%188)
}

// TestARendererPlaysSeeksAndStalls drives a screen as a control point does.
func TestARendererPlaysSeeksAndStalls(t *testing.T) {
	h := start(t, 49)
	clients, err := av1.NewAVTransport1ClientsByURLCtx(t.Context(), description(t, h.Screen))
	require.NoError(t, err)
	c := clients[0]
	media := "http://" + h.Server.Address.String() + "/media/"
	position := func() string {
		_, _, _, _, at, _, _, _, err := c.GetPositionInfo(0)
		require.NoError(t, err)
		return at
	}
	state := func() string {
		s, _, _, err := c.GetTransportInfo(0)
		require.NoError(t, err)
		return s
	}
	assert.ErrorContains(t, c.Play(0, "1"), "<errorCode>701<", "nothing is set")
	assert.ErrorContains(t, c.SetAVTransportURI(0, media+"9-9", ""), "<errorCode>716<", "absent")
	assert.ErrorContains(t, c.SetAVTransportURI(0, media+"2-1", ""), "<errorCode>714<", "FLAC it cannot")
	require.NoError(t, c.SetAVTransportURI(0, media+"1-1", `<DIDL-Lite><item><res duration="0:01:30"/></item></DIDL-Lite>`))
	assert.Equal(t, "STOPPED", state())
	require.NoError(t, c.Play(0, "1"))
	require.Eventually(t, func() bool { return strings.HasPrefix(position(), "0:00:01") }, 5*time.Second, 20*time.Millisecond)
	assert.Equal(t, "PLAYING", state())
	assert.ErrorContains(t, c.Seek(0, "TRACK_NR", "1"), "<errorCode>710<")
	assert.ErrorContains(t, c.Seek(0, "REL_TIME", "1:00:00"), "<errorCode>711<", "past its end")
	require.NoError(t, c.Seek(0, "REL_TIME", "0:01:00"))
	require.Eventually(t, func() bool { return strings.HasPrefix(position(), "0:01:01") }, 5*time.Second, 20*time.Millisecond)
	require.NoError(t, c.Pause(0))
	at := position()
	assert.Equal(t, "PAUSED_PLAYBACK", state())
	require.NoError(t, c.Play(0, "1"))
	assert.GreaterOrEqual(t, position(), at)
	require.NoError(t, c.Stop(0))
	assert.Equal(t, "0:00:00.0", position())
	_, duration, _, _, _, _, _, _, _, err := c.GetMediaInfo(0)
	require.NoError(t, err)
	assert.Equal(t, "0:01:30", duration)
	rendering, err := av1.NewRenderingControl1ClientsByURLCtx(t.Context(), description(t, h.Screen))
	require.NoError(t, err)
	require.NoError(t, rendering[0].SetVolume(0, "Master", 12))
	volume, err := rendering[0].GetVolume(0, "Master")
	require.NoError(t, err)
	assert.Equal(t, uint16(12), volume)
}

func TestAChangeOfTheIndexIsToldToWhoSubscribed(t *testing.T) {
	h := start(t, 50)
	a := h.Segment.Addr().As4()
	a[3] = 50
	l, err := net.ListenTCP("tcp4", &net.TCPAddr{IP: a[:]})
	require.NoError(t, err)
	said := make(chan string, 8)
	s := &http.Server{Handler: http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		b, _ := io.ReadAll(r.Body)
		said <- r.Header.Get("SEQ") + " " + string(b)
	})}
	go func() { _ = s.Serve(l) }()
	t.Cleanup(func() { _ = s.Close() })
	subscribe := func(headers map[string]string) int {
		r, err := http.NewRequest("SUBSCRIBE", "http://"+h.Server.Address.String()+"/event/ContentDirectory", nil)
		require.NoError(t, err)
		for k, v := range headers {
			r.Header.Set(k, v)
		}
		resp, err := viewer{t, h}.from(50, "").Do(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		return resp.StatusCode
	}
	assert.Equal(t, 412, subscribe(map[string]string{"CALLBACK": "<http://127.77.50.99:9/>", "NT": "upnp:event"}), "it must lead to the subscriber")
	require.Equal(t, 200, subscribe(map[string]string{"CALLBACK": "<http://" + l.Addr().String() + "/>", "NT": "upnp:event"}))
	assert.Contains(t, <-said, "SystemUpdateID")
	require.NoError(t, h.Switch("index-empty", true))
	assert.Contains(t, <-said, "1 ")
}
