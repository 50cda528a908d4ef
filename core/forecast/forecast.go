// Package forecast says, before anybody tries, what of a home's media plays on which device, and why not.
package forecast

import (
	"cmp"
	"slices"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/core/knowledge"
	"kaiku/core/pathkind"
)

// Outcome is what happens to items of one format on one path.
type Outcome string

// Outcomes, the best first. Silent is a picture without its sound. NotKnown stands apart: it may turn out to be any.
const (
	AsIs             Outcome = "as-is"
	Repackaged       Outcome = "repackaged"
	SoundConverted   Outcome = "sound-converted"
	PictureConverted Outcome = "picture-converted"
	Silent           Outcome = "silent"
	Unplayable       Outcome = "unplayable"
	NotKnown         Outcome = "not-known"
)

// Outcomes lists all of them in this order.
var Outcomes = []Outcome{AsIs, Repackaged, SoundConverted, PictureConverted, Silent, Unplayable, NotKnown}

// Cause tells what decides an outcome: what a device can do, a setting that could be another one, what the path or the
// server can do, or that something is not recorded.
type Cause string

// Causes.
const (
	ByAbility Cause = "ability"
	BySetting Cause = "setting"
	ByServer  Cause = "server"
	ByPath    Cause = "path"
	ByRecord  Cause = "not-recorded"
)

// Line is the forecast for one entry of a folder's mix on one path.
type Line struct {
	Outcome  Outcome          `json:"outcome,omitzero"`
	Cause    Cause            `json:"cause,omitzero"`
	Evidence dossier.Evidence `json:"evidence,omitzero"` // the weakest that it rests on
	// Decides is the part of the file that decides, with the decoding entry and the limit; of what plays as it is, the one
	// that is known worst.
	Decides   *format.Result `json:"decides,omitzero"`
	Subtitles Subtitles      `json:"subtitles,omitzero"`
	// Lowered lists what of the picture the display chain behind the device cannot carry, and Chain is the link that cannot.
	Lowered []format.Limit                `json:"lowered,omitzero"`
	Chain   dossier.ID[dossier.ChainLink] `json:"chain,omitzero"`
	// Mpx is what converting the picture of one of them takes, in Mpx/s; 0 if none is converted or its size is not known.
	Mpx   float64 `json:"mpx,omitzero"`
	place int     // of the outcome among all of them
}

// Subtitles is what becomes of the first subtitles of an item that plays; "" if it has none or they are shown.
type Subtitles string

// What becomes of subtitles that a device does not show. Burnt in: the server draws them into the picture, which it has
// to convert for that.
const (
	SubtitlesBurntIn  Subtitles = "burnt-in"
	SubtitlesNotShown Subtitles = "not-shown"
	SubtitlesNotKnown Subtitles = "not-known"
)

// Share is a part of a folder, by items and by hours.
type Share struct {
	Items int     `json:"items,omitzero"`
	Hours float64 `json:"hours,omitzero"`
}

// Cell is the forecast for one device and one folder, by the path that serves it best.
type Cell struct {
	Device dossier.ID[dossier.Device] `json:"device,omitzero"`
	Folder dossier.ID[dossier.Folder] `json:"folder,omitzero"`
	Path   dossier.ID[dossier.Path]   `json:"path,omitzero"`
	Lines  []*Line                    `json:"lines,omitzero"` // by the entries of the folder's mix; cells share them
	Of     map[Outcome]Share          `json:"of,omitzero"`
	Unread int                        `json:"unread,omitzero"` // items of the folder that no entry of its mix is about
}

// OutcomeShare is the part of a cell that has one outcome.
type OutcomeShare struct {
	Outcome Outcome
	Share
	Percent float64 // of the hours, or of the items where no hours are known; 0 if neither is
}

// Shares lists the outcomes of a cell, the best first.
func (c Cell) Shares() []OutcomeShare {
	var sum Share
	for _, s := range c.Of {
		sum.Items, sum.Hours = sum.Items+s.Items, sum.Hours+s.Hours
	}
	out := []OutcomeShare{}
	for _, o := range Outcomes {
		s, there := c.Of[o]
		if !there {
			continue
		}
		one := OutcomeShare{Outcome: o, Share: s}
		switch {
		case sum.Hours > 0:
			one.Percent = 100 * s.Hours / sum.Hours
		case sum.Items > 0:
			one.Percent = 100 * float64(s.Items) / float64(sum.Items)
		}
		out = append(out, one)
	}
	return out
}

// Grade is the most that may be said of a whole cell.
type Grade string

// Grades, the best first. Converted: all of it plays, but the server has to convert some. Partly: some of it plays, and some
// stays silent or does not play. None: all of it stays silent or does not play. In doubt: of some it is known, and of some not.
const (
	Plays      Grade = "plays"
	Converted  Grade = "converted"
	Partly     Grade = "partly"
	PlaysNone  Grade = "none"
	GradeDoubt Grade = "in-doubt"
	Unknown    Grade = "not-known"
)

// Grades lists all of them.
var Grades = []Grade{Plays, Converted, Partly, PlaysNone, GradeDoubt, Unknown}

// Grade sums a cell up. What is not known never counts as played, and no rest, however small, is left out.
func (c Cell) Grade() Grade {
	_, unknown := c.Of[NotKnown]
	unknown = unknown || c.Unread > 0
	good, converted, bad := false, false, false
	for o := range c.Of {
		switch o {
		case AsIs:
			good = true
		case Repackaged, SoundConverted, PictureConverted:
			good, converted = true, true
		case Silent, Unplayable:
			bad = true
		}
	}
	switch {
	case good && bad:
		return Partly
	case bad && !unknown:
		return PlaysNone
	case bad, good && unknown:
		return GradeDoubt
	case converted:
		return Converted
	case good:
		return Plays
	}
	return Unknown
}

// HelpKind is a sort of change that would help.
type HelpKind string

// Kinds of changes: a device that decodes one format more, as another device or player application might; a newer firmware
// of the device, by what the firm knows of it; a rate limit that is lifted; a sound return of a display chain that is set to
// carry all; and other subtitles of the same films, which the device shows itself.
const (
	HelpDecodes     HelpKind = "decodes"
	HelpFirmware    HelpKind = "firmware"
	HelpRateLimit   HelpKind = "rate-limit"
	HelpSoundReturn HelpKind = "sound-return"
	HelpSubtitles   HelpKind = "other-subtitles"
)

// Help is one change that would make more play as it is.
type Help struct {
	Kind   HelpKind                   `json:"kind"`
	Source dossier.ID[dossier.Source] `json:"source,omitzero"` // whose rate limit it is, if it is one of a source
	Device dossier.ID[dossier.Device] `json:"device,omitzero"`
	To     dossier.ID[dossier.Device] `json:"to,omitzero"` // to which the sound returns from Device
	Part   dossier.FormatPart         `json:"part,omitzero"`
	Format dossier.FormatTerm         `json:"format,omitzero"`
	Limit  format.Limit               `json:"limit,omitzero"` // the one to be lifted; "" for the format as a whole
	Needed string                     `json:"needed,omitzero"`
	// Firmware is the version to install, and By says where the firm has it from.
	Firmware string `json:"firmware,omitzero"`
	By       string `json:"by,omitzero"`
	// Gained is what would play as it is, and does not; of other subtitles, the films that may have them, of which the first
	// subtitles are burnt in or not shown.
	Gained Share `json:"gained,omitzero"`
}

// Forecast is the forecast of a home.
type Forecast struct {
	Cells []Cell  `json:"cells,omitzero"` // by device, then folder
	Helps []Help  `json:"helps,omitzero"` // those that gain most hours first
	Ahead []Ahead `json:"ahead,omitzero"` // those that gain most hours first
	// Converters are the sources that have to convert pictures, with what they have for it.
	Converters []Converter `json:"converters,omitzero"`
}

// Of works out the forecast of a home with what the firm knows of its devices.
func Of(x *dossier.Index, k knowledge.Knowledge) Forecast {
	w := prepared(x, k)
	f := Forecast{}
	paths := map[dossier.ID[dossier.Device]][]dossier.Path{}
	for _, p := range x.InUse {
		paths[p.Device] = append(paths[p.Device], p)
	}
	f.Cells = make([]Cell, 0, w.most)
	gains := map[dossier.ID[dossier.Device]][]*Help{}
	for i := range x.Devices {
		device := &x.Devices[i]
		for j := range x.Folders {
			var best Cell
			var by *ends
			var how conversion
			for n := range paths[device.ID] {
				p := &paths[device.ID][n]
				if !p.Reaches(&x.Folders[j]) {
					continue
				}
				e := w.ends(*p)
				if c := w.cell(*p, e, &x.Folders[j]); by == nil || better(c, best) {
					best, by, how = c, e, e.converts(*p)
				}
			}
			if by != nil {
				f.Cells = append(f.Cells, best)
				w.gain(gains, &best, by.profile, how, &x.Folders[j])
			}
		}
	}
	f.Helps = ranked(slices.Concat(w.changes(f.Cells), w.otherSubtitles(f.Cells), values(gains)))
	f.Ahead = w.ahead(f.Cells)
	f.Converters = w.converters(f.Cells)
	return f
}

// parts are the distinct values of the parts of an entry, by number: formats of many files differ in few. Kind is the number of all four together.
type parts struct{ container, picture, sound, subtitles, kind int }

// decided is what becomes of entries of one kind; it is empty until somebody asks.
type decided struct {
	Line
	lifts answer // whether they would play as they are if what decides were lifted
}

// answer is yes or no, or 0 while it has not been worked out.
type answer int8

const (
	yes answer = iota + 1
	no
)

func answerOf(is bool) answer {
	if is {
		return yes
	}
	return no
}

// way is what decides about entries of one kind, where no rate limit is set.
type way struct {
	answers, sounds *answers
	how             conversion
}

// profile is what a device decodes. Those of equal contents share their answers.
type profile struct {
	dossier.Decoding
	answers *answers
	sounds  *answers // its own, if there are others behind it: nothing of it is the same as for another then
	behind  []link
	shown   []shown
}

// answers holds what was asked, by part and by the number of the value.
type answers [4][]*format.Result

type link struct {
	carries func(dossier.FormatEntry) bool
	profile *profile
}

// work is what is needed while a forecast is worked out.
type work struct {
	x        *dossier.Index
	k        knowledge.Knowledge
	mixes    map[dossier.ID[dossier.Folder]][]parts
	profiles map[dossier.ID[dossier.Device]]*profile
	recorded map[dossier.ID[dossier.Device]]dossier.Decoding
	numbers  map[any]int // what is equal has one number
	byRate   bool        // some decoder of the home has a limit of rate, so that formats of different rates are different
	known    map[dossier.ID[dossier.Path]]*ends
	cells    map[cellKey]*Cell
	decided  map[way][]decided // by the kind of entry
	most     int               // cells that there can be
	lastWay  way               // that was asked for last, and often is again
	lastAll  []decided
	kinds    int
	targets  []target
	results  []format.Result
	room     []*Line
	helped   []dossier.ID[dossier.Device] // room for the devices that a form would help
}

type picture struct {
	codec         dossier.VideoCodec
	profile       dossier.VideoProfile
	level         string
	width, height int
	rate, most    float64
	interlaced    dossier.Answer
	depth, refs   int
	chroma        dossier.Chroma
	dynamic       dossier.DynamicRange
}

type sound struct {
	codec                dossier.SoundCodec
	channels, rate, bits int
}

type container struct {
	container     dossier.Container
	still         bool
	width, height int
	sound         sound
}

func (w *work) number(key any) int {
	n, known := w.numbers[key]
	if !known {
		n = len(w.numbers)
		w.numbers[key] = n
	}
	return n
}

// partsOf numbers the parts of an entry.
func (w *work) partsOf(e *dossier.FormatEntry) parts {
	s := sound{e.Sound, e.Channels, e.SampleRate, e.SoundBits}
	c := container{container: e.Container, still: e.Video == ""}
	if c.still {
		c.width, c.height = e.Width, e.Height
		c.sound = s // who decodes it opens files of it
	}
	rate := 0.0
	if w.byRate {
		rate = max(e.AverageMbps, e.PeakMbps)
	}
	p := picture{e.Video, e.Profile, e.Level, e.Width, e.Height, e.FrameRate, rate, e.Interlaced, e.BitDepth, e.ReferenceFrames, e.Chroma, e.Range}
	out := parts{container: w.number(c), picture: w.number(p), sound: w.number(s), subtitles: w.number(e.Subtitles)}
	kind, known := w.numbers[out]
	if !known {
		kind = w.kinds
		w.kinds++
		w.numbers[out] = kind
	}
	out.kind = kind
	return out
}

// prepared begins the work on a home.
func prepared(x *dossier.Index, k knowledge.Knowledge) *work {
	most := 0 // cells
	for _, p := range x.InUse {
		most += len(x.Reached(p))
	}
	w := &work{x: x, k: k, most: most, cells: make(map[cellKey]*Cell, most), decided: map[way][]decided{}, known: map[dossier.ID[dossier.Path]]*ends{}, numbers: map[any]int{}, mixes: map[dossier.ID[dossier.Folder]][]parts{},
		profiles: map[dossier.ID[dossier.Device]]*profile{}, recorded: map[dossier.ID[dossier.Device]]dossier.Decoding{}}
	var shared []*profile // one for each list of what is decoded
	sharedBy := func(p dossier.Decoding) *answers {
		n := slices.IndexFunc(shared, func(other *profile) bool {
			return slices.Equal(other.Entries, p.Entries) && slices.Equal(other.Complete, p.Complete)
		})
		if n < 0 {
			n = len(shared)
			shared = append(shared, &profile{Decoding: p, answers: &answers{}})
		}
		return shared[n].answers
	}
	for _, p := range w.x.Decodings {
		w.recorded[p.Device] = p
	}
	for _, v := range w.x.Devices {
		p := w.k.Profile(v, w.recorded[v.ID])
		w.profiles[v.ID] = &profile{Decoding: p, answers: sharedBy(p)}
		w.byRate = w.byRate || slices.ContainsFunc(p.Entries, func(d dossier.DecodingEntry) bool { return d.RateMbps > 0 })
	}
	for _, f := range w.x.Folders {
		mix := make([]parts, len(f.Mix))
		for i := range f.Mix {
			mix[i] = w.partsOf(&f.Mix[i])
		}
		w.mixes[f.ID] = mix
	}
	for _, v := range w.x.Devices {
		p := w.profiles[v.ID]
		if p.sounds, p.behind, p.shown = p.answers, nil, nil; len(w.x.ChainLinks) > 0 {
			w.chain(v.ID, p, w.x.ChainLinks)
		}
		if len(p.behind)+len(p.shown) > 0 {
			p.sounds = &answers{}
		}
	}
	return w
}

// shown is a link of a display chain whose best mode is recorded.
type shown struct {
	link dossier.ID[dossier.ChainLink]
	mode format.Mode
}

// mostLinks bounds how far a display chain is followed.
const mostLinks = 8

// chain takes up the devices behind a player that may decode its sound, with what reaches them, and the links that
// bound its picture.
func (w *work) chain(from dossier.ID[dossier.Device], into *profile, links []dossier.ChainLink) {
	type step struct {
		device  dossier.ID[dossier.Device]
		carries func(dossier.FormatEntry) bool
	}
	at := []step{{from, func(dossier.FormatEntry) bool { return true }}}
	for n := 0; n < len(at) && n < mostLinks; n++ {
		for _, c := range links {
			if c.From != at[n].device || slices.ContainsFunc(at, func(s step) bool { return s.device == c.To }) {
				continue
			}
			soFar := at[n].carries
			s := step{c.To, func(e dossier.FormatEntry) bool { return soFar(e) && carries(c, e) }}
			at = append(at, s)
			if p := w.profiles[c.To]; p != nil {
				into.behind = append(into.behind, link{s.carries, p})
			}
			// What leads on from a screen carries its sound; the picture is shown there.
			before, _ := w.x.Devices.Get(c.From)
			if m, _ := format.ReadMode(c.BestMode); m != (format.Mode{}) && !before.Is(dossier.RoleScreen) {
				into.shown = append(into.shown, shown{c.ID, m})
			}
		}
	}
}

// decodes asks once for each profile and each value of a part.
func (w *work) decodes(p *profile, part, value int, e *dossier.FormatEntry) *format.Result {
	at := p.answers
	if part == sounds {
		at = p.sounds
	}
	if value < len(at[part]) && at[part][value] != nil {
		return at[part][value]
	}
	r := format.Decodes(p.Decoding, formatParts[part], *e)
	if part == sounds && r.Verdict != format.Can {
		for _, l := range p.behind {
			if !l.carries(*e) {
				continue
			}
			if other := format.Decodes(l.profile.Decoding, formatParts[part], *e); format.Rank(other.Verdict) > format.Rank(r.Verdict) && other.Reason != format.NothingSaid {
				r = other
			}
		}
	}
	if short := value + 1 - len(at[part]); short > 0 {
		at[part] = append(at[part], make([]*format.Result, short)...)
	}
	at[part][value] = w.keep(r)
	return at[part][value]
}

// keep finds a place for a result, among many at once: there are thousands of them.
func (w *work) keep(r format.Result) *format.Result {
	if len(w.results) == cap(w.results) {
		w.results = make([]format.Result, 0, 256)
	}
	w.results = append(w.results, r)
	return &w.results[len(w.results)-1]
}

// lines finds places for the lines of a cell in the same way.
func (w *work) lines(n int) []*Line {
	if cap(w.room)-len(w.room) < n {
		w.room = make([]*Line, 0, max(n, 2048))
	}
	from := len(w.room)
	w.room = w.room[:from+n]
	return w.room[from : from+n : from+n]
}

// The parts of a file in formatParts.
const (
	containers = iota
	pictures
	sounds
	subtitles
)

var formatParts = [4]dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound, dossier.PartSubtitles}

// parts asks for all parts of an entry.
func (w *work) parts(p *profile, n parts, e *dossier.FormatEntry) results {
	return results{w.decodes(p, containers, n.container, e), w.decodes(p, pictures, n.picture, e), w.decodes(p, sounds, n.sound, e), w.decodes(p, subtitles, n.subtitles, e)}
}

// ends are what a cell depends on beside its folder: the source, the device and what the device decodes.
type ends struct {
	source  dossier.Source
	device  dossier.Device
	profile *profile
	number  int // in the order in which they were asked for
}

// ends returns those of a path; they must not be changed.
func (w *work) ends(p dossier.Path) *ends {
	e := w.known[p.ID]
	if e == nil {
		source, _ := w.x.Sources.Get(p.Source)
		device, _ := w.x.Devices.Get(p.Device)
		e = &ends{source, device, w.profiles[p.Device], len(w.known)}
		w.known[p.ID] = e
	}
	return e
}

// limit is the lower of the rate limits of both ends, 0 for none.
func (e *ends) limit() float64 { return lowest(e.source.RateCapMbps, e.device.RateCapMbps) }

// converts says what is converted on a path.
func (e *ends) converts(p dossier.Path) conversion {
	if kind := pathkind.Of(p.Kind); !kind.Can(pathkind.Convert) || p.Mode == dossier.FromFiles {
		return conversion{dossier.ConvertsNothing, ByPath}
	}
	return conversion{able: e.source.Converts, cannot: ByServer}
}

// cellKey holds everything that the contents of a cell depend on. Devices of the same model, and paths of the same kind,
// share them.
type cellKey struct {
	answers, sounds *answers
	folder          dossier.ID[dossier.Folder]
	how             conversion
	limit           float64
}

func (w *work) cell(p dossier.Path, e *ends, folder *dossier.Folder) Cell {
	key := cellKey{answers: e.profile.answers, sounds: e.profile.sounds, folder: folder.ID, how: e.converts(p), limit: e.limit()}
	same, known := w.cells[key]
	if !known {
		same = w.contents(e.profile, folder, key.how, key.limit)
		w.cells[key] = same
	}
	c := *same
	c.Device, c.Folder, c.Path = p.Device, folder.ID, p.ID
	return c
}

// lowest is the lower of two limits, of which 0 is none.
func lowest(a, b float64) float64 {
	if a == 0 || b > 0 && b < a {
		return b
	}
	return a
}

func (w *work) contents(profile *profile, folder *dossier.Folder, how conversion, limit float64) *Cell {
	c := &Cell{Of: make(map[Outcome]Share, 2), Lines: w.lines(len(folder.Mix))}
	mix, all := w.mixes[folder.ID], w.ofKinds(profile, how)
	known := 0
	var shares [7]Share
	var there [7]bool
	for i := range folder.Mix {
		e := &folder.Mix[i]
		l := &all[mix[i].kind].Line
		if limit > 0 { // what an entry needs is not part of its kind
			l = &Line{}
		}
		if l.Outcome == "" {
			w.decide(l, profile, mix[i], e, how, limit)
		}
		c.Lines[i] = l
		n := l.place
		there[n] = true
		s := &shares[n]
		s.Items, s.Hours = s.Items+e.Items, s.Hours+e.Hours
		known += e.Items
	}
	for i, o := range Outcomes {
		if there[i] {
			c.Of[o] = shares[i]
		}
	}
	c.Unread = max(0, folder.ItemsOnDisk-known)
	return c
}

// ofKinds returns what becomes of each kind of entry, as far as somebody asked.
func (w *work) ofKinds(p *profile, how conversion) []decided {
	key := way{answers: p.answers, sounds: p.sounds, how: how}
	if key == w.lastWay && len(w.lastAll) == w.kinds {
		return w.lastAll
	}
	all := w.decided[key]
	if len(all) < w.kinds {
		all = append(all, make([]decided, w.kinds-len(all))...)
		w.decided[key] = all
	}
	w.lastWay, w.lastAll = key, all
	return all
}

// decide says what becomes of an entry.
func (w *work) decide(l *Line, p *profile, n parts, e *dossier.FormatEntry, how conversion, limit float64) {
	found := w.parts(p, n, e)
	l.Subtitles = how.subtitles(found.subtitles.Verdict)
	l.Outcome, l.Cause, l.Decides = outcome(&found, how, e, limit)
	l.Evidence, l.place = l.Decides.Evidence, slices.Index(Outcomes, l.Outcome)
	if l.Outcome == PictureConverted {
		l.Mpx = conversionOf(*e, l)
	}
	for _, s := range p.shown {
		if lowers := s.mode.Lowers(*e); len(lowers) > 0 && l.Outcome != Unplayable {
			l.Lowered, l.Chain = lowers, s.link
			break
		}
	}
}

// better compares two paths to one folder: by what is best, and of that by hours, then items.
func better(a, b Cell) bool {
	for _, o := range Outcomes {
		if c := cmp.Or(cmp.Compare(a.Of[o].Hours, b.Of[o].Hours), cmp.Compare(a.Of[o].Items, b.Of[o].Items)); c != 0 {
			return c > 0
		}
	}
	return a.Path < b.Path
}

// conversion is what can be converted on a path, and what it is that cannot do more.
type conversion struct {
	able   dossier.Conversion
	cannot Cause
}

// subtitles says what becomes of those that a device shows or not.
func (c conversion) subtitles(v format.Verdict) Subtitles {
	switch {
	case v == format.Can:
		return ""
	case c.able == dossier.ConvertsAll:
		return SubtitlesBurntIn
	case v == format.Cannot && c.able != "":
		return SubtitlesNotShown
	}
	return SubtitlesNotKnown
}

// results are the answers for the parts of one entry.
type results struct{ container, picture, sound, subtitles *format.Result }

var (
	all      = []dossier.Conversion{dossier.ConvertsAll}
	soundToo = []dossier.Conversion{dossier.ConvertsSound, dossier.ConvertsAll}
	boxes    = []dossier.Conversion{dossier.ConvertsContainer, dossier.ConvertsSound, dossier.ConvertsAll}
)

// outcome says what becomes of an entry with these parts, where a rate limit is set or none (0).
func outcome(r *results, how conversion, e *dossier.FormatEntry, limit float64) (Outcome, Cause, *format.Result) {
	soundless := Silent
	if e.Video == "" {
		soundless = Unplayable
	}
	switch {
	case r.picture.Verdict == format.Cannot:
		return how.unless(all, PictureConverted, Unplayable, r.picture)
	case r.picture.Verdict == format.NotKnown:
		return NotKnown, ByRecord, r.picture
	case r.sound.Verdict == format.Cannot && slices.Contains(soundToo, how.able):
		return SoundConverted, ByAbility, r.sound
	case r.container.Verdict == format.Cannot && !slices.Contains(boxes, how.able):
		return how.unless(nil, "", Unplayable, r.container)
	case r.container.Verdict == format.NotKnown:
		return NotKnown, ByRecord, r.container
	case r.sound.Verdict == format.Cannot: // in its own container or in another one
		return how.unless(nil, "", soundless, r.sound)
	case r.sound.Verdict == format.NotKnown:
		return NotKnown, ByRecord, r.sound
	case r.container.Verdict == format.Cannot:
		return Repackaged, ByAbility, r.container
	case how.able == dossier.ConvertsAll && limit > 0 && above(limit, *e):
		return PictureConverted, BySetting, r.picture
	}
	weakest := r.container
	for _, one := range [...]*format.Result{r.picture, r.sound} {
		if one.Reason != format.NoSuchPart && one.Evidence != weakest.Evidence && format.Weight(one.Evidence) < format.Weight(weakest.Evidence) {
			weakest = one
		}
	}
	return AsIs, ByAbility, weakest
}

// above reports whether an entry needs more than a limit. A rate that is merely assumed from its class does not count.
func above(limit float64, e dossier.FormatEntry) bool {
	needed := demand.RateNeeded(e)
	return needed.Mbps > limit && needed.Known != dossier.KnownAssumed
}

// unless says what becomes of an entry that needs converting: one outcome if the server can do it, another if it cannot. If
// it is not recorded what the server converts, the outcome is not known.
func (c conversion) unless(able []dossier.Conversion, converted, otherwise Outcome, by *format.Result) (Outcome, Cause, *format.Result) {
	switch {
	case slices.Contains(able, c.able):
		return converted, ByAbility, by
	case c.able == "":
		return NotKnown, ByRecord, by
	}
	return otherwise, c.cannot, by
}

// plainReturn is what a plain or optical sound return carries beside stereo PCM.
var plainReturn = []dossier.SoundCodec{dossier.AC3, dossier.DCA}

func carries(c dossier.ChainLink, e dossier.FormatEntry) bool {
	switch c.SoundReturn {
	case dossier.SoundReturnNone:
		return false
	case dossier.SoundReturnPlain, dossier.SoundReturnOptical:
		return slices.Contains(plainReturn, e.Sound) && e.Channels <= 6
	}
	return true
}

// mostHelps bounds the changes that are listed.
const mostHelps = 20

// lifted is the answer for a part once its limit no longer applies.
var lifted = &format.Result{Verdict: format.Can, Reason: format.WithinLimits, Evidence: dossier.EvidenceAssumed}

// gain adds up what would play as it is if the limit of a device that decides were lifted: only where nothing else is in the way.
func (w *work) gain(gains map[dossier.ID[dossier.Device]][]*Help, c *Cell, p *profile, how conversion, folder *dossier.Folder) {
	if _, all := c.Of[AsIs]; all && len(c.Of) == 1 {
		return
	}
	mix, all := w.mixes[folder.ID], w.ofKinds(p, how)
	own := gains[c.Device] // few, so that looking through them is quicker than a map
	for i := range c.Lines {
		l := c.Lines[i]
		if l.Outcome == AsIs || l.Decides.Verdict == format.Can {
			continue
		}
		e := &folder.Mix[i]
		d := &all[mix[i].kind]
		if d.lifts == 0 {
			d.lifts = answerOf(w.lifts(p, mix[i], e, l.Decides.Part))
		}
		if d.lifts == no {
			continue
		}
		term := format.TermOf(e, l.Decides.Part)
		n := slices.IndexFunc(own, func(h *Help) bool {
			return h.Format == term && h.Part == l.Decides.Part && h.Limit == l.Decides.Limit
		})
		if n < 0 {
			n = len(own)
			own = append(own, &Help{Kind: HelpDecodes, Device: c.Device, Part: l.Decides.Part, Format: term, Limit: l.Decides.Limit, Needed: l.Decides.Needed})
			gains[c.Device] = own
		}
		h := own[n]
		h.Gained.Items, h.Gained.Hours = h.Gained.Items+e.Items, h.Gained.Hours+e.Hours
	}
}

// lifts reports whether an entry would play as it is if what decides about that part were lifted.
func (w *work) lifts(p *profile, n parts, e *dossier.FormatEntry, part dossier.FormatPart) bool {
	r := w.parts(p, n, e)
	r.subtitles = lifted
	switch part {
	case dossier.PartContainer:
		r.container = lifted
	case dossier.PartVideo:
		r.picture = lifted
	case dossier.PartSound:
		r.sound = lifted
	}
	o, _, _ := outcome(&r, conversion{able: dossier.ConvertsNothing}, e, 0)
	return o == AsIs
}

// changes lists what firmware and rate limits would gain: each is considered alone.
func (w *work) changes(cells []Cell) (out []Help) {
	for _, v := range w.x.Devices {
		if to := w.k.OfFirmware(v); to.Older == knowledge.Surely {
			after := w.withFirmware(v, to.Newest)
			out = append(out, Help{Kind: HelpFirmware, Device: v.ID, Firmware: to.Newest, By: to.Source, Gained: w.gained(cells, func(e *ends) bool {
				e.profile = after
				return e.device.ID == v.ID
			})})
		}
		if v.RateCapMbps > 0 {
			out = append(out, Help{Kind: HelpRateLimit, Device: v.ID, Gained: w.gained(cells, func(e *ends) bool {
				e.device.RateCapMbps = 0
				return e.device.ID == v.ID
			})})
		}
	}
	for _, s := range w.x.Sources {
		if s.RateCapMbps > 0 {
			out = append(out, Help{Kind: HelpRateLimit, Device: s.Device, Source: s.ID, Gained: w.gained(cells, func(e *ends) bool {
				e.source.RateCapMbps = 0
				return e.source.ID == s.ID
			})})
		}
	}
	for n, c := range w.x.ChainLinks {
		if c.SoundReturn == "" || c.SoundReturn == dossier.SoundReturnEnhanced {
			continue
		}
		links := slices.Clone(w.x.ChainLinks)
		links[n].SoundReturn = dossier.SoundReturnEnhanced
		after := map[dossier.ID[dossier.Device]]*profile{}
		for id, p := range w.profiles {
			if len(p.behind) > 0 {
				after[id] = &profile{Decoding: p.Decoding, answers: p.answers, sounds: &answers{}}
				w.chain(id, after[id], links)
			}
		}
		out = append(out, Help{Kind: HelpSoundReturn, Device: c.From, To: c.To, Gained: w.gained(cells, func(e *ends) bool {
			p := after[e.device.ID]
			if p != nil {
				e.profile = p
			}
			return p != nil
		})})
	}
	return out
}

// otherSubtitles lists the devices that show other subtitles of films themselves than the first ones.
func (w *work) otherSubtitles(cells []Cell) (out []Help) {
	gained := map[dossier.ID[dossier.Device]]Share{}
	folders := make(map[dossier.ID[dossier.Folder]]*dossier.Folder, len(w.x.Folders))
	for i := range w.x.Folders {
		folders[w.x.Folders[i].ID] = &w.x.Folders[i]
	}
	for n := range cells {
		c := &cells[n]
		folder := folders[c.Folder]
		for i, l := range c.Lines {
			if len(folder.Mix[i].OtherSubtitles) == 0 || l.Subtitles != SubtitlesBurntIn && l.Subtitles != SubtitlesNotShown || l.Outcome == Unplayable || l.Outcome == NotKnown {
				continue
			}
			e := folder.Mix[i]
			if slices.ContainsFunc(e.OtherSubtitles, func(other dossier.SubtitleForm) bool {
				e.Subtitles = other
				return format.Decodes(w.profiles[c.Device].Decoding, dossier.PartSubtitles, e).Verdict == format.Can
			}) {
				g := gained[c.Device]
				gained[c.Device] = Share{Items: g.Items + e.Items, Hours: g.Hours + e.Hours}
			}
		}
	}
	for device, g := range gained {
		out = append(out, Help{Kind: HelpSubtitles, Device: device, Gained: g})
	}
	return out
}

// withFirmware is what a device would decode with another firmware. That it does not decode something was found with the old
// firmware and is ignored; what it decodes is assumed to stay.
func (w *work) withFirmware(v dossier.Device, version string) *profile {
	v.Firmware = version
	recorded := w.recorded[v.ID]
	recorded.Complete = nil
	recorded.Entries = slices.DeleteFunc(slices.Clone(recorded.Entries), func(e dossier.DecodingEntry) bool { return e.Able == dossier.No })
	now := w.profiles[v.ID]
	return &profile{Decoding: w.k.Profile(v, recorded), answers: &answers{}, sounds: &answers{}, behind: now.behind, shown: now.shown}
}

// gained is how much more would play as it is after a change of the ends; change reports whether it concerns these.
func (w *work) gained(cells []Cell, change func(*ends) bool) (out Share) {
	for i := range cells {
		c := &cells[i]
		path, _ := w.x.Paths.Get(c.Path)
		e := *w.ends(path)
		if !change(&e) {
			continue
		}
		folder, _ := w.x.Folders.Get(c.Folder)
		after := w.cell(path, &e, &folder)
		out.Items += max(0, after.Of[AsIs].Items-c.Of[AsIs].Items)
		out.Hours += max(0, after.Of[AsIs].Hours-c.Of[AsIs].Hours)
	}
	return out
}

func values(gains map[dossier.ID[dossier.Device]][]*Help) (out []Help) {
	for _, own := range gains {
		for _, h := range own {
			out = append(out, *h)
		}
	}
	return out
}

// ranked returns the changes that gain something, those that gain most hours first. Other subtitles come last, as the films
// play without them.
func ranked(all []Help) []Help {
	out := slices.DeleteFunc(all, func(h Help) bool { return h.Gained == (Share{}) })
	order := []HelpKind{HelpRateLimit, HelpSoundReturn, HelpFirmware, HelpDecodes, HelpSubtitles} // of equal gain, what costs least
	slices.SortFunc(out, func(a, b Help) int {
		if last := a.Kind == HelpSubtitles; last != (b.Kind == HelpSubtitles) {
			return map[bool]int{true: 1, false: -1}[last]
		}
		return cmp.Or(cmp.Compare(b.Gained.Hours, a.Gained.Hours), cmp.Compare(b.Gained.Items, a.Gained.Items), cmp.Compare(slices.Index(order, a.Kind), slices.Index(order, b.Kind)),
			cmp.Compare(a.Device, b.Device), cmp.Compare(a.To, b.To), cmp.Compare(a.Source, b.Source), cmp.Compare(a.Part, b.Part), cmp.Compare(a.Format, b.Format), cmp.Compare(a.Limit, b.Limit))
	})
	return out[:min(len(out), mostHelps)]
}
