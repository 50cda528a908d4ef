package cli

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/titles"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) folderCompare() *cobra.Command {
	var record bool
	var within []string
	var shares shareLogin
	c := &cobra.Command{Use: "compare NAME PLACE", Short: "Compare what lies on the disk with what the server lists of it", Args: cobra.ExactArgs(2), ValidArgsFunction: a.completeRecords(dossier.KindNamed("folder")),
		Long: "Reads the heads of all files of a place, as kaiku folder read does, asks the folder's UPnP AV source for all titles that it lists, and shows what differs: titles that are missing, that stand under the wrong kind or stand twice, with the likely cause, and what is listed but no longer on the disk.\n\n" +
			"Titles are matched by size and name. The titles of music come from inside the files, so that the size counts there. With --to-record, the numbers and the missing titles go to the folder's record, where the findings come from.",
		Example: "  kaiku folder compare Films /mnt/films\n  kaiku folder compare Films smb://10.20.4.10/media/Films --to-record",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx, stop := untilInterrupted(cmd.Context())
			defer stop()
			g, err := guard(within)
			if err != nil {
				return err
			}
			d, read, end, err := a.headsOf(ctx, args, within, shares)
			if err != nil {
				return err
			}
			defer end()
			if read.contents.Stopped {
				return fmt.Errorf("the folder has not been read completely, so nothing is compared; run the command again to continue")
			}
			list, whole, err := probe.Prober{Guard: g}.Titles(ctx, d, read.folder, func(n int) { a.progress("Asking the server: %s", wording.Count(n, "title")) })
			a.progress("")
			if err != nil {
				return err
			}
			found := titles.Compare(titles.Folder{Kind: read.folder.ContentKind, IndexedAt: read.folder.IndexedAt}, filesOf(read.contents.Items), list)
			if err := a.showComparison(d, read, found, whole); err != nil || !record {
				return err
			}
			return read.recordComparison(cmd.Context(), found, whole)
		}}
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	a.withinFlag(c, &within)
	a.shareFlags(c, &shares)
	a.checkFlag(c, "the disk and the list differ")
	return c
}

// filesOf are the items of a reading as they are compared.
func filesOf(items []contents.File) []titles.File {
	out := make([]titles.File, len(items))
	for n, i := range items {
		out[n] = titles.File{Path: i.Path, Kind: i.Content(), Bytes: i.Bytes, Modified: i.Modified, Half: i.Trouble == contents.HalfCopied || i.Trouble == contents.Changing, NoRight: i.Trouble == contents.Unreadable}
		out[n].Broken = i.Trouble != "" && !out[n].Half && !out[n].NoRight
	}
	return out
}

// shownComparison is what programs get of a comparison.
type shownComparison struct {
	Folder dossier.ID[dossier.Folder] `json:"folder"`
	Place  string                     `json:"place"`
	Whole  bool                       `json:"whole"` // that the list is all there is, is certain
	titles.Comparison
}

func (a *App) showComparison(d *dossier.Dossier, r *folderReading, c titles.Comparison, whole bool) error {
	differs := len(c.Missing)+len(c.Misplaced)+len(c.Twice)+len(c.Gone) > 0 || !whole
	a.found(differs)
	if a.format == "json" {
		return a.show(shownComparison{r.folder.ID, r.place, whole, c}, nil, nil)
	}
	rows := [][]string{}
	for _, m := range c.Missing {
		rows = append(rows, []string{"not listed", m.File.Path, wording.TitleCauses[m.Cause]})
	}
	for _, m := range c.Misplaced {
		rows = append(rows, []string{"listed as " + wording.Plain(string(m.Entry.Kind)), m.File.Path, wording.TitleCauses[m.Cause]})
	}
	for _, t := range c.Twice {
		var at []string
		for _, f := range t.Files {
			at = append(at, f.Path)
		}
		rows = append(rows, []string{fmt.Sprintf("listed %d times", len(t.Entries)), strings.Join(at, ", "), wording.TitleCauses[t.Cause]})
	}
	for _, e := range c.Gone {
		rows = append(rows, []string{"no longer on the disk", path.Join(e.In, e.Title), ""})
	}
	if a.format == "table" {
		a.say("%s: %s on the disk that can be read, %s on the list of the server; %s.", d.FullLabel(r.folder.ID.Ref()), wording.Count(c.OnDisk, "item"), wording.Count(c.Listed, "title"), wording.Agree(c.Matched, "is the same", "are the same"))
		if !whole {
			a.say("The server did not say for certain that this is its whole list. What is not listed may stand on a part that it did not send.")
		}
		if len(rows) == 0 {
			if whole {
				a.say("Nothing differs.")
			}
			return nil
		}
	}
	return a.show(nil, []string{"", "Title", "Likely because"}, rows)
}

// mostNamed bounds how many missing titles go to the record by name.
const mostNamed = 200

// recordComparison writes the numbers and the missing titles to the folder's record.
func (r *folderReading) recordComparison(ctx context.Context, c titles.Comparison, whole bool) error {
	if !whole {
		return fmt.Errorf("nothing was recorded, as it is not certain that the server sent its whole list")
	}
	missing, also := []string{}, slices.Clone(r.folder.AlsoHolds)
	name := func(f titles.File, as string, why titles.Cause) {
		missing = append(missing, f.Path+as)
		if why == titles.CauseMixed && !slices.Contains(also, f.Kind) {
			also = append(also, f.Kind)
		}
	}
	for _, m := range c.Missing {
		name(m.File, "", m.Cause)
	}
	for _, m := range c.Misplaced {
		name(m.File, " (listed as "+wording.Plain(string(m.Entry.Kind))+")", m.Cause)
	}
	if len(missing) > mostNamed {
		missing = append(missing[:mostNamed], fmt.Sprintf("and %d more", len(missing)-mostNamed))
	}
	return r.set(ctx, "Recorded the comparison of", wire.Record{"itemsOnDisk": c.OnDisk, "itemsInIndex": c.Listed - len(c.Gone), "missing": missing, "alsoHolds": also})
}
