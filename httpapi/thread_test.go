package httpapi_test

import (
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
)

func TestFromAFailedTestToAClosedIssue(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	plays := testID("plays", ids)

	seen, err := petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Fail, Note: "the screen says: server not reachable"})
	require.NoError(t, err, "what the screen shows can be recorded of a test that a machine can run too")
	assert.Equal(t, proving.Failed, seen.Test.Status)
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: "plays:nothing", Outcome: dossier.Pass})
	assert.True(t, client.IsProblem(err, "no-such-test"), err)
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Pass, At: time.Now().Add(time.Hour)})
	assert.True(t, client.IsProblem(err, "attempt-in-future"), err)
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Pass, AsOf: 9999})
	assert.True(t, client.IsProblem(err, "revision-in-future"), err)
	called, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "It stutters, says the caller", Test: plays, Promise: "somebody comes on Monday"})
	require.NoError(t, err, "an issue from a call names the test that will prove its remedy")
	assert.Equal(t, plays, called.Record.Test)
	assert.Equal(t, "somebody comes on Monday", called.Record.Promise)

	made, err := petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Fail, Note: "stalls"})
	require.NoError(t, err)
	assert.Equal(t, proving.Failed, made.Test.Status)
	assert.NotEmpty(t, made.Attempt.Facts)
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "stutters", Test: plays})
	require.NoError(t, err)
	id := string(issue.Record.ID)
	assert.Equal(t, made.Attempt.ID, issue.Record.FailedAttempt)
	step := func(name string, in wire.IssueStep) wire.Issue {
		i, err := petri.StepIssue(ctx, "H-0701", id, name, in)
		require.NoError(t, err, name)
		return i
	}
	assert.Equal(t, dossier.IssueInHand, step("take", wire.IssueStep{}).Record.State)
	step("try", wire.IssueStep{What: "moved it", Showed: "no change"})
	assert.Equal(t, dossier.IssueWaiting, step("wait", wire.IssueStep{On: "the line provider"}).Record.State)
	_, err = petri.StepIssue(ctx, "H-0701", id, "close", wire.IssueStep{})
	assert.True(t, client.IsProblem(err, "no-proof"), err)
	_, err = petri.StepIssue(ctx, "H-0701", id, "remedy", wire.IssueStep{})
	assert.True(t, client.IsProblem(err, "not-valid"), "a remedy says what was done")
	i := step("remedy", wire.IssueStep{Remedy: "cable", Cause: "stone walls"})
	assert.Equal(t, dossier.IssueRemedied, i.Record.State)
	assert.False(t, i.CanClose)

	old := i.Record.RemediedAt.Add(-time.Minute)
	made, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Pass, At: old})
	require.NoError(t, err)
	assert.Empty(t, made.Closed, "a pass from before the remedy proves nothing")
	made, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Pass})
	require.NoError(t, err)
	require.Len(t, made.Closed, 1)
	i, err = petri.Issue(ctx, "H-0701", id)
	require.NoError(t, err)
	assert.Equal(t, dossier.IssueClosed, i.Record.State)
	assert.Equal(t, made.Attempt.ID, i.Record.Proof)
	i = step("reopen", wire.IssueStep{Why: "it came back"})
	assert.Equal(t, dossier.IssueOpen, i.Record.State)
	assert.Equal(t, dossier.IssueClosed, step("close", wire.IssueStep{Why: "customer gave the screen away"}).Record.State)
	_, err = petri.StepIssue(ctx, "H-0701", id, "take", wire.IssueStep{})
	assert.True(t, client.IsProblem(err, "wrong-state"), err)
}

func TestCustodyMovesOnAcceptanceOnly(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri, maarit := t.Context(), s.as["petri"], s.as["maarit"]
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "hum"})
	require.NoError(t, err)
	_, err = petri.StepIssue(ctx, "H-0701", string(issue.Record.ID), "take", wire.IssueStep{})
	require.NoError(t, err)

	_, err = petri.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "tilit"})
	assert.True(t, client.IsProblem(err, "no-receiver"), err)
	_, err = petri.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "petri"})
	assert.True(t, client.IsProblem(err, "same-person"), err)
	h, err := petri.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "maarit", Note: "mind the dog"})
	require.NoError(t, err)
	id := string(h.Record.ID)
	require.Len(t, h.Gates, 1)
	_, err = petri.StepHandover(ctx, "H-0701", id, "offer", wire.HandoverStep{})
	assert.True(t, client.IsProblem(err, "gate-closed"), err)
	_, err = petri.StepIssue(ctx, "H-0701", string(issue.Record.ID), "next", wire.IssueStep{NextStep: "listen"})
	require.NoError(t, err)
	h, err = petri.StepHandover(ctx, "H-0701", id, "offer", wire.HandoverStep{})
	require.NoError(t, err)
	assert.Contains(t, h.Points[0].Sentence, "Next step: listen", "the offer tells how things stand now")
	_, err = petri.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "aino"})
	assert.True(t, client.IsProblem(err, "handover-on-offer"), "one offer at a time")

	// The home changes under the offer.
	room, etag, err := petri.Show(ctx, "H-0701", dossier.KindNamed("room"), ids["room"])
	require.NoError(t, err)
	_, err = petri.Set(ctx, "H-0701", dossier.KindNamed("room"), room["id"].(string), etag, wire.Record{"note": "wet"})
	require.NoError(t, err)
	_, err = maarit.StepHandover(ctx, "H-0701", id, "confirm", wire.HandoverStep{Point: "p001"})
	assert.True(t, client.IsProblem(err, "wrong-state"), err)
	today, err := petri.Today(ctx)
	require.NoError(t, err)
	assert.Equal(t, "handover-outdated", today.Waiting[0].Code)

	// The change can be taken back as a whole; that does not bring back what was offered before it.
	journal, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	undone, err := petri.Undo(ctx, "H-0701", journal[0].Revision, 0)
	require.NoError(t, err)
	assert.Equal(t, 1, undone.Entries)
	assert.True(t, undone.OfferAgain)
	h, err = petri.Handover(ctx, "H-0701", id)
	require.NoError(t, err)
	assert.Equal(t, dossier.Outdated, h.Record.State)

	h, err = petri.StepHandover(ctx, "H-0701", id, "offer", wire.HandoverStep{})
	require.NoError(t, err)
	for _, p := range h.Points {
		_, err = maarit.StepHandover(ctx, "H-0701", id, "accept", wire.HandoverStep{})
		require.True(t, client.IsProblem(err, "points-open"), err)
		o, err := maarit.Overview(ctx, "H-0701")
		require.NoError(t, err)
		require.Equal(t, "Petri Lokki", o.Custodian.Name)
		_, err = maarit.StepHandover(ctx, "H-0701", id, "confirm", wire.HandoverStep{Point: p.ID})
		require.NoError(t, err)
	}
	h, err = maarit.StepHandover(ctx, "H-0701", id, "accept", wire.HandoverStep{})
	require.NoError(t, err)
	assert.Equal(t, dossier.Accepted, h.Record.State)
	o, err := maarit.Overview(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "Maarit Suvanto", o.Custodian.Name)
	assert.Equal(t, "Maarit Suvanto", o.Issues[0].Owner, "the giver's open issues go along")
	_, err = petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "x"})
	assert.True(t, client.IsProblem(err, "not-allowed"), err)

	// The next handover tells only what is new.
	h, err = maarit.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "petri"})
	require.NoError(t, err)
	for _, p := range h.Points {
		assert.NotContains(t, p.Code, "record-added", p.Sentence)
	}
	require.NoError(t, s.as["aino"].Assign(ctx, "H-0701", wire.Assign{To: "petri", Why: "Maarit is ill"}))
	err = s.as["aino"].Assign(ctx, "H-0701", wire.Assign{To: "petri", Why: "again"})
	assert.True(t, client.IsProblem(err, "same-person"), err)
	entries, err := petri.Journal(ctx, "H-0701", url.Values{"limit": {"1"}})
	require.NoError(t, err)
	assert.Equal(t, "Maarit is ill", entries[0].Why)
	assert.Equal(t, []string{"Custodian: Maarit Suvanto → Petri Lokki"}, entries[0].Members)
}

func TestAReturnedHandoverKeepsItsAnswers(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	ctx, petri, maarit := t.Context(), s.as["petri"], s.as["maarit"]
	h, err := petri.DraftHandover(ctx, "H-0701", wire.NewHandover{To: "maarit"})
	require.NoError(t, err)
	id := string(h.Record.ID)
	step := func(who *client.Client, name string, in wire.HandoverStep) wire.Handover {
		h, err := who.StepHandover(ctx, "H-0701", id, name, in)
		require.NoError(t, err, name)
		return h
	}
	step(petri, "offer", wire.HandoverStep{})
	_, err = maarit.StepHandover(ctx, "H-0701", id, "return", wire.HandoverStep{})
	assert.True(t, client.IsProblem(err, "nothing-asked"), err)
	step(maarit, "ask", wire.HandoverStep{Point: "p002", Question: "Which key?"})
	step(maarit, "return", wire.HandoverStep{})
	step(petri, "answer", wire.HandoverStep{Point: "p002", Answer: "The brass one"})
	h = step(petri, "offer", wire.HandoverStep{})
	assert.Equal(t, "Which key?", h.Points[1].Question)
	assert.Equal(t, "The brass one", h.Points[1].Answer)
}

func TestTheMachinesPart(t *testing.T) {
	office := newSite(t, nil)
	office.home("H-0701")
	_, err := office.as["petri"].RunTests(t.Context(), "H-0701", wire.Run{})
	assert.True(t, client.IsProblem(err, "not-on-site"), err)

	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	_, err = s.as["petri"].RunTests(t.Context(), "H-0701", wire.Run{Tests: []string{testID("plays", ids)}})
	assert.True(t, client.IsProblem(err, "nothing-to-run"), err)
	job, err := s.as["petri"].RunTests(t.Context(), "H-0701", wire.Run{})
	require.NoError(t, err)
	done, err := s.as["petri"].WaitJob(t.Context(), "H-0701", job.ID)
	require.NoError(t, err)
	assert.Equal(t, "ended", done.State)
	again, err := s.as["petri"].StopJob(t.Context(), "H-0701", job.ID)
	require.NoError(t, err)
	assert.Equal(t, "ended", again.State, "it had ended already")
	list, err := s.as["tilit"].Jobs(t.Context(), "H-0701")
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Len(t, done.Made, 3)
	plan, err := s.as["tilit"].Plan(t.Context(), "H-0701")
	require.NoError(t, err)
	assert.Equal(t, 3, plan.Coverage.Proven)

	needed, err := s.as["petri"].Needed(t.Context(), "H-0701")
	require.NoError(t, err)
	for _, n := range needed {
		if n.What == "server-software-runs" {
			assert.True(t, n.Met, "a passed test ticks what it proves")
		}
	}
	ref := dossier.Ref{Kind: "path", ID: ids["path"]}
	require.NoError(t, s.as["petri"].Tick(t.Context(), "H-0701", "refuse", wire.Tick{What: "server-chosen", Subject: ref}))
	require.NoError(t, s.as["petri"].Tick(t.Context(), "H-0701", "tick", wire.Tick{What: "server-chosen", Subject: ref}))
	err = s.as["petri"].Tick(t.Context(), "H-0701", "tick", wire.Tick{What: "server-chosen", Subject: dossier.Ref{Kind: "device", ID: ids["device"]}})
	assert.True(t, client.IsProblem(err, "not-needed"), err)

	d, err := s.as["petri"].Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	require.Len(t, d.Prerequisites, 1)
	assert.Equal(t, 1, d.Prerequisites[0].Refused)
	assert.Equal(t, len(plan.Tests), len(proving.NewPlan(d.Index()).Tests), "a client computes what the service computes")
}
