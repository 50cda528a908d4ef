package store_test

import (
	"fmt"
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

func TestTheJournalIsSelected(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	note := func(n int, text string) {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person, Why: "because " + text}, func(d *dossier.Dossier) error {
			d.Rooms[n].Note = text
			return nil
		})
		require.NoError(t, err)
	}
	note(0, "wet")
	note(1, "dry")
	for word, want := range map[string]int{"WET": 1, "because": 2, "d%": 0, "dr_": 0, "because dry": 1} {
		got, err := s.Journal(t.Context(), home, store.JournalQuery{Word: word, After: 2})
		require.NoError(t, err)
		assert.Len(t, got, want, word)
	}
	for _, c := range []struct {
		name  string
		query store.JournalQuery
		want  []string
	}{
		{"after a revision", store.JournalQuery{After: 2}, []string{"because wet", "because dry"}},
		{"newest first", store.JournalQuery{After: 2, Newest: true}, []string{"because dry", "because wet"}},
		{"before a revision", store.JournalQuery{After: 2, Before: 4}, []string{"because wet"}},
		{"of one record", store.JournalQuery{After: 2, Record: string(homes.RoomID(1))}, []string{"because dry"}},
		{"of a person", store.JournalQuery{After: 2, By: "somebody else"}, nil},
		{"since an instant", store.JournalQuery{Since: homes.Day.Add(time.Hour)}, nil},
		{"at most so many", store.JournalQuery{After: 2, Limit: 1}, []string{"because wet"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			entries, err := s.Journal(t.Context(), home, c.query)
			require.NoError(t, err)
			var why []string
			for _, e := range entries {
				why = append(why, e.Why)
			}
			assert.Equal(t, c.want, why)
		})
	}
	before, rest, err := s.At(t.Context(), home, 3)
	require.NoError(t, err)
	assert.Equal(t, "wet", before.Rooms[0].Note)
	assert.Empty(t, before.Rooms[1].Note)
	assert.Len(t, rest, 1)
}

func TestHouseholdsArePagedByCode(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	for n, code := range []string{"H-0903", "H-0901", "H-0902"} {
		h := dossier.Household{Code: code, Name: "Home", Custodian: homes.Person}
		h.ID = dossier.ID[dossier.Household]("01890000-0000-7000-8000-00000000010" + string(rune('0'+n)))
		_, err := s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
		require.NoError(t, err)
	}
	page, err := s.Homes(t.Context(), store.HomesQuery{After: "", Limit: 2})
	require.NoError(t, err)
	assert.Equal(t, []string{"H-0901", "H-0902"}, []string{page[0].Code, page[1].Code})
	page, err = s.Homes(t.Context(), store.HomesQuery{After: "H-0902", Limit: 2})
	require.NoError(t, err)
	require.Len(t, page, 1)
	assert.Equal(t, homes.Day, page[0].Changed())
	mine, err := s.Involving(t.Context(), homes.Person)
	require.NoError(t, err)
	assert.Len(t, mine, 3)
	offered, err := s.OnOffer(t.Context())
	require.NoError(t, err)
	assert.Empty(t, offered)
}

func TestACreationThatBreaksAnInvariantLeavesNothing(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	h := dossier.Household{Code: "H-0901", Custodian: homes.Person}
	h.ID = "01890000-0000-7000-8000-000000000101"
	_, err := s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
	var faults dossier.Faults
	require.ErrorAs(t, err, &faults)
	_, err = s.HomeByCode(t.Context(), "H-0901")
	assert.ErrorIs(t, err, store.ErrNotFound)
	h.Name, h.Custodian = "Home", "01890000-0000-7000-8000-00000000beef"
	_, err = s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
	require.ErrorContains(t, err, "FOREIGN KEY constraint failed", "a custodian who is nobody")
	_, err = s.HomeByCode(t.Context(), "H-0901")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestPeopleAreFoundAndUnique(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	p, err := s.PersonByLogin(t.Context(), "petri")
	require.NoError(t, err)
	again, err := s.PersonByID(t.Context(), p.ID)
	require.NoError(t, err)
	assert.Equal(t, p, again)
	_, err = s.PersonByLogin(t.Context(), "nobody")
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, s.AddPerson(t.Context(), store.Person{ID: "x", Login: "petri", Name: "Other", Role: "lead"}), store.ErrTaken)
	assert.ErrorContains(t, s.AddPerson(t.Context(), store.Person{ID: "y", Login: "king", Name: "King", Role: "king"}), "CHECK constraint failed", "a role that is none")
}

func TestADataFolderMayHaveAnyName(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "Käyttö? 100% & more")
	s := open(t, dir)
	putHome(t, s, homes.Small())
	require.NoError(t, s.Ping(t.Context()))
	require.NoError(t, s.Close())
	s = open(t, dir)
	_, err := s.HomeByCode(t.Context(), "H-0900")
	require.NoError(t, err)
	require.NoError(t, s.Close())
}

// The least recently used homes leave the cache; nothing else changes by that.
func TestACacheThatIsFullForgetsTheOldest(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	s.Shrink(1)
	var ids []dossier.ID[dossier.Household]
	for n := range 3 {
		h := dossier.Household{Code: "H-090" + string(rune('1'+n)), Name: "Home", Custodian: homes.Person}
		h.ID = dossier.ID[dossier.Household]("01890000-0000-7000-8000-00000000010" + string(rune('0'+n)))
		_, err := s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
		require.NoError(t, err)
		ids = append(ids, h.ID)
	}
	assert.Equal(t, 1, s.Cached())
	for _, id := range ids {
		d, err := s.Load(t.Context(), id)
		require.NoError(t, err)
		assert.Equal(t, id, d.Home().ID)
		assert.Equal(t, 1, s.Cached())
	}
}

// The cache fills up to its limit and not beyond it; what was used last stays.
func TestTheCacheIsUsedToItsLimit(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	d := homes.Small()
	a, b, c := dossier.ID[dossier.Household]("a"), dossier.ID[dossier.Household]("b"), dossier.ID[dossier.Household]("c")
	s.Shrink(2 * store.SizeOf(d))
	s.Remember(a, d)
	s.Remember(b, d)
	assert.True(t, s.IsCached(a) && s.IsCached(b), "two fit exactly")
	s.Remember(a, d)
	s.Remember(c, d)
	assert.True(t, s.IsCached(a) && s.IsCached(c), "the first was used after the second")
	assert.False(t, s.IsCached(b))

	larger := d.Clone()
	larger.Attempts = append(larger.Attempts, dossier.Attempt{})
	larger.Rooms = append(larger.Rooms, dossier.Room{})
	assert.Equal(t, store.SizeOf(d)+500+2500, store.SizeOf(larger), "an attempt carries its facts")
}

// What reads may not write, whatever it is asked to do.
func TestReadersCannotWrite(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	before, err := s.People(t.Context())
	require.NoError(t, err)
	require.NotEmpty(t, before)
	require.ErrorContains(t, s.Reader().Exec("DELETE FROM people").Error, "readonly")
	require.ErrorContains(t, s.Reader().Exec("CREATE TABLE more (a)").Error, "readonly")
	people, err := s.People(t.Context())
	require.NoError(t, err)
	assert.Equal(t, before, people)
}

// A session of somebody who is suspended opens nothing, even if it is still there.
func TestASessionOfASuspendedPersonOpensNothing(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	_, err := s.AddSession(t.Context(), store.Session{Hash: "h", PersonID: homes.Person, Name: "x", ID: "1", Kind: store.LogIn}, time.Now().Add(time.Hour), "")
	require.NoError(t, err)
	_, err = s.PersonBySession(t.Context(), "h")
	require.NoError(t, err)
	require.NoError(t, s.Exec(t.Context(), "UPDATE people SET suspended_at = '2026-01-01T00:00:00Z'"))
	_, err = s.PersonBySession(t.Context(), "h")
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A reader that was slow does not bring back what a writer has replaced.
func TestTheCacheKeepsTheNewer(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	old, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	_, err = s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { d.Rooms[0].Name = "vault"; return nil })
	require.NoError(t, err)
	newer, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	require.Greater(t, newer.Revision, old.Revision)
	s.Remember(home, old)
	assert.Equal(t, newer.Revision, s.CachedRevision(home))
	s.Forget(home)
	s.Remember(home, old)
	s.Remember(home, newer)
	assert.Equal(t, newer.Revision, s.CachedRevision(home))
}

// A backup is of one state: what is written while pages are copied is not in it, and does not begin the copying anew.
func TestABackupIsOfOneState(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	defer s.Close()
	home := putHome(t, s, homes.Small())
	for range 3 { // more pages than are copied at once
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			for range 700 {
				r := dossier.Room{Name: fmt.Sprint("room ", len(d.Rooms)), Note: strings.Repeat("wet ", 200)}
				r.ID = homes.RoomID(100 + len(d.Rooms))
				d.Rooms.Put(r)
			}
			return nil
		})
		require.NoError(t, err)
	}
	steps := 0
	before, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	stop := store.WhileCopying(func() {
		steps++
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { d.Rooms[0].Note = fmt.Sprint("changed ", steps); return nil })
		assert.NoError(t, err)
	})
	file := filepath.Join(t.TempDir(), "one.backup")
	_, err = store.Backup(t.Context(), dir, file, "test", time.Now(), func(int64, int64) {})
	stop()
	require.NoError(t, err)
	require.Greater(t, steps, 1, "it was copied in one go: this shows nothing")
	out := t.TempDir()
	_, _, err = store.Restore(t.Context(), file, out, false, time.Now(), func(int64, int64) {})
	require.NoError(t, err)
	r := open(t, out)
	defer r.Close()
	after, err := r.Load(t.Context(), home)
	require.NoError(t, err)
	assert.Len(t, after.Rooms, len(before.Rooms))
	assert.Equal(t, before.Rooms[0].Note, after.Rooms[0].Note, "what was written meanwhile")
}
