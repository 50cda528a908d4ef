package views

import (
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/core/suspects"
	"kaiku/wire"
	"kaiku/wording"
)

// Issue says an issue with the steps that the reader can take: none without the right to write.
func (t Home) Issue(i dossier.Issue, faults *suspects.Faults, reader dossier.PersonID, mayWrite bool) wire.Issue {
	d, people := t.Dossier, t.People
	out := wire.Issue{Record: i, Owner: people.Name(i.Owner), OpenedBy: people.Name(i.OpenedBy), Subjects: []wire.Named{}, TriedBy: []string{}, StepsTaken: []string{}, Also: []wire.Named{}}
	for _, r := range i.Subjects {
		out.Subjects = append(out.Subjects, Named(d, r))
	}
	for _, try := range i.Tries {
		out.TriedBy = append(out.TriedBy, people.Name(try.By))
	}
	if st, ok := t.Assessment.Test(proving.TestOf(d, i)); ok {
		said := t.Test(st)
		out.Test = &said
	}
	if i.SameAs != "" {
		out.SameAs = Named(d, i.SameAs.Ref())
	}
	for _, other := range remedy.Joined(d, i.ID) {
		out.Also = append(out.Also, Named(d, other.ID.Ref()))
	}
	out.Because = []string{}
	if m := faults.Mode(i.Fault); m != nil {
		out.Fault = t.faultAt(m, i.FaultAt)
	}
	switch {
	case i.State != dossier.IssueClosed:
		u := remedy.Urgent(t.Index, t.Statuses, t.Wishes, remedy.Whole(d, i), t.Now)
		out.Urgency = u.Level
		for _, r := range u.Reasons {
			out.Because = append(out.Because, wording.Urgent(r, d.FullLabel(r.About), t.Now.Location()))
		}
	case i.Proof != "" && out.Test != nil && out.Test.Status != proving.Proven:
		out.ProofOff = string(out.Test.Status)
	}
	_, out.CanClose = remedy.Proof(d, i)
	for _, step := range remedy.Steps {
		if mayWrite && step.Open(i, reader) {
			out.StepsTaken = append(out.StepsTaken, step.Name)
		}
	}
	return out
}
