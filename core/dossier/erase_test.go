package dossier_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// Whatever a home has been through: after erasing, no personal text is in records or journal, and
// the journal still replays to the records.
func TestErasedJournalReplaysToTheErasedHome(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d, journal := &dossier.Dossier{}, []dossier.Entry{}
		seal := func(change func(*dossier.Dossier)) {
			next := d.Clone()
			change(next)
			entries, err := dossier.Seal(d, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
			require.NoError(t, err)
			journal, d = append(journal, entries...), next
		}
		for range rapid.IntRange(1, 25).Draw(t, "edits") {
			seal(func(next *dossier.Dossier) { homes.Edit(t, next) })
		}
		seal(dossier.Erase)
		for i := range journal {
			dossier.EraseEntry(&journal[i])
		}
		replayed := &dossier.Dossier{}
		require.NoError(t, dossier.Apply(replayed, journal))
		replayed.Revision = d.Revision
		assert.Equal(t, d, replayed)
		once := d.Clone()
		dossier.Erase(d)
		assert.Equal(t, once, d, "erasing twice changes nothing")
	})
}

func TestEraseLeavesNothingPersonal(t *testing.T) {
	d := homes.Full()
	old := &dossier.Dossier{}
	entries, err := dossier.Seal(old, d.Clone(), dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	dossier.Erase(d)
	seen := 0
	for _, k := range dossier.Kinds {
		for _, f := range k.Fields {
			if !f.Personal {
				continue
			}
			b, err := json.Marshal(f.Get(k.In(d).At(0)))
			require.NoError(t, err)
			assert.Contains(t, string(b), dossier.Erased, "%s.%s", k.Name, f.Name)
			seen++
			for _, e := range entries {
				if e.Subject.Kind == k.Name {
					require.True(t, dossier.EraseEntry(&e))
					assert.Contains(t, string(e.After["/"+f.Name]), dossier.Erased, "%s.%s", k.Name, f.Name)
				}
			}
		}
	}
	assert.GreaterOrEqual(t, seen, 6)
	assert.Empty(t, dossier.Check(d, entries), "the marker is allowed everywhere")
}
