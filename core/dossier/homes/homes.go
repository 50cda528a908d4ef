// Package homes makes homes for tests: a small one by hand, and arbitrary ones for properties.
package homes

import (
	"fmt"
	"net/netip"
	"time"

	"pgregory.net/rapid"

	"kaiku/core/dossier"
)

// Person and Day are who writes, and when, in these homes.
const Person = dossier.PersonID("01890000-0000-7000-8000-00000000aaaa")

// Day is a fixed instant.
var Day = time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)

func id(kind, n int) string { return fmt.Sprintf("01890000-%04x-7000-8000-%012x", kind, n) }

// RoomID returns the id of the n-th room.
func RoomID(n int) dossier.ID[dossier.Room] { return dossier.ID[dossier.Room](id(1, n)) }

// AttemptID returns the id of the n-th attempt.
func AttemptID(n int) dossier.ID[dossier.Attempt] { return dossier.ID[dossier.Attempt](id(9, n)) }

func segmentID(n int) dossier.ID[dossier.Segment]     { return dossier.ID[dossier.Segment](id(2, n)) }
func deviceID(n int) dossier.ID[dossier.Device]       { return dossier.ID[dossier.Device](id(3, n)) }
func interfaceID(n int) dossier.ID[dossier.Interface] { return dossier.ID[dossier.Interface](id(4, n)) }
func sourceID(n int) dossier.ID[dossier.Source]       { return dossier.ID[dossier.Source](id(5, n)) }
func folderID(n int) dossier.ID[dossier.Folder]       { return dossier.ID[dossier.Folder](id(6, n)) }
func pathID(n int) dossier.ID[dossier.Path]           { return dossier.ID[dossier.Path](id(7, n)) }

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
		s.ID = segmentID(n)
		d.Segments.Put(s)
	}
	for n, name := range []string{"granite server", "lamp screen"} {
		v := dossier.Device{Name: name, Room: RoomID(n), Roles: []dossier.Role{[]dossier.Role{dossier.RoleServer, dossier.RoleScreen}[n]}}
		v.ID = deviceID(n)
		d.Devices.Put(v)
		i := dossier.Interface{Device: v.ID, Name: "wired", Segment: segmentID(0), Addresses: []netip.Addr{netip.MustParseAddr(fmt.Sprintf("10.20.4.%d", 10+n))}}
		i.ID = interfaceID(n)
		d.Interfaces.Put(i)
	}
	s := dossier.Source{Device: deviceID(0), Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: 8200, ShownName: "Granite"}
	s.ID = sourceID(0)
	d.Sources.Put(s)
	f := dossier.Folder{Source: s.ID, Name: "Films", ContentKind: dossier.Film}
	f.ID = folderID(0)
	d.Folders.Put(f)
	p := dossier.Path{Name: "lamp room films", Device: deviceID(1), Source: s.ID, Folders: []dossier.ID[dossier.Folder]{f.ID}, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast}
	p.ID = pathID(0)
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
	h.ID = dossier.ID[dossier.Household](id(0, 0))
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
	n := rapid.IntRange(0, 4).Draw(t, "n")
	m := rapid.IntRange(0, 4).Draw(t, "m")
	remove := rapid.IntRange(0, 4).Draw(t, "remove") == 0
	word := rapid.StringMatching(`[a-zåäö~/@ ]{1,8}`)
	switch rapid.IntRange(0, 9).Draw(t, "kind") {
	case 0:
		h := &d.Household[0]
		h.Name = word.Draw(t, "name")
		h.Contacts = rapid.SliceOfN(rapid.Custom(func(t *rapid.T) dossier.Contact { return dossier.Contact{Name: word.Draw(t, "contact")} }), 0, 3).Draw(t, "contacts")
	case 1:
		if remove {
			d.Rooms.Delete(RoomID(n))
			return
		}
		r := dossier.Room{Name: word.Draw(t, "name"), Floor: m - 1}
		r.ID = RoomID(n)
		d.Rooms.Put(r)
	case 2:
		if remove {
			d.Segments.Delete(segmentID(n))
			return
		}
		s := dossier.Segment{Name: word.Draw(t, "name"), Prefix: netip.MustParsePrefix(fmt.Sprintf("10.%d.%d.3/24", n, m))}
		s.ID = segmentID(n)
		d.Segments.Put(s)
	case 3:
		if remove {
			d.Devices.Delete(deviceID(n))
			return
		}
		v := dossier.Device{Name: word.Draw(t, "name"), Roles: rapid.SliceOfN(rapid.SampledFrom([]dossier.Role{dossier.RoleServer, dossier.RoleScreen}), 0, 2).Draw(t, "roles")}
		if m > 2 {
			v.Room = RoomID(m)
		}
		v.ID = deviceID(n)
		d.Devices.Put(v)
	case 4:
		if remove {
			d.Interfaces.Delete(interfaceID(n))
			return
		}
		i := dossier.Interface{Device: deviceID(m), Name: word.Draw(t, "name"), HardwareAddress: dossier.HardwareAddr(fmt.Sprintf("02:4b:49:00:00:%02x", n))}
		if m > 1 {
			i.Addresses = []netip.Addr{netip.MustParseAddr(fmt.Sprintf("::ffff:10.0.%d.%d", n, m)), netip.MustParseAddr("2001:db8::1")}
		}
		i.ID = interfaceID(n)
		d.Interfaces.Put(i)
	case 5:
		s := dossier.Source{Device: deviceID(m), Name: word.Draw(t, "name"), Protocol: dossier.ProtocolUPnPAV, Port: 8000 + n}
		s.ID = sourceID(n)
		d.Sources.Put(s)
	case 6:
		f := dossier.Folder{Source: sourceID(m), Name: word.Draw(t, "name"), ContentKind: dossier.Film, ItemsOnDisk: n}
		f.ID = folderID(n)
		d.Folders.Put(f)
	case 7:
		if remove {
			d.Paths.Delete(pathID(n))
			return
		}
		p := dossier.Path{Name: word.Draw(t, "name"), Device: deviceID(m), Source: sourceID(n), Kind: dossier.AVPull, FoundBy: dossier.ByMulticast,
			DeviceEnd: dossier.End{Port: n, Name: word.Draw(t, "end")}}
		p.ID = pathID(n)
		d.Paths.Put(p)
	case 8:
		a := dossier.Attempt{Test: "reach", Subjects: []dossier.Ref{pathID(m).Ref()}, Outcome: dossier.Pass, How: dossier.ByMachine, By: Person,
			At: Day.Add(time.Duration(n)*time.Minute + time.Microsecond), Values: map[string]float64{word.Draw(t, "value"): 1.5},
			Facts: []dossier.Fact{{Subject: pathID(m).Ref(), Name: "port", Value: "1"}}}
		a.ID = AttemptID(n)
		d.Attempts.Put(a)
	case 9:
		i := dossier.Issue{Symptom: word.Draw(t, "symptom"), State: dossier.IssueOpen, OpenedBy: Person, OpenedAt: Day}
		for x := range m {
			i.Tries = append(i.Tries, dossier.Try{ID: id(11, x), At: Day, By: Person, What: word.Draw(t, "what")})
			i.Subjects = append(i.Subjects, RoomID(x).Ref())
		}
		i.ID = dossier.ID[dossier.Issue](id(10, n))
		d.Issues.Put(i)
	}
}
