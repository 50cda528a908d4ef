package papers

import (
	"time"

	ics "github.com/arran4/golang-ical"

	"kaiku/wording"
)

// Event is one entry of a calendar. With a Day it lasts that whole day, else from Starts to Ends.
type Event struct {
	UID          string
	Summary      string
	Place        string
	Description  string
	URL          string
	Day          time.Time
	Starts, Ends time.Time
	Cancelled    bool
}

// Calendar writes events as iCalendar (RFC 5545), to be fetched again and again: every event is of
// one publisher and keeps its UID, so that a change moves it instead of doubling it.
func Calendar(name string, now time.Time, events []Event) []byte {
	c := ics.NewCalendarFor("Kaiku")
	c.SetMethod(ics.MethodPublish)
	c.SetName(name)
	c.SetXWRCalName(name)
	c.SetRefreshInterval("PT15M")
	for _, e := range events {
		for _, text := range []*string{&e.Summary, &e.Place, &e.Description, &e.URL} {
			*text = wording.Safe(*text)
		}
		v := c.AddEvent(e.UID)
		v.SetDtStampTime(now)
		v.SetSummary(e.Summary)
		if e.Place != "" {
			v.SetLocation(e.Place)
		}
		if e.Description != "" {
			v.SetDescription(e.Description)
		}
		if e.URL != "" {
			v.SetURL(e.URL)
		}
		if e.Day.IsZero() {
			v.SetStartAt(e.Starts)
			v.SetEndAt(e.Ends)
		} else {
			v.SetAllDayStartAt(e.Day)
			v.SetAllDayEndAt(e.Day.AddDate(0, 0, 1))
		}
		if e.Cancelled {
			v.SetStatus(ics.ObjectStatusCancelled)
		}
	}
	return []byte(c.Serialize(ics.WithNewLineWindows))
}
