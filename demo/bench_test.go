package demo_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/probe"
)

// BenchmarkMachinesPart carries out everything in the Keeper's House that is for a machine, as Run does.
func BenchmarkMachinesPart(b *testing.B) {
	_, st := fill(b, today, "H-0001")
	d := load(b, st, "H-0001")
	tests := proving.NewPlan(d.Index()).ForMachine(nil)
	b.Logf("%d tests", len(tests))
	p := probe.Prober{Guard: probe.Guard{Within: []netip.Prefix{netip.MustParsePrefix("127.77.0.0/16")}}}
	for b.Loop() {
		run, done := proving.Run{}, 0
		for _, t := range tests {
			if run.LeaveOut(t) != "" {
				continue
			}
			r, err := p.Probe(b.Context(), d, t)
			require.NoError(b, err)
			if run[t.ID()] = r.Outcome; r.Outcome != dossier.Impossible {
				done++
			}
		}
		require.NotZero(b, done)
	}
	took := float64(b.Elapsed().Milliseconds()) / float64(b.N)
	b.ReportMetric(60_000, "aim-ms")
	b.ReportMetric(took, "measured-ms")
	b.ReportMetric(took/60_000, "ratio")
}
