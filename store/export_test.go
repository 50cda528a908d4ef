package store

import (
	"context"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"kaiku/core/dossier"

	"github.com/pressly/goose/v3"
	"gorm.io/gorm"
)

// Forget drops a household from the cache.
func (s *Store) Forget(home homeID) {
	s.cache.mu.Lock()
	defer s.cache.mu.Unlock()
	if e := s.cache.byID[home]; e != nil {
		s.cache.drop(e)
	}
}

// Columns lists the columns of a table.
func (s *Store) Columns(ctx context.Context, table string) ([]string, error) {
	var out []string
	err := s.reader.WithContext(ctx).Raw("SELECT name FROM pragma_table_info(?)", table).Scan(&out).Error
	return out, err
}

// Exec runs a statement on the writing connection.
func (s *Store) Exec(ctx context.Context, statement string) error {
	return s.writer.WithContext(ctx).Exec(statement).Error
}

// Shrink bounds the cache to a size.
func (s *Store) Shrink(limit int) { s.cache.limit = limit }

// MadeUpTo makes the database of a folder as an older program has left it, and returns the version of the newest schema.
func MadeUpTo(ctx context.Context, dir string, before int64) (newest int64, err error) {
	db, err := openSQL(filepath.Join(dir, FileName), nil)
	if err != nil {
		return 0, err
	}
	defer db.Close()
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return 0, err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, steps)
	if err != nil {
		return 0, err
	}
	_, err = p.UpTo(ctx, newestSchema()-before)
	return newestSchema(), err
}

// SizeOf is what a dossier counts for in the cache.
func SizeOf(d *dossier.Dossier) int { return sizeOf(d) }

// IsCached says whether the dossier of a home is in the cache, and leaves the order of the cache as it is.
func (s *Store) IsCached(home homeID) bool { return s.cache.byID[home] != nil }

// Cached is the number of dossiers in the cache.
func (s *Store) Cached() int { return s.cache.order.Len() }

// CheckIntegrity reads the whole database through.
func (s *Store) CheckIntegrity(ctx context.Context) error {
	db, err := s.writer.DB()
	if err != nil {
		return err
	}
	_, err = examine(ctx, db)
	return err
}

// IndexText is all that can be found, sorted.
func (s *Store) IndexText(ctx context.Context) (out []string, err error) {
	err = s.reader.WithContext(ctx).Raw(`SELECT f.household_id || ' ' || f.kind || ' ' || f.record || ' ' || f.label || ' ' || t.words || ' ' || t.keys
		FROM findable f JOIN findable_text t ON t.rowid = f.id ORDER BY 1`).Scan(&out).Error
	return out, err
}

// IndexAnew makes the index as after a change of how records are indexed.
func (s *Store) IndexAnew(ctx context.Context) error {
	if err := s.Exec(ctx, "DELETE FROM remembered"); err != nil {
		return err
	}
	return s.keepIndexed(ctx)
}

// Unpack reads a backup into a folder, as a restore does before it checks the database.
func Unpack(ctx context.Context, from io.Reader, work string) (Manifest, error) {
	return unpack(ctx, from, work, func(int64, int64) {})
}

// Pragma returns a setting of the connection that writes.
func (s *Store) Pragma(name string) (value string, err error) {
	err = s.writer.Raw("PRAGMA " + name).Scan(&value).Error
	return value, err
}

// Synced calls back with every file and folder that is put on the disk, until the returned function is called.
func Synced(tell func(name string)) func() {
	syncFile = func(f *os.File) error {
		tell(f.Name())
		return f.Sync()
	}
	return func() { syncFile = (*os.File).Sync }
}

// Reader reads the database without a door.
func (s *Store) Reader() *gorm.DB { return s.reader }

// WhileCopying calls f each time that pages of a backup were copied, until the returned function is called.
func WhileCopying(f func()) (stop func()) {
	copied = f
	return func() { copied = func() {} }
}

// Remember puts a dossier into the cache, and CachedRevision is that of the one that is there.
func (s *Store) Remember(home homeID, d *dossier.Dossier) { s.remember(home, d) }

// CachedRevision is the revision of the cached dossier of a home.
func (s *Store) CachedRevision(home homeID) uint64 { return s.cache.get(home).value.Revision }
