package load

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"maps"
	"slices"
	"time"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/throughput"
)

// ChangeKind is what kind of change would leave more room.
type ChangeKind string

// Kinds of change.
const (
	WireDevice    ChangeKind = "wire-device"    // use an outlet that is there
	RunCable      ChangeKind = "run-cable"      // lay a cable that is not there
	OtherChannel  ChangeKind = "other-channel"  // move one of the access points that share a channel
	ReplaceLink   ChangeKind = "replace-link"   // have a cable give what both ports can
	FasterPorts   ChangeKind = "faster-ports"   // ports of 1000 Mb/s in place of slower ones
	LighterCopies ChangeKind = "lighter-copies" // have the heaviest titles converted to an ordinary rate
	MoveFiles     ChangeKind = "move-files"     // put the files where their server is
	SnoopingOn    ChangeKind = "snooping-on"    // have switches pass multicast only to ports that have asked for it
	CastToEach    ChangeKind = "cast-to-each"   // have access points send multicast to each station at its own rate
)

// What a change takes in minutes of somebody's time, roughly; judgement. It decides between changes that help as much.
var effort = map[ChangeKind]int{SnoopingOn: 10, CastToEach: 10, WireDevice: 10, OtherChannel: 10, ReplaceLink: 20, FasterPorts: 60, MoveFiles: 120, RunCable: 180, LighterCopies: 240}

// ChangeKinds lists all kinds, the easiest first.
var ChangeKinds = []ChangeKind{SnoopingOn, CastToEach, WireDevice, OtherChannel, ReplaceLink, FasterPorts, MoveFiles, RunCable, LighterCopies}

// Change is one change that leaves more room on what is taken most.
type Change struct {
	Kind    ChangeKind
	Device  dossier.ID[dossier.Device] // whose link or channel changes; of files, where they go
	Outlet  dossier.ID[dossier.Outlet]
	Patch   bool // the outlet is not recorded as patched
	Link    dossier.ID[dossier.Link]
	Radio   dossier.ID[dossier.Interface]
	Folder  dossier.ID[dossier.Folder]
	Segment dossier.ID[dossier.Segment]
	Channel int     // to which the radio goes
	Mbps    float64 // rate of the link, or need of the copies, that is reckoned with
	// Share is how much of the most taken medium would then be taken, and State what that means.
	Share float64
	State State
}

// supposed is a change with the way to make it in a copy of the home.
type supposed struct {
	Change
	make func(*dossier.Dossier)
}

// Tried is a change with the home as it would be after it. The home shares with the one that it was made from whatever the change
// leaves alone, so it is only to be read.
type Tried struct {
	Change
	Home *dossier.Dossier
}

// Changes tries, where little or nothing is left, every single change that could relieve what is taken most, each in a copy of the home,
// and returns those after which less is taken and nothing that was known is not known any more: what leaves most first, then what takes least.
func Changes(x *dossier.Index, evening *time.Location, before Case) []Tried {
	worst, carries := before.Bottleneck()
	if !carries || before.State != Tight && before.State != Overloaded {
		return nil
	}
	n := newNet(x, evening)
	out := []Tried{}
	for _, one := range n.candidates(before, worst) {
		home := one.in(x)
		then := newNet(home.Index(), evening)
		after := then.add(then.pathsOf(before.Paths))
		use, _ := after.Bottleneck()
		if after.State == NotKnown || use.Share > worst.Share-0.01 {
			continue
		}
		one.Share, one.State = use.Share, after.State
		out = append(out, Tried{one.Change, home})
	}
	slices.SortStableFunc(out, func(a, b Tried) int {
		return cmp.Or(cmp.Compare(slices.Index(States, a.State), slices.Index(States, b.State)), cmp.Compare(effort[a.Kind], effort[b.Kind]), cmp.Compare(a.Share, b.Share))
	})
	return out
}

// Touched names the kinds of record that a change may change.
var Touched = []string{"segment", "interface", "link", "reading", "folder"}

// in returns a copy of the home in which the change is made, with lists of its own of what is Touched.
func (s supposed) in(x *dossier.Index) *dossier.Dossier {
	d := *x.Dossier
	d.Links, d.Interfaces, d.Folders, d.Readings = slices.Clone(d.Links), slices.Clone(d.Interfaces), slices.Clone(d.Folders), slices.Clone(d.Readings)
	d.Segments = slices.Clone(d.Segments)
	s.make(&d)
	return &d
}

// mostTried is for how many of the paths that take most of something changes are tried; about the others there is less to gain.
const mostTried = 8

// candidates lists what could be changed about whatever takes most.
func (n *net) candidates(c Case, worst Use) []supposed {
	var out []supposed
	parts := slices.Clone(worst.By)
	slices.SortStableFunc(parts, func(a, b Part) int { return cmp.Compare(b.Share, a.Share) })
	for _, part := range parts[:min(len(parts), mostTried)] {
		p, _ := n.Paths.Get(part.Path)
		i := slices.IndexFunc(c.Flows, func(f Flow) bool { return f.Path == p.ID })
		f := c.Flows[i]
		if worst.Medium.Kind == Channel || worst.Medium.Kind == Mains {
			out = append(out, n.byCable(p.Device)...)
		}
		out = append(out, n.lessCast(f, worst)...)
		folder, _ := n.Folders.Get(f.Folder)
		if _, server := n.ServerOf(p); folder.LiesOn != "" && folder.LiesOn != server.ID {
			out = append(out, supposed{Change{Kind: MoveFiles, Folder: folder.ID, Device: server.ID}, func(d *dossier.Dossier) {
				change(&d.Folders, folder.ID, func(f *dossier.Folder) { f.LiesOn = "" })
			}})
		}
		if light := demand.OfContent(folder.ContentKind); light.Mbps > 0 && light.Mbps*headRoom < f.Mbps {
			out = append(out, supposed{Change{Kind: LighterCopies, Folder: folder.ID, Mbps: light.Mbps}, func(d *dossier.Dossier) {
				change(&d.Folders, folder.ID, func(f *dossier.Folder) {
					f.Mix = slices.Clone(f.Mix)
					for i := range f.Mix {
						if demand.RateNeeded(f.Mix[i]).Mbps > light.Mbps {
							f.Mix[i].Needed5Mbps = light.Mbps
						}
					}
				})
			}})
		}
	}
	switch worst.Medium.Kind {
	case Wire:
		out = append(out, n.fasterWire(worst.Medium.Link)...)
	case Channel:
		out = append(out, n.otherChannels(worst.Medium)...)
	}
	return unlike(out)
}

// unlike leaves out what another path has asked for before.
func unlike(list []supposed) []supposed {
	var out []supposed
	for _, s := range list {
		if !slices.ContainsFunc(out, func(o supposed) bool { return o.Change == s.Change }) {
			out = append(out, s)
		}
	}
	return out
}

// change changes a record in place.
func change[T dossier.Record](list *dossier.Records[T], id dossier.ID[T], how func(*T)) {
	if one, there := list.Get(id); there {
		how(&one)
		list.Put(one)
	}
}

// byCable lists ways to bring a device that is on radio or on the mains wiring to a cable. A device that is carried about stays on radio.
func (n *net) byCable(id dossier.ID[dossier.Device]) []supposed {
	d, _ := n.Devices.Get(id)
	var up []dossier.Link
	for _, l := range n.LinksAt(id) {
		if near, _ := n.EndsOf(l); near == id && shared(l.Kind) != "" {
			up = append(up, l)
		}
	}
	if d.Carried || len(up) == 0 {
		return nil
	}
	var port dossier.Interface
	for _, i := range n.InterfacesOf(id) {
		if i.Medium == dossier.OnCable {
			port = i
		}
	}
	cabled := func(far dossier.ID[dossier.Interface], rate float64) func(*dossier.Dossier) {
		return func(d *dossier.Dossier) {
			for _, l := range up {
				d.Links.Delete(l.ID)
			}
			l := dossier.Link{Near: port.ID, Far: far, Kind: dossier.LinkCable, RateMbps: rate}
			l.ID = up[0].ID   // in the place of the link that goes
			if l.Near == "" { // every device that is to be wired has a port somewhere; it is not recorded yet
				made := dossier.Interface{Device: id, Name: "network port", Medium: dossier.OnCable}
				made.ID = portFor(up[0])
				d.Interfaces.Put(made)
				l.Near = made.ID
			}
			d.Links.Put(l)
			d.Readings = slices.DeleteFunc(d.Readings, func(r dossier.Reading) bool { return n.MeasuredAt(r.Subject) == id }) // made over what goes
		}
	}
	var out []supposed
	for _, o := range n.Outlets {
		far := o.PatchedTo
		if far == "" {
			far = n.freePort()
		}
		used := slices.ContainsFunc(n.Links, func(l dossier.Link) bool { return l.Outlet == o.ID || l.Near == far || l.Far == far })
		if o.Room != d.Room || d.Room == "" || far == "" || o.Tested == dossier.TestFailed || used {
			continue
		}
		at, _ := n.Interfaces.Get(far)
		rate := lowestKnown(port.PortMbps, at.PortMbps, o.TestedMbps)
		out = append(out, supposed{Change{Kind: WireDevice, Device: id, Outlet: o.ID, Patch: o.PatchedTo == "", Mbps: rate}, cabled(far, rate)})
	}
	if far := n.freePort(); len(out) == 0 && far != "" {
		at, _ := n.Interfaces.Get(far)
		rate := lowestKnown(port.PortMbps, at.PortMbps)
		out = append(out, supposed{Change{Kind: RunCable, Device: id, Mbps: rate}, cabled(far, rate)})
	}
	return out
}

// portFor is the id of a port that is supposed in place of the near end of a link: always the same one, so that what is supposed twice is one.
func portFor(l dossier.Link) dossier.ID[dossier.Interface] {
	sum := sha256.Sum256([]byte("port for " + l.ID))
	h := hex.EncodeToString(sum[:])
	const upToVersion = len("01890000-0000-7")
	return dossier.ID[dossier.Interface](string(l.ID[:upToVersion]) + h[:3] + "-8" + h[3:6] + "-" + h[6:18])
}

// freePort returns a port of the router, or else of a switch on its cables, that nothing is recorded to be plugged into.
func (n *net) freePort() dossier.ID[dossier.Interface] {
	gear := []dossier.ID[dossier.Device]{n.Router()}
	for _, d := range n.Devices {
		if d.Is(dossier.RoleSwitch) {
			gear = append(gear, d.ID)
		}
	}
	for _, g := range gear {
		for _, i := range n.InterfacesOf(g) {
			taken := slices.ContainsFunc(n.Links, func(l dossier.Link) bool { return l.Near == i.ID || l.Far == i.ID }) ||
				slices.ContainsFunc(n.Outlets, func(o dossier.Outlet) bool { return o.PatchedTo == i.ID })
			if i.Medium == dossier.OnCable && i.Facing != dossier.FacingOutside && !taken {
				return i.ID
			}
		}
	}
	return ""
}

// slowPort is what a port is taken to do whose rate is not recorded: many screens have no faster one.
const slowPort = 100

func lowestKnown(rates ...float64) float64 {
	var out float64
	for i, r := range rates {
		if i == 0 && r == 0 {
			r = slowPort // the device's own
		}
		if r > 0 && (out == 0 || r < out) {
			out = r
		}
	}
	return out
}

// fasterWire lists what makes one cable faster: what both ports can do already, or faster ports.
func (n *net) fasterWire(id dossier.ID[dossier.Link]) []supposed {
	l, _ := n.Links.Get(id)
	near, _ := n.Interfaces.Get(l.Near)
	far, _ := n.Interfaces.Get(l.Far)
	set := func(rate float64) func(*dossier.Dossier) {
		return func(d *dossier.Dossier) {
			change(&d.Links, id, func(l *dossier.Link) { l.RateMbps = rate })
		}
	}
	var out []supposed
	could := min(near.PortMbps, far.PortMbps)
	if could > 0 && could > l.RateMbps {
		out = append(out, supposed{Change{Kind: ReplaceLink, Link: id, Mbps: could}, set(could)})
	}
	if rate, _ := n.alone(l); rate < gigabit*throughput.Wired && could < gigabit {
		out = append(out, supposed{Change{Kind: FasterPorts, Link: id, Mbps: gigabit}, set(gigabit)})
	}
	return out
}

const gigabit = 1000

// Channels that an access point can be given, of each band, that hear no other of the list. Those of 5 GHz above 48 and below 149 are left
// out: they have to be given up when a radar is heard (IEEE 802.11h).
var free = map[dossier.Band][]int{dossier.Band2: {1, 6, 11}, dossier.Band5: {36, 44, 149, 157}, dossier.Band6: {5, 21, 37, 53}}

// otherChannels lists the radios that could leave a channel that they share, each with the channel that it could go to. A repeater with one
// radio has to stay on the channel of the access point that it hangs on, so these go together.
func (n *net) otherChannels(m Medium) []supposed {
	together := map[dossier.ID[dossier.Interface]]dossier.ID[dossier.Interface]{}
	var top func(dossier.ID[dossier.Interface]) dossier.ID[dossier.Interface]
	top = func(i dossier.ID[dossier.Interface]) dossier.ID[dossier.Interface] {
		if up, hangs := together[i]; hangs && up != i {
			return top(up)
		}
		return i
	}
	var on []dossier.Link
	for _, l := range n.Links {
		if l.Kind == dossier.LinkRadio && n.mediumOf(step{link: l}).key() == m.key() {
			on = append(on, l)
			if a, b := top(l.Near), top(l.Far); a != b {
				together[a] = b
			}
		}
	}
	tops := map[dossier.ID[dossier.Interface]]bool{}
	for _, l := range on {
		tops[top(l.Far)] = true
	}
	if len(tops) < 2 {
		return nil
	}
	var out []supposed
	for _, id := range slices.Sorted(maps.Keys(tops)) {
		i, _ := n.Interfaces.Get(id)
		c := slices.IndexFunc(free[m.Band], func(c int) bool { return !n.heard(m.Band, c) })
		if c < 0 {
			continue
		}
		to := free[m.Band][c]
		out = append(out, supposed{Change{Kind: OtherChannel, Device: i.Device, Radio: id, Channel: to}, func(d *dossier.Dossier) {
			for _, l := range on {
				if top(l.Far) != id {
					continue
				}
				change(&d.Links, l.ID, func(l *dossier.Link) { l.Channel = to })
				for _, end := range []dossier.ID[dossier.Interface]{l.Near, l.Far} {
					change(&d.Interfaces, end, func(i *dossier.Interface) { i.Channel = to })
				}
			}
		}})
	}
	return out
}

// heard reports whether a radio of the home is on that channel or on one that overlaps it.
func (n *net) heard(b dossier.Band, channel int) bool {
	for k := range n.channels {
		if k.band == b && b.Overlap(k.channel, channel) {
			return true
		}
	}
	return false
}
