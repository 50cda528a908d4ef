package views

import (
	"cmp"
	"slices"
	"strings"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/wire"
	"kaiku/wording"
)

// Load says what a home's paths ask of its network.
func Load(a *assess.Assessment) wire.Load {
	l := a.Load()
	out := wire.Load{Alone: []wire.LoadCase{}, Sets: []wire.LoadCase{}, Uplinks: []wire.LoadUplink{}}
	for _, c := range l.Alone {
		out.Alone = append(out.Alone, LoadCase(a, c))
	}
	slices.SortStableFunc(out.Alone, func(x, y wire.LoadCase) int { return strings.Compare(x.Name, y.Name) })
	for _, c := range l.Sets {
		out.Sets = append(out.Sets, LoadCase(a, c))
	}
	for _, use := range l.Uplinks {
		line := Named(a.Dossier, use.Line.Ref())
		one := wire.LoadUplink{Line: line, Mbps: use.Mbps, Known: use.Known, Said: wording.LoadUplink(use, line.Label)}
		for _, q := range use.Qualities {
			one.Fits = append(one.Fits, wire.LoadFits{Lines: q.Lines, Mbps: q.Mbps, AtOnce: q.AtOnce})
		}
		out.Uplinks = append(out.Uplinks, one)
	}
	return out
}

// LoadCase says what one path, or several in use at once, ask of the network, and what would leave more room.
func LoadCase(a *assess.Assessment, c load.Case) wire.LoadCase {
	out := loadCase(a, c)
	for _, t := range a.Forecast().Together(a.Index, c.Paths) {
		one := wire.LoadConverting{Source: wire.Named{Ref: wire.Ref(t.Source.Ref()), Label: a.FullLabel(t.Source.Ref())}, Paths: []wire.Named{}, Mpx: t.Mpx, Power: t.Budget, State: "not-known"}
		switch enough, known := t.Enough(); {
		case known && enough:
			one.State = "enough"
		case known:
			one.State = "too-little"
		}
		for _, p := range t.Paths {
			one.Paths = append(one.Paths, Named(a.Dossier, p.Ref()))
		}
		one.Said = wording.Converting(t, one.Source.Label)
		out.Converting = append(out.Converting, one)
	}
	for _, ch := range load.Changes(a.Index, a.Now.Location(), c) {
		subject := cmp.Or(ch.Outlet.Ref(), ch.Link.Ref(), ch.Folder.Ref(), ch.Radio.Ref(), ch.Segment.Ref(), ch.Device.Ref())
		what := a.Label(subject)
		switch {
		case ch.Link != "":
			what = ends(a, ch.Link)
		case ch.Folder != "":
			what = a.FullLabel(subject)
		}
		out.Changes = append(out.Changes, wire.LoadChange{Kind: ch.Kind, Said: wording.LoadChange(ch.Change, a.Label(ch.Device.Ref()), what), Subject: wire.Ref(subject), Share: ch.Share, State: ch.State,
			Then: "then at most " + wording.Share(ch.Share, "") + " of anything is taken (" + wording.LoadStates[ch.State] + ")", Steps: stepsOf(a, ch)})
	}
	return out
}

// stepsOf are the changes of records by which a change of the network is supposed. Converted files are
// read again, not recorded.
func stepsOf(a *assess.Assessment, ch load.Tried) []wire.PreviewStep {
	if ch.Kind == load.LighterCopies {
		return []wire.PreviewStep{}
	}
	return stepsTo(a.Dossier, ch.Home, load.Touched)
}

func loadCase(a *assess.Assessment, c load.Case) wire.LoadCase {
	out := wire.LoadCase{Set: string(c.Set), Paths: []wire.Named{}, State: c.State, Uses: []wire.LoadUse{}, Flows: []wire.LoadFlow{}, AtOnce: c.AtOnce, Changes: []wire.LoadChange{}, Converting: []wire.LoadConverting{}}
	var names []string
	for _, id := range c.Paths {
		p := Named(a.Dossier, id.Ref())
		out.Paths, names = append(out.Paths, p), append(names, p.Label)
	}
	out.Name = wording.And(names)
	if c.Set != "" {
		out.Name = a.Label(c.Set.Ref())
	}
	var gaps []string
	for _, f := range c.Flows {
		one := wire.LoadFlow{Path: Named(a.Dossier, f.Path.Ref()), Mbps: f.Mbps, Known: f.Known, Way: []wire.Named{}, Links: texts(f.Links), Gaps: []string{}}
		if f.Folder != "" {
			folder := Named(a.Dossier, f.Folder.Ref())
			one.Folder = &folder
		}
		for _, d := range f.Way {
			one.Way = append(one.Way, Named(a.Dossier, d.Ref()))
		}
		for _, g := range f.Gaps {
			one.Gaps = append(one.Gaps, wording.LoadGap(g, one.Path.Label, gapAt(a, f), a.Label(f.Way[0].Ref())))
		}
		gaps = append(gaps, one.Gaps...)
		out.Flows = append(out.Flows, one)
	}
	most := ""
	for i, use := range c.Uses {
		one := wire.LoadUse{Kind: use.Medium.Kind, Label: mediumLabel(a, use.Medium), Link: string(use.Medium.Link), Links: texts(use.Medium.Links), Share: use.Share, State: use.State(), Known: use.Known, AtLeast: use.More, Mbps: use.Mbps, By: []wire.LoadPart{}}
		one.Said = wording.LoadUse(use, one.Label)
		if i == 0 {
			most = one.Label
		}
		for _, p := range use.By {
			one.By = append(one.By, wire.LoadPart{Path: Named(a.Dossier, p.Path.Ref()), Share: p.Share, Rate: p.Rate, Known: p.Known})
		}
		out.Uses = append(out.Uses, one)
	}
	out.Said = wording.LoadCase(c, most, gaps)
	if c.Surest != "" {
		at := Named(a.Dossier, c.Surest.Ref())
		out.Surest = &at
	}
	return out
}

// gapAt says where something is missing: a link by its ends, and of multicast the segment, or whose it is where none is recorded.
func gapAt(a *assess.Assessment, f load.Flow) string {
	switch {
	case f.At.Kind == "link":
		return "the link " + ends(a, dossier.ID[dossier.Link](f.At.ID))
	case f.At.Kind == "segment":
		return "the segment " + a.Label(f.At)
	case f.Gaps[0] == load.NoSnooping:
		return "the segment of " + a.Label(f.At)
	}
	return a.Label(f.At)
}

// ends says from where to where a link was recorded.
func ends(a *assess.Assessment, id dossier.ID[dossier.Link]) string {
	l, _ := a.Links.Get(id)
	near, far := a.EndsOf(l)
	return "from " + a.Label(near.Ref()) + " to " + a.Label(far.Ref())
}

func mediumLabel(a *assess.Assessment, m load.Medium) string {
	l, _ := a.Links.Get(m.Link)
	near, far := a.EndsOf(l)
	switch {
	case m.Kind == load.Disk:
		near = m.From
	case far == m.From:
		near, far = far, near
	}
	var radios []string
	if m.Radio != "" {
		i, _ := a.Interfaces.Get(m.Radio)
		radios = append(radios, a.Label(i.Device.Ref()))
	}
	return wording.LoadMedium(m, a.Label(near.Ref()), a.Label(far.Ref()), a.Label(m.Line.Ref()), radios)
}

func texts[T ~string](ids []T) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = string(id)
	}
	return out
}
