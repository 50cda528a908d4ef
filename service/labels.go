package service

import (
	"context"
	"image"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/datamatrix"
	"github.com/makiuchi-d/gozxing/oned"
	"github.com/makiuchi-d/gozxing/qrcode"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// labelEdges are the longest edges, in pixels, at which a photograph of a label is looked at: fine
// bars need many, a code that fills the picture is found sooner in few.
var labelEdges = []int{900, 1800}

// ReadLabel reads the bar codes and QR codes of a photograph, and says which of them look like a
// serial number or a MAC address. It keeps nothing.
func (s *Service) ReadLabel(ctx context.Context, a Actor, body []byte) (wire.Label, error) {
	if err := a.require("read-label", nil, nil); err != nil {
		return wire.Label{}, err
	}
	done, err := s.picturing(ctx)
	if err != nil {
		return wire.Label{}, err
	}
	defer done()
	picture, turn, err := readPicture(http.DetectContentType(body), body)
	if err != nil {
		return wire.Label{}, err
	}
	out := wire.Label{Codes: []wire.LabelCode{}}
	for _, edge := range labelEdges {
		fit := upright(fitted(picture, edge), turn)
		for _, turned := range []*image.RGBA{fit, upright(fit, turnedLeft)} {
			if ctx.Err() != nil {
				return wire.Label{}, ctx.Err()
			}
			for _, c := range codesIn(turned) {
				if !slices.Contains(out.Codes, c) {
					out.Codes = append(out.Codes, c)
				}
			}
		}
		if out.Serial, out.HardwareAddress = meant(out.Codes); out.Serial != "" && out.HardwareAddress != "" {
			break
		}
	}
	if len(out.Codes) == 0 {
		return out, refuse("no-code-seen")
	}
	return out, nil
}

// codesIn finds the codes of one picture. A reader finds one code at a time, so it is shown the
// whole and then strips of it: the codes of a label usually stand below each other.
func codesIn(picture *image.RGBA) []wire.LabelCode {
	hints := map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true}
	var out []wire.LabelCode
	for n, strip := range append([]image.Image{picture}, strips(picture)...) {
		bitmap, err := gozxing.NewBinaryBitmapFromImage(strip)
		if err != nil {
			continue
		}
		readers := []gozxing.Reader{oned.NewCode128Reader(), oned.NewCode39Reader(), oned.NewEAN13Reader()}
		if n == 0 { // codes of two dimensions are seldom more than one
			readers = append(readers, qrcode.NewQRCodeReader(), datamatrix.NewDataMatrixReader())
		}
		for _, reader := range readers {
			r, err := reader.Decode(bitmap, hints)
			if err != nil {
				continue // none of this sort
			}
			c := wire.LabelCode{Sort: strings.ToLower(strings.ReplaceAll(r.GetBarcodeFormat().String(), "_", " ")), Text: strings.TrimSpace(r.GetText())}
			if c.Text != "" && len(c.Text) <= 400 && !slices.Contains(out, c) {
				out = append(out, c)
			}
		}
	}
	return out
}

// strips are bands of a quarter of the picture's height, each half over the last.
func strips(picture *image.RGBA) []image.Image {
	b := picture.Bounds()
	height := max(b.Dy()/4, 16)
	var out []image.Image
	for y := b.Min.Y; y+height <= b.Max.Y; y += max(height/2, 8) {
		out = append(out, picture.SubImage(image.Rect(b.Min.X, y, b.Max.X, y+height)))
	}
	return out
}

var (
	serialNamed   = regexp.MustCompile(`(?i)\b(?:s/?n|serial(?:\s*(?:no|number))?)\s*[.:=#]*\s*([A-Z0-9][A-Z0-9/-]{3,39})`)
	hardwareNamed = regexp.MustCompile(`(?i)\b(?:mac|hw(?:id)?|ethernet|wlan)(?:\s*(?:addr(?:ess)?|id))?\s*[.:=]*\s*([0-9A-F]{2}(?:[:-]?[0-9A-F]{2}){5})\b`)
	hardwareAlone = regexp.MustCompile(`(?i)^[0-9A-F]{2}(?:[:-]?[0-9A-F]{2}){5}$`)
	serialAlone   = regexp.MustCompile(`(?i)^[A-Z0-9][A-Z0-9/-]{4,39}$`)
	digitsOnly    = regexp.MustCompile(`^[0-9]+$`)
)

// meant says which of the codes are the serial number and the MAC address: those that say so
// of themselves, then what has the form of one. Product numbers are neither.
func meant(codes []wire.LabelCode) (serial, hardware string) {
	take := func(into *string, text string) {
		if *into == "" {
			*into = text
		}
	}
	for _, c := range codes {
		if m := hardwareNamed.FindStringSubmatch(c.Text); m != nil {
			take(&hardware, canonicalHardware(m[1]))
		}
		if m := serialNamed.FindStringSubmatch(c.Text); m != nil {
			take(&serial, m[1])
		}
	}
	for _, c := range codes {
		product := strings.HasPrefix(c.Sort, "ean") || strings.HasPrefix(c.Sort, "upc")
		address := hardwareAlone.MatchString(c.Text) && !(len(c.Text) == 12 && digitsOnly.MatchString(c.Text))
		switch {
		case product:
		case address:
			take(&hardware, canonicalHardware(c.Text))
		case serialAlone.MatchString(c.Text):
			take(&serial, c.Text)
		}
	}
	return serial, hardware
}

func canonicalHardware(text string) string {
	a, err := dossier.ParseHardwareAddr(text)
	if err != nil {
		return ""
	}
	return string(a)
}
