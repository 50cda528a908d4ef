package proving_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/wording"
)

// smallHome has a router, a server with films and music, two screens and a music player, found by searching; films are needed in both rooms,
// music beside one of them, and the customer goes on in the other room.
func smallHome() *dossier.Dossier {
	b := homes.Build()
	room := func(n int) dossier.ID[dossier.Room] {
		return homes.Add(b, &b.Rooms, func(id dossier.ID[dossier.Room]) (r dossier.Room) {
			r.ID, r.Name, r.Floor = id, []string{"cellar", "parlour", "bedroom"}[n], n
			return
		})
	}
	cellar, parlour, bedroom := room(0), room(1), room(2)
	device := func(name string, in dossier.ID[dossier.Room], role dossier.Role) dossier.ID[dossier.Device] {
		return homes.Add(b, &b.Devices, func(id dossier.ID[dossier.Device]) (d dossier.Device) {
			d.ID, d.Name, d.Room, d.Roles = id, name, in, []dossier.Role{role}
			return
		})
	}
	device("router", cellar, dossier.RoleRouter)
	server := device("server", cellar, dossier.RoleServer)
	source := homes.Add(b, &b.Sources, func(id dossier.ID[dossier.Source]) (s dossier.Source) {
		s.ID, s.Name, s.Device, s.Protocol, s.Port = id, "media", server, dossier.ProtocolUPnPAV, 40210
		return
	})
	for _, kind := range []dossier.ContentKind{dossier.Film, dossier.Music} {
		homes.Add(b, &b.Folders, func(id dossier.ID[dossier.Folder]) (f dossier.Folder) {
			f.ID, f.Name, f.Source, f.ContentKind, f.ItemsOnDisk = id, string(kind), source, kind, 20
			return
		})
	}
	wish := func(what dossier.WishKind, in dossier.ID[dossier.Room]) {
		homes.Add(b, &b.Wishes, func(id dossier.ID[dossier.Wish]) (w dossier.Wish) {
			w.ID, w.What, w.Room, w.Need = id, what, in, dossier.Needed
			return
		})
	}
	wish("film", parlour)
	wish("film", bedroom)
	wish("music", parlour)
	wish(dossier.WishResumeAcrossRooms, "")
	path := func(name string, on dossier.ID[dossier.Device], folder int) {
		homes.Add(b, &b.Paths, func(id dossier.ID[dossier.Path]) (p dossier.Path) {
			p.ID, p.Name, p.Device, p.Source, p.Kind, p.FoundBy = id, name, on, source, dossier.AVPull, dossier.ByMulticast
			p.Folders, p.Marks = []dossier.ID[dossier.Folder]{b.Folders[folder].ID}, dossier.MarksAtServer
			return
		})
	}
	path("parlour films", device("parlour screen", parlour, dossier.RoleScreen), 0)
	path("bedroom films", device("bedroom screen", bedroom, dossier.RoleScreen), 0)
	path("parlour music", device("music player", parlour, dossier.RolePlayer), 1)
	return b.Dossier
}

// An experienced installer proves a small home in 45 to 50 minutes: one restart of the server, one copy of the sample, going on elsewhere once,
// and a look at each screen. The plan is not to take longer, nor to do anything twice.
func TestASmallHomeIsProvenAsAnInstallerWould(t *testing.T) {
	d := smallHome()
	p := proving.NewPlan(d.Index())
	steps, minutes := p.Reproof(proving.Statuses(p, proving.Against{}))
	count := map[string]int{}
	proven := map[string]int{}
	for _, s := range steps {
		count[s.Act.Name]++
		for _, id := range s.Tests {
			proven[id]++
		}
		t.Log(wording.Act(s.Act.Name, d.Label(s.At)), s.Minutes)
	}
	for _, one := range p.Tests {
		if one.Required {
			assert.Equal(t, 1, proven[one.ID()], "%s is proven in one step", one.ID())
		}
	}
	assert.Equal(t, 1, count["restart-server"])
	assert.Equal(t, 1, count["copy-sample"])
	assert.Equal(t, 1, count["go-on-elsewhere"])
	assert.Equal(t, 3, count["play-round"], "a look at each screen, and at the player")
	assert.Equal(t, 1, count["ask-source"], "the server is asked once")
	assert.Greater(t, minutes, 40)
	assert.LessOrEqual(t, minutes, 50)
	assert.True(t, steps[0].Machine, "what a machine does comes first")
}

// Every test of every drawn home says why it is in the plan, and what it is said with is there.
func TestEveryTestSaysWhy(t *testing.T) {
	seen := map[proving.Reason]bool{}
	look := func(d *dossier.Dossier) {
		for _, one := range proving.NewPlan(d.Index()).Tests {
			require.True(t, slices.Contains(proving.Reasons, one.Why.Reason), "%s has no reason", one.ID())
			seen[one.Why.Reason] = true
			for _, ref := range one.Why.About {
				assert.True(t, d.Has(ref), "%s: %s", one.ID(), ref)
			}
			said := wording.Why(one.Why.Reason, []string{"that"})
			assert.Regexp(t, `^because [^{}]+$`, said)
			if one.Required {
				assert.NotEqual(t, proving.BecauseCarried, one.Why.Reason, one.ID())
			}
		}
	}
	look(smallHome())
	look(homes.Full())
	rapid.Check(t, func(r *rapid.T) { look(homes.Furnished(r).Dossier) })
	assert.Greater(t, len(seen), 6)
	for _, r := range proving.Reasons {
		assert.NotEmpty(t, wording.Reasons[r], r)
	}
}

// At night nobody is disturbed, nothing is changed, and what sleeps is let sleep, also where it only holds the files.
func TestWhatIsRepeatedByNight(t *testing.T) {
	for _, k := range proving.Kinds {
		if k.Quiet {
			assert.Contains(t, proving.AutomaticKinds(), k.Name)
			assert.Zero(t, k.Lasts(), k.Name)
			assert.Contains(t, []string{"ask-source"}, k.Act, "%s does more than ask", k.Name)
		}
	}
	d := homes.Small().Clone()
	all, asleep := proving.NewPlan(d.Index()).AtNight()
	assert.NotEmpty(t, all)
	assert.Zero(t, asleep)
	d.Folders[0].LiesOn, d.Devices[1].Standby = d.Devices[1].ID, dossier.Yes
	_, asleep = proving.NewPlan(d.Index()).AtNight()
	assert.NotZero(t, asleep, "its files lie on what sleeps")
	for i := range d.Devices {
		d.Devices[i].Standby = dossier.Yes
	}
	none, asleep := proving.NewPlan(d.Index()).AtNight()
	assert.Empty(t, none)
	assert.Equal(t, len(all), asleep)
}

// A reset owes a look at everything that is recorded of the device, and says what the copy of the settings gives back.
func TestWhatAChangeLeavesToDo(t *testing.T) {
	d := homes.Small().Clone()
	server := d.Devices[0].ID
	homes.PutIn(d, 1, dossier.SettingsCopy{Device: server, TakenAt: homes.Day, Holds: dossier.CopySettings, Where: "the laptop"})
	homes.PutIn(d, 2, dossier.Change{Device: server, What: "new folder", At: homes.Day, Effect: dossier.EffectNone, Losses: "watched marks",
		FollowUps: []dossier.FollowUp{dossier.FollowUpRestart, dossier.FollowUpSave, dossier.FollowUpRebuild}, Done: []dossier.FollowUp{dossier.FollowUpRestart}})
	homes.PutIn(d, 3, dossier.Change{Device: server, What: "reset", At: homes.Day.Add(time.Hour), Effect: dossier.EffectReset, SettingsCopy: homes.ID[dossier.SettingsCopy](1)})
	d.Sources[0].ShownName, d.Sources[0].Port = "Granite", 8200
	owed := proving.NewPlan(d.Index()).Unfinished()
	require.Len(t, owed, 2)
	codes := func(o proving.UnfinishedChange) (out []string) {
		for _, i := range o.Items {
			out = append(out, i.Code)
			assert.NotContains(t, wording.ToDo(i.Code, i.Values), "{", i.Code)
		}
		return out
	}
	assert.Equal(t, []string{"save", "rebuild-catalogue"}, codes(owed[0]), "in the order in which it is done")
	assert.Equal(t, "Rebuild the catalogue. This loses: watched marks.", wording.ToDo("rebuild-catalogue", owed[0].Items[1].Values))
	assert.Subset(t, codes(owed[1]), []string{"copy-holds", "shown-name", "address", "offers"})
	d.Changes[1].SettingsCopy = ""
	assert.Contains(t, codes(proving.NewPlan(d.Index()).Unfinished()[1]), "no-copy")
	d.Changes[1].ConfirmedAt = homes.Day.Add(2 * time.Hour)
	assert.Len(t, proving.NewPlan(d.Index()).Unfinished(), 1, "the settings were confirmed")
	for _, word := range append(dossier.FollowUp("").Values(), proving.ToDoCodes...) {
		assert.Contains(t, wording.ToDos, word)
	}
}

// The first test outward from the source that fails says where to look, and what is not known before it is named.
func TestWhereToLook(t *testing.T) {
	d := homes.Small().Clone()
	path := d.Paths[0].ID
	record := func(kind string, o dossier.Outcome, seen dossier.Observed) {
		x, planned := proving.NewPlan(d.Index()).Find(proving.TestID(kind, []dossier.Ref{path.Ref()}))
		require.True(t, planned, kind)
		a := dossier.Attempt{Test: kind, Subjects: x.Subjects, Outcome: o, Observed: seen, Facts: x.Facts(), Version: proving.Version, At: homes.Day.Add(time.Duration(len(d.Attempts)) * time.Minute), By: homes.Person}
		a.ID = homes.AttemptID(100 + len(d.Attempts))
		d.Attempts.Put(a)
	}
	look := func() (proving.Look, bool) {
		p := proving.NewPlan(d.Index())
		l, failed := p.WhereToLook(proving.Statuses(p, proving.Against{}))[path]
		return l, failed
	}
	kind := func(id string) string { k, _, _ := strings.Cut(id, ":"); return k }
	_, failed := look()
	assert.False(t, failed, "nothing has failed")

	record("plays", dossier.Fail, "")
	l, _ := look()
	assert.Equal(t, "plays", kind(l.First))
	assert.Equal(t, proving.StageScreen, l.Stage)
	assert.NotEmpty(t, l.Unknown, "whether it answers is not known")
	assert.Contains(t, wording.Look(l.Stage, "", []string{"Source answers"}), "are not known to pass: source answers. Test them first.")

	record("opens", dossier.Fail, "no-folders")
	l, _ = look()
	assert.Equal(t, "opens", kind(l.First))
	assert.Equal(t, proving.StageServer, l.Stage)

	for seen, want := range map[dossier.Observed]proving.Stage{"refused": proving.StageMachine, "time-out": proving.StageNetwork, "wrong-content": proving.StageServer, "": proving.StageNetwork} {
		record("reach", dossier.Fail, seen)
		l, _ = look()
		assert.Equal(t, "reach", kind(l.First))
		assert.Equal(t, want, l.Stage, seen)
		assert.Empty(t, l.Unknown)
		assert.NotContains(t, wording.Look(l.Stage, "", nil), "look .", "a stage without words")
	}
	record("reach", dossier.Pass, "answered")
	record("opens", dossier.Pass, "opened")
	l, _ = look()
	assert.Equal(t, "plays", kind(l.First))
	d.Devices[1].Firmware += "9"
	_, failed = look()
	assert.False(t, failed, "what failed on other facts says nothing")
}

// What plays on one device for long is played one after the other; the rest goes on beside.
func TestWhatGoesOnBesideWhat(t *testing.T) {
	d := homes.Small().Clone()
	d.Paths[0].Kind, d.Paths[0].FoundBy = dossier.AVPush, dossier.ByMulticast
	second := d.Paths[0]
	second.ID, second.Name = homes.ID[dossier.Path](900), "second way"
	d.Paths.Put(second)
	plan := proving.NewPlan(d.Index())
	long := plan.ForMachine(func(x proving.Test) bool { return x.Kind.Lasts() > 0 })
	rows := plan.Beside(long)
	in := map[string]int{}
	for _, row := range rows {
		for _, x := range row {
			assert.Len(t, row, map[string]int{"stays-found": 1, "long-play": 2}[x.Kind.Name], x.ID())
			in[x.Kind.Name]++
		}
	}
	assert.Equal(t, map[string]int{"stays-found": 2, "long-play": 2}, in)
	assert.Empty(t, plan.Beside(nil))
}
