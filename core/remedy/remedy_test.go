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
	other := dossier.Issue{Symptom: "no sound in the attic", State: dossier.IssueOpen, OpenedBy: homes.Person}
	other.ID = homes.ID[dossier.Issue](92)
	d.Issues = dossier.Records[dossier.Issue]{i, other}
	return d
}

var given = remedy.Given{By: "p1", At: noon, To: "p2", Try: homes.ID[dossier.Issue](91).Ref().ID, NextStep: "look", What: "other cable", Showed: "the same", On: "the provider", Cause: "cable", Remedy: "new cable", Why: "asked for", With: homes.ID[dossier.Issue](92)}

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

// Who takes what is remedied takes it over as it is; who has it in hand has it already.
func TestTakingAnIssue(t *testing.T) {
	take, known := remedy.Find("take")
	require.True(t, known)
	for state, want := range map[dossier.IssueState]dossier.IssueState{dossier.IssueOpen: dossier.IssueInHand, dossier.IssueWaiting: dossier.IssueInHand,
		dossier.IssueInHand: dossier.IssueInHand, dossier.IssueRemedied: dossier.IssueRemedied} {
		d := home(state)
		i := &d.Issues[0]
		i.NextStep, i.WaitingOn = "measure", "the provider"
		require.NoError(t, take.Take(d, i, remedy.Given{By: "p1", At: noon}))
		assert.Equal(t, want, i.State, "%s", state)
		assert.Equal(t, dossier.PersonID("p1"), i.Owner)
		assert.Equal(t, "measure", i.NextStep, "nothing was said of the next step")
		assert.Equal(t, state == dossier.IssueRemedied, i.WaitingOn != "", "who takes it in hand waits no longer")
		require.NoError(t, take.Take(d, i, remedy.Given{By: "p1", At: noon, NextStep: "look"}))
		assert.Equal(t, "look", i.NextStep)
		assert.Equal(t, i.State != dossier.IssueInHand, take.Open(*i, "p1"))
		assert.True(t, take.Open(*i, "p2"))
	}
}

// What a step needs is asked for: without it the step says which member is missing.
func TestStepsNeedWhatTheySay(t *testing.T) {
	for _, name := range []string{"next", "try", "wait", "give", "remedy", "join"} {
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

// Closing without a proof needs a word why; with one, the proof is kept.
func TestClosingAnIssue(t *testing.T) {
	closing, _ := remedy.Find("close")
	d := home(dossier.IssueRemedied)
	require.NoError(t, closing.Take(d, &d.Issues[0], remedy.Given{At: noon, Why: "the set is gone"}))
	assert.Empty(t, d.Issues[0].Proof)
	d = home(dossier.IssueRemedied)
	test := proving.NewPlan(d.Index()).Tests[0]
	d.Issues[0].Test, d.Issues[0].RemediedAt = test.ID(), noon
	a := dossier.Attempt{Test: test.Kind.Name, Subjects: test.Subjects, Outcome: dossier.Pass, At: noon}
	a.ID = homes.AttemptID(900)
	d.Attempts.Put(a)
	require.NoError(t, closing.Take(d, &d.Issues[0], remedy.Given{At: noon}), "a pass in the minute of the remedy proves it")
	assert.Equal(t, a.ID, d.Issues[0].Proof)
	assert.Equal(t, noon, d.Issues[0].ClosedAt)
	open := home(dossier.IssueOpen)
	open.Issues[0].Test = test.ID()
	open.Attempts.Put(a)
	_, proven := remedy.Proof(open, open.Issues[0])
	assert.False(t, proven, "nothing was remedied")
	assert.Empty(t, remedy.CloseProven(open, a, noon))
}

// An issue that is opened from a test is of its failure, or else of what will prove it.
func TestAnIssueOfATest(t *testing.T) {
	d := homes.Small()
	test := proving.NewPlan(d.Index()).Tests[0]
	for status, failed := range map[proving.Status]bool{proving.Failed: true, proving.Marginal: true, proving.Proven: false, proving.Untried: false, proving.Stale: false} {
		i := dossier.Issue{}
		remedy.From(proving.TestStatus{Test: test, Status: status, Attempt: homes.AttemptID(1)}, &i)
		assert.Equal(t, failed, i.FailedAttempt == homes.AttemptID(1), status)
		assert.Equal(t, !failed, i.Test == test.ID(), status)
		assert.Equal(t, test.Subjects, i.Subjects)
		own := dossier.Issue{Subjects: []dossier.Ref{d.Rooms[0].ID.Ref()}}
		remedy.From(proving.TestStatus{Test: test, Status: status}, &own)
		assert.Equal(t, []dossier.Ref{d.Rooms[0].ID.Ref()}, own.Subjects, "what it is about stays as it was said")
	}
}

// One more symptom of another issue is closed as such; what it tells and what was promised goes on with the other, and reopening takes it out again.
func TestSeveralSymptomsOfOneIssue(t *testing.T) {
	d := home(dossier.IssueOpen)
	join, known := remedy.Find("join")
	require.True(t, known)
	test := proving.NewPlan(d.Index()).Tests[0]
	a, whole := &d.Issues[0], &d.Issues[1]
	a.Test, a.PromisedUntil, a.Promise, a.Since = test.ID(), noon.Add(time.Hour), "today", noon.Add(-48*time.Hour)
	a.Subjects = []dossier.Ref{d.Rooms[0].ID.Ref()}
	a.Answers = []dossier.Answered{{Question: "hot", Said: dossier.Yes, At: noon}, {Question: "web-works", Said: dossier.No, At: noon.Add(-time.Hour)}}
	whole.OpenedAt, whole.PromisedUntil = noon.Add(-time.Hour), noon.Add(2*time.Hour)
	whole.Answers = []dossier.Answered{{Question: "hot", Said: dossier.No, At: noon.Add(-time.Hour)}, {Question: "web-works", Said: dossier.Yes, At: noon}}
	require.NoError(t, join.Take(d, a, remedy.Given{At: noon, With: whole.ID}))
	assert.Equal(t, []any{dossier.IssueClosed, whole.ID, noon}, []any{a.State, a.SameAs, a.ClosedAt})
	assert.Equal(t, append([]dossier.Ref{d.Rooms[0].ID.Ref()}, test.Subjects...), whole.Subjects)
	assert.Equal(t, noon.Add(time.Hour), whole.PromisedUntil, "the earlier promise")
	assert.Equal(t, "today", whole.Promise)
	told := remedy.Whole(d, *whole)
	assert.Equal(t, noon.Add(-48*time.Hour), told.Since)
	assert.Equal(t, []dossier.Answer{dossier.Yes, dossier.Yes}, []dossier.Answer{told.Answers[0].Said, told.Answers[1].Said}, "of each question the newest answer")
	assert.Equal(t, dossier.No, whole.Answers[0].Said, "the issue itself is as it was")
	require.Len(t, remedy.Joined(d, whole.ID), 1)
	assert.Empty(t, remedy.Joined(d, ""))

	// What was joined to an issue goes on with it.
	third := dossier.Issue{Symptom: "nothing at all", State: dossier.IssueInHand}
	third.ID = homes.ID[dossier.Issue](93)
	d.Issues.Put(third)
	require.NoError(t, join.Take(d, d.Issues.Find(whole.ID), remedy.Given{At: noon, With: third.ID}))
	assert.Len(t, remedy.Joined(d, third.ID), 2)
	for _, with := range []dossier.ID[dossier.Issue]{third.ID, d.Issues[0].ID} {
		var no *dossier.Refusal
		require.ErrorAs(t, join.Take(d, d.Issues.Find(third.ID), remedy.Given{At: noon, With: with}), &no, "to itself, and to one that is closed")
		assert.Equal(t, "joins-nothing", no.Code)
	}
	reopen, _ := remedy.Find("reopen")
	require.NoError(t, reopen.Take(d, d.Issues.Find(homes.ID[dossier.Issue](90)), remedy.Given{At: noon, Why: "it is another"}))
	assert.Len(t, remedy.Joined(d, third.ID), 1)
}
