package forecast_test

import (
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
