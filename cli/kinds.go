package cli

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// kindCommands makes list, show, add, set and remove for every kind from its declaration, and adds
// the steps of the work that belong to it.
func (a *App) kindCommands() []*cobra.Command {
	besides := map[string][]*cobra.Command{
		"household": {a.householdAdd(), a.householdFind(), a.eraseCommand(), a.assignCommand(), a.watchCommand()}, "issue": a.issueCommands(), "handover": a.handoverCommands(), "attempt": {a.attemptAdd(), a.attemptRound(), a.attemptTimeCode()},
		"secret": a.secretCommands(), "source": {a.browseCommand()}, "folder": a.folderCommands(), "room": {a.roomCard()}, "path": {a.pathCard(), a.pathPropose(), a.pathEnds(), a.pathWaking()}, "opening": {a.openingNeeded()}, "segment": {a.wifiCode()}, "visit": a.visitCommands(), "line": a.lineCommands(), "reading": a.readingCommands(), "decoding": {a.decodingInvite()}, "attachment": a.attachmentCommands(),
	}
	var out []*cobra.Command
	for _, k := range dossier.Kinds {
		if k.Name == "prerequisite" {
			continue // listed as what the paths need, see prerequisiteCommand
		}
		list := a.listKind(k)
		g := group(k.Name, wording.Capital(k.Nouns()), list.RunE, list)
		if k.Name == "household" {
			list = a.householdList()
			g = group(k.Name, "Households", list.RunE, list)
		}
		own := besides[k.Name]
		if !slices.ContainsFunc(own, func(c *cobra.Command) bool { return c.Name() == "show" }) {
			g.AddCommand(a.showKind(k))
		}
		if k.Allows(dossier.Add) {
			g.AddCommand(a.addKind(k))
		}
		if k.Allows(dossier.Set) {
			g.AddCommand(a.setKind(k))
		}
		if k.Allows(dossier.Remove) {
			g.AddCommand(a.removeKind(k))
		}
		g.AddCommand(own...)
		out = append(out, g)
	}
	return out
}

func (a *App) listKind(k *dossier.Kind) *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List the " + k.Nouns(), Example: "  kaiku " + k.Name + " list", RunE: func(cmd *cobra.Command, _ []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		people, err := a.people(cmd.Context())
		if err != nil {
			return err
		}
		header, rows := recordTable(k, d, people)
		return a.show(k.In(d), header, rows)
	}}
}

// untabled are members that are too long for a table, or say nothing to people.
var untabled = []string{"id", "revision", "facts", "points", "tries", "sha256", "sealedAs"}

// recordTable shows the label first, then what else is short and not always empty, as far as
// the width allows.
func recordTable(k *dossier.Kind, d *dossier.Dossier, people people) ([]string, [][]string) {
	var columns []dossier.Field
	for _, f := range k.Fields {
		if f.Label {
			columns = append(columns, f)
		}
	}
	for _, f := range k.Fields {
		if !f.Label && !slices.Contains(untabled, f.Name) {
			columns = append(columns, f)
		}
	}
	n := k.In(d).Len()
	rows := make([][]string, n)
	var header []string
	width := 8
	for _, f := range columns {
		column := make([]string, n)
		widest, empty := len([]rune(f.Title)), true
		for i := range n {
			column[i] = sayField(d, people, f, k.In(d).At(i))
			widest = max(widest, min(30, len([]rune(column[i]))))
			empty = empty && column[i] == ""
		}
		if empty || width+widest+2 > tableWidth {
			continue
		}
		width += widest + 2
		header = append(header, f.Title)
		for i := range n {
			rows[i] = append(rows[i], column[i])
		}
	}
	header = append(header, "Id")
	for i := range n {
		id := k.In(d).At(i).Key()
		rows[i] = append(rows[i], id[len(id)-6:])
	}
	return header, rows
}

// nameArgument is the argument by which a command names a record: the household goes by its code.
func nameArgument(k *dossier.Kind, verb string) (use string, mark func(*cobra.Command) *cobra.Command) {
	if k.Name == "household" {
		return verb + " [CODE]", aboutHome
	}
	return verb + " NAME", func(c *cobra.Command) *cobra.Command { return c }
}

func (a *App) showKind(k *dossier.Kind) *cobra.Command {
	use, mark := nameArgument(k, "show")
	return mark(&cobra.Command{Use: use, Short: "Show " + wording.A(k.Noun()), ValidArgsFunction: a.completeRecords(k), Example: "  kaiku " + k.Name + " show " + sampleOf(k).name,
		RunE: func(cmd *cobra.Command, args []string) error {
			d, r, err := a.recordNamed(cmd.Context(), k, args, reading)
			if err != nil {
				return err
			}
			people, err := a.people(cmd.Context())
			if err != nil {
				return err
			}
			return a.record(d, people, k, r)
		}})
}

func (a *App) record(d *dossier.Dossier, people people, k *dossier.Kind, r dossier.Record) error {
	pairs := []string{}
	for _, f := range k.Fields {
		if f.Title != "" {
			pairs = append(pairs, f.Title, sayField(d, people, f, r))
		}
	}
	return a.details(r, append(pairs, "Id", r.Key(), "Changed", fmt.Sprintf("in revision %d", r.Changed()))...)
}

func (a *App) addKind(k *dossier.Kind) *cobra.Command {
	c := &cobra.Command{Use: "add", Short: "Add " + wording.A(k.Noun()), Example: "  kaiku " + k.Name + " add " + sampleOf(k).add}
	changing(c)
	var dry bool
	read := a.memberFlags(c, k, dossier.Add)
	dryFlag(c, &dry)
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		members, err := read(d)
		if err != nil {
			return err
		}
		if a.collects {
			members["id"] = uuid.Must(uuid.NewV7()).String() // so that it is the same one in everything that is read
		}
		if stop, err := a.before(cmd.Context(), dry, wire.PreviewStep{Verb: "add", Kind: k.Name, Members: members}); stop || err != nil {
			return err
		}
		made, err := a.client().Add(cmd.Context(), a.household, k, members)
		if err != nil {
			return err
		}
		return a.changed("Added", k, made)
	}
	needed(c, k)
	return c
}

// needed marks the flags of members that a new record must have.
func needed(c *cobra.Command, k *dossier.Kind) {
	var names []string
	for _, f := range k.Fields {
		name := flagName(f.Name)
		if f.List {
			name = singular(name)
		}
		if f.Required && c.Flags().Lookup(name) != nil {
			names = append(names, name)
		}
	}
	required(c, names...)
}

func (a *App) setKind(k *dossier.Kind) *cobra.Command {
	use, mark := nameArgument(k, "set")
	c := mark(&cobra.Command{Use: use, Short: "Change " + wording.A(k.Noun()), ValidArgsFunction: a.completeRecords(k), Example: "  kaiku " + k.Name + " set " + sampleOf(k).set,
		Long: "Changes the values given by flags and leaves the others as they are. An empty value, such as --note \"\", clears one."})
	changing(c)
	var dry bool
	read := a.memberFlags(c, k, dossier.Set)
	dryFlag(c, &dry)
	c.RunE = func(cmd *cobra.Command, args []string) error {
		d, r, err := a.recordNamed(cmd.Context(), k, args, writing)
		if err != nil {
			return err
		}
		patch, err := read(d)
		if err != nil {
			return err
		}
		if len(patch) == 0 {
			return wrongUse("nothing to change; give at least one value to change, such as --%s", firstFlag(c))
		}
		if stop, err := a.before(cmd.Context(), dry, wire.PreviewStep{Verb: "set", Kind: k.Name, ID: r.Key(), Members: patch}); stop || err != nil {
			return err
		}
		now, err := a.client().Set(cmd.Context(), a.household, k, r.Key(), fmt.Sprintf(`"%d"`, r.Changed()), patch)
		if err != nil {
			return err
		}
		return a.changed("Changed", k, now)
	}
	return c
}

func firstFlag(c *cobra.Command) (name string) {
	c.Flags().VisitAll(func(f *pflag.Flag) {
		if _, member := f.Value.(*typed); member && name == "" {
			name = f.Name
		}
	})
	return name
}

func (a *App) removeKind(k *dossier.Kind) *cobra.Command {
	var dry bool
	c := &cobra.Command{Use: "remove NAME", Short: "Remove " + wording.A(k.Noun()), ValidArgsFunction: a.completeRecords(k), Example: "  kaiku " + k.Name + " remove " + sampleOf(k).name,
		Long: "Shows what would be removed along with it, then asks. The journal keeps what was removed, and kaiku journal undo brings it back.",
		RunE: func(cmd *cobra.Command, args []string) error {
			d, r, err := a.recordNamed(cmd.Context(), k, args, writing)
			if err != nil {
				return err
			}
			said := fmt.Sprintf("the %s %q", k.Noun(), d.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()}))
			step := wire.PreviewStep{Verb: "remove", Kind: k.Name, ID: r.Key()}
			if stop, err := a.before(cmd.Context(), dry, step); stop || err != nil {
				return err
			}
			if err := a.confirm("This removes "+said+lossesOf(d, dossier.Ref{Kind: k.Name, ID: r.Key()})+".", "Remove it?"); err != nil {
				return err
			}
			if err := a.client().Remove(cmd.Context(), a.household, k, r.Key(), fmt.Sprintf(`"%d"`, r.Changed())); err != nil {
				return err
			}
			return a.done(map[string]string{"removed": r.Key()}, "Removed %s.", said)
		}}
	a.yesFlag(c)
	dryFlag(c, &dry)
	changing(c)
	return c
}

// before tells what a change would do to what is proven, before it is stored. With dry it shows all
// of that and says to stop.
func (a *App) before(ctx context.Context, dry bool, step wire.PreviewStep) (stop bool, err error) {
	if a.collects {
		a.supposed = append(a.supposed, step)
		return true, nil
	}
	p, err := a.client().Preview(ctx, a.household, step)
	if client.IsProblem(err, "still-used") || err == nil && !dry {
		if p.Sentence != "" {
			a.note("%s", p.Sentence)
		}
		return false, nil // what keeps the change from being made is said when it is made
	}
	if err != nil {
		return false, err
	}
	if err := a.showPreview(p); err != nil || a.format != "table" {
		return true, err
	}
	a.note("%s Nothing has been written; leave out --dry-run to write it.", cmp.Or(p.Sentence, "Nothing that is proven would change."))
	return true, nil
}

// showPreview shows what changes would do.
func (a *App) showPreview(p wire.Preview) error {
	rows := [][]string{}
	for _, list := range []struct {
		word  string
		tests []wire.PreviewTest
	}{{"stale", p.Stale}, {"in doubt", p.InDoubt}, {"proven again", p.Proven}, {"asked for", p.Asked}, {"no longer asked for", p.Dropped}} {
		for _, t := range list.tests {
			rows = append(rows, []string{"test", t.Title + ", " + t.About.Label, list.word, t.Sentence})
		}
	}
	for _, f := range p.Found {
		rows = append(rows, []string{string(f.Severity), f.Sentence, "found", f.Remedy})
	}
	for _, f := range p.Gone {
		rows = append(rows, []string{string(f.Severity), f.Sentence, "no longer found", ""})
	}
	for _, c := range p.Load {
		rows = append(rows, []string{"load", c.What, cmp.Or(c.After, "no longer asked for"), "before: " + cmp.Or(c.Before, "not asked for")})
	}
	for _, c := range p.Plays {
		rows = append(rows, []string{"plays", c.What, cmp.Or(c.After, "no path leads there"), "before: " + cmp.Or(c.Before, "no path led there")})
	}
	return a.show(p, []string{"What", "About", "Would be", "Why"}, rows)
}

// lossesOf says what the removal of a record takes along and what it clears.
func lossesOf(d *dossier.Dossier, ref dossier.Ref) string {
	next := d.Clone()
	dossier.RemoveRecord(next, ref)
	if faults := dossier.Settle(d, next); len(faults) > 0 {
		return "" // the service refuses it, and says why
	}
	var gone []string
	cleared := 0
	for _, k := range dossier.Kinds {
		for i := range k.In(d).Len() {
			r := k.In(d).At(i)
			now, there := k.In(next).Lookup(r.Key())
			switch {
			case !there && r.Key() != ref.ID:
				gone = append(gone, fmt.Sprintf("%s %q", k.Noun(), d.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()})))
			case there && !reflect.DeepEqual(r, now):
				cleared++
			}
		}
	}
	said := ""
	if len(gone) > 0 {
		said += ", and with it " + clip(strings.Join(gone, ", "), 300)
	}
	if cleared > 0 {
		said += fmt.Sprintf("; %s that mention it will no longer do so", wording.Count(cleared, "record"))
	}
	return said
}

func (a *App) changed(what string, k *dossier.Kind, record wire.Record) error {
	if a.format == "csv" {
		return a.show(record, []string{"Id"}, [][]string{{fmt.Sprint(record["id"])}})
	}
	var label []string
	for _, f := range k.Fields {
		if f.Label && f.Refers == "" {
			label = append(label, " "+fmt.Sprint(record[f.Name]))
		}
	}
	return a.done(record, "%s %s%s (%s).", what, k.Noun(), strings.Join(label, ""), shortID(fmt.Sprint(record["id"])))
}

// member is a flag of one member: what was typed, kept as text until the home is known.
type member struct {
	path   []string // member and, in a group, its member
	field  dossier.Field
	kind   string // type word of what it holds
	group  []wire.Member
	words  []string // of a closed list
	values *[]string
	list   bool
}

// memberFlags gives a command a flag for each member a client may set with the verb, and returns
// what reads them into a JSON object.
func (a *App) memberFlags(c *cobra.Command, k *dossier.Kind, verb dossier.Verb) func(*dossier.Dossier) (wire.Record, error) {
	var all []member
	described := wire.KindOf(k)
	for _, m := range described.Members {
		f, _ := k.Field(m.Name)
		if f.Rule == dossier.ByCase || f.Rule == dossier.Server || f.Rule == dossier.Fixed && verb == dossier.Set {
			continue
		}
		if m.Type == "group" && !m.List {
			for _, g := range m.Group {
				all = append(all, a.memberFlag(c, flagName(m.Name)+"."+flagName(g.Name), g.Doc, member{path: []string{m.Name, g.Name}, field: f, kind: g.Type, words: g.Enum}))
			}
			continue
		}
		name := flagName(m.Name)
		doc := m.Doc
		if m.List {
			name = singular(name)
			doc += " May be repeated."
		}
		if m.Type == "group" {
			doc += " Form: " + groupForm(m.Group) + "."
		}
		one := a.memberFlag(c, name, doc, member{path: []string{m.Name}, field: f, kind: m.Type, group: m.Group, words: m.Enum, list: m.List})
		all = append(all, one)
		a.completeMember(c, name, f)
	}
	return func(d *dossier.Dossier) (wire.Record, error) {
		out := wire.Record{}
		for _, m := range all {
			if len(*m.values) == 0 {
				continue
			}
			v, err := m.json(d)
			if err != nil {
				return nil, err
			}
			if len(m.path) == 1 {
				out[m.path[0]] = v
				continue
			}
			g, _ := out[m.path[0]].(map[string]any)
			if g == nil {
				g = map[string]any{}
			}
			g[m.path[1]] = v
			out[m.path[0]] = g
		}
		return out, nil
	}
}

func (a *App) memberFlag(c *cobra.Command, name, doc string, m member) member {
	m.values = &[]string{}
	if len(m.words) > 0 && wordType(m.words) == "word" {
		doc += " One of: " + strings.Join(m.words, ", ") + "."
	}
	c.Flags().Var(&typed{m.values, m.kind, m.words}, name, doc)
	return m
}

// typed is a flag that keeps what was typed and says in the help what it holds.
type typed struct {
	values *[]string
	kind   string
	words  []string // of a closed list
}

func (t *typed) String() string { return "" }

func (t *typed) Type() string {
	switch {
	case len(t.words) > 0:
		return wordType(t.words)
	case t.kind == "hardware-address":
		return "mac-address"
	case t.kind == "reference":
		return "name"
	}
	return t.kind
}

func (t *typed) Set(v string) error {
	if len(t.words) > 0 && v != "" && !slices.Contains(t.words, v) {
		return fmt.Errorf("choose one of %s", strings.Join(t.words, ", "))
	}
	*t.values = append(*t.values, v)
	return nil
}

var _ pflag.Value = (*typed)(nil)

// json turns what was typed into what the API takes. An empty value clears.
func (m member) json(d *dossier.Dossier) (any, error) {
	values := *m.values
	if len(values) == 1 && values[0] == "" {
		return nil, nil
	}
	var list []any
	for _, v := range values {
		one, err := m.one(d, v)
		if err != nil {
			return nil, err
		}
		list = append(list, one)
	}
	if m.list {
		return list, nil
	}
	return list[len(list)-1], nil
}

func (m member) one(d *dossier.Dossier, v string) (any, error) {
	switch m.kind {
	case "reference":
		switch m.field.Refers {
		case "any":
			return findRef(d, v, writing)
		case "person":
			return v, nil // the service knows the people
		}
		r, err := find(d, dossier.KindNamed(m.field.Refers), []string{v}, writing)
		if err != nil {
			return nil, err
		}
		return r.Key(), nil
	case "group":
		g := map[string]any{}
		for _, part := range strings.Split(v, ",") {
			name, text, ok := strings.Cut(part, "=")
			name = strings.TrimSpace(name)
			i := slices.IndexFunc(m.group, func(g wire.Member) bool { return g.Name == name || flagName(g.Name) == name })
			if !ok || i < 0 {
				return nil, wrongUse("--%s %s: write it as %s", flagName(m.path[0]), v, groupForm(m.group))
			}
			value, err := m.part(m.group[i], name, strings.TrimSpace(text))
			if err != nil {
				return nil, err
			}
			g[m.group[i].Name] = value
		}
		return g, nil
	}
	return typedValue(m.path[len(m.path)-1], m.kind, v)
}

// part reads one member of a group; several values of a list stand between slashes.
func (m member) part(of wire.Member, name, text string) (any, error) {
	if !of.List {
		return typedValue(name, of.Type, text)
	}
	list := []any{}
	for one := range strings.SplitSeq(text, "/") {
		v, err := typedValue(name, of.Type, strings.TrimSpace(one))
		if err != nil {
			return nil, err
		}
		list = append(list, v)
	}
	return list, nil
}

// typedValue turns what was typed for one plain member into what the API takes.
func typedValue(name, kind, v string) (any, error) {
	switch kind {
	case "whole":
		n, err := strconv.Atoi(v)
		if err != nil {
			return nil, wrongUse("--%s %s: this is not a whole number", flagName(name), v)
		}
		return n, nil
	case "number":
		n, err := strconv.ParseFloat(v, 64)
		if err != nil || math.IsNaN(n) || math.IsInf(n, 0) {
			return nil, wrongUse("--%s %s: this is not a number; write it as 12.5", flagName(name), v)
		}
		return n, nil
	case "yes-no":
		switch strings.ToLower(v) {
		case "yes", "true":
			return true, nil
		case "no", "false":
			return false, nil
		}
		return nil, wrongUse("--%s %s: write yes or no", flagName(name), v)
	case "time":
		for _, layout := range []string{time.RFC3339, "2006-01-02 15:04", "2006-01-02T15:04"} {
			if t, err := time.ParseInLocation(layout, v, time.Local); err == nil {
				return t.UTC().Format(time.RFC3339), nil
			}
		}
		return nil, wrongUse("--%s %s: this is not a time; write it as \"2026-11-25 14:30\"", flagName(name), v)
	}
	return v, nil
}

func groupForm(group []wire.Member) string {
	parts := make([]string, len(group))
	for i, g := range group {
		parts[i] = flagName(g.Name) + "=..."
		if g.List {
			parts[i] += "/..."
		}
	}
	return strings.Join(parts, ",")
}

// singular is the name of a flag that is given once for each element of a list.
func singular(name string) string {
	switch {
	case strings.HasSuffix(name, "ies"):
		return strings.TrimSuffix(name, "ies") + "y"
	case strings.HasSuffix(name, "sses"):
		return strings.TrimSuffix(name, "es")
	}
	return strings.TrimSuffix(name, "s")
}

func sayField(d *dossier.Dossier, people people, f dossier.Field, r dossier.Record) string {
	b, err := json.Marshal(f.Get(r))
	if err != nil {
		return ""
	}
	return sayJSON(d, people, f, b)
}
