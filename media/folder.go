package media

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/format"
)

// Trouble is why a file could not be read, or only in part.
type Trouble string

// Troubles.
const (
	Unreadable  Trouble = "no-right"     // permission to read it was refused
	HalfCopied  Trouble = "half-copied"  // it ends before its own contents do
	Damaged     Trouble = "damaged"      // it contradicts itself
	NotMedia    Trouble = "not-media"    // its name is that of a media file, its contents are not
	Changing    Trouble = "changing"     // it changed while it was read
	NoAnswer    Trouble = "no-answer"    // the share or disk did not answer in time
	Gone        Trouble = "gone"         // it disappeared after the folder was listed
	CannotRead  Trouble = "cannot-read"  // the disk or share gave an error
	Empty       Trouble = "empty"        // it has no bytes
	LinkNowhere Trouble = "link-nowhere" // it is a link to what is not there
)

// Troubles lists all of them.
var Troubles = []Trouble{Unreadable, HalfCopied, Damaged, NotMedia, Changing, NoAnswer, Gone, CannotRead, Empty, LinkNowhere}

// Item is one title of a folder: a file, or a disc that was copied as a directory.
type Item struct {
	Path     string    `json:"path"` // from the folder on, with slashes
	Bytes    int64     `json:"bytes"`
	Modified time.Time `json:"modified"`
	Trouble  Trouble   `json:"trouble,omitzero"`
	Detail   string    `json:"detail,omitzero"`

	Format  dossier.FormatEntry `json:"format"`
	Seconds float64             `json:"seconds,omitzero"`
	Beside  []string            `json:"beside,omitzero"` // subtitles in files of their own
	Need    demand.Need         `json:"need,omitzero"`   // of those that were read for it
	Deep    bool                `json:"deep,omitzero"`   // Need is exact
}

// Content returns what sort of content an item is by what is in it, "" if it could not be read.
func (i Item) Content() dossier.ContentKind {
	switch {
	case i.Format.Container == "":
		return ""
	case i.Format.Video != "" || i.Format.Container == dossier.ASF:
		return dossier.Film
	case i.Format.Sound != "":
		return dossier.Music
	}
	return dossier.Photo
}

// Contents is what lies in a folder.
type Contents struct {
	Items   []Item // sorted by path
	Covers  int    // pictures that belong to a film or an album
	Ignored int    // files that are no media by name: texts, lists, hidden files
	Kept    int    // items that were known from before and had not changed
	Stopped bool   // it was stopped; what is here is what was read until then
}

// Progress tells how far reading is.
type Progress struct {
	Files, Listed int // read, and found so far
	Path          string
}

// Reading is how a folder is read. The zero value reads all.
type Reading struct {
	Known map[string]Item // by path, from an earlier reading; unchanged ones are not read again
	Tell  func(Progress)  // may be nil
	Each  func(Item)      // is given every item as it is read, so that it is kept if it is stopped; may be nil
	Wait  time.Duration   // the longest that one file may take; 0 for a minute
}

// Extensions decide which files are opened: media, subtitles in files of their own, and unfinished downloads. Pictures
// with one of the cover names belong to the film or album beside them.
var (
	mediaEndings = words("mp4 m4v mov mkv mka webm ts m2ts mts mpg mpeg vob avi wmv asf ogv ogg oga opus mp3 mp2 m4a m4b aac flac wav aif aiff 3gp divx jpg jpeg png gif webp heic heif tif tiff")
	textEndings  = words("srt ass ssa vtt sub sup ttml")
	partEndings  = words("part partial tmp download crdownload filepart")
	coverNames   = words("cover folder poster front thumb album artwork back disc backdrop banner logo")
)

func words(list string) map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq(list) {
		out[w] = true
	}
	return out
}

func ending(name string) string { return strings.ToLower(strings.TrimPrefix(path.Ext(name), ".")) }

func stem(name string) string { return strings.TrimSuffix(name, path.Ext(name)) }

// mostFiles bounds a folder, and mostSilent how often in a row a share may fail to answer before reading ends.
const (
	mostFiles  = 1_000_000
	mostSilent = 3
	readers    = 4
)

// ErrSilent is returned when a share or disk stopped answering.
var ErrSilent = errors.New("the folder stopped answering while it was read")

// Dir is a directory of this machine as a folder. Unlike os.DirFS it opens names in any encoding, and follows links.
type Dir string

// Open opens a file, or a directory.
func (d Dir) Open(name string) (fs.File, error) { return os.Open(d.join(name)) }

// ReadDir lists a directory.
func (d Dir) ReadDir(name string) ([]fs.DirEntry, error) { return os.ReadDir(d.join(name)) }

// Stat describes a file or directory; of a link, what it points to.
func (d Dir) Stat(name string) (fs.FileInfo, error) { return os.Stat(d.join(name)) }

func (d Dir) join(name string) string { return filepath.Join(string(d), filepath.FromSlash(name)) }

// Folder reads what lies in a folder: first the heads of all files. Its files must be io.ReaderAt. Links are followed,
// but nothing is read twice. Files that cannot be read are among the items with the reason, and do not end it. When ctx ends,
// what was read is returned, and Stopped is set.
func Folder(ctx context.Context, fsys fs.FS, r Reading) (Contents, error) {
	var c Contents
	l := lister{fsys: fsys, ctx: ctx, contents: &c}
	if err := l.list("."); err != nil && ctx.Err() == nil {
		return c, err
	}
	work, results := make(chan listed), make(chan Item)
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	go func() {
		defer close(work)
		for _, f := range l.files {
			select {
			case work <- f:
			case <-ctx.Done():
				return
			}
		}
	}()
	var running sync.WaitGroup
	for range readers {
		running.Go(func() {
			for f := range work {
				item, ok := r.item(ctx, fsys, f)
				if !ok {
					return
				}
				select {
				case results <- item:
				case <-ctx.Done():
					return
				}
			}
		})
	}
	go func() { running.Wait(); close(results) }()
	silent := 0
	for item := range results {
		c.Items = append(c.Items, item)
		if old, known := r.Known[item.Path]; known && same(old, item) {
			c.Kept++
		} else if r.Each != nil {
			r.Each(item)
		}
		if silent = map[bool]int{true: silent + 1}[item.Trouble == NoAnswer]; silent >= mostSilent {
			stop(ErrSilent)
		}
		if r.Tell != nil {
			r.Tell(Progress{Files: len(c.Items), Listed: len(l.files), Path: item.Path})
		}
	}
	slices.SortFunc(c.Items, func(a, b Item) int { return cmp.Compare(a.Path, b.Path) })
	c.Stopped = len(c.Items) < len(l.files)
	if errors.Is(context.Cause(ctx), ErrSilent) {
		return c, ErrSilent
	}
	return c, nil
}

func same(a, b Item) bool { return a.Bytes == b.Bytes && a.Modified.Equal(b.Modified) }

// listed is a file, or a disc as a directory with its largest part.
type listed struct {
	path, part string // part is what is opened; of a file the path itself
	info       fs.FileInfo
	bytes      int64
	disc       dossier.Container
	beside     []string
	trouble    Trouble
}

type lister struct {
	fsys     fs.FS
	ctx      context.Context
	contents *Contents
	files    []listed
	dirs     []fs.FileInfo
	linked   bool // a link was followed: from now on directories are compared
}

// list walks one directory. What it cannot list is an item with the reason.
func (l *lister) list(dir string) error {
	if l.ctx.Err() != nil {
		return l.ctx.Err()
	}
	if info, err := fs.Stat(l.fsys, dir); err == nil {
		if l.linked && slices.ContainsFunc(l.dirs, func(d fs.FileInfo) bool { return os.SameFile(d, info) }) {
			return nil
		}
		l.dirs = append(l.dirs, info)
	}
	entries, err := fs.ReadDir(l.fsys, dir)
	if err != nil {
		if dir == "." {
			return fmt.Errorf("the folder cannot be listed: %w", err)
		}
		l.files = append(l.files, listed{path: dir, trouble: troubleOf(err)})
		return nil
	}
	if disc, is := l.disc(dir, entries); is {
		l.files = append(l.files, disc)
		return nil
	}
	var pictures, texts []string
	moving := map[string]bool{}
	var links []string
	begin := len(l.files)
	for _, e := range entries {
		name := e.Name()
		at := path.Join(dir, name)
		switch {
		case strings.HasPrefix(name, ".") || strings.HasPrefix(name, "@") || strings.HasPrefix(name, "$"):
			l.contents.Ignored++
		case e.Type()&fs.ModeSymlink != 0:
			links = append(links, at)
		case e.IsDir():
			if err := l.list(at); err != nil {
				return err
			}
		case !e.Type().IsRegular():
			l.contents.Ignored++
		default:
			l.file(at, e.Info, &pictures, &texts, moving)
		}
		if len(l.files) > mostFiles {
			return fmt.Errorf("the folder has more than %d files; read a part of it", mostFiles)
		}
	}
	for _, at := range links {
		if err := l.link(at, &pictures, &texts, moving); err != nil {
			return err
		}
	}
	l.settle(begin, pictures, texts, moving)
	return nil
}

func (l *lister) link(at string, pictures, texts *[]string, moving map[string]bool) error {
	info, err := fs.Stat(l.fsys, at)
	switch {
	case err != nil:
		l.files = append(l.files, listed{path: at, trouble: LinkNowhere})
	case info.IsDir():
		l.linked = true
		if slices.ContainsFunc(l.dirs, func(d fs.FileInfo) bool { return os.SameFile(d, info) }) {
			return nil
		}
		return l.list(at)
	case slices.ContainsFunc(l.files, func(f listed) bool { return f.info != nil && os.SameFile(f.info, info) }):
	default:
		l.file(at, func() (fs.FileInfo, error) { return info, nil }, pictures, texts, moving)
	}
	return nil
}

// file sorts a file by its name.
func (l *lister) file(at string, stat func() (fs.FileInfo, error), pictures, texts *[]string, moving map[string]bool) {
	name := path.Base(at)
	end := ending(name)
	switch {
	case textEndings[end]:
		*texts = append(*texts, at)
		return
	case partEndings[end] && (mediaEndings[ending(stem(name))] || end != "tmp"):
		l.files = append(l.files, listed{path: at, trouble: HalfCopied})
		return
	case !mediaEndings[end]:
		l.contents.Ignored++
		return
	}
	info, err := stat()
	if err != nil {
		l.files = append(l.files, listed{path: at, trouble: troubleOf(err)})
		return
	}
	f := listed{path: at, part: at, info: info, bytes: info.Size()}
	if end == "jpg" || end == "jpeg" || end == "png" || end == "webp" || end == "gif" {
		*pictures = append(*pictures, at)
	} else {
		moving[stem(name)] = true
	}
	l.files = append(l.files, f)
}

// settle gives the films of a directory the subtitles beside them, and takes out the pictures that belong to them: by
// their name, which is that of a film or one that covers have.
func (l *lister) settle(begin int, pictures, texts []string, moving map[string]bool) {
	if len(moving) > 0 {
		l.files = append(l.files[:begin], slices.DeleteFunc(l.files[begin:], func(f listed) bool {
			s := stem(path.Base(f.path))
			cover := slices.Contains(pictures, f.path) && (moving[s] || coverNames[strings.ToLower(s)] || moving[strings.TrimSuffix(s, "-poster")])
			if cover {
				l.contents.Covers++
			}
			return cover
		})...)
	}
	for i := begin; i < len(l.files); i++ {
		f := &l.files[i]
		s := stem(f.path)
		for _, t := range texts {
			if rest, with := strings.CutPrefix(t, s); with && strings.HasPrefix(rest, ".") && !slices.Contains(pictures, f.path) {
				f.beside = append(f.beside, path.Base(t))
			}
		}
	}
}

// disc recognises a disc that was copied as directories: DVD-Video by its files of one title set, BD by its streams. It
// is one item, and its largest title is read for what it is.
func (l *lister) disc(dir string, entries []fs.DirEntry) (listed, bool) {
	has := func(name string) bool {
		return slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return strings.EqualFold(e.Name(), name) })
	}
	var streams string
	d := listed{path: dir}
	switch {
	case has("VIDEO_TS.IFO"):
		d.disc, streams = dossier.DVDVideo, dir
		if strings.EqualFold(path.Base(dir), "VIDEO_TS") {
			d.path = path.Dir(dir)
		}
	case has("index.bdmv") && has("STREAM"):
		d.disc, streams = dossier.BDVideo, path.Join(dir, nameOf(entries, "STREAM"))
		if strings.EqualFold(path.Base(dir), "BDMV") {
			d.path = path.Dir(dir)
		}
	default:
		return d, false
	}
	parts, err := fs.ReadDir(l.fsys, streams)
	if err != nil {
		d.trouble = troubleOf(err)
		return d, true
	}
	largest := int64(-1)
	for _, e := range parts {
		end := ending(e.Name())
		if end != "vob" && end != "m2ts" && end != "mts" || strings.EqualFold(e.Name(), "VIDEO_TS.VOB") || strings.HasSuffix(strings.ToUpper(e.Name()), "_0.VOB") {
			continue
		}
		info, err := e.Info()
		if err != nil {
			continue
		}
		d.bytes += info.Size()
		if info.Size() > largest {
			largest, d.info, d.part = info.Size(), info, path.Join(streams, e.Name())
		}
	}
	if d.part == "" {
		d.trouble = HalfCopied
	}
	return d, true
}

func nameOf(entries []fs.DirEntry, name string) string {
	for _, e := range entries {
		if strings.EqualFold(e.Name(), name) {
			return e.Name()
		}
	}
	return name
}

func troubleOf(err error) Trouble {
	switch {
	case errors.Is(err, fs.ErrPermission):
		return Unreadable
	case errors.Is(err, fs.ErrNotExist):
		return Gone
	case errors.Is(err, ErrCut), errors.Is(err, ErrNoHead):
		return HalfCopied
	case errors.Is(err, ErrNotMedia):
		return NotMedia
	case errors.Is(err, ErrDamaged), errors.Is(err, errTooMuch):
		return Damaged
	}
	return CannotRead
}

// item reads one file, in bounded time. It is false if the reading was stopped.
func (r Reading) item(ctx context.Context, fsys fs.FS, f listed) (Item, bool) {
	item := Item{Path: f.path, Bytes: f.bytes, Trouble: f.trouble, Beside: f.beside}
	if f.info != nil {
		item.Modified = f.info.ModTime().UTC().Truncate(time.Millisecond)
	}
	if f.trouble != "" {
		return item, true
	}
	if old, known := r.Known[f.path]; known && same(old, item) && old.Trouble != NoAnswer {
		old.Beside = item.Beside
		return old, true
	}
	if f.bytes == 0 {
		item.Trouble = Empty
		return item, true
	}
	done := make(chan Item, 1)
	go func(item Item) { done <- readItem(fsys, f, item) }(item)
	wait := time.NewTimer(cmp.Or(r.Wait, time.Minute))
	defer wait.Stop()
	select {
	case item = <-done:
		return item, true
	case <-wait.C:
		item.Trouble = NoAnswer
		return item, true
	case <-ctx.Done():
		return item, false
	}
}

func readItem(fsys fs.FS, f listed, item Item) (out Item) {
	out = item
	defer func() {
		if bug := recover(); bug != nil { // one file must not end the reading of ten thousand
			out.Trouble, out.Detail = Damaged, fmt.Sprint("the reader gave up: ", bug)
		}
	}()
	file, err := fsys.Open(f.part)
	if err != nil {
		out.Trouble, out.Detail = troubleOf(err), err.Error()
		return out
	}
	defer func() { _ = file.Close() }()
	at, ok := file.(io.ReaderAt)
	if !ok {
		out.Trouble, out.Detail = CannotRead, "this place cannot be read from the middle"
		return out
	}
	read, err := Head(at, f.info.Size())
	out.Format, out.Seconds = read.Format, read.Seconds
	if f.disc != "" {
		out.Format.Container = f.disc
		if share := float64(f.bytes) / float64(f.info.Size()); f.disc == dossier.DVDVideo && share > 1 {
			out.Seconds *= share // a title goes on through files of equal rate
		}
		out.Format.Hours = out.Seconds / 3600
	}
	out.Format.Gigabytes = float64(f.bytes) / 1e9
	if len(f.beside) > 0 && out.Format.Subtitles == "" {
		out.Format.Subtitles, out.Format.SubtitlesIn = subtitleForms[ending(f.beside[0])], dossier.SubtitlesBeside
	}
	if len(read.Rates) > 0 && err == nil {
		out.Need = demand.Needed(read.Rates, read.Seconds)
	}
	if now, statErr := file.Stat(); statErr == nil && (now.Size() != f.info.Size() || !now.ModTime().Equal(f.info.ModTime())) {
		out.Trouble = Changing
		return out
	}
	if err != nil {
		out.Trouble, out.Detail = troubleOf(err), err.Error()
	}
	return out
}

var subtitleForms = map[string]dossier.SubtitleForm{"srt": dossier.SubRip, "ass": dossier.SubStation, "ssa": dossier.SubStation, "vtt": dossier.WebVTT, "sub": dossier.DVDSubpicture, "sup": dossier.BDPresentation, "ttml": dossier.TTML}

// Deepen reads the rates of one item exactly.
func Deepen(ctx context.Context, fsys fs.FS, item Item, tell func(done int64)) (Item, error) {
	file, err := fsys.Open(item.Path)
	if err != nil {
		return item, err
	}
	defer func() { _ = file.Close() }()
	at, ok := file.(io.ReaderAt)
	if !ok {
		return item, errors.New("this place cannot be read from the middle")
	}
	list, err := Rates(ctx, at, File{Format: item.Format, Seconds: item.Seconds, Bytes: item.Bytes}, tell)
	if err != nil {
		return item, err
	}
	item.Need, item.Deep = demand.Needed(list, item.Seconds), true
	return item, nil
}

// Heaviest returns the places of the items that are read for their rates unasked: of each form the one with the highest
// average, if it is not read already.
func Heaviest(items []Item) []int {
	best := map[string]int{}
	for i, item := range items {
		if item.Trouble != "" || item.Content() != dossier.Film || item.Format.Container == dossier.DVDVideo || item.Format.Container == dossier.BDVideo {
			continue
		}
		k := key(item.Format)
		if j, has := best[k]; !has || item.Format.AverageMbps > items[j].Format.AverageMbps {
			best[k] = i
		}
	}
	var out []int
	for _, i := range best {
		if !items[i].Deep {
			out = append(out, i)
		}
	}
	slices.Sort(out)
	return out
}

// key is what items of one entry of a mix have in common: all that decides whether a device decodes them, with sizes and
// rates by their class.
func key(e dossier.FormatEntry) string {
	fast := ""
	switch {
	case e.FrameRate > 60.1:
		fast = "faster"
	case e.FrameRate > 30.1:
		fast = "fast"
	}
	high := e.SampleRate > 48000
	return fmt.Sprint(e.Container, "|", e.Video, "|", e.Profile, "|", e.Level, "|", format.Size(e.Width, e.Height), "|", fast, "|", e.Interlaced, "|", e.BitDepth, "|", e.Chroma, "|", e.Range, "|", e.Sound, "|", e.Channels, "|", high, "|", e.SoundBits, "|", e.Subtitles, "|", e.SubtitlesIn)
}

// Mix puts the items together by form, those with most hours first. Items in trouble are left out.
func Mix(items []Item) []dossier.FormatEntry {
	byKey := map[string]*dossier.FormatEntry{}
	needed := map[string]float64{}
	for _, item := range items {
		if item.Trouble != "" || item.Format.Container == "" {
			continue
		}
		k, f := key(item.Format), item.Format
		e := byKey[k]
		if e == nil {
			e = &dossier.FormatEntry{}
			*e = f
			e.Items, e.Hours, e.Gigabytes, e.OtherSound, e.OtherSubtitles, e.SoundLanguages, e.SubtitlesFor = 0, 0, 0, nil, nil, nil, nil
			byKey[k] = e
		}
		e.Items++
		e.Hours, e.Gigabytes = e.Hours+item.Seconds/3600, e.Gigabytes+f.Gigabytes
		e.Width, e.Height, e.FrameRate, e.ReferenceFrames = max(e.Width, f.Width), max(e.Height, f.Height), max(e.FrameRate, f.FrameRate), max(e.ReferenceFrames, f.ReferenceFrames)
		e.SampleRate, e.AverageMbps = max(e.SampleRate, f.SampleRate), max(e.AverageMbps, f.AverageMbps)
		e.OtherSound, e.OtherSubtitles = join(e.OtherSound, f.OtherSound), join(e.OtherSubtitles, f.OtherSubtitles)
		e.SoundLanguages, e.SubtitlesFor = join(e.SoundLanguages, f.SoundLanguages), join(e.SubtitlesFor, f.SubtitlesFor)
		if item.Deep && item.Need.Mbps[1] > needed[k] {
			needed[k] = item.Need.Mbps[1]
			e.Needed2Mbps, e.Needed5Mbps, e.Needed10Mbps, e.Needed30Mbps = item.Need.Mbps[0], item.Need.Mbps[1], item.Need.Mbps[2], item.Need.Mbps[3]
			e.Heaviest, e.HeaviestAt = cutTo(item.Path, 400), item.Need.HeaviestAt
		}
	}
	out := make([]dossier.FormatEntry, 0, len(byKey))
	for _, e := range byKey {
		round(&e.Hours, 100)
		round(&e.Gigabytes, 1000)
		for _, v := range []*float64{&e.AverageMbps, &e.Needed2Mbps, &e.Needed5Mbps, &e.Needed10Mbps, &e.Needed30Mbps, &e.FrameRate} {
			round(v, 1000)
		}
		round(&e.HeaviestAt, 10)
		out = append(out, *e)
	}
	slices.SortFunc(out, func(a, b dossier.FormatEntry) int {
		return cmp.Or(cmp.Compare(b.Hours, a.Hours), cmp.Compare(b.Items, a.Items), cmp.Compare(key(a), key(b)))
	})
	return out
}

func round(v *float64, to float64) { *v = math.Round(*v*to) / to }

func join[T comparable](a, b []T) []T {
	for _, x := range b {
		if !slices.Contains(a, x) {
			a = append(slices.Clip(a), x)
		}
	}
	return a
}

func cutTo(s string, n int) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	if r := []rune(s); len(r) > n {
		return "…" + string(r[len(r)-n+1:])
	}
	return s
}
