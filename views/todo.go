package views

import (
	"strconv"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Waiting returns what in this home waits for the actor, the most pressing first.
func Waiting(a Reader, h *assess.Assessment, people People) []wire.Todo {
	l, d := todos{h: h, now: a.Now}, h.Dossier
	mine := d.Home().Custodian == a.ID
	if mine {
		l.addWishes()
	}
	if h, ok := custody.Latest(d); ok {
		place := "handover/" + string(h.ID)
		switch {
		case h.State == dossier.Offered && h.To == a.ID:
			l.add("handover-to-me", place, "from", people.Name(h.From))
		case h.State == dossier.Returned && h.From == a.ID && mine:
			l.add("handover-returned", place, "to", people.Name(h.To), "why", orQuestions(h.ReturnedWhy))
		case h.State == dossier.Outdated && h.From == a.ID && mine:
			l.add("handover-outdated", place, "to", people.Name(h.To))
		}
	}
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed && i.Owner == a.ID && !i.PromisedUntil.IsZero() && i.PromisedUntil.Before(a.Now) {
			l.add("issue-promised", "issues/"+string(i.ID), "when", l.when(i.PromisedUntil), "symptom", i.Symptom)
		}
	}
	l.addVisits(a)
	l.addLongTasks(a)
	l.addDates(a, mine, true)
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed && i.Owner == a.ID {
			l.add("issue-mine", "issues/"+string(i.ID), "symptom", i.Symptom, "state", wording.Plain(string(i.State)))
		}
	}
	if mine {
		l.addOpen()
	}
	l.addDates(a, mine, false)
	return l.list
}

// addVisits adds the actor's visits from today until in a week that have no outcome yet.
func (l *todos) addVisits(a Reader) {
	y, m, day := a.Now.Date()
	today := time.Date(y, m, day, 0, 0, 0, 0, a.Now.Location())
	for _, v := range l.h.Visits {
		if v.Technician == a.ID && !v.Cancelled && v.Outcome == "" && !v.Starts.Before(today) && v.Starts.Before(today.AddDate(0, 0, 8)) {
			l.add("visit-mine", "records/visit/"+string(v.ID), "when", l.when(v.Starts), "purpose", v.Purpose)
		}
	}
}

// addLongTasks adds what the actor looks at again: when it should have ended, or ends within a day.
func (l *todos) addLongTasks(a Reader) {
	for _, w := range l.h.LongTasks {
		switch place := "records/wait/" + string(w.ID); {
		case w.CheckedBy != a.ID || !w.EndedAt.IsZero():
		case w.ExpectedAt.Before(a.Now):
			l.add("long-task-over", place, "what", w.What, "when", l.when(w.ExpectedAt))
		case w.ExpectedAt.Before(a.Now.Add(24 * time.Hour)):
			l.add("long-task-mine", place, "what", w.What, "when", l.when(w.ExpectedAt))
		}
	}
}

// addDates adds what fell due, with the waivers that a lead is to look at again, or what falls
// due within a fortnight.
func (l *todos) addDates(a Reader, mine, past bool) {
	today, fortnight := dossier.Date(a.Now.Format(time.DateOnly)), dossier.Date(a.Now.AddDate(0, 0, 14).Format(time.DateOnly))
	for _, due := range l.h.Dues {
		switch place := "records/due/" + string(due.ID); {
		case !due.DoneAt.IsZero() || due.Who != a.ID && (due.Who != "" || !mine):
		case due.On < today && past:
			l.add("due-over", place, "what", due.What, "on", l.day(due.On))
		case due.On >= today && due.On <= fortnight && !past:
			l.add("due-soon", place, "what", due.What, "on", l.day(due.On))
		}
	}
	if past && a.Reviews {
		l.addReviews(today)
	}
}

func (l *todos) addReviews(today dossier.Date) {
	for _, e := range l.h.Waivers {
		if e.Until != "" && e.Until <= today {
			test := proving.TestID(e.Test, e.Subjects)
			l.add("waiver-review", "proving/"+test, "on", l.day(e.Until), "test", wording.Tests[e.Test].Title+", "+subjectsOf(l.h.Dossier, e.Subjects))
		}
	}
}

func subjectsOf(d *dossier.Dossier, refs []dossier.Ref) string {
	var names []string
	for _, r := range refs {
		names = append(names, d.FullLabel(r))
	}
	return strings.Join(names, ", ")
}

func orQuestions(why string) string {
	if why == "" {
		return "with questions"
	}
	return why
}

type todos struct {
	h    *assess.Assessment
	now  time.Time
	list []wire.Todo
}

// when says an instant in the firm's time zone.
func (l *todos) when(t time.Time) string { return t.In(l.now.Location()).Format("2 Jan 15:04") }

// day says a day of the calendar.
func (l *todos) day(d dossier.Date) string {
	t, err := time.Parse(time.DateOnly, string(d))
	if err != nil {
		return string(d)
	}
	return t.Format("2 Jan 2006")
}

func (l *todos) add(code, place string, pairs ...string) {
	values := map[string]string{}
	for i := 0; i+1 < len(pairs); i += 2 {
		values[pairs[i]] = pairs[i+1]
	}
	h := l.h.Home()
	l.list = append(l.list, wire.Todo{Code: code, Household: h.Code, Name: h.Name, Place: place, Sentence: wording.Fill(wording.Todos[code], values)})
}

// addOpen adds what is open in the home for whoever is answerable.
func (l *todos) addOpen() {
	for _, i := range l.h.Issues {
		if i.State == dossier.IssueOpen && i.Owner == "" {
			l.add("issue-unowned", "issues/"+string(i.ID), "symptom", i.Symptom)
		}
	}
	owing := 0
	for _, c := range l.h.Changes {
		if len(c.Outstanding()) > 0 {
			owing++
		}
	}
	if owing > 0 {
		l.add("follow-ups-open", "records/change", "n", strconv.Itoa(owing))
	}
	blockers, c := l.h.Blockers(), l.h.Coverage
	for _, n := range []struct {
		code, place, word string
		n                 int
	}{{"blockers", "overview", "blocker", blockers}, {"tests-failed", "proving", "test", c.Failed},
		{"tests-in-doubt", "proving", "test", c.InDoubt}, {"tests-stale", "proving", "test", c.Stale}, {"tests-untried", "proving", "test", c.Untried}} {
		if n.n > 0 {
			l.add(n.code, n.place, "n", wording.Count(n.n, n.word))
		}
	}
}

// addWishes adds the needed wishes that nothing serves, as the first of all that is to do.
func (l *todos) addWishes() {
	for _, w := range l.h.Wishes {
		one, _ := l.h.Index.Wishes.Get(w.Wish)
		for _, at := range w.Missing() {
			if w.Needed {
				l.add("wish-not-served", "records/path", "said", wording.NotServed(string(one.What), wording.Where(l.h.Label(at.Room.Ref()), l.h.Label(at.Device.Ref()))))
			}
		}
	}
}

// Next is what to do next in this home: what waits for the actor, or for its custodian.
func Next(a Reader, h *assess.Assessment, people People) []wire.Todo {
	d := h.Dossier
	out := Waiting(a, h, people)
	if d.Home().Custodian != a.ID {
		first := todos{h: h, now: a.Now}
		first.addWishes()
		out = append(first.list, out...)
		l, custodian := todos{h: h, now: a.Now}, Reader{ID: d.Home().Custodian, Now: a.Now}
		l.addDates(custodian, true, true)
		l.addOpen()
		l.addDates(custodian, true, false)
		out = append(out, l.list...)
	}
	if out == nil {
		out = []wire.Todo{}
	}
	return out
}

// Reviews says the waivers of a home that a lead is to look at again.
func Reviews(h *assess.Assessment, now time.Time) []wire.Todo {
	l := todos{h: h, now: now}
	l.addReviews(dossier.Date(now.Format(time.DateOnly)))
	return l.list
}

// Unwatched says a handover that is offered to somebody and not accepted yet.
func Unwatched(code, name string, from, to dossier.PersonID, people People) wire.Todo {
	return wire.Todo{Code: "handover-unwatched", Household: code, Name: name, Place: "handover",
		Sentence: wording.Fill(wording.Todos["handover-unwatched"], map[string]string{"from": people.Name(from), "to": people.Name(to)})}
}
