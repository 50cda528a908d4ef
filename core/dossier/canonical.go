package dossier

import (
	"encoding/json"
	"net/netip"
	"reflect"
	"sync"
	"time"
)

// Canonical returns the record in the one form in which equal records are DeepEqual: an empty
// list or map is nil, a time is UTC in whole milliseconds, an address is unmapped, a prefix is
// masked, a format is in the terms of the vocabulary. Everything that enters a dossier goes through it.
func Canonical[T any](t T) T {
	v := reflect.ValueOf(&t).Elem()
	canon(v)
	return t
}

// Equal reports whether a value in JSON is what a record has in the member, however it is written.
func (f Field) Equal(recorded any, said json.RawMessage) bool {
	p := reflect.New(f.Type)
	if string(said) != "null" && json.Unmarshal(said, p.Interface()) != nil {
		return false
	}
	CanonicalAt(p.Interface())
	return reflect.DeepEqual(recorded, p.Elem().Interface())
}

// CanonicalAt makes the value that p points to canonical, where its type is not known beforehand.
func CanonicalAt(p any) { canon(reflect.ValueOf(p).Elem()) }

var (
	timeType   = reflect.TypeFor[time.Time]()
	addrType   = reflect.TypeFor[netip.Addr]()
	prefixType = reflect.TypeFor[netip.Prefix]()
)

// opaque reports whether a struct type is one value rather than a group of members.
func opaque(t reflect.Type) bool { return t == timeType || t == addrType || t == prefixType }

func canon(v reflect.Value) {
	switch v.Type() {
	case timeType:
		if t := v.Interface().(time.Time); !t.IsZero() {
			v.Set(reflect.ValueOf(At(t)))
		} else {
			v.SetZero()
		}
		return
	case addrType:
		v.Set(reflect.ValueOf(v.Interface().(netip.Addr).Unmap()))
		return
	case prefixType:
		v.Set(reflect.ValueOf(v.Interface().(netip.Prefix).Masked()))
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		switch entry := v.Addr().Interface().(type) {
		case *FormatEntry:
			entry.settle()
		case *DecodingEntry:
			entry.settle()
		}
		for i := range v.NumField() {
			canon(v.Field(i))
		}
	case reflect.Slice:
		if v.Len() == 0 {
			v.SetZero()
			return
		}
		for i := range v.Len() {
			canon(v.Index(i))
		}
		// Clipped, so that a reader's append cannot write into shared room.
		v.Set(v.Slice3(0, v.Len(), v.Len()))
	case reflect.Map:
		if v.Len() == 0 {
			v.SetZero()
		}
	}
}

// deepCopy copies what can be shared: slices and maps. Values with unexported members (times,
// addresses) are immutable and are copied as they are.
func deepCopy(v reflect.Value) reflect.Value {
	c := reflect.New(v.Type()).Elem()
	c.Set(v)
	unshare(c)
	return c
}

// unshare gives a value, which is a plain copy of another, slices and maps of its own.
func unshare(v reflect.Value) {
	switch v.Kind() {
	case reflect.Struct:
		for _, i := range sharing(v.Type()).fields {
			unshare(v.Field(i))
		}
	case reflect.Slice:
		if v.IsNil() {
			return
		}
		c := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		reflect.Copy(c, v)
		if sharing(v.Type().Elem()).any {
			for i := range c.Len() {
				unshare(c.Index(i))
			}
		}
		v.Set(c)
	case reflect.Map:
		if v.IsNil() {
			return
		}
		c := reflect.MakeMapWithSize(v.Type(), v.Len())
		for it := v.MapRange(); it.Next(); {
			c.SetMapIndex(it.Key(), deepCopy(it.Value()))
		}
		v.Set(c)
	}
}

// shared reports whether a copy of a value would share memory that can be written, and for a
// struct by which members.
type shared struct {
	any    bool
	fields []int
}

var sharedBy sync.Map // reflect.Type to shared

func sharing(t reflect.Type) shared {
	if known, ok := sharedBy.Load(t); ok {
		return known.(shared)
	}
	var s shared
	switch {
	case opaque(t):
	case t.Kind() == reflect.Slice || t.Kind() == reflect.Map:
		s.any = true
	case t.Kind() == reflect.Struct:
		for i := range t.NumField() {
			if sharing(t.Field(i).Type).any {
				s.any, s.fields = true, append(s.fields, i)
			}
		}
	}
	sharedBy.Store(t, s)
	return s
}
