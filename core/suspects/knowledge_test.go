package suspects

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

func TestTheShippedModes(t *testing.T) {
	f, err := Read(shipped)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(f.Modes), 90)
	at := map[Part]int{}
	asked := map[string]bool{}
	failed := map[string]bool{}
	for i := range f.Modes {
		m := &f.Modes[i]
		at[m.At]++
		for q := range m.Answers {
			asked[q] = true
		}
		for kind := range effectsOf(m) {
			failed[kind] = true
		}
		for _, text := range []string{m.Title, m.Look.Text, m.Remedy} {
			assert.Equal(t, strings.ToUpper(text[:1]), text[:1], m.ID)
		}
		assert.True(t, strings.HasSuffix(m.Remedy, ".") && strings.HasSuffix(m.Look.Text, "."), m.ID)
	}
	for _, part := range Part("").Values() {
		assert.Positive(t, at[Part(part)], "no mode is at a %s", part)
	}
	for _, q := range f.Questions {
		assert.True(t, asked[q.ID], "no mode says anything of the question %s", q.ID)
	}
	for _, k := range proving.Kinds {
		assert.True(t, failed[k.Name], "no mode makes %s fail", k.Name)
	}
	for _, c := range Complaints {
		_, known := proving.KindNamed(c.Test)
		assert.True(t, known, c.Code)
		assert.True(t, !c.Fails || failed[c.Test], "no mode explains the complaint %s", c.Code)
	}
}

// Modes that no test and no question tell apart have to be looked at. There are none of which not even the look differs.
func TestWhichModesNoTestTellsApart(t *testing.T) {
	f := Shipped()
	by := map[string][]string{}
	looks := map[string]string{}
	for i := range f.Modes {
		m := &f.Modes[i]
		b, err := json.Marshal(map[string]any{"at": m.At, "only": m.Only, "effects": said(effectsOf(m)), "answers": m.Answers, "finds": m.Finds})
		require.NoError(t, err)
		by[string(b)] = append(by[string(b)], m.ID)
		assert.Empty(t, looks[m.Look.Text], "%s is looked at as %s is", m.ID, looks[m.Look.Text])
		looks[m.Look.Text] = m.ID
	}
	for _, same := range by {
		assert.Len(t, same, 1, "only a look tells these apart")
	}
}

func said(effects map[string]*effect) map[string]any {
	out := map[string]any{}
	for k, e := range effects {
		out[k] = []any{e.chance, e.ends}
	}
	return out
}

func TestModesThatMakeNonsenseAreRefused(t *testing.T) {
	good := func() *Faults {
		var f Faults
		require.NoError(t, json.Unmarshal(shipped, &f))
		return &f
	}
	for name, c := range map[string]struct {
		spoil func(*Faults)
		says  string
	}{
		"another format":         {func(f *Faults) { f.Format = "kaiku-faults/2" }, "the format is"},
		"a mode twice":           {func(f *Faults) { f.Modes[1].ID = f.Modes[0].ID }, "stands twice"},
		"a question twice":       {func(f *Faults) { f.Questions[1].ID = f.Questions[0].ID }, "stands twice"},
		"a certain answer":       {func(f *Faults) { f.Questions[0].Yes = 1 }, "between 0.001 and 0.999"},
		"a liar":                 {func(f *Faults) { f.Questions[0].Reliable = .2 }, "reliable"},
		"an unknown part":        {func(f *Faults) { f.Modes[0].At = "roof" }, "is not a kind of component"},
		"no odds":                {func(f *Faults) { f.Modes[0].Odds = 0 }, "odds"},
		"nothing fails":          {func(f *Faults) { f.Modes[0].Fails = nil }, "makes no test fail"},
		"a certain failure":      {func(f *Faults) { f.Modes[0].Fails[0].Chance = 1 }, "a chance"},
		"an impossible one":      {func(f *Faults) { f.Modes[0].Fails[0].Chance = 0 }, "a chance"},
		"an unknown test":        {func(f *Faults) { f.Modes[0].Fails[0].Tests = []string{"flies"} }, "is not a kind of test"},
		"an end that passes":     {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{dossier.ClassRight: 1} }, "cannot fail with"},
		"shares of a half":       {func(f *Faults) { f.Modes[0].Fails[0].Ends = map[dossier.Class]float64{dossier.ClassSilent: .5} }, "add up to"},
		"an unknown question":    {func(f *Faults) { f.Modes[0].Answers = map[string]float64{"why": .5} }, "does not exist, or its chance"},
		"an answer for certain":  {func(f *Faults) { f.Modes[0].Answers = map[string]float64{"hot": 0} }, "does not exist, or its chance"},
		"an unknown finding":     {func(f *Faults) { f.Modes[0].Finds = []string{"ghost"} }, "is not a finding"},
		"an unknown change":      {func(f *Faults) { f.Modes[0].After = []After{"full moon"} }, "is not something that happens beforehand"},
		"no remedy":              {func(f *Faults) { f.Modes[0].Remedy = "" }, "remedy"},
		"a look for the machine": {func(f *Faults) { f.Modes[0].Look.By = ByMachine }, "looking is for"},
	} {
		f := good()
		c.spoil(f)
		err := f.Check()
		require.ErrorIs(t, err, ErrFaults, name)
		assert.ErrorContains(t, err, c.says, name)
	}
	require.NoError(t, good().Check())
	_, err := Read([]byte(`{"format":"kaiku-faults/1","loop":{}}`))
	require.ErrorIs(t, err, ErrFaults)
	_, err = Read([]byte("{"))
	require.ErrorIs(t, err, ErrFaults)
}

func FuzzReadFaults(f *testing.F) {
	f.Add(shipped[:4000])
	f.Add([]byte(`{"format":"kaiku-faults/1","questions":[],"modes":[]}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		got, err := Read(b)
		if err != nil {
			return
		}
		for i := range got.Modes {
			for kind, e := range effectsOf(&got.Modes[i]) {
				assert.True(t, odd(e.chance) || e.chance < .999 && e.chance > 0, kind)
			}
		}
	})
}

// A step outward that fails takes all that need it along.
func TestWhatNeedsWhat(t *testing.T) {
	assert.Contains(t, needing["reach"], "plays")
	assert.Contains(t, needing["reach"], "lip-sync", "through plays and sound")
	assert.NotContains(t, needing["plays"], "reach")
	assert.False(t, slices.Contains(needing["found"], "opens"))
}
