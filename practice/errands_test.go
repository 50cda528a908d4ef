package practice_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/practice"
	"kaiku/practice/layout"
)

func build(t *testing.T, form string, octet byte) *practice.House {
	h, err := practice.Build(form, octet)
	require.NoError(t, err)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(func() { h.Stop(); http.DefaultTransport.(*http.Transport).CloseIdleConnections() })
	return h
}

// An errand is done on the sockets: what the fault breaks, the errand sees.
func TestErrandsSeeWhatTheFaultsBreak(t *testing.T) {
	h := build(t, layout.SailLoft, 111)
	films := func(test string) layout.Errand {
		return layout.Errand{Test: test, Screen: "projector player", Folder: "Films, converted"}
	}
	for _, test := range []string{"plays", "stops", "seeks", "resumes", "sound", "picture-fits", "lip-sync", "top-quality", "converted-ahead", "sample-appears", "after-device-restart", "survives-restart", "hours-kept"} {
		seen, err := layout.Send(t.Context(), 111, films(test))
		require.NoError(t, err, test)
		assert.True(t, seen.Passed, "%s: %s", test, seen.Says)
		t.Log(test, seen.Says)
	}
	for fault, tests := range map[string][]string{
		"connection-refused": {"plays", "sample-appears"}, "rate-cap": {"plays", "seeks", "survives-restart"},
		"trial-ended": {"stops", "sound"}, "picture-cropped": {"picture-fits"}, "sound-late": {"lip-sync"}, "index-empty": {"sample-appears"}, "folders-hang": {"sample-appears"},
	} {
		require.NoError(t, h.Switch(fault, true))
		for _, test := range tests {
			seen, err := layout.Send(t.Context(), 111, films(test))
			require.NoError(t, err, test)
			assert.False(t, seen.Passed, "%s with %s: %s", test, fault, seen.Says)
			t.Log(test, fault, seen.Says)
		}
		require.NoError(t, h.Switch(fault, false))
	}
	seen, err := layout.Send(t.Context(), 111, layout.Errand{Test: "plays", Screen: "projector player", Folder: "Films"})
	require.NoError(t, err)
	assert.False(t, seen.Passed, "it cannot decode them: %s", seen.Says)
}

func TestAnErrandThatNobodyCanDoIsNoResult(t *testing.T) {
	build(t, layout.AlderRow, 113)
	for _, e := range []layout.Errand{{Test: "plays", Screen: "nowhere", Folder: "Films"}, {Test: "subtitles", Screen: "boy's screen", Folder: "Series"},
		{Test: "resumes", Screen: "boy's screen", Folder: "Series"}, {Test: "plays", Screen: "Alder Row", Folder: "Series"}} {
		_, err := layout.Send(t.Context(), 113, e)
		require.ErrorIs(t, err, layout.ErrNoErrand, e)
	}
	_, err := layout.Send(t.Context(), 119, layout.Errand{})
	require.ErrorIs(t, err, layout.ErrNoHouse)
	_, err = practice.Build("palace", 1)
	require.ErrorIs(t, err, practice.ErrNoForm)
}
