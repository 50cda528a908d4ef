package proving

import (
	"slices"
	"time"

	"kaiku/core/dossier"
)

// Status is where a test stands now.
type Status string

// States of a test. Stale was proven once, on facts that have changed since.
const (
	Untried  Status = "untried"
	Waived   Status = "waived" // waived by a lead technician, and not proven
	Proven   Status = "proven"
	Marginal Status = "marginal"
	Failed   Status = "failed"
	Stale    Status = "stale"
)

// Values lists all states, those that ask for work first.
func (Status) Values() []string {
	return []string{string(Failed), string(Stale), string(Untried), string(Marginal), string(Waived), string(Proven)}
}

// FactChange is one fact that differs between a proof and now.
type FactChange struct {
	Subject dossier.Ref `json:"subject"`
	Name    string      `json:"name"`
	From    string      `json:"from"`
	To      string      `json:"to"`
}

// TestStatus is where one test stands. Attempt is the one that decides, and Changes tell, for a
// stale test, which of its facts differ now. At is when the deciding attempt was made.
type TestStatus struct {
	Test    Test
	Status  Status
	Attempt dossier.ID[dossier.Attempt]
	At      time.Time
	Changes []FactChange
}

// Statuses returns where every planned test stands, in the order of the plan.
func Statuses(d *dossier.Dossier) []TestStatus {
	byTest := map[string][]*dossier.Attempt{}
	for i := range d.Attempts {
		a := &d.Attempts[i]
		id := TestID(a.Test, a.Subjects)
		byTest[id] = append(byTest[id], a)
	}
	aside := map[string]bool{}
	for _, e := range d.Waivers {
		aside[TestID(e.Test, e.Subjects)] = true
	}
	plan := Plan(d)
	out := make([]TestStatus, len(plan))
	for i, t := range plan {
		out[i] = stand(t, byTest[t.ID()])
		if out[i].Status != Proven && aside[t.ID()] {
			out[i].Status = Waived
		}
	}
	return out
}

// stand decides by the newest attempt whose facts still hold. Where none holds, a pass makes the
// test stale and a failure leaves it untried: what failed on other facts says nothing of these.
// An attempt that was impossible decides nothing.
func stand(t Test, attempts []*dossier.Attempt) TestStatus {
	slices.SortStableFunc(attempts, func(a, b *dossier.Attempt) int { return b.At.Compare(a.At) })
	newest := TestStatus{Test: t, Status: Untried}
	seen := false
	for _, a := range attempts {
		if a.Outcome == dossier.Impossible {
			continue
		}
		// Facts are kept in one order, so that those that hold are equal as they stand.
		if slices.Equal(a.Facts, t.Facts) {
			return TestStatus{Test: t, Status: statusOf(a.Outcome), Attempt: a.ID, At: a.At}
		}
		if !seen && a.Outcome != dossier.Fail {
			newest = TestStatus{Test: t, Status: Stale, Attempt: a.ID, At: a.At, Changes: differences(a.Facts, t.Facts)}
		}
		seen = true
	}
	return newest
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

// Coverage counts the required tests of a home by where they stand.
type Coverage struct {
	Required int `json:"required"`
	Proven   int `json:"proven"`
	Marginal int `json:"marginal"`
	Failed   int `json:"failed"`
	Stale    int `json:"stale"`
	Untried  int `json:"untried"`
	Waived   int `json:"waived"`
}

// Cover counts the statuses of required tests.
func Cover(statuses []TestStatus) Coverage {
	var c Coverage
	count := map[Status]*int{Proven: &c.Proven, Marginal: &c.Marginal, Failed: &c.Failed, Stale: &c.Stale, Untried: &c.Untried, Waived: &c.Waived}
	for _, s := range statuses {
		if s.Test.Required {
			c.Required++
			*count[s.Status]++
		}
	}
	return c
}
