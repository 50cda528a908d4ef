package main

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatIsShownOfTests(t *testing.T) {
	in := strings.Join([]string{
		`# kaiku/broken`,
		`{"Action":"build-output","ImportPath":"kaiku/broken","Output":"broken.go:1: no such thing\n"}`,
		`{"Action":"output","Package":"kaiku/a","Test":"TestRight","Output":"noise\n"}`,
		`{"Action":"pass","Package":"kaiku/a","Test":"TestRight"}`,
		`{"Action":"output","Package":"kaiku/a","Test":"TestRoot","Output":"    lan_test.go:31: needs root to make network namespaces\n"}`,
		`{"Action":"skip","Package":"kaiku/a","Test":"TestRoot"}`,
		`{"Action":"pass","Package":"kaiku/a","Elapsed":1.25}`,
		`{"Action":"output","Package":"kaiku/b","Test":"TestWrong","Output":"    b_test.go:7: not equal\n"}`,
		`{"Action":"fail","Package":"kaiku/b","Test":"TestWrong"}`,
		`{"Action":"output","Package":"kaiku/b","Output":"FAIL\tkaiku/b\t0.1s\n"}`,
		`{"Action":"fail","Package":"kaiku/b","Elapsed":0.1}`,
	}, "\n")
	var out bytes.Buffer
	skipped, failed, err := show(strings.NewReader(in), &out, false)
	require.NoError(t, err)
	assert.True(t, failed)
	assert.Equal(t, []string{"kaiku/a TestRoot: needs root to make network namespaces"}, skipped)
	assert.Equal(t, "# kaiku/broken\nbroken.go:1: no such thing\nok  \tkaiku/a\t1.2s\n    b_test.go:7: not equal\nFAIL\tkaiku/b\t0.1s\n", out.String())
	out.Reset()
	_, _, err = show(strings.NewReader(in), &out, true)
	require.NoError(t, err)
	assert.Contains(t, out.String(), "noise\n")
	assert.Equal(t, 1, strings.Count(out.String(), "not equal"), "nothing is told twice")
	assert.Equal(t, "no reason given", reason("--- SKIP: TestX\n"))
}
