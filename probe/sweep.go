package probe

import (
	"context"
	"errors"
	"net/netip"
	"slices"
	"sync"
	"syscall"
	"time"

	"golang.org/x/sys/unix"
	"golang.org/x/time/rate"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/safely"
)

// Ports are those that a sweep tries at every address beside the ones that the home records: names,
// web, files, streams, by their registration with IANA.
var Ports = []int{53, 80, 111, 139, 443, 445, 554, 2049, 5357, 8080, 8443, 8554}

// Bounds of a sweep: it must not be taken for an attack, nor fill the tables of a small router.
const (
	sweepWorkers = 256
	sweepRate    = 8000 // connections that are begun in a second
	sweepDial    = 500 * time.Millisecond
	mostSwept    = 1024 // addresses of one segment: a /22
	mostOpen     = 64   // open ports of one host that are kept
)

// sweep tries the ports of every address in the segment. On a real network it first wakes the
// neighbour table by a packet to each address, and then tries only the hosts that are there: an address that
// no host has would hold each try for half a second.
func (s *segmentScan) sweep(ctx context.Context) matching.Question {
	all, left := addressesIn(s.segment.Prefix, s.own)
	if s.only.IsValid() {
		all, left = []netip.Addr{s.only}, 0
	}
	for _, i := range s.d.Interfaces { // who is recorded is asked, however wide the segment is
		for _, a := range i.Addresses {
			if left > 0 && a.Is4() && a != s.own && s.segment.Prefix.Contains(a) && !slices.Contains(all, a) && len(all) < 2*mostSwept {
				all, left = append(all, a), left-1
			}
		}
	}
	if !s.own.IsLoopback() {
		all = s.present(ctx, all)
	}
	q := matching.Question{Ended: matching.Silent, LeftOut: left}
	open := s.tryAll(ctx, all, s.ports())
	if s.own.IsLoopback() {
		open = withoutOwn(open, s.own)
	}
	for _, open := range open {
		q.Ended = matching.Answered
		q.Answers++
		s.host(open.Addr(), func(h *matching.Host) { addOpen(h, int(open.Port())) })
	}
	if ctx.Err() != nil {
		q.Ended = matching.Stopped
	}
	return q
}

// ports lists what is tried at each host.
func (s *segmentScan) ports() []int {
	ports := slices.Clone(Ports)
	for _, one := range s.d.Sources {
		if one.Port != 0 && one.Protocol != dossier.ProtocolUPnPAV && !slices.Contains(ports, one.Port) && len(ports) < 64 {
			ports = append(ports, one.Port)
		}
	}
	return ports
}

// addOpen notes an open port of a host.
func addOpen(h *matching.Host, port int) {
	if len(h.Open) < mostOpen {
		h.Open = append(h.Open, port)
	}
}

// withoutOwn leaves out what this machine itself listens to at every address of loopback: it is
// open at the own address too, which no device has.
func withoutOwn(open []netip.AddrPort, own netip.Addr) []netip.AddrPort {
	everywhere := map[uint16]bool{}
	for _, o := range open {
		if o.Addr() == own {
			everywhere[o.Port()] = true
		}
	}
	return slices.DeleteFunc(open, func(o netip.AddrPort) bool { return everywhere[o.Port()] })
}

// addressesIn lists the host addresses of a prefix, on loopback with the own one, and how many were
// left out.
func addressesIn(p netip.Prefix, own netip.Addr) (out []netip.Addr, left int) {
	p = p.Masked()
	if !p.Addr().Is4() {
		return nil, 0
	}
	last := lastHost(p).Next() // the broadcast address
	for a := p.Addr().Next(); a.IsValid() && a.Less(last); a = a.Next() {
		switch {
		case a == own && !own.IsLoopback():
		case len(out) >= mostSwept:
			left++
			if left > 1<<16 {
				return out, left
			}
		default:
			out = append(out, a)
		}
	}
	return out, left
}

// present asks every address who has it and returns those worth trying: who answered, and who stands in the
// operating system's table and may still be there. Where the system does not let us speak ARP, one packet to
// every address, twice, makes it ask for itself; whether it got an answer is told by its table. One socket for
// 64 of them: packets that wait for an answer of the neighbour fill its buffer.
func (s *segmentScan) present(ctx context.Context, all []netip.Addr) []netip.Addr {
	if s.arp(ctx, all) {
		s.mu.Lock()
		defer s.mu.Unlock()
		return slices.DeleteFunc(slices.Clone(all), func(a netip.Addr) bool { return s.hosts[a] == nil })
	}
	for range 2 {
		for part := range slices.Chunk(all, 64) {
			s.poke(part)
		}
		select {
		case <-time.After(300 * time.Millisecond):
		case <-ctx.Done():
			return nil
		}
	}
	table, err := neighbourTable()
	if err != nil {
		return all
	}
	var out, trusted []netip.Addr
	for _, n := range table {
		if s.segment.Prefix.Contains(n.address) && n.address != s.own && n.hardware != "" && n.state&unix.NUD_FAILED == 0 && (!s.only.IsValid() || n.address == s.only) {
			out = append(out, n.address) // noted when it has answered, see neighbours
			if n.trusted(s.began) {
				trusted = append(trusted, n.address)
			}
		}
	}
	s.echo4(ctx, trusted)
	return out
}

// tryAll dials every port of every address, and returns those that are open.
func (s *segmentScan) tryAll(ctx context.Context, all []netip.Addr, ports []int) []netip.AddrPort {
	work := make(chan netip.AddrPort)
	var mu sync.Mutex
	var open []netip.AddrPort
	var workers sync.WaitGroup
	pace := rate.NewLimiter(sweepRate, sweepWorkers)
	for range min(sweepWorkers, max(len(all)*len(ports), 1)) {
		safely.Go(&workers, s.fell, func() {
			for at := range work {
				if pace.Wait(ctx) != nil {
					continue
				}
				ctx, cancel := context.WithTimeout(ctx, s.guard.lag.patient(sweepDial))
				conn, err := s.guard.Dial(ctx, "tcp", at.String())
				cancel()
				if err != nil {
					if errors.Is(err, syscall.ECONNREFUSED) && !at.Addr().IsLoopback() {
						s.host(at.Addr(), func(*matching.Host) {}) // it refuses, so it is there
					}
					continue
				}
				_ = conn.Close()
				mu.Lock()
				open = append(open, at)
				mu.Unlock()
			}
		})
	}
	for _, port := range ports {
		for _, a := range all {
			select {
			case work <- netip.AddrPortFrom(a, uint16(port)):
			case <-ctx.Done():
			}
		}
	}
	close(work)
	workers.Wait()
	slices.SortFunc(open, netip.AddrPort.Compare)
	return open
}
