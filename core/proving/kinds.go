package proving

import (
	"cmp"
	"slices"
	"time"

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
	shared *sharedCase // what is worked out once for all kinds of test of a path; nil: it is worked out when it is asked for
}

// sharedCase is what many kinds of test ask of one path.
type sharedCase struct {
	wishes   []dossier.Ref  // for the path
	resuming []dossier.Path // all paths that bring what people go on with
}

// wishes are those for what the path brings where its device is.
func (c Case) wishes(x *dossier.Index) []dossier.Ref {
	if c.shared != nil {
		return c.shared.wishes
	}
	return wishesFor(x, c.Path)
}

// resuming are the paths that bring what people go on with another day.
func (c Case) resuming(x *dossier.Index) []dossier.Path {
	if c.shared != nil {
		return c.shared.resuming
	}
	return resumingPaths(x)
}

func resumingPaths(x *dossier.Index) []dossier.Path {
	return slices.DeleteFunc(slices.Clone(x.InUse), func(p dossier.Path) bool { return !brings(x, p, resumed) })
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

// Kind declares one kind of test: what it is about, when it is required and why, who can judge it,
// what its proof rests on, and which act proves it. The table of path kinds says which kinds of
// path it can prove.
type Kind struct {
	Name    string
	About   About
	Minutes int
	After   []string // kinds that must have passed before, on the same path
	On      Basis
	Act     string // name of the act that proves it
	Quiet   bool   // a machine can run it without disturbing anyone or changing anything, so it is repeated overnight
	asked   asking
	by      func(*dossier.Index, Case) By
}

var basic = []string{"reach", "found"}

// Kinds lists the kinds of test outward from the source: the first that fails says where to look.
var Kinds = []Kind{
	{Name: "reach", Quiet: true, Minutes: 1, asked: always, by: machine, On: OnReach, Act: "ask-source"},
	{Name: "found", Quiet: true, Minutes: 1, asked: whereSearched, by: machineOnUPnP, On: OnFound, Act: "ask-source"},
	{Name: "told-apart", Quiet: true, Minutes: 1, After: basic, asked: amongOthers, by: machineOnUPnP, On: OnNames, Act: "ask-source"},
	{Name: "opens", Quiet: true, Minutes: 1, After: []string{"reach"}, asked: always, by: machineThatLists, On: OnList, Act: "ask-source"},
	{Name: "complete", About: AboutFolder, Quiet: true, Minutes: 2, After: []string{"reach"}, asked: whereCounted, by: machineOnUPnP, On: OnCount, Act: "ask-source"},
	{Name: "guide", Quiet: true, Minutes: 1, After: []string{"reach"}, asked: withGuide, by: machine, On: OnList, Act: "ask-source"},
	{Name: "feed", Quiet: true, Minutes: 1, After: []string{"reach"}, asked: always, by: machine, On: OnList, Act: "ask-source"},
	{Name: "live-channel", Quiet: true, Minutes: 1, After: []string{"opens"}, asked: always, by: machineOnLists, On: OnOpen, Act: "ask-source"},
	{Name: "write-refused", Minutes: 2, After: []string{"reach"}, asked: unlessWritable, by: machineOnShares, On: OnWriting, Act: "try-writing"},
	{Name: "stays-found", Minutes: 1, After: []string{"found"}, asked: advised(whereSearched), by: machineOnUPnP, On: OnFound, Act: "keep-searching"},
	{Name: "plays", Minutes: 4, After: basic, asked: always, by: machineOnPush, On: OnPlay, Act: "play-round"},
	{Name: "stops", Minutes: 1, After: []string{"plays"}, asked: asWished(), by: machineOnPush, On: OnPlay, Act: "play-round"},
	{Name: "seeks", Minutes: 2, After: []string{"plays"}, asked: asWished(running...), by: machineOnPush, On: OnPlay, Act: "play-round"},
	{Name: "resumes", Minutes: 3, After: []string{"plays"}, asked: asWished(resumed...), by: eye, On: OnMarks, Act: "play-round"},
	{Name: "resumes-elsewhere", Minutes: 5, After: []string{"resumes"}, asked: acrossRooms, by: eye, On: OnAcross, Act: "go-on-elsewhere"},
	{Name: "watched-mark", Minutes: 1, After: []string{"plays"}, asked: advised(asWished(resumed...)), by: eye, On: OnMarks, Act: "play-round"},
	{Name: "sound", Minutes: 2, After: []string{"plays"}, asked: asWished(pictured...), by: eye, On: OnSound, Act: "play-round"},
	{Name: "lip-sync", Minutes: 1, After: []string{"sound"}, asked: throughChain, by: eye, On: OnSound, Act: "play-round"},
	{Name: "picture-fits", Minutes: 1, After: []string{"plays"}, asked: asWished(pictured...), by: eye, On: OnPlay, Act: "play-round"},
	{Name: "top-quality", Minutes: 2, After: []string{"plays"}, asked: withLargePictures, by: eye, On: OnPlay, Act: "play-round"},
	{Name: "subtitles", Minutes: 2, After: []string{"plays"}, asked: advised(asWished(pictured...)), by: eye, On: OnPlay, Act: "play-round"},
	{Name: "converts", Minutes: 2, After: []string{"plays"}, asked: whereConverted, by: machineOnPush, On: OnPlay, Act: "play-round"},
	{Name: "converted-ahead", Minutes: 2, After: []string{"plays"}, asked: whereConvertedAhead, by: eye, On: OnPlay, Act: "play-round"},
	{Name: "search", Minutes: 1, After: []string{"opens"}, asked: advised(always), by: eye, On: OnPlay, Act: "play-round"},
	{Name: "gapless", Minutes: 3, After: []string{"plays"}, asked: advised(asWished(dossier.Music)), by: machineOnPush, On: OnPlay, Act: "play-round"},
	{Name: "recording", Minutes: 6, After: []string{"plays"}, asked: advised(always), by: eye, On: OnPlay, Act: "record-programme"},
	{Name: "sample-appears", Minutes: 5, After: []string{"plays"}, asked: asWished(filed...), by: eye, On: OnPlace, Act: "copy-sample"},
	{Name: "removed-disappears", Minutes: 2, After: []string{"sample-appears"}, asked: advised(asWished(filed...)), by: eye, On: OnPlace, Act: "copy-sample"},
	{Name: "blocked", Minutes: 2, After: []string{"plays"}, asked: whereBlocked, by: machineAnnounced, On: OnHours, Act: "try-hours"},
	{Name: "hours-kept", Minutes: 3, After: []string{"plays"}, asked: whereRestricted, by: machineAnnounced, On: OnHours, Act: "try-hours"},
	{Name: "fall-back", Minutes: 5, asked: withFallBack, by: eye, On: OnFallBack, Act: "use-fall-back"},
	{Name: "busy-set", About: AboutSet, Minutes: 10, After: []string{"plays"}, asked: inSet, by: machineOnPushed, On: OnSet, Act: "all-at-once"},
	{Name: "after-device-restart", Minutes: 4, After: []string{"plays"}, asked: asWished(), by: eye, On: OnStart, Act: "restart-device"},
	{Name: "survives-restart", Minutes: 8, After: []string{"plays"}, asked: asWished(), by: eye, On: OnStart, Act: "restart-server"},
	{Name: "survives-power-cut", Minutes: 12, After: []string{"survives-restart"}, asked: advised(asWished()), by: eye, On: OnStart, Act: "cut-power"},
	{Name: "wakes", Minutes: 6, After: []string{"plays"}, asked: whereItSleeps, by: eye, On: OnWaking, Act: "wake-server"},
	{Name: "outside", Minutes: 5, After: []string{"plays"}, asked: whereWatchedOutside, by: machineFromOutside, On: OnOutside, Act: "try-outside"},
	{Name: "long-play", Minutes: 60, After: []string{"plays"}, asked: advised(asWished(pictured...)), by: machineOnPush, On: OnPlay, Act: "leave-playing"},
}

// SearchesOn is for how long a test of being found goes on. A switch that passes multicast only to those who asked for it forgets them after
// 260 seconds without a query (RFC 3376, section 8.4), and some devices take several times as long.
const SearchesOn = 30 * time.Minute

// LongPlay is for how long a test of playing on lasts.
const LongPlay = time.Hour

// Lasts is how long a machine takes for a test of the kind, beside what it waits for answers; such tests run beside others, and only when
// they are asked for.
func (k *Kind) Lasts() time.Duration {
	switch k.Name {
	case "stays-found":
		return SearchesOn
	case "long-play":
		return LongPlay
	}
	return 0
}

// Beside sorts tests that go on for long into those that can go on beside each other: what plays on one device is played one after the other.
func (p *Plan) Beside(tests []Test) [][]Test {
	var out [][]Test
	at := map[dossier.ID[dossier.Device]]int{}
	for _, t := range tests {
		device := p.ends[t.Path].device
		n, busy := at[device]
		switch {
		case t.Kind.Name != "long-play":
			out = append(out, []Test{t})
		case busy:
			out[n] = append(out[n], t)
		default:
			at[device] = len(out)
			out = append(out, []Test{t})
		}
	}
	return out
}

// KindNamed returns the kind of test with that name.
func KindNamed(name string) (Kind, bool) {
	i := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{}, false
	}
	return Kinds[i], true
}

func pathCases(x *dossier.Index) []Case {
	out := make([]Case, len(x.InUse))
	resuming := resumingPaths(x)
	for i, p := range x.InUse {
		out[i].Path, out[i].shared = p, &sharedCase{wishesFor(x, p), resuming}
	}
	return out
}

// folderCases are the folders that some path reaches, with the first that does. A folder that two
// sources show under one name and kind, whose files lie at one place, is one.
func folderCases(x *dossier.Index) []Case {
	by := map[dossier.ID[dossier.Folder]]dossier.Path{}
	for _, p := range x.InUse {
		for _, f := range x.Reached(p) {
			if _, seen := by[f.ID]; !seen {
				by[f.ID] = p
			}
		}
	}
	var out []Case
	seen := map[string]bool{}
	for _, f := range x.Folders {
		p, reached := by[f.ID]
		place := whereLies(x, f)
		if !reached || place != "" && seen[place] {
			continue
		}
		seen[place] = true
		out = append(out, Case{Path: p, Folder: f})
	}
	return out
}

// whereLies says where a folder's files lie, where that is recorded as the machine itself writes it.
func whereLies(x *dossier.Index, f dossier.Folder) string {
	source, _ := x.Sources.Get(f.Source)
	host := cmp.Or(f.LiesOn, source.Device)
	for _, l := range f.Locations {
		if l.Form == dossier.FormLocal {
			return string(host) + " " + string(f.ContentKind) + " " + l.Text
		}
	}
	return ""
}

// setCases are the sets of which at least two paths are in use.
func setCases(x *dossier.Index) []Case {
	var out []Case
	for _, s := range x.BusySets {
		if used := inUse(x, s); len(used) > 1 {
			out = append(out, Case{Path: used[0], Set: s})
		}
	}
	return out
}

func inUse(x *dossier.Index, s dossier.BusySet) []dossier.Path {
	var out []dossier.Path
	for _, id := range s.Paths {
		if p, ok := x.Paths.Get(id); ok && !p.Retired {
			out = append(out, p)
		}
	}
	return out
}

func machine(*dossier.Index, Case) By { return Automatic }
func eye(*dossier.Index, Case) By     { return Eye }

// spoken returns who judges where the source speaks one of these protocols: a machine, and elsewhere a person.
func spoken(by ...dossier.Protocol) func(*dossier.Index, Case) By {
	return func(x *dossier.Index, c Case) By {
		if s, _ := x.Sources.Get(c.Path.Source); slices.Contains(by, s.Protocol) {
			return Automatic
		}
		return Eye
	}
}

var (
	// A machine can search for a UPnP AV server and read its ContentDirectory.
	machineOnUPnP = spoken(dossier.ProtocolUPnPAV)
	// It can list what these give, and reads a list of streams or a feed as a whole.
	speaksLists    = spoken(dossier.ProtocolUPnPAV, dossier.ProtocolSMB, dossier.ProtocolNFS, dossier.ProtocolM3U, dossier.ProtocolHLS, dossier.ProtocolRTSP)
	machineOnLists = spoken(dossier.ProtocolM3U)
	// Of NFS it cannot: it does not know as which user the device would write.
	machineOnShares = spoken(dossier.ProtocolSMB)
)

// machineOnPushed: a machine can play all of a set at once where all of it is pushed.
func machineOnPushed(x *dossier.Index, c Case) By {
	used := inUse(x, c.Set)
	if len(used) == 0 || slices.ContainsFunc(used, func(p dossier.Path) bool { return p.Kind != dossier.AVPush }) {
		return Eye
	}
	return Automatic
}

// machineAnnounced: a machine can ask a server in the name of a device where it is recorded by what the device announces itself.
func machineAnnounced(x *dossier.Index, c Case) By {
	if device, _ := x.Devices.Get(c.Path.Device); device.Announces == "" {
		return Eye
	}
	return machineOnUPnP(x, c)
}

// machineFromOutside: a machine can try whether a port of the home is open to the outside; a relay has none.
func machineFromOutside(x *dossier.Index, c Case) By {
	if s, _ := x.Sources.Get(c.Path.Source); s.OutsideBy == dossier.WayRelay {
		return Eye
	}
	return Automatic
}

// machineThatLists: a stream or a feed over plain HTTP can be read by a machine too; a program's own player over HTTP cannot.
func machineThatLists(x *dossier.Index, c Case) By {
	if c.Path.Kind == dossier.Stream || c.Path.Kind == dossier.Feed {
		return Automatic
	}
	return speaksLists(x, c)
}

// machineOnPush: what is pushed to a renderer is started, stopped and watched by a control point, which a machine can be (UPnP
// AVTransport).
func machineOnPush(_ *dossier.Index, c Case) By {
	if c.Path.Kind == dossier.AVPush {
		return Automatic
	}
	return Eye
}
