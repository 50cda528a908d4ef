package store_test

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"kaiku/store"
)

// Whatever is given as a backup: unpacking writes nowhere but into its folder, no more than the
// manifest says, and takes only files with their sums.
func FuzzUnpack(f *testing.F) {
	good := archive(f, map[string]string{store.FileName: "what stands for a database", "bodies/" + sumOf("a photograph"): "a photograph"})
	_, err := store.Unpack(f.Context(), bytes.NewReader(good), filepath.Join(f.TempDir(), "work"))
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

// archive packs files as a backup does; its database is not looked at by unpacking.
func archive(f *testing.F, files map[string]string) []byte {
	m := store.Manifest{Format: store.BackupFormat, Database: sumOf(files[store.FileName]), Bodies: len(files) - 1}
	for _, body := range files {
		m.Bytes += int64(len(body))
	}
	head, err := json.Marshal(m)
	require.NoError(f, err)
	var out bytes.Buffer
	z := gzip.NewWriter(&out)
	t := tar.NewWriter(z)
	put := func(name, body string) {
		require.NoError(f, t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: int64(len(body))}))
		_, err := t.Write([]byte(body))
		require.NoError(f, err)
	}
	put("kaiku-backup.json", string(head))
	for _, name := range slices.Sorted(maps.Keys(files)) {
		put(name, files[name])
	}
	require.NoError(f, errors.Join(t.Close(), z.Close()))
	return out.Bytes()
}

func sumOf(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}
