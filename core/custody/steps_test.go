package custody_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/homes"
)

func withHandover(state dossier.HandoverState) *dossier.Dossier {
	d := homes.Small().Clone()
	homes.PutIn(d, 1, dossier.Handover{From: homes.Person, To: "other", State: state, Points: []dossier.Point{{ID: "p001", Code: "issue-open"}, {ID: "p002", Code: "finding"}}})
	return d
}

func take(t *testing.T, d *dossier.Dossier, name string, in custody.Given) error {
	step, known := custody.FindStep(name)
	require.True(t, known, name)
	return step.Take(d, d.Handovers.Find(homes.ID[dossier.Handover](1)), in)
}

// Each step is taken from the states it names and refused from all others.
func TestStepsOfAHandoverAndStates(t *testing.T) {
	given := custody.Given{At: homes.Day, Points: []string{"p001", "p002"}, Question: "who?", Answer: "she", Why: "asked"}
	for _, step := range custody.Steps {
		for _, state := range dossier.HandoverState("").Values() {
			d := withHandover(dossier.HandoverState(state))
			if step.Name == "accept" {
				d.Handovers[0].Points = nil
			}
			err := take(t, d, step.Name, given)
			if slices.Contains(step.From, dossier.HandoverState(state)) {
				assert.NoError(t, err, "%s from %s", step.Name, state)
				continue
			}
			var wrong *dossier.WrongState
			require.ErrorAs(t, err, &wrong, "%s from %s", step.Name, state)
		}
	}
	_, known := custody.FindStep("vanish")
	assert.False(t, known)
}

func refused(t *testing.T, err error, code string) {
	t.Helper()
	var no *dossier.Refusal
	require.ErrorAs(t, err, &no)
	assert.Equal(t, code, no.Code)
}

// Custody moves when every point is read back, and not before; the giver's open issues go with it.
func TestAcceptingMovesCustodyOnceAllIsReadBack(t *testing.T) {
	d := withHandover(dossier.Offered)
	homes.PutIn(d, 1, dossier.Issue{Symptom: "stutters", State: dossier.IssueInHand, Owner: homes.Person})
	homes.PutIn(d, 2, dossier.Issue{Symptom: "old", State: dossier.IssueClosed, Owner: homes.Person})
	homes.PutIn(d, 3, dossier.Issue{Symptom: "of a third", State: dossier.IssueInHand, Owner: "third"})
	refused(t, take(t, d, "accept", custody.Given{At: homes.Day}), "points-open")
	require.NoError(t, take(t, d, "confirm", custody.Given{Points: []string{"p001"}}))
	refused(t, take(t, d, "accept", custody.Given{At: homes.Day}), "points-open")
	assert.Equal(t, homes.Person, d.Home().Custodian)
	require.NoError(t, take(t, d, "confirm", custody.Given{Points: []string{"p002"}}))
	require.NoError(t, take(t, d, "accept", custody.Given{At: homes.Day}))
	assert.Equal(t, dossier.PersonID("other"), d.Home().Custodian)
	assert.Equal(t, []dossier.PersonID{"other", homes.Person, "third"}, []dossier.PersonID{d.Issues[0].Owner, d.Issues[1].Owner, d.Issues[2].Owner})
	assert.Equal(t, homes.Day, d.Handovers[0].EndedAt)
}

func TestAQuestionTakesTheReadingBackAndReturnsTheHandover(t *testing.T) {
	d := withHandover(dossier.Offered)
	refused(t, take(t, d, "return", custody.Given{At: homes.Day}), "nothing-asked")
	require.NoError(t, take(t, d, "confirm", custody.Given{Points: []string{"p001", "p002"}}))
	require.NoError(t, take(t, d, "ask", custody.Given{Points: []string{"p002"}, Question: "where?"}))
	assert.True(t, d.Handovers[0].Points[0].Confirmed)
	assert.False(t, d.Handovers[0].Points[1].Confirmed)
	require.NoError(t, take(t, d, "return", custody.Given{At: homes.Day}))
	require.NoError(t, take(t, d, "answer", custody.Given{Points: []string{"p002"}, Answer: "behind it"}))
	told := custody.Told{Since: 3, Until: 9, Points: []dossier.Point{{ID: "p001", Code: "finding"}, {ID: "p002", Code: "hands-off"}}}
	require.NoError(t, take(t, d, "offer", custody.Given{At: homes.Day, Told: told}))
	assert.Equal(t, "behind it", d.Handovers[0].Points[0].Answer, "the answer stays with what it is about")
	assert.Empty(t, d.Handovers[0].Points[1].Answer)
	assert.Equal(t, []uint64{3, 9}, []uint64{d.Handovers[0].SinceRevision, d.Handovers[0].UntilRevision})
	require.NoError(t, take(t, d, "return", custody.Given{At: homes.Day, Why: "not now"}), "a word is enough where nothing was asked")
}

func TestOnlyTheCustodianOffersAndOneAtATime(t *testing.T) {
	d := withHandover(dossier.Drafted)
	d.Household[0].Custodian = "third"
	refused(t, take(t, d, "offer", custody.Given{At: homes.Day}), "not-the-custodian")
	d = withHandover(dossier.Offered)
	_, err := custody.Draft(d, "third", custody.Told{}, homes.Day)
	refused(t, err, "handover-on-offer")
	d = withHandover(dossier.Returned)
	h, err := custody.Draft(d, "third", custody.Told{Since: 2, Until: 5}, homes.Day)
	require.NoError(t, err)
	assert.Equal(t, dossier.Drafted, h.State)
	assert.Equal(t, homes.Person, h.From)
	held := withHandover(dossier.Drafted)
	homes.PutIn(held, 1, dossier.Issue{Symptom: "stutters", State: dossier.IssueInHand})
	var gates custody.Closed
	require.ErrorAs(t, take(t, held, "offer", custody.Given{At: homes.Day}), &gates)
	assert.Len(t, gates, 1)
}
