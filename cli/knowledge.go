package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) knowledgeCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List what the firm knows of models of devices and of programs", Example: "  kaiku knowledge list", RunE: func(cmd *cobra.Command, _ []string) error {
		k, err := a.client().Knowledge(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, s := range k.Sheets {
			rows = append(rows, []string{s.ID, s.About, wording.Count(len(s.Entries), "line"), s.Source})
		}
		for _, r := range k.Releases {
			rows = append(rows, []string{r.ID, r.About, strings.Join(wording.ReleaseLines(r.Release)[:len(wording.ReleaseLines(r.Release))-1], "; "), r.Source})
		}
		return a.show(k, []string{"Id", "About", "Says", "Source"}, rows)
	}}
	show := &cobra.Command{Use: "show ID", Short: "Show a sheet line by line", Example: "  kaiku knowledge show 4f2a91c07b3d5e68", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeKnowledge, RunE: func(cmd *cobra.Command, args []string) error {
		k, err := a.client().Knowledge(cmd.Context())
		if err != nil {
			return err
		}
		for _, s := range k.Sheets {
			if s.ID == args[0] {
				rows := [][]string{}
				for _, line := range s.Lines {
					rows = append(rows, []string{line})
				}
				if a.format == "table" {
					a.say("%s. Source: %s", s.About, s.Source)
				}
				return a.show(s, []string{"The device"}, rows)
			}
		}
		for _, r := range k.Releases {
			if r.ID == args[0] {
				rows := [][]string{}
				for _, line := range wording.ReleaseLines(r.Release) {
					rows = append(rows, []string{line})
				}
				return a.show(r, []string{r.About}, rows)
			}
		}
		return fmt.Errorf("no sheet or release has the id %s; kaiku knowledge list shows them all", args[0])
	}}
	var takeAlone, lookAlone bool
	aloneFlag := func(c *cobra.Command, alone *bool) {
		c.Flags().BoolVar(alone, "replace-all", false, "remove what the file does not name")
	}
	take := &cobra.Command{Use: "import FILE", Short: "Take up the sheets and releases of a file (lead technician, coordinator)", Example: "  kaiku knowledge import sheets.json\n  cat sheets.json | kaiku knowledge import -",
		Long: "Reads a file of the form kaiku-knowledge/1, or standard input for \"-\": what models of devices decode, from which firmware to which, and the newest versions of programs and firmware, each with its source. Those for the same model and firmware, or of the same program, are replaced. All are stored, or none. They count in all homes of the firm. To see first what would change, run kaiku knowledge diff.", RunE: func(cmd *cobra.Command, args []string) error {
			body, err := a.document(args[0])
			if err != nil {
				return fmt.Errorf("read the file: %w", err)
			}
			changes, err := a.client().ImportKnowledge(cmd.Context(), body, takeAlone)
			if err != nil {
				return err
			}
			return a.showKnowledgeChanges(changes, "Stored.", "The firm knows all of this already.")
		}}
	aloneFlag(take, &takeAlone)
	diff := &cobra.Command{Use: "diff FILE", Short: "Show what taking up a file would change", Example: "  kaiku knowledge diff sheets.json", RunE: func(cmd *cobra.Command, args []string) error {
		body, err := a.document(args[0])
		if err != nil {
			return fmt.Errorf("read the file: %w", err)
		}
		changes, err := a.client().CompareKnowledge(cmd.Context(), body, lookAlone)
		if err != nil {
			return err
		}
		a.found(len(changes) > 0)
		return a.showKnowledgeChanges(changes, "Nothing has been stored.", "Taking up this file would change nothing.")
	}}
	aloneFlag(diff, &lookAlone)
	a.checkFlag(diff, "taking up the file would change something")
	give := &cobra.Command{Use: "export", Short: "Export what the firm knows as a file", Example: "  kaiku knowledge export | tee sheets.json", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		body, err := a.client().ExportKnowledge(cmd.Context())
		if err != nil {
			return err
		}
		return a.print(body)
	}}
	edits := &cobra.Command{Use: "journal", Short: "Show who changed what the firm knows, and when", Example: "  kaiku knowledge journal", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		all, err := a.client().KnowledgeChanges(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, e := range all {
			for _, c := range e.Changes {
				rows = append(rows, append([]string{when(e.At), e.By}, knowledgeRow(c)...))
			}
		}
		return a.show(all, []string{"When", "By", "", "About", "Lines"}, rows)
	}}
	remove := &cobra.Command{Use: "remove ID", Short: "Remove a sheet or a release (lead technician, coordinator)", Example: "  kaiku knowledge remove 4f2a91c07b3d5e68 --yes", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeKnowledge, RunE: func(cmd *cobra.Command, args []string) error {
		if err := a.confirm("It will no longer count in any home of the firm.", "Remove it?"); err != nil {
			return err
		}
		if err := a.client().RemoveKnowledge(cmd.Context(), args[0]); err != nil {
			return err
		}
		return a.done(args[0], "Removed.")
	}}
	a.yesFlag(remove)
	return group("knowledge", "What the firm knows of models of devices and of programs", list.RunE, list, show, take, diff, give, edits, remove)
}

func (a *App) showKnowledgeChanges(changes []wire.KnowledgeChange, after, none string) error {
	if len(changes) == 0 {
		return a.done(changes, "%s", none)
	}
	rows := [][]string{}
	for _, c := range changes {
		rows = append(rows, knowledgeRow(c))
	}
	if err := a.show(changes, []string{"", "About", "Lines"}, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("%s", after)
	return nil
}

// knowledgeRow says one change, with lines that go and come.
func knowledgeRow(c wire.KnowledgeChange) []string {
	var lines []string
	for _, l := range c.Gone {
		lines = append(lines, "no longer: "+l)
	}
	for _, l := range c.Arrived {
		lines = append(lines, "now: "+l)
	}
	return []string{string(c.Act), c.About, strings.Join(lines, "; ")}
}

func (a *App) completeKnowledge(cmd *cobra.Command, _ []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	k, err := a.client().Knowledge(cmd.Context())
	var out []cobra.Completion
	if err == nil {
		for _, s := range k.Sheets {
			out = append(out, cobra.CompletionWithDesc(s.ID, s.About))
		}
		for _, r := range k.Releases {
			out = append(out, cobra.CompletionWithDesc(r.ID, r.About))
		}
	}
	for i := len(out) - 1; i >= 0; i-- {
		if !strings.HasPrefix(string(out[i]), typed) {
			out = append(out[:i], out[i+1:]...)
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}
