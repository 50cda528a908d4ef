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

func answers(yes func(format.Question) bool) []*bool {
	out := make([]*bool, len(format.Questions))
	for n, q := range format.Questions {
		is := yes(q)
		out[n] = &is
	}
	return out
}

// Every question is about a codec and a container of the vocabulary, with what was asked of it.
func TestEveryQuestionIsAboutSomething(t *testing.T) {
	for n, q := range format.Questions {
		list := make([]*bool, n+1)
		yes := true
		list[n] = &yes
		got := format.Answered(list, false)
		require.Len(t, got, 2, q.Type)
		for _, d := range got {
			assert.Contains(t, slices.Concat(dossier.VideoCodec("").Terms(), dossier.SoundCodec("").Terms(), dossier.Container("").Terms()), string(d.Format), q.Type)
			assert.Equal(t, dossier.EvidenceDeclared, d.Evidence)
			assert.Equal(t, dossier.Yes, d.Able)
		}
		assert.Equal(t, []int{q.Width, q.Height, q.Channels, q.Rate}, []int{got[0].Width, got[0].Height, got[0].Channels, got[0].SampleRate}, q.Type)
		if q.Width > 0 && got[0].Format != "vp8" && got[0].Format != "mpeg-2" {
			assert.NotEmpty(t, got[0].Profile, q.Type)
			assert.NotEmpty(t, got[0].Level, q.Type)
		}
		assert.Equal(t, 1, len(slices.DeleteFunc(slices.Clone(format.Questions), func(o format.Question) bool { return o != q })), "%s is asked once", q.Type)
	}
}

func TestWhatABrowserSaysOfItself(t *testing.T) {
	hd := func(q format.Question) bool { return q.Width <= 1920 && q.Range != dossier.PQ }
	entries := format.Answered(answers(hd), true)
	p := dossier.Decoding{Entries: entries}
	file := dossier.FormatEntry{Container: dossier.MP4, Video: dossier.HEVC, Profile: dossier.ProfileMain, Level: "4", Width: 1920, Height: 1080, FrameRate: 25, Sound: dossier.AAC, Channels: 2}
	assert.Equal(t, format.Can, format.Decodes(p, dossier.PartVideo, file).Verdict)
	file.Width, file.Height, file.Level = 3840, 2160, "5"
	r := format.Decodes(p, dossier.PartVideo, file)
	assert.NotEqual(t, format.Can, r.Verdict)

	nothing := format.Answered(answers(func(q format.Question) bool { return q.Type == "audio/mpeg" }), true)
	for _, d := range nothing {
		assert.Equal(t, d.Format == "mp3" || d.Format == "mpeg-audio", d.Able == dossier.Yes, "%v", d)
	}
	assert.Equal(t, format.Cannot, format.Decodes(dossier.Decoding{Entries: nothing}, dossier.PartVideo, file).Verdict)
	modest := format.Answered(answers(func(q format.Question) bool { return q.Type == "audio/mpeg" }), false)
	assert.Len(t, modest, 2, "a device that does not play in its browser says nothing by what the browser refuses")
	assert.Empty(t, format.Answered(make([]*bool, 200), true), "what was not answered is not known")
}

// Declaring the same again changes nothing; what is known otherwise stays; order does not matter for what is there.
func TestDeclaringAgainChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var recorded []dossier.DecodingEntry
		for range rapid.IntRange(0, 6).Draw(t, "recorded") {
			recorded = append(recorded, drawn(t, "entry"))
		}
		now := format.Answered(answers(func(format.Question) bool { return rapid.Bool().Draw(t, "answer") }), rapid.Bool().Draw(t, "all"))
		once := format.Declared(recorded, now)
		assert.ElementsMatch(t, once, format.Declared(once, now))
		for _, d := range recorded {
			if d.Evidence != dossier.EvidenceDeclared {
				assert.Contains(t, once, d)
			}
		}
		for _, d := range now {
			assert.Contains(t, once, d)
		}
	})
}

// What is declared again takes the place of the same thing declared before, whatever was said of it; what was said not to be decoded at all
// goes when something of it is decoded; everything else stays.
func TestWhatDeclaringReplaces(t *testing.T) {
	entry := func(f dossier.FormatTerm, able dossier.Answer, width int, evidence dossier.Evidence) dossier.DecodingEntry {
		return dossier.DecodingEntry{Part: dossier.PartVideo, Format: f, Able: able, Width: width, Evidence: evidence}
	}
	const declared, proven = dossier.EvidenceDeclared, dossier.EvidenceProven
	now := []dossier.DecodingEntry{entry("h264", dossier.Yes, 1920, declared)}
	sound := entry("h264", dossier.No, 0, declared)
	sound.Part = dossier.PartSound
	for name, c := range map[string]struct {
		old   dossier.DecodingEntry
		stays bool
	}{
		"the same":                           {entry("h264", dossier.Yes, 1920, declared), true},
		"the same, said not to be":           {entry("h264", dossier.No, 1920, declared), false},
		"the same, known otherwise":          {entry("h264", dossier.No, 1920, proven), true},
		"another size":                       {entry("h264", dossier.No, 3840, declared), true},
		"none of it at all":                  {entry("h264", dossier.No, 0, declared), false},
		"none of it at all, known otherwise": {entry("h264", dossier.No, 0, proven), true},
		"none of another":                    {entry("hevc", dossier.No, 0, declared), true},
		"none of it, of another part":        {sound, true},
		"all of it":                          {entry("h264", dossier.Yes, 0, declared), true},
	} {
		got := format.Declared([]dossier.DecodingEntry{c.old}, now)
		assert.Equal(t, c.stays, slices.Contains(got, c.old), name)
		assert.Contains(t, got, now[0], name)
		assert.Len(t, got, map[bool]int{true: 2, false: 1}[c.stays && c.old != now[0]], name)
	}
	refused := []dossier.DecodingEntry{entry("h264", dossier.No, 1920, declared)}
	assert.Contains(t, format.Declared([]dossier.DecodingEntry{entry("h264", dossier.No, 0, declared)}, refused), entry("h264", dossier.No, 0, declared), "what is refused again takes nothing back")
	for _, d := range format.Answered(answers(func(format.Question) bool { return true }), true) {
		assert.NotEqual(t, dossier.SDR, d.Range, "a plain picture is no range to be named")
	}
}
