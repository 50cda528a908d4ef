package dossier

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"
)

// Act says what happened to a record in one journal entry.
type Act string

// What can happen to a record.
const (
	Added   Act = "added"
	Changed Act = "changed"
	Removed Act = "removed"
)

// Values lists all acts.
func (Act) Values() []string { return words(Added, Changed, Removed) }

// Entry is one changed record in the journal. Before and After map a JSON pointer into the
// record to its value; a member that is absent on one side did not exist there. An element of a
// list whose elements have ids is pointed at as /list/@id.
type Entry struct {
	Revision uint64                     `json:"revision" doc:"Revision that this write made."`
	N        int                        `json:"n" doc:"Place of the entry within its write, from 1."`
	At       time.Time                  `json:"at" doc:"When."`
	DoneAt   time.Time                  `json:"doneAt,omitzero" doc:"When it was done, where it was written down here later."`
	By       PersonID                   `json:"by" doc:"Who."`
	Why      string                     `json:"why,omitzero" doc:"Why, where a reason was given."`
	Act      Act                        `json:"act" doc:"What happened to the record."`
	Subject  Ref                        `json:"subject" doc:"The record."`
	Before   map[string]json.RawMessage `json:"before,omitzero" doc:"Members before, by JSON pointer."`
	After    map[string]json.RawMessage `json:"after,omitzero" doc:"Members after, by JSON pointer."`
}

// Cause is who writes, when and why.
type Cause struct {
	Actor PersonID
	At    time.Time
	Why   string

	DoneAt time.Time // when it was done, if it comes to be written later; zero for now
}

// late is how much later than done something must be written for the journal to tell both.
const late = time.Minute

// doneBefore returns when it was done if that is worth telling beside when it was written.
func (c Cause) doneBefore() time.Time {
	if c.DoneAt.IsZero() || c.At.Sub(c.DoneAt) < late {
		return time.Time{}
	}
	return At(c.DoneAt)
}

// Seal compares next with old, gives every changed record and next itself the new revision, and
// returns the entries of this write. A record that was written but not changed is put back as it
// was. Without a difference there are no entries and the revision stays.
func Seal(old, next *Dossier, cause Cause) ([]Entry, error) {
	revision := old.Revision + 1
	home := next.Home().ID
	var entries []Entry
	for _, k := range Kinds {
		was, is := k.In(old), k.In(next)
		for _, id := range is.differing(was) {
			before, had := was.Lookup(id)
			after, has := is.Lookup(id)
			if had && has && sameRecord(before, after, home) {
				is.PutAny(pointerTo(before)) // written in another form, such as an empty list for none
				continue
			}
			var made any // the record as it should be, in canonical form: the journal holds no other
			if has {
				made = pointerTo(after)
				canon(reflect.ValueOf(made).Elem())
				after = reflect.ValueOf(made).Elem().Interface().(Record)
			}
			e := Entry{Revision: revision, N: len(entries) + 1, At: At(cause.At), DoneAt: cause.doneBefore(), By: cause.Actor, Why: cause.Why, Subject: Ref{k.Name, id}}
			var err error
			switch {
			case !had:
				e.Act = Added
				e.After, err = flatten(after)
			case !has:
				e.Act = Removed
				e.Before, err = flatten(before)
			default:
				e.Act = Changed
				e.Before, e.After, err = differing(before, after)
			}
			if err != nil {
				return nil, fmt.Errorf("describe change of %s: %w", e.Subject, err)
			}
			if has {
				made.(stamper).stamp(id, home, revision)
				is.PutAny(made)
			}
			entries = append(entries, e)
		}
	}
	next.Revision = old.Revision
	if len(entries) > 0 {
		next.Revision = revision
	}
	return entries, nil
}

// Apply carries out journal entries on d, in their order. Replaying a whole journal onto an
// empty dossier gives the dossier.
func Apply(d *Dossier, entries []Entry) error {
	for _, e := range entries {
		k := KindNamed(e.Subject.Kind)
		if k == nil {
			return fmt.Errorf("journal entry %d.%d: unknown kind %q", e.Revision, e.N, e.Subject.Kind)
		}
		d.Revision = e.Revision
		if e.Act == Removed {
			k.In(d).remove(e.Subject.ID)
			continue
		}
		flat := map[string]json.RawMessage{}
		if r, ok := k.In(d).Lookup(e.Subject.ID); ok {
			var err error
			if flat, err = flatten(r); err != nil {
				return err
			}
		}
		for p := range e.Before {
			delete(flat, p)
		}
		for p, v := range e.After {
			flat[p] = v
		}
		record := reflect.New(k.Type)
		if err := json.Unmarshal(unflatten(flat), record.Interface()); err != nil {
			return fmt.Errorf("journal entry %d.%d of %s: %w", e.Revision, e.N, e.Subject, err)
		}
		home := d.Home().ID
		if k.Name == "household" {
			home = ID[Household](e.Subject.ID)
		}
		record.Interface().(stamper).stamp(e.Subject.ID, home, e.Revision)
		k.In(d).PutAny(record.Interface())
	}
	return nil
}

// Touched returns the records that differ between two states of a dossier, in the order of the
// kinds, then of ids.
func Touched(old, next *Dossier) []Ref {
	var out []Ref
	for _, k := range Kinds {
		was, is := k.In(old), k.In(next)
		for _, id := range is.differing(was) {
			before, had := was.Lookup(id)
			after, has := is.Lookup(id)
			if had != has || !sameRecord(before, after, next.Home().ID) {
				out = append(out, Ref{k.Name, id})
			}
		}
	}
	return out
}

func sameRecord(before, after Record, home ID[Household]) bool {
	if reflect.DeepEqual(before, after) {
		return true
	}
	p := pointerTo(after)
	p.(stamper).stamp(after.Key(), home, before.Changed())
	canon(reflect.ValueOf(p).Elem())
	return reflect.DeepEqual(before, reflect.ValueOf(p).Elem().Interface())
}

func pointerTo(r Record) any {
	p := reflect.New(reflect.TypeOf(r))
	p.Elem().Set(deepCopy(reflect.ValueOf(r)))
	return p.Interface()
}

func differing(before, after Record) (b, a map[string]json.RawMessage, err error) {
	if b, err = flatten(before); err != nil {
		return nil, nil, err
	}
	if a, err = flatten(after); err != nil {
		return nil, nil, err
	}
	for p, v := range b {
		if w, ok := a[p]; ok && bytes.Equal(v, w) {
			delete(a, p)
			delete(b, p)
		}
	}
	return b, a, nil
}

// flatten writes a record as JSON pointers with their values, without id and revision.
func flatten(r Record) (map[string]json.RawMessage, error) {
	b, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	var doc map[string]any
	if err := unmarshalNumbers(b, &doc); err != nil {
		return nil, err
	}
	delete(doc, "id")
	delete(doc, "revision")
	out := map[string]json.RawMessage{}
	flattenInto(out, "", doc)
	return out, nil
}

func unmarshalNumbers(b []byte, into any) error {
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.UseNumber()
	return dec.Decode(into)
}

func flattenInto(out map[string]json.RawMessage, at string, v any) {
	switch v := v.(type) {
	case map[string]any:
		for name, m := range v {
			flattenInto(out, at+"/"+escapePointer(name), m)
		}
		if len(v) > 0 || at == "" {
			return
		}
	case []any:
		if haveIDs(v) {
			for _, m := range v {
				element := m.(map[string]any)
				flattenInto(out, at+"/@"+escapePointer(element["id"].(string)), element)
			}
			return
		}
	}
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // v came out of JSON
	}
	out[at] = b
}

// haveIDs reports whether the list can be put together again from its elements' ids: all have one,
// and they stand in the order of their ids.
func haveIDs(list []any) bool {
	last := ""
	for _, m := range list {
		element, ok := m.(map[string]any)
		if !ok {
			return false
		}
		id, ok := element["id"].(string)
		if !ok || id <= last {
			return false
		}
		last = id
		if _, isRef := element["kind"]; isRef {
			return false // a list of references is one value
		}
	}
	return len(list) > 0
}

var pointerEscaper = strings.NewReplacer("~", "~0", "/", "~1")
var pointerUnescaper = strings.NewReplacer("~1", "/", "~0", "~")

// escapePointer escapes by RFC 6901, and a leading @ of a name, which would read as an element.
func escapePointer(s string) string {
	s = pointerEscaper.Replace(s)
	if strings.HasPrefix(s, "@") {
		return "~2" + s[1:]
	}
	return s
}

func unescapePointer(s string) string {
	if strings.HasPrefix(s, "~2") {
		s = "@" + s[2:]
	}
	return pointerUnescaper.Replace(s)
}

func unflatten(flat map[string]json.RawMessage) []byte {
	root := node{}
	for _, p := range sortedKeys(flat) {
		at := &root
		for _, step := range strings.Split(p, "/")[1:] {
			at = at.child(step)
		}
		at.value = flat[p]
	}
	var b bytes.Buffer
	root.write(&b)
	return b.Bytes()
}

func sortedKeys(m map[string]json.RawMessage) []string {
	keys := make([]string, 0, len(m))
	for p := range m {
		keys = append(keys, p)
	}
	slices.Sort(keys)
	return keys
}

// node is a place in a JSON document while it is put together again.
type node struct {
	value    json.RawMessage
	names    []string
	children []*node
}

func (n *node) child(name string) *node {
	if i := slices.Index(n.names, name); i >= 0 {
		return n.children[i]
	}
	c := &node{}
	n.names, n.children = append(n.names, name), append(n.children, c)
	return c
}

func (n *node) write(b *bytes.Buffer) {
	if n.value != nil {
		b.Write(n.value)
		return
	}
	list := len(n.names) > 0 && strings.HasPrefix(n.names[0], "@")
	open, end := byte('{'), byte('}')
	if list {
		open, end = '[', ']'
	}
	b.WriteByte(open)
	for i, c := range n.children {
		if i > 0 {
			b.WriteByte(',')
		}
		if !list {
			name, _ := json.Marshal(unescapePointer(n.names[i]))
			b.Write(name)
			b.WriteByte(':')
		}
		c.write(b)
	}
	b.WriteByte(end)
}
