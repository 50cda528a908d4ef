package cli

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// errUse marks an error in how the program was called.
type errUse struct{ error }

func wrongUse(format string, args ...any) error { return errUse{fmt.Errorf(format, args...)} }

// purpose says what a record is looked up for: reading it takes the beginning of a name, changing
// it the whole name.
type purpose int

const (
	reading purpose = iota
	writing
)

// fail says why a command failed and returns the exit code.
func (a *App) fail(cmd *cobra.Command, err error) int {
	var use errUse
	var gone *client.Unreachable
	var problem *wire.Problem
	switch {
	case errors.As(err, &use):
		a.ask("kaiku: %s\nSee %s --help.\n", inOwnWords(err), cmd.CommandPath())
		return WrongUse
	case client.IsProblem(err, "not-logged-in"):
		a.ask("kaiku: you are not logged in at %s. Log in with: kaiku login NAME\n", a.where())
	case errors.Is(err, context.Canceled):
		a.ask("kaiku: stopped.\n")
	case errors.As(err, &gone):
		a.ask("kaiku: %v\n", err)
	case errors.As(err, &problem):
		a.ask("kaiku: %s\n", problemSaid(problem, cmd))
	default:
		a.ask("kaiku: %v\n", err)
	}
	return Failed
}

// inOwnWords puts the sentences of the command-line library into the product's own words.
func inOwnWords(err error) string {
	text := err.Error()
	for _, w := range frameworkSaid {
		if w.says.MatchString(text) {
			return w.says.ReplaceAllString(text, w.instead)
		}
	}
	return text
}

var frameworkSaid = []struct {
	says    *regexp.Regexp
	instead string
}{
	{regexp.MustCompile(`^unknown flag: (--\S+)$`), "there is no flag $1 here"},
	{regexp.MustCompile(`^unknown shorthand flag: '(.)' in \S+$`), "there is no flag -$1 here"},
	{regexp.MustCompile(`^flag needs an argument: (--\S+)$`), "$1 needs a value"},
	{regexp.MustCompile(`^flag needs an argument: '(.)' in \S+$`), "-$1 needs a value"},
	{regexp.MustCompile(`^bad flag syntax: (\S+)$`), "$1 is not written as a flag"},
	{regexp.MustCompile(`^invalid argument "(.*)" for "(?:-\S, )?(--\S+)" flag: strconv\.Parse(?:Int|Uint): .*value out of range$`), "$2 $1: the number is too large"},
	{regexp.MustCompile(`^invalid argument "(.*)" for "(?:-\S, )?(--\S+)" flag: strconv\.(?:Atoi|Parse(?:Int|Uint)): .*$`), "$2 $1: this is not a whole number"},
	{regexp.MustCompile(`^invalid argument "(.*)" for "(?:-\S, )?(--\S+)" flag: strconv\.ParseBool: .*$`), "$2 $1: write true or false"},
	{regexp.MustCompile(`^invalid argument "(.*)" for "(?:-\S, )?(--\S+)" flag: (.*)$`), "$2 $1: $3"},
}

// problemSaid says an error answer. What is wrong with a member is said with the flag that sets it.
func problemSaid(p *wire.Problem, cmd *cobra.Command) string {
	s := p.Detail
	for _, f := range p.Faults {
		s += "\n  " + flagAt(f.Pointer, cmd) + f.Detail
	}
	if p.Remedy != "" {
		s += "\n" + p.Remedy
	}
	return s
}

// flagAt returns the flag that sets the member a JSON pointer leads to, with a colon, or what the
// pointer leads to in words.
func flagAt(pointer string, cmd *cobra.Command) string {
	steps := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	var names []string
	for _, s := range steps {
		if strings.Trim(s, "0123456789") != "" {
			names = append(names, flagName(s))
		}
	}
	if len(names) == 0 {
		return ""
	}
	for _, name := range []string{strings.Join(names, "."), names[0], singular(names[0])} {
		if cmd != nil && cmd.Flags().Lookup(name) != nil {
			return "--" + name + ": "
		}
	}
	return strings.ReplaceAll(strings.Join(names, " "), "-", " ") + ": "
}

// group makes a command that holds others; alone it does what list does.
func group(use, short string, list func(*cobra.Command, []string) error, sub ...*cobra.Command) *cobra.Command {
	c := &cobra.Command{Use: use, Short: short, RunE: list}
	c.AddCommand(sub...)
	return c
}

// Headings under which the commands stand in the help, in the order of the work.
var headings = []struct {
	title string
	nouns []string
}{
	{"Every day", []string{"login", "logout", "whoami", "today", "arrive", "depart", "join"}},
	{"The household", []string{"household", "wish", "restriction", "visit"}},
	{"Survey", []string{"survey", "room", "outlet", "line", "segment", "dhcp-server", "link", "reading", "finding", "gap-answer", "suppose"}},
	{"Inventory", []string{"scan", "device", "interface", "software", "register-entry", "setting", "source", "folder", "converted-copy", "decoding", "chain-link", "opening", "account", "secret", "apply"}},
	{"Paths and proof", []string{"path", "busy-set", "forecast", "load", "recipe", "prerequisite", "reel", "test", "attempt", "status", "waiver", "sheet"}},
	{"Changes and issues", []string{"change", "settings-copy", "issue", "suspect", "attachment", "long-task", "due"}},
	{"Handing over", []string{"handover", "journal"}},
	{"The firm and this program", []string{"knowledge", "fault", "person", "token", "serve", "backup", "restore", "check", "rescue", "demo", "story", "practice", "version", "completion", "help"}},
}

// finish gives every command what all of them have: its place in the help, arguments as its usage
// line says them, suggestions for what was mistyped.
func (a *App) finish(root *cobra.Command) {
	for _, h := range headings {
		root.AddGroup(&cobra.Group{ID: h.title, Title: h.title + ":"})
	}
	root.SetHelpCommand(&cobra.Command{Use: "help [COMMAND...]", Short: "Help about a command", Example: "  kaiku help scan record",
		ValidArgsFunction: func(_ *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
			at, _, err := root.Find(args)
			if err != nil {
				return nil, cobra.ShellCompDirectiveNoFileComp
			}
			var out []cobra.Completion
			for _, c := range at.Commands() {
				if strings.HasPrefix(c.Name(), typed) {
					out = append(out, cobra.CompletionWithDesc(c.Name(), c.Short))
				}
			}
			return out, cobra.ShellCompDirectiveNoFileComp
		},
		RunE: func(_ *cobra.Command, args []string) error {
			at := root
			for _, name := range args {
				next := child(at, name)
				if next == nil {
					return noCommand(at, name)
				}
				at = next
			}
			at.InitDefaultHelpFlag()
			return at.Help()
		}})
	root.InitDefaultHelpCmd()
	root.InitDefaultCompletionCmd()
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return errUse{err} })
	for _, c := range root.Commands() {
		for _, h := range headings {
			if slices.Contains(h.nouns, c.Name()) {
				c.GroupID = h.title
			}
		}
	}
	var walk func(*cobra.Command)
	words := func(c *cobra.Command) func(*pflag.Flag) {
		return func(f *pflag.Flag) {
			if w, ok := f.Value.(*word); ok {
				_ = c.RegisterFlagCompletionFunc(f.Name, cobra.FixedCompletions(w.values, cobra.ShellCompDirectiveNoFileComp))
			}
		}
	}
	walk = func(c *cobra.Command) {
		c.PersistentFlags().VisitAll(words(c))
		c.Flags().VisitAll(words(c))
		if c.Args == nil {
			c.Args = arguments
		}
		c.DisableFlagsInUseLine = true
		for _, sub := range c.Commands() {
			walk(sub)
		}
	}
	walk(root)
	root.SetUsageTemplate(usageTemplate)
}

const usageTemplate = `Usage:{{if .Runnable}}
  {{.UseLine}}{{if .HasAvailableFlags}} [FLAGS]{{end}}{{end}}{{if .HasAvailableSubCommands}}
  {{.CommandPath}} COMMAND{{end}}{{if .HasExample}}

Examples:
{{.Example}}{{end}}{{if .HasAvailableSubCommands}}{{$cmds := .Commands}}{{if eq (len .Groups) 0}}

Commands:{{range $cmds}}{{if .IsAvailableCommand}}
  {{rpad .Name .NamePadding}} {{.Short}}{{end}}{{end}}{{else}}{{range $group := .Groups}}

{{.Title}}{{range $cmds}}{{if and (eq .GroupID $group.ID) (or .IsAvailableCommand (eq .Name "help"))}}
  {{rpad .Name .NamePadding}} {{.Short}}{{end}}{{end}}{{end}}{{end}}{{end}}{{if .HasAvailableLocalFlags}}

Flags:
{{.LocalFlags.FlagUsages | trimTrailingWhitespaces}}{{end}}{{if .HasAvailableInheritedFlags}}

Flags of every command:
{{.InheritedFlags.FlagUsages | trimTrailingWhitespaces}}{{end}}
`

func child(c *cobra.Command, name string) *cobra.Command {
	for _, sub := range c.Commands() {
		if sub.Name() == name || sub.HasAlias(name) {
			return sub
		}
	}
	return nil
}

// noCommand says that a command has no such part, and what may have been meant.
func noCommand(c *cobra.Command, typed string) error {
	text := fmt.Sprintf("%s has no command %q", c.CommandPath(), typed)
	if c.SuggestionsMinimumDistance <= 0 {
		c.SuggestionsMinimumDistance = 2
	}
	if meant := c.SuggestionsFor(typed); len(meant) > 0 {
		text += "; did you mean " + strings.Join(meant, " or ") + "?"
	}
	return errUse{errors.New(text)}
}

// arguments holds the arguments of a command against its usage line: NAME is needed, [NAME] may be
// left out, and three dots mean one or more.
func arguments(c *cobra.Command, args []string) error {
	if c.HasSubCommands() && len(args) > 0 {
		return noCommand(c, args[0])
	}
	least, most, names := 0, 0, []string{}
	for _, word := range usageWords(c.Use) {
		optional := strings.HasPrefix(word, "[")
		name := strings.Trim(word, "[]")
		if many := strings.HasSuffix(name, "..."); many {
			most = 1 << 20
		}
		most++
		if !optional {
			least++
			names = append(names, strings.TrimSuffix(name, "..."))
		}
	}
	switch {
	case len(args) < least:
		return wrongUse("%s needs %s", c.CommandPath(), strings.Join(names[len(args):], " and "))
	case len(args) > most && most == 0:
		return wrongUse("%s takes no argument, but was given %q", c.CommandPath(), args[0])
	case len(args) > most:
		return wrongUse("%s does not know what to do with %q; put a name of several words in quotes", c.CommandPath(), args[most])
	}
	return nil
}

// usageWords are the arguments that a usage line names.
func usageWords(use string) []string { return strings.Fields(use)[1:] }

// word is the value of a flag that takes one word of a closed list.
type word struct {
	value  *string
	values []string
}

func (w *word) String() string {
	if w.value == nil {
		return ""
	}
	return *w.value
}

func (w *word) Type() string { return wordType(w.values) }

func (w *word) Set(v string) error {
	if v != "" && !slices.Contains(w.values, v) {
		return errors.New("choose one of " + strings.Join(w.values, ", "))
	}
	*w.value = v
	return nil
}

// wordType is how the help says the values of a closed list.
func wordType(values []string) string {
	if all := strings.Join(values, "|"); len(all) <= 44 {
		return all
	}
	return "word"
}

// wordFlag adds a flag that takes one word of a closed list. The help and the completion say which.
func wordFlag(f *pflag.FlagSet, value *string, name, otherwise string, values []string, usage string) {
	*value = otherwise
	if wordType(values) == "word" {
		usage += ": " + strings.Join(values, ", ")
	}
	f.Var(&word{value, values}, name, usage)
}

// required marks flags that the command cannot do without, in the help and in its check. It is
// for commands that are otherwise ready.
func required(c *cobra.Command, names ...string) {
	for _, name := range names {
		c.Flags().Lookup(name).Usage += " (required)"
	}
	run := c.RunE
	c.RunE = func(cmd *cobra.Command, args []string) error {
		for _, name := range names {
			if f := cmd.Flags().Lookup(name); !f.Changed {
				return wrongUse("--%s is missing: %s", name, strings.TrimSuffix(f.Usage, " (required)"))
			}
		}
		return run(cmd, args)
	}
}

// dryFlag adds the flag by which nothing is written.
func dryFlag(c *cobra.Command, dry *bool) {
	c.Flags().BoolVar(dry, "dry-run", false, "show what would be done, and do nothing")
}

// undoFlag adds the flag by which a command takes back what it did.
func undoFlag(c *cobra.Command, undo *bool) { c.Flags().BoolVar(undo, "undo", false, "take it back") }

// noteFlag, deviceFlag, roomFlag and allFlag add flags that mean the same in every command.
func noteFlag(c *cobra.Command, note *string) { c.Flags().StringVar(note, "note", "", "a note") }

func (a *App) deviceFlag(c *cobra.Command, device *string) {
	c.Flags().StringVar(device, "device", "", "the device it is about")
	a.completeMember(c, "device", dossier.Field{Refers: "device"})
}

func (a *App) roomFlag(c *cobra.Command, room *string) {
	c.Flags().StringVar(room, "room", "", "the room it is about")
	a.completeMember(c, "room", dossier.Field{Refers: "room"})
}

func allFlag(c *cobra.Command, all *bool) { c.Flags().BoolVar(all, "all", false, "list everything") }

// whyFlag adds the flag that gives the reason of a step.
func whyFlag(c *cobra.Command, why *string) {
	c.Flags().StringVar(why, "why", "", "the reason; it stays in the journal")
}

// flagName writes a member's name for the command line: hardwareAddress is hardware-address.
func flagName(member string) string {
	var b strings.Builder
	for i, r := range member {
		if unicode.IsUpper(r) && i > 0 {
			b.WriteByte('-')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	return b.String()
}

// completeWords completes flags that take a word of a closed list.
func completeWords(c *cobra.Command) {
	c.Flags().VisitAll(func(f *pflag.Flag) {
		if w, ok := f.Value.(*word); ok {
			_ = c.RegisterFlagCompletionFunc(f.Name, cobra.FixedCompletions(w.values, cobra.ShellCompDirectiveNoFileComp))
		}
	})
}
