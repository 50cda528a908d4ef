package wire

import (
	"net/netip"
	"reflect"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// KindOf describes a kind of record for forms and commands.
func KindOf(k *dossier.Kind) Kind {
	out := Kind{Name: k.Name, Plural: k.Plural, Verbs: append([]dossier.Verb{}, k.Verbs...)}
	for _, f := range k.Fields {
		if f.Name == "id" || f.Name == "revision" {
			continue
		}
		m := Member{Name: f.Name, Title: f.Title, Doc: f.Doc, List: f.List, Required: f.Required, Rule: f.Rule, Refers: f.Refers, Enum: f.Enum, Label: f.Label}
		t := f.Type
		if f.List {
			t = t.Elem()
		}
		m.Type = typeWord(t)
		switch {
		case m.Refers != "":
			m.Type = "reference"
		case m.Type == "group":
			m.Group = groupOf(t)
		}
		out.Members = append(out.Members, m)
	}
	return out
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

func groupOf(t reflect.Type) []Member {
	var out []Member
	for _, sf := range reflect.VisibleFields(t) {
		name, options, _ := strings.Cut(sf.Tag.Get("json"), ",")
		if name == "" || name == "-" {
			continue
		}
		out = append(out, Member{Name: name, Title: sf.Tag.Get("title"), Doc: sf.Tag.Get("doc"), Type: typeWord(sf.Type),
			Required: !strings.Contains(options, "omitzero")})
	}
	return out
}
