package store_test

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/store"
)

func quiet(int64, int64) {}

// kept is a data folder with the home of every kind, an attachment and a secret, and a way to change its database
// behind Kaiku's back.
type kept struct {
	dir, sum string
	store    *store.Store
}

func newKept(t *testing.T) *kept {
	k := &kept{dir: t.TempDir()}
	k.store = open(t, k.dir)
	home := putHome(t, k.store, homes.Small())
	var err error
	k.sum, err = k.store.PutBody([]byte("a photograph of the granite server"))
	require.NoError(t, err)
	require.NoError(t, k.store.Seal(t.Context(), "sealed-1", []byte("amber-quay")))
	_, err = k.store.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		a := dossier.Attachment{Subject: d.Rooms[0].ID.Ref(), Caption: "Server", SHA256: k.sum, MediaType: "image/jpeg", Bytes: 34, At: homes.Day, By: homes.Person}
		a.ID = homes.ID[dossier.Attachment](77)
		d.Attachments.Put(a)
		s := dossier.Secret{Name: "share password", Kind: dossier.SecretPassword, SealedAs: "sealed-1", SealedAt: homes.Day}
		s.ID = homes.ID[dossier.Secret](78)
		d.Secrets.Put(s)
		return nil
	})
	require.NoError(t, err)
	return k
}

func (k *kept) body() string { return filepath.Join(k.dir, store.BodiesName, k.sum[:2], k.sum) }

func (k *kept) behind(t *testing.T, statement string) {
	db, err := sql.Open("sqlite", "file:"+filepath.Join(k.dir, store.FileName))
	require.NoError(t, err)
	_, err = db.ExecContext(t.Context(), statement)
	require.NoError(t, err)
	require.NoError(t, db.Close())
}

// A file that is not what it was is not shown, named by a backup that is still made, and healed by the same bytes.
func TestADamagedFileIsNeverServedAndIsHealed(t *testing.T) {
	k := newKept(t)
	bent := []byte("a photograph of the granite sErver")
	require.NoError(t, os.WriteFile(k.body(), bent, 0o600))
	require.NoError(t, k.store.VerifyBodies(t.Context()))
	assert.Equal(t, 1, k.store.DamagedBodies())
	_, err := k.store.Body(k.sum)
	require.ErrorIs(t, err, store.ErrBodyDamaged)

	file := filepath.Join(t.TempDir(), "kaiku.backup")
	m, err := store.Backup(t.Context(), k.dir, file, "test", homes.Day, quiet)
	require.NoError(t, err)
	assert.Equal(t, []string{k.sum}, m.Damaged)
	assert.Empty(t, m.Missing)
	assert.Zero(t, m.Bodies)
	fresh := filepath.Join(t.TempDir(), "fresh")
	m, _, err = store.Restore(t.Context(), file, fresh, false, homes.Day, quiet)
	require.NoError(t, err, "a backup that names what it lacks is taken")
	assert.Equal(t, []string{k.sum}, m.Damaged)

	again, err := k.store.PutBody([]byte("a photograph of the granite server"))
	require.NoError(t, err)
	assert.Equal(t, k.sum, again)
	b, err := k.store.Body(k.sum)
	require.NoError(t, err)
	assert.Equal(t, "a photograph of the granite server", string(b))
	assert.Zero(t, k.store.DamagedBodies())
	require.NoError(t, k.store.Close())
}

// Each thing that is wrong with a folder is found, also while Kaiku runs, and nothing else.
func TestCheckFindsWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		name string
		harm func(t *testing.T, k *kept)
		want []string
	}{
		{"nothing", func(*testing.T, *kept) {}, nil},
		{"a file bent", func(t *testing.T, k *kept) { require.NoError(t, os.WriteFile(k.body(), []byte("x"), 0o600)) }, []string{store.WrongBody}},
		{"a file gone", func(t *testing.T, k *kept) { require.NoError(t, os.Remove(k.body())) }, []string{store.WrongBodyMissing}},
		{"the key gone", func(t *testing.T, k *kept) { require.NoError(t, os.Remove(filepath.Join(k.dir, store.KeyName))) }, []string{store.WrongKey}},
		{"another key", func(t *testing.T, k *kept) {
			require.NoError(t, os.WriteFile(filepath.Join(k.dir, store.KeyName), make([]byte, 32), 0o600))
		}, []string{store.WrongSecret}},
		{"half a key", func(t *testing.T, k *kept) {
			require.NoError(t, os.WriteFile(filepath.Join(k.dir, store.KeyName), make([]byte, 16), 0o600))
		}, []string{store.WrongKey}},
		{"a row changed", func(t *testing.T, k *kept) { k.behind(t, "UPDATE rooms SET name = 'elsewhere' WHERE rowid = 1") }, []string{store.WrongJournal}},
		{"a row removed", func(t *testing.T, k *kept) { k.behind(t, "DELETE FROM attachments") }, []string{store.WrongJournal}},
		{"an entry of the journal removed", func(t *testing.T, k *kept) {
			k.behind(t, "DELETE FROM journal WHERE kind = 'secret'")
		}, []string{store.WrongJournal}},
		{"a value that cannot be read", func(t *testing.T, k *kept) {
			k.behind(t, "UPDATE devices SET roles = '[' WHERE rowid = 1")
		}, []string{store.WrongDatabase}},
		{"open to others", func(t *testing.T, k *kept) { require.NoError(t, os.Chmod(filepath.Join(k.dir, store.FileName), 0o644)) }, []string{store.WrongMode}},
	} {
		t.Run(c.name, func(t *testing.T) {
			k := newKept(t)
			defer func() { require.NoError(t, k.store.Close()) }()
			c.harm(t, k)
			got, err := store.Check(t.Context(), k.dir, quiet)
			require.NoError(t, err)
			var codes []string
			for _, w := range got.Wrong {
				codes = append(codes, w.Code)
			}
			assert.Equal(t, c.want, codes, "%+v", got.Wrong)
			if c.want == nil {
				assert.Equal(t, []int{1, 1, 1}, []int{got.Homes, got.Bodies, got.Secrets}, "all of it was looked at")
			}
		})
	}
	_, err := store.Check(context.Background(), t.TempDir(), quiet)
	require.ErrorIs(t, err, store.ErrForeign)
}

// Pages that are damaged are found before anything else is believed.
func TestCheckFindsADamagedDatabase(t *testing.T) {
	k := newKept(t)
	require.NoError(t, k.store.Close())
	file := filepath.Join(k.dir, store.FileName)
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	for at := 4096 * 5; at < 4096*12; at++ {
		b[at] ^= 0xa5
	}
	require.NoError(t, os.WriteFile(file, b, 0o600))
	got, err := store.Check(t.Context(), k.dir, quiet)
	require.NoError(t, err)
	require.Len(t, got.Wrong, 1)
	assert.Equal(t, store.WrongDatabase, got.Wrong[0].Code)
}

// Reading a folder through leaves it as it was: no file more where nothing runs, and none less where a service does.
func TestCheckLeavesNothingBehind(t *testing.T) {
	files := func(dir string) (out []string) {
		list, err := os.ReadDir(dir)
		require.NoError(t, err)
		for _, f := range list {
			out = append(out, f.Name())
		}
		return out
	}
	k := newKept(t)
	running := files(k.dir)
	require.Contains(t, running, store.FileName+"-wal")
	got, err := store.Check(t.Context(), k.dir, quiet)
	require.NoError(t, err)
	require.Empty(t, got.Wrong)
	assert.Equal(t, running, files(k.dir), "while a service has it")
	require.NoError(t, k.store.Close())
	before := files(k.dir)
	require.NotContains(t, before, store.FileName+"-wal")
	got, err = store.Check(t.Context(), k.dir, quiet)
	require.NoError(t, err)
	require.Empty(t, got.Wrong)
	assert.Equal(t, before, files(k.dir), "while nothing has it")
	s := open(t, k.dir)
	require.NoError(t, s.Close())
}

// Nobody else on the machine can read the database, whatever the mask of the process and the rights of an old file.
func TestTheDatabaseIsPrivate(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, store.FileName), nil, 0o644)) //nolint:gosec // as an older Kaiku left it
	s := open(t, dir)
	putHome(t, s, homes.Small())
	for _, name := range []string{store.FileName, store.FileName + "-wal", store.KeyName} {
		info, err := os.Stat(filepath.Join(dir, name))
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), name)
	}
	require.NoError(t, s.Close())
}

// A first start that ended after any statement of the migrations can be made again.
func TestAStartThatEndedInTheMiddleCanBeMadeAgain(t *testing.T) {
	for _, statements := range []string{
		"",
		// where a start ended before the first migration: the table of versions is made in one transaction
		"CREATE TABLE goose_db_version (id INTEGER PRIMARY KEY AUTOINCREMENT, version_id INTEGER NOT NULL, is_applied INTEGER NOT NULL, tstamp TIMESTAMP DEFAULT (datetime('now'))); INSERT INTO goose_db_version (version_id, is_applied) VALUES (0, 1)",
	} {
		k := &kept{dir: t.TempDir()}
		if statements != "" {
			k.behind(t, statements)
		}
		s, err := store.Open(t.Context(), k.dir, store.Options{})
		require.NoError(t, err, statements)
		made, err := s.AddFirst(t.Context(), store.Person{ID: "1", Login: "coordinator", Name: "Coordinator", Role: "coordinator", PasswordHash: "x"})
		require.NoError(t, err)
		assert.True(t, made)
		p, err := s.FirstNotShown(t.Context())
		require.NoError(t, err)
		assert.Equal(t, "coordinator", p.Login)
		made, err = s.AddFirst(t.Context(), store.Person{ID: "2", Login: "other", Name: "Other", Role: "coordinator", PasswordHash: "x"})
		require.NoError(t, err)
		assert.False(t, made)
		require.NoError(t, s.FirstShown(t.Context()))
		_, err = s.FirstNotShown(t.Context())
		require.ErrorIs(t, err, store.ErrNotFound)
		require.NoError(t, s.Close())
	}
}
