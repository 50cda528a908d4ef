package wording

import (
	"fmt"
	"math"
	"strings"
	"unicode"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Fact says one fact that changed after a proof. Kind is that of the record it is a member of.
func Fact(label, kind, name, from, to string) string {
	if name == "" {
		return Noun(kind) + " " + label + " no longer plays a part"
	}
	of := factName(kind, name) + " of " + label
	switch {
	case to == "":
		return of + " was " + valueWords(from) + " and is no longer recorded"
	case from == "":
		return of + " was not recorded and is now " + valueWords(to)
	}
	return of + " changed from " + valueWords(from) + " to " + valueWords(to)
}

// factNames are the names of facts that are not the title of their member, or read better so.
var factNames = map[string]string{
	"signal": "signal strength", "liesOn": "location of the files", "itemsOnDisk": "number of items on the disk", "itemsInIndex": "number of items in the index", "addresses": "address",
	"foundBy": "way of finding the server", "starts": "start-up", "converts": "conversion", "noFolders": "list of folders", "marks": "place of the resume points",
	"interface": "adapter", "serverEnd": "address set on the server", "deviceEnd": "address entered on the device", "sealedAt": "time of the last change", "name": "name", "from": "start", "until": "end",
}

func factName(kind, name string) string {
	if word := factNames[name]; word != "" {
		return word
	}
	if k := dossier.KindNamed(kind); k != nil {
		if f, ok := k.Field(name); ok {
			return small(f.Title)
		}
	}
	return name
}

// small begins with a small letter, but leaves names written in capitals as they are.
func small(s string) string {
	r := []rune(s)
	if len(r) > 1 && unicode.IsUpper(r[1]) || strings.HasPrefix(s, "Wi-Fi") {
		return s
	}
	r[0] = unicode.ToLower(r[0])
	return string(r)
}

// valueWords says the codes among values as words.
func valueWords(v string) string {
	if v == "yes" || v == "no" || strings.ContainsAny(v, "0123456789./:") {
		return v
	}
	return Plain(v)
}

// Doubts holds what speaks against a proof.
var Doubts = map[proving.DoubtCode]string{
	proving.DoubtFinding:  "{said}",
	proving.DoubtSeen:     "A scan saw {seen} as the {member} of {about}, but {recorded} is recorded.",
	proving.DoubtFollowUp: "The change \"{change}\" still needs this: {followUps}.",
	proving.DoubtReset:    "There was a reset to defaults (\"{change}\"), and the settings have not been confirmed since.",
	proving.DoubtChange:   "A change was made since: \"{change}\". Its effect on what was proven is not recorded.",
	proving.DoubtIssue:    "An issue has been opened since: {symptom}.",
	proving.DoubtEarlier:  "The test \"{test}\", which must pass before this one, has failed since.",
}

// Doubt says what speaks against a proof; kind is that of the record it comes from.
func Doubt(code proving.DoubtCode, kind string, values map[string]string) string {
	values["member"] = factName(kind, values["member"])
	values["followUps"] = Plain(values["followUps"])
	values["symptom"], values["change"] = bare(values["symptom"]), bare(values["change"])
	if t := Tests[values["test"]]; t.Title != "" {
		values["test"] = t.Title
	}
	return Fill(Doubts[code], values)
}

// Acts says what is done to prove tests; {at} is where.
var Acts = map[string]string{
	"ask-source":       "Have Kaiku run its own tests of {at}",
	"keep-searching":   "Have Kaiku go on searching for {at} for half an hour",
	"record-programme": "Record a programme on the path {at} and play it",
	"cut-power":        "Take the power from all machines of {at} for a minute",
	"leave-playing":    "Leave something playing for an hour on the path {at}",
	"play-round":       "Play something from the path {at} and check everything on the screen",
	"try-writing":      "Try to write to the share of the path {at}",
	"go-on-elsewhere":  "Stop something of {at} in one room, continue in the next, and so on through all rooms",
	"try-hours":        "Try the restricted hours on {at}",
	"use-fall-back":    "Use the fall-back of the path {at}",
	"copy-sample":      "Copy the sample clip to {at} and look for it on the devices",
	"restart-device":   "Unplug {at} for ten seconds and play again",
	"wake-server":      "Let {at} go to sleep and wake it from the devices",
	"restart-server":   "Restart {at} and play again on the devices",
	"all-at-once":      "Play all paths of {at} at once",
	"try-outside":      "Play from {at} outside the home",
}

// Act says what is done at a place.
func Act(name, at string) string { return Fill(Acts[name], map[string]string{"at": at}) }

// Witness says what was seen on another path, which is enough for this one.
func Witness(path, seen string) string {
	said := "shown by the test of " + path + ", which is served in the same way"
	if seen == "" {
		return said
	}
	return said + ": " + seen
}

// wished are the words for what a wish is about.
var wished = map[string]string{
	"film": "films", "series": "series", "music": "music", "photo": "photographs", "live-tv": "live television", "radio": "radio", "home-video": "home videos", "audiobook": "audiobooks",
	"resume-across-rooms": "resuming in another room", "outside-viewing": "outside viewing",
}

// Where says a room, a device or the whole home.
func Where(room, device string) string {
	switch {
	case room != "":
		return "in " + room
	case device != "":
		return "on " + device
	}
	return "in this home"
}

// Reasons hold why a test is in the plan; about are the records that it is said with.
var Reasons = map[proving.Reason]string{
	proving.BecauseInUse:      "because the path is in use",
	proving.BecauseWished:     "because the customer needs {about}",
	proving.BecauseCarried:    "because the path carries it; nobody has said that it is needed here",
	proving.BecauseSearched:   "because the device finds its server by searching",
	proving.BecauseOthers:     "because other servers show themselves in this home too: {about}",
	proving.BecauseCounted:    "because the items on the disk were counted",
	proving.BecauseReadable:   "because whoever can read here should not be able to write",
	proving.BecauseAcross:     "because the customer wants to go on in another room with what was begun here, by {about}",
	proving.BecauseOutside:    "because the customer watches outside the home",
	proving.BecauseFallBack:   "because {about} is its fall-back",
	proving.BecauseRestricted: "because of the restriction {about}",
	proving.BecauseSleeps:     "because {about} goes to sleep",
	proving.BecauseTogether:   "because {about} are in use at once",
	proving.BecauseChain:      "because its sound goes through {about}",
	proving.BecauseConverts:   "because {about} converts for it",
	proving.BecauseAhead:      "because copies were converted for this device: {about}",
	proving.BecauseLarge:      "because there are pictures of 2160 lines in {about}",
	proving.BecauseGuide:      "because a programme guide is recorded",
}

// Why says why a test is in the plan.
func Why(r proving.Reason, about []string) string {
	return Fill(Reasons[r], map[string]string{"about": And(about)})
}

// Wished says what a wish is about, and where.
func Wished(wish, where string) string { return wished[wish] + " " + where }

// NotServed says that nothing serves a wish.
func NotServed(wish, where string) string {
	return "The wish for " + wished[wish] + " " + where + " has no path"
}

// Wish says how far a wish is fulfilled at a place.
func Wish(wish, where string, status proving.Fulfilment, open int) string {
	of := Capital(wished[wish]) + " " + where + ": "
	tests := Agree(open, "required test is", "required tests are")
	switch {
	case status == proving.NotServed:
		return of + "no path yet."
	case status == proving.WishFailed:
		return of + "a required test failed; " + tests + " not proven."
	case status == proving.WishInDoubt:
		return of + "in doubt; " + tests + " not proven now."
	case status == proving.WishFulfilled:
		return of + "proven."
	case open == 0:
		return of + "a path exists, but no test proves it."
	}
	return of + "a path exists, but " + tests + " not proven yet."
}

// Preview says what a change would do to what is proven; "" if it would do nothing.
func Preview(stale, inDoubt, proven, minutes int) string {
	var parts []string
	if stale > 0 {
		parts = append(parts, "make "+Count(stale, "proven test")+" stale")
	}
	if inDoubt > 0 {
		parts = append(parts, "put "+Count(inDoubt, "proven test")+" in doubt")
	}
	if proven > 0 {
		parts = append(parts, "make "+Count(proven, "test")+" proven again")
	}
	if len(parts) == 0 {
		return ""
	}
	said := "This would " + strings.Join(parts, " and ") + "."
	if minutes > 0 {
		said += " Proving the required ones again takes about " + Count(minutes, "minute") + "."
	}
	return said
}

// FactIs says one fact as it was when something was proven. Kind is that of the record it is a member of.
func FactIs(label, kind, name, value string) string {
	return Capital(factName(kind, name)) + " of " + label + ": " + valueWords(value)
}

// Measured says a value that was computed from what was read off the screen.
func Measured(name string, value float64) string {
	switch name {
	case "jumpErrorS":
		return fmt.Sprintf("The jump ended %.2g s from where it should", math.Abs(value))
	case "resumeErrorS":
		return fmt.Sprintf("It went on %.3g s from where it was left", math.Abs(value))
	case "answersAfterS":
		return fmt.Sprintf("The server answered again after %.0f s", value)
	case "listedAfterS":
		return fmt.Sprintf("It was found again after %.0f s", value)
	case "opensAfterS":
		return fmt.Sprintf("Its folders opened again after %.0f s", value)
	case "appearedAfterS":
		return fmt.Sprintf("The sample clip was listed %.0f s after watching began", value)
	case "goneAfterS":
		return fmt.Sprintf("The sample clip was out of the list %.0f s after watching began", value)
	case "stillS":
		return fmt.Sprintf("It stood still for %.3g s", value)
	case "soundAfterPictureMs":
		if value < 0 {
			return fmt.Sprintf("The sound comes %.0f ms before the picture", -value)
		}
		return fmt.Sprintf("The sound comes %.0f ms after the picture", value)
	}
	return fmt.Sprintf("%s: %g", name, value)
}
