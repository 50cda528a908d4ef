package probe

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

// listenShared opens a UDP socket on an address that others on this machine use too, and that
// hears only the groups it joined itself.
func listenShared(address string) (*net.UDPConn, error) {
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
	c, err := lc.ListenPacket(context.Background(), "udp4", address)
	if err != nil {
		return nil, err
	}
	return c.(*net.UDPConn), nil
}

// listenGroup opens a socket that hears a group on one interface.
func listenGroup(address string, group net.IP, via *net.Interface) (*net.UDPConn, error) {
	conn, err := listenShared(address)
	if err != nil {
		return nil, fmt.Errorf("listen at %s: %w", address, err)
	}
	if err := ipv4.NewPacketConn(conn).JoinGroup(via, &net.UDPAddr{IP: group}); err != nil {
		return nil, errors.Join(fmt.Errorf("join %s on %s: %w", group, via.Name, err), conn.Close())
	}
	return conn, nil
}

// speakFrom opens a socket that sends multicast from the own address by one interface: with only
// one of both the default route may decide.
func speakFrom(own netip.AddrPort, via *net.Interface, hops int) (*net.UDPConn, error) {
	conn, err := listenShared(own.String())
	if err != nil {
		return nil, fmt.Errorf("open a socket on %s: %w", own, err)
	}
	p := ipv4.NewPacketConn(conn)
	if err := errors.Join(p.SetMulticastInterface(via), p.SetMulticastTTL(hops)); err != nil {
		return nil, errors.Join(fmt.Errorf("send by %s: %w", via.Name, err), conn.Close())
	}
	return conn, nil
}
