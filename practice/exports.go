package practice

import (
	"context"
	"encoding/binary"
	"errors"
	"io"
	"net"
	"net/netip"
	"sync"

	"kaiku/practice/layout"

	"github.com/go-git/go-billy/v5"
	"github.com/go-git/go-billy/v5/memfs"
	"github.com/go-git/go-billy/v5/util"
	nfs "github.com/willscott/go-nfs"
	nfshelper "github.com/willscott/go-nfs/helpers"
)

// exports is an NFS version 3 server with one export, and the mount service beside it that lists it
// (RFC 1813).
type exports struct {
	device *Device
	files  net.Listener
	mount  net.Listener
	conns  conns
	done   sync.WaitGroup
}

// conns are the open connections of a listener, so that they can be closed with it.
type conns struct {
	mu  sync.Mutex
	all map[net.Conn]bool
}

type kept struct {
	net.Listener
	conns *conns
}

// Accept keeps what it accepts.
func (k kept) Accept() (net.Conn, error) {
	c, err := k.Listener.Accept()
	if err == nil {
		k.conns.mu.Lock()
		defer k.conns.mu.Unlock()
		if k.conns.all == nil {
			k.conns.all = map[net.Conn]bool{}
		}
		k.conns.all[c] = true
	}
	return c, err
}

func (c *conns) close() {
	c.mu.Lock()
	defer c.mu.Unlock()
	for one := range c.all {
		_ = one.Close()
	}
	c.all = nil
}

func (e *exports) start(ctx context.Context, d *Device) error {
	e.device = d
	files, err := (&net.ListenConfig{}).Listen(ctx, "tcp4", netip.AddrPortFrom(d.Address.Addr(), layout.ExportPort).String())
	if err != nil {
		return err
	}
	mount, err := (&net.ListenConfig{}).Listen(ctx, "tcp4", netip.AddrPortFrom(d.Address.Addr(), layout.MountPort).String())
	if err != nil {
		return errors.Join(err, files.Close())
	}
	e.files, e.mount = kept{files, &e.conns}, kept{mount, &e.conns}
	disk, err := onDisk()
	if err != nil {
		return errors.Join(err, files.Close(), mount.Close())
	}
	handler := nfshelper.NewCachingHandler(nfshelper.NewNullAuthHandler(disk), 1024)
	e.done.Go(func() { _ = nfs.Serve(e.files, handler) })
	e.done.Go(e.list)
	return nil
}

func (e *exports) stop() {
	if e.files != nil {
		_ = errors.Join(e.files.Close(), e.mount.Close())
		e.conns.close()
		e.done.Wait()
		e.files = nil
	}
}

// onDisk is what the export holds: the films and music of the house as files.
func onDisk() (billy.Filesystem, error) {
	disk := memfs.New()
	for _, f := range granite {
		for _, i := range f.items {
			if err := util.WriteFile(disk, "/"+f.title+"/"+i.file, i.clip(), 0o644); err != nil {
				return nil, err
			}
		}
	}
	return disk, nil
}

// list answers the mount service's EXPORT (RFC 1813, appendix I, procedure 5).
func (e *exports) list() {
	for {
		c, err := e.mount.Accept()
		if err != nil {
			return
		}
		e.done.Go(func() {
			defer c.Close()
			for e.answer(c) == nil {
			}
		})
	}
}

func (e *exports) answer(c net.Conn) error {
	var head [4]byte
	if _, err := io.ReadFull(c, head[:]); err != nil {
		return err
	}
	size := binary.BigEndian.Uint32(head[:]) &^ (1 << 31)
	if size < 40 || size > 4096 {
		return errors.New("no call")
	}
	call := make([]byte, size)
	if _, err := io.ReadFull(c, call); err != nil {
		return err
	}
	word := func(n int) uint32 { return binary.BigEndian.Uint32(call[4*n:]) }
	words := func(b []byte, all ...uint32) []byte {
		for _, w := range all {
			b = binary.BigEndian.AppendUint32(b, w)
		}
		return b
	}
	out := words(nil, word(0), 1, 0, 0, 0, 0) // accepted, done
	switch procedure := word(5); {
	case word(3) != 100005:
		out = words(nil, word(0), 1, 0, 0, 0, 1) // no such program
	case procedure == 5 && !e.device.on("exports-closed"):
		const name = "/kelp"
		out = append(words(out, 1, uint32(len(name))), name...)
		out = append(out, make([]byte, (4-len(name)%4)%4)...)
		out = words(out, 0, 0) // for all groups; no more exports
	case procedure == 5:
		out = words(out, 0)
	case procedure != 0:
		out = words(nil, word(0), 1, 0, 0, 0, 3) // no such procedure
	}
	_, err := c.Write(append(words(nil, uint32(len(out))|1<<31), out...))
	return err
}
