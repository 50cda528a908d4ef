package views

import (
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Owed says what changes still owe.
func Owed(x *dossier.Index) []wire.Owed {
	var out []wire.Owed
	for _, o := range proving.WhatIsOwed(x) {
		c, _ := x.Changes.Get(o.Change)
		one := wire.Owed{Change: Named(x.Dossier, o.Change.Ref()), Device: Named(x.Dossier, c.Device.Ref()), Items: []string{}}
		for _, i := range o.Items {
			one.Items = append(one.Items, wording.OwedItem(i.Code, i.Values))
		}
		out = append(out, one)
	}
	return out
}
