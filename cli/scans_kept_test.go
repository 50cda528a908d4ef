package cli

import (
	"bytes"
	"encoding/json"
	"errors"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
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

// Where the service cannot be reached from the beginning, a scan goes by what was kept of the home, and of nothing
// but what it needs.
func TestAScanGoesByWhatWasKept(t *testing.T) {
	dir := t.TempDir()
	var out bytes.Buffer
	a := &App{Out: &out, Err: &out, In: strings.NewReader("")}
	run := func(more ...string) int {
		out.Reset()
		return a.Run(t.Context(), append([]string{"scan", "run", "-H", "h-0900", "--url", "http://127.0.0.1:1", "--session-file", filepath.Join(dir, "session.json"), "--probe-within", "127.66.200.0/24", "--time", "2s"}, more...)...)
	}
	assert.Equal(t, Failed, run())
	assert.Contains(t, out.String(), "Run kaiku arrive h-0900 while Kaiku can be reached")
	d := &dossier.Dossier{Household: homes.Small().Household}
	home := d.Household[0]
	home.Code = "H-0900"
	d.Household[0] = home
	s := dossier.Segment{Name: "home", Prefix: netip.MustParsePrefix("127.66.200.0/24")}
	s.ID = homes.ID[dossier.Segment](0)
	d.Segments.Put(s)
	d.Devices.Put(dossier.Device{Name: "larder screen", Serial: "SN-1"})
	require.NoError(t, a.keepHome(d))
	b, err := os.ReadFile(a.keptHome())
	require.NoError(t, err)
	assert.Contains(t, string(b), "larder screen")
	assert.NotContains(t, string(b), "SN-1")
	assert.NotContains(t, string(b), home.Name)
	assert.Equal(t, Failed, run(), "it is kept, not handed in")
	assert.Contains(t, out.String(), "The scan goes by what was recorded on")
	assert.Contains(t, out.String(), "kaiku scan hand-in")
	kept, err := filepath.Glob(filepath.Join(dir, "scans", "h-0900-2*.json"))
	require.NoError(t, err)
	assert.Len(t, kept, 1)
	assert.Equal(t, Failed, run("--url", "http://127.0.0.1:2"))
	assert.Contains(t, out.String(), "Nothing of h-0900 is kept", "what is kept is of one service")
}
