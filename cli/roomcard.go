package cli

import (
	"github.com/spf13/cobra"

	"kaiku/core/dossier"
)

// roomCard shows what is in a room, how to watch there, and what of that is proven.
func (a *App) roomCard() *cobra.Command {
	var customer bool
	room := dossier.KindNamed("room")
	c := &cobra.Command{Use: "card ROOM", Short: "Show what is in a room, how to watch there, and what of that is proven", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeRecords(room),
		Long:    "The card holds no secrets, addresses or remarks. With --for-customer it leaves out the open issues too, as their words are the technicians'.",
		Example: "  kaiku room card \"lamp room\"\n  kaiku room card \"lamp room\" --for-customer",
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), room, args, reading)
			if err != nil {
				return err
			}
			card, err := a.client().RoomCard(cmd.Context(), a.household, r.Key())
			if err != nil {
				return err
			}
			if customer {
				card.Open = nil
			}
			if a.format != "table" {
				return a.show(card, nil, nil)
			}
			a.say("%s, %s", card.Room.Label, card.Home)
			for _, v := range card.Devices {
				a.say("  %s (%s)", v.Device.Label, v.Said)
			}
			for _, w := range card.Watch {
				a.say("\n%s: %s", w.What, w.How)
				if w.Else != "" {
					a.say("  If that fails: %s", w.Else)
				}
				last := ""
				if w.Last != nil {
					last = " Last: " + when(*w.Last) + "."
				}
				a.say("  %s%s", w.Said, last)
			}
			if len(card.Watch) == 0 {
				a.say("\nNo way of watching is recorded here.")
			}
			for _, i := range card.Open {
				a.say("\nOpen: %s", i.Label)
			}
			return nil
		}}
	c.Flags().BoolVar(&customer, "for-customer", false, "leave out what is for technicians")
	return c
}
