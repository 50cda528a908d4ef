package proving

import (
	"cmp"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/pathkind"
)

// view is a home while a plan is made of it. It remembers what is asked again and again: the way
// between two devices, the facts of a record in its part, those of a path.
type view struct {
	*dossier.Index
	routers []dossier.Device
	gear    []dossier.Device // what carries the network for others, and is no router
	up      map[dossier.ID[dossier.Device]]network.Node
	chains  map[dossier.ID[dossier.Device]][]dossier.ChainLink
	resumed []dossier.Path // that bring what people go on with another day
	records map[playing][]fact
	casts   map[dossier.ID[dossier.Path]][]playing // without and with the folders
	paths   map[dossier.ID[dossier.Path]][]fact
	folders map[folderOf][]fact
}

// folderOf is a folder as one path reaches it.
type folderOf struct {
	path   dossier.ID[dossier.Path]
	folder dossier.ID[dossier.Folder]
}

// fact is a fact with the basis from which on it counts, and the version that it is new in.
type fact struct {
	dossier.Fact
	on    Basis
	since int
}

func look(x *dossier.Index) *view {
	v := &view{Index: x, folders: map[folderOf][]fact{}, up: map[dossier.ID[dossier.Device]]network.Node{}, chains: map[dossier.ID[dossier.Device]][]dossier.ChainLink{},
		records: map[playing][]fact{}, casts: map[dossier.ID[dossier.Path]][]playing{}, paths: map[dossier.ID[dossier.Path]][]fact{}}
	for _, one := range x.Devices {
		if one.Is(dossier.RoleRouter) {
			v.routers = append(v.routers, one)
			continue
		}
		if one.IsGear() {
			v.gear = append(v.gear, one)
		}
	}
	for _, p := range x.InUse {
		if brings(x, p, resumed) {
			v.resumed = append(v.resumed, p)
		}
	}
	nodes, _ := network.Graph(x)
	for _, n := range nodes {
		v.up[n.Device] = n
	}
	for _, l := range x.ChainLinks {
		v.chains[l.From] = append(v.chains[l.From], l)
	}
	return v
}

// playing is a record in the part it plays.
type playing struct {
	part Part
	ref  dossier.Ref
}

// cast lists the records that a path's proofs stand on, each in its part; one that plays two
// parts is listed twice.
type cast struct {
	*view
	list []playing
}

func (c *cast) add(part Part, ref dossier.Ref) { c.list = append(c.list, playing{part, ref}) }

// castOf returns the records that the proofs of a path stand on, but for its folders.
func (v *view) castOf(p dossier.Path) *cast {
	c := &cast{view: v, list: make([]playing, 0, 48)}
	source, server := v.ServerOf(p)
	device, _ := v.Devices.Get(p.Device)
	c.add(asPath, p.ID.Ref())
	c.source(p, source)
	c.machine(server, v.ListensOn(source), asServer, asServerAdapter, asServerSetting)
	c.machine(device, v.InterfacesOf(device.ID), asDevice, asDeviceAdapter, asDeviceSetting)
	for _, s := range v.SoftwareOf(server.ID) {
		if s.Does != dossier.SoftwarePlayer && s.Does != dossier.SoftwareControl {
			c.add(asServerSoftware, s.ID.Ref())
			c.settings(s.ID.Ref(), asServerSetting)
		}
	}
	for _, s := range v.SoftwareOf(device.ID) {
		if device.ID != server.ID || s.Does == dossier.SoftwarePlayer || s.Does == dossier.SoftwareControl {
			c.add(asDeviceSoftware, s.ID.Ref())
			c.settings(s.ID.Ref(), asDeviceSetting)
		}
	}
	c.segments(p, source)
	c.openings(p, source)
	c.way(server.ID, device.ID)
	if e, known := v.Register(device.ID, server.ID); known {
		c.add(asRegister, e.ID.Ref())
	}
	for _, r := range restrictions(v.Index, p) {
		c.add(asRestriction, r.ID.Ref())
	}
	if one, ok := v.Devices.Get(p.ControlPoint); ok {
		c.machine(one, v.InterfacesOf(one.ID), asController, asControllerAdapter, asDeviceSetting)
	}
	c.chain(device.ID)
	if brings(v.Index, p, resumed) {
		for _, other := range v.resumed {
			if other.Device != p.Device && other.Marks != "" {
				c.add(asOther, other.ID.Ref())
			}
		}
	}
	for _, s := range v.Secrets {
		if s.Segment != "" && slices.Contains(v.SegmentsAt(p.Device), s.Segment) {
			c.add(asWiFiSecret, s.ID.Ref())
		}
	}
	for _, l := range v.Lines {
		c.add(asLine, l.ID.Ref())
	}
	return c
}

// source adds the source with its account, and the others that show themselves beside it.
func (c *cast) source(p dossier.Path, s dossier.Source) {
	if s.ID == "" {
		return
	}
	c.add(asSource, s.ID.Ref())
	for _, o := range otherServers(c.Index, p) {
		c.add(asOtherSource, o.ID.Ref())
	}
	for _, id := range []dossier.ID[dossier.Account]{s.Account, p.Account} {
		if a, ok := c.Accounts.Get(id); ok {
			c.add(asAccount, a.ID.Ref())
			if secret, ok := c.Secrets.Get(a.Secret); ok {
				c.add(asSecret, secret.ID.Ref())
			}
		}
	}
}

// machine adds a device in its part, with adapters and settings.
func (c *cast) machine(v dossier.Device, adapters []dossier.Interface, as, adapter, setting Part) {
	if v.ID == "" {
		return
	}
	c.add(as, v.ID.Ref())
	for _, i := range adapters {
		c.add(adapter, i.ID.Ref())
	}
	c.settings(v.ID.Ref(), setting)
	if as != asServer && as != asDevice {
		return
	}
	if r, measured := c.Newest(v.ID, dossier.SignalDbm); measured {
		c.add(asSignal, r.ID.Ref())
	}
}

func (c *cast) settings(of dossier.Ref, as Part) {
	for _, s := range c.SettingsOf(of) {
		c.add(as, s.ID.Ref())
	}
}

// segments adds those of both ends, their routers and their DHCP servers.
func (c *cast) segments(p dossier.Path, source dossier.Source) {
	at, from := c.SegmentsAt(p.Device), c.ServedIn(source)
	for _, id := range from {
		c.add(asServerSegment, id.Ref())
	}
	for _, id := range at {
		c.add(asDeviceSegment, id.Ref())
		if p.FoundBy == dossier.ByName {
			c.add(asNamingSegment, id.Ref())
		}
	}
	both := slices.Concat(at, from)
	for _, r := range c.routers {
		in := c.SegmentsAt(r.ID)
		if len(in) == 0 || slices.ContainsFunc(in, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(both, s) }) {
			c.add(asRouter, r.ID.Ref())
			c.settings(r.ID.Ref(), asRouterSetting)
		}
	}
	for _, o := range c.DHCPServers {
		if slices.Contains(both, o.Segment) {
			c.add(asDHCP, o.ID.Ref())
		}
	}
}

// openings adds those for a port that the path needs: inward at the server; at the device inward
// for answers to its search, and outward.
func (c *cast) openings(p dossier.Path, s dossier.Source) {
	need := pathkind.PortsFor(p, s)
	covers := func(o dossier.Opening, port pathkind.Port) bool {
		return o.Transport == port.Transport && (port.Number == 0 || o.Port <= port.Number && port.Number <= max(o.Port, o.LastPort))
	}
	for _, o := range c.OpeningsOf(s.Device) {
		if slices.ContainsFunc(need, func(n pathkind.Port) bool {
			return n.At == pathkind.AtServer && o.Direction == n.Direction && covers(o, n)
		}) {
			c.add(asServerOpening, o.ID.Ref())
		}
	}
	for _, o := range c.OpeningsOf(p.Device) {
		if slices.ContainsFunc(need, func(n pathkind.Port) bool {
			there := n.At == pathkind.AtDevice && o.Direction == n.Direction
			back := n.At == pathkind.AtServer && o.Direction == dossier.Outward
			return (there || back) && covers(o, n)
		}) {
			c.add(asDeviceOpening, o.ID.Ref())
		}
	}
}

// way adds the links between two devices, and what stands between them. Where no links join the two,
// anything in their segments that carries the network for others may stand between.
func (c *cast) way(a, b dossier.ID[dossier.Device]) {
	mine, other := c.upwards(a), c.upwards(b)
	if len(mine) == 0 || len(other) == 0 || mine[len(mine)-1].Device != other[len(other)-1].Device {
		both := slices.Concat(c.SegmentsAt(a), c.SegmentsAt(b))
		for _, v := range c.gear {
			in := c.SegmentsAt(v.ID)
			if v.ID != a && v.ID != b && (len(in) == 0 || slices.ContainsFunc(in, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(both, s) })) {
				c.add(asGear, v.ID.Ref())
				c.settings(v.ID.Ref(), asGearSetting)
			}
		}
	}
	for len(mine) > 0 && len(other) > 0 && mine[len(mine)-1].Device == other[len(other)-1].Device {
		if len(mine) > 1 && len(other) > 1 && mine[len(mine)-2].Device == other[len(other)-2].Device {
			mine, other = mine[:len(mine)-1], other[:len(other)-1]
			continue
		}
		break
	}
	seen := map[dossier.ID[dossier.Device]]bool{a: true, b: true}
	for _, side := range [][]network.Node{mine, other} {
		for n, node := range side {
			if !seen[node.Device] {
				seen[node.Device] = true
				if v, ok := c.Devices.Get(node.Device); ok && !v.Is(dossier.RoleRouter) {
					c.add(asGear, v.ID.Ref())
					c.settings(v.ID.Ref(), asGearSetting)
				}
			}
			l, linked := c.Links.Get(node.Up)
			if !linked || n+1 == len(side) {
				continue // the last is where both sides meet
			}
			c.add(asLink, l.ID.Ref())
			for _, end := range []dossier.ID[dossier.Interface]{l.Near, l.Far} {
				if i, ok := c.Interfaces.Get(end); ok && i.Device != a && i.Device != b {
					c.add(asGearAdapter, end.Ref())
				}
			}
			if o, ok := c.Outlets.Get(l.Outlet); ok {
				c.add(asOutlet, o.ID.Ref())
			}
		}
	}
}

// upwards returns the nodes from a device to the root, or none for one that is not joined.
func (v *view) upwards(device dossier.ID[dossier.Device]) []network.Node {
	var out []network.Node
	for at := device; ; {
		n, ok := v.up[at]
		if !ok || n.Depth < 0 || len(out) > len(v.up) {
			return nil
		}
		out = append(out, n)
		if n.Up == "" {
			return out
		}
		at = n.Parent
	}
}

// chain adds the display chain behind a device.
func (c *cast) chain(device dossier.ID[dossier.Device]) {
	seen := map[dossier.ID[dossier.Device]]bool{device: true}
	for queue := []dossier.ID[dossier.Device]{device}; len(queue) > 0; queue = queue[1:] {
		for _, l := range c.chains[queue[0]] {
			c.add(asChainLink, l.ID.Ref())
			if next, ok := c.Devices.Get(l.To); ok && !seen[next.ID] {
				seen[next.ID] = true
				c.add(asChained, next.ID.Ref())
				queue = append(queue, next.ID)
			}
		}
	}
}

// folders adds folders with the machine that their files lie on.
func (c *cast) folders(list []dossier.Folder) {
	for _, f := range list {
		c.add(asFolder, f.ID.Ref())
		if v, ok := c.Devices.Get(f.LiesOn); ok {
			c.machine(v, c.InterfacesOf(v.ID), asStorage, asStorageAdapter, asStorageSetting)
		}
	}
}

// factsOf returns the facts of a record in its part.
func (v *view) factsOf(p playing) []fact {
	out, known := v.records[p]
	if known {
		return out
	}
	_, record, there := v.Record(p.ref)
	if !there {
		return nil
	}
	for _, r := range rows[p.ref.Kind][p.part] {
		f := fact{Fact: dossier.Fact{Subject: p.ref, Name: r.field.Name}, on: r.on, since: r.since}
		switch {
		case r.as != nil:
			f.Fact, _ = r.as(v.Index, record)
		case r.class != nil:
			f.Value = r.class(record, r.field.Get(record))
		default:
			f.Value = text(r.field.Get(record))
		}
		if f.Value != "" { // what is not recorded is the same as no fact
			out = append(out, f)
		}
	}
	v.records[p] = out
	return out
}

func (c *cast) facts() []fact {
	n := 0
	for _, p := range c.list {
		n += len(c.factsOf(p))
	}
	out := make([]fact, 0, n)
	for _, p := range c.list {
		out = append(out, c.factsOf(p)...)
	}
	slices.SortFunc(out, compareFacts)
	return out
}

func compareFacts(a, b fact) int {
	if c := a.Subject.Compare(b.Subject); c != 0 {
		return c
	}
	return cmp.Or(strings.Compare(a.Name, b.Name), cmp.Compare(a.since, b.since))
}

// wholeCast returns the records that the proofs of a path stand on, its folders too.
func (v *view) wholeCast(p dossier.Path) []playing {
	out, known := v.casts[p.ID]
	if !known {
		c := v.castOf(p)
		c.folders(v.Reached(p))
		out = c.list
		v.casts[p.ID] = out
	}
	return out
}

// pathFacts returns all facts of a path, with its folders, in their order.
func (v *view) pathFacts(p dossier.Path) []fact {
	out, known := v.paths[p.ID]
	if !known {
		out = (&cast{v, v.wholeCast(p)}).facts()
		v.paths[p.ID] = out
	}
	return out
}

// standsOn returns what proofs of the case on that basis stand on.
func (v *view) standsOn(on Basis, c Case) standing {
	switch {
	case c.Set.ID != "":
		all := slices.Clone(v.factsOf(playing{asSet, c.Set.ID.Ref()}))
		for _, p := range inUse(v.Index, c.Set) {
			all = append(all, v.pathFacts(p)...)
		}
		slices.SortFunc(all, compareFacts)
		return standing{all, on}
	case c.Folder.ID != "":
		out, known := v.folders[folderOf{c.Path.ID, c.Folder.ID}]
		if !known {
			one := v.castOf(c.Path)
			one.folders([]dossier.Folder{c.Folder})
			out = one.facts()
			v.folders[folderOf{c.Path.ID, c.Folder.ID}] = out
		}
		return standing{out, on}
	case on == OnFallBack:
		all := slices.Clone(v.factsOf(playing{asPath, c.Path.ID.Ref()}))
		if other, ok := v.Paths.Get(c.Path.FallBack); ok {
			for _, f := range v.pathFacts(other) {
				if OnPlay.Takes(f.on) {
					f.on = OnFallBack
					all = append(all, f)
				}
			}
		}
		slices.SortFunc(all, compareFacts)
		return standing{all, on}
	}
	return standing{v.pathFacts(c.Path), on}
}
