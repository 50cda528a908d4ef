package wording

import (
	"fmt"
	"strings"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
)

// Outcomes are the words for what becomes of a format on a path.
var Outcomes = map[forecast.Outcome]string{
	forecast.AsIs: "as it is", forecast.Repackaged: "repackaged", forecast.SoundConverted: "sound converted", forecast.PictureConverted: "picture converted",
	forecast.Silent: "silent", forecast.Unplayable: "does not play", forecast.NotKnown: "not known",
}

// limitWords are the words for limits of decoding.
var limitWords = map[format.Limit]string{
	"profile": "profile", "bitDepth": "bit depth", "range": "dynamic range", "chroma": "chroma", "level": "level", "width": "width", "height": "height", "frameRate": "frame rate", "interlaced": "interlacing",
	"referenceFrames": "number of reference frames", "rateMbps": "bit rate", "channels": "number of channels", "sampleRate": "sampling rate", "soundBits": "bits of the sound",
}

// limitValue says a value of a limit with its unit.
func limitValue(l format.Limit, v string) string {
	switch l {
	case "range":
		return FormatTerm(v)
	case "profile":
		return Plain(v)
	case "width", "height":
		return v + " pixels"
	case "frameRate":
		return v + " frames per second"
	case "rateMbps":
		return v + " Mb/s"
	case "sampleRate":
		return v + " Hz"
	case "interlaced":
		return map[string]string{"yes": "interlaced", "no": "progressive"}[v]
	}
	return v
}

// ForecastWhy says on what a line of a forecast rests.
func ForecastWhy(l forecast.Line, e dossier.FormatEntry) string {
	r := l.Decides
	term, _ := format.Term(e, r.Part)
	name, known := FormatTerm(term), " ("+Plain(string(r.Evidence))+")"
	var why string
	switch r.Reason {
	case format.WithinLimits:
		why = "The device decodes all of it" + known
		if r.Evidence == dossier.EvidenceAssumed && len(r.Assumed) > 0 {
			var of []string
			for _, a := range r.Assumed {
				of = append(of, limitWords[a])
			}
			why = fmt.Sprintf("The device decodes %s (%s); that its %s %s no obstacle is assumed, because it is not recorded", name, Plain(string(r.Entry.Evidence)), And(of), map[bool]string{true: "is", false: "are"}[len(of) == 1])
		}
	case format.BeyondLimit:
		why = fmt.Sprintf("%s: the %s is %s, and the device goes up to %s%s", name, limitWords[r.Limit], limitValue(r.Limit, r.Needed), limitValue(r.Limit, r.Allowed), known)
	case format.LimitUnknown:
		why = fmt.Sprintf("The device decodes %s, but it is not recorded whether up to a %s of %s", name, limitWords[r.Limit], limitValue(r.Limit, r.Needed))
	case format.Refused:
		why = "The device does not decode " + Ability(r.Entry) + known
	case format.MaybeRefused:
		why = fmt.Sprintf("The device does not decode %s%s, and it is not recorded whether the files are that", Ability(r.Entry), known)
	case format.NotListed:
		why = name + " is not among the formats that the device is recorded to decode, and that list is complete"
	case format.NothingSaid:
		why = "It is not recorded whether the device decodes " + name
	case format.UnknownTerm:
		why = "Kaiku does not know the format " + name
		if e.Video == "encrypted" || e.Sound == "encrypted" {
			why = "The files are encrypted; whether the device has the key is not known"
		}
	case format.NoSuchPart:
		why = "The device decodes all of it"
	}
	part := map[dossier.FormatPart]string{dossier.PartVideo: "pictures", dossier.PartSound: "sound", dossier.PartContainer: "containers"}[r.Part]
	switch {
	case l.Cause == forecast.ByPath:
		why += "; nothing is converted on a path of this kind"
	case l.Cause == forecast.ByServer:
		why += "; the server does not convert " + part
	case l.Cause == forecast.BySetting:
		why = "A rate limit is set below what the files need, so that the server makes a lighter picture. The device decodes them as they are"
	case l.Outcome == forecast.NotKnown && r.Verdict == format.Cannot:
		why += "; whether the server converts " + part + " is not recorded"
	}
	return why + "."
}

// subtitleWords say what becomes of subtitles that a device does not show.
var subtitleWords = map[forecast.Subtitles]string{
	forecast.SubtitlesBurntIn: "To show its subtitles, the server has to draw them into the picture and convert it.", forecast.SubtitlesNotShown: "Its subtitles are not shown.", forecast.SubtitlesNotKnown: "Whether its subtitles are shown is not known.",
}

// ForecastBeside says what there is to know beside the outcome of a line: of subtitles, of what the display chain takes
// away, and of the power that converting takes. Link names the link of the chain.
func ForecastBeside(l forecast.Line, link string) []string {
	var out []string
	if s := subtitleWords[l.Subtitles]; s != "" && l.Outcome != forecast.Unplayable {
		out = append(out, s)
	}
	if len(l.Lowered) > 0 {
		var what []string
		for _, one := range l.Lowered {
			what = append(what, map[format.Limit]string{"width": "size", "height": "size", "frameRate": "frame rate", "range": "dynamic range"}[one])
		}
		out = append(out, fmt.Sprintf("The link %s cannot carry its %s, so it is shown with less.", link, And(what)))
	}
	if l.Mpx > 0 {
		out = append(out, fmt.Sprintf("Converting one takes about %.0f Mpx/s (estimated).", l.Mpx))
	}
	return out
}

// ForecastShares says the outcomes of a cell with their share of the hours, or of the items where there are no hours.
func ForecastShares(c forecast.Cell) string {
	var parts []string
	for _, s := range c.Shares() {
		said := Outcomes[s.Outcome]
		switch {
		case len(c.Of) == 1 && s.Outcome == forecast.Unplayable:
			said = "none plays"
		case len(c.Of) == 1 && s.Outcome != forecast.NotKnown:
			said = "all " + said
		case len(c.Of) == 1:
		case s.Percent > 0:
			said = Percent(s.Percent) + " " + said
		}
		parts = append(parts, said)
	}
	if c.Unread > 0 {
		parts = append(parts, Count(c.Unread, "item")+" not read")
	}
	if len(parts) == 0 {
		return Outcomes[forecast.NotKnown]
	}
	return strings.Join(parts, ", ")
}

// Percent says a share so that something is never said to be nothing, and less than all never all.
func Percent(p float64) string {
	switch {
	case p > 0 && p < 1:
		return "under 1 %"
	case p > 99 && p < 100:
		return "over 99 %"
	}
	return fmt.Sprintf("%.0f %%", p)
}

// ForecastAhead says what converting a part of a folder ahead of time would bring, and what to mind.
func ForecastAhead(a forecast.Ahead, folder string, devices []string) string {
	said := fmt.Sprintf("Converted, %s of %s would also be played by %s, which makes %d of %s.", Count(a.Gained.Items, "item"), folder, And(devices), a.Plays, Count(a.Of, "device"))
	switch {
	case a.Before > 0 && a.After > 0:
		said += fmt.Sprintf(" %.0f GB become about %.0f GB (estimated).", a.Before, a.After)
	case a.After > 0:
		said += fmt.Sprintf(" The copies take about %.0f GB (estimated).", a.After)
	}
	if a.TooLargeForFAT32() {
		said += fmt.Sprintf(" A copy has about %.1f GB: too large for a medium with the FAT32 file system, which takes 4.29 GB in one file.", a.Largest)
	}
	return said + " Put the copies into a folder of their own: beside the originals, the server lists both."
}

// ForecastConverter says what a source has for converting pictures.
func ForecastConverter(c forecast.Converter, source, device, folder string) string {
	said := fmt.Sprintf("%s has to convert pictures for %s", source, Count(c.Devices, "device"))
	if c.Mpx == 0 {
		return said + "; what that takes is not known, as the size of the pictures is not recorded."
	}
	said += fmt.Sprintf("; the heaviest of them, from %s to %s, takes about %.0f Mpx/s (estimated)", folder, device, c.Mpx)
	switch {
	case c.Budget == 0:
		return said + ". How much it manages is not recorded, so it is not known whether it keeps up."
	case c.AtOnce == 0:
		return said + fmt.Sprintf(". It manages %.0f Mpx/s: too little even for one. The picture will stall.", c.Budget)
	case c.Short():
		return said + fmt.Sprintf(". It manages %.0f Mpx/s, which is enough for %d at once. With one more, all of them stall.", c.Budget, c.AtOnce)
	}
	return said + fmt.Sprintf(". It manages %.0f Mpx/s, which is enough for %d at once.", c.Budget, c.AtOnce)
}

// ForecastHelp says a change that would make more play as it is.
func ForecastHelp(h forecast.Help, device, source, to string) string {
	switch {
	case h.Kind == forecast.HelpFirmware:
		return "If " + device + " had firmware " + h.Firmware + ", by its data sheet (" + h.By + ")"
	case h.Kind == forecast.HelpRateLimit && h.Source != "":
		return "If the rate limit of the source " + source + " were lifted"
	case h.Kind == forecast.HelpRateLimit:
		return "If the rate limit of " + device + " were lifted"
	case h.Kind == forecast.HelpSoundReturn:
		return "If the sound return from " + device + " to " + to + " carried every format (an enhanced return channel, at both ends)"
	case h.Kind == forecast.HelpSubtitles:
		return "If other subtitles were chosen on " + device + ", which it shows itself, where a film has them (nothing would then be burnt in or left out)"
	}
	what := "decoded " + FormatTerm(h.Format)
	if h.Part == dossier.PartContainer {
		what = "opened " + FormatTerm(h.Format)
	}
	if h.Limit != "" && h.Needed != "" {
		what += " up to a " + limitWords[h.Limit] + " of " + limitValue(h.Limit, h.Needed)
	}
	return "If " + device + " " + what
}

// contradictions holds what is said where a result speaks against a forecast.
var contradictions = map[string]string{
	assess.FailsThoughFit:    "On {when} it did not play, though all of it should. If the server and the network are in order, the device decodes less than is recorded: correct its decoding, or play a sample clip to find out which part it cannot decode.",
	assess.PlaysThoughUnfit:  "On {when} it played, though none of it should. The device decodes more than is recorded: play a sample clip of this form, which records what it can do.",
	assess.SilentThoughHeard: "On {when} there was no sound, though all of it should be heard. The device or its display chain decodes less sound than is recorded.",
	assess.HeardThoughSilent: "On {when} it was heard, though all of it should be silent. The device or its display chain decodes more sound than is recorded.",
}

// Contradiction says how a result speaks against a forecast.
func Contradiction(code, when string) string {
	return Fill(contradictions[code], map[string]string{"when": when})
}
