// Package practice is the practice house: a simulated household whose devices speak the real
// protocols on real sockets, on loopback addresses, without special rights. Its faults can be
// switched on and off; each changes what is really seen on the sockets.
package practice

import (
	"context"
	"errors"
	"fmt"
	"net/netip"
	"slices"
	"strings"
	"sync"
)

// House is one practice house. Several can stand side by side, each with two third octets of its
// own: one for the home's segment, the next for guests.
type House struct {
	Segment netip.Prefix
	Guest   netip.Prefix
	Server  *Device
	Screen  *Device
	Gateway *Device
	// Notes says what of the house could not be opened on this machine, and why.
	Notes []string

	octet   byte
	devices []*Device
	faults  faults
	control *control
	mu      sync.Mutex // held while devices are opened or closed
	running bool
	ctx     context.Context
}

// The house's shown names and unique names: what the record of it must say.
const (
	ServerName = "Granite"
	ServerUDN  = "uuid:4b61696b-7500-4000-8000-000000000010"
	ScreenName = "Lamp room screen"
	ScreenUDN  = "uuid:4b61696b-7500-4000-8000-000000000021"
	GatewayUDN = "uuid:4b61696b-7500-4000-8000-000000000001"
)

// Ports of the house. Those below 1024 of real devices are high ones here, so that no one needs
// special rights.
const (
	GatewayPort = 40001
	NamePort    = 5300
	ServerPort  = 40210
	ScreenPort  = 40330
	SharePort   = 40445
	ExportPort  = 2049
	MountPort   = 20048
	StreamPort  = 40312
	TunerPort   = 40413
	RTSPPort    = 40554
	WakePort    = 40009
	PagePort    = 40381 // pages for people of devices that speak UPnP at another port
	ControlPort = 7449
)

// OuterAddress is the address that the house's gateway has on its line.
var OuterAddress = netip.MustParseAddr("203.0.113.17")

// udn makes the unique name of the device at that host number.
func udn(host byte) string { return fmt.Sprintf("uuid:4b61696b-7500-4000-8000-%012d", host) }

// New makes the house in 127.77.octet.0/24, and its guest segment in the next. Nothing is opened
// before Start.
func New(octet byte) *House {
	h := &House{octet: octet}
	h.Segment = netip.PrefixFrom(h.at(0), 24)
	h.Guest = netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 77, octet + 1, 0}), 24)
	h.furnish()
	return h
}

// at is the address of a host in the home's segment.
func (h *House) at(host byte) netip.Addr { return netip.AddrFrom4([4]byte{127, 77, h.octet, host}) }

// furnish puts the devices into the house.
func (h *House) furnish() {
	put := func(host byte, port uint16, d *Device, parts ...part) *Device {
		d.house, d.host, d.Segment = h, host, h.Segment
		d.Address = netip.AddrPortFrom(h.at(host), port)
		d.parts = parts
		if d.UDN == "" && d.Type != "" {
			d.UDN = udn(host)
		}
		h.devices = append(h.devices, d)
		return d
	}
	h.Gateway = put(1, GatewayPort, &Device{Name: "Orre OR-7 Pier", Type: "InternetGatewayDevice:2", Make: "Orre", Model: "OR-7 Pier", Serial: "OR7-20114", HostName: "pier", Software: "Pier/3.1"},
		&upnp{services: gatewayServices}, &mapper{}, &names{}, &pages{title: "Orre OR-7 Pier"})
	put(2, GatewayPort, &Device{Name: "Provider's box", Type: "InternetGatewayDevice:1", Make: "Orre", Model: "OR-L Line", HostName: "box", Software: "Line/1.0", only: "second-gateway"},
		&upnp{services: gatewayServices}, &mapper{})
	put(3, 40103, &Device{Name: "Mast", Make: "Orre", Model: "OR-A Mast", HostName: "mast"}, &pages{title: "Orre OR-A Mast"}, offers(offering{kind: "_http._tcp", port: 40103, texts: []string{"path=/"}}))
	h.Server = put(10, ServerPort, &Device{Name: ServerName, Type: "MediaServer:1", Make: "Tuulkivi", Model: "TK-4 Cellar", Serial: "TK4-00317", HostName: "granite", Software: "Ahtola/2.6"},
		&upnp{services: serverServices, also: mediaHandlers})
	put(11, 0, &Device{Name: "Kelp", Make: "Tuulkivi", Model: "TS-2 Kelp", HostName: "kelp"}, &shares{}, &exports{},
		offers(offering{kind: "_smb._tcp", port: SharePort}, offering{kind: "_nfs._tcp", port: ExportPort, texts: []string{"path=/kelp"}}))
	put(12, StreamPort, &Device{Name: "Foghorn", Make: "Tuulkivi", Model: "TB-1 Foghorn", HostName: "foghorn", Software: "Rantatie/1.8"}, &streams{}, offers(offering{kind: "_http._tcp", port: StreamPort, texts: []string{"path=/foghorn.ts"}}))
	put(13, TunerPort, &Device{Name: "Aerial", Make: "Tuulkivi", Model: "TT-4 Aerial", HostName: "aerial", Software: "Aerial/2.4"}, &tuner{}, offers(offering{kind: "_http._tcp", port: TunerPort, texts: []string{"path=/aerial.m3u"}}))
	put(14, RTSPPort, &Device{Name: "Harbour view", Make: "Kielo", Model: "KC-1", HostName: "harbour"}, &harbour{}, offers(offering{kind: "_rtsp._tcp", port: RTSPPort, texts: []string{"path=/harbour"}}))
	put(15, 40215, &Device{Name: "Attic", Type: "MediaServer:1", Make: "Tuulkivi", Model: "TK-2 Attic", Serial: "TK2-00051", HostName: "attic", Software: "Ahtola/2.5", sleeps: true},
		&upnp{services: serverServices, also: mediaHandlers}, &sleeper{})
	h.Screen = put(21, ScreenPort, &Device{Name: ScreenName, Type: "MediaRenderer:1", Make: "Norrvik", Model: "NV-43", Serial: "NV43-1182", HostName: "lamp-room-screen", Software: "Norrvik/3.1"},
		&upnp{services: rendererServices})
	put(22, ScreenPort, &Device{Name: "Kitchen screen", Type: "MediaRenderer:1", Make: "Norrvik", Model: "NV-24", Serial: "NV24-0077", HostName: "kitchen-screen", Software: "NorrvikJunior/2.6"}, &upnp{services: rendererServices})
	put(23, ScreenPort, &Device{Name: "Kielo in the kitchen", Type: "MediaRenderer:1", Make: "Kielo", Model: "KM-1", Serial: "KM1-4410", HostName: "kielo", Software: "KieloMusic/2.0"}, &upnp{services: rendererServices})
	put(24, ScreenPort, &Device{Name: "Hallway frame", Type: "MediaRenderer:1", Make: "Kielo", Model: "KF-1", HostName: "frame", Software: "KieloFrame/1.1"}, &upnp{services: rendererServices})
	put(31, 40231, &Device{Name: "Eila's telephone", Type: "MediaServer:1", Make: "Palvara", Model: "PV-P", HostName: "eila", Software: "PocketServer/0.9"}, &upnp{services: serverServices, also: mediaHandlers})
	stick := put(33, ScreenPort, &Device{Name: "Parlour stick", Type: "MediaRenderer:1", Make: "Palvara", Model: "PV-2", HostName: "parlour-stick", Software: "Palvara/1.9.0"}, &upnp{services: rendererServices})
	stick.Segment = h.Guest
	stick.Address = netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, h.octet + 1, 133}), ScreenPort)
}

// Devices lists what is in the house.
func (h *House) Devices() []*Device { return slices.Clone(h.devices) }

// Device returns the device of that host name, or nil.
func (h *House) Device(hostName string) *Device {
	i := slices.IndexFunc(h.devices, func(d *Device) bool { return d.HostName == hostName })
	if i < 0 {
		return nil
	}
	return h.devices[i]
}

// Start opens all devices, or none.
func (h *House) Start(ctx context.Context) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.ctx, h.Notes = ctx, nil
	var err error
	if h.control, err = newControl(h); err != nil {
		return fmt.Errorf("practice house %s: %w", h.Segment, err)
	}
	h.running = true
	for _, d := range h.devices {
		if err := d.start(ctx); err != nil {
			h.stop()
			return fmt.Errorf("practice house %s: %w", h.Segment, err)
		}
	}
	return nil
}

// Stop says goodbye for all devices and closes them.
func (h *House) Stop() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.stop()
}

func (h *House) stop() {
	if !h.running {
		return
	}
	h.running = false
	for _, d := range h.devices {
		d.stop()
	}
	h.control.stop()
}

// note keeps what could not be opened here.
func (h *House) note(format string, args ...any) {
	if text := fmt.Sprintf(format, args...); !slices.Contains(h.Notes, text) {
		h.Notes = append(h.Notes, text)
	}
}

// ErrNoFault is returned for a fault that is not declared.
var ErrNoFault = errors.New("no such fault")

// Switch turns a fault on or off. The devices that it touches are closed and opened again where
// that is needed to show it.
func (h *House) Switch(name string, on bool) error {
	i := slices.IndexFunc(Faults, func(f Fault) bool { return f.Name == name })
	if i < 0 {
		var near []string
		for _, f := range Faults {
			if strings.HasPrefix(f.Name, name) || strings.Contains(f.Name, name) {
				near = append(near, f.Name)
			}
		}
		return fmt.Errorf("%w as %s%s", ErrNoFault, name, orPerhaps(near))
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.faults.on(name) == on {
		return nil
	}
	if !h.running {
		h.faults.set(name, on)
		return nil
	}
	var touched []*Device
	for _, d := range h.devices {
		if slices.Contains(Faults[i].reopens, d.HostName) {
			touched = append(touched, d)
		}
	}
	for _, d := range touched {
		d.stop()
	}
	h.faults.set(name, on)
	var failed error
	for _, d := range touched {
		failed = errors.Join(failed, d.start(h.ctx))
	}
	for _, d := range h.devices {
		for _, p := range d.open {
			if s, follows := p.(interface{ switched() error }); follows {
				failed = errors.Join(failed, s.switched())
			}
		}
	}
	return failed
}

// On reports whether a fault is on.
func (h *House) On(name string) bool { return h.faults.on(name) }

func orPerhaps(near []string) string {
	if len(near) == 0 {
		return ""
	}
	return "; there is " + strings.Join(near, ", ")
}
