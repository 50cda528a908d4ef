package papers

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// StreamList is a list of streams: an M3U, of which HLS (RFC 8216) is one sort.
type StreamList struct {
	Streams  []Stream
	Guide    string // where the list says that its guide lies
	Segments bool   // an HLS playlist: its lines are parts or variants of one stream
	Title    string // what the list calls itself
}

// Ends reports whether all that is in the list has a length: recordings or files, not channels.
func (l StreamList) Ends() bool {
	return len(l.Streams) > 0 && !slices.ContainsFunc(l.Streams, func(s Stream) bool { return s.Seconds <= 0 })
}

// Stream is one line of a list.
type Stream struct {
	Name    string
	Group   string
	GuideID string // what the guide calls this channel
	URL     string
	Seconds float64 // how long it is; 0 for one without an end
}

// Host is the host and port that the stream leads to; empty for one that stays where the list is.
func (s Stream) Host() string {
	u, err := url.Parse(s.URL)
	if err != nil {
		return ""
	}
	if u.Host != "" && u.Port() == "" {
		return u.Host + ":80"
	}
	return u.Host
}

// mostStreams bounds what is read of one list.
const mostStreams = 20_000

// ReadStreamList reads a list; ok is whether it is one at all. What it does not know it skips.
func ReadStreamList(b []byte) (StreamList, bool) {
	text := strings.TrimPrefix(string(b), "\ufeff")
	if !utf8.ValidString(text) {
		text = strings.ToValidUTF8(text, "\uFFFD")
	}
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text) // lists are written on every system
	if !strings.HasPrefix(strings.TrimSpace(text), "#EXTM3U") && !strings.HasPrefix(text, "#EXTINF:") && !strings.Contains(text, "\n#EXTINF:") {
		return StreamList{}, false // some begin with their first stream
	}
	var out StreamList
	var next Stream
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(line)
		rest, isHead := strings.CutPrefix(line, "#EXTM3U")
		about, isInfo := strings.CutPrefix(line, "#EXTINF:")
		switch {
		case isHead:
			a := attributes(rest)
			out.Guide = a["url-tvg"]
			if out.Guide == "" {
				out.Guide = a["x-tvg-url"]
			}
		case strings.HasPrefix(line, "#EXT-X-"):
			out.Segments = true
		case isInfo:
			before, name, _ := cutName(about)
			a := attributes(before)
			next = Stream{Name: strings.TrimSpace(name), Group: a["group-title"], GuideID: a["tvg-id"], Seconds: secondsOf(before)}
		case strings.HasPrefix(line, "#PLAYLIST:"):
			out.Title = strings.TrimSpace(strings.TrimPrefix(line, "#PLAYLIST:"))
		case line == "" || line[0] == '#':
		case len(out.Streams) < mostStreams:
			next.URL = line
			out.Streams = append(out.Streams, next)
			next = Stream{}
		}
	}
	return out, true
}

// cutName cuts what stands after the length of a stream at the comma before its name: one that
// stands in no quotes.
func cutName(s string) (before, name string, found bool) {
	quoted := false
	for i := range len(s) {
		switch {
		case s[i] == '"':
			quoted = !quoted
		case s[i] == ',' && !quoted:
			return s[:i], s[i+1:], true
		}
	}
	return s, "", false
}

// secondsOf reads the length at the beginning of a line, 0 for none.
func secondsOf(s string) float64 {
	length, _, _ := strings.Cut(strings.TrimSpace(s), " ")
	seconds, err := strconv.ParseFloat(length, 64)
	if err != nil || !(seconds > 0) {
		return 0
	}
	return seconds
}

// attributes reads name="value" pairs.
func attributes(s string) map[string]string {
	out := map[string]string{}
	for {
		name, rest, found := strings.Cut(s, "=")
		if !found || len(out) >= 64 {
			return out
		}
		if i := strings.LastIndexAny(name, " ,\t"); i >= 0 {
			name = name[i+1:]
		}
		value := rest
		if quoted, err := strconv.QuotedPrefix(rest); err == nil && strings.HasPrefix(rest, `"`) {
			value, s = strings.Trim(quoted, `"`), rest[len(quoted):]
		} else {
			end := strings.IndexAny(rest, " ,\t")
			if end < 0 {
				end = len(rest)
			}
			value, s = rest[:end], rest[end:]
		}
		out[strings.ToLower(strings.TrimSpace(name))] = value
	}
}
