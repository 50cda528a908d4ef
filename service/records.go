package service

import (
	"context"
	"errors"
	"reflect"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// Change is what a general verb does to one record. Record is a pointer to the kind's struct
// with the whole record as it should be; Members names what the client sent, to hold it against
// the rules. IfRevision is the version the client started from; it is not asked on Add.
type Change struct {
	Kind       *dossier.Kind
	ID         string
	Record     any
	Members    []string
	IfRevision uint64
}

// Add adds a record of any kind that allows it, and returns it as stored.
func (s *Service) Add(ctx context.Context, a Actor, code string, c Change, r Request) (dossier.Record, *dossier.Dossier, error) {
	if err := c.Check(dossier.Add); err != nil {
		return nil, nil, err
	}
	if err := s.resolvePeople(ctx, c); err != nil {
		return nil, nil, err
	}
	return s.add(ctx, a, code, c, r)
}

// add puts a new record into the home, under a new id unless the change names one. A repeated
// request returns what the first one added.
func (s *Service) add(ctx context.Context, a Actor, code string, c Change, r Request) (dossier.Record, *dossier.Dossier, error) {
	if c.ID == "" {
		c.ID = newID()
	}
	w, err := s.write(ctx, a, "add-"+c.Kind.Name, code, "", r, func(d *dossier.Dossier) error {
		if d.Has(dossier.Ref{Kind: c.Kind.Name, ID: c.ID}) {
			return refuse("id-taken", "id", c.ID)
		}
		dossier.SetID(c.Record, c.ID)
		c.Kind.In(d).PutAny(c.Record)
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	if w.Repeated != (dossier.Ref{}) {
		c.ID = w.Repeated.ID
	}
	return c.stored(w.Dossier)
}

// Set changes a record. A Refusal record-changed carries what others wrote since IfRevision.
func (s *Service) Set(ctx context.Context, a Actor, code string, c Change, r Request) (dossier.Record, *dossier.Dossier, error) {
	if err := c.Check(dossier.Set); err != nil {
		return nil, nil, err
	}
	if err := s.resolvePeople(ctx, c); err != nil {
		return nil, nil, err
	}
	w, err := s.write(ctx, a, "set-"+c.Kind.Name, code, "", r, func(d *dossier.Dossier) error {
		if err := c.unchanged(d); err != nil {
			return err
		}
		c.Kind.In(d).PutAny(c.Record)
		return nil
	})
	if err != nil {
		return nil, nil, s.explain(ctx, code, c, err)
	}
	return c.stored(w.Dossier)
}

// stored is the record as it is now; a repeated request may come after its removal.
func (c Change) stored(d *dossier.Dossier) (dossier.Record, *dossier.Dossier, error) {
	r, ok := c.Kind.In(d).Lookup(c.ID)
	if !ok {
		return nil, nil, refuse("no-such-record", "kind", c.Kind.Name, "id", c.ID)
	}
	return r, d, nil
}

// Remove removes a record; what refers to it is settled as declared.
func (s *Service) Remove(ctx context.Context, a Actor, code string, c Change, r Request) error {
	if err := c.Check(dossier.Remove); err != nil {
		return err
	}
	_, err := s.write(ctx, a, "remove-"+c.Kind.Name, code, "", r, func(d *dossier.Dossier) error {
		if err := c.unchanged(d); err != nil {
			return err
		}
		dossier.RemoveRecord(d, dossier.Ref{Kind: c.Kind.Name, ID: c.ID})
		return nil
	})
	return s.explain(ctx, code, c, err)
}

// resolvePeople turns log-in names that a client may send for a person into ids, and refuses who
// is not of the firm.
func (s *Service) resolvePeople(ctx context.Context, c Change) error {
	record := reflect.ValueOf(c.Record).Elem().Interface().(dossier.Record)
	if !slices.ContainsFunc(c.Kind.Fields, func(f dossier.Field) bool { return namesPerson(f, record) != "" }) {
		return nil
	}
	people, err := s.staff(ctx)
	if err != nil {
		return err
	}
	return c.resolvePeople(people)
}

func (c Change) resolvePeople(people views.People) error {
	record := reflect.ValueOf(c.Record).Elem()
	for _, f := range c.Kind.Fields {
		who := namesPerson(f, record.Interface().(dossier.Record))
		if who == "" {
			continue
		}
		p, err := personNamed(people, string(who))
		if err != nil {
			return dossier.Faults{{Subject: dossier.Ref{Kind: c.Kind.Name, ID: c.ID}, Pointer: "/" + f.Name, Code: "unknown-person", Values: map[string]string{"name": string(who)}}}
		}
		f.In(record).Set(reflect.ValueOf(p.ID))
	}
	return nil
}

// namesPerson returns the person that a client named in a member, or "".
func namesPerson(f dossier.Field, r dossier.Record) dossier.PersonID {
	if f.Rule != dossier.Plain {
		return ""
	}
	who, _ := f.Get(r).(dossier.PersonID)
	return who
}

// Check holds verb and members against the registry's rules.
func (c Change) Check(v dossier.Verb) error {
	if !c.Kind.Allows(v) {
		return refuse("no-such-method")
	}
	var faults dossier.Faults
	for _, name := range c.Members {
		f, ok := c.Kind.Field(name)
		fault := dossier.Fault{Pointer: "/" + name}
		switch {
		case !ok:
			fault.Code = "unknown-member"
		case name == "id" && v == dossier.Add:
			continue
		case f.Rule == dossier.ByCase || f.Rule == dossier.Server:
			fault.Code = "not-yours"
		case f.Rule == dossier.Fixed && v == dossier.Set:
			fault.Code = "fixed"
		default:
			continue
		}
		faults = append(faults, fault)
	}
	if len(faults) > 0 {
		return faults
	}
	return nil
}

func (c Change) unchanged(d *dossier.Dossier) error {
	current, ok := c.Kind.In(d).Lookup(c.ID)
	if !ok {
		return refuse("no-such-record", "kind", c.Kind.Name, "id", c.ID)
	}
	if current.Changed() != c.IfRevision {
		return refuse("record-changed", "label", c.Kind.Label(d, current))
	}
	if c.Record == nil {
		return nil
	}
	// What a client may not set stays as it is, whatever was sent.
	next := reflect.Indirect(reflect.ValueOf(c.Record)).Interface().(dossier.Record)
	for _, f := range c.Kind.Fields {
		if f.Rule != dossier.Plain && f.Name != "revision" && !reflect.DeepEqual(f.Get(next), f.Get(current)) {
			return dossier.Faults{{Pointer: "/" + f.Name, Code: "not-yours"}}
		}
	}
	return nil
}

// explain adds to a refused change what others wrote meanwhile.
func (s *Service) explain(ctx context.Context, code string, c Change, err error) error {
	var r *Refusal
	if !errors.As(err, &r) || r.Code != "record-changed" {
		return err
	}
	home, herr := s.store.HomeByCode(ctx, code)
	if herr != nil {
		return err
	}
	entries, jerr := s.store.Journal(ctx, home, store.JournalQuery{After: c.IfRevision, Record: c.ID})
	people, perr := s.staff(ctx)
	if jerr != nil || perr != nil || len(entries) == 0 {
		r.Values["by"] = "somebody"
		return err
	}
	r.Changes = entries
	r.Values["by"] = people.Name(entries[len(entries)-1].By)
	return err
}

// Households lists the households that a query selects.
func (s *Service) Households(ctx context.Context, a Actor, q wire.HomesQuery) ([]wire.HouseholdRow, error) {
	if err := a.require("list-households", nil, nil); err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	words := strings.Fields(q.Words)
	sq := store.HomesQuery{Words: words, With: q.With, Sort: q.Sort, After: q.After, Limit: q.Limit, Today: a.Now}
	if q.Custodian != "" {
		p, err := personNamed(people, q.Custodian)
		if err != nil {
			return nil, err
		}
		sq.Custodian = p.ID
	}
	list, err := s.store.Homes(ctx, sq)
	if err != nil {
		return nil, err
	}
	found, err := s.store.Found(ctx, words, list)
	if err != nil {
		return nil, err
	}
	out := make([]wire.HouseholdRow, len(list))
	for i, h := range list {
		out[i] = rowOf(h, people)
		for _, f := range found[h.HouseholdID] {
			out[i].Found = append(out[i].Found, wire.FoundRecord{Named: wire.Named{Ref: wire.Ref{Kind: f.Kind, ID: f.Record}, Label: f.Label}, Text: f.Text})
		}
	}
	return out, nil
}

func rowOf(h store.Summary, people views.People) wire.HouseholdRow {
	row := h.Row()
	longTaskAt, _ := time.Parse(time.RFC3339, row.Text("longTaskAt")) // zero while none runs
	return wire.HouseholdRow{ID: wire.HomeID(h.HouseholdID), Code: h.Code, Name: h.Name, Custodian: people.Name(dossier.PersonID(h.Custodian)),
		Revision: h.Revision, ChangedAt: h.Changed(), Coverage: row.Coverage(), Blockers: row.Number("blockers"), OpenIssues: row.Number("openIssues"),
		OfferedTo: people.Name(dossier.PersonID(h.OfferedTo)), DueOn: dossier.Date(row.Text("dueOn")), LongTaskAt: longTaskAt, ReviewOn: dossier.Date(row.Text("reviewOn")), Values: row}
}

// Begin adds a household. Its custodian is the person who adds it, unless another is named; without a
// code it is given the next free one.
func (s *Service) Begin(ctx context.Context, a Actor, in wire.NewHousehold, r Request) (*dossier.Dossier, error) {
	if err := a.require("begin-household", nil, nil); err != nil {
		return nil, err
	}
	h, err := s.newHousehold(ctx, a, in)
	if err != nil {
		return nil, err
	}
	cause := store.Cause{Actor: a.ID, Key: r.Key, RequestHash: r.Hash}
	if before, again, err := s.store.BegunWith(ctx, cause); again || err != nil {
		if errors.Is(err, store.ErrKeyReused) {
			return nil, refuse("key-reused")
		}
		if err != nil {
			return nil, err
		}
		return s.store.Load(ctx, before)
	}
	w, err := s.store.Create(ctx, h, cause)
	if errors.Is(err, store.ErrTaken) {
		return s.begunBefore(ctx, in.Code, cause)
	}
	s.tellOf(w, a)
	return w.Dossier, err
}

// newHousehold is the record of a home that is begun.
func (s *Service) newHousehold(ctx context.Context, a Actor, in wire.NewHousehold) (dossier.Household, error) {
	people, err := s.staff(ctx)
	if err != nil {
		return dossier.Household{}, err
	}
	if in.Custodian == "" {
		in.Custodian = string(a.ID)
	}
	custodian, err := receiver(people, in.Custodian)
	h := dossier.Household{Code: in.Code, Name: in.Name, Address: in.Address, Contacts: in.Contacts, AccessNotes: in.AccessNotes, Custodian: custodian.ID}
	h.ID = in.ID
	if h.ID == "" {
		h.ID = wire.HomeID(newID())
	}
	return h, err
}

// begunBefore answers a repeated request with the household that the first one began.
func (s *Service) begunBefore(ctx context.Context, code string, cause store.Cause) (*dossier.Dossier, error) {
	home, err := s.store.HomeByCode(ctx, code)
	if err == nil {
		w, err := s.store.Write(ctx, home, cause, func(*dossier.Dossier) error { return nil })
		if err == nil && w.Repeated.Kind == "household" {
			return w.Dossier, nil
		}
	}
	return nil, refuse("code-taken", "code", code)
}

// Assign makes someone custodian without a handover, for a reason.
func (s *Service) Assign(ctx context.Context, a Actor, code string, in wire.Assign, r Request) error {
	people, err := s.staff(ctx)
	if err != nil {
		return err
	}
	to, err := receiver(people, in.To)
	if err != nil {
		return err
	}
	_, err = s.write(ctx, a, "assign-household", code, in.Why, r, func(d *dossier.Dossier) error {
		if d.Home().Custodian == to.ID {
			return refuse("same-person", "name", to.Name)
		}
		d.Household[0].Custodian = to.ID
		return nil
	})
	return err
}

// Kinds describes all kinds for forms and commands.
func (s *Service) Kinds(_ context.Context, a Actor) ([]wire.Kind, error) {
	if err := a.require("list-kinds", nil, nil); err != nil {
		return nil, err
	}
	out := make([]wire.Kind, len(dossier.Kinds))
	for i, k := range dossier.Kinds {
		out[i] = wire.KindOf(k)
	}
	return out, nil
}
