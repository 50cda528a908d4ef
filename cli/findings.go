package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/network"
	"kaiku/wording"
)

func (a *App) findingCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List what is wrong with the network and the paths", Example: "  kaiku finding list --check", RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		findings, err := a.client().Findings(cmd.Context(), code)
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, f := range findings {
			a.found(f.Severity == network.Blocker)
			rows = append(rows, []string{string(f.Severity), f.Code, f.Subjects[0].Label, f.Sentence + " " + f.Remedy})
		}
		return a.show(findings, []string{"Severity", "Code", "About", "What is wrong, and what to do"}, rows)
	}}
	a.checkFlag(list, "there is a blocker")
	var every []cobra.Completion
	for _, c := range network.Codes {
		every = append(every, c.Name)
	}
	explain := &cobra.Command{Use: "explain CODE", Short: "Explain a finding", Example: "  kaiku finding explain address-clash", RunE: a.findingExplain, ValidArgsFunction: cobra.FixedCompletions(every, cobra.ShellCompDirectiveNoFileComp)}
	codes := &cobra.Command{Use: "codes", Short: "List everything that the automatic checks look for", Example: "  kaiku finding codes", RunE: a.findingCodes}
	return group("finding", "Automatic checks of the network and the paths", list.RunE, list, explain, codes)
}

// generally says a template without a home: each slot by its name.
func generally(template string) string {
	values := map[string]string{}
	for _, name := range wording.Slots(template) {
		values[name] = strings.ToUpper(flagName(name))
	}
	return wording.Fill(template, values)
}

// findingExplain says a finding without a home: its words, with a name for each value.
func (a *App) findingExplain(_ *cobra.Command, args []string) error {
	i := slices.IndexFunc(network.Codes, func(c network.Code) bool { return c.Name == args[0] })
	if i < 0 {
		return fmt.Errorf("there is no finding %q; kaiku finding codes lists them", args[0])
	}
	c := network.Codes[i]
	said := wording.Findings[c.Name]
	sentence, remedy := generally(said.Sentence), generally(said.Remedy)
	return a.details(map[string]string{"code": c.Name, "severity": string(c.Severity), "sentence": sentence, "remedy": remedy},
		"Code", c.Name, "Severity", "up to "+string(c.Severity), "What is wrong", sentence, "What to do", remedy)
}

func (a *App) findingCodes(*cobra.Command, []string) error {
	rows := [][]string{}
	for _, c := range network.Codes {
		rows = append(rows, []string{string(c.Severity), c.Name, generally(wording.Findings[c.Name].Remedy)})
	}
	return a.show(network.Codes, []string{"Severity up to", "Code", "What to do"}, rows)
}
