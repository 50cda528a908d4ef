package matching

import (
	"cmp"
	"fmt"
	"mime"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

// formats are the media types that devices declare, as parts of a file: types of RFC 4337, 3003,
// 9639, 3534, 6381 and those that devices use without a registration.
var formats = map[string]dossier.DecodingEntry{
	"video/mp4": container(dossier.MP4), "video/x-m4v": container(dossier.MP4), "video/quicktime": container(dossier.QuickTime), "video/x-matroska": container(dossier.Matroska), "video/matroska": container(dossier.Matroska), "video/x-mkv": container(dossier.Matroska), "video/webm": container(dossier.WebM),
	"video/mpeg": container(dossier.MPEGPS), "video/mp2t": container(dossier.MPEGTS), "video/vnd.dlna.mpeg-tts": container(dossier.M2TS), "video/x-msvideo": container(dossier.AVI), "video/avi": container(dossier.AVI), "video/ogg": container(dossier.Ogg),
	"audio/mpeg": sound(dossier.MP3), "audio/mp4": sound(dossier.AAC), "audio/aac": sound(dossier.AAC), "audio/x-m4a": sound(dossier.AAC), "audio/flac": sound(dossier.FLAC), "audio/x-flac": sound(dossier.FLAC), "audio/ogg": sound(dossier.Vorbis), "audio/opus": sound(dossier.Opus),
	"audio/wav": sound(dossier.PCM), "audio/x-wav": sound(dossier.PCM), "audio/l16": sound(dossier.PCM), "audio/ac3": sound(dossier.AC3), "audio/eac3": sound(dossier.EAC3),
	"image/jpeg": container(dossier.JPEG), "image/png": container(dossier.PNG), "image/gif": container(dossier.GIF), "image/heic": container(dossier.HEIF), "image/heif": container(dossier.HEIF), "image/webp": container(dossier.WebP), "image/tiff": container(dossier.TIFF),
	"text/vtt": subtitles(dossier.WebVTT), "application/x-subrip": subtitles(dossier.SubRip), "text/srt": subtitles(dossier.SubRip), "application/ttml+xml": subtitles(dossier.TTML),
}

func container(c dossier.Container) dossier.DecodingEntry {
	return format.Entry(dossier.PartContainer, c)
}

func sound(c dossier.SoundCodec) dossier.DecodingEntry { return format.Entry(dossier.PartSound, c) }

func subtitles(f dossier.SubtitleForm) dossier.DecodingEntry {
	return format.Entry(dossier.PartSubtitles, f)
}

// mostProtocols bounds what is read of one declaration.
const mostProtocols = 500

// Declared reads what a device says that it can receive: the Sink of GetProtocolInfo
// (ConnectionManager:1, 2.2.1 and 2.5.2), a list of protocol:network:content format:more. Only what
// comes over HTTP counts. Profile, level and size come from the names of codecs (RFC 6381) and of the
// guidelines' profiles, where they are given. A device that says it takes everything has said nothing.
func Declared(sink string) []dossier.DecodingEntry {
	var out []dossier.DecodingEntry
	add := func(e dossier.DecodingEntry) {
		if e.Able, e.Evidence = dossier.Yes, dossier.EvidenceDeclared; !slices.Contains(out, e) {
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
			if e, known := format.Codec(codec); known {
				add(e)
			}
		}
		if len(parts) < 4 {
			continue
		}
		for more := range strings.SplitSeq(parts[3], ";") {
			if name, is := strings.CutPrefix(strings.TrimSpace(more), "DLNA.ORG_PN="); is {
				for _, e := range format.Guideline(name) {
					add(e)
				}
			}
		}
	}
	slices.SortFunc(out, func(a, b dossier.DecodingEntry) int {
		return cmp.Or(cmp.Compare(partOrder(a.Part), partOrder(b.Part)), cmp.Compare(a.Format, b.Format), cmp.Compare(fmt.Sprint(a), fmt.Sprint(b)))
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

// stills are the containers of pictures that do not move.
var stills = []dossier.Container{dossier.JPEG, dossier.PNG, dossier.GIF, dossier.HEIF, dossier.WebP, dossier.TIFF}

// OfferedFor returns the content that a device with these abilities has a use for; none means
// everything.
func OfferedFor(entries []dossier.DecodingEntry) []dossier.ContentKind {
	moving, still, heard := false, false, false
	for _, e := range entries {
		picture := slices.Contains(stills, dossier.Container(e.Format)) && e.Part == dossier.PartContainer
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
