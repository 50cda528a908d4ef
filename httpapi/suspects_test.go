package httpapi_test

import (
	"strings"
	"testing"
	"time"

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
	none, err := petri.Recurring(ctx, "", "")
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
	lines, err := petri.Recurring(ctx, "", "")
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Equal(t, []any{"Tuulkivi TK-4", 3, 1, false}, []any{lines[0].What, lines[0].Faults, lines[0].Homes, lines[0].Enough})
	assert.Contains(t, lines[0].Sentence, "too little to tell a rate")
	assert.Contains(t, lines[0].Modes[0], "(3 times)")

	// Also of this home, and of one of its devices; the other has nothing.
	for device, want := range map[string]int{"": 1, ids["server"]: 1, ids["device"]: 0} {
		lines, err := petri.Recurring(ctx, "H-0701", device)
		require.NoError(t, err)
		assert.Len(t, lines, want, device)
	}
	_, err = petri.Recurring(ctx, "H-0701", "01890000-0000-7000-8000-00000000ffff")
	require.ErrorContains(t, err, "no device")

	// Opened again, it is not known any more what it was.
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	again, err := petri.StepIssue(ctx, "H-0701", string(d.Issues[0].ID), "reopen", wire.IssueStep{Why: "again"})
	require.NoError(t, err)
	assert.Empty(t, again.Fault)
}

// An issue that its test has closed teaches how often its fault is; the lesson is explained, kept off by whoever may, and taken back by reopening.
func TestOddsAreLearned(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri, lead := t.Context(), s.as["petri"], s.as["aino"]
	server := dossier.Ref{Kind: "device", ID: ids["server"]}
	test := testID("plays", ids)
	closed := func(fault string) string {
		issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "nothing plays", Test: test})
		require.NoError(t, err)
		id := string(issue.Record.ID)
		_, err = petri.StepIssue(ctx, "H-0701", id, "remedy", wire.IssueStep{Remedy: "restarted", Fault: fault, FaultAt: server})
		require.NoError(t, err)
		return id
	}
	odds := func() map[string]wire.LearnedOdds {
		list, err := petri.LearnedOdds(ctx)
		require.NoError(t, err)
		out := map[string]wire.LearnedOdds{}
		for _, l := range list {
			out[l.Mode] = l
		}
		return out
	}
	id := closed("server-hangs")
	assert.Empty(t, odds(), "a remedy that nothing has proven teaches nothing")
	s.pass("H-0701", test, 0)
	now, err := petri.Issue(ctx, "H-0701", id)
	require.NoError(t, err)
	require.Equal(t, dossier.IssueClosed, now.Record.State)
	l := odds()["server-hangs"]
	assert.Equal(t, []any{1, 1, false, []wire.FoundHere{{Household: "H-0701", Issue: id}}}, []any{l.Found, l.Of, l.Kept, l.From})
	assert.Greater(t, l.Odds, l.Came)
	assert.Contains(t, l.Sentence, "1 of 1 fault at components of this kind")

	// Two more, and the fault is suspected more than before.
	for range 6 {
		closed("server-hangs")
	}
	s.pass("H-0701", test, 0)
	assert.Equal(t, 7, odds()["server-hangs"].Found)
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "nothing again"})
	require.NoError(t, err)
	p := func() float64 {
		got, err := petri.AnswerIssue(ctx, "H-0701", string(issue.Record.ID), wire.IssueAnswer{Question: "not-listed", Said: dossier.Yes, About: dossier.Ref{Kind: "path", ID: ids["path"]}})
		require.NoError(t, err)
		for _, one := range got.Suspects {
			if one.Mode == "server-hangs" {
				return one.Probability
			}
		}
		return 0
	}
	learned := p()
	require.ErrorContains(t, petri.KeepOdds(ctx, "server-hangs", true), "lead technicians and coordinators")
	require.ErrorContains(t, lead.KeepOdds(ctx, "ghost", true), "ghost")
	require.NoError(t, lead.KeepOdds(ctx, "server-hangs", true))
	require.NoError(t, lead.KeepOdds(ctx, "server-hangs", true), "twice is once")
	kept := odds()["server-hangs"]
	assert.True(t, kept.Kept)
	assert.Equal(t, kept.Came, kept.Odds)
	assert.Less(t, p(), learned)
	changes, err := lead.KnowledgeChanges(ctx)
	require.NoError(t, err)
	require.NotEmpty(t, changes)
	assert.Equal(t, "kept-odds", changes[0].Table, "the firm's journal has it")
	require.NoError(t, lead.KeepOdds(ctx, "server-hangs", false))
	assert.InDelta(t, learned, p(), .01)
	_, err = petri.StepIssue(ctx, "H-0701", id, "reopen", wire.IssueStep{Why: "it was something else"})
	require.NoError(t, err)
	assert.Equal(t, 6, odds()["server-hangs"].Found)
}

// One fault in several homes with one model is shown to the firm, with what to do in each, and who else has the model.
func TestOneFaultInSeveralHomes(t *testing.T) {
	s := newSite(t, nil)
	ctx, petri := t.Context(), s.as["petri"]
	none, err := petri.SharedFaults(ctx)
	require.NoError(t, err)
	assert.Empty(t, none)
	for n, code := range []string{"H-0701", "H-0702", "H-0703"} {
		ids := s.home(code)
		s.set(code, "device", ids["server"], wire.Record{"make": "Tuulkivi", "model": "TK-4", "firmware": []string{"7", "7", "6"}[n]})
		if n == 2 {
			continue
		}
		issue, err := petri.OpenIssue(ctx, code, wire.NewIssue{Symptom: "nothing plays"})
		require.NoError(t, err)
		_, err = petri.StepIssue(ctx, code, string(issue.Record.ID), "remedy", wire.IssueStep{Remedy: "older firmware", Fault: "server-crashes", FaultAt: dossier.Ref{Kind: "device", ID: ids["server"]}})
		require.NoError(t, err)
	}
	list, err := petri.SharedFaults(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	one := list[0]
	assert.Equal(t, []any{"server-crashes", "Tuulkivi TK-4 7", 2, 0}, []any{one.Mode, one.What, len(one.Homes), len(one.Besides)}, "the firmware that both have, and the third has not")
	assert.Equal(t, "H-0701", one.Homes[0].Household)
	assert.True(t, one.Homes[0].Found)
	assert.Equal(t, "Prove the remedy", one.Homes[0].Do)
	assert.Contains(t, one.Sentence, "2 of 2 homes")
	assert.NotEmpty(t, one.Remedy)

	// What was closed with a word was not proven.
	_, err = petri.StepIssue(ctx, "H-0701", string(one.Homes[0].Issue.ID), "close", wire.IssueStep{Why: "the customer says so"})
	require.NoError(t, err)
	list, err = petri.SharedFaults(ctx)
	require.NoError(t, err)
	assert.Contains(t, list[0].Homes[0].Do, "no test has proven the remedy")
}

// What was changed shortly before it began is proposed; who says that it came after that makes faults of it likelier.
func TestChangesBeforeAreProposed(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	s.set("H-0701", "source", ids["source"], wire.Record{"port": 9090})
	path := dossier.Ref{Kind: "path", ID: ids["path"]}
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "No server on the screen"})
	require.NoError(t, err)
	id := string(issue.Record.ID)
	say := func(in wire.IssueAnswer) wire.Suspects {
		out, err := petri.AnswerIssue(ctx, "H-0701", id, in)
		require.NoError(t, err)
		return out
	}
	before := say(wire.IssueAnswer{Question: "not-listed", About: path, Said: dossier.Yes})
	require.Len(t, before.Changes, 1)
	source := dossier.Ref{Kind: "source", ID: ids["source"]}
	assert.Equal(t, source, before.Changes[0].About.Ref)
	assert.Equal(t, "Petri Lokki", before.Changes[0].By)
	assert.Contains(t, strings.Join(before.Changes[0].What, " "), "9090")
	after := say(wire.IssueAnswer{Question: suspects.AfterThat, About: source, Said: dossier.Yes})
	told := 0
	for _, one := range after.Suspects {
		for _, line := range one.For {
			if strings.HasPrefix(line, "It began after ") {
				told++
			}
		}
	}
	assert.Positive(t, told)
	_, err = petri.AnswerIssue(ctx, "H-0701", id, wire.IssueAnswer{Question: suspects.AfterThat, Said: dossier.Yes})
	require.ErrorAs(t, err, new(*wire.Problem), "after the change of what?")
}

// What suspected faults ask for is on the list of the next visit, with the tests that prove the remedies, and can be ticked there.
func TestPartsOfSuspectsAreBrought(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	_, err := petri.Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "look", "starts": time.Now().Add(2 * time.Hour).Format(time.RFC3339), "technician": "petri"})
	require.NoError(t, err)
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "dark", Test: testID("plays", ids)})
	require.NoError(t, err)
	device := dossier.Ref{Kind: "device", ID: ids["device"]}
	for _, in := range []wire.IssueAnswer{{Question: "does-not-start", About: dossier.Ref{Kind: "path", ID: ids["path"]}, Said: dossier.Yes}, {Question: suspects.LookAt + "device-off", About: device, Said: dossier.Yes}} {
		_, err = petri.AnswerIssue(ctx, "H-0701", string(issue.Record.ID), in)
		require.NoError(t, err)
	}
	supply := func() wire.Supply {
		kit, err := petri.Kit(ctx, "H-0701")
		require.NoError(t, err)
		require.NotEmpty(t, kit.Proves)
		assert.Equal(t, testID("plays", ids), kit.Proves[0].ID)
		for _, one := range kit.Supplies {
			if one.What == "power supply of the device" {
				return one
			}
		}
		return wire.Supply{}
	}
	one := supply()
	assert.False(t, one.Ready)
	assert.Equal(t, []string{"a fault is suspected that would need it"}, one.Because)
	require.Len(t, one.About, 2)
	assert.Equal(t, []string{"issue", "device"}, []string{one.About[0].Kind, one.About[1].Kind})
	require.NoError(t, petri.SetReady(ctx, "H-0701", wire.SupplyReady{What: one.What, Ready: true}))
	assert.True(t, supply().Ready)
	_, err = petri.StepIssue(ctx, "H-0701", string(issue.Record.ID), "remedy", wire.IssueStep{Remedy: "plugged in"})
	require.NoError(t, err)
	assert.Equal(t, []string{"listed with the visit"}, supply().Because, "once it is remedied, only what was written remains")
}

// Two calls about one fault are one issue: what the second caller said counts with the first, and it can be taken apart again.
func TestTwoCallsAreOneIssue(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	open := func(symptom string) string {
		i, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: symptom})
		require.NoError(t, err)
		return string(i.Record.ID)
	}
	first, second := open("No list in the parlour"), open("Nothing plays upstairs")
	_, err := petri.AnswerIssue(ctx, "H-0701", second, wire.IssueAnswer{Question: "not-listed", About: dossier.Ref{Kind: "path", ID: ids["path"]}, Said: dossier.Yes})
	require.NoError(t, err)
	none, err := petri.Suspects(ctx, "H-0701", first)
	require.NoError(t, err)
	assert.Empty(t, none.Suspects)
	_, err = petri.StepIssue(ctx, "H-0701", second, "join", wire.IssueStep{})
	require.ErrorContains(t, err, "required")
	_, err = petri.StepIssue(ctx, "H-0701", second, "join", wire.IssueStep{With: dossier.ID[dossier.Issue](second)})
	require.ErrorContains(t, err, "joined only to another")
	joined, err := petri.StepIssue(ctx, "H-0701", second, "join", wire.IssueStep{With: dossier.ID[dossier.Issue](first)})
	require.NoError(t, err)
	assert.Equal(t, []any{dossier.IssueClosed, "No list in the parlour"}, []any{joined.Record.State, joined.SameAs.Label})
	whole, err := petri.Issue(ctx, "H-0701", first)
	require.NoError(t, err)
	require.Len(t, whole.Also, 1)
	assert.Equal(t, "Nothing plays upstairs", whole.Also[0].Label)
	both, err := petri.Suspects(ctx, "H-0701", first)
	require.NoError(t, err)
	assert.NotEmpty(t, both.Suspects, "what the second caller said counts")
	assert.Len(t, both.Answers, 1)
	_, err = petri.StepIssue(ctx, "H-0701", second, "reopen", wire.IssueStep{Why: "it is another"})
	require.NoError(t, err)
	whole, err = petri.Issue(ctx, "H-0701", first)
	require.NoError(t, err)
	assert.Empty(t, whole.Also)
}
