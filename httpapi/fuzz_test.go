package httpapi_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
	"kaiku/httpapi"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// Whatever bytes are sent as a record of any kind: it is stored or refused, never a failure of
// Kaiku itself, and what is stored replays from the journal.
func FuzzRecordBodies(f *testing.F) {
	f.Add(0, `{"name":"cellar","floor":-1}`)
	f.Add(1, `{"name":"home","prefix":"10.0.0.0/8","gateway":"::1","poolFirst":"10.0.0.2","poolLast":"10.0.0.1"}`)
	f.Add(2, `{"name":"x","roles":["server","server"],"room":""}`)
	f.Add(3, `{"name":"x","device":"","addresses":["10.0.0.1",null]}`)
	f.Add(6, `{"name":"x","serverEnd":{"port":1e99}}`)
	f.Add(0, `{"id":"01890000-0001-7000-8000-0000000000aa","name":"\u0000"}`)
	f.Add(0, `{"name":{"a":{"b":[]}},"@x":1,"__proto__":{}}`)
	st, err := store.Open(f.Context(), f.TempDir(), store.Options{})
	require.NoError(f, err)
	f.Cleanup(func() { _ = st.Close() })
	s := service.New(st, service.Options{})
	people, err := demo.AddFirm(f.Context(), s)
	require.NoError(f, err)
	_, err = s.Begin(f.Context(), people["petri"], wire.NewHousehold{Code: "H-0001", Name: "x"}, service.Request{})
	require.NoError(f, err)
	session, err := s.LogIn(f.Context(), "here", wire.LogIn{Login: "petri", Password: demo.Password})
	require.NoError(f, err)
	api := httpapi.New(s, httpapi.Options{})
	var kinds []*dossier.Kind
	for _, k := range dossier.Kinds {
		if k.Allows(dossier.Add) {
			kinds = append(kinds, k)
		}
	}
	f.Fuzz(func(t *testing.T, n int, body string) {
		k := kinds[uint(n)%uint(len(kinds))]
		for _, r := range []*http.Request{
			httptest.NewRequest(http.MethodPost, "/api/v1/households/H-0001/"+k.Plural, strings.NewReader(body)),
			httptest.NewRequest(http.MethodPatch, "/api/v1/households/H-0001", strings.NewReader(body)),
		} {
			r.Header.Set("Content-Type", "application/json")
			if r.Method == http.MethodPatch {
				r.Header.Set("Content-Type", "application/merge-patch+json")
				r.Header.Set("If-Match", `"1"`)
			}
			r.Header.Set("Authorization", "Bearer "+session.Token)
			w := httptest.NewRecorder()
			api.ServeHTTP(w, r)
			if w.Code >= 500 {
				t.Fatalf("%s %s answered %d: %s", r.Method, body, w.Code, w.Body)
			}
		}
	})
}
