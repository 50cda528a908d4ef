package matching

import (
	"cmp"
	"fmt"
	"net/netip"
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
	if roles, ok := h.Seen[0].Members["roles"].([]dossier.Role); ok {
		all := dossier.Role("").Values()
		roles = slices.Clone(roles)
		slices.SortFunc(roles, func(a, b dossier.Role) int {
			return slices.Index(all, string(a)) - slices.Index(all, string(b))
		})
		h.Seen[0].Members["roles"] = roles
	}
	order := make([]int, len(h.Seen))
	for n := range order {
		order[n] = n
	}
	slices.SortStableFunc(order[2:], func(a, b int) int {
		return cmp.Or(cmp.Compare(kindOrder(h.Seen[a].Kind), kindOrder(h.Seen[b].Kind)), strings.Compare(h.nameOf(a), h.nameOf(b)),
			strings.Compare(fmt.Sprint(h.Seen[a].Members), fmt.Sprint(h.Seen[b].Members)))
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
	was, now := before.keys(), h.keys()
	for n, s := range h.Seen {
		old := Seen{}
		if i := slices.Index(was, now[n]); i >= 0 {
			old = before.Seen[i]
		}
		out = append(out, differ(old, s, before.told, h.told)...)
	}
	for n, s := range before.Seen {
		if !slices.Contains(now, was[n]) {
			out = append(out, differ(s, Seen{Kind: s.Kind}, before.told, h.told)...)
		}
	}
	return out
}

// told reports whether a way of asking brought an answer, so that what it did not say is not so. A question
// that ended in silence, refusal or rubbish, or was not asked, says nothing.
func (h Host) told(way Way) bool {
	asked := false
	for _, q := range h.Answers {
		if q.Way == way {
			asked = true
			if q.Ended != Answered && q.Ended != Empty || q.LeftOut > 0 {
				return false
			}
		}
	}
	return asked || !slices.Contains(answeredFor, way)
}

// answeredFor are the ways of which each question to a host is noted with its end. What is announced to all
// is not: it is there, or was not heard.
var answeredFor = []Way{ByUPnP, ByDirectory, ByConnection, ByIGD, ByLeases, ByHTTP, BySMB, ByNFS, ByRTSP, ByStreamList, ByGuide, BySSDP, BySSDP6, ByICMP6, ByNotify, ByMDNS, ByDNS, ByNATPMP, ByPCP, ByNetBIOS, ByWSD}

// keys tells the records of a host apart, each by its name and, where several have one, by its number.
func (h Host) keys() []string {
	out := make([]string, len(h.Seen))
	count := map[string]int{}
	for n, s := range h.Seen {
		name := s.Kind + " " + h.nameOf(n)
		count[name]++
		out[n] = fmt.Sprint(name, " ", count[name])
	}
	return out
}

// differ lists the members that two of the same record say otherwise. When a thing was read is no
// difference, nor is a value that one of both scans could not learn.
func differ(was, is Seen, before, now func(Way) bool) []Change {
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
		if a != nil && b == nil && !now(was.By[f.Name]) || a == nil && b != nil && !before(is.By[f.Name]) {
			continue
		}
		if f.Name == "addresses" && sameAddresses(a, b) {
			continue
		}
		if f.Name != "at" && !(is.Kind == "reading" && f.Name == "value" && near(a, b)) && !reflect.DeepEqual(a, b) {
			out = append(out, Change{is.Kind, label, f.Name, a, b})
		}
	}
	return out
}

// sameAddresses reports whether an adapter has kept its addresses. Those of IPv6 come and go, a new one each day
// (RFC 8981), and not all answer each time: one that both scans saw is enough, and none says nothing.
func sameAddresses(a, b any) bool {
	was, ok := a.([]netip.Addr)
	is, also := b.([]netip.Addr)
	if !ok || !also {
		return false
	}
	was4, was6 := families(was)
	is4, is6 := families(is)
	return slices.Equal(was4, is4) && (len(was6) == 0 || len(is6) == 0 || shared(was6, is6))
}

// families parts addresses of IPv4 from those of IPv6.
func families(all []netip.Addr) (four, six []netip.Addr) {
	for _, a := range slices.SortedFunc(slices.Values(all), netip.Addr.Compare) {
		if a.Is4() {
			four = append(four, a)
		} else {
			six = append(six, a)
		}
	}
	return four, six
}

func shared(a, b []netip.Addr) bool {
	return slices.ContainsFunc(a, func(one netip.Addr) bool { return slices.Contains(b, one) })
}

// near reports whether two readings say the same.
func near(a, b any) bool {
	x, ok := a.(float64)
	y, also := b.(float64)
	return ok && also && max(x-y, y-x) <= readAgain
}
