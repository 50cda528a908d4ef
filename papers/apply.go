package papers

import (
	"encoding"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"go.yaml.in/yaml/v3"

	"kaiku/core/dossier"
)

// Applied is one record of a document with several kinds, as it is written there: references by
// name, people by log-in name.
type Applied struct {
	Line    int // of the document, from 1
	Kind    *dossier.Kind
	Members map[string]any
}

// mostNodes bounds what one document may come to once its aliases are followed.
const mostNodes = 200_000

// ReadApply reads a document in YAML 1.2 or JSON: an object whose members are named as the API's
// lists (rooms, devices, dhcp-servers ...), each with the records of that kind, and household for
// the home itself. The records are returned in the order in which kinds depend on each other.
func ReadApply(body []byte) ([]Applied, error) {
	text, err := Text(body)
	if err != nil {
		return nil, err
	}
	var root yaml.Node
	if err := yaml.Unmarshal([]byte(text), &root); err != nil {
		return nil, yamlError(err)
	}
	if len(root.Content) == 0 {
		return nil, errors.New("it is empty")
	}
	r := applyReader{}
	top := root.Content[0]
	if top.Kind != yaml.MappingNode {
		return nil, fmt.Errorf("line %d: expected kinds of records, such as rooms, each with a list", top.Line)
	}
	seen := map[*dossier.Kind]bool{}
	for i := 0; i+1 < len(top.Content); i += 2 {
		name, list := top.Content[i], follow(top.Content[i+1])
		k := kindCalled(name.Value)
		switch {
		case k == nil || !k.Allows(dossier.Add) && k.Name != "household":
			return nil, fmt.Errorf("line %d: there are no records called %q to add", name.Line, name.Value)
		case seen[k]:
			return nil, fmt.Errorf("line %d: %q occurs twice", name.Line, name.Value)
		}
		seen[k] = true
		records := []*yaml.Node{list}
		if list.Kind == yaml.SequenceNode {
			records = list.Content
		} else if k.Name != "household" {
			return nil, fmt.Errorf("line %d: %q needs a list of records", name.Line, name.Value)
		}
		for _, n := range records {
			one, err := r.record(k, follow(n))
			if err != nil {
				return nil, err
			}
			r.out = append(r.out, one)
		}
	}
	slices.SortStableFunc(r.out, func(a, b Applied) int {
		return slices.Index(dossier.Kinds, a.Kind) - slices.Index(dossier.Kinds, b.Kind)
	})
	return r.out, nil
}

// yamlError says what is wrong with a document, or the first of several faults.
func yamlError(err error) error {
	var all *yaml.TypeError
	if errors.As(err, &all) && len(all.Errors) > 0 {
		return errors.New(all.Errors[0])
	}
	return errors.New(strings.TrimPrefix(err.Error(), "yaml: "))
}

// kindCalled finds a kind by its plural as in the API's addresses or in camel case, or by its name.
func kindCalled(name string) *dossier.Kind {
	var b strings.Builder
	for i, r := range name {
		if unicode.IsUpper(r) && i > 0 {
			b.WriteByte('-')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	for _, k := range dossier.Kinds {
		if b.String() == k.Plural || b.String() == k.Name {
			return k
		}
	}
	return nil
}

func follow(n *yaml.Node) *yaml.Node {
	for n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	return n
}

type applyReader struct {
	out   []Applied
	nodes int
}

func (r *applyReader) record(k *dossier.Kind, n *yaml.Node) (Applied, error) {
	if n.Kind != yaml.MappingNode {
		return Applied{}, fmt.Errorf("line %d: expected %s with its values", n.Line, k.Noun())
	}
	members, err := r.group(n, k.Fields)
	return Applied{n.Line, k, members}, err
}

// group reads a mapping whose members are declared by fields.
func (r *applyReader) group(n *yaml.Node, fields []dossier.Field) (map[string]any, error) {
	out := map[string]any{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		name := n.Content[i]
		if _, twice := out[name.Value]; twice {
			return nil, fmt.Errorf("line %d: %q occurs twice", name.Line, name.Value)
		}
		var f dossier.Field
		if i := slices.IndexFunc(fields, func(f dossier.Field) bool { return f.Name == name.Value }); i >= 0 {
			f = fields[i]
		}
		v, err := r.value(follow(n.Content[i+1]), f)
		if err != nil {
			return nil, err
		}
		out[name.Value] = v
	}
	return out, nil
}

func (r *applyReader) value(n *yaml.Node, f dossier.Field) (any, error) {
	if r.nodes++; r.nodes > mostNodes {
		return nil, fmt.Errorf("line %d: the document is too large", n.Line)
	}
	switch n.Kind {
	case yaml.MappingNode:
		return r.group(n, f.Group)
	case yaml.SequenceNode:
		list := []any{}
		for _, one := range n.Content {
			v, err := r.value(follow(one), f)
			if err != nil {
				return nil, err
			}
			list = append(list, v)
		}
		return list, nil
	}
	if n.ShortTag() == "!!null" {
		return nil, nil
	}
	// A text stays as written: version 3.10 is not a number, and a date is not an instant.
	if n.ShortTag() == "!!timestamp" || f.Type != nil && isText(f.Type) {
		return n.Value, nil
	}
	var v any
	if err := n.Decode(&v); err != nil {
		return nil, fmt.Errorf("line %d: %q cannot be read", n.Line, n.Value)
	}
	if _, err := json.Marshal(v); err != nil {
		return nil, fmt.Errorf("line %d: %q is not a value of JSON", n.Line, n.Value)
	}
	return v, nil
}

// isText reports whether a member, or each element of a list, is text in JSON.
func isText(t reflect.Type) bool {
	if t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	_, reads := reflect.New(t).Interface().(encoding.TextUnmarshaler)
	return reads || t.Kind() == reflect.String
}
