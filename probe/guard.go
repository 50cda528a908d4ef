// Package probe discovers and measures over open protocols. It sends nothing outside the
// prefixes it was given: the dialer itself holds them, so that no redirect, no address inside a
// description and no name leads elsewhere.
package probe

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"sync"
	"syscall"
	"time"

	"kaiku/core/dossier"
	"kaiku/multicast"
)

// ErrOutside is returned for an address that may not be asked.
var ErrOutside = errors.New("outside the networks that may be asked")

// Guard holds the prefixes that may be asked.
type Guard struct {
	Within []netip.Prefix
	// record is called with each address before it is dialled. For tests.
	record func(netip.AddrPort)
}

// GuardWithin returns a guard of prefixes as people write them.
func GuardWithin(prefixes []string) (Guard, error) {
	g := Guard{}
	for _, text := range prefixes {
		p, err := netip.ParsePrefix(text)
		if err != nil {
			return g, fmt.Errorf("--probe-within %s is not a prefix; write it as 10.20.4.0/24", text)
		}
		g.Within = append(g.Within, p)
	}
	return g, nil
}

// ForHome narrows the guard to the recorded segments of a home: an address must lie in both.
func (g Guard) ForHome(d *dossier.Dossier) HomeGuard {
	h := HomeGuard{Guard: g}
	for _, s := range d.Segments {
		h.segments = append(h.segments, s.Prefix)
		if s.Prefix6.IsValid() {
			h.segments = append(h.segments, s.Prefix6)
		}
	}
	return h
}

// HomeGuard is a guard for one home.
type HomeGuard struct {
	Guard
	segments []netip.Prefix
	link     string // the adapter whose link-local addresses may be asked, if any
	lag      *lag   // of this machine, where it is measured
}

// on returns the guard for a segment that this machine is connected to by an adapter: link-local addresses of
// IPv6 lead no further than that wire (RFC 4291, section 2.5.6).
func (g HomeGuard) on(via *net.Interface) HomeGuard {
	g.link = multicast.Zone(via)
	return g
}

// Allow returns ErrOutside unless the address lies within the guard's prefixes and in a recorded
// segment of the home, or is of the guard's own link.
func (g HomeGuard) Allow(a netip.Addr) error {
	if isLinkLocal6(a) && g.link != "" && (a.Zone() == "" || a.Zone() == g.link) {
		return nil
	}
	in := func(p netip.Prefix) bool { return p.Contains(a.Unmap()) }
	if !slices.ContainsFunc(g.Within, in) || !slices.ContainsFunc(g.segments, in) {
		return fmt.Errorf("%s: %w", a, ErrOutside)
	}
	return nil
}

// Dial connects to an allowed address. The check is made on the very address of the socket.
func (g HomeGuard) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	if at, err := netip.ParseAddrPort(address); err == nil {
		address = g.zoned(at).String()
	}
	d := net.Dialer{Timeout: g.lag.patient(dialTime), ControlContext: func(_ context.Context, _, address string, _ syscall.RawConn) error {
		to, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		if err := g.Allow(to.Addr()); err != nil {
			return err
		}
		g.note(to)
		return nil
	}}
	return d.DialContext(ctx, network, address)
}

// zoned adds to a link-local address the adapter by which it is reached: without it, it is none.
func (g HomeGuard) zoned(at netip.AddrPort) netip.AddrPort {
	if isLinkLocal6(at.Addr()) {
		return netip.AddrPortFrom(at.Addr().WithZone(g.link), at.Port())
	}
	return at
}

func isLinkLocal6(a netip.Addr) bool { return a.Is6() && !a.Is4In6() && a.IsLinkLocalUnicast() }

// note tells the test that records of an address that is asked.
func (g HomeGuard) note(to netip.AddrPort) {
	if g.record != nil {
		g.record(to)
	}
}

const (
	dialTime  = 3 * time.Second
	replyTime = 4 * time.Second
	testTime  = time.Minute // for one test in all
)

// patient is a connection that nothing is read from before something was written: a device that
// speaks first does not speak HTTP, and what it says would end in the log.
type patient struct {
	net.Conn
	spoke  chan struct{} // closed with the first write
	closed chan struct{}
	first  sync.Once
	last   sync.Once
}

func (p *patient) Read(b []byte) (int, error) {
	select {
	case <-p.spoke:
		return p.Conn.Read(b)
	case <-p.closed:
		return 0, net.ErrClosed
	}
}

func (p *patient) Write(b []byte) (int, error) {
	p.first.Do(func() { close(p.spoke) })
	return p.Conn.Write(b)
}

func (p *patient) Close() error {
	p.last.Do(func() { close(p.closed) })
	return p.Conn.Close()
}

func (g HomeGuard) dialHTTP(ctx context.Context, network, address string) (net.Conn, error) {
	c, err := g.Dial(ctx, network, address)
	if err != nil {
		return nil, err
	}
	return &patient{Conn: c, spoke: make(chan struct{}), closed: make(chan struct{})}, nil
}

// Client returns an HTTP client that dials through the guard and waits as long as a person would.
func (g HomeGuard) Client() *http.Client { return g.clientFor(replyTime) }

// mostRedirects is how often an answer may lead on.
const mostRedirects = 3

// mostHeader bounds the headers of an answer.
const mostHeader = 64 << 10

// clientFor returns an HTTP client that waits that long for an answer. Redirects are followed within the
// host that was asked alone: a device cannot make us call others, nor this machine.
func (g HomeGuard) clientFor(wait time.Duration) *http.Client {
	wait = g.lag.patient(wait)
	return &http.Client{Timeout: wait, Transport: &http.Transport{DialContext: g.dialHTTP, Proxy: nil, DisableKeepAlives: true, ResponseHeaderTimeout: wait, MaxResponseHeaderBytes: mostHeader},
		CheckRedirect: func(to *http.Request, before []*http.Request) error {
			if len(before) > mostRedirects {
				return errManyRedirects
			}
			from, known := hostOf(before[0].URL)
			if at, ok := hostOf(to.URL); !ok || !known || at.Addr() != from.Addr() {
				return fmt.Errorf("%w: redirects to %s", ErrOutside, to.URL.Host)
			}
			return nil
		}}
}

var errManyRedirects = errors.New("it redirects without end")
