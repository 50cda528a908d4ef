package proving

import (
	"cmp"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Once says what an act is done once for.
type Once int

// What an act is done once for.
const (
	OncePath   Once = iota // for each path
	OnceDevice             // for all paths of the device
	OnceSource             // for all paths of the source
	OnceServer             // for all paths of the server
	OnceSet                // for the set of paths in use at once
	OnceHome               // for the home
)

// Act is something that is done once and proves several tests, across paths and rooms. Each is how
// many minutes every further path adds.
type Act struct {
	Name    string
	Once    Once
	Minutes int
	Each    int
}

// Acts lists what is done to prove a home, in the order in which it is done.
var Acts = []Act{
	{"ask-source", OnceSource, 1, 0},
	{"keep-searching", OnceSource, 1, 0},
	{"try-writing", OncePath, 2, 0},
	{"play-round", OncePath, 6, 0},
	{"record-programme", OncePath, 6, 0},
	{"go-on-elsewhere", OnceServer, 3, 2},
	{"try-hours", OnceDevice, 3, 1},
	{"use-fall-back", OncePath, 5, 0},
	{"copy-sample", OnceSource, 4, 1},
	{"restart-device", OnceDevice, 3, 1},
	{"wake-server", OnceServer, 5, 1},
	{"restart-server", OnceServer, 7, 1},
	{"cut-power", OnceHome, 10, 1},
	{"all-at-once", OnceSet, 10, 0},
	{"leave-playing", OncePath, 60, 0},
	{"try-outside", OnceSource, 5, 1},
}

func actNamed(name string) (Act, int) {
	i := slices.IndexFunc(Acts, func(a Act) bool { return a.Name == name })
	return Acts[i], i
}

// Step is one act to do: at what, for which tests, and how long it takes.
type Step struct {
	Act     Act
	At      dossier.Ref // the path, device, source, server or set that it is done at
	Tests   []string    // ids of the tests it proves by itself
	Shows   []string    // ids of further tests that it is enough for, as its witness
	Minutes int
	Room    dossier.ID[dossier.Room] // in which it is done; "" if that is not one, or not recorded
	Machine bool                     // a machine can do all of it
}

// witnessed says for which kinds of test, and for changes of which facts, one path of a device is
// witness for the others from the same server: what serves all of them in one way.
var witnessed = map[string][]factOfKind{
	"opens": served, "plays": served, "stops": served, "seeks": served, "resumes": served, "sound": served, "subtitles": served,
	"sample-appears": served, "after-device-restart": served, "survives-restart": served,
}

type factOfKind struct{ kind, name string }

// served is what a server does alike for all paths to one device: its program and its system.
var served = []factOfKind{{"software", "version"}, {"device", "firmware"}}

// witnessable reports whether one path of the device may prove the test for the others: all that
// differs is declared so, and is a matter of the server and what runs on it.
func (p *Plan) witnessable(s *TestStatus) bool {
	declared := witnessed[s.Test.Kind.Name]
	if s.Status != Stale || len(declared) == 0 || s.Test.Kind.About != AboutPath {
		return false
	}
	server := p.ends[s.Test.Path].server
	return !slices.ContainsFunc(s.Changes, func(c FactChange) bool {
		at := dossier.ID[dossier.Device](c.Subject.ID)
		if c.Subject.Kind == "software" {
			one, _ := p.view.Software.Get(dossier.ID[dossier.Software](c.Subject.ID))
			at = one.Device
		}
		return at != server || c.To == "" || !slices.Contains(declared, factOfKind{c.Subject.Kind, c.Name})
	})
}

// group is where one path may be witness for others: the kind of test, the device and the server.
type group struct {
	kind           string
	device, server dossier.ID[dossier.Device]
}

func (p *Plan) groupOf(t *Test) group {
	ends := p.ends[t.Path]
	return group{t.Kind.Name, ends.device, ends.server}
}

// witness makes good what one attempt on another path of the same device shows: a test of the same
// kind that passed on facts that hold now, the changed ones among them.
func (p *Plan) witness(list []TestStatus) {
	passed := map[group][]*TestStatus{}
	any := false
	for i := range list {
		any = any || p.witnessable(&list[i])
	}
	if !any {
		return
	}
	for i := range list {
		if s := &list[i]; s.Status == Proven && s.Test.Kind.About == AboutPath && len(witnessed[s.Test.Kind.Name]) > 0 {
			g := p.groupOf(&s.Test)
			passed[g] = append(passed[g], s)
		}
	}
	var good []int
	var by []*TestStatus
	for i := range list {
		s := &list[i]
		if !p.witnessable(s) {
			continue
		}
		for _, w := range passed[p.groupOf(&s.Test)] {
			facts := w.Test.Facts()
			all := !slices.ContainsFunc(s.Changes, func(c FactChange) bool {
				return !slices.Contains(facts, dossier.Fact{Subject: c.Subject, Name: c.Name, Value: c.To})
			})
			if all && w.At.After(s.At) {
				good, by = append(good, i), append(by, w)
				break
			}
		}
	}
	for n, i := range good {
		list[i].Status, list[i].Attempt, list[i].At, list[i].AsOf, list[i].Witness = Proven, by[n].Attempt, by[n].At, by[n].AsOf, true
		list[i].Changes = nil
	}
}

// Reproof returns the fewest acts that make every required test proven that is not, in the order in
// which they are done, with the minutes. Tests that are waived are left out.
func (p *Plan) Reproof(list []TestStatus) ([]Step, int) {
	return p.steps(list, func(s *TestStatus) bool {
		return s.Test.Required && s.Status != Proven && s.Status != Waived
	})
}

// ShortestFor returns the act that makes one test sure again.
func (p *Plan) ShortestFor(s TestStatus) Step {
	steps, _ := p.steps([]TestStatus{s}, func(*TestStatus) bool { return true })
	return steps[0]
}

func (p *Plan) steps(list []TestStatus, wanted func(*TestStatus) bool) ([]Step, int) {
	need := map[dossier.ID[dossier.Path]]int{} // tests that only the path itself can prove
	groups := map[group][]*TestStatus{}
	var own []*TestStatus
	for i := range list {
		s := &list[i]
		if !wanted(s) {
			continue
		}
		if p.witnessable(s) {
			g := p.groupOf(&s.Test)
			groups[g] = append(groups[g], s)
			continue
		}
		own = append(own, s)
		need[s.Test.Path]++
	}
	// The witness of a group is the path on which most is to be done anyway, and of those the first.
	shows := map[string][]string{}
	for _, s := range slices.Clone(own) {
		g := p.groupOf(&s.Test)
		for _, other := range groups[g] {
			shows[s.Test.id] = append(shows[s.Test.id], other.Test.id)
		}
		delete(groups, g)
	}
	var left []group
	for g := range groups {
		left = append(left, g)
	}
	slices.SortFunc(left, func(a, b group) int {
		return cmp.Or(strings.Compare(string(a.device), string(b.device)), strings.Compare(string(a.server), string(b.server)), strings.Compare(a.kind, b.kind))
	})
	for _, g := range left {
		best := slices.MaxFunc(groups[g], func(a, b *TestStatus) int {
			return cmp.Or(cmp.Compare(need[a.Test.Path], need[b.Test.Path]), strings.Compare(string(b.Test.Path), string(a.Test.Path)))
		})
		own = append(own, best)
		for _, other := range groups[g] {
			if other.Test.id != best.Test.id {
				shows[best.Test.id] = append(shows[best.Test.id], other.Test.id)
			}
		}
	}
	return p.inActs(own, shows)
}

// getReady is what it takes before the first test of an act, in minutes, where only some of its tests are left to do. Judgement.
const getReady = 1

// inActs sorts tests into the acts that prove them.
func (p *Plan) inActs(own []*TestStatus, shows map[string][]string) ([]Step, int) {
	type key struct {
		act int
		at  dossier.Ref
	}
	steps := map[key]*Step{}
	paths := map[key]map[dossier.ID[dossier.Path]]bool{}
	kinds := map[key]map[string]bool{}
	minutes := map[key]int{} // of the kinds of test, each once
	var order []key
	for _, s := range own {
		act, n := actNamed(s.Test.Kind.Act)
		k := key{n, p.place(act, &s.Test)}
		if steps[k] == nil {
			steps[k], paths[k], kinds[k] = &Step{Act: act, At: k.at}, map[dossier.ID[dossier.Path]]bool{}, map[string]bool{}
			order = append(order, k)
		}
		if len(steps[k].Tests) == 0 {
			steps[k].Room, steps[k].Machine = p.roomOf(k.at), true
		}
		steps[k].Machine = steps[k].Machine && s.Test.By == Automatic && s.Undone == ""
		steps[k].Tests = append(steps[k].Tests, s.Test.id)
		steps[k].Shows = append(steps[k].Shows, shows[s.Test.id]...)
		paths[k][s.Test.Path] = true
		if !kinds[k][s.Test.Kind.Name] {
			kinds[k][s.Test.Kind.Name] = true
			minutes[k] += s.Test.Kind.Minutes
		}
	}
	slices.SortStableFunc(order, func(a, b key) int { return cmp.Compare(a.act, b.act) })
	var out []Step
	total := 0
	for _, k := range order {
		one := *steps[k]
		one.Minutes = min(one.Act.Minutes, getReady+minutes[k]) + one.Act.Each*(len(paths[k])-1)
		total += one.Minutes
		out = append(out, one)
	}
	return out, total
}

// roomOf returns the room of a path's device or of a device.
func (p *Plan) roomOf(at dossier.Ref) dossier.ID[dossier.Room] {
	id := dossier.ID[dossier.Device](at.ID)
	switch at.Kind {
	case "path":
		path, _ := p.view.Paths.Get(dossier.ID[dossier.Path](at.ID))
		id = path.Device
	case "device":
	default:
		return ""
	}
	device, _ := p.view.Devices.Get(id)
	return device.Room
}

// place returns what an act is done at for a test.
func (p *Plan) place(a Act, t *Test) dossier.Ref {
	ends := p.ends[t.Path]
	switch a.Once {
	case OnceDevice:
		return ends.device.Ref()
	case OnceSource:
		return ends.source.Ref()
	case OnceServer:
		return ends.server.Ref()
	case OnceSet:
		return t.Subjects[0]
	case OnceHome:
		return dossier.Ref{Kind: "household", ID: string(p.view.Home().ID)}
	}
	return t.Path.Ref()
}
