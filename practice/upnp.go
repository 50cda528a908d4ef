package practice

import (
	"context"
	"fmt"
	"net/http"
	"net/netip"
	"strings"

	"kaiku/practice/layout"
)

// upnp is a device's UPnP side: description, control, events, SSDP.
type upnp struct {
	services func(*Device) []service
	also     func(*Device, *http.ServeMux)
	device   *Device
	list     []service
	events   *events
	web      *web
	ssdp     *announcer
	told     map[string]string // what was told last of each service
}

func (u *upnp) start(ctx context.Context, d *Device) error {
	u.device, u.list, u.events = d, u.services(d), newEvents()
	u.told = map[string]string{}
	u.tell()
	mux := http.NewServeMux()
	mux.HandleFunc("GET "+layout.Locator, u.describe)
	for _, s := range u.list {
		mux.Handle("POST /control/"+s.name(), s)
		mux.HandleFunc("GET /scpd/"+s.name()+".xml", s.describe)
		mux.Handle("/event/"+s.name(), u.events.of(s))
	}
	if u.also != nil {
		u.also(d, mux)
	}
	at := d.Address
	segment := d.Segment
	if d.on("wrong-adapter") {
		at, segment = netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, d.house.octet + 1, d.host}), at.Port()), d.house.Guest
	}
	var err error
	switch {
	case d.on("connection-refused"): // announced, and nothing listens
	case d.on("port-held"):
		u.web, err = serve(ctx, d, at, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			http.Error(w, "old instance, shutting down", http.StatusServiceUnavailable)
		}))
		return err // the server itself did not start
	default:
		u.web, err = serve(ctx, d, at, mux)
	}
	if err != nil {
		return err
	}
	announced := at
	if d.on("old-address") {
		announced = netip.AddrPortFrom(d.house.at(99), at.Port())
	}
	u.ssdp = &announcer{device: d, address: at.Addr(), segment: segment, udn: u.udn(), server: d.announcesAs(),
		location: "http://" + announced.String() + layout.Locator, types: []string{"urn:schemas-upnp-org:device:" + d.Type}}
	for _, s := range u.list {
		u.ssdp.types = append(u.ssdp.types, s.urn())
	}
	if err := announce(u.ssdp); err != nil {
		u.web.stop()
		u.web, u.ssdp = nil, nil
		return err
	}
	return nil
}

func (u *upnp) stop() {
	if u.ssdp != nil {
		u.ssdp.close()
	}
	u.web.stop()
	for _, s := range u.list {
		if s.end != nil {
			s.end()
		}
	}
	u.events.stop()
	u.web, u.ssdp = nil, nil
}

// switched tells who subscribed what a fault has changed of the services' values.
func (u *upnp) switched() error {
	u.tell()
	return nil
}

// tell sends the values of each service that are others than when they were told last.
func (u *upnp) tell() {
	for _, s := range u.list {
		if s.state == nil {
			continue
		}
		now := s.state()
		if text := fmt.Sprint(now); u.told[s.name()] != text {
			u.told[s.name()] = text
			u.events.tell(s.name(), now...)
		}
	}
}

// udn is the device's unique name: another one after its settings were reset.
func (u *upnp) udn() string {
	if u.device.on("settings-reset") {
		return udn(u.device.host + 100)
	}
	return u.device.UDN
}

// shownName is the name it shows now.
func (u *upnp) shownName() string {
	switch {
	case u.device.on("settings-reset"):
		return "New media server"
	case u.device.on("same-name"):
		return layout.ServerName
	}
	return u.device.Name
}

// describe serves the device description (UPnP Device Architecture 2.0, section 2.3).
func (u *upnp) describe(w http.ResponseWriter, _ *http.Request) {
	d := u.device
	var list strings.Builder
	for _, s := range u.list {
		fmt.Fprintf(&list, `<service><serviceType>%s</serviceType><serviceId>urn:upnp-org:serviceId:%s</serviceId><SCPDURL>/scpd/%s.xml</SCPDURL><controlURL>/control/%s</controlURL><eventSubURL>/event/%s</eventSubURL></service>`,
			s.urn(), s.name(), s.name(), s.name(), s.name())
	}
	serial := ""
	if d.Serial != "" {
		serial = "<serialNumber>" + escape(d.Serial) + "</serialNumber>"
	}
	w.Header().Set("Content-Type", `text/xml; charset="utf-8"`)
	_, _ = fmt.Fprintf(w, `<?xml version="1.0"?><root xmlns="urn:schemas-upnp-org:device-1-0"><specVersion><major>1</major><minor>1</minor></specVersion><device><deviceType>urn:schemas-upnp-org:device:%s</deviceType><friendlyName>%s</friendlyName><manufacturer>%s</manufacturer><modelName>%s</modelName>%s<UDN>%s</UDN><serviceList>%s</serviceList>%s</device></root>`,
		d.Type, escape(u.shownName()), escape(d.Make), escape(d.Model), serial, u.udn(), list.String(), presentation(d))
}

// presentation names the device's page for people, if it has one.
func presentation(d *Device) string {
	for _, p := range d.parts {
		if _, has := p.(*pages); has {
			return fmt.Sprintf("<presentationURL>http://%s/</presentationURL>", netip.AddrPortFrom(d.Address.Addr(), layout.PagePort))
		}
	}
	return ""
}

// connectionManager answers what a device can send and receive (ConnectionManager:1, 2.4.1).
func connectionManager(source, sink string) service {
	return service{kind: "ConnectionManager:1", actions: map[string]action{
		"GetProtocolInfo": func(request) ([]argument, *upnpError) {
			return []argument{{"Source", source}, {"Sink", sink}}, nil
		},
		"GetCurrentConnectionIDs": func(request) ([]argument, *upnpError) {
			return []argument{{"ConnectionIDs", "0"}}, nil
		},
	}}
}
