package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/network"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) surveyCommand() *cobra.Command {
	walk := &cobra.Command{Use: "walk", Short: "The walk through the home: in each room what is there, missing and found", Args: cobra.NoArgs, RunE: a.surveyWalk}
	missing := &cobra.Command{Use: "missing", Short: "What is not recorded yet, in walking order", Args: cobra.NoArgs, RunE: a.surveyMissing}
	draw := &cobra.Command{Use: "draw", Short: "The network as a tree from where the line ends", Args: cobra.NoArgs, RunE: a.surveyDraw}
	addresses := &cobra.Command{Use: "addresses", Short: "What each address of the home's segments is there for", Args: cobra.NoArgs, RunE: a.surveyAddresses}
	return group("survey", "The survey of the home", walk.RunE, walk, missing, draw, addresses, a.importCommand(), a.exportCommand())
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
		room := place(stop)
		for _, w := range stop.Wishes {
			rows = append(rows, []string{room, "wished", w})
		}
		if there := names(stop.Devices); there != "" {
			rows = append(rows, []string{room, "there", there})
		}
		if outlets := names(stop.Outlets); outlets != "" {
			rows = append(rows, []string{room, "outlets", outlets})
		}
		for _, f := range stop.Findings {
			a.attention = a.attention || f.Severity == network.Blocker
			rows = append(rows, []string{room, string(f.Severity), f.Sentence + " " + f.Remedy})
		}
		for _, g := range stop.Gaps {
			rows = append(rows, []string{room, "missing", g.Sentence})
		}
	}
	if a.format == "table" {
		for i := len(rows) - 1; i > 0; i-- { // a room is named once
			if rows[i][0] == rows[i-1][0] {
				rows[i][0] = ""
			}
		}
		a.say("On the same network? %s", s.Network.Sentence)
		for _, l := range s.Lines {
			a.say("From outside, on the line %s: %s", l.Line.Label, l.Sentence)
		}
	}
	return a.show(s, []string{"Where", "What", ""}, rows)
}

func (a *App) surveyMissing(cmd *cobra.Command, _ []string) error {
	s, err := a.survey(cmd)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, stop := range s.Stops {
		for _, g := range stop.Gaps {
			rows = append(rows, []string{place(stop), g.Sentence, g.Remedy})
		}
	}
	return a.show(s.Stops, []string{"Where", "Missing", "What to do"}, rows)
}

// place says where a stop is: floor and room, or the home as a whole.
func place(s wire.Stop) string {
	if s.Room.ID == "" {
		return "the home"
	}
	return fmt.Sprintf("%d %s", s.Floor, s.Room.Label)
}

func names(list []wire.Named) string {
	var out []string
	for _, n := range list {
		out = append(out, n.Label)
	}
	return strings.Join(out, ", ")
}

// findingExplain says a finding without a home: its words, with a name for each value.
func (a *App) findingExplain(_ *cobra.Command, args []string) error {
	i := slices.IndexFunc(network.Codes, func(c network.Code) bool { return c.Name == args[0] })
	if i < 0 {
		return wrongUse("there is no finding %s; `kaiku finding codes` lists them", args[0])
	}
	c := network.Codes[i]
	said := wording.Findings[c.Name]
	if a.format == "table" {
		a.say("%s, %s at most.\nIt says: %s\nTo do: %s", c.Name, c.Severity, said.Sentence, said.Remedy)
		return nil
	}
	return a.show(map[string]string{"code": c.Name, "severity": string(c.Severity), "sentence": said.Sentence, "remedy": said.Remedy},
		[]string{"Code", "Severity", "Sentence", "Remedy"}, [][]string{{c.Name, string(c.Severity), said.Sentence, said.Remedy}})
}

func (a *App) findingCodes(*cobra.Command, []string) error {
	rows := [][]string{}
	for _, c := range network.Codes {
		rows = append(rows, []string{string(c.Severity), c.Name, wording.Findings[c.Name].Remedy})
	}
	return a.show(network.Codes, []string{"Severity at most", "Code", "Remedy"}, rows)
}

// surveyDraw prints the network as a tree: each device below the one through which it reaches the
// line, then what nothing joins to it.
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
				for _, f := range v.Findings {
					a.attention = a.attention || f.Severity == network.Blocker
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
	return a.show(d, []string{"Device", "By", "Room", "Segments", "Found"}, rows)
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

// surveyAddresses prints the address plan, a line for each address that is taken.
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
			rows = append(rows, []string{s.Segment.Label, s.Pool, "", fmt.Sprintf("lease pool, %d free", s.Free)})
		}
		for _, spot := range s.Spots {
			rows = append(rows, []string{s.Segment.Label, spot.Address, names(spot.Holders), spot.Says})
		}
	}
	return a.show(plan, []string{"Segment", "Address", "Whose", "What for"}, rows)
}
