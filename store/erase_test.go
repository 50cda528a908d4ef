package store_test

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/store"
)

// Erased is erased: in records, journal and search, and in the bytes of the files.
func TestErasedDataIsInNoByte(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	quay(t, s, 1, nil)
	quay(t, s, 2, nil)
	list, err := s.Homes(t.Context(), store.HomesQuery{Words: []string{"555-0101"}, Limit: 5})
	require.NoError(t, err)
	require.Len(t, list, 1)
	home := dossier.ID[dossier.Household](list[0].HouseholdID)
	_, err = s.Write(t.Context(), home, store.Cause{Actor: "01990000-0000-7000-8000-00000000abcd"}, func(d *dossier.Dossier) error {
		d.Household[0].Contacts = []dossier.Contact{{Name: "Somebody Else", Phone: "555-0101"}}
		return nil
	})
	require.NoError(t, err)
	w, err := s.Erase(t.Context(), home, store.Cause{Why: "asked for by letter"}, func(d *dossier.Dossier) error {
		d.Household[0].AccessNotes = ""
		return nil
	})
	require.NoError(t, err)
	assert.Equal(t, dossier.Erased, w.Dossier.Home().Contacts[0].Name)
	list, err = s.Homes(t.Context(), store.HomesQuery{Words: []string{"555-0101"}, Limit: 5})
	require.NoError(t, err)
	assert.Empty(t, list)
	journal, err := s.Journal(t.Context(), home, store.JournalQuery{})
	require.NoError(t, err)
	assert.Equal(t, "asked for by letter", journal[len(journal)-1].Why, "the entries stay")
	replayed := &dossier.Dossier{}
	require.NoError(t, dossier.Apply(replayed, journal))
	assert.Equal(t, w.Dossier, replayed)
	for _, name := range []string{store.FileName, store.FileName + "-wal"} {
		b, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		for _, gone := range []string{"555-0101", "5550101", "Somebody Else"} {
			assert.False(t, bytes.Contains(b, []byte(gone)), "%s still holds %s", name, gone)
		}
	}
	list, err = s.Homes(t.Context(), store.HomesQuery{Words: []string{"555-0102"}, Limit: 5})
	require.NoError(t, err)
	assert.Len(t, list, 1, "the other home keeps its own")
	require.NoError(t, s.CheckIntegrity(t.Context()))
	require.NoError(t, s.Close())
}
