package wording

import (
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// SheetAbout says which devices a sheet is about.
func SheetAbout(s knowledge.Sheet) string {
	said := s.Model.String()
	switch {
	case s.From != "" && s.To != "":
		return said + ", firmware " + s.From + " to " + s.To
	case s.From != "":
		return said + ", firmware " + s.From + " and later"
	case s.To != "":
		return said + ", firmware up to " + s.To
	}
	return said + ", any firmware"
}

// abilityVerbs say what a device does with a part of a format where it is not to decode it.
var abilityVerbs = map[dossier.FormatPart]string{dossier.PartContainer: "open", dossier.PartSubtitles: "show"}

// DecodingLines says what a device decodes, entry by entry.
func DecodingLines(entries []dossier.DecodingEntry) []string {
	out := []string{}
	for _, e := range entries {
		verb, known := abilityVerbs[e.Part]
		if !known {
			verb = "decode"
		}
		switch e.Able {
		case dossier.Yes:
			out = append(out, verb+"s "+Ability(e))
		case dossier.No:
			out = append(out, "does not "+verb+" "+Ability(e))
		default:
			out = append(out, Ability(e))
		}
	}
	return out
}

// ReleaseAbout says what a release is of.
func ReleaseAbout(r knowledge.Release) string {
	if r.Software != "" {
		return r.Software
	}
	return "Firmware of " + r.Model.String()
}

// ReleaseLines says what is known of a release.
func ReleaseLines(r knowledge.Release) []string {
	var out []string
	if r.Newest != "" {
		out = append(out, "Newest: "+r.Newest)
	}
	if r.GivenUp {
		out = append(out, "No longer maintained")
	}
	if r.AsOf != "" {
		out = append(out, "Looked up on: "+string(r.AsOf))
	}
	return append(out, "Source: "+r.Source)
}
