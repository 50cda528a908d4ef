package httpapi

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// supposeHeader carries changes that are supposed while a home is read.
const supposeHeader = "Kaiku-Suppose"

// mostSupposed bounds the header, and the changes in it.
const (
	mostSupposed     = 24 << 10
	mostSupposedStep = 50
)

// supposing lets a reading operation see the home as if the changes in its header had been made. Its answers must not
// be cached: an ETag of a home that does not exist must never match one that comes to exist.
func (s *Server) supposing(c huma.Context, next func(huma.Context)) {
	text := c.Header(supposeHeader)
	if text == "" {
		next(c)
		return
	}
	if c.Method() != http.MethodGet {
		s.refuse(c, problem("suppose-only-reads", nil))
		return
	}
	changes, err := supposedIn(text)
	if err != nil {
		s.refuse(c, problem("bad-suppose", map[string]string{"detail": err.Error()}))
		return
	}
	c.SetHeader("Cache-Control", "no-store")
	next(huma.WithContext(c, service.Supposing(c.Context(), s.steps(changes))))
}

func supposedIn(text string) ([]wire.PreviewStep, error) {
	if len(text) > mostSupposed {
		return nil, errors.New("it is too long")
	}
	b, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil {
		return nil, errors.New("it is not base64url without padding")
	}
	var changes []wire.PreviewStep
	if err := json.Unmarshal(b, &changes); err != nil {
		return nil, errors.New("it is not a JSON list of changes")
	}
	if len(changes) == 0 || len(changes) > mostSupposedStep {
		return nil, errors.New("it takes one to fifty changes")
	}
	return changes, nil
}

func (s *Server) steps(changes []wire.PreviewStep) service.Steps {
	return service.Steps{N: len(changes), Read: func(n int, d *dossier.Dossier) (service.Step, error) { return s.previewStep(d, changes[n]) }}
}
