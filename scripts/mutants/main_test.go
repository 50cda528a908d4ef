package main

import (
	"bytes"
	"go/importer"
	"go/token"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each construct gets the switches that belong to it, and keeps its line.
func TestWhereSwitchesArePut(t *testing.T) {
	for _, c := range []struct {
		what, from, to string
		kinds          []string
	}{
		{"a comparison", "return a == b", "return ((a == b) != mutant_.On(1))", []string{contrary}},
		{"an order", "return a < b", "return (mutant_.Less(2, a , b) != mutant_.On(1))", []string{contrary, limit}},
		{"an order of texts", `return s >= "x"`, `return (mutant_.AtLeast(2, s , "x") != mutant_.On(1))`, []string{contrary, limit}},
		{"sums in a comparison", "return a*2+b > 3", "return (mutant_.More(2, mutant_.Add(3, mutant_.Multiply(4, a,2),b) , 3) != mutant_.On(1))", []string{contrary, limit, operation, operation}},
		{"a sign", "return -a == -1", "return ((mutant_.Negative(2, a) == -1) != mutant_.On(1))", []string{contrary, sign}},
		{"texts that are put together", `return s+"x" == ""`, `return ((s+"x" == "") != mutant_.On(1))`, []string{contrary}},
		{"nothing", "return nil == p", "return ((nil == p) != mutant_.On(1))", []string{contrary}},
		{"what is constant", "const k = 2 * 3; return a%k == 1<<2", "const k = 2 * 3; return ((mutant_.Remainder(2, a,k) == 1<<2) != mutant_.On(1))", []string{contrary, operation}},
		{"one more", "a++; return false", "mutant_.Increase(1, &a); return false", []string{step}},
		{"one less in a map", "m[a-1]--; return false", "if mutant_.On(1) { m[a-1]++ } else { m[mutant_.Subtract(2, a,1)]-- }; return false", []string{step, operation}},
		{"one more in a map, in a head", "if m[1]++; m[1] == 2 { return true }; return false", "if m[1]++; ((m[1] == 2) != mutant_.On(1)) { return true }; return false", []string{contrary}},
		{"a loop", "for i := 0; i < a; i++ {}; return false", "for i := 0; (mutant_.Less(2, i , a) != mutant_.On(1)); mutant_.Increase(3, &i) {}; return false", []string{contrary, limit, step}},
		{"a length of an array", "var x [2 + 3]int; return x[0]-a <= 0", "var x [2 + 3]int; return (mutant_.AtMost(2, mutant_.Subtract(3, x[0],a) , 0) != mutant_.On(1))", []string{contrary, limit, operation}},
	} {
		t.Run(c.what, func(t *testing.T) {
			name := filepath.Join(t.TempDir(), "x.go")
			head, tail := "package x\n\nfunc f(a, b int, s string, p *int, m map[int]int) bool {\n\t", "\n}\n"
			require.NoError(t, os.WriteFile(name, []byte(head+c.from+tail), 0o600))
			all, made, err := changes(filepath.Dir(name), "x", []string{name}, func(string) bool { return true }, importer.ForCompiler(token.NewFileSet(), "source", nil))
			require.NoError(t, err)
			var kinds []string
			for _, one := range all {
				kinds = append(kinds, one.kind)
				assert.Equal(t, 4, one.at.Line)
			}
			assert.Equal(t, c.kinds, kinds)
			require.Len(t, made, 1)
			head = strings.Replace(head, "package x", `package x; import mutant_ "kaiku/scripts/mutants/mutant"`, 1)
			assert.Equal(t, head+c.to+tail, string(made[0].body))
		})
	}
}

// A small tree with a test that notices some changes, does not notice others, and does not come to one.
func TestWhatIsNoticedIsTold(t *testing.T) {
	here, err := os.Getwd()
	require.NoError(t, err)
	root := t.TempDir()
	put := func(name, body string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(root, name)), 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(root, name), []byte(body), 0o700))
	}
	for from, to := range map[string]string{"mutant/mutant.go": "scripts/mutants/mutant/mutant.go", "../own-net": "scripts/own-net"} {
		b, err := os.ReadFile(filepath.Join(here, from))
		require.NoError(t, err)
		put(to, string(b))
	}
	put("go.mod", "module kaiku\n\ngo 1.26\n")
	put("core/tiny/tiny.go", `package tiny

// Old says whether somebody is old.
func Old(years int) bool { return years > 65 }

// Sum adds.
func Sum(of []int) (out int) {
	for i := 0; i < len(of); i++ {
		out = out + of[i]
	}
	return out
}

// Half halves.
func Half(n int) int { return n / 2 }

// Twice doubles.
func Twice(n int) int { return n * 2 }

// Not is not tested.
func Not(n int) bool { return n != 1 }
`)
	put("core/tiny/tiny_test.go", `package tiny

import "testing"

func TestTiny(t *testing.T) {
	if Old(60) || !Old(70) || Sum([]int{1, 2}) != 3 {
		t.Fatal()
	}
	Half(3)
	Twice(3)
}
`)
	put(equivalents, "# whoever is as old as that is not looked at\n./core/tiny/tiny.go limit years > 65\n./core/tiny/tiny.go limit years > 70\n")
	t.Chdir(root)
	t.Setenv("GOFLAGS", "-mod=mod")
	var out bytes.Buffer
	require.NoError(t, run(t.Context(), &out, []string{"./core/tiny"}, options{workers: 2, every: 1, progress: io.Discard}))
	assert.Equal(t, `./core/tiny: 5 of 7 noticed, 71 % (aim 85 %); 0 of them by tests that did not end; 1 can be seen by no test; 1 more lie where no test goes
  not noticed: core/tiny/tiny.go:15:33 operation: n / 2
  not noticed: core/tiny/tiny.go:18:34 operation: n * 2
  scripts/mutants.equivalent has what was noticed, or is not there any more: ./core/tiny/tiny.go limit years > 70
`, out.String())
}

// What cannot be tried is an error, and does not count as anything.
func TestWhatCannotBeTriedIsAnError(t *testing.T) {
	tests := []test{{name: "TestOne", reaches: map[int]bool{2: true}}}
	noRoom := &suite{root: t.TempDir(), dir: t.TempDir(), binary: filepath.Join(t.TempDir(), "gone", "x.test"), tests: tests}
	noFolder := &suite{root: t.TempDir(), dir: filepath.Join(t.TempDir(), "gone"), binary: filepath.Join(t.TempDir(), "x.test"), tests: tests}
	for _, s := range []*suite{noRoom, noFolder} {
		got, err := try(t.Context(), "./x", []change{{n: 1}, {n: 2}}, []*suite{s}, options{workers: 1, every: 1, progress: io.Discard})
		require.ErrorIs(t, err, fs.ErrNotExist)
		assert.Equal(t, []outcome{notReached, notTried}, got)
	}
}
