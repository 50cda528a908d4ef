package httpapi_test

import (
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/wire"
)

func (s *site) calendar(path string) (int, string) {
	resp := s.request("nobody", http.MethodGet, path, nil, nil)
	defer func() { require.NoError(s.t, resp.Body.Close()) }()
	b, err := io.ReadAll(resp.Body)
	require.NoError(s.t, err)
	return resp.StatusCode, string(b)
}

// A calendar is fetched without a log-in from an address that opens nothing else, until it is ended.
func TestACalendarOfOnesVisits(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	starts := time.Now().Add(48 * time.Hour).UTC().Truncate(time.Minute)
	visit, err := petri.Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "prove it; all, of it", "technician": "petri", "starts": starts.Format(time.RFC3339), "minutes": 90, "bring": []map[string]any{{"what": "ladder"}}})
	require.NoError(t, err)
	_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "of somebody else", "technician": "maarit", "starts": starts.Format(time.RFC3339)})
	require.NoError(t, err)
	_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("due"), wire.Record{"what": "trial ends", "kind": "trial", "on": starts.Format(time.DateOnly)})
	require.NoError(t, err)
	_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("long-task"), wire.Record{"what": "first index", "expectedAt": starts.Format(time.RFC3339), "checkedBy": "petri"})
	require.NoError(t, err)

	first, err := petri.NewFeed(ctx)
	require.NoError(t, err)
	status, text := s.calendar(first.Path)
	require.Equal(t, 200, status)
	for _, want := range []string{"BEGIN:VCALENDAR\r\n", "UID:visit-" + visit["id"].(string) + "@kaiku\r\n", "DTSTART:" + starts.Format("20060102T150405Z"), "DTEND:" + starts.Add(90*time.Minute).Format("20060102T150405Z"),
		"prove it\\; all\\, of it", "- ladder", "trial ends", "check: first index", "DTSTART;VALUE=DATE:" + starts.Format("20060102")} {
		assert.Contains(t, strings.ReplaceAll(text, "\r\n ", ""), want)
	}
	assert.NotContains(t, text, "of somebody else")
	for line := range strings.SplitSeq(text, "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "RFC 5545, section 3.1")
	}

	secret := strings.TrimSuffix(strings.TrimPrefix(first.Path, "/calendar/"), ".ics")
	resp := s.request("nobody", http.MethodGet, "/api/v1/me", nil, map[string]string{"Authorization": "Bearer " + secret})
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, 401, resp.StatusCode, "the address of a calendar is no log-in")

	second, err := petri.NewFeed(ctx)
	require.NoError(t, err)
	status, _ = s.calendar(first.Path)
	assert.Equal(t, 404, status, "a new address ends the old one")
	status, _ = s.calendar(second.Path)
	assert.Equal(t, 200, status)
	status, _ = s.calendar("/calendar/guessed.ics")
	assert.Equal(t, 404, status)
}

func TestTheKitIsReadyOrNot(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	_, err := petri.Add(ctx, "H-0701", dossier.KindNamed("wish"), wire.Record{"what": "film", "room": ids["room"]})
	require.NoError(t, err)
	kit, err := petri.Kit(ctx, "H-0701")
	require.NoError(t, err)
	require.NotEmpty(t, kit.Supplies, "the survey misses readings")
	assert.ErrorContains(t, petri.SetReady(ctx, "H-0701", wire.SupplyReady{What: "measuring laptop", Ready: true}), "No visit is planned")
	_, err = petri.Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "measure", "technician": "petri", "starts": time.Now().Add(time.Hour).Format(time.RFC3339), "bring": []map[string]any{{"what": "ladder"}}})
	require.NoError(t, err)
	require.NoError(t, petri.SetReady(ctx, "H-0701", wire.SupplyReady{What: "measuring laptop", Ready: true}))
	require.NoError(t, petri.SetReady(ctx, "H-0701", wire.SupplyReady{What: "Ladder", Ready: true}))
	assert.ErrorContains(t, petri.SetReady(ctx, "H-0701", wire.SupplyReady{What: "elephant", Ready: true}), "Nothing called elephant")
	kit, err = petri.Kit(ctx, "H-0701")
	require.NoError(t, err)
	ready := map[string]bool{}
	for _, one := range kit.Supplies {
		ready[one.What] = one.Ready
	}
	assert.Equal(t, map[string]bool{"measuring laptop": true, "ladder": true}, ready)
	owed, err := petri.Departure(ctx, "H-0701")
	require.NoError(t, err)
	assert.Contains(t, owed[0].Sentence, "has no path", "a wish that nothing serves comes first")
	assert.Contains(t, owed[1].Sentence, "not tried yet")
}
