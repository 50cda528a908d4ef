//go:build unix

package store

import (
	"errors"
	"io"
	"os"
	"syscall"
)

// lockFile takes the lock of a data folder. The operating system gives it back when the process
// ends, however it ends.
func lockFile(file string) (io.Closer, error) {
	f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		if errors.Is(err, syscall.EWOULDBLOCK) {
			err = ErrInUse
		}
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}
