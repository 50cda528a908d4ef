package probe

import (
	"context"
	"encoding/xml"
	"fmt"
	"html"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/miekg/dns"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
	"kaiku/multicast"
)

// drawnHouse is a house that is not the practice house: its devices are drawn from a seed, and do what the
// standards let devices do, each in its own way.
type drawnHouse struct {
	prefix  netip.Prefix
	rnd     *rand.Rand
	devices []*drawnDevice
	names   map[string]netip.Addr // of .local
	close   []func()
	wait    sync.WaitGroup
}

// drawnDevice is one device at one place, as it should be recorded.
type drawnDevice struct {
	at        netip.AddrPort
	path      string
	kind      string // MediaServer, MediaRenderer, InternetGatewayDevice
	name      string
	make      string
	model     string
	serial    string
	udn       string
	folders   []drawnFolder
	sink      string
	outer     string
	manner    drawnManner
	announced string // location
	endless   bool   // its answers never end
}

type drawnFolder struct {
	name  string
	ids   []string // of its items
	refs  int      // further entries that refer to some of these
	inner bool     // the items lie one folder deeper
}

// drawnManner is how a device behaves.
type drawnManner struct {
	version     int
	services    int
	prefix      string // of names of elements
	encoding    string
	urlBase     string // none, slash, folder
	inner       bool   // it stands within another device
	shared      bool   // it shares its port with others
	late        time.Duration
	slow        time.Duration
	local       bool // its location is a name
	redirect    bool
	page        int  // entries that it gives at once
	total       bool // whether it says how many there are
	boasts      bool // it says that there are more than it lists
	cdata       bool // its lists stand in a CDATA section
	lower       bool // its headers are in small letters
	twice       bool // titles are escaped twice
	noResult    bool // an empty folder has no Result
	bulky       bool // its description is long
	ppp         bool // its connection is PPP
	banner      string
	contentType string
}

// draw makes a house of n devices in 127.66.octet.0/24.
func draw(t testing.TB, seed uint64, octet, n int, most time.Duration) *drawnHouse {
	h := &drawnHouse{prefix: netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 66, byte(octet), 0}), 24), rnd: rand.New(rand.NewPCG(seed, 1)), names: map[string]netip.Addr{}}
	pick := func(odds float64) bool { return h.rnd.Float64() < odds }
	muxes := map[netip.AddrPort]*http.ServeMux{}
	host := 9
	for i := range n {
		m := drawnManner{version: 1 + h.rnd.IntN(4), services: 1 + h.rnd.IntN(4), prefix: []string{"", "", "d:", "ns1:"}[h.rnd.IntN(4)], encoding: []string{"utf-8", "utf-8", "utf-8", "utf-16", "iso-8859-1"}[h.rnd.IntN(5)],
			urlBase: []string{"", "", "slash", "folder"}[h.rnd.IntN(4)], inner: pick(.25), shared: i > 0 && pick(.15), page: []int{0, 0, 3, 10}[h.rnd.IntN(4)], total: pick(.7), twice: pick(.2), noResult: pick(.3), bulky: pick(.1),
			boasts: pick(.1), cdata: pick(.2), lower: pick(.2), local: pick(.1), redirect: pick(.15), ppp: pick(.5), banner: []string{"Maker/1.2 UPnP/1.0 Product/3.4", "UPnP/1.1 Thing/0.9", ""}[h.rnd.IntN(3)], contentType: []string{`text/xml; charset="utf-8"`, "application/xml", "text/xml"}[h.rnd.IntN(3)]}
		if m.encoding != "utf-8" {
			m.contentType = "text/xml"
		}
		if pick(.2) && most > 0 {
			m.late = time.Duration(h.rnd.Int64N(int64(most)))
		}
		if pick(.15) && most > 0 {
			m.slow = time.Duration(h.rnd.Int64N(int64(most)))
		}
		if !m.shared {
			host++
		}
		d := &drawnDevice{at: netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 66, byte(octet), byte(host)}), 40300), path: fmt.Sprintf("/dev%d/desc.xml", i), kind: []string{"MediaServer", "MediaServer", "MediaRenderer"}[h.rnd.IntN(3)],
			name: fmt.Sprintf("Hylly %d %s", i, []string{"över", "& Co", "", "\"x\""}[h.rnd.IntN(4)]), make: "Maker é", model: fmt.Sprintf("M-%d", i), serial: fmt.Sprintf("SN%06d", h.rnd.IntN(999999)), udn: fmt.Sprintf("uuid:4b49%04d-%08d", i, h.rnd.IntN(99999999)), manner: m}
		d.name = strings.TrimSpace(d.name)
		if i == 0 {
			d.kind, d.outer = "InternetGatewayDevice", "203.0.113.77"
		}
		for f := range h.rnd.IntN(4) {
			if d.kind != "MediaServer" {
				break
			}
			one := drawnFolder{name: fmt.Sprintf("Films & more %d", f), inner: pick(.3)}
			for k := range []int{0, 1, 7, 40}[h.rnd.IntN(4)] {
				one.ids = append(one.ids, fmt.Sprintf("%d.%d", f, k))
			}
			if len(one.ids) > 0 {
				one.refs = h.rnd.IntN(3)
			}
			d.folders = append(d.folders, one)
		}
		if d.kind == "MediaRenderer" {
			d.sink = "http-get:*:video/mp4:*,http-get:*:audio/mpeg:*,http-get:*:image/jpeg:*"
		}
		d.announced = "http://" + d.at.String() + d.path
		if m.local {
			name := fmt.Sprintf("dev%d.local", host)
			h.names[name+"."] = d.at.Addr()
			d.announced = fmt.Sprintf("http://%s:%d%s", name, d.at.Port(), d.path)
		}
		mux := muxes[d.at]
		if mux == nil {
			mux = http.NewServeMux()
			muxes[d.at] = mux
			l, err := net.Listen("tcp4", d.at.String())
			require.NoError(t, err)
			srv := &http.Server{Handler: mux, ReadHeaderTimeout: time.Minute}
			h.wait.Go(func() { _ = srv.Serve(l) })
			h.close = append(h.close, func() { _ = srv.Close() })
		}
		d.serve(mux, i)
		h.devices = append(h.devices, d)
	}
	h.speak(t)
	t.Cleanup(h.stop)
	return h
}

func (h *drawnHouse) stop() {
	for _, c := range h.close {
		c()
	}
	h.wait.Wait()
	h.close = nil
}

// home is what is recorded of the house before it is scanned: the segment and its gateway.
func (h *drawnHouse) home() *dossier.Dossier {
	d := &dossier.Dossier{Household: homes.Small().Household}
	s := dossier.Segment{Name: "home", Prefix: h.prefix, Gateway: h.devices[0].at.Addr()}
	s.ID = homes.ID[dossier.Segment](0)
	d.Segments.Put(s)
	return d
}

// speak answers searches, each device from its own address and when it likes, and questions for names.
func (h *drawnHouse) speak(t testing.TB) {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	hear, err := multicast.Hear(multicast.SSDP, lo)
	require.NoError(t, err)
	names, err := multicast.Hear(multicast.MDNS, lo)
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(context.Background())
	h.close = append(h.close, func() { cancel(); _ = hear.Close(); _ = names.Close() })
	h.wait.Go(func() {
		b := make([]byte, 4096)
		for {
			n, from, err := hear.Next(b)
			if err != nil {
				return
			}
			if !h.prefix.Contains(from.Addr()) || !strings.HasPrefix(string(b[:n]), "M-SEARCH") {
				continue
			}
			for _, d := range h.devices {
				h.wait.Go(func() {
					select {
					case <-time.After(d.manner.late):
					case <-ctx.Done():
						return
					}
					c, err := net.DialUDP("udp4", net.UDPAddrFromAddrPort(netip.AddrPortFrom(d.at.Addr(), 0)), net.UDPAddrFromAddrPort(from))
					if err != nil {
						return
					}
					defer c.Close()
					kind := fmt.Sprintf("urn:schemas-upnp-org:device:%s:%d", d.kind, d.manner.version)
					form := "HTTP/1.1 200 OK\r\nCACHE-CONTROL: max-age=1800\r\nEXT:\r\nLOCATION: %s\r\nSERVER: %s\r\nST: %s\r\nUSN: %s::%s\r\n\r\n"
					if d.manner.lower {
						form = "HTTP/1.0 200 OK\r\ncache-control:max-age=1800\r\nlocation:%s\r\nserver:%s\r\nst:%s\r\nusn:%s::%s\r\n\r\n"
					}
					fmt.Fprintf(c, form, d.announced, d.manner.banner, kind, d.udn, kind)
				})
			}
		}
	})
	h.wait.Go(func() {
		b := make([]byte, 9000)
		for {
			n, from, err := names.Next(b)
			if err != nil {
				return
			}
			var m dns.Msg
			if !h.prefix.Contains(from.Addr()) || m.Unpack(b[:n]) != nil || m.Response {
				continue
			}
			for _, q := range m.Question {
				at, known := h.names[strings.ToLower(q.Name)]
				if !known || q.Qtype != dns.TypeA {
					continue
				}
				c, err := multicast.Speak(netip.AddrPortFrom(at, 5353), lo, 255)
				if err != nil {
					continue
				}
				answer := dns.Msg{MsgHdr: dns.MsgHdr{Response: true, Authoritative: true}, Answer: []dns.RR{&dns.A{Hdr: dns.RR_Header{Name: q.Name, Rrtype: dns.TypeA, Class: dns.ClassINET, Ttl: 120}, A: at.AsSlice()}}}
				if packet, err := answer.Pack(); err == nil {
					_, _ = c.WriteTo(packet, multicast.MDNS)
				}
				_ = c.Close()
			}
		}
	})
}

// serve answers for description and services under a folder of its own.
func (d *drawnDevice) serve(mux *http.ServeMux, n int) {
	folder := fmt.Sprintf("/dev%d/", n)
	describe := func(w http.ResponseWriter, r *http.Request) {
		select {
		case <-time.After(d.manner.slow):
		case <-r.Context().Done():
			return
		}
		w.Header().Set("Content-Type", d.manner.contentType)
		w.Header().Set("Server", d.manner.banner)
		_, _ = w.Write(d.described(folder))
	}
	if d.manner.redirect {
		mux.Handle(d.path, http.RedirectHandler(folder+"moved/desc.xml", http.StatusFound))
		mux.HandleFunc(folder+"moved/desc.xml", describe)
	} else {
		mux.HandleFunc(d.path, describe)
	}
	mux.HandleFunc(folder+"ctl/", d.control)
}

// described writes the description in the device's own manner.
func (d *drawnDevice) described(folder string) []byte {
	p := d.manner.prefix
	el := func(name, text string) string {
		return "<" + p + name + ">" + html.EscapeString(text) + "</" + p + name + ">"
	}
	services := map[string][]string{"MediaServer": {"ContentDirectory", "ConnectionManager"}, "MediaRenderer": {"RenderingControl", "ConnectionManager", "AVTransport"}}[d.kind]
	control := folder + "ctl/"
	base := ""
	switch {
	case d.manner.urlBase == "slash":
		base = el("URLBase", "http://"+d.at.String()+"/")
	case d.manner.urlBase == "folder":
		base, control = el("URLBase", "http://"+d.at.String()+folder), "ctl/"
	case !d.manner.redirect:
		control = "ctl/" // relative to the description
	}
	list := func(names ...string) string {
		out := ""
		for _, s := range names {
			out += "<" + p + "service>" + el("serviceType", fmt.Sprintf("urn:schemas-upnp-org:service:%s:%d", s, d.manner.services)) + el("serviceId", "urn:upnp-org:serviceId:"+s) + el("SCPDURL", control+s+".xml") + el("controlURL", control+s) + el("eventSubURL", control+s+"/ev") + "</" + p + "service>"
		}
		return "<" + p + "serviceList>" + out + "</" + p + "serviceList>"
	}
	about := func(kind, name, udn string) string {
		return el("deviceType", fmt.Sprintf("urn:schemas-upnp-org:device:%s:%d", kind, d.manner.version)) + el("friendlyName", name) + el("manufacturer", d.make) + el("modelName", d.model) + el("serialNumber", d.serial) + el("UDN", udn)
	}
	device := func(inner string) string { return "<" + p + "device>" + inner + "</" + p + "device>" }
	var root string
	switch {
	case d.kind == "InternetGatewayDevice":
		connection := "WANIPConnection"
		if d.manner.ppp {
			connection = "WANPPPConnection"
		}
		wan := device(about("WANDevice", "wan", d.udn+"w") + "<" + p + "deviceList>" + device(about("WANConnectionDevice", "con", d.udn+"c")+list(connection)) + "</" + p + "deviceList>")
		root = device(about(d.kind, d.name, d.udn) + list("Layer3Forwarding") + "<" + p + "deviceList>" + wan + "</" + p + "deviceList>")
	case d.manner.inner:
		root = device(about("Basic", d.name, d.udn+"b") + "<" + p + "deviceList>" + device(about(d.kind, d.name, d.udn)+list(services...)) + "</" + p + "deviceList>")
	default:
		root = device(about(d.kind, d.name, d.udn) + list(services...))
	}
	space := `xmlns="urn:schemas-upnp-org:device-1-0"`
	if p != "" {
		space = `xmlns:` + strings.TrimSuffix(p, ":") + `="urn:schemas-upnp-org:device-1-0"`
	}
	filler := ""
	if d.manner.bulky {
		filler = "<!--" + strings.Repeat("filler ", 150_000) + "-->" // a megabyte
	}
	text := `<?xml version="1.0" encoding="` + d.manner.encoding + `"?><` + p + `root ` + space + `>` + filler + base + root + `</` + p + `root>`
	switch d.manner.encoding {
	case "utf-16":
		b, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(text)) // of valid text
		return b
	case "iso-8859-1":
		b, _ := charmap.ISO8859_1.NewEncoder().Bytes([]byte(text)) // of names that it can write
		return b
	}
	return []byte(text)
}

// control answers the services.
func (d *drawnDevice) control(w http.ResponseWriter, r *http.Request) {
	body, _ := io.ReadAll(r.Body)
	_, action, _ := strings.Cut(strings.Trim(r.Header.Get("SOAPACTION"), `"`), "#")
	for filler := []byte(strings.Repeat("<a>b</a>", 4096)); d.endless; {
		if _, err := w.Write(filler); err != nil {
			return
		}
	}
	values := map[string]string{}
	switch action {
	case "Browse":
		var err error
		if values, err = d.browse(string(body)); err != nil {
			w.WriteHeader(http.StatusInternalServerError)
			fmt.Fprint(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><s:Fault><faultcode>s:Client</faultcode><faultstring>UPnPError</faultstring><detail><UPnPError><errorCode>701</errorCode><errorDescription>No such object</errorDescription></UPnPError></detail></s:Fault></s:Body></s:Envelope>`)
			return
		}
	case "GetProtocolInfo":
		values["Source"], values["Sink"] = "", d.sink
	case "GetExternalIPAddress":
		values["NewExternalIPAddress"] = d.outer
	default:
		w.WriteHeader(http.StatusInternalServerError)
		fmt.Fprint(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><s:Fault><detail><UPnPError><errorCode>401</errorCode></UPnPError></detail></s:Fault></s:Body></s:Envelope>`)
		return
	}
	fmt.Fprint(w, `<?xml version="1.0"?><SOAP-ENV:Envelope xmlns:SOAP-ENV="http://schemas.xmlsoap.org/soap/envelope/"><SOAP-ENV:Body><m:`+action+`Response xmlns:m="x">`)
	for k, v := range values {
		if d.manner.cdata && k == "Result" {
			fmt.Fprint(w, "<"+k+"><![CDATA["+v+"]]></"+k+">")
			continue
		}
		fmt.Fprint(w, "<"+k+">"+html.EscapeString(v)+"</"+k+">")
	}
	fmt.Fprint(w, `</m:`+action+`Response></SOAP-ENV:Body></SOAP-ENV:Envelope>`)
}

// browse lists a container as a ContentDirectory does.
func (d *drawnDevice) browse(body string) (map[string]string, error) {
	var in struct {
		Body struct {
			Browse struct {
				ObjectID       string
				StartingIndex  int
				RequestedCount int
			}
		}
	}
	if err := xml.Unmarshal([]byte(body), &in); err != nil {
		return nil, err
	}
	title := func(s string) string {
		s = html.EscapeString(s)
		if d.manner.twice {
			s = html.EscapeString(s)
		}
		return s
	}
	var all []string
	container := func(id, name string) {
		all = append(all, `<container id="`+id+`" parentID="0"><dc:title>`+title(name)+`</dc:title><upnp:class>object.container.storageFolder</upnp:class></container>`)
	}
	items := func(n int) {
		f := d.folders[n]
		for _, id := range f.ids {
			all = append(all, `<item id="`+id+`" parentID="x"><dc:title>`+title("Film "+id)+`</dc:title><upnp:class>object.item.videoItem.movie</upnp:class></item>`)
		}
		for k := range f.refs {
			all = append(all, `<item id="ref`+f.ids[0]+strconv.Itoa(k)+`" refID="`+f.ids[0]+`" parentID="x"><dc:title>again</dc:title><upnp:class>object.item.videoItem.movie</upnp:class></item>`)
		}
	}
	id := in.Body.Browse.ObjectID
	n, err := strconv.Atoi(strings.TrimPrefix(strings.TrimPrefix(id, "f"), "g"))
	switch {
	case id == "0":
		for n, f := range d.folders {
			container(fmt.Sprintf("f%d", n), f.name)
		}
	case err != nil || n >= len(d.folders):
		return nil, io.ErrUnexpectedEOF
	case id[0] == 'f' && d.folders[n].inner:
		container(fmt.Sprintf("g%d", n), "inside")
	default:
		items(n)
	}
	from := min(in.Body.Browse.StartingIndex, len(all))
	most := in.Body.Browse.RequestedCount
	if d.manner.page > 0 {
		most = min(most, d.manner.page)
	}
	if most == 0 {
		most = len(all)
	}
	page := all[from:min(from+most, len(all))]
	out := map[string]string{"NumberReturned": strconv.Itoa(len(page)), "TotalMatches": "0", "UpdateID": "1"}
	if d.manner.total {
		out["TotalMatches"] = strconv.Itoa(len(all))
	}
	if d.manner.boasts && id != "0" && len(all) > 0 {
		out["TotalMatches"] = strconv.Itoa(len(all) + 5)
	}
	if len(page) > 0 || !d.manner.noResult {
		out["Result"] = `<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:upnp="urn:schemas-upnp-org:metadata-1-0/upnp/">` + strings.Join(page, "") + `</DIDL-Lite>`
	}
	return out, nil
}

// score holds a scan against the house: fields that are right, wrong and missing, with a line for each that
// is not right.
func (h *drawnHouse) score(g matching.Scan) (right, all int, wrong, missing []string) {
	by := map[netip.Addr]matching.Host{}
	for _, one := range g.Hosts {
		by[one.Address] = one
	}
	for _, d := range h.devices {
		host := by[d.at.Addr()]
		check := func(field string, want, got any) {
			all++
			switch {
			case fmt.Sprint(want) == fmt.Sprint(got):
				right++
			case got == nil || fmt.Sprint(got) == "":
				missing = append(missing, fmt.Sprintf("%s %s: %v (%+v)", d.at.Addr(), field, want, d.manner))
			default:
				wrong = append(wrong, fmt.Sprintf("%s %s: %v, not %v (%+v)", d.at.Addr(), field, got, want, d.manner))
			}
		}
		if len(host.Seen) == 0 {
			all += 5 + 2*len(d.folders)
			missing = append(missing, fmt.Sprintf("%s was not seen (%+v)", d.at.Addr(), d.manner))
			continue
		}
		if !slices.ContainsFunc(h.devices, func(o *drawnDevice) bool { return o != d && o.at == d.at }) {
			for field, want := range map[string]string{"name": d.name, "make": d.make, "model": d.model, "serial": d.serial} {
				check(field, want, host.Seen[0].Members[field])
			}
		}
		seen := func(kind string, fits func(matching.Seen) bool) (int, matching.Seen) {
			i := slices.IndexFunc(host.Seen, func(s matching.Seen) bool { return s.Kind == kind && fits(s) })
			if i < 0 {
				return -1, matching.Seen{}
			}
			return i, host.Seen[i]
		}
		switch d.kind {
		case "MediaServer":
			at, source := seen("source", func(s matching.Seen) bool { return s.Members["udn"] == d.udn })
			check("source udn", d.udn, source.Members["udn"])
			check("source name", d.name, source.Members["shownName"])
			check("source locator", d.path, source.Members["locator"])
			for _, f := range d.folders {
				_, folder := seen("folder", func(s matching.Seen) bool { return s.Of == at && s.Members["name"] == f.name })
				check("folder", f.name, folder.Members["name"])
				if d.manner.boasts && len(f.ids) > 0 { // a count that the server itself contradicts is none
					all++
					if got := folder.Members["itemsInIndex"]; got != nil {
						wrong = append(wrong, fmt.Sprintf("%s counts %v in %s, of which the server says otherwise", d.at.Addr(), got, f.name))
					} else {
						right++
					}
					continue
				}
				check("items in "+f.name, len(f.ids), folder.Members["itemsInIndex"])
			}
		case "MediaRenderer":
			_, decoding := seen("decoding", func(matching.Seen) bool { return true })
			entries, _ := decoding.Members["entries"].([]dossier.DecodingEntry)
			check("decoding", len(matching.Declared(d.sink)), len(entries))
		case "InternetGatewayDevice":
			_, line := seen("line", func(matching.Seen) bool { return true })
			check("outer address", d.outer, line.Members["outerAddress"])
		}
	}
	return right, all, wrong, missing
}

// Houses that nobody tuned the scan to: nothing wrong is said, nearly everything is found, and a second scan
// of the unchanged house shows no change.
func TestHousesDrawnFromASeed(t *testing.T) {
	for seed := range uint64(2) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			h := draw(t, seed, int(seed)+1, 24, 2*time.Second)
			p := Prober{Guard: Guard{Within: loopback}}
			first, err := p.Scan(t.Context(), h.home(), nil)
			require.NoError(t, err)
			right, all, wrong, missing := h.score(first)
			assert.Empty(t, wrong)
			assert.GreaterOrEqual(t, float64(right)/float64(all), .92, "%d of %d\n%s", right, all, strings.Join(missing, "\n"))
			again, err := p.Scan(t.Context(), h.home(), nil)
			require.NoError(t, err)
			require.NoError(t, first.Check(h.home()))
			require.NoError(t, again.Check(h.home()))
			for _, b := range matching.Compare(h.home(), again, first, nil) {
				assert.Equal(t, matching.SinceSame, b.Since, "%s: %v", b.Host.Address, b.Changes)
			}
		})
	}
}

// BenchmarkDrawnHouses prints, for houses drawn from seeds, which share of the fields is right and how many are
// wrong, and how long a house of 240 devices takes.
func BenchmarkDrawnHouses(b *testing.B) {
	b.Run("Right", func(b *testing.B) {
		right, all, wrong, n := 0, 0, 0, 0
		for b.Loop() {
			h := draw(b, uint64(100+n), 20+n%100, 24, 3*time.Second)
			g, err := Prober{Guard: Guard{Within: loopback}}.Scan(b.Context(), h.home(), nil)
			require.NoError(b, err)
			r, a, w, m := h.score(g)
			for _, line := range append(w, m...) {
				b.Log(line)
			}
			right, all, wrong, n = right+r, all+a, wrong+len(w), n+1
			h.stop()
		}
		b.ReportMetric(92, "least-%")
		b.ReportMetric(100*float64(right)/float64(all), "measured-%")
		b.ReportMetric(100*float64(right)/float64(all)/92, "ratio")
		b.ReportMetric(float64(wrong), "wrong")
	})
	b.Run("Of240Devices", func(b *testing.B) {
		h := draw(b, 7, 19, 240, 0)
		for b.Loop() {
			_, err := Prober{Guard: Guard{Within: loopback}}.Scan(b.Context(), h.home(), nil)
			require.NoError(b, err)
		}
		report(b, 8000)
	})
}

// Servers that answer without end, forty of them at once, neither hold the scan nor fill the memory.
func TestEndlessAnswersDoNotFillTheMemory(t *testing.T) {
	h := draw(t, 11, 91, 40, 0)
	for _, d := range h.devices {
		d.endless = true
	}
	var g matching.Scan
	var err error
	most := mostHeap(func() {
		g, err = Prober{Guard: Guard{Within: loopback}, Late: time.Second}.Scan(t.Context(), h.home(), nil)
	})
	require.NoError(t, err)
	assert.Less(t, most, uint64(100<<20), "bytes of heap, the senders' among them")
	broken := 0
	for _, host := range g.Hosts {
		for _, q := range host.Answers {
			if q.Way == matching.ByDirectory && q.Ended != matching.Answered && q.Ended != matching.Empty {
				broken++
			}
			assert.False(t, q.Way == matching.ByDirectory && q.Ended == matching.Answered, "nothing that never ended was counted")
		}
	}
	assert.NotZero(t, broken)
}

// mostHeap returns the most bytes of heap that were in use while something was done.
func mostHeap(do func()) (most uint64) {
	done := make(chan struct{})
	var sampler sync.WaitGroup
	sampler.Go(func() {
		for {
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			most = max(most, m.HeapAlloc)
			select {
			case <-done:
				return
			case <-time.After(20 * time.Millisecond):
			}
		}
	})
	do()
	close(done)
	sampler.Wait()
	return most
}
