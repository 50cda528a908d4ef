package cli

import (
	"context"
	"fmt"
	"os/signal"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) testCommand() *cobra.Command {
	list := a.testListCommand("List the tests in the plan with their status", "  kaiku test list\n  kaiku test list --all --check")
	plan := &cobra.Command{Use: "plan", Short: "Show the test plan in walking order, with rooms and minutes", Example: "  kaiku test plan", RunE: a.testPlan}
	show := &cobra.Command{Use: "show KIND ABOUT", Short: "Show one test", Example: "  kaiku test show plays \"kitchen films\"", ValidArgsFunction: a.completeTests, RunE: a.testShow}
	return group("test", "Commissioning tests", list.RunE, list, plan, a.testSteps(), show, a.testRunCommand(), a.testNightly(), a.testWatch(), a.testWaive(), a.testRequire())
}

// testSteps lists the fewest acts that prove everything.
func (a *App) testSteps() *cobra.Command {
	return &cobra.Command{Use: "steps", Short: "Show the fewest steps that prove everything that is required", Example: "  kaiku test steps",
		Long: "Shows what to do, in order, so that every required test is proven: one restart, one copy or one round at a screen proves several tests. Where one path of a device is enough for its others, only that one is asked for.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			p, err := a.plan(cmd.Context())
			if err != nil {
				return err
			}
			rows := [][]string{}
			for n, s := range p.Reproof {
				rows = append(rows, []string{fmt.Sprint(n + 1), s.Sentence, fmt.Sprint(len(s.Tests) + len(s.Shows)), fmt.Sprint(s.Minutes)})
			}
			if err := a.show(p.Reproof, []string{"Step", "What to do", "Tests", "Minutes"}, rows); err != nil || a.format != "table" || len(rows) == 0 {
				return err
			}
			a.say("\nAbout %s in all.", wording.Count(p.Minutes, "minute"))
			return nil
		}}
}

func (a *App) testRunCommand() *cobra.Command {
	var within []string
	var shares shareLogin
	var responder, tokenFile string
	c := &cobra.Command{Use: "run [KIND]", Short: "Run the tests that a machine can do, from this machine",
		Long:              "Runs the automatic tests from this machine, which must be on the home's network, and records each attempt. They run outward from the source, and a test is left out if one that it needs has failed: the first that fails says where to look. stays-found goes on for half an hour and long-play for an hour; they are run only if they are named. With --responder, the firm's responder tries from outside whether the home can be reached there. Nothing else outside --probe-within and the home's recorded segments is contacted. Ctrl-C stops; what has been recorded stays. The exit code is 3 if a test did not pass.",
		Example:           "  kaiku test run --probe-within 10.20.4.0/24\n  kaiku test run reach --dry-run --probe-within 10.20.4.0/24",
		ValidArgsFunction: cobra.FixedCompletions(proving.AutomaticKinds(), cobra.ShellCompDirectiveNoFileComp)}
	var dry bool
	c.RunE = func(cmd *cobra.Command, args []string) error {
		far := probe.FirmResponder{URL: responder}
		if responder != "" && !dry {
			token, err := a.secret(tokenFile, "Token of the responder: ", "--token-file")
			if err != nil {
				return err
			}
			far.Token = token
		}
		return a.testRun(cmd.Context(), args, within, shares, far, dry)
	}
	a.responderFlag(c, &responder)
	a.tokenFileFlag(c, &tokenFile)
	a.withinFlag(c, &within)
	a.shareFlags(c, &shares)
	dryFlag(c, &dry)
	return c
}

func (a *App) testWaive() *cobra.Command {
	var why, until string
	c := &cobra.Command{Use: "waive KIND ABOUT", Short: "Waive a required test, with a reason (lead)", Long: "Waives a required test until it is required again. The reason may be shown to the customer. With --until, the waiver is listed for review from that day on; it does not end by itself.", Example: "  kaiku test waive wakes \"cabin films\" --why \"The server stays awake\" --until 2026-12-24", ValidArgsFunction: a.completeTests,
		RunE: func(cmd *cobra.Command, args []string) error {
			t, err := a.testNamed(cmd.Context(), args[0], args[1], writing)
			if err != nil {
				return err
			}
			if t, err = a.client().WaiveTest(cmd.Context(), a.household, wire.NewWaiver{Test: t.ID, Why: why, Until: dossier.Date(until)}); err != nil {
				return err
			}
			return a.done(t, "Waived: %s of %s.", t.Kind, t.About.Label)
		}}
	whyFlag(c, &why)
	untilFlag(c, &until)
	required(c, "why")
	return c
}

func (a *App) testRequire() *cobra.Command {
	return &cobra.Command{Use: "require KIND ABOUT", Short: "End the waiver of a test", Example: "  kaiku test require wakes \"cabin films\"", ValidArgsFunction: a.completeTests,
		RunE: func(cmd *cobra.Command, args []string) error {
			t, err := a.testNamed(cmd.Context(), args[0], args[1], writing)
			if err != nil {
				return err
			}
			if t, err = a.client().RequireTest(cmd.Context(), a.household, t.ID); err != nil {
				return err
			}
			return a.done(t, "%s of %s is required again; its status is %s.", t.Kind, t.About.Label, t.Status)
		}}
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

func (a *App) testListCommand(short, example string) *cobra.Command {
	var all bool
	c := &cobra.Command{Use: "list", Short: short, Example: example, RunE: func(cmd *cobra.Command, _ []string) error { return a.testList(cmd.Context(), all) }}
	allFlag(c, &all)
	a.checkFlag(c, "a required test is not proven")
	return c
}

func (a *App) testList(ctx context.Context, all bool) error {
	p, err := a.plan(ctx)
	if err != nil {
		return err
	}
	rows := [][]string{}
	advised, cut := 0, false
	for _, t := range p.Tests {
		a.found(t.Required && t.Status != proving.Proven && t.Status != proving.Waived)
		if !t.Required && t.Status == proving.Untried && !all {
			advised++
			continue
		}
		seen := t.Observed
		if why := against(t); len(why) > 0 {
			cut = cut || len(why) > mostWhy
			seen = shortly(why)
		}
		rows = append(rows, []string{t.Kind, t.About.Label, string(t.Status), when(t.At), t.ByPerson, seen})
	}
	if err := a.show(p, []string{"Test", "About", "Status", "When", "By", "Details"}, rows); err != nil || a.format != "table" || len(rows) == 0 {
		return err
	}
	a.say("\n%s", coverage(p.Coverage))
	if advised > 0 {
		a.say("%s not tried and only advised; --all lists them.", wording.Count(advised, "more test"))
	}
	if cut {
		a.say("kaiku status why TEST PATH lists all that changed.")
	}
	return nil
}

// mostWhy is how many reasons a line of the list gives.
const mostWhy = 2

func shortly(why []string) string {
	if len(why) <= mostWhy {
		return strings.Join(why, "; ")
	}
	return fmt.Sprintf("%s; and %d more", strings.Join(why[:mostWhy], "; "), len(why)-mostWhy)
}

// against says why a test that was proven is not proof now; nothing for any other.
func against(t wire.Test) []string {
	var out []string
	for _, c := range t.Changes {
		out = append(out, c.Sentence)
	}
	for _, one := range t.Doubts {
		out = append(out, strings.TrimSuffix(one.Sentence, "."))
	}
	return out
}

// byWhom says who changed something and when, in brackets after a blank.
func byWhom(by string, at time.Time) string {
	switch {
	case by == "" && at.IsZero():
		return ""
	case by == "":
		return " (" + when(at) + ")"
	}
	return " (" + by + ", " + when(at) + ")"
}

func coverage(c proving.Coverage) string {
	s := fmt.Sprintf("%d of %d required tests proven", c.Proven, c.Required)
	for _, n := range []struct {
		n    int
		word string
	}{{c.NotServed, "for wishes without a path"}, {c.Failed, "failed"}, {c.InDoubt, "in doubt"}, {c.Stale, "stale"}, {c.Untried, "untried"}, {c.Marginal, "marginal"}, {c.Waived, "waived"}} {
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
	for _, t := range p.Tests {
		asked := "advised"
		if t.Required {
			asked = "required"
		}
		rows = append(rows, []string{t.Kind, t.About.Label, t.Room.Label, asked, wording.Plain(string(t.By)), fmt.Sprint(t.Minutes), string(t.Status)})
	}
	if err := a.show(p, []string{"Test", "About", "Room", "Needed", "Judged", "Min", "Status"}, rows); err != nil || a.format != "table" || len(rows) == 0 {
		return err
	}
	if p.Minutes > 0 {
		a.say("\nAbout %s to prove what is required and not proven yet, in %s (kaiku test steps).", wording.Count(p.Minutes, "minute"), wording.Count(len(p.Reproof), "step"))
	}
	return nil
}

// testNamed finds a test by its kind and the name of what it is about: a path, a folder, a busy
// set, or a path that uses the folder or set. For reading, the beginning of the name will do.
func (a *App) testNamed(ctx context.Context, kind, about string, why purpose) (wire.Test, error) {
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
	}
	if why == reading {
		fits = append(fits, func(t wire.Test) bool {
			return strings.HasPrefix(strings.ToLower(t.About.Label), strings.ToLower(about))
		})
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
			return wire.Test{}, wrongUse("%q names more than one test of the kind %s; give the whole name", about, kind)
		}
	}
	if len(kinds) == 0 {
		return wire.Test{}, fmt.Errorf("there is no test about %q; kaiku test list --all shows the plan", about)
	}
	return wire.Test{}, fmt.Errorf("%[2]q has no test called %[1]q; its tests are %[3]s", kind, about, strings.Join(kinds, ", "))
}

// completeTests completes the kind of a test, then what such tests are about.
func (a *App) completeTests(cmd *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	p, err := a.plan(cmd.Context())
	if err != nil || len(args) > 1 {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	var out []cobra.Completion
	for _, t := range p.Tests {
		word := t.Kind
		if len(args) == 1 {
			if word = t.About.Label; t.Kind != args[0] {
				continue
			}
		}
		if strings.HasPrefix(strings.ToLower(word), strings.ToLower(typed)) && !slices.Contains(out, word) {
			out = append(out, word)
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

func (a *App) testShow(cmd *cobra.Command, args []string) error {
	t, err := a.testNamed(cmd.Context(), args[0], args[1], reading)
	if err != nil {
		return err
	}
	return a.details(t, "Test", t.Title, "About", t.About.Label, "Path", t.Path.Label, "Device", t.Device.Label, "Room", t.Room.Label, "Why", t.Why, "Expected", t.Expected, "What to do", t.Do, "Not done by a machine", t.Undone,
		"Status", string(t.Status), "When", when(t.At), "By", t.ByPerson, "Details", t.Observed, "Where to look", t.Look, "Waived", waiverText(t.Waiver), "Changed since", strings.Join(against(t), "; "), "Attempts", fmt.Sprint(t.Attempts))
}

func waiverText(w *wire.Waiver) string {
	if w == nil {
		return ""
	}
	text := "by " + w.By + ": " + w.Record.Why
	if w.Record.Until != "" {
		text += "; to be reviewed on " + string(w.Record.Until)
	}
	return text
}

func (a *App) testRun(ctx context.Context, args, within []string, shares shareLogin, far probe.FirmResponder, dry bool) error {
	guard, err := guard(within)
	if err != nil {
		return err
	}
	var wanted func(proving.Test) bool
	if len(args) == 1 {
		if !slices.Contains(proving.AutomaticKinds(), args[0]) {
			return wrongUse("%q is not a test that a machine can run; choose one of %s", args[0], strings.Join(proving.AutomaticKinds(), ", "))
		}
		wanted = func(t proving.Test) bool { return t.Kind.Name == args[0] }
	}
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	plan := proving.NewPlan(d.Index())
	tests := plan.ForMachine(wanted)
	rows := [][]string{}
	for _, t := range tests {
		rows = append(rows, []string{t.Kind.Name, d.FullLabel(t.Subjects[0])})
	}
	switch {
	case len(tests) == 0:
		return fmt.Errorf("the plan has no such test for a machine; kaiku test list shows the plan")
	case dry:
		return a.show(rows, []string{"Would run", "About"}, rows)
	}
	login, err := a.shares(shares)
	if err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	r := testRun{App: a, d: d, prober: probe.Prober{Guard: guard, Shares: login, Responder: far}, passed: proving.Run{}, rows: [][]string{}, made: []wire.AttemptMade{}}
	if lasts := tests[0].Kind.Lasts(); lasts > 0 {
		a.note("Running %s of %s at once, for %s; Ctrl-C stops ...", args[0], wording.Count(len(tests), "path"), wording.Count(int(lasts.Minutes()), "minute"))
		err = r.beside(ctx, plan.Beside(tests))
	} else {
		err = r.oneByOne(ctx, tests)
	}
	if err != nil {
		return err
	}
	if err := a.show(r.made, []string{"Test", "About", "Outcome", "Details"}, r.rows); err != nil {
		return err
	}
	a.sayClosed(r.made...)
	return nil
}

// testRun is a run of tests from this machine.
type testRun struct {
	*App
	d      *dossier.Dossier
	prober probe.Prober
	passed proving.Run
	rows   [][]string
	made   []wire.AttemptMade
}

// oneByOne carries out tests outward from the source; one is left out if something that it needs has failed.
func (r *testRun) oneByOne(ctx context.Context, tests []proving.Test) error {
	for _, t := range tests {
		about := r.d.FullLabel(t.Subjects[0])
		if before := r.passed.LeaveOut(t); before != "" {
			kind, _, _ := strings.Cut(before, ":")
			r.rows = append(r.rows, []string{t.Kind.Name, about, "left out", kind + " has to pass first"})
			continue
		}
		r.note("Running %s of %s ...", t.Kind.Name, about)
		result, err := r.prober.Probe(ctx, r.d, t)
		if err == nil {
			err = r.record(ctx, t, result)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// beside carries out tests that go on for long, each row of them beside the others.
func (r *testRun) beside(ctx context.Context, rows [][]proving.Test) error {
	results, errs := make([][]proving.Result, len(rows)), make([]error, len(rows))
	var all sync.WaitGroup
	for n, row := range rows {
		results[n] = make([]proving.Result, len(row))
		all.Go(func() {
			for i, t := range row {
				if results[n][i], errs[n] = r.prober.Probe(ctx, r.d, t); errs[n] != nil {
					return
				}
			}
		})
	}
	all.Wait()
	for n, row := range rows {
		for i, t := range row {
			if errs[n] != nil {
				return errs[n]
			}
			if err := r.record(ctx, t, results[n][i]); err != nil {
				return err
			}
		}
	}
	return nil
}

func (r *testRun) record(ctx context.Context, t proving.Test, result proving.Result) error {
	attempt := wire.MachineAttempt(result, wording.Result(result))
	attempt.AsOf = r.d.Revision
	one, err := r.client().RecordAttempt(ctx, r.household, attempt)
	if err != nil {
		return err
	}
	r.passed[t.ID()] = result.Outcome
	r.attention = r.attention || one.Attempt.Outcome != dossier.Pass
	r.made = append(r.made, one)
	r.rows = append(r.rows, []string{t.Kind.Name, r.d.FullLabel(t.Subjects[0]), string(one.Attempt.Outcome), one.Attempt.Note})
	return nil
}

func (a *App) sayClosed(made ...wire.AttemptMade) {
	for _, m := range made {
		for _, i := range m.Closed {
			if a.format == "table" {
				a.say("Issue closed, because this test has passed: %s", i.Label)
			}
		}
	}
}

func (a *App) attemptAdd() *cobra.Command {
	var in wire.NewAttempt
	var outcome string
	c := &cobra.Command{Use: "add KIND ABOUT", Short: "Record the result of a test that a person did", Example: "  kaiku attempt add plays \"kitchen films\" --outcome pass\n  kaiku attempt add seeks \"kitchen films\" --outcome fail --note \"Stops after a jump\"",
		Long: "Records the result of a test. The exit code is 3 if the test failed.", ValidArgsFunction: a.completeTests,
		RunE: func(cmd *cobra.Command, args []string) error {
			t, err := a.testNamed(cmd.Context(), args[0], args[1], writing)
			if err != nil {
				return err
			}
			in.Test, in.Outcome = t.ID, dossier.Outcome(outcome)
			made, err := a.client().RecordAttempt(cmd.Context(), a.household, in)
			if err != nil {
				return err
			}
			a.attention = made.Attempt.Outcome == dossier.Fail
			if a.format == "csv" {
				return a.show(made, []string{"Test", "Status"}, [][]string{{t.Kind, string(made.Test.Status)}})
			}
			if err := a.done(made, "Recorded. The status of %s of %s is now %s.", t.Kind, t.About.Label, wording.Plain(string(made.Test.Status))); err != nil {
				return err
			}
			a.sayClosed(made)
			return nil
		}}
	wordFlag(c.Flags(), &outcome, "outcome", "", dossier.Outcome("").Values(), "how it went")
	noteFlag(c, &in.Note)
	conditionsFlag(c, &in.Conditions)
	sampleFlag(c, &in.Sample)
	measuredFlag(c, &in.Values)
	completeWords(c)
	required(c, "outcome")
	return c
}

// conditionsFlag adds the flag for what may matter for a test or a reading.
func conditionsFlag(c *cobra.Command, conditions *string) {
	c.Flags().StringVar(conditions, "conditions", "", "circumstances that may matter, such as \"evening, door closed\"")
}

func (a *App) statusCommand() *cobra.Command {
	list := a.testListCommand("List the status of every test", "  kaiku status list")
	why := &cobra.Command{Use: "why KIND ABOUT", Short: "Explain the status of a test", Example: "  kaiku status why plays \"kitchen films\"", ValidArgsFunction: a.completeTests, RunE: func(cmd *cobra.Command, args []string) error {
		t, err := a.testNamed(cmd.Context(), args[0], args[1], reading)
		if err != nil {
			return err
		}
		if a.format != "table" {
			return a.show(t, []string{"Status", "Why"}, [][]string{{string(t.Status), strings.Join(against(t), "; ")}})
		}
		a.say("The status of %s of %s is %s.", t.Kind, t.About.Label, wording.Plain(string(t.Status)))
		switch {
		case t.Status == proving.Waived:
			a.say("Waived %s.", waiverText(t.Waiver))
		case t.Status == proving.Stale:
			a.say("It was proven on %s by %s. Since then:", when(t.At), t.ByPerson)
			for _, c := range t.Changes {
				a.say("  %s%s.", c.Sentence, byWhom(c.By, c.When))
			}
		case t.Status == proving.InDoubt:
			a.say("It was proven on %s by %s. What speaks against it:", when(t.At), t.ByPerson)
			for _, one := range t.Doubts {
				a.say("  %s%s", one.Sentence, byWhom(one.By, one.When))
			}
		case t.Attempt != "":
			a.say("The latest attempt under the present conditions was made on %s by %s: %s.", when(t.At), t.ByPerson, orDash(t.Observed))
			if t.Look != "" {
				a.say("%s", t.Look)
			}
		case t.Attempts > 0:
			a.say("None of its %s was made under the present conditions.", wording.Count(t.Attempts, "attempt"))
		default:
			a.say("It has not been tried yet.")
		}
		return nil
	}}
	wishes := &cobra.Command{Use: "wishes", Short: "Show how far each wish is fulfilled, and where", Example: "  kaiku status wishes", RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		o, err := a.client().Overview(cmd.Context(), code)
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, w := range o.Wishes {
			for _, p := range w.Places {
				a.found(w.Needed && p.Status != proving.WishFulfilled)
				rows = append(rows, []string{string(p.Status), p.Sentence, map[bool]string{true: "needed", false: "welcome"}[w.Needed]})
			}
		}
		return a.show(o.Wishes, []string{"Status", "Wish", "Importance"}, rows)
	}}
	a.checkFlag(wishes, "a needed wish is not proven")
	changes := &cobra.Command{Use: "changes", Short: "Changes that are not finished: follow-ups, and what to check after a reset", Args: cobra.NoArgs, Example: "  kaiku status changes\n  kaiku status changes --check", RunE: func(cmd *cobra.Command, _ []string) error {
		p, err := a.plan(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, o := range p.Unfinished {
			for _, item := range o.Items {
				a.found(true)
				rows = append(rows, []string{o.Device.Label, o.Change.Label, item})
			}
		}
		return a.show(p.Unfinished, []string{"Device", "Change", "To do"}, rows)
	}}
	a.checkFlag(changes, "a change is not finished")
	return group("status", "The status of every test and wish, and why", list.RunE, list, why, wishes, changes, a.statusHistory())
}

func orDash(s string) string {
	if s == "" {
		return "no details noted"
	}
	return strings.TrimRight(s, ".")
}

func (a *App) prerequisiteCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List what must be in place for the paths to work, in the order of work", Example: "  kaiku prerequisite list", RunE: func(cmd *cobra.Command, _ []string) error {
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
			state := "to do"
			switch {
			case p.DoneBy != "" && !p.Reset:
				state = "done by " + p.DoneBy
			case p.ProvedBy != "":
				state = "proven by " + strings.SplitN(p.ProvedBy, ":", 2)[0]
			case p.Recorded:
				state = "as it is recorded"
			case p.Met:
				state = "all steps set"
			case p.Reset:
				state = "ticked before the reset"
			case p.Refused > 0:
				state = "refused " + wording.Count(p.Refused, "time")
			}
			rows = append(rows, []string{string(p.Side), p.What, p.Subject.Kind + "/" + p.Subject.Label, p.Title, state})
		}
		return a.show(all, []string{"Side", "Prerequisite", "Where", "What must be in place", "State"}, rows)
	}}
	verb := func(name, short, done, example string) *cobra.Command {
		var where, note string
		c := &cobra.Command{Use: name + " PREREQUISITE", Short: short, Example: "  kaiku prerequisite " + name + " " + example, ValidArgsFunction: a.completeNeeds, RunE: func(cmd *cobra.Command, args []string) error {
			d, err := a.home(cmd.Context())
			if err != nil {
				return err
			}
			ref, err := a.needAt(d, args[0], where)
			if err != nil {
				return err
			}
			tick := wire.Tick{What: args[0], Subject: ref, Note: note}
			if err := a.client().Tick(cmd.Context(), a.household, name, tick); err != nil {
				return err
			}
			return a.done(tick, "%s: %s at %s.", done, args[0], d.Label(ref))
		}}
		whereFlag(c, &where)
		noteFlag(c, &note)
		return c
	}
	return group("prerequisite", "What must be in place for the paths to work", list.RunE, list,
		verb("tick", "Tick a prerequisite as done", "Ticked", "multicast-passes --note \"Snooping switched off\""), verb("refuse", "Note that a permission was refused", "Noted as refused", "server-opening --note \"The customer declined the firewall prompt\""),
		verb("untick", "Take a tick back", "Tick removed", "multicast-passes"))
}

func (a *App) completeNeeds(cmd *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	d, err := a.home(cmd.Context())
	if err != nil || len(args) > 0 {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	var out []cobra.Completion
	for _, p := range proving.Prerequisites(d.Index(), nil, nil) {
		if strings.HasPrefix(p.Need.What, typed) && !slices.Contains(out, p.Need.What) {
			out = append(out, p.Need.What)
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

// whereFlag adds the flag that says where something applies.
func whereFlag(c *cobra.Command, where *string) {
	c.Flags().StringVar(where, "where", "", "the record where it applies, as kind/name; needed only if it applies in several places")
}

// needAt finds where a prerequisite applies: the record given, or the only one there is.
func (a *App) needAt(d *dossier.Dossier, what, where string) (dossier.Ref, error) {
	if where != "" {
		return findRef(d, where, writing)
	}
	var places []dossier.Ref
	var names []string
	for _, p := range proving.Prerequisites(d.Index(), nil, nil) {
		if p.Need.What == what {
			places = append(places, p.Subject)
			names = append(names, p.Subject.Kind+"/"+d.Label(p.Subject))
		}
	}
	switch len(places) {
	case 1:
		return places[0], nil
	case 0:
		return dossier.Ref{}, fmt.Errorf("no path has the prerequisite %q; kaiku prerequisite list shows those there are", what)
	}
	return dossier.Ref{}, wrongUse("%s applies at %s; choose one with --where", what, strings.Join(names, " and "))
}

// untilFlag adds the flag that gives the day on which something is reviewed or was promised for.
func untilFlag(c *cobra.Command, day *string) {
	c.Flags().StringVar(day, "until", "", "a day, such as 2026-12-24")
}

// attemptRound records what was seen at all tests of a step.
func (a *App) attemptRound() *cobra.Command {
	var but []string
	var in wire.NewRound
	var note string
	c := &cobra.Command{Use: "round STEP", Short: "Record what was seen at all tests of a step", Args: cobra.ExactArgs(1),
		Long:    "Records that all tests of a step of kaiku test steps passed, except those named with --except, such as --except sound=fail. What a machine tests is left to kaiku test run. All of it is written together. The exit code is 3 if a test failed.",
		Example: "  kaiku attempt round 2\n  kaiku attempt round 2 --except sound=fail --note \"The left channel is silent\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := a.plan(cmd.Context())
			if err != nil {
				return err
			}
			n, err := strconv.Atoi(args[0])
			if err != nil || n < 1 || n > len(p.Reproof) {
				return wrongUse("there is no step %s; kaiku test steps lists the steps", args[0])
			}
			step := p.Reproof[n-1]
			if step.Machine {
				return wrongUse("a machine does this step; run kaiku test run")
			}
			others, err := exceptions(but)
			if err != nil {
				return err
			}
			in.AsOf = p.Revision
			for _, t := range p.Tests {
				if !slices.Contains(step.Tests, t.ID) {
					continue
				}
				one := wire.RoundResult{Test: t.ID, Outcome: dossier.Pass}
				if o, other := others[t.Kind]; other {
					one.Outcome, one.Note = o, note
					a.attention = a.attention || o == dossier.Fail
					delete(others, t.Kind)
				}
				in.Results = append(in.Results, one)
			}
			for kind := range others {
				return wrongUse("step %d has no test %s", n, kind)
			}
			made, err := a.client().RecordRound(cmd.Context(), a.household, in)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, m := range made.Attempts {
				rows = append(rows, []string{m.Test.Kind, m.Test.About.Label, string(m.Attempt.Outcome), wording.Plain(string(m.Test.Status))})
			}
			if err := a.show(made, []string{"Test", "About", "Result", "Status"}, rows); err != nil || a.format != "table" {
				return err
			}
			a.say("\nTo take it all back: kaiku journal undo %d", made.Revision)
			for _, m := range made.Attempts {
				a.sayClosed(m)
			}
			return nil
		}}
	c.Flags().StringSliceVar(&but, "except", nil, "`test=result` of a test that went otherwise: pass, marginal, fail or impossible; may be repeated")
	noteFlag(c, &note)
	conditionsFlag(c, &in.Conditions)
	sampleFlag(c, &in.Sample)
	return c
}

// exceptions reads results of tests that went otherwise, by the kind of test.
func exceptions(list []string) (map[string]dossier.Outcome, error) {
	out := map[string]dossier.Outcome{}
	for _, one := range list {
		kind, result, _ := strings.Cut(one, "=")
		if !slices.Contains(dossier.Outcome("").Values(), result) {
			return nil, wrongUse("%q does not say how a test went; write test=result, with pass, marginal, fail or impossible as the result", one)
		}
		out[kind] = dossier.Outcome(result)
	}
	return out, nil
}
