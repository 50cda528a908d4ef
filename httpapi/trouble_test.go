package httpapi_test

import (
	"bytes"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/demo"
	"kaiku/httpapi"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// A disk that fills up refuses photographs and records with their remedy, and loses nothing.
func TestFullDiskIsSaid(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, syscall.Mount("none", dir, "tmpfs", 0, "size=4194304"), "run tests by scripts/own-net")
	defer func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) }()
	s := newSiteIn(t, dir, nil)
	ids := s.home("H-0701")
	petri := s.as["petri"]
	attach := func(i int) error {
		text := strings.Repeat("the log of the server, line by line\n", 8000) + strings.Repeat("x", i)
		_, err := petri.AddAttachment(t.Context(), "H-0701", wire.NewAttachment{Subject: wire.Ref{Kind: "room", ID: ids["room"]}, Caption: "log"}, []byte(text))
		return err
	}
	kept := 0
	var err error
	for kept < 100 {
		if err = attach(kept); err != nil {
			break
		}
		kept++
	}
	require.True(t, client.IsProblem(err, "disk-full"), "%v after %d", err, kept)
	assert.ErrorContains(t, err, "Free some disk space")
	var full error
	for i := 0; i < 1500 && full == nil; i++ {
		_, full = petri.Add(t.Context(), "H-0701", dossier.KindNamed("room"), wire.Record{"name": fmt.Sprint("room ", i), "note": strings.Repeat("granite ", 240)})
	}
	require.True(t, client.IsProblem(full, "disk-full"), "%v", full)
	list, err := petri.List(t.Context(), "H-0701", dossier.KindNamed("attachment"))
	require.NoError(t, err)
	assert.Len(t, list, kept, "what was acknowledged is there")
	require.NoError(t, syscall.Mount("none", dir, "tmpfs", syscall.MS_REMOUNT, "size=67108864"))
	require.NoError(t, attach(1000))
}

func TestDamageIsSaid(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, store.FileName)
	t.Run("a home is written", func(t *testing.T) {
		s := newSiteIn(t, dir, nil)
		s.home("H-0701")
		for _, room := range []string{"attic", "cellar below"} {
			_, err := s.as["petri"].Add(t.Context(), "H-0701", dossier.KindNamed("room"), wire.Record{"name": room, "note": strings.Repeat("granite ", 240)})
			require.NoError(t, err)
		}
	})
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	bent := 0
	for page := 4096; page < len(b); page += 4096 {
		if body := b[page : page+4096]; bytes.Contains(body, []byte("granite")) || bytes.Contains(body, []byte("cellar")) {
			copy(body, bytes.Repeat([]byte{0xa5}, 4096))
			bent++
		}
	}
	require.Positive(t, bent)
	require.NoError(t, os.WriteFile(file, b, 0o600))
	st, err := store.Open(t.Context(), dir, store.Options{})
	require.NoError(t, err)
	defer func() { require.NoError(t, st.Close()) }()
	server := httptest.NewServer(httpapi.New(service.New(st, service.Options{}), httpapi.Options{}))
	defer server.Close()
	session, err := client.New(server.URL, "").LogIn(t.Context(), "petri", demo.Password, "test")
	require.NoError(t, err)
	_, err = client.New(server.URL, session.Token).Dossier(t.Context(), "H-0701")
	require.True(t, client.IsProblem(err, "data-damaged"), "%v", err)
	assert.ErrorContains(t, err, "kaiku restore")
}

func TestMetricsCountWithoutNames(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	_, err := s.as["petri"].Dossier(t.Context(), "H-0999")
	require.ErrorContains(t, err, "There is no household H-0999")
	no := s.request("nobody", http.MethodGet, "/metrics", nil, nil)
	require.NoError(t, no.Body.Close())
	assert.Equal(t, 401, no.StatusCode, "how busy a firm is is nobody else's")
	resp := s.request("petri", http.MethodGet, "/metrics", nil, nil)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	for _, want := range []string{`kaiku_requests_total{operation="log-in",status="200"} 1`, `kaiku_request_seconds_count{operation="begin-household"} 1`,
		`kaiku_event_streams 0`, `kaiku_version_info{version="test"} 1`, `kaiku_writes_total 10`, `status="404"`, "kaiku_clock_behind_seconds 0"} {
		assert.Contains(t, string(b), want)
	}
	for _, secret := range []string{"petri", "H-0701", "Test home"} {
		assert.NotContains(t, string(b), secret)
	}
}

// A file that is damaged on the disk is not served; /readyz says so, as does whoever logs in, until the same bytes are
// attached again.
func TestADamagedFileIsSaid(t *testing.T) {
	dir := t.TempDir()
	s := newSiteIn(t, dir, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	about := wire.NewAttachment{Subject: dossier.Ref{Kind: "room", ID: ids["room"]}, Caption: "Log"}
	made, err := petri.AddAttachment(ctx, "H-0701", about, []byte("21:14 index ended"))
	require.NoError(t, err)
	file := filepath.Join(dir, store.BodiesName, made.SHA256[:2], made.SHA256)
	require.NoError(t, os.WriteFile(file, []byte("21:15 index ended"), 0o600))
	_, err = petri.AttachmentBody(ctx, "H-0701", made.ID, false)
	require.True(t, client.IsProblem(err, "body-damaged"), "%v", err)
	resp := s.request("nobody", http.MethodGet, "/readyz", nil, nil)
	said, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Contains(t, string(said), "ready, but: In the data folder 1 file is damaged. To see which: kaiku check")
	me, err := petri.WhoAmI(ctx)
	require.NoError(t, err)
	assert.Contains(t, me.Notice, "kaiku check")
	_, err = petri.AddAttachment(ctx, "H-0701", about, []byte("21:14 index ended"))
	require.NoError(t, err)
	body, err := petri.AttachmentBody(ctx, "H-0701", made.ID, false)
	require.NoError(t, err)
	assert.Equal(t, "21:14 index ended", string(body))
	me, err = petri.WhoAmI(ctx)
	require.NoError(t, err)
	assert.Empty(t, me.Notice)
}

// Nothing that lets somebody in reaches the log, at any level: no password, token, code, secret or secret address, in
// requests that succeed and in such that fail. Nor does a backup hold what a secret could be found from.
func TestNothingSecretReachesTheLog(t *testing.T) {
	var log lockedBuffer
	dir := t.TempDir()
	st, err := store.Open(t.Context(), dir, store.Options{Log: slog.New(slog.NewTextHandler(&log, &slog.HandlerOptions{Level: slog.LevelDebug}))})
	require.NoError(t, err)
	logger := slog.New(slog.NewTextHandler(&log, &slog.HandlerOptions{Level: slog.LevelDebug}))
	s := service.New(st, service.Options{Log: logger})
	_, err = demo.AddFirm(t.Context(), s)
	require.NoError(t, err)
	server := httptest.NewServer(httpapi.New(s, httpapi.Options{Log: logger}))
	defer server.Close()
	ctx, nobody := t.Context(), client.New(server.URL, "")
	session, err := nobody.LogIn(ctx, "petri", demo.Password, "test")
	require.NoError(t, err)
	petri := client.New(server.URL, session.Token)
	_, err = petri.Begin(ctx, wire.NewHousehold{Code: "H-0701", Name: "x"})
	require.NoError(t, err)
	secrets := []string{demo.Password, session.Token, "amber-quay-1949", "7731-pin", "guessed-password"}
	_, err = nobody.LogIn(ctx, "petri", "guessed-password", "test")
	require.ErrorContains(t, err, "The log-in name or the password is wrong")
	feed, err := petri.NewFeed(ctx)
	require.NoError(t, err)
	secrets = append(secrets, strings.TrimSuffix(strings.TrimPrefix(feed.Path, "/calendar/"), ".ics"))
	join, err := petri.Join(ctx)
	require.NoError(t, err)
	invite, err := petri.Invite(ctx, "H-0701", wire.NewInvite{})
	require.NoError(t, err)
	secrets = append(secrets, join.Code, invite.Code)
	offer, err := petri.OfferSecondFactor(ctx)
	require.NoError(t, err)
	secrets = append(secrets, offer.Secret)
	token, err := petri.NewToken(ctx, wire.NewToken{Name: "x", Days: 1})
	require.NoError(t, err)
	secrets = append(secrets, token.Token)
	for _, body := range []string{`{"name":"one","kind":"password","body":"amber-quay-1949"}`, `{"name":"two","kind":"door-code","body":"7731-pin"}`, `{"name":"","kind":"no","body":"7731-pin"}`} {
		r, err := http.NewRequestWithContext(ctx, http.MethodPost, server.URL+"/api/v1/households/H-0701/secrets", strings.NewReader(body))
		require.NoError(t, err)
		r.Header = http.Header{"Content-Type": {"application/json"}, "Authorization": {"Bearer " + session.Token}, "Idempotency-Key": {body[9:12]}}
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
	}
	for _, path := range []string{feed.Path, "/join/" + join.Code, "/measure/" + invite.Code, "/api/v1/measure/" + invite.Code, "/api/v1/join/" + join.Code, "/calendar/" + secrets[5] + "x.ics", "/elsewhere/" + join.Code} {
		for _, method := range []string{http.MethodGet, http.MethodPost} {
			r, err := http.NewRequestWithContext(ctx, method, server.URL+path, nil)
			require.NoError(t, err)
			resp, err := http.DefaultClient.Do(r)
			require.NoError(t, err)
			require.NoError(t, resp.Body.Close())
		}
	}
	require.NotEmpty(t, log.String())
	for _, secret := range secrets {
		require.NotEmpty(t, secret)
		assert.NotContains(t, log.String(), secret)
	}
	require.NoError(t, st.Close())

	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	defer db.Close()
	var hash string
	require.NoError(t, db.QueryRowContext(ctx, "SELECT hash FROM requests WHERE key = 'two'").Scan(&hash))
	body, err := json.Marshal(wire.NewSecret{Name: "two", Kind: dossier.SecretDoorCode, Body: "7731-pin"})
	require.NoError(t, err)
	plain := sha256.Sum256(append([]byte("add-secret /api/v1/households/H-0701/secrets?\n"), body...))
	assert.NotEqual(t, hex.EncodeToString(plain[:]), hash, "whoever has a backup could try all PINs")
}

// lockedBuffer is written by many requests at once.
type lockedBuffer struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (l *lockedBuffer) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Write(p)
}

func (l *lockedBuffer) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.String()
}

// Who gets in, and who is turned away, is logged at every level, with who it was and from where; other requests are not.
func TestWhoGetsInAndWhoIsTurnedAwayIsLogged(t *testing.T) {
	var log lockedBuffer
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := service.New(st, service.Options{})
	people, err := demo.AddFirm(t.Context(), s)
	require.NoError(t, err)
	server := httptest.NewServer(httpapi.New(s, httpapi.Options{Log: slog.New(slog.NewTextHandler(&log, nil))}))
	defer server.Close()
	ctx, nobody := t.Context(), client.New(server.URL, "")
	expect := func(what string, parts ...string) {
		t.Helper()
		lines := strings.Split(strings.TrimSpace(log.String()), "\n")
		for _, p := range parts {
			assert.Contains(t, lines[len(lines)-1], p, what)
		}
	}
	_, err = nobody.LogIn(ctx, "petri", "not the password", "test")
	require.ErrorContains(t, err, "The log-in name or the password is wrong")
	expect("a wrong password", "msg=safety", "operation=log-in", "status=401", "from=127.0.0.1", "request=")
	session, err := nobody.LogIn(ctx, "petri", demo.Password, "test")
	require.NoError(t, err)
	expect("a log-in", "operation=log-in", "status=200")
	petri := client.New(server.URL, session.Token)
	said := log.String()
	_, err = petri.Households(ctx, wire.HomesQuery{})
	require.NoError(t, err)
	assert.Equal(t, said, log.String(), "what is everyday is not logged")
	_, err = petri.NewPerson(ctx, wire.NewPerson{Login: "xaver", Name: "Xaver", Role: "lead"})
	require.ErrorContains(t, err, "is not allowed to do this")
	expect("what a technician may not", "operation=add-person", "status=403", "person="+string(people["petri"].ID))
	_, err = client.New(server.URL, "made-up").Households(ctx, wire.HomesQuery{})
	require.ErrorContains(t, err, "You are not logged in")
	expect("a token that nobody gave out", "operation=list-households", "status=401")
}

// Under TLS a browser takes the log-in from this host alone.
func TestTheCookieOfALogInUnderTLS(t *testing.T) {
	s := newSite(t, nil)
	secure := httptest.NewServer(httpapi.New(s.service, httpapi.Options{Secure: true}))
	defer secure.Close()
	for address, name := range map[string]string{s.address: "kaiku_session", secure.URL: "__Host-kaiku_session"} {
		resp, err := http.Post(address+"/api/v1/session", "application/json", strings.NewReader(`{"login":"petri","password":"`+demo.Password+`","client":"console"}`))
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Len(t, resp.Cookies(), 1, "%d", resp.StatusCode)
		c := resp.Cookies()[0]
		assert.Equal(t, name, c.Name)
		assert.True(t, c.HttpOnly)
		assert.Equal(t, http.SameSiteStrictMode, c.SameSite)
		assert.Equal(t, "/", c.Path)
		assert.Empty(t, c.Domain)
		assert.Equal(t, address == secure.URL, c.Secure)
		r, err := http.NewRequest(http.MethodGet, address+"/api/v1/people", nil)
		require.NoError(t, err)
		r.AddCookie(c)
		resp, err = http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, http.StatusOK, resp.StatusCode, name)
	}
}
