package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// times is how often something is killed: KAIKU_KILLS divided, where make soak asks for more than the few of make test.
func times(t *testing.T, few, part int) int {
	all, err := strconv.Atoi(env("KAIKU_KILLS", "0"))
	require.NoError(t, err)
	return max(few, all/part)
}

// deed is one write, with a look whether it is there. A write that was not acknowledged may be there or not, but never
// in part.
type deed struct {
	kind string
	code string
	does func(ctx context.Context, c *client.Client) error
	// there reports how many of the parts are there, of how many.
	there func(d *dossier.Dossier) (parts, of int)
	// reads looks at what is not in the dossier: bodies of files and secrets.
	reads func(ctx context.Context, c *client.Client) error
}

// newID makes the id of a record, so that a write is known whether or not its answer came.
func newID() string { return uuid.Must(uuid.NewV7()).String() }

func one(b bool) int {
	if b {
		return 1
	}
	return 0
}

// deeds are the kinds of write that a kill may hit.
var deeds = map[string]func(code string, n int) deed{
	"record": func(code string, n int) deed {
		id := newID()
		return deed{does: func(ctx context.Context, c *client.Client) error {
			_, err := c.Add(ctx, code, dossier.KindNamed("room"), wire.Record{"id": id, "name": "room " + id})
			return err
		}, there: func(d *dossier.Dossier) (int, int) { return one(d.Rooms.Find(dossier.ID[dossier.Room](id)) != nil), 1 }}
	},
	"file": func(code string, n int) deed {
		id := dossier.ID[dossier.Attachment](newID())
		body := bytes.Repeat([]byte(fmt.Sprintf("line %d of %s\n", n, id)), 400)
		return deed{does: func(ctx context.Context, c *client.Client) error {
			d, err := c.Dossier(ctx, code)
			if err != nil {
				return err
			}
			_, err = c.AddAttachment(ctx, code, wire.NewAttachment{ID: id, Subject: d.Home().ID.Ref(), Caption: string(id), FileName: "log.txt"}, body)
			return err
		}, there: func(d *dossier.Dossier) (int, int) { return one(d.Attachments.Find(id) != nil), 1 }, reads: func(ctx context.Context, c *client.Client) error {
			got, err := c.AttachmentBody(ctx, code, id, false)
			if err == nil && !bytes.Equal(got, body) {
				err = fmt.Errorf("the body of %s is not what was sent", id)
			}
			return err
		}}
	},
	"import": func(code string, n int) deed {
		var lines strings.Builder
		lines.WriteString("name,serial\n")
		name := "imported " + newID()
		for i := range 20 {
			fmt.Fprintf(&lines, "%s %d,SN-%d\n", name, i, i)
		}
		return deed{does: func(ctx context.Context, c *client.Client) error {
			_, err := c.Import(ctx, code, []byte(lines.String()), wire.ImportOptions{What: "devices"})
			return err
		}, there: func(d *dossier.Dossier) (parts, of int) {
			for _, v := range d.Devices {
				parts += one(strings.HasPrefix(v.Name, name+" "))
			}
			return parts, 20
		}}
	},
	"secret": func(code string, n int) deed {
		id := dossier.ID[dossier.Secret](newID())
		return deed{does: func(ctx context.Context, c *client.Client) error {
			_, err := c.AddSecret(ctx, code, wire.NewSecret{ID: id, Name: "log-in " + string(id), Kind: dossier.SecretPassword, Body: "body of " + string(id)})
			return err
		}, there: func(d *dossier.Dossier) (int, int) { return one(d.Secrets.Find(id) != nil), 1 }, reads: func(ctx context.Context, c *client.Client) error {
			got, err := c.RevealSecret(ctx, code, id, "a look after a kill")
			if err == nil && got.Body != "body of "+string(id) {
				err = fmt.Errorf("the secret %s is not what was kept", id)
			}
			return err
		}}
	},
	// A device with two adapters and a source comes and goes: it goes with all of them.
	"cascade": func(code string, n int) deed {
		id := newID()
		adapters, source := []string{newID(), newID()}, newID()
		return deed{does: func(ctx context.Context, c *client.Client) error {
			if _, err := c.Add(ctx, code, dossier.KindNamed("device"), wire.Record{"id": id, "name": "server " + id, "roles": []string{"server"}}); err != nil {
				return err
			}
			for i, a := range adapters {
				if _, err := c.Add(ctx, code, dossier.KindNamed("interface"), wire.Record{"id": a, "device": id, "name": fmt.Sprint("adapter ", i)}); err != nil {
					return err
				}
			}
			if _, err := c.Add(ctx, code, dossier.KindNamed("source"), wire.Record{"id": source, "device": id, "name": "media", "protocol": "upnp-av"}); err != nil {
				return err
			}
			_, etag, err := c.Show(ctx, code, dossier.KindNamed("device"), id)
			if err != nil {
				return err
			}
			return c.Remove(ctx, code, dossier.KindNamed("device"), id, etag)
		}, there: func(d *dossier.Dossier) (parts, of int) {
			gone := d.Devices.Find(dossier.ID[dossier.Device](id)) == nil
			left := 0
			for _, a := range adapters {
				left += one(d.Interfaces.Find(dossier.ID[dossier.Interface](a)) != nil)
			}
			left += one(d.Sources.Find(dossier.ID[dossier.Source](source)) != nil)
			if !gone {
				return 0, 1 // not yet removed
			}
			return 1 + left, 1 // anything that is left without its device is one too many
		}}
	},
	"home": func(_ string, n int) deed {
		code := fmt.Sprintf("H-%d", 100000+n)
		return deed{code: code, does: func(ctx context.Context, c *client.Client) error {
			_, err := c.Begin(ctx, wire.NewHousehold{Code: code, Name: "Home " + code})
			return err
		}, there: func(d *dossier.Dossier) (int, int) { return one(d != nil && len(d.Household) == 1), 1 }}
	},
}

// look compares deeds with what the service now holds.
func look(t *testing.T, c *client.Client, round int, acknowledged, hanging []deed) {
	homes := map[string]*dossier.Dossier{}
	of := func(code string) *dossier.Dossier {
		if d, known := homes[code]; known {
			return d
		}
		d, err := c.Dossier(t.Context(), code)
		if err != nil {
			d = nil // a home whose beginning was not acknowledged need not be there
		}
		homes[code] = d
		return d
	}
	for _, e := range acknowledged {
		d := of(e.code)
		require.NotNil(t, d, "round %d: home %s", round, e.code)
		parts, all := e.there(d)
		require.Equal(t, all, parts, "round %d: a %s was acknowledged, and of its parts are there", round, e.kind)
		if e.reads != nil {
			require.NoError(t, e.reads(t.Context(), c), "round %d: %s", round, e.kind)
		}
	}
	for _, e := range hanging {
		d := of(e.code)
		if d == nil {
			require.Equal(t, "home", e.kind)
			continue
		}
		parts, all := e.there(d)
		require.True(t, parts == 0 || parts == all, "round %d: a %s was done in part, %d of %d", round, e.kind, parts, all)
		if parts == all && e.reads != nil {
			require.NoError(t, e.reads(t.Context(), c), "round %d: %s is there and cannot be read", round, e.kind)
		}
	}
}

// Killed in the midst of writing, again and again, the service comes back each time with every write that it
// acknowledged, and with no write in part; its database, journal and files are sound. make soak takes 1,000 kills.
func TestKilledUnderWritesLosesNothingAcknowledged(t *testing.T) {
	rounds := times(t, 25, 1)
	dir, listen := t.TempDir(), "127.0.0.1:17441"
	var c *client.Client
	var acknowledged, hanging []deed // of the last round
	counts := map[string]int{}
	code, made := "", 0
	for round := range rounds {
		cmd, password := start(t, dir, listen)
		if round == 0 {
			c = clientOf(t, "http://"+listen, "coordinator", password)
		}
		look(t, c, round, acknowledged, hanging)
		if round%10 == 0 { // a new home now and then, so that looking at it stays quick
			code = fmt.Sprintf("H-%d", 900000+round)
			_, err := c.Begin(t.Context(), wire.NewHousehold{Code: code, Name: "Home " + code})
			require.NoError(t, err)
		}
		acknowledged, hanging = nil, nil
		// Each second round is killed only after a write of every kind was acknowledged, however slow the machine.
		first, each := sync.WaitGroup{}, make(chan struct{})
		first.Add(len(deeds))
		go func() { first.Wait(); close(each) }()
		ctx, cancel := context.WithCancel(t.Context())
		var writers sync.WaitGroup
		var mu sync.Mutex
		for kind, makes := range deeds {
			writers.Go(func() {
				answered := sync.OnceFunc(first.Done)
				defer answered() // a writer that failed is not waited for either
				for ctx.Err() == nil {
					mu.Lock()
					made++
					e := makes(code, made)
					mu.Unlock()
					e.kind = kind
					if e.code == "" {
						e.code = code
					}
					err := e.does(ctx, c)
					mu.Lock()
					if err != nil {
						hanging = append(hanging, e) // killed, or stopped
					} else {
						acknowledged = append(acknowledged, e)
						counts[kind]++
					}
					mu.Unlock()
					if err != nil {
						return
					}
					answered()
				}
			})
		}
		if round%2 == 1 {
			<-each
		}
		// The moment of the kill is drawn, so that rounds end in different places of a write.
		<-time.After(time.Duration(20+rand.IntN(120)) * time.Millisecond)
		kill(t, cmd)
		cancel()
		writers.Wait()
		if round%25 == 24 || round == rounds-1 {
			checked(t, dir, fmt.Sprint("round ", round))
		}
	}
	cmd, _ := start(t, dir, listen)
	look(t, c, rounds, acknowledged, hanging)
	kill(t, cmd)
	fmt.Printf("Killed %d times under writes; all that was acknowledged is there and nothing in part: %v\n", rounds, counts)
	for kind := range deeds {
		assert.NotZero(t, counts[kind], "no %s was ever acknowledged", kind)
	}
}

// kill ends a service without a warning.
func kill(t *testing.T, cmd *exec.Cmd) {
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait() // it was killed
}

// checked reads the whole data folder and expects it to be sound.
func checked(t *testing.T, dir, when string) {
	said, err := exec.Command(binary, "check", "--data", dir).CombinedOutput()
	require.NoError(t, err, "%s: %s", when, said)
}

// killed runs the program and kills it after a time that is drawn, or lets it end before.
func killed(t *testing.T, most time.Duration, args ...string) (ended bool, said string) {
	cmd := exec.Command(binary, args...)
	var out bytes.Buffer
	cmd.Stdout = &out
	require.NoError(t, cmd.Start())
	over := make(chan error, 1)
	go func() { over <- cmd.Wait() }()
	kill := time.NewTimer(time.Duration(rand.Int64N(int64(most))))
	defer kill.Stop()
	select {
	case err := <-over:
		return err == nil, out.String()
	case <-kill.C:
		_ = cmd.Process.Kill()
		<-over
		return false, out.String()
	}
}

// A backup that is killed leaves either nothing or a whole backup under its name, and nothing behind that stays; a
// restore that is killed leaves the old homes or the new ones, sound either way.
func TestKilledBackupsAndRestores(t *testing.T) {
	rounds := times(t, 6, 4)
	dir, listen := t.TempDir(), "127.0.0.1:17442"
	cmd, password := start(t, dir, listen)
	c := clientOf(t, "http://"+listen, "coordinator", password)
	_, err := c.Begin(t.Context(), wire.NewHousehold{Code: "H-0001", Name: "Quay House"})
	require.NoError(t, err)
	const files = 30
	for n := range files {
		e := deeds["file"]("H-0001", n)
		require.NoError(t, e.does(t.Context(), c))
		e = deeds["import"]("H-0001", n)
		require.NoError(t, e.does(t.Context(), c))
	}
	backups := t.TempDir()
	whole := 0
	for n := range rounds {
		file := filepath.Join(backups, fmt.Sprintf("%d.backup", n))
		killed(t, 250*time.Millisecond, "backup", file, "--data", dir)
		if _, err := os.Stat(file); err == nil {
			whole++
			out := t.TempDir()
			said, err := exec.Command(binary, "restore", file, "--data", out).CombinedOutput()
			require.NoError(t, err, "backup %d: %s", n, said)
			checked(t, out, fmt.Sprint("restored from backup ", n))
		}
	}
	last := filepath.Join(backups, "last.backup")
	said, err := exec.Command(binary, "backup", last, "--data", dir).CombinedOutput()
	require.NoError(t, err, "%s", said)
	left, err := filepath.Glob(filepath.Join(dir, ".*"))
	require.NoError(t, err)
	for _, l := range left {
		assert.NotContains(t, l, "backup", "a killed backup left something in the data folder")
	}
	kill(t, cmd)

	// What is restored over: another home, so that it is seen which of the two is there.
	over, listen2 := t.TempDir(), "127.0.0.1:17443"
	cmd, password = start(t, over, listen2)
	c = clientOf(t, "http://"+listen2, "coordinator", password)
	_, err = c.Begin(t.Context(), wire.NewHousehold{Code: "H-0002", Name: "Mill House"})
	require.NoError(t, err)
	kill(t, cmd)
	done := 0
	for n := range rounds {
		into := filepath.Join(t.TempDir(), "data")
		said, err := exec.Command("cp", "-a", over, into).CombinedOutput() // with its modes
		require.NoError(t, err, "%s", said)
		if ended, _ := killed(t, 300*time.Millisecond, "restore", last, "--data", into, "--replace"); ended {
			done++
		}
		// Whoever opens the folder next finishes the restore or clears it away.
		listen3 := "127.0.0.1:17444"
		cmd, _ := start(t, into, listen3)
		require.NoError(t, cmd.Process.Signal(os.Interrupt))
		_ = cmd.Wait()
		checked(t, into, fmt.Sprint("restore ", n))
		held := filesIn(t, into)
		assert.True(t, held == files || held == 0, "restore %d: %d files", n, held)
	}
	fmt.Printf("Killed %d backups, of which %d were whole, and %d restores, of which %d had ended\n", rounds, whole, rounds, done)
}

// filesIn counts the files of attachments in a folder, by a backup's own words.
func filesIn(t *testing.T, dir string) int {
	out := filepath.Join(t.TempDir(), "look.backup")
	said, err := exec.Command(binary, "backup", out, "--data", dir).CombinedOutput()
	require.NoError(t, err, "%s", said)
	b, err := exec.Command("tar", "-xzOf", out, "kaiku-backup.json").Output()
	require.NoError(t, err)
	var m struct{ Bodies int }
	require.NoError(t, json.Unmarshal(b, &m))
	return m.Bodies
}

// A first start that is killed anywhere can be started again, and the first coordinator can log in.
func TestKilledFirstStarts(t *testing.T) {
	rounds := times(t, 8, 5)
	again := 0
	for n := range rounds {
		dir, listen := filepath.Join(t.TempDir(), "data"), "127.0.0.1:17445"
		_, said := killed(t, 250*time.Millisecond, "serve", "--data", dir, "--listen", listen)
		if _, err := os.Stat(dir); err == nil {
			again++
		} else {
			require.ErrorIs(t, err, fs.ErrNotExist)
		}
		cmd, password := start(t, dir, listen)
		if password == "" { // it was shown by the start that was killed
			_, rest, _ := strings.Cut(said, "with the password ")
			password, _, _ = strings.Cut(rest, ";")
		}
		require.NotEmpty(t, password, "start %d: nobody was shown the password of the first coordinator", n)
		clientOf(t, "http://"+listen, "coordinator", password)
		require.NoError(t, cmd.Process.Signal(os.Interrupt))
		_ = cmd.Wait()
	}
	fmt.Printf("Killed %d first starts, %d of them in the middle of making the folder; each was started again\n", rounds, again)
}

// start runs the service until it serves.
func start(t *testing.T, dir, listen string) (cmd *exec.Cmd, password string) {
	cmd = exec.Command(binary, "serve", "--data", dir, "--listen", listen)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, rest, ok := strings.Cut(lines.Text(), "with the password "); ok {
			password, _, _ = strings.Cut(rest, ";")
		}
		if strings.HasPrefix(lines.Text(), "Kaiku is running at ") {
			return cmd, password
		}
	}
	t.Fatal("the service did not start")
	return nil, ""
}
