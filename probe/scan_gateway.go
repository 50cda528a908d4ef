package probe

import (
	"context"
	"errors"
	"net"
	"net/netip"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// natPMP and pcp ask the recorded gateway of the segment for its outer address.
func (s *segmentScan) natPMP(ctx context.Context) matching.Question {
	return s.mapping(ctx, ByNATPMP, natPMP, matching.ByNATPMP)
}

func (s *segmentScan) pcp(ctx context.Context) matching.Question {
	return s.mapping(ctx, ByPCP, func(ctx context.Context, conn net.Conn) (netip.Addr, error) {
		return netip.Addr{}, pcpSpoken(ctx, conn, s.own)
	}, matching.ByPCP)
}

func (s *segmentScan) mapping(ctx context.Context, by string, ask func(context.Context, net.Conn) (netip.Addr, error), way matching.Way) matching.Question {
	gateway := s.segment.Gateway
	if !gateway.Is4() || s.guard.Allow(gateway) != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: "no gateway is recorded", Port: mappingPort}
	}
	seen := s.guard.byMapping(ctx, gateway, by, ask)
	if seen.Failure != "" {
		q := matching.Question{Ended: endOfCode(seen.Failure), Port: mappingPort}
		if q.Ended == matching.Broken {
			q.Detail = seen.Failure
		}
		return q
	}
	q := matching.Question{Ended: matching.Answered, Answers: 1, Port: mappingPort}
	if !seen.Address.IsValid() {
		if q.Ended = matching.Empty; by == ByPCP { // a scan asks only whether it is spoken, which leaves nothing
			q.Ended = matching.Answered
			s.host(gateway, func(h *matching.Host) { h.Say(0, "mapsPorts", dossier.Yes, way) })
		}
		return q
	}
	q.Detail = "outer address " + seen.Address.String()
	s.host(gateway, func(h *matching.Host) {
		h.Say(0, "mapsPorts", dossier.Yes, way)
		sayOuter(h, seen.Address, way)
	})
	return q
}

// sayOuter notes the outer address of the line that ends at a router.
func sayOuter(h *matching.Host, outer netip.Addr, by matching.Way) {
	n := slices.IndexFunc(h.Seen, func(o matching.Seen) bool { return o.Kind == "line" })
	if n < 0 {
		n = h.Add("line", 0)
	}
	h.Say(n, "outerAddress", outer, by)
}

// connections returns the connections of a gateway to the internet, IP or PPP, of whatever version: the one
// that the gateway itself calls its default first (Layer3Forwarding:1, 2.4.2).
func (d *description) connections(ctx context.Context) []*upnpClient {
	var out []*upnpClient
	for _, one := range d.all() {
		for _, kind := range []string{"WANIPConnection", "WANPPPConnection"} {
			if all := d.services(one.Services, kind); len(all) > 0 {
				out = append(out, all[0]) // the newest version: they are one connection
			}
		}
	}
	if len(out) < 2 {
		return out
	}
	forwarding, err := d.service(upnpDevice{}, "Layer3Forwarding")
	if err != nil {
		return out
	}
	answer, err := forwarding.call(ctx, "GetDefaultConnectionService")
	if err != nil {
		return out // all are asked, in the order in which they stand
	}
	_, id, _ := strings.Cut(strings.TrimSpace(answer["NewDefaultConnectionService"]), ",")
	if i := slices.IndexFunc(out, func(c *upnpClient) bool { return c.id == id }); i > 0 {
		preferred := out[i]
		out = slices.Insert(slices.Delete(out, i, i+1), 0, preferred)
	}
	return out
}

// gatewayServices asks a gateway for its outer address, the ports it forwards, and what it gives
// out as a DHCP server (IGD:1 and IGD:2).
func (s *segmentScan) gatewayServices(ctx context.Context, root *description, at netip.AddrPort) {
	began := time.Now()
	all := root.connections(ctx)
	q := matching.Question{Way: matching.ByIGD, Port: int(at.Port()), Ended: matching.Empty}
	for _, c := range all {
		answer, err := c.call(ctx, "GetExternalIPAddress")
		if err != nil {
			q.Ended, q.Detail = browseEnd(ctx, err), err.Error()
			continue
		}
		q.Ended = matching.Answered
		q.Answers++
		s.host(at.Addr(), func(h *matching.Host) {
			h.Say(0, "mapsPorts", dossier.Yes, matching.ByIGD)
			if outer, err := netip.ParseAddr(strings.TrimSpace(answer["NewExternalIPAddress"])); err == nil && !outer.IsUnspecified() {
				sayOuter(h, outer, matching.ByIGD)
			}
		})
		q.Answers += s.forwards(ctx, c)
	}
	q.Seconds = secondsSince(began)
	s.answered(at.Addr(), q)
	s.leases(ctx, root, at)
}

// mostForwards bounds the list of forwarded ports.
const mostForwards = 256

// forwards reads the ports that are forwarded, until the gateway says that there are no more.
func (s *segmentScan) forwards(ctx context.Context, c *upnpClient) int {
	for n := range mostForwards {
		one, err := c.call(ctx, "GetGenericPortMappingEntry", "NewPortMappingIndex", strconv.Itoa(n))
		if err != nil {
			return n // 713: past the end (WANIPConnection:1, 2.4.14)
		}
		value := func(name string) string { return strings.TrimSpace(one[name]) }
		to, err := netip.ParseAddr(value("NewInternalClient"))
		inside, wrong := strconv.ParseUint(value("NewInternalPort"), 10, 16)
		outside, wrongToo := strconv.ParseUint(value("NewExternalPort"), 10, 16)
		enabled := value("NewEnabled") == "1" || strings.EqualFold(value("NewEnabled"), "true") || strings.EqualFold(value("NewEnabled"), "yes")
		if errors.Join(err, wrong, wrongToo) == nil && enabled && strings.EqualFold(value("NewProtocol"), "tcp") {
			s.mu.Lock()
			s.forwarded = append(s.forwarded, forwarded{netip.AddrPortFrom(to.Unmap(), uint16(inside)), int(outside)})
			s.mu.Unlock()
		}
	}
	return mostForwards
}

// forwarded is one port that a gateway forwards.
type forwarded struct {
	to      netip.AddrPort
	outside int
}

// fromGateway notes with every host that was seen what gateways say of it: whether a source is
// reached from outside, whether an address is kept for it.
func (g *scanner) fromGateway() {
	for _, a := range g.reserved {
		if h := g.hosts[a]; h != nil {
			h.Say(1, "addressBy", dossier.ByReservation, matching.ByLeases)
		}
	}
	for _, f := range g.forwarded {
		h := g.hosts[f.to.Addr()]
		if h == nil {
			continue
		}
		for n, s := range h.Seen {
			if s.Kind == "source" && s.Members["port"] == int(f.to.Port()) {
				h.Say(n, "outsidePort", f.outside, matching.ByIGD)
				h.Say(n, "outsideBy", dossier.WayForwarding, matching.ByIGD)
			}
		}
	}
}

// leases asks a gateway what it gives out in this segment (LANHostConfigManagement:1, 2.4).
func (s *segmentScan) leases(ctx context.Context, root *description, at netip.AddrPort) {
	c, err := root.service(upnpDevice{}, "LANHostConfigManagement")
	if err != nil {
		return
	}
	began := time.Now()
	pool, err := c.call(ctx, "GetAddressRange")
	first, last := pool["NewMinAddress"], pool["NewMaxAddress"]
	q := matching.Question{Way: matching.ByLeases, Port: int(at.Port()), Ended: matching.Answered, Answers: 1}
	if err != nil {
		q.Ended, q.Answers, q.Detail = browseEnd(ctx, err), 0, err.Error()
	}
	ask := func(action, value string) string { // each may be left out
		answer, err := c.call(ctx, action)
		if err != nil {
			return ""
		}
		return answer[value]
	}
	names, routers, reserved := ask("GetDNSServers", "NewDNSServers"), ask("GetIPRoutersList", "NewIPRouters"), ask("GetReservedAddresses", "NewReservedAddresses")
	s.mu.Lock()
	s.reserved = append(s.reserved, addressesOf(reserved, mostReserved)...)
	s.mu.Unlock()
	s.host(at.Addr(), func(h *matching.Host) {
		n := seenSegment(h)
		if a, b := addresses(first), addresses(last); len(a) == 1 && len(b) == 1 && s.segment.Prefix.Contains(a[0]) && s.segment.Prefix.Contains(b[0]) {
			h.Say(n, "poolFirst", a[0], matching.ByLeases)
			h.Say(n, "poolLast", b[0], matching.ByLeases)
		}
		h.Say(n, "nameServers", addresses(names), matching.ByLeases)
		if r := addresses(routers); len(r) > 0 && s.segment.Prefix.Contains(r[0]) {
			h.Say(n, "gateway", r[0], matching.ByLeases)
		}
	})
	q.Seconds = secondsSince(began)
	s.answered(at.Addr(), q)
}

// seenSegment returns the place of what a host says of its segment.
func seenSegment(h *matching.Host) int {
	if n := slices.IndexFunc(h.Seen, func(s matching.Seen) bool { return s.Kind == "segment" }); n >= 0 {
		return n
	}
	return h.Add("segment", 0)
}

// mostReserved bounds the addresses that a DHCP server keeps for one adapter each.
const mostReserved = 512

// addresses reads a short list of addresses with commas.
func addresses(list string) []netip.Addr { return addressesOf(list, 8) }

func addressesOf(list string, most int) []netip.Addr {
	var out []netip.Addr
	for one := range strings.SplitSeq(list, ",") {
		if a, err := netip.ParseAddr(strings.TrimSpace(one)); err == nil && len(out) < most {
			out = append(out, a.Unmap())
		}
	}
	return out
}
