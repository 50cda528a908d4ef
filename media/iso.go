package media

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/mpeg4audio"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/format"
)

// box is a part of an ISO base media file (ISO/IEC 14496-12, 4.2).
type box struct {
	kind      string
	body, end int64
}

// mostBoxes bounds the boxes of one level, and mostTracks the tracks.
const (
	mostBoxes  = 20000
	mostTracks = 200
)

// boxes visits the boxes between two offsets. A box that claims to reach beyond its parent is taken to end there, and
// reported as cut.
func (w *window) boxes(from, to int64, visit func(b box, cut bool) error) error {
	for n := 0; from+8 <= to; n++ {
		if n >= mostBoxes {
			return damaged("too many boxes")
		}
		h, err := w.bytes(from, 8)
		if err != nil {
			return err
		}
		length, kind, head := int64(binary.BigEndian.Uint32(h)), string(h[4:8]), int64(8)
		switch length {
		case 0:
			length = to - from
		case 1:
			if h, err = w.bytes(from, 16); err != nil {
				return err
			}
			length, head = int64(binary.BigEndian.Uint64(h[8:]))&math.MaxInt64, 16
		}
		if length < head {
			return damaged("a box without room for itself")
		}
		b := box{kind, from + head, to}
		cut := length > to-from
		if !cut {
			b.end = from + length
		}
		if err := visit(b, cut); err != nil {
			return err
		}
		from = b.end
	}
	return nil
}

// find returns the first box of a path below two places.
func (w *window) find(from, to int64, path ...string) (box, bool) {
	var found box
	_ = w.boxes(from, to, func(b box, _ bool) error {
		if b.kind == path[0] && found.kind == "" {
			found = b
			return errTooMuch
		}
		return nil
	})
	if found.kind == "" || len(path) == 1 {
		return found, found.kind != ""
	}
	return w.find(found.body, found.end, path[1:]...)
}

// inside returns up to n bytes of a box.
func (w *window) inside(b box, n int) ([]byte, error) {
	return w.copied(b.body, int(min(int64(n), b.end-b.body)))
}

// isoTrack is a track with what is to be known to place its bytes in time.
type isoTrack struct {
	track
	id            uint32
	scale, length float64 // units in a second; length in seconds
	stts, stsz    box
	samples       int
	chapters      []uint32 // ids of tracks that hold its chapters
}

func readISO(w *window, f *File) error {
	f.Format.Container = dossier.MP4
	var moov, meta box
	media, fragments := false, false
	var sidx box
	err := w.boxes(0, w.size, func(b box, cut bool) error {
		switch b.kind {
		case "ftyp":
			h, err := w.inside(b, 4)
			if err != nil {
				return err
			}
			f.Format.Container = brand(string(h))
		case "moov":
			moov = b
			if f.Cut = f.Cut || cut; cut {
				return damaged("its head is not whole")
			}
		case "meta":
			meta = b
		case "sidx":
			if sidx.kind == "" {
				sidx = b
			}
		case "moof":
			fragments = true
			if moov.kind != "" {
				return errTooMuch // the rest is read once the tracks are known
			}
		case "mdat":
			media = true
			f.Cut = f.Cut || cut
		}
		return nil
	})
	if err != nil && err != errTooMuch {
		if moov.kind == "" {
			return fmt.Errorf("%w: %w", ErrNoHead, err)
		}
	}
	if f.Format.Container == dossier.HEIF {
		if meta.kind != "" {
			w.heif(meta, f)
		}
		return nil
	}
	if moov.kind == "" {
		if media || fragments || f.Cut {
			f.Cut = true
			return ErrNoHead
		}
		f.Format.Container = ""
		return ErrNotMedia
	}
	_, fr, err := w.moov(moov, f)
	if err != nil {
		return err
	}
	if sidx.kind != "" {
		if err := w.sidx(sidx, f); err != nil {
			return err
		}
	}
	if fragments {
		return w.fragments(fr, f)
	}
	return nil
}

// fragments reads the fragments as far as the head may be read; their index tells the rest, if there is one.
func (w *window) fragments(fr *fragmented, f *File) error {
	var list []demand.Stretch
	err := w.moofs(fr, &list, func(cut bool) { f.Cut = f.Cut || cut })
	whole := err == nil
	fr.tell(f, whole)
	if whole {
		f.Rates = list
	}
	if errors.Is(err, errTooMuch) {
		return nil // an index may have told the rest; what it did not tell is not known
	}
	return err
}

// brand returns the container by the major brand (ISO/IEC 14496-12, 4.3; the registry at MP4RA).
func brand(b string) dossier.Container {
	switch {
	case b == "qt  ":
		return dossier.QuickTime
	case slices.Contains([]string{"heic", "heix", "heim", "heis", "hevc", "hevx", "mif1", "msf1", "avif", "avis"}, b):
		return dossier.HEIF
	}
	return dossier.MP4
}

// heif reads the size of the largest picture of a still: ispe of ISO/IEC 23008-12, 6.5.3.
func (w *window) heif(meta box, f *File) {
	props, ok := w.find(meta.body+4, meta.end, "iprp", "ipco")
	if !ok {
		return
	}
	_ = w.boxes(props.body, props.end, func(b box, _ bool) error {
		if h, err := w.inside(b, 12); b.kind == "ispe" && err == nil && len(h) == 12 {
			if x, y := int(binary.BigEndian.Uint32(h[4:])), int(binary.BigEndian.Uint32(h[8:])); x > f.Format.Width {
				size(&f.Format, x, y)
			}
		}
		return nil
	})
}

// moov reads the tracks of a file and writes them into its format.
func (w *window) moov(moov box, f *File) ([]isoTrack, *fragmented, error) {
	var all []track
	var tracks []isoTrack
	fr := &fragmented{tracks: map[uint32]*fragmentTrack{}}
	var mvex box
	err := w.boxes(moov.body, moov.end, func(b box, _ bool) error {
		switch b.kind {
		case "mvhd":
			h, err := w.inside(b, 32)
			if err != nil {
				return err
			}
			if scale, length := timesIn(h, 12); scale > 0 {
				f.Seconds = length / scale
			}
		case "trak":
			if len(tracks) >= mostTracks {
				return damaged("too many tracks")
			}
			t, err := w.trak(b)
			if err != nil {
				return err
			}
			tracks = append(tracks, t)
			f.Seconds = max(f.Seconds, t.length)
		case "mvex":
			mvex = b
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	// What holds the names or the pictures of chapters is written as text or as a picture, and is neither subtitles nor film.
	chapters := map[uint32]bool{}
	for _, t := range tracks {
		for _, id := range t.chapters {
			chapters[id] = true
		}
	}
	for i := range tracks {
		t := &tracks[i]
		if chapters[t.id] {
			t.kind = ""
		}
		fr.tracks[t.id] = &fragmentTrack{scale: t.scale, video: t.kind == dossier.PartVideo}
		if t.place = len(all); t.kind != "" {
			all = append(all, t.track)
		}
	}
	if fr.extended = mvex.kind != ""; fr.extended {
		w.defaults(mvex, fr)
	}
	f.put(all)
	return tracks, fr, nil
}

// timesIn reads scale and length of mvhd and mdhd, in their 32 and 64 bit forms; at is where they begin in the first.
func timesIn(h []byte, at int) (scale, length float64) {
	switch {
	case len(h) >= 32 && h[0] == 1:
		return float64(binary.BigEndian.Uint32(h[at+8:])), lengthOf(binary.BigEndian.Uint64(h[at+12:]), math.MaxUint64)
	case len(h) >= at+8 && h[0] == 0:
		return float64(binary.BigEndian.Uint32(h[at:])), lengthOf(uint64(binary.BigEndian.Uint32(h[at+4:])), math.MaxUint32)
	}
	return 0, 0
}

// lengthOf reads a length of which all ones mean that it is not known.
func lengthOf(n, unknown uint64) float64 {
	if n == unknown {
		return 0
	}
	return float64(n)
}

func (w *window) trak(trak box) (isoTrack, error) {
	var t isoTrack
	if tkhd, ok := w.find(trak.body, trak.end, "tkhd"); ok {
		if h, err := w.inside(tkhd, 24); err == nil && len(h) == 24 {
			t.byChoice = h[3]&1 != 0 // enabled
			if t.id = binary.BigEndian.Uint32(h[12:]); h[0] == 1 {
				t.id = binary.BigEndian.Uint32(h[20:])
			}
		}
	}
	// A reference to chapters: track ids in a row (ISO/IEC 14496-12, 8.3.3; the type chap is registered at MP4RA).
	if chap, ok := w.find(trak.body, trak.end, "tref", "chap"); ok {
		if h, err := w.inside(chap, 4*mostTracks); err == nil {
			for ; len(h) >= 4; h = h[4:] {
				t.chapters = append(t.chapters, binary.BigEndian.Uint32(h))
			}
		}
	}
	mdia, ok := w.find(trak.body, trak.end, "mdia")
	if !ok {
		return t, nil
	}
	var handler string
	var stbl box
	err := w.boxes(mdia.body, mdia.end, func(b box, _ bool) error {
		switch b.kind {
		case "mdhd":
			h, err := w.inside(b, 36)
			if err != nil {
				return err
			}
			var length float64
			if t.scale, length = timesIn(h, 12); t.scale > 0 {
				t.length = length / t.scale
			}
			at := 20
			if len(h) > 0 && h[0] == 1 {
				at = 32
			}
			if len(h) >= at+2 {
				t.language = packed(binary.BigEndian.Uint16(h[at:]))
			}
		case "elng":
			if h, err := w.inside(b, 40); err == nil && len(h) > 4 {
				t.language = word(h[4:])
			}
		case "hdlr":
			h, err := w.inside(b, 12)
			if err != nil {
				return err
			}
			if len(h) == 12 {
				handler = string(h[8:12])
			}
		case "minf":
			stbl, _ = w.find(b.body, b.end, "stbl")
		}
		return nil
	})
	if err != nil || stbl.kind == "" {
		return t, err
	}
	var stsd box
	if err := w.boxes(stbl.body, stbl.end, func(b box, _ bool) error {
		switch b.kind {
		case "stsd":
			stsd = b
		case "stts":
			t.stts = b
		case "stsz", "stz2":
			t.stsz = b
		}
		return nil
	}); err != nil {
		return t, err
	}
	if h, err := w.inside(t.stsz, 12); t.stsz.kind != "" && err == nil && len(h) == 12 {
		t.samples = int(binary.BigEndian.Uint32(h[8:]))
	}
	switch handler {
	case "vide":
		t.kind = dossier.PartVideo
	case "soun":
		t.kind = dossier.PartSound
	case "text", "sbtl", "subt", "subp", "clcp":
		t.kind = dossier.PartSubtitles
	default:
		return t, nil
	}
	if stsd.kind != "" {
		if err := w.sampleEntry(stsd, handler, &t); err != nil {
			return t, err
		}
	}
	w.frameRate(&t)
	if t.kind == dossier.PartVideo && t.samples <= 1 && t.entry.Video == dossier.MJPEG {
		t.kind = "" // a cover picture
	}
	return t, nil
}

// frameRate takes the frame rate of a track from its samples: of equal ones by their length, else over all.
func (w *window) frameRate(t *isoTrack) {
	if t.kind != dossier.PartVideo || t.stts.kind == "" || t.scale == 0 {
		return
	}
	h, err := w.inside(t.stts, 16)
	if err != nil || len(h) < 8 {
		return
	}
	switch n := binary.BigEndian.Uint32(h[4:]); {
	case n == 1 && len(h) == 16 && binary.BigEndian.Uint32(h[12:]) > 0:
		rate(&t.entry, t.scale/float64(binary.BigEndian.Uint32(h[12:])))
	case n > 1 && t.length > 0:
		rate(&t.entry, float64(t.samples)/t.length)
	}
}

// packed reads a language of ISO 639-2 in three times five bits; older QuickTime has numbers there.
func packed(n uint16) string {
	if n < 0x400 {
		return ""
	}
	return string([]byte{byte(n>>10&31) + 0x60, byte(n>>5&31) + 0x60, byte(n&31) + 0x60})
}

// sampleEntry reads the first description of a track's samples (ISO/IEC 14496-12, 8.5.2).
func (w *window) sampleEntry(stsd box, handler string, t *isoTrack) error {
	var entry box
	if err := w.boxes(stsd.body+8, stsd.end, func(b box, _ bool) error {
		if entry.kind == "" {
			entry = b
		}
		return nil
	}); err != nil || entry.kind == "" {
		return err
	}
	e := &t.entry
	kind := entry.kind
	h, err := w.inside(entry, 78)
	if err != nil {
		return err
	}
	children := entry.end
	switch t.kind {
	case dossier.PartVideo:
		if len(h) >= 28 {
			size(e, int(binary.BigEndian.Uint16(h[24:])), int(binary.BigEndian.Uint16(h[26:])))
		}
		children = entry.body + 78
	case dossier.PartSound:
		children = entry.body + 28
		if len(h) >= 28 {
			e.Channels, e.SoundBits, e.SampleRate = int(binary.BigEndian.Uint16(h[16:])), int(binary.BigEndian.Uint16(h[18:])), int(binary.BigEndian.Uint32(h[24:])>>16)
			switch binary.BigEndian.Uint16(h[8:]) { // QuickTime's later forms
			case 1:
				children += 16
			case 2:
				children += 36
				if len(h) >= 44 {
					if r := math.Float64frombits(binary.BigEndian.Uint64(h[32:])); r > 0 && r < 1e6 {
						e.SampleRate = int(r)
					}
					e.Channels = int(binary.BigEndian.Uint32(h[40:]) & 0xff)
				}
			}
		}
	case dossier.PartSubtitles:
		e.Subtitles = dossier.SubtitleForm(word([]byte(kind)))
		if d, ok := format.Codec(kind); ok && d.Part == dossier.PartSubtitles {
			e.Subtitles = dossier.SubtitleForm(d.Format)
		}
		if handler == "subp" || kind == "mp4s" {
			e.Subtitles = dossier.DVDSubpicture
		}
		return nil
	}
	if kind == "encv" || kind == "enca" { // what is locked plays nowhere without its key: no form of the vocabulary
		if t.kind == dossier.PartVideo {
			e.Video = "encrypted"
		} else {
			e.Sound = "encrypted"
		}
		return nil
	}
	if t.kind == dossier.PartVideo {
		e.Video = dossier.VideoCodec(strings.TrimSpace(word([]byte(kind))))
	} else {
		e.Sound = dossier.SoundCodec(strings.TrimSpace(word([]byte(kind))))
	}
	if d, ok := format.Codec(kind); ok && d.Part == t.kind {
		if t.kind == dossier.PartVideo {
			e.Video = dossier.VideoCodec(d.Format)
		} else {
			e.Sound = dossier.SoundCodec(d.Format)
		}
	}
	if strings.HasPrefix(kind, "dv") && e.Video != dossier.HEVC && t.kind == dossier.PartVideo {
		e.Video = dossier.DV
	}
	err = w.boxes(children, entry.end, func(b box, _ bool) error { return w.configuration(b, t) })
	if e.Sound != dossier.PCM && e.Sound != dossier.FLAC && e.Sound != dossier.ALAC {
		e.SoundBits = 0
	}
	return err
}

// mostConfiguration bounds what is read of a decoder's configuration, in bytes.
const mostConfiguration = 16 << 10

func (w *window) configuration(b box, t *isoTrack) error {
	e := &t.entry
	h, err := w.inside(b, mostConfiguration)
	if err != nil {
		return err
	}
	switch b.kind {
	case "avcC":
		avcC(e, h)
	case "hvcC":
		hvcC(e, h)
	case "vpcC":
		if len(h) > 4 {
			vpcC(e, h[4:])
		}
	case "av1C":
		av1C(e, h)
	case "colr":
		if len(h) >= 8 && (string(h[:4]) == "nclx" || string(h[:4]) == "nclc") {
			transfer(e, int(binary.BigEndian.Uint16(h[6:])))
		}
	case "dvcC", "dvvC":
		dynamic(e, h)
	case "esds":
		if len(h) > 4 {
			esds(e, t.kind, h[4:])
		}
	case "wave": // QuickTime keeps the description one level down
		return w.boxes(b.body, b.end, func(c box, _ bool) error {
			if c.kind == "esds" {
				return w.configuration(c, t)
			}
			return nil
		})
	case "dac3":
		if len(h) >= 3 { // ETSI TS 102 366, F.4
			e.SampleRate, e.Channels = ac3Rates[h[0]>>6], ac3Channels(h[1]>>3&7, h[1]>>2&1)
		}
	case "dec3":
		dec3(e, h)
	case "dOps":
		if len(h) >= 2 {
			e.Channels, e.SampleRate = int(h[1]), 48000
		}
	case "dfLa":
		if len(h) >= 8+18 {
			streamInfo(e, h[8:])
		}
	case "alac":
		if len(h) >= 28 { // after version and flags
			e.SoundBits, e.Channels, e.SampleRate = int(h[9]), int(h[13]), int(binary.BigEndian.Uint32(h[24:]))
		}
	case "pcmC":
		if len(h) >= 6 {
			e.SoundBits = int(h[5])
		}
	}
	return nil
}

// dynamic reads a configuration of PQ with dynamic metadata (SMPTE ST 2094-10 by the codec's own binding): its
// profile, and with what its base layer is compatible.
func dynamic(e *dossier.FormatEntry, b []byte) {
	if len(b) < 5 {
		return
	}
	switch profile, base := b[2]>>1, b[4]>>4; {
	case profile == 5 || base == 0:
		e.Range = dossier.PQDynamicOnly
	case base == 4:
		e.Range = dossier.HLG
	case base == 2:
		e.Range = dossier.SDR
	default:
		e.Range = dossier.PQDynamic
	}
}

var ac3Rates = [4]int{48000, 44100, 32000, 0}

// ac3Channels counts the channels of acmod and lfeon (ETSI TS 102 366, table 4.3).
func ac3Channels(acmod, lfe byte) int {
	return [8]int{2, 1, 2, 3, 3, 4, 4, 5}[acmod&7] + int(lfe&1)
}

// dec3 reads a configuration of E-AC-3 (ETSI TS 102 366, F.6; the extension for objects, TS 103 420, C.3.1).
func dec3(e *dossier.FormatEntry, b []byte) {
	e.Sound = dossier.EAC3
	if len(b) < 5 {
		return
	}
	e.SampleRate, e.Channels = ac3Rates[b[2]>>6], ac3Channels(b[3]>>1&7, b[3]&1)
	if dependent := b[4] >> 1 & 0xf; dependent > 0 && len(b) >= 6 { // chan_loc: pairs and single channels
		loc := int(b[4]&1)<<8 | int(b[5])
		for bit, n := range []int{1, 1, 2, 2, 2, 1, 1, 2, 2} {
			if loc>>(8-bit)&1 == 1 {
				e.Channels += n
			}
		}
	} else if len(b) >= 7 && b[5]&1 == 1 {
		e.Sound = dossier.EAC3Objects
	}
}

// esds reads an elementary stream descriptor (ISO/IEC 14496-1, 7.2.6): the object type and the configuration of the decoder.
func esds(e *dossier.FormatEntry, kind dossier.FormatPart, b []byte) {
	for len(b) > 2 {
		tag := b[0]
		length, n := 0, 1
		for ; n < len(b) && n < 5; n++ {
			length = length<<7 | int(b[n]&0x7f)
			if b[n]&0x80 == 0 {
				n++
				break
			}
		}
		if n >= len(b) {
			return
		}
		b = b[n:]
		switch tag {
		case 3: // of the stream: id, flags and what they announce
			if len(b) < 3 {
				return
			}
			more := 3
			if b[2]&0x80 != 0 {
				more += 2
			}
			if b[2]&0x40 != 0 && len(b) > more {
				more += 1 + int(b[more])
			}
			if b[2]&0x20 != 0 {
				more += 2
			}
			b = skip(b, more)
		case 4: // of the decoder
			if len(b) < 13 {
				return
			}
			objectType(e, kind, b[0])
			b = b[13:]
		case 5:
			own := b[:min(length, len(b))]
			var c mpeg4audio.AudioSpecificConfig
			if kind == dossier.PartSound && (e.Sound == dossier.AAC || e.Sound == dossier.HEAAC) && c.Unmarshal(own) == nil {
				aacConfig(e, &c)
			}
			if kind == dossier.PartVideo && e.Video == dossier.MPEG4 {
				visual(e, own)
			}
			return
		default:
			b = skip(b, length)
		}
	}
}

func aacConfig(e *dossier.FormatEntry, c *mpeg4audio.AudioSpecificConfig) {
	e.Channels, e.SampleRate = c.ChannelCount, c.SampleRate
	if c.ExtensionType == mpeg4audio.ObjectTypeSBR || c.ExtensionType == mpeg4audio.ObjectTypePS {
		e.Sound, e.SampleRate = dossier.HEAAC, c.ExtensionSampleRate
	}
	if c.ExtensionType == mpeg4audio.ObjectTypePS {
		e.Channels = 2
	}
}

// objectType sets the codec by its object type indication (MP4RA).
func objectType(e *dossier.FormatEntry, kind dossier.FormatPart, oti byte) {
	switch {
	case kind == dossier.PartVideo && oti == 0x20:
		e.Video = dossier.MPEG4
	case kind == dossier.PartVideo && oti == 0x6a:
		e.Video = dossier.MPEG1
	case kind == dossier.PartVideo && oti >= 0x60 && oti <= 0x65:
		e.Video = dossier.MPEG2
	case kind == dossier.PartVideo && oti == 0x6c:
		e.Video = dossier.MJPEG
	case kind == dossier.PartSound && oti == 0x40:
		e.Sound = dossier.AAC
	case kind == dossier.PartSound && oti >= 0x66 && oti <= 0x68:
		e.Sound = dossier.AAC
	case kind == dossier.PartSound:
		if d, ok := format.Codec(fmt.Sprintf("mp4a.%02X", oti)); ok {
			e.Sound = dossier.SoundCodec(d.Format)
		}
	}
}

// visual reads profile and level of MPEG-4 visual (ISO/IEC 14496-2, table G.1).
func visual(e *dossier.FormatEntry, b []byte) {
	e.BitDepth, e.Chroma, e.Range = 8, dossier.Chroma420, dossier.SDR
	for i := 0; i+5 <= len(b); i++ {
		if b[i] == 0 && b[i+1] == 0 && b[i+2] == 1 && b[i+3] == 0xb0 {
			switch n := b[i+4]; {
			case n >= 1 && n <= 8:
				e.Profile = dossier.ProfileSimple
				e.Level = map[byte]string{1: "1", 2: "2", 3: "3", 4: "4a", 5: "5", 6: "6", 8: "0"}[n]
			case n >= 0xf0 && n <= 0xf7:
				e.Profile = dossier.ProfileAdvancedSimple
				e.Level = map[byte]string{0xf0: "0", 0xf1: "1", 0xf2: "2", 0xf3: "3", 0xf4: "4", 0xf5: "5", 0xf7: "3b"}[n]
			}
			return
		}
	}
}

// sidx reads the index of a fragmented file (ISO/IEC 14496-12, 8.16.3): how many bytes are in which stretch of time.
func (w *window) sidx(b box, f *File) error {
	h, err := w.inside(b, 32)
	if err != nil || len(h) < 24 {
		return err
	}
	scale := float64(binary.BigEndian.Uint32(h[8:]))
	head := int64(20)
	if h[0] == 1 {
		head = 28
	}
	if int64(len(h)) < head+4 {
		return nil
	}
	count := int(binary.BigEndian.Uint16(h[head+2:]))
	rows, err := w.copied(b.body+head+4, count*12)
	if err != nil || scale == 0 {
		return err
	}
	var at float64
	var list []demand.Stretch
	for ; len(rows) >= 12; rows = rows[12:] {
		if rows[0]&0x80 != 0 {
			return nil // an index of indexes; the fragments have to be read
		}
		list = append(list, demand.Stretch{At: at, Bits: float64(binary.BigEndian.Uint32(rows)&0x7fffffff) * 8})
		at += float64(binary.BigEndian.Uint32(rows[4:])) / scale
	}
	var bits float64
	for _, s := range list {
		bits += s.Bits
	}
	if bits/8 > 0.9*float64(w.size-b.end) { // an index of all, not of one fragment
		f.Rates, f.Seconds = list, max(f.Seconds, at)
	}
	return nil
}
