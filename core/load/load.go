// Package load works out what paths in use at once ask of every cable, radio channel and line of a home, whether these carry it,
// and which single change would make them.
package load

import (
	"cmp"
	"math"
	"slices"
	"time"

	"kaiku/core/demand"
	"kaiku/core/dossier"
)

// MediumKind is what something is that flows share.
type MediumKind string

// Media. A wire has a rate for each direction. A channel and the mains wiring are air time: whoever sends keeps all others of
// the home from sending. A disk has the rate at which one large file is read from it.
const (
	Wire     MediumKind = "wire"
	Channel  MediumKind = "channel"
	Mains    MediumKind = "mains-wiring"
	LineInto MediumKind = "line-down"
	Disk     MediumKind = "disk"
)

// Medium is something that flows share.
type Medium struct {
	Kind    MediumKind
	Link    dossier.ID[dossier.Link]   // of a wire
	From    dossier.ID[dossier.Device] // of a wire: the end that sends; of a disk: the machine that reads it
	Line    dossier.ID[dossier.Line]
	Band    dossier.Band                  // of a channel
	Channel int                           // the lowest of those that overlap; 0 if it is not recorded
	Radio   dossier.ID[dossier.Interface] // of a channel that is not recorded: the radio that has it
	Links   []dossier.ID[dossier.Link]    // of what is shared by air time: all links over it that carry something
}

// State says how much of a medium, or of all media of a set, is taken.
type State string

// States, the best first: up to 70 % of a medium leaves room, up to 90 % is tight, more is overloaded. Queues grow without bound
// towards 100 %, and everything else in the home needs some of it as well; the limits are planning values of the trade.
const (
	Roomy      State = "room-left"
	Tight      State = "tight"
	Overloaded State = "overloaded"
	NotKnown   State = "not-known"
)

// States lists all of them.
var States = []State{Roomy, Tight, Overloaded, NotKnown}

const (
	roomy = 0.70
	tight = 0.90
)

// State says what that much means.
func (use Use) State() State {
	if use.More && stateOf(use.Share) != Overloaded {
		return NotKnown
	}
	return stateOf(use.Share)
}

func stateOf(share float64) State {
	switch {
	case share <= roomy:
		return Roomy
	case share <= tight:
		return Tight
	}
	return Overloaded
}

// Use is how much of a medium is taken. Share is a part of its rate or of its air time, and more than 1 if more is asked for
// than there is. More says that something on it is not known, so that Share is the least.
type Use struct {
	Medium Medium
	Share  float64
	Known  dossier.Known // the weakest of what it rests on
	More   bool
	By     []Part
	Mbps   float64 // what a wire, a line or a disk carries at most; 0 for what is shared by air time
}

// Part is what one path takes of a medium.
type Part struct {
	Path  dossier.ID[dossier.Path]
	Share float64
	// Rate is what TCP gets over the medium alone, in Mb/s, and Known how that is known; 0 if it is not.
	Rate  float64
	Known dossier.Known
}

// Gap is why it is not known what a path takes.
type Gap string

// Gaps.
const (
	NoWay     Gap = "no-way"     // no chain of recorded links leads from where the files are to the device
	NoRate    Gap = "no-rate"    // a link of the way has neither a rate nor a reading
	NoDemand  Gap = "no-demand"  // nothing says what is watched
	NoFolders Gap = "no-folders" // the path reaches no folder, or none is recorded
	NoLine    Gap = "no-line"    // it comes over an internet line of which no rate is recorded
	NoDisk    Gap = "no-disk"    // nothing says how fast the storage of a machine that is carried around is read
	// It is sent to all, and nothing says whether switches keep it from ports that have not asked for it.
	NoSnooping Gap = "no-snooping"
)

// Gaps lists all of them.
var Gaps = []Gap{NoWay, NoRate, NoDemand, NoFolders, NoLine, NoDisk, NoSnooping}

// Flow is what one path carries: the heaviest that it reaches, from where the files are to the device.
type Flow struct {
	Path   dossier.ID[dossier.Path]
	Mbps   float64 // the rate needed with head-room; 0 if that is not known
	Known  dossier.Known
	Folder dossier.ID[dossier.Folder]   // that needs it
	Way    []dossier.ID[dossier.Device] // the devices that it passes, from where the files are to the screen
	Links  []dossier.ID[dossier.Link]
	Gaps   []Gap
	At     dossier.Ref // what the first gap is about
}

// Case is a path alone, or a set of paths in use at once.
type Case struct {
	Set   dossier.ID[dossier.BusySet]
	Paths []dossier.ID[dossier.Path]
	State State
	Flows []Flow
	Uses  []Use // of all that carries something, the most taken first
	// AtOnce is how many streams as heavy as a path's fit over its way, of a path alone; -1 if that is not known.
	AtOnce int
	// Surest is the device at which a reading would make the most taken medium known best; "" if it is measured or no reading helps.
	Surest dossier.ID[dossier.Device]
}

// Bottleneck returns the medium of which most is taken, if anything is carried.
func (c Case) Bottleneck() (Use, bool) {
	if len(c.Uses) == 0 {
		return Use{}, false
	}
	return c.Uses[0], true
}

// Load is what a home's paths ask of its network.
type Load struct {
	Alone   []Case   // each path in use, in the order of their ids
	Sets    []Case   // each busy set, in the order of their ids
	Uplinks []Uplink // each internet line of which it is known what goes out, in the order of their ids
}

// Uplink is what of the home can be watched elsewhere at once, over one internet line.
type Uplink struct {
	Line      dossier.ID[dossier.Line]
	Mbps      float64 // what is left for it
	Known     dossier.Known
	Qualities []Quality // the largest picture first
}

// Quality is a size of picture and how many streams of it fit at once.
type Quality struct {
	Lines  int
	Mbps   float64 // what one usually needs, with head-room; assumed
	AtOnce int
}

// uplinkShare is the part of an uplink that viewing from outside may take: acknowledgements, calls and the provider's busy hours
// need the rest. A planning value, judgement.
const uplinkShare = 0.8

func uplinks(x *dossier.Index) []Uplink {
	out := []Uplink{}
	for _, l := range x.Lines {
		use := Uplink{Line: l.ID, Mbps: l.UpMbps * uplinkShare, Known: dossier.KnownMeasured}
		if l.UpMbps == 0 {
			use.Mbps, use.Known = l.SoldUpMbps*uplinkShare, dossier.KnownAssumed
		}
		if !sound(use.Mbps) {
			continue
		}
		for _, lines := range []int{2160, 1080, 720, 576} {
			q := Quality{Lines: lines, Mbps: demand.OfPicture(lines).Mbps * headRoom}
			q.AtOnce = int(math.Floor(use.Mbps/q.Mbps + 1e-9))
			use.Qualities = append(use.Qualities, q)
		}
		out = append(out, use)
	}
	return out
}

// Of works out the load of a home. By the time of day in that place, readings of the busy evening are known.
func Of(x *dossier.Index, evening *time.Location) Load {
	n := newNet(x, evening)
	out := Load{Alone: []Case{}, Sets: []Case{}, Uplinks: uplinks(x)}
	for _, p := range x.InUse {
		c := n.add([]dossier.Path{p})
		c.AtOnce = n.atOnce(c)
		out.Alone = append(out.Alone, c)
	}
	for _, s := range x.BusySets {
		c := n.add(n.pathsOf(s.Paths))
		c.Set = s.ID
		out.Sets = append(out.Sets, c)
	}
	return out
}

// Together works out the load of paths that somebody names, in use at once.
func Together(x *dossier.Index, evening *time.Location, paths []dossier.ID[dossier.Path]) Case {
	n := newNet(x, evening)
	return n.add(n.pathsOf(paths))
}

// pathsOf returns those of the paths that are in use, each once.
func (n *net) pathsOf(ids []dossier.ID[dossier.Path]) []dossier.Path {
	return slices.DeleteFunc(slices.Clone(n.InUse), func(p dossier.Path) bool { return !slices.Contains(ids, p.ID) })
}

// add adds up what paths take that are in use at once.
func (n *net) add(paths []dossier.Path) Case {
	c := Case{Paths: []dossier.ID[dossier.Path]{}, Flows: []Flow{}, Uses: []Use{}, AtOnce: -1, State: NotKnown}
	uses := map[mediumKey]*Use{}
	counted := map[sent]bool{}
	viewers := map[dossier.ID[dossier.Source]]int{}
	for _, p := range paths {
		f := n.flow(p, viewers[p.Source])
		viewers[p.Source]++
		c.Paths = append(c.Paths, p.ID)
		c.Flows = append(c.Flows, f.Flow)
		for _, h := range f.hops {
			key := h.medium.key()
			use := uses[key]
			if use == nil {
				use = &Use{Medium: h.medium, Mbps: h.mbps}
				uses[key] = use
			}
			use.Medium.add(h.medium)
			if h.once != (sent{}) {
				if counted[h.once] {
					continue
				}
				counted[h.once] = true
			}
			if h.rate <= 0 || f.Mbps == 0 {
				use.More = true
				continue
			}
			part := Part{Path: p.ID, Share: f.Mbps / h.rate, Rate: h.rate, Known: h.known}
			use.Share += part.Share
			use.Known = weakest(use.Known, weakest(h.known, f.Known))
			use.By = append(use.By, part)
		}
	}
	for _, use := range uses {
		if use.Medium.Kind == Disk && len(use.By) > 1 {
			use.Known = weakest(use.Known, dossier.KnownEstimated) // how much is lost by going to and fro between files is not known
		}
		c.Uses = append(c.Uses, *use)
	}
	slices.SortFunc(c.Uses, func(a, b Use) int {
		return cmp.Or(cmp.Compare(b.Share, a.Share), a.Medium.key().compare(b.Medium.key()))
	})
	c.State = stateOfCase(c)
	c.Surest = n.surest(c)
	return c
}

// stateOfCase is overloaded as soon as one medium surely is, and otherwise not known as long as anything is not known.
func stateOfCase(c Case) State {
	unknown := len(c.Flows) == 0
	for _, f := range c.Flows {
		unknown = unknown || len(f.Gaps) > 0
	}
	worst := Roomy
	for _, use := range c.Uses {
		unknown = unknown || use.More
		if s := stateOf(use.Share); slices.Index(States, s) > slices.Index(States, worst) {
			worst = s
		}
	}
	if unknown && worst != Overloaded {
		return NotKnown
	}
	return worst
}

// atOnce returns how many streams like that of a path alone fit at once into 90 % of everything on its way.
func (n *net) atOnce(c Case) int {
	use, carries := c.Bottleneck()
	if c.State == NotKnown || !carries || use.Share <= 0 || use.More {
		return -1
	}
	return int(math.Floor(tight/use.Share + 1e-9))
}

// surest returns the device at which a reading would replace the weakest number behind the most taken medium.
func (n *net) surest(c Case) dossier.ID[dossier.Device] {
	for _, f := range c.Flows {
		if slices.Contains(f.Gaps, NoRate) {
			return f.Way[len(f.Way)-1]
		}
		if slices.Contains(f.Gaps, NoDisk) {
			return f.Way[0]
		}
	}
	use, carries := c.Bottleneck()
	if !carries || use.Medium.Kind != Channel && use.Medium.Kind != Mains {
		return ""
	}
	var most Part
	for _, p := range use.By {
		if p.Known != dossier.KnownMeasured && p.Share > most.Share {
			most = p
		}
	}
	p, _ := n.Paths.Get(most.Path)
	return p.Device
}

// weakest returns the weaker of two ways of knowing.
func weakest(a, b dossier.Known) dossier.Known {
	order := dossier.Known("").Values()
	if a == "" || slices.Index(order, string(b)) > slices.Index(order, string(a)) {
		return b
	}
	return a
}

// headRoom is what is kept above the rate needed, once and for all flows.
const headRoom = 1.2

// heaviest returns what the heaviest form of a folder needs; the zero Rate where one of its forms may need anything.
func heaviest(f dossier.Folder) demand.Rate {
	most := demand.OfContent(f.ContentKind)
	for i, e := range f.Mix {
		r := demand.RateNeeded(e)
		if slices.Contains(pictures, e.Container) {
			r = demand.OfContent(dossier.Photo)
		}
		if r.Mbps == 0 {
			return demand.Rate{}
		}
		if i == 0 || r.Mbps > most.Mbps {
			most = r
		}
	}
	return most
}

// pictures are containers of photographs, which are loaded one by one.
var pictures = []dossier.Container{dossier.JPEG, dossier.PNG, dossier.GIF, dossier.WebP, dossier.HEIF, dossier.TIFF}

// needed returns what the heaviest item of the path needs, with head-room, of which folder it is, and what is missing to tell.
func (n *net) needed(p dossier.Path) (demand.Rate, dossier.ID[dossier.Folder], Gap) {
	folders := n.Reached(p)
	if len(folders) == 0 {
		return demand.Rate{}, "", NoFolders
	}
	var most demand.Rate
	var of dossier.ID[dossier.Folder]
	known := true
	for _, f := range folders {
		rate, asked := n.needs[f.ID]
		if !asked {
			rate = heaviest(f)
			n.needs[f.ID] = rate
		}
		known = known && rate.Mbps > 0
		if rate.Mbps > most.Mbps {
			most, of = rate, f.ID
		}
	}
	if !known {
		return demand.Rate{}, of, NoDemand
	}
	return demand.Rate{Mbps: most.Mbps * headRoom, Known: most.Known}, of, ""
}
