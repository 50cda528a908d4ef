package practice

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"kaiku/multicast"
)

// announcer is the SSDP side of one stand-in: it announces, answers searches that come from its
// own segment, and says goodbye (UPnP Device Architecture 2.0, section 1).
type announcer struct {
	device   *Device
	server   string
	address  netip.Addr
	segment  netip.Prefix
	location string
	udn      string
	types    []string // device and service types it answers for
	hear     *multicast.Ear
	speak    *net.UDPConn
	done     chan struct{}
}

// announce opens the sockets, multicast bound to loopback, and announces three times: a listener
// that starts in the same moment may miss one.
func announce(a *announcer) error {
	lo, err := loopback()
	if err != nil {
		return err
	}
	if a.hear, err = multicast.Hear(multicast.SSDP, lo); err != nil {
		return fmt.Errorf("hear searches: %w", err)
	}
	// Answers go out from the device's own address.
	if a.speak, err = multicast.Speak(netip.AddrPortFrom(a.address, 1900), lo, 2); err != nil {
		return errors.Join(err, a.hear.Close())
	}
	a.done = make(chan struct{})
	go a.listen()
	for range 3 {
		a.notify("ssdp:alive")
	}
	return nil
}

// close says goodbye and ends the sockets.
func (a *announcer) close() {
	a.notify("ssdp:byebye")
	_ = errors.Join(a.hear.Close(), a.speak.Close()) // nothing is outstanding on either
	<-a.done
}

func loopback() (*net.Interface, error) {
	all, err := net.Interfaces()
	if err != nil {
		return nil, err
	}
	for _, i := range all {
		if i.Flags&net.FlagLoopback != 0 {
			return &i, nil
		}
	}
	return nil, errors.New("this machine has no loopback interface")
}

func (a *announcer) listen() {
	defer close(a.done)
	buffer := make([]byte, 8192)
	for {
		n, from, err := a.hear.Next(buffer)
		if err != nil {
			return
		}
		if a.segment.Contains(from.Addr()) { // from another, multicast would not have come this far
			a.answer(buffer[:n], from)
		}
	}
}

func (a *announcer) answer(b []byte, to netip.AddrPort) {
	if a.device.Asleep() || a.device.muted() {
		return
	}
	r, err := http.ReadRequest(bufio.NewReader(bytes.NewReader(b)))
	if err != nil || r.Method != "M-SEARCH" || r.Header.Get("Man") != `"ssdp:discover"` {
		return
	}
	want := r.Header.Get("St")
	for _, target := range a.targets() {
		if want == "ssdp:all" || want == target {
			_, _ = a.speak.WriteToUDPAddrPort(fmt.Appendf(nil, "HTTP/1.1 200 OK\r\nCACHE-CONTROL: max-age=1800\r\nEXT:\r\nLOCATION: %s\r\nSERVER: %s\r\nST: %s\r\nUSN: %s\r\n\r\n",
				a.location, a.server, target, a.usn(target)), to) // UDP: the searcher asks again
		}
	}
}

// muted reports whether multicast no longer reaches the device.
func (d *Device) muted() bool { return d.on("multicast-lost") }

// targets is what it answers for: itself, its types, and their earlier versions too.
func (a *announcer) targets() []string {
	out := []string{"upnp:rootdevice", a.udn}
	for _, t := range a.types {
		out = append(out, t)
		if older, newer := strings.CutSuffix(t, ":2"); newer {
			out = append(out, older+":1")
		}
	}
	return out
}

func (a *announcer) usn(target string) string {
	if target == a.udn {
		return a.udn
	}
	return a.udn + "::" + target
}

func (a *announcer) notify(nts string) {
	if a.device.Asleep() {
		return
	}
	for _, target := range a.targets() {
		_, _ = a.speak.WriteTo(fmt.Appendf(nil, "NOTIFY * HTTP/1.1\r\nHOST: 239.255.255.250:1900\r\nCACHE-CONTROL: max-age=1800\r\nLOCATION: %s\r\nNT: %s\r\nNTS: %s\r\nSERVER: %s\r\nUSN: %s\r\n\r\n",
			a.location, target, nts, a.server, a.usn(target)), multicast.SSDP) // repeated by the protocol
	}
	time.Sleep(time.Millisecond) // keep three announcements from overrunning a small socket buffer
}
