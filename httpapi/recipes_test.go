package httpapi_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

const firmRecipes = `format: kaiku-recipes/1
recipes:
  - name: on a server
    software: Ahtola
    steps:
      - {menu: Service, setting: Start with the machine, value: "on", why: nobody logs in, for: starts-with-machine}
`

func TestARecipeFromTheFileToTheHome(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	petri, aino := s.as["petri"], s.as["aino"]
	ctx := t.Context()

	_, err := petri.ImportRecipes(ctx, []byte(firmRecipes))
	assert.True(t, client.IsProblem(err, "not-allowed"), err)
	_, err = aino.ImportRecipes(ctx, []byte("format: other"))
	assert.True(t, client.IsProblem(err, "recipes-not-readable"), err)
	_, err = aino.ImportRecipes(ctx, []byte(firmRecipes+"  - {name: bad, software: x, steps: [{setting: a, value: b, for: nothing-known}]}\n"))
	require.True(t, client.IsProblem(err, "not-valid"), err)
	assert.Contains(t, err.Error(), "nothing-known")
	all, err := petri.Recipes(ctx)
	require.NoError(t, err)
	assert.Empty(t, all, "all or none")

	_, err = aino.ImportRecipes(ctx, []byte(firmRecipes))
	require.NoError(t, err)
	all, err = aino.ImportRecipes(ctx, []byte(firmRecipes))
	require.NoError(t, err)
	assert.Len(t, all, 1, "one of the same name takes the place of the older")
	file, err := petri.ExportRecipes(ctx, []string{"ON A SERVER"})
	require.NoError(t, err)
	assert.Contains(t, string(file), "Start with the machine")
	_, err = petri.ExportRecipes(ctx, []string{"another"})
	assert.True(t, client.IsProblem(err, "no-such-recipe"), err)

	steps, err := petri.RecipeSteps(ctx, "H-0701")
	require.NoError(t, err)
	assert.Empty(t, steps, "nothing there that it is for")
	program, err := petri.Add(ctx, "H-0701", dossier.KindNamed("software"), wire.Record{"device": ids["server"], "name": "Ahtola", "does": "media-server"})
	require.NoError(t, err)
	steps, err = petri.RecipeSteps(ctx, "H-0701")
	require.NoError(t, err)
	require.Len(t, steps, 1)
	assert.False(t, steps[0].Set)
	at := dossier.Ref{Kind: "software", ID: program["id"].(string)}
	_, err = petri.SetRecipeStep(ctx, "H-0701", wire.SetRecipeStep{Recipe: "on a server", Setting: "Sleep", Subject: at})
	assert.True(t, client.IsProblem(err, "no-such-step"), err)
	steps, err = petri.SetRecipeStep(ctx, "H-0701", wire.SetRecipeStep{Recipe: "on a server", Setting: "Start with the machine", Subject: at})
	require.NoError(t, err)
	assert.True(t, steps[0].Set)
	settings, err := petri.List(ctx, "H-0701", dossier.KindNamed("setting"))
	require.NoError(t, err)
	require.Len(t, settings, 1)
	assert.Equal(t, "nobody logs in", settings[0]["why"])
	require.NoError(t, aino.RemoveRecipe(ctx, "on a server"))
	steps, err = petri.RecipeSteps(ctx, "H-0701")
	require.NoError(t, err)
	assert.Empty(t, steps)
	settings, err = petri.List(ctx, "H-0701", dossier.KindNamed("setting"))
	require.NoError(t, err)
	assert.Len(t, settings, 1, "what was set stays")
}

// The password is in the code alone, and whoever lets it be shown stands in the journal.
func TestTheEntryCardAndTheWiFiCode(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	petri := s.as["petri"]
	ctx := t.Context()
	card, err := petri.EntryCard(ctx, "H-0701", ids["path"])
	require.NoError(t, err)
	require.NotEmpty(t, card.Lines)
	for _, l := range card.Lines {
		assert.NotEmpty(t, l.Title)
	}
	_, err = petri.WiFiCode(ctx, "H-0701", ids["segment"], "setting up the screen")
	assert.True(t, client.IsProblem(err, "no-wifi-password"), err)
	segment, tag, err := petri.Show(ctx, "H-0701", dossier.KindNamed("segment"), ids["segment"])
	require.NoError(t, err)
	_, err = petri.Set(ctx, "H-0701", dossier.KindNamed("segment"), segment["id"].(string), tag, wire.Record{"ssid": "Lamps"})
	require.NoError(t, err)
	made, err := petri.AddSecret(ctx, "H-0701", wire.NewSecret{Name: "Wi-Fi password", Kind: dossier.SecretPassword, Segment: dossier.ID[dossier.Segment](ids["segment"]), Body: "gulls-and-granite"})
	require.NoError(t, err)
	_, err = s.as["tilit"].WiFiCode(ctx, "H-0701", ids["segment"], "curious")
	assert.True(t, client.IsProblem(err, "not-allowed"), err)
	code, err := petri.WiFiCode(ctx, "H-0701", ids["segment"], "setting up the screen")
	require.NoError(t, err)
	assert.Equal(t, "Lamps", code.SSID)
	assert.NotEmpty(t, code.QR)
	entries, err := petri.Journal(ctx, "H-0701", map[string][]string{"record": {string(made.ID)}})
	require.NoError(t, err)
	assert.Equal(t, "setting up the screen", entries[0].Why)
}
