package media

import (
	"encoding/binary"

	"kaiku/core/demand"
)

// fragmented is what is known of the tracks of a fragmented file (ISO/IEC 14496-12, 8.8).
type fragmented struct {
	tracks   map[uint32]*fragmentTrack
	samples  int  // of all, so far
	extended bool // the file says that it has fragments
}

type fragmentTrack struct {
	scale    float64
	video    bool
	length   uint32 // default length and size of a sample
	size     uint32
	at       float64 // where the next sample begins
	samples  int
	equal    bool // all samples were of one length so far
	last     uint32
	duration float64
}

// mostSamples bounds the samples of a file that are believed: two days at 25 frames a second.
const mostSamples = 1 << 22

// defaults reads what all fragments share.
func (w *window) defaults(mvex box, fr *fragmented) {
	_ = w.boxes(mvex.body, mvex.end, func(b box, _ bool) error {
		if h, err := w.inside(b, 24); b.kind == "trex" && err == nil && len(h) == 24 {
			if t := fr.tracks[binary.BigEndian.Uint32(h[4:])]; t != nil {
				t.length, t.size = binary.BigEndian.Uint32(h[12:]), binary.BigEndian.Uint32(h[16:])
			}
		}
		return nil
	})
}

// moofs reads all fragments of a file and adds their samples to the list. Of every box it tells whether it is cut.
func (w *window) moofs(fr *fragmented, list *[]demand.Stretch, each func(cut bool)) error {
	return w.boxes(0, w.size, func(b box, cut bool) error {
		each(cut)
		if b.kind != "moof" {
			return nil
		}
		return w.fragment(b, fr, list)
	})
}

// fragment reads one moof and adds its samples to the list, if there is one.
func (w *window) fragment(moof box, fr *fragmented, list *[]demand.Stretch) error {
	return w.boxes(moof.body, moof.end, func(traf box, _ bool) error {
		if traf.kind != "traf" {
			return nil
		}
		var t *fragmentTrack
		var length, size uint32
		return w.boxes(traf.body, traf.end, func(b box, _ bool) error {
			h, err := w.copied(b.body, int(min(b.end-b.body, 32)))
			if err != nil {
				return err
			}
			switch {
			case b.kind == "tfhd" && len(h) >= 8:
				flags := binary.BigEndian.Uint32(h) & 0xffffff
				if t = fr.tracks[binary.BigEndian.Uint32(h[4:])]; t == nil {
					return nil
				}
				length, size = t.length, t.size
				at := 8
				for _, field := range []struct {
					flag uint32
					n    int
					into *uint32
				}{{0x1, 8, nil}, {0x2, 4, nil}, {0x8, 4, &length}, {0x10, 4, &size}} {
					if flags&field.flag != 0 {
						if field.into != nil && len(h) >= at+4 {
							*field.into = binary.BigEndian.Uint32(h[at:])
						}
						at += field.n
					}
				}
			case b.kind == "tfdt" && t != nil && t.scale > 0 && len(h) >= 8:
				at := uint64(binary.BigEndian.Uint32(h[4:]))
				if h[0] == 1 && len(h) >= 12 {
					at = binary.BigEndian.Uint64(h[4:])
				}
				t.at = float64(at) / t.scale
			case b.kind == "trun" && t != nil && t.scale > 0 && len(h) >= 8:
				return w.run(b, fr, t, length, size, list)
			}
			return nil
		})
	})
}

// run reads one run of samples: their lengths and sizes, where they are not the default ones.
func (w *window) run(b box, fr *fragmented, t *fragmentTrack, length, size uint32, list *[]demand.Stretch) error {
	h, err := w.copied(b.body, 8)
	if err != nil {
		return err
	}
	flags, count := binary.BigEndian.Uint32(h)&0xffffff, int(binary.BigEndian.Uint32(h[4:]))
	at := b.body + 8
	for _, flag := range []uint32{0x1, 0x4} {
		if flags&flag != 0 {
			at += 4
		}
	}
	row := 0
	for _, flag := range []uint32{0x100, 0x200, 0x400, 0x800} {
		if flags&flag != 0 {
			row += 4
		}
	}
	if fr.samples += count; count < 0 || fr.samples > mostSamples || row > 0 && int64(count*row) > b.end-at {
		return damaged("a run longer than its box")
	}
	var rows []byte
	if row > 0 {
		if rows, err = w.copied(at, count*row); err != nil {
			return err
		}
	}
	for i := range count {
		l, s := length, size
		if row > 0 {
			one := rows[i*row:]
			if flags&0x100 != 0 {
				l = binary.BigEndian.Uint32(one)
				one = one[4:]
			}
			if flags&0x200 != 0 {
				s = binary.BigEndian.Uint32(one)
			}
		}
		if list != nil {
			*list = append(*list, demand.Stretch{At: t.at, Bits: float64(s) * 8})
		}
		t.equal = t.samples == 0 || t.equal && t.last == l
		t.last, t.samples = l, t.samples+1
		t.at += float64(l) / t.scale
		t.duration += float64(l) / t.scale
	}
	return nil
}

// tell writes what the fragments say of length and frame rate.
func (fr *fragmented) tell(f *File, whole bool) {
	for _, t := range fr.tracks {
		if whole {
			f.Seconds = max(f.Seconds, t.at)
		}
		switch {
		case !t.video || t.samples == 0:
		case t.equal && t.last > 0:
			rate(&f.Format, t.scale/float64(t.last))
		case t.duration > 0:
			rate(&f.Format, float64(t.samples)/t.duration)
		}
	}
	if f.Format.Video == "" {
		f.Format.FrameRate = 0
	}
}
