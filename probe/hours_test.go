package probe

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/practice"
)

// A restriction is looked at as the device would see it, and only where the server can be seen to tell devices apart is anything said for certain.
func TestRestrictionsAreAskedInTheDevicesName(t *testing.T) {
	h := practice.New(133)
	require.NoError(t, h.Start(t.Context()))
	defer h.Stop()
	const junior, grown = "Kuunari/6 UPnP/1.1 NorrvikJunior/2.6", "Kuunari/6 UPnP/1.1 Norrvik/3.1" // the server shows the first nothing but films
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)                                         // a Wednesday
	all := []dossier.ContentKind{dossier.Photo}
	for _, c := range []struct {
		name, announces string
		path            string
		r               dossier.Restriction
		fault           string
		want            dossier.Observed
		outcome         dossier.Outcome
	}{
		{"kept out at all hours", junior, "photographs", dossier.Restriction{Contents: all}, "", "kept-out", dossier.Pass},
		{"the server takes both alike", grown, "photographs", dossier.Restriction{Contents: all}, "", "not-told-apart", dossier.Impossible},
		{"films are shown though they are restricted", junior, "television films", dossier.Restriction{Contents: []dossier.ContentKind{dossier.Film}}, "", "shown-though-restricted", dossier.Fail},
		{"the server shows nobody anything", junior, "photographs", dossier.Restriction{Contents: all}, "index-empty", "shown-to-nobody", dossier.Impossible},
		{"the server is away", junior, "photographs", dossier.Restriction{Contents: all}, "silent", "time-out", dossier.Impossible},
		{"within the hours", junior, "photographs", dossier.Restriction{Contents: all, From: "11:00", Until: "13:00"}, "", "kept-now", dossier.Impossible},
		{"outside the hours, and kept out all the same", junior, "photographs", dossier.Restriction{Contents: all, From: "20:00", Until: "07:00"}, "", "kept-though-free", dossier.Fail},
		{"outside the hours", grown, "photographs", dossier.Restriction{Contents: all, From: "20:00", Until: "07:00"}, "", "let-in-now", dossier.Impossible},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := everyWay(133)
			screen := d.Devices[1].ID
			d.Devices.Find(screen).Announces = c.announces
			c.r.Name, c.r.Device = "children", screen
			c.r.ID = homes.ID[dossier.Restriction](900)
			d.Restrictions.Put(c.r)
			for i := range d.Paths {
				if d.Paths[i].Kind == dossier.AVPull && c.path == "television films" && len(d.Paths[i].Folders) == 1 && d.Paths[i].Folders[0] == d.Folders[0].ID {
					d.Paths[i].Name = c.path
				}
			}
			if c.fault != "" {
				require.NoError(t, h.Switch(c.fault, true))
				defer func() { assert.NoError(t, h.Switch(c.fault, false)) }()
			}
			p := quickly()
			p.Now = func() time.Time { return noon }
			r, test := askHours(t, p, d, c.path)
			assert.Equal(t, c.want, r.Observed)
			assert.Equal(t, c.outcome, r.Outcome)
			if c.outcome != dossier.Impossible || r.Values["keptOut"]+r.Values["letIn"] == 0 {
				return
			}
			// The other half was seen before, on the same facts: that is the whole.
			other := map[bool]string{true: "letIn", false: "keptOut"}[r.Values["keptOut"] == 1]
			before := dossier.Attempt{Test: "hours-kept", Subjects: test.Subjects, Outcome: dossier.Impossible, How: dossier.ByMachine, Values: map[string]float64{other: 1}, Facts: test.Facts(), At: noon.Add(-12 * time.Hour)}
			before.ID = homes.ID[dossier.Attempt](901)
			d.Attempts.Put(before)
			whole, _ := askHours(t, p, d, c.path)
			assert.Equal(t, dossier.Observed("kept-at-hours"), whole.Observed)
			assert.Equal(t, dossier.Pass, whole.Outcome)
			d.Attempts[0].Facts = d.Attempts[0].Facts[1:] // it was seen on other facts
			half, _ := askHours(t, p, d, c.path)
			assert.Equal(t, dossier.Impossible, half.Outcome)
		})
	}
}

func askHours(t *testing.T, p Prober, d *dossier.Dossier, path string) (proving.Result, proving.Test) {
	t.Helper()
	for _, x := range proving.NewPlan(d.Index()).Tests {
		if (x.Kind.Name == "blocked" || x.Kind.Name == "hours-kept") && d.Label(x.Path.Ref()) == path {
			require.Equal(t, proving.Automatic, x.By)
			r, err := p.Probe(t.Context(), d, x)
			require.NoError(t, err)
			return r, x
		}
	}
	require.Fail(t, "no such test", path)
	return proving.Result{}, proving.Test{}
}
