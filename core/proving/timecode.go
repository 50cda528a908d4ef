package proving

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// ErrTimeCode is returned for text that is not a time code.
var ErrTimeCode = errors.New("this is not a time code; write it as on the screen, hours:minutes:seconds:frames, such as 00:00:31:12")

// TimeCode reads a time code as a sample clip shows it: hours, minutes, seconds and frames of so many in a second (SMPTE ST 12-1, without
// dropped numbers). Hours, or hours and minutes, may be left out, and so may the frames where the separator before them is a point.
func TimeCode(s string, rate float64) (time.Duration, error) {
	parts := strings.Split(strings.TrimSpace(s), ":")
	if len(parts) < 2 || len(parts) > 4 || rate <= 0 || math.IsNaN(rate) || math.IsInf(rate, 0) {
		return 0, fmt.Errorf("%q: %w", s, ErrTimeCode)
	}
	var n [4]int
	for i, p := range parts {
		v, err := strconv.ParseUint(p, 10, 16)
		if err != nil {
			return 0, fmt.Errorf("%q: %w", s, ErrTimeCode)
		}
		n[4-len(parts)+i] = int(v)
	}
	if n[1] > 59 || n[2] > 59 || float64(n[3]) >= math.Ceil(rate) {
		return 0, fmt.Errorf("%q: %w", s, ErrTimeCode)
	}
	return time.Duration(n[0])*time.Hour + time.Duration(n[1])*time.Minute + time.Duration(n[2])*time.Second + time.Duration(float64(n[3])/rate*float64(time.Second)), nil
}

// Codes are what somebody read off the screen: the time code from which on it counts, the one that was seen, and how much time passed between
// the two by the clock.
type Codes struct {
	From, Seen, After time.Duration
}

// Limits of what is read off the screen, in seconds. Reading one takes about a second; what is more lies in the device.
const (
	readingS     = 1.0
	jumpPassS    = 2.0  // a jump that ends this near has arrived; key frames lie that far apart
	jumpNearS    = 10.0 // one that ends this near is found again by hand
	resumePassS  = 30.0 // the plan's own limit for going on
	resumeNearS  = 120.0
	stallPassS   = readingS
	stallNearS   = 5.0
	lipEarlyMs   = -40.0 // ITU-R BT.1359-1: detectability is +45 to -125 ms; these are stricter, as homes add up
	lipLateMs    = 60.0
	lipEarlyNear = -90.0 // acceptability there is +90 to -185 ms, with the sound before the picture counted as positive
	lipLateNear  = 185.0
)

// Judged is what follows from time codes: the outcome, and the value that was computed, named with its unit.
type Judged struct {
	Outcome dossier.Outcome
	Name    string
	Value   float64
}

// Reading is what can be read off a sample clip for a kind of test.
type Reading string

// Readings.
const (
	ReadsNothing  Reading = ""
	ReadsJump     Reading = "jump"           // where it was to jump to, and where it is
	ReadsGoingOn  Reading = "going-on"       // where it was stopped, and where it went on
	ReadsStanding Reading = "standing-still" // two readings, and the time between them by a clock
	ReadsLips     Reading = "lips"           // frames between flash and beep in a film that a phone took
)

// Values lists them.
func (Reading) Values() []string {
	return []string{string(ReadsJump), string(ReadsGoingOn), string(ReadsStanding), string(ReadsLips)}
}

// ReadingOf returns what a sample clip shows for a kind of test.
func ReadingOf(kind string) Reading {
	switch kind {
	case "seeks":
		return ReadsJump
	case "resumes", "resumes-elsewhere":
		return ReadsGoingOn
	case "plays", "busy-set", "long-play", "top-quality", "converts":
		return ReadsStanding
	case "lip-sync":
		return ReadsLips
	}
	return ReadsNothing
}

// JudgeCodes says what time codes show: by how much a jump missed, how far from where it was left something went on, or for how long it stood
// still. Known is false for a reading of something else.
func JudgeCodes(r Reading, c Codes) (j Judged, known bool) {
	off := (c.Seen - c.From - c.After).Seconds()
	switch r {
	case ReadsJump:
		return Judged{within(math.Abs(off), jumpPassS, jumpNearS), "jumpErrorS", round(off)}, true
	case ReadsGoingOn:
		return Judged{within(math.Abs(off), resumePassS, resumeNearS), "resumeErrorS", round(off)}, true
	case ReadsStanding:
		still := max(-off, 0)
		return Judged{within(still, stallPassS, stallNearS), "stillS", round(still)}, true
	}
	return Judged{}, false
}

// JudgeLips says what an offset between flash and beep shows: that many frames of a film taken at that rate, the beep after the flash counted
// as positive.
func JudgeLips(frames, rate float64) (Judged, bool) {
	if rate <= 0 || math.IsNaN(frames) || math.IsInf(frames, 0) || math.IsInf(rate, 0) || math.IsNaN(rate) {
		return Judged{}, false
	}
	ms := frames / rate * 1000
	out := dossier.Fail
	switch {
	case ms >= lipEarlyMs && ms <= lipLateMs:
		out = dossier.Pass
	case ms >= lipEarlyNear && ms <= lipLateNear:
		out = dossier.Marginal
	}
	return Judged{out, "soundAfterPictureMs", math.Round(ms)}, true
}

func within(value, pass, near float64) dossier.Outcome {
	switch {
	case value <= pass:
		return dossier.Pass
	case value <= near:
		return dossier.Marginal
	}
	return dossier.Fail
}

func round(s float64) float64 { return math.Round(s*100) / 100 }
