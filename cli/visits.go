package cli

import (
	"context"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) hereCommand() *cobra.Command {
	return &cobra.Command{Use: "here [HOUSEHOLD]", Short: "Where this machine is: adapter, gateway, who is near, what differs from the record", Args: cobra.MaximumNArgs(1), ValidArgsFunction: a.completeHouseholds,
		Long: "Compares what this machine's operating system knows of where it is with what is recorded of the home. Nothing is sent to anybody in the home.",
		RunE: func(cmd *cobra.Command, args []string) error {
			d, err := a.homeNamed(cmd.Context(), args)
			if err != nil {
				return err
			}
			place, err := probe.Where()
			if err != nil {
				return err
			}
			remarks := []wire.Remark{}
			rows := [][]string{}
			for _, r := range network.Here(d, place) {
				said, differs := wording.Here(r)
				mark := ""
				if differs {
					mark, a.attention = "differs", true
				}
				remarks = append(remarks, wire.Remark{Code: r.Code, Sentence: said, Differs: differs, About: wire.Named{Ref: r.Subject, Label: d.Label(r.Subject)}})
				rows = append(rows, []string{mark, said})
			}
			if a.format == "table" {
				if notes := d.Home().AccessNotes; notes != "" {
					a.say("Getting in: %s", notes)
				}
			}
			return a.show(remarks, []string{"", "Here"}, rows)
		}}
}

// homeNamed loads the home that the argument names, or the one that is set.
func (a *App) homeNamed(ctx context.Context, args []string) (*dossier.Dossier, error) {
	if len(args) > 0 {
		a.household = args[0]
	}
	return a.home(ctx)
}

func (a *App) leaveCommand() *cobra.Command {
	return &cobra.Command{Use: "leave [HOUSEHOLD]", Short: "What is still owed before the door closes", Args: cobra.MaximumNArgs(1), ValidArgsFunction: a.completeHouseholds,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				a.household = args[0]
			}
			code, err := a.code()
			if err != nil {
				return err
			}
			owed, err := a.client().Leaving(cmd.Context(), code)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, o := range owed {
				rows = append(rows, []string{o.Sentence, o.About.Label})
			}
			a.attention = len(owed) > 0
			if a.format == "table" && len(owed) == 0 {
				a.say("Nothing is owed. The door may close.")
				return nil
			}
			return a.show(owed, []string{"Owed", "At"}, rows)
		}}
}

func (a *App) visitCommands() []*cobra.Command {
	bring := &cobra.Command{Use: "bring", Short: "What the next visit must bring and have ready", Args: cobra.NoArgs, RunE: a.visitBring}
	var not bool
	ready := &cobra.Command{Use: "ready THING", Short: "Say that a thing is ready for the next visit", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		if err := a.client().SetReady(cmd.Context(), code, wire.SupplyReady{What: args[0], Ready: !not}); err != nil {
			return err
		}
		return a.visitBring(cmd, nil)
	}}
	ready.Flags().BoolVar(&not, "not", false, "it is not ready after all")
	calendar := &cobra.Command{Use: "calendar", Short: "Make a secret address at which a calendar fetches your visits", Args: cobra.NoArgs,
		Long: "Makes the secret address of an iCalendar feed: your visits in all homes, and what you look at again or see to. One made before ends. Whoever has the address can read it; `kaiku token list` and `kaiku token revoke` end it.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := a.client().NewFeed(cmd.Context())
			if err != nil {
				return err
			}
			a.say("%s%s", strings.TrimRight(a.where(), "/"), made.Path)
			a.note("Shown only now. It ends on %s.", made.Ends.Local().Format("2 January 2006"))
			return nil
		}}
	return []*cobra.Command{bring, ready, calendar}
}

func (a *App) visitBring(cmd *cobra.Command, _ []string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	kit, err := a.client().Kit(cmd.Context(), code)
	if err != nil {
		return err
	}
	if a.format == "table" {
		if kit.Visit.ID == "" {
			a.say("No visit is planned.")
		} else {
			a.say("%s, %s: %s", when(kit.Starts), kit.Technician, kit.Visit.Label)
		}
		if kit.AccessNotes != "" {
			a.say("Getting in: %s", kit.AccessNotes)
		}
	}
	rows := [][]string{}
	for _, s := range kit.Supplies {
		state := "not ready"
		if s.Ready {
			state = "ready"
		}
		rows = append(rows, []string{string(s.Sort), s.What, state, strings.Join(s.Because, ", "), names(s.About)})
	}
	return a.show(kit, []string{"Sort", "What", "", "Because", "For"}, rows)
}
