package wording

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// What a card says to the customer is never better than what is proven.
func TestWhatACardSaysOfProof(t *testing.T) {
	for _, c := range []struct {
		worst            proving.Status
		proven, required int
		blocked          bool
		want             string
	}{
		{proving.Proven, 3, 3, false, "Seen to work."},
		{proving.Proven, 3, 3, true, "Does not work the way things are set up now."},
		{proving.Marginal, 2, 3, false, "Seen to work in part: 2 of 3 required tests are proven."},
		{proving.Untried, 0, 3, false, "Not tried yet."},
		{proving.Untried, 1, 3, false, "Seen to work in part: 1 of 3 required tests are proven."},
		{proving.Stale, 2, 3, false, "Was seen to work, but something has changed since: 2 of 3 required tests still hold."},
		{proving.InDoubt, 0, 1, false, "Was seen to work, but something has changed since: 0 of 1 required tests still hold."},
		{proving.Failed, 2, 3, true, "Does not work as it should: sound."},
		{proving.Waived, 0, 0, false, "Nothing has to be proven of it."},
	} {
		assert.Equal(t, c.want, RoomProof(c.worst, c.proven, c.required, []string{"Sound"}, c.blocked))
	}
}

// Every kind of path has words for how to watch by it, which name the device.
func TestHowToWatchByEveryKindOfPath(t *testing.T) {
	said := map[string]bool{}
	for _, k := range dossier.PathKind("").Values() {
		s := HowToWatch(dossier.Path{Kind: dossier.PathKind(k), StartedBy: "Petri"}, "the screen", "Granite", "")
		assert.Contains(t, s, "the screen", k)
		assert.False(t, said[s], k)
		said[s] = true
	}
	assert.Equal(t, "On the tablet, choose a title and let the screen play it.", HowToWatch(dossier.Path{Kind: dossier.AVPush}, "the screen", "", "the tablet"))
	assert.Equal(t, "On the screen, open the list of media servers.", HowToWatch(dossier.Path{Kind: dossier.AVPull}, "the screen", "", ""))
}

// Gear that nobody uses by hand is not said to be used.
func TestWhatADeviceIsUsedFor(t *testing.T) {
	assert.Equal(t, "screen and player", UsedAs([]dossier.Role{dossier.RoleScreen, dossier.RoleRenderer, dossier.RolePlayer}))
	assert.Empty(t, UsedAs([]dossier.Role{dossier.RoleRouter, dossier.RoleSwitch}))
}
