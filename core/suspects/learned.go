package suspects

import (
	"cmp"
	"math"
	"slices"
	"strings"
)

// judged is for how many cases the odds count that come with a mode, against what a firm has found. Judgement.
const judged = 4.0

// KeptOdds is a mode whose odds the firm keeps as they came, whatever it finds.
type KeptOdds struct {
	ID string `json:"id"`
}

// Key tells them apart.
func (k KeptOdds) Key() string { return k.ID }

// Learned is what a firm's closed issues say of the odds of one mode.
type Learned struct {
	Mode     *Mode   // as it came
	Found    int     // closed issues whose fault it was
	Of       int     // closed issues whose fault was at a component of the same kind
	Expected float64 // how many of these it would have been by the odds as they came
	Odds     float64 // that follow from both
	Kept     bool    // the firm keeps the odds as they came
}

// Learn returns the modes with the odds that follow from how often each was found in the homes of a firm, and what that changes, the greatest change first.
//
// The odds of a mode are multiplied by (found + 4) / (expected + 4). Expected is its share of the odds of all modes at the same kind of component, of as
// many faults as were found there: the mean of a rate of which the judgement counts for four cases (Gelman et al., Bayesian Data Analysis, section 2.6).
// So one case alone hardly moves anything, and a firm's own experience prevails in the end.
func (f *Faults) Learn(found map[string]int, kept []KeptOdds) (*Faults, []Learned) {
	cases, odds := map[Part]int{}, map[Part]float64{}
	for i := range f.Modes {
		m := &f.Modes[i]
		cases[m.At] += found[m.ID]
		odds[m.At] += m.Odds
	}
	out := &Faults{Format: f.Format, Questions: f.Questions, Modes: slices.Clone(f.Modes)}
	var moved []Learned
	for i := range f.Modes {
		m := &f.Modes[i]
		one := Learned{Mode: m, Found: found[m.ID], Of: cases[m.At], Kept: slices.Contains(kept, KeptOdds{m.ID})}
		one.Expected = float64(one.Of) * m.Odds / odds[m.At]
		one.Odds = min(max(m.Odds*(float64(one.Found)+judged)/(one.Expected+judged), leastOdds), mostOdds)
		if one.Kept {
			one.Odds = m.Odds
		}
		out.Modes[i].Odds = one.Odds
		if one.Found > 0 || one.Kept || math.Abs(one.Odds/m.Odds-1) >= .1 {
			moved = append(moved, one)
		}
	}
	slices.SortStableFunc(moved, func(a, b Learned) int {
		return cmp.Or(cmp.Compare(b.change(), a.change()), cmp.Compare(b.Found, a.Found), strings.Compare(a.Mode.ID, b.Mode.ID))
	})
	out.learned = moved
	return out, moved
}

// change is by how much the odds have moved, either way.
func (l Learned) change() float64 { return math.Abs(math.Log(l.Odds / l.Mode.Odds)) }
