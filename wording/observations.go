package wording

import (
	"encoding/json"
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Ways are the protocols by which a home is looked at, as people say them.
var Ways = map[matching.Way]string{
	matching.BySSDP: "searched by SSDP", matching.ByNotify: "listened for SSDP announcements", matching.ByUPnP: "read its UPnP description", matching.ByDirectory: "looked into its folders",
	matching.ByConnection: "asked what it can decode", matching.ByMDNS: "asked for services by mDNS", matching.ByDNS: "asked the name server", matching.ByIGD: "asked the gateway by IGD", matching.ByLeases: "asked what it gives out as lease server",
	matching.ByNATPMP: "asked the gateway by NAT-PMP", matching.ByPCP: "asked the gateway by PCP", matching.BySweep: "tried the ports", matching.ByHTTP: "asked its web server",
	matching.BySMB: "asked for shares (SMB)", matching.ByNFS: "asked for exports (NFS)", matching.ByRTSP: "asked for its stream (RTSP)", matching.ByStreamList: "read its stream list", matching.ByGuide: "read the guide of its list", matching.ByNeighbours: "read the neighbour table",
}

// Jobs are the kinds of long work, as one says who has it under way.
var Jobs = map[string]string{"run-tests": "the machine's tests", "gather": "a look at the network"}

// Asked says how a question ended. Silence, refusal and an empty answer are told apart.
func Asked(q matching.Question, through string) string {
	way := Ways[q.Way]
	if q.Port != 0 {
		way += fmt.Sprintf(" at port %d", q.Port)
	}
	end := map[matching.Ended]string{
		matching.Answered: Count(q.Answers, "answer"), matching.Empty: "answered, with nothing in it", matching.Refused: "refused: nothing listens there", matching.Denied: "it answers, and does not let us in",
		matching.Silent: fmt.Sprintf("no answer in %.1f s", q.Seconds) + through, matching.Broken: "what came is not what the protocol says", matching.Stopped: "stopped before its end", matching.NotAsked: "not asked",
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
	matching.SameHardware: "same hardware address {value}", matching.OtherHardware: "another hardware address {value}", matching.SameUDN: "same unique name {value}", matching.OtherUDN: "another unique name {value}",
	matching.SameSerial: "same serial number {value}", matching.OtherSerial: "another serial number {value}", matching.SameHostName: "same host name {value}", matching.OtherHostName: "another host name {value}",
	matching.SameShownName: "same shown name {value}", matching.SameAddress: "same address {value}", matching.SameModel: "same model {value}", matching.OtherModel: "another model {value}",
	matching.SameSource: "serves {value} at the same port", matching.SharedIdentity: "another host shows the same unique name",
}

// Looked says how a look into a source ended.
func Looked(q matching.Question) string { return Asked(q, "") }

var recognised = map[matching.Recognition]string{matching.OwnOffer: "It is shown an offer of its own.", matching.AsUnknown: "It is shown the same as a device that nobody knows: look whether the server recognises it.",
	matching.ShutOut: "It is shown nothing, though a device that nobody knows is shown something: it may be blocked."}

// Recognised says how a source seems to take a device.
func Recognised(r matching.Recognition) string { return recognised[r] }

// MatchReason says one reason for or against a match.
func MatchReason(r matching.Reason) string {
	return Fill(matched[r.What], map[string]string{"value": r.Value})
}

// Beside says where a host stands to the record. Open is how many of its values are to be taken
// over, looked from where and by what was looked.
func Beside(b matching.Beside, open int, looked string) string {
	switch b.Standing {
	case matching.AsRecorded:
		return "As recorded."
	case matching.Changed:
		return Count(open, "value") + " to take over."
	case matching.Unknown:
		return "Not recorded yet."
	case matching.Unsure:
		return "Say which device this is."
	}
	if b.Host.Left {
		return "It said goodbye."
	}
	return "No answer" + looked + ". That does not say that it is gone: it may be off, asleep, or apart."
}

// SeenValue says a value that was seen or recorded.
func SeenValue(v any, say func(id string) string) string {
	switch v := v.(type) {
	case nil:
		return ""
	case []dossier.DecodingEntry:
		var parts []string
		for _, e := range v {
			not := ""
			if e.Able == dossier.No {
				not = "not "
			}
			parts = append(parts, fmt.Sprintf("%s%s (%s)", not, e.Format, Plain(string(e.Evidence))))
		}
		return strings.Join(parts, ", ")
	}
	b, err := json.Marshal(v)
	if err != nil || string(b) == `""` || string(b) == "null" {
		return ""
	}
	return Value(b, say)
}

// mostChanges is how many changes of one host are told.
const mostChanges = 12

// SinceBefore says what changed of a host since the look before.
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
