package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// What is played for a while, what people go on with another day, what has a picture, and what
// lies in files of which new ones come.
var (
	running  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo, dossier.Music, dossier.Audiobook}
	resumed  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.Audiobook}
	pictured = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo}
	filed    = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo, dossier.Music, dossier.Audiobook, dossier.Photo}
)

// Reason is a code for why a test is in the plan.
type Reason string

// Why a test is in the plan. About are the records that it is said with.
const (
	BecauseInUse      Reason = "in-use"     // the path is in use
	BecauseWished     Reason = "wished"     // a needed wish hangs on the path; about the wish
	BecauseCarried    Reason = "carried"    // the path carries what it is about, and no wish asks for it
	BecauseSearched   Reason = "searched"   // the device looks for its server
	BecauseOthers     Reason = "others"     // others show themselves too; about them
	BecauseCounted    Reason = "counted"    // the items on the disk were counted
	BecauseReadable   Reason = "readable"   // whoever reads should not write
	BecauseAcross     Reason = "across"     // the customer goes on in another room; about the other paths
	BecauseOutside    Reason = "outside"    // the customer watches outside
	BecauseFallBack   Reason = "fall-back"  // one is recorded; about it
	BecauseRestricted Reason = "restricted" // something is to be kept; about the restrictions
	BecauseSleeps     Reason = "sleeps"     // about what sleeps
	BecauseTogether   Reason = "together"   // about the paths of the set
	BecauseChain      Reason = "chain"      // the sound goes through other devices; about them
	BecauseConverts   Reason = "converts"   // the source converts for the path
	BecauseAhead      Reason = "ahead"      // copies were converted; about them
	BecauseLarge      Reason = "large"      // pictures of 2160 lines; about the folders
	BecauseGuide      Reason = "guide"      // a guide is recorded
)

// Reasons lists all of them.
var Reasons = []Reason{BecauseInUse, BecauseWished, BecauseCarried, BecauseSearched, BecauseOthers, BecauseCounted, BecauseReadable, BecauseAcross, BecauseOutside, BecauseFallBack, BecauseRestricted, BecauseSleeps, BecauseTogether, BecauseChain, BecauseConverts, BecauseAhead, BecauseLarge, BecauseGuide}

// Why says why a test is in the plan.
type Why struct {
	Reason Reason
	About  []dossier.Ref
}

// asking says how much a test is asked for, and why.
type asking func(*dossier.Index, Case) (Weight, Why)

func no() (Weight, Why) { return NotAsked, Why{} }

func always(*dossier.Index, Case) (Weight, Why) { return Required, Why{Reason: BecauseInUse} }

// advised only advises what is asked for there.
func advised(of asking) asking {
	return func(x *dossier.Index, c Case) (Weight, Why) {
		weight, why := of(x, c)
		return min(weight, Advised), why
	}
}

// asWished asks for paths that reach one of the contents (none: any), and requires it where the
// customer needs what the path brings into its room.
func asWished(of ...dossier.ContentKind) asking {
	return func(x *dossier.Index, c Case) (Weight, Why) {
		if !brings(x, c.Path, of) {
			return no()
		}
		return byWish(x, c)
	}
}

func byWish(x *dossier.Index, c Case) (Weight, Why) {
	if wishes := c.wishes(x); len(wishes) > 0 {
		return Required, Why{BecauseWished, wishes}
	}
	return Advised, Why{Reason: BecauseCarried}
}

// because asks like asWished, for another reason.
func because(x *dossier.Index, c Case, r Reason, about ...dossier.Ref) (Weight, Why) {
	weight, _ := byWish(x, c)
	return weight, Why{r, about}
}

func brings(x *dossier.Index, p dossier.Path, of []dossier.ContentKind) bool {
	return len(of) == 0 || slices.ContainsFunc(x.Brings(p), func(k dossier.ContentKind) bool { return slices.Contains(of, k) })
}

// wishesFor are the wishes of what the customer needs of the path in the room of its device.
func wishesFor(x *dossier.Index, p dossier.Path) []dossier.Ref {
	device, _ := x.Devices.Get(p.Device)
	var out []dossier.Ref
	for _, w := range x.Wishes {
		if w.Need != dossier.Welcome && For(w, device) && slices.Contains(x.Brings(p), dossier.ContentKind(w.What)) {
			out = append(out, w.ID.Ref())
		}
	}
	return out
}

// For reports whether a wish is about that device: it is named, or stands in the room, or the wish
// is for the whole home.
func For(w dossier.Wish, device dossier.Device) bool {
	if w.Device != "" {
		return w.Device == device.ID
	}
	return w.Room == "" || w.Room == device.Room
}

// whereSearched: only a device that looks for its server by multicast can find it.
func whereSearched(_ *dossier.Index, c Case) (Weight, Why) {
	if c.Path.FoundBy == dossier.ByMulticast {
		return Required, Why{Reason: BecauseSearched}
	}
	return no()
}

// amongOthers: where another server of the kind shows itself, the right one must be told apart.
func amongOthers(x *dossier.Index, c Case) (Weight, Why) {
	others := otherServers(x, c.Path)
	if len(others) == 0 || c.Path.FoundBy != dossier.ByMulticast {
		return no()
	}
	why := Why{Reason: BecauseOthers}
	for _, s := range others {
		why.About = append(why.About, s.ID.Ref())
	}
	return Required, why
}

func otherServers(x *dossier.Index, p dossier.Path) []dossier.Source {
	var out []dossier.Source
	for _, s := range x.Sources {
		if s.ID != p.Source && s.Protocol == dossier.ProtocolUPnPAV {
			out = append(out, s)
		}
	}
	return out
}

// whereCounted: completeness can be judged where the items on the disk were counted.
func whereCounted(_ *dossier.Index, c Case) (Weight, Why) {
	if c.Folder.ItemsOnDisk > 0 {
		return Required, Why{Reason: BecauseCounted}
	}
	return no()
}

func unlessWritable(x *dossier.Index, c Case) (Weight, Why) {
	if s, _ := x.Sources.Get(c.Path.Source); s.Writable == dossier.Yes {
		return no()
	}
	return Required, Why{Reason: BecauseReadable}
}

// acrossRooms: the wish holds for what people go on with, in its room or in all, where paths of
// more than one device bring it.
func acrossRooms(x *dossier.Index, c Case) (Weight, Why) {
	device, _ := x.Devices.Get(c.Path.Device)
	wish := slices.ContainsFunc(x.Wishes, func(w dossier.Wish) bool {
		return w.What == dossier.WishResumeAcrossRooms && (w.Room == "" && w.Device == "" || w.Room != "" && w.Room == device.Room || w.Device == device.ID && w.Device != "")
	})
	if !wish || !brings(x, c.Path, resumed) {
		return no()
	}
	why := Why{Reason: BecauseAcross}
	for _, p := range c.resuming(x) {
		if p.Device != c.Path.Device {
			why.About = append(why.About, p.ID.Ref())
		}
	}
	if len(why.About) == 0 {
		return no()
	}
	return Required, why
}

// whereWatchedOutside: outside viewing is wished, and the source can be reached from outside.
func whereWatchedOutside(x *dossier.Index, c Case) (Weight, Why) {
	source, _ := x.Sources.Get(c.Path.Source)
	wish := slices.ContainsFunc(x.Wishes, func(w dossier.Wish) bool {
		return w.What == dossier.WishOutsideViewing && (w.Device == "" || w.Device == c.Path.Device)
	})
	device, _ := x.Devices.Get(c.Path.Device)
	if wish && source.OutsidePort != 0 && device.Carried {
		return Required, Why{Reason: BecauseOutside}
	}
	return no()
}

func withFallBack(_ *dossier.Index, c Case) (Weight, Why) {
	if c.Path.FallBack != "" {
		return Required, Why{BecauseFallBack, []dossier.Ref{c.Path.FallBack.Ref()}}
	}
	return no()
}

// RestrictionsOf returns what a test of the kind is about on a path: the restrictions that hold at all hours, or those that hold at some.
func RestrictionsOf(x *dossier.Index, kind string, p dossier.Path) []dossier.Restriction {
	return slices.DeleteFunc(restrictions(x, p), func(r dossier.Restriction) bool { return allHours(r) != (kind == "blocked") })
}

// allHours reports whether a restriction holds at all hours.
func allHours(r dossier.Restriction) bool { return r.From == r.Until && len(r.Days) == 0 }

// whereRestricted: what holds at some hours only is tried at both.
func whereRestricted(x *dossier.Index, c Case) (Weight, Why) {
	return kept(x, c, func(r dossier.Restriction) bool { return !allHours(r) })
}

// whereBlocked: what holds always is refused always.
func whereBlocked(x *dossier.Index, c Case) (Weight, Why) { return kept(x, c, allHours) }

func kept(x *dossier.Index, c Case, which func(dossier.Restriction) bool) (Weight, Why) {
	why := Why{Reason: BecauseRestricted}
	for _, r := range restrictions(x, c.Path) {
		if which(r) {
			why.About = append(why.About, r.ID.Ref())
		}
	}
	if len(why.About) == 0 {
		return no()
	}
	return Required, why
}

// restrictions returns those that hold for the path's device or its room, and for what it brings.
func restrictions(x *dossier.Index, p dossier.Path) []dossier.Restriction {
	device, _ := x.Devices.Get(p.Device)
	var out []dossier.Restriction
	for _, r := range x.Restrictions {
		here := r.Device == p.Device && r.Device != "" || r.Room == device.Room && r.Room != ""
		if here && brings(x, p, r.Contents) {
			out = append(out, r)
		}
	}
	return out
}

func whereItSleeps(x *dossier.Index, c Case) (Weight, Why) {
	source, _ := x.Sources.Get(c.Path.Source)
	if server, _ := x.Devices.Get(source.Device); server.Standby == dossier.Yes {
		return Required, Why{BecauseSleeps, []dossier.Ref{server.ID.Ref()}}
	}
	return no()
}

func inSet(x *dossier.Index, c Case) (Weight, Why) {
	why := Why{Reason: BecauseTogether}
	for _, p := range inUse(x, c.Set) {
		why.About = append(why.About, p.ID.Ref())
	}
	return Required, why
}

// throughChain: sound that goes through another device may come late.
func throughChain(x *dossier.Index, c Case) (Weight, Why) {
	if !brings(x, c.Path, pictured) {
		return no()
	}
	var through []dossier.Ref
	for _, l := range x.ChainLinks {
		if l.From == c.Path.Device {
			through = append(through, l.To.Ref())
		}
	}
	if len(through) == 0 {
		return advised(byWish)(x, c)
	}
	return because(x, c, BecauseChain, through...)
}

// uhdLines is the height from which a picture counts as the largest that homes have (ITU-R BT.2020).
const uhdLines = 2160

func withLargePictures(x *dossier.Index, c Case) (Weight, Why) {
	var in []dossier.Ref
	for _, f := range x.Reached(c.Path) {
		if slices.Contains(pictured, f.ContentKind) && slices.ContainsFunc(f.Mix, func(e dossier.FormatEntry) bool { return e.Height >= uhdLines }) {
			in = append(in, f.ID.Ref())
		}
	}
	if len(in) == 0 {
		return no()
	}
	return because(x, c, BecauseLarge, in...)
}

// whereConverted: the source converts for paths that go through it.
func whereConverted(x *dossier.Index, c Case) (Weight, Why) {
	source, _ := x.Sources.Get(c.Path.Source)
	if c.Path.Mode != dossier.ThroughServer || source.Converts == "" || source.Converts == dossier.ConvertsNothing {
		return no()
	}
	return because(x, c, BecauseConverts, source.ID.Ref())
}

func whereConvertedAhead(x *dossier.Index, c Case) (Weight, Why) {
	var copies []dossier.Ref
	for _, copy := range x.ConvertedCopies {
		if copy.State == dossier.CopyDone && slices.Contains(copy.For, c.Path.Device) && slices.ContainsFunc(x.Reached(c.Path), func(f dossier.Folder) bool { return f.ID == copy.Folder }) {
			copies = append(copies, copy.ID.Ref())
		}
	}
	if len(copies) == 0 {
		return no()
	}
	return because(x, c, BecauseAhead, copies...)
}

// withGuide: where a guide is recorded, it has to go on for a while.
func withGuide(x *dossier.Index, c Case) (Weight, Why) {
	if source, _ := x.Sources.Get(c.Path.Source); source.Guide == "" {
		return no()
	}
	return Required, Why{Reason: BecauseGuide}
}
