package service_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// A result can be taken back for a minute by who recorded it, and not where an issue was closed by it.
func TestASlipIsTakenBackWithinAMinute(t *testing.T) {
	clock, err := keepers()
	require.NoError(t, err)
	var later time.Duration
	s, as := filledWith(t, service.Options{Now: func() time.Time { return clock.Now().Add(later) }})
	ctx, petri := t.Context(), as["petri"]
	record := func() uint64 {
		later = 0
		p, err := s.Plan(ctx, petri, "H-0001")
		require.NoError(t, err)
		for _, step := range p.Reproof {
			if step.Act == "copy-sample" {
				made, err := s.RecordRound(ctx, petri, "H-0001", wire.NewRound{Results: []wire.RoundResult{{Test: step.Tests[0], Outcome: dossier.Pass}}}, service.Request{})
				require.NoError(t, err)
				return made.Revision
			}
		}
		require.Fail(t, "nothing is to be copied")
		return 0
	}
	made := record()
	later = time.Minute
	_, err = s.UndoRevision(ctx, petri, "H-0001", made, service.Request{})
	require.NoError(t, err)
	made = record()
	later = time.Minute + time.Second
	_, err = s.UndoRevision(ctx, petri, "H-0001", made, service.Request{})
	assertRefused(t, err, "not-undoable")
	assert.NotZero(t, made)
}
