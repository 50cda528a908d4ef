package proving_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

func TestTimeCodes(t *testing.T) {
	for text, want := range map[string]time.Duration{"00:00:31:12": 31480 * time.Millisecond, "1:02:03:00": time.Hour + 2*time.Minute + 3*time.Second, " 05:10 ": 5*time.Second + 400*time.Millisecond, "01:05:00": time.Minute + 5*time.Second} {
		got, err := proving.TimeCode(text, 25)
		require.NoError(t, err, text)
		assert.InDelta(t, want.Seconds(), got.Seconds(), 1e-6, text)
	}
	for _, text := range []string{"", "31", "0:0:0:25", "0:60:00:00", "0:00:61:00", "a:b", "1:2:3:4:5", "-1:00", "0:00:70000:00"} {
		_, err := proving.TimeCode(text, 25)
		require.ErrorIs(t, err, proving.ErrTimeCode, text)
	}
	for _, rate := range []float64{0, -1} {
		_, err := proving.TimeCode("0:01", rate)
		require.ErrorIs(t, err, proving.ErrTimeCode)
	}
	got, err := proving.TimeCode("00:00:01:49", 50)
	require.NoError(t, err)
	assert.InDelta(t, 1.98, got.Seconds(), 1e-6)
}

func TestWhatTimeCodesShow(t *testing.T) {
	s := func(n float64) time.Duration { return time.Duration(n * float64(time.Second)) }
	for _, c := range []struct {
		kind              string
		from, seen, after float64
		outcome           dossier.Outcome
		value             float64
	}{
		{"seeks", 30, 33, 3, dossier.Pass, 0}, {"seeks", 30, 30, 2, dossier.Pass, -2}, {"seeks", 30, 36, 3, dossier.Marginal, 3}, {"seeks", 30, 3, 3, dossier.Fail, -30},
		{"resumes", 50, 22, 2, dossier.Pass, -30}, {"resumes", 50, 15, 5, dossier.Marginal, -40}, {"resumes-elsewhere", 3000, 0, 0, dossier.Fail, -3000},
		{"plays", 0, 180, 180, dossier.Pass, 0}, {"plays", 0, 179, 180, dossier.Pass, 1}, {"plays", 0, 176, 180, dossier.Marginal, 4}, {"plays", 0, 100, 180, dossier.Fail, 80}, {"plays", 0, 182, 180, dossier.Pass, 0},
	} {
		j, known := proving.JudgeCodes(proving.ReadingOf(c.kind), proving.Codes{From: s(c.from), Seen: s(c.seen), After: s(c.after)})
		require.True(t, known, c.kind)
		assert.Equal(t, c.outcome, j.Outcome, c)
		assert.InDelta(t, c.value, j.Value, 1e-9, c)
	}
	_, known := proving.JudgeCodes(proving.ReadingOf("reach"), proving.Codes{})
	assert.False(t, known)
	for frames, want := range map[float64]dossier.Outcome{0: dossier.Pass, 14: dossier.Pass, 15: dossier.Marginal, 44: dossier.Marginal, 45: dossier.Fail, -9: dossier.Pass, -10: dossier.Marginal, -21: dossier.Marginal, -22: dossier.Fail} {
		j, known := proving.JudgeLips(frames, 240)
		require.True(t, known)
		assert.Equal(t, want, j.Outcome, "%v frames at 240 a second: %v ms", frames, j.Value)
	}
	_, known = proving.JudgeLips(1, 0)
	assert.False(t, known)
}
