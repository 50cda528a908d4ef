package e2e

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// Killed in the midst of writing, again and again, the service comes back each time with every
// write that it acknowledged, and its database is sound. KAIKU_KILLS sets the number of rounds; make soak takes 1,000.
func TestKilledUnderWritesLosesNothingAcknowledged(t *testing.T) {
	rounds, err := strconv.Atoi(env("KAIKU_KILLS", "25"))
	require.NoError(t, err)
	dir, listen := t.TempDir(), "127.0.0.1:17441"
	rooms := dossier.KindNamed("room")
	acknowledged := map[string]string{}
	var mu sync.Mutex
	var c *client.Client
	for round := range rounds {
		cmd, password := start(t, dir, listen)
		if round == 0 {
			c = clientOf(t, "http://"+listen, "coordinator", password)
			_, err := c.Begin(t.Context(), wire.NewHousehold{Code: "H-0001", Name: "Keeper's House"})
			require.NoError(t, err)
		}
		there := map[string]bool{}
		list, err := c.List(t.Context(), "H-0001", rooms)
		require.NoError(t, err)
		for _, r := range list {
			there[r["id"].(string)] = true
		}
		for id, name := range acknowledged {
			require.True(t, there[id], "round %d: %s was acknowledged and is gone", round, name)
		}
		entries, err := c.Dossier(t.Context(), "H-0001")
		require.NoError(t, err)
		require.Len(t, entries.Rooms, len(list))

		ctx, cancel := context.WithCancel(t.Context())
		var writers sync.WaitGroup
		for w := range 3 {
			writers.Go(func() {
				for n := 0; ctx.Err() == nil; n++ {
					name := fmt.Sprintf("room %d-%d-%d", round, w, n)
					made, err := c.Add(ctx, "H-0001", rooms, wire.Record{"name": name})
					if err != nil {
						return // killed, or stopped
					}
					mu.Lock()
					acknowledged[made["id"].(string)] = name
					mu.Unlock()
				}
			})
		}
		// The moment of the kill is drawn, so that rounds end in different places of a write.
		kill := time.NewTimer(time.Duration(20+rand.IntN(60)) * time.Millisecond)
		<-kill.C
		require.NoError(t, cmd.Process.Kill())
		_ = cmd.Wait() // it was killed
		cancel()
		writers.Wait()
		// A backup is taken only of a database in which integrity_check and foreign_key_check find nothing.
		kept := filepath.Join(t.TempDir(), fmt.Sprintf("%d.tar.gz", round))
		said, err := exec.Command(binary, "backup", kept, "--data", dir).CombinedOutput()
		require.NoError(t, err, "round %d: %s", round, said)
	}
	fmt.Printf("Killed %d times under writes; all %d acknowledged writes are there\n", rounds, len(acknowledged))
	assert.Greater(t, len(acknowledged), rounds)
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
