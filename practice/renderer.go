package practice

import (
	"context"
	"encoding/xml"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strconv"
	"strings"
	"sync"
	"time"
)

// rendererServices are those of a UPnP AV renderer.
func rendererServices(d *Device) []service {
	var sink []string
	for _, m := range d.sinks {
		if d.able == nil {
			m = "http-get:*:" + m + ":*"
		}
		sink = append(sink, m)
	}
	p := &player{device: d, volume: 30, state: "NO_MEDIA_PRESENT"}
	return []service{p.transport(), p.rendering(), connectionManager("", strings.Join(sink, ","))}
}

// player fetches what it plays: its position moves only while there are bytes for it.
type player struct {
	device *Device

	mu       sync.Mutex
	uri      string
	size     int64
	length   time.Duration
	seekable bool
	state    string
	at       time.Duration // position
	have     int64         // bytes that are here
	volume   int
	mute     bool
	// soundless: it plays the picture of what it plays, and cannot decode its sound.
	soundless bool
	next      *request                 // what follows at the end
	marks     map[string]time.Duration // where playing was stopped, on a device that remembers it
	stop      context.CancelFunc
	done      chan struct{}
}

// transport is AVTransport:1.
func (p *player) transport() service {
	return service{kind: "AVTransport:1", state: p.lastChange, end: p.cancel, actions: map[string]action{
		"SetAVTransportURI":     p.set,
		"SetNextAVTransportURI": p.setNext,
		"Play":                  p.play,
		"Pause":                 p.pause,
		"Stop":                  p.halt,
		"Seek":                  p.seek,
		"GetPositionInfo":       p.position,
		"GetTransportInfo": func(request) ([]argument, *upnpError) {
			p.mu.Lock()
			defer p.mu.Unlock()
			return []argument{{"CurrentTransportState", p.state}, {"CurrentTransportStatus", "OK"}, {"CurrentSpeed", "1"}}, nil
		},
		"GetMediaInfo": func(request) ([]argument, *upnpError) {
			p.mu.Lock()
			defer p.mu.Unlock()
			return []argument{{"NrTracks", "1"}, {"MediaDuration", clock(p.length)}, {"CurrentURI", p.uri}, {"CurrentURIMetaData", ""}, {"NextURI", ""}, {"NextURIMetaData", ""}, {"PlayMedium", "NETWORK"}, {"RecordMedium", "NOT_IMPLEMENTED"}, {"WriteStatus", "NOT_IMPLEMENTED"}}, nil
		},
	}}
}

func (p *player) lastChange() []argument {
	p.mu.Lock()
	defer p.mu.Unlock()
	return []argument{{"LastChange", fmt.Sprintf(`<Event xmlns="urn:schemas-upnp-org:metadata-1-0/AVT/"><InstanceID val="0"><TransportState val="%s"/></InstanceID></Event>`, p.state)}}
}

// rendering is RenderingControl:1.
func (p *player) rendering() service {
	return service{kind: "RenderingControl:1", actions: map[string]action{
		"GetVolume": func(request) ([]argument, *upnpError) {
			p.mu.Lock()
			defer p.mu.Unlock()
			return []argument{{"CurrentVolume", strconv.Itoa(p.volume)}}, nil
		},
		"SetVolume": func(r request) ([]argument, *upnpError) {
			n, err := strconv.Atoi(r.args["DesiredVolume"])
			if err != nil || n < 0 || n > 100 {
				return nil, &upnpError{601, "Argument Value Out of Range"}
			}
			p.mu.Lock()
			defer p.mu.Unlock()
			p.volume = n
			return nil, nil
		},
		"GetMute": func(request) ([]argument, *upnpError) {
			p.mu.Lock()
			defer p.mu.Unlock()
			return []argument{{"CurrentMute", map[bool]string{true: "1", false: "0"}[p.mute || p.soundless]}}, nil
		},
		"SetMute": func(r request) ([]argument, *upnpError) {
			p.mu.Lock()
			defer p.mu.Unlock()
			p.mute = r.args["DesiredMute"] == "1" || r.args["DesiredMute"] == "true"
			return nil, nil
		},
	}}
}

// client fetches from the device's own address: at the rate of its station.
func (p *player) client() *http.Client {
	d := net.Dialer{LocalAddr: net.TCPAddrFromAddrPort(netip.AddrPortFrom(p.device.Address.Addr(), 0)), Timeout: 2 * time.Second}
	return &http.Client{Transport: &http.Transport{DialContext: d.DialContext, DisableKeepAlives: true}}
}

// set takes a new address (AVTransport:1, 2.4.1), after looking at what is there.
func (p *player) set(r request) ([]argument, *upnpError) {
	p.cancel()
	uri := r.args["CurrentURI"]
	ask, err := http.NewRequest(http.MethodHead, uri, nil)
	if err != nil {
		return nil, &upnpError{716, "Resource not found"}
	}
	ask.Header.Set("User-Agent", p.device.announcesAs())
	resp, err := p.client().Do(ask)
	if err != nil || resp.StatusCode != http.StatusOK {
		if err == nil {
			_ = resp.Body.Close()
		}
		return nil, &upnpError{716, "Resource not found"}
	}
	_ = resp.Body.Close()
	kind, _, _ := strings.Cut(resp.Header.Get("Content-Type"), ";")
	plays, heard := p.device.decodes(kind)
	if !plays || p.device.on("screen-lies") && kind == "video/x-matroska" {
		return nil, &upnpError{714, "Illegal MIME-type"}
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.soundless, p.next = !heard, nil
	p.uri, p.size, p.seekable = uri, resp.ContentLength, resp.Header.Get("Accept-Ranges") == "bytes"
	p.length = lengthOf(r.args["CurrentURIMetaData"], p.size)
	p.state, p.at = "STOPPED", p.marks[uri]
	p.have = p.bytesAt(p.at)
	return nil, nil
}

// setNext takes what is to follow (AVTransport:1, 2.4.2); only the music player knows how.
func (p *player) setNext(r request) ([]argument, *upnpError) {
	if p.device.HostName != "kielo" {
		return nil, &upnpError{602, "Optional Action Not Implemented"}
	}
	follows := r
	follows.args = map[string]string{"CurrentURI": r.args["NextURI"], "CurrentURIMetaData": r.args["NextURIMetaData"]}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.next = &follows
	return nil, nil
}

// goOn begins what is to follow, if there is something.
func (p *player) goOn() {
	p.mu.Lock()
	next := p.next
	p.next = nil
	p.mu.Unlock()
	if next == nil {
		return
	}
	if _, refused := p.set(*next); refused == nil {
		p.begin()
	}
}

// lengthOf is the length that the metadata says, or one that fits 4 Mb/s.
func lengthOf(metadata string, size int64) time.Duration {
	var doc struct {
		Res []struct {
			Duration string `xml:"duration,attr"`
		} `xml:"item>res"`
	}
	if xml.NewDecoder(strings.NewReader(metadata)).Decode(&doc) == nil && len(doc.Res) > 0 {
		if d, ok := unclock(doc.Res[0].Duration); ok && d > 0 {
			return d
		}
	}
	if size <= 0 {
		return 0
	}
	return time.Duration(float64(size) * 8 / 4e6 * float64(time.Second))
}

func (p *player) play(request) ([]argument, *upnpError) {
	p.mu.Lock()
	none, playing := p.uri == "", p.state == "PLAYING"
	p.mu.Unlock()
	switch {
	case none:
		return nil, &upnpError{701, "Transition not available"}
	case !playing:
		p.begin()
	}
	return nil, nil
}

func (p *player) pause(request) ([]argument, *upnpError) {
	p.cancel()
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.state != "PLAYING" {
		return nil, &upnpError{701, "Transition not available"}
	}
	p.state = "PAUSED_PLAYBACK"
	return nil, nil
}

func (p *player) halt(request) ([]argument, *upnpError) {
	p.cancel()
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.uri == "" {
		return nil, nil
	}
	if p.device.marks {
		if p.marks == nil {
			p.marks = map[string]time.Duration{}
		}
		p.marks[p.uri] = p.at
	}
	p.state, p.at, p.have, p.next = "STOPPED", 0, 0, nil
	return nil, nil
}

// seek jumps to a time, where the source gives ranges (AVTransport:1, 2.4.12).
func (p *player) seek(r request) ([]argument, *upnpError) {
	if r.args["Unit"] != "REL_TIME" && r.args["Unit"] != "ABS_TIME" {
		return nil, &upnpError{710, "Seek mode not supported"}
	}
	to, ok := unclock(r.args["Target"])
	p.mu.Lock()
	wrong := !ok || p.uri == "" || !p.seekable || to > p.length
	playing := p.state == "PLAYING"
	p.mu.Unlock()
	if wrong {
		return nil, &upnpError{711, "Illegal seek target"}
	}
	p.cancel()
	p.mu.Lock()
	p.at = to
	p.have = p.bytesAt(to)
	p.mu.Unlock()
	if playing {
		p.begin()
	}
	return nil, nil
}

func (p *player) position(request) ([]argument, *upnpError) {
	p.mu.Lock()
	defer p.mu.Unlock()
	return []argument{{"Track", "1"}, {"TrackDuration", clock(p.length)}, {"TrackMetaData", ""}, {"TrackURI", p.uri}, {"RelTime", fineClock(p.at)}, {"AbsTime", fineClock(p.at)}, {"RelCount", "2147483647"}, {"AbsCount", "2147483647"}}, nil
}

// bytesAt is where in the file a time lies.
func (p *player) bytesAt(t time.Duration) int64 {
	if p.length <= 0 {
		return int64(t.Seconds() * 4e6 / 8)
	}
	return int64(float64(p.size) * t.Seconds() / p.length.Seconds())
}

const (
	tick  = 100 * time.Millisecond
	ahead = 1 << 20 // bytes that it fetches ahead
)

// begin fetches from the position on, and moves it as the bytes come.
func (p *player) begin() {
	ctx, cancel := context.WithCancel(context.Background())
	p.mu.Lock()
	p.state, p.stop, p.done = "PLAYING", cancel, make(chan struct{})
	uri, from, done := p.uri, p.have, p.done
	p.mu.Unlock()
	go func() {
		defer close(done)
		var both sync.WaitGroup
		both.Go(func() { p.fetch(ctx, uri, from) })
		both.Go(func() { p.move(ctx) })
		both.Wait()
	}()
}

// cancel ends fetching and waits for it.
func (p *player) cancel() {
	p.mu.Lock()
	stop, done := p.stop, p.done
	p.stop, p.done = nil, nil
	p.mu.Unlock()
	if stop != nil {
		stop()
		<-done
	}
}

func (p *player) fetch(ctx context.Context, uri string, from int64) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, uri, nil)
	if err != nil {
		return
	}
	r.Header.Set("User-Agent", p.device.announcesAs())
	if from > 0 {
		r.Header.Set("Range", fmt.Sprintf("bytes=%d-", from))
	}
	resp, err := p.client().Do(r)
	if err != nil {
		return
	}
	defer resp.Body.Close()
	b := make([]byte, 64<<10)
	for {
		p.mu.Lock()
		full := p.have > p.bytesAt(p.at)+ahead
		p.mu.Unlock()
		if full {
			select {
			case <-time.After(tick / 2):
			case <-ctx.Done():
				return
			}
			continue
		}
		n, err := resp.Body.Read(b)
		p.mu.Lock()
		p.have += int64(n)
		p.mu.Unlock()
		if err != nil {
			return // the end, or broken off: the position then stands still
		}
	}
}

// move moves the position by the time that has passed, as far as there are the bytes for it.
func (p *player) move(ctx context.Context) {
	t := time.NewTicker(tick)
	defer t.Stop()
	for last := time.Now(); ; {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		now := time.Now()
		passed := now.Sub(last).Round(tick)
		last = last.Add(passed)
		p.mu.Lock()
		for passed > tick && p.have < p.bytesAt(p.at+passed) {
			passed -= tick
		}
		switch next := p.at + passed; {
		case p.length > 0 && next > p.length:
			p.state, p.at = "STOPPED", 0
			p.mu.Unlock()
			go p.goOn()
			return
		case p.have < p.bytesAt(next) || p.device.on("screen-stalls"): // it waits for bytes
		default:
			p.at = next
		}
		p.mu.Unlock()
	}
}
