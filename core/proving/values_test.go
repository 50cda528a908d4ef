package proving

import (
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// Within a class a rate may move without taking a proof with it; the class changes exactly at its limit.
func TestRatesAndSignalsHaveTheirClasses(t *testing.T) {
	for mbps, class := range map[float64]string{
		-1: "", 0: "", 0.5: "below 10 Mb/s", 9.99: "below 10 Mb/s", 10: "at least 10 Mb/s", 24.9: "at least 10 Mb/s", 25: "at least 25 Mb/s", 99: "at least 25 Mb/s",
		100: "at least 100 Mb/s", 400: "at least 400 Mb/s", 999: "at least 400 Mb/s", 1000: "at least 1000 Mb/s", 2500: "at least 2500 Mb/s",
		9999: "at least 2500 Mb/s", 10000: "at least 10000 Mb/s", 40000: "at least 10000 Mb/s",
	} {
		assert.Equal(t, class, rateClass(nil, mbps), "%v Mb/s", mbps)
	}
	assert.Empty(t, rateClass(nil, "fast"))
	d := homes.Small()
	for dbm, class := range map[float64]string{
		-40: "at least -60 dBm", -60: "at least -60 dBm", -61: "at least -67 dBm", -67: "at least -67 dBm", -68: "at least -70 dBm", -70: "at least -70 dBm",
		-71: "at least -80 dBm", -80: "at least -80 dBm", -81: "below -80 dBm",
	} {
		fact, _ := signal(d.Index(), dossier.Reading{Subject: d.Devices[1].ID.Ref(), Value: dbm})
		assert.Equal(t, class, fact.Value, "%v dBm", dbm)
	}
}

func TestValuesAsFacts(t *testing.T) {
	for _, c := range []struct {
		value any
		text  string
	}{
		{time.Time{}, ""}, {time.Date(2026, 3, 2, 11, 30, 0, 0, time.FixedZone("", 2*3600)), "2026-03-02T09:30:00Z"},
		{netip.Addr{}, ""}, {netip.MustParseAddr("10.20.4.10"), "10.20.4.10"}, {netip.Prefix{}, ""}, {netip.MustParsePrefix("10.20.4.0/24"), "10.20.4.0/24"},
		{"", ""}, {"as it is", "as it is"}, {false, ""}, {true, "yes"}, {0, ""}, {-3, "-3"}, {int64(7), "7"}, {0.0, ""}, {23.976, "23.976"}, {1.0 / 3, "0.3333333333333333"},
		{[]string{"b", "a"}, "a, b"}, {[]string{}, ""},
		{struct {
			Name string
			Port int
			Mbps float64
		}{"x", 0, 2.5}, "x 2.5"},
		{map[string]string{}, ""},
	} {
		assert.Equal(t, c.text, text(c.value), "%v", c.value)
	}
}

func TestFactsHoldOnlyInFull(t *testing.T) {
	one := func(name string) fact {
		return fact{Fact: dossier.Fact{Subject: dossier.Ref{Kind: "device", ID: "1"}, Name: name, Value: "v"}, on: OnReach}
	}
	s := standing{all: []fact{one("a"), one("b")}, on: OnReach}
	a, b, c := one("a").Fact, one("b").Fact, one("c").Fact
	assert.True(t, s.holds([]dossier.Fact{a, b}))
	for _, other := range [][]dossier.Fact{nil, {a}, {b}, {a, b, c}, {a, c}, {c, b}, {b, a}} {
		assert.False(t, s.holds(other), "%v", other)
	}
	assert.True(t, standing{on: OnReach}.holds(nil))
	assert.False(t, standing{on: OnReach}.holds([]dossier.Fact{a}))
}

// An attempt is held against the facts that its version knew: what was taken up later makes nothing stale.
func TestAnOldAttemptIsHeldAgainstWhatWasKnownThen(t *testing.T) {
	ref := dossier.Ref{Kind: "device", ID: "1"}
	of := func(name string, since int) fact {
		return fact{Fact: dossier.Fact{Subject: ref, Name: name, Value: "v"}, on: OnReach, since: since}
	}
	one := Test{on: standing{all: []fact{of("a", 1), of("b", 2), of("c", 3)}, on: OnReach}}
	names := func(a dossier.Attempt) (out []string) {
		for _, f := range one.against(&a) {
			out = append(out, f.Name)
		}
		return out
	}
	assert.Equal(t, []string{"a"}, names(dossier.Attempt{Version: 1}))
	assert.Equal(t, []string{"a", "b"}, names(dossier.Attempt{Version: 2}))
	assert.Equal(t, []string{"a", "b", "c"}, names(dossier.Attempt{Version: 3}))
	assert.Equal(t, []string{"b"}, names(dossier.Attempt{Facts: []dossier.Fact{{Subject: ref, Name: "b"}, {Subject: dossier.Ref{Kind: "device", ID: "2"}, Name: "a"}}}),
		"before there were versions: what it took down itself")
}

// A record that left is one change, however many of its values stood there; one that stays is told value by value.
func TestARecordThatLeftIsOneChange(t *testing.T) {
	d := homes.Small()
	p := NewPlan(d.Index())
	test := p.Tests[0]
	gone, here := dossier.Ref{Kind: "interface", ID: "gone"}, d.Devices[0].ID.Ref()
	other := dossier.Ref{Kind: "interface", ID: "gone too"}
	got := p.gathered(&test, []FactChange{
		{gone, "medium", "cable", ""}, {gone, "segment", "x", ""}, {other, "medium", "radio", ""},
		{here, "firmware", "1", ""}, {here, "model", "a", "b"}, {gone, "signal", "at least -60 dBm", ""}, {gone, "medium", "cable", "radio"},
	})
	assert.Equal(t, []FactChange{
		{Subject: gone}, {Subject: other}, {here, "firmware", "1", ""}, {here, "model", "a", "b"}, {gone, "signal", "at least -60 dBm", ""}, {gone, "medium", "cable", "radio"},
	}, got)
	assert.Equal(t, []FactChange{{Subject: gone}}, p.gathered(&test, []FactChange{{gone, "medium", "cable", ""}}))
}

// wishes puts these wishes into a home, alone.
func wishes(d *dossier.Dossier, list ...dossier.Wish) *dossier.Index {
	d.Wishes = nil
	for n, w := range list {
		w.ID = homes.ID[dossier.Wish](n + 1)
		d.Wishes.Put(w)
	}
	return d.Index()
}

func weightOf(ask asking, x *dossier.Index, c Case) Weight {
	w, _ := ask(x, c)
	return w
}

// Wishes that name a room or a device count there and nowhere else.
func TestWishesCountWhereTheyStand(t *testing.T) {
	d := homes.Small().Clone()
	screen, cellar, lamp := d.Devices[1], d.Rooms[0].ID, d.Rooms[1].ID
	server := d.Devices[0].ID
	d.Devices[1].Carried = true
	d.Sources[0].OutsidePort = 8443
	second := d.Paths[0]
	second.ID, second.Device = homes.ID[dossier.Path](9), server
	d.Paths.Put(second)
	c := Case{Path: d.Paths[0]}
	for _, one := range []struct {
		wish   dossier.Wish
		across Weight
	}{
		{dossier.Wish{}, Required}, {dossier.Wish{Room: lamp}, Required}, {dossier.Wish{Room: cellar}, NotAsked},
		{dossier.Wish{Device: screen.ID}, Required}, {dossier.Wish{Device: server}, NotAsked}, {dossier.Wish{Room: cellar, Device: screen.ID}, Required}, {dossier.Wish{Room: cellar, Device: server}, NotAsked},
	} {
		one.wish.What = dossier.WishResumeAcrossRooms
		assert.Equal(t, one.across, weightOf(acrossRooms, wishes(d, one.wish), c), "%+v", one.wish)
		one.wish.What = dossier.WishOutsideViewing
		want := Required
		if one.wish.Device == server {
			want = NotAsked
		}
		assert.Equal(t, want, weightOf(whereWatchedOutside, wishes(d, one.wish), c), "outside viewing %+v", one.wish)
	}
	// A screen that stands in no room is not meant by a wish for a device that is not named.
	d.Devices[1].Room = ""
	assert.Equal(t, NotAsked, weightOf(acrossRooms, wishes(d, dossier.Wish{What: dossier.WishResumeAcrossRooms, Device: server}), c))
	d.Devices[1].Room = lamp
	assert.Equal(t, NotAsked, weightOf(acrossRooms, wishes(d), c), "nobody wishes it")
	across := dossier.Wish{What: dossier.WishResumeAcrossRooms}
	outside := dossier.Wish{What: dossier.WishOutsideViewing}
	d.Paths[1].Device = screen.ID
	assert.Equal(t, NotAsked, weightOf(acrossRooms, wishes(d, across), c), "both paths are of one device")
	d.Devices[1].Carried = false
	assert.Equal(t, NotAsked, weightOf(whereWatchedOutside, wishes(d, outside), c), "it stays at home")
	d.Devices[1].Carried, d.Sources[0].OutsidePort = true, 0
	assert.Equal(t, NotAsked, weightOf(whereWatchedOutside, wishes(d, outside), c), "nothing leads in")
}

// A restriction with neither device nor room holds for no path, though the path's device has no room either.
func TestARestrictionHoldsWhereItSays(t *testing.T) {
	d := homes.Small().Clone()
	held := func(r dossier.Restriction) int {
		r.ID, r.Contents = homes.ID[dossier.Restriction](1), []dossier.ContentKind{dossier.Film}
		d.Restrictions = nil
		d.Restrictions.Put(r)
		return len(restrictions(d.Index(), d.Paths[0]))
	}
	assert.Equal(t, 1, held(dossier.Restriction{Device: d.Devices[1].ID}))
	assert.Equal(t, 1, held(dossier.Restriction{Room: d.Rooms[1].ID}))
	assert.Equal(t, 0, held(dossier.Restriction{Device: d.Devices[0].ID}))
	assert.Equal(t, 0, held(dossier.Restriction{Room: d.Rooms[0].ID}))
	assert.Equal(t, 0, held(dossier.Restriction{}))
	d.Devices[1].Room, d.Paths[0].Device = "", d.Devices[1].ID
	assert.Equal(t, 0, held(dossier.Restriction{}))
}

// Of what two sources show of one place, one is counted; places that are not recorded are not alike.
func TestOneFolderOfTwoSourcesIsOneCase(t *testing.T) {
	d := homes.Small().Clone()
	second := d.Sources[0]
	second.ID, second.Name = homes.ID[dossier.Source](1), "second"
	d.Sources.Put(second)
	f := d.Folders[0]
	f.ID, f.Source = homes.ID[dossier.Folder](1), second.ID
	d.Folders.Put(f)
	p := d.Paths[0]
	p.ID, p.Source, p.Folders = homes.ID[dossier.Path](1), second.ID, []dossier.ID[dossier.Folder]{f.ID}
	d.Paths.Put(p)
	assert.Len(t, folderCases(d.Index()), 2, "not known where either lies")
	for n := range d.Folders {
		d.Folders[n].Locations = []dossier.Location{{Form: dossier.FormSMB, Text: "smb://x/films"}, {Form: dossier.FormLocal, Text: "/srv/films"}}
	}
	assert.Len(t, folderCases(d.Index()), 1)
	d.Folders[1].Locations[1].Text = "/srv/other"
	assert.Len(t, folderCases(d.Index()), 2)
	d.Folders[1].Locations[1].Text = "/srv/films"
	d.Folders[1].LiesOn = d.Devices[1].ID
	assert.Len(t, folderCases(d.Index()), 2, "on another machine")
}

// A set of one path that is in use asks for nothing.
func TestASetNeedsTwoPathsInUse(t *testing.T) {
	d := homes.Small().Clone()
	p := d.Paths[0]
	p.ID = homes.ID[dossier.Path](1)
	d.Paths.Put(p)
	set := dossier.BusySet{Name: "Saturday", Paths: []dossier.ID[dossier.Path]{d.Paths[0].ID, p.ID}}
	set.ID = homes.ID[dossier.BusySet](1)
	d.BusySets.Put(set)
	require.Len(t, setCases(d.Index()), 1)
	d.Paths[1].Retired = true
	assert.Empty(t, setCases(d.Index()))
}
