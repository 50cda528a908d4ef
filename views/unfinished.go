package views

import (
	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// Unfinished says what the changes of a home still need.
func Unfinished(h *assess.Assessment) []wire.Unfinished {
	var out []wire.Unfinished
	for _, o := range h.Plan.Unfinished() {
		c, _ := h.Changes.Get(o.Change)
		one := wire.Unfinished{Change: wire.Named{Ref: o.Change.Ref(), Label: c.What}, Device: Named(h.Dossier, c.Device.Ref()), Items: []string{}}
		for _, i := range o.Items {
			one.Items = append(one.Items, wording.ToDo(i.Code, i.Values))
		}
		out = append(out, one)
	}
	return out
}

// RoomThen names a room by what it is called now or, where it is no more, by what it was called then.
func RoomThen(now, then *dossier.Dossier, id dossier.ID[dossier.Room]) wire.Named {
	switch {
	case id == "":
		return wire.Named{Label: "no room recorded"}
	case now.Has(id.Ref()):
		return Named(now, id.Ref())
	}
	return Named(then, id.Ref())
}
