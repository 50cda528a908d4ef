package papers

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFeedsOfAllForms(t *testing.T) {
	day := time.Date(2026, 11, 3, 6, 0, 0, 0, time.UTC)
	for form, text := range map[string]string{
		"RSS": `<rss version="2.0"><channel><title>Sea weather</title><item><title>Morning</title><pubDate>Tue, 03 Nov 2026 06:00:00 GMT</pubDate>
			<enclosure url="/morning.mp3" type="audio/mpeg" length="3"/></item></channel></rss>`,
		"Atom": `<feed xmlns="http://www.w3.org/2005/Atom"><title>Sea weather</title><entry><title>Morning</title><updated>2026-11-03T06:00:00Z</updated>
			<link rel="enclosure" href="/morning.mp3"/></entry></feed>`,
		"RSS 1.0": `<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns="http://purl.org/rss/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/"><channel><title>Sea weather</title></channel>
			<item><title>Morning</title><link>/morning.mp3</link><dc:date>2026-11-03T06:00:00Z</dc:date></item></rdf:RDF>`,
		"Latin-1": "<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><rss version=\"2.0\"><channel><title>Sea weather</title><item><title>Morning</title><pubDate>3 Nov 2026 06:00:00 GMT</pubDate><link>/morning.mp3</link><description>S\xe4\xe4</description></item></channel></rss>",
	} {
		f, err := ReadFeed([]byte(text))
		require.NoError(t, err, form)
		assert.Equal(t, "Sea weather", f.Title, form)
		require.Len(t, f.Entries, 1, form)
		assert.Equal(t, FeedEntry{"Morning", day, "/morning.mp3"}, FeedEntry{f.Entries[0].Title, f.Entries[0].At.UTC(), f.Entries[0].Media}, form)
	}
	for _, text := range []string{"", "<html></html>", "{", "#EXTM3U", "<opml></opml>"} {
		_, err := ReadFeed([]byte(text))
		assert.ErrorIs(t, err, ErrNoFeed, text)
	}
	f, err := ReadFeed([]byte(`<rss version="2.0"><channel><title>x</title></channel></rss>`))
	require.NoError(t, err)
	assert.Empty(t, f.Entries)
}

func FuzzReadFeed(f *testing.F) {
	f.Add([]byte(`<rss version="2.0"><channel><item><title>a</title></item></channel></rss>`))
	f.Add([]byte(`<feed xmlns="http://www.w3.org/2005/Atom"><entry><link href="x"/>`))
	f.Fuzz(func(t *testing.T, b []byte) {
		if feed, err := ReadFeed(b); err == nil && len(feed.Entries) > mostEntries {
			t.Fail()
		}
	})
}
