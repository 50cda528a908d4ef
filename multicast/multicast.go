// Package multicast opens UDP sockets that hear and speak to one group on one interface, beside
// whatever else on this machine does the same.
package multicast

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"syscall"

	"golang.org/x/net/ipv4"
	"golang.org/x/sys/unix"
)

// Groups by which devices are found.
var (
	SSDP = &net.UDPAddr{IP: net.IPv4(239, 255, 255, 250), Port: 1900} // UPnP Device Architecture 2.0, section 1.3.2
	MDNS = &net.UDPAddr{IP: net.IPv4(224, 0, 0, 251), Port: 5353}     // RFC 6762, section 3
)

// Ear hears what is sent to one group on one interface.
type Ear struct {
	*net.UDPConn
	packets *ipv4.PacketConn
	group   net.IP
	via     int
}

// Hear joins a group on an interface.
func Hear(group *net.UDPAddr, via *net.Interface) (*Ear, error) {
	conn, err := open(netip.AddrPortFrom(netip.IPv4Unspecified(), uint16(group.Port)))
	if err != nil {
		return nil, err
	}
	p := ipv4.NewPacketConn(conn)
	if err := errors.Join(p.JoinGroup(via, &net.UDPAddr{IP: group.IP}), p.SetControlMessage(ipv4.FlagInterface|ipv4.FlagDst, true)); err != nil {
		return nil, errors.Join(fmt.Errorf("join %s on %s: %w", group.IP, via.Name, err), conn.Close())
	}
	return &Ear{conn, p, group.IP, via.Index}, nil
}

// Next waits for the next packet to the group, reads it into b, and tells its length and its
// sender. What the system hands to the socket beside is passed over. It fails when the socket is
// closed or its deadline passes.
func (e *Ear) Next(b []byte) (int, netip.AddrPort, error) {
	for {
		n, cm, from, err := e.packets.ReadFrom(b)
		if err != nil {
			return 0, netip.AddrPort{}, err
		}
		if sender, ok := from.(*net.UDPAddr); ok && cm != nil && cm.IfIndex == e.via && cm.Dst.Equal(e.group) {
			at := sender.AddrPort()
			return n, netip.AddrPortFrom(at.Addr().Unmap(), at.Port()), nil
		}
	}
}

// Speak opens a socket that sends multicast from the own address by one interface, as far as that
// many hops: with only one of both the default route may decide.
func Speak(own netip.AddrPort, via *net.Interface, hops int) (*net.UDPConn, error) {
	conn, err := open(own)
	if err != nil {
		return nil, err
	}
	p := ipv4.NewPacketConn(conn)
	if err := errors.Join(p.SetMulticastInterface(via), p.SetMulticastTTL(hops)); err != nil {
		return nil, errors.Join(fmt.Errorf("send by %s: %w", via.Name, err), conn.Close())
	}
	return conn, nil
}

// open opens a socket on an address that others use too, and that hears only the groups it joined
// itself.
func open(at netip.AddrPort) (*net.UDPConn, error) {
	lc := net.ListenConfig{Control: func(_, _ string, c syscall.RawConn) error {
		var failed error
		err := c.Control(func(fd uintptr) {
			failed = errors.Join(
				unix.SetsockoptInt(int(fd), unix.SOL_SOCKET, unix.SO_REUSEADDR, 1),
				unix.SetsockoptInt(int(fd), unix.SOL_SOCKET, unix.SO_REUSEPORT, 1),
				unix.SetsockoptInt(int(fd), unix.IPPROTO_IP, unix.IP_MULTICAST_ALL, 0))
		})
		return errors.Join(err, failed)
	}}
	c, err := lc.ListenPacket(context.Background(), "udp4", at.String())
	if err != nil {
		return nil, fmt.Errorf("open a socket on %s: %w", at, err)
	}
	return c.(*net.UDPConn), nil
}
