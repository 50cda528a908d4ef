package wording_test

import (
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/wording"
)

var update = flag.Bool("update", false, "write docs/errors.md anew")

// docs/errors.md is made from the table, and never beside it.
func TestErrorsPageIsCurrent(t *testing.T) {
	const file = "../docs/errors.md"
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(wording.ErrorsPage()), 0o644))
	}
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, wording.ErrorsPage(), string(text), "run: go test ./wording -update")
	for code, e := range wording.Errors {
		assert.NotEmpty(t, e.Remedy, code)
	}
}
