// Package throughput works out a rate from when bytes arrive.
package throughput

import (
	"slices"
	"time"
)

// Wired is the part of a wired link's rate that TCP carries: 1448 payload bytes of 1538 on the wire (IPv4 with time stamps, MTU 1500).
const Wired = 0.9415

// Meter works out at which rate bytes arrive, from when each of them does. The beginning is left
// out: TCP still looks for its rate. What comes after is counted in equal steps of time, and the
// rate is the mean of the steps without the slowest and the fastest: bytes that were held back by a
// lost one and then come all at once make one step empty and another too full.
type Meter struct {
	first time.Time
	steps []float64 // bytes of each step since the slow start
}

// slowStart is what is left out, stepTime how long a step is, leftOut which part of the steps is
// left out at either end, and leastSteps how many there must be for a rate to be known.
const (
	slowStart  = 1500 * time.Millisecond
	stepTime   = 200 * time.Millisecond
	leftOut    = 0.15
	leastSteps = 3
)

// Add counts n bytes that arrived.
func (t *Meter) Add(at time.Time, n int) {
	if t.first.IsZero() {
		t.first = at
	}
	since := at.Sub(t.first) - slowStart
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
func (t *Meter) Rate() (mbps float64, known bool) {
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
