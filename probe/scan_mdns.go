package probe

import (
	"context"
	"maps"
	"net"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/miekg/dns"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/multicast"
	"kaiku/safely"
)

// allServices lists the types of service that are offered (RFC 6763, section 9).
const allServices = "_services._dns-sd._udp.local."

// Answers are awaited for mdnsTime, and longer while new ones come. Hosts answer within 120 ms, or
// 500 ms when many share an answer (RFC 6762, sections 6 and 7.2).
const (
	mdnsTime  = 1250 * time.Millisecond
	mdnsRound = 250 * time.Millisecond
	mdnsQuiet = 500 * time.Millisecond // without anything new, it is over
	mdnsMost  = 3 * time.Second
)

// mostRecords bounds what a talkative segment can make us keep.
const mostRecords = 5000

// instance is one service on the network, as far as it was learnt (RFC 6763).
type instance struct {
	name  string // of the instance, unescaped
	kind  string // such as _http._tcp
	host  string
	port  int
	texts map[string]string
	left  bool
}

// browser collects the records of a segment and asks for those that are missing.
type browser struct {
	lag       *lag
	prefix    netip.Prefix
	types     map[string]bool
	instances map[string]*instance // by their full name
	hosts     map[string][]netip.Addr
	hosts6    map[string][]netip.Addr
	may6      func(netip.Addr) bool // whether an address of IPv6 can be one of the segment
	six       bool                  // whether such addresses are of use
	asked     map[dns.Question]int
	heard     map[netip.Addr]bool // who answered the question for all services, which no host does unasked (RFC 6763, section 9)
	records   int
	left      int
}

func newBrowser(prefix netip.Prefix, behind *lag) *browser {
	return &browser{lag: behind, prefix: prefix, types: map[string]bool{}, instances: map[string]*instance{}, hosts: map[string][]netip.Addr{}, hosts6: map[string][]netip.Addr{}, asked: map[dns.Question]int{}, heard: map[netip.Addr]bool{}}
}

// mdns browses every service on the segment and notes what is complete: name, host, port, address.
func (s *segmentScan) mdns(ctx context.Context) matching.Question {
	b, err := s.browse(ctx)
	if err != nil {
		return matching.Question{Ended: matching.NotAsked, Detail: err.Error()}
	}
	q := matching.Question{Ended: matching.Silent, LeftOut: b.left}
	if b.records > 0 {
		q.Ended = matching.Empty
	}
	for _, name := range slices.Sorted(maps.Keys(b.instances)) {
		i := b.instances[name]
		at := b.hosts[i.host]
		if i.port == 0 || len(at)+len(b.hosts6[i.host]) == 0 {
			q.LeftOut++
			continue
		}
		q.Ended = matching.Answered
		q.Answers++
		for _, a := range at {
			s.host(a, i.say)
		}
		if len(at) == 0 {
			s.hear6(heard6{at: b.hosts6[i.host][0], by: matching.ByMDNS, name: hostNameOf(i.host), note: i.say})
		}
	}
	for _, name := range slices.Sorted(maps.Keys(b.hosts)) {
		for _, a := range b.hosts[name] {
			s.host(a, func(h *matching.Host) {
				h.Say(0, "hostName", hostNameOf(name), matching.ByMDNS)
				for _, other := range b.hosts6[name] {
					if s.in6(other) {
						addAddress(h, other, matching.ByMDNS)
					}
				}
			})
		}
	}
	for a := range b.heard {
		s.host(a, func(h *matching.Host) { h.Hear(multicast.MDNS.Port) })
	}
	for _, name := range slices.Sorted(maps.Keys(b.hosts6)) {
		for _, a := range b.hosts6[name] {
			s.hear6(heard6{at: a, by: matching.ByMDNS, name: hostNameOf(name), note: func(h *matching.Host) { h.Say(0, "hostName", hostNameOf(name), matching.ByMDNS) }})
		}
	}
	return q
}

// hostNameOf is a name of DNS as people write it.
func hostNameOf(name string) string { return strings.TrimSuffix(unescape(name), ".") }

// browse asks and listens for mdnsTime.
func (s *segmentScan) browse(ctx context.Context) (*browser, error) {
	hear, err := multicast.Hear(multicast.MDNS, s.via)
	if err != nil {
		return nil, err
	}
	defer hear.Close()
	speak, err := multicast.Speak(netip.AddrPortFrom(s.own, 5353), s.via, 255)
	if err != nil {
		return nil, err
	}
	defer speak.Close()
	b := newBrowser(s.segment.Prefix, s.guard.lag)
	b.may6, b.six = s.may6, len(s.own6) > 0 || s.segment.Prefix6.IsValid()
	ears, mouths := []*multicast.Ear{hear}, []mouth{{speak, multicast.MDNS}}
	if own, ok := s.from6(multicast.MDNS6); ok {
		if hear6, err := multicast.Hear(multicast.MDNS6, s.via); err == nil { // without IPv6 there is IPv4
			defer hear6.Close()
			ears = append(ears, hear6)
		}
		if speak6, err := multicast.Speak(netip.AddrPortFrom(own, 5353), s.via, 255); err == nil {
			defer speak6.Close()
			mouths = append(mouths, mouth{speak6, multicast.MDNS6})
		}
	}
	packets := make(chan told, 256)
	var readers sync.WaitGroup
	for _, e := range ears {
		safely.Go(&readers, s.fell, func() { b.listen(e, packets) })
	}
	b.loop(ctx, mouths, packets)
	for _, e := range ears {
		_ = e.Close() // ends its reader
	}
	readers.Wait()
	return b, nil
}

// told is a packet with whom it came from.
type told struct {
	by   netip.Addr
	what []byte
}

// mouth is a socket and the group to which it speaks.
type mouth struct {
	*net.UDPConn
	to *net.UDPAddr
}

// listen hands on what is said near by.
func (b *browser) listen(hear *multicast.Ear, packets chan<- told) {
	for {
		buffer := make([]byte, 9000) // RFC 6762, section 17
		n, from, err := hear.Next(buffer)
		if err != nil {
			return
		}
		if !b.near(from.Addr().WithZone("")) {
			continue
		}
		select {
		case packets <- told{from.Addr().WithZone(""), buffer[:n]}:
		default: // more than can be read: it is asked for again
		}
	}
}

// near reports whether a packet can be of this segment: some stacks send from no address on loopback.
func (b *browser) near(from netip.Addr) bool {
	return b.prefix.Contains(from) || from.IsUnspecified() || b.may6(from)
}

func (b *browser) loop(ctx context.Context, speak []mouth, packets <-chan told) {
	began := time.Now()
	fresh := began // when something new came last
	again := time.NewTicker(mdnsRound)
	defer again.Stop()
	b.query(speak)
	for {
		select {
		case packet := <-packets:
			if b.take(packet.what, packet.by) {
				fresh = time.Now()
				b.query(speak)
			}
		case <-again.C:
			if over := time.Since(began); over > b.lag.patient(mdnsMost) || over > b.lag.patient(mdnsTime-mdnsRound/2) && time.Since(fresh) > b.lag.patient(mdnsQuiet) {
				return
			}
			b.query(speak)
		case <-ctx.Done():
			return
		}
	}
}

// mostRepeats is how often one thing is asked for: one of several answers may be lost.
const mostRepeats = 4

// query asks for what is missing: the types, their instances, what each needs to be complete.
func (b *browser) query(speak []mouth) {
	var questions []dns.Question
	want := func(name string, kind uint16) {
		q := dns.Question{Name: name, Qtype: kind, Qclass: dns.ClassINET}
		if b.asked[q] < mostRepeats && len(b.asked) < mostRecords {
			b.asked[q]++
			questions = append(questions, q)
		}
	}
	want(allServices, dns.TypePTR)
	for t := range b.types {
		want(t, dns.TypePTR)
	}
	if b.six {
		for name := range b.hosts {
			want(name, dns.TypeAAAA)
		}
	}
	for name, i := range b.instances {
		switch {
		case i.port == 0:
			want(name, dns.TypeSRV)
			want(name, dns.TypeTXT)
		case len(b.hosts[i.host]) == 0:
			want(i.host, dns.TypeA)
			if b.six {
				want(i.host, dns.TypeAAAA)
			}
		}
	}
	for part := range slices.Chunk(questions, 20) { // a packet stays below 1,500 bytes
		m := dns.Msg{Question: part}
		if packet, err := m.Pack(); err == nil {
			for _, s := range speak {
				_, _ = s.WriteTo(packet, s.to) // repeated by the next round
			}
		}
	}
}

// take reads one packet and reports whether it brought something new.
func (b *browser) take(packet []byte, from netip.Addr) bool {
	var m dns.Msg
	if m.Unpack(packet) != nil || !m.Response {
		return false
	}
	fresh := false
	for _, r := range slices.Concat(m.Answer, m.Extra) {
		if b.records >= mostRecords {
			b.left++
			continue
		}
		b.records++
		if strings.EqualFold(r.Header().Name, allServices) && b.prefix.Contains(from.Unmap()) { // of IPv6, which addresses are one machine is found out elsewhere
			b.heard[from.Unmap()] = true
		}
		fresh = b.record(r) || fresh
	}
	return fresh
}

func (b *browser) record(r dns.RR) bool {
	name := strings.ToLower(r.Header().Name)
	switch r := r.(type) {
	case *dns.PTR:
		if name == allServices {
			t := strings.ToLower(r.Ptr)
			known := b.types[t]
			b.types[t] = true
			return !known
		}
		if b.types[name] || strings.HasPrefix(name, "_") {
			i, known := b.instance(r.Ptr, name)
			i.left = r.Header().Ttl == 0
			return !known
		}
	case *dns.SRV:
		if i := b.instances[name]; i != nil && r.Header().Ttl > 0 {
			fresh := i.port == 0
			i.host, i.port = strings.ToLower(r.Target), int(r.Port)
			return fresh
		}
	case *dns.TXT:
		if i := b.instances[name]; i != nil {
			i.texts = pairsOf(r.Txt)
		}
	case *dns.AAAA:
		at, ok := netip.AddrFromSlice(r.AAAA.To16())
		if ok && b.six && b.may6(at) && !slices.Contains(b.hosts6[name], at) && len(b.hosts6[name]) < mostAddresses {
			b.hosts6[name] = append(b.hosts6[name], at)
			return true
		}
	case *dns.A:
		at, ok := netip.AddrFromSlice(r.A.To4())
		if ok && b.prefix.Contains(at) && !slices.Contains(b.hosts[name], at) && len(b.hosts[name]) < 8 {
			b.hosts[name] = append(b.hosts[name], at)
			return true
		}
	}
	return false
}

// instance returns the instance of that full name, and whether it was known.
func (b *browser) instance(full, kind string) (*instance, bool) {
	key := strings.ToLower(full)
	if i := b.instances[key]; i != nil {
		return i, true
	}
	name := strings.TrimSuffix(full, "."+kind)
	if len(name) == len(full) && len(full) > len(kind) {
		name = full[:len(full)-len(kind)-1] // spelt in another case
	}
	i := &instance{name: unescape(name), kind: strings.TrimSuffix(kind, ".local.")}
	b.instances[key] = i
	return i, false
}

// pairsOf reads the strings of a TXT record as names and values (RFC 6763, section 6.3).
func pairsOf(texts []string) map[string]string {
	out := map[string]string{}
	for _, t := range texts {
		name, value, _ := strings.Cut(unescape(t), "=")
		if name = strings.ToLower(name); name != "" && len(out) < 64 {
			if _, said := out[name]; !said {
				out[name] = value
			}
		}
	}
	return out
}

// unescape undoes the escapes of a presented name: \X and \DDD (RFC 1035, section 5.1).
func unescape(s string) string {
	var out strings.Builder
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] != '\\' || i+1 >= len(s):
			out.WriteByte(s[i])
		case i+3 < len(s) && digits(s[i+1:i+4]):
			out.WriteByte((s[i+1]-'0')*100 + (s[i+2]-'0')*10 + (s[i+3] - '0'))
			i += 3
		default:
			i++
			out.WriteByte(s[i])
		}
	}
	return out.String()
}

func digits(s string) bool {
	return strings.IndexFunc(s, func(r rune) bool { return r < '0' || r > '9' }) < 0
}

// sourcesOf are the service types that give media, as protocols of sources.
var sourcesOf = map[string]dossier.Protocol{"_smb._tcp": dossier.ProtocolSMB, "_nfs._tcp": dossier.ProtocolNFS, "_rtsp._tcp": dossier.ProtocolRTSP, "_http._tcp": dossier.ProtocolHTTP}

// say notes a service with the host that offers it.
func (i *instance) say(h *matching.Host) {
	if i.left {
		h.Left = true
		return
	}
	h.Say(0, "name", i.name, matching.ByMDNS)
	h.Say(0, "hostName", hostNameOf(i.host), matching.ByMDNS)
	if _, known := sourcesOf[i.kind]; known {
		h.Services = append(h.Services, matching.Service{Type: i.kind, Name: matching.Clean(i.name), Port: i.port, Path: matching.Clean(i.texts["path"])})
	}
}
