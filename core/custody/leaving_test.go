package custody_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/dossier/homes"
	"kaiku/wording"
)

func TestLeaving(t *testing.T) {
	d := homes.Small().Clone()
	homes.PutIn(d, 0, dossier.Change{Device: d.Devices[0].ID, What: "new folder", Owes: []dossier.Owed{dossier.OwesRestart, dossier.OwesIndex}, Done: []dossier.Owed{dossier.OwesRestart}})
	homes.PutIn(d, 0, dossier.Wait{What: "first index", ExpectedAt: homes.Day.Add(8 * time.Hour)})
	homes.PutIn(d, 1, dossier.Wait{What: "ended", ExpectedAt: homes.Day, EndedAt: homes.Day})
	homes.PutIn(d, 0, dossier.Opening{Device: d.Devices[0].ID, Transport: dossier.TCP, Port: 22, State: dossier.OpeningOpen, Temporary: dossier.Yes})
	homes.PutIn(d, 0, dossier.Account{Name: "administrator"})
	homes.PutIn(d, 0, dossier.Visit{Purpose: "set it up", Starts: homes.Day.Add(-2 * time.Hour)})
	d.Interfaces[1].Addresses = d.Interfaces[0].Addresses
	var said []string
	for _, o := range custody.Leaving(d, homes.Day) {
		said = append(said, wording.Leaving(o))
	}
	assert.Equal(t, []string{
		"Required and untried: 4.",
		"\"new folder\" on granite server still owes: index again.",
		"Runs until about 2 Mar 17:30: first index. Say who looks again.",
		"Port 22 of granite server was opened for the work only. Shut it.",
		"The account administrator has no secret in keeping.",
		"The visit \"set it up\" has no outcome yet. Write what was done and what was left.",
		"Blockers found by computation: 1.",
		"The survey misses: 17.",
	}, said)
}

// Whatever is recorded, all that is owed has words.
func TestLeavingHasWords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		for _, o := range custody.Leaving(homes.Draw(t), homes.Day) {
			assert.NotEmpty(t, wording.LeavingWords[o.Code], o.Code)
		}
	})
}
