package client_test

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/wire"
)

func serve(t *testing.T, h http.HandlerFunc) *client.Client {
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return client.New(s.URL+"/", "token")
}

func TestErrorsSayWhatHappened(t *testing.T) {
	_, err := client.New("http://127.0.0.1:1", "").Today(t.Context())
	var gone *client.Unreachable
	require.ErrorAs(t, err, &gone)
	assert.Contains(t, err.Error(), "kaiku serve runs there")

	_, err = serve(t, func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(502); _, _ = w.Write([]byte("<html>")) }).Today(t.Context())
	assert.ErrorContains(t, err, "not Kaiku's way")

	_, err = serve(t, func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("{")) }).Today(t.Context())
	assert.ErrorContains(t, err, "read answer")

	c := serve(t, func(w http.ResponseWriter, _ *http.Request) {
		w.WriteHeader(422)
		_ = json.NewEncoder(w).Encode(wire.Problem{Status: 422, Code: "not-valid", Detail: "Nothing was stored.", Remedy: "Correct it.", Faults: []wire.Fault{{Pointer: "/name", Detail: "this is needed"}}})
	})
	_, err = c.Today(t.Context())
	assert.True(t, client.IsProblem(err, "not-valid"))
	assert.False(t, client.IsProblem(err, "other"))
	assert.Equal(t, "Nothing was stored.\n  /name: this is needed\nCorrect it.", err.Error())

	ctx, cancel := context.WithCancel(t.Context())
	waiting := make(chan struct{})
	go func() { <-waiting; cancel() }()
	_, err = serve(t, func(_ http.ResponseWriter, r *http.Request) { close(waiting); <-r.Context().Done() }).Today(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestRequestsCarryWhatTheyMust(t *testing.T) {
	keys := map[string]bool{}
	c := serve(t, func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "Bearer token", r.Header.Get("Authorization"))
		if r.Method == http.MethodPost {
			keys[r.Header.Get("Idempotency-Key")] = true
		}
		if r.Method == http.MethodPatch {
			assert.Equal(t, `"7"`, r.Header.Get("If-Match"))
			assert.Equal(t, "application/merge-patch+json", r.Header.Get("Content-Type"))
		}
		_, _ = w.Write([]byte("{}"))
	})
	room := dossier.KindNamed("room")
	for range 2 {
		_, err := c.Add(t.Context(), "H-0001", room, wire.Record{"name": "x"})
		require.NoError(t, err)
	}
	assert.Len(t, keys, 2, "each request has a key of its own")
	_, err := c.Set(t.Context(), "H-0001", room, "id", `"7"`, wire.Record{"name": "x"})
	require.NoError(t, err)
}

func TestADossierIsReadWhole(t *testing.T) {
	d := homes.Small()
	d.Revision = 7
	c := serve(t, func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "/api/v1/households/H-0900/dossier", r.URL.Path)
		_ = json.NewEncoder(w).Encode(d)
	})
	got, err := c.Dossier(t.Context(), "H-0900")
	require.NoError(t, err)
	assert.Equal(t, uint64(7), got.Revision, "what is computed of it says of which revision it is")
	for _, k := range dossier.Kinds {
		require.Equal(t, k.In(d).Len(), k.In(got).Len(), k.Name)
		for i := range k.In(d).Len() {
			assert.Equal(t, k.In(d).At(i).Key(), k.In(got).At(i).Key(), k.Name)
		}
	}
}

func TestEventsAreRead(t *testing.T) {
	stream := "retry: 1000\n: hello\n\nid: 1\nevent: change\ndata: {\"id\":1,\ndata: \"household\":\"H-0001\"}\n\nid: 2\nevent: reset\ndata: {}\n\nevent: change\ndata: {"
	c := serve(t, func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "7", r.Header.Get("Last-Event-ID"))
		_, _ = w.Write([]byte(stream))
	})
	var heard []string
	require.NoError(t, c.Follow(t.Context(), 7, func() {}, func(e wire.Event) error { heard = append(heard, e.Household); return nil }))
	assert.Equal(t, []string{"H-0001", ""}, heard, "an event that was cut off is not told")
	enough := errors.New("enough")
	assert.ErrorIs(t, c.Follow(t.Context(), 7, func() {}, func(wire.Event) error { return enough }), enough)
	assert.ErrorContains(t, serve(t, func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("event: change\ndata: {\n\n")) }).
		Follow(t.Context(), 0, func() {}, func(wire.Event) error { return nil }), "unexpected end of JSON input", "rubbish")
}

func TestLongListsArePaged(t *testing.T) {
	pages := 0
	c := serve(t, func(w http.ResponseWriter, r *http.Request) {
		pages++
		n := 200
		if r.URL.Query().Get("after") != "" {
			n = 3
		}
		rows := make([]wire.HouseholdRow, n)
		for i := range rows {
			rows[i].Code = "H-0001"
		}
		_ = json.NewEncoder(w).Encode(rows)
	})
	all, err := c.Households(t.Context(), wire.HomesQuery{})
	require.NoError(t, err)
	assert.Len(t, all, 203)
	assert.Equal(t, 2, pages)
}
