package media

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"kaiku/core/contents"
	"kaiku/core/demand"
	"kaiku/core/dossier"
)

// Reading is how a folder is read. The zero value reads all.
type Reading struct {
	Known map[string]contents.File // by path, from an earlier reading; unchanged ones are not read again
	Tell  func(contents.Progress)  // may be nil
	Each  func(contents.File)      // is given every item as it is read, so that it is kept if it is stopped; may be nil
	Most  int                      // files that a folder may have; 0 for a million
	Wait  time.Duration            // the longest that one file may take; 0 for a minute
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
func Folder(ctx context.Context, fsys fs.FS, r Reading) (contents.Contents, error) {
	var c contents.Contents
	l := lister{fsys: fsys, ctx: ctx, contents: &c, most: cmp.Or(r.Most, mostFiles)}
	if err := l.list("."); err != nil && ctx.Err() == nil {
		return c, err
	}
	work, results := make(chan listed), make(chan contents.File)
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
		if silent = map[bool]int{true: silent + 1}[item.Trouble == contents.NoAnswer]; silent >= mostSilent {
			stop(ErrSilent)
		}
		if r.Tell != nil {
			r.Tell(contents.Progress{Files: len(c.Items), Listed: len(l.files), Path: item.Path})
		}
	}
	slices.SortFunc(c.Items, func(a, b contents.File) int { return cmp.Compare(a.Path, b.Path) })
	c.Stopped = len(c.Items) < len(l.files)
	if errors.Is(context.Cause(ctx), ErrSilent) {
		return c, ErrSilent
	}
	return c, nil
}

func same(a, b contents.File) bool { return a.Bytes == b.Bytes && a.Modified.Equal(b.Modified) }

// listed is a file, or a disc as a directory with its largest part.
type listed struct {
	path, part string // part is what is opened; of a file the path itself
	info       fs.FileInfo
	bytes      int64
	disc       dossier.Container
	beside     []string
	trouble    contents.Trouble
}

type lister struct {
	fsys     fs.FS
	ctx      context.Context
	contents *contents.Contents
	most     int
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
		if len(l.files) > l.most {
			return fmt.Errorf("the folder has more than %d files; read a part of it", l.most)
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
		l.files = append(l.files, listed{path: at, trouble: contents.LinkNowhere})
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
		l.files = append(l.files, listed{path: at, trouble: contents.HalfCopied})
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
		d.trouble = contents.HalfCopied
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

func troubleOf(err error) contents.Trouble {
	switch {
	case errors.Is(err, fs.ErrPermission):
		return contents.Unreadable
	case errors.Is(err, fs.ErrNotExist):
		return contents.Gone
	case errors.Is(err, ErrCut), errors.Is(err, ErrNoHead):
		return contents.HalfCopied
	case errors.Is(err, ErrNotMedia):
		return contents.NotMedia
	case errors.Is(err, ErrDamaged), errors.Is(err, errTooMuch):
		return contents.Damaged
	}
	return contents.CannotRead
}

// item reads one file, in bounded time. It is false if the reading was stopped.
func (r Reading) item(ctx context.Context, fsys fs.FS, f listed) (contents.File, bool) {
	item := contents.File{Path: f.path, Bytes: f.bytes, Trouble: f.trouble, Beside: f.beside}
	if f.info != nil {
		item.Modified = f.info.ModTime().UTC().Truncate(time.Millisecond)
	}
	if f.trouble != "" {
		return item, true
	}
	if old, known := r.Known[f.path]; known && same(old, item) && old.Trouble != contents.NoAnswer {
		old.Beside = item.Beside
		return old, true
	}
	if f.bytes == 0 {
		item.Trouble = contents.Empty
		return item, true
	}
	done := make(chan contents.File, 1)
	go func(item contents.File) { done <- readItem(fsys, f, item) }(item)
	wait := time.NewTimer(cmp.Or(r.Wait, time.Minute))
	defer wait.Stop()
	select {
	case item = <-done:
		return item, true
	case <-wait.C:
		item.Trouble = contents.NoAnswer
		return item, true
	case <-ctx.Done():
		return item, false
	}
}

func readItem(fsys fs.FS, f listed, item contents.File) (out contents.File) {
	out = item
	defer func() {
		if bug := recover(); bug != nil { // one file must not end the reading of ten thousand
			out.Trouble, out.Detail = contents.Damaged, fmt.Sprint("the reader gave up: ", bug)
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
		out.Trouble, out.Detail = contents.CannotRead, "this place cannot be read from the middle"
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
	if !possible(out.Format, out.Seconds, f.bytes) {
		out.Seconds, out.Format.Hours, out.Format.AverageMbps, read.Rates = 0, 0, 0, nil
		out.Detail = "the length that it gives does not fit its size"
	}
	if len(f.beside) > 0 && out.Format.Subtitles == "" {
		out.Format.Subtitles, out.Format.SubtitlesIn = subtitleForms[ending(f.beside[0])], dossier.SubtitlesBeside
	}
	if len(read.Rates) > 0 && err == nil {
		out.Need = demand.Needed(read.Rates, read.Seconds)
	}
	if now, statErr := file.Stat(); statErr == nil && (now.Size() != f.info.Size() || !now.ModTime().Equal(f.info.ModTime())) {
		out.Trouble = contents.Changing
		return out
	}
	if err != nil {
		out.Trouble, out.Detail = troubleOf(err), err.Error()
	}
	return out
}

// possible reports whether a film of that length can fill that many bytes: coded, it is smaller than the same picture
// uncoded, in three full planes, with eight channels of uncoded sound. Twice that leaves room for filling.
func possible(f dossier.FormatEntry, seconds float64, bytes int64) bool {
	if seconds <= 0 || f.Video == "" || f.Width == 0 || f.Height == 0 {
		return true
	}
	picture := float64(f.Width) * float64(f.Height) * 3 * float64(max(f.BitDepth, 8)) * max(f.FrameRate, 60)
	const sound = 8 * 192_000 * 32
	return float64(bytes)*8/seconds <= 2*(picture+sound)
}

var subtitleForms = map[string]dossier.SubtitleForm{"srt": dossier.SubRip, "ass": dossier.SubStation, "ssa": dossier.SubStation, "vtt": dossier.WebVTT, "sub": dossier.DVDSubpicture, "sup": dossier.BDPresentation, "ttml": dossier.TTML}

// Deepen reads the rates of one item exactly.
func Deepen(ctx context.Context, fsys fs.FS, item contents.File, tell func(done int64)) (contents.File, error) {
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

// ToDeepen returns the places of the items that are read for their rates unasked. Where a folder is read in parts only,
// they are those whose index tells it.
func ToDeepen(items []contents.File, parts bool) []int {
	todo := contents.Heaviest(items)
	if parts {
		todo = slices.DeleteFunc(todo, func(i int) bool { return DepthOf(File{Format: items[i].Format}) == ByReading })
	}
	return todo
}
