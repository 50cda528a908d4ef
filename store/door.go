package store

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"kaiku/core/dossier"
)

// Cause is who writes and why. Key is the client's idempotency key, RequestHash what it was used
// for; both are "" when there is none.
type Cause struct {
	Actor       dossier.PersonID
	Why         string
	Key         string
	RequestHash string
	DoneAt      time.Time // when it was done, if it comes to be written later
	// Answer gives what the request is answered with, where that cannot be told from what was written;
	// a repeated request is then answered in the same way. It is asked for when the change is made.
	Answer func() ([]byte, error)
}

// Written is what a write came to. Entries is empty when nothing differed. Repeated names the
// record that the first request with the same key made; nothing was written then.
type Written struct {
	Dossier  *dossier.Dossier
	Entries  []dossier.Entry
	Repeated dossier.Ref
	Answer   []byte // of the first request with the same key, if one was kept
}

// Write is the door: it gives change a private copy of the dossier, checks what changed, and
// stores rows, journal, revision, key and summary in one transaction. An error of change, or
// faults of the result (dossier.Faults), leave everything as it was. Inside change there is no
// I/O and no second Write: it holds the one write lock of the store.
func (s *Store) Write(ctx context.Context, home homeID, cause Cause, change func(*dossier.Dossier) error) (Written, error) {
	return s.write(ctx, home, cause, s.currentOf(home), change, nil)
}

// Erase overwrites the personal data of a household in its records, its journal and the search
// index, in one write that also carries out change; what is deleted is overwritten on the disk.
// The entries stay, and say who erased and why.
func (s *Store) Erase(ctx context.Context, home homeID, cause Cause, change func(*dossier.Dossier) error) (Written, error) {
	w, err := s.write(ctx, home, cause, s.currentOf(home), func(d *dossier.Dossier) error {
		dossier.Erase(d)
		return change(d)
	}, func(tx *gorm.DB) error { return errors.Join(eraseJournal(tx, home), forgetScans(tx, home)) })
	if err != nil {
		return w, err
	}
	// The log of the database still holds the pages as they were.
	return w, s.writer.WithContext(ctx).Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error
}

func (s *Store) currentOf(home homeID) func(*gorm.DB) (*dossier.Dossier, error) {
	return func(tx *gorm.DB) (*dossier.Dossier, error) { return s.current(tx, home) }
}

// Create is the door's second entrance: it begins the dossier of a new household. ErrTaken when
// its code or id exists already.
func (s *Store) Create(ctx context.Context, h dossier.Household, cause Cause) (Written, error) {
	return s.CreateWith(ctx, h, cause, func(*dossier.Dossier) error { return nil })
}

// CreateWith begins a household and fills it in the same write. A household without a code is given the
// next one that is free.
func (s *Store) CreateWith(ctx context.Context, h dossier.Household, cause Cause, fill func(*dossier.Dossier) error) (Written, error) {
	empty := func(tx *gorm.DB) (*dossier.Dossier, error) {
		_, err := revisionOf(tx, h.ID)
		switch {
		case err == nil:
			return nil, fmt.Errorf("%w: household %s", ErrTaken, h.ID)
		case !errors.Is(err, ErrNotFound):
			return nil, err
		}
		if h.Code != "" {
			return &dossier.Dossier{}, nil
		}
		h.Code, err = nextCode(tx)
		return &dossier.Dossier{}, err
	}
	return s.write(ctx, h.ID, cause, empty, func(d *dossier.Dossier) error {
		h.Household = h.ID
		d.Household.Put(h)
		return fill(d)
	}, nil)
}

// nextCode is the code after the greatest there is.
func nextCode(tx *gorm.DB) (string, error) {
	var last int
	err := tx.Raw("SELECT coalesce(max(CAST(substr(code, 3) AS INTEGER)), 0) FROM household").Scan(&last).Error
	return fmt.Sprintf("H-%04d", last+1), err
}

func (s *Store) write(ctx context.Context, home homeID, cause Cause, load func(*gorm.DB) (*dossier.Dossier, error), change func(*dossier.Dossier) error, after func(*gorm.DB) error) (Written, error) {
	var w Written
	err := s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var err error
		if w.Repeated, w.Answer, err = s.repeated(tx, home, cause); err != nil {
			return err
		}
		old, err := load(tx)
		if err != nil {
			return err
		}
		if w.Repeated != (dossier.Ref{}) {
			w.Dossier = old
			return nil
		}
		next := old.Clone()
		if err := change(next); err != nil {
			return err
		}
		w.Dossier = next
		if w.Entries, err = s.settle(tx, old, next, cause); err != nil || after == nil {
			return err
		}
		return after(tx)
	})
	if err != nil {
		return Written{}, asStoreError(err)
	}
	if len(w.Entries) > 0 {
		s.remember(home, w.Dossier)
		// The write is done: a row that cannot be computed now is computed when the store is next opened.
		if err := s.Summarise(context.WithoutCancel(ctx), w.Dossier); err != nil {
			s.log.WarnContext(ctx, "the row in the lists of households is not current", "household", home, "err", err)
		}
	}
	return w, nil
}

// settle carries removals through, seals the difference, checks it and stores it.
func (s *Store) settle(tx *gorm.DB, old, next *dossier.Dossier, cause Cause) ([]dossier.Entry, error) {
	if faults := dossier.Settle(old, next); len(faults) > 0 {
		return nil, faults
	}
	entries, err := dossier.Seal(old, next, dossier.Cause{Actor: cause.Actor, At: s.now(), Why: cause.Why, DoneAt: cause.DoneAt})
	if err != nil {
		return nil, err
	}
	if faults := dossier.Check(next, entries); len(faults) > 0 {
		return nil, faults
	}
	if len(entries) == 0 {
		return nil, nil
	}
	home := next.Home().ID
	if err := saveRows(tx, next, entries); err != nil {
		return nil, err
	}
	if err := saveJournal(tx, home, entries); err != nil {
		return nil, err
	}
	if err := index(tx, old, next, entries); err != nil {
		return nil, err
	}
	if err := s.saveRequest(tx, home, cause, entries); err != nil {
		return nil, err
	}
	return entries, saveSummary(tx, next, entries[0].At)
}

// current returns the stored dossier, from the cache only if its revision is still the stored
// one: another process may have written.
func (s *Store) current(tx *gorm.DB, home homeID) (*dossier.Dossier, error) {
	revision, err := revisionOf(tx, home)
	if err != nil {
		return nil, err
	}
	if c := s.cache.get(home); c != nil && c.value.Revision == revision {
		if c.witness != nil && !reflect.DeepEqual(c.value, c.witness) {
			panic("a reader changed the dossier of " + string(home))
		}
		return c.value, nil
	}
	d, err := load(tx, home)
	if err != nil {
		return nil, err
	}
	d.Revision = revision
	return d, nil
}

func (s *Store) remember(home homeID, d *dossier.Dossier) {
	c := &cached{home: home, value: d}
	if s.guard {
		c.witness = d.Clone()
	}
	s.cache.put(c)
}

// Load returns the dossier of a household. It is shared with other readers and must not be
// changed. ErrNotFound when there is no such household.
func (s *Store) Load(ctx context.Context, home homeID) (*dossier.Dossier, error) {
	var d *dossier.Dossier
	err := s.reader.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var err error
		d, err = s.current(tx, home)
		return err
	})
	if err != nil {
		return nil, asStoreError(err)
	}
	if c := s.cache.get(home); c == nil || c.value != d {
		s.remember(home, d)
	}
	return d, nil
}

func revisionOf(tx *gorm.DB, home homeID) (uint64, error) {
	var found []uint64
	if err := tx.Table("summaries").Where("household_id = ?", home).Pluck("revision", &found).Error; err != nil {
		return 0, err
	}
	if len(found) == 0 {
		return 0, ErrNotFound
	}
	return found[0], nil
}

func load(tx *gorm.DB, home homeID) (*dossier.Dossier, error) {
	d := &dossier.Dossier{}
	for _, k := range dossier.Kinds {
		list := reflect.New(reflect.SliceOf(k.Type)).Interface()
		if err := tx.Table(k.Table()).Where("household_id = ?", home).Order("id").Find(list).Error; err != nil {
			return nil, fmt.Errorf("load %s: %w", k.Plural, err)
		}
		k.In(d).Fill(list)
	}
	return d, nil
}

func saveRows(tx *gorm.DB, next *dossier.Dossier, entries []dossier.Entry) error {
	for _, e := range entries {
		k := dossier.KindNamed(e.Subject.Kind)
		if e.Act == dossier.Removed {
			if err := tx.Table(k.Table()).Where("id = ?", e.Subject.ID).Delete(reflect.New(k.Type).Interface()).Error; err != nil {
				return fmt.Errorf("remove %s: %w", e.Subject, err)
			}
			continue
		}
		r, _ := k.In(next).Lookup(e.Subject.ID)
		row := reflect.New(k.Type)
		row.Elem().Set(reflect.ValueOf(r))
		t := tx.Table(k.Table())
		if e.Act == dossier.Changed {
			t = t.Clauses(clause.OnConflict{UpdateAll: true})
		}
		if err := t.Create(row.Interface()).Error; err != nil {
			var home []string
			if errors.Is(asStoreError(err), ErrTaken) && tx.Raw("SELECT s.code FROM summaries s JOIN "+k.Table()+" r ON r.household_id = s.household_id WHERE r.id = ?", e.Subject.ID).Scan(&home).Error == nil && len(home) == 1 {
				return &Taken{e.Subject, home[0]}
			}
			return fmt.Errorf("store %s: %w", e.Subject, err)
		}
	}
	return nil
}

// repeated returns the record that an earlier request with this key made.
func (s *Store) repeated(tx *gorm.DB, home homeID, cause Cause) (dossier.Ref, []byte, error) {
	if cause.Key == "" {
		return dossier.Ref{}, nil, nil
	}
	var found []request
	if err := tx.Table("requests").Where("household_id = ? AND actor = ? AND key = ?", home, cause.Actor, cause.Key).Find(&found).Error; err != nil {
		return dossier.Ref{}, nil, err
	}
	if len(found) == 0 {
		return dossier.Ref{}, nil, nil
	}
	if found[0].Hash != s.keyed(cause.RequestHash) {
		return dossier.Ref{}, nil, ErrKeyReused
	}
	return dossier.Ref{Kind: found[0].Kind, ID: found[0].Record}, []byte(found[0].Answer), nil
}

// BegunWith returns the household that an earlier request with the cause's key began, if there was one.
func (s *Store) BegunWith(ctx context.Context, cause Cause) (homeID, bool, error) {
	var found []request
	if cause.Key == "" {
		return "", false, nil
	}
	if err := s.reader.WithContext(ctx).Table("requests").Where("actor = ? AND key = ? AND kind = 'household'", cause.Actor, cause.Key).Find(&found).Error; err != nil || len(found) == 0 {
		return "", false, err
	}
	if found[0].Hash != s.keyed(cause.RequestHash) {
		return "", false, ErrKeyReused
	}
	return homeID(found[0].HouseholdID), true, nil
}

type request struct {
	HouseholdID, Actor, Key, Hash, Kind, Record, At, Answer string
}

// saveRequest keeps the key with the first record the write added or changed, for a week.
func (s *Store) saveRequest(tx *gorm.DB, home homeID, cause Cause, entries []dossier.Entry) error {
	if cause.Key == "" {
		return nil
	}
	subject := entries[0].Subject
	for _, e := range entries {
		if e.Act == dossier.Added {
			subject = e.Subject
			break
		}
	}
	var answer []byte
	if cause.Answer != nil {
		var err error
		if answer, err = cause.Answer(); err != nil {
			return fmt.Errorf("write the answer: %w", err)
		}
	}
	old := s.now().UTC().Add(-7 * 24 * time.Hour).Format(timeLayout)
	if err := tx.Exec("DELETE FROM requests WHERE at < ?", old).Error; err != nil {
		return err
	}
	return tx.Table("requests").Create(&request{string(home), string(cause.Actor), cause.Key, s.keyed(cause.RequestHash),
		subject.Kind, subject.ID, s.now().UTC().Format(timeLayout), string(answer)}).Error
}
