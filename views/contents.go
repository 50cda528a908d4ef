package views

import (
	"cmp"
	"fmt"
	"net/netip"
	"net/url"
	"reflect"
	"slices"
	"strings"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/titles"
	"kaiku/wire"
	"kaiku/wording"
)

// mostFiles is how many items one answer has.
const mostFiles = 100

// Contents shows what the newest reading of a folder found; of a folder that has not been read, nothing but its name.
func Contents(d *dossier.Dossier, f dossier.Folder, c contents.Contents, q wire.ContentsQuery, people People) wire.FolderContents {
	out := wire.FolderContents{Folder: wire.Named{Ref: f.ID.Ref(), Label: f.Name}, Ended: c.Ended, With: c.With, Place: c.Place, Stopped: c.Stopped,
		Covers: c.Covers, Ignored: c.Ignored, Left: c.Left, Mix: []wire.MixLine{}, Troubles: []wire.FileTrouble{}, Files: []wire.FileLine{}, Places: places(d, f, c.Place)}
	if c.Ended.IsZero() {
		out.Said = "This folder has not been read yet."
		return out
	}
	out.By = people.Name(c.By)
	var hours, gigabytes float64
	for _, e := range c.Mix {
		hours, gigabytes = hours+e.Hours, gigabytes+e.Gigabytes
		out.Mix = append(out.Mix, wire.MixLine{Items: e.Items, Hours: e.Hours, Container: wording.FormatTerm(e.Container), Picture: wording.Picture(e),
			Sound: strings.Trim(wording.Sound(e)+"; "+wording.Subtitles(e), "; "), Needs: wording.RateNeeded(e)})
	}
	counts := map[contents.Trouble]int{}
	for _, i := range c.Items {
		counts[i.Trouble]++
		if !asked(c, i, q) {
			continue
		}
		if out.Found++; out.Found > q.From && len(out.Files) < mostFiles {
			line := wire.FileLine{Path: i.Path, Bytes: i.Bytes, Length: wording.LengthOf(i.Seconds), Trouble: i.Trouble, Said: wording.Troubles[string(i.Trouble)]}
			if i.Trouble == "" {
				line.Said = i.Detail
			}
			if i.Format.Container != "" {
				line.Format = wording.Format(i.Format)
			}
			if i.Deep {
				line.Needs = wording.RateNeeded(dossier.FormatEntry{Needed5Mbps: i.Need.Mbps[1]})
			}
			out.Files = append(out.Files, line)
		}
	}
	bad := 0
	for _, t := range contents.Troubles {
		if n := counts[t]; n > 0 {
			bad += n
			out.Troubles = append(out.Troubles, wire.FileTrouble{Trouble: t, Said: wording.Troubles[string(t)], Items: n})
		}
	}
	readable := c.Readable()
	parts := []string{wording.Count(readable, "item") + " that can be read"}
	if hours > 0 {
		parts = append(parts, wording.PlayingTime(hours))
	}
	if gigabytes > 0 {
		parts = append(parts, wording.Megabytes(int64(gigabytes*1e9)))
	}
	out.Said = strings.Join(parts, ", ")
	if bad > 0 {
		out.Said += fmt.Sprintf("; %d could not", bad)
	}
	out.Said += "."
	out.Listing = listing(f, c, q)
	out.Recorded = !c.Stopped && f.ItemsOnDisk == readable && sameMix(f.Mix, c.Mix)
	return out
}

// asked reports whether an item is among those that are wanted.
func asked(c contents.Contents, i contents.File, q wire.ContentsQuery) bool {
	if q.Format > 0 && (q.Format > len(c.Mix) || i.Trouble != "" || !contents.SameEntry(c.Mix[q.Format-1], i.Format)) {
		return false
	}
	if q.Trouble != "" && i.Trouble != q.Trouble && (q.Trouble != "any" || i.Trouble == "") {
		return false
	}
	if q.Search == "" {
		return true
	}
	low := strings.ToLower(q.Search)
	return strings.Contains(strings.ToLower(i.Path), low) || strings.Contains(strings.ToLower(wording.Format(i.Format)), low)
}

// sameMix reports whether a record has the mix of a reading, as both are stored.
func sameMix(recorded, read []dossier.FormatEntry) bool {
	of := func(mix []dossier.FormatEntry) []dossier.FormatEntry {
		return dossier.Canonical(dossier.Folder{Mix: mix}).Mix
	}
	return reflect.DeepEqual(of(recorded), of(read))
}

// places are where the files of a folder can probably be read: where they were read before, as the record has it, and
// under their name in the shares and exports of the machine that has them.
func places(d *dossier.Dossier, f dossier.Folder, before string) []string {
	out := []string{}
	add := func(place string) {
		if at, err := url.Parse(place); err == nil && (at.Scheme == "smb" || at.Scheme == "nfs") && at.User == nil {
			if _, err := netip.ParseAddr(at.Hostname()); err == nil && !slices.Contains(out, place) {
				out = append(out, place)
			}
		}
	}
	add(before)
	for _, l := range f.Locations {
		add(l.Text)
	}
	source, _ := d.Sources.Get(f.Source)
	on := cmp.Or(f.LiesOn, source.Device)
	for _, s := range d.Sources {
		if at := contents.PlaceIn(d, s, f.Name); at != nil && s.Device == on {
			add(at.String())
		}
	}
	return out
}

// listing shows how the list of the server differs from what lies in the folder; nil if it was not asked.
func listing(f dossier.Folder, c contents.Contents, q wire.ContentsQuery) *wire.FolderListing {
	if c.Listing == nil {
		return nil
	}
	found, ok := c.Compare(f)
	if !ok {
		why := "not all items of the folder are kept one by one"
		if c.Listing.Trouble != "" {
			why = c.Listing.Trouble
		}
		return &wire.FolderListing{Said: "What the server lists is not compared: " + why + ".", Sorts: []wire.DifferenceCount{}, Lines: []wire.TitleDifference{}}
	}
	out := Listing(found, c.Listing.Whole, q, mostFiles)
	out.Recorded = out.Whole && reflect.DeepEqual(dossier.Canonical(found.Record(f)), dossier.Canonical(f))
	return &out
}

// Listing shows a comparison of the disk with a server's list; whole says that it is certainly all that the server lists.
// Of the differences that fit, most at most are shown.
func Listing(c titles.Comparison, whole bool, q wire.ContentsQuery, most int) wire.FolderListing {
	out := wire.FolderListing{Said: wording.Compared(c), Compared: true, Whole: whole, Sorts: []wire.DifferenceCount{}, Lines: []wire.TitleDifference{}}
	counts := map[titles.Sort]int{}
	for _, l := range c.Lines() {
		counts[l.Sort]++
		if q.Differs != "" && l.Sort != q.Differs {
			continue
		}
		if out.Found++; out.Found > q.After && len(out.Lines) < most {
			line := wire.TitleDifference{Sort: l.Sort, Said: wording.Difference(l), Title: l.Title}
			if l.Cause != titles.CauseUnknown {
				line.Cause = wording.TitleCauses[l.Cause]
			}
			out.Lines = append(out.Lines, line)
		}
	}
	for _, s := range titles.Sorts {
		if counts[s] > 0 {
			out.Sorts = append(out.Sorts, wire.DifferenceCount{Sort: s, Said: wording.DifferenceSorts[s], Titles: counts[s]})
		}
	}
	return out
}
