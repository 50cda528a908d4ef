package store_test

import (
	"bytes"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier/homes"
	"kaiku/store"
)

// Whatever is given as a backup: unpacking writes nowhere but into its folder, no more than the
// manifest says, and takes only files with their sums.
func FuzzUnpack(f *testing.F) {
	dir := f.TempDir()
	s := open(f, filepath.Join(dir, "data"))
	_, err := s.PutBody([]byte("a photograph"))
	require.NoError(f, err)
	require.NoError(f, s.Close())
	file := filepath.Join(dir, "b.tar.gz")
	_, err = store.Backup(f.Context(), filepath.Join(dir, "data"), file, "test", homes.Day, func(int64, int64) {})
	require.NoError(f, err)
	good, err := os.ReadFile(file)
	require.NoError(f, err)
	f.Add(good)
	f.Add(good[:len(good)/2])
	f.Add([]byte("\x1f\x8b"))
	f.Fuzz(func(t *testing.T, b []byte) {
		root := t.TempDir()
		work := filepath.Join(root, "work")
		m, err := store.Unpack(t.Context(), bytes.NewReader(b), work)
		bytesThere := int64(0)
		require.NoError(t, filepath.WalkDir(root, func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() {
				return err
			}
			require.True(t, strings.HasPrefix(path, work+string(filepath.Separator)), path)
			info, err := e.Info()
			bytesThere += info.Size()
			return err
		}))
		if err == nil {
			require.Equal(t, m.Bytes, bytesThere)
		}
	})
}
