// Package multicast opens UDP sockets that hear and speak to one group on one interface, beside
// whatever else on this machine does the same.
package multicast

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"strconv"
	"syscall"

	"golang.org/x/net/ipv4"
	"golang.org/x/net/ipv6"
	"golang.org/x/sys/unix"
)

// Groups by which devices are found.
var (
	SSDP      = &net.UDPAddr{IP: net.IPv4(239, 255, 255, 250), Port: 1900} // UPnP Device Architecture 2.0, section 1.3.2
	MDNS      = &net.UDPAddr{IP: net.IPv4(224, 0, 0, 251), Port: 5353}     // RFC 6762, section 3
	SSDP6     = &net.UDPAddr{IP: net.ParseIP("ff02::c"), Port: 1900}       // on the link; UPnP Device Architecture 2.0, annex A.2
	SSDP6Site = &net.UDPAddr{IP: net.ParseIP("ff05::c"), Port: 1900}       // on the site; the same
	MDNS6     = &net.UDPAddr{IP: net.ParseIP("ff02::fb"), Port: 5353}      // RFC 6762, section 3
)

// Ear hears what is sent to one group on one interface.
type Ear struct {
	*net.UDPConn
	group net.IP
	via   int
	read  func([]byte) (packet, error)
}

// packet is what the system reports about a packet besides its bytes.
type packet struct {
	size, via int
	to        net.IP
	from      net.Addr
}

// Hear joins a group on an interface.
func Hear(group *net.UDPAddr, via *net.Interface) (*Ear, error) {
	everywhere := netip.IPv4Unspecified()
	if isSix(group.IP) {
		everywhere = netip.IPv6Unspecified()
	}
	conn, err := open(netip.AddrPortFrom(everywhere, uint16(group.Port)))
	if err != nil {
		return nil, err
	}
	e := &Ear{UDPConn: conn, group: group.IP, via: via.Index}
	if isSix(group.IP) {
		p := ipv6.NewPacketConn(conn)
		err = errors.Join(p.JoinGroup(via, &net.UDPAddr{IP: group.IP}), p.SetControlMessage(ipv6.FlagInterface|ipv6.FlagDst, true))
		e.read = func(b []byte) (one packet, err error) {
			var cm *ipv6.ControlMessage
			if one.size, cm, one.from, err = p.ReadFrom(b); cm != nil {
				one.via, one.to = cm.IfIndex, cm.Dst
			}
			return one, err
		}
	} else {
		p := ipv4.NewPacketConn(conn)
		err = errors.Join(p.JoinGroup(via, &net.UDPAddr{IP: group.IP}), p.SetControlMessage(ipv4.FlagInterface|ipv4.FlagDst, true))
		e.read = func(b []byte) (one packet, err error) {
			var cm *ipv4.ControlMessage
			if one.size, cm, one.from, err = p.ReadFrom(b); cm != nil {
				one.via, one.to = cm.IfIndex, cm.Dst
			}
			return one, err
		}
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("join %s on %s: %w", group.IP, via.Name, err), conn.Close())
	}
	return e, nil
}

func isSix(ip net.IP) bool { return ip.To4() == nil }

// Next waits for the next packet to the group, reads it into b, and tells its length and its
// sender. What the system hands to the socket beside is passed over. It fails when the socket is
// closed or its deadline passes.
func (e *Ear) Next(b []byte) (int, netip.AddrPort, error) {
	for {
		one, err := e.read(b)
		if err != nil {
			return 0, netip.AddrPort{}, err
		}
		if sender, ok := one.from.(*net.UDPAddr); ok && one.via == e.via && one.to.Equal(e.group) {
			at := sender.AddrPort()
			return one.size, netip.AddrPortFrom(at.Addr().Unmap(), at.Port()), nil
		}
	}
}

// Speak opens a socket that sends multicast from the own address by one interface, as far as that
// many hops: with only one of both the default route may decide.
func Speak(own netip.AddrPort, via *net.Interface, hops int) (*net.UDPConn, error) {
	if own.Addr().IsLinkLocalUnicast() && own.Addr().Is6() { // it is an address only together with its link
		own = netip.AddrPortFrom(own.Addr().WithZone(Zone(via)), own.Port())
	}
	conn, err := open(own)
	if err != nil {
		return nil, err
	}
	if own.Addr().Is6() {
		p := ipv6.NewPacketConn(conn)
		err = errors.Join(p.SetMulticastInterface(via), p.SetMulticastHopLimit(hops))
	} else {
		p := ipv4.NewPacketConn(conn)
		err = errors.Join(p.SetMulticastInterface(via), p.SetMulticastTTL(hops))
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("send by %s: %w", via.Name, err), conn.Close())
	}
	return conn, nil
}

// Zone is the zone of link-local addresses on an interface, by its index: the names of interfaces are cached
// while one of the same name may take the place of another.
func Zone(via *net.Interface) string { return strconv.Itoa(via.Index) }

// open opens a socket on an address that others use too, and that hears only the groups it joined
// itself.
func open(at netip.AddrPort) (*net.UDPConn, error) {
	network, level, all := "udp4", unix.IPPROTO_IP, unix.IP_MULTICAST_ALL
	if at.Addr().Is6() {
		network, level, all = "udp6", unix.IPPROTO_IPV6, unix.IPV6_MULTICAST_ALL
	}
	lc := net.ListenConfig{Control: func(_, _ string, c syscall.RawConn) error {
		var failed error
		err := c.Control(func(fd uintptr) {
			failed = errors.Join(
				unix.SetsockoptInt(int(fd), unix.SOL_SOCKET, unix.SO_REUSEADDR, 1),
				unix.SetsockoptInt(int(fd), unix.SOL_SOCKET, unix.SO_REUSEPORT, 1),
				unix.SetsockoptInt(int(fd), level, all, 0))
		})
		return errors.Join(err, failed)
	}}
	c, err := lc.ListenPacket(context.Background(), network, at.String())
	if err != nil {
		return nil, fmt.Errorf("open a socket on %s: %w", at, err)
	}
	return c.(*net.UDPConn), nil
}
