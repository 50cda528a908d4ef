package titles_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/titles"
)

var films = titles.Folder{Kind: dossier.Film, IndexedAt: time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)}

func film(path string, bytes int64) titles.File {
	return titles.File{Path: path, Kind: dossier.Film, Bytes: bytes, Modified: films.IndexedAt.Add(-time.Hour)}
}

func movie(title string, bytes int64) titles.Entry {
	return titles.Entry{Title: title, Kind: dossier.Film, Bytes: bytes}
}

func TestNamesOfTitles(t *testing.T) {
	for a, b := range map[string]string{
		"The Long Ebb (2019).mkv": "the long ebb mkv", "Fog.Signal.1080p": "Fog Signal", "03 - Granite Stairs": "Granite Stairs", "Oil Lamps [2160p] HEVC": "oil lamps", "Fog Signal (converted)": "Fog Signal",
		"Sininen meri – yö": "sininen meri yö", "霧の信号 (2020)": "霧の信号", "300": "300", "1917 (2019)": "1917", "  Ebb  ": "ebb", "720": "720",
	} {
		assert.Equal(t, titles.Name(b), titles.Name(a), "%q and %q", a, b)
	}
	assert.NotEqual(t, titles.Name("Fog Signal 2"), titles.Name("Fog Signal"))
	assert.NotEmpty(t, titles.Name("12"))
}

func TestWhatIsMissingAndWhy(t *testing.T) {
	half, forbidden, broken, song, fresh, sample := film("half.mkv", 5), film("secret.mkv", 6), film("bad.mkv", 7), film("song.flac", 8), film("New.mkv", 9), film("Ebb sample.mkv", 10)
	half.Half, forbidden.NoRight, broken.Broken, song.Kind, fresh.Modified = true, true, true, dossier.Music, films.IndexedAt.Add(time.Minute)
	c := titles.Compare(films, []titles.File{film("Fog Signal.mkv", 100), film("a/Ebb.mkv", 200), half, forbidden, broken, song, fresh, sample, film("Nobody.mkv", 300), film("x/Twin.mkv", 11), film("y/Twin.mkv", 12)},
		[]titles.Entry{movie("Fog Signal", 100), movie("Ebb", 0), movie("Gone for good", 1), movie("Twin", 11)})
	got := map[string]titles.Cause{}
	for _, m := range c.Missing {
		got[m.File.Path] = m.Cause
	}
	assert.Equal(t, map[string]titles.Cause{"half.mkv": titles.CauseHalfCopy, "secret.mkv": titles.CauseNoRight, "bad.mkv": titles.CauseBroken, "song.flac": titles.CauseMixed, "New.mkv": titles.CauseNewer,
		"Ebb sample.mkv": titles.CauseName, "Nobody.mkv": titles.CauseUnknown, "y/Twin.mkv": titles.CauseDuplicate}, got)
	assert.Equal(t, []titles.Entry{movie("Gone for good", 1)}, c.Gone)
	assert.Equal(t, []int{8, 4, 3}, []int{c.OnDisk, c.Listed, c.Matched})
	assert.Empty(t, c.Twice)
	assert.Empty(t, c.Misplaced)
}

// The title says nothing, and the size is another one since the file was converted: the address still has its name.
func TestTheAddressHasTheNameOfTheFile(t *testing.T) {
	e := movie("Das alte Leuchtfeuer", 7)
	e.At = "http://10.20.4.10:9000/media/17/Fog%20Signal.mkv?x=1"
	c := titles.Compare(films, []titles.File{film("a/fog signal.mkv", 100), film("Ebb.mkv", 200)}, []titles.Entry{e, movie("Ebb", 200)})
	assert.Equal(t, 2, c.Matched)
	assert.Empty(t, c.Gone)
	c = titles.Compare(films, []titles.File{film("a/Fog Signal.mkv", 100), film("b/Fog Signal.mkv", 200)}, []titles.Entry{e})
	assert.Equal(t, 0, c.Matched, "two files of that name: which of them is not known")
}

// What makes a file and an entry the same, in each way by itself: size and name, address, name, and size alone.
func TestWhatMakesAFileAndAnEntryTheSame(t *testing.T) {
	at := func(address string) titles.Entry {
		return titles.Entry{Title: "otherwise", Kind: dossier.Film, Bytes: 1, At: "http://10.20.4.10/" + address}
	}
	for _, c := range []struct {
		name    string
		files   []titles.File
		list    []titles.Entry
		matched int
		missing []string
	}{
		{"size and name", []titles.File{film("Ebb.mkv", 5)}, []titles.Entry{movie("Ebb", 5)}, 1, nil},
		{"two copies, two entries", []titles.File{film("a/Ebb.mkv", 5), film("b/Ebb.mkv", 5)}, []titles.Entry{movie("Ebb", 5), movie("Ebb", 5)}, 2, nil},
		{"two copies, one entry: the other is missing", []titles.File{film("a/Ebb.mkv", 5), film("b/Ebb.mkv", 5)}, []titles.Entry{movie("Ebb", 5)}, 1, []string{"b/Ebb.mkv"}},
		{"a long end of a name is part of it", []titles.File{film("Ebb.mkvideo", 5)}, []titles.Entry{movie("Ebb.mkvideo", 0)}, 1, nil},
		{"an end of six signs is none of it", []titles.File{film("Ebb.mpeg4", 5)}, []titles.Entry{movie("Ebb", 0)}, 1, nil},
		{"a name that is nothing but a dot at its end", []titles.File{film("Ebb.", 5)}, []titles.Entry{movie("Ebb.", 0)}, 1, nil},
		{"name, without a size in the list", []titles.File{film("Ebb.mkv", 5)}, []titles.Entry{movie("Ebb", 0)}, 1, nil},
		{"name, without a size on the disk", []titles.File{film("Ebb.mkv", 0)}, []titles.Entry{movie("Ebb", 5)}, 1, nil},
		{"name, with another size: the list is older", []titles.File{film("Ebb.mkv", 6)}, []titles.Entry{movie("Ebb", 5)}, 1, nil},
		{"no sizes at all", []titles.File{film("Ebb.mkv", 0), film("Fog.mkv", 0)}, []titles.Entry{movie("Tide", 0), movie("Surf", 0)}, 0, []string{"Ebb.mkv", "Fog.mkv"}},
		{"size alone", []titles.File{film("x9.mkv", 5)}, []titles.Entry{movie("The Ebb", 5)}, 1, nil},
		{"size alone, shown twice", []titles.File{film("x9.mkv", 5)}, []titles.Entry{movie("The Ebb", 5), movie("Ebb, the", 5)}, 1, nil},
		{"a size that two files have tells nothing", []titles.File{film("x8.mkv", 5), film("x9.mkv", 5)}, []titles.Entry{movie("The Ebb", 5)}, 0, []string{"x8.mkv", "x9.mkv"}},
		{"a size whose entry is another file's", []titles.File{film("The Ebb.mkv", 0), film("x9.mkv", 5)}, []titles.Entry{movie("The Ebb", 5)}, 1, []string{"x9.mkv"}},
		{"address", []titles.File{film("Ebb.mkv", 5)}, []titles.Entry{at("7/ebb.MKV")}, 1, nil},
		{"an address without an end tells nothing", []titles.File{film("Ebb", 5)}, []titles.Entry{at("Ebb")}, 0, []string{"Ebb"}},
		{"an address that two entries have tells nothing", []titles.File{film("Ebb.mkv", 5)}, []titles.Entry{at("7/Ebb.mkv"), at("8/Ebb.mkv")}, 0, []string{"Ebb.mkv"}},
		{"an address of what has its file already", []titles.File{film("Ebb.mkv", 5), film("Fog.mkv", 6)}, []titles.Entry{{Title: "Ebb", Kind: dossier.Film, Bytes: 5, At: "http://10.20.4.10/Fog.mkv"}}, 1, []string{"Fog.mkv"}},
		{"an address that is none", []titles.File{film("Ebb.mkv", 5)}, []titles.Entry{{Title: "otherwise", Bytes: 1, At: "http://[/Ebb.mkv"}}, 0, []string{"Ebb.mkv"}},
	} {
		got := titles.Compare(films, c.files, c.list)
		var missing []string
		for _, m := range got.Missing {
			missing = append(missing, m.File.Path)
		}
		assert.Equal(t, c.matched, got.Matched, c.name)
		assert.Equal(t, c.missing, missing, c.name)
	}
}

// What an entry is, is wrong by what is in the file, or by what the folder holds where the file cannot say.
func TestWhichKindIsWrong(t *testing.T) {
	for _, c := range []struct {
		folder, file, entry dossier.ContentKind
		wrong               bool
	}{
		{dossier.Film, dossier.Film, "", false}, {dossier.Film, dossier.Film, dossier.Film, false}, {dossier.Film, dossier.Film, dossier.Series, true}, {dossier.Series, dossier.Film, dossier.Film, true},
		{dossier.Series, dossier.Film, dossier.Series, false}, {dossier.HomeVideo, dossier.Film, dossier.Film, false}, {dossier.HomeVideo, dossier.Film, dossier.Series, false}, {dossier.Audiobook, dossier.Music, dossier.Music, true},
		{dossier.Music, dossier.Music, dossier.Audiobook, false}, {dossier.Film, dossier.Music, dossier.Music, false}, {dossier.Film, dossier.Music, dossier.Film, true}, {dossier.Photo, dossier.Film, dossier.Photo, true},
		{dossier.Film, dossier.Music, dossier.Series, true}, {dossier.Series, dossier.Photo, dossier.Photo, false},
	} {
		f := film("x.bin", 5)
		f.Kind = c.file
		got := titles.Compare(titles.Folder{Kind: c.folder, IndexedAt: films.IndexedAt}, []titles.File{f}, []titles.Entry{{Title: "x", Kind: c.entry, Bytes: 5}})
		assert.Equal(t, c.wrong, len(got.Misplaced) > 0, "%s in a folder of %s, listed as %s", c.file, c.folder, c.entry)
	}
}

func TestWhatStandsUnderTheWrongKind(t *testing.T) {
	song := film("Music video.mkv", 3)
	concert := film("Song.flac", 4)
	concert.Kind = dossier.Music
	c := titles.Compare(films, []titles.File{film("Fog Signal S01E02.mkv", 1), film("Ebb.mkv", 2), song, concert},
		[]titles.Entry{{Title: "Fog Signal S01E02", Kind: dossier.Series, Bytes: 1}, {Title: "Ebb", Bytes: 2}, {Title: "Music video", Kind: dossier.Music, Bytes: 3}, {Title: "Song", Kind: dossier.Film, Bytes: 4}})
	got := map[string]titles.Cause{}
	for _, m := range c.Misplaced {
		got[m.File.Path] = m.Cause
	}
	assert.Equal(t, map[string]titles.Cause{"Fog Signal S01E02.mkv": titles.CauseName, "Music video.mkv": titles.CauseUnknown, "Song.flac": titles.CauseMixed}, got)
}

func TestWhatStandsTwice(t *testing.T) {
	track := func(path string, bytes int64) titles.File { f := film(path, bytes); f.Kind = dossier.Music; return f }
	for name, c := range map[string]struct {
		files []titles.File
		list  []titles.Entry
		want  []titles.Cause
	}{
		"a converted copy beside the original": {[]titles.File{film("Ebb.mkv", 900), film("converted/Ebb.mp4", 100)}, []titles.Entry{movie("Ebb", 900), movie("Ebb", 100)}, []titles.Cause{titles.CauseConverted}},
		"one file in two places":               {[]titles.File{film("a/Ebb.mkv", 900), film("b/Ebb.mkv", 900)}, []titles.Entry{movie("Ebb", 900), movie("Ebb", 900)}, []titles.Cause{titles.CauseCopies}},
		"one file in two lists":                {[]titles.File{film("Ebb.mkv", 900)}, []titles.Entry{movie("Ebb", 900), movie("Ebb", 900)}, []titles.Cause{titles.CauseSources}},
		"two films":                            {[]titles.File{film("Ebb.mkv", 900), film("Flow.mkv", 800)}, []titles.Entry{movie("Ebb", 900), movie("Flow", 800)}, nil},
		"a copy that is not listed":            {[]titles.File{film("Ebb.mkv", 900), film("converted/Ebb.mp4", 100)}, []titles.Entry{movie("Ebb", 900)}, nil},
		"the first track of two albums":        {[]titles.File{track("A/01 Intro.flac", 5), track("B/01 Intro.flac", 6)}, []titles.Entry{{Title: "Intro", Kind: dossier.Music, Bytes: 5}, {Title: "Intro", Kind: dossier.Music, Bytes: 6}}, nil},
		"one track in two albums":              {[]titles.File{track("A/01 Intro.flac", 5), track("B/07 Intro.flac", 5)}, []titles.Entry{{Title: "Intro", Kind: dossier.Music, Bytes: 5}, {Title: "Intro", Kind: dossier.Music, Bytes: 5}}, []titles.Cause{titles.CauseCopies}},
	} {
		var got []titles.Cause
		for _, one := range titles.Compare(films, c.files, c.list).Twice {
			got = append(got, one.Cause)
		}
		assert.Equal(t, c.want, got, name)
	}
}

// A list that has exactly what is on the disk differs in nothing, in whatever order and by whatever names it lists music;
// what is taken out of it is missing, and what is put in is gone from the disk.
func TestAListOfWhatIsThereDiffersInNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 12).Draw(t, "items")
		var files []titles.File
		var list []titles.Entry
		for i := range n {
			size := int64(1000 + i)
			if rapid.Bool().Draw(t, "music") {
				files = append(files, titles.File{Path: fmt.Sprintf("d%d/%02d track.flac", i%3, i), Kind: dossier.Music, Bytes: size})
				list = append(list, titles.Entry{Title: "From the tags " + string(rune('a'+i)), Kind: dossier.Music, Bytes: size})
			} else {
				files = append(files, film(fmt.Sprintf("d%d/Film %c.mkv", i%3, 'a'+i), size))
				list = append(list, movie(fmt.Sprintf("Film %c", 'a'+i), rapid.SampledFrom([]int64{0, size}).Draw(t, "size")))
			}
		}
		list = rapid.Permutation(list).Draw(t, "order")
		c := titles.Compare(titles.Folder{}, files, list)
		if len(c.Missing)+len(c.Gone)+len(c.Twice)+len(c.Misplaced) != 0 || c.Matched != n {
			t.Fatalf("%+v", c)
		}
		if n == 0 {
			return
		}
		left := list[1:]
		c = titles.Compare(titles.Folder{}, files, left)
		if len(c.Missing) != 1 || len(c.Gone) != 0 {
			t.Fatalf("one less: %+v", c)
		}
		c = titles.Compare(titles.Folder{}, files, append([]titles.Entry{movie("Not there", 5)}, list...))
		if len(c.Gone) != 1 || len(c.Missing) != 0 {
			t.Fatalf("one more: %+v", c)
		}
		if c.Matched+len(c.Missing) != len(files) {
			t.Fatal("every file is matched or missing")
		}
	})
}

func TestDifferencesAreListedAndRecorded(t *testing.T) {
	song := film("song.flac", 8)
	song.Kind = dossier.Music
	asPhoto := movie("Ebb", 200)
	asPhoto.Kind = dossier.Photo
	files := []titles.File{film("Fog Signal.mkv", 100), film("a/Ebb.mkv", 200), film("Oil.mkv", 300), song}
	c := titles.Compare(films, files, []titles.Entry{movie("Fog Signal", 100), asPhoto, movie("Oil", 300), movie("Oil", 300), {Title: "Gone", In: "old"}})
	lines := c.Lines()
	assert.Contains(t, lines, titles.Line{Sort: titles.NotListed, Title: "song.flac", Cause: titles.CauseMixed})
	assert.Contains(t, lines, titles.Line{Sort: titles.ListedAs, Title: "a/Ebb.mkv", As: dossier.Photo, Cause: c.Misplaced[0].Cause})
	assert.Contains(t, lines, titles.Line{Sort: titles.ListedTwice, Title: "Oil.mkv", Times: 2, Cause: c.Twice[0].Cause})
	assert.Contains(t, lines, titles.Line{Sort: titles.NotOnDisk, Title: "old/Gone"})
	assert.Len(t, lines, 4)

	before := dossier.Folder{Name: "Films", AlsoHolds: []dossier.ContentKind{dossier.Photo}, Missing: []string{"was missing"}}
	f := c.Record(before)
	assert.Equal(t, []int{4, 4}, []int{f.ItemsOnDisk, f.ItemsInIndex}, "what is no longer on the disk is not in it")
	assert.Equal(t, []string{"song.flac", "a/Ebb.mkv (listed as photo)"}, f.Missing)
	assert.Equal(t, []dossier.ContentKind{dossier.Photo, dossier.Music}, f.AlsoHolds)
	assert.Equal(t, []dossier.ContentKind{dossier.Photo}, before.AlsoHolds, "the record that was given is left as it is")
	assert.Equal(t, f, c.Record(f), "recorded twice is recorded once")

	var many []titles.File
	for n := range 203 {
		many = append(many, film(fmt.Sprintf("%03d lost.mkv", n), int64(n+1)))
	}
	f = titles.Compare(films, many, nil).Record(dossier.Folder{})
	assert.Len(t, f.Missing, 201)
	assert.Equal(t, "and 3 more", f.Missing[200])
	f = titles.Compare(films, many[:200], nil).Record(dossier.Folder{})
	assert.Len(t, f.Missing, 200)
}
