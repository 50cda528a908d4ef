package dossier

import (
	"slices"
	"strconv"
	"strings"
)

// spellings are other ways to write the terms of formats, in lower case: what people write, and what
// older records hold.
var spellings = map[string]string{
	"mkv": "matroska", "mka": "matroska", "mov": "quicktime", "m4v": "mp4", "m4a": "mp4", "ts": "mpeg-ts", "mts": "m2ts", "mpeg": "mpeg-ps", "mpg": "mpeg-ps", "vob": "mpeg-ps", "wmv": "asf", "wave": "wav",
	"jpg": "jpeg", "heic": "heif", "tif": "tiff",
	"h.264": "h264", "avc": "h264", "h265": "hevc", "h.265": "hevc", "h266": "vvc", "mpeg1": "mpeg-1", "mpeg2": "mpeg-2", "mpeg4": "mpeg-4", "vc1": "vc-1",
	"aac": "aac-lc", "heaac": "he-aac", "aac-he": "he-aac", "ac3": "ac-3", "eac3": "e-ac-3", "eac-3": "e-ac-3", "truehd": "mlp", "lpcm": "pcm",
	"main10": "main-10", "high10": "high-10", "main 10": "main-10", "high 10": "high-10",
	"subrip": "srt", "vtt": "webvtt", "ssa": "ass", "pgs": "bd-presentation", "vobsub": "dvd-subpicture", "tx3g": "3gpp-timed-text",
	"hdr10": "pq", "yuv420": "4:2:0",
}

// spell returns the term that a word means, or the word as it is.
func spell[T ~string](w T) T {
	if term, known := spellings[strings.ToLower(strings.TrimSpace(string(w)))]; known {
		return T(term)
	}
	return w
}

// spellAll returns the list in terms: the same one where it is so already, as it may be shared.
func spellAll[T ~string](list []T) []T {
	if !slices.ContainsFunc(list, func(w T) bool { return spell(w) != w }) {
		return list
	}
	list = slices.Clone(list)
	for i := range list {
		list[i] = spell(list[i])
	}
	return list
}

// settle puts an entry into the terms of the vocabulary. A text such as "hevc main10" or "ac3 5.1", which
// older records hold in place of several values, is split into them; anything else is left as it is.
func (e *FormatEntry) settle() {
	e.Container, e.Profile, e.Range = spell(e.Container), spell(e.Profile), spell(e.Range)
	var profile VideoProfile
	if e.Video, profile = codecAndProfile(e.Video); e.Profile == "" {
		e.Profile = profile
	}
	var channels int
	if e.Sound, channels = codecAndChannels(e.Sound); e.Channels == 0 {
		e.Channels = channels
	}
	e.OtherSound, e.OtherSubtitles = spellAll(e.OtherSound), spellAll(e.OtherSubtitles)
	e.Subtitles = spell(e.Subtitles)
	if form, place, two := strings.Cut(string(e.Subtitles), " "); two && e.SubtitlesIn == "" && slices.Contains(SubtitlesInside.Values(), place) {
		e.Subtitles, e.SubtitlesIn = spell(SubtitleForm(form)), SubtitlePlace(place)
	}
}

// settle gives an entry the terms of the vocabulary, as for FormatEntry.
func (e *DecodingEntry) settle() {
	e.Profile, e.Range = spell(e.Profile), spell(e.Range)
	switch e.Part {
	case PartVideo:
		codec, profile := codecAndProfile(VideoCodec(e.Format))
		if e.Format = FormatTerm(codec); e.Profile == "" {
			e.Profile = profile
		}
	case PartSound:
		codec, channels := codecAndChannels(SoundCodec(e.Format))
		if e.Format = FormatTerm(codec); e.Channels == 0 {
			e.Channels = channels
		}
	default:
		e.Format = spell(e.Format)
	}
	if level, is := strings.CutPrefix(e.Limits, "to level "); is && e.Level == "" && !strings.Contains(level, " ") {
		e.Level, e.Limits = level, ""
	}
}

// codecAndProfile takes a text such as "hevc main10" apart.
func codecAndProfile(text VideoCodec) (VideoCodec, VideoProfile) {
	codec, rest, two := strings.Cut(strings.TrimSpace(string(text)), " ")
	profile := VideoProfile(strings.ReplaceAll(strings.ToLower(strings.TrimSpace(rest)), " ", "-"))
	if two && slices.Contains(profile.Terms(), string(spell(profile))) {
		return spell(VideoCodec(codec)), spell(profile)
	}
	return spell(text), ""
}

// codecAndChannels takes a text such as "ac3 5.1" apart: five and one are six channels.
func codecAndChannels(text SoundCodec) (SoundCodec, int) {
	codec, rest, two := strings.Cut(strings.TrimSpace(string(text)), " ")
	full, low, dotted := strings.Cut(rest, ".")
	n, err := strconv.Atoi(full)
	m, err2 := strconv.Atoi(low)
	if !two || !dotted || err != nil || err2 != nil || n < 1 || n > 32 || m < 0 || m > 4 {
		return spell(text), 0
	}
	return spell(SoundCodec(codec)), n + m
}
