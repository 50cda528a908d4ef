// Package proving computes the commissioning plan of a home, what each proof is based on, and
// where every test stands now.
//
// A test is known by its kind and its subjects, so that planning again keeps its attempts. An
// attempt holds for the facts it was made on: when one of them changes, it proves nothing more,
// and when the fact returns, the old proof is good again.
package proving

import (
	"cmp"
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
	Kind     *Kind
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
	v := look(d)
	cases := map[About][]Case{AboutPath: pathCases(d), AboutFolder: folderCases(d), AboutSet: setCases(d)}
	var out []Test
	for i := range Kinds {
		k := &Kinds[i]
		for _, c := range cases[k.About] {
			if weight := k.weight(d, c); weight != NotAsked {
				out = append(out, v.test(k, c, weight))
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
	places := map[dossier.ID[dossier.Path]]walkPlace{}
	for _, c := range cases[AboutPath] {
		places[c.Path.ID] = place(d, c.Path)
	}
	slices.SortStableFunc(out, func(a, b Test) int {
		if a.By != b.By {
			return strings.Compare(string(a.By), string(b.By)) // automatic stands before by-eye
		}
		return compareWalk(places[a.Path], places[b.Path])
	})
	return out
}

// view is a dossier while a plan is made of it. It remembers what is asked again and again: the
// adapters of a device, and the facts that many tests of a path stand on.
type view struct {
	*dossier.Dossier
	adapters map[dossier.ID[dossier.Device]][]dossier.Interface
	facts    map[factsOf][]dossier.Fact
}

type factsOf struct {
	on      basis
	subject string
}

func look(d *dossier.Dossier) *view {
	v := &view{d, map[dossier.ID[dossier.Device]][]dossier.Interface{}, map[factsOf][]dossier.Fact{}}
	for _, i := range d.Interfaces {
		v.adapters[i.Device] = append(v.adapters[i.Device], i)
	}
	return v
}

// InterfacesOf returns the adapters of a device, in the order of their ids.
func (v *view) InterfacesOf(device dossier.ID[dossier.Device]) []dossier.Interface {
	return v.adapters[device]
}

// ListensOn returns the adapters a source can be reached at.
func (v *view) ListensOn(s dossier.Source) []dossier.Interface {
	if i, ok := v.Interfaces.Get(s.Interface); ok {
		return []dossier.Interface{i}
	}
	return v.InterfacesOf(s.Device)
}

// on returns the facts of a case in their order; the list is shared, and cut to its length.
func (v *view) on(what basis, c Case) []dossier.Fact {
	key := factsOf{what, c.subject().ID}
	facts, known := v.facts[key]
	if !known {
		facts = slices.Clip(ordered(factsOn(what)(v, c)))
		v.facts[key] = facts
	}
	return facts
}

func (v *view) test(k *Kind, c Case, weight Weight) Test {
	t := Test{Kind: k, By: k.by(v.Dossier, c), Subjects: []dossier.Ref{c.subject()}, Path: c.Path.ID, Required: weight == Required, Facts: v.on(k.on, c)}
	for _, before := range k.After {
		t.After = append(t.After, TestID(before, []dossier.Ref{c.Path.ID.Ref()}))
	}
	return t
}

func (k *Kind) weight(d *dossier.Dossier, c Case) Weight {
	if len(k.For) > 0 && !slices.Contains(k.For, c.Path.Kind) {
		return NotAsked
	}
	return k.asked(d, c)
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

// walkPlace is where a path is proven, for the order of a walk through the home.
type walkPlace struct {
	floor, order int
	room, path   string
}

func place(d *dossier.Dossier, p dossier.Path) walkPlace {
	device, _ := d.Devices.Get(p.Device)
	room, _ := d.Rooms.Get(device.Room)
	return walkPlace{room.Floor, room.Order, room.Name, p.Name}
}

func compareWalk(a, b walkPlace) int {
	return cmp.Or(cmp.Compare(a.floor, b.floor), cmp.Compare(a.order, b.order), strings.Compare(a.room, b.room), strings.Compare(a.path, b.path))
}
