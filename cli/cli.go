// Package cli is Kaiku's command line, on top of its client, probes and practice house.
package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// Exit codes of the program.
const (
	Done      = 0
	Failed    = 1
	WrongUse  = 2
	Attention = 3 // done, and something needs attention: a test failed, or --check found something
)

// App is one run of the program. Getenv and the streams are handed in, so that a story and tests
// can run commands in one process.
type App struct {
	In       io.Reader
	Out, Err io.Writer
	Getenv   func(string) string
	// Extra are commands that need more than client, probe and practice house: serve, demo, story.
	Extra   []*cobra.Command
	Version string

	url, household, format, sessionFile string
	json, quiet, noInput, yes, check    bool
	attention                           bool
	lines                               lineReader
	known                               *dossier.Dossier // read once per command
	ifs                                 []string         // changes to be supposed, as they were typed
	supposed                            []wire.PreviewStep
	collects                            bool // a change is not made but supposed
}

// Run carries out one command and returns the exit code.
func (a *App) Run(ctx context.Context, args ...string) int {
	root := a.Root()
	root.SetArgs(args)
	root.SetIn(a.In)
	root.SetOut(a.Out)
	root.SetErr(a.Err)
	cmd, err := root.ExecuteContextC(ctx)
	switch {
	case err == nil && a.attention:
		return Attention
	case err == nil:
		return Done
	}
	return a.fail(cmd, err)
}

// Root makes the tree of commands.
func (a *App) Root() *cobra.Command {
	a.attention, a.known, a.supposed, a.lines = false, nil, nil, lineReader{}
	root := &cobra.Command{Use: "kaiku", Version: a.Version, Short: "Record, prove and hand over home media installations",
		SilenceUsage: true, SilenceErrors: true,
		RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() }}
	root.SetVersionTemplate("{{.Version}}\n")
	f := root.PersistentFlags()
	f.StringVarP(&a.household, "household", "H", a.env("KAIKU_HOUSEHOLD", ""), "code of the household, such as H-0042 (KAIKU_HOUSEHOLD)")
	f.StringVar(&a.url, "url", "", "where Kaiku is running (KAIKU_URL; default: where you last logged in, else http://127.0.0.1:7440)")
	wordFlag(f, &a.format, "format", "table", []string{"table", "json", "csv"}, "how to write the output")
	f.BoolVar(&a.json, "json", false, "the same as --format json")
	f.BoolVarP(&a.quiet, "quiet", "q", false, "write no notes and no progress, only the output and errors")
	f.BoolVar(&a.noInput, "no-input", false, "never ask; fail instead")
	f.StringArrayVar(&a.ifs, "if", nil, "a change to suppose while reading, such as \"device set parlour-screen --room attic\"; may be repeated")
	f.StringVar(&a.sessionFile, "session-file", a.env("KAIKU_SESSION_FILE", ""), "where the log-in is kept (KAIKU_SESSION_FILE)")
	_ = root.RegisterFlagCompletionFunc("household", a.completeHouseholds)
	root.PersistentPreRunE = func(cmd *cobra.Command, args []string) error {
		if a.json {
			if cmd.Flags().Changed("format") && a.format != "json" {
				return wrongUse("--json and --format %s contradict each other", a.format)
			}
			a.format = "json"
		}
		if err := a.argumentBeatsEnvironment(cmd, args); err != nil {
			return err
		}
		return a.supposes(cmd)
	}
	root.AddCommand(a.sessionCommands()...)
	root.AddCommand(a.kindCommands()...)
	root.AddCommand(a.arriveCommand(), a.departCommand(), a.joinCommand(), a.applyCommand(), a.surveyCommand(), a.findingCommand(), a.forecastCommand(), a.loadCommand(), a.scanCommand(), a.supposeCommand(), a.sheetCommand(), a.reelCommand(), a.testCommand(), a.statusCommand(),
		a.prerequisiteCommand(), a.recipeCommand(), a.knowledgeCommand(), a.suspectCommand(), a.faultCommand(), a.journalCommand(), a.personCommand(), a.tokenCommand(), a.practiceCommand(), a.versionCommand())
	root.AddCommand(a.Extra...)
	a.finish(root)
	return root
}

func (a *App) versionCommand() *cobra.Command {
	return &cobra.Command{Use: "version", Short: "Show the version of this program", Example: "  kaiku version",
		RunE: func(*cobra.Command, []string) error {
			return a.details(map[string]string{"version": a.Version}, "Version", a.Version)
		}}
}

func (a *App) env(name, otherwise string) string {
	if a.Getenv != nil {
		if v := a.Getenv(name); v != "" {
			return v
		}
	}
	return otherwise
}

// session is what a log-in leaves on this machine.
type session struct {
	URL   string `json:"url"`
	Token string `json:"token"`
	Login string `json:"login"`
}

func (a *App) sessionPath() string {
	if a.sessionFile != "" {
		return a.sessionFile
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		dir = os.TempDir()
	}
	return filepath.Join(dir, "kaiku", "session.json")
}

func (a *App) session() session {
	var s session
	if b, err := os.ReadFile(a.sessionPath()); err == nil {
		_ = json.Unmarshal(b, &s) // an unreadable file is no log-in
	}
	return s
}

func (a *App) keep(s session) error {
	file := a.sessionPath()
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return fmt.Errorf("save the log-in: %w", err)
	}
	b, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return os.WriteFile(file, b, 0o600)
}

func (a *App) where() string {
	for _, v := range []string{a.url, a.env("KAIKU_URL", ""), a.session().URL} {
		if v != "" {
			return v
		}
	}
	return "http://127.0.0.1:7440"
}

func (a *App) client() *client.Client {
	token := a.env("KAIKU_TOKEN", "")
	if s := a.session(); token == "" && (s.URL == a.where() || s.URL == "") {
		token = s.Token
	}
	c := client.New(a.where(), token)
	if supposing, err := c.Supposing(a.supposed...); err == nil { // they came out of what was typed, and can be written
		return supposing
	}
	return c
}

// code returns the household that the command is about.
func (a *App) code() (string, error) {
	if a.household == "" {
		return "", wrongUse("no household given; use -H CODE or set KAIKU_HOUSEHOLD (kaiku household list shows the codes)")
	}
	return a.household, nil
}

// home reads the household's dossier once.
func (a *App) home(ctx context.Context) (*dossier.Dossier, error) {
	if a.known != nil {
		return a.known, nil
	}
	code, err := a.code()
	if err != nil {
		return nil, err
	}
	a.known, err = a.client().Dossier(ctx, code)
	return a.known, err
}

// NeedsAttention makes the command end with the exit code for work that is done but needs attention.
func (a *App) NeedsAttention() { a.attention = true }

// checkFlag gives a listing command --check, with which it ends with exit code 3 if that is so.
func (a *App) checkFlag(c *cobra.Command, so string) {
	c.Flags().BoolVar(&a.check, "check", false, "end with exit code 3 if something needs attention")
	c.Long = strings.TrimSpace(c.Long + "\n\nWith --check, the exit code is 3 if " + so + ".")
}

// found notes that a listing shows something that needs attention; it matters with --check only.
func (a *App) found(something bool) { a.attention = a.attention || a.check && something }

// note says something beside the output, unless it is to be quiet.
func (a *App) note(format string, args ...any) {
	if !a.quiet {
		a.ask(format+"\n", args...)
	}
}

// ask writes something beside the output, such as a question or an error.
func (a *App) ask(format string, args ...any) {
	fmt.Fprint(a.Err, wording.Safe(fmt.Sprintf(format, args...)))
}

// progress writes how far long work is over one line of a terminal, and nothing elsewhere; with no
// text it clears the line.
func (a *App) progress(format string, args ...any) {
	if f, ok := a.Err.(*os.File); ok && !a.quiet && term.IsTerminal(int(f.Fd())) {
		fmt.Fprintf(f, "\r%s\033[K", wording.Safe(fmt.Sprintf(format, args...)))
	}
}

// say says something in the output. Nothing in it steers a terminal: names come from devices and other people.
func (a *App) say(format string, args ...any) {
	fmt.Fprintln(a.Out, wording.Safe(fmt.Sprintf(format, args...)))
}

// print writes a file that was asked for to the output, as safe as what is said.
func (a *App) print(body []byte) error {
	text := wording.Safe(string(body))
	if json.Valid(body) {
		text = wording.SafeJSON(string(body))
	}
	_, err := io.WriteString(a.Out, text)
	return err
}

// done says that something was done, in words for people or as the record for programs.
func (a *App) done(value any, format string, args ...any) error {
	if a.format == "json" {
		return a.show(value, nil, nil)
	}
	a.say(format, args...)
	return nil
}

func (a *App) completeHouseholds(cmd *cobra.Command, _ []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	rows, err := a.client().Households(cmd.Context(), wire.HomesQuery{})
	var out []cobra.Completion
	for _, r := range rows {
		if err == nil && strings.HasPrefix(r.Code, typed) {
			out = append(out, cobra.CompletionWithDesc(r.Code, r.Name))
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

// homeArgument marks commands whose first argument is the code of the household.
const homeArgument = "home argument"

// aboutHome makes the first argument of the command the household it is about.
func aboutHome(c *cobra.Command) *cobra.Command {
	c.Annotations = map[string]string{homeArgument: "true"}
	return c
}

// argumentBeatsEnvironment makes the household that an argument names the one that the command is
// about, whatever the environment says. A different one in -H is a contradiction.
func (a *App) argumentBeatsEnvironment(cmd *cobra.Command, args []string) error {
	if cmd.Annotations[homeArgument] == "" || len(args) == 0 {
		return nil
	}
	code := strings.ToUpper(args[0])
	if cmd.Flags().Changed("household") && !strings.EqualFold(a.household, code) {
		return wrongUse("-H %s and %s name two different households", a.household, args[0])
	}
	a.household, a.known = code, nil
	return nil
}

var errNoInput = errors.New("this would have to ask, but --no-input was given")
