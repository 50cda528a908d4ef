package views

import (
	"kaiku/core/assess"
	"kaiku/core/network"
	"kaiku/wire"
	"kaiku/wording"
)

// Wakings says which machines paths need awake, and who has to wake them.
func Wakings(a *assess.Assessment) []wire.Waking {
	out := []wire.Waking{}
	for _, w := range network.Wakings(a.Index) {
		sleeper, by := Named(a.Dossier, w.Sleeper.Ref()), Named(a.Dossier, w.By.Ref())
		one := wire.Waking{Sleeper: sleeper, HasFiles: w.HasFiles, Paths: []wire.Named{}, Segments: []wire.Named{}, Medium: w.Medium, Wake: w.Wake, State: w.State, Said: wording.Waking(w, sleeper.Label, by.Label)}
		if w.By != "" {
			one.By = &by
		}
		for _, p := range w.Paths {
			one.Paths = append(one.Paths, Named(a.Dossier, p.Ref()))
		}
		for _, s := range w.Segments {
			one.Segments = append(one.Segments, Named(a.Dossier, s.Ref()))
		}
		out = append(out, one)
	}
	return out
}
