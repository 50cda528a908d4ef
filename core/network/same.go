package network

import (
	"cmp"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// Union says whether what belongs together is on one network.
type Union string

// Answers to "is everything on the same network?".
const (
	UnionUnknown Union = "unknown"     // of one end no segment is known
	UnionWhole   Union = "one-network" // in one segment, and nothing stands between
	UnionPassed  Union = "passed-on"   // in two segments, but multicast is passed from one to the other
	UnionRouted  Union = "routed"      // in two segments, found without multicast
	UnionApart   Union = "apart"       // in two segments, or kept apart within one
)

// Values lists the answers.
func (Union) Values() []string {
	return []string{string(UnionUnknown), string(UnionWhole), string(UnionPassed), string(UnionRouted), string(UnionApart)}
}

// PathUnion is the answer for one path.
type PathUnion struct {
	Path  dossier.ID[dossier.Path]
	Union Union
}

// HomeUnion is the answer for a home: the segment that most media devices are in, those that are
// elsewhere, and those of which no segment is known.
type HomeUnion struct {
	Union   Union
	Segment dossier.ID[dossier.Segment]
	Here    int
	Apart   []dossier.ID[dossier.Device]
	Unknown []dossier.ID[dossier.Device]
	Paths   []PathUnion
}

// OneNetwork answers for a home and for each of its paths in use whether it is on one network.
func OneNetwork(x *dossier.Index) HomeUnion {
	v := &view{x, knowledge.Knowledge{}, time.Time{}}
	h := HomeUnion{Union: UnionUnknown}
	counts := map[dossier.ID[dossier.Segment]]int{}
	var media []dossier.Device
	for _, one := range x.Devices {
		if !isMedia(one) {
			continue
		}
		media = append(media, one)
		for _, s := range v.SegmentsAt(one.ID) {
			counts[s]++
		}
	}
	for _, s := range x.Segments { // in their order, so that a tie is always decided in the same way
		if counts[s.ID] > counts[h.Segment] {
			h.Segment = s.ID
		}
	}
	for _, one := range media {
		switch at := v.SegmentsAt(one.ID); {
		case len(at) == 0 && !one.Networked():
		case len(at) == 0:
			h.Unknown = append(h.Unknown, one.ID)
		case slices.Contains(at, h.Segment):
			h.Here++
		default:
			h.Apart = append(h.Apart, one.ID)
		}
	}
	switch {
	case len(h.Apart) > 0:
		h.Union = UnionApart
	case h.Here > 0 && len(h.Unknown) == 0:
		h.Union = UnionWhole
	}
	for _, p := range v.InUse {
		h.Paths = append(h.Paths, PathUnion{p.ID, v.union(p)})
	}
	return h
}

func isMedia(d dossier.Device) bool {
	return d.Is(dossier.RoleServer, dossier.RoleStorage, dossier.RolePlayer, dossier.RoleRenderer, dossier.RoleScreen, dossier.RoleReceiver, dossier.RoleControlPoint, dossier.RoleTuner)
}

func (v *view) union(p dossier.Path) Union {
	source, _ := v.Sources.Get(p.Source)
	at, from := v.SegmentsAt(p.Device), v.ServedIn(source)
	switch {
	case len(at) == 0 || len(from) == 0:
		return UnionUnknown
	case v.apart(p, source) != "":
		return UnionApart
	case shareOne(at, from):
		return UnionWhole
	case p.FoundBy != dossier.ByMulticast:
		return UnionRouted
	case v.passes(at, from):
		return UnionPassed
	}
	return UnionApart
}

// passes reports whether the router passes multicast between two sets of segments. The search goes
// one way and the announcement the other; either is enough to be found.
func (v *view) passes(at, from []dossier.ID[dossier.Segment]) bool {
	to := func(one dossier.ID[dossier.Segment], others []dossier.ID[dossier.Segment]) bool {
		s, _ := v.Segments.Get(one)
		return shareOne(s.MulticastTo, others)
	}
	return slices.ContainsFunc(at, func(s dossier.ID[dossier.Segment]) bool { return to(s, from) }) ||
		slices.ContainsFunc(from, func(s dossier.ID[dossier.Segment]) bool { return to(s, at) })
}

// apart returns the segment whose isolation stands between a device and a source, or "". Between
// two stations of one segment that is radio-to-radio, which a wired server is not touched by;
// between two segments it is guest-to-home at either end.
func (v *view) apart(p dossier.Path, source dossier.Source) dossier.ID[dossier.Segment] {
	at, from := v.SegmentsAt(p.Device), v.ServedIn(source)
	if len(at) == 0 || len(from) == 0 {
		return ""
	}
	var stands dossier.ID[dossier.Segment]
	routed := false
	for _, id := range at {
		s, _ := v.Segments.Get(id)
		switch shared := slices.Contains(from, id); {
		case shared && !(isolates(s, dossier.IsolationRadioToRadio) && v.onRadio(v.InterfacesOf(p.Device), id) && v.onRadio(v.ListensOn(source), id)):
			return ""
		case shared, isolates(s, dossier.IsolationGuestToHome):
			stands = cmp.Or(stands, id)
		default:
			routed = true
		}
	}
	if stands != "" && !routed || shareOne(at, from) {
		return stands
	}
	for _, id := range from {
		if s, _ := v.Segments.Get(id); isolates(s, dossier.IsolationGuestToHome) {
			return id
		}
	}
	return ""
}

func isolates(s dossier.Segment, what dossier.Isolation) bool {
	return s.Isolation == what || s.Isolation == dossier.IsolationBoth
}

// onRadio reports whether all adapters in the segment are on radio.
func (v *view) onRadio(adapters []dossier.Interface, segment dossier.ID[dossier.Segment]) bool {
	some := false
	for _, i := range adapters {
		if slices.Contains(v.SegmentsOf([]dossier.Interface{i}), segment) {
			if i.Medium != dossier.OnRadio {
				return false
			}
			some = true
		}
	}
	return some
}

// differentSegments finds paths whose device looks for its server by multicast although no
// segment holds both: SSDP and mDNS do not pass a router (UPnP Device Architecture 2.0, section
// 1.3.2; RFC 6762, section 3) unless it passes them on. Where a segment is not known nothing is
// said.
func differentSegments(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		if p.FoundBy != dossier.ByMulticast {
			continue
		}
		source, _ := v.Sources.Get(p.Source)
		at, from := v.SegmentsAt(p.Device), v.ServedIn(source)
		if len(at) == 0 || len(from) == 0 || shareOne(at, from) || shareOne(at, v.SegmentsAt(source.Device)) || v.passes(at, from) {
			continue // with another adapter in the device's segment it is listens-elsewhere
		}
		how := "move-or-type-address"
		if v.apart(p, source) != "" {
			how = "move-only" // an address that is typed in would be stopped by the isolation
		}
		out = append(out, about(refs(p.ID.Ref(), p.Device.Ref(), source.Device.Ref()),
			"device", v.Label(p.Device.Ref()), "deviceSegments", v.names(at), "server", v.Label(source.Device.Ref()), "serverSegments", v.names(from), "how", dossier.Said(how)))
	}
	return out
}

// keptApart finds paths whose ends could meet, were it not for the isolation of a segment.
func keptApart(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		source, _ := v.Sources.Get(p.Source)
		at, from := v.SegmentsAt(p.Device), v.ServedIn(source)
		id := v.apart(p, source)
		if p.Kind == dossier.Copy && p.FoundBy == dossier.ByNothing {
			continue // it plays what is on the device
		}
		if id == "" || !shareOne(at, from) && (p.FoundBy == dossier.ByMulticast && !v.passes(at, from) || shareOne(at, v.SegmentsAt(source.Device))) {
			continue // said already: different-segments, listens-elsewhere
		}
		s, _ := v.Segments.Get(id)
		between, how := "isolates-segments", "move-into-segment"
		if shareOne(at, from) {
			between, how = "isolates-stations", "wire-one"
		}
		out = append(out, about(refs(p.ID.Ref(), p.Device.Ref(), source.Device.Ref(), id.Ref()),
			"device", v.Label(p.Device.Ref()), "server", v.Label(source.Device.Ref()), "segment", s.Name, "between", dossier.Said(between), "how", dossier.Said(how)))
	}
	return out
}

// listensElsewhere finds paths whose source is bound to an adapter in none of the segments of the
// device, although its server has another adapter that is.
func listensElsewhere(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		source, _ := v.Sources.Get(p.Source)
		if !v.boundElsewhere(p, source) {
			continue
		}
		bound, _ := v.Interfaces.Get(source.Interface)
		at := v.SegmentsAt(p.Device)
		facing, there := v.facing(source.Device, at)
		out = append(out, about(refs(source.ID.Ref(), p.ID.Ref(), p.Device.Ref()),
			"source", v.FullLabel(source.ID.Ref()), "adapter", bound.Name+addressIn(bound), "device", v.Label(p.Device.Ref()), "segments", v.names(at), "bind", facing.Name+addressIn(facing), "there", there))
	}
	return out
}

// boundElsewhere reports whether the source of a path is bound to an adapter in none of the segments of
// the device, although its server has another adapter that is.
func (v *view) boundElsewhere(p dossier.Path, source dossier.Source) bool {
	_, bound := v.Interfaces.Get(source.Interface)
	at := v.SegmentsAt(p.Device)
	return bound && len(at) > 0 && !shareOne(at, v.ServedIn(source)) && shareOne(at, v.SegmentsAt(source.Device))
}

// facing returns the adapter of a server that is in one of the segments, and the segment's name.
func (v *view) facing(server dossier.ID[dossier.Device], at []dossier.ID[dossier.Segment]) (dossier.Interface, string) {
	for _, i := range v.InterfacesOf(server) {
		for _, id := range v.SegmentsOf([]dossier.Interface{i}) {
			if slices.Contains(at, id) {
				return i, v.Label(id.Ref())
			}
		}
	}
	return dossier.Interface{}, ""
}

func addressIn(i dossier.Interface) string {
	if len(i.Addresses) == 0 {
		return ""
	}
	return " (" + i.Addresses[0].String() + ")"
}

// severalAdapters finds servers in more than one segment. Where a source is bound to none of their
// adapters, which one it announces is its own choice, and can change at the next start; where it is
// bound, that has to be remembered when the network changes.
func severalAdapters(v *view) []Finding {
	var out []Finding
	for _, s := range v.Sources {
		if at := v.SegmentsAt(s.Device); len(at) > 1 && len(v.Using(s.Device)) > 0 {
			bound := dossier.Said("bound-to-none")
			if i, ok := v.Interfaces.Get(s.Interface); ok {
				if slices.ContainsFunc(v.InUse, func(p dossier.Path) bool { return p.Source == s.ID && v.boundElsewhere(p, s) }) {
					continue // said already: listens-elsewhere
				}
				bound = dossier.Said("bound-to", "adapter", i.Name+addressIn(i))
			}
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "source", v.FullLabel(s.ID.Ref()), "segments", v.names(at), "bound", bound))
		}
	}
	return out
}

// onGuestSegment finds media devices that someone parked on a guest segment and that no path
// speaks for yet.
func onGuestSegment(v *view) []Finding {
	var out []Finding
	for _, one := range v.Devices {
		at := v.SegmentsAt(one.ID)
		if !isMedia(one) || len(at) != 1 || slices.ContainsFunc(v.InUse, func(p dossier.Path) bool { return p.Device == one.ID }) || len(v.Using(one.ID)) > 0 {
			continue
		}
		if s, _ := v.Segments.Get(at[0]); isolates(s, dossier.IsolationGuestToHome) {
			out = append(out, about(refs(one.ID.Ref(), s.ID.Ref()), "device", one.Name, "segment", s.Name))
		}
	}
	return out
}

// snoopingWithoutQuerier finds segments whose switches forget after minutes who wants multicast,
// because there is no querier (RFC 4541, section 2.1.1).
func snoopingWithoutQuerier(v *view) []Finding {
	var out []Finding
	for _, s := range v.Segments {
		if s.Snooping == dossier.Yes && s.Querier == dossier.No {
			out = append(out, about(refs(s.ID.Ref()), "segment", s.Name))
		}
	}
	return out
}
