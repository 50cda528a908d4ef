package store

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// sqliteMagic begins every SQLite file: https://sqlite.org/fileformat.html, section 1.3.1.
const sqliteMagic = "SQLite format 3\x00"

// ours are the names Kaiku gives in its data folder; mounts and hidden files may stand beside them.
func ours(name string) bool {
	return strings.HasPrefix(name, "kaiku") || strings.HasPrefix(name, ".") || name == BodiesName || name == "lost+found" || strings.HasPrefix(name, keptPrefix)
}

// lockName is the file whose lock says that a service has the folder.
const lockName = "kaiku.lock"

// claim makes the data folder if it is not there, and refuses one that holds the files of
// another program, that cannot be written, or on which another Kaiku runs. The lock it returns
// holds until it is closed.
func claim(dir string) (lock io.Closer, err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("make data folder: %w", err)
	}
	names, err := os.ReadDir(dir)
	if err != nil {
		return nil, fmt.Errorf("look into data folder: %w", err)
	}
	known := false
	for _, n := range names {
		known = known || n.Name() == FileName || n.Name() == restoringName
	}
	for _, n := range names {
		if !known && !ours(n.Name()) {
			return nil, fmt.Errorf("%w: it contains %s but no %s", ErrForeign, n.Name(), FileName)
		}
	}
	if lock, err = lockFile(filepath.Join(dir, lockName)); err != nil {
		return nil, err
	}
	if err := finishRestore(dir); err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	if err := writableSQLite(filepath.Join(dir, FileName)); err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	return lock, nil
}

// writableSQLite looks whether a file can be written and begins as a database does. None at all
// is right too.
func writableSQLite(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR, 0)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close()
	head := make([]byte, len(sqliteMagic))
	n, err := io.ReadFull(f, head)
	if n == 0 && errors.Is(err, io.EOF) {
		return nil
	}
	if !bytes.Equal(head[:n], []byte(sqliteMagic)) {
		return fmt.Errorf("%w: %s is not a SQLite database", ErrForeign, FileName)
	}
	return nil
}

// There reports whether a folder holds a database of Kaiku; ErrForeign says that it does not.
func There(dir string) error {
	if _, err := os.Stat(filepath.Join(dir, FileName)); err != nil {
		return fmt.Errorf("%w: %w", ErrForeign, err)
	}
	return nil
}
