package custody_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
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
