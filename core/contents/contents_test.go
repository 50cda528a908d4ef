package contents

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/titles"
)

func film(path string) File {
	return File{Path: path, Bytes: 4e9, Seconds: 3600, Format: dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC, Height: 1080, Width: 1920, Hours: 1, Gigabytes: 4}}
}

// What is left out of the list stays in the mix, and what is in trouble is never left out for what is not.
func TestWhatIsTooMuchIsCutAndSaid(t *testing.T) {
	var c Contents
	for n := range MostItems + 10 {
		c.Items = append(c.Items, film(fmt.Sprintf("%06d.mkv", n)))
	}
	c.Items = append(c.Items, File{Path: "999999.mkv", Trouble: HalfCopied})
	cut := c.Cut()
	assert.Len(t, cut.Items, MostItems)
	assert.Equal(t, 11, cut.Left)
	assert.Equal(t, MostItems+10, cut.Readable())
	assert.Equal(t, "999999.mkv", cut.Items[MostItems-1].Path)
	require.NoError(t, cut.Check(), "sorted by path again")
	assert.Equal(t, cut, cut.Cut(), "what is left out stays in the mix when it is kept elsewhere")
	assert.Len(t, c.Items, MostItems+11, "what was read is left as it is")

	small := Contents{Items: []File{film("a.mkv"), {Path: "b.mkv", Trouble: Damaged}}}.Cut()
	assert.Zero(t, small.Left)
	assert.Equal(t, 1, small.Readable())
	empty := Contents{}.Cut()
	assert.NotNil(t, empty.Items, "nothing is a list as well")
	assert.NotNil(t, empty.Mix)
}

func TestContentsFromElsewhereAreChecked(t *testing.T) {
	good := Contents{Items: []File{film("a.mkv"), film("b.mkv")}}.Cut()
	require.NoError(t, good.Check())
	for name, c := range map[string]struct {
		spoil func(*Contents)
		says  string
	}{
		"no path":                {func(c *Contents) { c.Items[0].Path = "" }, "item"},
		"out of order":           {func(c *Contents) { c.Items[0].Path = "c.mkv" }, "item"},
		"twice":                  {func(c *Contents) { c.Items[0].Path = "b.mkv" }, "item"},
		"a very long path":       {func(c *Contents) { c.Items[1].Path = strings.Repeat("b", 4001) }, "item"},
		"a negative size":        {func(c *Contents) { c.Items[0].Bytes = -1 }, "item"},
		"a negative length":      {func(c *Contents) { c.Items[0].Seconds = -1 }, "item"},
		"no length at all":       {func(c *Contents) { c.Items[0].Seconds = math.NaN() }, "item"},
		"an endless length":      {func(c *Contents) { c.Items[0].Seconds = math.Inf(1) }, "item"},
		"an unknown trouble":     {func(c *Contents) { c.Items[0].Trouble = "tired" }, "item"},
		"more than all left out": {func(c *Contents) { c.Left = -1 }, "larger than what is kept"},
		"a negative count":       {func(c *Contents) { c.Covers = -1 }, "larger than what is kept"},
		"a long place":           {func(c *Contents) { c.Place = strings.Repeat("x", 1001) }, "larger than what is kept"},
		"a long machine":         {func(c *Contents) { c.With = strings.Repeat("x", 81) }, "larger than what is kept"},
		"too many items":         {func(c *Contents) { c.Items = make([]File, MostItems+1) }, "larger than what is kept"},
		"too large a mix":        {func(c *Contents) { c.Mix = make([]dossier.FormatEntry, 501) }, "larger than what is kept"},
	} {
		spoilt := Contents{Items: []File{film("a.mkv"), film("b.mkv")}}.Cut()
		c.spoil(&spoilt)
		assert.ErrorContains(t, spoilt.Check(), c.says, name)
	}
}

func TestAReadingThatWasStoppedKeepsWhatItHadNotReached(t *testing.T) {
	earlier := Contents{Place: "a share", Items: []File{film("a.mkv"), film("b.mkv"), film("c.mkv")}}
	grown := film("b.mkv")
	grown.Bytes++
	c := Contents{Place: "a share", Stopped: true, Items: []File{grown}}.After(earlier)
	require.Len(t, c.Items, 3)
	assert.Equal(t, grown, c.Items[1], "the newer one counts")
	require.NoError(t, c.Cut().Check())
	assert.Len(t, Contents{Place: "another", Stopped: true, Items: []File{grown}}.After(earlier).Items, 1)
	assert.Len(t, Contents{Place: "a share", Items: []File{grown}}.After(earlier).Items, 1, "a whole reading is the whole")
}

func TestTheListIsHeldAgainstTheItemsThatWereReadWithIt(t *testing.T) {
	c := Contents{Items: []File{film("Fog Signal.mkv"), {Path: "half.mkv", Trouble: HalfCopied}, {Path: "secret.mkv", Trouble: Unreadable}, {Path: "bad.mkv", Trouble: Damaged}}}
	of := dossier.Folder{ContentKind: dossier.Film}
	_, ok := c.Compare(of)
	assert.False(t, ok, "nothing was asked")
	c.Listing = &Listing{Entries: []titles.Entry{{Title: "Fog Signal", Kind: dossier.Film, Bytes: 4e9}}, Whole: true}
	found, ok := c.Compare(of)
	require.True(t, ok)
	assert.Equal(t, []int{1, 1, 1}, []int{found.OnDisk, found.Listed, found.Matched})
	causes := map[string]titles.Cause{}
	for _, m := range found.Missing {
		causes[m.File.Path] = m.Cause
	}
	assert.Equal(t, map[string]titles.Cause{"half.mkv": titles.CauseHalfCopy, "secret.mkv": titles.CauseNoRight, "bad.mkv": titles.CauseBroken}, causes)
	for name, spoil := range map[string]func(*Contents){
		"the server could not be asked": func(c *Contents) { c.Listing = &Listing{Trouble: "no answer"} },
		"stopped":                       func(c *Contents) { c.Stopped = true },
		"not all are kept":              func(c *Contents) { c.Left = 1 },
	} {
		other := c
		spoil(&other)
		_, ok := other.Compare(of)
		assert.False(t, ok, name)
	}
}

// A list that was cut would make what is left out seem to be missing from the server.
func TestAListThatIsTooLongIsNotKeptInPart(t *testing.T) {
	long := strings.Repeat("ä", 5000)
	c := Contents{Listing: &Listing{Entries: []titles.Entry{{Title: long, In: long, At: long, Bytes: -1}}, Whole: true}}.Cut()
	require.NoError(t, c.Check())
	assert.True(t, c.Listing.Whole)
	c.Listing = &Listing{Entries: make([]titles.Entry, MostItems), Whole: true}
	assert.Len(t, c.Cut().Listing.Entries, MostItems)
	c.Listing.Entries = append(c.Listing.Entries, titles.Entry{})
	cut := c.Cut()
	assert.Equal(t, Listing{Entries: []titles.Entry{}, Trouble: "it lists more than 20000 titles"}, *cut.Listing)
	assert.Len(t, c.Listing.Entries, MostItems+1, "what was read is left as it is")
	assert.NotNil(t, Contents{Listing: &Listing{}}.Cut().Listing.Entries, "nothing is a list as well")
	for says, l := range map[string]*Listing{
		"larger than what is kept":            c.Listing,
		"title 1 of its list has a size":      {Entries: []titles.Entry{{Title: "a", Bytes: -1}}},
		"title 2 of its list":                 {Entries: []titles.Entry{{}, {Title: strings.Repeat("a", 4001)}}},
		"is too long":                         {Entries: []titles.Entry{{At: strings.Repeat("a", 4001)}}},
		"list of titles is larger than what ": {Trouble: strings.Repeat("a", 1001)},
	} {
		assert.ErrorContains(t, Contents{Listing: l}.Check(), says)
	}
}

func TestRatesOfFilesThatHaveNotChangedAreKept(t *testing.T) {
	deep := film("a.mkv")
	deep.Deep, deep.Need.Mbps[1] = true, 31
	changed, other, bad := film("b.mkv"), film("c.mkv"), deep
	changed.Deep, bad.Path = true, "d.mkv"
	earlier := Contents{Place: "smb://x/y", Items: []File{deep, changed, bad}}
	changed.Deep, changed.Bytes = false, 5e9
	bad.Deep, bad.Trouble = false, Damaged
	now := Contents{Place: "smb://x/y", Items: []File{film("a.mkv"), changed, other, bad}}
	got := now.WithRates(earlier)
	assert.Equal(t, []File{deep, changed, other, bad}, got.Items)
	assert.False(t, now.Items[0].Deep, "what was read is left as it is")
	now.Place = "nfs://x/y"
	assert.Equal(t, now, now.WithRates(earlier), "of another place nothing is known")
	again := deep
	again.Need.Mbps[1] = 30
	assert.InDelta(t, 30, Contents{Place: "smb://x/y", Items: []File{again}}.WithRates(earlier).Items[0].Need.Mbps[1], 0, "what was read this time counts")
}

// What is just allowed is taken, and one more of anything is not.
func TestBoundsAreWhatTheySay(t *testing.T) {
	items := func(n int) []File {
		out := make([]File, n)
		for i := range out {
			out[i].Path = fmt.Sprintf("%06d", i)
		}
		return out
	}
	list := func(n int) *Listing { return &Listing{Entries: make([]titles.Entry, n)} }
	long := func(n int) string { return strings.Repeat("x", n) }
	for name, c := range map[string]struct {
		last, over Contents
		says       string
	}{
		"items":             {Contents{Items: items(MostItems)}, Contents{Items: items(MostItems + 1)}, "larger"},
		"entries of a mix":  {Contents{Mix: make([]dossier.FormatEntry, mostMix)}, Contents{Mix: make([]dossier.FormatEntry, mostMix+1)}, "larger"},
		"left":              {Contents{}, Contents{Left: -1}, "larger"},
		"covers":            {Contents{}, Contents{Covers: -1}, "larger"},
		"ignored":           {Contents{}, Contents{Ignored: -1}, "larger"},
		"place":             {Contents{Place: long(mostPath)}, Contents{Place: long(mostPath + 1)}, "larger"},
		"with":              {Contents{With: long(80)}, Contents{With: long(81)}, "larger"},
		"path":              {Contents{Items: []File{{Path: long(4 * mostPath)}}}, Contents{Items: []File{{Path: long(4*mostPath + 1)}}}, "no path"},
		"order":             {Contents{Items: []File{{Path: "a"}, {Path: "b"}}}, Contents{Items: []File{{Path: "a"}, {Path: "a"}}}, "out of order"},
		"bytes":             {Contents{Items: []File{{Path: "a"}}}, Contents{Items: []File{{Path: "a", Bytes: -1}}}, "a size or a length"},
		"seconds":           {Contents{Items: []File{{Path: "a"}}}, Contents{Items: []File{{Path: "a", Seconds: -0.1}}}, "a size or a length"},
		"titles":            {Contents{Listing: list(MostItems)}, Contents{Listing: list(MostItems + 1)}, "list of titles is larger"},
		"trouble of a list": {Contents{Listing: &Listing{Trouble: long(mostPath)}}, Contents{Listing: &Listing{Trouble: long(mostPath + 1)}}, "list of titles is larger"},
		"bytes of a title":  {Contents{Listing: list(1)}, Contents{Listing: &Listing{Entries: []titles.Entry{{Bytes: -1}}}}, "title 1 of its list"},
		"title":             {Contents{Listing: &Listing{Entries: []titles.Entry{{Title: long(4 * mostPath)}}}}, Contents{Listing: &Listing{Entries: []titles.Entry{{Title: long(4*mostPath + 1)}}}}, "title 1 of its list"},
		"list of a title":   {Contents{Listing: &Listing{Entries: []titles.Entry{{In: long(4 * mostPath)}}}}, Contents{Listing: &Listing{Entries: []titles.Entry{{In: long(4*mostPath + 1)}}}}, "title 1 of its list"},
	} {
		assert.NoError(t, c.last.Check(), name)
		assert.ErrorContains(t, c.over.Check(), c.says, name)
	}
	assert.EqualError(t, Contents{Items: []File{{Path: "a"}, {Path: "b"}, {}}}.Check(), "item 3 has no path, or is out of order")
	assert.EqualError(t, Contents{Items: []File{{Path: "a"}, {Path: "b", Bytes: -1}}}.Check(), "item 2 has a size or a length that is not possible")
	assert.EqualError(t, Contents{Items: []File{{Path: "a"}, {Path: "b", Trouble: "haunted"}}}.Check(), "item 2 has a trouble that is not known")
	assert.EqualError(t, Contents{Listing: &Listing{Entries: []titles.Entry{{}, {Bytes: -1}}}}.Check(), "title 2 of its list has a size that is not possible, or is too long")
	whole := Contents{Items: items(MostItems)}.Cut()
	assert.Equal(t, []int{MostItems, 0}, []int{len(whole.Items), whole.Left})
	mixed := Contents{Left: 1, Mix: make([]dossier.FormatEntry, mostMix+1)}.Cut()
	assert.Len(t, mixed.Mix, mostMix)
}

// A mix sums up: hours and sizes add, sizes of picture and rates are the greatest, and the heaviest is the one whose need was read and is greatest.
func TestAMixSumsUp(t *testing.T) {
	with := func(path string, seconds, gigabytes, average, need float64, deep bool) File {
		f := film(path)
		f.Seconds, f.Format.Gigabytes, f.Format.AverageMbps, f.Deep = seconds, gigabytes, average, deep
		f.Need.Mbps, f.Need.HeaviestAt = [4]float64{need + 2, need, need - 1, need - 2}, seconds/3
		return f
	}
	wide := with("c.mkv", 1800, 2.0004, 7.12345, 90, false)
	wide.Format.Width, wide.Format.ReferenceFrames = 1922, 5
	mix := Mix([]File{with("a.mkv", 3600, 4, 9, 20, true), with("b.mkv", 5400, 1.5, 8, 30.12345, true), wide, {Path: "d.mkv", Trouble: Damaged}})
	require.Len(t, mix, 1)
	e := mix[0]
	assert.Equal(t, []any{3, 3.0, 7.5, 9.0, 1922, 5}, []any{e.Items, e.Hours, e.Gigabytes, e.AverageMbps, e.Width, e.ReferenceFrames})
	assert.Equal(t, []any{32.123, 30.123, 29.123, 28.123, "b.mkv", 1800.0}, []any{e.Needed2Mbps, e.Needed5Mbps, e.Needed10Mbps, e.Needed30Mbps, e.Heaviest, e.HeaviestAt})
	same := Mix([]File{with("a.mkv", 3600, 4, 9, 20, true), with("b.mkv", 3600, 4, 9, 20, true)})
	assert.Equal(t, "a.mkv", same[0].Heaviest, "of two as heavy the first")

	rate := func(hz int) dossier.FormatEntry {
		return dossier.FormatEntry{Container: dossier.FLACFile, Sound: dossier.FLAC, SampleRate: hz}
	}
	assert.True(t, SameEntry(rate(44100), rate(48000)))
	assert.False(t, SameEntry(rate(48000), rate(48001)))
	frames := func(n float64) dossier.FormatEntry {
		return dossier.FormatEntry{Container: dossier.MP4, Video: dossier.H264, FrameRate: n}
	}
	assert.True(t, SameEntry(frames(24), frames(30)))
	assert.False(t, SameEntry(frames(30), frames(50)))
	assert.False(t, SameEntry(frames(60), frames(100)))
	assert.Equal(t, "…"+strings.Repeat("y", 9), cutTo("x"+strings.Repeat("y", 10), 10))
	assert.Equal(t, strings.Repeat("y", 10), cutTo(strings.Repeat("y", 10), 10))
}
