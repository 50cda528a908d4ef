package format_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

func TestModesAsTechniciansWriteThem(t *testing.T) {
	for text, want := range map[string]format.Mode{
		"":                                 {},
		"1080p60, 8 bit, SDR":              {Width: 1920, Height: 1080, FrameRate: 60, BitDepth: 8, Range: dossier.SDR},
		"2160p":                            {Width: 3840, Height: 2160},
		"3840x2160 at 60 Hz, 10 bits, PQ":  {Width: 3840, Height: 2160, FrameRate: 60, BitDepth: 10, Range: dossier.PQ},
		"3840 × 2160 @ 59.94; HLG; 12-bit": {Width: 3840, Height: 2160, FrameRate: 59.94, BitDepth: 12, Range: dossier.HLG},
		"1080i50":                          {Width: 1920, Height: 1080, FrameRate: 25, Interlaced: true},
		"1234p":                            {Height: 1234},
		"pq-dynamic":                       {Range: dossier.PQDynamic},
	} {
		m, rest := format.ReadMode(text)
		assert.Equal(t, want, m, text)
		assert.Empty(t, rest, text)
	}
	m, rest := format.ReadMode("4K, 60 Hz, the good cable")
	assert.Equal(t, format.Mode{FrameRate: 60}, m)
	assert.Equal(t, []string{"4k", "the good cable"}, rest, "of what is not understood nothing is known")
}

func TestWhatALinkCannotCarry(t *testing.T) {
	file := dossier.FormatEntry{Video: dossier.HEVC, Width: 3840, Height: 1600, FrameRate: 50, BitDepth: 10, Range: dossier.PQDynamic}
	for mode, want := range map[string][]format.Limit{
		"2160p50, PQ": nil, "1080p50, PQ": {"width"}, "2160p49": {"frameRate"}, "2160p50, SDR": {"range"}, "2160p50, HLG": {"range"}, "8 bit": nil, "": nil, "720p25, SDR": {"width", "frameRate", "range"},
	} {
		m, _ := format.ReadMode(mode)
		assert.Equal(t, want, m.Lowers(file), mode)
	}
	assert.Empty(t, format.Mode{Width: 1}.Lowers(dossier.FormatEntry{Sound: dossier.MP3}))
	assert.Equal(t, []format.Limit{"height"}, format.Mode{Width: 4000, Height: 1080}.Lowers(file))
	assert.Empty(t, format.Mode{Width: 3840, Height: 1600, FrameRate: 50}.Lowers(file), "just as much")
	assert.Equal(t, []format.Limit{"width"}, format.Mode{Width: 3839, Height: 2160}.Lowers(file))
	assert.Equal(t, []format.Limit{"height"}, format.Mode{Width: 3840, Height: 1599}.Lowers(file))
	assert.Empty(t, format.Mode{FrameRate: 29.97}.Lowers(dossier.FormatEntry{Video: dossier.H264, FrameRate: 30000.0 / 1001}))
}
