package views

import (
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Preview compares two assessments of one home.
func Preview(before *assess.Assessment, after Home) wire.Preview {
	out := wire.Preview{Revision: before.Revision, Before: before.Coverage, After: after.Coverage, Stale: []wire.PreviewTest{}, InDoubt: []wire.PreviewTest{}, Proven: []wire.PreviewTest{}, Asked: []wire.PreviewTest{}, Dropped: []wire.PreviewTest{},
		Found: Findings(after.Dossier, without(after.Findings, before.Findings)), Gone: Findings(before.Dossier, without(before.Findings, after.Findings))}
	good := func(s proving.Status) bool { return s == proving.Proven || s == proving.Marginal }
	var lost []proving.TestStatus
	for _, st := range after.Statuses {
		was, planned := before.Test(st.Test.ID())
		one := wire.PreviewTest{ID: st.Test.ID(), Title: wording.Tests[st.Test.Kind.Name].Title, About: Named(after.Dossier, st.Test.Subjects[0]), Required: st.Test.Required}
		switch {
		case !planned:
			if st.Test.Required {
				out.Asked = append(out.Asked, one)
			}
		case good(was.Status) && st.Status == proving.Stale:
			said := after.Test(st)
			one.Sentence = said.Changes[0].Sentence
			out.Stale = append(out.Stale, one)
			lost = append(lost, st)
		case good(was.Status) && st.Status == proving.InDoubt:
			one.Sentence = after.Test(st).Doubts[0].Sentence
			out.InDoubt = append(out.InDoubt, one)
			lost = append(lost, st)
		case !good(was.Status) && st.Status == proving.Proven:
			out.Proven = append(out.Proven, one)
		}
	}
	for _, was := range before.Statuses {
		if _, planned := after.Assessment.Test(was.Test.ID()); !planned && good(was.Status) {
			out.Dropped = append(out.Dropped, wire.PreviewTest{ID: was.Test.ID(), Title: wording.Tests[was.Test.Kind.Name].Title, About: Named(before.Dossier, was.Test.Subjects[0]), Required: was.Test.Required})
		}
	}
	required := slices.DeleteFunc(slices.Clone(lost), func(s proving.TestStatus) bool { return !s.Test.Required })
	steps, minutes := after.Plan.Reproof(required)
	out.Again, out.Minutes = after.Steps(steps), minutes
	out.Load, out.Plays = previewLoad(before, after.Assessment), previewPlays(before, after.Assessment)
	out.Sentence = wording.Preview(len(out.Stale), len(out.InDoubt), len(out.Proven), minutes)
	return out
}

// previewLoad lists the paths and busy sets of which the network would carry more or less easily.
func previewLoad(before, after *assess.Assessment) []wire.PreviewChange {
	out := []wire.PreviewChange{}
	type key struct {
		set  dossier.ID[dossier.BusySet]
		path dossier.ID[dossier.Path]
	}
	was := map[key]string{}
	cases := func(a *assess.Assessment, each func(key, string, load.Case)) {
		for _, c := range a.Load().Sets {
			each(key{set: c.Set}, a.Label(c.Set.Ref()), c)
		}
		for _, c := range a.Load().Alone {
			each(key{path: c.Paths[0]}, a.Label(c.Paths[0].Ref()), c)
		}
	}
	cases(before, func(k key, _ string, c load.Case) { was[k] = wording.LoadBrief(c) })
	cases(after, func(k key, name string, c load.Case) {
		if now := wording.LoadBrief(c); was[k] != now {
			out = append(out, wire.PreviewChange{What: name, Before: was[k], After: now})
		}
	})
	return out
}

// previewPlays lists the folders of which a device would play more or less.
func previewPlays(before, after *assess.Assessment) []wire.PreviewChange {
	out := []wire.PreviewChange{}
	type key struct {
		device dossier.ID[dossier.Device]
		folder dossier.ID[dossier.Folder]
	}
	was := map[key]string{}
	for _, c := range before.Forecast().Cells {
		was[key{c.Device, c.Folder}] = wording.ForecastShares(c)
	}
	for _, c := range after.Forecast().Cells {
		k := key{c.Device, c.Folder}
		if now := wording.ForecastShares(c); was[k] != now {
			out = append(out, wire.PreviewChange{What: after.Label(c.Folder.Ref()) + " on " + after.Label(c.Device.Ref()), Before: was[k], After: now})
		}
		delete(was, k)
	}
	for _, c := range before.Forecast().Cells { // in their order
		if said, left := was[key{c.Device, c.Folder}]; left {
			out = append(out, wire.PreviewChange{What: before.Label(c.Folder.Ref()) + " on " + before.Label(c.Device.Ref()), Before: said})
		}
	}
	return out
}

// without returns the findings that have no like among the others.
func without(list, others []network.Finding) []network.Finding {
	return slices.DeleteFunc(slices.Clone(list), func(f network.Finding) bool { return f.Among(others) })
}
