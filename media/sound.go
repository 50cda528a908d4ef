package media

import (
	"encoding/binary"
	"math"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/mpeg4audio"

	"kaiku/core/dossier"
)

// mpegFrame is what the header of a frame of MPEG audio says (ISO/IEC 11172-3, 2.4.1.3; 13818-3).
type mpegFrame struct {
	codec          dossier.SoundCodec
	rate, channels int
	kbps           int
	samples, bytes int
	side           int // bytes between the header and a table of the whole file
}

// Bit rates in kb/s, for version 1 and for the lower sampling rates: layer II, layer III.
var (
	ratesII   = [15]int{0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384}
	ratesIII  = [15]int{0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320}
	ratesLow  = [15]int{0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160}
	mpegRates = [3]int{44100, 48000, 32000}
)

func mpegHeader(b []byte) (mpegFrame, bool) {
	if len(b) < 4 || b[0] != 0xff || b[1]&0xe0 != 0xe0 {
		return mpegFrame{}, false
	}
	version, layer, bitrate, hz := b[1]>>3&3, b[1]>>1&3, b[2]>>4, b[2]>>2&3
	if version == 1 || layer == 0 || layer == 3 || bitrate == 15 || bitrate == 0 || hz == 3 {
		return mpegFrame{}, false
	}
	h := mpegFrame{codec: dossier.MP3, rate: mpegRates[hz], channels: 2, samples: 1152}
	if b[3]>>6 == 3 {
		h.channels = 1
	}
	switch {
	case layer == 2:
		h.codec, h.kbps = dossier.MP2, ratesII[bitrate]
	default:
		h.kbps = ratesIII[bitrate]
	}
	h.side = map[int]int{1: 17, 2: 32}[h.channels]
	if version != 3 {
		h.kbps = ratesLow[bitrate]
		h.rate /= 2
		if version == 0 {
			h.rate /= 2
		}
		if layer == 1 {
			h.samples = 576
		}
		h.side = map[int]int{1: 9, 2: 17}[h.channels]
	}
	h.bytes = h.samples/8*h.kbps*1000/h.rate + int(b[2]>>1&1)
	return h, h.bytes > 4
}

// isMPEGAudio asks for two frames in a row: two bytes alone are in any file.
func isMPEGAudio(b []byte) bool {
	h, ok := mpegHeader(b)
	if !ok {
		return false
	}
	if h.bytes+4 > len(b) {
		return true // the second lies beyond what is looked at; a header with no reserved value has to do
	}
	second, ok := mpegHeader(b[h.bytes:])
	return ok && second.rate == h.rate && second.codec == h.codec
}

func readMPEGAudio(w *window, f *File) error { return w.mpegAudio(0, f) }

// readTagged reads what stands behind a tag of ID3v2, which says its own length in four times seven bits.
func readTagged(w *window, f *File) error {
	h, err := w.copied(0, 10)
	if err != nil {
		return err
	}
	at := int64(10)
	for _, b := range h[6:10] {
		if b&0x80 != 0 {
			return damaged("a tag without a size")
		}
	}
	at += int64(h[6])<<21 | int64(h[7])<<14 | int64(h[8])<<7 | int64(h[9])
	if h[5]&0x10 != 0 {
		at += 10
	}
	b, err := w.upTo(at, 4096)
	if err != nil {
		f.Format.Container, f.Cut = dossier.MPEGAudio, true
		return ErrNoHead
	}
	for i := range b {
		switch x := b[i:]; {
		case begins("fLaC", x):
			return w.flac(at+int64(i), f)
		case isADTS(x):
			return w.adts(at+int64(i), f)
		case isMPEGAudio(x):
			return w.mpegAudio(at+int64(i), f)
		}
	}
	return ErrNotMedia
}

func (w *window) mpegAudio(at int64, f *File) error {
	b, err := w.upTo(at, 512)
	if err != nil {
		return err
	}
	h, ok := mpegHeader(b)
	if !ok {
		return ErrNotMedia
	}
	e := &f.Format
	e.Container, e.Sound, e.Channels, e.SampleRate = dossier.MPEGAudio, h.codec, h.channels, h.rate
	f.Seconds = float64(w.size-at) * 8 / float64(h.kbps*1000)
	if x := skip(b, 4+h.side); len(x) >= 12 && (begins("Xing", x) || begins("Info", x)) && x[7]&1 != 0 {
		f.Seconds = float64(binary.BigEndian.Uint32(x[8:])) * float64(h.samples) / float64(h.rate)
	} else if v := skip(b, 4+32); len(v) >= 18 && begins("VBRI", v) {
		f.Seconds = float64(binary.BigEndian.Uint32(v[14:])) * float64(h.samples) / float64(h.rate)
	}
	return nil
}

func isADTS(b []byte) bool {
	if len(b) < 9 || b[0] != 0xff || b[1]&0xf6 != 0xf0 || b[2]>>2&0xf > 12 {
		return false
	}
	n := adtsLength(b)
	return n > 7 && (n+2 > len(b) || b[n] == 0xff && b[n+1]&0xf6 == 0xf0)
}

func adtsLength(b []byte) int { return int(b[3]&3)<<11 | int(b[4])<<3 | int(b[5])>>5 }

func readADTS(w *window, f *File) error { return w.adts(0, f) }

func (w *window) adts(at int64, f *File) error {
	b, err := w.upTo(at, 16<<10)
	if err != nil {
		return err
	}
	e := &f.Format
	e.Container, e.Sound = dossier.ADTS, dossier.AAC
	frames, bytes := 0, 0
	for x := b; len(x) >= 9 && isADTS(x) && adtsLength(x) <= len(x); x = x[adtsLength(x):] {
		if frames == 0 {
			var p mpeg4audio.ADTSPackets
			if p.Unmarshal(x[:adtsLength(x)]) == nil && len(p) > 0 {
				e.SampleRate, e.Channels = p[0].SampleRate, p[0].ChannelCount
			}
		}
		frames, bytes = frames+1, bytes+adtsLength(x)
	}
	if frames > 0 && e.SampleRate > 0 {
		f.Seconds = float64(w.size-at) / float64(bytes) * float64(frames) * 1024 / float64(e.SampleRate)
	}
	return nil
}

// streamInfo reads STREAMINFO of FLAC (RFC 9639, 8.2), and returns the number of samples.
func streamInfo(e *dossier.FormatEntry, b []byte) uint64 {
	if len(b) < 18 {
		return 0
	}
	n := binary.BigEndian.Uint64(b[10:])
	e.SampleRate, e.Channels, e.SoundBits = int(n>>44), int(n>>41&7)+1, int(n>>36&31)+1
	return n & (1<<36 - 1)
}

func readFLAC(w *window, f *File) error { return w.flac(0, f) }

func (w *window) flac(at int64, f *File) error {
	f.Format.Container, f.Format.Sound = dossier.FLACFile, dossier.FLAC
	b, err := w.bytes(at+8, 34)
	if err != nil {
		return err
	}
	n := streamInfo(&f.Format, b)
	if f.Format.SampleRate == 0 {
		return damaged("a sampling rate of nothing")
	}
	f.Seconds = float64(n) / float64(f.Format.SampleRate)
	return nil
}

// readOgg reads the first pages of the streams of an Ogg file (RFC 3533), and the time of the last page.
func readOgg(w *window, f *File) error {
	f.Format.Container = dossier.Ogg
	var all []track
	clock, preSkip := 0.0, 0.0
	for at := int64(0); len(all) < mostTracks; {
		h, err := w.copied(at, 27)
		if err != nil || !begins("OggS", h) || h[5]&2 == 0 { // no first page any more
			break
		}
		segments, err := w.copied(at+27, int(h[26]))
		if err != nil {
			return err
		}
		length := 0
		for _, s := range segments {
			length += int(s)
		}
		at += 27 + int64(len(segments))
		b, err := w.copied(at, min(length, 512))
		if err != nil {
			return err
		}
		at += int64(length)
		t := track{place: len(all)}
		e := &t.entry
		switch {
		case begins("\x01vorbis", b) && len(b) >= 16:
			t.kind, e.Sound, e.Channels, e.SampleRate = dossier.PartSound, dossier.Vorbis, int(b[11]), int(binary.LittleEndian.Uint32(b[12:])&0xfffff)
			clock = float64(e.SampleRate)
		case begins("OpusHead", b) && len(b) >= 12:
			t.kind, e.Sound, e.Channels, e.SampleRate = dossier.PartSound, dossier.Opus, int(b[9]), 48000
			clock, preSkip = 48000, float64(binary.LittleEndian.Uint16(b[10:]))
		case begins("\x7fFLAC", b) && len(b) >= 17+18:
			t.kind, e.Sound = dossier.PartSound, dossier.FLAC
			streamInfo(e, b[17:])
			clock = float64(e.SampleRate)
		case begins("\x80theora", b) && len(b) >= 42:
			t.kind, e.Video, e.BitDepth = dossier.PartVideo, dossier.Theora, 8
			e.Interlaced, e.Chroma = dossier.No, map[byte]dossier.Chroma{0: dossier.Chroma420, 2: dossier.Chroma422, 3: dossier.Chroma444}[b[41]>>3&3]
			size(e, int(b[14])<<16|int(b[15])<<8|int(b[16]), int(b[17])<<16|int(b[18])<<8|int(b[19]))
			if d := binary.BigEndian.Uint32(b[26:]); d > 0 {
				rate(e, float64(binary.BigEndian.Uint32(b[22:]))/float64(d))
			}
		}
		all = append(all, t)
	}
	if len(all) == 0 {
		return damaged("no first page")
	}
	f.put(all)
	if clock > 0 {
		f.Seconds = max(0, w.lastGranule()-preSkip) / clock
	}
	return nil
}

// lastGranule returns the position of the last page of sound.
func (w *window) lastGranule() float64 {
	from := max(0, w.size-(64<<10))
	w.left = max(w.left, 128<<10)
	b, err := w.bytes(from, int(w.size-from))
	last := 0.0
	for i := 0; err == nil && i+14 <= len(b); i++ {
		if begins("OggS", b[i:]) {
			if g := binary.LittleEndian.Uint64(b[i+6:]); g < math.MaxInt64 {
				last = float64(g)
			}
		}
	}
	return last
}

// readAIFF reads the common chunk of AIFF, whose sampling rate is a number of eighty bits.
func readAIFF(w *window, f *File) error {
	kind, err := w.copied(8, 4)
	if err != nil || string(kind) != "AIFF" && string(kind) != "AIFC" {
		return ErrNotMedia
	}
	f.Format.Container, f.Format.Sound = dossier.AIFF, dossier.PCM
	return w.chunks(12, w.size, binary.BigEndian, func(id string, at, end int64) error {
		if id != "COMM" || end-at < 18 {
			return nil
		}
		b, err := w.bytes(at, 18)
		if err != nil {
			return err
		}
		e := &f.Format
		e.Channels, e.SoundBits = int(binary.BigEndian.Uint16(b)), int(binary.BigEndian.Uint16(b[6:]))
		if hz := math.Ldexp(float64(binary.BigEndian.Uint64(b[10:])), int(binary.BigEndian.Uint16(b[8:])&0x7fff)-16383-63); hz > 0 && hz < 1e6 {
			e.SampleRate = int(hz)
			f.Seconds = float64(binary.BigEndian.Uint32(b[2:])) / hz
		}
		return nil
	})
}
