package papers

import (
	"fmt"
	"strings"

	qrcode "github.com/skip2/go-qrcode"
)

// QR returns a text as a QR code (ISO/IEC 18004): one string a row, "1" dark and "0" light, with
// the quiet zone around it.
func QR(text string) ([]string, error) {
	q, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return nil, fmt.Errorf("make a QR code of %q: %w", text, err)
	}
	var rows []string
	for _, line := range q.Bitmap() {
		var b strings.Builder
		for _, dark := range line {
			b.WriteByte(map[bool]byte{true: '1', false: '0'}[dark])
		}
		rows = append(rows, b.String())
	}
	return rows, nil
}
