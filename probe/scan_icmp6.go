package probe

import (
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"os"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"golang.org/x/net/icmp"
	"golang.org/x/net/ipv6"
	"golang.org/x/sys/unix"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/multicast"
	"kaiku/safely"
)

// Groups of all nodes and of all routers of a link (RFC 4291, section 2.7.1).
var (
	allNodes   = netip.MustParseAddr("ff02::1")
	allRouters = netip.MustParseAddr("ff02::2")
)

// advertisement is what a router says of the link (RFC 4861, section 4.2).
type advertisement struct {
	from     netip.Addr
	hardware dossier.HardwareAddr
	routes   bool // it is a way out: its lifetime as a router is not 0
	prefixes []netip.Prefix
	servers  []netip.Addr
	recalled bool // by this system, from earlier
}

// Options of an advertisement (RFC 4861, section 4.6; RFC 8106, section 5.1).
const (
	optionHardware = 1
	optionPrefix   = 3
	optionServers  = 25
	onLink         = 0x80
)

// readAdvertisement reads the body of a router advertisement, from after its checksum.
func readAdvertisement(b []byte) (advertisement, bool) {
	const head = 12
	if len(b) < head {
		return advertisement{}, false
	}
	a := advertisement{routes: binary.BigEndian.Uint16(b[2:]) > 0}
	for b = b[head:]; len(b) >= 2; {
		size := int(b[1]) * 8
		if size == 0 || size > len(b) {
			return advertisement{}, false // such a packet counts as none (RFC 4861, section 6.1.2)
		}
		option := b[:size]
		switch {
		case option[0] == optionHardware && size == 8:
			a.hardware, _ = dossier.ParseHardwareAddr(net.HardwareAddr(option[2:8]).String()) // six bytes are one
		case option[0] == optionPrefix && size == 32 && option[3]&onLink != 0 && binary.BigEndian.Uint32(option[4:]) > 0:
			at, _ := netip.AddrFromSlice(option[16:32]) // sixteen bytes are one
			p, err := at.Prefix(int(option[2]))
			if err == nil && !at.IsLinkLocalUnicast() && !at.IsMulticast() && !slices.Contains(a.prefixes, p) && len(a.prefixes) < mostAddresses {
				a.prefixes = append(a.prefixes, p)
			}
		case option[0] == optionServers && binary.BigEndian.Uint32(option[4:]) > 0:
			for rest := option[8:]; len(rest) >= 16 && len(a.servers) < mostAddresses; rest = rest[16:] {
				if at, _ := netip.AddrFromSlice(rest[:16]); !at.IsLinkLocalUnicast() && !slices.Contains(a.servers, at) {
					a.servers = append(a.servers, at)
				}
			}
		}
		b = b[size:]
	}
	return a, true
}

// icmpWait is how long answers of ICMPv6 are waited for. A router puts its answer off by up to half a second,
// and sends one to all at most every three (RFC 4861, sections 6.2.6 and 10).
const icmpWait = 3500 * time.Millisecond

// icmp6 asks all nodes of the link for an echo, by each of our addresses, and all routers for what they
// advertise. Where the system allows the echo alone, its own routes say who its routers are.
func (s *segmentScan) icmp6(ctx context.Context) matching.Question {
	if len(s.own6) == 0 {
		return matching.Question{Ended: matching.NotAsked, Detail: no6}
	}
	conn, err := icmp.ListenPacket("ip6:ipv6-icmp", "::")
	if err == nil && s.noRaw {
		err = errors.Join(unix.EPERM, conn.Close())
	}
	q := matching.Question{}
	if err == nil {
		q.Answers, err = s.askICMP6(ctx, conn, s.own6, &sync.Map{}, true)
		return askedICMP6(q, err)
	}
	q.Detail, q.Answers = "routers could not be asked: "+err.Error(), s.routes6()
	// One socket for each address: of an unprivileged one older systems do not let us choose from which address it asks.
	var each sync.WaitGroup
	var mu sync.Mutex
	var seen sync.Map
	var failed error
	asked := false
	for _, own := range s.own6 {
		zone := ""
		if isLinkLocal6(own) {
			zone = s.via.Name
		}
		safely.Go(&each, s.fell, func() {
			n := 0
			conn, err := icmp.ListenPacket("udp6", own.WithZone(zone).String())
			if err == nil { // the system has just given itself an address, and may not use it yet
				n, err = s.askICMP6(ctx, conn, []netip.Addr{own}, &seen, false)
			}
			mu.Lock()
			defer mu.Unlock()
			q.Answers += n
			asked, failed = asked || err == nil, cmp.Or(failed, err)
		})
	}
	each.Wait()
	if asked {
		failed = nil
	}
	return askedICMP6(q, failed)
}

// askedICMP6 says how a question has ended.
func askedICMP6(q matching.Question, err error) matching.Question {
	switch {
	case err != nil:
		q.Ended, q.Detail = matching.NotAsked, err.Error()
	case q.Answers > 0:
		q.Ended = matching.Answered
	default:
		q.Ended = matching.Silent
	}
	return q
}

// askICMP6 asks through one socket, and returns how many have answered that were not seen before. With all, routers are asked too.
func (s *segmentScan) askICMP6(ctx context.Context, conn *icmp.PacketConn, own []netip.Addr, seen *sync.Map, all bool) (answers int, err error) {
	defer func() { _ = conn.Close() }()
	p := conn.IPv6PacketConn()
	err = errors.Join(p.SetMulticastInterface(s.via), p.SetMulticastHopLimit(255), p.SetControlMessage(ipv6.FlagHopLimit|ipv6.FlagInterface, true), p.SetMulticastLoopback(false))
	if all {
		var only ipv6.ICMPFilter
		only.SetAll(true)
		only.Accept(ipv6.ICMPTypeEchoReply)
		only.Accept(ipv6.ICMPTypeRouterAdvertisement)
		err = errors.Join(err, p.SetICMPFilter(&only))
	}
	if err = errors.Join(err, s.solicit(p, own, all)); err != nil {
		return 0, err
	}
	again := time.AfterFunc(300*time.Millisecond, func() { _ = s.solicit(p, own, all) }) // one of two may be lost
	defer again.Stop()
	defer s.guard.lag.hear(ctx, p, min(icmpWait, s.window()))()
	for b, kept := make([]byte, 9000), 0; kept < mostAnswers; {
		n, cm, from, err := p.ReadFrom(b)
		if err != nil {
			break
		}
		at := addressOf(from)
		key := fmt.Sprint(at, b[0])
		if _, before := seen.Load(key); cm == nil || cm.IfIndex != s.via.Index || n < 4 || before {
			continue
		}
		news := false
		switch ipv6.ICMPType(b[0]) {
		case ipv6.ICMPTypeEchoReply:
			news = s.hear6(heard6{at: at, by: matching.ByICMP6})
		case ipv6.ICMPTypeRouterAdvertisement:
			if a, ok := readAdvertisement(b[4:n]); ok && cm.HopLimit == 255 && isLinkLocal6(at) { // others come from farther than this link
				a.from = at
				news = s.advertised(a)
			}
		}
		kept++
		if _, before := seen.LoadOrStore(key, true); news && !before {
			answers++
		}
	}
	return answers, nil
}

// addressOf is the address of a sender, without its zone.
func addressOf(from net.Addr) netip.Addr {
	var ip net.IP
	switch from := from.(type) {
	case *net.IPAddr:
		ip = from.IP
	case *net.UDPAddr:
		ip = from.IP
	}
	at, _ := netip.AddrFromSlice(ip) // the zero address if there is none
	return at
}

// solicit sends the questions: of our addresses each is answered from one of its own kind (RFC 6724). It fails if
// none of them could be sent.
func (s *segmentScan) solicit(p *ipv6.PacketConn, by []netip.Addr, all bool) error {
	echo := icmp.Message{Type: ipv6.ICMPTypeEchoRequest, Body: &icmp.Echo{ID: os.Getpid() & 0xffff, Seq: 1, Data: []byte("kaiku")}}
	var failed error
	sent := false
	send := func(own, to netip.Addr, m icmp.Message) {
		err := s.send6(p, all, own, to, m)
		failed, sent = cmp.Or(failed, err), sent || err == nil
	}
	for _, own := range by {
		if isLinkLocal6(own) || s.in6(own) {
			send(own, allNodes, echo)
		}
	}
	for _, to := range s.asked6() {
		if own, ok := s.from6(&net.UDPAddr{IP: to.AsSlice()}); ok && slices.Contains(by, own) {
			send(own, to, echo)
		}
	}
	if own, ok := s.from6(multicast.SSDP6); ok && all {
		send(own, allRouters, icmp.Message{Type: ipv6.ICMPTypeRouterSolicitation, Body: &icmp.RawBody{Data: s.solicitation()}})
	}
	if sent {
		return nil
	}
	return failed
}

// asked6 lists the addresses that are asked for an echo themselves: an entry of the neighbour table that is trusted
// for another half a minute is not asked by the system.
func (s *segmentScan) asked6() []netip.Addr {
	var out []netip.Addr
	for _, i := range s.d.Interfaces {
		for _, a := range i.Addresses {
			if s.may6(a) && len(out) < mostSwept {
				out = append(out, a)
			}
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, h := range s.heard {
		if h.unproven {
			out = append(out, h.at)
		}
	}
	return out
}

// send6 sends one message of ICMPv6 from an own address.
func (s *segmentScan) send6(p *ipv6.PacketConn, raw bool, own, to netip.Addr, message icmp.Message) error {
	b, err := message.Marshal(nil) // the system puts the checksum in
	if err != nil {
		return err
	}
	var dst net.Addr = &net.IPAddr{IP: to.AsSlice(), Zone: s.guard.link}
	if !raw {
		dst = &net.UDPAddr{IP: to.AsSlice(), Zone: s.guard.link}
	}
	if !to.IsMulticast() {
		s.guard.note(netip.AddrPortFrom(to, 0))
	}
	if _, err := p.WriteTo(b, &ipv6.ControlMessage{Src: own.AsSlice(), IfIndex: s.via.Index}, dst); err != nil {
		return fmt.Errorf("ask %s: %w", to, err)
	}
	return nil
}

// solicitation is the body of a router solicitation, with our MAC address (RFC 4861, section 4.1).
func (s *segmentScan) solicitation() []byte {
	b := make([]byte, 4)
	if len(s.via.HardwareAddr) == 6 {
		b = append(append(b, optionHardware, 1), s.via.HardwareAddr...)
	}
	return b
}

// advertised keeps an advertisement. It is noted with its sender when it is known who that is.
func (s *segmentScan) advertised(a advertisement) bool {
	s.mu.Lock()
	s.routers = append(s.routers, a)
	s.mu.Unlock()
	return s.hear6(heard6{at: a.from, by: matching.ByICMP6, unproven: a.recalled, note: func(h *matching.Host) {
		if a.routes {
			addRole(h, dossier.RoleRouter, matching.ByICMP6)
		}
		h.Say(1, "hardwareAddress", a.hardware, matching.ByICMP6)
		p, sure := s.prefix6()
		if len(a.prefixes) == 0 || !sure {
			return
		}
		n := seenSegment(h)
		h.Say(n, "prefix6", p, matching.ByICMP6)
		h.Say(n, "nameServers", a.servers, matching.ByICMP6)
	}})
}

// prefix6 is the prefix that is advertised on the link: a global one before one that is only local (RFC 4193).
// Where there are several it is not certain, unless one of them is the recorded one. The lock is held.
func (s *segmentScan) prefix6() (netip.Prefix, bool) {
	var all []netip.Prefix
	for _, a := range s.routers {
		for _, p := range a.prefixes {
			if !slices.Contains(all, p) {
				all = append(all, p)
			}
		}
	}
	if slices.Contains(all, s.segment.Prefix6) {
		return s.segment.Prefix6, true
	}
	global := slices.DeleteFunc(slices.Clone(all), func(p netip.Prefix) bool { return p.Addr().IsPrivate() })
	if len(global) == 0 {
		global = all
	}
	if len(global) != 1 {
		return netip.Prefix{}, false
	}
	return global[0], true
}

// noteRouters says what advertisements mean for the scan as a whole.
func (s *segmentScan) noteRouters() {
	s.mu.Lock()
	var unrecorded, senders []string
	for _, a := range s.routers {
		if len(a.prefixes) > 0 {
			senders = append(senders, a.from.String())
		}
		for _, p := range a.prefixes {
			if p != s.segment.Prefix6 && !slices.Contains(unrecorded, p.String()) {
				unrecorded = append(unrecorded, p.String())
			}
		}
	}
	s.mu.Unlock()
	slices.Sort(unrecorded)
	slices.Sort(senders)
	if len(unrecorded) > 0 {
		s.note(fmt.Sprintf("%s: the IPv6 prefix %s is advertised and not recorded; addresses in it were not contacted", s.segment.Name, strings.Join(unrecorded, ", ")))
	}
	if senders = slices.Compact(senders); len(senders) > 1 {
		s.note(fmt.Sprintf("%s: several devices advertise IPv6 prefixes: %s", s.segment.Name, strings.Join(senders, ", ")))
	}
}

// routes6 reads from the system's routes which routers have advertised themselves to it, and returns how many.
func (s *segmentScan) routes6() int {
	dump, err := syscall.NetlinkRIB(unix.RTM_GETROUTE, unix.AF_INET6)
	if err != nil {
		return 0 // it is not told on every system
	}
	messages, err := syscall.ParseNetlinkMessage(dump)
	if err != nil {
		return 0
	}
	found := 0
	for _, m := range messages {
		if r, ok := readRoute6(m); ok && r.via == s.via.Index && s.advertised(advertisement{from: r.gateway, routes: true, recalled: true}) {
			found++
		}
	}
	return found
}

// route6 is a way out that a router has advertised to this system.
type route6 struct {
	gateway netip.Addr
	via     int
}

// readRoute6 reads a route of rtnetlink, if it is a way out and comes from an advertisement (rtnetlink(7)).
func readRoute6(m syscall.NetlinkMessage) (route6, bool) {
	const protocol, wide = 5, 1 // places in the head of a route
	if m.Header.Type != unix.RTM_NEWROUTE || len(m.Data) < unix.SizeofRtMsg || m.Data[protocol] != unix.RTPROT_RA || m.Data[wide] != 0 {
		return route6{}, false
	}
	attributes, err := syscall.ParseNetlinkRouteAttr(&m)
	if err != nil {
		return route6{}, false
	}
	var r route6
	for _, a := range attributes {
		switch {
		case a.Attr.Type == unix.RTA_GATEWAY:
			r.gateway, _ = netip.AddrFromSlice(a.Value)
		case a.Attr.Type == unix.RTA_OIF && len(a.Value) >= 4:
			r.via = int(binary.NativeEndian.Uint32(a.Value))
		}
	}
	return r, r.gateway.IsValid()
}
