package practice

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"strings"

	"github.com/miekg/dns"

	"kaiku/multicast"
	"kaiku/practice/layout"
)

// offering is one service that a device announces by DNS-SD.
type offering struct {
	kind  string // such as _http._tcp
	port  uint16
	texts []string
}

// announced is a device's mDNS side: it answers who asks from its own segment, and says goodbye
// (RFC 6762, RFC 6763).
type announced struct {
	offerings []offering
	device    *Device
	hear      *multicast.Ear
	speak     *net.UDPConn
	done      chan struct{}
}

// offers is the mDNS side of a device that has these services.
func offers(o ...offering) *announced { return &announced{offerings: o} }

func (r *announced) start(_ context.Context, d *Device) error {
	lo, err := loopback()
	if err != nil {
		return err
	}
	if r.hear, err = multicast.Hear(multicast.MDNS, lo); err != nil {
		return fmt.Errorf("hear mDNS: %w", err)
	}
	if r.speak, err = multicast.Speak(netip.AddrPortFrom(d.Address.Addr(), 5353), lo, 255); err != nil {
		return errors.Join(err, r.hear.Close())
	}
	r.device, r.done = d, make(chan struct{})
	go r.listen()
	r.say(r.all(120))
	return nil
}

func (r *announced) stop() {
	r.say(r.all(0)) // goodbye (RFC 6762, section 10.1)
	_ = errors.Join(r.hear.Close(), r.speak.Close())
	<-r.done
}

func (r *announced) say(records []dns.RR) {
	m := dns.Msg{Answer: records}
	m.Response, m.Authoritative = true, true
	if b, err := m.Pack(); err == nil && !r.device.Asleep() && !r.device.muted() {
		_, _ = r.speak.WriteTo(b, multicast.MDNS)
	}
}

func (r *announced) listen() {
	defer close(r.done)
	b := make([]byte, 9000)
	for {
		n, from, err := r.hear.Next(b)
		if err != nil {
			return
		}
		if !r.device.Segment.Contains(from.Addr()) {
			continue
		}
		var m dns.Msg
		if m.Unpack(b[:n]) != nil || m.Response {
			continue
		}
		var out []dns.RR
		for _, q := range m.Question {
			for _, one := range r.all(120) {
				if strings.EqualFold(one.Header().Name, q.Name) && (q.Qtype == dns.TypeANY || q.Qtype == one.Header().Rrtype) {
					out = append(out, one)
				}
			}
		}
		if len(out) > 0 {
			r.say(out)
		}
	}
}

// all are the device's records: types, instances, where each is, and its host's address.
func (r *announced) all(ttl uint32) []dns.RR {
	head := func(name string, kind uint16) dns.RR_Header {
		return dns.RR_Header{Name: name, Rrtype: kind, Class: dns.ClassINET, Ttl: ttl}
	}
	host := r.device.HostName + ".local."
	out := []dns.RR{&dns.A{Hdr: head(host, dns.TypeA), A: r.device.Address.Addr().AsSlice()}}
	for _, o := range r.offerings {
		kind := o.kind + ".local."
		name := label(r.device.Name) + "." + kind
		texts := o.texts
		if len(texts) == 0 {
			texts = []string{""}
		}
		out = append(out, &dns.PTR{Hdr: head("_services._dns-sd._udp.local.", dns.TypePTR), Ptr: kind},
			&dns.PTR{Hdr: head(kind, dns.TypePTR), Ptr: name},
			&dns.SRV{Hdr: head(name, dns.TypeSRV), Port: o.port, Target: host},
			&dns.TXT{Hdr: head(name, dns.TypeTXT), Txt: texts})
	}
	return out
}

// label escapes a name as one label of a presented name (RFC 1035, section 5.1).
func label(s string) string {
	var b strings.Builder
	for _, c := range []byte(s) {
		switch {
		case c == '.' || c == '\\' || c == ' ':
			b.WriteByte('\\')
			b.WriteByte(c)
		case c < ' ' || c > '~':
			fmt.Fprintf(&b, "\\%03d", c)
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// names is the home's name server: it says the names of those that have one.
type names struct {
	device  *Device
	packets *packets
}

func (s *names) start(_ context.Context, d *Device) (err error) {
	s.device = d
	s.packets, err = answerPackets(netip.AddrPortFrom(d.Address.Addr(), layout.NamePort), s.answer)
	return err
}

func (s *names) stop() { s.packets.stop() }

func (s *names) answer(b []byte, _ netip.AddrPort) []byte {
	var m dns.Msg
	if s.device.on("names-silent") || m.Unpack(b) != nil || m.Response || len(m.Question) != 1 {
		return nil
	}
	out := new(dns.Msg).SetReply(&m)
	q := m.Question[0]
	out.Rcode = dns.RcodeRefused
	for _, d := range s.device.house.devices {
		reverse, err := dns.ReverseAddr(d.Address.Addr().String())
		if err != nil || d.HostName == "" {
			continue
		}
		name := d.HostName + ".home.arpa." // RFC 8375
		switch {
		case q.Qtype == dns.TypePTR && strings.EqualFold(q.Name, reverse):
			out.Rcode = dns.RcodeSuccess
			out.Answer = []dns.RR{&dns.PTR{Hdr: dns.RR_Header{Name: q.Name, Rrtype: dns.TypePTR, Class: dns.ClassINET, Ttl: 60}, Ptr: name}}
		case q.Qtype == dns.TypeA && strings.EqualFold(q.Name, name):
			out.Rcode = dns.RcodeSuccess
			out.Answer = []dns.RR{&dns.A{Hdr: dns.RR_Header{Name: q.Name, Rrtype: dns.TypeA, Class: dns.ClassINET, Ttl: 60}, A: d.Address.Addr().AsSlice()}}
		}
	}
	packed, err := out.Pack()
	if err != nil {
		return nil
	}
	return packed
}
