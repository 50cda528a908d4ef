package format_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

func TestWhatATestWithASampleShows(t *testing.T) {
	film := dossier.FormatEntry{Container: dossier.MP4, Video: "h264", Profile: "high", Level: "4", Width: 1920, Height: 1080, FrameRate: 25, BitDepth: 8, Range: dossier.SDR, Sound: "ac-3", Channels: 6, SampleRate: 48000, Subtitles: "srt"}
	song := dossier.FormatEntry{Container: dossier.FLACFile, Sound: "flac", Channels: 2, SampleRate: 96000, SoundBits: 24}
	container := dossier.DecodingEntry{Part: dossier.PartContainer, Format: "mp4", Able: dossier.Yes, Evidence: dossier.EvidenceProven}
	picture := dossier.DecodingEntry{Part: dossier.PartVideo, Format: "h264", Profile: "high", Level: "4", Width: 1920, Height: 1080, FrameRate: 25, BitDepth: 8, Able: dossier.Yes, Evidence: dossier.EvidenceProven}
	no := func(d dossier.DecodingEntry) dossier.DecodingEntry { d.Able = dossier.No; return d }
	sound := dossier.DecodingEntry{Part: dossier.PartSound, Format: "ac-3", Channels: 6, SampleRate: 48000, Able: dossier.Yes, Evidence: dossier.EvidenceProven}
	for _, c := range []struct {
		name     string
		recorded []dossier.DecodingEntry
		of       dossier.FormatEntry
		test     string
		passed   bool
		want     []dossier.DecodingEntry
	}{
		{"it plays", nil, film, "plays", true, []dossier.DecodingEntry{container, picture}},
		{"it does not, and the container may be to blame", nil, film, "plays", false, nil},
		{"it does not, and the container is known to be good", []dossier.DecodingEntry{container}, film, "plays", false, []dossier.DecodingEntry{no(picture)}},
		{"its sound is heard", nil, film, "sound", true, []dossier.DecodingEntry{sound}},
		{"it is silent", nil, film, "sound", false, []dossier.DecodingEntry{no(sound)}},
		{"its subtitles are seen", nil, film, "subtitles", true, []dossier.DecodingEntry{{Part: dossier.PartSubtitles, Format: "srt", Able: dossier.Yes, Evidence: dossier.EvidenceProven}}},
		{"a song plays", nil, song, "plays", true, []dossier.DecodingEntry{
			{Part: dossier.PartContainer, Format: "flac", Able: dossier.Yes, Evidence: dossier.EvidenceProven},
			{Part: dossier.PartSound, Format: "flac", Channels: 2, SampleRate: 96000, SoundBits: 24, Able: dossier.Yes, Evidence: dossier.EvidenceProven}}},
		{"that it stops says nothing of decoding", nil, film, "stops", true, nil},
		{"a song has no sound of its own to test", nil, song, "sound", true, nil},
	} {
		assert.Equal(t, c.want, format.Shown(c.recorded, c.of, c.test, c.passed), c.name)
	}

	// A later proof goes before an earlier one of the same; what is known otherwise stays.
	declared := dossier.DecodingEntry{Part: dossier.PartVideo, Format: "h264", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}
	once := format.WithProof([]dossier.DecodingEntry{declared}, []dossier.DecodingEntry{no(picture)})
	assert.Equal(t, []dossier.DecodingEntry{declared, no(picture)}, once)
	assert.Equal(t, []dossier.DecodingEntry{declared, picture}, format.WithProof(once, []dossier.DecodingEntry{picture}))
	assert.Equal(t, format.Can, format.Decodes(dossier.Decoding{Entries: format.WithProof(nil, []dossier.DecodingEntry{picture})}, dossier.PartVideo, film).Verdict)
}
