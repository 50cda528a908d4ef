package custody_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/wording"
)

func TestDeparture(t *testing.T) {
	d := homes.Small().Clone()
	homes.PutIn(d, 0, dossier.Change{Device: d.Devices[0].ID, What: "new folder", FollowUps: []dossier.FollowUp{dossier.FollowUpRestart, dossier.FollowUpIndex}, Done: []dossier.FollowUp{dossier.FollowUpRestart}})
	homes.PutIn(d, 0, dossier.LongTask{What: "first index", ExpectedAt: homes.Day.Add(8 * time.Hour)})
	homes.PutIn(d, 2, dossier.LongTask{What: proving.SamplesIn + "/mnt/films", ExpectedAt: homes.Day})
	homes.PutIn(d, 1, dossier.LongTask{What: "ended", ExpectedAt: homes.Day, EndedAt: homes.Day})
	homes.PutIn(d, 0, dossier.Opening{Device: d.Devices[0].ID, Transport: dossier.TCP, Port: 22, State: dossier.OpeningOpen, Temporary: dossier.Yes})
	homes.PutIn(d, 0, dossier.Account{Name: "administrator"})
	homes.PutIn(d, 0, dossier.Visit{Purpose: "set it up", Starts: homes.Day.Add(-2 * time.Hour)})
	d.Interfaces[1].Addresses = d.Interfaces[0].Addresses
	var said []string
	for _, o := range custody.Departure(state(d), homes.Day) {
		said = append(said, wording.Departure(o))
	}
	assert.Equal(t, []string{
		"4 tests required but not tried yet.",
		"\"new folder\" on granite server has a follow-up to do: index again.",
		"First index will run until about 2 Mar 17:30. Decide who checks it.",
		"Sample clips still lie in /mnt/films. Take them out with kaiku reel collect.",
		"Port 22 of granite server was opened only for the work. Close it.",
		"No secret is stored for the account administrator.",
		"The visit \"set it up\" has no outcome yet. Record what was done and what was left.",
		"1 blocker found by automatic checks.",
		"The survey still has 17 gaps.",
	}, said)
}

// What is settled is not named.
func TestDepartureNamesNothingThatIsSettled(t *testing.T) {
	codes := func(change func(*dossier.Dossier)) map[string]bool {
		d := homes.Small().Clone()
		change(d)
		out := map[string]bool{}
		for _, o := range custody.Departure(state(d), homes.Day) {
			out[o.Code] = true
		}
		return out
	}
	plain := codes(func(*dossier.Dossier) {})
	assert.False(t, plain["blockers"])
	assert.False(t, plain["tests-failed"])
	assert.True(t, plain["survey-missing"])
	walked := state(homes.Small())
	walked.Walk = nil
	assert.False(t, slices.ContainsFunc(custody.Departure(walked, homes.Day), func(r network.Remark) bool { return r.Code == "survey-missing" }))
	withSecret := codes(func(d *dossier.Dossier) {
		homes.PutIn(d, 1, dossier.Secret{Name: "log-in"})
		homes.PutIn(d, 1, dossier.Account{Name: "keeper", Secret: d.Secrets[0].ID})
	})
	assert.False(t, withSecret["secret-missing"])
	for starts, want := range map[time.Duration]bool{-time.Minute: true, time.Minute: false} {
		got := codes(func(d *dossier.Dossier) {
			homes.PutIn(d, 1, dossier.Visit{Purpose: "look", Starts: homes.Day.Add(starts)})
		})
		assert.Equal(t, want, got["outcome-missing"], "a visit that began at %s", starts)
	}
}

// Whatever is recorded, all that is outstanding has words.
func TestDepartureHasWords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		for _, o := range custody.Departure(state(homes.Draw(t)), homes.Day) {
			assert.NotEmpty(t, wording.Departures[o.Code], o.Code)
		}
	})
}
