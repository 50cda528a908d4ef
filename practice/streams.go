package practice

import (
	"context"
	"encoding/binary"
	"fmt"
	"net/http"
	"net/netip"
	"sync"
	"time"
)

// Packets of a transport stream (ISO/IEC 13818-1, 2.4.3.2).
const (
	tsPacket = 188
	tsSync   = 0x47
	burst    = 7 * tsPacket // what is sent at once
)

// fillPackets fills b with packets of one stream, counted from n.
func fillPackets(b []byte, n uint64) uint64 {
	for at := 0; at+tsPacket <= len(b); at += tsPacket {
		p := b[at : at+tsPacket]
		p[0], p[1], p[2], p[3] = tsSync, 0x01, 0x00, 0x10|byte(n&0x0f)
		binary.BigEndian.PutUint64(p[4:], n)
		n++
	}
	return n
}

// broadcast sends one stream to all who listen, from the present point on.
type broadcast struct {
	mbps float64
	mu   sync.Mutex
	to   map[chan []byte]bool
	dead bool
	stop context.CancelFunc
	done chan struct{}
}

func newBroadcast(mbps float64) *broadcast {
	ctx, cancel := context.WithCancel(context.Background())
	b := &broadcast{mbps: mbps, to: map[chan []byte]bool{}, stop: cancel, done: make(chan struct{})}
	go b.run(ctx)
	return b
}

func (b *broadcast) run(ctx context.Context) {
	defer close(b.done)
	const every = 20 * time.Millisecond
	t := time.NewTicker(every)
	defer t.Stop()
	size := int(b.mbps*1e6/8*every.Seconds()) / burst * burst
	n := uint64(0)
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		piece := make([]byte, max(size, burst))
		n = fillPackets(piece, n)
		b.mu.Lock()
		for c := range b.to {
			select {
			case c <- piece:
			default: // a slow client misses it
			}
		}
		b.mu.Unlock()
	}
}

// end ends the stream for all.
func (b *broadcast) end() {
	b.stop()
	<-b.done
	b.mu.Lock()
	defer b.mu.Unlock()
	b.dead = true
	for c := range b.to {
		close(c)
		delete(b.to, c)
	}
}

// send lets one more listen, until he goes or the stream ends.
func (b *broadcast) send(w http.ResponseWriter, r *http.Request) {
	c := make(chan []byte, 16)
	b.mu.Lock()
	if b.dead {
		b.mu.Unlock()
		http.Error(w, "the stream has ended", http.StatusServiceUnavailable)
		return
	}
	b.to[c] = true
	b.mu.Unlock()
	defer func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		delete(b.to, c)
	}()
	w.Header().Set("Content-Type", "video/mp2t")
	out := http.NewResponseController(w)
	for {
		select {
		case piece, open := <-c:
			if !open {
				return
			}
			if _, err := w.Write(piece); err != nil || out.Flush() != nil {
				return
			}
		case <-r.Context().Done():
			return
		}
	}
}

// streams is a stream sender: one stream that all watch together. It has no ranges, and ends for
// all when someone seeks in it. Beside it stands the same as HLS (RFC 8216).
type streams struct {
	device *Device
	web    *web
	mu     sync.Mutex
	on     *broadcast
}

const streamMbps = 4

func (s *streams) start(ctx context.Context, d *Device) (err error) {
	s.device = d
	mux := http.NewServeMux()
	mux.HandleFunc("GET /foghorn.ts", s.watch)
	mux.HandleFunc("GET /foghorn/index.m3u8", s.playlist)
	mux.HandleFunc("GET /foghorn/{part}", s.part)
	mux.HandleFunc("GET /log.xml", s.log)
	mux.HandleFunc("GET /log/{day}", s.day)
	s.web, err = serve(ctx, d, d.Address, mux)
	return err
}

func (s *streams) stop() {
	s.web.stop()
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.on != nil {
		s.on.end()
		s.on = nil
	}
}

// watch joins the stream. A request that asks for another place than its beginning is a seek.
func (s *streams) watch(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	if s.device.on("stream-not-started") {
		if s.on != nil {
			s.on.end()
			s.on = nil
		}
		s.mu.Unlock()
		http.Error(w, "nobody has started it", http.StatusServiceUnavailable)
		return
	}
	if s.on == nil {
		s.on = newBroadcast(streamMbps)
	}
	on := s.on
	if place := r.Header.Get("Range"); place != "" && place != "bytes=0-" {
		s.on = nil
		s.mu.Unlock()
		on.end()
		http.Error(w, "this stream cannot be searched in; it has ended", http.StatusServiceUnavailable)
		return
	}
	s.mu.Unlock()
	on.send(w, r)
}

// partLength is how long one part of the HLS stream lasts.
const partLength = 2 * time.Second

// playlist lists the newest parts of a live stream (RFC 8216, section 4).
func (s *streams) playlist(w http.ResponseWriter, _ *http.Request) {
	first := time.Now().UnixNano()/int64(partLength) - 3
	w.Header().Set("Content-Type", "application/vnd.apple.mpegurl")
	_, _ = fmt.Fprintf(w, "#EXTM3U\n#EXT-X-VERSION:3\n#EXT-X-TARGETDURATION:%d\n#EXT-X-MEDIA-SEQUENCE:%d\n", int(partLength.Seconds()), first)
	for n := range int64(3) {
		_, _ = fmt.Fprintf(w, "#EXTINF:%.1f,\npart-%d.ts\n", partLength.Seconds(), first+n)
	}
}

func (s *streams) part(w http.ResponseWriter, r *http.Request) {
	var n uint64
	if _, err := fmt.Sscanf(r.PathValue("part"), "part-%d.ts", &n); err != nil {
		http.NotFound(w, r)
		return
	}
	b := make([]byte, int(streamMbps*1e6/8*partLength.Seconds())/tsPacket*tsPacket)
	fillPackets(b, n<<20)
	w.Header().Set("Content-Type", "video/mp2t")
	_, _ = w.Write(b)
}

// log is a feed (RSS 2.0) of what the foghorn recorded: an entry for each of the last three days.
func (s *streams) log(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "application/rss+xml")
	_, _ = fmt.Fprint(w, `<?xml version="1.0" encoding="UTF-8"?><rss version="2.0"><channel><title>Log of the foghorn</title>`)
	for n := range 3 {
		if s.device.on("feed-empty") {
			break
		}
		day := time.Now().AddDate(0, 0, -n)
		_, _ = fmt.Fprintf(w, `<item><title>%s</title><pubDate>%s</pubDate><enclosure url="http://%s/log/%d" type="audio/mpeg" length="4096"/></item>`, day.Format(time.DateOnly), day.Format(time.RFC1123Z), s.device.Address, n)
	}
	_, _ = fmt.Fprint(w, "</channel></rss>")
}

func (s *streams) day(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "audio/mpeg")
	http.ServeContent(w, r, "", time.Time{}, song("Log", "log.mp3", "audio/mpeg", 0.128, 30*time.Second).content())
}

// tuner is a tuner host: a list of channels, their guide, what was recorded.
type tuner struct {
	device   *Device
	web      *web
	mu       sync.Mutex
	channels map[int]*broadcast
}

// channel is one that the aerial brings.
type channel struct {
	name, id, group string
	mbps            float64
}

var channels = []channel{{"Vesikarinne 1", "vk1", "Parish", 6}, {"Vesikarinne 2", "vk2", "Parish", 4}, {"Sea weather", "sea", "Weather", 2}, {"Chapel radio", "chapel", "Radio", 0.192}}

// recordings are what was recorded from them.
var recordings = []item{film("Storm warning of the third", "storm-warning.ts", "video/mp2t", 6, 60*time.Second), film("The ferry question", "ferry-question.ts", "video/mp2t", 4, 45*time.Second)}

func (t *tuner) start(ctx context.Context, d *Device) (err error) {
	t.device, t.channels = d, map[int]*broadcast{}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{$}", t.page)
	mux.HandleFunc("GET /aerial.m3u", t.list)
	mux.HandleFunc("GET /guide.xml", t.guide)
	mux.HandleFunc("GET /channel/{n}", t.watch)
	mux.HandleFunc("GET /kept.m3u", t.recorded)
	mux.HandleFunc("GET /recordings/{file}", t.recording)
	t.web, err = serve(ctx, d, d.Address, mux)
	return err
}

func (t *tuner) stop() {
	t.web.stop()
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, b := range t.channels {
		b.end()
	}
	t.channels = map[int]*broadcast{}
}

// page leads to both lists.
func (t *tuner) page(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = fmt.Fprint(w, `<!doctype html><title>Aerial</title><p><a href="aerial.m3u">Channels</a> <a href="/kept.m3u">Recordings</a></p>`)
}

func (t *tuner) list(w http.ResponseWriter, _ *http.Request) {
	at := t.device.Address
	if t.device.on("list-old-address") {
		at = netip.AddrPortFrom(t.device.house.at(98), at.Port())
	}
	w.Header().Set("Content-Type", "audio/x-mpegurl")
	_, _ = fmt.Fprintf(w, "#EXTM3U url-tvg=\"http://%s/guide.xml\"\n", t.device.Address)
	for n, c := range channels {
		_, _ = fmt.Fprintf(w, "#EXTINF:-1 tvg-id=\"%s\" group-title=\"%s\",%s\nhttp://%s/channel/%d\n", c.id, c.group, c.name, at, n+1)
	}
}

// guide is XMLTV for thirty hours from now: an hour each.
func (t *tuner) guide(w http.ResponseWriter, r *http.Request) {
	if t.device.on("guide-missing") {
		http.NotFound(w, r)
		return
	}
	const layout = "20060102150405 -0700"
	w.Header().Set("Content-Type", "application/xml")
	_, _ = fmt.Fprint(w, `<?xml version="1.0" encoding="UTF-8"?><tv generator-info-name="Aerial">`)
	for _, c := range channels {
		_, _ = fmt.Fprintf(w, `<channel id="%s"><display-name>%s</display-name></channel>`, c.id, escape(c.name))
	}
	hour := time.Now().Truncate(time.Hour)
	for _, c := range channels {
		for n := range 30 {
			begins := hour.Add(time.Duration(n) * time.Hour)
			_, _ = fmt.Fprintf(w, `<programme start="%s" stop="%s" channel="%s"><title>%s, hour %d</title></programme>`, begins.Format(layout), begins.Add(time.Hour).Format(layout), c.id, escape(c.name), n+1)
		}
	}
	_, _ = fmt.Fprint(w, "</tv>")
}

func (t *tuner) watch(w http.ResponseWriter, r *http.Request) {
	var n int
	if _, err := fmt.Sscan(r.PathValue("n"), &n); err != nil || n < 1 || n > len(channels) || t.device.on("channel-dead") && n == 2 {
		http.NotFound(w, r)
		return
	}
	t.mu.Lock()
	b := t.channels[n]
	if b == nil {
		b = newBroadcast(channels[n-1].mbps)
		t.channels[n] = b
	}
	t.mu.Unlock()
	b.send(w, r)
}

func (t *tuner) recorded(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "audio/x-mpegurl")
	_, _ = fmt.Fprint(w, "#EXTM3U\n#PLAYLIST:Recordings\n")
	if t.device.on("recordings-missing") {
		return
	}
	for _, i := range recordings {
		_, _ = fmt.Fprintf(w, "#EXTINF:%d,%s\nhttp://%s/recordings/%s\n", int(i.length.Seconds()), i.title, t.device.Address, i.file)
	}
}

func (t *tuner) recording(w http.ResponseWriter, r *http.Request) {
	for _, i := range recordings {
		if i.file == r.PathValue("file") && !t.device.on("recordings-missing") {
			w.Header().Set("Content-Type", i.mime)
			http.ServeContent(w, r, "", time.Time{}, i.content())
			return
		}
	}
	http.NotFound(w, r)
}
