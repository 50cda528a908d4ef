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

func (a *App) arriveCommand() *cobra.Command {
	var record bool
	c := aboutHome(&cobra.Command{Use: "arrive [CODE]", Short: "Show where this machine is on the home's network and what differs from the record", ValidArgsFunction: a.completeHouseholds,
		Long:    "Compares what this machine's operating system knows about the network it is on with what is recorded about the home. Nothing is sent to any device in the home. If the network is not recorded yet, it can be recorded as a segment of the home.",
		Example: "  kaiku arrive H-0042\n  kaiku arrive H-0042 --record-segment"})
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		if err := a.keepHome(d); err != nil { // for a scan out of reach of the service
			return err
		}
		place, err := probe.Where()
		if err != nil {
			return err
		}
		remarks := []wire.Remark{}
		rows := [][]string{}
		for _, r := range network.Arrive(d, place) {
			said, differs := wording.Arrival(r)
			mark := ""
			if differs {
				mark = "differs"
			}
			a.found(differs)
			remarks = append(remarks, wire.Remark{Code: r.Code, Sentence: said, Differs: differs, About: wire.Named{Ref: r.Subject, Label: d.Label(r.Subject)}})
			rows = append(rows, []string{mark, said})
		}
		if notes := d.Home().AccessNotes; notes != "" && a.format == "table" {
			a.say("Getting in: %s", notes)
		}
		if err := a.show(remarks, []string{"", "What was found"}, rows); err != nil {
			return err
		}
		return a.offerSegment(cmd.Context(), d, place, record)
	}
	c.Flags().BoolVar(&record, "record-segment", false, "record the network of this machine as a segment, without asking")
	a.checkFlag(c, "something differs from the record")
	return c
}

// offerSegment records the network that this machine is on as a segment of the home, if it is
// recorded nowhere and the person says so.
func (a *App) offerSegment(ctx context.Context, d *dossier.Dossier, p network.Place, record bool) error {
	found, ok := network.NewSegment(d, p)
	if !ok {
		if record {
			a.note("There is no new network to record.")
		}
		return nil
	}
	said := "the network " + found.Prefix.String()
	if found.Gateway.IsValid() {
		said += " with the gateway " + found.Gateway.String()
	}
	if !record {
		if _, asked := a.terminal(); !asked || a.noInput {
			a.note("%s is not recorded. To record it as a segment of the home: kaiku arrive %s --record-segment", wording.Capital(said), d.Home().Code)
			return nil
		}
		if a.confirm(wording.Capital(said)+" is not recorded.", "Record it as a segment of the home?") != nil {
			return nil
		}
	}
	members := wire.Record{"name": found.Name, "prefix": found.Prefix.String()}
	if found.Gateway.IsValid() {
		members["gateway"] = found.Gateway.String()
	}
	made, err := a.client().Add(ctx, d.Home().Code, dossier.KindNamed("segment"), members)
	if err != nil {
		return err
	}
	a.note("Recorded %s as the segment %v.", said, made["name"])
	return nil
}

func (a *App) departCommand() *cobra.Command {
	c := aboutHome(&cobra.Command{Use: "depart [CODE]", Short: "List what still needs doing before you leave the home", ValidArgsFunction: a.completeHouseholds, Example: "  kaiku depart H-0042 --check"})
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		left, err := a.client().Departure(cmd.Context(), code)
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, o := range left {
			rows = append(rows, []string{o.Sentence, o.About.Label})
		}
		a.found(len(left) > 0)
		if a.format == "table" && len(left) == 0 {
			a.say("Nothing left to do here.")
			return nil
		}
		return a.show(left, []string{"To do before leaving", "About"}, rows)
	}
	a.checkFlag(c, "something is left to do")
	return c
}

func (a *App) visitCommands() []*cobra.Command {
	bring := &cobra.Command{Use: "bring", Short: "List what to bring to the next visit and what to prepare for it", Example: "  kaiku visit bring", RunE: a.visitBring}
	var undo bool
	ready := &cobra.Command{Use: "ready ITEM", Short: "Mark an item for the next visit as ready", Example: "  kaiku visit ready \"patch cables\"", RunE: func(cmd *cobra.Command, args []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		if err := a.client().SetReady(cmd.Context(), code, wire.SupplyReady{What: args[0], Ready: !undo}); err != nil {
			return err
		}
		return a.visitBring(cmd, nil)
	}}
	undoFlag(ready, &undo)
	calendar := &cobra.Command{Use: "calendar", Short: "Create a private address for your visits in a calendar program", Example: "  kaiku visit calendar",
		Long: "Creates the private address of an iCalendar feed with your visits in all homes, the long tasks that you check and your due dates. An earlier address stops working. Anyone who has the address can read the calendar; kaiku token revoke ends it.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := a.client().NewFeed(cmd.Context())
			if err != nil {
				return err
			}
			address := strings.TrimRight(a.where(), "/") + made.Path
			if err := a.done(map[string]string{"address": address}, "%s", address); err != nil {
				return err
			}
			a.note("The address is shown only this once. It expires on %s.", made.Ends.Local().Format("2 January 2006"))
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
	if err := a.show(kit, []string{"Type", "Item", "State", "Reason", "For"}, rows); err != nil || a.format != "table" || len(kit.Proves) == 0 {
		return err
	}
	a.say("\nTo prove the remedies of the issues that are open:")
	for _, t := range kit.Proves {
		a.say("  %s", t.Label)
	}
	return nil
}
