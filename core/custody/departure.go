package custody

import (
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/core/survey"
)

// State is what was computed of a home and custody tells of.
type State struct {
	*dossier.Index
	Walk     []survey.Stop
	Findings []network.Finding
	Statuses []proving.TestStatus
	Wishes   []proving.WishStatus
	Coverage proving.Coverage
	Kit      []survey.Supply
}

// Departure returns what is still to be settled before the technician leaves a home: wishes that
// nothing serves, what is not proven, changes with follow-ups to do, long tasks that are still running, openings made only for the work,
// credentials without a secret, a visit without an outcome, gaps in the survey.
func Departure(d State, now time.Time) []network.Remark {
	var out []network.Remark
	add := func(code string, about dossier.Ref, values ...string) {
		out = append(out, network.NewRemark(code, about, values...))
	}
	for _, w := range d.Wishes {
		for _, p := range w.Missing() {
			if w.Needed {
				add("wish-not-served", w.Wish.Ref(), wishValues(d.Dossier, w, p)...)
			}
		}
	}
	c := d.Coverage
	for _, n := range []struct {
		code string
		n    int
	}{{"tests-failed", c.Failed}, {"tests-in-doubt", c.InDoubt}, {"tests-stale", c.Stale}, {"tests-untried", c.Untried}} {
		if n.n > 0 {
			add(n.code, dossier.Ref{}, "n", strconv.Itoa(n.n))
		}
	}
	for _, one := range d.Changes {
		for _, owed := range one.Outstanding() {
			add("follow-up-open", one.ID.Ref(), "change", one.What, "what", string(owed), "device", d.Label(one.Device.Ref()))
		}
	}
	for _, w := range d.LongTasks {
		where, samples := strings.CutPrefix(w.What, proving.SamplesIn)
		switch {
		case !w.EndedAt.IsZero():
		case samples:
			add("samples-left", w.ID.Ref(), "where", where)
		default:
			add("long-task", w.ID.Ref(), "what", w.What, "when", w.ExpectedAt.In(now.Location()).Format("2 Jan 15:04"))
		}
	}
	for _, o := range d.Openings {
		if o.Temporary == dossier.Yes && o.State == dossier.OpeningOpen {
			add("opening-left", o.ID.Ref(), "device", d.Label(o.Device.Ref()), "port", strconv.Itoa(o.Port))
		}
	}
	for _, a := range d.Accounts {
		if a.Secret == "" {
			add("secret-missing", a.ID.Ref(), "account", a.Name)
		}
	}
	if v, ok := survey.NextVisit(d.Dossier, now); ok && v.Starts.Before(now) {
		add("outcome-missing", v.ID.Ref(), "purpose", v.Purpose)
	}
	blockers := 0
	for _, f := range d.Findings {
		if f.Severity == network.Blocker {
			blockers++
		}
	}
	if blockers > 0 {
		add("blockers", dossier.Ref{}, "n", strconv.Itoa(blockers))
	}
	missing := 0
	for _, s := range d.Walk {
		missing += len(s.Gaps)
	}
	if missing > 0 {
		add("survey-missing", dossier.Ref{}, "n", strconv.Itoa(missing))
	}
	return out
}

// wishValues names a wish and where nothing serves it.
func wishValues(d *dossier.Dossier, w proving.WishStatus, p proving.WishPlace) []string {
	one, _ := d.Wishes.Get(w.Wish)
	return []string{"wish", string(one.What), "room", d.Label(p.Room.Ref()), "device", d.Label(p.Device.Ref())}
}
