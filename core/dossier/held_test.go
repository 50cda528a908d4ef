package dossier_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// faultsOf are the faults of a write, with and without so many other entries that names are counted instead of compared.
func faultsOf(t *testing.T, change func(*dossier.Dossier)) dossier.Faults {
	t.Helper()
	var out dossier.Faults
	for _, many := range []bool{false, true} {
		old := homes.Small()
		next := old.Clone()
		change(next)
		if many {
			for n := range 100 {
				r := dossier.Room{Name: fmt.Sprint("closet ", n)}
				r.ID = homes.ID[dossier.Room](500 + n)
				next.Rooms.Put(r)
			}
		}
		entries, err := dossier.Seal(old, next, dossier.Cause{At: homes.Day})
		require.NoError(t, err)
		faults := dossier.Check(next, entries)
		if many {
			require.Equal(t, out, faults, "a large write is checked like a small one")
		}
		out = faults
	}
	return out
}

func TestTwoRecordsThatSayTheSame(t *testing.T) {
	setting := func(d *dossier.Dossier, n int, at int, name string) {
		s := dossier.Setting{Subject: d.Devices[at].ID.Ref(), Name: name, Value: "on"}
		s.ID = homes.ID[dossier.Setting](n)
		d.Settings.Put(s)
	}
	entry := func(d *dossier.Dossier, n int, device, server dossier.ID[dossier.Device]) {
		e := dossier.RegisterEntry{Device: device, Server: server, Admission: dossier.LetIn}
		e.ID = homes.ID[dossier.RegisterEntry](n)
		d.RegisterEntries.Put(e)
	}
	third := func(d *dossier.Dossier) dossier.ID[dossier.Device] {
		v := dossier.Device{Name: "third", Roles: []dossier.Role{dossier.RoleServer}}
		v.ID = homes.ID[dossier.Device](7)
		d.Devices.Put(v)
		return v.ID
	}
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		faults int
	}{
		{"one setting", func(d *dossier.Dossier) { setting(d, 1, 0, "Sleep") }, 0},
		{"two names of one device", func(d *dossier.Dossier) { setting(d, 1, 0, "Sleep"); setting(d, 2, 0, "Wake") }, 0},
		{"one name on two devices", func(d *dossier.Dossier) { setting(d, 1, 0, "Sleep"); setting(d, 2, 1, "Sleep") }, 0},
		{"one name twice", func(d *dossier.Dossier) { setting(d, 1, 0, "Sleep"); setting(d, 2, 0, "SLEEP") }, 2},
		{"one entry of the register", func(d *dossier.Dossier) { entry(d, 1, d.Devices[1].ID, d.Devices[0].ID) }, 0},
		{"a device at two servers", func(d *dossier.Dossier) {
			entry(d, 1, d.Devices[1].ID, d.Devices[0].ID)
			entry(d, 2, d.Devices[1].ID, third(d))
		}, 0},
		{"two devices at one server", func(d *dossier.Dossier) {
			entry(d, 1, d.Devices[1].ID, d.Devices[0].ID)
			entry(d, 2, third(d), d.Devices[0].ID)
		}, 0},
		{"a device twice at one server", func(d *dossier.Dossier) {
			entry(d, 1, d.Devices[1].ID, d.Devices[0].ID)
			entry(d, 2, d.Devices[1].ID, d.Devices[0].ID)
		}, 2},
		{"a name of two rooms", func(d *dossier.Dossier) { d.Rooms[1].Name = d.Rooms[0].Name }, 1},
	} {
		assert.Len(t, faultsOf(t, c.change), c.faults, c.name)
	}
}

// A source that stops speaking what a path in use needs is refused; one that only retired paths came from is not.
func TestASourceSpeaksWhatItsPathsNeed(t *testing.T) {
	silence := func(d *dossier.Dossier) { d.Sources[0].Protocol = dossier.ProtocolSMB }
	require.Len(t, faultsOf(t, silence), 1)
	assert.Equal(t, dossier.FaultProtocol, faultsOf(t, silence)[0].Code)
	assert.Empty(t, faultsOf(t, func(d *dossier.Dossier) { silence(d); d.Paths[0].Retired = true }))
	assert.Empty(t, faultsOf(t, func(d *dossier.Dossier) {
		second := d.Sources[0]
		second.ID, second.Name = homes.ID[dossier.Source](1), "second"
		second.Protocol = dossier.ProtocolSMB
		d.Sources.Put(second)
	}), "another source may speak what it likes")
	assert.Empty(t, faultsOf(t, func(d *dossier.Dossier) { d.Sources[0].Name = "other" }))
}

// A path that brought one folder brings none when that goes, and not all of them; a folder that is taken up again counts.
func TestALastFolderThatGoesLeavesNone(t *testing.T) {
	old := homes.Small()
	next := old.Clone()
	second := next.Folders[0]
	second.ID, second.Name = homes.ID[dossier.Folder](1), "Series"
	next.Folders.Put(second)
	next.Paths[0].Folders = append(next.Paths[0].Folders, second.ID)
	base := next.Clone()
	next.Folders.Delete(base.Folders[0].ID)
	require.Empty(t, dossier.Settle(base, next))
	assert.False(t, next.Paths[0].NoFolders, "one is left")
	base = next.Clone()
	next.Folders.Delete(second.ID)
	require.Empty(t, dossier.Settle(base, next))
	assert.True(t, next.Paths[0].NoFolders)
	assert.Empty(t, next.Paths[0].Folders)
	next.Folders.Put(second)
	next.Paths[0].Folders = []dossier.ID[dossier.Folder]{second.ID}
	require.Empty(t, dossier.Settle(base, next))
	assert.False(t, next.Paths[0].NoFolders)
}

func TestTheJournalCountsAndTellsWhenItWasDone(t *testing.T) {
	for done, told := range map[time.Duration]bool{0: false, time.Second: false, time.Minute - time.Millisecond: false, time.Minute: true, time.Hour: true} {
		old := homes.Small()
		next := old.Clone()
		next.Rooms[0].Note, next.Rooms[1].Note = "damp", "dry"
		entries, err := dossier.Seal(old, next, dossier.Cause{Actor: homes.Person, At: homes.Day, DoneAt: homes.Day.Add(-done)})
		require.NoError(t, err)
		require.Len(t, entries, 2)
		assert.Equal(t, []int{1, 2}, []int{entries[0].N, entries[1].N})
		assert.Equal(t, old.Revision+1, entries[0].Revision)
		assert.Equal(t, old.Revision+1, next.Revision)
		assert.Equal(t, told, !entries[0].DoneAt.IsZero(), "%s later", done)
	}
}

// What can be taken back follows from the verbs of a kind and the rules of its members.
func TestWhatCanBeUndone(t *testing.T) {
	of := func(kind string, act dossier.Act, members ...string) bool {
		e := dossier.Entry{Act: act, Subject: dossier.Ref{Kind: kind, ID: "x"}, After: map[string]json.RawMessage{}}
		for _, m := range members {
			e.After["/"+m] = json.RawMessage(`"x"`)
		}
		return e.Undoable()
	}
	assert.True(t, of("room", dossier.Added))
	assert.True(t, of("room", dossier.Removed))
	assert.True(t, of("room", dossier.Changed, "name", "note"))
	assert.False(t, of("room", dossier.Changed, "name", "nothing"))
	assert.True(t, of("attachment", dossier.Removed), "its body is kept")
	assert.True(t, of("attachment", dossier.Added))
	assert.False(t, of("attempt", dossier.Added))
	assert.False(t, of("kettle", dossier.Added))
	for _, k := range dossier.Kinds {
		for _, f := range k.Fields {
			if k.Allows(dossier.Set) {
				assert.Equal(t, f.Rule == dossier.Plain, of(k.Name, dossier.Changed, f.Name), "%s of a %s", f.Name, k.Name)
			}
		}
	}
}

func TestSmallForms(t *testing.T) {
	_, err := dossier.ParseDate("1970-01-01")
	require.NoError(t, err)
	_, err = dossier.ParseDate("1969-12-31")
	require.ErrorContains(t, err, "2026-03-31", "before there were such homes")
	for in, want := range map[string][]string{"1234567": {"1234567"}, "12345678": {"12345678", "345678", "5678"}, "x": nil, "1": {"1"}} {
		assert.Equal(t, want, dossier.SearchKeys(in), in)
	}
	long := "1234567890123456789012345678901234567890"
	assert.NotNil(t, dossier.SearchKeys(long))
	assert.Nil(t, dossier.SearchKeys(long+"1"))
	assert.Equal(t, "abz019", dossier.Folded("a-B z0.1 9ä\x7f"))
	assert.Equal(t, map[string]string{"a": "1", "b": "2"}, dossier.Said("ends", "a", "1", "b", "2").Phrases[0].Of)
	assert.Equal(t, map[string]string{"a": "1"}, dossier.Said("ends", "a", "1", "b").Phrases[0].Of, "a slot without a name is left out")
	assert.Empty(t, dossier.Said("ends").Phrases[0].Of)
	assert.Equal(t, []dossier.Protocol{dossier.ProtocolUPnPAV}, dossier.AVPull.Speaks())
	assert.Contains(t, dossier.Share.Speaks(), dossier.ProtocolSMB)
	assert.NotContains(t, dossier.Share.Speaks(), dossier.ProtocolUPnPAV)
	assert.Nil(t, dossier.PathKind("pigeon").Speaks())
}

// The names of kinds are part of the API: they come from the types, and no careless edit of a type or of the rule may change them.
func TestNamesOfKinds(t *testing.T) {
	want := map[string][]string{"dhcp-server": {"DHCPServer"}, "register-entry": {"RegisterEntry"}, "household": {"Household"}, "busy-set": {"BusySet"}, "settings-copy": {"SettingsCopy"}, "chain-link": {"ChainLink"}}
	for name, types := range want {
		k := dossier.KindNamed(name)
		require.NotNil(t, k, name)
		assert.Equal(t, types[0], k.Type.Name())
	}
	owners := map[string]string{"interface": "device", "source": "device", "folder": "source", "setting": "", "room": "", "path": ""}
	for name, member := range owners {
		f, owned := dossier.KindNamed(name).Owner()
		assert.Equal(t, member, f.Name, name)
		assert.Equal(t, member != "", owned, name)
	}
	assert.True(t, slices.ContainsFunc(dossier.Kinds, func(k *dossier.Kind) bool { return k.Table() == "dhcp_servers" }))
}
