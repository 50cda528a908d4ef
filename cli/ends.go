package cli

import (
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/matching"
	"kaiku/wire"
	"kaiku/wording"
)

// pathEnds shows both ends of paths beside what the latest scan saw of the server, and records what was seen.
func (a *App) pathEnds() *cobra.Command {
	var record bool
	c := &cobra.Command{Use: "ends [PATH]", Short: "Show both ends of each path beside each other and beside what the latest scan saw", Args: cobra.MaximumNArgs(1),
		Long:    "For address, port, name, locator, account and clock it shows what is recorded of the server, what is entered on the device, and what the latest scan saw at the server. What differs comes first, with what to do about it.\n\nWith --to-record what was seen of the servers is recorded where the record is behind; what is entered on a device has to be corrected there.",
		Example: "  kaiku path ends\n  kaiku path ends \"lamp room films\"\n  kaiku path ends --check", ValidArgsFunction: a.completeRecords(pathKind),
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			code, err := a.code()
			if err != nil {
				return err
			}
			only := ""
			if len(args) > 0 {
				_, r, err := a.recordNamed(ctx, pathKind, args, reading)
				if err != nil {
					return err
				}
				only = r.Key()
			}
			both, err := a.client().BothEnds(ctx, code)
			if err != nil {
				return err
			}
			if only != "" {
				both.Paths = slices.DeleteFunc(both.Paths, func(p wire.PathEnds) bool { return p.Path.ID != only })
			}
			if !record {
				return a.showEnds(both)
			}
			in := wire.RecordSeen{Scan: both.Scan}
			for _, p := range both.Paths {
				for _, r := range p.Rows {
					in.Differences = append(in.Differences, r.Correct...)
				}
			}
			if len(in.Differences) == 0 {
				a.note("Nothing that a scan saw of the servers is missing from the record.")
				return nil
			}
			taken, err := a.client().RecordSeen(ctx, code, in)
			if err != nil {
				return err
			}
			a.note("Recorded %s. To take it all back: kaiku journal undo %d", wording.Count(taken.Values, "value"), taken.Revision)
			return nil
		}}
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	a.checkFlag(c, "the ends of a path differ, or the record of a server is behind")
	return c
}

func (a *App) showEnds(both wire.BothEnds) error {
	rows := [][]string{}
	for _, p := range both.Paths {
		a.found(p.Agreement == matching.DeviceOther || p.Agreement == matching.RecordOld)
		name := p.Path.Label
		for _, r := range p.Rows {
			rows = append(rows, []string{name, r.Title, said(r.Server), said(r.Device), said(r.Seen), wording.Agreements[r.Agreement]})
			name = ""
		}
	}
	if err := a.show(both, []string{"Path", "What", "Server, as recorded", "Entered on the device", "Seen at the server", "Together"}, rows); err != nil || a.format != "table" {
		return err
	}
	if both.Scan == "" {
		a.say("\nThe network was never scanned: what the servers have now is not known. Scan it with kaiku scan run.")
	}
	for _, p := range both.Paths {
		for _, r := range p.Rows {
			if r.Said != "" {
				a.say("\n%s, %s: %s", p.Path.Label, strings.ToLower(r.Title), r.Said)
			}
		}
	}
	return nil
}

// said is a list of values of which any will do, or a dash where none is known.
func said(list []string) string {
	if len(list) == 0 {
		return "-"
	}
	return strings.Join(list, " or ")
}
