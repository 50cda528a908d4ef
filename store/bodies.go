package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"sync"
	"time"
)

// BodiesName is the folder of attachments' bodies in the data folder.
const BodiesName = "bodies"

// orphanAge is how long a body may lie without a record that names it: an upload stores the body
// first and opens the door after.
const orphanAge = 24 * time.Hour

var bodyName = regexp.MustCompile(`^[0-9a-f]{64}$`)

// ErrBodyDamaged says that a stored body is not what it was.
var ErrBodyDamaged = errors.New("the body does not match its checksum")

// PutBody stores the bytes, named by their SHA-256 sum, which it returns. When it returns they are on the
// disk. The same bytes are stored once; what is stored under their name and does not match it is written anew.
func (s *Store) PutBody(body []byte) (sum string, err error) {
	sum = sumOf(body)
	file := s.bodyFile(sum)
	if there, err := os.ReadFile(file); err == nil && sumOf(there) == sum {
		now := s.now()
		if os.Chtimes(file, now, now) == nil { // the sweep shall leave it
			s.damaged.heal(sum)
			return sum, nil
		}
	}
	if err := writeDurably(file, bytes.NewReader(body)); err != nil {
		return "", fmt.Errorf("store the body of an attachment: %w", err)
	}
	s.damaged.heal(sum)
	return sum, nil
}

func sumOf(body []byte) string {
	hash := sha256.Sum256(body)
	return hex.EncodeToString(hash[:])
}

// writeDurably writes a file so that after it returns either all of it is there or nothing.
func writeDurably(file string, from io.Reader) (err error) {
	dir := filepath.Dir(file)
	if err := makeDir(dir); err != nil {
		return err
	}
	tmp, err := os.CreateTemp(dir, ".part-*")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(tmp.Name()))
		}
	}()
	_, err = io.Copy(tmp, from)
	if err == nil {
		err = syncFile(tmp)
	}
	if err = errors.Join(err, tmp.Close()); err != nil {
		return err
	}
	if err = os.Rename(tmp.Name(), file); err != nil {
		return err
	}
	return putOnDisk(dir)
}

// makeDir makes a folder and those above it, so that they are on the disk when it returns.
func makeDir(dir string) error {
	err := os.Mkdir(dir, 0o700)
	switch {
	case errors.Is(err, fs.ErrExist):
		return nil
	case errors.Is(err, fs.ErrNotExist) && filepath.Dir(dir) != dir:
		if err := makeDir(filepath.Dir(dir)); err != nil {
			return err
		}
		if err := os.Mkdir(dir, 0o700); err != nil && !errors.Is(err, fs.ErrExist) {
			return err
		}
	case err != nil:
		return err
	}
	return putOnDisk(filepath.Dir(dir))
}

// putOnDisk puts a file, or the names in a folder, on the disk.
func putOnDisk(name string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	return errors.Join(syncFile(f), f.Close())
}

// syncFile is what puts it there. Tests look at what is put on the disk.
var syncFile = (*os.File).Sync

// Body returns a stored body. ErrNotFound: there is none of that sum; ErrBodyDamaged: it does not match it.
func (s *Store) Body(sum string) ([]byte, error) {
	if !bodyName.MatchString(sum) {
		return nil, ErrNotFound
	}
	body, err := os.ReadFile(s.bodyFile(sum))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	if sumOf(body) != sum {
		s.damaged.add(sum)
		return nil, ErrBodyDamaged
	}
	return body, nil
}

// damaged are the sums of bodies that were found not to match.
type damaged struct {
	mu   sync.Mutex
	sums map[string]bool
}

func (d *damaged) add(sum string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.sums == nil {
		d.sums = map[string]bool{}
	}
	d.sums[sum] = true
}

func (d *damaged) heal(sum string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.sums, sum)
}

// DamagedBodies returns how many bodies were found damaged since the store was opened, and have not been stored
// anew.
func (s *Store) DamagedBodies() int {
	s.damaged.mu.Lock()
	defer s.damaged.mu.Unlock()
	return len(s.damaged.sums)
}

// VerifyBodies reads every body that an attachment names, and remembers those that do not match their sum.
func (s *Store) VerifyBodies(ctx context.Context) error {
	var sums []string
	if err := s.reader.WithContext(ctx).Table("attachments").Distinct().Pluck("sha256", &sums).Error; err != nil {
		return err
	}
	for _, sum := range sums {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if _, err := s.Body(sum); err != nil && !errors.Is(err, ErrNotFound) && !errors.Is(err, ErrBodyDamaged) {
			return err
		}
	}
	return nil
}

func (s *Store) bodyFile(sum string) string {
	return filepath.Join(s.dir, BodiesName, sum[:2], sum)
}

// SweepBodies removes bodies that no record names and no journal entry remembers, once they are a
// day old, and returns how many. What a journal entry remembers can be brought back.
func (s *Store) SweepBodies(ctx context.Context) (removed int, err error) {
	known, err := s.knownSums(ctx)
	if err != nil {
		return 0, err
	}
	err = filepath.WalkDir(filepath.Join(s.dir, BodiesName), func(file string, e fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil || e.IsDir() {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		info, err := e.Info()
		if err != nil || s.now().Sub(info.ModTime()) < orphanAge {
			return err
		}
		if known[e.Name()] {
			return nil
		}
		removed++
		return os.Remove(file)
	})
	return removed, err
}

// knownSums returns the sums that an attachment names or a journal entry remembers.
func (s *Store) knownSums(ctx context.Context) (map[string]bool, error) {
	var sums []string
	err := s.reader.WithContext(ctx).Raw(`SELECT sha256 FROM attachments
		UNION SELECT after ->> '$."/sha256"' FROM journal WHERE kind = 'attachment' AND after ->> '$."/sha256"' IS NOT NULL
		UNION SELECT before ->> '$."/sha256"' FROM journal WHERE kind = 'attachment' AND before ->> '$."/sha256"' IS NOT NULL`).Scan(&sums).Error
	known := make(map[string]bool, len(sums))
	for _, sum := range sums {
		known[sum] = true
	}
	return known, err
}
