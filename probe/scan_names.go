package probe

import (
	"cmp"
	"context"
	"net/netip"
	"slices"
	"strings"
	"time"

	"github.com/miekg/dns"

	"kaiku/core/matching"
)

// names asks the name servers of the segment for the name of every host that was seen.
func (s *segmentScan) names(ctx context.Context) {
	servers := slices.Clone(s.segment.NameServers)
	if len(servers) == 0 && s.segment.Gateway.IsValid() {
		servers = append(servers, s.segment.Gateway)
	}
	servers = slices.DeleteFunc(servers, func(a netip.Addr) bool { return s.guard.Allow(a) != nil })
	if len(servers) == 0 {
		return
	}
	s.mu.Lock()
	var hosts [][]netip.Addr // of each its addresses, of which one may have a name
	for a, h := range s.hosts {
		if h.Segment == s.segment.ID {
			all, _ := h.Seen[1].Members["addresses"].([]netip.Addr)
			hosts = append(hosts, slices.Compact(append([]netip.Addr{a}, all...)))
		}
	}
	s.mu.Unlock()
	slices.SortFunc(hosts, func(a, b []netip.Addr) int { return a[0].Compare(b[0]) })
	s.question(ctx, matching.ByDNS, func(ctx context.Context) matching.Question {
		ctx, cancel := context.WithTimeout(ctx, s.guard.lag.patient(hostTime))
		defer cancel()
		return s.reverse(ctx, netip.AddrPortFrom(servers[0], uint16(cmp.Or(s.segment.NamePort, 53))), hosts)
	})
}

// reverse asks one server for the names of the addresses (RFC 1035, section 3.5). A server that is
// silent once is not asked again.
func (s *segmentScan) reverse(ctx context.Context, server netip.AddrPort, hosts [][]netip.Addr) matching.Question {
	conn, err := s.guard.Dial(ctx, "udp", server.String())
	if err != nil {
		return matching.Question{Ended: endOf(err), Port: int(server.Port())}
	}
	c := &dns.Conn{Conn: conn}
	defer c.Close()
	stop := context.AfterFunc(ctx, func() { _ = conn.SetDeadline(time.Unix(1, 0)) })
	defer stop()
	q := matching.Question{Ended: matching.Empty, Port: int(server.Port())}
	for n, all := range hosts {
		for _, a := range all {
			if ctx.Err() != nil {
				q.LeftOut = len(hosts) - n
				return q
			}
			name, err := nameOf(c, a, s.guard.lag.patient(time.Second))
			if err != nil {
				return matching.Question{Ended: endOf(err), Port: int(server.Port()), LeftOut: len(hosts) - n}
			}
			if name != "" {
				q.Ended = matching.Answered
				q.Answers++
				s.host(all[0], func(h *matching.Host) { h.Say(0, "hostName", name, matching.ByDNS) })
				break
			}
		}
	}
	return q
}

// nameOf asks for the name of an address and waits so long for it, "" if it has none.
func nameOf(c *dns.Conn, a netip.Addr, wait time.Duration) (string, error) {
	name, err := dns.ReverseAddr(a.String())
	if err != nil {
		return "", err
	}
	m := new(dns.Msg).SetQuestion(name, dns.TypePTR)
	_ = c.SetDeadline(time.Now().Add(wait))
	if err := c.WriteMsg(m); err != nil {
		return "", err
	}
	answer, err := answerTo(c, m.Id)
	if err != nil {
		return "", err
	}
	for _, r := range answer.Answer {
		if p, ok := r.(*dns.PTR); ok {
			return strings.TrimSuffix(unescape(p.Ptr), "."), nil
		}
	}
	return "", nil
}

// answerTo reads until the answer to that question comes: an earlier one may come late.
func answerTo(c *dns.Conn, id uint16) (*dns.Msg, error) {
	for {
		m, err := c.ReadMsg()
		if err != nil {
			return nil, err
		}
		if m.Id == id {
			return m, nil
		}
	}
}
