package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"time"

	"kaiku/core/dossier"
)

// Checked is what a data folder holds, and what is wrong with it.
type Checked struct {
	Homes, Records, Entries, Bodies, Secrets int

	Wrong []Wrong
}

// Wrong is one thing that is not right. Code is one of the constants below; Home is the code of a household, and
// Label what people call the record, where it is about one.
type Wrong struct {
	Code, Home, Label, Detail string
}

// What can be wrong with a data folder.
const (
	WrongDatabase    = "database"     // SQLite finds it damaged; nothing else was looked at
	WrongJournal     = "journal"      // the rows are not what the journal leads to
	WrongBody        = "body"         // the file of an attachment does not match its checksum
	WrongBodyMissing = "body-missing" // the file of an attachment is not there
	WrongKey         = "key"          // there are secrets, and no key
	WrongSecret      = "secret"       // the key does not open a secret
	WrongMode        = "mode"         // others on the machine can read it
)

// Check reads the whole data folder through, while a service may be running on it, and changes nothing: the
// database, the rows of every household against its journal, every body of an attachment, and every secret with
// the key. An error means that it could not be read at all.
func Check(ctx context.Context, dir string, tell Tell) (out Checked, err error) {
	file := filepath.Join(dir, FileName)
	if err := There(dir); err != nil {
		return out, err
	}
	if err := out.modes(dir); err != nil { // before SQLite makes files beside its own
		return out, err
	}
	beside := besideDatabase(dir)
	defer func() { err = errors.Join(err, tidy(dir, beside)) }()
	plain, err := openPlain(file, "query_only(1)")
	if err != nil {
		return out, err
	}
	_, err = examine(ctx, plain)
	if err = errors.Join(err, plain.Close()); errors.Is(Trouble(err), ErrDamaged) {
		out.Wrong = append(out.Wrong, Wrong{Code: WrongDatabase, Detail: err.Error()})
		return out, nil
	}
	if err != nil {
		return out, err
	}
	s := &Store{cache: newCache(0), log: slog.New(slog.DiscardHandler), now: time.Now, dir: dir}
	if s.reader, err = connect(file, s.log, true); err != nil {
		return out, err
	}
	defer func() {
		db, closeErr := s.reader.DB()
		if closeErr == nil {
			closeErr = db.Close()
		}
		err = errors.Join(err, closeErr)
	}()
	var homes []Summary
	if err := s.reader.WithContext(ctx).Table("summaries").Order("code").Find(&homes).Error; err != nil {
		return out, err
	}
	if err := out.secrets(ctx, s, homes); err != nil {
		return out, err
	}
	for n, h := range homes {
		if err := out.home(ctx, s, h); err != nil {
			return out, fmt.Errorf("%s: %w", h.Code, err)
		}
		tell(int64(n+1), int64(len(homes)))
	}
	return out, nil
}

// besideDatabase lists the files that SQLite keeps beside a database while it is open, as far as they are there.
func besideDatabase(dir string) (out []string) {
	for _, name := range []string{FileName + "-wal", FileName + "-shm"} {
		if _, err := os.Stat(filepath.Join(dir, name)); err == nil {
			out = append(out, name)
		}
	}
	return out
}

// tidy removes what reading has left beside the database and was not there before: SQLite does not where it may only read. Where a
// service has the folder, the files are its own.
func tidy(dir string, before []string) error {
	file := filepath.Join(dir, lockName)
	if _, err := os.Stat(file); err != nil {
		return nil // a folder that no service has had yet gets no lock from reading it
	}
	lock, err := lockFile(file)
	if errors.Is(err, ErrInUse) {
		return nil
	}
	if err != nil {
		return err
	}
	defer func() { _ = lock.Close() }()
	for _, name := range besideDatabase(dir) {
		info, err := os.Stat(filepath.Join(dir, name))
		written := err == nil && name == FileName+"-wal" && info.Size() > 0
		if err == nil && !written && !slices.Contains(before, name) {
			err = os.Remove(filepath.Join(dir, name))
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// modes looks whether others on the machine can read what only Kaiku is to read.
func (c *Checked) modes(dir string) error {
	for _, name := range []string{FileName, FileName + "-wal", FileName + "-shm", KeyName} {
		info, err := os.Stat(filepath.Join(dir, name))
		switch {
		case errors.Is(err, fs.ErrNotExist):
		case err != nil:
			return err
		case info.Mode().Perm()&0o077 != 0:
			c.Wrong = append(c.Wrong, Wrong{Code: WrongMode, Detail: fmt.Sprintf("%s (%o)", name, info.Mode().Perm())})
		}
	}
	return nil
}

// secrets opens every secret with the key of the folder.
func (c *Checked) secrets(ctx context.Context, s *Store, homes []Summary) error {
	var all []struct{ HouseholdID, Name, SealedAs string }
	if err := s.reader.WithContext(ctx).Table("secrets").Select("household_id, name, sealed_as").Find(&all).Error; err != nil {
		return err
	}
	var people []Person
	if err := s.reader.WithContext(ctx).Table("people").Where("second_factor IS NOT NULL").Order("name").Find(&people).Error; err != nil {
		return err
	}
	c.Secrets = len(all) + len(people)
	if c.Secrets == 0 {
		return nil
	}
	if _, err := os.Stat(filepath.Join(s.dir, KeyName)); errors.Is(err, fs.ErrNotExist) {
		c.Wrong = append(c.Wrong, Wrong{Code: WrongKey, Detail: KeyName})
		return nil
	}
	var err error
	if s.key, err = loadKey(s.dir); err != nil {
		c.Wrong = append(c.Wrong, Wrong{Code: WrongKey, Detail: err.Error()})
		return nil
	}
	codes := map[string]string{}
	for _, h := range homes {
		codes[h.HouseholdID] = h.Code
	}
	for _, p := range people {
		if _, err := s.OpenFor(SecondFactorOf(p.ID), p.SecondFactor); err != nil {
			c.Wrong = append(c.Wrong, Wrong{Code: WrongSecret, Label: "second factor of " + p.Name})
		}
	}
	for _, one := range all {
		_, err := s.Unseal(ctx, one.SealedAs)
		if errors.Is(err, ErrKey) || errors.Is(err, ErrNotFound) {
			c.Wrong = append(c.Wrong, Wrong{Code: WrongSecret, Home: codes[one.HouseholdID], Label: one.Name})
		} else if err != nil {
			return err
		}
	}
	return nil
}

// home holds the rows of a household against its journal, in one state of the database, and reads the files of
// its attachments.
func (c *Checked) home(ctx context.Context, s *Store, h Summary) error {
	home := homeID(h.HouseholdID)
	d, err := s.Load(ctx, home)
	if err != nil && ctx.Err() == nil {
		c.Wrong = append(c.Wrong, Wrong{Code: WrongDatabase, Home: h.Code, Detail: err.Error()})
		return nil
	}
	if err != nil {
		return err
	}
	entries, err := s.Journal(ctx, home, JournalQuery{Before: d.Revision + 1})
	if err != nil {
		return err
	}
	c.Homes++
	c.Entries += len(entries)
	replayed := &dossier.Dossier{}
	if err := dossier.Apply(replayed, entries); err != nil {
		c.Wrong = append(c.Wrong, Wrong{Code: WrongJournal, Home: h.Code, Detail: err.Error()})
	}
	for _, k := range dossier.Kinds {
		is, was := k.In(d), k.In(replayed)
		c.Records += is.Len()
		for i := range is.Len() {
			r := is.At(i)
			if old, there := was.Lookup(r.Key()); !there || !reflect.DeepEqual(old, r) {
				c.Wrong = append(c.Wrong, Wrong{Code: WrongJournal, Home: h.Code, Label: k.Noun() + " " + k.Label(d, r)})
			}
		}
		for i := range was.Len() {
			if r := was.At(i); !d.Has(dossier.Ref{Kind: k.Name, ID: r.Key()}) {
				c.Wrong = append(c.Wrong, Wrong{Code: WrongJournal, Home: h.Code, Label: k.Noun() + " " + k.Label(replayed, r), Detail: "its row is missing"})
			}
		}
	}
	for _, a := range d.Attachments {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		c.Bodies++
		switch _, err := s.Body(a.SHA256); {
		case errors.Is(err, ErrNotFound):
			c.Wrong = append(c.Wrong, Wrong{Code: WrongBodyMissing, Home: h.Code, Label: a.Caption, Detail: a.SHA256})
		case errors.Is(err, ErrBodyDamaged):
			c.Wrong = append(c.Wrong, Wrong{Code: WrongBody, Home: h.Code, Label: a.Caption, Detail: a.SHA256})
		case err != nil:
			return err
		}
	}
	return nil
}
