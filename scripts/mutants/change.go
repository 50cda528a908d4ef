package main

import (
	"cmp"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"go/types"
	"os"
	"slices"

	"kaiku/scripts/mutants/mutant"
)

// change is one small change to the code.
type change struct {
	n    int
	file string // from the root of the tree
	at   token.Position
	kind string
	code string // what is changed, as it stands there
}

// The kinds of changes: a comparison says the contrary; it takes in its limit, or no longer; another arithmetic
// operation; one less instead of one more; the sign is forgotten.
const (
	contrary  = "contrary"
	limit     = "limit"
	operation = "operation"
	step      = "step"
	sign      = "sign"
)

var (
	orders = map[token.Token]string{token.LSS: "Less", token.LEQ: "AtMost", token.GTR: "More", token.GEQ: "AtLeast"}
	sums   = map[token.Token]string{token.ADD: "Add", token.SUB: "Subtract", token.MUL: "Multiply", token.QUO: "Divide", token.REM: "Remainder"}
	steps  = map[token.Token]string{token.INC: "Increase", token.DEC: "Decrease"}
)

// edit replaces some bytes of a file. At one place, what closes stands before an operator and that before what opens.
type edit struct {
	at, cut int
	rank    int
	text    string
}

const (
	closes = iota
	between
	opens
)

// switched is a file with all its changes in it, none of which is on.
type switched struct {
	name string // as the compiler knows it
	body []byte
}

// changes reads the files of a package and puts a switch at each place that can be changed, in those that are wanted.
func changes(root, path string, files []string, wanted func(string) bool, from types.Importer) ([]change, []switched, error) {
	fset := token.NewFileSet()
	var parsed []*ast.File
	for _, name := range files {
		f, err := parser.ParseFile(fset, name, nil, parser.ParseComments|parser.SkipObjectResolution)
		if err != nil {
			return nil, nil, err
		}
		parsed = append(parsed, f)
	}
	info := types.Info{Types: map[ast.Expr]types.TypeAndValue{}}
	if _, err := (&types.Config{Importer: from}).Check(path, fset, parsed, &info); err != nil {
		return nil, nil, err
	}
	var found []change
	var out []switched
	for i, f := range parsed {
		if ast.IsGenerated(f) || !wanted(files[i]) {
			continue
		}
		src, err := os.ReadFile(files[i])
		if err != nil {
			return nil, nil, err
		}
		w := &walk{fset: fset, info: &info, src: src, file: inTree(root, files[i]), found: found}
		w.edits = append(w.edits, edit{at: w.offset(f.Name.End()), rank: opens, text: "; import mutant_ " + `"kaiku/scripts/mutants/mutant"`})
		before := len(found)
		w.into(f)
		found = w.found
		if len(found) > before {
			out = append(out, switched{name: files[i], body: w.made()})
		}
	}
	if len(found) > mutant.Most {
		return nil, nil, fmt.Errorf("%s has %d places that can be changed, more than the %d that can be told apart", path, len(found), mutant.Most)
	}
	return found, out, nil
}

// walk collects the changes of one file.
type walk struct {
	fset  *token.FileSet
	info  *types.Info
	src   []byte
	file  string
	found []change
	edits []edit
}

func (w *walk) offset(p token.Pos) int { return w.fset.Position(p).Offset }

// into goes through the nodes; what opens is put in before what lies within, and what closes after it.
func (w *walk) into(n ast.Node) {
	var open []func()
	inHead := map[ast.Node]bool{}
	ast.Inspect(n, func(n ast.Node) bool {
		if n == nil {
			close := open[len(open)-1]
			open = open[:len(open)-1]
			close()
			return false
		}
		switch n := n.(type) {
		case *ast.ForStmt:
			inHead[n.Init], inHead[n.Post] = true, true
		case *ast.IfStmt:
			inHead[n.Init] = true
		case *ast.SwitchStmt:
			inHead[n.Init] = true
		}
		open = append(open, w.at(n, inHead[n]))
		return true
	})
}

// at puts the switches of one node in, and returns what closes them.
func (w *walk) at(n ast.Node, head bool) (close func()) {
	switch n := n.(type) {
	case *ast.BinaryExpr:
		return w.binary(n)
	case *ast.UnaryExpr:
		if n.Op == token.SUB && w.info.Types[n].Value == nil && number(w.info.Types[n].Type) {
			w.edit(n.OpPos, 1, opens, fmt.Sprintf("mutant_.Negative(%d, ", w.add(sign, n.OpPos, n)))
			return w.closing(n.End(), ")")
		}
	case *ast.IncDecStmt:
		return w.step(n, head)
	}
	return nothing
}

func (w *walk) binary(n *ast.BinaryExpr) (close func()) {
	t := w.info.Types[n]
	if t.Value != nil {
		return nothing
	}
	of := w.info.Types[n.X].Type
	if w.info.Types[n.X].IsNil() {
		of = w.info.Types[n.Y].Type
	}
	order, ordered := orders[n.Op]
	sum, summed := sums[n.Op]
	switch {
	case n.Op == token.EQL || n.Op == token.NEQ || ordered && !basic(of, types.IsOrdered):
		turn := w.add(contrary, n.OpPos, n)
		w.edit(n.Pos(), 0, opens, "((")
		return w.closing(n.End(), fmt.Sprintf(") != mutant_.On(%d))", turn))
	case ordered:
		turn, edge := w.add(contrary, n.OpPos, n), w.add(limit, n.OpPos, n)
		w.edit(n.Pos(), 0, opens, fmt.Sprintf("(mutant_.%s(%d, ", order, edge))
		w.edit(n.OpPos, len(n.Op.String()), between, ",")
		return w.closing(n.End(), fmt.Sprintf(") != mutant_.On(%d))", turn))
	case summed && number(of):
		w.edit(n.Pos(), 0, opens, fmt.Sprintf("mutant_.%s(%d, ", sum, w.add(operation, n.OpPos, n)))
		w.edit(n.OpPos, 1, between, ",")
		return w.closing(n.End(), ")")
	}
	return nothing
}

// step is one more or one less. An element of a map has no address, and so is changed where it stands, unless that is
// the head of a statement.
func (w *walk) step(n *ast.IncDecStmt, head bool) (close func()) {
	contrary := map[token.Token]string{token.INC: "--", token.DEC: "++"}[n.Tok]
	if at, ok := n.X.(*ast.IndexExpr); ok {
		if _, isMap := w.info.Types[at.X].Type.Underlying().(*types.Map); isMap {
			if head {
				return nothing
			}
			what := string(w.src[w.offset(n.X.Pos()):w.offset(n.X.End())])
			w.edit(n.Pos(), 0, opens, fmt.Sprintf("if mutant_.On(%d) { %s%s } else { ", w.add(step, n.TokPos, n), what, contrary))
			return w.closing(n.TokPos+2, " }")
		}
	}
	if !number(w.info.Types[n.X].Type) {
		return nothing
	}
	w.edit(n.Pos(), 0, opens, fmt.Sprintf("mutant_.%s(%d, &", steps[n.Tok], w.add(step, n.TokPos, n)))
	w.edit(n.TokPos, 2, between, ")")
	return nothing
}

func (w *walk) add(kind string, at token.Pos, n ast.Node) int {
	// The first has number 1: none is 0.
	c := change{n: len(w.found) + 1, file: w.file, at: w.fset.Position(at), kind: kind, code: oneLine(w.src[w.offset(n.Pos()):w.offset(n.End())])}
	w.found = append(w.found, c)
	return c.n
}

func (w *walk) edit(at token.Pos, cut, rank int, text string) {
	w.edits = append(w.edits, edit{at: w.offset(at), cut: cut, rank: rank, text: text})
}

func (w *walk) closing(at token.Pos, text string) func() {
	return func() { w.edit(at, 0, closes, text) }
}

func nothing() {}

// made is the file with its edits. Lines keep their numbers.
func (w *walk) made() []byte {
	slices.SortStableFunc(w.edits, func(a, b edit) int {
		return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.rank, b.rank))
	})
	var out []byte
	last := 0
	for _, e := range w.edits {
		out = append(append(out, w.src[last:e.at]...), e.text...)
		last = e.at + e.cut
	}
	return append(out, w.src[last:]...)
}

func basic(t types.Type, is types.BasicInfo) bool {
	if _, parameter := t.(*types.TypeParam); parameter {
		return false
	}
	b, ok := t.Underlying().(*types.Basic)
	return ok && b.Info()&is != 0 && b.Info()&types.IsUntyped == 0
}

func number(t types.Type) bool { return basic(t, types.IsInteger|types.IsFloat) }
