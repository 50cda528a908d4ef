package cli

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/reel"
)

// Clips are copied into a directory, which is noted for who leaves the home, and taken out again.
func TestSampleClipsAreCopiedAndCollected(t *testing.T) {
	p := newProgram(t)
	dir := t.TempDir()
	code, out, errs := p.run("reel", "copy", dir, "mp3", "vorbis")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Copied 2 files into "+dir)
	require.Len(t, p.office.sent, 1)
	assert.True(t, strings.HasSuffix(p.office.sent[0].path, "/long-tasks"))
	assert.Equal(t, "Sample clips in "+dir, p.office.sent[0].body["what"])
	code, out, _ = p.run("reel", "copy", dir, "mp3")
	require.Zero(t, code)
	assert.Contains(t, out, "Copied 0 files")
	assert.Len(t, p.office.sent, 1, "nothing new to note")

	one, err := reel.Named("mp3")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, one.File), []byte("mine"), 0o600))
	code, out, errs = p.run("reel", "collect", dir)
	assert.Equal(t, Attention, code)
	assert.Contains(t, out, "Removed 1 file")
	assert.Contains(t, errs, "Left "+one.File)

	code, _, errs = p.run("reel", "copy", dir, "cassette")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, `no such sample clip as "cassette"`)
	code, _, errs = p.run("reel", "copy", filepath.Join(dir, "nowhere"))
	assert.Equal(t, Failed, code)
	assert.Contains(t, errs, "copy the sample clips")
	code, out, errs = p.run("reel", "list")
	require.Zero(t, code, errs)
	for _, c := range reel.Clips {
		assert.Contains(t, out, c.Name)
	}
}

func TestTheSheetHasItsForms(t *testing.T) {
	p := newProgram(t)
	code, _, errs := p.run("sheet", "write", "napkin", "x.pdf")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "results, table or customer")
}
