package views

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/wire"
	"kaiku/wording"
)

func deviceAt(d *dossier.Dossier, i dossier.ID[dossier.Interface]) string {
	one, _ := d.Interfaces.Get(i)
	return string(one.Device)
}

type drawer struct {
	d     *dossier.Dossier
	links map[dossier.ID[dossier.Link]]wire.DrawnLink
	found map[dossier.ID[dossier.Device]][]network.Finding
	taken map[dossier.ID[dossier.Link]]taking
}

func (w drawer) room(id dossier.ID[dossier.Room], nodes []network.Node) wire.DrawnRoom {
	out := wire.DrawnRoom{Devices: []wire.DrawnDevice{}, Outlets: []string{}}
	if id != "" {
		out.Room = Named(w.d, id.Ref())
		for _, o := range w.d.Outlets {
			if o.Room == id {
				says := o.Name
				if o.PatchedTo != "" {
					says += " to " + w.d.FullLabel(o.PatchedTo.Ref())
				}
				out.Outlets = append(out.Outlets, says)
			}
		}
		slices.Sort(out.Outlets)
	}
	for _, n := range nodes {
		if v, _ := w.d.Devices.Get(n.Device); v.Room == id {
			out.Devices = append(out.Devices, w.device(v, n))
		}
	}
	slices.SortStableFunc(out.Devices, func(a, b wire.DrawnDevice) int {
		return cmp.Or(cmp.Compare(uint(a.Depth), uint(b.Depth)), strings.Compare(a.Device.Label, b.Device.Label)) // -1 comes last
	})
	return out
}

func (w drawer) device(v dossier.Device, n network.Node) wire.DrawnDevice {
	out := wire.DrawnDevice{Device: Named(w.d, v.ID.Ref()), Roles: []string{}, Segments: []wire.Named{}, Parent: string(n.Parent), Depth: n.Depth, Radios: []string{}, Findings: Findings(w.d, w.found[v.ID])}
	for _, r := range v.Roles {
		out.Roles = append(out.Roles, wording.Plain(string(r)))
	}
	var in []string
	for _, id := range n.Segments {
		out.Segments = append(out.Segments, Named(w.d, id.Ref()))
		in = append(in, w.d.Label(id.Ref()))
	}
	says := v.Name + ", " + strings.Join(out.Roles, " and ")
	switch {
	case n.Up != "":
		out.Up = w.links[n.Up]
		says += ", by " + out.Up.Says + " to " + w.d.Label(n.Parent.Ref())
		if out.Up.Taken != "" {
			says += " (" + out.Up.Taken + " by " + w.taken[n.Up].by + ")"
		}
	case n.Depth < 0 && v.Networked():
		says += "; no link is recorded"
	}
	if len(in) > 0 {
		says += ", in " + strings.Join(in, " and ")
	}
	for _, i := range w.d.InterfacesOf(v.ID) {
		if i.Channel == 0 {
			continue
		}
		radio := fmt.Sprintf("%s, channel %d", strings.ReplaceAll(string(i.Band), "-ghz", " GHz"), i.Channel)
		var hang []string
		for _, l := range w.d.Links {
			if l.Far == i.ID && l.Kind == dossier.LinkRadio {
				hang = append(hang, w.d.Label(dossier.ID[dossier.Device](deviceAt(w.d, l.Near)).Ref()))
			}
		}
		if len(hang) > 0 {
			radio += ": " + strings.Join(hang, ", ")
		}
		out.Radios = append(out.Radios, radio)
	}
	for _, f := range out.Findings {
		says += ". " + wording.Capital(string(f.Severity)) + ": " + strings.TrimSuffix(f.Sentence, ".")
	}
	out.Says = says + "."
	return out
}

func spotOf(d *dossier.Dossier, segment dossier.Segment, spot network.Spot) wire.AddressSpot {
	out := wire.AddressSpot{Address: spot.Address.String(), Share: spot.Share, Uses: spot.Uses, Holders: []wire.Named{}, Clash: spot.Clash, InPool: spot.InPool, Outside: spot.Outside}
	var said []string
	for _, u := range spot.Uses {
		if u == network.UseHeld && len(spot.Uses) > 1 {
			continue // the other use says enough
		}
		said = append(said, wording.Uses[u])
	}
	for _, h := range spot.Holders {
		out.Holders = append(out.Holders, Named(d, h))
	}
	if len(out.Holders) == 0 {
		for _, r := range segment.Reservations {
			if r.Address == spot.Address {
				said = append(said, "for "+cmp.Or(r.Name, string(r.HardwareAddress)))
			}
		}
	}
	switch {
	case spot.Clash:
		said = append(said, "used by more than one adapter")
	case spot.Outside:
		said = append(said, "outside the segment")
	case spot.InPool && slices.Contains(spot.Uses, network.UseFixed):
		said = append(said, "in the DHCP pool")
	}
	out.Says = strings.Join(said, ", ")
	return out
}

// Drawing says a home's network by floor and room, ready to be drawn.
func Drawing(h *assess.Assessment) wire.Drawing {
	d := h.Dossier
	nodes, spare := network.Graph(h.Index)
	w := drawer{d: d, links: map[dossier.ID[dossier.Link]]wire.DrawnLink{}, found: map[dossier.ID[dossier.Device]][]network.Finding{}, taken: mostTaken(h)}
	onLink := map[string]network.Severity{}
	for _, f := range h.Findings {
		if f.Subjects[0].Kind == "link" {
			onLink[f.Subjects[0].ID] = cmp.Or(onLink[f.Subjects[0].ID], f.Severity)
		}
		w.found[survey.DeviceOf(d, f.Subjects[0])] = append(w.found[survey.DeviceOf(d, f.Subjects[0])], f)
	}
	out := wire.Drawing{Revision: d.Revision, Floors: []wire.DrawnFloor{}, Links: []wire.DrawnLink{}, Segments: []wire.Named{}}
	for _, l := range d.Links {
		one := wire.DrawnLink{ID: l.ID, From: deviceAt(d, l.Near), To: deviceAt(d, l.Far), Kind: l.Kind, Says: wording.Link(l), Spare: slices.Contains(spare, l.ID), Severity: onLink[string(l.ID)]}
		if most, carries := w.taken[l.ID]; carries {
			one.Load, one.Taken = most.use.State(), wording.LoadTaken(most.use)
		}
		w.links[l.ID] = one
		out.Links = append(out.Links, one)
	}
	for _, seg := range d.Segments {
		out.Segments = append(out.Segments, wire.Named{Ref: seg.ID.Ref(), Label: seg.Name})
	}
	members := map[string]int{}
	for _, n := range nodes {
		for _, id := range n.Segments {
			members[string(id)]++
		}
	}
	slices.SortFunc(out.Segments, func(a, b wire.Named) int {
		return cmp.Or(cmp.Compare(members[b.ID], members[a.ID]), strings.Compare(a.Label, b.Label))
	})
	for _, stop := range h.Walk {
		room := w.room(stop.Room, nodes)
		if stop.Room == "" && len(room.Devices) == 0 {
			continue
		}
		r, _ := d.Rooms.Get(stop.Room)
		if n := len(out.Floors); n == 0 || out.Floors[n-1].Floor != r.Floor || stop.Room == "" {
			out.Floors = append(out.Floors, wire.DrawnFloor{Floor: r.Floor})
		}
		last := &out.Floors[len(out.Floors)-1]
		last.Rooms = append(last.Rooms, room)
	}
	slices.SortStableFunc(out.Floors, func(a, b wire.DrawnFloor) int {
		if nowhere := func(f wire.DrawnFloor) bool { return f.Rooms[0].Room.ID == "" }; nowhere(a) != nowhere(b) {
			return map[bool]int{true: 1, false: -1}[nowhere(a)]
		}
		return cmp.Compare(b.Floor, a.Floor)
	})
	return out
}

// taking is how much of a link is taken, and by which busy set or path.
type taking struct {
	use load.Use
	by  string
}

// mostTaken returns for each link that carries something where most of it is taken, or of the air that it shares: what is not
// known before what is known to be roomy.
func mostTaken(h *assess.Assessment) map[dossier.ID[dossier.Link]]taking {
	out := map[dossier.ID[dossier.Link]]taking{}
	worse := []load.State{load.Roomy, load.NotKnown, load.Tight, load.Overloaded}
	for _, c := range slices.Concat(h.Load().Sets, h.Load().Alone) {
		by := h.Label(c.Set.Ref())
		if c.Set == "" {
			by = h.Label(c.Paths[0].Ref())
		}
		for _, use := range c.Uses {
			links := use.Medium.Links
			if use.Medium.Link != "" {
				links = []dossier.ID[dossier.Link]{use.Medium.Link}
			}
			for _, l := range links {
				have, known := out[l]
				if !known || cmp.Or(cmp.Compare(slices.Index(worse, use.State()), slices.Index(worse, have.use.State())), cmp.Compare(use.Share, have.use.Share)) > 0 {
					out[l] = taking{use, by}
				}
			}
		}
	}
	return out
}

// AddressPlan says what each address of a home's segments is there for.
func AddressPlan(h *assess.Assessment) wire.AddressPlan {
	d := h.Dossier
	out := wire.AddressPlan{Revision: d.Revision, Strips: []wire.AddressStrip{}}
	for _, strip := range network.Plan(d) {
		segment, _ := d.Segments.Get(strip.Segment)
		one := wire.AddressStrip{Segment: Named(d, strip.Segment.Ref()), Prefix: segment.Prefix.String(), PoolFrom: strip.PoolFrom, PoolTill: strip.PoolTill, Free: strip.Free, Spots: []wire.AddressSpot{}}
		if segment.PoolFirst.IsValid() {
			one.Pool = segment.PoolFirst.String() + " to " + segment.PoolLast.String()
		}
		for _, spot := range strip.Spots {
			one.Spots = append(one.Spots, spotOf(d, segment, spot))
		}
		one.Findings = Findings(d, slices.DeleteFunc(slices.Clone(h.Findings), func(f network.Finding) bool { return !slices.Contains(f.Subjects, strip.Segment.Ref()) }))
		out.Strips = append(out.Strips, one)
	}
	return out
}
