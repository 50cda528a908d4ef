package cli

import (
	"context"
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

var issueKind, handoverKind = dossier.KindNamed("issue"), dossier.KindNamed("handover")

func (a *App) issueCommands() []*cobra.Command {
	show := &cobra.Command{Use: "show ISSUE", Short: "One issue with its tries", Args: cobra.MaximumNArgs(1), ValidArgsFunction: a.completeRecords(issueKind),
		RunE: func(cmd *cobra.Command, args []string) error {
			i, err := a.issueNamed(cmd.Context(), args)
			if err != nil {
				return err
			}
			return a.issue(i)
		}}
	// text names the member that the command's second argument fills.
	step := func(use, short, text string, more func(*cobra.Command, *wire.IssueStep)) *cobra.Command {
		var in wire.IssueStep
		args := cobra.ExactArgs(1)
		if text != "" {
			args = cobra.ExactArgs(2)
		}
		c := &cobra.Command{Use: use, Short: short, Args: args, ValidArgsFunction: a.completeRecords(issueKind)}
		c.RunE = func(cmd *cobra.Command, args []string) error {
			return a.stepIssue(cmd, args, text, in)
		}
		if more != nil {
			more(c, &in)
		}
		return c
	}
	return []*cobra.Command{show, a.issueOpen(),
		step("take ISSUE", "Take it in hand", "", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.NextStep, "next", "", "what you will do next")
		}),
		step("next ISSUE TEXT", "Say the next step", "next", nil),
		step("try ISSUE WHAT", "Note what was tried", "try", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.Showed, "showed", "", "what it showed")
		}),
		step("wait ISSUE", "Let it wait on somebody", "", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.On, "on", "", "whom or what it waits for")
			c.Flags().Func("until", "day that was promised, such as 2026-12-01", func(s string) error {
				day, err := time.ParseInLocation(time.DateOnly, s, time.Local)
				in.Until = day.UTC()
				return err
			})
		}),
		step("give ISSUE PERSON", "Give it to somebody", "give", nil),
		step("remedy ISSUE TEXT", "Say what was done for good", "remedy", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.Cause, "cause", "", "what it was")
		}),
		step("close ISSUE", "Close it: by a passed test after the remedy, or with a reason", "", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.Why, "why", "", "the reason, where no test can prove it")
		}),
		step("reopen ISSUE", "Open it again, with a reason", "", func(c *cobra.Command, in *wire.IssueStep) {
			c.Flags().StringVar(&in.Why, "why", "", "the reason")
		}),
	}
}

func (a *App) issueNamed(ctx context.Context, args []string) (wire.Issue, error) {
	_, r, err := a.recordNamed(ctx, issueKind, args)
	if err != nil {
		return wire.Issue{}, err
	}
	return a.client().Issue(ctx, a.household, r.Key())
}

func (a *App) issue(i wire.Issue) error {
	r := i.Record
	pairs := []string{"Symptom", r.Symptom, "State", wording.Plain(string(r.State)), "Owner", i.Owner, "Opened", when(r.OpenedAt) + " by " + i.OpenedBy,
		"Said by", r.Reporter, "Next step", r.NextStep, "Waiting on", r.WaitingOn, "Promised until", when(r.PromisedUntil)}
	if i.Test != nil {
		pairs = append(pairs, "Test", i.Test.Title+" of "+i.Test.About.Label+", now "+string(i.Test.State))
	}
	for n, t := range r.Tries {
		pairs = append(pairs, fmt.Sprintf("Try %d", n+1), fmt.Sprintf("%s, %s: %s. %s", when(t.At), i.TriedBy[n], t.What, t.Showed))
	}
	return a.details(i, append(pairs, "Cause", r.Cause, "Remedy", r.Remedy, "Remedied", when(r.RemediedAt), "Closed", when(r.ClosedAt), "Because", r.ClosedWhy)...)
}

func (a *App) stepIssue(cmd *cobra.Command, args []string, text string, in wire.IssueStep) error {
	i, err := a.issueNamed(cmd.Context(), args[:1])
	if err != nil {
		return err
	}
	if text != "" {
		switch text {
		case "next":
			in.NextStep = args[1]
		case "try":
			in.What = args[1]
		case "give":
			in.To = args[1]
		case "remedy":
			in.Remedy = args[1]
		}
	}
	now, err := a.client().StepIssue(cmd.Context(), a.household, string(i.Record.ID), cmd.Name(), in)
	if err != nil {
		return err
	}
	if a.format != "table" {
		return a.issue(now)
	}
	line := fmt.Sprintf("Issue %q is %s", now.Record.Symptom, wording.Plain(string(now.Record.State)))
	if now.Owner != "" {
		line += ", with " + now.Owner
	}
	if now.Record.NextStep != "" && now.Record.State != dossier.IssueClosed && now.Record.State != dossier.IssueRemedied {
		line += ", next: " + now.Record.NextStep
	}
	a.say("%s.", line)
	return nil
}

func (a *App) issueOpen() *cobra.Command {
	var in wire.NewIssue
	var test, path string
	var about []string
	c := &cobra.Command{Use: "open SYMPTOM", Short: "Open an issue, from a failed test or by itself", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		in.Symptom = args[0]
		if test != "" {
			t, err := a.testNamed(cmd.Context(), test, path)
			if err != nil {
				return err
			}
			in.Test = t.ID
		}
		for _, s := range about {
			ref, err := findRef(d, s)
			if err != nil {
				return err
			}
			in.Subjects = append(in.Subjects, ref)
		}
		i, err := a.client().OpenIssue(cmd.Context(), a.household, in)
		if err != nil {
			return err
		}
		if a.format != "table" {
			return a.issue(i)
		}
		a.say("Opened issue %q (%s).", i.Record.Symptom, string(i.Record.ID)[30:])
		return nil
	}}
	c.Flags().StringVar(&test, "test", "", "kind of the failed test it comes from")
	c.Flags().StringVar(&path, "path", "", "path of that test")
	c.Flags().StringArrayVar(&about, "about", nil, "a record it is about, as kind/name; give it once for each")
	c.Flags().StringVar(&in.Reporter, "said-by", "", "who said so")
	return c
}

func (a *App) handoverCommands() []*cobra.Command {
	var to, note, why string
	show := &cobra.Command{Use: "show [ID]", Short: "The newest handover, or one by its id, point by point", Args: cobra.MaximumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		h, err := a.handoverNamed(cmd.Context(), args)
		if err != nil {
			return err
		}
		return a.handover(h)
	}}
	draft := &cobra.Command{Use: "draft", Short: "Draft a handover with its digest", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		if to == "" {
			return wrongUse("to whom? Say --to LOG-IN-NAME")
		}
		h, err := a.client().DraftHandover(cmd.Context(), code, wire.NewHandover{To: to, Note: note})
		if err != nil {
			return err
		}
		return a.handover(h)
	}}
	draft.Flags().StringVar(&to, "to", "", "log-in name of the receiver")
	draft.Flags().StringVar(&note, "note", "", "what not to touch and why, what to bring, what was promised")
	back := a.handoverStep("return", "Return it to the giver, with questions or a reason", cobra.NoArgs, func([]string) []wire.HandoverStep { return []wire.HandoverStep{{Why: why}} })
	back.Flags().StringVar(&why, "why", "", "the reason")
	one := func([]string) []wire.HandoverStep { return []wire.HandoverStep{{}} }
	return []*cobra.Command{show, draft,
		a.handoverStep("offer", "Offer it to its receiver", cobra.NoArgs, one),
		a.handoverStep("confirm POINT...", "Read points back", cobra.MinimumNArgs(1), func(args []string) (out []wire.HandoverStep) {
			for _, p := range args {
				out = append(out, wire.HandoverStep{Point: p})
			}
			return out
		}),
		a.handoverStep("ask POINT QUESTION", "Ask about a point", cobra.ExactArgs(2), func(args []string) []wire.HandoverStep {
			return []wire.HandoverStep{{Point: args[0], Question: args[1]}}
		}),
		a.handoverStep("answer POINT ANSWER", "Answer a question", cobra.ExactArgs(2), func(args []string) []wire.HandoverStep {
			return []wire.HandoverStep{{Point: args[0], Answer: args[1]}}
		}),
		a.handoverStep("accept", "Accept it: the home is yours from now on", cobra.NoArgs, one), back,
	}
}

// handoverNamed is the one with that id, or the newest.
func (a *App) handoverNamed(ctx context.Context, args []string) (wire.Handover, error) {
	d, err := a.home(ctx)
	if err != nil {
		return wire.Handover{}, err
	}
	if len(args) == 1 {
		r, err := find(d, handoverKind, args)
		if err != nil {
			return wire.Handover{}, err
		}
		return a.client().Handover(ctx, a.household, r.Key())
	}
	h, ok := custody.Latest(d)
	if !ok {
		return wire.Handover{}, wrongUse("there is no handover yet; kaiku handover draft --to NAME begins one")
	}
	return a.client().Handover(ctx, a.household, string(h.ID))
}

func (a *App) handover(h wire.Handover) error {
	if a.format == "table" {
		a.say("Handover from %s to %s, %s.", h.From.Name, h.To.Name, h.Record.State)
		if h.Record.Note != "" {
			a.say("Note: %s", h.Record.Note)
		}
		for _, g := range h.Gates {
			a.say("Held back: %s %s", g.Sentence, g.Remedy)
		}
	}
	rows := [][]string{}
	for _, p := range h.Points {
		state := ""
		switch {
		case p.Confirmed:
			state = "read back"
		case p.Question != "" && p.Answer != "":
			state = "asked: " + p.Question + " - " + p.Answer
		case p.Question != "":
			state = "asked: " + p.Question
		}
		rows = append(rows, []string{p.ID, p.Sentence, state})
	}
	return a.show(h, []string{"Point", "What is told", "Read back"}, rows)
}

func (a *App) handoverStep(use, short string, args cobra.PositionalArgs, steps func([]string) []wire.HandoverStep) *cobra.Command {
	return &cobra.Command{Use: use, Short: short, Args: args, RunE: func(cmd *cobra.Command, args []string) error {
		h, err := a.handoverNamed(cmd.Context(), nil)
		if err != nil {
			return err
		}
		for _, in := range steps(args) {
			if h, err = a.client().StepHandover(cmd.Context(), a.household, string(h.Record.ID), cmd.Name(), in); err != nil {
				return err
			}
		}
		if a.format != "table" {
			return a.handover(h)
		}
		switch h.Record.State {
		case dossier.Accepted:
			a.say("Accepted: %s is answerable for %s from now on.", h.To.Name, a.household)
		case dossier.Offered:
			a.say("Offered to %s; %d of %d points are not read back yet. %s stays responsible until it is accepted.", h.To.Name, h.Unread, len(h.Points), h.From.Name)
		default:
			a.say("The handover from %s to %s is %s.", h.From.Name, h.To.Name, h.Record.State)
		}
		return nil
	}}
}
