package wording

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

var idText = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}`)

// Members says what changed in a journal entry, a line a member. say turns an id into what
// people call it.
func Members(e dossier.Entry, say func(id string) string) []string {
	var pointers []string
	for p := range e.Before {
		pointers = append(pointers, p)
	}
	for p := range e.After {
		if _, both := e.Before[p]; !both {
			pointers = append(pointers, p)
		}
	}
	slices.Sort(pointers)
	var out []string
	for _, p := range pointers {
		if strings.HasSuffix(p, "/id") || strings.HasPrefix(p, "/facts") {
			continue // ids within lists and fingerprints say nothing to people
		}
		name := strings.ReplaceAll(idText.ReplaceAllStringFunc(p[1:], say), "/@", " ")
		was, had := e.Before[p]
		is, has := e.After[p]
		switch {
		case had && has:
			out = append(out, name+": "+Value(was, say)+" → "+Value(is, say))
		case has:
			out = append(out, name+": "+Value(is, say))
		default:
			out = append(out, name+": "+Value(was, say)+" taken out")
		}
	}
	return out
}

// Value says a JSON value. say, where given, turns an id into what people call it.
func Value(v json.RawMessage, say func(id string) string) string {
	var text string
	if json.Unmarshal(v, &text) != nil {
		text = strings.NewReplacer(`"`, "", "[", "", "]", "", "{", "", "}", "", ",", ", ").Replace(string(v))
	}
	if say != nil {
		text = idText.ReplaceAllStringFunc(text, say)
	}
	if text == "" {
		return "nothing"
	}
	return text
}
