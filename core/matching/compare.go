package matching

import (
	"cmp"
	"fmt"
	"maps"
	"net/netip"
	"reflect"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Relation is how a seen value stands to the recorded one.
type Relation string

// Relations. What the network does not say is not compared: it stays as it was.
const (
	Same    Relation = "same"
	New     Relation = "new"     // nothing is recorded
	Differs Relation = "differs" // something else is recorded
)

// Difference is one member of one record as it is recorded, as it was seen, and as it would be
// after taking it over: of a list what was seen is added, of the rest it replaces.
type Difference struct {
	Place    int // of the record, in the host's list
	Record   dossier.Ref
	Kind     string
	Member   string
	Recorded any // nil if there is no record
	Seen     any
	After    any
	By       Way
	Relation Relation
	// Certain says that it can be recorded without review: the network is the authority on it, or
	// nothing is recorded yet.
	Certain bool
}

// Status is where a host stands to the record.
type Status string

// Statuses of hosts and of recorded devices.
const (
	AsRecorded Status = "as-recorded"
	Changed    Status = "changed"  // a device that says something else or more than is recorded
	Unknown    Status = "new"      // no recorded device is like it
	Unsure     Status = "unsure"   // it may be a recorded device: someone should say
	NotSeen    Status = "not-seen" // recorded, and silent in a segment that was looked at
)

// Since is what became of a host since the previous scan.
type Since string

// Changes since the previous scan.
const (
	SinceSame    Since = ""
	SinceNew     Since = "appeared"
	SinceChanged Since = "changed"
	SinceGone    Since = "gone"
)

// Beside is one host compared with the record, or one recorded device that was not seen.
type Beside struct {
	Key     string // the same in every scan, as far as the host can be known again
	Host    Host
	Match   Match
	Status  Status
	Since   Since
	Before  Host     // as it was in the previous scan, if it has changed or is gone
	Changes []Change // what has changed since then
	Device  dossier.ID[dossier.Device]
	// Records gives for each place in the host's list the record it is, or none for a new one.
	Records     []dossier.Ref
	Differences []Difference
}

// Choice says by hand which device a host is: by the host's key. An empty id says that it is a
// new one.
type Choice map[string]dossier.ID[dossier.Device]

// Compare holds what was seen compared with the record. Before is the previous scan, to say what is new,
// gone or changed since. The order is that of the addresses; devices that were not seen come last.
func Compare(d *dossier.Dossier, now Scan, before Scan, chosen Choice) []Beside {
	var out []Beside
	now.Hosts, before.Hosts = Join(now.Hosts), Join(before.Hosts)
	matches := MatchHosts(d, now.Hosts)
	earlier := map[string]Host{}
	for _, h := range before.Hosts {
		earlier[Key(h)] = h
	}
	seen := map[dossier.ID[dossier.Device]]bool{}
	for n, h := range now.Hosts {
		b := Beside{Key: Key(h), Host: h, Match: matches[n]}
		if id, said := chosen[b.Key]; said {
			b.Match.Device, b.Match.Class = id, Sure
			if id == "" {
				b.Match.Class, b.Match.Reasons, b.Match.Candidates = None, nil, nil
			}
		}
		for _, c := range b.Match.Candidates {
			seen[c.Device] = true
		}
		seen[b.Match.Device] = true
		b.compare(d)
		was, there := earlier[b.Key]
		delete(earlier, b.Key)
		switch {
		case len(before.Segments) > 0 && covers(before, h.Segment) && !there && b.Device == "":
			b.Since = SinceNew // a recorded one that was silent once has not appeared
		case there:
			if b.Changes = h.Since(was); len(b.Changes) > 0 || was.Left != h.Left {
				b.Since, b.Before = SinceChanged, was
			}
		}
		out = append(out, b)
	}
	slices.SortFunc(out, func(a, b Beside) int {
		return cmp.Or(a.Host.Address.Compare(b.Host.Address), strings.Compare(a.Key, b.Key))
	})
	if now.Short || now.Cut {
		return out // what was not reached is not silent
	}
	for _, v := range d.Devices {
		if b, silent := notSeen(d, v, now, earlier); silent && !seen[v.ID] {
			out = append(out, b)
		}
	}
	for _, h := range slices.SortedFunc(maps.Values(earlier), func(a, b Host) int { return a.Address.Compare(b.Address) }) {
		if covers(now, h.Segment) && !now.unasked(h.Addresses()) && !slices.ContainsFunc(out, func(b Beside) bool { return b.Key == Key(h) }) {
			out = append(out, Beside{Key: Key(h), Host: h, Status: NotSeen, Since: SinceGone, Before: h})
		}
	}
	return out
}

func covers(g Scan, segment dossier.ID[dossier.Segment]) bool {
	return slices.ContainsFunc(g.Segments, func(l CoveredSegment) bool { return l.Segment == segment })
}

// unasked reports whether it is not known if anything is at one of the addresses.
func (g Scan) unasked(all []netip.Addr) bool {
	return slices.ContainsFunc(all, func(a netip.Addr) bool { return slices.Contains(g.Unasked, a) })
}

// notSeen reports whether a device should have been seen and was not: it is on the network, has an
// address in a segment that was looked at, and nothing answered there.
func notSeen(d *dossier.Dossier, v dossier.Device, now Scan, earlier map[string]Host) (Beside, bool) {
	b := Beside{Key: "device/" + string(v.ID), Device: v.ID, Status: NotSeen}
	for _, i := range d.InterfacesOf(v.ID) {
		if now.unasked(i.Addresses) {
			return b, false // whether it is there is not known
		}
		for _, a := range i.Addresses {
			if slices.ContainsFunc(now.Hosts, func(h Host) bool { return slices.Contains(h.Addresses(), a) }) {
				return b, false // something answers there: it is not silent, whoever it is
			}
			if s := d.SegmentOf(i, a); !b.Host.Address.IsValid() && covers(now, s) {
				b.Host.Segment, b.Host.Address = s, a
			}
		}
	}
	if !b.Host.Address.IsValid() {
		return b, false
	}
	for key, h := range earlier {
		if h.Address == b.Host.Address {
			b.Key, b.Since, b.Before = key, SinceGone, h
			delete(earlier, key)
			break
		}
	}
	return b, true
}

// Key is what a host is known again by: its unique name, else its MAC address, else its host
// name, else its address.
func Key(h Host) string {
	udns := udnsOf(h)
	slices.Sort(udns)
	switch {
	case hardwareOf(h) != "":
		return "hardware/" + string(hardwareOf(h))
	case len(udns) > 0:
		return udns[0] + "@" + h.Address.String()
	case h.text(0, "hostName") != "":
		return "name/" + hostName(h.text(0, "hostName")) + "@" + string(h.Segment)
	}
	return "address/" + h.Address.String()
}

// compare pairs the host's records with those of its device and lists the differences.
func (b *Beside) compare(d *dossier.Dossier) {
	b.Records = make([]dossier.Ref, len(b.Host.Seen))
	b.Device = b.Match.Device
	b.pair(d)
	for n, s := range b.Host.Seen {
		if b.Device == "" && len(b.Match.Candidates) > 0 {
			break // someone has to say who it is first
		}
		if s.Kind == "segment" && s.By["poolFirst"] != "" && b.Device != "" { // who says what is given out gives it out
			s.Members, s.By = maps.Clone(s.Members), maps.Clone(s.By)
			s.Members["dhcpServers"], s.By["dhcpServers"] = []dossier.ID[dossier.Device]{b.Device}, s.By["poolFirst"]
		}
		k := dossier.KindNamed(s.Kind)
		_, recorded, there := d.Record(b.Records[n])
		if !there && known[s.Kind] {
			continue
		}
		for _, f := range k.Fields {
			value, said := s.Members[f.Name]
			if !said {
				continue
			}
			diff := Difference{Place: n, Record: b.Records[n], Kind: s.Kind, Member: f.Name, Seen: value, By: s.By[f.Name]}
			if there {
				diff.Recorded = f.Get(recorded)
			}
			diff.relate(f, s)
			diff.Certain = b.certain(diff)
			b.Differences = append(b.Differences, diff)
		}
	}
	b.stand()
}

func (b *Beside) stand() {
	other := slices.ContainsFunc(b.Differences, func(d Difference) bool { return d.Relation != Same })
	switch {
	case b.Match.Class == Likely:
		b.Status = Unsure
	case b.Match.Class == None:
		b.Status = Unknown
	case other:
		b.Status = Changed
	default:
		b.Status = AsRecorded
	}
}

// kept are the members of which people know better than the network, once something stands there:
// what is on the label, and what a person judged.
var kept = map[string]bool{"device.roles": true, "device.make": true, "device.model": true, "device.variant": true, "device.serial": true, "folder.contentKind": true, "device.menus": true, "device.contentKinds": true}

// known are the kinds that are not made from what was seen: the line's kind and the segment's name
// are for people to say.
var known = map[string]bool{"line": true, "segment": true}

// certain says whether a difference can be recorded without review.
func (b *Beside) certain(d Difference) bool {
	if b.Match.Class == Likely || b.Match.Class == None && !b.Host.Serves() {
		return false
	}
	return d.Relation == New || d.Relation == Differs && !kept[d.Kind+"."+d.Member] && d.Member != "entries"
}

// Serves reports whether a host says that it has a role in the home's media. A host that is only there, such as a
// guest's telephone, is not recorded without a word.
func (h Host) Serves() bool {
	return slices.ContainsFunc(h.Seen, func(s Seen) bool { return s.Kind == "source" || s.Kind == "decoding" || s.Members["roles"] != nil })
}

// relate says how the seen value stands to the recorded one, and what it would be after.
func (d *Difference) relate(f dossier.Field, s Seen) {
	d.After = d.Seen
	v := reflect.ValueOf(d.Recorded)
	if d.Kind == "reading" && v.IsValid() {
		d.Relation, d.After = Same, d.Recorded
		return
	}
	if !v.IsValid() || v.IsZero() {
		d.Relation = New
		if v.IsValid() && reflect.DeepEqual(d.Recorded, d.Seen) {
			d.Relation = Same // none counted, and none recorded
		}
		return
	}
	switch {
	case d.Kind == "interface" && d.Member == "addresses":
		d.relateAddresses(s)
		return
	case d.Member == "entries":
		d.relateEntries()
		return
	case f.List:
		d.relateList()
		return
	}
	d.Relation = Differs
	sameHost := d.Member == "hostName" && hostName(fmt.Sprint(d.Recorded)) == hostName(fmt.Sprint(d.Seen)) // by mDNS it has another domain
	if reflect.DeepEqual(d.Recorded, d.Seen) || d.Member == "name" || sameHost || kept[d.Kind+"."+d.Member] && alike(d.Recorded, d.Seen) {
		d.Relation, d.After = Same, d.Recorded // the name that people gave stays
	}
}

// alike reports whether two texts are the same except for spelling, or one contains the other.
func alike(a, b any) bool {
	x, y := plain(fmt.Sprint(a)), plain(fmt.Sprint(b))
	return x == y || len(x) >= 3 && len(y) >= 3 && (strings.Contains(x, y) || strings.Contains(y, x))
}

// relateAddresses puts the seen addresses in the place of those that the adapter had of their family
// in the same /24 or /64; the others were not looked at. An adapter that answers at an address of IPv6 that is
// recorded has its address: further ones come and go.
func (d *Difference) relateAddresses(s Seen) {
	recorded, seen := d.Recorded.([]netip.Addr), s.Members["addresses"].([]netip.Addr)
	four, six := families(seen)
	if shared(recorded, six) {
		seen = append(four, slices.DeleteFunc(six, func(a netip.Addr) bool { return !slices.Contains(recorded, a) })...)
	}
	if !slices.ContainsFunc(seen, func(a netip.Addr) bool { return !slices.Contains(recorded, a) }) {
		d.Relation, d.After = Same, recorded
		return
	}
	d.Relation = Differs
	after := slices.Clone(seen)
	for _, a := range recorded {
		near := func(other netip.Addr) bool {
			bits := 24
			if other.Is6() {
				bits = 64
			}
			p, _ := other.Prefix(bits)
			return p.Contains(a)
		}
		if !slices.ContainsFunc(seen, near) {
			after = append(after, a)
		}
	}
	d.After = after
}

// relateList adds to a list what was seen and is not in it.
func (d *Difference) relateList() {
	recorded, seen := reflect.ValueOf(d.Recorded), reflect.ValueOf(d.Seen)
	after := reflect.AppendSlice(reflect.MakeSlice(recorded.Type(), 0, recorded.Len()+seen.Len()), recorded)
	for i := range seen.Len() {
		there := false
		for j := range recorded.Len() {
			there = there || reflect.DeepEqual(recorded.Index(j).Interface(), seen.Index(i).Interface())
		}
		if !there {
			after = reflect.Append(after, seen.Index(i))
		}
	}
	d.Relation, d.After = Same, d.Recorded
	if after.Len() > recorded.Len() {
		d.Relation, d.After = Differs, after.Interface()
	}
}

// relateEntries joins declared decoding entries to the recorded ones: what is proven stays, what
// was declared or assumed otherwise gives way, what a data sheet says beside it stays, and what
// contradicts a proof is left to people.
func (d *Difference) relateEntries() {
	recorded, seen := d.Recorded.([]dossier.DecodingEntry), d.Seen.([]dossier.DecodingEntry)
	after := slices.Clone(recorded)
	changed := false
	for _, e := range seen {
		about := func(o dossier.DecodingEntry) bool {
			return o.Part == e.Part && strings.EqualFold(string(o.Format), string(e.Format)) && (o.Profile == e.Profile || o.Profile == "")
		}
		same := func(o dossier.DecodingEntry) bool {
			o.Limits = e.Limits
			return o == e
		}
		if slices.ContainsFunc(after, same) || slices.ContainsFunc(after, func(o dossier.DecodingEntry) bool { return about(o) && o.Evidence == dossier.EvidenceProven }) {
			continue
		}
		changed = true
		i := slices.IndexFunc(after, func(o dossier.DecodingEntry) bool {
			outdated := o.Evidence == dossier.EvidenceDeclared && !slices.ContainsFunc(seen, func(s dossier.DecodingEntry) bool { s.Limits = o.Limits; return s == o })
			return about(o) && (outdated || o.Able != e.Able || o.Evidence == dossier.EvidenceAssumed)
		})
		if i < 0 {
			after = append(after, e)
			continue
		}
		e.Limits = cmp.Or(e.Limits, after[i].Limits)
		after[i] = e
	}
	d.Relation, d.After = Same, d.Recorded
	if changed {
		d.Relation, d.After = Differs, after
	}
}
