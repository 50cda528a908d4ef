package practice

import (
	"context"
	"fmt"
	"net/netip"
)

// House is one practice house. Several can stand side by side, each in a third octet of its own.
type House struct {
	Segment netip.Prefix
	Server  *Device
	Screen  *Device
	Gateway *Device
}

// The house's shown names and unique names: what the record of it must say.
const (
	ServerName  = "Granite"
	ServerUDN   = "uuid:4b616b75-0000-4000-8000-000000000010"
	ScreenName  = "Lamp room screen"
	ScreenUDN   = "uuid:4b616b75-0000-4000-8000-000000000021"
	ServerPort  = 8200
	ScreenPort  = 8300
	GatewayUDN  = "uuid:4b616b75-0000-4000-8000-000000000001"
	GatewayPort = 5000
)

// OuterAddress is the address that the house's gateway has on its line.
var OuterAddress = netip.MustParseAddr("203.0.113.17")

// New makes the house in 127.77.octet.0/24. Nothing is opened before Start.
func New(octet byte) *House {
	at := func(host byte, port uint16) netip.AddrPort {
		return netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, octet, host}), port)
	}
	segment := netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 77, octet, 0}), 24)
	return &House{
		Segment: segment,
		Server: newAVServer(Device{Name: ServerName, Make: "Tuulkivi", Model: "TK-4 Cellar", UDN: ServerUDN,
			Address: at(10, ServerPort), Segment: segment}),
		Screen: newRenderer(Device{Name: ScreenName, Make: "Norrvik", Model: "NV-43", UDN: ScreenUDN,
			Address: at(21, ScreenPort), Segment: segment}),
		Gateway: newGateway(Device{Name: "Orre OR-7 Pier", Make: "Orre", Model: "OR-7 Pier", UDN: GatewayUDN,
			Address: at(1, GatewayPort), Segment: segment}, OuterAddress),
	}
}

// newRenderer makes a screen that says what it can decode.
func newRenderer(d Device) *Device {
	d.Type = "MediaRenderer:1"
	d.services = []service{connectionManager("", "http-get:*:video/mp4:*,http-get:*:audio/mpeg:*,http-get:*:image/jpeg:*")}
	return &d
}

// Start opens all devices, or none.
func (h *House) Start(ctx context.Context) error {
	for _, d := range h.devices() {
		if err := d.start(ctx); err != nil {
			h.Stop()
			return fmt.Errorf("practice house %s: %w", h.Segment, err)
		}
	}
	return nil
}

// Stop says goodbye for all devices and closes them.
func (h *House) Stop() {
	for _, d := range h.devices() {
		d.stop()
	}
}

func (h *House) devices() []*Device { return []*Device{h.Gateway, h.Server, h.Screen} }
