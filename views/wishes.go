package views

import (
	"kaiku/wire"
	"kaiku/wording"
)

// SayWishes says how far each wish is fulfilled, and where.
func (t Home) SayWishes() []wire.WishStatus {
	out := []wire.WishStatus{}
	for _, w := range t.Wishes {
		one, _ := t.Index.Wishes.Get(w.Wish)
		said := wire.WishStatus{Wish: Named(t.Dossier, w.Wish.Ref()), What: one.What, Needed: w.Needed, Status: w.Status, Places: []wire.WishPlace{}}
		for _, p := range w.Places {
			where := wording.Where(t.Label(p.Room.Ref()), t.Label(p.Device.Ref()))
			place := wire.WishPlace{Status: p.Status, Paths: []wire.Named{}, Open: p.Open, Sentence: wording.Wish(string(one.What), where, p.Status, p.Open)}
			if p.Room != "" {
				place.Room = Named(t.Dossier, p.Room.Ref())
			}
			if p.Device != "" {
				place.Device = Named(t.Dossier, p.Device.Ref())
			}
			for _, id := range p.Paths {
				place.Paths = append(place.Paths, Named(t.Dossier, id.Ref()))
			}
			said.Places = append(said.Places, place)
		}
		out = append(out, said)
	}
	return out
}
