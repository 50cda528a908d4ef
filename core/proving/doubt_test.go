package proving

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/homes"
)

// proven is a home whose every test passed an hour after the day began, and the time of that.
func proven() (*dossier.Dossier, time.Time) {
	d := homes.Small().Clone()
	proveEverything(d)
	return d, homes.Day.Add(time.Hour)
}

// doubts are what speaks against each test of a home, by kind of test.
func doubts(d *dossier.Dossier, against Against) map[string][]DoubtCode {
	out := map[string][]DoubtCode{}
	for _, s := range Statuses(NewPlan(d.Index()), against) {
		for _, one := range s.Doubts {
			out[s.Test.Kind.Name] = append(out[s.Test.Kind.Name], one.Code)
		}
	}
	return out
}

func ofAll(d *dossier.Dossier, codes ...DoubtCode) map[string][]DoubtCode {
	out := map[string][]DoubtCode{}
	for _, one := range NewPlan(d.Index()).Tests {
		out[one.Kind.Name] = codes
	}
	return out
}

// What comes before a test speaks against it where it has failed since, and only then.
func TestAnEarlierStepThatFailedSpeaksAgainstWhatBuildsOnIt(t *testing.T) {
	for _, c := range []struct {
		name    string
		after   time.Duration
		outcome dossier.Outcome
		doubt   bool
	}{{"failed since", time.Minute, dossier.Fail, true}, {"failed before", -time.Minute, dossier.Fail, false}, {"failed at the same moment", 0, dossier.Fail, false}, {"passed again", time.Minute, dossier.Pass, false}} {
		d, at := proven()
		reach := NewPlan(d.Index()).Tests[0]
		require.Equal(t, "reach", reach.Kind.Name)
		d.Attempts[0].At, d.Attempts[0].Outcome = at.Add(c.after), c.outcome
		got := doubts(d, Against{})
		for _, one := range NewPlan(d.Index()).Tests {
			if one.Kind.Name != "reach" && len(one.After) == 1 && one.After[0] == reach.ID() {
				assert.Equal(t, c.doubt, len(got[one.Kind.Name]) > 0, "%s: %s", c.name, one.Kind.Name)
			}
		}
	}
}

func TestIssuesSpeakAgainstProofs(t *testing.T) {
	for _, c := range []struct {
		name  string
		issue func(d *dossier.Dossier, i *dossier.Issue)
		tests []string // nil for all
		none  bool
	}{
		{"about the screen", func(d *dossier.Dossier, i *dossier.Issue) { i.Subjects = []dossier.Ref{d.Devices[1].ID.Ref()} }, nil, false},
		{"about the guest network", func(d *dossier.Dossier, i *dossier.Issue) { i.Subjects = []dossier.Ref{d.Segments[1].ID.Ref()} }, nil, true},
		{"about nothing", func(*dossier.Dossier, *dossier.Issue) {}, nil, true},
		{"closed", func(d *dossier.Dossier, i *dossier.Issue) {
			i.Subjects, i.State = []dossier.Ref{d.Devices[1].ID.Ref()}, dossier.IssueClosed
		}, nil, true},
		{"opened before", func(d *dossier.Dossier, i *dossier.Issue) {
			i.Subjects, i.OpenedAt = []dossier.Ref{d.Devices[1].ID.Ref()}, homes.Day
		}, nil, true},
		{"that names a test", func(d *dossier.Dossier, i *dossier.Issue) {
			i.Subjects, i.Test = []dossier.Ref{d.Devices[1].ID.Ref()}, TestID("sound", []dossier.Ref{d.Paths[0].ID.Ref()})
		}, []string{"sound", "lip-sync"}, false},
	} {
		d, at := proven()
		i := dossier.Issue{Symptom: "hum", State: dossier.IssueOpen, OpenedAt: at.Add(time.Minute)}
		i.ID = homes.ID[dossier.Issue](5)
		c.issue(d, &i)
		d.Issues.Put(i)
		want := map[string][]DoubtCode{}
		for kind, codes := range ofAll(d, DoubtIssue) {
			for _, one := range c.tests {
				if kind == one {
					want[kind] = codes
				}
			}
			if c.tests == nil && !c.none {
				want[kind] = codes
			}
		}
		assert.Equal(t, want, doubts(d, Against{}), c.name)
	}
}

// An issue that was opened from a failed test speaks against it and what builds on it, not against all that its device does.
func TestAnIssueFromAFailedTestSpeaksAgainstThatTest(t *testing.T) {
	d, at := proven()
	failed := d.Attempts[0]
	failed.ID, failed.Outcome, failed.At, failed.Facts = homes.AttemptID(1), dossier.Fail, at.Add(-time.Minute), nil
	d.Attempts.Put(failed)
	i := dossier.Issue{Symptom: "no answer", State: dossier.IssueOpen, OpenedAt: at.Add(time.Minute), FailedAttempt: failed.ID}
	i.ID = homes.ID[dossier.Issue](5)
	d.Issues.Put(i)
	got := doubts(d, Against{})
	reach := TestID(failed.Test, failed.Subjects)
	for _, one := range NewPlan(d.Index()).Tests {
		builds := one.ID() == reach
		for _, before := range one.After {
			builds = builds || before == reach
		}
		assert.Equal(t, builds, len(got[one.Kind.Name]) > 0, one.Kind.Name)
	}
}

// A reset is answered by settings that were confirmed after it, all of them.
func TestAResetIsAnsweredByConfirmedSettings(t *testing.T) {
	for _, c := range []struct {
		name      string
		confirmed []time.Duration // after the reset
		doubt     bool
	}{
		{"none is recorded", nil, true}, {"before", []time.Duration{-time.Minute}, true}, {"in the same moment", []time.Duration{0}, true},
		{"since", []time.Duration{time.Minute}, false}, {"one of two", []time.Duration{time.Minute, -time.Minute}, true}, {"both", []time.Duration{time.Minute, 2 * time.Minute}, false},
	} {
		d, at := proven()
		reset := dossier.Change{Device: d.Devices[1].ID, What: "reset", Effect: dossier.EffectReset, At: at.Add(time.Hour)}
		reset.ID = homes.ID[dossier.Change](1)
		for n, after := range c.confirmed {
			s := dossier.Setting{Subject: d.Devices[1].ID.Ref(), Name: string(rune('a' + n)), Value: "on", ConfirmedAt: reset.At.Add(after)}
			s.ID = homes.ID[dossier.Setting](n)
			d.Settings.Put(s)
		}
		for n, one := range NewPlan(d.Index()).Tests { // the settings are among what was proven
			d.Attempts[n].Facts = one.Facts()
		}
		d.Changes.Put(reset)
		got := doubts(d, Against{})
		assert.Equal(t, c.doubt, len(got["reach"]) > 0, c.name)
	}
}

// What a scan saw otherwise speaks against proofs that are older than the scan and stand on it.
func TestWhatWasSeenOtherwiseSpeaksAgainstOlderProofs(t *testing.T) {
	d, at := proven()
	seen := knowledge.Seen{Subject: d.Sources[0].ID.Ref(), Member: "port", Recorded: "40210", Seen: "40211", At: at.Add(time.Minute)}
	assert.Equal(t, ofAll(d, DoubtSeen), doubts(d, Against{Seen: []knowledge.Seen{seen}}))
	older, elsewhere := seen, seen
	older.At = at
	elsewhere.Subject = d.Segments[1].ID.Ref()
	nothing := seen
	nothing.Member = "notes"
	assert.Empty(t, doubts(d, Against{Seen: []knowledge.Seen{older, elsewhere, nothing}}))
}

// A finding about one folder leaves the count of another one alone.
func TestAFindingOfAFolderSpeaksOfThatFolder(t *testing.T) {
	d := homes.Small().Clone()
	d.Folders[0].ItemsOnDisk = 3
	f := d.Folders[0]
	f.ID, f.Name = homes.ID[dossier.Folder](1), "Series"
	d.Folders.Put(f)
	d.Paths[0].Folders = append(d.Paths[0].Folders, f.ID)
	proveEverything(d)
	found := network.Finding{Code: "titles-missing", Keeps: network.KeepsCount, Subjects: []dossier.Ref{f.ID.Ref()}}
	for _, s := range Statuses(NewPlan(d.Index()), Against{Findings: []network.Finding{found}}) {
		if s.Test.Kind.Name == "complete" {
			assert.Equal(t, s.Test.Subjects[0] == f.ID.Ref(), s.Status == InDoubt, "%s is %s", s.Test.ID(), s.Status)
		}
	}
}

// What a server's update changed is seen again on one of the device's paths, for all of them; what else changed is not.
func TestOnePathIsWitnessForAnother(t *testing.T) {
	for _, c := range []struct {
		name    string
		change  func(*dossier.Dossier)
		again   time.Duration // when the first path is proven again
		outcome dossier.Outcome
		proven  bool
	}{
		{"the server's firmware", func(d *dossier.Dossier) { d.Devices[0].Firmware = "2" }, time.Minute, dossier.Pass, true},
		{"its software", func(d *dossier.Dossier) { d.Software[0].Version = "2" }, time.Minute, dossier.Pass, true},
		{"the screen's firmware", func(d *dossier.Dossier) { d.Devices[1].Firmware = "2" }, time.Minute, dossier.Pass, false},
		{"the server's firmware and the screen's", func(d *dossier.Dossier) { d.Devices[0].Firmware, d.Devices[1].Firmware = "2", "2" }, time.Minute, dossier.Pass, false},
		{"firmware that is no longer recorded", func(d *dossier.Dossier) { d.Devices[0].Firmware = "" }, time.Minute, dossier.Pass, false},
		{"seen before", func(d *dossier.Dossier) { d.Devices[0].Firmware = "2" }, -time.Minute, dossier.Pass, false},
		{"seen to fail", func(d *dossier.Dossier) { d.Devices[0].Firmware = "2" }, time.Minute, dossier.Fail, false},
		{"another server", func(d *dossier.Dossier) { d.Devices[0].Firmware = "2"; d.Sources[1].Device = d.Devices[1].ID }, time.Minute, dossier.Pass, false},
	} {
		d := homes.Small().Clone()
		d.Devices[0].Firmware, d.Devices[1].Firmware = "1", "1"
		s := dossier.Software{Device: d.Devices[0].ID, Name: "media", Does: dossier.SoftwareServer, Version: "1"}
		s.ID = homes.ID[dossier.Software](0)
		d.Software.Put(s)
		second := d.Sources[0]
		second.ID, second.Name = homes.ID[dossier.Source](1), "second"
		d.Sources.Put(second)
		p := d.Paths[0]
		p.ID, p.Name, p.Source, p.Folders = homes.ID[dossier.Path](1), "the other", second.ID, nil
		d.Paths.Put(p)
		proveEverything(d)
		c.change(d)
		plays := NewPlan(d.Index())
		for n, one := range plays.Tests {
			if one.Kind.Name == "plays" && one.Path == d.Paths[0].ID {
				a := dossier.Attempt{Test: "plays", Subjects: one.Subjects, Outcome: c.outcome, Facts: one.Facts(), Version: Version, At: homes.Day.Add(time.Hour + c.again), By: homes.Person}
				a.ID = homes.AttemptID(5000 + n)
				d.Attempts.Put(a)
			}
		}
		for _, s := range Statuses(NewPlan(d.Index()), Against{}) {
			if s.Test.Kind.Name == "plays" && s.Test.Path == p.ID {
				assert.Equal(t, c.proven, s.Status == Proven && s.Witness, "%s: %s, %v", c.name, s.Status, s.Changes)
			}
			if s.Test.Kind.Name == "reach" {
				assert.False(t, s.Witness, c.name)
			}
		}
	}
}
