package main

import (
	"net"
	"net/netip"
	"slices"
	"sync"
	"syscall"
	"time"
)

// Bounds of connections. Streams of events write without a bound of their own as long as each write gets through,
// see the API's stream.
const (
	readTime        = 5 * time.Minute // to read a request: 20 MB by a slow telephone
	writeTime       = 5 * time.Minute // to write an answer
	idleTime        = 2 * time.Minute
	mostOfAddress   = 256 // connections: an office behind one address
	keptDescriptors = 192 // files that are left for the database, bodies and probes
)

// fewer is a listener that keeps the number of connections within bounds: of one address, and of all together
// below what the system lets us open. Where all are taken, the oldest of the address that has most has to go: so
// a client with many connections cannot keep out one that needs a single one.
type fewer struct {
	net.Listener
	ofAddress, all int
	exempt         []netip.Prefix // proxies: their connections are those of many people

	mu    sync.Mutex
	open  map[netip.Addr][]*counted // oldest first
	count int
}

// withFewer bounds the connections of a listener.
func withFewer(l net.Listener, proxies []netip.Prefix) *fewer {
	all := 1024 - keptDescriptors
	var limit syscall.Rlimit
	if err := syscall.Getrlimit(syscall.RLIMIT_NOFILE, &limit); err == nil && limit.Cur > 2*keptDescriptors {
		all = int(min(limit.Cur-keptDescriptors, 20_000))
	} else if err == nil {
		all = int(limit.Cur / 2)
	}
	return &fewer{Listener: l, ofAddress: mostOfAddress, all: all, exempt: proxies, open: map[netip.Addr][]*counted{}}
}

// Accept returns the next connection that there is room for, or makes room.
func (f *fewer) Accept() (net.Conn, error) {
	for {
		conn, err := f.Listener.Accept()
		if err != nil {
			return nil, err
		}
		from, err := netip.ParseAddrPort(conn.RemoteAddr().String())
		if err != nil {
			return conn, nil //nolint:nilerr // it has no address to be counted by
		}
		if c := f.admit(conn, from.Addr().Unmap()); c != nil {
			return c, nil
		}
		_ = conn.Close()
	}
}

// admit counts a connection, or returns nil if its address has too many.
func (f *fewer) admit(conn net.Conn, from netip.Addr) net.Conn {
	f.mu.Lock()
	proxy := slices.ContainsFunc(f.exempt, func(p netip.Prefix) bool { return p.Contains(from) })
	if len(f.open[from]) >= f.ofAddress && !proxy {
		f.mu.Unlock()
		return nil
	}
	var goes *counted
	if f.count >= f.all {
		for _, all := range f.open {
			if goes == nil || len(all) > len(f.open[goes.from]) {
				goes = all[0]
			}
		}
	}
	c := &counted{Conn: conn, of: f, from: from}
	f.open[from] = append(f.open[from], c)
	f.count++
	f.mu.Unlock()
	if goes != nil {
		_ = goes.Close()
	}
	return c
}

// counted is a connection that is counted until it is closed.
type counted struct {
	net.Conn
	of   *fewer
	from netip.Addr
	once sync.Once
}

// Close ends it.
func (c *counted) Close() error {
	c.once.Do(func() {
		c.of.mu.Lock()
		defer c.of.mu.Unlock()
		left := slices.DeleteFunc(c.of.open[c.from], func(o *counted) bool { return o == c })
		if c.of.open[c.from] = left; len(left) == 0 {
			delete(c.of.open, c.from)
		}
		c.of.count--
	})
	return c.Conn.Close()
}
