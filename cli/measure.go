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

// place is where something is measured.
type place struct{ room, device string }

func (a *App) placeFlags(c *cobra.Command, p *place) {
	a.roomFlag(c, &p.room)
	a.deviceFlag(c, &p.device)
}

// invite makes a code with which the place is measured.
func (a *App) invite(ctx context.Context, p place, minutes int) (wire.Code, error) {
	code, err := a.code()
	if err != nil {
		return wire.Code{}, err
	}
	in := wire.NewInvite{Minutes: minutes}
	for kind, name := range map[string]string{"room": p.room, "device": p.device} {
		if name == "" {
			continue
		}
		_, r, err := a.recordNamed(ctx, dossier.KindNamed(kind), []string{name}, writing)
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

func (a *App) readingCommands() []*cobra.Command {
	return []*cobra.Command{a.readingTake(), a.readingInvite()}
}

func (a *App) readingTake() *cobra.Command {
	var at place
	var with, conditions string
	c := &cobra.Command{Use: "take", Short: "Measure the network between this laptop and the Kaiku in the home",
		Long:    "Measures latency, jitter and loss with packets that are sent back, then the throughput in both directions, and records the readings for a device or room. It takes about twelve seconds. Both ends are on the home's network; the internet line is not used.",
		Example: "  kaiku reading take --room lounge --conditions \"evening, door closed\"",
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := a.invite(cmd.Context(), at, 0)
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
	a.placeFlags(c, &at)
	c.Flags().StringVar(&with, "measured-with", "laptop", "what measures; empty if it is the device itself")
	conditionsFlag(c, &conditions)
	return c
}

func (a *App) readingInvite() *cobra.Command {
	var at place
	var minutes int
	c := &cobra.Command{Use: "invite", Short: "Show a code with which any browser in the home can measure", Example: "  kaiku reading invite --device \"kitchen screen\"",
		RunE: func(cmd *cobra.Command, _ []string) error {
			made, err := a.invite(cmd.Context(), at, minutes)
			if err != nil {
				return err
			}
			return a.showCode(made, "Photograph the code with the phone or screen that is to measure, or open this address there:")
		}}
	a.placeFlags(c, &at)
	c.Flags().IntVar(&minutes, "minutes", 30, "how long the code is valid, in minutes")
	return c
}

// decodingInvite lets the browser of a device say itself what it decodes.
func (a *App) decodingInvite() *cobra.Command {
	c := &cobra.Command{Use: "ask DEVICE", Short: "Show a code with which the browser of a device says what it decodes", Args: cobra.ExactArgs(1), Example: "  kaiku decoding ask \"kitchen screen\"", ValidArgsFunction: a.completeRecords(dossier.KindNamed("device")),
		Long: "Shows a code and an address. Opened in the device's own browser, the page asks that browser which formats it decodes, by the W3C's Media Capabilities, and records the answers as declared. It takes a second.",
		RunE: func(cmd *cobra.Command, args []string) error {
			made, err := a.invite(cmd.Context(), place{device: args[0]}, 30)
			if err != nil {
				return err
			}
			return a.showCode(made, "Photograph the code with the device, or open this address in its browser:")
		}}
	return c
}

func (a *App) joinCommand() *cobra.Command {
	return &cobra.Command{Use: "join", Short: "Show a code that logs you in on your phone", Example: "  kaiku join", RunE: func(cmd *cobra.Command, _ []string) error {
		made, err := a.client().Join(cmd.Context())
		if err != nil {
			return err
		}
		return a.showCode(made, "Photograph the code with your phone, or open this address there:")
	}}
}

// here says through which adapter and with what address this machine is on its network.
func here() string {
	place, err := probe.Where()
	if err != nil {
		return ""
	}
	for _, i := range place.Adapters {
		for _, p := range i.Prefixes {
			if p.Addr().Is4() {
				return i.Name + ", " + p.String()
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

// showCode prints a code for people and cameras.
func (a *App) showCode(c wire.Code, how string) error {
	if a.format != "table" {
		return a.show(c, []string{"Code", "Address", "Expires"}, [][]string{{c.Code, c.Address, c.Ends.Format(time.RFC3339)}})
	}
	for _, line := range qrLines(c.QR) {
		a.say("%s", line)
	}
	a.say("%s\n%s\nExpires at %s.", how, c.Address, c.Ends.Local().Format("15:04"))
	return nil
}
