package throughput_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/throughput"
)

// Bytes at an even rate are told at that rate, however they are cut, and whatever came before the
// slow start was over.
func TestThroughput(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mbps := rapid.Float64Range(2, 200).Draw(t, "rate")
		var tp throughput.Meter
		at := time.Unix(0, 0)
		tp.Add(at, rapid.IntRange(0, 10_000_000).Draw(t, "burst"))
		for at.Before(time.Unix(5, 0)) {
			n := rapid.IntRange(200, 16000).Draw(t, "bytes")
			at = at.Add(time.Duration(float64(n) * 8 / mbps * 1000))
			tp.Add(at, n)
		}
		got, known := tp.Rate()
		assert.True(t, known)
		assert.InEpsilon(t, mbps, got, 0.05)
	})
	// What a lost packet held back comes at once, and does not count twice.
	var held throughput.Meter
	for step := range 250 {
		at, n := time.Unix(0, int64(step)*20e6), 5000
		if step >= 80 && step < 90 {
			continue
		}
		if step == 90 {
			n *= 11
		}
		held.Add(at, n)
	}
	got, _ := held.Rate()
	assert.InEpsilon(t, 2.0, got, 0.02)
	var short throughput.Meter
	short.Add(time.Unix(0, 0), 1)
	short.Add(time.Unix(1, 0), 1e6)
	_, known := short.Rate()
	assert.False(t, known, "nothing came after the slow start")
}

// Of twenty steps the three slowest and the three fastest do not count; the one that is not over does not either, and
// three whole ones are needed.
func TestTheSlowestAndTheFastestStepsDoNotCount(t *testing.T) {
	const even = 25_000 // bytes in a step of 200 ms: 1 Mb/s
	meter := func(steps ...int) *throughput.Meter {
		m := &throughput.Meter{}
		m.Add(time.Unix(0, 0), 1)
		m.Add(time.Unix(1, 499_999_999), 1e9) // the last moment of the slow start
		for n, bytes := range steps {
			m.Add(time.Unix(1, 500_000_000).Add(time.Duration(n)*200*time.Millisecond), bytes)
		}
		return m
	}
	steps := make([]int, 21)
	for n := range steps {
		steps[n] = even
	}
	steps[3], steps[8], steps[9] = 1, 1, 1
	steps[20] = 40 * even // it is not over
	got, known := meter(steps...).Rate()
	assert.True(t, known)
	assert.InDelta(t, 1.0, got, 1e-9)
	steps[15] = 1 // a fourth slow one counts
	got, _ = meter(steps...).Rate()
	assert.Less(t, got, 0.95)
	_, known = meter(even, even, even).Rate()
	assert.False(t, known)
	got, known = meter(even, even, even, 0).Rate()
	assert.True(t, known)
	assert.InDelta(t, 1.0, got, 1e-9)
}
