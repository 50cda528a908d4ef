package views

import (
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Unfinished says what the changes of a home still need.
func Unfinished(x *dossier.Index) []wire.Unfinished {
	var out []wire.Unfinished
	for _, o := range proving.Unfinished(x) {
		c, _ := x.Changes.Get(o.Change)
		one := wire.Unfinished{Change: Named(x.Dossier, o.Change.Ref()), Device: Named(x.Dossier, c.Device.Ref()), Items: []string{}}
		for _, i := range o.Items {
			one.Items = append(one.Items, wording.ToDo(i.Code, i.Values))
		}
		out = append(out, one)
	}
	return out
}
