package cli

import (
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/matching"
)

// A scan that cannot be handed in is kept, and says how to hand it in later.
func TestAScanIsKeptWhileNobodyAnswers(t *testing.T) {
	dir := t.TempDir()
	a := &App{sessionFile: filepath.Join(dir, "session.json"), household: "H-0900"}
	seen := matching.Scan{ID: "x", Ended: time.Date(2026, 11, 27, 14, 15, 0, 0, time.UTC), Hosts: []matching.Host{}}
	gone := errors.New("Kaiku does not answer")
	err := a.keepScan(seen, gone)
	require.ErrorIs(t, err, gone, "it was not handed in")
	name := filepath.Join(dir, "scans", "H-0900-20261127-141500.json")
	assert.ErrorContains(t, err, "kaiku scan hand-in "+name)
	b, err := os.ReadFile(name)
	require.NoError(t, err)
	var kept keptScan
	require.NoError(t, json.Unmarshal(b, &kept))
	assert.Equal(t, "H-0900", kept.Household)
	assert.Equal(t, seen.Ended, kept.Scan.Ended)
	about, err := os.Stat(name)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), about.Mode().Perm())
}
