package dossier

import (
	"encoding/json"
	"reflect"
	"strings"
)

// Erased stands where personal text was erased on request.
const Erased = "[erased]"

// Erase overwrites every personal member of every record with the marker, inside a write. What
// is empty stays empty.
func Erase(d *Dossier) {
	for _, k := range Kinds {
		if len(k.personal()) == 0 {
			continue
		}
		rows := k.In(d)
		for i := range rows.Len() {
			p := pointerTo(rows.At(i))
			for _, f := range k.personal() {
				f.erase(reflect.ValueOf(p))
			}
			rows.PutAny(p)
		}
	}
}

func (k *Kind) personal() []Field {
	var out []Field
	for _, f := range k.Fields {
		if f.Personal {
			out = append(out, f)
		}
	}
	return out
}

// erase overwrites the member: a text by the marker, a list by one element that is called so.
func (f Field) erase(record reflect.Value) {
	v := f.In(record)
	switch {
	case v.IsZero():
	case f.List && f.Group != nil:
		one := reflect.New(v.Type().Elem()).Elem()
		f.Group[0].In(one.Addr()).SetString(Erased)
		v.Set(reflect.Append(reflect.MakeSlice(v.Type(), 0, 1), one))
	default:
		v.SetString(Erased)
	}
}

// EraseEntry overwrites the personal values that a journal entry remembers, and reports whether
// there were any. The entry itself stays, and the journal still replays to the erased dossier.
func EraseEntry(e *Entry) bool {
	k := KindNamed(e.Subject.Kind)
	if k == nil {
		return false
	}
	found := false
	for _, f := range k.personal() {
		for _, members := range []map[string]json.RawMessage{e.Before, e.After} {
			for p := range members {
				if p == "/"+f.Name || strings.HasPrefix(p, "/"+f.Name+"/") {
					members[p], found = f.erasedValue(), true
				}
			}
		}
	}
	return found
}

// erasedValue is the member as it is in JSON once it was erased.
func (f Field) erasedValue() json.RawMessage {
	v := any(Erased)
	if f.List {
		v = []map[string]string{{f.Group[0].Name: Erased}}
	}
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // texts only
	}
	return b
}

// HasPersonal reports whether records of the kind have members that can be erased.
func (k *Kind) HasPersonal() bool { return len(k.personal()) > 0 }
