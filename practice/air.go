package practice

import (
	"net/http"
	"net/netip"
	"time"
)

// airRates is what the access point's stations are served at, in Mb/s, by their host number; who
// stands on a cable has none.
var airRates = map[byte]float64{21: 31.5, 22: 60, 23: 25, 24: 12}

// rateOf is the rate at which a station is served now, or 0 for as fast as it goes.
func (h *House) rateOf(station netip.Addr) float64 {
	if !h.Segment.Contains(station) {
		return 0
	}
	host := station.As4()[3]
	if host == 21 && h.faults.on("slow-station") {
		return 2
	}
	return airRates[host]
}

// pacer lets bytes pass at a rate on an absolute schedule: a sleep that lasted too long is made up
// for, as long as that is not more than catchUp.
type pacer struct {
	next time.Time
}

const (
	paceChunk = 16 << 10
	catchUp   = 50 * time.Millisecond
)

// wait lets n bytes pass at mbps.
func (p *pacer) wait(n int, mbps float64) {
	now := time.Now()
	if p.next.Before(now.Add(-catchUp)) {
		p.next = now.Add(-catchUp)
	}
	if wait := p.next.Sub(now); wait > 0 {
		time.Sleep(wait)
	}
	p.next = p.next.Add(time.Duration(float64(n) * 8 / mbps * float64(time.Microsecond)))
}

// paced writes an answer at the rate of its station, or of the server, whichever is less.
type paced struct {
	http.ResponseWriter
	rate func() float64
	pace pacer
}

// Write writes in chunks, so that a change of the rate is seen at once.
func (p *paced) Write(b []byte) (int, error) {
	written := 0
	for len(b) > 0 {
		n := min(len(b), paceChunk)
		if mbps := p.rate(); mbps > 0 {
			p.pace.wait(n, mbps)
		}
		m, err := p.ResponseWriter.Write(b[:n])
		written += m
		if err != nil {
			return written, err
		}
		b = b[n:]
	}
	return written, nil
}

// Unwrap gives way to the writer beneath.
func (p *paced) Unwrap() http.ResponseWriter { return p.ResponseWriter }
