package suspects

import (
	"cmp"
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
	Mode     *Mode // or a look at what is about it
	By       By
	Minutes  float64
	Bits     float64 // expected drop of entropy
}

// Key tells a step from others.
func (s Step) Key() string {
	if s.Mode != nil {
		return LookAt + s.Mode.ID + " " + s.About.ID
	}
	return s.Test + s.Question + " " + s.About.ID
}

// PerMinute is what a step is ranked by.
func (s Step) PerMinute() float64 { return s.Bits / s.Minutes }

// Minutes of steps whose length is not declared. Judgement.
const (
	askMinutes     = 0.5
	machineMinutes = 0.5
	stepsMost      = 8
	statesMost     = 120
	rightLook      = 0.95 // how often a look shows what is there
	wrongLook      = 0.03 // and what is not
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
	var out []Step
	add := func(step Step, yes func(state) float64) {
		whole, each := 0.0, 0.0
		for _, st := range states {
			f := yes(st)
			whole += st.p / sum * f
			each += st.p / sum * binary(f)
		}
		if step.Bits = binary(whole) - each; step.Bits > .005 {
			out = append(out, step)
		}
	}
	s.tests(add)
	s.questions(add)
	s.looks(states, add)
	slices.SortStableFunc(out, func(a, b Step) int { return cmp.Compare(b.PerMinute(), a.PerMinute()) })
	return out[:min(len(out), stepsMost)]
}

func binary(p float64) float64 { return bits(p) + bits(1-p) }

// tests offers what is not known, or only from before the fault began.
func (s *solving) tests(add func(Step, func(state) float64)) {
	fresh := map[string]bool{}
	passed := map[string]bool{} // tests that are known to pass now
	for i := range s.Statuses {
		if st := &s.Statuses[i]; st.Status == proving.Proven || st.Status == proving.Marginal {
			passed[st.Test.ID()] = true
		}
	}
	for n := range s.evidence {
		e := &s.evidence[n]
		if e.Attempt != "" && (e.Failed || !e.Old) {
			if a, there := s.Home.Attempts.Get(e.Attempt); there {
				fresh[proving.TestID(a.Test, a.Subjects)] = true
			}
		}
	}
	for i := range s.Statuses {
		st := &s.Statuses[i]
		// What a test needs comes before it: nobody listens for the sound of what is not known to play.
		early := slices.ContainsFunc(st.Test.After, func(id string) bool { return !passed[id] })
		if fresh[st.Test.ID()] || st.Test.Kind.Lasts() > 0 || early {
			continue
		}
		step := Step{Test: st.Test.ID(), About: st.Test.Subjects[0], By: ByTechnician, Minutes: float64(st.Test.Kind.Minutes)}
		byMachine := st.Test.By == proving.Automatic && st.Undone == ""
		if byMachine {
			step.By, step.Minutes = ByMachine, machineMinutes
		}
		e := observation(s.Plan, &st.Test, byMachine)
		e.Failed = true
		add(step, func(of state) float64 { return s.on(of, &e) })
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

// looks offers to look at the likeliest.
func (s *solving) looks(states []state, add func(Step, func(state) float64)) {
	done := map[dossier.Answered]bool{}
	for _, a := range s.Answers {
		done[dossier.Answered{Question: a.Question, About: a.About}] = true
	}
	seen := map[int]bool{}
	for _, st := range states {
		for _, i := range []int{st.a, st.b} {
			if i < 0 || seen[i] || len(seen) >= 12 {
				continue
			}
			h := &s.hyps[i]
			if done[dossier.Answered{Question: LookAt + h.mode.ID, About: h.about}] {
				continue
			}
			seen[i] = true
			add(Step{Mode: h.mode, About: h.about, By: h.mode.Look.By, Minutes: float64(h.mode.Look.Minutes)}, func(of state) float64 {
				if of.a == i || of.b == i {
					return rightLook
				}
				return wrongLook
			})
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
