package papers

import (
	"encoding/xml"
	"errors"
	"io"
	"strings"
)

// Guide is what a guide in XMLTV holds, in figures.
type Guide struct {
	Channels   int
	Programmes int
	Last       string // when the last programme begins, as the guide writes it: 20061231180000 +0200
}

// ErrNoGuide is returned for a document that is not XMLTV: its root is not tv.
var ErrNoGuide = errors.New("not a programme guide")

// ReadGuide counts what a guide holds, without keeping it: guides have tens of thousands of
// programmes. What ends early counts as far as it was read.
func ReadGuide(r io.Reader) (Guide, error) {
	var out Guide
	d := xml.NewDecoder(r)
	d.Strict = false
	d.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil } // only counted
	root := false
	for {
		t, err := d.Token()
		if err != nil {
			if !root {
				return out, ErrNoGuide
			}
			if errors.Is(err, io.EOF) {
				return out, nil
			}
			return out, err
		}
		e, begins := t.(xml.StartElement)
		switch {
		case !begins:
		case !root:
			if e.Name.Local != "tv" {
				return out, ErrNoGuide
			}
			root = true
		case e.Name.Local == "channel":
			out.Channels++
		case e.Name.Local == "programme":
			out.Programmes++
			for _, a := range e.Attr {
				if a.Name.Local == "start" && strings.Compare(a.Value, out.Last) > 0 {
					out.Last = a.Value
				}
			}
		}
	}
}
