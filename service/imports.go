package service

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/papers"
	"kaiku/wire"
	"kaiku/wording"
)

// MaxImport is the largest document that is imported, in bytes.
const MaxImport = papers.MaxBytes

// ImportReader turns the members that a line gives into a change of a kind, with what a client of
// the API would be told is wrong with them.
type ImportReader func(k *dossier.Kind, verb dossier.Verb, base dossier.Record, members map[string]any) (Change, error)

// document is what was read of one: what it was taken for, and its lines as steps.
type document struct {
	form  string
	steps []step
}

// step is one line: it changes the dossier, and says what it did and to which records. An error
// refuses the line, and its changes are taken back.
type step struct {
	line  int
	label string
	apply func(*dossier.Dossier) (act, detail string, touched []dossier.Ref, err error)
}

// Import brings a document in: CSV of a kind, a table of leases or neighbours, contacts. Every
// line is tried and told of; unless asked otherwise, nothing is written when one is refused.
func (s *Service) Import(ctx context.Context, a Actor, code string, body []byte, o wire.ImportOptions, reader ImportReader, r Request) (wire.Import, error) {
	d, err := s.Home(ctx, a, "import-records", code)
	if err != nil {
		return wire.Import{}, err
	}
	text, err := papers.Text(body)
	if err != nil {
		return wire.Import{}, refuse("not-readable", "detail", err.Error())
	}
	doc, err := readDocument(d, text, o, reader)
	if err != nil {
		return wire.Import{}, refuse("not-readable", "detail", err.Error())
	}
	if o.Dry {
		out, _ := doc.try(d.Clone(), o)
		return out, nil
	}
	return s.bringIn(ctx, a, "import-records", code, "imported: "+doc.form, r, func(d *dossier.Dossier) (wire.Import, []dossier.Ref, error) {
		out, touched := doc.try(d, o)
		if out.Counts[wire.LineRefused] > 0 && !o.Partly {
			return out, nil, errNotBroughtIn // and what the right lines changed is left unwritten
		}
		return out, touched, nil
	})
}

// bringIn writes what a document holds. Its lines are tried on a copy of the home, and what came of them is
// written if the home is still the same. A second request with the same key is answered as the first was.
func (s *Service) bringIn(ctx context.Context, a Actor, operation, code, why string, r Request, try func(*dossier.Dossier) (wire.Import, []dossier.Ref, error)) (wire.Import, error) {
	var out wire.Import
	r.answer = func() ([]byte, error) { return json.Marshal(out) }
	err := s.steadily(ctx, code, func(ctx context.Context) error {
		d, err := s.home(ctx, code)
		if err != nil {
			return err
		}
		right := d.Clone()
		var touched []dossier.Ref
		var no error
		out, touched, no = try(right)
		w, err := s.write(ctx, a, operation, code, why, r, func(now *dossier.Dossier) error {
			switch {
			case now.Revision != d.Revision:
				return errMoved
			case no != nil:
				return no // a request that is repeated does not come here: its lines may be refused now
			}
			carry(right, now, touched)
			return nil
		})
		if err == nil && len(w.Answer) > 0 {
			out = wire.Import{}
			err = json.Unmarshal(w.Answer, &out)
		}
		return err
	})
	if errors.Is(err, errNotBroughtIn) {
		return out, nil
	}
	out.Written = err == nil
	return out, err
}

var errNotBroughtIn = errors.New("a line is refused")

// try carries out the lines on d and reports on each, with the records that they touched. All lines are carried out
// before they are checked together; only where something is wrong are they carried out one by one.
func (doc document) try(d *dossier.Dossier, o wire.ImportOptions) (wire.Import, []dossier.Ref) {
	one := d.Clone()
	out, touched, wrong := doc.carryOut(d, o, false)
	if !wrong && len(dossier.Check(d, changed(touched))) == 0 {
		return out, touched
	}
	carry(one, d, touched)
	out, touched, _ = doc.carryOut(d, o, true)
	return out, touched
}

// carryOut carries out the lines, each checked on its own if it is told so. It reports whether a line was refused.
func (doc document) carryOut(d *dossier.Dossier, o wire.ImportOptions, each bool) (out wire.Import, all []dossier.Ref, wrong bool) {
	out = wire.Import{Form: doc.form, Dry: o.Dry, Counts: map[string]int{}, Lines: []wire.ImportLine{}}
	var right *dossier.Dossier // d as the lines that are right have made it
	if each {
		right = d.Clone()
	}
	for _, st := range doc.steps {
		line := wire.ImportLine{Line: st.line, Label: st.label}
		var touched []dossier.Ref
		var err error
		line.Act, line.Detail, touched, err = st.apply(d)
		if each && err == nil {
			if faults := dossier.Check(d, changed(touched)); len(faults) > 0 {
				err = faults
			}
		}
		if err != nil {
			wrong = true
			line.Act, line.Detail = wire.LineRefused, whyRefused(err)
		}
		if each {
			if err != nil {
				carry(right, d, touched)
			}
			carry(d, right, touched)
		}
		all = append(all, touched...)
		out.Counts[line.Act]++
		out.Lines = append(out.Lines, line)
	}
	return out, all, wrong
}

// changed are entries for records that a line has touched.
func changed(touched []dossier.Ref) []dossier.Entry {
	entries := make([]dossier.Entry, len(touched))
	for n, ref := range touched {
		entries[n] = dossier.Entry{Act: dossier.Changed, Subject: ref}
	}
	return entries
}

// carry makes the records in to what they are in from; one that is not there is removed.
func carry(from, to *dossier.Dossier, records []dossier.Ref) {
	for _, ref := range records {
		k, r, ok := from.Record(ref)
		if !ok {
			dossier.RemoveRecord(to, ref)
			continue
		}
		p := reflect.New(k.Type)
		p.Elem().Set(reflect.ValueOf(r))
		k.In(to).PutAny(p.Interface())
	}
}

func whyRefused(err error) string {
	var faults dossier.Faults
	if !errors.As(err, &faults) {
		return err.Error()
	}
	var said []string
	for _, f := range faults {
		said = append(said, strings.TrimPrefix(f.Pointer, "/")+": "+wording.Fill(wording.Faults[string(f.Code)], f.Values))
	}
	return strings.Join(said, "; ")
}

// readDocument takes a text for what it looks like, or for what it is said to be.
func readDocument(d *dossier.Dossier, text string, o wire.ImportOptions, reader ImportReader) (document, error) {
	what := o.What
	if what == "" {
		what = guess(text)
	}
	switch what {
	case "contacts":
		return contactSteps(text)
	case "table":
		return tableSteps(d, text, o)
	case "":
		return document{}, errors.New("the kind of its lines cannot be recognised; say which it is")
	}
	i := slices.IndexFunc(dossier.Kinds, func(k *dossier.Kind) bool { return k.Plural == what || k.Name == what })
	if i < 0 || !dossier.Kinds[i].Allows(dossier.Add) {
		return document{}, fmt.Errorf("records called %q cannot be imported", what)
	}
	return csvSteps(d, dossier.Kinds[i], text, reader)
}

// guess says what a text looks like: contacts, a table, or the one kind of which all columns of
// its first line are members.
func guess(text string) string {
	if strings.HasPrefix(strings.ToUpper(strings.TrimSpace(text)), "BEGIN:VCARD") {
		return "contacts"
	}
	if _, form, _ := papers.ReadTable(text); form != "" {
		return "table"
	}
	var fits []string
	header, _, _ := strings.Cut(text, "\n")
	for _, k := range dossier.Kinds {
		if k.Allows(dossier.Add) && papers.Fits(k, header) {
			fits = append(fits, k.Plural)
		}
	}
	if len(fits) == 1 {
		return fits[0]
	}
	return ""
}

func csvSteps(d *dossier.Dossier, k *dossier.Kind, text string, reader ImportReader) (document, error) {
	rows, err := papers.ReadCSV(d, k, text)
	if err != nil {
		return document{}, err
	}
	doc := document{form: "CSV of " + k.Plural}
	for _, row := range rows {
		id := row.ID
		if id == "" {
			id = newID()
		}
		doc.steps = append(doc.steps, step{row.Line, rowLabel(d, k, row), func(d *dossier.Dossier) (string, string, []dossier.Ref, error) {
			if row.Err != nil {
				return "", "", nil, row.Err
			}
			return takeRow(d, k, row, id, reader)
		}})
	}
	return doc, nil
}

func rowLabel(d *dossier.Dossier, k *dossier.Kind, row papers.Row) string {
	if row.Exists {
		return d.FullLabel(dossier.Ref{Kind: k.Name, ID: row.ID})
	}
	return strings.Trim(string(row.Members["name"]), `"`)
}

// takeRow adds or changes the record of a line.
func takeRow(d *dossier.Dossier, k *dossier.Kind, row papers.Row, id string, reader ImportReader) (string, string, []dossier.Ref, error) {
	if row.Exists && len(row.Members) == 0 {
		return wire.LineSame, "", nil, nil
	}
	members := map[string]any{}
	for name, v := range row.Members {
		members[name] = v
	}
	verb, act := dossier.Add, wire.LineAdded
	var base dossier.Record
	if row.Exists {
		verb, act = dossier.Set, wire.LineChanged
		base, _ = k.In(d).Lookup(id)
	}
	c, err := reader(k, verb, base, members)
	if err != nil {
		return "", "", nil, err
	}
	dossier.SetID(c.Record, id)
	k.In(d).PutAny(c.Record)
	ref := dossier.Ref{Kind: k.Name, ID: id}
	var detail []string
	for _, f := range k.Fields {
		if _, sent := row.Members[f.Name]; sent && row.Exists {
			detail = append(detail, f.Title)
		}
	}
	return act, strings.Join(detail, ", "), []dossier.Ref{ref}, nil
}

func contactSteps(text string) (document, error) {
	contacts, err := papers.ReadVCard(text)
	if err != nil {
		return document{}, err
	}
	doc := document{form: "contacts"}
	for n, c := range contacts {
		doc.steps = append(doc.steps, step{n + 1, c.Name, func(d *dossier.Dossier) (string, string, []dossier.Ref, error) { return takeContact(d, c) }})
	}
	return doc, nil
}

// takeContact adds a contact, or completes the one of that name.
func takeContact(d *dossier.Dossier, c dossier.Contact) (string, string, []dossier.Ref, error) {
	h := d.Home()
	touched := []dossier.Ref{h.ID.Ref()}
	for i, old := range h.Contacts {
		if !strings.EqualFold(old.Name, c.Name) {
			continue
		}
		merged := dossier.Contact{Name: old.Name, Phone: cmp.Or(c.Phone, old.Phone), Email: cmp.Or(c.Email, old.Email), Note: cmp.Or(c.Note, old.Note)}
		if merged == old {
			return wire.LineSame, "", nil, nil
		}
		h.Contacts = slices.Clone(h.Contacts)
		h.Contacts[i] = merged
		d.Household.Put(h)
		return wire.LineChanged, "", touched, nil
	}
	h.Contacts = append(slices.Clone(h.Contacts), c)
	d.Household.Put(h)
	return wire.LineAdded, "", touched, nil
}

func tableSteps(d *dossier.Dossier, text string, o wire.ImportOptions) (document, error) {
	seen, form, err := papers.ReadTable(text)
	if err != nil {
		return document{}, err
	}
	var device dossier.ID[dossier.Device]
	if o.Device != "" {
		for _, v := range d.Devices {
			if string(v.ID) == o.Device || strings.EqualFold(v.Name, o.Device) {
				device = v.ID
			}
		}
		if device == "" {
			return document{}, fmt.Errorf("there is no device called %q", o.Device)
		}
	}
	doc := document{form: form}
	for n, one := range seen {
		t := taker{one, device, o.AddUnknown, newID(), newID()}
		doc.steps = append(doc.steps, step{n + 1, t.says(), t.take})
	}
	return doc, nil
}

// taker takes over what a table says of one adapter.
type taker struct {
	seen                  matching.Sighting
	own                   dossier.ID[dossier.Device] // whose adapters the table shows, if it is one's own
	addUnknown            bool
	newDevice, newAdapter string
}

func (t taker) says() string {
	return strings.TrimSpace(string(t.seen.HardwareAddress) + " " + t.seen.Name)
}

// adapterHow says by what an adapter was known, where that is less than its MAC address.
var adapterHow = map[matching.What]string{matching.SameAddress: "recognised by its address; ", matching.SameAdapterName: "recognised by its name; "}

// take writes what the table says into the adapter it speaks of, or adds one.
func (t taker) take(d *dossier.Dossier) (string, string, []dossier.Ref, error) {
	if i, by, found := matching.AdapterOf(d, t.seen, t.own); found {
		return t.update(d, i, adapterHow[by])
	}
	switch {
	case t.seen.Own && t.own != "":
		return t.add(d, t.own, cmp.Or(t.seen.Name, "adapter"))
	case t.seen.Own:
		return wire.LineUnknown, "say which device these adapters belong to", nil, nil
	case !t.addUnknown:
		return wire.LineUnknown, "no recorded device has it; seen at " + join(t.seen.Addresses), nil, nil
	}
	v := dossier.Device{Name: t.freeName(d)}
	v.ID = dossier.ID[dossier.Device](t.newDevice)
	d.Devices.Put(v)
	act, detail, touched, err := t.add(d, v.ID, "adapter")
	return act, "device " + v.Name + ", " + detail, append(touched, v.ID.Ref()), err
}

// freeName is the host name, or the end of the MAC address, with a number if it is taken.
func (t taker) freeName(d *dossier.Dossier) string {
	name := cmp.Or(t.seen.Name, "device "+string(t.seen.HardwareAddress[len(t.seen.HardwareAddress)-5:]))
	taken := func(name string) bool {
		return slices.ContainsFunc(d.Devices, func(v dossier.Device) bool { return strings.EqualFold(v.Name, name) })
	}
	for n := 2; taken(name); n++ {
		name = fmt.Sprintf("%s %d", strings.TrimSuffix(name, fmt.Sprintf(" %d", n-1)), n)
	}
	return name
}

func (t taker) add(d *dossier.Dossier, device dossier.ID[dossier.Device], name string) (string, string, []dossier.Ref, error) {
	i := dossier.Interface{Device: device, Name: name}
	i.ID = dossier.ID[dossier.Interface](t.newAdapter)
	t.seen.Fill(d, &i)
	d.Interfaces.Put(i)
	return wire.LineAdded, "adapter at " + join(i.Addresses), []dossier.Ref{i.ID.Ref()}, nil
}

func (t taker) update(d *dossier.Dossier, i dossier.Interface, how string) (string, string, []dossier.Ref, error) {
	old := i
	label := d.FullLabel(i.ID.Ref())
	t.seen.Fill(d, &i)
	var changed []string
	if i.HardwareAddress != old.HardwareAddress {
		changed = append(changed, "MAC address")
	}
	if !slices.Equal(i.Addresses, old.Addresses) {
		changed = append(changed, fmt.Sprintf("addresses changed from %s to %s", cmp.Or(join(old.Addresses), "none"), join(i.Addresses)))
	}
	if i.Segment != old.Segment {
		changed = append(changed, "segment "+d.Label(i.Segment.Ref()))
	}
	if i.AddressBy != old.AddressBy {
		changed = append(changed, "address from "+wording.Plain(string(i.AddressBy)))
	}
	if reflect.DeepEqual(i, old) {
		return wire.LineSame, label, nil, nil
	}
	d.Interfaces.Put(i)
	return wire.LineChanged, label + ": " + how + strings.Join(changed, ", "), []dossier.Ref{i.ID.Ref()}, nil
}

func join(addresses []netip.Addr) string {
	var out []string
	for _, a := range addresses {
		out = append(out, a.String())
	}
	return strings.Join(out, ", ")
}

// Export returns all records of a kind as CSV, or the contacts as vCard, with its media type.
func (s *Service) Export(ctx context.Context, a Actor, code, what string) ([]byte, string, error) {
	d, err := s.Home(ctx, a, "export-records", code)
	if err != nil {
		return nil, "", err
	}
	if what == "contacts" {
		b, err := papers.WriteVCard(d.Home().Contacts)
		return b, "text/vcard; charset=utf-8", err
	}
	i := slices.IndexFunc(dossier.Kinds, func(k *dossier.Kind) bool { return k.Plural == what })
	if i < 0 || !dossier.Kinds[i].Allows(dossier.Add) {
		return nil, "", refuse("no-such-kind", "kind", what)
	}
	b, err := papers.WriteCSV(d, dossier.Kinds[i])
	return b, "text/csv; charset=utf-8; header=present", err
}
