package probe

import (
	"context"
	"fmt"
	"net"
	"net/netip"
	"time"

	"golang.org/x/net/icmp"
	"golang.org/x/net/ipv4"

	"kaiku/core/matching"
)

// Responder sends packets back to who sent them.
type Responder struct{ conn *net.UDPConn }

// Echo answers at the UDP port of that address, or at a free one where that is taken: it sends
// back what is let through, as long as it was, and nothing else.
func Echo(at netip.AddrPort, allow func([]byte) bool) (*Responder, error) {
	conn, err := net.ListenUDP("udp", net.UDPAddrFromAddrPort(at))
	if err != nil {
		conn, err = net.ListenUDP("udp", net.UDPAddrFromAddrPort(netip.AddrPortFrom(at.Addr(), 0)))
	}
	if err != nil {
		return nil, fmt.Errorf("listen for packets to send back at %s: %w", at, err)
	}
	go func() {
		b := make([]byte, 1500)
		for {
			n, from, err := conn.ReadFromUDPAddrPort(b)
			if err != nil {
				return // closed
			}
			if allow(b[:n]) {
				_, _ = conn.WriteToUDPAddrPort(b[:n], from) // what is lost on the way is what is measured
			}
		}
	}()
	return &Responder{conn}, nil
}

// Port is the UDP port it answers at.
func (r *Responder) Port() int { return r.conn.LocalAddr().(*net.UDPAddr).Port }

// Close ends it.
func (r *Responder) Close() { _ = r.conn.Close() }

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
		return // whether they are there stays open, see unasked
	}
	defer func() { _ = conn.Close() }()
	stop := context.AfterFunc(ctx, func() { _ = conn.SetReadDeadline(time.Unix(1, 0)) })
	defer stop()
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
	_ = conn.SetReadDeadline(time.Now().Add(echo4Wait))
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
