package dossier_test

import (
	"encoding"
	"encoding/json"
	"fmt"
	"net/netip"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
)

func TestReplayGivesTheSameDossier(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := &dossier.Dossier{}
		replayed := &dossier.Dossier{}
		var whole []dossier.Entry
		for range rapid.IntRange(1, 25).Draw(t, "writes") {
			next := d.Clone()
			homes.Edit(t, next)
			if len(dossier.Settle(d, next)) > 0 {
				continue
			}
			before := d.Clone()
			entries, err := dossier.Seal(d, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
			require.NoError(t, err)
			if len(dossier.Check(next, entries)) > 0 {
				continue
			}
			require.Equal(t, before, d, "a write changed the value it began from")
			if len(entries) == 0 {
				require.Equal(t, d, next)
			}
			whole = append(whole, entries...)
			d = next
			require.NoError(t, dossier.Apply(replayed, entries))
			require.Equal(t, d, replayed)
		}
		fresh := &dossier.Dossier{}
		require.NoError(t, dossier.Apply(fresh, viaJSON(t, whole)))
		require.Equal(t, d, fresh)
	})
}

func viaJSON(t require.TestingT, in []dossier.Entry) (out []dossier.Entry) {
	b, err := json.Marshal(in)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(b, &out))
	return out
}

func TestCloneSharesNothing(t *testing.T) {
	d := homes.Small()
	c := d.Clone()
	require.Equal(t, d, c)
	c.Devices[0].Roles[0] = "tuner"
	c.Interfaces[0].Addresses[0] = netip.MustParseAddr("10.9.9.9")
	c.Household[0].Contacts[0].Name = "changed"
	assert.Equal(t, homes.Small(), d)
}

func TestSealPutsBackWhatWasWrittenButNotChanged(t *testing.T) {
	old := homes.Small()
	next := old.Clone()
	room := next.Rooms[0]
	room.Revision = 77
	next.Rooms.Put(room)
	entries, err := dossier.Seal(old, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	assert.Empty(t, entries)
	assert.Equal(t, old, next)
}

func TestSealPutsBackAnotherFormOfTheSame(t *testing.T) {
	old := homes.Small()
	next := old.Clone()
	next.Sources[0].ShownName = old.Sources[0].ShownName
	next.Rooms[0].Revision = old.Rooms[0].Revision
	next.Issues = nil
	next.Household[0].Contacts = append([]dossier.Contact{}, old.Household[0].Contacts...)
	next.Devices[0].Roles = append([]dossier.Role{}, old.Devices[0].Roles...)
	next.Paths[0].Folders = append(next.Paths[0].Folders[:0:0], old.Paths[0].Folders...)
	next.Interfaces[0].Addresses[0] = netip.AddrFrom16(old.Interfaces[0].Addresses[0].As16())
	empty := old.Clone()
	empty.Household[0].Contacts = nil
	_, err := dossier.Seal(old, empty, dossier.Cause{At: homes.Day})
	require.NoError(t, err)
	again := empty.Clone()
	again.Household[0].Contacts = []dossier.Contact{}
	changed := empty.Clone()
	changed.Household[0].Contacts, changed.Household[0].Name = []dossier.Contact{}, "Other"
	entries, err := dossier.Seal(empty, changed, dossier.Cause{At: homes.Day})
	require.NoError(t, err)
	assert.NotContains(t, entries[0].After, "/contacts", "the journal holds the canonical form")
	for was, is := range map[*dossier.Dossier]*dossier.Dossier{old: next, empty: again} {
		entries, err := dossier.Seal(was, is, dossier.Cause{At: homes.Day})
		require.NoError(t, err)
		assert.Empty(t, entries)
		assert.Equal(t, was, is, "an empty list is none, a mapped address is the address")
	}
}

func TestRemovalFollowsTheDeclaredReferences(t *testing.T) {
	for _, c := range []struct {
		name   string
		remove func(*dossier.Dossier)
		check  func(*testing.T, *dossier.Dossier, dossier.Faults)
	}{
		{"a room clears the device that stood in it", func(d *dossier.Dossier) { d.Rooms.Delete(d.Devices[0].Room) },
			func(t *testing.T, d *dossier.Dossier, f dossier.Faults) {
				assert.Empty(t, f)
				assert.Empty(t, d.Devices[0].Room)
			}},
		{"a device takes its adapters along", func(d *dossier.Dossier) { d.Paths = nil; d.Devices.Delete(d.Devices[0].ID) },
			func(t *testing.T, d *dossier.Dossier, f dossier.Faults) {
				assert.Empty(t, f)
				assert.Len(t, d.Interfaces, 1)
				assert.Nil(t, d.Sources)
				assert.Nil(t, d.Folders)
			}},
		{"a server that a path uses stays", func(d *dossier.Dossier) { d.Devices.Delete(d.Devices[0].ID) },
			func(t *testing.T, _ *dossier.Dossier, f dossier.Faults) {
				require.Len(t, f, 1)
				assert.Equal(t, dossier.FaultStillUsed, f[0].Code)
				assert.Equal(t, "path", f[0].Values["by"])
			}},
		{"a folder leaves the list of the path", func(d *dossier.Dossier) { d.Folders.Delete(d.Folders[0].ID) },
			func(t *testing.T, d *dossier.Dossier, f dossier.Faults) {
				assert.Empty(t, f)
				assert.Nil(t, d.Paths[0].Folders)
			}},
	} {
		t.Run(c.name, func(t *testing.T) {
			old := homes.Small()
			next := old.Clone()
			c.remove(next)
			faults := dossier.Settle(old, next)
			c.check(t, next, faults)
		})
	}
}

func TestCheckRefusesWhatWouldBeMeaningless(t *testing.T) {
	for _, c := range []struct {
		name    string
		change  func(*dossier.Dossier)
		pointer string
		code    dossier.FaultCode
	}{
		{"a name twice, in other letters", func(d *dossier.Dossier) { d.Rooms[1].Name = strings.ToUpper(d.Rooms[0].Name) }, "/name", dossier.FaultNotUnique},
		{"a room that is not there", func(d *dossier.Dossier) { d.Devices[0].Room = homes.RoomID(99) }, "/room", dossier.FaultUnknownRecord},
		{"an unknown role", func(d *dossier.Dossier) { d.Devices[0].Roles = []dossier.Role{"kettle"} }, "/roles", dossier.FaultNotListed},
		{"a device without a name", func(d *dossier.Dossier) { d.Devices[0].Name = "" }, "/name", dossier.FaultRequired},
		{"a pool that ends before it begins", func(d *dossier.Dossier) {
			d.Segments[0].PoolFirst, d.Segments[0].PoolLast = netip.MustParseAddr("10.20.4.9"), netip.MustParseAddr("10.20.4.2")
		}, "/poolLast", dossier.FaultRange},
		{"half a pool", func(d *dossier.Dossier) { d.Segments[0].PoolFirst = netip.MustParseAddr("10.20.4.9") }, "/poolLast", dossier.FaultRequired},
		{"a path that falls back to itself", func(d *dossier.Dossier) { d.Paths[0].FallBack = d.Paths[0].ID }, "/fallBack", dossier.FaultSelf},
		{"a link from an adapter to itself", func(d *dossier.Dossier) {
			l := dossier.Link{Near: d.Interfaces[0].ID, Far: d.Interfaces[0].ID, Kind: dossier.LinkCable}
			l.ID = homes.ID[dossier.Link](1)
			d.Links.Put(l)
		}, "/far", dossier.FaultSelf},
		{"an opening that ends before it begins", func(d *dossier.Dossier) {
			o := dossier.Opening{Device: d.Devices[0].ID, Transport: dossier.TCP, Port: 9000, LastPort: 8000, Direction: dossier.Inward, State: dossier.OpeningOpen}
			o.ID = homes.ID[dossier.Opening](1)
			d.Openings.Put(o)
		}, "/lastPort", dossier.FaultRange},
		{"hours that never end", func(d *dossier.Dossier) {
			r := dossier.Restriction{Name: "children", From: "20:00"}
			r.ID = homes.ID[dossier.Restriction](1)
			d.Restrictions.Put(r)
		}, "/until", dossier.FaultRequired},
		{"a restart done that was not owed", func(d *dossier.Dossier) {
			c := dossier.Change{Device: d.Devices[0].ID, What: "port", FollowUps: []dossier.FollowUp{dossier.FollowUpIndex}, Done: []dossier.FollowUp{dossier.FollowUpRestart}}
			c.ID = homes.ID[dossier.Change](1)
			d.Changes.Put(c)
		}, "/done", dossier.FaultNotAFollowUp},
		{"a reading taken at a room's record", func(d *dossier.Dossier) {
			r := dossier.Reading{What: dossier.SignalDbm, Value: -60, Subject: d.Rooms[0].ID.Ref(), How: dossier.KnownRead, At: homes.Day}
			r.ID = homes.ID[dossier.Reading](1)
			d.Readings.Put(r)
		}, "/subject", dossier.FaultWrongKind},
		{"an unknown word in a list of groups", func(d *dossier.Dossier) {
			d.Folders[0].Locations = []dossier.Location{{Form: dossier.FormSMB, Text: "x"}, {Form: "pigeon", Text: "y"}}
		}, "/locations/1/form", dossier.FaultNotListed},
		{"a source bound to another machine's adapter", func(d *dossier.Dossier) { d.Sources[0].Interface = d.Interfaces[1].ID }, "/interface", dossier.FaultWrongDevice},
	} {
		t.Run(c.name, func(t *testing.T) {
			old := homes.Small()
			next := old.Clone()
			c.change(next)
			entries, err := dossier.Seal(old, next, dossier.Cause{At: homes.Day})
			require.NoError(t, err)
			faults := dossier.Check(next, entries)
			require.Len(t, faults, 1)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Equal(t, c.code, faults[0].Code)
		})
	}
	bad := homes.Small().Clone()
	odd := dossier.Room{Name: "x"}
	odd.ID = "not-an-id"
	bad.Rooms.Put(odd)
	entries, err := dossier.Seal(homes.Small(), bad, dossier.Cause{At: homes.Day})
	require.NoError(t, err)
	assert.Equal(t, dossier.FaultBadID, dossier.Check(bad, entries)[0].Code)
}

// The tags are a small language that the compiler does not check.
func TestTagsSayOnlyWhatIsKnown(t *testing.T) {
	known := map[string]*regexp.Regexp{
		"json": regexp.MustCompile(`^[a-z][A-Za-z0-9]*(,omitzero)?$`), "title": regexp.MustCompile(`^[A-Z].*[^.]$`), "doc": regexp.MustCompile(`^[A-Z0-9].*\.$`),
		"rule": regexp.MustCompile(`^(fixed|case|server)$`), "onremove": regexp.MustCompile(`^(restrict|clear|cascade)$`),
		"gorm": regexp.MustCompile(`^((primaryKey;)?serializer:cell|column:[a-z0-9_]+)$`), "label": regexp.MustCompile(`^true$`), "personal": regexp.MustCompile(`^true$`), "searched": regexp.MustCompile(`^no$`),
		"part": regexp.MustCompile(`^[A-Z].*[^.]$`), "kinds": regexp.MustCompile(`^[a-z-]+( [a-z-]+)*$`),
		"unique": regexp.MustCompile(`^(household|[a-z]+)$`), "pattern": regexp.MustCompile(`^\^.*\$$`), "patternDescription": regexp.MustCompile(`^\S.*[^.]$`),
		"minLength": regexp.MustCompile(`^\d+$`), "maxLength": regexp.MustCompile(`^\d+$`),
		"minimum": regexp.MustCompile(`^-?\d+$`), "maximum": regexp.MustCompile(`^\d+$`),
	}
	one := regexp.MustCompile(`([A-Za-z]+):"([^"]*)"`)
	for _, k := range dossier.Kinds {
		assert.Equal(t, k, dossier.KindOf(k.Type))
		assert.Regexp(t, `^[a-z]+(-[a-z]+)*$`, k.Name)
		assert.Contains(t, dossier.Areas, k.Area(), k.Name)
		for _, sf := range reflect.VisibleFields(k.Type) {
			if sf.Anonymous || sf.Name == "Household" {
				continue
			}
			where := k.Name + "." + sf.Name
			left := one.ReplaceAllStringFunc(string(sf.Tag), func(tag string) string {
				m := one.FindStringSubmatch(tag)
				require.Contains(t, known, m[1], where)
				assert.Regexp(t, known[m[1]], m[2], where+" "+m[1])
				return ""
			})
			assert.Empty(t, strings.TrimSpace(left), where)
			f, ok := k.Field(strings.Split(sf.Tag.Get("json"), ",")[0])
			require.True(t, ok, where)
			assert.True(t, strings.EqualFold(f.Name, sf.Name), "%s: Go and JSON name must be the same, for the columns", where)
			assert.NotEmpty(t, f.Doc, where)
			if f.Rule != dossier.Server {
				assert.NotEmpty(t, f.Title, where)
			}
			if f.Refers != "" && f.Refers != "person" {
				assert.NotEmpty(t, f.OnRemove, where+": a reference says what a removal does")
				for _, named := range f.Kinds {
					assert.NotNil(t, dossier.KindNamed(named), where)
				}
				if f.Refers != "any" {
					assert.NotNil(t, dossier.KindNamed(f.Refers), where)
				}
			}
			_, text := reflect.Zero(sf.Type).Interface().(encoding.TextMarshaler)
			plain := slices.Contains([]reflect.Kind{reflect.Bool, reflect.Int, reflect.Uint64, reflect.Float64}, sf.Type.Kind()) ||
				sf.Type.Kind() == reflect.String && f.Refers == "" && !text && f.Name != "id"
			assert.Equal(t, !plain, strings.Contains(sf.Tag.Get("gorm"), "serializer:cell"), where+": serializer")
		}
	}
}

func TestKindsReferOnlyUpwards(t *testing.T) {
	seen := map[string]bool{"person": true, "any": true}
	for _, k := range dossier.Kinds {
		seen[k.Name] = true
		for _, f := range k.Fields {
			if f.Refers != "" {
				assert.True(t, seen[f.Refers], "%s.%s refers to %s", k.Name, f.Name, f.Refers)
			}
		}
	}
}

// A home with a record of every kind passes the checks, and its journal gives it back.
func TestEveryKindIsJournaled(t *testing.T) {
	full := homes.Full()
	entries, err := dossier.Seal(&dossier.Dossier{}, full, dossier.Cause{Actor: homes.Person, At: homes.Day})
	require.NoError(t, err)
	assert.Empty(t, dossier.Check(full, entries))
	replayed := &dossier.Dossier{}
	require.NoError(t, dossier.Apply(replayed, viaJSON(t, entries)))
	assert.Equal(t, full, replayed)
	for _, k := range dossier.Kinds {
		r := k.In(full).At(0)
		for _, f := range k.Fields {
			if f.Name != "fallBack" && f.Name != "noFolders" {
				assert.False(t, reflect.ValueOf(f.Get(r)).IsZero(), "%s.%s is left out", k.Name, f.Name)
			}
		}
		assert.NotEmpty(t, full.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()}), k.Name)
	}
}

func TestJSONRoundTripOfEveryKind(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		b, err := json.Marshal(d)
		require.NoError(t, err)
		var back dossier.Dossier
		require.NoError(t, json.Unmarshal(b, &back))
		for _, k := range dossier.Kinds {
			for i := range k.In(d).Len() {
				was, _ := json.Marshal(k.In(d).At(i))
				is, _ := json.Marshal(k.In(&back).At(i))
				assert.JSONEq(t, string(was), string(is))
			}
		}
	})
}

func TestHardwareAddrReadsCommonSpellings(t *testing.T) {
	for _, s := range []string{"02:4B:49:00:00:10", "02-4b-49-00-00-10", "024b.4900.0010", "024b49000010", " 02:4b:49:00:00:10 "} {
		got, err := dossier.ParseHardwareAddr(s)
		require.NoError(t, err, s)
		assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:00:10"), got)
	}
	for _, s := range []string{"", "02:4b", "zz:4b:49:00:00:10", "02:4b:49:00:00:10:11:12"} {
		_, err := dossier.ParseHardwareAddr(s)
		assert.ErrorContains(t, err, "is not a MAC address; write it as", s)
	}
}

func TestDaysAndHours(t *testing.T) {
	d, err := dossier.ParseDate(" 2026-02-28 ")
	require.NoError(t, err)
	assert.Equal(t, dossier.Date("2026-02-28"), d)
	for _, s := range []string{"2026-02-29", "28.2.2026", "tomorrow", "0001-01-01", ""} {
		_, err := dossier.ParseDate(s)
		assert.ErrorContains(t, err, "2026-03-31", s)
	}
	c, err := dossier.ParseClock("08:05")
	require.NoError(t, err)
	assert.Equal(t, dossier.Clock("08:05"), c)
	for _, s := range []string{"24:00", "8 pm", "12:60"} {
		_, err := dossier.ParseClock(s)
		assert.ErrorContains(t, err, "20:30", s)
	}
}

// A reset takes the settings away, and a rebuild what people have marked: neither is recorded without what that costs.
func TestAResetNamesItsCopyOrItsLosses(t *testing.T) {
	day := homes.Day
	for _, c := range []struct {
		change dossier.Change
		copied time.Time
		want   dossier.FaultCode
	}{
		{dossier.Change{Effect: dossier.EffectReset}, time.Time{}, dossier.FaultNoCopy},
		{dossier.Change{Effect: dossier.EffectReset, Losses: "all settings; nobody had copied them"}, time.Time{}, ""},
		{dossier.Change{Effect: dossier.EffectReset}, day.Add(-time.Hour), ""},
		{dossier.Change{Effect: dossier.EffectReset}, day.Add(time.Hour), dossier.FaultCopyLater},
		{dossier.Change{Effect: dossier.EffectNone}, time.Time{}, ""},
		{dossier.Change{FollowUps: []dossier.FollowUp{dossier.FollowUpRebuild}}, time.Time{}, dossier.FaultNoLosses},
		{dossier.Change{FollowUps: []dossier.FollowUp{dossier.FollowUpRebuild}, Losses: "watched marks"}, time.Time{}, ""},
	} {
		d := homes.Small().Clone()
		before := d.Clone()
		c.change.Device, c.change.What, c.change.At = d.Devices[0].ID, "a change", day
		if !c.copied.IsZero() {
			s := dossier.SettingsCopy{Device: d.Devices[0].ID, TakenAt: c.copied, Holds: dossier.CopySettings, Where: "the laptop"}
			s.ID = homes.ID[dossier.SettingsCopy](7)
			d.SettingsCopies.Put(s)
			c.change.SettingsCopy = s.ID
		}
		c.change.ID = homes.ID[dossier.Change](7)
		d.Changes.Put(c.change)
		entries, err := dossier.Seal(before, d, dossier.Cause{Actor: homes.Person, At: day})
		require.NoError(t, err)
		var codes []dossier.FaultCode
		for _, f := range dossier.Check(d, entries) {
			codes = append(codes, f.Code)
		}
		if c.want == "" {
			assert.Empty(t, codes, "%v", c)
		} else {
			assert.Equal(t, []dossier.FaultCode{c.want}, codes, "%v", c)
		}
	}
}

func TestWhenARestrictionHolds(t *testing.T) {
	at := func(s string) time.Time {
		out, err := time.Parse("Mon 2006-01-02 15:04", s)
		require.NoError(t, err)
		return out
	}
	school := []dossier.Weekday{dossier.Sunday, dossier.Monday, dossier.Tuesday, dossier.Wednesday, dossier.Thursday}
	for _, c := range []struct {
		r    dossier.Restriction
		at   string
		want bool
	}{
		{dossier.Restriction{}, "Wed 2026-11-25 12:00", true},
		{dossier.Restriction{Days: []dossier.Weekday{dossier.Wednesday}}, "Thu 2026-11-26 12:00", false},
		{dossier.Restriction{From: "12:00", Until: "14:00"}, "Wed 2026-11-25 12:00", true},
		{dossier.Restriction{From: "12:00", Until: "14:00"}, "Wed 2026-11-25 14:00", false},
		{dossier.Restriction{From: "20:00", Until: "07:00"}, "Wed 2026-11-25 23:00", true},
		{dossier.Restriction{From: "20:00", Until: "07:00"}, "Wed 2026-11-25 06:59", true},
		{dossier.Restriction{From: "20:00", Until: "07:00"}, "Wed 2026-11-25 07:00", false},
		{dossier.Restriction{From: "20:00", Until: "07:00", Days: school}, "Fri 2026-11-27 06:00", true}, // of Thursday evening
		{dossier.Restriction{From: "20:00", Until: "07:00", Days: school}, "Fri 2026-11-27 21:00", false},
		{dossier.Restriction{From: "20:00", Until: "07:00", Days: school}, "Sun 2026-11-29 06:00", false}, // of Saturday evening
		{dossier.Restriction{From: "20:00", Until: "07:00", Days: school}, "Sun 2026-11-29 21:00", true},
	} {
		assert.Equal(t, c.want, c.r.HoldsAt(at(c.at)), "%v at %s", c.r, c.at)
	}
}

func FuzzHardwareAddr(f *testing.F) {
	f.Add("02:4b:49:00:00:10")
	f.Fuzz(func(t *testing.T, s string) {
		h, err := dossier.ParseHardwareAddr(s)
		if err != nil {
			return
		}
		again, err := dossier.ParseHardwareAddr(string(h))
		if err != nil || again != h {
			t.Fatalf("%q became %q, which reads as %q, %v", s, h, again, err)
		}
	})
}

// Any bytes in a journal must be refused or applied, never panic.
func FuzzApply(f *testing.F) {
	f.Add("room", `{"/name":"\"cellar\"","/floor":"-1"}`)
	f.Add("device", `{"/roles":["server"],"/@x":1}`)
	f.Add("issue", `{"/tries/@a/what":"\"x\"","/tries":1}`)
	f.Fuzz(func(_ *testing.T, kind, after string) {
		var m map[string]json.RawMessage
		if json.Unmarshal([]byte(after), &m) != nil {
			return
		}
		_ = dossier.Apply(&dossier.Dossier{}, []dossier.Entry{{Revision: 1, N: 1, Act: dossier.Added, Subject: dossier.Ref{Kind: kind, ID: "x"}, After: m}})
	})
}

func TestMapNamesThatLookLikeElementsSurviveTheJournal(t *testing.T) {
	old := homes.Small()
	next := old.Clone()
	a := dossier.Attempt{Test: "reach", Subjects: []dossier.Ref{old.Paths[0].ID.Ref()}, Outcome: dossier.Pass, How: dossier.ByEye, By: homes.Person,
		At: homes.Day.Add(time.Hour), Values: map[string]float64{"@odd": 1, "a/b": 2, "t~0": 3, "~2x": 4}}
	a.ID = homes.AttemptID(1)
	next.Attempts.Put(a)
	entries, err := dossier.Seal(old, next, dossier.Cause{At: homes.Day})
	require.NoError(t, err)
	replayed := old.Clone()
	require.NoError(t, dossier.Apply(replayed, viaJSON(t, entries)))
	assert.Equal(t, next, replayed)
}

func TestLabelsAndRefs(t *testing.T) {
	d := homes.Small()
	assert.Equal(t, "cellar", d.Label(d.Rooms[0].ID.Ref()))
	assert.Empty(t, d.Label(dossier.Ref{Kind: "nothing", ID: "x"}))
	assert.Equal(t, "room/"+string(d.Rooms[0].ID), d.Rooms[0].ID.Ref().String())
	assert.Empty(t, dossier.Ref{}.String())
	assert.True(t, slices.IsSortedFunc([]dossier.Ref{{Kind: "a", ID: "2"}, {Kind: "b", ID: "1"}}, dossier.Ref.Compare))
	_, ok := d.Rooms.Get(homes.RoomID(98))
	assert.False(t, ok)
	assert.Nil(t, d.Rooms.Find(homes.RoomID(98)))
	assert.NotEmpty(t, fmt.Sprint(dossier.Faults{{Code: dossier.FaultHome}}))
}
