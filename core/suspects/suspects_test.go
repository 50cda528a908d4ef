package suspects

import (
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/proving"
	"kaiku/homes"
)

// known is a home with results and answers drawn at random, which may contradict each other.
func known(t *rapid.T) Case {
	h := homes.Furnished(t)
	plan := proving.NewPlan(h.Index())
	for n := range rapid.IntRange(0, 40).Draw(t, "attempts") {
		x := plan.Tests[rapid.IntRange(0, len(plan.Tests)-1).Draw(t, "test")]
		a := dossier.Attempt{Test: x.Kind.Name, Subjects: x.Subjects, Facts: x.Facts(), Version: proving.Version, At: homes.Day.Add(time.Duration(n) * time.Minute),
			Outcome: rapid.SampledFrom([]dossier.Outcome{dossier.Pass, dossier.Fail, dossier.Marginal, dossier.Impossible}).Draw(t, "outcome"),
			How:     rapid.SampledFrom([]dossier.How{dossier.ByEye, dossier.ByMachine}).Draw(t, "how")}
		if a.How == dossier.ByMachine {
			a.Observed = dossier.Observed(rapid.SampledFrom(dossier.Observed("").Values()).Draw(t, "observed"))
		}
		a.ID = homes.AttemptID(500 + n)
		h.Attempts.Put(a)
	}
	f := Shipped()
	var answers []dossier.Answered
	for range rapid.IntRange(0, 12).Draw(t, "answers") {
		a := dossier.Answered{Said: rapid.SampledFrom([]dossier.Answer{dossier.Yes, dossier.No, ""}).Draw(t, "said"), At: homes.Day}
		switch rapid.IntRange(0, 4).Draw(t, "kind") {
		case 0:
			a.Question, a.About = rapid.SampledFrom(Complaints).Draw(t, "complaint").Code, h.Paths[rapid.IntRange(0, len(h.Paths)-1).Draw(t, "path")].ID.Ref()
		case 1:
			a.Question = rapid.SampledFrom(f.Questions).Draw(t, "question").ID
		case 2:
			a.Question, a.About = SwapFor+rapid.SampledFrom(f.Modes).Draw(t, "mode").ID, h.Screen.Ref()
		case 3:
			a.Question, a.About = LookAt+rapid.SampledFrom(f.Modes).Draw(t, "mode").ID, h.Server.Ref()
		default:
			a.Question = "of a file that is gone"
		}
		answers = append(answers, a)
	}
	x := h.Index()
	plan = proving.NewPlan(x)
	l := load.Of(x, time.UTC)
	return Case{Home: x, Plan: plan, Statuses: proving.Statuses(plan, proving.Against{}), Load: &l, Faults: f, Answers: answers, Now: homes.Day.Add(time.Hour),
		Since: rapid.SampledFrom([]time.Time{{}, homes.Day, homes.Day.Add(20 * time.Minute)}).Draw(t, "since")}
}

// Whatever is known, and however it contradicts itself, what comes of it are probabilities; nothing is surer than it may be, and steps tell something.
func TestWhateverIsKnownGivesProbabilities(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := known(t)
		s := Of(c)
		if s.Failures == 0 {
			assert.Empty(t, s.List)
			assert.Empty(t, s.Steps)
			return
		}
		assert.True(t, s.None >= 0 && s.None <= 1 && !math.IsNaN(s.Entropy) && s.Entropy >= 0, "%v %v", s.None, s.Entropy)
		last := 1.0
		for _, one := range s.List {
			assert.True(t, one.P >= shownLeast && one.P <= most && one.P <= last, "%s %v", one.Mode.ID, one.P)
			last = one.P
			for _, g := range one.For {
				assert.Positive(t, g.Weight)
			}
		}
		keys := map[string]bool{}
		for n, x := range s.Steps {
			assert.True(t, x.Bits > leastBits && x.Minutes > 0 && x.Bits <= 1, "%+v", x)
			assert.False(t, keys[x.Key()], "%s is proposed twice", x.Key())
			keys[x.Key()] = true
			assert.True(t, n == 0 || s.Steps[n-1].PerMinute() >= x.PerMinute()-1e-12)
			assert.Equal(t, n == 0, len(x.Then) > 0)
			for _, then := range x.Then {
				assert.True(t, then.P >= 0 && then.P <= 1, "%v", then.P)
				assert.False(t, then.Sure != nil && then.Next != nil)
				assert.True(t, then.Next == nil || then.Next.Key() != x.Key())
			}
			if len(x.Then) > 0 {
				assert.InDelta(t, 1, x.Then[0].P+x.Then[1].P, 1e-9)
			}
		}
		again := Of(c)
		require.Equal(t, len(s.List), len(again.List))
		for n := range s.List {
			assert.InDelta(t, s.List[n].P, again.List[n].P, 1e-9, "the same is made of the same")
		}
	})
}

// Somebody who looked and saw that it is so makes a suspect likelier, and one who saw that it is not makes it less likely.
func TestLookingTells(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := known(t)
		s := Of(c)
		if len(s.List) == 0 {
			return
		}
		one := s.List[0]
		for _, a := range c.Answers {
			if a.Question == LookAt+one.Mode.ID {
				return
			}
		}
		p := func(said dossier.Answer) float64 {
			with := c
			with.Answers = append([]dossier.Answered{{Question: LookAt + one.Mode.ID, About: one.About, Said: said}}, c.Answers...)
			for _, x := range Of(with).List {
				if x.Mode == one.Mode && x.About == one.About {
					return x.P
				}
			}
			return 0
		}
		assert.GreaterOrEqual(t, p(dossier.Yes), one.P-1e-9)
		assert.LessOrEqual(t, p(dossier.No), one.P+1e-9)
		assert.InDelta(t, one.P, p(""), 1e-9, "who does not know says nothing")
	})
}

// A pass from before the fault began hardly counts against it; one from afterwards does.
func TestOldPassesHardlyCount(t *testing.T) {
	d := homes.Small().Clone()
	plan := proving.NewPlan(d.Index())
	path := d.Paths[0].ID.Ref()
	x, ok := plan.Find(proving.TestID("reach", []dossier.Ref{path}))
	require.True(t, ok)
	a := dossier.Attempt{Test: "reach", Subjects: x.Subjects, Outcome: dossier.Pass, Observed: "answered", How: dossier.ByMachine, At: homes.Day, Facts: x.Facts(), Version: proving.Version}
	a.ID = homes.AttemptID(900)
	d.Attempts.Put(a)
	index := d.Index()
	plan = proving.NewPlan(index)
	c := Case{Home: index, Plan: plan, Statuses: proving.Statuses(plan, proving.Against{}), Faults: Shipped(), Now: homes.Day.Add(48 * time.Hour),
		Answers: []dossier.Answered{{Question: "not-listed", About: path, Said: dossier.Yes, At: homes.Day.Add(47 * time.Hour)}}}
	p := func(since time.Time) float64 {
		c.Since = since
		for _, one := range Of(c).List {
			if one.Mode.ID == "server-stopped" {
				return one.P
			}
		}
		return 0
	}
	before, after := p(homes.Day.Add(-time.Hour)), p(homes.Day.Add(24*time.Hour))
	assert.Less(t, before, after, "that it answered since speaks against a server that is stopped")
	assert.Greater(t, after, .03)
}

// What a source has said is not asked of it again for another path that reaches the same folders, and what needs a test that it answered counts as open.
func TestASourceIsAskedOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := known(t)
		plan := c.Plan
		said := map[string]bool{}
		for i := range c.Statuses {
			st := &c.Statuses[i]
			a, there := c.Home.Attempts.Get(st.Attempt)
			if there && a.How == dossier.ByMachine && st.Status == proving.Failed && slices.Contains(atServersEnd, st.Test.Kind.Act) && st.Test.Kind.Name == "reach" {
				said[string(plan.SourceOf(st.Test.Path))] = true
			}
		}
		for _, x := range Of(c).Steps {
			if test, ok := plan.Find(x.Test); ok && test.Kind.Name == "reach" && x.By == ByMachine {
				assert.False(t, said[string(plan.SourceOf(test.Path))], x.Test)
			}
		}
	})
}

// Something else in the place of what is suspected tells all modes of it with the same exchange from the others; each exchange is proposed once.
func TestAnExchangeTells(t *testing.T) {
	d := homes.Small().Clone()
	x := d.Index()
	path := d.Paths[0]
	plan := proving.NewPlan(x)
	c := Case{Home: x, Plan: plan, Statuses: proving.Statuses(plan, proving.Against{}), Faults: Shipped(), Now: homes.Day,
		Answers: []dossier.Answered{{Question: "does-not-start", About: path.ID.Ref(), Said: dossier.Yes, At: homes.Day}}}
	p := func(s Suspects) (exchanged, other float64) {
		for _, one := range s.List {
			if one.Mode.Swap == "another device" && one.About == path.Device.Ref() {
				exchanged += one.P
			} else {
				other += one.P
			}
		}
		return exchanged, other
	}
	before := Of(c)
	var swap *Step
	for n := range before.Steps {
		if before.Steps[n].Swap {
			require.Nil(t, swap, "once is enough")
			swap = &before.Steps[n]
		}
	}
	require.NotNil(t, swap)
	assert.Equal(t, path.Device.Ref(), swap.About)
	was, _ := p(before)
	c.Answers = append(c.Answers, dossier.Answered{Question: swap.Noted(), About: swap.About, Said: dossier.Yes, At: homes.Day})
	works := Of(c)
	is, rest := p(works)
	assert.Greater(t, is, was)
	assert.Greater(t, is, 4*rest)
	for _, s := range works.Steps {
		assert.False(t, s.Swap && s.Mode.Swap == swap.Mode.Swap && s.About == swap.About, "it was done")
	}
	told := false
	for _, g := range works.List[0].For {
		told = told || g.Swap && g.Yes
	}
	assert.True(t, told, "it is said what speaks for it")
	c.Answers[1].Said = dossier.No
	is, _ = p(Of(c))
	assert.Less(t, is, was)
	assert.False(t, Shipped().Known(SwapFor+"server-stopped"), "nothing is put in its place")
	assert.True(t, Shipped().Known(swap.Noted()))
}
