package practice

import (
	"embed"
	"encoding/binary"
	"fmt"
	"io"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"
)

// item is one title in a media folder. Its content is filler of the right length, enough to fetch
// and to keep a position by, not to be watched.
type item struct {
	title, file, class, mime string
	mbps                     float64
	length                   time.Duration
}

// size is how many bytes it has.
func (i item) size() int64 { return int64(i.mbps * 1e6 / 8 * i.length.Seconds()) }

type folder struct {
	title string
	items []item
}

func film(title, file, mime string, mbps float64, length time.Duration) item {
	return item{title, file, "object.item.videoItem.movie", mime, mbps, length}
}

func song(title, file, mime string, mbps float64, length time.Duration) item {
	return item{title, file, "object.item.audioItem.musicTrack", mime, mbps, length}
}

// photographs makes n of them.
func photographs(n int) []item {
	out := make([]item, n)
	for i := range out {
		out[i] = item{fmt.Sprintf("From the lamp room, %d", i+1), fmt.Sprintf("lamp-room-%03d.jpg", i+1), "object.item.imageItem.photo", "image/jpeg", 0.262144, time.Second}
	}
	return out
}

// What the servers of the Keeper's House offer.
var (
	granite = []folder{
		{"Films", []item{
			film("The Long Ebb", "the-long-ebb.mp4", "video/mp4", 4.2, 90*time.Second),
			film("Fog Signal", "fog-signal.mkv", "video/x-matroska", 8.4, 120*time.Second),
			film("A Winter of Oil Lamps", "oil-lamps.mp4", "video/mp4", 12.6, 100*time.Second),
		}},
		{"Music", []item{
			song("Granite Stairs", "granite-stairs.flac", "audio/flac", 0.9, 30*time.Second),
			song("Foghorn in D", "foghorn-in-d.mp3", "audio/mpeg", 0.256, 20*time.Second),
		}},
		{"Photos", photographs(240)},
	}
	attic  = []folder{{"Old films", []item{film("The Pier in Winter", "pier.mp4", "video/mp4", 4, 60*time.Second), film("Launch of the Petrel", "petrel.mp4", "video/mp4", 4, 60*time.Second)}}}
	camera = []folder{{"Camera", photographs(12)}}
)

// numbered makes n titles after the first.
func numbered(n int, first item) []item {
	out := make([]item, n)
	for i := range out {
		out[i] = first
		out[i].title = fmt.Sprintf("%s %d", first.title, i+1)
	}
	return out
}

// filler is content without end in memory: bytes that follow from their place.
type filler struct{ seed byte }

// ReadAt fills b with the content at that place.
func (f filler) ReadAt(b []byte, at int64) (int, error) {
	for n := 0; n < len(b); {
		off := at + int64(n)
		n += copy(b[n:], blocks[f.seed+byte(off>>10)][off&(blockBytes-1):]) //nolint:gosec // the low byte is meant
	}
	return len(b), nil
}

// blocks are what filler is made of: the same byte over and over. Films are copied out of them, as there are many to send.
const blockBytes = 1 << 10

var blocks = func() (out [256][blockBytes]byte) {
	for v := range out {
		for i := range out[v] {
			out[v][i] = byte(v)
		}
	}
	return out
}()

// clips are a second of made-up film and sound in the forms that the servers offer.
//
//go:embed clips
var clips embed.FS

// made are the codecs of the clips, by media type, as RFC 6381 names them: picture first.
var made = map[string][]string{"video/mp4": {"avc1.64000A", "mp4a.40.2"}, "video/x-matroska": {"hvc1.2.4.L30", "ec-3"}}

// covers reports whether who decodes one codec decodes another: of one family, up to its profile.
func covers(decoder, codec string) bool {
	a, b := strings.Split(decoder, "."), strings.Split(codec, ".")
	if a[0] != b[0] || len(a) < 2 || len(b) < 2 || len(a[1]) < 1 || len(b[1]) < 1 {
		return a[0] == b[0]
	}
	profile := func(s string) uint64 {
		if a[0] == "avc1" {
			s = s[:min(2, len(s))] // the first byte of three
		}
		n, _ := strconv.ParseUint(s, 16, 32)
		return n
	}
	return a[0] == "mp4a" || profile(b[1]) <= profile(a[1])
}

// decodes reports whether a screen plays media of that type, and whether it decodes the sound. It decodes the codecs that it
// names beside a type. Beside a type without any it decodes each as far as it names it anywhere, and those that it does not
// name.
func (d *Device) decodes(kind string) (plays, heard bool) {
	if d.able != nil {
		return d.able.decodes(kind)
	}
	var named []string
	typed, beside := false, false
	for _, s := range d.sinks {
		m, codecs, given := strings.Cut(s, ";")
		codecsOf := []string{}
		for c := range strings.SplitSeq(strings.Trim(strings.TrimPrefix(codecs, "codecs="), `"`), ",") {
			if c = strings.TrimSpace(c); c != "" {
				codecsOf = append(codecsOf, c)
			}
		}
		if m == kind {
			typed = true
			if given {
				named, beside = codecsOf, true
				break
			}
		}
		named = append(named, codecsOf...)
	}
	if !typed {
		return false, false
	}
	able := func(codec string) bool {
		family, _, _ := strings.Cut(codec, ".")
		mentioned := slices.ContainsFunc(named, func(d string) bool { return strings.HasPrefix(d, family) })
		return !beside && !mentioned || slices.ContainsFunc(named, func(d string) bool { return covers(d, codec) })
	}
	of := made[kind]
	return len(of) == 0 || able(of[0]), len(of) < 2 || able(of[1])
}

// clip is real media of the item's form, nil if there is none.
func (i item) clip() []byte {
	name := map[string]string{".mp4": "film.mp4", ".mkv": "film.mkv", ".flac": "song.flac", ".mp3": "song.mp3", ".jpg": "photo.jpg"}[path.Ext(i.file)]
	b, err := clips.ReadFile("clips/" + name)
	if name == "" || err != nil {
		return nil
	}
	return b
}

// real is the content of an item: a clip, and behind it as much padding as makes it as long as it is said to be.
type real struct {
	clip, pad []byte
	filler
}

// ReadAt fills b with the content at that place.
func (r real) ReadAt(b []byte, at int64) (int, error) {
	n, begin := 0, int64(len(r.clip))
	if at < begin {
		n = copy(b, r.clip[at:])
	}
	if pad := at + int64(n) - begin; n < len(b) && pad < int64(len(r.pad)) {
		n += copy(b[n:], r.pad[pad:])
	}
	_, err := r.filler.ReadAt(b[n:], at+int64(n))
	return len(b), err
}

// content is an item's content as something to seek in.
func (i item) content() *io.SectionReader {
	r := real{clip: i.clip(), filler: filler{byte(len(i.title))}}
	left := i.size() - int64(len(r.clip))
	if left < 16 {
		r.clip, left = nil, 0 // shorter than the clip: it is filler throughout
	}
	switch path.Ext(i.file) {
	case ".mp4": // a box of free space (ISO/IEC 14496-12, section 8.1.2) with a long size
		r.pad = binary.BigEndian.AppendUint64([]byte("\x00\x00\x00\x01free"), uint64(left))
	case ".mkv": // an element that is void (RFC 8794, section 11.3.2) with a size of eight bytes
		r.pad = binary.BigEndian.AppendUint64([]byte{0xec}, uint64(left-9)|1<<56)
	}
	if r.clip == nil {
		r.pad = nil
	}
	return io.NewSectionReader(r, 0, i.size())
}

// clock writes a length as UPnP does: h:mm:ss.
func clock(d time.Duration) string {
	s := int(d.Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// fineClock writes a position as UPnP allows too: h:mm:ss.f (AVTransport:1, 2.2.22).
func fineClock(d time.Duration) string {
	return fmt.Sprintf("%s.%d", clock(d), d/(100*time.Millisecond)%10)
}

// unclock reads such a length.
func unclock(s string) (time.Duration, bool) {
	var h, m int
	var sec float64
	if n, err := fmt.Sscanf(strings.TrimSpace(s), "%d:%d:%f", &h, &m, &sec); err != nil || n != 3 || h < 0 || m < 0 || sec < 0 {
		return 0, false
	}
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(sec*float64(time.Second)), true
}
