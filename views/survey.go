package views

import (
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/wire"
	"kaiku/wording"
)

// Stop says one stop of the walk through a home.
func Stop(d *dossier.Dossier, stop survey.Stop, found []network.Finding, people People) wire.Stop {
	one := wire.Stop{Gaps: []wire.Gap{}, Answered: []wire.GapAnswered{}, Findings: Findings(d, found), Wishes: []string{}, Outlets: []wire.Named{}, Devices: []wire.Named{}}
	if r, ok := d.Rooms.Get(stop.Room); ok {
		one.Room, one.Floor = Named(d, r.ID.Ref()), r.Floor
	}
	for _, g := range stop.Gaps {
		about := wire.Named{}
		if g.Subject != (dossier.Ref{}) {
			about = Named(d, g.Subject)
			if g.Subject.Kind == "outlet" { // the room is said by the stop
				about.Label = d.Label(g.Subject)
			}
		}
		said := wording.Gap(g, about.Label)
		one.Gaps = append(one.Gaps, wire.Gap{Code: g.Code, About: about, Sentence: said.Sentence, Remedy: said.Remedy, Kind: g.Kind().Kind, Members: append([]string{}, g.Kind().Members...)})
	}
	for _, g := range stop.Answered {
		about := Named(d, g.Subject)
		one.Answered = append(one.Answered, wire.GapAnswered{Code: g.Gap, About: about, Answer: g.Answer, Note: g.Note, By: people.Name(g.By), At: g.At,
			Sentence: strings.TrimRight(wording.Gap(survey.Gap{Code: g.Gap, Subject: g.Subject}, about.Label).Sentence, ".") + ": " + wording.Plain(string(g.Answer)) + "."})
	}
	if stop.Room == "" {
		return one
	}
	for _, w := range d.Wishes {
		if w.Room == stop.Room {
			one.Wishes = append(one.Wishes, wording.Plain(string(w.What)))
		}
	}
	for _, o := range d.Outlets {
		if o.Room == stop.Room {
			one.Outlets = append(one.Outlets, wire.Named{Ref: o.ID.Ref(), Label: o.Name})
		}
	}
	slices.SortFunc(one.Outlets, func(a, b wire.Named) int { return strings.Compare(a.Label, b.Label) })
	for _, v := range d.Devices {
		if v.Room == stop.Room {
			one.Devices = append(one.Devices, Named(d, v.ID.Ref()))
		}
	}
	for _, p := range d.Attachments {
		if strings.HasPrefix(p.MediaType, "image/") && survey.RoomOf(d, p.Subject) == stop.Room {
			one.Photos++
		}
	}
	return one
}

// OneNetwork says whether everything is on the same network.
func OneNetwork(d *dossier.Dossier, h network.HomeUnion) wire.OneNetwork {
	list := func(ids []dossier.ID[dossier.Device]) string {
		var names []string
		for _, id := range ids {
			names = append(names, d.Label(id.Ref()))
		}
		return strings.Join(names, ", ")
	}
	verb := " is"
	if len(h.Apart) > 1 {
		verb = " are"
	}
	values := map[string]string{"segment": d.Label(h.Segment.Ref()), "here": wording.Count(h.Here, "media device"), "apart": list(h.Apart) + verb, "unknown": list(h.Unknown)}
	switch {
	case h.Union == network.UnionApart && len(h.Unknown) > 0:
		values["unknown"] = " Of " + values["unknown"] + " no segment is recorded."
	case h.Union == network.UnionUnknown && len(h.Unknown) == 0:
		values["unknown"] = "any media device"
	}
	out := wire.OneNetwork{Union: h.Union, Sentence: wording.Fill(wording.HomeUnions[h.Union], values), Paths: []wire.PathUnion{}}
	for _, p := range h.Paths {
		out.Paths = append(out.Paths, wire.PathUnion{Path: Named(d, p.Path.Ref()), Union: p.Union, Sentence: wording.Unions[p.Union]})
	}
	return out
}

// Findings says findings.
func Findings(d *dossier.Dossier, list []network.Finding) []wire.Finding {
	out := []wire.Finding{}
	for _, f := range list {
		said := wording.Finding(f)
		one := wire.Finding{Code: f.Code, Severity: f.Severity, Values: f.Values, Sentence: said.Sentence, Remedy: said.Remedy}
		for _, r := range f.Subjects {
			one.Subjects = append(one.Subjects, Named(d, r))
		}
		out = append(out, one)
	}
	return out
}

// Line says how a home can be reached over one of its lines.
func Line(d *dossier.Dossier, r network.LineReach) wire.LineReach {
	out := wire.LineReach{Line: Named(d, r.Line.Ref()), V4: r.V4, V6: r.V6, CanServe: r.CanServe, Sentence: wording.Reach(r)}
	if r.Box != "" {
		out.Box = Named(d, r.Box.Ref())
	}
	return out
}
