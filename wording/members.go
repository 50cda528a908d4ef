package wording

import (
	"cmp"
	"encoding/json"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

var idText = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}`)

// silent are members of list elements that mean nothing to people.
var silent = []string{"id", "at", "by", "code", "subject", "values"}

// Members says what changed in a journal entry, a line a member. say turns an id into what
// people call it. What the entry tells by itself, its time and author, is left out.
func Members(e dossier.Entry, say func(id string) string) []string {
	var out []string
	told := map[string]int{}
	for _, p := range pointersOf(e) {
		steps := strings.Split(p, "/")[1:]
		if steps[0] == "facts" {
			continue // a fingerprint is shown where it matters, as what changed under a proof
		}
		name := title(e.Subject.Kind, steps[0])
		if line, ref := referenceLine(e, name, steps, say); ref {
			if line != "" {
				out = append(out, line)
			}
			continue
		}
		if len(steps) > 1 {
			if strings.HasPrefix(steps[1], "@") {
				told[name]++
			}
			if slices.Contains(silent, steps[len(steps)-1]) || len(steps) > 3 || len(steps) == 3 && slices.Contains(silent, steps[2]) {
				continue
			}
			for _, s := range steps[1:] {
				if s = strings.TrimPrefix(s, "@"); !idText.MatchString(s) {
					name += " " + s
				}
			}
			told[title(e.Subject.Kind, steps[0])] = -1 << 20
		}
		if line := memberLine(e, name, p, say); line != "" {
			out = append(out, line)
		}
	}
	for name, n := range told {
		if n > 0 {
			out = append(out, name+": "+Count(len(elements(e, name)), "point"))
		}
	}
	return out
}

// referenceLine says a change of a reference to a record of any kind, which the journal holds as
// /subject/kind and /subject/id, in one line; ref is false for other pointers.
func referenceLine(e dossier.Entry, name string, steps []string, say func(id string) string) (line string, ref bool) {
	if len(steps) != 2 || steps[1] != "kind" && steps[1] != "id" {
		return "", false
	}
	text := func(values map[string]json.RawMessage) string {
		var kind, id string
		_ = json.Unmarshal(values["/"+steps[0]+"/kind"], &kind)
		if json.Unmarshal(values["/"+steps[0]+"/id"], &id) != nil {
			return ""
		}
		if say != nil {
			id = say(id)
		}
		return strings.TrimSpace(Noun(kind) + " " + id)
	}
	was, is := text(e.Before), text(e.After)
	_, kindToo := e.After["/"+steps[0]+"/kind"]
	_, kindWas := e.Before["/"+steps[0]+"/kind"]
	switch {
	case steps[1] == "id" && (kindToo || kindWas): // said with the kind
		return "", true
	case was == "" && is == "":
		return "", false
	}
	return changeLine(name, was, is), true
}

// elements returns the distinct elements of the list with that title.
func elements(e dossier.Entry, name string) map[string]bool {
	seen := map[string]bool{}
	for _, p := range pointersOf(e) {
		steps := strings.Split(p, "/")[1:]
		if len(steps) > 1 && strings.HasPrefix(steps[1], "@") && title(e.Subject.Kind, steps[0]) == name {
			seen[steps[1]] = true
		}
	}
	return seen
}

func pointersOf(e dossier.Entry) []string {
	var out []string
	for p := range e.Before {
		out = append(out, p)
	}
	for p := range e.After {
		if _, both := e.Before[p]; !both {
			out = append(out, p)
		}
	}
	slices.Sort(out)
	return out
}

func title(kind, member string) string {
	if k := dossier.KindNamed(kind); k != nil {
		if f, ok := k.Field(member); ok && f.Title != "" {
			return f.Title
		}
	}
	return member
}

func memberLine(e dossier.Entry, name, p string, say func(string) string) string {
	was, had := e.Before[p]
	is, has := e.After[p]
	if !had && (strings.HasSuffix(p, "At") && saysTime(is, e.At) || strings.HasSuffix(p, "By") && Value(is, nil) == string(e.By)) {
		return ""
	}
	before, after := "", ""
	if had {
		before = Value(was, say)
	}
	if has {
		after = Value(is, say)
	}
	return changeLine(name, before, after)
}

// changeLine says what a member was and is; "" is no value, and one of the two there must be.
func changeLine(name, was, is string) string {
	switch {
	case was != "" && is != "":
		return name + ": " + was + " → " + is
	case is != "":
		return name + ": " + is
	}
	return name + ": " + was + " removed"
}

func saysTime(v json.RawMessage, at time.Time) bool {
	var t time.Time
	return json.Unmarshal(v, &t) == nil && t.Sub(at).Abs() < time.Second
}

// object says an object of a list, such as an item of a visit: its texts, then what else it has, as
// in "long cable (ready)".
func object(v json.RawMessage, say func(id string) string) string {
	var members map[string]json.RawMessage
	if json.Unmarshal(v, &members) != nil || members == nil {
		return string(v) // a number
	}
	if said := FormatRow(v); said != "" {
		return said
	}
	var texts, more []string
	for _, name := range slices.Sorted(maps.Keys(members)) {
		switch one := members[name]; {
		case slices.Contains(silent, name) || string(one) == "false":
		case string(one) == "true":
			more = append(more, Plain(name))
		case one[0] == '"':
			texts = append(texts, Value(one, say))
		default:
			more = append(more, Plain(name)+" "+Value(one, say))
		}
	}
	said := strings.Join(texts, " ")
	if len(more) > 0 {
		said = strings.TrimSpace(said + " (" + strings.Join(more, ", ") + ")")
	}
	return said
}

// Value says a JSON value. say, where given, turns an id into what people call it.
func Value(v json.RawMessage, say func(id string) string) string {
	var text string
	var yes bool
	var many []json.RawMessage
	var ref dossier.Ref
	switch {
	case json.Unmarshal(v, &text) == nil:
		if t, err := time.Parse(time.RFC3339, text); err == nil {
			text = t.UTC().Format("2006-01-02 15:04 UTC")
		}
	case json.Unmarshal(v, &yes) == nil && string(v) != "null":
		text = map[bool]string{true: "yes", false: "no"}[yes]
	case json.Unmarshal(v, &many) == nil:
		parts := make([]string, len(many))
		for i, one := range many {
			parts[i] = Value(one, say)
		}
		text = strings.Join(parts, ", ")
	case json.Unmarshal(v, &ref) == nil && ref.ID != "":
		text = ref.Kind + " " + ref.ID
	default:
		text = object(v, say)
	}
	if say != nil {
		text = idText.ReplaceAllStringFunc(text, say)
	}
	return cmp.Or(text, "nothing")
}
