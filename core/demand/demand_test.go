package demand_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/demand"
	"kaiku/core/dossier"
)

func TestRateNeeded(t *testing.T) {
	for _, c := range []struct {
		name          string
		average, peak float64
		want          demand.Rate
	}{
		{"nothing recorded", 0, 0, demand.Rate{}},
		{"a peak of 30 s over a wait of 5 s", 20, 35, demand.Rate{Mbps: 30, Known: dossier.KnownEstimated}},
		{"a peak that is not recorded is twice the average", 7, 0, demand.Rate{Mbps: 12, Known: dossier.KnownEstimated}},
		{"an even rate needs its average", 20, 21, demand.Rate{Mbps: 20, Known: dossier.KnownRead}},
		{"only a peak is recorded", 0, 35, demand.Rate{Mbps: 30, Known: dossier.KnownEstimated}},
	} {
		assert.Equal(t, c.want, demand.RateNeeded(dossier.FormatEntry{AverageMbps: c.average, PeakMbps: c.peak}), c.name)
	}
}

// What nothing is recorded of is assumed by its class, and by nothing where the class is not known either.
func TestWhatFilesOfAClassNeed(t *testing.T) {
	video := func(c dossier.Container, height int) dossier.FormatEntry {
		return dossier.FormatEntry{Container: c, Video: dossier.H264, Height: height}
	}
	for name, c := range map[string]struct {
		e    dossier.FormatEntry
		mbps float64
	}{
		"standard definition": {video(dossier.MP4, 576), 9.8 * 10 / 15}, "720 lines": {video(dossier.MP4, 720), 10 * 10.0 / 15}, "high definition": {video(dossier.Matroska, 1080), 20 * 10.0 / 15}, "a cropped one": {video(dossier.Matroska, 800), 20 * 10.0 / 15},
		"ultra high definition": {video(dossier.Matroska, 2160), 40 * 30.0 / 35}, "a copy of a disc": {video(dossier.M2TS, 1080), 40 * 30.0 / 35}, "a disc of standard definition": {video(dossier.DVDVideo, 576), 9.8 * 10 / 15}, "an ultra high definition disc": {video(dossier.M2TS, 2160), 100 * 30.0 / 35},
		"a compact disc": {dossier.FormatEntry{Container: dossier.Wave, Sound: dossier.PCM, SampleRate: 44100, Channels: 2, SoundBits: 16}, 1.4112}, "lossless stereo": {dossier.FormatEntry{Sound: dossier.FLAC, Channels: 2, SampleRate: 44100}, 0.9},
		"lossless at 96 kHz": {dossier.FormatEntry{Sound: dossier.FLAC, Channels: 2, SampleRate: 96000}, 3}, "lossless with six channels": {dossier.FormatEntry{Sound: dossier.FLAC, Channels: 6, SampleRate: 48000}, 12}, "lossy": {dossier.FormatEntry{Sound: dossier.MP3}, 0.32},
	} {
		got := demand.RateNeeded(c.e)
		assert.InDelta(t, c.mbps, got.Mbps, 1e-9, name)
		assert.Equal(t, dossier.KnownAssumed, got.Known, name)
	}
	for name, e := range map[string]dossier.FormatEntry{"a film of unknown size": video(dossier.MP4, 0), "larger than any class": video(dossier.MP4, 9000), "a photograph": {Container: dossier.JPEG}, "PCM of unknown rate": {Sound: dossier.FLAC, Channels: 2, SampleRate: 400000}} {
		assert.Equal(t, demand.Rate{}, demand.RateNeeded(e), name)
	}
	read := video(dossier.MP4, 1080)
	read.Needed5Mbps = 3
	assert.Equal(t, demand.Rate{Mbps: 3, Known: dossier.KnownRead}, demand.RateNeeded(read), "what was read goes before the class")
}

func TestMoreBitsNeverNeedLess(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		average := rapid.Float64Range(0, 100).Draw(t, "average")
		peak := average + rapid.Float64Range(0.001, 100).Draw(t, "peak")
		less := demand.RateNeeded(dossier.FormatEntry{AverageMbps: average, PeakMbps: peak}).Mbps
		more := demand.RateNeeded(dossier.FormatEntry{AverageMbps: average, PeakMbps: peak * 1.2}).Mbps
		assert.GreaterOrEqual(t, more, less)
		assert.GreaterOrEqual(t, less, average)
		assert.LessOrEqual(t, less, peak)
	})
}
