package remedy_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/homes"
)

var noon = time.Date(2026, 3, 2, 12, 0, 0, 0, time.UTC)

func home(state dossier.IssueState) *dossier.Dossier {
	d := homes.Small().Clone()
	i := dossier.Issue{Symptom: "the film stands still", State: state, OpenedBy: homes.Person}
	i.ID = homes.ID[dossier.Issue](90)
	d.Issues = dossier.Records[dossier.Issue]{i}
	return d
}

var given = remedy.Given{By: "p1", At: noon, To: "p2", Try: homes.ID[dossier.Issue](91).Ref().ID, NextStep: "look", What: "other cable", Showed: "the same", On: "the provider", Cause: "cable", Remedy: "new cable", Why: "asked for"}

// Every step is refused from every state that it does not name, and changes nothing but the issue.
func TestStepsAndStates(t *testing.T) {
	for _, step := range remedy.Steps {
		for _, state := range dossier.IssueState("").Values() {
			d := home(dossier.IssueState(state))
			i := &d.Issues[0]
			err := step.Take(d, i, given)
			if slices.Contains(step.From, dossier.IssueState(state)) {
				assert.NoError(t, err, "%s from %s", step.Name, state)
			} else {
				var wrong *dossier.WrongState
				require.ErrorAs(t, err, &wrong, "%s from %s", step.Name, state)
				assert.Equal(t, state, wrong.State)
			}
			assert.Equal(t, slices.Contains(step.From, dossier.IssueState(state)), step.Open(home(dossier.IssueState(state)).Issues[0], "p1"), "%s from %s", step.Name, state)
		}
	}
	_, known := remedy.Find("vanish")
	assert.False(t, known)
}

// What a step needs is asked for: without it the step says which member is missing.
func TestStepsNeedWhatTheySay(t *testing.T) {
	for _, name := range []string{"next", "try", "wait", "give", "remedy"} {
		step, known := remedy.Find(name)
		require.True(t, known)
		d := home(dossier.IssueOpen)
		var faults dossier.Faults
		require.ErrorAs(t, step.Take(d, &d.Issues[0], remedy.Given{By: "p1", At: noon}), &faults, name)
		assert.Equal(t, dossier.FaultRequired, faults[0].Code, name)
	}
	d := home(dossier.IssueRemedied)
	closing, _ := remedy.Find("close")
	var no *dossier.Refusal
	require.ErrorAs(t, closing.Take(d, &d.Issues[0], remedy.Given{At: noon}), &no)
	assert.Equal(t, "no-proof", no.Code)
}

// Only a pass of its own test, after the remedy, closes an issue.
func TestWhatProvesARemedy(t *testing.T) {
	d := home(dossier.IssueRemedied)
	test := proving.NewPlan(d.Index()).Tests[0]
	d.Issues[0].Test, d.Issues[0].RemediedAt = test.ID(), noon
	try := func(kind string, outcome dossier.Outcome, at time.Time) dossier.Attempt {
		a := dossier.Attempt{Test: kind, Subjects: test.Subjects, Outcome: outcome, At: at}
		a.ID = homes.AttemptID(900)
		return a
	}
	for name, a := range map[string]dossier.Attempt{
		"before the remedy": try(test.Kind.Name, dossier.Pass, noon.Add(-time.Minute)),
		"a failure":         try(test.Kind.Name, dossier.Fail, noon.Add(time.Minute)),
		"marginal":          try(test.Kind.Name, dossier.Marginal, noon.Add(time.Minute)),
		"another test":      try("wakes", dossier.Pass, noon.Add(time.Minute)),
	} {
		assert.Empty(t, remedy.CloseProven(d, a, noon), name)
	}
	proof := try(test.Kind.Name, dossier.Pass, noon.Add(time.Minute))
	d.Attempts.Put(proof)
	id, proven := remedy.Proof(d, d.Issues[0])
	assert.True(t, proven)
	assert.Equal(t, proof.ID, id)
	assert.Len(t, remedy.CloseProven(d, proof, noon.Add(time.Hour)), 1)
	assert.Equal(t, dossier.IssueClosed, d.Issues[0].State)
}
