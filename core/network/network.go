// Package network finds what is wrong with the addresses, segments and ports of a home.
//
// Every finding is computed from the dossier alone and declared once in Codes: its severity, and
// the function that finds it. Findings carry numbers and subjects; sentences are made elsewhere.
package network

import (
	"cmp"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Severity says how much a finding matters.
type Severity string

// Severities, the gravest first. A blocker keeps a path from working at all.
const (
	Blocker Severity = "blocker"
	Warning Severity = "warning"
	Advice  Severity = "advice"
)

// Values lists all severities, the gravest first.
func (Severity) Values() []string {
	return []string{string(Blocker), string(Warning), string(Advice)}
}

// Finding is one computed remark. Subjects are the records it is about, the first being the one
// to change. Values hold what led to it, by name.
type Finding struct {
	Code     string            `json:"code"`
	Severity Severity          `json:"severity"`
	Subjects []dossier.Ref     `json:"subjects"`
	Values   map[string]string `json:"values,omitzero"`
}

// Code declares one finding: what it is called, how grave it is, what finds it.
type Code struct {
	Name     string
	Severity Severity
	find     func(*dossier.Dossier) []Finding
}

// Codes lists every finding this package can make.
var Codes = []Code{
	{"address-clash", Blocker, addressClash},
	{"no-lease", Blocker, noLease},
	{"address-outside-segment", Blocker, addressOutsideSegment},
	{"gateway-outside-segment", Blocker, gatewayOutsideSegment},
	{"segments-overlap", Blocker, segmentsOverlap},
	{"different-segments", Blocker, differentSegments},
	{"listens-elsewhere", Blocker, listensElsewhere},
	{"port-clash", Blocker, portClash},
	{"ends-disagree", Blocker, endsDisagree},
	{"hardware-address-clash", Warning, hardwareAddressClash},
	{"address-in-lease-pool", Warning, addressInLeasePool},
	{"same-name", Warning, sameName},
	{"writable-share", Warning, writableShare},
	{"titles-missing", Warning, titlesMissing},
	{"restart-owed", Warning, restartOwed},
	{"starts-at-login-only", Warning, startsAtLogin},
}

// Findings returns all findings of a home: the gravest first, then in the order of Codes, then
// by subjects. The same dossier always gives the same list.
func Findings(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, c := range Codes {
		for _, f := range c.find(d) {
			f.Code, f.Severity = c.Name, c.Severity
			out = append(out, f)
		}
	}
	rank := Severity("").Values()
	slices.SortStableFunc(out, func(a, b Finding) int {
		return cmp.Compare(slices.Index(rank, string(a.Severity)), slices.Index(rank, string(b.Severity)))
	})
	return out
}

// addressClash finds addresses that two adapters in one segment both have. ARP then answers with
// either, so that both work by turns (RFC 5227, section 1.1).
func addressClash(d *dossier.Dossier) []Finding {
	type place struct {
		segment dossier.ID[dossier.Segment]
		address netip.Addr
	}
	holders := map[place][]dossier.Interface{}
	var order []place
	for _, i := range d.Interfaces {
		for _, a := range i.Addresses {
			p := place{d.SegmentOf(i, a), a}
			if len(holders[p]) == 0 {
				order = append(order, p)
			}
			if !slices.ContainsFunc(holders[p], func(o dossier.Interface) bool { return o.ID == i.ID }) {
				holders[p] = append(holders[p], i)
			}
		}
	}
	var out []Finding
	for _, p := range order {
		if len(holders[p]) < 2 {
			continue
		}
		f := Finding{Values: map[string]string{"address": p.address.String(), "segment": d.Label(p.segment.Ref())}}
		var names []string
		// The newest adapter stands first: it is the one most likely recorded or set wrongly.
		for _, i := range slices.Backward(holders[p]) {
			f.Subjects = append(f.Subjects, i.ID.Ref(), i.Device.Ref())
			names = append(names, d.Label(i.Device.Ref()))
		}
		f.Values["devices"] = strings.Join(names, ", ")
		out = append(out, f)
	}
	return out
}

// differentSegments finds paths whose device looks for its server by multicast although no
// segment holds both: SSDP and mDNS do not pass a router (UPnP Device Architecture 2.0, section
// 1.3.2; RFC 6762, section 3). Where a segment is not known nothing is said.
func differentSegments(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, p := range d.Paths {
		if p.Retired || p.FoundBy != dossier.ByMulticast {
			continue
		}
		source, _ := d.Sources.Get(p.Source)
		at := d.SegmentsOf(d.InterfacesOf(p.Device))
		from := d.SegmentsOf(d.ListensOn(source))
		if len(at) == 0 || len(from) == 0 || shareOne(at, from) || shareOne(at, d.SegmentsOf(d.InterfacesOf(source.Device))) {
			continue // with another adapter in the device's segment it is listens-elsewhere
		}
		out = append(out, Finding{
			Subjects: []dossier.Ref{p.ID.Ref(), p.Device.Ref(), source.Device.Ref()},
			Values: map[string]string{
				"device": d.Label(p.Device.Ref()), "deviceSegments": labels(d, at),
				"server": d.Label(source.Device.Ref()), "serverSegments": labels(d, from),
			},
		})
	}
	return out
}

func labels(d *dossier.Dossier, ids []dossier.ID[dossier.Segment]) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		s, _ := d.Segments.Get(id)
		names[i] = s.Name + " (" + s.Prefix.String() + ")"
	}
	return strings.Join(names, ", ")
}
