package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// served is a server whose connections are bounded, and a way to ask it from an address, over a connection that
// stays open.
func served(t *testing.T, ofAddress, all int, proxies ...netip.Prefix) (*fewer, func(from string) (ask func() error)) {
	server := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusNoContent) }))
	f := withFewer(server.Listener, proxies)
	f.ofAddress, f.all = ofAddress, all
	server.Listener = f
	server.Start()
	t.Cleanup(server.Close)
	return f, func(from string) func() error {
		d := net.Dialer{LocalAddr: &net.TCPAddr{IP: net.ParseIP(from)}}
		conn, err := d.DialContext(t.Context(), "tcp", f.Addr().String())
		require.NoError(t, err)
		t.Cleanup(func() { _ = conn.Close() })
		require.NoError(t, conn.SetDeadline(time.Now().Add(10*time.Second)))
		in := bufio.NewReader(conn)
		return func() error {
			if _, err := fmt.Fprint(conn, "GET / HTTP/1.1\r\nHost: x\r\n\r\n"); err != nil {
				return err
			}
			resp, err := http.ReadResponse(in, nil)
			if err != nil {
				return err
			}
			return resp.Body.Close()
		}
	}
}

// requireClosed requires the end of a connection that the other side closed. How its asker learns it depends on what
// was under way: the end of the stream, a reset, or a pipe that takes nothing more.
func requireClosed(t *testing.T, err error, why string) {
	t.Helper()
	for _, end := range []error{io.ErrUnexpectedEOF, syscall.ECONNRESET, syscall.EPIPE} {
		if errors.Is(err, end) {
			return
		}
	}
	require.Fail(t, "the connection is still served", "%s: %v", why, err)
}

// openNow is how many connections are open.
func (f *fewer) openNow() int {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.count
}

func TestAnAddressHasSoManyConnections(t *testing.T) {
	f, from := served(t, 3, 100)
	for range 3 {
		require.NoError(t, from("127.0.0.2")())
	}
	requireClosed(t, from("127.0.0.2")(), "the fourth of one address")
	require.NoError(t, from("127.0.0.3")())
	assert.Equal(t, 4, f.openNow())
}

// Where all connections are taken, the coordinator still gets one, and who has many loses the oldest.
func TestACoordinatorGetsInWhereAllConnectionsAreTaken(t *testing.T) {
	f, from := served(t, 50, 20)
	greedy := make([]func() error, 15)
	for n := range greedy {
		greedy[n] = from("127.0.0.2")
		require.NoError(t, greedy[n]())
	}
	modest := from("127.0.0.3")
	require.NoError(t, modest())
	for range 8 {
		require.NoError(t, from("127.0.0.4")())
	}
	coordinator := from("127.0.0.5")
	require.NoError(t, coordinator())
	requireClosed(t, greedy[0](), "the oldest has to go")
	require.NoError(t, greedy[14]())
	require.NoError(t, modest())
	require.NoError(t, coordinator())
	assert.LessOrEqual(t, f.openNow(), 20)
}

func TestConnectionsOfAProxyAreNotCountedAgainstIt(t *testing.T) {
	_, from := served(t, 2, 100, netip.MustParsePrefix("127.0.0.9/32"))
	for range 6 {
		require.NoError(t, from("127.0.0.9")())
	}
}

// The bound leaves room for files below what the system lets us open.
func TestTheBoundLeavesRoomForFiles(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	f := withFewer(l, nil)
	assert.Positive(t, f.all)
	assert.LessOrEqual(t, f.all, 20_000)
}
