package probe

import (
	"context"
	"encoding/binary"
	"encoding/xml"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/multicast"
)

// nameService is where computers answer for their NetBIOS names (RFC 1002, section 4.2).
const nameService = 137

// Names of a node status answer: the record of the names, the suffix of a computer's own, and the flag of a
// group's (RFC 1002, section 4.2.18).
const (
	nodeStatus   = 0x21
	nameLength   = 15
	workstation  = 0x00
	groupFlag    = 0x8000
	mostNetNames = 64
)

// statusQuestion asks for all names of a node: the name is an asterisk, padded with zeros and written in halves
// (RFC 1001, section 14.1).
func statusQuestion(id uint16) []byte {
	b := binary.BigEndian.AppendUint16(nil, id)
	b = append(b, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 32)
	for _, c := range append([]byte{'*'}, make([]byte, 15)...) {
		b = append(b, 'A'+c>>4, 'A'+c&15)
	}
	return append(b, 0, 0, nodeStatus, 0, 1)
}

// statusNames reads the answer: the computer's own name and its MAC address, "" for what is not in it.
func statusNames(b []byte, id uint16) (name string, hardware dossier.HardwareAddr, ok bool) {
	const head = 12 + 34 + 10 // header, the name that was asked for, and the head of the record
	if len(b) < head+1 || binary.BigEndian.Uint16(b) != id || b[2]&0x80 == 0 || b[12] != 32 || binary.BigEndian.Uint16(b[46:]) != nodeStatus {
		return "", "", false
	}
	n := min(int(b[head]), mostNetNames)
	list := b[head+1:]
	for i := 0; i < n && len(list) >= nameLength+3; i++ {
		one, suffix, flags := list[:nameLength], list[nameLength], binary.BigEndian.Uint16(list[nameLength+1:])
		if suffix == workstation && flags&groupFlag == 0 && name == "" {
			name = matching.Clean(strings.TrimRight(string(one), " \x00"))
		}
		list = list[nameLength+3:]
	}
	if n == int(b[head]) && len(list) >= 6 {
		if hw, err := dossier.ParseHardwareAddr(net.HardwareAddr(list[:6]).String()); err == nil && hw != "00:00:00:00:00:00" {
			hardware = hw
		}
	}
	return name, hardware, true
}

// netBIOS asks a computer that shares files for its name: old ones have no other.
func (s *segmentScan) netBIOS(ctx context.Context, at netip.Addr) matching.Question {
	q := matching.Question{Port: nameService}
	conn, err := s.guard.Dial(ctx, "udp4", netip.AddrPortFrom(at, nameService).String())
	if err != nil {
		q.Ended = endOf(err)
		return q
	}
	defer func() { _ = conn.Close() }()
	id := uint16(time.Now().UnixNano())
	ctx, cancel := context.WithTimeout(ctx, s.guard.lag.patient(outerTime))
	defer cancel()
	b, err := exchange(ctx, conn, statusQuestion(id), func(b []byte) bool { _, _, ok := statusNames(b, id); return ok })
	if err != nil {
		q.Ended = endOf(err)
		return q
	}
	name, hardware, _ := statusNames(b, id)
	if q.Ended = matching.Empty; name != "" {
		q.Ended, q.Answers, q.Detail = matching.Answered, 1, name
	}
	s.host(at, func(h *matching.Host) {
		h.Say(0, "name", name, matching.ByNetBIOS)
		h.Say(0, "hostName", strings.ToLower(name), matching.ByNetBIOS)
		if h.Seen[1].Members["hardwareAddress"] == nil {
			h.Say(1, "hardwareAddress", hardware, matching.ByNetBIOS)
		}
	})
	return q
}

// discoveryGroup is where devices listen for probes (WS-Discovery 1.1, section 3.1.1).
var discoveryGroup = net.UDPAddrFromAddrPort(netip.MustParseAddrPort("239.255.255.250:3702"))

// probeMatch is one device that answers a probe (WS-Discovery 1.1, section 5.3).
type probeMatch struct {
	Types    string `xml:"Types"`
	XAddrs   string `xml:"XAddrs"`
	Endpoint string `xml:"EndpointReference>Address"`
}

// wsDiscovery searches for what announces itself by WS-Discovery: computers and printers of one system, cameras.
// What they are is noted as a service of the host, and each is asked for its name.
func (s *segmentScan) wsDiscovery(ctx context.Context) matching.Question {
	conn, err := multicast.Speak(netip.AddrPortFrom(s.own, 0), s.via, 1)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	defer func() { _ = conn.Close() }()
	message := fmt.Appendf(nil, `<?xml version="1.0" encoding="utf-8"?><soap:Envelope xmlns:soap="http://www.w3.org/2003/05/soap-envelope" xmlns:wsa="http://schemas.xmlsoap.org/ws/2004/08/addressing" xmlns:wsd="http://schemas.xmlsoap.org/ws/2005/04/discovery"><soap:Header><wsa:To>urn:schemas-xmlsoap-org:ws:2005:04:discovery</wsa:To><wsa:Action>http://schemas.xmlsoap.org/ws/2005/04/discovery/Probe</wsa:Action><wsa:MessageID>urn:uuid:%s</wsa:MessageID></soap:Header><soap:Body><wsd:Probe/></soap:Body></soap:Envelope>`, uuid.NewString())
	for range 2 { // one may be lost
		if _, err := conn.WriteTo(message, discoveryGroup); err != nil {
			return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
		}
	}
	defer s.guard.lag.hear(ctx, conn, s.window())()
	answers := 0
	seen := map[string]bool{}
	for b := make([]byte, 9000); answers < mostAnswers; {
		n, from, err := conn.ReadFromUDPAddrPort(b)
		if err != nil {
			break
		}
		for _, m := range readMatches(b[:n]) {
			key := from.Addr().String() + m.Types + m.XAddrs
			if seen[key] {
				continue
			}
			at := from.Addr().Unmap()
			if seen[key] = true; s.host(at, func(h *matching.Host) { m.say(h); h.Hear(discoveryGroup.Port) }) {
				answers++
				s.metadata(ctx, at, m)
			}
		}
	}
	if answers == 0 {
		return matching.Question{Ended: matching.Silent}
	}
	return matching.Question{Ended: matching.Answered, Answers: answers}
}

// at returns the first of its addresses that is of that host.
func (m probeMatch) at(host netip.Addr) (*url.URL, netip.AddrPort, bool) {
	for _, where := range strings.Fields(m.XAddrs) {
		u := parsed(where)
		if at, ok := hostOf(u); ok && at.Addr() == host && u.Scheme == "http" {
			return u, at, true
		}
	}
	return nil, netip.AddrPort{}, false
}

// metadata asks a device for what it says of itself (WS-Transfer Get, as the Devices Profile for Web Services 1.1
// has it, section 5).
func (s *segmentScan) metadata(ctx context.Context, host netip.Addr, m probeMatch) {
	where, at, ok := m.at(host)
	if !ok || s.guard.Allow(host) != nil || !s.first("metadata "+where.String()) {
		return
	}
	s.ask(ctx, at, matching.ByWSD, func(ctx context.Context) matching.Question {
		var to strings.Builder
		_ = xml.EscapeText(&to, []byte(m.Endpoint)) // a Builder takes everything
		body := fmt.Sprintf(`<?xml version="1.0" encoding="utf-8"?><soap:Envelope xmlns:soap="http://www.w3.org/2003/05/soap-envelope" xmlns:wsa="http://schemas.xmlsoap.org/ws/2004/08/addressing"><soap:Header><wsa:To>%s</wsa:To><wsa:Action>http://schemas.xmlsoap.org/ws/2004/09/transfer/Get</wsa:Action><wsa:MessageID>urn:uuid:%s</wsa:MessageID><wsa:ReplyTo><wsa:Address>http://schemas.xmlsoap.org/ws/2004/08/addressing/role/anonymous</wsa:Address></wsa:ReplyTo></soap:Header><soap:Body/></soap:Envelope>`, &to, uuid.NewString())
		r, err := http.NewRequestWithContext(ctx, http.MethodPost, where.String(), strings.NewReader(body))
		if err != nil {
			return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
		}
		r.Header.Set("Content-Type", "application/soap+xml; charset=utf-8")
		resp, err := s.guard.clientFor(hostTime).Do(r)
		if err != nil {
			return matching.Question{Ended: endOf(err), Detail: err.Error()}
		}
		defer resp.Body.Close()
		var says metadata
		if err := readWhole(ctx, resp.Body, mostDescription, func(b []byte) error { return decodeXML(b, &says) }); err != nil || resp.StatusCode != http.StatusOK {
			return matching.Question{Ended: matching.Broken, Detail: resp.Status}
		}
		q := matching.Question{Ended: matching.Empty}
		s.host(host, func(h *matching.Host) {
			if says.say(h) {
				q.Ended, q.Answers = matching.Answered, 1
			}
		})
		return q
	})
}

// metadata is what a device says of itself. Its sections are of several sorts, each with its own elements.
type metadata struct {
	Sections []struct {
		Name     string `xml:"ThisDevice>FriendlyName"`
		Firmware string `xml:"ThisDevice>FirmwareVersion"`
		Serial   string `xml:"ThisDevice>SerialNumber"`
		Make     string `xml:"ThisModel>Manufacturer"`
		Model    string `xml:"ThisModel>ModelName"`
		Hosts    []struct {
			Computer string `xml:"Computer"`
		} `xml:"Relationship>Host"`
	} `xml:"Body>Metadata>MetadataSection"`
}

// say notes it, and reports whether there was anything.
func (m metadata) say(h *matching.Host) bool {
	said := false
	say := func(member, value string) {
		if value = strings.TrimSpace(value); value != "" {
			said = true
			h.Say(0, member, value, matching.ByWSD)
		}
	}
	for _, s := range m.Sections[:min(len(m.Sections), mostDevices)] {
		say("name", s.Name)
		say("firmware", s.Firmware)
		say("serial", s.Serial)
		say("make", s.Make)
		say("model", s.Model)
	}
	for _, s := range m.Sections[:min(len(m.Sections), mostDevices)] {
		for _, host := range s.Hosts {
			// A computer is named with what it belongs to: NAME/Workgroup:HOME, or NAME\Domain:firm.
			name, _, _ := strings.Cut(strings.ReplaceAll(host.Computer, `\`, "/"), "/")
			say("name", name)
			say("hostName", strings.ToLower(name))
		}
	}
	return said
}

// say notes what a host announces.
func (m probeMatch) say(h *matching.Host) {
	port := 0
	if _, at, ok := m.at(h.Address); ok {
		port = int(at.Port())
	}
	for _, kind := range strings.Fields(m.Types) {
		_, name, found := strings.Cut(kind, ":")
		if !found {
			name = kind
		}
		one := matching.Service{Type: "WS-Discovery", Name: matching.Clean(name), Port: port}
		if !slices.Contains(h.Services, one) {
			h.Services = append(h.Services, one)
		}
	}
}

// parsed reads an address; what is none leads nowhere.
func parsed(text string) *url.URL {
	u, err := url.Parse(text)
	if err != nil {
		return &url.URL{}
	}
	return u
}

// readMatches reads an answer to a probe.
func readMatches(b []byte) []probeMatch {
	var envelope struct {
		XMLName xml.Name
		Matches []probeMatch `xml:"Body>ProbeMatches>ProbeMatch"`
	}
	if decodeXML(b, &envelope) != nil || envelope.XMLName.Local != "Envelope" {
		return nil
	}
	return envelope.Matches[:min(len(envelope.Matches), mostDevices)]
}
