package cli

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"sort"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// find returns the record of the kind with that name, or with that id or its last six characters. For
// reading, the beginning of a name will do where it fits only one record. Without a name it is the only one there is.
func find(d *dossier.Dossier, k *dossier.Kind, args []string, why purpose) (dossier.Record, error) {
	rows := k.In(d)
	if len(args) == 0 {
		if rows.Len() == 1 {
			return rows.At(0), nil
		}
		return nil, wrongUse("which %s? kaiku %s list shows them", k.Noun(), k.Name)
	}
	var exact, begins []dossier.Record
	for i := range rows.Len() {
		r := rows.At(i)
		label, full := k.Label(d, r), d.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()})
		switch {
		case strings.EqualFold(label, args[0]) || strings.EqualFold(full, args[0]) || r.Key() == args[0] || len(args[0]) == 6 && strings.HasSuffix(r.Key(), strings.ToLower(args[0])):
			exact = append(exact, r)
		case strings.HasPrefix(strings.ToLower(label), strings.ToLower(args[0])) || strings.HasPrefix(strings.ToLower(full), strings.ToLower(args[0])):
			begins = append(begins, r)
		}
	}
	names := func(found []dossier.Record) string {
		var out []string
		for _, r := range found {
			out = append(out, fmt.Sprintf("%q (%s)", d.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()}), shortID(r.Key())))
		}
		return strings.Join(out, ", ")
	}
	switch {
	case len(exact) == 1:
		return exact[0], nil
	case len(exact) > 1:
		return nil, wrongUse("%q could be %s; give the six characters in brackets", args[0], names(exact))
	case len(begins) == 0:
		return nil, fmt.Errorf("there is no %s %q; kaiku %s list shows them", k.Noun(), args[0], k.Name)
	case why == writing:
		return nil, fmt.Errorf("there is no %s %q; a change needs the whole name, such as %s", k.Noun(), args[0], names(begins))
	case len(begins) > 1:
		return nil, wrongUse("%q could be %s; give more of the name, or the six characters in brackets", args[0], names(begins))
	}
	return begins[0], nil
}

// shortID is what people type of an id.
func shortID(id string) string { return id[max(0, len(id)-6):] }

// recordNamed reads the home and finds the record with that name.
func (a *App) recordNamed(ctx context.Context, k *dossier.Kind, args []string, why purpose) (*dossier.Dossier, dossier.Record, error) {
	d, err := a.home(ctx)
	if err != nil {
		return nil, nil, err
	}
	if k.Name == "household" {
		args = nil // its code has chosen the home
	}
	r, err := find(d, k, args, why)
	return d, r, err
}

// refIn finds a record of the home, written as kind/name.
func (a *App) refIn(ctx context.Context, text string, why purpose) (dossier.Ref, error) {
	d, err := a.home(ctx)
	if err != nil {
		return dossier.Ref{}, err
	}
	return findRef(d, text, why)
}

// findRef finds a record written as kind/name.
func findRef(d *dossier.Dossier, text string, why purpose) (dossier.Ref, error) {
	kind, name, ok := strings.Cut(text, "/")
	k := dossier.KindNamed(kind)
	if !ok || k == nil {
		return dossier.Ref{}, wrongUse("%q: write the record as kind/name, such as device/\"granite server\"", text)
	}
	r, err := find(d, k, []string{name}, why)
	if err != nil {
		return dossier.Ref{}, err
	}
	return dossier.Ref{Kind: kind, ID: r.Key()}, nil
}

type people []wire.Person

func (a *App) people(ctx context.Context) (people, error) {
	p, err := a.client().People(ctx)
	return p, err
}

func (p people) name(id string) string {
	for _, one := range p {
		if string(one.ID) == id {
			return one.Name
		}
	}
	return ""
}

var idText = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}`)

// sayJSON writes a member's value for people: ids as names, times in the local time zone.
func sayJSON(d *dossier.Dossier, people people, f dossier.Field, b []byte) string {
	var v any
	if json.Unmarshal(b, &v) != nil {
		return ""
	}
	s := sayValue(v)
	if f.Group != nil {
		s = sayGroup(f, v)
	}
	return idText.ReplaceAllStringFunc(s, func(id string) string {
		if name := people.name(id); name != "" {
			return name
		}
		if ref, ok := d.RefOf(id); ok && f.Name != "id" {
			return d.FullLabel(ref)
		}
		return id
	})
}

// sayGroup writes the members of a group in order, and the elements of a list one after another.
func sayGroup(f dossier.Field, v any) string {
	var parts []string
	switch v := v.(type) {
	case []any:
		for _, one := range v {
			parts = append(parts, sayGroup(f, one))
		}
		return strings.Join(parts, "; ")
	case map[string]any:
		if row, err := json.Marshal(v); err == nil {
			if said := wording.FormatRow(row); said != "" {
				return said
			}
		}
		for _, g := range f.Group {
			s := sayValue(v[g.Name])
			if yes, ok := v[g.Name].(bool); ok && yes {
				s = strings.ToLower(g.Title)
			}
			if s != "" {
				parts = append(parts, s)
			}
		}
	}
	return strings.Join(parts, " ")
}

func sayValue(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case bool:
		if v {
			return "yes"
		}
		return ""
	case float64:
		if v == 0 {
			return ""
		}
		return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0")
	case []any:
		parts := make([]string, len(v))
		for i, one := range v {
			parts[i] = sayValue(one)
		}
		return strings.Join(parts, ", ")
	case map[string]any:
		if kind, ok := v["kind"].(string); ok && len(v) == 2 {
			return fmt.Sprintf("%s %s", kind, sayValue(v["id"]))
		}
		var parts []string
		for name, one := range v {
			if s := sayValue(one); s != "" {
				parts = append(parts, name+" "+s)
			}
		}
		sort.Strings(parts)
		return strings.Join(parts, ", ")
	}
	s := fmt.Sprint(v)
	if t, err := time.Parse(time.RFC3339, s); err == nil {
		return when(t)
	}
	return s
}

// when writes an instant in the local time zone.
func when(t time.Time) string {
	if t.IsZero() || t.Year() < 2 {
		return ""
	}
	return t.Local().Format("2006-01-02 15:04")
}

func (a *App) completeRecords(k *dossier.Kind) cobra.CompletionFunc {
	return func(cmd *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
		if len(args) > 0 {
			return nil, cobra.ShellCompDirectiveNoFileComp
		}
		return a.namesOf(cmd.Context(), k, typed), cobra.ShellCompDirectiveNoFileComp
	}
}

func (a *App) completePeople(cmd *cobra.Command, _ []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	people, err := a.people(cmd.Context())
	var out []cobra.Completion
	for _, p := range people {
		if err == nil && strings.HasPrefix(p.Login, typed) {
			out = append(out, cobra.CompletionWithDesc(p.Login, p.Name))
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

func (a *App) namesOf(ctx context.Context, k *dossier.Kind, typed string) []cobra.Completion {
	d, err := a.home(ctx)
	if err != nil {
		return nil
	}
	var out []cobra.Completion
	for i := range k.In(d).Len() {
		if label := k.Label(d, k.In(d).At(i)); strings.HasPrefix(strings.ToLower(label), strings.ToLower(typed)) {
			out = append(out, label)
		}
	}
	return out
}

// completeMember completes a flag by the words of its closed list or the names of records.
func (a *App) completeMember(c *cobra.Command, flag string, f dossier.Field) {
	switch {
	case f.Enum != nil:
		_ = c.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(f.Enum, cobra.ShellCompDirectiveNoFileComp))
	case dossier.KindNamed(f.Refers) != nil:
		k := dossier.KindNamed(f.Refers)
		_ = c.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
			return a.namesOf(cmd.Context(), k, typed), cobra.ShellCompDirectiveNoFileComp
		})
	}
}
