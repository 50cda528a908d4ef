package proving

import (
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/pathkind"
)

// Need declares one thing that must be true before paths of some kind can work; which kinds need it
// is declared with those. They stand in the order in which they are met: server first, then network,
// then device, then account.
type Need struct {
	What     string
	Side     dossier.Side
	ProvedBy []string // kinds of test whose pass shows that it is met
	where    func(*dossier.Index, dossier.Path) dossier.Ref
}

// Needs lists all prerequisites in the order of work.
var Needs = []Need{
	{"aerial-connected", dossier.SideServer, []string{"plays"}, atServer},
	{"server-software-runs", dossier.SideServer, []string{"reach", "opens", "plays"}, atServer},
	{"starts-with-machine", dossier.SideServer, []string{"survives-restart"}, atServer},
	{"folders-added", dossier.SideServer, []string{"opens", "plays"}, atServer},
	{"channels-found", dossier.SideServer, []string{"opens", "plays"}, atServer},
	{"stream-started", dossier.SideServer, []string{"plays"}, atServer},
	{"server-opening", dossier.SideServer, []string{"found", "plays"}, atServer},
	{"share-created", dossier.SideServer, []string{"opens", "plays"}, atServer},
	{"share-read-only", dossier.SideServer, []string{"write-refused"}, atServer},
	{"share-opening", dossier.SideServer, []string{"reach"}, atServer},
	{"stream-opening", dossier.SideServer, []string{"reach", "plays"}, atServer},
	{"address-reserved", dossier.SideNetwork, nil, atServer},
	{"multicast-passes", dossier.SideNetwork, []string{"found"}, atSegment},
	{"device-on-network", dossier.SideDevice, []string{"plays"}, atDevice},
	{"device-let-in", dossier.SideServer, []string{"opens", "plays"}, atPath},
	{"consent-given", dossier.SideDevice, []string{"plays"}, atDevice},
	{"player-installed", dossier.SideDevice, []string{"plays"}, atDevice},
	{"server-chosen", dossier.SideDevice, []string{"told-apart", "plays"}, atPath},
	{"share-entered", dossier.SideDevice, []string{"opens", "plays"}, atPath},
	{"stream-entered", dossier.SideDevice, []string{"plays"}, atPath},
	{"list-entered", dossier.SideDevice, []string{"plays"}, atPath},
	{"feed-entered", dossier.SideDevice, []string{"plays"}, atPath},
	{"copy-made", dossier.SideDevice, []string{"plays"}, atPath},
	{"signed-in", dossier.SideAccount, []string{"plays"}, atPath},
	{"share-account", dossier.SideAccount, []string{"opens", "plays"}, atPath},
}

func atServer(d *dossier.Index, p dossier.Path) dossier.Ref {
	s, _ := d.Sources.Get(p.Source)
	return s.Device.Ref()
}
func atDevice(_ *dossier.Index, p dossier.Path) dossier.Ref { return p.Device.Ref() }
func atPath(_ *dossier.Index, p dossier.Path) dossier.Ref   { return p.ID.Ref() }

// atSegment is the device's segment, or the path itself while the segment is not known.
func atSegment(d *dossier.Index, p dossier.Path) dossier.Ref {
	if segments := d.SegmentsAt(p.Device); len(segments) > 0 {
		return segments[0].Ref()
	}
	return p.ID.Ref()
}

// Prerequisite is one need at one place, with the paths that have it and how it stands. It is
// met when someone ticked it or a test proves it now.
type Prerequisite struct {
	Need     Need
	Subject  dossier.Ref
	Paths    []dossier.ID[dossier.Path]
	Record   dossier.ID[dossier.Prerequisite] // the tick, if there is one
	DoneBy   dossier.PersonID
	DoneAt   time.Time
	ProvedBy string // id of the proven test that shows it
	Refused  int
	Why      string
	Steps    []RecipeStep // the firm's steps to meet it
	Recorded bool         // the record itself says so of all its paths
	Reset    bool         // it was ticked before its device was reset to the defaults
}

// Met reports whether the prerequisite holds as far as anybody knows: it was ticked, a test proves it, all steps of the
// firm's recipes for it are set, or the record itself says so.
func (p Prerequisite) Met() bool {
	return !p.DoneAt.IsZero() && !p.Reset || p.ProvedBy != "" || p.BySteps() || p.Recorded
}

// BySteps reports whether recipes have steps for the prerequisite, and all of them are set.
func (p Prerequisite) BySteps() bool {
	return len(p.Steps) > 0 && !slices.ContainsFunc(p.Steps, func(s RecipeStep) bool { return !s.Set })
}

// Prerequisites returns what the home's paths need, each need once for each place, in the order
// of work.
func Prerequisites(x *dossier.Index, statuses []TestStatus, steps []RecipeStep) []Prerequisite {
	proven := map[string]bool{}
	for _, s := range statuses {
		proven[s.Test.id] = s.Status == Proven || s.Status == Marginal
	}
	type key struct {
		what string
		at   dossier.Ref
	}
	var out []Prerequisite
	seen := map[key]int{}
	for _, n := range Needs {
		for _, p := range x.InUse {
			if !slices.Contains(pathkind.Of(p.Kind).Needs, n.What) {
				continue
			}
			k := key{n.What, n.where(x, p)}
			i, known := seen[k]
			if !known {
				i = len(out)
				seen[k] = i
				out = append(out, tick(x, Prerequisite{Need: n, Subject: k.at, Steps: stepsFor(x, steps, n, p)}))
			}
			out[i].Recorded = n.What == "device-let-in" && letIn(x, p) && (out[i].Recorded || len(out[i].Paths) == 0)
			out[i].Paths = append(out[i].Paths, p.ID)
			for _, kind := range n.ProvedBy {
				if out[i].ProvedBy != "" {
					break
				}
				if id := TestID(kind, []dossier.Ref{p.ID.Ref()}); proven[id] {
					out[i].ProvedBy = id
				}
			}
		}
	}
	return out
}

// letIn reports whether it is recorded that the server lets the device in: by itself, or as it does with all.
func letIn(x *dossier.Index, p dossier.Path) bool {
	source, server := x.ServerOf(p)
	e, known := x.Register(p.Device, server.ID)
	if known && e.Admission != "" {
		return e.Admission == dossier.LetIn
	}
	return source.Newcomers == dossier.LetIn
}

func tick(x *dossier.Index, p Prerequisite) Prerequisite {
	for _, r := range x.Prerequisites {
		if r.What == p.Need.What && r.Subject == p.Subject {
			p.Record, p.DoneBy, p.DoneAt, p.Refused, p.Why = r.ID, r.DoneBy, r.DoneAt, r.Refused, r.Why
			p.Reset = !r.DoneAt.IsZero() && resetSince(x, hostOf(x, r.Subject), r.DoneAt)
		}
	}
	return p
}
