package cli

import (
	"context"
	"fmt"
	"net/url"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) findingCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "What is wrong with the network and the paths", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
			a.attention = a.attention || f.Severity == network.Blocker
			rows = append(rows, []string{string(f.Severity), f.Code, f.Subjects[0].Label, f.Sentence + " " + f.Remedy})
		}
		return a.show(findings, []string{"Severity", "Code", "About", "What, and the remedy"}, rows)
	}}
	var every []cobra.Completion
	for _, c := range network.Codes {
		every = append(every, c.Name)
	}
	explain := &cobra.Command{Use: "explain CODE", Short: "What a finding says and asks for", Args: cobra.ExactArgs(1), RunE: a.findingExplain, ValidArgsFunction: cobra.FixedCompletions(every, cobra.ShellCompDirectiveNoFileComp)}
	codes := &cobra.Command{Use: "codes", Short: "All that can be found", Args: cobra.NoArgs, RunE: a.findingCodes}
	return group("finding", "What is wrong with the home", list.RunE, list, explain, codes)
}

func (a *App) testCommand() *cobra.Command {
	list := a.testListCommand("The test plan and where each test stands")
	plan := &cobra.Command{Use: "plan", Short: "The same in walking order: where, by whom or what, and how long", Args: cobra.NoArgs, RunE: a.testPlan}
	var within []string
	run := &cobra.Command{Use: "run [KIND]", Short: "Let this laptop carry out what a machine can", Args: cobra.MaximumNArgs(1),
		Long:              "Carries out the automatic tests from this machine, which must stand in the home's network, and records each attempt. Nothing outside --probe-within and the home's recorded segments is asked. Ctrl-C stops; what was recorded stays.",
		ValidArgsFunction: cobra.FixedCompletions([]string{"reach", "found", "opens", "complete"}, cobra.ShellCompDirectiveNoFileComp),
		RunE:              func(cmd *cobra.Command, args []string) error { return a.testRun(cmd.Context(), args, within) }}
	a.withinFlag(run, &within)
	show := &cobra.Command{Use: "show KIND ABOUT", Short: "One test, with what it stands on", Args: cobra.ExactArgs(2), RunE: a.testShow}
	var why, until string
	except := &cobra.Command{Use: "except KIND ABOUT", Short: "Set a required test aside, with a reason (lead technicians)", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if why == "" {
				return wrongUse("say why with --why; the customer may read it")
			}
			t, err := a.testNamed(cmd.Context(), args[0], args[1])
			if err != nil {
				return err
			}
			if t, err = a.client().ExceptTest(cmd.Context(), a.household, wire.NewException{Test: t.ID, Why: why, Until: dossier.Date(until)}); err == nil {
				a.say("%s of %s is set aside.", t.Kind, t.About.Label)
			}
			return err
		}}
	except.Flags().StringVar(&why, "why", "", "the reason, as the customer may read it")
	except.Flags().StringVar(&until, "until", "", "day on which it is looked at again, such as 2026-12-24")
	require := &cobra.Command{Use: "require KIND ABOUT", Short: "Require a test again that was set aside", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			t, err := a.testNamed(cmd.Context(), args[0], args[1])
			if err != nil {
				return err
			}
			if t, err = a.client().RequireTest(cmd.Context(), a.household, t.ID); err == nil {
				a.say("%s of %s is required again: %s.", t.Kind, t.About.Label, t.State)
			}
			return err
		}}
	return group("test", "The commissioning tests", list.RunE, list, plan, show, run, except, require)
}

func splitList(s string) []string {
	if s == "" {
		return nil
	}
	return strings.Split(s, ",")
}

func (a *App) plan(ctx context.Context) (wire.Plan, error) {
	code, err := a.code()
	if err != nil {
		return wire.Plan{}, err
	}
	return a.client().Plan(ctx, code)
}

func (a *App) testListCommand(short string) *cobra.Command {
	var all bool
	c := &cobra.Command{Use: "list", Short: short, Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error { return a.testList(cmd.Context(), all) }}
	c.Flags().BoolVar(&all, "all", false, "also the tests that are only advised and were not tried")
	return c
}

func (a *App) testList(ctx context.Context, all bool) error {
	p, err := a.plan(ctx)
	if err != nil {
		return err
	}
	rows := [][]string{}
	advised := 0
	for _, t := range p.Tests {
		if !t.Required && t.State == proving.Untried && !all {
			advised++
			continue
		}
		a.attention = a.attention || t.State == proving.Failed
		seen := t.Observed
		if t.State == proving.Stale {
			seen = sentences(t.Changes)
		}
		rows = append(rows, []string{t.Kind, t.About.Label, string(t.State), when(t.At), t.ByPerson, seen})
	}
	if err := a.show(p, []string{"Test", "About", "Standing", "When", "By", "Seen"}, rows); err != nil || a.format != "table" || len(rows) == 0 {
		return err
	}
	a.say("\n%s", coverage(p.Coverage))
	if advised > 0 {
		a.say("%s more only advised; --all lists them.", wording.Count(advised, "test"))
	}
	return nil
}

func sentences(changes []wire.FactChange) string {
	out := make([]string, len(changes))
	for i, c := range changes {
		out[i] = c.Sentence
	}
	return strings.Join(out, "; ")
}

func coverage(c proving.Coverage) string {
	s := fmt.Sprintf("%d of %d required tests proven", c.Proven, c.Required)
	for _, n := range []struct {
		n    int
		word string
	}{{c.Failed, "failed"}, {c.Stale, "stale"}, {c.Untried, "untried"}, {c.Marginal, "marginal"}, {c.Excepted, "excepted"}} {
		if n.n > 0 {
			s += fmt.Sprintf(", %d %s", n.n, n.word)
		}
	}
	return s + "."
}

func (a *App) testPlan(cmd *cobra.Command, _ []string) error {
	p, err := a.plan(cmd.Context())
	if err != nil {
		return err
	}
	rows := [][]string{}
	minutes := 0
	for _, t := range p.Tests {
		if t.Required {
			minutes += t.Minutes
		}
		asked := "advised"
		if t.Required {
			asked = "required"
		}
		rows = append(rows, []string{t.Kind, t.About.Label, t.Room.Label, asked, wording.Plain(string(t.By)), fmt.Sprint(t.Minutes), string(t.State)})
	}
	if err := a.show(p, []string{"Test", "About", "Room", "Asked", "By", "Min", "Standing"}, rows); err != nil || a.format != "table" || len(rows) == 0 {
		return err
	}
	a.say("\nAbout %d minutes for what is required.", minutes)
	return nil
}

// testNamed finds a test by its kind and the name of what it is about: a path, a folder, a set
// of paths, or a path that uses the folder or set.
func (a *App) testNamed(ctx context.Context, kind, about string) (wire.Test, error) {
	p, err := a.plan(ctx)
	if err != nil {
		return wire.Test{}, err
	}
	fits := []func(wire.Test) bool{
		func(t wire.Test) bool { return strings.EqualFold(t.About.Label, about) },
		func(t wire.Test) bool { return strings.EqualFold(t.Path.Label, about) },
		func(t wire.Test) bool {
			return strings.HasSuffix(strings.ToLower(t.About.Label), " "+strings.ToLower(about))
		},
		func(t wire.Test) bool {
			return strings.HasPrefix(strings.ToLower(t.About.Label), strings.ToLower(about))
		},
	}
	var kinds []string
	for _, fit := range fits {
		var found []wire.Test
		for _, t := range p.Tests {
			if !fit(t) {
				continue
			}
			if t.Kind == kind {
				found = append(found, t)
			} else if !slices.Contains(kinds, t.Kind) {
				kinds = append(kinds, t.Kind)
			}
		}
		if len(found) == 1 {
			return found[0], nil
		}
		if len(found) > 1 {
			return wire.Test{}, wrongUse("%q fits more than one test of kind %s; write the whole name", about, kind)
		}
	}
	if len(kinds) == 0 {
		return wire.Test{}, wrongUse("no test is about %q; kaiku test list --all shows the plan", about)
	}
	return wire.Test{}, wrongUse("%q has no test %q; it has %s", about, kind, strings.Join(kinds, ", "))
}

func (a *App) testShow(cmd *cobra.Command, args []string) error {
	t, err := a.testNamed(cmd.Context(), args[0], args[1])
	if err != nil {
		return err
	}
	return a.details(t, "Test", t.Title, "About", t.About.Label, "Path", t.Path.Label, "Device", t.Device.Label, "Room", t.Room.Label, "Expected", t.Expected, "Do", t.Do,
		"Standing", string(t.State), "When", when(t.At), "By", t.ByPerson, "Seen", t.Observed, "Set aside", exceptionText(t.Exception), "Changed since", sentences(t.Changes), "Attempts", fmt.Sprint(t.Attempts))
}

func exceptionText(e *wire.Exception) string {
	if e == nil {
		return ""
	}
	text := "by " + e.By + ": " + e.Record.Why
	if e.Record.Until != "" {
		text += ", looked at again on " + string(e.Record.Until)
	}
	return text
}

func (a *App) testRun(ctx context.Context, args, within []string) error {
	guard, err := guard(within)
	if err != nil {
		return err
	}
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	rows, made := [][]string{}, []wire.AttemptMade{}
	for _, t := range proving.Plan(d) {
		if t.By != proving.Automatic || len(args) == 1 && args[0] != t.Kind.Name {
			continue
		}
		about := d.FullLabel(t.Subjects[0])
		fmt.Fprintf(a.Err, "%s of %s ...\n", t.Kind.Name, about)
		result, err := probe.Prober{Guard: guard}.Probe(ctx, d, t.ID())
		if err != nil {
			return err
		}
		one, err := a.client().RecordAttempt(ctx, a.household, wire.MachineAttempt(result, wording.Result(result)))
		if err != nil {
			return err
		}
		a.attention = a.attention || one.Attempt.Outcome != dossier.Pass
		made = append(made, one)
		rows = append(rows, []string{t.Kind.Name, about, string(one.Attempt.Outcome), one.Attempt.Note})
	}
	if len(made) == 0 {
		return wrongUse("no test for a machine in the plan; kaiku test list shows it")
	}
	if err := a.show(made, []string{"Test", "About", "Outcome", "Seen"}, rows); err != nil {
		return err
	}
	a.sayClosed(made...)
	return nil
}

func (a *App) sayClosed(made ...wire.AttemptMade) {
	for _, m := range made {
		for _, i := range m.Closed {
			if a.format == "table" {
				a.say("Issue closed, proven by this pass: %s", i.Label)
			}
		}
	}
}

func (a *App) attemptAdd() *cobra.Command {
	var in wire.NewAttempt
	var outcome string
	c := &cobra.Command{Use: "add KIND ABOUT", Short: "Record how a test went on the screen", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		t, err := a.testNamed(cmd.Context(), args[0], args[1])
		if err != nil {
			return err
		}
		if outcome == "" {
			return wrongUse("say how it went: --outcome pass, marginal, fail or impossible")
		}
		in.Test, in.Outcome = t.ID, dossier.Outcome(outcome)
		made, err := a.client().RecordAttempt(cmd.Context(), a.household, in)
		if err != nil {
			return err
		}
		a.attention = made.Attempt.Outcome == dossier.Fail
		if a.format != "table" {
			return a.show(made, []string{"Test", "Standing"}, [][]string{{t.Kind, string(made.Test.State)}})
		}
		a.say("Recorded: %s of %s is %s.", t.Kind, t.About.Label, made.Test.State)
		a.sayClosed(made)
		return nil
	}}
	c.Flags().StringVar(&outcome, "outcome", "", "pass, marginal, fail or impossible")
	c.Flags().StringVar(&in.Note, "note", "", "what was seen")
	c.Flags().StringVar(&in.Conditions, "conditions", "", "under which conditions, such as evening, door closed")
	_ = c.RegisterFlagCompletionFunc("outcome", cobra.FixedCompletions(dossier.Outcome("").Values(), cobra.ShellCompDirectiveNoFileComp))
	return c
}

func (a *App) standingCommand() *cobra.Command {
	list := a.testListCommand("Where each test stands")
	why := &cobra.Command{Use: "why KIND ABOUT", Short: "Why a test stands where it does", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		t, err := a.testNamed(cmd.Context(), args[0], args[1])
		if err != nil {
			return err
		}
		if a.format != "table" {
			return a.show(t, []string{"Standing", "Why"}, [][]string{{string(t.State), sentences(t.Changes)}})
		}
		a.say("%s of %s is %s.", t.Kind, t.About.Label, t.State)
		switch {
		case t.State == proving.Stale:
			a.say("It was proven on %s by %s. Since then:", when(t.At), t.ByPerson)
			for _, c := range t.Changes {
				a.say("  %s.", c.Sentence)
			}
		case t.Attempt != "":
			a.say("The newest attempt whose facts still hold was made on %s by %s: %s.", when(t.At), t.ByPerson, orDash(t.Observed))
		default:
			a.say("No attempt was made on the facts as they are now (%d in all).", t.Attempts)
		}
		return nil
	}}
	return group("standing", "Where each test stands, and why", list.RunE, list, why)
}

func orDash(s string) string {
	if s == "" {
		return "-"
	}
	return s
}

func (a *App) prerequisiteCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "What must be true before the paths can work, in the order of work", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		all, err := a.client().Needed(cmd.Context(), code)
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, p := range all {
			state := ""
			switch {
			case p.DoneBy != "":
				state = "done by " + p.DoneBy
			case p.Met:
				state = "proven by " + strings.SplitN(p.ProvedBy, ":", 2)[0]
			case p.Refused > 0:
				state = fmt.Sprintf("refused %d times", p.Refused)
			}
			rows = append(rows, []string{string(p.Side), p.What, p.Subject.Kind + "/" + p.Subject.Label, p.Title, state})
		}
		return a.show(all, []string{"Side", "What", "At", "What must be true", "Met"}, rows)
	}}
	verb := func(name, short, done string) *cobra.Command {
		var at, note string
		c := &cobra.Command{Use: name + " WHAT", Short: short, Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			d, err := a.home(cmd.Context())
			if err != nil {
				return err
			}
			ref, err := a.needAt(d, args[0], at)
			if err != nil {
				return err
			}
			if err := a.client().Tick(cmd.Context(), a.household, name, wire.Tick{What: args[0], Subject: ref, Note: note}); err != nil {
				return err
			}
			a.say("%s: %s at %s.", done, args[0], d.Label(ref))
			return nil
		}}
		c.Flags().StringVar(&at, "at", "", "where, as kind/name; needed only when it is asked at several places")
		c.Flags().StringVar(&note, "why", "", "what was done, or why it was refused")
		return c
	}
	return group("prerequisite", "What must be true before paths can work", list.RunE, list,
		verb("tick", "Say it is done", "Done"), verb("refuse", "Say it was refused", "Noted as refused"), verb("untick", "Take a tick back", "Taken back"))
}

// needAt finds the place of a prerequisite: the one said, or the only one there is.
func (a *App) needAt(d *dossier.Dossier, what, at string) (dossier.Ref, error) {
	if at != "" {
		return findRef(d, at)
	}
	var places []dossier.Ref
	var names []string
	for _, p := range proving.Prerequisites(d) {
		if p.Need.What == what {
			places = append(places, p.Subject)
			names = append(names, p.Subject.Kind+"/"+d.Label(p.Subject))
		}
	}
	switch len(places) {
	case 1:
		return places[0], nil
	case 0:
		return dossier.Ref{}, wrongUse("no path needs %q; kaiku prerequisite list shows what they need", what)
	}
	return dossier.Ref{}, wrongUse("%s is needed at %s; say --at", what, strings.Join(names, " and "))
}

func (a *App) journalCommand() *cobra.Command {
	var record, by, since, word string
	list := &cobra.Command{Use: "list", Short: "List the journal, newest first", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return a.journal(cmd.Context(), record, by, since, word)
	}}
	list.Flags().StringVar(&record, "record", "", "a record, as kind/name")
	list.Flags().StringVar(&by, "by", "", "a person's log-in name")
	list.Flags().StringVar(&since, "since", "", "a day, such as 2026-11-20")
	list.Flags().StringVar(&word, "word", "", "text in a value or in the reason")
	undo := &cobra.Command{Use: "undo ENTRY", Short: "Write the reverse of one entry, such as 12.3", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		var revision uint64
		var n int
		if _, err := fmt.Sscanf(args[0], "%d.%d", &revision, &n); err != nil || revision == 0 || n < 1 {
			return wrongUse("%q is no entry; write it as the journal does, such as 12.3", args[0])
		}
		done, err := a.client().Undo(cmd.Context(), code, revision, n)
		if err == nil {
			a.say("Undone: %s is as it was before entry %s.", done.Label, args[0])
		}
		return err
	}}
	return group("journal", "Every change to the home", list.RunE, list, undo)
}

func (a *App) journal(ctx context.Context, record, by, since, word string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	q := url.Values{"limit": {"200"}}
	if word != "" {
		q.Set("word", word)
	}
	if record != "" {
		d, err := a.home(ctx)
		if err != nil {
			return err
		}
		ref, err := findRef(d, record)
		if err != nil {
			return err
		}
		q.Set("record", ref.ID)
	}
	if by != "" {
		p, err := a.personNamed(ctx, by)
		if err != nil {
			return err
		}
		q.Set("by", string(p.ID))
	}
	if since != "" {
		day, err := time.ParseInLocation(time.DateOnly, since, time.Local)
		if err != nil {
			return wrongUse("--since %s is not a day; write it as 2026-11-20", since)
		}
		q.Set("since", day.UTC().Format(time.RFC3339))
	}
	entries, err := a.client().Journal(ctx, code, q)
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, e := range entries {
		what := strings.Join(e.Members, "; ")
		if e.Why != "" {
			what = "because " + e.Why + ". " + what
		}
		if !e.DoneAt.IsZero() {
			what = "done " + when(e.DoneAt) + ". " + what
		}
		rows = append(rows, []string{fmt.Sprintf("%d.%d", e.Revision, e.N), when(e.At), e.ByName, string(e.Act), e.Subject.Kind + " " + e.Label, clip(what, 160)})
	}
	return a.show(entries, []string{"Entry", "When", "By", "Act", "Record", "What"}, rows)
}

func clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}
