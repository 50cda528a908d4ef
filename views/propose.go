package views

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/pathkind"
	"kaiku/core/propose"
	"kaiku/wire"
	"kaiku/wording"
)

// Proposal says by which ways a device could get what is wished for.
func Proposal(a *assess.Assessment, device dossier.Device) wire.Proposal {
	p := propose.For(a, device)
	out := wire.Proposal{Device: Named(a.Dossier, p.Device.Ref()), Wished: []wire.ProposedFor{}, Without: []wire.ProposedWithout{}}
	for _, w := range p.Wished {
		one := wire.ProposedFor{What: w.What, Said: wording.ProposedFor(w), Ways: []wire.ProposedWay{}}
		for _, way := range w.Ways {
			one.Ways = append(one.Ways, proposedWay(a, device, w.What, way))
		}
		out.Wished = append(out.Wished, one)
	}
	for _, w := range p.Without {
		out.Without = append(out.Without, wire.ProposedWithout{Kind: w.Kind, Said: wording.ProposedWithout(w)})
	}
	return out
}

func proposedWay(a *assess.Assessment, device dossier.Device, what dossier.ContentKind, w propose.Way) wire.ProposedWay {
	name := w.Path.Name
	if !w.Exists {
		of := wording.Contents(what)
		if what == "" {
			source, _ := a.Sources.Get(w.Path.Source)
			of = source.Name
		}
		name = freeName(a, device.Name+" "+of, w.Path.Kind)
	}
	path := w.Path
	path.Name = name
	source := Named(a.Dossier, w.Path.Source.Ref())
	out := wire.ProposedWay{Kind: path.Kind, Said: wording.Capital(wording.PathKinds[path.Kind]), Source: source, Possible: w.Possible(), Seen: w.Seen, Able: wording.ProposedAble[w.Seen],
		Finds: wording.ProposedFinds(path.FoundBy, w.Second), Plays: wording.ForecastShares(w.Plays), Load: w.Load.State,
		Cannot: append([]pathkind.Limit{}, w.Cannot...), Loses: []string{}, Open: []string{}, Blocks: Findings(a.Dossier, w.Blocks), Minds: Findings(a.Dossier, w.Minds), Draft: draftOf(path)}
	if w.Exists {
		known := Named(a.Dossier, path.ID.Ref())
		out.Recorded = &known
	}
	supposed := *a
	supposed.Index = w.Home
	out.LoadSaid = loadCase(&supposed, w.Load).Said
	for _, l := range w.Cannot {
		out.Loses = append(out.Loses, wording.PathLimits[l])
	}
	for _, code := range w.Open {
		out.Open = append(out.Open, wording.Prerequisites[code].Sentence)
	}
	if path.FallBack != "" {
		other := Named(a.Dossier, path.FallBack.Ref())
		out.FallBack = &other
	}
	return out
}

// draftOf is a path as it is added: its id is for whoever adds it to choose.
func draftOf(p dossier.Path) wire.Record {
	out := wire.Record{}
	text, err := json.Marshal(p)
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	if err != nil {
		panic(err) // a path is a plain record
	}
	for _, own := range []string{"id", "revision"} {
		delete(out, own)
	}
	return out
}

// freeName returns a name that no path has yet.
func freeName(a *assess.Assessment, name string, kind dossier.PathKind) string {
	taken := func(n string) bool {
		return slices.ContainsFunc(a.Paths, func(p dossier.Path) bool { return strings.EqualFold(p.Name, n) })
	}
	if !taken(name) {
		return name
	}
	for n, other := 2, name+", "+wording.Plain(string(kind)); ; n++ {
		if !taken(other) {
			return other
		}
		other = fmt.Sprintf("%s %d", name, n)
	}
}
