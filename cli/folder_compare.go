package cli

import (
	"context"
	"fmt"
	"math"

	"github.com/spf13/cobra"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/titles"
	"kaiku/probe"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) folderCompare() *cobra.Command {
	var record, service bool
	var within []string
	var shares shareLogin
	c := &cobra.Command{Use: "compare NAME PLACE", Short: "Compare what lies on the disk with what the server lists of it", Args: cobra.ExactArgs(2), ValidArgsFunction: a.completeRecords(dossier.KindNamed("folder")),
		Long: "Reads the heads of all files of a place, as kaiku folder read does, asks the folder's UPnP AV source for all titles that it lists, and shows what differs: titles that are missing, that stand under the wrong kind or stand twice, with the likely cause, and what is listed but was not found on the disk.\n\n" +
			"Titles are matched by size and name. The titles of music come from inside the files, so that the size counts there. With --to-record, the numbers and the missing titles go to the folder's record, where the findings come from. What was read and listed is handed in to Kaiku, where kaiku folder contents --differs shows it.",
		Example: "  kaiku folder compare Films /mnt/films\n  kaiku folder compare Films smb://10.20.4.10/media/Films --to-record\n  kaiku folder compare Films smb://10.20.4.10/media/Films --from-service",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx, stop := untilInterrupted(cmd.Context())
			defer stop()
			if service {
				return a.folderCompareThere(ctx, args, shares, record)
			}
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
			read.contents.Listing = &contents.Listing{Entries: list, Whole: whole}
			found, _ := read.contents.Compare(read.folder)
			if err := a.showListing(d.FullLabel(read.folder.ID.Ref()), views.Listing(found, whole, wire.ContentsQuery{}, math.MaxInt)); err != nil {
				return err
			}
			if err := read.handIn(cmd.Context(), false); err != nil || !record {
				return err
			}
			return read.recordComparison(cmd.Context(), found, whole)
		}}
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	a.withinFlag(c, &within)
	fromServiceFlag(c, &service)
	a.shareFlags(c, &shares)
	a.checkFlag(c, "the disk and the list differ")
	return c
}

// folderCompareThere has the service read the place and ask the server, and shows what differs.
func (a *App) folderCompareThere(ctx context.Context, args []string, shares shareLogin, record bool) error {
	f, code, err := a.readThere(ctx, args, wire.ReadFolder{HeadsOnly: true}, shares)
	if err != nil {
		return err
	}
	ctx = context.WithoutCancel(ctx)
	read, err := a.listing(ctx, code, string(f.ID))
	if err != nil {
		return err
	}
	if read.Listing == nil {
		return fmt.Errorf("the reading was stopped, or the server was not asked for its list; nothing is compared")
	}
	if err := a.showListing(f.Name, *read.Listing); err != nil || !record {
		return err
	}
	if _, err := a.client().RecordListing(ctx, code, string(f.ID), read.Ended); err != nil {
		return err
	}
	a.note("Recorded the comparison of %s.", f.Name)
	return nil
}

// listing returns what the newest reading of a folder found, with all that differs from the server's list.
func (a *App) listing(ctx context.Context, code, folder string) (wire.FolderContents, error) {
	read, err := a.client().Contents(ctx, code, folder, wire.ContentsQuery{})
	for err == nil && read.Listing != nil && len(read.Listing.Lines) < read.Listing.Found {
		var more wire.FolderContents
		more, err = a.client().Contents(ctx, code, folder, wire.ContentsQuery{After: len(read.Listing.Lines)})
		if err == nil && (!more.Ended.Equal(read.Ended) || len(more.Listing.Lines) == 0) {
			return a.listing(ctx, code, folder) // it was read anew in between
		}
		if err == nil {
			read.Listing.Lines = append(read.Listing.Lines, more.Listing.Lines...)
		}
	}
	return read, err
}

// showListing shows how the list of a folder's server differs from what lies in it.
func (a *App) showListing(folder string, l wire.FolderListing) error {
	a.found(len(l.Lines) > 0 || !l.Whole)
	if a.format == "json" {
		return a.show(l, nil, nil)
	}
	rows := [][]string{}
	for _, d := range l.Lines {
		why := d.Cause
		if why == "" && d.Sort != titles.NotOnDisk {
			why = wording.TitleCauses[titles.CauseUnknown]
		}
		rows = append(rows, []string{d.Said, d.Title, why})
	}
	if a.format == "table" {
		a.say("%s: %s", folder, l.Said)
		if !l.Compared {
			return nil
		}
		if !l.Whole {
			a.say("The server did not say for certain that this is its whole list. What is not listed may stand on a part that it did not send.")
		}
		if len(rows) == 0 {
			if l.Whole {
				a.say("Nothing differs.")
			}
			return nil
		}
	}
	return a.show(nil, []string{"", "Title", "Likely because"}, rows)
}

// recordComparison writes the numbers and the missing titles to the folder's record.
func (r *folderReading) recordComparison(ctx context.Context, c titles.Comparison, whole bool) error {
	if !whole {
		return fmt.Errorf("nothing was recorded, as it is not certain that the server sent its whole list")
	}
	f := c.Record(r.folder)
	return r.set(ctx, "Recorded the comparison of", wire.Record{"itemsOnDisk": f.ItemsOnDisk, "itemsInIndex": f.ItemsInIndex, "missing": f.Missing, "alsoHolds": f.AlsoHolds})
}
