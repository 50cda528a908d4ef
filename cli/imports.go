package cli

import (
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
)

func (a *App) importCommand() *cobra.Command {
	var o wire.ImportOptions
	c := &cobra.Command{Use: "import FILE", Short: "Import CSV, a lease or neighbour table, or contacts",
		Long: `Imports a file, or standard input for "-". What the file contains is recognised from the file itself: CSV whose
first line names the values of a kind of record, one of three common forms of lease tables, the neighbour or
address table of an operating system, or vCard. With --dry-run every line is checked and nothing is written.
An address table needs --device, the device whose
adapters it shows. Without --partly, nothing is written if any line is refused.`,
		Example: "  kaiku survey import rooms.csv --dry-run\n  ip neigh | kaiku survey import - --add-unknown",
		RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			body, err := a.document(args[0])
			if err != nil {
				return err
			}
			done, err := a.client().Import(cmd.Context(), code, body, o)
			if err != nil {
				return err
			}
			return a.imported(done)
		}}
	c.Flags().StringVar(&o.What, "contains", "", "what the file contains, if it cannot be recognised: the plural of a kind, contacts or table")
	a.deviceFlag(c, &o.Device)
	dryFlag(c, &o.Dry)
	c.Flags().BoolVar(&o.Partly, "partly", false, "write the good lines even if others are refused")
	c.Flags().BoolVar(&o.AddUnknown, "add-unknown", false, "add a device for every adapter in the table that is not recorded")
	return c
}

func (a *App) document(name string) ([]byte, error) {
	if name == "-" {
		return io.ReadAll(io.LimitReader(a.In, 8<<20))
	}
	return os.ReadFile(name)
}

func (a *App) imported(done wire.Import) error {
	if err := a.importLines(done, done); err != nil {
		return err
	}
	counts := done.Form + ": " + countsOf(done)
	switch {
	case done.Dry:
		a.note("%s Nothing has been written; leave out --dry-run to write it.", counts)
	case !done.Written:
		return errors.New(counts + " Nothing has been written; correct the refused lines, or add --partly to write the others")
	case len(done.Lines) > 0 && done.Counts[wire.LineRefused] == len(done.Lines):
		return errors.New(counts + " Nothing has been written: every line was refused")
	default:
		a.note("%s Written.", counts)
	}
	a.attention = a.attention || done.Counts[wire.LineRefused] > 0
	return nil
}

func (a *App) exportCommand() *cobra.Command {
	var names []cobra.Completion
	for _, k := range dossier.Kinds {
		if k.Allows(dossier.Add) {
			names = append(names, k.Plural)
		}
	}
	return &cobra.Command{Use: "export KIND [FILE]", Short: "Export all records of a kind as CSV, or contacts as vCard", Example: "  kaiku survey export outlets outlets.csv", ValidArgsFunction: cobra.FixedCompletions(append(names, "contacts"), cobra.ShellCompDirectiveDefault),
		RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			body, err := a.client().Export(cmd.Context(), code, args[0])
			if err != nil {
				return err
			}
			if len(args) == 1 {
				return a.print(body)
			}
			if err := os.WriteFile(args[1], body, 0o600); err != nil {
				return fmt.Errorf("write %s: %w", args[1], err)
			}
			a.note("Saved as %s.", args[1])
			return nil
		}}
}
