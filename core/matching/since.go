package matching

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Change is one value of a host that differs from the previous scan. Was or Is is nil where
// one of both looks does not say it.
type Change struct {
	Kind   string
	Label  string // which of several records of the kind
	Member string
	Was    any
	Is     any
}

// Settle puts what a host says into one order, whatever order it came in: two scans that say the
// same are then equal.
func (h *Host) Settle() {
	if len(h.Seen) < 2 {
		return
	}
	order := make([]int, len(h.Seen))
	for n := range order {
		order[n] = n
	}
	slices.SortStableFunc(order[2:], func(a, b int) int {
		return cmp.Or(cmp.Compare(kindOrder(h.Seen[a].Kind), kindOrder(h.Seen[b].Kind)), strings.Compare(h.nameOf(a), h.nameOf(b)))
	})
	place := make([]int, len(order)) // where each went
	for to, from := range order {
		place[from] = to
	}
	sorted := make([]Seen, len(order))
	for to, from := range order {
		sorted[to] = h.Seen[from]
		sorted[to].Of = place[sorted[to].Of]
	}
	h.Seen = sorted
	slices.SortStableFunc(h.Answers, func(a, b Question) int {
		return cmp.Or(cmp.Compare(a.Port, b.Port), cmp.Compare(a.Way, b.Way), strings.Compare(a.Detail, b.Detail))
	})
	slices.SortFunc(h.Services, func(a, b Service) int {
		return cmp.Or(strings.Compare(a.Type, b.Type), strings.Compare(a.Name, b.Name))
	})
}

func kindOrder(kind string) int { return slices.Index(kinds, kind) }

// nameOf tells a record of a host from the others of its kind: sources by what they speak and
// where, folders by their source and name, software by what it does.
func (h Host) nameOf(n int) string {
	s := h.Seen[n]
	switch s.Kind {
	case "source":
		return fmt.Sprint(s.Members["protocol"], " ", s.Members["port"], " ", s.Members["locator"])
	case "folder":
		return h.nameOf(s.Of) + " " + fmt.Sprint(s.Members["name"])
	case "software":
		return fmt.Sprint(s.Members["does"])
	case "reading":
		return fmt.Sprint(s.Members["what"])
	}
	return ""
}

// Since lists what has changed on a host since the previous scan.
func (h Host) Since(before Host) []Change {
	var out []Change
	was := map[string]Seen{}
	for n, s := range before.Seen {
		was[s.Kind+" "+before.nameOf(n)] = s
	}
	for n, s := range h.Seen {
		key := s.Kind + " " + h.nameOf(n)
		out = append(out, differ(was[key], s)...)
		delete(was, key)
	}
	for n, s := range before.Seen {
		if _, gone := was[s.Kind+" "+before.nameOf(n)]; gone {
			out = append(out, differ(s, Seen{Kind: s.Kind})...)
		}
	}
	return out
}

// differ lists the members that two of the same record say otherwise. When a thing was read is no
// difference.
func differ(was, is Seen) []Change {
	var out []Change
	label := ""
	for _, s := range []Seen{was, is} {
		for _, member := range []string{"name", "shownName", "locator"} {
			if text, ok := s.Members[member].(string); ok && label == "" {
				label = text
			}
		}
	}
	k := dossier.KindNamed(is.Kind)
	for _, f := range k.Fields {
		a, b := was.Members[f.Name], is.Members[f.Name]
		if f.Name != "at" && !(is.Kind == "reading" && f.Name == "value" && near(a, b)) && !reflect.DeepEqual(a, b) {
			out = append(out, Change{is.Kind, label, f.Name, a, b})
		}
	}
	return out
}

// near reports whether two readings say the same.
func near(a, b any) bool {
	x, ok := a.(float64)
	y, also := b.(float64)
	return ok && also && max(x-y, y-x) <= readAgain
}
