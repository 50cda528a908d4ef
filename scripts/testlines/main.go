// Command testlines reads what go test -json writes, shows it as go test does, and at the end appends to a file what
// was skipped and why: a test that did not run proves nothing, and must not go unnoticed among those that passed.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
)

// event is one line of go test -json (go doc test2json).
type event struct {
	Action, Package, Test, Output, ImportPath string
	Elapsed                                   float64
}

func main() {
	skipped, failed, err := show(os.Stdin, os.Stdout, len(os.Args) > 2 && os.Args[2] == "all")
	if err == nil && len(os.Args) > 1 && len(skipped) > 0 {
		err = appendTo(os.Args[1], skipped)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	if err != nil || failed {
		os.Exit(1)
	}
}

// show writes every package with how it went and what failing tests said, or with all what every test said as it
// comes. It returns a line for each skipped test.
func show(from io.Reader, to io.Writer, all bool) (skipped []string, failed bool, err error) {
	said := map[string]*strings.Builder{}
	of := func(e event) *strings.Builder {
		key := e.Package + " " + e.Test
		if said[key] == nil {
			said[key] = &strings.Builder{}
		}
		return said[key]
	}
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 16<<20)
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Fprintln(to, lines.Text()) // of the compiler or the linker
			continue
		}
		switch {
		case e.Action == "build-output":
			fmt.Fprint(to, e.Output)
		case e.Action == "output":
			of(e).WriteString(e.Output)
			if all && !framework(e.Output) {
				fmt.Fprint(to, e.Output)
			}
		case e.Action == "skip" && e.Test != "":
			skipped = append(skipped, e.Package+" "+e.Test+": "+reason(of(e).String()))
		case e.Action == "fail":
			failed = true
			if !all {
				fmt.Fprint(to, of(e))
			}
		case e.Action == "pass" && e.Test == "":
			fmt.Fprintf(to, "ok  \t%s\t%.1fs\n", e.Package, e.Elapsed)
		}
		if e.Action == "pass" || e.Action == "fail" || e.Action == "skip" {
			delete(said, e.Package+" "+e.Test)
		}
	}
	return skipped, failed, lines.Err()
}

// framework reports whether a line is about how tests go, and nothing that a test said.
func framework(line string) bool {
	line = strings.TrimLeft(line, " ")
	for _, of := range []string{"=== ", "--- PASS", "--- SKIP", "PASS", "ok  \t"} {
		if strings.HasPrefix(line, of) {
			return true
		}
	}
	return false
}

// reason is what a skipped test gave as its reason.
func reason(output string) string {
	for line := range strings.Lines(output) {
		if at := strings.Index(line, ".go:"); at >= 0 {
			if _, said, found := strings.Cut(line[at+4:], ": "); found {
				return strings.TrimSpace(said)
			}
		}
	}
	return "no reason given"
}

func appendTo(file string, lines []string) error {
	f, err := os.OpenFile(file, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644) //nolint:gosec // for whoever reads the results
	if err != nil {
		return err
	}
	_, err = io.WriteString(f, strings.Join(lines, "\n")+"\n")
	if closed := f.Close(); err == nil {
		err = closed
	}
	return err
}
