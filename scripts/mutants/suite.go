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
	more              []string // arguments of every run
	tests             []test
}

type test struct {
	name    string
	took    time.Duration
	reaches map[int]bool
}

// Tests that take less than quick are run together; the others one by one, as long as none has noticed.
const quick = 300 * time.Millisecond

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
		o, said := s.run(ctx, []string{name}, 10*time.Minute, mutant.Reached+"="+reached)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if o != lived {
			return fmt.Errorf("%s does not pass by itself, without any change:\n%s", name, said)
		}
		t := test{name: name, took: time.Since(begun), reaches: map[int]bool{}}
		if err := t.read(reached); err != nil {
			return err
		}
		s.tests = append(s.tests, t)
	}
	slices.SortStableFunc(s.tests, func(a, b test) int { return cmp.Compare(a.took, b.took) })
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
func (s *suite) try(ctx context.Context, n int) outcome {
	var together []string
	var long time.Duration
	o := notReached
	run := func(names []string, usual time.Duration) bool {
		o, _ = s.run(ctx, names, 10*usual+10*time.Second, mutant.Chosen+"="+strconv.Itoa(n))
		return o == lived
	}
	for i, t := range s.tests {
		if !t.reaches[n] {
			continue
		}
		if t.took < quick {
			together, long = append(together, t.name), long+t.took
			if i+1 < len(s.tests) {
				continue
			}
		}
		if len(together) > 0 {
			if !run(together, long) {
				return o
			}
			together = nil
		}
		if t.took >= quick && !run([]string{t.name}, t.took) {
			return o
		}
	}
	if len(together) > 0 {
		run(together, long)
	}
	return o
}

// run runs some tests, in a network and with temporary files of their own.
func (s *suite) run(ctx context.Context, names []string, limit time.Duration, env string) (outcome, []byte) {
	tmp, err := os.MkdirTemp(filepath.Dir(s.binary), "run-")
	if err != nil {
		return notTried, []byte(err.Error())
	}
	defer os.RemoveAll(tmp)
	ctx, cancel := context.WithTimeout(ctx, limit)
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
	switch {
	case ctx.Err() != nil:
		return neverEnded, out
	case err != nil:
		return noticed, out
	}
	return lived, out
}
