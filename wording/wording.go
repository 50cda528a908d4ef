// Package wording turns codes and values into sentences for people. It is the one place where
// the product speaks: the API, the commands and the papers all take their words from here.
//
// A sentence is a template in which {name} stands for the value of that name.
package wording

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/proving"
)

var slot = regexp.MustCompile(`\{([A-Za-z]+)\}`)

// Fill puts values into the slots of a template. A slot without a value is left empty.
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
	"address-clash": {"{address} is recorded for more than one device: {devices}. Each will work only intermittently.",
		"Give one of them another address, or correct the record that is wrong."},
	"no-lease": {"{adapter} has {address}, an address that a device gives itself when no DHCP server answers.",
		"Check its cable or Wi-Fi and the DHCP server of its segment, then renew the lease."},
	"address-outside-segment": {"{adapter} has {address}, which is not in {segment} ({prefix}).",
		"Correct the address, or the segment recorded for the adapter."},
	"gateway-outside-segment": {"The gateway of {segment}, {gateway}, is not in {prefix}, so no device there can reach it.",
		"Correct the gateway or the prefix."},
	"segments-overlap": {"{segment} ({prefix}) and {other} ({otherPrefix}) overlap, so a router sends traffic to only one of them.",
		"Give one of them another address range."},
	"listens-elsewhere": {"{source} listens only on {adapter}, but {device} is in {segments}.",
		"Bind the source to {bind}, which is in {there}, or to all adapters."},
	"port-clash": {"{source} and {other} both use port {port} of {device}. Whichever starts second will not be reachable.",
		"Give one of them another port."},
	"ends-disagree": {"The two ends of {path} have different settings: {what}.",
		"Read the setting from the server's own menu and enter the same on the device."},
	"hardware-address-clash": {"The MAC address {address} is recorded for more than one adapter: {adapters}.",
		"Read the address from the label or the device's own menu, and correct the record that is wrong."},
	"address-in-lease-pool": {"{adapter} has the fixed address {address}, which lies in the DHCP pool of {segment} ({first} to {last}). The DHCP server may give the same address to another device.",
		"Reserve the address for this adapter, or set one outside the pool."},
	"same-name": {"{source} and {other} both show the name \"{name}\", so it is easy to choose the wrong one.",
		"Give one of them another name."},
	"writable-share": {"The account that opens {source} can also write and delete files there.",
		"Make the share read-only for the account that the devices use."},
	"titles-missing": {"{inIndex} of the {onDisk} items in {folder} are in the index; {missing} are missing.",
		"Have the server index the folder again. If items are still missing, check their names and formats."},
	"restart-due": {"\"{change}\" on {device} takes effect only after a restart, which has not been done yet.",
		"Restart the device, then tick the restart as done."},
	"starts-at-login-only": {"{software} on {device} starts {starts}. After a power cut it will not run until someone logs in or starts it.",
		"Set it to start with the machine."},
	"pool-outside-segment": {"The DHCP pool of {segment} ({first} to {last}) is not in {prefix}. A device given one of these addresses cannot reach the others.",
		"Correct the pool or the prefix."},
	"reservation-outside-segment": {"In {segment}, {address} is reserved for {for}, but it is not in {prefix}.",
		"Reserve an address within the segment."},
	"two-dhcp-servers": {"More than one device gives out addresses in {segment}: {servers}. {differ}.",
		"Switch off the DHCP server on all of them but one."},
	"pool-nearly-full": {"Recorded devices already take {taken} of the {size} addresses in the DHCP pool of {segment} ({first} to {last}). There may be none left for visitors.",
		"Make the pool larger."},
	"typed-address-not-reserved": {"{adapter} gets {address} by DHCP without a reservation, but the address is typed in for {paths}. It will stop working when the address changes, usually after a power cut.",
		"Reserve the address for this adapter."},
	"bound-to-lease": {"{source} is bound to {adapter}, which gets {address} by DHCP without a reservation. If the address changes, the source will not start.",
		"Reserve the address, or bind the source to all adapters."},
	"hardware-address-randomised": {"{adapter} is set to use a random MAC address. Reservations will not work, and servers will take it for a new device.",
		"Switch the random MAC address off for the home's network."},
	"outer-address-private": {"On the line {line} the router has {address}{seen}, which cannot be reached from outside because {who} translates it. {besides}",
		"For outside viewing, {how}, or use IPv6 or a relay."},
	"carrier-shared-address": {"On the line {line} the router has {address}{seen}, which the carrier shares among its customers. No port can be forwarded to the home. {besides}",
		"For outside viewing, use IPv6 or a relay, or ask the carrier for a public address."},
	"kept-apart": {"{device} cannot reach {server} because {segment} isolates {between}.", "{how}"},
	"on-guest-segment": {"{device} is on {segment}, which is isolated from the rest of the home.",
		"Move it to the home's segment."},
	"several-adapters": {"The machine that runs {source} is in more than one segment ({segments}), and {bound}",
		"Bind the source to the adapter that faces the home, and check it again when the network changes."},
	"snooping-without-querier": {"The switches of {segment} use multicast snooping, but there is no querier. Servers will be found for a few minutes and then disappear.",
		"Switch on a querier, usually in the router, or switch snooping off."},
	"cable-loop": {"The link from {near} to {far} closes a loop. Unless the switches block one of the links, the loop will bring the network down.",
		"Remove the link, or correct the record of where it ends."},
	"outlets-share-port": {"{outlet} and {other} are both recorded as patched to {port}.",
		"Check the patch panel and correct one of the records."},
	"link-below-port": {"{near} and {far} are linked at {rate}, although both can do {could}. This is usually a damaged pair in the cable.",
		"Replace the patch cables, then test the cable between them."},
	"wireless-beside-outlet": {"{device} uses Wi-Fi although outlet {outlet} in the same room gives {could}. {measured}.",
		"{port}"},
	"weak-signal": {"{device} has a signal of {signal}, measured by {with}. Below {limit} the signal is too weak for what the device plays.",
		"Connect it by cable, or move an access point closer."},
	"same-channel-crowded": {"{radio} {why}. Radios on one channel compete for air time.",
		"Choose another channel, or connect some of its devices by cable."},
	"port-blocked": {"The firewall of {server} blocks {transport} port {port}, which {path} needs for {for}. The opening is recorded as {state}.",
		"Open the port in the firewall of {server} for trusted networks."},
	"network-class-untrusted": {"{device} treats the home's network as untrusted and blocks incoming connections.",
		"Set the network to trusted on this device."},
	"account-differs": {"On {path}, {device} is signed in with {account}, but {source} is opened with {other}.",
		"Use the same account at both ends."},
	"service-account-cannot-read": {"{software} runs as {account}, which cannot read {folder}. Accounts that can read it: {may}.",
		"Let that account read the folder, or run the software under one that can."},
	"open-to-outside": {"{source} can be reached from outside on port {port} and does not ask for a password.",
		"Set a password, or close the port."},
	"outside-not-known": {"{source} is to be used from outside on port {port}, but it is not recorded whether it has this: {what}.",
		"Look it up in the settings of the source, and record it."},
	"plain-remote": {"{source} can be reached from outside on port {port} without encryption. Passwords and pictures can be read on the way.",
		"Switch encryption on, or use a relay that encrypts."},
	"remote-service-left-open": {"{transport} port {port} of {device} was opened only for the work and is still open.",
		"Close it before you leave."},
	"share-seats-short": {"{source} allows {seats} users at once, but the busy set {set} needs {paths}.",
		"Raise the limit, or move a path to another source."},
	"licence-seats-short": {"{what} covers {seats} devices, but {machines} use it.",
		"Buy more seats, or sign devices out."},
	"kept-out": {"{server} does not let {device} in, so this cannot work: {path}.",
		"Let the device in, in the server's list of devices."},
	"newcomer-kept-out": {"{source} lets in no device that is new to it, and nothing says that {server} knows {device}.",
		"Add the device to the server's list of devices, then record it."},
	"converting-power-short": {"{source} has to convert pictures for {devices} devices, but has power for {atOnce} of the heaviest at once: each takes {needs}, and it manages {power}. With one more, all of them stall.",
		"Have those titles converted ahead, or give the server more converting power."},
	"no-folders-left": {"All folders that the path {path} named have been removed, so it reaches none.",
		"Name its folders again, or state that it reaches all folders of its source."},
	"outlet-failed": {"{outlet} failed its test, but {device} is connected through it.",
		"Repair the outlet or use another one, then test it again."},
	"setting-differs": {"{setting} of {at} is set to {value}, but must be {must}.",
		"Set it to {must}, or change what it must be."},
	"unknown-kind": {"{server} recognises {device} only as an unknown type and sends it what any device can play.",
		"Choose its type in the server's list of devices."},
	"never-indexed": {"{folder} has {onDisk} items on the disk but has never been indexed.",
		"Have the server index the folder. If that takes longer than the visit, record a long task."},
	"mixed-folder": {"{folder} is recorded as a {kind} folder but also holds {others}, which the server will take for something else.",
		"Move them to a folder of their own."},
	"rate-capped": {"{at} is limited to {limit}, but {path} needs {needed} for the heaviest files in {folder}.",
		"Raise the limit or remove it."},
	"wake-impossible": {"{server} goes to sleep and {device} cannot wake it: {why}.",
		"Keep {server} awake during viewing hours, or connect it by cable and wake it from its own segment."},
	"marks-kept-apart": {"The customer wants to resume in another room, but the paths keep their resume points in different places: {places}.",
		"Have all of these paths keep their resume points on the same server."},
	"power-supply-weak": {"{device} needs up to {needs}, but its power supply delivers only {gives}. It may fail under load.",
		"Fit a power supply with the right rating."},
	"settings-copy-missing": {"There is no copy of the settings of {software} on {device}.",
		"Take a copy and record where it is kept."},
	"clock-wrong": {"The clock of {device} is {off} {way}. The guide, recordings and restricted hours will be wrong by as much.",
		"Set the device to take its time from the network."},
	"behind": {"{what} is at version {installed}; {how}, {source}.",
		"Check what the newer version changes, then update it or note why not."},
	"decoding-contradicts": {"Whether {device} decodes {format} is in doubt: one line says yes ({yes}), another no ({no}).",
		"Play the sample of that format on the device, and record what it does."},
	"unmaintained": {"{what} is no longer maintained and will get no more fixes, {source}.",
		"Agree with the customer on a replacement."},
	"ends-soon": {"The {term} of {software} on {device} {ends} on {on}.",
		"Agree with the customer on what to do next."},
	"different-segments": {"{device} is in {deviceSegments}, but {server} is in {serverSegments}. Multicast does not pass between them, so the device cannot find the server.",
		"{how}"},
}

func fill(s Said, values map[string]string) Said {
	return Said{Fill(s.Sentence, values), Fill(s.Remedy, values)}
}

// TestWords are the words of a kind of test: its title, what is expected, and, for a person in
// front of the screen, what to do. The slots {item} and {an} stand for what the device plays, such as
// "film" and "A film"; {sync} is said only of what has a picture.
type TestWords struct{ Title, Expected, Do string }

// Tests holds the words of every kind of test.
var Tests = map[string]TestWords{
	"reach": {"Source answers", "The source answers on the network at its recorded address and port, and lists its folders.",
		"Have Kaiku ask the source from a machine on the home's network."},
	"found": {"Server is found", "A search in the device's segment finds the server under its recorded name.",
		"Have Kaiku search from a machine in the device's segment."},
	"told-apart": {"Right server is clear", "No other server in the device's segment shows the same name, so that the household picks the right one from the list.",
		"Have Kaiku search from a machine in the device's segment and compare the names."},
	"stays-found": {"Server stays found", "Searches over half an hour find the server every time.",
		"Have Kaiku go on searching for half an hour from a machine in the device's segment."},
	"guide":        {"Programme guide", "The guide reaches at least 24 hours ahead for the channels of the list.", "Have Kaiku read the guide."},
	"feed":         {"Feed is read", "The feed can be read, and its newest entry can be fetched.", "Have Kaiku read the feed."},
	"live-channel": {"A channel sends", "A channel of the list begins to send within 5 seconds, and what it sends can be read.", "Have Kaiku fetch a channel of the list for a few seconds."},
	"watched-mark": {"Watched is marked", "{An} that was played to its end is marked as watched, and the next one is offered.", "Play one of the sample clips to its end and look at its mark in the list."},
	"lip-sync": {"Lips match", "Sound comes between 40 ms before and 60 ms after the picture (ITU-R BT.1359), also through the receiver or sound bar.",
		"Play the sample clip with flash and beep and film it with the phone, or judge it by eye."},
	"picture-fits": {"Picture fits", "The whole frame of the sample clip can be seen on all four sides, circles are round, and nothing is cut off.",
		"Play the sample clip with the frame and look at all four sides."},
	"top-quality": {"Highest quality", "{An} of the largest picture and the highest rate in the folder plays for three minutes without a stall, and the screen shows it in full size.",
		"Start the heaviest {item} of the folder and let the screen show its resolution."},
	"converts": {"Conversion works", "{An} that the device cannot play as it is starts within 10 seconds and plays for three minutes without a stall while the server converts it.",
		"Start {a} that has to be converted for this device."},
	"converted-ahead":    {"Converted copy plays", "The converted copy plays as it is, and its title is not listed twice.", "Start {a} that was converted ahead of time, and look for its title in the list."},
	"search":             {"Search finds", "The device's own search finds {a} by a part of its title.", "Search on the device for a title that is there."},
	"gapless":            {"No gaps", "Two tracks of one album that run into each other play without an audible gap.", "Play the last seconds of a track whose next one follows without a pause."},
	"recording":          {"Recording", "A programme that is recorded for five minutes appears in the list and plays from its beginning.", "Record a programme for five minutes, then play it."},
	"removed-disappears": {"Removed files disappear", "A file that was taken out of the folder disappears from the device's list at once or after the list is reopened.", "Take the sample clip out of the folder again and look at the list of the device."},
	"blocked":            {"Blocked stays blocked", "What is not meant for this device or room cannot be seen or opened there, whatever the hour, and still not after the device was switched off.", "Try on the device to open what is kept from it, then switch the device off and on and try again."},
	"survives-power-cut": {"Survives a power cut", "After all machines were without power for a minute, everything works again by itself within ten minutes, and every address is as it was.",
		"Switch off the mains for router, server and devices for a minute, and touch nothing afterwards."},
	"long-play": {"Plays for an hour", "{An} plays for an hour without a stall, and the screen does not switch itself off.", "Leave {a} playing while other work is done."},
	"opens": {"Folders open", "Every folder of the path opens at the source and contains something.",
		"Open each folder of the path on the device."},
	"complete": {"Nothing is missing", "The source shows as many items in the folder as were counted on the disk.",
		"Compare the number of items that the source shows with the number on the disk."},
	"write-refused": {"Cannot be written to", "The share refuses to write, move and delete files with the account that the device uses.",
		"Try to copy a file to the share, to rename one of the sample clips and to delete a copy of one."},
	"stops": {"Stops", "Stopping returns to the list within 3 seconds, and nothing keeps playing anywhere else.", "Stop {a} after a minute."},
	"seeks": {"Seeks", "After a jump of ten minutes forward and back, playback continues within 5 seconds{sync}.",
		"Jump forward and back, twice each."},
	"resumes": {"Resumes", "{An} that was stopped continues from where it was left, to within 30 seconds, even after the device was switched off.",
		"Stop {a} after five minutes, switch the device off and on, and start the same {item} again."},
	"resumes-elsewhere": {"Resumes in another room", "{An} that was stopped here continues in another room from where it was left, to within 30 seconds.",
		"Stop {a} here, then start it on another device that reaches the same folder."},
	"sound": {"Sound", "Speech is clear, and every loudspeaker that should play does.",
		"Play the sample clip with the counting voice, then {a}."},
	"subtitles": {"Subtitles", "Subtitles can be switched on, can be read from the seats and match the speech.", "Switch subtitles on in {a} that has them."},
	"sample-appears": {"New files appear", "A file put into the folder appears on the device at once or after the list is reopened. If it appears only after the device was off, the result is marginal.",
		"Put the sample clip into the folder and look for it on the device."},
	"hours-kept": {"Restrictions hold", "What is restricted for this device or room is refused during the restricted hours and allowed at other times.",
		"Set the hours to start now, try it, then set them back."},
	"fall-back": {"Fall-back works", "With the path switched off, the household can still reach its media by the fall-back.", "Stop the source of this path and use the fall-back."},
	"busy-set":  {"All at once", "All paths of the busy set play at the same time for five minutes without a stall.", "Start the heaviest {item} on every device of the busy set."},
	"after-device-restart": {"Survives a device restart", "After ten seconds without power, the device plays again with no settings entered again.",
		"Unplug the device for ten seconds."},
	"survives-restart": {"Survives a server restart", "After the server has restarted with no one logged in, the device plays again.", "Restart the server and do not log in."},
	"outside": {"Works from outside", "Outside the home, {a} starts within 10 seconds on a carried device, after a password was asked for.",
		"Switch the device to the mobile network and start {a}."},
	"wakes": {"Wakes the server", "With the server asleep, the device wakes it and plays within two minutes.", "Let the server go to sleep, then start {a}."},
	"plays": {"Plays", "{An} starts within 5 seconds on this device, and only on this one, and plays for three minutes without a stall.",
		"Start {a} on the device, then say how it went."},
}

// played are the words for one item of each kind of content, the one that a test is said with first.
var played = []struct {
	content dossier.ContentKind
	a, item string
	picture bool
}{
	{dossier.Film, "a film", "film", true}, {dossier.Series, "an episode", "episode", true}, {dossier.HomeVideo, "a home video", "home video", true},
	{dossier.LiveTV, "a channel", "channel", true}, {dossier.Music, "a track", "track", false}, {dossier.Audiobook, "an audiobook", "audiobook", false},
	{dossier.Radio, "a station", "station", false}, {dossier.Photo, "a photo", "photo", false},
}

// Test returns the words of a kind of test on a path that carries these kinds of content; none
// means that they are not known.
func Test(kind string, contents []dossier.ContentKind) TestWords {
	values := map[string]string{"a": "something", "item": "item", "sync": ""}
	for _, p := range played {
		if slices.Contains(contents, p.content) {
			values["a"], values["item"] = p.a, p.item
			if p.picture {
				values["sync"] = ", with picture and sound in step"
			}
			break
		}
	}
	values["An"] = Capital(values["a"])
	w := Tests[kind]
	return TestWords{w.Title, Fill(w.Expected, values), Fill(w.Do, values)}
}

// States holds the word for every status of a test.
var States = map[proving.Status]string{
	proving.Proven:   "proven",
	proving.Marginal: "marginal",
	proving.Failed:   "failed",
	proving.Stale:    "stale",
	proving.InDoubt:  "in doubt",
	proving.Waived:   "waived",
	proving.Untried:  "untried",
}

// Observed holds what an attempt can have seen. Refused, silent and empty are different things.
var Observed = map[dossier.Observed]string{
	"answered":                "answered in {roundTripMs} ms with {folders} folders",
	"found":                   "found as \"{name}\" at {location}; servers answering in the segment: {answers}",
	"port-open":               "a connection to {address} was accepted after {connectMs} ms; what it shares was not checked",
	"opened":                  "opened: {folders}",
	"folder-missing":          "the source does not list the folder {folder}",
	"folder-empty":            "the folder {folder} is listed but empty",
	"folder-hangs":            "the folder {folder} at {address} is listed but did not open within {seconds} s",
	"folder-refused":          "the source at {address} refused to open the folder {folder}",
	"endless":                 "the list of the folder {folder} does not end",
	"complete":                "all {onDisk} items in {folder} are listed",
	"items-missing":           "{items} of the {onDisk} items in {folder} are listed",
	"count-unsure":            "{items} items in {folder} were listed, as many as on the disk, but the server itself reports another number",
	"items-extra":             "{items} items in {folder} are listed, more than the {onDisk} on the disk",
	"refused":                 "the connection to {address} was refused",
	"time-out":                "no answer from {address} within {seconds} s",
	"hung-up":                 "{address} took the connection and closed it without an answer",
	"stutters":                "\"{title}\" moved only {moved} s in {watched} s",
	"unreachable":             "there is no route from here to {address}",
	"not-described":           "{address} answers but does not describe itself as a media server",
	"leads-elsewhere":         "the source at {address} redirects to {location}, which Kaiku is not allowed to contact",
	"no-folders":              "the source answers but lists no folders",
	"wrong-content":           "the source at {address} answers but calls itself \"{name}\"",
	"silence":                 "no answer to the search on {interfaces} within {seconds} s",
	"others-only":             "{answers} other servers answered ({names}), but not this one",
	"old-address":             "the server still announces {location} instead of its recorded address",
	"not-in-segment":          "this machine is in none of the segments of {device}, so it cannot search there",
	"no-address":              "no address is recorded for the source, so it could not be asked",
	"not-allowed":             "{address} is outside the networks that Kaiku may contact",
	"machine-busy":            "nothing came, but this machine was busy with other things for {percent} % of the time and may have missed it",
	"names-differ":            "shows itself as \"{name}\", and no other server does ({names})",
	"same-name":               "another server at {location} shows the name \"{name}\" too",
	"announced-only":          "answers the search from {location}, but cannot be read there",
	"stayed-found":            "found in all {searches} searches over {minutes} minutes",
	"found-at-times":          "found in only {found} of {searches} searches over {minutes} minutes; first missing after {missing} minutes",
	"share-opened":            "opened: {folders}",
	"share-refused":           "the file server at {address} refused: {detail}",
	"channels":                "{channels} channels in the list at {address}",
	"no-channels":             "the list at {address} is empty",
	"no-list":                 "what {address} answers is not a list of streams",
	"described":               "the stream at {address} is described: {detail}",
	"answered-no":             "{address} answered \"{detail}\"",
	"sends":                   "{channel} began after {seconds} s and sent {sent}",
	"some-send":               "{sends} of {tried} channels sent; nothing usable came from {dead}",
	"sends-late":              "{channel} began only after {seconds} s",
	"sends-nothing":           "{channel} sent nothing within {seconds} s",
	"not-media":               "what {channel} sends is not a transport stream",
	"guide-ahead":             "the guide reaches {hours} hours ahead for {channels} channels",
	"guide-short":             "the guide reaches only {hours} hours ahead for {channel}",
	"no-guide":                "what {address} answers is not a programme guide",
	"feed-read":               "{entries} entries, the newest \"{title}\"",
	"feed-empty":              "the feed at {address} has no entries",
	"no-feed":                 "what {address} answers is not a feed",
	"writing-refused":         "creating a file and a directory was refused in {folders}",
	"could-write":             "in {folder} {what} succeeded{left}",
	"played":                  "\"{title}\" started after {seconds} s and played for {watched} s without a stall",
	"played-late":             "\"{title}\" started only after {seconds} s",
	"stalled":                 "\"{title}\" stood still {stalls} times in {watched} s, {still} s in all",
	"stopped":                 "stopped after {seconds} s",
	"plays-on":                "was still {state} {seconds} s after it was told to stop",
	"jumped":                  "jumped to {to} and went on within {seconds} s",
	"kept-out":                "asked as \"{name}\", the server does not show {folders}, which it shows to others",
	"kept-at-hours":           "asked as \"{name}\", the server shows {folders} outside the restricted hours and does not within them",
	"shown-though-restricted": "asked as \"{name}\", the server shows {folder}, which is restricted now",
	"kept-though-free":        "asked as \"{name}\", the server does not show {folder}, which is not restricted now",
	"nothing-restricted":      "no folder of the path is restricted",
	"shown-to-nobody":         "the server shows {folder} to nobody, so that nothing is seen of the restriction",
	"not-told-apart":          "asked as \"{name}\", the server shows {folder}, but it shows the same to others: it may know its devices by their address",
	"kept-now":                "asked as \"{name}\", the server does not show {folders}, as it should be now; outside the restricted hours it has to be asked again",
	"let-in-now":              "asked as \"{name}\", the server shows {folders}, as it should be now; within the restricted hours it has to be asked again",
	"all-played":              "{names} played at the same time for {watched} s without a stall",
	"some-stalled":            "of {of} paths that played at the same time, {stalled} stood still within {watched} s",
	"gap":                     "\"{title}\" began {seconds} s after the track before it had ended",
	"next-missing":            "\"{title}\" did not follow within {seconds} s after the track before it had ended",
	"no-next":                 "the device takes no next track ahead of time, so that its pauses have to be heard",
	"no-two-tracks":           "no two tracks that follow each other and that the device says it can play were found, with their lengths",
	"no-gap-seen":             "no gap of two seconds or more came before \"{title}\"; shorter ones have to be heard",
	"outside-refused":         "called from outside, {address} refuses the connection",
	"outside-silent":          "called from outside, {address} does not answer within {seconds} s",
	"outside-asks":            "called from outside, {address} answers and asks for a password; whether it plays there has to be seen on a carried device",
	"outside-answers":         "called from outside, {address} answers ({status}) and asks for no password at its first page; whether it asks for one later, and plays, has to be seen on a carried device",
	"no-responder":            "no responder of the firm was named that could call the home from outside",
	"responder-failed":        "the firm's responder could not be asked: {detail}",
	"no-stall-seen":           "\"{title}\" played for {watched} s without a stall; whether the screen stays on has to be seen",
	"nothing-converted":       "the device says it can play everything that was found as it is, or in no form that the server makes for it",
	"jump-missed":             "was told to jump to {to} and stands at {at}",
	"renderer-refused":        "the device refused: {detail}",
	"position-lies":           "the device says that it plays, but its position moved {moved} s in {watched} s",
	"position-not-told":       "the device does not tell its position, so a machine cannot see whether it plays",
	"no-renderer":             "nothing in the segments of {device} answers as a renderer at its address",
	"in-use":                  "the device is playing something, which was not disturbed",
	"still-pictures":          "only still pictures lie there, and whether one is shown can only be seen in front of the screen",
	"nothing-to-play":         "no item was found that the device says it can play",
	"no-login":                "the share is opened with an account, and no password was given to this test",
	"no-place":                "where the files lie on the share is not recorded",
	"plays":                   "played",
	"starts-late":             "started late or stalled once",
	"does-not-start":          "did not start",
	"stalls":                  "stalled",
	"not-listed":              "not in the device's list",
}

// Result says what a machine observed.
func Result(r proving.Result) string { return Fill(Observed[r.Observed], r.Said) }

func orNothing(s string) string {
	if s == "" {
		return "not recorded"
	}
	return s
}

// Prerequisites holds what must be true, and why.
var Prerequisites = map[string]Said{
	"server-software-runs": {"Server software is running", "While it is stopped, nothing can be listed."},
	"starts-with-machine":  {"Server software starts with the machine", "Software that starts only at log-in is not running after a power cut."},
	"folders-added":        {"Media folders have been added to the server", "Without folders the server is found but shows nothing."},
	"server-opening":       {"Firewall on the server lets in the search and the media port", "The search uses UDP port 1900; the device fetches media from the source's TCP port."},
	"share-created":        {"Share has been created", "Only folders that are shared can be opened."},
	"share-read-only":      {"Share is read-only", "An account that can write can also delete, even by pressing the wrong key on the remote."},
	"share-opening":        {"Firewall on the server lets in the share's port", "SMB uses TCP port 445, NFS port 2049."},
	"share-entered":        {"Share has been entered on the device", "A device does not find shares by itself; address and name are entered once."},
	"share-account":        {"Account has been entered on the device", "Without it the share is listed but cannot be opened."},
	"address-reserved":     {"Server address is fixed or reserved", "A changing address is the most common reason why something worked only until the power cut."},
	"multicast-passes":     {"Multicast passes within the segment", "The device finds the server by multicast."},
	"device-on-network":    {"Device is on the home's network", "A device on the guest network cannot see the home's devices."},
	"aerial-connected":     {"Aerial or cable is connected to the tuner", "Without it the tuner finds no channels."},
	"channels-found":       {"Channels have been found and sorted", "The tuner lists only what it found in its own search."},
	"stream-started":       {"Stream has been started", "A stream does not start by itself, and ends with a restart."},
	"stream-opening":       {"Firewall on the server lets in the stream's port", "The device fetches the stream from the source's TCP port."},
	"stream-entered":       {"Stream has been entered on the device", "A device does not find a stream by itself; its address is entered once."},
	"list-entered":         {"List of streams has been entered on the device", "The list is lost when the device is replaced."},
	"feed-entered":         {"Feed has been entered on the device", "A device does not find a feed by itself; its address is entered once."},
	"copy-made":            {"Files have been copied to the device", "The copy stays as it is when the originals change."},
	"device-let-in":        {"Server lets the device in", "A server can let a device in only once it has seen it on the network; some keep new ones out until somebody allows them."},
	"consent-given":        {"Device accepts what is sent to it", "Many screens ask once whether they may be controlled from elsewhere."},
	"player-installed":     {"Player application is installed on the device", "Without the server's own player the device cannot open it."},
	"signed-in":            {"Device is signed in at the server", "The server shows nothing before somebody has signed in."},
	"server-chosen":        {"Right server has been chosen on the device", "Several servers may be listed, and they look alike."},
}

// Points holds the words of what a handover tells.
var Points = map[string]string{
	"issue-open":        "Issue {state}: {symptom}.{nextStep}{waitingOn}{promise}{promisedUntil}",
	"issue-closed":      "Issue closed: {symptom}.{sameAs}{cause}{remedy}{proof}{closedWhy}",
	"wish-not-served":   "{said}.",
	"test-proven-again": "Proven again on {path}: {test}",
	"test-in-doubt":     "In doubt on {path}, because something speaks against the proof: {test}",
	"finding-gone":      "No longer found: {said}",
	"hands-off":         "Do not touch {device}: {why}.",
	"credentials":       "{kept}{missing}",
	"bring":             "To bring or have ready: {items}",
	"test-proven":       "Proven since the last handover on {path}: {test}",
	"test-waived":       "Waived by a lead technician on {path}: {test}",
	"test-marginal":     "Marginal on {path}: {test}",
	"test-failed":       "Failed on {path}: {test}",
	"test-stale":        "Needs repeating on {path}, because something it depends on has changed: {test}",
	"test-untried":      "Not tried yet on {path}: {test}",
	"finding":           "{said}",
	"record-added":      "Added {kind}: {label}",
	"records-added":     "Added under {area}: {list}",
	"record-changed":    "Changed {kind} {label}: {members}",
	"record-removed":    "Removed {kind}: {label}",
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
	values["kind"] = Noun(values["kind"])
	switch p.Code {
	case "issue-open":
		values["state"], values["symptom"] = Plain(values["state"]), bare(values["symptom"])
		values["nextStep"] = sentence("Next step", cmp.Or(values["nextStep"], "none recorded"))
		values["waitingOn"] = sentence("Waiting for", values["waitingOn"])
		values["promise"] = sentence("Promised", values["promise"])
		if t, err := time.Parse(time.RFC3339, values["promisedUntil"]); err == nil {
			values["promisedUntil"] = sentence("Promised by", t.Format("2 Jan 2006"))
		}
	case "issue-closed":
		values["symptom"] = bare(values["symptom"])
		values["cause"], values["remedy"], values["closedWhy"], values["sameAs"] = sentence("Cause", values["cause"]), sentence("Remedy", values["remedy"]), sentence("Reason", values["closedWhy"]), sentence("It is one more symptom of", values["sameAs"])
		values["proof"] = sentence("Proven by", values["test"])
	case "wish-not-served":
		values["said"] = NotServed(values["wish"], Where(values["room"], values["device"]))
	case "bring":
		var items []string
		for code := range strings.SplitSeq(values["items"], ", ") {
			items = append(items, cmp.Or(Supplies[code], code))
		}
		values["items"] = strings.Join(items, ", ")
	case "hands-off":
		values["why"] = bare(values["why"])
	case "credentials":
		if values["kept"] != "" {
			values["kept"] = "Kept as secrets: " + values["kept"] + "."
		}
		if values["missing"] != "" {
			values["missing"] = sentence("Accounts without a secret", values["missing"])
		}
		values["missing"] = strings.TrimPrefix(values["missing"], map[bool]string{true: " "}[values["kept"] == ""])
	case "finding-gone":
		values["said"] = fill(Findings[values["finding"]], valueTexts(p.Found)).Sentence
	case "finding":
		said := fill(Findings[values["finding"]], valueTexts(p.Found))
		values["said"] = said.Sentence + " " + said.Remedy
	}
	return Fill(Points[p.Code], values)
}

// Noun says what people call one record of a kind.
func Noun(kind string) string {
	if k := dossier.KindNamed(kind); k != nil {
		return k.Noun()
	}
	return Plain(kind)
}

// sentence says a text under its heading, after a blank and with one full stop; nothing if there is no text.
func sentence(heading, text string) string {
	if text == "" {
		return ""
	}
	return " " + heading + ": " + bare(text) + "."
}

// bare takes the full stop off the end of a text, so that a sentence around it has only one.
func bare(text string) string { return strings.TrimRight(strings.TrimSpace(text), ". ") }

// Gates holds the words of what stops a handover from being offered.
var Gates = map[string]Said{
	"follow-up-open":          {"The change \"{label}\" still has follow-ups to do, and there is no note about them.", "Do the follow-ups, or note who will do them and when."},
	"issue-without-next-step": {"The issue \"{label}\" is in hand but has no next step.", "Enter the next step, so that the receiver knows how to continue."},
}

// Gate says what stops a handover from being offered.
func Gate(g custody.Gate) Said { return fill(Gates[g.Code], map[string]string{"label": g.Label}) }

// Todos holds what Today says about what is to do.
var Todos = map[string]string{
	"handover-to-me":     "Handover from {from}, waiting for you to read it back",
	"handover-returned":  "{to} returned your handover: {why}",
	"handover-outdated":  "Your handover to {to} is outdated: the home has changed since it was offered",
	"night-found":        "Found last night: \"{test}\" is {is}, and was {was} before: {said}",
	"night-failed":       "{said}",
	"issue-promised":     "Promised by {when} and still not closed: {symptom}",
	"visit-mine":         "Visit on {when}: {purpose}",
	"long-task-over":     "Check {what}, expected to have finished on {when}",
	"long-task-mine":     "Running until about {when}: {what}",
	"due-over":           "Was due on {on}: {what}",
	"due-soon":           "Due on {on}: {what}",
	"waiver-review":      "Waiver due for review since {on}: {test}",
	"follow-ups-open":    "{n} with follow-ups still to do",
	"issue-mine":         "Issue {state}: {symptom}",
	"issue-unowned":      "Issue without an owner: {symptom}",
	"tests-failed":       "{n} still failing",
	"wish-not-served":    "{said}",
	"tests-in-doubt":     "{n} in doubt",
	"tests-stale":        "{n} to repeat",
	"tests-untried":      "{n} not tried yet",
	"blockers":           "{n} found by automatic checks",
	"handover-unwatched": "Handover from {from} to {to}, offered but not accepted",
}

// Count says a number with its word.
func Count(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// Wait says how long to wait, rounded up.
func Wait(d time.Duration) string {
	if d <= time.Minute {
		return Count(int(math.Ceil(d.Seconds())), "second")
	}
	return Count(int(math.Ceil(d.Minutes())), "minute")
}

// Agree says a number with what follows it in the singular or the plural.
func Agree(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Plain says a code as words: in-hand is "in hand".
func Plain(code string) string { return strings.ReplaceAll(code, "-", " ") }

// Or says a choice of codes: open, in hand or waiting.
func Or(codes []string) string {
	words := make([]string, len(codes))
	for n, c := range codes {
		words[n] = Plain(c)
	}
	return listed(words, "or")
}

// And lists names of which all are meant: a, b and c.
func And(names []string) string { return listed(names, "and") }

func listed(words []string, last string) string {
	out := ""
	for n, w := range words {
		switch {
		case n > 0 && n == len(words)-1:
			out += " " + last + " "
		case n > 0:
			out += ", "
		}
		out += w
	}
	return out
}
