package probe

import (
	"bytes"
	"cmp"
	"context"
	"encoding/binary"
	"fmt"
	"io/fs"
	"math"
	"net/netip"
	"strings"
	"time"

	"kaiku/core/matching"
)

// Procedures of the mount service and of NFS version 3, the kinds of file, and the bounds of one call (RFC 1813,
// sections 2.3.5, 2.6 and 3.3, and appendix I).
const (
	mountMount   = 1
	nfsLookup    = 3
	nfsReadDir   = 17 // READDIRPLUS
	nfsFile      = 1
	nfsDirectory = 2
	attributes3  = 84
	handle3      = 64
	readDirBytes = 32 << 10
)

// anonymous are the credentials of a user whom every server knows as nobody (RFC 5531, appendix A): without any,
// most refuse.
func anonymous() []byte {
	const system, nobody = 1, 65534
	name := "kaiku"
	body := binary.BigEndian.AppendUint32(nil, uint32(time.Now().Unix()))
	body = appendOpaque(body, []byte(name))
	for _, word := range []uint32{nobody, nobody, 0} {
		body = binary.BigEndian.AppendUint32(body, word)
	}
	return appendOpaque(binary.BigEndian.AppendUint32(nil, system), body)
}

// appendOpaque writes bytes with their length, filled up to a word (RFC 4506, section 4.10).
func appendOpaque(b, value []byte) []byte {
	b = append(binary.BigEndian.AppendUint32(b, uint32(len(value))), value...)
	return append(b, make([]byte, (4-len(value)%4)%4)...)
}

// export notes the folders at the top of an export, each with the files in it.
func (s *segmentScan) export(ctx context.Context, at netip.AddrPort, ports []uint16, name string, place int) {
	began := time.Now()
	q := matching.Question{Way: matching.ByNFS, Port: int(at.Port()), Ended: matching.Answered, Detail: "export " + name}
	defer func() {
		q.Seconds = secondsSince(began)
		s.answered(at.Addr(), q)
	}()
	failed := func(err error) { q.Ended, q.Detail = rpcEnd(err), "export "+name+": "+err.Error() }
	root, err := s.guard.mount(ctx, at.Addr(), ports, name)
	if err != nil {
		failed(err)
		return
	}
	r, err := s.guard.rpcTo(ctx, at)
	if err != nil {
		failed(err)
		return
	}
	defer r.close()
	disk := &nfsDisk{rpc: r, as: anonymous()}
	top, whole, err := disk.list(root, mostOfFolder)
	if err != nil {
		failed(err)
		return
	}
	if q.Answers = len(top); len(top) == 0 {
		q.Ended = matching.Empty
	}
	if !whole {
		q.LeftOut, q.Detail = 1, "export "+name+": more than was listed"
	}
	folders := 0
	for _, e := range top {
		if e.kind != nfsDirectory || strings.HasPrefix(e.name, ".") {
			continue
		}
		if folders++; folders > mostFolders {
			q.LeftOut++
			continue
		}
		files, whole := disk.count(e)
		s.host(at.Addr(), func(h *matching.Host) {
			n := h.Add("folder", place)
			h.Say(n, "name", e.name, matching.ByNFS)
			h.Say(n, "contentKind", matching.ContentOf(e.name, nil), matching.ByNFS)
			if whole {
				h.Say(n, "itemsOnDisk", files, matching.ByNFS)
			}
		})
		if ctx.Err() != nil {
			q.LeftOut++
			return
		}
	}
}

// mount asks for the handle of an export, at each port where the mount service may be.
func (g HomeGuard) mount(ctx context.Context, at netip.Addr, ports []uint16, name string) (handle []byte, err error) {
	for _, port := range ports {
		var r *rpc
		if r, err = g.rpcTo(ctx, netip.AddrPortFrom(at, port)); err != nil {
			continue
		}
		var answer []byte
		answer, err = r.call(rpcMount, 3, mountMount, anonymous(), appendOpaque(nil, []byte(name)))
		r.close()
		if err != nil {
			continue
		}
		x := xdr{answer}
		if status := x.word(); status != 0 {
			return nil, nfsRefused(status)
		}
		if handle = x.skip(int(x.word())); x.b == nil || len(handle) > handle3 {
			return nil, fmt.Errorf("%w: no handle of %s", errRPC, name)
		}
		return handle, nil
	}
	return nil, err
}

// nfsRefused is a status that is not success, named where a person can do something about it.
type nfsRefused uint32

// Error says it.
func (r nfsRefused) Error() string {
	why := map[nfsRefused]string{1: "not the owner", 2: "there is no such directory", 13: "access denied to the anonymous user", 70: "it is gone", 10004: "not supported", 10006: "a fault of the server"}[r]
	return fmt.Sprintf("%v: %s (status %d)", errRPC, cmp.Or(why, "refused"), uint32(r))
}

// Is gives it the meanings that callers of NFS and of a file system know.
func (r nfsRefused) Is(target error) bool {
	switch target {
	case errRPC:
		return true
	case fs.ErrPermission:
		return r == 1 || r == 13
	case fs.ErrNotExist:
		return r == 2
	}
	return false
}

// nfsEntry is one entry of a directory.
type nfsEntry struct {
	name string
	nfsFileInfo
	handle []byte
}

// nfsFileInfo is what is read of the attributes of a file (RFC 1813, section 2.6).
type nfsFileInfo struct {
	kind     uint32
	size     int64
	modified int64 // in nanoseconds of Unix time: a time would take thrice the room
}

// nfsDisk reads directories by one connection.
type nfsDisk struct {
	rpc *rpc
	as  []byte
}

// list returns the entries of a directory, about so many at most, and whether these are all.
func (d *nfsDisk) list(dir []byte, most int) (out []nfsEntry, whole bool, err error) {
	var cookie uint64
	verifier := make([]byte, 8)
	for len(out) < most {
		args := appendOpaque(nil, dir)
		args = append(binary.BigEndian.AppendUint64(args, cookie), verifier...)
		args = binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(args, readDirBytes/4), readDirBytes)
		answer, err := d.rpc.call(rpcNFS, 3, nfsReadDir, d.as, args)
		if err != nil {
			return out, false, err
		}
		page, err := readEntries(answer)
		if err != nil {
			return out, false, err
		}
		for _, e := range page.entries {
			if e.name == "." || e.name == ".." {
				continue
			}
			if e.kind == 0 || e.handle == nil && e.kind == nfsDirectory {
				if e, err = d.lookup(dir, e.name); err != nil {
					return out, false, err
				}
			}
			out = append(out, e)
		}
		if page.end {
			return out, true, nil
		}
		if len(page.entries) == 0 || page.cookie == cookie {
			return out, false, nil // it gives nothing more, and does not say that it is over
		}
		cookie, verifier = page.cookie, page.verifier
	}
	return out, false, nil
}

// lookup asks for what a directory did not say of an entry.
func (d *nfsDisk) lookup(dir []byte, name string) (nfsEntry, error) {
	answer, err := d.rpc.call(rpcNFS, 3, nfsLookup, d.as, appendOpaque(appendOpaque(nil, dir), []byte(name)))
	if err != nil {
		return nfsEntry{}, err
	}
	x := xdr{answer}
	if status := x.word(); status != 0 {
		return nfsEntry{}, nfsRefused(status)
	}
	e := nfsEntry{name: name, handle: bytes.Clone(x.skip(int(x.word())))}
	if e.nfsFileInfo = x.attributes(); x.b == nil {
		return nfsEntry{}, fmt.Errorf("%w: the answer ends early", errRPC)
	}
	return e, nil
}

// count counts the files in a directory and below it, and reports whether that is all.
func (d *nfsDisk) count(of nfsEntry) (files int, whole bool) {
	level, left := []nfsEntry{of}, mostOfFolder
	for depth := 0; len(level) > 0; depth++ {
		var below []nfsEntry
		for _, dir := range level {
			if depth > mostDepth || left <= 0 {
				return files, false
			}
			entries, all, err := d.list(dir.handle, mostOfFolder)
			if err != nil || !all {
				return files, false
			}
			left -= len(entries)
			for _, e := range entries {
				switch {
				case strings.HasPrefix(e.name, "."):
				case e.kind == nfsDirectory:
					below = append(below, e)
				case e.kind == nfsFile:
					files++
				default: // a link may lead to a file, or anywhere
					return files, false
				}
			}
		}
		level = below
	}
	return files, true
}

// nfsPage is one answer to a reading of a directory.
type nfsPage struct {
	entries  []nfsEntry
	cookie   uint64
	verifier []byte
	end      bool
}

// readEntries reads an answer to READDIRPLUS.
func readEntries(b []byte) (nfsPage, error) {
	x := xdr{b}
	if status := x.word(); status != 0 {
		return nfsPage{}, nfsRefused(status)
	}
	x.attributes()
	page := nfsPage{verifier: x.skip(8)}
	for x.word() == 1 && x.b != nil {
		x.skip(8) // the file's number
		name := x.skip(int(x.word()))
		e := nfsEntry{name: string(name)}
		page.cookie = uint64(x.word())<<32 | uint64(x.word())
		e.nfsFileInfo = x.attributes()
		if x.word() == 1 {
			e.handle = bytes.Clone(x.skip(int(x.word()))) // else each handle would keep the whole answer
		}
		if x.b == nil || len(e.handle) > handle3 || len(name) > mostName {
			return nfsPage{}, fmt.Errorf("%w: an entry of the directory is not right", errRPC)
		}
		page.entries = append(page.entries, e)
	}
	page.end = x.word() == 1
	if x.b == nil {
		return nfsPage{}, fmt.Errorf("%w: the directory ends early", errRPC)
	}
	return page, nil
}

// attributes reads the attributes of a file, if they are there.
func (x *xdr) attributes() nfsFileInfo {
	if x.word() != 1 {
		return nfsFileInfo{}
	}
	all := x.skip(attributes3)
	if len(all) < attributes3 {
		return nfsFileInfo{}
	}
	size := binary.BigEndian.Uint64(all[20:])
	return nfsFileInfo{binary.BigEndian.Uint32(all), int64(min(size, math.MaxInt64)), time.Unix(int64(binary.BigEndian.Uint32(all[68:])), int64(binary.BigEndian.Uint32(all[72:]))).UnixNano()}
}
