package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

type importInput struct {
	InHome
	Keyed
	wire.ImportOptions
	RawBody []byte `contentType:"application/octet-stream"`
}

type applyInput struct {
	Keyed
	Dry     bool   `query:"dry" doc:"Only say what would be done."`
	RawBody []byte `contentType:"application/yaml"`
}

func (s *Server) registerImports() {
	op := s.describe("import-records", http.MethodPost, "/households/{code}/import", "Import CSV, a lease or neighbour table, or contacts")
	op.MaxBodyBytes = service.MaxImport
	register(s, op, func(ctx context.Context, in *importInput) (*answer[wire.Import], error) {
		out, err := s.service.Import(ctx, actorOf(ctx), in.Code, in.RawBody, in.ImportOptions, s.readImport, request(ctx, in.Keyed, in.RawBody))
		return &answer[wire.Import]{Body: out}, err
	})
	apply := s.describe("apply-document", http.MethodPost, "/households/{code}/apply", "Write a document with records of several kinds, as one revision or not at all")
	apply.MaxBodyBytes = service.MaxImport
	register(s, apply, func(ctx context.Context, in *struct {
		InHome
		applyInput
	}) (*answer[wire.Import], error) {
		out, err := s.service.Apply(ctx, actorOf(ctx), in.Code, in.RawBody, in.Dry, s.readImport, request(ctx, in.Keyed, in.RawBody))
		return &answer[wire.Import]{Body: out}, err
	})
	begin := s.describe("apply-new-household", http.MethodPost, "/households/apply", "Add a household with a document of its records, as one revision or not at all")
	begin.MaxBodyBytes = service.MaxImport
	register(s, begin, func(ctx context.Context, in *applyInput) (*answer[wire.Applied], error) {
		out, err := s.service.ApplyNew(ctx, actorOf(ctx), in.RawBody, in.Dry, s.readImport, request(ctx, in.Keyed, in.RawBody))
		return &answer[wire.Applied]{Body: out}, err
	})
	for _, op := range []huma.Operation{apply, begin} {
		s.setBody(op.Path, http.MethodPost, "application/yaml", &huma.Schema{Type: "object", AdditionalProperties: true,
			Description: "YAML 1.2 or JSON: an object whose members are named as the lists of this API, each with records in the same shape, with names in place of ids."})
	}
	export := s.describe("export-records", http.MethodGet, "/households/{code}/export/{what}", "Export all records of a kind as CSV, or the contacts as vCard")
	export.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{
		"text/csv": {Schema: &huma.Schema{Type: "string"}}, "text/vcard": {Schema: &huma.Schema{Type: "string"}}}}}
	register(s, export, func(ctx context.Context, in *struct {
		InHome
		What string `path:"what" maxLength:"40" doc:"Plural of a kind, or contacts."`
	}) (*bodyAnswer, error) {
		b, mediaType, err := s.service.Export(ctx, actorOf(ctx), in.Code, in.What)
		return &bodyAnswer{ContentType: mediaType, CacheControl: "no-store", Policy: "default-src 'none'; sandbox", Body: b}, err
	})
}

// readImport holds what a line gives against the schema of its kind, as if it had been sent.
func (s *Server) readImport(k *dossier.Kind, verb dossier.Verb, base dossier.Record, members map[string]any) (service.Change, error) {
	from := []byte(`{}`)
	if base != nil {
		var err error
		if from, err = json.Marshal(base); err != nil {
			return service.Change{}, err
		}
	}
	patch, err := json.Marshal(members)
	if err != nil {
		return service.Change{}, err
	}
	c, err := s.merged(k, verb, from, patch)
	var p *wire.Problem
	if errors.As(err, &p) && len(p.Faults) > 0 {
		var said []string
		for _, f := range p.Faults {
			said = append(said, strings.TrimPrefix(f.Pointer, "/")+": "+f.Detail)
		}
		return c, errors.New(strings.Join(said, "; "))
	}
	return c, err
}
