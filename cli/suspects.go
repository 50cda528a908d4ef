package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) suspectCommand() *cobra.Command {
	ofIssue := func(c *cobra.Command) *cobra.Command {
		c.Args, c.ValidArgsFunction = cobra.MaximumNArgs(1), a.completeRecords(issueKind)
		return c
	}
	list := ofIssue(&cobra.Command{Use: "list [ISSUE]", Short: "The faults that would explain what is known, the likeliest first", Example: "  kaiku suspect list \"Parlour screen shows no server\"",
		Long: "Weighs everything that failed and passed, the findings and, of an issue, what its caller said, and lists the faults that would explain it. Probabilities are estimates. The exit code is 3 if something fails.",
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := a.suspectsOf(cmd.Context(), args)
			if err != nil {
				return err
			}
			a.found(s.Failures > 0)
			if len(s.Suspects) == 0 && a.format == "table" {
				a.say("%s", s.Sentence)
				return nil
			}
			rows := [][]string{}
			for _, one := range s.Suspects {
				rows = append(rows, []string{wording.Likelihood(one.Probability), one.Title, one.About.Label, one.Mode})
			}
			if err := a.show(s, []string{"How likely", "Fault", "Where", "Id"}, rows); err != nil || a.format != "table" {
				return err
			}
			a.say("\n%s", s.Sentence)
			if s.Failures > 0 {
				a.say("None of the faults that Kaiku knows: %s. Weighed: %s of evidence.", wording.Likelihood(s.None), wording.Count(s.Evidence, "piece"))
			}
			return nil
		}})
	why := &cobra.Command{Use: "why FAULT [ISSUE]", Short: "What speaks for and against one suspect, how to see it, and what to do", Args: cobra.RangeArgs(1, 2), Example: "  kaiku suspect why multicast-filtered \"Parlour screen shows no server\"",
		ValidArgsFunction: cobra.NoFileCompletions,
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := a.suspectsOf(cmd.Context(), args[1:])
			if err != nil {
				return err
			}
			var known []string
			for _, one := range s.Suspects {
				if one.Mode == args[0] {
					return a.suspect(one)
				}
				if !slices.Contains(known, one.Mode) {
					known = append(known, one.Mode)
				}
			}
			if len(known) == 0 {
				return fmt.Errorf("nothing is suspected: %s", s.Sentence)
			}
			return fmt.Errorf("%q is not among the suspects, which are %s", args[0], wording.And(known))
		}}
	next := ofIssue(&cobra.Command{Use: "next [ISSUE]", Short: "What to ask, test or look at next, the most telling per minute first", Example: "  kaiku suspect next \"Parlour screen shows no server\"",
		Long: "Ranks questions to the caller, tests, looks and exchanges of parts by how much each is expected to narrow down what it is, for each minute that it takes.",
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := a.suspectsOf(cmd.Context(), args)
			if err != nil {
				return err
			}
			if len(s.Steps) == 0 && a.format == "table" {
				a.say("%s", s.Sentence)
				return nil
			}
			rows := [][]string{}
			for _, x := range s.Steps {
				rows = append(rows, []string{wording.StepKinds[x.Kind], x.Sentence, x.About.Label, wording.StepBy[x.By], fmt.Sprintf("%g", x.Minutes), fmt.Sprintf("%.2f", x.Bits), stepID(x)})
			}
			if err := a.show(s.Steps, []string{"", "What", "About", "By", "Minutes", "Bits", "Id"}, rows); err != nil || a.format != "table" {
				return err
			}
			if len(s.Steps) > 0 {
				a.say("\nAfter the first:")
				for _, x := range s.Steps[0].Then {
					a.say("  %s.", strings.TrimRight(x, ".?"))
				}
			}
			a.say("\n%s", s.Sentence)
			return nil
		}})
	return group("suspect", "Which faults would explain what is known, and what to do next", list.RunE, list, why, next)
}

func stepID(x wire.SuspectStep) string {
	switch {
	case x.Test != "":
		kind, _, _ := strings.Cut(x.Test, ":")
		return kind
	}
	return x.Question
}

func (a *App) suspect(one wire.Suspect) error {
	pairs := []string{"Fault", one.Title, "Where", one.About.Label, "How likely", wording.Likelihood(one.Probability), "Beside", one.With}
	for _, x := range one.For {
		pairs = append(pairs, "For it", x)
	}
	for _, x := range one.Against {
		pairs = append(pairs, "Against it", x)
	}
	pairs = append(pairs, "To see it", fmt.Sprintf("%s (%s, %s)", one.Look, wording.StepBy[one.LookBy], wording.Count(one.LookMinutes, "minute")),
		"Remedy", fmt.Sprintf("%s (%s)", one.Remedy, wording.Count(one.Minutes, "minute")), "Bring", strings.Join(one.Bring, ", "))
	for _, t := range one.Proves {
		pairs = append(pairs, "Proven by", t.Label)
	}
	return a.details(one, append(pairs, "Odds from", one.Source)...)
}

// suspectsOf asks for the suspects of the issue that is named, or of the home.
func (a *App) suspectsOf(ctx context.Context, args []string) (wire.Suspects, error) {
	code, err := a.code()
	if err != nil {
		return wire.Suspects{}, err
	}
	id := ""
	if len(args) > 0 {
		i, err := a.issueNamed(ctx, args, reading)
		if err != nil {
			return wire.Suspects{}, err
		}
		id = string(i.Record.ID)
	}
	return a.client().Suspects(ctx, code, id)
}

func (a *App) issueAnswer() *cobra.Command {
	var about string
	var back bool
	c := &cobra.Command{Use: "answer ISSUE QUESTION [yes|no|not-known]", Short: "Note what the caller said to a question, or what was seen where one looked", Args: cobra.RangeArgs(2, 3), ValidArgsFunction: a.completeRecords(issueKind),
		Example: "  kaiku issue answer \"No picture in the parlour\" not-listed yes --about path/parlour-films\n  kaiku issue answer \"No picture in the parlour\" restart-helps no",
		Long: "Notes an answer, in place of what was answered to the same question before; with --take-back it is taken back. QUESTION is an id that kaiku suspect next shows, or one of these, which say what is wrong on a path: " +
			strings.Join(slices.Sorted(maps.Keys(wording.Complaints)), ", ") + ".",
		RunE: func(cmd *cobra.Command, args []string) error {
			i, err := a.issueNamed(cmd.Context(), args[:1], writing)
			if err != nil {
				return err
			}
			in := wire.IssueAnswer{Question: args[1], TakenBack: back}
			switch {
			case back && len(args) == 3, !back && len(args) == 2:
				return wrongUse("give an answer (yes, no or not-known), or take one back with --take-back")
			case back:
			case args[2] == "yes" || args[2] == "no":
				in.Said = dossier.Answer(args[2])
			case args[2] != "not-known":
				return wrongUse("%q is not an answer; answer yes, no or not-known", args[2])
			}
			if about != "" {
				if in.About, err = a.refIn(cmd.Context(), about, writing); err != nil {
					return err
				}
			}
			s, err := a.client().AnswerIssue(cmd.Context(), a.household, string(i.Record.ID), in)
			if err != nil {
				return err
			}
			return a.done(s, "%s", s.Sentence)
		}}
	aboutFlag(c, &about)
	c.Flags().BoolVar(&back, "take-back", false, "take the answer back")
	return c
}
