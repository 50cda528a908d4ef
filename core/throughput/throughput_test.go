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
