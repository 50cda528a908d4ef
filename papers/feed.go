package papers

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"errors"
	"io"
	"strings"
	"time"

	"golang.org/x/net/html/charset"
)

// Feed is what a feed of sound, pictures or news holds: RSS 2.0 or 1.0, or Atom (RFC 4287).
type Feed struct {
	Title   string
	Entries []FeedEntry
}

// FeedEntry is one entry of a feed. At is zero where it says no time that can be read; Media is the address of what it brings, or of its page.
type FeedEntry struct {
	Title string
	At    time.Time
	Media string
}

// ErrNoFeed is returned for what is not a feed: its root is none of rss, RDF and feed.
var ErrNoFeed = errors.New("not a feed")

// mostEntries bounds what is kept of a feed.
const mostEntries = 5000

// feedTimes are the forms in which feeds write times: of RFC 822 with and without the day's name, seconds or a zone by number, and of RFC 3339.
var feedTimes = []string{time.RFC3339, time.RFC1123Z, time.RFC1123, "Mon, 2 Jan 2006 15:04:05 -0700", "Mon, 2 Jan 2006 15:04:05 MST", "2 Jan 2006 15:04:05 -0700", "2 Jan 2006 15:04:05 MST", "Mon, 2 Jan 2006 15:04 -0700", time.DateOnly}

func feedTime(s string) time.Time {
	for _, form := range feedTimes {
		if t, err := time.Parse(form, strings.TrimSpace(s)); err == nil {
			return t
		}
	}
	return time.Time{}
}

// entry is an entry in any of the forms; the names of their elements do not collide.
type feedEntry struct {
	Title     string `xml:"title"`
	ID        string `xml:"id"`
	GUID      string `xml:"guid"`
	PubDate   string `xml:"pubDate"`
	Date      string `xml:"date"`
	Published string `xml:"published"`
	Updated   string `xml:"updated"`
	Links     []struct {
		Rel  string `xml:"rel,attr"`
		Href string `xml:"href,attr"`
		Text string `xml:",chardata"`
	} `xml:"link"`
	Enclosures []struct {
		URL string `xml:"url,attr"`
	} `xml:"enclosure"`
}

func (e feedEntry) said() FeedEntry {
	out := FeedEntry{Title: cmp.Or(strings.TrimSpace(e.Title), strings.TrimSpace(e.GUID), strings.TrimSpace(e.ID))}
	for _, text := range []string{e.PubDate, e.Published, e.Updated, e.Date} {
		if out.At.IsZero() {
			out.At = feedTime(text)
		}
	}
	for _, l := range e.Links {
		if address := cmp.Or(l.Href, strings.TrimSpace(l.Text)); out.Media == "" || l.Rel == "enclosure" {
			out.Media = address
		}
	}
	if len(e.Enclosures) > 0 {
		out.Media = e.Enclosures[0].URL
	}
	return out
}

// ReadFeed reads a feed. Entries are read one by one, as feeds grow long; one that ends early counts as far as it was read.
func ReadFeed(b []byte) (Feed, error) {
	var out Feed
	d := xml.NewDecoder(bytes.NewReader(b))
	d.Strict = false
	d.Entity = xml.HTMLEntity
	d.CharsetReader = func(label string, in io.Reader) (io.Reader, error) { return charset.NewReaderLabel(label, in) }
	root := false
	for len(out.Entries) < mostEntries {
		t, err := d.Token()
		if err != nil {
			break // the end, or as far as it can be read
		}
		e, begins := t.(xml.StartElement)
		switch {
		case !begins:
		case !root:
			if root = e.Name.Local == "rss" || e.Name.Local == "RDF" || e.Name.Local == "feed"; !root {
				return Feed{}, ErrNoFeed
			}
		case e.Name.Local == "item" || e.Name.Local == "entry":
			var one feedEntry
			if d.DecodeElement(&one, &e) == nil {
				out.Entries = append(out.Entries, one.said())
			}
		case e.Name.Local == "title" && out.Title == "" && len(out.Entries) == 0:
			var title string
			if d.DecodeElement(&title, &e) == nil {
				out.Title = strings.TrimSpace(title)
			}
		}
	}
	if !root {
		return Feed{}, ErrNoFeed
	}
	return out, nil
}
