package practice

import (
	"fmt"
	"io"
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
	for i := range b {
		b[i] = f.seed + byte((at+int64(i))>>10) //nolint:gosec // the low byte is meant
	}
	return len(b), nil
}

// content is an item's content as something to seek in.
func (i item) content() *io.SectionReader {
	return io.NewSectionReader(filler{byte(len(i.title))}, 0, i.size())
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
