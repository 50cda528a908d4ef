// Package propose works out by which ways a device can get what its room wishes for: what both ends speak, whether the network joins
// them, what would play, whether the network carries it, and what each way cannot do. Each way is tried as a path in a copy of the home,
// so that whatever is said of recorded paths holds for it.
package propose

import (
	"cmp"
	"net/netip"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/pathkind"
	"kaiku/core/proving"
)

// Way is one way by which a device could get something.
type Way struct {
	Path    dossier.Path                 // as it would be recorded; of one that is recorded already, that one
	Exists  bool                         // it is recorded already
	Second  dossier.FoundBy              // how the server is found when that way of finding fails; "" for no other
	Folders []dossier.ID[dossier.Folder] // those of the source that are wished for; none means that none is recorded
	Blocks  []network.Finding            // what keeps it from working
	Minds   []network.Finding            // what else would be found about it
	Seen    Sign                         // why the device is taken to be able to do it
	Open    []string                     // codes of prerequisites that are not met yet, in the order of work
	Cannot  []pathkind.Limit             // what it cannot do
	Plays   forecast.Cell                // what becomes of what is in its folders, all of them together
	Load    load.Case
	Home    *dossier.Index // the home with no other path than this
}

// Sign is why a device is taken to be able to do something.
type Sign string

// Signs. None means that it is not known.
const (
	ByRecord  Sign = "recorded" // a path of the same kind is recorded for it
	ByRole    Sign = "role"     // it is recorded as a renderer
	ByServer  Sign = "known-to" // the server knows it
	ByProgram Sign = "program"  // a player is installed on it
	None      Sign = "not-known"
)

// Possible reports whether nothing is known to keep the way from working.
func (w Way) Possible() bool { return len(w.Blocks) == 0 }

// Without is a kind of path for which no source of the home speaks what it needs.
type Without struct {
	Kind   dossier.PathKind
	Speaks []dossier.Protocol // of which a source would have to speak one
}

// Wished is what is wished of a device, with the ways there are.
type Wished struct {
	What dossier.ContentKind // "" where nothing is wished and the ways are for whatever it plays
	Ways []Way               // the possible ones first, the best first
	None bool                // no source of the home is recorded to have any of it
}

// Proposal is what is proposed for a device.
type Proposal struct {
	Device  dossier.ID[dossier.Device]
	Wished  []Wished
	Without []Without
}

// For proposes ways for a device of an assessed home.
func For(a *assess.Assessment, device dossier.Device) Proposal {
	out := Proposal{Device: device.ID}
	for _, k := range pathkind.Kinds {
		if !slices.ContainsFunc(a.Sources, func(s dossier.Source) bool { return slices.Contains(k.Speaks, s.Protocol) }) {
			out.Without = append(out.Without, Without{k.Name, k.Speaks})
		}
	}
	for _, what := range wishedOf(a.Index, device) {
		one := Wished{What: what, None: true}
		for _, s := range a.Sources {
			folders, has := foldersFor(a.Index, s, what)
			if !has || s.Device == device.ID {
				continue
			}
			one.None = false
			for _, k := range pathkind.Kinds {
				if slices.Contains(k.Speaks, s.Protocol) && suits(k.Name, s, what) {
					one.Ways = append(one.Ways, try(a, device, s, k, folders))
				}
			}
		}
		rank(one.Ways)
		for i := range one.Ways {
			one.Ways[i].Path.FallBack = fallBack(a.Index, one.Ways[i])
		}
		out.Wished = append(out.Wished, one)
	}
	return out
}

// wishedOf returns the kinds of content that are wished on the device or in its room and that it plays; one empty kind where nothing is.
func wishedOf(x *dossier.Index, device dossier.Device) []dossier.ContentKind {
	var out []dossier.ContentKind
	for _, w := range x.Wishes {
		kind := dossier.ContentKind(w.What)
		there := w.Device == device.ID || w.Device == "" && (w.Room == "" || w.Room == device.Room)
		plays := len(device.ContentKinds) == 0 || slices.Contains(device.ContentKinds, kind)
		if there && plays && slices.Contains(dossier.ContentKind("").Values(), string(kind)) && !slices.Contains(out, kind) {
			out = append(out, kind)
		}
	}
	if len(out) == 0 {
		return []dossier.ContentKind{""}
	}
	return out
}

// foldersFor returns the folders of a source with that content, and whether it can have any: one of which no folders are recorded may.
func foldersFor(x *dossier.Index, s dossier.Source, what dossier.ContentKind) ([]dossier.ID[dossier.Folder], bool) {
	var out []dossier.ID[dossier.Folder]
	all := x.Reached(dossier.Path{Source: s.ID})
	for _, f := range all {
		if what == "" || f.ContentKind == what || slices.Contains(f.AlsoHolds, what) {
			out = append(out, f.ID)
		}
	}
	return out, len(all) == 0 || len(out) > 0
}

// live is content that comes as it is sent.
var live = []dossier.ContentKind{dossier.LiveTV, dossier.Radio}

// suits reports whether a kind of path is one for such content: tuners give what is sent, and a server of files does not
// become a stream by itself.
func suits(k dossier.PathKind, s dossier.Source, what dossier.ContentKind) bool {
	sent := slices.Contains(live, what)
	switch k {
	case dossier.Tuner:
		return sent
	case dossier.Stream, dossier.StreamList:
		return sent || s.Protocol != dossier.ProtocolHTTP
	case dossier.Share, dossier.Copy, dossier.AVPush:
		return !sent
	}
	return true
}

// try makes the path in a copy of the home that has no other, and looks at what is found, forecast and carried.
func try(a *assess.Assessment, device dossier.Device, s dossier.Source, k pathkind.Kind, folders []dossier.ID[dossier.Folder]) Way {
	w := Way{Folders: folders, Cannot: k.Cannot, Seen: sign(a.Index, device, s, k.Name)}
	for _, p := range a.InUse {
		if p.Device == device.ID && p.Source == s.ID && p.Kind == k.Name {
			w.Path, w.Exists = p, true
		}
	}
	var found []network.Finding
	if w.Exists {
		for _, f := range a.Findings {
			if slices.Contains(f.Subjects, w.Path.ID.Ref()) {
				found = append(found, f)
			}
		}
	} else {
		w.Path, found = draft(a, device, s, k, folders)
	}
	for _, f := range found {
		if blocks(f) {
			w.Blocks = append(w.Blocks, f)
		} else {
			w.Minds = append(w.Minds, f)
		}
	}
	for _, other := range k.Found {
		if other != w.Path.FoundBy && other != dossier.ByNothing && w.Second == "" {
			w.Second = other
		}
	}
	x := with(a, w.Path)
	w.Home = x
	w.Plays.Of = map[forecast.Outcome]forecast.Share{}
	for _, c := range forecast.Of(x, a.Knowledge).Cells {
		for o, share := range c.Of {
			sum := w.Plays.Of[o]
			w.Plays.Of[o] = forecast.Share{Items: sum.Items + share.Items, Hours: sum.Hours + share.Hours}
		}
		w.Plays.Unread += c.Unread
	}
	w.Load = load.Together(x, a.Now.Location(), []dossier.ID[dossier.Path]{w.Path.ID})
	for _, n := range proving.Prerequisites(x, nil, nil) {
		if known, there := a.Needed(n.Need.What, n.Subject); !n.Met() && !(there && known.Met()) {
			w.Open = append(w.Open, n.Need.What)
		}
	}
	return w
}

// with returns a copy of the home in which that path is the only one.
func with(a *assess.Assessment, p dossier.Path) *dossier.Index {
	d := *a.Dossier
	d.Paths, d.BusySets = dossier.Records[dossier.Path]{p}, nil
	return d.Index()
}

// draftID is the id of a way that is only tried.
const draftID dossier.ID[dossier.Path] = "draft"

// draft returns the path as it would be recorded, found in the first of its ways of finding that nothing keeps from working, and
// what is found of it.
func draft(a *assess.Assessment, device dossier.Device, s dossier.Source, k pathkind.Kind, folders []dossier.ID[dossier.Folder]) (dossier.Path, []network.Finding) {
	p := dossier.Path{Device: device.ID, Source: s.ID, Kind: k.Name, Folders: folders, ServerEnd: serverEnd(a.Index, s)}
	p.ID, p.Name = draftID, device.Name
	var first dossier.Path
	var firstFound []network.Finding
	for i, by := range k.Found {
		p.FoundBy, p.DeviceEnd = by, deviceEnd(by, p.ServerEnd)
		var found []network.Finding
		for _, f := range network.Findings(with(a, p), a.Knowledge, a.Now) {
			if i := slices.Index(f.Subjects, p.ID.Ref()); i >= 0 {
				if f.Subjects = slices.Delete(slices.Clone(f.Subjects), i, i+1); len(f.Subjects) == 0 {
					f.Subjects = []dossier.Ref{device.ID.Ref()}
				}
				found = append(found, f)
			}
		}
		if !slices.ContainsFunc(found, blocks) {
			return p, found
		}
		if i == 0 {
			first, firstFound = p, found
		}
	}
	return first, firstFound
}

func blocks(f network.Finding) bool { return f.Severity == network.Blocker }

// serverEnd is what the server has set, as far as it is recorded.
func serverEnd(x *dossier.Index, s dossier.Source) dossier.End {
	end := dossier.End{Port: cmp.Or(s.Port, pathkind.MainPort(s.Protocol)), Name: s.ShownName, Locator: s.Locator}
	for _, i := range x.ListensOn(s) {
		for _, at := range i.Addresses {
			if !end.Address.IsValid() || at.Is4() && !end.Address.Is4() {
				end.Address = at
			}
		}
	}
	return end
}

// deviceEnd is what would be entered on the device: nothing but the name where it finds the server by itself.
func deviceEnd(by dossier.FoundBy, server dossier.End) dossier.End {
	switch by {
	case dossier.ByTypedAddress:
		return server
	case dossier.ByMulticast, dossier.ByName:
		server.Address, server.Port, server.Locator = netip.Addr{}, 0, ""
		return server
	}
	return dossier.End{}
}

// sign says why the device is taken to be able to do that.
func sign(x *dossier.Index, device dossier.Device, s dossier.Source, k dossier.PathKind) Sign {
	if slices.ContainsFunc(x.InUse, func(p dossier.Path) bool { return p.Device == device.ID && p.Kind == k }) {
		return ByRecord
	}
	switch k {
	case dossier.AVPush:
		if device.Is(dossier.RoleRenderer) {
			return ByRole
		}
	case dossier.AVPull:
		if _, known := x.Register(device.ID, s.Device); known {
			return ByServer
		}
	case dossier.OwnPlayer:
		if slices.ContainsFunc(x.SoftwareOf(device.ID), func(p dossier.Software) bool { return p.Does == dossier.SoftwarePlayer }) {
			return ByProgram
		}
	}
	return None
}

// plays is the part that plays, as it is or converted, and the part that plays as it is, in per cent.
func (w Way) plays() (all, asIs float64) {
	for _, s := range w.Plays.Shares() {
		switch s.Outcome {
		case forecast.AsIs:
			asIs += s.Percent
			all += s.Percent
		case forecast.Repackaged, forecast.SoundConverted, forecast.PictureConverted:
			all += s.Percent
		}
	}
	return all, asIs
}

// rank puts the best first: what nothing keeps from working; then by how much of it is known to play, and what the network surely does
// not carry last; how surely the device can do it; how little it lacks; whether the network is known to carry it; how much plays as it is;
// how little is left to do.
func rank(ways []Way) {
	bearing := []load.State{load.Roomy, load.Tight, load.NotKnown, load.Overloaded}
	slices.SortStableFunc(ways, func(a, b Way) int {
		playsA, asIsA := a.plays()
		playsB, asIsB := b.plays()
		return cmp.Or(yes(b.Possible())-yes(a.Possible()), cmp.Compare(round(playsB), round(playsA)), yes(a.Load.State == load.Overloaded)-yes(b.Load.State == load.Overloaded),
			yes(b.Seen != None)-yes(a.Seen != None), cmp.Compare(len(a.Cannot), len(b.Cannot)), cmp.Compare(slices.Index(bearing, a.Load.State), slices.Index(bearing, b.Load.State)),
			cmp.Compare(round(asIsB), round(asIsA)), cmp.Compare(len(a.Open), len(b.Open)))
	})
}

// round puts shares that differ by less than about 5 % on one step.
func round(percent float64) int { return int(percent/5 + 0.5) }

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// fallBack returns a recorded path of the device by another way that brings what this one does.
func fallBack(x *dossier.Index, w Way) dossier.ID[dossier.Path] {
	if w.Exists {
		return w.Path.FallBack
	}
	for _, p := range x.InUse {
		same := p.Device == w.Path.Device && (p.Kind != w.Path.Kind || p.Source != w.Path.Source)
		if same && slices.ContainsFunc(x.Brings(p), func(k dossier.ContentKind) bool {
			return slices.ContainsFunc(w.Folders, func(id dossier.ID[dossier.Folder]) bool { f, _ := x.Folders.Get(id); return f.ContentKind == k })
		}) {
			return p.ID
		}
	}
	return ""
}
