package media

import (
	"encoding/binary"
	"math"
	"math/bits"
	"slices"
	"strings"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/mpeg4audio"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/format"
)

// Elements of EBML (RFC 8794) and Matroska (RFC 9559) by their ids.
const (
	idEBML, idDocType                                                        = 0x1a45dfa3, 0x4282
	idSegment, idSeekHead, idSeek, idSeekID, idSeekPosition                  = 0x18538067, 0x114d9b74, 0x4dbb, 0x53ab, 0x53ac
	idInfo, idTimestampScale, idDuration                                     = 0x1549a966, 0x2ad7b1, 0x4489
	idTracks, idTrackEntry, idTrackNumber, idTrackType                       = 0x1654ae6b, 0xae, 0xd7, 0x83
	idFlagDefault, idDefaultDuration, idLanguage, idLanguageBCP47            = 0x88, 0x23e383, 0x22b59c, 0x22b59d
	idCodecID, idCodecPrivate, idEncodings, idEncoding, idEncryption         = 0x86, 0x63a2, 0x6d80, 0x6240, 0x5035
	idVideo, idPixelWidth, idPixelHeight, idFlagInterlaced                   = 0xe0, 0xb0, 0xba, 0x9a
	idColour, idTransfer, idBitsPerChannel                                   = 0x55b0, 0x55ba, 0x55b2
	idAudio, idSamplingFrequency, idOutputFrequency, idChannels, idBitDepth  = 0xe1, 0xb5, 0x78b5, 0x9f, 0x6264
	idAdditionMapping, idAdditionType, idAdditionData                        = 0x41e4, 0x41e7, 0x41ed
	idCues, idCuePoint, idCueTime, idCueTrackPositions, idCueClusterPosition = 0x1c53bb6b, 0xbb, 0xb3, 0xb7, 0xf1
	idCluster, idTimestamp, idSimpleBlock, idBlockGroup, idBlock             = 0x1f43b675, 0xe7, 0xa3, 0xa0, 0xa1
	idAttachments, idChapters, idTags, typeDvcC, typeDvvC                    = 0x1941a469, 0x1043a770, 0x1254c367, 0x64766343, 0x64767643
)

type element struct {
	id        uint64
	body, end int64
	open      bool // its size is not known
}

// elements visits the elements between two places.
func (w *window) elements(from, to int64, visit func(e element, cut bool) error) error {
	for n := 0; from+2 <= to; n++ {
		if n >= mostBoxes*50 {
			return damaged("too many elements")
		}
		e, err := w.element(from, to)
		if err != nil {
			return err
		}
		cut := !e.open && e.end > to
		e.end = min(e.end, to)
		if err := visit(e, cut); err != nil {
			return err
		}
		from = e.end
	}
	return nil
}

func (w *window) element(from, to int64) (element, error) {
	h, err := w.upTo(from, 12)
	if err != nil {
		return element{}, err
	}
	idLength := bits.LeadingZeros8(h[0]) + 1
	if idLength > 4 || idLength >= len(h) {
		return element{}, damaged("what should be an element is none")
	}
	e := element{}
	for _, b := range h[:idLength] {
		e.id = e.id<<8 | uint64(b)
	}
	length := bits.LeadingZeros8(h[idLength]) + 1
	if length > 8 || idLength+length > len(h) {
		return element{}, damaged("an element without a size")
	}
	size, all := uint64(h[idLength])&(1<<(8-length)-1), uint64(1)<<(7*length)-1
	for _, b := range h[idLength+1 : idLength+length] {
		size = size<<8 | uint64(b)
	}
	e.body = from + int64(idLength+length)
	if size == all {
		e.end, e.open = to, true
		return e, nil
	}
	if size > math.MaxInt64-uint64(e.body) {
		return element{}, damaged("an element larger than any file")
	}
	e.end = e.body + int64(size)
	return e, nil
}

func (w *window) number(e element) (uint64, error) {
	b, err := w.bytes(e.body, int(min(e.end-e.body, 8)))
	var n uint64
	for _, x := range b {
		n = n<<8 | uint64(x)
	}
	return n, err
}

func (w *window) float(e element) (float64, error) {
	b, err := w.bytes(e.body, int(min(e.end-e.body, 8)))
	switch len(b) {
	case 4:
		return float64(math.Float32frombits(binary.BigEndian.Uint32(b))), err
	case 8:
		return math.Float64frombits(binary.BigEndian.Uint64(b)), err
	}
	return 0, err
}

func (w *window) text(e element) (string, error) {
	b, err := w.bytes(e.body, int(min(e.end-e.body, 200)))
	return word(b), err
}

// segment is what is known of a Matroska segment while it is read.
type segment struct {
	element
	scale       float64 // seconds in a unit of its time stamps
	cues        int64   // where they are, 0 if that is not known
	cuesElement element // they themselves, if they stand before the clusters
	tracksAt    int64
	haveTracks  bool
	firstBlocks int64 // where its first cluster is
	videoTrack  uint64
}

// segment finds the segment of a file, and notes what the head before it says.
func (w *window) segment(f *File) (segment, error) {
	s := segment{scale: 1e-3}
	err := w.elements(0, w.size, func(e element, cut bool) error {
		switch e.id {
		case idEBML:
			return w.elements(e.body, e.end, func(c element, _ bool) error {
				if c.id != idDocType {
					return nil
				}
				t, err := w.text(c)
				if t == "webm" {
					f.Format.Container = dossier.WebM
				}
				return err
			})
		case idSegment:
			s.element = e
			f.Cut = cut
			return errFound
		}
		return nil
	})
	if err != nil && err != errFound {
		return s, err
	}
	if s.body == 0 {
		f.Cut = true
		return s, ErrNoHead
	}
	return s, nil
}

func readMatroska(w *window, f *File) error {
	f.Format.Container = dossier.Matroska
	s, err := w.segment(f)
	if err != nil {
		return err
	}
	if err := w.segmentHead(&s, f); err != nil {
		return err
	}
	if !s.haveTracks && s.tracksAt > 0 && s.tracksAt < s.end {
		if e, err := w.element(s.tracksAt, s.end); err == nil && e.id == idTracks {
			if err := w.tracks(e, &s, f); err != nil {
				return err
			}
			s.haveTracks = true
		}
	}
	if !s.haveTracks {
		f.Cut = true
		return ErrNoHead
	}
	if wantsFrame(f.Format) && s.firstBlocks > 0 {
		if b := w.firstBlock(&s, s.videoTrack); b != nil {
			firstFrame(&f.Format, b)
			transfer(&f.Format, transferUnspecified)
		}
	}
	if f.Format.Video != "" && f.Format.FrameRate == 0 && s.firstBlocks > 0 {
		rate(&f.Format, rateOfTimes(w.blockTimes(&s, s.videoTrack), s.scale))
	}
	if s.cuesElement.id == 0 && s.cues > 0 && s.cues < s.end {
		if e, err := w.element(s.cues, s.end); err == nil && e.id == idCues {
			s.cuesElement = e
		}
	}
	if s.cuesElement.id != 0 && !f.Cut {
		f.Rates = w.cues(&s, f.Seconds)
	}
	return nil
}

// segmentHead reads what stands before the first cluster, and notes where the rest is.
func (w *window) segmentHead(s *segment, f *File) error {
	err := w.elements(s.body, s.end, func(e element, _ bool) error {
		switch e.id {
		case idSeekHead:
			return w.elements(e.body, e.end, func(c element, _ bool) error { return w.seek(c, s) })
		case idInfo:
			var length float64
			err := w.elements(e.body, e.end, func(c element, _ bool) (err error) {
				switch c.id {
				case idTimestampScale:
					var n uint64
					if n, err = w.number(c); n > 0 {
						s.scale = float64(n) / 1e9
					}
				case idDuration:
					length, err = w.float(c)
				}
				return err
			})
			f.Seconds = length * s.scale
			return err
		case idTracks:
			s.haveTracks = true
			return w.tracks(e, s, f)
		case idCues:
			s.cuesElement = e
		case idCluster:
			s.firstBlocks = e.body
			return errTooMuch
		}
		return nil
	})
	if err == errTooMuch {
		return nil
	}
	return err
}

func (w *window) seek(c element, s *segment) error {
	if c.id != idSeek {
		return nil
	}
	var id, position uint64
	err := w.elements(c.body, c.end, func(x element, _ bool) (err error) {
		switch x.id {
		case idSeekID:
			id, err = w.number(x)
		case idSeekPosition:
			position, err = w.number(x)
		}
		return err
	})
	if position > uint64(s.end-s.body) {
		return err
	}
	switch id {
	case idCues:
		s.cues = s.body + int64(position)
	case idTracks:
		s.tracksAt = s.body + int64(position)
	}
	return err
}

func (w *window) tracks(e element, s *segment, f *File) error {
	var all []track
	err := w.elements(e.body, e.end, func(c element, _ bool) error {
		if c.id != idTrackEntry {
			return nil
		}
		if len(all) >= mostTracks {
			return damaged("too many tracks")
		}
		t, number, err := w.trackEntry(c)
		if t.place = len(all); t.kind == dossier.PartVideo && s.videoTrack == 0 {
			s.videoTrack = number
		}
		if t.kind != "" {
			all = append(all, t)
		}
		return err
	})
	f.put(all)
	return err
}

func (w *window) trackEntry(c element) (track, uint64, error) {
	t := track{byChoice: true, language: "eng"} // the defaults of RFC 9559
	var codec string
	var private []byte
	var kind, number uint64
	e := &t.entry
	colour, encrypted := transferUnspecified, false
	err := w.elements(c.body, c.end, func(x element, _ bool) (err error) {
		var n uint64
		switch x.id {
		case idTrackNumber:
			number, err = w.number(x)
		case idTrackType:
			kind, err = w.number(x)
		case idFlagDefault:
			n, err = w.number(x)
			t.byChoice = n != 0
		case idDefaultDuration:
			if n, err = w.number(x); n > 0 {
				rate(e, 1e9/float64(n))
			}
		case idLanguage:
			t.language, err = w.text(x)
		case idLanguageBCP47:
			t.language, err = w.text(x)
		case idCodecID:
			codec, err = w.text(x)
		case idCodecPrivate:
			private, err = w.copied(x.body, int(min(x.end-x.body, mostConfiguration)))
		case idVideo:
			colour, err = w.videoElement(x, e)
		case idAudio:
			err = w.audioElement(x, e)
		case idEncodings:
			encrypted, err = w.encrypted(x)
		case idAdditionMapping:
			err = w.addition(x, e)
		}
		return err
	})
	t.kind = map[uint64]dossier.FormatPart{1: dossier.PartVideo, 2: dossier.PartSound, 17: dossier.PartSubtitles}[kind]
	codecOf(t.kind, codec, private, e)
	if t.kind == dossier.PartVideo {
		transfer(e, colour)
	} else {
		e.FrameRate = 0
	}
	if encrypted && t.kind == dossier.PartVideo {
		e.Video = "encrypted"
	} else if encrypted && t.kind == dossier.PartSound {
		e.Sound = "encrypted"
	}
	return t, number, err
}

// block reads the head of a block (RFC 9559, 10.1): its track, its time in the cluster, and where its frame begins.
func (w *window) block(x element) (number uint64, at int16, body int64, err error) {
	h, err := w.bytes(x.body, int(min(x.end-x.body, 12)))
	if err != nil || len(h) == 0 {
		return 0, 0, 0, err
	}
	n := bits.LeadingZeros8(h[0]) + 1
	if n > 8 || len(h) < n+3 {
		return 0, 0, 0, damaged("a block without a head")
	}
	number = uint64(h[0]) & (1<<(8-n) - 1)
	for _, b := range h[1:n] {
		number = number<<8 | uint64(b)
	}
	return number, int16(binary.BigEndian.Uint16(h[n:])), x.body + int64(n) + 3, nil
}

// firstBlock returns the beginning of the first block of a track.
func (w *window) firstBlock(s *segment, of uint64) []byte {
	var out []byte
	look := func(x element) error {
		number, _, body, err := w.block(x)
		if err == nil && number == of {
			if out, err = w.copied(body, int(min(x.end-body, 4096))); err == nil {
				err = errFound
			}
		}
		return err
	}
	_ = w.elements(s.firstBlocks, s.end, func(x element, _ bool) error {
		switch x.id {
		case idSimpleBlock:
			return look(x)
		case idBlockGroup:
			return w.elements(x.body, x.end, func(y element, _ bool) error {
				if y.id != idBlock {
					return nil
				}
				return look(y)
			})
		}
		return nil
	})
	return out
}

// mostTimes is how many frames the frame rate is taken from, where no track says it.
const mostTimes = 30

// blockTimes returns when the first frames of a track are shown, in seconds, in the order in which they are stored.
func (w *window) blockTimes(s *segment, of uint64) []float64 {
	var out []float64
	var cluster uint64
	look := func(x element) error {
		number, at, _, err := w.block(x)
		if err == nil && number == of {
			if out = append(out, (float64(cluster)+float64(at))*s.scale); len(out) == mostTimes {
				err = errFound
			}
		}
		return err
	}
	var visit func(x element, _ bool) error
	visit = func(x element, _ bool) (err error) {
		switch x.id {
		case idTimestamp:
			cluster, err = w.number(x)
		case idSimpleBlock, idBlock:
			err = look(x)
		case idBlockGroup, idCluster:
			err = w.elements(x.body, x.end, visit)
		}
		return err
	}
	_ = w.elements(s.firstBlocks, s.end, visit)
	return out
}

// usualRates are the frame rates that films, television and screens have.
var usualRates = []float64{24000.0 / 1001, 24, 25, 30000.0 / 1001, 30, 48, 50, 60000.0 / 1001, 60, 100, 120000.0 / 1001, 120, 10, 12.5, 15}

// rateOfTimes finds the frame rate from the times at which frames are shown, which are rounded to a unit: the usual rate that
// fits them all, else their average where they lie evenly, else 0. Where the file goes on, the last ones are left out, as
// frames that are shown before them may be stored behind.
func rateOfTimes(times []float64, unit float64) float64 {
	slices.Sort(times)
	if len(times) == mostTimes {
		times = times[:mostTimes-5]
	}
	if len(times) < 4 {
		return 0
	}
	n := float64(len(times) - 1)
	each := (times[len(times)-1] - times[0]) / n
	best, off := 0.0, unit*1.01
	for _, r := range usualRates {
		worst := 0.0
		for i, t := range times {
			worst = max(worst, math.Abs(t-times[0]-float64(i)/r))
		}
		if worst < off {
			best, off = r, worst
		}
	}
	for i := 1; best == 0 && i < len(times); i++ {
		if step := times[i] - times[i-1]; math.Abs(step-each) > each/5+unit {
			return 0
		}
	}
	if best == 0 && each > 0 {
		best = 1 / each
	}
	return best
}

func (w *window) encrypted(x element) (yes bool, err error) {
	err = w.elements(x.body, x.end, func(c element, _ bool) error {
		if c.id != idEncoding {
			return nil
		}
		return w.elements(c.body, c.end, func(d element, _ bool) error {
			yes = yes || d.id == idEncryption
			return nil
		})
	})
	return yes, err
}

func (w *window) addition(x element, e *dossier.FormatEntry) error {
	var kind uint64
	var data []byte
	err := w.elements(x.body, x.end, func(c element, _ bool) (err error) {
		switch c.id {
		case idAdditionType:
			kind, err = w.number(c)
		case idAdditionData:
			data, err = w.copied(c.body, int(min(c.end-c.body, 64)))
		}
		return err
	})
	if kind == typeDvcC || kind == typeDvvC {
		dynamic(e, data)
	}
	return err
}

func (w *window) videoElement(v element, e *dossier.FormatEntry) (colour int, err error) {
	colour = transferUnspecified
	var width, height, n uint64
	err = w.elements(v.body, v.end, func(x element, _ bool) (err error) {
		switch x.id {
		case idPixelWidth:
			width, err = w.number(x)
		case idPixelHeight:
			height, err = w.number(x)
		case idFlagInterlaced:
			switch n, err = w.number(x); n {
			case 1:
				e.Interlaced = dossier.Yes
			case 2:
				e.Interlaced = dossier.No
			}
		case idColour:
			err = w.elements(x.body, x.end, func(y element, _ bool) (err error) {
				switch y.id {
				case idTransfer:
					n, err = w.number(y)
					colour = int(min(n, 255))
				case idBitsPerChannel:
					if n, err = w.number(y); n >= 8 && n <= 16 {
						e.BitDepth = int(n)
					}
				}
				return err
			})
		}
		return err
	})
	size(e, int(min(width, mostSide+1)), int(min(height, mostSide+1)))
	return colour, err
}

func (w *window) audioElement(a element, e *dossier.FormatEntry) error {
	hz, out := 8000.0, 0.0
	e.Channels = 1
	err := w.elements(a.body, a.end, func(x element, _ bool) (err error) {
		var n uint64
		switch x.id {
		case idSamplingFrequency:
			hz, err = w.float(x)
		case idOutputFrequency:
			out, err = w.float(x)
		case idChannels:
			n, err = w.number(x)
			e.Channels = int(min(n, 64))
		case idBitDepth:
			n, err = w.number(x)
			e.SoundBits = int(min(n, 64))
		}
		return err
	})
	if hz = max(hz, out); hz > 0 && hz < 1e6 {
		e.SampleRate = int(math.Round(hz))
	}
	return err
}

// codecOf sets the codec by its id in Matroska (the registry of RFC 9559, codec specifications) and reads the
// configuration of the decoder.
func codecOf(kind dossier.FormatPart, id string, private []byte, e *dossier.FormatEntry) {
	switch kind {
	case dossier.PartVideo:
		e.Video = dossier.VideoCodec(strings.TrimPrefix(id, "V_"))
		switch id {
		case "V_MPEG4/ISO/AVC":
			avcC(e, private)
		case "V_MPEGH/ISO/HEVC":
			hvcC(e, private)
		case "V_AV1":
			av1C(e, private)
		case "V_VP8":
			e.Video, e.BitDepth, e.Chroma, e.Interlaced = dossier.VP8, 8, dossier.Chroma420, dossier.No
		case "V_VP9":
			e.Video, e.Interlaced = dossier.VP9, dossier.No // it has no fields
			vp9Features(e, private)
		case "V_MPEG1":
			e.Video = dossier.MPEG1
			elementary(e, dossier.MPEG1, private)
		case "V_MPEG2":
			e.Video = dossier.MPEG2
			elementary(e, dossier.MPEG2, private)
		case "V_MPEG4/ISO/SP", "V_MPEG4/ISO/ASP", "V_MPEG4/ISO/AP":
			e.Video = dossier.MPEG4
			visual(e, private)
		case "V_THEORA":
			e.Video = dossier.Theora
		case "V_MJPEG":
			e.Video = dossier.MJPEG
		case "V_MS/VFW/FOURCC":
			if len(private) >= 20 {
				e.Video = fourCC(string(private[16:20]))
			}
		}
	case dossier.PartSound:
		base, _, _ := strings.Cut(id, "/")
		e.Sound = dossier.SoundCodec(strings.TrimPrefix(id, "A_"))
		switch {
		case id == "A_MPEG/L3":
			e.Sound = dossier.MP3
		case id == "A_MPEG/L2":
			e.Sound = dossier.MP2
		case id == "A_DTS/LOSSLESS":
			e.Sound = dossier.DCALossless
		case base == "A_AAC":
			e.Sound = dossier.AAC
			var c mpeg4audio.AudioSpecificConfig
			if len(private) > 0 && c.Unmarshal(private) == nil {
				aacConfig(e, &c)
			}
			if strings.HasSuffix(id, "/SBR") {
				e.Sound = dossier.HEAAC
			}
		default:
			known := map[string]dossier.SoundCodec{"A_AC3": dossier.AC3, "A_EAC3": dossier.EAC3, "A_TRUEHD": dossier.MLP, "A_MLP": dossier.MLP, "A_DTS": dossier.DCA, "A_FLAC": dossier.FLAC,
				"A_OPUS": dossier.Opus, "A_VORBIS": dossier.Vorbis, "A_PCM": dossier.PCM, "A_ALAC": dossier.ALAC}
			if c, ok := known[base]; ok {
				e.Sound = c
			}
		}
		if e.Sound == dossier.FLAC && len(private) >= 8+18 {
			streamInfo(e, private[8:])
		}
		if !slices.Contains([]dossier.SoundCodec{dossier.PCM, dossier.FLAC, dossier.ALAC}, e.Sound) {
			e.SoundBits = 0
		}
	case dossier.PartSubtitles:
		known := map[string]dossier.SubtitleForm{"S_TEXT/UTF8": dossier.SubRip, "S_TEXT/ASCII": dossier.SubRip, "S_TEXT/ASS": dossier.SubStation, "S_TEXT/SSA": dossier.SubStation, "S_ASS": dossier.SubStation, "S_SSA": dossier.SubStation,
			"S_TEXT/WEBVTT": dossier.WebVTT, "D_WEBVTT/SUBTITLES": dossier.WebVTT, "S_VOBSUB": dossier.DVDSubpicture, "S_HDMV/PGS": dossier.BDPresentation, "S_HDMV/TEXTST": dossier.SubtitleText, "S_DVBSUB": dossier.DVBSubtitle, "S_TTML": dossier.TTML}
		e.Subtitles = dossier.SubtitleForm(strings.TrimPrefix(id, "S_"))
		if form, ok := known[id]; ok {
			e.Subtitles = form
		}
	}
}

// vp9Features reads the features that WebM keeps with a track of VP9: profile, level, bit depth, sampling.
func vp9Features(e *dossier.FormatEntry, b []byte) {
	for len(b) >= 3 && b[1] == 1 {
		switch v := b[2]; b[0] {
		case 1:
			if v <= 3 {
				e.Profile = dossier.VideoProfile("profile-" + string('0'+rune(v)))
			}
		case 2:
			if d, ok := format.Codec("vp09.00." + two(int(v))); ok {
				e.Level = d.Level
			}
		case 3:
			e.BitDepth = int(v)
		case 4:
			if v <= 3 {
				e.Chroma = []dossier.Chroma{dossier.Chroma420, dossier.Chroma420, dossier.Chroma422, dossier.Chroma444}[v]
			}
		}
		b = b[3:]
	}
}

// fourCC is the codec of the four letters that AVI and its kin name it by.
func fourCC(cc string) dossier.VideoCodec {
	switch strings.ToUpper(cc) {
	case "H264", "X264", "AVC1", "DAVC", "VSSH":
		return dossier.H264
	case "HEVC", "H265", "X265", "HVC1", "HEV1":
		return dossier.HEVC
	case "XVID", "DIVX", "DX50", "FMP4", "MP4V", "M4S2", "MP4S", "3IV2":
		return dossier.MPEG4
	case "MPG2", "MPEG":
		return dossier.MPEG2
	case "MPG1":
		return dossier.MPEG1
	case "MJPG", "JPEG", "AVRN", "DMB1":
		return dossier.MJPEG
	case "WVC1", "WMV3":
		return dossier.VC1
	case "VP80":
		return dossier.VP8
	case "VP90":
		return dossier.VP9
	case "AV01":
		return dossier.AV1
	case "DVSD", "DV25", "DV50":
		return dossier.DV
	}
	return dossier.VideoCodec(strings.TrimSpace(word([]byte(cc))))
}

// mostCues bounds the cue points that are used.
const mostCues = 200000

// cues reads where in the file which time is: the bytes between two cue points are needed at the first of them,
// or later, so that a need worked out from them is never too low.
func (w *window) cues(s *segment, seconds float64) []demand.Stretch {
	type point struct {
		at    float64
		where int64
	}
	var points []point
	e := s.cuesElement
	err := w.elements(e.body, min(e.end, s.end), func(c element, _ bool) error {
		if c.id != idCuePoint {
			return nil
		}
		if len(points) >= mostCues {
			return damaged("too many cue points")
		}
		var p point
		if err := w.elements(c.body, c.end, func(x element, _ bool) (err error) {
			var n uint64
			switch x.id {
			case idCueTime:
				n, err = w.number(x)
				p.at = float64(n) * s.scale
			case idCueTrackPositions:
				err = w.elements(x.body, x.end, func(y element, _ bool) (err error) {
					if y.id == idCueClusterPosition {
						n, err = w.number(y)
						p.where = s.body + int64(min(n, math.MaxInt32<<16))
					}
					return err
				})
			}
			return err
		}); err != nil {
			return err
		}
		points = append(points, p)
		return nil
	})
	if err != nil || len(points) < 2 {
		return nil
	}
	slices.SortFunc(points, func(a, b point) int { return int(max(min(a.where-b.where, 1), -1)) })
	var list []demand.Stretch
	for i, p := range points {
		end := s.end
		if s.cues > p.where {
			end = min(s.cues, s.end) // they stand behind the clusters
		}
		if i+1 < len(points) {
			end = points[i+1].where
		}
		if end > p.where && p.at <= seconds+1 {
			list = append(list, demand.Stretch{At: p.at, Bits: float64(end-p.where) * 8})
		}
	}
	return list
}
