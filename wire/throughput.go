package wire

import "time"

// Throughput tells at which rate bytes arrive, from when each of them does. The beginning is left
// out: TCP still looks for its rate. The rate is the slope of the line that fits the rest best
// (least squares), so that a gap that is filled at one end of the time does not count twice.
type Throughput struct {
	first            time.Time
	bytes, from      float64
	n                float64
	x, y, xx, xy     float64 // sums over the arrivals since the slow start
	earliest, latest float64
}

// SlowStart is what is left out.
const SlowStart = 1500 * time.Millisecond

// leastTime is how long bytes must arrive after the slow start for a rate to be told, in seconds.
const leastTime = 0.5

// Add counts n bytes that arrived.
func (t *Throughput) Add(at time.Time, n int) {
	if t.first.IsZero() {
		t.first = at
	}
	t.bytes += float64(n)
	since := at.Sub(t.first) - SlowStart
	if since < 0 {
		return
	}
	x := since.Seconds()
	if t.n == 0 {
		t.from, t.earliest = t.bytes, x
	}
	y := t.bytes - t.from
	t.n, t.x, t.y, t.xx, t.xy, t.latest = t.n+1, t.x+x, t.y+y, t.xx+x*x, t.xy+x*y, x
}

// Rate returns the rate in Mb/s, and whether enough arrived to tell one.
func (t *Throughput) Rate() (mbps float64, known bool) {
	spread := t.n*t.xx - t.x*t.x
	if t.latest-t.earliest < leastTime || spread <= 0 {
		return 0, false
	}
	return (t.n*t.xy - t.x*t.y) / spread * 8 / 1e6, true
}
