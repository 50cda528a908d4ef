package media

import (
	"context"
	"encoding/binary"
	"io"
	"math"

	"kaiku/core/demand"
	"kaiku/core/dossier"
)

// Depth says how much of a file has to be read for its rates.
type Depth string

// Depths: an index tells all of MP4 and AVI; of other forms the file itself is read through.
const (
	ByIndex   Depth = "by its index"
	ByReading Depth = "by reading it through"
	ByAverage Depth = "by its average" // sound files and pictures, whose rate hardly changes
)

// DepthOf says how the rates of a file are read, so that one can tell before how long it takes.
func DepthOf(f File) Depth {
	switch f.Format.Container {
	case dossier.MP4, dossier.QuickTime, dossier.AVI:
		return ByIndex
	case dossier.Matroska, dossier.WebM, dossier.MPEGTS, dossier.M2TS, dossier.MPEGPS:
		return ByReading
	}
	return ByAverage
}

// ahead is how much is read at a time where a file is read through, in bytes.
const ahead = 1 << 20

// Rates reads where in time the bits of a file lie: exactly, in the order in which a player needs them. It tells how far
// it is, in bytes, and ends with the context's error when it is stopped. f is what Head said of the same file.
func Rates(ctx context.Context, r io.ReaderAt, f File, tell func(done int64)) ([]demand.Stretch, error) {
	w := &window{r: r, size: f.Bytes, left: math.MaxInt64, ctx: ctx, tell: tell, page: ahead}
	if DepthOf(f) == ByIndex {
		w.page = pageBytes
	}
	var list []demand.Stretch
	var err error
	switch f.Format.Container {
	case dossier.MP4, dossier.QuickTime:
		list, err = w.isoRates()
	case dossier.Matroska, dossier.WebM:
		list, err = w.matroskaRates()
	case dossier.MPEGTS, dossier.M2TS:
		list, err = w.transportRates()
	case dossier.MPEGPS:
		list, err = w.programRates()
	case dossier.AVI:
		list, err = w.aviRates(f)
	}
	if ctx.Err() != nil {
		return nil, context.Cause(ctx)
	}
	if err == nil && len(list) == 0 && f.Seconds > 0 {
		return even(f), nil
	}
	return list, err
}

// even spreads the bits of a file over its length, second by second.
func even(f File) []demand.Stretch {
	n := min(max(1, int(math.Ceil(f.Seconds))), mostSamples/8)
	list := make([]demand.Stretch, n)
	for i := range list {
		list[i] = demand.Stretch{At: f.Seconds * float64(i) / float64(n), Bits: float64(f.Bytes) * 8 / float64(n)}
	}
	return list
}

// mostTable bounds a table of an index, in bytes.
const mostTable = 16 << 20

func (w *window) isoRates() ([]demand.Stretch, error) {
	moov, ok := w.find(0, w.size, "moov")
	if !ok {
		return nil, ErrNoHead
	}
	tracks, fr, err := w.moov(moov, &File{})
	if err != nil {
		return nil, err
	}
	var list []demand.Stretch
	for _, t := range tracks {
		if err := w.tables(t, &list); err != nil {
			return list, err
		}
	}
	if !fr.extended {
		return list, nil
	}
	return list, w.moofs(fr, &list, func(bool) {})
}

// tables reads the sizes and times of a track's samples (ISO/IEC 14496-12, 8.6.1.2 and 8.7.3).
func (w *window) tables(t isoTrack, list *[]demand.Stretch) error {
	if t.stsz.kind != "stsz" || t.stts.kind == "" || t.scale == 0 || t.samples == 0 {
		return nil
	}
	h, err := w.copied(t.stsz.body, 8)
	if err != nil {
		return err
	}
	same := binary.BigEndian.Uint32(h[4:])
	if same != 0 { // every sample of PCM is one: they are even
		n := min(max(1, int(t.length)), mostSamples/8)
		for i := range n {
			*list = append(*list, demand.Stretch{At: t.length * float64(i) / float64(n), Bits: float64(same) * 8 * float64(t.samples) / float64(n)})
		}
		return nil
	}
	if len(*list)+t.samples > mostSamples || int64(t.samples)*4 > t.stsz.end-t.stsz.body-12 {
		return damaged("a table longer than its box")
	}
	sizes, err := w.copied(t.stsz.body+12, t.samples*4)
	if err != nil {
		return err
	}
	runs, err := w.copied(t.stts.body, int(min(t.stts.end-t.stts.body, mostTable)))
	if err != nil || len(runs) < 8 {
		return err
	}
	at, n := 0.0, 0
	for rows := runs[8:]; len(rows) >= 8 && n < t.samples; rows = rows[8:] {
		length := float64(binary.BigEndian.Uint32(rows[4:])) / t.scale
		for range min(int(binary.BigEndian.Uint32(rows)), t.samples-n) {
			*list = append(*list, demand.Stretch{At: at, Bits: float64(binary.BigEndian.Uint32(sizes[n*4:])) * 8})
			at, n = at+length, n+1
		}
	}
	return nil
}

func (w *window) matroskaRates() ([]demand.Stretch, error) {
	var f File
	s, err := w.segment(&f)
	if err != nil {
		return nil, err
	}
	if err := w.segmentHead(&s, &f); err != nil || s.firstBlocks == 0 {
		return nil, err
	}
	var list []demand.Stretch
	var cluster float64
	take := func(x element, from int64) error {
		_, at, _, err := w.block(x)
		if err == nil {
			list = append(list, demand.Stretch{At: max(0, (cluster+float64(at))*s.scale), Bits: float64(x.end-from) * 8})
		}
		return err
	}
	// Clusters are read as if they lay flat in the segment: so one of unknown size ends where the next begins.
	for at := s.body; at+2 <= s.end; {
		x, err := w.element(at, s.end)
		if err != nil {
			return list, err
		}
		switch x.id {
		case idCluster:
			at = x.body
			continue
		case idTimestamp:
			n, err := w.number(x)
			if err != nil {
				return list, err
			}
			cluster = float64(n)
		case idSimpleBlock:
			err = take(x, at)
		case idBlockGroup:
			err = w.elements(x.body, min(x.end, s.end), func(y element, _ bool) error {
				if y.id != idBlock {
					return nil
				}
				return take(y, at)
			})
		}
		if err != nil {
			return list, err
		}
		at = x.end
	}
	return list, nil
}

// transportRates counts the packets between two clocks of the program.
func (w *window) transportRates() ([]demand.Stretch, error) {
	b, err := w.copied(0, int(min(w.size, 1024)))
	if err != nil {
		return nil, err
	}
	pk, ok := packingOf(b)
	if !ok {
		return nil, ErrNotMedia
	}
	p := &program{packing: pk, pmt: -1, clock: -1}
	var list []demand.Stretch
	var bits, first float64
	started := false
	for off := int64(0); off+int64(pk.every) <= w.size; off += int64(pk.every) {
		packet, err := w.bytes(off+int64(pk.sync), 188)
		if err != nil {
			return list, err
		}
		if p.clock < 0 {
			p.packet(packet)
		}
		bits += float64(pk.every) * 8
		t, ok := pcr(packet)
		if packet[0] != 0x47 || !ok || pid(packet) != p.clock {
			continue
		}
		if !started {
			first, started = t, true
		}
		if t < first { // the clock began anew
			t += float64(uint64(1)<<33) / 90000
		}
		list = append(list, demand.Stretch{At: t - first, Bits: bits})
		bits = 0
	}
	if len(list) > 0 {
		list[len(list)-1].Bits += bits
	}
	return list, nil
}

// programRates counts the bytes of a program stream up to each time that it gives.
func (w *window) programRates() ([]demand.Stretch, error) {
	var list []demand.Stretch
	var from int64
	first, started := 0.0, false
	for at := int64(0); at+14 <= w.size; {
		h, err := w.upTo(at, 32)
		if err != nil {
			return list, err
		}
		if h[0] != 0 || h[1] != 0 || h[2] != 1 {
			at++
			continue
		}
		if h[3] < 0xbb {
			at += 4
			continue
		}
		if h[3]>>4 == 0xe { // of the picture: sound may come earlier
			if t, ok := pts(h[6:]); ok {
				if !started {
					first, started = t, true
				}
				list = append(list, demand.Stretch{At: max(0, t-first), Bits: float64(at-from) * 8})
				from = at
			}
		}
		at += 6 + int64(binary.BigEndian.Uint16(h[4:]))
	}
	if len(list) > 0 {
		list[len(list)-1].Bits += float64(w.size-from) * 8
	}
	return list, nil
}

// aviRates reads the index of an AVI file: which chunk has how many bytes. Sound is spread evenly over the frames.
func (w *window) aviRates(f File) ([]demand.Stretch, error) {
	var list []demand.Stretch
	fps := f.Format.FrameRate
	if fps == 0 {
		return nil, nil
	}
	err := w.chunks(12, w.size, binary.LittleEndian, func(id string, at, end int64) error {
		if id != "idx1" {
			return nil
		}
		rows, err := w.copied(at, int(min(end-at, mostTable)))
		if err != nil {
			return err
		}
		frame := 0
		for ; len(rows) >= 16; rows = rows[16:] {
			bits := (float64(binary.LittleEndian.Uint32(rows[12:])) + 8) * 8
			list = append(list, demand.Stretch{At: float64(frame) / fps, Bits: bits})
			if rows[2] == 'd' {
				frame++
			}
		}
		return nil
	})
	return list, err
}
