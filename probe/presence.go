package probe

import (
	"context"
	"encoding/binary"
	"fmt"
	"net"
	"net/netip"
	"slices"
	"syscall"
	"time"

	"golang.org/x/net/icmp"
	"golang.org/x/net/ipv4"
	"golang.org/x/sys/unix"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// neighbour is an entry of the operating system's neighbour table, as of an instant.
type neighbour struct {
	address  netip.Addr
	via      int // the adapter, by its index
	hardware dossier.HardwareAddr
	state    uint16    // NUD_...
	answered time.Time // when the host last proved that it is there
}

// Offsets and attributes of a neighbour message of rtnetlink (linux/neighbour.h). Times are ticks of which
// there are 100 in a second (USER_HZ).
const (
	neighbourHeader = 12
	attrDestination = 1
	attrHardware    = 2
	attrTimes       = 3
	ticks           = 100
)

// neighbourTable reads the neighbour table, of IPv4 and IPv6, with when each host last answered.
func neighbourTable() ([]neighbour, error) {
	now := time.Now()
	dump, err := syscall.NetlinkRIB(unix.RTM_GETNEIGH, unix.AF_UNSPEC)
	if err != nil {
		return nil, fmt.Errorf("read the neighbour table: %w", err)
	}
	messages, err := syscall.ParseNetlinkMessage(dump)
	if err != nil {
		return nil, fmt.Errorf("read the neighbour table: %w", err)
	}
	var out []neighbour
	for _, m := range messages {
		if m.Header.Type == unix.RTM_NEWNEIGH {
			if n, ok := readNeighbour(m.Data, now); ok {
				out = append(out, n)
			}
		}
	}
	return out, nil
}

// readNeighbour reads one message. What has no address is left out.
func readNeighbour(b []byte, now time.Time) (neighbour, bool) {
	if len(b) < neighbourHeader {
		return neighbour{}, false
	}
	n := neighbour{via: int(int32(binary.NativeEndian.Uint32(b[4:]))), state: binary.NativeEndian.Uint16(b[8:])}
	for b = b[neighbourHeader:]; len(b) >= 4; {
		size, kind := int(binary.NativeEndian.Uint16(b)), binary.NativeEndian.Uint16(b[2:])
		if size < 4 || size > len(b) {
			break
		}
		value := b[4:size]
		switch {
		case kind == attrDestination:
			n.address, _ = netip.AddrFromSlice(value)
			n.address = n.address.Unmap()
		case kind == attrHardware && len(value) == 6:
			n.hardware, _ = dossier.ParseHardwareAddr(net.HardwareAddr(value).String()) // six bytes are one
		case kind == attrTimes && len(value) >= 4:
			n.answered = now.Add(-time.Duration(binary.NativeEndian.Uint32(value)) * time.Second / ticks)
		}
		b = b[min((size+3)&^3, len(b)):]
	}
	return n, n.address.IsValid()
}

// settled reports whether the system is not asking the host any more.
func (n neighbour) settled() bool {
	return n.state&(unix.NUD_INCOMPLETE|unix.NUD_DELAY|unix.NUD_PROBE) == 0
}

// here reports whether the host has answered since then. The table counts in hundredths of a second.
func (n neighbour) here(since time.Time) bool {
	return n.hardware != "" && n.state&(unix.NUD_FAILED|unix.NUD_INCOMPLETE) == 0 && !n.answered.Before(since.Add(-20*time.Millisecond))
}

// trusted reports whether the system takes the host to be there by an answer from before then: it does not ask
// again for up to 45 seconds (RFC 4861, section 6.3.2; arp(7) for IPv4).
func (n neighbour) trusted(since time.Time) bool {
	return n.state&unix.NUD_REACHABLE != 0 && !n.here(since)
}

// confirmTime is how long a system takes to find out that a host of its table is gone: five seconds in which
// something else may speak for it, then three questions a second apart (RFC 4861, section 7.3.3, and
// arp(7)), and one more for its new place.
const confirmTime = 10 * time.Second

// neighbours notes the hosts that have answered the system's own question since the scan began, with their
// MAC addresses: an entry of its table that is older proves nothing. Of a host that has answered something
// else, an entry that the system trusts says the MAC address. Where a host has not been decided yet, it waits
// until the system has.
func (g *scanner) neighbours(ctx context.Context) {
	if !slices.ContainsFunc(g.segments, func(s *segmentScan) bool { return !s.own.IsLoopback() }) {
		return
	}
	since := g.began // the last time at which the system was asked something new
	poked := map[netip.Addr]bool{}
	for {
		table, err := neighbourTable()
		if err != nil {
			return // it is not told on every system
		}
		open := false
		for _, s := range g.segments {
			for _, n := range table {
				switch {
				case !s.segment.Prefix.Contains(n.address) || n.address == s.own || g.byARP(n.address):
				case n.here(g.began), g.saw(n.address) && n.state&unix.NUD_REACHABLE != 0:
					s.hardware(n.address, n.hardware)
				case !n.settled():
					open = true
				case g.saw(n.address) && n.state&unix.NUD_FAILED != 0: // it has answered, so it has another MAC address now
					if !poked[n.address] { // its answer takes as long as any
						poked[n.address], since = true, time.Now()
					}
					s.poke([]netip.Addr{n.address})
					open = true
				}
			}
		}
		if !open || time.Since(since) > confirmTime {
			return
		}
		select {
		case <-time.After(250 * time.Millisecond):
		case <-ctx.Done():
			return
		}
	}
}

// keepUnasked keeps the addresses whose hosts were there shortly before the scan and have said nothing in it, where
// the system does not ask them again: they are neither seen nor silent.
func (g *scanner) keepUnasked() {
	table, err := neighbourTable()
	if err != nil {
		return
	}
	g.mu.Lock()
	seen := map[netip.Addr]bool{}
	for _, h := range g.hosts {
		for _, a := range h.Addresses() {
			seen[a] = true
		}
	}
	g.mu.Unlock()
	for _, n := range table {
		inside := slices.ContainsFunc(g.segments, func(s *segmentScan) bool {
			return s.via.Index == n.via && (s.segment.Prefix.Contains(n.address) || s.segment.Prefix6.Contains(n.address)) && n.address != s.own
		})
		if inside && n.trusted(g.began) && !seen[n.address] && (!g.only.IsValid() || n.address == g.only) && len(g.out.Unasked) < matching.MostUnasked {
			g.out.Unasked = append(g.out.Unasked, n.address)
		}
	}
}

// saw reports whether the host has been seen in this scan.
func (g *scanner) saw(at netip.Addr) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.hosts[at] != nil
}

// byARP reports whether the host has said its MAC address itself in this scan.
func (g *scanner) byARP(at netip.Addr) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.spoke[at]
}

// poke sends a packet to each address, so that the system has to find out who has it.
func (s *segmentScan) poke(all []netip.Addr) {
	conn, err := net.ListenUDP("udp4", net.UDPAddrFromAddrPort(netip.AddrPortFrom(s.own, 0)))
	if err != nil {
		return // its table stays as it is
	}
	defer func() { _ = conn.Close() }()
	for _, a := range all {
		if s.guard.Allow(a) == nil {
			s.guard.note(netip.AddrPortFrom(a, 9))
			_, _ = conn.WriteToUDPAddrPort([]byte{0}, netip.AddrPortFrom(a, 9)) // the discard port (RFC 863)
		}
	}
}

// addAddress adds an address to a host's adapter.
func addAddress(h *matching.Host, at netip.Addr, by matching.Way) {
	have, _ := h.Seen[1].Members["addresses"].([]netip.Addr)
	if slices.Contains(have, at) || len(have) >= mostAddresses {
		return
	}
	have = append(slices.Clone(have), at)
	slices.SortFunc(have, netip.Addr.Compare)
	h.Seen[1].Members["addresses"], h.Seen[1].By["addresses"] = have, by
}

// mostAddresses bounds the addresses of one adapter.
const mostAddresses = 8

// hardware notes the MAC address by which a host answered.
func (s *segmentScan) hardware(at netip.Addr, hardware dossier.HardwareAddr) {
	s.host(at, func(h *matching.Host) { h.Say(1, "hardwareAddress", hardware, matching.ByNeighbours) })
}

// Fields of an ARP packet for IPv4 over Ethernet (RFC 826).
const (
	arpSize    = 28
	arpRequest = 1
	arpReply   = 2
	arpWait    = 400 * time.Millisecond // for answers, after the last question
)

// arp asks each address directly who has it, twice, and notes who answers. It returns false where the system
// does not let us: then its own table has to do.
func (s *segmentScan) arp(ctx context.Context, all []netip.Addr) bool {
	if s.noRaw || len(s.via.HardwareAddr) != 6 {
		return false
	}
	protocol := uint16(unix.ETH_P_ARP)
	order := protocol<<8 | protocol>>8 // the kernel takes it in network order
	fd, err := unix.Socket(unix.AF_PACKET, unix.SOCK_DGRAM|unix.SOCK_CLOEXEC|unix.SOCK_NONBLOCK, int(order))
	if err != nil {
		return false
	}
	defer func() { _ = unix.Close(fd) }()
	if err := unix.Bind(fd, &unix.SockaddrLinklayer{Protocol: order, Ifindex: s.via.Index}); err != nil {
		return false
	}
	everybody := &unix.SockaddrLinklayer{Protocol: order, Ifindex: s.via.Index, Halen: 6, Addr: [8]byte{0xff, 0xff, 0xff, 0xff, 0xff, 0xff}}
	question := make([]byte, arpSize)
	copy(question, []byte{0, 1, 8, 0, 6, 4, 0, arpRequest})
	copy(question[8:], s.via.HardwareAddr)
	own := s.own.As4()
	copy(question[14:], own[:])
	for range 2 {
		for n, a := range all {
			if ctx.Err() != nil {
				return true
			}
			if s.guard.Allow(a) != nil {
				continue
			}
			s.guard.note(netip.AddrPortFrom(a, 0))
			to := a.As4()
			copy(question[24:], to[:])
			_ = unix.Sendto(fd, question, 0, everybody) // asked again in the next round
			if n%64 == 63 {
				s.hearARP(ctx, fd, 5*time.Millisecond)
			}
		}
		s.hearARP(ctx, fd, s.guard.lag.patient(arpWait))
	}
	return true
}

// hearARP notes who answers until the time is over.
func (s *segmentScan) hearARP(ctx context.Context, fd int, wait time.Duration) {
	until := time.Now().Add(wait)
	b := make([]byte, 128)
	for ctx.Err() == nil {
		left := time.Until(until)
		if left <= 0 {
			return
		}
		n, err := unix.Poll([]unix.PollFd{{Fd: int32(fd), Events: unix.POLLIN}}, int(left.Milliseconds())+1)
		if err != nil && err != unix.EINTR || n == 0 {
			return
		}
		size, _, err := unix.Recvfrom(fd, b, 0)
		if err != nil {
			continue
		}
		if at, hardware, ok := readARP(b[:size]); ok && at != s.own {
			s.mu.Lock()
			s.spoke[at] = true
			s.mu.Unlock()
			s.hardware(at, hardware)
		}
	}
}

// readARP reads an answer. A host that asks itself is there just as well.
func readARP(b []byte) (netip.Addr, dossier.HardwareAddr, bool) {
	if len(b) < arpSize || [6]byte(b[:6]) != [6]byte{0, 1, 8, 0, 6, 4} || b[6] != 0 || b[7] != arpReply && b[7] != arpRequest {
		return netip.Addr{}, "", false
	}
	at := netip.AddrFrom4([4]byte(b[14:18]))
	hardware, err := dossier.ParseHardwareAddr(net.HardwareAddr(b[8:14]).String())
	return at, hardware, err == nil && !at.IsUnspecified() && hardware != "" && hardware != "00:00:00:00:00:00"
}

// echo4Wait is how long an answer to an echo is waited for.
const echo4Wait = time.Second

// echo4 asks each of these addresses for an echo (RFC 792). It is for entries of the neighbour table that the
// system still trusts from before the scan, and therefore does not check again.
func (s *segmentScan) echo4(ctx context.Context, all []netip.Addr) {
	if len(all) == 0 {
		return
	}
	conn, err := icmp.ListenPacket("udp4", s.own.String())
	if err != nil {
		return // whether they are there stays open, see keepUnasked
	}
	defer func() { _ = conn.Close() }()
	b, err := (&icmp.Message{Type: ipv4.ICMPTypeEcho, Body: &icmp.Echo{Seq: 1, Data: []byte("kaiku")}}).Marshal(nil)
	if err != nil {
		return
	}
	ask := func() {
		for _, a := range all {
			if s.guard.Allow(a) == nil {
				s.guard.note(netip.AddrPortFrom(a, 0))
				_, _ = conn.WriteTo(b, &net.UDPAddr{IP: a.AsSlice()})
			}
		}
	}
	ask()
	again := time.AfterFunc(echo4Wait/3, ask) // one of two may be lost
	defer again.Stop()
	defer s.guard.lag.hear(ctx, conn, echo4Wait)()
	open := map[netip.Addr]bool{}
	for _, a := range all {
		open[a] = true
	}
	for b := make([]byte, 1500); len(open) > 0; {
		n, from, err := conn.ReadFrom(b)
		if err != nil {
			return
		}
		if at := addressOf(from).Unmap(); n > 0 && ipv4.ICMPType(b[0]) == ipv4.ICMPTypeEchoReply && open[at] {
			delete(open, at)
			s.host(at, func(*matching.Host) {})
		}
	}
}
