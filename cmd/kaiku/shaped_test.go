package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// goodput is the part of a shaped rate that TCP carries: tbf counts 1514 bytes for a full frame,
// of which 1448 are payload (IPv4 with time stamps, MTU 1500).
const goodput = 1448.0 / 1514

// shapedHome is a home of two network namespaces on one cable: Kaiku stands in one, the laptop in
// the other.
type shapedHome struct {
	t       testing.TB
	kaiku   string // namespace
	laptop  string
	address string
	env     []string
}

// newShapedHome makes the namespaces and starts the built program in one of them. It needs root.
func newShapedHome(t testing.TB) *shapedHome {
	if name := "kaiku-try-" + fmt.Sprint(os.Getpid()); exec.Command("ip", "netns", "add", name).Run() != nil {
		t.Skip("needs root to make network namespaces")
	} else {
		require.NoError(t, exec.Command("ip", "netns", "del", name).Run())
	}
	if _, err := exec.LookPath("tc"); err != nil {
		t.Skip("needs tc to shape a cable")
	}
	const program = "../../bin/kaiku"
	if _, err := os.Stat(program); err != nil {
		t.Skip("the program is not built")
	}
	h := &shapedHome{t: t, kaiku: fmt.Sprintf("kaiku-a-%d", os.Getpid()), laptop: fmt.Sprintf("kaiku-b-%d", os.Getpid()), address: "10.20.4.2:7440"}
	for _, ns := range []string{h.kaiku, h.laptop} {
		h.run("ip", "netns", "add", ns)
		t.Cleanup(func() { h.run("ip", "netns", "del", ns) })
		h.run("ip", "-n", ns, "link", "set", "lo", "up")
	}
	h.run("ip", "-n", h.kaiku, "link", "add", "eth0", "type", "veth", "peer", "name", "eth0", "netns", h.laptop)
	for ns, address := range map[string]string{h.kaiku: "10.20.4.2/24", h.laptop: "10.20.4.77/24"} {
		h.run("ip", "-n", ns, "addr", "add", address, "dev", "eth0")
		h.run("ip", "-n", ns, "link", "set", "eth0", "up")
		h.run("ip", "-n", ns, "link", "set", "dev", "eth0", "gso_max_segs", "1") // else several frames count as one, with one header
	}
	data := t.TempDir()
	h.fill(data)
	cmd := exec.Command("ip", "netns", "exec", h.kaiku, program, "serve", "--data", data, "--listen", h.address, "--on-site", "--probe-within", "10.20.4.0/24")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
		require.NoError(t, cmd.Wait())
	})
	lines := bufio.NewScanner(out)
	for lines.Scan() && !strings.HasPrefix(lines.Text(), "Kaiku is running at ") {
	}
	h.env = append(os.Environ(), "KAIKU_URL=http://"+h.address, "KAIKU_HOUSEHOLD=H-0900", "KAIKU_SESSION_FILE="+t.TempDir()+"/session.json")
	password := filepath.Join(t.TempDir(), "password")
	require.NoError(t, os.WriteFile(password, []byte(demo.Password+"\n"), 0o600))
	h.cli("login", "petri", "--password-file", password)
	return h
}

// fill makes a firm and a home with a screen to measure at.
func (h *shapedHome) fill(data string) {
	st, err := store.Open(h.t.Context(), data, store.Options{})
	require.NoError(h.t, err)
	s := service.New(st, service.Options{})
	people, err := demo.AddFirm(h.t.Context(), s)
	require.NoError(h.t, err)
	_, err = s.Begin(h.t.Context(), people["petri"], wire.NewHousehold{Code: "H-0900", Name: "Shaped"}, service.Request{})
	require.NoError(h.t, err)
	_, _, err = s.Add(h.t.Context(), people["petri"], "H-0900", service.Change{Kind: dossier.KindNamed("device"), Record: &dossier.Device{Name: "screen"}}, service.Request{})
	require.NoError(h.t, err)
	require.NoError(h.t, st.Close())
}

func (h *shapedHome) run(name string, args ...string) {
	h.t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(h.t, err, "%s %s: %s", name, strings.Join(args, " "), out)
}

// cli runs the program on the laptop.
func (h *shapedHome) cli(args ...string) []byte {
	h.t.Helper()
	cmd := exec.Command("ip", append([]string{"netns", "exec", h.laptop, "../../bin/kaiku"}, args...)...)
	cmd.Env = h.env
	out, err := cmd.Output()
	require.NoError(h.t, err, "%s", out)
	return out
}

// shape makes the cable carry so much in both directions.
func (h *shapedHome) shape(mbps int) {
	for _, ns := range []string{h.kaiku, h.laptop} {
		h.run("tc", "-n", ns, "qdisc", "replace", "dev", "eth0", "root", "tbf", "rate", fmt.Sprintf("%dmbit", mbps), "burst", "32k", "latency", "200ms")
	}
}

// take measures from the laptop and returns the readings by what they measure.
func (h *shapedHome) take() map[dossier.Quantity]float64 {
	var done wire.Measured
	require.NoError(h.t, json.Unmarshal(h.cli("reading", "take", "--device", "screen", "--format", "json"), &done))
	out := map[dossier.Quantity]float64{}
	for _, r := range done.Readings {
		out[r.What] = r.Value
	}
	return out
}

// A laptop measures over a cable of known rate, from another namespace: all five readings are
// stored, and the rates are of its order. How near they come is for make bench: on a machine with
// other work a rate is a matter of time.
func TestAReadingOfAShapedCable(t *testing.T) {
	h := newShapedHome(t)
	h.shape(20)
	got := h.take()
	for _, what := range []dossier.Quantity{dossier.DownMbps, dossier.UpMbps} {
		assert.Greater(t, got[what], 4.0, what)
		assert.Less(t, got[what], 30.0, what)
	}
	for _, what := range []dossier.Quantity{dossier.LatencyMs, dossier.JitterMs, dossier.LossPercent} {
		assert.Contains(t, got, what)
	}
}

// BenchmarkReading prints how near a reading comes to what a shaped cable carries.
func BenchmarkReading(b *testing.B) {
	if os.Getuid() != 0 {
		fmt.Println("BenchmarkReading needs root to make network namespaces; not run.")
		b.Skip()
	}
	h := newShapedHome(b)
	for _, mbps := range []int{5, 20, 50, 100, 300} {
		b.Run(fmt.Sprintf("%dMbps", mbps), func(b *testing.B) {
			h.shape(mbps)
			worst := 0.0
			for b.Loop() {
				got := h.take()
				for _, what := range []dossier.Quantity{dossier.DownMbps, dossier.UpMbps} {
					off := got[what]/(float64(mbps)*goodput) - 1
					worst = max(worst, off, -off)
				}
			}
			b.ReportMetric(5, "aim-%")
			b.ReportMetric(100*worst, "measured-%")
			b.ReportMetric(100*worst/5, "ratio")
		})
	}
}
