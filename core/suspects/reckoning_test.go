package suspects

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
)

// effectWith is an effect with that chance, which shows itself as the shares say.
func effectWith(chance float64, ends [len(failing)]float64, seen ...dossier.Observed) *effect {
	e := &effect{chance: chance, ends: ends, seen: seen}
	for k, severity := range severities {
		e.grave[k] = 1 - math.Pow(1-chance, severity)
	}
	return e
}

func drawEnds(t *rapid.T) (ends [len(failing)]float64) {
	sum := 0.0
	for n := range ends {
		ends[n] = rapid.Float64Range(.01, 1).Draw(t, "share")
		sum += ends[n]
	}
	for n := range ends {
		ends[n] /= sum
	}
	return ends
}

// A test passes, or fails in one of the ways in which it can: together that is certain, whichever faults there are and however grave.
func TestWhatCanComeOfATestIsCertainTogether(t *testing.T) {
	seen := dossier.Observed("")
	for _, code := range seen.Values() {
		if slices.Contains(failing[:], dossier.Observed(code).Class()) {
			seen = dossier.Observed(code)
			break
		}
	}
	require.NotEmpty(t, seen)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) *effect {
			if rapid.Bool().Draw(t, name+" does nothing") {
				return nothing
			}
			return effectWith(rapid.Float64Range(.01, .99).Draw(t, name), drawEnds(t), seen)
		}
		a, b := draw("one"), draw("other")
		m := rapid.IntRange(0, len(severities)-1).Draw(t, "severity")
		e := Evidence{trust: rapid.Float64Range(.5, 1).Draw(t, "trust"), class: -1}
		passes := likelihood(&e, a, b, m)
		e.Failed = true
		fails := likelihood(&e, a, b, m)
		assert.InDelta(t, 1, passes+fails, 1e-12)
		sum := 0.0
		e.Observed = seen
		for e.class = range failing {
			p := likelihood(&e, a, b, m)
			assert.InDelta(t, p, likelihood(&e, b, a, m), 1e-12, "their order says nothing")
			sum += p
		}
		assert.InDelta(t, fails, sum, 1e-12)
	})
	certain := Evidence{trust: 1, class: -1}
	assert.InDelta(t, .5*.75*.98, likelihood(&certain, effectWith(.5, [len(failing)]float64{}), effectWith(.25, [len(failing)]float64{}), usual), 1e-12, "it passes where neither fault nor the background keeps it from that")
	assert.InDelta(t, .98, likelihood(&certain, nothing, nothing, usual), 1e-12)
}

// A mode that names what is seen is likelier where that is seen, and less likely where something else is.
func TestWhatAModeNamesTells(t *testing.T) {
	var even [len(failing)]float64
	for n := range even {
		even[n] = 1 / float64(len(failing))
	}
	p := func(seen dossier.Observed, names ...dossier.Observed) float64 {
		return likelihood(&Evidence{Failed: true, trust: byTest, class: 0, Observed: seen}, effectWith(.9, even, names...), nothing, usual)
	}
	assert.Greater(t, p("refused", "refused"), p("refused"))
	assert.Less(t, p("refused", "no-route"), p("refused"))
	assert.Equal(t, p("", "refused"), p("refused"), "nothing was seen, or nothing is named")
}

// drawn is a small case: some faults, each of which does something to some tests, and what was seen.
func drawn(t *rapid.T) *solving {
	kinds := []string{"reach", "found", "opens", "plays"}
	paths := []dossier.ID[dossier.Path]{"p", "q"}
	s := &solving{Case: Case{Faults: Shipped()}}
	for n := range rapid.IntRange(1, 6).Draw(t, "faults") {
		h := hypothesis{mode: &s.Faults.Modes[n], about: dossier.Ref{Kind: "device", ID: fmt.Sprint(n)}, prior: rapid.Float64Range(.1, 50).Draw(t, "odds"),
			effects: map[string]*effect{}, paths: map[dossier.ID[dossier.Path]]bool{}}
		for _, p := range paths {
			if rapid.Bool().Draw(t, "on it") {
				h.paths[p] = true
			}
		}
		for _, k := range kinds {
			if rapid.Bool().Draw(t, k) {
				h.effects[k] = effectWith(rapid.SampledFrom([]float64{.005, .1, .3, .9}).Draw(t, "chance"), drawEnds(t))
			}
		}
		s.hyps = append(s.hyps, h)
	}
	for _, k := range kinds {
		e := Evidence{Kind: k, Path: rapid.SampledFrom(paths).Draw(t, "path"), Failed: rapid.Bool().Draw(t, "failed"), class: -1,
			weight: rapid.SampledFrom([]float64{oldPass, halfFail, 1}).Draw(t, "weight"), trust: rapid.SampledFrom([]float64{byTest, byCaller}).Draw(t, "trust")}
		if e.Failed {
			e.class = rapid.IntRange(-1, len(failing)-1).Draw(t, "class")
		}
		if rapid.Bool().Draw(t, "of a set") {
			e.Paths = paths
		}
		s.evidence = append(s.evidence, e)
	}
	return s
}

// reckoned multiplies out how likely all that was seen is under some faults, for each severity, without anything that is kept from before.
func (s *solving) reckoned(a, b *hypothesis) float64 {
	out := 0.0
	for m := range severities {
		all := 1.0
		for n := range s.evidence {
			e := &s.evidence[n]
			of, other := nothing, nothing
			if a != nil {
				of = a.at(e)
			}
			if b != nil {
				other = b.at(e)
			}
			all *= math.Pow(likelihood(e, of, other, m), e.weight)
		}
		out += all / float64(len(severities))
	}
	return out
}

// The probabilities are those that multiplying everything out gives, of one fault, of two at once, and of none that is known.
func TestProbabilitiesAreThoseOfMultiplyingOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawn(t)
		var kept []hypothesis
		total := 0.0
		for _, h := range s.hyps {
			for n := range s.evidence {
				if e := &s.evidence[n]; e.Failed && h.at(e).chance >= leastEffect {
					kept = append(kept, h)
					total += h.prior
					break
				}
			}
		}
		broken := map[dossier.ID[dossier.Path]]bool{}
		for n := range s.evidence {
			broken[s.evidence[n].Path] = broken[s.evidence[n].Path] || s.evidence[n].Failed
		}
		none := unnamed
		for n := range s.evidence {
			of := nothing
			if broken[s.evidence[n].Path] {
				of = unnamedFault
			}
			none *= math.Pow(likelihood(&s.evidence[n], of, nothing, usual), s.evidence[n].weight)
		}
		one := make([]float64, len(kept))
		sum, best := none, -1
		for i := range kept {
			one[i] = kept[i].prior / total * s.reckoned(&kept[i], nil)
			sum += one[i]
			if best < 0 || one[i] > one[best] {
				best = i
			}
		}
		two := map[[2]string]float64{}
		explained := best >= 0
		strong := make([]bool, len(kept))
		for n := range s.evidence {
			e := &s.evidence[n]
			if !e.Failed || best < 0 {
				continue
			}
			explained = explained && (e.weight < 1 || kept[best].at(e).chance >= .2)
			for i := range kept {
				strong[i] = strong[i] || kept[i].at(e).chance > .2
			}
		}
		for i := range kept {
			for j := range i {
				if !explained && strong[i] && strong[j] {
					p := twoAtOnce * 2 * kept[i].prior / total * kept[j].prior / total * s.reckoned(&kept[i], &kept[j])
					two[[2]string{kept[j].about.ID, kept[i].about.ID}] = p
					sum += p
				}
			}
		}
		s.weigh()
		s.pairs()
		s.normalise()
		require.Len(t, s.hyps, len(kept))
		for i := range s.hyps {
			require.InDelta(t, one[i]/sum, s.hyps[i].p, 1e-9)
		}
		require.Len(t, s.doubles, len(two))
		for _, d := range s.doubles {
			pair := [2]string{s.hyps[min(d.a, d.b)].about.ID, s.hyps[max(d.a, d.b)].about.ID}
			require.InDelta(t, two[pair]/sum, d.p, 1e-9)
		}
		require.InDelta(t, none/sum, s.none, 1e-9)

		// What is named: the likeliest, each alone or beside another, with the likeliest of the others where that is likelier.
		list := s.list()
		for n, x := range list {
			i := slices.IndexFunc(s.hyps, func(h hypothesis) bool { return h.about == x.About })
			beside, closest := 0.0, double{}
			for _, d := range s.doubles {
				if d.a == i || d.b == i {
					beside += d.p
					if d.p > closest.p {
						closest = d
					}
				}
			}
			require.InDelta(t, min(s.hyps[i].p+beside, most), x.P, 1e-9)
			require.Equal(t, beside > s.hyps[i].p, x.With != nil)
			if x.With != nil {
				require.Equal(t, s.hyps[closest.a+closest.b-i].about, x.With.About)
			}
			require.True(t, n == 0 || list[n-1].P >= x.P)
		}
		entropy := 0.0
		for _, p := range slices.Concat([]float64{s.none}, collect(s.hyps, func(h hypothesis) float64 { return h.p }), collect(s.doubles, func(d double) float64 { return d.p })) {
			if p > 0 {
				entropy += p * math.Log2(1/p)
			}
		}
		require.InDelta(t, entropy, s.entropy(), 1e-9)
	})
}

func collect[T any](from []T, of func(T) float64) (out []float64) {
	for _, one := range from {
		out = append(out, of(one))
	}
	return out
}

// grounds are what makes a fault likelier or less likely than the background, and failures that it leaves unexplained.
func TestGroundsAreWhatMovesAFault(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawn(t)
		s.weigh()
		for i := range s.hyps {
			h := &s.hyps[i]
			yes, no := s.grounds(h)
			said := map[*Evidence]Ground{}
			for _, g := range slices.Concat(yes, no) {
				said[g.Evidence] = g
			}
			for n := range s.evidence {
				e := &s.evidence[n]
				moves := e.weight * (math.Log(likelihood(e, h.at(e), nothing, usual)) - math.Log(likelihood(e, nothing, nothing, usual)))
				g, named := said[e]
				switch {
				case moves > .4:
					require.True(t, named && slices.ContainsFunc(yes, func(g Ground) bool { return g.Evidence == e }))
					require.InDelta(t, moves, g.Weight, 1e-9)
				case moves < -.05:
					require.True(t, named && slices.ContainsFunc(no, func(g Ground) bool { return g.Evidence == e }))
					require.InDelta(t, moves, g.Weight, 1e-9)
				default:
					require.Equal(t, e.Failed && h.at(e).chance < .1, named)
					require.Equal(t, named, g.Unexplained)
				}
			}
			for k := 1; k < len(yes); k++ {
				require.GreaterOrEqual(t, yes[k-1].Weight, yes[k].Weight)
			}
			for k := 1; k < len(no); k++ {
				require.LessOrEqual(t, no[k-1].Weight, no[k].Weight)
			}
		}
	})
}

// What a step tells is by how much the entropy of what is possible falls, over both outcomes (mutual information); what follows it is worked out from what is
// then left.
func TestWhatAStepTells(t *testing.T) {
	entropy := func(states []state) float64 {
		sum, out := 0.0, 0.0
		for _, st := range states {
			sum += st.p
		}
		for _, st := range states {
			if p := st.p / sum; p > 0 {
				out -= p * math.Log2(p)
			}
		}
		return out
	}
	after := func(states []state, yes []float64, is bool) (out []state, p float64) {
		for n, st := range states {
			if is {
				st.p *= yes[n]
			} else {
				st.p *= 1 - yes[n]
			}
			p += st.p
			out = append(out, st)
		}
		for n := range out {
			out[n].p /= p
		}
		return out, p
	}
	told := func(states []state, yes []float64) float64 {
		a, pa := after(states, yes, true)
		b, pb := after(states, yes, false)
		return entropy(states) - pa*entropy(a) - pb*entropy(b)
	}
	rapid.Check(t, func(t *rapid.T) {
		s := &solving{Case: Case{Faults: Shipped()}}
		for n := range 4 {
			s.hyps = append(s.hyps, hypothesis{mode: &s.Faults.Modes[n], about: dossier.Ref{ID: fmt.Sprint(n)}})
		}
		states := []state{{a: -1, b: -1}, {a: 0, b: -1}, {a: 1, b: -1}, {a: 2, b: -1}, {a: 1, b: 3}}
		sum := 0.0
		for n := range states {
			states[n].p = rapid.Float64Range(.001, 1).Draw(t, "p")
			if n == rapid.IntRange(0, 4).Draw(t, "likeliest") {
				states[n].p *= 20
			}
			sum += states[n].p
		}
		for n := range states {
			states[n].p /= sum
		}
		var all []option
		for n := range 4 {
			o := option{Step: Step{Question: fmt.Sprint(n), Minutes: rapid.SampledFrom([]float64{.5, 1, 5, 30}).Draw(t, "minutes")}, yes: make([]float64, len(states))}
			for k := range o.yes {
				o.yes[k] = rapid.SampledFrom([]float64{.01, .3, .5, .97}).Draw(t, "yes")
			}
			o.Bits = o.told(states)
			require.InDelta(t, told(states, o.yes), o.Bits, 1e-9)
			require.InDelta(t, o.Bits/(o.Minutes+stepMinutes), o.PerMinute(), 1e-12)
			all = append(all, o)
		}
		for _, is := range []bool{true, false} {
			then := s.then(states, all, is)
			left, p := after(states, all[0].yes, is)
			require.InDelta(t, p, then.P, 1e-9)
			require.Equal(t, is, then.Yes)
			sure, likeliest := -1, 0.0
			for i := range s.hyps {
				present := 0.0
				for _, st := range left {
					if st.a == i || st.b == i {
						present += st.p
					}
				}
				if present >= Sure && present > likeliest {
					sure, likeliest = i, present
				}
			}
			require.Equal(t, sure >= 0, then.Sure != nil)
			if sure >= 0 {
				require.Equal(t, s.hyps[sure].about, then.Sure.About)
				require.Nil(t, then.Next)
				continue
			}
			best, next := 0.0, ""
			for _, o := range all[1:] {
				if bits := told(left, o.yes); bits > leastBits && bits/(o.Minutes+stepMinutes) > best {
					best, next = bits/(o.Minutes+stepMinutes), o.Question
				}
			}
			require.Equal(t, next != "", then.Next != nil)
			if next != "" {
				require.Equal(t, next, then.Next.Question)
			}
		}
	})
}

// In each state a test, a question and a look come out as what is supposed there makes them.
func TestHowStepsComeOutInEachState(t *testing.T) {
	f := &Faults{Format: Format, Questions: []Question{{ID: "hot", Text: "Is it hot?", Yes: .2, Reliable: .9}},
		Modes: []Mode{{ID: "one", Answers: map[string]float64{"hot": .8}, Swap: "another cable"}, {ID: "two", Answers: map[string]float64{"hot": .1}}, {ID: "three", Swap: "another cable"}, {ID: "four", Swap: "another box"}}}
	d := homes.Small().Clone()
	s := &solving{Case: Case{Faults: f, Home: d.Index()}}
	device := dossier.Ref{Kind: "device", ID: "d"}
	for n := range f.Modes {
		s.hyps = append(s.hyps, hypothesis{mode: &f.Modes[n], about: device, effects: map[string]*effect{}, paths: map[dossier.ID[dossier.Path]]bool{d.Paths[0].ID: n < 2}})
	}
	s.hyps[0].effects["plays"], s.hyps[1].effects["plays"] = effectWith(.9, [len(failing)]float64{}), effectWith(.5, [len(failing)]float64{})
	none, first, second, both := state{-1, -1, .1}, state{0, -1, .4}, state{1, -1, .3}, state{0, 1, .2}

	e := Evidence{Kind: "plays", Path: d.Paths[0].ID, Failed: true, class: -1, trust: 1}
	assert.InDelta(t, 1-(1-unnamedFail/2)*.98, s.on(none, &e), 1e-12)
	assert.InDelta(t, 1-.1*.98, s.on(first, &e), 1e-12)
	assert.InDelta(t, 1-.5*.98, s.on(second, &e), 1e-12)
	assert.InDelta(t, 1-.1*.5*.98, s.on(both, &e), 1e-12)
	assert.InDelta(t, 1-.1*.5*.98, s.on(state{1, 0, .2}, &e), 1e-12)

	offered := map[string]func(state) float64{}
	take := func(step Step, yes func(state) float64) { offered[step.Key()] = yes }
	s.questions(take)
	hot := offered[Step{Question: "hot"}.Key()]
	require.NotNil(t, hot)
	heard := func(p float64) float64 { return .9*p + .1*(1-p) }
	for want, of := range map[float64]state{.2: none, .8: first, .1: second} {
		assert.InDelta(t, heard(want), hot(of), 1e-12, "%v", of)
	}
	assert.InDelta(t, heard(.8), hot(both), 1e-12, "the one that makes it likelier counts")
	works := Step{Question: Works, About: d.Paths[0].ID.Ref()}.Key()
	require.NotNil(t, offered[works])
	assert.InDelta(t, likelihood(&Evidence{Kind: "plays", Path: d.Paths[0].ID, trust: byCaller, class: -1}, s.hyps[0].effects["plays"], nothing, usual), offered[works](first), 1e-12)
	for old, asked := range map[bool]bool{true: true, false: false} {
		s.evidence = []Evidence{{Kind: "plays", Path: d.Paths[0].ID, Old: old}}
		offered = map[string]func(state) float64{}
		s.questions(take)
		assert.Equal(t, asked, offered[works] != nil, "what was seen lately need not be asked")
	}
	s.Answers = []dossier.Answered{{Question: "hot", Said: dossier.Yes}}
	offered = map[string]func(state) float64{}
	s.questions(take)
	assert.Nil(t, offered[Step{Question: "hot"}.Key()])

	offered = map[string]func(state) float64{}
	s.looks([]state{none, first, both, {2, -1, .1}, {3, 0, .1}}, take)
	for key, shows := range map[string][]state{
		Step{Mode: &f.Modes[0], About: device}.Key():             {first, both, {3, 0, .1}},
		Step{Mode: &f.Modes[1], About: device}.Key():             {second, both},
		Step{Mode: &f.Modes[0], About: device, Swap: true}.Key(): {first, both, {2, -1, .1}, {3, 0, .1}},
		Step{Mode: &f.Modes[3], About: device, Swap: true}.Key(): {{3, 0, .1}, {3, -1, .1}},
	} {
		require.NotNil(t, offered[key], key)
		for _, of := range []state{none, first, second, both, {2, -1, .1}, {3, 0, .1}, {3, -1, .1}} {
			want := wrongLook
			if slices.Contains(shows, of) {
				want = rightLook
			}
			assert.InDelta(t, want, offered[key](of), 0, "%s in %v", key, of)
		}
	}
	assert.Nil(t, offered[Step{Mode: &f.Modes[2], About: device, Swap: true}.Key()], "one exchange is for both")
	s.hyps = nil
	var many []state
	for n := range 20 {
		s.hyps = append(s.hyps, hypothesis{mode: &Mode{ID: fmt.Sprint(n)}, about: device})
		many = append(many, state{n, -1, .05})
	}
	offered = map[string]func(state) float64{}
	s.looks(many, take)
	assert.Len(t, offered, 12, "nobody looks at everything")
}

// What a mode makes fail takes along what needs it, a little less surely; the strongest of its own counts before what comes of others.
func TestWhatAModeTakesAlong(t *testing.T) {
	m := Mode{Fails: []Effect{{Tests: []string{"reach"}, Chance: .5}, {Tests: []string{"opens"}, Chance: .2}, {Tests: []string{"opens"}, Chance: .3, Ends: map[dossier.Class]float64{failing[1]: 1}}, {Tests: []string{"found"}, Chance: .9}}}
	of := effectsOf(&m)
	assert.InDelta(t, .5, of["reach"].chance, 1e-12)
	assert.InDelta(t, .3, of["opens"].chance, 1e-12, "the stronger of its own, and not what comes of the other")
	assert.False(t, of["opens"].by)
	assert.InDelta(t, .5*.97, of["plays"].chance, 1e-12)
	assert.True(t, of["plays"].by)
	assert.Nil(t, of["stays-found"], "a server that was found once may go on playing")
	all := effectsOf(&Mode{Fails: []Effect{{Tests: []string{"found*"}, Chance: .9}}})
	assert.InDelta(t, .9*.97, all["stays-found"].chance, 1e-12)
	sum := 0.0
	for n, share := range of["opens"].ends {
		sum += share
		if n != 1 {
			assert.InDelta(t, .1/float64(len(failing)), share, 1e-12, "a tenth is for what nobody thought of")
		}
	}
	assert.InDelta(t, 1, sum, 1e-12)
	for _, share := range of["reach"].ends {
		assert.InDelta(t, 1/float64(len(failing)), share, 1e-12, "nothing is said of how it ends")
	}
	for k, severity := range severities {
		assert.InDelta(t, 1-math.Pow(.5, severity), of["reach"].grave[k], 1e-12)
	}
}

// What was seen has to do with a fault if it is on one of its paths, of its folder, and not at the other end.
func TestWhatAFaultTouches(t *testing.T) {
	h := hypothesis{paths: map[dossier.ID[dossier.Path]]bool{"p": true}}
	folder := h
	folder.folder = "films"
	outer := h
	outer.outer = true
	for _, c := range []struct {
		of   *hypothesis
		e    Evidence
		want bool
	}{
		{&h, Evidence{Path: "p"}, true}, {&h, Evidence{Path: "q"}, false},
		{&h, Evidence{Path: "p", Folder: "films"}, true}, {&h, Evidence{Path: "q", Folder: "films"}, false},
		{&folder, Evidence{Path: "q", Folder: "films"}, true}, {&folder, Evidence{Path: "p", Folder: "series"}, false}, {&folder, Evidence{Path: "p"}, true},
		{&h, Evidence{Path: "q", Paths: []dossier.ID[dossier.Path]{"q", "p"}}, true}, {&h, Evidence{Path: "p", Paths: []dossier.ID[dossier.Path]{"q"}}, false},
		{&outer, Evidence{Path: "p", inside: true}, false}, {&outer, Evidence{Path: "p"}, true}, {&h, Evidence{Path: "p", inside: true}, true},
	} {
		assert.Equal(t, c.want, c.of.touches(&c.e), "%+v %+v", *c.of, c.e)
	}
}

// The limits of what can be said of a fault belong to what can be said.
func TestTheLimitsOfWhatCanBeSaid(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Faults)
		good   bool
	}{
		"hardly ever yes":       {func(f *Faults) { f.Questions[0].Yes = .001 }, true},
		"nearly always yes":     {func(f *Faults) { f.Questions[0].Yes = .999 }, true},
		"rarer than that":       {func(f *Faults) { f.Questions[0].Yes = .0009 }, false},
		"a coin":                {func(f *Faults) { f.Questions[0].Reliable = .5 }, true},
		"too reliable":          {func(f *Faults) { f.Questions[0].Reliable = .9995 }, false},
		"the least odds":        {func(f *Faults) { f.Modes[0].Odds = .001 }, true},
		"the most odds":         {func(f *Faults) { f.Modes[0].Odds = 1000 }, true},
		"more odds":             {func(f *Faults) { f.Modes[0].Odds = 1000.1 }, false},
		"all in one, none else": {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: 1, failing[1]: 0} }, true},
		"less than none": {func(f *Faults) {
			f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: 1, failing[1]: -.005}
		}, false},
		"more than all":       {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: 1.005} }, false},
		"nearly all":          {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: .99} }, true},
		"a bit too much":      {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: .51, failing[1]: .5} }, true},
		"much too much":       {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{failing[0]: .52, failing[1]: .5} }, false},
		"a minute each":       {func(f *Faults) { f.Modes[0].Look.Minutes, f.Modes[0].Minutes = 1, 1 }, true},
		"a look in no time":   {func(f *Faults) { f.Modes[0].Look.Minutes = 0 }, false},
		"a remedy in no time": {func(f *Faults) { f.Modes[0].Minutes = 0 }, false},
	} {
		var f Faults
		require.NoError(t, json.Unmarshal(shipped, &f))
		c.change(&f)
		assert.Equal(t, c.good, f.Check() == nil, "%s: %v", name, f.Check())
	}
}

// A result between pass and fail counts as half a failure, unless what was seen ended in another way; a failure of what a test needs leaves the test out only if
// it is a whole one.
func TestHalfFailures(t *testing.T) {
	results := func(observed dossier.Observed, outcomes map[string]dossier.Outcome) []Evidence {
		d := homes.Small().Clone()
		plan := proving.NewPlan(d.Index())
		n := 0
		for _, x := range plan.Tests {
			outcome, there := outcomes[x.Kind.Name]
			if !there {
				continue
			}
			a := dossier.Attempt{Test: x.Kind.Name, Subjects: x.Subjects, Outcome: outcome, Observed: observed, How: dossier.ByMachine, At: homes.Day, Facts: x.Facts(), Version: proving.Version}
			a.ID = homes.AttemptID(900 + n)
			d.Attempts.Put(a)
			n++
		}
		x := d.Index()
		plan = proving.NewPlan(x)
		return gather(plan, proving.Statuses(plan, proving.Against{}), x.Attempts.Get, homes.Day.Add(-1), nil)
	}
	slow := results("", map[string]dossier.Outcome{"plays": dossier.Marginal})
	require.Len(t, slow, 1)
	assert.True(t, slow[0].Failed)
	assert.Equal(t, dossier.ClassSlow, slow[0].Class)
	assert.InDelta(t, halfFail, slow[0].weight, 0)
	right := dossier.Observed("")
	for _, code := range right.Values() {
		if dossier.Observed(code).Class() == dossier.ClassRight {
			right = dossier.Observed(code)
			break
		}
	}
	require.NotEmpty(t, right)
	other := results(right, map[string]dossier.Outcome{"plays": dossier.Marginal})
	require.Len(t, other, 1)
	assert.False(t, other[0].Failed)
	kinds := func(list []Evidence) (out []string) {
		for _, e := range list {
			out = append(out, e.Kind)
		}
		return out
	}
	assert.ElementsMatch(t, []string{"reach"}, kinds(results("", map[string]dossier.Outcome{"reach": dossier.Fail, "plays": dossier.Fail})), "what needs it fails with it")
	assert.ElementsMatch(t, []string{"reach", "plays"}, kinds(results("", map[string]dossier.Outcome{"reach": dossier.Marginal, "plays": dossier.Fail})))
	assert.ElementsMatch(t, []string{"reach", "plays"}, kinds(results("", map[string]dossier.Outcome{"reach": dossier.Pass, "plays": dossier.Fail})))
}

// A pass is from before if it is older than the fault, or, where nobody knows when that began, than a day before the newest failure; one that is in doubt is
// no better. A failure is what holds now, however long ago it was.
func TestWhatIsFromBefore(t *testing.T) {
	hours := func(n int) time.Time { return homes.Day.Add(time.Duration(n) * time.Hour) }
	type seen struct {
		status proving.Status
		at     time.Time
	}
	fails, passes := proving.Failed, proving.Proven
	for name, c := range map[string]struct {
		since time.Time
		seen  []seen
		old   []bool
	}{
		"before it began":                     {hours(0), []seen{{passes, hours(-1)}}, []bool{true}},
		"as it began":                         {hours(0), []seen{{passes, hours(0)}}, []bool{false}},
		"a failure":                           {hours(0), []seen{{fails, hours(-100)}}, []bool{false}},
		"in doubt":                            {hours(0), []seen{{proving.InDoubt, hours(1)}}, []bool{true}},
		"waived, and passed":                  {hours(0), []seen{{proving.Waived, hours(1)}}, []bool{false}},
		"nobody knows, and nothing failed":    {time.Time{}, []seen{{passes, hours(0)}}, []bool{false}},
		"a day before what failed":            {time.Time{}, []seen{{passes, hours(0)}, {fails, hours(24)}}, []bool{false, false}},
		"more than a day":                     {time.Time{}, []seen{{passes, hours(-1)}, {fails, hours(24)}}, []bool{true, false}},
		"the newest that failed":              {time.Time{}, []seen{{fails, hours(24)}, {passes, hours(1)}, {fails, hours(26)}}, []bool{false, true, false}},
		"in whichever order it is told":       {time.Time{}, []seen{{fails, hours(26)}, {passes, hours(1)}, {fails, hours(24)}}, []bool{false, true, false}},
		"what passed later makes nothing old": {time.Time{}, []seen{{passes, hours(1)}, {passes, hours(100)}, {fails, hours(24)}}, []bool{false, false, false}},
	} {
		var statuses []proving.TestStatus
		attempts := map[dossier.ID[dossier.Attempt]]dossier.Attempt{}
		for n, x := range c.seen {
			kind, _ := proving.KindNamed([]string{"reach", "found", "fall-back"}[n]) // of which none needs another
			path := homes.ID[dossier.Path](0)
			a := dossier.Attempt{At: x.at, Outcome: dossier.Pass, How: dossier.ByEye}
			if x.status == fails {
				a.Outcome = dossier.Fail
			}
			a.ID = homes.AttemptID(n)
			attempts[a.ID] = a
			statuses = append(statuses, proving.TestStatus{Test: proving.Test{Kind: &kind, Path: path, Subjects: []dossier.Ref{path.Ref()}}, Status: x.status, Attempt: a.ID, At: x.at})
		}
		get := func(id dossier.ID[dossier.Attempt]) (dossier.Attempt, bool) {
			a, there := attempts[id]
			return a, there
		}
		list := gather(nil, statuses, get, c.since, nil)
		require.Len(t, list, len(c.old), name)
		for n, old := range c.old {
			assert.Equal(t, old, list[n].Old, "%s: %d", name, n)
			weight := 1.0
			if old {
				weight = oldPass
			}
			assert.InDelta(t, weight, list[n].weight, 0, "%s: %d", name, n)
			assert.Equal(t, c.seen[n].status == fails, list[n].Failed, "%s: %d", name, n)
		}
	}
}

// What was waived because it cannot be done says nothing.
func TestWhatCannotBeDoneSaysNothing(t *testing.T) {
	kind, _ := proving.KindNamed("reach")
	path := homes.ID[dossier.Path](0)
	a := dossier.Attempt{At: homes.Day, Outcome: dossier.Impossible}
	a.ID = homes.AttemptID(1)
	get := func(dossier.ID[dossier.Attempt]) (dossier.Attempt, bool) { return a, true }
	waived := proving.TestStatus{Test: proving.Test{Kind: &kind, Path: path, Subjects: []dossier.Ref{path.Ref()}}, Status: proving.Waived, Attempt: a.ID}
	assert.Empty(t, gather(nil, []proving.TestStatus{waived}, get, time.Time{}, nil))
}

// What failed is counted, complaints with the rest, and one suspect is enough to act on from nine in ten.
func TestWhatIsSaidOfACase(t *testing.T) {
	d := threeRooms()
	complaint := []dossier.Answered{{Question: "does-not-start", About: d.Paths[1].ID.Ref(), Said: dossier.Yes}, {Question: Works, About: d.Paths[2].ID.Ref(), Said: dossier.Yes}}
	c := after(t, d, complaint, tried{"reach", 0, dossier.Pass, dossier.ByMachine, 1}, tried{"opens", 0, dossier.Fail, dossier.ByMachine, 1}).Case
	s := Of(c)
	assert.Equal(t, 2, s.Failures)
	assert.Equal(t, 4, s.Evidence)
	assert.False(t, s.Sure)
	one := s.List[0]
	for range 3 {
		c.Answers = append(c.Answers, dossier.Answered{Question: LookAt + one.Mode.ID, About: one.About, Said: dossier.Yes})
	}
	s = Of(c)
	assert.GreaterOrEqual(t, s.List[0].P, Sure)
	assert.True(t, s.Sure)
	c.Answers, c.Statuses = nil, nil
	assert.Equal(t, Suspects{}, Of(c))
}

// A suspect that is likelier beside another than alone names the likeliest of those; the same fault is not beside itself.
func TestWhatIsBesideAnother(t *testing.T) {
	place := func(id string) dossier.Ref { return dossier.Ref{Kind: "device", ID: id} }
	modes := []Mode{{ID: "one"}, {ID: "two"}, {ID: "three"}, {ID: "four"}}
	s := &solving{Case: Case{Faults: &Faults{}}}
	for n := range modes {
		s.hyps = append(s.hyps, hypothesis{mode: &modes[n], about: place(modes[n].ID), p: []float64{.1, .05, .05, .3}[n]})
	}
	s.doubles = []double{{a: 0, b: 1, p: .1}, {a: 2, b: 0, p: .15}, {a: 3, b: 0, p: .05}, {a: 1, b: 2, p: .02}}
	got := map[string]string{}
	var order []string
	for _, one := range s.list() {
		order = append(order, one.Mode.ID)
		if one.With != nil {
			got[one.Mode.ID] = one.With.Mode.ID
			assert.Equal(t, place(one.With.Mode.ID), one.With.About)
		}
	}
	assert.Equal(t, []string{"one", "four", "three", "two"}, order)
	assert.Equal(t, map[string]string{"one": "three", "two": "one", "three": "one"}, got)

	s = &solving{Case: Case{Faults: &Faults{}}, evidence: []Evidence{{Kind: "reach", Path: "p", Failed: true, class: -1, weight: 1, trust: 1}, {Kind: "reach", Path: "q", Failed: true, class: -1, weight: 1, trust: 1}}}
	for n, of := range []struct{ path, mode, about int }{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {1, 0, 1}} {
		s.hyps = append(s.hyps, hypothesis{mode: &modes[of.mode], about: place(fmt.Sprint(of.about)), prior: float64(4 - n), effects: map[string]*effect{"reach": effectWith(.9, [len(failing)]float64{})},
			paths: map[dossier.ID[dossier.Path]]bool{[]dossier.ID[dossier.Path]{"p", "q"}[of.path]: true}})
	}
	s.weigh()
	s.pairs()
	pairs := map[[2]int]bool{}
	for _, d := range s.doubles {
		pairs[[2]int{min(d.a, d.b), max(d.a, d.b)}] = true
	}
	assert.Equal(t, map[[2]int]bool{{0, 2}: true, {0, 3}: true, {1, 2}: true, {1, 3}: true, {2, 3}: true}, pairs, "all but the first with the second, which are one fault")
}

// What a step tells is worked out over one fault, two at once, and none that is known.
func TestStepsAreForAllThatIsPossible(t *testing.T) {
	f := &Faults{Questions: []Question{{ID: "hot", Yes: .2, Reliable: 1}}, Modes: []Mode{{ID: "one", Answers: map[string]float64{"hot": .9}}, {ID: "two", Answers: map[string]float64{"hot": .1}}, {ID: "three"}}}
	d := homes.Small()
	s := &solving{Case: Case{Faults: f, Home: d.Index()}, none: .1, doubles: []double{{a: 0, b: 1, p: .3}, {a: 1, b: 2, p: .2}}}
	for n, p := range []float64{.2, .15, .05} {
		s.hyps = append(s.hyps, hypothesis{mode: &f.Modes[n], about: dossier.Ref{Kind: "device", ID: "d"}, p: p})
	}
	entropy := func(p float64) float64 { return -p*math.Log2(p) - (1-p)*math.Log2(1-p) }
	yes, each := 0.0, 0.0
	for _, of := range [][2]float64{{.1, .2}, {.2, .9}, {.15, .1}, {.05, .2}, {.3, .9}, {.2, .2}} { // how likely each is, and a yes in it
		yes += of[0] * of[1]
		each += of[0] * entropy(of[1])
	}
	told := map[string]float64{}
	for _, step := range s.steps() {
		told[step.Question] = step.Bits
	}
	assert.InDelta(t, entropy(yes)-each, told["hot"], 1e-12)
	assert.Zero(t, bits(0), "what is impossible leaves nothing open")
}
