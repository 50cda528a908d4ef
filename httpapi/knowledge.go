package httpapi

import (
	"context"
	"net/http"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/suspects"
	"kaiku/service"
	"kaiku/wire"
)

// knowledgeType is the media type of such files: what is wrong in one is said with its line.
const knowledgeType = "application/vnd.kaiku.knowledge+json"

// knowledgeFile is a file of sheets and releases that is sent.
type knowledgeFile struct {
	Alone   bool   `query:"alone" doc:"Whether what the file does not name is removed."`
	RawBody []byte `contentType:"application/vnd.kaiku.knowledge+json"`
}

// KnowledgeSchema is the JSON Schema (draft 2020-12) of files of the form kaiku-knowledge/1, with the registry that holds
// its parts.
func KnowledgeSchema() (huma.Registry, map[string]any) {
	parts := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	file := parts.Schema(reflect.TypeFor[knowledge.File](), true, "File")
	entry := parts.SchemaFromRef(parts.Schema(reflect.TypeFor[dossier.DecodingEntry](), true, "DecodingEntry").Ref)
	for _, f := range decodes.Group {
		member := entry.Properties[f.Name]
		for _, word := range f.Enum {
			member.Enum = append(member.Enum, word)
		}
		if len(f.Terms) > 0 {
			member.Description += " One of the terms " + strings.Join(f.Terms, ", ") + "; any other is kept and counts as not known."
		}
	}
	entry.Required = []string{"part", "format", "able"}
	entry.PrecomputeMessages()
	entry.Properties["evidence"].Description = "Left out: what comes from a sheet is known by data sheet."
	return parts, map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": knowledge.FileFormat, "$ref": file.Ref, "$defs": parts.Map()}
}

// FaultsSchema is the JSON Schema of files of the form kaiku-faults/1.
func FaultsSchema() (huma.Registry, map[string]any) {
	parts := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	file := parts.Schema(reflect.TypeFor[suspects.Faults](), true, "Faults")
	return parts, map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": suspects.Format, "$ref": file.Ref, "$defs": parts.Map()}
}

// faultsType is the media type of such files, and faultsFile one that is sent.
const faultsType = "application/vnd.kaiku.faults+json"

type faultsFile struct {
	RawBody []byte `contentType:"application/vnd.kaiku.faults+json"`
}

// registerFaults are the operations on the fault modes that the firm uses.
func (s *Server) registerFaults() {
	body := &huma.Schema{Type: "object", AdditionalProperties: true, Description: "JSON of the form kaiku-faults/1; docs/kaiku-faults-1.schema.json is its schema."}
	export := s.describe("export-faults", http.MethodGet, "/faults", "Export the fault modes that the firm uses: those that come with Kaiku, with its own")
	export.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{faultsType: {Schema: &huma.Schema{Type: "object"}}}}}
	register(s, export, func(ctx context.Context, _ *struct{}) (*bodyAnswer, error) {
		b, err := s.service.ExportFaults(ctx, actorOf(ctx))
		return &bodyAnswer{ContentType: faultsType, Body: b}, err
	})
	for _, one := range []struct {
		id, path, summary string
		try               bool
	}{{"import-faults", "/faults", "Take up the fault modes and questions of a file; those with the same ids are replaced", false}, {"compare-faults", "/faults/compare", "Say what taking up a file of fault modes would change; nothing is stored", true}} {
		take := s.describe(one.id, http.MethodPost, one.path, one.summary)
		register(s, take, func(ctx context.Context, in *faultsFile) (*answer[[]wire.KnowledgeChange], error) {
			changes, err := s.service.ImportFaults(ctx, actorOf(ctx), in.RawBody, one.try)
			return &answer[[]wire.KnowledgeChange]{Body: changes}, err
		})
		s.setBody(take.Path, http.MethodPost, faultsType, body)
	}
	operation(s, "list-recurring", http.MethodGet, "/faults/recurring", "List what keeps coming back: faults found by model of device and by program, over the years of the homes that have it", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.Recurring], error) {
		out, err := s.service.Recurring(ctx, a)
		return &answer[[]wire.Recurring]{Body: out}, err
	})
	operation(s, "remove-fault", http.MethodDelete, "/faults/{id}", "Remove a fault mode of the firm; one that comes with Kaiku is then as it came", func(ctx context.Context, a service.Actor, in *struct {
		ID string `path:"id" maxLength:"60" doc:"Id of the mode."`
	}) (*struct{}, error) {
		return &struct{}{}, s.service.RemoveFault(ctx, a, in.ID)
	})
}

var decodes, _ = dossier.KindNamed("decoding").Field("entries")

func (s *Server) registerKnowledge() {
	operation(s, "list-knowledge", http.MethodGet, "/knowledge", "List what the firm knows of models of devices and of programs", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.Knowledge], error) {
		k, err := s.service.Knowledge(ctx, a)
		return &answer[wire.Knowledge]{Body: k}, err
	})
	body := &huma.Schema{Type: "object", AdditionalProperties: true, Description: "JSON of the form kaiku-knowledge/1; docs/kaiku-knowledge-1.schema.json is its schema."}
	take := s.describe("import-knowledge", http.MethodPost, "/knowledge", "Take up the sheets and releases of a file; those of the same model or program are replaced")
	register(s, take, func(ctx context.Context, in *knowledgeFile) (*answer[[]wire.KnowledgeChange], error) {
		changes, err := s.service.ImportKnowledge(ctx, actorOf(ctx), in.RawBody, in.Alone)
		return &answer[[]wire.KnowledgeChange]{Body: changes}, err
	})
	s.setBody(take.Path, http.MethodPost, knowledgeType, body)
	compare := s.describe("compare-knowledge", http.MethodPost, "/knowledge/compare", "Say what taking up a file would change; nothing is stored")
	register(s, compare, func(ctx context.Context, in *knowledgeFile) (*answer[[]wire.KnowledgeChange], error) {
		changes, err := s.service.CompareKnowledge(ctx, actorOf(ctx), in.RawBody, in.Alone)
		return &answer[[]wire.KnowledgeChange]{Body: changes}, err
	})
	s.setBody(compare.Path, http.MethodPost, knowledgeType, body)
	export := s.describe("export-knowledge", http.MethodGet, "/knowledge/file", "Export what the firm knows as a file")
	export.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{knowledgeType: {Schema: &huma.Schema{Type: "object", AdditionalProperties: true}}}}}
	register(s, export, func(ctx context.Context, _ *struct{}) (*bodyAnswer, error) {
		body, err := s.service.ExportKnowledge(ctx, actorOf(ctx))
		return &bodyAnswer{ContentType: knowledgeType, Body: body}, err
	})
	operation(s, "list-knowledge-changes", http.MethodGet, "/knowledge/changes", "List who changed recipes, sheets and releases, and when", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.KnowledgeEdit], error) {
		edits, err := s.service.KnowledgeChanges(ctx, a)
		return &answer[[]wire.KnowledgeEdit]{Body: edits}, err
	})
	operation(s, "remove-knowledge", http.MethodDelete, "/knowledge/{id}", "Remove a sheet or a release", func(ctx context.Context, a service.Actor, in *struct {
		ID string `path:"id" maxLength:"40" doc:"The id that the list gives."`
	}) (*struct{}, error) {
		return &struct{}{}, s.service.RemoveKnowledge(ctx, a, in.ID)
	})
}
