package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// SamplePrefix begins the names of the sample clips wherever they are copied to. A test may rename and delete what bears it.
const SamplePrefix = "kaiku-sample-"

// SamplesIn begins what a copy of sample clips is noted as, until it is collected again; the directory follows.
const SamplesIn = "Sample clips in "

// ForMachine returns the tests of the plan that a machine carries out, in the order in which it does: those that are chosen by wanted, or,
// where wanted is nil, all but those that go on for long.
func (p *Plan) ForMachine(wanted func(Test) bool) []Test {
	var out []Test
	for _, t := range p.Tests {
		if t.By == Automatic && (wanted == nil && t.Kind.Lasts() == 0 || wanted != nil && wanted(t)) {
			out = append(out, t)
		}
	}
	slices.SortStableFunc(out, func(a, b Test) int {
		return slices.Index(kindNames, a.Kind.Name) - slices.Index(kindNames, b.Kind.Name)
	})
	return out
}

// AtNight returns what a machine repeats at night, in the order in which it does, and how many tests it leaves out because a machine that they
// ask may be asleep then: silence would prove nothing, and asking might wake it.
func (p *Plan) AtNight() (tests []Test, asleep int) {
	x := p.view.Index
	for _, t := range p.ForMachine(func(t Test) bool { return t.Kind.Quiet }) {
		path, _ := x.Paths.Get(t.Path)
		source, _ := x.Sources.Get(path.Source)
		asked := []dossier.ID[dossier.Device]{source.Device}
		for _, f := range x.Reached(path) {
			asked = append(asked, f.LiesOn)
		}
		if slices.ContainsFunc(asked, func(id dossier.ID[dossier.Device]) bool {
			one, _ := x.Devices.Get(id)
			return one.Standby == dossier.Yes
		}) {
			asleep++
			continue
		}
		tests = append(tests, t)
	}
	return tests, asleep
}

var kindNames = func() (out []string) {
	for _, k := range Kinds {
		out = append(out, k.Name)
	}
	return out
}()

// AutomaticKinds names the kinds of test that a machine can carry out on some kind of path, outward from the source.
func AutomaticKinds() []string {
	var out []string
	for _, k := range Kinds {
		if slices.ContainsFunc(dossier.PathKind("").Values(), func(kind string) bool {
			return slices.ContainsFunc(dossier.Protocol("").Values(), func(protocol string) bool {
				d := &dossier.Dossier{}
				v := dossier.Device{Announces: "what it is"}
				v.ID = "v"
				d.Devices.Put(v)
				s := dossier.Source{Protocol: dossier.Protocol(protocol)}
				s.ID = "s"
				d.Sources.Put(s)
				p := dossier.Path{Device: v.ID, Source: s.ID, Kind: dossier.PathKind(kind)}
				p.ID = "p"
				d.Paths.Put(p)
				return k.by(d.Index(), Case{Path: p, Set: dossier.BusySet{Paths: []dossier.ID[dossier.Path]{p.ID}}}) == Automatic
			})
		}) {
			out = append(out, k.Name)
		}
	}
	return out
}

// Run keeps what came of tests that are carried out one after the other, outward from the source: where one fails, those that need it to
// have passed are left out. The first that fails says where to look.
type Run map[string]dossier.Outcome

// LeaveOut returns the identity of a test of the run that did not pass and that this one needs, or "" where there is none. A test that is left
// out counts as not passed, so that those that need it are left out too.
func (r Run) LeaveOut(t Test) string {
	for _, before := range t.After {
		if o, tried := r[before]; tried && o != dossier.Pass && o != dossier.Marginal {
			r[t.ID()] = dossier.Impossible
			return before
		}
	}
	return ""
}
