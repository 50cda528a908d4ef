package store

import (
	"errors"
	"io/fs"
	"syscall"

	sqlite3 "modernc.org/sqlite"
	sqlite3lib "modernc.org/sqlite/lib"
)

// What can be wrong with the machine or the data folder, told apart from faults of Kaiku: each
// has its remedy.
var (
	ErrNewer       = errors.New("database was made by a newer Kaiku")
	ErrForeign     = errors.New("not a data folder of Kaiku")
	ErrDamaged     = errors.New("database is damaged")
	ErrFull        = errors.New("the disk is full")
	ErrNotWritable = errors.New("data folder is not writable")
	ErrFailing     = errors.New("the disk does not work")
	ErrInUse       = errors.New("another Kaiku is using the data folder")
	ErrHeld        = errors.New("the database is held by something else")
)

// Trouble returns which of the errors above an error means, or nil if it means none of them. It
// looks at what the database and the operating system said, wherever that happened.
func Trouble(err error) error {
	for _, known := range []error{ErrNewer, ErrForeign, ErrDamaged, ErrFull, ErrNotWritable, ErrFailing, ErrInUse, ErrHeld} {
		if errors.Is(err, known) {
			return known
		}
	}
	var db *sqlite3.Error
	if errors.As(err, &db) {
		switch db.Code() & 0xff { // the low byte is the primary result code: https://sqlite.org/rescode.html
		case sqlite3lib.SQLITE_FULL:
			return ErrFull
		case sqlite3lib.SQLITE_CORRUPT:
			return ErrDamaged
		case sqlite3lib.SQLITE_NOTADB:
			return ErrForeign
		case sqlite3lib.SQLITE_BUSY, sqlite3lib.SQLITE_LOCKED:
			return ErrHeld
		case sqlite3lib.SQLITE_IOERR:
			return ErrFailing
		case sqlite3lib.SQLITE_READONLY, sqlite3lib.SQLITE_CANTOPEN, sqlite3lib.SQLITE_PERM:
			return ErrNotWritable
		}
	}
	switch {
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return ErrFull
	case errors.Is(err, syscall.EIO):
		return ErrFailing
	case errors.Is(err, fs.ErrPermission), errors.Is(err, syscall.EROFS):
		return ErrNotWritable
	}
	return nil
}
