// Package papers reads and writes what comes in and leaves as a document: CSV, tables of leases and
// neighbours, vCard, iCalendar. It knows forms, not homes' rules: what a document asks for is
// decided by who asked for it.
package papers

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// MaxBytes is the largest document that is read.
const MaxBytes = 4 << 20

// ErrNoText says that a document is none that people write: a picture, a program.
var ErrNoText = errors.New("it is not text")

// Text returns a document as text, whatever it was written in: UTF-8, UTF-16 by its byte order
// mark, or else Windows-1252, of which Latin-1 is the part that people use. Lines end with \n.
func Text(b []byte) (string, error) {
	if len(b) > MaxBytes {
		return "", fmt.Errorf("it has %d bytes, more than the %d that can be read", len(b), MaxBytes)
	}
	switch {
	case bytes.HasPrefix(b, []byte{0xFF, 0xFE}), bytes.HasPrefix(b, []byte{0xFE, 0xFF}):
		decoded, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(b)
		if err != nil {
			return "", fmt.Errorf("read UTF-16: %w", err)
		}
		b = decoded
	case !utf8.Valid(b):
		decoded, err := charmap.Windows1252.NewDecoder().Bytes(b)
		if err != nil {
			return "", fmt.Errorf("read Windows-1252: %w", err)
		}
		b = decoded
	}
	b = bytes.TrimPrefix(b, []byte("\uFEFF"))
	if bytes.ContainsRune(b, 0) {
		return "", ErrNoText
	}
	return strings.ReplaceAll(strings.ReplaceAll(string(b), "\r\n", "\n"), "\r", "\n"), nil
}
