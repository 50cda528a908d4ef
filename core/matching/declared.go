package matching

import (
	"cmp"
	"mime"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// formats are the media types that devices declare, as parts of a file: types of RFC 4337, 3003,
// 9639, 3534, 6381 and those that devices use without a registration.
var formats = map[string]dossier.DecodingEntry{
	"video/mp4": container("mp4"), "video/x-m4v": container("mp4"), "video/quicktime": container("mov"), "video/x-matroska": container("mkv"), "video/x-mkv": container("mkv"), "video/webm": container("webm"),
	"video/mpeg": container("mpeg"), "video/mp2t": container("mpeg-ts"), "video/x-msvideo": container("avi"), "video/avi": container("avi"), "video/ogg": container("ogg"),
	"audio/mpeg": sound("mp3"), "audio/mp4": sound("aac"), "audio/aac": sound("aac"), "audio/x-m4a": sound("aac"), "audio/flac": sound("flac"), "audio/x-flac": sound("flac"), "audio/ogg": sound("vorbis"), "audio/opus": sound("opus"),
	"audio/wav": sound("pcm"), "audio/x-wav": sound("pcm"), "audio/l16": sound("pcm"), "audio/ac3": sound("ac3"), "audio/eac3": sound("eac3"),
	"image/jpeg": container("jpeg"), "image/png": container("png"), "image/gif": container("gif"), "image/heic": container("heic"), "image/webp": container("webp"),
	"text/vtt": subtitles("webvtt"), "application/x-subrip": subtitles("srt"), "text/srt": subtitles("srt"), "application/ttml+xml": subtitles("ttml"),
}

// codecs are the first parts of codec names (RFC 6381) as formats.
var codecs = map[string]dossier.DecodingEntry{
	"avc1": video("h264"), "avc3": video("h264"), "hvc1": video("hevc"), "hev1": video("hevc"), "mp4v": video("mpeg4"), "vp09": video("vp9"), "vp9": video("vp9"), "av01": video("av1"), "mp2v": video("mpeg2"),
	"mp4a": sound("aac"), "ac-3": sound("ac3"), "ec-3": sound("eac3"), "flac": sound("flac"), "fLaC": sound("flac"), "opus": sound("opus"), "Opus": sound("opus"),
}

func container(f string) dossier.DecodingEntry { return declared(dossier.PartContainer, f) }
func video(f string) dossier.DecodingEntry     { return declared(dossier.PartVideo, f) }
func sound(f string) dossier.DecodingEntry     { return declared(dossier.PartSound, f) }
func subtitles(f string) dossier.DecodingEntry { return declared(dossier.PartSubtitles, f) }

func declared(part dossier.FormatPart, f string) dossier.DecodingEntry {
	return dossier.DecodingEntry{Part: part, Format: f, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}
}

// mostProtocols bounds what is read of one declaration.
const mostProtocols = 500

// Declared reads what a device says that it can receive: the Sink of GetProtocolInfo
// (ConnectionManager:1, 2.2.1 and 2.5.2), a list of protocol:network:content format:more. Only what
// comes over HTTP counts. A device that says it takes everything has said nothing.
func Declared(sink string) []dossier.DecodingEntry {
	var out []dossier.DecodingEntry
	add := func(e dossier.DecodingEntry) {
		if !slices.Contains(out, e) {
			out = append(out, e)
		}
	}
	for n, one := range protocols(sink) {
		parts := strings.SplitN(one, ":", 4)
		if n >= mostProtocols || len(parts) < 3 || !strings.EqualFold(strings.TrimSpace(parts[0]), "http-get") {
			continue
		}
		kind, values, err := mime.ParseMediaType(parts[2])
		if err != nil {
			kind, _, _ = strings.Cut(strings.ToLower(strings.TrimSpace(parts[2])), ";")
		}
		if e, known := formats[kind]; known {
			add(e)
		}
		for codec := range strings.SplitSeq(values["codecs"], ",") {
			name, _, _ := strings.Cut(strings.TrimSpace(codec), ".")
			if e, known := codecs[name]; known {
				add(e)
			}
		}
	}
	slices.SortFunc(out, func(a, b dossier.DecodingEntry) int {
		return cmp.Or(cmp.Compare(partOrder(a.Part), partOrder(b.Part)), cmp.Compare(a.Format, b.Format))
	})
	return out
}

func partOrder(p dossier.FormatPart) int { return slices.Index(p.Values(), string(p)) }

// protocols splits a list at its commas, but not within quotes.
func protocols(list string) []string {
	quoted := false
	return strings.FieldsFunc(list, func(r rune) bool {
		if r == '"' {
			quoted = !quoted
		}
		return r == ',' && !quoted
	})
}

// OfferedFor returns the content that a device with these abilities has a use for; none means
// everything.
func OfferedFor(entries []dossier.DecodingEntry) []dossier.ContentKind {
	moving, still, heard := false, false, false
	for _, e := range entries {
		picture := slices.Contains([]string{"jpeg", "png", "gif", "heic", "webp"}, e.Format) && e.Part == dossier.PartContainer
		still = still || picture
		moving = moving || e.Part == dossier.PartVideo || e.Part == dossier.PartContainer && !picture
		heard = heard || e.Part == dossier.PartSound
	}
	switch {
	case moving || heard && still:
		return nil
	case heard:
		return []dossier.ContentKind{dossier.Music}
	case still:
		return []dossier.ContentKind{dossier.Photo}
	}
	return nil
}

// classes are UPnP classes (ContentDirectory:1, appendix C) as kinds of content, the narrower first.
var classes = []struct {
	class string
	kind  dossier.ContentKind
}{
	{"object.item.videoItem.videoBroadcast", dossier.LiveTV}, {"object.item.audioItem.audioBroadcast", dossier.Radio}, {"object.item.audioItem.audioBook", dossier.Audiobook},
	{"object.item.videoItem.movie", dossier.Film}, {"object.item.audioItem", dossier.Music}, {"object.item.imageItem", dossier.Photo}, {"object.item.videoItem", dossier.HomeVideo},
}

// ContentOf returns the kind of content that items of these classes are, by most of them, and by the
// folder's title where the class leaves it open: series and films are both videos.
func ContentOf(title string, class []string) dossier.ContentKind {
	counts := map[dossier.ContentKind]int{}
	for _, c := range class {
		for _, known := range classes {
			if c == known.class || strings.HasPrefix(c, known.class+".") {
				counts[known.kind]++
				break
			}
		}
	}
	var best dossier.ContentKind
	for _, known := range classes {
		if counts[known.kind] > counts[best] {
			best = known.kind
		}
	}
	if best == dossier.HomeVideo || best == dossier.Film || best == "" {
		return cmp.Or(titles[strings.ToLower(title)], best)
	}
	return best
}

// titles are what folders are called whose items are no more than videos.
var titles = map[string]dossier.ContentKind{"series": dossier.Series, "episodes": dossier.Series, "films": dossier.Film, "movies": dossier.Film, "music": dossier.Music,
	"photos": dossier.Photo, "pictures": dossier.Photo, "recordings": dossier.LiveTV, "channels": dossier.LiveTV, "radio": dossier.Radio, "audiobooks": dossier.Audiobook}

// Product is one product token of a SERVER or Server line (RFC 9110, 10.1.5).
type Product struct{ Name, Version string }

// Products reads such a line. The version of UPnP that stands among them is left out, as are
// comments in brackets.
func Products(line string) []Product {
	var out []Product
	depth := 0
	for word := range strings.FieldsFuncSeq(strings.ReplaceAll(Clean(line), ",", " "), func(r rune) bool { return r == ' ' }) {
		opened := strings.Count(word, "(")
		depth += opened - strings.Count(word, ")")
		if opened > 0 || depth > 0 || strings.Contains(word, ")") {
			depth = max(depth, 0)
			continue
		}
		name, version, _ := strings.Cut(word, "/")
		if name != "" && !strings.EqualFold(name, "UPnP") && len(out) < 8 {
			out = append(out, Product{name, version})
		}
	}
	return out
}
