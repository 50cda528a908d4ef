package probe

import (
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/netip"
	"net/url"
	"path"
	"strings"
	"time"

	"golang.org/x/net/html"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/papers"
)

// mostPage bounds what is read of a page: a list of a thousand channels has 200 kB.
const mostPage = 1 << 20

// fetch asks a web server for a place. Without an answer it returns how the question ended.
func (s *segmentScan) fetch(ctx context.Context, where *url.URL) (*http.Response, matching.Question) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, where.String(), nil)
	if err != nil {
		return nil, matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	resp, err := s.guard.clientFor(hostTime).Do(r)
	if err != nil {
		return nil, matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	return resp, matching.Question{}
}

// page fetches what a web server has at a place and notes what it is: pages for people, a list of
// streams, a stream, a guide.
func (s *segmentScan) page(ctx context.Context, at netip.AddrPort, one service) matching.Question {
	where := &url.URL{Scheme: "http", Host: at.String(), Path: "/" + strings.TrimPrefix(one.path, "/")}
	if parsed, err := url.Parse(where.Path); err == nil && parsed.Host == "" {
		where.Path, where.RawQuery = parsed.Path, parsed.RawQuery
	}
	resp, q := s.fetch(ctx, where)
	if resp == nil {
		return q
	}
	defer resp.Body.Close()
	s.clock(at.Addr(), resp.Header)
	q = matching.Question{Ended: matching.Answered, Answers: 1, Detail: resp.Status}
	switch {
	case resp.StatusCode == http.StatusUnauthorized || resp.StatusCode == http.StatusForbidden:
		q.Ended = matching.Denied
		return q
	case resp.StatusCode != http.StatusOK:
		return q
	}
	kind, _, _ := strings.Cut(strings.ToLower(resp.Header.Get("Content-Type")), ";")
	if moving := strings.HasPrefix(kind, "video/") || strings.HasPrefix(kind, "audio/"); moving && !strings.Contains(kind, "mpegurl") {
		s.source(at, dossier.ProtocolHTTP, where.RequestURI(), one.name, matching.ByHTTP, func(h *matching.Host, _ int) {
			addRole(h, dossier.RoleServer, matching.ByHTTP)
			saySoftware(h, resp.Header.Get("Server"), dossier.SoftwareStream, matching.ByHTTP)
		})
		q.Detail = "a stream of " + kind
		return q // it may never end
	}
	body, err := io.ReadAll(io.LimitReader(resp.Body, mostPage))
	if err != nil && len(body) == 0 {
		return matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	return s.content(ctx, at, where, one, kind, body, resp.Header.Get("Server"), q)
}

// securePage reads the first page of a web server that speaks TLS. The certificate is looked at, not
// believed: devices make their own, and nothing secret is sent.
func (s *segmentScan) securePage(ctx context.Context, at netip.AddrPort) matching.Question {
	client := s.guard.clientFor(hostTime)
	transport, _ := client.Transport.(*http.Transport)
	transport.TLSClientConfig = &tls.Config{InsecureSkipVerify: true, MinVersion: tls.VersionTLS10} // old devices speak nothing newer
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, "https://"+at.String()+"/", nil)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	resp, err := client.Do(r)
	if err != nil {
		return matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	defer resp.Body.Close()
	s.clock(at.Addr(), resp.Header)
	q := matching.Question{Ended: matching.Answered, Answers: 1, Detail: resp.Status}
	if resp.TLS != nil && len(resp.TLS.PeerCertificates) > 0 {
		own := resp.TLS.PeerCertificates[0]
		if q.Detail = "a certificate for " + own.Subject.CommonName; own.Issuer.String() == own.Subject.String() {
			q.Detail = "a certificate of its own for " + own.Subject.CommonName
		}
	}
	if resp.StatusCode == http.StatusUnauthorized || resp.StatusCode == http.StatusForbidden {
		q.Ended = matching.Denied
		return q
	}
	body, err := io.ReadAll(io.LimitReader(resp.Body, mostPage))
	if kind := strings.ToLower(resp.Header.Get("Content-Type")); err != nil || resp.StatusCode != http.StatusOK || !strings.Contains(kind, "html") {
		return q
	}
	title := titleOf(body)
	s.host(at.Addr(), func(h *matching.Host) {
		if h.Seen[0].Members["name"] == nil { // what the plain page says comes first
			h.Say(0, "name", title, matching.ByHTTP)
		}
		if h.Seen[0].Members["menus"] == nil {
			h.Say(0, "menus", "Browser at https://"+at.String()+"/", matching.ByHTTP)
		}
	})
	if title != "" {
		q.Detail = title + ", with " + q.Detail
	}
	return q
}

// content notes what a page holds.
func (s *segmentScan) content(ctx context.Context, at netip.AddrPort, where *url.URL, one service, kind string, body []byte, banner string, q matching.Question) matching.Question {
	if list, ok := papers.ReadStreamList(body); ok {
		protocol := dossier.ProtocolM3U
		if list.Segments {
			protocol = dossier.ProtocolHLS
		}
		s.source(at, protocol, where.RequestURI(), one.name, matching.ByStreamList, func(h *matching.Host, place int) {
			addRole(h, dossier.RoleServer, matching.ByStreamList)
			h.Say(place, "guide", list.Guide, matching.ByStreamList)
			if list.Guide != "" {
				addRole(h, dossier.RoleTuner, matching.ByStreamList)
				saySoftware(h, banner, dossier.SoftwareTuner, matching.ByStreamList)
			}
			if protocol == dossier.ProtocolM3U {
				name, holds := "Channels", dossier.LiveTV
				if list.Ends() { // recordings or files
					name = cmp.Or(list.Title, strings.TrimSuffix(path.Base(where.Path), path.Ext(where.Path)))
					holds = matching.ContentOf(name, nil)
				}
				n := h.Add("folder", place)
				h.Say(n, "name", name, matching.ByStreamList)
				h.Say(n, "contentKind", holds, matching.ByStreamList)
				h.Say(n, "itemsInIndex", len(list.Streams), matching.ByStreamList)
			}
		})
		s.serve(ctx, at.Addr(), service{protocol: dossier.ProtocolHTTP, port: int(at.Port()), path: "/"}) // which may lead to more
		s.guide(ctx, at.Addr(), where, list.Guide)
		q.Detail = "a stream list"
		if len(list.Streams) == 0 {
			q.Ended = matching.Empty
		}
		for _, one := range list.Streams {
			if to, err := netip.ParseAddrPort(one.Host()); err == nil && to.Addr() != at.Addr() {
				q.Detail = "a stream list that leads to " + to.Addr().String()
				break
			}
		}
		return q
	}
	if strings.Contains(kind, "html") {
		title := titleOf(body)
		s.host(at.Addr(), func(h *matching.Host) {
			h.Say(0, "name", title, matching.ByHTTP)
			h.Say(0, "menus", "Browser at http://"+at.String()+where.RequestURI(), matching.ByHTTP)
		})
		q.Detail = title
		for _, to := range listsIn(body, where) {
			s.serve(ctx, at.Addr(), service{protocol: dossier.ProtocolHTTP, port: int(at.Port()), path: to.RequestURI()})
		}
		return q
	}
	if g, err := papers.ReadGuide(bytes.NewReader(body)); !errors.Is(err, papers.ErrNoGuide) {
		q.Detail = saysGuide(g)
	}
	return q
}

// guide reads the guide that a list names, if it lies where it may be asked.
func (s *segmentScan) guide(ctx context.Context, host netip.Addr, list *url.URL, named string) {
	if named == "" {
		return
	}
	q := matching.Question{Way: matching.ByGuide, Ended: matching.NotAsked, Detail: "leads elsewhere: " + named}
	began := time.Now()
	if where, err := list.Parse(named); err == nil {
		if at, ok := hostOf(where); ok && s.guard.Allow(at.Addr()) == nil {
			q = s.readGuide(ctx, where)
			q.Way, q.Port = matching.ByGuide, int(at.Port())
		}
	}
	q.Seconds = secondsSince(began)
	s.answered(host, q)
}

// mostGuide bounds what is read of a guide: of longer ones the beginning is counted.
const mostGuide = 16 << 20

func (s *segmentScan) readGuide(ctx context.Context, where *url.URL) matching.Question {
	resp, q := s.fetch(ctx, where)
	if resp == nil {
		return q
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return matching.Question{Ended: matching.Empty, Detail: resp.Status}
	}
	g, err := papers.ReadGuide(io.LimitReader(resp.Body, mostGuide))
	switch {
	case errors.Is(err, papers.ErrNoGuide):
		return matching.Question{Ended: matching.Broken, Detail: err.Error()}
	case g.Programmes == 0:
		return matching.Question{Ended: matching.Empty, Detail: saysGuide(g)}
	}
	return matching.Question{Ended: matching.Answered, Answers: g.Programmes, Detail: saysGuide(g)}
}

func saysGuide(g papers.Guide) string {
	return fmt.Sprintf("a guide of %d programmes on %d channels", g.Programmes, g.Channels)
}

// mostLinked is how many stream lists are followed that a page leads to.
const mostLinked = 8

// listsIn returns the stream lists to which a page leads on the same server, by what their names end in.
func listsIn(body []byte, page *url.URL) []*url.URL {
	var out []*url.URL
	for z := html.NewTokenizer(bytes.NewReader(body)); len(out) < mostLinked; {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken, html.SelfClosingTagToken:
			for name, more := z.TagName(); more && string(name) == "a"; {
				var key, value []byte
				key, value, more = z.TagAttr()
				to, err := page.Parse(strings.TrimSpace(string(value)))
				if string(key) != "href" || err != nil || to.Host != page.Host || to.Scheme != page.Scheme {
					continue
				}
				if end := strings.ToLower(path.Ext(to.Path)); end == ".m3u" || end == ".m3u8" {
					out = append(out, to)
				}
			}
		}
	}
	return out
}

// titleOf returns the title of a page.
func titleOf(body []byte) string {
	z := html.NewTokenizer(bytes.NewReader(body))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return ""
		case html.StartTagToken:
			if name, _ := z.TagName(); string(name) == "title" {
				if z.Next() == html.TextToken {
					return matching.Clean(string(z.Text()))
				}
				return ""
			}
		}
	}
}
