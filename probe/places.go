package probe

import (
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"net/netip"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/cloudsoda/go-smb2"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/titles"
)

// placePorts are the registered ports of what a place can be.
var placePorts = map[string]uint16{"smb": 445, "nfs": 2049}

// mostListed bounds what one directory of a place may hold.
const mostListed = 200_000

// OpenPlace opens a directory of a file server for reading: smb://server/share/directory, or
// nfs://server/export/directory (RFC 2224). Close ends it. Its files are io.ReaderAt, and several may be read side by
// side. Nothing is written.
func (g HomeGuard) OpenPlace(ctx context.Context, place *url.URL, as Login) (fsys fs.FS, close func(), err error) {
	port := placePorts[place.Scheme]
	if port == 0 {
		return nil, nil, fmt.Errorf("%w: %q is neither smb:// nor nfs://", contents.ErrPlace, place.Scheme)
	}
	if p := place.Port(); p != "" {
		n, err := strconv.ParseUint(p, 10, 16)
		if err != nil || n == 0 {
			return nil, nil, fmt.Errorf("%w: %s is not a port", contents.ErrPlace, p)
		}
		port = uint16(n)
	}
	addr, err := netip.ParseAddr(place.Hostname())
	if err != nil {
		return nil, nil, fmt.Errorf("%w: write the server's address instead of %q", contents.ErrPlace, place.Hostname())
	}
	at := netip.AddrPortFrom(addr, port)
	if err := g.Allow(addr); err != nil {
		return nil, nil, err
	}
	if place.Scheme == "smb" {
		return g.openShare(ctx, at, place.Path, as)
	}
	return g.openExport(ctx, at, place.Path)
}

// openShare opens a directory of a share.
func (g HomeGuard) openShare(ctx context.Context, at netip.AddrPort, where string, as Login) (fs.FS, func(), error) {
	name, dir, _ := strings.Cut(strings.Trim(where, "/"), "/")
	if name == "" {
		return nil, nil, fmt.Errorf("%w: the name of the share is missing; write smb://server/share", contents.ErrPlace)
	}
	session, err := g.openSession(ctx, at, as)
	if err != nil {
		return nil, nil, fmt.Errorf("open the file server %s: %w", at.Addr(), err)
	}
	stop := context.AfterFunc(ctx, func() { _ = session.conn.Close() })
	share, err := session.Mount(name)
	if err != nil {
		stop()
		session.close()
		return nil, nil, fmt.Errorf("open the share %s: %w", name, err)
	}
	return shareFS{share.WithContext(ctx), strings.Trim(dir, "/")}, func() { stop(); _ = share.Umount(); session.close() }, nil
}

// shareFS is a directory of a share.
type shareFS struct {
	share *smb2.Share
	dir   string
}

func (f shareFS) at(name string) string {
	return strings.ReplaceAll(strings.TrimPrefix(path.Join(f.dir, name), "."), "/", `\`)
}

// Open opens a file.
func (f shareFS) Open(name string) (fs.File, error) {
	file, err := f.share.Open(f.at(name))
	if err != nil {
		return nil, err
	}
	return file, nil
}

// Stat describes a file or directory.
func (f shareFS) Stat(name string) (fs.FileInfo, error) { return f.share.Stat(f.at(name)) }

// ReadDir lists a directory; one without end is given up.
func (f shareFS) ReadDir(name string) ([]fs.DirEntry, error) {
	all, whole, err := listShare(f.share, f.at(name), mostListed)
	if err == nil && !whole {
		err = errEndless
	}
	out := make([]fs.DirEntry, len(all))
	for i, one := range all {
		out[i] = fs.FileInfoToDirEntry(one)
	}
	return out, err
}

// stat is a file or directory as it was listed.
type stat struct {
	name     string
	size     int64
	modified time.Time
	mode     fs.FileMode
}

func (s stat) Name() string       { return s.name }
func (s stat) Size() int64        { return s.size }
func (s stat) Mode() fs.FileMode  { return s.mode }
func (s stat) ModTime() time.Time { return s.modified }
func (s stat) IsDir() bool        { return s.mode.IsDir() }
func (s stat) Sys() any           { return nil }

// nfsRead is the procedure that reads a part of a file (RFC 1813, section 3.3.6), and nfsReadBytes how much is asked for at
// once.
const (
	nfsRead      = 6
	nfsReadBytes = 32 << 10
)

// exportOf is the export in which a directory lies: the longest of those that the server lists, or "" if it lists none that fits.
func (g HomeGuard) exportOf(ctx context.Context, at netip.Addr, ports []uint16, where string) string {
	best := ""
	exports, _ := g.exports(ctx, at, ports)
	for _, e := range exports {
		if e = "/" + strings.Trim(e, "/"); len(e) > len(best) && (where == e || strings.HasPrefix(where, strings.TrimSuffix(e, "/")+"/")) {
			best = e
		}
	}
	return best
}

// openExport opens a directory of an export: of one that the server lists, or else the longest beginning of the path that it
// mounts.
func (g HomeGuard) openExport(ctx context.Context, at netip.AddrPort, where string) (fs.FS, func(), error) {
	ports := g.mountPorts(ctx, at)
	where = "/" + strings.Trim(where, "/")
	var root []byte
	var err error
	below := ""
	for export := cmp.Or(g.exportOf(ctx, at.Addr(), ports, where), where); ; export = path.Dir(export) {
		if root, err = g.mount(ctx, at.Addr(), ports, export); err == nil || !errors.Is(err, errRPC) || export == "/" {
			below = strings.Trim(strings.TrimPrefix(where, export), "/")
			break
		}
	}
	if err != nil {
		return nil, nil, fmt.Errorf("open the export %s: %w", where, err)
	}
	r, err := g.rpcTo(ctx, at)
	if err != nil {
		return nil, nil, fmt.Errorf("open the export %s: %w", where, err)
	}
	f := &exportFS{disk: &nfsDisk{rpc: r, as: anonymous()}, known: map[string]nfsEntry{".": {nfsFileInfo: nfsFileInfo{kind: nfsDirectory}, handle: root}}}
	if below != "" {
		top, err := f.find(below)
		if err != nil {
			r.close()
			return nil, nil, fmt.Errorf("open %s: %w", where, err)
		}
		f.known = map[string]nfsEntry{".": top}
	}
	return f, r.close, nil
}

// exportFS is a directory of an export. One call is made at a time, as they go by one connection.
type exportFS struct {
	mu    sync.Mutex
	disk  *nfsDisk
	known map[string]nfsEntry // by path
}

// find looks a path up, step by step from what is known of it.
func (f *exportFS) find(name string) (nfsEntry, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	name = path.Clean(name)
	if e, known := f.known[name]; known {
		return e, nil
	}
	at := f.known["."]
	for _, step := range strings.Split(name, "/") {
		e, err := f.disk.lookup(at.handle, step)
		if err != nil {
			return nfsEntry{}, &fs.PathError{Op: "look up", Path: name, Err: err}
		}
		at = e
	}
	f.known[name] = at
	return at, nil
}

func (e nfsEntry) stat() stat {
	mode := fs.ModeIrregular
	switch e.kind {
	case nfsFile:
		mode = 0o444
	case nfsDirectory:
		mode = fs.ModeDir | 0o555
	}
	return stat{e.name, e.size, time.Unix(0, e.modified), mode}
}

// Open opens a file.
func (f *exportFS) Open(name string) (fs.File, error) {
	e, err := f.find(name)
	if err != nil {
		return nil, err
	}
	return &exportFile{part{of: e.stat()}, f, e.handle}, nil
}

// Stat describes a file or directory.
func (f *exportFS) Stat(name string) (fs.FileInfo, error) {
	e, err := f.find(name)
	if err != nil {
		return nil, err
	}
	return e.stat(), nil
}

// ReadDir lists a directory. What it lists need not be looked up again.
func (f *exportFS) ReadDir(name string) ([]fs.DirEntry, error) {
	dir, err := f.find(name)
	if err != nil {
		return nil, err
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	all, whole, err := f.disk.list(dir.handle, mostListed)
	if err == nil && !whole {
		err = errEndless
	}
	out := make([]fs.DirEntry, 0, len(all))
	for _, e := range all {
		if strings.ContainsAny(e.name, "/\x00") {
			continue // no name of a file
		}
		f.known[path.Join(name, e.name)] = e
		out = append(out, fs.FileInfoToDirEntry(e.stat()))
	}
	slices.SortFunc(out, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return out, err
}

// part is what all files of places have in common. They are read from the middle only.
type part struct{ of stat }

// Stat describes the file.
func (p part) Stat() (fs.FileInfo, error) { return p.of, nil }

// Read is not offered: what is read is read at a place.
func (p part) Read([]byte) (int, error) { return 0, errors.ErrUnsupported }

// Close does nothing: nothing is held.
func (p part) Close() error { return nil }

// exportFile is a file of an export.
type exportFile struct {
	part
	fsys   *exportFS
	handle []byte
}

// ReadAt reads a part of the file.
func (f *exportFile) ReadAt(p []byte, off int64) (n int, err error) {
	f.fsys.mu.Lock()
	defer f.fsys.mu.Unlock()
	for n < len(p) {
		args := binary.BigEndian.AppendUint64(appendOpaque(nil, f.handle), uint64(off)+uint64(n))
		args = binary.BigEndian.AppendUint32(args, uint32(min(len(p)-n, nfsReadBytes)))
		answer, err := f.fsys.disk.rpc.call(rpcNFS, 3, nfsRead, f.fsys.disk.as, args)
		if err != nil {
			return n, err
		}
		x := xdr{answer}
		if status := x.word(); status != 0 {
			return n, nfsRefused(status)
		}
		x.attributes()
		count, end := x.word(), x.word() == 1
		data := x.skip(int(x.word()))
		if x.b == nil || int(count) != len(data) || len(data) > len(p)-n {
			return n, fmt.Errorf("%w: a part of the file is not right", errRPC)
		}
		n += copy(p[n:], data)
		if n < len(p) && (end || len(data) == 0) {
			return n, io.EOF
		}
	}
	return n, nil
}

// OpenDirectory opens a folder as its UPnP AV source lists it: titles as files, read by HTTP in parts, never as a whole.
func (p Prober) OpenDirectory(ctx context.Context, d *dossier.Dossier, folder dossier.Folder) (fs.FS, error) {
	f, err := p.container(ctx, d, folder)
	if err != nil {
		return nil, err
	}
	return f, nil
}

// Titles lists all items of a folder as its UPnP AV source has them, and reports whether that is certainly all.
func (p Prober) Titles(ctx context.Context, d *dossier.Dossier, folder dossier.Folder, tell func(int)) (list []titles.Entry, whole bool, err error) {
	f, err := p.container(ctx, d, folder)
	if err != nil {
		return nil, false, err
	}
	whole, err = eachItem(ctx, f.directory, f.known["."].id, func(in string, o object) {
		list = append(list, titles.Entry{Title: o.title, In: in, Kind: matching.ContentOf("", []string{o.class}), Bytes: o.res.size, At: o.res.address})
		if tell != nil && len(list)%pageSize == 0 {
			tell(len(list))
		}
	})
	if err != nil {
		return list, false, fmt.Errorf("list %s: %w", folder.Name, err)
	}
	return list, whole, nil
}

// container finds a folder in the list of its UPnP AV source.
func (p Prober) container(ctx context.Context, d *dossier.Dossier, folder dossier.Folder) (*directoryFS, error) {
	source, _ := d.Sources.Get(folder.Source)
	if source.Protocol != dossier.ProtocolUPnPAV {
		return nil, fmt.Errorf("%w: the source %s is not browsed over ContentDirectory", contents.ErrPlace, source.Name)
	}
	at := netip.AddrPortFrom(d.AddressOf(source), uint16(source.Port))
	if !at.Addr().IsValid() || source.Port == 0 {
		return nil, fmt.Errorf("%w: no address and port are recorded for the source %s", contents.ErrPlace, source.Name)
	}
	guard := p.Guard.ForHome(d)
	if err := guard.Allow(at.Addr()); err != nil {
		return nil, err
	}
	client := guard.Client()
	root, err := Describe(ctx, client, place(at, source.Locator))
	if err != nil {
		return nil, fmt.Errorf("ask the source %s: %w", source.Name, err)
	}
	directory, err := root.directory()
	if err != nil {
		return nil, fmt.Errorf("%w: the source %s has no ContentDirectory", contents.ErrPlace, source.Name)
	}
	o, there, err := folderNamed(ctx, directory, folder.Name)
	if err != nil {
		return nil, fmt.Errorf("look for %s in the source %s: %w", folder.Name, source.Name, err)
	}
	if !there {
		return nil, fmt.Errorf("%w: the source %s shows no folder %s", contents.ErrPlace, source.Name, folder.Name)
	}
	return &directoryFS{ctx: ctx, directory: directory, client: client, base: root.base, known: map[string]object{".": o}}, nil
}

// directoryFS is a container of a ContentDirectory.
type directoryFS struct {
	ctx       context.Context //nolint:containedctx // a file system has no other way
	directory *upnpClient
	client    *http.Client
	base      *url.URL

	mu    sync.Mutex
	known map[string]object
}

// fileName is what a title is called as a file: with the ending of its media type, if it has none.
func (o object) fileName() string {
	name := strings.Map(func(r rune) rune {
		if r == '/' || r < ' ' {
			return '_'
		}
		return r
	}, strings.TrimLeft(o.title, "."))
	if o.container {
		return cmp.Or(name, "_")
	}
	if end := path.Ext(name); len(end) >= 3 && len(end) <= 5 && !strings.ContainsAny(end, " ") {
		return name
	}
	if u, err := url.Parse(o.res.address); err == nil && len(path.Ext(u.Path)) >= 3 && len(path.Ext(u.Path)) <= 5 {
		return name + path.Ext(u.Path)
	}
	return name + endings[o.res.kind]
}

// endings are those of media types whose addresses have none.
var endings = map[string]string{"video/mp4": ".mp4", "video/x-matroska": ".mkv", "video/mp2t": ".ts", "video/vnd.dlna.mpeg-tts": ".m2ts", "video/mpeg": ".mpg", "video/x-msvideo": ".avi", "video/avi": ".avi", "video/webm": ".webm", "video/quicktime": ".mov",
	"audio/mpeg": ".mp3", "audio/mp4": ".m4a", "audio/x-m4a": ".m4a", "audio/flac": ".flac", "audio/x-flac": ".flac", "audio/wav": ".wav", "audio/x-wav": ".wav", "audio/ogg": ".ogg", "application/ogg": ".ogg", "image/jpeg": ".jpg", "image/png": ".png", "image/gif": ".gif"}

func (o object) stat() stat {
	if o.container {
		return stat{name: o.fileName(), mode: fs.ModeDir | 0o555}
	}
	return stat{name: o.fileName(), size: o.res.size, modified: o.res.date, mode: 0o444}
}

// ReadDir lists a container.
func (f *directoryFS) ReadDir(name string) ([]fs.DirEntry, error) {
	of, err := f.find(name)
	if err != nil {
		return nil, err
	}
	if strings.Count(name, "/") > mostDepth {
		return nil, errEndless
	}
	all, err := children(f.ctx, f.directory, of.id)
	if err != nil {
		return nil, err
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	var out []fs.DirEntry
	for _, o := range all.all {
		if !o.container && o.res.address == "" {
			continue // nothing to be fetched
		}
		one := o.stat()
		for n := 2; ; n++ { // two titles of one name are two files
			if _, taken := f.known[path.Join(name, one.name)]; !taken {
				break
			}
			end := path.Ext(o.fileName())
			one.name = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(o.fileName(), end), n, end)
		}
		f.known[path.Join(name, one.name)] = o
		out = append(out, listedTitle{one, f, path.Join(name, one.name)})
	}
	slices.SortFunc(out, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return out, nil
}

// listedTitle is a title or a container in a list.
type listedTitle struct {
	stat
	fsys *directoryFS
	path string
}

// Type is that of the file.
func (t listedTitle) Type() fs.FileMode { return t.mode.Type() }

// Info describes the title.
func (t listedTitle) Info() (fs.FileInfo, error) {
	known, err := t.fsys.Stat(t.path)
	if err != nil {
		return nil, err
	}
	t.stat.size = known.Size()
	return t.stat, nil
}

func (f *directoryFS) find(name string) (object, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	o, known := f.known[path.Clean(name)]
	if !known {
		return object{}, &fs.PathError{Op: "open", Path: name, Err: fs.ErrNotExist}
	}
	return o, nil
}

// Stat describes a title or a container.
func (f *directoryFS) Stat(name string) (fs.FileInfo, error) {
	o, err := f.sized(name)
	if err != nil {
		return nil, err
	}
	return o.stat(), nil
}

// sized finds a title. Its size, where the list does not give it, is asked for.
func (f *directoryFS) sized(name string) (object, error) {
	o, err := f.find(name)
	if err != nil || o.container || o.res.size > 0 {
		return o, err
	}
	file, err := f.fetched(name, o)
	if err != nil {
		return o, err
	}
	if o.res.size, err = file.size(); err != nil {
		return o, &fs.PathError{Op: "stat", Path: name, Err: err}
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.known[path.Clean(name)] = o
	return o, nil
}

// Open opens a title.
func (f *directoryFS) Open(name string) (fs.File, error) {
	o, err := f.sized(name)
	if err != nil {
		return nil, err
	}
	return f.fetched(name, o)
}

func (f *directoryFS) fetched(name string, o object) (*httpFile, error) {
	at, err := f.base.Parse(o.res.address)
	if err != nil || at.Scheme != "http" && at.Scheme != "https" {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrInvalid}
	}
	return &httpFile{part{of: o.stat()}, f, at}, nil
}

// size asks for the first byte, and reads how many there are.
func (f *httpFile) size() (int64, error) {
	resp, err := f.get(0, 1)
	if err != nil {
		return 0, err
	}
	_ = resp.Body.Close()
	_, whole, found := strings.Cut(resp.Header.Get("Content-Range"), "/")
	n, err := strconv.ParseInt(whole, 10, 64)
	if !found || err != nil || n < 0 {
		return 0, fmt.Errorf("%w: the server does not say how long the file is", errRubbish)
	}
	return n, nil
}

// httpFile is a title that is read by ranges of HTTP (RFC 9110, section 14).
type httpFile struct {
	part
	fsys *directoryFS
	at   *url.URL
}

// errWhole is returned where a server sends a whole file for a part of it.
var errWhole = errors.New("the server sends whole files only; reading parts of them is not supported there")

// get asks for a part of the title.
func (f *httpFile) get(off int64, n int) (*http.Response, error) {
	r, err := http.NewRequestWithContext(f.fsys.ctx, http.MethodGet, f.at.String(), nil)
	if err != nil {
		return nil, err
	}
	r.Header.Set("Range", fmt.Sprintf("bytes=%d-%d", off, off+int64(n)-1))
	r.Header.Set("Accept-Encoding", "identity")
	resp, err := f.fsys.client.Do(r)
	if err != nil {
		return nil, err
	}
	switch resp.StatusCode {
	case http.StatusPartialContent:
		if from, ok := rangeStart(resp.Header.Get("Content-Range")); ok && from == off {
			return resp, nil
		}
		err = fmt.Errorf("%w: it sent another part of the file", errRubbish)
	case http.StatusOK:
		err = errWhole
	case http.StatusRequestedRangeNotSatisfiable:
		err = io.EOF
	case http.StatusUnauthorized, http.StatusForbidden:
		err = fs.ErrPermission
	case http.StatusNotFound, http.StatusGone:
		err = fs.ErrNotExist
	default:
		err = fmt.Errorf("the server answered %s", resp.Status)
	}
	return nil, errors.Join(err, resp.Body.Close())
}

// ReadAt reads a part of the title.
func (f *httpFile) ReadAt(p []byte, off int64) (int, error) {
	resp, err := f.get(off, len(p))
	if err != nil {
		return 0, err
	}
	defer resp.Body.Close()
	n, err := io.ReadFull(resp.Body, p)
	if errors.Is(err, io.ErrUnexpectedEOF) {
		err = io.EOF
	}
	return n, err
}

// rangeStart reads where a part begins, such as 100 of "bytes 100-199/1000".
func rangeStart(header string) (int64, bool) {
	of, found := strings.CutPrefix(header, "bytes ")
	from, _, dash := strings.Cut(of, "-")
	n, err := strconv.ParseInt(from, 10, 64)
	return n, found && dash && err == nil
}

// resource is where a title can be fetched, and how large it is.
type resource struct {
	address string
	kind    string // media type
	size    int64  // in bytes; 0 if the list does not say
	date    time.Time
}

// mediaType is that of a protocolInfo (ConnectionManager:1, section 2.5.2).
func mediaType(protocol string) string {
	parts := strings.SplitN(protocol, ":", 4)
	if len(parts) < 3 {
		return ""
	}
	kind, _, err := mime.ParseMediaType(parts[2])
	if err != nil {
		return ""
	}
	return kind
}
