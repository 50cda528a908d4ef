package remedy_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/homes"
)

// What was changed within two weeks before it began, and what tests stand on, is proposed: the newest first, each record once.
func TestChangesBefore(t *testing.T) {
	d := homes.Small().Clone()
	plan := proving.NewPlan(d.Index())
	var at dossier.Fact
	for _, x := range plan.Tests {
		for _, f := range x.Facts() {
			if x.Path == d.Paths[0].ID && f.Subject.Kind == "source" {
				at = f
			}
		}
	}
	require.NotEmpty(t, at.Name)
	entry := func(revision uint64, act dossier.Act, of dossier.Ref, member string, when time.Time) dossier.Entry {
		return dossier.Entry{Revision: revision, N: 1, At: when, By: "p1", Act: act, Subject: of, After: map[string]json.RawMessage{"/" + member: json.RawMessage(`"x"`)}}
	}
	day := 24 * time.Hour
	journal := []dossier.Entry{
		entry(1, dossier.Changed, at.Subject, at.Name, noon.Add(-20*day)),
		entry(2, dossier.Added, at.Subject, at.Name, noon.Add(-3*day)),
		entry(3, dossier.Changed, at.Subject, at.Name, noon.Add(-2*day)),
		entry(4, dossier.Changed, at.Subject, at.Name+"/deeper", noon.Add(-day)),
		entry(5, dossier.Changed, at.Subject, "note", noon.Add(-time.Hour)),
		entry(6, dossier.Changed, d.Rooms[0].ID.Ref(), "note", noon.Add(-time.Hour)),
		entry(7, dossier.Changed, at.Subject, at.Name, noon.Add(2*time.Hour)),
	}
	late := entry(8, dossier.Changed, at.Subject, at.Name, noon.Add(3*day))
	revisions := func(list []dossier.Entry) (out []uint64) {
		for _, e := range list {
			out = append(out, e.Revision)
		}
		return out
	}
	assert.Equal(t, []uint64{4}, revisions(remedy.ChangesBefore(plan, []dossier.ID[dossier.Path]{d.Paths[0].ID}, journal, noon)))
	assert.Equal(t, []uint64{4}, revisions(remedy.ChangesBefore(plan, nil, journal, noon)), "of all paths where none is named")
	assert.Equal(t, []uint64{3}, revisions(remedy.ChangesBefore(plan, nil, journal, noon.Add(-36*time.Hour))))
	assert.Empty(t, remedy.ChangesBefore(plan, []dossier.ID[dossier.Path]{"another"}, journal, noon))
	late.DoneAt = noon.Add(-time.Hour)
	assert.Equal(t, []uint64{8}, revisions(remedy.ChangesBefore(plan, nil, append(journal, late), noon)), "it was done earlier than written")

	// The bounds count; what was taken away counts as what was put in.
	for when, there := range map[time.Duration]bool{-remedy.Before: true, -remedy.Before - time.Second: false, time.Hour: true, time.Hour + time.Second: false} {
		one := entry(9, dossier.Changed, at.Subject, at.Name, noon.Add(when))
		one.Before, one.After = one.After, nil
		assert.Equal(t, there, len(remedy.ChangesBefore(plan, nil, []dossier.Entry{one}, noon)) == 1, when)
	}
	var many []dossier.Entry
	seen := map[dossier.Ref]bool{}
	large := proving.NewPlan(rapid.Custom(homes.Sound).Example(1).Index())
	for _, x := range large.Tests {
		for _, f := range x.Facts() {
			if !seen[f.Subject] {
				seen[f.Subject] = true
				many = append(many, entry(uint64(len(many)+1), dossier.Changed, f.Subject, f.Name, noon))
			}
		}
	}
	require.Greater(t, len(many), 10)
	list := remedy.ChangesBefore(large, nil, many, noon)
	assert.Len(t, list, 10)
	assert.Equal(t, many[len(many)-1].Revision, list[0].Revision, "the newest first")

	i := dossier.Issue{OpenedAt: noon}
	assert.Equal(t, noon, remedy.Begun(i))
	i.Since = noon.Add(-day)
	assert.Equal(t, i.Since, remedy.Begun(i))
}
