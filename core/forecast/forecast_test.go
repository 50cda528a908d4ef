package forecast_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
	"kaiku/core/knowledge"
	"kaiku/homes"
)

var (
	film  = dossier.FormatEntry{Container: dossier.MP4, Video: dossier.H264, Profile: dossier.ProfileHigh, Level: "4.1", Width: 1920, Height: 1080, FrameRate: 24, Interlaced: dossier.No, BitDepth: 8, Chroma: dossier.Chroma420, Range: dossier.SDR, Sound: dossier.AAC, Channels: 2, SampleRate: 48000, Items: 10, Hours: 15}
	loud  = with(film, func(e *dossier.FormatEntry) { e.Sound, e.Channels = dossier.AC3, 6 })
	ten   = with(film, func(e *dossier.FormatEntry) { e.Video, e.Profile, e.BitDepth = dossier.HEVC, dossier.ProfileMain10, 10 })
	boxed = with(film, func(e *dossier.FormatEntry) { e.Container = dossier.AVI })
)

func with(e dossier.FormatEntry, change func(*dossier.FormatEntry)) dossier.FormatEntry {
	change(&e)
	return e
}

func able(part dossier.FormatPart, f dossier.FormatTerm, change func(*dossier.DecodingEntry)) dossier.DecodingEntry {
	d := dossier.DecodingEntry{Part: part, Format: f, Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}
	if change != nil {
		change(&d)
	}
	return d
}

// screen decodes what screens of ten years ago do, and says that this is all.
var screen = []dossier.DecodingEntry{
	able(dossier.PartContainer, "mp4", nil),
	able(dossier.PartVideo, "h264", func(d *dossier.DecodingEntry) {
		d.Profile, d.Level, d.Width, d.Height, d.FrameRate, d.Interlaced, d.BitDepth, d.Chroma, d.Range, d.ReferenceFrames = dossier.ProfileHigh, "4.1", 1920, 1080, 60, dossier.Yes, 8, dossier.Chroma420, dossier.SDR, 4
	}),
	able(dossier.PartSound, "aac-lc", func(d *dossier.DecodingEntry) { d.Channels, d.SampleRate = 2, 48000 }),
}

// home is a home with one screen, one folder and one path.
func home(kind dossier.PathKind, converts dossier.Conversion, entries []dossier.DecodingEntry, mix ...dossier.FormatEntry) *dossier.Dossier {
	d := homes.Small().Clone()
	d.Folders[0].Mix = mix
	d.Sources[0].Converts = converts
	d.Paths = d.Paths[:1]
	d.Paths[0].Kind = kind
	p := dossier.Decoding{Device: d.Paths[0].Device, Entries: entries, Complete: []dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound}}
	p.ID = homes.ID[dossier.Decoding](1)
	d.Decodings.Put(p)
	return d
}

func TestWhatBecomesOfEachFormat(t *testing.T) {
	for name, c := range map[string]struct {
		kind     dossier.PathKind
		converts dossier.Conversion
		entry    dossier.FormatEntry
		want     forecast.Outcome
		cause    forecast.Cause
	}{
		"all of it decodes":                  {dossier.AVPull, dossier.ConvertsNothing, film, forecast.AsIs, forecast.ByAbility},
		"the container does not":             {dossier.AVPull, dossier.ConvertsContainer, boxed, forecast.Repackaged, forecast.ByAbility},
		"and nobody repackages":              {dossier.AVPull, dossier.ConvertsNothing, boxed, forecast.Unplayable, forecast.ByServer},
		"the sound does not":                 {dossier.AVPull, dossier.ConvertsSound, loud, forecast.SoundConverted, forecast.ByAbility},
		"and nobody converts it":             {dossier.AVPull, dossier.ConvertsContainer, loud, forecast.Silent, forecast.ByServer},
		"both, and only boxes are changed":   {dossier.AVPull, dossier.ConvertsContainer, with(loud, func(e *dossier.FormatEntry) { e.Container = dossier.AVI }), forecast.Silent, forecast.ByServer},
		"a share converts nothing":           {dossier.Share, dossier.ConvertsAll, loud, forecast.Silent, forecast.ByPath},
		"the picture does not":               {dossier.AVPull, dossier.ConvertsAll, ten, forecast.PictureConverted, forecast.ByAbility},
		"and only sound is converted":        {dossier.AVPull, dossier.ConvertsSound, ten, forecast.Unplayable, forecast.ByServer},
		"a copy converts nothing":            {dossier.Copy, dossier.ConvertsAll, ten, forecast.Unplayable, forecast.ByPath},
		"what the server does is not known":  {dossier.AVPull, "", ten, forecast.NotKnown, forecast.ByRecord},
		"a song nobody decodes is no film":   {dossier.AVPull, dossier.ConvertsNothing, dossier.FormatEntry{Container: dossier.MP4, Sound: dossier.AC3, Channels: 6}, forecast.Unplayable, forecast.ByServer},
		"a form that nobody knows":           {dossier.AVPull, dossier.ConvertsAll, with(film, func(e *dossier.FormatEntry) { e.Video = "grand" }), forecast.NotKnown, forecast.ByRecord},
		"what is locked is not known either": {dossier.AVPull, dossier.ConvertsNothing, with(film, func(e *dossier.FormatEntry) { e.Video = "encrypted" }), forecast.NotKnown, forecast.ByRecord},
	} {
		t.Run(name, func(t *testing.T) {
			f := forecast.Of(home(c.kind, c.converts, screen, c.entry).Index(), knowledge.Knowledge{})
			require.Len(t, f.Cells, 1)
			l := f.Cells[0].Lines[0]
			assert.Equal(t, []any{c.want, c.cause}, []any{l.Outcome, l.Cause})
			assert.Equal(t, forecast.Share{Items: c.entry.Items, Hours: c.entry.Hours}, f.Cells[0].Of[c.want])
		})
	}
}

func TestARateLimitIsASettingNotAnAbility(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsAll, screen, with(film, func(e *dossier.FormatEntry) { e.Needed5Mbps = 12 }))
	d.Sources[0].RateCapMbps = 8
	l := forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0]
	assert.Equal(t, []any{forecast.PictureConverted, forecast.BySetting}, []any{l.Outcome, l.Cause})
	d.Sources[0].RateCapMbps = 12
	assert.Equal(t, forecast.AsIs, forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0].Outcome)
}

func TestSoundIsDecodedBehindThePlayer(t *testing.T) {
	d := home(dossier.Share, dossier.ConvertsNothing, screen, loud)
	bar := dossier.Device{Name: "bar", Roles: []dossier.Role{dossier.RoleReceiver}}
	bar.ID = homes.ID[dossier.Device](9)
	d.Devices.Put(bar)
	c := dossier.ChainLink{From: d.Paths[0].Device, To: bar.ID, SoundReturn: dossier.SoundReturnPlain}
	c.ID = homes.ID[dossier.ChainLink](1)
	d.ChainLinks.Put(c)
	p := dossier.Decoding{Device: bar.ID, Entries: []dossier.DecodingEntry{able(dossier.PartSound, "ac-3", func(d *dossier.DecodingEntry) { d.Channels, d.SampleRate = 6, 48000 }), able(dossier.PartSound, "mlp", func(d *dossier.DecodingEntry) { d.Channels, d.SampleRate = 8, 48000 })}}
	p.ID = homes.ID[dossier.Decoding](2)
	d.Decodings.Put(p)
	outcome := func() forecast.Outcome {
		return forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0].Outcome
	}
	assert.Equal(t, forecast.AsIs, outcome())
	d.Folders[0].Mix[0] = with(loud, func(e *dossier.FormatEntry) { e.Sound, e.Channels = dossier.MLP, 8 })
	assert.Equal(t, forecast.Silent, outcome(), "a plain return carries no such sound")
	d.ChainLinks[0].SoundReturn = dossier.SoundReturnEnhanced
	assert.Equal(t, forecast.AsIs, outcome())
	d.ChainLinks[0].SoundReturn = dossier.SoundReturnNone
	assert.Equal(t, forecast.Silent, outcome())
}

func TestNothingIsPromisedOnNothing(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsNothing, nil, film)
	d.Decodings = nil
	f := forecast.Of(d.Index(), knowledge.Knowledge{})
	assert.Equal(t, forecast.NotKnown, f.Cells[0].Lines[0].Outcome)
	d.Folders[0].Mix, d.Folders[0].ItemsOnDisk = nil, 40
	f = forecast.Of(d.Index(), knowledge.Knowledge{})
	assert.Equal(t, 40, f.Cells[0].Unread, "of what no mix tells, nothing is said")
	assert.Empty(t, f.Cells[0].Of)
}

func TestWhatWouldHelpMost(t *testing.T) {
	more := with(ten, func(e *dossier.FormatEntry) { e.Hours, e.Items = 71, 38 })
	d := home(dossier.Share, dossier.ConvertsNothing, screen, film, more, loud)
	f := forecast.Of(d.Index(), knowledge.Knowledge{})
	require.Len(t, f.Helps, 2)
	assert.Equal(t, dossier.FormatTerm("hevc"), f.Helps[0].Format)
	assert.Equal(t, forecast.Share{Items: 38, Hours: 71}, f.Helps[0].Gained)
	assert.Equal(t, dossier.FormatTerm("ac-3"), f.Helps[1].Format)
	assert.InDelta(t, 15, f.Helps[1].Gained.Hours, 1e-9)
}

// Whatever the entries and formats: an ability more makes nothing worse that was known, and their order says nothing.
func TestAnAbilityMoreMakesNoForecastWorse(t *testing.T) {
	rank := func(o forecast.Outcome) int { return -slices.Index(forecast.Outcomes, o) }
	rapid.Check(t, func(t *rapid.T) {
		entry := func() dossier.DecodingEntry {
			part := rapid.SampledFrom([]dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound}).Draw(t, "part")
			of := map[dossier.FormatPart][]dossier.FormatTerm{dossier.PartContainer: {"mp4", "avi"}, dossier.PartVideo: {"h264", "hevc"}, dossier.PartSound: {"aac-lc", "ac-3"}}
			return able(part, rapid.SampledFrom(of[part]).Draw(t, "format"), func(d *dossier.DecodingEntry) {
				d.Evidence = dossier.Evidence(rapid.SampledFrom(dossier.EvidenceProven.Values()).Draw(t, "evidence"))
				if rapid.Bool().Draw(t, "no") {
					d.Able = dossier.No
				}
			})
		}
		var entries []dossier.DecodingEntry
		for range rapid.IntRange(0, 5).Draw(t, "entries") {
			entries = append(entries, entry())
		}
		converts := rapid.SampledFrom([]dossier.Conversion{"", dossier.ConvertsNothing, dossier.ConvertsContainer, dossier.ConvertsSound, dossier.ConvertsAll}).Draw(t, "converts")
		kind := rapid.SampledFrom([]dossier.PathKind{dossier.AVPull, dossier.Share}).Draw(t, "kind")
		mix := []dossier.FormatEntry{film, loud, ten, boxed}
		outcomes := func(entries []dossier.DecodingEntry) (out []forecast.Outcome) {
			for _, l := range forecast.Of(home(kind, converts, entries, mix...).Index(), knowledge.Knowledge{}).Cells[0].Lines {
				out = append(out, l.Outcome)
			}
			return out
		}
		before := outcomes(entries)
		assert.Equal(t, before, outcomes(rapid.Permutation(entries).Draw(t, "order")))
		more := entry()
		more.Able = dossier.Yes
		for i, after := range outcomes(append(entries, more)) {
			if before[i] != forecast.NotKnown && after != forecast.NotKnown {
				assert.GreaterOrEqual(t, rank(after), rank(before[i]), "%v became %v", before, after)
			}
			assert.False(t, before[i] == forecast.AsIs && after != forecast.AsIs, "what plays as it is does so still")
		}
	})
}

// What stands beside an entry in a folder makes no difference to it, whatever the two have in common.
func TestAnEntryIsDecidedByItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		entry := func() dossier.FormatEntry {
			return with(film, func(e *dossier.FormatEntry) {
				e.Video = rapid.SampledFrom([]dossier.VideoCodec{"", dossier.H264, dossier.HEVC, dossier.MPEG2}).Draw(t, "video")
				e.Level = rapid.SampledFrom([]string{"", "4.1", "5.1"}).Draw(t, "level")
				e.Width = rapid.SampledFrom([]int{0, 1280, 1920, 3840}).Draw(t, "width")
				e.Height = rapid.SampledFrom([]int{0, 720, 1080, 2160}).Draw(t, "height")
				e.FrameRate = rapid.SampledFrom([]float64{0, 25, 50}).Draw(t, "frames")
				e.BitDepth = rapid.SampledFrom([]int{0, 8, 10}).Draw(t, "depth")
				e.Range = rapid.SampledFrom([]dossier.DynamicRange{"", dossier.SDR, dossier.HLG}).Draw(t, "range")
				e.Sound = rapid.SampledFrom([]dossier.SoundCodec{"", dossier.AAC, dossier.AC3, dossier.DCA}).Draw(t, "sound")
				e.Channels = rapid.SampledFrom([]int{0, 2, 6}).Draw(t, "channels")
				e.Subtitles = dossier.SubtitleForm(rapid.SampledFrom(append(dossier.SubtitleForm("").Terms(), "")).Draw(t, "subtitles"))
				e.AverageMbps = rapid.SampledFrom([]float64{0, 5, 40}).Draw(t, "average")
				e.Needed5Mbps = rapid.SampledFrom([]float64{0, 5, 40}).Draw(t, "needed")
			})
		}
		converts := rapid.SampledFrom([]dossier.Conversion{"", dossier.ConvertsNothing, dossier.ConvertsContainer, dossier.ConvertsSound, dossier.ConvertsAll}).Draw(t, "converts")
		limit := rapid.SampledFrom([]float64{0, 0, 20}).Draw(t, "limit")
		lines := func(mix ...dossier.FormatEntry) []*forecast.Line {
			d := home(dossier.AVPull, converts, screen, mix...)
			d.Sources[0].RateCapMbps = limit
			return forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines
		}
		var mix []dossier.FormatEntry
		for range rapid.IntRange(2, 8).Draw(t, "entries") {
			mix = append(mix, entry())
		}
		for i, l := range lines(mix...) {
			assert.Equal(t, lines(mix[i])[0], l, "%+v", mix[i])
		}
	})
}

// Files that differ in their rate alone differ where a decoder has a limit of rate, whichever device of the home has it, and in nothing else.
func TestRatesTellFilesApartWhereADecoderHasALimit(t *testing.T) {
	slow, fast := with(film, func(e *dossier.FormatEntry) { e.AverageMbps = 8 }), with(film, func(e *dossier.FormatEntry) { e.AverageMbps = 90 })
	d := home(dossier.AVPull, dossier.ConvertsNothing, screen, slow, fast)
	outcomes := func() (out []forecast.Outcome) {
		for _, l := range forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines {
			out = append(out, l.Outcome)
		}
		return out
	}
	assert.Equal(t, []forecast.Outcome{forecast.AsIs, forecast.AsIs}, outcomes())
	entries := d.Decodings[0].Entries
	d.Decodings[0].Entries = slices.Clone(entries)
	for i, e := range entries {
		if e.Part == dossier.PartVideo {
			d.Decodings[0].Entries[i].RateMbps = 50
		}
	}
	assert.Equal(t, []forecast.Outcome{forecast.AsIs, forecast.Unplayable}, outcomes())
	for i := range d.Decodings[0].Entries {
		d.Decodings[0].Entries[i].RateMbps = 50
	}
	assert.Equal(t, []forecast.Outcome{forecast.AsIs, forecast.Unplayable}, outcomes(), "where everything has one")
}

// Sixty devices of sixty models, and of ten: the less they have in common, the more there is to work out.
func BenchmarkForecast(b *testing.B) {
	for _, models := range []int{60, 10} {
		b.Run(fmt.Sprintf("%d-models", models), func(b *testing.B) { benchmarkForecast(b, models) })
	}
}

func benchmarkForecast(b *testing.B, models int) {
	d := home(dossier.AVPull, dossier.ConvertsSound, screen)
	for i := range 30 {
		d.Folders[0].Mix = append(d.Folders[0].Mix, with(film, func(e *dossier.FormatEntry) { e.Level = []string{"3.1", "4", "4.1", "5.1"}[i%4]; e.Items = i }))
	}
	for i := range 19 {
		addFolder(d, string(rune('a'+i)), d.Folders[0].Mix...)
	}
	d.Paths[0].Folders = nil
	for i := range 59 {
		entries := slices.Clone(screen)
		entries[1].ReferenceFrames = 4 + i%models
		addDevice(d, string(rune('A'+i)), entries, "")
	}
	x := d.Index()
	for b.Loop() {
		forecast.Of(x, knowledge.Knowledge{})
	}
	ms := b.Elapsed().Seconds() * 1000 / float64(b.N)
	b.ReportMetric(5, "aim-ms")
	b.ReportMetric(ms, "measured-ms")
	b.ReportMetric(ms/5, "ratio")
}

// A data sheet of the firm fills what no record of the home says; what was tried goes before it.
func TestTheFirmsSheetsCount(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsNothing, nil, film)
	d.Decodings = nil
	device := &d.Devices[1]
	device.Make, device.Model, device.Firmware = "Ruska", "TV-40", "2"
	k := knowledge.Knowledge{Sheets: []knowledge.Sheet{{Model: knowledge.Model{Make: "Ruska", Model: "TV-40"}, To: "3", Entries: screen}}}
	line := func() *forecast.Line { return forecast.Of(d.Index(), k).Cells[0].Lines[0] }
	assert.Equal(t, forecast.AsIs, line().Outcome)
	assert.Equal(t, dossier.EvidenceDataSheet, line().Evidence)
	device.Firmware = ""
	assert.Equal(t, dossier.EvidenceAssumed, line().Evidence, "whether the sheet holds for its firmware is not known")
	device.Firmware = "4"
	assert.Equal(t, forecast.NotKnown, line().Outcome)
	device.Firmware = "2"
	p := dossier.Decoding{Device: device.ID, Entries: []dossier.DecodingEntry{{Part: dossier.PartVideo, Format: "h264", Able: dossier.No, Evidence: dossier.EvidenceProven}}}
	p.ID = homes.ID[dossier.Decoding](1)
	d.Decodings.Put(p)
	assert.Equal(t, forecast.Unplayable, line().Outcome, "it was tried, and did not play")
}

func TestSubtitlesThatAreNotShown(t *testing.T) {
	text := with(film, func(e *dossier.FormatEntry) { e.Subtitles = "srt" })
	image := with(film, func(e *dossier.FormatEntry) { e.Subtitles = "bd-presentation" })
	able := append(slices.Clone(screen), able(dossier.PartSubtitles, "srt", nil), dossier.DecodingEntry{Part: dossier.PartSubtitles, Format: "image", Able: dossier.No, Evidence: dossier.EvidenceDeclared})
	for _, c := range []struct {
		converts dossier.Conversion
		entries  []dossier.DecodingEntry
		file     dossier.FormatEntry
		want     forecast.Subtitles
	}{
		{dossier.ConvertsNothing, able, film, ""}, {dossier.ConvertsNothing, able, text, ""}, {dossier.ConvertsNothing, able, image, forecast.SubtitlesNotShown},
		{dossier.ConvertsAll, able, image, forecast.SubtitlesBurntIn}, {dossier.ConvertsAll, screen, text, forecast.SubtitlesBurntIn}, {dossier.ConvertsNothing, screen, text, forecast.SubtitlesNotKnown}, {"", able, image, forecast.SubtitlesNotKnown},
	} {
		l := forecast.Of(home(dossier.AVPull, c.converts, c.entries, c.file).Index(), knowledge.Knowledge{}).Cells[0].Lines[0]
		assert.Equal(t, c.want, l.Subtitles, "%s %s", c.converts, c.file.Subtitles)
		assert.Equal(t, forecast.AsIs, l.Outcome, "the film itself plays")
	}
}

// behind puts a device behind the one that plays, by that link.
func behind(d *dossier.Dossier, name string, link dossier.ChainLink) dossier.ID[dossier.Device] {
	v := dossier.Device{Name: name}
	v.ID = homes.ID[dossier.Device](7)
	d.Devices.Put(v)
	link.ID, link.From, link.To = homes.ID[dossier.ChainLink](1), d.Devices[1].ID, v.ID
	d.ChainLinks.Put(link)
	return v.ID
}

// What the chain behind a player cannot carry is said; the film plays all the same.
func TestTheDisplayChainBoundsThePicture(t *testing.T) {
	lowered := func(mode string, from dossier.Role, e dossier.FormatEntry) []format.Limit {
		d := home(dossier.AVPull, dossier.ConvertsNothing, screen, e)
		d.Devices[1].Roles = []dossier.Role{from}
		behind(d, "projector", dossier.ChainLink{BestMode: mode})
		l := forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0]
		assert.Equal(t, len(l.Lowered) > 0, l.Chain != "")
		return l.Lowered
	}
	assert.Equal(t, []format.Limit{"width", "frameRate"}, lowered("720p23, SDR", dossier.RolePlayer, film))
	assert.Empty(t, lowered("1080p60, 8 bit, SDR", dossier.RolePlayer, film))
	assert.Empty(t, lowered("", dossier.RolePlayer, film))
	assert.Empty(t, lowered("720p60", dossier.RoleScreen, film), "the screen shows the picture itself; its link carries sound")
}

func TestWhatConvertingTakes(t *testing.T) {
	uhd := with(ten, func(e *dossier.FormatEntry) { e.Width, e.Height, e.Range = 3840, 2160, dossier.PQ })
	d := home(dossier.AVPull, dossier.ConvertsAll, screen, film, ten, uhd)
	d.Sources[0].BudgetMpx = 800
	second := d.Devices[1]
	second.ID, second.Name = homes.ID[dossier.Device](8), "second"
	d.Devices.Put(second)
	p := d.Paths[0]
	p.ID, p.Device = homes.ID[dossier.Path](8), second.ID
	d.Paths.Put(p)
	profile := d.Decodings[0]
	profile.ID, profile.Device = homes.ID[dossier.Decoding](8), second.ID
	d.Decodings.Put(profile)
	f := forecast.Of(d.Index(), knowledge.Knowledge{})
	lines := f.Cells[0].Lines
	assert.Zero(t, lines[0].Mpx, "nothing is converted")
	assert.InDelta(t, 1920*1080*24*(1.5*1.35+1)/1e6, lines[1].Mpx, 0.06)
	assert.InDelta(t, 3840*2160*24*(1.5*1.35+1+1)/1e6, lines[2].Mpx, 0.06)
	require.Len(t, f.Converters, 1)
	c := f.Converters[0]
	assert.Equal(t, lines[2].Mpx, c.Mpx)
	assert.Equal(t, 2, c.Entry)
	assert.Equal(t, []int{0, 2}, []int{c.AtOnce, c.Devices})
	assert.Equal(t, d.Devices[1].ID, c.Device, "the first of those that ask as much")
	assert.True(t, c.Short())
	// Both at once are one too many; what is not known is not said to be enough.
	both := []dossier.ID[dossier.Path]{d.Paths[0].ID, p.ID}
	for _, of := range []struct {
		power         float64
		paths         []dossier.ID[dossier.Path]
		enough, known bool
	}{{2 * c.Mpx, both, true, true}, {2*c.Mpx - 1, both, false, true}, {c.Mpx, both[:1], true, true}, {0, both, false, false}} {
		d.Sources[0].BudgetMpx = of.power
		list := forecast.Of(d.Index(), knowledge.Knowledge{}).Together(d.Index(), of.paths)
		require.Len(t, list, 1)
		assert.Equal(t, of.paths, list[0].Paths)
		assert.InDelta(t, float64(len(of.paths))*c.Mpx, list[0].Mpx, 1e-9)
		enough, known := list[0].Enough()
		assert.Equal(t, [2]bool{of.enough, of.known}, [2]bool{enough, known}, of.power)
	}
	assert.Empty(t, f.Together(d.Index(), nil))
	d.Sources[0].BudgetMpx = 2000
	assert.False(t, forecast.Of(d.Index(), knowledge.Knowledge{}).Converters[0].Short())
	d.Sources[0].BudgetMpx = 0
	assert.False(t, forecast.Of(d.Index(), knowledge.Knowledge{}).Converters[0].Short(), "not known is not short")
	// A picture that is only too large is encoded at the size that the device goes up to.
	wide := with(film, func(e *dossier.FormatEntry) { e.Width, e.Height = 3840, 2160 })
	d.Folders[0].Mix = []dossier.FormatEntry{wide}
	assert.InDelta(t, (3840*2160+1920*1080)*24/1e6, forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0].Mpx, 0.06)
	high := with(film, func(e *dossier.FormatEntry) { e.Height = 1200 })
	d.Folders[0].Mix = []dossier.FormatEntry{high}
	assert.InDelta(t, (1920*1200+1920*1200*.9*.9)*24/1e6, forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0].Mpx, 0.06)
	unsized := with(ten, func(e *dossier.FormatEntry) { e.Width, e.Height = 0, 0 })
	d.Folders[0].Mix, d.Sources[0].BudgetMpx = []dossier.FormatEntry{unsized}, 10
	f = forecast.Of(d.Index(), knowledge.Knowledge{})
	require.Len(t, f.Converters, 1)
	assert.False(t, f.Converters[0].Short())
	assert.Zero(t, f.Converters[0].AtOnce)
	assert.Equal(t, d.Devices[1].ID, f.Converters[0].Device)
	_, known := f.Together(d.Index(), both)[0].Enough()
	assert.False(t, known, "what a picture without a size takes is not known")
}

// A firmware helps by what the firm knows of it, and a rate limit by being lifted; each is thought through alone.
func TestFirmwareAndRateLimitsAreAmongWhatHelps(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsAll, append(slices.Clone(screen), dossier.DecodingEntry{Part: dossier.PartVideo, Format: "hevc", Able: dossier.No, Evidence: dossier.EvidenceProven}), film, ten)
	device := &d.Devices[1]
	device.Model, device.Firmware = "TV-40", "1"
	hevc := able(dossier.PartVideo, "hevc", func(d *dossier.DecodingEntry) {
		d.Profile, d.Level, d.Width, d.Height, d.FrameRate, d.BitDepth, d.Chroma, d.Range = dossier.ProfileMain10, "5.1", 3840, 2160, 60, 10, dossier.Chroma420, dossier.SDR
	})
	k := knowledge.Knowledge{Sheets: []knowledge.Sheet{{Model: knowledge.Model{Model: "TV-40"}, From: "2", Entries: []dossier.DecodingEntry{hevc}}},
		Releases: []knowledge.Release{{Model: knowledge.Model{Model: "TV-40"}, Newest: "2.1", Source: "support page"}}}
	kinds := func() map[forecast.HelpKind]forecast.Help {
		out := map[forecast.HelpKind]forecast.Help{}
		before := d.Clone()
		for _, h := range forecast.Of(d.Index(), k).Helps {
			out[h.Kind] = h
		}
		assert.Equal(t, before, d)
		return out
	}
	assert.Equal(t, forecast.Help{Kind: forecast.HelpFirmware, Device: device.ID, Firmware: "2.1", By: "support page", Gained: forecast.Share{Items: 10, Hours: 15}}, kinds()[forecast.HelpFirmware])
	device.Firmware = "2.1"
	assert.NotContains(t, kinds(), forecast.HelpFirmware, "it is installed")
	device.Firmware = "odd"
	assert.NotContains(t, kinds(), forecast.HelpFirmware, "whether it is newer is not known")

	d.Folders[0].Mix = []dossier.FormatEntry{with(film, func(e *dossier.FormatEntry) { e.AverageMbps, e.PeakMbps = 8, 12 })}
	assert.NotContains(t, kinds(), forecast.HelpRateLimit)
	d.Sources[0].RateCapMbps = 4
	assert.Equal(t, d.Sources[0].ID, kinds()[forecast.HelpRateLimit].Source)
	assert.Equal(t, 10, kinds()[forecast.HelpRateLimit].Gained.Items)
	device.RateCapMbps = 4
	assert.NotContains(t, kinds(), forecast.HelpRateLimit, "neither helps alone")
	d.Sources[0].RateCapMbps = 0
	assert.Equal(t, forecast.Help{Kind: forecast.HelpRateLimit, Device: device.ID, Gained: forecast.Share{Items: 10, Hours: 15}}, kinds()[forecast.HelpRateLimit])
}

// What a player sends on to a sound bar by way of the screen depends on a setting of the screen.
func TestTheSoundReturnOfAChainIsAmongWhatHelps(t *testing.T) {
	loud := with(film, func(e *dossier.FormatEntry) { e.Sound, e.Channels = dossier.EAC3, 6 })
	mute := append(slices.Clone(screen), dossier.DecodingEntry{Part: dossier.PartSound, Format: "e-ac-3", Able: dossier.No, Evidence: dossier.EvidenceProven})
	helps := func(way dossier.SoundReturn) (out []forecast.Help) {
		d := home(dossier.AVPull, dossier.ConvertsNothing, mute, loud)
		bar := behind(d, "sound bar", dossier.ChainLink{SoundReturn: way})
		decodes := dossier.Decoding{Device: bar, Entries: []dossier.DecodingEntry{able(dossier.PartSound, "e-ac-3", func(d *dossier.DecodingEntry) { d.Channels, d.SampleRate = 6, 48000 })}}
		decodes.ID = homes.ID[dossier.Decoding](7)
		d.Decodings.Put(decodes)
		for _, h := range forecast.Of(d.Index(), knowledge.Knowledge{}).Helps {
			if h.Kind == forecast.HelpSoundReturn {
				assert.Equal(t, []dossier.ID[dossier.Device]{d.Devices[1].ID, bar}, []dossier.ID[dossier.Device]{h.Device, h.To})
				out = append(out, h)
			}
		}
		return out
	}
	for _, way := range []dossier.SoundReturn{dossier.SoundReturnPlain, dossier.SoundReturnOptical, dossier.SoundReturnNone} {
		got := helps(way)
		require.Len(t, got, 1, "%s", way)
		assert.Equal(t, loud.Items, got[0].Gained.Items)
		assert.InDelta(t, loud.Hours, got[0].Gained.Hours, 0)
	}
	assert.Empty(t, helps(dossier.SoundReturnEnhanced), "it carries all")
	assert.Empty(t, helps(""), "nothing is known to be in the way")
}

func TestOtherSubtitlesAreAmongWhatHelpsAndComeLast(t *testing.T) {
	shown := append(slices.Clone(screen), able(dossier.PartSubtitles, "srt", nil), dossier.DecodingEntry{Part: dossier.PartSubtitles, Format: "bd-presentation", Able: dossier.No, Evidence: dossier.EvidenceProven})
	helps := func(converts dossier.Conversion, others ...dossier.SubtitleForm) (out []forecast.Help) {
		subtitled := with(film, func(e *dossier.FormatEntry) {
			e.Subtitles, e.OtherSubtitles, e.Hours = dossier.BDPresentation, others, 500
		})
		d := home(dossier.AVPull, converts, shown, subtitled, ten)
		return forecast.Of(d.Index(), knowledge.Knowledge{}).Helps
	}
	of := func(all []forecast.Help) (out []forecast.Help) {
		return slices.DeleteFunc(slices.Clone(all), func(h forecast.Help) bool { return h.Kind != forecast.HelpSubtitles })
	}
	for _, converts := range []dossier.Conversion{dossier.ConvertsNothing, dossier.ConvertsAll} {
		got := helps(converts, dossier.DVDSubpicture, dossier.SubRip)
		require.Len(t, of(got), 1, "%s", converts)
		assert.Equal(t, forecast.Share{Items: film.Items, Hours: 500}, of(got)[0].Gained)
		assert.Greater(t, len(got), 1)
		assert.Equal(t, forecast.HelpSubtitles, got[len(got)-1].Kind, "films play without them: whatever makes more play comes first")
	}
	assert.Empty(t, of(helps(dossier.ConvertsNothing, dossier.DVDSubpicture)), "whether it shows those is not known")
	assert.Empty(t, of(helps(dossier.ConvertsNothing)), "there are no others")
	assert.Empty(t, of(helps("", dossier.SubRip)), "it is not known that the first ones are not shown")
}
