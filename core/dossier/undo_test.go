package dossier_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// Whatever one write changed by the general verbs, undoing its entries from the last to the first
// gives the home as it was.
func TestUndoingAWriteGivesTheHomeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		next := d.Clone()
		homes.Edit(t, next)
		if len(dossier.Settle(d, next)) > 0 {
			return
		}
		entries, err := dossier.Seal(d, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
		require.NoError(t, err)
		back := next.Clone()
		for i := len(entries) - 1; i >= 0; i-- {
			if err := dossier.Undo(back, viaJSON(t, entries)[i]); err != nil {
				require.ErrorIs(t, err, dossier.ErrNotUndoable)
				return
			}
		}
		assert.Empty(t, dossier.Touched(d, back), "undone")
	})
}

func TestUndoLeavesAloneWhatWasChangedSince(t *testing.T) {
	write := func(d *dossier.Dossier, change func(*dossier.Room)) (*dossier.Dossier, dossier.Entry) {
		next := d.Clone()
		change(&next.Rooms[0])
		entries, err := dossier.Seal(d, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
		require.NoError(t, err)
		return next, entries[0]
	}
	d, floor := write(homes.Small(), func(r *dossier.Room) { r.Floor = 7 })
	d, note := write(d, func(r *dossier.Room) { r.Note = "damp" })
	back := d.Clone()
	require.NoError(t, dossier.Undo(back, floor))
	assert.Equal(t, -1, back.Rooms[0].Floor)
	assert.Equal(t, "damp", back.Rooms[0].Note, "another member, changed since, stays")
	require.ErrorIs(t, dossier.Undo(back, floor), dossier.ErrChangedSince, "undone already")
	d, _ = write(d, func(r *dossier.Room) { r.Note = "dry" })
	require.ErrorIs(t, dossier.Undo(d, note), dossier.ErrChangedSince)
	gone := d.Clone()
	gone.Rooms.Delete(gone.Rooms[0].ID)
	require.ErrorIs(t, dossier.Undo(gone, floor), dossier.ErrChangedSince)
	require.ErrorIs(t, dossier.Undo(d, dossier.Entry{Act: dossier.Added, Subject: dossier.Ref{Kind: "attempt", ID: "x"}}), dossier.ErrNotUndoable)
}
