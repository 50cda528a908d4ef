package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/network"
	"kaiku/wire"
)

func (a *App) surveyCommand() *cobra.Command {
	walk := &cobra.Command{Use: "walk", Short: "Go through the home room by room: what is there, what is missing, what is wrong", Example: "  kaiku survey walk", RunE: a.surveyWalk}
	a.checkFlag(walk, "there is a blocker")
	missing := &cobra.Command{Use: "missing", Short: "List what is not recorded yet, in walking order", Example: "  kaiku survey missing", RunE: a.surveyMissing}
	a.checkFlag(missing, "anything is missing")
	draw := &cobra.Command{Use: "draw", Short: "Draw the network as a tree, starting from the internet line", Example: "  kaiku survey draw", RunE: a.surveyDraw}
	addresses := &cobra.Command{Use: "addresses", Short: "List every address in use and what it is used for", Example: "  kaiku survey addresses", RunE: a.surveyAddresses}
	return group("survey", "The survey of the home", walk.RunE, walk, missing, a.surveyAnswer(), draw, addresses, a.importCommand(), a.exportCommand())
}

func (a *App) survey(cmd *cobra.Command) (wire.Survey, error) {
	code, err := a.code()
	if err != nil {
		return wire.Survey{}, err
	}
	return a.client().Survey(cmd.Context(), code)
}

func (a *App) surveyWalk(cmd *cobra.Command, _ []string) error {
	s, err := a.survey(cmd)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, stop := range s.Stops {
		room := whereIs(stop)
		for _, w := range stop.Wishes {
			rows = append(rows, []string{room, "wish", w})
		}
		if there := names(stop.Devices); there != "" {
			rows = append(rows, []string{room, "devices", there})
		}
		if outlets := names(stop.Outlets); outlets != "" {
			rows = append(rows, []string{room, "outlets", outlets})
		}
		for _, f := range stop.Findings {
			a.found(f.Severity == network.Blocker)
			rows = append(rows, []string{room, string(f.Severity), f.Sentence + " " + f.Remedy})
		}
		for _, g := range stop.Gaps {
			rows = append(rows, []string{room, "missing", g.Sentence})
		}
	}
	if a.format == "table" {
		for i := len(rows) - 1; i > 0; i-- { // each room is named once
			if rows[i][0] == rows[i-1][0] {
				rows[i][0] = ""
			}
		}
		a.say("Everything on the same network? %s", s.Network.Sentence)
		for _, l := range s.Lines {
			a.say("From outside over the line %s: %s", l.Line.Label, l.Sentence)
		}
	}
	return a.show(s, []string{"Where", "What", "Details"}, rows)
}

func (a *App) surveyMissing(cmd *cobra.Command, _ []string) error {
	s, err := a.survey(cmd)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, stop := range s.Stops {
		for _, g := range stop.Gaps {
			a.found(true)
			rows = append(rows, []string{whereIs(stop), g.Code, g.Sentence, g.Remedy})
		}
	}
	return a.show(s.Stops, []string{"Where", "Gap", "Missing", "What to do"}, rows)
}

// whereIs says where a stop is: room and floor, or the home as a whole.
func whereIs(s wire.Stop) string {
	if s.Room.ID == "" {
		return "whole home"
	}
	return fmt.Sprintf("%s (floor %d)", s.Room.Label, s.Floor)
}

func names(list []wire.Named) string {
	var out []string
	for _, n := range list {
		out = append(out, n.Label)
	}
	return strings.Join(out, ", ")
}

// surveyDraw prints the network as a tree: each device below the one through which it reaches the
// line, then the devices that are not connected to it.
func (a *App) surveyDraw(cmd *cobra.Command, _ []string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	d, err := a.client().Drawing(cmd.Context(), code)
	if err != nil {
		return err
	}
	rows := [][]string{}
	below := map[string][]drawn{}
	var loose []drawn
	for _, f := range d.Floors {
		for _, r := range f.Rooms {
			for _, v := range r.Devices {
				one := drawn{v, strings.TrimSpace(r.Room.Label)}
				if v.Depth < 0 {
					loose = append(loose, one)
				} else {
					below[v.Parent] = append(below[v.Parent], one)
				}
			}
		}
	}
	var grow func(parent, lead string)
	grow = func(parent, lead string) {
		for n, one := range below[parent] {
			branch, next := "├ ", "│ "
			if n == len(below[parent])-1 {
				branch, next = "└ ", "  "
			}
			if parent == "" {
				branch, next = "", ""
			}
			rows = append(rows, one.row(lead+branch))
			grow(one.Device.ID, lead+next)
		}
	}
	grow("", "")
	for _, one := range loose {
		rows = append(rows, one.row("· "))
	}
	return a.show(d, []string{"Device", "Connected by", "Room", "Segments", "Findings"}, rows)
}

type drawn struct {
	wire.DrawnDevice
	room string
}

func (o drawn) row(lead string) []string {
	var found []string
	for _, f := range o.Findings {
		found = append(found, string(f.Severity)+" "+f.Code)
	}
	by := o.Up.Says
	if o.Depth < 0 && len(o.Segments) > 0 {
		by = "no link recorded"
	}
	return []string{lead + o.Device.Label, by, o.room, names(o.Segments), strings.Join(found, ", ")}
}

// surveyAddresses prints the address plan, a line for each address in use.
func (a *App) surveyAddresses(cmd *cobra.Command, _ []string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	plan, err := a.client().AddressPlan(cmd.Context(), code)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, s := range plan.Strips {
		if s.Pool != "" {
			rows = append(rows, []string{s.Segment.Label, s.Pool, "", fmt.Sprintf("DHCP pool, %d free", s.Free)})
		}
		for _, spot := range s.Spots {
			rows = append(rows, []string{s.Segment.Label, spot.Address, names(spot.Holders), spot.Says})
		}
	}
	return a.show(plan, []string{"Segment", "Address", "Device", "Use"}, rows)
}
