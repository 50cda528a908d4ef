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

// The bounds belong to what is more urgent, and of several reasons the most urgent decides.
func TestUrgencyAtItsBounds(t *testing.T) {
	week := 7 * 24 * time.Hour
	for name, c := range map[string]struct {
		of    func(*dossier.Issue)
		level remedy.Level
		last  remedy.ReasonCode
	}{
		"due this instant":           {func(i *dossier.Issue) { i.PromisedUntil = noon }, remedy.Today, remedy.Overdue},
		"due in a day":               {func(i *dossier.Issue) { i.PromisedUntil = noon.Add(24 * time.Hour) }, remedy.Today, remedy.DueSoon},
		"due a second later":         {func(i *dossier.Issue) { i.PromisedUntil = noon.Add(24*time.Hour + time.Second) }, remedy.CanWait, remedy.PlaysBadly},
		"for a week":                 {func(i *dossier.Issue) { i.Since = noon.Add(-week) }, remedy.ThisWeek, remedy.ForLong},
		"for a second less":          {func(i *dossier.Issue) { i.Since = noon.Add(time.Second - week) }, remedy.CanWait, remedy.PlaysBadly},
		"told late of what is older": {func(i *dossier.Issue) { i.Since, i.OpenedAt = noon.Add(-week), noon }, remedy.ThisWeek, remedy.ForLong},
		"opened long ago of today":   {func(i *dossier.Issue) { i.Since, i.OpenedAt = noon, noon.Add(-week) }, remedy.CanWait, remedy.PlaysBadly},
	} {
		d := home(dossier.IssueOpen)
		i := &d.Issues[0]
		i.Answers = []dossier.Answered{{Question: "no-sound", About: d.Paths[0].ID.Ref(), Said: dossier.Yes}}
		c.of(i)
		u := remedy.Urgent(d.Index(), nil, nil, *i, noon)
		assert.Equal(t, c.level, u.Level, name)
		assert.Equal(t, c.last, u.Reasons[len(u.Reasons)-1].Code, name)
	}
}

// What serves the same wish in the same place makes it less urgent if it is proven to play, and not otherwise.
func TestWhatElseServesTheWish(t *testing.T) {
	d := home(dossier.IssueOpen)
	second := d.Paths[0]
	second.ID, second.Name = homes.ID[dossier.Path](701), "second way"
	d.Paths.Put(second)
	x := d.Index()
	one, other := d.Paths[0].ID, second.ID
	i := d.Issues[0]
	i.Answers = []dossier.Answered{{Question: "plays", About: one.Ref(), Said: dossier.Yes}}
	plays := func(s proving.Status) []proving.TestStatus {
		test, _ := proving.NewPlan(x).Find(proving.TestID("plays", []dossier.Ref{other.Ref()}))
		return []proving.TestStatus{{Test: test, Status: s}}
	}
	served := func(at ...dossier.ID[dossier.Path]) []proving.WishStatus {
		return []proving.WishStatus{{Places: []proving.WishPlace{{Paths: at}}}}
	}
	for _, c := range []struct {
		name     string
		statuses []proving.TestStatus
		wishes   []proving.WishStatus
		want     remedy.Reason
	}{
		{"proven", plays(proving.Proven), served(one, other), remedy.Reason{Code: remedy.ElsewhereToo, About: other.Ref()}},
		{"marginal", plays(proving.Marginal), served(other, one), remedy.Reason{Code: remedy.ElsewhereToo, About: other.Ref()}},
		{"stale", plays(proving.Stale), served(one, other), remedy.Reason{Code: remedy.NothingPlays, About: one.Ref()}},
		{"never tried", nil, served(one, other), remedy.Reason{Code: remedy.NothingPlays, About: one.Ref()}},
		{"in another place", plays(proving.Proven), append(served(one), served(other)...), remedy.Reason{Code: remedy.NothingPlays, About: one.Ref()}},
	} {
		u := remedy.Urgent(x, c.statuses, c.wishes, i, noon)
		assert.Equal(t, c.want, u.Reasons[0], c.name)
	}

	// Of two paths, the one with which nothing plays decides, in whatever order they are said.
	for _, said := range [][2]string{{"no-sound", "plays"}, {"plays", "no-sound"}} {
		i.Answers = []dossier.Answered{{Question: said[0], About: one.Ref(), Said: dossier.Yes}, {Question: said[1], About: other.Ref(), Said: dossier.Yes}, {Question: "hot", About: one.Ref(), Said: dossier.No}}
		assert.Equal(t, remedy.Today, remedy.Urgent(x, nil, nil, i, noon).Level, said)
	}
	// Once nothing plays, that there is no sound either makes it no better.
	i.Answers = []dossier.Answered{{Question: "plays", About: one.Ref(), Said: dossier.Yes}, {Question: "no-sound", About: one.Ref(), Said: dossier.Yes}}
	assert.Equal(t, remedy.Today, remedy.Urgent(x, nil, nil, i, noon).Level)
}

// An issue concerns the paths that have what it is about: their device, source, server, folders, or themselves.
func TestWhichPathsAreConcerned(t *testing.T) {
	d := home(dossier.IssueOpen)
	x := d.Index()
	all := []dossier.ID[dossier.Path]{d.Paths[0].ID}
	for of, want := range map[dossier.Ref][]dossier.ID[dossier.Path]{
		d.Paths[0].ID.Ref(): all, d.Paths[0].Device.Ref(): all, d.Paths[0].Source.Ref(): all, d.Sources[0].Device.Ref(): all, d.Folders[0].ID.Ref(): all, d.Rooms[0].ID.Ref(): nil, {}: nil,
	} {
		assert.Equal(t, want, remedy.Concerned(x, dossier.Issue{Subjects: []dossier.Ref{of}}), of)
		assert.Equal(t, want, remedy.Concerned(x, dossier.Issue{Answers: []dossier.Answered{{About: of}}}), of)
	}
	assert.Equal(t, all, remedy.Concerned(x, dossier.Issue{Test: proving.TestID("complete", []dossier.Ref{d.Folders[0].ID.Ref()})}))
	assert.Empty(t, remedy.Concerned(x, dossier.Issue{}))
}
