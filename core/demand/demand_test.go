package demand_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/demand"
	"kaiku/core/dossier"
)

func TestRateNeeded(t *testing.T) {
	for _, c := range []struct {
		name          string
		average, peak float64
		want          demand.Rate
	}{
		{"nothing recorded", 0, 0, demand.Rate{}},
		{"a peak of 30 s over a wait of 5 s", 20, 35, demand.Rate{Mbps: 30, Estimated: true}},
		{"a peak that is not recorded is twice the average", 7, 0, demand.Rate{Mbps: 12, Estimated: true}},
		{"an even rate needs its average", 20, 21, demand.Rate{Mbps: 20}},
		{"only a peak is recorded", 0, 35, demand.Rate{Mbps: 30, Estimated: true}},
	} {
		assert.Equal(t, c.want, demand.RateNeeded(dossier.FormatEntry{AverageMbps: c.average, PeakMbps: c.peak}), c.name)
	}
}

func TestMoreBitsNeverNeedLess(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		average := rapid.Float64Range(0, 100).Draw(t, "average")
		peak := average + rapid.Float64Range(0.001, 100).Draw(t, "peak")
		less := demand.RateNeeded(dossier.FormatEntry{AverageMbps: average, PeakMbps: peak}).Mbps
		more := demand.RateNeeded(dossier.FormatEntry{AverageMbps: average, PeakMbps: peak * 1.2}).Mbps
		assert.GreaterOrEqual(t, more, less)
		assert.GreaterOrEqual(t, less, average)
		assert.LessOrEqual(t, less, peak)
	})
}
