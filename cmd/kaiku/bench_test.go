package main

import (
	"bufio"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkStart starts the built program on a data folder that is there, until it serves, and
// looks at the memory it holds then. make bench builds it first.
func BenchmarkStart(b *testing.B) {
	const program = "../../bin/kaiku"
	if _, err := os.Stat(program); err != nil {
		b.Fatal("the program is not built; run make bench")
	}
	data := b.TempDir()
	var slowest time.Duration
	rss := 0.0
	started := time.Duration(0)
	for range b.N + 1 { // the first makes the data folder and is not counted
		cmd := exec.Command(program, "serve", "--data", data, "--listen", "127.0.0.1:0")
		out, err := cmd.StdoutPipe()
		require.NoError(b, err)
		began := time.Now()
		require.NoError(b, cmd.Start())
		lines := bufio.NewScanner(out)
		for lines.Scan() && !strings.HasPrefix(lines.Text(), "Kaiku is running at ") {
		}
		took := time.Since(began)
		if started > 0 {
			slowest = max(slowest, took)
		}
		started += took
		rss = memory(b, cmd.Process.Pid)
		require.NoError(b, cmd.Process.Signal(syscall.SIGTERM))
		require.NoError(b, cmd.Wait())
	}
	b.ReportMetric(300, "aim-ms")
	b.ReportMetric(float64(slowest.Microseconds())/1000, "measured-ms")
	b.ReportMetric(float64(slowest.Milliseconds())/300, "ratio")
	b.ReportMetric(80, "aim-MB")
	b.ReportMetric(rss, "idle-MB")
}

// memory is what a process holds, in MB.
func memory(b *testing.B, pid int) float64 {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	require.NoError(b, err)
	for line := range bytes.Lines(text) {
		var kB float64
		if n, _ := fmt.Sscanf(string(line), "VmRSS: %f kB", &kB); n == 1 {
			return kB / 1000
		}
	}
	b.Fatal("no VmRSS")
	return 0
}
