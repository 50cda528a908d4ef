package store_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm/schema"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/summary"
	"kaiku/homes"
	"kaiku/store"
)

// begun is an empty database as a first start makes it; making one for each of hundreds of cases
// takes longer than the cases.
var begun = sync.OnceValue(func() []byte {
	dir, err := os.MkdirTemp("", "kaiku-begun-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(context.Background(), dir, store.Options{})
	if err != nil {
		panic(err)
	}
	if err := s.Close(); err != nil {
		panic(err)
	}
	b, err := os.ReadFile(filepath.Join(dir, store.FileName))
	if err != nil {
		panic(err)
	}
	return b
})

func open(t require.TestingT, dir string) *store.Store {
	if file := filepath.Join(dir, store.FileName); !exists(file) {
		require.NoError(t, os.MkdirAll(dir, 0o700))
		require.NoError(t, os.WriteFile(file, begun(), 0o600))
	}
	s, err := store.Open(context.Background(), dir, store.Options{Guard: true, Now: func() time.Time { return homes.Day }})
	require.NoError(t, err)
	err = s.AddPerson(context.Background(), store.Person{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician", PasswordHash: "x"})
	if err != nil {
		require.ErrorIs(t, err, store.ErrTaken)
	}
	return s
}

func exists(file string) bool {
	_, err := os.Stat(file)
	return err == nil
}

// putHome stores a whole home through the door.
func putHome(t require.TestingT, s *store.Store, d *dossier.Dossier) dossier.ID[dossier.Household] {
	w, err := s.Create(context.Background(), d.Home(), store.Cause{Actor: homes.Person})
	require.NoError(t, err)
	home := w.Dossier.Home().ID
	_, err = s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(next *dossier.Dossier) error {
		h := next.Household
		*next = *d.Clone()
		next.Household = h
		return nil
	})
	require.NoError(t, err)
	return home
}

func TestStoredHomesComeBackEqual(t *testing.T) {
	dir := t.TempDir()
	rapid.Check(t, func(t *rapid.T) {
		s := open(t, fmt.Sprintf("%s/%d", dir, time.Now().UnixNano()))
		defer s.Close()
		var home dossier.ID[dossier.Household]
		for range rapid.IntRange(1, 12).Draw(t, "writes") {
			if home == "" {
				d := &dossier.Dossier{}
				homes.Edit(t, d)
				w, err := s.Create(context.Background(), d.Home(), store.Cause{Actor: homes.Person})
				require.NoError(t, err)
				home = w.Dossier.Home().ID
			}
			before, err := s.Load(context.Background(), home)
			require.NoError(t, err)
			before = before.Clone()
			_, err = s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { homes.Edit(t, d); return nil })
			after, loadErr := s.Load(context.Background(), home)
			require.NoError(t, loadErr)
			if err != nil {
				var faults dossier.Faults
				require.ErrorAs(t, err, &faults)
				require.Equal(t, before, after, "a refused write changed something")
			}
		}
		cachedValue, err := s.Load(context.Background(), home)
		require.NoError(t, err)
		s.Forget(home)
		fresh, err := s.Load(context.Background(), home)
		require.NoError(t, err)
		require.Equal(t, cachedValue, fresh, "the rows are not the value")
		replayed, rest, err := s.At(context.Background(), home, fresh.Revision)
		require.NoError(t, err)
		require.Empty(t, rest)
		require.Equal(t, fresh, replayed, "the journal is not the value")
	})
}

// Every member of every kind comes back from its row and from its journal.
func TestEveryKindIsStored(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Full())
	cached, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	s.Forget(home)
	fresh, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	for _, k := range dossier.Kinds {
		require.NotZero(t, k.In(fresh).Len(), k.Name)
		require.Equal(t, k.In(cached), k.In(fresh), k.Name)
	}
	replayed, _, err := s.At(t.Context(), home, fresh.Revision)
	require.NoError(t, err)
	require.Equal(t, fresh, replayed)
}

func TestFaultsChangeNothing(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	before, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	for _, c := range []struct {
		change func(*dossier.Dossier) error
		says   string
	}{
		{func(d *dossier.Dossier) error { d.Rooms[0].Name = ""; return nil }, "/name: required"},
		{func(d *dossier.Dossier) error { d.Devices.Delete(d.Devices[0].ID); return nil }, "still-used"},
		{func(d *dossier.Dossier) error { d.Rooms = nil; return errors.New("changed my mind") }, "changed my mind"},
		{func(d *dossier.Dossier) error { d.Household = nil; return nil }, "household-missing"},
	} {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, c.change)
		require.ErrorContains(t, err, c.says)
		s.Forget(home)
		after, err := s.Load(t.Context(), home)
		require.NoError(t, err)
		assert.Equal(t, before, after)
	}
}

func TestUnknownAndDoubleHouseholds(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	_, err := s.Write(t.Context(), "01890000-0000-7000-8000-00000000ffff", store.Cause{}, func(*dossier.Dossier) error { return nil })
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Load(t.Context(), "01890000-0000-7000-8000-00000000ffff")
	require.ErrorIs(t, err, store.ErrNotFound)
	home := putHome(t, s, homes.Small())
	h := homes.Small().Home()
	_, err = s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
	require.ErrorIs(t, err, store.ErrTaken, "the same id")
	h.ID = "01890000-0000-7000-8000-00000000eeee"
	_, err = s.Create(t.Context(), h, store.Cause{Actor: homes.Person})
	require.ErrorIs(t, err, store.ErrTaken, "the same code")
	byCode, err := s.HomeByCode(t.Context(), "H-0900")
	require.NoError(t, err)
	assert.Equal(t, home, byCode)
}

func TestIdempotencyKey(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	cause := store.Cause{Actor: homes.Person, Key: "k1", RequestHash: "h1"}
	add := func(d *dossier.Dossier) error {
		r := dossier.Room{Name: "pantry"}
		r.ID = homes.RoomID(50)
		d.Rooms.Put(r)
		return nil
	}
	first, err := s.Write(t.Context(), home, cause, add)
	require.NoError(t, err)
	again, err := s.Write(t.Context(), home, cause, add)
	require.NoError(t, err)
	assert.Equal(t, homes.RoomID(50).Ref(), again.Repeated)
	assert.Empty(t, again.Entries)
	assert.Equal(t, first.Dossier.Revision, again.Dossier.Revision)
	cause.RequestHash = "h2"
	_, err = s.Write(t.Context(), home, cause, add)
	require.ErrorIs(t, err, store.ErrKeyReused)
	// Of several records, the one that was added is what was asked for.
	cause = store.Cause{Actor: homes.Person, Key: "k2", RequestHash: "h1"}
	both := func(d *dossier.Dossier) error {
		d.Rooms[0].Note = "moved"
		r := dossier.Room{Name: "loft"}
		r.ID = homes.RoomID(51)
		d.Rooms.Put(r)
		return nil
	}
	first, err = s.Write(t.Context(), home, cause, both)
	require.NoError(t, err)
	require.Len(t, first.Entries, 2)
	again, err = s.Write(t.Context(), home, cause, both)
	require.NoError(t, err)
	assert.Equal(t, homes.RoomID(51).Ref(), again.Repeated)
}

// Writers that check what they saw: exactly one of each round wins.
func TestOneOfTwoWritersWins(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	stale := errors.New("stale")
	for round := range 20 {
		d, err := s.Load(t.Context(), home)
		require.NoError(t, err)
		seen := d.Rooms[0].Revision
		var wins sync.Map
		var wg sync.WaitGroup
		for i := range 2 {
			wg.Go(func() {
				_, err := s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
					if d.Rooms[0].Revision != seen {
						return stale
					}
					d.Rooms[0].Note = fmt.Sprintf("round %d by %d", round, i)
					return nil
				})
				if err == nil {
					wins.Store(i, true)
				} else if !errors.Is(err, stale) {
					t.Error(err)
				}
			})
		}
		wg.Wait()
		n := 0
		wins.Range(func(any, any) bool { n++; return true })
		require.Equal(t, 1, n, "round %d", round)
	}
}

func TestReadersAndWritersTogether(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	var wg sync.WaitGroup
	for g := range 6 {
		wg.Go(func() {
			for i := range 15 {
				d, err := s.Load(context.Background(), home)
				if err != nil {
					t.Error(err)
					return
				}
				_ = fmt.Sprint(d.Rooms)
				_, err = s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
					d.Devices[g%2].Menus = fmt.Sprintf("%d-%d", g, i)
					return nil
				})
				if err != nil {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	cachedValue, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	s.Forget(home)
	fresh, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	assert.Equal(t, cachedValue, fresh)
}

// Tables against declarations: every plain member has its column, every column its member.
func TestTablesFitTheDeclarations(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	naming := schema.NamingStrategy{}
	for _, k := range dossier.Kinds {
		columns, err := s.Columns(t.Context(), k.Table())
		require.NoError(t, err)
		want := []string{"household_id"}
		for _, sf := range reflect.VisibleFields(k.Type) {
			if !sf.Anonymous && sf.Name != "Household" {
				column, named := strings.CutPrefix(sf.Tag.Get("gorm"), "column:")
				if !named {
					column = naming.ColumnName("", sf.Name)
				}
				want = append(want, column)
			}
		}
		slices.Sort(want)
		slices.Sort(columns)
		assert.Equal(t, want, columns, k.Table())
	}
}

func TestSummaryFollowsTheDossier(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	home := putHome(t, s, homes.Small())
	list, err := s.Homes(t.Context(), store.HomesQuery{After: "", Limit: 10})
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "H-0900", list[0].Code)
	assert.Equal(t, 4, list[0].Row().Number("required"))
	assert.Equal(t, 4, list[0].Row().Coverage().Untried)
	assert.Equal(t, summary.Of(assess.Assess(homes.Small(), knowledge.Knowledge{}, homes.Day)).Coverage(), list[0].Row().Coverage())
	assert.Empty(t, list[0].OfferedTo)
	for _, c := range []struct {
		state dossier.HandoverState
		want  string
	}{{dossier.Offered, string(homes.Person)}, {dossier.Returned, ""}} {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			h := dossier.Handover{From: homes.Person, To: homes.Person, State: c.state, DraftedAt: homes.Day, UntilRevision: 1}
			h.ID = homes.ID[dossier.Handover](1)
			d.Handovers.Put(h)
			return nil
		})
		require.NoError(t, err)
		list, err = s.Homes(t.Context(), store.HomesQuery{Limit: 10})
		require.NoError(t, err)
		assert.Equal(t, c.want, list[0].OfferedTo, c.state)
	}
}

// A row that an older program made, or that a stop kept from being made, is made when the store is opened.
func TestRowsOfAnOlderProgramAreMadeAnew(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	putHome(t, s, homes.Small())
	require.NoError(t, s.Exec(t.Context(), "UPDATE summaries SET computed = '{\"proven\":33,\"required\":33}', computed_as = 'an older one 2'"))
	require.NoError(t, s.Close())
	s = open(t, dir)
	defer s.Close()
	list, err := s.Homes(t.Context(), store.HomesQuery{With: []string{"unproven"}, Limit: 10})
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Zero(t, list[0].Row().Number("proven"))
	for _, w := range store.HomesWith() {
		_, err := s.Homes(t.Context(), store.HomesQuery{With: []string{w}, Limit: 10, Today: homes.Day})
		assert.NoError(t, err, w)
	}
	for _, by := range store.HomesBy() {
		_, err := s.Homes(t.Context(), store.HomesQuery{Sort: "-" + by, Limit: 10})
		assert.NoError(t, err, by)
	}
}

// A record whose id another home uses is refused by the name of that home.
func TestAnIDOfAnotherHomeIsRefusedByName(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	putHome(t, s, homes.Small())
	other := dossier.Household{Code: "H-0901", Name: "Other", Custodian: homes.Person}
	other.ID = homes.ID[dossier.Household](1)
	w, err := s.Create(t.Context(), other, store.Cause{Actor: homes.Person})
	require.NoError(t, err)
	_, err = s.Write(t.Context(), w.Dossier.Home().ID, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		r := dossier.Room{Name: "cellar"}
		r.ID = homes.RoomID(0)
		d.Rooms.Put(r)
		return nil
	})
	var taken *store.Taken
	require.ErrorAs(t, err, &taken)
	assert.Equal(t, "H-0900", taken.Home)
	assert.ErrorIs(t, err, store.ErrTaken)
}

func addSession(t *testing.T, s *store.Store, one store.Session, until time.Time) {
	_, err := s.AddSession(t.Context(), one, until, "")
	require.NoError(t, err)
}

func TestSessionsEnd(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	addSession(t, s, store.Session{Hash: "h", PersonID: homes.Person, Name: "laptop", ID: "1", Kind: store.LogIn}, homes.Day.Add(time.Hour))
	addSession(t, s, store.Session{Hash: "old", PersonID: homes.Person, Name: "laptop", ID: "2", Kind: store.LogIn}, homes.Day.Add(-time.Hour))
	list, err := s.Sessions(t.Context(), homes.Person)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, homes.Day, list[0].Created())
	assert.Equal(t, homes.Day.Add(time.Hour), list[0].Expires())
	p, err := s.PersonBySession(t.Context(), "h")
	require.NoError(t, err)
	assert.Equal(t, "petri", p.Login)
	_, err = s.PersonBySession(t.Context(), "old")
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.EndSession(t.Context(), "h"))
	_, err = s.PersonBySession(t.Context(), "h")
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A new address of a calendar ends the one before, and nothing else does.
func TestOneAddressOfACalendarAtATime(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	until := homes.Day.Add(time.Hour)
	kinds := func() (out []string) {
		list, err := s.Sessions(t.Context(), homes.Person)
		require.NoError(t, err)
		for _, one := range list {
			out = append(out, one.Hash)
		}
		slices.Sort(out)
		return out
	}
	addSession(t, s, store.Session{Hash: "feed", PersonID: homes.Person, Name: "calendar", ID: "1", Kind: store.Feed}, until)
	addSession(t, s, store.Session{Hash: "laptop", PersonID: homes.Person, Name: "laptop", ID: "2", Kind: store.LogIn}, until)
	addSession(t, s, store.Session{Hash: "script", PersonID: homes.Person, Name: "script", ID: "3", Kind: store.Token}, until)
	assert.Equal(t, []string{"feed", "laptop", "script"}, kinds())
	addSession(t, s, store.Session{Hash: "new feed", PersonID: homes.Person, Name: "calendar", ID: "4", Kind: store.Feed}, until)
	assert.Equal(t, []string{"laptop", "new feed", "script"}, kinds())
}

// Register entries are made for the servers that the device has paths to, or for all where there is no path.
func TestForWhichServersRegisterEntriesAreMade(t *testing.T) {
	for paths, want := range map[bool]int{true: 1, false: 2} {
		dir := t.TempDir()
		s := open(t, dir)
		d := homes.Small().Clone()
		second := dossier.Device{Name: "second server", Roles: []dossier.Role{dossier.RoleServer}}
		second.ID = homes.ID[dossier.Device](80)
		source := d.Sources[0]
		source.ID, source.Name, source.Device, source.Port = homes.ID[dossier.Source](80), "second", second.ID, 8300
		d.Devices.Put(second)
		d.Sources.Put(source)
		if !paths {
			d.Paths, d.Attempts, d.Issues, d.BusySets = nil, nil, nil, nil
		}
		screen := homes.Small().Paths[0].Device
		home := putHome(t, s, d)
		require.NoError(t, s.Exec(t.Context(), fmt.Sprintf("INSERT INTO to_register VALUES ('%s', '%s', 'screen', 'kept-out')", screen, home)))
		require.NoError(t, s.Close())
		s = open(t, dir)
		now, err := s.Load(t.Context(), home)
		require.NoError(t, err)
		assert.Len(t, now.RegisterEntries, want)
		require.NoError(t, s.Close())
	}
}

// What an older schema kept with the devices becomes register entries when the store is opened, and
// the journal tells of it.
func TestRegisterEntriesAreMovedFromTheDevices(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	d := homes.Small()
	home := putHome(t, s, d)
	require.NoError(t, s.Exec(t.Context(), fmt.Sprintf("INSERT INTO to_register VALUES ('%s', '%s', 'NV screen', 'kept-out')", d.Devices[1].ID, home)))
	require.NoError(t, s.Close())
	s = open(t, dir)
	defer s.Close()
	now, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	require.Len(t, now.RegisterEntries, 1)
	e := now.RegisterEntries[0]
	assert.Equal(t, []any{d.Devices[1].ID, d.Devices[0].ID, "NV screen", dossier.KeptOut}, []any{e.Device, e.Server, e.RecognisedAs, e.Admission})
	replayed := &dossier.Dossier{}
	entries, err := s.Journal(t.Context(), home, store.JournalQuery{})
	require.NoError(t, err)
	require.NoError(t, dossier.Apply(replayed, entries))
	assert.Equal(t, now, replayed)
	require.NoError(t, s.Close())
	s = open(t, dir)
	again, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	assert.Equal(t, now.Revision, again.Revision, "it is moved once")
}

// What is asked as of a time holds nothing that was done later, whenever it was written.
func TestTheRevisionOfATime(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	defer s.Close()
	home := putHome(t, s, homes.Small()) // two revisions, at homes.Day
	put := func(n int, done time.Time) {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person, DoneAt: done}, func(d *dossier.Dossier) error {
			r := dossier.Room{Name: fmt.Sprint("room ", n)}
			r.ID = homes.RoomID(n)
			d.Rooms.Put(r)
			return nil
		})
		require.NoError(t, err)
	}
	put(30, homes.Day.Add(-time.Hour)) // revision 3, done before and sent later
	at := func(offset time.Duration) uint64 {
		r, err := s.RevisionAt(t.Context(), home, homes.Day.Add(offset))
		require.NoError(t, err)
		return r
	}
	assert.Equal(t, uint64(3), at(time.Minute), "everything had been done")
	assert.Equal(t, uint64(0), at(-time.Minute), "revision 1 was not yet made, although 3 holds something older")
	assert.Equal(t, uint64(0), at(-2*time.Hour))
}
