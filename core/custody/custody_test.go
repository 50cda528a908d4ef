package custody_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
	"kaiku/homes"
)

// write seals one change and returns what follows.
func write(t require.TestingT, d *dossier.Dossier, change func(*dossier.Dossier)) (*dossier.Dossier, []dossier.Entry) {
	next := d.Clone()
	change(next)
	entries, err := dossier.Seal(d, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	return next, entries
}

func TestNetChanges(t *testing.T) {
	start := homes.Small()
	for _, c := range []struct {
		name   string
		writes []func(*dossier.Dossier)
		check  func(*testing.T, []custody.NetChange)
	}{
		{"a value changed twice shows once", []func(*dossier.Dossier){
			func(d *dossier.Dossier) { d.Devices[0].Firmware = "7" }, func(d *dossier.Dossier) { d.Devices[0].Firmware = "8" },
		}, func(t *testing.T, c []custody.NetChange) {
			require.Len(t, c, 1)
			assert.Equal(t, []string{"/firmware"}, c[0].Members)
			assert.JSONEq(t, `"8"`, string(c[0].After["/firmware"]))
			assert.Equal(t, dossier.Changed, c[0].Act)
		}},
		{"a value changed back shows not at all", []func(*dossier.Dossier){
			func(d *dossier.Dossier) { d.Rooms[0].Note = "wet" }, func(d *dossier.Dossier) { d.Rooms[0].Note = "" },
		}, func(t *testing.T, c []custody.NetChange) { assert.Empty(t, c) }},
		{"a changed and restored word shows not at all", []func(*dossier.Dossier){
			func(d *dossier.Dossier) { d.Rooms[0].Name = "vault" }, func(d *dossier.Dossier) { d.Rooms[0].Name = "cellar" },
		}, func(t *testing.T, c []custody.NetChange) { assert.Empty(t, c) }},
		{"what came and went shows not at all", []func(*dossier.Dossier){
			func(d *dossier.Dossier) {
				r := dossier.Room{Name: "pantry"}
				r.ID = homes.RoomID(40)
				d.Rooms.Put(r)
			}, func(d *dossier.Dossier) { d.Rooms.Delete(homes.RoomID(40)) },
		}, func(t *testing.T, c []custody.NetChange) { assert.Empty(t, c) }},
		{"what is gone is called by its old name", []func(*dossier.Dossier){
			func(d *dossier.Dossier) { d.Devices[0].Room = ""; d.Rooms.Delete(d.Rooms[0].ID) },
		}, func(t *testing.T, c []custody.NetChange) {
			require.Len(t, c, 2)
			assert.Equal(t, dossier.Removed, c[0].Act)
			assert.Equal(t, "cellar", c[0].Label)
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d, all := start, []dossier.Entry{}
			for _, w := range c.writes {
				next, entries := write(t, d, w)
				d, all = next, append(all, entries...)
			}
			c.check(t, custody.NetChanges(start, d, all))
		})
	}
}

// Whatever the writes: a net change is there exactly when the record differs.
func TestNetChangesAreTheDifference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		start := homes.Draw(t)
		d, all := start, []dossier.Entry{}
		for range rapid.IntRange(1, 8).Draw(t, "writes") {
			next, entries := write(t, d, func(d *dossier.Dossier) { homes.Edit(t, d) })
			d, all = next, append(all, entries...)
		}
		var told []dossier.Ref
		for _, c := range custody.NetChanges(start, d, all) {
			told = append(told, c.Subject)
		}
		var differ []dossier.Ref
		for _, r := range dossier.Touched(start, d) {
			k := dossier.KindNamed(r.Kind)
			was, had := k.In(start).Lookup(r.ID)
			is, has := k.In(d).Lookup(r.ID)
			// A record that was changed and changed back has a newer revision, and no net change.
			if had && has && sameButRevision(k, was, is) {
				continue
			}
			differ = append(differ, r)
		}
		assert.ElementsMatch(t, differ, told)
	})
}

func sameButRevision(k *dossier.Kind, a, b dossier.Record) bool {
	for _, f := range k.Fields {
		if f.Name != "revision" && !assert.ObjectsAreEqual(f.Get(a), f.Get(b)) {
			return false
		}
	}
	return true
}

func state(d *dossier.Dossier) custody.State {
	return assess.Assess(d, knowledge.Knowledge{}, homes.Day).State
}

func TestPointsTellIssuesTestsFindingsAndChanges(t *testing.T) {
	before := &dossier.Dossier{}
	after := homes.Small().Clone()
	i := dossier.Issue{Symptom: "stutters", State: dossier.IssueInHand, OpenedBy: homes.Person, OpenedAt: homes.Day}
	i.ID = homes.ID[dossier.Issue](1)
	after.Issues.Put(i)
	after.Interfaces[1].Addresses = after.Interfaces[0].Addresses
	entries, err := dossier.Seal(before, after, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	points := custody.Points(state(before), state(after), entries)
	var codes []string
	for n, p := range points {
		codes = append(codes, p.Code)
		assert.Regexp(t, `^p\d{3}$`, p.ID)
		if n > 0 {
			assert.Greater(t, p.ID, points[n-1].ID)
		}
	}
	assert.Equal(t, []string{"issue-open", "test-untried", "finding", "records-added", "records-added", "records-added", "records-added", "bring"}, codes,
		"one point for the tests of a path that stand alike, one for the records added in each area of the work")
	assert.Equal(t, "reach, found, opens, plays", points[1].Values["test"])
	assert.Equal(t, "room cellar, lamp room; segment home, guest", points[4].Values["list"])
	assert.Contains(t, points[5].Values["list"], "network adapter granite server wired, lamp screen wired")

	room := dossier.Room{Name: "attic"}
	room.ID = homes.RoomID(30)
	later := after.Clone()
	later.Rooms.Put(room)
	entries, err = dossier.Seal(after, later, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	points = custody.Points(state(after), state(later), entries)
	assert.Equal(t, "record-added", points[len(points)-2].Code, "a little is told by itself")
	assert.Equal(t, "attic", points[len(points)-2].Values["label"])
}

func TestClosedIssuesAreToldOnce(t *testing.T) {
	before := homes.Small().Clone()
	i := dossier.Issue{Symptom: "stutters", State: dossier.IssueClosed, Remedy: "cable", OpenedBy: homes.Person, OpenedAt: homes.Day}
	i.ID = homes.ID[dossier.Issue](1)
	after := before.Clone()
	after.Issues.Put(i)
	assert.Equal(t, "issue-closed", custody.Points(state(before), state(after), nil)[0].Code)
	assert.NotEqual(t, "issue-closed", custody.Points(state(after), state(after), nil)[0].Code)

	other := i
	other.ID, other.Symptom, other.SameAs, other.Remedy = homes.ID[dossier.Issue](2), "no sound", i.ID, ""
	joined := after.Clone()
	joined.Issues.Put(other)
	point := custody.Points(state(after), state(joined), nil)[0]
	assert.Equal(t, []string{"no sound", "stutters"}, []string{point.Values["symptom"], point.Values["sameAs"]}, "it is told with what it was joined to")
}

func TestGateHoldsAnIssueInHandWithoutNextStep(t *testing.T) {
	d := homes.Small().Clone()
	i := dossier.Issue{Symptom: "stutters", State: dossier.IssueInHand}
	i.ID = homes.ID[dossier.Issue](1)
	d.Issues.Put(i)
	require.Len(t, custody.Gates(d), 1)
	assert.Equal(t, i.ID.Ref(), custody.Gates(d)[0].Subject)
	d.Issues[0].NextStep = "measure"
	assert.Empty(t, custody.Gates(d))
	d.Issues[0].NextStep, d.Issues[0].State = "", dossier.IssueWaiting
	assert.Empty(t, custody.Gates(d))
}

func TestAnOfferIsOutdatedByAnyOtherChange(t *testing.T) {
	offered := homes.Small().Clone()
	h := dossier.Handover{From: homes.Person, To: "other", State: dossier.Offered, Points: []dossier.Point{{ID: "p001"}}}
	h.ID = homes.ID[dossier.Handover](1)
	offered.Handovers.Put(h)
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		want   dossier.HandoverState
	}{
		{"a point read back", func(d *dossier.Dossier) { d.Handovers[0].Points[0].Confirmed = true }, dossier.Offered},
		{"a room renamed", func(d *dossier.Dossier) { d.Rooms[0].Name = "vault" }, dossier.Outdated},
		{"accepted, with custody", func(d *dossier.Dossier) {
			d.Handovers[0].State = dossier.Accepted
			d.Household[0].Custodian = "other"
		}, dossier.Accepted},
		{"nothing", func(*dossier.Dossier) {}, dossier.Offered},
	} {
		t.Run(c.name, func(t *testing.T) {
			next := offered.Clone()
			c.change(next)
			told := 0
			custody.Outdate(offered, next, func(*dossier.Handover) { told++ })
			assert.Equal(t, c.want, next.Handovers[0].State)
			assert.Equal(t, c.want == dossier.Outdated, told == 1)
		})
	}
	_, ok := custody.Latest(homes.Small())
	assert.False(t, ok)
	latest, ok := custody.Latest(offered)
	assert.True(t, ok)
	assert.Equal(t, h.ID, latest.ID)
}

// A visit gives rights on its day, the day before and the day after, by the calendar of whoever asks.
func TestAVisitGivesRightsForThreeDays(t *testing.T) {
	east := time.FixedZone("east", 3*3600)
	noon := time.Date(2026, 3, 10, 12, 0, 0, 0, east)
	for _, c := range []struct {
		name   string
		starts time.Time
		change func(*dossier.Visit)
		want   bool
	}{
		{"today", noon, nil, true},
		{"in the last minute of tomorrow", time.Date(2026, 3, 11, 23, 59, 0, 0, east), nil, true},
		{"the day after tomorrow", time.Date(2026, 3, 12, 0, 0, 0, 0, east), nil, false},
		{"in the first minute of yesterday", time.Date(2026, 3, 9, 0, 0, 0, 0, east), nil, true},
		{"the day before yesterday", time.Date(2026, 3, 8, 23, 59, 0, 0, east), nil, false},
		{"yesterday here, the day before elsewhere", time.Date(2026, 3, 8, 21, 30, 0, 0, time.UTC), nil, true},
		{"called off", noon, func(v *dossier.Visit) { v.Cancelled = true }, false},
		{"of someone else", noon, func(v *dossier.Visit) { v.Technician = "other" }, false},
	} {
		d := homes.Small().Clone()
		v := dossier.Visit{Purpose: "look", Technician: homes.Person, Starts: c.starts}
		if c.change != nil {
			c.change(&v)
		}
		homes.PutIn(d, 1, v)
		assert.Equal(t, c.want, custody.Visiting(d, homes.Person, noon), c.name)
	}
	assert.False(t, custody.Visiting(homes.Small(), homes.Person, noon))
}

func TestGateHoldsAChangeThatOwesSomething(t *testing.T) {
	d := homes.Small().Clone()
	homes.PutIn(d, 1, dossier.Change{Device: d.Devices[0].ID, What: "new disk", FollowUps: []dossier.FollowUp{dossier.FollowUpRestart, dossier.FollowUpIndex}, Done: []dossier.FollowUp{dossier.FollowUpIndex}})
	require.Equal(t, []custody.Gate{{Code: "follow-up-open", Subject: d.Changes[0].ID.Ref(), Label: "new disk"}}, custody.Gates(d))
	d.Changes[0].Note = "the customer restarts it tonight"
	assert.Empty(t, custody.Gates(d), "a word on it is enough")
	d.Changes[0].Note, d.Changes[0].Done = "", d.Changes[0].FollowUps
	assert.Empty(t, custody.Gates(d))
}

// What can be erased is named in a handover's points and never told: points stay.
func TestPointsTellNothingPersonal(t *testing.T) {
	before := homes.Small().Clone()
	homes.PutIn(before, 1, dossier.Restriction{Name: "evenings", Person: "Little Bo", From: "20:00", Until: "07:00"})
	after := before.Clone()
	after.Household[0].Contacts = []dossier.Contact{{Name: "Someone New", Phone: "555-0177"}}
	after.Household[0].AccessNotes, after.Household[0].Address = "key under the anchor", "Mill Street 9"
	after.Restrictions[0].Person = "Big Bo"
	after.Household[0].Name = "Mill Nine"
	entries, err := dossier.Seal(before, after, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	text := fmt.Sprint(custody.Points(state(before), state(after), entries))
	for _, one := range []string{"Someone New", "555-0177", "555-0101", "Keeper ", "anchor", "Mill Street", "Bo"} {
		assert.NotContains(t, text, one)
	}
	assert.Contains(t, text, "accessNotes", "that it changed is told")
	assert.Contains(t, text, "name from Keeper's Test to Mill Nine", "what is not personal is told in full")
}

// An offer made anew in the same write as other changes is of that state: it is not outdated by them.
func TestAFreshOfferIsNotOutdated(t *testing.T) {
	old := homes.Small().Clone()
	homes.PutIn(old, 1, dossier.Handover{From: homes.Person, To: "other", State: dossier.Returned})
	next := old.Clone()
	next.Handovers[0].State = dossier.Offered
	next.Rooms[0].Name = "vault"
	custody.Outdate(old, next, func(*dossier.Handover) { t.Error("it was made now") })
	assert.Equal(t, dossier.Offered, next.Handovers[0].State)
	homes.PutIn(next, 2, dossier.Handover{From: homes.Person, To: "other", State: dossier.Offered})
	custody.Outdate(old, next, func(*dossier.Handover) { t.Error("it was made now") })
}

// codesOf lists the points of some codes with the test or the list they tell.
func pointsOf(points []dossier.Point, value string, codes ...string) map[string][]string {
	out := map[string][]string{}
	for _, p := range points {
		if slices.Contains(codes, p.Code) {
			out[p.Code] = append(out[p.Code], p.Values[value])
		}
	}
	return out
}

// A test is told when its status is not proof, and when it has become so; one that was proven and still is, is not.
func TestPointsOfTestsTellWhatBecame(t *testing.T) {
	prove := func(d *dossier.Dossier, n int, kinds ...string) {
		for _, one := range proving.NewPlan(d.Index()).Tests {
			if slices.Contains(kinds, one.Kind.Name) {
				a := dossier.Attempt{Test: one.Kind.Name, Subjects: one.Subjects, Outcome: dossier.Pass, At: homes.Day.Add(time.Duration(n) * time.Hour), Facts: one.Facts(), Version: proving.Version}
				homes.PutIn(d, n*100+len(d.Attempts), a)
			}
		}
	}
	first := homes.Small().Clone()
	prove(first, 1, "reach", "found")
	stale := first.Clone()
	stale.Sources[0].Port = 40999
	again := stale.Clone()
	prove(again, 2, "reach")
	told := func(before, after *dossier.Dossier) map[string][]string {
		return pointsOf(custody.Points(state(before), state(after), nil), "test", "test-proven", "test-proven-again", "test-stale", "test-untried")
	}
	assert.Equal(t, map[string][]string{"test-proven": {"reach, found"}, "test-untried": {"opens, plays"}}, told(homes.Small(), first))
	assert.Equal(t, map[string][]string{"test-untried": {"opens, plays"}}, told(first, first), "what was proof and is, is not told again")
	assert.Equal(t, map[string][]string{"test-stale": {"reach, found"}, "test-untried": {"opens, plays"}}, told(first, stale))
	assert.Equal(t, map[string][]string{"test-proven-again": {"reach"}, "test-stale": {"found"}, "test-untried": {"opens, plays"}}, told(stale, again))
	assert.Equal(t, map[string][]string{"test-proven-again": {"reach"}, "test-stale": {"found"}, "test-untried": {"opens, plays"}}, told(first, again), "proven anew since, though it was proof before")
}

// Of three kinds, what was added is told by itself; a fourth makes a list for each area of the work.
func TestWhatWasAddedIsToldByTheMostThatIsRead(t *testing.T) {
	before := homes.Small()
	for n, want := range map[int]map[string]int{3: {"record-added": 3}, 4: {"records-added": 3}} {
		after := before.Clone()
		for _, r := range []dossier.Record{dossier.Room{Name: "attic"}, dossier.Outlet{Room: after.Rooms[0].ID, Name: "A1"}, dossier.Account{Name: "keeper"}, dossier.LongTask{What: "index"}}[:n] {
			homes.PutIn(after, 20, r)
		}
		entries, err := dossier.Seal(before, after, dossier.Cause{Actor: homes.Person, At: homes.Day})
		require.NoError(t, err)
		got := map[string]int{}
		for _, p := range custody.Points(state(before), state(after), entries) {
			if strings.HasPrefix(p.Code, "record") {
				got[p.Code]++
			}
		}
		assert.Equal(t, want, got, "%d kinds", n)
	}
}

func TestCredentialsAreToldWhereThereAreAny(t *testing.T) {
	told := func(change func(*dossier.Dossier)) []dossier.Point {
		d := homes.Small().Clone()
		change(d)
		return slices.DeleteFunc(custody.Points(state(homes.Small()), state(d), nil), func(p dossier.Point) bool { return p.Code != "credentials" })
	}
	assert.Empty(t, told(func(*dossier.Dossier) {}))
	kept := told(func(d *dossier.Dossier) {
		homes.PutIn(d, 1, dossier.Secret{Name: "log-in"})
		homes.PutIn(d, 1, dossier.Account{Name: "keeper", Secret: d.Secrets[0].ID})
	})
	require.Len(t, kept, 1)
	assert.Equal(t, map[string]string{"kept": "log-in", "missing": ""}, kept[0].Values)
	missing := told(func(d *dossier.Dossier) { homes.PutIn(d, 1, dossier.Account{Name: "keeper"}) })
	require.Len(t, missing, 1)
	assert.Equal(t, map[string]string{"kept": "", "missing": "keeper"}, missing[0].Values)
}
