package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatTheTestPrintsIsDrawn(t *testing.T) {
	said, err := read(strings.NewReader("    truth_test.go:500: first 9\n 0-10 %: 1 of 20 (5 %), 90-100 %: 40 of 40 (100 %)\n"))
	require.NoError(t, err)
	assert.Equal(t, []group{{0, 10, 1, 20}, {90, 100, 40, 40}}, said)
	file := filepath.Join(t.TempDir(), "x.svg")
	require.NoError(t, picture(said, file))
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Contains(t, string(b), "</svg>")
	_, err = read(strings.NewReader("ok\n"))
	require.ErrorContains(t, err, "nothing to draw")
}

// The interval by Wilson's formula, worked out by hand for 1 of 20 and 40 of 40 with 90 %.
func TestIntervals(t *testing.T) {
	for _, c := range []struct{ right, of, low, high float64 }{{1, 20, 1.12, 19.60}, {40, 40, 93.66, 100}} {
		low, high := group{right: c.right, of: c.of}.interval()
		assert.InDelta(t, c.low, low, .02)
		assert.InDelta(t, c.high, high, .02)
	}
}
