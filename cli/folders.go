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
	"net/netip"
	"net/url"
	"os"
	"os/signal"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/media"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

// contentsFormat is the first line of the file in which what was read of a folder is kept: one item in each line.
const contentsFormat = "kaiku-contents/1"

func (a *App) folderCommands() []*cobra.Command {
	return []*cobra.Command{a.folderRead(), a.folderCompare()}
}

// untilInterrupted ends with Ctrl-C, so that what was done until then is kept.
func untilInterrupted(ctx context.Context) (context.Context, context.CancelFunc) {
	return signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
}

func (a *App) folderRead() *cobra.Command {
	var record, shallow, list bool
	var deep, within []string
	var shares shareLogin
	c := &cobra.Command{Use: "read NAME [PLACE]", Short: "Read what lies in a media folder: formats, lengths, rates, half copies", Args: cobra.RangeArgs(1, 2), ValidArgsFunction: a.completeRecords(dossier.KindNamed("folder")),
		Long: "Reads the heads of all files of a place, and says which formats there are, how many hours and what rate they need. Of each format the heaviest film is then read for the rate that it needs: MP4 and AVI tell that by their index, other files are read through. Nothing is written there.\n\n" +
			"The place is a directory that this machine can open, a share as smb://10.20.4.10/media/Films, or an export as nfs://10.20.4.10/media/Films. Without one, the folder is read from its source as it is recorded: over UPnP AV title by title and in parts, never a whole file; or from its share or export.\n\n" +
			"What was read is kept on this machine, so that a reading that was stopped with Ctrl-C goes on where it was, and unchanged files are not read again. With --to-record the mix of formats and the number of items go to the folder's record.",
		Example: "  kaiku folder read Films /mnt/films\n  kaiku folder read Films --probe-within 10.20.4.0/24 --to-record\n  kaiku folder read Films smb://10.20.4.10/media/Films --share-user keeper\n  kaiku folder read Films /mnt/films --rates-of \"Fog Signal.mkv\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx, stop := untilInterrupted(cmd.Context())
			defer stop()
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
			if !record {
				return nil
			}
			return read.record(cmd.Context())
		}}
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	c.Flags().BoolVar(&shallow, "heads-only", false, "do not read any file for the rate that it needs")
	c.Flags().StringSliceVar(&deep, "rates-of", nil, "files of which to read the rate besides the heaviest ones, by their path in the directory")
	c.Flags().BoolVar(&list, "files", false, "list every file")
	a.withinFlag(c, &within)
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
	source, _ := d.Sources.Get(r.folder.Source)
	where := ""
	if len(args) > 0 {
		where = args[0]
	} else if scheme := map[dossier.Protocol]string{dossier.ProtocolSMB: "smb", dossier.ProtocolNFS: "nfs"}[source.Protocol]; scheme != "" {
		at := d.AddressOf(source)
		if !at.IsValid() {
			return end, wrongUse("no address is recorded for the source %s; say where the folder is, such as %s://10.20.4.10/media/Films", source.Name, scheme)
		}
		where = (&url.URL{Scheme: scheme, Host: netip.AddrPortFrom(at, uint16(source.Port)).String(), Path: path.Join("/", source.Locator, r.folder.Name)}).String()
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
	if where == "" {
		r.place, r.parts = "the source "+source.Name, true
		r.fsys, err = probe.Prober{Guard: g}.OpenDirectory(ctx, d, r.folder)
		return end, err
	}
	place, err := url.Parse(where)
	if err != nil {
		return end, wrongUse("%s is not written as a place; write smb://10.20.4.10/media/Films", where)
	}
	if place.User != nil {
		return end, wrongUse("a password does not belong into a command; use --share-user and --share-password-file")
	}
	login, err := r.app.shares(shares)
	if err != nil {
		return end, err
	}
	r.place = place.String()
	fsys, end, err := g.ForHome(d).OpenPlace(ctx, place, login)
	r.fsys = fsys
	if err != nil {
		return func() {}, err
	}
	return end, nil
}

// folderReading is one reading of a folder from this machine.
type folderReading struct {
	app      *App
	folder   dossier.Folder
	fsys     fs.FS
	place    string
	parts    bool // it is read in parts only: no file is read through
	contents media.Contents
	kept     map[string]media.Item
	log      *os.File
}

// file is where what was read is kept, by home, folder and place.
func (r *folderReading) file() string {
	sum := sha256.Sum256([]byte(r.app.where() + "\x00" + string(r.folder.ID) + "\x00" + r.place))
	return filepath.Join(filepath.Dir(r.app.sessionPath()), "folders", hex.EncodeToString(sum[:8])+".jsonl")
}

// load reads what an earlier reading kept. A last line that was cut off when the machine stopped is left out.
func (r *folderReading) load() {
	r.kept = map[string]media.Item{}
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
		var item media.Item
		if json.Unmarshal(lines.Bytes(), &item) == nil {
			r.kept[item.Path] = item
		}
	}
}

// keep begins the file anew with what is still good, so that it does not grow with every reading.
func (r *folderReading) keep(items []media.Item) error {
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
	kept := make([]media.Item, 0, len(r.kept))
	for _, item := range r.kept {
		kept = append(kept, item)
	}
	if err := r.keep(kept); err != nil {
		return err
	}
	began := time.Now()
	e := json.NewEncoder(r.log)
	var keepErr error
	c, err := media.Folder(ctx, r.fsys, media.Reading{Known: r.kept, Each: func(i media.Item) { keepErr = cmp.Or(keepErr, e.Encode(i)) },
		Tell: func(p media.Progress) {
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
	todo := media.Heaviest(items)
	if r.parts {
		todo = slices.DeleteFunc(todo, func(i int) bool { return media.DepthOf(media.File{Format: items[i].Format}) == media.ByReading })
	}
	for _, name := range asked {
		i := slices.IndexFunc(items, func(i media.Item) bool { return i.Path == filepath.ToSlash(name) })
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
		r.app.note("Reading the rates of %s: %s have to be read through%s. Ctrl-C leaves it at the heads.", wording.Count(len(todo), "film"), gigabytes(through), how)
	}
	for _, i := range todo {
		item := items[i]
		begun := done
		deep, err := media.Deepen(ctx, r.fsys, item, func(at int64) {
			if through > 0 {
				r.app.progress("Reading rates: %s of %s, %s", gigabytes(begun+at), gigabytes(through), item.Path)
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
func (r *folderReading) speed(item media.Item) float64 {
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

func gigabytes(n int64) string {
	if n < 1e9 {
		return fmt.Sprintf("%.1f MB", float64(n)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(n)/1e9)
}

// shownFolder is what programs get of a reading.
type shownFolder struct {
	Folder  dossier.ID[dossier.Folder] `json:"folder"`
	Place   string                     `json:"place"`
	Stopped bool                       `json:"stopped,omitzero"`
	Mix     []dossier.FormatEntry      `json:"mix"`
	Items   []media.Item               `json:"items"`
	Covers  int                        `json:"covers,omitzero"`
	Ignored int                        `json:"ignored,omitzero"`
}

func (r *folderReading) show(d *dossier.Dossier, list bool) error {
	a, c := r.app, r.contents
	mix := media.Mix(c.Items)
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
			rows = append(rows, []string{i.Path, lengthOf(i.Seconds), wording.Format(i.Format), wording.Troubles[string(i.Trouble)]})
		}
		return a.show(nil, []string{"File", "Length", "Format", "Trouble"}, rows)
	}
	for _, e := range mix {
		rows = append(rows, []string{fmt.Sprint(e.Items), hoursOf(e.Hours), wording.FormatTerm(e.Container), wording.Picture(e), strings.Trim(wording.Sound(e)+"; "+wording.Subtitles(e), "; "), rateOf(e)})
	}
	if a.format == "table" {
		a.say("%s at %s: %s, %s, %s.", d.FullLabel(r.folder.ID.Ref()), r.place, wording.Count(len(c.Items), "item"), hoursOf(hours), gigabytes(bytes))
	}
	if err := a.show(nil, []string{"Items", "Length", "Container", "Picture", "Sound and subtitles", "Needs"}, rows); err != nil {
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
	by := map[media.Trouble][]string{}
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

func hoursOf(h float64) string {
	switch {
	case h == 0:
		return ""
	case h < 1.0/60:
		return fmt.Sprintf("%.0f s", max(1, h*3600))
	case h < 1:
		return fmt.Sprintf("%.0f min", h*60)
	case h < 10:
		return fmt.Sprintf("%.1f h", h)
	}
	return fmt.Sprintf("%.0f h", h)
}

func lengthOf(seconds float64) string {
	if seconds == 0 {
		return ""
	}
	return (time.Duration(seconds) * time.Second).String()
}

// rateOf says the rate that an entry needs, and how that is known.
func rateOf(e dossier.FormatEntry) string {
	switch {
	case e.Needed5Mbps > 0:
		return mbps(e.Needed5Mbps) + ", read"
	case e.Video != "" && e.AverageMbps > 0:
		return mbps(demand.RateNeeded(e).Mbps) + ", estimated"
	case e.AverageMbps > 0 && e.Sound != "":
		return mbps(e.AverageMbps) + ", average"
	case demand.RateNeeded(e).Known == dossier.KnownAssumed:
		return mbps(demand.RateNeeded(e).Mbps) + ", assumed"
	}
	return ""
}

func mbps(n float64) string {
	if n < 1 {
		return fmt.Sprintf("%.2f Mb/s", n)
	}
	return fmt.Sprintf("%.1f Mb/s", n)
}

// record writes the mix and the number of items to the folder's record.
func (r *folderReading) record(ctx context.Context) error {
	if r.contents.Stopped {
		return errors.New("the folder has not been read completely, so nothing was recorded; run the command again to continue")
	}
	good := 0
	for _, i := range r.contents.Items {
		if i.Trouble == "" {
			good++
		}
	}
	return r.set(ctx, "Recorded the mix of", wire.Record{"mix": media.Mix(r.contents.Items), "itemsOnDisk": good})
}

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
