package httpapi_test

import (
	"io"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// The type of a problem is an address that tells of it.
func TestAProblemsTypeIsServed(t *testing.T) {
	s := newSite(t, nil)
	resp := s.request("nobody", "GET", "/docs/errors", nil, nil)
	text, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, 200, resp.StatusCode)
	for code := range wording.Errors {
		assert.Contains(t, string(text), `id="`+code+`"`)
	}
}

// One change is undone by its reverse; the journal keeps both, and is found by word.
func TestAnEntryIsUndone(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri, room := t.Context(), s.as["petri"], dossier.KindNamed("room")
	_, etag, err := petri.Show(ctx, "H-0701", room, ids["room"])
	require.NoError(t, err)
	_, err = petri.Set(ctx, "H-0701", room, ids["room"], etag, wire.Record{"name": "vault"})
	require.NoError(t, err)
	found, err := petri.Journal(ctx, "H-0701", url.Values{"word": {"VAULT"}})
	require.NoError(t, err)
	require.Len(t, found, 1)
	done, err := petri.Undo(ctx, "H-0701", found[0].Revision, found[0].N)
	require.NoError(t, err)
	assert.Equal(t, "cellar", done.Label)
	_, err = petri.Undo(ctx, "H-0701", found[0].Revision, found[0].N)
	assert.True(t, client.IsProblem(err, "changed-since"), "%v", err)
	found, err = petri.Journal(ctx, "H-0701", url.Values{"word": {"undo of entry"}})
	require.NoError(t, err)
	assert.Len(t, found, 1)
	_, err = petri.Undo(ctx, "H-0701", 1, 9)
	assert.True(t, client.IsProblem(err, "no-such-entry"), "%v", err)

	// What a removal took along comes back with it, entry by entry; what still needs it is said.
	_, etag, err = petri.Show(ctx, "H-0701", dossier.KindNamed("path"), ids["path"])
	require.NoError(t, err)
	require.NoError(t, petri.Remove(ctx, "H-0701", dossier.KindNamed("path"), ids["path"], etag))
	newest, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	_, err = petri.Undo(ctx, "H-0701", newest[0].Revision, newest[0].N)
	require.NoError(t, err)
	d, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, ids["path"], string(d.Paths[0].ID), "under its own id, so that its tests are known again")
	issue, err := petri.OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "hum"})
	require.NoError(t, err)
	newest, err = petri.Journal(ctx, "H-0701", url.Values{"record": {string(issue.Record.ID)}})
	require.NoError(t, err)
	_, err = petri.Undo(ctx, "H-0701", newest[0].Revision, newest[0].N)
	assert.True(t, client.IsProblem(err, "not-undoable"), "%v", err)
}
