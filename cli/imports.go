package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
)

func (a *App) importCommand() *cobra.Command {
	var o wire.ImportOptions
	c := &cobra.Command{Use: "import FILE", Short: "Bring in CSV, a table of leases or neighbours, or contacts", Args: cobra.ExactArgs(1),
		Long: `Brings in a document, or standard input for "-". What it is, is seen from itself: CSV whose first line names
members of a kind (rooms, outlets, devices, interfaces, segments and every other kind), a lease file of ISC dhcpd,
Kea or dnsmasq, what "ip neigh", "ip -j neigh" or "ip -j addr" print, or vCard. With --dry every line is tried and
nothing is written. Without --partly nothing is written when one line is refused.`,
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
	c.Flags().StringVar(&o.What, "kind", "", "plural of a kind, contacts or table, where it cannot be seen from the document")
	c.Flags().StringVar(&o.Device, "device", "", "the device whose own adapters `ip -j addr` shows")
	c.Flags().BoolVar(&o.Dry, "dry", false, "only say what it would come to")
	c.Flags().BoolVar(&o.Partly, "partly", false, "write the lines that are right although others are refused")
	c.Flags().BoolVar(&o.AddUnknown, "add-unknown", false, "add a device for each adapter of a table that nobody recorded")
	return c
}

func (a *App) document(name string) ([]byte, error) {
	if name == "-" {
		return io.ReadAll(io.LimitReader(a.In, 8<<20))
	}
	return os.ReadFile(name)
}

func (a *App) imported(done wire.Import) error {
	rows := [][]string{}
	for _, l := range done.Lines {
		rows = append(rows, []string{fmt.Sprint(l.Line), l.Act, l.Label, l.Detail})
	}
	if err := a.show(done, []string{"Line", "Act", "Of", "Detail"}, rows); err != nil {
		return err
	}
	var said []string
	for _, act := range []string{wire.LineAdded, wire.LineChanged, wire.LineSame, wire.LineUnknown, wire.LineRefused} {
		if n := done.Counts[act]; n > 0 {
			said = append(said, fmt.Sprintf("%d %s", n, act))
		}
	}
	counts := done.Form + ": " + strings.Join(said, ", ") + "."
	if done.Form == "" || len(done.Lines) == 0 {
		counts = done.Form + ": no lines."
	}
	refused := done.Counts[wire.LineRefused]
	switch {
	case done.Dry:
		a.note("%s Nothing was written; leave --dry out to write it.", counts)
	case !done.Written:
		return errors.New(counts + " Nothing was written: correct the lines that are refused, or write the others with --partly")
	default:
		a.note("%s Written.", counts)
	}
	a.attention = a.attention || refused > 0
	return nil
}

func (a *App) exportCommand() *cobra.Command {
	var names []cobra.Completion
	for _, k := range dossier.Kinds {
		if k.Allows(dossier.Add) {
			names = append(names, k.Plural)
		}
	}
	return &cobra.Command{Use: "export KIND [FILE]", Short: "Write all records of a kind as CSV, or contacts as vCard", Args: cobra.RangeArgs(1, 2), ValidArgsFunction: cobra.FixedCompletions(append(names, "contacts"), cobra.ShellCompDirectiveDefault),
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
				_, err = a.Out.Write(body)
				return err
			}
			if err := os.WriteFile(args[1], body, 0o600); err != nil {
				return fmt.Errorf("write %s: %w", args[1], err)
			}
			a.note("Wrote %s.", args[1])
			return nil
		}}
}
