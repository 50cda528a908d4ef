// Package layout is what is known of a practice house from outside: names, ports, faults, and how it
// is asked to switch them or to carry something out. The house itself is a separate program, so that Kaiku does not
// contain the servers that it is made of.
package layout

import "net/netip"

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

// Locator is the part of the description's address after the port.
const Locator = "/description.xml"

// OuterAddress is the address that the house's gateway has on its line.
var OuterAddress = netip.MustParseAddr("203.0.113.17")

// ControlAddress is where the house in that octet lets its faults be switched.
func ControlAddress(octet byte) netip.AddrPort {
	return netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, octet, 253}), ControlPort)
}

// Forms of house that can be built.
const (
	KeepersHouse = "keepers-house" // everything that Kaiku can look at
	SailLoft     = "sail-loft"     // an archive of photographs, and films that were converted ahead of time
	AlderRow     = "alder-row"     // screens and players of a family of five
)

// Forms lists them.
var Forms = []string{KeepersHouse, SailLoft, AlderRow}

// Errand is a test that someone carries out in front of the devices of a house.
type Errand struct {
	Test   string `json:"test"`             // kind of test
	Screen string `json:"screen"`           // shown name of the device
	Folder string `json:"folder,omitempty"` // that is opened there
	Title  string `json:"title,omitempty"`  // that is played; the first of the folder where empty
}

// Seen is what an errand showed.
type Seen struct {
	Passed bool   `json:"passed"`
	Says   string `json:"says"`
}
