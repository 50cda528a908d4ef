package papers

import (
	"encoding/xml"
	"errors"
	"io"
	"strings"
	"time"
)

// Guide is what a guide in XMLTV holds, in figures.
type Guide struct {
	Channels   int
	Programmes int
	Last       string // when the last programme begins, as the guide writes it: 20061231180000 +0200
	// Until is when the last programme of each channel ends, or begins where its end is not given.
	Until map[string]time.Time
}

// mostGuideChannels bounds of how many channels it is kept how far their programmes reach.
const mostGuideChannels = 20_000

// guideTime reads a time of XMLTV: year to second, of which the end may be missing, and its distance from UTC, without which it is UTC.
func guideTime(s string) (time.Time, bool) {
	digits, zone, _ := strings.Cut(strings.TrimSpace(s), " ")
	const whole = "20060102150405"
	if len(digits) < len("2006") || len(digits) > len(whole) || len(digits)%2 != 0 {
		return time.Time{}, false
	}
	layout := whole[:len(digits)]
	if zone == "" {
		zone = "+0000"
	}
	t, err := time.Parse(layout+" -0700", digits+" "+strings.TrimSpace(zone))
	if err != nil {
		t, err = time.Parse(layout, digits) // a zone by name: taken as UTC
	}
	return t, err == nil
}

// ErrNoGuide is returned for a document that is not XMLTV: its root is not tv.
var ErrNoGuide = errors.New("not a programme guide")

// ReadGuide counts what a guide holds, without keeping it: guides have tens of thousands of
// programmes. What ends early counts as far as it was read.
func ReadGuide(r io.Reader) (Guide, error) {
	out := Guide{Until: map[string]time.Time{}}
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
			of := map[string]string{}
			for _, a := range e.Attr {
				of[a.Name.Local] = a.Value
			}
			if strings.Compare(of["start"], out.Last) > 0 {
				out.Last = of["start"]
			}
			until, known := guideTime(of["stop"])
			if !known {
				until, known = guideTime(of["start"])
			}
			if _, there := out.Until[of["channel"]]; known && (there || len(out.Until) < mostGuideChannels) && until.After(out.Until[of["channel"]]) {
				out.Until[of["channel"]] = until
			}
		}
	}
}
