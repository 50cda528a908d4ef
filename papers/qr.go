package papers

import (
	"fmt"
	"image/color"
	"strings"

	"github.com/boombuler/barcode/qr"
)

// quiet is the light zone around a QR code, in modules (ISO/IEC 18004, 5.3.8).
const quiet = 4

// QR returns a text as a QR code (ISO/IEC 18004): one string a row, "1" dark and "0" light, with
// the quiet zone around it.
func QR(text string) ([]string, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return nil, fmt.Errorf("make a QR code of %q: %w", text, err)
	}
	side := code.Bounds().Dx()
	light := strings.Repeat("0", side+2*quiet)
	rows := []string{light, light, light, light}
	for y := range side {
		row := []byte(light)
		for x := range side {
			if r, _, _, _ := color.GrayModel.Convert(code.At(x, y)).RGBA(); r == 0 {
				row[quiet+x] = '1'
			}
		}
		rows = append(rows, string(row))
	}
	return append(rows, light, light, light, light), nil
}
