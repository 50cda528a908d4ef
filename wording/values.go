package wording

import (
	"cmp"
	"fmt"
	"maps"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Finding returns the words of a finding.
func Finding(f network.Finding) Said { return fill(Findings[f.Code], valueTexts(f.Values)) }

// Phrases are the words of what a finding worked out. Slots are filled from what the phrase speaks
// of, then from the other values of its finding.
var Phrases = map[string]string{
	"move-or-type-address": "Move the device to the server's segment, or enter the server's address on the device.",
	"move-only":            "Move the device to the server's segment. A typed address would not help: the isolation between the segments would stop it.",
	"bound-to-none":        "the source is not bound to an adapter. It may announce a different one each time it starts.",
	"bound-to":             "the source is bound to {adapter}.",
	"port-known":           "Connect it to the outlet.",
	"port-not-known":       "If it has a network port, connect it to the outlet; none is recorded yet.",
	"being-found":          "being found",
	"hearing-answers":      "hearing answers",
	"fetching":             "fetching",
	"from-outside":         "watching from outside",
	"dhcp-outside":         "{server} gives out addresses outside {prefix}",
	"gateways-differ":      "they name different gateways",
	"name-servers-differ":  "they name different name servers",
	"pools-overlap":        "their pools overlap",
	"dhcp-agree":           "they agree with each other and give out different addresses",
	"wifi-measured":        "Its measured Wi-Fi rate is {rate}",
	"wifi-not-measured":    "Its Wi-Fi rate has not been measured",
	"the-device-itself":    "the device itself",
	"shares-channel":       "shares channel {channel} ({band}) with {with}",
	"channel-busy":         "finds its channel busy for {busy} of the time",
	"address-not-recorded": "an address that is not recorded",
	"the-carrier":          "the carrier",
	"ask-the-carrier":      "ask the carrier for a public address",
	"access-point-only":    "set {change} to be an access point only, since {box} must not be touched",
	"bridge-or-forward":    "let {box} only bridge, or forward the port there too",
	"seen-outside":         ", seen outside as {address}",
	"no-other-way-in":      "No other way in is recorded.",
	"over-ipv6":            "Over IPv6 it can be reached with an opening in the router.",
	"over-relay":           "A relay is recorded, which both ends call.",
	"isolates-segments":    "what is in it from the other segments",
	"isolates-stations":    "its Wi-Fi devices from each other",
	"move-into-segment":    "Move the device into the server's segment.",
	"wire-one":             "Connect one of the two by cable, or switch the isolation off.",
	"address-differs":      "the address is {server} on the server but {device} on the device",
	"port-differs":         "the port is {server} on the server but {device} on the device",
	"name-differs":         "the name is {server} on the server but {device} on the device",
	"locator-differs":      "the locator is {server} on the server but {device} on the device",
	"password":             "a password",
	"encryption":           "encryption",
	"the-account":          "The account {name}",
	"the-licence":          "The licence of {name}",
	"woken-by-its-remote":  "only its remote wakes it",
	"woken-by-timer":       "only a timer wakes it",
	"woken-by-button-only": "only its button wakes it",
	"radio-only":           "it is on Wi-Fi only, which sleeps with it",
	"cannot-send-wake":     "{device} cannot send the packet that wakes it",
	"wake-stays-out":       "the packet that wakes it does not reach its segment",
	"marks-at-the-server":  "{path} on {at}",
	"marks-on-the-device":  "{path} on {at}",
	"marks-nowhere":        "{path} nowhere",
	"clock-fast":           "fast",
	"clock-slow":           "slow",
	"program-of":           "{software} on {device}",
	"firmware-of":          "The firmware of {device}",
	"older":                "{newest} is newer",
	"perhaps-older":        "the newest known is {newest}, and the two cannot be compared",
	"as-recorded":          "as recorded in this home",
	"by-source":            "according to {source}",
	"term-licence":         "licence",
	"term-trial":           "trial",
	"term-source":          "time",
	"ends":                 "ends",
	"ended":                "ended",
}

// valueTexts says the values of a finding.
func valueTexts(values map[string]dossier.Value) map[string]string {
	out := make(map[string]string, len(values))
	for name, v := range values {
		if len(v.Phrases) == 0 {
			out[name] = valueText(v)
		}
	}
	for name, v := range values {
		var said []string
		for _, p := range v.Phrases {
			with := maps.Clone(out)
			for slot, of := range p.Of {
				with[slot] = codeText(slot, of)
			}
			said = append(said, Fill(cmp.Or(Phrases[p.Code], Plain(p.Code)), with))
		}
		if len(said) > 0 {
			out[name] = strings.Join(said, "; ")
		}
	}
	return out
}

// codeText says one of the names of a phrase; a band is a code among them.
func codeText(slot, of string) string {
	if slot == "band" {
		return strings.ReplaceAll(of, "-ghz", " GHz")
	}
	return of
}

func valueText(v dossier.Value) string {
	switch {
	case v.Unit != "":
		return quantity(v)
	case len(v.Codes) > 0:
		words := make([]string, len(v.Codes))
		for i, c := range v.Codes {
			words[i] = FormatTerm(c)
		}
		return strings.Join(words, ", ")
	}
	return strings.Join(v.Names, ", ")
}

// quantity says a number with its unit, and that it is no more than an estimate where it is one.
func quantity(v dossier.Value) string {
	said := fmt.Sprintf("%.4g %s", v.Number, v.Unit)
	switch v.Unit {
	case dossier.UnitCount:
		return fmt.Sprintf("%.0f", v.Number)
	case dossier.UnitSecond:
		said = Span(v.Number)
	}
	if v.Known == dossier.KnownEstimated || v.Known == dossier.KnownAssumed {
		return "about " + said + " (" + string(v.Known) + ")"
	}
	return said
}

// Span says a length of time in seconds: 3 h 5 min, 2 min 5 s.
func Span(seconds float64) string {
	s := int(seconds)
	switch {
	case s >= 24*3600:
		return Count(s/86400, "day") + fmt.Sprintf(" %d h", s%86400/3600)
	case s >= 3600:
		return fmt.Sprintf("%d h %d min", s/3600, s%3600/60)
	case s >= 60:
		return fmt.Sprintf("%d min %d s", s/60, s%60)
	}
	return fmt.Sprintf("%d s", s)
}
