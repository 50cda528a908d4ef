package assess

import (
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
)

// RoomCoverage says how many of the required tests in a room stood where. What is about devices without a room has none.
type RoomCoverage struct {
	Room dossier.ID[dossier.Room]
	proving.Coverage
}

// CoverageOf counts the required tests of a home by room as of an instant; rooms in which nothing is required are left out. The order is that of
// the plan.
func CoverageOf(d *dossier.Dossier, k knowledge.Knowledge, now time.Time) []RoomCoverage {
	a := Assess(d, k, now)
	by := map[dossier.ID[dossier.Room]][]proving.TestStatus{}
	var order []dossier.ID[dossier.Room]
	for _, st := range a.Statuses {
		if !st.Test.Required {
			continue
		}
		path, _ := a.Paths.Get(st.Test.Path)
		device, _ := a.Devices.Get(path.Device)
		if _, seen := by[device.Room]; !seen {
			order = append(order, device.Room)
		}
		by[device.Room] = append(by[device.Room], st)
	}
	var out []RoomCoverage
	for _, room := range order {
		out = append(out, RoomCoverage{room, proving.Cover(by[room], nil)})
	}
	return out
}

// DaysEnds returns the indexes of the entries with which a day of writing ends, in the place of now, thinned out evenly to no more than most; the last is
// always among them.
func DaysEnds(entries []dossier.Entry, now time.Time, most int) []int {
	var ends []int
	for i, e := range entries {
		if i+1 < len(entries) && sameDay(e.At, entries[i+1].At, now.Location()) {
			continue
		}
		ends = append(ends, i)
	}
	if len(ends) <= most || most < 2 {
		return ends
	}
	out := make([]int, 0, most)
	for n := range most {
		out = append(out, ends[n*(len(ends)-1)/(most-1)])
	}
	return out
}

func sameDay(a, b time.Time, zone *time.Location) bool {
	ya, ma, da := a.In(zone).Date()
	yb, mb, db := b.In(zone).Date()
	return ya == yb && ma == mb && da == db
}
