package wording

import (
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/load"
)

// LoadStates say how much is taken.
var LoadStates = map[load.State]string{load.Roomy: "room left", load.Tight: "tight", load.Overloaded: "overloaded", load.NotKnown: "not known"}

// LoadGap says what is not known about what a path carries; what is the record that it is about, and from where the files are.
func LoadGap(g load.Gap, path, what, from string) string {
	switch g {
	case load.NoWay:
		return "No chain of links is recorded from " + from + " to " + what + "."
	case load.NoRate:
		return "Neither a rate nor a reading is recorded for " + what + "."
	case load.NoDemand:
		return "Nothing says what the files of " + path + " need."
	case load.NoFolders:
		return "No folder is recorded that " + path + " reaches."
	case load.NoLine:
		return path + " comes over the internet line, of which no download rate is recorded."
	case load.NoDisk:
		return "Nothing says how fast the storage of " + what + " is read, which is carried around."
	case load.NoSnooping:
		return "It is not recorded whether the switches of " + what + " pass multicast only to ports that have asked for it; if not, " + path + " goes to every device there."
	}
	return string(g)
}

// Share says a part in per cent, and how it is known where it is estimated or assumed.
func Share(share float64, known dossier.Known) string {
	said := fmt.Sprintf("%.0f %%", 100*share)
	if share > 0 && share < 0.005 {
		return "less than 1 %"
	}
	if known == dossier.KnownEstimated || known == dossier.KnownAssumed {
		return "about " + said + " (" + string(known) + ")"
	}
	return said
}

// LoadMedium names what is taken. Near and far are the ends of a cable in the direction of the flow, near is also the machine with a disk, and
// radios are those of a channel.
func LoadMedium(m load.Medium, near, far, line string, radios []string) string {
	switch m.Kind {
	case load.Wire:
		return "the cable from " + near + " to " + far
	case load.Mains:
		return "the mains wiring"
	case load.LineInto:
		return "the internet line " + line
	case load.Disk:
		return "the storage of " + near
	}
	band := strings.ReplaceAll(string(m.Band), "-ghz", " GHz")
	if m.Channel == 0 {
		return strings.TrimSpace("the Wi-Fi of "+strings.Join(radios, " and ")+" "+parenthesis(band)) + ", channel not recorded"
	}
	return strings.TrimSpace(fmt.Sprintf("Wi-Fi channel %d %s", m.Channel, parenthesis(band)))
}

func parenthesis(s string) string {
	if s == "" {
		return ""
	}
	return "(" + s + ")"
}

// LoadUse says how much of something is taken.
func LoadUse(use load.Use, label string) string {
	what := "of its air time"
	switch use.Medium.Kind {
	case load.Wire, load.LineInto, load.Disk:
		what = fmt.Sprintf("of %.4g Mb/s", use.Mbps)
	}
	switch {
	case use.More && use.Share == 0:
		return Capital(label) + ": how much is taken is not known."
	case use.More:
		return Capital(label) + ": at least " + Share(use.Share, use.Known) + " " + what + " taken; something on it is not known."
	}
	return Capital(label) + ": " + Share(use.Share, use.Known) + " " + what + " taken."
}

// LoadCase says the outcome of a path or a set.
func LoadCase(c load.Case, most string, gaps []string) string {
	use, carries := c.Bottleneck()
	switch {
	case len(c.Paths) == 0:
		return "No path in use is in it."
	case c.State == load.NotKnown && len(gaps) > 0:
		return strings.Join(gaps, " ")
	case !carries:
		return "Nothing goes over the network: it is played where the files are."
	case c.State == load.Overloaded && use.Share > 1:
		return "More is asked of " + most + " than it carries: " + Share(use.Share, use.Known) + ". Pictures will stall."
	case c.State == load.Overloaded:
		return "Too little is left of " + most + ": " + Share(use.Share, use.Known) + " is taken. Pictures may stall as soon as anything else happens."
	case c.State == load.Tight:
		return "Little is left of " + most + ": " + Share(use.Share, use.Known) + " is taken."
	}
	return "The most taken is " + most + ", with " + Share(use.Share, use.Known) + "."
}

// LoadChange says what to do. Device and what are labels: whose link or channel changes or where files go, and the outlet, cable or folder.
func LoadChange(c load.Change, device, what string) string {
	switch c.Kind {
	case load.WireDevice:
		if c.Patch {
			return fmt.Sprintf("Patch the outlet %s and connect %s to it by cable (reckoned with %.4g Mb/s)", what, device, c.Mbps)
		}
		return fmt.Sprintf("Connect %s by cable to the outlet %s (reckoned with %.4g Mb/s)", device, what, c.Mbps)
	case load.RunCable:
		return fmt.Sprintf("Lay a cable from the router to %s (reckoned with %.4g Mb/s)", device, c.Mbps)
	case load.OtherChannel:
		return fmt.Sprintf("Move the Wi-Fi of %s to channel %d, which nothing else in this home uses", device, c.Channel)
	case load.ReplaceLink:
		return fmt.Sprintf("Replace the cable %s: both ports can do %.4g Mb/s", what, c.Mbps)
	case load.FasterPorts:
		return fmt.Sprintf("Have ports of %.4g Mb/s at both ends of the cable %s", c.Mbps, what)
	case load.LighterCopies:
		return fmt.Sprintf("Have the heaviest titles of %s converted to files that need %.3g Mb/s at most", what, c.Mbps)
	case load.MoveFiles:
		return "Move the files of " + what + " to " + device + ", which serves them"
	case load.SnoopingOn:
		return "Turn on multicast snooping in " + what + ", and a querier with it"
	case load.CastToEach:
		return "Have the access points of " + what + " send multicast to each station at its own rate"
	}
	return Plain(string(c.Kind))
}

// LoadUplink says how many streams of which quality leave the home at once.
func LoadUplink(use load.Uplink, line string) string {
	var fits []string
	before := 0
	for _, q := range use.Qualities {
		if q.AtOnce > before { // a smaller picture of which no more fit need not be said
			before = q.AtOnce
			fits = append(fits, fmt.Sprintf("%d with %d lines (about %.3g Mb/s each)", q.AtOnce, q.Lines, q.Mbps))
		}
	}
	left := fmt.Sprintf("%s leaves %.3g Mb/s for watching from outside", Capital(line), use.Mbps)
	if use.Known == dossier.KnownAssumed {
		left += ", if it is as in the contract"
	}
	if len(fits) == 0 {
		return left + ": too little for any picture of 576 lines or more."
	}
	return left + ": " + listed(fits, "or") + "."
}

// LoadBrief says in few words how much a path or a set takes of what is taken most.
func LoadBrief(c load.Case) string {
	said := LoadStates[c.State]
	if use, carries := c.Bottleneck(); carries && c.State != load.NotKnown {
		said += ", " + Share(use.Share, use.Known)
	}
	return said
}

// LoadTaken says in few words how much of a link is taken: at least so much, about so much, or so much.
func LoadTaken(use load.Use) string {
	switch {
	case use.More && use.Share == 0:
		return "load not known"
	case use.More:
		return "at least " + Share(use.Share, "") + " taken"
	case use.Known == dossier.KnownEstimated || use.Known == dossier.KnownAssumed:
		return "about " + Share(use.Share, "") + " taken"
	}
	return Share(use.Share, "") + " taken"
}

// Converting says what paths in use at once may ask of a source's power to convert pictures, and whether it has it.
func Converting(t forecast.Together, source string) string {
	asks := fmt.Sprintf("%s may have to convert %s at once", source, Count(len(t.Paths), "picture"))
	if len(t.Paths) == 1 {
		asks = source + " may have to convert its picture"
	}
	takes := ""
	if t.Mpx > 0 {
		takes = fmt.Sprintf(", which takes about %.0f Mpx/s", t.Mpx)
	}
	switch enough, known := t.Enough(); {
	case t.Budget <= 0:
		return asks + takes + "; what it manages is not recorded."
	case !known:
		return fmt.Sprintf("%s; what that takes is not known of all. It manages %.0f Mpx/s.", asks, t.Budget)
	case !enough && len(t.Paths) == 1:
		return fmt.Sprintf("%s%s, and it manages %.0f: it will stall.", asks, takes, t.Budget)
	case !enough:
		return fmt.Sprintf("%s%s, and it manages %.0f: not all of them play at once.", asks, takes, t.Budget)
	}
	return fmt.Sprintf("%s%s; it manages %.0f.", asks, takes, t.Budget)
}
