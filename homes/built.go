package homes

import (
	"fmt"

	"kaiku/core/dossier"
)

// Built is a home that a test builds up record by record.
type Built struct {
	*dossier.Dossier
	N int // of the last record
}

// Build begins one.
func Build() *Built { return &Built{&dossier.Dossier{}, 100} }

// Add adds a record that is made with its id, to the list of its kind.
func Add[T dossier.Record](b *Built, list *dossier.Records[T], make func(dossier.ID[T]) T) dossier.ID[T] {
	b.N++
	id := ID[T](b.N)
	list.Put(make(id))
	return id
}

// Device adds a device in a room of its own.
func (b *Built) Device(name string, roles ...dossier.Role) dossier.ID[dossier.Device] {
	room := Add(b, &b.Rooms, func(id dossier.ID[dossier.Room]) (r dossier.Room) { r.ID, r.Name = id, name; return })
	return Add(b, &b.Devices, func(id dossier.ID[dossier.Device]) (v dossier.Device) {
		v.ID, v.Name, v.Roles, v.Room = id, name, roles, room
		return
	})
}

// Adapter adds an adapter of a device.
func (b *Built) Adapter(of dossier.ID[dossier.Device], medium dossier.Medium, portMbps float64) dossier.ID[dossier.Interface] {
	return Add(b, &b.Interfaces, func(id dossier.ID[dossier.Interface]) (i dossier.Interface) {
		i.ID, i.Device, i.Name, i.Medium, i.PortMbps = id, of, fmt.Sprint("if", b.N), medium, portMbps
		return
	})
}

// Link adds a link between two adapters. A radio link on a channel is one of 5 GHz.
func (b *Built) Link(kind dossier.LinkKind, near, far dossier.ID[dossier.Interface], rateMbps float64, channel int) dossier.ID[dossier.Link] {
	return Add(b, &b.Links, func(id dossier.ID[dossier.Link]) (l dossier.Link) {
		l.ID, l.Near, l.Far, l.Kind, l.RateMbps, l.Channel = id, near, far, kind, rateMbps, channel
		if channel != 0 {
			l.Band = dossier.Band5
		}
		return
	})
}
