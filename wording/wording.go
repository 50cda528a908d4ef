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
	"no-lease": {"{adapter} has {address}, which a device gives itself when no lease server answers.",
		"Look at its cable or radio, and whether the lease server of its segment runs; then let it ask for a lease again."},
	"address-outside-segment": {"{adapter} has {address}, which is not in {segment} ({prefix}).",
		"Correct the address, or the segment that is recorded for the adapter."},
	"gateway-outside-segment": {"The gateway {gateway} of {segment} is not in {prefix}: nobody there can reach it.",
		"Correct the gateway or the prefix."},
	"segments-overlap": {"{segment} ({prefix}) and {other} ({otherPrefix}) overlap: a router sends to one of them only.",
		"Give one of them another range."},
	"listens-elsewhere": {"{source} listens on {adapter} only, but {device} is in {segments}.",
		"Bind it to the adapter that faces the home, or to any."},
	"port-clash": {"{source} and {other} both want port {port} of {device}: the one that starts second serves nothing.",
		"Give one of them another port."},
	"ends-disagree": {"The two ends of {path} do not agree: {what} ({server} there, {device} here).",
		"Read it from the server's own menu and set the other end alike."},
	"hardware-address-clash": {"{address} is recorded at more than one adapter: {adapters}.",
		"Read the address from the label or the device's own menu, and correct the record that was copied."},
	"address-in-lease-pool": {"{adapter} is set to {address}, which lies in the lease pool of {segment} ({pool}): the lease server may give it to another.",
		"Reserve it for this adapter, or set an address outside of the pool."},
	"same-name": {"{source} and {other} both show the name \"{name}\": the wrong one will be chosen.",
		"Give one of them another name."},
	"writable-share": {"Whoever may read {source} may also write and delete there.",
		"Take the right to write from the account that the devices use."},
	"titles-missing": {"{missing} of the {onDisk} items in {folder} are not in the index ({inIndex} are).",
		"Let the server index the folder again; if they stay away, look at their names and formats."},
	"restart-owed": {"\"{change}\" on {device} takes effect only after a restart, which is still owed.",
		"Restart it, and note that it was done."},
	"starts-at-login-only": {"{software} on {device} starts {starts}: after a power cut nothing serves until somebody comes.",
		"Let it start with the machine."},
	"pool-outside-segment": {"The lease pool of {segment} ({pool}) is not in {prefix}: who gets an address from it reaches nobody there.",
		"Correct the pool or the prefix."},
	"reservation-outside-segment": {"In {segment}, {address} is reserved for {for}, but it is not in {prefix}.",
		"Reserve an address of the segment."},
	"two-lease-servers": {"In {segment} more than one device gives out addresses: {servers}; {differ}.",
		"Switch the lease server off in all of them but one."},
	"pool-nearly-full": {"{taken} of the {size} addresses that {segment} gives out ({pool}) are taken by recorded devices alone: visitors will go without.",
		"Make the pool larger."},
	"typed-address-not-reserved": {"{adapter} has {address} by lease only, but the address is typed in for {paths}: it works until it changes, mostly after a power cut.",
		"Reserve the address for this adapter."},
	"bound-to-lease": {"{source} is bound to {adapter}, which has {address} by lease only: with another address it does not start.",
		"Reserve the address, or bind the source to any adapter."},
	"hardware-address-randomised": {"{adapter} is set to show changing hardware addresses: reservations fail, and servers take it for a new device.",
		"Switch that off for the home's network."},
	"outer-address-private": {"On the line {line} the router has {address}{seen}, which nobody outside can call: {who} translates it. {besides}",
		"For outside viewing {how}, or use IPv6 or a relay."},
	"carrier-shared-address": {"On the line {line} the router has {address}{seen}, which the carrier shares among its customers: no port can be forwarded to the home. {besides}",
		"For outside viewing use IPv6 or a relay, or ask the carrier for an address of one's own."},
	"kept-apart": {"{device} cannot reach {server}: {segment} keeps apart {between}.", "{how}"},
	"on-guest-segment": {"{device} is parked on {segment}, which is kept apart from the home.",
		"Move it into the home's segment."},
	"several-adapters": {"The machine of {source} is in more than one segment ({segments}), and the source is bound to no adapter: which one it announces can change at its next start.",
		"Bind it to the adapter that faces the home."},
	"snooping-without-querier": {"The switches of {segment} pass multicast only to who asked, but nothing asks again: servers are found for some minutes, then gone.",
		"Switch a querier on, mostly in the router, or snooping off."},
	"cable-loop": {"The link from {near} to {far} closes a ring: unless the switches agree on leaving one link out, the network stands still.",
		"Take the link out, or correct the record of where it ends."},
	"outlets-share-port": {"{outlet} and {other} are both recorded as patched to {port}.",
		"Look at the patch panel and correct one of them."},
	"link-below-port": {"{near} and {far} agreed on {rate} Mb/s, although both can do {could}: mostly a damaged pair.",
		"Replace the patch cables, then test the cable between them."},
	"wireless-beside-outlet": {"{device} is on radio beside outlet {outlet}, which gives {could} Mb/s; {measured} by radio.",
		"Plug it in."},
	"weak-signal": {"{device} has a signal of {signal} dBm, measured by {with}; below {limit} it is too weak for what it shows.",
		"Wire it, or bring an access point nearer."},
	"same-channel-crowded": {"{radio} (channel {channel}, {band}) {why}: they take each other's time.",
		"Choose another channel, or wire what hangs on it."},
	"port-blocked": {"{server} keeps {transport} port {port} shut, which {path} needs for {for} (recorded as {state}).",
		"Open it in the firewall of {server} for private networks."},
	"network-class-public": {"{device} takes the home's network for a public one and keeps its openings shut.",
		"Set the network to private on it."},
	"account-differs": {"On {path} {device} is signed in with {account}, but {source} is opened with {other}.",
		"Sign in with one account at both ends."},
	"service-account-cannot-read": {"{software} runs as {account}, which may not read {folder} (who may: {may}).",
		"Give that account the right to read, or let it run as one that has it."},
	"open-to-outside": {"{source} can be reached from outside at port {port} and asks for no password.",
		"Set a password, or shut the port."},
	"plain-remote": {"{source} can be reached from outside at port {port}, but not encrypted: passwords and pictures can be read on the way.",
		"Switch encryption on, or reach it by a relay that encrypts."},
	"remote-service-left-open": {"{transport} port {port} of {device} was opened for the work only and is still open.",
		"Shut it before leaving."},
	"share-seats-short": {"{source} lets in {seats} at once, but {set} needs {paths}.",
		"Raise its limit, or move a path to another source."},
	"licence-seats-short": {"{what} allows {seats} machines, but {machines} use it.",
		"Buy the seats that are missing, or sign machines out."},
	"unknown-kind": {"The server knows {device} only as an unknown kind, and offers it what any device can take.",
		"Choose its kind in the server's list of devices."},
	"never-indexed": {"{folder} holds {onDisk} items on the disk, but was never indexed.",
		"Let the server read it, and record a wait if that outlasts the visit."},
	"mixed-folder": {"{folder} is a folder of kind {kind}, but {others} lie in it too and will be taken for something else.",
		"Move them into a folder of their own."},
	"rate-capped": {"{at} is limited to {limit} Mb/s, but {path} needs {needed} for the heaviest files of {folder}.",
		"Take the limit away, or raise it."},
	"wake-impossible": {"{server} sleeps, and {device} cannot wake it: {why}.",
		"Let it stay awake in the hours that are watched, or wire it and wake it from its own segment."},
	"marks-kept-apart": {"Somebody wishes to go on watching in another room, but the places are kept apart: {places}.",
		"Let all of these paths keep their place at one server."},
	"power-supply-weak": {"{device} needs up to {needs} W, but its supply gives {gives}: it fails under load.",
		"Bring the supply that belongs to it."},
	"settings-copy-missing": {"Nobody has a copy of the settings of {software} on {device}.",
		"Take one and note where it lies."},
	"clock-wrong": {"The clock of {device} is {off} {way}: guide, recordings and hours will be off by that.",
		"Let it fetch the time from the network."},
	"unmaintained": {"{software} on {device} was given up by its maker: there will be no more mending.",
		"Plan its replacement with the customer."},
	"ends-soon": {"The {term} of {software} on {device} {ends} on {on}.",
		"Settle with the customer what comes after it."},
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
	"told-apart": {"The right server is told apart", "Of the servers that the device lists, the household picks the right one without asking.",
		"Open the list of servers on the device and let somebody of the household choose."},
	"opens": {"Folders open", "Every folder of the path opens at the source and is not empty.",
		"Open each folder of the path on the device."},
	"complete": {"Nothing is missing", "The source shows as many items of the folder as were counted on the disk.",
		"Compare the number of items the source shows with the number on the disk."},
	"write-refused": {"Cannot be written to", "The share refuses to write, to move and to delete with the account that the device uses.",
		"Try to copy a file onto the share, to rename one of the sample clips and to delete a copy of it."},
	"stops": {"Stops", "Stopping leads back to the list within 3 seconds, and nothing plays on anywhere else.", "Stop a film after a minute."},
	"seeks": {"Seeks", "It goes on within 5 seconds after a jump of ten minutes forward and back, with picture and sound together.",
		"Jump forward and back, twice each."},
	"resumes": {"Resumes", "A film that was stopped goes on where it was left, to 30 seconds, also after the device was off.",
		"Stop after five minutes, switch the device off and on, start the same film."},
	"resumes-elsewhere": {"Resumes in another room", "A film that was stopped here goes on in another room where it was left, to 30 seconds.",
		"Stop a film here, start it on another device that reaches the same folder."},
	"sound": {"Sound", "Speech is clear, sound comes from every loudspeaker that should play, and lips fit: sound 40 ms early to 60 ms late (ITU-R BT.1359).",
		"Play the sample clip with the counting voice, then a film."},
	"subtitles": {"Subtitles", "Subtitles can be chosen, are readable from the seat and fit the speech.", "Switch subtitles on in a film that has them."},
	"sample-appears": {"New files appear", "A file that is put into the folder appears on the device: at once, or after the list is opened again. Only after the device was off counts as marginal.",
		"Put the sample clip into the folder and look for it on the device."},
	"hours-kept": {"Restrictions hold", "What is restricted for this device or room is refused in the hours that are set, and let through outside of them.",
		"Set the hours so that they begin now, try, then set them back."},
	"fall-back": {"Fall-back works", "With the path switched off, the household gets to its media by the fall-back.", "Stop the source of this path and use the fall-back."},
	"together":  {"All at once", "All paths of the set play at the same time for five minutes without a stall.", "Start the heaviest film on every device of the set."},
	"after-device-restart": {"Survives the device's restart", "After the device was without power for ten seconds, it plays again without anything being set anew.",
		"Take the device's plug out for ten seconds."},
	"survives-restart": {"Survives the server's restart", "After the server was restarted, and nobody logged in there, the device plays again.", "Restart the server and do not log in."},
	"wakes":            {"Wakes", "With the server asleep, the device wakes it and plays within two minutes.", "Let the server go to sleep, then start a film."},
	"plays": {"Plays", "A film starts within 5 seconds on this screen, and only on this one, and runs three minutes without a stall.",
		"Start any film on the device, then say how it went."},
}

// States holds the word and the meaning of every standing.
var States = map[proving.State]string{
	proving.Proven:   "proven",
	proving.Marginal: "marginal",
	proving.Failed:   "failed",
	proving.Stale:    "stale",
	proving.Excepted: "excepted",
	proving.Untried:  "untried",
}

// Observed holds what an attempt can have seen. Refused, silent and empty are different things.
var Observed = map[string]string{
	"answered":        "answered in {roundTripMs} ms with {folders} folders",
	"found":           "found as \"{name}\" at {location}; servers answering in the segment: {answers}",
	"port-open":       "something takes connections at {address}, after {connectMs} ms; what it shares was not asked",
	"opened":          "opened: {folders}",
	"folder-missing":  "the source does not list the folder {folder}",
	"folder-empty":    "the folder {folder} is listed, but empty",
	"folder-hangs":    "the folder {folder} is listed, but did not open within {seconds} s at {address}",
	"folder-refused":  "the source at {address} refused to open the folder {folder}",
	"endless":         "the list of the folder {folder} does not end",
	"complete":        "all {onDisk} items of {folder} are listed",
	"items-missing":   "{items} of the {onDisk} items of {folder} are listed",
	"items-extra":     "{items} items of {folder} are listed, more than the {onDisk} on the disk",
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
	"isolation": "isolation", "mode": "mode", "model": "model", "firmware": "firmware", "version": "version", "name": "name", "liesOn": "place of the files",
	"itemsOnDisk": "number of items on the disk", "account": "account", "writable": "right to write", "hours": "hours", "setWhere": "place of the setting",
	"fallBack": "fall-back", "starts": "start", "wake": "way of waking", "standby": "sleep", "hardwareAddress": "hardware address",
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
	"share-offered":        {"The share is offered", "Nothing can be opened that is not shared."},
	"share-read-only":      {"The share can only be read", "Whoever may write may delete, also by a slip on the remote."},
	"share-opening":        {"The host lets the share's port in", "SMB comes by TCP port 445, NFS by 2049."},
	"share-entered":        {"The share is entered on the device", "A share is not found by itself; its address and name are typed once."},
	"share-account":        {"The account is entered on the device", "Without it the share is seen and stays shut."},
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
	"records-added":  "Recorded, {area}: {list}",
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
