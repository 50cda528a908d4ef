package httpapi_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/httpapi"
	"kaiku/wire"
)

const firmSheets = `{"format": "kaiku-knowledge/1",
  "sheets": [{"make": "Norrvik", "model": "NV-40", "to": "22", "source": "data sheet, edition 2",
    "entries": [{"part": "container", "format": "mp4", "able": "yes"}, {"part": "video", "format": "h264", "profile": "high", "level": "4.1", "width": 1920, "height": 1080, "frameRate": 60, "interlaced": "yes", "able": "yes"}, {"part": "sound", "format": "aac-lc", "able": "yes"}]}],
  "releases": [{"software": "Ahtola", "newest": "3.1", "source": "its release notes"}, {"make": "Norrvik", "model": "NV-40", "newest": "23.1", "source": "support page", "asOf": "2026-11-02"}]}`

// One file of the firm counts in a home that nobody has touched: its forecast, its findings and its place in the lists.
func TestKnowledgeFromTheFileToEveryHome(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	petri, aino := s.as["petri"], s.as["aino"]
	ctx := t.Context()
	set := func(kind, id string, members wire.Record) {
		t.Helper()
		_, etag, err := petri.Show(ctx, "H-0701", dossier.KindNamed(kind), id)
		require.NoError(t, err)
		_, err = petri.Set(ctx, "H-0701", dossier.KindNamed(kind), id, etag, members)
		require.NoError(t, err)
	}
	set("device", ids["device"], wire.Record{"make": "Norrvik", "model": "NV-40", "firmware": "22"})
	set("folder", ids["folder"], wire.Record{"mix": []any{map[string]any{"container": "mp4", "video": "h264", "profile": "high", "level": "4", "width": 1920, "height": 1080, "frameRate": 25, "sound": "aac-lc", "channels": 2, "items": 4, "hours": 6}}})
	cell := func() wire.ForecastCell {
		t.Helper()
		f, err := petri.Forecast(ctx, "H-0701")
		require.NoError(t, err)
		for _, c := range f.Cells {
			if string(c.Folder) == ids["folder"] {
				return c
			}
		}
		require.Fail(t, "no cell")
		return wire.ForecastCell{}
	}
	assert.Equal(t, forecast.Unknown, cell().Grade)

	for body, says := range map[string]string{
		" ": "empty", "{": "line 1: the file ends in the middle", `{"format": "kaiku-knowledge/2"}`: `must say "format"`, `{"format": "kaiku-knowledge/1"}`: "neither sheets nor releases",
		"{\n\"sheet\": []}": `it says "sheet"`, "{\n\"sheets\": 5}": "line 2: sheets cannot be a number", firmSheets + "{}": "something follows", "format: x": "this is not JSON",
	} {
		_, err := aino.ImportKnowledge(ctx, []byte(body), false)
		require.True(t, client.IsProblem(err, "knowledge-not-readable"), "%q: %v", body, err)
		assert.Contains(t, err.Error(), says)
	}
	_, err := petri.ImportKnowledge(ctx, []byte(firmSheets), false)
	assert.True(t, client.IsProblem(err, "not-allowed"), err)
	twice := bytes.Replace([]byte(firmSheets), []byte(`"releases": [`), []byte(`"releases": [{"software": "AHTOLA", "newest": "3", "source": "x"}, {"newest": "1", "source": ""},`), 1)
	_, err = aino.ImportKnowledge(ctx, twice, false)
	require.True(t, client.IsProblem(err, "not-valid"), err)
	assert.Contains(t, err.Error(), "/releases/2/newest")
	assert.Contains(t, err.Error(), "/releases/1/source")

	would, err := petri.CompareKnowledge(ctx, []byte(firmSheets), false)
	require.NoError(t, err)
	require.Len(t, would, 3)
	assert.Equal(t, "Norrvik NV-40, firmware up to 22", would[0].About)
	assert.Contains(t, would[0].Arrived, "decodes H.264 high up to level 4.1, 1920x1080 at 60, interlaced")
	assert.Equal(t, forecast.Unknown, cell().Grade, "comparing stores nothing")

	done, err := aino.ImportKnowledge(ctx, []byte(firmSheets), false)
	require.NoError(t, err)
	assert.Equal(t, would, done)
	assert.Equal(t, forecast.Plays, cell().Grade)
	assert.Equal(t, dossier.EvidenceAssumed, cell().Evidence, "the sheet does not say all of it")
	again, err := aino.ImportKnowledge(ctx, []byte(firmSheets), false)
	require.NoError(t, err)
	assert.Empty(t, again)

	findings, err := petri.Findings(ctx, "H-0701")
	require.NoError(t, err)
	behind := ""
	for _, f := range findings {
		if f.Code == "behind" {
			behind = f.Sentence
		}
	}
	assert.Equal(t, "The firmware of screen is at version 22; 23.1 is newer, according to support page.", behind)
	require.Eventually(t, func() bool {
		homes, err := petri.Households(ctx, wire.HomesQuery{With: []string{"outdated"}})
		return err == nil && len(homes) == 1 && homes[0].Code == "H-0701"
	}, 10*time.Second, 5*time.Millisecond, "the lists follow")

	set("device", ids["device"], wire.Record{"firmware": "23"})
	assert.Equal(t, forecast.Unknown, cell().Grade, "the sheet holds up to firmware 22")

	// The file that leaves is the file that came, by its own schema, and the edits are kept with who made them.
	file, err := petri.ExportKnowledge(ctx)
	require.NoError(t, err)
	same, err := aino.CompareKnowledge(ctx, file, true)
	require.NoError(t, err)
	assert.Empty(t, same)
	smaller := bytes.Replace([]byte(firmSheets), []byte(`{"software": "Ahtola", "newest": "3.1", "source": "its release notes"}, `), nil, 1)
	gone, err := aino.ImportKnowledge(ctx, smaller, true)
	require.NoError(t, err)
	require.Len(t, gone, 1)
	assert.Equal(t, dossier.Removed, gone[0].Act)
	k, err := petri.Knowledge(ctx)
	require.NoError(t, err)
	require.Len(t, k.Sheets, 1)
	require.NoError(t, aino.RemoveKnowledge(ctx, k.Sheets[0].ID))
	err = aino.RemoveKnowledge(ctx, k.Sheets[0].ID)
	assert.True(t, client.IsProblem(err, "no-such-knowledge"), err)
	edits, err := petri.KnowledgeChanges(ctx)
	require.NoError(t, err)
	var acts []string
	for _, e := range edits {
		assert.Equal(t, "Aino Saarni", e.By)
		for _, c := range e.Changes {
			acts = append(acts, string(c.Act)+" "+c.About)
		}
	}
	assert.ElementsMatch(t, []string{"removed Norrvik NV-40, firmware up to 22", "removed Ahtola", "added Norrvik NV-40, firmware up to 22", "added Ahtola", "added Firmware of Norrvik NV-40"}, acts)
}

// keepsSchema holds a schema to the file in docs that it is written to; -update writes it anew.
func keepsSchema(t *testing.T, file string, schema map[string]any) {
	want, err := json.MarshalIndent(schema, "", "  ")
	require.NoError(t, err)
	want = append(want, '\n')
	if *update {
		require.NoError(t, os.WriteFile(file, want, 0o644))
	}
	got, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(want), string(got), "run go test ./httpapi -run %s -update", t.Name())
}

func TestFilesOfKnowledgeKeepTheirSchema(t *testing.T) {
	parts, schema := httpapi.KnowledgeSchema()
	keepsSchema(t, "../docs/kaiku-knowledge-1.schema.json", schema)
	faults := func(body string) int {
		var v any
		require.NoError(t, json.Unmarshal([]byte(body), &v))
		r := &huma.ValidateResult{}
		huma.Validate(parts, parts.SchemaFromRef(schema["$ref"].(string)), huma.NewPathBuffer(nil, 0), huma.ModeReadFromServer, v, r)
		return len(r.Errors)
	}
	assert.Zero(t, faults(firmSheets))
	assert.Positive(t, faults(`{"format": "kaiku-knowledge/1", "sheets": [{"model": "x", "source": "y", "entries": [{"part": "soul", "format": "mp4", "able": "yes"}]}]}`))
	assert.Positive(t, faults(`{"format": "kaiku-knowledge/1", "sheets": [{"model": "x", "entries": []}]}`), "a sheet needs its source")
}
