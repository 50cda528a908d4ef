package cli

import (
	"github.com/spf13/cobra"

	"kaiku/wire"
	"kaiku/wording"
)

// nightlySet says when tests are repeated, and in whose name.
const nightlySet = "Tests are repeated every night at %s, in the name of %s."

// testNightly shows, sets or ends the repetition of tests overnight.
func (a *App) testNightly() *cobra.Command {
	return &cobra.Command{Use: "nightly [TIME]", Short: "Show or set when tests are repeated overnight", Args: cobra.MaximumNArgs(1), ValidArgs: []string{"never"},
		Long:    "A Kaiku that runs in the home repeats every night, at TIME on its own clock, the automatic tests that disturb nobody, and records what is no longer as it was; a test that failed is repeated after five minutes before that counts. Tests of a machine that goes to sleep by itself are left out. What was found is listed on Today in the morning. \"never\" ends it. Without TIME, the time is shown, and what came of the last night.",
		Example: "  kaiku test nightly\n  kaiku test nightly 03:00\n  kaiku test nightly never",
		RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			if len(args) == 0 {
				return a.nightlyShown(cmd, code)
			}
			at := args[0]
			if at == "never" {
				at = ""
			}
			n, err := a.client().SetNightly(cmd.Context(), code, wire.SetNightly{At: at})
			if err != nil {
				return err
			}
			if n.At == "" {
				return a.done(n, "Tests are no longer repeated overnight.")
			}
			return a.done(n, nightlySet, n.At, n.By)
		}}
}

func (a *App) nightlyShown(cmd *cobra.Command, code string) error {
	n, err := a.client().Nightly(cmd.Context(), code)
	if err != nil {
		return err
	}
	rows := [][]string{}
	if n.Last != nil {
		for _, c := range n.Last.Changed {
			rows = append(rows, []string{c.Title, wording.Plain(string(c.Was)), wording.Plain(string(c.Is)), c.Said})
		}
		for _, u := range n.Last.Undone {
			rows = append(rows, []string{u.Title, "", "not carried out", u.Said})
		}
	}
	if a.format == "table" {
		if n.At == "" {
			a.say("Tests are not repeated overnight.")
		} else {
			a.say(nightlySet, n.At, n.By)
		}
		if n.Last != nil {
			a.say("%s", n.Last.Sentence)
		}
		if len(rows) == 0 {
			return nil
		}
		a.say("")
	}
	return a.show(n, []string{"Test", "Before", "Now", "Details"}, rows)
}
