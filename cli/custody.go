package cli

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

var issueKind, handoverKind = dossier.KindNamed("issue"), dossier.KindNamed("handover")

// issueStep is one step of an issue as a command: what its second argument fills, and its flags.
type issueStep struct {
	use, short, example string
	text                func(in *wire.IssueStep) *string // filled by the second argument, if there is one
	flags               func(c *cobra.Command, in *wire.IssueStep)
}

var issueStepCommands = []issueStep{
	{"take ISSUE", "Take an issue in hand", "--next \"Measure the signal\"", nil, func(c *cobra.Command, in *wire.IssueStep) {
		c.Flags().StringVar(&in.NextStep, "next", "", "the next step")
	}},
	{"next ISSUE STEP", "Set the next step", "\"Measure the signal\"", func(in *wire.IssueStep) *string { return &in.NextStep }, nil},
	{"try ISSUE ACTION", "Note something that was tried", "\"Moved the access point\" --showed \"-61 dBm, no stutter\"", func(in *wire.IssueStep) *string { return &in.What }, func(c *cobra.Command, in *wire.IssueStep) {
		c.Flags().StringVar(&in.Showed, "showed", "", "what it showed")
	}},
	{"wait ISSUE", "Put an issue on hold", "--on \"the line provider\" --until 2026-12-01", nil, func(c *cobra.Command, in *wire.IssueStep) {
		c.Flags().StringVar(&in.On, "on", "", "who or what it is waiting for")
		c.Flags().Var(&dayFlag{&in.Until}, "until", "a day, such as 2026-12-24")
	}},
	{"give ISSUE PERSON", "Give an issue to someone else", "maarit", func(in *wire.IssueStep) *string { return &in.To }, nil},
	{"remedy ISSUE REMEDY", "Record the remedy", "\"Reserved the address\" --cause \"The address changed after a power cut\"", func(in *wire.IssueStep) *string { return &in.Remedy }, func(c *cobra.Command, in *wire.IssueStep) {
		c.Flags().StringVar(&in.Cause, "cause", "", "what the cause was")
		c.Flags().StringVar(&in.Fault, "was", "", "id of the fault mode that it was, as kaiku suspect list shows it")
		c.Flags().String("was-at", "", "the component that was faulty, as kind/name")
	}},
	{"close ISSUE", "Close an issue, proven by a test or with a reason", "--why \"The customer sold the screen\"", nil, func(c *cobra.Command, in *wire.IssueStep) { whyFlag(c, &in.Why) }},
	{"join ISSUE OTHER", "Say that an issue is one more symptom of another", "\"No picture in the attic\"", nil, nil},
	{"reopen ISSUE", "Reopen an issue, with a reason", "--why \"It stutters again\"", nil, func(c *cobra.Command, in *wire.IssueStep) { whyFlag(c, &in.Why) }},
}

// dayFlag is a flag that takes a day.
type dayFlag struct{ at *time.Time }

func (d *dayFlag) String() string { return "" }
func (d *dayFlag) Type() string   { return "string" }
func (d *dayFlag) Set(v string) error {
	day, err := time.ParseInLocation(time.DateOnly, v, time.Local)
	if err != nil {
		return errors.New("this is not a day; write it as 2026-12-24")
	}
	*d.at = day.UTC()
	return nil
}

func (a *App) issueCommands() []*cobra.Command {
	show := &cobra.Command{Use: "show ISSUE", Short: "Show an issue with everything that was tried", ValidArgsFunction: a.completeRecords(issueKind), Example: "  kaiku issue show \"No picture\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			i, err := a.issueNamed(cmd.Context(), args, reading)
			if err != nil {
				return err
			}
			return a.issue(i)
		}}
	out := []*cobra.Command{show, a.issueOpen(), a.issueAnswer()}
	for _, s := range issueStepCommands {
		var in wire.IssueStep
		name, _, _ := strings.Cut(s.use, " ")
		c := &cobra.Command{Use: s.use, Short: s.short, ValidArgsFunction: a.completeRecords(issueKind), Example: "  kaiku issue " + name + " \"No picture in the lounge\" " + s.example}
		c.RunE = func(cmd *cobra.Command, args []string) error {
			if s.text != nil {
				*s.text(&in) = args[1]
			}
			if name == "join" {
				other, err := a.issueNamed(cmd.Context(), args[1:], writing)
				if err != nil {
					return err
				}
				in.With = other.Record.ID
			}
			return a.stepIssue(cmd, args[:1], in)
		}
		if s.flags != nil {
			s.flags(c, &in)
		}
		out = append(out, c)
	}
	return out
}

func (a *App) issueNamed(ctx context.Context, args []string, why purpose) (wire.Issue, error) {
	_, r, err := a.recordNamed(ctx, issueKind, args, why)
	if err != nil {
		return wire.Issue{}, err
	}
	return a.client().Issue(ctx, a.household, r.Key())
}

func (a *App) issue(i wire.Issue) error {
	r := i.Record
	urgency := ""
	if i.Urgency != "" {
		urgency = wording.Urgencies[i.Urgency] + ": " + strings.Join(i.Because, "; ")
	}
	if i.ProofOff != "" {
		urgency = "closed, but the test that proved it is now " + wording.Plain(i.ProofOff)
	}
	pairs := []string{"Symptom", r.Symptom, "State", wording.Plain(string(r.State)), "Urgency", urgency, "Owner", i.Owner, "Opened", when(r.OpenedAt) + " by " + i.OpenedBy,
		"Reported by", r.Reporter, "Since", when(r.Since), "Next step", r.NextStep, "Waiting for", r.WaitingOn, "Promise", r.Promise, "Promised by", when(r.PromisedUntil), "Same as", i.SameAs.Label}
	for _, other := range i.Also {
		pairs = append(pairs, "Also", other.Label)
	}
	if i.Test != nil {
		pairs = append(pairs, "Test", i.Test.Title+" of "+i.Test.About.Label+", now "+string(i.Test.Status))
	}
	for n, t := range r.Tries {
		text := fmt.Sprintf("%s, %s: %s", when(t.At), i.TriedBy[n], strings.TrimRight(t.What, ". "))
		if t.Showed != "" {
			text += ". It showed: " + strings.TrimRight(t.Showed, ". ")
		}
		pairs = append(pairs, fmt.Sprintf("Try %d", n+1), text+".")
	}
	return a.details(i, append(pairs, "Cause", r.Cause, "Fault", i.Fault, "Remedy", r.Remedy, "Remedied", when(r.RemediedAt), "Closed", when(r.ClosedAt), "Reason", r.ClosedWhy)...)
}

func (a *App) stepIssue(cmd *cobra.Command, args []string, in wire.IssueStep) error {
	i, err := a.issueNamed(cmd.Context(), args, writing)
	if err != nil {
		return err
	}
	if at := cmd.Flags().Lookup("was-at"); at != nil && at.Changed {
		if in.FaultAt, err = a.refIn(cmd.Context(), at.Value.String(), writing); err != nil {
			return err
		}
	}
	now, err := a.client().StepIssue(cmd.Context(), a.household, string(i.Record.ID), cmd.Name(), in)
	if err != nil {
		return err
	}
	line := fmt.Sprintf("The issue %q is now %s", now.Record.Symptom, wording.Plain(string(now.Record.State)))
	if now.Owner != "" {
		line += ", with " + now.Owner
	}
	if now.Record.NextStep != "" && now.Record.State != dossier.IssueClosed && now.Record.State != dossier.IssueRemedied {
		line += "; next step: " + strings.TrimRight(now.Record.NextStep, ". ")
	}
	return a.done(now, "%s.", line)
}

func (a *App) issueOpen() *cobra.Command {
	var in wire.NewIssue
	var test, path string
	var about []string
	c := &cobra.Command{Use: "open SYMPTOM", Short: "Open an issue, from a failed test or on its own", Example: "  kaiku issue open \"No picture in the lounge\" --test plays --path \"lounge films\"\n  kaiku issue open \"Stutters in the evening\" --subject device/\"kitchen screen\" --reporter Eila", RunE: func(cmd *cobra.Command, args []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		in.Symptom = args[0]
		if (test == "") != (path == "") {
			return wrongUse("--test and --path go together: the kind of the failed test, and what it is about")
		}
		if test != "" {
			t, err := a.testNamed(cmd.Context(), test, path, writing)
			if err != nil {
				return err
			}
			in.Test = t.ID
		}
		for _, s := range about {
			ref, err := findRef(d, s, writing)
			if err != nil {
				return err
			}
			in.Subjects = append(in.Subjects, ref)
		}
		i, err := a.client().OpenIssue(cmd.Context(), a.household, in)
		if err != nil {
			return err
		}
		return a.done(i, "Opened the issue %q (%s).", i.Record.Symptom, shortID(string(i.Record.ID)))
	}}
	c.Flags().StringVar(&test, "test", "", "kind of the failed test that it comes from, or of the test that will prove its remedy")
	c.Flags().StringVar(&path, "path", "", "the path that the test is about")
	c.Flags().StringArrayVar(&about, "subject", nil, "a record that it concerns, as kind/name; may be repeated")
	c.Flags().StringVar(&in.Reporter, "reporter", "", "who reported it")
	c.Flags().Var(&dayFlag{&in.Since}, "began", "the day since when it is so, such as 2026-12-24")
	c.Flags().StringVar(&in.Promise, "promise", "", "what was promised to the customer")
	c.Flags().Var(&dayFlag{&in.PromisedUntil}, "until", "a day, such as 2026-12-24")
	return c
}

func (a *App) handoverCommands() []*cobra.Command {
	show := &cobra.Command{Use: "show [HANDOVER]", Short: "Show the newest handover point by point, or another by its id", Example: "  kaiku handover show", ValidArgsFunction: a.completeRecords(handoverKind), RunE: func(cmd *cobra.Command, args []string) error {
		h, err := a.handoverNamed(cmd.Context(), args)
		if err != nil {
			return err
		}
		return a.handover(h)
	}}
	var why string
	back := a.handoverStep("return", "Return the handover with questions or a reason", "return --why \"The cellar has not been cleared\"", func([]string) []wire.HandoverStep { return []wire.HandoverStep{{Why: why}} })
	whyFlag(back, &why)
	one := func([]string) []wire.HandoverStep { return []wire.HandoverStep{{}} }
	return []*cobra.Command{show, a.handoverDraft(),
		a.handoverStep("offer", "Offer the handover to its receiver", "offer", one),
		a.handoverStep("confirm POINT...", "Read points back", "confirm p001 p002", func(args []string) []wire.HandoverStep {
			return []wire.HandoverStep{{Points: args}}
		}),
		a.handoverStep("ask POINT QUESTION", "Ask a question about a point", "ask p003 \"Who has the key?\"", func(args []string) []wire.HandoverStep {
			return []wire.HandoverStep{{Point: args[0], Question: args[1]}}
		}),
		a.handoverStep("answer POINT ANSWER", "Answer a question", "answer p003 \"The neighbour\"", func(args []string) []wire.HandoverStep {
			return []wire.HandoverStep{{Point: args[0], Answer: args[1]}}
		}),
		a.handoverStep("accept", "Accept the handover and become the custodian", "accept", one), back,
	}
}

func (a *App) handoverDraft() *cobra.Command {
	var to, note string
	var since uint64
	c := &cobra.Command{Use: "draft", Short: "Draft a handover", Example: "  kaiku handover draft --to maarit --note \"Bring a longer patch cable\"", RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		h, err := a.client().DraftHandover(cmd.Context(), code, wire.NewHandover{To: to, Note: note, Since: since})
		if err != nil {
			return err
		}
		return a.handover(h)
	}}
	c.Flags().StringVar(&to, "to", "", "log-in name of the receiver")
	c.Flags().Uint64Var(&since, "since-revision", 0, "tell only changes after this revision, where the home was never handed over (lead)")
	noteFlag(c, &note)
	_ = c.RegisterFlagCompletionFunc("to", a.completePeople)
	required(c, "to")
	return c
}

// handoverNamed is the handover with that id, or the newest.
func (a *App) handoverNamed(ctx context.Context, args []string) (wire.Handover, error) {
	d, err := a.home(ctx)
	if err != nil {
		return wire.Handover{}, err
	}
	if len(args) == 1 {
		r, err := find(d, handoverKind, args, reading)
		if err != nil {
			return wire.Handover{}, err
		}
		return a.client().Handover(ctx, a.household, r.Key())
	}
	h, ok := custody.Latest(d)
	if !ok {
		return wire.Handover{}, fmt.Errorf("there is no handover yet; draft one with kaiku handover draft --to NAME")
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
			a.say("Cannot be offered yet: %s %s", g.Sentence, g.Remedy)
		}
	}
	rows := [][]string{}
	for _, p := range h.Points {
		state := "to read back"
		switch {
		case p.Confirmed:
			state = "read back"
		case p.Question != "" && p.Answer != "":
			state = "Question: " + p.Question + " Answer: " + p.Answer
		case p.Question != "":
			state = "Question: " + p.Question
		}
		rows = append(rows, []string{p.ID, p.Sentence, state})
	}
	return a.show(h, []string{"Point", "What is handed over", "Read-back"}, rows)
}

func (a *App) handoverStep(use, short, example string, steps func([]string) []wire.HandoverStep) *cobra.Command {
	return &cobra.Command{Use: use, Short: short, Example: "  kaiku handover " + example, RunE: func(cmd *cobra.Command, args []string) error {
		h, err := a.handoverNamed(cmd.Context(), nil)
		if err != nil {
			return err
		}
		for _, in := range steps(args) {
			if h, err = a.client().StepHandover(cmd.Context(), a.household, string(h.Record.ID), cmd.Name(), in); err != nil {
				return err
			}
		}
		switch h.Record.State {
		case dossier.Accepted:
			return a.done(h, "Accepted. %s is now the custodian of %s.", h.To.Name, a.household)
		case dossier.Offered:
			return a.done(h, "Offered to %s; %d of %s read back. Until it is accepted, %s remains the custodian.", h.To.Name, len(h.Points)-h.Unread, wording.Count(len(h.Points), "point"), h.From.Name)
		}
		return a.done(h, "The handover from %s to %s is %s.", h.From.Name, h.To.Name, h.Record.State)
	}}
}
