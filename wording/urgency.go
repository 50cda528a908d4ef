package wording

import (
	"time"

	"kaiku/core/remedy"
)

// Urgencies are how soon an issue has to be seen to, in words.
var Urgencies = map[remedy.Level]string{remedy.Today: "today", remedy.ThisWeek: "this week", remedy.CanWait: "can wait"}

// urgent are the reasons; {about} is the record and {at} the instant.
var urgent = map[remedy.ReasonCode]string{
	remedy.NothingPlays:  "the path {about} does not play, and nothing else is known to play instead",
	remedy.ElsewhereToo:  "the path {about} is proven to play, and serves the same wish in the same place",
	remedy.FallBackWorks: "its fall-back {about} is proven to play",
	remedy.FallBackOpen:  "it has the fall-back {about}, of which it is not known whether it plays",
	remedy.PlaysBadly:    "the path {about} plays, and something else about it fails",
	remedy.NotKnownWhat:  "nothing that is recorded says what no longer works; a complaint or a failed test would",
	remedy.Overdue:       "what was promised for {at} is overdue",
	remedy.DueSoon:       "what was promised falls due on {at}",
	remedy.ForLong:       "it has been so since {at}",
}

// Urgent says one reason of an urgency.
func Urgent(r remedy.Reason, about string, zone *time.Location) string {
	at := ""
	if !r.At.IsZero() {
		at = r.At.In(zone).Format("2 January")
	}
	return Fill(urgent[r.Code], map[string]string{"about": about, "at": at})
}
