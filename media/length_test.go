package media

import (
	"bytes"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
)

// A length that cannot be is not believed: nothing is worked out from it.
func TestALengthThatDoesNotFitTheSizeIsNotBelieved(t *testing.T) {
	for _, c := range []struct {
		name    string
		format  dossier.FormatEntry
		seconds float64
		bytes   int64
		want    bool
	}{
		{"a film", dossier.FormatEntry{Video: dossier.HEVC, Width: 3840, Height: 2160, FrameRate: 24, BitDepth: 10}, 7200, 90e9, true},
		{"a film hardly compressed", dossier.FormatEntry{Video: dossier.MJPEG, Width: 1920, Height: 1080, FrameRate: 25}, 60, 7e9, true},
		{"tiny, with much sound", dossier.FormatEntry{Video: dossier.H264, Width: 128, Height: 96, FrameRate: 25}, 1, 6e6, true},
		{"40 GB in one second", dossier.FormatEntry{Video: dossier.HEVC, Width: 128, Height: 96, FrameRate: 25, BitDepth: 10}, 1, 40e9, false},
		{"no length", dossier.FormatEntry{Video: dossier.HEVC, Width: 128, Height: 96}, 0, 40e9, true},
		{"no size of the picture", dossier.FormatEntry{Video: dossier.HEVC}, 1, 40e9, true},
		{"music", dossier.FormatEntry{Sound: dossier.FLAC}, 1, 40e9, true},
	} {
		assert.Equal(t, c.want, possible(c.format, c.seconds, c.bytes), c.name)
	}
}

// Files that name no frame rate tell it by the times of their frames, if these lie evenly.
func TestTheFrameRateIsTakenFromTheTimesOfFrames(t *testing.T) {
	shown := func(rate, unit float64, order ...int) (out []float64) {
		for i := range mostTimes {
			at := float64(i/4*4+order[i%4]) / rate
			out = append(out, math.Round(at/unit)*unit)
		}
		return out
	}
	for _, rate := range append([]float64{18, 37.5}, usualRates...) {
		assert.InEpsilon(t, rate, rateOfTimes(shown(rate, 1e-3, 0, 1, 2, 3), 1e-3), .003, "%g frames a second", rate)
		assert.InEpsilon(t, rate, rateOfTimes(shown(rate, 1e-3, 0, 3, 1, 2), 1e-3), .003, "%g, some stored later than they are shown", rate)
		assert.InEpsilon(t, rate, rateOfTimes(shown(rate, 1e-9, 0, 1, 2, 3), 1e-9), 1e-6, "%g, not rounded", rate)
	}
	for _, exact := range []float64{24, 24000.0 / 1001, 60, 60000.0 / 1001} {
		assert.Equal(t, exact, rateOfTimes(shown(exact, 1e-3, 0, 1, 2, 3), 1e-3), "told from the one beside it")
	}
	assert.Zero(t, rateOfTimes(nil, 1e-3))
	assert.Zero(t, rateOfTimes(shown(25, 1e-3, 0, 1, 2, 3)[:3], 1e-3), "too few")
	var uneven []float64
	for i := range mostTimes {
		uneven = append(uneven, float64(i*i)/100)
	}
	assert.Zero(t, rateOfTimes(uneven, 1e-3), "a rate that changes is not known")
	assert.Zero(t, rateOfTimes(make([]float64, mostTimes), 1e-3), "all at once")
}

// The same clip is read alike when its track does not name the rate.
func TestAClipWithoutItsFrameRateIsReadAlike(t *testing.T) {
	for _, name := range []string{"h264-1080-film.mkv", "hevc-pq.mkv", "vp9.webm", "av1.mkv"} {
		b, err := os.ReadFile(filepath.Join("testdata/clips", name))
		require.NoError(t, err)
		want, err := Head(bytes.NewReader(b), int64(len(b)))
		require.NoError(t, err)
		at := bytes.Index(b, []byte{0x23, 0xe3, 0x83, 0x84}) // DefaultDuration of four bytes becomes Void of six
		require.Positive(t, at, name)
		copy(b[at:], []byte{0xec, 0x86, 0, 0, 0, 0, 0, 0})
		got, err := Head(bytes.NewReader(b), int64(len(b)))
		require.NoError(t, err)
		assert.InEpsilon(t, want.Format.FrameRate, got.Format.FrameRate, .003, name)
	}
}
