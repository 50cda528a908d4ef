package knowledge

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"kaiku/core/dossier"
)

// Model names a model of device as its label does. An empty make or variant means any.
type Model struct {
	Make    string `json:"make,omitzero" maxLength:"80" doc:"Make of the device; all makes if left out."`
	Model   string `json:"model,omitzero" maxLength:"80" doc:"Model of the device, as its label writes it."`
	Variant string `json:"variant,omitzero" maxLength:"80" doc:"Hardware variant; all variants if left out."`
}

// Sheet is what a data sheet, a manual or the firm's own trial says that a model of device decodes, with the firmware
// for which it holds.
type Sheet struct {
	Model
	From    string                  `json:"from,omitzero" maxLength:"80" doc:"The first firmware for which it holds; from the first on if left out."`
	To      string                  `json:"to,omitzero" maxLength:"80" doc:"The last firmware for which it holds; up to the newest if left out."`
	Source  string                  `json:"source" minLength:"1" maxLength:"400" doc:"Where it stands: the data sheet with its edition, the page of the manual, who tried it and when."`
	Entries []dossier.DecodingEntry `json:"entries" maxItems:"200" doc:"One entry for each format that it can or cannot decode."`
}

// Release is the newest version of a program, or of the firmware of a model of device, that the firm knows of.
type Release struct {
	Software string `json:"software,omitzero" maxLength:"120" doc:"Name of the program; left out for firmware."`
	Model
	Newest  string       `json:"newest,omitzero" maxLength:"80" doc:"The newest version there is."`
	GivenUp bool         `json:"givenUp,omitzero" doc:"Its maker no longer maintains it."`
	Source  string       `json:"source" minLength:"1" maxLength:"400" doc:"Where that stands."`
	AsOf    dossier.Date `json:"asOf,omitzero" doc:"The day on which it was looked up."`
}

// Fit says how surely something that the firm knows is about a device.
type Fit int

// Fits. Perhaps: the record of the device does not say its variant or its firmware, or not in a form that can be compared.
const (
	No Fit = iota
	Perhaps
	Surely
)

func same(a, b string) bool { return strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b)) }

// fits says how surely a device is of that model.
func (m Model) fits(v dossier.Device) Fit {
	if m.Model == "" || v.Model == "" || !same(m.Model, v.Model) {
		return No
	}
	fit := Surely
	for _, one := range [][2]string{{m.Make, v.Make}, {m.Variant, v.Variant}} {
		switch {
		case one[0] == "" || same(one[0], one[1]):
		case strings.TrimSpace(one[1]) == "":
			fit = Perhaps
		default:
			return No
		}
	}
	return fit
}

// String is the model as people name it.
func (m Model) String() string {
	return strings.Join(strings.Fields(m.Make+" "+m.Model+" "+m.Variant), " ")
}

// Fits says how surely a sheet is about a device.
func (s Sheet) Fits(v dossier.Device) Fit {
	fit := s.Model.fits(v)
	if fit == No {
		return No
	}
	for _, bound := range []struct {
		version string
		wrong   int // how the firmware compares with it where the sheet does not hold
	}{{s.From, -1}, {s.To, 1}} {
		if bound.version == "" {
			continue
		}
		switch c, comparable := CompareVersions(v.Firmware, bound.version); {
		case !comparable:
			fit = Perhaps
		case c == bound.wrong:
			return No
		}
	}
	return fit
}

func (r Release) ofSoftware(s dossier.Software) bool {
	return r.Software != "" && same(r.Software, s.Name)
}

// Key tells entries of a firm's table apart: a second one with the same key takes the place of the first.
func (s Sheet) Key() string { return fold(s.Make, s.Model.Model, s.Variant, s.From, s.To) }

// Key tells releases apart.
func (r Release) Key() string { return fold(r.Software, r.Make, r.Model.Model, r.Variant) }

func fold(parts ...string) string {
	for i := range parts {
		parts[i] = strings.ToLower(strings.TrimSpace(parts[i]))
	}
	return strings.Join(parts, "\x00")
}

// decodes is the member of a record whose entries those of a sheet are like.
var decodes, _ = dossier.KindNamed("decoding").Field("entries")

// Check returns what is wrong with a sheet.
func (s Sheet) Check() dossier.Faults {
	var out dossier.Faults
	if strings.TrimSpace(s.Model.Model) == "" {
		out = append(out, dossier.Fault{Pointer: "/model", Code: dossier.FaultRequired})
	}
	if strings.TrimSpace(s.Source) == "" {
		out = append(out, dossier.Fault{Pointer: "/source", Code: dossier.FaultRequired})
	}
	if len(s.Entries) == 0 {
		out = append(out, dossier.Fault{Pointer: "/entries", Code: dossier.FaultRequired})
	}
	if c, comparable := CompareVersions(s.From, s.To); s.From != "" && s.To != "" && comparable && c > 0 {
		out = append(out, dossier.Fault{Pointer: "/to", Code: dossier.FaultRange})
	}
	out = append(out, decodes.Unlisted(s.Entries)...)
	for n, e := range s.Entries {
		for _, m := range []struct{ name, value string }{{"part", string(e.Part)}, {"format", string(e.Format)}, {"able", string(e.Able)}} {
			if m.value == "" {
				out = append(out, dossier.Fault{Pointer: "/entries/" + strconv.Itoa(n) + "/" + m.name, Code: dossier.FaultRequired})
			}
		}
	}
	return out
}

// Check returns what is wrong with a release.
func (r Release) Check() dossier.Faults {
	var out dossier.Faults
	if (strings.TrimSpace(r.Software) == "") == (strings.TrimSpace(r.Model.Model) == "") {
		out = append(out, dossier.Fault{Pointer: "/software", Code: dossier.FaultRequired})
	}
	if strings.TrimSpace(r.Source) == "" {
		out = append(out, dossier.Fault{Pointer: "/source", Code: dossier.FaultRequired})
	}
	if strings.TrimSpace(r.Newest) == "" && !r.GivenUp {
		out = append(out, dossier.Fault{Pointer: "/newest", Code: dossier.FaultRequired})
	}
	return out
}

// CompareVersions compares two versions number by number: 9 comes before 10, and 10 equals 10.0. Versions can be compared
// only if both are written in the same way: whether 2.1b comes before or after 2.1, only the maker knows.
func CompareVersions(a, b string) (c int, comparable bool) {
	a, b = strings.ToLower(strings.TrimSpace(a)), strings.ToLower(strings.TrimSpace(b))
	if a == "" || b == "" {
		return 0, false
	}
	if a == b {
		return 0, true
	}
	x, y := runs(a), runs(b)
	for i := range max(len(x), len(y)) {
		p, q := "0", "0"
		if i < len(x) {
			p = x[i]
		}
		if i < len(y) {
			q = y[i]
		}
		if !digits(p) || !digits(q) {
			if p == q {
				continue
			}
			return 0, false
		}
		if c := cmp.Or(cmp.Compare(len(p), len(q)), strings.Compare(p, q)); c != 0 {
			return c, true
		}
	}
	return 0, true
}

// runs takes a version apart into numbers without leading zeros and words.
func runs(s string) []string {
	var out []string
	for i := 0; i < len(s); {
		class := func(c byte) int {
			switch {
			case c >= '0' && c <= '9':
				return 1
			case c >= 0x80 || unicode.IsLetter(rune(c)):
				return 2
			}
			return 0
		}
		j := i + 1
		for j < len(s) && class(s[j]) == class(s[i]) {
			j++
		}
		switch class(s[i]) {
		case 1:
			out = append(out, cmp.Or(strings.TrimLeft(s[i:j], "0"), "0"))
		case 2:
			out = append(out, s[i:j])
		}
		i = j
	}
	return out
}

func digits(s string) bool { return s[0] >= '0' && s[0] <= '9' }

// Profile returns what a device decodes by its record and by the firm's sheets. Lines of sheets count as data sheet;
// where it is not sure that a sheet is about this device, they are no more than assumed.
func (k Knowledge) Profile(v dossier.Device, recorded dossier.Decoding) dossier.Decoding {
	recorded.Device = v.ID
	entries := recorded.Entries
	for _, s := range k.sheetsOf(v.Model) {
		fit := s.Fits(v)
		if fit == No {
			continue
		}
		entries = slices.Clip(entries)
		for _, e := range s.Entries {
			if e.Evidence = dossier.EvidenceDataSheet; fit == Perhaps {
				e.Evidence = dossier.EvidenceAssumed
			}
			entries = append(entries, e)
		}
	}
	recorded.Entries = entries
	return recorded
}

// Standing is how a program or a firmware stands against the newest that is known.
type Standing struct {
	Installed string
	Newest    string
	Older     Fit // whether what is installed is older; perhaps where the versions cannot be compared
	GivenUp   bool
	Source    string // "" where only the home's own record says it
	Known     bool   // whether anything is known
}

// OfSoftware returns how a program stands. What the firm knows goes before what the record of one home says.
func (k Knowledge) OfSoftware(s dossier.Software) Standing {
	out := Standing{Installed: s.Version, Newest: s.NewestKnown, GivenUp: s.GivenUp, Known: s.NewestKnown != "" || s.GivenUp}
	for _, r := range k.Releases {
		if r.ofSoftware(s) {
			out.Newest, out.Source, out.GivenUp, out.Known = cmp.Or(r.Newest, out.Newest), r.Source, r.GivenUp, true
		}
	}
	out.compare()
	return out
}

// OfFirmware returns how the firmware of a device stands.
func (k Knowledge) OfFirmware(v dossier.Device) Standing {
	out := Standing{Installed: v.Firmware}
	best := No
	for _, r := range k.Releases {
		fit := r.Model.fits(v)
		if r.Software == "" && fit != No && (fit > best || fit == best && r.Variant != "") {
			best = fit
			out.Newest, out.Source, out.GivenUp, out.Known = r.Newest, r.Source, r.GivenUp, true
		}
	}
	out.compare()
	if best == Perhaps && out.Older == Surely {
		out.Older = Perhaps
	}
	return out
}

func (s *Standing) compare() {
	if s.Installed == "" || s.Newest == "" {
		return
	}
	switch c, comparable := CompareVersions(s.Installed, s.Newest); {
	case !comparable:
		s.Older = Perhaps
	case c < 0:
		s.Older = Surely
	}
}
