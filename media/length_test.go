package media

import (
	"testing"

	"github.com/stretchr/testify/assert"

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
