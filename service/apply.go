package service

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/papers"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// Apply writes a document with records of several kinds into a household, as one revision or not
// at all. A record whose name is there already is changed; one that says nothing new is left.
func (s *Service) Apply(ctx context.Context, a Actor, code string, body []byte, dry bool, reader ImportReader, r Request) (wire.Import, error) {
	d, err := s.Home(ctx, a, "apply-document", code)
	if err != nil {
		return wire.Import{}, err
	}
	doc, err := s.applied(ctx, body, reader)
	if err != nil {
		return wire.Import{}, err
	}
	if dry {
		out, _ := doc.try(d.Clone(), wire.ImportOptions{Dry: true})
		return out, nil
	}
	return s.bringIn(ctx, a, "apply-document", code, "document applied", r, func(d *dossier.Dossier) (wire.Import, []dossier.Ref, error) {
		out, touched := doc.try(d, wire.ImportOptions{})
		return out, touched, refusedLines(out)
	})
}

// ApplyNew begins a household with a document, as one revision or not at all.
func (s *Service) ApplyNew(ctx context.Context, a Actor, body []byte, dry bool, reader ImportReader, r Request) (wire.Applied, error) {
	if err := a.require("begin-household", nil, nil); err != nil {
		return wire.Applied{}, err
	}
	records, err := papers.ReadApply(body)
	if err != nil {
		return wire.Applied{}, refuse("not-readable", "detail", err.Error())
	}
	in := wire.NewHousehold{}
	for _, one := range records {
		if one.Kind.Name == "household" {
			in.Name, _ = one.Members["name"].(string)
			in.Code, _ = one.Members["code"].(string)
		}
	}
	if in.Name == "" {
		return wire.Applied{}, refuse("not-readable", "detail", "a new household needs a name: household with name in it")
	}
	doc, err := s.applied(ctx, body, reader)
	if err != nil {
		return wire.Applied{}, err
	}
	var out wire.Applied
	h, err := s.newHousehold(ctx, a, in)
	if err != nil {
		return out, err
	}
	out.Code = h.Code
	h.Household = h.ID
	made, inPlace := &dossier.Dossier{}, h // filled before the door, where a free code is found
	inPlace.Code = cmp.Or(h.Code, "H-0000")
	made.Household.Put(inPlace)
	var touched []dossier.Ref
	out.Import, touched = doc.try(made, wire.ImportOptions{Dry: dry})
	if dry || refusedLines(out.Import) != nil { // refusals are reported line by line
		return out, nil
	}
	fill := func(d *dossier.Dossier) error {
		out.Code = d.Home().Code
		carry(made, d, touched)
		h := d.Home()
		h.Code = out.Code
		d.Household.Put(h)
		return nil
	}
	cause := store.Cause{Actor: a.ID, Why: "document applied", Key: r.Key, RequestHash: r.Hash}
	if before, again, err := s.store.BegunWith(ctx, cause); again || err != nil {
		if errors.Is(err, store.ErrKeyReused) {
			return out, refuse("key-reused")
		}
		if err != nil {
			return out, err
		}
		d, err := s.store.Load(ctx, before)
		if err == nil {
			out.Code, out.Written = d.Home().Code, true
			out.Import, _ = doc.try(d.Clone(), wire.ImportOptions{})
		}
		return out, err
	}
	w, err := s.store.CreateWith(ctx, h, cause, fill)
	switch {
	case errors.Is(err, store.ErrTaken):
		return out, refuse("code-taken", "code", h.Code)
	case err != nil:
		return out, err
	}
	s.tellOf(w, a)
	out.Written = true
	return out, nil
}

func refusedLines(out wire.Import) error {
	if out.Counts[wire.LineRefused] > 0 {
		return errNotBroughtIn
	}
	return nil
}

// applied reads a document into steps.
func (s *Service) applied(ctx context.Context, body []byte, reader ImportReader) (document, error) {
	records, err := papers.ReadApply(body)
	if err != nil {
		return document{}, refuse("not-readable", "detail", err.Error())
	}
	people, err := s.staff(ctx)
	if err != nil {
		return document{}, err
	}
	doc := document{form: "document"}
	for _, one := range records {
		id := newID()
		label := one.Kind.Noun()
		if name, ok := one.Members["name"].(string); ok {
			label += " " + name
		}
		doc.steps = append(doc.steps, step{one.Line, label, func(d *dossier.Dossier) (string, string, []dossier.Ref, error) {
			row, err := rowOfApplied(d, one, people)
			if err != nil {
				return "", "", nil, err
			}
			if row.ID == "" {
				row.ID = id
			}
			return takeRow(d, one.Kind, row, row.ID, reader)
		}})
	}
	return doc, nil
}

// rowOfApplied puts ids in place of names, finds the record that is there already, and leaves only
// what is new.
func rowOfApplied(d *dossier.Dossier, one papers.Applied, people views.People) (papers.Row, error) {
	row := papers.Row{Line: one.Line, Members: map[string]json.RawMessage{}}
	k := one.Kind
	for name, v := range one.Members {
		f, known := k.Field(name)
		if known {
			var err error
			if v, err = withIDs(d, f, v, people); err != nil {
				return row, fmt.Errorf("%s: %w", name, err)
			}
		}
		b, err := json.Marshal(v)
		if err != nil {
			return row, fmt.Errorf("%s: %w", name, err)
		}
		row.Members[name] = b
	}
	existing, err := thereAlready(d, k, row.Members)
	if err != nil || existing == nil {
		return row, err
	}
	row.ID, row.Exists = existing.Key(), true
	delete(row.Members, "id")
	for name, v := range row.Members {
		if f, known := k.Field(name); known && sameJSON(f, f.Get(existing), v) {
			delete(row.Members, name)
		}
	}
	return row, nil
}

// withIDs puts ids in place of the names by which a value refers to records and people.
func withIDs(d *dossier.Dossier, f dossier.Field, v any, people views.People) (any, error) {
	if list, ok := v.([]any); ok && f.List && f.Refers != "" {
		out := make([]any, len(list))
		for i, one := range list {
			var err error
			if out[i], err = withIDs(d, f, one, people); err != nil {
				return nil, err
			}
		}
		return out, nil
	}
	text, ok := v.(string)
	if !ok || text == "" {
		return v, nil
	}
	switch f.Refers {
	case "":
		return v, nil
	case "person":
		p, err := personNamed(people, text)
		return string(p.ID), err
	case "any":
		kind, name, cut := strings.Cut(text, "/")
		if !cut || dossier.KindNamed(kind) == nil {
			return nil, fmt.Errorf("%q: write the record as kind/name, such as device/granite server", text)
		}
		id, err := papers.Named(d, kind, name)
		return map[string]any{"kind": kind, "id": id}, err
	}
	id, err := papers.Named(d, f.Refers, text)
	return id, err
}

// thereAlready finds the record that a document means: by its id, or by what people call it together
// with what it belongs to. Kinds whose records are never changed, such as readings, match only as a whole.
func thereAlready(d *dossier.Dossier, k *dossier.Kind, members map[string]json.RawMessage) (dossier.Record, error) {
	if k.Name == "household" {
		if d.Home().ID == "" {
			return nil, nil
		}
		return d.Home(), nil
	}
	var names []string
	for _, f := range k.Fields {
		if f.Label || f.Name == "id" && len(members["id"]) > 0 {
			names = append(names, f.Name)
		}
	}
	if owner, ok := k.Owner(); ok && len(members[owner.Name]) > 0 {
		names = append(names, owner.Name)
	}
	if !k.Allows(dossier.Set) {
		names = nil
		for name := range members {
			names = append(names, name)
		}
	}
	if len(members["id"]) > 0 {
		names = []string{"id"}
	}
	var found []dossier.Record
	for i := range k.In(d).Len() {
		r := k.In(d).At(i)
		fits := len(names) > 0
		for _, name := range names {
			f, known := k.Field(name)
			fits = fits && known && sameJSON(f, f.Get(r), members[name])
		}
		if fits {
			found = append(found, r)
		}
	}
	if len(found) > 1 && k.Allows(dossier.Set) {
		return nil, fmt.Errorf("more than one %s has this name; say what it belongs to, or give its id", k.Noun())
	}
	if len(found) == 0 {
		return nil, nil
	}
	return found[0], nil
}

// sameJSON reports whether a value is what a document says, however it is spelled there.
func sameJSON(f dossier.Field, recorded any, said json.RawMessage) bool {
	return f.Equal(recorded, said)
}
