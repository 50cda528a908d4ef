package httpapi_test

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
)

// test returns where one test of the small home stands.
func (s *site) test(code, id string) wire.Test {
	s.t.Helper()
	plan, err := s.as["petri"].Plan(s.t.Context(), code)
	require.NoError(s.t, err)
	for _, one := range plan.Tests {
		if one.ID == id {
			return one
		}
	}
	require.Fail(s.t, "no test "+id)
	return wire.Test{}
}

// add adds a record as petri, and returns its id.
func (s *site) add(code, kind string, members wire.Record) string {
	s.t.Helper()
	made, err := s.as["petri"].Add(s.t.Context(), code, dossier.KindNamed(kind), members)
	require.NoError(s.t, err)
	return made["id"].(string)
}

func (s *site) set(code, kind, id string, patch wire.Record) {
	s.t.Helper()
	k := dossier.KindNamed(kind)
	_, etag, err := s.as["petri"].Show(s.t.Context(), code, k, id)
	require.NoError(s.t, err)
	_, err = s.as["petri"].Set(s.t.Context(), code, k, id, etag, patch)
	require.NoError(s.t, err)
}

func (s *site) pass(code, test string, asOf uint64) wire.AttemptMade {
	s.t.Helper()
	made, err := s.as["petri"].RecordAttempt(s.t.Context(), code, wire.NewAttempt{Test: test, Outcome: dossier.Pass, AsOf: asOf})
	require.NoError(s.t, err)
	return made
}

// A port that was changed while the test ran is not proven by it.
func TestAResultStandsOnWhatWasRecordedWhenTheTestBegan(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	plays := testID("plays", ids)
	plan, err := s.as["petri"].Plan(t.Context(), "H-0701")
	require.NoError(t, err)
	s.set("H-0701", "source", ids["source"], wire.Record{"port": 40299})
	made := s.pass("H-0701", plays, plan.Revision)
	assert.Equal(t, plan.Revision, made.Attempt.AsOf)
	assert.Equal(t, proving.Stale, made.Test.Status)
	require.Len(t, made.Test.Changes, 1)
	assert.Equal(t, "port of server media changed from 40210 to 40299", made.Test.Changes[0].Sentence)
	assert.Equal(t, "Petri Lokki", made.Test.Changes[0].By)
	assert.WithinDuration(t, time.Now(), made.Test.Changes[0].When, time.Minute)
	require.NotNil(t, made.Test.Again)
	assert.Contains(t, made.Test.Again.Sentence, "films")

	s.set("H-0701", "source", ids["source"], wire.Record{"port": 40210})
	assert.Equal(t, proving.Proven, s.test("H-0701", plays).Status, "the old port is back, and with it the proof")
	now := s.test("H-0701", plays)
	assert.Empty(t, now.Changes)
}

// The same for what was done earlier and is sent later.
func TestAResultThatIsSentLaterStandsOnWhatWasRecordedThen(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	plays := testID("plays", ids)
	done := time.Now()
	waitUntilAfter(done)
	s.set("H-0701", "device", ids["device"], wire.Record{"firmware": "9"})
	made, err := s.as["petri"].RecordAttempt(t.Context(), "H-0701", wire.NewAttempt{Test: plays, Outcome: dossier.Pass, At: done})
	require.NoError(t, err)
	assert.Equal(t, proving.Stale, made.Test.Status)
	assert.Equal(t, "firmware of screen was not recorded and is now 9", made.Test.Changes[0].Sentence)
	assert.Equal(t, proving.Proven, s.pass("H-0701", plays, 0).Test.Status)
}

// waitUntilAfter waits until the journal's clock, which counts milliseconds, has gone on.
func waitUntilAfter(at time.Time) {
	for !time.Now().Truncate(time.Millisecond).After(at) {
		<-time.After(time.Millisecond)
	}
}

func TestWhatSpeaksAgainstAProofIsSaid(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	plays := testID("plays", ids)
	for _, one := range []string{"reach", "found", "opens", "plays"} {
		s.pass("H-0701", testID(one, ids), 0)
	}
	overview, err := petri.Overview(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, 4, overview.Coverage.Proven)

	change, err := petri.Add(ctx, "H-0701", dossier.KindNamed("change"), wire.Record{"device": ids["server"], "what": "Reset to defaults."})
	require.NoError(t, err)
	now := s.test("H-0701", plays)
	assert.Equal(t, proving.InDoubt, now.Status)
	require.Len(t, now.Doubts, 1)
	assert.Equal(t, `A change was made since: "Reset to defaults". Its effect on what was proven is not recorded.`, now.Doubts[0].Sentence)
	assert.Equal(t, "Petri Lokki", now.Doubts[0].By)
	assert.False(t, now.Doubts[0].When.IsZero())
	s.set("H-0701", "change", change["id"].(string), wire.Record{"effect": "reset-to-defaults", "losses": "all settings"})
	assert.Contains(t, s.test("H-0701", plays).Doubts[0].Sentence, "the settings have not been confirmed since")
	s.set("H-0701", "change", change["id"].(string), wire.Record{"confirmedAt": time.Now().Add(time.Second).Format(time.RFC3339)})
	assert.Equal(t, proving.Proven, s.test("H-0701", plays).Status)

	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "Nothing plays!", Subjects: []wire.Ref{{Kind: "path", ID: ids["path"]}}, Promise: "Monday", PromisedUntil: time.Now().Add(72 * time.Hour)})
	require.NoError(t, err)
	assert.Contains(t, s.test("H-0701", plays).Doubts[0].Sentence, "An issue has been opened since: Nothing plays!")
	_, err = petri.StepIssue(ctx, "H-0701", string(issue.Record.ID), "close", wire.IssueStep{Why: "the caller had the wrong remote"})
	require.NoError(t, err)
	assert.Equal(t, proving.Proven, s.test("H-0701", plays).Status)

	rows, err := petri.Households(ctx, wire.HomesQuery{With: []string{"not-served"}})
	require.NoError(t, err)
	assert.NotContains(t, codesOf(rows), "H-0701")
	_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("wish"), wire.Record{"what": "music", "room": ids["room"]})
	require.NoError(t, err)
	overview, err = petri.Overview(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "The wish for music in cellar has no path", overview.Next[0].Sentence, "what is promised and not served is the first to do")
	assert.Equal(t, "Music in cellar: no path yet.", overview.Wishes[0].Places[0].Sentence)
	assert.Equal(t, 1, overview.Coverage.NotServed)
	rows, err = petri.Households(ctx, wire.HomesQuery{With: []string{"not-served"}})
	require.NoError(t, err)
	assert.Contains(t, codesOf(rows), "H-0701")
}

func codesOf(rows []wire.HouseholdRow) (out []string) {
	for _, r := range rows {
		out = append(out, r.Code)
	}
	return out
}

// A scan that saw a deciding value differ puts the proof in doubt, until it is recorded, ignored or
// seen as recorded again.
func TestAScanPutsProofInDoubt(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	s.set("H-0701", "interface", ids["interface"], wire.Record{"hardwareAddress": "02:4b:49:00:00:10"})
	s.set("H-0701", "source", ids["source"], wire.Record{"udn": "uuid:10", "port": 40999})
	reach := testID("reach", ids)
	s.pass("H-0701", reach, 0)
	scan := seenServer(ids)
	scan.Ended = time.Now().Add(time.Second)
	_, err := petri.AddScan(ctx, "H-0701", scan)
	require.NoError(t, err)
	now := s.test("H-0701", reach)
	require.Equal(t, proving.InDoubt, now.Status, "%+v", now)
	assert.Contains(t, now.Doubts[0].Sentence, "A scan saw 40210 as the port of server media, but 40999 is recorded.")
}

func TestAPreviewTellsWhatWouldBeLostAndStoresNothing(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	for _, one := range []string{"reach", "found", "opens", "plays"} {
		s.pass("H-0701", testID(one, ids), 0)
	}
	before, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	p, err := petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "set", Kind: "source", ID: ids["source"], Members: map[string]any{"port": 40211}})
	require.NoError(t, err)
	assert.Len(t, p.Stale, 4)
	assert.Equal(t, "port of server media changed from 40210 to 40211", p.Stale[0].Sentence)
	assert.Equal(t, 4, p.Before.Proven)
	assert.Zero(t, p.After.Proven)
	assert.Len(t, p.Again, 2, "one run of Kaiku's own tests, one round at the screen")
	assert.Contains(t, p.Sentence, "make 4 proven tests stale")
	assert.Positive(t, p.Minutes)

	p, err = petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "set", Kind: "room", ID: ids["room"], Members: map[string]any{"name": "pantry"}})
	require.NoError(t, err)
	assert.Empty(t, p.Sentence)
	assert.Equal(t, p.Before, p.After)

	p, err = petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "add", Kind: "change", Members: map[string]any{"device": ids["server"], "what": "new disk", "followUps": []string{"restart"}}},
		wire.PreviewStep{Verb: "set", Kind: "interface", ID: ids["wired"], Members: map[string]any{"addresses": []string{"10.20.4.10"}}})
	require.NoError(t, err)
	assert.NotEmpty(t, p.InDoubt)
	assert.NotEmpty(t, p.Found, "two devices with one address")

	_, err = petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "remove", Kind: "source", ID: ids["source"]})
	assert.ErrorContains(t, err, "It is still in use", "what would be refused is refused here too")
	for _, c := range []struct {
		wrong wire.PreviewStep
		says  string
	}{{wire.PreviewStep{Verb: "set", Kind: "elephant", ID: "x"}, "There are no records called elephant"}, {wire.PreviewStep{Verb: "set", Kind: "room", ID: "x"}, "There is no room x"},
		{wire.PreviewStep{Verb: "remove", Kind: "attempt", ID: "x"}, "There are no records called attempt"},
		{wire.PreviewStep{Verb: "set", Kind: "room", ID: ids["room"], Members: map[string]any{"floor": "high"}}, "/floor: must be a whole number"},
		{wire.PreviewStep{Verb: "set", Kind: "room", ID: ids["room"], Members: map[string]any{"colour": "red"}}, "/colour: there is no such field"}} {
		_, err := petri.Preview(ctx, "H-0701", c.wrong)
		assert.ErrorContains(t, err, c.says, "%+v", c.wrong)
	}
	after, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, before, after, "nothing was stored")
}

// A path whose last folder is removed names none, and does not come to reach all.
func TestRemovalNeverWidens(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	_, err := petri.Add(ctx, "H-0701", dossier.KindNamed("folder"), wire.Record{"source": ids["source"], "name": "Private", "contentKind": "photo"})
	require.NoError(t, err)
	folder := dossier.KindNamed("folder")
	_, etag, err := petri.Show(ctx, "H-0701", folder, ids["folder"])
	require.NoError(t, err)
	require.NoError(t, petri.Remove(ctx, "H-0701", folder, ids["folder"], etag))
	path, _, err := petri.Show(ctx, "H-0701", dossier.KindNamed("path"), ids["path"])
	require.NoError(t, err)
	assert.Equal(t, true, path["noFolders"])
	found, err := petri.Findings(ctx, "H-0701")
	require.NoError(t, err)
	var codes []string
	for _, f := range found {
		codes = append(codes, f.Code)
	}
	assert.Contains(t, codes, "no-folders-left")
	made, err := petri.Add(ctx, "H-0701", folder, wire.Record{"source": ids["source"], "name": "Films again", "contentKind": "film"})
	require.NoError(t, err)
	s.set("H-0701", "path", ids["path"], wire.Record{"folders": []string{made["id"].(string)}})
	path, _, err = petri.Show(ctx, "H-0701", dossier.KindNamed("path"), ids["path"])
	require.NoError(t, err)
	assert.Nil(t, path["noFolders"], "folders are named again")

	s.set("H-0701", "source", ids["source"], wire.Record{"interface": ids["interface"]})
	adapter := dossier.KindNamed("interface")
	_, etag, err = petri.Show(ctx, "H-0701", adapter, ids["interface"])
	require.NoError(t, err)
	assert.True(t, client.IsProblem(petri.Remove(ctx, "H-0701", adapter, ids["interface"], etag), "still-used"), "a source that is bound does not come to listen on all adapters")
}

func TestAPathIsHeldAgainstWhatItsSourceSpeaks(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	add := func(protocol, kind string) error {
		made, err := petri.Add(ctx, "H-0701", dossier.KindNamed("source"), wire.Record{"device": ids["server"], "name": protocol + " " + kind, "protocol": protocol})
		require.NoError(t, err)
		_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("path"), wire.Record{"name": protocol + " " + kind, "device": ids["device"], "source": made["id"], "kind": kind, "foundBy": "typed-address"})
		return err
	}
	err := add("http", "av-pull")
	require.ErrorContains(t, err, "a path of the kind av-pull needs a source that speaks one of upnp-av, not http")
	for _, kind := range dossier.PathKind("").Values() {
		speaks := dossier.PathKind(kind).Speaks()
		require.NotEmpty(t, speaks, kind)
		assert.NoError(t, add(string(speaks[0]), kind), kind)
	}
	k := dossier.KindNamed("source")
	_, etag, err := petri.Show(ctx, "H-0701", k, ids["source"])
	require.NoError(t, err)
	_, err = petri.Set(ctx, "H-0701", k, ids["source"], etag, wire.Record{"protocol": "smb"})
	assert.ErrorContains(t, err, "av-pull", "nor can the source be changed under its paths")
	plan, err := petri.Plan(ctx, "H-0701")
	require.NoError(t, err)
	kinds := map[string]bool{}
	for _, one := range plan.Tests {
		kinds[one.Path.Label] = true
	}
	assert.Len(t, kinds, 10, "every kind of path has tests")
	needed, err := petri.Needed(ctx, "H-0701")
	require.NoError(t, err)
	for _, n := range needed {
		assert.NotEmpty(t, n.Title, n.What)
		assert.NotEmpty(t, n.Why, n.What)
	}
}

// One answer holds the whole home, of one revision.
func TestOneAnswerHoldsTheWholeHome(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	d, err := s.as["petri"].Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	assert.Equal(t, uint64(10), d.Revision)
	assert.Equal(t, ids["path"], string(d.Paths[0].ID))
	request, err := http.NewRequestWithContext(context.Background(), http.MethodGet, s.address+"/api/v1/households/H-0701/dossier", nil)
	require.NoError(t, err)
	answer, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, answer.StatusCode)
}

// A second import with one key is answered as the first was, and brings nothing in twice.
func TestAnImportThatIsSentTwiceIsAnsweredAlike(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	s.home("H-0701")
	send := func(key string) (int, wire.Import) {
		var out wire.Import
		request, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.address+"/api/v1/households/H-0701/import?what=rooms", strings.NewReader("name,floor\nattic,2\nloft,3\n"))
		require.NoError(t, err)
		request.Header = http.Header{"Idempotency-Key": {key}, "Content-Type": {"application/octet-stream"}, "Authorization": {"Bearer " + s.token("petri", false)}}
		resp, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		defer resp.Body.Close()
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&out))
		return resp.StatusCode, out
	}
	_, first := send("one")
	require.True(t, first.Written, "%+v", first)
	require.Len(t, first.Lines, 2)
	_, again := send("one")
	assert.Equal(t, first, again)
	_, other := send("two")
	assert.NotEqual(t, first.Counts, other.Counts, "a request of its own is carried out")
}

// A round is recorded as a whole or not at all, stands on the facts of when it began, and can be taken back at once by who recorded it.
func TestARoundIsRecordedAsAWhole(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	plays, stops := testID("plays", ids), testID("stops", ids)
	s.set("H-0701", "device", ids["device"], wire.Record{"room": ids["room"]})
	plan, err := petri.Plan(ctx, "H-0701")
	require.NoError(t, err)
	step := slices.IndexFunc(plan.Reproof, func(p wire.ProofStep) bool { return slices.Contains(p.Tests, plays) })
	require.GreaterOrEqual(t, step, 0)
	assert.False(t, plan.Reproof[step].Machine)
	assert.Equal(t, "cellar", plan.Reproof[step].Room.Label)

	round := wire.NewRound{AsOf: plan.Revision, Conditions: "evening", Results: []wire.RoundResult{{Test: plays, Outcome: dossier.Pass}, {Test: "stops:" + ids["room"], Outcome: dossier.Pass}}}
	_, err = petri.RecordRound(ctx, "H-0701", round)
	refusedAs(t, err, "no-such-test")
	assert.Empty(t, s.dossier("H-0701").Attempts, "all of it or nothing")
	round.Results[1].Test = plays
	_, err = petri.RecordRound(ctx, "H-0701", round)
	refusedAs(t, err, "test-twice")

	round.Results[1] = wire.RoundResult{Test: stops, Outcome: dossier.Fail, Note: "plays on"}
	made, err := petri.RecordRound(ctx, "H-0701", round)
	require.NoError(t, err)
	require.Len(t, made.Attempts, 2)
	assert.Equal(t, []dossier.Outcome{dossier.Pass, dossier.Fail}, []dossier.Outcome{made.Attempts[0].Attempt.Outcome, made.Attempts[1].Attempt.Outcome})
	assert.Equal(t, []any{"evening", "plays on", plan.Revision, dossier.ByEye}, []any{made.Attempts[1].Attempt.Conditions, made.Attempts[1].Attempt.Note, made.Attempts[1].Attempt.AsOf, made.Attempts[1].Attempt.How})
	assert.Equal(t, proving.Failed, made.Attempts[1].Test.Status)

	_, err = s.as["aino"].Undo(ctx, "H-0701", made.Revision, 0)
	refusedAs(t, err, "not-undoable")
	_, err = petri.Undo(ctx, "H-0701", made.Revision, 0)
	require.NoError(t, err)
	assert.Equal(t, proving.Untried, s.test("H-0701", plays).Status)
	assert.Empty(t, s.dossier("H-0701").Attempts)

	round.At = time.Now().Add(time.Hour)
	_, err = petri.RecordRound(ctx, "H-0701", round)
	refusedAs(t, err, "attempt-in-future")
}

// A round that is sent twice under one key is recorded once, and answered alike.
func TestARoundThatIsSentTwiceIsRecordedOnce(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	round := wire.NewRound{At: time.Now().Add(-time.Minute).UTC().Truncate(time.Second), Results: []wire.RoundResult{{Test: testID("plays", ids), Outcome: dossier.Pass}, {Test: testID("stops", ids), Outcome: dossier.Pass}}}
	var answers [2]wire.RoundMade
	for i := range answers {
		_, err := s.as["petri"].Do(t.Context(), http.MethodPost, "/households/H-0701/attempts/round", map[string]string{"Idempotency-Key": "one-round"}, round, &answers[i])
		require.NoError(t, err)
	}
	assert.Equal(t, answers[0], answers[1])
	assert.Len(t, s.dossier("H-0701").Attempts, 2)
}

// A room's card says how to watch there and what is proven of that, of this room alone.
func TestARoomsCard(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	s.set("H-0701", "device", ids["device"], wire.Record{"room": ids["room"], "roles": []string{"screen"}})
	card, err := petri.RoomCard(ctx, "H-0701", ids["room"])
	require.NoError(t, err)
	require.Len(t, card.Watch, 1)
	assert.Equal(t, []any{"Films", "Not tried yet.", 0}, []any{card.Watch[0].What, card.Watch[0].Said, card.Watch[0].Proven})
	assert.Positive(t, card.Watch[0].Required)
	s.pass("H-0701", testID("plays", ids), 0)
	card, err = petri.RoomCard(ctx, "H-0701", ids["room"])
	require.NoError(t, err)
	assert.Equal(t, 1, card.Watch[0].Proven)
	require.NotNil(t, card.Watch[0].Last)
	_, err = petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "hum", Subjects: []dossier.Ref{{Kind: "device", ID: ids["device"]}}})
	require.NoError(t, err)
	other, err := petri.Add(ctx, "H-0701", dossier.KindNamed("room"), wire.Record{"name": "attic"})
	require.NoError(t, err)
	card, err = petri.RoomCard(ctx, "H-0701", ids["room"])
	require.NoError(t, err)
	assert.Len(t, card.Open, 1)
	card, err = petri.RoomCard(ctx, "H-0701", other["id"].(string))
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0, 0}, []int{len(card.Watch), len(card.Devices), len(card.Open)})
	_, err = petri.RoomCard(ctx, "H-0701", ids["device"])
	refusedAs(t, err, "no-such-record")
}
