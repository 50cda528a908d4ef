// Package custody computes what one technician must tell the next: the digest of what changed,
// the points to read back, and the gates that hold an unfinished handover.
package custody

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
)

// NetChange is what became of one record between two revisions, each member once: a value that
// changed twice shows its first and last state, one that changed back not at all.
type NetChange struct {
	Subject dossier.Ref
	Label   string
	Act     dossier.Act
	Members []string // JSON pointers that differ, sorted
	Before  map[string]json.RawMessage
	After   map[string]json.RawMessage
}

// NetChanges folds journal entries into one change for each record, in the order of the kinds,
// then of acts and ids. After is the dossier as it is once the entries are applied.
func NetChanges(before, after *dossier.Dossier, entries []dossier.Entry) []NetChange {
	changes := map[dossier.Ref]*NetChange{}
	for _, e := range entries {
		c := changes[e.Subject]
		if c == nil {
			c = &NetChange{Subject: e.Subject, Before: map[string]json.RawMessage{}, After: map[string]json.RawMessage{}}
			changes[e.Subject] = c
		}
		c.fold(e)
	}
	var out []NetChange
	for _, c := range changes {
		had, has := before.Has(c.Subject), after.Has(c.Subject)
		switch {
		case !had && !has:
			continue
		case !had:
			c.Act, c.Label = dossier.Added, after.FullLabel(c.Subject)
		case !has:
			c.Act, c.Label = dossier.Removed, before.FullLabel(c.Subject)
		default:
			c.Act, c.Label = dossier.Changed, after.FullLabel(c.Subject)
		}
		if c.settle(); len(c.Members) > 0 {
			out = append(out, *c)
		}
	}
	slices.SortFunc(out, func(a, b NetChange) int {
		return cmp.Or(cmp.Compare(rank(a.Subject.Kind), rank(b.Subject.Kind)), strings.Compare(string(a.Act), string(b.Act)), strings.Compare(a.Subject.ID, b.Subject.ID))
	})
	return out
}

func (c *NetChange) fold(e dossier.Entry) {
	for p, v := range e.Before {
		if _, again := c.After[p]; again {
			delete(c.After, p)
		} else if _, known := c.Before[p]; !known {
			c.Before[p] = v
		}
	}
	for p, v := range e.After {
		c.After[p] = v
	}
}

func (c *NetChange) settle() {
	for p, v := range c.Before {
		if w, ok := c.After[p]; ok && bytes.Equal(v, w) {
			delete(c.Before, p)
			delete(c.After, p)
		}
	}
	for p := range c.Before {
		c.Members = append(c.Members, p)
	}
	for p := range c.After {
		if _, both := c.Before[p]; !both {
			c.Members = append(c.Members, p)
		}
	}
	slices.Sort(c.Members)
}

func rank(kind string) int {
	return slices.IndexFunc(dossier.Kinds, func(k *dossier.Kind) bool { return k.Name == kind })
}

// Points returns what the receiver reads back: issues first, then wishes that nothing serves, tests
// that are not proof or became so, findings that are there or have gone, then the net changes of the
// records, what is not to be touched, and where credentials are.
func Points(before, after State, entries []dossier.Entry) []dossier.Point {
	var out []dossier.Point
	out = append(out, issuePoints(before.Dossier, after.Dossier)...)
	out = append(out, wishPoints(after)...)
	out = append(out, testPoints(before, after)...)
	out = append(out, findingPoints(before, after)...)
	out = append(out, changePoints(after.Dossier, NetChanges(before.Dossier, after.Dossier, entries))...)
	out = append(out, keepPoints(after.Dossier)...)
	out = append(out, bringPoint(after)...)
	for i := range out {
		out[i].ID = fmt.Sprintf("p%03d", i+1)
	}
	return out
}

func issuePoints(before, after *dossier.Dossier) []dossier.Point {
	var out []dossier.Point
	for _, i := range after.Issues {
		was, known := before.Issues.Get(i.ID)
		p := dossier.Point{Code: "issue-open", Subject: i.ID.Ref(), Values: map[string]string{
			"symptom": i.Symptom, "state": string(i.State), "nextStep": i.NextStep, "waitingOn": i.WaitingOn, "promise": i.Promise}}
		if !i.PromisedUntil.IsZero() {
			p.Values["promisedUntil"] = i.PromisedUntil.UTC().Format(time.RFC3339)
		}
		if i.State == dossier.IssueClosed {
			if known && was.State == dossier.IssueClosed {
				continue
			}
			p.Code = "issue-closed"
			p.Values = map[string]string{"symptom": i.Symptom, "cause": i.Cause, "remedy": i.Remedy, "closedWhy": i.ClosedWhy}
			if whole, ok := after.Issues.Get(i.SameAs); ok {
				p.Values["sameAs"] = whole.Symptom
			}
			if proof, ok := after.Attempts.Get(i.Proof); ok {
				p.Values["test"] = proof.Test
			}
		}
		out = append(out, p)
	}
	return out
}

func wishPoints(after State) []dossier.Point {
	var out []dossier.Point
	for _, w := range after.Wishes {
		for _, at := range w.Missing() {
			if w.Needed {
				values := map[string]string{}
				for list := wishValues(after.Dossier, w, at); len(list) > 0; list = list[2:] {
					values[list[0]] = list[1]
				}
				out = append(out, dossier.Point{Code: "wish-not-served", Subject: w.Wish.Ref(), Values: values})
			}
		}
	}
	return out
}

// testPoints tells, path by path, which tests are not proof now and which have become so, or are
// proven again after something they stand on changed; those of one path with the same status are one
// point.
func testPoints(before, after State) []dossier.Point {
	was := map[string]proving.TestStatus{}
	for _, s := range before.Statuses {
		was[s.Test.ID()] = s
	}
	var out []dossier.Point
	for _, s := range after.Statuses {
		old := was[s.Test.ID()]
		if s.Status == proving.Proven && old.Status == proving.Proven && old.Attempt == s.Attempt || s.Status == proving.Untried && !s.Test.Required {
			continue
		}
		p := dossier.Point{Code: "test-" + string(s.Status), Subject: s.Test.Path.Ref()}
		if s.Status == proving.Proven && old.Attempt != "" {
			p.Code = "test-proven-again"
		}
		i := slices.IndexFunc(out, func(o dossier.Point) bool { return o.Code == p.Code && o.Subject == p.Subject })
		if i >= 0 {
			out[i].Values["test"] += ", " + s.Test.Kind.Name
			continue
		}
		p.Values = map[string]string{"test": s.Test.Kind.Name, "path": after.FullLabel(p.Subject)}
		out = append(out, p)
	}
	return out
}

// findingPoints tells what is found now, and what was found before and is gone.
func findingPoints(before, after State) []dossier.Point {
	var out []dossier.Point
	tell := func(code string, f network.Finding) {
		out = append(out, dossier.Point{Code: code, Subject: f.Subjects[0], Values: map[string]string{"finding": f.Code}, Found: f.Values})
	}
	for _, f := range after.Findings {
		if f.Severity == network.Advice && f.Among(before.Findings) {
			continue // an advice that was told once is not told again
		}
		tell("finding", f)
	}
	for _, f := range before.Findings {
		if !f.Among(after.Findings) {
			tell("finding-gone", f)
		}
	}
	return out
}

// bringPoint tells what the next visit must bring or have ready.
func bringPoint(after State) []dossier.Point {
	var items []string
	for _, s := range after.Kit {
		if !s.Ready {
			items = append(items, s.Item)
		}
	}
	if len(items) == 0 {
		return nil
	}
	return []dossier.Point{{Code: "bring", Values: map[string]string{"items": strings.Join(items, ", ")}}}
}

// keepPoints tells what is not to be touched and why, and where the credentials are.
func keepPoints(after *dossier.Dossier) []dossier.Point {
	var out []dossier.Point
	for _, v := range after.Devices {
		if v.Handling != "" {
			out = append(out, dossier.Point{Code: "hands-off", Subject: v.ID.Ref(), Values: map[string]string{"device": v.Name, "why": v.Handling}})
		}
	}
	var kept, missing []string
	for _, s := range after.Secrets {
		kept = append(kept, s.Name)
	}
	for _, a := range after.Accounts {
		if a.Secret == "" {
			missing = append(missing, a.Name)
		}
	}
	if len(kept)+len(missing) > 0 {
		out = append(out, dossier.Point{Code: "credentials", Values: map[string]string{"kept": strings.Join(kept, ", "), "missing": strings.Join(missing, ", ")}})
	}
	return out
}

// changePoints reports on the records. What was added of one kind is one point: thirty points that
// say "recorded" would not be read.
func changePoints(after *dossier.Dossier, changes []NetChange) []dossier.Point {
	var out []dossier.Point
	for _, c := range changes {
		p, told := changePoint(after, c)
		if !told {
			continue
		}
		if n := len(out); n > 0 && p.Code == "record-added" && out[n-1].Code == p.Code && out[n-1].Values["kind"] == p.Values["kind"] {
			out[n-1].Values["label"] += ", " + p.Values["label"]
			out[n-1].Subject = dossier.Ref{}
			continue
		}
		out = append(out, p)
	}
	return additionsByArea(out)
}

// mostAdded is how many kinds may be told by themselves as having been added to.
const mostAdded = 3

// additionsByArea makes one point of what was added in each area of the work, where there is much
// of it, as at a first handover: thirty points that say "recorded" are confirmed unread.
func additionsByArea(points []dossier.Point) []dossier.Point {
	n := 0
	for _, p := range points {
		if p.Code == "record-added" {
			n++
		}
	}
	if n <= mostAdded {
		return points
	}
	var out []dossier.Point
	for _, area := range append(slices.Clone(dossier.Areas), "") {
		var list []string
		for _, p := range points {
			if p.Code == "record-added" && dossier.KindNamed(p.Values["kind"]).Area() == area {
				list = append(list, dossier.KindNamed(p.Values["kind"]).Noun()+" "+p.Values["label"])
			}
		}
		if len(list) > 0 {
			out = append(out, dossier.Point{Code: "records-added", Values: map[string]string{"area": area, "list": strings.Join(list, "; ")}})
		}
	}
	for _, p := range points {
		if p.Code != "record-added" {
			out = append(out, p)
		}
	}
	return out
}

// changePoint reports on a record. Attempts and handovers show as tests and as the handover
// itself, issues have points of their own.
func changePoint(after *dossier.Dossier, c NetChange) (dossier.Point, bool) {
	switch c.Subject.Kind {
	case "attempt", "handover", "issue", "waiver":
		return dossier.Point{}, false
	}
	p := dossier.Point{Code: "record-" + string(c.Act), Subject: c.Subject,
		Values: map[string]string{"kind": c.Subject.Kind, "label": c.Label}}
	if c.Act == dossier.Changed {
		var parts []string
		for _, m := range c.Members {
			if personal(c.Subject.Kind, m) {
				parts = append(parts, m[1:]) // what it is can be erased, a point cannot
				continue
			}
			if is, told := short(after, c.After[m]); told {
				was, _ := short(after, c.Before[m])
				parts = append(parts, fmt.Sprintf("%s from %s to %s", m[1:], was, is))
			}
		}
		if p.Values["members"] = strings.Join(parts, "; "); len(parts) == 0 {
			return dossier.Point{}, false
		}
	}
	return p, true
}

// personal reports whether the member at that pointer can be erased on request.
func personal(kind, pointer string) bool {
	f, _ := dossier.KindNamed(kind).Field(strings.SplitN(pointer[1:], "/", 2)[0])
	return f.Personal
}

// short writes a JSON value for people: an id by what people call the record. An id of something
// outside the dossier, such as a sealed body, tells nothing.
func short(d *dossier.Dossier, v json.RawMessage) (text string, told bool) {
	if len(v) == 0 {
		return "nothing", true
	}
	if json.Unmarshal(v, &text) == nil {
		if len(text) != 36 || strings.Count(text, "-") != 4 {
			return text, true
		}
		if ref, ok := d.RefOf(text); ok {
			return d.FullLabel(ref), true
		}
		return "something else", false
	}
	return strings.NewReplacer(`"`, "", "[", "", "]", "", ",", ", ").Replace(string(v)), true
}

// Gate is a condition that must hold before a handover is offered.
type Gate struct {
	Code    string      `json:"code"`
	Subject dossier.Ref `json:"subject"`
	Label   string      `json:"label"`
}

// Gates returns what still holds the handover back: an issue in hand without a next step, which
// the receiver could not go on with, and a change that owes something without a note on it.
func Gates(d *dossier.Dossier) []Gate {
	var out []Gate
	for _, i := range d.Issues {
		if i.State == dossier.IssueInHand && i.NextStep == "" {
			out = append(out, Gate{"issue-without-next-step", i.ID.Ref(), i.Symptom})
		}
	}
	for _, c := range d.Changes {
		if len(c.Outstanding()) > 0 && c.Note == "" {
			out = append(out, Gate{"follow-up-open", c.ID.Ref(), c.What})
		}
	}
	return out
}

// Outdate marks every handover on offer as outdated when next differs from old in any other
// record: what was offered is no longer what is handed over.
func Outdate(old, next *dossier.Dossier, now func(*dossier.Handover)) {
	changed := dossier.Touched(old, next)
	for i := range next.Handovers {
		h := &next.Handovers[i]
		was, _ := old.Handovers.Get(h.ID)
		if h.State != dossier.Offered || was.State != dossier.Offered {
			continue
		}
		if slices.ContainsFunc(changed, func(r dossier.Ref) bool { return r != h.ID.Ref() }) {
			h.State = dossier.Outdated
			now(h)
		}
	}
}

// WasOutdated reports whether the entry says that a handover on offer was outdated. It is a
// consequence of the other changes in the same write; no one does it by hand.
func WasOutdated(e dossier.Entry) bool {
	var state dossier.HandoverState
	return e.Subject.Kind == "handover" && json.Unmarshal(e.After["/state"], &state) == nil && state == dossier.Outdated
}

// OnOffer reports whether a handover of the home waits for its receiver.
func OnOffer(d *dossier.Dossier) bool {
	return slices.ContainsFunc(d.Handovers, func(h dossier.Handover) bool { return h.State == dossier.Offered })
}

// Latest returns the home's newest handover: ids are made in the order of time.
func Latest(d *dossier.Dossier) (dossier.Handover, bool) {
	if len(d.Handovers) == 0 {
		return dossier.Handover{}, false
	}
	return d.Handovers[len(d.Handovers)-1], true
}

// Visiting reports whether the person has a visit to the home on the day of now, the day before or
// the day after, in now's time zone. A visit that was called off gives nothing.
func Visiting(d *dossier.Dossier, person dossier.PersonID, now time.Time) bool {
	y, m, day := now.Date()
	from, until := time.Date(y, m, day-1, 0, 0, 0, 0, now.Location()), time.Date(y, m, day+2, 0, 0, 0, 0, now.Location())
	return slices.ContainsFunc(d.Visits, func(v dossier.Visit) bool {
		return v.Technician == person && !v.Cancelled && !v.Starts.Before(from) && v.Starts.Before(until)
	})
}
