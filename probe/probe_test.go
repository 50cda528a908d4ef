package probe

import (
	"bufio"
	"bytes"
	"context"
	"flag"
	"fmt"
	"html"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/multicast"
	"kaiku/practice"
	"kaiku/practice/layout"
)

var update = flag.Bool("update", false, "write what the tests compare with anew")

var loopback = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}

// recorded is a home that records the practice house in 127.77.octet.0/24 as it is.
func recorded(octet byte) *dossier.Dossier {
	d := homes.Small()
	d.Segments[0].Prefix = netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 77, octet, 0}), 24)
	d.Segments[1].Prefix = netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 77, octet + 1, 0}), 24)
	d.Interfaces[0].Addresses = []netip.Addr{netip.AddrFrom4([4]byte{127, 77, octet, 10})}
	d.Interfaces[1].Addresses = []netip.Addr{netip.AddrFrom4([4]byte{127, 77, octet, 21})}
	d.Sources[0].Port, d.Sources[0].Locator = layout.ServerPort, layout.Locator
	d.Sources[0].UDN, d.Sources[0].ShownName = layout.ServerUDN, layout.ServerName
	return d
}

func start(t *testing.T, octet byte) *practice.House {
	h := practice.New(octet)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	return h
}

// planned is the test of that kind on the record.
func planned(d *dossier.Dossier, kind string, on dossier.Ref) proving.Test {
	t, _ := proving.NewPlan(d.Index()).Find(proving.TestID(kind, []dossier.Ref{on}))
	return t
}

func run(t *testing.T, d *dossier.Dossier, kind string) proving.Result {
	r, err := Prober{Guard: Guard{Within: loopback}}.Probe(t.Context(), d, planned(d, kind, d.Paths[0].ID.Ref()))
	require.NoError(t, err)
	return r
}

func TestReachAndFoundAgainstTheHouse(t *testing.T) {
	start(t, 31)
	d := recorded(31)
	r := run(t, d, "reach")
	assert.Equal(t, dossier.Pass, r.Outcome, r)
	assert.Equal(t, "answered", string(r.Observed))
	assert.Equal(t, 3.0, r.Values["folders"])
	r = run(t, d, "found")
	assert.Equal(t, dossier.Pass, r.Outcome, r)
	assert.Equal(t, layout.ServerName, r.Said["name"])
}

func TestWhatIsWrongIsToldApart(t *testing.T) {
	start(t, 32)
	silent := listen(t, "127.77.32.40:40210", func(c net.Conn) { _, _ = io.Copy(io.Discard, c) }) // the garbage collector closes a connection that nothing refers to
	defer silent.Close()
	empty := httptest.NewUnstartedServer(http.NotFoundHandler())
	l, err := net.Listen("tcp4", "127.77.32.41:40210")
	require.NoError(t, err)
	empty.Listener = l
	empty.Start()
	defer empty.Close()
	for _, c := range []struct {
		name, kind string
		change     func(*dossier.Dossier)
		outcome    dossier.Outcome
		observed   string
	}{
		{"nothing listens there", "reach", func(d *dossier.Dossier) { d.Sources[0].Port = 8999 }, dossier.Fail, "refused"},
		{"it accepts and says nothing", "reach", func(d *dossier.Dossier) { setAddress(d, "127.77.32.40") }, dossier.Fail, "time-out"},
		{"something else answers", "reach", func(d *dossier.Dossier) { setAddress(d, "127.77.32.41") }, dossier.Fail, "not-described"},
		{"a device, but no media server", "reach", func(d *dossier.Dossier) {
			setAddress(d, "127.77.32.21")
			d.Sources[0].Port, d.Sources[0].UDN = layout.ScreenPort, ""
		}, dossier.Fail, "not-described"},
		{"another device", "reach", func(d *dossier.Dossier) { d.Sources[0].UDN = "uuid:other" }, dossier.Fail, "wrong-content"},
		{"no address recorded", "reach", func(d *dossier.Dossier) { d.Interfaces[0].Addresses = nil }, dossier.Impossible, "no-address"},
		{"an address outside the home's segments", "reach", func(d *dossier.Dossier) { setAddress(d, "127.99.0.1") }, dossier.Impossible, "not-allowed"},
		{"only another server answers", "found", func(d *dossier.Dossier) { d.Sources[0].UDN = "uuid:other" }, dossier.Fail, "others-only"},
		{"it announces another address", "found", func(d *dossier.Dossier) { setAddress(d, "127.77.32.99") }, dossier.Fail, "old-address"},
		{"the device is in another segment", "found", func(d *dossier.Dossier) { d.Interfaces[1].Segment = d.Segments[1].ID }, dossier.Fail, "silence"},
		{"this machine is not in the segment", "found", func(d *dossier.Dossier) {
			d.Segments[1].Prefix = netip.MustParsePrefix("10.99.0.0/24")
			d.Interfaces[1].Segment = d.Segments[1].ID
		}, dossier.Impossible, "not-in-segment"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := recorded(32)
			c.change(d)
			p := Prober{Guard: Guard{Within: loopback}, late: -time.Hour} // whatever else this machine is doing
			r, err := p.Probe(t.Context(), d, planned(d, c.kind, d.Paths[0].ID.Ref()))
			require.NoError(t, err)
			assert.Equal(t, c.outcome, r.Outcome)
			assert.Equal(t, c.observed, string(r.Observed), r)
		})
	}
}

func setAddress(d *dossier.Dossier, a string) {
	d.Interfaces[0].Addresses = []netip.Addr{netip.MustParseAddr(a)}
}

func listen(t testing.TB, at string, serve func(net.Conn)) net.Listener {
	l, err := net.Listen("tcp4", at)
	require.NoError(t, err)
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go serve(c)
		}
	}()
	return l
}

// A description that sends us elsewhere must not be followed, whatever way it takes.
func TestNothingOutsideTheSegmentsIsDialled(t *testing.T) {
	var dialled []netip.AddrPort
	elsewhere := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { t.Error("was asked from outside the segments") }))
	defer elsewhere.Close()
	l, err := net.Listen("tcp4", "127.77.33.10:40210")
	require.NoError(t, err)
	control := elsewhere.URL
	lure := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/redirect" {
			http.Redirect(w, r, elsewhere.URL, http.StatusFound)
			return
		}
		fmt.Fprintf(w, `<root xmlns="urn:schemas-upnp-org:device-1-0"><URLBase>%s</URLBase><device><UDN>x</UDN><serviceList><service><serviceType>urn:schemas-upnp-org:service:ContentDirectory:1</serviceType><controlURL>%s/c</controlURL></service></serviceList></device></root>`, control, control)
	})}
	go func() { _ = lure.Serve(l) }()
	defer lure.Close()
	for locator, observed := range map[string]string{"/redirect": "not-allowed", "/description.xml": "leads-elsewhere"} {
		d := recorded(33)
		d.Sources[0].UDN, d.Sources[0].Locator = "", locator
		g := Guard{Within: loopback, record: func(a netip.AddrPort) { dialled = append(dialled, a) }}
		r, err := Prober{Guard: g}.Probe(t.Context(), d, planned(d, "reach", d.Paths[0].ID.Ref()))
		require.NoError(t, err)
		assert.Equal(t, dossier.Fail, r.Outcome)
		assert.Equal(t, observed, string(r.Observed))
	}
	for _, a := range dialled {
		assert.True(t, d33.Contains(a.Addr()), a)
	}
	assert.NotEmpty(t, dialled)
}

var d33 = netip.MustParsePrefix("127.77.33.0/24")

func TestSearchStopsWhenAsked(t *testing.T) {
	own, via, ok := OwnAddress(netip.MustParsePrefix("127.77.34.0/24"))
	require.True(t, ok)
	assert.Equal(t, "127.77.34.254", own.String())
	ctx, cancel := context.WithCancel(t.Context())
	time.AfterFunc(50*time.Millisecond, cancel)
	_, err := Search(ctx, own, via, mediaServer, 30)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestSilenceIsNoError(t *testing.T) {
	own, via, ok := OwnAddress(netip.MustParsePrefix("127.77.35.0/24"))
	require.True(t, ok)
	answers, err := Search(t.Context(), own, via, mediaServer, 1)
	require.NoError(t, err)
	assert.Empty(t, answers)
}

func FuzzParseAnswer(f *testing.F) {
	f.Add("HTTP/1.1 200 OK\r\nST: x\r\nUSN: y\r\nLOCATION: http://127.0.0.1:1/d\r\n\r\n")
	f.Add("HTTP/1.1 200 OK\r\nLOCATION: ftp://x\r\n\r\n")
	f.Add("NOTIFY * HTTP/1.1\r\n\r\n")
	f.Fuzz(func(t *testing.T, s string) {
		a, ok := parseAnswer([]byte(s))
		if ok && (a.Location == nil || a.Location.Host == "") {
			t.Fatal("an answer without a location was taken")
		}
	})
}

func FuzzObjects(f *testing.F) {
	f.Add(`<DIDL-Lite><container><title>Films</title></container></DIDL-Lite>`)
	f.Fuzz(func(_ *testing.T, s string) { _, _ = readObjects(s) })
}

func FuzzDescribe(f *testing.F) {
	f.Add(`<?xml version="1.0"?><root xmlns="urn:schemas-upnp-org:device-1-0"><device><friendlyName>x</friendlyName></device></root>`)
	f.Add("\xff\xfe<\x00r\x00o\x00o\x00t\x00>\x00")
	f.Add(`<s:Envelope xmlns:s="x"><s:Body><s:Fault><detail><UPnPError><errorCode>701</errorCode></UPnPError></detail></s:Fault></s:Body></s:Envelope>`)
	f.Add(`<!DOCTYPE x [<!ENTITY a "aaaa">]><root>&a;</root>`)
	f.Fuzz(func(_ *testing.T, body string) {
		client := &http.Client{Transport: answering(body)}
		at, _ := url.Parse("http://127.0.0.1:1/d")
		root, err := Describe(context.Background(), client, at)
		if err == nil {
			if directory, err := root.directory(); err == nil {
				_, _ = children(context.Background(), directory, "0")
			}
		}
	})
}

type answering string

func (a answering) RoundTrip(*http.Request) (*http.Response, error) {
	return &http.Response{StatusCode: 200, Header: http.Header{}, Body: readCloser{strings.NewReader(string(a))}}, nil
}

type readCloser struct{ *strings.Reader }

func (readCloser) Close() error { return nil }

// The machine looks into the folders of a path, and counts what is in them.
func TestOpensAndCompleteAgainstTheHouse(t *testing.T) {
	start(t, 33)
	complete := func(d *dossier.Dossier) proving.Result {
		r, err := Prober{Guard: Guard{Within: loopback}}.Probe(t.Context(), d, planned(d, "complete", d.Folders[0].ID.Ref()))
		require.NoError(t, err)
		return r
	}
	d := recorded(33)
	r := run(t, d, "opens")
	assert.Equal(t, dossier.Pass, r.Outcome, r)
	assert.Equal(t, "Films 3", r.Said["folders"])
	for _, c := range []struct {
		onDisk   int
		outcome  dossier.Outcome
		observed string
	}{{3, dossier.Pass, "complete"}, {4, dossier.Fail, "items-missing"}, {2, dossier.Marginal, "items-extra"}} {
		d.Folders[0].ItemsOnDisk = c.onDisk
		r := complete(d)
		assert.Equal(t, c.outcome, r.Outcome, r)
		assert.Equal(t, c.observed, string(r.Observed))
		assert.Equal(t, 3.0, r.Values["items"])
	}
	d.Folders[0].Name = "Films of long ago"
	assert.Equal(t, "folder-missing", string(run(t, d, "opens").Observed))
	assert.Equal(t, "folder-missing", string(complete(d).Observed))
	d.Sources[0].Port = 8999
	assert.Equal(t, "refused", string(run(t, d, "opens").Observed), "what keeps it from being reached is said first")
	assert.Equal(t, "refused", string(complete(d).Observed))
}

// A share's port is tried, and no more is claimed.
func TestReachOfAShare(t *testing.T) {
	open := listen(t, "127.77.34.10:4450", func(c net.Conn) { _ = c.Close() })
	defer open.Close()
	d := recorded(34)
	d.Paths[0].Kind, d.Paths[0].FoundBy, d.Sources[0].Protocol, d.Sources[0].Port = dossier.Share, dossier.ByTypedAddress, dossier.ProtocolSMB, 4450
	r := run(t, d, "reach")
	assert.Equal(t, dossier.Pass, r.Outcome, r)
	assert.Equal(t, "port-open", string(r.Observed))
	d.Sources[0].Port = 4451
	assert.Equal(t, "refused", string(run(t, d, "reach").Observed))
	_, err := Prober{Guard: Guard{Within: loopback}}.Probe(t.Context(), d, planned(d, "sound", d.Paths[0].ID.Ref()))
	assert.ErrorContains(t, err, "not for a machine")
}

// A directory that never ends, or nests without end, does not hold the test.
func TestDirectoriesWithoutEnd(t *testing.T) {
	for name, c := range map[string]struct{ reply, observed string }{
		"it nests for ever": {`<container id="x" parentID="0"><dc:title>Films</dc:title></container>`, "endless"},
		"it refuses":        {"", "folder-refused"},
	} {
		t.Run(name, func(t *testing.T) {
			server := endless(t, "127.77.35.10:40210", c.reply)
			defer server.Close()
			d := recorded(35)
			d.Sources[0].UDN, d.Sources[0].Locator, d.Folders[0].ItemsOnDisk = "", "/d.xml", 3
			r, err := Prober{Guard: Guard{Within: loopback}}.Probe(t.Context(), d, planned(d, "complete", d.Folders[0].ID.Ref()))
			require.NoError(t, err)
			assert.Equal(t, dossier.Fail, r.Outcome)
			assert.Equal(t, c.observed, string(r.Observed), r)
		})
	}
}

// endless is a server whose root lists Films, and whose other containers hold what reply says.
func endless(t *testing.T, at, reply string) *httptest.Server {
	s := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet {
			fmt.Fprint(w, `<root xmlns="urn:schemas-upnp-org:device-1-0"><device><deviceType>urn:schemas-upnp-org:device:MediaServer:1</deviceType><friendlyName>x</friendlyName><UDN>uuid:x</UDN><serviceList><service><serviceType>urn:schemas-upnp-org:service:ContentDirectory:1</serviceType><serviceId>urn:upnp-org:serviceId:ContentDirectory</serviceId><SCPDURL>/s</SCPDURL><controlURL>/c</controlURL><eventSubURL>/e</eventSubURL></service></serviceList></device></root>`)
			return
		}
		b, _ := io.ReadAll(r.Body)
		inside := reply
		if strings.Contains(string(b), "<ObjectID>0</ObjectID>") {
			inside = `<container id="f" parentID="0"><dc:title>Films</dc:title></container>`
		}
		if inside == "" {
			w.WriteHeader(http.StatusInternalServerError)
			return
		}
		didl := html.EscapeString(`<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/" xmlns:dc="http://purl.org/dc/elements/1.1/">` + inside + `</DIDL-Lite>`)
		fmt.Fprintf(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><u:BrowseResponse xmlns:u="urn:schemas-upnp-org:service:ContentDirectory:1"><Result>%s</Result><NumberReturned>1</NumberReturned><TotalMatches>1</TotalMatches><UpdateID>1</UpdateID></u:BrowseResponse></s:Body></s:Envelope>`, didl)
	}))
	l, err := net.Listen("tcp4", at)
	require.NoError(t, err)
	s.Listener = l
	s.Start()
	return s
}

// Whatever answers only when it is searched for once more was there: a packet that is lost proves nothing.
func TestASearchThatIsNotAnsweredIsRepeated(t *testing.T) {
	h := practice.New(204)
	require.NoError(t, h.Switch("multicast-lost", true))
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	ear, err := multicast.Hear(multicast.SSDP, lo)
	require.NoError(t, err)
	t.Cleanup(func() { _ = ear.Close() })
	speaks := func(host byte) *net.UDPConn {
		conn, err := multicast.Speak(netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, 204, host}), 0), lo, 2)
		require.NoError(t, err)
		t.Cleanup(func() { _ = conn.Close() })
		return conn
	}
	server, screen := speaks(10), speaks(21)
	go func() { // hears each search for the first time as if it had been lost
		first := map[string]uint16{}
		for b := make([]byte, 8192); ; {
			n, from, err := ear.Next(b)
			if err != nil {
				return
			}
			r, err := http.ReadRequest(bufio.NewReader(bytes.NewReader(b[:n])))
			if err != nil || r.Method != "M-SEARCH" {
				continue
			}
			target := r.Header.Get("St")
			if first[target] == 0 {
				first[target] = from.Port()
			}
			if first[target] == from.Port() {
				continue
			}
			conn, at, udn := server, fmt.Sprintf("127.77.204.10:%d", layout.ServerPort), layout.ServerUDN
			if strings.Contains(target, "Renderer") {
				conn, at, udn = screen, fmt.Sprintf("127.77.204.21:%d", layout.ScreenPort), layout.ScreenUDN
			}
			_, _ = conn.WriteToUDPAddrPort(fmt.Appendf(nil, "HTTP/1.1 200 OK\r\nEXT:\r\nLOCATION: http://%s%s\r\nST: %s\r\nUSN: %s::%s\r\n\r\n", at, layout.Locator, target, udn, target), from)
		}
	}()
	d := everyWay(204)
	pushed := d.Paths[slices.IndexFunc(d.Paths, func(p dossier.Path) bool { return p.Name == "pushed films" })]
	for kind, of := range map[string]dossier.Path{"found": d.Paths[0], "stops": pushed} {
		p := quickly()
		p.late = -time.Hour // whatever else this machine is doing
		r, err := p.Probe(t.Context(), d, planned(d, kind, of.ID.Ref()))
		require.NoError(t, err)
		assert.Equal(t, dossier.Pass, r.Outcome, "%s: %s %v", kind, r.Observed, r.Said)
	}
}
