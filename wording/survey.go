package wording

import (
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
)

// Gaps holds the words of every gap in a survey; {about} is the record that it concerns.
var Gaps = map[string]Said{
	"no-line":             {"No internet line is recorded.", "Record what kind of line it is and who provides it."},
	"line-unmeasured":     {"No speed measurement for the line {about} yet.", "Measure it, in the evening if it is used mainly then."},
	"no-outer-address":    {"The outer address of the line {about} is not known.", "Read the router's outer address and compare it with the one seen from outside."},
	"no-router":           {"No router is recorded.", "Record the router and which of its ports faces the internet."},
	"no-segment":          {"No segment is recorded.", "Read the address range, DHCP pool and gateway from the router."},
	"no-lease-pool":       {"The DHCP pool of {about} is not known.", "Read the DHCP pool from the router's menu."},
	"no-dhcp-server":      {"No DHCP server is recorded for {about}.", "It is usually the router. Check that no other device gives out addresses too."},
	"device-without-room": {"No room is recorded for {about}.", "Choose its room, or mark it as portable."},
	"no-outlets":          {"No outlets are recorded in {about}.", "Record the outlets and the cable that ends in them."},
	"outlet-unpatched":    {"It is not known where outlet {about} is patched to.", "Follow the cable to the panel and note the port."},
	"outlet-untested":     {"Outlet {about} has not been tested.", "Test its rate, or connect a laptop and read the link rate."},
	"no-power":            {"The mains sockets in {about} are not recorded.", "Note how many there are and what is missing."},
	"no-reading":          {"No readings for {about} yet, although something will be played there.", "Measure where the device will be."},
	"no-photograph":       {"There is no photograph of {about}.", "Take one that shows the devices in it."},
	"no-serial":           {"The serial number of {about} is not recorded.", "Photograph the label, or type the serial number."},
	"no-adapter":          {"No network adapter is recorded for {about}.", "Add its adapter, wired or Wi-Fi."},
	"no-hardware-address": {"The MAC address of {about} is not known.", "Read it from the label or the device's own menu."},
	"no-signal":           {"The signal strength at {about} is not known.", "Read it from the device's own menu, or measure next to it."},
}

// Gap says a gap at what is called about.
func Gap(g survey.Gap, about string) Said {
	return fill(Gaps[g.Code], map[string]string{"about": about})
}

// Unions holds the answers for one path.
var Unions = map[network.Union]string{
	network.UnionUnknown: "Not known: no segment is recorded for one of its ends.",
	network.UnionWhole:   "Yes, both ends are on the same network.",
	network.UnionPassed:  "In two segments, but the router passes multicast between them.",
	network.UnionRouted:  "In two segments. The server is found without multicast, so this is no obstacle.",
	network.UnionApart:   "No, its two ends are on separate networks.",
}

// HomeUnions holds the answers for a home.
var HomeUnions = map[network.Union]string{
	network.UnionUnknown: "Not known yet: no segment is recorded for {unknown}.",
	network.UnionWhole:   "Yes: all {here} are in {segment}.",
	network.UnionApart:   "No: {apart} not in {segment}, which has {here}.{unknown}",
}

// OuterKinds says what kind of address a line gives the home.
var OuterKinds = map[network.OuterKind]string{
	network.OuterUnknown:       "not known",
	network.OuterPublic:        "public address",
	network.OuterCarrierShared: "address shared by the carrier among its customers",
	network.OuterSecondRouter:  "behind a second router",
	network.OuterCarrier:       "private address of the carrier",
}

// Reach says what the addresses of a line mean for outside viewing.
func Reach(r network.LineReach) string {
	said := "IPv4: " + OuterKinds[r.V4] + "; IPv6: " + OuterKinds[r.V6] + ". "
	switch {
	case r.V4 == network.OuterPublic:
		return said + "A port can be forwarded to the home."
	case r.V6 == network.OuterPublic:
		return said + "The home can be reached over IPv6 if the router is opened for it, but not over IPv4."
	case r.Relay:
		return said + "The home can be reached only through the relay."
	case r.V4 == network.OuterUnknown:
		return said + "It is not known whether the home can be reached from outside."
	case r.V4 == network.OuterSecondRouter:
		return said + "The home cannot be reached from outside until the second router is set to bridge mode or forwards the port too."
	}
	return said + "The home cannot be reached from outside. It needs IPv6, a relay, or a public address from the carrier."
}

// Uses says what an address is used for.
var Uses = map[network.UseOf]string{
	network.UseGateway:  "gateway",
	network.UseReserved: "reserved",
	network.UseFixed:    "set on the device",
	network.UseLeased:   "by DHCP",
	network.UseHeld:     "in use, assignment not recorded",
}

// Link says kind and rate of a link.
func Link(l dossier.Link) string {
	said := Plain(string(l.Kind))
	if l.Band != "" {
		said += " " + strings.ReplaceAll(string(l.Band), "-ghz", " GHz")
	}
	if l.Channel != 0 {
		said += fmt.Sprintf(" channel %d", l.Channel)
	}
	if l.RateMbps > 0 {
		said += fmt.Sprintf(" %.4g Mb/s", l.RateMbps)
	}
	return said
}

// Capital begins with a capital letter.
func Capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
