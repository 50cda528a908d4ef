package probe

import (
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/html/charset"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// mostDescription bounds a device description; one with its pictures inside has some hundred kB.
const mostDescription = 4 << 20

// ErrNotDescribed is returned when what answers is not a UPnP device with the service that was looked
// for.
var ErrNotDescribed = errors.New("not described as a media server")

// upnpService is one service of a device.
type upnpService struct {
	Type    string `xml:"serviceType"`
	ID      string `xml:"serviceId"`
	Control string `xml:"controlURL"`
}

// upnpDevice is one device of a description, with those within it.
type upnpDevice struct {
	Type         string        `xml:"deviceType"`
	Name         string        `xml:"friendlyName"`
	Make         string        `xml:"manufacturer"`
	Model        string        `xml:"modelName"`
	Number       string        `xml:"modelNumber"`
	Serial       string        `xml:"serialNumber"`
	UDN          string        `xml:"UDN"`
	Presentation string        `xml:"presentationURL"`
	Services     []upnpService `xml:"serviceList>service"`
	Devices      []upnpDevice  `xml:"deviceList>device"`
}

// description is what a device says of itself (UPnP Device Architecture 2.0, section 2). Names of
// elements count without their prefixes: devices write them in many ways.
type description struct {
	URLBase string     `xml:"URLBase"`
	Device  upnpDevice `xml:"device"`
	base    *url.URL   // what its addresses are relative to
	at      netip.AddrPort
	header  http.Header
	client  *http.Client
}

// Describe fetches a device description and returns its root device.
func Describe(ctx context.Context, client *http.Client, at *url.URL) (*description, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return nil, err
	}
	resp, err := client.Do(r)
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("%w: %s", ErrNotDescribed, resp.Status)
	}
	var d *description
	err = readWhole(ctx, resp.Body, mostDescription, func(body []byte) (err error) {
		d, err = readDescription(body)
		return err
	})
	if err != nil {
		return nil, err
	}
	if d.base, d.header, d.client = at, resp.Header, client; resp.Request != nil {
		d.base = resp.Request.URL // where it came from in the end
	}
	d.at, _ = hostOf(d.base)
	// URLBase was dropped in version 1.1; where it is given, addresses are relative to it. One that leads to
	// another host is of no use: that host announces itself.
	if base, err := d.base.Parse(strings.TrimSpace(d.URLBase)); err == nil && d.URLBase != "" {
		if to, ok := hostOf(base); ok && to.Addr() == d.at.Addr() {
			d.base = base
		}
	}
	return d, nil
}

// errTooLong is returned for an answer that goes on beyond its bound.
var errTooLong = errors.New("the answer is too long")

// usual is how long answers are that are read side by side. Longer ones are read one at a time, whoever
// sends them: a hundred of them at once would fill the memory of a small machine.
const usual = 128 << 10

var longOne = make(chan struct{}, 1)

// readWhole reads an answer up to a bound and hands it on.
func readWhole(ctx context.Context, r io.Reader, most int64, use func([]byte) error) error {
	body, err := io.ReadAll(io.LimitReader(r, usual))
	if err != nil {
		return err
	}
	if len(body) == usual {
		if !take(ctx, longOne) {
			return ctx.Err()
		}
		defer func() { <-longOne }()
		rest, err := io.ReadAll(io.LimitReader(r, most+1-usual))
		if err != nil {
			return err
		}
		if body = append(body, rest...); int64(len(body)) > most {
			return errTooLong
		}
	}
	return use(body)
}

// readDescription reads a description in whatever encoding it is.
func readDescription(body []byte) (*description, error) {
	d := &description{}
	if err := decodeXML(body, d); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNotDescribed, err)
	}
	if d.Device.Type == "" && d.Device.UDN == "" && len(d.Device.Devices) == 0 {
		return nil, fmt.Errorf("%w: no device in it", ErrNotDescribed)
	}
	return d, nil
}

// decodeXML reads XML in UTF-8, UTF-16 or the encoding that it names, and as ISO 8859-1 where it is none
// of these. Control characters that XML does not allow are left out: names hold them now and then.
func decodeXML(body []byte, into any) error {
	switch {
	case bytes.HasPrefix(body, []byte{0xFE, 0xFF}), bytes.HasPrefix(body, []byte{0, '<'}):
		body = utf16(body, unicode.BigEndian)
	case bytes.HasPrefix(body, []byte{0xFF, 0xFE}), len(body) > 1 && body[0] == '<' && body[1] == 0:
		body = utf16(body, unicode.LittleEndian)
	case !utf8.Valid(body) && !bytes.Contains(body[:min(len(body), 200)], []byte("encoding=")):
		if latin, err := charmap.Windows1252.NewDecoder().Bytes(body); err == nil {
			body = latin
		}
	}
	body = bytes.TrimPrefix(body, []byte("\uFEFF"))
	kept := make([]byte, 0, len(body)) // byte by byte: it may still be in another encoding
	for _, c := range body {
		if c >= ' ' || c == '\t' || c == '\n' || c == '\r' {
			kept = append(kept, c)
		}
	}
	body = kept
	if bytes.Contains(body, []byte("<!ENTITY")) {
		return errors.New("it defines entities of its own, which no description needs")
	}
	dec := xml.NewDecoder(bytes.NewReader(body))
	dec.Strict = false
	dec.Entity = xml.HTMLEntity
	dec.CharsetReader = func(label string, r io.Reader) (io.Reader, error) {
		if l := strings.ToLower(label); strings.HasPrefix(l, "utf-16") || l == "utf8" || l == "utf-8" {
			return r, nil // put into UTF-8 above
		}
		return charset.NewReaderLabel(label, r)
	}
	return dec.Decode(into)
}

func utf16(body []byte, order unicode.Endianness) []byte {
	out, err := unicode.UTF16(order, unicode.UseBOM).NewDecoder().Bytes(body)
	if err != nil {
		out, err = unicode.UTF16(order, unicode.IgnoreBOM).NewDecoder().Bytes(body)
	}
	if err != nil {
		return body
	}
	return out
}

// mostDevices bounds the devices that one description may hold within each other.
const mostDevices = 32

// all lists the root device and those within it.
func (d *description) all() []upnpDevice {
	out := []upnpDevice{d.Device}
	for n := 0; n < len(out) && len(out) < mostDevices; n++ {
		out = append(out, out[n].Devices...)
	}
	return out[:min(len(out), mostDevices)]
}

// upnpClient speaks with one service of a device.
type upnpClient struct {
	service string
	id      string
	control *url.URL
	client  *http.Client
}

// service returns a client of the device's own service of that type, in whatever version, and of the
// newest where it offers several. A device without any takes what its description offers elsewhere: some
// hang the services of an inner device on the root.
func (d *description) service(of upnpDevice, kind string) (*upnpClient, error) {
	own := d.services(of.Services, kind)
	if len(own) == 0 {
		for _, other := range d.all() {
			if len(other.Services) > 0 && !isMedia(other.Type, of.Type) {
				own = append(own, d.services(other.Services, kind)...)
			}
		}
	}
	if len(own) == 0 {
		return nil, fmt.Errorf("%w: no %s", ErrNotDescribed, kind)
	}
	return own[0], nil
}

// leadsElsewhere reports whether a service of that type is to be controlled at another host, and where.
func (d *description) leadsElsewhere(kind string) (string, bool) {
	for _, one := range d.all() {
		for _, s := range one.Services {
			to, err := d.base.Parse(strings.TrimSpace(s.Control))
			if err != nil || !strings.Contains(s.Type, ":"+kind+":") {
				continue
			}
			if at, ok := hostOf(to); !ok || at.Addr() != d.at.Addr() {
				return to.Host, true
			}
		}
	}
	return "", false
}

// isMedia reports whether a device is a media server or renderer other than the one that is asked for: what
// hangs on it is its own.
func isMedia(kind, asked string) bool {
	return kind != asked && (strings.HasPrefix(kind, mediaServerType) || strings.HasPrefix(kind, mediaRendererType))
}

// services returns clients of the services of that type, the newest version first. What is controlled at
// another host is left out: a device cannot make us call others.
func (d *description) services(list []upnpService, kind string) []*upnpClient {
	var out []*upnpClient
	for _, s := range list {
		name, _, found := strings.Cut(strings.TrimPrefix(strings.TrimSpace(s.Type), "urn:schemas-upnp-org:service:"), ":")
		to, err := d.base.Parse(strings.TrimSpace(s.Control))
		if !found || name != kind || err != nil {
			continue
		}
		if at, ok := hostOf(to); !ok || at.Addr() != d.at.Addr() {
			continue
		}
		out = append(out, &upnpClient{strings.TrimSpace(s.Type), strings.TrimSpace(s.ID), to, d.client})
	}
	slices.SortStableFunc(out, func(a, b *upnpClient) int { return b.version() - a.version() })
	return out
}

func (c *upnpClient) version() int {
	n, err := strconv.Atoi(c.service[strings.LastIndex(c.service, ":")+1:])
	if err != nil {
		return 0
	}
	return n
}

// directory returns a client of the ContentDirectory of the first media server, or of whatever device has
// one.
func (d *description) directory() (*upnpClient, error) {
	for _, one := range d.all() {
		if strings.HasPrefix(one.Type, mediaServerType) {
			return d.service(one, "ContentDirectory")
		}
	}
	return d.service(upnpDevice{}, "ContentDirectory")
}

// fault is an error that a service answered (UPnP Device Architecture 2.0, section 3.2.2).
type fault struct {
	Code int
	Text string
}

func (f *fault) Error() string { return fmt.Sprintf("error %d: %s", f.Code, f.Text) }

// httpStatus is an answer of a web server that is no answer of a service.
type httpStatus struct {
	Code int
	Text string
}

func (s *httpStatus) Error() string { return s.Text }

// errRubbish is returned for what is no answer of a service at all.
var errRubbish = errors.New("what came is not an answer of a UPnP service")

// mostAnswer bounds the answer of a service: a page of a list with long descriptions has some hundred kB.
const mostAnswer = 8 << 20

// call calls an action with arguments, given as name and value in turn in the order in which the service
// declares them, and returns the values of its answer.
func (c *upnpClient) call(ctx context.Context, action string, arguments ...string) (map[string]string, error) {
	var b strings.Builder
	b.WriteString(`<?xml version="1.0" encoding="utf-8"?><s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/" s:encodingStyle="http://schemas.xmlsoap.org/soap/encoding/"><s:Body><u:` + action + ` xmlns:u="`)
	_ = xml.EscapeText(&b, []byte(c.service)) // a builder never fails
	b.WriteString(`">`)
	for i := 0; i+1 < len(arguments); i += 2 {
		b.WriteString("<" + arguments[i] + ">")
		_ = xml.EscapeText(&b, []byte(arguments[i+1]))
		b.WriteString("</" + arguments[i] + ">")
	}
	b.WriteString(`</u:` + action + `></s:Body></s:Envelope>`)
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, c.control.String(), strings.NewReader(b.String()))
	if err != nil {
		return nil, err
	}
	r.Header.Set("Content-Type", `text/xml; charset="utf-8"`)
	r.Header["SOAPACTION"] = []string{`"` + c.service + "#" + action + `"`} // as the standard writes it: some read no other case
	resp, err := c.client.Do(r)
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	var values map[string]string
	err = readWhole(ctx, resp.Body, mostAnswer, func(body []byte) (err error) {
		values, err = readAnswer(body, action)
		return err
	})
	if errors.Is(err, errRubbish) && resp.StatusCode != http.StatusOK {
		return nil, &httpStatus{resp.StatusCode, resp.Status}
	}
	return values, err
}

// soapElement is an element of an answer, by its name without prefix.
type soapElement struct {
	XMLName  xml.Name
	Text     string        `xml:",chardata"`
	Elements []soapElement `xml:",any"`
}

// readAnswer reads the envelope of an answer.
func readAnswer(body []byte, action string) (map[string]string, error) {
	var envelope soapElement
	if err := decodeXML(body, &envelope); err != nil || envelope.XMLName.Local != "Envelope" {
		return nil, errRubbish
	}
	for _, b := range envelope.Elements {
		if b.XMLName.Local != "Body" {
			continue
		}
		for _, one := range b.Elements {
			switch one.XMLName.Local {
			case action + "Response":
				out := map[string]string{}
				for _, v := range one.Elements {
					out[v.XMLName.Local] = v.Text
				}
				return out, nil
			case "Fault":
				return nil, one.fault()
			}
		}
	}
	return nil, errRubbish
}

// fault finds code and text wherever the fault has them.
func (e soapElement) fault() *fault {
	f := &fault{}
	var look func(soapElement)
	look = func(e soapElement) {
		switch e.XMLName.Local {
		case "errorCode":
			f.Code, _ = strconv.Atoi(strings.TrimSpace(e.Text)) // 0 for none
		case "errorDescription", "faultstring":
			if f.Text == "" || e.XMLName.Local == "errorDescription" {
				f.Text = strings.TrimSpace(e.Text)
			}
		}
		for _, in := range e.Elements {
			look(in)
		}
	}
	look(e)
	return f
}
