package store_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/store"
)

// Bodies that no record came to name go after a day; those that a record or the journal knows stay.
func TestOrphansAreSwept(t *testing.T) {
	dir := t.TempDir()
	now := time.Now()
	s, err := store.Open(t.Context(), dir, store.Options{Now: func() time.Time { return now }})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.AddPerson(t.Context(), store.Person{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician", PasswordHash: "x"}))
	home := putHome(t, s, homes.Small())
	named, err := s.PutBody([]byte("named"))
	require.NoError(t, err)
	orphan, err := s.PutBody([]byte("orphan"))
	require.NoError(t, err)
	again, err := s.PutBody([]byte("named"))
	require.NoError(t, err)
	assert.Equal(t, named, again, "the same bytes are stored once")
	id := homes.ID[dossier.Attachment](1)
	_, err = s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		a := dossier.Attachment{Subject: d.Rooms[0].ID.Ref(), Caption: "x", SHA256: named, MediaType: "text/plain", Bytes: 5, At: homes.Day, By: homes.Person}
		a.ID = id
		d.Attachments.Put(a)
		return nil
	})
	require.NoError(t, err)
	_, err = s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { d.Attachments.Delete(id); return nil })
	require.NoError(t, err)

	n, err := s.SweepBodies(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n, "an upload may still be on its way to its record")
	require.NoError(t, os.WriteFile(filepath.Join(dir, store.BodiesName, named[:2], ".part-1"), []byte("half"), 0o600))
	now = now.Add(25 * time.Hour)
	n, err = s.SweepBodies(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 2, n, "the orphan and the half of an upload")
	_, err = s.Body(orphan)
	require.ErrorIs(t, err, store.ErrNotFound)
	b, err := s.Body(named)
	require.NoError(t, err, "removed from the home, but the journal can bring it back")
	assert.Equal(t, "named", string(b))
	for _, odd := range []string{"", "../../kaiku.db", strings.Repeat("g", 64)} {
		_, err := s.Body(odd)
		require.ErrorIs(t, err, store.ErrNotFound)
	}
}

func TestSealedBodiesNeedTheirKey(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.Seal(t.Context(), "one", []byte("amber-quay")))
	body, err := s.Unseal(t.Context(), "one")
	require.NoError(t, err)
	assert.Equal(t, "amber-quay", string(body))
	_, err = s.Unseal(t.Context(), "two")
	require.ErrorIs(t, err, store.ErrNotFound)
	require.ErrorIs(t, s.Seal(t.Context(), "one", nil), store.ErrTaken)
	require.NoError(t, s.Close())
	file, err := os.ReadFile(filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	assert.NotContains(t, string(file), "amber-quay", "sealed on the disk")
	info, err := os.Stat(filepath.Join(dir, store.KeyName))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	require.NoError(t, os.Remove(filepath.Join(dir, store.KeyName)))
	other := open(t, dir)
	_, err = other.Unseal(t.Context(), "one")
	require.ErrorIs(t, err, store.ErrKey, "another key")
	n, err := other.SweepSealed(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n, "it is not a day old")
	require.NoError(t, other.Close())
	require.NoError(t, os.WriteFile(filepath.Join(dir, store.KeyName), []byte("short"), 0o600))
	_, err = store.Open(t.Context(), dir, store.Options{})
	require.ErrorContains(t, err, "is not a key")
}

// What was acknowledged is on the disk: the database is written so, and of a file its bytes, its name and the folder
// that was made for it.
func TestWhatIsAcknowledgedIsOnTheDisk(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	defer func() { require.NoError(t, s.Close()) }()
	for name, want := range map[string]string{"synchronous": "2", "journal_mode": "wal", "foreign_keys": "1", "secure_delete": "1"} {
		got, err := s.Pragma(name)
		require.NoError(t, err)
		assert.Equal(t, want, got, "%s: 2 is FULL, https://sqlite.org/pragma.html", name)
	}
	var synced []string
	restore := store.Synced(func(name string) { synced = append(synced, name) })
	defer restore()
	sum, err := s.PutBody([]byte("a photograph"))
	require.NoError(t, err)
	bodies := filepath.Join(dir, store.BodiesName)
	folder := filepath.Join(bodies, sum[:2])
	require.Len(t, synced, 4, "%v", synced)
	assert.Equal(t, []string{dir, bodies}, synced[:2], "the folders, from above")
	assert.True(t, strings.HasPrefix(synced[2], filepath.Join(folder, ".part-")), "the bytes, before they have their name: %s", synced[2])
	assert.Equal(t, folder, synced[3], "and then the name")
	synced = nil
	_, err = s.PutBody([]byte("a photograph"))
	require.NoError(t, err)
	assert.Empty(t, synced, "it is there already")
}
