package probe

import (
	"context"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// speaks are the protocols that stand behind ports, by their registration with IANA.
var speaks = map[int]dossier.Protocol{80: dossier.ProtocolHTTP, 8080: dossier.ProtocolHTTP, 443: protocolHTTPS, 8443: protocolHTTPS, 445: dossier.ProtocolSMB, 2049: dossier.ProtocolNFS, 554: dossier.ProtocolRTSP, 8554: dossier.ProtocolRTSP}

// protocolHTTPS is a web server that speaks TLS. No source is recorded by it: it is asked for its page alone.
const protocolHTTPS dossier.Protocol = "https"

// service is one thing that a host may serve: what led to it, and where.
type service struct {
	protocol dossier.Protocol
	port     int
	path     string
	name     string
}

// servicesOf lists what a host may serve: what it announces, what is recorded at its address, what
// stands behind its open ports.
func servicesOf(d *dossier.Dossier, h matching.Host) []service {
	var out []service
	add := func(one service) {
		listed := one.protocol == dossier.ProtocolSMB || one.protocol == dossier.ProtocolNFS // it says itself what it has
		known := slices.ContainsFunc(out, func(o service) bool { return o.port == one.port && (o.path == one.path || one.path == "" || listed) })
		if one.port != 0 && !known {
			out = append(out, one)
		}
	}
	for _, o := range h.Services {
		add(service{sourcesOf[o.Type], o.Port, o.Path, o.Name})
	}
	for _, s := range d.Sources {
		recorded := slices.ContainsFunc(d.ListensOn(s), func(i dossier.Interface) bool { return slices.Contains(i.Addresses, h.Address) })
		if recorded && slices.Contains(h.Open, s.Port) && s.Protocol != dossier.ProtocolUPnPAV {
			add(service{s.Protocol, s.Port, s.Locator, s.ShownName})
		}
	}
	for _, port := range h.Open {
		if p, known := speaks[port]; known {
			add(service{protocol: p, port: port})
		}
	}
	return out
}

// askHosts asks every host that was seen for its names and for what it serves.
func (g *scanner) askHosts(ctx context.Context) {
	for _, s := range g.segments {
		s.names(ctx)
		g.mu.Lock()
		var here []matching.Host
		for _, h := range g.hosts {
			if h.Segment == s.segment.ID {
				here = append(here, *h)
			}
		}
		g.mu.Unlock()
		slices.SortFunc(here, func(a, b matching.Host) int { return a.Address.Compare(b.Address) })
		for _, h := range here {
			for _, one := range servicesOf(g.d, h) {
				s.serve(ctx, h.Address, one)
			}
			if h.Address.Is4() && (slices.Contains(h.Open, 139) || slices.Contains(h.Open, 445)) {
				s.ask(ctx, netip.AddrPortFrom(h.Address, nameService), matching.ByNetBIOS, func(ctx context.Context) matching.Question { return s.netBIOS(ctx, h.Address) })
			}
		}
	}
}

// serve asks one service of a host what it gives.
func (s *segmentScan) serve(ctx context.Context, at netip.Addr, one service) {
	to := netip.AddrPortFrom(at, uint16(one.port))
	switch one.protocol {
	case dossier.ProtocolHTTP, dossier.ProtocolM3U, dossier.ProtocolHLS:
		if !s.first("page " + to.String() + "/" + strings.TrimPrefix(one.path, "/")) {
			return // several things lead to it
		}
		s.ask(ctx, to, matching.ByHTTP, func(ctx context.Context) matching.Question { return s.page(ctx, to, one) })
	case protocolHTTPS:
		s.ask(ctx, to, matching.ByHTTP, func(ctx context.Context) matching.Question { return s.securePage(ctx, to) })
	case dossier.ProtocolRTSP:
		s.ask(ctx, to, matching.ByRTSP, func(ctx context.Context) matching.Question { return s.rtsp(ctx, to, one) })
	case dossier.ProtocolSMB:
		s.ask(ctx, to, matching.BySMB, func(ctx context.Context) matching.Question { return s.smb(ctx, to, one) })
	case dossier.ProtocolNFS:
		s.ask(ctx, to, matching.ByNFS, func(ctx context.Context) matching.Question { return s.nfs(ctx, to, one) })
	}
}

// source notes a source of a host, once for each protocol, port and locator.
func (s *segmentScan) source(at netip.AddrPort, protocol dossier.Protocol, locator, shown string, by matching.Way, more func(h *matching.Host, place int)) {
	s.host(at.Addr(), func(h *matching.Host) {
		place := slices.IndexFunc(h.Seen, func(o matching.Seen) bool {
			said, _ := o.Members["locator"].(string)
			return o.Kind == "source" && o.Members["protocol"] == protocol && o.Members["port"] == int(at.Port()) && said == locator
		})
		if place < 0 {
			place = h.Add("source", 0)
		}
		h.Say(place, "protocol", protocol, by)
		h.Say(place, "port", int(at.Port()), by)
		h.Say(place, "locator", locator, by)
		h.Say(place, "shownName", shown, by)
		if more != nil {
			more(h, place)
		}
	})
}
