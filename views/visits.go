package views

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/papers"
	"kaiku/wire"
	"kaiku/wording"
)

// SupplyName is what people call something to bring.
func SupplyName(one survey.Supply) string {
	if one.Written {
		return one.Item
	}
	return wording.Supplies[one.Item]
}

// Remarks says remarks, each with what it is about and whether it is not as recorded.
func Remarks(d *dossier.Dossier, remarks []network.Remark, say func(network.Remark) (said string, differs bool)) []wire.Remark {
	out := []wire.Remark{}
	for _, r := range remarks {
		one := wire.Remark{Code: r.Code}
		one.Sentence, one.Differs = say(r)
		if r.Subject != (dossier.Ref{}) {
			one.About = Named(d, r.Subject)
		}
		out = append(out, one)
	}
	return out
}

func Events(d *dossier.Dossier, person dossier.PersonID, since time.Time, zone *time.Location, origin string) []papers.Event {
	h := d.Home()
	var out []papers.Event
	link := func(kind, id string) string {
		if origin == "" {
			return ""
		}
		return origin + "/households/" + h.Code + "/records/" + kind + "/" + id
	}
	for _, v := range d.Visits {
		if v.Technician != person || v.Starts.Before(since) {
			continue
		}
		minutes := v.Minutes
		if minutes == 0 {
			minutes = 60
		}
		var bring []string
		for _, i := range slices.Concat(v.Bring, v.Bench) {
			mark := "- "
			if i.Ready {
				mark = "+ "
			}
			bring = append(bring, mark+i.What)
		}
		out = append(out, papers.Event{UID: "visit-" + string(v.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ": " + v.Purpose, Place: h.Address, Description: strings.Join(bring, "\n"),
			URL: link("visit", string(v.ID)), Starts: v.Starts, Ends: v.Starts.Add(time.Duration(minutes) * time.Minute), Cancelled: v.Cancelled})
	}
	for _, w := range d.LongTasks {
		if w.CheckedBy == person && w.EndedAt.IsZero() {
			out = append(out, papers.Event{UID: "long-task-" + string(w.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ", check: " + w.What, URL: link("long-task", string(w.ID)), Starts: w.ExpectedAt, Ends: w.ExpectedAt.Add(15 * time.Minute)})
		}
	}
	for _, due := range d.Dues {
		who := due.Who
		if who == "" {
			who = h.Custodian
		}
		day, err := time.ParseInLocation(time.DateOnly, string(due.On), zone)
		if who == person && due.DoneAt.IsZero() && err == nil {
			out = append(out, papers.Event{UID: "due-" + string(due.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ": " + due.What, URL: link("due", string(due.ID)), Day: day})
		}
	}
	return out
}

// Kit says what the next visit must bring and what must be ready before it.
func Kit(h *assess.Assessment, supplies []survey.Supply, tests []string, people People, now time.Time) wire.Kit {
	d := h.Dossier
	out := wire.Kit{Supplies: []wire.Supply{}, Proves: testsNamed(h, tests), AccessNotes: d.Home().AccessNotes}
	if v, ok := survey.NextVisit(d, now); ok {
		out.Visit, out.Starts, out.Technician = Named(d, v.ID.Ref()), v.Starts, people.Name(v.Technician)
	}
	for _, one := range supplies {
		said := wire.Supply{What: SupplyName(one), Sort: one.Sort, Because: []string{}, About: []wire.Named{}, Ready: one.Ready, Written: one.Visit != ""}
		for _, b := range one.Because {
			said.Because = append(said.Because, wording.Because(b))
		}
		for _, r := range one.About {
			said.About = append(said.About, Named(d, r))
		}
		out.Supplies = append(out.Supplies, said)
	}
	return out
}
