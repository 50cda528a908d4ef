package proving

import (
	"maps"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
)

// Against is what may speak against a proof, apart from the records themselves: what was found of
// the home, and what scans saw of it that differs from the record.
type Against struct {
	Findings []network.Finding
	Seen     []knowledge.Seen
}

// DoubtCode says what speaks against a proof.
type DoubtCode string

// What speaks against a proof.
const (
	DoubtFinding  DoubtCode = "finding"          // a finding that keeps the path from working; values: finding
	DoubtSeen     DoubtCode = "seen-differently" // a scan saw another value; values: member, recorded, seen
	DoubtFollowUp DoubtCode = "follow-up-open"   // a change that still needs something; values: change, followUps
	DoubtReset    DoubtCode = "reset"            // the device was reset to defaults; values: change
	DoubtChange   DoubtCode = "changed-since"    // a change of which nobody said what it means; values: change
	DoubtIssue    DoubtCode = "issue-open"       // an issue opened since; values: symptom
	DoubtEarlier  DoubtCode = "earlier-failed"   // a test that must pass before has failed since; values: test
)

// Doubt is one thing that speaks against a proof: its code, the record it comes from, what led to
// it, and since when, where that is known.
type Doubt struct {
	Code    DoubtCode         `json:"code"`
	Subject dossier.Ref       `json:"subject"`
	Values  map[string]string `json:"values,omitzero"`
	At      time.Time         `json:"at,omitzero"`
}

// hits says on which basis a proof must stand for what a finding keeps from working to speak against
// it.
var hits = map[network.Keeps]Basis{
	network.KeepsReach: OnReach, network.KeepsFinding: OnFound, network.KeepsOpening: OnOpen, network.KeepsCount: OnCount, network.KeepsPlaying: OnPlay,
	network.KeepsApart: OnNames, network.KeepsMarks: OnAcross, network.KeepsWriting: OnWriting, network.KeepsStart: OnStart, network.KeepsWaking: OnWaking,
	network.KeepsOutside: OnOutside, network.KeepsSeats: OnSet, network.KeepsHours: OnHours,
}

// doubt puts in doubt what is proven and spoken against.
func (p *Plan) doubt(list []TestStatus, against Against) {
	changes, found := p.changes(), hitting(against.Findings)
	ofPath := map[dossier.ID[dossier.Path]][]hit{} // what speaks against a path, for its many tests
	for i := range list {
		s := &list[i]
		if s.Status != Proven && s.Status != Marginal {
			continue
		}
		involved := p.involvedIn(&s.Test)
		var out []Doubt
		hits, known := ofPath[s.Test.Path]
		switch {
		case s.Test.Kind.About != AboutPath:
			hits = speaking(found, involved)
		case !known:
			hits = speaking(found, involved)
			ofPath[s.Test.Path] = hits
		}
		for _, f := range hits {
			if s.Test.Kind.On.Takes(f.on) {
				out = append(out, f.Doubt)
			}
		}
		for _, seen := range against.Seen {
			// What was seen before the test was made says nothing against what the test saw itself.
			if seen.At.After(s.At) && s.Test.decidedBy(seen.Subject, seen.Member, involved) {
				out = append(out, Doubt{DoubtSeen, seen.Subject, map[string]string{"member": seen.Member, "recorded": seen.Recorded, "seen": seen.Seen}, seen.At})
			}
		}
		for _, c := range changes {
			if involved[c.device] && (c.always || c.at.IsZero() || c.at.After(s.At)) {
				out = append(out, c.Doubt)
			}
		}
		out = append(out, p.byIssues(s, involved)...)
		for _, before := range s.Test.After {
			if b := &list[p.byID[before]]; b.Status == Failed && b.At.After(s.At) {
				out = append(out, Doubt{DoubtEarlier, b.Attempt.Ref(), map[string]string{"test": b.Test.Kind.Name}, b.At})
			}
		}
		if len(out) > 0 {
			s.Status, s.Doubts = InDoubt, out
		}
	}
}

// involvedIn returns the records that the proofs of a test stand on: those of its path; for a folder
// without the path's other folders; for a set those of all its paths, and itself.
func (p *Plan) involvedIn(t *Test) map[dossier.Ref]bool {
	switch t.Kind.About {
	case AboutPath:
		return p.involved(t.Path)
	case AboutFolder:
		out := maps.Clone(p.involved(t.Path))
		maps.DeleteFunc(out, func(r dossier.Ref, _ bool) bool { return r.Kind == "folder" && r != t.Subjects[0] })
		return out
	}
	out := map[dossier.Ref]bool{t.Subjects[0]: true}
	set, _ := p.view.BusySets.Get(dossier.ID[dossier.BusySet](t.Subjects[0].ID))
	for _, path := range inUse(p.view.Index, set) {
		for ref := range p.involved(path.ID) {
			out[ref] = true
		}
	}
	return out
}

// decidedBy reports whether a member of a record is among what a proof of the test stands on.
func (t *Test) decidedBy(ref dossier.Ref, member string, involved map[dossier.Ref]bool) bool {
	if !involved[ref] {
		return false
	}
	for _, on := range relevance[ref.Kind][member].by {
		if t.Kind.On.Takes(on) {
			return true
		}
	}
	return false
}

// hit is a finding as it speaks against proofs: on which basis, and about what.
type hit struct {
	Doubt
	on    Basis
	about []dossier.Ref
}

// hitting returns the findings that keep something from working. One that names paths or sets speaks
// of these alone; another of all that stands on one of its subjects.
func hitting(found []network.Finding) []hit {
	var out []hit
	for _, f := range found {
		on, known := hits[f.Keeps]
		if !known {
			continue
		}
		about := slices.DeleteFunc(slices.Clone(f.Subjects), func(r dossier.Ref) bool { return r.Kind != "path" && r.Kind != "busy-set" })
		if len(about) == 0 {
			about = f.Subjects
		}
		out = append(out, hit{Doubt{Code: DoubtFinding, Subject: f.Subjects[0], Values: map[string]string{"finding": f.Code}}, on, about})
	}
	return out
}

// speaking returns those that are about one of the records.
func speaking(found []hit, involved map[dossier.Ref]bool) []hit {
	var out []hit
	for _, f := range found {
		if slices.ContainsFunc(f.about, func(r dossier.Ref) bool { return involved[r] }) {
			out = append(out, f)
		}
	}
	return out
}

// change is a change of a device as it speaks against proofs.
type change struct {
	Doubt
	device dossier.Ref
	at     time.Time
	always bool // whenever the proof was made
}

// changes returns what was altered on devices: what still needs something, what was reset and not
// confirmed since, and what nobody said that it changes nothing.
func (p *Plan) changes() []change {
	var out []change
	for _, c := range p.view.Changes {
		one := change{device: c.Device.Ref(), at: c.At}
		one.Doubt = Doubt{Subject: c.ID.Ref(), Values: map[string]string{"change": c.What}, At: c.At}
		switch owed := c.Outstanding(); {
		case len(owed) > 0:
			one.Code, one.always = DoubtFollowUp, true
			one.Values["followUps"] = text(owed)
		case p.unconfirmed(c):
			one.Code = DoubtReset
		case c.Effect == "":
			one.Code = DoubtChange
		default:
			continue
		}
		out = append(out, one)
	}
	return out
}

// unconfirmed reports whether a change is a reset after which nobody has confirmed the settings.
func (p *Plan) unconfirmed(c dossier.Change) bool {
	return c.Effect == dossier.EffectReset && c.ConfirmedAt.IsZero() && !p.confirmed(c)
}

// settingsOn returns the settings recorded for a device and for what runs on it.
func (p *Plan) settingsOn(device dossier.ID[dossier.Device]) []dossier.Setting {
	settings := slices.Clone(p.view.SettingsOf(device.Ref()))
	for _, s := range p.view.SoftwareOf(device) {
		settings = append(settings, p.view.SettingsOf(s.ID.Ref())...)
	}
	return settings
}

// confirmed reports whether every setting recorded for a device that was reset has been confirmed
// since; where none is recorded, nothing was.
func (p *Plan) confirmed(c dossier.Change) bool {
	settings := p.settingsOn(c.Device)
	return len(settings) > 0 && !slices.ContainsFunc(settings, func(s dossier.Setting) bool { return !s.ConfirmedAt.After(c.At) })
}

// byIssues returns the issues that speak against a proof: those opened after it, about something it
// stands on, and not closed. One that was opened from a failed test, or names one, speaks against
// that test and what builds on it.
func (p *Plan) byIssues(s *TestStatus, involved map[dossier.Ref]bool) []Doubt {
	var out []Doubt
	for _, i := range p.view.Issues {
		if i.State == dossier.IssueClosed || !i.OpenedAt.After(s.At) {
			continue
		}
		test := TestOf(p.view.Dossier, i)
		hit := slices.ContainsFunc(i.Subjects, func(r dossier.Ref) bool { return involved[r] })
		if test != "" {
			hit = test == s.Test.id || slices.Contains(s.Test.After, test)
		}
		if hit {
			out = append(out, Doubt{DoubtIssue, i.ID.Ref(), map[string]string{"symptom": i.Symptom}, i.OpenedAt})
		}
	}
	return out
}

// TestOf returns the identity of the test that an issue was opened from, or else of the one that it names
// as the proof of its remedy; "" for neither.
func TestOf(d *dossier.Dossier, i dossier.Issue) string {
	if failed, ok := d.Attempts.Get(i.FailedAttempt); ok {
		return TestID(failed.Test, failed.Subjects)
	}
	return i.Test
}
