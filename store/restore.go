package store

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// Errors of a restore beside those of the data folder.
var (
	ErrOccupied  = errors.New("the data folder already contains homes")
	ErrNoBackup  = errors.New("not a backup of Kaiku")
	ErrBadBackup = errors.New("the backup is damaged")
)

// restoringName is where a backup is unpacked inside the data folder; readyName in it says that
// all is checked and only renaming is left.
const (
	restoringName = ".kaiku-restoring"
	readyName     = "ready"
	keptPrefix    = "kaiku-before-restore-"
)

// Restore unpacks a backup beside what the folder dir holds, checks every sum, the database and
// its references, and only then puts it in place. What stood there before is kept in the folder
// kept. Log-ins and tokens of the backup end: one of them may have been withdrawn since. The
// folder's own key stays. A restore that is stopped half-way has changed nothing, or is finished
// when the folder is next opened.
func Restore(ctx context.Context, file, dir string, replace bool, now time.Time, tell Tell) (m Manifest, kept string, err error) {
	f, err := os.Open(file)
	if err != nil {
		return m, "", err
	}
	defer f.Close()
	lock, err := claim(dir)
	if err != nil {
		return m, "", err
	}
	defer func() { err = errors.Join(err, lock.Close()) }()
	_, missing := os.Stat(filepath.Join(dir, FileName))
	if missing == nil && !replace {
		return m, "", ErrOccupied
	}
	work := filepath.Join(dir, restoringName)
	defer func() {
		if err != nil {
			err = errors.Join(err, os.RemoveAll(work))
		}
	}()
	if m, err = unpack(ctx, f, work, tell); err != nil {
		return m, "", err
	}
	if err := settleRestored(ctx, filepath.Join(work, FileName), now); err != nil {
		return m, "", err
	}
	name := keptPrefix + now.UTC().Format("20060102T150405Z")
	if err := writeDurably(filepath.Join(work, readyName), strings.NewReader(name)); err != nil {
		return m, "", err
	}
	if missing == nil {
		kept = filepath.Join(dir, name)
	}
	return m, kept, finishRestore(dir)
}

// unpack writes a backup's files into a new folder, and refuses it unless each of them is there
// with its sum.
func unpack(ctx context.Context, from io.Reader, work string, tell Tell) (m Manifest, err error) {
	z, err := gzip.NewReader(from)
	if err != nil {
		return m, fmt.Errorf("%w: %w", ErrNoBackup, err)
	}
	t := tar.NewReader(z)
	if m, err = readManifest(t); err != nil {
		return m, err
	}
	if err := os.MkdirAll(filepath.Join(work, BodiesName), 0o700); err != nil {
		return m, err
	}
	bodies, done, database := 0, int64(0), false
	for {
		if err := ctx.Err(); err != nil {
			return m, err
		}
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return m, fmt.Errorf("%w: %w", ErrBadBackup, err)
		}
		want, file, known := placeOf(h.Name, m, work)
		if !known || h.Typeflag != tar.TypeReg || done+h.Size > m.Bytes {
			return m, fmt.Errorf("%w: it contains an unexpected file %q", ErrBadBackup, h.Name)
		}
		if err := unpackFile(t, file, want); err != nil {
			return m, err
		}
		if h.Name == FileName {
			database = true
		} else {
			bodies++
		}
		done += h.Size
		tell(done, m.Bytes)
	}
	if !database || bodies != m.Bodies || done != m.Bytes {
		return m, fmt.Errorf("%w: it is incomplete", ErrBadBackup)
	}
	if _, err := io.Copy(io.Discard, z); err != nil { // the sum at the very end
		return m, fmt.Errorf("%w: %w", ErrBadBackup, err)
	}
	return m, nil
}

func readManifest(t *tar.Reader) (m Manifest, err error) {
	h, err := t.Next()
	if err != nil || h.Name != manifestName || h.Size > 64<<20 {
		return m, fmt.Errorf("%w: it does not start with %s", ErrNoBackup, manifestName)
	}
	b, err := io.ReadAll(t)
	if err == nil {
		err = json.Unmarshal(b, &m)
	}
	if err != nil {
		return m, fmt.Errorf("%w: %w", ErrBadBackup, err)
	}
	if m.Format != BackupFormat {
		return m, fmt.Errorf("%w: its format is %q, not %s", ErrNoBackup, m.Format, BackupFormat)
	}
	return m, nil
}

// placeOf says where a file of a backup goes and which sum it must have.
func placeOf(name string, m Manifest, work string) (sum, file string, ok bool) {
	if name == FileName {
		return m.Database, filepath.Join(work, FileName), true
	}
	sum, ok = strings.CutPrefix(name, BodiesName+"/")
	if !ok || !bodyName.MatchString(sum) {
		return "", "", false
	}
	return sum, filepath.Join(work, BodiesName, sum[:2], sum), true
}

func unpackFile(from io.Reader, file, sum string) error {
	hash := sha256.New()
	read := &readError{from: from}
	if err := writeDurably(file, io.TeeReader(read, hash)); err != nil {
		if read.err != nil {
			return fmt.Errorf("%w: %w", ErrBadBackup, err)
		}
		return err
	}
	if hex.EncodeToString(hash.Sum(nil)) != sum {
		return fmt.Errorf("%w: the checksum of %s is wrong", ErrBadBackup, filepath.Base(file))
	}
	return nil
}

// readError remembers whether reading failed, to tell a bad backup from a full disk.
type readError struct {
	from io.Reader
	err  error
}

func (r *readError) Read(p []byte) (int, error) {
	n, err := r.from.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		r.err = err
	}
	return n, err
}

// revisionsFrom is when revisions after a restore are counted from, in minutes.
var revisionsFrom = time.Date(2026, time.January, 1, 0, 0, 0, 0, time.UTC)

// settleRestored examines an unpacked database, ends the log-ins in it, and lets the revisions of its homes go on
// beyond all that were given before: a version that was read before the restore must not be taken for another one
// that has its number. No home is written more than once a minute for years.
func settleRestored(ctx context.Context, file string, now time.Time) error {
	db, err := openPlain(file, "synchronous(FULL)")
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := examine(ctx, db); Trouble(err) == ErrDamaged {
		return fmt.Errorf("%w: %w", ErrBadBackup, err)
	} else if err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, "UPDATE summaries SET revision = max(revision, ?)", int64(now.Sub(revisionsFrom)/time.Minute)); err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, "DELETE FROM sessions")
	return err
}

// finishRestore puts a restore that was checked in place, from wherever it was interrupted, and
// clears away one that was not.
func finishRestore(dir string) error {
	work := filepath.Join(dir, restoringName)
	name, err := os.ReadFile(filepath.Join(work, readyName))
	if errors.Is(err, fs.ErrNotExist) {
		return os.RemoveAll(work)
	}
	if err != nil {
		return err
	}
	kept := filepath.Join(dir, string(bytes.TrimSpace(name)))
	if _, err := os.Stat(filepath.Join(work, FileName)); err == nil {
		// The old database's log must not meet the new database.
		for _, n := range []string{FileName + "-wal", FileName + "-shm"} {
			if err := moveIfThere(filepath.Join(dir, n), filepath.Join(kept, n)); err != nil {
				return err
			}
		}
	}
	for _, n := range []string{FileName, BodiesName} {
		from, to := filepath.Join(work, n), filepath.Join(dir, n)
		if _, err := os.Stat(from); errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err := moveIfThere(to, filepath.Join(kept, n)); err != nil {
			return err
		}
		if err := os.Rename(from, to); err != nil {
			return err
		}
	}
	if err := putOnDisk(dir); err != nil {
		return err
	}
	return os.RemoveAll(work)
}

func moveIfThere(from, to string) error {
	if _, err := os.Lstat(from); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return err
	}
	return os.Rename(from, to)
}
