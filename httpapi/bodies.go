package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/wire"
	"kaiku/wording"
)

// Bounds of a JSON body, held before anything of it is decoded into a value, validated or merged.
const (
	mostDepth   = 32     // objects and lists within each other
	mostMembers = 20_000 // members of objects and entries of lists together
	longestName = 200    // bytes of the name of a member
)

// bounded reads a JSON body within the bounds of its operation. It rejects a body
// at the first unknown field: however many there are, the rest is not looked at.
func (s *Server) bounded(c huma.Context, next func(huma.Context)) {
	schema, isJSON := s.bodySchema(c.Operation())
	if !isJSON {
		next(c)
		return
	}
	most := c.Operation().MaxBodyBytes
	body, err := io.ReadAll(io.LimitReader(c.BodyReader(), most+1))
	switch {
	case c.Context().Err() != nil:
		return // the client is gone
	case err != nil:
		s.refuse(c, problem("bad-request", map[string]string{"detail": "the body ended early"}))
		return
	case int64(len(body)) > most:
		s.refuse(c, problem("too-large", map[string]string{"limit": size(int(most))}))
		return
	}
	check := bodyCheck{ctx: c.Context(), schemas: s.api.OpenAPI().Components.Schemas, most: mostMembers}
	if n, ok := c.Operation().Metadata["members"].(int); ok {
		check.most = n
	}
	if err := check.body(body, schema); err != nil {
		var p *wire.Problem
		if errors.As(err, &p) {
			s.refuse(c, p)
		}
		return // else the client is gone
	}
	next(withBody{c, bytes.NewReader(body)})
}

// withBody is a request whose body has been read.
type withBody struct {
	exchanged // the interface has a method of its own name
	body      io.Reader
}

type exchanged = huma.Context

func (w withBody) BodyReader() io.Reader { return w.body }

// bodySchema returns the schema that the operation's body has to match, and whether the body is JSON. Operations
// that read a record themselves check its fields only after the caller's rights.
func (s *Server) bodySchema(op *huma.Operation) (*huma.Schema, bool) {
	if op.RequestBody == nil {
		return nil, false
	}
	for _, kind := range []string{"application/json", "application/merge-patch+json"} {
		if m := op.RequestBody.Content[kind]; m != nil && op.SkipValidateBody {
			return nil, true
		} else if m != nil {
			return m.Schema, true
		}
	}
	return nil, false
}

// bodyCheck walks through a body token by token. It holds no more of it than one.
type bodyCheck struct {
	ctx     context.Context
	schemas huma.Registry
	in      *json.Decoder
	most    int // members
	members int
	path    []string
}

// body returns the problem of a body that must not be decoded. A body that is not JSON passes; the decoder then
// says where it is wrong.
func (b *bodyCheck) body(body []byte, schema *huma.Schema) error {
	b.in = json.NewDecoder(bytes.NewReader(body))
	b.in.UseNumber()
	err := b.value(schema)
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return nil
	}
	return err
}

// value passes over one value.
func (b *bodyCheck) value(schema *huma.Schema) error {
	token, err := b.in.Token()
	if err != nil {
		return err
	}
	if len(b.path) > mostDepth {
		return problem("too-much", map[string]string{"limit": fmt.Sprintf("%d objects and lists within each other", mostDepth)})
	}
	switch token {
	case json.Delim('{'):
		return b.object(b.resolved(schema))
	case json.Delim('['):
		var items *huma.Schema
		if s := b.resolved(schema); s != nil {
			items = s.Items
		}
		for n := 0; b.in.More(); n++ {
			if err := b.member(strconv.Itoa(n), items); err != nil {
				return err
			}
		}
		_, err = b.in.Token()
	}
	return err
}

func (b *bodyCheck) object(schema *huma.Schema) error {
	for b.in.More() {
		token, err := b.in.Token()
		if err != nil {
			return err
		}
		name, _ := token.(string)
		if len(name) > longestName {
			return problem("too-much", map[string]string{"limit": fmt.Sprintf("%d bytes in the name of a field", longestName)})
		}
		inner, known := memberSchema(schema, name)
		if !known {
			p := problem("not-valid", map[string]string{"n": things(1)})
			p.Faults = []wire.Fault{{In: "body", Pointer: pointer(append(b.path, name)), Code: "unknown-member", Detail: wording.Faults["unknown-member"]}}
			return p
		}
		if err := b.member(name, inner); err != nil {
			return err
		}
	}
	_, err := b.in.Token()
	return err
}

// member passes over a member of an object or an entry of a list.
func (b *bodyCheck) member(name string, schema *huma.Schema) error {
	if b.members++; b.members > b.most {
		return problem("too-much", map[string]string{"limit": fmt.Sprintf("%d fields and entries", b.most)})
	}
	if b.members%1000 == 0 && b.ctx.Err() != nil {
		return b.ctx.Err()
	}
	b.path = append(b.path, name)
	err := b.value(schema)
	b.path = b.path[:len(b.path)-1]
	return err
}

// resolved follows references. Where there is a choice of schemas there is none to hold against.
func (b *bodyCheck) resolved(schema *huma.Schema) *huma.Schema {
	for schema != nil && schema.Ref != "" {
		schema = b.schemas.SchemaFromRef(schema.Ref)
	}
	if schema == nil || len(schema.OneOf)+len(schema.AnyOf)+len(schema.AllOf) > 0 {
		return nil
	}
	return schema
}

// memberSchema returns the schema of a member, and whether the object may have it.
func memberSchema(schema *huma.Schema, name string) (*huma.Schema, bool) {
	if schema == nil {
		return nil, true
	}
	if inner := schema.Properties[name]; inner != nil {
		return inner, true
	}
	switch further := schema.AdditionalProperties.(type) {
	case *huma.Schema:
		return further, true
	case bool:
		return nil, further
	}
	return nil, true
}

// pointer is a JSON pointer (RFC 6901).
func pointer(path []string) (out string) {
	for _, step := range path {
		out += "/" + strings.NewReplacer("~", "~0", "/", "~1").Replace(step)
	}
	return out
}
