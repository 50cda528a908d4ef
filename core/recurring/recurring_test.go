package recurring

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
)

// Quantiles of the gamma distribution, as half of those of chi-square with twice as many degrees of freedom stand in tables.
func TestQuantiles(t *testing.T) {
	for _, c := range []struct{ freedom, p, chi float64 }{
		{1, .05, .00393}, {1, .95, 3.8415}, {7, .05, 2.1673}, {7, .95, 14.067}, {20, .05, 10.851}, {20, .95, 31.410}, {100, .05, 77.929}, {100, .95, 124.34},
	} {
		assert.InEpsilon(t, c.chi, 2*quantile(c.freedom/2, c.p), 1e-3, "%g degrees, %g", c.freedom, c.p)
	}
}

func TestWhatKeepsComingBack(t *testing.T) {
	now := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	home := func(years float64, faults int) Home {
		d := homes.Small().Clone()
		d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware = "Tuulkivi", "TK-4", "2"
		for n := range faults {
			i := dossier.Issue{Symptom: "x", State: dossier.IssueClosed, Fault: "server-hangs", FaultAt: d.Sources[0].ID.Ref()}
			i.ID = homes.ID[dossier.Issue](90 + n)
			d.Issues.Put(i)
		}
		return Home{d, now.Add(-time.Duration(years * inYear))}
	}
	lines := Of([]Home{home(1, 3), home(2, 1), home(3, 0)}, now)
	require.NotEmpty(t, lines)
	by := map[string]Line{}
	for _, l := range lines {
		by[l.What] = l
	}
	l := by["Tuulkivi TK-4"]
	assert.Equal(t, []any{4, 3, true}, []any{l.Faults, l.Homes, l.Enough})
	assert.InDelta(t, 6, l.Years, .01)
	assert.InDelta(t, 4.5/6, l.Rate, .01)
	assert.Less(t, l.Low, l.Rate)
	assert.Greater(t, l.High, l.Rate)
	assert.Equal(t, []Count{{"server-hangs", 4}}, l.Modes)
	assert.Contains(t, by, "Tuulkivi TK-4 2", "and with its firmware")
	few := Of([]Home{home(1, 1)}, now)
	assert.False(t, few[0].Enough, "one fault in one year tells little")
	assert.Empty(t, Of([]Home{home(9, 0)}, now), "nothing was found")
	assert.Empty(t, Of(nil, now))
}

// More years without another fault never raise what is said of a rate, and the interval holds the rate.
func TestMoreYearsLowerTheRate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		shape := rapid.Float64Range(.5, 60).Draw(t, "shape")
		low, high := quantile(shape, .05), quantile(shape, .95)
		assert.Less(t, low, high)
		if shape > 1 {
			assert.True(t, low < shape && shape < high, "%g in %g to %g", shape, low, high)
		}
	})
}

// Faults in several homes are put together by what is narrowest of what most of them have in common.
func TestFaultsInSeveralHomes(t *testing.T) {
	n := 200
	home := func(model, firmware string) Home {
		d := homes.Small().Clone()
		d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware = "Tuulkivi", model, firmware
		return Home{Dossier: d}
	}
	report := func(h Home, mode string, found bool) Report {
		n++
		i := dossier.Issue{Symptom: "x"}
		i.ID = homes.ID[dossier.Issue](n)
		return Report{Home: h.Dossier, Issue: i, Mode: mode, About: h.Devices[0].ID.Ref(), Found: found}
	}
	a, b, c, other := home("TK-4", "7"), home("TK-4", "7"), home("TK-4", "6"), home("TK-5", "7")
	all := []Home{a, b, c, other}
	list := Together(all, []Report{report(a, "crash", true), report(b, "crash", false), report(other, "crash", false)})
	require.Len(t, list, 1)
	assert.Equal(t, []any{Variant, "Tuulkivi TK-4 7", 2, 1, 0}, []any{list[0].Kind, list[0].What, list[0].Reporting(), list[0].Found, len(list[0].Homes)})
	list = Together(all, []Report{report(a, "crash", true), report(c, "crash", true)})
	require.Len(t, list, 1, "only the model is common")
	assert.Equal(t, []any{Model, "Tuulkivi TK-4", 1}, []any{list[0].Kind, list[0].What, len(list[0].Homes)})
	assert.Same(t, b.Dossier, list[0].Homes[0], "who has it too and reports nothing")
	assert.Empty(t, Together(all, []Report{report(a, "crash", true), report(a, "crash", true)}), "twice in one home is not in several")
	assert.Empty(t, Together(all, []Report{report(a, "crash", true), report(b, "hang", true)}), "two faults are not one")
	nowhere := report(b, "crash", true)
	nowhere.About = dossier.Ref{Kind: "segment", ID: "x"}
	assert.Empty(t, Together(all, []Report{report(a, "crash", true), nowhere}), "it is at no device")
	assert.Empty(t, Together(nil, nil))
}
