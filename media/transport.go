package media

import (
	"encoding/binary"
	"errors"
	"io"
	"slices"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/mpeg4audio"

	"kaiku/core/dossier"
)

// packing is how the packets of a transport stream lie in a file: every so many bytes, the sync byte at an offset.
type packing struct{ every, sync int }

// packings are those of ISO/IEC 13818-1, of discs (four bytes of arrival time before each) and of broadcasters
// (sixteen bytes of parity behind).
var packings = []packing{{188, 0}, {192, 4}, {204, 0}}

func packingOf(b []byte) (packing, bool) {
	for _, p := range packings {
		n := 0
		for at := p.sync; at < len(b) && b[at] == 0x47; at += p.every {
			n++
		}
		if n >= 3 && p.sync+n*p.every >= len(b)-p.every {
			return p, true
		}
	}
	return packing{}, false
}

func isTransport(b []byte) bool {
	_, is := packingOf(b)
	return is
}

// stream is an elementary stream of a program.
type stream struct {
	pid   int
	kind  byte
	track track
	video dossier.VideoCodec
	bytes []byte // its first bytes
	done  bool
}

// What is gathered of a stream before it is read: a sequence parameter set of H.264 may stand some frames in.
const (
	mostOfVideo = 256 << 10
	mostOfSound = 8 << 10
	mostStreams = 100
	tailBytes   = 256 << 10
)

// program is what is read of a transport stream.
type program struct {
	packing
	pmt     int
	streams []*stream
	clock   int     // the pid that carries it
	first   float64 // seconds of the first and last clock
	last    float64
	clocked bool
}

func readTransport(w *window, f *File) error {
	b, err := w.copied(0, int(min(w.size, 1024)))
	if err != nil {
		return err
	}
	pk, _ := packingOf(b)
	f.Format.Container = dossier.MPEGTS
	if pk.every == 192 {
		f.Format.Container = dossier.M2TS
	}
	p := &program{packing: pk, pmt: -1, clock: -1}
	for off := int64(0); off+int64(pk.every) <= w.size && !p.complete(); off += int64(pk.every) {
		packet, err := w.bytes(off+int64(pk.sync), 188)
		if errors.Is(err, errTooMuch) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return err
		}
		if packet[0] == 0x47 {
			p.packet(packet)
		}
	}
	var all []track
	for i, s := range p.streams {
		s.finish()
		s.track.place = i
		if s.track.kind != "" {
			all = append(all, s.track)
		}
	}
	if len(all) == 0 {
		return damaged("it has no table of its streams")
	}
	f.put(all)
	w.left = max(w.left, 2*tailBytes)
	p.lastClock(w)
	f.Seconds = p.seconds()
	f.Cut = (w.size % int64(pk.every)) != 0
	return nil
}

// seconds returns the time between the first and last clock, which begins anew after 26.5 hours.
func (p *program) seconds() float64 {
	const round = float64(1<<33) / 90000
	if !p.clocked {
		return 0
	}
	if d := p.last - p.first; d >= 0 {
		return d
	}
	return p.last - p.first + round
}

func (p *program) lastClock(w *window) {
	at := max(0, w.size-tailBytes) / int64(p.every) * int64(p.every)
	for ; at+int64(p.every) <= w.size; at += int64(p.every) {
		packet, err := w.bytes(at+int64(p.sync), 188)
		if err != nil {
			return
		}
		if t, ok := pcr(packet); ok && pid(packet) == p.clock {
			p.last = t
		}
	}
}

func pid(b []byte) int { return int(binary.BigEndian.Uint16(b[1:])) & 0x1fff }

// pcr returns the program clock of a packet in seconds (ISO/IEC 13818-1, 2.4.3.5).
func pcr(b []byte) (float64, bool) {
	if b[3]&0x20 == 0 || b[4] < 7 || b[5]&0x10 == 0 {
		return 0, false
	}
	base := uint64(binary.BigEndian.Uint32(b[6:]))<<1 | uint64(b[10]>>7)
	return float64(base)/90000 + float64(uint64(b[10]&1)<<8|uint64(b[11]))/27e6, true
}

func (p *program) complete() bool {
	return len(p.streams) > 0 && p.clocked && !slices.ContainsFunc(p.streams, func(s *stream) bool { return !s.done })
}

func (p *program) packet(b []byte) {
	n := pid(b)
	if t, ok := pcr(b); ok && n == p.clock {
		if !p.clocked {
			p.first, p.clocked = t, true
		}
		p.last = t
	}
	payload := b[4:]
	switch b[3] >> 4 & 3 {
	case 0, 2:
		return
	case 3:
		payload = skip(payload, 1+int(payload[0]))
	}
	starts := b[1]&0x40 != 0
	switch {
	case n == 0 && starts && p.pmt < 0:
		p.pat(section(payload))
	case n == p.pmt && starts && len(p.streams) == 0:
		p.table(section(payload))
	default:
		for _, s := range p.streams {
			if s.pid == n {
				s.add(payload, starts)
			}
		}
	}
}

// section returns a table that begins in this packet, after its pointer, without its checksum. One that goes on in
// the next packet is cut.
func section(b []byte) []byte {
	if len(b) < 1 {
		return nil
	}
	if b = skip(b, 1+int(b[0])); len(b) < 8 {
		return nil
	}
	length := int(binary.BigEndian.Uint16(b[1:])) & 0xfff
	return b[:max(8, min(len(b), 3+length-4))]
}

func (p *program) pat(b []byte) {
	for b = skip(b, 8); len(b) >= 4; b = b[4:] {
		if binary.BigEndian.Uint16(b) != 0 { // program 0 is the network
			p.pmt = int(binary.BigEndian.Uint16(b[2:])) & 0x1fff
			return
		}
	}
}

func (p *program) table(b []byte) {
	if len(b) < 12 || b[0] != 2 {
		return
	}
	p.clock = int(binary.BigEndian.Uint16(b[8:])) & 0x1fff
	length := int(binary.BigEndian.Uint16(b[10:])) & 0xfff
	disc := registered(b[12:min(len(b), 12+length)], "HDMV") || p.every == 192
	for b = skip(b, 12+length); len(b) >= 5 && len(p.streams) < mostStreams; {
		s := &stream{kind: b[0], pid: int(binary.BigEndian.Uint16(b[1:])) & 0x1fff}
		n := int(binary.BigEndian.Uint16(b[3:])) & 0xfff
		described := b[5:min(len(b), 5+n)]
		b = skip(b, 5+n)
		s.describe(described, disc)
		s.done = s.track.kind == "" || s.track.kind == dossier.PartSubtitles
		p.streams = append(p.streams, s)
	}
}

// descriptors visits the descriptors of a table (ISO/IEC 13818-1, 2.6).
func descriptors(b []byte, visit func(tag byte, body []byte)) {
	for len(b) >= 2 {
		n := min(int(b[1]), len(b)-2)
		visit(b[0], b[2:2+n])
		b = b[2+n:]
	}
}

func registered(b []byte, as string) (yes bool) {
	descriptors(b, func(tag byte, body []byte) { yes = yes || tag == 5 && len(body) >= 4 && string(body[:4]) == as })
	return yes
}

// soundTypes and videoTypes are stream types of ISO/IEC 13818-1 (table 2-34), of ATSC A/52 and of discs.
var (
	videoTypes = map[byte]dossier.VideoCodec{0x01: dossier.MPEG1, 0x02: dossier.MPEG2, 0x10: dossier.MPEG4, 0x1b: dossier.H264, 0x24: dossier.HEVC, 0x33: dossier.VVC, 0xea: dossier.VC1}
	soundTypes = map[byte]dossier.SoundCodec{0x03: dossier.MP2, 0x04: dossier.MP2, 0x0f: dossier.AAC, 0x11: dossier.AAC, 0x81: dossier.AC3, 0x87: dossier.EAC3}
	discSound  = map[byte]dossier.SoundCodec{0x80: dossier.PCM, 0x82: dossier.DCA, 0x83: dossier.MLP, 0x84: dossier.EAC3, 0x85: dossier.DCALossless, 0x86: dossier.DCALossless, 0xa1: dossier.EAC3, 0xa2: dossier.DCA}
)

func (s *stream) describe(b []byte, disc bool) {
	e := &s.track.entry
	heard := func(c dossier.SoundCodec) { s.track.kind, e.Sound = dossier.PartSound, c }
	read := func(f dossier.SubtitleForm) { s.track.kind, e.Subtitles = dossier.PartSubtitles, f }
	if v, ok := videoTypes[s.kind]; ok {
		s.track.kind, s.video, e.Video = dossier.PartVideo, v, v
	} else if c, ok := soundTypes[s.kind]; ok {
		heard(c)
	} else if c, ok := discSound[s.kind]; ok && disc {
		heard(c)
	} else if s.kind == 0x90 && disc {
		read(dossier.BDPresentation)
	} else if s.kind == 0x82 && !disc {
		heard(dossier.DCA)
	}
	descriptors(b, func(tag byte, body []byte) {
		switch {
		case tag == 0x0a && len(body) >= 3:
			s.track.language = string(body[:3])
		case s.kind != 0x06:
		case tag == 0x6a:
			heard(dossier.AC3)
		case tag == 0x7a:
			heard(dossier.EAC3)
		case tag == 0x7b:
			heard(dossier.DCA)
		case tag == 0x7c:
			heard(dossier.AAC)
		case tag == 0x56:
			read(dossier.Teletext)
		case tag == 0x59:
			read(dossier.DVBSubtitle)
			if len(body) >= 3 {
				s.track.language = string(body[:3])
			}
		case tag == 5 && len(body) >= 4:
			switch string(body[:4]) {
			case "AC-3":
				heard(dossier.AC3)
			case "EAC3":
				heard(dossier.EAC3)
			case "Opus":
				heard(dossier.Opus)
				e.SampleRate, e.Channels = 48000, 2
			case "HEVC":
				s.track.kind, s.video, e.Video = dossier.PartVideo, dossier.HEVC, dossier.HEVC
			}
		}
	})
}

// add takes the payload of a packet: the stream's own bytes, without the headers of its packets.
func (s *stream) add(b []byte, starts bool) {
	if s.done || len(s.bytes) == 0 && !starts {
		return
	}
	if starts {
		if len(b) < 9 || b[0] != 0 || b[1] != 0 || b[2] != 1 {
			return
		}
		if b = skip(b, 9+int(b[8])); len(s.bytes) > 0 && s.read() {
			s.done = true
			return
		}
	}
	s.bytes = append(s.bytes, b...)
	most := mostOfSound
	if s.track.kind == dossier.PartVideo {
		most = mostOfVideo
	}
	s.done = len(s.bytes) >= most
}

func (s *stream) finish() { s.read() }

// read reads what the first bytes of the stream say, and reports whether it is enough.
func (s *stream) read() bool {
	e := &s.track.entry
	if s.track.kind == dossier.PartVideo {
		return elementary(e, s.video, s.bytes)
	}
	return soundFrames(e, s.bytes)
}

// soundFrames reads the first frame header in a stream of sound, by its codec.
func soundFrames(e *dossier.FormatEntry, b []byte) bool {
	for i := 0; i+8 < len(b); i++ {
		x := b[i:]
		switch e.Sound {
		case dossier.MP2, dossier.MP3:
			if h, ok := mpegHeader(x); ok {
				e.Sound, e.SampleRate, e.Channels = h.codec, h.rate, h.channels
				return true
			}
		case dossier.AAC:
			var p mpeg4audio.ADTSPackets
			if isADTS(x) && (p.Unmarshal(x[:min(len(x), adtsLength(x))]) == nil && len(p) > 0) {
				e.SampleRate, e.Channels = p[0].SampleRate, p[0].ChannelCount
				return true
			}
		case dossier.AC3, dossier.EAC3:
			if x[0] == 0x0b && x[1] == 0x77 {
				ac3Frame(e, x)
				return true
			}
		case dossier.DCA, dossier.DCALossless:
			if dcaFrame(e, x) {
				return true
			}
		case dossier.PCM: // of discs: a header of four bytes
			e.Channels = [16]int{0, 1, 0, 2, 3, 3, 4, 4, 5, 6, 7, 8}[b[2]>>4]
			e.SampleRate = map[byte]int{1: 48000, 4: 96000, 5: 192000}[b[2]&0xf]
			e.SoundBits = map[byte]int{1: 16, 2: 20, 3: 24}[b[3]>>6]
			return true
		default:
			return true
		}
	}
	return false
}

// ac3Frame reads the header of a frame of AC-3 or E-AC-3 (ETSI TS 102 366, 4.3 and E.1.2).
func ac3Frame(e *dossier.FormatEntry, b []byte) {
	if len(b) < 8 {
		return
	}
	if b[5]>>3 > 10 {
		e.Sound = dossier.EAC3
		e.SampleRate, e.Channels = ac3Rates[b[4]>>6], ac3Channels(b[4]>>1&7, b[4]&1)
		if b[4]>>6 == 3 {
			e.SampleRate = ac3Rates[b[4]>>4&3] / 2
		}
		return
	}
	e.Sound, e.SampleRate = dossier.AC3, ac3Rates[b[4]>>6]
	acmod := b[6] >> 5
	at := 3 // bits after acmod before lfeon
	if acmod&1 != 0 && acmod != 1 {
		at += 2
	}
	if acmod&4 != 0 {
		at += 2
	}
	if acmod == 2 {
		at += 2
	}
	lfe := binary.BigEndian.Uint16(b[6:]) >> (15 - at) & 1
	e.Channels = ac3Channels(acmod, byte(lfe))
}

// dcaFrame reads the header of a core frame of Coherent Acoustics (ETSI TS 102 114, 5.3.1).
func dcaFrame(e *dossier.FormatEntry, b []byte) bool {
	if len(b) < 11 || binary.BigEndian.Uint32(b) != 0x7ffe8001 {
		return false
	}
	amode := b[7]&0xf<<2 | b[8]>>6
	channels := [16]int{1, 2, 2, 2, 2, 3, 3, 4, 4, 5, 6, 6, 6, 7, 8, 8}
	if int(amode) < len(channels) {
		e.Channels = channels[amode]
	}
	e.SampleRate = [16]int{0, 8000, 16000, 32000, 0, 0, 11025, 22050, 44100, 0, 0, 12000, 24000, 48000}[b[8]>>2&0xf]
	if b[10]>>1&3 == 1 || b[10]>>1&3 == 2 {
		e.Channels++
	}
	return true
}

// readProgram reads a program stream (ISO/IEC 13818-1, 2.5), as discs and older recorders write it, or the bare
// stream of pictures that begins like one.
func readProgram(w *window, f *File) error {
	f.Format.Container = dossier.MPEGPS
	b, err := w.copied(0, int(min(w.size, 512<<10)))
	if err != nil {
		return err
	}
	streams := map[byte]*stream{}
	var order []*stream
	if b[3] == 0xb3 {
		elementary(&f.Format, dossier.MPEG2, b)
		return nil
	}
	first, clocked := 0.0, false
	for i := 0; i+6 <= len(b); {
		if b[i] != 0 || b[i+1] != 0 || b[i+2] != 1 {
			i++
			continue
		}
		id := b[i+3]
		switch {
		case id == 0xba:
			i += 10
			continue
		case id < 0xbc:
			i += 4
			continue
		}
		length := int(binary.BigEndian.Uint16(b[i+4:]))
		payload := b[min(len(b), i+6):min(len(b), i+6+length)]
		i += 6 + length
		if t, ok := pts(payload); ok && (!clocked || t < first) {
			first, clocked = t, true
		}
		own := ownBytes(payload)
		sub := id
		if id == 0xbd && len(own) > 4 {
			sub = own[0]
			own = skip(own, 4)
		}
		s := streams[sub]
		if s == nil {
			if s = programStream(id, sub); s == nil || len(streams) >= mostStreams {
				continue
			}
			streams[sub] = s
			order = append(order, s)
		}
		if len(s.bytes) < mostOfVideo {
			s.bytes = append(s.bytes, own...)
		}
	}
	var all []track
	for n, s := range order {
		s.finish()
		s.track.place = n
		all = append(all, s.track)
	}
	if len(all) == 0 {
		return damaged("it has no streams")
	}
	f.put(all)
	if clocked {
		f.Seconds = lastShown(w, first)
	}
	return nil
}

// ownBytes returns what a packet of a program stream carries, without its header of either version.
func ownBytes(b []byte) []byte {
	if len(b) >= 3 && b[0]>>6 == 2 {
		return skip(b, 3+int(b[2]))
	}
	for len(b) > 0 && b[0] == 0xff {
		b = b[1:]
	}
	if len(b) > 0 && b[0]>>6 == 1 {
		b = skip(b, 2)
	}
	switch {
	case len(b) > 0 && b[0]>>4 == 2:
		return skip(b, 5)
	case len(b) > 0 && b[0]>>4 == 3:
		return skip(b, 10)
	}
	return skip(b, 1)
}

// programStream says what a stream of that id is; private stream 1 has ids of its own below it (DVD-Video).
func programStream(id, sub byte) *stream {
	s := &stream{}
	e := &s.track.entry
	switch {
	case id>>4 == 0xe:
		s.track.kind, s.video, e.Video = dossier.PartVideo, dossier.MPEG2, dossier.MPEG2
	case id>>5 == 6:
		s.track.kind, e.Sound = dossier.PartSound, dossier.MP2
	case id != 0xbd:
		return nil
	case sub>>5 == 1:
		s.track.kind, e.Subtitles = dossier.PartSubtitles, dossier.DVDSubpicture
	case sub>>3 == 0x10:
		s.track.kind, e.Sound = dossier.PartSound, dossier.AC3
	case sub>>3 == 0x11:
		s.track.kind, e.Sound = dossier.PartSound, dossier.DCA
	case sub>>3 == 0x14:
		s.track.kind, e.Sound, e.Channels, e.SampleRate, e.SoundBits = dossier.PartSound, "pcm", 2, 48000, 16
	default:
		return nil
	}
	return s
}

// pts returns the time at which what a packet carries is shown, in seconds, of both versions of its header.
func pts(b []byte) (float64, bool) {
	if len(b) >= 8 && b[0]>>6 == 2 {
		if b[1]>>7 == 0 {
			return 0, false
		}
		b = b[3:]
	} else {
		for len(b) > 0 && b[0] == 0xff {
			b = b[1:]
		}
		if len(b) > 0 && b[0]>>6 == 1 {
			b = skip(b, 2)
		}
	}
	if len(b) < 5 || b[0]>>4 != 2 && b[0]>>4 != 3 {
		return 0, false
	}
	n := uint64(b[0]>>1&7)<<30 | uint64(b[1])<<22 | uint64(b[2]>>1)<<15 | uint64(b[3])<<7 | uint64(b[4]>>1)
	return float64(n) / 90000, true
}

// lastShown returns how long after the first the last packet of a program stream is shown.
func lastShown(w *window, first float64) float64 {
	w.left = max(w.left, 2*tailBytes)
	from := max(0, w.size-tailBytes)
	b, err := w.bytes(from, int(w.size-from))
	if err != nil {
		return 0
	}
	last := first
	for i := 0; i+20 <= len(b); i++ {
		if b[i] == 0 && b[i+1] == 0 && b[i+2] == 1 && (b[i+3]>>4 == 0xe || b[i+3]>>5 == 6 || b[i+3] == 0xbd) {
			if t, ok := pts(b[i+6:]); ok && t < first+1e6 {
				last = max(last, t)
			}
		}
	}
	return last - first
}
