package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/views"
	"kaiku/wire"
)

func TestWhatTheFirmKnows(t *testing.T) {
	p := newProgram(t)
	p.office.known = knowledge.Knowledge{
		Sheets:   []knowledge.Sheet{{Model: knowledge.Model{Make: "Ruska", Model: "TV-40"}, From: "2", Source: "data sheet 3", Entries: []dossier.DecodingEntry{{Part: dossier.PartVideo, Format: "hevc", Able: dossier.No}}}},
		Releases: []knowledge.Release{{Software: "Ahtola", Newest: "3.1", Source: "release notes"}},
	}
	code, out, errs := p.run("knowledge")
	require.Equal(t, Done, code, errs)
	assert.Contains(t, out, "firmware 2 and")
	assert.Contains(t, out, "Newest: 3.1")
	id := views.KnowledgeID(p.office.known.Sheets[0])
	_, out, _ = p.run("knowledge", "show", id)
	assert.Contains(t, out, "does not decode HEVC")
	assert.Contains(t, out, "Source: data sheet 3")
	_, out, _ = p.run("knowledge", "show", views.KnowledgeID(p.office.known.Releases[0]))
	assert.Contains(t, out, "Newest: 3.1")
	code, _, errs = p.run("knowledge", "show", "nothing")
	assert.NotEqual(t, Done, code)
	assert.Contains(t, errs, "kaiku knowledge list")
	code, _, errs = p.run("knowledge", "import", filepath.Join(t.TempDir(), "nothing.json"))
	assert.NotEqual(t, Done, code)
	assert.Contains(t, errs, "nothing.json")
}

func TestTheChangesOfAFileAreShown(t *testing.T) {
	p := newProgram(t)
	file := filepath.Join(t.TempDir(), "sheets.json")
	require.NoError(t, os.WriteFile(file, []byte("{}"), 0o600))
	p.office.changes = []wire.KnowledgeChange{}
	code, out, errs := p.run("knowledge", "diff", file, "--check")
	assert.Equal(t, Done, code, errs)
	assert.Contains(t, out, "would change nothing")
	p.office.changes = []wire.KnowledgeChange{{Act: dossier.Changed, Table: "releases", About: "Ahtola", Gone: []string{"Newest: 3.0"}, Arrived: []string{"Newest: 3.1"}}}
	code, out, _ = p.run("knowledge", "diff", file, "--check", "--replace-all")
	assert.Equal(t, Attention, code)
	assert.Contains(t, out, "no longer: Newest: 3.0; now: Newest: 3.1")
	assert.Contains(t, out, "Nothing has been stored.")
	_, out, _ = p.run("knowledge", "import", file)
	assert.Contains(t, out, "Stored.")
	_, out, _ = p.run("knowledge", "import", file, "--json")
	var back []wire.KnowledgeChange
	require.NoError(t, json.Unmarshal([]byte(out), &back), out)
	assert.Equal(t, p.office.changes, back)
}
