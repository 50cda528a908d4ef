package recurring

import (
	"cmp"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Report is a fault that was found, or is suspected, behind one issue of one home.
type Report struct {
	Home  *dossier.Dossier
	Issue dossier.Issue
	Mode  string
	About dossier.Ref
	Found bool    // it was recorded with the remedy
	P     float64 // how likely it is, where it is only suspected
}

// Shared is one fault that shows in several homes that have something in common.
type Shared struct {
	Mode    string
	Kind    Kind
	What    string // what they have in common
	Reports []Report
	Homes   []*dossier.Dossier // that have it and report nothing of the kind
	Found   int                // in how many of the reports it was found, and is not only suspected
}

// Reporting counts the homes that report it.
func (s Shared) Reporting() int {
	homes := map[*dossier.Dossier]bool{}
	for _, r := range s.Reports {
		homes[r.Home] = true
	}
	return len(homes)
}

// Together picks from reports the faults that show in at least two homes at the same model, firmware, program or version. Of several things that these
// homes have in common, the one counts that most of them have, and of those the narrowest. What most homes report comes first.
func Together(homes []Home, reports []Report) []Shared {
	has := map[key][]*dossier.Dossier{}
	for _, h := range homes {
		x := h.Index()
		for _, v := range x.Devices {
			for _, k := range things(x, v.ID) {
				if !slices.Contains(has[k], h.Dossier) {
					has[k] = append(has[k], h.Dossier)
				}
			}
		}
	}
	byMode := map[string]map[key][]Report{}
	for _, r := range reports {
		x := r.Home.Index()
		for _, k := range things(x, deviceOf(x, r.About)) {
			if byMode[r.Mode] == nil {
				byMode[r.Mode] = map[key][]Report{}
			}
			byMode[r.Mode][k] = append(byMode[r.Mode][k], r)
		}
	}
	out := []Shared{}
	for mode, groups := range byMode {
		var list []Shared
		for k, of := range groups {
			s := Shared{Mode: mode, Kind: k.kind, What: k.what, Reports: of}
			for _, r := range of {
				if r.Found {
					s.Found++
				}
			}
			for _, d := range has[k] {
				if !slices.ContainsFunc(of, func(r Report) bool { return r.Home == d }) {
					s.Homes = append(s.Homes, d)
				}
			}
			if s.Reporting() >= 2 {
				list = append(list, s)
			}
		}
		slices.SortFunc(list, func(a, b Shared) int {
			return cmp.Or(cmp.Compare(len(b.Reports), len(a.Reports)), cmp.Compare(narrow(b.Kind), narrow(a.Kind)), strings.Compare(a.What, b.What))
		})
		var kept []Shared
		for _, s := range list { // what says the same of fewer is left out
			if !slices.ContainsFunc(kept, func(k Shared) bool { return within(s.Reports, k.Reports) }) {
				kept = append(kept, s)
			}
		}
		out = append(out, kept...)
	}
	slices.SortFunc(out, func(a, b Shared) int {
		return cmp.Or(cmp.Compare(b.Reporting(), a.Reporting()), cmp.Compare(b.Found, a.Found), strings.Compare(a.Mode, b.Mode), strings.Compare(a.What, b.What))
	})
	return out
}

// narrow is greater for what fewer devices have.
func narrow(k Kind) int {
	if k == Variant || k == Release {
		return 1
	}
	return 0
}

// within reports whether all of some reports are among others.
func within(some, others []Report) bool {
	return !slices.ContainsFunc(some, func(r Report) bool {
		return !slices.ContainsFunc(others, func(o Report) bool { return o.Home == r.Home && o.Issue.ID == r.Issue.ID })
	})
}

// About picks the lines of what a device is counted under: its model, its firmware, and the programs on it; without one, those of all devices of the home.
func About(lines []Line, x *dossier.Index, device dossier.ID[dossier.Device]) []Line {
	of := things(x, device)
	if device == "" {
		for _, v := range x.Devices {
			of = append(of, things(x, v.ID)...)
		}
	}
	out := []Line{}
	for _, l := range lines {
		if slices.Contains(of, key{l.Kind, l.What}) {
			out = append(out, l)
		}
	}
	return out
}
