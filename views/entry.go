package views

import (
	"kaiku/core/dossier"
	"kaiku/core/entry"
	"kaiku/wire"
	"kaiku/wording"
)

// EntryCard says what has to be keyed in on a device for a path.
func EntryCard(d *dossier.Dossier, c entry.Card) wire.EntryCard {
	out := wire.EntryCard{Path: Named(d, c.Path.Ref()), Device: Named(d, c.Device.Ref()), Lines: []wire.EntryLine{}, Steps: RecipeSteps(d, c.Steps)}
	if v, _ := d.Devices.Get(c.Device); v.Room != "" {
		out.Room = Named(d, v.Room.Ref())
	}
	if c.Segment != "" {
		out.Segment = Named(d, c.Segment.Ref())
	}
	for _, l := range c.Lines {
		one := wire.EntryLine{What: l.What, Title: wording.Entries[l.What], Value: l.Value, Others: l.Others, Known: l.Known(), Entered: l.Entered}
		if l.Secret != "" {
			one.Secret = Named(d, l.Secret.Ref())
		}
		if !one.Known {
			out.Missing++
		}
		out.Lines = append(out.Lines, one)
	}
	return out
}
