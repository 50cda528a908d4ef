// Package demand works out at which rate media has to arrive.
package demand

import (
	"cmp"

	"kaiku/core/dossier"
)

// Wait is how long a start may take, in seconds: the start that commissioning accepts.
const Wait = 5

// A peak that was recorded is taken to last peakWindow seconds; where none was, it is taken to be
// peakFactor times the average.
const (
	peakWindow = 30
	peakFactor = 2
)

// Rate is a rate in Mb/s (10^6 bit/s), and how it is known: read, estimated from the average, or assumed by the class of the
// file. The zero Rate is not known.
type Rate struct {
	Mbps  float64
	Known dossier.Known
}

// RateNeeded returns the rate that the heaviest file of an entry needs: the least constant rate at which it plays without a
// stall from anywhere after a wait of Wait seconds. That is what was read of it, and else follows from average and peak: of
// every stretch of w seconds that holds so many bits, bits divided by w + Wait. The stretches looked at are the whole file and
// its peak. How long the peak lasts is not recorded, so the result is an estimate unless the average alone decides it. Where
// neither is recorded, the class of the file says what such files usually need.
func RateNeeded(e dossier.FormatEntry) Rate {
	if e.Needed5Mbps > 0 {
		return Rate{e.Needed5Mbps, dossier.KnownRead}
	}
	if e.AverageMbps == 0 && e.PeakMbps == 0 {
		return assumed(e)
	}
	peak := e.PeakMbps
	if peak == 0 {
		peak = peakFactor * e.AverageMbps
	}
	if over := peak * peakWindow / (peakWindow + Wait); over > e.AverageMbps {
		return Rate{over, dossier.KnownEstimated}
	}
	return Rate{e.AverageMbps, dossier.KnownRead}
}

// usual is what files of a class usually need: average, peak, and how many seconds the peak lasts.
type usual struct{ average, peak, window float64 }

// class is what files need up to a height of the picture in lines, or up to a sampling rate in Hz.
type class struct {
	upTo int
	usual
}

// What films need by the height of their picture, as re-encoded files and as copies of discs (ceilings: DVD-Video 10.08 Mb/s
// in all, BD-ROM 48, UHD BD 128), and what sound needs. Averages and windows are judgement.
var (
	encoded  = []class{{576, usual{5, 9.8, 10}}, {720, usual{5, 10, 10}}, {1088, usual{8, 20, 10}}, {4320, usual{20, 40, 30}}}
	discs    = []class{{576, usual{5, 9.8, 10}}, {1088, usual{28, 40, 30}}, {4320, usual{60, 100, 30}}}
	lossless = []class{{48000, usual{0.9, 0.9, 1}}, {96000, usual{3, 3, 1}}, {192000, usual{6, 6, 1}}}
	surround = usual{6, 18, 10}
	lossy    = usual{0.32, 0.32, 1}
)

// classOf finds the class of a height or a sampling rate; the zero usual is none.
func classOf(list []class, n int) usual {
	for _, c := range list {
		if n <= c.upTo {
			return c.usual
		}
	}
	return usual{}
}

// assumed is what files of the entry's class usually need, or the zero Rate where its class is not known.
func assumed(e dossier.FormatEntry) Rate {
	of := usual{}
	switch {
	case e.Video != "":
		list := encoded
		if e.Container == dossier.M2TS || e.Container == dossier.BDVideo || e.Container == dossier.DVDVideo {
			list = discs
		}
		if e.Height > 0 {
			of = classOf(list, e.Height)
		}
	case e.Sound == dossier.PCM && e.SampleRate > 0 && e.Channels > 0:
		rate := float64(e.SampleRate*e.Channels*cmp.Or(e.SoundBits, 16)) / 1e6
		of = usual{rate, rate, 1}
	case e.Sound == dossier.FLAC || e.Sound == dossier.ALAC || e.Sound == dossier.MLP || e.Sound == dossier.DCALossless:
		if of = surround; e.Channels <= 2 {
			of = classOf(lossless, e.SampleRate)
		}
	case e.Sound != "":
		of = lossy
	}
	return of.assumed()
}

// assumed is the rate that follows from what is usual; the zero Rate where nothing is.
func (of usual) assumed() Rate {
	if of.average == 0 {
		return Rate{}
	}
	return Rate{max(of.average, of.peak*of.window/(of.window+Wait)), dossier.KnownAssumed}
}

// What files of a content kind usually need where nothing is recorded of them; judgement. Photographs are loaded one by one and
// need little.
var kinds = map[dossier.ContentKind]usual{
	dossier.Film: encoded[2].usual, dossier.Series: encoded[2].usual, dossier.HomeVideo: encoded[2].usual, dossier.LiveTV: {15, 19.4, 10},
	dossier.Music: lossless[0].usual, dossier.Radio: lossy, dossier.Audiobook: lossy, dossier.Photo: {0.5, 0.5, 1},
}

// OfContent returns what files of a content kind usually need, always assumed; the zero Rate where the kind is none.
func OfContent(k dossier.ContentKind) Rate {
	return kinds[k].assumed()
}

// OfPicture returns what films re-encoded to a picture of so many lines usually need, always assumed.
func OfPicture(lines int) Rate { return classOf(encoded, lines).assumed() }
