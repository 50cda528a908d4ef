package probe

import (
	"bytes"
	"context"
	"encoding/xml"
	"io"
	"net/http"
	"net/netip"
	"net/url"
	"strings"

	"golang.org/x/net/html"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/papers"
)

// mostPage bounds what is read of a page: a list of a thousand channels has 200 kB.
const mostPage = 1 << 20

// page fetches what a web server has at a place and notes what it is: pages for people, a list of
// streams, a stream, a guide.
func (s *segmentLook) page(ctx context.Context, at netip.AddrPort, one service) matching.Question {
	where := &url.URL{Scheme: "http", Host: at.String(), Path: "/" + strings.TrimPrefix(one.path, "/")}
	if parsed, err := url.Parse(where.Path); err == nil && parsed.Host == "" {
		where.Path, where.RawQuery = parsed.Path, parsed.RawQuery
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, where.String(), nil)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	resp, err := s.guard.Client().Do(r)
	if err != nil {
		return matching.Question{Ended: endOf(err), Detail: err.Error()}
	}
	defer resp.Body.Close()
	s.clock(at.Addr(), resp.Header)
	q := matching.Question{Ended: matching.Answered, Answers: 1, Detail: resp.Status}
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
	return s.content(at, where, one, kind, body, resp.Header.Get("Server"), q)
}

// content notes what a page holds.
func (s *segmentLook) content(at netip.AddrPort, where *url.URL, one service, kind string, body []byte, banner string, q matching.Question) matching.Question {
	if list, ok := papers.ReadStreamList(body); ok {
		protocol := dossier.ProtocolM3U
		if list.Segments {
			protocol = dossier.ProtocolHLS
		}
		s.source(at, protocol, where.RequestURI(), one.name, matching.ByStreamList, func(h *matching.Host, place int) {
			addRole(h, dossier.RoleServer, matching.ByStreamList)
			if list.Guide != "" {
				addRole(h, dossier.RoleTuner, matching.ByStreamList)
				saySoftware(h, banner, dossier.SoftwareTuner, matching.ByStreamList)
			}
			if protocol == dossier.ProtocolM3U {
				n := h.Add("folder", place)
				h.Say(n, "name", "Channels", matching.ByStreamList)
				h.Say(n, "contentKind", dossier.LiveTV, matching.ByStreamList)
				h.Say(n, "itemsInIndex", len(list.Streams), matching.ByStreamList)
			}
		})
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
		return q
	}
	if isGuide(body) {
		q.Detail = "a guide"
	}
	return q
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

// isGuide tells whether a document is XMLTV: its root is tv.
func isGuide(body []byte) bool {
	d := xml.NewDecoder(bytes.NewReader(body))
	d.Strict = false
	for {
		t, err := d.Token()
		if err != nil {
			return false
		}
		if e, ok := t.(xml.StartElement); ok {
			return e.Name.Local == "tv"
		}
	}
}
