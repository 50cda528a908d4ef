package probe

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"time"

	"kaiku/multicast"
)

// Answer is one answer to a search.
type Answer struct {
	From     netip.Addr
	Target   string // search target it answers
	USN      string
	Location *url.URL
	Server   string
}

// Search sends an SSDP search from the own address on the interface and collects the answers.
// Silence is not an error: it returns no answers.
func Search(ctx context.Context, own netip.Addr, via *net.Interface, target string, mx int) ([]Answer, error) {
	var out []Answer
	err := SearchEach(ctx, own, via, target, mx, func(a Answer) { out = append(out, a) })
	return out, err
}

// SearchEach sends an SSDP search from the own address on the interface, twice, 100 ms apart, and
// hands on each answer as it comes, for mx seconds and a little more.
func SearchEach(ctx context.Context, own netip.Addr, via *net.Interface, target string, mx int, each func(Answer)) error {
	return searchEach(ctx, own, via, multicast.SSDP, target, mx, 0, nil, each)
}

// searchWindow is how long answers are waited for: as long as they may be put off, or longer.
func searchWindow(mx int, late time.Duration) time.Duration {
	return max(time.Duration(mx)*time.Second+250*time.Millisecond, late)
}

func searchEach(ctx context.Context, own netip.Addr, via *net.Interface, group *net.UDPAddr, target string, mx int, late time.Duration, behind *lag, each func(Answer)) error {
	conn, err := multicast.Speak(netip.AddrPortFrom(own, 0), via, 2)
	if err != nil {
		return err
	}
	defer conn.Close()
	message := fmt.Appendf(nil, "M-SEARCH * HTTP/1.1\r\nHOST: %s\r\nMAN: \"ssdp:discover\"\r\nMX: %d\r\nST: %s\r\n\r\n", group, mx, target)
	if _, err := conn.WriteTo(message, group); err != nil {
		return fmt.Errorf("search from %s: %w", own, err)
	}
	again := time.AfterFunc(100*time.Millisecond, func() { _, _ = conn.WriteTo(message, group) }) // one of two may be lost
	defer again.Stop()
	defer behind.hear(ctx, conn, searchWindow(mx, late))()
	if ctx.Err() != nil {
		return ctx.Err()
	}
	return collect(ctx, conn, each)
}

// mostAnswers bounds what a talkative segment can make us keep.
const mostAnswers = 5000

func collect(ctx context.Context, conn *net.UDPConn, each func(Answer)) error {
	seen := map[string]bool{}
	buffer := make([]byte, 8192)
	for len(seen) < mostAnswers {
		n, from, err := conn.ReadFromUDPAddrPort(buffer)
		if err != nil {
			break // the deadline ends the search
		}
		a, ok := parseAnswer(buffer[:n])
		if key := a.USN + " " + a.Target + " " + from.Addr().String(); ok && !seen[key] {
			seen[key] = true
			a.From = from.Addr().Unmap().WithZone("")
			each(a)
		}
	}
	return ctx.Err()
}

func parseAnswer(b []byte) (Answer, bool) {
	r, err := http.ReadResponse(bufio.NewReader(bytes.NewReader(b)), nil)
	if err != nil || r.StatusCode != http.StatusOK {
		return Answer{}, false
	}
	defer r.Body.Close()
	at, err := url.Parse(r.Header.Get("Location"))
	if err != nil || at.Scheme != "http" || at.Host == "" {
		return Answer{}, false
	}
	return Answer{Target: r.Header.Get("St"), USN: r.Header.Get("Usn"), Location: at, Server: r.Header.Get("Server")}, true
}

// OwnAddress returns the address and interface from which this machine searches a segment: an
// address of its own that lies in the segment, or, for a segment on loopback, where every
// address is its own, the last host address.
func OwnAddress(segment netip.Prefix) (netip.Addr, *net.Interface, bool) {
	interfaces, err := net.Interfaces()
	if err != nil {
		return netip.Addr{}, nil, false
	}
	for _, i := range interfaces {
		addresses, err := i.Addrs()
		if err != nil || i.Flags&net.FlagUp == 0 {
			continue
		}
		for _, a := range addresses {
			p, err := netip.ParsePrefix(a.String())
			if err != nil || !p.Addr().Is4() {
				continue
			}
			if segment.Contains(p.Addr()) {
				return p.Addr(), &i, true
			}
			if i.Flags&net.FlagLoopback != 0 && p.Overlaps(segment) && segment.Addr().Is4() {
				return lastHost(segment), &i, true
			}
		}
	}
	return netip.Addr{}, nil, false
}

// lastHost is the address before the broadcast address.
func lastHost(p netip.Prefix) netip.Addr {
	b := p.Masked().Addr().As4()
	for bit := p.Bits(); bit < 31; bit++ {
		b[bit/8] |= 1 << (7 - bit%8)
	}
	return netip.AddrFrom4(b)
}
