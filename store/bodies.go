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
	"time"
)

// BodiesName is the folder of attachments' bodies in the data folder.
const BodiesName = "bodies"

// orphanAge is how long a body may lie without a record that names it: an upload stores the body
// first and opens the door after.
const orphanAge = 24 * time.Hour

var bodyName = regexp.MustCompile(`^[0-9a-f]{64}$`)

// PutBody stores the bytes, named by their SHA-256 sum, which it returns. When it returns they are on the
// disk. The same bytes are stored once.
func (s *Store) PutBody(body []byte) (sum string, err error) {
	hash := sha256.Sum256(body)
	sum = hex.EncodeToString(hash[:])
	file := s.bodyFile(sum)
	now := s.now()
	if os.Chtimes(file, now, now) == nil { // there already, and the sweep shall leave it
		return sum, nil
	}
	if err := writeDurably(file, bytes.NewReader(body)); err != nil {
		return "", fmt.Errorf("store the body of an attachment: %w", err)
	}
	return sum, nil
}

// writeDurably writes a file so that after it returns either all of it is there or nothing.
func writeDurably(file string, from io.Reader) (err error) {
	dir := filepath.Dir(file)
	if err := os.MkdirAll(dir, 0o700); err != nil {
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
		err = tmp.Sync()
	}
	if err = errors.Join(err, tmp.Close()); err != nil {
		return err
	}
	if err = os.Rename(tmp.Name(), file); err != nil {
		return err
	}
	return syncDir(dir)
}

func syncDir(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// Body opens a stored body. ErrNotFound says that there is none of that sum.
func (s *Store) Body(sum string) (*os.File, error) {
	if !bodyName.MatchString(sum) {
		return nil, ErrNotFound
	}
	f, err := os.Open(s.bodyFile(sum))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	return f, err
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
