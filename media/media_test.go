package media_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/media"
)

func clip(t testing.TB, name string) []byte {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("testdata/clips", name))
	require.NoError(t, err)
	return b
}

func clips(t testing.TB) map[string][]byte {
	t.Helper()
	names, err := filepath.Glob("testdata/clips/*")
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, n := range names {
		if !strings.HasSuffix(n, ".json") {
			out[filepath.Base(n)] = clip(t, filepath.Base(n))
		}
	}
	return out
}

func head(t testing.TB, b []byte) media.File {
	t.Helper()
	f, err := media.Head(bytes.NewReader(b), int64(len(b)))
	require.NoError(t, err)
	return f
}

func TestTracksAndLanguages(t *testing.T) {
	f := head(t, clip(t, "h264-languages.mkv")).Format
	assert.Equal(t, dossier.AAC, f.Sound, "the default track, which is the second")
	assert.Equal(t, []dossier.SoundCodec{dossier.AC3}, f.OtherSound)
	assert.Equal(t, []string{"sv", "fi"}, f.SoundLanguages)
	assert.Equal(t, []dossier.SubtitleForm{dossier.SubRip, dossier.SubStation}, append([]dossier.SubtitleForm{f.Subtitles}, f.OtherSubtitles...))
	assert.Equal(t, dossier.SubtitlesInside, f.SubtitlesIn)
	assert.Equal(t, []string{"fi", "en"}, f.SubtitlesFor)
	assert.Equal(t, []string{"fi"}, head(t, clip(t, "h264-ac3.ts")).Format.SoundLanguages)
	assert.Equal(t, 8, head(t, clip(t, "h264-ref8.mp4")).Format.ReferenceFrames)
}

// Whatever is missing of a file, what is left is read in bounded time, and a file that is cut is never taken for whole.
func TestEveryBeginningOfEveryClip(t *testing.T) {
	for name, b := range clips(t) {
		step := max(1, len(b)/150)
		for n := 0; n < len(b); n += step {
			f, err := media.Head(bytes.NewReader(b[:n]), int64(n))
			if err != nil {
				assert.True(t, errors.Is(err, media.ErrNotMedia) || errors.Is(err, media.ErrCut) || errors.Is(err, media.ErrNoHead) || errors.Is(err, media.ErrDamaged), "%s cut at %d: %v", name, n, err)
			}
			_, err = media.Rates(t.Context(), bytes.NewReader(b[:n]), f, nil)
			_ = err // may be of any kind: it must end
		}
	}
}

func TestHalfCopiedFilesAreToldSo(t *testing.T) {
	for _, name := range []string{"h264-high-aac.mp4", "h264-faststart.mp4", "h264.mov", "h264-languages.mkv", "vp9.webm", "h264.avi", "h264-fragmented.mp4"} {
		b := clip(t, name)
		f, err := media.Head(bytes.NewReader(b[:len(b)*2/3]), int64(len(b)*2/3))
		assert.True(t, f.Cut, name)
		assert.True(t, errors.Is(err, media.ErrCut) || errors.Is(err, media.ErrNoHead), "%s: %v", name, err)
		assert.Zero(t, f.Format.AverageMbps, "%s: nothing is said of a rate that is not known", name)
	}
}

func TestWhatIsNoMedia(t *testing.T) {
	for name, b := range map[string][]byte{
		"nothing":               {},
		"a text":                []byte(strings.Repeat("The gulls are early this year. ", 100)),
		"zeros":                 make([]byte, 4096),
		"a script":              []byte("#!/bin/sh\nexit 0\n"),
		"a lone byte of sync":   []byte("G" + strings.Repeat("x", 2000)),
		"two bytes as of sound": append([]byte{0xff, 0xfb, 0x90, 0x00}, make([]byte, 2000)...),
	} {
		_, err := media.Head(bytes.NewReader(b), int64(len(b)))
		assert.True(t, errors.Is(err, media.ErrNotMedia), "%s: %v", name, err)
	}
}

// A file that lies about its sizes costs neither memory nor time.
func TestFilesThatLie(t *testing.T) {
	box := func(kind string, length uint32, body ...byte) []byte {
		return append(append(binary.BigEndian.AppendUint32(nil, length), kind...), body...)
	}
	endless := append(box("ftyp", 16, []byte("isom\x00\x00\x00\x00")...), bytes.Repeat(box("free", 8), 100000)...)
	deep := box("ftyp", 16, []byte("isom\x00\x00\x00\x00")...)
	for range 2000 {
		deep = append(deep, box("moov", 0)...)
	}
	huge := clip(t, "h264-faststart.mp4")
	i := bytes.Index(huge, []byte("stsz"))
	binary.BigEndian.PutUint32(huge[i+12:], 0xffffffff)
	matroska := append([]byte("\x1a\x45\xdf\xa3\x80\x18\x53\x80\x67\x01\xff\xff\xff\xff\xff\xff\xff"), bytes.Repeat([]byte{0xec, 0x80}, 200000)...)
	for name, b := range map[string][]byte{"endless boxes": endless, "boxes in boxes": deep, "a table of four milliards": huge, "endless void": matroska} {
		f, _ := media.Head(bytes.NewReader(b), int64(len(b)))
		allocated := testing.AllocsPerRun(1, func() { _, _ = media.Rates(t.Context(), bytes.NewReader(b), f, nil) })
		assert.Less(t, allocated, 50000.0, "%s: as many as boxes are looked at", name)
	}
}

// counted counts what is read of a file.
type counted struct {
	io.ReaderAt
	read int64
}

func (c *counted) ReadAt(p []byte, off int64) (int, error) {
	c.read += int64(len(p))
	return c.ReaderAt.ReadAt(p, off)
}

func TestAHeadReadsLittle(t *testing.T) {
	const most = 1<<20 + 1<<19 // a head, and the ends of streams that have no index
	for name, b := range clips(t) {
		// A film that is as large as films are: the same beginning and end, with nothing between.
		c := &counted{ReaderAt: bytes.NewReader(b)}
		_, err := media.Head(c, int64(len(b)))
		require.NoError(t, err, name)
		assert.LessOrEqual(t, c.read, int64(most), name)
	}
}

// The rates of a file hold all its bits, and lie within its length.
func TestRatesHoldWhatTheFileHolds(t *testing.T) {
	for name, b := range clips(t) {
		f := head(t, b)
		if f.Seconds == 0 {
			continue
		}
		list, err := media.Rates(t.Context(), bytes.NewReader(b), f, nil)
		require.NoError(t, err, name)
		require.NotEmpty(t, list, name)
		var bits float64
		for _, s := range list {
			bits += s.Bits
			assert.GreaterOrEqual(t, s.At, 0.0, name)
			assert.LessOrEqual(t, s.At, f.Seconds+0.2, name)
		}
		assert.LessOrEqual(t, bits, float64(len(b))*8, name)
		assert.GreaterOrEqual(t, bits, float64(len(b))*8*0.95-96000, "%s: the rest is heads and tables", name)
		need := demand.Needed(list, f.Seconds)
		assert.Positive(t, need.Mbps[0], name)
	}
}

// What the index tells is never less than what reading finds.
func TestAnIndexIsNeverTooLow(t *testing.T) {
	n := 0
	for name, b := range clips(t) {
		f := head(t, b)
		if len(f.Rates) == 0 {
			continue
		}
		n++
		exact, err := media.Rates(t.Context(), bytes.NewReader(b), f, nil)
		require.NoError(t, err)
		read, told := demand.Needed(exact, f.Seconds), demand.Needed(f.Rates, f.Seconds)
		for i := range read.Mbps {
			assert.GreaterOrEqual(t, told.Mbps[i], read.Mbps[i]*0.98, name)
		}
	}
	assert.Positive(t, n)
}

func TestReadingCanBeStopped(t *testing.T) {
	b := clip(t, "h264-languages.mkv")
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err := media.Rates(ctx, bytes.NewReader(b), head(t, b), nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func FuzzHead(f *testing.F) {
	for _, b := range clips(f) {
		if len(b) < 40000 {
			f.Add(b)
		}
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		file, err := media.Head(bytes.NewReader(b), int64(len(b)))
		if err == nil {
			assert.NotEmpty(t, file.Format.Container)
		}
		assert.GreaterOrEqual(t, file.Seconds, 0.0)
		d := dossier.Folder{Mix: []dossier.FormatEntry{file.Format}}
		assert.Equal(t, dossier.Canonical(d), dossier.Canonical(dossier.Canonical(d)))
		_, _ = media.Rates(t.Context(), bytes.NewReader(b), file, nil)
	})
}
