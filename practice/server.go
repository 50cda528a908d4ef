package practice

import (
	"bytes"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"
)

// item is one title in a media folder. Its content is filler of the stated size, enough to
// fetch by ranges, not to be watched.
type item struct {
	title, class, mime string
	size               int
}

type folder struct {
	title string
	items []item
}

// shelf is what the AV server of the house offers.
var shelf = []folder{
	{"Films", []item{
		{"The Long Ebb", "object.item.videoItem.movie", "video/mp4", 640 << 10},
		{"Fog Signal", "object.item.videoItem.movie", "video/x-matroska", 512 << 10},
		{"A Winter of Oil Lamps", "object.item.videoItem.movie", "video/mp4", 768 << 10},
	}},
	{"Music", []item{
		{"Granite Stairs", "object.item.audioItem.musicTrack", "audio/flac", 128 << 10},
		{"Foghorn in D", "object.item.audioItem.musicTrack", "audio/mpeg", 64 << 10},
	}},
	{"Photos", []item{{"Lamp room, first light", "object.item.imageItem.photo", "image/jpeg", 32 << 10}}},
}

// newAVServer makes the UPnP AV server of a house.
func newAVServer(d Device) *Device {
	d.Type = "MediaServer:1"
	d.services = []service{contentDirectory("http://" + d.Address.String()), connectionManager(sourceProtocols(), "")}
	d.media = http.HandlerFunc(serveMedia)
	return &d
}

func sourceProtocols() string {
	seen := map[string]bool{}
	var out []string
	for _, f := range shelf {
		for _, i := range f.items {
			if !seen[i.mime] {
				seen[i.mime] = true
				out = append(out, "http-get:*:"+i.mime+":*")
			}
		}
	}
	return strings.Join(out, ",")
}

// contentDirectory serves the shelf: the root holds folders n, folder n holds items n-m.
func contentDirectory(base string) service {
	return service{"ContentDirectory:1", map[string]action{
		"Browse":                func(args map[string]string) ([]argument, *upnpError) { return browse(base, args) },
		"GetSystemUpdateID":     func(map[string]string) ([]argument, *upnpError) { return []argument{{"Id", "1"}}, nil },
		"GetSearchCapabilities": func(map[string]string) ([]argument, *upnpError) { return []argument{{"SearchCaps", ""}}, nil },
		"GetSortCapabilities":   func(map[string]string) ([]argument, *upnpError) { return []argument{{"SortCaps", ""}}, nil },
	}}
}

// browse implements ContentDirectory:1, section 2.7.4.
func browse(base string, args map[string]string) ([]argument, *upnpError) {
	entries, fault := entriesOf(base, args["ObjectID"], args["BrowseFlag"])
	if fault != nil {
		return nil, fault
	}
	from, err1 := strconv.Atoi(args["StartingIndex"])
	count, err2 := strconv.Atoi(args["RequestedCount"])
	if err1 != nil || err2 != nil || from < 0 || count < 0 {
		return nil, &upnpError{402, "Invalid Args"}
	}
	total := len(entries)
	entries = entries[min(from, total):]
	if count > 0 {
		entries = entries[:min(count, len(entries))]
	}
	didl := `<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:upnp="urn:schemas-upnp-org:metadata-1-0/upnp/">` +
		strings.Join(entries, "") + `</DIDL-Lite>`
	return []argument{{"Result", didl}, {"NumberReturned", fmt.Sprint(len(entries))}, {"TotalMatches", fmt.Sprint(total)}, {"UpdateID", "1"}}, nil
}

func entriesOf(base, id, flag string) ([]string, *upnpError) {
	if flag != "BrowseDirectChildren" && flag != "BrowseMetadata" {
		return nil, &upnpError{402, "Invalid Args"}
	}
	meta := flag == "BrowseMetadata"
	if id == "0" {
		if meta {
			return []string{container("0", "-1", "root", len(shelf))}, nil
		}
		out := make([]string, len(shelf))
		for n, f := range shelf {
			out[n] = container(fmt.Sprint(n+1), "0", f.title, len(f.items))
		}
		return out, nil
	}
	folderText, itemText, isItem := strings.Cut(id, "-")
	n, err := strconv.Atoi(folderText)
	if err != nil || n < 1 || n > len(shelf) {
		return nil, &upnpError{701, "No such object"}
	}
	f := shelf[n-1]
	if isItem {
		m, err := strconv.Atoi(itemText)
		if err != nil || m < 1 || m > len(f.items) || !meta {
			return nil, &upnpError{701, "No such object"}
		}
		return []string{entry(base, n, m, f.items[m-1])}, nil
	}
	if meta {
		return []string{container(id, "0", f.title, len(f.items))}, nil
	}
	out := make([]string, len(f.items))
	for m, i := range f.items {
		out[m] = entry(base, n, m+1, i)
	}
	return out, nil
}

func container(id, parent, title string, children int) string {
	return fmt.Sprintf(`<container id="%s" parentID="%s" restricted="1" childCount="%d"><dc:title>%s</dc:title><upnp:class>object.container.storageFolder</upnp:class></container>`,
		id, parent, children, escape(title))
}

func entry(base string, n, m int, i item) string {
	return fmt.Sprintf(`<item id="%d-%d" parentID="%d" restricted="1"><dc:title>%s</dc:title><upnp:class>%s</upnp:class><res protocolInfo="http-get:*:%s:*" size="%d">%s/media/%d-%d</res></item>`,
		n, m, n, escape(i.title), i.class, i.mime, i.size, base, n, m)
}

// serveMedia serves an item with byte ranges (RFC 9110, section 14).
func serveMedia(w http.ResponseWriter, r *http.Request) {
	var n, m int
	if _, err := fmt.Sscanf(strings.TrimPrefix(r.URL.Path, "/media/"), "%d-%d", &n, &m); err != nil || n < 1 || n > len(shelf) || m < 1 || m > len(shelf[n-1].items) {
		http.NotFound(w, r)
		return
	}
	i := shelf[n-1].items[m-1]
	w.Header().Set("Content-Type", i.mime)
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(bytes.Repeat([]byte{byte(n), byte(m)}, i.size/2)))
}
