package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"os"
	"os/exec"
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
	program, err := filepath.Abs("../../bin/kaiku-practice")
	require.NoError(t, err)
	t.Setenv("KAIKU_PRACTICE_PROGRAM", program)
	var out, errs bytes.Buffer
	err = playStory(t.Context(), &out, &errs)
	require.NoError(t, err, "%s\n%s", out.String(), errs.String())
	assert.Empty(t, errs.String())
	assert.NotRegexp(t, slotLeft, out.String())
	for _, line := range strings.Split(out.String(), "\n") {
		if !strings.HasPrefix(line, "$") && !strings.HasPrefix(line, "kaiku:") && strings.Contains(line, "─") {
			assert.LessOrEqual(t, len([]rune(line)), 100, "a table wider than 100 columns")
		}
	}
}

// allowedArrows says what each room of the house may import of the others.
var allowedArrows = map[string][]string{
	"core/dossier":       {},
	"homes":              {"core/dossier"},
	"core/knowledge":     {"core/dossier"},
	"core/pathkind":      {"core/dossier"},
	"core/demand":        {"core/dossier"},
	"core/throughput":    {},
	"core/titles":        {"core/dossier"},
	"core/contents":      {"core/demand", "core/dossier", "core/format", "core/titles"},
	"core/network":       {"core/dossier", "core/knowledge", "core/format", "core/pathkind", "core/demand", "core/throughput"},
	"core/survey":        {"core/dossier", "core/network"},
	"core/format":        {"core/dossier"},
	"core/load":          {"core/dossier", "core/demand", "core/throughput"},
	"core/forecast":      {"core/dossier", "core/knowledge", "core/demand", "core/format", "core/pathkind"},
	"core/matching":      {"core/dossier", "core/format"},
	"core/proving":       {"core/dossier", "core/knowledge", "core/pathkind", "core/network"},
	"core/entry":         {"core/dossier", "core/proving"},
	"core/remedy":        {"core/dossier", "core/proving"},
	"core/suspects":      {"core/dossier", "core/knowledge", "core/load", "core/network", "core/proving"},
	"core/recurring":     {"core/dossier"},
	"core/custody":       {"core/dossier", "core/network", "core/proving", "core/survey"},
	"core/assess":        {"core/dossier", "core/knowledge", "core/forecast", "core/load", "core/network", "core/proving", "core/survey", "core/custody"},
	"core/propose":       {"core/dossier", "core/pathkind", "core/network", "core/forecast", "core/load", "core/proving", "core/assess"},
	"core/summary":       {"core/dossier", "core/network", "core/proving", "core/custody", "core/assess"},
	"media":              {"core/contents", "core/demand", "core/dossier", "core/format"},
	"wording":            {"core/"},
	"wire":               {"core/"},
	"store":              {"core/"},
	"multicast":          {},
	"safely":             {},
	"probe":              {"core/", "media", "multicast", "papers", "safely", "wire"},
	"practice":           {"multicast", "practice/layout"},
	"practice/layout":    {},
	"practice/watching":  {},
	"papers":             {"core/", "wire", "wording"},
	"reel":               {"core/", "media"},
	"makers":             {"core/dossier"},
	"views":              {"core/", "makers", "papers", "wire", "wording"},
	"service":            {"core/", "papers", "reel", "safely", "store", "views", "wire", "wording"},
	"httpapi":            {"core/", "service", "wire", "wording"},
	"client":             {"core/", "wire"},
	"cli":                {"core/", "client", "media", "probe", "practice/layout", "reel", "views", "wire", "wording"},
	"demo":               {"core/", "service", "wire", "wording", "probe", "practice/layout"},
	"console":            {},
	"cmd/kaiku":          {""},
	"cmd/kaiku-practice": {"practice", "practice/layout"},
	"e2e":                {"demo"},

	"scripts/testlines":      {},
	"scripts/calibration":    {},
	"scripts/sabotage":       {},
	"scripts/mutants":        {"scripts/mutants/mutant"},
	"scripts/mutants/mutant": {},
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
				if strings.HasPrefix(rel, "core/") {
					assert.NotContains(t, strings.Split(to, "/")[0], ".", "%s: the core imports the standard library only, not %s", path, to)
					assert.NotContains(t, []string{"net/http", "os", "database/sql", "io/fs", "os/exec"}, to, "%s: the core does no input or output", path)
				}
				continue
			}
			ok := slices.ContainsFunc(allowed, func(a string) bool {
				return a == "" || inside == a || strings.HasSuffix(a, "/") && strings.HasPrefix(inside, a)
			})
			assert.True(t, ok, "%s may not import %s", rel, inside)
			assert.NotEqual(t, "homes", inside, "homes are for tests")
		}
		return nil
	}))
	for room := range allowedArrows {
		if room != "e2e" {
			assert.True(t, seen[room], "no such room: %s", room)
		}
	}
}

// What Kaiku is installed as carries none of the servers that the practice house is made of.
func TestThePracticeHouseIsAProgramOfItsOwn(t *testing.T) {
	parts := func(program string) []string {
		out, err := exec.Command("go", "list", "-deps", program).Output()
		require.NoError(t, err)
		return strings.Fields(string(out))
	}
	kaiku, house := parts("kaiku/cmd/kaiku"), parts("kaiku/cmd/kaiku-practice")
	for _, one := range []string{"kaiku/practice", "github.com/willscott/go-nfs", "github.com/go-git/go-billy/v5", "github.com/huin/goupnp"} {
		assert.NotContains(t, kaiku, one)
		assert.Contains(t, house, one)
	}
	assert.NotContains(t, house, "kaiku/service")
	assert.NotContains(t, house, "kaiku/store")
}

// Each library that is used is explained, and none that is not.
func TestLibrariesAreExplained(t *testing.T) {
	text, err := os.ReadFile("../../docs/libraries.md")
	require.NoError(t, err)
	var explained, used []string
	for _, line := range strings.Split(string(text), "\n") {
		cell, _, _ := strings.Cut(strings.TrimPrefix(line, "| "), " |")
		for _, m := range regexp.MustCompile("`([^`]+)`").FindAllStringSubmatch(cell, -1) {
			if strings.HasPrefix(line, "| `") {
				explained = append(explained, m[1])
			}
		}
	}
	mod, err := os.ReadFile("../../go.mod")
	require.NoError(t, err)
	for _, line := range strings.Split(string(mod), "\n") {
		if name, rest, ok := strings.Cut(strings.TrimSpace(line), " "); ok && strings.Contains(name, ".") && !strings.Contains(rest, "// indirect") {
			used = append(used, name)
		}
	}
	var console struct{ Dependencies, DevDependencies map[string]string }
	text, err = os.ReadFile("../../console/package.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &console))
	used = slices.AppendSeq(slices.AppendSeq(used, maps.Keys(console.Dependencies)), maps.Keys(console.DevDependencies))
	assert.ElementsMatch(t, used, explained)
}

// What docs/security.md says of a test is said of one that exists.
func TestSecurityNamesTestsThatExist(t *testing.T) {
	text, err := os.ReadFile("../../docs/security.md")
	require.NoError(t, err)
	there := map[string]bool{}
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() && d.Name() == "node_modules" {
			return filepath.SkipDir
		}
		if err != nil || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		code, err := os.ReadFile(path)
		for _, m := range regexp.MustCompile(`(?m)^func (Test\w+)\(`).FindAllStringSubmatch(string(code), -1) {
			there[m[1]] = true
		}
		return err
	}))
	for _, m := range regexp.MustCompile("`(Test\\w+)`").FindAllStringSubmatch(string(text), -1) {
		assert.True(t, there[m[1]], "there is no %s", m[1])
	}
	for _, row := range regexp.MustCompile(`(?m)^\| (\d[\d.]*) \|[^|]*\| ([^|]*) \|`).FindAllStringSubmatch(string(text), -1) {
		assert.Contains(t, []string{"yes", "part", "no", "n/a"}, row[2], row[1])
	}
}

// Each room with Go code is built, checked and tested by make.
func TestMakeKnowsAllRooms(t *testing.T) {
	text, err := os.ReadFile("../../Makefile")
	require.NoError(t, err)
	var made []string
	for _, list := range []string{"GO_PACKAGES", "IN_REAL_TIME"} {
		_, line, _ := strings.Cut(string(text), "\n"+list+" := ")
		line, _, _ = strings.Cut(line, "\n")
		made = append(made, strings.Fields(line)...)
	}
	for room := range allowedArrows {
		assert.True(t, room == "e2e" || slices.ContainsFunc(made, func(p string) bool {
			below, all := strings.CutSuffix(p, "/...")
			return p == "./"+room || all && ("./"+room == below || strings.HasPrefix("./"+room, below+"/"))
		}), room)
	}
}

var update = flag.Bool("update", false, "write the table of commands anew")

const tableStart, tableEnd = "<!-- The table is written by: go test ./cmd/kaiku -run CommandsAreDocumented -update -->\n", "<!-- End of the table -->\n"

// Table and program together: docs/commands.md has every command under its heading, in the words of
// its own help, and none that does not exist.
func TestCommandsAreDocumented(t *testing.T) {
	text, err := os.ReadFile("../../docs/commands.md")
	require.NoError(t, err)
	before, rest, ok := strings.Cut(string(text), tableStart)
	require.True(t, ok)
	table, after, ok := strings.Cut(rest, tableEnd)
	require.True(t, ok)
	a := newApp()
	a.Getenv = func(string) string { return "" }
	a.Extra = ownCommands(a)
	root := a.Root()
	var want strings.Builder
	for _, g := range root.Groups() {
		fmt.Fprintf(&want, "\n### %s\n\n| command | what it does |\n|---|---|\n", g.Title[:len(g.Title)-1])
		for _, c := range root.Commands() {
			if c.GroupID == g.ID {
				commandRows(&want, c, "")
			}
		}
	}
	want.WriteString("\n")
	if *update {
		require.NoError(t, os.WriteFile("../../docs/commands.md", []byte(before+tableStart+want.String()+tableEnd+after), 0o644))
		return
	}
	assert.Equal(t, want.String(), table, "write the table anew with -update")
	for _, m := range regexp.MustCompile("(?m)^    kaiku ([a-z -]+)").FindAllStringSubmatch(before+after, -1) {
		c, _, err := root.Find(strings.Fields(m[1]))
		require.NoError(t, err, m[0])
		assert.NotSame(t, root, c, m[0])
	}
}

// everyKind are the verbs that kinds have in common; a noun with all of them and no words of its own
// takes one row.
var everyKind = []string{"list", "show", "add", "set", "remove"}

func commandRows(out *strings.Builder, c *cobra.Command, prefix string) {
	name := strings.TrimSpace(prefix + " " + c.Name())
	if c.Name() == "help" || c.Name() == "completion" {
		return
	}
	if !c.HasSubCommands() {
		fmt.Fprintf(out, "| `%s` | %s |\n", name, c.Short)
		return
	}
	common := 0
	for _, sub := range c.Commands() {
		if slices.Contains(everyKind, sub.Name()) {
			common++
		}
	}
	if common == len(everyKind) {
		fmt.Fprintf(out, "| `%s list`, `show`, `add`, `set`, `remove` | %s |\n", name, c.Short)
	}
	for _, sub := range c.Commands() {
		if common < len(everyKind) || !slices.Contains(everyKind, sub.Name()) {
			commandRows(out, sub, name)
		}
	}
}

func TestWrongUseExitsWith2(t *testing.T) {
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"nonsense"}, cli.WrongUse, "no command"},
		{[]string{"room", "list"}, cli.WrongUse, "no household given"},
		{[]string{"room", "list", "--nonsense"}, cli.WrongUse, "no flag"},
		{[]string{"test", "run", "-H", "H-0001"}, cli.WrongUse, "--probe-within"},
		{[]string{"test", "run", "-H", "H-0001", "--probe-within", "everything"}, cli.WrongUse, "is not a prefix"},
		{[]string{"today", "--url", "http://127.0.0.1:1"}, cli.Failed, "does not answer"},
		{[]string{"serve", "--data", t.TempDir(), "--on-site"}, cli.Failed, "--probe-within"},
		{[]string{"serve", "--data", t.TempDir(), "--log-format", "xml"}, cli.Failed, "text or json"},
		{[]string{"--version"}, cli.Done, "development"},
		{[]string{"version"}, cli.Done, "development"},
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
		return map[string]string{"KAIKU_SESSION_FILE": file, "KAIKU_URL": first.address}[name]
	}
	require.Equal(t, cli.Done, a.Run(t.Context(), "login", "coordinator"), out.String())
	out.Reset()
	require.Equal(t, cli.Done, a.Run(t.Context(), "person", "list", "--format", "csv"), out.String())
	assert.Equal(t, "Name,Log-in name,Role,State\nCoordinator,coordinator,coordinator,\n", out.String())
	out.Reset()
	require.Equal(t, cli.Done, a.Run(t.Context(), "__complete", "room", "list", "--format", "j"), out.String())
	assert.Contains(t, out.String(), "json")
	require.Equal(t, cli.Done, a.Run(t.Context(), "logout"), out.String())
	require.Equal(t, cli.Failed, a.Run(t.Context(), "whoami"))
	require.NoError(t, first.stop())

	// The password has not been shown: a start that ended before that is made again, and shows another one.
	second, err := start(t.Context(), settings{data: dir, listen: "127.0.0.1:0"}, &bytes.Buffer{})
	require.NoError(t, err)
	assert.Len(t, second.first, 16)
	assert.NotEqual(t, first.first, second.first)
	require.NoError(t, second.service.FirstShown(t.Context()))
	require.NoError(t, second.stop())
	again, err := start(t.Context(), settings{data: dir, listen: "127.0.0.1:0"}, &bytes.Buffer{})
	require.NoError(t, err)
	assert.Empty(t, again.first)
	require.NoError(t, again.stop())
}
