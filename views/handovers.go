package views

import (
	"slices"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// Handover says a handover, with the steps that are possible now and that the reader may take.
func Handover(d *dossier.Dossier, h dossier.Handover, people People, may func(step string) bool) wire.Handover {
	out := wire.Handover{Record: h, From: people.Get(h.From), To: people.Get(h.To), Points: []wire.Point{}, StepsOK: []string{}}
	for _, p := range h.Points {
		out.Points = append(out.Points, wire.Point{Point: p, Sentence: wording.Point(p)})
		if !p.Confirmed {
			out.Unread++
		}
	}
	if slices.Contains(custody.Offerable, h.State) {
		for _, g := range custody.Gates(d) {
			said := wording.Gate(g)
			out.Gates = append(out.Gates, wire.Gate{Gate: g, Sentence: said.Sentence, Remedy: said.Remedy})
		}
	}
	for _, step := range custody.Steps {
		if slices.Contains(step.From, h.State) && may(step.Name) {
			out.StepsOK = append(out.StepsOK, step.Name)
		}
	}
	return out
}
