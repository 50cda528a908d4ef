package wording_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/wording"
)

func TestQuantitiesAreSaidWithTheirUnitAndTheirDoubt(t *testing.T) {
	said := func(needed dossier.Value) string {
		return wording.Finding(network.Finding{Code: "rate-capped", Values: map[string]dossier.Value{
			"at": dossier.Named("screen"), "limit": dossier.Amount(4, dossier.UnitMbps, ""), "path": dossier.Named("films"), "needed": needed, "folder": dossier.Named("loft")}}).Sentence
	}
	assert.Equal(t, "screen is limited to 4 Mb/s, but films needs about 12.5 Mb/s (estimated) for the heaviest files in loft.", said(dossier.Amount(12.5, dossier.UnitMbps, dossier.KnownEstimated)))
	assert.Equal(t, "screen is limited to 4 Mb/s, but films needs 12.5 Mb/s for the heaviest files in loft.", said(dossier.Amount(12.5, dossier.UnitMbps, dossier.KnownRead)))
	assert.Contains(t, said(dossier.Counted(1200000)), "needs 1200000 for")
	for off, want := range map[float64]string{10801: "3 h 0 min", 125: "2 min 5 s", 180000: "2 days 2 h", 90000: "1 day 1 h", 7: "7 s"} {
		assert.Equal(t, want, wording.Span(off))
	}
}

// Every phrase that a finding can be made of has words, and every word is used.
func TestEveryPhraseHasWords(t *testing.T) {
	used := map[string]bool{}
	files, err := filepath.Glob("../core/*/*.go")
	require.NoError(t, err)
	for _, file := range files {
		f, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
		require.NoError(t, err)
		ast.Inspect(f, func(n ast.Node) bool {
			if text, ok := n.(*ast.BasicLit); ok && text.Kind == token.STRING {
				code, _ := strconv.Unquote(text.Value)
				used[code] = true
			}
			call, ok := n.(*ast.CallExpr)
			if !ok {
				return true
			}
			if name, ok := call.Fun.(*ast.SelectorExpr); ok && name.Sel.Name == "Said" && len(call.Args) > 0 {
				if text, ok := call.Args[0].(*ast.BasicLit); ok {
					code, _ := strconv.Unquote(text.Value)
					assert.Contains(t, wording.Phrases, code, file)
				}
			}
			return true
		})
	}
	for _, m := range dossier.MarksPlace("").Values() {
		assert.Contains(t, wording.Phrases, "marks-"+m)
		used["marks-"+m] = true
	}
	for _, w := range dossier.Wake("").Values() {
		if w != string(dossier.WakeNever) && w != string(dossier.WakePacket) {
			assert.Contains(t, wording.Phrases, "woken-by-"+w)
			used["woken-by-"+w] = true
		}
	}
	for code := range wording.Phrases {
		end, _ := strings.CutSuffix(code, "-differs")
		assert.True(t, used[code] || used[end], "nothing says %s", code)
	}
}
