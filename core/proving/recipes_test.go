package proving_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
	"kaiku/homes"
)

// A step is set only while the value stands there, somebody looked, and nothing was reset since; and
// steps that are all set meet their prerequisite until then.
func TestRecipeStepsAreSetAsLongAsTheyAre(t *testing.T) {
	d := homes.Small().Clone()
	server := d.Devices[0]
	d.Devices[0].Make, d.Devices[0].Model = "Tuulkivi", "TK-4"
	program := dossier.Software{Device: server.ID, Name: "Ahtola", Does: dossier.SoftwareServer}
	program.ID = homes.ID[dossier.Software](1)
	d.Software.Put(program)
	recipes := []knowledge.Recipe{
		{Name: "program", Software: " ahtola", Steps: []knowledge.Step{{Setting: "Start", Value: "on", For: "server-software-runs"}}},
		{Name: "other make", Make: "Norrvik", Model: "TK-4", Steps: []knowledge.Step{{Setting: "Sleep", Value: "never"}}},
		{Name: "any make", Model: "tk-4", Steps: []knowledge.Step{{Setting: "Sleep", Value: "never", For: "server-software-runs"}}},
	}
	look := func() ([]proving.RecipeStep, proving.Prerequisite) {
		plan := proving.NewPlan(d.Index())
		steps := plan.RecipeSteps(recipes)
		for _, p := range proving.Prerequisites(d.Index(), nil, steps) {
			if p.Need.What == "server-software-runs" {
				return steps, p
			}
		}
		require.Fail(t, "no such prerequisite")
		return nil, proving.Prerequisite{}
	}
	steps, need := look()
	require.Len(t, steps, 2, "a recipe of another make is not for this device")
	assert.Equal(t, program.ID.Ref(), steps[0].Subject)
	assert.Len(t, need.Steps, 2)
	assert.False(t, need.Met())

	set := func(n int, subject dossier.Ref, name, value string, at time.Time) {
		s := dossier.Setting{Subject: subject, Name: name, Value: value, ConfirmedAt: at}
		s.ID = homes.ID[dossier.Setting](n)
		d.Settings.Put(s)
	}
	set(1, program.ID.Ref(), "start", "ON", time.Time{})
	steps, _ = look()
	assert.False(t, steps[0].Set, "nobody looked")
	set(1, program.ID.Ref(), "start", "ON", homes.Day)
	set(2, server.ID.Ref(), "Sleep", "after an hour", homes.Day)
	steps, need = look()
	assert.True(t, steps[0].Set)
	assert.False(t, steps[1].Set)
	assert.Equal(t, "after an hour", steps[1].Found)
	assert.False(t, need.Met(), "not all steps are set")
	set(2, server.ID.Ref(), "Sleep", "never", homes.Day)
	_, need = look()
	assert.True(t, need.Met())

	c := dossier.Change{Device: server.ID, What: "reset", Effect: dossier.EffectReset, At: homes.Day.Add(time.Hour)}
	c.ID = homes.ID[dossier.Change](77)
	d.Changes.Put(c)
	steps, need = look()
	assert.False(t, steps[0].Set || steps[1].Set || need.Met(), "a reset takes it all back")
}

// A tick that is older than a reset of its device no longer counts.
func TestAResetTakesTicksBack(t *testing.T) {
	d := homes.Small().Clone()
	tick := dossier.Prerequisite{Subject: d.Devices[0].ID.Ref(), Side: dossier.SideServer, What: "server-software-runs", DoneBy: homes.Person, DoneAt: homes.Day}
	tick.ID = homes.ID[dossier.Prerequisite](50)
	d.Prerequisites = dossier.Records[dossier.Prerequisite]{tick}
	met := func() proving.Prerequisite {
		for _, p := range proving.Prerequisites(d.Index(), nil, nil) {
			if p.Need.What == tick.What {
				return p
			}
		}
		return proving.Prerequisite{}
	}
	assert.True(t, met().Met())
	c := dossier.Change{Device: d.Devices[0].ID, What: "reset", Effect: dossier.EffectReset, At: homes.Day.Add(time.Hour)}
	c.ID = homes.ID[dossier.Change](77)
	d.Changes.Put(c)
	assert.False(t, met().Met())
	assert.True(t, met().Reset)
}
