// Package remedy holds the rules of issues: the steps from a symptom to a proven remedy.
package remedy

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Given is what comes with a step; each step takes what it needs of it.
type Given struct {
	By  dossier.PersonID // who takes the step
	At  time.Time        // when it was done
	To  dossier.PersonID // the new owner
	Try string           // id of the new try

	NextStep, What, Showed string
	On                     string    // whom or what is waited for
	Until                  time.Time // what was promised
	Cause, Remedy, Why     string
	With                   dossier.ID[dossier.Issue]
	Fault                  string // id of a fault mode, and where it was
	FaultAt                dossier.Ref
}

// Step is one step of an issue, and the states from which it can be taken.
type Step struct {
	Name string
	From []dossier.IssueState
	do   func(*dossier.Dossier, *dossier.Issue, Given) error
}

var (
	notClosed = []dossier.IssueState{dossier.IssueOpen, dossier.IssueInHand, dossier.IssueWaiting, dossier.IssueRemedied}
	workable  = []dossier.IssueState{dossier.IssueOpen, dossier.IssueInHand, dossier.IssueWaiting}
)

// Steps lists the steps of an issue.
var Steps = []Step{
	{"take", notClosed, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.Owner = in.By
		if i.State != dossier.IssueRemedied {
			i.State, i.WaitingOn = dossier.IssueInHand, ""
		}
		if in.NextStep != "" {
			i.NextStep = in.NextStep
		}
		return nil
	}},
	{"next", notClosed, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.NextStep = in.NextStep
		return dossier.Needs("/nextStep", in.NextStep)
	}},
	{"try", notClosed, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.Tries = append(i.Tries, dossier.Try{ID: in.Try, At: in.At, By: in.By, What: in.What, Showed: in.Showed})
		return dossier.Needs("/what", in.What)
	}},
	{"wait", workable, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.State, i.WaitingOn, i.PromisedUntil = dossier.IssueWaiting, in.On, in.Until
		return dossier.Needs("/on", in.On)
	}},
	{"give", notClosed, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.Owner = in.To
		return dossier.Needs("/to", string(in.To))
	}},
	{"remedy", workable, func(d *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.State, i.Remedy, i.Cause, i.RemediedAt, i.WaitingOn = dossier.IssueRemedied, in.Remedy, in.Cause, in.At, ""
		if i.Fault, i.FaultAt = in.Fault, in.FaultAt; in.Fault != "" && !d.Has(in.FaultAt) {
			return dossier.Needs("/faultAt", "")
		}
		return dossier.Needs("/remedy", in.Remedy)
	}},
	{"close", notClosed, func(d *dossier.Dossier, i *dossier.Issue, in Given) error {
		proof, proven := Proof(d, *i)
		if !proven && in.Why == "" {
			return dossier.Refuse("no-proof")
		}
		i.State, i.Proof, i.ClosedWhy, i.ClosedAt = dossier.IssueClosed, proof, in.Why, in.At
		return nil
	}},
	{"join", workable, func(d *dossier.Dossier, i *dossier.Issue, in Given) error {
		whole := d.Issues.Find(in.With)
		switch {
		case whole == nil:
			return dossier.Needs("/with", "")
		case whole.ID == i.ID || whole.State == dossier.IssueClosed:
			return dossier.Refuse("joins-nothing")
		}
		// What it is about and what was promised must not be forgotten with it.
		whole.Subjects = slices.Clone(whole.Subjects)
		for _, r := range append(slices.Clone(i.Subjects), tested(d, *i)...) {
			if !slices.Contains(whole.Subjects, r) {
				whole.Subjects = append(whole.Subjects, r)
			}
		}
		if !i.PromisedUntil.IsZero() && (whole.PromisedUntil.IsZero() || i.PromisedUntil.Before(whole.PromisedUntil)) {
			whole.PromisedUntil = i.PromisedUntil
			if i.Promise != "" {
				whole.Promise = i.Promise
			}
		}
		for n := range d.Issues { // what was joined to this one goes with it
			if d.Issues[n].SameAs == i.ID {
				d.Issues[n].SameAs = in.With
			}
		}
		i.State, i.SameAs, i.ClosedAt, i.WaitingOn = dossier.IssueClosed, in.With, in.At, ""
		return nil
	}},
	{"reopen", []dossier.IssueState{dossier.IssueRemedied, dossier.IssueClosed}, func(_ *dossier.Dossier, i *dossier.Issue, in Given) error {
		i.State, i.Proof, i.ClosedWhy, i.SameAs = dossier.IssueOpen, "", "", ""
		i.ClosedAt, i.RemediedAt = time.Time{}, time.Time{}
		i.Fault, i.FaultAt = "", dossier.Ref{}
		return dossier.Needs("/why", in.Why)
	}},
}

// Joined returns the issues that are further symptoms of one.
func Joined(d *dossier.Dossier, id dossier.ID[dossier.Issue]) []dossier.Issue {
	var out []dossier.Issue
	for _, i := range d.Issues {
		if id != "" && i.SameAs == id {
			out = append(out, i)
		}
	}
	return out
}

// tested are the records that the test of an issue is about.
func tested(d *dossier.Dossier, i dossier.Issue) (out []dossier.Ref) {
	_, subjects, _ := strings.Cut(proving.TestOf(d, i), ":")
	for _, id := range strings.Split(subjects, ",") {
		for _, kind := range []string{"path", "folder"} {
			if r := (dossier.Ref{Kind: kind, ID: id}); d.Has(r) {
				out = append(out, r)
			}
		}
	}
	return out
}

// Whole returns an issue with what its further symptoms tell: since when, and what was answered, of each question the newest.
func Whole(d *dossier.Dossier, i dossier.Issue) dossier.Issue {
	i.Since = Begun(i)
	for _, other := range Joined(d, i.ID) {
		if begun := Begun(other); !begun.IsZero() && begun.Before(i.Since) {
			i.Since = begun
		}
		for _, a := range other.Answers {
			same := slices.IndexFunc(i.Answers, func(x dossier.Answered) bool { return x.Question == a.Question && x.About == a.About })
			switch {
			case same < 0:
				i.Answers = append(slices.Clone(i.Answers), a)
			case a.At.After(i.Answers[same].At):
				i.Answers = slices.Clone(i.Answers)
				i.Answers[same] = a
			}
		}
	}
	return i
}

// Find returns the step of that name.
func Find(name string) (Step, bool) {
	n := slices.IndexFunc(Steps, func(s Step) bool { return s.Name == name })
	if n < 0 {
		return Step{}, false
	}
	return Steps[n], true
}

// Open reports whether the step can be taken from the issue's state by that person: who has an issue
// in hand does not take it again.
func (s Step) Open(i dossier.Issue, by dossier.PersonID) bool {
	return slices.Contains(s.From, i.State) && !(s.Name == "take" && i.State == dossier.IssueInHand && i.Owner == by)
}

// Take changes the issue by the step, or says why not. An error may leave the issue changed.
func (s Step) Take(d *dossier.Dossier, i *dossier.Issue, in Given) error {
	if err := dossier.InState(i.ID.Ref(), i.State, s.From); err != nil {
		return err
	}
	return s.do(d, i, in)
}

// Proof returns the newest attempt that proves the remedy of an issue.
func Proof(d *dossier.Dossier, i dossier.Issue) (dossier.ID[dossier.Attempt], bool) {
	if i.State != dossier.IssueRemedied {
		return "", false
	}
	for _, a := range slices.Backward(d.Attempts) {
		if proves(d, i, a) {
			return a.ID, true
		}
	}
	return "", false
}

// CloseProven closes the remedied issues whose test the attempt passed, and returns them.
func CloseProven(d *dossier.Dossier, a dossier.Attempt, now time.Time) []dossier.Ref {
	var closed []dossier.Ref
	for n := range d.Issues {
		i := &d.Issues[n]
		if i.State == dossier.IssueRemedied && proves(d, *i, a) {
			i.State, i.Proof, i.ClosedAt = dossier.IssueClosed, a.ID, now
			closed = append(closed, i.ID.Ref())
		}
	}
	return closed
}

// proves reports whether the attempt is a pass, after the remedy, of the test an issue was opened
// from or names.
func proves(d *dossier.Dossier, i dossier.Issue, a dossier.Attempt) bool {
	test := proving.TestOf(d, i)
	return test != "" && a.Outcome == dossier.Pass && !a.At.Before(i.RemediedAt) && proving.TestID(a.Test, a.Subjects) == test
}

// From makes a new issue one of a test: of the newest failed attempt at it, or, where it has not
// failed, of the test that will prove the remedy, since a call tells of a symptom before anybody tried.
func From(st proving.TestStatus, i *dossier.Issue) {
	if st.Status == proving.Failed || st.Status == proving.Marginal {
		i.FailedAttempt = st.Attempt
	} else {
		i.Test = st.Test.ID()
	}
	if len(i.Subjects) == 0 {
		i.Subjects = st.Test.Subjects
	}
}
