// Package makers says whose a MAC address is, by the prefix that IEEE gave its maker. The table is made when
// the program is built, from the copy of the registry that Debian ships.
package makers

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"embed"
	"strings"
	"sync"

	"kaiku/core/dossier"
)

//go:embed table
var table embed.FS

// Private is what is said of an address that its owner or its system has made up (IEEE 802, clause 8.4.4):
// nobody's prefix, and often another one every time.
const Private = "made up by the device"

// Of returns the maker of an adapter with that address, Private for one that is locally administered, or ""
// if that is not known.
func Of(a dossier.HardwareAddr) string {
	digits := strings.ToUpper(strings.ReplaceAll(string(a), ":", ""))
	if len(digits) != 12 {
		return ""
	}
	if strings.ContainsRune("2367ABEF", rune(digits[1])) {
		return Private
	}
	return prefixes()[digits[:6]]
}

// prefixes reads the table once. A program that was built without one knows no makers.
var prefixes = sync.OnceValue(func() map[string]string {
	b, err := table.ReadFile("table/prefixes.tsv.gz")
	if err != nil {
		return nil
	}
	return read(b)
})

// read reads a table of prefixes and makers, of which a small one's own registry is none: who has a part of
// its block is not known.
func read(b []byte) map[string]string {
	z, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil
	}
	out := map[string]string{}
	for lines := bufio.NewScanner(z); lines.Scan(); {
		prefix, name, ok := strings.Cut(lines.Text(), "\t")
		if name = strings.Join(strings.Fields(name), " "); ok && len(prefix) == 6 && !strings.EqualFold(name, "IEEE Registration Authority") {
			out[prefix] = name
		}
	}
	return out
}
