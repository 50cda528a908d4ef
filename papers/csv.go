package papers

import (
	"bytes"
	"encoding"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
	"kaiku/wording"
)

// MaxLines is how many records one document may bring: more than any home has of a kind.
const MaxLines = 2000

// WriteCSV writes all records of a kind as CSV (RFC 4180): a line of member names, then a line a
// record. References are written by the name people use, in full; a list with "; " between its
// elements; a group as JSON; a cell that a spreadsheet would
// take for a formula with a single quote before it. What was written reads back as it was.
func WriteCSV(d *dossier.Dossier, k *dossier.Kind) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	fields := columns(k)
	header := []string{"id"}
	for _, f := range fields {
		header = append(header, f.Name)
	}
	if err := w.Write(header); err != nil {
		return nil, err
	}
	rows := k.In(d)
	for i := range rows.Len() {
		r := rows.At(i)
		cells := []string{r.Key()}
		for _, f := range fields {
			cell, err := written(d, f, f.In(reflect.ValueOf(r)))
			if err != nil {
				return nil, fmt.Errorf("write %s of %s: %w", f.Name, k.Label(d, r), err)
			}
			cells = append(cells, wording.Cell(cell))
		}
		if err := w.Write(cells); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}

// columns are the members that a document may carry: those a person may set.
func columns(k *dossier.Kind) []dossier.Field {
	var out []dossier.Field
	for _, f := range k.Fields {
		if f.Name != "id" && (f.Rule == dossier.Plain || f.Rule == dossier.Fixed) {
			out = append(out, f)
		}
	}
	return out
}

func written(d *dossier.Dossier, f dossier.Field, v reflect.Value) (string, error) {
	if v.IsZero() {
		return "", nil
	}
	if f.Group != nil {
		b, err := json.Marshal(v.Interface())
		return string(b), err
	}
	if !f.List {
		return writtenOne(d, f, v)
	}
	parts := make([]string, v.Len())
	for i := range parts {
		var err error
		if parts[i], err = writtenOne(d, f, v.Index(i)); err != nil {
			return "", err
		}
		if strings.Contains(parts[i], ";") || strings.HasPrefix(parts[i], "[") || strings.TrimSpace(parts[i]) != parts[i] { // would read as something else
			b, err := json.Marshal(v.Interface())
			return string(b), err
		}
	}
	return strings.Join(parts, "; "), nil
}

func writtenOne(d *dossier.Dossier, f dossier.Field, v reflect.Value) (string, error) {
	switch {
	case f.Refers == "any":
		ref := v.Interface().(dossier.Ref)
		return ref.Kind + "/" + unique(d, ref), nil
	case f.Refers != "" && f.Refers != "person":
		return unique(d, dossier.Ref{Kind: f.Refers, ID: v.String()}), nil
	}
	switch x := v.Interface().(type) {
	case encoding.TextMarshaler:
		b, err := x.MarshalText()
		return string(b), err
	case bool:
		return "yes", nil
	case float64:
		return strconv.FormatFloat(x, 'g', -1, 64), nil
	}
	return fmt.Sprint(v.Interface()), nil
}

// unique returns the full label of a record if it names that one alone, or else its id.
func unique(d *dossier.Dossier, ref dossier.Ref) string {
	label := d.FullLabel(ref)
	if found, err := Named(d, ref.Kind, label); err == nil && found == ref.ID && strings.TrimSpace(label) == label {
		return label
	}
	return ref.ID
}

// Named returns the id of the record that is called so: by its id, its full label, or its label
// if only one has it. Case does not count: people say names aloud.
func Named(d *dossier.Dossier, kind, name string) (string, error) {
	k := dossier.KindNamed(kind)
	if k == nil {
		return "", fmt.Errorf("there are no records called %q", kind)
	}
	rows := k.In(d)
	if _, ok := rows.Lookup(name); ok {
		return name, nil
	}
	var full, short []string
	for i := range rows.Len() {
		r := rows.At(i)
		if strings.EqualFold(k.Label(d, r), name) {
			short = append(short, r.Key())
		}
		if strings.EqualFold(d.FullLabel(dossier.Ref{Kind: kind, ID: r.Key()}), name) {
			full = append(full, r.Key())
		}
	}
	switch {
	case len(full) == 1:
		return full[0], nil
	case len(short) == 1:
		return short[0], nil
	case len(full)+len(short) == 0:
		return "", fmt.Errorf("there is no %s called %q", k.Noun(), name)
	}
	return "", fmt.Errorf("more than one %s is called %q; give the full name, including what it belongs to", k.Noun(), name)
}

// Row is one line of a document, as what it asks for: the members it gives, and the record it is
// about, if there is one already. Err says why it cannot be read.
type Row struct {
	Line    int
	ID      string // of the record there is, or the id that the line brings
	Exists  bool
	Members map[string]json.RawMessage // null clears
	Err     error
	cells   map[string]string // as they stood in the line
}

// ReadCSV reads lines of a kind. The first line names the columns, by member name or title in any
// case; columns may be separated by comma, semicolon or tab. A line is about the record with its
// id, or else with its name (within what it belongs to); without either it is a new one. A column
// that is not there changes nothing, an empty cell clears.
func ReadCSV(d *dossier.Dossier, k *dossier.Kind, text string) ([]Row, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma = separator(text)
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = r.Comma != '\t' // else empty cells between tabs would be trimmed away
	header, err := r.Read()
	if err != nil {
		return nil, errors.New("its first line does not name columns")
	}
	fields, err := headed(k, header)
	if err != nil {
		return nil, err
	}
	var out []Row
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if len(out) == MaxLines {
			return nil, fmt.Errorf("it has more than %d lines; split it into smaller files", MaxLines)
		}
		var wrong *csv.ParseError
		if errors.As(err, &wrong) {
			out = append(out, Row{Line: wrong.StartLine, Err: wrong.Err})
			continue
		}
		if err != nil {
			return nil, err
		}
		line, _ := r.FieldPos(0)
		if slices.ContainsFunc(cells, func(c string) bool { return strings.TrimSpace(c) != "" }) {
			out = append(out, rowOf(d, k, fields, cells, line))
		}
	}
}

// separator is the one that splits the first line into the most columns.
func separator(text string) rune {
	first, _, _ := strings.Cut(text, "\n")
	best, most := ',', strings.Count(first, ",")
	for _, c := range ";\t" {
		if n := strings.Count(first, string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}

// Fits reports whether all columns of a first line are members of the kind, more than one of them.
func Fits(k *dossier.Kind, header string) bool {
	r := csv.NewReader(strings.NewReader(header))
	r.Comma = separator(header)
	names, err := r.Read()
	if err != nil || len(names) < 2 {
		return false
	}
	_, err = headed(k, names)
	return err == nil
}

// headed returns the member of each column; the id's is the zero Field with that name.
func headed(k *dossier.Kind, header []string) ([]dossier.Field, error) {
	if most := len(columns(k)) + 1; len(header) > most {
		return nil, fmt.Errorf("its first line has %d columns, and a list of %s has %d at most", len(header), k.Nouns(), most)
	}
	out := make([]dossier.Field, len(header))
	for i, h := range header {
		h = strings.TrimSpace(h)
		for _, f := range columns(k) {
			if strings.EqualFold(h, f.Name) || strings.EqualFold(h, f.Title) {
				out[i] = f
			}
		}
		if strings.EqualFold(h, "id") {
			out[i].Name = "id"
		}
		if out[i].Name == "" {
			names := []string{"id"}
			for _, f := range columns(k) {
				names = append(names, f.Name)
			}
			return nil, fmt.Errorf("%q in its first line is not a column of %s, which are %s", h, k.Nouns(), strings.Join(names, ", "))
		}
		if slices.ContainsFunc(out[:i], func(f dossier.Field) bool { return f.Name == out[i].Name }) {
			return nil, fmt.Errorf("the column %q occurs twice", h)
		}
	}
	return out, nil
}

func rowOf(d *dossier.Dossier, k *dossier.Kind, fields []dossier.Field, cells []string, line int) Row {
	row := Row{Line: line, Members: map[string]json.RawMessage{}, cells: map[string]string{}}
	if len(cells) > len(fields) {
		row.Err = fmt.Errorf("it has %d columns, but the first line has %d", len(cells), len(fields))
		return row
	}
	for i, f := range fields {
		cell := ""
		if i < len(cells) {
			cell = strings.TrimSpace(wording.CellRead(cells[i]))
		}
		if f.Name == "id" {
			row.ID = cell
			continue
		}
		v, err := read(d, f, cell)
		if err != nil {
			row.Err = errors.Join(row.Err, fmt.Errorf("%s: %w", f.Title, err))
			continue
		}
		row.Members[f.Name], row.cells[f.Name] = v, cell
	}
	if row.Err == nil {
		row.find(d, k)
	}
	return row
}

// find settles which record the line is about, and leaves out what may not be sent for it.
func (r *Row) find(d *dossier.Dossier, k *dossier.Kind) {
	rows := k.In(d)
	if r.ID != "" {
		_, r.Exists = rows.Lookup(r.ID)
	} else {
		for i := range rows.Len() {
			if one := rows.At(i); r.names(k, one) {
				r.ID, r.Exists = one.Key(), true
			}
		}
	}
	old, _ := rows.Lookup(r.ID)
	for name, v := range r.Members {
		f, _ := k.Field(name)
		same := false
		if r.Exists { // what would be written so changes nothing, to the last blank
			now, err := written(d, f, f.In(reflect.ValueOf(old)))
			same = err == nil && strings.TrimSpace(now) == r.cells[name] || means(f, v, f.Get(old))
		}
		if same || string(v) == "null" && !r.Exists || r.Exists && f.Rule == dossier.Fixed {
			delete(r.Members, name)
		}
	}
}

// means reports whether the JSON is the value, as 0 is for a floor that was left out.
func means(f dossier.Field, v json.RawMessage, value any) bool {
	read := reflect.New(f.Type)
	return json.Unmarshal(v, read.Interface()) == nil && reflect.DeepEqual(read.Elem().Interface(), value)
}

// names reports whether the line gives the name of the record, within what both belong to.
func (r *Row) names(k *dossier.Kind, one dossier.Record) bool {
	named := false
	for _, f := range k.Fields {
		if f.Unique == "" {
			continue
		}
		if !r.gives(f, fmt.Sprint(f.Get(one)), strings.EqualFold) {
			return false
		}
		if owner, ok := k.Field(f.Unique); ok && !r.gives(owner, fmt.Sprint(owner.Get(one)), func(a, b string) bool { return a == b }) {
			return false
		}
		named = true
	}
	return named
}

// gives reports whether the line gives the member that text.
func (r *Row) gives(f dossier.Field, text string, same func(a, b string) bool) bool {
	var given string
	v, there := r.Members[f.Name]
	return there && json.Unmarshal(v, &given) == nil && same(given, text)
}

// read turns a cell into the JSON of the member.
func read(d *dossier.Dossier, f dossier.Field, cell string) (json.RawMessage, error) {
	switch {
	case cell == "":
		return json.RawMessage("null"), nil
	case f.Group != nil, f.List && strings.HasPrefix(cell, "["):
		if !json.Valid([]byte(cell)) {
			return nil, fmt.Errorf("%q is not JSON", cell)
		}
		return json.RawMessage(cell), nil
	case f.List:
		var parts []json.RawMessage
		for _, p := range strings.Split(cell, ";") {
			one, err := readOne(d, f, strings.TrimSpace(p))
			if err != nil {
				return nil, err
			}
			parts = append(parts, one)
		}
		return json.Marshal(parts)
	}
	return readOne(d, f, cell)
}

func readOne(d *dossier.Dossier, f dossier.Field, cell string) (json.RawMessage, error) {
	switch {
	case f.Refers == "any":
		kind, name, _ := strings.Cut(cell, "/")
		id, err := Named(d, kind, name)
		if err != nil {
			return nil, err
		}
		return json.Marshal(dossier.Ref{Kind: kind, ID: id})
	case f.Refers != "" && f.Refers != "person":
		id, err := Named(d, f.Refers, cell)
		if err != nil {
			return nil, err
		}
		return json.Marshal(id)
	case f.Enum != nil:
		word := strings.ReplaceAll(strings.ToLower(cell), " ", "-")
		if !slices.Contains(f.Enum, word) {
			return nil, fmt.Errorf("%q is not one of %s", cell, strings.Join(f.Enum, ", "))
		}
		return json.Marshal(word)
	}
	t := f.Type
	if f.List {
		t = t.Elem()
	}
	switch t.Kind() {
	case reflect.Bool:
		return json.Marshal(slices.Contains([]string{"yes", "true", "1", "x"}, strings.ToLower(cell)))
	case reflect.Int, reflect.Float64:
		n, err := strconv.ParseFloat(strings.Replace(cell, ",", ".", 1), 64)
		if err != nil || t.Kind() == reflect.Int && n != float64(int(n)) {
			return nil, fmt.Errorf("%q is not a %s", cell, map[reflect.Kind]string{reflect.Int: "whole number", reflect.Float64: "number"}[t.Kind()])
		}
		return json.Marshal(n)
	}
	return json.Marshal(cell)
}
