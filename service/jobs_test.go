package service_test

import (
	"bytes"
	"context"
	"go/ast"
	"go/parser"
	"go/token"
	"log/slog"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/proving"
	"kaiku/service"
	"kaiku/wire"
)

// falling panics at whatever it is asked.
type falling struct{ prober }

func (falling) ScanOf(context.Context, *dossier.Dossier, matching.Wanted, func(matching.Progress)) (matching.Scan, error) {
	panic("a scan fell over")
}

func (falling) Watch(context.Context, *dossier.Dossier, dossier.ID[dossier.Path], proving.Watched, func(proving.Moment)) error {
	return nil
}

func (falling) ReadFolder(context.Context, *dossier.Dossier, dossier.Folder, contents.Wanted, func(contents.Progress)) (contents.Contents, error) {
	panic("a reading fell over")
}

func (falling) Probe(context.Context, *dossier.Dossier, proving.Test) (proving.Result, error) {
	panic("a test fell over")
}

// A panic ends its job, with a word for those who wait and an entry in the log; the service goes on.
func TestAPanicEndsItsJobAlone(t *testing.T) {
	var log bytes.Buffer
	s, as := filledWith(t, service.Options{Prober: falling{}, Log: slog.New(slog.NewTextHandler(&log, nil))})
	defer s.Close()
	for _, start := range []func() (wire.Job, error){
		func() (wire.Job, error) { return s.Scan(t.Context(), as["petri"], "H-0001", wire.RunScan{}) },
		func() (wire.Job, error) { return s.RunTests(t.Context(), as["petri"], "H-0001", wire.Run{}) },
	} {
		j, err := start()
		j = ended(t, s, as["petri"], j, err)
		assert.Equal(t, "failed", j.State)
		require.NotNil(t, j.Failed)
		assert.Equal(t, "internal", j.Failed.Code)
		assert.Contains(t, j.Failed.Remedy, j.ID, "the number is in the log")
		assert.Contains(t, log.String(), j.ID)
	}
	assert.Contains(t, log.String(), "a scan fell over")
	assert.Contains(t, log.String(), "jobs_test.go")
	_, err := s.Overview(t.Context(), as["petri"], "H-0001")
	require.NoError(t, err)
}

// Nothing runs in the background that could end the service: who starts something does so by safely, or stands here
// with the reason.
func TestNothingRunsInTheBackgroundUnsafely(t *testing.T) {
	reasons := map[string]string{
		"service/jobs.go":    "the job itself, whose work is done safely",
		"probe/scan.go":      "questions, each asked safely",
		"probe/lag.go":       "counts its own late timers, and reads nothing",
		"probe/echo.go":      "sends bytes back and reads nothing of them",
		"cmd/kaiku/serve.go": "the server, and the sweeping that is done safely",
		"cmd/kaiku/demo.go":  "no service of a firm",
		"safely/safely.go":   "does it",
		"media/folder.go":    "files, each read so that it may panic",
	}
	for _, dir := range []string{"service", "probe", "multicast", "store", "httpapi", "cmd/kaiku", "safely", "media"} {
		files, err := filepath.Glob(filepath.Join("..", dir, "*.go"))
		require.NoError(t, err)
		for _, file := range files {
			if strings.HasSuffix(file, "_test.go") {
				continue
			}
			set := token.NewFileSet()
			tree, err := parser.ParseFile(set, file, nil, 0)
			require.NoError(t, err)
			ast.Inspect(tree, func(n ast.Node) bool {
				starts := false
				switch n := n.(type) {
				case *ast.GoStmt:
					starts = true
				case *ast.CallExpr:
					f, is := n.Fun.(*ast.SelectorExpr)
					if is && f.Sel.Name == "Go" && len(n.Args) == 1 {
						starts = true
					}
				}
				name := strings.TrimPrefix(filepath.ToSlash(file), "../")
				if starts && reasons[name] == "" {
					t.Errorf("%s starts something in the background without safely", set.Position(n.Pos()))
				}
				return true
			})
		}
	}
}
