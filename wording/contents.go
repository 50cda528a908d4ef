package wording

import (
	"fmt"
	"math"

	"kaiku/core/contents"
	"kaiku/core/demand"
	"kaiku/core/dossier"
)

// PlayingTime says hours of playing time, "" for none.
func PlayingTime(h float64) string {
	switch {
	case h == 0:
		return ""
	case h < 1.0/60:
		return fmt.Sprintf("%.0f s", max(1, h*3600))
	case h < 1:
		return fmt.Sprintf("%.0f min", h*60)
	case h < 10:
		return fmt.Sprintf("%.1f h", h)
	}
	return fmt.Sprintf("%.0f h", h)
}

// LengthOf says the length of one file in hours, minutes and seconds, "" where it is not known.
func LengthOf(seconds float64) string {
	if seconds == 0 {
		return ""
	}
	s := int(max(1, math.Round(seconds)))
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// Megabytes says a number of bytes in MB or GB (10^6 and 10^9 bytes).
func Megabytes(n int64) string {
	if n < 1e9 {
		return fmt.Sprintf("%.1f MB", float64(n)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(n)/1e9)
}

// RateNeeded says the rate that an entry needs, and how that is known.
func RateNeeded(e dossier.FormatEntry) string {
	switch {
	case e.Needed5Mbps > 0:
		return mbps(e.Needed5Mbps) + ", read"
	case e.Video != "" && e.AverageMbps > 0:
		return mbps(demand.RateNeeded(e).Mbps) + ", estimated"
	case e.AverageMbps > 0 && e.Sound != "":
		return mbps(e.AverageMbps) + ", average"
	case demand.RateNeeded(e).Known == dossier.KnownAssumed:
		return mbps(demand.RateNeeded(e).Mbps) + ", assumed"
	}
	return ""
}

func mbps(n float64) string {
	if n < 1 {
		return fmt.Sprintf("%.2f Mb/s", n)
	}
	return fmt.Sprintf("%.1f Mb/s", n)
}

// ReadingOf says what a reading of a folder does now.
func ReadingOf(p contents.Progress) string {
	switch {
	case p.Listing:
		return "asking the server for its list"
	case p.Rates:
		return "reading the rate of " + p.Path
	}
	return "reading " + p.Path
}
