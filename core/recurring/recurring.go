// Package recurring works out what keeps coming back: for each model of device and each program, how many faults were found at it, over how many years
// of homes that have it.
package recurring

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// Home is one home, and since when it is looked after.
type Home struct {
	*dossier.Dossier
	Since time.Time
}

// Kind is what a line is about.
type Kind string

// Kinds.
const (
	Model    Kind = "model"   // a model of device
	Variant  Kind = "variant" // a model of device with one version of its firmware
	Program  Kind = "program" // a program
	Release  Kind = "release" // a program in one version
	fewest        = 3         // faults needed before a rate is given
	leastYrs      = 2.0       // and years of looking after homes
	inYear        = 365.25 * 24 * float64(time.Hour)
	credible      = 0.90
	noPrior       = 0.5 // shape of the prior of Jeffreys for a rate (Gelman et al., Bayesian Data Analysis, section 2.8)
)

// Values lists the kinds.
func (Kind) Values() []string {
	return []string{string(Model), string(Variant), string(Program), string(Release)}
}

// Line is how often faults were found at one thing.
type Line struct {
	Kind   Kind
	What   string
	Faults int
	Homes  int
	Years  float64 // of homes that have it
	// Rate is faults in a year of one home, and Low and High are the ends of its credible interval of 90 %.
	Rate, Low, High float64
	Enough          bool // there are faults and years enough for the rate to say something
	Modes           []Count
}

// Count is how often one fault mode was found.
type Count struct {
	Mode  string
	Times int
}

type key struct {
	kind Kind
	what string
}

// Of works out the lines of all things at which a fault was found, the highest certain rate first. The versions of programs and of firmware are those that
// are recorded now: what was in use when a fault was found may have been another.
func Of(homes []Home, now time.Time) []Line {
	years, places := map[key]float64{}, map[key]int{}
	found := map[key]map[string]int{}
	for _, h := range homes {
		x := h.Index()
		has := map[key]bool{}
		for _, v := range x.Devices {
			for _, k := range things(x, v.ID) {
				has[k] = true
			}
		}
		for k := range has {
			places[k]++
			if now.After(h.Since) {
				years[k] += float64(now.Sub(h.Since)) / inYear
			}
		}
		for _, i := range x.Issues {
			if i.Fault == "" {
				continue
			}
			for _, k := range things(x, deviceOf(x, i.FaultAt)) {
				if found[k] == nil {
					found[k] = map[string]int{}
				}
				found[k][i.Fault]++
			}
		}
	}
	out := []Line{}
	for k, modes := range found {
		l := Line{Kind: k.kind, What: k.what, Homes: places[k], Years: years[k]}
		for m, n := range modes {
			l.Faults += n
			l.Modes = append(l.Modes, Count{m, n})
		}
		slices.SortFunc(l.Modes, func(a, b Count) int { return cmp.Or(cmp.Compare(b.Times, a.Times), strings.Compare(a.Mode, b.Mode)) })
		l.Enough = l.Faults >= fewest && l.Years >= leastYrs
		if l.Years > 0 {
			shape := float64(l.Faults) + noPrior
			l.Rate = shape / l.Years
			l.Low, l.High = quantile(shape, (1-credible)/2)/l.Years, quantile(shape, 1-(1-credible)/2)/l.Years
		}
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b Line) int {
		return cmp.Or(cmp.Compare(enough(b), enough(a)), cmp.Compare(b.Low, a.Low), strings.Compare(string(a.Kind), string(b.Kind)), strings.Compare(a.What, b.What))
	})
	return out
}

func enough(l Line) int {
	if l.Enough {
		return 1
	}
	return 0
}

// things are what a device is counted under: its model, with its firmware, and the programs on it.
func things(x *dossier.Index, id dossier.ID[dossier.Device]) []key {
	v, ok := x.Devices.Get(id)
	if !ok {
		return nil
	}
	var out []key
	put := func(whole, part Kind, name, version string) {
		if name = strings.TrimSpace(name); name == "" {
			return
		}
		out = append(out, key{whole, name})
		if version != "" {
			out = append(out, key{part, name + " " + version})
		}
	}
	if v.Model != "" {
		put(Model, Variant, strings.TrimSpace(v.Make+" "+v.Model), v.Firmware)
	}
	for _, s := range x.SoftwareOf(id) {
		put(Program, Release, s.Name, s.Version)
	}
	return slices.Compact(out)
}

// deviceOf is the device at which a component is; "" for one that is at none.
func deviceOf(x *dossier.Index, r dossier.Ref) dossier.ID[dossier.Device] {
	switch r.Kind {
	case "device":
		return dossier.ID[dossier.Device](r.ID)
	case "source":
		s, _ := x.Sources.Get(dossier.ID[dossier.Source](r.ID))
		return s.Device
	case "folder":
		f, _ := x.Folders.Get(dossier.ID[dossier.Folder](r.ID))
		s, _ := x.Sources.Get(f.Source)
		return s.Device
	case "path":
		p, _ := x.Paths.Get(dossier.ID[dossier.Path](r.ID))
		return p.Device
	case "line":
		l, _ := x.Lines.Get(dossier.ID[dossier.Line](r.ID))
		return l.Router
	}
	return ""
}

// quantile is that of a gamma distribution of that shape and a rate of 1, to six digits.
func quantile(shape, p float64) float64 {
	low, high := 0.0, shape+20*math.Sqrt(shape)+20
	for range 80 {
		mid := (low + high) / 2
		if below(shape, mid) < p {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}

// below is the regularised incomplete gamma function P(a, x), by its series (Abramowitz and Stegun, Handbook of Mathematical Functions, 6.5.29).
func below(a, x float64) float64 {
	if x <= 0 {
		return 0
	}
	log, _ := math.Lgamma(a + 1)
	term := math.Exp(a*math.Log(x) - x - log)
	sum := term
	for n := 1.0; n < 10_000 && term > sum*1e-12; n++ {
		term *= x / (a + n)
		sum += term
	}
	return min(sum, 1)
}
