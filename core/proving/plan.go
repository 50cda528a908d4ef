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
	Why      Why      // why it is asked for
	After    []string // ids of tests that must have passed before
	id       string
	on       standing
}

// standing is what a test stands on: of these facts, in order, those that its basis takes in, each
// once. Tests of one path share the list, and make one of their own only where it is asked for.
type standing struct {
	all []fact
	on  Basis
}

// each shows the facts one after the other until see says that it has seen enough.
func (s standing) each(see func(fact) bool) {
	var last dossier.Fact
	for _, f := range s.all {
		if s.on.Takes(f.on) && f.Fact != last {
			if last = f.Fact; !see(f) {
				return
			}
		}
	}
}

func (s standing) facts() []dossier.Fact {
	out := make([]dossier.Fact, 0, len(s.all))
	s.each(func(f fact) bool { out = append(out, f.Fact); return true })
	return slices.Clip(out)
}

// holds reports whether the facts are these.
func (s standing) holds(facts []dossier.Fact) bool {
	n, same := 0, true
	s.each(func(f fact) bool {
		same = n < len(facts) && facts[n] == f.Fact
		n++
		return same
	})
	return same && n == len(facts)
}

// ID is the test's identity: its kind and the ids of its sorted subjects.
func (t Test) ID() string { return t.id }

// Facts are what a result obtained now would stand on, in order; what is not recorded is left out.
func (t Test) Facts() []dossier.Fact { return t.on.facts() }

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
	ends  map[dossier.ID[dossier.Path]]ends
	byID  map[string]int
}

// ends are what a path joins.
type ends struct {
	device, server dossier.ID[dossier.Device]
	source         dossier.ID[dossier.Source]
}

// testsEach is about how many tests a path has.
const testsEach = 24

// NewPlan returns the tests of every path in use, with those of the folders it reaches and of the
// sets it belongs to, in walking order: what a machine can do first, since it needs no walking,
// then room by room along the floors, each path outward from its source.
func NewPlan(x *dossier.Index) *Plan {
	p := &Plan{view: look(x), cast: map[dossier.ID[dossier.Path]]map[dossier.Ref]bool{}, ends: map[dossier.ID[dossier.Path]]ends{}}
	for _, one := range x.InUse {
		_, server := x.ServerOf(one)
		p.ends[one.ID] = ends{one.Device, server.ID, one.Source}
	}
	cases := map[About][]Case{AboutPath: pathCases(x), AboutFolder: folderCases(x), AboutSet: setCases(x)}
	p.Tests = make([]Test, 0, testsEach*len(cases[AboutPath])+len(cases[AboutFolder])+len(cases[AboutSet]))
	for i := range Kinds {
		k := &Kinds[i]
		for _, c := range cases[k.About] {
			if weight, why := k.weight(x, c); weight != NotAsked {
				p.Tests = append(p.Tests, p.view.test(k, c, weight, why))
			}
		}
	}
	p.byID = make(map[string]int, len(p.Tests))
	for i := range p.Tests {
		p.byID[p.Tests[i].id] = i
	}
	for i := range p.Tests {
		p.Tests[i].After = slices.DeleteFunc(p.Tests[i].After, func(id string) bool { _, planned := p.byID[id]; return !planned })
	}
	places := map[dossier.ID[dossier.Path]]walkPlace{}
	for _, c := range cases[AboutPath] {
		places[c.Path.ID] = place(x, c.Path)
	}
	// Sorted by their places: comparing walks of 800 tests takes longer than all else.
	order := make([]dossier.ID[dossier.Path], 0, len(places))
	for id := range places {
		order = append(order, id)
	}
	slices.SortFunc(order, func(a, b dossier.ID[dossier.Path]) int {
		return cmp.Or(compareWalk(places[a], places[b]), strings.Compare(string(a), string(b)))
	})
	rank := make(map[dossier.ID[dossier.Path]]int, len(order))
	for i, id := range order {
		rank[id] = i
	}
	// Automatic tests stand first, then path by path; within a path they stay in the order of their kinds.
	stands := func(t *Test) int {
		if t.By == Automatic {
			return rank[t.Path]
		}
		return len(order) + rank[t.Path]
	}
	at := make([]int, 2*len(order)+1) // where the tests of each place begin
	where := make([]int, len(p.Tests))
	for i := range p.Tests {
		where[i] = stands(&p.Tests[i])
		at[where[i]+1]++
	}
	for i := 1; i < len(at); i++ {
		at[i] += at[i-1]
	}
	sorted := make([]Test, len(p.Tests))
	for i := range p.Tests {
		sorted[at[where[i]]] = p.Tests[i]
		at[where[i]]++
	}
	p.Tests = sorted
	for i := range p.Tests {
		p.byID[p.Tests[i].id] = i
	}
	return p
}

// Place returns where the test with that identity stands in the plan.
func (p *Plan) Place(id string) (int, bool) {
	i, ok := p.byID[id]
	return i, ok
}

// Find returns the planned test with that identity.
func (p *Plan) Find(id string) (Test, bool) {
	i, ok := p.Place(id)
	if !ok {
		return Test{}, false
	}
	return p.Tests[i], true
}

// SourceOf returns the source of a path of the plan.
func (p *Plan) SourceOf(id dossier.ID[dossier.Path]) dossier.ID[dossier.Source] {
	return p.ends[id].source
}

// InSet returns the paths in use of the set that a test is about; none for a test about something else.
func (p *Plan) InSet(t Test) []dossier.ID[dossier.Path] {
	set, ok := p.view.BusySets.Get(dossier.ID[dossier.BusySet](t.Subjects[0].ID))
	if !ok {
		return nil
	}
	var out []dossier.ID[dossier.Path]
	for _, one := range inUse(p.view.Index, set) {
		out = append(out, one.ID)
	}
	return out
}

// involved returns the records that the proofs of a path stand on.
func (p *Plan) involved(id dossier.ID[dossier.Path]) map[dossier.Ref]bool {
	out, known := p.cast[id]
	if known {
		return out
	}
	out = map[dossier.Ref]bool{}
	if path, ok := p.view.Paths.Get(id); ok {
		for _, one := range p.view.wholeCast(path) {
			if one.part != asOther && one.part != asOtherSource && one.part != asLine {
				out[one.ref] = true
			}
		}
	}
	p.cast[id] = out
	return out
}

func (v *view) test(k *Kind, c Case, weight Weight, why Why) Test {
	subjects := []dossier.Ref{c.subject()}
	t := Test{Kind: k, By: k.by(v.Index, c), Subjects: subjects, Path: c.Path.ID, Required: weight == Required, Why: why, id: TestID(k.Name, subjects), on: v.standsOn(k.On, c)}
	if len(k.After) > 0 {
		t.After = make([]string, 0, len(k.After))
	}
	for _, before := range k.After {
		t.After = append(t.After, before+":"+string(c.Path.ID))
	}
	return t
}

func (k *Kind) weight(x *dossier.Index, c Case) (Weight, Why) {
	if !pathkind.Of(c.Path.Kind).Proves(k.Name) {
		return no()
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
