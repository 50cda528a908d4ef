// Package store keeps dossiers, people and sessions in one SQLite file.
//
// Household data is written through the door alone (Write and Create): it stores changed rows,
// journal entries, the revision, the idempotency key and the household's summary together. One
// connection writes, several read.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"sync/atomic"
	"time"

	"github.com/pressly/goose/v3"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	sqlite3 "modernc.org/sqlite"
	sqlite3lib "modernc.org/sqlite/lib"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

//go:embed migrations/*.sql
var migrations embed.FS

// FileName is the database's name in the data folder.
const FileName = "kaiku.db"

// Errors of the store. Everything else is a fault of the machine.
var (
	ErrNotFound  = errors.New("not found")
	ErrTaken     = errors.New("already taken")
	ErrKeyReused = errors.New("idempotency key was used for another request")
)

// Store is one open data folder. Close it when done.
type Store struct {
	writer, reader *gorm.DB
	cache          *cache
	log            *slog.Logger
	now            func() time.Time
	guard          bool
	dir            string
	key            *sealingKey
	lock           io.Closer
	summariser     atomic.Pointer[Summariser]
	known          atomic.Pointer[knowledge.Knowledge] // the firm's, as last read
	sessions       sessionSignal
	damaged        damaged
}

// Options change how a store is opened. The zero value is right for production.
type Options struct {
	Log *slog.Logger     // where slow queries and faults go; nil discards
	Now func() time.Time // the clock; nil is time.Now
	// Guard keeps a second copy of each cached dossier and fails the next write if a reader
	// has changed the first. For tests.
	Guard bool
}

// Open opens or makes the database in the folder dir, and brings its schema up to date; before
// a migration of an existing file a copy of it is kept beside it. Until it is closed, no other
// store opens on the folder. Trouble says what can be wrong with the folder.
func Open(ctx context.Context, dir string, o Options) (*Store, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if o.Now == nil {
		o.Now = time.Now
	}
	lock, err := claim(dir)
	if err != nil {
		return nil, err
	}
	file := filepath.Join(dir, FileName)
	if err := keepPrivate(file); err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	s := &Store{cache: newCache(64 << 20), log: o.Log, now: o.Now, guard: o.Guard, dir: dir, lock: lock}
	own := Summariser(s.ownSummary)
	s.summariser.Store(&own)
	if s.writer, err = connect(file, o.Log, false); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if s.key, err = loadKey(dir); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if err := s.migrate(ctx, file); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if err := s.keepIndexed(ctx); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if s.reader, err = connect(file, o.Log, true); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if err := s.moveToRegister(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("move what servers know of devices: %w", err), s.Close())
	}
	if err := s.summariseAll(ctx); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// keepPrivate makes the database's file, if it is not there, so that nobody else on the machine can read it; SQLite
// gives the same rights to the files beside it.
func keepPrivate(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	for _, name := range []string{file, file + "-wal", file + "-shm"} {
		if err := os.Chmod(name, 0o600); err != nil && !errors.Is(err, fs.ErrNotExist) && !errors.Is(err, fs.ErrPermission) { // another's file is told by kaiku check
			return err
		}
	}
	return nil
}

// Close ends all connections.
func (s *Store) Close() error {
	var all error
	for _, g := range []*gorm.DB{s.reader, s.writer} {
		if g == nil {
			continue
		}
		db, err := g.DB()
		if err == nil {
			err = db.Close()
		}
		all = errors.Join(all, err)
	}
	return errors.Join(all, s.lock.Close())
}

// pinged is how much a trial of the disk writes: about what a write of a home takes.
const pinged = 64 << 10

// Ping reports whether the database answers, and whether the folder can still be written: a disk that fails often
// turns read-only, and one that is full takes nothing more.
func (s *Store) Ping(ctx context.Context) error {
	if err := s.reader.WithContext(ctx).Exec("SELECT 1").Error; err != nil {
		return err
	}
	f, err := os.CreateTemp(s.dir, ".ready-*")
	if err != nil {
		return err
	}
	_, err = f.Write(make([]byte, pinged))
	return errors.Join(err, f.Close(), os.Remove(f.Name()))
}

// openSQL opens a file whose name may hold anything, with settings of the driver.
func openSQL(file string, q url.Values) (*sql.DB, error) {
	return sql.Open("sqlite", "file:"+(&url.URL{Path: file}).EscapedPath()+"?"+q.Encode())
}

// whileAsked passes log records on, except those of a query that was cancelled because its caller has gone: that is
// not an error.
type whileAsked struct{ slog.Handler }

// Handle passes the record on if its query is still wanted.
func (h whileAsked) Handle(ctx context.Context, r slog.Record) error {
	if ctx.Err() != nil {
		return nil
	}
	return h.Handler.Handle(ctx, r)
}

func connect(file string, log *slog.Logger, readOnly bool) (*gorm.DB, error) {
	q := url.Values{"_pragma": {"busy_timeout(5000)", "foreign_keys(1)", "journal_mode(WAL)", "synchronous(FULL)", "secure_delete(1)"}, "_txlock": {"immediate"}}
	if readOnly {
		q = url.Values{"mode": {"ro"}, "_pragma": {"busy_timeout(5000)", "query_only(1)"}}
	}
	db, err := openSQL(file, q)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	db.SetMaxOpenConns(1)
	if readOnly {
		db.SetMaxOpenConns(4)
		db.SetMaxIdleConns(4)
	}
	if err := db.Ping(); err != nil {
		return nil, errors.Join(fmt.Errorf("open %s: %w", file, err), db.Close())
	}
	return gorm.Open(dialect{db}, &gorm.Config{
		// No PrepareStmt: inside a transaction GORM prepares each statement again all the same.
		SkipDefaultTransaction: true,
		Logger: logger.NewSlogLogger(slog.New(whileAsked{log.Handler()}), logger.Config{SlowThreshold: time.Second, LogLevel: logger.Warn,
			IgnoreRecordNotFoundError: true, ParameterizedQueries: true}),
	})
}

func (s *Store) migrate(ctx context.Context, file string) error {
	db, err := s.writer.DB()
	if err != nil {
		return err
	}
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, steps)
	if err != nil {
		return fmt.Errorf("read migrations: %w", err)
	}
	if err := recognise(ctx, db); err != nil {
		return err
	}
	has, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("read schema version of %s: %w", file, err)
	}
	newest := newestSchema()
	switch {
	case has > newest:
		return newerSchema(has, newest)
	case has == newest:
		return nil
	case has > 0:
		if err := s.keepBefore(ctx, fmt.Sprintf("%s.before-schema-%d", file, newest)); err != nil {
			return fmt.Errorf("copy the database before the migration: %w", err)
		}
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("migrate %s: %w", file, err)
	}
	return nil
}

// keepBefore copies the database as it is before a migration. A copy of an earlier attempt stays; half of one goes.
func (s *Store) keepBefore(ctx context.Context, kept string) error {
	part := kept + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := s.writer.WithContext(ctx).Exec("VACUUM INTO ?", part).Error; err != nil {
		return err
	}
	if err := os.Chmod(part, 0o600); err != nil {
		return err
	}
	if err := putOnDisk(part); err != nil {
		return err
	}
	name := kept
	for n := 2; ; n++ {
		if _, err := os.Lstat(name); errors.Is(err, fs.ErrNotExist) {
			break
		} else if err != nil {
			return err
		}
		name = fmt.Sprintf("%s-%d", kept, n)
	}
	if err := os.Rename(part, name); err != nil {
		return err
	}
	return putOnDisk(filepath.Dir(kept))
}

// newestSchema is the version that the newest migration leads to.
func newestSchema() (newest int64) {
	steps, err := fs.ReadDir(migrations, "migrations")
	if err != nil {
		panic(err) // they are built in
	}
	for _, step := range steps {
		if v, err := goose.NumericComponent(step.Name()); err == nil {
			newest = max(newest, v)
		}
	}
	return newest
}

func newerSchema(has, newest int64) error {
	return fmt.Errorf("%w: its schema is %d, the newest one known here is %d", ErrNewer, has, newest)
}

// recognise tells an empty database or one of Kaiku's (ErrForeign: neither).
func recognise(ctx context.Context, db *sql.DB) error {
	var tables, ours int
	err := db.QueryRowContext(ctx, `SELECT count(*), count(*) FILTER (WHERE name IN ('goose_db_version', 'summaries', 'journal'))
		FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\_%' ESCAPE '\'`).Scan(&tables, &ours)
	if err != nil {
		return err
	}
	// goose makes its own table first: a stop right after leaves that one alone.
	if tables > 1 && ours < 3 {
		return fmt.Errorf("%w: %s belongs to another program", ErrForeign, FileName)
	}
	return nil
}

// Taken says that a record's id is used by another household.
type Taken struct {
	Subject dossier.Ref
	Home    string // its code
}

func (t *Taken) Error() string { return fmt.Sprintf("%s is a record of %s", t.Subject, t.Home) }

// Unwrap makes it ErrTaken.
func (t *Taken) Unwrap() error { return ErrTaken }

// asStoreError turns what the database says into the errors of this package.
func asStoreError(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	var dbErr *sqlite3.Error
	if errors.As(err, &dbErr) && (dbErr.Code() == sqlite3lib.SQLITE_CONSTRAINT_UNIQUE || dbErr.Code() == sqlite3lib.SQLITE_CONSTRAINT_PRIMARYKEY) {
		return fmt.Errorf("%w: %s", ErrTaken, dbErr.Error())
	}
	return err
}
