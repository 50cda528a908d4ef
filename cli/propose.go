package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// pathPropose lists the ways by which a device could get what is wished for, and records one.
func (a *App) pathPropose() *cobra.Command {
	var take int
	c := &cobra.Command{Use: "propose DEVICE", Short: "Show by which ways a device can get what is wished for, and what stands against each", Args: cobra.ExactArgs(1),
		Long:    "For everything that is wished on the device or in its room, lists the ways from each source: whether anything keeps the way from working, what would play, whether the network carries it, what the way cannot do, and what has to be done first. The possible ways stand first, the best first.\n\n--take records the way with that number as a path, with both ends filled in.",
		Example: "  kaiku path propose \"parlour stick\"\n  kaiku path propose \"kitchen screen\" --take 1", ValidArgsFunction: a.completeRecords(dossier.KindNamed("device")),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, device, err := a.recordNamed(cmd.Context(), dossier.KindNamed("device"), args, reading)
			if err != nil {
				return err
			}
			p, err := a.client().Proposal(cmd.Context(), a.household, device.Key())
			if err != nil {
				return err
			}
			var ways []wire.ProposedWay
			for _, w := range p.Wished {
				ways = append(ways, w.Ways...)
			}
			if take == 0 && !cmd.Flags().Changed("take") {
				if err := a.showProposal(p); err != nil || a.format != "table" {
					return err
				}
				return a.comesBack(cmd.Context())
			}
			if take < 1 || take > len(ways) {
				return wrongUse("no way has the number %d; run kaiku path propose without --take to see the numbers", take)
			}
			way := ways[take-1]
			if way.Recorded != nil {
				return fmt.Errorf("this way is recorded already, as the path %s", way.Recorded.Label)
			}
			added, err := a.client().Add(cmd.Context(), a.household, dossier.KindNamed("path"), way.Draft)
			if err != nil {
				return err
			}
			for _, f := range way.Blocks {
				a.note("As long as nothing is changed, this cannot work: %s %s", f.Sentence, f.Remedy)
			}
			a.note("Recorded the path %s. To do next: kaiku path card %q", added["name"], added["name"])
			return nil
		}}
	c.Flags().IntVar(&take, "take", 0, "record the way with this number as a path")
	return c
}

// comesBack says what keeps coming back with what the household has, where there are cases enough to tell.
func (a *App) comesBack(ctx context.Context) error {
	lines, err := a.client().Recurring(ctx, a.household, "")
	if err != nil {
		return err
	}
	lines = slices.DeleteFunc(lines, func(l wire.Recurring) bool { return !l.Enough })
	if len(lines) > 0 {
		a.say("\nWhat keeps coming back with what this home has, in all homes of the firm:")
	}
	for _, l := range lines {
		a.say("  %s: %s", l.What, l.Sentence)
	}
	return nil
}

func (a *App) showProposal(p wire.Proposal) error {
	if a.format != "table" {
		return a.show(p, nil, nil)
	}
	n := 0
	for _, w := range p.Wished {
		a.say("%s", w.Said)
		for _, way := range w.Ways {
			n++
			state := "nothing known against it"
			switch {
			case !way.Possible:
				state = "not possible now"
			case way.Recorded != nil:
				state = "recorded as " + way.Recorded.Label
			}
			a.say("%d. %s, %s: %s", n, way.Said, way.Source.Label, state)
			for _, f := range way.Blocks {
				a.say("   %s %s", f.Sentence, f.Remedy)
			}
			if !way.Possible {
				continue
			}
			a.say("   %s %s", way.Able, way.Finds)
			a.say("   Plays: %s. Load: %s. %s", way.Plays, wording.LoadStates[way.Load], way.LoadSaid)
			if len(way.Loses) > 0 {
				a.say("   Mind: %s.", strings.Join(way.Loses, "; "))
			}
			for _, f := range way.Minds {
				a.say("   %s: %s", wording.Capital(string(f.Severity)), f.Sentence)
			}
			if len(way.Open) > 0 {
				a.say("   To do first: %s.", strings.Join(way.Open, "; "))
			}
		}
	}
	for _, w := range p.Without {
		a.say("%s", w.Said)
	}
	return nil
}
