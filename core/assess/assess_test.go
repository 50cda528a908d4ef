package assess_test

import (
	"net/netip"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/wording"
)

// Proofs are made at noon, what speaks against them comes an hour later, and it is looked at then.
var (
	noon  = homes.Day.Add(2 * time.Hour)
	later = noon.Add(time.Hour)
	now   = noon.Add(2 * time.Hour)
)

func look(d *dossier.Dossier, seen ...knowledge.Seen) *assess.Assessment {
	return assess.Assess(d, knowledge.Knowledge{Seen: seen}, now)
}

func prove(d *dossier.Dossier, at time.Time, which func(proving.Test) bool) {
	for _, t := range proving.NewPlan(d.Index()).Tests {
		if which != nil && !which(t) {
			continue
		}
		a := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: dossier.Pass, Facts: t.Facts(), Version: proving.Version, At: at, By: homes.Person, How: dossier.ByEye}
		a.ID = homes.AttemptID(5000 + len(d.Attempts))
		d.Attempts.Put(a)
	}
}

// provenHome is a home of many parts in which everything is proven.
func provenHome(t require.TestingT, seed int) *homes.SoundHome {
	h := rapid.Custom(homes.Furnished).Example(seed)
	d := h.Dossier
	d.Issues, d.Changes = nil, nil
	// What speaks against restarts from the beginning is set right: addresses typed in are reserved.
	for i := range d.Interfaces {
		if d.Interfaces[i].AddressBy == dossier.ByLease {
			d.Interfaces[i].AddressBy = dossier.BySetting
		}
	}
	homes.Set(h, h.Home, func(s *dossier.Segment) { s.PoolFirst, s.PoolLast = netip.Addr{}, netip.Addr{} })
	homes.Set(h, h.PlayerPath, func(p *dossier.Path) { p.Marks = dossier.MarksAtServer })
	prove(d, noon, nil)
	a := look(d)
	for _, s := range a.Statuses {
		if s.Test.Required {
			require.Equal(t, proving.Proven, s.Status, "%s: %v %v", s.Test.ID(), s.Changes, s.Doubts)
		}
	}
	return h
}

// What is recorded of a home after it was proven, each of which takes proof away. The list is of
// what homes really go through; what each takes away follows from the tables.
var afterwards = []struct {
	name string
	do   func(*homes.SoundHome)
	want proving.Status // of some required test
}{
	{"a screen is kept out", func(h *homes.SoundHome) { entry(h, func(e *dossier.RegisterEntry) { e.Admission = dossier.KeptOut }) }, proving.Stale},
	{"the server is reset to defaults", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Change{Device: h.Server, What: "reset", At: later, Effect: dossier.EffectReset})
	}, proving.InDoubt},
	{"the resume points are kept elsewhere", func(h *homes.SoundHome) {
		homes.Set(h, h.ScreenPath, func(p *dossier.Path) { p.Marks = dossier.MarksOnDevice })
	}, proving.Stale},
	{"the host takes its network for an untrusted one", func(h *homes.SoundHome) {
		homes.Set(h, h.Server, func(v *dossier.Device) { v.NetworkClass = dossier.ClassUntrusted })
	}, proving.Stale},
	{"the router is replaced", func(h *homes.SoundHome) {
		homes.Set(h, h.Router, func(v *dossier.Device) { v.Model, v.Serial = "OR-9", "9" })
	}, proving.Stale},
	{"a player is offered photographs only", func(h *homes.SoundHome) {
		entry(h, func(e *dossier.RegisterEntry) { e.Offered = []dossier.ContentKind{dossier.Photo} })
	}, proving.Stale},
	{"conversion is switched off", func(h *homes.SoundHome) {
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Converts = dossier.ConvertsNothing })
	}, proving.Stale},
	{"a rate cap of 2 Mb/s", func(h *homes.SoundHome) {
		homes.Set(h, h.Source, func(s *dossier.Source) { s.RateCapMbps = 2 })
	}, proving.Stale},
	{"the screen is a long way from its access point", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Reading{What: dossier.SignalDbm, Value: -80, Subject: h.Screen.Ref(), How: dossier.KnownRead, At: later})
	}, proving.Stale},
	{"the player goes from cable to radio", func(h *homes.SoundHome) {
		homes.Set(h, h.PlayerPort, func(i *dossier.Interface) { i.Medium = dossier.OnRadio })
	}, proving.Stale},
	{"its own port is blocked", func(h *homes.SoundHome) {
		homes.Set(h, h.Opening, func(o *dossier.Opening) { o.State = dossier.OpeningBlocked })
	}, proving.Stale},
	{"a second opening blocks the port", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 40210, Direction: dossier.Inward, State: dossier.OpeningBlocked})
	}, proving.Stale},
	{"two devices have one address", func(h *homes.SoundHome) {
		v := homes.Put(h, dossier.Device{Name: "printer", Room: homes.RoomID(0)})
		homes.Put(h, dossier.Interface{Device: v, Name: "eth0", Segment: h.Home, Addresses: []netip.Addr{h.Address(10)}})
	}, proving.InDoubt},
	{"a change that still needs a restart", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Change{Device: h.Server, What: "new disk", At: noon.Add(-time.Hour), Effect: dossier.EffectNone, FollowUps: []dossier.FollowUp{dossier.FollowUpRestart}})
	}, proving.InDoubt},
	{"a change of which nobody said what it means", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Change{Device: h.Screen, What: "menu tidied up", At: later})
	}, proving.InDoubt},
	{"an issue is reported", func(h *homes.SoundHome) {
		homes.Put(h, dossier.Issue{Symptom: "nothing plays", State: dossier.IssueOpen, Subjects: []dossier.Ref{h.Screen.Ref()}, OpenedAt: later})
	}, proving.InDoubt},
	{"the source moves to another port", func(h *homes.SoundHome) { homes.Set(h, h.Source, func(s *dossier.Source) { s.Port = 40299 }) }, proving.Stale},
	{"the server software is updated", func(h *homes.SoundHome) {
		homes.Set(h, h.Software, func(s *dossier.Software) { s.Version = "3.1" })
	}, proving.Stale},
	{"the server software starts at log-in", func(h *homes.SoundHome) {
		homes.Set(h, h.Software, func(s *dossier.Software) { s.Starts = dossier.StartsAtLogin })
	}, proving.Stale},
	{"the licence has ended", func(h *homes.SoundHome) {
		homes.Set(h, h.Software, func(s *dossier.Software) { s.EndsOn = "2026-03-01" })
	}, proving.InDoubt},
	{"the share password is changed", func(h *homes.SoundHome) {
		homes.Set(h, homes.ID[dossier.Secret](0), func(s *dossier.Secret) { s.SealedAt = later })
	}, proving.Stale},
	{"a setting of the screen", func(h *homes.SoundHome) {
		for _, s := range h.Settings {
			if s.Subject == h.Screen.Ref() {
				homes.Set(h, s.ID, func(s *dossier.Setting) { s.Value = "10 min" })
			}
		}
	}, proving.Stale},
	{"another switch", func(h *homes.SoundHome) { homes.Set(h, h.Switch, func(v *dossier.Device) { v.Model = "SW-8" }) }, proving.Stale},
	{"the link falls to 100 Mb/s", func(h *homes.SoundHome) {
		homes.Set(h, h.ServerLink, func(l *dossier.Link) { l.RateMbps = 100 })
	}, proving.Stale},
	{"the films move to another machine", func(h *homes.SoundHome) {
		homes.Set(h, h.Folder, func(f *dossier.Folder) { f.LiesOn = h.Switch })
	}, proving.Stale},
	{"the account cannot read the folder", func(h *homes.SoundHome) {
		homes.Set(h, h.Folder, func(f *dossier.Folder) { f.ReadableBy = []string{"nobody"} })
	}, proving.Stale},
	{"the device's end is typed anew", func(h *homes.SoundHome) {
		homes.Set(h, h.PlayerPath, func(p *dossier.Path) { p.DeviceEnd.Address = h.Address(77) })
	}, proving.Stale},
	{"the segment isolates its stations", func(h *homes.SoundHome) {
		homes.Set(h, h.Home, func(s *dossier.Segment) { s.Isolation = dossier.IsolationBoth })
	}, proving.Stale},
	{"the hours are others", func(h *homes.SoundHome) {
		homes.Set(h, homes.ID[dossier.Restriction](0), func(r *dossier.Restriction) { r.From = "21:00" })
	}, proving.Stale},
	{"another sound bar", func(h *homes.SoundHome) {
		homes.Set(h, h.ChainLinks[0].To, func(v *dossier.Device) { v.Model = "KB-2" })
	}, proving.Stale},
	{"its outlet failed a test", func(h *homes.SoundHome) {
		for _, o := range h.Outlets {
			if o.Name == "player" {
				homes.Set(h, o.ID, func(o *dossier.Outlet) { o.Tested = dossier.TestFailed })
			}
		}
	}, proving.Stale},
	{"the screen moves to another room", func(h *homes.SoundHome) {
		homes.Set(h, h.Screen, func(v *dossier.Device) { v.Room = homes.RoomID(0) })
	}, proving.Stale},
	{"the server gets another network card", func(h *homes.SoundHome) {
		homes.Set(h, h.ServerPort, func(i *dossier.Interface) { i.HardwareAddress = "02:4b:49:00:77:77" })
	}, proving.Stale},
	{"the Wi-Fi password is changed", func(h *homes.SoundHome) {
		homes.Set(h, homes.ID[dossier.Secret](1), func(s *dossier.Secret) { s.SealedAt = later })
	}, proving.Stale},
	{"another router stands in the place of the old one", func(h *homes.SoundHome) {
		v, _ := h.Devices.Get(h.Router)
		for _, i := range h.InterfacesOf(h.Router) {
			i.Device = homes.ID[dossier.Device](70)
			h.Interfaces.Put(i)
		}
		v.ID, v.Model = homes.ID[dossier.Device](70), "OR-9"
		h.Devices.Delete(h.Router)
		h.Devices.Put(v)
	}, proving.Stale},
	{"no links are recorded, and the switch is another", func(h *homes.SoundHome) {
		h.Links = nil
		homes.Set(h, h.Switch, func(v *dossier.Device) { v.Model = "SW-16" })
	}, proving.Stale},
	{"the opening is gone", func(h *homes.SoundHome) { h.Openings.Delete(h.Opening) }, proving.Stale},
	{"a second server shows itself under another name", func(h *homes.SoundHome) {
		v := homes.Put(h, dossier.Device{Name: "guest's server", Roles: []dossier.Role{dossier.RoleServer}})
		homes.Put(h, dossier.Source{Device: v, Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: 1, ShownName: "Other"})
	}, proving.Stale},
	{"the last folder of a path is removed", func(h *homes.SoundHome) {
		old := h.Clone()
		h.Folders.Delete(h.Folder)
		dossier.Settle(old, h.Dossier)
	}, proving.Stale},
}

func entry(h *homes.SoundHome, change func(*dossier.RegisterEntry)) {
	homes.Set(h, homes.ID[dossier.RegisterEntry](0), change)
}

func TestNothingThatIsRecordedLeavesFalseProof(t *testing.T) {
	for seed := range 6 {
		sound := provenHome(t, seed)
		whole := look(sound.Dossier).Coverage
		require.NotZero(t, whole.Proven)
		for _, c := range afterwards {
			t.Run(c.name, func(t *testing.T) {
				h := sound.Copy()
				c.do(h)
				a := look(h.Dossier)
				assert.Less(t, a.Coverage.Proven, whole.Proven)
				found := false
				for _, s := range a.Statuses {
					found = found || s.Status == c.want && s.Test.Required
					switch s.Status {
					case proving.Stale:
						assert.NotEmpty(t, s.Changes, "%s says what changed", s.Test.ID())
					case proving.InDoubt:
						assert.NotEmpty(t, s.Doubts, "%s says what speaks against it", s.Test.ID())
					}
				}
				assert.True(t, found, "no required test is %s", c.want)
				steps, minutes := a.Plan.Reproof(a.Statuses)
				assert.Equal(t, a.Minutes, minutes)
				assert.NotEmpty(t, steps)
				assert.False(t, a.Until.Before(a.Now))
			})
		}
	}
}

func TestWhatSaysNothingOfTheProofLeavesIt(t *testing.T) {
	for name, do := range map[string]func(*homes.SoundHome){
		"a room is renamed": func(h *homes.SoundHome) { homes.Set(h, homes.RoomID(0), func(r *dossier.Room) { r.Name = "pantry" }) },
		"a visit is planned": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Visit{Purpose: "tea", Technician: homes.Person, Starts: later})
		},
		"a change that changes nothing": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Change{Device: h.Server, What: "dusted", At: later, Effect: dossier.EffectNone})
		},
		"a change before the proof": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Change{Device: h.Server, What: "x", At: noon.Add(-time.Minute)})
		},
		"a closed issue": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Issue{Symptom: "x", State: dossier.IssueClosed, Subjects: []dossier.Ref{h.Screen.Ref()}, OpenedAt: later})
		},
		"an issue elsewhere": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Issue{Symptom: "x", State: dossier.IssueOpen, Subjects: []dossier.Ref{homes.RoomID(0).Ref()}, OpenedAt: later})
		},
		"a port that no path needs": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Opening{Device: h.Server, Transport: dossier.TCP, Port: 22, Direction: dossier.Inward, State: dossier.OpeningBlocked})
		},
		"the signal is a little less": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Reading{What: dossier.SignalDbm, Value: -56, Subject: h.Screen.Ref(), How: dossier.KnownRead, At: later})
		},
		"a reset, with all settings found as they must be": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Change{Device: h.Server, What: "reset", At: later, Effect: dossier.EffectReset})
			for _, s := range h.Settings {
				homes.Set(h, s.ID, func(s *dossier.Setting) { s.ConfirmedAt = now })
			}
		},
		"a reset that was confirmed": func(h *homes.SoundHome) {
			homes.Put(h, dossier.Change{Device: h.Server, What: "reset", At: later, Effect: dossier.EffectReset, ConfirmedAt: now})
		},
	} {
		t.Run(name, func(t *testing.T) {
			h := provenHome(t, 1)
			before := look(h.Dossier).Coverage
			do(h)
			assert.Equal(t, before, look(h.Dossier).Coverage)
		})
	}
}

func TestAScanThatSawSomethingElsePutsInDoubt(t *testing.T) {
	h := provenHome(t, 2)
	before := look(h.Dossier).Coverage
	seen := knowledge.Seen{Subject: h.Source.Ref(), Member: "port", Recorded: "40210", Seen: "40211", At: later}
	a := look(h.Dossier, seen)
	assert.Equal(t, before.Required, a.Coverage.Required)
	assert.NotZero(t, a.Coverage.InDoubt)
	for _, s := range a.Statuses {
		if s.Status == proving.InDoubt {
			assert.Equal(t, proving.DoubtSeen, s.Doubts[0].Code)
			assert.Equal(t, "40211", s.Doubts[0].Values["seen"])
		}
	}
	seen.At = noon.Add(-time.Minute)
	assert.Equal(t, before, look(h.Dossier, seen).Coverage, "the test was made after the scan, and saw for itself")
	seen.At, seen.Member = later, "name"
	assert.Equal(t, before, look(h.Dossier, seen).Coverage, "no proof stands on it")
}

// A test that must pass first and fails now takes the proof of those after it along.
func TestAnEarlierTestThatFailsSpeaksAgainstTheLaterOnes(t *testing.T) {
	h := provenHome(t, 3)
	for _, one := range proving.NewPlan(h.Index()).Tests {
		if one.Kind.Name == "reach" && one.Path == h.ScreenPath {
			a := dossier.Attempt{Test: "reach", Subjects: one.Subjects, Outcome: dossier.Fail, Facts: one.Facts(), Version: proving.Version, At: later, By: homes.Person}
			a.ID = homes.AttemptID(9000)
			h.Attempts.Put(a)
		}
	}
	a := look(h.Dossier)
	plays, _ := a.Test(proving.TestID("plays", []dossier.Ref{h.ScreenPath.Ref()}))
	assert.Equal(t, proving.InDoubt, plays.Status)
	assert.Equal(t, proving.DoubtEarlier, plays.Doubts[0].Code)
	other, _ := a.Test(proving.TestID("plays", []dossier.Ref{h.PlayerPath.Ref()}))
	assert.Equal(t, proving.Proven, other.Status, "the other path is not touched")
}

// After an update of the server one path of each screen is enough, where that is declared.
func TestOneWitnessPerScreenIsEnough(t *testing.T) {
	h := provenHome(t, 4)
	second := homes.Put(h, dossier.Path{Name: "screen again", Device: h.Screen, Source: h.Source, Folders: []dossier.ID[dossier.Folder]{h.Folder}, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast})
	prove(h.Dossier, noon, func(t proving.Test) bool { return t.Path == second })
	homes.Set(h, h.Software, func(s *dossier.Software) { s.Version = "3.1" })
	a := look(h.Dossier)
	stale := 0
	for _, s := range a.Statuses {
		if s.Status == proving.Stale && s.Test.Required {
			stale++
		}
	}
	var tests, shown int
	for _, s := range a.Reproof {
		tests += len(s.Tests)
		shown += len(s.Shows)
	}
	assert.Equal(t, stale, tests+shown, "every stale test is proven, by itself or by a witness")
	assert.NotZero(t, shown)

	// What the steps ask for is done, and no more: everything is proven again.
	var asked []string
	for _, s := range a.Reproof {
		asked = append(asked, s.Tests...)
	}
	prove(h.Dossier, later, func(t proving.Test) bool { return slices.Contains(asked, t.ID()) })
	done := look(h.Dossier)
	assert.Equal(t, done.Coverage.Required, done.Coverage.Proven+done.Coverage.NotServed, "%+v", done.Coverage)
	assert.Empty(t, done.Reproof)
	assert.Zero(t, done.Minutes)
	witnessed := 0
	for _, s := range done.Statuses {
		if s.Witness {
			witnessed++
			assert.NotContains(t, asked, s.Test.ID())
		}
	}
	assert.Equal(t, shown, witnessed)

	// A change of the path itself is no matter for a witness.
	homes.Set(h, second, func(p *dossier.Path) { p.Mode = dossier.FromFiles })
	plays, _ := look(h.Dossier).Test(proving.TestID("plays", []dossier.Ref{second.Ref()}))
	assert.Equal(t, proving.Stale, plays.Status)
}

// The acts that are asked for prove everything, whatever became of the home.
func TestTheStepsProveEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Furnished(t)
		prove(h.Dossier, noon, func(proving.Test) bool { return rapid.Bool().Draw(t, "proven before") })
		for range 3 {
			k := rapid.SampledFrom([]string{"device", "software", "interface", "path", "source", "segment"}).Draw(t, "kind")
			rows := dossier.KindNamed(k).In(h.Dossier)
			ref := dossier.Ref{Kind: k, ID: rows.At(rapid.IntRange(0, rows.Len()-1).Draw(t, "record")).Key()}
			homes.Redraw(t, h.Dossier, ref, rapid.SampledFrom(dossier.KindNamed(k).Fields).Draw(t, "member"))
		}
		a := look(h.Dossier)
		var asked []string
		for _, s := range a.Reproof {
			asked = append(asked, s.Tests...)
		}
		prove(h.Dossier, later, func(t proving.Test) bool { return slices.Contains(asked, t.ID()) })
		for _, s := range look(h.Dossier).Statuses {
			if s.Test.Required && s.Status != proving.InDoubt {
				assert.Equal(t, proving.Proven, s.Status, s.Test.ID())
			}
		}
	})
}

func TestWishesAreThePromise(t *testing.T) {
	status := func(h *homes.SoundHome, wish dossier.ID[dossier.Wish]) proving.WishStatus {
		for _, w := range look(h.Dossier).Wishes {
			if w.Wish == wish {
				return w
			}
		}
		return proving.WishStatus{}
	}
	h := provenHome(t, 5)
	device, _ := h.Devices.Get(h.Screen)
	films := homes.Put(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: device.Room, Need: dossier.Needed})
	prove(h.Dossier, noon, nil)
	assert.Equal(t, proving.WishFulfilled, status(h, films).Status)

	music := homes.Put(h, dossier.Wish{What: dossier.WishKind(dossier.Music), Room: device.Room, Need: dossier.Needed})
	before := look(h.Dossier).Coverage
	assert.Equal(t, proving.NotServed, status(h, music).Status)
	assert.NotZero(t, before.NotServed)
	assert.Less(t, before.Proven, before.Required, "a wish without a path lowers coverage")
	assert.Equal(t, "wish-not-served", look(h.Dossier).Departure[0].Code, "and is told first on leaving")

	homes.Set(h, music, func(w *dossier.Wish) { w.Need = dossier.Welcome })
	assert.Equal(t, before.NotServed-1, look(h.Dossier).Coverage.NotServed, "one that is only welcome does not")

	phone := homes.Put(h, dossier.Device{Name: "tablet", Carried: true, Roles: []dossier.Role{dossier.RolePlayer}})
	carried := homes.Put(h, dossier.Wish{What: dossier.WishKind(dossier.Film), Device: phone, Need: dossier.Needed})
	assert.Equal(t, proving.NotServed, status(h, carried).Status)
	homes.Put(h, dossier.Path{Name: "tablet films", Device: phone, Source: h.Source, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast})
	assert.Equal(t, proving.WishUnproven, status(h, carried).Status)
	assert.NotZero(t, status(h, carried).Places[0].Open)

	one := look(h.Dossier).Statuses
	opens := slices.IndexFunc(one, func(s proving.TestStatus) bool { return s.Test.Kind.Name == "opens" && s.Test.Path == h.ScreenPath })
	refused := dossier.Attempt{Meta: dossier.Meta[dossier.Attempt]{ID: homes.AttemptID(9000)}, Test: "opens", Subjects: one[opens].Test.Subjects, Outcome: dossier.Fail, Facts: one[opens].Test.Facts(), Version: proving.Version, At: noon.Add(time.Hour), By: homes.Person, How: dossier.ByEye}
	h.Attempts.Put(refused)
	for _, p := range status(h, films).Places {
		if slices.Equal(p.Paths, []dossier.ID[dossier.Path]{h.ScreenPath}) {
			assert.Equal(t, proving.WishFailed, p.Status, "a path on which a test failed is none that only waits for its proof")
		}
	}
	h.Attempts.Delete(refused.ID)

	entry(h, func(e *dossier.RegisterEntry) { e.RecognisedAs = "something else" })
	assert.Equal(t, proving.WishInDoubt, status(h, films).Status)
	entry(h, func(e *dossier.RegisterEntry) { e.Admission = dossier.KeptOut })
	for _, p := range status(h, films).Places {
		for _, id := range p.Paths {
			assert.NotEqual(t, h.ScreenPath, id, "a device that is kept out is not served")
		}
	}
}

func TestAssessingChangesNothingAndRepeats(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		before := d.Clone()
		a, b := look(d), look(d.Clone())
		assert.Equal(t, before, d)
		assert.Equal(t, a.Findings, b.Findings)
		assert.Equal(t, a.Coverage, b.Coverage)
		assert.Equal(t, a.Reproof, b.Reproof)
		assert.Equal(t, a.Wishes, b.Wishes)
		assert.True(t, a.Until.After(a.Now))
	})
}

// A record that leaves the picture is one change, and not one for each of its values.
func TestARecordThatPlaysNoPartAnyLongerIsOneChange(t *testing.T) {
	h := provenHome(t, 1)
	homes.Set(h, h.Source, func(s *dossier.Source) { s.Port = 40299 })
	reach, _ := look(h.Dossier).Test(proving.TestID("reach", []dossier.Ref{h.ScreenPath.Ref()}))
	assert.Equal(t, []proving.FactChange{{Subject: h.Source.Ref(), Name: "port", From: "40210", To: "40299"}, {Subject: h.Opening.Ref()}}, reach.Changes)
}

// A server that has to convert for more devices than it has power for is found, with the numbers, as far as they are recorded.
func TestTooLittleConvertingPowerIsFound(t *testing.T) {
	h := provenHome(t, 1)
	homes.Set(h, h.Source, func(s *dossier.Source) { s.Converts = dossier.ConvertsAll })
	homes.Set(h, h.Folder, func(f *dossier.Folder) {
		f.Mix = []dossier.FormatEntry{{Container: dossier.MP4, Video: dossier.HEVC, Width: 1920, Height: 1080, FrameRate: 25, BitDepth: 8, Range: dossier.SDR, Sound: dossier.AAC, Channels: 2, Items: 3, Hours: 5}}
	})
	d := homes.Put(h, dossier.Decoding{Device: h.Screen, Complete: []dossier.FormatPart{dossier.PartVideo}, Entries: []dossier.DecodingEntry{{Part: dossier.PartVideo, Format: "h264", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}}})
	found := func(power float64) (out []network.Finding) {
		homes.Set(h, h.Source, func(s *dossier.Source) { s.BudgetMpx = power })
		for _, f := range look(h.Dossier).Findings {
			if f.Code == network.ConvertingShort {
				out = append(out, f)
			}
		}
		return out
	}
	need := 1920 * 1080 * 25 * (1.5 + 1) / 1e6
	short := found(need - 1)
	require.Len(t, short, 1)
	assert.Equal(t, []dossier.Ref{h.Source.Ref(), h.Screen.Ref(), h.Folder.Ref()}, short[0].Subjects)
	assert.Equal(t, network.Warning, short[0].Severity)
	assert.InDelta(t, need, short[0].Values["needs"].Number, 0.06)
	for _, slot := range wording.Slots(wording.Findings[network.ConvertingShort].Sentence) {
		assert.Contains(t, short[0].Values, slot)
	}
	assert.Empty(t, found(need+1), "enough for the one that needs it")
	assert.Empty(t, found(0), "power that is not recorded is not too little")
	h.Decodings.Delete(d)
	assert.Empty(t, found(1), "and what converts is not known where nothing says what the screen decodes")
}
