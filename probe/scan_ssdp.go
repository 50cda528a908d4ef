package probe

import (
	"bufio"
	"bytes"
	"context"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"kaiku/core/matching"
	"kaiku/multicast"
)

// ssdp searches for everything and reads the description of each device that answers.
func (s *segmentScan) ssdp(ctx context.Context) matching.Question {
	answers := 0
	err := SearchEach(ctx, s.own, s.via, "ssdp:all", s.mx, func(a Answer) {
		answers++
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
	if !s.host(a.From, func(h *matching.Host) { h.Say(0, "announces", a.Server, by) }) {
		return // another segment, or a stranger
	}
	at, ok := hostOf(a.Location)
	if !ok || s.guard.Allow(at.Addr()) != nil {
		if s.first(netip.AddrPortFrom(a.From, 1900)) {
			s.answered(a.From, matching.Question{Way: matching.ByUPnP, Ended: matching.NotAsked, Detail: "leads elsewhere: " + a.Location.Host})
		}
		return
	}
	if !s.first(at) {
		return
	}
	s.ask(ctx, at, matching.ByUPnP, func(ctx context.Context) matching.Question { return s.description(ctx, a, at, udn) })
}

// hostOf returns the address and port that a location leads to. A name is not followed: it could
// lead anywhere.
func hostOf(u *url.URL) (netip.AddrPort, bool) {
	host := u.Host
	if u.Port() == "" {
		host = net.JoinHostPort(u.Hostname(), "80")
	}
	at, err := netip.ParseAddrPort(host)
	return netip.AddrPortFrom(at.Addr().Unmap(), at.Port()), err == nil
}

// notify hears what announces itself or says goodbye while the segment is looked at.
func (s *segmentScan) notify(ctx context.Context) matching.Question {
	hear, err := multicast.Hear(multicast.SSDP, s.via)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	defer hear.Close()
	stop := context.AfterFunc(ctx, func() { _ = hear.SetReadDeadline(time.Unix(1, 0)) })
	defer stop()
	_ = hear.SetReadDeadline(time.Now().Add(s.window()))
	heard := 0
	b := make([]byte, 8192)
	for heard < mostAnswers {
		n, from, err := hear.Next(b)
		if err != nil {
			break
		}
		if !s.segment.Prefix.Contains(from.Addr()) {
			continue
		}
		a, goodbye, ok := parseNotify(b[:n])
		if !ok {
			continue
		}
		heard++
		a.From = from.Addr()
		if goodbye {
			s.host(a.From, func(h *matching.Host) { h.Left = true })
			continue
		}
		s.host(a.From, func(h *matching.Host) { h.Left = false })
		s.announced(ctx, a, matching.ByNotify)
	}
	if heard == 0 {
		return matching.Question{Ended: matching.Silent}
	}
	return matching.Question{Ended: matching.Answered, Answers: heard}
}

// window is how long multicast is listened to: as long as a search.
func (s *segmentScan) window() time.Duration {
	return time.Duration(s.mx)*time.Second + 250*time.Millisecond
}

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
