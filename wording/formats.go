package wording

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/titles"
)

// codecNames are the terms that people write in capitals.
var codecNames = map[string]string{"h264": "H.264", "hevc": "HEVC", "av1": "AV1", "vp8": "VP8", "vp9": "VP9", "vvc": "VVC", "mpeg-1": "MPEG-1", "mpeg-2": "MPEG-2", "mpeg-4": "MPEG-4 Visual", "vc-1": "VC-1", "theora": "Theora", "mjpeg": "Motion JPEG", "dv": "DV",
	"aac-lc": "AAC", "he-aac": "HE-AAC", "mp2": "MP2", "mp3": "MP3", "ac-3": "AC-3", "e-ac-3": "E-AC-3", "e-ac-3-joc": "E-AC-3 with objects", "ac-4": "AC-4", "mlp": "MLP", "dca": "DCA", "dca-lossless": "DCA lossless", "flac": "FLAC", "alac": "ALAC", "pcm": "PCM", "adpcm": "ADPCM", "vorbis": "Vorbis", "opus": "Opus",
	"mp4": "MP4", "quicktime": "QuickTime", "matroska": "Matroska", "webm": "WebM", "mpeg-ts": "MPEG-TS", "m2ts": "M2TS", "mpeg-ps": "MPEG-PS", "avi": "AVI", "asf": "ASF", "dvd-video": "DVD-Video", "bd-video": "BD-Video", "ogg": "Ogg", "mpeg-audio": "MPEG audio", "adts": "ADTS", "wav": "WAV", "aiff": "AIFF",
	"jpeg": "JPEG", "png": "PNG", "gif": "GIF", "webp": "WebP", "heif": "HEIF", "tiff": "TIFF",
	"srt": "SRT", "webvtt": "WebVTT", "3gpp-timed-text": "3GPP timed text", "ttml": "TTML", "ass": "ASS", "cea-608": "CEA-608", "dvd-subpicture": "DVD subpictures", "bd-presentation": "BD presentation graphics", "dvb-subtitle": "DVB subtitles",
	"sdr": "SDR", "hlg": "HLG", "pq": "PQ", "pq-dynamic": "PQ with dynamic metadata", "pq-dynamic-without-base": "PQ with dynamic metadata, no base layer"}

// FormatTerm says a container, a codec, a form of subtitles or a dynamic range.
func FormatTerm[T ~string](term T) string {
	if name, known := codecNames[string(term)]; known {
		return name
	}
	return Plain(string(term))
}

// Picture says how the picture of a format is, such as "HEVC main 10, level 5.1, 3840x2160 at 23.976, 10 bits, PQ".
func Picture(e dossier.FormatEntry) string {
	var parts []string
	if e.Video != "" {
		parts = append(parts, strings.TrimSpace(FormatTerm(e.Video)+" "+Plain(string(e.Profile))))
	}
	if e.Level != "" {
		parts = append(parts, "level "+e.Level)
	}
	if e.Width > 0 && e.Height > 0 {
		size := fmt.Sprintf("%dx%d", e.Width, e.Height)
		if e.FrameRate > 0 {
			size += " at " + number(e.FrameRate)
		}
		parts = append(parts, size)
	} else if e.Height > 0 {
		parts = append(parts, fmt.Sprintf("%d lines", e.Height))
	}
	if e.Interlaced == dossier.Yes {
		parts = append(parts, "interlaced")
	}
	if e.BitDepth > 8 {
		parts = append(parts, fmt.Sprintf("%d bits", e.BitDepth))
	}
	if e.Chroma != "" && e.Chroma != dossier.Chroma420 {
		parts = append(parts, string(e.Chroma))
	}
	if e.Range != "" && e.Range != dossier.SDR {
		parts = append(parts, FormatTerm(e.Range))
	}
	return strings.Join(parts, ", ")
}

// Channels says a number of channels as people say it: six are 5.1.
func Channels(n int) string {
	switch {
	case n == 0:
		return ""
	case n == 1:
		return "mono"
	case n == 2:
		return "stereo"
	case n == 6, n == 7, n == 8:
		return fmt.Sprintf("%d.1", n-1)
	}
	return fmt.Sprintf("%d channels", n)
}

// Sound says how the sound of a format is, such as "E-AC-3 5.1".
func Sound(e dossier.FormatEntry) string {
	if e.Sound == "" {
		return ""
	}
	parts := []string{strings.TrimSpace(FormatTerm(e.Sound) + " " + Channels(e.Channels))}
	if e.SampleRate > 48000 {
		parts = append(parts, number(float64(e.SampleRate)/1000)+" kHz")
	}
	if e.SoundBits > 16 {
		parts = append(parts, fmt.Sprintf("%d bits", e.SoundBits))
	}
	return strings.Join(parts, ", ")
}

// Subtitles says what subtitles there are and where.
func Subtitles(e dossier.FormatEntry) string {
	if e.Subtitles == "" {
		return ""
	}
	s := FormatTerm(e.Subtitles)
	if e.SubtitlesIn == dossier.SubtitlesBeside {
		s += " beside the file"
	}
	return s
}

// Format says a whole entry of a mix in one line.
func Format(e dossier.FormatEntry) string {
	parts := []string{FormatTerm(e.Container)}
	for _, p := range []string{Picture(e), Sound(e), Subtitles(e)} {
		if p != "" {
			parts = append(parts, p)
		}
	}
	return strings.Join(parts, "; ")
}

// Ability says an entry of a decoding profile, such as "HEVC main 10 up to level 5.1, 3840x2160".
func Ability(d dossier.DecodingEntry) string {
	e := dossier.FormatEntry{Width: d.Width, Height: d.Height, FrameRate: d.FrameRate, BitDepth: d.BitDepth, Chroma: d.Chroma, Range: d.Range, Interlaced: d.Interlaced}
	var upTo []string
	if d.Level != "" {
		upTo = append(upTo, "level "+d.Level)
	}
	if p := Picture(e); p != "" {
		upTo = append(upTo, p)
	}
	if d.Channels > 0 {
		upTo = append(upTo, Channels(d.Channels))
	}
	if d.SampleRate > 0 {
		upTo = append(upTo, number(float64(d.SampleRate)/1000)+" kHz")
	}
	if d.RateMbps > 0 {
		upTo = append(upTo, number(d.RateMbps)+" Mb/s")
	}
	s := strings.TrimSpace(FormatTerm(d.Format) + " " + Plain(string(d.Profile)))
	if len(upTo) > 0 {
		s += " up to " + strings.Join(upTo, ", ")
	}
	if d.Limits != "" {
		s += " (" + d.Limits + ")"
	}
	return s
}

// FormatRow says an entry of a mix or of a decoding profile that is given as JSON, and nothing for another object.
func FormatRow(row []byte) string {
	var is struct{ Container, Part *string }
	if json.Unmarshal(row, &is) != nil {
		return ""
	}
	var e dossier.FormatEntry
	var d dossier.DecodingEntry
	switch {
	case is.Container != nil && json.Unmarshal(row, &e) == nil:
		said := Format(e)
		if e.Items > 0 {
			said = Count(e.Items, "item") + ": " + said
		}
		return said
	case is.Part != nil && json.Unmarshal(row, &d) == nil:
		if d.Able == dossier.No {
			return "not " + Ability(d) + " (" + Plain(string(d.Evidence)) + ")"
		}
		return Ability(d) + " (" + Plain(string(d.Evidence)) + ")"
	}
	return ""
}

func number(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

// Troubles say why a file could not be read, or only in part.
var Troubles = map[string]string{
	"no-right":     "Permission to read it was refused.",
	"half-copied":  "It is there only in part: a copy or a recording that did not end.",
	"damaged":      "It is damaged.",
	"not-media":    "It is named like a media file, but is not one.",
	"changing":     "It changed while it was read: it is being written.",
	"no-answer":    "The disk or share did not answer.",
	"gone":         "It disappeared after the folder was listed.",
	"cannot-read":  "The disk or share gave an error.",
	"empty":        "It is empty.",
	"link-nowhere": "It is a link to something that is not there.",
}

// Difference says in a few words how a title differs between the disk and the server's list.
func Difference(l titles.Line) string {
	switch l.Sort {
	case titles.NotListed:
		return "not listed"
	case titles.ListedAs:
		return "listed as " + Plain(string(l.As))
	case titles.ListedTwice:
		return fmt.Sprintf("listed %d times", l.Times)
	}
	return "not found on the disk"
}

// DifferenceSorts say the same of all that differ in one way.
var DifferenceSorts = map[titles.Sort]string{titles.NotListed: "not listed", titles.ListedAs: "listed as something else", titles.ListedTwice: "listed more than once", titles.NotOnDisk: "listed, but not found on the disk"}

// Compared says what a comparison of the disk with the server's list comes to.
func Compared(c titles.Comparison) string {
	return fmt.Sprintf("%s on the disk that can be read, %s on the list of the server; %s.", Count(c.OnDisk, "item"), Count(c.Listed, "title"), Agree(c.Matched, "is the same", "are the same"))
}

// TitleCauses say why a title is not listed as it should be.
var TitleCauses = map[titles.Cause]string{
	titles.CauseHalfCopy: "it is there only in part", titles.CauseNoRight: "there is no right to read it", titles.CauseBroken: "the file cannot be read", titles.CauseMixed: "it is of another kind than the folder",
	titles.CauseNewer: "it came after the folder was last indexed", titles.CauseName: "servers take names like this for something else", titles.CauseDuplicate: "another item has the same name",
	titles.CauseConverted: "a converted copy lies beside the original", titles.CauseCopies: "the same file lies in two places", titles.CauseSources: "one file is listed in two places", titles.CauseUnknown: "not known",
}
