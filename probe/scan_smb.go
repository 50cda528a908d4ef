package probe

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"net"
	"net/netip"
	"os"
	"path"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/cloudsoda/go-smb2"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Bounds of what is looked at of a file server.
const (
	mostShares    = 16
	mostOfFolder  = 5000           // entries that are counted in one folder
	mostName      = 1024           // bytes of a name; file systems allow 255 characters
	mostLogin     = 256 << 10      // bytes of the answers to a log-in
	mostShareList = 1 << 20        // bytes of the list of shares
	mostFrame     = 1<<20 + 64<<10 // bytes of one answer: nothing longer than 1 MB is asked for
)

// framed is a connection by which no answer comes that is longer than mostFrame: its reader makes room for as
// much as the first four bytes of an answer announce, before anything of it has come (MS-SMB2, section 2.1).
type framed struct {
	net.Conn
	head [4]byte
	have int // bytes of the head
	left int // bytes of the answer that are still to come

	spare atomic.Int64 // bytes that may still come
}

var errFrame = errors.New("a longer answer was announced than any file server gives")

// limited lets no more than so many bytes come while something is done.
func (f *framed) limited(bytes int64, do func()) {
	f.spare.Store(bytes)
	defer f.spare.Store(math.MaxInt64)
	do()
}

// Read reads what comes next, either of a head or of what follows it.
func (f *framed) Read(p []byte) (int, error) {
	if f.left > 0 {
		n, err := f.Conn.Read(p[:min(len(p), f.left)])
		f.left -= n
		return n, err
	}
	n, err := f.Conn.Read(p[:min(len(p), len(f.head)-f.have)])
	copy(f.head[f.have:], p[:n])
	if f.have += n; f.have < len(f.head) {
		return n, err
	}
	size := binary.BigEndian.Uint32(f.head[:])
	if size > mostFrame || f.spare.Add(-int64(size)) < 0 {
		return 0, errFrame
	}
	f.have, f.left = 0, int(size)
	return n, err
}

// Login is how shares are opened; the zero value is as a guest.
type Login struct{ User, Password string }

// opened is a session with a file server, and the connection it goes by.
type opened struct {
	*smb2.Session
	conn *framed
}

// close ends it.
func (o opened) close() {
	_ = o.Logoff() // the connection is closed after it in any case
	_ = o.conn.Close()
}

// openSession logs in at a file server, as a guest if no user is given, within the time of ctx.
func (g HomeGuard) openSession(ctx context.Context, at netip.AddrPort, user Login) (opened, error) {
	conn, err := g.Dial(ctx, "tcp", at.String())
	if err != nil {
		return opened{}, err
	}
	if until, ok := ctx.Deadline(); ok {
		_ = conn.SetDeadline(until)
	}
	if user.User == "" {
		user.User = "guest"
	}
	bounded := &framed{Conn: conn}
	bounded.spare.Store(mostLogin)
	defer bounded.spare.Store(math.MaxInt64)
	session, err := (&smb2.Dialer{Initiator: &smb2.NTLMInitiator{User: user.User, Password: user.Password}}).DialConn(ctx, bounded, at.String())
	if err != nil {
		return opened{}, errors.Join(err, conn.Close())
	}
	return opened{session.WithContext(ctx), bounded}, nil
}

// smb lists the shares of a file server, reads what lies at their top, and proves whether whoever
// may read may also write. What it makes for that it removes at once.
func (s *segmentScan) smb(ctx context.Context, at netip.AddrPort, one service) matching.Question {
	session, err := s.guard.openSession(ctx, at, s.login)
	if err != nil {
		return matching.Question{Ended: smbEnd(ctx, err), Detail: err.Error()}
	}
	defer session.close()
	s.host(at.Addr(), func(h *matching.Host) { addRole(h, dossier.RoleServer, matching.BySMB) })
	var names []string
	session.conn.limited(mostShareList, func() { names, err = session.ListSharenames() })
	if err != nil {
		return matching.Question{Ended: smbEnd(ctx, err), Detail: err.Error()}
	}
	names = slices.DeleteFunc(names, func(n string) bool { return strings.HasSuffix(n, "$") })
	slices.Sort(names)
	q := matching.Question{Ended: matching.Empty, LeftOut: max(len(names)-mostShares, 0)}
	for _, name := range names[:min(len(names), mostShares)] {
		q.Ended = matching.Answered
		q.Answers++
		if left := s.share(ctx, session.Session, at, name); left != "" {
			q.Detail = left
			s.note("share " + name + " at " + at.Addr().String() + ": " + left)
		}
		if ctx.Err() != nil {
			q.LeftOut += len(names) - q.Answers
			break
		}
	}
	return q
}

// smbEnd tells a refusal of the server from silence.
func smbEnd(ctx context.Context, err error) matching.Ended {
	var said *smb2.ResponseError
	switch {
	case errors.As(err, &said), os.IsPermission(err):
		return matching.Denied
	case overdue(ctx) || isTimeout(err):
		return matching.Silent
	}
	return endOf(err)
}

// share notes one share. It returns what there is to say of it beside, such as that something was
// left behind.
func (s *segmentScan) share(ctx context.Context, session *smb2.Session, at netip.AddrPort, name string) string {
	began := time.Now()
	q := matching.Question{Way: matching.BySMB, Port: int(at.Port()), Ended: matching.Answered, Detail: "share " + name}
	defer func() {
		q.Seconds = secondsSince(began)
		s.answered(at.Addr(), q)
	}()
	place := 0
	s.source(at, dossier.ProtocolSMB, "/"+name, name, matching.BySMB, func(_ *matching.Host, n int) { place = n })
	share, err := session.Mount(name)
	if err != nil {
		q.Ended, q.Detail = smbEnd(ctx, err), "share "+name+": "+err.Error()
		return ""
	}
	defer func() { _ = share.Umount() }()
	share = share.WithContext(ctx)
	top, whole, err := listShare(share, "", mostOfFolder)
	if err != nil {
		q.Ended, q.Detail = smbEnd(ctx, err), "share "+name+": "+err.Error()
		return ""
	}
	q.Answers = len(top)
	if !whole {
		q.LeftOut, q.Detail = 1, "share "+name+": more than was listed"
	}
	for _, name := range foldersOf(top) {
		files, whole := filesIn(share, name)
		s.host(at.Addr(), func(h *matching.Host) {
			n := h.Add("folder", place)
			h.Say(n, "name", name, matching.BySMB)
			h.Say(n, "contentKind", matching.ContentOf(name, nil), matching.BySMB)
			if whole {
				h.Say(n, "itemsOnDisk", len(files), matching.BySMB)
			}
		})
	}
	can, left := canWrite(share)
	s.host(at.Addr(), func(h *matching.Host) { h.Say(place, "writable", can, matching.BySMB) })
	if left != "" {
		q.Detail = left
	}
	return left
}

// listShare lists a directory, and reports whether that is all: one without end is given up.
func listShare(share *smb2.Share, dir string, most int) ([]fs.FileInfo, bool, error) {
	f, err := share.Open(dir)
	if err != nil {
		return nil, false, err
	}
	defer func() { _ = f.Close() }()
	out, whole, err := listDir(f, most)
	slices.SortFunc(out, func(a, b fs.FileInfo) int { return strings.Compare(a.Name(), b.Name()) })
	return out, whole, err
}

// listDir reads at most so many entries of an open directory, one by one: the reader holds no more of an answer
// than it has been asked for and the rest of that one.
func listDir(dir interface {
	Readdir(n int) ([]fs.FileInfo, error)
}, most int) (out []fs.FileInfo, whole bool, err error) {
	for len(out) < most {
		next, err := dir.Readdir(1)
		if errors.Is(err, io.EOF) {
			return out, true, nil
		}
		if err != nil {
			return nil, false, err
		}
		for _, e := range next {
			if len(e.Name()) > mostName {
				return nil, false, fmt.Errorf("a name of %d bytes", len(e.Name()))
			}
		}
		out = append(out, next...)
	}
	return out, false, nil
}

// foldersOf lists the folders among the entries at the top of a share, hidden ones left out.
func foldersOf(top []fs.FileInfo) []string {
	var out []string
	for _, e := range top {
		if e.IsDir() && !strings.HasPrefix(e.Name(), ".") && len(out) < mostFolders {
			out = append(out, e.Name())
		}
	}
	slices.Sort(out)
	return out
}

// filesIn lists the files in a folder and below it, and reports whether that is all.
func filesIn(share *smb2.Share, folder string) (files []string, whole bool) {
	level, left := []string{folder}, mostOfFolder
	for depth := 0; len(level) > 0; depth++ {
		var below []string
		for _, dir := range level {
			if depth > mostDepth || left <= 0 {
				return files, false
			}
			entries, whole, err := listShare(share, dir, left)
			if err != nil || !whole {
				return files, false
			}
			left -= len(entries)
			for _, e := range entries {
				switch {
				case strings.HasPrefix(e.Name(), "."):
				case e.IsDir():
					below = append(below, path.Join(dir, e.Name()))
				default:
					files = append(files, e.Name())
				}
			}
		}
		level = below
	}
	return files, true
}

// canWrite proves whether a file can be made at the top of a share: an empty one of a name that
// nobody has, removed at once. If that fails, it says what was left behind.
func canWrite(share *smb2.Share) (answer dossier.Answer, left string) {
	left, err := makeFile(share, unusedName())
	switch {
	case err == nil:
		return dossier.Yes, left
	case errors.Is(err, fs.ErrPermission) || os.IsPermission(err):
		return dossier.No, ""
	}
	return "", ""
}

// unusedName is a name that no file or directory has yet.
func unusedName() string { return "kaiku-may-be-removed-" + rand.Text()[:8] }

// makeFile makes an empty file on a share and removes it at once. Where that fails it says what is left.
func makeFile(share *smb2.Share, name string) (left string, err error) {
	f, err := share.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o600)
	if err != nil {
		return "", err
	}
	_ = f.Close() // before it is removed: an open file cannot be
	if err := share.Remove(name); err != nil {
		return fmt.Sprintf("the file %s could not be removed again: %v", name, err), nil
	}
	return "", nil
}
