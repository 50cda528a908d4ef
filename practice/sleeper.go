package practice

import (
	"bytes"
	"context"
	"net/netip"

	"kaiku/practice/layout"
)

// sleeper wakes its device by a packet that holds the MAC address sixteen times after six
// bytes of ones (Wake-on-LAN, "magic packet").
type sleeper struct {
	device  *Device
	packets *packets
}

// HardwareAddress is the device's made-up MAC address. Loopback carries none; only waking asks
// for it.
func (d *Device) HardwareAddress() [6]byte {
	return [6]byte{0x02, 0x4b, 0x49, 0x00, 0x01, hexOf(d.host)}
}

// hexOf is a host number written as MAC addresses of the house have it: 21 as 0x21.
func hexOf(host byte) byte { return host/10*16 + host%10 }

func (s *sleeper) start(_ context.Context, d *Device) (err error) {
	s.device = d
	s.packets, err = answerPackets(netip.AddrPortFrom(d.Address.Addr(), layout.WakePort), func(b []byte, _ netip.AddrPort) []byte {
		hw := d.HardwareAddress()
		magic := append(bytes.Repeat([]byte{0xff}, 6), bytes.Repeat(hw[:], 16)...)
		if bytes.Contains(b, magic) && !d.on("will-not-wake") {
			d.mu.Lock()
			d.asleep = false
			d.mu.Unlock()
		}
		return nil
	})
	return err
}

func (s *sleeper) stop() { s.packets.stop() }
