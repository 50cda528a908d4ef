// Package titles compares what lies in a folder with what its server lists of it.
package titles

import (
	"cmp"
	"fmt"
	"net/url"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"

	"kaiku/core/dossier"
)

// File is an item on the disk.
type File struct {
	Path     string              // from the folder on, with slashes
	Kind     dossier.ContentKind // by what is in it; film for any video, music for any sound
	Bytes    int64               // 0 if not known
	Modified time.Time
	Half     bool // it is there only in part
	NoRight  bool // whoever read it was not allowed to
	Broken   bool // it could not be read for another reason
}

// Entry is an item of the server's list.
type Entry struct {
	Title string              `json:"title" maxLength:"4000" doc:"As the server shows it."`
	In    string              `json:"in,omitzero" maxLength:"4000" doc:"The lists in which it stands, from the folder on, with slashes."`
	Kind  dossier.ContentKind `json:"kind,omitzero" doc:"What it is by its class."`
	Bytes int64               `json:"bytes,omitzero" minimum:"0" doc:"Its size; 0 if the list does not say."`
	At    string              `json:"at,omitzero" maxLength:"4000" doc:"Where it is fetched."`
}

// Cause is why something is probably as it is.
type Cause string

// Causes. CauseUnknown: nothing that was seen explains it.
const (
	CauseHalfCopy  Cause = "half-copy"      // a file that is there only in part is left out by servers
	CauseNoRight   Cause = "no-right"       // the server may not read it, as whoever compared may not
	CauseBroken    Cause = "broken"         // the file itself cannot be read
	CauseMixed     Cause = "mixed"          // it is of another kind than the folder
	CauseNewer     Cause = "newer"          // it came after the server last indexed the folder
	CauseName      Cause = "name"           // its name begins or ends so that servers take it for something else, or leave it out
	CauseDuplicate Cause = "duplicate-name" // another item has the same name, and servers list one of them
	CauseConverted Cause = "converted-copy" // a converted copy lies beside the original
	CauseCopies    Cause = "copies"         // one file lies in two places
	CauseSources   Cause = "listed-twice"   // one file is listed in two places, by two sources or two lists
	CauseUnknown   Cause = ""
)

// Causes lists all that have a name.
var Causes = []Cause{CauseHalfCopy, CauseNoRight, CauseBroken, CauseMixed, CauseNewer, CauseName, CauseDuplicate, CauseConverted, CauseCopies, CauseSources}

// Missing is an item on the disk that the server does not list.
type Missing struct {
	File  File
	Cause Cause
}

// Misplaced is an item that the server lists as something that it is not.
type Misplaced struct {
	File  File
	Entry Entry
	Cause Cause
}

// Twice is a title that the server lists more than once.
type Twice struct {
	Title   string
	Files   []File
	Entries []Entry
	Cause   Cause
}

// Comparison is how a list differs from the disk.
type Comparison struct {
	OnDisk    int // items that are whole and can be read
	Listed    int // entries of the list
	Matched   int // items that the list has
	Missing   []Missing
	Misplaced []Misplaced
	Twice     []Twice
	Gone      []Entry // entries of which nothing was found on the disk
}

// Folder is what is known of the folder beside what lies in it.
type Folder struct {
	Kind      dossier.ContentKind
	IndexedAt time.Time // zero if not known
}

// year is one in brackets, and behind are words behind a title that say how the file was made.
var (
	year   = regexp.MustCompile(`[\[(](19|20)\d\d[\])]`)
	number = regexp.MustCompile(`^\d{1,3}[ ._-]+`)
	behind = regexp.MustCompile(`(?i)[ ._\-\[(]+(2160p?|1080p?|1080i|720p?|576p?|480p?|4k|uhd|hd|sd|h\.?26[45]|hevc|avc|av1|converted|copy|lighter|small|remux|x26[45]|10 ?bit|hdr|\d{1,2} ?mb.?s)[\])]?$`)
)

// Name is a title or the name of a file without what does not belong to the title: ending, year, number of the track,
// words for its making, signs and case.
func Name(s string) string {
	s = strings.TrimSpace(s)
	s = year.ReplaceAllString(s, " ")
	for {
		shorter := strings.TrimSpace(behind.ReplaceAllString(s, ""))
		if shorter == s || shorter == "" {
			break
		}
		s = shorter
	}
	if rest := number.ReplaceAllString(s, ""); rest != "" {
		s = rest
	}
	var b strings.Builder
	for _, r := range strings.ToLower(s) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

func nameOf(f File) string {
	base := path.Base(f.Path)
	if end := path.Ext(base); len(end) > 1 && len(end) <= 6 {
		base = strings.TrimSuffix(base, end)
	}
	return cmp.Or(Name(base), strings.ToLower(base))
}

// Compare holds the list against the disk. Items are found by size and name, by the name in the address at which they are
// fetched, by name alone, or by a size that no other item has: the titles of music come from inside the files and need not be like their names.
func Compare(of Folder, files []File, list []Entry) Comparison {
	out := Comparison{Listed: len(list), Missing: []Missing{}, Misplaced: []Misplaced{}, Twice: []Twice{}, Gone: []Entry{}}
	files = slices.Clone(files)
	slices.SortFunc(files, func(a, b File) int { return strings.Compare(a.Path, b.Path) })
	for _, f := range files {
		if !f.Half && !f.NoRight && !f.Broken {
			out.OnDisk++
		}
	}
	m := match(files, list)
	names := map[string]int{}
	for _, f := range files {
		names[nameOf(f)]++
	}
	for i, f := range files {
		entries := m[i]
		if len(entries) == 0 {
			out.Missing = append(out.Missing, Missing{f, causeOf(of, f, names[nameOf(f)] > 1)})
			continue
		}
		out.Matched++
		for _, e := range entries {
			if wrong(of, f, list[e]) {
				cause := CauseUnknown
				if !fits(of.Kind, f.Kind) {
					cause = CauseMixed
				} else if odd(f) {
					cause = CauseName
				}
				out.Misplaced = append(out.Misplaced, Misplaced{f, list[e], cause})
			}
		}
	}
	out.Twice = append(out.Twice, twice(files, list, m)...)
	listed := map[int]bool{}
	for _, entries := range m {
		for _, e := range entries {
			listed[e] = true
		}
	}
	for n, e := range list {
		if !listed[n] {
			out.Gone = append(out.Gone, e)
		}
	}
	return out
}

// match returns for each file the entries that are it. An entry is of one file at most.
func match(files []File, list []Entry) map[int][]int {
	out := map[int][]int{}
	taken := make([]bool, len(list))
	take := func(f, e int) {
		out[f] = append(out[f], e)
		taken[e] = true
	}
	bySize, byName := map[int64][]int{}, map[string][]int{}
	for n, e := range list {
		if e.Bytes > 0 {
			bySize[e.Bytes] = append(bySize[e.Bytes], n)
		}
		byName[Name(e.Title)] = append(byName[Name(e.Title)], n)
	}
	sizes := map[int64]int{}
	for _, f := range files {
		sizes[f.Bytes]++
	}
	// Size and name first: of an original and its copy each gets its own.
	type known struct {
		bytes int64
		name  string
	}
	copies := map[known][]int{}
	for i, f := range files {
		if f.Bytes > 0 {
			copies[known{f.Bytes, nameOf(f)}] = append(copies[known{f.Bytes, nameOf(f)}], i)
		}
	}
	for n, e := range list {
		if same := copies[known{e.Bytes, Name(e.Title)}]; e.Bytes > 0 && len(same) > 0 {
			// Equal copies get one entry each, as long as there are enough.
			fewest := slices.MinFunc(same, func(a, b int) int { return cmp.Or(len(out[a])-len(out[b]), a-b) })
			take(fewest, n)
		}
	}
	// Many servers keep the file's own name in the address by which it is fetched.
	byAddress := map[string][]int{}
	for n, e := range list {
		if u, err := url.Parse(e.At); err == nil && !taken[n] && path.Ext(u.Path) != "" {
			byAddress[strings.ToLower(path.Base(u.Path))] = append(byAddress[strings.ToLower(path.Base(u.Path))], n)
		}
	}
	bases := map[string]int{}
	for _, f := range files {
		bases[strings.ToLower(path.Base(f.Path))]++
	}
	for i, f := range files {
		base := strings.ToLower(path.Base(f.Path))
		if at := byAddress[base]; len(out[i]) == 0 && len(at) == 1 && bases[base] == 1 {
			take(i, at[0])
		}
	}
	for i, f := range files {
		if len(out[i]) > 0 {
			continue
		}
		for _, e := range byName[nameOf(f)] {
			if !taken[e] && (list[e].Bytes == 0 || f.Bytes == 0 || list[e].Bytes == f.Bytes) {
				take(i, e)
				break
			}
		}
	}
	for i, f := range files {
		if same := bySize[f.Bytes]; len(out[i]) == 0 && f.Bytes > 0 && sizes[f.Bytes] == 1 && len(same) > 0 && !slices.ContainsFunc(same, func(e int) bool { return taken[e] }) {
			for _, e := range same {
				take(i, e)
			}
		}
	}
	// A name that fits, with another size, is the title in another state: the list is older than the file.
	for i, f := range files {
		for _, e := range byName[nameOf(f)] {
			if len(out[i]) == 0 && !taken[e] {
				take(i, e)
			}
		}
	}
	return out
}

// fits reports whether an item of that sort belongs into a folder of that kind: a file does not say whether a video is a
// film or an episode, nor sound whether it is music or a book.
func fits(folder, item dossier.ContentKind) bool {
	if folder == "" || item == "" {
		return true
	}
	return sort(folder) == sort(item)
}

func sort(k dossier.ContentKind) string {
	switch k {
	case dossier.Film, dossier.Series, dossier.HomeVideo, dossier.LiveTV:
		return "video"
	case dossier.Music, dossier.Radio, dossier.Audiobook:
		return "sound"
	case dossier.Photo:
		return "picture"
	}
	return string(k)
}

// wrong reports whether an entry says that an item is what it is not, by what is in it or by what its folder holds.
func wrong(of Folder, f File, e Entry) bool {
	if e.Kind == "" {
		return false
	}
	if !fits(f.Kind, e.Kind) {
		return true
	}
	narrow := of.Kind == dossier.Film && e.Kind == dossier.Series || of.Kind == dossier.Series && e.Kind == dossier.Film || of.Kind == dossier.Audiobook && e.Kind == dossier.Music
	return narrow && fits(of.Kind, f.Kind)
}

// odd reports whether a name is one of those that servers leave out or take for something else: samples, trailers and
// extras; numbers like those of an episode in the name of a film; signs that protocols do not carry.
func odd(f File) bool {
	base := strings.ToLower(strings.TrimSuffix(path.Base(f.Path), path.Ext(f.Path)))
	return oddName.MatchString(base) || strings.ContainsRune(f.Path, unicode.ReplacementChar) || strings.ContainsFunc(base, unicode.IsControl) || base != strings.TrimSpace(base)
}

var oddName = regexp.MustCompile(`(^|[ ._\-\[(])(sample|trailer|extras?|featurette|s\d{1,2} ?e\d{1,3}|\d{1,2}x\d{2})($|[ ._\-\])])`)

func causeOf(of Folder, f File, shared bool) Cause {
	switch {
	case f.Half:
		return CauseHalfCopy
	case f.NoRight:
		return CauseNoRight
	case f.Broken:
		return CauseBroken
	case !fits(of.Kind, f.Kind):
		return CauseMixed
	case !of.IndexedAt.IsZero() && f.Modified.After(of.IndexedAt):
		return CauseNewer
	case shared:
		return CauseDuplicate
	case odd(f):
		return CauseName
	}
	return CauseUnknown
}

// twice finds the titles that stand more than once in the list.
func twice(files []File, list []Entry, m map[int][]int) []Twice {
	type title struct{ files, entries []int }
	by := map[string]*title{}
	var order []string
	for i, f := range files {
		for _, e := range m[i] {
			key := sort(f.Kind) + " " + Name(list[e].Title)
			if by[key] == nil {
				by[key] = &title{}
				order = append(order, key)
			}
			if !slices.Contains(by[key].files, i) {
				by[key].files = append(by[key].files, i)
			}
			by[key].entries = append(by[key].entries, e)
		}
	}
	var out []Twice
	for _, key := range order {
		t := by[key]
		if len(t.entries) < 2 || sameAlbum(files, t.files) {
			continue
		}
		one := Twice{Title: list[t.entries[0]].Title}
		for _, i := range t.files {
			one.Files = append(one.Files, files[i])
		}
		for _, e := range t.entries {
			one.Entries = append(one.Entries, list[e])
		}
		switch {
		case len(t.files) == 1:
			one.Cause = CauseSources
		case slices.ContainsFunc(one.Files, func(f File) bool { return f.Bytes != one.Files[0].Bytes }):
			one.Cause = CauseConverted
		default:
			one.Cause = CauseCopies
		}
		out = append(out, one)
	}
	return out
}

// sameAlbum reports whether files of one name are what a name alone cannot tell apart: tracks of several albums, pictures of
// several cameras and episodes of several series lie in directories of their own.
func sameAlbum(files []File, these []int) bool {
	if len(these) < 2 {
		return false
	}
	dirs := map[string]bool{}
	for _, i := range these {
		if dirs[path.Dir(files[i].Path)] {
			return false
		}
		dirs[path.Dir(files[i].Path)] = true
		if f := files[these[0]]; files[i].Bytes == f.Bytes && i != these[0] && f.Bytes > 0 {
			return false // of one size too: a copy
		}
	}
	return sort(files[these[0]].Kind) != "video"
}

// Sort says how a title differs.
type Sort string

// Sorts of differences.
const (
	NotListed   Sort = "not-listed"
	ListedAs    Sort = "listed-as-other" // as another kind of content than it is
	ListedTwice Sort = "listed-twice"
	NotOnDisk   Sort = "not-on-disk"
)

// Sorts lists all of them.
var Sorts = []Sort{NotListed, ListedAs, ListedTwice, NotOnDisk}

// Line is one difference.
type Line struct {
	Sort  Sort
	Title string              // the path of the file, or of the entry; of several files all of them
	As    dossier.ContentKind // as which kind it is listed, of ListedAs
	Times int                 // how often it is listed, of ListedTwice
	Cause Cause
}

// Lines lists all differences, what is missing first.
func (c Comparison) Lines() []Line {
	out := []Line{}
	for _, m := range c.Missing {
		out = append(out, Line{Sort: NotListed, Title: m.File.Path, Cause: m.Cause})
	}
	for _, m := range c.Misplaced {
		out = append(out, Line{Sort: ListedAs, Title: m.File.Path, As: m.Entry.Kind, Cause: m.Cause})
	}
	for _, t := range c.Twice {
		var at []string
		for _, f := range t.Files {
			at = append(at, f.Path)
		}
		out = append(out, Line{Sort: ListedTwice, Title: cmp.Or(strings.Join(at, ", "), t.Title), Times: len(t.Entries), Cause: t.Cause})
	}
	for _, e := range c.Gone {
		out = append(out, Line{Sort: NotOnDisk, Title: path.Join(e.In, e.Title)})
	}
	return out
}

// mostNamed bounds how many missing titles a record names.
const mostNamed = 200

// Record returns the folder as it is recorded after a comparison with the whole list: how many items lie on the disk and how many of
// them are listed, which titles are missing or listed as something else, and which other content it contains.
func (c Comparison) Record(f dossier.Folder) dossier.Folder {
	f.ItemsOnDisk, f.ItemsInIndex, f.Missing, f.AlsoHolds = c.OnDisk, c.Listed-len(c.Gone), []string{}, slices.Clone(f.AlsoHolds)
	name := func(file File, as string, why Cause) {
		f.Missing = append(f.Missing, file.Path+as)
		if why == CauseMixed && !slices.Contains(f.AlsoHolds, file.Kind) {
			f.AlsoHolds = append(f.AlsoHolds, file.Kind)
		}
	}
	for _, m := range c.Missing {
		name(m.File, "", m.Cause)
	}
	for _, m := range c.Misplaced {
		name(m.File, " (listed as "+strings.ReplaceAll(string(m.Entry.Kind), "-", " ")+")", m.Cause)
	}
	if more := len(f.Missing) - mostNamed; more > 0 {
		f.Missing = append(f.Missing[:mostNamed], fmt.Sprintf("and %d more", more))
	}
	return f
}
