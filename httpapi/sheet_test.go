package httpapi_test

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/reel"
	"kaiku/wire"
)

// A test with a sample clip teaches what the device decodes, in the same write; what it does not show is not recorded.
func TestASampleTeachesTheDecodingLines(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	record := func(kind string, o dossier.Outcome, sample string) error {
		_, err := petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID(kind, ids), Outcome: o, Sample: sample, Conditions: "evening"})
		return err
	}
	entries := func() []string {
		d, err := petri.Dossier(ctx, "H-0701")
		require.NoError(t, err)
		var out []string
		for _, p := range d.Decodings {
			require.Equal(t, ids["device"], string(p.Device))
			for _, e := range p.Entries {
				require.Equal(t, dossier.EvidenceProven, e.Evidence)
				out = append(out, string(e.Format)+" "+string(e.Able))
			}
		}
		return out
	}
	require.NoError(t, record("plays", dossier.Marginal, "h264-1080p25-aac"))
	assert.Empty(t, entries(), "started late: that is no matter of decoding")
	require.NoError(t, record("plays", dossier.Pass, "h264-1080p25-aac"))
	assert.Equal(t, []string{"mp4 yes", "h264 yes"}, entries())
	require.NoError(t, record("plays", dossier.Fail, "hevc10-2160p25-aac"))
	assert.Equal(t, []string{"mp4 yes", "h264 yes", "hevc no"}, entries(), "the container is known to be good")
	require.NoError(t, record("sound", dossier.Fail, "h264-1080p25-ac3-51"))
	assert.Equal(t, []string{"mp4 yes", "h264 yes", "hevc no", "ac-3 no"}, entries())
	require.NoError(t, record("plays", dossier.Pass, "hevc10-2160p25-aac"))
	assert.Equal(t, []string{"h264 yes", "ac-3 no", "mp4 yes", "hevc yes"}, entries(), "with newer firmware it plays")
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "with the sample hevc10-2160p25-aac, evening", d.Attempts[len(d.Attempts)-1].Conditions)
	assert.ErrorContains(t, record("plays", dossier.Pass, "clip-16"), "no sample clip named clip-16")

	// What the server may have converted on the way shows nothing of the device.
	s.set("H-0701", "source", ids["source"], wire.Record{"converts": "sound-and-picture"})
	s.set("H-0701", "path", ids["path"], wire.Record{"mode": "through-server"})
	require.NoError(t, record("plays", dossier.Pass, "vp9-720p25-opus"))
	assert.NotContains(t, strings.Join(entries(), " "), "vp9")
}

// What is read off a sample clip decides the result; what is missing or is no time code is asked for, and nothing is written.
func TestWhatIsReadOffASampleClip(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	samples, err := petri.Samples(ctx)
	require.NoError(t, err)
	require.Len(t, samples, len(reel.Clips))
	assert.Equal(t, reel.Clips[0].Name, samples[0].Name)
	assert.Contains(t, samples[0].What, "H.264")
	frames := func(n float64) *float64 { return &n }
	for _, c := range []struct {
		kind    string
		r       wire.ClipReading
		outcome dossier.Outcome
		value   string
		want    float64
		refused string
	}{
		{kind: "seeks", r: wire.ClipReading{Asked: "0:30:00", Seen: "0:33:05", AfterS: 3}, outcome: dossier.Pass, value: "jumpErrorS", want: 0.2},
		{kind: "seeks", r: wire.ClipReading{Asked: "0:30:00", Seen: "0:10:00"}, outcome: dossier.Fail, value: "jumpErrorS", want: -20},
		{kind: "plays", r: wire.ClipReading{Asked: "0:02:00", Seen: "0:58:12", AfterS: 60}, outcome: dossier.Marginal, value: "stillS", want: 3.52},
		{kind: "plays", r: wire.ClipReading{Asked: "0:02:00", Seen: "0:58:12"}, refused: "how much time passed"},
		{kind: "seeks", r: wire.ClipReading{Asked: "half past two", Seen: "0:10:00"}, refused: `"half past two", is not one at 25 frames`},
		{kind: "seeks", r: wire.ClipReading{Asked: "0:30:00", Seen: "0:33:25"}, refused: `"0:33:25", is not one at 25 frames`},
		{kind: "reach", r: wire.ClipReading{Asked: "0:30:00", Seen: "0:33:05"}, refused: "show nothing of the test"},
		{kind: "plays", r: wire.ClipReading{Frames: frames(9), Rate: 240}, refused: "is not one at 240 frames"},
	} {
		before, err := petri.Dossier(ctx, "H-0701")
		require.NoError(t, err)
		made, err := petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID(c.kind, ids), Reading: &c.r})
		if c.refused != "" {
			require.ErrorContains(t, err, c.refused, "%v", c)
			after, err := petri.Dossier(ctx, "H-0701")
			require.NoError(t, err)
			assert.Equal(t, before.Revision, after.Revision)
			continue
		}
		require.NoError(t, err, "%v", c)
		assert.Equal(t, c.outcome, made.Attempt.Outcome)
		assert.InDelta(t, c.want, made.Attempt.Values[c.value], 0.001)
		assert.NotEmpty(t, made.Attempt.Note)
	}
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("seeks", ids)})
	require.ErrorContains(t, err, "does not say how the test went")
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("seeks", ids), Outcome: dossier.Pass, Reading: &wire.ClipReading{Asked: "0:30:00", Seen: "0:33:05"}})
	require.ErrorContains(t, err, "Leave the result out")

	// With a clip of fifty frames a second, frame 30 is one.
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("seeks", ids), Sample: "h264-1080p50-aac", Reading: &wire.ClipReading{Asked: "0:02:00", Seen: "0:03:30", AfterS: 1.6}})
	require.NoError(t, err)

	round, err := petri.RecordRound(ctx, "H-0701", wire.NewRound{Results: []wire.RoundResult{
		{ID: dossier.ID[dossier.Attempt](uuid.Must(uuid.NewV7()).String()), Test: testID("plays", ids), Outcome: dossier.Pass},
		{Test: testID("seeks", ids), Reading: &wire.ClipReading{Asked: "0:30:00", Seen: "0:37:00"}}}})
	require.NoError(t, err)
	assert.Equal(t, dossier.Marginal, round.Attempts[1].Attempt.Outcome)
}

// What claims to be a machine's result has to be one: of a test that a machine can carry out, and seen in a way that comes to that result.
func TestAForgedResultOfAMachineIsRefused(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	for _, c := range []struct {
		in   wire.NewAttempt
		want string
	}{
		{wire.NewAttempt{Test: testID("sound", ids), Outcome: dossier.Pass, Observed: "answered"}, "A machine cannot carry out the test"},
		{wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Pass, Observed: "refused"}, `A machine that saw "refused" does not come to the result "pass".`},
		{wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Pass}, `A machine that saw "nothing"`},
		{wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Fail, Observed: "answered"}, `does not come to the result "fail"`},
		{wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Fail, Observed: "not-allowed"}, `does not come to the result "fail"`},
		{wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Pass, Observed: "answered"}, ""},
	} {
		c.in.How = dossier.ByMachine
		_, err := s.as["petri"].RecordAttempt(t.Context(), "H-0701", c.in)
		if c.want == "" {
			require.NoError(t, err)
		} else {
			require.ErrorContains(t, err, c.want)
		}
	}
}

// The sheet says what was proven, by whom and on what; what was waived and why; and what is not proven.
func TestTheSheetSaysWhatIsProvenAndWhatIsNot(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	_, err := petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("reach", ids), Outcome: dossier.Fail, At: time.Now().Add(-time.Hour)})
	require.NoError(t, err)
	_, err = petri.RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("plays", ids), Outcome: dossier.Pass, Note: "=1+1 in the evening"})
	require.NoError(t, err)
	_, err = s.as["aino"].WaiveTest(ctx, "H-0701", wire.NewWaiver{Test: testID("found", ids), Why: "The address is typed"})
	require.NoError(t, err)
	sheet, err := s.as["tilit"].Sheet(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "Petri Lokki", sheet.Custodian)
	require.Len(t, sheet.Rooms, 1)
	by := map[string]wire.SheetTest{}
	for _, one := range sheet.Rooms[0].Paths[0].Tests {
		kind, _, _ := strings.Cut(one.ID, ":")
		by[kind] = one
		assert.True(t, one.Required || one.Status != proving.Untried, "advised tests only where they were tried")
	}
	assert.Equal(t, proving.Proven, by["plays"].Status)
	assert.Equal(t, []string{"Petri Lokki", "eye"}, []string{by["plays"].By, by["plays"].How})
	assert.Equal(t, proving.Failed, by["reach"].Status)
	require.Len(t, sheet.Waived, 1)
	assert.Equal(t, "The address is typed", sheet.Waived[0].Why)
	var missing []string
	for _, one := range sheet.Missing {
		kind, _, _ := strings.Cut(one.ID, ":")
		missing = append(missing, kind)
	}
	assert.ElementsMatch(t, []string{"reach", "opens"}, missing)
	assert.Contains(t, strings.Join(sheet.Rooms[0].Paths[0].Stands, "; "), "10.20.4.10")

	for _, form := range []string{"results", "customer"} {
		body, err := petri.SheetFile(ctx, "H-0701", form)
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(body, []byte("%PDF-1.")), form)
		assert.True(t, bytes.HasSuffix(bytes.TrimSpace(body), []byte("%%EOF")), form)
		if form == "customer" {
			assert.Equal(t, 1, bytes.Count(body, []byte("/Type /Page\n")), "one page for the customer")
		}
	}
	body, err := petri.SheetFile(ctx, "H-0701", "table")
	require.NoError(t, err)
	rows, err := csv.NewReader(bytes.NewReader(body)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+len(by))
	assert.Contains(t, string(body), "'=1+1", "no spreadsheet takes what was seen for a formula")
	_, err = petri.SheetFile(ctx, "H-0701", "napkin")
	assert.ErrorContains(t, err, "results, table, customer")
}
