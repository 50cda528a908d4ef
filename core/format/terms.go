// Package format compares what files are with what devices can decode, in the terms of the standards.
package format

import (
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
)

// codec is what is to be known of a video codec.
type codec struct {
	profiles map[dossier.VideoProfile][]dossier.VideoProfile // each with those that its decoders play too
	levels   []string                                        // in their order, without the word for a tier
	plain    dossier.VideoProfile                            // the highest that is taken for granted where only the codec is known
	level    string                                          // and the highest level so
}

// levelsTo63 are the levels that HEVC and AV1 share (ISO/IEC 23008-2, table A.8; AV1, annex A.3).
var hevcLevels = strings.Fields("1 2 2.1 3 3.1 4 4.1 5 5.1 5.2 6 6.1 6.2 6.3")

// codecs holds profiles and levels: ISO/IEC 14496-10, A.2 and A.3; 23008-2, A.3 and A.4; 13818-2,
// table 8-15; 14496-2, annex G; SMPTE 421M, annex D; AV1, annex A. That a decoder of a later VP9
// profile plays the earlier of the same sampling is judgement; the others are required.
var codecs = map[dossier.VideoCodec]codec{
	dossier.H264: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileConstrainedBaseline: nil,
		dossier.ProfileBaseline:            {dossier.ProfileConstrainedBaseline},
		dossier.ProfileExtended:            {dossier.ProfileBaseline},
		dossier.ProfileMain:                {dossier.ProfileConstrainedBaseline},
		dossier.ProfileHigh:                {dossier.ProfileMain},
		dossier.ProfileHigh10:              {dossier.ProfileHigh},
		dossier.ProfileHigh422:             {dossier.ProfileHigh10},
		dossier.ProfileHigh444:             {dossier.ProfileHigh422},
	}, strings.Fields("1 1b 1.1 1.2 1.3 2 2.1 2.2 3 3.1 3.2 4 4.1 4.2 5 5.1 5.2 6 6.1 6.2"), dossier.ProfileHigh, "4.1"},
	dossier.HEVC: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileMain:            nil,
		dossier.ProfileMain10:          {dossier.ProfileMain},
		dossier.ProfileRangeExtensions: nil,
	}, hevcLevels, dossier.ProfileMain, "4.1"},
	dossier.AV1: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileMain:         nil,
		dossier.ProfileHigh:         {dossier.ProfileMain},
		dossier.ProfileProfessional: {dossier.ProfileHigh},
	}, strings.Fields("2 2.1 2.2 2.3 3 3.1 3.2 3.3 4 4.1 4.2 4.3 5 5.1 5.2 5.3 6 6.1 6.2 6.3"), dossier.ProfileMain, "4.1"},
	dossier.VP9: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.Profile0: nil,
		dossier.Profile1: {dossier.Profile0},
		dossier.Profile2: {dossier.Profile0},
		dossier.Profile3: {dossier.Profile1, dossier.Profile2},
	}, strings.Fields("1 1.1 2 2.1 3 3.1 4 4.1 5 5.1 5.2 6 6.1 6.2"), dossier.Profile0, "4.1"},
	dossier.MPEG2: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileSimple: nil,
		dossier.ProfileMain:   {dossier.ProfileSimple},
		dossier.ProfileHigh:   {dossier.ProfileMain},
		dossier.Profile422:    {dossier.ProfileMain},
	}, []string{"low", "main", "high-1440", "high"}, dossier.ProfileMain, "high"},
	dossier.MPEG4: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileSimple:         nil,
		dossier.ProfileAdvancedSimple: {dossier.ProfileSimple},
	}, strings.Fields("0 0b 1 2 3 3b 4 4a 5 6"), dossier.ProfileAdvancedSimple, "5"},
	dossier.VC1: {map[dossier.VideoProfile][]dossier.VideoProfile{
		dossier.ProfileSimple:   nil,
		dossier.ProfileMain:     {dossier.ProfileSimple},
		dossier.ProfileAdvanced: nil,
	}, []string{"0", "low", "1", "medium", "2", "high", "3", "4"}, dossier.ProfileAdvanced, "3"},
}

// Profiles returns the profiles of a codec in their order, none if it has no profiles or is not known.
func Profiles(c dossier.VideoCodec) []dossier.VideoProfile {
	var out []dossier.VideoProfile
	for _, term := range dossier.VideoProfile("").Terms() {
		if _, has := codecs[c].profiles[dossier.VideoProfile(term)]; has {
			out = append(out, dossier.VideoProfile(term))
		}
	}
	return out
}

// Plays reports whether a decoder of one profile plays another of the same codec.
func Plays(c dossier.VideoCodec, decoder, file dossier.VideoProfile) bool {
	if decoder == file {
		return true
	}
	return slices.ContainsFunc(codecs[c].profiles[decoder], func(lower dossier.VideoProfile) bool { return Plays(c, lower, file) })
}

// level returns the place of a level among those of its codec, and whether it is of the high tier;
// known is false for one that the codec does not have.
func level(c dossier.VideoCodec, text string) (place int, high, known bool) {
	name, tier, _ := strings.Cut(strings.ToLower(strings.TrimSpace(text)), " ")
	if whole, zero := strings.CutSuffix(name, ".0"); zero {
		name = whole
	}
	place = slices.Index(codecs[c].levels, name)
	return place, tier == "high", place >= 0 && (tier == "" || tier == "high" || tier == "main")
}

// ImageSubtitles reports whether subtitles are images, which a device can only lay over the picture;
// known is false for a form that is not in the vocabulary.
func ImageSubtitles(f dossier.SubtitleForm) (image, known bool) {
	switch f {
	case dossier.SubtitleImage, dossier.DVDSubpicture, dossier.BDPresentation, dossier.DVBSubtitle:
		return true, true
	}
	return false, slices.Contains(f.Terms(), string(f))
}

// Size names the class of a picture's size, as people speak of it.
func Size(width, height int) string {
	switch {
	case width == 0 && height == 0:
		return ""
	case width <= 1024 && height <= 576:
		return "sd"
	case width <= 1280 && height <= 720:
		return "720"
	case width <= 2048 && height <= 1088:
		return "1080"
	case width <= 4096 && height <= 2304:
		return "uhd"
	}
	return strconv.Itoa(height)
}
