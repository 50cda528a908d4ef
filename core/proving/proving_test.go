package proving_test

import (
	"net/netip"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/pathkind"
	"kaiku/core/proving"
	"kaiku/homes"
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
	a := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: o, Facts: t.Facts(), Version: proving.Version, At: clock, By: homes.Person, How: dossier.ByMachine}
	a.ID = homes.AttemptID(100 + len(d.Attempts))
	d.Attempts.Put(a)
	return a.ID
}

func planned(d *dossier.Dossier) []proving.Test { return proving.NewPlan(d.Index()).Tests }

// stand is where the tests stand while nothing is found and nothing was seen.
func stand(d *dossier.Dossier) []proving.TestStatus {
	return proving.Statuses(proving.NewPlan(d.Index()), proving.Against{})
}

func needs(d *dossier.Dossier) []proving.Prerequisite {
	return proving.Prerequisites(d.Index(), stand(d), nil)
}

func needed(d *dossier.Dossier, what string, at dossier.Ref) (proving.Prerequisite, bool) {
	for _, p := range needs(d) {
		if p.Need.What == what && p.Subject == at {
			return p, true
		}
	}
	return proving.Prerequisite{}, false
}

func proveAll(d *dossier.Dossier) {
	for _, t := range planned(d) {
		attempt(d, t, dossier.Pass)
	}
}

func states(d *dossier.Dossier) map[string]proving.Status {
	out := map[string]proving.Status{}
	for _, s := range stand(d) {
		if s.Test.Required {
			out[s.Test.Kind.Name+" "+d.Label(s.Test.Path.Ref())] = s.Status
		}
	}
	return out
}

func TestEachChangeMakesExactlyItsTestsStale(t *testing.T) {
	on := func(path string, kinds ...string) []string {
		out := make([]string, len(kinds))
		for i, k := range kinds {
			out[i] = k + " lamp room " + path
		}
		return out
	}
	films := on("films", "reach", "found", "told-apart", "opens", "plays")
	all := append(on("music", "reach", "found", "told-apart", "opens", "plays"), films...)
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		stale  []string
	}{
		{"nothing changed", func(*dossier.Dossier) {}, nil},
		{"the server's address", func(d *dossier.Dossier) { d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.99")} }, films},
		{"the source's port", func(d *dossier.Dossier) { d.Sources[0].Port = 8201 }, films},
		{"the server's shown name", func(d *dossier.Dossier) { d.Sources[0].ShownName = "Basalt" }, append(on("films", "found", "told-apart", "plays"), "told-apart lamp room music")},
		{"the server's firmware", func(d *dossier.Dossier) { d.Devices[0].Firmware = "7" }, on("films", "opens", "plays")},
		{"the folder's name", func(d *dossier.Dossier) { d.Folders[0].Name = "Movies" }, on("films", "opens")},
		{"the screen's firmware", func(d *dossier.Dossier) { d.Devices[1].Firmware = "22" }, append(on("films", "plays"), on("music", "plays")...)},
		{"the segment's prefix", func(d *dossier.Dossier) { d.Segments[0].Prefix = netip.MustParsePrefix("10.20.4.0/23") }, all},
		{"the way one path finds its server", func(d *dossier.Dossier) { d.Paths[1].FoundBy = dossier.ByName }, on("music", "plays")},
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

func TestStatusSaysFromWhatToWhat(t *testing.T) {
	d := homes.Small().Clone()
	proveAll(d)
	d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.99")}
	for _, s := range stand(d) {
		require.Equal(t, proving.Stale, s.Status, s.Test.ID())
		require.Equal(t, []proving.FactChange{{Subject: d.Interfaces[0].ID.Ref(), Name: "addresses", From: "10.20.4.10", To: "10.20.4.99"}}, s.Changes)
	}
	d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr("10.20.4.10")}
	for _, s := range stand(d) {
		assert.Equal(t, proving.Proven, s.Status, "facts that return make the old proof good again")
		assert.Empty(t, s.Changes)
	}
}

func TestTheNewestAttemptWhoseFactsHoldDecides(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(*dossier.Dossier, proving.Test)
		want proving.Status
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
			c.do(d, planned(d)[0])
			assert.Equal(t, c.want, stand(d)[0].Status)
		})
	}
}

func TestPlanKeepsIdentityAndOrder(t *testing.T) {
	d := twoServers()
	plan := planned(d)
	assert.Equal(t, "reach:"+string(d.Paths[0].ID), plan[0].ID())
	seen := map[string]bool{}
	for i, p := range plan {
		if i > 0 && plan[i-1].By == proving.Eye {
			assert.Equal(t, proving.Eye, p.By, "what a machine can do comes first")
		}
		for _, before := range p.After {
			assert.True(t, seen[before], "%s stands after %s", p.ID(), before)
		}
		seen[p.ID()] = true
		found, ok := proving.NewPlan(d.Index()).Find(p.ID())
		require.True(t, ok)
		assert.Equal(t, p.ID(), found.ID())
	}
	d.Paths[0].Retired = true
	for _, p := range planned(d) {
		assert.Equal(t, d.Paths[1].ID, p.Path, "a retired path has no tests")
	}
	_, ok := proving.NewPlan(d.Index()).Find(plan[0].ID())
	assert.False(t, ok)
	_, ok = proving.KindNamed("nothing")
	assert.False(t, ok)
}

// asked lists what a plan asks for, by weight.
func asked(d *dossier.Dossier, path string) (required, advised []string) {
	for _, t := range planned(d) {
		if d.Label(t.Path.Ref()) != path {
			continue
		}
		if t.Required {
			required = append(required, t.Kind.Name)
		} else {
			advised = append(advised, t.Kind.Name)
		}
	}
	return required, advised
}

func TestWhatIsAskedFollowsFromPathsFoldersAndWishes(t *testing.T) {
	const path = "lamp room films"
	basic := []string{"reach", "found", "opens", "plays"}
	wish := func(d *dossier.Dossier, w dossier.Wish) {
		w.ID = homes.ID[dossier.Wish](len(d.Wishes) + 1)
		d.Wishes.Put(w)
	}
	ofFilms := []string{"stops", "seeks", "resumes", "sound", "picture-fits", "sample-appears", "after-device-restart", "survives-restart"}
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		more   []string // required beside the basic ones
		none   []string // basic ones that go
	}{
		{"a path alone", func(*dossier.Dossier) {}, nil, nil},
		{"films are needed in this room", func(d *dossier.Dossier) {
			wish(d, dossier.Wish{What: "film", Room: d.Rooms[1].ID, Need: dossier.Needed})
		},
			ofFilms, nil},
		{"films are welcome", func(d *dossier.Dossier) { wish(d, dossier.Wish{What: "film", Need: dossier.Welcome}) }, nil, nil},
		{"films are needed in another room", func(d *dossier.Dossier) { wish(d, dossier.Wish{What: "film", Room: d.Rooms[0].ID}) }, nil, nil},
		{"music is needed", func(d *dossier.Dossier) { wish(d, dossier.Wish{What: "music"}) }, nil, nil},
		{"a typed address is not searched", func(d *dossier.Dossier) { d.Paths[0].FoundBy = dossier.ByTypedAddress }, nil, []string{"found"}},
		{"items were counted", func(d *dossier.Dossier) { d.Folders[0].ItemsOnDisk = 3 }, []string{"complete"}, nil},
		{"another server shows itself", func(d *dossier.Dossier) {
			second := dossier.Source{Device: d.Devices[0].ID, Name: "b", Protocol: dossier.ProtocolUPnPAV}
			second.ID = homes.ID[dossier.Source](8)
			d.Sources.Put(second)
		},
			[]string{"told-apart"}, nil},
		{"a fall-back", func(d *dossier.Dossier) { d.Paths[0].FallBack = "other" }, []string{"fall-back"}, nil},
		{"the server sleeps", func(d *dossier.Dossier) { d.Devices[0].Standby = dossier.Yes }, []string{"wakes"}, nil},
		{"hours for the room", func(d *dossier.Dossier) {
			r := dossier.Restriction{Name: "late", Room: d.Rooms[1].ID, From: "22:00", Contents: []dossier.ContentKind{dossier.Film}}
			r.ID = homes.ID[dossier.Restriction](8)
			d.Restrictions.Put(r)
		}, []string{"hours-kept"}, nil},
		{"never, for the room", func(d *dossier.Dossier) {
			r := dossier.Restriction{Name: "not here", Room: d.Rooms[1].ID, Contents: []dossier.ContentKind{dossier.Film}}
			r.ID = homes.ID[dossier.Restriction](8)
			d.Restrictions.Put(r)
		}, []string{"blocked"}, nil},
		{"sound through a receiver, and films are needed", func(d *dossier.Dossier) {
			wish(d, dossier.Wish{What: "film", Room: d.Rooms[1].ID})
			l := dossier.ChainLink{From: d.Devices[1].ID, To: d.Devices[0].ID}
			l.ID = homes.ID[dossier.ChainLink](8)
			d.ChainLinks.Put(l)
		}, append(slices.Clone(ofFilms), "lip-sync"), nil},
		{"large pictures, converted, and films are needed", func(d *dossier.Dossier) {
			wish(d, dossier.Wish{What: "film", Room: d.Rooms[1].ID})
			d.Folders[0].Mix = []dossier.FormatEntry{{Height: 2160}}
			d.Paths[0].Mode, d.Sources[0].Converts = dossier.ThroughServer, dossier.ConvertsAll
			c := dossier.ConvertedCopy{Folder: d.Folders[0].ID, State: dossier.CopyDone, For: []dossier.ID[dossier.Device]{d.Paths[0].Device}}
			c.ID = homes.ID[dossier.ConvertedCopy](8)
			d.ConvertedCopies.Put(c)
		}, append(slices.Clone(ofFilms), "top-quality", "converts", "converted-ahead"), nil},
		{"large pictures, converted and ahead, elsewhere or not yet", func(d *dossier.Dossier) {
			d.Folders[0].Mix = []dossier.FormatEntry{{Height: 1080}}
			d.Paths[0].Mode, d.Sources[0].Converts = dossier.ThroughServer, dossier.ConvertsNothing
			c := dossier.ConvertedCopy{Folder: d.Folders[0].ID, State: dossier.CopyQueued, For: []dossier.ID[dossier.Device]{d.Paths[0].Device}}
			c.ID = homes.ID[dossier.ConvertedCopy](8)
			d.ConvertedCopies.Put(c)
			c.ID, c.State, c.For = homes.ID[dossier.ConvertedCopy](9), dossier.CopyDone, []dossier.ID[dossier.Device]{d.Devices[0].ID}
			d.ConvertedCopies.Put(c)
		}, nil, nil},
		{"a tuner with a guide", func(d *dossier.Dossier) {
			d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol, d.Sources[0].Guide = dossier.Tuner, dossier.ByTypedAddress, dossier.ProtocolM3U, "http://x/guide"
		}, []string{"live-channel", "guide"}, []string{"found"}},
		{"a list of streams without one", func(d *dossier.Dossier) {
			d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol = dossier.StreamList, dossier.ByTypedAddress, dossier.ProtocolM3U
		}, []string{"live-channel"}, []string{"found"}},
		{"a feed", func(d *dossier.Dossier) {
			d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol = dossier.Feed, dossier.ByTypedAddress, dossier.ProtocolHTTP
		}, []string{"feed"}, []string{"found"}},
		{"hours for what the path does not bring", func(d *dossier.Dossier) {
			r := dossier.Restriction{Name: "late", Room: d.Rooms[1].ID, Contents: []dossier.ContentKind{dossier.Music}}
			r.ID = homes.ID[dossier.Restriction](8)
			d.Restrictions.Put(r)
		}, nil, nil},
		{"a share", func(d *dossier.Dossier) {
			d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol = dossier.Share, dossier.ByTypedAddress, dossier.ProtocolSMB
		}, []string{"write-refused"}, []string{"found"}},
		{"a set with another path", func(d *dossier.Dossier) {
			p := d.Paths[0]
			p.ID, p.Name = homes.ID[dossier.Path](9), "parlour films"
			d.Paths.Put(p)
			s := dossier.BusySet{Name: "Saturday", Paths: []dossier.ID[dossier.Path]{d.Paths[0].ID, p.ID}}
			s.ID = homes.ID[dossier.BusySet](8)
			d.BusySets.Put(s)
		}, []string{"busy-set"}, nil},
		{"resume across rooms", func(d *dossier.Dossier) {
			p := d.Paths[0]
			p.ID, p.Name, p.Device = homes.ID[dossier.Path](9), "cellar films", d.Devices[0].ID
			d.Paths.Put(p)
			wish(d, dossier.Wish{What: dossier.WishResumeAcrossRooms})
		}, []string{"resumes-elsewhere"}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.change(d)
			want := slices.DeleteFunc(append(slices.Clone(basic), c.more...), func(k string) bool { return slices.Contains(c.none, k) })
			required, advised := asked(d, path)
			assert.ElementsMatch(t, want, required)
			if pathkind.Of(d.Paths[0].Kind).Can(pathkind.Seek) && d.Paths[0].Kind != dossier.Feed {
				for _, k := range []string{"seeks", "subtitles"} {
					assert.True(t, slices.Contains(required, k) || slices.Contains(advised, k), "%s is at least advised", k)
				}
			}
		})
	}
	var seen []string
	for _, k := range proving.Kinds {
		seen = append(seen, k.Name)
	}
	assert.GreaterOrEqual(t, len(seen), 12)
}

// Whether a share answers, opens and refuses to be written to is found out by a machine; what is seen on the screen is not.
func TestWhoJudgesAShare(t *testing.T) {
	d := homes.Small().Clone()
	d.Paths[0].Kind, d.Sources[0].Protocol, d.Folders[0].ItemsOnDisk = dossier.Share, dossier.ProtocolSMB, 5
	for _, p := range planned(d) {
		assert.Equal(t, slices.Contains([]string{"reach", "opens", "write-refused"}, p.Kind.Name), p.By == proving.Automatic, p.Kind.Name)
		assert.NotContains(t, p.After, proving.TestID("found", p.Subjects), "a share is not searched for")
	}
}

func TestCoverageCountsRequiredTests(t *testing.T) {
	d := twoServers()
	plan := planned(d)
	attempt(d, plan[0], dossier.Pass)
	attempt(d, plan[1], dossier.Fail)
	attempt(d, plan[2], dossier.Marginal)
	assert.Equal(t, proving.Coverage{Required: 10, Proven: 1, Failed: 1, Marginal: 1, Untried: 7}, proving.Cover(stand(d), nil))
}

func TestPrerequisitesAreAskedOnceForAHost(t *testing.T) {
	d := twoServers()
	d.Paths[1].Source = d.Paths[0].Source
	count := map[string]int{}
	for _, p := range needs(d) {
		count[p.Need.What]++
		assert.False(t, p.Met(), p.Need.What)
	}
	assert.Equal(t, 1, count["server-software-runs"], "one host, two paths")
	assert.Equal(t, 1, count["device-on-network"], "one screen, two paths")
	assert.Equal(t, 2, count["server-chosen"], "asked for each path")

	reach := planned(d)[0]
	attempt(d, reach, dossier.Pass)
	p, ok := needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	require.True(t, ok)
	assert.True(t, p.Met(), "a passed test ticks what it proves")
	assert.Equal(t, reach.ID(), p.ProvedBy)
	d.Sources[0].Port = 1
	p, _ = needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	assert.False(t, p.Met(), "a stale proof ticks nothing")

	tick := dossier.Prerequisite{Subject: d.Devices[0].ID.Ref(), Side: dossier.SideServer, What: "server-software-runs", DoneBy: homes.Person, DoneAt: homes.Day}
	tick.ID = homes.ID[dossier.Prerequisite](1)
	d.Prerequisites.Put(tick)
	p, _ = needed(d, "server-software-runs", d.Devices[0].ID.Ref())
	assert.True(t, p.Met())
	_, ok = needed(d, "server-software-runs", d.Devices[1].ID.Ref())
	assert.False(t, ok)
}

// What the record says of letting the device in is not asked again; what it says against it is.
func TestLettingADeviceInIsReadFromTheRecord(t *testing.T) {
	for _, c := range []struct {
		name      string
		newcomers dossier.Admission
		entry     dossier.Admission
		want      bool
	}{
		{"nothing is recorded", "", "", false}, {"the server lets in everybody", dossier.LetIn, "", true}, {"the server keeps new ones out", dossier.KeptOut, "", false},
		{"this one is let in", dossier.KeptOut, dossier.LetIn, true}, {"this one is kept out", dossier.LetIn, dossier.KeptOut, false}, {"this one at some hours", dossier.LetIn, dossier.ByHours, false},
	} {
		d := homes.Small().Clone()
		p := d.Paths[0]
		_, server := d.Index().ServerOf(p)
		d.Sources.Find(p.Source).Newcomers = c.newcomers
		d.RegisterEntries = nil
		if c.entry != "" {
			e := dossier.RegisterEntry{Device: p.Device, Server: server.ID, Admission: c.entry}
			e.ID = homes.ID[dossier.RegisterEntry](1)
			d.RegisterEntries.Put(e)
		}
		found := false
		for _, n := range proving.Prerequisites(d.Index(), nil, nil) {
			if n.Need.What == "device-let-in" && n.Subject == p.ID.Ref() {
				found = true
				assert.Equal(t, c.want, n.Met(), c.name)
				assert.Equal(t, c.want, n.Recorded, c.name)
			} else {
				assert.False(t, n.Recorded, n.Need.What)
			}
		}
		assert.True(t, found, c.name)
	}
}

func TestPlanningIsPure(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		assert.Equal(t, len(planned(d)), len(stand(d)))
		needs(d)
		assert.Equal(t, before, d)
	})
}

// A waiver says that a test need not be done; it takes nothing from one that is proven.
func TestAWaiverHidesNoProof(t *testing.T) {
	d := homes.Small().Clone()
	tests := planned(d)
	for n, one := range tests[:2] {
		w := dossier.Waiver{Test: one.Kind.Name, Subjects: one.Subjects, Why: "no guests", By: homes.Person, At: homes.Day}
		w.ID = homes.ID[dossier.Waiver](n)
		d.Waivers.Put(w)
	}
	attempt(d, tests[0], dossier.Pass)
	got := stand(d)
	assert.Equal(t, proving.Proven, got[0].Status)
	assert.Equal(t, proving.Waived, got[1].Status)
	attempt(d, tests[0], dossier.Fail)
	assert.Equal(t, proving.Waived, stand(d)[0].Status, "waived and failed: it need not be done")
}

// A failure on facts that hold no longer says nothing, and takes an older pass with it; so does one that was only marginal then.
func TestOnlyTheNewestWordCanBeStale(t *testing.T) {
	d := homes.Small().Clone()
	one := planned(d)[0]
	attempt(d, one, dossier.Pass)
	attempt(d, one, dossier.Marginal)
	d.Sources[0].Port++
	assert.Equal(t, proving.Stale, stand(d)[0].Status)
	d.Sources[0].Port--
	attempt(d, one, dossier.Fail)
	d.Sources[0].Port++
	assert.Equal(t, proving.Untried, stand(d)[0].Status)
}

// An opening for a range of ports stands for each port in it.
func TestAnOpeningOfARangeCoversThePortsInIt(t *testing.T) {
	for _, c := range []struct {
		first, last int
		covers      bool
	}{{40210, 0, true}, {40200, 40220, true}, {40200, 40210, true}, {40210, 40220, true}, {40211, 40220, false}, {40200, 40209, false}, {40200, 0, false}} {
		d := homes.Small().Clone()
		o := dossier.Opening{Device: d.Devices[0].ID, Transport: dossier.TCP, Port: c.first, LastPort: c.last, Direction: dossier.Inward, State: dossier.OpeningOpen}
		o.ID = homes.ID[dossier.Opening](1)
		d.Openings.Put(o)
		proveAll(d)
		d.Openings[0].State = dossier.OpeningRefused
		stale := slices.ContainsFunc(stand(d), func(s proving.TestStatus) bool { return s.Status == proving.Stale })
		assert.Equal(t, c.covers, stale, "%d to %d", c.first, c.last)
	}
}
