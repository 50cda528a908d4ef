package probe

import (
	"fmt"
	"net"
	"net/netip"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
	"kaiku/practice"
)

// newLAN makes a network of a cable between this namespace, 10.20.4.2, and another one that has the
// other addresses. It returns a way to listen there. It needs root in this namespace.
func newLAN(t testing.TB, addresses ...string) func(at string) net.Listener {
	far := fmt.Sprintf("kaiku-lan-%d", os.Getpid())
	if err := exec.Command("ip", "netns", "add", far).Run(); err != nil {
		t.Skip("needs root to make network namespaces")
	}
	run := func(args ...string) {
		out, err := exec.Command("ip", args...).CombinedOutput()
		require.NoError(t, err, "ip %s: %s", strings.Join(args, " "), out)
	}
	t.Cleanup(func() {
		_ = exec.Command("ip", "link", "del", "lan0").Run() // it goes with its other end, but not at once
		run("netns", "del", far)
	})
	run("link", "add", "lan0", "type", "veth", "peer", "name", "eth0", "netns", far)
	run("addr", "add", "10.20.4.2/24", "dev", "lan0")
	run("link", "set", "lan0", "up")
	run("-n", far, "link", "set", "eth0", "address", "02:4b:49:00:04:10")
	for _, a := range addresses {
		run("-n", far, "addr", "add", a+"/24", "dev", "eth0")
	}
	run("-n", far, "link", "set", "eth0", "up")
	return func(at string) net.Listener {
		var l net.Listener
		thereIn(t, far, func() (err error) { l, err = net.Listen("tcp", at); return err })
		t.Cleanup(func() { _ = l.Close() })
		go func() {
			for {
				c, err := l.Accept()
				if err != nil {
					return
				}
				_ = c.Close()
			}
		}()
		return l
	}
}

// thereIn opens something in another network namespace.
func thereIn(t testing.TB, name string, open func() error) {
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	here, err := unix.Open("/proc/thread-self/ns/net", unix.O_RDONLY|unix.O_CLOEXEC, 0)
	require.NoError(t, err)
	defer func() { _ = unix.Close(here) }()
	there, err := unix.Open("/run/netns/"+name, unix.O_RDONLY|unix.O_CLOEXEC, 0)
	require.NoError(t, err)
	defer func() { _ = unix.Close(there) }()
	require.NoError(t, unix.Setns(there, unix.CLONE_NEWNET))
	err = open()
	require.NoError(t, unix.Setns(here, unix.CLONE_NEWNET))
	require.NoError(t, err)
}

// lanHome is a home whose segment is that network.
func lanHome() (*dossier.Dossier, *segmentScan, Prober) {
	d := homes.Small()
	d.Segments = dossier.Records[dossier.Segment]{d.Segments[0]}
	p := Prober{Guard: Guard{Within: []netip.Prefix{netip.MustParsePrefix("10.20.4.0/24")}}, Late: time.Second}
	g := &scanner{guard: p.Guard.ForHome(d), d: d, now: time.Now, hosts: map[netip.Addr]*matching.Host{}, spoke: map[netip.Addr]bool{}}
	own, via, _ := OwnAddress(d.Segments[0].Prefix)
	return d, g.segment(d.Segments[0], own, via), p
}

// TestASweepOfARealNetwork finds who is there by the neighbour table, with MAC addresses, and
// their open ports; a host that refuses everything is seen too.
func TestASweepOfARealNetwork(t *testing.T) {
	listen := newLAN(t, "10.20.4.10", "10.20.4.30")
	listen("10.20.4.10:80")
	listen("10.20.4.10:445")
	d, s, p := lanHome()
	q := s.sweep(t.Context())
	assert.Equal(t, matching.Answered, q.Ended)
	assert.Equal(t, 2, q.Answers)
	require.Len(t, s.hosts, 2)
	server := s.hosts[netip.MustParseAddr("10.20.4.10")]
	assert.Equal(t, []int{80, 445}, server.Open)
	assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:04:10"), server.Seen[1].Members["hardwareAddress"])
	assert.Empty(t, s.hosts[netip.MustParseAddr("10.20.4.30")].Open)

	g, err := p.Scan(t.Context(), d, nil)
	require.NoError(t, err)
	require.Len(t, g.Hosts, 2)
	silent := slices.IndexFunc(g.Asked, func(q matching.Question) bool { return q.Way == matching.BySSDP })
	assert.Equal(t, matching.Silent, g.Asked[silent].Ended, "silence is told as silence")
	assert.Equal(t, "lan0", g.Segments[0].Interface)
}

// BenchmarkDiscovery prints the figures of a scan of the practice house: what it fills, how long
// all of it takes, and UPnP alone.
func BenchmarkDiscovery(b *testing.B) {
	h := practice.New(75)
	require.NoError(b, h.Start(b.Context()))
	defer h.Stop()
	b.Run("Filled", func(b *testing.B) {
		right, list := 0, keepersHouse(b, h)
		for b.Loop() {
			d := bare(h)
			var wrong []string
			right, wrong, _ = compared(list, filled(b, d, gather(b, d)))
			require.Empty(b, wrong)
		}
		b.ReportMetric(80, "least-%")
		b.ReportMetric(float64(100*right)/float64(len(list)), "measured-%")
		b.ReportMetric(float64(100*right)/float64(len(list))/80, "ratio")
	})
	b.Run("Everything", func(b *testing.B) {
		d := bare(h)
		for b.Loop() {
			gather(b, d)
		}
		report(b, 8000)
	})
	b.Run("UPnPAlone", func(b *testing.B) {
		d := bare(h)
		for b.Loop() {
			p := Prober{Guard: Guard{Within: loopback}}
			g := &scanner{guard: p.Guard.ForHome(d), d: d, now: time.Now, hosts: map[netip.Addr]*matching.Host{}, mx: 1, asked: map[string]bool{}, ofOne: map[netip.Addr]chan struct{}{}, spoke: map[netip.Addr]bool{}, limit: make(chan struct{}, atOnce)}
			own, via, _ := OwnAddress(d.Segments[0].Prefix)
			s := g.segment(d.Segments[0], own, via)
			s.question(b.Context(), matching.BySSDP, s.ssdp)
			g.running.Wait()
			require.NotEmpty(b, g.hosts)
		}
		report(b, 1300)
	})
}

// BenchmarkSweep prints how long a sweep of a /24 by twelve ports takes, with five hosts there.
func BenchmarkSweep(b *testing.B) {
	if os.Getuid() != 0 {
		fmt.Println("BenchmarkSweep needs root to make network namespaces; not run.")
		b.Skip()
	}
	addresses := []string{"10.20.4.10", "10.20.4.11", "10.20.4.12", "10.20.4.13", "10.20.4.14"}
	listen := newLAN(b, addresses...)
	for _, a := range addresses {
		listen(a + ":80")
	}
	for b.Loop() {
		_, s, _ := lanHome()
		q := s.sweep(b.Context())
		require.Equal(b, 5, q.Answers)
	}
	report(b, 800)
}

func report(b *testing.B, aim float64) {
	measured := float64(b.Elapsed().Microseconds()) / 1000 / float64(b.N)
	b.ReportMetric(aim, "aim-ms")
	b.ReportMetric(measured, "measured-ms")
	b.ReportMetric(measured/aim, "ratio")
}

// What stands in the neighbour table from before is not present: a host that was unplugged, and the MAC
// addresses of two that were swapped, are told as they are now, whether or not the system lets us speak ARP.
func TestPresentMeansAnsweredNow(t *testing.T) {
	for _, noRaw := range []bool{false, true} {
		t.Run(fmt.Sprint("without ARP ", noRaw), func(t *testing.T) {
			newLAN(t, "10.20.4.10", "10.20.4.11", "10.20.4.12")
			far := fmt.Sprintf("kaiku-lan-%d", os.Getpid())
			run := func(args ...string) {
				out, err := exec.Command("ip", args...).CombinedOutput()
				require.NoError(t, err, "ip %s: %s", strings.Join(args, " "), out)
			}
			d, _, p := lanHome()
			p.noRaw, p.Late = noRaw, 100*time.Millisecond
			scan := func() map[string]any {
				g, err := p.Scan(t.Context(), d, nil)
				require.NoError(t, err)
				out := map[string]any{}
				for _, h := range g.Hosts {
					out[h.Address.String()] = h.Seen[1].Members["hardwareAddress"]
				}
				return out
			}
			require.Len(t, scan(), 3)
			run("-n", far, "addr", "del", "10.20.4.11/24", "dev", "eth0")
			run("-n", far, "link", "add", "second", "link", "eth0", "address", "02:4b:49:00:04:77", "type", "macvlan", "mode", "bridge")
			run("-n", far, "addr", "del", "10.20.4.12/24", "dev", "eth0")
			run("-n", far, "addr", "add", "10.20.4.12/24", "dev", "second")
			run("-n", far, "link", "set", "second", "up")
			run("netns", "exec", far, "sysctl", "-qw", "net.ipv4.conf.all.arp_ignore=1")
			run("neigh", "change", "10.20.4.11", "dev", "lan0", "nud", "stale")
			run("neigh", "change", "10.20.4.12", "dev", "lan0", "nud", "stale")
			assert.Equal(t, map[string]any{"10.20.4.10": dossier.HardwareAddr("02:4b:49:00:04:10"), "10.20.4.12": dossier.HardwareAddr("02:4b:49:00:04:77")}, scan())
		})
	}
}

// A host that the system trusts from before the scan is asked for an echo; where it does not answer that either,
// nobody says that it is there, and nobody that it is silent.
func TestWhoIsTrustedFromBeforeIsAskedAgain(t *testing.T) {
	newLAN(t, "10.20.4.10", "10.20.4.11")
	require.NoError(t, os.WriteFile("/proc/sys/net/ipv4/ping_group_range", []byte("0 2147483647"), 0))
	far := fmt.Sprintf("kaiku-lan-%d", os.Getpid())
	run := func(args ...string) {
		out, err := exec.Command("ip", args...).CombinedOutput()
		require.NoError(t, err, "ip %s: %s", strings.Join(args, " "), out)
	}
	d, _, p := lanHome()
	p.noRaw, p.Late = true, 100*time.Millisecond
	recorded := dossier.Interface{Device: d.Devices[0].ID, Name: "x", Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.11")}, Segment: d.Segments[0].ID}
	recorded.ID = homes.ID[dossier.Interface](77)
	d.Interfaces = dossier.Records[dossier.Interface]{recorded}
	scan := func() matching.Scan {
		for _, at := range []string{"10.20.4.10", "10.20.4.11"} {
			run("neigh", "replace", at, "lladdr", "02:4b:49:00:04:10", "dev", "lan0", "nud", "reachable")
		}
		require.Eventually(t, func() bool {
			table, err := neighbourTable()
			return err == nil && !slices.ContainsFunc(table, func(n neighbour) bool { return n.here(time.Now().Add(-50 * time.Millisecond)) })
		}, 5*time.Second, 10*time.Millisecond)
		g, err := p.Scan(t.Context(), d, nil)
		require.NoError(t, err)
		return g
	}
	run("-n", far, "rule", "add", "from", "all", "to", "10.20.4.2", "ipproto", "tcp", "blackhole")
	run("-n", far, "rule", "add", "from", "10.20.4.11", "to", "10.20.4.2", "blackhole")
	g := scan()
	require.Len(t, g.Hosts, 1)
	assert.Equal(t, "10.20.4.10", g.Hosts[0].Address.String())
	assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:04:10"), g.Hosts[0].Seen[1].Members["hardwareAddress"])
	assert.Equal(t, []netip.Addr{netip.MustParseAddr("10.20.4.11")}, g.Unasked)
	for _, b := range matching.Compare(d, g, matching.Scan{}, nil) {
		assert.NotEqual(t, matching.NotSeen, b.Status)
	}
}

func FuzzNeighbour(f *testing.F) {
	f.Add(make([]byte, 64))
	f.Fuzz(func(t *testing.T, b []byte) {
		n, ok := readNeighbour(b, time.Now())
		if ok && !n.address.IsValid() {
			t.Error("no address")
		}
		_, _, _ = readARP(b)
	})
}

// Addresses of one host in both families are one host: the recorded IPv6 address is asked for as well.
func TestBothFamiliesAreOneHost(t *testing.T) {
	newLAN(t, "10.20.4.10")
	far := fmt.Sprintf("kaiku-lan-%d", os.Getpid())
	run := func(args ...string) {
		out, err := exec.Command("ip", args...).CombinedOutput()
		require.NoError(t, err, "ip %s: %s", strings.Join(args, " "), out)
	}
	run("addr", "add", "2001:db8:4::2/64", "dev", "lan0", "nodad")
	run("-n", far, "addr", "add", "2001:db8:4::10/64", "dev", "eth0", "nodad")
	d, _, p := lanHome()
	d.Segments[0].Prefix6 = netip.MustParsePrefix("2001:db8:4::/64")
	p.Guard.Within = append(p.Guard.Within, d.Segments[0].Prefix6)
	recorded := dossier.Interface{Device: d.Devices[0].ID, Name: "x", Addresses: []netip.Addr{netip.MustParseAddr("2001:db8:4::10"), netip.MustParseAddr("2001:db8:4::99")}, Segment: d.Segments[0].ID}
	recorded.ID = homes.ID[dossier.Interface](77)
	d.Interfaces.Put(recorded)
	g, err := p.Scan(t.Context(), d, nil)
	require.NoError(t, err)
	require.Len(t, g.Hosts, 1)
	assert.Equal(t, []netip.Addr{netip.MustParseAddr("10.20.4.10"), netip.MustParseAddr("2001:db8:4::10")}, g.Hosts[0].Seen[1].Members["addresses"], "one that does not answer is not there")
}
