package service_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/demo"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// A code ends when its time is over, also for a page that is open; a run ends by itself.
func TestCodesEnd(t *testing.T) {
	now := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{Now: func() time.Time { return now }})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := service.New(st, service.Options{Now: func() time.Time { return now }})
	as, err := demo.AddFirm(t.Context(), s)
	require.NoError(t, err)
	_, err = s.Begin(t.Context(), as["petri"], wire.NewHousehold{Code: "H-0900", Name: "x"}, service.Request{})
	require.NoError(t, err)
	made, err := s.Invite(t.Context(), as["petri"], "H-0900", wire.NewInvite{Minutes: 10}, "http://10.20.4.2:7440/")
	require.NoError(t, err)
	assert.Equal(t, "http://10.20.4.2:7440/measure/"+made.Code, made.Address)
	first, err := s.BeginRun(t.Context(), "phone", made.Code)
	require.NoError(t, err)
	require.NoError(t, s.Running(made.Code, first.Run))
	now = now.Add(time.Minute)
	require.ErrorContains(t, s.Running(made.Code, first.Run), "This measurement has ended", "a run that nobody ended")
	_, err = s.BeginRun(t.Context(), "another phone", made.Code)
	require.NoError(t, err, "holds nobody up for long")
	now = now.Add(10 * time.Minute)
	down := 3.0
	_, err = s.EndRun(t.Context(), "phone", made.Code, wire.MeasureResult{DownMbps: &down})
	assert.ErrorContains(t, err, "has expired")
	_, err = s.Measuring(t.Context(), "phone", made.Code)
	assert.ErrorContains(t, err, "has expired")

	join, err := s.Join(t.Context(), as["petri"], "http://10.20.4.2:7440")
	require.NoError(t, err)
	now = now.Add(6 * time.Minute)
	_, err = s.Joined(t.Context(), "phone", join.Code, "a phone")
	assert.ErrorContains(t, err, "has expired")
}

// Who was suspended after making a code delivers nothing by it, and logs no phone in.
func TestCodesOfWhoIsSuspended(t *testing.T) {
	s, as := filled(t, nil)
	made, err := s.Invite(t.Context(), as["petri"], "H-0001", wire.NewInvite{}, "http://x")
	require.NoError(t, err)
	join, err := s.Join(t.Context(), as["petri"], "http://x")
	require.NoError(t, err)
	run, err := s.BeginRun(t.Context(), "phone", made.Code)
	require.NoError(t, err)
	suspended := true
	_, err = s.ChangePerson(t.Context(), as["ilona"], as["petri"].ID, wire.PersonChange{Suspended: &suspended, HandOnTo: "maarit"})
	require.NoError(t, err)
	down := 3.0
	_, err = s.EndRun(t.Context(), "phone", made.Code, wire.MeasureResult{MeasureRun: run, DownMbps: &down})
	assert.ErrorContains(t, err, "This code has expired")
	_, err = s.Joined(t.Context(), "phone", join.Code, "a phone")
	assert.ErrorContains(t, err, "This code has expired")
}

// A code ends with the right of who made it: with a suspension, though the role would still allow it, and with a home
// that was given to somebody else, though nobody was suspended.
func TestACodeEndsWithTheRightOfItsMaker(t *testing.T) {
	s, as := filled(t, nil)
	ctx := t.Context()
	ofLead, err := s.Invite(ctx, as["aino"], "H-0001", wire.NewInvite{}, "http://x")
	require.NoError(t, err)
	ofCustodian, err := s.Invite(ctx, as["petri"], "H-0001", wire.NewInvite{}, "http://x")
	require.NoError(t, err)
	for _, code := range []string{ofLead.Code, ofCustodian.Code} {
		_, err = s.Measuring(ctx, "phone", code)
		require.NoError(t, err)
	}
	suspended := true
	_, err = s.ChangePerson(ctx, as["ilona"], as["aino"].ID, wire.PersonChange{Suspended: &suspended})
	require.NoError(t, err)
	_, err = s.Measuring(ctx, "phone", ofLead.Code)
	require.ErrorContains(t, err, "has expired")
	require.NoError(t, s.Assign(ctx, as["ilona"], "H-0001", wire.Assign{To: "maarit", Why: "holidays"}, service.Request{}))
	_, err = s.Measuring(ctx, "phone", ofCustodian.Code)
	require.ErrorContains(t, err, "has expired")
}
