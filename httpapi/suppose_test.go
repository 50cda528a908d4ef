package httpapi_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// reads are all operations that read a household as a whole. What they answer under a supposition is compared below.
func (s *site) reads() []string {
	var out []string
	for _, op := range s.api.Operations() {
		if op.Method == http.MethodGet && strings.Contains(op.Path, "{code}") && strings.Count(op.Path, "{") == 1 && strings.HasPrefix(op.Path, "/api/v1/households/") {
			out = append(out, op.Path)
		}
	}
	return out
}

// notOfTheHome are what is read beside the record of a home, which a supposition leaves as it is.
var notOfTheHome = map[string]string{
	"/api/v1/households/{code}/journal":        "tells what was written",
	"/api/v1/households/{code}/jobs":           "tells what this machine does",
	"/api/v1/households/{code}/tests/coverage": "tells what was, from the journal",
	"/api/v1/households/{code}/tests/nightly":  "tells what this machine does",
	"/api/v1/households/{code}/overview":       "tells the newest entries of the journal too",
	"/api/v1/households/{code}/recipes":        "tells who set a step and when, from the journal",
	"/api/v1/households/{code}/due.ics":        "is stamped with the time",
}

func (s *site) answer(path, header string) (int, string, http.Header) {
	s.t.Helper()
	resp := s.request("aino", http.MethodGet, strings.Replace(path, "{code}", "H-0701", 1), nil, map[string]string{"Kaiku-Suppose": header})
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(s.t, err)
	return resp.StatusCode, string(b), resp.Header
}

// drawStep draws one change that may be made to the home: a record removed, or a number, a text or a room of it changed.
func drawStep(r *rand.Rand, d *dossier.Dossier) wire.PreviewStep {
	for {
		k := dossier.Kinds[r.IntN(len(dossier.Kinds))]
		n := k.In(d).Len()
		if n == 0 || k.Name == "household" {
			continue
		}
		record := k.In(d).At(r.IntN(n))
		if k.Allows(dossier.Remove) && r.IntN(6) == 0 {
			return wire.PreviewStep{Verb: "remove", Kind: k.Name, ID: record.Key()}
		}
		f := k.Fields[r.IntN(len(k.Fields))]
		if !k.Allows(dossier.Set) || f.Rule != dossier.Plain {
			continue
		}
		var v any
		switch f.Get(record).(type) {
		case float64:
			v = float64(1 + r.IntN(300))
		case dossier.ID[dossier.Room]:
			v = d.Rooms[r.IntN(len(d.Rooms))].ID
		case string:
			v = fmt.Sprint("supposed ", r.IntN(1000))
		default:
			continue
		}
		return wire.PreviewStep{Verb: "set", Kind: k.Name, ID: record.Key(), Members: map[string]any{f.Name: v}}
	}
}

// outdated is when a handover on offer was outdated by a change, and when a sheet was made: now.
var outdated = regexp.MustCompile(`"endedAt":"[^"]*"|"revision":\d+,"at":"[^"]*"`)

// Supposing is making: whatever is read of a home under supposed changes is what is read once they are made.
func TestSupposingIsMaking(t *testing.T) {
	s := newSite(t, nil)
	s.full("H-0701")
	compared := 0
	for seed := range uint64(24) {
		r := rand.New(rand.NewPCG(seed, 7))
		d, err := s.as["aino"].Dossier(t.Context(), "H-0701")
		require.NoError(t, err)
		steps := []wire.PreviewStep{drawStep(r, d), drawStep(r, d)}
		b, err := json.Marshal(steps)
		require.NoError(t, err)
		header := base64.RawURLEncoding.EncodeToString(b)
		status, _, headers := s.answer("/api/v1/households/{code}/dossier", header)
		assert.Equal(t, "no-store", headers.Get("Cache-Control"), "what does not exist is not kept")
		supposed := map[string]string{}
		for _, path := range s.reads() {
			var got int
			got, supposed[path], _ = s.answer(path, header)
			if plain, _, _ := s.answer(path, ""); plain == http.StatusOK {
				require.Equal(t, status, got, "%s after %v: %s", path, steps, supposed[path])
			}
		}
		made, err := s.as["aino"].MakeSupposed(t.Context(), "H-0701", d.Revision, steps...)
		if status != http.StatusOK {
			var refused *wire.Problem
			require.ErrorAs(t, err, &refused, "%v: what cannot be supposed cannot be made", steps)
			continue
		}
		require.NoError(t, err, "%v", steps)
		require.Equal(t, d.Revision+1, made.Revision)
		for path, was := range supposed {
			if notOfTheHome[path] != "" {
				continue
			}
			_, now, _ := s.answer(path, "")
			require.Equal(t, outdated.ReplaceAllString(now, ""), outdated.ReplaceAllString(was, ""), "%s after %v", path, steps)
			compared++
		}
	}
	t.Logf("%d answers compared", compared)
	assert.Greater(t, compared, 500)
}

// Nothing is written, and nothing stays of what was supposed.
func TestSupposingLeavesEverythingAsItIs(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx := t.Context()
	before := map[string]string{}
	for _, path := range s.reads() {
		_, before[path], _ = s.answer(path, "")
	}
	step := wire.PreviewStep{Verb: "set", Kind: "device", ID: ids["device"], Members: map[string]any{"name": "supposed screen"}}
	supposing, err := s.as["petri"].Supposing(step)
	require.NoError(t, err)
	d, err := supposing.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "supposed screen", d.Label(dossier.Ref{Kind: "device", ID: ids["device"]}))
	_, err = supposing.Set(ctx, "H-0701", dossier.KindNamed("device"), ids["device"], `"1"`, wire.Record{"note": "x"})
	assert.ErrorContains(t, err, "nothing is written")
	for _, op := range s.api.Operations() {
		if op.Method == http.MethodGet || op.Right == service.Public {
			continue
		}
		resp := s.request("aino", op.Method, placeOf(op.Path, op.ID, ids), bodyOf(op.ID, ids), map[string]string{"Kaiku-Suppose": headerOf(t, step)})
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Contains(t, string(b), "suppose-only-reads", op.ID)
	}
	for _, path := range s.reads() {
		_, now, _ := s.answer(path, "")
		assert.Equal(t, outdated.ReplaceAllString(before[path], ""), outdated.ReplaceAllString(now, ""), path)
	}
	plain, err := supposing.Supposing()
	require.NoError(t, err)
	d, err = plain.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "screen", d.Label(dossier.Ref{Kind: "device", ID: ids["device"]}))
}

func headerOf(t *testing.T, steps ...wire.PreviewStep) string {
	b, err := json.Marshal(steps)
	require.NoError(t, err)
	return base64.RawURLEncoding.EncodeToString(b)
}

func TestWhatCannotBeSupposed(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	gone := wire.PreviewStep{Verb: "remove", Kind: "device", ID: ids["room"]}
	for said, header := range map[string]string{
		"is not base64url": "%%%",
		"not a JSON list":  base64.RawURLEncoding.EncodeToString([]byte(`{"verb":"add"}`)),
		"one to fifty":     base64.RawURLEncoding.EncodeToString([]byte(`[]`)),
		"too long":         strings.Repeat("A", 30000),
		"no-such-record":   headerOf(t, gone),
		"no-such-kind":     headerOf(t, wire.PreviewStep{Verb: "remove", Kind: "dream", ID: ids["room"]}),
		"unknown-member":   headerOf(t, wire.PreviewStep{Verb: "set", Kind: "device", ID: ids["device"], Members: map[string]any{"dream": 1}}),
		"not-yours":        headerOf(t, wire.PreviewStep{Verb: "set", Kind: "household", ID: ids["household"], Members: map[string]any{"custodian": "maarit"}}),
		"id-taken":         headerOf(t, wire.PreviewStep{Verb: "add", Kind: "room", Members: map[string]any{"id": ids["room"], "name": "again"}}),
	} {
		status, body, _ := s.answer("/api/v1/households/{code}/findings", header)
		assert.Contains(t, body, said)
		assert.GreaterOrEqual(t, status, 400, said)
		assert.Less(t, status, 500, said)
	}
}

// What was supposed is made as a whole, once, and not over what others wrote meanwhile.
func TestMakingWhatWasSupposed(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	room := uuid.Must(uuid.NewV7()).String()
	steps := []wire.PreviewStep{
		{Verb: "add", Kind: "room", Members: map[string]any{"id": room, "name": "attic"}},
		{Verb: "set", Kind: "device", ID: ids["device"], Members: map[string]any{"room": room}},
	}
	body := wire.MakeSupposed{Changes: steps, AsOf: d.Revision}
	key := map[string]string{"Idempotency-Key": "once"}
	var first string
	for range 2 {
		resp := s.request("petri", http.MethodPost, "/api/v1/households/H-0701/preview/make", body, key)
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Equal(t, http.StatusOK, resp.StatusCode, string(b))
		if first == "" {
			first = string(b)
		}
		assert.JSONEq(t, first, string(b), "a repeated request is answered alike")
	}
	now, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	require.Equal(t, d.Revision+1, now.Revision, "one write")
	device, _ := now.Devices.Get(dossier.ID[dossier.Device](ids["device"]))
	assert.Equal(t, room, string(device.Room))

	_, err = petri.MakeSupposed(ctx, "H-0701", d.Revision, wire.PreviewStep{Verb: "set", Kind: "device", ID: ids["device"], Members: map[string]any{"make": "x"}})
	assert.ErrorContains(t, err, "has changed screen in the meantime")
	_, err = petri.MakeSupposed(ctx, "H-0701", now.Revision, wire.PreviewStep{Verb: "remove", Kind: "room", ID: room}, wire.PreviewStep{Verb: "set", Kind: "device", ID: room, Members: map[string]any{"note": "x"}})
	assert.ErrorContains(t, err, "There is no device")
	after, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, now.Revision, after.Revision, "all or none")
	same, err := petri.MakeSupposed(ctx, "H-0701", now.Revision, wire.PreviewStep{Verb: "set", Kind: "device", ID: ids["device"], Members: map[string]any{"name": "screen"}})
	require.NoError(t, err)
	assert.Equal(t, now.Revision, same.Revision, "nothing differed")
	_, err = s.as["tilit"].MakeSupposed(ctx, "H-0701", now.Revision, steps...)
	assert.ErrorContains(t, err, "is not allowed to do this")
}

// What is proposed against an overload leaves, once it is supposed, what was said of it.
func TestAProposedChangeCanBeSupposed(t *testing.T) {
	for _, port := range []string{"wired", "powerline"} { // whose port to a cable is recorded, and not
		t.Run(port, func(t *testing.T) { proposedChanges(t, port) })
	}
}

func proposedChanges(t *testing.T, port string) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	add := func(kind string, members wire.Record) string { return s.add("H-0701", kind, members) }
	hub := add("device", wire.Record{"name": "router", "roles": []string{"router"}})
	radio := add("interface", wire.Record{"device": hub, "name": "wlan", "medium": "radio", "band": "5-ghz", "channel": 36})
	first := add("interface", wire.Record{"device": hub, "name": "lan1", "medium": "wired", "portMbps": 1000})
	add("interface", wire.Record{"device": hub, "name": "lan2", "medium": "wired", "portMbps": 1000})
	add("link", wire.Record{"near": ids["interface"], "far": first, "kind": "cable", "rateMbps": 1000})
	s.set("H-0701", "interface", ids["wired"], wire.Record{"medium": port, "portMbps": 1000})
	air := add("interface", wire.Record{"device": ids["device"], "name": "wlan0", "medium": "radio"})
	add("link", wire.Record{"near": air, "far": radio, "kind": "radio", "band": "5-ghz", "channel": 36, "rateMbps": 60})
	s.set("H-0701", "folder", ids["folder"], wire.Record{"mix": []map[string]any{{"container": "mp4", "video": "h264", "items": 3, "hours": 5, "needed5Mbps": 30}}})
	l, err := petri.Load(ctx, "H-0701")
	require.NoError(t, err)
	supposed := 0
	for _, ch := range l.Alone[0].Changes {
		if len(ch.Steps) == 0 {
			continue
		}
		supposing, err := petri.Supposing(ch.Steps...)
		require.NoError(t, err)
		then, err := supposing.Load(ctx, "H-0701")
		require.NoError(t, err)
		assert.InDelta(t, ch.Share, then.Alone[0].Uses[0].Share, 1e-9, ch.Said)
		supposed++
	}
	assert.Positive(t, supposed)
}
