//go:build !unix

package store

import (
	"io"
	"os"
)

// lockFile only opens the file: where the system knows no advisory locks, one service per data
// folder is left to whoever starts it.
func lockFile(file string) (io.Closer, error) { return os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600) }
