package store_test

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/store"
)

// smallDisk mounts a disk of that many bytes in the test's own mount namespace.
func smallDisk(t *testing.T, bytes int) string {
	dir := t.TempDir()
	require.NoError(t, syscall.Mount("none", dir, "tmpfs", 0, fmt.Sprintf("size=%d", bytes)), "run tests by scripts/own-net")
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	return dir
}

func TestTroubleWithTheFolderIsToldApart(t *testing.T) {
	for _, c := range []struct {
		name    string
		prepare func(t *testing.T, dir string)
		want    error
	}{
		{"a newer schema", func(t *testing.T, dir string) {
			s := open(t, dir)
			require.NoError(t, s.Exec(t.Context(), "INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)"))
			require.NoError(t, s.Close())
		}, store.ErrNewer},
		{"another program's files", func(t *testing.T, dir string) {
			require.NoError(t, os.WriteFile(filepath.Join(dir, "letters.odt"), []byte("x"), 0o600))
		}, store.ErrForeign},
		{"a file that is no database", func(t *testing.T, dir string) {
			require.NoError(t, os.WriteFile(filepath.Join(dir, store.FileName), []byte("this is no database, but long enough to be one"), 0o600))
		}, store.ErrForeign},
		{"another program's database", func(t *testing.T, dir string) {
			s := open(t, dir)
			require.NoError(t, s.Exec(t.Context(), "DROP TABLE journal"))
			require.NoError(t, s.Close())
		}, store.ErrForeign},
		{"another Kaiku on it", func(t *testing.T, dir string) {
			s := open(t, dir)
			t.Cleanup(func() { assert.NoError(t, s.Close()) })
		}, store.ErrInUse},
		{"damaged pages", func(t *testing.T, dir string) {
			s := open(t, dir)
			putHome(t, s, homes.Small())
			require.NoError(t, s.Close())
			damage(t, filepath.Join(dir, store.FileName))
		}, store.ErrDamaged},
		{"a folder that is a file", func(t *testing.T, dir string) {
			require.NoError(t, os.Remove(dir))
			require.NoError(t, os.WriteFile(dir, nil, 0o600))
		}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			dir := filepath.Join(t.TempDir(), "data")
			require.NoError(t, os.Mkdir(dir, 0o700))
			c.prepare(t, dir)
			s, err := store.Open(t.Context(), dir, store.Options{})
			if err == nil { // damage shows where it is met
				_, err = s.Load(t.Context(), homes.Small().Home().ID)
				require.NoError(t, s.Close())
			}
			assert.Equal(t, c.want, store.Trouble(err), "%v", err)
		})
	}
}

// damage overwrites every page but the first with rubbish.
func damage(t *testing.T, file string) {
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	for i := 4096; i < len(b); i++ {
		b[i] = byte(i * 7)
	}
	require.NoError(t, os.WriteFile(file, b, 0o600))
}

func TestAFolderOfMountsAndHiddenFilesIsTaken(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"lost+found", ".snapshots", store.KeyName} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), bytes.Repeat([]byte("k"), 32), 0o600))
	}
	s, err := store.Open(t.Context(), dir, store.Options{})
	require.NoError(t, err)
	require.NoError(t, s.Close())
}

func TestAFolderThatMayNotBeWrittenIsSaid(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	s := open(t, dir)
	require.NoError(t, s.Close())
	require.NoError(t, os.Chmod(dir, 0o500))
	if os.Geteuid() == 0 { // root may write anywhere: give the right away on this thread
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		require.NoError(t, os.Chown(dir, 65534, 65534))
		require.NoError(t, syscall.Setfsuid(65534))
		defer func() { require.NoError(t, syscall.Setfsuid(0)) }()
	}
	_, err := store.Open(t.Context(), dir, store.Options{})
	assert.Equal(t, store.ErrNotWritable, store.Trouble(err), "%v", err)
}

// A disk that turns read-only under Kaiku, or reports errors, is told as that, by a write and by Ping.
func TestADiskThatTurnsReadOnlyIsSaid(t *testing.T) {
	dir := smallDisk(t, 8<<20)
	s := open(t, dir)
	home := putHome(t, s, homes.Small())
	require.NoError(t, s.Ping(t.Context()))
	turn := func(flags uintptr) {
		require.NoError(t, syscall.Mount("none", dir, "tmpfs", syscall.MS_REMOUNT|syscall.MS_BIND|flags, ""))
	}
	require.NoError(t, syscall.Mount(dir, dir, "", syscall.MS_BIND, ""))
	turn(syscall.MS_RDONLY)
	assert.Equal(t, store.ErrNotWritable, store.Trouble(s.Ping(t.Context())))
	_, err := s.PutBody([]byte("a photograph"))
	assert.Equal(t, store.ErrNotWritable, store.Trouble(err), "%v", err)
	require.NoError(t, syscall.Unmount(dir, 0))
	require.NoError(t, s.Ping(t.Context()))
	_, err = s.Load(t.Context(), home)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	assert.Equal(t, store.ErrFailing, store.Trouble(fmt.Errorf("read kaiku.db: %w", syscall.EIO)))
}

// What a killed backup left behind holds a copy of the database; the next one removes it, and leaves one alone that is
// being made.
func TestWhatAKilledBackupLeftIsRemoved(t *testing.T) {
	k := newKept(t)
	defer func() { require.NoError(t, k.store.Close()) }()
	to := t.TempDir()
	killed, running := filepath.Join(to, ".kaiku-backup-1"), filepath.Join(to, ".kaiku-backup-2")
	for _, dir := range []string{killed, running} {
		require.NoError(t, os.Mkdir(dir, 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(dir, store.FileName), []byte("x"), 0o600))
	}
	f, err := os.Create(filepath.Join(running, "lock"))
	require.NoError(t, err)
	defer f.Close()
	require.NoError(t, syscall.Flock(int(f.Fd()), syscall.LOCK_EX))
	_, err = store.Backup(t.Context(), k.dir, filepath.Join(to, "kaiku.backup"), "test", homes.Day, quiet)
	require.NoError(t, err)
	require.NoDirExists(t, killed)
	require.DirExists(t, running)
}

func TestAReadOnlyDiskIsSaid(t *testing.T) {
	dir := smallDisk(t, 8<<20)
	require.NoError(t, syscall.Mount("none", dir, "tmpfs", syscall.MS_REMOUNT|syscall.MS_RDONLY, ""))
	_, err := store.Open(t.Context(), dir, store.Options{})
	assert.Equal(t, store.ErrNotWritable, store.Trouble(err), "%v", err)
}

// A full disk refuses what is new, keeps what was there, and goes on once there is room.
func TestFullDisk(t *testing.T) {
	dir := smallDisk(t, 3<<20)
	s, err := store.Open(t.Context(), dir, store.Options{Now: func() time.Time { return homes.Day }})
	require.NoError(t, err)
	defer func() { assert.NoError(t, s.Close()) }()
	require.NoError(t, s.AddPerson(t.Context(), store.Person{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician", PasswordHash: "x"}))
	home := putHome(t, s, homes.Small())
	note := func(i int) error {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			d.Rooms[0].Note = fmt.Sprintf("%d %s", i, strings.Repeat("granite ", 4000))
			return nil
		})
		return err
	}
	written := 0
	for written < 1000 {
		if err = note(written); err != nil {
			break
		}
		written++
	}
	require.Equal(t, store.ErrFull, store.Trouble(err), "%v after %d", err, written)
	require.Positive(t, written)
	_, err = s.PutBody(bytes.Repeat([]byte("photo"), 1<<20))
	require.Equal(t, store.ErrFull, store.Trouble(err), "%v", err)
	left, err := filepath.Glob(filepath.Join(dir, store.BodiesName, "*", ".part-*"))
	require.NoError(t, err)
	assert.Empty(t, left, "half a photograph stays behind")
	filler, err := os.OpenFile(filepath.Join(dir, "something else"), os.O_WRONLY|os.O_CREATE, 0o600)
	require.NoError(t, err)
	for err == nil {
		_, err = filler.Write(make([]byte, 4096))
	}
	require.ErrorIs(t, errors.Join(err, filler.Close()), syscall.ENOSPC)
	assert.Equal(t, store.ErrFull, store.Trouble(s.Ping(t.Context())), "whoever asks is told")
	require.NoError(t, os.Remove(filler.Name()))

	d, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(d.Rooms[0].Note, fmt.Sprintf("%d ", written-1)), "the last that was acknowledged")
	require.NoError(t, syscall.Mount("none", dir, "tmpfs", syscall.MS_REMOUNT, "size=33554432"))
	require.NoError(t, note(written))
	_, err = s.PutBody(bytes.Repeat([]byte("photo"), 1<<20))
	require.NoError(t, err)
	require.NoError(t, s.Ping(t.Context()))
	require.NoError(t, s.CheckIntegrity(t.Context()))
}

func TestBackupWhileOthersWrite(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	home := putHome(t, s, homes.Small())
	sum, err := s.PutBody([]byte("a photograph of the granite server"))
	require.NoError(t, err)
	name := func(text string) uint64 {
		w, err := s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			d.Rooms[0].Note = text
			return nil
		})
		require.NoError(t, err)
		return w.Dossier.Revision
	}
	_, err = s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		a := dossier.Attachment{Subject: d.Rooms[0].ID.Ref(), Caption: "Server", SHA256: sum, MediaType: "image/jpeg", Bytes: 34, At: homes.Day, By: homes.Person}
		a.ID = homes.ID[dossier.Attachment](77)
		d.Attachments.Put(a)
		return nil
	})
	require.NoError(t, err)
	acknowledged := name("before the backup")
	stop, ended := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(ended)
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
				name(fmt.Sprint("while it runs ", i))
			}
		}
	}()
	file := filepath.Join(t.TempDir(), "kaiku-backup.tar.gz")
	var told, of int64
	m, err := store.Backup(t.Context(), dir, file, "test", homes.Day, func(done, all int64) { told, of = done, all })
	close(stop)
	<-ended
	require.NoError(t, err)
	assert.Equal(t, 1, m.Homes)
	assert.Equal(t, 1, m.Bodies)
	assert.Empty(t, m.Missing)
	assert.Equal(t, m.Bytes, told)
	assert.Equal(t, m.Bytes, of)
	_, err = s.AddSession(t.Context(), store.Session{Hash: "h", PersonID: homes.Person, Name: "laptop", ID: "1", Kind: store.Token}, homes.Day.Add(time.Hour), "")
	require.NoError(t, err)
	again := filepath.Join(t.TempDir(), "again.tar.gz")
	_, err = store.Backup(t.Context(), dir, again, "test", homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	_, err = store.Backup(t.Context(), dir, again, "test", homes.Day, func(int64, int64) {})
	require.ErrorIs(t, err, os.ErrExist)
	key, err := os.ReadFile(filepath.Join(dir, store.KeyName))
	require.NoError(t, err)
	require.NoError(t, s.Close())

	fresh := filepath.Join(t.TempDir(), "fresh")
	got, kept, err := store.Restore(t.Context(), again, fresh, false, homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	assert.Empty(t, kept)
	assert.Equal(t, 1, got.Homes)
	_, err = os.Stat(filepath.Join(fresh, store.KeyName))
	require.ErrorIs(t, err, os.ErrNotExist, "the key is in no backup")
	restored := open(t, fresh)
	d, err := restored.Load(t.Context(), home)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, d.Revision, acknowledged)
	require.NoError(t, restored.CheckIntegrity(t.Context()))
	w, err := restored.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { d.Rooms[0].Note = "after the restore"; return nil })
	require.NoError(t, err)
	assert.Greater(t, w.Dossier.Revision, acknowledged+1000, "no number of a version comes twice")
	found, err := store.Check(t.Context(), fresh, quiet)
	require.NoError(t, err)
	assert.Empty(t, found.Wrong)
	_, err = restored.Body(sum)
	require.NoError(t, err)
	_, err = restored.PersonBySession(t.Context(), "h")
	require.ErrorIs(t, err, store.ErrNotFound, "a token may have been withdrawn since")
	require.NoError(t, restored.Close())

	_, _, err = store.Restore(t.Context(), file, dir, false, homes.Day, func(int64, int64) {})
	require.ErrorIs(t, err, store.ErrOccupied)
	_, kept, err = store.Restore(t.Context(), file, dir, true, homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	now, err := os.ReadFile(filepath.Join(dir, store.KeyName))
	require.NoError(t, err)
	assert.Equal(t, key, now, "the key stays")
	require.FileExists(t, filepath.Join(kept, store.FileName))
	s = open(t, dir)
	d, err = s.Load(t.Context(), home)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, d.Revision, acknowledged)
	_, _, err = store.Restore(t.Context(), file, dir, true, homes.Day, func(int64, int64) {})
	require.ErrorIs(t, err, store.ErrInUse)
	require.NoError(t, s.Close())
}

// Whatever is wrong with a backup, it is refused and the folder stays as it was. Every file in it
// has its sum, so that what is taken is what was backed up.
func TestDamagedBackupsAreRefused(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	home := putHome(t, s, homes.Small())
	_, err := s.PutBody([]byte("a photograph"))
	require.NoError(t, err)
	require.NoError(t, s.Close())
	file := filepath.Join(t.TempDir(), "good.tar.gz")
	made, err := store.Backup(t.Context(), dir, file, "test", homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	good, err := os.ReadFile(file)
	require.NoError(t, err)
	refused := 0
	refuse := func(name string, bad []byte) {
		bent := filepath.Join(t.TempDir(), "bent")
		require.NoError(t, os.WriteFile(bent, bad, 0o600))
		m, kept, err := store.Restore(t.Context(), bent, dir, true, homes.Day, func(int64, int64) {})
		if err == nil { // a bit that carries nothing, such as the padding of a block: then all is as it was
			require.Equal(t, made, m, name)
			require.NoError(t, os.RemoveAll(kept))
			return
		}
		refused++
		require.True(t, errors.Is(err, store.ErrBadBackup) || errors.Is(err, store.ErrNoBackup) || errors.Is(err, store.ErrDamaged), "%s: %v", name, err)
	}
	refuse("empty", nil)
	refuse("a text", []byte("this is no backup"))
	for i := 1; i <= 12; i++ {
		refuse(fmt.Sprintf("cut at %d/13", i), good[:len(good)*i/13])
	}
	for i := range 40 {
		at := 10 + (len(good)-10)*i/40 // the gzip header's time and flags carry nothing
		bad := bytes.Clone(good)
		bad[at] ^= 0x55
		refuse(fmt.Sprintf("a byte bent at %d", at), bad)
	}
	assert.Greater(t, refused, 45, "of 53")
	s = open(t, dir)
	_, err = s.Load(t.Context(), home)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, e := range entries {
		assert.NotContains(t, e.Name(), "restor", "something stays behind")
	}
}

// A restore that was checked and then interrupted is finished by the next who opens the folder.
func TestAnInterruptedRestoreIsFinished(t *testing.T) {
	from := t.TempDir()
	s := open(t, from)
	home := putHome(t, s, homes.Small())
	require.NoError(t, s.Close())
	dir := t.TempDir()
	empty := open(t, dir)
	require.NoError(t, empty.Close())
	work := filepath.Join(dir, ".kaiku-restoring")
	require.NoError(t, os.MkdirAll(filepath.Join(work, store.BodiesName), 0o700))
	b, err := os.ReadFile(filepath.Join(from, store.FileName))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(work, store.FileName), b, 0o600))
	half := open(t, dir)
	_, err = half.Load(t.Context(), home)
	require.ErrorIs(t, err, store.ErrNotFound, "it was not checked yet: away with it")
	require.NoError(t, half.Close())
	require.NoDirExists(t, work)

	require.NoError(t, os.MkdirAll(filepath.Join(work, store.BodiesName), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(work, store.FileName), b, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(work, "ready"), []byte("kaiku-before-restore-20261125T120000Z"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, store.FileName+"-wal"), []byte("what the old database had not taken in"), 0o600))
	whole := open(t, dir)
	log, err := os.ReadFile(filepath.Join(dir, "kaiku-before-restore-20261125T120000Z", store.FileName+"-wal"))
	require.NoError(t, err, "the old one goes with its database")
	assert.Equal(t, "what the old database had not taken in", string(log))
	_, err = whole.Load(t.Context(), home)
	require.NoError(t, err)
	require.NoError(t, whole.Close())
	require.FileExists(t, filepath.Join(dir, "kaiku-before-restore-20261125T120000Z", store.FileName))
}

// A database of an older program is kept as it was before it is changed, however often that is broken off.
func TestAnOlderDatabaseIsKeptBeforeItIsChanged(t *testing.T) {
	dir := t.TempDir()
	newest, err := store.MadeUpTo(t.Context(), dir, 1)
	require.NoError(t, err)
	kept := filepath.Join(dir, fmt.Sprintf("%s.before-schema-%d", store.FileName, newest))
	require.NoError(t, os.WriteFile(kept+".part", []byte("half of one"), 0o600))
	require.NoError(t, os.WriteFile(kept, []byte("of an earlier attempt"), 0o600))
	var synced []string
	restore := store.Synced(func(name string) { synced = append(synced, name) })
	s := open(t, dir)
	restore()
	require.NoError(t, s.Close())
	require.GreaterOrEqual(t, len(synced), 2)
	assert.Equal(t, []string{kept + ".part", dir}, synced[len(synced)-2:], "the copy, before it has its name, and then the name")
	first, err := os.ReadFile(kept)
	require.NoError(t, err)
	assert.Equal(t, "of an earlier attempt", string(first))
	db, err := sql.Open("sqlite", "file:"+kept+"-2?mode=ro")
	require.NoError(t, err)
	defer db.Close()
	var schema int64
	require.NoError(t, db.QueryRow("SELECT max(version_id) FROM goose_db_version").Scan(&schema))
	assert.Equal(t, newest-1, schema)
	info, err := os.Stat(kept + "-2")
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode())
	assert.NoFileExists(t, kept+".part")

	empty := t.TempDir()
	s = open(t, empty)
	require.NoError(t, s.Close())
	found, err := filepath.Glob(filepath.Join(empty, "*before-schema*"))
	require.NoError(t, err)
	assert.Empty(t, found, "of nothing, nothing is kept")
}

// A file in a backup that is whole but is not the one of its name is found by its sum.
func TestAnotherFileInABackupIsRefused(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	home := putHome(t, s, homes.Small())
	sum, err := s.PutBody([]byte("a photograph"))
	require.NoError(t, err)
	require.NoError(t, s.Close())
	file := filepath.Join(t.TempDir(), "good.tar.gz")
	_, err = store.Backup(t.Context(), dir, file, "test", homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	repacked := func(body string) string {
		in, err := os.Open(file)
		require.NoError(t, err)
		defer in.Close()
		z, err := gzip.NewReader(in)
		require.NoError(t, err)
		var out bytes.Buffer
		zipped := gzip.NewWriter(&out)
		from, to := tar.NewReader(z), tar.NewWriter(zipped)
		bodies := 0
		for {
			h, err := from.Next()
			if errors.Is(err, io.EOF) {
				break
			}
			require.NoError(t, err)
			b, err := io.ReadAll(from)
			require.NoError(t, err)
			if strings.Contains(h.Name, sum) {
				b, bodies = []byte(body), bodies+1
			}
			require.NoError(t, to.WriteHeader(h))
			_, err = to.Write(b)
			require.NoError(t, err)
		}
		require.Equal(t, 1, bodies)
		require.NoError(t, to.Close())
		require.NoError(t, zipped.Close())
		name := filepath.Join(t.TempDir(), "repacked.tar.gz")
		require.NoError(t, os.WriteFile(name, out.Bytes(), 0o600))
		return name
	}
	restored := t.TempDir()
	_, _, err = store.Restore(t.Context(), repacked("a photograph"), restored, false, homes.Day, func(int64, int64) {})
	require.NoError(t, err)
	s = open(t, restored)
	d, err := s.Load(t.Context(), home)
	require.NoError(t, err)
	minutes := homes.Day.Sub(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)).Minutes()
	assert.InDelta(t, minutes, d.Revision, 1, "no revision that somebody may have seen comes again")
	require.NoError(t, s.Close())
	_, _, err = store.Restore(t.Context(), repacked("a pho-ograph"), t.TempDir(), false, homes.Day, func(int64, int64) {})
	require.ErrorIs(t, err, store.ErrBadBackup)
}

// A query that is broken off because nobody waits for it is no error in the log.
func TestABrokenOffQueryIsNoError(t *testing.T) {
	var log bytes.Buffer
	s, err := store.Open(t.Context(), t.TempDir(), store.Options{Log: slog.New(slog.NewTextHandler(&log, nil))})
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = s.People(ctx)
	require.ErrorIs(t, err, context.Canceled)
	assert.NotContains(t, log.String(), "ERROR")
	require.ErrorContains(t, s.Reader().Exec("SELECT * FROM nowhere").Error, "no such table")
	assert.Contains(t, log.String(), "ERROR", "any other is")
	require.NoError(t, s.Close())
}

// A program that copies the database, or looks into it, can hold it: that is said, and nothing is lost by it.
func TestADatabaseThatIsHeldIsSaid(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	other, err := sql.Open("sqlite", "file:"+filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, other.Close()) })
	other.SetMaxOpenConns(1)
	_, err = other.ExecContext(t.Context(), "BEGIN IMMEDIATE")
	require.NoError(t, err)
	require.NoError(t, s.Exec(t.Context(), "PRAGMA busy_timeout(50)"), "nothing to be learnt from a longer wait")
	assert.Equal(t, store.ErrHeld, store.Trouble(s.Exec(t.Context(), "DELETE FROM sessions")))
	_, err = other.ExecContext(t.Context(), "ROLLBACK")
	require.NoError(t, err)
	assert.NoError(t, s.Exec(t.Context(), "DELETE FROM sessions"))
}
