package wording

import (
	"kaiku/core/survey"
	"strconv"

	"kaiku/core/network"
)

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

// Because says why something is to be brought.
func Because(code string) string {
	switch code {
	case "visit":
		return "listed with the visit"
	case survey.Suspected:
		return "a fault is suspected that would need it"
	case "behind":
		return "there is, or may be, a newer version"
	}
	return Plain(code)
}

// Arrivals holds what there is to know on arriving, and whether it differs from the record.
var Arrivals = map[string]struct {
	Sentence string
	Differs  bool
}{
	"in-segment":            {"You are in {segment} through {adapter}, with the address {address}.", false},
	"not-in-home":           {"This machine is in none of the home's recorded segments.", true},
	"prefix-differs":        {"{segment} is recorded as {recorded}, but the network here is {here}.", true},
	"gateway-as-recorded":   {"The gateway is {gateway}, as recorded.", false},
	"gateway-differs":       {"The gateway of {segment} is recorded as {recorded}, but here it is {here}.", true},
	"gateway-not-recorded":  {"The gateway here is {here}, but none is recorded for {segment}.", true},
	"lease-as-recorded":     {"{adapter} was given {address} by the DHCP server {server}, as recorded.", false},
	"lease-server-other":    {"{adapter} was given {address} by {server}, which is not the DHCP server recorded for {segment}.", true},
	"lease-server-unknown":  {"{adapter} was given {address} by {server}, but no DHCP server is recorded for {segment}.", true},
	"neighbour-as-recorded": {"{device} is at {address}, as recorded.", false},
	"neighbour-moved":       {"{device} is at {address}, which is not recorded for it.", true},
	"neighbour-other":       {"{address} is recorded for {device}, but the MAC address there is {hardware}.", true},
	"neighbour-unknown":     {"{address} with the MAC address {hardware} is not recorded.", true},
}

// Arrival says a remark on arriving, and whether it differs from the record.
func Arrival(r network.Remark) (string, bool) {
	a := Arrivals[r.Code]
	return Fill(a.Sentence, r.Values), a.Differs
}

// Departures says what is to be settled before leaving.
var Departures = map[string]string{
	"tests-failed":    "{n} still failing.",
	"wish-not-served": "{said}.",
	"tests-in-doubt":  "{n} in doubt.",
	"tests-stale":     "{n} to repeat.",
	"tests-untried":   "{n} required but not tried yet.",
	"follow-up-open":  "\"{change}\" on {device} has a follow-up to do: {what}.",
	"long-task":       "{what} will run until about {when}. Decide who checks it.",
	"samples-left":    "Sample clips still lie in {where}. Take them out with kaiku reel collect.",
	"opening-left":    "Port {port} of {device} was opened only for the work. Close it.",
	"secret-missing":  "No secret is stored for the account {account}.",
	"outcome-missing": "The visit \"{purpose}\" has no outcome yet. Record what was done and what was left.",
	"blockers":        "{n} found by automatic checks.",
	"survey-missing":  "The survey still has {n}.",
}

// counted is what the number in a departure's sentence counts.
var counted = map[string]string{"tests-failed": "test", "tests-in-doubt": "test", "tests-stale": "test", "tests-untried": "test", "blockers": "blocker", "survey-missing": "gap"}

// Departure says one thing to settle before leaving.
func Departure(o network.Remark) string {
	values := map[string]string{}
	for k, v := range o.Values {
		values[k] = v
	}
	if code := values["what"]; o.Code == "follow-up-open" {
		values["what"] = Plain(code)
	}
	if o.Code == "wish-not-served" {
		values["said"] = NotServed(values["wish"], Where(values["room"], values["device"]))
	}
	if n, err := strconv.Atoi(values["n"]); err == nil {
		values["n"] = Count(n, counted[o.Code])
	}
	return Capital(Fill(Departures[o.Code], values))
}
