package format

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
)

// h264Profiles are profile_idc (ISO/IEC 14496-10, A.2).
var h264Profiles = map[int]dossier.VideoProfile{66: dossier.ProfileBaseline, 77: dossier.ProfileMain, 88: dossier.ProfileExtended, 100: dossier.ProfileHigh, 110: dossier.ProfileHigh10, 122: dossier.ProfileHigh422, 244: dossier.ProfileHigh444}

// H264 returns profile and level as they stand in a sequence parameter set or behind avc1: profile_idc,
// the constraint flags from the highest bit on, and level_idc.
func H264(profile, constraints, idc int) (dossier.VideoProfile, string) {
	p, known := h264Profiles[profile]
	if !known {
		p = dossier.VideoProfile(fmt.Sprintf("profile_idc %d", profile))
	}
	if p == dossier.ProfileBaseline && constraints&0x40 != 0 {
		p = dossier.ProfileConstrainedBaseline
	}
	if idc == 9 || idc == 11 && constraints&0x10 != 0 && profile <= 88 { // A.3.1
		return p, "1b"
	}
	return p, tenths(float64(idc) / 10)
}

// HEVC returns profile and level of general_profile_idc, general_tier_flag and general_level_idc, which
// is thirty times the level (ISO/IEC 23008-2, A.4).
func HEVC(profile int, highTier bool, idc int) (dossier.VideoProfile, string) {
	p, known := map[int]dossier.VideoProfile{1: dossier.ProfileMain, 2: dossier.ProfileMain10, 3: dossier.ProfileMain, 4: dossier.ProfileRangeExtensions}[profile]
	if !known {
		p = dossier.VideoProfile(fmt.Sprintf("profile_idc %d", profile))
	}
	l := tenths(float64(idc) / 30)
	if highTier && l != "" {
		l += " high"
	}
	return p, l
}

// AV1Level returns a level by its index (AV1, A.3): 0 is 2.0, and each whole level has four.
func AV1Level(idx int) string {
	if idx < 0 || idx > 23 {
		return ""
	}
	return tenths(float64(2+idx/4) + float64(idx%4)/10)
}

func tenths(l float64) string {
	if l <= 0 {
		return ""
	}
	return strconv.FormatFloat(math.Round(l*10)/10, 'f', -1, 64)
}

// av1Profiles are seq_profile.
var av1Profiles = []dossier.VideoProfile{dossier.ProfileMain, dossier.ProfileHigh, dossier.ProfileProfessional}

// AV1Profile returns the profile of seq_profile.
func AV1Profile(n int) dossier.VideoProfile {
	if n < 0 || n >= len(av1Profiles) {
		return dossier.VideoProfile(fmt.Sprintf("seq_profile %d", n))
	}
	return av1Profiles[n]
}

// samples are names of codecs without parameters (RFC 6381 and the registry at MP4RA).
var samples = map[string]dossier.DecodingEntry{
	"mp4v": video(dossier.MPEG4), "mp2v": video(dossier.MPEG2), "mp1v": video(dossier.MPEG1),
	"vp8": video(dossier.VP8), "vp08": video(dossier.VP8), "vp9": video(dossier.VP9),
	"vc-1": video(dossier.VC1), "jpeg": video(dossier.MJPEG), "mjpa": video(dossier.MJPEG),
	"vvc1": video(dossier.VVC), "vvi1": video(dossier.VVC),
	"ac-3": sound(dossier.AC3), "ec-3": sound(dossier.EAC3), "ac-4": sound(dossier.AC4), "mlpa": sound(dossier.MLP), "dtsc": sound(dossier.DCA), "dtse": sound(dossier.DCA), "dtsh": sound(dossier.DCALossless), "dtsl": sound(dossier.DCALossless),
	"flac": sound(dossier.FLAC), "alac": sound(dossier.ALAC), "opus": sound(dossier.Opus), "vorbis": sound(dossier.Vorbis), ".mp3": sound(dossier.MP3), "mp3": sound(dossier.MP3),
	"sowt": sound(dossier.PCM), "twos": sound(dossier.PCM), "lpcm": sound(dossier.PCM), "ipcm": sound(dossier.PCM), "fpcm": sound(dossier.PCM), "in24": sound(dossier.PCM), "in32": sound(dossier.PCM), "fl32": sound(dossier.PCM), "raw ": sound(dossier.PCM),
	"tx3g": text(dossier.TimedText), "wvtt": text(dossier.WebVTT), "stpp": text(dossier.TTML), "c608": text(dossier.ClosedCaptions),
}

// Entry is an entry of a decoding profile about a format, of which nothing more is said yet.
func Entry[T ~string](part dossier.FormatPart, term T) dossier.DecodingEntry {
	return dossier.DecodingEntry{Part: part, Format: dossier.FormatTerm(term)}
}

func video(c dossier.VideoCodec) dossier.DecodingEntry  { return Entry(dossier.PartVideo, c) }
func sound(c dossier.SoundCodec) dossier.DecodingEntry  { return Entry(dossier.PartSound, c) }
func text(f dossier.SubtitleForm) dossier.DecodingEntry { return Entry(dossier.PartSubtitles, f) }

// Codec reads a codec's name of RFC 6381, such as avc1.64001F or hvc1.2.4.L153.B0, with the profile, the
// level and the bit depth that stand in it. It is false for a name that is not in the vocabulary.
func Codec(name string) (dossier.DecodingEntry, bool) {
	parts := strings.Split(strings.TrimSpace(name), ".")
	d := dossier.DecodingEntry{Part: dossier.PartVideo}
	at := func(n int) string {
		if n < len(parts) {
			return parts[n]
		}
		return ""
	}
	switch kind := strings.ToLower(at(0)); kind {
	case "avc1", "avc2", "avc3", "avc4":
		d.Format = dossier.FormatTerm(dossier.H264)
		if n, err := strconv.ParseUint(at(1), 16, 24); err == nil && len(at(1)) == 6 {
			d.Profile, d.Level = H264(int(n>>16), int(n>>8&0xff), int(n&0xff))
		}
	case "hvc1", "hev1", "hvc2", "hev2", "dvh1", "dvhe": // 14496-15, annex E
		d.Format = dossier.FormatTerm(dossier.HEVC)
		profile, err := strconv.Atoi(strings.TrimLeft(at(1), "ABC"))
		l := strings.ToUpper(at(3))
		if n, err2 := strconv.Atoi(strings.TrimLeft(l, "LH")); err == nil && err2 == nil && kind[0] == 'h' {
			d.Profile, d.Level = HEVC(profile, strings.HasPrefix(l, "H"), n)
		}
	case "av01": // AV1 in ISO base media files, section 5
		d.Format = dossier.FormatTerm(dossier.AV1)
		if n, err := strconv.Atoi(at(1)); err == nil {
			d.Profile = AV1Profile(n)
		}
		if l := at(2); len(l) == 3 {
			if n, err := strconv.Atoi(l[:2]); err == nil {
				if d.Level = AV1Level(n); l[2] == 'H' && d.Level != "" {
					d.Level += " high"
				}
			}
		}
		d.BitDepth = depth(at(3))
	case "vp09": // VP codec ISO media file format binding
		d.Format = dossier.FormatTerm(dossier.VP9)
		if n, err := strconv.Atoi(at(1)); err == nil && n >= 0 && n <= 3 {
			d.Profile = dossier.VideoProfile(fmt.Sprintf("profile-%d", n))
		}
		if n, err := strconv.Atoi(at(2)); err == nil {
			d.Level = tenths(float64(n) / 10)
		}
		d.BitDepth = depth(at(3))
	case "mp4a":
		return mp4a(at(1), at(2)), true
	default:
		found, known := samples[kind]
		return found, known
	}
	return d, true
}

func depth(s string) int {
	if n, err := strconv.Atoi(s); err == nil && n >= 8 && n <= 16 {
		return n
	}
	return 0
}

// mp4a reads the object type indications of sound (MP4RA): 40 is ISO/IEC 14496-3, whose own object
// type follows.
func mp4a(object, kind string) dossier.DecodingEntry {
	switch strings.ToUpper(object) {
	case "69", "6B":
		return sound(dossier.MP3)
	case "A5":
		return sound(dossier.AC3)
	case "A6":
		return sound(dossier.EAC3)
	case "A9":
		return sound(dossier.DCA)
	case "DD":
		return sound(dossier.Vorbis)
	case "AD":
		return sound(dossier.Opus)
	}
	if kind == "5" || kind == "29" {
		return sound(dossier.HEAAC)
	}
	return sound(dossier.AAC)
}

// Guideline reads a media format profile of the network interoperability guidelines (IEC 62481-2), as
// devices name it beside a media type: AVC_MP4_HP_HD_AAC is H.264 up to high profile and 1920 x 1080
// with AAC. The names are put together from parts, which are read one by one; what is not understood
// adds nothing.
func Guideline(name string) []dossier.DecodingEntry {
	parts := strings.Split(strings.ToUpper(strings.TrimSpace(name)), "_")
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(parts, w) })
	}
	var out []dossier.DecodingEntry
	box := func(c dossier.Container) {
		out = append(out, Entry(dossier.PartContainer, c))
	}
	switch parts[0] {
	case "JPEG", "PNG":
		size := map[string][2]int{"SM": {640, 480}, "MED": {1024, 768}, "LRG": {4096, 4096}, "TN": {160, 160}}[parts[len(parts)-1]]
		if size[0] == 0 || has("TN") {
			return nil // thumbnails and icons say nothing of pictures
		}
		return []dossier.DecodingEntry{{Part: dossier.PartContainer, Format: dossier.FormatTerm(strings.ToLower(parts[0])), Width: size[0], Height: size[1]}}
	case "MP3", "MP3X":
		return []dossier.DecodingEntry{sound(dossier.MP3)}
	case "LPCM":
		d := sound(dossier.PCM)
		d.Channels, d.SampleRate, d.SoundBits = 2, 48000, 16
		return []dossier.DecodingEntry{d}
	case "AC3":
		d := sound(dossier.AC3)
		d.Channels, d.SampleRate = 6, 48000
		return []dossier.DecodingEntry{d}
	case "AAC", "HEAAC":
		d := sound(dossier.AAC)
		if parts[0] == "HEAAC" {
			d = sound(dossier.HEAAC)
		}
		if d.Channels = 2; has("MULT5") {
			d.Channels = 6
		}
		return []dossier.DecodingEntry{d}
	case "MPEG":
		v := dossier.DecodingEntry{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.MPEG2), Profile: dossier.ProfileMain, Level: "main", Width: 720, Height: 576, FrameRate: 30, Interlaced: dossier.Yes}
		switch {
		case has("PS"):
			box(dossier.MPEGPS)
		case has("TS") && has("HD"):
			box(dossier.MPEGTS)
			v.Level, v.Width, v.Height, v.FrameRate = "high", 1920, 1080, 60
		case has("TS"):
			box(dossier.MPEGTS)
		default:
			return nil
		}
		return append(out, v)
	case "AVC", "HEVC":
	default:
		return nil
	}
	v := video(dossier.H264)
	if parts[0] == "HEVC" {
		v.Format = dossier.FormatTerm(dossier.HEVC)
	}
	switch {
	case has("MP4", "3GPP"):
		box(dossier.MP4)
	case has("TS"):
		box(dossier.MPEGTS)
	case has("MKV"):
		box(dossier.Matroska)
	}
	switch {
	case has("HP"):
		v.Profile = dossier.ProfileHigh
	case has("MP"):
		v.Profile = dossier.ProfileMain
	case has("BL"):
		v.Profile = dossier.ProfileConstrainedBaseline
	case has("M10P"):
		v.Profile = dossier.ProfileMain10
	}
	for _, known := range []struct {
		word          string
		width, height int
	}{{"HD", 1920, 1080}, {"UHD", 3840, 2160}, {"SD", 720, 576}, {"CIF30", 352, 288}, {"CIF15", 352, 288}, {"QCIF15", 176, 144}} {
		if has(known.word) {
			v.Width, v.Height = known.width, known.height
			break
		}
	}
	out = append(out, v)
	for _, known := range []struct {
		word     string
		codec    dossier.SoundCodec
		channels int
	}{{"AC3", dossier.AC3, 6}, {"EAC3", dossier.EAC3, 6}, {"MULT5", dossier.AAC, 6}, {"AAC", dossier.AAC, 2}, {"HEAAC", dossier.HEAAC, 2}, {"MPEG1", dossier.MP2, 0}} { // MPEG1 is layer II
		if has(known.word) {
			s := sound(known.codec)
			s.Channels = known.channels
			return append(out, s)
		}
	}
	return out
}
