// Package dossier holds everything recorded about one household as one value.
//
// A Dossier has, for each kind of record, a plain slice of plain structs sorted by id. It is
// what the store loads, what the computations read, what the API shows and what a file of
// format kaiku-dossier/1 holds. The registry (Kinds) describes every kind once; tables, API
// operations, commands and forms derive from it.
//
// Outside a write a dossier is read-only: many readers share one value. Inside a write the
// value is a private deep copy, and may be changed at will.
package dossier

import (
	"reflect"
	"slices"
	"strings"
	"time"
)

// Dossier is everything recorded about one household. Its members stand in the order of
// dependence: a record refers to its own kind or to kinds above it.
type Dossier struct {
	Revision        uint64                 `json:"revision"`
	Household       Records[Household]     `json:"household"`
	Rooms           Records[Room]          `json:"rooms,omitzero"`
	Devices         Records[Device]        `json:"devices,omitzero"`
	Segments        Records[Segment]       `json:"segments,omitzero"`
	DHCPServers     Records[DHCPServer]    `json:"dhcpServers,omitzero"`
	Interfaces      Records[Interface]     `json:"interfaces,omitzero"`
	Outlets         Records[Outlet]        `json:"outlets,omitzero"`
	Lines           Records[Line]          `json:"lines,omitzero"`
	Links           Records[Link]          `json:"links,omitzero"`
	Readings        Records[Reading]       `json:"readings,omitzero"`
	Wishes          Records[Wish]          `json:"wishes,omitzero"`
	Restrictions    Records[Restriction]   `json:"restrictions,omitzero"`
	Secrets         Records[Secret]        `json:"secrets,omitzero"`
	Accounts        Records[Account]       `json:"accounts,omitzero"`
	Software        Records[Software]      `json:"software,omitzero"`
	RegisterEntries Records[RegisterEntry] `json:"registerEntries,omitzero"`
	Settings        Records[Setting]       `json:"settings,omitzero"`
	Sources         Records[Source]        `json:"sources,omitzero"`
	Folders         Records[Folder]        `json:"folders,omitzero"`
	Decodings       Records[Decoding]      `json:"decodings,omitzero"`
	ChainLinks      Records[ChainLink]     `json:"chainLinks,omitzero"`
	Openings        Records[Opening]       `json:"openings,omitzero"`
	Paths           Records[Path]          `json:"paths,omitzero"`
	BusySets        Records[BusySet]       `json:"busySets,omitzero"`
	Prerequisites   Records[Prerequisite]  `json:"prerequisites,omitzero"`
	Attempts        Records[Attempt]       `json:"attempts,omitzero"`
	Waivers         Records[Waiver]        `json:"waivers,omitzero"`
	Issues          Records[Issue]         `json:"issues,omitzero"`
	SettingsCopies  Records[SettingsCopy]  `json:"settingsCopies,omitzero"`
	Changes         Records[Change]        `json:"changes,omitzero"`
	Visits          Records[Visit]         `json:"visits,omitzero"`
	LongTasks       Records[LongTask]      `json:"longTasks,omitzero"`
	ConvertedCopies Records[ConvertedCopy] `json:"convertedCopies,omitzero"`
	Dues            Records[Due]           `json:"dues,omitzero"`
	Attachments     Records[Attachment]    `json:"attachments,omitzero"`
	GapAnswers      Records[GapAnswer]     `json:"gapAnswers,omitzero"`
	Handovers       Records[Handover]      `json:"handovers,omitzero"`
}

// Home returns the household record, or the zero value while there is none.
func (d *Dossier) Home() Household {
	if len(d.Household) == 0 {
		return Household{}
	}
	return d.Household[0]
}

// Clone returns a deep copy that shares nothing with d.
func (d *Dossier) Clone() *Dossier {
	c := deepCopy(reflect.ValueOf(*d)).Interface().(Dossier)
	return &c
}

// ID names one record of kind T: a UUIDv7 in its lower-case text form, or "" for none. The
// type parameter keeps the id of a room from being used as the id of a device.
type ID[T any] string

// Target tells the registry which record type the id refers to.
func (ID[T]) Target() reflect.Type { return reflect.TypeFor[T]() }

// Ref returns the id as a reference to a record of any kind.
func (id ID[T]) Ref() Ref {
	if id == "" {
		return Ref{}
	}
	return Ref{Kind: KindOf(reflect.TypeFor[T]()).Name, ID: string(id)}
}

// Ref names a record of any kind. Its text form is "kind/id"; the zero value refers to nothing.
type Ref struct {
	Kind string `json:"kind" doc:"Kind of the record, such as device."`
	ID   string `json:"id" doc:"Its id."`
}

func (r Ref) String() string {
	if r == (Ref{}) {
		return ""
	}
	return r.Kind + "/" + r.ID
}

// Compare orders references by kind, then id.
func (r Ref) Compare(o Ref) int {
	if c := strings.Compare(r.Kind, o.Kind); c != 0 {
		return c
	}
	return strings.Compare(r.ID, o.ID)
}

// PersonID names a person of the firm. People are kept outside the dossier and are never
// removed, so such an id always resolves.
type PersonID string

// Meta is embedded in every record.
type Meta[T any] struct {
	ID ID[T] `json:"id" rule:"server" gorm:"primaryKey;serializer:cell" doc:"Id of the record: a UUIDv7. A client may choose it when it creates."`
	// Household is the id of the household the record belongs to. It is a column of every
	// table and never part of the JSON form, where the place in the dossier says it.
	Household ID[Household] `json:"-" gorm:"column:household_id;serializer:cell"`
	Revision  uint64        `json:"revision,omitzero" rule:"server" doc:"Revision of the household in which this record last changed."`
}

// Key returns the record's id as text.
func (m Meta[T]) Key() string { return string(m.ID) }

// Changed returns the revision in which the record last changed.
func (m Meta[T]) Changed() uint64 { return m.Revision }

func (m *Meta[T]) stamp(id string, home ID[Household], revision uint64) {
	m.ID, m.Household, m.Revision = ID[T](id), home, revision
}

// Record is what every kind has by embedding Meta.
type Record interface {
	Key() string
	Changed() uint64
}

type stamper interface {
	stamp(id string, home ID[Household], revision uint64)
}

// Records holds all records of one kind, sorted by id.
type Records[T Record] []T

// Get returns the record with that id.
func (r Records[T]) Get(id ID[T]) (T, bool) {
	if i, ok := r.search(string(id)); ok {
		return r[i], true
	}
	var zero T
	return zero, false
}

// Find returns the record with that id for change in place, or nil. Only inside a write.
func (r Records[T]) Find(id ID[T]) *T {
	if i, ok := r.search(string(id)); ok {
		return &r[i]
	}
	return nil
}

// Put adds the record, or replaces the one with its id, in canonical form.
func (r *Records[T]) Put(t T) {
	t = Canonical(t)
	i, ok := r.search(t.Key())
	if ok {
		(*r)[i] = t
		return
	}
	*r = slices.Insert(*r, i, t)
}

// Delete removes the record with that id, if there is one.
func (r *Records[T]) Delete(id ID[T]) { r.remove(string(id)) }

func (r Records[T]) search(id string) (int, bool) {
	return slices.BinarySearchFunc(r, id, func(t T, id string) int { return strings.Compare(t.Key(), id) })
}

// Rows is the view of Records for code that works the same on all kinds. Records are passed as
// pointers to their struct.
type Rows interface {
	Len() int
	At(i int) Record
	Lookup(id string) (Record, bool)
	// PutAny adds or replaces; record is a *T.
	PutAny(record any)
	// Fill replaces all records; list is a []T or *[]T sorted by id.
	Fill(list any)
	remove(id string)
	// differing lists, sorted, the ids of records that differ from those in old, or are in one
	// of both alone.
	differing(old Rows) []string
	// missing lists the ids of records in old that are not here.
	missing(old Rows) []string
}

// Len returns the number of records.
func (r *Records[T]) Len() int { return len(*r) }

// At returns a copy of the i-th record.
func (r *Records[T]) At(i int) Record { return (*r)[i] }

// Lookup returns a copy of the record with that id.
func (r *Records[T]) Lookup(id string) (Record, bool) {
	if i, ok := r.search(id); ok {
		return (*r)[i], true
	}
	return nil, false
}

// PutAny adds or replaces the record, a *T.
func (r *Records[T]) PutAny(record any) { r.Put(*record.(*T)) }

// Fill replaces all records by the list, a *[]T.
func (r *Records[T]) Fill(list any) {
	l := *list.(*[]T)
	if len(l) == 0 {
		*r = nil
		return
	}
	for i := range l {
		l[i] = Canonical(l[i])
	}
	*r = slices.Clip(l)
}

func (r *Records[T]) differing(old Rows) []string {
	var out []string
	pair(*old.(*Records[T]), *r, func(id string, was, is *T) {
		if was == nil || is == nil || !reflect.DeepEqual(was, is) {
			out = append(out, id)
		}
	})
	return out
}

func (r *Records[T]) missing(old Rows) []string {
	var out []string
	pair(*old.(*Records[T]), *r, func(id string, was, is *T) {
		if is == nil {
			out = append(out, id)
		}
	})
	return out
}

// pair walks two sorted lists together; was or is is nil where only one of them has the id.
func pair[T Record](a, b Records[T], see func(id string, was, is *T)) {
	for i, j := 0, 0; i < len(a) || j < len(b); {
		switch {
		case j >= len(b) || i < len(a) && a[i].Key() < b[j].Key():
			see(a[i].Key(), &a[i], nil)
			i++
		case i >= len(a) || b[j].Key() < a[i].Key():
			see(b[j].Key(), nil, &b[j])
			j++
		default:
			see(a[i].Key(), &a[i], &b[j])
			i, j = i+1, j+1
		}
	}
}

func (r *Records[T]) remove(id string) {
	if i, ok := r.search(id); ok {
		*r = slices.Delete(*r, i, i+1)
		if len(*r) == 0 {
			*r = nil
		}
	}
}

// At rounds a time to what a dossier holds: UTC in whole milliseconds.
func At(t time.Time) time.Time { return t.UTC().Truncate(time.Millisecond) }
