// Package contents has what was read of the files in a media folder: of each what it is, how long it lasts and what it
// needs, or why it could not be read; and the mix of formats that follows.
package contents

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"net/netip"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/core/titles"
)

// Trouble is why a file could not be read, or only in part.
type Trouble string

// Troubles.
const (
	Unreadable  Trouble = "no-right"     // permission to read it was refused
	HalfCopied  Trouble = "half-copied"  // it ends before its own contents do
	Damaged     Trouble = "damaged"      // it contradicts itself
	NotMedia    Trouble = "not-media"    // its name is that of a media file, its contents are not
	Changing    Trouble = "changing"     // it changed while it was read
	NoAnswer    Trouble = "no-answer"    // the share or disk did not answer in time
	Gone        Trouble = "gone"         // it disappeared after the folder was listed
	CannotRead  Trouble = "cannot-read"  // the disk or share gave an error
	Empty       Trouble = "empty"        // it has no bytes
	LinkNowhere Trouble = "link-nowhere" // it is a link to what is not there
)

// Troubles lists all of them.
var Troubles = []Trouble{Unreadable, HalfCopied, Damaged, NotMedia, Changing, NoAnswer, Gone, CannotRead, Empty, LinkNowhere}

// File is one title of a folder: a file, or a disc that was copied as a directory.
type File struct {
	Path     string    `json:"path" maxLength:"4000" doc:"From the folder on, with slashes."`
	Bytes    int64     `json:"bytes"`
	Modified time.Time `json:"modified"`
	Trouble  Trouble   `json:"trouble,omitzero"`
	Detail   string    `json:"detail,omitzero"`

	Format  dossier.FormatEntry `json:"format"`
	Seconds float64             `json:"seconds,omitzero"`
	Beside  []string            `json:"beside,omitzero"` // subtitles in files of their own
	Need    demand.Need         `json:"need,omitzero"`   // of those that were read for it
	Deep    bool                `json:"deep,omitzero"`   // Need is exact
}

// Content returns what sort of content an item is by what is in it, "" if it could not be read.
func (i File) Content() dossier.ContentKind {
	switch {
	case i.Format.Container == "":
		return ""
	case i.Format.Video != "" || i.Format.Container == dossier.ASF:
		return dossier.Film
	case i.Format.Sound != "":
		return dossier.Music
	}
	return dossier.Photo
}

// PlaceIn is where a folder of that name lies in a share or an export of the home, by what is recorded of the source; nil if
// the source is neither, or has no address. Without a recorded port, there is none in it.
func PlaceIn(d *dossier.Dossier, s dossier.Source, folder string) *url.URL {
	at := d.AddressOf(s)
	if s.Protocol != dossier.ProtocolSMB && s.Protocol != dossier.ProtocolNFS || !at.IsValid() {
		return nil
	}
	host := at.String()
	switch {
	case s.Port != 0:
		host = netip.AddrPortFrom(at, uint16(s.Port)).String()
	case at.Is6():
		host = "[" + host + "]"
	}
	return &url.URL{Scheme: string(s.Protocol), Host: host, Path: path.Join("/", s.Locator, folder)}
}

// Progress tells how far a reading is.
type Progress struct {
	Files, Listed int // read, and found so far; of rates, the films that are read for them
	Path          string
	Rates         bool // the heads are read; it reads rates
	Listing       bool // the heads are read; it asks the server for its list, Files is how many titles came
}

// Wanted is how a folder is to be read.
type Wanted struct {
	Place     string // "" for the folder's own
	HeadsOnly bool   // no file is read for the rate that it needs
	User      string // by whom shares are opened; "" for a guest
	Password  string
	Known     []File // from an earlier reading of that place; those that have not changed are not read again
}

// Contents is what lies in a folder, as it was read at one time.
type Contents struct {
	Folder  dossier.ID[dossier.Folder] `json:"folder" doc:"The folder."`
	Place   string                     `json:"place" maxLength:"1000" doc:"Where it was read: a directory, an address of a share or an export, or the source that was asked."`
	Ended   time.Time                  `json:"ended" doc:"When the reading ended."`
	By      dossier.PersonID           `json:"by,omitzero" doc:"Who read it."`
	With    string                     `json:"with,omitzero" maxLength:"80" doc:"The machine that read it; empty for the Kaiku on the home's network."`
	Stopped bool                       `json:"stopped,omitzero" doc:"It was stopped, or the folder stopped answering: what is here is what was read until then."`
	Items   []File                     `json:"items" maxItems:"20000" doc:"What lies in it, by path. Of more, 20,000 are kept: those in trouble first."`
	Left    int                        `json:"left,omitzero" minimum:"0" doc:"Items that are not kept one by one."`
	Mix     []dossier.FormatEntry      `json:"mix" maxItems:"500" doc:"The formats of all items that could be read, those not kept one by one among them."`
	Covers  int                        `json:"covers,omitzero" minimum:"0" doc:"Pictures that belong to a film or an album."`
	Ignored int                        `json:"ignored,omitzero" minimum:"0" doc:"Files that are no media by name: texts, lists, hidden files."`
	Listing *Listing                   `json:"listing,omitzero" doc:"What the server lists of the folder, asked right after the files were read; empty if it was not asked."`
	Kept    int                        `json:"-"` // items that were known from before and had not changed
}

// Listing is what the folder's server lists of it.
type Listing struct {
	Entries []titles.Entry `json:"entries" maxItems:"20000" doc:"Its titles."`
	Whole   bool           `json:"whole,omitzero" doc:"These are certainly all of them."`
	Trouble string         `json:"trouble,omitzero" maxLength:"1000" doc:"Why there are none to compare: the server could not be asked, or there are too many."`
}

// cut leaves out what is too much to keep. Of a list that is too long nothing is kept: what is left out would seem to be
// missing.
func (l Listing) cut() *Listing {
	if len(l.Entries) > MostItems {
		return &Listing{Entries: []titles.Entry{}, Trouble: fmt.Sprintf("it lists more than %d titles", MostItems)}
	}
	l.Entries = append([]titles.Entry{}, l.Entries...)
	for n, e := range l.Entries {
		e.Title, e.In, e.At, e.Bytes = cutTo(e.Title, mostPath), cutTo(e.In, mostPath), cutTo(e.At, mostPath), max(0, e.Bytes)
		l.Entries[n] = e
	}
	return &l
}

// Compare holds what the server lists against what lies in the folder; ok is false if that cannot be done: nothing was
// asked, the reading was stopped, or not all items are kept one by one.
func (c Contents) Compare(f dossier.Folder) (found titles.Comparison, ok bool) {
	if c.Listing == nil || c.Listing.Trouble != "" || c.Stopped || c.Left > 0 {
		return found, false
	}
	files := make([]titles.File, len(c.Items))
	for n, i := range c.Items {
		half, noRight := i.Trouble == HalfCopied || i.Trouble == Changing, i.Trouble == Unreadable
		files[n] = titles.File{Path: i.Path, Kind: i.Content(), Bytes: i.Bytes, Modified: i.Modified, Half: half, NoRight: noRight, Broken: i.Trouble != "" && !half && !noRight}
	}
	return titles.Compare(titles.Folder{Kind: f.ContentKind, IndexedAt: f.IndexedAt}, files, c.Listing.Entries), true
}

// ErrPlace is returned for a place that is not written as one, or cannot be opened.
var ErrPlace = errors.New("this place cannot be opened")

// Bounds of what is kept of one reading.
const (
	MostItems = 20_000
	mostPath  = 1000
	mostMix   = 500
)

// Cut works out the mix, unless some of the items are left out already, and leaves out what is too much to keep: items
// in trouble stay first.
func (c Contents) Cut() Contents {
	c.Items = append([]File{}, c.Items...) // a list, also where there is nothing
	if c.Left == 0 {
		c.Mix = Mix(c.Items)
	}
	if len(c.Mix) > mostMix {
		c.Mix = c.Mix[:mostMix]
	}
	if c.Listing != nil {
		c.Listing = c.Listing.cut()
	}
	if over := len(c.Items) - MostItems; over > 0 {
		slices.SortStableFunc(c.Items, func(a, b File) int { return cmp.Compare(untroubled(a), untroubled(b)) })
		c.Left += over
		c.Items = c.Items[:MostItems]
		slices.SortFunc(c.Items, func(a, b File) int { return cmp.Compare(a.Path, b.Path) })
	}
	return c
}

// After keeps, of a reading that was stopped, what an earlier one of the same place had read and this one had not
// reached, so that the next one need not read it again.
func (c Contents) After(earlier Contents) Contents {
	if !c.Stopped || c.Place != earlier.Place {
		return c
	}
	reached := map[string]bool{}
	for _, f := range c.Items {
		reached[f.Path] = true
	}
	for _, f := range earlier.Items {
		if !reached[f.Path] {
			c.Items = append(c.Items, f)
		}
	}
	slices.SortFunc(c.Items, func(a, b File) int { return cmp.Compare(a.Path, b.Path) })
	return c
}

// WithRates keeps, of files that have not changed since an earlier reading of the same place, the rates that were read
// then and not this time.
func (c Contents) WithRates(earlier Contents) Contents {
	if c.Place != earlier.Place {
		return c
	}
	known := map[string]File{}
	for _, f := range earlier.Items {
		if f.Deep {
			known[f.Path] = f
		}
	}
	c.Items = slices.Clone(c.Items)
	for n, f := range c.Items {
		if old, ok := known[f.Path]; ok && !f.Deep && f.Trouble == "" && f.Bytes == old.Bytes && f.Modified.Equal(old.Modified) {
			c.Items[n].Need, c.Items[n].Deep = old.Need, true
		}
	}
	return c
}

func untroubled(i File) int {
	if i.Trouble == "" {
		return 1
	}
	return 0
}

// Check returns what is wrong with contents that come from elsewhere, or nil.
func (c Contents) Check() error {
	if len(c.Items) > MostItems || len(c.Mix) > mostMix || c.Left < 0 || c.Covers < 0 || c.Ignored < 0 || len(c.Place) > mostPath || len(c.With) > 80 {
		return errors.New("it is larger than what is kept of a folder")
	}
	before := ""
	for n, i := range c.Items {
		switch {
		case i.Path == "" || len(i.Path) > 4*mostPath || n > 0 && i.Path <= before:
			return fmt.Errorf("item %d has no path, or is out of order", n+1)
		case i.Bytes < 0 || i.Seconds < 0 || math.IsNaN(i.Seconds) || math.IsInf(i.Seconds, 0):
			return fmt.Errorf("item %d has a size or a length that is not possible", n+1)
		case i.Trouble != "" && !slices.Contains(Troubles, i.Trouble):
			return fmt.Errorf("item %d has a trouble that is not known", n+1)
		}
		before = i.Path
	}
	if l := c.Listing; l != nil {
		if len(l.Entries) > MostItems || len(l.Trouble) > mostPath {
			return errors.New("its list of titles is larger than what is kept of one")
		}
		for n, e := range l.Entries {
			if e.Bytes < 0 || max(len(e.Title), len(e.In), len(e.At)) > 4*mostPath {
				return fmt.Errorf("title %d of its list has a size that is not possible, or is too long", n+1)
			}
		}
	}
	return nil
}

// Readable is the number of items that could be read, those not kept one by one among them.
func (c Contents) Readable() (n int) {
	for _, e := range c.Mix {
		n += e.Items
	}
	return n
}

// Heaviest returns the places of the items that are read for their rates unasked: of each form the one with the highest
// average, if it is not read already.
func Heaviest(items []File) []int {
	best := map[string]int{}
	for i, item := range items {
		if item.Trouble != "" || item.Seconds == 0 || item.Content() != dossier.Film || item.Format.Container == dossier.DVDVideo || item.Format.Container == dossier.BDVideo {
			continue
		}
		k := key(item.Format)
		if j, has := best[k]; !has || item.Format.AverageMbps > items[j].Format.AverageMbps {
			best[k] = i
		}
	}
	var out []int
	for _, i := range best {
		if !items[i].Deep {
			out = append(out, i)
		}
	}
	slices.Sort(out)
	return out
}

// key is what items of one entry of a mix have in common: all that decides whether a device decodes them, with sizes and
// rates by their class.
func key(e dossier.FormatEntry) string {
	fast := ""
	switch {
	case e.FrameRate > 60.1:
		fast = "faster"
	case e.FrameRate > 30.1:
		fast = "fast"
	}
	high := e.SampleRate > 48000
	return fmt.Sprint(e.Container, "|", e.Video, "|", e.Profile, "|", e.Level, "|", format.Size(e.Width, e.Height), "|", fast, "|", e.Interlaced, "|", e.BitDepth, "|", e.Chroma, "|", e.Range, "|", e.Sound, "|", e.Channels, "|", high, "|", e.SoundBits, "|", e.Subtitles, "|", e.SubtitlesIn)
}

// SameEntry reports whether two formats belong to the same entry of a mix.
func SameEntry(a, b dossier.FormatEntry) bool { return key(a) == key(b) }

// Mix puts the items together by form, those with most hours first. Items in trouble are left out.
func Mix(items []File) []dossier.FormatEntry {
	byKey := map[string]*dossier.FormatEntry{}
	needed := map[string]float64{}
	for _, item := range items {
		if item.Trouble != "" || item.Format.Container == "" {
			continue
		}
		k, f := key(item.Format), item.Format
		e := byKey[k]
		if e == nil {
			e = &dossier.FormatEntry{}
			*e = f
			e.Items, e.Hours, e.Gigabytes, e.OtherSound, e.OtherSubtitles, e.SoundLanguages, e.SubtitlesFor = 0, 0, 0, nil, nil, nil, nil
			byKey[k] = e
		}
		e.Items++
		e.Hours, e.Gigabytes = e.Hours+item.Seconds/3600, e.Gigabytes+f.Gigabytes
		e.Width, e.Height, e.FrameRate, e.ReferenceFrames = max(e.Width, f.Width), max(e.Height, f.Height), max(e.FrameRate, f.FrameRate), max(e.ReferenceFrames, f.ReferenceFrames)
		e.SampleRate, e.AverageMbps = max(e.SampleRate, f.SampleRate), max(e.AverageMbps, f.AverageMbps)
		e.OtherSound, e.OtherSubtitles = join(e.OtherSound, f.OtherSound), join(e.OtherSubtitles, f.OtherSubtitles)
		e.SoundLanguages, e.SubtitlesFor = join(e.SoundLanguages, f.SoundLanguages), join(e.SubtitlesFor, f.SubtitlesFor)
		if item.Deep && item.Need.Mbps[1] > needed[k] {
			needed[k] = item.Need.Mbps[1]
			e.Needed2Mbps, e.Needed5Mbps, e.Needed10Mbps, e.Needed30Mbps = item.Need.Mbps[0], item.Need.Mbps[1], item.Need.Mbps[2], item.Need.Mbps[3]
			e.Heaviest, e.HeaviestAt = cutTo(item.Path, 400), item.Need.HeaviestAt
		}
	}
	out := make([]dossier.FormatEntry, 0, len(byKey))
	for _, e := range byKey {
		round(&e.Hours, 100)
		round(&e.Gigabytes, 1000)
		for _, v := range []*float64{&e.AverageMbps, &e.Needed2Mbps, &e.Needed5Mbps, &e.Needed10Mbps, &e.Needed30Mbps, &e.FrameRate} {
			round(v, 1000)
		}
		round(&e.HeaviestAt, 10)
		out = append(out, *e)
	}
	slices.SortFunc(out, func(a, b dossier.FormatEntry) int {
		return cmp.Or(cmp.Compare(b.Hours, a.Hours), cmp.Compare(b.Items, a.Items), cmp.Compare(key(a), key(b)))
	})
	return out
}

func round(v *float64, to float64) { *v = math.Round(*v*to) / to }

func join[T comparable](a, b []T) []T {
	for _, x := range b {
		if !slices.Contains(a, x) {
			a = append(slices.Clip(a), x)
		}
	}
	return a
}

func cutTo(s string, n int) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	if r := []rune(s); len(r) > n {
		return "…" + string(r[len(r)-n+1:])
	}
	return s
}
