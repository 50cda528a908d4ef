// Mutants changes the code in small ways, package by package, and lists the changes that no test notices. Tests should
// notice 85 % of them in core and store, and 75 % elsewhere. Changes that make no visible difference are listed in
// scripts/mutants.equivalent, each with the reason.
//
// All changes of a package are compiled at once, each behind a switch, and never in the tree itself: what takes long
// is running the tests, and of them only those that come to the place of a change are run. How far it is, it tells on
// the standard error; Ctrl-C ends it.
package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"go/importer"
	"go/token"
	"io"
	"maps"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

// asWell names the packages whose tests try another package, beside its own: what a service does is mostly asked of
// its API. Of them, only those are run that take no longer than longestOfOthers.
var asWell = map[string][]string{"./service": {"./httpapi"}}

const longestOfOthers = 3 * time.Second

const equivalents = "scripts/mutants.equivalent"

func main() {
	workers := flag.Int("workers", 1, "how many changes are tried at a time; tests that wait long for others may fail by it")
	files := flag.String("files", "", "change only these files, parted by commas")
	every := flag.Int("every", 1, "try only one of so many changes, spread evenly")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	opts := options{progress: os.Stderr, workers: *workers, every: *every, files: strings.FieldsFunc(*files, func(r rune) bool { return r == ',' })}
	if err := run(ctx, os.Stdout, flag.Args(), opts); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// options say how much is tried of each package.
type options struct {
	workers, every int
	files          []string
	progress       io.Writer
}

// run tries the packages with these names, or those with an aim, and writes what came of it.
func run(ctx context.Context, to io.Writer, names []string, opts options) error {
	if opts.workers < 1 || opts.every < 1 {
		return errors.New("-workers and -every are 1 or more")
	}
	if len(names) == 0 {
		names = []string{"./core/...", "./store", "./service", "./httpapi"}
	}
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	packages, err := list(ctx, append([]string{"-test"}, names...)...)
	if err != nil {
		return err
	}
	known, err := readEquivalents(equivalents)
	if err != nil {
		return err
	}
	var errs error
	for _, p := range packages {
		if len(p.TestGoFiles)+len(p.XTestGoFiles) == 0 || p.ForTest != "" {
			continue
		}
		if err := one(ctx, to, root, p, known, opts); err != nil {
			errs = errors.Join(errs, fmt.Errorf("%s: %w", inTree(root, p.Dir), err))
		}
		if ctx.Err() != nil {
			break
		}
	}
	return errs
}

// one tries the changes of a package.
func one(ctx context.Context, to io.Writer, root string, p listed, known map[string]bool, opts options) error {
	name := "./" + inTree(root, p.Dir)
	dir, err := os.MkdirTemp("", "kaiku-mutants-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	fmt.Fprintf(opts.progress, "%s: compiles\n", name)
	deps, err := list(ctx, "-export", "-deps", name)
	if err != nil {
		return err
	}
	exports := map[string]string{}
	for _, d := range deps {
		exports[d.ImportPath] = d.Export
	}
	lookup := func(path string) (io.ReadCloser, error) { return os.Open(exports[path]) }
	wanted := func(name string) bool {
		return len(opts.files) == 0 || slices.Contains(opts.files, filepath.Base(name))
	}
	all, made, err := changes(root, p.ImportPath, join(p.Dir, p.GoFiles), wanted, importer.ForCompiler(token.NewFileSet(), "gc", lookup))
	if err != nil {
		return err
	}
	if len(all) == 0 {
		fmt.Fprintf(to, "%s: nothing to change\n", name)
		return nil
	}
	overlay := map[string]string{}
	for i, f := range made {
		at := filepath.Join(dir, fmt.Sprintf("%d.go", i))
		if err := os.WriteFile(at, f.body, 0o600); err != nil {
			return err
		}
		overlay[f.name] = at
	}
	listFile := filepath.Join(dir, "overlay.json")
	b, err := json.Marshal(map[string]any{"Replace": overlay})
	if err != nil {
		return err
	}
	if err := os.WriteFile(listFile, b, 0o600); err != nil {
		return err
	}
	var suites []*suite
	for i, tested := range append([]string{name}, asWell[name]...) {
		s := &suite{root: root, dir: filepath.Join(root, tested), binary: filepath.Join(dir, fmt.Sprintf("%d.test", i))}
		if i > 0 {
			s.longest = longestOfOthers
		}
		// What vet and a debugger look at does not decide whether a test notices.
		build := exec.CommandContext(ctx, "go", "test", "-c", "-vet=off", "-ldflags=-w", "-overlay", listFile, "-o", s.binary, tested)
		if out, err := build.CombinedOutput(); err != nil {
			return fmt.Errorf("the changed code does not compile: %w\n%s", err, out)
		}
		fmt.Fprintf(opts.progress, "%s: which test of %s comes to which place\n", name, tested)
		if err := s.learn(ctx); err != nil {
			return err
		}
		suites = append(suites, s)
	}
	results, err := try(ctx, name, all, suites, opts)
	if err != nil {
		fmt.Fprintf(to, "%s: ended before all was tried; what follows is of the part that was\n", name)
	}
	report(to, name, all, results, known, len(opts.files) == 0 && opts.every == 1 && err == nil)
	return err
}

// outcome is what came of one change; of several suites, the greatest counts.
type outcome int

const (
	notTried outcome = iota
	notReached
	lived
	neverEnded
	noticed
)

// try tries one of so many changes, several at a time. It ends at the first that cannot be tried.
func try(ctx context.Context, name string, all []change, suites []*suite, opts options) ([]outcome, error) {
	ctx, end := context.WithCancelCause(ctx)
	defer end(nil)
	out := make([]outcome, len(all))
	next := make(chan int)
	var wg sync.WaitGroup
	var mu sync.Mutex
	for range opts.workers {
		wg.Go(func() {
			for i := range next {
				o, err := ofAny(ctx, suites, all[i])
				if err != nil {
					end(err)
					continue
				}
				mu.Lock()
				out[i] = o
				fmt.Fprintf(opts.progress, "%s: %d of %d %s %s\n", name, i+1, len(all), all[i].place(), words[o])
				mu.Unlock()
			}
		})
	}
	for i := 0; i < len(all) && ctx.Err() == nil; i += opts.every {
		next <- i
	}
	close(next)
	wg.Wait()
	return out, context.Cause(ctx)
}

// ofAny tries a change with one suite after the other, until one notices it.
func ofAny(ctx context.Context, suites []*suite, c change) (outcome, error) {
	o := notReached
	for _, s := range suites {
		of, err := s.try(ctx, c.n)
		if err != nil {
			return notTried, err
		}
		if o = max(o, of); o > lived {
			break
		}
	}
	return o, nil
}

var words = map[outcome]string{notReached: "not come to", noticed: "noticed", neverEnded: "noticed: the tests did not end", lived: "NOT NOTICED"}

func report(to io.Writer, name string, all []change, results []outcome, known map[string]bool, whole bool) {
	count := map[outcome]int{}
	var left []string
	equivalent := 0
	seen := map[string]bool{}
	for i, o := range results {
		key := all[i].key()
		seen[key] = seen[key] || o == lived
		if o == lived && known[key] {
			equivalent++
			continue
		}
		count[o]++
		if o == lived {
			left = append(left, all[i].place()+" "+all[i].kind+": "+all[i].code)
		}
	}
	aim := 75
	if strings.HasPrefix(name, "./core/") || strings.HasPrefix(name, "./store") {
		aim = 85
	}
	killed := count[noticed] + count[neverEnded]
	tried := killed + count[lived]
	if tried == 0 {
		fmt.Fprintf(to, "%s: nothing was tried that a test comes to\n", name)
		return
	}
	fmt.Fprintf(to, "%s: %d of %d noticed, %d %% (aim %d %%); %d of them by tests that did not end; %d can be seen by no test; %d more lie where no test goes\n",
		name, killed, tried, 100*killed/tried, aim, count[neverEnded], equivalent, count[notReached])
	for _, l := range left {
		fmt.Fprintln(to, "  not noticed: "+l)
	}
	for _, key := range slices.Sorted(maps.Keys(known)) {
		if whole && !seen[key] && "./"+filepath.Dir(strings.Fields(key)[0]) == name {
			fmt.Fprintf(to, "  %s has what was noticed, or is not there any more: %s\n", equivalents, key)
		}
	}
}

func (c change) place() string { return fmt.Sprintf("%s:%d:%d", c.file, c.at.Line, c.at.Column) }

// key names a change, wherever it has moved to in its file.
func (c change) key() string { return "./" + c.file + " " + c.kind + " " + c.code }

// readEquivalents reads the changes that no test can notice: keys, one in a line.
func readEquivalents(name string) (map[string]bool, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	out := map[string]bool{}
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		if line := strings.TrimSpace(lines.Text()); line != "" && line[0] != '#' {
			out[line] = true
		}
	}
	return out, lines.Err()
}

// listed is what is needed of a package.
type listed struct {
	Dir, ImportPath, Export, ForTest   string
	GoFiles, TestGoFiles, XTestGoFiles []string
}

func list(ctx context.Context, args ...string) ([]listed, error) {
	cmd := exec.CommandContext(ctx, "go", append([]string{"list", "-json=Dir,ImportPath,Export,ForTest,GoFiles,TestGoFiles,XTestGoFiles"}, args...)...)
	cmd.Stderr = os.Stderr
	b, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	var out []listed
	for d := json.NewDecoder(strings.NewReader(string(b))); ; {
		var p listed
		if err := d.Decode(&p); err == io.EOF {
			return out, nil
		} else if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
}

func join(dir string, names []string) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = filepath.Join(dir, n)
	}
	return out
}

func inTree(root, name string) string {
	rel, err := filepath.Rel(root, name)
	if err != nil {
		return name
	}
	return rel
}

func oneLine(b []byte) string { return strings.Join(strings.Fields(string(b)), " ") }
