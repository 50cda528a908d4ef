package probe

import (
	"context"
	"errors"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/huin/goupnp"
	"github.com/huin/goupnp/dcps/av1"

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
	client := s.guard.Client()
	root, header, err := describe(ctx, client, a.Location)
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
	s.clock(at.Addr(), header)
	s.host(at.Addr(), func(h *matching.Host) {
		sayDevice(h, root.Device)
		h.Say(0, "announces", header.Get("Server"), matching.ByUPnP)
		if p := matching.Products(header.Get("Server")); len(p) > 0 && !strings.HasPrefix(root.Device.DeviceType, mediaServerType) {
			h.Say(0, "firmware", p[len(p)-1].Version, matching.BySSDP) // of a server it is the version of its program
		}
	})
	s.presentation(ctx, root.Device.PresentationURL.URL, at.Addr())
	for _, one := range devicesOf(root) {
		switch {
		case strings.HasPrefix(one.DeviceType, mediaServerType):
			s.mediaServer(ctx, client, root, one, a.Location, at, header.Get("Server"))
		case strings.HasPrefix(one.DeviceType, mediaRendererType):
			s.renderer(ctx, client, root, one, a.Location, at)
		case strings.HasPrefix(one.DeviceType, gatewayType):
			s.host(at.Addr(), func(h *matching.Host) {
				h.Say(0, "roles", []dossier.Role{dossier.RoleRouter}, matching.ByUPnP)
				h.Say(0, "udn", one.UDN, matching.ByUPnP)
			})
			s.gatewayServices(ctx, client, root, a.Location, at)
		}
	}
	return matching.Question{Ended: matching.Answered, Answers: 1, Detail: root.Device.FriendlyName}
}

// presentation asks for the page for people that a description names (UPnP Device Architecture 1.1,
// section 2.3), if the device serves it itself.
func (s *segmentScan) presentation(ctx context.Context, page url.URL, host netip.Addr) {
	at, err := netip.ParseAddrPort(page.Host)
	if err == nil && page.Scheme == "http" && at.Addr() == host {
		s.serve(ctx, host, service{protocol: dossier.ProtocolHTTP, port: int(at.Port()), path: page.RequestURI()})
	}
}

func notDescribed(ctx context.Context, err error) matching.Ended {
	switch {
	case overdue(ctx) || isTimeout(err):
		return matching.Silent // it began to answer, and did not end
	case errors.Is(err, ErrNotDescribed):
		return matching.Broken
	}
	return endOf(err)
}

// sayDevice notes what a description says of the device itself.
func sayDevice(h *matching.Host, v goupnp.Device) {
	h.Say(0, "name", v.FriendlyName, matching.ByUPnP)
	h.Say(0, "make", v.Manufacturer, matching.ByUPnP)
	h.Say(0, "model", strings.TrimSpace(v.ModelName), matching.ByUPnP)
	h.Say(0, "variant", strings.TrimSpace(v.ModelNumber), matching.ByUPnP)
	h.Say(0, "serial", strings.TrimSpace(v.SerialNumber), matching.ByUPnP)
}

// mostDevices bounds the devices that one description may hold within each other.
const mostDevices = 16

// devicesOf lists the root device and those within it.
func devicesOf(root *goupnp.RootDevice) []goupnp.Device {
	out := []goupnp.Device{root.Device}
	for n := 0; n < len(out) && len(out) < mostDevices; n++ {
		out = append(out, out[n].Devices...)
	}
	return out[:min(len(out), mostDevices)]
}

// addRole notes one more thing that a device does.
func addRole(h *matching.Host, role dossier.Role, by matching.Way) {
	roles, _ := h.Seen[0].Members["roles"].([]dossier.Role)
	if !slices.Contains(roles, role) {
		h.Say(0, "roles", append(slices.Clone(roles), role), by)
	}
}

// mediaServer notes a UPnP AV server with the folders that it shows.
func (s *segmentScan) mediaServer(ctx context.Context, client *http.Client, root *goupnp.RootDevice, v goupnp.Device, where *url.URL, at netip.AddrPort, banner string) {
	source := 0
	s.host(at.Addr(), func(h *matching.Host) {
		addRole(h, dossier.RoleServer, matching.ByUPnP)
		source = h.Add("source", 0)
		h.Say(source, "protocol", dossier.ProtocolUPnPAV, matching.ByUPnP)
		h.Say(source, "port", int(at.Port()), matching.ByUPnP)
		h.Say(source, "locator", where.RequestURI(), matching.ByUPnP)
		h.Say(source, "shownName", v.FriendlyName, matching.ByUPnP)
		h.Say(source, "udn", v.UDN, matching.ByUPnP)
		saySoftware(h, banner, dossier.SoftwareServer, matching.ByUPnP)
	})
	began := time.Now()
	q := s.folders(ctx, client, root, where, at.Addr(), source)
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
func (s *segmentScan) folders(ctx context.Context, client *http.Client, root *goupnp.RootDevice, where *url.URL, at netip.Addr, source int) matching.Question {
	directory, err := directoryOf(client, root, where)
	if err != nil {
		return matching.Question{Ended: matching.Broken, Detail: "no ContentDirectory"}
	}
	top, err := children(ctx, directory, "0")
	if err != nil {
		return matching.Question{Ended: browseEnd(ctx, err), Detail: err.Error()}
	}
	q := matching.Question{Ended: matching.Empty}
	for _, o := range top {
		if !o.container {
			continue
		}
		if q.Answers >= mostFolders {
			q.LeftOut++
			continue
		}
		q.Ended = matching.Answered
		q.Answers++
		look, err := contents(ctx, directory, o.id, mostCounted)
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
			q.LeftOut += len(top) - q.Answers
			return q
		}
	}
	return q
}

func browseEnd(ctx context.Context, err error) matching.Ended {
	if overdue(ctx) {
		return matching.Silent
	}
	switch browseCode(err) {
	case "folder-hangs":
		return matching.Silent
	case "endless":
		return matching.Broken
	}
	if dialCode(err) == "refused" {
		return matching.Refused
	}
	return matching.Denied
}

// contentsSeen is what lies in a folder, so far as it was looked at.
type contentsSeen struct {
	items   int
	classes []string
	titles  []string
	whole   bool
}

// contents counts the items in a container and in those within it, within its budget.
func contents(ctx context.Context, directory *av1.ContentDirectory1, id string, left int) (contentsSeen, error) {
	out := contentsSeen{whole: true}
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
			left -= len(all)
			for _, o := range all {
				if o.container {
					below = append(below, o.id)
					continue
				}
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
func (s *segmentScan) renderer(ctx context.Context, client *http.Client, root *goupnp.RootDevice, v goupnp.Device, where *url.URL, at netip.AddrPort) {
	s.host(at.Addr(), func(h *matching.Host) {
		addRole(h, dossier.RoleRenderer, matching.ByUPnP)
		h.Say(0, "udn", v.UDN, matching.ByUPnP)
	})
	began := time.Now()
	q := s.declared(ctx, client, root, where, at.Addr())
	q.Way, q.Port, q.Seconds = matching.ByConnection, int(at.Port()), secondsSince(began)
	s.answered(at.Addr(), q)
}

func (s *segmentScan) declared(ctx context.Context, client *http.Client, root *goupnp.RootDevice, where *url.URL, at netip.Addr) matching.Question {
	managers, err := av1.NewConnectionManager1ClientsFromRootDevice(root, where)
	if err != nil || len(managers) == 0 {
		return matching.Question{Ended: matching.Broken, Detail: "no ConnectionManager"}
	}
	managers[0].SOAPClient.HTTPClient = *client
	_, sink, err := managers[0].GetProtocolInfoCtx(ctx)
	if err != nil {
		return matching.Question{Ended: browseEnd(ctx, err), Detail: err.Error()}
	}
	entries := matching.Declared(sink)
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
