package views

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// Sheet says what was proven in a home.
func Sheet(h Home, at time.Time) wire.Sheet {
	home := h.Home()
	out := wire.Sheet{Code: home.Code, Home: home.Name, Address: home.Address, Custodian: h.People.Name(home.Custodian), Revision: h.Revision, At: at, Coverage: h.Coverage,
		Wishes: []string{}, Blockers: []wire.Finding{}, Rooms: []wire.SheetRoom{}, Waived: []wire.SheetTest{}, Missing: []wire.SheetTest{}, Cards: []wire.RoomCard{}}
	for _, w := range h.SayWishes() {
		for _, p := range w.Places {
			out.Wishes = append(out.Wishes, p.Sentence)
		}
	}
	for _, f := range Findings(h.Dossier, h.Findings) {
		if f.Severity == network.Blocker {
			out.Blockers = append(out.Blockers, f)
		}
	}
	byPath := map[dossier.ID[dossier.Path]]int{}
	type place struct{ room, path int }
	where := map[dossier.ID[dossier.Path]]place{}
	for _, st := range h.Statuses { // in walking order of the plan
		if !st.Test.Required && st.Status == proving.Untried {
			continue
		}
		one := h.sheetTest(st)
		switch {
		case !st.Test.Required:
		case st.Status == proving.Waived:
			out.Waived = append(out.Waived, one)
		case st.Status != proving.Proven:
			out.Missing = append(out.Missing, one)
		}
		at, known := where[st.Test.Path]
		if !known {
			path, _ := h.Paths.Get(st.Test.Path)
			device, _ := h.Devices.Get(path.Device)
			room, _ := h.Rooms.Get(device.Room)
			at.room = slices.IndexFunc(out.Rooms, func(r wire.SheetRoom) bool { return r.Room.ID == string(room.ID) })
			if at.room < 0 {
				at.room = len(out.Rooms)
				r := wire.SheetRoom{Floor: room.Floor, Paths: []wire.SheetPath{}}
				if room.ID != "" {
					r.Room = Named(h.Dossier, room.ID.Ref())
				}
				out.Rooms = append(out.Rooms, r)
			}
			at.path = len(out.Rooms[at.room].Paths)
			out.Rooms[at.room].Paths = append(out.Rooms[at.room].Paths, wire.SheetPath{Path: Named(h.Dossier, path.ID.Ref()), Device: Named(h.Dossier, device.ID.Ref()), Stands: []string{}, Tests: []wire.SheetTest{}})
			where[st.Test.Path] = at
		}
		p := &out.Rooms[at.room].Paths[at.path]
		p.Tests = append(p.Tests, one)
		// The proof with the most facts tells the configuration.
		if a, there := h.Attempts.Get(st.Attempt); there && (st.Status == proving.Proven || st.Status == proving.Marginal) && st.Test.Kind.About == proving.AboutPath && len(a.Facts) > byPath[st.Test.Path] {
			byPath[st.Test.Path], p.Stands = len(a.Facts), h.configuration(a.Facts)
		}
	}
	slices.SortStableFunc(out.Rooms, func(a, b wire.SheetRoom) int {
		ra, _ := h.Rooms.Get(dossier.ID[dossier.Room](a.Room.ID))
		rb, _ := h.Rooms.Get(dossier.ID[dossier.Room](b.Room.ID))
		switch { // what has no room comes last
		case a.Room.ID == "" && b.Room.ID != "":
			return 1
		case b.Room.ID == "" && a.Room.ID != "":
			return -1
		}
		return cmp.Or(cmp.Compare(a.Floor, b.Floor), cmp.Compare(ra.Order, rb.Order), strings.Compare(a.Room.Label, b.Room.Label))
	})
	for i := range out.Rooms {
		for n := range out.Rooms[i].Paths {
			slices.SortStableFunc(out.Rooms[i].Paths[n].Tests, func(a, b wire.SheetTest) int { return cmp.Compare(kindRank(a.ID), kindRank(b.ID)) })
		}
		if room, there := h.Rooms.Get(dossier.ID[dossier.Room](out.Rooms[i].Room.ID)); there {
			out.Cards = append(out.Cards, RoomCard(h.Assessment, room))
		}
	}
	return out
}

// kindRank orders tests outward from the source.
func kindRank(id string) int {
	kind, _, _ := strings.Cut(id, ":")
	return slices.IndexFunc(proving.Kinds, func(k proving.Kind) bool { return k.Name == kind })
}

func (t Home) sheetTest(st proving.TestStatus) wire.SheetTest {
	path, _ := t.Paths.Get(st.Test.Path)
	out := wire.SheetTest{ID: st.Test.ID(), Title: wording.Test(st.Test.Kind.Name, t.Brings(path)).Title, About: Named(t.Dossier, st.Test.Subjects[0]), Required: st.Test.Required, Status: st.Status}
	said := t.Test(st)
	out.Observed = said.Observed
	if a, there := t.Attempts.Get(st.Attempt); there {
		out.With, out.How, out.By, out.At = a.Conditions, wording.Plain(string(a.How)), t.People.Name(a.By), a.At
	}
	switch {
	case said.Waiver != nil && st.Status == proving.Waived:
		out.Why = said.Waiver.Record.Why
		if said.Waiver.Record.Until != "" {
			out.Why += " (to be reviewed on " + string(said.Waiver.Record.Until) + ")"
		}
	case len(said.Changes) > 0:
		out.Why = said.Changes[0].Sentence
	case len(said.Doubts) > 0:
		out.Why = said.Doubts[0].Sentence
	}
	return out
}

// told lists the facts that are told of a configuration, in their order.
var told = []struct {
	kind, name string
}{{"source", "shownName"}, {"source", "port"}, {"interface", "addresses"}, {"software", "version"}, {"device", "model"}, {"device", "firmware"}, {"path", "foundBy"}, {"path", "mode"}, {"link", "kind"}, {"segment", "ssid"}}

// configuration says in words what a proof is based on, as far as people ask for it.
func (t Home) configuration(facts []dossier.Fact) []string {
	out := []string{}
	for _, one := range told {
		for _, f := range facts {
			if f.Subject.Kind != one.kind || f.Name != one.name || f.Value == "" {
				continue
			}
			label := t.FullLabel(f.Subject)
			if i, ok := t.Interfaces.Get(dossier.ID[dossier.Interface](f.Subject.ID)); ok {
				label = t.Label(i.Device.Ref()) // an adapter is known by its device
			}
			out = append(out, wording.FactIs(label, f.Subject.Kind, f.Name, readable(t.Dossier, f.Value)))
		}
	}
	return slices.Compact(out)
}
