package proving

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// A machine judges only what it can ask or hear itself.
func TestWhatAMachineJudges(t *testing.T) {
	d := homes.Small().Clone()
	c := Case{Path: d.Paths[0]}
	device := &d.Devices[1]
	require.Equal(t, device.ID, c.Path.Device)
	d.Sources[0].Protocol = dossier.ProtocolUPnPAV
	assert.Equal(t, Eye, machineAnnounced(d.Index(), c), "as which device it would ask is not known")
	device.Announces = "Screen/1.0"
	assert.Equal(t, Automatic, machineAnnounced(d.Index(), c))
	d.Sources[0].Protocol = dossier.ProtocolSMB
	assert.Equal(t, Eye, machineAnnounced(d.Index(), c), "a share does not look at what a device announces")

	assert.Equal(t, Automatic, machineFromOutside(d.Index(), c))
	d.Sources[0].OutsideBy = dossier.WayRelay
	assert.Equal(t, Eye, machineFromOutside(d.Index(), c))

	for kind, want := range map[dossier.PathKind]By{dossier.Stream: Automatic, dossier.Feed: Automatic, dossier.OwnPlayer: Eye} {
		d.Sources[0].Protocol = dossier.ProtocolHTTP
		assert.Equal(t, want, machineThatLists(d.Index(), Case{Path: dossier.Path{Kind: kind, Source: d.Sources[0].ID}}), kind)
	}

	second := d.Paths[0]
	second.ID = homes.ID[dossier.Path](1)
	d.Paths.Put(second)
	set := dossier.BusySet{Name: "Saturday"}
	assert.Equal(t, Eye, machineOnPushed(d.Index(), Case{Set: set}), "nothing can be played")
	set.Paths = []dossier.ID[dossier.Path]{d.Paths[0].ID, second.ID}
	for _, of := range []struct {
		first, second dossier.PathKind
		want          By
	}{{dossier.AVPush, dossier.AVPush, Automatic}, {dossier.AVPush, dossier.AVPull, Eye}, {dossier.AVPull, dossier.AVPull, Eye}} {
		d.Paths[0].Kind, d.Paths[1].Kind = of.first, of.second
		assert.Equal(t, of.want, machineOnPushed(d.Index(), Case{Set: set}), "%+v", of)
	}
}

// A wish for a device is about that device, one for a room about all in it, any other about every device.
func TestWhomAWishIsAbout(t *testing.T) {
	device := dossier.Device{Room: "den"}
	device.ID = "a"
	for want, of := range map[bool][]dossier.Wish{true: {{Device: "a"}, {Device: "a", Room: "loft"}, {Room: "den"}, {}}, false: {{Device: "b"}, {Device: "b", Room: "den"}, {Room: "loft"}}} {
		for _, w := range of {
			assert.Equal(t, want, For(w, device), "%+v", w)
		}
	}
}

// An attempt that could not be made by a machine is named; one that a person could not make is not, nor one that others followed.
func TestWhatAMachineCouldNotDoIsNamed(t *testing.T) {
	for _, c := range []struct {
		how     dossier.How
		outcome dossier.Outcome
		named   bool
	}{{dossier.ByMachine, dossier.Impossible, true}, {dossier.ByEye, dossier.Impossible, false}, {dossier.ByMachine, dossier.Pass, false}} {
		d := homes.Small().Clone()
		one := NewPlan(d.Index()).Tests[0]
		a := dossier.Attempt{Test: one.Kind.Name, Subjects: one.Subjects, Outcome: c.outcome, How: c.how, At: homes.Day, Facts: one.Facts(), Version: Version}
		a.ID = homes.ID[dossier.Attempt](1)
		d.Attempts.Put(a)
		s := Statuses(NewPlan(d.Index()), Against{})[0]
		require.Equal(t, one.ID(), s.Test.ID())
		assert.Equal(t, c.named, s.Undone == a.ID, "%+v", c)
	}
}

// What a reset takes away is listed as far as it is recorded, and counted.
func TestWhatAResetTakesAway(t *testing.T) {
	d := homes.Small().Clone()
	device := d.Sources[0].Device
	change := dossier.Change{Device: device, At: homes.Day, Losses: "all settings"}
	codes := func() map[string]string {
		out := map[string]string{}
		for _, r := range NewPlan(d.Index()).afterReset(change) {
			out[r.Code] = r.Values["n"]
		}
		return out
	}
	for _, code := range []string{"admissions", "openings", "settings", "start-up"} {
		assert.NotContains(t, codes(), code)
	}
	require.NotEmpty(t, d.Folders)
	assert.Contains(t, codes(), "offers")
	d.Folders = nil
	assert.NotContains(t, codes(), "offers")
	for i := range 2 {
		e := dossier.RegisterEntry{Server: device, Device: d.Devices[1].ID}
		e.ID = homes.ID[dossier.RegisterEntry](i)
		d.RegisterEntries.Put(e)
		o := dossier.Opening{Device: device}
		o.ID = homes.ID[dossier.Opening](i)
		d.Openings.Put(o)
		s := dossier.Setting{Subject: device.Ref(), Name: "x"}
		s.ID = homes.ID[dossier.Setting](i)
		d.Settings.Put(s)
	}
	other := dossier.RegisterEntry{Server: d.Devices[1].ID, Device: device}
	other.ID = homes.ID[dossier.RegisterEntry](5)
	d.RegisterEntries.Put(other)
	got := codes()
	assert.Equal(t, []string{"2", "2", "2"}, []string{got["admissions"], got["openings"], got["settings"]})
}

// The limits belong to the better side.
func TestJudgementsAtTheirLimits(t *testing.T) {
	for ms, want := range map[float64]dossier.Outcome{
		-91: dossier.Fail, -90: dossier.Marginal, -41: dossier.Marginal, -40: dossier.Pass, 0: dossier.Pass, 60: dossier.Pass, 61: dossier.Marginal, 185: dossier.Marginal, 186: dossier.Fail,
	} {
		got, judged := JudgeLips(ms, 1000)
		require.True(t, judged)
		assert.Equal(t, want, got.Outcome, ms)
	}
	for value, want := range map[float64]dossier.Outcome{5: dossier.Pass, 5.1: dossier.Marginal, 10: dossier.Marginal, 10.1: dossier.Fail} {
		assert.Equal(t, want, within(value, 5, 10), value)
	}
	at, err := TimeCode("01:59:59:24", 25)
	require.NoError(t, err)
	assert.Equal(t, 119*time.Minute+59*time.Second+960*time.Millisecond, at)
	for _, bad := range []string{"00:60:00:00", "00:00:60:00", "00:00:00:25"} {
		_, err := TimeCode(bad, 25)
		require.ErrorIs(t, err, ErrTimeCode, bad)
	}
	_, err = TimeCode("00:00:01:00", 0)
	require.ErrorIs(t, err, ErrTimeCode)
}
