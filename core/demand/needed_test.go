package demand_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/demand"
)

// stalls plays from one stretch on: bits arrive at the rate from the start, and each stretch is there in time or not.
func stalls(list []demand.Stretch, from int, wait, rate float64) bool {
	var got float64
	for _, s := range list[from:] {
		got += s.Bits
		if got > rate*(wait+s.At-list[from].At)*(1+1e-9) {
			return true
		}
	}
	return false
}

func stallsAnywhere(list []demand.Stretch, wait, rate float64) bool {
	for from := range list {
		if stalls(list, from, wait, rate) {
			return true
		}
	}
	return false
}

func file(t *rapid.T) (list []demand.Stretch, seconds float64) {
	at := 0.0
	for range rapid.IntRange(1, 120).Draw(t, "stretches") {
		list = append(list, demand.Stretch{At: at, Bits: float64(rapid.IntRange(0, 2_000_000).Draw(t, "bits"))})
		at += float64(rapid.IntRange(1, 4000).Draw(t, "ms")) / 1000
	}
	return list, at
}

// The need is what playing it out finds: of a thousand rates around it, just those below stall.
func TestTheNeedIsWhatPlayingFinds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list, seconds := file(t)
		n := demand.Needed(list, seconds)
		for i, wait := range demand.Waits {
			need := n.Mbps[i] * 1e6
			if need == 0 {
				assert.False(t, stallsAnywhere(list, wait, 1))
				continue
			}
			assert.False(t, stallsAnywhere(list, wait, need*1.001), "it plays with a thousandth more")
			assert.True(t, stallsAnywhere(list, wait, need*0.999), "and stalls with a thousandth less")
			if i > 0 {
				assert.LessOrEqual(t, n.Mbps[i], n.Mbps[i-1], "who waits longer needs no more")
			}
			step := max(1, len(list)/10)
			for k := range 1000 {
				rate := need * 2 * float64(k+1) / 1000
				if ratio := rate / need; ratio > 0.999 && ratio < 1.001 {
					continue
				}
				if rate > need {
					for from := 0; from < len(list); from += step {
						assert.False(t, stalls(list, from, wait, rate))
					}
				}
			}
		}
	})
}

func TestAHeavierFileNeedsNoLess(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list, seconds := file(t)
		before := demand.Needed(append([]demand.Stretch{}, list...), seconds)
		list[rapid.IntRange(0, len(list)-1).Draw(t, "which")].Bits += 1e5
		after := demand.Needed(list, seconds)
		for i := range before.Mbps {
			assert.GreaterOrEqual(t, after.Mbps[i], before.Mbps[i]*(1-1e-12))
		}
		assert.GreaterOrEqual(t, after.Heaviest, before.Heaviest)
	})
}

func TestNeedsByHand(t *testing.T) {
	var even []demand.Stretch // 10 Mb/s for two minutes, with 40 Mb/s in the last quarter
	for s := range 120 {
		bits := 10e6
		if s >= 90 {
			bits = 40e6
		}
		even = append(even, demand.Stretch{At: float64(s), Bits: bits})
	}
	n := demand.Needed(even, 120)
	assert.InDelta(t, 17.5, n.Average, 1e-9)
	assert.InDelta(t, 30*40.0/(29+2), n.Mbps[0], 1e-9, "the last thirty seconds, the first of which is needed at once")
	assert.InDelta(t, 30*40.0/(29+30), n.Mbps[3], 1e-9)
	assert.InDelta(t, 25, n.Heaviest, 1e-9)
	assert.InDelta(t, 60, n.HeaviestAt, 1e-9)
	short := demand.Needed([]demand.Stretch{{At: 1, Bits: 4e6}, {At: 0, Bits: 2e6}}, 2)
	assert.InDelta(t, 3, short.Heaviest, 1e-9, "a file shorter than a minute is its own heaviest")
	assert.InDelta(t, 2, short.Mbps[0], 1e-9)
	assert.Equal(t, demand.Need{}, demand.Needed(nil, 0))
}
