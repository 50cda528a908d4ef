package forecast_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
	"kaiku/core/knowledge"
)

func ahead(d *dossier.Dossier) []forecast.Ahead {
	return forecast.Of(d.Index(), knowledge.Knowledge{}).Ahead
}

func TestWhatIsWorthConvertingAhead(t *testing.T) {
	uhd := with(ten, func(e *dossier.FormatEntry) {
		e.Width, e.Height, e.Range, e.Gigabytes, e.Items, e.Hours = 3840, 1600, dossier.PQ, 500, 4, 8
	})
	d := home(dossier.AVPull, dossier.ConvertsNothing, screen, film, uhd)
	got := ahead(d)
	require.Len(t, got, 1, "what plays as it is needs no copy")
	a := got[0]
	assert.Equal(t, []int{1, 1, 1}, []int{a.Entry, a.Plays, a.Of})
	assert.Equal(t, []dossier.ID[dossier.Device]{d.Paths[0].Device}, a.For)
	assert.Equal(t, dossier.H264, a.Into.Video, "the best form that the screen plays")
	assert.Equal(t, []int{1920, 800}, []int{a.Into.Width, a.Into.Height}, "in the shape of the film")
	assert.Equal(t, 500.0, a.Before)
	assert.InDelta(t, 8*9*0.45, a.After, 0.01)
	assert.True(t, a.TooLargeForFAT32())
	d.Folders[0].Mix[1].Hours, d.Folders[0].Mix[1].Items = 8, 8
	assert.False(t, ahead(d)[0].TooLargeForFAT32())
	d.Folders[0].Mix[1].Hours = 0
	assert.Zero(t, ahead(d)[0].After, "of unknown length nothing is estimated")

	d.Decodings = nil
	assert.Empty(t, ahead(d), "what a device decodes is not known: there is nothing to aim at")
	nothing := home(dossier.AVPull, dossier.ConvertsNothing, []dossier.DecodingEntry{able(dossier.PartContainer, "avi", nil)}, uhd)
	assert.Empty(t, ahead(nothing), "no form that it would be converted into helps")
	song := home(dossier.AVPull, dossier.ConvertsNothing, []dossier.DecodingEntry{able(dossier.PartContainer, "mpeg-audio", nil), able(dossier.PartSound, "mp3", nil)},
		dossier.FormatEntry{Container: dossier.FLACFile, Sound: dossier.FLAC, Channels: 2, SampleRate: 44100, Items: 10, Hours: 1})
	require.Len(t, ahead(song), 1)
	assert.Equal(t, dossier.MP3, ahead(song)[0].Into.Sound)
}

// A file of FAT32 has at most 2^32 - 1 bytes.
func TestWhatFitsFAT32(t *testing.T) {
	assert.False(t, forecast.Ahead{Largest: 4.294967295}.TooLargeForFAT32())
	assert.True(t, forecast.Ahead{Largest: 4.294967296}.TooLargeForFAT32())
}

// A copy has the shape of what is copied, and no sound where that has none.
func TestTheFormOfACopy(t *testing.T) {
	into := func(change func(*dossier.FormatEntry)) dossier.FormatEntry {
		a := ahead(home(dossier.AVPull, dossier.ConvertsNothing, screen, with(ten, change)))
		require.Len(t, a, 1)
		return a[0].Into
	}
	high := into(func(e *dossier.FormatEntry) { e.Width, e.Height = 2880, 2160 })
	assert.Equal(t, []int{1440, 1080}, []int{high.Width, high.Height}, "its height decides")
	odd := into(func(e *dossier.FormatEntry) { e.Width, e.Height = 1279, 719 })
	assert.Equal(t, []int{1279, 719}, []int{odd.Width, odd.Height}, "nothing is lost where nothing is too large")
	unsized := into(func(e *dossier.FormatEntry) { e.Width, e.Height = 0, 0 })
	assert.NotZero(t, unsized.Width*unsized.Height)
	assert.NotEmpty(t, high.Sound)
	silent := into(func(e *dossier.FormatEntry) { e.Sound, e.Channels, e.SampleRate = "", 0, 0 })
	assert.Empty(t, silent.Sound)
	assert.Zero(t, silent.Channels+silent.SampleRate)
}

// What many devices gain stands before what one gains more of.
func TestTheOrderOfCopies(t *testing.T) {
	forAll := with(ten, func(e *dossier.FormatEntry) { e.Hours = 10 })
	forOne := with(film, func(e *dossier.FormatEntry) { e.Video, e.Profile, e.Hours = dossier.VP9, "", 15 })
	for _, mix := range [][]dossier.FormatEntry{{forAll, forOne}, {forOne, forAll}} {
		d := home(dossier.AVPull, dossier.ConvertsNothing, screen, mix...)
		most := append(slices.Clone(screen), able(dossier.PartVideo, "vp9", nil))
		addDevice(d, "second", most, "")
		addDevice(d, "third", most, "")
		all := ahead(d)
		require.Len(t, all, 2)
		assert.Equal(t, []int{3, 1}, []int{len(all[0].For), len(all[1].For)})
	}
}

// Every form that is proposed is one of the vocabulary, at a size and level that agree.
func TestEveryProposedFormIsOne(t *testing.T) {
	for _, e := range []dossier.FormatEntry{film, ten, loud, {Container: dossier.Matroska, Video: dossier.HEVC, Width: 720, Height: 576, FrameRate: 50, Items: 1, Hours: 1}} {
		e.Container = dossier.ASF // which the screen does not open
		for _, a := range ahead(home(dossier.AVPull, dossier.ConvertsNothing, screen, e)) {
			for _, part := range []dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound} {
				term, known := format.Term(a.Into, part)
				assert.True(t, known || term == "", "%s of %+v", part, a.Into)
			}
			assert.LessOrEqual(t, a.Into.Width, e.Width)
			assert.LessOrEqual(t, a.Into.FrameRate, 30.0)
		}
	}
}
