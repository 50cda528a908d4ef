// Package demand works out at which rate media has to arrive.
package demand

import "kaiku/core/dossier"

// Wait is how long a start may take, in seconds: the start that commissioning accepts.
const Wait = 5

// A peak that was recorded is taken to last peakWindow seconds; where none was, it is taken to be
// peakFactor times the average.
const (
	peakWindow = 30
	peakFactor = 2
)

// Rate is a rate in Mb/s (10^6 bit/s), and whether any part of it is an estimate.
type Rate struct {
	Mbps      float64
	Estimated bool
}

// RateNeeded returns the least constant rate at which the files of an entry play without a stall from
// anywhere after a wait of Wait seconds: of every stretch of w seconds that holds so many bits, bits
// divided by w + Wait. The stretches looked at are the whole file and its peak; how long that lasts is
// not recorded, so that only a rate that rests on the average alone is no estimate. The zero Rate means
// that neither is recorded.
func RateNeeded(e dossier.FormatEntry) Rate {
	peak := e.PeakMbps
	if peak == 0 {
		peak = peakFactor * e.AverageMbps
	}
	if over := peak * peakWindow / (peakWindow + Wait); over > e.AverageMbps {
		return Rate{over, true}
	}
	return Rate{e.AverageMbps, false}
}
