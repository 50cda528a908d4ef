package format

import (
	"regexp"
	"strconv"
	"strings"

	"kaiku/core/dossier"
)

// Mode is what a link of a display chain carries at most: size in pixels, frames per second, bits per sample and the
// dynamic range. What is not said is zero.
type Mode struct {
	Width, Height int
	FrameRate     float64
	Interlaced    bool
	BitDepth      int
	Range         dossier.DynamicRange
}

var (
	modeSize  = regexp.MustCompile(`^(\d{3,5})\s*[x×]\s*(\d{3,5})$`)
	modeLines = regexp.MustCompile(`^(\d{3,4})([pi])(\d{2,3}(?:\.\d+)?)?$`)
	modeRate  = regexp.MustCompile(`^(?:at )?(\d{2,3}(?:\.\d+)?)\s*(?:hz|fps|p)?$`)
	modeBits  = regexp.MustCompile(`^(\d{1,2})[ -]?bits?$`)
	modeParts = regexp.MustCompile(`\s*[,;/]\s*|\s+(?:at|@)\s*`)
)

// widths are those of pictures of so many lines, at 16 to 9 (CTA-861, table 1).
var widths = map[int]int{480: 720, 576: 720, 720: 1280, 1080: 1920, 1440: 2560, 2160: 3840, 4320: 7680}

// ReadMode reads the best mode of a link as technicians write it, such as "2160p50, 8 bit, SDR" or "3840x2160 at 60 Hz,
// 10 bits, PQ". It returns the words that it did not understand: of these nothing is known.
func ReadMode(text string) (m Mode, rest []string) {
	for _, part := range modeParts.Split(strings.ToLower(strings.TrimSpace(text)), -1) {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		if of := modeSize.FindStringSubmatch(part); of != nil {
			m.Width, _ = strconv.Atoi(of[1])
			m.Height, _ = strconv.Atoi(of[2])
		} else if of := modeLines.FindStringSubmatch(part); of != nil {
			m.Height, _ = strconv.Atoi(of[1])
			m.Width, m.Interlaced = widths[m.Height], of[2] == "i"
			m.FrameRate, _ = strconv.ParseFloat(of[3], 64)
			if m.Interlaced {
				m.FrameRate /= 2 // the number counts fields
			}
		} else if of := modeBits.FindStringSubmatch(part); of != nil {
			m.BitDepth, _ = strconv.Atoi(of[1])
		} else if of := modeRate.FindStringSubmatch(part); of != nil {
			m.FrameRate, _ = strconv.ParseFloat(of[1], 64)
		} else if known := set(dossier.DynamicRange("")); known[part] {
			m.Range = dossier.DynamicRange(part)
		} else {
			rest = append(rest, part)
		}
	}
	return m, rest
}

// Lowers lists what of a picture a link of that mode cannot carry, so that the player has to scale it, leave frames out
// or map its tones. A member of which one of the two says nothing is not among them.
func (m Mode) Lowers(e dossier.FormatEntry) []Limit {
	if e.Video == "" {
		return nil
	}
	var out []Limit
	if m.Width > 0 && e.Width > m.Width {
		out = append(out, "width")
	} else if m.Height > 0 && e.Height > m.Height {
		out = append(out, "height")
	}
	if m.FrameRate > 0 && e.FrameRate > m.FrameRate*1.001 {
		out = append(out, "frameRate")
	}
	if m.Range != "" && e.Range != "" && e.Range != dossier.SDR && e.Range != m.Range {
		if in, known := shows("", string(e.Range), string(m.Range)); known && !in {
			out = append(out, "range")
		}
	}
	return out
}
