package probe

import (
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/miekg/dns"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/icmp"
	"golang.org/x/net/ipv6"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
	"kaiku/multicast"
)

// sixHouse is a network where one host has both families and announces a media server by IPv6 alone, another has
// IPv6 alone and answers by mDNS, and a third advertises the prefix.
func sixHouse(t *testing.T) {
	newLAN(t, "10.20.4.10")
	far := fmt.Sprintf("kaiku-lan-%d", os.Getpid())
	run := func(args ...string) {
		out, err := exec.Command("ip", args...).CombinedOutput()
		require.NoError(t, err, "ip %s: %s", strings.Join(args, " "), out)
	}
	run("netns", "exec", far, "sysctl", "-qw", "net.ipv4.conf.all.arp_ignore=1") // each adapter answers for its own
	require.NoError(t, os.WriteFile("/proc/sys/net/ipv4/ping_group_range", []byte("0 2147483647"), 0))
	run("addr", "add", "2001:db8:4::2/64", "dev", "lan0", "nodad")
	run("-n", far, "addr", "add", "2001:db8:4::10/64", "dev", "eth0", "nodad")
	for n, name := range []string{"second", "third"} {
		run("-n", far, "link", "add", name, "link", "eth0", "address", fmt.Sprintf("02:4b:49:00:04:2%d", n), "type", "macvlan", "mode", "bridge")
		run("netns", "exec", far, "sysctl", "-qw", "net.ipv6.conf."+name+".accept_dad=0", "net.ipv6.conf."+name+".accept_ra=0")
		run("-n", far, "link", "set", name, "up")
	}
	run("-n", far, "addr", "add", "2001:db8:4::20/64", "dev", "second", "nodad")
	run("netns", "exec", far, "sysctl", "-qw", "net.ipv6.conf.third.forwarding=1") // a router says that it is one when asked for its hardware address, too
	for _, one := range [][2]string{{"", "lan0"}, {far, "eth0"}, {far, "second"}, {far, "third"}} {
		args := []string{"-6", "-o", "addr", "show", "dev", one[1], "scope", "link"}
		if one[0] != "" {
			args = append([]string{"-n", far}, args...)
		}
		require.Eventually(t, func() bool {
			out, err := exec.Command("ip", args...).Output()
			return err == nil && strings.Contains(string(out), "fe80::") && !strings.Contains(string(out), "tentative")
		}, 10*time.Second, 50*time.Millisecond, "%v has an address of its own", one)
	}

	thereIn(t, far, func() error {
		l, err := net.Listen("tcp6", "[::]:8200")
		if err != nil {
			return err
		}
		srv := &http.Server{ReadHeaderTimeout: time.Minute, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			fmt.Fprint(w, `<root xmlns="urn:schemas-upnp-org:device-1-0"><device><deviceType>urn:schemas-upnp-org:device:MediaServer:1</deviceType><friendlyName>Shelf</friendlyName><UDN>uuid:6b49-6</UDN></device></root>`)
		})}
		go func() { _ = srv.Serve(l) }()
		t.Cleanup(func() { _ = srv.Close() })
		return nil
	})
	hear := func(group *net.UDPAddr, adapter string, each func(b []byte, from netip.AddrPort, reply *net.UDPConn, own netip.Addr)) {
		var ear *multicast.Ear
		var reply *net.UDPConn
		var own netip.Addr
		thereIn(t, far, func() error {
			via, err := net.InterfaceByName(adapter)
			if err != nil {
				return err
			}
			if ear, err = multicast.Hear(group, via); err != nil {
				return err
			}
			own = ownAddresses6(via)[0]
			reply, err = multicast.Speak(netip.AddrPortFrom(own, uint16(group.Port)), via, 255)
			return err
		})
		t.Cleanup(func() { _ = ear.Close(); _ = reply.Close() })
		go func() {
			for b := make([]byte, 9000); ; {
				n, from, err := ear.Next(b)
				if err != nil {
					return
				}
				each(b[:n], from, reply, own)
			}
		}()
	}
	hear(multicast.SSDP6, "eth0", func(b []byte, from netip.AddrPort, reply *net.UDPConn, own netip.Addr) {
		if strings.HasPrefix(string(b), "M-SEARCH") {
			answer := fmt.Sprintf("HTTP/1.1 200 OK\r\nLOCATION: http://[%s]:8200/d.xml\r\nSERVER: A/1 UPnP/1.1 B/1\r\nST: upnp:rootdevice\r\nUSN: uuid:6b49-6::upnp:rootdevice\r\n\r\n", own)
			_, _ = reply.WriteToUDPAddrPort([]byte(answer), from)
		}
	})
	hear(multicast.MDNS6, "second", func(b []byte, _ netip.AddrPort, reply *net.UDPConn, own netip.Addr) {
		var m dns.Msg
		if m.Unpack(b) != nil || m.Response {
			return
		}
		head := func(name string, kind uint16) dns.RR_Header {
			return dns.RR_Header{Name: name, Rrtype: kind, Class: dns.ClassINET, Ttl: 120}
		}
		answer := dns.Msg{MsgHdr: dns.MsgHdr{Response: true, Authoritative: true}, Answer: []dns.RR{
			&dns.PTR{Hdr: head("_services._dns-sd._udp.local.", dns.TypePTR), Ptr: "_http._tcp.local."},
			&dns.PTR{Hdr: head("_http._tcp.local.", dns.TypePTR), Ptr: "Attic._http._tcp.local."},
			&dns.SRV{Hdr: head("Attic._http._tcp.local.", dns.TypeSRV), Port: 80, Target: "attic.local."},
			&dns.AAAA{Hdr: head("attic.local.", dns.TypeAAAA), AAAA: own.AsSlice()},
			&dns.AAAA{Hdr: head("attic.local.", dns.TypeAAAA), AAAA: net.ParseIP("2001:db8:4::20")}}}
		if packet, err := answer.Pack(); err == nil {
			_, _ = reply.WriteTo(packet, multicast.MDNS6)
		}
	})
	advertise(t, far, "third")
}

// advertise answers solicitations on an adapter as a router does.
func advertise(t *testing.T, far, adapter string) {
	var conn *icmp.PacketConn
	var via *net.Interface
	thereIn(t, far, func() (err error) {
		if via, err = net.InterfaceByName(adapter); err != nil {
			return err
		}
		if conn, err = icmp.ListenPacket("ip6:ipv6-icmp", "::"); err != nil {
			return err
		}
		p := conn.IPv6PacketConn()
		if err = p.JoinGroup(via, &net.IPAddr{IP: allRouters.AsSlice()}); err != nil {
			return err
		}
		if err = p.SetMulticastInterface(via); err != nil {
			return err
		}
		return p.SetMulticastHopLimit(255)
	})
	t.Cleanup(func() { _ = conn.Close() })
	own := netip.Addr{}
	thereIn(t, far, func() error { own = ownAddresses6(via)[0]; return nil })
	go func() {
		for b := make([]byte, 2000); ; {
			n, _, err := conn.ReadFrom(b)
			if err != nil {
				return
			}
			if n == 0 || ipv6.ICMPType(b[0]) != ipv6.ICMPTypeRouterSolicitation {
				continue
			}
			message := icmp.Message{Type: ipv6.ICMPTypeRouterAdvertisement, Body: &icmp.RawBody{Data: advertisementOf(1800, "2001:db8:4::/64")}}
			if packet, err := message.Marshal(nil); err == nil {
				_, _ = conn.IPv6PacketConn().WriteTo(packet, &ipv6.ControlMessage{Src: own.AsSlice(), IfIndex: via.Index}, &net.IPAddr{IP: allNodes.AsSlice(), Zone: multicast.Zone(via)})
			}
		}
	}()
}

// advertisementOf writes an advertisement of prefixes, with one name server.
func advertisementOf(lifetime uint16, prefixes ...string) []byte {
	b := []byte{64, 0, byte(lifetime >> 8), byte(lifetime), 0, 0, 0, 0, 0, 0, 0, 0}
	for _, text := range prefixes {
		p := netip.MustParsePrefix(text)
		b = append(b, optionPrefix, 4, byte(p.Bits()), 0xc0, 0, 0, 14, 16, 0, 0, 14, 16, 0, 0, 0, 0)
		at := p.Addr().As16()
		b = append(b, at[:]...)
	}
	b = append(b, optionServers, 3, 0, 0, 0, 0, 4, 0)
	server := netip.MustParseAddr("2001:db8:4::53").As16()
	return append(b, server[:]...)
}

// What speaks IPv6 is found, each address with its own host: a server that announces itself by IPv6 alone, a host
// without IPv4, a router with its prefix. A second scan shows no change.
func TestWhatSpeaksIPv6IsFound(t *testing.T) {
	sixHouse(t)
	d, _, p := lanHome()
	d.Segments[0].Prefix6 = netip.MustParsePrefix("2001:db8:4::/64")
	p.Guard.Within = append(p.Guard.Within, d.Segments[0].Prefix6)
	for _, noRaw := range []bool{false, true} {
		t.Run(fmt.Sprint("without raw sockets ", noRaw), func(t *testing.T) {
			p.noRaw = noRaw
			first, err := p.Scan(t.Context(), d, nil)
			require.NoError(t, err)
			for _, q := range first.Asked {
				t.Log(q.Way, q.Ended, q.Answers, q.Detail)
			}
			require.NoError(t, first.Check(d))
			byHardware := map[dossier.HardwareAddr]matching.Host{}
			for _, h := range first.Hosts {
				t.Log(h.Address, h.Seen)
				hw, _ := h.Seen[1].Members["hardwareAddress"].(dossier.HardwareAddr)
				byHardware[hw] = h
			}
			require.Len(t, first.Hosts, 3)
			both := byHardware["02:4b:49:00:04:10"]
			assert.Equal(t, netip.MustParseAddr("10.20.4.10"), both.Address)
			assert.Equal(t, []netip.Addr{netip.MustParseAddr("10.20.4.10"), netip.MustParseAddr("2001:db8:4::10")}, both.Seen[1].Members["addresses"])
			i := slices.IndexFunc(both.Seen, func(s matching.Seen) bool { return s.Kind == "source" })
			require.GreaterOrEqual(t, i, 0, "the server that announces itself by IPv6 alone")
			assert.Equal(t, "Shelf", both.Seen[i].Members["shownName"])
			alone := byHardware["02:4b:49:00:04:20"]
			assert.Equal(t, netip.MustParseAddr("2001:db8:4::20"), alone.Address)
			assert.Equal(t, "attic.local", alone.Seen[0].Members["hostName"])
			assert.Equal(t, "Attic", alone.Seen[0].Members["name"])
			router := byHardware["02:4b:49:00:04:21"]
			assert.Equal(t, []dossier.Role{dossier.RoleRouter}, router.Seen[0].Members["roles"])
			if !noRaw { // the system's own routes do not tell it
				i = slices.IndexFunc(router.Seen, func(s matching.Seen) bool { return s.Kind == "segment" })
				require.GreaterOrEqual(t, i, 0)
				assert.Equal(t, d.Segments[0].Prefix6, router.Seen[i].Members["prefix6"])
			}
			again, err := p.Scan(t.Context(), d, nil)
			require.NoError(t, err)
			require.NoError(t, again.Check(d))
			for _, q := range again.Asked {
				t.Log(q.Way, q.Ended, q.Answers, q.Detail)
			}
			for _, b := range matching.Compare(d, again, first, nil) {
				assert.Equal(t, matching.SinceSame, b.Since, "%s: %v", b.Host.Address, b.Changes)
			}
		})
	}
}

// What is advertised is read as the standard says, whatever else stands in it.
func TestAdvertisements(t *testing.T) {
	global, local := "2001:db8:4::/64", "fd4b:49::/64"
	a, ok := readAdvertisement(advertisementOf(1800, global, local))
	require.True(t, ok)
	assert.Equal(t, advertisement{routes: true, prefixes: []netip.Prefix{netip.MustParsePrefix(global), netip.MustParsePrefix(local)}, servers: []netip.Addr{netip.MustParseAddr("2001:db8:4::53")}}, a)
	a, ok = readAdvertisement(advertisementOf(0))
	assert.True(t, ok)
	assert.False(t, a.routes, "a lifetime of 0 is no way out")
	notOnLink := advertisementOf(1800, global)
	notOnLink[15] = 0x40
	a, _ = readAdvertisement(notOnLink)
	assert.Empty(t, a.prefixes)
	_, ok = readAdvertisement(append(advertisementOf(1800), 5, 0))
	assert.False(t, ok, "an option without a length")
	for name, one := range map[string]struct {
		recorded string
		said     []string
		want     string
	}{
		"one":                          {"", []string{global}, global},
		"a global and a local one":     {"", []string{local, global}, global},
		"a local one alone":            {"", []string{local}, local},
		"two of a kind":                {"", []string{global, "2001:db8:5::/64"}, ""},
		"two, of which one is ours":    {global, []string{"2001:db8:5::/64", global}, global},
		"another one than is recorded": {global, []string{"2001:db8:5::/64"}, "2001:db8:5::/64"},
	} {
		s := &segmentScan{}
		if one.recorded != "" {
			s.segment.Prefix6 = netip.MustParsePrefix(one.recorded)
		}
		for _, p := range one.said {
			s.routers = append(s.routers, advertisement{prefixes: []netip.Prefix{netip.MustParsePrefix(p)}})
		}
		p, sure := s.prefix6()
		assert.Equal(t, one.want != "", sure, name)
		if sure {
			assert.Equal(t, one.want, p.String(), name)
		}
	}
}

func FuzzAdvertisement(f *testing.F) {
	f.Add(advertisementOf(1800, "2001:db8:4::/64"))
	f.Fuzz(func(t *testing.T, b []byte) {
		a, ok := readAdvertisement(b)
		if !ok {
			return
		}
		for _, p := range a.prefixes {
			if !p.IsValid() || p.Addr().IsLinkLocalUnicast() {
				t.Errorf("advertises %v", p)
			}
		}
	})
}

// A link-local address leads no further than the wire of the segment that may be asked.
func TestLinkLocalAddressesStayOnTheirLink(t *testing.T) {
	h := Guard{Within: []netip.Prefix{netip.MustParsePrefix("10.20.4.0/24")}}.ForHome(homes.Small())
	one := netip.MustParseAddr("fe80::4b:49ff:fe00:410")
	assert.ErrorIs(t, h.Allow(one), ErrOutside)
	on := h.on(&net.Interface{Index: 7, Name: "lan0"})
	assert.NoError(t, on.Allow(one))
	assert.NoError(t, on.Allow(one.WithZone("7")))
	assert.ErrorIs(t, on.Allow(one.WithZone("8")), ErrOutside)
	assert.ErrorIs(t, on.Allow(netip.MustParseAddr("2001:db8:4::10")), ErrOutside)
	assert.Equal(t, "[fe80::4b:49ff:fe00:410%7]:80", on.zoned(netip.AddrPortFrom(one, 80)).String())
}

// Addresses are put together by MAC address and host name, in whatever order they were heard.
func TestAddressesOfOneMachineAreOneGroup(t *testing.T) {
	at := netip.MustParseAddr
	hardware := map[netip.Addr]dossier.HardwareAddr{at("fe80::1"): "02:4b:49:00:00:01", at("2001:db8::1"): "02:4b:49:00:00:01", at("fe80::2"): "02:4b:49:00:00:02"}
	heard := []heard6{{at: at("2001:db8::3"), name: "attic.local"}, {at: at("2001:db8::1")}, {at: at("fe80::2")}, {at: at("fe80::1")}, {at: at("fe80::3"), name: "attic.local"}, {at: at("fe80::4")}}
	for range 2 {
		var got [][]netip.Addr
		for _, g := range groupsOf(slices.Clone(heard), hardware) {
			got = append(got, g.addresses)
		}
		assert.Equal(t, [][]netip.Addr{{at("2001:db8::1"), at("fe80::1")}, {at("2001:db8::3"), at("fe80::3")}, {at("fe80::2")}, {at("fe80::4")}}, got)
		slices.Reverse(heard)
	}
}
