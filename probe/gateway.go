package probe

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// OuterSeen is what a gateway says of its own outer address, by one protocol. An invalid Address
// with an empty Failure means that it answered and has none. Failure says how it did not answer.
type OuterSeen struct {
	By      string // igd, nat-pmp or pcp
	Address netip.Addr
	Failure string
	Segment string // name of the segment in which it was asked
}

// Gateway protocols, in the order in which they are asked.
const (
	ByIGD    = "igd"
	ByNATPMP = "nat-pmp"
	ByPCP    = "pcp"
)

// gatewaySearch finds gateways of whatever version and connection: later versions answer to the first.
const gatewaySearch = gatewayType + "1"

// mappingPort is where a gateway answers NAT-PMP and PCP (RFC 6886, section 3; RFC 6887, section 19.1).
const mappingPort = 5351

// outerTime bounds each way of asking.
const outerTime = 3 * time.Second

// OuterAddress asks the gateways of a home's recorded segments for the address they have outside:
// by IGD, NAT-PMP and PCP. What was asked for and is taken back at once leaves nothing behind.
func (g HomeGuard) OuterAddress(ctx context.Context, d *dossier.Dossier) []OuterSeen {
	var out []OuterSeen
	for _, s := range d.Segments {
		own, via, here := OwnAddress(s.Prefix)
		if !here || g.Allow(own) != nil {
			continue
		}
		from := len(out)
		out = append(out, g.byIGD(ctx, own, via)...)
		if s.Gateway.Is4() && g.Allow(s.Gateway) == nil {
			out = append(out, g.byMapping(ctx, s.Gateway, ByNATPMP, natPMP), g.byMapping(ctx, s.Gateway, ByPCP, func(ctx context.Context, conn net.Conn) (netip.Addr, error) { return pcp(ctx, conn, own) }))
		}
		for i := range out[from:] {
			out[from+i].Segment = s.Name
		}
	}
	return out
}

// byIGD finds gateways by SSDP and asks each of their connections (WANIPConnection:1, 2.4.18).
func (g HomeGuard) byIGD(ctx context.Context, own netip.Addr, via *net.Interface) []OuterSeen {
	answers, err := Search(ctx, own, via, gatewaySearch, 1) // later versions answer to it too
	if err != nil {
		return []OuterSeen{{By: ByIGD, Failure: err.Error()}}
	}
	client := g.Client()
	var out []OuterSeen
	asked := map[string]bool{}
	for _, a := range answers {
		if a.Location == nil || asked[a.Location.String()] {
			continue
		}
		asked[a.Location.String()] = true
		root, err := Describe(ctx, client, a.Location)
		if err != nil {
			out = append(out, OuterSeen{By: ByIGD, Failure: string(dialCode(err))})
			continue
		}
		for _, c := range root.connections(ctx) {
			answer, err := c.call(ctx, "GetExternalIPAddress")
			one := OuterSeen{By: ByIGD}
			if err != nil {
				one.Failure = "refused"
			} else if at, err := netip.ParseAddr(strings.TrimSpace(answer["NewExternalIPAddress"])); err == nil {
				one.Address = at
			}
			out = append(out, one)
		}
	}
	if len(out) == 0 {
		out = append(out, OuterSeen{By: ByIGD, Failure: "silence"})
	}
	return out
}

func (g HomeGuard) byMapping(ctx context.Context, gateway netip.Addr, by string, ask func(context.Context, net.Conn) (netip.Addr, error)) OuterSeen {
	ctx, cancel := context.WithTimeout(ctx, g.lag.patient(outerTime))
	defer cancel()
	conn, err := g.Dial(ctx, "udp4", netip.AddrPortFrom(gateway, mappingPort).String())
	if err != nil {
		return OuterSeen{By: by, Failure: string(dialCode(err))}
	}
	defer func() { _ = conn.Close() }()
	at, err := ask(ctx, conn)
	switch {
	case err == nil:
		return OuterSeen{By: by, Address: at}
	case errors.Is(err, errNotSupported):
		return OuterSeen{By: by, Failure: "not-supported"}
	}
	return OuterSeen{By: by, Failure: string(dialCode(err))}
}

var errNotSupported = errors.New("the gateway does not offer it")

// exchange sends a request until an answer is taken, at doubling intervals from 250 ms (RFC 6886,
// section 3.1).
func exchange(ctx context.Context, conn net.Conn, request []byte, takes func([]byte) bool) ([]byte, error) {
	b := make([]byte, 1100)
	for wait := 250 * time.Millisecond; ; wait *= 2 {
		if _, err := conn.Write(request); err != nil {
			return nil, err
		}
		until := time.Now().Add(wait)
		if last, ok := ctx.Deadline(); ok && last.Before(until) {
			until = last
		}
		_ = conn.SetReadDeadline(until)
		for {
			n, err := conn.Read(b)
			if err == nil && takes(b[:n]) {
				return b[:n], nil
			}
			if err != nil && (!isTimeout(err) || ctx.Err() != nil || !time.Now().Before(deadlineOf(ctx))) {
				return nil, err
			}
			if err != nil {
				break
			}
		}
	}
}

func deadlineOf(ctx context.Context) time.Time {
	at, ok := ctx.Deadline()
	if !ok {
		return time.Now().Add(outerTime)
	}
	return at
}

func isTimeout(err error) bool {
	var timeout net.Error
	return errors.As(err, &timeout) && timeout.Timeout()
}

// natPMP asks for the external address (RFC 6886, section 3.2).
func natPMP(ctx context.Context, conn net.Conn) (netip.Addr, error) {
	b, err := exchange(ctx, conn, []byte{0, 0}, func(b []byte) bool { return len(b) >= 4 && b[1] == 128 })
	if err != nil {
		return netip.Addr{}, err
	}
	if result := binary.BigEndian.Uint16(b[2:]); b[0] != 0 || result == 1 || result == 5 { // 1: version not supported, 5: opcode
		return netip.Addr{}, errNotSupported
	}
	if len(b) < 12 {
		return netip.Addr{}, fmt.Errorf("%w: short answer", errNotSupported)
	}
	at := netip.AddrFrom4([4]byte(b[8:12]))
	if at.IsUnspecified() {
		return netip.Addr{}, nil
	}
	return at, nil
}

// pcpSpoken asks whether the gateway speaks PCP, by an announcement request that makes no mapping (RFC 6887,
// section 14.1).
func pcpSpoken(ctx context.Context, conn net.Conn, own netip.Addr) error {
	request := make([]byte, 24)
	request[0] = 2 // version 2, opcode 0: ANNOUNCE
	client := own.As16()
	copy(request[8:24], client[:])
	b, err := exchange(ctx, conn, request, func(b []byte) bool { return len(b) >= 4 && (b[1] == 0x80 || b[0] != 2) })
	if err != nil {
		return err
	}
	if b[0] != 2 || b[3] != 0 {
		return errNotSupported
	}
	return nil
}

// pcpMapTime is how long the mapping lives by which the outer address is learnt, in seconds; it is
// deleted right after.
const pcpMapTime = 10

// pcp learns the outer address by a short mapping of the discard port, which it deletes again
// (RFC 6887, sections 11.1 and 15.1).
func pcp(ctx context.Context, conn net.Conn, own netip.Addr) (netip.Addr, error) {
	request := make([]byte, 60)
	request[0], request[1] = 2, 1 // version 2, MAP
	client := own.As16()
	copy(request[8:24], client[:])
	_, _ = rand.Read(request[24:36]) // nonce
	request[36] = 17                 // UDP
	binary.BigEndian.PutUint16(request[40:], 9)
	any4 := netip.MustParseAddr("::ffff:0.0.0.0").As16()
	copy(request[44:60], any4[:])
	ask := func(lifetime uint32) ([]byte, error) {
		binary.BigEndian.PutUint32(request[4:], lifetime)
		return exchange(ctx, conn, request, func(b []byte) bool { return len(b) >= 4 && (b[1] == 0x81 || b[0] != 2) })
	}
	b, err := ask(pcpMapTime)
	if err != nil {
		return netip.Addr{}, err
	}
	if b[0] != 2 || b[3] == 1 || b[3] == 4 || len(b) < 60 { // 1: version not supported, 4: opcode not supported
		return netip.Addr{}, errNotSupported
	}
	if b[3] != 0 {
		return netip.Addr{}, fmt.Errorf("%w: result %d", errNotSupported, b[3])
	}
	at := netip.AddrFrom16([16]byte(b[44:60])).Unmap()
	if _, err := ask(0); err != nil {
		return at, fmt.Errorf("take the mapping back: %w", err)
	}
	return at, nil
}
