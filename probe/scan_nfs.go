package probe

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"net"
	"net/netip"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Programs of ONC RPC and their procedures (RFC 1833, RFC 1813 and its appendix I).
const (
	rpcPortmap, rpcNFS, rpcMount = 100000, 100003, 100005
	portmapGetPort               = 3
	mountExport                  = 5
	transportTCP                 = 6
)

// mountPort is where the mount service is by its registration with IANA, and portmapPort where one
// asks for it.
const (
	mountPort   = 20048
	portmapPort = 111
)

// nfs lists the exports of a file server: by the mount service, where the port mapper says it is,
// else at its registered port, else beside NFS itself.
func (s *segmentScan) nfs(ctx context.Context, at netip.AddrPort, one service) matching.Question {
	if _, err := s.guard.call(ctx, at, rpcNFS, 3, 0, nil); err != nil {
		return matching.Question{Ended: rpcEnd(err), Detail: err.Error()}
	}
	s.host(at.Addr(), func(h *matching.Host) { addRole(h, dossier.RoleServer, matching.ByNFS) })
	ports := s.guard.mountPorts(ctx, at)
	exports, err := s.guard.exports(ctx, at.Addr(), ports)
	switch {
	case errors.Is(err, errExports):
		return matching.Question{Ended: matching.Broken, Detail: err.Error()}
	case err != nil:
		if one.path != "" { // it serves, and does not list what
			s.source(at, dossier.ProtocolNFS, one.path, one.name, matching.ByNFS, nil)
		}
		return matching.Question{Ended: rpcEnd(err), Detail: "it serves NFS, and does not list its exports"}
	case len(exports) == 0:
		return matching.Question{Ended: matching.Empty, Detail: "no exports"}
	}
	for _, e := range exports {
		place := 0
		s.source(at, dossier.ProtocolNFS, e, one.name, matching.ByNFS, func(_ *matching.Host, n int) { place = n })
		s.export(ctx, at, ports, e, place)
	}
	return matching.Question{Ended: matching.Answered, Answers: len(exports)}
}

// mountPorts lists where the mount service of a file server may be: where the port mapper says, at its registered port, and
// beside NFS itself.
func (g HomeGuard) mountPorts(ctx context.Context, at netip.AddrPort) []uint16 {
	ports := []uint16{mountPort, at.Port()}
	if port, err := g.mountAt(ctx, at.Addr()); err == nil && port != 0 {
		ports = append([]uint16{port}, ports...)
	}
	return ports
}

// exports asks for the list of exports, at the first of the ports that answers.
func (g HomeGuard) exports(ctx context.Context, at netip.Addr, ports []uint16) ([]string, error) {
	var failed error
	for _, port := range ports {
		answer, err := g.call(ctx, netip.AddrPortFrom(at, port), rpcMount, 3, mountExport, nil)
		if err == nil {
			return readExports(answer)
		}
		failed = err
	}
	return nil, failed
}

func rpcEnd(err error) matching.Ended {
	if errors.Is(err, errRPC) {
		return matching.Denied
	}
	return endOf(err)
}

// mountAt asks the port mapper where the mount service is (RFC 1833, section 3).
func (g HomeGuard) mountAt(ctx context.Context, at netip.Addr) (uint16, error) {
	args := binary.BigEndian.AppendUint32(nil, rpcMount)
	args = binary.BigEndian.AppendUint32(args, 3)
	args = binary.BigEndian.AppendUint32(args, transportTCP)
	answer, err := g.call(ctx, netip.AddrPortFrom(at, portmapPort), rpcPortmap, 2, portmapGetPort, binary.BigEndian.AppendUint32(args, 0))
	if err != nil || len(answer) < 4 {
		return 0, err
	}
	return uint16(binary.BigEndian.Uint32(answer)), nil
}

// mostRPC bounds one answer.
const mostRPC = 64 << 10

var errRPC = errors.New("the call was not accepted")

// call makes one call without credentials over TCP (RFC 5531, sections 9 and 11). The libraries at
// hand dial by themselves, past the guard.
func (g HomeGuard) call(ctx context.Context, at netip.AddrPort, program, version, procedure uint32, args []byte) ([]byte, error) {
	r, err := g.rpcTo(ctx, at)
	if err != nil {
		return nil, err
	}
	defer r.close()
	return r.call(program, version, procedure, nil, args)
}

// rpc is a connection by which calls are made, one after the other.
type rpc struct {
	conn  net.Conn
	close func()
	id    uint32
}

func (g HomeGuard) rpcTo(ctx context.Context, at netip.AddrPort) (*rpc, error) {
	conn, err := g.Dial(ctx, "tcp", at.String())
	if err != nil {
		return nil, err
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	if until, ok := ctx.Deadline(); ok {
		_ = conn.SetDeadline(until)
	}
	return &rpc{conn: conn, close: func() { stop(); _ = conn.Close() }, id: 0x4b61696b}, nil
}

// call makes one call, without credentials where none are given.
func (r *rpc) call(program, version, procedure uint32, credentials, args []byte) ([]byte, error) {
	r.id++
	var m []byte
	for _, word := range []uint32{r.id, 0, 2, program, version, procedure} {
		m = binary.BigEndian.AppendUint32(m, word)
	}
	if credentials == nil {
		credentials = make([]byte, 8) // AUTH_NONE
	}
	m = append(append(m, credentials...), make([]byte, 8)...)
	m = append(m, args...)
	if _, err := r.conn.Write(append(binary.BigEndian.AppendUint32(nil, uint32(len(m))|1<<31), m...)); err != nil {
		return nil, err
	}
	answer, err := readRecord(r.conn)
	if err != nil {
		return nil, err
	}
	return accepted(answer, r.id)
}

// readRecord reads one record of fragments.
func readRecord(conn net.Conn) ([]byte, error) {
	var out []byte
	for {
		var head [4]byte
		if _, err := io.ReadFull(conn, head[:]); err != nil {
			return nil, err
		}
		word := binary.BigEndian.Uint32(head[:])
		size := int(word &^ (1 << 31))
		if len(out)+size > mostRPC {
			return nil, fmt.Errorf("%w: answer of more than %d bytes", errRPC, mostRPC)
		}
		part := make([]byte, size)
		if _, err := io.ReadFull(conn, part); err != nil {
			return nil, err
		}
		out = append(out, part...)
		if word&(1<<31) != 0 {
			return out, nil
		}
	}
}

// accepted returns what follows the head of an accepted reply.
func accepted(b []byte, id uint32) ([]byte, error) {
	r := xdr{b}
	got, kind, state := r.word(), r.word(), r.word()
	_ = r.word() // flavour of the verifier
	r.skip(int(r.word()))
	if result := r.word(); r.b == nil || got != id || kind != 1 || state != 0 || result != 0 {
		return nil, fmt.Errorf("%w: state %d, result %d", errRPC, state, result)
	}
	return r.b, nil
}

// xdr reads words and opaque bytes (RFC 4506). After a short read its bytes are nil.
type xdr struct{ b []byte }

func (x *xdr) word() uint32 {
	if len(x.b) < 4 {
		x.b = nil
		return 0
	}
	w := binary.BigEndian.Uint32(x.b)
	x.b = x.b[4:]
	return w
}

func (x *xdr) skip(n int) []byte {
	padded := n + (4-n%4)%4
	if n < 0 || padded > len(x.b) {
		x.b = nil
		return nil
	}
	out := x.b[:n]
	x.b = x.b[padded:]
	return out
}

var errExports = fmt.Errorf("%w: the list of exports ends early", errRPC)

// mostExports bounds the list.
const mostExports = 64

// readExports reads the list of exports: directories, each with the groups that may have it.
func readExports(b []byte) ([]string, error) {
	r := xdr{b}
	var out []string
	for r.word() == 1 && len(out) < mostExports {
		name := r.skip(int(r.word()))
		if r.b == nil {
			break
		}
		out = append(out, matching.Clean(string(bytes.TrimRight(name, "\x00"))))
		for r.word() == 1 && r.b != nil {
			r.skip(int(r.word()))
		}
	}
	if r.b == nil {
		return out, errExports
	}
	return out, nil
}
