package views

import (
	"slices"

	"kaiku/core/assess"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Preview compares two assessments of one home.
func Preview(before *assess.Assessment, after Home) wire.Preview {
	out := wire.Preview{Before: before.Coverage, After: after.Coverage, Stale: []wire.PreviewTest{}, InDoubt: []wire.PreviewTest{}, Proven: []wire.PreviewTest{}, Asked: []wire.PreviewTest{}, Dropped: []wire.PreviewTest{},
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
	out.Sentence = wording.Preview(len(out.Stale), len(out.InDoubt), len(out.Proven), minutes)
	return out
}

// without returns the findings that have no like among the others.
func without(list, others []network.Finding) []network.Finding {
	return slices.DeleteFunc(slices.Clone(list), func(f network.Finding) bool { return f.Among(others) })
}
