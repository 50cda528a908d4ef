package cli

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/wire"
)

// What is supposed goes with every question about the home, and is made with --make alone.
func TestChangesAreSupposed(t *testing.T) {
	p := newProgram(t)
	code, _, errs := p.run("device", "list", "--if", `room set cellar --name "deep cellar"`, "--if", "kaiku room add --name attic")
	require.Zero(t, code, errs)
	assert.Contains(t, errs, "Supposed: 2 changes. Nothing has been written.")
	require.NotEmpty(t, p.office.suppose)
	last := p.office.suppose[len(p.office.suppose)-1]
	assert.Contains(t, last, `"members":{"name":"deep cellar"}`)
	assert.Regexp(t, `"verb":"add","kind":"room","members":{"id":"[0-9a-f-]{36}","name":"attic"}`, last)
	assert.Empty(t, p.office.sent)

	p.office.suppose = nil
	p.office.preview = wire.Preview{Revision: 9, Sentence: "This would make 1 proven test stale.", Found: []wire.Finding{{Severity: "blocker", Sentence: "Two clash.", Remedy: "Move one."}}}
	code, out, errs := p.run("suppose", "--if", "room remove cellar")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Two clash.")
	assert.Contains(t, errs, "1 proven test stale. Nothing has been written; add --make")
	assert.Empty(t, p.office.suppose, "the comparison is with the home as it is")
	assert.Empty(t, p.office.sent)

	p.office.preview = wire.Preview{Revision: 9}
	code, out, errs = p.run("suppose", "--if", "room remove cellar")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Nothing of what is found, carried, played or proven would be different.")
	code, _, errs = p.run("suppose", "--make", "--if", "room remove cellar")
	require.Zero(t, code, errs)
	require.Len(t, p.office.sent, 1)
	assert.True(t, strings.HasSuffix(p.office.sent[0].path, "/preview/make"))
	assert.EqualValues(t, 9, p.office.sent[0].body["asOf"])
}

func TestWhatIsNoChange(t *testing.T) {
	p := newProgram(t)
	for text, said := range map[string]string{
		"":                                 "quotes must be closed",
		`room set "cellar`:                 "quotes must be closed",
		"room list":                        "this is not a change of a record",
		"test run":                         "this is not a change of a record",
		"scan":                             "this is not a change of a record",
		"room set cellar --floor upstairs": "this is not a whole number",
		"room set cellar --colour red":     "there is no flag --colour here",
		"room set dungeon --floor 1":       "dungeon",
		"room set cellar":                  "nothing to change",
	} {
		code, _, errs := p.run("device", "list", "--if", text)
		assert.NotZero(t, code, text)
		assert.Contains(t, errs, said, text)
	}
	code, _, errs := p.run("suppose")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "say what to suppose")
	assert.Empty(t, p.office.sent)
}
