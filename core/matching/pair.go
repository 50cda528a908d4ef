package matching

import (
	"math"
	"net/netip"
	"reflect"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// pair finds, for every record that the host says itself to be, the recorded one it is.
func (b *Beside) pair(d *dossier.Dossier) {
	b.Records[0] = b.Device.Ref()
	taken := map[dossier.Ref]bool{}
	for n := 1; n < len(b.Host.Seen); n++ {
		s := b.Host.Seen[n]
		owner := b.Records[s.Of]
		switch {
		case s.Kind == "line":
			b.Records[n] = lineAt(d, b.Device)
			continue
		case s.Kind == "segment":
			b.Records[n] = b.Host.Segment.Ref()
			continue
		case owner == (dossier.Ref{}):
			continue // new, and so is what belongs to it
		}
		best, points := dossier.Ref{}, 0
		for ref, r := range within(d, s.Kind, owner) {
			if p := likeness(s, b.Host.at(n), r); p > points && !taken[ref] {
				best, points = ref, p
			}
		}
		switch {
		case best == (dossier.Ref{}) && s.Kind == "interface":
			best = loneAdapter(d, b.Device, b.Host, n)
		case s.Kind == "reading":
			best = readAlready(d, owner, s)
		}
		b.Records[n] = best
		taken[best] = best != dossier.Ref{}
	}
}

// within iterates over the records of a kind that belong to the owner, in the order of their ids.
func within(d *dossier.Dossier, kind string, owner dossier.Ref) func(func(dossier.Ref, dossier.Record) bool) {
	k := dossier.KindNamed(kind)
	return func(yield func(dossier.Ref, dossier.Record) bool) {
		rows := k.In(d)
		for i := range rows.Len() {
			r := rows.At(i)
			ref := dossier.Ref{Kind: kind, ID: r.Key()}
			for _, f := range k.Fields {
				if f.Rule == dossier.Fixed && slices.Contains(f.Refs(r), owner) && !yield(ref, r) {
					return
				}
			}
		}
	}
}

// likeness says in points how much a seen record is a recorded one of the same owner; 0 for not at
// all. What is unique within the owner weighs most.
func likeness(s Seen, at []netip.Addr, r dossier.Record) int {
	says := func(member string, recorded any) bool {
		v := reflect.ValueOf(recorded)
		return v.IsValid() && !v.IsZero() && reflect.DeepEqual(s.Members[member], recorded)
	}
	switch r := r.(type) {
	case dossier.Interface:
		switch {
		case says("hardwareAddress", r.HardwareAddress):
			return 3
		case slices.ContainsFunc(at, func(a netip.Addr) bool { return slices.Contains(r.Addresses, a) }) && (r.HardwareAddress == "" || s.Members["hardwareAddress"] == nil):
			return 2
		}
	case dossier.Source:
		if s.Members["protocol"] != r.Protocol || r.UDN != "" && s.Members["udn"] != nil && !says("udn", r.UDN) {
			return 0
		}
		points := 1
		for _, m := range []struct {
			name     string
			recorded any
			weight   int
		}{{"udn", r.UDN, 8}, {"locator", r.Locator, 4}, {"port", r.Port, 2}, {"shownName", r.ShownName, 2}} {
			if says(m.name, m.recorded) {
				points += m.weight
			}
		}
		if shares(r.Protocol) && points < 5 && r.Locator != "" {
			return 0 // another share of the same server
		}
		return points
	case dossier.Folder:
		if name, _ := s.Members["name"].(string); strings.EqualFold(name, r.Name) {
			return 1
		}
	case dossier.Software:
		if says("does", r.Does) {
			return 1
		}
	case dossier.Decoding:
		return 1
	}
	return 0
}

// shares reports whether one server has many sources of this protocol, told apart by their locator.
func shares(p dossier.Protocol) bool {
	return p == dossier.ProtocolSMB || p == dossier.ProtocolNFS
}

// loneAdapter is the device's only adapter, if nothing says that the host's is another one: an
// adapter that was given another address is still the same.
func loneAdapter(d *dossier.Dossier, device dossier.ID[dossier.Device], h Host, n int) dossier.Ref {
	all := d.InterfacesOf(device)
	hardware, adapters := hardwareAt(h, n), 0
	for _, s := range h.Seen {
		if s.Kind == "interface" {
			adapters++
		}
	}
	if len(all) != 1 || adapters > 1 || all[0].HardwareAddress != "" && hardware != "" && hardware != all[0].HardwareAddress {
		return dossier.Ref{}
	}
	return all[0].ID.Ref()
}

// readAgain is how far a value may be from the newest reading and still say the same.
const readAgain = 5

// readAlready is the newest reading of the same quantity at the device, if it says what was seen
// now. A reading is never changed: another value is another reading.
func readAlready(d *dossier.Dossier, device dossier.Ref, s Seen) dossier.Ref {
	var newest dossier.Reading
	for _, r := range d.Readings {
		if r.Subject == device && r.What == s.Members["what"] && !r.At.Before(newest.At) {
			newest = r
		}
	}
	value, _ := s.Members["value"].(float64)
	if newest.ID == "" || math.Abs(newest.Value-value) > readAgain {
		return dossier.Ref{}
	}
	return newest.ID.Ref()
}

// lineAt is the line that ends at a router, or else the only one of the home.
func lineAt(d *dossier.Dossier, router dossier.ID[dossier.Device]) dossier.Ref {
	for _, l := range d.Lines {
		if router != "" && l.Router == router {
			return l.ID.Ref()
		}
	}
	if len(d.Lines) == 1 && d.Lines[0].Router == "" {
		return d.Lines[0].ID.Ref()
	}
	return dossier.Ref{}
}
