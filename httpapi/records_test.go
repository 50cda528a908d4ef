package httpapi_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/httpapi"
	"kaiku/wire"
)

// Kind x verb x member against the registry: nothing slips past its rule.
func TestVerbsAndMembersKeepTheirRules(t *testing.T) {
	s := newSite(t, nil)
	ids := s.full("H-0701")
	for _, k := range dossier.Kinds {
		list := "/api/v1/households/H-0701/" + k.Plural
		one := list + "/" + ids[k.Name]
		if k.Name == "household" {
			one = "/api/v1/households/H-0701"
		}
		for verb, how := range map[dossier.Verb][2]string{dossier.Add: {"POST", list}, dossier.Set: {"PATCH", one}, dossier.Remove: {"DELETE", one}} {
			if k.Allows(verb) {
				continue
			}
			status := s.send("ilona", how[0], how[1], map[string]any{"name": "x"})
			// Issues, attempts and handovers are made by use-cases that have the list's address.
			assert.Contains(t, []int{404, 405, 422}, status, "%s %s", verb, k.Name)
		}
		for _, f := range k.Fields {
			for verb, how := range map[dossier.Verb][2]string{dossier.Add: {"POST", list}, dossier.Set: {"PATCH", one}} {
				if !k.Allows(verb) {
					continue
				}
				open := f.Rule == dossier.Plain || f.Rule == dossier.Fixed && verb == dossier.Add || f.Name == "id" && verb == dossier.Add
				resp := s.request("ilona", how[0], how[1], map[string]any{f.Name: "\x00never"}, nil)
				var p wire.Problem
				require.NoError(t, json.NewDecoder(resp.Body).Decode(&p))
				require.NoError(t, resp.Body.Close())
				refused := false
				for _, fault := range p.Faults {
					refused = refused || fault.Pointer == "/"+f.Name && (fault.Code == "not-yours" || fault.Code == "fixed")
				}
				if !open {
					assert.True(t, refused, "%s %s.%s must be refused by name, got %d %+v", verb, k.Name, f.Name, resp.StatusCode, p.Faults)
					assert.Equal(t, 422, resp.StatusCode)
				} else {
					assert.False(t, refused, "%s %s.%s is the client's to set", verb, k.Name, f.Name)
				}
			}
		}
	}
}

func TestARecordThroughItsLife(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	ctx, petri, rooms := t.Context(), s.as["petri"], dossier.KindNamed("room")
	made, err := petri.Add(ctx, "H-0701", rooms, wire.Record{"id": "01890000-0001-7000-8000-0000000000aa", "name": "lamp room", "floor": 2, "note": nil})
	require.NoError(t, err)
	id := made["id"].(string)
	assert.Equal(t, "01890000-0001-7000-8000-0000000000aa", id, "a client may choose the id")
	_, err = petri.Add(ctx, "H-0701", rooms, wire.Record{"id": id, "name": "other"})
	assert.True(t, client.IsProblem(err, "id-taken"), err)

	shown, etag, err := petri.Show(ctx, "H-0701", rooms, id)
	require.NoError(t, err)
	assert.Equal(t, "lamp room", shown["name"])
	now, err := petri.Set(ctx, "H-0701", rooms, id, etag, wire.Record{"note": "bright", "floor": nil})
	require.NoError(t, err)
	assert.Equal(t, "bright", now["note"])
	assert.NotContains(t, now, "floor", "null clears")
	_, err = petri.Set(ctx, "H-0701", rooms, id, "", wire.Record{"note": "x"})
	assert.True(t, client.IsProblem(err, "if-match-missing"), err)

	_, newer, err := petri.Show(ctx, "H-0701", rooms, id)
	require.NoError(t, err)
	require.NoError(t, petri.Remove(ctx, "H-0701", rooms, id, newer))
	_, _, err = petri.Show(ctx, "H-0701", rooms, id)
	assert.True(t, client.IsProblem(err, "no-such-record"), err)
}

func TestConditionalRequests(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	for _, path := range []string{"/api/v1/households/H-0701/rooms", "/api/v1/households/H-0701/rooms/" + ids["room"], "/api/v1/households/H-0701"} {
		first := s.request("petri", http.MethodGet, path, nil, nil)
		require.NoError(t, first.Body.Close())
		tag := first.Header.Get("ETag")
		require.NotEmpty(t, tag, path)
		again := s.request("petri", http.MethodGet, path, nil, map[string]string{"If-None-Match": tag})
		require.NoError(t, again.Body.Close())
		assert.Equal(t, http.StatusNotModified, again.StatusCode, path)
		assert.Equal(t, tag, again.Header.Get("ETag"), path)
	}
}

// Of two writers with one If-Match exactly one wins; the other learns what changed and by whom.
func TestOneOfTwoWritersWins(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	rooms := dossier.KindNamed("room")
	for range 10 {
		_, etag, err := s.as["petri"].Show(t.Context(), "H-0701", rooms, ids["room"])
		require.NoError(t, err)
		var wg sync.WaitGroup
		errs := map[string]error{}
		var mu sync.Mutex
		for who, member := range map[string]string{"petri": "dry", "ilona": "wet"} {
			wg.Go(func() {
				_, err := s.as[who].Set(t.Context(), "H-0701", rooms, ids["room"], etag, wire.Record{"note": member + etag})
				mu.Lock()
				errs[who] = err
				mu.Unlock()
			})
		}
		wg.Wait()
		won, lost, name := "petri", "ilona", "Petri Lokki"
		if errs["petri"] != nil {
			won, lost, name = "ilona", "petri", "Ilona Kettu"
		}
		require.NoError(t, errs[won])
		var p *wire.Problem
		require.ErrorAs(t, errs[lost], &p)
		assert.Equal(t, 412, p.Status)
		assert.Contains(t, p.Detail, name)
		require.Len(t, p.Changes, 1)
		assert.Equal(t, name, p.Changes[0].By)
		assert.Contains(t, strings.Join(p.Changes[0].Members, ";"), "Note: ")
	}
}

func TestRefusalsPointAtWhatToCorrect(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	for _, c := range []struct {
		name, kind string
		members    wire.Record
		pointer    string
		says       string
	}{
		{"nothing", "room", wire.Record{}, "/name", "this is required"},
		{"an empty name", "room", wire.Record{"name": ""}, "/name", "length"},
		{"a name twice", "room", wire.Record{"name": "Cellar"}, "/name", "already used by another room"},
		{"an unknown member", "room", wire.Record{"name": "x", "colour": "blue"}, "/colour", "no such field"},
		{"a bad prefix", "segment", wire.Record{"name": "x", "prefix": "10.20.4.0/33"}, "/prefix", "is not a prefix"},
		{"a bad address in a list", "interface", wire.Record{"device": "0199a000-0000-7000-8000-000000000001", "name": "x", "addresses": []string{"10.300.1.1"}}, "/addresses/0", "numbers from 0 to 255"},
		{"a bad address", "segment", wire.Record{"name": "x", "prefix": "10.20.4.0/24", "gateway": "10.20.4.300"}, "/gateway", "numbers from 0 to 255"},
		{"a bad hardware address", "interface", wire.Record{"device": ids["device"], "name": "x", "hardwareAddress": "02:zz"}, "/hardwareAddress", "02:4b:49:00:00:10"},
		{"a port out of range", "source", wire.Record{"device": ids["server"], "name": "x", "protocol": "smb", "port": 70000}, "/port", "65535"},
		{"an unknown word", "device", wire.Record{"name": "x", "roles": []string{"kettle"}}, "/roles/0", "must be one of"},
		{"a record that is not there", "device", wire.Record{"name": "x", "room": "01890000-0001-7000-8000-00000000ffff"}, "/room", "no room"},
		{"a bad id", "room", wire.Record{"name": "x", "id": "7"}, "/id", "UUIDv7"},
		{"a number for a name", "room", wire.Record{"name": 7}, "/name", "must be text"},
	} {
		t.Run(c.name, func(t *testing.T) {
			before, err := s.as["petri"].Overview(t.Context(), "H-0701")
			require.NoError(t, err)
			_, err = s.as["petri"].Add(t.Context(), "H-0701", dossier.KindNamed(c.kind), c.members)
			var p *wire.Problem
			require.ErrorAs(t, err, &p)
			assert.Equal(t, 422, p.Status)
			require.NotEmpty(t, p.Faults)
			assert.Equal(t, c.pointer, p.Faults[0].Pointer, p.Faults)
			assert.Contains(t, p.Faults[0].Detail, c.says)
			assert.NotEmpty(t, p.Remedy)
			after, err := s.as["petri"].Overview(t.Context(), "H-0701")
			require.NoError(t, err)
			assert.Equal(t, before.Revision, after.Revision, "a refused write changed something")
		})
	}
	_, etag, err := s.as["petri"].Show(t.Context(), "H-0701", dossier.KindNamed("device"), ids["server"])
	require.NoError(t, err)
	err = s.as["petri"].Remove(t.Context(), "H-0701", dossier.KindNamed("device"), ids["server"], etag)
	assert.True(t, client.IsProblem(err, "still-used"), err)
	assert.ErrorContains(t, err, `still used by the path "films"`)
}

func TestBadRequests(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	post := func(path, body string, headers map[string]string) (int, wire.Problem) {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.address+path, strings.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Authorization", "Bearer "+s.token("petri", false))
		for k, v := range headers {
			req.Header.Set(k, v)
		}
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer resp.Body.Close()
		assert.Equal(t, "application/problem+json", resp.Header.Get("Content-Type"), path)
		var p wire.Problem
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&p))
		return resp.StatusCode, p
	}
	rooms := "/api/v1/households/H-0701/rooms"
	for _, c := range []struct {
		name, path, body string
		headers          map[string]string
		status           int
		code             string
	}{
		{"not JSON", rooms, "{", nil, 400, "bad-request"},
		{"not an object", rooms, "[1]", nil, 400, "bad-request"},
		{"null", rooms, "null", nil, 400, "bad-request"},
		{"too large", rooms, `{"note":"` + strings.Repeat("x", 2<<20) + `"}`, nil, 413, "too-large"},
		{"no such home", "/api/v1/households/H-9999/rooms", `{"name":"x"}`, nil, 404, "no-such-household"},
		{"no such place", "/api/v1/nothing", `{}`, nil, 404, "no-such-page"},
		{"from another site", rooms, `{"name":"x"}`, map[string]string{"Origin": "http://elsewhere.example", "Sec-Fetch-Site": "cross-site"}, 403, "cross-origin"},
	} {
		t.Run(c.name, func(t *testing.T) {
			status, p := post(c.path, c.body, c.headers)
			assert.Equal(t, c.status, status)
			assert.Equal(t, c.code, p.Code)
			assert.NotEmpty(t, p.Remedy)
		})
	}
	key := map[string]string{"Idempotency-Key": "one"}
	status, _ := s.postRoom("petri", "attic", key)
	assert.Equal(t, 201, status)
	status, first := s.postRoom("petri", "attic", key)
	assert.Equal(t, 201, status, "a repeated request answers the first record")
	assert.Equal(t, "attic", first["name"])
	room := dossier.KindNamed("room")
	_, etag, err := s.as["petri"].Show(t.Context(), "H-0701", room, first["id"].(string))
	require.NoError(t, err)
	require.NoError(t, s.as["petri"].Remove(t.Context(), "H-0701", room, first["id"].(string), etag))
	status, _ = s.postRoom("petri", "attic", key)
	assert.Equal(t, 404, status, "repeated after the record was removed")
	status, _ = s.postRoom("petri", "loft", key)
	assert.Equal(t, 422, status, "the key was used for something else")
}

// What was done without a line is sent later, and the journal tells both times.
func TestWhatIsSentLaterSaysWhenItWasDone(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	done := time.Now().Add(-3 * time.Hour).UTC().Truncate(time.Second)
	for _, c := range []struct {
		name, at string
		status   int
		told     bool
	}{
		{"hours ago", done.Format(time.RFC3339), 201, true},
		{"just now", time.Now().Format(time.RFC3339), 201, false},
		{"in the future", time.Now().Add(time.Hour).Format(time.RFC3339), 422, false},
		{"no time", "yesterday", 422, false},
	} {
		status, made := s.postRoom("petri", c.name, map[string]string{"Kaiku-Done-At": c.at})
		require.Equal(t, c.status, status, c.name)
		if status != 201 {
			continue
		}
		entries, err := s.as["petri"].Journal(t.Context(), "H-0701", url.Values{"record": {fmt.Sprint(made["id"])}})
		require.NoError(t, err)
		require.Len(t, entries, 1)
		assert.Equal(t, c.told, !entries[0].DoneAt.IsZero(), c.name)
		if c.told {
			assert.Equal(t, done, entries[0].DoneAt)
			assert.WithinDuration(t, time.Now(), entries[0].At, time.Minute, "when it was written is told too")
		}
	}
}

// A phone whose clock is wrong by hours says what its clock says now, so that what it did is put at the right time.
func TestAClockThatIsWrongByHours(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	for name, wrong := range map[string]time.Duration{"slow by five hours": -5 * time.Hour, "fast by three hours": 3 * time.Hour, "right": 0, "wrong by a minute": time.Minute} {
		now := time.Now()
		done := now.Add(-40 * time.Minute)
		status, made := s.postRoom("petri", name, map[string]string{"Kaiku-Done-At": done.Add(wrong).Format(time.RFC3339Nano), "Kaiku-Clock": now.Add(wrong).Format(time.RFC3339Nano)})
		require.Equal(t, 201, status, name)
		entries, err := s.as["petri"].Journal(t.Context(), "H-0701", url.Values{"record": {fmt.Sprint(made["id"])}})
		require.NoError(t, err)
		assert.WithinDuration(t, done, entries[0].DoneAt, 90*time.Second, name)
	}
}

func TestBeginningTwice(t *testing.T) {
	s := newSite(t, nil)
	in := wire.NewHousehold{Code: "H-0703", Name: "x"}
	for _, c := range []struct {
		key    string
		status int
	}{{"one", 200}, {"one", 200}, {"two", 409}, {"", 409}} {
		resp := s.request("petri", http.MethodPost, "/api/v1/households", in, map[string]string{"Idempotency-Key": c.key})
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, c.status, resp.StatusCode, "key %q", c.key)
	}
}

func (s *site) postRoom(who, name string, headers map[string]string) (int, wire.Record) {
	resp := s.request(who, http.MethodPost, "/api/v1/households/H-0701/rooms", wire.Record{"name": name}, headers)
	defer resp.Body.Close()
	var r wire.Record
	require.NoError(s.t, json.NewDecoder(resp.Body).Decode(&r))
	return resp.StatusCode, r
}

func TestLogInsAreLimited(t *testing.T) {
	s := newSite(t, nil)
	for range 5 {
		_, err := s.as["nobody"].LogIn(t.Context(), "tilit", "wrong", "")
		require.True(t, client.IsProblem(err, "wrong-login"), err)
	}
	_, err := s.as["nobody"].LogIn(t.Context(), "tilit", "granite-and-gulls", "")
	assert.True(t, client.IsProblem(err, "too-many-tries"), err)
	_, err = s.as["nobody"].LogIn(t.Context(), "nosuchperson", "wrong", "")
	assert.True(t, client.IsProblem(err, "wrong-login"), "an unknown name is not told apart")
	require.NoError(t, s.as["petri"].LogOut(t.Context()))
	_, err = s.as["petri"].WhoAmI(t.Context())
	assert.True(t, client.IsProblem(err, "not-logged-in"), err)
}

func TestSessionCookieAndHeaders(t *testing.T) {
	s := newSite(t, nil)
	resp := s.request("nobody", http.MethodPost, "/api/v1/session", wire.LogIn{Login: "petri", Password: "granite-and-gulls"}, nil)
	defer resp.Body.Close()
	require.Equal(t, 200, resp.StatusCode)
	c := resp.Cookies()[0]
	assert.True(t, c.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, c.SameSite)
	var body wire.Session
	require.NoError(t, json.NewDecoder(resp.Body).Decode(&body))
	assert.Empty(t, body.Token, "a browser's token is in its cookie alone")
	me := s.request("nobody", http.MethodGet, "/api/v1/me", nil, map[string]string{"Cookie": c.Name + "=" + c.Value})
	defer me.Body.Close()
	assert.Equal(t, 200, me.StatusCode)
	assert.Contains(t, me.Header.Get("Content-Security-Policy"), "default-src 'self'")
	for _, path := range []string{"/healthz", "/readyz"} {
		assert.Equal(t, 200, s.send("nobody", http.MethodGet, path, nil), path)
	}
}

// Every answer says how a browser has to treat it; only one that came by https that it has to come by https again.
func TestHeadersOfEveryAnswer(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	paths := []string{"/healthz", "/readyz", "/api/v1/me", "/api/v1/nowhere", "/docs/errors"}
	for _, body := range []string{"21:14 <script>alert(1)</script>", `<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`} {
		made, err := s.as["petri"].AddAttachment(t.Context(), "H-0701", wire.NewAttachment{Subject: dossier.Ref{Kind: "room", ID: ids["room"]}, Caption: "Log"}, []byte(body))
		require.NoError(t, err)
		paths = append(paths, "/api/v1/households/H-0701/attachments/"+string(made.ID)+"/body")
	}
	secure := httptest.NewServer(httpapi.New(s.service, httpapi.Options{Secure: true}))
	defer secure.Close()
	plain := s.address
	for _, path := range paths {
		for address, strict := range map[string]string{plain: "", secure.URL: "max-age=31536000"} {
			s.address = address
			resp := s.request("petri", http.MethodGet, path, nil, nil)
			require.NoError(t, resp.Body.Close())
			assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"), path)
			assert.Equal(t, "same-origin", resp.Header.Get("Referrer-Policy"), path)
			assert.Equal(t, strict, resp.Header.Get("Strict-Transport-Security"), path)
			if strings.HasSuffix(path, "/body") { // what somebody attached runs nothing, whatever it is
				assert.Equal(t, "text/plain; charset=utf-8", resp.Header.Get("Content-Type"))
				assert.Equal(t, "default-src 'none'; sandbox", resp.Header.Get("Content-Security-Policy"))
				continue
			}
			assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "frame-ancestors 'none'", path)
			assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "script-src 'self'", path)
		}
	}
	s.address = plain
}

// One key stands for one request: the same body sent by it to another operation, or to another place, is refused.
func TestOneKeyIsForOneOperation(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	s.home("H-0702")
	key := map[string]string{"Idempotency-Key": "one"}
	body := map[string]any{"name": "loft"}
	send := func(path string) (int, string) {
		resp := s.request("petri", http.MethodPost, path, body, key)
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, string(b)
	}
	status, _ := send("/api/v1/households/H-0701/rooms")
	require.Equal(t, http.StatusCreated, status)
	status, _ = send("/api/v1/households/H-0701/rooms")
	require.Equal(t, http.StatusCreated, status, "the same again is answered alike")
	for _, path := range []string{"/api/v1/households/H-0701/busy-sets", "/api/v1/households/H-0701/accounts"} {
		status, text := send(path)
		assert.Equal(t, http.StatusUnprocessableEntity, status, path)
		assert.Contains(t, text, "key-reused", path)
	}
	// What stands in the query is part of the request: the same file with another caption is another one.
	ids := s.home("H-0703")
	attach := func(caption string) (int, string) {
		r, err := http.NewRequest(http.MethodPost, s.address+"/api/v1/households/H-0703/attachments?kind=room&record="+ids["room"]+"&caption="+caption, strings.NewReader("a line"))
		require.NoError(t, err)
		r.Header = http.Header{"Idempotency-Key": {"two"}, "Content-Type": {"application/octet-stream"}, "Authorization": {"Bearer " + s.token("petri", false)}}
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, string(b)
	}
	status, _ = attach("one")
	require.Equal(t, http.StatusCreated, status)
	status, _ = attach("one")
	require.Equal(t, http.StatusCreated, status)
	status, text := attach("two")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, text, "key-reused")
}
