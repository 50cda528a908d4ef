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
	return group("survey", "The survey of the home", walk.RunE, walk, missing)
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
