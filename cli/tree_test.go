package cli

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
)

// everyCommand calls f with each command of a fresh tree.
// The library's own completion commands are left out.
func everyCommand(f func(*cobra.Command)) *cobra.Command {
	a := &App{Getenv: func(string) string { return "" }}
	root := a.Root()
	var walk func(*cobra.Command)
	walk = func(c *cobra.Command) {
		if c.Name() == "completion" {
			return
		}
		f(c)
		for _, sub := range c.Commands() {
			walk(sub)
		}
	}
	walk(root)
	return root
}

// Every command says what it does and shows how it is used; the example can be typed as it stands.
func TestEveryCommandHelps(t *testing.T) {
	everyCommand(func(c *cobra.Command) {
		name := c.CommandPath()
		assert.NotEmpty(t, c.Short, name)
		assert.False(t, strings.HasSuffix(c.Short, "."), "%s: a short help has no full stop", name)
		if c.HasSubCommands() {
			assert.True(t, c.Runnable(), "%s alone does nothing", name)
			return
		}
		assert.NotEmpty(t, c.Example, name)
		for _, line := range strings.Split(c.Example, "\n") {
			for _, part := range strings.Split(line, " | ") {
				args := words(t, strings.TrimSpace(part))
				if args[0] != "kaiku" {
					continue
				}
				a := &App{Getenv: func(string) string { return "" }}
				root := a.Root()
				found, rest, err := root.Find(args[1:])
				require.NoError(t, err, line)
				assert.Equal(t, name, found.CommandPath(), line)
				require.NoError(t, found.ParseFlags(rest), line)
				assert.NoError(t, found.Args(found, found.Flags().Args()), line)
				for _, f := range requiredFlags(found) {
					assert.True(t, found.Flags().Changed(f), "%s: the example lacks --%s", name, f)
				}
			}
		}
	})
}

func requiredFlags(c *cobra.Command) (out []string) {
	c.Flags().VisitAll(func(f *pflag.Flag) {
		if strings.HasSuffix(f.Usage, "(required)") {
			out = append(out, f.Name)
		}
	})
	return out
}

// words splits a line as a shell does, as far as examples need it.
func words(t *testing.T, line string) []string {
	var out []string
	var word strings.Builder
	inside, begun := false, false
	for _, r := range line {
		switch {
		case r == '"':
			inside, begun = !inside, true
		case r == ' ' && !inside:
			if begun {
				out = append(out, word.String())
			}
			word.Reset()
			begun = false
		default:
			word.WriteRune(r)
			begun = true
		}
	}
	require.False(t, inside, line)
	return append(out, word.String())
}

// No two flags share a variable, and a flag that is not given has the value that its help says.
func TestFlagsKeepTheirDefaults(t *testing.T) {
	everyCommand(func(c *cobra.Command) {
		c.LocalNonPersistentFlags().VisitAll(func(f *pflag.Flag) {
			assert.Equal(t, f.DefValue, f.Value.String(), "%s --%s", c.CommandPath(), f.Name)
		})
	})
	type flag struct {
		command, name string
		value         pflag.Value
	}
	var all []flag
	everyCommand(func(c *cobra.Command) {
		c.LocalNonPersistentFlags().VisitAll(func(f *pflag.Flag) {
			if f.Name != "check" && f.Name != "yes" && f.Name != "help" { // kept with the program: one command runs
				all = append(all, flag{c.CommandPath(), f.Name, f.Value})
			}
		})
	})
	for n, f := range all {
		before := make([]string, len(all))
		for i, o := range all {
			before[i] = o.value.String()
		}
		switch f.value.Type() {
		case "bool":
			_ = f.value.Set("true")
		case "int", "uint8", "intSlice":
			_ = f.value.Set("7")
		default:
			_ = f.value.Set("x")
		}
		for i, o := range all {
			if i != n {
				assert.Equal(t, before[i], o.value.String(), "%s --%s shares its variable with %s --%s", f.command, f.name, o.command, o.name)
			}
		}
	}
}

// One flag has one meaning: where a flag is written by hand in several commands, it is said in the
// same words.
func TestOneFlagOneMeaning(t *testing.T) {
	said := map[string]string{}
	everyCommand(func(c *cobra.Command) {
		c.LocalNonPersistentFlags().VisitAll(func(f *pflag.Flag) {
			if _, member := f.Value.(*typed); member || f.Name == "help" {
				return
			}
			usage := strings.TrimSuffix(f.Usage, " (required)")
			if before, there := said[f.Name]; there {
				assert.Equal(t, before, usage, "%s --%s", c.CommandPath(), f.Name)
			}
			said[f.Name] = usage
		})
	})
}

// A closed list is printed in the help and completed.
func TestClosedListsAreSaid(t *testing.T) {
	everyCommand(func(c *cobra.Command) {
		c.LocalNonPersistentFlags().VisitAll(func(f *pflag.Flag) {
			var values []string
			switch v := f.Value.(type) {
			case *word:
				values = v.values
			case *typed:
				values = v.words
			}
			for _, w := range values {
				assert.Contains(t, f.Value.Type()+" "+f.Usage, w, "%s --%s", c.CommandPath(), f.Name)
			}
			if len(values) > 0 && !strings.Contains(f.Name, ".") {
				_, there := c.GetFlagCompletionFunc(f.Name)
				assert.True(t, there, "%s --%s is not completed", c.CommandPath(), f.Name)
				assert.ErrorContains(t, f.Value.Set("no such word"), "choose one of", "%s --%s", c.CommandPath(), f.Name)
			}
		})
	})
}

// Every command stands under a heading of the help, and every heading has commands.
func TestCommandsStandUnderHeadings(t *testing.T) {
	root := everyCommand(func(*cobra.Command) {})
	filled := map[string]bool{}
	for _, c := range root.Commands() {
		assert.NotEmpty(t, c.GroupID, c.Name())
		filled[c.GroupID] = true
	}
	for _, h := range headings {
		assert.True(t, filled[h.title], h.title)
	}
}

// An argument names the household, whatever the environment says.
func TestAnArgumentBeatsTheEnvironment(t *testing.T) {
	var commands [][]string
	everyCommand(func(c *cobra.Command) {
		if c.Annotations[homeArgument] == "" {
			return
		}
		args := append(strings.Fields(c.CommandPath())[1:], "H-0005")
		for _, w := range usageWords(c.Use)[1:] {
			args = append(args, strings.ToLower(w))
		}
		if c.Flags().Lookup("why") != nil {
			args = append(args, "--why", "a test")
		}
		if c.Flags().Lookup("yes") != nil {
			args = append(args, "--yes")
		}
		if c.Name() == "set" {
			args = append(args, "--note", "x")
			args[len(args)-2] = "--access-notes"
		}
		commands = append(commands, args)
	})
	require.GreaterOrEqual(t, len(commands), 7)
	for _, args := range commands {
		p := newProgram(t)
		_, _, errs := p.run(args...)
		require.NotEmpty(t, p.office.asked, "%v: %s", args, errs)
		for _, path := range p.office.asked {
			assert.NotContains(t, path, "H-0900", "%v went to the household of the environment", args)
		}
		p = newProgram(t)
		code, _, errs := p.run(append(args, "-H", "H-0900")...)
		assert.Equal(t, WrongUse, code, args)
		assert.Contains(t, errs, "name two different households")
		assert.Empty(t, p.office.asked)
	}
}

// What is removed needs the whole name and a yes; without one nothing is sent.
func TestDestructiveCommandsAsk(t *testing.T) {
	everyCommand(func(c *cobra.Command) {
		for _, verb := range []string{"remove", "erase", "revoke", "suspend", "rotate", "reset"} {
			if c.Name() == verb {
				assert.NotNil(t, c.Flags().Lookup("yes"), c.CommandPath())
			}
		}
	})
	p := newProgram(t)
	code, _, errs := p.run("device", "remove", "granite", "--yes")
	assert.Equal(t, Failed, code)
	assert.Contains(t, errs, `a change needs the whole name, such as "granite server" (000000)`)
	code, _, errs = p.run("room", "remove", "cellar")
	assert.Equal(t, WrongUse, code, "nobody can be asked here")
	assert.Contains(t, errs, `This removes the room "cellar"`)
	assert.Contains(t, errs, "nothing was done; add --yes to go ahead")
	assert.Empty(t, p.office.sent)
	code, out, errs := p.run("room", "remove", "cellar", "--yes")
	require.Equal(t, Done, code, errs)
	assert.Equal(t, "Removed the room \"cellar\".\n", out)
	assert.Equal(t, "DELETE", p.office.sent[0].method)
}

// A removal says what goes along with it.
func TestARemovalSaysWhatIsLost(t *testing.T) {
	p := newProgram(t)
	p.office.d.Paths, p.office.d.Attempts, p.office.d.Issues, p.office.d.BusySets = nil, nil, nil, nil
	_, _, errs := p.run("device", "remove", "granite server")
	assert.Contains(t, errs, `and with it network adapter "granite server wired"`)
	assert.Contains(t, errs, `source "granite server media"`)
}

func TestMistakesAreSaidInOwnWords(t *testing.T) {
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"devise"}, WrongUse, `kaiku has no command "devise"; did you mean device?`},
		{[]string{"room", "lst"}, WrongUse, `kaiku room has no command "lst"; did you mean list`},
		{[]string{"help", "nonsense"}, WrongUse, `kaiku has no command "nonsense"`},
		{[]string{"help", "room", "list"}, Done, ""},
		{[]string{"room", "list", "--nonsense"}, WrongUse, "there is no flag --nonsense here"},
		{[]string{"room", "list", "-z"}, WrongUse, "there is no flag -z here"},
		{[]string{"room", "add", "--name"}, WrongUse, "--name needs a value"},
		{[]string{"room", "remove"}, WrongUse, "kaiku room remove needs NAME"},
		{[]string{"attempt", "add", "plays"}, WrongUse, "kaiku attempt add needs ABOUT"},
		{[]string{"room", "list", "cellar"}, WrongUse, `kaiku room list takes no argument, but was given "cellar"`},
		{[]string{"room", "show", "lamp", "room"}, WrongUse, `put a name of several words in quotes`},
		{[]string{"room", "add"}, WrongUse, "--name is missing"},
		{[]string{"person", "add", "lempi", "Lempi"}, WrongUse, "--role is missing"},
		{[]string{"person", "add", "lempi", "Lempi", "--role", "chief"}, WrongUse, "--role chief: choose one of coordinator, lead, technician, observer"},
		{[]string{"device", "add", "--name", "x", "--role", "kettle"}, WrongUse, "--role kettle: choose one of server"},
		{[]string{"token", "add", "x", "--days", "many"}, WrongUse, "--days many: this is not a whole number"},
		{[]string{"room", "list", "--json", "--format", "csv"}, WrongUse, "--json and --format csv contradict each other"},
		{[]string{"finding", "explain", "nonsense"}, Failed, `there is no finding "nonsense"`},
		{[]string{"device", "show", "kettle"}, Failed, `there is no device "kettle"`},
		{[]string{"issue", "wait", "hum", "--until", "soon"}, WrongUse, "--until soon: this is not a day"},
	} {
		p := newProgram(t)
		code, out, errs := p.run(c.args...)
		assert.Equal(t, c.code, code, "%v %s", c.args, errs)
		assert.Contains(t, out+errs, c.says, c.args)
	}
}

// What an answer says of a member is told by the flag that sets it.
func TestFaultsNameFlags(t *testing.T) {
	p := newProgram(t)
	p.office.fault = `{"status":422,"code":"not-valid","detail":"Nothing was saved.","remedy":"Correct it.","faults":[{"pointer":"/hardwareAddress","detail":"is not a MAC address"},{"pointer":"/addresses/0","detail":"is not an IP address"},{"pointer":"/serverEnd/port","detail":"is too large"}]}`
	_, _, errs := p.run("interface", "add", "--name", "x", "--device", "granite server", "--hardware-address", "02")
	assert.Contains(t, errs, "\n  --hardware-address: is not a MAC address")
	assert.Contains(t, errs, "\n  --address: is not an IP address")
	assert.Contains(t, errs, "\n  server end port: is too large")
	assert.NotContains(t, errs, "/hardwareAddress")
}

// A finding that is explained without a home names its values.
func TestFindingsAreExplained(t *testing.T) {
	p := newProgram(t)
	for _, args := range [][]string{{"finding", "codes"}, {"finding", "explain", "kept-apart"}, {"finding", "explain", "outer-address-private", "--json"}} {
		code, out, errs := p.run(args...)
		require.Equal(t, Done, code, errs)
		assert.NotContains(t, strings.NewReplacer("{\n", "", "{}", "").Replace(out), "{how", args)
		assert.Contains(t, out, "HOW", args)
	}
}

// Credentials come from a file, a pipe or the prompt.
func TestSecretsAreRead(t *testing.T) {
	file := filepath.Join(t.TempDir(), "secret")
	require.NoError(t, os.WriteFile(file, []byte("from-a-file\nsecond line\n"), 0o600))
	for _, c := range []struct {
		from, stdin, want, says string
	}{
		{file, "", "from-a-file", ""},
		{"-", "from-a-pipe\n", "from-a-pipe", ""},
		{"", "typed\n", "typed", ""},
		{"", "", "", "or use --secret-file"},
		{filepath.Join(t.TempDir(), "none"), "", "", "no such file"},
	} {
		var errs bytes.Buffer
		a := &App{In: strings.NewReader(c.stdin), Err: &errs}
		got, err := a.secret(c.from, "Secret: ", "--secret-file")
		assert.Equal(t, c.want, got)
		if c.says != "" {
			assert.ErrorContains(t, err, c.says)
		}
	}
	everyCommand(func(c *cobra.Command) {
		for _, name := range []string{"password", "token", "secret", "body"} {
			if f := c.Flags().Lookup(name); f != nil {
				_, member := f.Value.(*typed) // the name of a secret that is stored
				assert.True(t, member, "%s --%s", c.CommandPath(), name)
			}
		}
	})
}

func TestQuietWritesNoNotes(t *testing.T) {
	p := newProgram(t)
	_, _, errs := p.run("token", "add", "nightly")
	assert.Contains(t, errs, "shown only this once")
	_, out, errs := p.run("token", "add", "nightly", "--quiet")
	assert.Empty(t, errs)
	assert.NotEmpty(t, out)
}

// Every kind has a sample in the help of its commands, and there are no others.
func TestEveryKindHasASample(t *testing.T) {
	for _, k := range dossier.Kinds {
		_, there := samples[k.Name]
		assert.True(t, there || k.Name == "prerequisite", k.Name)
		assert.True(t, !k.Allows(dossier.Add) || samples[k.Name].add != "", k.Name)
		assert.Equal(t, k.Allows(dossier.Set), samples[k.Name].set != "", k.Name)
	}
	assert.Len(t, samples, len(dossier.Kinds)-1) // prerequisites are ticked, not recorded
}
