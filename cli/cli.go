// Package cli is the command language of Kaiku on its client, probes and practice house.
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
)

// Exit codes of the program.
const (
	Done      = 0
	Failed    = 1
	WrongUse  = 2
	Attention = 3 // done, and something needs attention: a blocker, a failed test
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

	address, household, format, sessionFile string
	attention                               bool
	known                                   *dossier.Dossier // read once a command
}

// errUse marks an error of the caller.
type errUse struct{ error }

func wrongUse(format string, args ...any) error { return errUse{fmt.Errorf(format, args...)} }

// Run carries out one command and returns the exit code.
func (a *App) Run(ctx context.Context, args ...string) int {
	root := a.Root()
	root.SetArgs(args)
	root.SetIn(a.In)
	root.SetOut(a.Out)
	root.SetErr(a.Err)
	err := root.ExecuteContext(ctx)
	var use errUse
	var gone *client.Unreachable
	switch {
	case err == nil && a.attention:
		return Attention
	case err == nil:
		return Done
	case errors.As(err, &use) || strings.HasPrefix(err.Error(), "unknown command") || strings.HasPrefix(err.Error(), "unknown flag") || strings.HasPrefix(err.Error(), "accepts "):
		fmt.Fprintf(a.Err, "kaiku: %v\nSee kaiku help.\n", err)
		return WrongUse
	case client.IsProblem(err, "not-logged-in"):
		fmt.Fprintf(a.Err, "kaiku: not logged in at %s. Log in first: kaiku login NAME\n", a.where())
	case errors.As(err, &gone), errors.Is(err, context.Canceled):
		fmt.Fprintf(a.Err, "kaiku: %v\n", err)
	default:
		fmt.Fprintf(a.Err, "kaiku: %v\n", err)
	}
	return Failed
}

// Root makes the tree of commands.
func (a *App) Root() *cobra.Command {
	a.attention, a.known = false, nil
	root := &cobra.Command{Use: "kaiku", Short: "Home media installations: recorded, proven, handed over", Version: a.Version,
		SilenceUsage: true, SilenceErrors: true, Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() }}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return errUse{err} })
	f := root.PersistentFlags()
	f.StringVarP(&a.household, "household", "H", a.env("KAIKU_HOUSEHOLD", ""), "code of the household, such as H-0042 (KAIKU_HOUSEHOLD)")
	f.StringVar(&a.address, "address", "", "where Kaiku runs (KAIKU_ADDRESS; default: where you logged in, else http://127.0.0.1:7440)")
	f.StringVar(&a.format, "format", "table", "how answers are written: table, json or csv")
	f.StringVar(&a.sessionFile, "session-file", a.env("KAIKU_SESSION_FILE", ""), "where the log-in is kept (KAIKU_SESSION_FILE)")
	_ = root.RegisterFlagCompletionFunc("format", cobra.FixedCompletions([]string{"table", "json", "csv"}, cobra.ShellCompDirectiveNoFileComp))
	_ = root.RegisterFlagCompletionFunc("household", a.completeHouseholds)
	root.AddCommand(a.sessionCommands()...)
	root.AddCommand(a.kindCommands()...)
	root.AddCommand(a.hereCommand(), a.leaveCommand(), a.joinCommand(), a.surveyCommand(), a.findingCommand(), a.observationCommand(), a.testCommand(), a.standingCommand(), a.prerequisiteCommand(), a.journalCommand(), a.personCommand(), a.tokenCommand(), a.practiceCommand())
	root.AddCommand(a.Extra...)
	return root
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
	Address string `json:"address"`
	Token   string `json:"token"`
	Login   string `json:"login"`
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
		return fmt.Errorf("keep the log-in: %w", err)
	}
	b, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return os.WriteFile(file, b, 0o600)
}

func (a *App) where() string {
	for _, v := range []string{a.address, a.env("KAIKU_ADDRESS", ""), a.session().Address} {
		if v != "" {
			return v
		}
	}
	return "http://127.0.0.1:7440"
}

func (a *App) client() *client.Client {
	token := a.env("KAIKU_TOKEN", "")
	if s := a.session(); token == "" && (s.Address == a.where() || s.Address == "") {
		token = s.Token
	}
	return client.New(a.where(), token)
}

// code returns the household the command is about.
func (a *App) code() (string, error) {
	if a.household == "" {
		return "", wrongUse("which household? Say -H CODE, or set KAIKU_HOUSEHOLD; kaiku household list shows them")
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

// NeedsAttention lets the command end with the exit code for work that is done and needs a look.
func (a *App) NeedsAttention() { a.attention = true }

// note says something beside the answer.
func (a *App) note(format string, args ...any) { fmt.Fprintf(a.Err, format+"\n", args...) }

// progress writes how far long work is over one line of a terminal, and nothing elsewhere; with no
// text it takes the line away.
func (a *App) progress(format string, args ...any) {
	if f, ok := a.Err.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		fmt.Fprintf(f, "\r"+format+"\033[K", args...)
	}
}

func (a *App) say(format string, args ...any) { fmt.Fprintf(a.Out, format+"\n", args...) }

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

// group makes a command that only holds others; alone it does what its list does.
func group(use, short string, list func(*cobra.Command, []string) error, sub ...*cobra.Command) *cobra.Command {
	c := &cobra.Command{Use: use, Short: short, Args: cobra.NoArgs, RunE: list}
	c.AddCommand(sub...)
	return c
}
