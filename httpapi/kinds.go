package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	jsonpatch "github.com/evanphx/json-patch/v5"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
	"kaiku/wording"
)

// registerKinds makes the general operations of every kind from its declaration: one loop, no
// line for a kind.
func (s *Server) registerKinds() {
	s.registerDossier()
	for _, k := range dossier.Kinds {
		s.inputSchema(k)
		if k.Name == "household" {
			s.registerShow(k, "/households/{code}")
			s.registerSet(k, "/households/{code}")
			continue
		}
		list := "/households/{code}/" + k.Plural
		s.registerList(k, list)
		s.registerShow(k, list+"/{id}")
		if k.Allows(dossier.Add) {
			s.registerAdd(k, list)
		}
		if k.Allows(dossier.Set) {
			s.registerSet(k, list+"/{id}")
		}
		if k.Allows(dossier.Remove) {
			s.registerRemove(k, list+"/{id}")
		}
	}
}

type recordAnswer struct {
	ETag string `header:"ETag"`
	Body any
}

// Conditions say which version a request is about, and make repeating it harmless.
type Conditions struct {
	IfMatch     string `header:"If-Match" doc:"ETag of the version that the change starts from."`
	IfNoneMatch string `header:"If-None-Match" doc:"ETag of the version that the client already has."`
	Keyed
}

// HomeInput is a request on the household record itself, which has no id in its address.
type HomeInput struct {
	InHome
	Conditions
}

// RecordInput is a request on one record.
type RecordInput struct {
	OneOf
	Conditions
}

// Patch is the body of a change.
type Patch struct {
	RawBody []byte `contentType:"application/merge-patch+json"`
}

func (s *Server) registerList(k *dossier.Kind, path string) {
	op := s.describe("list-"+k.Plural, http.MethodGet, path, "List "+k.Plural)
	op.Responses = answerSchema(s.listSchema(k))
	huma.Register(s.api, op, func(ctx context.Context, in *struct {
		InHome
		IfNoneMatch string `header:"If-None-Match" doc:"ETag of the list that the client already has."`
		After       string `query:"after" doc:"Id after which the list continues."`
		Limit       int    `query:"limit" minimum:"1" maximum:"200" default:"200" doc:"Maximum number of records in the answer."`
	}) (*recordAnswer, error) {
		d, err := s.service.Home(ctx, actorOf(ctx), "list-"+k.Plural, in.Code)
		if err != nil {
			return nil, s.problemOf(ctx, in.Code, err)
		}
		if in.IfNoneMatch == etag(d.Revision) {
			return nil, notModified(d.Revision)
		}
		rows := k.In(d)
		out := make([]dossier.Record, 0, rows.Len())
		for i := 0; i < rows.Len() && len(out) < in.Limit; i++ {
			if r := rows.At(i); r.Key() > in.After {
				out = append(out, r)
			}
		}
		return &recordAnswer{etag(d.Revision), wire.Records{Records: out, Labels: labels(d, k, out)}}, nil
	})
}

// listSchema describes a list of records with what people call them and what they refer to.
func (s *Server) listSchema(k *dossier.Kind) *huma.Schema {
	return &huma.Schema{Type: "object", Required: []string{"records", "labels"}, AdditionalProperties: false, Properties: map[string]*huma.Schema{
		"records": {Type: "array", Items: s.ref(k)},
		"labels": {Type: "object", AdditionalProperties: &huma.Schema{Type: "string"},
			Description: "What people call the records of the list and those that they refer to, by their ids."},
	}}
}

// labels says what people call the records of a list and those that they refer to.
func labels(d *dossier.Dossier, k *dossier.Kind, list []dossier.Record) map[string]string {
	out := map[string]string{}
	for _, r := range list {
		out[r.Key()] = k.Label(d, r)
		for _, f := range k.Fields {
			for _, ref := range f.Refs(r) {
				if label := d.FullLabel(ref); label != "" {
					out[ref.ID] = label
				}
			}
		}
	}
	return out
}

func (s *Server) registerShow(k *dossier.Kind, path string) {
	op := s.describe("show-"+k.Name, http.MethodGet, path, "Show "+wording.A(k.Noun()))
	op.Responses = answerSchema(s.ref(k))
	show := func(ctx context.Context, code, id string, c Conditions) (*recordAnswer, error) {
		d, err := s.service.Home(ctx, actorOf(ctx), op.OperationID, code)
		if err != nil {
			return nil, err
		}
		r, err := recordIn(k, d, id)
		if err != nil {
			return nil, err
		}
		if c.IfNoneMatch == etag(r.Changed()) {
			return nil, notModified(r.Changed())
		}
		return &recordAnswer{etag(r.Changed()), r}, nil
	}
	if k.Name == "household" {
		register(s, op, func(ctx context.Context, in *HomeInput) (*recordAnswer, error) {
			return show(ctx, in.Code, "", in.Conditions)
		})
		return
	}
	register(s, op, func(ctx context.Context, in *RecordInput) (*recordAnswer, error) {
		return show(ctx, in.Code, in.ID, in.Conditions)
	})
}

func (s *Server) registerAdd(k *dossier.Kind, path string) {
	op := s.describe("add-"+k.Name, http.MethodPost, path, "Add "+wording.A(k.Noun()))
	op.DefaultStatus = http.StatusCreated
	op.Responses = map[string]*huma.Response{"201": answerSchema(s.ref(k))["200"]}
	op.SkipValidateBody = true
	register(s, op, func(ctx context.Context, in *struct {
		InHome
		Keyed
		RawBody []byte `contentType:"application/json"`
	}) (*recordAnswer, error) {
		if _, err := s.service.Home(ctx, actorOf(ctx), op.OperationID, in.Code); err != nil {
			return nil, err
		}
		c, err := s.merged(k, dossier.Add, []byte(`{}`), in.RawBody)
		if err != nil {
			return nil, err
		}
		r, _, err := s.service.Add(ctx, actorOf(ctx), in.Code, c, request(ctx, in.Keyed, json.RawMessage(in.RawBody)))
		if err != nil {
			return nil, err
		}
		return &recordAnswer{etag(r.Changed()), r}, nil
	})
	s.setBody(op.Path, http.MethodPost, "application/json", &huma.Schema{Ref: "#/components/schemas/" + inputName(k)})
}

func (s *Server) registerSet(k *dossier.Kind, path string) {
	op := s.describe("set-"+k.Name, http.MethodPatch, path, "Change "+wording.A(k.Noun())+" by merge patch")
	op.Responses = answerSchema(s.ref(k))
	op.SkipValidateBody = true
	set := func(ctx context.Context, code, id string, conditions Conditions, patch []byte) (*recordAnswer, error) {
		c, err := s.change(ctx, k, code, id, conditions, patch)
		if err != nil {
			return nil, err
		}
		r, _, err := s.service.Set(ctx, actorOf(ctx), code, c, request(ctx, conditions.Keyed, json.RawMessage(patch)))
		if err != nil {
			return nil, err
		}
		return &recordAnswer{etag(r.Changed()), r}, nil
	}
	if k.Name == "household" {
		register(s, op, func(ctx context.Context, in *struct {
			HomeInput
			Patch
		}) (*recordAnswer, error) {
			return set(ctx, in.Code, "", in.Conditions, in.RawBody)
		})
	} else {
		register(s, op, func(ctx context.Context, in *struct {
			RecordInput
			Patch
		}) (*recordAnswer, error) {
			return set(ctx, in.Code, in.ID, in.Conditions, in.RawBody)
		})
	}
	s.setBody(op.Path, http.MethodPatch, "application/merge-patch+json", &huma.Schema{Type: "object", AdditionalProperties: true,
		Description: "Merge patch (RFC 7396) on the members of " + inputName(k) + "."})
}

// change reads a merge patch against the record as it is now.
func (s *Server) change(ctx context.Context, k *dossier.Kind, code, id string, conditions Conditions, patch []byte) (service.Change, error) {
	d, err := s.service.Home(ctx, actorOf(ctx), "set-"+k.Name, code)
	if err != nil {
		return service.Change{}, err
	}
	revision, err := ifMatch(conditions.IfMatch)
	if err != nil {
		return service.Change{}, err
	}
	current, err := recordIn(k, d, id)
	if err != nil {
		return service.Change{}, err
	}
	base, err := json.Marshal(current)
	if err != nil {
		return service.Change{}, err
	}
	c, err := s.merged(k, dossier.Set, base, patch)
	c.ID, c.IfRevision = current.Key(), revision
	return c, err
}

func (s *Server) registerRemove(k *dossier.Kind, path string) {
	op := s.describe("remove-"+k.Name, http.MethodDelete, path, "Remove "+wording.A(k.Noun()))
	register(s, op, func(ctx context.Context, in *RecordInput) (*struct{}, error) {
		if _, err := s.service.Home(ctx, actorOf(ctx), op.OperationID, in.Code); err != nil {
			return nil, err
		}
		revision, err := ifMatch(in.IfMatch)
		if err != nil {
			return nil, err
		}
		c := service.Change{Kind: k, ID: in.ID, IfRevision: revision}
		return &struct{}{}, s.service.Remove(ctx, actorOf(ctx), in.Code, c, request(ctx, in.Keyed, nil))
	})
}

// previewStep reads one change of a preview against the copy of the home that it would be made to.
func (s *Server) previewStep(d *dossier.Dossier, in wire.PreviewStep) (service.Step, error) {
	k := dossier.KindNamed(in.Kind)
	verb := dossier.Verb(in.Verb)
	if k == nil || !k.Allows(verb) {
		return service.Step{}, problem("no-such-kind", map[string]string{"kind": in.Kind})
	}
	base := []byte(`{}`)
	if verb != dossier.Add {
		current, err := recordIn(k, d, in.ID)
		if err != nil {
			return service.Step{}, err
		}
		in.ID = current.Key()
		if base, err = json.Marshal(current); err != nil {
			return service.Step{}, err
		}
	}
	if verb == dossier.Remove {
		return service.Step{Verb: verb, Change: service.Change{Kind: k, ID: in.ID}}, nil
	}
	if in.Members == nil {
		in.Members = map[string]any{}
	}
	patch, err := json.Marshal(in.Members)
	if err != nil {
		return service.Step{}, err
	}
	c, err := s.merged(k, verb, base, patch)
	if verb == dossier.Set || c.ID == "" {
		c.ID = in.ID
	}
	return service.Step{Verb: verb, Change: c}, err
}

// registerDossier serves a whole home in one answer, for computing on another machine.
func (s *Server) registerDossier() {
	op := s.describe("show-dossier", http.MethodGet, "/households/{code}/dossier", "Show everything that is recorded of a household")
	op.Responses = answerSchema(&huma.Schema{Type: "object", AdditionalProperties: true, Description: "The revision, and for each kind of record its list."})
	register(s, op, func(ctx context.Context, in *struct {
		InHome
		IfNoneMatch string `header:"If-None-Match" doc:"ETag of the version that the client already has."`
	}) (*recordAnswer, error) {
		d, err := s.service.Home(ctx, actorOf(ctx), "show-dossier", in.Code)
		if err != nil {
			return nil, err
		}
		if in.IfNoneMatch == etag(d.Revision) {
			return nil, notModified(d.Revision)
		}
		return &recordAnswer{etag(d.Revision), d}, nil
	})
}

// codeIn is the code of the household that an operation is about, or "" for the whole firm.
func codeIn(in any) string {
	if h, ok := in.(interface{ household() string }); ok {
		return h.household()
	}
	return ""
}

// register is operation for what is already described.
func register[I, O any](s *Server, op huma.Operation, handle func(context.Context, *I) (*O, error)) {
	huma.Register(s.api, op, func(ctx context.Context, in *I) (*O, error) {
		out, err := handle(ctx, in)
		if err != nil {
			code := codeIn(in)
			var status huma.StatusError
			if errors.As(err, &status) && status.GetStatus() == http.StatusNotModified {
				return nil, err
			}
			return nil, s.problemOf(ctx, code, err)
		}
		return out, nil
	})
}

func recordIn(k *dossier.Kind, d *dossier.Dossier, id string) (dossier.Record, error) {
	if k.Name == "household" {
		return d.Home(), nil
	}
	r, ok := k.In(d).Lookup(id)
	if !ok {
		return nil, problem("no-such-record", map[string]string{"kind": k.Name, "id": id})
	}
	return r, nil
}

// merged applies a merge patch to a record's JSON and returns the change it asks for. The whole
// merged record is checked, so that clearing a needed member is found out.
func (s *Server) merged(k *dossier.Kind, verb dossier.Verb, base, patch []byte) (service.Change, error) {
	var sent map[string]any
	if err := json.Unmarshal(patch, &sent); err != nil || sent == nil {
		return service.Change{}, problem("bad-request", map[string]string{"detail": "the body is not a JSON object"})
	}
	c := service.Change{Kind: k}
	for name := range sent {
		c.Members = append(c.Members, name)
	}
	slices.Sort(c.Members)
	if err := c.Check(verb); err != nil {
		return c, err
	}
	whole, err := jsonpatch.MergePatch(base, patch)
	if err != nil {
		return c, problem("bad-request", map[string]string{"detail": "the body is not a merge patch"})
	}
	// On create, null means "not set", which merging onto nothing would keep.
	record, faults := s.decode(k, whole)
	if len(faults) > 0 {
		p := problem("not-valid", map[string]string{"n": things(len(faults))})
		p.Faults = faults
		return c, p
	}
	c.Record = record
	if id, ok := sent["id"].(string); ok {
		c.ID = id
	}
	return c, nil
}

// decode checks a whole record against its schema, then reads it member by member, so that each
// fault points at what to correct.
func (s *Server) decode(k *dossier.Kind, whole []byte) (any, []wire.Fault) {
	var doc map[string]any
	if err := json.Unmarshal(whole, &doc); err != nil {
		return nil, []wire.Fault{{In: "body", Code: "schema", Detail: err.Error()}}
	}
	settable := map[string]any{}
	for name, v := range doc {
		f, known := k.Field(name)
		if v != nil && (!known || f.Rule == dossier.Plain || f.Rule == dossier.Fixed) {
			settable[name] = v
		}
	}
	registry := s.api.OpenAPI().Components.Schemas
	res := &huma.ValidateResult{}
	huma.Validate(registry, registry.Map()[inputName(k)], huma.NewPathBuffer([]byte("body"), 4), huma.ModeWriteToServer, settable, res)
	var faults []wire.Fault
	for _, err := range res.Errors[:min(len(res.Errors), mostFaults)] {
		faults = append(faults, schemaFault(k, err))
	}
	record := reflect.New(k.Type)
	var raw map[string]json.RawMessage
	_ = json.Unmarshal(whole, &raw) // read as an object above
	for _, f := range k.Fields {
		v, there := raw[f.Name]
		if !there || bytes.Equal(v, []byte("null")) {
			continue
		}
		if err := json.Unmarshal(v, reflect.New(f.Type).Interface()); err != nil && !pointsAt(faults, f.Name) {
			faults = append(faults, wire.Fault{In: "body", Pointer: "/" + f.Name, Code: "schema", Detail: wording.NotReadable(f.Type.String(), v)})
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	if err := json.Unmarshal(whole, record.Interface()); err != nil {
		return nil, []wire.Fault{{In: "body", Code: "schema", Detail: err.Error()}}
	}
	return record.Interface(), nil
}

func pointsAt(faults []wire.Fault, member string) bool {
	return slices.ContainsFunc(faults, func(f wire.Fault) bool {
		return f.Pointer == "/"+member || strings.HasPrefix(f.Pointer, "/"+member+"/")
	})
}

// schemaFault points a missing or unknown member out by its own name; the schema reports both at
// their parent.
func schemaFault(k *dossier.Kind, err error) wire.Fault {
	f := wire.Fault{In: "body", Code: "schema"}
	d, ok := err.(*huma.ErrorDetail)
	if !ok {
		f.Detail = err.Error()
		return f
	}
	f.Detail = d.Message // its Error writes out the value, which may be the whole body
	_, f.Pointer = place(d.Location)
	if m := strings.TrimSuffix(strings.TrimPrefix(d.Message, "expected required property "), " to be present"); m != d.Message {
		f.Pointer, f.Code, f.Detail = f.Pointer+"/"+m, string(dossier.FaultRequired), wording.Faults[string(dossier.FaultRequired)]
	}
	if text, isText := d.Value.(string); isText && strings.HasPrefix(d.Message, "expected string to be either RFC 2673") {
		f.Detail = wording.NotReadable("netip.Addr", []byte(text))
	}
	if d.Message == "unexpected property" {
		f.Code, f.Detail = "unknown-member", wording.Faults["unknown-member"]
		if member, known := k.Field(strings.TrimPrefix(f.Pointer, "/")); known && member.Rule != dossier.Plain {
			f.Code, f.Detail = "not-yours", wording.Faults["not-yours"]
		}
	}
	return f
}

func (s *Server) ref(k *dossier.Kind) *huma.Schema {
	return s.api.OpenAPI().Components.Schemas.Schema(k.Type, true, k.Type.Name())
}

func inputName(k *dossier.Kind) string { return k.Type.Name() + "Input" }

// inputSchema derives what a client may send from the record's schema and its rules, and writes
// the enumerations and references of the declaration into both.
func (s *Server) inputSchema(k *dossier.Kind) {
	registry := s.api.OpenAPI().Components.Schemas
	s.ref(k) // makes the schema of the stored form
	stored := registry.Map()[k.Type.Name()+"Record"]
	input := &huma.Schema{Type: "object", Properties: map[string]*huma.Schema{}, AdditionalProperties: false}
	for _, f := range k.Fields {
		p := stored.Properties[f.Name]
		s.extend(p, f)
		if f.Rule == dossier.Plain || f.Rule == dossier.Fixed || f.Name == "id" {
			c := *p
			if c.Format == "ipv4" || c.Format == "ip" {
				c.Format = "" // read by the address's own parser, which says what is wrong
			}
			input.Properties[f.Name] = &c
			if f.Required && f.Name != "id" {
				input.Required = append(input.Required, f.Name)
			}
		}
	}
	if k.Allows(dossier.Add) || k.Allows(dossier.Set) {
		input.PrecomputeMessages()
		registry.Map()[inputName(k)] = input
	}
}

func (s *Server) extend(p *huma.Schema, f dossier.Field) {
	target := p
	if f.List && p.Items != nil {
		target = p.Items
	}
	if f.Group != nil && target.Ref != "" {
		group := s.api.OpenAPI().Components.Schemas.SchemaFromRef(target.Ref)
		for _, g := range f.Group {
			if p := group.Properties[g.Name]; p != nil && p.Enum == nil {
				s.extend(p, g)
			}
		}
	}
	for _, w := range f.Enum {
		target.Enum = append(target.Enum, w)
	}
	if len(f.Terms) > 0 {
		target.Description += " Words that are understood: " + strings.Join(f.Terms, ", ") + "."
	}
	if f.Refers != "" && p.Ref == "" {
		p.Extensions = map[string]any{"x-refers": f.Refers}
	}
	target.PrecomputeMessages()
	p.PrecomputeMessages()
}

func answerSchema(schema *huma.Schema) map[string]*huma.Response {
	return map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{"application/json": {Schema: schema}},
		Headers: map[string]*huma.Param{"ETag": {Schema: &huma.Schema{Type: "string"}}}}}
}

// setBody gives an operation that reads raw bytes the schema of its body.
func (s *Server) setBody(path, method, contentType string, schema *huma.Schema) {
	item := s.api.OpenAPI().Paths[path]
	op := item.Post
	if method == http.MethodPatch {
		op = item.Patch
	}
	op.RequestBody.Required = true
	op.RequestBody.Content = map[string]*huma.MediaType{contentType: {Schema: schema}}
}

func etag(revision uint64) string { return `"` + strconv.FormatUint(revision, 10) + `"` }

func ifMatch(header string) (uint64, error) {
	if header == "" {
		return 0, problem("if-match-missing", nil)
	}
	n, err := strconv.ParseUint(strings.Trim(strings.TrimPrefix(header, "W/"), `"`), 10, 64)
	if err != nil {
		return 0, problem("bad-request", map[string]string{"detail": fmt.Sprintf("If-Match %q is not an ETag of this API", header)})
	}
	return n, nil
}

func notModified(revision uint64) error {
	return huma.ErrorWithHeaders(huma.Status304NotModified(), http.Header{"ETag": {etag(revision)}})
}
