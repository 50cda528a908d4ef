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

// reporting returns what makes reports of the first device of a home, each of an issue of its own.
func reporting() func(h Home, mode string, found bool) Report {
	n := 200
	return func(h Home, mode string, found bool) Report {
		n++
		i := dossier.Issue{Symptom: "x"}
		i.ID = homes.ID[dossier.Issue](n)
		return Report{Home: h.Dossier, Issue: i, Mode: mode, About: h.Devices[0].ID.Ref(), Found: found}
	}
}

// Faults in several homes are put together by what is narrowest of what most of them have in common.
func TestFaultsInSeveralHomes(t *testing.T) {
	home := func(model, firmware string) Home {
		d := homes.Small().Clone()
		d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware = "Tuulkivi", model, firmware
		return Home{Dossier: d}
	}
	report := reporting()
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

// Whatever is at fault counts for the device at which it is.
func TestAtWhichDeviceAComponentIs(t *testing.T) {
	d := homes.Small().Clone()
	line := dossier.Line{Name: "fibre", Router: d.Devices[1].ID}
	line.ID = homes.ID[dossier.Line](1)
	d.Lines.Put(line)
	x := d.Index()
	for at, want := range map[dossier.Ref]dossier.ID[dossier.Device]{
		d.Devices[1].ID.Ref(): d.Devices[1].ID, d.Sources[0].ID.Ref(): d.Sources[0].Device, d.Folders[0].ID.Ref(): d.Sources[0].Device, d.Paths[0].ID.Ref(): d.Paths[0].Device,
		line.ID.Ref(): d.Devices[1].ID, d.Segments[0].ID.Ref(): "", {Kind: "source", ID: "none"}: "",
	} {
		assert.Equal(t, want, deviceOf(x, at), at)
	}
}

// Models are counted with and without their firmware, programs with and without their version, and what has no name not at all.
func TestWhatADeviceIsCountedUnder(t *testing.T) {
	d := homes.Small().Clone()
	v := &d.Devices[0]
	d.Software = nil
	for n, s := range []dossier.Software{{Name: "server", Version: "3.1"}, {Name: "player"}, {Name: " ", Version: "9"}} {
		s.ID, s.Device = homes.ID[dossier.Software](50+n), v.ID
		d.Software.Put(s)
	}
	v.Make, v.Model, v.Firmware = "Ruska", "", "7"
	assert.Equal(t, []key{{Program, "server"}, {Release, "server 3.1"}, {Program, "player"}}, things(d.Index(), v.ID))
	v.Model = "TV-40"
	assert.Equal(t, []key{{Model, "Ruska TV-40"}, {Variant, "Ruska TV-40 7"}}, things(d.Index(), v.ID)[:2])
	v.Make, v.Firmware = "", ""
	assert.Equal(t, []key{{Model, "TV-40"}, {Program, "server"}}, things(d.Index(), v.ID)[:2])
	assert.Empty(t, things(d.Index(), "nobody"))

	lines := []Line{{Kind: Model, What: "TV-40"}, {Kind: Release, What: "server 3.1"}, {Kind: Model, What: "other"}, {Kind: Program, What: "TV-40"}}
	assert.Equal(t, lines[:2], About(lines, d.Index(), v.ID))
	assert.Empty(t, About(lines, d.Index(), d.Devices[1].ID))
	assert.Equal(t, lines[:2], About(lines, d.Index(), ""), "all devices of the home")
	assert.Equal(t, []Line{}, About(nil, d.Index(), v.ID))
}

// What enough is known of comes first, then what is worst for certain; of each the most frequent fault first.
func TestTheOrderOfWhatComesBack(t *testing.T) {
	now := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	n := 300
	home := func(model string, years float64, faults ...string) Home {
		d := homes.Small().Clone()
		d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware = "Ruska", model, ""
		d.Software = nil
		for _, f := range faults {
			n++
			i := dossier.Issue{Symptom: "x", State: dossier.IssueClosed, Fault: f, FaultAt: d.Devices[0].ID.Ref()}
			i.ID = homes.ID[dossier.Issue](n)
			d.Issues.Put(i)
		}
		return Home{d, now.Add(-time.Duration(years * inYear))}
	}
	often := home("often", 4, "hang", "crash", "crash", "alone", "crash", "hang")
	seldom := home("seldom", 8, "crash", "crash", "hang")
	once := home("once", .1, "crash")
	young := home("young", -1, "crash")
	lines := Of([]Home{young, once, seldom, often}, now)
	var order []string
	for _, l := range lines {
		order = append(order, l.What)
	}
	require.Equal(t, []string{"Ruska often", "Ruska seldom", "Ruska once", "Ruska young"}, order)
	assert.Equal(t, []Count{{"crash", 3}, {"hang", 2}, {"alone", 1}}, lines[0].Modes)
	assert.Equal(t, []bool{true, true, false, false}, []bool{lines[0].Enough, lines[1].Enough, lines[2].Enough, lines[3].Enough})
	assert.Zero(t, lines[3].Years, "a home that begins tomorrow")
	assert.Equal(t, []float64{0, 0, 0}, []float64{lines[3].Rate, lines[3].Low, lines[3].High}, "nothing is said of no time")
}

// What most homes report comes first; what says the same of fewer of them is left out.
func TestTheOrderOfWhatSeveralHomesReport(t *testing.T) {
	home := func(model, firmware string) Home {
		d := homes.Small().Clone()
		d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware, d.Software = "Ruska", model, firmware, nil
		return Home{Dossier: d}
	}
	report := reporting()
	a, b, c, d, e := home("TV-40", "7"), home("TV-40", "7"), home("TV-40", "6"), home("TV-41", ""), home("TV-41", "")
	list := Together([]Home{a, b, c, d, e}, []Report{report(a, "hang", false), report(b, "hang", false), report(c, "hang", false), report(d, "crash", true), report(e, "crash", true), report(d, "away", true), report(e, "away", false)})
	var got []string
	for _, s := range list {
		got = append(got, s.Mode+" "+s.What)
	}
	assert.Equal(t, []string{"hang Ruska TV-40", "crash Ruska TV-41", "away Ruska TV-41"}, got, "of the firmware only two of the three say so")
	assert.Equal(t, []int{3, 2, 2}, []int{list[0].Reporting(), list[1].Reporting(), list[2].Reporting()})
	assert.Equal(t, []int{0, 2, 1}, []int{list[0].Found, list[1].Found, list[2].Found})
}

// Three faults in two years are just enough; the interval is that of the gamma distribution with Jeffreys' prior, half of chi-square with seven degrees
// of freedom in tables.
func TestJustEnough(t *testing.T) {
	now := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	d := homes.Small().Clone()
	d.Devices[0].Make, d.Devices[0].Model, d.Devices[0].Firmware, d.Software = "Ruska", "TV-40", "", nil
	line := func(faults int, since time.Duration) Line {
		d.Issues = nil
		for n := range faults {
			i := dossier.Issue{Symptom: "x", State: dossier.IssueClosed, Fault: "hang", FaultAt: d.Devices[0].ID.Ref()}
			i.ID = homes.ID[dossier.Issue](90 + n)
			d.Issues.Put(i)
		}
		return Of([]Home{{d, now.Add(-since)}}, now)[0]
	}
	years := time.Duration(2 * inYear)
	l := line(3, years)
	assert.True(t, l.Enough)
	assert.InEpsilon(t, 3.5/2, l.Rate, 1e-9)
	assert.InEpsilon(t, 2.1673/4, l.Low, 1e-3)
	assert.InEpsilon(t, 14.067/4, l.High, 1e-3)
	assert.False(t, line(2, years).Enough)
	assert.False(t, line(3, years-time.Hour).Enough)
	assert.Zero(t, line(3, 0).Rate)
	assert.InDelta(t, 0.5, below(1, 0.6931472), 1e-6, "half of an exponential distribution lies below the logarithm of two")
	assert.Zero(t, below(1, 0))
}
