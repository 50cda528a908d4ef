package httpapi_test

import (
	"encoding/json"
	"fmt"
	"io"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/wire"
)

// No operation decodes, prints or merges a body that is too deep, has too many members or members that it does
// not know: each is refused, shortly, and at the cost of reading it.
func TestBodiesAreBounded(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	var unknown strings.Builder
	for n := range 8000 {
		fmt.Fprintf(&unknown, `,"member%d":%d`, n, n)
	}
	for _, op := range s.api.Operations() {
		if op.Body == "" || op.Body == "application/octet-stream" {
			continue
		}
		path := placeOf(op.Path, op.ID, ids)
		for name, body := range map[string]string{
			"deep":     strings.Repeat(`{"a":`, 3000) + "1" + strings.Repeat("}", 3000),
			"lists":    strings.Repeat("[", 3000) + strings.Repeat("]", 3000),
			"a member": `{"member":1}`,
			"members":  `{"member":1` + unknown.String() + `}`,
			"entries":  `[` + strings.Repeat("1,", 30_000) + `1]`,
			"a name":   `{"` + strings.Repeat("x", 5000) + `":1}`,
		} {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			resp := s.raw("aino", op.Method, path, body)
			answer, err := io.ReadAll(resp.Body)
			require.NoError(t, err)
			require.NoError(t, resp.Body.Close())
			runtime.ReadMemStats(&after)
			what := op.ID + " " + name
			assert.GreaterOrEqual(t, resp.StatusCode, 400, what)
			assert.Less(t, resp.StatusCode, 500, what)
			assert.Less(t, len(answer), 16<<10, what)
			assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(32<<20), "%s: bytes allocated", what)
		}
	}
}

// The first unknown member is named; what is missing or wrong besides is not looked for.
func TestTheFirstUnknownMemberIsNamed(t *testing.T) {
	s := newSite(t, nil)
	for body, pointer := range map[string]string{
		`{"login":"petri","password":"x","passwort":"y","also":1}`: "/passwort",
		`{"a/b~c":1}`: "/a~1b~0c",
	} {
		resp := s.raw("nobody", "POST", "/api/v1/session", body)
		var p wire.Problem
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&p))
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, 422, resp.StatusCode)
		assert.Equal(t, []wire.Fault{{In: "body", Pointer: pointer, Code: "unknown-member", Detail: "there is no such field"}}, p.Faults)
	}
	resp := s.raw("nobody", "POST", "/api/v1/session", `{"login":"`+strings.Repeat("x", 9000)+`"}`)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, 413, resp.StatusCode, "who is not logged in sends little")
}
