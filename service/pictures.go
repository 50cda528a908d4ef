package service

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"time"

	"golang.org/x/image/draw"
	"golang.org/x/image/webp"
)

// Bounds of the work on photographs. A hostile file of few bytes may unpack to many, so they are counted before
// it is unpacked.
const (
	mostUnpacked    = 200 << 20 // bytes of one picture while it is unpacked: 66 million pixels of a telephone
	picturesAtOnce  = 2
	pictureWait     = 20 * time.Second
	progressiveCost = 12 // bytes that the decoder holds for each pixel of a progressive JPEG besides: its coefficients
)

// pictureReader reads the size and the picture of one format.
type pictureReader struct {
	config func(io.Reader) (image.Config, error)
	decode func(io.Reader) (image.Image, error)
}

// pictureReaders are the formats of photographs that are read, by media type. All are kept as JPEG.
var pictureReaders = map[string]pictureReader{
	"image/jpeg": {jpeg.DecodeConfig, jpeg.Decode},
	"image/png":  {png.DecodeConfig, png.Decode},
	"image/webp": {webp.DecodeConfig, webp.Decode},
}

// picturing waits for a turn to unpack a picture. The returned function gives the turn on.
func (s *Service) picturing(ctx context.Context) (func(), error) {
	return turn(ctx, s.pictures, pictureWait, "pictures-busy")
}

// smaller returns a picture upright, as JPEG and no larger than an edge, and its size. Nothing else of the file
// is left, such as where it was taken.
func (s *Service) smaller(ctx context.Context, sort string, body []byte, edge, quality int) ([]byte, image.Point, error) {
	done, err := s.picturing(ctx)
	if err != nil {
		return nil, image.Point{}, err
	}
	defer done()
	picture, turn, err := readPicture(sort, body)
	if err != nil {
		return nil, image.Point{}, err
	}
	made := upright(fitted(picture, edge), turn)
	var out bytes.Buffer
	err = jpeg.Encode(&out, made, &jpeg.Options{Quality: quality})
	return out.Bytes(), made.Bounds().Size(), err
}

// readPicture unpacks a picture as it lies in the file, and returns how it has to be turned to stand upright.
func readPicture(sort string, body []byte) (image.Image, orientation, error) {
	reader, known := pictureReaders[sort]
	if !known {
		return nil, 0, refuse("not-attachable", "sort", sort)
	}
	size, err := reader.config(bytes.NewReader(body))
	if err != nil {
		return nil, 0, refuse("picture-damaged", "detail", err.Error())
	}
	if int64(size.Width)*int64(size.Height)*int64(bytesOf(size.ColorModel, body)) > mostUnpacked {
		return nil, 0, refuse("picture-too-large", "pixels", fmt.Sprintf("%d x %d", size.Width, size.Height))
	}
	picture, err := reader.decode(bytes.NewReader(body))
	if err != nil {
		return nil, 0, refuse("picture-damaged", "detail", err.Error())
	}
	return picture, orientationOf(body), nil
}

// bytesOf is how many bytes a pixel takes while it is unpacked.
func bytesOf(model color.Model, body []byte) int {
	switch model {
	case color.GrayModel:
		return 1
	case color.Gray16Model:
		return 2
	case color.YCbCrModel:
		if progressive(body) {
			return 3 + progressiveCost
		}
		return 3
	case color.RGBA64Model, color.NRGBA64Model:
		return 8
	}
	return 4
}

// progressive reports whether a JPEG is sent in several scans (ITU-T T.81, annex B: SOF2).
func progressive(body []byte) bool {
	found := false
	segments(body, func(marker byte, _ []byte) bool {
		found = marker == 0xc2
		return !found && marker != 0xda
	})
	return found
}

// segments walks over the segments of a JPEG until each says no, the picture begins or something is not right.
func segments(body []byte, each func(marker byte, content []byte) bool) {
	for b := body[min(2, len(body)):]; len(b) >= 4 && b[0] == 0xff; {
		size := int(binary.BigEndian.Uint16(b[2:])) + 2
		if size < 4 || size > len(b) || !each(b[1], b[4:size]) || b[1] == 0xda {
			return
		}
		b = b[size:]
	}
}

// orientation is how a picture lies in its file, by the value of the Exif tag 0x0112: 1 is upright, and 0 that
// nothing is said.
type orientation int

const turnedLeft orientation = 8

// orientationOf reads how a JPEG lies (Exif 2.32, section 4.6.4). In other formats it is hardly ever said.
func orientationOf(body []byte) (out orientation) {
	if !bytes.HasPrefix(body, []byte{0xff, 0xd8}) {
		return 0
	}
	segments(body, func(marker byte, content []byte) bool {
		tiff, is := bytes.CutPrefix(content, []byte("Exif\x00\x00"))
		if marker != 0xe1 || !is {
			return true
		}
		var order binary.ByteOrder = binary.BigEndian
		if bytes.HasPrefix(tiff, []byte("II")) {
			order = binary.LittleEndian
		}
		if len(tiff) < 8 {
			return false
		}
		at := int64(order.Uint32(tiff[4:]))
		if at+2 > int64(len(tiff)) {
			return false
		}
		entries := tiff[at+2:]
		for range order.Uint16(tiff[at:]) {
			if len(entries) < 12 {
				return false
			}
			if order.Uint16(entries) == 0x0112 {
				if v := order.Uint16(entries[8:]); v <= 8 {
					out = orientation(v)
				}
				return false
			}
			entries = entries[12:]
		}
		return false
	})
	return out
}

// fitted makes a picture no larger than an edge, by halves and then the rest: each pixel counts, and no buffer is
// larger than the picture.
func fitted(picture image.Image, edge int) *image.RGBA {
	size := picture.Bounds().Size()
	long := max(size.X, size.Y)
	for long >= 2*edge {
		size = image.Pt(max(size.X/2, 1), max(size.Y/2, 1))
		picture, long = scaled(picture, size), max(size.X, size.Y)
	}
	if long > edge {
		size = image.Pt(max(size.X*edge/long, 1), max(size.Y*edge/long, 1))
	}
	return scaled(picture, size)
}

// scaled draws a picture on white, in another size.
func scaled(picture image.Image, size image.Point) *image.RGBA {
	out := image.NewRGBA(image.Rectangle{Max: size})
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(out, out.Bounds(), picture, picture.Bounds(), draw.Over, nil)
	return out
}

// upright turns and mirrors a picture that lies as its file says.
func upright(picture *image.RGBA, how orientation) *image.RGBA {
	if how < 2 {
		return picture
	}
	w, h := picture.Bounds().Dx(), picture.Bounds().Dy()
	size := image.Pt(w, h)
	if how >= 5 {
		size = image.Pt(h, w)
	}
	out := image.NewRGBA(image.Rectangle{Max: size})
	for y := range h {
		for x := range w {
			// Where the pixel at row y and column x of the file belongs (Exif 2.32, table 6).
			to := [...]image.Point{2: {w - 1 - x, y}, 3: {w - 1 - x, h - 1 - y}, 4: {x, h - 1 - y}, 5: {y, x}, 6: {h - 1 - y, x}, 7: {h - 1 - y, w - 1 - x}, 8: {y, w - 1 - x}}[how]
			copy(out.Pix[out.PixOffset(to.X, to.Y):][:4], picture.Pix[picture.PixOffset(x, y):][:4])
		}
	}
	return out
}
