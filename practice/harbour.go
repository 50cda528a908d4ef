package practice

import (
	"bytes"
	"context"
	"net"
	"time"

	"github.com/bluenviron/gortsplib/v4"
	"github.com/bluenviron/gortsplib/v4/pkg/base"
	"github.com/bluenviron/gortsplib/v4/pkg/description"
	"github.com/bluenviron/gortsplib/v4/pkg/format"
	"github.com/pion/rtp"
)

// named is a listener whose answers name the stand-in, where the library names itself.
type named struct{ net.Listener }

type namedConn struct{ net.Conn }

// Accept hands on connections whose answers are named.
func (n named) Accept() (net.Conn, error) {
	c, err := n.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return namedConn{c}, nil
}

// Write puts the stand-in's product in the place of the library's, which is as long.
func (c namedConn) Write(b []byte) (int, error) {
	return c.Conn.Write(bytes.Replace(b, []byte("Server: gortsplib\r\n"), []byte("Server: Harbour/1\r\n"), 1))
}

// harbour is an RTSP source: one picture stream for all who ask (RFC 2326).
type harbour struct {
	device *Device
	server *gortsplib.Server
	stream *gortsplib.ServerStream
	cancel context.CancelFunc
	done   chan struct{}
}

// Parameter sets of a small H.264 picture, so that a client knows what comes.
var (
	harbourSPS = []byte{0x67, 0x42, 0xc0, 0x1e, 0xd9, 0x00, 0xa0, 0x47, 0xfe, 0xc8}
	harbourPPS = []byte{0x68, 0xce, 0x3c, 0x80}
)

func (h *harbour) start(_ context.Context, d *Device) error {
	h.device = d
	h.server = &gortsplib.Server{Handler: h, RTSPAddress: d.Address.String(), WriteTimeout: 2 * time.Second,
		Listen: func(network, address string) (net.Listener, error) {
			l, err := net.Listen(network, address)
			return named{l}, err
		}}
	if err := h.server.Start(); err != nil {
		return err
	}
	media := &description.Media{Type: description.MediaTypeVideo, Formats: []format.Format{&format.H264{PayloadTyp: 96, SPS: harbourSPS, PPS: harbourPPS, PacketizationMode: 1}}}
	h.stream = &gortsplib.ServerStream{Server: h.server, Desc: &description.Session{Title: d.Name, Medias: []*description.Media{media}}}
	if err := h.stream.Initialize(); err != nil {
		h.server.Close()
		return err
	}
	ctx, cancel := context.WithCancel(context.Background())
	h.cancel, h.done = cancel, make(chan struct{})
	go h.send(ctx, media)
	return nil
}

// send sends ten pictures a second to who plays.
func (h *harbour) send(ctx context.Context, media *description.Media) {
	defer close(h.done)
	t := time.NewTicker(100 * time.Millisecond)
	defer t.Stop()
	for n := uint16(0); ; n++ {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		packet := &rtp.Packet{Header: rtp.Header{Version: 2, PayloadType: 96, SequenceNumber: n, Timestamp: uint32(n) * 9000, SSRC: 0x4b, Marker: true}, Payload: []byte{0x65, 0x88, 0x84, byte(n)}}
		_ = h.stream.WritePacketRTP(media, packet) // the library disconnects a slow client
	}
}

func (h *harbour) stop() {
	if h.cancel != nil {
		h.cancel()
		<-h.done
		h.stream.Close()
		h.server.Close()
		h.cancel = nil
	}
}

func (h *harbour) locked() bool { return h.device.on("rtsp-password") }

// OnDescribe answers what the stream is.
func (h *harbour) OnDescribe(ctx *gortsplib.ServerHandlerOnDescribeCtx) (*base.Response, *gortsplib.ServerStream, error) {
	return h.answer(ctx.Path)
}

// OnSetup prepares the stream for one who wants it.
func (h *harbour) OnSetup(ctx *gortsplib.ServerHandlerOnSetupCtx) (*base.Response, *gortsplib.ServerStream, error) {
	return h.answer(ctx.Path)
}

// OnPlay lets it run.
func (h *harbour) OnPlay(*gortsplib.ServerHandlerOnPlayCtx) (*base.Response, error) {
	return &base.Response{StatusCode: base.StatusOK}, nil
}

func (h *harbour) answer(path string) (*base.Response, *gortsplib.ServerStream, error) {
	switch {
	case h.locked():
		return &base.Response{StatusCode: base.StatusUnauthorized, Header: base.Header{"WWW-Authenticate": base.HeaderValue{`Basic realm="harbour"`}}}, nil, nil
	case path != "/harbour":
		return &base.Response{StatusCode: base.StatusNotFound}, nil, nil
	}
	return &base.Response{StatusCode: base.StatusOK}, h.stream, nil
}
