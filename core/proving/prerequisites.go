package proving

import (
	"slices"
	"time"

	"kaiku/core/dossier"
)

// Need declares one thing that must be true before paths of some kind can work. They stand in
// the order in which they are met: server first, then network, then device.
type Need struct {
	What     string
	Side     dossier.Side
	For      []dossier.PathKind
	ProvedBy []string // kinds of test whose pass shows that it is met
	where    func(*dossier.Dossier, dossier.Path) dossier.Ref
}

// Needs lists all prerequisites in the order of work. SSDP is UDP 1900 (UPnP Device Architecture
// 2.0, section 1.3): answers come back to the searcher's own port, so the device's side counts
// too. SMB is TCP 445, NFS TCP 2049.
var Needs = []Need{
	{"server-software-runs", dossier.SideServer, pull, []string{"reach", "opens", "plays"}, atServer},
	{"starts-with-machine", dossier.SideServer, pull, []string{"survives-restart"}, atServer},
	{"folders-added", dossier.SideServer, pull, []string{"reach", "opens", "plays"}, atServer},
	{"server-opening", dossier.SideServer, pull, []string{"found"}, atServer},
	{"share-created", dossier.SideServer, share, []string{"opens", "plays"}, atServer},
	{"share-read-only", dossier.SideServer, share, []string{"write-refused"}, atServer},
	{"share-opening", dossier.SideServer, share, []string{"reach"}, atServer},
	{"address-reserved", dossier.SideNetwork, append(pull, share...), nil, atServer},
	{"multicast-passes", dossier.SideNetwork, pull, []string{"found"}, atSegment},
	{"device-on-network", dossier.SideDevice, append(pull, share...), []string{"plays"}, atDevice},
	{"server-chosen", dossier.SideDevice, pull, []string{"told-apart", "plays"}, atPath},
	{"share-entered", dossier.SideDevice, share, []string{"opens", "plays"}, atPath},
	{"share-account", dossier.SideAccount, share, []string{"opens", "plays"}, atPath},
}

func atServer(d *dossier.Dossier, p dossier.Path) dossier.Ref {
	s, _ := d.Sources.Get(p.Source)
	return s.Device.Ref()
}
func atDevice(_ *dossier.Dossier, p dossier.Path) dossier.Ref { return p.Device.Ref() }
func atPath(_ *dossier.Dossier, p dossier.Path) dossier.Ref   { return p.ID.Ref() }

// atSegment is the device's segment, or the path itself while the segment is not known.
func atSegment(d *dossier.Dossier, p dossier.Path) dossier.Ref {
	if segments := d.SegmentsOf(d.InterfacesOf(p.Device)); len(segments) > 0 {
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
}

// Met reports whether the prerequisite holds as far as anybody knows.
func (p Prerequisite) Met() bool { return !p.DoneAt.IsZero() || p.ProvedBy != "" }

// Prerequisites returns what the home's paths need, each need once for each place, in the order
// of work.
func Prerequisites(d *dossier.Dossier) []Prerequisite {
	proven := map[string]bool{}
	for _, s := range Statuses(d) {
		proven[s.Test.ID()] = s.Status == Proven || s.Status == Marginal
	}
	var out []Prerequisite
	for _, n := range Needs {
		for _, p := range d.Paths {
			if p.Retired || !slices.Contains(n.For, p.Kind) {
				continue
			}
			at := n.where(d, p)
			i := slices.IndexFunc(out, func(o Prerequisite) bool { return o.Need.What == n.What && o.Subject == at })
			if i < 0 {
				out = append(out, tick(d, Prerequisite{Need: n, Subject: at}))
				i = len(out) - 1
			}
			out[i].Paths = append(out[i].Paths, p.ID)
			for _, kind := range n.ProvedBy {
				if id := TestID(kind, []dossier.Ref{p.ID.Ref()}); proven[id] && out[i].ProvedBy == "" {
					out[i].ProvedBy = id
				}
			}
		}
	}
	return out
}

// Needed returns the prerequisite of that name at that place, if some path needs it.
func Needed(d *dossier.Dossier, what string, at dossier.Ref) (Prerequisite, bool) {
	all := Prerequisites(d)
	i := slices.IndexFunc(all, func(p Prerequisite) bool { return p.Need.What == what && p.Subject == at })
	if i < 0 {
		return Prerequisite{}, false
	}
	return all[i], true
}

func tick(d *dossier.Dossier, p Prerequisite) Prerequisite {
	for _, r := range d.Prerequisites {
		if r.What == p.Need.What && r.Subject == p.Subject {
			p.Record, p.DoneBy, p.DoneAt, p.Refused, p.Why = r.ID, r.DoneBy, r.DoneAt, r.Refused, r.Why
		}
	}
	return p
}
