package main

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// oldTerms are words and turns of phrase that the console, the commands, the API and the documents
// no longer use, each with what they say instead.
var oldTerms = []struct{ was, now string }{
	{`leave it($|[.,;"])`, "cancel"},
	{`\b(take|takes|taken|took) over (the|all|what|into|by)\b`, "record"},
	{`\bset(s|ting)? (it |them |values )?aside\b`, "ignore, or waive for a test"},
	{`\bgathering|\bgather(ed)?\b`, "scan"},
	{`\blook(s|ed|ing)? (at|into) the network\b`, "scan the network"},
	{`\b(a|the|no|this|that|last|newest) look\b`, "scan"},
	{`\blease (offer|server|pool)s?\b`, "DHCP server, DHCP pool"},
	{`\bhardware address(es)?\b`, "MAC address"},
	{`\b(is|are|was) owed\b|\bowes?\b`, "follow-up"},
	{`\bKaiku (that )?stands\b|\bstands? in the home\b`, "is on the home's network"},
	{`\bstandings?\b`, "status"},
	{`\bexceptions?\b`, "waiver"},
	{`\bthrough a device's eyes\b`, "what each device sees"},
	{`\bheld against\b`, "compared with"},
	{`\bwhat waits for (you|me)\b`, "to do"},
	{`\bby computation\b`, "automatic checks"},
	{`^who has it$`, "custodian"},
	{`\bfold(s|ed)? away\b`, "hide"},
	{`\bbring (a|the|your|this) phone in\b`, "log in on the phone"},
	{`\bthe home drawn\b`, "network drawing"},
	{`\bon nobody's way\b`, "not in use"},
	{`\bsealed?\b`, "encrypted, hidden, saved"},
	{`\beverybody\b`, "everyone"},
	{`\b(is|are) told as\b`, "says, lists"},
	{`\bknown by the name\b`, "called"},
	{`\bthe offer of leases\b`, "DHCP server"},
	{`\bit is said\b`, "Kaiku says"},
}

var oldTermPatterns = func() []*regexp.Regexp {
	var out []*regexp.Regexp
	for _, o := range oldTerms {
		out = append(out, regexp.MustCompile(`(?i)`+o.was))
	}
	return out
}()

var (
	wrongA     = regexp.MustCompile(`\b[Aa] ([aeio]\w*|un[a-hj-z]\w*|[AEIOFHLMNRSX][A-Z0-9]{1,4}\b|mDNS\b)`)
	wrongAn    = regexp.MustCompile(`\b[Aa]n ([b-df-gj-np-tv-z]\w*|h[a-z]\w*|[BCDGJKPQTUVWYZ][A-Z0-9]{1,4}\b|uni\w*|us[ae]\w*)`)
	rightA     = regexp.MustCompile(`(?i)\ba (one|once|LAN|NAT|NAS|RAM|MAC)\b`)
	rightAn    = regexp.MustCompile(`(?i)\ban (hour\w*|https?|mDNS)\b`)
	twoStops   = regexp.MustCompile(`[^.]\.\.([^./]|$)|[^.]\.,|,\.|\?\.|!\.`)
	noSpace    = regexp.MustCompile(`[a-z)]{2}[.?!][A-Z][a-z]`)
	spaceStop  = regexp.MustCompile(`\w [,.;:?!](\s|$)`)
	slotLeft   = regexp.MustCompile(`\{[a-z][a-zA-Z]*\}`)
	doubleWord = regexp.MustCompile(`(?i)\b(the the|a a|is is|of of|to to|in in|and and)\b`)
)

// oldTerm returns which old term a text uses and what it says instead, or "".
func oldTerm(text string) string {
	for n, p := range oldTermPatterns {
		if found := p.FindString(text); found != "" {
			return strconv.Quote(found) + " is now: " + oldTerms[n].now
		}
	}
	return ""
}

// unplain returns what is wrong with a text that people read, or "".
func unplain(text string) string {
	if old := oldTerm(text); old != "" {
		return old
	}
	for _, article := range []struct{ wrong, right *regexp.Regexp }{{wrongA, rightA}, {wrongAn, rightAn}} {
		if found := article.wrong.FindString(text); found != "" && !article.right.MatchString(text) {
			return "article: " + found
		}
	}
	for what, p := range map[string]*regexp.Regexp{"doubled stop": twoStops, "no space after a sentence": noSpace, "space before a stop": spaceStop, "a word twice": doubleWord} {
		if found := p.FindString(text); found != "" {
			return what + ": " + found
		}
	}
	return ""
}

func TestUnplainFindsWhatItShould(t *testing.T) {
	for _, wrong := range []string{"Take over all 3", "a interface", "An device", "It ended.. Then", "It ended.Then more", "Wait , please", "the the end", "A SMB share", "Its lease pool", "an unique name"} {
		assert.NotEmpty(t, unplain(wrong), wrong)
	}
	for _, right := range []string{"a one-off", "an hour", "a UPnP server", "an SMB share", "a unit", "Reading ...", "a URL", "an M3U file", "version 1.2.Then", "a NAS", "kaiku.toml is there"} {
		assert.Empty(t, unplain(right), right)
	}
}

// notSentences are literals of a program that nobody reads: SQL, patterns, documents of protocols.
var notSentences = regexp.MustCompile(`(?s)^(SELECT|INSERT|UPDATE|DELETE|CREATE|PRAGMA|WITH|DROP|ALTER|VACUUM|EXPLAIN) |<[a-zA-Z?/!]|\\b|\(\?|\bWHERE\b|\bJOIN\b|\r\n|^#EXT|\x00|=\?| IN \(|\bLIKE\b| OR keys|kind IN|\{\{|^# `)

// Every text in the program that could reach a person is in plain English: string literals with a
// blank in them and the help and titles of records, of all packages.
func TestTextsOfTheProgramArePlain(t *testing.T) {
	seen := 0
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git" || d.Name() == "dist" || d.Name() == "bin" || d.Name() == "console") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, path, nil, 0)
		require.NoError(t, err)
		tags := map[*ast.BasicLit]bool{}
		check := func(at token.Pos, text string) {
			if !strings.Contains(text, " ") || notSentences.MatchString(text) {
				return
			}
			seen++
			if wrong := unplain(text); wrong != "" {
				t.Errorf("%s: %s in %q", set.Position(at), wrong, text)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.Field:
				if n.Tag != nil {
					tags[n.Tag] = true
					text, err := strconv.Unquote(n.Tag.Value)
					require.NoError(t, err)
					for _, key := range []string{"doc", "title", "part"} {
						check(n.Pos(), reflect.StructTag(text).Get(key))
					}
				}
			case *ast.BasicLit:
				if n.Kind == token.STRING && !tags[n] {
					text, err := strconv.Unquote(n.Value)
					require.NoError(t, err)
					check(n.Pos(), text)
				}
			}
			return true
		})
		return nil
	}))
	assert.Greater(t, seen, 2000)
}

var (
	vueScript  = regexp.MustCompile(`(?s)<script.*?</script>|<style.*?</style>`)
	vueMoving  = regexp.MustCompile(`(?s)\{\{.*?\}\}`)
	vueTag     = regexp.MustCompile(`(?s)</?[a-zA-Z](?:[^<>"]|"[^"]*")*>`)
	vueQuoted  = regexp.MustCompile("'([^'\\n]* [^'\\n]*)'|`([^`\\n]* [^`\\n]*)`")
	vueShown   = regexp.MustCompile(`\s(?:label|title|hint|placeholder|how|aria-label)="([^"]+)"`)
	vueEntity  = regexp.MustCompile(`&[a-z]+;`)
	vueComment = regexp.MustCompile(`(?m)^import .*$|<!--.*?-->`)
)

// The texts of the console's pages are plain, in the templates as in the scripts.
func TestTextsOfTheConsoleArePlain(t *testing.T) {
	seen := 0
	require.NoError(t, filepath.WalkDir("../../console/src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(path, "schema.d.ts") || strings.HasSuffix(path, ".css") {
			return err
		}
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		text := vueComment.ReplaceAllString(string(b), "")
		var texts []string
		for _, m := range vueShown.FindAllStringSubmatch(text, -1) {
			texts = append(texts, m[1])
		}
		for _, m := range vueQuoted.FindAllStringSubmatch(text, -1) { // code stands between some quotes, so that stops say nothing
			if old := oldTerm(m[1] + m[2]); old != "" {
				t.Errorf("%s: %s", path, old)
			}
		}
		if strings.HasSuffix(path, ".vue") {
			bare := vueMoving.ReplaceAllString(vueScript.ReplaceAllString(text, ""), "0")
			texts = append(texts, strings.FieldsFunc(vueEntity.ReplaceAllString(vueTag.ReplaceAllString(bare, "\n"), " "), func(r rune) bool { return r == '\n' })...)
		}
		for _, one := range texts {
			seen++
			if wrong := unplain(strings.TrimSpace(one)); wrong != "" && !strings.Contains(one, "=>") {
				t.Errorf("%s: %s in %q", path, wrong, one)
			}
		}
		return nil
	}))
	assert.Greater(t, seen, 800)
}

// So is the help of every command, with the defaults and words that the library adds to it.
func TestHelpIsPlain(t *testing.T) {
	a := newApp()
	a.Getenv = func(string) string { return "" }
	a.Extra = ownCommands(a)
	var walk func(c *cobra.Command)
	walk = func(c *cobra.Command) {
		check := func(text string) {
			for line := range strings.Lines(text) {
				if wrong := unplain(strings.TrimSpace(line)); wrong != "" {
					t.Errorf("%s: %s in %q", c.CommandPath(), wrong, line)
				}
			}
		}
		check(c.Short)
		check(c.Long)
		if !c.HasSubCommands() {
			assert.Contains(t, c.Example, c.CommandPath(), "an example of "+c.CommandPath())
		}
		c.Flags().VisitAll(func(f *pflag.Flag) { check(f.Usage) })
		for _, sub := range c.Commands() {
			if sub.Name() != "completion" && sub.Name() != "help" {
				walk(sub)
			}
		}
	}
	walk(a.Root())
}

// So is what the API says of itself.
func TestTheAPIIsDescribedPlainly(t *testing.T) {
	b, err := os.ReadFile("../../httpapi/openapi.json")
	require.NoError(t, err)
	var document any
	require.NoError(t, json.Unmarshal(b, &document))
	var walk func(at string, v any)
	walk = func(at string, v any) {
		switch v := v.(type) {
		case map[string]any:
			for key, one := range v {
				if text, ok := one.(string); ok && (key == "description" || key == "summary" || key == "title") {
					if wrong := unplain(text); wrong != "" {
						t.Errorf("%s: %s in %q", at, wrong, text)
					}
				}
				walk(at+"/"+key, one)
			}
		case []any:
			for n, one := range v {
				walk(at+"/"+strconv.Itoa(n), one)
			}
		}
	}
	walk("", document)
}

// So are the documents.
func TestDocumentsArePlain(t *testing.T) {
	files, err := filepath.Glob("../../docs/*.md")
	require.NoError(t, err)
	code := regexp.MustCompile("(?s)```.*?```|`[^`]*`")
	for _, file := range append(files, "../../README.md") {
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		for n, line := range strings.Split(code.ReplaceAllStringFunc(string(b), func(s string) string { return "x" + strings.Repeat("\n", strings.Count(s, "\n")) }), "\n") {
			if wrong := unplain(line); wrong != "" && !strings.HasPrefix(line, "    ") {
				t.Errorf("%s:%d: %s in %q", file, n+1, wrong, line)
			}
		}
	}
}
