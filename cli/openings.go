package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/network"
	"kaiku/wire"
	"kaiku/wording"
)

// openingNeeded lists what the firewalls of a home have to let in for its paths, and writes it down in several forms.
func (a *App) openingNeeded() *cobra.Command {
	var sheet string
	c := &cobra.Command{Use: "needed", Short: "What the firewalls have to let in for the paths, and what is open for nothing", Args: cobra.NoArgs,
		Long:    "Works out from the paths in use which ports each machine has to let in, from where and for what, and says what is recorded of each. With --sheet it is written to be taken along: as text, as rules for nftables, or as a table (CSV) to work through in the menus of any router. It is advice: nothing is opened.",
		Example: "  kaiku opening needed\n  kaiku opening needed --check\n  kaiku opening needed --sheet nftables",
		RunE: func(cmd *cobra.Command, _ []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			o, err := a.client().Openings(cmd.Context(), code)
			if err != nil {
				return err
			}
			if sheet == "" {
				return a.showOpenings(o)
			}
			for _, s := range o.Sheets {
				if s.Form == sheet {
					a.say("%s", strings.TrimRight(s.Body, "\r\n"))
					return nil
				}
			}
			return wrongUse("%q is not one of the formats; choose text, nftables or csv", sheet)
		}}
	c.Flags().StringVar(&sheet, "sheet", "", "write it down: text, nftables or csv")
	_ = c.RegisterFlagCompletionFunc("sheet", cobra.FixedCompletions([]string{"text", "nftables", "csv"}, cobra.ShellCompDirectiveNoFileComp))
	a.checkFlag(c, "something that is needed is not recorded as open")
	return c
}

func (a *App) showOpenings(o wire.Openings) error {
	rows := [][]string{}
	for _, n := range o.Needed {
		var paths []string
		for _, p := range n.Paths {
			paths = append(paths, p.Label)
		}
		a.found(n.State != network.NeedOpen)
		rows = append(rows, []string{n.Host.Label, n.Said, n.For, strings.Join(paths, ", "), wording.OpeningNeeds[n.State]})
	}
	if err := a.show(o, []string{"Host", "What it has to let in", "For", "Paths", "Recorded"}, rows); err != nil || a.format != "table" {
		return err
	}
	for _, n := range o.Needed {
		if n.SeenSaid != "" {
			a.say("%s: %s", n.Said[:len(n.Said)-1], n.SeenSaid)
		}
	}
	for _, s := range o.Spare {
		a.say("%s port %s of %s is recorded as open, and no path needs it.", strings.ToUpper(string(s.Transport)), s.Ports, s.Host.Label)
	}
	return nil
}
