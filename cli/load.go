package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) loadCommand() *cobra.Command {
	c := &cobra.Command{Use: "load", Short: "Whether the network carries what is watched, and what would relieve it", Args: cobra.NoArgs,
		Long:    "Adds up how much of each cable, Wi-Fi channel and internet line every path and busy set uses between the files and the screens, with 20 % headroom. Up to 70 % leaves room, up to 90 % is tight, and anything above that is overloaded. Results based on rates that nobody has measured say so. If a link, a rate or a format is missing, the load is not known.",
		Example: "  kaiku load\n  kaiku load why \"Saturday evening\"\n  kaiku load busy \"lamp room films\" \"kitchen music\"\n  kaiku load relieve --check",
		RunE: func(cmd *cobra.Command, _ []string) error {
			l, err := a.load(cmd)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, one := range cases(l) {
				atOnce := ""
				if one.Set == "" && one.AtOnce >= 0 {
					atOnce = fmt.Sprint(one.AtOnce)
				}
				a.found(one.State != load.Roomy)
				why := one.Said
				for _, c := range one.Converting {
					if c.State != "enough" {
						a.found(true)
						why += " " + c.Said
					}
				}
				rows = append(rows, []string{whatOf(one), wording.LoadStates[one.State], atOnce, why})
			}
			if err := a.show(l, []string{"In use", "Load", "Fit at once", "Why"}, rows); err != nil || a.format != "table" {
				return err
			}
			for _, use := range l.Uplinks {
				a.say("%s", use.Said)
			}
			return nil
		}}
	a.checkFlag(c, "something is tight, overloaded or not known, or a source may have too little power to convert")
	c.AddCommand(a.loadWhy(), a.loadBusy(), a.loadRelieve())
	return c
}

func (a *App) load(cmd *cobra.Command) (wire.Load, error) {
	code, err := a.code()
	if err != nil {
		return wire.Load{}, err
	}
	return a.client().Load(cmd.Context(), code)
}

// cases lists the busy sets, then each path alone.
func cases(l wire.Load) []wire.LoadCase {
	return append(append([]wire.LoadCase{}, l.Sets...), l.Alone...)
}

func whatOf(c wire.LoadCase) string {
	if c.Set != "" {
		return c.Name + " (busy set)"
	}
	return c.Name
}

// caseNamed finds a busy set or a path by its name or an unambiguous beginning of it.
func (a *App) caseNamed(cmd *cobra.Command, name string) (wire.LoadCase, error) {
	l, err := a.load(cmd)
	if err != nil {
		return wire.LoadCase{}, err
	}
	var found []wire.LoadCase
	for _, c := range cases(l) {
		if strings.EqualFold(c.Name, name) {
			return c, nil
		}
		if strings.HasPrefix(strings.ToLower(c.Name), strings.ToLower(name)) {
			found = append(found, c)
		}
	}
	switch len(found) {
	case 0:
		return wire.LoadCase{}, fmt.Errorf("no path in use and no busy set is called %q; kaiku load lists them", name)
	case 1:
		return found[0], nil
	}
	return wire.LoadCase{}, fmt.Errorf("%q may be %s or %s; write more of the name", name, found[0].Name, found[1].Name)
}

func (a *App) loadWhy() *cobra.Command {
	return &cobra.Command{Use: "why PATH|BUSY-SET", Short: "What a path or a busy set takes of everything on its way", Args: cobra.ExactArgs(1), Example: "  kaiku load why \"lamp room films\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.caseNamed(cmd, args[0])
			if err != nil {
				return err
			}
			return a.showCase(c)
		}}
}

func (a *App) loadBusy() *cobra.Command {
	return &cobra.Command{Use: "busy PATH...", Short: "The same for paths that you name, in use at once", Args: cobra.MinimumNArgs(1), Example: "  kaiku load busy \"lamp room films\" \"parlour films\"", ValidArgsFunction: a.completeRecords(dossier.KindNamed("path")),
		RunE: func(cmd *cobra.Command, args []string) error {
			d, first, err := a.recordNamed(cmd.Context(), dossier.KindNamed("path"), args[:1], reading)
			if err != nil {
				return err
			}
			ids := []string{first.Key()}
			for i := range args[1:] {
				p, err := find(d, dossier.KindNamed("path"), args[i+1:i+2], reading)
				if err != nil {
					return err
				}
				ids = append(ids, p.Key())
			}
			c, err := a.client().LoadTogether(cmd.Context(), a.household, ids)
			if err != nil {
				return err
			}
			return a.showCase(c)
		}}
}

// flowSaid is what the heaviest of a path needs, the way that it takes, and what is not known of it.
func flowSaid(f wire.LoadFlow) string {
	var parts []string
	switch {
	case f.Mbps > 0:
		parts = append(parts, fmt.Sprintf("needs %.3g Mb/s (%s) with a fifth to spare", f.Mbps, wording.Plain(string(f.Known))))
	case len(f.Gaps) == 0:
		parts = append(parts, "is played where the files are")
	}
	if len(f.Way) > 1 {
		var way []string
		for _, d := range f.Way {
			way = append(way, d.Label)
		}
		parts = append(parts, "from "+strings.Join(way, " to "))
	}
	if len(parts) == 0 {
		return strings.Join(f.Gaps, " ")
	}
	return strings.Join(append([]string{strings.Join(parts, "; ") + "."}, f.Gaps...), " ")
}

func (a *App) showCase(c wire.LoadCase) error {
	rows := [][]string{}
	for _, use := range c.Uses {
		var by []string
		for _, p := range use.By {
			by = append(by, fmt.Sprintf("%s %.0f %%", p.Path.Label, 100*p.Share))
		}
		share := fmt.Sprintf("%.0f %%", 100*use.Share)
		if use.AtLeast {
			share = "at least " + share
		}
		rows = append(rows, []string{use.Label, share, string(use.Known), wording.LoadStates[use.State], strings.Join(by, ", ")})
	}
	if a.format == "table" {
		a.say("%s: %s. %s", whatOf(c), wording.LoadStates[c.State], c.Said)
		for _, one := range c.Converting {
			a.say("%s", one.Said)
		}
		for _, f := range c.Flows {
			a.say("%s: %s", f.Path.Label, flowSaid(f))
		}
	}
	if err := a.show(c, []string{"What carries it", "Taken", "Known by", "Load", "By"}, rows); err != nil || a.format != "table" {
		return err
	}
	for _, ch := range c.Changes {
		a.say("%s: %s.", ch.Said, ch.Then)
	}
	if c.Surest != nil {
		a.say("A reading taken at %s in the evening would help most to make this certain (kaiku reading take).", c.Surest.Label)
	}
	return nil
}

func (a *App) loadRelieve() *cobra.Command {
	return &cobra.Command{Use: "relieve", Short: "The single changes that leave more room where it is tight or overloaded", Args: cobra.NoArgs, Example: "  kaiku load relieve",
		RunE: func(cmd *cobra.Command, _ []string) error {
			l, err := a.load(cmd)
			if err != nil {
				return err
			}
			rows, unknown, without := [][]string{}, 0, []string{}
			for _, c := range cases(l) {
				if c.State == load.NotKnown {
					unknown++
				}
				for _, ch := range c.Changes {
					rows = append(rows, []string{whatOf(c), ch.Said, fmt.Sprintf("%.0f %%", 100*ch.Share), wording.LoadStates[ch.State]})
				}
				if len(c.Changes) == 0 && (c.State == load.Tight || c.State == load.Overloaded) {
					without = append(without, whatOf(c))
				}
			}
			if len(rows) == 0 && a.format == "table" {
				a.say("No single change is known that would leave more room.")
			} else if err := a.show(l, []string{"For", "Change", "Taken then", "Load then"}, rows); err != nil || a.format != "table" {
				return err
			}
			for _, one := range without {
				a.say("Nothing alone relieves %s.", one)
			}
			if unknown > 0 {
				a.say("For %d more, it is not known whether the network carries them; kaiku load says what is missing.", unknown)
			}
			return nil
		}}
}
