package service

import (
	"context"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/wire"
	"kaiku/wording"
)

// Survey returns the walk through a home with what is missing and found in each room, and what is
// known of its network.
func (s *Service) Survey(ctx context.Context, a Actor, code string) (wire.Survey, error) {
	h, err := s.read(ctx, a, "show-survey", code)
	if err != nil {
		return wire.Survey{}, err
	}
	d := h.Dossier
	out := wire.Survey{Revision: d.Revision, Network: oneNetwork(d, h.Union), Lines: []wire.LineReach{}, MayWrite: a.may(Writes, d, nil)}
	people, err := s.staff(ctx)
	if err != nil {
		return out, err
	}
	for _, r := range h.Outside {
		line := wire.LineReach{Line: named(d, r.Line.Ref()), V4: r.V4, V6: r.V6, CanServe: r.CanServe, Sentence: wording.Reach(r)}
		if r.Box != "" {
			line.Box = named(d, r.Box.Ref())
		}
		out.Lines = append(out.Lines, line)
	}
	found := survey.ByRoom(d, h.Findings)
	for _, stop := range h.Walk {
		one := stopOf(d, stop, found[stop.Room], people)
		out.Missing += len(one.Gaps)
		out.Stops = append(out.Stops, one)
	}
	return out, nil
}

// AnswerGap stores that nothing is to be recorded for a gap of the survey, and who said so, or
// withdraws that.
func (s *Service) AnswerGap(ctx context.Context, a Actor, code string, in wire.AnswerGap, r Request) error {
	_, err := s.write(ctx, a, "answer-gap", code, in.Note, r, func(d *dossier.Dossier) error {
		i := slices.IndexFunc(d.GapAnswers, func(g dossier.GapAnswer) bool { return g.Gap == in.Code && g.Subject == in.About })
		if i >= 0 {
			d.GapAnswers.Delete(d.GapAnswers[i].ID)
		}
		if in.Answer == "" {
			if i < 0 {
				return refuse("no-such-gap", "gap", in.Code)
			}
			return nil
		}
		open := slices.ContainsFunc(survey.Walk(d.Index()), func(stop survey.Stop) bool {
			return slices.Contains(stop.Gaps, survey.Gap{Code: in.Code, Subject: in.About})
		})
		if !open {
			return refuse("no-such-gap", "gap", in.Code)
		}
		g := dossier.GapAnswer{Gap: in.Code, Subject: in.About, Answer: in.Answer, Note: in.Note, By: a.ID, At: dossier.At(r.doneAt(s.now()))}
		g.ID = dossier.ID[dossier.GapAnswer](newID())
		d.GapAnswers.Put(g)
		return nil
	})
	return err
}

func stopOf(d *dossier.Dossier, stop survey.Stop, found []network.Finding, people staff) wire.Stop {
	one := wire.Stop{Gaps: []wire.Gap{}, Answered: []wire.GapAnswered{}, Findings: findingsSaid(d, found), Wishes: []string{}, Outlets: []wire.Named{}, Devices: []wire.Named{}}
	if r, ok := d.Rooms.Get(stop.Room); ok {
		one.Room, one.Floor = named(d, r.ID.Ref()), r.Floor
	}
	for _, g := range stop.Gaps {
		about := wire.Named{}
		if g.Subject != (dossier.Ref{}) {
			about = named(d, g.Subject)
			if g.Subject.Kind == "outlet" { // the room is said by the stop
				about.Label = d.Label(g.Subject)
			}
		}
		said := wording.Gap(g, about.Label)
		one.Gaps = append(one.Gaps, wire.Gap{Code: g.Code, About: about, Sentence: said.Sentence, Remedy: said.Remedy, Kind: g.Kind().Kind, Members: append([]string{}, g.Kind().Members...)})
	}
	for _, g := range stop.Answered {
		about := named(d, g.Subject)
		one.Answered = append(one.Answered, wire.GapAnswered{Code: g.Gap, About: about, Answer: g.Answer, Note: g.Note, By: people.name(g.By), At: g.At,
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
			one.Devices = append(one.Devices, named(d, v.ID.Ref()))
		}
	}
	for _, p := range d.Attachments {
		if strings.HasPrefix(p.MediaType, "image/") && survey.RoomOf(d, p.Subject) == stop.Room {
			one.Photos++
		}
	}
	return one
}

// oneNetwork says whether everything is on the same network.
func oneNetwork(d *dossier.Dossier, h network.HomeUnion) wire.OneNetwork {
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
		out.Paths = append(out.Paths, wire.PathUnion{Path: named(d, p.Path.Ref()), Union: p.Union, Sentence: wording.Unions[p.Union]})
	}
	return out
}

func findingsSaid(d *dossier.Dossier, list []network.Finding) []wire.Finding {
	out := []wire.Finding{}
	for _, f := range list {
		said := wording.Finding(f)
		one := wire.Finding{Code: f.Code, Severity: f.Severity, Values: f.Values, Sentence: said.Sentence, Remedy: said.Remedy}
		for _, r := range f.Subjects {
			one.Subjects = append(one.Subjects, named(d, r))
		}
		out = append(out, one)
	}
	return out
}
