package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// About says what a kind of test is about.
type About int

// What tests are about.
const (
	AboutPath About = iota
	AboutFolder
	AboutSet // a set of paths in use at once
)

// Weight says how much a test is asked for.
type Weight int

// Weights of a test.
const (
	NotAsked Weight = iota
	Advised
	Required
)

// Case is what one test would be about: a path, a folder with the first path that reaches it, or
// a set with its first path.
type Case struct {
	Path   dossier.Path
	Folder dossier.Folder
	Set    dossier.BusySet
}

func (c Case) subject() dossier.Ref {
	switch {
	case c.Folder.ID != "":
		return c.Folder.ID.Ref()
	case c.Set.ID != "":
		return c.Set.ID.Ref()
	}
	return c.Path.ID.Ref()
}

// Kind declares one kind of test: what it is about, when it is asked, who can judge it, and what
// its proof is based on.
type Kind struct {
	Name    string
	About   About
	For     []dossier.PathKind // none: all kinds of path
	Minutes int
	After   []string // kinds that must have passed before, on the same path
	asked   func(*dossier.Dossier, Case) Weight
	by      func(*dossier.Dossier, Case) By
	on      basis
}

// basis is what proofs stand on. Kinds that stand on the same share one, so that it is computed
// once for each path.
type basis int

const (
	onReach basis = iota
	onFound
	onPlays
	onNames
	onFolders
	onCount
	onWriting
	onPlace
	onHours
	onFallBack
	onSet
	onStart
	onWaking
)

// factsOn computes what each basis is made of.
func factsOn(on basis) func(*view, Case) []dossier.Fact {
	return [...]func(*view, Case) []dossier.Fact{onReach: reachFacts, onFound: foundFacts, onPlays: playsFacts, onNames: toldApartFacts,
		onFolders: opensFacts, onCount: completeFacts, onWriting: writeFacts, onPlace: appearsFacts, onHours: hoursFacts,
		onFallBack: fallBackFacts, onSet: busySetFacts, onStart: restartFacts, onWaking: wakeFacts}[on]
}

var (
	pull  = []dossier.PathKind{dossier.AVPull}
	share = []dossier.PathKind{dossier.Share}
	basic = []string{"reach", "found"}
)

// Kinds lists the kinds of test outward from the source: the first that fails says where to look.
var Kinds = []Kind{
	{Name: "reach", Minutes: 1, asked: always, by: machine, on: onReach},
	{Name: "found", For: pull, Minutes: 1, asked: whereSearched, by: machine, on: onFound},
	{Name: "told-apart", For: pull, Minutes: 1, After: basic, asked: amongOthers, by: eye, on: onNames},
	{Name: "opens", Minutes: 1, After: []string{"reach"}, asked: always, by: machineOnUPnP, on: onFolders},
	{Name: "complete", About: AboutFolder, Minutes: 2, After: []string{"reach"}, asked: whereCounted, by: machineOnUPnP, on: onCount},
	{Name: "write-refused", For: share, Minutes: 2, After: []string{"reach"}, asked: unlessWritable, by: eye, on: onWriting},
	{Name: "plays", Minutes: 4, After: basic, asked: always, by: eye, on: onPlays},
	{Name: "stops", Minutes: 1, After: []string{"plays"}, asked: asWished(), by: eye, on: onPlays},
	{Name: "seeks", Minutes: 2, After: []string{"plays"}, asked: asWished(running...), by: eye, on: onPlays},
	{Name: "resumes", Minutes: 3, After: []string{"plays"}, asked: asWished(resumed...), by: eye, on: onPlays},
	{Name: "resumes-elsewhere", Minutes: 5, After: []string{"resumes"}, asked: acrossRooms, by: eye, on: onPlays},
	{Name: "sound", Minutes: 2, After: []string{"plays"}, asked: asWished(pictured...), by: eye, on: onPlays},
	{Name: "subtitles", Minutes: 2, After: []string{"plays"}, asked: advisedFor(pictured...), by: eye, on: onPlays},
	{Name: "sample-appears", Minutes: 5, After: []string{"plays"}, asked: asWished(), by: eye, on: onPlace},
	{Name: "hours-kept", Minutes: 3, After: []string{"plays"}, asked: whereRestricted, by: eye, on: onHours},
	{Name: "fall-back", Minutes: 5, asked: withFallBack, by: eye, on: onFallBack},
	{Name: "busy-set", About: AboutSet, Minutes: 10, After: []string{"plays"}, asked: always, by: eye, on: onSet},
	{Name: "after-device-restart", Minutes: 4, After: []string{"plays"}, asked: asWished(), by: eye, on: onPlays},
	{Name: "survives-restart", Minutes: 8, After: []string{"plays"}, asked: asWished(), by: eye, on: onStart},
	{Name: "wakes", Minutes: 6, After: []string{"plays"}, asked: whereItSleeps, by: eye, on: onWaking},
}

// KindNamed returns the kind of test with that name.
func KindNamed(name string) (Kind, bool) {
	i := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{}, false
	}
	return Kinds[i], true
}

func pathCases(d *dossier.Dossier) []Case {
	var out []Case
	for _, p := range d.Paths {
		if !p.Retired {
			out = append(out, Case{Path: p})
		}
	}
	return out
}

func folderCases(d *dossier.Dossier) []Case {
	var out []Case
	for _, f := range d.Folders {
		for _, c := range pathCases(d) {
			if slices.ContainsFunc(Reached(d, c.Path), func(r dossier.Folder) bool { return r.ID == f.ID }) {
				out = append(out, Case{Path: c.Path, Folder: f})
				break
			}
		}
	}
	return out
}

// setCases are the sets of which at least two paths are in use.
func setCases(d *dossier.Dossier) []Case {
	var out []Case
	for _, s := range d.BusySets {
		if used := inUse(d, s); len(used) > 1 {
			out = append(out, Case{Path: used[0], Set: s})
		}
	}
	return out
}

func inUse(d *dossier.Dossier, s dossier.BusySet) []dossier.Path {
	var out []dossier.Path
	for _, id := range s.Paths {
		if p, ok := d.Paths.Get(id); ok && !p.Retired {
			out = append(out, p)
		}
	}
	return out
}

// Reached returns the folders a path reaches: those it names, or all of its source.
func Reached(d *dossier.Dossier, p dossier.Path) []dossier.Folder {
	var out []dossier.Folder
	for _, f := range d.Folders {
		if slices.Contains(p.Folders, f.ID) || len(p.Folders) == 0 && f.Source == p.Source {
			out = append(out, f)
		}
	}
	return out
}

func contents(d *dossier.Dossier, p dossier.Path) []dossier.ContentKind {
	var out []dossier.ContentKind
	for _, f := range Reached(d, p) {
		if !slices.Contains(out, f.ContentKind) {
			out = append(out, f.ContentKind)
		}
	}
	return out
}

// Contents returns the kinds of content that a path brings to its device: those of its folders that
// the device is to be shown. None means that they are not known.
func Contents(d *dossier.Dossier, p dossier.Path) []dossier.ContentKind {
	device, _ := d.Devices.Get(p.Device)
	if len(device.ContentKinds) == 0 {
		return contents(d, p)
	}
	return slices.DeleteFunc(contents(d, p), func(c dossier.ContentKind) bool { return !slices.Contains(device.ContentKinds, c) })
}

func machine(*dossier.Dossier, Case) By { return Automatic }
func eye(*dossier.Dossier, Case) By     { return Eye }

// machineOnUPnP: a machine can read what is in a ContentDirectory; a share needs a person.
func machineOnUPnP(d *dossier.Dossier, c Case) By {
	if s, _ := d.Sources.Get(c.Path.Source); s.Protocol == dossier.ProtocolUPnPAV {
		return Automatic
	}
	return Eye
}
