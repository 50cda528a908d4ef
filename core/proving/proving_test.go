package proving_test

import (
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/dossier/homes"
	"kaiku/core/proving"
)

// twoServers is the small home with a second server and a second path to the same screen.
func twoServers() *dossier.Dossier {
	d := homes.Small().Clone()
	v := dossier.Device{Name: "attic server", Roles: []dossier.Role{dossier.RoleServer}}
	v.ID = homes.ID[dossier.Device](9)
	d.Devices.Put(v)
	i := dossier.Interface{Device: v.ID, Name: "eth0", Segment: d.Segments[0].ID, Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.12")}}
	i.ID = homes.ID[dossier.Interface](9)
	d.Interfaces.Put(i)
	s := dossier.Source{Device: v.ID, Name: "music", Protocol: dossier.ProtocolUPnPAV, Port: 9000}
	s.ID = homes.ID[dossier.Source](9)
	d.Sources.Put(s)
	p := dossier.Path{Name: "lamp room music", Device: d.Devices[1].ID, Source: s.ID, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast}
	p.ID = homes.ID[dossier.Path](9)
	d.Paths.Put(p)
	return d
}

var clock = homes.Day

// attempt adds an attempt at the facts as they are now.
func attempt(d *dossier.Dossier, t proving.Test, o dossier.Outcome) dossier.ID[dossier.Attempt] {
	clock = clock.Add(time.Minute)
	a := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: o, Facts: t.Facts, At: clock, By: homes.Person, How: dossier.ByMachine}
	a.ID = homes.AttemptID(100 + len(d.Attempts))
	d.Attempts.Put(a)
	return a.ID
}

func proveAll(d *dossier.Dossier) {
	for _, t := range proving.Plan(d) {
		attempt(d, t, dossier.Pass)
	}
}

func states(d *dossier.Dossier) map[string]proving.State {
	out := map[string]proving.State{}
	for _, s := range proving.Standings(d) {
		out[s.Test.Kind.Name+" "+d.Label(s.Test.Path.Ref())] = s.State
	}
	return out
}

func TestEachChangeMakesExactlyItsTestsStale(t *testing.T) {
	all := []string{"reach lamp room films", "found lamp room films", "plays lamp room films", "reach lamp room music", "found lamp room music", "plays lamp room music"}
	films := all[:3]
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		stale  []string
	}{
		{"nothing changed", func(*dossier.Dossier) {}, nil},
		{"the server's address", func(d *dossier.Dossier) { d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.99")} }, films},
		{"the source's port", func(d *dossier.Dossier) { d.Sources[0].Port = 8201 }, films},
		{"the server's shown name", func(d *dossier.Dossier) { d.Sources[0].ShownName = "Basalt" }, films[1:]},
		{"the server's firmware", func(d *dossier.Dossier) { d.Devices[0].Firmware = "7" }, films[2:]},
		{"the screen's firmware", func(d *dossier.Dossier) { d.Devices[1].Firmware = "22" }, []string{films[2], "plays lamp room music"}},
		{"the segment's prefix", func(d *dossier.Dossier) { d.Segments[0].Prefix = netip.MustParsePrefix("10.20.4.0/23") }, all},
		{"the way one path finds its server", func(d *dossier.Dossier) { d.Paths[1].FoundBy = dossier.ByName }, all[4:]},
		{"a name that nothing stands on", func(d *dossier.Dossier) { d.Rooms[0].Name = "vault"; d.Paths[0].Name = "lamp room films" }, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := twoServers()
			proveAll(d)
			c.change(d)
			var stale []string
			for name, state := range states(d) {
				if state == proving.Stale {
					stale = append(stale, name)
				} else {
					assert.Equal(t, proving.Proven, state, name)
				}
			}
			assert.ElementsMatch(t, c.stale, stale)
		})
	}
}

func TestStandingSaysFromWhatToWhat(t *testing.T) {
	d := homes.Small().Clone()
	proveAll(d)
	d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.99")}
	for _, s := range proving.Standings(d) {
		require.Equal(t, []proving.FactChange{{Subject: d.Interfaces[0].ID.Ref(), Name: "addresses", From: "10.20.4.10", To: "10.20.4.99"}}, s.Changes)
	}
	d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.10")}
	for _, s := range proving.Standings(d) {
		assert.Equal(t, proving.Proven, s.State, "facts that return make the old proof good again")
		assert.Empty(t, s.Changes)
	}
}

func TestTheNewestAttemptWhoseFactsHoldDecides(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(*dossier.Dossier, proving.Test)
		want proving.State
	}{
		{"none", func(*dossier.Dossier, proving.Test) {}, proving.Untried},
		{"a pass", func(d *dossier.Dossier, t proving.Test) { attempt(d, t, dossier.Pass) }, proving.Proven},
		{"a marginal one after a pass", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Pass)
			attempt(d, t, dossier.Marginal)
		}, proving.Marginal},
		{"a failure after a pass", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Pass)
			attempt(d, t, dossier.Fail)
		}, proving.Failed},
		{"an impossible one changes nothing", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Pass)
			attempt(d, t, dossier.Impossible)
		}, proving.Proven},
		{"a failure on facts that differ now says nothing", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Fail)
			d.Sources[0].Port++
		}, proving.Untried},
		{"nor does it make an older pass stale: that pass is not the last word", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Pass)
			attempt(d, t, dossier.Fail)
			d.Sources[0].Port++
		}, proving.Untried},
		{"a pass on facts that differ now is stale", func(d *dossier.Dossier, t proving.Test) {
			attempt(d, t, dossier.Fail)
			attempt(d, t, dossier.Pass)
			d.Sources[0].Port++
		}, proving.Stale},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.do(d, proving.Plan(d)[0])
			assert.Equal(t, c.want, proving.Standings(d)[0].State)
		})
	}
}

func TestPlanKeepsIdentityAndOrder(t *testing.T) {
	d := twoServers()
	plan := proving.Plan(d)
	require.Len(t, plan, 6)
	assert.Equal(t, "reach:"+string(d.Paths[0].ID), plan[0].ID())
	for i, p := range plan {
		if i > 0 && plan[i-1].Kind.By == proving.Eye {
			assert.Equal(t, proving.Eye, p.Kind.By, "what a machine can do comes first")
		}
		found, ok := proving.Find(d, p.ID())
		require.True(t, ok)
		assert.Equal(t, p.ID(), found.ID())
	}
	d.Paths[0].Retired = true
	assert.Len(t, proving.Plan(d), 3)
	_, ok := proving.Find(d, plan[0].ID())
	assert.False(t, ok)
	_, ok = proving.KindNamed("nothing")
	assert.False(t, ok)
}

func TestCoverageCountsRequiredTests(t *testing.T) {
	d := twoServers()
	plan := proving.Plan(d)
	attempt(d, plan[0], dossier.Pass)
	attempt(d, plan[1], dossier.Fail)
	attempt(d, plan[2], dossier.Marginal)
	assert.Equal(t, proving.Coverage{Required: 6, Proven: 1, Failed: 1, Marginal: 1, Untried: 3}, proving.Cover(proving.Standings(d)))
}

func TestPrerequisitesAreAskedOnceForAHost(t *testing.T) {
	d := twoServers()
	d.Paths[1].Source = d.Paths[0].Source
	count := map[string]int{}
	for _, p := range proving.Prerequisites(d) {
		count[p.Need.What]++
		assert.False(t, p.Met(), p.Need.What)
	}
	assert.Equal(t, 1, count["server-software-runs"], "one host, two paths")
	assert.Equal(t, 1, count["device-on-network"], "one screen, two paths")
	assert.Equal(t, 2, count["server-chosen"], "asked for each path")

	reach := proving.Plan(d)[0]
	attempt(d, reach, dossier.Pass)
	p, ok := proving.Needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	require.True(t, ok)
	assert.True(t, p.Met(), "a passed test ticks what it proves")
	assert.Equal(t, reach.ID(), p.ProvedBy)
	d.Sources[0].Port = 1
	p, _ = proving.Needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	assert.False(t, p.Met(), "a stale proof ticks nothing")

	tick := dossier.Prerequisite{Subject: d.Devices[0].ID.Ref(), Side: dossier.SideServer, What: "server-software-runs", DoneBy: homes.Person, DoneAt: homes.Day}
	tick.ID = homes.ID[dossier.Prerequisite](1)
	d.Prerequisites.Put(tick)
	p, _ = proving.Needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	assert.True(t, p.Met())
	_, ok = proving.Needed(d, "server-software-runs", d.Devices[1].ID.Ref())
	assert.False(t, ok)
}

func TestPlanningIsPure(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		assert.Equal(t, len(proving.Plan(d)), len(proving.Standings(d)))
		proving.Prerequisites(d)
		assert.Equal(t, before, d)
	})
}
