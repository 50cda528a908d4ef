package dossier

import (
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode"
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
	Name       string // JSON name, for ever the same: the journal holds it
	Title      string
	Doc        string
	Rule       Rule
	Required   bool
	Personal   bool
	Label      bool     // the member people call the record by
	Unsearched bool     // not among what people look a record up by
	Part       string   // heading above it in a form; the members after it belong under it too
	Most       int      // most characters of a text; 0 for no bound
	Unique     string   // name of the member within whose value this one is unique; "household" for the whole home
	Refers     string   // kind it refers to, "any" for a Ref, "person" for a PersonID, "" for no reference
	Kinds      []string // for a Ref: the kinds it may name; none means any
	OnRemove   OnRemove // for references
	Group      []Field  // for a struct or a list of structs: its members
	List       bool
	Enum       []string
	Terms      []string // of a vocabulary, beside which other words may stand
	Type       reflect.Type
	index      []int
}

// Kind describes one kind of record.
type Kind struct {
	Name   string // singular, such as room
	Plural string // also its place in the API and, with underscores, the name of its table
	Verbs  []Verb
	Type   reflect.Type
	Fields []Field
	rows   func(*Dossier) Rows
}

// Kinds lists all kinds in the order of dependence: a kind refers only to itself and upwards.
var Kinds = []*Kind{
	kind("household", "household", func(d *Dossier) *Records[Household] { return &d.Household }, Set),
	kind("room", "rooms", func(d *Dossier) *Records[Room] { return &d.Rooms }, Add, Set, Remove),
	kind("device", "devices", func(d *Dossier) *Records[Device] { return &d.Devices }, Add, Set, Remove),
	kind("segment", "segments", func(d *Dossier) *Records[Segment] { return &d.Segments }, Add, Set, Remove),
	kind("dhcp-server", "dhcp-servers", func(d *Dossier) *Records[DHCPServer] { return &d.DHCPServers }, Add, Set, Remove),
	kind("interface", "interfaces", func(d *Dossier) *Records[Interface] { return &d.Interfaces }, Add, Set, Remove),
	kind("outlet", "outlets", func(d *Dossier) *Records[Outlet] { return &d.Outlets }, Add, Set, Remove),
	kind("line", "lines", func(d *Dossier) *Records[Line] { return &d.Lines }, Add, Set, Remove),
	kind("link", "links", func(d *Dossier) *Records[Link] { return &d.Links }, Add, Set, Remove),
	kind("reading", "readings", func(d *Dossier) *Records[Reading] { return &d.Readings }, Add, Remove),
	kind("wish", "wishes", func(d *Dossier) *Records[Wish] { return &d.Wishes }, Add, Set, Remove),
	kind("restriction", "restrictions", func(d *Dossier) *Records[Restriction] { return &d.Restrictions }, Add, Set, Remove),
	kind("secret", "secrets", func(d *Dossier) *Records[Secret] { return &d.Secrets }, Set, Remove),
	kind("account", "accounts", func(d *Dossier) *Records[Account] { return &d.Accounts }, Add, Set, Remove),
	kind("software", "software", func(d *Dossier) *Records[Software] { return &d.Software }, Add, Set, Remove),
	kind("register-entry", "register-entries", func(d *Dossier) *Records[RegisterEntry] { return &d.RegisterEntries }, Add, Set, Remove),
	kind("setting", "settings", func(d *Dossier) *Records[Setting] { return &d.Settings }, Add, Set, Remove),
	kind("source", "sources", func(d *Dossier) *Records[Source] { return &d.Sources }, Add, Set, Remove),
	kind("folder", "folders", func(d *Dossier) *Records[Folder] { return &d.Folders }, Add, Set, Remove),
	kind("converted-copy", "converted-copies", func(d *Dossier) *Records[ConvertedCopy] { return &d.ConvertedCopies }, Add, Set, Remove),
	kind("decoding", "decoding-profiles", func(d *Dossier) *Records[Decoding] { return &d.Decodings }, Add, Set, Remove),
	kind("chain-link", "chain-links", func(d *Dossier) *Records[ChainLink] { return &d.ChainLinks }, Add, Set, Remove),
	kind("opening", "openings", func(d *Dossier) *Records[Opening] { return &d.Openings }, Add, Set, Remove),
	kind("path", "paths", func(d *Dossier) *Records[Path] { return &d.Paths }, Add, Set, Remove),
	kind("busy-set", "busy-sets", func(d *Dossier) *Records[BusySet] { return &d.BusySets }, Add, Set, Remove),
	kind("prerequisite", "prerequisites", func(d *Dossier) *Records[Prerequisite] { return &d.Prerequisites }),
	kind("attempt", "attempts", func(d *Dossier) *Records[Attempt] { return &d.Attempts }),
	kind("waiver", "waivers", func(d *Dossier) *Records[Waiver] { return &d.Waivers }),
	kind("issue", "issues", func(d *Dossier) *Records[Issue] { return &d.Issues }, Set),
	kind("settings-copy", "settings-copies", func(d *Dossier) *Records[SettingsCopy] { return &d.SettingsCopies }, Add, Set, Remove),
	kind("change", "changes", func(d *Dossier) *Records[Change] { return &d.Changes }, Add, Set, Remove),
	kind("visit", "visits", func(d *Dossier) *Records[Visit] { return &d.Visits }, Add, Set, Remove),
	kind("long-task", "long-tasks", func(d *Dossier) *Records[LongTask] { return &d.LongTasks }, Add, Set, Remove),
	kind("due", "due-dates", func(d *Dossier) *Records[Due] { return &d.Dues }, Add, Set, Remove),
	kind("attachment", "attachments", func(d *Dossier) *Records[Attachment] { return &d.Attachments }, Set, Remove),
	kind("gap-answer", "gap-answers", func(d *Dossier) *Records[GapAnswer] { return &d.GapAnswers }),
	kind("handover", "handovers", func(d *Dossier) *Records[Handover] { return &d.Handovers }),
}

func kind[T Record](name, plural string, in func(*Dossier) *Records[T], verbs ...Verb) *Kind {
	t := reflect.TypeFor[T]()
	return &Kind{name, plural, verbs, t, fieldsOf(t), func(d *Dossier) Rows { return in(d) }}
}

// nouns are what people call a record of a kind, and several, where it is not the kind's name.
var nouns = map[string][2]string{
	"decoding": {"decoding profile", "decoding profiles"}, "due": {"due date", "due dates"}, "interface": {"network adapter", "network adapters"},
	"opening": {"port opening", "port openings"}, "dhcp-server": {"DHCP server", "DHCP servers"}, "line": {"internet line", "internet lines"}, "household": {"household", "households"},
}

// Noun returns what people call one record of the kind.
func (k *Kind) Noun() string {
	if n, own := nouns[k.Name]; own {
		return n[0]
	}
	return strings.ReplaceAll(k.Name, "-", " ")
}

// Nouns returns what people call several records of the kind.
func (k *Kind) Nouns() string {
	if n, own := nouns[k.Name]; own {
		return n[1]
	}
	return strings.ReplaceAll(k.Plural, "-", " ")
}

// Areas are the parts of the work, in its order, under which people look for records.
var Areas = []string{"household", "survey", "inventory", "paths and proof", "changes and issues", "visits and dates"}

// Area returns the part of the work that the kind belongs to, one of Areas; "" for none.
func (k *Kind) Area() string {
	switch k.Name {
	case "household", "wish", "restriction":
		return Areas[0]
	case "room", "outlet", "line", "segment", "dhcp-server", "link", "reading", "gap-answer":
		return Areas[1]
	case "device", "interface", "software", "register-entry", "setting", "source", "folder", "converted-copy", "decoding", "chain-link", "opening", "account", "secret":
		return Areas[2]
	case "path", "busy-set", "prerequisite", "attempt", "waiver":
		return Areas[3]
	case "change", "settings-copy", "issue", "attachment":
		return Areas[4]
	case "visit", "long-task", "due", "handover":
		return Areas[5]
	}
	return ""
}

// In returns the records of this kind in d.
func (k *Kind) In(d *Dossier) Rows { return k.rows(d) }

// Allows reports whether the kind has the verb.
func (k *Kind) Allows(v Verb) bool { return slices.Contains(k.Verbs, v) }

// Field returns the member with that JSON name.
func (k *Kind) Field(name string) (Field, bool) {
	i := slices.IndexFunc(k.Fields, func(f Field) bool { return f.Name == name })
	if i < 0 {
		return Field{}, false
	}
	return k.Fields[i], true
}

// Label returns what people call a record of d: its labelled members, joined. A reference is
// said by what it refers to.
func (k *Kind) Label(d *Dossier, r Record) string {
	var parts []string
	for _, f := range k.Fields {
		if f.Label {
			if text := f.say(d, r); text != "" {
				parts = append(parts, text)
			}
		}
	}
	return strings.Join(parts, " ")
}

func (f Field) say(d *Dossier, r Record) string {
	if f.Refers != "" {
		var names []string
		for _, ref := range f.refs(reflect.ValueOf(r)) {
			names = append(names, d.FullLabel(ref))
		}
		return strings.Join(names, ", ")
	}
	switch v := f.Get(r).(type) {
	case time.Time:
		return v.Format(time.DateOnly)
	default:
		return fmt.Sprint(v)
	}
}

// Label returns what people call the record that ref names, or "" if there is none.
func (d *Dossier) Label(ref Ref) string {
	k, r, ok := d.Record(ref)
	if !ok {
		return ""
	}
	return k.Label(d, r)
}

// FullLabel returns the label with that of the owner within which it is unique, such as
// "granite server eth0", or for a tick the place it is ticked at.
func (d *Dossier) FullLabel(ref Ref) string {
	k, r, ok := d.Record(ref)
	if !ok {
		return ""
	}
	label := k.Label(d, r)
	if p, ok := r.(Prerequisite); ok {
		return label + " at " + d.FullLabel(p.Subject)
	}
	if owner, ok := k.Owner(); ok {
		for _, o := range owner.refs(reflect.ValueOf(r)) {
			return d.FullLabel(o) + " " + label
		}
	}
	return label
}

// Owner returns the member that names the record within which labels of this kind are given:
// the one its label is unique in, or else the first reference that is fixed and part of no label.
func (k *Kind) Owner() (Field, bool) {
	for _, f := range k.Fields {
		if f.Unique != "" && f.Unique != "household" {
			return k.Field(f.Unique)
		}
	}
	for _, f := range k.Fields {
		if f.Rule == Fixed && !f.Label && f.Refers != "" && f.Refers != "any" {
			return f, true
		}
	}
	return Field{}, false
}

// Record returns the record that ref names, with its kind.
func (d *Dossier) Record(ref Ref) (*Kind, Record, bool) {
	k := KindNamed(ref.Kind)
	if k == nil {
		return nil, nil, false
	}
	r, ok := k.In(d).Lookup(ref.ID)
	return k, r, ok
}

// RefOf returns the reference to the record with that id, of whatever kind it is.
func (d *Dossier) RefOf(id string) (Ref, bool) {
	for _, k := range Kinds {
		if _, ok := k.In(d).Lookup(id); ok {
			return Ref{k.Name, id}, true
		}
	}
	return Ref{}, false
}

// Has reports whether the record that ref names exists.
func (d *Dossier) Has(ref Ref) bool {
	_, _, ok := d.Record(ref)
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

// In returns the member of the record or group, or of the one that record points to.
func (f Field) In(record reflect.Value) reflect.Value {
	return reflect.Indirect(record).FieldByIndex(f.index)
}

// Get returns the value of the member in the record.
func (f Field) Get(r Record) any { return f.In(reflect.ValueOf(r)).Interface() }

type targeter interface{ Target() reflect.Type }

func fieldsOf(t reflect.Type) []Field {
	var out []Field
	part := ""
	for _, sf := range reflect.VisibleFields(t) {
		name, options, _ := strings.Cut(sf.Tag.Get("json"), ",")
		if sf.Anonymous || name == "" || name == "-" {
			continue
		}
		if p := sf.Tag.Get("part"); p != "" {
			part = p
		}
		f := Field{
			Name: name, Title: sf.Tag.Get("title"), Doc: sf.Tag.Get("doc"), Rule: Rule(sf.Tag.Get("rule")), Part: part,
			Required: !strings.Contains(options, "omitzero"), Personal: sf.Tag.Get("personal") == "true",
			Label: sf.Tag.Get("label") == "true", Unsearched: sf.Tag.Get("searched") == "no", Unique: sf.Tag.Get("unique"), Kinds: strings.Fields(sf.Tag.Get("kinds")),
			OnRemove: OnRemove(sf.Tag.Get("onremove")), Type: sf.Type, index: sf.Index,
		}
		f.Most, _ = strconv.Atoi(sf.Tag.Get("maxLength")) // the test of tags knows that it is a number
		f.describe()
		out = append(out, f)
	}
	return out
}

// describe fills in what follows from the member's type.
func (f *Field) describe() {
	item := f.Type
	if item.Kind() == reflect.Slice {
		f.List, item = true, item.Elem()
	}
	switch z := reflect.Zero(item).Interface().(type) {
	case targeter:
		if f.Name != "id" {
			f.Refers = kindName(z.Target())
		}
	case Ref:
		f.Refers = "any"
	case PersonID:
		f.Refers = "person"
	case Enum:
		f.Enum = z.Values()
	case Vocabulary:
		f.Terms = z.Terms()
	default:
		if item.Kind() == reflect.Struct && !opaque(item) {
			f.Group = fieldsOf(item)
		}
	}
}

// kindName is the kind's name by its Go type: Kinds is not there yet when fields are read.
func kindName(t reflect.Type) string {
	var b strings.Builder
	name := []rune(t.Name())
	for i, r := range name {
		// A hyphen stands before a capital, but not within an acronym: DHCPServer is dhcp-server.
		if unicode.IsUpper(r) && i > 0 && (!unicode.IsUpper(name[i-1]) || i+1 < len(name) && unicode.IsLower(name[i+1])) {
			b.WriteByte('-')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	return b.String()
}

// Table returns the name of the kind's table.
func (k *Kind) Table() string { return strings.ReplaceAll(k.Plural, "-", "_") }

// Refs returns the references the member holds in the record.
func (f Field) Refs(r Record) []Ref { return f.refs(reflect.ValueOf(r)) }

// refs returns the references the member holds in the record.
func (f Field) refs(record reflect.Value) []Ref {
	v := f.In(record)
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
