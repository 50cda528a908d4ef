package suspects

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Step is one thing to ask, to test or to look at next.
type Step struct {
	Test     string // identity of a test
	Question string // or a question to the caller
	About    dossier.Ref
	Mode     *Mode // or a look at what is about it,
	Swap     bool  // or something else in its place
	By       By
	Minutes  float64
	Bits     float64 // expected drop of entropy
	// Then says what follows each outcome: for a test, that it fails or passes; otherwise, yes or no. It is set on the first step only.
	Then []Then
}

// Then is what follows a step if it comes out one way.
type Then struct {
	Yes  bool    // a test fails, or the answer is yes
	P    float64 // how likely it comes out so
	Sure *Beside // that it is then, if one suspect is then sure enough to act on
	Next *Step   // or the step that then tells most; nil if none tells much
}

// Key tells a step from others.
func (s Step) Key() string { return s.Test + s.Noted() + " " + s.About.ID }

// Noted is the question under which what a step showed is noted; "" for a test, which is recorded as such.
func (s Step) Noted() string {
	switch {
	case s.Swap:
		return SwapFor + s.Mode.ID
	case s.Mode != nil:
		return LookAt + s.Mode.ID
	}
	return s.Question
}

// PerMinute is what a step is ranked by.
func (s Step) PerMinute() float64 { return s.worth(s.Bits) }

// worth is what a step would be ranked by if it told so many bits.
func (s Step) worth(bits float64) float64 { return bits / (s.Minutes + stepMinutes) }

// Minutes of steps whose length is not declared. Judgement.
const (
	askMinutes     = 0.5
	stepMinutes    = 2.0 // that every step takes beside its own: to begin with it, and to take in what came of it
	machineMinutes = 0.5
	swapMinutes    = 5.0
	stepsMost      = 8
	leastBits      = 0.04 // a step that tells less is not worth anybody's time
	statesMost     = 120
	rightLook      = 0.95 // how often a look shows what is there
	wrongLook      = 0.03 // and what is not; an exchange, likewise
)

// state is one hypothesis or pair, with its probability.
type state struct {
	a, b int // -1 for none
	p    float64
}

// steps ranks what can be done next by the expected drop of entropy per minute.
func (s *solving) steps() []Step {
	states := []state{{-1, -1, s.none}}
	for i := range s.hyps {
		if s.hyps[i].p > 1e-4 {
			states = append(states, state{i, -1, s.hyps[i].p})
		}
	}
	for i := range s.doubles {
		if s.doubles[i].p > 1e-4 {
			states = append(states, state{s.doubles[i].a, s.doubles[i].b, s.doubles[i].p})
		}
	}
	slices.SortStableFunc(states, func(a, b state) int { return cmp.Compare(b.p, a.p) })
	states = states[:min(len(states), statesMost)]
	sum := 0.0
	for _, st := range states {
		sum += st.p
	}
	for n := range states {
		states[n].p /= sum
	}
	var all []option
	add := func(step Step, yes func(state) float64) {
		o := option{step, make([]float64, len(states))}
		for n, st := range states {
			o.yes[n] = yes(st)
		}
		if o.Bits = o.told(states); o.Bits > leastBits {
			all = append(all, o)
		}
	}
	s.tests(add)
	s.questions(add)
	s.looks(states, add)
	slices.SortStableFunc(all, func(a, b option) int { return cmp.Compare(b.PerMinute(), a.PerMinute()) })
	var out []Step
	for _, o := range all[:min(len(all), stepsMost)] {
		out = append(out, o.Step)
	}
	if len(out) > 0 {
		out[0].Then = []Then{s.then(states, all, true), s.then(states, all, false)}
	}
	return out
}

// option is a step, and how likely it comes out with yes in each state.
type option struct {
	Step
	yes []float64
}

// told is the drop of entropy that is expected of it.
func (o *option) told(states []state) float64 {
	whole, each := 0.0, 0.0
	for n, st := range states {
		whole += st.p * o.yes[n]
		each += st.p * binary(o.yes[n])
	}
	return binary(whole) - each
}

// then is what follows the first of the options if it comes out with yes, or with no.
func (s *solving) then(states []state, all []option, yes bool) Then {
	out := Then{Yes: yes}
	after := slices.Clone(states)
	for n := range after {
		if yes {
			after[n].p *= all[0].yes[n]
		} else {
			after[n].p *= 1 - all[0].yes[n]
		}
		out.P += after[n].p
	}
	present := map[int]float64{}
	for n := range after {
		after[n].p /= out.P
		for _, i := range []int{after[n].a, after[n].b} {
			if i >= 0 {
				present[i] += after[n].p
			}
		}
	}
	likeliest := Sure
	for _, i := range slices.Sorted(maps.Keys(present)) {
		if present[i] >= likeliest {
			likeliest, out.Sure = present[i], &Beside{s.hyps[i].mode, s.hyps[i].about}
		}
	}
	if out.Sure != nil {
		return out
	}
	best := 0.0
	for i := range all[1:] {
		o := &all[1+i]
		bits := o.told(after)
		if per := o.worth(bits); bits > leastBits && per > best {
			best, out.Next = per, &o.Step
		}
	}
	return out
}

func binary(p float64) float64 { return bits(p) + bits(1-p) }

// asked is what is asked of a source, whichever path it is asked for: once it has answered, it would answer the same of another that reaches the same
// folders.
type asked struct {
	source  dossier.ID[dossier.Source]
	kind    string
	folders string
}

func (s *solving) asked(e *Evidence) asked {
	out := asked{source: s.Plan.SourceOf(e.Path), kind: e.Kind, folders: string(e.Folder)}
	if e.Folder == "" && (e.Kind == "opens" || slices.Contains(needs[e.Kind], "opens")) {
		p, _ := s.Home.Paths.Get(e.Path)
		for _, f := range s.Home.Reached(p) {
			out.folders += string(f.ID) + " "
		}
	}
	return out
}

// tests offers what is not known, or only from before the fault began.
func (s *solving) tests(add func(Step, func(state) float64)) {
	fresh := map[string]bool{}
	passed := map[string]bool{} // tests that are known to pass now
	said := map[asked]bool{}    // what a source has answered, or is asked already, and whether it is known to pass
	for i := range s.Statuses {
		if st := &s.Statuses[i]; st.Status == proving.Proven || st.Status == proving.Marginal {
			passed[st.Test.ID()] = true
		}
	}
	failing := map[dossier.ID[dossier.Path]]bool{}
	for n := range s.evidence {
		e := &s.evidence[n]
		failing[e.Path] = failing[e.Path] || e.Failed
		if e.Attempt != "" && (e.Failed || !e.Old) {
			if a, there := s.Home.Attempts.Get(e.Attempt); there {
				fresh[proving.TestID(a.Test, a.Subjects)] = true
			}
			if e.inside {
				key := s.asked(e)
				said[key] = said[key] || !e.Failed
			}
		}
	}
	works := func(id string) bool {
		if passed[id] {
			return true
		}
		t, _ := s.Plan.Find(id)
		e := observation(s.Plan, &t, t.By == proving.Automatic)
		return e.inside && said[s.asked(&e)]
	}
	done := outcomesOf(s.evidence)
	for _, first := range []bool{true, false} { // what fails somewhere is asked there
		for i := range s.Statuses {
			st := &s.Statuses[i]
			if failing[st.Test.Path] != first || fresh[st.Test.ID()] || st.Test.Kind.Lasts() > 0 {
				continue
			}
			// A test comes after those it depends on: there is no point in listening for sound before the film is known to play.
			if slices.ContainsFunc(st.Test.After, func(id string) bool { return !works(id) }) {
				continue
			}
			step := Step{Test: st.Test.ID(), About: st.Test.Subjects[0], By: ByTechnician, Minutes: float64(st.Test.Kind.Minutes)}
			byMachine := st.Test.By == proving.Automatic && st.Undone == ""
			if byMachine {
				step.By, step.Minutes = ByMachine, machineMinutes
			}
			e := observation(s.Plan, &st.Test, byMachine)
			if done.settle(&e) {
				continue
			}
			if e.inside {
				key := s.asked(&e)
				if _, before := said[key]; before {
					continue
				}
				said[key] = false
			}
			e.Failed = true
			add(step, func(of state) float64 { return s.on(of, &e) })
		}
	}
}

// on is how likely an observation is in a state.
func (s *solving) on(of state, e *Evidence) float64 {
	switch {
	case of.a < 0:
		return likelihood(e, likelyUnnamed, nothing, usual)
	case of.b < 0:
		return likelihood(e, s.hyps[of.a].at(e), nothing, usual)
	}
	return likelihood(e, s.hyps[of.a].at(e), s.hyps[of.b].at(e), usual)
}

// questions offers what was not asked yet, and whether other devices work.
func (s *solving) questions(add func(Step, func(state) float64)) {
	asked := map[string]bool{}
	heard := map[dossier.ID[dossier.Path]]bool{}
	for _, a := range s.Answers {
		asked[a.Question] = true
		heard[dossier.ID[dossier.Path](a.About.ID)] = true
	}
	for i := range s.Faults.Questions {
		q := &s.Faults.Questions[i]
		if asked[q.ID] {
			continue
		}
		add(Step{Question: q.ID, By: ByCaller, Minutes: askMinutes}, func(of state) float64 {
			var modes []*Mode
			for _, i := range []int{of.a, of.b} {
				if i >= 0 {
					modes = append(modes, s.hyps[i].mode)
				}
			}
			return s.yes(q, modes...)
		})
	}
	for n := range s.evidence { // what has been seen on a path lately need not be asked
		if e := &s.evidence[n]; e.Kind == "plays" && !e.Old {
			heard[e.Path] = true
		}
	}
	for _, p := range s.Home.InUse {
		if heard[p.ID] {
			continue
		}
		e := Evidence{Kind: "plays", Path: p.ID, trust: byCaller, class: -1}
		add(Step{Question: Works, About: p.ID.Ref(), By: ByCaller, Minutes: 4 * askMinutes}, func(of state) float64 { return s.on(of, &e) })
	}
}

// looks offers to look at the likeliest, and to put something else in their place.
func (s *solving) looks(states []state, add func(Step, func(state) float64)) {
	done := map[dossier.Answered]bool{}
	type exchange struct {
		what  string
		about dossier.Ref
	}
	swapped := map[exchange]bool{}
	for _, a := range s.Answers {
		done[dossier.Answered{Question: a.Question, About: a.About}] = true
		if m := s.Faults.Swapped(a.Question); m != nil {
			swapped[exchange{m.Swap, a.About}] = true
		}
	}
	offer := func(step Step, shows func(*hypothesis) bool) {
		add(step, func(of state) float64 {
			if of.a >= 0 && shows(&s.hyps[of.a]) || of.b >= 0 && shows(&s.hyps[of.b]) {
				return rightLook
			}
			return wrongLook
		})
	}
	seen := map[int]bool{}
	for _, st := range states {
		for _, i := range []int{st.a, st.b} {
			if i < 0 || seen[i] || len(seen) >= 12 {
				continue
			}
			h := &s.hyps[i]
			if place := (exchange{h.mode.Swap, h.about}); h.mode.Swap != "" && !swapped[place] {
				swapped[place] = true
				offer(Step{Mode: h.mode, Swap: true, About: h.about, By: ByTechnician, Minutes: swapMinutes}, func(other *hypothesis) bool {
					return other.mode.Swap == h.mode.Swap && other.about == h.about
				})
			}
			if done[dossier.Answered{Question: LookAt + h.mode.ID, About: h.about}] {
				continue
			}
			seen[i] = true
			offer(Step{Mode: h.mode, About: h.about, By: h.mode.Look.By, Minutes: float64(h.mode.Look.Minutes)}, func(other *hypothesis) bool { return other == h })
		}
	}
}

// Word says how likely something is.
type Word string

// Words for probabilities.
const (
	AlmostCertain Word = "almost-certain"
	Probable      Word = "probable"
	Possible      Word = "possible"
	Unlikely      Word = "unlikely"
)

// Values lists them.
func (Word) Values() []string {
	return []string{string(AlmostCertain), string(Probable), string(Possible), string(Unlikely)}
}

// WordFor is the word for a probability.
func WordFor(p float64) Word {
	switch {
	case math.IsNaN(p) || p < .1:
		return Unlikely
	case p < .5:
		return Possible
	case p < Sure:
		return Probable
	}
	return AlmostCertain
}
