package cli

import (
	"bufio"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/media"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

// contentsFormat is the first line of the file in which what was read of a folder is kept: one item in each line.
const contentsFormat = "kaiku-contents/1"

func (a *App) folderCommands() []*cobra.Command {
	return []*cobra.Command{a.folderRead(), a.folderContents(), a.folderCompare()}
}

// untilInterrupted ends with Ctrl-C, so that what was done until then is kept.
func untilInterrupted(ctx context.Context) (context.Context, context.CancelFunc) {
	return signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
}

func (a *App) folderRead() *cobra.Command {
	var record, shallow, list, service bool
	var deep, within []string
	var shares shareLogin
	c := &cobra.Command{Use: "read NAME [PLACE]", Short: "Read what lies in a media folder: formats, lengths, rates, half copies", Args: cobra.RangeArgs(1, 2), ValidArgsFunction: a.completeRecords(dossier.KindNamed("folder")),
		Long: "Reads the heads of all files of a place, and says which formats there are, how many hours and what rate they need. Of each format the heaviest film is then read for the rate that it needs: MP4 and AVI tell that by their index, other files are read through. Nothing is written there.\n\n" +
			"The place is a directory that this machine can open, a share as smb://10.20.4.10/media/Films, or an export as nfs://10.20.4.10/media/Films. Without one, the folder is read from its source as it is recorded: over UPnP AV title by title and in parts, never a whole file; or from its share or export.\n\n" +
			"What was read is kept on this machine, so that a reading that was stopped with Ctrl-C goes on where it was, and unchanged files are not read again. It is handed in to Kaiku too, where kaiku folder contents shows it; the record of the folder stays as it is. With --to-record the mix of formats and the number of items go there as well.",
		Example: "  kaiku folder read Films /mnt/films\n  kaiku folder read Films --probe-within 10.20.4.0/24 --to-record\n  kaiku folder read Films smb://10.20.4.10/media/Films --share-user keeper\n  kaiku folder read Films /mnt/films --rates-of \"Fog Signal.mkv\"\n  kaiku folder read Films --from-service",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx, stop := untilInterrupted(cmd.Context())
			defer stop()
			if service {
				return a.folderReadThere(ctx, args, wire.ReadFolder{HeadsOnly: shallow}, shares, record)
			}
			d, read, end, err := a.headsOf(ctx, args, within, shares)
			if err != nil {
				return err
			}
			defer end()
			if !read.contents.Stopped && !shallow {
				if err := read.rates(ctx, deep); err != nil {
					return err
				}
			}
			if err := read.show(d, list); err != nil {
				return err
			}
			return read.handIn(cmd.Context(), record)
		}}
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	c.Flags().BoolVar(&shallow, "heads-only", false, "do not read any file for the rate that it needs")
	c.Flags().StringSliceVar(&deep, "rates-of", nil, "files of which to read the rate besides the heaviest ones, by their path in the directory")
	c.Flags().BoolVar(&list, "files", false, "list the files")
	a.withinFlag(c, &within)
	fromServiceFlag(c, &service)
	a.shareFlags(c, &shares)
	a.checkFlag(c, "a file cannot be read or is there only in part")
	return c
}

// headsOf reads the heads of all files of the folder that is named in args, at the place that may stand there too.
func (a *App) headsOf(ctx context.Context, args, within []string, shares shareLogin) (d *dossier.Dossier, read *folderReading, end func(), err error) {
	d, r, err := a.recordNamed(ctx, dossier.KindNamed("folder"), args[:1], writing)
	if err != nil {
		return nil, nil, nil, err
	}
	read = &folderReading{app: a, folder: r.(dossier.Folder)}
	if end, err = read.open(ctx, d, args[1:], within, shares); err != nil {
		return nil, nil, nil, err
	}
	if err := read.heads(ctx); err != nil {
		end()
		return nil, nil, nil, err
	}
	return d, read, end, nil
}

// open opens the place that is read: the one that is given, or the folder's own.
func (r *folderReading) open(ctx context.Context, d *dossier.Dossier, args, within []string, shares shareLogin) (end func(), err error) {
	end = func() {}
	where := ""
	if len(args) > 0 {
		where = args[0]
	}
	if where != "" && !strings.Contains(where, "://") {
		if r.place, err = filepath.Abs(where); err != nil {
			return end, err
		}
		if info, err := os.Stat(r.place); err != nil || !info.IsDir() {
			return end, wrongUse("%s is not a directory on this machine, or cannot be opened; a share is written as smb://10.20.4.10/media/Films", where)
		}
		r.fsys = media.Dir(r.place)
		return end, nil
	}
	g, err := guard(within)
	if err != nil {
		return end, err
	}
	login, err := r.app.shares(shares)
	if err != nil {
		return end, err
	}
	opened, err := probe.Prober{Guard: g, Shares: login}.OpenFolder(ctx, d, r.folder, where)
	if errors.Is(err, contents.ErrPlace) {
		return end, wrongUse("%v", err)
	}
	if err != nil {
		return end, err
	}
	r.fsys, r.place, r.parts = opened.FS, opened.Place, opened.Parts
	return opened.Close, nil
}

// folderReading is one reading of a folder from this machine.
type folderReading struct {
	app      *App
	folder   dossier.Folder
	fsys     fs.FS
	place    string
	parts    bool // it is read in parts only: no file is read through
	contents contents.Contents
	kept     map[string]contents.File
	log      *os.File
}

// file is where what was read is kept, by home, folder and place.
func (r *folderReading) file() string {
	sum := sha256.Sum256([]byte(r.app.where() + "\x00" + string(r.folder.ID) + "\x00" + r.place))
	return filepath.Join(filepath.Dir(r.app.sessionPath()), "folders", hex.EncodeToString(sum[:8])+".jsonl")
}

// load reads what an earlier reading kept. A last line that was cut off when the machine stopped is left out.
func (r *folderReading) load() {
	r.kept = map[string]contents.File{}
	f, err := os.Open(r.file())
	if err != nil {
		return
	}
	defer func() { _ = f.Close() }()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20)
	if !lines.Scan() || lines.Text() != contentsFormat {
		return
	}
	for lines.Scan() {
		var item contents.File
		if json.Unmarshal(lines.Bytes(), &item) == nil {
			r.kept[item.Path] = item
		}
	}
}

// keep begins the file anew with what is still good, so that it does not grow with every reading.
func (r *folderReading) keep(items []contents.File) error {
	if err := os.MkdirAll(filepath.Dir(r.file()), 0o700); err != nil {
		return fmt.Errorf("keep what is read: %w", err)
	}
	next, err := os.CreateTemp(filepath.Dir(r.file()), "new-*")
	if err != nil {
		return fmt.Errorf("keep what is read: %w", err)
	}
	w := bufio.NewWriter(next)
	_, err = w.WriteString(contentsFormat + "\n")
	e := json.NewEncoder(w)
	for _, item := range items {
		err = cmp.Or(err, e.Encode(item))
	}
	if err = errors.Join(err, w.Flush()); err == nil {
		err = os.Rename(next.Name(), r.file())
	}
	if err != nil {
		_ = next.Close()
		return fmt.Errorf("keep what is read: %w", errors.Join(err, os.Remove(next.Name())))
	}
	if r.log != nil {
		_ = r.log.Close()
	}
	r.log = next
	return nil
}

func (r *folderReading) heads(ctx context.Context) error {
	r.load()
	kept := make([]contents.File, 0, len(r.kept))
	for _, item := range r.kept {
		kept = append(kept, item)
	}
	if err := r.keep(kept); err != nil {
		return err
	}
	began := time.Now()
	e := json.NewEncoder(r.log)
	var keepErr error
	c, err := media.Folder(ctx, r.fsys, media.Reading{Known: r.kept, Each: func(i contents.File) { keepErr = cmp.Or(keepErr, e.Encode(i)) },
		Tell: func(p contents.Progress) {
			if p.Files%25 == 0 || p.Files == p.Listed {
				r.app.progress("Reading heads: %d of %d files", p.Files, p.Listed)
			}
		}})
	r.app.progress("")
	r.contents = c
	if err != nil && !errors.Is(err, media.ErrSilent) {
		return fmt.Errorf("%s: %w", r.place, err)
	}
	if keepErr != nil {
		return fmt.Errorf("keep what is read: %w", keepErr)
	}
	again := ""
	if c.Kept > 0 {
		again = fmt.Sprintf(", %d of them unchanged since the last reading", c.Kept)
	}
	r.app.note("Read the heads of %s in %s%s.", wording.Count(len(c.Items), "file"), time.Since(began).Round(100*time.Millisecond), again)
	switch {
	case errors.Is(err, media.ErrSilent):
		r.app.note("The folder stopped answering. What was read until then is kept; run the command again when it answers.")
	case c.Stopped:
		r.app.note("Stopped. What was read until then is kept; run the command again to continue.")
	default:
		return r.keep(c.Items)
	}
	return nil
}

// rates reads the rates of the heaviest films, and of those that were asked for. It says before how long it takes.
func (r *folderReading) rates(ctx context.Context, asked []string) error {
	items := r.contents.Items
	todo := media.ToDeepen(items, r.parts)
	for _, name := range asked {
		i := slices.IndexFunc(items, func(i contents.File) bool { return i.Path == filepath.ToSlash(name) })
		if i < 0 {
			return wrongUse("--rates-of %s: no such file in this directory; list them with --files", name)
		}
		if items[i].Trouble != "" {
			return wrongUse("--rates-of %s: %s", name, wording.Troubles[string(items[i].Trouble)])
		}
		if !slices.Contains(todo, i) && !items[i].Deep {
			todo = append(todo, i)
		}
	}
	var through, done int64
	for _, i := range todo {
		if media.DepthOf(media.File{Format: items[i].Format}) == media.ByReading {
			through += items[i].Bytes
		}
	}
	if through > 0 {
		how := ""
		if speed := r.speed(items[todo[0]]); speed > 0 {
			how = ", which takes " + lasting(time.Duration(float64(through)/speed*float64(time.Second)))
		}
		r.app.note("Reading the rates of %s: %s have to be read through%s. Ctrl-C leaves it at the heads.", wording.Count(len(todo), "film"), wording.Megabytes(through), how)
	}
	for _, i := range todo {
		item := items[i]
		begun := done
		deep, err := media.Deepen(ctx, r.fsys, item, func(at int64) {
			if through > 0 {
				r.app.progress("Reading rates: %s of %s, %s", wording.Megabytes(begun+at), wording.Megabytes(through), item.Path)
			}
		})
		if media.DepthOf(media.File{Format: item.Format}) == media.ByReading {
			done += item.Bytes
		}
		switch {
		case ctx.Err() != nil:
			r.app.progress("")
			r.app.note("Stopped. Rates that were not read are estimated from the average.")
			return r.keep(items)
		case err != nil:
			r.app.progress("")
			r.app.note("The rate of %s could not be read: %v.", item.Path, err)
			continue
		}
		items[i] = deep
	}
	r.app.progress("")
	return r.keep(items)
}

// speed measures how fast this place is read, in bytes a second, on the beginning of a file.
func (r *folderReading) speed(item contents.File) float64 {
	f, err := r.fsys.Open(item.Path)
	if err != nil {
		return 0
	}
	defer func() { _ = f.Close() }()
	at, ok := f.(io.ReaderAt)
	if !ok {
		return 0
	}
	began, n := time.Now(), 0
	for b := make([]byte, 1<<20); n < 32<<20; {
		m, err := at.ReadAt(b, int64(n))
		if n += m; err != nil {
			break
		}
	}
	if took := time.Since(began).Seconds(); took > 0 {
		return float64(n) / took
	}
	return 0
}

func lasting(d time.Duration) string {
	switch {
	case d < time.Minute:
		return "less than a minute"
	case d < 2*time.Hour:
		return "about " + wording.Count(int(d.Round(time.Minute).Minutes()), "minute")
	}
	return "about " + wording.Count(int(d.Round(time.Hour).Hours()), "hour")
}

// shownFolder is what programs get of a reading.
type shownFolder struct {
	Folder  dossier.ID[dossier.Folder] `json:"folder"`
	Place   string                     `json:"place"`
	Stopped bool                       `json:"stopped,omitzero"`
	Mix     []dossier.FormatEntry      `json:"mix"`
	Items   []contents.File            `json:"items"`
	Covers  int                        `json:"covers,omitzero"`
	Ignored int                        `json:"ignored,omitzero"`
}

func (r *folderReading) show(d *dossier.Dossier, list bool) error {
	a, c := r.app, r.contents
	mix := contents.Mix(c.Items)
	var hours float64
	var bytes int64
	troubled := 0
	for _, i := range c.Items {
		hours, bytes = hours+i.Seconds/3600, bytes+i.Bytes
		if i.Trouble != "" {
			troubled++
		}
	}
	a.found(troubled > 0)
	if a.format == "json" {
		return a.show(shownFolder{r.folder.ID, r.place, c.Stopped, mix, c.Items, c.Covers, c.Ignored}, nil, nil)
	}
	var rows [][]string
	if list {
		for _, i := range c.Items {
			rows = append(rows, []string{i.Path, wording.LengthOf(i.Seconds), wording.Format(i.Format), wording.Troubles[string(i.Trouble)]})
		}
		return a.show(nil, []string{"File", "Length", "Format", "Trouble"}, rows)
	}
	for _, e := range mix {
		rows = append(rows, []string{fmt.Sprint(e.Items), wording.PlayingTime(e.Hours), wording.FormatTerm(e.Container), wording.Picture(e), strings.Trim(wording.Sound(e)+"; "+wording.Subtitles(e), "; "), wording.RateNeeded(e)})
	}
	if a.format == "table" {
		a.say("%s at %s: %s, %s, %s.", d.FullLabel(r.folder.ID.Ref()), r.place, wording.Count(len(c.Items), "item"), wording.PlayingTime(hours), wording.Megabytes(bytes))
	}
	if err := a.show(nil, mixColumns, rows); err != nil {
		return err
	}
	if a.format != "table" {
		return nil
	}
	r.sayTroubles()
	if c.Covers > 0 {
		a.say("%s to films or albums.", wording.Agree(c.Covers, "picture belongs", "pictures belong"))
	}
	if c.Ignored > 0 {
		a.say("%s not looked at: not media by name, or hidden.", wording.Agree(c.Ignored, "other file was", "other files were"))
	}
	return nil
}

// mostTroubled bounds the files of one trouble that are named.
const mostTroubled = 20

func (r *folderReading) sayTroubles() {
	by := map[contents.Trouble][]string{}
	for _, i := range r.contents.Items {
		if i.Trouble != "" {
			by[i.Trouble] = append(by[i.Trouble], i.Path)
		}
	}
	for _, t := range slices.Sorted(maps.Keys(by)) {
		r.app.say("")
		r.app.say("%s", wording.Troubles[string(t)])
		for n, p := range by[t] {
			if n == mostTroubled {
				r.app.say("  and %d more; --files lists all", len(by[t])-n)
				break
			}
			r.app.say("  %s", p)
		}
	}
}

// handIn sends what was read to Kaiku, and lets it be recorded.
func (r *folderReading) handIn(ctx context.Context, record bool) error {
	code, err := r.app.code()
	if err != nil {
		return err
	}
	c := r.contents
	if len(c.Items) == 0 && c.Stopped {
		return nil
	}
	c.Folder, c.Place, c.Ended = r.folder.ID, r.place, time.Now().UTC().Truncate(time.Millisecond)
	if c.With, err = os.Hostname(); err != nil {
		c.With = "laptop"
	}
	if _, err := r.app.client().AddContents(ctx, code, c.Cut()); err != nil {
		return fmt.Errorf("the contents could not be handed in; run the command again, what has been read is not read twice: %w", err)
	}
	if !record {
		return nil
	}
	return r.app.recordContents(ctx, r.folder, c.Ended)
}

// recordContents writes what was read of a folder to its record.
func (a *App) recordContents(ctx context.Context, f dossier.Folder, read time.Time) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	if _, err := a.client().RecordContents(ctx, code, string(f.ID), read); err != nil {
		return err
	}
	a.note("Recorded the mix of %s.", f.Name)
	return nil
}

// readThere has the service read a folder, and waits for it; Ctrl-C stops it.
func (a *App) readThere(ctx context.Context, args []string, what wire.ReadFolder, shares shareLogin) (f dossier.Folder, code string, err error) {
	_, r, err := a.recordNamed(ctx, dossier.KindNamed("folder"), args[:1], writing)
	if err != nil {
		return f, "", err
	}
	f = r.(dossier.Folder)
	if len(args) > 1 {
		if what.Place = args[1]; !strings.Contains(what.Place, "://") {
			return f, "", wrongUse("the service reads shares, exports and sources; a directory is read by the machine that has it, without --from-service")
		}
	}
	login, err := a.shares(shares)
	if err != nil {
		return f, "", err
	}
	what.ShareUser, what.SharePassword = login.User, login.Password
	if code, err = a.code(); err != nil {
		return f, "", err
	}
	job, err := a.client().ReadFolder(ctx, code, string(f.ID), what)
	if err != nil {
		return f, "", err
	}
	a.note("Kaiku is reading %s ...", f.Name)
	return f, code, a.waitOrStop(ctx, code, job.ID)
}

// folderReadThere has the service read a folder, and shows what it found.
func (a *App) folderReadThere(ctx context.Context, args []string, what wire.ReadFolder, shares shareLogin, record bool) error {
	f, code, err := a.readThere(ctx, args, what, shares)
	if err != nil {
		return err
	}
	end := context.WithoutCancel(ctx)
	read, err := a.showContents(end, code, string(f.ID), wire.ContentsQuery{}, false)
	if err != nil || !record {
		return err
	}
	return a.recordContents(end, f, read.Ended)
}

func (a *App) folderContents() *cobra.Command {
	var list, differs bool
	var q wire.ContentsQuery
	var trouble string
	c := &cobra.Command{Use: "contents NAME", Short: "Show what the newest reading of a folder found", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeRecords(dossier.KindNamed("folder")),
		Long:    "Shows what lies in a folder by its newest reading, from whichever machine: the formats, and the files that could not be read. Nothing is read for it. Of files, 100 at most are listed; narrow the list with --search, --trouble or --format-line. With --differs, it shows how the list of the server differed from the files, if the server was asked with that reading.",
		Example: "  kaiku folder contents Films\n  kaiku folder contents Films --search \"fog signal\"\n  kaiku folder contents Films --trouble half-copied\n  kaiku folder contents Films --differs",
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), dossier.KindNamed("folder"), args, reading)
			if err != nil {
				return err
			}
			code, err := a.code()
			if err != nil {
				return err
			}
			if differs && (list || trouble != "" || q != (wire.ContentsQuery{})) {
				return wrongUse("--differs lists titles, not files; leave out what narrows the files")
			}
			if differs {
				return a.showDifferences(cmd.Context(), code, r.Key())
			}
			q.Trouble = contents.Trouble(trouble)
			if trouble != "" && trouble != "any" && !slices.Contains(contents.Troubles, q.Trouble) {
				return wrongUse("--trouble %s: write any or one of %s", trouble, strings.Join(troubleNames(), ", "))
			}
			_, err = a.showContents(cmd.Context(), code, r.Key(), q, list || q != (wire.ContentsQuery{}))
			return err
		}}
	c.Flags().BoolVar(&list, "files", false, "list the files")
	c.Flags().BoolVar(&differs, "differs", false, "list how the titles that the server lists differ from the files")
	c.Flags().StringVar(&q.Search, "search", "", "list the files with this in their path or format")
	c.Flags().StringVar(&trouble, "trouble", "", "list the files with this trouble; any lists all that could not be read")
	c.Flags().IntVar(&q.Format, "format-line", 0, "list the files of the format in that line")
	c.Flags().IntVar(&q.From, "from", 0, "leave out that many files at the beginning of the list")
	a.checkFlag(c, "a file cannot be read or is there only in part; with --differs, the disk and the list differ")
	return c
}

// showDifferences shows how the list of the server, as it was asked with the newest reading, differs from the files.
func (a *App) showDifferences(ctx context.Context, code, folder string) error {
	c, err := a.listing(ctx, code, folder)
	switch {
	case err != nil:
		return err
	case c.Ended.IsZero():
		return fmt.Errorf("the folder %s has not been read yet; run kaiku folder compare", c.Folder.Label)
	case c.Listing == nil:
		return fmt.Errorf("the server was not asked for its list with the newest reading of %s; run kaiku folder compare", c.Folder.Label)
	}
	a.note("Read %s by %s, at %s.", when(c.Ended), c.By, c.Place)
	return a.showListing(c.Folder.Label, *c.Listing)
}

// showContents shows what the newest reading of a folder found, its formats or its files.
func (a *App) showContents(ctx context.Context, code, folder string, q wire.ContentsQuery, files bool) (wire.FolderContents, error) {
	c, err := a.client().Contents(ctx, code, folder, q)
	if err != nil {
		return c, err
	}
	a.found(len(c.Troubles) > 0)
	if a.format == "json" {
		return c, a.show(c, nil, nil)
	}
	var rows [][]string
	if files {
		for _, f := range c.Files {
			rows = append(rows, []string{f.Path, f.Length, f.Format, cmp.Or(f.Said, f.Needs)})
		}
		if err := a.show(nil, []string{"File", "Length", "Format", "Needs, or trouble"}, rows); err != nil {
			return c, err
		}
		if a.format == "table" && c.Found > q.From+len(c.Files) {
			a.say("%d of %s; --from %d shows more.", len(c.Files), wording.Count(c.Found, "file"), q.From+len(c.Files))
		}
		return c, nil
	}
	for _, m := range c.Mix {
		rows = append(rows, []string{fmt.Sprint(m.Items), wording.PlayingTime(m.Hours), m.Container, m.Picture, m.Sound, m.Needs})
	}
	if a.format == "table" {
		a.say("%s: %s", c.Folder.Label, c.Said)
		if c.Ended.IsZero() {
			return c, nil
		}
		a.say("Read %s by %s%s, at %s.", when(c.Ended), c.By, map[bool]string{true: " with " + c.With}[c.With != ""], c.Place)
		if c.Stopped {
			a.say("The reading was stopped before it had finished.")
		}
	}
	if err := a.show(nil, mixColumns, rows); err != nil || a.format != "table" {
		return c, err
	}
	for _, t := range c.Troubles {
		a.say("%s: %s", wording.Count(t.Items, "file"), t.Said)
	}
	if len(c.Troubles) > 0 {
		a.say("--trouble any lists them.")
	}
	if c.Listing != nil {
		a.say("%s%s", c.Listing.Said, map[bool]string{true: " --differs lists what differs."}[c.Listing.Found > 0])
	}
	return c, nil
}

func troubleNames() (out []string) {
	for _, t := range contents.Troubles {
		out = append(out, string(t))
	}
	return out
}

var mixColumns = []string{"Items", "Length", "Container", "Picture", "Sound and subtitles", "Needs"}

// set writes members of the folder's record and says so.
func (r *folderReading) set(ctx context.Context, said string, members wire.Record) error {
	code, err := r.app.code()
	if err != nil {
		return err
	}
	k := dossier.KindNamed("folder")
	_, etag, err := r.app.client().Show(ctx, code, k, string(r.folder.ID))
	if err != nil {
		return err
	}
	out, err := r.app.client().Set(ctx, code, k, string(r.folder.ID), etag, members)
	if err != nil {
		return err
	}
	return r.app.changed(said, k, out)
}
