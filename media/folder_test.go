package media_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/media"
)

// shelf writes clips under other names into a directory of the test's own.
func shelf(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, from := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		body := []byte(from)
		if _, err := os.Stat(filepath.Join("testdata/clips", from)); err == nil && from != "" {
			body = clip(t, from)
		}
		require.NoError(t, os.WriteFile(at, body, 0o644))
	}
	return dir
}

func readAll(t *testing.T, dir string, r media.Reading) contents.Contents {
	t.Helper()
	c, err := media.Folder(t.Context(), media.Dir(dir), r)
	require.NoError(t, err)
	return c
}

func paths(c contents.Contents) (out []string) {
	for _, i := range c.Items {
		out = append(out, i.Path)
	}
	return out
}

func troubles(c contents.Contents) map[string]contents.Trouble {
	out := map[string]contents.Trouble{}
	for _, i := range c.Items {
		if i.Trouble != "" {
			out[i.Path] = i.Trouble
		}
	}
	return out
}

func TestAFolderAsPeopleKeepIt(t *testing.T) {
	dir := shelf(t, map[string]string{
		"Fog Signal (1998)/Fog Signal.mkv":        "h264-languages.mkv",
		"Fog Signal (1998)/Fog Signal.fi.srt":     "1\n00:00:00,000 --> 00:00:01,000\nx\n",
		"Fog Signal (1998)/poster.jpg":            "still.jpg",
		"Fog Signal (1998)/notes.txt":             "seen twice",
		"Pier/Pier.mp4":                           "h264-main.mp4",
		"Pier/Pier.srt":                           "x",
		"Pier/Pier.jpg":                           "still.jpg",
		"Half/half.mp4.part":                      "h264-main.mp4",
		"Names/это фильм.mp4":                     "h264-main.mp4",
		"Names/bad\xff\xfename.mp4":               "h264-main.mp4",
		"lies.mkv":                                "this is a text that somebody named so",
		"empty.mp4":                               "",
		".hidden.mp4":                             "h264-main.mp4",
		"Old discs/Harbour/VIDEO_TS/VIDEO_TS.IFO": "x",
		"Old discs/Harbour/VIDEO_TS/VTS_01_0.VOB": "mpeg2-dvd.vob",
		"Old discs/Harbour/VIDEO_TS/VTS_01_1.VOB": "mpeg2-dvd.vob",
		"Old discs/Harbour/VIDEO_TS/VTS_01_2.VOB": "mpeg2-dvd.vob",
		"Old discs/Lights/BDMV/index.bdmv":        "x",
		"Old discs/Lights/BDMV/STREAM/00001.m2ts": "h264-disc.m2ts",
	})
	cut := clip(t, "h264.mov")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "cut.mov"), cut[:len(cut)/2], 0o644))
	c := readAll(t, dir, media.Reading{})
	assert.Equal(t, []string{"Fog Signal (1998)/Fog Signal.mkv", "Half/half.mp4.part", "Names/bad\xff\xfename.mp4", "Names/это фильм.mp4", "Old discs/Harbour", "Old discs/Lights", "Pier/Pier.mp4", "cut.mov", "empty.mp4", "lies.mkv"}, paths(c))
	assert.Equal(t, map[string]contents.Trouble{"Half/half.mp4.part": contents.HalfCopied, "cut.mov": contents.HalfCopied, "empty.mp4": contents.Empty, "lies.mkv": contents.NotMedia}, troubles(c))
	assert.Equal(t, 2, c.Covers)
	assert.Equal(t, 2, c.Ignored, "the notes and the hidden file")
	assert.False(t, c.Stopped)
	at := func(path string) contents.File {
		return c.Items[slices.IndexFunc(c.Items, func(i contents.File) bool { return i.Path == path })]
	}
	assert.Equal(t, dossier.SubtitlesInside, at("Fog Signal (1998)/Fog Signal.mkv").Format.SubtitlesIn)
	assert.Equal(t, []string{"Fog Signal.fi.srt"}, at("Fog Signal (1998)/Fog Signal.mkv").Beside)
	assert.Equal(t, []any{dossier.SubRip, dossier.SubtitlesBeside}, []any{at("Pier/Pier.mp4").Format.Subtitles, at("Pier/Pier.mp4").Format.SubtitlesIn})
	dvd := at("Old discs/Harbour").Format
	assert.Equal(t, []any{dossier.DVDVideo, dossier.MPEG2, dossier.AC3}, []any{dvd.Container, dvd.Video, dvd.Sound})
	assert.Equal(t, dossier.BDVideo, at("Old discs/Lights").Format.Container)

	mix := contents.Mix(c.Items)
	items := 0
	for _, e := range mix {
		items += e.Items
	}
	assert.Equal(t, 6, items, "all but the four in trouble")
}

func TestLinksAndLoopsAreFollowedOnce(t *testing.T) {
	dir := shelf(t, map[string]string{"a/one.mp4": "h264-main.mp4", "a/b/two.mp4": "h264-high-aac.mp4"})
	elsewhere := shelf(t, map[string]string{"three.mp4": "h264-ref8.mp4"})
	for name, to := range map[string]string{"a/b/up": "..", "a/loop": ".", "a/again.mp4": "one.mp4", "far": elsewhere, "far2": elsewhere, "lost.mp4": "nowhere.mp4"} {
		require.NoError(t, os.Symlink(to, filepath.Join(dir, name)))
	}
	c := readAll(t, dir, media.Reading{})
	assert.Equal(t, []string{"a/b/two.mp4", "a/one.mp4", "far/three.mp4", "lost.mp4"}, paths(c))
	assert.Equal(t, map[string]contents.Trouble{"lost.mp4": contents.LinkNowhere}, troubles(c))
}

func TestWhatWasReadIsNotReadAgain(t *testing.T) {
	dir := shelf(t, map[string]string{"one.mp4": "h264-main.mp4", "two.mkv": "h264-languages.mkv", "cut.mp4": "xxxx"})
	known := map[string]contents.File{}
	first := readAll(t, dir, media.Reading{Each: func(i contents.File) { known[i.Path] = i }})
	require.Len(t, known, 3)
	again := readAll(t, dir, media.Reading{Known: known, Each: func(i contents.File) { t.Errorf("%s was read again", i.Path) }})
	assert.Equal(t, first.Items, again.Items)
	assert.Equal(t, 3, again.Kept)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "one.mp4"), clip(t, "h264-ref8.mp4"), 0o644))
	changed := readAll(t, dir, media.Reading{Known: known})
	assert.Equal(t, 2, changed.Kept)
	assert.Equal(t, 8, changed.Items[1].Format.ReferenceFrames)
}

func TestReadingAFolderCanBeStoppedAndGoesOn(t *testing.T) {
	files := map[string]string{}
	for i := range 60 {
		files["film "+string(rune('A'+i/10))+string(rune('0'+i%10))+".mp4"] = "h264-main.mp4"
	}
	dir := shelf(t, files)
	ctx, stop := context.WithCancel(t.Context())
	known := map[string]contents.File{}
	c, err := media.Folder(ctx, media.Dir(dir), media.Reading{Each: func(i contents.File) {
		if known[i.Path] = i; len(known) == 20 {
			stop()
		}
	}})
	require.NoError(t, err)
	assert.True(t, c.Stopped)
	assert.Less(t, len(c.Items), 60)
	rest := readAll(t, dir, media.Reading{Known: known})
	assert.Equal(t, len(known), rest.Kept)
	assert.Len(t, rest.Items, 60)
}

// faulty is a folder some of whose files do not answer, or change, or may not be read.
type faulty struct {
	files  fstest.MapFS
	silent chan struct{}
	opened func(name string) error
}

func (f faulty) Open(name string) (fs.File, error) {
	if f.opened != nil {
		if err := f.opened(name); err != nil {
			return nil, &fs.PathError{Op: "open", Path: name, Err: err}
		}
	}
	file, err := f.files.Open(name)
	if err == nil && f.silent != nil && filepath.Base(name)[0] == 's' {
		return mute{file, f.silent}, nil
	}
	return file, err
}

type mute struct {
	fs.File
	silent chan struct{}
}

func (m mute) ReadAt([]byte, int64) (int, error) { <-m.silent; return 0, io.EOF }

func TestAShareThatHangsEndsTheReadingWithAWord(t *testing.T) {
	silent := make(chan struct{})
	t.Cleanup(func() { close(silent) })
	body := clip(t, "h264-main.mp4")
	one := faulty{files: fstest.MapFS{"a.mp4": {Data: body}, "silent.mp4": {Data: body}, "z.mp4": {Data: body}}, silent: silent}
	c, err := media.Folder(t.Context(), one, media.Reading{Wait: 50 * time.Millisecond})
	require.NoError(t, err)
	assert.Equal(t, map[string]contents.Trouble{"silent.mp4": contents.NoAnswer}, troubles(c))
	all := faulty{files: fstest.MapFS{}, silent: silent}
	for _, n := range []string{"s1", "s2", "s3", "s4", "s5", "s6", "s7", "s8"} {
		all.files[n+".mp4"] = &fstest.MapFile{Data: body}
	}
	c, err = media.Folder(t.Context(), all, media.Reading{Wait: 50 * time.Millisecond})
	assert.ErrorIs(t, err, media.ErrSilent)
	assert.True(t, c.Stopped)
}

func TestWhatMayNotBeReadIsListed(t *testing.T) {
	body := clip(t, "h264-main.mp4")
	f := faulty{files: fstest.MapFS{"a.mp4": {Data: body}, "b/x.mp4": {Data: body}, "c.mp4": {Data: body}, "d.mp4": {Data: body}},
		opened: func(name string) error {
			return map[string]error{"a.mp4": fs.ErrPermission, "b": fs.ErrPermission, "c.mp4": fs.ErrNotExist}[name]
		}}
	c, err := media.Folder(t.Context(), f, media.Reading{})
	require.NoError(t, err)
	assert.Equal(t, map[string]contents.Trouble{"a.mp4": contents.Unreadable, "b": contents.Unreadable, "c.mp4": contents.Gone}, troubles(c))
	_, err = media.Folder(t.Context(), faulty{opened: func(string) error { return errors.New("no such share") }}, media.Reading{})
	assert.ErrorContains(t, err, "the folder cannot be listed")
}

func TestTheHeaviestOfEachFormIsReadForItsRates(t *testing.T) {
	dir := shelf(t, map[string]string{"a.mp4": "h264-high-aac.mp4", "b.mp4": "h264-faststart.mp4", "c.mkv": "hevc-pq.mkv", "song.mp3": "tone-vbr.mp3", "cut.mp4": "xxxx"})
	c := readAll(t, dir, media.Reading{})
	for _, i := range contents.Heaviest(c.Items) {
		deep, err := media.Deepen(t.Context(), media.Dir(dir), c.Items[i], nil)
		require.NoError(t, err)
		c.Items[i] = deep
	}
	assert.Empty(t, contents.Heaviest(c.Items), "all are read")
	mix := contents.Mix(c.Items)
	require.Len(t, mix, 3)
	for _, e := range mix {
		if e.Video != "" {
			assert.Positive(t, e.Needed5Mbps)
			assert.LessOrEqual(t, e.Needed30Mbps, e.Needed2Mbps)
			assert.NotEmpty(t, e.Heaviest)
		}
	}
}

// The mix does not depend on the order of the items, and loses none.
func TestTheMixIsOfAllItems(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var items []contents.File
		for range rapid.IntRange(0, 12).Draw(t, "items") {
			f := dossier.FormatEntry{Container: rapid.SampledFrom([]dossier.Container{dossier.MP4, dossier.Matroska}).Draw(t, "container"),
				Video: rapid.SampledFrom([]dossier.VideoCodec{dossier.H264, dossier.HEVC}).Draw(t, "video"), Height: rapid.SampledFrom([]int{576, 1080, 804}).Draw(t, "height"), Width: 1920,
				AverageMbps: float64(rapid.IntRange(1, 50).Draw(t, "average"))}
			items = append(items, contents.File{Format: f, Seconds: 3600})
		}
		mix := contents.Mix(items)
		n, hours := 0, 0.0
		for _, e := range mix {
			n, hours = n+e.Items, hours+e.Hours
		}
		assert.Equal(t, len(items), n)
		assert.InDelta(t, float64(len(items)), hours, 0.01*float64(len(mix)))
		assert.Equal(t, mix, contents.Mix(rapid.Permutation(items).Draw(t, "order")))
	})
}

func TestAFolderWithoutEndIsGivenUp(t *testing.T) {
	dir := t.TempDir()
	for n := range 5 {
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.mp4", n)), []byte("x"), 0o600))
	}
	c, err := media.Folder(t.Context(), media.Dir(dir), media.Reading{Most: 5})
	require.NoError(t, err)
	assert.Len(t, c.Items, 5)
	_, err = media.Folder(t.Context(), media.Dir(dir), media.Reading{Most: 4})
	require.ErrorContains(t, err, "more than 4 files; read a part of it")
}
