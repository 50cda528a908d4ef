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

// Test is one item of the plan. Facts are what a result obtained now would stand on. Path is the
// path it is about, or the first of those that its folder or set is used by.
type Test struct {
	Kind     Kind
	By       By
	Subjects []dossier.Ref
	Path     dossier.ID[dossier.Path]
	Required bool     // it counts; otherwise it is only advised
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

// Plan returns the tests of every path in use, with those of the folders it reaches and of the
// sets it belongs to, in walking order: what a machine can do first, since it needs no walking,
// then room by room along the floors, each path outward from its source.
func Plan(d *dossier.Dossier) []Test {
	var out []Test
	cases := map[About][]Case{AboutPath: pathCases(d), AboutFolder: folderCases(d), AboutSet: setCases(d)}
	for _, k := range Kinds {
		for _, c := range cases[k.About] {
			if weight := k.weight(d, c); weight != NotAsked {
				out = append(out, k.test(d, c, weight))
			}
		}
	}
	planned := map[string]bool{}
	for _, t := range out {
		planned[t.ID()] = true
	}
	for i := range out {
		out[i].After = slices.DeleteFunc(out[i].After, func(id string) bool { return !planned[id] })
	}
	slices.SortStableFunc(out, func(a, b Test) int { return compareWalk(place(d, a), place(d, b)) })
	return out
}

func (k Kind) weight(d *dossier.Dossier, c Case) Weight {
	if len(k.For) > 0 && !slices.Contains(k.For, c.Path.Kind) {
		return NotAsked
	}
	return k.asked(d, c)
}

func (k Kind) test(d *dossier.Dossier, c Case, weight Weight) Test {
	t := Test{Kind: k, By: k.by(d, c), Subjects: []dossier.Ref{c.subject()}, Path: c.Path.ID, Required: weight == Required, Facts: ordered(k.facts(d, c))}
	for _, before := range k.After {
		t.After = append(t.After, TestID(before, []dossier.Ref{c.Path.ID.Ref()}))
	}
	return t
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
	return walkPlace{t.By == Eye, room.Floor, room.Order, room.Name, p.Name}
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
