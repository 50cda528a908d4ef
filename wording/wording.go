// Package wording turns codes and values into sentences for people. It is the one place where
// the product speaks: the API, the commands and the papers all take their words from here.
//
// A sentence is a template in which {name} stands for the value of that name.
package wording

import (
	"fmt"
	"regexp"
	"strings"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
)

var slot = regexp.MustCompile(`\{([A-Za-z]+)\}`)

// Fill puts values into the slots of a template. A slot without a value is left out.
func Fill(template string, values map[string]string) string {
	return slot.ReplaceAllStringFunc(template, func(s string) string { return values[s[1:len(s)-1]] })
}

// Slots lists the names of a template's slots.
func Slots(template string) []string {
	var out []string
	for _, m := range slot.FindAllStringSubmatch(template, -1) {
		out = append(out, m[1])
	}
	return out
}

// Said is a sentence with the one thing to do about it.
type Said struct{ Sentence, Remedy string }

// Findings holds the words of every finding.
var Findings = map[string]Said{
	"address-clash": {"{address} is recorded at more than one device: {devices}. They will work by turns.",
		"Give one of them another address, or correct the record of the one that was typed wrongly."},
	"different-segments": {"{device} is in {deviceSegments}, but {server} is in {serverSegments}: multicast does not cross, so the device cannot find the server.",
		"Move the device into the server's segment, or let it find the server by a typed address."},
}

// Finding says a finding.
func Finding(f network.Finding) Said { return fill(Findings[f.Code], f.Values) }

func fill(s Said, values map[string]string) Said {
	return Said{Fill(s.Sentence, values), Fill(s.Remedy, values)}
}

// TestWords are the words of a kind of test: its title, what is expected, and, for a person
// before the screen, what to do.
type TestWords struct{ Title, Expected, Do string }

// Tests holds the words of every kind of test.
var Tests = map[string]TestWords{
	"reach": {"Source answers", "The source answers on the network at its recorded address and port, and lists its folders.",
		"Let Kaiku ask the source from a machine in the home."},
	"found": {"Server is found", "A search in the device's segment finds the server, with its recorded name.",
		"Let Kaiku search from a machine in the device's segment."},
	"plays": {"Plays", "A film starts within 5 seconds on this screen, and only on this one, and runs three minutes without a stall.",
		"Start any film on the device, then say how it went."},
}

// States holds the word and the meaning of every standing.
var States = map[proving.State]string{
	proving.Proven:   "proven",
	proving.Marginal: "marginal",
	proving.Failed:   "failed",
	proving.Stale:    "stale",
	proving.Excepted: "set aside",
	proving.Untried:  "untried",
}

// Observed holds what an attempt can have seen. Refused, silent and empty are different things.
var Observed = map[string]string{
	"answered":        "answered in {roundTripMs} ms with {folders} folders",
	"found":           "found as \"{name}\" at {location}; servers answering in the segment: {answers}",
	"refused":         "the connection was refused at {address}",
	"time-out":        "no answer within {seconds} s at {address}",
	"unreachable":     "there is no way from here to {address}",
	"not-described":   "something answers at {address}, but it does not describe itself as a media server",
	"leads-elsewhere": "the source at {address} sends its callers to {location}, which may not be asked",
	"no-folders":      "the source answers, but lists no folders",
	"wrong-content":   "the source answers at {address}, but says it is \"{name}\"",
	"silence":         "no answer to the search within {seconds} s, on {interfaces}",
	"others-only":     "{answers} other servers answered ({names}), this one did not",
	"old-address":     "the server still announces {location}, not its recorded address",
	"not-in-segment":  "this machine is in none of the segments of {device}, so it cannot search there",
	"no-address":      "no address is recorded for the source, so it could not be asked",
	"not-allowed":     "{address} is outside the networks that this Kaiku may ask",
	"plays":           "it played",
	"starts-late":     "it started late or stalled once",
	"does-not-start":  "it did not start",
	"stalls":          "it stalled",
	"not-listed":      "the device does not list it",
}

// Result says what a machine saw.
func Result(r proving.Result) string { return Fill(Observed[r.Observed], r.Said) }

// Fact says one fact that changed under a proof.
func Fact(label, name, from, to string) string {
	word := FactNames[name]
	if word == "" {
		word = name
	}
	return Fill("{name} of {label} was {from}, is now {to}", map[string]string{"name": word, "label": label, "from": orNothing(from), "to": orNothing(to)})
}

// FactNames says the names of facts.
var FactNames = map[string]string{
	"addresses": "address", "shownName": "shown name", "udn": "unique device name", "foundBy": "way of finding", "interface": "adapter",
	"port": "port", "locator": "locator", "protocol": "protocol", "source": "source", "device": "device", "prefix": "prefix",
	"isolation": "isolation", "mode": "mode", "model": "model", "firmware": "firmware",
}

func orNothing(s string) string {
	if s == "" {
		return "not recorded"
	}
	return s
}

// Prerequisites holds what must be true, and why.
var Prerequisites = map[string]Said{
	"server-software-runs": {"The server software runs", "Nothing can be listed while it is stopped."},
	"starts-with-machine":  {"It starts with the machine", "Software that starts at log-in serves nothing after a power cut."},
	"folders-offered":      {"The media folders are offered", "A server without folders is found, but empty."},
	"server-opening":       {"The host lets the search and the port in", "The search arrives by UDP port 1900, the device fetches from the source's TCP port."},
	"address-reserved":     {"The server's address is fixed or reserved", "An address that changes is the commonest reason why it worked until the power cut."},
	"multicast-passes":     {"Multicast passes in the segment", "The device finds the server by multicast."},
	"device-on-network":    {"The device is on this network", "A device on the guest network sees nothing of the home."},
	"server-chosen":        {"The right server is chosen on the device", "Several servers may be shown; the wrong one looks much the same."},
}

// Points holds the words of what a handover tells.
var Points = map[string]string{
	"issue-open":     "Issue {state}: {symptom}. Next: {nextStep}{waitingOn}",
	"issue-closed":   "Issue closed: {symptom}. {remedy}{closedWhy}",
	"test-proven":    "Proven since the last handover, on {path}: {test}",
	"test-excepted":  "Set aside by a lead technician, on {path}: {test}",
	"test-marginal":  "Only marginal, on {path}: {test}",
	"test-failed":    "Failed, on {path}: {test}",
	"test-stale":     "No longer proof, on {path}: {test}; facts have changed since",
	"test-untried":   "Untried, on {path}: {test}",
	"finding":        "{said}",
	"record-added":   "Recorded: {kind} {label}",
	"record-changed": "Changed: {kind} {label}: {members}",
	"record-removed": "Removed: {kind} {label}",
}

// Point says one point of a handover.
func Point(p dossier.Point) string {
	values := map[string]string{}
	for k, v := range p.Values {
		values[k] = v
	}
	if names := values["test"]; names != "" {
		var titles []string
		for name := range strings.SplitSeq(names, ", ") {
			titles = append(titles, Tests[name].Title)
		}
		values["test"] = strings.Join(titles, ", ")
	}
	values["kind"] = Plain(values["kind"])
	switch p.Code {
	case "issue-open":
		values["state"] = Plain(values["state"])
		values["nextStep"] = orElse(values["nextStep"], "nothing noted")
		if values["waitingOn"] != "" {
			values["waitingOn"] = ". Waiting on " + values["waitingOn"]
		}
	case "finding":
		said := fill(Findings[values["finding"]], values)
		values["said"] = said.Sentence + " " + said.Remedy
	}
	return Fill(Points[p.Code], values)
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// Gates holds the words of what holds a handover back.
var Gates = map[string]Said{
	"change-owes":             {"The change \"{label}\" still owes something, and nothing is noted about it.", "Do what it owes, or note who will do it and when."},
	"issue-without-next-step": {"The issue \"{label}\" is in hand, but has no next step.", "Say what to do next, so that the receiver can go on."},
}

// Gate says what holds a handover back.
func Gate(g custody.Gate) Said { return fill(Gates[g.Code], map[string]string{"label": g.Label}) }

// Todos holds what Today says about what waits.
var Todos = map[string]string{
	"handover-to-me":     "A handover from {from} waits for you to read it back",
	"handover-returned":  "{to} returned your handover: {why}",
	"handover-outdated":  "Your handover to {to} is outdated: the home changed under it",
	"issue-promised":     "Promised until {when}, not closed: {symptom}",
	"visit-mine":         "Visit {when}: {purpose}",
	"wait-over":          "Look again: {what}, expected to have ended {when}",
	"wait-mine":          "Runs until about {when}: {what}",
	"due-over":           "Fell due on {on}: {what}",
	"due-soon":           "Falls due on {on}: {what}",
	"exception-review":   "Set aside, to be looked at again since {on}: {test}",
	"changes-owing":      "Changes that still owe something: {n}",
	"issue-mine":         "Issue {state}: {symptom}",
	"issue-unowned":      "Nobody has this issue in hand: {symptom}",
	"tests-failed":       "Failed, without a pass since: {n}",
	"tests-stale":        "No longer proof: {n}",
	"tests-untried":      "Untried: {n}",
	"blockers":           "Found by computation: {n}",
	"handover-unwatched": "Not accepted since it was offered: handover from {from} to {to}",
}

// Count says a number with its word.
func Count(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// Plain says a code as words: in-hand is "in hand".
func Plain(code string) string { return strings.ReplaceAll(code, "-", " ") }
