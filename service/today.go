package service

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// Today returns what waits for the actor and what the actor holds.
func (s *Service) Today(ctx context.Context, a Actor) (wire.Today, error) {
	if err := a.require("today", nil, nil); err != nil {
		return wire.Today{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Today{}, err
	}
	out := wire.Today{Waiting: []wire.Todo{}, Held: []wire.HouseholdRow{}, Others: []wire.Todo{}}
	if a.Role != Technician {
		if out.Firm, err = s.store.CountHomes(ctx, a.Now); err != nil {
			return out, err
		}
	}
	involved, err := s.store.Involving(ctx, a.ID)
	if err != nil {
		return out, err
	}
	for _, row := range involved {
		d, err := s.store.Load(ctx, wire.HomeID(row.HouseholdID))
		if err != nil {
			return out, err
		}
		if d.Home().Custodian == a.ID {
			out.Held = append(out.Held, rowOf(row, people))
		}
		h, err := s.assess(ctx, d)
		if err != nil {
			return out, err
		}
		out.Waiting = append(out.Waiting, waiting(a, h, people)...)
	}
	if a.may(Waives, nil, nil) {
		if err := s.reviews(ctx, a, &out, involved); err != nil {
			return out, err
		}
	}
	if a.may(Assigns, nil, nil) {
		offered, err := s.store.OnOffer(ctx)
		if err != nil {
			return out, err
		}
		for _, row := range offered {
			if dossier.PersonID(row.OfferedTo) != a.ID {
				out.Others = append(out.Others, wire.Todo{Code: "handover-unwatched", Household: row.Code, Name: row.Name, Place: "handover",
					Sentence: wording.Fill(wording.Todos["handover-unwatched"], map[string]string{
						"from": people.name(dossier.PersonID(row.Custodian)), "to": people.name(dossier.PersonID(row.OfferedTo))})})
			}
		}
	}
	return out, nil
}

// reviews adds the waivers of other homes that a lead is to look at again.
func (s *Service) reviews(ctx context.Context, a Actor, out *wire.Today, involved []store.Summary) error {
	rows, err := s.store.Homes(ctx, store.HomesQuery{With: []string{"review"}, Today: a.Now, Limit: 50})
	if err != nil {
		return err
	}
	for _, row := range rows {
		if slices.ContainsFunc(involved, func(h store.Summary) bool { return h.HouseholdID == row.HouseholdID }) {
			continue
		}
		d, err := s.store.Load(ctx, wire.HomeID(row.HouseholdID))
		if err != nil {
			return err
		}
		l := todos{h: &assess.Assessment{State: custody.State{Index: d.Index()}}, now: a.Now}
		l.addReviews(dossier.Date(a.Now.Format(time.DateOnly)))
		out.Waiting = append(out.Waiting, l.list...)
	}
	return nil
}

// waiting returns what in this home waits for the actor, the most pressing first.
func waiting(a Actor, h *assess.Assessment, people staff) []wire.Todo {
	l, d := todos{h: h, now: a.Now}, h.Dossier
	mine := d.Home().Custodian == a.ID
	if mine {
		l.addWishes()
	}
	if h, ok := custody.Latest(d); ok {
		place := "handover/" + string(h.ID)
		switch {
		case h.State == dossier.Offered && h.To == a.ID:
			l.add("handover-to-me", place, "from", people.name(h.From))
		case h.State == dossier.Returned && h.From == a.ID && mine:
			l.add("handover-returned", place, "to", people.name(h.To), "why", orQuestions(h.ReturnedWhy))
		case h.State == dossier.Outdated && h.From == a.ID && mine:
			l.add("handover-outdated", place, "to", people.name(h.To))
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
func (l *todos) addVisits(a Actor) {
	y, m, day := a.Now.Date()
	today := time.Date(y, m, day, 0, 0, 0, 0, a.Now.Location())
	for _, v := range l.h.Visits {
		if v.Technician == a.ID && !v.Cancelled && v.Outcome == "" && !v.Starts.Before(today) && v.Starts.Before(today.AddDate(0, 0, 8)) {
			l.add("visit-mine", "records/visit/"+string(v.ID), "when", l.when(v.Starts), "purpose", v.Purpose)
		}
	}
}

// addLongTasks adds what the actor looks at again: when it should have ended, or ends within a day.
func (l *todos) addLongTasks(a Actor) {
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
func (l *todos) addDates(a Actor, mine, past bool) {
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
	if past && a.may(Waives, l.h.Dossier, nil) {
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

// Overview answers what is not proven, what is open, who the custodian is and what to do next.
func (s *Service) Overview(ctx context.Context, a Actor, code string) (wire.Overview, error) {
	h, err := s.read(ctx, a, "show-overview", code)
	if err != nil {
		return wire.Overview{}, err
	}
	t, err := s.tester(ctx, h)
	if err != nil {
		return wire.Overview{}, err
	}
	d, people := h.Dossier, t.people
	o := wire.Overview{Household: d.Home(), Revision: d.Revision, Custodian: people.get(d.Home().Custodian), Coverage: h.Coverage, Wishes: t.wishes(), Reproof: t.steps(h.Reproof), Minutes: h.Minutes,
		NotProven: []wire.Test{}, Findings: findingsSaid(d, h.Findings), Issues: []wire.Issue{}, MayWrite: a.may(Writes, d, nil), Counts: map[string]int{}}
	for _, st := range h.Statuses {
		if st.Status != proving.Proven && st.Test.Required {
			o.NotProven = append(o.NotProven, t.test(st))
		}
	}
	for _, i := range d.Issues {
		if i.State != dossier.IssueClosed {
			o.Issues = append(o.Issues, t.issue(a, i))
		}
	}
	rank := proving.Status("").Values()
	slices.SortStableFunc(o.NotProven, func(a, b wire.Test) int {
		return slices.Index(rank, string(a.Status)) - slices.Index(rank, string(b.Status))
	})
	if last, ok := custody.Latest(d); ok && last.State != dossier.Accepted {
		v := handoverOf(a, d, last, people)
		o.Handover = &v
	}
	for _, k := range dossier.Kinds {
		o.Counts[k.Name] = k.In(d).Len()
	}
	o.Next = next(a, h, people)
	return o, nil
}

// next is what to do next in this home: what waits for the actor, or for its custodian.
func next(a Actor, h *assess.Assessment, people staff) []wire.Todo {
	d := h.Dossier
	out := waiting(a, h, people)
	if d.Home().Custodian != a.ID {
		first := todos{h: h, now: a.Now}
		first.addWishes()
		out = append(first.list, out...)
		l, custodian := todos{h: h, now: a.Now}, Actor{ID: d.Home().Custodian, Role: Observer, Now: a.Now}
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
