package dossier

import (
	"cmp"
	"net/netip"
	"slices"
)

// Index is a dossier with what the computations ask of it over and over. It is made once for a
// value that does not change meanwhile, and may be read by many at once.
type Index struct {
	*Dossier
	InUse     []Path // paths that are not retired
	adapters  map[ID[Device]][]Interface
	segments  map[ID[Device]][]ID[Segment]
	sources   map[ID[Device]][]Source
	software  map[ID[Device]][]Software
	openings  map[ID[Device]][]Opening
	devicesIn map[ID[Room]][]Device
	linksAt   map[ID[Device]][]Link
	foldersOf map[ID[Source]][]Folder
	register  map[[2]ID[Device]]RegisterEntry
	settings  map[Ref][]Setting
	newest    map[measured]Reading
	brings    map[ID[Path]][]ContentKind
	serving   map[ID[Path]]serving
}

// serving is what serves a path.
type serving struct {
	source Source
	server Device
}

// measured is a quantity at a device.
type measured struct {
	device ID[Device]
	what   Quantity
}

// Index returns the dossier with its index.
func (d *Dossier) Index() *Index {
	x := &Index{Dossier: d, adapters: map[ID[Device]][]Interface{}, segments: map[ID[Device]][]ID[Segment]{}, newest: map[measured]Reading{},
		sources:   grouped(d.Sources, func(s Source) ID[Device] { return s.Device }),
		software:  grouped(d.Software, func(s Software) ID[Device] { return s.Device }),
		openings:  grouped(d.Openings, func(o Opening) ID[Device] { return o.Device }),
		devicesIn: grouped(d.Devices, func(v Device) ID[Room] { return v.Room }),
		foldersOf: grouped(d.Folders, func(f Folder) ID[Source] { return f.Source }),
		linksAt:   map[ID[Device]][]Link{},
		register:  map[[2]ID[Device]]RegisterEntry{},
		settings:  grouped(d.Settings, func(s Setting) Ref { return s.Subject }),
	}
	for _, e := range d.RegisterEntries {
		x.register[[2]ID[Device]{e.Device, e.Server}] = e
	}
	x.adapters = grouped(d.Interfaces, func(i Interface) ID[Device] { return i.Device })
	for device, adapters := range x.adapters {
		x.segments[device] = d.SegmentsOf(adapters)
	}
	for _, p := range d.Paths {
		if !p.Retired {
			x.InUse = append(x.InUse, p)
		}
	}
	x.brings, x.serving = make(map[ID[Path]][]ContentKind, len(d.Paths)), make(map[ID[Path]]serving, len(d.Paths))
	for _, p := range d.Paths {
		s, _ := d.Sources.Get(p.Source)
		v, _ := d.Devices.Get(s.Device)
		x.serving[p.ID] = serving{s, v}
	}
	for _, p := range d.Paths {
		x.brings[p.ID] = x.carried(p)
	}
	for _, l := range d.Links {
		near, far := x.EndsOf(l)
		x.linksAt[near] = append(x.linksAt[near], l)
		if far != near {
			x.linksAt[far] = append(x.linksAt[far], l)
		}
	}
	for _, r := range d.Readings {
		m := measured{x.MeasuredAt(r.Subject), r.What}
		if have, found := x.newest[m]; !found || r.At.After(have.At) {
			x.newest[m] = r
		}
	}
	return x
}

func grouped[T any, K comparable](list []T, by func(T) K) map[K][]T {
	out := make(map[K][]T, len(list))
	for _, one := range list {
		out[by(one)] = append(out[by(one)], one)
	}
	return out
}

// InterfacesOf returns the adapters of a device, in the order of their ids.
func (x *Index) InterfacesOf(device ID[Device]) []Interface { return x.adapters[device] }

// SegmentsAt returns the segments that a device is in.
func (x *Index) SegmentsAt(device ID[Device]) []ID[Segment] { return x.segments[device] }

// SourcesOf returns what a device serves.
func (x *Index) SourcesOf(device ID[Device]) []Source { return x.sources[device] }

// SoftwareOf returns what runs on a device.
func (x *Index) SoftwareOf(device ID[Device]) []Software { return x.software[device] }

// OpeningsOf returns the openings of a host.
func (x *Index) OpeningsOf(device ID[Device]) []Opening { return x.openings[device] }

// Register returns what a server knows of a device.
func (x *Index) Register(device, server ID[Device]) (RegisterEntry, bool) {
	e, known := x.register[[2]ID[Device]{device, server}]
	return e, known
}

// SettingsOf returns the settings of a device or a program.
func (x *Index) SettingsOf(subject Ref) []Setting { return x.settings[subject] }

// Brings returns the kinds of content that a path brings to its device: those of its folders that
// the device plays and the server offers it. None means that they are not known.
func (x *Index) Brings(p Path) []ContentKind { return x.brings[p.ID] }

func (x *Index) carried(p Path) []ContentKind {
	device, _ := x.Devices.Get(p.Device)
	_, server := x.ServerOf(p)
	entry, _ := x.Register(p.Device, server.ID)
	var out []ContentKind
	for _, f := range x.Reached(p) {
		k := f.ContentKind
		if !slices.Contains(out, k) && (len(device.ContentKinds) == 0 || slices.Contains(device.ContentKinds, k)) && (len(entry.Offered) == 0 || slices.Contains(entry.Offered, k)) {
			out = append(out, k)
		}
	}
	return out
}

// DevicesIn returns the devices of a room; those of "" are in none.
func (x *Index) DevicesIn(room ID[Room]) []Device { return x.devicesIn[room] }

// LinksAt returns the links that end at an adapter of the device.
func (x *Index) LinksAt(device ID[Device]) []Link { return x.linksAt[device] }

// ListensOn returns the adapters a source can be reached at: the one it is bound to, or all of
// its device.
func (x *Index) ListensOn(s Source) []Interface {
	if i, bound := x.Interfaces.Get(s.Interface); bound {
		return []Interface{i}
	}
	return x.adapters[s.Device]
}

// ServedIn returns the segments in which a source can be reached.
func (x *Index) ServedIn(s Source) []ID[Segment] {
	if i, bound := x.Interfaces.Get(s.Interface); bound {
		return x.SegmentsOf([]Interface{i})
	}
	return x.segments[s.Device]
}

// Reaches reports whether the path reaches a folder: one of its source that it names, or any if it names none.
func (p *Path) Reaches(f *Folder) bool {
	return p.Source == f.Source && !p.NoFolders && (len(p.Folders) == 0 || slices.Contains(p.Folders, f.ID))
}

// Reached returns the folders a path reaches: those it names, or else all of its source. One
// whose last folder was removed reaches none.
func (x *Index) Reached(p Path) []Folder {
	all := x.foldersOf[p.Source]
	if len(p.Folders) == 0 && !p.NoFolders {
		return all
	}
	var out []Folder
	for i := range all {
		if p.Reaches(&all[i]) {
			out = append(out, all[i])
		}
	}
	return out
}

// Using returns the paths in use that start at a source of the device.
func (x *Index) Using(server ID[Device]) []Path {
	var out []Path
	for _, p := range x.InUse {
		if s, _ := x.Sources.Get(p.Source); s.Device == server {
			out = append(out, p)
		}
	}
	return out
}

// ServerOf returns the source of a recorded path and the device that serves it.
func (x *Index) ServerOf(p Path) (Source, Device) {
	s := x.serving[p.ID]
	return s.source, s.server
}

// ServerSide returns the server's end of a path by the record: what is recorded of the source, or else what was noted at the path; and all its
// addresses, of which any will do. End.Address is left empty.
func (x *Index) ServerSide(p Path) (End, []netip.Addr) {
	source, _ := x.ServerOf(p)
	var own []netip.Addr
	for _, i := range x.ListensOn(source) {
		own = append(own, i.Addresses...)
	}
	if len(own) == 0 && p.ServerEnd.Address.IsValid() {
		own = []netip.Addr{p.ServerEnd.Address}
	}
	return End{Port: cmp.Or(source.Port, p.ServerEnd.Port), Name: cmp.Or(source.ShownName, p.ServerEnd.Name), Locator: cmp.Or(source.Locator, p.ServerEnd.Locator)}, own
}

// Newest returns the newest reading of a quantity at a device: at itself, at one of its adapters
// or at a link that starts from one.
func (x *Index) Newest(device ID[Device], what Quantity) (Reading, bool) {
	r, found := x.newest[measured{device, what}]
	return r, found
}

// MeasuredAt returns the device that a reading's subject is, belongs to, or starts from.
func (x *Index) MeasuredAt(subject Ref) ID[Device] {
	switch subject.Kind {
	case "device":
		return ID[Device](subject.ID)
	case "interface":
		i, _ := x.Interfaces.Get(ID[Interface](subject.ID))
		return i.Device
	case "link":
		l, _ := x.Links.Get(ID[Link](subject.ID))
		i, _ := x.Interfaces.Get(l.Near)
		return i.Device
	}
	return ""
}

// Router returns the device at which the first line ends, or else the first router; "" if there is none.
func (x *Index) Router() ID[Device] {
	for _, l := range x.Lines {
		if l.Router != "" {
			return l.Router
		}
	}
	for _, d := range x.Devices {
		if slices.Contains(d.Roles, RoleRouter) {
			return d.ID
		}
	}
	return ""
}

// EndsOf returns the devices that a link joins.
func (x *Index) EndsOf(l Link) (near, far ID[Device]) {
	a, _ := x.Interfaces.Get(l.Near)
	b, _ := x.Interfaces.Get(l.Far)
	return a.Device, b.Device
}
