package wire

import (
	"net/netip"
	"reflect"
	"time"

	"kaiku/core/dossier"
)

// KindOf describes a kind of record for forms and commands.
func KindOf(k *dossier.Kind) Kind {
	out := Kind{Name: k.Name, Noun: k.Noun(), Nouns: k.Nouns(), Plural: k.Plural, Area: k.Area(), Verbs: append([]dossier.Verb{}, k.Verbs...)}
	for _, f := range k.Fields {
		if f.Name != "id" && f.Name != "revision" {
			out.Members = append(out.Members, memberOf(f))
		}
	}
	return out
}

func memberOf(f dossier.Field) Member {
	m := Member{Name: f.Name, Title: f.Title, Doc: f.Doc, List: f.List, Required: f.Required, Rule: f.Rule, Refers: f.Refers, Kinds: f.Kinds,
		Enum: f.Enum, Terms: f.Terms, Label: f.Label, Part: f.Part, Personal: f.Personal}
	t := f.Type
	if f.List {
		t = t.Elem()
	}
	m.Type = typeWord(t)
	if m.Refers != "" {
		m.Type = "reference"
	}
	for _, g := range f.Group {
		m.Group = append(m.Group, memberOf(g))
	}
	return m
}

func typeWord(t reflect.Type) string {
	switch t {
	case reflect.TypeFor[time.Time]():
		return "time"
	case reflect.TypeFor[netip.Addr]():
		return "address"
	case reflect.TypeFor[netip.Prefix]():
		return "prefix"
	case reflect.TypeFor[dossier.HardwareAddr]():
		return "hardware-address"
	case reflect.TypeFor[dossier.Date]():
		return "date"
	case reflect.TypeFor[dossier.Clock]():
		return "hour"
	}
	switch t.Kind() {
	case reflect.Bool:
		return "yes-no"
	case reflect.Int, reflect.Uint64:
		return "whole"
	case reflect.Float64:
		return "number"
	case reflect.Struct:
		return "group"
	case reflect.Map:
		return "map"
	}
	return "text"
}

// Records is one answer of a list of records.
type Records struct {
	Records any               `json:"records" doc:"The records."`
	Labels  map[string]string `json:"labels" doc:"What people call the records of the list and those that they refer to, by their ids."`
}
