package dossier

import (
	"fmt"
	"net/netip"
	"reflect"
	"strings"
	"unicode"
)

// Texts returns what people look a record up by, in the order of its members: names, notes,
// addresses, serials, telephone numbers. Left out are references, words of a fixed list, numbers
// and times, and members that say so (tag searched:"no").
func (k *Kind) Texts(r Record) []string {
	var out []string
	for _, f := range k.Fields {
		out = f.texts(out, reflect.ValueOf(r))
	}
	return out
}

func (f Field) texts(out []string, record reflect.Value) []string {
	if f.Unsearched || f.Refers != "" || f.Enum != nil || f.Name == "id" {
		return out
	}
	v := f.In(record)
	if !f.List {
		return f.textsOf(out, v)
	}
	for i := range v.Len() {
		out = f.textsOf(out, v.Index(i))
	}
	return out
}

func (f Field) textsOf(out []string, v reflect.Value) []string {
	for _, inner := range f.Group {
		out = inner.texts(out, v)
	}
	if v.IsZero() {
		return out
	}
	switch text := v.Interface().(type) {
	case string:
		return append(out, text)
	case HardwareAddr, netip.Addr, netip.Prefix:
		return append(out, fmt.Sprint(text))
	}
	return out
}

// SearchKeys returns the forms of a text that are found whatever its separators: letters and
// digits alone in small letters, and the last four and six of them, by which people read out a
// serial, a MAC address or a telephone number. Texts without a digit, and long ones, have none.
func SearchKeys(text string) []string {
	key := Folded(text)
	if key == "" || len(key) > 40 || !strings.ContainsAny(key, "0123456789") {
		return nil
	}
	out := []string{key}
	for _, n := range []int{6, 4} {
		if len(key) >= 8 {
			out = append(out, key[len(key)-n:])
		}
	}
	return out
}

// Folded returns the ASCII letters and digits of a text, in small letters.
func Folded(text string) string {
	return strings.Map(func(r rune) rune {
		if r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)) {
			return unicode.ToLower(r)
		}
		return -1
	}, text)
}
