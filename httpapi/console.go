package httpapi

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
	"sync"

	"github.com/labstack/echo/v5"

	"kaiku/wire"
)

// serveConsole serves the built console: its assets for ever, since their names change with
// their content, and for every other address without an extension the one page.
func (s *Server) serveConsole(files fs.FS) {
	c := &console{files: files}
	s.echo.Match([]string{http.MethodGet, http.MethodHead}, "/*", c.serve)
}

type console struct {
	files fs.FS
	ready sync.Map // name to *asset
}

type asset struct{ plain, gzipped []byte }

func (c *console) serve(ctx *echo.Context) error {
	name := strings.TrimPrefix(path.Clean(ctx.Request().URL.Path), "/")
	if strings.HasPrefix(name, "api/") {
		return echo.ErrNotFound
	}
	if path.Ext(name) == "" {
		name = "index.html"
	}
	a, err := c.asset(name)
	if err != nil {
		return echo.ErrNotFound
	}
	h := ctx.Response().Header()
	h.Set("Cache-Control", "no-cache")
	if strings.HasPrefix(name, "assets/") {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	h.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
	body := a.plain
	if a.gzipped != nil {
		h.Set("Vary", "Accept-Encoding")
		if strings.Contains(ctx.Request().Header.Get("Accept-Encoding"), "gzip") {
			h.Set("Content-Encoding", "gzip")
			body = a.gzipped
		}
	}
	if ctx.Request().Method == http.MethodHead {
		return ctx.NoContent(http.StatusOK)
	}
	_, err = ctx.Response().Write(body)
	return err
}

// asset reads a file once and keeps it, compressed where that helps.
func (c *console) asset(name string) (*asset, error) {
	if a, ok := c.ready.Load(name); ok {
		return a.(*asset), nil
	}
	b, err := fs.ReadFile(c.files, name)
	if err != nil {
		return nil, err
	}
	a := &asset{plain: b}
	switch path.Ext(name) {
	case ".js", ".css", ".html", ".svg":
		var z bytes.Buffer
		w, _ := gzip.NewWriterLevel(&z, gzip.BestCompression)
		_, _ = w.Write(b) // into memory
		_ = w.Close()
		a.gzipped = z.Bytes()
	}
	c.ready.Store(name, a)
	return a, nil
}

func writeProblem(w http.ResponseWriter, p *wire.Problem) {
	w.Header().Set("Content-Type", p.ContentType(""))
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the client may be gone
}
