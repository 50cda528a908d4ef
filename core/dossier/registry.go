package dossier

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"
)

// Verb is something a client may do to a record of a kind by the general operations.
type Verb string

// The general verbs. Every kind can be listed and shown; the others must be declared.
const (
	Add    Verb = "add"
	Set    Verb = "set"
	Remove Verb = "remove"
)

// Rule says who may set a member.
type Rule string

// Rules of members. A record's id is given on create; everything else marked server is made by
// the server. Members by use-case move only through the operation that knows what they mean.
const (
	Plain  Rule = ""
	Fixed  Rule = "fixed"  // set on create, never changed
	ByCase Rule = "case"   // set by a use-case only
	Server Rule = "server" // made by the server
)

// OnRemove says what happens to a reference when the record it names is removed.
type OnRemove string

// What a removal does to a reference.
const (
	Restrict OnRemove = "restrict" // the removal is refused
	Clear    OnRemove = "clear"    // the reference is emptied
	Cascade  OnRemove = "cascade"  // the referring record goes along
)

// Field is one member of a kind, as its struct tags declare it.
type Field struct {
	Name     string // JSON name, for ever the same: the journal holds it
	Title    string
	Doc      string
	Rule     Rule
	Required bool
	Personal bool
	Label    bool     // the member people call the record by
	Unique   string   // name of the member within whose value this one is unique; "household" for the whole home
	Refers   string   // kind it refers to, "any" for a Ref, "person" for a PersonID, "" for no reference
	OnRemove OnRemove // for references
	List     bool
	Enum     []string
	Type     reflect.Type
	index    []int
}

// Kind describes one kind of record.
type Kind struct {
	Name   string // singular, such as room
	Plural string // also the name of its table and of its list in the JSON form
	Verbs  []Verb
	Type   reflect.Type
	Fields []Field
	rows   func(*Dossier) Rows
}

// Kinds lists all kinds in the order of dependence: a kind refers only to itself and upwards.
var Kinds = []*Kind{
	kind("household", "household", func(d *Dossier) *Records[Household] { return &d.Household }, Set),
	kind("room", "rooms", func(d *Dossier) *Records[Room] { return &d.Rooms }, Add, Set, Remove),
	kind("segment", "segments", func(d *Dossier) *Records[Segment] { return &d.Segments }, Add, Set, Remove),
	kind("device", "devices", func(d *Dossier) *Records[Device] { return &d.Devices }, Add, Set, Remove),
	kind("interface", "interfaces", func(d *Dossier) *Records[Interface] { return &d.Interfaces }, Add, Set, Remove),
	kind("source", "sources", func(d *Dossier) *Records[Source] { return &d.Sources }, Add, Set, Remove),
	kind("folder", "folders", func(d *Dossier) *Records[Folder] { return &d.Folders }, Add, Set, Remove),
	kind("path", "paths", func(d *Dossier) *Records[Path] { return &d.Paths }, Add, Set, Remove),
	kind("prerequisite", "prerequisites", func(d *Dossier) *Records[Prerequisite] { return &d.Prerequisites }),
	kind("attempt", "attempts", func(d *Dossier) *Records[Attempt] { return &d.Attempts }),
	kind("issue", "issues", func(d *Dossier) *Records[Issue] { return &d.Issues }, Set),
	kind("handover", "handovers", func(d *Dossier) *Records[Handover] { return &d.Handovers }),
}

func kind[T Record](name, plural string, in func(*Dossier) *Records[T], verbs ...Verb) *Kind {
	t := reflect.TypeFor[T]()
	return &Kind{name, plural, verbs, t, fieldsOf(t), func(d *Dossier) Rows { return in(d) }}
}

// In returns the records of this kind in d.
func (k *Kind) In(d *Dossier) Rows { return k.rows(d) }

// Allows tells whether the kind has the verb.
func (k *Kind) Allows(v Verb) bool { return slices.Contains(k.Verbs, v) }

// Field returns the member with that JSON name.
func (k *Kind) Field(name string) (Field, bool) {
	i := slices.IndexFunc(k.Fields, func(f Field) bool { return f.Name == name })
	if i < 0 {
		return Field{}, false
	}
	return k.Fields[i], true
}

// Label returns what people call the record: its labelled members, joined.
func (k *Kind) Label(r Record) string {
	var parts []string
	for _, f := range k.Fields {
		if f.Label {
			parts = append(parts, fmt.Sprint(f.value(reflect.ValueOf(r)).Interface()))
		}
	}
	return strings.Join(parts, " ")
}

// Label returns what people call the record that ref names, or "" if there is none.
func (d *Dossier) Label(ref Ref) string {
	k := KindNamed(ref.Kind)
	if k == nil {
		return ""
	}
	r, ok := k.In(d).Lookup(ref.ID)
	if !ok {
		return ""
	}
	return k.Label(r)
}

// FullLabel returns the label with that of the owner within which it is unique, such as
// "granite server eth0", or for a tick the place it is ticked at.
func (d *Dossier) FullLabel(ref Ref) string {
	label := d.Label(ref)
	k := KindNamed(ref.Kind)
	if label == "" {
		return label
	}
	r, _ := k.In(d).Lookup(ref.ID)
	if p, ok := r.(Prerequisite); ok {
		return label + " at " + d.FullLabel(p.Subject)
	}
	for _, f := range k.Fields {
		if f.Unique != "" && f.Unique != "household" {
			owner, _ := k.Field(f.Unique)
			for _, o := range owner.refs(reflect.ValueOf(r)) {
				return d.FullLabel(o) + " " + label
			}
		}
	}
	return label
}

// Has tells whether the record that ref names exists.
func (d *Dossier) Has(ref Ref) bool {
	k := KindNamed(ref.Kind)
	if k == nil {
		return false
	}
	_, ok := k.In(d).Lookup(ref.ID)
	return ok
}

// KindNamed returns the kind with that singular name, or nil.
func KindNamed(name string) *Kind {
	for _, k := range Kinds {
		if k.Name == name {
			return k
		}
	}
	return nil
}

// kindsByType is filled on first use: Ref is called while Kinds is still being made.
var kindsByType = sync.OnceValue(func() map[reflect.Type]*Kind {
	m := map[reflect.Type]*Kind{}
	for _, k := range Kinds {
		m[k.Type] = k
	}
	return m
})

// KindOf returns the kind whose records have type t, or nil.
func KindOf(t reflect.Type) *Kind { return kindsByType()[t] }

func (f Field) value(record reflect.Value) reflect.Value {
	return reflect.Indirect(record).FieldByIndex(f.index)
}

// Get returns the value of the member in the record.
func (f Field) Get(r Record) any { return f.value(reflect.ValueOf(r)).Interface() }

type targeter interface{ Target() reflect.Type }

func fieldsOf(t reflect.Type) []Field {
	var out []Field
	for _, sf := range reflect.VisibleFields(t) {
		name, options, _ := strings.Cut(sf.Tag.Get("json"), ",")
		if sf.Anonymous || name == "" || name == "-" {
			continue
		}
		f := Field{
			Name: name, Title: sf.Tag.Get("title"), Doc: sf.Tag.Get("doc"), Rule: Rule(sf.Tag.Get("rule")),
			Required: !strings.Contains(options, "omitzero"), Personal: sf.Tag.Get("personal") == "true",
			Label: sf.Tag.Get("label") == "true", Unique: sf.Tag.Get("unique"),
			OnRemove: OnRemove(sf.Tag.Get("onremove")), Type: sf.Type, index: sf.Index,
		}
		item := sf.Type
		if item.Kind() == reflect.Slice {
			f.List, item = true, item.Elem()
		}
		zero := reflect.Zero(item).Interface()
		if e, ok := zero.(Enum); ok {
			f.Enum = e.Values()
		}
		switch z := zero.(type) {
		case targeter:
			if name != "id" {
				f.Refers = kindName(z.Target())
			}
		case Ref:
			f.Refers = "any"
		case PersonID:
			f.Refers = "person"
		}
		out = append(out, f)
	}
	return out
}

// kindName is the kind's name by its Go type: Kinds is not there yet when fields are read.
func kindName(t reflect.Type) string { return strings.ToLower(t.Name()) }

// refs returns the references the member holds in the record.
func (f Field) refs(record reflect.Value) []Ref {
	v := f.value(record)
	if !f.List {
		return appendRef(nil, f, v)
	}
	var out []Ref
	for i := range v.Len() {
		out = appendRef(out, f, v.Index(i))
	}
	return out
}

func appendRef(out []Ref, f Field, v reflect.Value) []Ref {
	switch {
	case f.Refers == "any":
		if r := v.Interface().(Ref); r != (Ref{}) {
			return append(out, r)
		}
	case f.Refers != "" && f.Refers != "person" && v.String() != "":
		return append(out, Ref{f.Refers, v.String()})
	}
	return out
}

// SetID gives the record behind the pointer its id.
func SetID(record any, id string) { record.(stamper).stamp(id, "", 0) }

// RemoveRecord removes the record that ref names from d, if it is there.
func RemoveRecord(d *Dossier, ref Ref) {
	if k := KindNamed(ref.Kind); k != nil {
		k.In(d).remove(ref.ID)
	}
}

// NewList returns a pointer to an empty list of the kind's records, to read JSON into.
func (k *Kind) NewList() any { return reflect.New(reflect.SliceOf(k.Type)).Interface() }

// PutAll puts the records of a list made by NewList into d and returns how many there are.
func (k *Kind) PutAll(d *Dossier, list any) int {
	l := reflect.ValueOf(list).Elem()
	for i := range l.Len() {
		k.In(d).PutAny(l.Index(i).Addr().Interface())
	}
	return l.Len()
}
