package proving

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// Status is where a test stands now.
type Status string

// States of a test. Stale was proven once, on facts that have changed since; in doubt is proven on
// facts that hold, but something recorded or seen speaks against it now.
const (
	Untried  Status = "untried"
	Waived   Status = "waived" // waived by a lead technician, and not proven
	Proven   Status = "proven"
	Marginal Status = "marginal"
	Failed   Status = "failed"
	Stale    Status = "stale"
	InDoubt  Status = "in-doubt"
)

// Values lists all states, those that ask for work first.
func (Status) Values() []string {
	return []string{string(Failed), string(InDoubt), string(Stale), string(Untried), string(Marginal), string(Waived), string(Proven)}
}

// FactChange is one fact that differs between a proof and now. Without a name it is the record as a whole,
// which played a part in the proof and plays none now.
type FactChange struct {
	Subject dossier.Ref `json:"subject"`
	Name    string      `json:"name"`
	From    string      `json:"from"`
	To      string      `json:"to"`
}

// TestStatus is where one test stands. Attempt is the one that decides, at At. Changes tell, for a
// stale test, which of its facts differ now; Doubts what speaks against one that is in doubt.
// Witness is set where the attempt was made on another path of the same device, for which that is
// declared to be enough.
type TestStatus struct {
	Test    Test
	Status  Status
	Attempt dossier.ID[dossier.Attempt]
	At      time.Time
	AsOf    uint64 // revision at which the deciding attempt began; 0 where it is not known
	Changes []FactChange
	Doubts  []Doubt
	Witness bool
	// Undone is the newest attempt of a machine that could not carry the test out, if nothing was tried since.
	Undone dossier.ID[dossier.Attempt]
}

// Statuses returns where every planned test stands, in the order of the plan.
func Statuses(p *Plan, against Against) []TestStatus {
	byTest := make([][]*dossier.Attempt, len(p.Tests)) // by the place of the test in the plan
	for i := range p.view.Attempts {
		a := &p.view.Attempts[i]
		if n, planned := p.byID[TestID(a.Test, a.Subjects)]; planned {
			byTest[n] = append(byTest[n], a)
		}
	}
	for _, list := range byTest {
		if len(list) < 2 {
			continue
		}
		slices.SortStableFunc(list, func(a, b *dossier.Attempt) int {
			return cmp.Or(b.At.Compare(a.At), strings.Compare(string(b.ID), string(a.ID)))
		})
	}
	waived := map[string]bool{}
	for _, e := range p.view.Waivers {
		waived[TestID(e.Test, e.Subjects)] = true
	}
	out := make([]TestStatus, len(p.Tests))
	for i, t := range p.Tests {
		out[i] = stand(t, byTest[i])
		if list := byTest[i]; len(list) > 0 && list[0].Outcome == dossier.Impossible && list[0].How == dossier.ByMachine {
			out[i].Undone = list[0].ID
		}
	}
	p.witness(out)
	for i := range out {
		if out[i].Status == Stale {
			out[i].Changes = p.gathered(&out[i].Test, out[i].Changes)
		}
	}
	p.doubt(out, against)
	for i := range out {
		if out[i].Status != Proven && waived[out[i].Test.id] {
			out[i].Status = Waived
		}
	}
	return out
}

// stand decides by the newest attempt whose facts still hold. Where none holds, a pass makes the
// test stale and a failure leaves it untried: what failed on other facts says nothing of these.
// An attempt that was impossible decides nothing.
func stand(t Test, newestFirst []*dossier.Attempt) TestStatus {
	out := TestStatus{Test: t, Status: Untried}
	seen := false
	for _, a := range newestFirst {
		if a.Outcome == dossier.Impossible {
			continue
		}
		// Facts are kept in one order, so that those that hold are equal as they stand.
		if a.Version == Version && t.on.holds(a.Facts) {
			return TestStatus{Test: t, Status: statusOf(a.Outcome), Attempt: a.ID, At: a.At, AsOf: a.AsOf}
		}
		changes := differences(known(a.Facts), t.against(a))
		if len(changes) == 0 {
			return TestStatus{Test: t, Status: statusOf(a.Outcome), Attempt: a.ID, At: a.At, AsOf: a.AsOf}
		}
		if !seen && a.Outcome != dossier.Fail {
			out = TestStatus{Test: t, Status: Stale, Attempt: a.ID, At: a.At, AsOf: a.AsOf, Changes: changes}
		}
		seen = true
	}
	return out
}

// against returns the facts that hold now, of those that were known to Kaiku when the attempt was
// made. An attempt from before facts had a version is held against what it took down itself.
func (t Test) against(a *dossier.Attempt) []dossier.Fact {
	var out []dossier.Fact
	t.on.each(func(f fact) bool {
		taken := a.Version > 0 && f.since <= a.Version
		if a.Version == 0 {
			taken = slices.ContainsFunc(a.Facts, func(then dossier.Fact) bool { return then.Subject == f.Subject && then.Name == f.Name })
		}
		if taken {
			out = append(out, f.Fact)
		}
		return true
	})
	return out
}

// known leaves out facts of names that no longer decide anything.
func known(facts []dossier.Fact) []dossier.Fact {
	return slices.DeleteFunc(slices.Clone(facts), func(f dossier.Fact) bool {
		r, declared := relevance[f.Subject.Kind][f.Name]
		return f.Value == "" || f.Name != "signal" && (!declared || len(r.by) == 0)
	})
}

func statusOf(o dossier.Outcome) Status {
	switch o {
	case dossier.Pass:
		return Proven
	case dossier.Marginal:
		return Marginal
	case dossier.Fail:
		return Failed
	}
	return Untried
}

func differences(then, now []dossier.Fact) []FactChange {
	type key struct {
		subject dossier.Ref
		name    string
	}
	was := map[key]string{}
	for _, f := range then {
		was[key{f.Subject, f.Name}] = f.Value
	}
	var out []FactChange
	for _, f := range now {
		k := key{f.Subject, f.Name}
		if old, ok := was[k]; !ok || old != f.Value {
			out = append(out, FactChange{f.Subject, f.Name, old, f.Value})
		}
		delete(was, k)
	}
	for _, f := range then {
		if _, left := was[key{f.Subject, f.Name}]; left {
			out = append(out, FactChange{f.Subject, f.Name, f.Value, ""})
		}
	}
	return out
}

// gathered makes one of the changes of a record that plays no part any longer: that it left is what
// changed, and not each of its values.
func (p *Plan) gathered(t *Test, changes []FactChange) []FactChange {
	involved := p.involvedIn(t)
	var out []FactChange
	for _, c := range changes {
		whole := c.To == "" && !involved[c.Subject] && c.Name != "signal"
		if whole && len(out) > 0 && out[len(out)-1].Subject == c.Subject {
			continue
		}
		if whole {
			c = FactChange{Subject: c.Subject}
		}
		out = append(out, c)
	}
	return out
}

// Coverage counts the required tests of a home by where they stand. A needed wish that no path
// serves counts as required and not proven.
type Coverage struct {
	Required  int `json:"required"`
	Proven    int `json:"proven"`
	Marginal  int `json:"marginal"`
	Failed    int `json:"failed"`
	InDoubt   int `json:"inDoubt"`
	Stale     int `json:"stale"`
	Untried   int `json:"untried"`
	Waived    int `json:"waived"`
	NotServed int `json:"notServed"`
}

// Cover counts the statuses of required tests, and the needed wishes without a path.
func Cover(statuses []TestStatus, wishes []WishStatus) Coverage {
	var c Coverage
	count := map[Status]*int{Proven: &c.Proven, Marginal: &c.Marginal, Failed: &c.Failed, InDoubt: &c.InDoubt, Stale: &c.Stale, Untried: &c.Untried, Waived: &c.Waived}
	for _, s := range statuses {
		if s.Test.Required {
			c.Required++
			*count[s.Status]++
		}
	}
	for _, w := range wishes {
		if w.Needed {
			c.NotServed += len(w.Missing())
		}
	}
	c.Required += c.NotServed
	return c
}
