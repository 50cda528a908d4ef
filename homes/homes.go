// Package homes makes homes for tests: a small one by hand, and arbitrary ones for properties.
package homes

import (
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"time"

	"pgregory.net/rapid"

	"kaiku/core/dossier"
)

// Person and Day are who writes, and when, in these homes.
const Person = dossier.PersonID("01890000-0000-7000-8000-00000000aaaa")

// Day is a fixed instant.
var Day = time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)

func id(kind string, n int) string {
	at := slices.IndexFunc(dossier.Kinds, func(k *dossier.Kind) bool { return k.Name == kind })
	return fmt.Sprintf("01890000-%04x-7000-8000-%012x", at, n)
}

// ID returns the id of the n-th record of kind T.
func ID[T dossier.Record](n int) dossier.ID[T] { return dossier.ID[T](id(kindOf[T]().Name, n)) }

func kindOf[T dossier.Record]() *dossier.Kind { return dossier.KindOf(reflect.TypeFor[T]()) }

// RoomID returns the id of the n-th room.
func RoomID(n int) dossier.ID[dossier.Room] { return ID[dossier.Room](n) }

// AttemptID returns the id of the n-th attempt.
func AttemptID(n int) dossier.ID[dossier.Attempt] { return ID[dossier.Attempt](n) }

// Small is a home with a server in the cellar, a screen upstairs and one path between them.
func Small() *dossier.Dossier {
	d := &dossier.Dossier{}
	begin(d)
	h := d.Household[0]
	h.Contacts = []dossier.Contact{{Name: "Keeper", Phone: "555-0101"}}
	d.Household.Put(h)
	for n, name := range []string{"cellar", "lamp room"} {
		r := dossier.Room{Name: name, Floor: n*3 - 1}
		r.ID = RoomID(n)
		d.Rooms.Put(r)
	}
	for n, prefix := range []string{"10.20.4.0/24", "10.20.5.0/24"} {
		s := dossier.Segment{Name: []string{"home", "guest"}[n], Prefix: netip.MustParsePrefix(prefix)}
		s.ID = ID[dossier.Segment](n)
		d.Segments.Put(s)
	}
	for n, name := range []string{"granite server", "lamp screen"} {
		v := dossier.Device{Name: name, Room: RoomID(n), Roles: []dossier.Role{[]dossier.Role{dossier.RoleServer, dossier.RoleScreen}[n]}}
		v.ID = ID[dossier.Device](n)
		d.Devices.Put(v)
		i := dossier.Interface{Device: v.ID, Name: "wired", Segment: ID[dossier.Segment](0), Addresses: []netip.Addr{netip.MustParseAddr(fmt.Sprintf("10.20.4.%d", 10+n))}}
		i.ID = ID[dossier.Interface](n)
		d.Interfaces.Put(i)
	}
	s := dossier.Source{Device: ID[dossier.Device](0), Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: 40210, ShownName: "Granite"}
	s.ID = ID[dossier.Source](0)
	d.Sources.Put(s)
	f := dossier.Folder{Source: s.ID, Name: "Films", ContentKind: dossier.Film}
	f.ID = ID[dossier.Folder](0)
	d.Folders.Put(f)
	p := dossier.Path{Name: "lamp room films", Device: ID[dossier.Device](1), Source: s.ID, Folders: []dossier.ID[dossier.Folder]{f.ID}, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast}
	p.ID = ID[dossier.Path](0)
	d.Paths.Put(p)
	if err := dossier.Apply(d, nil); err != nil {
		panic(err)
	}
	stampAll(d)
	return d
}

// stampAll gives every record its household and revision 1, as a write would.
func stampAll(d *dossier.Dossier) {
	old := &dossier.Dossier{}
	if _, err := dossier.Seal(old, d, dossier.Cause{Actor: Person, At: Day}); err != nil {
		panic(err)
	}
}

func begin(d *dossier.Dossier) {
	h := dossier.Household{Code: "H-0900", Name: "Keeper's Test", Custodian: Person}
	h.ID = ID[dossier.Household](0)
	d.Household.Put(h)
}

// Draw returns an arbitrary home.
func Draw(t *rapid.T) *dossier.Dossier {
	d := &dossier.Dossier{}
	for range rapid.IntRange(1, 30).Draw(t, "edits") {
		Edit(t, d)
	}
	stampAll(d)
	return d
}

// Edit makes one arbitrary change: it adds, rewrites or removes a record of some kind. The
// result may well break an invariant.
func Edit(t *rapid.T, d *dossier.Dossier) {
	if len(d.Household) == 0 {
		begin(d)
		return
	}
	k := dossier.KindNamed(rapid.SampledFrom(kindNames()).Draw(t, "kind"))
	if k.Name == "household" {
		h := record(t, d, k, 0, false).(*dossier.Household)
		h.Code = d.Home().Code
		d.Household.Put(*h)
		return
	}
	n := rapid.IntRange(0, 4).Draw(t, "n")
	if rapid.IntRange(0, 4).Draw(t, "remove") == 0 {
		dossier.RemoveRecord(d, dossier.Ref{Kind: k.Name, ID: id(k.Name, n)})
		return
	}
	k.In(d).PutAny(record(t, d, k, n, false))
}

// Full is a home with one record of every kind, all of whose members are given.
func Full() *dossier.Dossier {
	return rapid.Custom(func(t *rapid.T) *dossier.Dossier {
		d := &dossier.Dossier{}
		for _, k := range dossier.Kinds {
			k.In(d).PutAny(record(t, d, k, 0, true))
		}
		d.Household[0].Code = "H-0900"
		d.Changes[0].Done = d.Changes[0].FollowUps
		d.SettingsCopies[0].TakenAt = d.Changes[0].At
		d.Openings[0].LastPort = d.Openings[0].Port
		d.Segments[0].PoolLast = d.Segments[0].PoolFirst
		d.DHCPServers[0].PoolLast = d.DHCPServers[0].PoolFirst
		d.Paths[0].FallBack, d.Paths[0].NoFolders = "", false
		d.Paths[0].Kind, d.Sources[0].Protocol = dossier.AVPull, dossier.ProtocolUPnPAV
		other := d.Devices[0]
		other.ID, other.Name = ID[dossier.Device](1), "another"
		d.Devices.Put(other)
		d.RegisterEntries[0].Server = other.ID
		second := d.Interfaces[0]
		second.ID, second.Name = ID[dossier.Interface](1), "second"
		d.Interfaces.Put(second)
		d.Links[0].Far = second.ID
		stampAll(d)
		return d
	}).Example(1)
}

func kindNames() (out []string) {
	for _, k := range dossier.Kinds {
		out = append(out, k.Name)
	}
	return out
}

// record returns a pointer to an arbitrary record of the kind with its n-th id. It usually refers
// to records that are there. With whole, nothing is left out.
func record(t *rapid.T, d *dossier.Dossier, k *dossier.Kind, n int, whole bool) any {
	r := reflect.New(k.Type)
	artist{t, d, whole}.fill(k.Fields, r.Elem())
	dossier.SetID(r.Interface(), id(k.Name, n))
	return r.Interface()
}

// artist draws members of records.
type artist struct {
	t     *rapid.T
	d     *dossier.Dossier
	whole bool
}

func (a artist) fill(fields []dossier.Field, group reflect.Value) {
	for _, f := range fields {
		v := f.In(group)
		if f.Rule == dossier.Server || !a.whole && !f.Required && rapid.Bool().Draw(a.t, "leave out "+f.Name) {
			continue
		}
		a.value(f, v)
	}
}

// value draws a member, a list as well.
func (a artist) value(f dossier.Field, v reflect.Value) {
	if !f.List {
		a.draw(f, v)
		return
	}
	least := 0
	if a.whole {
		least = 1
	}
	for i := range rapid.IntRange(least, 3).Draw(a.t, "length of "+f.Name) {
		one := reflect.New(v.Type().Elem()).Elem()
		a.draw(f, one)
		for _, g := range f.Group {
			if g.Name == "id" { // elements stand in the order of their ids
				g.In(one).SetString(fmt.Sprintf("p%02d", i))
			}
		}
		v.Set(reflect.Append(v, one))
	}
}

// draw sets v to an arbitrary value of the member, in forms that are not yet canonical too.
func (a artist) draw(f dossier.Field, v reflect.Value) {
	n := rapid.IntRange(0, 4).Draw(a.t, f.Name)
	switch {
	case f.Group != nil:
		a.fill(f.Group, v)
	case f.Refers == "person":
		v.SetString(string(Person))
	case f.Refers == "any":
		kinds := f.Kinds
		if len(kinds) == 0 {
			kinds = []string{"room", "device", "path", "outlet"}
		}
		kind := rapid.SampledFrom(kinds).Draw(a.t, "kind of "+f.Name)
		v.Set(reflect.ValueOf(dossier.Ref{Kind: kind, ID: a.existing(kind, n)}))
	case f.Refers != "":
		v.SetString(a.existing(f.Refers, n))
	case f.Enum != nil:
		v.SetString(rapid.SampledFrom(f.Enum).Draw(a.t, f.Name+" word"))
	default:
		v.Set(reflect.ValueOf(plain(a.t, f, v, n)).Convert(v.Type()))
	}
}

// existing returns the id of a record that is there, but sometimes of one that may not be.
func (a artist) existing(kind string, n int) string {
	rows := dossier.KindNamed(kind).In(a.d)
	switch {
	case rows.Len() == 0 && a.whole:
		return id(kind, 0)
	case rows.Len() == 0, n == 4 && !a.whole:
		return id(kind, n)
	}
	return rows.At(n % rows.Len()).Key()
}

func plain(t *rapid.T, f dossier.Field, v reflect.Value, n int) any {
	switch v.Interface().(type) {
	case time.Time:
		return Day.Add(time.Duration(n)*time.Minute + time.Microsecond)
	case netip.Addr:
		return netip.MustParseAddr([]string{"10.0.0.1", "::ffff:10.0.3.4", "2001:db8::1", "10.0.0.9", "fe80::1"}[n])
	case netip.Prefix:
		return netip.MustParsePrefix(fmt.Sprintf("10.%d.%d.3/24", n, n))
	case dossier.HardwareAddr:
		return fmt.Sprintf("02:4b:49:00:00:%02x", n)
	case dossier.Date:
		return fmt.Sprintf("2026-03-0%d", n+1)
	case dossier.Clock:
		return fmt.Sprintf("2%d:30", n%4)
	case map[string]float64:
		return map[string]float64{word.Draw(t, "value"): 1.5}
	case map[string]string:
		return map[string]string{word.Draw(t, "name"): "x"}
	case map[string]dossier.Value:
		return map[string]dossier.Value{word.Draw(t, "name"): dossier.Said("x", "of", "y").And(dossier.Named("z"))}
	}
	switch v.Kind() {
	case reflect.Bool:
		return true // the zero value is drawn by leaving it out
	case reflect.Int, reflect.Uint64:
		return n + 1
	case reflect.Float64:
		return float64(n) + .5
	}
	return word.Draw(t, f.Name)
}

var word = rapid.StringMatching(`[a-zåäö~/@ ]{1,8}`)

// PutIn puts a record into d under the n-th id of its kind.
func PutIn(d *dossier.Dossier, n int, r dossier.Record) {
	k := dossier.KindOf(reflect.TypeOf(r))
	p := reflect.New(k.Type)
	p.Elem().Set(reflect.ValueOf(r))
	dossier.SetID(p.Interface(), id(k.Name, n))
	k.In(d).PutAny(p.Interface())
}
