package cli

import (
	"context"
	"fmt"
	"net/url"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/wording"
)

func (a *App) journalCommand() *cobra.Command {
	var record, by, since, word string
	list := &cobra.Command{Use: "list", Short: "List changes, newest first", Example: "  kaiku journal list --by petri --since 2026-11-20\n  kaiku journal list --record device/\"granite server\"", RunE: func(cmd *cobra.Command, _ []string) error {
		return a.journal(cmd.Context(), record, by, since, word)
	}}
	list.Flags().StringVar(&record, "record", "", "only changes to this record, as kind/name")
	list.Flags().StringVar(&by, "by", "", "only changes by this person, by log-in name")
	list.Flags().StringVar(&since, "since", "", "only changes on or after this day, such as 2026-11-20")
	list.Flags().StringVar(&word, "word", "", "only changes with this text in a value or in the reason")
	_ = list.RegisterFlagCompletionFunc("by", a.completePeople)
	undo := &cobra.Command{Use: "undo ENTRY", Short: "Undo one change, or all changes of a revision", Example: "  kaiku journal undo 12.3\n  kaiku journal undo 12",
		Long: "Makes the opposite change of one entry, or of all entries of a revision at once, such as everything recorded from a scan; the journal then shows that too. Changes made since then are kept; if they touch the same values, nothing is done.", RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			var revision uint64
			var n int
			whole := !strings.Contains(args[0], ".")
			form := map[bool]string{true: "%d", false: "%d.%d"}[whole]
			into := map[bool][]any{true: {&revision}, false: {&revision, &n}}[whole]
			if _, err := fmt.Sscanf(args[0], form, into...); err != nil || revision == 0 || n < 1 && !whole {
				return wrongUse("%q is not an entry; write it as in kaiku journal list, such as 12.3, or 12 for all of revision 12", args[0])
			}
			done, err := a.client().Undo(cmd.Context(), code, revision, n)
			if err != nil {
				return err
			}
			if whole {
				again := ""
				if done.OfferAgain {
					again = " The handover on offer at the time is still outdated: offer it again."
				}
				return a.done(done, "Undone: all %s of revision %s.%s", wording.Agree(done.Entries, "entry", "entries"), args[0], again)
			}
			return a.done(done, "Undone: %s is as it was before entry %s.", done.Label, args[0])
		}}
	return group("journal", "Every change to the household", list.RunE, list, undo)
}

func (a *App) journal(ctx context.Context, record, by, since, word string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	q := url.Values{"limit": {"200"}}
	if word != "" {
		q.Set("word", word)
	}
	if record != "" {
		ref, err := a.refIn(ctx, record, reading)
		if err != nil {
			return err
		}
		q.Set("record", ref.ID)
	}
	if by != "" {
		p, err := a.personNamed(ctx, by)
		if err != nil {
			return err
		}
		q.Set("by", string(p.ID))
	}
	if since != "" {
		day, err := time.ParseInLocation(time.DateOnly, since, time.Local)
		if err != nil {
			return wrongUse("--since %s: this is not a day; write it as 2026-11-20", since)
		}
		q.Set("since", day.UTC().Format(time.RFC3339))
	}
	entries, err := a.client().Journal(ctx, code, q)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, e := range entries {
		what := strings.Join(e.Members, "; ")
		if e.Why != "" {
			what = "Reason: " + e.Why + ". " + what
		}
		if !e.DoneAt.IsZero() {
			what = "Done on " + when(e.DoneAt) + ". " + what
		}
		rows = append(rows, []string{fmt.Sprintf("%d.%d", e.Revision, e.N), when(e.At), e.ByName, string(e.Act), wording.Noun(e.Subject.Kind) + " " + e.Label, clip(what, 160)})
	}
	return a.show(entries, []string{"Entry", "When", "By", "Change", "Record", "Details"}, rows)
}

func clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}
