package main

import (
	"bytes"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/cli"
)

// The story that people read is a test of the whole thread by the command line.
func TestStory(t *testing.T) {
	var out, errs bytes.Buffer
	err := playStory(t.Context(), &out, &errs)
	require.NoError(t, err, "%s\n%s", out.String(), errs.String())
	assert.Empty(t, errs.String())
	for _, line := range strings.Split(out.String(), "\n") {
		if !strings.HasPrefix(line, "$") && !strings.HasPrefix(line, "kaiku:") && strings.Contains(line, "─") {
			assert.LessOrEqual(t, len([]rune(line)), 100, "a table wider than 100 columns")
		}
	}
}

// allowedArrows says what each room of the house may import of the others.
var allowedArrows = map[string][]string{
	"core/dossier":       {},
	"core/dossier/homes": {"core/dossier"},
	"core/network":       {"core/dossier"},
	"core/survey":        {"core/dossier", "core/network"},
	"core/matching":      {"core/dossier"},
	"core/proving":       {"core/dossier", "core/network"},
	"core/custody":       {"core/dossier", "core/network", "core/proving", "core/survey"},
	"wording":            {"core/"},
	"wire":               {"core/"},
	"store":              {"core/"},
	"multicast":          {},
	"probe":              {"core/", "multicast", "papers", "wire"},
	"practice":           {"multicast"},
	"papers":             {"core/", "wording"},
	"service":            {"core/", "papers", "store", "wire", "wording"},
	"httpapi":            {"core/", "service", "wire", "wording"},
	"client":             {"core/", "wire"},
	"cli":                {"core/", "client", "probe", "practice", "wire", "wording"},
	"demo":               {"core/", "service", "wire", "practice"},
	"console":            {},
	"cmd/kaiku":          {""},
	"e2e":                {"demo"},
}

func TestArrowsGoDownOnly(t *testing.T) {
	root := "../.."
	seen := map[string]bool{}
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git" || d.Name() == "dist") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		rel, err := filepath.Rel(root, filepath.Dir(path))
		require.NoError(t, err)
		allowed, known := allowedArrows[rel]
		require.True(t, known, "the room %s has no place in the house: add it to allowedArrows and docs/architecture.md", rel)
		seen[rel] = true
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, imp := range f.Imports {
			to, err := strconv.Unquote(imp.Path.Value)
			require.NoError(t, err)
			inside, ours := strings.CutPrefix(to, "kaiku/")
			if !ours {
				if strings.HasPrefix(rel, "core/") && rel != "core/dossier/homes" {
					assert.NotContains(t, strings.Split(to, "/")[0], ".", "%s: the core imports the standard library only, not %s", path, to)
					assert.NotContains(t, []string{"net/http", "os", "database/sql", "io/fs", "os/exec"}, to, "%s: the core does no input or output", path)
				}
				continue
			}
			ok := slices.ContainsFunc(allowed, func(a string) bool {
				return a == "" || inside == a || strings.HasSuffix(a, "/") && strings.HasPrefix(inside, a)
			})
			assert.True(t, ok, "%s may not import %s", rel, inside)
			assert.NotEqual(t, "core/dossier/homes", inside, "homes are for tests")
		}
		return nil
	}))
	for room := range allowedArrows {
		if room != "e2e" {
			assert.True(t, seen[room], "no such room: %s", room)
		}
	}
}

// Table and program together: docs/commands.md names every command there is, and marks those
// that are not there yet as planned.
func TestCommandsAreDocumented(t *testing.T) {
	text, err := os.ReadFile("../../docs/commands.md")
	require.NoError(t, err)
	documented, planned := map[string]bool{}, map[string]bool{}
	for _, m := range regexp.MustCompile("(?m)^\\| `([^`]+)` \\|(.*)$").FindAllStringSubmatch(string(text), -1) {
		names := []string{m[1]}
		if noun, all := strings.CutSuffix(m[1], " *"); all {
			names = []string{noun + " list", noun + " show", noun + " add", noun + " set", noun + " remove"}
		}
		for _, name := range names {
			if strings.Contains(m[2], "*planned*") {
				planned[name] = true
			} else {
				documented[name] = true
			}
		}
	}
	there := map[string]bool{}
	var walk func(*cobra.Command, string)
	walk = func(c *cobra.Command, prefix string) {
		for _, sub := range c.Commands() {
			if sub.Name() == "help" || sub.Name() == "completion" && prefix == "" {
				continue
			}
			name := strings.TrimSpace(prefix + " " + sub.Name())
			if !sub.HasSubCommands() {
				there[name] = true
			}
			walk(sub, name)
		}
	}
	a := newApp()
	a.Getenv = func(string) string { return "" }
	a.Extra = ownCommands(a)
	walk(a.Root(), "")
	for name := range there {
		assert.True(t, documented[name], "docs/commands.md does not name: %s", name)
		assert.False(t, planned[name], "docs/commands.md still calls planned: %s", name)
	}
	for name := range documented {
		assert.True(t, there[name], "docs/commands.md names a command that is not there: %s", name)
	}
	assert.NotEmpty(t, planned)
}

func TestWrongUseExitsWith2(t *testing.T) {
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"nonsense"}, cli.WrongUse, "unknown command"},
		{[]string{"room", "list"}, cli.WrongUse, "which household?"},
		{[]string{"room", "list", "--nonsense"}, cli.WrongUse, "unknown flag"},
		{[]string{"test", "run", "-H", "H-0001"}, cli.WrongUse, "--probe-within"},
		{[]string{"test", "run", "-H", "H-0001", "--probe-within", "everything"}, cli.WrongUse, "is not a prefix"},
		{[]string{"today", "--address", "http://127.0.0.1:1"}, cli.Failed, "does not answer"},
		{[]string{"serve", "--data", t.TempDir(), "--on-site"}, cli.Failed, "--probe-within"},
		{[]string{"serve", "--data", t.TempDir(), "--log-format", "xml"}, cli.Failed, "text or json"},
		{[]string{"--version"}, cli.Done, "kaiku version"},
	} {
		var out bytes.Buffer
		a := newApp()
		a.In, a.Out, a.Err = strings.NewReader(""), &out, &out
		a.Getenv = func(name string) string {
			return map[string]string{"KAIKU_SESSION_FILE": filepath.Join(t.TempDir(), "none.json")}[name]
		}
		a.Extra = ownCommands(a)
		assert.Equal(t, c.code, a.Run(t.Context(), c.args...), "%v: %s", c.args, out.String())
		assert.Contains(t, out.String(), c.says)
	}
}

func TestServeBeginsWithOneCoordinator(t *testing.T) {
	dir := t.TempDir()
	first, err := start(t.Context(), settings{data: dir, listen: "127.0.0.1:0"}, &bytes.Buffer{})
	require.NoError(t, err)
	assert.Len(t, first.first, 16)
	var out bytes.Buffer
	a := newApp()
	a.In, a.Out, a.Err = strings.NewReader(first.first+"\n"), &out, &out
	file := filepath.Join(dir, "session.json")
	a.Getenv = func(name string) string {
		return map[string]string{"KAIKU_SESSION_FILE": file, "KAIKU_ADDRESS": first.address}[name]
	}
	require.Equal(t, cli.Done, a.Run(t.Context(), "login", "coordinator"), out.String())
	out.Reset()
	require.Equal(t, cli.Done, a.Run(t.Context(), "person", "list", "--format", "csv"), out.String())
	assert.Equal(t, "Name,Log-in name,Role,State\nCoordinator,coordinator,coordinator,\n", out.String())
	out.Reset()
	require.Equal(t, cli.Done, a.Run(t.Context(), "__complete", "--format", "j"), out.String())
	assert.Contains(t, out.String(), "json")
	require.Equal(t, cli.Done, a.Run(t.Context(), "logout"), out.String())
	require.Equal(t, cli.Failed, a.Run(t.Context(), "whoami"))
	require.NoError(t, first.stop())
	again, err := start(t.Context(), settings{data: dir, listen: "127.0.0.1:0"}, &bytes.Buffer{})
	require.NoError(t, err)
	assert.Empty(t, again.first)
	require.NoError(t, again.stop())
}
