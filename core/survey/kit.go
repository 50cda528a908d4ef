package survey

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Sort is what sort of thing a visit needs.
type Sort string

// Sorts of things: what stays in the home, what comes back, what is made ready before.
const (
	Part  Sort = "part"
	Tool  Sort = "tool"
	Bench Sort = "bench"
)

// Values lists the sorts.
func (Sort) Values() []string { return []string{string(Part), string(Tool), string(Bench)} }

// Supply is one thing to bring or to make ready, and why: codes of gaps and findings, or "visit"
// where someone wrote it down. Item is its code, or what was written. Ready, where a visit that
// has not begun says so.
type Supply struct {
	Item    string
	Written bool // Item is what someone wrote, not a code
	Sort    Sort
	Because []string
	About   []dossier.Ref
	Ready   bool
	Visit   dossier.ID[dossier.Visit] // the visit that says so
}

// kits says what a gap or a finding asks to bring.
var kits = map[string]struct {
	item string
	sort Sort
}{
	"outlet-untested":        {"cable-tester", Tool},
	"outlet-unpatched":       {"cable-tester", Tool},
	"no-reading":             {"measuring-laptop", Tool},
	"no-signal":              {"measuring-laptop", Tool},
	"line-unmeasured":        {"measuring-laptop", Tool},
	"link-below-port":        {"patch-cables", Part},
	"wireless-beside-outlet": {"patch-cables", Part},
	"cable-loop":             {"cable-tester", Tool},
	"weak-signal":            {"access-point", Part},
	"same-channel-crowded":   {"measuring-laptop", Tool},
	"power-supply-weak":      {"power-supply", Part},
	"wake-impossible":        {"patch-cables", Part},
	"settings-copy-missing":  {"storage-stick", Tool},
	"unmaintained":           {"replacement-software", Bench},
	"behind":                 {"newer-version", Bench},
	"ends-soon":              {"licence", Bench},
	"licence-seats-short":    {"licence", Bench},
}

// Kit compiles what the next visit must bring and what must be ready before it: from what the
// survey still misses, from what findings ask for, and from what someone wrote down with the visit. It is sorted: parts, tools, bench work.
func Kit(d *dossier.Dossier, walk []Stop, findings []network.Finding, now time.Time) []Supply {
	var out []Supply
	need := func(item string, sort Sort, because string, about dossier.Ref) {
		i := slices.IndexFunc(out, func(s Supply) bool { return s.Item == item && !s.Written })
		if i < 0 {
			out = append(out, Supply{Item: item, Sort: sort})
			i = len(out) - 1
		}
		if !slices.Contains(out[i].Because, because) {
			out[i].Because = append(out[i].Because, because)
		}
		if about != (dossier.Ref{}) && !slices.Contains(out[i].About, about) {
			out[i].About = append(out[i].About, about)
		}
	}
	for _, stop := range walk {
		for _, g := range stop.Gaps {
			if k, ok := kits[g.Code]; ok {
				need(k.item, k.sort, g.Code, g.Subject)
			}
		}
	}
	for _, f := range findings {
		if k, ok := kits[f.Code]; ok {
			need(k.item, k.sort, f.Code, f.Subjects[0])
		}
	}
	out = withVisit(out, d, now)
	order := Sort("").Values()
	slices.SortStableFunc(out, func(a, b Supply) int {
		return slices.Index(order, string(a.Sort)) - slices.Index(order, string(b.Sort))
	})
	return out
}

// Wanted is a part that a fault would ask for which is suspected, with the issue and the component.
type Wanted struct {
	Part  string
	About []dossier.Ref
}

// Suspected is the reason for what a suspected fault asks for.
const Suspected = "suspected"

// With adds to what a visit must bring the parts that suspected faults would ask for.
func With(list []Supply, parts []Wanted) []Supply {
	out := slices.Clone(list)
	for _, w := range parts {
		i := slices.IndexFunc(out, func(s Supply) bool { return strings.EqualFold(spelled(s.Item), spelled(w.Part)) })
		if i < 0 {
			at := slices.IndexFunc(out, func(s Supply) bool { return s.Sort != Part })
			if at < 0 {
				at = len(out)
			}
			out = slices.Insert(out, at, Supply{Item: w.Part, Written: true, Sort: Part})
			i = at
		}
		s := &out[i]
		if !slices.Contains(s.Because, Suspected) {
			s.Because = append(slices.Clone(s.Because), Suspected)
		}
		for _, r := range w.About {
			if !slices.Contains(s.About, r) {
				s.About = append(slices.Clone(s.About), r)
			}
		}
	}
	return out
}

// withVisit adds what the next visit has written down. What is written with the words of a code
// is that supply.
func withVisit(out []Supply, d *dossier.Dossier, now time.Time) []Supply {
	v, ok := NextVisit(d, now)
	if !ok {
		return out
	}
	for _, list := range []struct {
		items []dossier.Item
		sort  Sort
	}{{v.Bring, Part}, {v.Bench, Bench}} {
		for _, item := range list.items {
			i := slices.IndexFunc(out, func(s Supply) bool { return !s.Written && strings.EqualFold(spelled(s.Item), item.What) })
			if i < 0 {
				out = append(out, Supply{Item: item.What, Written: true, Sort: list.sort, Because: []string{"visit"}})
				i = len(out) - 1
			}
			out[i].Ready, out[i].Visit = item.Ready, v.ID
		}
	}
	return out
}

func spelled(code string) string { return strings.ReplaceAll(code, "-", " ") }

// NextVisit returns the visit that is under way or comes next: the first that is not called off,
// has no outcome, and did not begin before yesterday.
func NextVisit(d *dossier.Dossier, now time.Time) (next dossier.Visit, found bool) {
	for _, v := range d.Visits {
		if !v.Cancelled && v.Outcome == "" && v.Starts.After(now.AddDate(0, 0, -1)) && (!found || v.Starts.Before(next.Starts)) {
			next, found = v, true
		}
	}
	return next, found
}

// Dues returns the dates that were not seen to, the earliest first.
func Dues(d *dossier.Dossier) []dossier.Due {
	var out []dossier.Due
	for _, due := range d.Dues {
		if due.DoneAt.IsZero() {
			out = append(out, due)
		}
	}
	slices.SortStableFunc(out, func(a, b dossier.Due) int { return strings.Compare(string(a.On), string(b.On)) })
	return out
}
