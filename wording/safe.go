package wording

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// unsafe reports whether a character could change more than the place where it stands: what controls a terminal or
// the direction of the text around it (Unicode 17, Bidi_Control). Line feeds and tabs are no such.
func unsafe(r rune) bool {
	return unicode.IsControl(r) && r != '\n' && r != '\t' || unicode.Is(unicode.Bidi_Control, r)
}

// Safe leaves out of a text what must not reach a terminal, a calendar or a card.
func Safe(text string) string {
	return strings.Map(func(r rune) rune {
		if unsafe(r) {
			return -1
		}
		return r
	}, text)
}

// SafeJSON escapes in JSON what must not reach a terminal; what is read from it stays the same.
func SafeJSON(text string) string {
	if !strings.ContainsFunc(text, unsafe) {
		return text
	}
	var out strings.Builder
	for _, r := range text {
		if unsafe(r) {
			fmt.Fprintf(&out, `\u%04x`, r)
		} else {
			out.WriteRune(r)
		}
	}
	return out.String()
}

var plainNumber = regexp.MustCompile(`^[+-]?[0-9]+([.,][0-9]+)?$`)

// Cell defuses a cell of CSV: spreadsheets take one that begins with one of these characters for a formula, which can
// send what else the sheet holds elsewhere. A number stays a number. A text that looks defused is quoted once more,
// so that CellRead takes back just what was added.
func Cell(text string) string {
	bare := strings.TrimLeft(text, "'")
	if bare != "" && strings.ContainsRune("=+-@\t\r", rune(bare[0])) && !plainNumber.MatchString(bare) {
		return "'" + text
	}
	return text
}

// CellRead reads a cell that Cell may have defused.
func CellRead(text string) string {
	if rest, quoted := strings.CutPrefix(text, "'"); quoted && Cell(rest) != rest {
		return rest
	}
	return text
}
