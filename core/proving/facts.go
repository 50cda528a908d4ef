package proving

import (
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
	up      map[dossier.ID[dossier.Device]]network.Node
	chains  map[dossier.ID[dossier.Device]][]dossier.ChainLink
	records map[partOf][]fact
	paths   map[dossier.ID[dossier.Path]][]fact
}

type partOf struct {
	part Part
	ref  dossier.Ref
}

// fact is a fact with the basis from which on it counts, and the version that it is new in.
type fact struct {
	dossier.Fact
	on    Basis
	since int
}

func look(x *dossier.Index) *view {
	v := &view{Index: x, up: map[dossier.ID[dossier.Device]]network.Node{}, chains: map[dossier.ID[dossier.Device]][]dossier.ChainLink{},
		records: map[partOf][]fact{}, paths: map[dossier.ID[dossier.Path]][]fact{}}
	for _, one := range x.Devices {
		if slices.Contains(one.Roles, dossier.RoleRouter) {
			v.routers = append(v.routers, one)
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
	part   Part
	ref    dossier.Ref
	record dossier.Record
}

// cast lists the records that a path's proofs stand on, each in its part; one that plays two
// parts is listed twice.
type cast struct {
	*view
	list []playing
}

func add[T dossier.Record](c *cast, part Part, ref dossier.Ref, r T) {
	c.list = append(c.list, playing{part, ref, r})
}

// castOf returns the records that the proofs of a path stand on, but for its folders.
func (v *view) castOf(p dossier.Path) *cast {
	c := &cast{view: v}
	source, server := v.ServerOf(p)
	device, _ := v.Devices.Get(p.Device)
	add(c, asPath, p.ID.Ref(), p)
	c.source(p, source)
	c.machine(server, v.ListensOn(source), asServer, asServerAdapter, asServerSetting)
	c.machine(device, v.InterfacesOf(device.ID), asDevice, asDeviceAdapter, asDeviceSetting)
	for _, s := range v.SoftwareOf(server.ID) {
		if s.Does != dossier.SoftwarePlayer && s.Does != dossier.SoftwareControl {
			add(c, asServerSoftware, s.ID.Ref(), s)
			c.settings(s.ID.Ref(), asServerSetting)
		}
	}
	for _, s := range v.SoftwareOf(device.ID) {
		if device.ID != server.ID || s.Does == dossier.SoftwarePlayer || s.Does == dossier.SoftwareControl {
			add(c, asDeviceSoftware, s.ID.Ref(), s)
			c.settings(s.ID.Ref(), asDeviceSetting)
		}
	}
	c.segments(p, source)
	c.openings(p, source)
	c.way(server.ID, device.ID)
	if e, known := v.Register(device.ID, server.ID); known {
		add(c, asRegister, e.ID.Ref(), e)
	}
	for _, r := range restrictions(v.Index, p) {
		add(c, asRestriction, r.ID.Ref(), r)
	}
	if one, ok := v.Devices.Get(p.ControlPoint); ok {
		c.machine(one, v.InterfacesOf(one.ID), asController, asControllerAdapter, asDeviceSetting)
	}
	c.chain(device.ID)
	for _, other := range v.InUse {
		if other.Device != p.Device && brings(v.Index, other, resumed) && brings(v.Index, p, resumed) {
			add(c, asOther, other.ID.Ref(), other)
		}
	}
	for _, l := range v.Lines {
		add(c, asLine, l.ID.Ref(), l)
	}
	return c
}

// source adds the source with its account, and the others that show themselves beside it.
func (c *cast) source(p dossier.Path, s dossier.Source) {
	if s.ID == "" {
		return
	}
	add(c, asSource, s.ID.Ref(), s)
	for _, o := range otherServers(c.Index, p) {
		add(c, asOtherSource, o.ID.Ref(), o)
	}
	for _, id := range []dossier.ID[dossier.Account]{s.Account, p.Account} {
		if a, ok := c.Accounts.Get(id); ok {
			add(c, asAccount, a.ID.Ref(), a)
			if secret, ok := c.Secrets.Get(a.Secret); ok {
				add(c, asSecret, secret.ID.Ref(), secret)
			}
		}
	}
}

// machine adds a device in its part, with adapters and settings.
func (c *cast) machine(v dossier.Device, adapters []dossier.Interface, as, adapter, setting Part) {
	if v.ID == "" {
		return
	}
	add(c, as, v.ID.Ref(), v)
	for _, i := range adapters {
		add(c, adapter, i.ID.Ref(), i)
	}
	c.settings(v.ID.Ref(), setting)
	if as != asServer && as != asDevice {
		return
	}
	if r, measured := c.Newest(v.ID, dossier.SignalDbm); measured {
		add(c, asSignal, r.ID.Ref(), r)
	}
}

func (c *cast) settings(of dossier.Ref, as Part) {
	for _, s := range c.SettingsOf(of) {
		add(c, as, s.ID.Ref(), s)
	}
}

// segments adds those of both ends, their routers and their DHCP servers.
func (c *cast) segments(p dossier.Path, source dossier.Source) {
	at, from := c.SegmentsAt(p.Device), c.ServedIn(source)
	for _, id := range from {
		s, _ := c.Segments.Get(id)
		add(c, asServerSegment, id.Ref(), s)
	}
	for _, id := range at {
		s, _ := c.Segments.Get(id)
		add(c, asDeviceSegment, id.Ref(), s)
		if p.FoundBy == dossier.ByName {
			add(c, asNamingSegment, id.Ref(), s)
		}
	}
	both := slices.Concat(at, from)
	for _, r := range c.routers {
		in := c.SegmentsAt(r.ID)
		if len(in) == 0 || slices.ContainsFunc(in, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(both, s) }) {
			add(c, asRouter, r.ID.Ref(), r)
			c.settings(r.ID.Ref(), asRouterSetting)
		}
	}
	for _, o := range c.DHCPServers {
		if slices.Contains(both, o.Segment) {
			add(c, asDHCP, o.ID.Ref(), o)
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
			add(c, asServerOpening, o.ID.Ref(), o)
		}
	}
	for _, o := range c.OpeningsOf(p.Device) {
		if slices.ContainsFunc(need, func(n pathkind.Port) bool {
			there := n.At == pathkind.AtDevice && o.Direction == n.Direction
			back := n.At == pathkind.AtServer && o.Direction == dossier.Outward
			return (there || back) && covers(o, n)
		}) {
			add(c, asDeviceOpening, o.ID.Ref(), o)
		}
	}
}

// way adds the links between two devices, and what stands between them.
func (c *cast) way(a, b dossier.ID[dossier.Device]) {
	mine, other := c.upwards(a), c.upwards(b)
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
				if v, ok := c.Devices.Get(node.Device); ok && !slices.Contains(v.Roles, dossier.RoleRouter) {
					add(c, asGear, v.ID.Ref(), v)
					c.settings(v.ID.Ref(), asGearSetting)
				}
			}
			l, linked := c.Links.Get(node.Up)
			if !linked || n+1 == len(side) {
				continue // the last is where both sides meet
			}
			add(c, asLink, l.ID.Ref(), l)
			for _, end := range []dossier.ID[dossier.Interface]{l.Near, l.Far} {
				if i, ok := c.Interfaces.Get(end); ok && i.Device != a && i.Device != b {
					add(c, asGearAdapter, end.Ref(), i)
				}
			}
			if o, ok := c.Outlets.Get(l.Outlet); ok {
				add(c, asOutlet, o.ID.Ref(), o)
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
			add(c, asChainLink, l.ID.Ref(), l)
			if next, ok := c.Devices.Get(l.To); ok && !seen[next.ID] {
				seen[next.ID] = true
				add(c, asChained, next.ID.Ref(), next)
				queue = append(queue, next.ID)
			}
		}
	}
}

// folders adds folders with the machine that their files lie on.
func (c *cast) folders(list []dossier.Folder) {
	for _, f := range list {
		add(c, asFolder, f.ID.Ref(), f)
		if v, ok := c.Devices.Get(f.LiesOn); ok {
			c.machine(v, c.InterfacesOf(v.ID), asStorage, asStorageAdapter, asStorageSetting)
		}
	}
}

// factsOf returns the facts of a record in its part.
func (v *view) factsOf(p playing) []fact {
	key := partOf{p.part, p.ref}
	out, known := v.records[key]
	if known {
		return out
	}
	for _, r := range rows[p.ref.Kind][p.part] {
		f := fact{Fact: dossier.Fact{Subject: p.ref, Name: r.field.Name}, on: r.on, since: r.since}
		switch {
		case r.as != nil:
			f.Fact, _ = r.as(v.Index, p.record)
		case r.class != nil:
			f.Value = r.class(p.record, r.field.Get(p.record))
		default:
			f.Value = text(r.field.Get(p.record))
		}
		if f.Value != "" { // what is not recorded is the same as no fact
			out = append(out, f)
		}
	}
	v.records[key] = out
	return out
}

func (c *cast) facts() []fact {
	var out []fact
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
	return strings.Compare(a.Name, b.Name)
}

// pathFacts returns all facts of a path, with its folders, in their order.
func (v *view) pathFacts(p dossier.Path) []fact {
	out, known := v.paths[p.ID]
	if !known {
		c := v.castOf(p)
		c.folders(v.Reached(p))
		out = c.facts()
		v.paths[p.ID] = out
	}
	return out
}

// facts returns what a proof of the case on that basis stands on, in order and each once, with the
// version in which each is new.
func (v *view) facts(on Basis, c Case) []fact {
	var all []fact
	switch {
	case c.Set.ID != "":
		part := playing{asSet, c.Set.ID.Ref(), c.Set}
		all = slices.Clone(v.factsOf(part))
		for _, p := range inUse(v.Index, c.Set) {
			all = append(all, v.pathFacts(p)...)
		}
		slices.SortFunc(all, compareFacts)
	case c.Folder.ID != "":
		one := v.castOf(c.Path)
		one.folders([]dossier.Folder{c.Folder})
		all = one.facts()
	case on == OnFallBack:
		all = slices.Clone(v.factsOf(playing{asPath, c.Path.ID.Ref(), c.Path}))
		if other, ok := v.Paths.Get(c.Path.FallBack); ok {
			for _, f := range v.pathFacts(other) {
				if OnPlay.Takes(f.on) {
					f.on = OnFallBack
					all = append(all, f)
				}
			}
		}
		slices.SortFunc(all, compareFacts)
	default:
		all = v.pathFacts(c.Path)
	}
	out := make([]fact, 0, len(all))
	for _, f := range all {
		if !on.Takes(f.on) {
			continue
		}
		if n := len(out); n > 0 && out[n-1].Fact == f.Fact {
			out[n-1].since = min(out[n-1].since, f.since)
			continue
		}
		out = append(out, f)
	}
	return out
}
