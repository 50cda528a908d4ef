package format

import (
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Question is something that a browser is asked about what it decodes, in the terms of the W3C's Media Capabilities: a
// media type with the codec's name of RFC 6381, and for pictures the size, the rate and the dynamic range.
type Question struct {
	Type      string
	Width     int
	Height    int
	FrameRate float64
	Mbps      float64
	Range     dossier.DynamicRange
	Channels  int
	Rate      int // sampling rate in Hz
}

// Questions lists what a browser is asked: for each codec the profiles and sizes of which folders are full, the small
// before the large, then containers and sound.
var Questions = []Question{
	video4("avc1.42E01E", 720, 576, 25, 3), video4("avc1.640029", 1920, 1080, 30, 20), video4("avc1.64002A", 1920, 1080, 60, 30), video4("avc1.640033", 3840, 2160, 30, 60), video4("avc1.6E0029", 1920, 1080, 30, 20),
	video4("hvc1.1.6.L120.90", 1920, 1080, 30, 15), video4("hvc1.1.6.L153.90", 3840, 2160, 60, 60), video4("hvc1.2.4.L120.90", 1920, 1080, 30, 15), video4("hvc1.2.4.L153.90", 3840, 2160, 60, 60),
	ranged(video4("hvc1.2.4.L153.90", 3840, 2160, 60, 60), dossier.HLG), ranged(video4("hvc1.2.4.L153.90", 3840, 2160, 60, 60), dossier.PQ),
	video4("av01.0.08M.08", 1920, 1080, 30, 10), video4("av01.0.13M.10", 3840, 2160, 60, 40), ranged(video4("av01.0.13M.10", 3840, 2160, 60, 40), dossier.PQ),
	pictures("video/webm", "vp09.00.41.08", 1920, 1080, 30, 10), pictures("video/webm", "vp09.00.51.08", 3840, 2160, 60, 40), pictures("video/webm", "vp09.02.51.10", 3840, 2160, 60, 40), pictures("video/webm", "vp8", 1280, 720, 30, 5),
	pictures("video/x-matroska", "avc1.640029", 1920, 1080, 30, 20), pictures("video/mp2t", "avc1.640029", 1920, 1080, 30, 20), pictures("video/quicktime", "avc1.640029", 1920, 1080, 30, 20),
	pictures("video/mp2t", "mp4v.61", 720, 576, 25, 6),
	heard("audio/mp4", "mp4a.40.2", 2, 48000), heard("audio/mp4", "mp4a.40.2", 6, 48000), heard("audio/mp4", "mp4a.40.5", 2, 48000), heard("audio/mp4", "ac-3", 6, 48000), heard("audio/mp4", "ec-3", 6, 48000),
	heard("audio/mp4", "alac", 2, 48000), heard("audio/mp4", "flac", 2, 48000), heard("audio/mp4", "opus", 2, 48000), heard("audio/mp4", "dtsc", 6, 48000),
	heard("audio/mpeg", "", 2, 48000), heard("audio/flac", "", 2, 96000), heard("audio/wav", "1", 2, 48000), heard("audio/aac", "", 2, 48000), heard("audio/ogg", "vorbis", 2, 48000), heard("audio/ogg", "opus", 2, 48000), heard("audio/webm", "opus", 2, 48000),
}

func pictures(kind, codec string, width, height int, frames, mbps float64) Question {
	return Question{Type: kind + `; codecs="` + codec + `"`, Width: width, Height: height, FrameRate: frames, Mbps: mbps, Range: dossier.SDR}
}

func video4(codec string, width, height int, frames, mbps float64) Question {
	return pictures("video/mp4", codec, width, height, frames, mbps)
}

func ranged(q Question, r dossier.DynamicRange) Question {
	q.Range = r
	return q
}

func heard(kind, codec string, channels, rate int) Question {
	if codec != "" {
		kind += `; codecs="` + codec + `"`
	}
	return Question{Type: kind, Channels: channels, Rate: rate}
}

// media are the containers and the codecs that media types without a codec's name stand for.
var media = map[string]struct {
	container dossier.Container
	sound     dossier.SoundCodec
}{
	"video/mp4": {dossier.MP4, ""}, "audio/mp4": {dossier.MP4, ""}, "video/webm": {dossier.WebM, ""}, "audio/webm": {dossier.WebM, ""}, "video/x-matroska": {dossier.Matroska, ""}, "video/mp2t": {dossier.MPEGTS, ""}, "video/quicktime": {dossier.QuickTime, ""},
	"audio/mpeg": {dossier.MPEGAudio, dossier.MP3}, "audio/flac": {dossier.FLACFile, dossier.FLAC}, "audio/wav": {dossier.Wave, dossier.PCM}, "audio/aac": {dossier.ADTS, dossier.AAC}, "audio/ogg": {dossier.Ogg, ""},
}

// about returns the entries that an answer is about: the codec with what was asked of it, and the container.
func (q Question) about() (codec, container dossier.DecodingEntry) {
	kind, codecs, _ := strings.Cut(q.Type, `; codecs="`)
	of := media[kind]
	container = Entry(dossier.PartContainer, of.container)
	switch name := strings.TrimSuffix(codecs, `"`); {
	case name == "" || name == "1":
		codec = sound(of.sound)
	case name == "mp4v.61":
		codec = video(dossier.MPEG2)
	default:
		codec, _ = Codec(name)
	}
	codec.Width, codec.Height, codec.FrameRate, codec.Channels, codec.SampleRate = q.Width, q.Height, q.FrameRate, q.Channels, q.Rate
	if q.Range != dossier.SDR {
		codec.Range = q.Range
	}
	return codec, container
}

// Answered turns the answers of a browser into entries of a decoding profile, known because it declares them: what it
// decodes as its entries say. With all, it also says of a codec that it does not decode any of it, where it says so of
// everything that was asked of that codec; that holds only for a device that plays its media in this browser. Answers
// stand at the place of their question; nil is one that the browser did not give.
func Answered(answers []*bool, all bool) []dossier.DecodingEntry {
	var out []dossier.DecodingEntry
	add := func(d dossier.DecodingEntry, able dossier.Answer) {
		d.Able, d.Evidence = able, dossier.EvidenceDeclared
		if !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	type term struct {
		part   dossier.FormatPart
		format dossier.FormatTerm
	}
	some, none := map[term]bool{}, map[term]bool{}
	var asked []dossier.DecodingEntry
	for n, q := range Questions[:min(len(answers), len(Questions))] {
		if answers[n] == nil {
			continue
		}
		codec, container := q.about()
		at := term{codec.Part, codec.Format}
		asked = append(asked, codec)
		if !*answers[n] {
			none[at] = true
			continue
		}
		some[at] = true
		add(codec, dossier.Yes)
		add(container, dossier.Yes)
	}
	if !all {
		return out
	}
	for _, d := range asked {
		if at := (term{d.Part, d.Format}); none[at] && !some[at] {
			add(dossier.DecodingEntry{Part: d.Part, Format: d.Format}, dossier.No)
		}
	}
	return out
}

// Declared puts what a device declares now into what is recorded of it: an entry that it declared of the same thing is
// replaced, and what is known in another way stays.
func Declared(recorded, now []dossier.DecodingEntry) []dossier.DecodingEntry {
	same := func(a, b dossier.DecodingEntry) bool {
		a.Able, b.Able = "", ""
		return a == b
	}
	whole := func(d dossier.DecodingEntry) bool {
		return d == dossier.DecodingEntry{Part: d.Part, Format: d.Format, Able: dossier.No, Evidence: d.Evidence}
	}
	out := slices.DeleteFunc(slices.Clone(recorded), func(old dossier.DecodingEntry) bool {
		return old.Evidence == dossier.EvidenceDeclared && slices.ContainsFunc(now, func(d dossier.DecodingEntry) bool {
			// One that was declared not to be decoded at all, and of which something is, does not stand.
			return same(old, d) || whole(old) && d.Able == dossier.Yes && d.Part == old.Part && d.Format == old.Format
		})
	})
	for _, d := range now {
		if !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	return out
}
