package probe

import (
	"fmt"
	"net"
	"net/netip"
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
