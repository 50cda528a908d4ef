package practice

import (
	"context"
	"encoding/binary"
	"fmt"
	"net"
	"net/netip"
	"strconv"
	"strings"
	"time"

	"kaiku/practice/layout"
)

// forward is one port that the gateway forwards.
type forward struct {
	outside  int
	protocol string
	to       byte
	inside   int
	about    string
}

var forwards = []forward{{40443, "TCP", 10, layout.ServerPort, "Ahtola"}, {40820, "UDP", 11, 40820, "tunnel"}}

// outer is the gateway's address on its line: a private one when another gateway stands before it.
func outer(d *Device) netip.Addr {
	if d.HostName == "pier" && d.house.faults.on("second-gateway") {
		return netip.AddrFrom4([4]byte{10, 177, 4, 20})
	}
	return layout.OuterAddress
}

// gatewayServices are WANIPConnection and LANHostConfigManagement of IGD. The newer type answers to
// the older one too.
func gatewayServices(d *Device) []service {
	version := "1"
	if d.Type == "InternetGatewayDevice:2" {
		version = "2"
	}
	if d.on("mapping-off") {
		return nil
	}
	wan := service{kind: "WANIPConnection:" + version, actions: map[string]action{
		"GetExternalIPAddress": func(request) ([]argument, *upnpError) {
			return []argument{{"NewExternalIPAddress", outer(d).String()}}, nil
		},
		"GetStatusInfo": func(request) ([]argument, *upnpError) {
			return []argument{{"NewConnectionStatus", "Connected"}, {"NewLastConnectionError", "ERROR_NONE"}, {"NewUptime", "86400"}}, nil
		},
		"GetGenericPortMappingEntry": func(r request) ([]argument, *upnpError) {
			n, err := strconv.Atoi(r.args["NewPortMappingIndex"])
			if err != nil || n < 0 || n >= len(forwards) || d.HostName != "pier" {
				return nil, &upnpError{713, "SpecifiedArrayIndexInvalid"}
			}
			f := forwards[n]
			return []argument{{"NewRemoteHost", ""}, {"NewExternalPort", strconv.Itoa(f.outside)}, {"NewProtocol", f.protocol}, {"NewInternalPort", strconv.Itoa(f.inside)},
				{"NewInternalClient", d.house.at(f.to).String()}, {"NewEnabled", "1"}, {"NewPortMappingDescription", f.about}, {"NewLeaseDuration", "0"}}, nil
		},
	}}
	lan := service{kind: "LANHostConfigManagement:1", actions: map[string]action{
		"GetDHCPServerConfigurable": say("NewDHCPServerConfigurable", "1"),
		"GetAddressRange": func(request) ([]argument, *upnpError) {
			return []argument{{"NewMinAddress", d.house.at(100).String()}, {"NewMaxAddress", d.house.at(199).String()}}, nil
		},
		"GetSubnetMask":    say("NewSubnetMask", "255.255.255.0"),
		"GetDNSServers":    say("NewDNSServers", d.house.at(1).String()),
		"GetIPRoutersList": say("NewIPRouters", d.house.at(1).String()),
		"GetDomainName":    say("NewDomainName", "home.arpa"),
		"GetReservedAddresses": func(request) ([]argument, *upnpError) {
			return []argument{{"NewReservedAddresses", fmt.Sprintf("%s,%s", d.house.at(10), d.house.at(11))}}, nil
		},
	}}
	if d.HostName != "pier" {
		return []service{wan}
	}
	return []service{wan, lan}
}

// leaseTable is what the router has given out, as CSV (RFC 4180) with a line of column names.
func (h *House) leaseTable() string {
	var b strings.Builder
	b.WriteString("address,mac,host name,until\r\n")
	until := time.Now().Add(12 * time.Hour).UTC().Format(time.RFC3339)
	for _, d := range h.devices {
		if d.Segment == h.Segment && d.only == "" && d.host > 2 {
			hw := d.HardwareAddress()
			fmt.Fprintf(&b, "%s,%s,%s,%s\r\n", d.Address.Addr(), net.HardwareAddr(hw[:]), d.HostName, until)
		}
	}
	return b.String()
}

// say is an action that always answers the same.
func say(name, value string) action {
	return func(request) ([]argument, *upnpError) { return []argument{{name, value}}, nil }
}

// MappingPort is where gateways answer NAT-PMP and PCP (RFC 6886, section 3; RFC 6887, section 19.1).
const MappingPort = 5351

// mapper answers NAT-PMP and PCP.
type mapper struct {
	device  *Device
	packets *packets
}

func (m *mapper) start(_ context.Context, d *Device) (err error) {
	m.device = d
	if d.on("mapping-off") {
		return nil
	}
	m.packets, err = answerPackets(netip.AddrPortFrom(d.Address.Addr(), MappingPort), func(b []byte, _ netip.AddrPort) []byte { return m.answer(b) })
	return err
}

func (m *mapper) stop() {
	m.packets.stop()
	m.packets = nil
}

func (m *mapper) answer(b []byte) []byte {
	at := outer(m.device)
	as4 := at.As4()
	switch {
	case len(b) >= 2 && b[0] == 0 && b[1] == 0: // NAT-PMP, external address
		out := make([]byte, 12)
		out[1] = 128
		binary.BigEndian.PutUint32(out[4:], 86400)
		copy(out[8:], as4[:])
		return out
	case len(b) >= 60 && b[0] == 2 && b[1] == 1: // PCP, MAP
		out := make([]byte, 60)
		copy(out, b[:60])
		out[1], out[3] = 0x81, 0
		binary.BigEndian.PutUint32(out[8:], 86400)
		copy(out[12:24], make([]byte, 12))
		binary.BigEndian.PutUint16(out[42:], 40009)
		mapped := at.As16()
		copy(out[44:], mapped[:])
		return out
	case len(b) >= 24 && b[0] == 2 && b[1] == 0: // PCP, ANNOUNCE (RFC 6887, section 14.1)
		out := make([]byte, 24)
		out[0], out[1] = 2, 0x80
		binary.BigEndian.PutUint32(out[8:], 86400)
		return out
	case len(b) >= 2 && b[0] == 2: // PCP, another opcode: unsupported
		out := make([]byte, 24)
		out[0], out[1], out[3] = 2, 0x80|b[1], 4
		return out
	}
	return nil
}
