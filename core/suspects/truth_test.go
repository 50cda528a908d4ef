package suspects

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/practice/layout"
)

// isReally is what each fault of the practice house is called in the fault modes. Where two modes are the same thing seen from the network, either is
// right; a fault without a name here shows nothing that could be explained.
var isReally = map[string][]string{
	"folders-hang": {"server-folders-hang"}, "old-address": {"old-address-announced"}, "connection-refused": {"firewall-asks", "server-stopped"}, "silent": {"server-hangs"},
	"port-held": {"left-over-process"}, "wrong-adapter": {"listens-elsewhere"}, "same-name": {"two-servers-one-name"}, "unknown-titles": {"titles-unknown"},
	"wrong-kind": {"wrong-content-kind"}, "index-unfinished": {"index-unfinished"}, "index-empty": {"index-empty"}, "index-slow": {"index-unfinished", "index-stale"},
	"no-rights": {"service-account-cannot-read"}, "trial-ended": {"trial-ended"}, "rate-cap": {"rate-cap"}, "restart-due": {"folder-not-shown"},
	"settings-reset": {"server-new-identity"}, "device-blocked": {"device-not-let-in"}, "blocked-hours": {"blocked-hours"}, "opening-refused": {"firewall-asks"},
	"clock-wrong": {"clock-wrong"}, "goodbye": {"server-stopped", "server-off"}, "slow-station": {"wifi-weak", "channel-crowded"}, "second-gateway": {"second-router"},
	"mapping-off": {"opening-gone"}, "multicast-lost": {"multicast-filtered", "querier-lost"}, "asleep": {"server-asleep"}, "will-not-wake": {"will-not-wake"},
	"list-old-address": {"list-wrong-address"}, "guide-missing": {"guide-missing"}, "channel-dead": {"channel-dead"}, "recordings-missing": {"recordings-fail"},
	"feed-empty": {"feed-empty"}, "stream-not-started": {"stream-not-started"}, "rtsp-password": {"stream-password"}, "share-writable": {"writable"},
	"share-no-rights": {"share-rights", "share-account-wrong"}, "share-hangs": {"share-hangs"}, "exports-closed": {"exports-closed"}, "screen-off": {"device-off"},
	"screen-stalls": {"device-stalls"}, "picture-cropped": {"picture-cropped"}, "sound-late": {"lips-late"}, "screen-lies": {"device-declares-too-much"}, "names-silent": {"name-server-filters"},
}

// heldOut reports whether a fault is one of those after which nothing was tuned, drawn by a hash of its name.
func heldOut(fault string) bool {
	h := fnv.New32a()
	_, _ = h.Write([]byte(fault))
	return h.Sum32()%2 == 1
}

// world is a home with a fault in it, and what every test, look and question about it would show.
type world struct {
	home   *dossier.Dossier
	plan   *proving.Plan
	really []string // modes that it is
	blamed func(dossier.Ref) bool
	truth  map[string]result // by test
	n      int
	trace  func(Step, Suspects)
}

type result struct {
	outcome  dossier.Outcome
	observed dossier.Observed
	how      dossier.How
}

var (
	began = time.Date(2026, 11, 20, 10, 0, 0, 0, time.UTC)
	today = began.Add(2 * time.Hour)
)

// worldOf is the practice house with faults on: what a machine saw of each test, and what a person in front of the devices would have seen of the tests
// that a fault is declared to break.
func worldOf(saw homes.Observations, faults ...layout.Fault) *world {
	d := saw.Home.Clone()
	furnish(d)
	at := map[string][]string{}
	for _, f := range faults {
		at[f.Name] = blames[f.Where]
	}
	seen := map[string]result{}
	for _, f := range faults {
		for _, s := range saw.Faults[f.Name] {
			if was, there := seen[s.Test]; !there || s.Outcome == dossier.Fail && was.outcome != dossier.Fail {
				seen[s.Test] = result{s.Outcome, s.Observed, dossier.ByMachine}
			}
		}
	}
	return worldIn(d, seen, at, faults...)
}

// worldIn is a home with faults at the devices of those names, of which a machine has seen so much.
func worldIn(d *dossier.Dossier, seen map[string]result, at map[string][]string, faults ...layout.Fault) *world {
	w := &world{home: d, truth: maps.Clone(seen), n: 5000}
	x := w.home.Index()
	w.plan = proving.NewPlan(x)
	names := map[string]bool{}
	for _, f := range faults {
		w.really = append(w.really, isReally[f.Name]...)
		for _, n := range at[f.Name] {
			names[n] = true
		}
	}
	// What a server holds against a device is said to be at the device.
	pairing := slices.ContainsFunc(faults, func(f layout.Fault) bool { return f.Name == "device-blocked" })
	device := func(id dossier.ID[dossier.Device]) bool { return names[w.home.Label(id.Ref())] }
	w.blamed = func(r dossier.Ref) bool {
		switch r.Kind {
		case "device":
			id := dossier.ID[dossier.Device](r.ID)
			of := slices.IndexFunc(x.InUse, func(p dossier.Path) bool { _, server := x.ServerOf(p); return p.Device == id && device(server.ID) })
			return device(id) || pairing && of >= 0
		case "source":
			s, _ := x.Sources.Get(dossier.ID[dossier.Source](r.ID))
			return device(s.Device)
		case "folder":
			f, _ := x.Folders.Get(dossier.ID[dossier.Folder](r.ID))
			s, _ := x.Sources.Get(f.Source)
			return device(s.Device)
		case "path":
			p, _ := x.Paths.Get(dossier.ID[dossier.Path](r.ID))
			_, server := x.ServerOf(p)
			return device(p.Device) || device(server.ID)
		case "link":
			l, _ := x.Links.Get(dossier.ID[dossier.Link](r.ID))
			near, far := x.EndsOf(l)
			return device(near) || device(far)
		}
		return true
	}
	failed := map[dossier.ID[dossier.Source]]bool{} // at which a machine saw something fail
	for id, r := range w.truth {
		if t, _ := w.plan.Find(id); r.outcome == dossier.Fail {
			failed[w.plan.SourceOf(t.Path)] = true
		}
	}
	for _, t := range w.plan.Tests { // in the order in which they need each other
		if was, done := w.truth[t.ID()]; done && was.outcome != dossier.Impossible {
			continue
		}
		outcome := dossier.Pass
		for _, f := range faults {
			p, _ := x.Paths.Get(t.Path)
			_, server := x.ServerOf(p)
			atDevice := slices.Contains(at[f.Name], w.home.Label(p.Device.Ref()))
			atServer := slices.Contains(at[f.Name], server.Name) && (len(f.Machine) == 0 || failed[p.Source])
			if (atDevice || atServer) && (slices.Contains(f.Tests, t.Kind.Name) || slices.Contains(seenToo[f.Name], t.Kind.Name)) {
				outcome = dossier.Fail
			}
		}
		if slices.ContainsFunc(t.After, func(id string) bool { return w.truth[id].outcome == dossier.Fail }) {
			outcome = dossier.Fail
		}
		w.truth[t.ID()] = result{outcome, "", dossier.ByEye}
	}
	return w
}

// seenToo are kinds of test that fail on the screen with faults that are declared by what a machine sees alone.
var seenToo = map[string][]string{"device-blocked": {"plays"}, "index-empty": {"plays"}, "wrong-kind": {"plays"}}

// try carries a test out.
func (w *world) try(id string) {
	t, ok := w.plan.Find(id)
	r, known := w.truth[id]
	if !ok || !known {
		return
	}
	w.n++
	a := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: r.outcome, Observed: r.observed, How: r.how, At: began.Add(time.Duration(w.n) * time.Second), Facts: t.Facts(), Version: proving.Version}
	a.ID = homes.ID[dossier.Attempt](w.n)
	w.home.Attempts.Put(a)
}

// tryAll carries out all that a technician does on one round: what a machine can, and what can be seen in a few minutes of the rest.
func (w *world) tryAll() {
	for _, t := range w.plan.Tests {
		if t.Kind.Lasts() == 0 && t.Kind.Minutes <= 6 && (w.truth[t.ID()].outcome == dossier.Pass || !w.needsBroken(t)) {
			w.try(t.ID())
		}
	}
}

// needsBroken reports whether a test needs something that has failed, so that nobody would try it.
func (w *world) needsBroken(t proving.Test) bool {
	return w.truth[t.ID()].how == dossier.ByEye && slices.ContainsFunc(t.After, func(id string) bool { return w.truth[id].outcome == dossier.Fail })
}

// looked is what a look at a mode shows.
func (w *world) looked(m *Mode, about dossier.Ref) bool {
	return slices.Contains(w.really, m.ID) && w.blamed(about)
}

// swapped is whether it works with something else in a place.
func (w *world) swapped(x Step) bool {
	return w.blamed(x.About) && slices.ContainsFunc(w.really, func(id string) bool {
		m := Shipped().Mode(id)
		return m != nil && m.Swap == x.Mode.Swap
	})
}

// furnish adds what a machine's tests do not need to be recorded, and what a home is recorded with: how its devices are joined, and what sleeps.
func furnish(d *dossier.Dossier) {
	n := 4000
	adapter := func(of dossier.ID[dossier.Device], medium dossier.Medium) dossier.ID[dossier.Interface] {
		n++
		i := dossier.Interface{Device: of, Name: fmt.Sprint("port ", n), Medium: medium, Segment: d.Segments[0].ID}
		i.ID = homes.ID[dossier.Interface](n)
		d.Interfaces.Put(i)
		return i.ID
	}
	router := dossier.Device{Name: "router", Roles: []dossier.Role{dossier.RoleRouter, dossier.RoleAccessPoint}}
	router.ID = homes.ID[dossier.Device](n)
	d.Devices.Put(router)
	for _, v := range slices.Clone(d.Devices) {
		if v.ID == router.ID {
			continue
		}
		kind, medium := dossier.LinkCable, dossier.OnCable
		if v.Name == "lamp screen" {
			kind, medium = dossier.LinkRadio, dossier.OnRadio
		}
		l := dossier.Link{Near: adapter(v.ID, medium), Far: adapter(router.ID, medium), Kind: kind, RateMbps: 200}
		n++
		l.ID = homes.ID[dossier.Link](n)
		d.Links.Put(l)
		if v.Name == "attic" {
			d.Devices.Find(v.ID).Standby = dossier.Yes
		}
	}
}

func (w *world) caseOf(answers ...dossier.Answered) Case {
	x := w.home.Index()
	plan := proving.NewPlan(x)
	l := load.Of(x, time.UTC)
	return Case{Home: x, Plan: plan, Statuses: proving.Statuses(plan, proving.Against{}), Load: &l, Faults: Shipped(), Now: today, Answers: answers}
}

// blames are the names in the home of what faults are at.
var blames = map[string][]string{"granite": {"granite server"}, "lamp-room-screen": {"lamp screen"}, "": {"lamp screen"}, "pier": {"lamp screen"}, "eila": {"eila", "granite server"}, "attic": {"attic"}, "aerial": {"aerial"}, "foghorn": {"foghorn"}, "harbour": {"harbour"}, "kelp": {"kelp"}}

// rankOf is the place of a true fault among the suspects, counted from 1; 0 if it is not among them.
func (w *world) rankOf(s Suspects) int {
	return 1 + slices.IndexFunc(s.List, func(one Suspect) bool { return w.looked(one.Mode, one.About) })
}

// read reads what go test ./probe -run EachFault -update has written.
func read(t testing.TB) homes.Observations {
	b, err := os.ReadFile("testdata/seen.json")
	require.NoError(t, err)
	var saw homes.Observations
	require.NoError(t, json.Unmarshal(b, &saw))
	return saw
}

// tally counts how often the true fault is first, and among the first three.
type tally struct{ first, three, of int }

func (c *tally) add(rank int) {
	c.of++
	if rank == 1 {
		c.first++
	}
	if rank >= 1 && rank <= 3 {
		c.three++
	}
}

func (c tally) String() string {
	return fmt.Sprintf("first %d, within three %d of %d", c.first, c.three, c.of)
}

// Each fault of the practice house alone, from what machines really saw of it: the true one is first in most, and among the first three in nearly all.
func TestTheTrueFaultIsNamed(t *testing.T) {
	saw := read(t)
	var tuned, held tally
	var lines []string
	for _, f := range layout.Faults {
		require.Contains(t, isReally, f.Name)
		w := worldOf(saw, f)
		w.tryAll()
		s := Of(w.caseOf())
		if s.Failures == 0 {
			lines = append(lines, fmt.Sprintf("%-20s nothing fails", f.Name))
			continue
		}
		rank := w.rankOf(s)
		if heldOut(f.Name) {
			held.add(rank)
		} else {
			tuned.add(rank)
		}
		lines = append(lines, fmt.Sprintf("%-20s held out %v rank %d none %.2f fails %d: %s", f.Name, heldOut(f.Name), rank, s.None, s.Failures, names(w, s)))
	}
	t.Log("\n" + strings.Join(lines, "\n"))
	t.Logf("tuned: %s; held out: %s", tuned, held)
	assert.Equal(t, len(layout.Faults), len(slices.Collect(maps.Keys(isReally))))
}

func names(w *world, s Suspects) string {
	var out []string
	for _, one := range s.List[:min(3, len(s.List))] {
		out = append(out, fmt.Sprintf("%s@%s %.2f", one.Mode.ID, w.home.Label(one.About), one.P))
	}
	return strings.Join(out, ", ")
}

// follow begins with one thing that fails, and takes the steps that are proposed until one suspect is sure enough or nothing more is proposed. It returns
// what was found, how many steps and minutes it took, and how many bits were open at the beginning.
func (w *world) follow(first string) (s Suspects, steps int, minutes, open float64) {
	w.try(first)
	done := map[string]bool{}
	var answers []dossier.Answered
	for steps = 0; steps < 40; steps++ {
		s = Of(w.caseOf(answers...))
		if steps == 0 {
			open = s.Entropy
		}
		if s.Sure {
			return s, steps, minutes, open
		}
		i := slices.IndexFunc(s.Steps, func(x Step) bool { return !done[x.Key()] })
		if i < 0 {
			return s, steps, minutes, open
		}
		x := s.Steps[i]
		done[x.Key()] = true
		if w.trace != nil {
			w.trace(x, s)
		}
		minutes += x.Minutes
		switch {
		case x.Test != "":
			w.try(x.Test)
		case x.Question == Works:
			said := dossier.Yes
			for id, r := range w.truth {
				if t, _ := w.plan.Find(id); t.Kind.Name == "plays" && t.Path.Ref() == x.About && r.outcome == dossier.Fail {
					said = dossier.No
				}
			}
			answers = append(answers, dossier.Answered{Question: Works, About: x.About, Said: said, At: began})
		case x.Question != "":
			answers = append(answers, dossier.Answered{Question: x.Question}) // the caller does not know
		default:
			said := dossier.No
			if x.Swap && w.swapped(x) || !x.Swap && w.looked(x.Mode, x.About) {
				said = dossier.Yes
			}
			answers = append(answers, dossier.Answered{Question: x.Noted(), About: x.About, Said: said, At: began})
		}
	}
	return s, steps, minutes, open
}

// firstComplaint is the test with whose failure somebody calls: that it does not play, or else the first that fails, outward.
func (w *world) firstComplaint() (first string) {
	for _, x := range w.plan.Tests {
		if w.truth[x.ID()].outcome != dossier.Fail {
			continue
		}
		if x.Kind.Name == "plays" {
			return x.ID()
		}
		if first == "" {
			first = x.ID()
		}
	}
	return first
}

// outcome is what came of following the steps in many worlds.
type outcome struct {
	tally
	steps, minutes, bits float64
	missed               []string
	sure, surelyWrong    int // how often it was sure enough to act on, and was so of what it is not
	said                 [10]calibration
}

// calibration is how often suspects that were given about one probability were the fault.
type calibration struct{ of, right int }

// counts what is said of all suspects that are named.
func (o *outcome) counts(w *world, s Suspects) {
	for _, x := range s.List {
		at := &o.said[min(int(x.P*10), 9)]
		at.of++
		if w.looked(x.Mode, x.About) {
			at.right++
		}
	}
}

func (o *outcome) calibrated() string {
	var out []string
	for n, c := range o.said {
		if c.of > 0 {
			out = append(out, fmt.Sprintf("%d-%d %%: %d of %d (%.0f %%)", 10*n, 10*n+10, c.right, c.of, 100*float64(c.right)/float64(c.of)))
		}
	}
	return strings.Join(out, ", ")
}

func (o *outcome) follow(name string, w *world) {
	first := w.firstComplaint()
	if first == "" {
		return
	}
	w.trace = func(_ Step, s Suspects) { o.counts(w, s) }
	s, steps, minutes, open := w.follow(first)
	o.counts(w, s)
	rank := w.rankOf(s)
	o.add(rank)
	o.steps, o.minutes, o.bits = o.steps+float64(steps), o.minutes+minutes, o.bits+open
	if s.Sure {
		o.sure++
		if rank != 1 {
			o.surelyWrong++
		}
	}
	if rank != 1 {
		o.missed = append(o.missed, fmt.Sprintf("%s: rank %d, sure %v after %d steps: %s", name, rank, s.Sure, steps, names(w, s)))
	}
}

func (o *outcome) String() string {
	n := float64(max(o.of, 1))
	return fmt.Sprintf("%s; sure in %d, and wrongly so in %d; on average %.1f steps, %.1f minutes, %.1f bits open at first", o.tally, o.sure, o.surelyWrong, o.steps/n, o.minutes/n, o.bits/n)
}

// What is proposed leads from one complaint to the fault, in the practice house, for faults after which something was tuned and for the others.
func TestTheStepsLeadToTheFault(t *testing.T) {
	saw := read(t)
	groups := map[bool]*outcome{false: {}, true: {}}
	for _, f := range layout.Faults {
		groups[heldOut(f.Name)].follow(f.Name, worldOf(saw, f))
	}
	t.Logf("tuned: %s\n%s", groups[false], strings.Join(groups[false].missed, "\n"))
	t.Logf("held out: %s\n%s", groups[true], strings.Join(groups[true].missed, "\n"))
	for held, o := range groups {
		assert.GreaterOrEqual(t, float64(o.first), .85*float64(o.of), "held out %v", held)
		assert.Zero(t, o.surelyWrong, "held out %v", held)
	}
}

// Two faults at once, on different devices, are drawn from all pairs.
func TestTwoFaultsAtOnce(t *testing.T) {
	saw := read(t)
	draw := rand.New(rand.NewPCG(7, 11))
	const pairs = 100
	both, one := 0, 0
	var steps outcome
	for n := 0; n < pairs; {
		a, b := layout.Faults[draw.IntN(len(layout.Faults))], layout.Faults[draw.IntN(len(layout.Faults))]
		if a.Where == b.Where || worldOf(saw, a).firstComplaint() == "" || worldOf(saw, b).firstComplaint() == "" {
			continue
		}
		n++
		w := worldOf(saw, a, b)
		w.tryAll()
		s := Of(w.caseOf())
		named := map[string]bool{}
		for _, x := range s.List[:min(4, len(s.List))] {
			for _, f := range []layout.Fault{a, b} {
				if slices.Contains(isReally[f.Name], x.Mode.ID) {
					named[f.Name] = true
				}
			}
		}
		if len(named) == 2 {
			both++
		}
		if len(named) >= 1 {
			one++
		}
		steps.follow(a.Name+" and "+b.Name, worldOf(saw, a, b))
	}
	t.Logf("from one complaint, following the steps: %s\n%s", &steps, strings.Join(steps.missed, "\n"))
	assert.GreaterOrEqual(t, float64(steps.first), .85*pairs)
	assert.LessOrEqual(t, steps.surelyWrong, 2)
	t.Logf("of %d pairs: both among the first four in %d, one of them in %d", pairs, both, one)
	assert.GreaterOrEqual(t, float64(one), .85*float64(pairs))
}

// In other homes, drawn from a seed, the same faults are found: what a machine would see there is taken from what it saw in the practice house of the same
// kind of test.
func TestFaultsInOtherHomes(t *testing.T) {
	saw := read(t)
	houses := 2
	if n, err := strconv.Atoi(os.Getenv("KAIKU_HOUSES")); err == nil {
		houses = n
	}
	var all outcome
	for seed := range houses {
		home := rapid.Custom(homes.Furnished).Example(100 + seed)
		for _, f := range layout.Faults {
			w := elsewhere(saw, home, f)
			if w != nil {
				all.follow(fmt.Sprintf("home %d, %s", seed, f.Name), w)
			}
		}
	}
	t.Logf("%s\n%s\n%s", &all, all.calibrated(), strings.Join(all.missed, "\n"))
	assert.GreaterOrEqual(t, float64(all.first), .9*float64(all.of))
	assert.Less(t, float64(all.surelyWrong), .02*float64(all.of))
	steps := all.steps / all.bits
	fmt.Printf("BenchmarkTrueFaultWithinThree 1 98 least-%% %.1f measured-%% %.2f ratio\n", 100*float64(all.three)/float64(all.of), float64(all.three)/float64(all.of)/.98)
	fmt.Printf("BenchmarkStepsForEachBit 1 1.3 aim-ratio %.2f measured-x %.2f ratio\n", steps, steps/1.3)
	fmt.Printf("BenchmarkSureAndWrong 1 0 aim-%% %.2f measured-%%\n", 100*float64(all.surelyWrong)/float64(all.of))
	fmt.Printf("BenchmarkTrueFaultFirst 1 90 least-%% %.1f measured-%% %.2f ratio\n", 100*float64(all.first)/float64(all.of), float64(all.first)/float64(all.of)/.9)
	t.Logf("%.2f steps for each bit that was open at first (aim 1.3)", all.steps/all.bits)
}

// elsewhere puts a fault of the practice house into another home: at its server, its screen or its share. It returns nil where the home has no such thing.
func elsewhere(saw homes.Observations, home *homes.SoundHome, f layout.Fault) *world {
	d := home.Dossier.Clone()
	device := home.Server
	switch f.Where {
	case "granite":
	case "lamp-room-screen", "":
		device = home.Screen
	default:
		return nil
	}
	x := d.Index()
	plan := proving.NewPlan(x)
	practice := proving.NewPlan(saw.Home.Index())
	like := map[string]result{} // by kind of test, the worst that was seen
	for _, s := range saw.Faults[f.Name] {
		t, _ := practice.Find(s.Test)
		if was, there := like[t.Kind.Name]; !there || s.Outcome == dossier.Fail && was.outcome != dossier.Fail {
			like[t.Kind.Name] = result{s.Outcome, s.Observed, dossier.ByMachine}
		}
	}
	seen := map[string]result{}
	for _, t := range plan.Tests {
		source, _ := x.Sources.Get(plan.SourceOf(t.Path))
		p, _ := x.Paths.Get(t.Path)
		if t.By != proving.Automatic {
			continue
		}
		seen[t.ID()] = result{dossier.Pass, "answered", dossier.ByMachine}
		at := f.Where == "granite" && source.ID == home.Source || f.Where != "granite" && p.Device == device
		if r, there := like[t.Kind.Name]; there && at && slices.Contains(f.Machine, t.Kind.Name) {
			seen[t.ID()] = r
		}
	}
	name, _ := x.Devices.Get(device)
	return worldIn(d, seen, map[string][]string{f.Name: {name.Name}}, f)
}
