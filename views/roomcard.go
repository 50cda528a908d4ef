package views

import (
	"cmp"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// RoomCard says what is in a room, how to watch there, and what of that is proven.
func RoomCard(a *assess.Assessment, room dossier.Room) wire.RoomCard {
	out := wire.RoomCard{Room: Named(a.Dossier, room.ID.Ref()), Home: a.Home().Name, Floor: room.Floor, Devices: []wire.RoomThing{}, Watch: []wire.RoomWatch{}, Open: []wire.Named{}}
	about := []dossier.Ref{room.ID.Ref()}
	for _, v := range a.DevicesIn(room.ID) {
		about = append(about, v.ID.Ref())
		if said := wording.UsedAs(v.Roles); said != "" {
			out.Devices = append(out.Devices, wire.RoomThing{Device: Named(a.Dossier, v.ID.Ref()), Roles: v.Roles, Said: said})
		}
	}
	for _, p := range a.InUse {
		if v, _ := a.Devices.Get(p.Device); v.Room == room.ID {
			about = append(about, p.ID.Ref())
			out.Watch = append(out.Watch, roomWatch(a, p))
		}
	}
	for _, i := range a.Issues {
		if i.State != dossier.IssueClosed && slices.ContainsFunc(i.Subjects, func(r dossier.Ref) bool { return slices.Contains(about, r) }) {
			out.Open = append(out.Open, Named(a.Dossier, i.ID.Ref()))
		}
	}
	return out
}

// worst ranks statuses for a whole path, the worst first.
var worst = []proving.Status{proving.Failed, proving.InDoubt, proving.Stale, proving.Untried, proving.Marginal, proving.Proven}

func roomWatch(a *assess.Assessment, p dossier.Path) wire.RoomWatch {
	device := Named(a.Dossier, p.Device.Ref())
	out := wire.RoomWatch{Path: Named(a.Dossier, p.ID.Ref()), Device: device, How: howToWatch(a, p), Status: proving.Waived}
	var what []string
	for _, k := range a.Brings(p) {
		what = append(what, wording.Contents(k))
	}
	out.What = wording.Capital(cmp.Or(wording.And(what), wording.Contents("")))
	if other, there := a.Paths.Get(p.FallBack); there {
		out.Else = howToWatch(a, other)
	}
	var failed []string
	for _, s := range a.Statuses {
		if s.Test.Path != p.ID || !s.Test.Required || s.Status == proving.Waived {
			continue
		}
		out.Required++
		if out.Status == proving.Waived || slices.Index(worst, s.Status) < slices.Index(worst, out.Status) {
			out.Status = s.Status
		}
		switch s.Status {
		case proving.Failed:
			failed = append(failed, wording.Tests[s.Test.Kind.Name].Title)
		case proving.Proven:
			out.Proven++
			if at := s.At; out.Last == nil || at.After(*out.Last) {
				out.Last = &at
			}
		}
	}
	out.Blocked = slices.ContainsFunc(a.Findings, func(f network.Finding) bool {
		return f.Severity == network.Blocker && slices.Contains(f.Subjects, p.ID.Ref())
	})
	if out.Blocked || out.Status == proving.Failed {
		out.Last = nil // when part of it was seen to work says nothing then
	}
	out.Said = wording.RoomProof(out.Status, out.Proven, out.Required, failed, out.Blocked)
	return out
}

func howToWatch(a *assess.Assessment, p dossier.Path) string {
	source, _ := a.ServerOf(p)
	from := ""
	if p.ControlPoint != "" {
		from = a.Label(p.ControlPoint.Ref())
	}
	return wording.HowToWatch(p, a.Label(p.Device.Ref()), cmp.Or(source.ShownName, p.ServerEnd.Name), from)
}
