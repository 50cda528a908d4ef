// Package watching plays made-up films over networks that are simulated or shaped, so that what is computed of both can be held
// against what happens.
package watching

import (
	"bytes"
	"encoding/binary"
	"io"
	"math/rand/v2"
	"time"
)

// Frame is one picture of a film: when it is shown, in seconds from the start, and where it lies in the file.
type Frame struct {
	At     float64
	Offset int64
	Size   int
}

func (f Frame) end() int64 { return f.Offset + int64(f.Size) }

// Film is a made-up film in an MP4 file (ISO/IEC 14496-12), of which only the head is kept: all pictures are zeros.
type Film struct {
	Frames []Frame
	head   []byte
}

const framesPerSecond = 25

// Draw makes a film of between 30 and 50 seconds with quiet and restless scenes, a whole picture in each second.
func Draw(r *rand.Rand) *Film {
	average := 1 + 5*r.Float64() // Mb/s
	f := &Film{}
	seconds := 30 + r.IntN(21)
	for len(f.Frames) < seconds*framesPerSecond {
		rate := average * []float64{0.4, 0.7, 1, 1.4, 2.5}[r.IntN(5)]
		for n := range (1 + r.IntN(8)) * framesPerSecond {
			share := 0.875 // and a whole picture takes four times as much as one of the others on average
			if n%framesPerSecond == 0 {
				share = 4
			}
			size := int(rate * share * (0.7 + 0.6*r.Float64()) * 1e6 / 8 / framesPerSecond)
			f.Frames = append(f.Frames, Frame{At: float64(len(f.Frames)) / framesPerSecond, Size: size})
		}
	}
	f.write()
	return f
}

// Even makes a film that needs the same in each second, in Mb/s.
func Even(mbps float64, length time.Duration) *Film {
	f := &Film{}
	for n := range int(length.Seconds() * framesPerSecond) {
		f.Frames = append(f.Frames, Frame{At: float64(n) / framesPerSecond, Size: int(mbps * 1e6 / 8 / framesPerSecond)})
	}
	f.write()
	return f
}

// write makes the head: what a player needs to find each picture.
func (f *Film) write() {
	const scale = 1000 * framesPerSecond
	length := uint32(len(f.Frames) * 1000)
	sizes, total := words(0, 0, uint32(len(f.Frames))), int64(0)
	for _, one := range f.Frames {
		sizes = binary.BigEndian.AppendUint32(sizes, uint32(one.Size))
		total += int64(one.Size)
	}
	head := func(begin int64) []byte {
		avc1 := box("avc1", words(0, 1, 0, 0, 0, 0), []byte{1280 >> 8, 1280 & 0xff, 720 >> 8, 720 & 0xff}, words(0x480000, 0x480000, 0), []byte{0, 1}, make([]byte, 32), []byte{0, 24, 0xff, 0xff},
			box("avcC", []byte{1, 77, 0, 31, 0xff, 0xe0, 0}))
		table := box("stbl", box("stsd", words(0, 1), avc1), box("stts", words(0, 1, uint32(len(f.Frames)), 1000)), box("stsz", sizes),
			box("stsc", words(0, 1, 1, uint32(len(f.Frames)), 1)), box("stco", words(0, 1, uint32(begin))))
		track := box("trak", box("tkhd", words(7, 0, 0, 1, 0, length, 0, 0, 0, 0), unity, words(1280<<16, 720<<16)),
			box("mdia", box("mdhd", words(0, 0, 0, scale, length, 0x55c40000)), box("hdlr", words(0, 0), []byte("vide"), make([]byte, 13)),
				box("minf", box("vmhd", words(1, 0, 0)), box("dinf", box("dref", words(0, 1), box("url ", words(1)))), table)))
		moov := box("moov", box("mvhd", words(0, 0, 0, scale, length, 0x10000, 0x1000000, 0, 0), unity, make([]byte, 24), words(2)), track)
		return append(append(box("ftyp", []byte("isom"), words(512), []byte("isomavc1")), moov...), binary.BigEndian.AppendUint32(nil, uint32(total+8))...)
	}
	begin := int64(len(head(0)) + 4)
	f.head = append(head(begin), "mdat"...)
	for i := range f.Frames {
		f.Frames[i].Offset = begin
		begin += int64(f.Frames[i].Size)
	}
}

// unity is the matrix that leaves a picture where it is.
var unity = words(0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000)

func words(list ...uint32) (out []byte) {
	for _, w := range list {
		out = binary.BigEndian.AppendUint32(out, w)
	}
	return out
}

func box(kind string, parts ...[]byte) []byte {
	body := bytes.Join(parts, nil)
	return append(append(binary.BigEndian.AppendUint32(nil, uint32(len(body)+8)), kind...), body...)
}

// Size is how long the file is, in bytes.
func (f *Film) Size() int64 { return f.Frames[len(f.Frames)-1].end() }

// ReadAt reads from the file.
func (f *Film) ReadAt(p []byte, off int64) (int, error) {
	n := int(min(int64(len(p)), max(0, f.Size()-off)))
	clear(p[:n])
	if off < int64(len(f.head)) {
		copy(p[:n], f.head[off:])
	}
	if n < len(p) {
		return n, io.EOF
	}
	return n, nil
}
