package wording

import (
	"fmt"

	"kaiku/core/proving"
)

// happenings holds what is said while a source is watched, by what is watched; "" is for all.
var happenings = map[proving.Watched]map[proving.Happening]string{
	proving.WatchesReturn: {
		proving.IsThere: "The server answers. Restart it now.", proving.IsAway: "The server is away.", proving.Answers: "The server answers again, {after} s after it went away.",
		proving.IsListed: "It is found again, {after} s after it went away.", proving.OpensAgain: "Its folders open again, {after} s after it went away. Now look at the screen.",
		proving.GivenUp: "Nothing more came in half an hour.",
	},
	proving.WatchesWaking: {
		proving.IsThere: "The server is awake. Let it go to sleep.", proving.IsAway: "The server is asleep. Wake it now, as the test says.", proving.Answers: "The server answers again, {after} s after it fell asleep.",
		proving.GivenUp: "Nothing more came in half an hour.",
	},
	proving.WatchesSamples: {
		proving.IsThere: "The list can be read. Copy the sample clip into the folder now.", proving.Appeared: "The server lists {said}, {after} s after watching began. Now look at the screen.",
		proving.Gone: "The server lists no sample clip any more, {after} s after watching began.", proving.GivenUp: "No sample clip came into the list, or went out of it, in half an hour.",
	},
	"": {proving.CannotSee: "The server cannot be watched from here: {said}."},
}

// Happened says one thing that was seen while a source was watched.
func Happened(what proving.Watched, m proving.Moment, after float64) string {
	text, own := happenings[what][m.What]
	if !own {
		text = happenings[""][m.What]
	}
	if what == proving.WatchesSamples && m.What == proving.IsThere && m.Said != "" {
		text = "The server lists a sample clip already: {said}. Take it out first, or copy another one."
	}
	return Fill(text, map[string]string{"after": fmt.Sprintf("%.0f", after), "said": m.Said})
}
