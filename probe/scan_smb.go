package probe

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/netip"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/cloudsoda/go-smb2"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Bounds of what is looked at of a file server.
const (
	mostShares   = 16
	mostOfFolder = 5000 // entries that are counted in one folder
)

// Login is how shares are opened; the zero value is as a guest.
type Login struct{ User, Password string }

// opened is a session with a file server, and the connection it goes by.
type opened struct {
	*smb2.Session
	conn net.Conn
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
	session, err := (&smb2.Dialer{Initiator: &smb2.NTLMInitiator{User: user.User, Password: user.Password}}).DialConn(ctx, conn, at.String())
	if err != nil {
		return opened{}, errors.Join(err, conn.Close())
	}
	return opened{session.WithContext(ctx), conn}, nil
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
	names, err := session.ListSharenames()
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
	top, err := share.ReadDir("")
	if err != nil {
		q.Ended, q.Detail = smbEnd(ctx, err), "share "+name+": "+err.Error()
		return ""
	}
	q.Answers = len(top)
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
			entries, err := share.ReadDir(dir)
			if err != nil {
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
	name := "kaiku-may-be-removed-" + rand.Text()[:8]
	f, err := share.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o600)
	if err != nil {
		if errors.Is(err, fs.ErrPermission) || os.IsPermission(err) {
			return dossier.No, ""
		}
		return "", ""
	}
	_ = f.Close() // before it is removed: an open file cannot be
	if err := share.Remove(name); err != nil {
		return dossier.Yes, fmt.Sprintf("the file %s could not be removed again: %v", name, err)
	}
	return dossier.Yes, ""
}
