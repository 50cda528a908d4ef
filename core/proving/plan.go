// Package proving computes the commissioning plan of a home, what each proof stands on, and
// where every test stands now.
//
// A test is known by its kind and its subjects, so that planning again keeps its attempts. An
// attempt holds for the facts it was made on: when one of them changes, it proves nothing more,
// and when the fact returns, the old proof is good again.
package proving

import (
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// By says who can judge a test.
type By string

// Ways a test is carried out.
const (
	Automatic By = "automatic" // by a machine
	Eye       By = "by-eye"    // by a person before the screen
)

// Kind declares one kind of test.
type Kind struct {
	Name    string
	For     []dossier.PathKind
	By      By
	Minutes int
	After   []string                                            // kinds that must have passed before
	facts   func(*dossier.Dossier, dossier.Path) []dossier.Fact // what its proof stands on
}

// Kinds lists the kinds of test outward from the source: the first that fails says where to look.
var Kinds = []Kind{
	{Name: "reach", For: []dossier.PathKind{dossier.AVPull}, By: Automatic, Minutes: 1, facts: reachFacts},
	{Name: "found", For: []dossier.PathKind{dossier.AVPull}, By: Automatic, Minutes: 1, facts: foundFacts},
	{Name: "plays", For: []dossier.PathKind{dossier.AVPull}, By: Eye, Minutes: 4, After: []string{"reach", "found"}, facts: playsFacts},
}

// KindNamed returns the kind of test with that name.
func KindNamed(name string) (Kind, bool) {
	i := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{}, false
	}
	return Kinds[i], true
}

// Test is one item of the plan. Facts are what a result obtained now would stand on.
type Test struct {
	Kind     Kind
	Subjects []dossier.Ref
	Path     dossier.ID[dossier.Path]
	Required bool
	After    []string // ids of tests that must have passed before
	Facts    []dossier.Fact
}

// ID is the test's identity: its kind and the ids of its sorted subjects.
func (t Test) ID() string { return TestID(t.Kind.Name, t.Subjects) }

// TestID returns the identity of the test of that kind on those subjects.
func TestID(kind string, subjects []dossier.Ref) string {
	ids := make([]string, len(subjects))
	for i, s := range subjects {
		ids[i] = s.ID
	}
	slices.Sort(ids)
	return kind + ":" + strings.Join(ids, ",")
}

// Plan returns the tests of every path in use, in walking order: what a machine can do first,
// since it needs no walking, then room by room along the floors, each path outward from its
// source. Every test of a path is required.
func Plan(d *dossier.Dossier) []Test {
	var out []Test
	for _, p := range d.Paths {
		if p.Retired {
			continue
		}
		for _, k := range Kinds {
			if !slices.Contains(k.For, p.Kind) {
				continue
			}
			t := Test{Kind: k, Subjects: []dossier.Ref{p.ID.Ref()}, Path: p.ID, Required: true, Facts: k.facts(d, p)}
			for _, before := range k.After {
				t.After = append(t.After, TestID(before, t.Subjects))
			}
			out = append(out, t)
		}
	}
	slices.SortStableFunc(out, func(a, b Test) int { return compareWalk(place(d, a), place(d, b)) })
	return out
}

// Find returns the planned test with that identity.
func Find(d *dossier.Dossier, id string) (Test, bool) {
	plan := Plan(d)
	i := slices.IndexFunc(plan, func(t Test) bool { return t.ID() == id })
	if i < 0 {
		return Test{}, false
	}
	return plan[i], true
}

type walkPlace struct {
	byEye        bool
	floor, order int
	room, path   string
}

func place(d *dossier.Dossier, t Test) walkPlace {
	p, _ := d.Paths.Get(t.Path)
	device, _ := d.Devices.Get(p.Device)
	room, _ := d.Rooms.Get(device.Room)
	return walkPlace{t.Kind.By == Eye, room.Floor, room.Order, room.Name, p.Name}
}

func compareWalk(a, b walkPlace) int {
	switch {
	case a.byEye != b.byEye:
		if a.byEye {
			return 1
		}
		return -1
	case a.floor != b.floor:
		return a.floor - b.floor
	case a.order != b.order:
		return a.order - b.order
	case a.room != b.room:
		return strings.Compare(a.room, b.room)
	}
	return strings.Compare(a.path, b.path)
}
