package cli

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) readingCommands() []*cobra.Command {
	var room, at, with, conditions string
	var minutes int
	place := func(c *cobra.Command) {
		c.Flags().StringVar(&room, "room", "", "the room that is measured in")
		c.Flags().StringVar(&at, "at", "", "the device that is measured at")
	}
	invited := func(ctx context.Context) (wire.Code, error) {
		code, err := a.code()
		if err != nil {
			return wire.Code{}, err
		}
		in := wire.NewInvite{Minutes: minutes}
		for kind, name := range map[string]string{"room": room, "device": at} {
			if name == "" {
				continue
			}
			_, r, err := a.recordNamed(ctx, dossier.KindNamed(kind), []string{name})
			if err != nil {
				return wire.Code{}, err
			}
			if kind == "room" {
				in.Room = dossier.ID[dossier.Room](r.Key())
			} else {
				in.Device = dossier.ID[dossier.Device](r.Key())
			}
		}
		return a.client().Invite(ctx, code, in)
	}
	take := &cobra.Command{Use: "take", Short: "Measure from this laptop to the Kaiku that stands in the home", Args: cobra.NoArgs,
		Long: "Measures time, jitter and loss by packets that are sent back, then throughput both ways, in about twelve seconds, and stores the readings of that device or room. Both ends stand in the home: the internet line is not touched.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := invited(cmd.Context())
			if err != nil {
				return err
			}
			said := wire.MeasureResult{With: with, Conditions: strings.Trim(conditions+"; "+here(), "; ")}
			done, err := a.client().Measure(cmd.Context(), made.Code, said, func(what string) { a.note("Measuring %s ...", what) })
			if err != nil {
				return err
			}
			return a.measured(done)
		}}
	place(take)
	take.Flags().StringVar(&with, "with", "laptop", "what measures; empty where this is the device itself")
	take.Flags().StringVar(&conditions, "conditions", "", "under which conditions, such as evening, door closed")
	invite := &cobra.Command{Use: "invite", Short: "Make a code with which any browser in the home measures", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := invited(cmd.Context())
			if err != nil {
				return err
			}
			return a.showCode(made, "Photograph it with the phone or screen that is to measure, or open:")
		}}
	place(invite)
	invite.Flags().IntVar(&minutes, "minutes", 0, "how long the code holds (30 by default)")
	return []*cobra.Command{take, invite}
}

func (a *App) joinCommand() *cobra.Command {
	return &cobra.Command{Use: "join", Short: "Bring a phone in: a code that it photographs logs it in once", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		made, err := a.client().Join(cmd.Context())
		if err != nil {
			return err
		}
		return a.showCode(made, "Photograph it with your phone, or open there:")
	}}
}

// here says by which adapter and address this machine is on its network.
func here() string {
	place, err := probe.Where()
	if err != nil {
		return ""
	}
	for _, i := range place.Adapters {
		for _, p := range i.Prefixes {
			if p.Addr().Is4() {
				return "by " + i.Name + " as " + p.String()
			}
		}
	}
	return ""
}

func (a *App) measured(done wire.Measured) error {
	rows := [][]string{}
	for _, r := range done.Readings {
		rows = append(rows, []string{wording.Plain(string(r.What)), strconv.FormatFloat(r.Value, 'f', map[bool]int{true: 0, false: 2}[r.Value >= 100], 64), r.Conditions})
	}
	return a.show(done, []string{"Reading", "Value", "Conditions"}, rows)
}

// showCode prints a code as people and cameras read it: two rows of the QR code in one line.
func (a *App) showCode(c wire.Code, how string) error {
	if a.format != "table" {
		return a.show(c, []string{"Code", "Address", "Ends"}, [][]string{{c.Code, c.Address, c.Ends.Format(time.RFC3339)}})
	}
	for y := 0; y < len(c.QR); y += 2 {
		var line strings.Builder
		for x := range c.QR[y] {
			top, bottom := c.QR[y][x] == '0', y+1 >= len(c.QR) || c.QR[y+1][x] == '0' // light is drawn: terminals are dark
			line.WriteString(map[[2]bool]string{{true, true}: "█", {true, false}: "▀", {false, true}: "▄", {false, false}: " "}[[2]bool{top, bottom}])
		}
		a.say("%s", line.String())
	}
	a.say("%s\n%s\nIt ends at %s.", how, c.Address, c.Ends.Local().Format("15:04"))
	return nil
}
