package remedy_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/homes"
)

// How urgent an issue is follows from what no longer plays, what plays instead, what was promised and since when.
func TestUrgency(t *testing.T) {
	plays := func(d *dossier.Dossier) string { return proving.TestID("plays", []dossier.Ref{d.Paths[0].ID.Ref()}) }
	attempt := func(d *dossier.Dossier, path int, o dossier.Outcome) {
		plan := proving.NewPlan(d.Index())
		x, ok := plan.Find(proving.TestID("plays", []dossier.Ref{d.Paths[path].ID.Ref()}))
		require.True(t, ok)
		a := dossier.Attempt{Test: "plays", Subjects: x.Subjects, Outcome: o, How: dossier.ByEye, At: noon, Facts: x.Facts(), Version: proving.Version}
		a.ID = homes.AttemptID(700 + path)
		d.Attempts.Put(a)
	}
	fallBack := func(d *dossier.Dossier) {
		p := d.Paths[0]
		p.ID, p.Name = homes.ID[dossier.Path](701), "second way"
		d.Paths.Put(p)
		d.Paths[0].FallBack = p.ID
	}
	for name, c := range map[string]struct {
		of    func(*dossier.Dossier, *dossier.Issue)
		level remedy.Level
		why   []remedy.ReasonCode
	}{
		"nobody said what": {func(*dossier.Dossier, *dossier.Issue) {}, remedy.ThisWeek, []remedy.ReasonCode{remedy.NotKnownWhat}},
		"it does not play": {func(d *dossier.Dossier, i *dossier.Issue) { attempt(d, 0, dossier.Fail); i.Test = plays(d) }, remedy.Today, []remedy.ReasonCode{remedy.NothingPlays}},
		"the caller says so": {func(d *dossier.Dossier, i *dossier.Issue) {
			i.Answers = []dossier.Answered{{Question: "not-listed", About: d.Paths[0].ID.Ref(), Said: dossier.Yes}}
		}, remedy.Today, []remedy.ReasonCode{remedy.NothingPlays}},
		"the caller says that it works": {func(d *dossier.Dossier, i *dossier.Issue) {
			i.Answers = []dossier.Answered{{Question: "works", About: d.Paths[0].ID.Ref(), Said: dossier.Yes}}
		}, remedy.ThisWeek, []remedy.ReasonCode{remedy.NotKnownWhat}},
		"without sound": {func(d *dossier.Dossier, i *dossier.Issue) {
			i.Answers = []dossier.Answered{{Question: "no-sound", About: d.Paths[0].ID.Ref(), Said: dossier.Yes}}
		}, remedy.CanWait, []remedy.ReasonCode{remedy.PlaysBadly}},
		"the fall-back plays": {func(d *dossier.Dossier, i *dossier.Issue) {
			fallBack(d)
			attempt(d, 0, dossier.Fail)
			attempt(d, 1, dossier.Pass)
			i.Test = plays(d)
		}, remedy.ThisWeek, []remedy.ReasonCode{remedy.FallBackWorks}},
		"the fall-back was not tried": {func(d *dossier.Dossier, i *dossier.Issue) {
			fallBack(d)
			attempt(d, 0, dossier.Fail)
			i.Test = plays(d)
		}, remedy.Today, []remedy.ReasonCode{remedy.NothingPlays, remedy.FallBackOpen}},
		"about its device": {func(d *dossier.Dossier, i *dossier.Issue) {
			attempt(d, 0, dossier.Fail)
			i.Subjects = []dossier.Ref{d.Paths[0].Device.Ref()}
		}, remedy.Today, []remedy.ReasonCode{remedy.NothingPlays}},
		"overdue":        {func(_ *dossier.Dossier, i *dossier.Issue) { i.PromisedUntil = noon.Add(-time.Hour) }, remedy.Today, []remedy.ReasonCode{remedy.NotKnownWhat, remedy.Overdue}},
		"due tomorrow":   {func(_ *dossier.Dossier, i *dossier.Issue) { i.PromisedUntil = noon.Add(20 * time.Hour) }, remedy.Today, []remedy.ReasonCode{remedy.NotKnownWhat, remedy.DueSoon}},
		"due in a month": {func(_ *dossier.Dossier, i *dossier.Issue) { i.PromisedUntil = noon.Add(700 * time.Hour) }, remedy.ThisWeek, []remedy.ReasonCode{remedy.NotKnownWhat}},
		"for long":       {func(_ *dossier.Dossier, i *dossier.Issue) { i.OpenedAt = noon.Add(-8 * 24 * time.Hour) }, remedy.ThisWeek, []remedy.ReasonCode{remedy.NotKnownWhat, remedy.ForLong}},
	} {
		d := home(dossier.IssueOpen)
		i := &d.Issues[0]
		c.of(d, i)
		x := d.Index()
		statuses := proving.Statuses(proving.NewPlan(x), proving.Against{})
		u := remedy.Urgent(x, statuses, proving.Wishes(x, statuses), *i, noon)
		assert.Equal(t, c.level, u.Level, name)
		var why []remedy.ReasonCode
		for _, r := range u.Reasons {
			why = append(why, r.Code)
		}
		assert.Equal(t, c.why, why, name)
	}
}
