// Sabotage makes careless edits to the code, one at a time and never in the tree itself, and says
// which of them no test notices. The edits stand in scripts/sabotages.
package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// edit is one careless edit: in a file, each line of from becomes that of to, and packages are tested.
type edit struct {
	what, file string
	test       []string // packages, the quickest first
	from, to   string
}

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// run tries all edits, or those whose description or file contains one of the words.
func run(words []string) error {
	edits, err := read("scripts/sabotages")
	if err != nil {
		return err
	}
	// Hundreds of builds of one commit do not belong into the cache of everyday work.
	cache, err := os.MkdirTemp("", "kaiku-sabotage-cache-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(cache)
	if err := os.Setenv("GOCACHE", cache); err != nil {
		return err
	}
	noticed, tried := 0, 0
	var errs error
	for _, e := range edits {
		if !wanted(e, words) {
			continue
		}
		tried++
		ok, err := e.noticed()
		switch {
		case err != nil:
			errs = errors.Join(errs, fmt.Errorf("%s: %w", e.what, err))
		case ok:
			noticed++
			fmt.Printf("  noticed      %s\n", e.what)
		default:
			fmt.Printf("  NOT NOTICED  %s (%s)\n", e.what, e.file)
		}
	}
	fmt.Printf("%d of %d careless edits were noticed\n", noticed, tried)
	if noticed < tried && errs == nil {
		errs = errors.New("each needs a test that fails with it")
	}
	return errs
}

func wanted(e edit, words []string) bool {
	for _, w := range words {
		if strings.Contains(e.what, w) || strings.Contains(e.file, w) {
			return true
		}
	}
	return len(words) == 0
}

// read reads edits, parted by empty lines: what it is, file and arguments of go test, then lines that are
// taken away with "-" and put in with "+".
func read(file string) ([]edit, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out []edit
	e := edit{}
	flush := func() {
		if e.file != "" {
			out = append(out, e)
		}
		e = edit{}
	}
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		line := lines.Text()
		switch {
		case strings.TrimSpace(line) == "":
			flush()
		case strings.HasPrefix(line, "//"):
		case strings.HasPrefix(line, "# "):
			e.what = line[2:]
		case strings.HasPrefix(line, "-"):
			e.from += line[1:] + "\n"
		case strings.HasPrefix(line, "+"):
			e.to += line[1:] + "\n"
		default:
			words := strings.Fields(line)
			if len(words) < 2 || e.what == "" {
				return nil, fmt.Errorf("%s: %q names no file and package, or nothing said what it is", file, line)
			}
			e.file, e.test = words[0], words[1:]
		}
	}
	flush()
	return out, lines.Err()
}

// noticed reports whether the tests fail with the edit. An edit that does not compile is an error:
// it would be noticed by anything.
func (e edit) noticed() (bool, error) {
	dir, err := os.MkdirTemp("", "kaiku-sabotage-")
	if err != nil {
		return false, err
	}
	defer os.RemoveAll(dir)
	b, err := os.ReadFile(e.file)
	if err != nil {
		return false, err
	}
	from, to := strings.TrimSuffix(e.from, "\n"), strings.TrimSuffix(e.to, "\n")
	if n := strings.Count(string(b), from); n != 1 {
		return false, fmt.Errorf("what it changes stands %d times in %s; bring scripts/sabotages up to date", n, e.file)
	}
	changed := filepath.Join(dir, "changed.go")
	if err := os.WriteFile(changed, []byte(strings.Replace(string(b), from, to, 1)), 0o600); err != nil {
		return false, err
	}
	at, err := filepath.Abs(e.file)
	if err != nil {
		return false, err
	}
	overlay, err := json.Marshal(map[string]any{"Replace": map[string]string{at: changed}})
	if err != nil {
		return false, err
	}
	list := filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(list, overlay, 0o600); err != nil {
		return false, err
	}
	net, err := filepath.Abs("scripts/own-net")
	if err != nil {
		return false, err
	}
	for _, p := range e.test { // the quick ones stand first
		out, err := exec.Command("go", "test", "-count=1", "-failfast", "-overlay", list, "-exec", net, p).CombinedOutput() //nolint:gosec // our own list
		if err == nil {
			continue
		}
		if !strings.Contains(string(out), "--- FAIL") && !strings.Contains(string(out), "panic: ") {
			return false, fmt.Errorf("it does not compile, or the tests did not run:\n%s", out)
		}
		return true, nil
	}
	return false, nil
}
