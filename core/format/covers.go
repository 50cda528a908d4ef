package format

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"

	"kaiku/core/dossier"
)

// Verdict says whether a device decodes a part of a file.
type Verdict string

// Verdicts. What is not known may turn out to be either of the others.
const (
	Cannot   Verdict = "cannot"
	NotKnown Verdict = "not-known"
	Can      Verdict = "can"
)

// Values lists the verdicts.
func (Verdict) Values() []string { return []string{string(Can), string(NotKnown), string(Cannot)} }

// Reason says on what a verdict rests.
type Reason string

// Reasons.
const (
	WithinLimits Reason = "within-limits"
	BeyondLimit  Reason = "beyond-limit"    // Limit, Needed and Allowed say which
	LimitUnknown Reason = "limit-not-known" // the entry gives no limit, and the file goes beyond a plain form
	Refused      Reason = "refused"         // an entry says that it cannot
	MaybeRefused Reason = "perhaps-refused" // an entry says that it cannot decode what the file may be
	NotListed    Reason = "not-listed"      // the list is complete, and this is not on it
	NothingSaid  Reason = "nothing-recorded"
	UnknownTerm  Reason = "unknown-term" // the file has a form that is not in the vocabulary
	NoSuchPart   Reason = "no-such-part" // the file has no such part
)

// Limit names a limit of a decoding entry, by its member.
type Limit string

// Result is the answer for one part of a file.
type Result struct {
	Part     dossier.FormatPart    `json:"part,omitzero"`
	Verdict  Verdict               `json:"verdict,omitzero"`
	Reason   Reason                `json:"reason,omitzero"`
	Evidence dossier.Evidence      `json:"evidence,omitzero"` // how it is known; assumed as soon as one limit had to be taken for granted
	Entry    dossier.DecodingEntry `json:"entry,omitzero"`    // the one that decided, if one did
	Limit    Limit                 `json:"limit,omitzero"`    // the one that is broken or not known
	Needed   string                `json:"needed,omitzero"`
	Allowed  string                `json:"allowed,omitzero"`
	Assumed  []Limit               `json:"assumed,omitzero"` // taken for granted, because the entry or the file does not say
}

// limit compares one value of a file with that of an entry; known is false if one of them is not in the vocabulary.
type limit struct {
	name   Limit
	part   dossier.FormatPart
	needed func(*dossier.FormatEntry) string
	limit  func(*dossier.DecodingEntry) string
	within func(c dossier.VideoCodec, needed, limit string) (in, known bool)
	plain  func(c dossier.VideoCodec) string // up to what it is taken for granted; "" for all
}

// limits are all limits, the more telling first. The plain form that a decoder is taken to decode
// where nothing more is said is 1920 x 1080 at 30 frames a second, progressive, 8 bits, 4:2:0, SDR;
// two channels at 48 kHz; of pictures that do not move 4096 x 4096, the largest of the guidelines (IEC 62481-2).
var limits = []limit{
	{"profile", dossier.PartVideo, func(e *dossier.FormatEntry) string { return string(e.Profile) }, func(d *dossier.DecodingEntry) string { return string(d.Profile) },
		func(c dossier.VideoCodec, needed, limit string) (bool, bool) {
			_, one := codecs[c].profiles[dossier.VideoProfile(needed)]
			_, two := codecs[c].profiles[dossier.VideoProfile(limit)]
			return Plays(c, dossier.VideoProfile(limit), dossier.VideoProfile(needed)), one && two
		}, func(c dossier.VideoCodec) string { return string(codecs[c].plain) }},
	{"bitDepth", dossier.PartVideo, func(e *dossier.FormatEntry) string { return whole(e.BitDepth) }, func(d *dossier.DecodingEntry) string { return whole(d.BitDepth) }, atMost, constant("8")},
	{"range", dossier.PartVideo, func(e *dossier.FormatEntry) string { return string(e.Range) }, func(d *dossier.DecodingEntry) string { return string(d.Range) }, shows, constant(string(dossier.SDR))},
	{"chroma", dossier.PartVideo, func(e *dossier.FormatEntry) string { return string(e.Chroma) }, func(d *dossier.DecodingEntry) string { return string(d.Chroma) }, placed(dossier.Chroma("").Terms()), constant(string(dossier.Chroma420))},
	{"level", dossier.PartVideo, func(e *dossier.FormatEntry) string { return e.Level }, func(d *dossier.DecodingEntry) string { return d.Level },
		func(c dossier.VideoCodec, needed, limit string) (bool, bool) {
			file, fileHigh, one := level(c, needed)
			most, mostHigh, two := level(c, limit)
			return file <= most && (mostHigh || !fileHigh), one && two
		}, func(c dossier.VideoCodec) string { return codecs[c].level }},
	{"width", dossier.PartVideo, func(e *dossier.FormatEntry) string { return whole(e.Width) }, func(d *dossier.DecodingEntry) string { return whole(d.Width) }, atMost, constant("1920")},
	{"height", dossier.PartVideo, func(e *dossier.FormatEntry) string { return whole(e.Height) }, func(d *dossier.DecodingEntry) string { return whole(d.Height) }, atMost, constant("1088")},
	{"frameRate", dossier.PartVideo, func(e *dossier.FormatEntry) string { return number(e.FrameRate) }, func(d *dossier.DecodingEntry) string { return number(d.FrameRate) }, frames, constant("30")},
	{"interlaced", dossier.PartVideo, func(e *dossier.FormatEntry) string { return string(e.Interlaced) }, func(d *dossier.DecodingEntry) string { return string(d.Interlaced) },
		func(_ dossier.VideoCodec, needed, limit string) (bool, bool) {
			return needed == string(dossier.No) || limit == string(dossier.Yes), true
		}, constant(string(dossier.No))},
	{"referenceFrames", dossier.PartVideo, func(e *dossier.FormatEntry) string { return whole(e.ReferenceFrames) }, func(d *dossier.DecodingEntry) string { return whole(d.ReferenceFrames) }, atMost, constant("4")},
	{"rateMbps", dossier.PartVideo, func(e *dossier.FormatEntry) string { return number(max(e.AverageMbps, e.PeakMbps)) }, func(d *dossier.DecodingEntry) string { return number(d.RateMbps) }, atMost, constant("")},
	{"width", dossier.PartContainer, func(e *dossier.FormatEntry) string { return still(e, e.Width) }, func(d *dossier.DecodingEntry) string { return whole(d.Width) }, atMost, constant("4096")},
	{"height", dossier.PartContainer, func(e *dossier.FormatEntry) string { return still(e, e.Height) }, func(d *dossier.DecodingEntry) string { return whole(d.Height) }, atMost, constant("4096")},
	{"channels", dossier.PartSound, func(e *dossier.FormatEntry) string { return whole(e.Channels) }, func(d *dossier.DecodingEntry) string { return whole(d.Channels) }, atMost, constant("2")},
	{"sampleRate", dossier.PartSound, func(e *dossier.FormatEntry) string { return whole(e.SampleRate) }, func(d *dossier.DecodingEntry) string { return whole(d.SampleRate) }, atMost, constant("48000")},
	{"soundBits", dossier.PartSound, func(e *dossier.FormatEntry) string { return whole(e.SoundBits) }, func(d *dossier.DecodingEntry) string { return whole(d.SoundBits) }, atMost, constant("16")},
}

// still returns a side of a picture that does not move; of films the limits of the video codec count.
func still(e *dossier.FormatEntry, side int) string {
	if e.Video != "" || e.Sound != "" {
		return ""
	}
	return whole(side)
}

func constant(s string) func(dossier.VideoCodec) string {
	return func(dossier.VideoCodec) string { return s }
}

func whole(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

func number(n float64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}

func atMost(_ dossier.VideoCodec, needed, limit string) (in, known bool) {
	return compare(needed, limit, 1)
}

// frames lets 30000/1001 frames a second and their roundings pass for what they are called.
func frames(_ dossier.VideoCodec, needed, limit string) (in, known bool) {
	return compare(needed, limit, 1.002)
}

func compare(needed, limit string, slack float64) (in, known bool) {
	n, err := strconv.ParseFloat(needed, 64)
	m, err2 := strconv.ParseFloat(limit, 64)
	return n <= m*slack, err == nil && err2 == nil
}

func placed(order []string) func(dossier.VideoCodec, string, string) (bool, bool) {
	return func(_ dossier.VideoCodec, needed, limit string) (in, known bool) {
		n, m := slices.Index(order, needed), slices.Index(order, limit)
		return n <= m, n >= 0 && m >= 0
	}
}

// shows reports whether a device of one dynamic range shows another as it is meant, or as the base
// layer has it: PQ with dynamic metadata has one that is PQ.
func shows(_ dossier.VideoCodec, needed, limit string) (in, known bool) {
	return slices.Contains(shownBy[dossier.DynamicRange(limit)], dossier.DynamicRange(needed)), slices.Contains(ranges, needed) && slices.Contains(ranges, limit)
}

var (
	ranges  = dossier.DynamicRange("").Terms()
	shownBy = map[dossier.DynamicRange][]dossier.DynamicRange{
		dossier.SDR: {dossier.SDR}, dossier.HLG: {dossier.SDR, dossier.HLG}, dossier.PQ: {dossier.SDR, dossier.PQ, dossier.PQDynamic},
		dossier.PQDynamic: {dossier.SDR, dossier.PQ, dossier.PQDynamic}, dossier.PQDynamicOnly: {dossier.SDR, dossier.PQ, dossier.PQDynamic, dossier.PQDynamicOnly},
	}
)

// Term returns the format of a part of a file, "" if the file has no such part, and whether it is in
// the vocabulary.
func Term(e dossier.FormatEntry, part dossier.FormatPart) (term dossier.FormatTerm, known bool) {
	term = TermOf(&e, part)
	return term, vocabulary[part][string(term)]
}

// TermOf returns the format of a part of a file, "" if the file has no such part.
func TermOf(e *dossier.FormatEntry, part dossier.FormatPart) dossier.FormatTerm {
	switch part {
	case dossier.PartVideo:
		return dossier.FormatTerm(e.Video)
	case dossier.PartSound:
		return dossier.FormatTerm(e.Sound)
	case dossier.PartSubtitles:
		return dossier.FormatTerm(e.Subtitles)
	}
	return dossier.FormatTerm(e.Container)
}

// vocabulary holds the terms of each part.
var vocabulary = map[dossier.FormatPart]map[string]bool{
	dossier.PartContainer: set(dossier.Container("")), dossier.PartVideo: set(dossier.VideoCodec("")), dossier.PartSound: set(dossier.SoundCodec("")), dossier.PartSubtitles: set(dossier.SubtitleForm("")),
}

func set(v dossier.Vocabulary) map[string]bool {
	out := map[string]bool{}
	for _, term := range v.Terms() {
		out[term] = true
	}
	return out
}

// codecOf returns the video codec that an entry is about, "" for one of another part.
func codecOf(d dossier.DecodingEntry) dossier.VideoCodec {
	if d.Part == dossier.PartVideo {
		return dossier.VideoCodec(d.Format)
	}
	return ""
}

// Covers says whether one entry, which says that the device can decode something, covers that part of
// a file. It is the only comparison of a format with an ability.
func Covers(d dossier.DecodingEntry, e dossier.FormatEntry) Result { return covers(&d, &e) }

// mostAssumed is room for all that is ever taken for granted of one part.
const mostAssumed = 8

func covers(d *dossier.DecodingEntry, e *dossier.FormatEntry) Result {
	r := Result{Part: d.Part, Verdict: Can, Reason: WithinLimits, Evidence: d.Evidence, Entry: *d}
	broken := func(v Verdict, why Reason, l *limit, needed, allowed string) {
		if r.Verdict == Can || r.Verdict == NotKnown && v == Cannot {
			r.Verdict, r.Reason, r.Limit, r.Needed, r.Allowed = v, why, l.name, needed, allowed
		}
	}
	assume := func(l *limit) {
		if r.Assumed == nil {
			r.Assumed = make([]Limit, 0, mostAssumed)
		}
		r.Assumed = append(r.Assumed, l.name)
	}
	video := codecOf(*d)
	for i := range limits {
		l := &limits[i]
		if l.part != d.Part {
			continue
		}
		needed, allowed := l.needed(e), l.limit(d)
		if needed == "" { // the file does not say: it is taken to be plain
			if l.plain(video) != "" && l.name != "referenceFrames" && l.name != "soundBits" && l.part != dossier.PartContainer {
				assume(l)
			}
			continue
		}
		if allowed == "" {
			plain := l.plain(video)
			if plain == "" {
				continue
			}
			if in, known := l.within(video, needed, plain); in && known {
				assume(l)
			} else {
				broken(NotKnown, LimitUnknown, l, needed, "")
			}
			continue
		}
		in, known := l.within(video, needed, allowed)
		switch {
		case !known:
			broken(NotKnown, UnknownTerm, l, needed, allowed)
		case !in:
			broken(Cannot, BeyondLimit, l, needed, allowed)
		}
	}
	if len(r.Assumed) > 0 && r.Verdict == Can {
		r.Evidence = dossier.EvidenceAssumed
	}
	return r
}

// refuses says whether an entry that says what a device cannot decode speaks of that part of a file:
// what it names is the least that fails.
func refuses(d *dossier.DecodingEntry, e *dossier.FormatEntry) Verdict {
	video := codecOf(*d)
	maybe := false
	for i := range limits {
		l := &limits[i]
		least := l.limit(d)
		if least == "" || l.part != d.Part {
			continue
		}
		needed := l.needed(e)
		if needed == "" {
			maybe = true
			continue
		}
		if l.name == "range" || l.name == "interlaced" {
			if needed != least {
				return Can
			}
			continue
		}
		reaches, known := l.within(video, least, needed)
		switch {
		case !known:
			maybe = true
		case !reaches:
			return Can
		}
	}
	if maybe {
		return NotKnown
	}
	return Cannot
}

// Weight orders evidence: the greater, the stronger.
func Weight(e dossier.Evidence) int { return len(evidence) - slices.Index(evidence, string(e)) }

// evidence is made once: it is asked for often.
var evidence = dossier.Evidence("").Values()

var verdicts = []Verdict{Cannot, NotKnown, Can}

// Rank orders verdicts: the greater, the better.
func Rank(v Verdict) int { return slices.Index(verdicts, v) }

// bare are containers that hold nothing but sound, or may: who decodes one of these codecs opens the
// container of a file without picture.
var bare = map[dossier.Container][]dossier.SoundCodec{
	dossier.MPEGAudio: {dossier.MP3, dossier.MP2}, dossier.ADTS: {dossier.AAC, dossier.HEAAC}, dossier.FLACFile: {dossier.FLAC}, dossier.Wave: {dossier.PCM},
	dossier.MP4: {dossier.AAC, dossier.HEAAC, dossier.ALAC}, dossier.Ogg: {dossier.Vorbis, dossier.Opus, dossier.FLAC},
}

// Decodes says whether a device with that profile decodes a part of a file. The stronger evidence
// decides; of equal evidence, what speaks against. It does not depend on the order of the entries, and
// an entry more that says what the device can decode never makes it worse.
func Decodes(p dossier.Decoding, part dossier.FormatPart, e dossier.FormatEntry) Result {
	term, known := Term(e, part)
	switch {
	case term == "":
		return Result{Part: part, Verdict: Can, Reason: NoSuchPart, Evidence: dossier.EvidenceProven}
	case !known:
		return Result{Part: part, Verdict: NotKnown, Reason: UnknownTerm, Evidence: dossier.EvidenceAssumed, Needed: string(term)}
	}
	var best, against Result
	var some, refused bool // whether there is a best, and one against
	for i := range p.Entries {
		d := &p.Entries[i]
		if d.Part != part || d.Format != term && !general(d, term) {
			continue
		}
		switch d.Able {
		case dossier.Yes:
			if r := covers(d, &e); !some || betterThan(&r, &best) {
				best, some = r, true
			}
		case dossier.No:
			r := Result{Part: part, Verdict: Cannot, Reason: Refused, Evidence: d.Evidence, Entry: *d}
			switch refuses(d, &e) {
			case NotKnown:
				r.Verdict, r.Reason = NotKnown, MaybeRefused
			case Can:
				continue
			}
			if !refused || worseThan(&r, &against) {
				against, refused = r, true
			}
		}
	}
	if !some && part == dossier.PartContainer && e.Video == "" && slices.Contains(bare[e.Container], e.Sound) {
		if r := Decodes(p, dossier.PartSound, e); r.Verdict == Can && r.Reason == WithinLimits {
			r.Part = part
			best, some = r, true
		}
	}
	switch {
	case some && best.Verdict == Can && (!refused || Weight(best.Evidence) > Weight(against.Evidence)):
		return best
	case refused && (!some || against.Verdict == Cannot || best.Verdict != Cannot):
		return against
	case some:
		return best
	case slices.Contains(p.Complete, part):
		return Result{Part: part, Verdict: Cannot, Reason: NotListed, Evidence: dossier.EvidenceDeclared, Needed: string(term)}
	}
	return Result{Part: part, Verdict: NotKnown, Reason: NothingSaid, Evidence: dossier.EvidenceAssumed, Needed: string(term)}
}

// general reports whether an entry speaks of all subtitles of a sort to which the form belongs.
func general(d *dossier.DecodingEntry, term dossier.FormatTerm) bool {
	if d.Part != dossier.PartSubtitles {
		return false
	}
	image, _ := ImageSubtitles(dossier.SubtitleForm(term))
	return d.Format == dossier.FormatTerm(dossier.SubtitleImage) && image
}

func betterThan(a, b *Result) bool {
	if c := cmp.Or(Rank(a.Verdict)-Rank(b.Verdict), Weight(a.Evidence)-Weight(b.Evidence), len(b.Assumed)-len(a.Assumed)); c != 0 {
		return c > 0
	}
	return fmt.Sprint(b.Entry) > fmt.Sprint(a.Entry)
}

func worseThan(a, b *Result) bool {
	if c := cmp.Or(Rank(b.Verdict)-Rank(a.Verdict), Weight(a.Evidence)-Weight(b.Evidence)); c != 0 {
		return c > 0
	}
	return fmt.Sprint(b.Entry) > fmt.Sprint(a.Entry)
}

// Contradictions returns the pairs of entries of a profile of which one says that the device can
// decode what the other says it cannot, by equal evidence or not.
func Contradictions(p dossier.Decoding) [][2]dossier.DecodingEntry {
	var out [][2]dossier.DecodingEntry
	for _, yes := range p.Entries {
		for _, no := range p.Entries {
			if yes.Able == dossier.Yes && no.Able == dossier.No && yes.Part == no.Part && yes.Format == no.Format && speaksOf(&yes, &no) {
				out = append(out, [2]dossier.DecodingEntry{yes, no})
			}
		}
	}
	return out
}

// speaksOf reports whether the least that one entry refuses is what the other says can be decoded.
func speaksOf(yes, no *dossier.DecodingEntry) bool {
	video := codecOf(*yes)
	for i := range limits {
		l := &limits[i]
		least := l.limit(no)
		if least == "" || l.part != yes.Part {
			continue
		}
		most := l.limit(yes)
		if most == "" {
			return false // the one that says more is the narrower statement, not a contradiction
		}
		if in, known := l.within(video, least, most); !in || !known {
			return false
		}
	}
	return true
}

// Limits lists the names of all limits.
func Limits() []Limit {
	var out []Limit
	for _, l := range limits {
		out = append(out, l.name)
	}
	return out
}
