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
	return parts, schemaFile(knowledge.FileFormat, file, parts)
}

// schemaFile is a JSON Schema (draft 2020-12) as it is written into a file.
func schemaFile(title string, of *huma.Schema, parts huma.Registry) map[string]any {
	return map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": title, "$ref": of.Ref, "$defs": parts.Map()}
}

// FaultsSchema is the JSON Schema of files of the form kaiku-faults/1.
func FaultsSchema() (huma.Registry, map[string]any) {
	parts := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	file := parts.Schema(reflect.TypeFor[suspects.Faults](), true, "Faults")
	return parts, schemaFile(suspects.Format, file, parts)
}

// faultsType is the media type of such files, and faultsFile one that is sent.
const faultsType = "application/vnd.kaiku.faults+json"

type faultsFile struct {
	RawBody []byte `contentType:"application/vnd.kaiku.faults+json"`
}

// registerFaults are the operations on the fault modes that the firm uses.
func (s *Server) registerFaults() {
	givesFile(s, "export-faults", "/faults", "Export the fault modes that the firm uses: those that come with Kaiku, with its own", faultsType, s.service.ExportFaults)
	takesFile(s, "import-faults", "/faults", "Take up the fault modes and questions of a file; those with the same ids are replaced", faultsType, suspects.Format, func(ctx context.Context, a service.Actor, in *faultsFile) ([]wire.KnowledgeChange, error) {
		return s.service.ImportFaults(ctx, a, in.RawBody, false)
	})
	takesFile(s, "compare-faults", "/faults/compare", "Say what taking up a file of fault modes would change; nothing is stored", faultsType, suspects.Format, func(ctx context.Context, a service.Actor, in *faultsFile) ([]wire.KnowledgeChange, error) {
		return s.service.ImportFaults(ctx, a, in.RawBody, true)
	})
	operation(s, "list-recurring", http.MethodGet, "/faults/recurring", "List what keeps coming back: faults found by model of device and by program, over the years of the homes that have it", func(ctx context.Context, a service.Actor, in *struct {
		Household string `query:"household" maxLength:"20" doc:"Code of a household: only what is counted for its devices."`
		Device    string `query:"device" maxLength:"60" doc:"Id of one of these devices: only what is counted for it."`
	}) (*answer[[]wire.Recurring], error) {
		out, err := s.service.Recurring(ctx, a, in.Household, dossier.ID[dossier.Device](in.Device))
		return &answer[[]wire.Recurring]{Body: out}, err
	})
	operation(s, "list-shared-faults", http.MethodGet, "/faults/shared", "List the faults that show in several homes that have a model or a program in common, and what to do in each", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.SharedFault], error) {
		out, err := s.service.SharedFaults(ctx, a)
		return &answer[[]wire.SharedFault]{Body: out}, err
	})
	operation(s, "list-odds", http.MethodGet, "/faults/odds", "List the odds that have moved by what was found in the firm's homes, and those that it keeps as they came", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.LearnedOdds], error) {
		out, err := s.service.LearnedOdds(ctx, a)
		return &answer[[]wire.LearnedOdds]{Body: out}, err
	})
	operation(s, "keep-odds", http.MethodPut, "/faults/{id}/odds", "Keep the odds of a mode as they came, or let them follow what is found again", func(ctx context.Context, a service.Actor, in *struct {
		ID   string `path:"id" maxLength:"60" doc:"Id of the mode."`
		Body wire.OddsKept
	}) (*struct{}, error) {
		return &struct{}{}, s.service.KeepOdds(ctx, a, in.ID, in.Body.Kept)
	})
	operation(s, "remove-fault", http.MethodDelete, "/faults/{id}", "Remove a fault mode of the firm; one that comes with Kaiku is then as it came", func(ctx context.Context, a service.Actor, in *struct {
		ID string `path:"id" maxLength:"60" doc:"Id of the mode."`
	}) (*struct{}, error) {
		return &struct{}{}, s.service.RemoveFault(ctx, a, in.ID)
	})
}

// takesFile registers an operation that takes a file of JSON of one of Kaiku's own forms, and says what that changes.
func takesFile[I any](s *Server, id, path, summary, mediaType, form string, take func(context.Context, service.Actor, *I) ([]wire.KnowledgeChange, error)) {
	op := s.describe(id, http.MethodPost, path, summary)
	register(s, op, func(ctx context.Context, in *I) (*answer[[]wire.KnowledgeChange], error) {
		changes, err := take(ctx, actorOf(ctx), in)
		return &answer[[]wire.KnowledgeChange]{Body: changes}, err
	})
	file := strings.ReplaceAll(form, "/", "-")
	s.setBody(op.Path, http.MethodPost, mediaType, &huma.Schema{Type: "object", AdditionalProperties: true, Description: "JSON of the form " + form + "; docs/" + file + ".schema.json is its schema."})
}

// givesFile registers an operation that gives such a file.
func givesFile(s *Server, id, path, summary, mediaType string, give func(context.Context, service.Actor) ([]byte, error)) {
	op := s.describe(id, http.MethodGet, path, summary)
	op.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{mediaType: {Schema: &huma.Schema{Type: "object", AdditionalProperties: true}}}}}
	register(s, op, func(ctx context.Context, _ *struct{}) (*bodyAnswer, error) {
		body, err := give(ctx, actorOf(ctx))
		return &bodyAnswer{ContentType: mediaType, Body: body}, err
	})
}

var decodes, _ = dossier.KindNamed("decoding").Field("entries")

func (s *Server) registerKnowledge() {
	operation(s, "list-knowledge", http.MethodGet, "/knowledge", "List what the firm knows of models of devices and of programs", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.Knowledge], error) {
		k, err := s.service.Knowledge(ctx, a)
		return &answer[wire.Knowledge]{Body: k}, err
	})
	takesFile(s, "import-knowledge", "/knowledge", "Take up the sheets and releases of a file; those of the same model or program are replaced", knowledgeType, knowledge.FileFormat, func(ctx context.Context, a service.Actor, in *knowledgeFile) ([]wire.KnowledgeChange, error) {
		return s.service.ImportKnowledge(ctx, a, in.RawBody, in.Alone)
	})
	takesFile(s, "compare-knowledge", "/knowledge/compare", "Say what taking up a file would change; nothing is stored", knowledgeType, knowledge.FileFormat, func(ctx context.Context, a service.Actor, in *knowledgeFile) ([]wire.KnowledgeChange, error) {
		return s.service.CompareKnowledge(ctx, a, in.RawBody, in.Alone)
	})
	givesFile(s, "export-knowledge", "/knowledge/file", "Export what the firm knows as a file", knowledgeType, s.service.ExportKnowledge)
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
