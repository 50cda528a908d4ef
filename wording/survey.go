package wording

import (
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
)

// Gaps holds the words of every gap of a survey; {about} is what it is missing at.
var Gaps = map[string]Said{
	"no-line":             {"No internet line is recorded.", "Record how it comes in and who provides it."},
	"line-unmeasured":     {"Nobody measured the line {about}.", "Measure it, in the evening if it is to carry an evening."},
	"no-outer-address":    {"What address the home gets on the line {about} is not known.", "Read the router's outer address and compare it with the one seen outside."},
	"no-router":           {"No router is recorded.", "Record it, with which of its ports faces outside."},
	"no-segment":          {"No segment is recorded.", "Read address range, lease pool and gateway from the router."},
	"no-lease-pool":       {"What the lease server of {about} gives out is not known.", "Read the lease pool from the router's menu."},
	"no-lease-server":     {"Who gives out addresses in {about} is not known.", "Mostly the router; look whether another device does too."},
	"device-without-room": {"Where {about} stands is not recorded.", "Choose its room, or say that it is carried about."},
	"no-outlets":          {"No outlet is recorded in {about}.", "Record the outlets, and what cable ends in them."},
	"outlet-unpatched":    {"Where the cable of outlet {about} ends is not known.", "Follow it to the panel and note the port."},
	"outlet-untested":     {"Outlet {about} was not tested.", "Test its rate, or plug a laptop in and see what it agrees on."},
	"no-power":            {"The mains sockets of {about} are not recorded.", "Note how many there are and what is missing."},
	"no-reading":          {"Nobody measured in {about}, where something is to be watched.", "Measure from where the device stands."},
	"no-photograph":       {"There is no photograph of {about}.", "Take one, with what stands there."},
	"no-serial":           {"The label of {about} was not read.", "Photograph the label, or type the serial number."},
	"no-adapter":          {"How {about} is on the network is not recorded.", "Add its adapter, wired or radio."},
	"no-hardware-address": {"The hardware address of {about} is not known.", "Read it from the label or the device's own menu."},
	"no-signal":           {"The signal at {about} is not known.", "Read it from the device's own menu, or measure beside it."},
}

// Gap says a gap at what is called about.
func Gap(g survey.Gap, about string) Said {
	return fill(Gaps[g.Code], map[string]string{"about": about})
}

// Unions holds the answers for one path.
var Unions = map[network.Union]string{
	network.UnionUnknown: "Not known: of one end no segment is recorded.",
	network.UnionWhole:   "Yes, both ends are on one network.",
	network.UnionPassed:  "In two segments, but multicast is passed on between them.",
	network.UnionRouted:  "In two segments; it is found without multicast, so that is no hindrance.",
	network.UnionApart:   "No, its two ends are apart.",
}

// HomeUnions holds the answers for a home.
var HomeUnions = map[network.Union]string{
	network.UnionUnknown: "Not known yet: no segment is recorded for {unknown}.",
	network.UnionWhole:   "Yes: all {here} are in {segment}.",
	network.UnionApart:   "No: {apart} not in {segment}, where {here} are.{unknown}",
}

// OuterKinds says what sort of address a line gives the home.
var OuterKinds = map[network.OuterKind]string{
	network.OuterUnknown:       "not known",
	network.OuterPublic:        "public",
	network.OuterCarrierShared: "shared by the carrier among its customers",
	network.OuterSecondRouter:  "behind a second router",
	network.OuterCarrier:       "the carrier's private one",
}

// Reach says what the addresses of a line mean for outside viewing.
func Reach(r network.LineReach) string {
	said := "IPv4: " + OuterKinds[r.V4] + "; IPv6: " + OuterKinds[r.V6] + ". "
	switch {
	case r.V4 == network.OuterPublic:
		return said + "A port can be forwarded to the home."
	case r.V6 == network.OuterPublic:
		return said + "The home can be reached over IPv6 with an opening in the router, not over IPv4."
	case r.Relay:
		return said + "The home can be reached by the relay only."
	case r.V4 == network.OuterUnknown:
		return said + "Whether the home can be reached from outside is open."
	case r.V4 == network.OuterSecondRouter:
		return said + "Nobody outside can reach the home until the box in between only bridges, or forwards the port too."
	}
	return said + "Nobody outside can reach the home; it needs IPv6, a relay, or an address of its own from the carrier."
}

// Uses says what an address is there for.
var Uses = map[network.UseOf]string{
	network.UseGateway:  "gateway",
	network.UseReserved: "reserved",
	network.UseFixed:    "set on the device",
	network.UseLeased:   "by lease",
	network.UseHeld:     "taken, nobody noted how",
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
