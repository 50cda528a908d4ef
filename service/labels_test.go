package service_test

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/oned"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/service"
)

// code is one code on a made-up label.
type code struct {
	writer gozxing.Writer
	format gozxing.BarcodeFormat
	text   string
	w, h   int
}

// label draws codes below each other on a grey label, as a photograph of it would show.
func label(t *testing.T, turned bool, codes ...code) []byte {
	img := image.NewRGBA(image.Rect(0, 0, 1400, 1000))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.RGBA{232, 230, 224, 255}), image.Point{}, draw.Src)
	y := 60
	for _, c := range codes {
		m, err := c.writer.Encode(c.text, c.format, c.w, c.h, nil)
		require.NoError(t, err)
		draw.Draw(img, image.Rect(100, y, 100+c.w, y+c.h), m, image.Point{}, draw.Src)
		y += c.h + 60
	}
	var out image.Image = img
	if turned {
		r := image.NewRGBA(image.Rect(0, 0, 1000, 1400))
		for x := range 1400 {
			for y := range 1000 {
				r.Set(y, 1399-x, img.At(x, y))
			}
		}
		out = r
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, out, &jpeg.Options{Quality: 70}))
	return b.Bytes()
}

func TestALabelIsRead(t *testing.T) {
	s, as := filled(t, nil)
	serial := code{oned.NewCode128Writer(), gozxing.BarcodeFormat_CODE_128, "TK4-00317", 900, 160}
	address := code{oned.NewCode128Writer(), gozxing.BarcodeFormat_CODE_128, "024B49000110", 900, 160}
	product := code{oned.NewEAN13Writer(), gozxing.BarcodeFormat_EAN_13, "4006381333931", 700, 160}
	both := code{qrcode.NewQRCodeWriter(), gozxing.BarcodeFormat_QR_CODE, "Model: TK-4; S/N: TK4-00317; MAC: 02:4B:49:00:01:10", 420, 420}
	for _, c := range []struct {
		name             string
		photo            []byte
		serial, hardware string
	}{
		{"bar codes for each", label(t, false, serial, address), "TK4-00317", "02:4b:49:00:01:10"},
		{"turned by a quarter", label(t, true, serial, address), "TK4-00317", "02:4b:49:00:01:10"},
		{"one QR code that says both", label(t, false, both), "TK4-00317", "02:4b:49:00:01:10"},
		{"a product number is no serial number", label(t, false, product, serial), "TK4-00317", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := s.ReadLabel(t.Context(), as["petri"], c.photo)
			require.NoError(t, err)
			assert.Equal(t, c.serial, got.Serial, got.Codes)
			assert.Equal(t, c.hardware, got.HardwareAddress, got.Codes)
		})
	}
	_, err := s.ReadLabel(t.Context(), as["petri"], label(t, false))
	assert.ErrorContains(t, err, "No bar code")
	_, err = s.ReadLabel(t.Context(), as["petri"], []byte("no picture"))
	assert.ErrorContains(t, err, "Only photographs")
	_, err = s.ReadLabel(t.Context(), service.Actor{}, label(t, false, serial))
	assert.ErrorContains(t, err, "You are not logged in", "nobody is logged in")
}
