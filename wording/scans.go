package wording

import (
	"encoding/json"
	"fmt"
	"net/netip"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Ways are the questions that a scan asks, as people say them.
var Ways = map[matching.Way]string{
	matching.BySSDP: "SSDP search", matching.BySSDP6: "SSDP over IPv6", matching.ByICMP6: "IPv6 neighbours and routers (ICMPv6)", matching.ByNotify: "SSDP announcements", matching.ByUPnP: "UPnP description", matching.ByDirectory: "UPnP folders (ContentDirectory)",
	matching.ByConnection: "UPnP formats (ConnectionManager)", matching.ByMDNS: "mDNS services", matching.ByDNS: "DNS names", matching.ByIGD: "gateway by IGD", matching.ByLeases: "DHCP settings by IGD",
	matching.ByNATPMP: "gateway by NAT-PMP", matching.ByPCP: "gateway by PCP", matching.BySweep: "open ports", matching.ByHTTP: "web page",
	matching.BySMB: "SMB shares", matching.ByNFS: "NFS exports", matching.ByRTSP: "RTSP stream", matching.ByStreamList: "stream list", matching.ByGuide: "programme guide", matching.ByNetBIOS: "NetBIOS names", matching.ByWSD: "WS-Discovery search", matching.ByNeighbours: "this machine's neighbour table",
}

// Jobs are the kinds of long task, as people call them.
var Jobs = map[string]string{"run-tests": "running the automatic tests", "keep-searching": "searching for half an hour", "long-play": "playing for an hour", "watch": "watching a source", "nightly": "repeating the tests overnight", "scan": "scanning the network", "read-folder": "reading a folder", "lists": "computing the lists of homes anew"}

// Asked says how a question ended. Silence, refusal and an empty answer are distinguished.
func Asked(q matching.Question, through string) string {
	way := Ways[q.Way]
	if q.Port != 0 {
		way += fmt.Sprintf(" on port %d", q.Port)
	}
	end := map[matching.Ended]string{
		matching.Answered: Count(q.Answers, "answer"), matching.Empty: "answered, but with nothing in the answer", matching.Refused: "refused, because nothing listens there", matching.Denied: "answered, but access was denied",
		matching.Silent: fmt.Sprintf("no answer within %.1f s", q.Seconds) + through, matching.Broken: "the answer does not follow the protocol", matching.Stopped: "stopped before it had finished", matching.NotAsked: "not asked",
	}[q.Ended]
	text := Capital(way) + ": " + end
	if q.Detail != "" {
		text += " (" + q.Detail + ")"
	}
	if q.LeftOut > 0 {
		text += fmt.Sprintf("; %d left out", q.LeftOut)
	}
	return text + "."
}

// matched are the reasons of a match.
var matched = map[matching.What]string{
	matching.SameHardware: "same MAC address {value}", matching.OtherHardware: "different MAC address {value}", matching.SameUDN: "same UPnP identifier {value}", matching.OtherUDN: "different UPnP identifier {value}",
	matching.SameSerial: "same serial number {value}", matching.OtherSerial: "different serial number {value}", matching.SameHostName: "same host name {value}", matching.OtherHostName: "different host name {value}",
	matching.SameShownName: "same announced name {value}", matching.SameAddress: "same address {value}", matching.SameModel: "same model {value}", matching.OtherModel: "different model {value}",
	matching.SameSource: "serves {value} on the same port", matching.SharedIdentity: "another host announces the same UPnP identifier", matching.Replaced: "it may have been replaced by one of the same model, or set up anew: say which",
}

// Browsed says how browsing a source ended.
func Browsed(q matching.Question) string { return Asked(q, "") }

var recognised = map[matching.Recognition]string{matching.OwnView: "It is shown folders of its own.", matching.AsUnknown: "It is shown the same as an unknown device. Check whether the server recognises it.",
	matching.ShutOut: "It is shown nothing, although an unknown device is shown something. It may be kept out."}

// Recognised says how a source seems to treat a device.
func Recognised(r matching.Recognition) string { return recognised[r] }

// MatchReason says one reason for or against a match.
func MatchReason(r matching.Reason) string {
	return Fill(matched[r.What], map[string]string{"value": r.Value})
}

// Beside says how a host compares with the record. Open is the number of its values that could be
// recorded, through says from where and by which adapter its segment was scanned.
func Beside(b matching.Beside, open int, through string) string {
	switch b.Status {
	case matching.AsRecorded:
		return "As recorded."
	case matching.Changed:
		return Count(open, "value") + " to record."
	case matching.Unknown:
		return "Not recorded yet."
	case matching.Unsure:
		return "Choose which device this is."
	}
	if b.Host.Left {
		return "It announced that it was leaving."
	}
	return "No answer" + through + ". It may be switched off, asleep or on another network; silence does not prove that it is gone."
}

// Unasked says that nothing is known of an address, whose device is named if one is recorded there.
func Unasked(at netip.Addr, whose string) string {
	if whose != "" {
		whose += " at "
	}
	return whose + at.String() + " answered shortly before the scan, but not during it. Whether it is there now is not known: scan again in a minute."
}

// SeenValue says a value that was seen or recorded.
func SeenValue(v any, say func(id string) string) string {
	switch v := v.(type) {
	case nil:
		return ""
	case []dossier.DecodingEntry:
		var parts []string
		for _, e := range v {
			row, _ := json.Marshal(e) // of plain values, which cannot fail
			parts = append(parts, FormatRow(row))
		}
		return strings.Join(parts, ", ")
	}
	b, err := json.Marshal(v)
	if err != nil || string(b) == `""` || string(b) == "null" {
		return ""
	}
	return Value(b, say)
}

// mostChanges is how many changes of one host are listed.
const mostChanges = 12

// SinceBefore says what has changed about a host since the previous scan.
func SinceBefore(changes []matching.Change) []string {
	out := []string{}
	for n, c := range changes {
		if n >= mostChanges {
			return append(out, fmt.Sprintf("and %d more", len(changes)-n))
		}
		k := dossier.KindNamed(c.Kind)
		f, _ := k.Field(c.Member)
		of := ""
		if c.Kind != "device" && c.Kind != "interface" {
			of = " of " + k.Noun()
			if c.Label != "" && c.Member != "name" {
				of += " " + c.Label
			}
		}
		out = append(out, fmt.Sprintf("%s%s: %s → %s", f.Title, of, orNothing(SeenValue(c.Was, nil)), orNothing(SeenValue(c.Is, nil))))
	}
	return out
}

// Seems says what is known of a host beside what it says of itself.
func Seems(hardware, maker string, open []int, announces []string) string {
	var parts []string
	if hardware != "" {
		if maker != "" {
			maker = " (" + maker + ")"
		}
		parts = append(parts, "MAC address "+hardware+maker)
	}
	if len(open) > 0 {
		parts = append(parts, "open TCP ports "+strings.Trim(strings.ReplaceAll(fmt.Sprint(open), " ", ", "), "[]"))
	}
	if len(announces) > 0 {
		parts = append(parts, "announces "+strings.Join(announces, "; "))
	}
	if len(parts) == 0 {
		return ""
	}
	return Capital(strings.Join(parts, ". ")) + "."
}
