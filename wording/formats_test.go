package wording

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
)

func TestAFormatInOneLine(t *testing.T) {
	e := dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC, Profile: dossier.ProfileMain10, Level: "5.1", Width: 3840, Height: 2160, FrameRate: 23.976, BitDepth: 10, Chroma: dossier.Chroma420, Range: dossier.PQ,
		Sound: dossier.MLP, Channels: 8, SampleRate: 96000, SoundBits: 24, Subtitles: dossier.SubRip, SubtitlesIn: dossier.SubtitlesBeside}
	assert.Equal(t, "Matroska; HEVC main 10, level 5.1, 3840x2160 at 23.976, 10 bits, PQ; MLP 7.1, 96 kHz, 24 bits; SRT beside the file", Format(e))
	assert.Equal(t, "JPEG; 6000x4000", Format(dossier.FormatEntry{Container: dossier.JPEG, Width: 6000, Height: 4000}))
	assert.Equal(t, "grand film; MP3 stereo", Format(dossier.FormatEntry{Container: "grand-film", Sound: dossier.MP3, Channels: 2}))
	row, err := json.Marshal(dossier.DecodingEntry{Part: dossier.PartVideo, Format: "hevc", Profile: dossier.ProfileMain, Level: "4.1", Able: dossier.No, Evidence: dossier.EvidenceDataSheet})
	require.NoError(t, err)
	assert.Equal(t, "not HEVC main up to level 4.1 (data sheet)", FormatRow(row))
	assert.Empty(t, FormatRow([]byte(`{"name":"x"}`)))
}

// Every code has its words.
func TestCodesOfFormatsHaveWords(t *testing.T) {
	for _, l := range format.Limits() {
		assert.Contains(t, limitWords, l)
	}
	for _, o := range forecast.Outcomes {
		assert.NotEmpty(t, Outcomes[o])
	}
	for _, trouble := range contents.Troubles {
		assert.NotEmpty(t, Troubles[string(trouble)], trouble)
	}
	for _, term := range dossier.FormatTerm("").Terms() {
		if _, named := codecNames[term]; !named {
			assert.Contains(t, []string{"text", "styled-text", "image", "teletext"}, term, "a term that people write in another way needs its name")
		}
	}
}

func TestWhyAForecastIsSo(t *testing.T) {
	e := dossier.FormatEntry{Container: dossier.MP4, Video: dossier.HEVC, Sound: dossier.AC3}
	video := func(r format.Reason, l format.Limit, needed, allowed string) *format.Result {
		return &format.Result{Part: dossier.PartVideo, Verdict: format.Cannot, Reason: r, Evidence: dossier.EvidenceProven, Limit: l, Needed: needed, Allowed: allowed,
			Entry: dossier.DecodingEntry{Part: dossier.PartVideo, Format: "hevc", Profile: dossier.ProfileMain10}}
	}
	for want, l := range map[string]forecast.Line{
		"HEVC: the bit depth is 10, and the device goes up to 8 (proven); the server does not convert pictures.":  {Outcome: forecast.Unplayable, Cause: forecast.ByServer, Decides: video(format.BeyondLimit, "bitDepth", "10", "8")},
		"The device does not decode HEVC main 10 (proven); nothing is converted on a path of this kind.":          {Outcome: forecast.Unplayable, Cause: forecast.ByPath, Decides: video(format.Refused, "", "", "")},
		"The device decodes HEVC, but it is not recorded whether up to a level of 5.1.":                           {Outcome: forecast.NotKnown, Cause: forecast.ByRecord, Decides: &format.Result{Part: dossier.PartVideo, Verdict: format.NotKnown, Reason: format.LimitUnknown, Limit: "level", Needed: "5.1"}},
		"It is not recorded whether the device decodes AC-3.":                                                     {Outcome: forecast.NotKnown, Cause: forecast.ByRecord, Decides: &format.Result{Part: dossier.PartSound, Verdict: format.NotKnown, Reason: format.NothingSaid}},
		"The device does not decode HEVC main 10 (proven); whether the server converts pictures is not recorded.": {Outcome: forecast.NotKnown, Cause: forecast.ByRecord, Decides: video(format.Refused, "", "", "")},
		"HEVC is not among the formats that the device is recorded to decode, and that list is complete.":         {Outcome: forecast.PictureConverted, Cause: forecast.ByAbility, Decides: video(format.NotListed, "", "", "")},
	} {
		assert.Equal(t, want, ForecastWhy(l, e))
	}
}

func TestWhatStandsBesideAForecast(t *testing.T) {
	assert.Empty(t, ForecastBeside(forecast.Line{Outcome: forecast.AsIs}, ""))
	assert.Equal(t, []string{"Its subtitles are not shown.", "The link player to projector cannot carry its size and dynamic range, so it is shown with less.", "Converting one takes about 124 Mpx/s (estimated)."},
		ForecastBeside(forecast.Line{Subtitles: forecast.SubtitlesNotShown, Lowered: []format.Limit{"width", "range"}, Mpx: 124.4}, "player to projector"))
	assert.Empty(t, ForecastBeside(forecast.Line{Outcome: forecast.Unplayable, Subtitles: forecast.SubtitlesNotShown}, ""), "nobody misses the subtitles of a film that does not play")
}

func TestSharesAreNeverRoundedAway(t *testing.T) {
	for p, want := range map[float64]string{0: "0 %", 0.2: "under 1 %", 1: "1 %", 49.6: "50 %", 99: "99 %", 99.7: "over 99 %", 100: "100 %"} {
		assert.Equal(t, want, Percent(p))
	}
	cell := forecast.Cell{Of: map[forecast.Outcome]forecast.Share{forecast.Silent: {Items: 1, Hours: 0.1}, forecast.AsIs: {Items: 400, Hours: 600}}, Unread: 3}
	assert.Equal(t, "over 99 % as it is, under 1 % silent, 3 items not read", ForecastShares(cell))
	assert.Equal(t, "all as it is", ForecastShares(forecast.Cell{Of: map[forecast.Outcome]forecast.Share{forecast.AsIs: {}}}))
	assert.Equal(t, "25 % as it is, 75 % does not play", ForecastShares(forecast.Cell{Of: map[forecast.Outcome]forecast.Share{forecast.AsIs: {Items: 1}, forecast.Unplayable: {Items: 3}}}))
	assert.Equal(t, "not known", ForecastShares(forecast.Cell{}))
	assert.Equal(t, "4 items not read", ForecastShares(forecast.Cell{Unread: 4}))
}

func TestWhetherAServerKeepsUp(t *testing.T) {
	for want, c := range map[string]forecast.Converter{
		"media has to convert pictures for 2 devices; the heaviest of them, from Films to lamp, takes about 300 Mpx/s (estimated). It manages 400 Mpx/s, which is enough for 1 at once. With one more, all of them stall.": {Devices: 2, Mpx: 300, Budget: 400, AtOnce: 1},
		"media has to convert pictures for 1 device; the heaviest of them, from Films to lamp, takes about 300 Mpx/s (estimated). It manages 400 Mpx/s, which is enough for 1 at once.":                                    {Devices: 1, Mpx: 300, Budget: 400, AtOnce: 1},
		"media has to convert pictures for 1 device; the heaviest of them, from Films to lamp, takes about 300 Mpx/s (estimated). It manages 200 Mpx/s: too little even for one. The picture will stall.":                  {Devices: 1, Mpx: 300, Budget: 200},
		"media has to convert pictures for 1 device; the heaviest of them, from Films to lamp, takes about 300 Mpx/s (estimated). How much it manages is not recorded, so it is not known whether it keeps up.":            {Devices: 1, Mpx: 300},
		"media has to convert pictures for 1 device; what that takes is not known, as the size of the pictures is not recorded.":                                                                                           {Devices: 1, Budget: 200},
	} {
		assert.Equal(t, want, ForecastConverter(c, "media", "lamp", "Films"))
	}
}

func TestWhatConvertingAheadWouldBring(t *testing.T) {
	a := forecast.Ahead{Plays: 2, Of: 3, Gained: forecast.Share{Items: 1}}
	assert.Equal(t, "Converted, 1 item of Films would also be played by TV-40 and stick, which makes 2 of 3 devices. Put the copies into a folder of their own: beside the originals, the server lists both.", ForecastAhead(a, "Films", []string{"TV-40", "stick"}))
	a.Before, a.After, a.Largest = 500, 40, 4.3
	assert.Contains(t, ForecastAhead(a, "Films", []string{"x"}), "500 GB become about 40 GB (estimated). A copy has about 4.3 GB: too large")
	a.Largest = 4.2
	assert.NotContains(t, ForecastAhead(a, "Films", []string{"x"}), "FAT32")
}

// FormatRow tells its rows from others by a member that no other group may have.
func TestNoOtherGroupLooksLikeAFormat(t *testing.T) {
	for _, k := range dossier.Kinds {
		for _, f := range k.Fields {
			for _, g := range f.Group {
				if g.Name == "container" || g.Name == "part" {
					assert.Contains(t, []string{"folder mix", "decoding entries"}, k.Name+" "+f.Name)
				}
			}
		}
	}
}
