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
	"kaiku/core/pathkind"
)

// By says who can judge a test.
type By string

// Ways a test is carried out.
const (
	Automatic By = "automatic" // by a machine
	Eye       By = "by-eye"    // by a person before the screen
)

// Test is one item of the plan. Path is the path it is about, or the first of those that its folder
// or set is used by.
type Test struct {
	Kind     *Kind
	By       By
	Subjects []dossier.Ref
	Path     dossier.ID[dossier.Path]
	Required bool     // it counts; otherwise it is only advised
	After    []string // ids of tests that must have passed before
	id       string
	facts    []fact
	bare     []dossier.Fact
}

// ID is the test's identity: its kind and the ids of its sorted subjects.
func (t Test) ID() string { return t.id }

// Facts are what a result obtained now would stand on, in order; what is not recorded is left out.
func (t Test) Facts() []dossier.Fact { return t.bare }

// StandsOn reports whether a proof of the test stands on the record in any of its members.
func (t Test) StandsOn(ref dossier.Ref) bool {
	return slices.ContainsFunc(t.bare, func(f dossier.Fact) bool { return f.Subject == ref })
}

// TestID returns the identity of the test of that kind on those subjects.
func TestID(kind string, subjects []dossier.Ref) string {
	if len(subjects) == 1 {
		return kind + ":" + subjects[0].ID
	}
	ids := make([]string, len(subjects))
	for i, s := range subjects {
		ids[i] = s.ID
	}
	slices.Sort(ids)
	return kind + ":" + strings.Join(ids, ",")
}

// Plan is the tests of a home in walking order, with the records that each path's proofs stand on.
type Plan struct {
	Tests []Test
	view  *view
	cast  map[dossier.ID[dossier.Path]]map[dossier.Ref]bool
	byID  map[string]int
}

// NewPlan returns the tests of every path in use, with those of the folders it reaches and of the
// sets it belongs to, in walking order: what a machine can do first, since it needs no walking,
// then room by room along the floors, each path outward from its source.
func NewPlan(x *dossier.Index) *Plan {
	p := &Plan{view: look(x), cast: map[dossier.ID[dossier.Path]]map[dossier.Ref]bool{}, byID: map[string]int{}}
	cases := map[About][]Case{AboutPath: pathCases(x), AboutFolder: folderCases(x), AboutSet: setCases(x)}
	for i := range Kinds {
		k := &Kinds[i]
		for _, c := range cases[k.About] {
			if weight := k.weight(x, c); weight != NotAsked {
				p.Tests = append(p.Tests, p.view.test(k, c, weight))
			}
		}
	}
	planned := map[string]bool{}
	for _, t := range p.Tests {
		planned[t.id] = true
	}
	for i := range p.Tests {
		p.Tests[i].After = slices.DeleteFunc(p.Tests[i].After, func(id string) bool { return !planned[id] })
	}
	places := map[dossier.ID[dossier.Path]]walkPlace{}
	for _, c := range cases[AboutPath] {
		places[c.Path.ID] = place(x, c.Path)
	}
	slices.SortStableFunc(p.Tests, func(a, b Test) int {
		if a.By != b.By {
			return strings.Compare(string(a.By), string(b.By)) // automatic stands before by-eye
		}
		return compareWalk(places[a.Path], places[b.Path])
	})
	for i, t := range p.Tests {
		p.byID[t.id] = i
	}
	return p
}

// Find returns the planned test with that identity.
func (p *Plan) Find(id string) (Test, bool) {
	i, ok := p.byID[id]
	if !ok {
		return Test{}, false
	}
	return p.Tests[i], true
}

// involved returns the records that the proofs of a path stand on.
func (p *Plan) involved(id dossier.ID[dossier.Path]) map[dossier.Ref]bool {
	out, known := p.cast[id]
	if known {
		return out
	}
	out = map[dossier.Ref]bool{}
	if path, ok := p.view.Paths.Get(id); ok {
		c := p.view.castOf(path)
		c.folders(p.view.Reached(path))
		for _, one := range c.list {
			if one.part != asOther && one.part != asOtherSource && one.part != asLine {
				out[one.ref] = true
			}
		}
	}
	p.cast[id] = out
	return out
}

func (v *view) test(k *Kind, c Case, weight Weight) Test {
	subjects := []dossier.Ref{c.subject()}
	t := Test{Kind: k, By: k.by(v.Index, c), Subjects: subjects, Path: c.Path.ID, Required: weight == Required, id: TestID(k.Name, subjects), facts: v.facts(k.On, c)}
	t.bare = make([]dossier.Fact, len(t.facts))
	for i, f := range t.facts {
		t.bare[i] = f.Fact
	}
	for _, before := range k.After {
		t.After = append(t.After, before+":"+string(c.Path.ID))
	}
	return t
}

func (k *Kind) weight(x *dossier.Index, c Case) Weight {
	if !pathkind.Of(c.Path.Kind).Proves(k.Name) {
		return NotAsked
	}
	return k.asked(x, c)
}

// walkPlace is where a path is proven, for the order of a walk through the home.
type walkPlace struct {
	floor, order int
	room, path   string
}

func place(x *dossier.Index, p dossier.Path) walkPlace {
	device, _ := x.Devices.Get(p.Device)
	room, _ := x.Rooms.Get(device.Room)
	return walkPlace{room.Floor, room.Order, room.Name, p.Name}
}

func compareWalk(a, b walkPlace) int {
	return cmp.Or(cmp.Compare(a.floor, b.floor), cmp.Compare(a.order, b.order), strings.Compare(a.room, b.room), strings.Compare(a.path, b.path))
}
