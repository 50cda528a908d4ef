package probe

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/media"
	"kaiku/practice"
	"kaiku/practice/layout"
)

// readAll reads what lies in a place, by path.
func readAll(t *testing.T, fsys fs.FS) map[string]contents.File {
	c, err := media.Folder(t.Context(), fsys, media.Reading{})
	require.NoError(t, err)
	out := map[string]contents.File{}
	for _, i := range c.Items {
		out[i.Path] = i
	}
	return out
}

func placeAt(scheme, path string, d *practice.Device, port int) *url.URL {
	return &url.URL{Scheme: scheme, Host: fmt.Sprintf("%s:%d", d.Address.Addr(), port), Path: path}
}

func everywhere() Guard { return Guard{Within: loopback} }

// The same films are the same, whichever way they are read: over a share, an export, and title by title.
func TestAFolderIsReadWhereverItLies(t *testing.T) {
	h := practice.New(105)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	d := bare(h)
	g := everywhere().ForHome(d)
	kelp := h.Device("kelp")
	exported, end, err := g.OpenPlace(t.Context(), placeAt("nfs", "/kelp/Films", kelp, 2049), Login{})
	require.NoError(t, err)
	t.Cleanup(end)
	items := readAll(t, exported)
	require.Len(t, items, 3)
	film := items["fog-signal.mkv"]
	assert.Equal(t, dossier.HEVC, film.Format.Video)
	assert.Equal(t, dossier.EAC3, film.Format.Sound)
	assert.Equal(t, dossier.H264, items["the-long-ebb.mp4"].Format.Video)
	deep, err := media.Deepen(t.Context(), exported, film, func(int64) {})
	require.NoError(t, err)
	assert.True(t, deep.Deep)

	top, end2, err := g.OpenPlace(t.Context(), placeAt("nfs", "/kelp", kelp, 2049), Login{})
	require.NoError(t, err)
	t.Cleanup(end2)
	assert.Equal(t, film.Format, readAll(t, top)["Films/fog-signal.mkv"].Format)
	_, err = top.Open("Films/nothing.mkv")
	require.ErrorIs(t, err, fs.ErrNotExist)
	_, err = fs.Stat(top, "Nowhere")
	require.ErrorIs(t, err, fs.ErrNotExist)

	t.Run("as a job of the service does", func(t *testing.T) {
		films := dossier.Folder{Meta: dossier.Meta[dossier.Folder]{ID: "films"}, Name: "Films"}
		p := Prober{Guard: everywhere()}
		var rates []string
		tell := func(p contents.Progress) {
			if p.Rates {
				rates = append(rates, p.Path)
			}
		}
		what := contents.Wanted{Place: placeAt("nfs", "/kelp/Films", kelp, 2049).String()}
		c, err := p.ReadFolder(t.Context(), d, films, what, tell)
		require.NoError(t, err)
		assert.Equal(t, dossier.ID[dossier.Folder]("films"), c.Folder)
		assert.Equal(t, what.Place, c.Place)
		assert.False(t, c.Stopped)
		require.Len(t, c.Items, 3)
		assert.Len(t, rates, 2, "of each format the heaviest is read")
		deep := slices.DeleteFunc(slices.Clone(c.Items), func(f contents.File) bool { return !f.Deep })
		assert.Len(t, deep, 2)
		assert.Contains(t, rates, deep[0].Path)

		ctx, stop := context.WithCancel(t.Context())
		stop()
		half, err := p.ReadFolder(ctx, d, films, what, tell)
		assert.True(t, err != nil || half.Stopped, "%+v", half)
		for place, wrong := range map[string]error{"/mnt/films": contents.ErrPlace, "smb://": contents.ErrPlace, "smb://a:b@127.77.105.10/x": contents.ErrPlace, "ftp://127.77.105.10/x": contents.ErrPlace, "smb://10.9.9.9/x": ErrOutside} {
			_, err := p.ReadFolder(t.Context(), d, films, contents.Wanted{Place: place}, tell)
			assert.ErrorIs(t, err, wrong, place)
		}
	})

	t.Run("with the list of its server", func(t *testing.T) {
		server := h.Device("granite")
		listed := d.Clone()
		device := dossier.Device{Name: server.Name}
		device.ID = homes.ID[dossier.Device](901)
		listed.Devices.Put(device)
		i := dossier.Interface{Device: device.ID, Segment: d.Segments[0].ID, Addresses: []netip.Addr{server.Address.Addr()}}
		i.ID = homes.ID[dossier.Interface](901)
		listed.Interfaces.Put(i)
		source := dossier.Source{Device: device.ID, Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: layout.ServerPort, Locator: layout.Locator}
		source.ID = homes.ID[dossier.Source](901)
		listed.Sources.Put(source)
		films := dossier.Folder{Source: source.ID, Name: "Films", ContentKind: dossier.Film}
		films.ID = homes.ID[dossier.Folder](901)
		p, place := Prober{Guard: everywhere()}, placeAt("nfs", "/kelp/Films", kelp, 2049).String()
		var asked bool
		c, err := p.ReadFolder(t.Context(), listed, films, contents.Wanted{Place: place, HeadsOnly: true}, func(p contents.Progress) { asked = asked || p.Rates })
		require.NoError(t, err)
		assert.False(t, asked)
		require.NotNil(t, c.Listing)
		assert.Empty(t, c.Listing.Trouble)
		assert.True(t, c.Listing.Whole)
		found, ok := c.Compare(films)
		require.True(t, ok)
		assert.Equal(t, len(c.Items), found.OnDisk)
		assert.Equal(t, len(c.Listing.Entries), found.Listed)
		assert.NotEmpty(t, found.Listed)
		t.Log(found.Lines())

		itself, err := p.ReadFolder(t.Context(), listed, films, contents.Wanted{HeadsOnly: true}, func(contents.Progress) {})
		require.NoError(t, err)
		assert.Nil(t, itself.Listing, "its own list says nothing of the disk")
		films.Name = "Reels"
		none, err := p.ReadFolder(t.Context(), listed, films, contents.Wanted{Place: place, HeadsOnly: true}, func(contents.Progress) {})
		require.NoError(t, err)
		assert.Contains(t, none.Listing.Trouble, "shows no folder Reels")
		_, ok = none.Compare(films)
		assert.False(t, ok)
	})

	t.Run("over a share", func(t *testing.T) {
		shared, end, err := g.OpenPlace(t.Context(), placeAt("smb", "/media/Films", kelp, layout.SharePort), Login{})
		if errors.Is(err, syscall.ECONNREFUSED) {
			t.Skip("the practice house serves no shares: smbd is not on this machine")
		}
		require.NoError(t, err)
		t.Cleanup(end)
		over := readAll(t, shared)
		assert.Len(t, over, len(items))
		for name, i := range over {
			assert.Equal(t, items[name].Format, i.Format, name)
			assert.Equal(t, items[name].Bytes, i.Bytes, name)
		}
		films := dossier.Folder{Meta: dossier.Meta[dossier.Folder]{ID: "films"}, Name: "Films"}
		what := contents.Wanted{Place: placeAt("smb", "/media/Films", kelp, layout.SharePort).String()}
		first, err := Prober{Guard: everywhere()}.ReadFolder(t.Context(), d, films, what, func(contents.Progress) {})
		require.NoError(t, err)
		what.Known = first.Items
		again, err := Prober{Guard: everywhere()}.ReadFolder(t.Context(), d, films, what, func(p contents.Progress) {
			assert.False(t, p.Rates, "no rate is read twice")
		})
		require.NoError(t, err)
		assert.Equal(t, len(first.Items), again.Kept, "nothing has changed")
		assert.Equal(t, first.Items, again.Items)

		_, _, err = g.OpenPlace(t.Context(), placeAt("smb", "/nothing", kelp, layout.SharePort), Login{})
		require.ErrorContains(t, err, "open the share nothing")
		_, _, err = g.OpenPlace(t.Context(), placeAt("smb", "/papers", kelp, layout.SharePort), Login{})
		require.ErrorContains(t, err, "permission denied")
	})
}

func TestPlacesThatCannotBeOpened(t *testing.T) {
	for place, says := range map[string]string{
		"ftp://127.0.0.1/x": "neither smb:// nor nfs://", "smb://server/x": "write the server's address", "smb://127.0.0.1/": "the name of the share is missing", "smb://127.0.0.1:0/x": "is not a port",
		"smb://10.1.2.3/x": ErrOutside.Error(), "nfs://127.77.105.200/x": "open the export /x",
	} {
		u, err := url.Parse(place)
		require.NoError(t, err)
		_, _, err = everywhere().ForHome(&dossier.Dossier{Segments: dossier.Records[dossier.Segment]{{Prefix: loopback[0]}}}).OpenPlace(t.Context(), u, Login{})
		assert.ErrorContains(t, err, says, place)
	}
}

// shelf is a UPnP AV server of one's own, with real clips, and whatever a server may do with them.
type shelf struct {
	whole, unsized, shifted bool
	asked                   atomic.Int64 // bytes of media that were sent
}

func (s *shelf) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	const clip = "../media/testdata/clips/h264-high-aac.mp4"
	switch {
	case r.URL.Path == "/d.xml":
		_, _ = io.WriteString(w, `<root xmlns="urn:schemas-upnp-org:device-1-0"><device><deviceType>urn:schemas-upnp-org:device:MediaServer:1</deviceType><friendlyName>shelf</friendlyName><UDN>uuid:1</UDN><serviceList><service><serviceType>urn:schemas-upnp-org:service:ContentDirectory:1</serviceType><controlURL>/c</controlURL></service></serviceList></device></root>`)
	case r.URL.Path == "/c":
		body, _ := io.ReadAll(r.Body)
		size := ` size="14883"`
		if s.unsized {
			size = ""
		}
		list := map[string]string{
			"0": `<container id="1"><title>Films</title></container>`,
			"1": `<container id="2"><title>More/of it</title></container><item id="3"><title>Fog Signal</title><date>2026-02-03</date><res protocolInfo="http-get:*:video/mp4:*"` + size + `>/m/film.mp4</res></item><item id="4"><title>Fog Signal</title><res protocolInfo="http-get:*:video/mp4:*"` + size + `>/m/film.mp4?2</res></item><item id="5"><title>Only by name</title></item>`,
			"2": `<item id="6"><title>Ebb</title><res protocolInfo="http-get:*:video/mp4:*"` + size + `>/m/other</res></item>`,
		}
		for id, didl := range list {
			if strings.Contains(string(body), "<ObjectID>"+id+"</ObjectID>") {
				n := strings.Count(didl, "<title>")
				_, _ = fmt.Fprintf(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><u:BrowseResponse xmlns:u="urn:schemas-upnp-org:service:ContentDirectory:1"><Result>%s</Result><NumberReturned>%d</NumberReturned><TotalMatches>%d</TotalMatches></u:BrowseResponse></s:Body></s:Envelope>`,
					strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(`<DIDL-Lite>`+didl+`</DIDL-Lite>`), n, n)
				return
			}
		}
	case strings.HasPrefix(r.URL.Path, "/m/"):
		if s.whole {
			r.Header.Del("Range")
		}
		if s.shifted {
			r.Header.Set("Range", "bytes=1-9")
		}
		counted := &counter{ResponseWriter: w}
		http.ServeFile(counted, r, clip)
		s.asked.Add(counted.n)
	}
}

type counter struct {
	http.ResponseWriter
	n int64
}

func (c *counter) Write(b []byte) (int, error) {
	c.n += int64(len(b))
	return c.ResponseWriter.Write(b)
}

func openShelf(t *testing.T, s *shelf) fs.FS {
	server := httptest.NewServer(s)
	t.Cleanup(server.Close)
	at := netip.MustParseAddrPort(strings.TrimPrefix(server.URL, "http://"))
	d := &dossier.Dossier{Segments: dossier.Records[dossier.Segment]{{Prefix: netip.MustParsePrefix("127.0.0.0/8")}}}
	d.Interfaces = dossier.Records[dossier.Interface]{{Meta: dossier.Meta[dossier.Interface]{ID: "i"}, Device: "s", Addresses: []netip.Addr{at.Addr()}}}
	d.Sources = dossier.Records[dossier.Source]{{Meta: dossier.Meta[dossier.Source]{ID: "a"}, Device: "s", Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: int(at.Port()), Locator: "/d.xml"}}
	fsys, err := Prober{Guard: everywhere()}.OpenDirectory(t.Context(), d, dossier.Folder{Source: "a", Name: "films"})
	require.NoError(t, err)
	return fsys
}

func TestTitlesAreReadInParts(t *testing.T) {
	for _, unsized := range []bool{false, true} {
		s := &shelf{unsized: unsized}
		items := readAll(t, openShelf(t, s))
		require.Len(t, items, 3, "what cannot be fetched is no file")
		for _, name := range []string{"Fog Signal.mp4", "Fog Signal (2).mp4", "More_of it/Ebb.mp4"} {
			i := items[name]
			assert.Empty(t, i.Trouble, "%s: %s", name, i.Detail)
			assert.Equal(t, dossier.H264, i.Format.Video, name)
			assert.EqualValues(t, 14883, i.Bytes, name)
		}
		assert.LessOrEqual(t, s.asked.Load(), int64(3*2*14883))
	}
	for _, s := range []*shelf{{whole: true}, {shifted: true}} {
		for _, i := range readAll(t, openShelf(t, s)) {
			assert.Equal(t, contents.CannotRead, i.Trouble, "a server that does not send parts is told as that: %s", i.Detail)
		}
		assert.Less(t, s.asked.Load(), int64(64<<10), "and is not asked for whole files again and again")
	}
}

func TestADirectoryThatCannotBeOpened(t *testing.T) {
	p := Prober{Guard: everywhere()}
	d := &dossier.Dossier{Sources: dossier.Records[dossier.Source]{{Meta: dossier.Meta[dossier.Source]{ID: "a"}, Name: "media", Protocol: dossier.ProtocolSMB}, {Meta: dossier.Meta[dossier.Source]{ID: "b"}, Name: "other", Protocol: dossier.ProtocolUPnPAV}}}
	_, err := p.OpenDirectory(context.Background(), d, dossier.Folder{Source: "a", Name: "Films"})
	require.ErrorContains(t, err, "not browsed over ContentDirectory")
	_, err = p.OpenDirectory(context.Background(), d, dossier.Folder{Source: "b", Name: "Films"})
	require.ErrorContains(t, err, "no address and port")
}
