package practice

import (
	"fmt"
	"net/http"
	"net/netip"
	"strconv"
	"strings"
	"sync"
	"time"
)

// library is a server's list as it stands now, for one who asks.
type library struct {
	device *Device
	mu     sync.Mutex
	since  time.Time // when the slow index began
}

// serverServices are those of a UPnP AV server.
func serverServices(d *Device) []service {
	l := &library{device: d}
	return []service{l.contentDirectory(), connectionManager(l.protocols(), "")}
}

// shelf is what the server offers, with the samples that were copied into its folders.
func (l *library) shelf() []folder { return l.device.offered() }

func (l *library) protocols() string {
	seen := map[string]bool{}
	var out []string
	for _, f := range l.shelf() {
		for _, i := range f.items {
			if !seen[i.mime] {
				seen[i.mime] = true
				out = append(out, "http-get:*:"+i.mime+":*")
			}
		}
	}
	return strings.Join(out, ",")
}

// restricted are the folders that a server shows to devices with a restriction, by the product token
// of their requests: a children's screen gets one folder of films. All others are shown everything.
var restricted = map[string][]string{"NorrvikJunior": {"Films"}}

// folders is what the server shows to who asks. A folder that is not shown keeps its number.
func (l *library) folders(r request) []folder {
	out := append([]folder(nil), l.shelf()...)
	d := l.device
	for n := range out {
		f := &out[n]
		for product, names := range restricted {
			if strings.Contains(r.agent, product) && !strings.Contains(strings.Join(names, "\n"), f.title) {
				f.title = ""
			}
		}
		f.items = l.listed(f.items)
		switch {
		case d.on("device-blocked") && (strings.Contains(r.agent, "Norrvik/3") || r.from == d.house.at(21)):
			f.title = ""
		case d.on("restart-due") && f.title == "Photos":
			f.title = ""
		case d.on("wrong-kind") && f.title == "Films":
			f.items = nil
		case d.on("wrong-kind") && f.title == "Music":
			for _, i := range l.shelf()[0].items {
				i.class = "object.item.audioItem.musicTrack"
				f.items = append(f.items, i)
			}
		}
	}
	if d.on("trial-ended") && len(out) > 0 {
		return []folder{{"Films", []item{{"The trial has ended", "trial.mp4", "object.item.videoItem", "video/mp4", 1, time.Second}}}}
	}
	return out
}

// listed are the items that are in the index by now.
func (l *library) listed(all []item) []item {
	d := l.device
	switch {
	case d.on("index-empty"):
		return nil
	case d.on("index-unfinished"):
		return all[:(len(all)+1)/2]
	case d.on("index-slow"):
		l.mu.Lock()
		defer l.mu.Unlock()
		if l.since.IsZero() {
			l.since = time.Now()
		}
		return all[:min(len(all), int(time.Since(l.since)/(2*time.Second)))]
	}
	l.mu.Lock()
	l.since = time.Time{}
	l.mu.Unlock()
	return all
}

// contentDirectory serves the shelf: the root holds folders n, folder n holds items n-m.
func (l *library) contentDirectory() service {
	searches := ""
	if l.device.HostName == "attic" {
		searches = "dc:title"
	}
	s := service{kind: "ContentDirectory:1", actions: map[string]action{
		"Browse":                l.browse,
		"GetSystemUpdateID":     func(request) ([]argument, *upnpError) { return []argument{{"Id", l.updateID()}}, nil },
		"GetSearchCapabilities": say("SearchCaps", searches),
		"GetSortCapabilities":   say("SortCaps", ""),
	}}
	s.state = func() []argument { return []argument{{"SystemUpdateID", l.updateID()}} }
	if searches != "" {
		s.actions["Search"] = l.search
	}
	return s
}

// updateID is another one for every state that the list can be in.
func (l *library) updateID() string {
	n := 1
	for _, f := range []string{"index-empty", "index-unfinished", "index-slow", "restart-due", "wrong-kind", "trial-ended", "unknown-titles"} {
		n *= 2
		if l.device.on(f) {
			n++
		}
	}
	return strconv.Itoa(n)
}

// entries are a list of which only the page that is asked for is written out.
type entries struct {
	n  int
	at func(int) string
}

func these(list ...string) entries { return entries{len(list), func(i int) string { return list[i] }} }

// browse implements ContentDirectory:1, section 2.7.4.
func (l *library) browse(r request) ([]argument, *upnpError) {
	list, fault := l.entriesOf(r)
	if fault != nil {
		return nil, fault
	}
	return l.page(list, r)
}

func (l *library) page(list entries, r request) ([]argument, *upnpError) {
	from, err1 := strconv.Atoi(r.args["StartingIndex"])
	count, err2 := strconv.Atoi(r.args["RequestedCount"])
	if err1 != nil || err2 != nil || from < 0 || count < 0 {
		return nil, &upnpError{402, "Invalid Args"}
	}
	from = min(from, list.n)
	end := list.n
	if count > 0 {
		end = min(from+count, list.n)
	}
	var didl strings.Builder
	didl.WriteString(`<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:upnp="urn:schemas-upnp-org:metadata-1-0/upnp/">`)
	for i := from; i < end; i++ {
		didl.WriteString(list.at(i))
	}
	didl.WriteString(`</DIDL-Lite>`)
	return []argument{{"Result", didl.String()}, {"NumberReturned", fmt.Sprint(end - from)}, {"TotalMatches", fmt.Sprint(list.n)}, {"UpdateID", l.updateID()}}, nil
}

// search implements ContentDirectory:1, section 2.7.5, for titles that contain a text.
func (l *library) search(r request) ([]argument, *upnpError) {
	_, quoted, ok := strings.Cut(r.args["SearchCriteria"], "dc:title contains ")
	want, err := strconv.Unquote(strings.TrimSpace(quoted))
	if !ok || err != nil {
		return nil, &upnpError{708, "Unsupported or invalid search criteria"}
	}
	var out []string
	for n, f := range l.folders(r) {
		for m, i := range f.items {
			if f.title != "" && strings.Contains(strings.ToLower(i.title), strings.ToLower(want)) {
				out = append(out, l.entry(n+1, m+1, i))
			}
		}
	}
	return l.page(these(out...), r)
}

func (l *library) entriesOf(r request) (none entries, fault *upnpError) {
	id, flag := r.args["ObjectID"], r.args["BrowseFlag"]
	if flag != "BrowseDirectChildren" && flag != "BrowseMetadata" {
		return none, &upnpError{402, "Invalid Args"}
	}
	meta := flag == "BrowseMetadata"
	shelf := l.folders(r)
	if id == "0" {
		if meta {
			return these(container("0", "-1", "root", len(shelf))), nil
		}
		var out []string
		for n, f := range shelf {
			if f.title != "" {
				out = append(out, container(fmt.Sprint(n+1), "0", f.title, len(f.items)))
			}
		}
		return these(out...), nil
	}
	if l.device.on("folders-hang") {
		<-r.ended
		return none, &upnpError{501, "Action Failed"}
	}
	folderText, itemText, isItem := strings.Cut(id, "-")
	n, err := strconv.Atoi(folderText)
	if err != nil || n < 1 || n > len(shelf) || shelf[n-1].title == "" {
		return none, &upnpError{701, "No such object"}
	}
	f := shelf[n-1]
	if l.device.on("no-rights") && f.title == "Films" {
		return none, &upnpError{720, "Cannot process the request"}
	}
	if isItem {
		m, err := strconv.Atoi(itemText)
		if err != nil || m < 1 || m > len(f.items) || !meta {
			return none, &upnpError{701, "No such object"}
		}
		return these(l.entry(n, m, f.items[m-1])), nil
	}
	if meta {
		return these(container(id, "0", f.title, len(f.items))), nil
	}
	return entries{len(f.items), func(m int) string { return l.entry(n, m+1, f.items[m]) }}, nil
}

func container(id, parent, title string, children int) string {
	return fmt.Sprintf(`<container id="%s" parentID="%s" restricted="1" childCount="%d"><dc:title>%s</dc:title><upnp:class>object.container.storageFolder</upnp:class></container>`,
		id, parent, children, escape(title))
}

func (l *library) entry(n, m int, i item) string {
	title := i.title
	if l.device.on("unknown-titles") {
		title = "Unknown"
	}
	converted := ""
	if l.device.converts && i.mime == "video/x-matroska" {
		converted = fmt.Sprintf(`<res protocolInfo="http-get:*:video/mp4:*" duration="%s">http://%s/media/%d-%d/converted</res>`, clock(i.length), l.device.Address, n, m)
	}
	return fmt.Sprintf(`<item id="%d-%d" parentID="%d" restricted="1"><dc:title>%s</dc:title><upnp:class>%s</upnp:class><res protocolInfo="http-get:*:%s:*" size="%d" duration="%s" bitrate="%d">http://%s/media/%d-%d</res>%s</item>`,
		n, m, n, escape(title), i.class, i.mime, i.size(), clock(i.length), int(i.mbps*1e6/8), l.device.Address, n, m, converted)
}

// mediaHandlers serve items with byte ranges (RFC 9110, section 14), at the rate of who fetches.
func mediaHandlers(d *Device, mux *http.ServeMux) {
	mux.HandleFunc("GET /media/", func(w http.ResponseWriter, r *http.Request) {
		shelf := d.offered()
		var n, m int
		if _, err := fmt.Sscanf(strings.TrimPrefix(r.URL.Path, "/media/"), "%d-%d", &n, &m); err != nil || n < 1 || n > len(shelf) || m < 1 || m > len(shelf[n-1].items) {
			http.NotFound(w, r)
			return
		}
		film := strings.HasPrefix(shelf[n-1].items[m-1].class, "object.item.videoItem")
		switch {
		case d.on("no-rights") && film:
			http.Error(w, "cannot be read", http.StatusInternalServerError)
			return
		case d.on("blocked-hours") && film, d.on("trial-ended"):
			http.Error(w, "not now", http.StatusForbidden)
			return
		}
		i := shelf[n-1].items[m-1]
		station, _ := netip.ParseAddrPort(r.RemoteAddr)
		kind := i.mime
		if strings.HasSuffix(r.URL.Path, "/converted") && d.converts {
			kind = "video/mp4"
		}
		w.Header().Set("Content-Type", kind)
		http.ServeContent(&paced{ResponseWriter: w, rate: func() float64 {
			rate := d.house.rateOf(station.Addr())
			if d.on("rate-cap") && (rate == 0 || rate > 2) {
				rate = 2
			}
			return rate
		}}, r, "", time.Time{}, i.content())
	})
}
