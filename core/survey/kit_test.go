package survey_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/homes"
	"kaiku/wording"
)

func TestKitIsCompiledFromWhatIsMissingAndFound(t *testing.T) {
	d := homes.Small().Clone()
	homes.PutIn(d, 0, dossier.Outlet{Room: homes.RoomID(0), Name: "A1"})
	homes.PutIn(d, 0, dossier.Software{Device: d.Devices[0].ID, Name: "Ahtola", Version: "4.2", NewestKnown: "4.3"})
	homes.PutIn(d, 0, dossier.Reading{What: dossier.SignalDbm, Value: -90, Subject: d.Devices[1].ID.Ref(), At: homes.Day})
	homes.PutIn(d, 0, dossier.Visit{Purpose: "last year's", Starts: homes.Day.AddDate(-1, 0, 0), Bring: []dossier.Item{{What: "sandwiches"}}})
	homes.PutIn(d, 1, dossier.Visit{Purpose: "prove it", Starts: homes.Day.Add(time.Hour), Bring: []dossier.Item{{What: "Cable tester", Ready: true}, {What: "ladder"}}, Bench: []dossier.Item{{What: "sample clips on a stick", Ready: true}}})
	for _, s := range kit(d) {
		seen := map[dossier.Ref]bool{}
		for _, about := range s.About {
			assert.NotEmpty(t, about.ID, "%s", s.Item)
			assert.False(t, seen[about], "%s is about something twice", s.Item)
			seen[about] = true
		}
	}
	var said []string
	ready := map[string]bool{}
	for _, s := range kit(d) {
		said = append(said, string(s.Sort)+" "+s.Item)
		ready[s.Item] = s.Ready
		assert.NotEmpty(t, s.Because)
	}
	assert.Equal(t, []string{"part access-point", "part ladder", "tool cable-tester", "tool measuring-laptop", "bench newer-version", "bench sample clips on a stick"}, said)
	assert.Equal(t, map[string]bool{"access-point": false, "ladder": false, "cable-tester": true, "measuring-laptop": false, "newer-version": false, "sample clips on a stick": true}, ready)
}

func kit(d *dossier.Dossier) []survey.Supply {
	x := d.Index()
	return survey.Kit(d, survey.Walk(x), network.Findings(x, knowledge.Knowledge{}, homes.Day), homes.Day)
}

func TestNextVisit(t *testing.T) {
	d := homes.Small().Clone()
	_, ok := survey.NextVisit(d, homes.Day)
	assert.False(t, ok)
	for n, v := range []dossier.Visit{
		{Purpose: "called off", Starts: homes.Day.Add(time.Hour), Cancelled: true}, {Purpose: "done", Starts: homes.Day.Add(time.Minute), Outcome: "all"},
		{Purpose: "later", Starts: homes.Day.AddDate(0, 0, 3)}, {Purpose: "under way", Starts: homes.Day.Add(-time.Hour)}, {Purpose: "forgotten", Starts: homes.Day.AddDate(0, 0, -2)},
	} {
		homes.PutIn(d, n, v)
	}
	next, ok := survey.NextVisit(d, homes.Day)
	require.True(t, ok)
	assert.Equal(t, "under way", next.Purpose)
	d = homes.Small().Clone()
	homes.PutIn(d, 0, dossier.Visit{Purpose: "called off", Starts: homes.Day.Add(time.Hour), Cancelled: true})
	_, ok = survey.NextVisit(d, homes.Day)
	assert.False(t, ok, "one that was called off is none")
	homes.PutIn(d, 1, dossier.Visit{Purpose: "of yesterday", Starts: homes.Day.AddDate(0, 0, -1).Add(time.Minute)})
	next, ok = survey.NextVisit(d, homes.Day)
	require.True(t, ok)
	assert.Equal(t, "of yesterday", next.Purpose)
}

// Every gap, code and supply has words.
func TestEverySupplyAndGapHasWords(t *testing.T) {
	for _, g := range survey.GapKinds {
		assert.NotEmpty(t, wording.Gaps[g.Name].Sentence, g.Name)
		assert.NotEmpty(t, wording.Gaps[g.Name].Remedy, g.Name)
	}
	assert.Len(t, wording.Gaps, len(survey.GapKinds))
	for _, u := range network.Union("").Values() {
		assert.NotEmpty(t, wording.Unions[network.Union(u)], u)
	}
	for _, k := range network.OuterKind("").Values() {
		assert.NotEmpty(t, wording.OuterKinds[network.OuterKind(k)], k)
	}
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Sound(t)
		homes.Set(h, h.ServerLink, func(l *dossier.Link) { l.RateMbps = 10 })
		for _, s := range kit(h.Dossier) {
			require.NotEmpty(t, wording.Supplies[s.Item], s.Item)
		}
	})
}

// Parts for suspected faults come among the parts, once each, whatever they are called for otherwise.
func TestPartsForSuspectedFaults(t *testing.T) {
	list := []survey.Supply{{Item: "patch-cables", Sort: survey.Part, Because: []string{"link-below-port"}}, {Item: "cable-tester", Sort: survey.Tool, Because: []string{"no-reading"}}}
	issue, at := dossier.Ref{Kind: "issue", ID: "1"}, dossier.Ref{Kind: "device", ID: "2"}
	out := survey.With(list, []survey.Wanted{{"Patch cables", []dossier.Ref{issue}}, {"quiet fan", []dossier.Ref{issue, at}}, {"quiet fan", []dossier.Ref{issue}}})
	require.Len(t, out, 3)
	assert.Equal(t, []string{"link-below-port", survey.Suspected}, out[0].Because)
	assert.Equal(t, survey.Supply{Item: "quiet fan", Written: true, Sort: survey.Part, Because: []string{survey.Suspected}, About: []dossier.Ref{issue, at}}, out[1])
	assert.Equal(t, []string{"link-below-port"}, list[0].Because, "the list itself is as it was")
	assert.Equal(t, "quiet fan", survey.With(nil, []survey.Wanted{{Part: "quiet fan"}})[0].Item)
}
