package views

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Named says a record by what people call it.
func Named(d *dossier.Dossier, r dossier.Ref) wire.Named {
	return wire.Named{Ref: r, Label: d.FullLabel(r)}
}

// begunAt is the revision of the home when the deciding attempt began; for an old one, when it was
// stored.
func begunAt(h *assess.Assessment, st proving.TestStatus) uint64 {
	if st.AsOf > 0 {
		return st.AsOf
	}
	a, _ := h.Attempts.Get(st.Attempt)
	return a.Revision
}

// Test says where a test stands.
func (t Home) Test(st proving.TestStatus) wire.Test {
	path, _ := t.Paths.Get(st.Test.Path)
	words := wording.Test(st.Test.Kind.Name, t.Brings(path))
	device, _ := t.Devices.Get(path.Device)
	d := t.Dossier
	out := wire.Test{ID: st.Test.ID(), Kind: st.Test.Kind.Name, Title: words.Title, Expected: words.Expected, Do: words.Do, By: st.Test.By,
		Minutes: st.Test.Kind.Minutes, Lasts: int(st.Test.Kind.Lasts().Minutes()), Required: st.Test.Required, After: st.Test.After, About: Named(d, st.Test.Subjects[0]), Path: Named(d, st.Test.Path.Ref()),
		Device: Named(d, path.Device.Ref()), Status: st.Status, At: st.At, Attempt: string(st.Attempt), Attempts: t.tried[st.Test.ID()], Witness: st.Witness}
	if undone, ok := t.Attempts.Get(st.Undone); ok {
		out.Undone = cmp.Or(undone.Note, "a machine could not do it")
	}
	out.Why, out.Reading = t.why(st.Test.Why), proving.ReadingOf(st.Test.Kind.Name)
	if room, ok := t.Rooms.Get(device.Room); ok {
		out.Room, out.Floor = Named(d, room.ID.Ref()), room.Floor
	}
	if deciding, ok := t.Attempts.Get(st.Attempt); ok {
		out.ByPerson, out.Observed = t.People.Name(deciding.By), deciding.Note
		if st.Witness {
			out.Observed = wording.Witness(d.FullLabel(deciding.Subjects[0]), out.Observed)
		}
	}
	if look, failed := t.look[st.Test.Path]; failed && st.Status == proving.Failed {
		out.Look = t.lookSaid(look, out.ID)
	}
	if e, ok := WaiverOf(d, out.ID); ok {
		out.Waiver = &wire.Waiver{Record: e, By: t.People.Name(e.By)}
	}
	for _, c := range st.Changes {
		out.Changes = append(out.Changes, t.change(c))
	}
	for _, one := range st.Doubts {
		out.Doubts = append(out.Doubts, t.doubtSaid(one))
	}
	if st.Status == proving.InDoubt || st.Status == proving.Stale {
		step := t.Steps([]proving.Step{t.Plan.ShortestFor(st)})[0]
		out.Again = &step
	}
	for _, i := range t.Issues {
		if i.State != dossier.IssueClosed && proving.TestOf(d, i) == out.ID {
			out.OpenIssues = append(out.OpenIssues, Named(d, i.ID.Ref()))
		}
	}
	return out
}

// lookSaid says where to look when the test with that identity has failed.
func (t Home) lookSaid(look proving.Look, test string) string {
	title := func(id string) string {
		kind, _, _ := strings.Cut(id, ":")
		return wording.Tests[kind].Title
	}
	first, unknown := "", []string{}
	if look.First != test {
		first = title(look.First)
	}
	for _, id := range look.Unknown {
		unknown = append(unknown, title(id))
	}
	return wording.Look(look.Stage, first, unknown)
}

// why says why a test is in the plan.
func (t Home) why(w proving.Why) string {
	var about []string
	for _, ref := range w.About {
		if one, is := t.Dossier.Wishes.Get(dossier.ID[dossier.Wish](ref.ID)); is {
			about = append(about, wording.Wished(string(one.What), wording.Where(t.Label(one.Room.Ref()), t.Label(one.Device.Ref()))))
			continue
		}
		about = append(about, t.FullLabel(ref))
	}
	return wording.Why(w.Reason, about)
}

// change says one fact that differs between a proof and now, and who changed it when.
func (t Home) change(c proving.FactChange) wire.FactChange {
	label := t.FullLabel(c.Subject)
	if i, ok := t.Interfaces.Get(dossier.ID[dossier.Interface](c.Subject.ID)); ok {
		label = t.Label(i.Device.Ref()) // an adapter is known by its device
	}
	if label == "" {
		label = "that has been removed"
		if c.Name != "" {
			label = "a " + wording.Noun(c.Subject.Kind) + " " + label
		}
	}
	out := wire.FactChange{Subject: wire.Named{Ref: c.Subject, Label: label}, Name: c.Name, From: c.From, To: c.To,
		Sentence: wording.Fact(label, c.Subject.Kind, c.Name, readable(t.Dossier, c.From), readable(t.Dossier, c.To))}
	e, known := t.changes[memberOf{c.Subject, c.Name}]
	if !known {
		e, known = t.changes[memberOf{c.Subject, ""}]
	}
	if known {
		out.By, out.When = t.People.Name(e.By), when(e)
	}
	return out
}

// when is when a change was made: it may have been written later.
func when(e dossier.Entry) time.Time {
	if !e.DoneAt.IsZero() {
		return e.DoneAt
	}
	return e.At
}

// doubtSaid says what speaks against a proof, and who wrote it when.
func (t Home) doubtSaid(one proving.Doubt) wire.Doubt {
	out := wire.Doubt{Code: string(one.Code), About: Named(t.Dossier, one.Subject), When: one.At}
	values := map[string]string{"about": out.About.Label}
	for k, v := range one.Values {
		values[k] = v
	}
	if one.Code == proving.DoubtFinding {
		for _, f := range t.Findings {
			if f.Is(values["finding"], one.Subject) {
				values["said"] = wording.Finding(f).Sentence
				break
			}
		}
	}
	out.Sentence = wording.Doubt(one.Code, one.Subject.Kind, values)
	if e, known := t.changes[memberOf{one.Subject, ""}]; known {
		out.By = t.People.Name(e.By)
		if out.When.IsZero() {
			out.When = when(e)
		}
	}
	return out
}

// Steps says the acts that prove tests.
func (t Home) Steps(list []proving.Step) []wire.ProofStep {
	out := []wire.ProofStep{}
	for _, one := range list {
		at := Named(t.Dossier, one.At)
		step := wire.ProofStep{Act: one.Act.Name, At: at, Sentence: wording.Act(one.Act.Name, at.Label), Minutes: one.Minutes, Machine: one.Machine, Tests: one.Tests, Shows: one.Shows}
		for _, id := range one.Tests {
			if kind, _, _ := strings.Cut(id, ":"); step.Watch == "" && proving.WatchFor(kind) != proving.WatchesNothing {
				step.Watch = id
			}
		}
		if room, there := t.Rooms.Get(one.Room); there {
			step.Room, step.Floor = Named(t.Dossier, room.ID.Ref()), room.Floor
		}
		out = append(out, step)
	}
	return out
}

// readable says a fact's value: ids in it are said by what people call the records.
func readable(d *dossier.Dossier, value string) string {
	parts := strings.Split(value, ", ")
	for i, one := range parts {
		if len(one) != 36 || strings.Count(one, "-") != 4 {
			continue
		}
		if ref, ok := d.RefOf(one); ok {
			parts[i] = d.Label(ref)
		} else {
			parts[i] = "a record that has been removed"
		}
	}
	return strings.Join(parts, ", ")
}

// WaiverOf returns the waiver of a test.
func WaiverOf(d *dossier.Dossier, test string) (dossier.Waiver, bool) {
	i := slices.IndexFunc(d.Waivers, func(e dossier.Waiver) bool { return proving.TestID(e.Test, e.Subjects) == test })
	if i < 0 {
		return dossier.Waiver{}, false
	}
	return d.Waivers[i], true
}

// Prerequisites says what the home's paths need, in the order of work.
func Prerequisites(h *assess.Assessment, people People) []wire.Prerequisite {
	out := []wire.Prerequisite{}
	for _, p := range h.Prerequisites {
		said := wording.Prerequisites[p.Need.What]
		one := wire.Prerequisite{What: p.Need.What, Side: p.Need.Side, Title: said.Sentence, Why: said.Remedy, Subject: Named(h.Dossier, p.Subject),
			Met: p.Met(), DoneBy: people.Name(p.DoneBy), DoneAt: p.DoneAt, Refused: p.Refused, Note: p.Why, Recorded: p.Recorded, Reset: p.Reset}
		if len(p.Steps) > 0 {
			one.Steps = RecipeSteps(h.Dossier, p.Steps)
		}
		if st, ok := h.Test(p.ProvedBy); ok {
			one.ProvedBy = TestTitle(h.Dossier, st.Test)
		}
		for _, id := range p.Paths {
			one.Paths = append(one.Paths, Named(h.Dossier, id.Ref()))
		}
		out = append(out, one)
	}
	return out
}
