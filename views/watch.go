package views

import (
	"math"

	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// WatchSeen says what was seen of a source while it was watched.
func WatchSeen(test string, what proving.Watched, seen []proving.Moment) wire.WatchSeen {
	out := wire.WatchSeen{Test: test, Values: proving.WatchValues(seen), Moments: []wire.WatchMoment{}}
	for i := range seen {
		out.Moments = append(out.Moments, WatchMoment(what, seen[:i+1]))
	}
	return out
}

// WatchMoment says the last of the moments.
func WatchMoment(what proving.Watched, seen []proving.Moment) wire.WatchMoment {
	last := seen[len(seen)-1]
	after := last.After.Seconds()
	for name, value := range proving.WatchValues(seen) {
		if (name == "answersAfterS" && last.What == proving.Answers) || (name == "listedAfterS" && last.What == proving.IsListed) || (name == "opensAfterS" && last.What == proving.OpensAgain) {
			after = value
		}
	}
	return wire.WatchMoment{What: last.What, AfterS: math.Round(last.After.Seconds()*10) / 10, Sentence: wording.Happened(what, last, after)}
}
