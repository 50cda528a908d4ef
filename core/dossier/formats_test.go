package dossier_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
)

// What older records hold as text, as values.
func TestFormatsOfOlderRecordsAreTakenApart(t *testing.T) {
	for text, want := range map[string]dossier.FormatEntry{
		`{"container":"mkv","video":"hevc main10","sound":"truehd 7.1","subtitles":"image inside"}`: {Container: dossier.Matroska, Video: dossier.HEVC, Profile: dossier.ProfileMain10, Sound: dossier.MLP, Channels: 8, Subtitles: dossier.SubtitleImage, SubtitlesIn: dossier.SubtitlesInside},
		`{"container":"mp4","video":"h264 high","sound":"aac 2.0","height":1080}`:                   {Container: dossier.MP4, Video: dossier.H264, Profile: dossier.ProfileHigh, Height: 1080, Sound: dossier.AAC, Channels: 2},
		`{"container":"MOV","video":"H.265","sound":"ac3 5.1","channels":2}`:                        {Container: dossier.QuickTime, Video: dossier.HEVC, Sound: dossier.AC3, Channels: 2},
		`{"container":"grand","video":"hevc of my cousin","sound":"loud 99.9"}`:                     {Container: "grand", Video: "hevc of my cousin", Sound: "loud 99.9"},
		`{"container":"","otherSound":["AC3","x"],"otherSubtitles":["pgs"]}`:                        {OtherSound: []dossier.SoundCodec{dossier.AC3, "x"}, OtherSubtitles: []dossier.SubtitleForm{dossier.BDPresentation}},
	} {
		var f dossier.Folder
		require.NoError(t, json.Unmarshal([]byte(`{"mix":[`+text+`]}`), &f))
		assert.Equal(t, want, dossier.Canonical(f).Mix[0], text)
	}
	var p dossier.Decoding
	require.NoError(t, json.Unmarshal([]byte(`{"entries":[{"part":"video","format":"h264","limits":"to level 4.1"},{"part":"video","format":"hevc main10","limits":"to level 4.1 or so"},{"part":"sound","format":"ac3 5.1"},{"part":"container","format":"mkv"}]}`), &p))
	assert.Equal(t, []dossier.DecodingEntry{{Part: dossier.PartVideo, Format: "h264", Level: "4.1"}, {Part: dossier.PartVideo, Format: "hevc", Profile: dossier.ProfileMain10, Limits: "to level 4.1 or so"},
		{Part: dossier.PartSound, Format: "ac-3", Channels: 6}, {Part: dossier.PartContainer, Format: "matroska"}}, dossier.Canonical(p).Entries)
}

func TestTermsMeanThemselves(t *testing.T) {
	var all []string
	for _, v := range []dossier.Vocabulary{dossier.FormatTerm(""), dossier.VideoProfile(""), dossier.Chroma(""), dossier.DynamicRange("")} {
		all = append(all, v.Terms()...)
	}
	for _, term := range all {
		for _, part := range dossier.PartVideo.Values() {
			p := dossier.Canonical(dossier.Decoding{Entries: []dossier.DecodingEntry{{Part: dossier.FormatPart(part), Format: dossier.FormatTerm(term), Profile: dossier.VideoProfile(term), Range: dossier.DynamicRange(term)}}})
			assert.Equal(t, []string{term, term, term}, []string{string(p.Entries[0].Format), string(p.Entries[0].Profile), string(p.Entries[0].Range)})
		}
	}
}

func TestSettlingAFormatTwiceChangesNothing(t *testing.T) {
	words := rapid.SampledFrom([]string{"", "hevc main10", "HEVC", "avc High 10", "ts", " ts", "ac3 5.1", "aac 7.1.4", "vp9 profile-2", "image beside", "pgs inside", "to level 4", "x y z"})
	rapid.Check(t, func(t *rapid.T) {
		f := dossier.Folder{Mix: []dossier.FormatEntry{{Container: dossier.Container(words.Draw(t, "container")), Video: dossier.VideoCodec(words.Draw(t, "video")), Sound: dossier.SoundCodec(words.Draw(t, "sound")),
			Subtitles: dossier.SubtitleForm(words.Draw(t, "subtitles")), OtherSound: []dossier.SoundCodec{dossier.SoundCodec(words.Draw(t, "other sound"))}}}}
		given := slices.Clone(f.Mix[0].OtherSound)
		shared := f.Mix[0].OtherSound
		once := dossier.Canonical(f)
		assert.Equal(t, given, shared, "a list that may be shared is not changed in place")
		kept := once
		kept.Mix = slices.Clone(once.Mix)
		assert.Equal(t, kept, dossier.Canonical(once))
	})
}
