package watching_test

import (
	"context"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"kaiku/core/demand"
	"kaiku/practice/watching"
)

// goodput is the part of a rate set by tbf that TCP carries: it counts 1514 bytes for a full frame, of which 1448 are payload.
const goodput = 1448.0 / 1514

// spaces are network namespaces of one test.
type spaces struct {
	t    testing.TB
	name string
	n    int
}

var made atomic.Int32

// newSpaces needs root, ip and tc.
func newSpaces(t testing.TB) *spaces {
	s := &spaces{t: t, name: fmt.Sprintf("kaiku-w%d-%d-", os.Getpid(), made.Add(1))}
	if exec.Command("ip", "netns", "add", s.name+"try").Run() != nil {
		t.Skip("needs root to make network namespaces")
	}
	s.run("ip", "netns", "del", s.name+"try")
	if _, err := exec.LookPath("tc"); err != nil {
		t.Skip("needs tc to shape a cable")
	}
	return s
}

func (s *spaces) run(name string, args ...string) {
	s.t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(s.t, err, "%s %s: %s", name, strings.Join(args, " "), out)
}

func (s *spaces) add() string {
	s.n++
	ns := fmt.Sprint(s.name, s.n)
	s.run("ip", "netns", "add", ns)
	s.t.Cleanup(func() { s.run("ip", "netns", "del", ns) })
	s.run("ip", "-n", ns, "link", "set", "lo", "up")
	return ns
}

// cable joins two namespaces, of which each gets an address of that network.
func (s *spaces) cable(a, b string, net int) {
	one, other := fmt.Sprint("to", net), fmt.Sprint("from", net)
	s.run("ip", "-n", a, "link", "add", one, "type", "veth", "peer", "name", other, "netns", b)
	for ns, dev := range map[string]string{a: one, b: other} {
		host := map[string]int{a: 1, b: 2}[ns]
		s.run("ip", "-n", ns, "addr", "add", fmt.Sprintf("10.20.%d.%d/24", net, host), "dev", dev)
		s.run("ip", "-n", ns, "link", "set", dev, "up")
		s.run("ip", "-n", ns, "link", "set", "dev", dev, "gso_max_segs", "1") // else several frames count as one, with one header
	}
}

// A cable does not carry less because this machine has paused: what was not sent for so long may be made up for. It is a hundredth of the
// shortest wait.
const madeUpFor = 20 * time.Millisecond

// shape lets TCP get so much over a cable, in both directions.
func (s *spaces) shape(a, b string, net int, mbps float64) {
	burst := max(16_000, int(mbps*1e6/8*madeUpFor.Seconds()))
	for ns, dev := range map[string]string{a: fmt.Sprint("to", net), b: fmt.Sprint("from", net)} {
		s.run("tc", "-n", ns, "qdisc", "replace", "dev", dev, "root", "tbf", "rate", fmt.Sprintf("%.0fbit", mbps/goodput*1e6), "burst", fmt.Sprint(burst), "latency", "100ms")
	}
}

// inside does something in a namespace. Sockets that it opens stay there.
func inside[T any](ns string, do func() (T, error)) (T, error) {
	type outcome struct {
		got T
		err error
	}
	done := make(chan outcome)
	go func() {
		runtime.LockOSThread() // and never unlocked: the thread ends with the goroutine
		var o outcome
		f, err := os.Open("/run/netns/" + ns)
		if err == nil {
			if err = unix.Setns(int(f.Fd()), unix.CLONE_NEWNET); err == nil {
				o.got, err = do()
			}
			_ = f.Close()
		}
		o.err = err
		done <- o
	}()
	o := <-done
	return o.got, o.err
}

func serveIn(t testing.TB, ns, address string, h http.Handler) {
	l, err := inside(ns, func() (net.Listener, error) { return net.Listen("tcp", address) })
	require.NoError(t, err)
	server := &http.Server{Handler: h}
	done := make(chan struct{})
	go func() {
		defer close(done)
		_ = server.Serve(l) // it ends when the test does
	}()
	t.Cleanup(func() {
		assert.NoError(t, server.Close())
		<-done
	})
}

func clientIn(ns string) *http.Client {
	return &http.Client{Transport: &http.Transport{DisableKeepAlives: true, DialContext: func(ctx context.Context, network, address string) (net.Conn, error) {
		return inside(ns, func() (net.Conn, error) { return new(net.Dialer).DialContext(ctx, network, address) })
	}}}
}

// rightOnACable plays an evening over a cable of namespaces that is shaped both ways, through a machine in the middle or not. Several who
// watch share a cable unevenly, so what is enough for them is what a load calls tight.
func (e evening) rightOnACable(t *testing.T, through bool) bool {
	r := rand.New(rand.NewPCG(e.seed, 1))
	f := watching.Draw(r)
	_, need := read(t, f)
	needed := need.Mbps[slices.Index(demand.Waits[:], e.wait)]
	from := hardest(f, e.wait)
	s := newSpaces(t)
	server, viewer := s.add(), s.add()
	times, wait, keep := e.times, seconds(e.wait), time.Duration(0)
	if e.viewers > 1 {
		keep = wait // one that fetches all at once would take what the others need
		if times > 1 {
			times = headRoom / tight
		}
	}
	mbps := times * needed * float64(e.viewers)
	if through {
		middle := s.add()
		s.cable(server, middle, 1)
		s.cable(middle, viewer, 2)
		s.run("ip", "netns", "exec", middle, "sysctl", "-q", "-w", "net.ipv4.ip_forward=1")
		s.run("ip", "-n", server, "route", "add", "10.20.2.0/24", "via", "10.20.1.2")
		s.run("ip", "-n", viewer, "route", "add", "10.20.1.0/24", "via", "10.20.2.1")
		s.shape(server, middle, 1, mbps*1.5) // the other half of the way is the narrow one
		s.shape(middle, viewer, 2, mbps)
	} else {
		s.cable(server, viewer, 1)
		s.shape(server, viewer, 1, mbps)
	}
	serveIn(t, server, "10.20.1.1:40280", film(f))
	var wg sync.WaitGroup
	var stalls atomic.Int32
	for range e.viewers {
		wg.Go(func() {
			got, err := f.Watch(t.Context(), clientIn(viewer), "http://10.20.1.1:40280/film", from, wait, keep)
			assert.NoError(t, err)
			stalls.Add(int32(got.Stalls))
		})
	}
	wg.Wait()
	if right := stalls.Load() > 0 == (e.times < 1); !right {
		t.Logf("not as said: %d stalls in %+v", stalls.Load(), e)
		return false
	}
	return true
}

// atOnce does something for each, for so many at a time.
func atOnce(list []int, most int, do func(int)) {
	turn := make(chan struct{}, most)
	var wg sync.WaitGroup
	for _, i := range list {
		turn <- struct{}{}
		wg.Go(func() {
			do(i)
			<-turn
		})
	}
	wg.Wait()
}

// Whether a player in real time stalls depends on the machine as well: make bench prints how often what is said holds. In make
// test it is held that what cannot be carried stalls.
func asked(t *testing.T, n int) []int {
	t.Helper()
	if os.Getenv("KAIKU_EVENINGS") == "" {
		t.Parallel() // the bench measures, and does one thing at a time
		return []int{1}
	}
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// The same holds over real sockets and cables that the kernel shapes.
func TestWhatAFilmNeedsIsWhatACableHasToCarry(t *testing.T) {
	all := told(evenings(t) / 2)
	var mu sync.Mutex
	var y tally
	atOnce(asked(t, len(all)), 8, func(i int) {
		right := all[i].rightOnACable(t, i/2%2 == 0)
		mu.Lock()
		defer mu.Unlock()
		y.add(right)
	})
	y.print(t, "NeedHoldsOnACable", 98)
}

// air is a channel that stations share: a frame to or from a station takes the time that its rate gives, and nobody else sends meanwhile.
type air struct {
	medium *watching.Medium
	taps   []*os.File // of the access point, then of the stations
	mbps   []float64
	macs   []net.HardwareAddr
	queues []chan []byte // of frames towards each
}

// newAir makes an access point in one namespace and stations in others, each at its rate on the air.
func newAir(t *testing.T, s *spaces, mbps []float64) (*air, []string) {
	a := &air{medium: watching.NewMedium(), mbps: append([]float64{0}, mbps...)}
	var names []string
	for n := range a.mbps {
		ns := s.add()
		names = append(names, ns)
		f, err := inside(ns, func() (*os.File, error) { return tap("air0") })
		if err != nil {
			t.Skip("needs /dev/net/tun to simulate a channel: ", err)
		}
		mac := net.HardwareAddr{2, 0x4b, 0x49, 9, 0, byte(n + 1)}
		s.run("ip", "-n", ns, "link", "set", "air0", "address", mac.String(), "up")
		s.run("ip", "-n", ns, "addr", "add", fmt.Sprintf("10.20.9.%d/24", n+1), "dev", "air0")
		a.taps, a.macs, a.queues = append(a.taps, f), append(a.macs, mac), append(a.queues, make(chan []byte, 100))
	}
	var wg sync.WaitGroup
	for n := range a.taps {
		wg.Go(func() { a.hear(n) })
		wg.Go(func() { a.send(n) })
	}
	t.Cleanup(func() {
		for _, f := range a.taps {
			assert.NoError(t, f.Close())
		}
		wg.Wait()
	})
	return a, names
}

func tap(name string) (*os.File, error) {
	fd, err := unix.Open("/dev/net/tun", unix.O_RDWR|unix.O_CLOEXEC|unix.O_NONBLOCK, 0)
	if err != nil {
		return nil, err
	}
	req, err := unix.NewIfreq(name)
	if err == nil {
		req.SetUint16(unix.IFF_TAP | unix.IFF_NO_PI)
		err = unix.IoctlIfreq(fd, unix.TUNSETIFF, req)
	}
	if err != nil {
		_ = unix.Close(fd)
		return nil, err
	}
	return os.NewFile(uintptr(fd), "tap"), nil
}

// hear takes what a namespace sends, and drops it where the queue is full.
func (a *air) hear(from int) {
	defer close(a.queues[from])
	for {
		b := make([]byte, 2048)
		n, err := a.taps[from].Read(b)
		if err != nil {
			return
		}
		select {
		case a.queues[from] <- b[:n]:
		default:
		}
	}
}

// send lets the frames of a namespace pass the air one by one. Those of the access point to different stations wait for each other, as they
// do in an ordinary one.
func (a *air) send(from int) {
	for b := range a.queues[from] {
		if len(b) < 14 {
			continue
		}
		for to := range a.taps {
			if to == from || from != 0 && to != 0 || b[0]&1 == 0 && net.HardwareAddr(b[:6]).String() != a.macs[to].String() {
				continue
			}
			a.medium.Pass(len(b), max(a.mbps[from], a.mbps[to]))
			_, _ = a.taps[to].Write(b) // one that is going down takes nothing more
		}
	}
}

// got is what TCP gets from the access point at a station that is alone, in Mb/s.
func got(t *testing.T, ns string) float64 {
	ctx, stop := context.WithTimeout(t.Context(), 10*time.Second)
	defer stop()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://10.20.9.1:40280/bulk", nil)
	require.NoError(t, err)
	answer, err := clientIn(ns).Do(req)
	require.NoError(t, err)
	defer func() { _ = answer.Body.Close() }() // it is cut off
	_, err = io.CopyN(io.Discard, answer.Body, 200_000)
	require.NoError(t, err)
	began, bytes := time.Now(), int64(0)
	for time.Since(began) < 2*time.Second {
		n, err := io.CopyN(io.Discard, answer.Body, 16<<10)
		require.NoError(t, err)
		bytes += n
	}
	return float64(bytes) * 8 / time.Since(began).Seconds() / 1e6
}

// On a channel that stations share, what each needs of what it gets alone adds up: to how busy the air is, and to whether somebody stalls.
func TestAirTimeAddsUp(t *testing.T) {
	var mu sync.Mutex
	var shares, stalls tally
	atOnce(asked(t, evenings(t)/12), 2, func(n int) {
		r := rand.New(rand.NewPCG(uint64(n), 23))
		s := newSpaces(t)
		var rates []float64
		for range 2 + r.IntN(3) {
			rates = append(rates, 8+32*r.Float64())
		}
		a, names := newAir(t, s, rates)
		mux := http.NewServeMux()
		mux.HandleFunc("/bulk", func(w http.ResponseWriter, _ *http.Request) {
			_, _ = io.Copy(w, rand.NewChaCha8([32]byte{})) // until the client has enough
		})
		serveIn(t, names[0], "10.20.9.1:40280", mux)
		const length, wait = 15 * time.Second, 5 * time.Second
		total, of := []float64{0.8, 1.15}[n%2], 0.0
		parts := make([]float64, len(rates))
		for i := range parts {
			parts[i] = 0.5 + r.Float64()
			of += parts[i]
		}
		var films []*watching.Film
		for i := range rates {
			need := total * parts[i] / of * got(t, names[i+1]) // of rateNeeded
			f := watching.Even(need*(length+wait).Seconds()/length.Seconds(), length)
			mux.Handle(fmt.Sprint("/", i), film(f))
			films = append(films, f)
		}
		before, began := a.medium.Busy(), time.Now()
		var seen atomic.Int32
		var wg sync.WaitGroup
		for i, f := range films {
			wg.Go(func() {
				got, err := f.Watch(t.Context(), clientIn(names[i+1]), fmt.Sprint("http://10.20.9.1:40280/", i), 0, wait, wait)
				assert.NoError(t, err)
				seen.Add(int32(got.Stalls))
			})
		}
		wg.Wait()
		busy := (a.medium.Busy() - before).Seconds() / time.Since(began).Seconds()
		mu.Lock()
		defer mu.Unlock()
		t.Logf("%d stations: %.2f of the air needed, %.2f taken, %d stalls", len(rates), total, busy, seen.Load())
		stalls.add(seen.Load() > 0 == (total > 1))
		if total < 1 {
			shares.add(math.Abs(busy-total) < 0.1*total)
		}
	})
	stalls.print(t, "StallsOnAChannel", 95)
	if shares.of > 0 {
		shares.print(t, "AirTimeWithin10Percent", 95)
	}
}
