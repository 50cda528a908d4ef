package suspects

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
)

// tried is what came of a test on the path of that number, some hours after the fault began (homes.Day), or before it.
type tried struct {
	test    string
	path    int
	outcome dossier.Outcome
	how     dossier.How
	hours   int
}

// threeRooms is a home with one source and three paths: the first two reach its films, the third its songs.
func threeRooms() *dossier.Dossier {
	d := homes.Small().Clone()
	songs := d.Folders[0]
	songs.ID, songs.Name, songs.ContentKind = homes.ID[dossier.Folder](1), "Songs", dossier.Music
	d.Folders.Put(songs)
	for n := 1; n < 3; n++ {
		screen := d.Devices[1]
		screen.ID, screen.Name = homes.ID[dossier.Device](n+1), fmt.Sprint("screen ", n)
		d.Devices.Put(screen)
		p := d.Paths[0]
		p.ID, p.Name, p.Device = homes.ID[dossier.Path](n), fmt.Sprint("path ", n), screen.ID
		if n == 2 {
			p.Folders = []dossier.ID[dossier.Folder]{songs.ID}
		}
		d.Paths.Put(p)
	}
	return d
}

// after is what is known of a home once these tests have been tried.
func after(t *testing.T, d *dossier.Dossier, answers []dossier.Answered, results ...tried) *solving {
	t.Helper()
	plan := proving.NewPlan(d.Index())
	for n, r := range results {
		x, there := plan.Find(proving.TestID(r.test, []dossier.Ref{d.Paths[r.path].ID.Ref()}))
		require.True(t, there, "%s of path %d", r.test, r.path)
		a := dossier.Attempt{Test: r.test, Subjects: x.Subjects, Outcome: r.outcome, How: r.how, At: homes.Day.Add(time.Duration(r.hours) * time.Hour), Facts: x.Facts(), Version: proving.Version}
		a.ID = homes.AttemptID(900 + n)
		d.Attempts.Put(a)
	}
	x := d.Index()
	plan = proving.NewPlan(x)
	s := &solving{Case: Case{Home: x, Plan: plan, Statuses: proving.Statuses(plan, proving.Against{}), Faults: Shipped(), Since: homes.Day, Answers: answers, Now: homes.Day.Add(48 * time.Hour)}}
	s.evidence = gather(plan, s.Statuses, x.Attempts.Get, homes.Day, answers)
	return s
}

// What is tested next is what fails somewhere and is not known; each thing is asked of a source once, and nothing before what it needs is known to work.
func TestWhichTestsAreProposed(t *testing.T) {
	says := func(what string, path int) []dossier.Answered {
		return []dossier.Answered{{Question: what, About: homes.ID[dossier.Path](path).Ref(), Said: dossier.Yes}}
	}
	machine, eye := dossier.ByMachine, dossier.ByEye
	pass, fail := dossier.Pass, dossier.Fail
	for name, c := range map[string]struct {
		answers []dossier.Answered
		results []tried
		want    []string // number of the path and kind, in the order in which they are offered; * for a technician's
	}{
		"nothing is known but a complaint": {says("does-not-start", 1), nil, []string{"1 reach", "1 found"}},
		"the source answered another path": {says("does-not-start", 1), []tried{{"reach", 0, pass, machine, 1}},
			[]string{"1 found", "1 opens", "2 opens"}},
		"and was listed for it": {says("does-not-start", 1), []tried{{"reach", 0, pass, machine, 1}, {"opens", 0, pass, machine, 1}},
			[]string{"1 found", "1 *search", "2 opens", "0 *search"}},
		"the source did not answer another path": {says("does-not-start", 1), []tried{{"reach", 0, fail, machine, 1}},
			[]string{"0 found"}},
		"it answered once": {says("does-not-start", 1), []tried{{"reach", 1, pass, machine, -1}},
			[]string{"1 reach", "1 found", "1 opens"}},
		"it did not answer, and that was before": {says("does-not-start", 1), []tried{{"reach", 1, fail, machine, -1}},
			[]string{"1 found"}},
		"somebody saw that it answers": {says("does-not-start", 1), []tried{{"reach", 0, pass, eye, 1}},
			[]string{"1 reach", "1 found", "0 opens"}},
		"a machine could not ask": {says("does-not-start", 1), []tried{{"reach", 1, dossier.Impossible, machine, 1}},
			[]string{"1 *reach", "1 found", "0 reach"}},
		"it is known to list, and now it is said that it does not": {says("never-opens", 0), []tried{{"reach", 0, pass, machine, 1}, {"opens", 0, pass, machine, -1}},
			[]string{"0 found", "0 opens", "2 opens"}},
		"it plays, which was seen": {says("no-sound", 0), []tried{{"reach", 0, pass, machine, 1}, {"found", 0, pass, machine, 1}, {"opens", 0, pass, machine, 1}, {"plays", 0, pass, eye, 1}},
			[]string{"0 *stops", "0 *seeks", "0 *resumes", "0 *watched-mark", "0 *sound", "0 *picture-fits", "0 *subtitles", "0 *search", "0 *sample-appears", "0 *after-device-restart", "0 *survives-restart",
				"2 opens", "1 *plays", "1 *search", "2 *plays"}},
	} {
		d := threeRooms()
		s := after(t, d, c.answers, c.results...)
		var got []string
		s.tests(func(step Step, _ func(state) float64) {
			x, there := s.Plan.Find(step.Test)
			require.True(t, there, step.Test)
			assert.Equal(t, x.Subjects[0], step.About)
			n := 0
			for d.Paths[n].ID != x.Path {
				n++
			}
			by := ""
			if step.By == ByTechnician {
				by = "*"
				assert.InDelta(t, x.Kind.Minutes, step.Minutes, 0)
			} else {
				assert.Equal(t, ByMachine, step.By)
				assert.InDelta(t, machineMinutes, step.Minutes, 0)
			}
			got = append(got, fmt.Sprint(n, " ", by, x.Kind.Name))
		})
		assert.Equal(t, c.want, got, name)
	}
}

// How likely a test fails is that of its kind; what a fault would only bring about by way of what is known to work, it does not do.
func TestHowLikelyAProposedTestFails(t *testing.T) {
	d := threeRooms()
	s := after(t, d, nil, tried{"reach", 0, dossier.Pass, dossier.ByMachine, 1}, tried{"found", 0, dossier.Pass, dossier.ByMachine, 1})
	stopped := Mode{ID: "stopped", Fails: []Effect{{Tests: []string{"reach"}, Chance: .6}}}
	locked := Mode{ID: "locked", Fails: []Effect{{Tests: []string{"opens"}, Chance: .6}}}
	for _, m := range []*Mode{&stopped, &locked} {
		h := hypothesis{mode: m, effects: effectsOf(m), paths: map[dossier.ID[dossier.Path]]bool{}}
		for _, p := range d.Paths {
			h.paths[p.ID] = true
		}
		s.hyps = append(s.hyps, h)
	}
	fails := map[string]func(state) float64{}
	s.tests(func(step Step, yes func(state) float64) { fails[step.Test] = yes })
	recorded := func(p float64) float64 { return byTest*p + (1-byTest)*(1-p) }
	for id, want := range map[string][3]float64{
		"opens:" + string(d.Paths[0].ID): {1 - (1-unnamedFail/2)*.98, .02, 1 - .4*.98},
		"opens:" + string(d.Paths[2].ID): {1 - (1-unnamedFail/2)*.98, 1 - (1-.6*.97)*.98, 1 - .4*.98}, // where nobody has seen that it is reached
		"plays:" + string(d.Paths[0].ID): {1 - (1-unnamedFail/2)*.98, .02, .02},                       // it needs no list
	} {
		yes := fails[id]
		if !assert.NotNil(t, yes, id) {
			continue
		}
		for n, of := range []state{{-1, -1, 1}, {0, -1, 1}, {1, -1, 1}} {
			assert.InDelta(t, recorded(want[n]), yes(of), 1e-12, "%s in state %d", id, n)
		}
	}
}
