package probe

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/bluenviron/gortsplib/v4"
	"github.com/bluenviron/gortsplib/v4/pkg/base"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/papers"
)

// opensAll looks into what the source gives, by its protocol.
func (v *visit) opensAll(ctx context.Context) {
	switch v.source.Protocol {
	case dossier.ProtocolUPnPAV:
		v.opens(ctx)
	case dossier.ProtocolSMB, dossier.ProtocolNFS:
		v.opensShare(ctx)
	case dossier.ProtocolRTSP:
		v.describes(ctx)
	case dossier.ProtocolHLS:
		v.liveChannel(ctx)
	case dossier.ProtocolM3U:
		v.streams(ctx, "")
	default:
		at, ok := v.address()
		switch {
		case !ok:
		case v.path.Kind == dossier.Feed:
			v.feed(ctx)
		default:
			v.listen(ctx, place(at, v.source.Locator), "the stream", listenTime)
		}
	}
}

// address is where the source is asked, where it may be. Where it may not, the result says why.
func (v *visit) address() (netip.AddrPort, bool) {
	addr := v.d.AddressOf(v.source)
	at := netip.AddrPortFrom(addr, uint16(v.source.Port))
	switch {
	case !addr.IsValid() || v.source.Port == 0:
		v.see(dossier.Impossible, "no-address")
	case v.guard.Allow(addr) != nil:
		v.see(dossier.Impossible, "not-allowed", "address", at.String())
	default:
		return at, true
	}
	return at, false
}

// get fetches what lies at an address of the home: at most so many bytes, which may be fewer than there are. Where it cannot, the result
// says why.
func (v *visit) get(ctx context.Context, at *url.URL, most int64) ([]byte, bool) {
	resp, ok := v.open(ctx, at)
	if !ok {
		return nil, false
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(io.LimitReader(resp.Body, most))
	if err != nil && len(b) == 0 {
		v.see(dossier.Fail, dialCode(err), "address", at.Host, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return nil, false
	}
	return b, true
}

func (v *visit) open(ctx context.Context, at *url.URL) (*http.Response, bool) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		v.see(dossier.Impossible, "no-address")
		return nil, false
	}
	resp, err := v.guard.clientFor(sendTime).Do(r)
	if err != nil {
		outcome := dossier.Fail
		if errors.Is(err, ErrOutside) {
			outcome = dossier.Impossible
		}
		v.see(outcome, dialCode(err), "address", at.Host, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return nil, false
	}
	if resp.StatusCode != http.StatusOK && resp.StatusCode != http.StatusPartialContent {
		_ = resp.Body.Close()
		v.see(dossier.Fail, "answered-no", "address", at.Host, "detail", resp.Status)
		return nil, false
	}
	return resp, true
}

// list reads the list of streams of the source, or one that lies at another of its addresses.
func (v *visit) streams(ctx context.Context, locator string) (papers.StreamList, bool) {
	at, ok := v.address()
	if !ok {
		return papers.StreamList{}, false
	}
	where := place(at, cmp.Or(locator, v.source.Locator))
	body, ok := v.get(ctx, where, mostPage)
	if !ok {
		return papers.StreamList{}, false
	}
	list, is := papers.ReadStreamList(body)
	switch {
	case !is:
		v.see(dossier.Fail, "no-list", "address", where.Host)
	case len(list.Streams) == 0:
		v.see(dossier.Fail, "no-channels", "address", where.Host)
	default:
		v.result.Values["channels"] = float64(len(list.Streams))
		v.see(dossier.Pass, "channels", "channels", fmt.Sprint(len(list.Streams)), "address", where.Host)
		return list, true
	}
	return list, false
}

const (
	sendTime   = 8 * time.Second // by which a channel has to have begun
	sendsSoon  = 5 * time.Second // by which it should have
	listenTime = 3 * time.Second // for how long it is then listened to
	mostTried  = 4               // channels of a list, and for how long those after the first
	tryTime    = time.Second
)

// liveChannel fetches the first channels of the list, which are those that people watch. If some of them send and others do not, that is
// marginal: what is broadcast at certain hours only need not send now.
func (v *visit) liveChannel(ctx context.Context) {
	list, ok := v.streams(ctx, "")
	if !ok {
		return
	}
	at, _ := v.address()
	base := place(at, v.source.Locator)
	tried := list.Streams[:min(len(list.Streams), mostTried)]
	if v.source.Protocol == dossier.ProtocolHLS {
		tried = tried[len(tried)-1:] // parts of one stream: the newest tells
	}
	var dead []string
	best := v.result
	for n, s := range tried {
		name := cmp.Or(s.Name, fmt.Sprintf("part %d", n+1))
		where, err := base.Parse(s.URL)
		v.result = proving.Result{Test: best.Test, Outcome: dossier.Fail, Observed: "sends-nothing", Values: map[string]float64{}, Said: map[string]string{"channel": name, "seconds": "0"}}
		if err == nil {
			v.listen(ctx, where, name, map[bool]time.Duration{true: listenTime, false: tryTime}[n == 0])
		}
		if ctx.Err() != nil {
			return
		}
		good := v.result.Outcome == dossier.Pass || v.result.Outcome == dossier.Marginal
		if !good {
			dead = append(dead, name)
		}
		if n == 0 || good && (len(dead) == n || v.result.Outcome == dossier.Marginal) {
			best = v.result // the first that sends, or one that sends late
		}
	}
	v.result = best
	v.result.Values["tried"], v.result.Values["sent"] = float64(len(tried)), float64(len(tried)-len(dead))
	if len(dead) > 0 && len(dead) < len(tried) {
		v.see(dossier.Marginal, "some-send", "sends", fmt.Sprint(len(tried)-len(dead)), "tried", fmt.Sprint(len(tried)), "dead", strings.Join(dead, ", "))
	}
}

// listen fetches a channel for a few seconds and looks for packets of a transport stream in it (ISO/IEC 13818-1, 2.4.3.2: a packet of 188
// bytes begins with 0x47), or for another list.
func (v *visit) listen(ctx context.Context, where *url.URL, name string, lasts time.Duration) {
	began := time.Now()
	resp, ok := v.open(ctx, where)
	if !ok {
		return
	}
	defer resp.Body.Close()
	first := make([]byte, 1)
	if _, err := io.ReadFull(resp.Body, first); err != nil {
		v.see(dossier.Fail, "sends-nothing", "channel", name, "seconds", fmt.Sprintf("%.0f", time.Since(began).Seconds()))
		return
	}
	started := time.Since(began)
	v.result.Values["startS"] = started.Seconds()
	stop := time.AfterFunc(lasts, func() { _ = resp.Body.Close() })
	defer stop.Stop()
	got := bytes.NewBuffer(first)
	_, err := io.CopyN(got, resp.Body, mostListened) // ends by the bound, the time or the end
	lasted := time.Since(began) - started
	if !isTransport(got.Bytes()) {
		if _, is := papers.ReadStreamList(got.Bytes()); is {
			v.see(dossier.Pass, "channels", "channels", "a list of its own", "address", where.Host)
			return
		}
		v.see(dossier.Fail, "not-media", "channel", name)
		return
	}
	mbps := float64(got.Len()) * 8 / 1e6 / math.Max(lasted.Seconds(), 0.001)
	said := fmt.Sprintf("%.1f MB", float64(got.Len())/1e6) // a part that was there before it was asked for
	if err != nil && !errors.Is(err, io.EOF) {
		said = fmt.Sprintf("%.1f Mb/s", mbps)
		v.result.Values["mbps"] = mbps
	}
	outcome, observed := dossier.Pass, dossier.Observed("sends")
	if started > sendsSoon {
		outcome, observed = dossier.Marginal, "sends-late"
	}
	v.see(outcome, observed, "channel", name, "seconds", fmt.Sprintf("%.1f", started.Seconds()), "sent", said)
}

// mostListened bounds what is fetched of a channel: three seconds of 80 Mb/s.
const mostListened = 32 << 20

// isTransport reports whether bytes are of a transport stream: after the first packet that is found, two more follow at its distance.
func isTransport(b []byte) bool {
	const packet, sync = 188, 0x47
	for from := range min(len(b), packet) {
		if len(b) > from+2*packet && b[from] == sync && b[from+packet] == sync && b[from+2*packet] == sync {
			return true
		}
	}
	return false
}

// describes asks for the description of a stream over RTSP (RFC 7826, section 13.2).
func (v *visit) describes(ctx context.Context) {
	at, ok := v.address()
	if !ok {
		return
	}
	where, err := base.ParseURL("rtsp://" + at.String() + "/" + strings.TrimPrefix(v.source.Locator, "/"))
	if err != nil {
		v.see(dossier.Impossible, "no-address")
		return
	}
	c := gortsplib.Client{Scheme: where.Scheme, Host: where.Host, DialContext: v.guard.Dial, ReadTimeout: v.guard.lag.patient(replyTime), WriteTimeout: v.guard.lag.patient(replyTime)}
	if err := c.Start2(); err != nil {
		v.see(dossier.Fail, dialCode(err), "address", at.String(), "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return
	}
	stop := context.AfterFunc(ctx, c.Close)
	defer stop()
	defer c.Close()
	described, answer, err := c.Describe(where)
	switch {
	case answer != nil && answer.StatusCode != base.StatusOK:
		v.see(dossier.Fail, "answered-no", "address", at.String(), "detail", fmt.Sprintf("%d %s", answer.StatusCode, answer.StatusMessage))
	case err != nil:
		v.see(dossier.Fail, replyCode(err), "address", at.String(), "seconds", fmt.Sprint(int(replyTime.Seconds())))
	default:
		v.see(dossier.Pass, "described", "address", at.String(), "detail", fmt.Sprintf("%s, %d parts", cmp.Or(described.Title, "no title"), len(described.Medias)))
	}
}

// How far a guide has to reach; judgement: an evening's programmes can be looked up the evening before.
const (
	guideAhead = 24 * time.Hour
	guideShort = 3 * time.Hour
)

// guide reads the guide of a list, and how far it reaches for the channels of the list.
func (v *visit) guide(ctx context.Context) {
	at, ok := v.address()
	if !ok {
		return
	}
	listed := map[string]string{} // channels of the list by what the guide calls them
	if v.source.Protocol == dossier.ProtocolM3U {
		list, ok := v.streams(ctx, "")
		if !ok {
			return
		}
		for _, s := range list.Streams {
			if s.GuideID != "" {
				listed[s.GuideID] = s.Name
			}
		}
	}
	where, err := place(at, v.source.Locator).Parse(v.source.Guide)
	if err != nil {
		v.see(dossier.Impossible, "no-address")
		return
	}
	body, ok := v.get(ctx, where, mostGuide)
	if !ok {
		return
	}
	g, err := papers.ReadGuide(bytes.NewReader(body))
	if err != nil || len(g.Until) == 0 {
		v.see(dossier.Fail, "no-guide", "address", where.Host)
		return
	}
	if len(listed) == 0 {
		for id := range g.Until {
			listed[id] = id
		}
	}
	least, which := time.Duration(math.MaxInt64), ""
	for id, name := range listed {
		if ahead := time.Until(g.Until[id]); ahead < least || ahead == least && name < which {
			least, which = ahead, name
		}
	}
	least = max(least, 0) // a channel that the guide does not know is not ahead at all
	v.result.Values["hours"] = math.Floor(least.Hours())
	outcome, observed := dossier.Pass, dossier.Observed("guide-ahead")
	switch {
	case least < guideShort:
		outcome, observed = dossier.Fail, "guide-short"
	case least < guideAhead:
		outcome, observed = dossier.Marginal, "guide-short"
	}
	v.see(outcome, observed, "hours", fmt.Sprintf("%.0f", math.Floor(least.Hours())), "channels", fmt.Sprint(len(listed)), "channel", which)
}

// mostFeed bounds what is read of a feed.
const mostFeed = 8 << 20

// feed reads a feed (RSS 2.0, or Atom, RFC 4287) and fetches the beginning of its newest entry, where that lies in the home.
func (v *visit) feed(ctx context.Context) {
	at, ok := v.address()
	if !ok {
		return
	}
	where := place(at, v.source.Locator)
	body, ok := v.get(ctx, where, mostFeed)
	if !ok {
		return
	}
	f, err := papers.ReadFeed(body)
	switch {
	case err != nil:
		v.see(dossier.Fail, "no-feed", "address", where.Host)
		return
	case len(f.Entries) == 0:
		v.see(dossier.Fail, "feed-empty", "address", where.Host)
		return
	}
	newest := slices.MaxFunc(f.Entries, func(a, b papers.FeedEntry) int { return a.At.Compare(b.At) })
	v.result.Values["entries"] = float64(len(f.Entries))
	if to, err := where.Parse(newest.Media); err == nil && newest.Media != "" {
		if host, known := hostOf(to); known && v.guard.Allow(host.Addr()) == nil {
			if _, ok := v.get(ctx, to, 1<<10); !ok {
				return
			}
		}
	}
	v.see(dossier.Pass, "feed-read", "entries", fmt.Sprint(len(f.Entries)), "title", newest.Title)
}
