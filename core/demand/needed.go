package demand

import (
	"cmp"
	"math"
	"slices"
)

// Stretch is a part of a file: from when it is needed, in seconds from the start, and how many bits it has.
type Stretch struct{ At, Bits float64 }

// Waits are the waits before the start, in seconds, for which a file's need is worked out.
var Waits = [4]float64{2, 5, 10, 30}

// Need is what a file needs: for each of Waits the least constant rate, in Mb/s, at which playback that is started
// anywhere, after that wait, never stalls; the average; and its heaviest minute.
type Need struct {
	Mbps       [4]float64 `json:"mbps" doc:"The rate needed in Mb/s with 2, 5, 10 and 30 seconds kept ready."`
	Average    float64    `json:"average" doc:"The average rate in Mb/s."`
	Heaviest   float64    `json:"heaviest" doc:"The rate of the heaviest minute in Mb/s."`
	HeaviestAt float64    `json:"heaviestAt" doc:"Where that minute begins, in seconds."`
}

// Needed works out what a file needs whose bits lie in time as the stretches say, which it sorts; seconds is its
// length. Playback that is started at one stretch has had wait + t seconds of the rate when it needs the one t seconds
// on, and by then needs the bits of both and of all between. So the need is the greatest of bits / (wait + t) over
// all pairs. It is found exactly by Dinkelbach's method (Management Science 13, 1967): with the greatest ratio so far as
// the rate, look in one pass for the pair that exceeds it most, until none does.
func Needed(list []Stretch, seconds float64) Need {
	slices.SortFunc(list, func(a, b Stretch) int { return cmp.Compare(a.At, b.At) })
	var n Need
	if seconds > 0 {
		n.Average = total(list) / seconds / 1e6
	}
	for i, wait := range Waits {
		n.Mbps[i] = neededAfter(list, wait) / 1e6
	}
	n.Heaviest, n.HeaviestAt = heaviest(list, seconds)
	return n
}

// mostPasses is far more than the method needs: it converges faster than by halving.
const mostPasses = 100

// neededAfter returns the need in bit/s after a wait in seconds.
func neededAfter(list []Stretch, wait float64) float64 {
	rate := 0.0
	for range mostPasses {
		over, better := math.Inf(-1), rate
		var sum float64
		least, leastSum, leastAt := math.Inf(1), 0.0, 0.0 // of the beginnings so far
		for _, s := range list {
			if begin := sum - rate*s.At; begin < least {
				least, leastSum, leastAt = begin, sum, s.At
			}
			sum += s.Bits
			if o := sum - rate*s.At - least; o > over {
				over, better = o, (sum-leastSum)/(wait+s.At-leastAt)
			}
		}
		if better <= rate*(1+1e-12) {
			break
		}
		rate = better
	}
	return rate
}

// heaviest returns the rate over the heaviest minute in Mb/s and where it begins. A file shorter than that is its own.
func heaviest(list []Stretch, seconds float64) (mbps, at float64) {
	const minute = 60
	if seconds > 0 && seconds < minute {
		return total(list) / seconds / 1e6, 0
	}
	var sum float64
	end := 0
	for i, s := range list {
		for end < len(list) && list[end].At < s.At+minute {
			sum += list[end].Bits
			end++
		}
		if r := sum / minute / 1e6; r > mbps {
			mbps, at = r, s.At
		}
		sum -= list[i].Bits
	}
	return mbps, at
}

func total(list []Stretch) float64 {
	var sum float64
	for _, s := range list {
		sum += s.Bits
	}
	return sum
}
