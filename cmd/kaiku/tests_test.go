package main

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// habits are what no test does, with the reason.
var habits = map[string]*regexp.Regexp{
	"any error will do: say which, with ErrorIs, ErrorAs, ErrorContains or a code": regexp.MustCompile(`(assert|require)\.Error\(t,`),
	"it sleeps: wait for what it waits for":                                        regexp.MustCompile(`time\.Sleep\(`),
	"it asserts that something is quick: that belongs into make bench":             regexp.MustCompile(`(Less|LessOrEqual|WithinDuration)\(t, time\.Since`),
}

// slow has stand-ins that are slow on purpose.
const slow = "../../probe/hostile_test.go"

func TestTestsSayWhatTheyExpect(t *testing.T) {
	root := "../.."
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if err != nil || !strings.HasSuffix(path, "_test.go") || d.Name() == "tests_test.go" {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		for n, line := range strings.Split(string(text), "\n") {
			for why, habit := range habits {
				if habit.MatchString(line) && !(strings.HasPrefix(why, "it sleeps") && path == slow) {
					t.Errorf("%s:%d: %s", path, n+1, why)
				}
			}
		}
		return nil
	}))
	_, err := os.Stat(slow)
	assert.NoError(t, err)
}
