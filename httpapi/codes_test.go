package httpapi_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// A code delivers readings of its place in its home, in the name of who made it, and nothing else.
func TestMeasuringWithACode(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri, nobody := t.Context(), s.as["petri"], s.as["nobody"]
	made, err := petri.Invite(ctx, "H-0701", wire.NewInvite{Device: dossier.ID[dossier.Device](ids["device"])})
	require.NoError(t, err)
	assert.True(t, strings.HasSuffix(made.Address, "/measure/"+made.Code))
	assert.Greater(t, len(made.QR), 20)
	told, err := nobody.Measuring(ctx, strings.ToLower(made.Code))
	require.NoError(t, err)
	assert.Equal(t, "screen", told.Place)

	run, err := nobody.BeginRun(ctx, made.Code)
	require.NoError(t, err)
	_, err = nobody.BeginRun(ctx, made.Code)
	assert.True(t, client.IsProblem(err, "measuring-already"), "two phones on one code: %v", err)
	for place, status := range map[string]int{"ping?run=" + run.Run: 204, "ping?run=0011": 409, "down?run=": 409} {
		resp := s.request("nobody", http.MethodGet, "/api/v1/measure/"+made.Code+"/"+place, nil, nil)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, status, resp.StatusCode, place)
	}
	down := 41.5
	done, err := nobody.EndRun(ctx, made.Code, wire.MeasureResult{MeasureRun: run, DownMbps: &down, Conditions: "evening"})
	require.NoError(t, err)
	require.Len(t, done.Readings, 1)
	assert.Equal(t, dossier.Ref{Kind: "device", ID: ids["device"]}, done.Readings[0].Subject)
	assert.Equal(t, dossier.KnownMeasured, done.Readings[0].How)
	_, err = nobody.EndRun(ctx, made.Code, wire.MeasureResult{MeasureRun: run, DownMbps: &down})
	assert.True(t, client.IsProblem(err, "run-ended"), "%v", err)
	entries, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	assert.Equal(t, "Petri Lokki", entries[0].ByName)
	_, err = client.New(petri.Address(), made.Code).Dossier(ctx, "H-0701")
	assert.True(t, client.IsProblem(err, "not-logged-in"), "a code is no log-in")

	run, err = nobody.BeginRun(ctx, made.Code)
	require.NoError(t, err)
	_, err = nobody.EndRun(ctx, made.Code, wire.MeasureResult{MeasureRun: run})
	assert.True(t, client.IsProblem(err, "nothing-measured"), "%v", err)
}

// What a browser says of itself is recorded for the device of the code, in the name of who made the code.
func TestABrowserSaysWhatItDecodes(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri, nobody := t.Context(), s.as["petri"], s.as["nobody"]
	made, err := petri.Invite(ctx, "H-0701", wire.NewInvite{Device: dossier.ID[dossier.Device](ids["device"])})
	require.NoError(t, err)
	asked, err := nobody.DecodingQuestions(ctx, made.Code)
	require.NoError(t, err)
	assert.Equal(t, "screen", asked.Place)
	answers := make([]*bool, len(asked.Questions))
	_, err = nobody.DeclareDecoding(ctx, made.Code, wire.DecodingAnswers{Answers: answers})
	assert.True(t, client.IsProblem(err, "nothing-declared"), err)
	for n, q := range asked.Questions {
		is := strings.Contains(q.Type, "avc1") && q.Width <= 1920
		answers[n] = &is
	}
	done, err := nobody.DeclareDecoding(ctx, made.Code, wire.DecodingAnswers{Answers: answers})
	require.NoError(t, err)
	assert.Contains(t, done.Lines, "decodes H.264 high up to level 4.1, 1920x1080 at 30")
	for range 2 { // the second time says nothing new
		done, err = nobody.DeclareDecoding(ctx, made.Code, wire.DecodingAnswers{Answers: answers, PlaysHere: true})
		require.NoError(t, err)
		assert.Contains(t, done.Lines, "does not decode HEVC")
	}
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	require.Len(t, d.Decodings, 1)
	assert.Equal(t, ids["device"], string(d.Decodings[0].Device))
	entries, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	assert.Equal(t, "Petri Lokki", entries[0].ByName)
	assert.Equal(t, "declared by its browser", entries[0].Why)

	room, err := petri.Invite(ctx, "H-0701", wire.NewInvite{Room: dossier.ID[dossier.Room](ids["room"])})
	require.NoError(t, err)
	_, err = nobody.DecodingQuestions(ctx, room.Code)
	assert.True(t, client.IsProblem(err, "code-of-no-device"), err)
	_, err = nobody.DeclareDecoding(ctx, room.Code, wire.DecodingAnswers{Answers: answers})
	assert.True(t, client.IsProblem(err, "code-of-no-device"), err)
	_, err = nobody.DeclareDecoding(ctx, "ABCDEFGHJK", wire.DecodingAnswers{Answers: answers})
	assert.True(t, client.IsProblem(err, "code-ended"), err)
}

// Whoever guesses codes is soon asked to wait, also with one that is right.
func TestGuessedCodes(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	made, err := s.as["petri"].Invite(t.Context(), "H-0701", wire.NewInvite{})
	require.NoError(t, err)
	for range 5 {
		_, err := s.as["nobody"].Measuring(t.Context(), "AAAAAAAAAA")
		require.True(t, client.IsProblem(err, "code-ended"), "%v", err)
	}
	_, err = s.as["nobody"].Measuring(t.Context(), made.Code)
	assert.True(t, client.IsProblem(err, "too-many-guesses"), "%v", err)
}

// A phone comes in once with a code, as who made it.
func TestAPhoneJoinsOnce(t *testing.T) {
	s := newSite(t, nil)
	made, err := s.as["petri"].Join(t.Context())
	require.NoError(t, err)
	join := func() *http.Response {
		resp := s.request("nobody", http.MethodPost, "/api/v1/join/"+made.Code, nil, nil)
		require.NoError(t, resp.Body.Close())
		return resp
	}
	first := join()
	require.Equal(t, 200, first.StatusCode)
	require.Len(t, first.Cookies(), 1)
	me := s.request("nobody", http.MethodGet, "/api/v1/me", nil, map[string]string{"Cookie": first.Cookies()[0].Name + "=" + first.Cookies()[0].Value})
	require.NoError(t, me.Body.Close())
	assert.Equal(t, 200, me.StatusCode)
	assert.Equal(t, 404, join().StatusCode, "a second phone with the same code")
}
