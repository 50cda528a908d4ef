package httpapi_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/suspects"
	"kaiku/httpapi"
	"kaiku/wire"
)

// The firm adds fault modes of its own and changes those that came; what makes nonsense is refused whole, and every change is kept.
func TestTheFirmChangesItsFaultModes(t *testing.T) {
	s := newSite(t, nil)
	ctx, aino, petri := t.Context(), s.as["aino"], s.as["petri"]
	body, err := petri.ExportFaults(ctx)
	require.NoError(t, err)
	same, err := petri.ImportFaults(ctx, body, true)
	require.NoError(t, err)
	assert.Empty(t, same, "what leaves is what may come")
	own := `{"format": "kaiku-faults/1", "questions": [{"id": "gulls", "text": "Do gulls sit on the aerial?", "yes": 0.2, "reliable": 0.9}], "modes": [
		{"id": "gulls-on-aerial", "at": "source", "title": "Gulls sit on the aerial", "odds": 3, "fails": [{"tests": ["live-channel"], "chance": 0.6}], "answers": {"gulls": 0.9},
		"look": {"text": "Look up.", "minutes": 1, "by": "caller"}, "remedy": "Fit a spike.", "minutes": 20, "source": "twelve calls of 2026"}]}`
	_, err = petri.ImportFaults(ctx, []byte(own), false)
	require.ErrorContains(t, err, "lead technician", "a technician may not")
	changes, err := aino.ImportFaults(ctx, []byte(own), false)
	require.NoError(t, err)
	require.Len(t, changes, 2)
	f := func() *suspects.Faults {
		b, err := petri.ExportFaults(ctx)
		require.NoError(t, err)
		out, err := suspects.Read(b)
		require.NoError(t, err)
		return out
	}
	assert.True(t, f().Known("gulls"))
	assert.Len(t, f().Modes, len(suspects.Shipped().Modes)+1)
	for name, bad := range map[string]string{
		"no JSON": "gulls", "another form": `{"format": "kaiku-knowledge/1"}`, "a member that is none": `{"format": "kaiku-faults/1", "loop": 1}`,
		"an unknown question": `{"format": "kaiku-faults/1", "questions": [], "modes": [{"id": "x", "at": "source", "title": "X", "odds": 3, "fails": [{"tests": ["plays"], "chance": 0.6}], "answers": {"ghost": 0.9}, "look": {"text": "Look.", "minutes": 1, "by": "caller"}, "remedy": "R.", "minutes": 1, "source": "judgement"}]}`,
		"a certain failure":   `{"format": "kaiku-faults/1", "questions": [], "modes": [{"id": "x", "at": "source", "title": "X", "odds": 3, "fails": [{"tests": ["plays"], "chance": 1}], "look": {"text": "Look.", "minutes": 1, "by": "caller"}, "remedy": "R.", "minutes": 1, "source": "judgement"}]}`,
	} {
		_, err := aino.ImportFaults(ctx, []byte(bad), false)
		require.ErrorContains(t, err, "cannot be used", name)
	}
	assert.Len(t, f().Modes, len(suspects.Shipped().Modes)+1)
	edits, err := petri.KnowledgeChanges(ctx)
	require.NoError(t, err)
	assert.Len(t, edits, 2)
	require.NoError(t, aino.RemoveFault(ctx, "gulls-on-aerial"))
	require.ErrorContains(t, aino.RemoveFault(ctx, "gulls-on-aerial"), "of its own")
	require.ErrorContains(t, aino.RemoveFault(ctx, suspects.Shipped().Modes[0].ID), "of its own")
	assert.Len(t, f().Modes, len(suspects.Shipped().Modes))
}

func TestFilesOfFaultsKeepTheirSchema(t *testing.T) {
	_, schema := httpapi.FaultsSchema()
	keepsSchema(t, "../docs/kaiku-faults-1.schema.json", schema)
}

// What the caller says is evidence from the moment at which it is noted, can be said anew and taken back, and what follows from it is the answer.
func TestWhatTheCallerSaysIsEvidence(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	none, err := petri.Suspects(ctx, "H-0701", "")
	require.NoError(t, err)
	assert.Empty(t, none.Suspects, "nothing is known to fail")
	assert.Contains(t, none.Sentence, "Nothing is known to fail")
	assert.NotEmpty(t, none.Complaints)

	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "the list is empty"})
	require.NoError(t, err)
	id := string(issue.Record.ID)
	path := dossier.Ref{Kind: "path", ID: ids["path"]}
	say := func(in wire.IssueAnswer) wire.Suspects {
		t.Helper()
		out, err := petri.AnswerIssue(ctx, "H-0701", id, in)
		require.NoError(t, err)
		return out
	}
	after := say(wire.IssueAnswer{Question: "not-listed", About: path, Said: dossier.Yes})
	require.NotEmpty(t, after.Suspects)
	assert.Equal(t, 1, after.Failures)
	assert.Contains(t, after.Suspects[0].For[0], "The caller says")
	assert.False(t, after.Sure, "one complaint is not enough to act on")
	for _, x := range after.Steps {
		assert.NotEmpty(t, x.Sentence)
		assert.Positive(t, x.Bits)
	}

	// A look that shows it is enough; one that does not makes it unlikely, and is not proposed again.
	first := after.Suspects[0]
	look := wire.IssueAnswer{Question: suspects.LookAt + first.Mode, About: first.About.Ref, Said: dossier.Yes}
	seen := say(look)
	assert.Equal(t, first.Mode, seen.Suspects[0].Mode)
	assert.Greater(t, seen.Suspects[0].Probability, first.Probability)
	look.Said = dossier.No
	seen = say(look)
	for _, one := range seen.Suspects {
		if one.Mode == first.Mode && one.About.Ref == first.About.Ref {
			assert.Less(t, one.Probability, first.Probability)
		}
	}
	for _, x := range seen.Steps {
		assert.False(t, x.Mode == first.Mode && x.About.Ref == first.About.Ref, "it was looked at")
	}
	require.Len(t, seen.Answers, 2, "what was said anew took the place of what was said before")
	look.TakenBack = true
	back := say(look)
	assert.Equal(t, after.Suspects[0].Probability, back.Suspects[0].Probability)
	say(wire.IssueAnswer{Question: "restart-helps", Said: dossier.Yes, About: path})
	now, err := petri.Issue(ctx, "H-0701", id)
	require.NoError(t, err)
	require.Len(t, now.Record.Answers, 2)
	assert.Equal(t, dossier.Ref{}, now.Record.Answers[1].About, "the question is about the home")

	for name, in := range map[string]wire.IssueAnswer{
		"no such question": {Question: "colour", Said: dossier.Yes}, "no path": {Question: "not-listed", Said: dossier.Yes},
		"not a path": {Question: "stalls", Said: dossier.Yes, About: dossier.Ref{Kind: "device", ID: ids["device"]}}, "no such mode": {Question: "look:ghost", Said: dossier.Yes, About: path},
		"nothing there": {Question: "look:server-off", Said: dossier.Yes, About: dossier.Ref{Kind: "device", ID: "01890000-0000-7000-8000-00000000ffff"}},
		"no answer":     {Question: "hot", Said: "perhaps"},
	} {
		_, err := petri.AnswerIssue(ctx, "H-0701", id, in)
		require.ErrorAs(t, err, new(*wire.Problem), name)
	}
	_, err = petri.StepIssue(ctx, "H-0701", id, "close", wire.IssueStep{Why: "gone"})
	require.NoError(t, err)
	_, err = petri.AnswerIssue(ctx, "H-0701", id, wire.IssueAnswer{Question: "hot", Said: dossier.Yes})
	require.ErrorContains(t, err, "closed")
	_, err = petri.Suspects(ctx, "H-0701", "01890000-0000-7000-8000-00000000ffff")
	require.ErrorContains(t, err, "no issue")
}

// What it was is recorded with the remedy, is said at the issue, and counts among what keeps coming back.
func TestWhatWasFoundTeachesTheNextHome(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	s.set("H-0701", "device", ids["server"], wire.Record{"make": "Tuulkivi", "model": "TK-4"})
	none, err := petri.Recurring(ctx)
	require.NoError(t, err)
	assert.Empty(t, none)
	server := dossier.Ref{Kind: "device", ID: ids["server"]}
	for range 3 {
		issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "nothing plays"})
		require.NoError(t, err)
		id := string(issue.Record.ID)
		_, err = petri.StepIssue(ctx, "H-0701", id, "remedy", wire.IssueStep{Remedy: "restarted", Fault: "ghost", FaultAt: server})
		require.ErrorContains(t, err, "no fault mode ghost")
		_, err = petri.StepIssue(ctx, "H-0701", id, "remedy", wire.IssueStep{Remedy: "restarted", Fault: "server-hangs"})
		require.ErrorContains(t, err, "required", "where it was is missing")
		now, err := petri.StepIssue(ctx, "H-0701", id, "remedy", wire.IssueStep{Remedy: "restarted", Fault: "server-hangs", FaultAt: server})
		require.NoError(t, err)
		assert.Contains(t, now.Fault, "answers nothing, at ")
	}
	lines, err := petri.Recurring(ctx)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Equal(t, []any{"Tuulkivi TK-4", 3, 1, false}, []any{lines[0].What, lines[0].Faults, lines[0].Homes, lines[0].Enough})
	assert.Contains(t, lines[0].Sentence, "too little to tell a rate")
	assert.Contains(t, lines[0].Modes[0], "(3 times)")

	// Opened again, it is not known any more what it was.
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	again, err := petri.StepIssue(ctx, "H-0701", string(d.Issues[0].ID), "reopen", wire.IssueStep{Why: "again"})
	require.NoError(t, err)
	assert.Empty(t, again.Fault)
}
