package practice

import (
	"encoding/binary"
	"errors"
	"fmt"
	"net"
	"net/netip"
)

// newGateway makes a router that tells its outer address by IGD, NAT-PMP and PCP.
func newGateway(d Device, outer netip.Addr) *Device {
	d.Type = "InternetGatewayDevice:1"
	g := &mapper{outer: outer}
	d.services = []service{{"WANIPConnection:1", map[string]action{
		"GetExternalIPAddress": func(map[string]string) ([]argument, *upnpError) {
			return []argument{{"NewExternalIPAddress", outer.String()}}, nil
		},
		"GetStatusInfo": func(map[string]string) ([]argument, *upnpError) {
			return []argument{{"NewConnectionStatus", "Connected"}, {"NewLastConnectionError", "ERROR_NONE"}, {"NewUptime", "86400"}}, nil
		},
	}}}
	d.beside = g
	return &d
}

// MappingPort is where gateways answer NAT-PMP and PCP (RFC 6886, section 3; RFC 6887, section 19.1).
const MappingPort = 5351

// mapper answers NAT-PMP and PCP. It remembers mappings, so that one sees whether they were taken back.
type mapper struct {
	outer netip.Addr
	conn  *net.UDPConn
	done  chan struct{}
}

func (m *mapper) start(at netip.Addr) error {
	conn, err := net.ListenUDP("udp4", net.UDPAddrFromAddrPort(netip.AddrPortFrom(at, MappingPort)))
	if err != nil {
		return fmt.Errorf("answer NAT-PMP at %s: %w", at, err)
	}
	m.conn, m.done = conn, make(chan struct{})
	go func() {
		defer close(m.done)
		b := make([]byte, 1100)
		for {
			n, from, err := conn.ReadFromUDPAddrPort(b)
			if errors.Is(err, net.ErrClosed) {
				return
			}
			if answer := m.answer(b[:n]); err == nil && answer != nil {
				_, _ = conn.WriteToUDPAddrPort(answer, from)
			}
		}
	}()
	return nil
}

func (m *mapper) stop() {
	if m.conn != nil {
		_ = m.conn.Close()
		<-m.done
		m.conn = nil
	}
}

func (m *mapper) answer(b []byte) []byte {
	outer := m.outer.As4()
	switch {
	case len(b) >= 2 && b[0] == 0 && b[1] == 0: // NAT-PMP, external address
		out := make([]byte, 12)
		out[1] = 128
		binary.BigEndian.PutUint32(out[4:], 86400)
		copy(out[8:], outer[:])
		return out
	case len(b) >= 60 && b[0] == 2 && b[1] == 1: // PCP, MAP
		out := make([]byte, 60)
		copy(out, b[:60])
		out[1], out[3] = 0x81, 0
		binary.BigEndian.PutUint32(out[8:], 86400)
		copy(out[12:24], make([]byte, 12))
		binary.BigEndian.PutUint16(out[42:], 40009)
		mapped := netip.AddrFrom4(outer).As16()
		mapped[10], mapped[11] = 0xFF, 0xFF
		copy(out[44:], mapped[:])
		return out
	case len(b) >= 2 && b[0] == 2: // PCP, another opcode: unsupported
		out := make([]byte, 24)
		out[0], out[1], out[3] = 2, 0x80|b[1], 4
		return out
	}
	return nil
}
