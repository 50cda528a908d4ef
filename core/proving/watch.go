package proving

import "time"

// Watched is what a machine watches at a source while a person does a test.
type Watched string

// What is watched.
const (
	WatchesNothing Watched = ""
	WatchesReturn  Watched = "return"  // that it goes away, and comes back as it was
	WatchesWaking  Watched = "waking"  // that it sleeps, and answers again
	WatchesSamples Watched = "samples" // that a sample clip comes into its list, and goes out of it
)

// Values lists them.
func (Watched) Values() []string {
	return []string{string(WatchesReturn), string(WatchesWaking), string(WatchesSamples)}
}

// WatchFor returns what a machine can watch while a person does a test of the kind. It proves nothing by itself: what the screen shows is for the
// person to say.
func WatchFor(kind string) Watched {
	switch kind {
	case "survives-restart", "survives-power-cut":
		return WatchesReturn
	case "wakes":
		return WatchesWaking
	case "sample-appears", "removed-disappears":
		return WatchesSamples
	}
	return WatchesNothing
}

// LongestFor returns the measured value by which a kind of test is limited, and the limit in seconds: what took longer has not passed. A kind
// without one has the name "".
func LongestFor(kind string) (name string, seconds float64) {
	switch kind { // as said in what is expected of them
	case "wakes":
		return "answersAfterS", 120
	case "survives-power-cut":
		return "opensAfterS", 600
	}
	return "", 0
}

// Happening is what is seen of a source while it is watched.
type Happening string

// Happenings.
const (
	IsThere    Happening = "there"    // it answers: the person may begin
	IsAway     Happening = "away"     // it answers no more
	Answers    Happening = "answers"  // it answers again
	IsListed   Happening = "listed"   // a search finds it again
	OpensAgain Happening = "opens"    // its folders open again
	Appeared   Happening = "appeared" // a sample clip is in its list
	Gone       Happening = "gone"     // no sample clip is in its list any more
	GivenUp    Happening = "given-up" // nothing more came in the time that there is
	CannotSee  Happening = "cannot"   // it cannot be watched from here
)

// Moment is one thing that was seen, and how long after watching began.
type Moment struct {
	What  Happening
	After time.Duration
	Said  string // name of the sample clip, or why it cannot be watched
}

// WatchValues returns what moments show in numbers, to be recorded with what the person says: in how many seconds the source answered, was found
// and opened again after it had gone away, or for how long one waited for a sample clip. A restart that was not seen gives none.
func WatchValues(seen []Moment) map[string]float64 {
	out := map[string]float64{}
	var away *time.Duration
	for _, m := range seen {
		switch m.What {
		case IsAway:
			if away == nil {
				away = &m.After
			}
		case Answers, IsListed, OpensAgain:
			if away != nil {
				out[map[Happening]string{Answers: "answersAfterS", IsListed: "listedAfterS", OpensAgain: "opensAfterS"}[m.What]] = round((m.After - *away).Seconds())
			}
		case Appeared:
			out["appearedAfterS"] = round(m.After.Seconds())
		case Gone:
			out["goneAfterS"] = round(m.After.Seconds())
		}
	}
	return out
}
