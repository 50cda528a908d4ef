package format_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

func yes(of dossier.Evidence, d dossier.DecodingEntry) dossier.DecodingEntry {
	d.Able, d.Evidence = dossier.Yes, of
	return d
}

func no(of dossier.Evidence, d dossier.DecodingEntry) dossier.DecodingEntry {
	d.Able, d.Evidence = dossier.No, of
	return d
}

func video(c dossier.VideoCodec) dossier.DecodingEntry {
	return dossier.DecodingEntry{Part: dossier.PartVideo, Format: dossier.FormatTerm(c)}
}

func profile(entries ...dossier.DecodingEntry) dossier.Decoding {
	return dossier.Decoding{Entries: entries}
}

// film is what a film of today is.
var film = dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC, Profile: dossier.ProfileMain10, Level: "5.1", Width: 3840, Height: 2160, FrameRate: 24000.0 / 1001,
	Interlaced: dossier.No, BitDepth: 10, Chroma: dossier.Chroma420, Range: dossier.PQ, Sound: dossier.EAC3, Channels: 6, SampleRate: 48000, Subtitles: dossier.BDPresentation}

func TestWhichLimitIsBroken(t *testing.T) {
	full := video(dossier.HEVC)
	full.Profile, full.Level, full.Width, full.Height, full.FrameRate, full.BitDepth, full.Range, full.Chroma = dossier.ProfileMain10, "5.1", 4096, 2160, 60, 10, dossier.PQ, dossier.Chroma420
	for _, c := range []struct {
		name    string
		change  func(*dossier.DecodingEntry)
		verdict format.Verdict
		reason  format.Reason
		limit   format.Limit
	}{
		{"all within", func(*dossier.DecodingEntry) {}, format.Can, format.WithinLimits, ""},
		{"the profile", func(d *dossier.DecodingEntry) { d.Profile = dossier.ProfileMain }, format.Cannot, format.BeyondLimit, "profile"},
		{"the level", func(d *dossier.DecodingEntry) { d.Level = "5" }, format.Cannot, format.BeyondLimit, "level"},
		{"a level written long", func(d *dossier.DecodingEntry) { d.Level = "6.0" }, format.Can, format.WithinLimits, ""},
		{"the width", func(d *dossier.DecodingEntry) { d.Width = 1920 }, format.Cannot, format.BeyondLimit, "width"},
		{"the height", func(d *dossier.DecodingEntry) { d.Height = 2159 }, format.Cannot, format.BeyondLimit, "height"},
		{"the frame rate", func(d *dossier.DecodingEntry) { d.FrameRate = 23.9 }, format.Cannot, format.BeyondLimit, "frameRate"},
		{"the bit depth", func(d *dossier.DecodingEntry) { d.BitDepth = 8 }, format.Cannot, format.BeyondLimit, "bitDepth"},
		{"the range", func(d *dossier.DecodingEntry) { d.Range = dossier.HLG }, format.Cannot, format.BeyondLimit, "range"},
		{"no word of the range", func(d *dossier.DecodingEntry) { d.Range = "" }, format.NotKnown, format.LimitUnknown, "range"},
		{"no word of the size", func(d *dossier.DecodingEntry) { d.Width, d.Height = 0, 0 }, format.NotKnown, format.LimitUnknown, "width"},
		{"a profile nobody knows", func(d *dossier.DecodingEntry) { d.Profile = "grand" }, format.NotKnown, format.UnknownTerm, "profile"},
		{"a level nobody knows", func(d *dossier.DecodingEntry) { d.Level = "11" }, format.NotKnown, format.UnknownTerm, "level"},
		{"one broken and one not known", func(d *dossier.DecodingEntry) { d.Range, d.Height = "", 1080 }, format.Cannot, format.BeyondLimit, "height"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := full
			c.change(&d)
			got := format.Covers(yes(dossier.EvidenceDataSheet, d), film)
			assert.Equal(t, []any{c.verdict, c.reason, c.limit}, []any{got.Verdict, got.Reason, got.Limit})
		})
	}
}

// Of each limit there is: the greatest that is allowed is within, the next greater is not.
func TestEveryLimitHolds(t *testing.T) {
	type pair struct {
		d        dossier.DecodingEntry
		in, over dossier.FormatEntry
	}
	sound := dossier.DecodingEntry{Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.PCM)}
	for limit, p := range map[format.Limit]pair{
		"referenceFrames": {dossier.DecodingEntry{ReferenceFrames: 4}, dossier.FormatEntry{ReferenceFrames: 4}, dossier.FormatEntry{ReferenceFrames: 5}},
		"rateMbps":        {dossier.DecodingEntry{RateMbps: 40}, dossier.FormatEntry{AverageMbps: 20, PeakMbps: 40}, dossier.FormatEntry{AverageMbps: 20, PeakMbps: 41}},
		"interlaced":      {dossier.DecodingEntry{Interlaced: dossier.No}, dossier.FormatEntry{Interlaced: dossier.No}, dossier.FormatEntry{Interlaced: dossier.Yes}},
		"chroma":          {dossier.DecodingEntry{Chroma: dossier.Chroma422}, dossier.FormatEntry{Chroma: dossier.Chroma422}, dossier.FormatEntry{Chroma: dossier.Chroma444}},
		"channels":        {dossier.DecodingEntry{Channels: 6}, dossier.FormatEntry{Channels: 6}, dossier.FormatEntry{Channels: 7}},
		"sampleRate":      {dossier.DecodingEntry{SampleRate: 96000}, dossier.FormatEntry{SampleRate: 96000}, dossier.FormatEntry{SampleRate: 192000}},
		"soundBits":       {dossier.DecodingEntry{SoundBits: 16}, dossier.FormatEntry{SoundBits: 16}, dossier.FormatEntry{SoundBits: 24}},
	} {
		d := p.d
		d.Part, d.Format = dossier.PartVideo, dossier.FormatTerm(dossier.H264)
		if limit == "channels" || limit == "sampleRate" || limit == "soundBits" {
			d.Part, d.Format = sound.Part, sound.Format
		}
		assert.Equal(t, format.Can, format.Covers(yes(dossier.EvidenceDeclared, d), p.in).Verdict, limit)
		over := format.Covers(yes(dossier.EvidenceDeclared, d), p.over)
		assert.Equal(t, []any{format.Cannot, limit}, []any{over.Verdict, over.Limit})
	}
}

func TestWhatADecoderOfOneProfilePlays(t *testing.T) {
	for _, c := range []struct {
		codec         dossier.VideoCodec
		decoder, file dossier.VideoProfile
		plays         bool
	}{
		{dossier.H264, dossier.ProfileHigh, dossier.ProfileConstrainedBaseline, true},
		{dossier.H264, dossier.ProfileHigh, dossier.ProfileBaseline, false}, // slices in any order are not in main or high
		{dossier.H264, dossier.ProfileHigh422, dossier.ProfileMain, true},
		{dossier.H264, dossier.ProfileMain, dossier.ProfileHigh, false},
		{dossier.HEVC, dossier.ProfileMain10, dossier.ProfileMain, true},
		{dossier.HEVC, dossier.ProfileMain, dossier.ProfileMain10, false},
		{dossier.HEVC, dossier.ProfileRangeExtensions, dossier.ProfileMain, false},
		{dossier.AV1, dossier.ProfileProfessional, dossier.ProfileMain, true},
		{dossier.VP9, dossier.Profile3, dossier.Profile0, true},
		{dossier.VP9, dossier.Profile2, dossier.Profile1, false},
		{dossier.MPEG2, dossier.Profile422, dossier.ProfileSimple, true},
		{dossier.MPEG4, dossier.ProfileSimple, dossier.ProfileAdvancedSimple, false},
		{dossier.VC1, dossier.ProfileAdvanced, dossier.ProfileMain, false},
	} {
		assert.Equal(t, c.plays, format.Plays(c.codec, c.decoder, c.file), c)
	}
	assert.Empty(t, format.Profiles("grand"))
	assert.Equal(t, []dossier.VideoProfile{dossier.ProfileMain, dossier.ProfileMain10, dossier.ProfileRangeExtensions}, format.Profiles(dossier.HEVC))
}

func TestWhatIsNotSaidIsAssumedOnlyWherePlain(t *testing.T) {
	p := profile(yes(dossier.EvidenceDeclared, video(dossier.H264)))
	plain := dossier.FormatEntry{Video: dossier.H264, Profile: dossier.ProfileHigh, Level: "4.1", Width: 1920, Height: 1080, FrameRate: 30000.0 / 1001, Interlaced: dossier.No, BitDepth: 8, Chroma: dossier.Chroma420, Range: dossier.SDR}
	r := format.Decodes(p, dossier.PartVideo, plain)
	assert.Equal(t, format.Can, r.Verdict)
	assert.Equal(t, dossier.EvidenceAssumed, r.Evidence, "the device did not say up to what")
	assert.NotEmpty(t, r.Assumed)
	for name, change := range map[string]func(*dossier.FormatEntry){
		"ten bits":    func(e *dossier.FormatEntry) { e.BitDepth = 10 },
		"fast":        func(e *dossier.FormatEntry) { e.FrameRate = 50 },
		"interlaced":  func(e *dossier.FormatEntry) { e.Interlaced = dossier.Yes },
		"large":       func(e *dossier.FormatEntry) { e.Width = 3840 },
		"a new level": func(e *dossier.FormatEntry) { e.Level = "5.1" },
		"PQ":          func(e *dossier.FormatEntry) { e.Range = dossier.PQ },
	} {
		e := plain
		change(&e)
		assert.Equal(t, format.NotKnown, format.Decodes(p, dossier.PartVideo, e).Verdict, name)
	}
}

func TestTheStrongerEvidenceDecides(t *testing.T) {
	main10 := video(dossier.HEVC)
	main10.Profile = dossier.ProfileMain10
	e := dossier.FormatEntry{Video: dossier.HEVC, Profile: dossier.ProfileMain10}
	full := main10
	full.Level, full.Width, full.Height, full.FrameRate, full.Interlaced, full.BitDepth, full.Chroma, full.Range = "5.1", 3840, 2160, 60, dossier.No, 10, dossier.Chroma420, dossier.PQ
	whole := film
	for name, c := range map[string]struct {
		p    dossier.Decoding
		e    dossier.FormatEntry
		want format.Verdict
		why  format.Reason
	}{
		"proof over a declaration":       {profile(yes(dossier.EvidenceDeclared, full), no(dossier.EvidenceProven, main10)), whole, format.Cannot, format.Refused},
		"proof over a refusal":           {profile(yes(dossier.EvidenceProven, full), no(dossier.EvidenceDeclared, main10)), whole, format.Can, format.WithinLimits},
		"of equal weight, what is worse": {profile(yes(dossier.EvidenceDataSheet, full), no(dossier.EvidenceDataSheet, main10)), whole, format.Cannot, format.Refused},
		"a refusal of what the file may be": {profile(yes(dossier.EvidenceDeclared, video(dossier.HEVC)), no(dossier.EvidenceProven, main10)),
			dossier.FormatEntry{Video: dossier.HEVC}, format.NotKnown, format.MaybeRefused},
		"a refusal of a higher one": {profile(yes(dossier.EvidenceProven, full), no(dossier.EvidenceProven, main10)), dossier.FormatEntry{Video: dossier.HEVC, Profile: dossier.ProfileMain}, format.Can, format.WithinLimits},
		"nothing recorded":          {profile(), e, format.NotKnown, format.NothingSaid},
		"of another codec only":     {profile(yes(dossier.EvidenceProven, video(dossier.H264))), e, format.NotKnown, format.NothingSaid},
		"not on a complete list":    {dossier.Decoding{Entries: []dossier.DecodingEntry{yes(dossier.EvidenceDeclared, video(dossier.H264))}, Complete: []dossier.FormatPart{dossier.PartVideo}}, e, format.Cannot, format.NotListed},
		"a codec that nobody knows": {profile(yes(dossier.EvidenceProven, video("grand"))), dossier.FormatEntry{Video: "grand"}, format.NotKnown, format.UnknownTerm},
		"no picture at all":         {profile(), dossier.FormatEntry{}, format.Can, format.NoSuchPart},
	} {
		t.Run(name, func(t *testing.T) {
			got := format.Decodes(c.p, dossier.PartVideo, c.e)
			assert.Equal(t, []any{c.want, c.why}, []any{got.Verdict, got.Reason})
		})
	}
}

func TestASoundFileOpensWithItsSound(t *testing.T) {
	p := profile(yes(dossier.EvidenceDeclared, dossier.DecodingEntry{Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.AAC), Channels: 2, SampleRate: 48000}))
	song := dossier.FormatEntry{Container: dossier.MP4, Sound: dossier.AAC, Channels: 2, SampleRate: 44100}
	assert.Equal(t, format.Can, format.Decodes(p, dossier.PartContainer, song).Verdict)
	song.Video = dossier.H264
	assert.Equal(t, format.NotKnown, format.Decodes(p, dossier.PartContainer, song).Verdict, "a film needs more than that")
	images := profile(yes(dossier.EvidenceProven, dossier.DecodingEntry{Part: dossier.PartSubtitles, Format: dossier.FormatTerm(dossier.SubtitleImage)}))
	assert.Equal(t, format.Can, format.Decodes(images, dossier.PartSubtitles, film).Verdict)
	assert.Equal(t, format.NotKnown, format.Decodes(images, dossier.PartSubtitles, dossier.FormatEntry{Subtitles: dossier.SubRip}).Verdict)
}

func TestALargePhotographIsMoreThanAPicture(t *testing.T) {
	jpeg := dossier.DecodingEntry{Part: dossier.PartContainer, Format: dossier.FormatTerm(dossier.JPEG)}
	bounded := jpeg
	bounded.Width, bounded.Height = 4096, 4096
	photo := dossier.FormatEntry{Container: dossier.JPEG, Width: 6000, Height: 4000}
	verdict := func(d dossier.DecodingEntry, e dossier.FormatEntry) format.Verdict {
		return format.Decodes(profile(yes(dossier.EvidenceDeclared, d)), dossier.PartContainer, e).Verdict
	}
	assert.Equal(t, format.Cannot, verdict(bounded, photo))
	assert.Equal(t, format.NotKnown, verdict(jpeg, photo), "the device did not say up to what size")
	photo.Width = 4096
	assert.Equal(t, format.Can, verdict(bounded, photo))
	assert.Equal(t, format.Can, verdict(jpeg, photo))
	mp4 := dossier.DecodingEntry{Part: dossier.PartContainer, Format: dossier.FormatTerm(dossier.MP4)}
	assert.Equal(t, format.Can, verdict(mp4, dossier.FormatEntry{Container: dossier.MP4, Video: dossier.H264, Width: 7680, Height: 4320}), "the size of a film is its codec's matter")
}

func TestContradictionsAreFound(t *testing.T) {
	main10 := video(dossier.HEVC)
	main10.Profile = dossier.ProfileMain10
	main := main10
	main.Profile = dossier.ProfileMain
	assert.Len(t, format.Contradictions(profile(yes(dossier.EvidenceDataSheet, main10), no(dossier.EvidenceProven, main10))), 1)
	assert.Len(t, format.Contradictions(profile(yes(dossier.EvidenceDataSheet, main10), no(dossier.EvidenceDeclared, video(dossier.HEVC)))), 1, "all of it refused")
	assert.Len(t, format.Contradictions(profile(yes(dossier.EvidenceDataSheet, main10), no(dossier.EvidenceDeclared, main))), 1, "main is part of what it says it can")
	assert.Empty(t, format.Contradictions(profile(yes(dossier.EvidenceDeclared, main), no(dossier.EvidenceProven, main10))), "one goes up to where the other begins")
	assert.Empty(t, format.Contradictions(profile(yes(dossier.EvidenceDeclared, video(dossier.HEVC)), no(dossier.EvidenceDataSheet, main10))), "a narrower word about a part of it")
}

func TestNamesOfCodecs(t *testing.T) {
	type want struct {
		format  string
		profile dossier.VideoProfile
		level   string
		depth   int
	}
	for name, w := range map[string]want{
		"avc1.64001F":      {"h264", dossier.ProfileHigh, "3.1", 0},
		"avc1.42E01E":      {"h264", dossier.ProfileConstrainedBaseline, "3", 0},
		"avc1.42001e":      {"h264", dossier.ProfileBaseline, "3", 0},
		"avc3.4D4029":      {"h264", dossier.ProfileMain, "4.1", 0},
		"avc1.42100B":      {"h264", dossier.ProfileBaseline, "1b", 0},
		"avc1.64":          {"h264", "", "", 0},
		"hvc1.2.4.L153.B0": {"hevc", dossier.ProfileMain10, "5.1", 0},
		"hev1.1.6.H120.90": {"hevc", dossier.ProfileMain, "4 high", 0},
		"hvc1.A9.4.L93":    {"hevc", "profile_idc 9", "3.1", 0},
		"av01.0.05M.08":    {"av1", dossier.ProfileMain, "3.1", 8},
		"av01.1.13H.10":    {"av1", dossier.ProfileHigh, "5.1 high", 10},
		"vp09.02.41.10":    {"vp9", dossier.Profile2, "4.1", 10},
		"mp4a.40.2":        {"aac-lc", "", "", 0},
		"mp4a.40.29":       {"he-aac", "", "", 0},
		"mp4a.6B":          {"mp3", "", "", 0},
		"mp4a.A5":          {"ac-3", "", "", 0},
		"ec-3":             {"e-ac-3", "", "", 0},
		"fLaC":             {"flac", "", "", 0},
		"stpp.ttml.im1t":   {"ttml", "", "", 0},
	} {
		d, ok := format.Codec(name)
		require.True(t, ok, name)
		assert.Equal(t, w, want{string(d.Format), d.Profile, d.Level, d.BitDepth}, name)
	}
	for name, depth := range map[string]int{"av01.0.05M.07": 0, "av01.0.05M.08": 8, "av01.0.05M.16": 16, "av01.0.05M.17": 0, "av01.0.05M.x": 0} {
		d, ok := format.Codec(name)
		require.True(t, ok, name)
		assert.Equal(t, depth, d.BitDepth, name)
	}
	for name, profile := range map[string]dossier.VideoProfile{"vp09.00.41.08": "profile-0", "vp09.03.41.08": "profile-3", "vp09.04.41.08": "", "vp09.-1.41.08": ""} {
		d, ok := format.Codec(name)
		require.True(t, ok, name)
		assert.Equal(t, profile, d.Profile, name)
	}
	for _, name := range []string{"", "grand", "grand.1.2", "."} {
		_, ok := format.Codec(name)
		assert.False(t, ok, name)
	}
}

// Levels and profiles by their numbers, the first and the last of each among them.
func TestNumbersOfLevels(t *testing.T) {
	for idx, want := range map[int]string{-1: "", 0: "2", 1: "2.1", 3: "2.3", 4: "3", 13: "5.1", 23: "7.3", 24: ""} {
		assert.Equal(t, want, format.AV1Level(idx), "%d", idx)
	}
	for n, want := range map[int]dossier.VideoProfile{-1: "seq_profile -1", 0: dossier.ProfileMain, 2: dossier.ProfileProfessional, 3: "seq_profile 3"} {
		assert.Equal(t, want, format.AV1Profile(n), "%d", n)
	}
	for _, c := range []struct {
		profile, constraints, idc int
		want                      string
	}{{66, 0x10, 11, "1b"}, {77, 0x10, 11, "1b"}, {88, 0x10, 11, "1b"}, {100, 0x10, 11, "1.1"}, {66, 0, 11, "1.1"}, {66, 0x10, 10, "1"}, {100, 0, 9, "1b"}, {100, 0, 0, ""}} {
		_, level := format.H264(c.profile, c.constraints, c.idc)
		assert.Equal(t, c.want, level, "%+v", c)
	}
	_, level := format.HEVC(1, true, 0)
	assert.Empty(t, level, "a tier without a level is none")
}

// A level may be written with its tier and with a nought after the point; another word after it makes it none.
func TestLevelsAsTheyAreWritten(t *testing.T) {
	for limit, want := range map[string]format.Verdict{"5.1": format.Can, "5.1 main": format.Can, "5.1 high": format.Can, " 5.1 High ": format.Can, "6.0": format.Can, "5.0": format.Cannot, "5": format.Cannot, "5.1 tall": format.NotKnown, "9": format.NotKnown} {
		d := yes(dossier.EvidenceProven, video(dossier.HEVC))
		d.Profile, d.Level = dossier.ProfileMain10, limit
		d.Width, d.Height, d.FrameRate, d.BitDepth, d.Chroma, d.Range, d.Interlaced = 3840, 2160, 60, 10, dossier.Chroma420, dossier.PQ, dossier.No
		assert.Equal(t, want, format.Decodes(profile(d), dossier.PartVideo, film).Verdict, "%q", limit)
	}
}

// A limit holds what is just as much, and nothing more; only frame rates have a little to spare, for their roundings.
func TestALimitHoldsJustAsMuch(t *testing.T) {
	of := func(change func(*dossier.DecodingEntry)) format.Verdict {
		d := yes(dossier.EvidenceProven, video(dossier.HEVC))
		d.Profile, d.Level, d.Width, d.Height, d.FrameRate, d.BitDepth, d.Chroma, d.Range, d.Interlaced = dossier.ProfileMain10, "5.1", 3840, 2160, 24, 10, dossier.Chroma420, dossier.PQ, dossier.No
		change(&d)
		file := film
		file.FrameRate = 24
		return format.Decodes(profile(d), dossier.PartVideo, file).Verdict
	}
	for name, c := range map[string]struct {
		change func(*dossier.DecodingEntry)
		want   format.Verdict
	}{
		"just as much":      {func(*dossier.DecodingEntry) {}, format.Can},
		"a line less":       {func(d *dossier.DecodingEntry) { d.Height = 2159 }, format.Cannot},
		"a column less":     {func(d *dossier.DecodingEntry) { d.Width = 3839 }, format.Cannot},
		"a rounding":        {func(d *dossier.DecodingEntry) { d.FrameRate = 24000.0 / 1001 }, format.Can},
		"more than that":    {func(d *dossier.DecodingEntry) { d.FrameRate = 23.9 }, format.Cannot},
		"a bit less":        {func(d *dossier.DecodingEntry) { d.BitDepth = 8 }, format.Cannot},
		"fewer frames back": {func(d *dossier.DecodingEntry) { d.ReferenceFrames = 1 }, format.Can},
	} {
		assert.Equal(t, c.want, of(c.change), name)
	}
}

func TestProfilesOfTheGuidelines(t *testing.T) {
	got := format.Guideline("AVC_MP4_HP_HD_AAC")
	require.Len(t, got, 3)
	assert.Equal(t, dossier.DecodingEntry{Part: dossier.PartContainer, Format: "mp4"}, got[0])
	assert.Equal(t, dossier.DecodingEntry{Part: dossier.PartVideo, Format: "h264", Profile: dossier.ProfileHigh, Width: 1920, Height: 1080}, got[1])
	assert.Equal(t, dossier.DecodingEntry{Part: dossier.PartSound, Format: "aac-lc", Channels: 2}, got[2])
	ts := format.Guideline("MPEG_TS_SD_EU_ISO")
	require.Len(t, ts, 2)
	assert.Equal(t, "main", ts[1].Level)
	assert.Equal(t, dossier.Yes, ts[1].Interlaced)
	assert.Equal(t, 4096, format.Guideline("JPEG_LRG")[0].Width)
	for _, nothing := range []string{"", "JPEG_TN", "PNG_SM_ICO", "WMABASE", "MPEG", "_"} {
		assert.Empty(t, format.Guideline(nothing), nothing)
	}
}

// drawn draws entries of a few codecs with limits that may be left out.
func drawn(t *rapid.T, label string) dossier.DecodingEntry {
	d := video(rapid.SampledFrom([]dossier.VideoCodec{dossier.H264, dossier.HEVC}).Draw(t, label+" codec"))
	d.Profile = rapid.SampledFrom([]dossier.VideoProfile{"", dossier.ProfileMain, dossier.ProfileMain10, dossier.ProfileHigh, "grand"}).Draw(t, label+" profile")
	d.Level = rapid.SampledFrom([]string{"", "4.1", "5.1", "5.1 high"}).Draw(t, label+" level")
	d.Height = rapid.SampledFrom([]int{0, 576, 1080, 2160}).Draw(t, label+" height")
	d.BitDepth = rapid.SampledFrom([]int{0, 8, 10}).Draw(t, label+" depth")
	d.Range = rapid.SampledFrom([]dossier.DynamicRange{"", dossier.SDR, dossier.PQ, dossier.PQDynamicOnly}).Draw(t, label+" range")
	d.Evidence = dossier.Evidence(rapid.SampledFrom(dossier.EvidenceProven.Values()).Draw(t, label+" evidence"))
	d.Able = rapid.SampledFrom([]dossier.Answer{dossier.Yes, dossier.No}).Draw(t, label+" able")
	return d
}

func drawnFile(t *rapid.T) dossier.FormatEntry {
	return dossier.FormatEntry{Video: rapid.SampledFrom([]dossier.VideoCodec{dossier.H264, dossier.HEVC}).Draw(t, "codec"),
		Profile:  rapid.SampledFrom([]dossier.VideoProfile{"", dossier.ProfileMain, dossier.ProfileMain10, dossier.ProfileHigh}).Draw(t, "profile"),
		Level:    rapid.SampledFrom([]string{"", "4", "5.1", "6 high"}).Draw(t, "level"),
		Height:   rapid.SampledFrom([]int{0, 576, 1080, 2160}).Draw(t, "height"),
		BitDepth: rapid.SampledFrom([]int{0, 8, 10}).Draw(t, "depth"),
		Range:    rapid.SampledFrom([]dossier.DynamicRange{"", dossier.SDR, dossier.PQ, dossier.HLG}).Draw(t, "range")}
}

func TestNeitherOrderNorAnAbilityMoreMakesItWorse(t *testing.T) {
	rank := map[format.Verdict]int{format.Cannot: 0, format.NotKnown: 1, format.Can: 2}
	rapid.Check(t, func(t *rapid.T) {
		var entries []dossier.DecodingEntry
		for range rapid.IntRange(0, 5).Draw(t, "entries") {
			entries = append(entries, drawn(t, "entry"))
		}
		e := drawnFile(t)
		before := format.Decodes(profile(entries...), dossier.PartVideo, e)
		shuffled := rapid.Permutation(entries).Draw(t, "order")
		assert.Equal(t, before, format.Decodes(profile(shuffled...), dossier.PartVideo, e))

		more := drawn(t, "more")
		more.Able = dossier.Yes
		after := format.Decodes(profile(append(entries, more)...), dossier.PartVideo, e)
		said := slices.ContainsFunc(entries, func(d dossier.DecodingEntry) bool {
			return d.Able == dossier.Yes && d.Format == dossier.FormatTerm(e.Video)
		})
		if said || before.Verdict != format.NotKnown { // of what nothing was said, the first word may be of a limit
			assert.GreaterOrEqual(t, rank[after.Verdict], rank[before.Verdict], "%+v became %+v", before, after)
		}
	})
}
