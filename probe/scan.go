package probe

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"net/netip"
	"slices"
	"sync"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/safely"
)

// Bounds of a scan of a home's network: it ends in its time, whatever answers.
const (
	scanTime      = 12 * time.Second // all of it, unless another time is asked for
	hostTime      = 8 * time.Second  // one question to one host: slow is not absent
	lateTime      = 4 * time.Second  // how long answers to a search are waited for
	atOnce        = 128              // questions that are open at the same time
	atOnceOfOne   = 4                // of these to one host: one that is silent does not cost others their turn
	mostHosts     = 2000             // hosts that are kept
	mostQuestions = 200              // questions to one host that are kept
)

// Scan scans all of the home's segments, in the usual time; see ScanOf.
func (p Prober) Scan(ctx context.Context, d *dossier.Dossier, tell func(matching.Progress)) (matching.Scan, error) {
	return p.ScanOf(ctx, d, matching.Wanted{}, tell)
}

// ScanOf searches every recorded segment that this machine is connected to, or one host in them: what
// is there, what it speaks, what it serves, what it can decode. Nothing is written, and nothing is
// left behind. It ends within its time; when it is stopped, it returns what was seen until then.
func (p Prober) ScanOf(ctx context.Context, d *dossier.Dossier, what matching.Wanted, tell func(matching.Progress)) (matching.Scan, error) {
	now := p.Now
	if now == nil {
		now = time.Now
	}
	whole, late := min(cmp.Or(what.Time, scanTime), matching.LongestScan), cmp.Or(p.Late, lateTime)
	g := &scanner{guard: p.Guard.ForHome(d), d: d, now: now, tell: tell, hosts: map[netip.Addr]*matching.Host{}, mx: 1, late: min(late, whole/2), asked: map[string]bool{}, limit: make(chan struct{}, atOnce), ofOne: map[netip.Addr]chan struct{}{}, spoke: map[netip.Addr]bool{}, login: p.Shares, log: p.Log}
	g.out.Began, g.began, g.noRaw, g.only, g.out.Only = dossier.At(now()), time.Now(), p.noRaw, what.Only, what.Only
	g.out.Segments, g.out.Asked, g.out.Hosts = []matching.CoveredSegment{}, []matching.Question{}, []matching.Host{}
	in := ctx
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	behind := watching(ctx, p.late)
	g.guard.lag = behind
	if what.Time != 0 { // who asks for a time gets that time
		behind = nil
	}
	defer after(whole, behind.outlast, cancel)()
	g.life = ctx
	for _, s := range d.Segments {
		own, via, here := OwnAddress(s.Prefix)
		if what.Only.IsValid() && !s.Prefix.Contains(what.Only) && !s.Prefix6.Contains(what.Only) {
			continue
		}
		if !here || g.guard.Allow(own) != nil {
			continue
		}
		g.out.Segments = append(g.out.Segments, matching.CoveredSegment{Segment: s.ID, From: own, Interface: via.Name})
		g.segments = append(g.segments, g.segment(s, own, via))
	}
	for _, s := range g.segments {
		s.look(ctx)
	}
	g.running.Wait()
	g.neighbours(ctx)
	for _, s := range g.segments {
		s.settle6(ctx)
		s.told6()
		s.noteRouters()
	}
	g.running.Wait()
	g.askHosts(ctx)
	g.running.Wait()
	g.noteLater()
	g.fromGateway()
	for _, s := range g.segments {
		for i, q := range g.out.Asked {
			if q.Segment == s.segment.ID && q.Way == matching.BySSDP {
				g.out.Asked[i].LeftOut += s.left
			}
		}
	}
	g.keepUnasked()
	g.out.Short = in.Err() != nil || ctx.Err() != nil
	if lost := g.guard.lag.share(); lost > lagMuch {
		g.failed = true
		g.note(fmt.Sprintf("this machine was busy with other things for %.0f %% of the scan and may have missed answers", 100*lost))
	}
	g.out.Cut = g.failed || slices.ContainsFunc(g.segments, func(s *segmentScan) bool { return s.left > 0 })
	g.out.Ended = dossier.At(now())
	slices.SortStableFunc(g.out.Asked, func(a, b matching.Question) int {
		return cmp.Or(cmp.Compare(a.Segment, b.Segment), cmp.Compare(a.Way, b.Way))
	})
	for _, a := range slices.SortedFunc(maps.Keys(g.hosts), netip.Addr.Compare) {
		if g.only.IsValid() && a != g.only {
			continue
		}
		g.hosts[a].Settle()
		g.hosts[a].Cut()
		g.out.Hosts = append(g.out.Hosts, *g.hosts[a])
	}
	return g.out, nil
}

// scanner is one scan while it is under way.
type scanner struct {
	guard    HomeGuard
	d        *dossier.Dossier
	now      func() time.Time
	tell     func(matching.Progress)
	mx       int
	began    time.Time
	only     netip.Addr
	life     context.Context // of the scan: a question outlives the one that led to it
	noRaw    bool            // for tests: as if the system did not let us speak ARP
	late     time.Duration   // how long late answers are waited for
	segments []*segmentScan
	running  sync.WaitGroup
	limit    chan struct{}
	login    Login
	log      *slog.Logger // nil on a laptop

	mu    sync.Mutex // holds what follows
	out   matching.Scan
	hosts map[netip.Addr]*matching.Host
	asked map[string]bool // what has been asked already, by whatever led there
	ofOne map[netip.Addr]chan struct{}
	spoke map[netip.Addr]bool // who said its MAC address itself
	done  int
	of    int

	failed bool // a question panicked, or answers may have been missed

	forwarded []forwarded
	reserved  []netip.Addr
	later     []said
}

// said is something that is noted of a host at the end, in an order of its own: what several devices
// behind one address say of themselves must not depend on whose answer came first.
type said struct {
	at    netip.Addr
	what  string // of one host only the first is noted of each
	order string
	note  func(*matching.Host)
}

// atEnd keeps something to be noted of a host at the end of the scan.
func (g *scanner) atEnd(one said) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if len(g.later) < 4*mostHosts {
		g.later = append(g.later, one)
	}
}

// noteLater notes what was kept for the end.
func (g *scanner) noteLater() {
	slices.SortStableFunc(g.later, func(a, b said) int {
		return cmp.Or(a.at.Compare(b.at), cmp.Compare(a.what, b.what), cmp.Compare(a.order, b.order))
	})
	for n, one := range g.later {
		if n > 0 && g.later[n-1].at == one.at && g.later[n-1].what == one.what {
			continue
		}
		if h := g.hosts[one.at]; h != nil {
			one.note(h)
		}
	}
}

// segmentScan is the scan of one segment.
type segmentScan struct {
	*scanner
	guard   HomeGuard
	segment dossier.Segment
	own     netip.Addr
	own6    []netip.Addr
	via     *net.Interface

	// Under the lock of scanner:
	left      int                       // hosts that were not kept
	locations map[netip.Addr]int        // descriptions announced by each host
	heard     []heard6                  // what came by IPv6
	routers   []advertisement           // what routers advertise
	same      map[netip.Addr]netip.Addr // addresses of IPv6, each with the one under which its host is kept
	udns      map[string]bool           // what each host has described, by its address and the UDN
}

// segment begins the scan of one segment from an own address by an adapter.
func (g *scanner) segment(of dossier.Segment, own netip.Addr, via *net.Interface) *segmentScan {
	s := &segmentScan{scanner: g, guard: g.guard.on(via), segment: of, own: own, via: via, locations: map[netip.Addr]int{}, same: map[netip.Addr]netip.Addr{}, udns: map[string]bool{}}
	if !own.IsLoopback() {
		s.own6 = ownAddresses6(via)
	}
	return s
}

// look puts all questions to the segment, side by side.
func (s *segmentScan) look(ctx context.Context) {
	for _, q := range []struct {
		way matching.Way
		ask func(context.Context) matching.Question
	}{
		{matching.BySSDP, s.ssdp}, {matching.BySSDP6, s.ssdp6}, {matching.ByICMP6, s.icmp6}, {matching.ByNotify, s.notify}, {matching.ByMDNS, s.mdns}, {matching.BySweep, s.sweep}, {matching.ByNATPMP, s.natPMP}, {matching.ByPCP, s.pcp}, {matching.ByWSD, s.wsDiscovery},
	} {
		s.question(ctx, q.way, q.ask)
	}
}

// question puts one question to the segment in the background and notes how it ended.
func (s *segmentScan) question(ctx context.Context, way matching.Way, ask func(context.Context) matching.Question) {
	s.begin(string(way) + ", " + s.segment.Name)
	s.running.Go(func() {
		began := time.Now()
		q := s.safe(func() matching.Question { return ask(ctx) })
		q.Way, q.Segment = way, s.segment.ID
		q.Seconds = secondsSince(began)
		if ctx.Err() != nil && q.Ended == matching.Silent {
			q.Ended = matching.Stopped
		}
		s.mu.Lock()
		s.out.Asked = append(s.out.Asked, q)
		s.mu.Unlock()
		s.end()
	})
}

// safe carries out a question. One that panics ends as not understood, and the scan says so and goes on.
func (g *scanner) safe(question func() matching.Question) (q matching.Question) {
	err := safely.Do(func() error { q = question(); return nil })
	var fell *safely.Panicked
	if errors.As(err, &fell) {
		g.fell(fell)
		q = matching.Question{Ended: matching.Broken, Detail: "an error in Kaiku itself: " + err.Error()}
	}
	return q
}

// fell notes that a part of the scan panicked: what it would have seen is not silent.
func (g *scanner) fell(p *safely.Panicked) {
	g.mu.Lock()
	g.failed = true
	g.mu.Unlock()
	g.note("a question failed by an error in Kaiku itself: " + p.Error())
	if g.log != nil {
		g.log.Error("a question of a scan panicked", "error", p, "stack", string(p.Stack))
	}
}

func (g *scanner) begin(doing string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.of++
	g.say(doing)
}

func (g *scanner) end() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.done++
	g.say("")
}

func (g *scanner) say(doing string) {
	if g.tell != nil {
		g.tell(matching.Progress{Doing: doing, Done: g.done, Of: g.of, Hosts: len(g.hosts)})
	}
}

// host lets note something of the host at an address, if it lies in the segment and may be asked.
// It reports whether it does.
func (s *segmentScan) host(at netip.Addr, note func(*matching.Host)) bool {
	at = at.Unmap().WithZone("")
	s.mu.Lock()
	defer s.mu.Unlock()
	if owner, known := s.same[at]; known {
		at = owner
	}
	if s.only.IsValid() && at != s.only && at != s.segment.Gateway { // the gateway also reports on other hosts
		return false
	}
	if !s.segment.Prefix.Contains(at) && !s.may6(at) || at == s.own && !s.own.IsLoopback() || s.guard.Allow(at) != nil {
		return false
	}
	h := s.hosts[at]
	if h == nil {
		if len(s.hosts) >= mostHosts {
			s.left++ // told with the search
			return false
		}
		one := matching.NewHost(s.segment.ID, at)
		h = &one
		s.hosts[at] = h
	}
	note(h)
	return true
}

// answered notes how a question to a host ended.
func (s *segmentScan) answered(at netip.Addr, q matching.Question) {
	q.Detail = matching.Clean(q.Detail)
	s.host(at, func(h *matching.Host) {
		if len(h.Answers) < mostQuestions {
			h.Answers = append(h.Answers, q)
		}
	})
}

// first reports whether that place has not been asked yet, and marks it.
func (g *scanner) first(place string) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.asked[place] {
		return false
	}
	g.asked[place] = true
	return true
}

// turns returns what holds the questions to one host to their number.
func (g *scanner) turns(at netip.Addr) chan struct{} {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.ofOne[at] == nil {
		g.ofOne[at] = make(chan struct{}, atOnceOfOne)
	}
	return g.ofOne[at]
}

// ask puts one question to a host in the background, within its own time and only so many at once.
func (s *segmentScan) ask(ctx context.Context, at netip.AddrPort, way matching.Way, question func(context.Context) matching.Question) {
	if s.life != nil {
		ctx = s.life
	}
	s.begin(string(way) + " at " + at.String())
	s.running.Go(func() {
		defer s.end()
		q := matching.Question{Ended: matching.Stopped}
		began := time.Now()
		one := s.turns(at.Addr())
		if take(ctx, one) {
			defer func() { <-one }()
		}
		if take(ctx, s.limit) {
			defer func() { <-s.limit }()
			ctx, cancel := context.WithTimeout(ctx, s.guard.lag.patient(hostTime))
			defer cancel()
			began = time.Now()
			q = s.safe(func() matching.Question { return question(ctx) })
		}
		q.Way, q.Port = way, int(at.Port())
		q.Seconds = secondsSince(began)
		s.answered(at.Addr(), q)
	})
}

// note keeps something that is to be said of the scan as a whole.
func (g *scanner) note(text string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if len(g.out.Notes) < 16 {
		g.out.Notes = append(g.out.Notes, matching.Clean(text))
	}
}

// take waits for a turn, and reports whether it came.
func take(ctx context.Context, turns chan struct{}) bool {
	if ctx.Err() != nil {
		return false
	}
	select {
	case turns <- struct{}{}:
		return true
	case <-ctx.Done():
		return false
	}
}

// secondsSince is how long a question took, in seconds to the millisecond.
func secondsSince(began time.Time) float64 { return float64(time.Since(began).Milliseconds()) / 1000 }

// overdue reports whether the time for a question is over. What ended with it may say so by other
// words: a connection's own deadline passes in the same moment.
func overdue(ctx context.Context) bool {
	until, ok := ctx.Deadline()
	return ctx.Err() != nil || ok && time.Until(until) < 20*time.Millisecond
}

// endOf says how a question ended that failed with err.
func endOf(err error) matching.Ended { return endOfCode(string(dialCode(err))) }

// endOfCode says how a question ended that failed by the code of dialCode or byMapping.
func endOfCode(code string) matching.Ended {
	switch code {
	case "refused":
		return matching.Refused
	case "time-out":
		return matching.Silent
	case "not-allowed":
		return matching.NotAsked
	case "not-supported":
		return matching.Denied
	}
	return matching.Broken
}
