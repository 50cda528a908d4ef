// Package survey says what a walk through a home still has to find out, room by room.
package survey

import (
	"cmp"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Gap is one thing that is not recorded yet, and the record it is missing at (a room, an outlet, a
// device, a segment or a line; none for the home as a whole).
type Gap struct {
	Code    string
	Subject dossier.Ref
}

// GapKind declares one sort of gap: what it is called, and what is recorded to fill it. If the
// gap's subject is of the kind, its members are filled in; else a record of the kind is added.
type GapKind struct {
	Name    string
	Kind    string
	Members []string
}

// GapKinds lists all sorts of gap in the order in which they are met on the walk.
var GapKinds = []GapKind{
	{"no-line", "line", nil},
	{"line-unmeasured", "line", []string{"downMbps", "upMbps", "measuredAt"}},
	{"no-outer-address", "line", []string{"outerAddress", "seenAddress", "outerPrefix"}},
	{"no-router", "device", nil},
	{"no-segment", "segment", nil},
	{"no-lease-pool", "segment", []string{"poolFirst", "poolLast", "noDhcp"}},
	{"no-dhcp-server", "segment", []string{"dhcpServers", "noDhcp"}},
	{"device-without-room", "device", []string{"room"}},
	{"no-outlets", "outlet", nil},
	{"outlet-unpatched", "outlet", []string{"patchedTo", "patching", "notPatched"}},
	{"outlet-untested", "outlet", []string{"tested", "testedMbps", "testedOn"}},
	{"no-power", "room", []string{"power"}},
	{"no-reading", "reading", nil},
	{"no-photograph", "attachment", nil},
	{"no-serial", "device", []string{"serial"}},
	{"no-adapter", "interface", nil},
	{"no-hardware-address", "interface", []string{"hardwareAddress"}},
	{"no-signal", "reading", nil},
}

// Kind returns the declaration of the gap.
func (g Gap) Kind() GapKind {
	return GapKinds[slices.IndexFunc(GapKinds, func(k GapKind) bool { return k.Name == g.Code })]
}

// Stop is one room of the walk, with what is missing there. The last stop has no room: it is for
// the home as a whole and for what stands nowhere.
type Stop struct {
	Room     dossier.ID[dossier.Room]
	Gaps     []Gap
	Answered []dossier.GapAnswer // gaps that need nothing recorded, as someone said
}

// Walk returns the stops of a home in walking order: by floor from the lowest, in each by the
// order counted from the stairs, then the home as a whole.
func Walk(x *dossier.Index) []Stop {
	w := walk{x}
	rooms := slices.Clone(x.Rooms)
	slices.SortStableFunc(rooms, func(a, b dossier.Room) int {
		return cmp.Or(cmp.Compare(a.Floor, b.Floor), cmp.Compare(a.Order, b.Order), strings.Compare(a.Name, b.Name))
	})
	var out []Stop
	for _, r := range rooms {
		out = append(out, w.answered(Stop{Room: r.ID, Gaps: w.room(r)}))
	}
	return append(out, w.answered(Stop{Gaps: w.home()}))
}

// answered takes the gaps out of a stop that someone answered.
func (w walk) answered(s Stop) Stop {
	s.Gaps = slices.DeleteFunc(s.Gaps, func(g Gap) bool {
		i := slices.IndexFunc(w.GapAnswers, func(a dossier.GapAnswer) bool { return a.Gap == g.Code && a.Subject == g.Subject })
		if i >= 0 {
			s.Answered = append(s.Answered, w.GapAnswers[i])
		}
		return i >= 0
	})
	return s
}

type walk struct{ *dossier.Index }

func (w walk) home() (out []Gap) {
	missing := func(code string, at dossier.Ref) { out = append(out, Gap{code, at}) }
	if len(w.Lines) == 0 {
		missing("no-line", dossier.Ref{})
	}
	for _, l := range w.Lines {
		if l.DownMbps == 0 {
			missing("line-unmeasured", l.ID.Ref())
		}
		if !l.OuterAddress.IsValid() || !l.SeenAddress.IsValid() {
			missing("no-outer-address", l.ID.Ref())
		}
	}
	if !slices.ContainsFunc(w.Devices, func(v dossier.Device) bool { return v.Is(dossier.RoleRouter) }) {
		missing("no-router", dossier.Ref{})
	}
	if len(w.Segments) == 0 {
		missing("no-segment", dossier.Ref{})
	}
	for _, s := range w.Segments {
		if s.NoDHCP {
			continue
		}
		if !s.PoolFirst.IsValid() {
			missing("no-lease-pool", s.ID.Ref())
		}
		offered := slices.ContainsFunc(w.DHCPServers, func(o dossier.DHCPServer) bool { return o.Segment == s.ID })
		if len(s.DHCPServers) == 0 && !offered {
			missing("no-dhcp-server", s.ID.Ref())
		}
	}
	for _, v := range w.DevicesIn("") {
		if !v.Carried {
			missing("device-without-room", v.ID.Ref())
		}
		out = append(out, w.device(v)...)
	}
	return out
}

func (w walk) room(r dossier.Room) (out []Gap) {
	missing := func(code string, at dossier.Ref) { out = append(out, Gap{code, at}) }
	here := w.DevicesIn(r.ID)
	outlets := 0
	for _, o := range w.Outlets {
		if o.Room != r.ID {
			continue
		}
		outlets++
		if o.Cable == dossier.Coax || o.Cable == dossier.CableTelephone {
			continue
		}
		if o.PatchedTo == "" && !o.NotPatched {
			missing("outlet-unpatched", o.ID.Ref())
		}
		if o.TestedMbps == 0 && o.Tested == "" && !o.NotPatched {
			missing("outlet-untested", o.ID.Ref())
		}
	}
	if outlets == 0 && slices.ContainsFunc(here, func(v dossier.Device) bool { return !v.Carried }) {
		missing("no-outlets", r.ID.Ref())
	}
	if len(here) > 0 && r.Power == "" {
		missing("no-power", r.ID.Ref())
	}
	if w.watched(r, here) && !w.measured(r, here) {
		missing("no-reading", r.ID.Ref())
	}
	if !w.photographed(r) {
		missing("no-photograph", r.ID.Ref())
	}
	for _, v := range here {
		out = append(out, w.device(v)...)
	}
	return out
}

// device tells what is missing at a device: its label, its adapters, its signal.
func (w walk) device(v dossier.Device) (out []Gap) {
	missing := func(code string, at dossier.Ref) { out = append(out, Gap{code, at}) }
	if v.Serial == "" {
		missing("no-serial", v.ID.Ref())
	}
	adapters := w.InterfacesOf(v.ID)
	if len(adapters) == 0 && v.Networked() {
		missing("no-adapter", v.ID.Ref())
	}
	onRadio := false
	for _, i := range adapters {
		onRadio = onRadio || i.Medium == dossier.OnRadio && i.Channel == 0
		if i.HardwareAddress == "" && len(i.Addresses) > 0 && i.Facing != dossier.FacingOutside {
			missing("no-hardware-address", i.ID.Ref())
		}
	}
	if onRadio && !w.has(dossier.SignalDbm, func(r dossier.Reading) bool { return w.isOf(r.Subject, v.ID) }) {
		missing("no-signal", v.ID.Ref())
	}
	return out
}

// watched reports whether something is to be watched or heard in the room: it is wished, or there
// is a device for it.
func (w walk) watched(r dossier.Room, here []dossier.Device) bool {
	wished := slices.ContainsFunc(w.Wishes, func(wish dossier.Wish) bool {
		return wish.Room == r.ID && slices.Contains(dossier.ContentKind("").Values(), string(wish.What))
	})
	return wished || slices.ContainsFunc(here, func(v dossier.Device) bool {
		return slices.ContainsFunc(v.Roles, func(role dossier.Role) bool {
			return role == dossier.RoleScreen || role == dossier.RolePlayer || role == dossier.RoleRenderer
		})
	})
}

func (w walk) measured(r dossier.Room, here []dossier.Device) bool {
	return w.has(dossier.DownMbps, func(one dossier.Reading) bool {
		return one.Room == r.ID || slices.ContainsFunc(here, func(v dossier.Device) bool { return w.isOf(one.Subject, v.ID) })
	})
}

func (w walk) has(what dossier.Quantity, where func(dossier.Reading) bool) bool {
	return slices.ContainsFunc(w.Readings, func(r dossier.Reading) bool { return r.What == what && where(r) })
}

func (w walk) isOf(subject dossier.Ref, device dossier.ID[dossier.Device]) bool {
	i, _ := w.Interfaces.Get(dossier.ID[dossier.Interface](subject.ID))
	return subject == device.Ref() || i.Device == device
}

func (w walk) photographed(r dossier.Room) bool {
	return slices.ContainsFunc(w.Attachments, func(a dossier.Attachment) bool {
		return strings.HasPrefix(a.MediaType, "image/") && RoomOf(w.Dossier, a.Subject) == r.ID
	})
}

// RoomOf returns the room that a record is, is in, or belongs to by its device; "" for none.
func RoomOf(d *dossier.Dossier, ref dossier.Ref) (room dossier.ID[dossier.Room]) {
	upwards(d, ref, func(r dossier.Record) bool {
		switch one := r.(type) {
		case dossier.Room:
			room = one.ID
		case dossier.Device:
			room = one.Room
		case dossier.Outlet:
			room = one.Room
		case dossier.Reading:
			room = one.Room
			return room != "" // else that of what was measured
		default:
			return false
		}
		return true
	})
	return room
}

// DeviceOf returns the device that a record is, or belongs to; "" for none. A link belongs to the
// device it starts from, a path to the device on which media comes out.
func DeviceOf(d *dossier.Dossier, ref dossier.Ref) (device dossier.ID[dossier.Device]) {
	upwards(d, ref, func(r dossier.Record) bool {
		one, found := r.(dossier.Device)
		device = one.ID
		return found
	})
	return device
}

// upwards shows at the record that ref names, then what it belongs to, and so on, until at says
// that it has what it looks for.
func upwards(d *dossier.Dossier, ref dossier.Ref, at func(dossier.Record) bool) {
	for range dossier.Kinds { // never round in a ring longer than there are kinds
		k, r, ok := d.Record(ref)
		if !ok || at(r) {
			return
		}
		switch one := r.(type) {
		case dossier.Reading:
			ref = one.Subject
			continue
		case dossier.Link:
			ref = one.Near.Ref()
			continue
		case dossier.Path:
			ref = one.Device.Ref()
			continue
		}
		owner, ok := k.Owner()
		if !ok {
			return
		}
		refs := owner.Refs(r)
		if len(refs) == 0 {
			return
		}
		ref = refs[0]
	}
}

// ByRoom sorts findings to the rooms of what is to be changed; those that belong to no room stand
// under "".
func ByRoom(d *dossier.Dossier, findings []network.Finding) map[dossier.ID[dossier.Room]][]network.Finding {
	out := map[dossier.ID[dossier.Room]][]network.Finding{}
	for _, f := range findings {
		room := RoomOf(d, f.Subjects[0])
		out[room] = append(out[room], f)
	}
	return out
}
