package probe

import (
	"context"
	"errors"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Beginnings of UPnP device types; what stands after them is the version.
const (
	mediaServerType   = "urn:schemas-upnp-org:device:MediaServer:"
	mediaRendererType = "urn:schemas-upnp-org:device:MediaRenderer:"
	gatewayType       = "urn:schemas-upnp-org:device:InternetGatewayDevice:"
)

// description reads the description at an announced address, and what the device says of itself by
// its services.
func (s *segmentScan) description(ctx context.Context, a Answer, at netip.AddrPort, udn string) matching.Question {
	client := s.guard.clientFor(hostTime)
	root, err := Describe(ctx, client, a.Location)
	if at.Addr() != a.From { // it announces an address that is not its own
		s.answered(a.From, matching.Question{Way: matching.BySSDP, Ended: matching.Answered, Detail: "announces " + a.Location.Host})
		s.host(a.From, func(h *matching.Host) { h.Say(0, "udn", udn, matching.BySSDP) })
		if err != nil {
			return matching.Question{Ended: notDescribed(ctx, err), Detail: err.Error()}
		}
	}
	if err != nil {
		return matching.Question{Ended: notDescribed(ctx, err), Detail: err.Error()}
	}
	header := root.header
	s.clock(at.Addr(), header)
	s.host(at.Addr(), func(h *matching.Host) {
		for _, one := range root.all() {
			s.udns[h.Address.String()+" "+one.UDN] = true
		}
	})
	s.atEnd(said{at.Addr(), "device", weightOf(root) + a.Location.String(), func(h *matching.Host) {
		sayDevice(h, root.Device)
		h.Say(0, "announces", header.Get("Server"), matching.ByUPnP)
		if p := matching.Products(header.Get("Server")); len(p) > 0 && !strings.HasPrefix(root.Device.Type, mediaServerType) {
			h.Say(0, "firmware", p[len(p)-1].Version, matching.BySSDP) // of a server it is the version of its program
		}
		for _, one := range root.all() {
			if strings.HasPrefix(one.Type, gatewayType) || strings.HasPrefix(one.Type, mediaRendererType) {
				h.Say(0, "udn", one.UDN, matching.ByUPnP)
				break
			}
		}
	}})
	s.presentation(ctx, root, at.Addr())
	for _, one := range root.all() {
		switch {
		case strings.HasPrefix(one.Type, mediaServerType):
			s.mediaServer(ctx, root, one, a.Location, at, header.Get("Server"))
		case strings.HasPrefix(one.Type, mediaRendererType):
			s.renderer(ctx, root, one, at)
		case strings.HasPrefix(one.Type, gatewayType):
			s.host(at.Addr(), func(h *matching.Host) { addRole(h, dossier.RoleRouter, matching.ByUPnP) })
			s.gatewayServices(ctx, root, at)
		}
	}
	return matching.Question{Ended: matching.Answered, Answers: 1, Detail: root.Device.Name}
}

// weightOf orders what several descriptions behind one address say of the device: a router is first of all
// a router, and a server more than what it also plays.
func weightOf(root *description) string {
	for n, kind := range []string{gatewayType, mediaServerType, mediaRendererType} {
		if slices.ContainsFunc(root.all(), func(d upnpDevice) bool { return strings.HasPrefix(d.Type, kind) }) {
			return strconv.Itoa(n)
		}
	}
	return "9"
}

// presentation asks for the page for people that a description names (UPnP Device Architecture 1.1,
// section 2.3), if the device serves it itself.
func (s *segmentScan) presentation(ctx context.Context, root *description, host netip.Addr) {
	page, err := root.base.Parse(strings.TrimSpace(root.Device.Presentation))
	if err != nil || root.Device.Presentation == "" {
		return
	}
	if at, ok := hostOf(page); ok && page.Scheme == "http" && at.Addr() == host {
		s.serve(ctx, host, service{protocol: dossier.ProtocolHTTP, port: int(at.Port()), path: page.RequestURI()})
	}
}

func notDescribed(ctx context.Context, err error) matching.Ended {
	switch {
	case overdue(ctx) || isTimeout(err):
		return matching.Silent // it began to answer, and did not end
	case errors.Is(err, ErrNotDescribed), errors.Is(err, errTooLong):
		return matching.Broken
	}
	return endOf(err)
}

// sayDevice notes what a description says of the device itself.
func sayDevice(h *matching.Host, v upnpDevice) {
	h.Say(0, "name", v.Name, matching.ByUPnP)
	h.Say(0, "make", v.Make, matching.ByUPnP)
	h.Say(0, "model", strings.TrimSpace(v.Model), matching.ByUPnP)
	h.Say(0, "variant", strings.TrimSpace(v.Number), matching.ByUPnP)
	h.Say(0, "serial", strings.TrimSpace(v.Serial), matching.ByUPnP)
}

// addRole notes one more thing that a device does.
func addRole(h *matching.Host, role dossier.Role, by matching.Way) {
	roles, _ := h.Seen[0].Members["roles"].([]dossier.Role)
	if !slices.Contains(roles, role) {
		h.Say(0, "roles", append(slices.Clone(roles), role), by)
	}
}

// mediaServer notes a UPnP AV server with the folders that it shows.
func (s *segmentScan) mediaServer(ctx context.Context, root *description, v upnpDevice, where *url.URL, at netip.AddrPort, banner string) {
	source := 0
	s.host(at.Addr(), func(h *matching.Host) {
		addRole(h, dossier.RoleServer, matching.ByUPnP)
		source = h.Add("source", 0)
		h.Say(source, "protocol", dossier.ProtocolUPnPAV, matching.ByUPnP)
		h.Say(source, "port", int(at.Port()), matching.ByUPnP)
		h.Say(source, "locator", where.RequestURI(), matching.ByUPnP)
		h.Say(source, "shownName", v.Name, matching.ByUPnP)
		h.Say(source, "udn", v.UDN, matching.ByUPnP)
	})
	s.atEnd(said{at.Addr(), "server", where.String(), func(h *matching.Host) { saySoftware(h, banner, dossier.SoftwareServer, matching.ByUPnP) }})
	began := time.Now()
	q := s.folders(ctx, root, v, at.Addr(), source)
	q.Way, q.Port, q.Seconds = matching.ByDirectory, int(at.Port()), secondsSince(began)
	s.answered(at.Addr(), q)
}

// saySoftware notes the program and the system that a SERVER line names.
func saySoftware(h *matching.Host, banner string, does dossier.SoftwareKind, by matching.Way) {
	products := matching.Products(banner)
	for n, p := range products {
		kind := dossier.SoftwareSystem
		if n == len(products)-1 {
			kind = does
		} else if n > 0 {
			continue
		}
		if slices.ContainsFunc(h.Seen, func(o matching.Seen) bool { return o.Kind == "software" && o.Members["does"] == kind }) {
			continue
		}
		place := h.Add("software", 0)
		h.Say(place, "name", p.Name, by)
		h.Say(place, "does", kind, by)
		h.Say(place, "version", p.Version, by)
	}
}

// Bounds of what is looked at of a server's folders while it is discovered; a test of the plan
// counts all.
const (
	mostFolders = 40
	mostCounted = 4000
)

// folders notes the folders at the top of a ContentDirectory, each with its count and its content.
func (s *segmentScan) folders(ctx context.Context, root *description, v upnpDevice, at netip.Addr, source int) matching.Question {
	directory, err := root.service(v, "ContentDirectory")
	if err != nil {
		return matching.Question{Ended: matching.Broken, Detail: "no ContentDirectory"}
	}
	top, err := children(ctx, directory, "0")
	if err != nil {
		return matching.Question{Ended: browseEnd(ctx, err), Detail: err.Error()}
	}
	q := matching.Question{Ended: matching.Empty}
	for _, o := range top.all {
		if !o.container {
			continue
		}
		if q.Answers >= mostFolders {
			q.LeftOut++
			continue
		}
		q.Ended = matching.Answered
		q.Answers++
		look, err := countContents(ctx, directory, o.id, mostCounted)
		s.host(at, func(h *matching.Host) {
			n := h.Add("folder", source)
			h.Say(n, "name", o.title, matching.ByDirectory)
			h.Say(n, "contentKind", matching.ContentOf(o.title, look.classes), matching.ByDirectory)
			if err == nil && look.whole {
				h.Say(n, "itemsInIndex", look.items, matching.ByDirectory)
			}
		})
		if err != nil {
			q.Ended, q.Detail = browseEnd(ctx, err), "folder "+o.title+": "+err.Error()
			q.LeftOut += len(top.all) - q.Answers
			return q
		}
	}
	return q
}

// browseEnd tells the ends of a question to a service apart: it refused with an error of its own, what
// came was no answer, the port is shut, nothing came.
func browseEnd(ctx context.Context, err error) matching.Ended {
	var f *fault
	var status *httpStatus
	switch {
	case errors.As(err, &f):
		return matching.Denied
	case errors.As(err, &status):
		if status.Code == http.StatusUnauthorized || status.Code == http.StatusForbidden {
			return matching.Denied
		}
		return matching.Broken
	case errors.Is(err, errRubbish), errors.Is(err, errTooLong), errors.Is(err, errEndless):
		return matching.Broken
	case overdue(ctx):
		return matching.Silent
	}
	return endOf(err)
}

// contentsSeen is what lies in a folder, so far as it was looked at.
type contentsSeen struct {
	items   int
	classes []string
	titles  []string
	whole   bool
}

// countContents counts the items in a container and in those within it, within its budget.
func countContents(ctx context.Context, directory *upnpClient, id string, left int) (contentsSeen, error) {
	out := contentsSeen{whole: true}
	counted := map[string]bool{}
	level := []string{id}
	for depth := 0; len(level) > 0; depth++ {
		var below []string
		for _, c := range level {
			if depth > mostDepth || left <= 0 {
				out.whole = false
				return out, nil
			}
			all, err := children(ctx, directory, c)
			if err != nil {
				out.whole = false
				return out, err
			}
			out.whole = out.whole && all.exact
			left -= len(all.all)
			for _, o := range all.all {
				if o.container {
					below = append(below, o.id)
					continue
				}
				if counted[o.key()] {
					continue
				}
				counted[o.key()] = true
				out.items++
				out.classes = append(out.classes, o.class)
				if len(out.titles) < matching.MostTitles {
					out.titles = append(out.titles, o.title)
				}
			}
		}
		level = below
	}
	return out, nil
}

// renderer notes what fetches and plays, with what it declares to decode.
func (s *segmentScan) renderer(ctx context.Context, root *description, v upnpDevice, at netip.AddrPort) {
	s.host(at.Addr(), func(h *matching.Host) {
		addRole(h, dossier.RoleRenderer, matching.ByUPnP)
	})
	began := time.Now()
	q := s.declared(ctx, root, v, at.Addr())
	q.Way, q.Port, q.Seconds = matching.ByConnection, int(at.Port()), secondsSince(began)
	s.answered(at.Addr(), q)
}

func (s *segmentScan) declared(ctx context.Context, root *description, v upnpDevice, at netip.Addr) matching.Question {
	manager, err := root.service(v, "ConnectionManager")
	if err != nil {
		return matching.Question{Ended: matching.Broken, Detail: "no ConnectionManager"}
	}
	answer, err := manager.call(ctx, "GetProtocolInfo")
	if err != nil {
		return matching.Question{Ended: browseEnd(ctx, err), Detail: err.Error()}
	}
	entries := matching.Declared(answer["Sink"])
	if len(entries) == 0 {
		return matching.Question{Ended: matching.Empty}
	}
	s.host(at, func(h *matching.Host) {
		n := h.Add("decoding", 0)
		h.Say(n, "entries", entries, matching.ByConnection)
		h.Say(0, "contentKinds", matching.OfferedFor(entries), matching.ByConnection)
	})
	return matching.Question{Ended: matching.Answered, Answers: len(entries)}
}

// clockWrongFrom is the difference from this machine's clock from which a device's is wrong.
const clockWrongFrom = time.Minute

// clock compares the Date of an answer (RFC 9110, 6.6.1) with this machine's clock.
func (s *segmentScan) clock(at netip.Addr, header http.Header) {
	says, err := http.ParseTime(header.Get("Date"))
	if err != nil {
		return
	}
	off := says.Sub(s.now()).Round(time.Second)
	s.host(at, func(h *matching.Host) {
		if off.Abs() >= clockWrongFrom && !slices.ContainsFunc(h.Seen, func(o matching.Seen) bool { return o.Kind == "reading" }) {
			n := h.Add("reading", 0)
			h.Say(n, "what", dossier.ClockOffsetS, matching.ByHTTP)
			h.Say(n, "value", off.Seconds(), matching.ByHTTP)
			h.Say(n, "how", dossier.KnownRead, matching.ByHTTP)
			h.Say(n, "at", dossier.At(s.now()), matching.ByHTTP)
		}
	})
}
