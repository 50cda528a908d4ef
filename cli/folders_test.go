package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/homes"
)

// films makes a directory with two films, a half copy and a file that is none.
func films(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	for name, from := range map[string]string{"Pier.mp4": "h264-high-aac.mp4", "Fog Signal.mkv": "hevc-pq.mkv"} {
		b, err := os.ReadFile(filepath.Join("../media/testdata/clips", from))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), b, 0o644))
		if name == "Pier.mp4" {
			require.NoError(t, os.WriteFile(filepath.Join(dir, "cut.mp4"), b[:len(b)/2], 0o644))
		}
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "lies.avi"), []byte("no film"), 0o644))
	return dir
}

func TestReadAFolder(t *testing.T) {
	p := newProgram(t)
	dir := films(t)
	code, out, errs := p.run("folder", "read", "Films", dir, "--check")
	assert.Equal(t, Attention, code, errs)
	assert.Contains(t, out, "4 items")
	assert.Contains(t, out, "HEVC main 10, level 1, 128x96")
	assert.Contains(t, out, "It is there only in part: a copy or a recording that did not end.\n  cut.mp4\n")
	assert.Contains(t, out, "  lies.avi\n")
	assert.Contains(t, errs, "Read the heads of 4 files")
	assert.Contains(t, errs, "have to be read through")
	assert.Empty(t, p.office.sent, "nothing is recorded unasked")

	code, out, errs = p.run("folder", "read", "Films", dir, "--json")
	require.Equal(t, Done, code, errs)
	var shown shownFolder
	require.NoError(t, json.Unmarshal([]byte(out), &shown))
	assert.Len(t, shown.Items, 4)
	assert.Len(t, shown.Mix, 2)
	for _, e := range shown.Mix {
		assert.Positive(t, e.Needed5Mbps, "%s was read through", e.Container)
	}
	_, out, _ = p.run("folder", "read", "Films", dir, "--heads-only")
	assert.Contains(t, out, "estimated")
	assert.NotContains(t, out, ", read\n")
}

func TestWhatWasReadOfAFolderIsKept(t *testing.T) {
	dir := films(t)
	a := App{Getenv: func(string) string { return filepath.Join(dir, "..", "session.json") }}
	r := &folderReading{app: &a, place: dir}
	require.NoError(t, r.keep([]contents.File{{Path: "a"}, {Path: "b", Bytes: 3}}))
	f, err := os.OpenFile(r.file(), os.O_APPEND|os.O_WRONLY, 0o600)
	require.NoError(t, err)
	_, err = f.WriteString(`{"path":"c","bytes":1}` + "\n" + `{"path":"d","by`)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	r.load()
	assert.Len(t, r.kept, 3, "a line that was cut off when the machine stopped is left out")
	assert.Equal(t, int64(3), r.kept["b"].Bytes)
}

func TestRecordWhatIsInAFolder(t *testing.T) {
	p := newProgram(t)
	code, _, errs := p.run("folder", "read", "Films", films(t), "--to-record")
	require.Equal(t, Done, code, errs)
	assert.Contains(t, errs, "Recorded the mix of Films.")
	assert.Equal(t, 2, p.office.read.Readable(), "those that are whole")
	require.Len(t, p.office.sent, 1)
	assert.True(t, strings.HasSuffix(p.office.sent[0].path, "/contents/record"), p.office.sent[0].path)
	at, err := time.Parse(time.RFC3339Nano, p.office.sent[0].body["read"].(string))
	require.NoError(t, err)
	assert.True(t, p.office.read.Ended.Equal(at), "that reading and no other")
}

func TestWhatWasHandedInIsShown(t *testing.T) {
	p := newProgram(t)
	code, out, errs := p.run("folder", "contents", "Films")
	require.Equal(t, Done, code, errs)
	assert.Contains(t, out, "has not been read yet")
	dir := films(t)
	code, _, errs = p.run("folder", "read", "Films", dir)
	require.Equal(t, Done, code, errs)
	assert.Len(t, p.office.read.Items, 4)
	assert.NotEmpty(t, p.office.read.With)

	code, out, errs = p.run("folder", "contents", "Films", "--check")
	assert.Equal(t, Attention, code, errs)
	assert.Contains(t, out, "2 items that can be read; 2 could not.")
	assert.Contains(t, out, "at "+dir)
	assert.Contains(t, out, "1 file: It is named like a media file, but is not one.")
	_, out, _ = p.run("folder", "contents", "Films", "--trouble", "any")
	assert.Contains(t, out, "cut.mp4")
	assert.NotContains(t, out, "Pier.mp4")
	_, out, _ = p.run("folder", "contents", "Films", "--search", "hevc")
	assert.Contains(t, out, "Fog Signal.mkv")
	assert.NotContains(t, out, "Pier.mp4")
	_, out, _ = p.run("folder", "contents", "Films", "--format-line", "2")
	assert.Contains(t, out, "Pier.mp4")
	assert.NotContains(t, out, "Fog Signal.mkv")
	assert.NotContains(t, out, "cut.mp4")
	code, _, errs = p.run("folder", "contents", "Films", "--trouble", "tired")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "write any or one of no-right")
	code, _, errs = p.run("folder", "read", "Films", dir, "--from-service")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "without --from-service")
}

func TestFoldersThatCannotBeRead(t *testing.T) {
	p := newProgram(t)
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"Films", "/nowhere"}, "is not a directory on this machine"},
		{[]string{"Songs", t.TempDir()}, "Songs"},
		{[]string{"Films", films(t), "--rates-of", "x"}, "no such file in this directory"},
		{[]string{"Films", films(t), "--rates-of", "lies.avi"}, "It is named like a media file, but is not one."},
	} {
		code, _, errs := p.run(append([]string{"folder", "read"}, c.args...)...)
		assert.NotEqual(t, Done, code)
		assert.Contains(t, errs, c.want)
	}
}

func TestForecast(t *testing.T) {
	p := newProgram(t)
	code, out, errs := p.run("forecast", "--check")
	assert.Equal(t, Attention, code, errs)
	assert.Contains(t, out, "No formats of this folder are recorded.")
	d := p.office.d
	d.Folders[0].Mix = []dossier.FormatEntry{{Container: dossier.MP4, Video: dossier.H264, Sound: dossier.AAC, Items: 3, Hours: 6}, {Container: dossier.MP4, Video: dossier.HEVC, Sound: dossier.AAC, Items: 1, Hours: 2}}
	yes := func(part dossier.FormatPart, f dossier.FormatTerm) dossier.DecodingEntry {
		return dossier.DecodingEntry{Part: part, Format: f, Able: dossier.Yes, Evidence: dossier.EvidenceProven}
	}
	profile := dossier.Decoding{Device: d.Paths[0].Device, Entries: []dossier.DecodingEntry{yes(dossier.PartContainer, "mp4"), yes(dossier.PartVideo, "h264"), yes(dossier.PartSound, "aac-lc")}, Complete: []dossier.FormatPart{dossier.PartVideo}}
	profile.ID = homes.ID[dossier.Decoding](1)
	d.Decodings.Put(profile)
	d.Sources[0].Converts = dossier.ConvertsNothing
	_, out, _ = p.run("forecast")
	assert.Contains(t, out, "75 % as it is, 25 % does not play")
	_, out, _ = p.run("forecast", "--what-helps")
	assert.Contains(t, out, "decoded HEVC")
	device, _ := d.Devices.Get(d.Paths[0].Device)
	code, out, errs = p.run("forecast", "why", device.Name, "Films", "--json")
	require.Equal(t, Done, code, errs)
	assert.Contains(t, out, `"outcome": "unplayable"`)
	code, _, errs = p.run("forecast", "why", "nobody", "Films")
	assert.NotEqual(t, Done, code)
	assert.Contains(t, errs, "nobody")
}
