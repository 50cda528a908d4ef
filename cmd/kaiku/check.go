package main

import (
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/store"
	"kaiku/wording"
)

// checkSaid says what is wrong with a data folder, and what to do.
var checkSaid = map[string]string{
	store.WrongDatabase:    "The database is damaged{of}: {detail}. Stop Kaiku, keep a copy of the folder as it is, and restore the latest backup.",
	store.WrongJournal:     "{home}: {label} is not what the journal says{why}. Keep a copy of the folder, and compare with the latest backup before anybody changes this record.",
	store.WrongBody:        "{home}: the file of the attachment \"{label}\" is damaged ({detail}). Attach the same file again, or restore it from a backup.",
	store.WrongBodyMissing: "{home}: the file of the attachment \"{label}\" is missing ({detail}). Attach the same file again, or restore it from a backup.",
	store.WrongKey:         "There are secrets, but their key is missing or cannot be used: {detail}. Put the key file of this folder back; without it the secrets have to be entered again.",
	store.WrongSecret:      "{home}the key does not open \"{label}\". Put back the key file with which it was stored, or enter it again.",
	store.WrongMode:        "Others on this machine can read {detail}. Restrict it to the account that runs Kaiku: chmod 600.",
}

func checkCommand(a *cli.App) *cobra.Command {
	var data string
	c := &cobra.Command{Use: "check", Short: "Read the whole data folder and say what is wrong with it, even while Kaiku runs", Example: "  kaiku check --data /var/lib/kaiku", Args: cobra.NoArgs,
		Long: "Reads the database, the records of every home against its journal, every file of an attachment and every secret, and changes nothing. The exit code is 3 if anything is wrong.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := untilSignal(cmd.Context())
			defer stop()
			began := time.Now()
			got, err := store.Check(ctx, data, counting(a.Err, "Checking"))
			if err := stoppedOr(ctx, err, "nothing was changed", map[string]string{"dir": data}); err != nil {
				return err
			}
			for _, w := range got.Wrong {
				fmt.Fprintln(a.Out, wording.Safe(said(w)))
			}
			fmt.Fprintf(a.Out, "Read %s with %s and %s, %s and %s in %s.\n", wording.Count(got.Homes, "home"), wording.Count(got.Records, "record"),
				wording.Agree(got.Entries, "journal entry", "journal entries"), wording.Count(got.Bodies, "file"), wording.Count(got.Secrets, "secret"), time.Since(began).Round(100*time.Millisecond))
			if len(got.Wrong) == 0 {
				fmt.Fprintln(a.Out, "Nothing is wrong.")
				return nil
			}
			a.NeedsAttention()
			return nil
		}}
	dataFlag(a, c, &data)
	return c
}

func said(w store.Wrong) string {
	home, why, of := w.Home, "", ""
	if w.Code == store.WrongSecret && home != "" {
		home += ": "
	}
	if w.Detail != "" {
		why = ": " + w.Detail
	}
	if w.Code == store.WrongDatabase && home != "" {
		of = " in " + home
	}
	label := w.Label
	if w.Code == store.WrongJournal && label == "" {
		label = "this home"
	}
	text := wording.Fill(checkSaid[w.Code], map[string]string{"home": home, "label": label, "detail": w.Detail, "why": why, "of": of})
	return strings.ToUpper(text[:1]) + text[1:]
}
