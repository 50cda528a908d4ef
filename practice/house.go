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

	"kaiku/practice/layout"
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
	errands errands
	faults  faults
	control *control
	mu      sync.Mutex // held while devices are opened or closed
	running bool
	ctx     context.Context
}

// udn makes the unique name of the device at that host number.
func udn(host byte) string { return fmt.Sprintf("uuid:4b61696b-7500-4000-8000-%012d", host) }

// New makes the Keeper's House in 127.77.octet.0/24, and its guest segment in the next. Nothing is
// opened before Start.
func New(octet byte) *House {
	h := empty(octet)
	h.keepersHouse()
	return h
}

// ErrNoForm is returned for a form of house that is not declared.
var ErrNoForm = errors.New("no such form of practice house")

// Build makes a house of one of layout.Forms.
func Build(form string, octet byte) (*House, error) {
	h := empty(octet)
	switch form {
	case layout.KeepersHouse:
		h.keepersHouse()
	case layout.SailLoft:
		h.sailLoft()
	case layout.AlderRow:
		h.alderRow()
	default:
		return nil, fmt.Errorf("%w: %s; there are %s", ErrNoForm, form, strings.Join(layout.Forms, ", "))
	}
	return h, nil
}

func empty(octet byte) *House {
	h := &House{octet: octet}
	h.Segment = netip.PrefixFrom(h.at(0), 24)
	h.Guest = netip.PrefixFrom(netip.AddrFrom4([4]byte{127, 77, octet + 1, 0}), 24)
	return h
}

// at is the address of a host in the home's segment.
func (h *House) at(host byte) netip.Addr { return netip.AddrFrom4([4]byte{127, 77, h.octet, host}) }

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

// Switch turns a fault on or off. The devices that it touches are closed and opened again where
// that is needed to show it.
func (h *House) Switch(name string, on bool) error {
	fault, err := layout.FaultNamed(name)
	if err != nil {
		return err
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
		if slices.Contains(fault.Reopens, d.blamedAs()) {
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
