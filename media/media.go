// Package media reads what files of media are from their own bytes: the format, the length, and how many bits belong
// to which second. It takes any bytes and any size, reads no more of a file than it has to, and never goes by the name
// alone. Nothing here opens files: it reads what an io.ReaderAt holds, be that a disk, a share or a web server.
package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/language"

	"kaiku/core/demand"
	"kaiku/core/dossier"
)

// Ways in which a file is not what it should be.
var (
	ErrNotMedia = errors.New("this is not a media file of a known form")
	ErrCut      = errors.New("the file ends before its own contents do: it was copied or recorded only in part")
	ErrNoHead   = errors.New("the part that says what is in the file is missing: it was copied or recorded only in part")
	ErrDamaged  = errors.New("the file contradicts itself")
	errTooMuch  = errors.New("what is in the file could not be found within the part that is read")
)

// File is what was read of one file.
type File struct {
	Format  dossier.FormatEntry
	Seconds float64 // 0 for a still picture, and where the file does not say
	Bytes   int64
	// Cut tells that the file is only partly there: what is in Format was read from what there is.
	Cut bool
	// Rates are where its bits lie in time, if the file's own index says so without reading it all.
	Rates []demand.Stretch
}

// Most of a file that is read for its head, in bytes. It is a bound for files that hide what they are; most need a
// tenth of it.
const headBytes = 1 << 20

// Head reads what a file is. An error is one of those above, or of the reader. ErrCut comes with what could be read.
func Head(r io.ReaderAt, size int64) (File, error) {
	f := File{Bytes: size}
	w := &window{r: r, size: size, left: headBytes}
	err := read(w, &f)
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		err = ErrCut
	}
	if f.Format.Container == "" {
		if err == nil || errors.Is(err, ErrCut) || errors.Is(err, errTooMuch) {
			err = ErrNotMedia
		}
		return f, err
	}
	if f.Seconds < 0 || f.Seconds > 1e7 || f.Seconds != f.Seconds { // 115 days
		f.Seconds = 0
	}
	f.Format.Items, f.Format.Hours, f.Format.Gigabytes = 1, f.Seconds/3600, float64(size)/1e9
	if f.Seconds > 0 && !f.Cut {
		f.Format.AverageMbps = float64(size) * 8 / f.Seconds / 1e6
	}
	if err == nil && f.Cut {
		err = ErrCut
	}
	return f, err
}

// form is a form of file: how it begins, and what reads it.
type form struct {
	begins func(b []byte) bool
	read   func(*window, *File) error
}

func at(off int, magic ...string) func([]byte) bool {
	return func(b []byte) bool {
		return slices.ContainsFunc(magic, func(m string) bool { return begins(m, skip(b, off)) })
	}
}

func begins(magic string, b []byte) bool { return bytes.HasPrefix(b, []byte(magic)) }

// forms are all forms, in the order in which they are tried.
var forms = []form{
	{at(4, "ftyp", "moov", "mdat", "wide", "free", "skip", "pnot", "styp", "moof", "sidx"), readISO},
	{at(0, "\x1a\x45\xdf\xa3"), readMatroska},
	{at(0, "RIFF", "RF64"), readRIFF},
	{at(0, "fLaC"), readFLAC},
	{at(0, "OggS"), readOgg},
	{at(0, "FORM"), readAIFF},
	{at(0, "\x00\x00\x01\xba", "\x00\x00\x01\xb3"), readProgram},
	{at(0, "\xff\xd8\xff", "\x89PNG\r\n\x1a\n", "GIF8"), readStill},
	{at(0, "II*\x00", "MM\x00*"), func(_ *window, f *File) error { f.Format.Container = dossier.TIFF; return nil }},
	{at(0, "\x30\x26\xb2\x75\x8e\x66\xcf\x11"), func(_ *window, f *File) error { f.Format.Container = dossier.ASF; return nil }},
	{isTransport, readTransport},
	{at(0, "ID3"), readTagged},
	{isADTS, readADTS},
	{isMPEGAudio, readMPEGAudio},
}

func read(w *window, f *File) error {
	b, err := w.upTo(0, 1024)
	if err != nil {
		return err
	}
	for _, form := range forms {
		if form.begins(b) {
			return form.read(w, f)
		}
	}
	return ErrNotMedia
}

// window reads parts of a file and keeps the last pages, so that many small steps cost few reads.
type window struct {
	r     io.ReaderAt
	size  int64
	left  int64 // how much may still be read
	page  int64 // how much is read at a time; 0 for pageBytes
	pages [4]page
	next  int
	ctx   context.Context  // ends the reading, if there is one
	tell  func(done int64) // reports how far it is, if there is one
}

type page struct {
	at   int64
	data []byte
}

const pageBytes = 16 << 10

// bytes returns n bytes at an offset. They must not be changed, and hold until the next call.
func (w *window) bytes(off int64, n int) ([]byte, error) {
	if off < 0 || n < 0 || off > w.size-int64(n) {
		return nil, io.ErrUnexpectedEOF
	}
	for _, p := range w.pages {
		if off >= p.at && off+int64(n) <= p.at+int64(len(p.data)) {
			return p.data[off-p.at:][:n], nil
		}
	}
	each := max(w.page, pageBytes)
	from := off / each * each
	length := min((off+int64(n)-from+each-1)/each*each, w.size-from)
	if length > w.left {
		return nil, errTooMuch
	}
	if w.ctx != nil && w.ctx.Err() != nil {
		return nil, w.ctx.Err()
	}
	if w.tell != nil {
		w.tell(from)
	}
	w.left -= length
	p := &w.pages[w.next]
	w.next = (w.next + 1) % len(w.pages)
	if int64(cap(p.data)) < length {
		p.data = make([]byte, length)
	}
	p.data, p.at = p.data[:length], from
	got, err := w.r.ReadAt(p.data, from)
	if int64(got) < length {
		p.data = p.data[:0]
		if err == nil || errors.Is(err, io.EOF) {
			err = io.ErrUnexpectedEOF
		}
		return nil, err
	}
	return p.data[off-from:][:n], nil
}

// upTo returns at most n bytes at an offset, fewer at the end of the file.
func (w *window) upTo(off int64, n int) ([]byte, error) {
	if off >= w.size {
		return nil, io.ErrUnexpectedEOF
	}
	return w.bytes(off, int(min(int64(n), w.size-off)))
}

// copied returns n bytes of one's own at an offset.
func (w *window) copied(off int64, n int) ([]byte, error) {
	b, err := w.bytes(off, n)
	return slices.Clone(b), err
}

func damaged(what string) error { return fmt.Errorf("%w: %s", ErrDamaged, what) }

// track is one track of a file as its container tells it.
type track struct {
	kind     dossier.FormatPart
	byChoice bool // the file marks it as the default
	place    int
	entry    dossier.FormatEntry // what it adds
	language string
}

// put writes the tracks into the format: the default of each kind, or else the first, and what others there are.
func (f *File) put(tracks []track) {
	e := &f.Format
	slices.SortStableFunc(tracks, func(a, b track) int {
		if a.byChoice != b.byChoice {
			return map[bool]int{true: -1, false: 1}[a.byChoice]
		}
		return a.place - b.place
	})
	for _, t := range tracks {
		switch t.kind {
		case dossier.PartVideo:
			if e.Video == "" {
				v := t.entry
				e.Video, e.Profile, e.Level, e.Width, e.Height, e.FrameRate = v.Video, v.Profile, v.Level, v.Width, v.Height, v.FrameRate
				e.Interlaced, e.BitDepth, e.Chroma, e.Range, e.ReferenceFrames = v.Interlaced, v.BitDepth, v.Chroma, v.Range, v.ReferenceFrames
			}
		case dossier.PartSound:
			if e.Sound == "" {
				e.Sound, e.Channels, e.SampleRate, e.SoundBits = t.entry.Sound, t.entry.Channels, t.entry.SampleRate, t.entry.SoundBits
			} else if !slices.Contains(e.OtherSound, t.entry.Sound) {
				e.OtherSound = append(e.OtherSound, t.entry.Sound)
			}
			e.SoundLanguages = addLanguage(e.SoundLanguages, t.language)
		case dossier.PartSubtitles:
			if e.Subtitles == "" {
				e.Subtitles, e.SubtitlesIn = t.entry.Subtitles, dossier.SubtitlesInside
			} else if !slices.Contains(e.OtherSubtitles, t.entry.Subtitles) {
				e.OtherSubtitles = append(e.OtherSubtitles, t.entry.Subtitles)
			}
			e.SubtitlesFor = addLanguage(e.SubtitlesFor, t.language)
		}
	}
}

// mostLanguages bounds what a file may claim.
const mostLanguages = 40

// addLanguage adds a language of ISO 639 or BCP 47 in the form of BCP 47.
func addLanguage(list []string, code string) []string {
	tag, err := language.Parse(strings.TrimRight(code, "\x00"))
	if err != nil || tag == language.Und || len(list) >= mostLanguages || slices.Contains(list, tag.String()) {
		return list
	}
	return append(list, tag.String())
}

// word returns what a file calls something, if it may stand in a record.
func word(b []byte) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return -1
		}
		return r
	}, string(b[:min(len(b), 40)]))
}
