package practice

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"sync"
	"time"

	"kaiku/practice/layout"
)

// Device is one stand-in: what it says of itself, and the parts by which it answers.
type Device struct {
	Name     string // the name it shows
	Type     string // UPnP type such as MediaServer:1; empty for a device without UPnP
	Make     string
	Model    string
	Serial   string
	HostName string
	UDN      string
	Software string         // product token of its announcements and answers
	Address  netip.AddrPort // where its web server or its main service is
	Segment  netip.Prefix

	house    *House
	host     byte
	like     string   // host name in the Keeper's House whose faults this device has; its own where empty
	shelf    []folder // what a server offers
	sinks    []string // the media types that a screen or a player decodes; where able is set, whole entries of protocolInfo
	able     *ability // what it can decode, where it does not follow from how it says it
	converts bool     // it offers its Matroska films as MP4 too
	marks    bool     // it remembers where playing was stopped
	only     string   // a fault without which it is not there
	sleeps   bool
	parts    []part
	open     []part

	mu     sync.Mutex
	asleep bool
}

// part is one thing by which a device answers.
type part interface {
	start(ctx context.Context, d *Device) error
	stop()
}

// on reports whether a fault is on, of those that this device is to blame for.
func (d *Device) on(fault string) bool {
	f, err := layout.FaultNamed(fault)
	if err != nil {
		panic(err)
	}
	return (f.Where == d.blamedAs() || f.Where == "") && d.house.faults.on(fault)
}

// blamedAs is the host name by which faults name it.
func (d *Device) blamedAs() string { return cmp.Or(d.like, d.HostName) }

// OnlyWith is the fault without which the device is not there, or "".
func (d *Device) OnlyWith() string { return d.only }

// announcesAs is the line by which it says what it is (UPnP Device Architecture 2.0, 1.2.2).
func (d *Device) announcesAs() string { return "Kuunari/6 UPnP/1.1 " + d.Software }

// start opens the device's sockets, all or none.
func (d *Device) start(ctx context.Context) error {
	if d.only != "" && !d.house.faults.on(d.only) || d.on("screen-off") || d.on("goodbye") {
		return nil
	}
	if d.sleeps {
		d.mu.Lock()
		d.asleep = d.on("asleep") || d.on("will-not-wake")
		d.mu.Unlock()
	}
	for _, p := range d.parts {
		if err := p.start(ctx, d); err != nil {
			d.stop()
			return fmt.Errorf("start %s: %w", d.Name, err)
		}
		d.open = append(d.open, p)
	}
	return nil
}

func (d *Device) stop() {
	for i := len(d.open) - 1; i >= 0; i-- {
		d.open[i].stop()
	}
	d.open = nil
}

// Asleep reports whether the device sleeps.
func (d *Device) Asleep() bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.asleep
}

// web is a device's web server. Its listener can hold connections without an answer, or break them.
type web struct {
	server *http.Server
	gate   *gate
}

// serve opens a web server at an address.
func serve(ctx context.Context, d *Device, at netip.AddrPort, handler http.Handler) (*web, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp4", at.String())
	if err != nil {
		return nil, err
	}
	w := &web{gate: &gate{Listener: l, device: d}}
	w.server = &http.Server{ReadHeaderTimeout: 5 * time.Second, Handler: http.HandlerFunc(func(out http.ResponseWriter, r *http.Request) {
		out.Header().Set("Server", d.announcesAs())
		if d.on("clock-wrong") {
			out.Header().Set("Date", time.Now().Add(-3*time.Hour).UTC().Format(http.TimeFormat))
		}
		handler.ServeHTTP(out, r)
	})}
	go func() { _ = w.server.Serve(w.gate) }() // ends when stop closes it
	return w, nil
}

func (w *web) stop() {
	if w != nil {
		_ = w.server.Close()
		w.gate.release()
	}
}

// gate is a listener that does not let every connection through to its server.
type gate struct {
	net.Listener
	device *Device
	mu     sync.Mutex
	held   []net.Conn
	closed bool
}

// Accept waits for the next connection that is let through.
func (g *gate) Accept() (net.Conn, error) {
	for {
		c, err := g.Listener.Accept()
		if err != nil {
			return nil, err
		}
		from, _ := netip.ParseAddrPort(c.RemoteAddr().String())
		switch d := g.device; {
		case d.on("opening-refused") && from.Addr() != d.Address.Addr():
			shut(c)
		case d.Asleep(), d.on("silent"):
			g.hold(c)
		default:
			return c, nil
		}
	}
}

// shut breaks a connection off, as a refusal does.
func shut(c net.Conn) {
	if t, ok := c.(*net.TCPConn); ok {
		_ = t.SetLinger(0)
	}
	_ = c.Close()
}

// hold keeps a connection open without an answer.
func (g *gate) hold(c net.Conn) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.closed {
		_ = c.Close()
		return
	}
	g.held = append(g.held, c)
}

func (g *gate) release() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.closed = true
	for _, c := range g.held {
		_ = c.Close()
	}
	g.held = nil
}

// packets answers UDP packets at one address until it is stopped.
type packets struct {
	conn *net.UDPConn
	done chan struct{}
}

func answerPackets(at netip.AddrPort, answer func(packet []byte, from netip.AddrPort) []byte) (*packets, error) {
	conn, err := net.ListenUDP("udp4", net.UDPAddrFromAddrPort(at))
	if err != nil {
		return nil, err
	}
	p := &packets{conn, make(chan struct{})}
	go func() {
		defer close(p.done)
		b := make([]byte, 4096)
		for {
			n, from, err := conn.ReadFromUDPAddrPort(b)
			if errors.Is(err, net.ErrClosed) {
				return
			}
			if err != nil {
				continue
			}
			if out := answer(b[:n], from); out != nil {
				_, _ = conn.WriteToUDPAddrPort(out, from)
			}
		}
	}()
	return p, nil
}

func (p *packets) stop() {
	if p != nil {
		_ = p.conn.Close()
		<-p.done
	}
}

// pages is a web server with one page for people.
type pages struct {
	title string
	web   *web
}

func (p *pages) start(ctx context.Context, d *Device) (err error) {
	at := d.Address
	if d.Type != "" {
		at = netip.AddrPortFrom(at.Addr(), layout.PagePort)
	}
	p.web, err = serve(ctx, d, at, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/leases" && d.HostName == "pier" {
			w.Header().Set("Content-Type", "text/csv; charset=utf-8; header=present")
			_, _ = fmt.Fprint(w, d.house.leaseTable())
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = fmt.Fprintf(w, "<!doctype html><title>%s</title><h1>%s</h1><p>Log in to change settings.</p>", escape(p.title), escape(p.title))
	}))
	return err
}

func (p *pages) stop() { p.web.stop() }
