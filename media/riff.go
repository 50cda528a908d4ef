package media

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	_ "image/gif"  // read the sizes of their pictures
	_ "image/jpeg" // likewise
	_ "image/png"  // likewise
	"io"
	"slices"

	_ "golang.org/x/image/webp" // likewise

	"kaiku/core/dossier"
	"kaiku/core/format"
)

// chunks visits the chunks between two places: an id, a size and a body that is padded to an even length.
func (w *window) chunks(from, to int64, order binary.ByteOrder, visit func(id string, at, end int64) error) error {
	for n := 0; from+8 <= to; n++ {
		if n >= mostBoxes {
			return damaged("too many chunks")
		}
		h, err := w.bytes(from, 8)
		if err != nil {
			return err
		}
		id, length := string(h[:4]), int64(order.Uint32(h[4:]))
		end := min(from+8+length, to)
		if err := visit(id, from+8, end); err != nil {
			return err
		}
		from += 8 + length + length&1
	}
	return nil
}

func readRIFF(w *window, f *File) error {
	b, err := w.copied(0, 12)
	if err != nil {
		return err
	}
	size := int64(binary.LittleEndian.Uint32(b[4:]))
	f.Cut = size+8 > w.size+1 && size < 0xfffff000 // those that were never ended say so
	switch string(b[8:]) {
	case "WAVE":
		return readWave(w, f)
	case "AVI ":
		return readAVI(w, f)
	case "WEBP":
		return readStill(w, f)
	}
	return ErrNotMedia
}

// formatTags are the numbers that WAV and AVI name a codec of sound by (RFC 2361).
var formatTags = map[uint16]dossier.SoundCodec{0x1: dossier.PCM, 0x3: dossier.PCM, 0x2: dossier.ADPCM, 0x11: dossier.ADPCM, 0x50: dossier.MP2, 0x55: dossier.MP3, 0xff: dossier.AAC, 0x1600: dossier.AAC, 0x1610: dossier.HEAAC,
	0x2000: dossier.AC3, 0x2001: dossier.DCA, 0xf1ac: dossier.FLAC, 0x674f: dossier.Vorbis}

// waveFormat reads a description of sound.
func waveFormat(e *dossier.FormatEntry, b []byte) (bytesPerSecond int) {
	if len(b) < 16 {
		return 0
	}
	tag := binary.LittleEndian.Uint16(b)
	if tag == 0xfffe && len(b) >= 26 {
		tag = binary.LittleEndian.Uint16(b[24:])
	}
	c, known := formatTags[tag]
	if !known {
		c = dossier.SoundCodec(fmt.Sprintf("format tag %04x", tag))
	}
	e.Sound, e.Channels, e.SampleRate = c, int(binary.LittleEndian.Uint16(b[2:])), int(binary.LittleEndian.Uint32(b[4:])&0xffffff)
	if c == dossier.PCM {
		e.SoundBits = int(binary.LittleEndian.Uint16(b[14:]))
	}
	return int(binary.LittleEndian.Uint32(b[8:]))
}

var errFound = errors.New("found")

func readWave(w *window, f *File) error {
	f.Format.Container = dossier.Wave
	each := 0
	err := w.chunks(12, w.size, binary.LittleEndian, func(id string, at, end int64) error {
		switch id {
		case "fmt ":
			b, err := w.bytes(at, int(min(end-at, 40)))
			each = waveFormat(&f.Format, b)
			return err
		case "data":
			if each > 0 {
				f.Seconds = float64(end-at) / float64(each)
			}
			return errFound
		}
		return nil
	})
	if err == errFound {
		return nil
	}
	return err
}

func readAVI(w *window, f *File) error {
	f.Format.Container = dossier.AVI
	var all []track
	usec, frames := 0.0, 0.0
	err := w.chunks(12, w.size, binary.LittleEndian, func(id string, at, end int64) error {
		if id != "LIST" {
			return nil
		}
		kind, err := w.copied(at, 4)
		if err != nil {
			return err
		}
		switch string(kind) {
		case "movi":
			if i := slices.IndexFunc(all, func(t track) bool { return t.kind == dossier.PartVideo && wantsFrame(t.entry) }); i >= 0 {
				return w.aviFrame(at+4, end, i, &all[i].entry)
			}
			return errFound
		case "hdrl":
			return w.chunks(at+4, end, binary.LittleEndian, func(id string, at, end int64) error {
				switch id {
				case "avih":
					b, err := w.bytes(at, int(min(end-at, 24)))
					if err == nil && len(b) == 24 {
						usec, frames = float64(binary.LittleEndian.Uint32(b)), float64(binary.LittleEndian.Uint32(b[16:]))
					}
					return err
				case "LIST":
					if len(all) >= mostTracks {
						return damaged("too many tracks")
					}
					t, seconds, err := w.aviStream(at, end)
					t.place = len(all)
					f.Seconds = max(f.Seconds, seconds)
					all = append(all, t)
					return err
				}
				return nil
			})
		}
		return nil
	})
	if err != nil && err != errFound {
		return err
	}
	if len(all) == 0 {
		f.Cut = true
		return ErrNoHead
	}
	if f.Seconds == 0 {
		f.Seconds = usec * frames / 1e6
	}
	f.put(all)
	return nil
}

// aviFrame reads the first frame of a stream: its chunks are named by its number.
func (w *window) aviFrame(from, to int64, stream int, e *dossier.FormatEntry) error {
	return w.chunks(from, to, binary.LittleEndian, func(id string, at, end int64) error {
		if id[0] != '0'+byte(stream/10) || id[1] != '0'+byte(stream%10) || id[2] != 'd' || end == at {
			return nil
		}
		b, err := w.copied(at, int(min(end-at, 4096)))
		if err != nil {
			return err
		}
		firstFrame(e, b)
		return errFound
	})
}

// aviStream reads the header and the format of one stream.
func (w *window) aviStream(from, to int64) (track, float64, error) {
	var t track
	seconds := 0.0
	handler := ""
	err := w.chunks(from+4, to, binary.LittleEndian, func(id string, at, end int64) error {
		b, err := w.copied(at, int(min(end-at, mostConfiguration)))
		if err != nil {
			return err
		}
		switch {
		case id == "strh" && len(b) >= 36:
			t.kind = map[string]dossier.FormatPart{"vids": dossier.PartVideo, "auds": dossier.PartSound, "txts": dossier.PartSubtitles}[string(b[:4])]
			handler = string(b[4:8])
			scale, hz, length := float64(binary.LittleEndian.Uint32(b[20:])), float64(binary.LittleEndian.Uint32(b[24:])), float64(binary.LittleEndian.Uint32(b[32:]))
			if scale > 0 && hz > 0 && t.kind == dossier.PartVideo {
				rate(&t.entry, hz/scale)
				seconds = length * scale / hz
			}
		case id == "strf" && t.kind == dossier.PartVideo && len(b) >= 20:
			size(&t.entry, int(int32(binary.LittleEndian.Uint32(b[4:]))), abs(int(int32(binary.LittleEndian.Uint32(b[8:])))))
			t.entry.Video = fourCC(string(b[16:20]))
			if _, known := format.Term(t.entry, dossier.PartVideo); !known {
				t.entry.Video = fourCC(handler)
			}
			if len(b) > 40 {
				switch t.entry.Video {
				case dossier.MPEG4:
					visual(&t.entry, b[40:])
				case dossier.H264:
					elementary(&t.entry, dossier.H264, b[40:])
				}
			}
		case id == "strf" && t.kind == dossier.PartSound:
			waveFormat(&t.entry, b)
		case id == "strf" && t.kind == dossier.PartSubtitles:
			t.entry.Subtitles = dossier.SubtitleText
		}
		return nil
	})
	return t, seconds, err
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}

// readStill reads the size of a picture from its head.
func readStill(w *window, f *File) error {
	head, err := w.upTo(0, 256<<10)
	if err != nil {
		return err
	}
	c, kind, err := image.DecodeConfig(bytes.NewReader(head))
	f.Format.Container = map[string]dossier.Container{"jpeg": dossier.JPEG, "png": dossier.PNG, "gif": dossier.GIF, "webp": dossier.WebP}[kind]
	if err != nil {
		switch {
		case begins("\xff\xd8", head):
			f.Format.Container = dossier.JPEG
		case begins("\x89PNG", head):
			f.Format.Container = dossier.PNG
		case begins("GIF8", head):
			f.Format.Container = dossier.GIF
		default:
			f.Format.Container = dossier.WebP
		}
		if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
			f.Cut = true
			return nil
		}
		return damaged("its head cannot be read")
	}
	size(&f.Format, c.Width, c.Height)
	return nil
}
