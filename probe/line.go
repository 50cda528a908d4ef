package probe

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"golang.org/x/time/rate"

	"kaiku/wire"
)

// Times of one measurement of a line, and what a responder gives to one caller.
const (
	lineTime  = 6 * time.Second
	lineGives = 12 * time.Second
	lineTakes = 64 << 30 // time is the bound; a loopback carries some GB/s
)

// LineResponder is the far end of measurements of internet lines: it says from which address it
// is called, sends and takes, and calls back at a port. It answers only who knows the token, a few at a time.
func LineResponder(token string) http.Handler {
	mux := http.NewServeMux()
	slots := make(chan struct{}, 4)
	wrong := rate.NewLimiter(rate.Every(time.Second), 20)
	guarded := func(h http.HandlerFunc) http.HandlerFunc {
		return func(w http.ResponseWriter, r *http.Request) {
			given := strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")
			if subtle.ConstantTimeCompare([]byte(given), []byte(token)) != 1 {
				if !wrong.Allow() {
					http.Error(w, "wait", http.StatusTooManyRequests)
					return
				}
				http.Error(w, "the token is another one", http.StatusForbidden)
				return
			}
			w.Header().Set("Cache-Control", "no-store")
			h(w, r)
		}
	}
	slotted := func(h http.HandlerFunc) http.HandlerFunc {
		return func(w http.ResponseWriter, r *http.Request) {
			select {
			case slots <- struct{}{}:
				defer func() { <-slots }()
				h(w, r)
			default:
				http.Error(w, "others measure just now", http.StatusServiceUnavailable)
			}
		}
	}
	mux.HandleFunc("GET /line/seen", guarded(func(w http.ResponseWriter, r *http.Request) {
		from, err := netip.ParseAddrPort(r.RemoteAddr)
		if err != nil {
			http.Error(w, "no address", http.StatusInternalServerError)
			return
		}
		_ = json.NewEncoder(w).Encode(map[string]netip.Addr{"address": from.Addr().Unmap().WithZone("")})
	}))
	mux.HandleFunc("POST /line/call-back", guarded(slotted(callsBack)))
	mux.HandleFunc("GET /line/down", guarded(slotted(func(w http.ResponseWriter, _ *http.Request) {
		b := make([]byte, 64<<10)
		_, _ = rand.Read(b)
		for until := time.Now().Add(lineGives); time.Now().Before(until); {
			if _, err := w.Write(b); err != nil {
				return // it has enough
			}
		}
	})))
	mux.HandleFunc("POST /line/up", guarded(slotted(func(w http.ResponseWriter, r *http.Request) {
		t, err := wire.Arriving(io.LimitReader(r.Body, lineTakes), time.Now().Add(lineGives))
		if err != nil {
			return // the caller broke off
		}
		mbps, err := wire.RateOf(t)
		_ = json.NewEncoder(w).Encode(wire.UpRate{UpMbps: mbps, Measured: err == nil})
	})))
	return mux
}

// LineMeasured is what was measured of an internet line. An address that is not valid was not seen:
// there is no way out by that family.
type LineMeasured struct {
	DownMbps, UpMbps float64
	Seen, Seen6      netip.Addr
}

// ErrResponder is returned when the far end refuses.
var ErrResponder = errors.New("the responder refuses")

// MeasureLine measures the internet line to a responder, in about twelve seconds.
func MeasureLine(ctx context.Context, responder, token string, progress func(string)) (LineMeasured, error) {
	var m LineMeasured
	l := lineClient{strings.TrimRight(responder, "/"), token}
	progress("the address seen from outside")
	var err4, err6 error
	m.Seen, err4 = l.seen(ctx, "tcp4")
	m.Seen6, err6 = l.seen(ctx, "tcp6")
	if err4 != nil && err6 != nil {
		return m, err4
	}
	progress("throughput towards the home")
	resp, err := l.send(ctx, l.over("tcp"), http.MethodGet, "/line/down", nil)
	if err != nil {
		return m, err
	}
	t, err := wire.Arriving(resp.Body, time.Now().Add(lineTime))
	_ = resp.Body.Close()
	if err != nil {
		return m, fmt.Errorf("measure towards the home: %w", err)
	}
	if m.DownMbps, err = wire.RateOf(t); err != nil {
		return m, fmt.Errorf("towards the home: %w", err)
	}
	progress("throughput from the home")
	resp, err = l.send(ctx, l.over("tcp"), http.MethodPost, "/line/up", &wire.Noise{Until: time.Now().Add(lineTime)})
	if err != nil {
		return m, err
	}
	defer func() { _ = resp.Body.Close() }()
	var up wire.UpRate
	if err := json.NewDecoder(io.LimitReader(resp.Body, 1<<16)).Decode(&up); err != nil {
		return m, fmt.Errorf("read how fast it arrived: %w", err)
	}
	if !up.Measured || up.UpMbps <= 0 {
		return m, fmt.Errorf("from the home: %w", wire.ErrTooLittle)
	}
	m.UpMbps = up.UpMbps
	return m, nil
}

type lineClient struct{ base, token string }

func (l lineClient) over(network string) *http.Client {
	d := net.Dialer{Timeout: dialTime}
	return &http.Client{Transport: &http.Transport{DisableKeepAlives: true, DialContext: func(ctx context.Context, _, address string) (net.Conn, error) {
		return d.DialContext(ctx, network, address)
	}}}
}

func (l lineClient) send(ctx context.Context, c *http.Client, method, path string, body io.Reader) (*http.Response, error) {
	r, err := http.NewRequestWithContext(ctx, method, l.base+path, body)
	if err != nil {
		return nil, err
	}
	r.Header.Set("Authorization", "Bearer "+l.token)
	resp, err := c.Do(r)
	if err != nil {
		return nil, fmt.Errorf("reach the responder at %s: %w", l.base, err)
	}
	if resp.StatusCode != http.StatusOK {
		b, _ := io.ReadAll(io.LimitReader(resp.Body, 200))
		_ = resp.Body.Close()
		return nil, fmt.Errorf("%w: %s", ErrResponder, strings.TrimSpace(string(b)))
	}
	return resp, nil
}

func (l lineClient) seen(ctx context.Context, network string) (netip.Addr, error) {
	ctx, cancel := context.WithTimeout(ctx, replyTime)
	defer cancel()
	resp, err := l.send(ctx, l.over(network), http.MethodGet, "/line/seen", nil)
	if err != nil {
		return netip.Addr{}, err
	}
	defer func() { _ = resp.Body.Close() }()
	var said struct{ Address netip.Addr }
	err = json.NewDecoder(io.LimitReader(resp.Body, 1<<16)).Decode(&said)
	return said.Address, err
}
