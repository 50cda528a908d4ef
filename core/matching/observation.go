// Package matching holds what was seen on a home's network beside what is recorded of it: which
// host is which device, what the network says of it that the record does not, and what of that can
// be recorded without review. It is explained: every match has its reasons, every value the
// protocol that said it.
package matching

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"kaiku/core/dossier"
)

// Scan is what one scan of a home's network brought.
type Scan struct {
	ID       string           `json:"id" format:"uuid" doc:"Id of the scan."`
	Began    time.Time        `json:"began" doc:"When it began."`
	Ended    time.Time        `json:"ended" doc:"When it ended."`
	By       dossier.PersonID `json:"by,omitzero" doc:"Who looked."`
	With     string           `json:"with,omitzero" maxLength:"80" doc:"The machine that ran the scan; empty for the Kaiku on the home's network."`
	Segments []CoveredSegment `json:"segments" maxItems:"64" doc:"The segments that were looked at."`
	Asked    []Question       `json:"asked" doc:"Every question that was put to a segment, and how it ended. Of a longer list 1,000 are kept."`
	Hosts    []Host           `json:"hosts" doc:"Who was seen. Of more, 5,000 are kept."`
	Only     netip.Addr       `json:"only,omitzero" doc:"The one host that was scanned; empty for all of the segments."`
	Notes    []string         `json:"notes,omitzero" doc:"What was left out of it, and why. Of more, 64 are kept."`
	Cut      bool             `json:"cut,omitzero" doc:"Something was left out of it: what is not in it says nothing."`
	Unasked  []netip.Addr     `json:"unasked,omitzero" doc:"Addresses that answered shortly before the scan and could not be asked again: whether anything is there is not known. Of more, 64 are kept."`
	Short    bool             `json:"short,omitzero" doc:"It was stopped, or ran out of time: what was not seen says nothing."`
}

// LongestScan is the longest time that a scan can be given.
const LongestScan = 2 * time.Minute

// Wanted is what a scan is to cover, and how long it may take.
type Wanted struct {
	Only netip.Addr    // one host alone; all of the segments if it is not valid
	Time time.Duration // 0 for the usual time
}

// Inside reports whether what is wanted lies in a recorded segment.
func (w Wanted) Inside(d *dossier.Dossier) bool {
	return !w.Only.IsValid() || slices.ContainsFunc(d.Segments, func(s dossier.Segment) bool {
		return s.Prefix.Contains(w.Only) || s.Prefix6.Contains(w.Only)
	})
}

// Progress tells how far a scan is.
type Progress struct {
	Doing string // what is asked now, or nothing
	Done  int    // questions that have ended
	Of    int    // questions known so far
	Hosts int    // hosts seen so far
}

// CoveredSegment is one segment that a scan covered.
type CoveredSegment struct {
	Segment   dossier.ID[dossier.Segment] `json:"segment" doc:"The segment."`
	From      netip.Addr                  `json:"from" doc:"The address from which it was looked at."`
	Interface string                      `json:"interface" maxLength:"64" doc:"The adapter through which."`
}

// Question is one question put to a segment or to a host, and how it ended. Silence, a refusal and
// an empty answer are three different things.
type Question struct {
	Way     Way                         `json:"way" maxLength:"40" doc:"What was asked for, by which protocol."`
	Segment dossier.ID[dossier.Segment] `json:"segment,omitzero" doc:"The segment that was asked."`
	Ended   Ended                       `json:"ended" enum:"answered,empty,refused,denied,silent,broken,stopped,not-asked" doc:"How it ended."`
	Answers int                         `json:"answers,omitzero" minimum:"0" doc:"How many answers came."`
	Seconds float64                     `json:"seconds,omitzero" minimum:"0" doc:"How long was waited, in seconds."`
	LeftOut int                         `json:"leftOut,omitzero" minimum:"0" doc:"How many answers or hosts were not looked at for want of time or room."`
	Port    int                         `json:"port,omitzero" minimum:"0" maximum:"65535" doc:"The port that was asked, of a host."`
	Detail  string                      `json:"detail,omitzero" maxLength:"400" doc:"What was said, in short."`
}

// Way is a protocol by which something is learnt.
type Way string

// Ways of looking.
const (
	BySSDP       Way = "ssdp"
	BySSDP6      Way = "ssdp-ipv6"
	ByICMP6      Way = "icmpv6"
	ByNotify     Way = "ssdp-notify"
	ByUPnP       Way = "upnp"
	ByDirectory  Way = "content-directory"
	ByConnection Way = "connection-manager"
	ByMDNS       Way = "mdns"
	ByDNS        Way = "dns"
	ByIGD        Way = "igd"
	ByNATPMP     Way = "nat-pmp"
	ByPCP        Way = "pcp"
	ByLeases     Way = "lan-host-config"
	BySweep      Way = "ports"
	ByHTTP       Way = "http"
	BySMB        Way = "smb"
	ByNFS        Way = "nfs"
	ByRTSP       Way = "rtsp"
	ByStreamList Way = "stream-list"
	ByGuide      Way = "guide"
	ByNeighbours Way = "neighbours"
	ByNetBIOS    Way = "netbios"
	ByWSD        Way = "ws-discovery"
)

// Ended is how a question ended.
type Ended string

// Ends of a question.
const (
	Answered Ended = "answered"
	Empty    Ended = "empty"     // answered, with nothing in it
	Refused  Ended = "refused"   // the port is shut
	Denied   Ended = "denied"    // it answers, and does not let us in
	Silent   Ended = "silent"    // nothing came in time
	Broken   Ended = "broken"    // what came is not what the protocol says
	Stopped  Ended = "stopped"   // it was stopped before its end
	NotAsked Ended = "not-asked" // it may not be asked, or there was no time
)

// Class returns how the question ended in the terms that tests are judged in too.
func (e Ended) Class() dossier.Class {
	return map[Ended]dossier.Class{Answered: dossier.ClassRight, Empty: dossier.ClassEmpty, Refused: dossier.ClassRefused, Denied: dossier.ClassRefused, Silent: dossier.ClassSilent,
		Broken: dossier.ClassLying, Stopped: dossier.ClassNotDone, NotAsked: dossier.ClassNotDone}[e]
}

// Host is one address that was seen, and what the network says of it.
type Host struct {
	Segment  dossier.ID[dossier.Segment] `json:"segment" doc:"The segment it was seen in."`
	Address  netip.Addr                  `json:"address" doc:"The address it was seen at."`
	Seen     []Seen                      `json:"seen" doc:"The records it says itself to be: first the device, then its adapter, sources, folders, software, decoding profile. Of more, 600 are kept."`
	Answers  []Question                  `json:"answers" doc:"What it was asked, and how that ended. Of more, 200 are kept."`
	Open     []int                       `json:"open,omitzero" doc:"TCP ports at which it accepts connections. Of more, 200 are kept."`
	Heard    []int                       `json:"heard,omitzero" doc:"UDP ports at which it answered what all of the segment were asked. Of more, 200 are kept."`
	Services []Service                   `json:"services,omitzero" doc:"Services that it announces by DNS-SD. Of more, 200 are kept."`
	Also     []netip.Addr                `json:"also,omitzero" maxItems:"64" doc:"Further addresses of the same machine."`
	Left     bool                        `json:"left,omitzero" doc:"It said goodbye while it was looked at."`
}

// Service is something that a host announces by DNS-SD (RFC 6763).
type Service struct {
	Type string `json:"type" maxLength:"80" doc:"Its type, such as _http._tcp."`
	Name string `json:"name" maxLength:"400" doc:"What it calls itself."`
	Port int    `json:"port" minimum:"0" maximum:"65535" doc:"Its port."`
	Path string `json:"path,omitzero" maxLength:"400" doc:"The page it names."`
}

// Seen is one record, as far as the network says it.
type Seen struct {
	Kind    string         `json:"kind" maxLength:"40" doc:"Kind of the record."`
	Of      int            `json:"of,omitzero" minimum:"0" doc:"Place, in the host's list, of the record it belongs to; 0 is the device."`
	Members map[string]any `json:"members" doc:"What was said of it: members by their names."`
	By      map[string]Way `json:"by" doc:"By which protocol each member was said."`
}

// NewHost returns a host of which only the address is known.
func NewHost(segment dossier.ID[dossier.Segment], at netip.Addr) Host {
	h := Host{Segment: segment, Address: at.Unmap(), Answers: []Question{}}
	h.Add("device", 0)
	h.Add("interface", 0)
	if !h.Address.Is6() || !h.Address.IsLinkLocalUnicast() { // every adapter has one of these
		h.Say(1, "addresses", []netip.Addr{h.Address}, BySweep)
	}
	h.Say(1, "segment", segment, BySweep)
	return h
}

// Add adds a record of that kind, belonging to the one at place of, and returns its place.
func (h *Host) Add(kind string, of int) int {
	h.Seen = append(h.Seen, Seen{Kind: kind, Of: of, Members: map[string]any{}, By: map[string]Way{}})
	return len(h.Seen) - 1
}

// Hear notes that it answered what all were asked at a UDP port.
func (h *Host) Hear(port int) {
	if !slices.Contains(h.Heard, port) {
		h.Heard = append(h.Heard, port)
	}
}

// Say notes what a protocol says of a member of the record at place n. What was said before by a
// way that knows better stays; an empty value says nothing.
func (h *Host) Say(n int, member string, value any, by Way) {
	s := &h.Seen[n]
	if text, ok := value.(string); ok {
		value = Clean(text)
	}
	v := reflect.ValueOf(value)
	if !v.IsValid() || v.IsZero() && !v.CanInt() && !v.CanFloat() || v.Kind() == reflect.Slice && v.Len() == 0 {
		return // a count of none is said all the same
	}
	if was, said := s.By[member]; said && rank(was) > rank(by) {
		return
	}
	s.Members[member], s.By[member] = value, by
}

// byRank are ways from the one that knows least: a device's own description comes after its banner.
// What is not listed knows best.
var byRank = []Way{BySweep, ByHTTP, ByNotify, BySSDP6, BySSDP, ByNetBIOS, ByWSD, ByDNS, ByMDNS, ByRTSP, ByNFS, BySMB, ByStreamList, ByUPnP, ByDirectory, ByConnection}

func rank(w Way) int {
	if i := slices.Index(byRank, w); i >= 0 {
		return i
	}
	return len(byRank)
}

// text returns a member of the record at place n as text, or "".
func (h Host) text(n int, member string) string {
	if n >= len(h.Seen) {
		return ""
	}
	s, _ := h.Seen[n].Members[member].(string)
	return s
}

// mostText bounds what is kept of a text that a device says of itself.
const mostText = 120

// Clean makes a text that a device says of itself fit to be shown and kept: without control
// characters and marks that turn the direction of writing, in one line, not longer than 120
// characters.
func Clean(s string) string {
	if len(s) > 8*mostText {
		s = s[:8*mostText]
	}
	s = strings.ToValidUTF8(s, "\uFFFD")
	s = strings.Map(func(r rune) rune {
		switch {
		case unicode.IsSpace(r):
			return ' '
		case unicode.IsControl(r), unicode.Is(unicode.Bidi_Control, r), r == '\uFEFF', r == '\u200B':
			return -1
		}
		return r
	}, s)
	s = strings.Join(strings.Fields(s), " ")
	if utf8.RuneCountInString(s) > mostText {
		s = strings.TrimSpace(string([]rune(s)[:mostText-1])) + "…"
	}
	return s
}

// Check takes out of a scan what no record can hold: an unknown kind or member, a value of another type,
// a host outside the segments that were looked at; it notes what it took out, and why. It makes every value
// canonical on the way. It is for scans that come from elsewhere. An error means that nothing of it is left.
func (g *Scan) Check(d *dossier.Dossier) error {
	g.cut()
	var first error
	all := len(g.Segments) + len(g.Hosts)
	g.Segments = slices.DeleteFunc(g.Segments, func(l CoveredSegment) bool {
		_, ok := d.Segments.Get(l.Segment)
		if !ok {
			first = cmp.Or(first, fmt.Errorf("scanned a segment that is not recorded: %s", l.Segment))
		}
		return !ok
	})
	g.Hosts = slices.DeleteFunc(g.Hosts, func(h Host) bool {
		err := h.check(d, g.Segments)
		first = cmp.Or(first, err)
		return err != nil
	})
	left := all - len(g.Segments) - len(g.Hosts)
	if left > 0 && len(g.Segments)+len(g.Hosts) == 0 {
		return first
	}
	if left > 0 {
		g.leftOut("%d of %d entries were left out: %s", left, all, first)
	}
	return nil
}

// leftOut notes that something was left out, so that a device missing from the scan does not count as silent.
func (g *Scan) leftOut(format string, args ...any) {
	g.Cut = true
	g.Notes = append(g.Notes[:min(len(g.Notes), mostNotes-1)], Clean(fmt.Sprintf(format, args...)))
}

// cut cuts a scan to what can be kept, and says how much of it was left out.
func (g *Scan) cut() {
	g.Notes = g.Notes[:min(len(g.Notes), mostNotes)]
	g.Unasked = g.Unasked[:min(len(g.Unasked), MostUnasked)]
	if all := len(g.Hosts); all > mostHosts {
		g.Hosts = g.Hosts[:mostHosts]
		g.leftOut("%d of %d hosts kept", mostHosts, all)
	}
	if all := len(g.Asked); all > mostAsked {
		g.Asked = g.Asked[:mostAsked]
		g.leftOut("%d of %d questions kept", mostAsked, all)
	}
	for n := range g.Hosts {
		g.Hosts[n].Cut()
	}
}

// Bounds of what is kept of a scan and of one host; more is cut, with a note.
const (
	MostUnasked  = 64
	mostNotes    = 64
	mostHosts    = 5000
	mostAsked    = 1000
	mostOpen     = 200
	mostSeen     = 600
	mostServices = 200
	mostAnswers  = 200
)

// Cut cuts what a host says to what can be kept, and says how much of it was left out.
func (h *Host) Cut() {
	cut := func(way Way, kept, all int) {
		if all > kept {
			h.Answers = append(h.Answers, Question{Way: way, Ended: Answered, Answers: kept, LeftOut: all - kept, Detail: fmt.Sprintf("%d of %d kept", kept, all)})
		}
	}
	seen, services := len(h.Seen), len(h.Services)
	if len(h.Answers) > mostAnswers || services > mostServices || seen > mostSeen {
		h.Answers = h.Answers[:min(len(h.Answers), mostAnswers-2)]
	}
	h.Open, h.Heard = h.Open[:min(len(h.Open), mostOpen)], h.Heard[:min(len(h.Heard), mostOpen)]
	h.Services, h.Seen = h.Services[:min(services, mostServices)], h.Seen[:min(seen, mostSeen)]
	cut(ByMDNS, len(h.Services), services)
	cut(ByDirectory, len(h.Seen), seen)
}

// Fit makes a scan that was stored fit the home as it is now: what lies in a segment that is
// no longer recorded, or says what no record can hold any more, is left out.
func (g *Scan) Fit(d *dossier.Dossier) {
	g.Segments = slices.DeleteFunc(g.Segments, func(l CoveredSegment) bool { _, ok := d.Segments.Get(l.Segment); return !ok })
	g.Hosts = slices.DeleteFunc(g.Hosts, func(h Host) bool { return h.check(d, g.Segments) != nil })
}

func (h *Host) check(d *dossier.Dossier, scanned []CoveredSegment) error {
	s, ok := d.Segments.Get(h.Segment)
	onLink := h.Address.Is6() && h.Address.IsLinkLocalUnicast() && h.Address.Zone() == ""
	if !ok || !s.Prefix.Contains(h.Address) && !s.Prefix6.Contains(h.Address) && !onLink {
		return fmt.Errorf("%s is in no recorded segment", h.Address)
	}
	if !slices.ContainsFunc(scanned, func(l CoveredSegment) bool { return l.Segment == h.Segment }) {
		return fmt.Errorf("%s is in a segment that was not scanned", h.Address)
	}
	if len(h.Seen) < 2 || h.Seen[0].Kind != "device" || h.Seen[1].Kind != "interface" {
		return fmt.Errorf("%s: the first records must be the device and its adapter", h.Address)
	}
	for n := range h.Seen {
		if err := h.Seen[n].check(n, h.Seen); err != nil {
			return fmt.Errorf("%s: %w", h.Address, err)
		}
	}
	h.Settle()
	return nil
}

// kinds are what a host can be seen to be.
var kinds = []string{"device", "interface", "source", "folder", "software", "decoding", "reading", "line", "segment"}

func (s *Seen) check(n int, all []Seen) error {
	k := dossier.KindNamed(s.Kind)
	switch {
	case !slices.Contains(kinds, s.Kind):
		return fmt.Errorf("a scan cannot see a %q", s.Kind)
	case s.Of < 0 || s.Of >= max(n, 1):
		return fmt.Errorf("the record at place %d belongs to none before it", n)
	case s.Kind == "folder" && all[s.Of].Kind != "source", s.Kind != "folder" && s.Of != 0, s.Kind == "device" && n != 0:
		return fmt.Errorf("the %s at place %d belongs to the wrong record", s.Kind, n)
	}
	for member, value := range s.Members {
		f, ok := k.Field(member)
		if !ok || f.Rule == dossier.Server || f.Rule == dossier.ByCase {
			return fmt.Errorf("a %s has no field %q that a scan can see", s.Kind, member)
		}
		typed, err := typedAs(f, value)
		if err != nil {
			return fmt.Errorf("%s.%s: %w", s.Kind, member, err)
		}
		s.Members[member] = typed
	}
	return nil
}

// typedAs returns a value, given as it is or as JSON decodes it, as the member's own type.
func typedAs(f dossier.Field, value any) (any, error) {
	b, err := json.Marshal(value)
	if err != nil {
		return nil, err
	}
	p := reflect.New(f.Type)
	if err := json.Unmarshal(b, p.Interface()); err != nil {
		return nil, err
	}
	dossier.CanonicalAt(p.Interface())
	typed := p.Elem().Interface()
	if faults := f.Unlisted(typed); len(faults) > 0 {
		return nil, faults
	}
	return typed, nil
}
