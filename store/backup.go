package store

import (
	"archive/tar"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"time"

	sqlite3 "modernc.org/sqlite"
)

// BackupFormat names the layout of a backup: a gzipped tar (POSIX.1-2001) that holds
// kaiku-backup.json, then kaiku.db, then every attachment's body as bodies/ and its SHA-256 sum.
// The sealing key is never in it.
const BackupFormat = "kaiku-backup/1"

const manifestName = "kaiku-backup.json"

// Manifest is the first file of a backup.
type Manifest struct {
	Format   string    `json:"format"`
	MadeAt   time.Time `json:"madeAt"`
	Kaiku    string    `json:"kaiku"`    // version that made it
	Schema   int64     `json:"schema"`   // of the database
	Homes    int       `json:"homes"`    // households in it
	Database string    `json:"database"` // SHA-256 sum of kaiku.db
	Bodies   int       `json:"bodies"`   // files of attachments
	Bytes    int64     `json:"bytes"`    // of database and bodies together
	Missing  []string  `json:"missing"`  // sums that records name and the data folder did not hold

	Damaged []string `json:"damaged,omitempty"` // sums whose bodies did not match them; these are not in it
}

// Tell hears how far a long piece of work is; both in bytes.
type Tell func(done, of int64)

// Backup copies the data folder dir into the new file while a service may be running on it: one
// consistent state of the database, checked, and every body that it names. A file that is there
// already is refused (fs.ErrExist); what is stopped or fails leaves none.
func Backup(ctx context.Context, dir, file, version string, now time.Time, tell Tell) (m Manifest, err error) {
	if _, err := os.Stat(file); err == nil {
		return m, fmt.Errorf("%s: %w", file, fs.ErrExist)
	}
	if err := There(dir); err != nil {
		return m, err
	}
	if err := clearKilled(filepath.Dir(file)); err != nil {
		return m, err
	}
	work, err := os.MkdirTemp(filepath.Dir(file), workPrefix)
	if err != nil {
		return m, err
	}
	lock, err := lockFile(filepath.Join(work, workLock))
	if err != nil {
		return m, errors.Join(err, os.RemoveAll(work))
	}
	defer func() { err = errors.Join(err, lock.Close(), os.RemoveAll(work)) }()
	copied := filepath.Join(work, FileName)
	if err := snapshot(ctx, filepath.Join(dir, FileName), copied); err != nil {
		return m, fmt.Errorf("copy the database: %w", err)
	}
	bodies, err := listBodies(dir)
	if err != nil {
		return m, err
	}
	bodies, damaged, err := sound(ctx, bodies)
	if err != nil {
		return m, err
	}
	if m, err = describe(ctx, copied, bodies); err != nil {
		return m, err
	}
	m.Missing = slices.DeleteFunc(m.Missing, func(sum string) bool { return slices.Contains(damaged, sum) })
	m.Damaged = damaged
	m.MadeAt, m.Kaiku = now.UTC().Truncate(time.Second), version
	packed := filepath.Join(work, "packed")
	if err := pack(ctx, packed, copied, m, bodies, tell); err != nil {
		return m, fmt.Errorf("write %s: %w", file, err)
	}
	if err := os.Rename(packed, file); err != nil {
		return m, err
	}
	return m, putOnDisk(filepath.Dir(file))
}

// Where a backup is put together, and the file that is locked as long as that lasts.
const (
	workPrefix = ".kaiku-backup-"
	workLock   = "lock"
)

// clearKilled removes what backups left behind that were killed: it holds a copy of the whole database.
func clearKilled(dir string) error {
	left, err := filepath.Glob(filepath.Join(dir, workPrefix+"*"))
	if err != nil {
		return err
	}
	for _, work := range left {
		lock, err := lockFile(filepath.Join(work, workLock))
		if errors.Is(err, ErrInUse) {
			continue // it is being made
		}
		if err != nil {
			return err
		}
		if err := errors.Join(os.RemoveAll(work), lock.Close()); err != nil {
			return err
		}
	}
	return nil
}

// pagesAtOnce is how many pages are copied before it is seen whether to go on.
const pagesAtOnce = 1000

// copied is called when that many were. Tests write then.
var copied = func() {}

// snapshot copies one state of a database. The read transaction holds that state fast while
// pages are copied and others write.
func snapshot(ctx context.Context, from, to string) error {
	db, err := openPlain(from, "query_only(1)")
	if err != nil {
		return err
	}
	defer db.Close()
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, "BEGIN"); err != nil {
		return err
	}
	var n int
	if err := conn.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_schema").Scan(&n); err != nil {
		return err
	}
	return conn.Raw(func(c any) error {
		b, err := c.(interface {
			NewBackup(string) (*sqlite3.Backup, error)
		}).NewBackup(to)
		if err != nil {
			return err
		}
		for more := true; more && err == nil; {
			if err = ctx.Err(); err == nil {
				more, err = b.Step(pagesAtOnce)
				copied()
			}
		}
		return errors.Join(err, b.Finish())
	})
}

func openPlain(file string, pragmas ...string) (*sql.DB, error) {
	db, err := openSQL(file, url.Values{"_pragma": append([]string{"busy_timeout(5000)"}, pragmas...)})
	if err == nil {
		db.SetMaxOpenConns(1)
	}
	return db, err
}

type bodyFile struct {
	sum, file string
	bytes     int64
}

func listBodies(dir string) ([]bodyFile, error) {
	var out []bodyFile
	err := filepath.WalkDir(filepath.Join(dir, BodiesName), func(file string, e fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil || !bodyName.MatchString(e.Name()) {
			return err
		}
		info, err := e.Info()
		if err == nil {
			out = append(out, bodyFile{e.Name(), file, info.Size()})
		}
		return err
	})
	return out, err
}

// sound reads bodies through and returns those that match their sum, and the sums of the others.
func sound(ctx context.Context, all []bodyFile) (right []bodyFile, damaged []string, err error) {
	for _, b := range all {
		hash := sha256.New()
		if err := copyFile(ctx, hash, b.file); err != nil {
			return nil, nil, err
		}
		if hex.EncodeToString(hash.Sum(nil)) != b.sum {
			damaged = append(damaged, b.sum)
			continue
		}
		right = append(right, b)
	}
	return right, damaged, nil
}

// describe checks a copied database and says what a backup of it holds.
func describe(ctx context.Context, file string, bodies []bodyFile) (Manifest, error) {
	m := Manifest{Format: BackupFormat, Bodies: len(bodies), Missing: []string{}}
	db, err := openPlain(file)
	if err != nil {
		return m, err
	}
	defer db.Close()
	if m.Schema, err = examine(ctx, db); err != nil {
		return m, err
	}
	if err := db.QueryRowContext(ctx, "SELECT count(*) FROM household").Scan(&m.Homes); err != nil {
		return m, err
	}
	there := map[string]bool{}
	for _, b := range bodies {
		there[b.sum] = true
		m.Bytes += b.bytes
	}
	rows, err := db.QueryContext(ctx, "SELECT DISTINCT sha256 FROM attachments ORDER BY 1")
	if err != nil {
		return m, err
	}
	defer rows.Close()
	for rows.Next() {
		var sum string
		if err := rows.Scan(&sum); err != nil {
			return m, err
		}
		if !there[sum] {
			m.Missing = append(m.Missing, sum)
		}
	}
	if err := rows.Err(); err != nil {
		return m, err
	}
	f, err := os.Open(file)
	if err != nil {
		return m, err
	}
	defer f.Close()
	hash := sha256.New()
	n, err := io.Copy(hash, f)
	m.Database, m.Bytes = hex.EncodeToString(hash.Sum(nil)), m.Bytes+n
	return m, err
}

// examine reads a database through and returns its schema's version: ErrDamaged where SQLite's
// integrity_check or foreign_key_check finds anything, ErrNewer where this Kaiku is too old.
func examine(ctx context.Context, db *sql.DB) (schema int64, err error) {
	var said string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check(1)").Scan(&said); err != nil {
		return 0, err
	}
	if said != "ok" {
		return 0, fmt.Errorf("%w: %s", ErrDamaged, said)
	}
	rows, err := db.QueryContext(ctx, "PRAGMA foreign_key_check")
	if err != nil {
		return 0, err
	}
	dangling := rows.Next()
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return 0, err
	}
	if dangling {
		return 0, fmt.Errorf("%w: a record refers to one that is not there", ErrDamaged)
	}
	if err := recognise(ctx, db); err != nil {
		return 0, err
	}
	if err := db.QueryRowContext(ctx, "SELECT max(version_id) FROM goose_db_version WHERE is_applied").Scan(&schema); err != nil {
		return 0, err
	}
	if newest := newestSchema(); schema > newest {
		return schema, newerSchema(schema, newest)
	}
	return schema, nil
}

func pack(ctx context.Context, to, database string, m Manifest, bodies []bodyFile, tell Tell) (err error) {
	f, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	z := gzip.NewWriter(f)
	t := tar.NewWriter(z)
	head, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return err
	}
	if err := t.WriteHeader(&tar.Header{Name: manifestName, Mode: 0o600, Size: int64(len(head)), ModTime: m.MadeAt}); err != nil {
		return err
	}
	if _, err := t.Write(head); err != nil {
		return err
	}
	info, err := os.Stat(database)
	if err != nil {
		return err
	}
	done := int64(0)
	for _, b := range append([]bodyFile{{FileName, database, info.Size()}}, bodies...) {
		name := b.sum
		if bodyName.MatchString(b.sum) {
			name = BodiesName + "/" + b.sum
		}
		if err := t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: b.bytes, ModTime: m.MadeAt}); err != nil {
			return err
		}
		if err := copyFile(ctx, t, b.file); err != nil {
			return err
		}
		done += b.bytes
		tell(done, m.Bytes)
	}
	return errors.Join(t.Close(), z.Close(), syncFile(f))
}

func copyFile(ctx context.Context, to io.Writer, file string) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(to, f)
	return err
}
