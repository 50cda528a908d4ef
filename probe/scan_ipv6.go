package probe

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"net"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sys/unix"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/multicast"
	"kaiku/safely"
)

// heard6 is something that an address of IPv6 said of itself. Whose address it is gets known when all have
// been heard: see settle6.
type heard6 struct {
	at     netip.Addr
	answer *Answer // of a search, or an announcement
	by     matching.Way
	name   string // host name, by mDNS
	note   func(*matching.Host)

	unproven bool // it was not said now: it counts only if the address is there
}

// mostHeard6 bounds what a talkative segment can make us keep.
const mostHeard6 = 2 * mostAnswers

// hear6 keeps what an address of this segment said, and reports whether it may be one.
func (s *segmentScan) hear6(one heard6) bool {
	one.at = one.at.WithZone("")
	if !s.may6(one.at) {
		return false
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.heard) >= mostHeard6 {
		s.left++
		return false
	}
	s.heard = append(s.heard, one)
	return true
}

// may6 reports whether an address of IPv6 can be one of the segment and is not this machine's own.
func (s *segmentScan) may6(a netip.Addr) bool {
	return a.Is6() && (isLinkLocal6(a) || s.in6(a)) && !slices.Contains(s.own6, a) && s.guard.Allow(a) == nil
}

// in6 reports whether an address lies in the segment's recorded prefix of IPv6.
func (s *segmentScan) in6(a netip.Addr) bool {
	return s.segment.Prefix6.IsValid() && s.segment.Prefix6.Contains(a)
}

// ownAddresses6 lists this machine's addresses of IPv6 on an adapter, link-local ones first.
func ownAddresses6(via *net.Interface) []netip.Addr {
	addresses, err := via.Addrs()
	if err != nil {
		return nil
	}
	var out []netip.Addr
	for _, a := range addresses {
		if p, err := netip.ParsePrefix(a.String()); err == nil && p.Addr().Is6() && !p.Addr().Is4In6() && !p.Addr().IsLoopback() {
			out = append(out, p.Addr().WithZone(""))
		}
	}
	slices.SortFunc(out, func(a, b netip.Addr) int {
		if isLinkLocal6(a) != isLinkLocal6(b) {
			return map[bool]int{true: -1, false: 1}[isLinkLocal6(a)]
		}
		return a.Compare(b)
	})
	return out
}

// from6 is the own address by which another or a group is asked: on the link the link-local one, beyond it another.
func (s *segmentScan) from6(group *net.UDPAddr) (netip.Addr, bool) {
	onLink := group.IP.IsLinkLocalMulticast() || group.IP.IsLinkLocalUnicast()
	i := slices.IndexFunc(s.own6, func(a netip.Addr) bool { return isLinkLocal6(a) == onLink })
	if i < 0 {
		return netip.Addr{}, false
	}
	return s.own6[i], true
}

// no6 is why the segment cannot be asked by IPv6 from here.
const no6 = "this machine has no IPv6 address there"

// ssdp6 searches by IPv6, and hears who announces itself by it (UPnP Device Architecture 2.0, annex A).
func (s *segmentScan) ssdp6(ctx context.Context) matching.Question {
	if len(s.own6) == 0 {
		return matching.Question{Ended: matching.NotAsked, Detail: no6}
	}
	var mu sync.Mutex
	var wait sync.WaitGroup
	answers := 0
	count := func(a Answer) bool {
		if !s.hear6(heard6{at: a.From, answer: &a, by: matching.BySSDP6}) {
			return false
		}
		mu.Lock()
		defer mu.Unlock()
		answers++
		return true
	}
	var failed error
	for _, group := range []*net.UDPAddr{multicast.SSDP6, multicast.SSDP6Site} {
		if own, ok := s.from6(group); ok {
			safely.Go(&wait, s.fell, func() {
				err := searchEach(ctx, own, s.via, group, "ssdp:all", s.mx, s.late, s.guard.lag, func(a Answer) { count(a) })
				mu.Lock()
				defer mu.Unlock()
				failed = cmp.Or(failed, err)
			})
		}
		if hear, err := multicast.Hear(group, s.via); err == nil {
			safely.Go(&wait, s.fell, func() {
				defer hear.Close()
				s.announcements(ctx, hear, func(a Answer, goodbye bool) bool {
					if goodbye {
						return s.hear6(heard6{at: a.From, note: func(h *matching.Host) { h.Left = true }})
					}
					return count(a)
				})
			})
		}
	}
	wait.Wait()
	switch {
	case answers > 0:
		return matching.Question{Ended: matching.Answered, Answers: answers}
	case failed != nil && ctx.Err() == nil:
		return matching.Question{Ended: matching.NotAsked, Detail: failed.Error()}
	}
	return matching.Question{Ended: matching.Silent}
}

// settle6 finds out whose the addresses of IPv6 are that were heard, recorded or found in the neighbour table,
// and then reads what they announce. An address belongs to the host with the same MAC address, host name or
// UDN. What belongs to none is a host of its own.
func (s *segmentScan) settle6(ctx context.Context) {
	if len(s.own6) == 0 {
		return
	}
	s.mu.Lock()
	heard := slices.Clone(s.heard)
	s.mu.Unlock()
	spoke := map[netip.Addr]bool{} // who said something in this scan
	others := map[netip.Addr]bool{}
	for _, one := range heard {
		if one.unproven {
			others[one.at] = true
			continue
		}
		spoke[one.at] = true
	}
	hardware := s.confirm6(ctx, spoke, others)
	heard = slices.DeleteFunc(heard, func(h heard6) bool { return h.unproven && !spoke[h.at] && hardware[h.at] == "" })
	for _, a := range slices.SortedFunc(maps.Keys(hardware), netip.Addr.Compare) {
		if !spoke[a] && s.in6(a) {
			heard = append(heard, heard6{at: a, by: matching.ByNeighbours})
		}
	}
	groups := groupsOf(heard, hardware)
	for _, one := range groups {
		s.owner6(one)
	}
	for _, one := range groups {
		for _, h := range one.heard {
			if h.note != nil {
				s.host(h.at, h.note)
			}
			if h.answer != nil && !s.described(h.at, *h.answer) {
				s.announced(ctx, *h.answer, h.by)
			}
		}
	}
	s.open6(ctx)
}

// confirm6 returns the MAC addresses of those that have spoken, and of those others, recorded or standing in the
// neighbour table, that have answered since the scan began.
func (s *segmentScan) confirm6(ctx context.Context, spoke, others map[netip.Addr]bool) map[netip.Addr]dossier.HardwareAddr {
	all := maps.Clone(others)
	maps.Copy(all, spoke)
	for _, i := range s.d.Interfaces {
		for _, a := range i.Addresses {
			if s.may6(a) {
				all[a] = true
			}
		}
	}
	s.poke6(all)
	out := map[netip.Addr]dossier.HardwareAddr{}
	for began := time.Now(); ; {
		table, err := neighbourTable()
		if err != nil {
			return out // it is not told on every system
		}
		open := false
		for _, n := range table {
			if !n.address.Is6() || n.via != s.via.Index || !s.may6(n.address) {
				continue
			}
			if n.here(s.began) || spoke[n.address] && n.hardware != "" && n.state&(unix.NUD_FAILED|unix.NUD_INCOMPLETE) == 0 {
				out[n.address] = n.hardware
			} else if all[n.address] && !n.settled() {
				open = true
			}
		}
		if !open || time.Since(began) > confirmTime {
			return out
		}
		select {
		case <-time.After(100 * time.Millisecond):
		case <-ctx.Done():
			return out
		}
	}
}

// poke6 sends a packet to each address, so that the system has to look up which host has it. A 64-bit prefix holds
// too many addresses to try them all.
func (s *segmentScan) poke6(all map[netip.Addr]bool) {
	conn, err := net.ListenUDP("udp6", nil)
	if err != nil {
		return // no IPv6 here
	}
	defer func() { _ = conn.Close() }()
	for a := range all {
		to := s.guard.zoned(netip.AddrPortFrom(a, 9))
		s.guard.note(to)
		_, _ = conn.WriteToUDPAddrPort([]byte{0}, to) // the discard port (RFC 863); the table tells whether it is there
	}
}

// group6 is what is one machine's by its MAC address or host name.
type group6 struct {
	hardware  dossier.HardwareAddr
	name      string
	addresses []netip.Addr
	heard     []heard6
}

// groupsOf puts together what was heard of one machine, in the order of the addresses.
func groupsOf(heard []heard6, hardware map[netip.Addr]dossier.HardwareAddr) []group6 {
	slices.SortStableFunc(heard, func(a, b heard6) int { return a.at.Compare(b.at) })
	name := map[netip.Addr]string{}
	for _, h := range heard {
		if h.name != "" && name[h.at] == "" {
			name[h.at] = h.name
		}
	}
	var out []group6
	for _, h := range heard {
		i := slices.IndexFunc(out, func(g group6) bool {
			return slices.Contains(g.addresses, h.at) || g.hardware != "" && g.hardware == hardware[h.at] || g.name != "" && g.name == name[h.at]
		})
		if i < 0 {
			out = append(out, group6{})
			i = len(out) - 1
		}
		g := &out[i]
		g.hardware, g.name = cmp.Or(g.hardware, hardware[h.at]), cmp.Or(g.name, name[h.at])
		if g.heard = append(g.heard, h); !slices.Contains(g.addresses, h.at) {
			g.addresses = append(g.addresses, h.at)
		}
	}
	return out
}

// owner6 finds the host to which the addresses of a group belong, and makes one if there is none.
func (s *segmentScan) owner6(g group6) {
	s.mu.Lock()
	owner, found := s.ownerOf(g)
	s.mu.Unlock()
	if !found {
		best := slices.MinFunc(g.addresses, func(a, b netip.Addr) int {
			return cmp.Or(s.standing(a)-s.standing(b), a.Compare(b))
		})
		if owner = best; !s.host(owner, func(*matching.Host) {}) {
			return // more hosts than are kept, or not the one that was asked for
		}
	}
	s.host(owner, func(h *matching.Host) {
		h.Say(1, "hardwareAddress", g.hardware, matching.ByNeighbours)
		for _, a := range g.addresses {
			if s.in6(a) {
				addAddress(h, a, matching.ByNeighbours)
			}
			s.same[a] = owner
		}
	})
}

// standing orders the addresses of a machine: one that is recorded is known again, and one that is only of the
// link tells least.
func (s *segmentScan) standing(a netip.Addr) int {
	switch {
	case slices.ContainsFunc(s.d.Interfaces, func(i dossier.Interface) bool { return slices.Contains(i.Addresses, a) }):
		return 0
	case isLinkLocal6(a):
		return 2
	}
	return 1
}

// ownerOf returns the one host of the segment that a group is. The lock is held.
func (s *segmentScan) ownerOf(g group6) (netip.Addr, bool) {
	one := func(is func(*matching.Host) bool) (netip.Addr, bool) {
		var at netip.Addr
		n := 0
		for a, h := range s.hosts {
			if h.Segment == s.segment.ID && is(h) {
				at, n = a, n+1
			}
		}
		return at, n == 1 // a repeater shows its own MAC address for all that hangs on it
	}
	if at, ok := one(func(h *matching.Host) bool {
		return g.hardware != "" && h.Seen[1].Members["hardwareAddress"] == g.hardware
	}); ok {
		return at, true
	}
	if at, ok := one(func(h *matching.Host) bool {
		name, _ := h.Seen[0].Members["hostName"].(string)
		return g.name != "" && name == g.name
	}); ok {
		return at, true
	}
	for _, h := range g.heard {
		if h.answer == nil {
			continue
		}
		udn, _, _ := strings.Cut(h.answer.USN, "::")
		if at, ok := one(func(h *matching.Host) bool { return s.udns[h.Address.String()+" "+udn] }); ok {
			return at, true
		}
	}
	return netip.Addr{}, false
}

// described reports whether the host has described that device already, by whatever address: what it announces
// in both families it is once.
func (s *segmentScan) described(at netip.Addr, a Answer) bool {
	udn, _, _ := strings.Cut(a.USN, "::")
	s.mu.Lock()
	defer s.mu.Unlock()
	if owner, known := s.same[at]; known {
		at = owner
	}
	return s.udns[at.String()+" "+udn]
}

// open6 tries the ports of the hosts that have no address of IPv4.
func (s *segmentScan) open6(ctx context.Context) {
	var all []netip.Addr
	s.mu.Lock()
	for a, h := range s.hosts {
		if a.Is6() && h.Segment == s.segment.ID {
			all = append(all, a)
		}
	}
	s.mu.Unlock()
	slices.SortFunc(all, netip.Addr.Compare)
	if len(all) == 0 {
		return
	}
	for _, open := range s.tryAll(ctx, all, s.ports()) {
		s.host(open.Addr(), func(h *matching.Host) { addOpen(h, int(open.Port())) })
	}
}

// told6 notes what is to be said of the scan as a whole: that addresses of IPv6 were not asked.
func (s *segmentScan) told6() {
	if p := s.segment.Prefix6; p.IsValid() && s.guard.Allow(p.Addr()) != nil {
		s.note(fmt.Sprintf("IPv6 addresses in %s were not contacted: the networks that this machine may contact do not cover it", p))
	}
}
