package wording

import "kaiku/core/network"

// Supplies names what a visit may have to bring or to have ready.
var Supplies = map[string]string{
	"cable-tester":         "cable tester",
	"measuring-laptop":     "measuring laptop",
	"patch-cables":         "patch cables",
	"access-point":         "access point",
	"power-supply":         "power supply",
	"storage-stick":        "storage stick",
	"replacement-software": "replacement software",
	"licence":              "licence",
	"newer-version":        "newer version fetched",
}

// Because says why something is brought.
func Because(code string) string {
	switch code {
	case "visit":
		return "written down with the visit"
	case "newer-version":
		return "there is a newer version"
	}
	return Plain(code)
}

// HereRemarks says what there is to know on arriving.
var HereRemarks = map[string]string{
	"in-segment":            "You are in {segment} by {adapter}, as {address}.",
	"not-in-home":           "This machine is in none of the home's recorded segments.",
	"prefix-differs":        "{segment} is recorded as {recorded}, but here it is {here}.",
	"gateway-as-recorded":   "The gateway is {gateway}, as recorded.",
	"gateway-differs":       "The gateway of {segment} is recorded as {recorded}, but here it is {here}.",
	"gateway-not-recorded":  "The gateway of {segment} here is {here}; none is recorded.",
	"lease-as-recorded":     "{adapter} has {address} by lease from {server}, as recorded.",
	"lease-server-other":    "{adapter} has {address} by lease from {server}, which is not the lease server recorded for {segment}.",
	"lease-server-unknown":  "{adapter} has {address} by lease from {server}; no lease server is recorded for {segment}.",
	"neighbour-as-recorded": "{device} is at {address}, as recorded.",
	"neighbour-moved":       "{device} is at {address}, which is not recorded for it.",
	"neighbour-other":       "{address} is recorded for {device}, but {hardware} has it.",
	"neighbour-unknown":     "{hardware} at {address} is not recorded.",
}

// hereDiffers are the remarks that something is not as recorded.
var hereDiffers = map[string]bool{"not-in-home": true, "prefix-differs": true, "gateway-differs": true, "gateway-not-recorded": true, "lease-server-other": true, "lease-server-unknown": true, "neighbour-moved": true, "neighbour-other": true, "neighbour-unknown": true}

// Here says a remark on arriving, and whether it is that something is not as recorded.
func Here(r network.Remark) (string, bool) {
	return Fill(HereRemarks[r.Code], r.Values), hereDiffers[r.Code]
}

// LeavingWords says what is to be settled before the door closes.
var LeavingWords = map[string]string{
	"tests-failed":    "Failed, without a pass since: {n}.",
	"tests-stale":     "No longer proof: {n}.",
	"tests-untried":   "Required and untried: {n}.",
	"change-owes":     "\"{change}\" on {device} still owes: {what}.",
	"wait-running":    "Runs until about {when}: {what}. Say who looks again.",
	"opening-left":    "Port {port} of {device} was opened for the work only. Shut it.",
	"secret-missing":  "The account {account} has no secret in keeping.",
	"outcome-missing": "The visit \"{purpose}\" has no outcome yet. Write what was done and what was left.",
	"blockers":        "Blockers found by computation: {n}.",
	"survey-missing":  "The survey misses: {n}.",
}

// Leaving says one thing to settle before the door closes.
func Leaving(o network.Remark) string {
	values := map[string]string{}
	for k, v := range o.Values {
		values[k] = v
	}
	values["what"] = Plain(values["what"])
	return Fill(LeavingWords[o.Code], values)
}
