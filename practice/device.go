// Package practice is the practice house: a simulated household whose devices speak the real
// protocols on real sockets, on loopback addresses, without special rights.
package practice

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"
)

// Device is one UPnP stand-in, as it describes itself.
type Device struct {
	Name    string // friendly name
	Type    string // such as MediaServer:1
	Make    string
	Model   string
	UDN     string
	Address netip.AddrPort
	Segment netip.Prefix

	services []service
	media    http.Handler
	beside   interface { // what it answers besides UPnP
		start(netip.Addr) error
		stop()
	}
	server *http.Server
	ssdp   *announcer
}

// Locator is the part of the description's address after the port.
const Locator = "/description.xml"

// start opens the device's sockets.
func (d *Device) start(ctx context.Context) error {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp4", d.Address.String())
	if err != nil {
		return fmt.Errorf("start %s: %w", d.Name, err)
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET "+Locator, d.describe)
	for _, s := range d.services {
		mux.Handle("POST /control/"+s.name(), s)
	}
	if d.media != nil {
		mux.Handle("GET /media/", d.media)
	}
	d.server = &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = d.server.Serve(l) }() // ends when stop closes it
	d.ssdp = &announcer{address: d.Address.Addr(), segment: d.Segment, udn: d.UDN,
		location: "http://" + d.Address.String() + Locator, types: []string{"urn:schemas-upnp-org:device:" + d.Type}}
	for _, s := range d.services {
		d.ssdp.types = append(d.ssdp.types, s.urn())
	}
	if err := announce(d.ssdp); err != nil {
		return errors.Join(fmt.Errorf("start %s: %w", d.Name, err), d.server.Close())
	}
	if d.beside != nil {
		if err := d.beside.start(d.Address.Addr()); err != nil {
			d.stop()
			return fmt.Errorf("start %s: %w", d.Name, err)
		}
	}
	return nil
}

func (d *Device) stop() {
	if d.server == nil {
		return
	}
	if d.beside != nil {
		d.beside.stop()
	}
	d.ssdp.close()
	_ = d.server.Close()
	d.server = nil
}

// describe serves the device description (UPnP Device Architecture 2.0, section 2.3).
func (d *Device) describe(w http.ResponseWriter, _ *http.Request) {
	var list strings.Builder
	for _, s := range d.services {
		fmt.Fprintf(&list, `<service><serviceType>%s</serviceType><serviceId>urn:upnp-org:serviceId:%s</serviceId><SCPDURL>/scpd/%s.xml</SCPDURL><controlURL>/control/%s</controlURL><eventSubURL></eventSubURL></service>`,
			s.urn(), s.name(), s.name(), s.name())
	}
	w.Header().Set("Content-Type", `text/xml; charset="utf-8"`)
	_, _ = fmt.Fprintf(w, `<?xml version="1.0"?><root xmlns="urn:schemas-upnp-org:device-1-0"><specVersion><major>1</major><minor>1</minor></specVersion><device><deviceType>urn:schemas-upnp-org:device:%s</deviceType><friendlyName>%s</friendlyName><manufacturer>%s</manufacturer><modelName>%s</modelName><UDN>%s</UDN><serviceList>%s</serviceList></device></root>`,
		d.Type, escape(d.Name), escape(d.Make), escape(d.Model), d.UDN, list.String())
}

// connectionManager answers what a device can send and receive (ConnectionManager:1, 2.4.1).
func connectionManager(source, sink string) service {
	return service{"ConnectionManager:1", map[string]action{
		"GetProtocolInfo": func(map[string]string) ([]argument, *upnpError) {
			return []argument{{"Source", source}, {"Sink", sink}}, nil
		},
		"GetCurrentConnectionIDs": func(map[string]string) ([]argument, *upnpError) {
			return []argument{{"ConnectionIDs", "0"}}, nil
		},
	}}
}
