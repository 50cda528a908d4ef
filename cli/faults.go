package cli

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/suspects"
	"kaiku/wording"
)

// faultCommand are the fault modes that suspects are drawn from.
func (a *App) faultCommand() *cobra.Command {
	modes := func(cmd *cobra.Command) (*suspects.Faults, error) {
		body, err := a.client().ExportFaults(cmd.Context())
		if err != nil {
			return nil, err
		}
		return suspects.Read(body)
	}
	list := &cobra.Command{Use: "list", Short: "The fault modes that suspects are drawn from", Args: cobra.NoArgs, Example: "  kaiku fault list",
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := modes(cmd)
			if err != nil {
				return err
			}
			own := map[string]bool{}
			for _, m := range suspects.Shipped().Own(*f).Modes {
				own[m.ID] = true
			}
			rows := [][]string{}
			for _, m := range f.Modes {
				whose := "Kaiku"
				if own[m.ID] {
					whose = "the firm"
				}
				rows = append(rows, []string{m.ID, string(m.At), m.Title, fmt.Sprintf("%g", m.Odds), whose})
			}
			return a.show(f.Modes, []string{"Id", "At a", "Fault", "Odds", "From"}, rows)
		}}
	show := &cobra.Command{Use: "show FAULT", Short: "What a fault mode makes fail, how to see it and what to do", Args: cobra.ExactArgs(1), ValidArgsFunction: cobra.NoFileCompletions, Example: "  kaiku fault show multicast-filtered",
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := modes(cmd)
			if err != nil {
				return err
			}
			m := f.Mode(args[0])
			if m == nil {
				return fmt.Errorf("there is no fault mode called %q; run kaiku fault list to see them all", args[0])
			}
			rows := [][]string{}
			for _, line := range wording.FaultLines(*m) {
				rows = append(rows, []string{line})
			}
			return a.show(m, []string{m.Title}, rows)
		}}
	export := &cobra.Command{Use: "export", Short: "Export the fault modes as a file", Args: cobra.NoArgs, Example: "  kaiku fault export | tee faults.json",
		Long: "Writes the fault modes that the firm uses as JSON of the form kaiku-faults/1: those that come with Kaiku, with the firm's own.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			body, err := a.client().ExportFaults(cmd.Context())
			if err != nil {
				return err
			}
			if !json.Valid(body) {
				return fmt.Errorf("the service did not answer with JSON")
			}
			a.say("%s", body)
			return nil
		}}
	here := false
	again := &cobra.Command{Use: "recurring", Short: "What keeps coming back, by model of device and by program", Args: cobra.NoArgs, Example: "  kaiku fault recurring\n  kaiku fault recurring --here",
		Long: "Counts the faults that were recorded with remedies, in all homes of the firm, and says how many that is for each year of a home that has the model or program, with the interval in which the rate lies with 90 %. Versions are those that are recorded now.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			code := ""
			if here {
				var err error
				if code, err = a.code(); err != nil {
					return err
				}
			}
			lines, err := a.client().Recurring(cmd.Context(), code, "")
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, l := range lines {
				rows = append(rows, []string{l.What, l.Sentence, strings.Join(l.Modes, ", ")})
			}
			if len(rows) == 0 && a.format == "table" {
				a.say("No fault was recorded with a remedy yet: kaiku issue remedy takes --was and --was-at.")
				return nil
			}
			return a.show(lines, []string{"At", "How often", "Which"}, rows)
		}}
	again.Flags().BoolVar(&here, "here", false, "only what the household has")
	shared := &cobra.Command{Use: "shared", Short: "One fault in several homes that have something in common, and what to do in each", Args: cobra.NoArgs, Example: "  kaiku fault shared",
		Long: "Picks the faults that were found lately, or are suspected behind issues that are open, in at least two homes that have the same model, firmware, program or version. Lists these homes with what to do in each, and the other homes that have the same.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := a.client().SharedFaults(cmd.Context())
			if err != nil {
				return err
			}
			if a.format != "table" {
				return a.show(list, nil, nil)
			}
			for n, s := range list {
				if n > 0 {
					a.say("")
				}
				a.say("%s. %s.\nRemedy: %s", s.Title, wording.Capital(s.Sentence), s.Remedy)
				rows := [][]string{}
				for _, h := range append(s.Homes, s.Besides...) {
					how := ""
					switch {
					case h.Found:
						how = "found"
					case h.Issue.ID != "":
						how = wording.Likelihood(h.Probability)
					}
					rows = append(rows, []string{h.Household, h.Name, h.Issue.Label, h.State, how, h.Do})
				}
				if err := a.show(nil, []string{"Household", "Name", "Issue", "State", "Fault", "To do"}, rows); err != nil {
					return err
				}
			}
			if len(list) == 0 {
				a.say("No fault shows in two homes that have a model or a program in common.")
			}
			return nil
		}}
	odds := &cobra.Command{Use: "odds", Short: "How the odds of faults move by what was found in the firm's homes", Args: cobra.NoArgs, Example: "  kaiku fault odds",
		Long: "Every issue that a test has closed and whose fault was recorded counts. The odds of a fault are multiplied by (found + 4) / (expected + 4), where expected is its share of the faults at the same kind of component by the odds as they came. Reopening an issue takes back what it taught.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := a.client().LearnedOdds(cmd.Context())
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, l := range list {
				var homes []string
				for _, f := range l.From {
					if !slices.Contains(homes, f.Household) {
						homes = append(homes, f.Household)
					}
				}
				rows = append(rows, []string{l.Mode, l.Title, fmt.Sprintf("%.2g", l.Came), fmt.Sprintf("%.2g", l.Odds), l.Sentence, strings.Join(homes, ", ")})
			}
			if len(rows) == 0 && a.format == "table" {
				a.say("No issue was closed yet by a test with its fault recorded: all odds are as they came.")
				return nil
			}
			return a.show(list, []string{"Id", "Fault", "Came as", "Now", "Why", "Found in"}, rows)
		}}
	var learnAgain bool
	keep := &cobra.Command{Use: "keep FAULT", Short: "Keep the odds of a fault as they came, whatever is found (lead technician, coordinator)", Args: cobra.ExactArgs(1), ValidArgsFunction: cobra.NoFileCompletions, Example: "  kaiku fault keep cable-damaged\n  kaiku fault keep cable-damaged --let-go",
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.client().KeepOdds(cmd.Context(), args[0], !learnAgain); err != nil {
				return err
			}
			said := "The odds of %s stay as they came."
			if learnAgain {
				said = "The odds of %s follow what is found again."
			}
			return a.done(map[string]any{"fault": args[0], "kept": !learnAgain}, said, args[0])
		}}
	keep.Flags().BoolVar(&learnAgain, "let-go", false, "let the odds follow what is found again")
	var dry bool
	take := &cobra.Command{Use: "import FILE", Short: "Take up fault modes from a file (lead technician, coordinator)", Args: cobra.ExactArgs(1), Example: "  kaiku fault import faults.json --dry-run\n  kaiku fault import faults.json",
		Long: "Reads a file of the form kaiku-faults/1, or standard input for \"-\". Modes and questions with an id that there is take its place, others are added; the file may hold a few only. All of them are checked together, and either all are stored or none.",
		RunE: func(cmd *cobra.Command, args []string) error {
			body, err := a.document(args[0])
			if err != nil {
				return fmt.Errorf("read the file: %w", err)
			}
			changes, err := a.client().ImportFaults(cmd.Context(), body, dry)
			if err != nil {
				return err
			}
			end := "Stored."
			if dry {
				end = "Nothing has been stored."
			}
			return a.showKnowledgeChanges(changes, end, "The firm uses these fault modes already.")
		}}
	dryFlag(take, &dry)
	forget := &cobra.Command{Use: "remove FAULT", Short: "Remove a fault mode of the firm (lead technician, coordinator)", Args: cobra.ExactArgs(1), ValidArgsFunction: cobra.NoFileCompletions, Example: "  kaiku fault remove gulls-on-aerial --yes",
		Long: "Removes a fault mode that the firm added or changed. One that comes with Kaiku is then as it came.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.confirm("It will no longer count in any home of the firm.", "Remove it?"); err != nil {
				return err
			}
			if err := a.client().RemoveFault(cmd.Context(), args[0]); err != nil {
				return err
			}
			return a.done(map[string]string{"removed": args[0]}, "Removed the firm's own fault mode %s.", args[0])
		}}
	a.yesFlag(forget)
	return group("fault", "What is known of faults", list.RunE, list, show, again, shared, odds, keep, export, take, forget)
}
