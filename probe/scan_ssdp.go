package probe

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/miekg/dns"

	"kaiku/core/matching"
	"kaiku/multicast"
)

// ssdp searches for everything and reads the description of each device that answers.
func (s *segmentScan) ssdp(ctx context.Context) matching.Question {
	answers := 0
	err := searchEach(ctx, s.own, s.via, multicast.SSDP, "ssdp:all", s.mx, s.late, s.guard.lag, func(a Answer) {
		answers++
		s.host(a.From, func(h *matching.Host) { h.Hear(multicast.SSDP.Port) })
		s.announced(ctx, a, matching.BySSDP)
	})
	switch {
	case answers > 0:
		q := matching.Question{Ended: matching.Answered, Answers: answers}
		if answers >= mostAnswers {
			q.Detail = "more than that was not listened to"
		}
		return q
	case err != nil && ctx.Err() == nil:
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	return matching.Question{Ended: matching.Silent}
}

// announced notes a device that announces itself, and has its description read once.
func (s *segmentScan) announced(ctx context.Context, a Answer, by matching.Way) {
	udn, _, _ := strings.Cut(a.USN, "::")
	if !s.host(a.From, func(*matching.Host) {}) {
		return // another segment, or a stranger
	}
	if a.Server != "" {
		s.atEnd(said{a.From, "announces", string(by) + a.Location.String(), func(h *matching.Host) { h.Say(0, "announces", a.Server, by) }})
	}
	if !s.mayRead(a) {
		return
	}
	at, ok := hostOf(a.Location)
	if !ok && strings.HasSuffix(strings.ToLower(a.Location.Hostname()), ".local") {
		// A name that the device itself has to answer for (RFC 6762, section 3).
		s.ask(ctx, netip.AddrPortFrom(a.From, 0), matching.ByUPnP, func(ctx context.Context) matching.Question {
			found, known := s.localName(ctx, a.Location.Hostname())
			if !known || s.guard.Allow(found) != nil || found == s.own {
				return matching.Question{Ended: matching.NotAsked, Detail: "no address in this segment for " + a.Location.Host}
			}
			to := *a.Location
			to.Host = net.JoinHostPort(found.String(), cmp.Or(a.Location.Port(), "80"))
			a.Location = &to
			at, _ := hostOf(&to)
			return s.description(ctx, a, at, udn)
		})
		return
	}
	if ok && at.Addr().Is6() && a.From.Is4() { // whose it is will be known later
		s.hear6(heard6{at: at.Addr(), answer: &a, by: by})
		return
	}
	if !ok || s.guard.Allow(at.Addr()) != nil || at.Addr() == s.own {
		s.answered(a.From, matching.Question{Way: matching.ByUPnP, Ended: matching.NotAsked, Detail: "leads elsewhere: " + a.Location.Host})
		return
	}
	s.ask(ctx, at, matching.ByUPnP, func(ctx context.Context) matching.Question { return s.description(ctx, a, at, udn) })
}

// mostLocations is how many descriptions are read that one host announces.
const mostLocations = 12

// mayRead reports whether a location is to be read: once for each, and only so many of one host. What one
// host announces of another keeps nobody from reading what that one announces itself.
func (s *segmentScan) mayRead(a Answer) bool {
	place := "location " + a.From.String() + " " + a.Location.String()
	if at, ok := hostOf(a.Location); ok && at.Addr() == a.From {
		place = "location " + a.Location.String() // the same in every address family and by every way
	}
	if !s.first(place) {
		return false
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.locations[a.From]++
	return s.locations[a.From] <= mostLocations
}

// localName asks the segment for the address of a name.
func (s *segmentScan) localName(ctx context.Context, name string) (netip.Addr, bool) {
	hear, err := multicast.Hear(multicast.MDNS, s.via)
	if err != nil {
		return netip.Addr{}, false
	}
	defer hear.Close()
	speak, err := multicast.Speak(netip.AddrPortFrom(s.own, 5353), s.via, 255)
	if err != nil {
		return netip.Addr{}, false
	}
	defer speak.Close()
	want := dns.Question{Name: dns.Fqdn(strings.ToLower(name)), Qtype: dns.TypeA, Qclass: dns.ClassINET}
	packet, err := (&dns.Msg{Question: []dns.Question{want}}).Pack()
	if err != nil {
		return netip.Addr{}, false
	}
	buffer := make([]byte, 9000)
	for range mostRepeats {
		_, _ = speak.WriteTo(packet, multicast.MDNS)
		_ = hear.SetReadDeadline(time.Now().Add(s.guard.lag.patient(mdnsRound)))
		for ctx.Err() == nil {
			n, from, err := hear.Next(buffer)
			if err != nil {
				break
			}
			var m dns.Msg
			if !s.segment.Prefix.Contains(from.Addr()) && !from.Addr().IsUnspecified() || m.Unpack(buffer[:n]) != nil || !m.Response {
				continue
			}
			for _, r := range slices.Concat(m.Answer, m.Extra) {
				if a, ok := r.(*dns.A); ok && strings.EqualFold(a.Hdr.Name, want.Name) {
					if at, ok := netip.AddrFromSlice(a.A.To4()); ok && s.segment.Prefix.Contains(at) {
						return at, true
					}
				}
			}
		}
	}
	return netip.Addr{}, false
}

// hostOf returns the address and port that a location leads to. A name is not followed: it could
// lead anywhere.
func hostOf(u *url.URL) (netip.AddrPort, bool) {
	host := u.Host
	if u.Port() == "" {
		host = net.JoinHostPort(u.Hostname(), "80")
	}
	at, err := netip.ParseAddrPort(host)
	return netip.AddrPortFrom(at.Addr().Unmap().WithZone(""), at.Port()), err == nil
}

// notify hears what announces itself or says goodbye while the segment is looked at.
func (s *segmentScan) notify(ctx context.Context) matching.Question {
	hear, err := multicast.Hear(multicast.SSDP, s.via)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	defer hear.Close()
	heard := s.announcements(ctx, hear, func(a Answer, goodbye bool) bool {
		if !s.segment.Prefix.Contains(a.From) {
			return false
		}
		s.host(a.From, func(h *matching.Host) { h.Left = goodbye })
		if !goodbye {
			s.announced(ctx, a, matching.ByNotify)
		}
		return true
	})
	if heard == 0 {
		return matching.Question{Ended: matching.Silent}
	}
	return matching.Question{Ended: matching.Answered, Answers: heard}
}

// announcements hands on what announces itself or says goodbye to a group while the segment is looked at, and
// returns how many were of use.
func (s *segmentScan) announcements(ctx context.Context, hear *multicast.Ear, each func(a Answer, goodbye bool) bool) int {
	defer s.guard.lag.hear(ctx, hear, s.window())()
	heard := 0
	for b := make([]byte, 8192); heard < mostAnswers; {
		n, from, err := hear.Next(b)
		if err != nil {
			break
		}
		a, goodbye, ok := parseNotify(b[:n])
		a.From = from.Addr().WithZone("")
		if ok && each(a, goodbye) {
			heard++
		}
	}
	return heard
}

// window is how long multicast is listened to: as long as a search.
func (s *segmentScan) window() time.Duration { return searchWindow(s.mx, s.late) }

// parseNotify reads an announcement (UPnP Device Architecture 2.0, section 1.2).
func parseNotify(b []byte) (a Answer, goodbye, ok bool) {
	r, err := http.ReadRequest(bufio.NewReader(bytes.NewReader(b)))
	if err != nil || r.Method != "NOTIFY" {
		return Answer{}, false, false
	}
	a = Answer{Target: r.Header.Get("Nt"), USN: r.Header.Get("Usn"), Server: r.Header.Get("Server")}
	switch r.Header.Get("Nts") {
	case "ssdp:byebye":
		return a, true, true
	case "ssdp:alive", "ssdp:update":
		at, err := url.Parse(r.Header.Get("Location"))
		if err != nil || at.Scheme != "http" || at.Host == "" {
			return Answer{}, false, false
		}
		a.Location = at
		return a, false, true
	}
	return Answer{}, false, false
}
