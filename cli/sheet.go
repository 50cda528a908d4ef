package cli

import (
	"fmt"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"kaiku/wording"
)

// sheetForms are the forms of the sheet, with what each is.
var sheetForms = []struct{ name, is string }{{"results", "all results, as PDF"}, {"table", "all results as a table, as CSV"}, {"customer", "one page for the customer, as PDF"}}

// sheetCommand writes the commissioning results.
func (a *App) sheetCommand() *cobra.Command {
	show := &cobra.Command{Use: "show", Short: "Show the commissioning results", Example: "  kaiku sheet show", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		s, err := a.client().Sheet(cmd.Context(), code)
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, room := range s.Rooms {
			for _, p := range room.Paths {
				for _, t := range p.Tests {
					rows = append(rows, []string{room.Room.Label, t.Title, t.About.Label, wording.States[t.Status], t.By, when(t.At)})
				}
			}
		}
		a.found(len(s.Missing) > 0)
		return a.show(s, []string{"Room", "Test", "About", "Status", "By", "When"}, rows)
	}}
	a.checkFlag(show, "something that is required is not proven")
	var names []string
	said := ""
	for _, f := range sheetForms {
		names = append(names, f.name)
		said += fmt.Sprintf("\n  %-9s %s", f.name, f.is)
	}
	write := &cobra.Command{Use: "write FORM FILE", Short: "Write the commissioning results into a file", Example: "  kaiku sheet write results sail-loft.pdf\n  kaiku sheet write customer page.pdf\n  kaiku sheet write table results.csv", Args: cobra.ExactArgs(2),
		Long: "Writes what was proven, on which configuration, with what, by whom and when; what was waived and why; and what is not proven. Forms:\n" + said,
		ValidArgsFunction: func(_ *cobra.Command, args []string, _ string) ([]cobra.Completion, cobra.ShellCompDirective) {
			if len(args) == 0 {
				return names, cobra.ShellCompDirectiveNoFileComp
			}
			return nil, cobra.ShellCompDirectiveDefault
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			if !slices.Contains(names, args[0]) {
				return wrongUse("%q is not a form of the sheet; choose one of %s", args[0], wording.Or(names))
			}
			body, err := a.client().SheetFile(cmd.Context(), code, args[0])
			if err != nil {
				return err
			}
			if err := os.WriteFile(args[1], body, 0o600); err != nil {
				return fmt.Errorf("write the sheet: %w", err)
			}
			return a.done(map[string]any{"file": args[1], "bytes": len(body)}, "Wrote %s (%d kB).", args[1], (len(body)+999)/1000)
		}}
	return group("sheet", "The commissioning results, to be printed and signed", show.RunE, show, write)
}
