package service

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// exif puts an orientation in front of a JPEG, in either byte order.
func exif(body []byte, order binary.ByteOrder, how uint16) []byte {
	mark := map[bool]string{true: "II*\x00", false: "MM\x00*"}[order == binary.ByteOrder(binary.LittleEndian)]
	tiff := append([]byte(mark), make([]byte, 4+2+12)...)
	order.PutUint32(tiff[4:], 8)
	order.PutUint16(tiff[8:], 1)
	order.PutUint16(tiff[10:], 0x0112)
	order.PutUint16(tiff[12:], 3)
	order.PutUint32(tiff[14:], 1)
	order.PutUint16(tiff[18:], how)
	content := append([]byte("Exif\x00\x00"), tiff...)
	head := binary.BigEndian.AppendUint16([]byte{0xff, 0xd8, 0xff, 0xe1}, uint16(len(content)+2))
	return append(append(head, content...), body[2:]...)
}

// corners names the colours in the corners, from the top left to the right and down.
func corners(p image.Image) string {
	b := p.Bounds()
	name := func(x, y int) string {
		r, g, bl, _ := p.At(x, y).RGBA()
		switch {
		case r > 0x8000 && g > 0x8000:
			return "w"
		case r > 0x8000:
			return "r"
		case g > 0x8000:
			return "g"
		case bl > 0x8000:
			return "b"
		}
		return "k"
	}
	return name(b.Min.X+2, b.Min.Y+2) + name(b.Max.X-3, b.Min.Y+2) + " " + name(b.Min.X+2, b.Max.Y-3) + name(b.Max.X-3, b.Max.Y-3)
}

// A picture whose corners are red, green, blue and black stands upright, however it lies in its file.
func TestPicturesAreTurnedAsTheirFileSays(t *testing.T) {
	p := image.NewRGBA(image.Rect(0, 0, 96, 48))
	for y := range 48 {
		for x := range 96 {
			p.Set(x, y, []color.Color{color.RGBA{R: 255, A: 255}, color.RGBA{G: 255, A: 255}, color.RGBA{B: 255, A: 255}, color.Black}[x/48+2*(y/24)])
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, p, nil))
	s := New(nil, Options{})
	for how, want := range []string{"rg bk", "rg bk", "gr kb", "kb gr", "bk rg", "rb gk", "br kg", "kg br", "gk rb"} {
		for _, order := range []binary.ByteOrder{binary.BigEndian, binary.LittleEndian} {
			made, size, err := s.smaller(t.Context(), "image/jpeg", exif(b.Bytes(), order, uint16(how)), 64, 90)
			require.NoError(t, err)
			got, err := jpeg.Decode(bytes.NewReader(made))
			require.NoError(t, err)
			assert.Equal(t, want, corners(got), "orientation %d", how)
			assert.Equal(t, got.Bounds().Size(), size)
			assert.Equal(t, map[bool]image.Point{true: {32, 64}, false: {64, 32}}[how >= 5], size, "orientation %d", how)
			assert.NotContains(t, string(made), "Exif")
		}
	}
}

func FuzzOrientation(f *testing.F) {
	f.Add(exif([]byte{0xff, 0xd8, 0xff, 0xda}, binary.BigEndian, 6))
	f.Fuzz(func(t *testing.T, b []byte) {
		if o := orientationOf(b); o < 0 || o > 8 {
			t.Error(o)
		}
		progressive(b)
	})
}

// header is a PNG of that size and depth which ends after its header.
func header(w, h uint32, depth, kind byte) []byte {
	var b bytes.Buffer
	one := image.Image(image.NewNRGBA(image.Rect(0, 0, 1, 1)))
	_ = png.Encode(&b, one)
	out := b.Bytes()[:33]
	binary.BigEndian.PutUint32(out[16:], w)
	binary.BigEndian.PutUint32(out[20:], h)
	out[24], out[25] = depth, kind
	binary.BigEndian.PutUint32(out[29:], crcOf(out[12:29]))
	return out
}

func crcOf(b []byte) uint32 {
	crc := ^uint32(0)
	for _, x := range b {
		crc ^= uint32(x)
		for range 8 {
			crc = crc>>1 ^ 0xedb88320&-(crc&1)
		}
	}
	return ^crc
}

// What a picture unpacks to is counted before it is unpacked, in bytes: those of 16 bits count double, and the
// coefficients of a progressive JPEG too. Nothing but photographs is read.
func TestPicturesThatUnpackToTooMuch(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewYCbCr(image.Rect(0, 0, 16, 16), image.YCbCrSubsampleRatio420), nil))
	sized := func(w, h uint16, marker byte) []byte {
		out := bytes.Clone(b.Bytes())
		at := bytes.Index(out, []byte{0xff, 0xc0})
		out[at+1] = marker
		binary.BigEndian.PutUint16(out[at+5:], h)
		binary.BigEndian.PutUint16(out[at+7:], w)
		return out[:bytes.Index(out, []byte{0xff, 0xda})+14] // up to where the picture begins
	}
	for _, c := range []struct {
		name, sort string
		body       []byte
		code       string
	}{
		{"eight bits, 49 million pixels", "image/png", header(7000, 7000, 8, 6), "picture-damaged"},
		{"sixteen bits, 49 million pixels", "image/png", header(7000, 7000, 16, 6), "picture-too-large"},
		{"sixteen bits of grey, 98 million pixels", "image/png", header(14000, 7000, 16, 0), "picture-damaged"},
		{"sixteen bits of grey, 112 million pixels", "image/png", header(16000, 7000, 16, 0), "picture-too-large"},
		{"60 bytes for 1,600 million pixels", "image/png", header(40000, 40000, 8, 2), "picture-too-large"},
		{"a side that is not there", "image/png", header(1<<31, 1<<31, 8, 2), "picture-damaged"},
		{"a JPEG of 64 million pixels", "image/jpeg", sized(8000, 8000, 0xc0), "picture-damaged"},
		{"a progressive one", "image/jpeg", sized(8000, 8000, 0xc2), "picture-too-large"},
		{"an animation", "image/gif", []byte("GIF89a\x01\x00\x01\x00\x00\x00\x00;"), "not-attachable"},
		{"a bitmap", "image/bmp", []byte("BM"), "not-attachable"},
		{"a scan", "image/tiff", []byte("II*\x00"), "not-attachable"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, _, err := readPicture(c.sort, c.body)
			var no *Refusal
			require.ErrorAs(t, err, &no)
			assert.Equal(t, c.code, no.Code, "%v", err)
		})
	}
}

// No more than two pictures are worked on at once; who is gone does not wait for a turn.
func TestTwoPicturesAtOnce(t *testing.T) {
	s := New(nil, Options{})
	var turns []func()
	for range picturesAtOnce {
		done, err := s.picturing(t.Context())
		require.NoError(t, err)
		turns = append(turns, done)
	}
	ctx, cancel := context.WithCancelCause(t.Context())
	cancel(errors.New("the client is gone"))
	_, err := s.picturing(ctx)
	require.ErrorIs(t, err, context.Canceled)
	turns[0]()
	done, err := s.picturing(t.Context())
	require.NoError(t, err)
	done()
	turns[1]()
}

// Small text stays readable: a grid of two pixels is not lost when a large picture is made small.
func TestScalingCountsEveryPixel(t *testing.T) {
	p := image.NewGray(image.Rect(0, 0, 2048, 1024))
	for y := range 1024 {
		for x := range 2048 {
			p.SetGray(x, y, color.Gray{Y: uint8(255 * ((x + y) % 2))})
		}
	}
	got := fitted(p, 256)
	assert.Equal(t, image.Pt(256, 128), got.Bounds().Size())
	for _, at := range []image.Point{{0, 0}, {100, 60}, {255, 127}} {
		r, _, _, _ := got.At(at.X, at.Y).RGBA()
		assert.InDelta(t, 0x7fff, r, 0x500, fmt.Sprint(at))
	}
	assert.Equal(t, image.Pt(30, 10), fitted(image.NewGray(image.Rect(0, 0, 30, 10)), 256).Bounds().Size(), "nothing is made larger")
	assert.Equal(t, image.Pt(256, 1), fitted(image.NewGray(image.Rect(0, 0, 9000, 1)), 256).Bounds().Size())
}
