package suspects

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func of(list []Learned, id string) (Learned, bool) {
	for _, l := range list {
		if l.Mode.ID == id {
			return l, true
		}
	}
	return Learned{}, false
}

// What a firm finds moves the odds by the rule that is stated, worked out by hand: of 20 faults at links 9 were damaged cables, and the shipped odds of
// all modes at links are 8+5+3+4+4+4 = 28, of which a damaged cable has 4.
func TestWhatAFirmFindsMovesTheOdds(t *testing.T) {
	f := Shipped()
	after, moved := f.Learn(map[string]int{"cable-damaged": 9, "wifi-weak": 11, "gone since": 3}, nil)
	cable, ok := of(moved, "cable-damaged")
	require.True(t, ok)
	assert.Equal(t, 9, cable.Found)
	assert.Equal(t, 20, cable.Of)
	assert.InDelta(t, 20*4/28.0, cable.Expected, 1e-9)
	assert.InDelta(t, 4*13/(20*4/28.0+4), cable.Odds, 1e-9)
	assert.InDelta(t, cable.Odds, after.Mode("cable-damaged").Odds, 1e-12)
	assert.Equal(t, 4.0, f.Mode("cable-damaged").Odds, "what came is as it came")
	assert.Equal(t, cable, *after.Learned("cable-damaged"))
	assert.Nil(t, after.Learned("line-down"))
	never, ok := of(moved, "powerline-weak")
	require.True(t, ok, "what is never found becomes less likely")
	assert.Less(t, never.Odds, 4.0)
	for _, l := range moved {
		assert.EqualValues(t, AtLink, l.Mode.At, "nothing was found at other kinds of component")
	}

	after, moved = f.Learn(map[string]int{"cable-damaged": 9, "wifi-weak": 11}, []KeptOdds{{"cable-damaged"}})
	cable, ok = of(moved, "cable-damaged")
	require.True(t, ok)
	assert.True(t, cable.Kept)
	assert.Equal(t, 4.0, after.Mode("cable-damaged").Odds)

	_, moved = f.Learn(map[string]int{"line-down": 1}, nil)
	one, _ := of(moved, "line-down")
	assert.Less(t, one.Odds/one.Mode.Odds, 1.25, "one case alone hardly moves anything")
	_, moved = f.Learn(nil, nil)
	assert.Empty(t, moved)
}

// Whatever is found, the modes can be used, and one that is found more often is likelier for it.
func TestLearnedOddsCanBeUsed(t *testing.T) {
	f := Shipped()
	rapid.Check(t, func(t *rapid.T) {
		found := map[string]int{}
		for range rapid.IntRange(0, 12).Draw(t, "modes") {
			found[rapid.SampledFrom(f.Modes).Draw(t, "mode").ID] = rapid.IntRange(0, 10_000).Draw(t, "times")
		}
		after, moved := f.Learn(found, nil)
		require.NoError(t, after.Check())
		for n := 1; n < len(moved); n++ {
			assert.GreaterOrEqual(t, moved[n-1].change(), moved[n].change())
		}
		id := rapid.SampledFrom(f.Modes).Draw(t, "one").ID
		before := after.Mode(id).Odds
		found[id]++
		after, _ = f.Learn(found, nil)
		assert.GreaterOrEqual(t, after.Mode(id).Odds, before-1e-9)
	})
}

// What is told are the modes that were found, that are kept, or whose odds moved by a tenth at least, the greatest move first.
func TestWhichMovesAreTold(t *testing.T) {
	f := &Faults{Modes: []Mode{{ID: "seldom", At: AtLink, Odds: 1}, {ID: "often", At: AtLink, Odds: 6}, {ID: "sometimes", At: AtLink, Odds: 3}, {ID: "elsewhere", At: AtLine, Odds: 3}}}
	told := func(kept ...KeptOdds) (ids []string, odds []float64) {
		_, moved := f.Learn(map[string]int{"seldom": 1}, kept)
		for _, l := range moved {
			ids, odds = append(ids, l.Mode.ID), append(odds, l.Odds)
		}
		return ids, odds
	}
	ids, odds := told()
	assert.Equal(t, []string{"seldom", "often"}, ids, "4/4.3 is not yet a tenth less")
	assert.InDeltaSlice(t, []float64{5 / 4.1, 6 * 4 / 4.6}, odds, 1e-12)
	ids, odds = told(KeptOdds{"sometimes"}, KeptOdds{"seldom"})
	assert.Equal(t, []string{"often", "seldom", "sometimes"}, ids)
	assert.InDeltaSlice(t, []float64{6 * 4 / 4.6, 1, 3}, odds, 1e-12)
}
