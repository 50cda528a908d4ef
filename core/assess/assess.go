// Package assess computes everything that Kaiku knows better than a notebook of one home, in one
// call and each part once.
package assess

import (
	"slices"
	"sync"
	"time"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/knowledge"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/core/survey"
)

// Assessment is what is computed of a home as of an instant. It is read-only, and may be shared.
type Assessment struct {
	custody.State
	Knowledge     knowledge.Knowledge
	Now           time.Time
	Until         time.Time // when it becomes another by itself, if nothing is written before
	Plan          *proving.Plan
	Steps         []proving.RecipeStep // what the firm's recipes ask for in this home
	Prerequisites []proving.Prerequisite
	Reproof       []proving.Step // the fewest acts that make everything proven
	Minutes       int            // what they take
	Gates         []custody.Gate
	Dues          []dossier.Due // what falls due or fell due, and was not seen to, the earliest first
	Departure     []network.Remark
	Union         network.HomeUnion
	Outside       []network.LineReach
	played        *played
	carried       *carried
}

// carried is the load of an assessment, worked out when it is first asked for.
type carried struct {
	once sync.Once
	of   load.Load
}

// Load returns what the home's paths ask of its network. An evening is one where the assessment is made.
func (a *Assessment) Load() *load.Load {
	a.carried.once.Do(func() { a.carried.of = load.Of(a.Index, a.Now.Location()) })
	return &a.carried.of
}

// played is the forecast of an assessment, worked out when it is first asked for: most pages never do.
type played struct {
	once sync.Once
	of   forecast.Forecast
}

// Forecast returns what of the home's folders plays on which device.
func (a *Assessment) Forecast() *forecast.Forecast {
	a.played.once.Do(func() { a.played.of = forecast.Of(a.Index, a.Knowledge) })
	return &a.played.of
}

// short asks the forecast for findings where they can be: where a source is recorded with its converting power.
func (a *Assessment) short() []network.Finding {
	if !slices.ContainsFunc(a.Sources, func(s dossier.Source) bool { return s.BudgetMpx > 0 }) {
		return nil
	}
	var out []network.Finding
	for _, c := range a.Forecast().Converters {
		if c.Short() {
			out = append(out, network.Finding{Code: network.ConvertingShort, Subjects: []dossier.Ref{c.Source.Ref(), c.Device.Ref(), c.Folder.Ref()}, Values: map[string]dossier.Value{
				"source": dossier.Named(a.FullLabel(c.Source.Ref())), "devices": dossier.Counted(c.Devices), "atOnce": dossier.Counted(c.AtOnce),
				"needs": dossier.Amount(c.Mpx, dossier.UnitMpx, dossier.KnownEstimated), "power": dossier.Amount(c.Budget, dossier.UnitMpx, "")}})
		}
	}
	return out
}

// Assess computes a home. It depends on its arguments alone: the same dossier with the same
// knowledge gives the same until the returned instant. What a change would do is told by the
// assessment of a changed clone.
func Assess(d *dossier.Dossier, k knowledge.Knowledge, now time.Time) *Assessment {
	x := d.Index()
	a := &Assessment{Knowledge: k, Now: now, Plan: proving.NewPlan(x), played: &played{}, carried: &carried{}}
	a.Index = x
	a.Findings = network.Findings(x, k, now, a.short()...)
	a.Statuses = proving.Statuses(a.Plan, proving.Against{Findings: a.Findings, Seen: k.Seen})
	a.Wishes = proving.Wishes(x, a.Statuses)
	a.Coverage = proving.Cover(a.Statuses, a.Wishes)
	a.Walk = survey.Walk(x)
	a.Steps = a.Plan.RecipeSteps(k.Recipes)
	a.Prerequisites = proving.Prerequisites(x, a.Statuses, a.Steps)
	a.Reproof, a.Minutes = a.Plan.Reproof(a.Statuses)
	a.Gates = custody.Gates(d)
	a.Dues = survey.Dues(d)
	a.Kit = survey.Kit(d, a.Walk, a.Findings, now)
	a.Departure = custody.Departure(a.State, now)
	a.Union = network.OneNetwork(x)
	a.Outside = network.Outside(x)
	a.Until = until(d, now)
	return a
}

// until returns the instant at which the findings or the day change.
func until(d *dossier.Dossier, now time.Time) time.Time {
	y, m, day := now.Date()
	next := time.Date(y, m, day+1, 0, 0, 0, 0, now.Location())
	if u := network.Until(d, now); !u.IsZero() && u.Before(next) {
		next = u
	}
	for _, v := range d.Visits {
		for _, at := range []time.Time{v.Starts, v.Starts.AddDate(0, 0, 1)} {
			if at.After(now) && at.Before(next) {
				next = at
			}
		}
	}
	return next
}

// Test returns where the test with that identity stands.
func (a *Assessment) Test(id string) (proving.TestStatus, bool) {
	i, planned := a.Plan.Place(id)
	if !planned {
		return proving.TestStatus{}, false
	}
	return a.Statuses[i], true
}

// Needed returns the prerequisite of that name at that place, if some path needs it.
func (a *Assessment) Needed(what string, at dossier.Ref) (proving.Prerequisite, bool) {
	for _, p := range a.Prerequisites {
		if p.Need.What == what && p.Subject == at {
			return p, true
		}
	}
	return proving.Prerequisite{}, false
}

// Blockers counts the findings that keep something from working.
func (a *Assessment) Blockers() int {
	n := 0
	for _, f := range a.Findings {
		if f.Severity == network.Blocker {
			n++
		}
	}
	return n
}
