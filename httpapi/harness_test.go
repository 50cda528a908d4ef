package httpapi_test

import (
	"context"
	"crypto/rand"
	"log/slog"
	"net/http/httptest"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/demo"
	"kaiku/homes"
	"kaiku/httpapi"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// prober passes every test without a network; what probes see is tested with them.
type prober struct{ outcome dossier.Outcome }

func (prober) View(context.Context, *dossier.Dossier, dossier.ID[dossier.Source], dossier.ID[dossier.Device]) (matching.View, error) {
	return matching.View{}, nil
}

func (prober) Watch(context.Context, *dossier.Dossier, dossier.ID[dossier.Path], proving.Watched, func(proving.Moment)) error {
	return nil
}

func (prober) ReadFolder(context.Context, *dossier.Dossier, dossier.Folder, contents.Wanted, func(contents.Progress)) (contents.Contents, error) {
	return contents.Contents{}, nil
}

func (prober) Where() (network.Place, error) { return network.Place{}, nil }

func (prober) ScanOf(context.Context, *dossier.Dossier, matching.Wanted, func(matching.Progress)) (matching.Scan, error) {
	return matching.Scan{}, nil
}

func (p prober) Probe(_ context.Context, _ *dossier.Dossier, t proving.Test) (proving.Result, error) {
	return proving.Result{Test: t.ID(), Outcome: p.outcome, Observed: "answered", Said: map[string]string{"roundTripMs": "3", "folders": "3"}, At: time.Now()}, nil
}

// site is a service on loopback with the demo firm, and a client for each of its people.
type site struct {
	t       *testing.T
	api     *httpapi.Server
	service *service.Service
	store   *store.Store
	address string
	as      map[string]*client.Client
	tokens  map[string]string // of log-ins by hand; with each site, as the port of one that is gone may come again
}

func newSite(t *testing.T, p service.Prober) *site { return newSiteIn(t, t.TempDir(), p) }

func newSiteIn(t *testing.T, dir string, p service.Prober) *site {
	st, err := store.Open(t.Context(), dir, store.Options{Guard: true})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := &site{t: t, store: st, service: service.New(st, service.Options{Prober: p}), as: map[string]*client.Client{}, tokens: map[string]string{}}
	t.Cleanup(s.service.Close)
	s.api = httpapi.New(s.service, httpapi.Options{Version: "test", Log: slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError}))})
	server := httptest.NewServer(s.api)
	t.Cleanup(server.Close)
	s.address = server.URL
	s.as["nobody"] = client.New(server.URL, "")
	for _, p := range demo.Firm {
		id := dossier.PersonID(uuid.Must(uuid.NewV7()).String())
		require.NoError(t, st.AddPerson(t.Context(), store.Person{ID: id, Login: p.Login, Name: p.Name, Role: string(p.Role), PasswordHash: password()}))
		token := rand.Text() + rand.Text()
		_, err := st.AddSession(t.Context(), store.Session{Hash: service.TokenHash(token), PersonID: id, Name: "test", ID: uuid.NewString(), Kind: store.LogIn}, time.Now().Add(service.SessionTime), "")
		require.NoError(t, err)
		s.as[p.Login] = client.New(server.URL, token)
	}
	return s
}

// password is the hash of the firm's password: to hash and to check it for every person of every test was a third of their time.
var password = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash(demo.Password, &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32})
	if err != nil {
		panic(err)
	}
	return hash
})

// home begins a household of Petri's with a server, a screen and a path, and returns the ids.
func (s *site) home(code string) map[string]string {
	s.t.Helper()
	ctx, petri := s.t.Context(), s.as["petri"]
	h, err := petri.Begin(ctx, wire.NewHousehold{Code: code, Name: "Test home"})
	require.NoError(s.t, err)
	ids := map[string]string{"household": string(h.ID)}
	add := func(name, kind string, members wire.Record) { ids[name] = s.add(code, kind, members) }
	add("room", "room", wire.Record{"name": "cellar", "floor": -1})
	add("segment", "segment", wire.Record{"name": "home", "prefix": "10.20.4.0/24"})
	add("server", "device", wire.Record{"name": "server", "roles": []string{"server"}, "room": ids["room"]})
	add("device", "device", wire.Record{"name": "screen", "roles": []string{"screen"}})
	add("interface", "interface", wire.Record{"device": ids["server"], "name": "eth0", "addresses": []string{"10.20.4.10"}, "segment": ids["segment"]})
	add("wired", "interface", wire.Record{"device": ids["device"], "name": "eth0", "addresses": []string{"10.20.4.21"}, "segment": ids["segment"]})
	add("source", "source", wire.Record{"device": ids["server"], "name": "media", "protocol": "upnp-av", "port": 40210})
	add("folder", "folder", wire.Record{"source": ids["source"], "name": "Films", "contentKind": "film"})
	add("path", "path", wire.Record{"name": "films", "device": ids["device"], "source": ids["source"], "folders": []string{ids["folder"]}, "kind": "av-pull", "foundBy": "multicast"})
	return ids
}

// full puts a home with a record of every kind into the store, and returns the ids.
func (s *site) full(code string) map[string]string {
	s.t.Helper()
	require.NoError(s.t, s.store.AddPerson(s.t.Context(), store.Person{ID: homes.Person, Login: "keeper", Name: "Keeper", Role: "technician", PasswordHash: "x"}))
	full := homes.Full()
	h := full.Home()
	h.Code = code
	_, err := s.store.Create(s.t.Context(), h, store.Cause{Actor: homes.Person})
	require.NoError(s.t, err)
	_, err = s.store.Write(s.t.Context(), h.ID, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		home := d.Household
		*d = *full.Clone()
		d.Household = home
		return nil
	})
	require.NoError(s.t, err)
	ids := map[string]string{}
	for _, k := range dossier.Kinds {
		ids[k.Name] = k.In(full).At(0).Key()
	}
	return ids
}

func testID(kind string, ids map[string]string) string { return kind + ":" + ids["path"] }
