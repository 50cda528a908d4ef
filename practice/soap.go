package practice

import (
	"encoding/xml"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/netip"
	"slices"
	"strings"
)

// action is one SOAP action of a service: it takes a request and returns results in their order,
// or a UPnP error.
type action func(request) ([]argument, *upnpError)

// request is one call of an action: its arguments by name, who calls, and what he says he is.
type request struct {
	args  map[string]string
	from  netip.Addr
	agent string
	ended <-chan struct{} // closed when the caller has gone
}

type argument struct{ name, value string }

type upnpError struct {
	code int
	text string
}

// service is one UPnP service of a stand-in.
type service struct {
	kind    string // such as ContentDirectory:1
	actions map[string]action
	state   func() []argument // evented values as they are now; nil for none
	end     func()            // ends what it does when its device is switched off; nil for nothing
}

func (s service) urn() string { return "urn:schemas-upnp-org:service:" + s.kind }
func (s service) name() string {
	name, _, _ := strings.Cut(s.kind, ":")
	return name
}

// ServeHTTP answers SOAP 1.1 requests (UPnP Device Architecture 2.0, section 3).
func (s service) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name, args, err := readAction(io.LimitReader(r.Body, 64<<10))
	do, known := s.actions[name]
	if err != nil || !known {
		writeFault(w, upnpError{401, "Invalid Action"})
		return
	}
	from, _ := netip.ParseAddrPort(r.RemoteAddr)
	out, fault := do(request{args: args, from: from.Addr(), agent: r.UserAgent(), ended: r.Context().Done()})
	if fault != nil {
		writeFault(w, *fault)
		return
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<u:%sResponse xmlns:u="%s">`, name, s.urn())
	for _, a := range out {
		fmt.Fprintf(&b, "<%s>%s</%s>", a.name, escape(a.value), a.name)
	}
	fmt.Fprintf(&b, "</u:%sResponse>", name)
	writeEnvelope(w, http.StatusOK, b.String())
}

// describe serves the service's description (UPnP Device Architecture 2.0, section 2.5), by the
// names of its actions alone.
func (s service) describe(w http.ResponseWriter, _ *http.Request) {
	var list strings.Builder
	for _, name := range slices.Sorted(maps.Keys(s.actions)) {
		list.WriteString("<action><name>" + name + "</name></action>")
	}
	w.Header().Set("Content-Type", `text/xml; charset="utf-8"`)
	_, _ = fmt.Fprintf(w, `<?xml version="1.0"?><scpd xmlns="urn:schemas-upnp-org:service-1-0"><specVersion><major>1</major><minor>0</minor></specVersion><actionList>%s</actionList><serviceStateTable/></scpd>`, list.String())
}

func readAction(r io.Reader) (string, map[string]string, error) {
	var envelope struct {
		Body struct {
			Action struct {
				XMLName xml.Name
				Args    []struct {
					XMLName xml.Name
					Text    string `xml:",chardata"`
				} `xml:",any"`
			} `xml:",any"`
		} `xml:"Body"`
	}
	if err := xml.NewDecoder(r).Decode(&envelope); err != nil {
		return "", nil, err
	}
	args := map[string]string{}
	for _, a := range envelope.Body.Action.Args {
		args[a.XMLName.Local] = a.Text
	}
	return envelope.Body.Action.XMLName.Local, args, nil
}

func writeFault(w http.ResponseWriter, e upnpError) {
	writeEnvelope(w, http.StatusInternalServerError, fmt.Sprintf(`<s:Fault><faultcode>s:Client</faultcode><faultstring>UPnPError</faultstring><detail>`+
		`<UPnPError xmlns="urn:schemas-upnp-org:control-1-0"><errorCode>%d</errorCode><errorDescription>%s</errorDescription></UPnPError></detail></s:Fault>`, e.code, escape(e.text)))
}

func writeEnvelope(w http.ResponseWriter, status int, body string) {
	w.Header().Set("Content-Type", `text/xml; charset="utf-8"`)
	w.WriteHeader(status)
	_, _ = fmt.Fprintf(w, `<?xml version="1.0"?><s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/" s:encodingStyle="http://schemas.xmlsoap.org/soap/encoding/"><s:Body>%s</s:Body></s:Envelope>`, body)
}

func escape(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // into memory
	return b.String()
}
