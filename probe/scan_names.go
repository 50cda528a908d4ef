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
	servers = slices.DeleteFunc(servers, func(a netip.Addr) bool { return !a.Is4() || s.guard.Allow(a) != nil })
	if len(servers) == 0 {
		return
	}
	s.mu.Lock()
	var hosts []netip.Addr
	for a, h := range s.hosts {
		if h.Segment == s.segment.ID {
			hosts = append(hosts, a)
		}
	}
	s.mu.Unlock()
	slices.SortFunc(hosts, netip.Addr.Compare)
	s.question(ctx, matching.ByDNS, func(ctx context.Context) matching.Question {
		ctx, cancel := context.WithTimeout(ctx, hostTime)
		defer cancel()
		return s.reverse(ctx, netip.AddrPortFrom(servers[0], uint16(cmp.Or(s.segment.NamePort, 53))), hosts)
	})
}

// reverse asks one server for the names of the addresses (RFC 1035, section 3.5). A server that is
// silent once is not asked again.
func (s *segmentScan) reverse(ctx context.Context, server netip.AddrPort, hosts []netip.Addr) matching.Question {
	conn, err := s.guard.Dial(ctx, "udp4", server.String())
	if err != nil {
		return matching.Question{Ended: endOf(err), Port: int(server.Port())}
	}
	c := &dns.Conn{Conn: conn}
	defer c.Close()
	stop := context.AfterFunc(ctx, func() { _ = conn.SetDeadline(time.Unix(1, 0)) })
	defer stop()
	q := matching.Question{Ended: matching.Empty, Port: int(server.Port())}
	for n, a := range hosts {
		name, err := dns.ReverseAddr(a.String())
		if err != nil {
			continue
		}
		m := new(dns.Msg).SetQuestion(name, dns.TypePTR)
		_ = conn.SetDeadline(time.Now().Add(time.Second))
		if ctx.Err() != nil {
			q.LeftOut = len(hosts) - n
			return q
		}
		if err := c.WriteMsg(m); err != nil {
			return matching.Question{Ended: endOf(err), Port: int(server.Port()), LeftOut: len(hosts) - n}
		}
		answer, err := answerTo(c, m.Id)
		if err != nil {
			return matching.Question{Ended: endOf(err), Port: int(server.Port()), LeftOut: len(hosts) - n}
		}
		for _, r := range answer.Answer {
			if p, ok := r.(*dns.PTR); ok {
				q.Ended = matching.Answered
				q.Answers++
				s.host(a, func(h *matching.Host) {
					h.Say(0, "hostName", strings.TrimSuffix(unescape(p.Ptr), "."), matching.ByDNS)
				})
				break
			}
		}
	}
	return q
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
