package main

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"kaiku/scripts/mutants/mutant"
)

// suite is the tests of one package, compiled with all changes.
type suite struct {
	root, dir, binary string
	more              []string      // arguments of every run
	longest           time.Duration // tests that take longer are left out; 0: none
	tests             []test
}

type test struct {
	name    string
	took    time.Duration
	reaches map[int]bool
}

// together is how long tests take that are run at once. As long as none has noticed, others follow.
const together = time.Second

var testName = regexp.MustCompile(`^(Test|Fuzz|Example)\w*$`)

// learn runs each test by itself and notes to which changes it comes.
func (s *suite) learn(ctx context.Context) error {
	out, err := exec.CommandContext(ctx, s.binary, "-test.list", ".").Output()
	if err != nil {
		return err
	}
	help, _ := exec.CommandContext(ctx, s.binary, "-help").CombinedOutput() // says what it knows, and ends with 2
	if bytes.Contains(help, []byte("-rapid.nofailfile")) {
		s.more = []string{"-rapid.nofailfile"}
	}
	for _, name := range strings.Fields(string(out)) {
		if !testName.MatchString(name) {
			continue
		}
		reached := s.binary + "." + name
		begun := time.Now()
		o, said, err := s.run(ctx, []string{name}, 10*time.Minute, mutant.Reached+"="+reached)
		if err != nil {
			return err
		}
		if o != lived {
			return fmt.Errorf("%s does not pass by itself, without any change:\n%s", name, said)
		}
		t := test{name: name, took: time.Since(begun), reaches: map[int]bool{}}
		if err := t.read(reached); err != nil {
			return err
		}
		if s.longest == 0 || t.took < s.longest {
			s.tests = append(s.tests, t)
		}
	}
	// A test that comes to few places is likely to be about them.
	slices.SortStableFunc(s.tests, func(a, b test) int {
		return cmp.Compare(a.took.Seconds()*float64(len(a.reaches)), b.took.Seconds()*float64(len(b.reaches)))
	})
	return nil
}

func (t *test) read(name string) error {
	f, err := os.Open(name)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		n, err := strconv.Atoi(lines.Text())
		if err != nil {
			return err
		}
		t.reaches[n] = true
	}
	return lines.Err()
}

// try runs the tests that come to a change, until one notices it.
func (s *suite) try(ctx context.Context, n int) (outcome, error) {
	o := notReached
	for i := 0; i < len(s.tests); {
		var names []string
		var long time.Duration
		for ; i < len(s.tests) && (len(names) == 0 || long+s.tests[i].took < together); i++ {
			if t := s.tests[i]; t.reaches[n] {
				names, long = append(names, t.name), long+t.took
			}
		}
		if len(names) == 0 {
			break
		}
		var err error
		if o, _, err = s.run(ctx, names, 10*long+10*time.Second, mutant.Chosen+"="+strconv.Itoa(n)); err != nil || o != lived {
			return o, err
		}
	}
	return o, nil
}

// run runs some tests, in a network and with temporary files of their own. Tests that could not be run, or were broken
// off, are an error and no outcome.
func (s *suite) run(whole context.Context, names []string, limit time.Duration, env string) (outcome, []byte, error) {
	tmp, err := os.MkdirTemp(filepath.Dir(s.binary), "run-")
	if err != nil {
		return notTried, nil, err
	}
	defer os.RemoveAll(tmp)
	ctx, cancel := context.WithTimeout(whole, limit)
	defer cancel()
	args := append([]string{"-c", `ulimit -v 16000000; exec "$@"`, "limited", filepath.Join(s.root, "scripts/own-net"), s.binary,
		"-test.failfast", "-test.timeout=0", "-test.run=^(" + strings.Join(names, "|") + ")$"}, s.more...)
	cmd := exec.CommandContext(ctx, "sh", args...)
	cmd.Dir = s.dir
	cmd.Env = append(os.Environ(), "TMPDIR="+tmp, env)
	// What a test has started ends with it.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = time.Second
	out, err := cmd.CombinedOutput()
	var failed *exec.ExitError
	switch {
	case whole.Err() != nil:
		return notTried, out, whole.Err()
	case ctx.Err() != nil:
		return neverEnded, out, nil
	case errors.As(err, &failed):
		return noticed, out, nil
	case err != nil:
		return notTried, out, err
	}
	return lived, out, nil
}
