package watching

import (
	"cmp"
	"context"
	"io"
	"net"
	"net/http"
	"slices"
	"sync"
	"time"
)

// Medium is something over which one sends at a time: a direction of a cable, or a channel.
type Medium struct {
	turn chan struct{}
	free time.Time // of who has the turn: when it is over
	mu   sync.Mutex
	busy time.Duration
}

// NewMedium returns one over which nobody sends.
func NewMedium() *Medium { return &Medium{turn: make(chan struct{}, 1)} }

// Busy is for how long somebody has sent over it.
func (m *Medium) Busy() time.Duration {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.busy
}

// Pass sends so many bytes at a rate in Mb/s, after whoever came before, and returns when they have arrived. A sleep
// that lasted too long is made up for by who comes next.
func (m *Medium) Pass(n int, mbps float64) {
	m.turn <- struct{}{}
	took := seconds(float64(n) * 8 / (mbps * 1e6))
	if now := time.Now(); m.free.Before(now.Add(-catchUp)) {
		m.free = now
	}
	m.free = m.free.Add(took)
	time.Sleep(time.Until(m.free))
	m.mu.Lock()
	m.busy += took
	m.mu.Unlock()
	<-m.turn
}

// catchUp bounds what is made up for.
const catchUp = 5 * time.Millisecond

// Hop is a way over one medium, at the rate in Mb/s that one gets over it alone.
type Hop struct {
	Medium *Medium
	Mbps   float64
}

// Server answers over ways of hops, in this process and without sockets: it works on the clock of a test.
type Server struct {
	conns  chan net.Conn
	closed chan struct{}
	http   http.Server
	wg     sync.WaitGroup
}

// Serve starts one.
func Serve(h http.Handler) *Server {
	s := &Server{conns: make(chan net.Conn), closed: make(chan struct{}), http: http.Server{Handler: h}}
	s.wg.Go(func() { _ = s.http.Serve(s) }) // it ends with Stop
	return s
}

// Accept, Close and Addr make it a net.Listener.
func (s *Server) Accept() (net.Conn, error) {
	select {
	case c := <-s.conns:
		return c, nil
	case <-s.closed:
		return nil, net.ErrClosed
	}
}

// Close ends listening.
func (s *Server) Close() error {
	close(s.closed)
	return nil
}

// Addr is that of a pipe: it has none.
func (s *Server) Addr() net.Addr { return pipeAddr{} }

type pipeAddr struct{}

func (pipeAddr) Network() string { return "pipe" }
func (pipeAddr) String() string  { return "pipe" }

// Stop ends everything, once what is on its way has arrived.
func (s *Server) Stop() {
	_ = s.http.Close() // closes the listener and all connections
	s.wg.Wait()
}

// Client returns one to which everything comes over these hops, in this order. What it asks takes no time.
func (s *Server) Client(way ...Hop) *http.Client {
	return &http.Client{Transport: &http.Transport{DisableKeepAlives: true, DialContext: func(ctx context.Context, _, _ string) (net.Conn, error) {
		client, near := net.Pipe()
		far, server := net.Pipe()
		select {
		case s.conns <- server:
		case <-s.closed:
			return nil, net.ErrClosed
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		s.wg.Go(func() {
			_, _ = io.Copy(far, near) // ends when either side is closed
			_ = far.Close()
		})
		s.wg.Go(func() { carry(near, far, way) })
		return client, nil
	}}}
}

// Parts that take so long over the slowest hop take turns; so many wait before each hop.
const (
	partTime = 5 * time.Millisecond
	queue    = 8
)

func partSize(way []Hop) int {
	slowest := slices.MinFunc(way, func(a, b Hop) int { return cmp.Compare(a.Mbps, b.Mbps) })
	return max(512, int(slowest.Mbps*1e6/8*partTime.Seconds()))
}

// carry brings what the server says to the client, part by part over each hop. A full queue holds up whoever sends into it.
func carry(to io.WriteCloser, from io.Reader, way []Hop) {
	at := make(chan []byte, queue)
	go func(out chan<- []byte) {
		defer close(out)
		for {
			part := make([]byte, partSize(way))
			n, err := from.Read(part)
			if n > 0 {
				out <- part[:n]
			}
			if err != nil {
				return // it was closed
			}
		}
	}(at)
	for _, h := range way {
		next := make(chan []byte, queue)
		go func(in <-chan []byte) {
			defer close(next)
			for part := range in {
				h.Medium.Pass(len(part), h.Mbps)
				next <- part
			}
		}(at)
		at = next
	}
	open := true
	for part := range at {
		if open { // what is still on its way takes its time all the same
			_, err := to.Write(part)
			open = err == nil
		}
	}
	_ = to.Close() // whoever reads is told that there is no more
}
