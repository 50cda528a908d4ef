package papers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/papers"
)

func TestStreamLists(t *testing.T) {
	for _, c := range []struct {
		name, text string
		want       papers.StreamList
	}{
		{"channels with a guide", "\ufeff#EXTM3U url-tvg=\"http://127.77.1.13/guide.xml\"\r\n#EXTINF:-1 tvg-id=\"vk1\" group-title=\"Parish, all\",Vesikarinne 1\r\nhttp://127.77.1.13:8090/channel/1\r\n\r\n#EXTINF:-1,Sea weather\nsea.ts\n",
			papers.StreamList{Guide: "http://127.77.1.13/guide.xml", Streams: []papers.Stream{{Name: "Vesikarinne 1", Group: "Parish, all", GuideID: "vk1", URL: "http://127.77.1.13:8090/channel/1"}, {Name: "Sea weather", URL: "sea.ts"}}}},
		{"parts of one stream", "#EXTM3U\n#EXT-X-VERSION:3\n#EXTINF:2.0,\npart-1.ts\n", papers.StreamList{Segments: true, Streams: []papers.Stream{{URL: "part-1.ts", Seconds: 2}}}},
		{"no values in quotes", "#EXTM3U x-tvg-url=http://127.77.1.13/g.xml other\n", papers.StreamList{Guide: "http://127.77.1.13/g.xml"}},
		{"nothing", "#EXTM3U", papers.StreamList{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := papers.ReadStreamList([]byte(c.text))
			require.True(t, ok)
			assert.Equal(t, c.want, got)
		})
	}
	_, ok := papers.ReadStreamList([]byte("<html>"))
	assert.False(t, ok)
	assert.Equal(t, "127.77.1.13:80", papers.Stream{URL: "http://127.77.1.13/x"}.Host())
	assert.Empty(t, papers.Stream{URL: "part.ts"}.Host())
}

func TestGuidesAreCounted(t *testing.T) {
	g, err := papers.ReadGuide(strings.NewReader(`<?xml version="1.0" encoding="ISO-8859-1"?><tv><channel id="a"/><programme start="20261126180000 +0200" channel="a"><title>x</title></programme><programme start="20261126170000 +0200"/></tv>`))
	require.NoError(t, err)
	assert.Equal(t, []any{1, 2, "20261126180000 +0200"}, []any{g.Channels, g.Programmes, g.Last})
	// How far it reaches: when the last programme of each channel ends, in any zone, and as precisely as it is written.
	g, err = papers.ReadGuide(strings.NewReader(`<tv><programme start="20261126180000 +0200" stop="20261126190000 +0200" channel="a"/><programme start="202611261600" stop="202611261730" channel="a"/>
		<programme start="2026112612" channel="b"/><programme start="soon" channel="c"/><programme start="20261126180000 EET" channel="d"/></tv>`))
	require.NoError(t, err)
	until := map[string]string{}
	for id, at := range g.Until {
		until[id] = at.UTC().Format("2 15:04")
	}
	assert.Equal(t, map[string]string{"a": "26 17:30", "b": "26 12:00", "d": "26 18:00"}, until)
	for _, text := range []string{"", "<html></html>", "rubbish", "<!DOCTYPE x [<!ENTITY a \"b\">]>"} {
		_, err = papers.ReadGuide(strings.NewReader(text))
		require.ErrorIs(t, err, papers.ErrNoGuide, text)
	}
	g, err = papers.ReadGuide(strings.NewReader(`<tv><programme start="1"/><programme`))
	require.ErrorContains(t, err, "unexpected EOF")
	assert.Equal(t, 1, g.Programmes, "what ends early counts as far as it was read")
}

func FuzzReadGuide(f *testing.F) {
	f.Add("<tv><channel/><programme start='2'/></tv>")
	f.Fuzz(func(t *testing.T, text string) {
		g, _ := papers.ReadGuide(strings.NewReader(text))
		assert.LessOrEqual(t, g.Channels+g.Programmes, len(text))
	})
}

func FuzzReadStreamList(f *testing.F) {
	f.Add("#EXTM3U url-tvg=\"g\"\n#EXTINF:-1 tvg-id=\"a\",b\nhttp://x/\n")
	f.Add("#EXTM3U a=\"\\\"\n#EXTINF:,,,\n#\n")
	f.Fuzz(func(t *testing.T, text string) {
		one, _ := papers.ReadStreamList([]byte(text))
		for _, s := range one.Streams {
			assert.NotEmpty(t, s.URL)
			_ = s.Host()
		}
	})
}

func TestStreamListsOfEverySystem(t *testing.T) {
	for name, text := range map[string]string{
		"line feeds":         "#EXTM3U\n#EXTINF:-1,One\nhttp://10.0.0.1/1\n#EXTINF:-1,Two\nhttp://10.0.0.1/2\n",
		"carriage returns":   "#EXTM3U\r#EXTINF:-1,One\rhttp://10.0.0.1/1\r#EXTINF:-1,Two\rhttp://10.0.0.1/2\r",
		"both":               "#EXTM3U\r\n#EXTINF:-1,One\r\nhttp://10.0.0.1/1\r\n#EXTINF:-1,Two\r\nhttp://10.0.0.1/2",
		"without a head":     "#EXTINF:-1,One\nhttp://10.0.0.1/1\n#EXTINF:-1,Two\nhttp://10.0.0.1/2\n",
		"blank lines before": "\n\n#EXTM3U\n#EXTINF:-1,One\nhttp://10.0.0.1/1\n\n#EXTINF:-1,Two\nhttp://10.0.0.1/2\n",
	} {
		list, ok := papers.ReadStreamList([]byte(text))
		require.True(t, ok, name)
		require.Len(t, list.Streams, 2, name)
		assert.Equal(t, "Two", list.Streams[1].Name, name)
		assert.Equal(t, "http://10.0.0.1/2", list.Streams[1].URL, name)
	}
	_, ok := papers.ReadStreamList([]byte("<html>#EXTINF: is the head of a stream</html>"))
	assert.False(t, ok)
}
