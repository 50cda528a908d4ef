package wire

import (
	"crypto/rand"
	"errors"
	"io"
	"slices"
	"time"
)

// Throughput tells at which rate bytes arrive, from when each of them does. The beginning is left
// out: TCP still looks for its rate. What comes after is counted in equal steps of time, and the
// rate is the mean of the steps without the slowest and the fastest: bytes that were held back by a
// lost one and then come all at once make one step empty and another too full.
type Throughput struct {
	first time.Time
	steps []float64 // bytes of each step since the slow start
}

// SlowStart is what is left out, stepTime how long a step is, leftOut which part of the steps is
// left out at either end, and leastSteps how many there must be for a rate to be told.
const (
	SlowStart  = 1500 * time.Millisecond
	stepTime   = 200 * time.Millisecond
	leftOut    = 0.15
	leastSteps = 3
)

// Add counts n bytes that arrived.
func (t *Throughput) Add(at time.Time, n int) {
	if t.first.IsZero() {
		t.first = at
	}
	since := at.Sub(t.first) - SlowStart
	if since < 0 {
		return
	}
	step := int(since / stepTime)
	for len(t.steps) <= step {
		t.steps = append(t.steps, 0)
	}
	t.steps[step] += float64(n)
}

// Rate returns the rate in Mb/s, and whether enough arrived to tell one. The step that is not over
// does not count.
func (t *Throughput) Rate() (mbps float64, known bool) {
	if len(t.steps) <= leastSteps {
		return 0, false
	}
	whole := slices.Sorted(slices.Values(t.steps[:len(t.steps)-1]))
	out := int(leftOut * float64(len(whole)))
	whole = whole[out : len(whole)-out]
	var sum float64
	for _, b := range whole {
		sum += b
	}
	return sum / float64(len(whole)) / stepTime.Seconds() * 8 / 1e6, true
}

// Arriving counts what arrives until its end or a time.
func Arriving(r io.Reader, until time.Time) (Throughput, error) {
	var t Throughput
	b := make([]byte, 16<<10)
	for time.Now().Before(until) {
		n, err := r.Read(b)
		t.Add(time.Now(), n)
		if errors.Is(err, io.EOF) {
			return t, nil
		}
		if err != nil {
			return t, err
		}
	}
	return t, nil
}

// Noise is what is sent while measuring, until a time: bytes that nothing on the way can make fewer.
type Noise struct {
	Until time.Time
	bytes []byte
}

// Read implements io.Reader.
func (n *Noise) Read(b []byte) (int, error) {
	if !time.Now().Before(n.Until) {
		return 0, io.EOF
	}
	if n.bytes == nil {
		n.bytes = make([]byte, 64<<10)
		_, _ = rand.Read(n.bytes) // never fails
	}
	return copy(b, n.bytes), nil
}
