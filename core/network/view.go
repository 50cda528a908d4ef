package network

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// view is a home with what the findings ask of it over and over.
type view struct {
	*dossier.Dossier
	now      time.Time
	paths    []dossier.Path // those in use
	adapters map[dossier.ID[dossier.Device]][]dossier.Interface
	segments map[dossier.ID[dossier.Device]][]dossier.ID[dossier.Segment]
	readings map[measured]dossier.Reading // the newest of each
}

// measured is a quantity at a device.
type measured struct {
	device dossier.ID[dossier.Device]
	what   dossier.Quantity
}

func look(d *dossier.Dossier, now time.Time) *view {
	v := &view{Dossier: d, now: now, adapters: map[dossier.ID[dossier.Device]][]dossier.Interface{}, segments: map[dossier.ID[dossier.Device]][]dossier.ID[dossier.Segment]{}, readings: map[measured]dossier.Reading{}}
	for _, i := range d.Interfaces {
		v.adapters[i.Device] = append(v.adapters[i.Device], i)
	}
	for _, p := range d.Paths {
		if !p.Retired {
			v.paths = append(v.paths, p)
		}
	}
	for _, r := range d.Readings {
		m := measured{v.deviceOf(r.Subject), r.What}
		if have, found := v.readings[m]; !found || r.At.After(have.At) {
			v.readings[m] = r
		}
	}
	return v
}

// at returns the segments a device is in.
func (v *view) at(device dossier.ID[dossier.Device]) []dossier.ID[dossier.Segment] {
	s, known := v.segments[device]
	if !known {
		s = v.SegmentsOf(v.adapters[device])
		v.segments[device] = s
	}
	return s
}

// listensOn returns the adapters at which a source can be reached.
func (v *view) listensOn(s dossier.Source) []dossier.Interface {
	if i, bound := v.Interfaces.Get(s.Interface); bound {
		return []dossier.Interface{i}
	}
	return v.adapters[s.Device]
}

// from returns the segments in which a source can be reached.
func (v *view) from(s dossier.Source) []dossier.ID[dossier.Segment] {
	if i, bound := v.Interfaces.Get(s.Interface); bound {
		return v.SegmentsOf([]dossier.Interface{i})
	}
	return v.at(s.Device)
}

// reached returns the folders of a path: those it names, or all of its source.
func (v *view) reached(p dossier.Path) []dossier.Folder {
	var out []dossier.Folder
	for _, f := range v.Folders {
		if f.Source == p.Source && (len(p.Folders) == 0 || slices.Contains(p.Folders, f.ID)) {
			out = append(out, f)
		}
	}
	return out
}

// newest returns the newest reading of a quantity at a device: at itself, at one of its adapters
// or at a link that starts from one.
func (v *view) newest(device dossier.ID[dossier.Device], what dossier.Quantity) (dossier.Reading, bool) {
	r, found := v.readings[measured{device, what}]
	return r, found
}

// deviceOf returns the device that a reading's subject is, belongs to, or starts from.
func (v *view) deviceOf(subject dossier.Ref) dossier.ID[dossier.Device] {
	switch subject.Kind {
	case "device":
		return dossier.ID[dossier.Device](subject.ID)
	case "interface":
		i, _ := v.Interfaces.Get(dossier.ID[dossier.Interface](subject.ID))
		return i.Device
	case "link":
		l, _ := v.Links.Get(dossier.ID[dossier.Link](subject.ID))
		i, _ := v.Interfaces.Get(l.Near)
		return i.Device
	}
	return ""
}

// used returns the paths in use that start at a source of the device.
func (v *view) used(device dossier.ID[dossier.Device]) []dossier.Path {
	var out []dossier.Path
	for _, p := range v.paths {
		if s, _ := v.Sources.Get(p.Source); s.Device == device {
			out = append(out, p)
		}
	}
	return out
}

func (v *view) names(ids []dossier.ID[dossier.Segment]) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		s, _ := v.Segments.Get(id)
		names[i] = s.Name + " (" + s.Prefix.String() + ")"
	}
	return strings.Join(names, ", ")
}

func (v *view) labels(of []dossier.Ref) string {
	var names []string
	for _, r := range of {
		names = append(names, v.Label(r))
	}
	return strings.Join(names, ", ")
}

func hasRole(d dossier.Device, any ...dossier.Role) bool {
	return slices.ContainsFunc(d.Roles, func(r dossier.Role) bool { return slices.Contains(any, r) })
}

// gear reports whether the device carries the network for others.
func gear(d dossier.Device) bool {
	return hasRole(d, dossier.RoleRouter, dossier.RoleSwitch, dossier.RoleAccessPoint, dossier.RoleRepeater, dossier.RolePowerline)
}

func shareOne(a, b []dossier.ID[dossier.Segment]) bool {
	return slices.ContainsFunc(a, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(b, s) })
}
