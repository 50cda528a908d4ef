package probe

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"syscall"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/multicast"
)

// Prober carries out the machine's part of a test plan.
type Prober struct {
	Guard  Guard
	Now    func() time.Time // nil is time.Now
	Shares Login            // how shares are opened while a network is looked at
	Log    *slog.Logger     // where an error of a probe itself goes; nil discards
	noRaw  bool
	late   time.Duration // for tests: by which this machine is taken to have fallen behind already
	Late   time.Duration // how long a scan waits for late answers to a search; 0 for four seconds

	SearchesOn time.Duration // for how long a test goes on searching; 0 for half an hour
	SearchEach time.Duration // how often it does; 0 for a minute
	WatchFor   time.Duration // for how long a source is watched while a person works; 0 for half an hour
	WatchEach  time.Duration // how often it is asked then; 0 for a second
	Responder  FirmResponder // who calls the home from outside; without an address nobody does
	PlaysFor   time.Duration // for how long something is played; 0 for three minutes
}

// lasts is how long a test takes by its nature, beside what it waits for answers.
func (p Prober) lasts(kind string) time.Duration {
	switch kind {
	case "stays-found":
		return cmp.Or(p.SearchesOn, proving.SearchesOn)
	case "long-play":
		return cmp.Or(p.PlaysFor, proving.LongPlay)
	case "plays", "converts":
		return 2 * cmp.Or(p.PlaysFor, playsFor)
	case "busy-set":
		return 2 * cmp.Or(p.PlaysFor, togetherFor)
	}
	return 0
}

// carriers carry out the kinds of test that a machine can judge.
var carriers = map[string]func(*visit, context.Context, proving.Test){
	"reach":         func(v *visit, ctx context.Context, _ proving.Test) { v.reach(ctx) },
	"found":         func(v *visit, ctx context.Context, _ proving.Test) { v.found(ctx) },
	"told-apart":    func(v *visit, ctx context.Context, _ proving.Test) { v.toldApart(ctx) },
	"stays-found":   func(v *visit, ctx context.Context, _ proving.Test) { v.staysFound(ctx) },
	"opens":         func(v *visit, ctx context.Context, _ proving.Test) { v.opensAll(ctx) },
	"complete":      func(v *visit, ctx context.Context, t proving.Test) { v.complete(ctx, t.Subjects[0].ID) },
	"guide":         func(v *visit, ctx context.Context, _ proving.Test) { v.guide(ctx) },
	"feed":          func(v *visit, ctx context.Context, _ proving.Test) { v.feed(ctx) },
	"live-channel":  func(v *visit, ctx context.Context, _ proving.Test) { v.liveChannel(ctx) },
	"write-refused": func(v *visit, ctx context.Context, _ proving.Test) { v.writeRefused(ctx) },
	"blocked":       func(v *visit, ctx context.Context, t proving.Test) { v.keptOut(ctx, t) },
	"hours-kept":    func(v *visit, ctx context.Context, t proving.Test) { v.keptOut(ctx, t) },
	"busy-set":      func(v *visit, ctx context.Context, t proving.Test) { v.together(ctx, t) },
	"gapless":       func(v *visit, ctx context.Context, _ proving.Test) { v.gapless(ctx) },
	"converts":      func(v *visit, ctx context.Context, _ proving.Test) { v.converts(ctx) },
	"outside":       func(v *visit, ctx context.Context, _ proving.Test) { v.outside(ctx) },
	"long-play":     func(v *visit, ctx context.Context, _ proving.Test) { v.longPlay(ctx) },
	"plays":         func(v *visit, ctx context.Context, _ proving.Test) { v.plays(ctx) },
	"stops":         func(v *visit, ctx context.Context, _ proving.Test) { v.stops(ctx) },
	"seeks":         func(v *visit, ctx context.Context, _ proving.Test) { v.seeks(ctx) },
}

// Where says where this machine is, as its operating system knows it.
func (p Prober) Where() (network.Place, error) { return Where() }

// mediaServer is the search target of UPnP AV servers, any version from 1 answers it.
const mediaServer = "urn:schemas-upnp-org:device:MediaServer:1"

// Probe carries out one planned test that a machine can judge. What it saw is in the result, also
// when the test fails; an error means that it could not be carried out at all. If this machine was busy meanwhile and no
// answer came in time, the test is carried out a second time, with longer waits; so it is always where an answer to a search is missing. If it was busy for most of the time, a missing
// answer proves nothing, and the test is impossible.
func (p Prober) Probe(ctx context.Context, d *dossier.Dossier, t proving.Test) (proving.Result, error) {
	watched, stop := context.WithCancel(ctx)
	defer stop()
	behind := watching(watched, p.late)
	result, err := p.carryOut(ctx, d, t, behind)
	if err == nil && (unanswered(result) && behind.share() >= lagFelt || unheard(result)) {
		result, err = p.carryOut(ctx, d, t, behind)
	}
	if err == nil && unanswered(result) && behind.share() > lagMuch {
		result.Outcome, result.Observed = dossier.Impossible, "machine-busy"
		result.Said = map[string]string{"percent": fmt.Sprintf("%.0f", 100*behind.share())}
	}
	return result, err
}

// unanswered reports whether a test failed because no answer came in time.
func unanswered(r proving.Result) bool {
	return r.Outcome == dossier.Fail && (r.Observed.Class() == dossier.ClassSilent || r.Observed == "others-only")
}

// unheard reports whether the answer to a search is missing: a packet may be lost, so that one search proves nothing (UPnP Device Architecture 2.0,
// section 1.3.2).
func unheard(r proving.Result) bool {
	return r.Observed == "others-only" || r.Observed == "silence" || r.Observed == "no-renderer"
}

// carryOut carries out one test once.
func (p Prober) carryOut(ctx context.Context, d *dossier.Dossier, t proving.Test, behind *lag) (proving.Result, error) {
	test := t.ID()
	ctx, cancel := context.WithTimeout(ctx, behind.patient(testTime)+p.lasts(t.Kind.Name))
	defer cancel()
	path, _ := d.Paths.Get(t.Path)
	source, _ := d.Sources.Get(path.Source)
	v := visit{prober: p, guard: p.Guard.ForHome(d), d: d, path: path, source: source,
		result: proving.Result{Test: test, Outcome: dossier.Fail, Values: map[string]float64{}, Said: map[string]string{}}}
	v.guard.lag = behind
	if t.By != proving.Automatic {
		return proving.Result{}, fmt.Errorf("test %s is not for a machine", test)
	}
	carries, known := carriers[t.Kind.Name]
	if !known {
		return proving.Result{}, fmt.Errorf("test %s is not for a machine", test)
	}
	carries(&v, ctx, t)
	v.result.At = time.Now()
	if p.Now != nil {
		v.result.At = p.Now()
	}
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return v.result, nil // it was carried out, and took too long: the result says where
	}
	return v.result, ctx.Err()
}

// visit is one test while it is carried out.
type visit struct {
	prober  Prober
	guard   HomeGuard
	d       *dossier.Dossier
	path    dossier.Path
	source  dossier.Source
	result  proving.Result
	browsed *upnpClient // what was reached, for tests that scan further
}

func (v *visit) see(outcome dossier.Outcome, observed dossier.Observed, pairs ...string) {
	v.result.Outcome, v.result.Observed = outcome, observed
	for i := 0; i+1 < len(pairs); i += 2 {
		v.result.Said[pairs[i]] = pairs[i+1]
	}
}

// reach asks the source at its recorded address: connect, read its description, list its root.
func (v *visit) reach(ctx context.Context) {
	address := v.d.AddressOf(v.source)
	if !address.IsValid() || v.source.Port == 0 {
		v.see(dossier.Impossible, "no-address")
		return
	}
	at := netip.AddrPortFrom(address, uint16(v.source.Port)).String()
	if err := v.guard.Allow(address); err != nil {
		v.see(dossier.Impossible, "not-allowed", "address", at)
		return
	}
	began := time.Now()
	conn, err := v.guard.Dial(ctx, "tcp", at)
	if err != nil {
		v.see(dossier.Fail, dialCode(err), "address", at, "seconds", fmt.Sprint(int(dialTime.Seconds())))
		return
	}
	v.measure("connectMs", began)
	_ = conn.Close() // it was opened only to see whether it opens
	if v.source.Protocol != dossier.ProtocolUPnPAV {
		v.see(dossier.Pass, "port-open", "address", at, "connectMs", fmt.Sprintf("%.0f", v.result.Values["connectMs"]))
		return
	}
	v.list(ctx, at)
}

// list reads the description and the root folders of the source at that address.
func (v *visit) list(ctx context.Context, at string) {
	client := v.guard.Client()
	where := &url.URL{Scheme: "http", Host: at, Path: "/" + strings.TrimPrefix(v.source.Locator, "/")}
	began := time.Now()
	root, err := Describe(ctx, client, where)
	if err != nil {
		v.see(dossier.Fail, replyCode(err), "address", at, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return
	}
	if v.source.UDN != "" && !slices.ContainsFunc(root.all(), func(d upnpDevice) bool { return d.UDN == v.source.UDN }) {
		v.see(dossier.Fail, "wrong-content", "address", at, "name", root.Device.Name)
		return
	}
	if to, elsewhere := root.leadsElsewhere("ContentDirectory"); elsewhere {
		v.see(dossier.Fail, "leads-elsewhere", "address", at, "location", to)
		return
	}
	directory, err := root.directory()
	var folders listed
	if err == nil {
		folders, err = children(ctx, directory, "0")
	}
	if err != nil {
		v.see(dossier.Fail, replyCode(err), "address", at, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return
	}
	v.measure("roundTripMs", began)
	v.result.Values["folders"] = float64(len(folders.all))
	if len(folders.all) == 0 {
		v.see(dossier.Fail, "no-folders")
		return
	}
	v.browsed = directory
	v.see(dossier.Pass, "answered", "address", at, "roundTripMs", fmt.Sprintf("%.0f", v.result.Values["roundTripMs"]), "folders", fmt.Sprint(len(folders.all)))
}

func (v *visit) measure(name string, began time.Time) {
	v.result.Values[name] = float64(time.Since(began).Microseconds()) / 1000
}

func dialCode(err error) dossier.Observed {
	var timeout net.Error
	switch {
	case errors.Is(err, syscall.ECONNREFUSED):
		return "refused"
	case errors.Is(err, ErrOutside):
		return "not-allowed"
	case hungUp(err):
		return "hung-up"
	case errors.As(err, &timeout) && timeout.Timeout():
		return "time-out"
	}
	return "unreachable"
}

func replyCode(err error) dossier.Observed {
	if errors.Is(err, ErrNotDescribed) {
		return "not-described"
	}
	code := dialCode(err)
	if code != "unreachable" {
		return code
	}
	return "not-described"
}

// hungUp reports whether the other side took the connection and closed it without an answer.
func hungUp(err error) bool {
	return errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, syscall.ECONNRESET) || errors.Is(err, syscall.EPIPE)
}

// search searches each segment of the device for devices of a type, as the device would, and says from where it did. Where it could not, the
// result says why.
func (v *visit) search(ctx context.Context, target string) (answers []Answer, searched []string, ok bool) {
	for _, id := range v.d.SegmentsOf(v.d.InterfacesOf(v.path.Device)) {
		s, _ := v.d.Segments.Get(id)
		own, via, ok := OwnAddress(s.Prefix)
		if !ok || v.guard.Allow(own) != nil {
			continue
		}
		searched = append(searched, fmt.Sprintf("%s (%s)", via.Name, own))
		if err := searchEach(ctx, own, via, multicast.SSDP, target, 1, 0, v.guard.lag, func(a Answer) { answers = append(answers, a) }); err != nil {
			v.see(dossier.Impossible, "not-allowed", "address", own.String())
			return nil, nil, false
		}
	}
	if len(searched) == 0 {
		v.see(dossier.Impossible, "not-in-segment", "device", v.d.Label(v.path.Device.Ref()))
		return nil, nil, false
	}
	return answers, searched, true
}

// found searches for the server, as the device would.
func (v *visit) found(ctx context.Context) {
	answers, searched, ok := v.search(ctx, mediaServer)
	if !ok {
		return
	}
	var names []string
	v.result.Values["answers"] = float64(len(answers))
	client := v.guard.Client()
	for _, a := range answers {
		root, err := Describe(ctx, client, a.Location)
		if err != nil && v.announces(a) {
			v.seenOnly(a)
			return
		}
		if err != nil {
			continue // a server that announces itself and does not answer is not this one's fault
		}
		names = append(names, root.Device.Name)
		if v.isSource(a, root.Device.UDN, root.Device.Name) {
			v.seen(a, root.Device.Name, len(answers))
			return
		}
	}
	if len(answers) == 0 {
		v.see(dossier.Fail, "silence", "seconds", "1.25", "interfaces", strings.Join(searched, ", "))
		return
	}
	v.see(dossier.Fail, "others-only", "answers", fmt.Sprint(len(answers)), "names", strings.Join(names, ", "))
}

// isSource knows the source by its unique name, else by its shown name, else by its address.
func (v *visit) isSource(a Answer, udn, name string) bool {
	switch {
	case v.source.UDN != "":
		return udn == v.source.UDN
	case v.source.ShownName != "":
		return name == v.source.ShownName
	}
	return a.From == v.d.AddressOf(v.source)
}

// announces reports whether an answer to a search is certainly the source's: it bears its unique name (UPnP Device Architecture 2.0, section
// 1.3.3).
func (v *visit) announces(a Answer) bool {
	udn, _, _ := strings.Cut(a.USN, "::")
	return v.source.UDN != "" && udn == v.source.UDN
}

// seenOnly says of a server that answers the search and cannot be read where it says that it is.
func (v *visit) seenOnly(a Answer) {
	if want := v.wanted(); want != "" && a.Location.Host != want {
		v.see(dossier.Fail, "old-address", "location", a.Location.Host)
		return
	}
	v.see(dossier.Fail, "announced-only", "location", a.Location.Host)
}

// wanted is the host and port at which the source is recorded, or "".
func (v *visit) wanted() string {
	at := v.d.AddressOf(v.source)
	if v.source.Port == 0 || !at.IsValid() {
		return ""
	}
	return netip.AddrPortFrom(at, uint16(v.source.Port)).String()
}

func (v *visit) seen(a Answer, name string, answers int) {
	if want := v.wanted(); want != "" && a.Location.Host != want {
		v.see(dossier.Fail, "old-address", "location", a.Location.Host)
		return
	}
	v.see(dossier.Pass, "found", "name", name, "location", a.Location.Host, "answers", fmt.Sprint(answers))
}
