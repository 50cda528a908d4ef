package httpapi_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/demo"
	"kaiku/httpapi"
	"kaiku/service"
	"kaiku/wire"
)

func person(t *testing.T, c *client.Client, login string) wire.Person {
	people, err := c.People(t.Context())
	require.NoError(t, err)
	for _, p := range people {
		if p.Login == login {
			return p
		}
	}
	t.Fatal("nobody is called " + login)
	return wire.Person{}
}

func TestSomebodyComesAndLeaves(t *testing.T) {
	s := newSite(t, nil)
	ctx, ilona := t.Context(), s.as["ilona"]
	made, err := ilona.NewPerson(ctx, wire.NewPerson{Login: "sanna", Name: "Sanna Rae", Role: "technician"})
	require.NoError(t, err)
	_, err = ilona.NewPerson(ctx, wire.NewPerson{Login: "sanna", Name: "Other", Role: "lead"})
	assert.True(t, client.IsProblem(err, "login-taken"), err)
	_, err = ilona.NewPerson(ctx, wire.NewPerson{Login: "Not A Login", Name: "Other", Role: "lead"})
	assert.True(t, client.IsProblem(err, "not-valid"), err)

	session, err := s.as["nobody"].LogIn(ctx, "sanna", made.Password, "phone")
	require.NoError(t, err)
	sanna := client.New(s.address, session.Token)
	_, err = sanna.Begin(ctx, wire.NewHousehold{Code: "H-0801", Name: "Sanna's first"})
	require.NoError(t, err)

	yes, no := true, false
	_, err = ilona.ChangePerson(ctx, made.Person.ID, wire.PersonChange{Suspended: &yes})
	assert.True(t, client.IsProblem(err, "homes-held"), err)
	assert.ErrorContains(t, err, "1 home")
	_, err = ilona.ChangePerson(ctx, made.Person.ID, wire.PersonChange{Suspended: &yes, HandOnTo: "tilit"})
	assert.True(t, client.IsProblem(err, "no-receiver"), err)
	p, err := ilona.ChangePerson(ctx, made.Person.ID, wire.PersonChange{Suspended: &yes, HandOnTo: "maarit"})
	require.NoError(t, err)
	assert.True(t, p.Suspended)
	_, err = sanna.WhoAmI(ctx)
	assert.True(t, client.IsProblem(err, "not-logged-in"), "all log-ins end")
	_, err = s.as["nobody"].LogIn(ctx, "sanna", made.Password, "phone")
	assert.True(t, client.IsProblem(err, "wrong-login"), err)
	o, err := s.as["maarit"].Overview(ctx, "H-0801")
	require.NoError(t, err)
	assert.Equal(t, "Maarit Suvanto", o.Custodian.Name)
	entries, err := s.as["maarit"].Journal(ctx, "H-0801", nil)
	require.NoError(t, err)
	assert.Equal(t, "Sanna Rae leaves", entries[0].Why)
	err = s.as["aino"].Assign(ctx, "H-0801", wire.Assign{To: "sanna", Why: "by mistake"})
	assert.True(t, client.IsProblem(err, "no-receiver"), "who is suspended receives nothing")

	_, err = ilona.ChangePerson(ctx, made.Person.ID, wire.PersonChange{Suspended: &no})
	require.NoError(t, err)
	again, err := ilona.ResetPerson(ctx, made.Person.ID)
	require.NoError(t, err)
	assert.NotEqual(t, made.Password, again.Password)
	_, err = s.as["nobody"].LogIn(ctx, "sanna", again.Password, "phone")
	require.NoError(t, err)

	me := person(t, ilona, "ilona")
	for _, change := range []wire.PersonChange{{Suspended: &yes}, {Role: "observer"}} {
		_, err = ilona.ChangePerson(ctx, me.ID, change)
		assert.True(t, client.IsProblem(err, "yourself"), err)
	}
	_, err = ilona.ChangePerson(ctx, "01890000-0000-7000-8000-00000000ffff", wire.PersonChange{Name: "x"})
	assert.True(t, client.IsProblem(err, "no-such-person"), err)
	p, err = ilona.ChangePerson(ctx, made.Person.ID, wire.PersonChange{Name: "Sanna Rae-Lokki", Role: "lead"})
	require.NoError(t, err)
	assert.Equal(t, "lead", p.Role)
	assert.Equal(t, "Sanna Rae-Lokki", person(t, ilona, "sanna").Name)
}

func TestOnesOwnPasswordAndTokens(t *testing.T) {
	s := newSite(t, nil)
	ctx, petri := t.Context(), s.as["petri"]
	made, err := petri.NewToken(ctx, wire.NewToken{Name: "lamp script", Days: 7})
	require.NoError(t, err)
	program := client.New(s.address, made.Token)
	who, err := program.WhoAmI(ctx)
	require.NoError(t, err)
	assert.Equal(t, "petri", who.Person.Login)
	list, err := petri.LogIns(ctx)
	require.NoError(t, err)
	require.Len(t, list, 2)
	kinds := map[string]wire.LogInRow{}
	for _, l := range list {
		kinds[l.Kind] = l
	}
	assert.Equal(t, "lamp script", kinds["token"].Name)
	assert.WithinDuration(t, made.Ends, kinds["token"].Ends, 0)
	assert.True(t, kinds["session"].Current)
	require.NoError(t, s.as["maarit"].EndLogIn(ctx, kinds["token"].ID))
	_, err = program.WhoAmI(ctx)
	require.NoError(t, err, "nobody ends another's")
	require.NoError(t, petri.EndLogIn(ctx, kinds["token"].ID))
	_, err = program.WhoAmI(ctx)
	assert.True(t, client.IsProblem(err, "not-logged-in"), err)
	_, err = petri.NewToken(ctx, wire.NewToken{Name: "for ever", Days: 9999})
	assert.True(t, client.IsProblem(err, "not-valid"), err)

	err = petri.ChangePassword(ctx, wire.NewPassword{Old: "wrong", New: "long enough to pass"})
	assert.True(t, client.IsProblem(err, "wrong-password"), err)
	err = petri.ChangePassword(ctx, wire.NewPassword{Old: demo.Password, New: "short"})
	assert.True(t, client.IsProblem(err, "not-valid"), err)
	require.NoError(t, petri.ChangePassword(ctx, wire.NewPassword{Old: demo.Password, New: "long enough to pass"}))
	_, err = petri.WhoAmI(ctx)
	assert.True(t, client.IsProblem(err, "not-logged-in"), "all log-ins end")
	_, err = s.as["nobody"].LogIn(ctx, "petri", "long enough to pass", "")
	require.NoError(t, err)
}

// Wrong tries are slowed down by where they come from: the other end of the connection, or what a proxy says that
// the settings name. What anybody else says of it does not count.
func TestWhereALogInComesFrom(t *testing.T) {
	s := newSite(t, nil)
	behind := httptest.NewServer(httpapi.New(s.service, httpapi.Options{Proxies: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}))
	defer behind.Close()
	try := func(address, forwarded string) *http.Response {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, address+"/api/v1/session", strings.NewReader(`{"login":"petri","password":"guess"}`))
		require.NoError(t, err)
		r.Header.Set("X-Forwarded-For", forwarded)
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		return resp
	}
	for n := range 5 {
		assert.Equal(t, 401, try(s.address, fmt.Sprint("192.0.2.", n)).StatusCode)
	}
	no := try(s.address, "192.0.2.99")
	assert.Equal(t, 429, no.StatusCode, "nobody believes what is said of it")
	assert.NotEmpty(t, no.Header.Get("Retry-After"))
	for range 5 {
		assert.Equal(t, 401, try(behind.URL, "198.51.100.7").StatusCode)
	}
	assert.Equal(t, 429, try(behind.URL, "198.51.100.7").StatusCode)
	assert.Equal(t, 429, try(behind.URL, "203.0.113.5, 198.51.100.7").StatusCode, "the proxy's own word is the last")
	assert.Equal(t, 401, try(behind.URL, "198.51.100.8").StatusCode)
}

// Who must have a second factor and has none can do nothing but set it up, whatever the operation.
func TestNothingBeforeTheSecondFactor(t *testing.T) {
	s := newSite(t, nil)
	api := httpapi.New(service.New(s.store, service.Options{SecondFactorFor: []service.Role{service.Lead}}), httpapi.Options{})
	server := httptest.NewServer(api)
	defer server.Close()
	open := map[string]bool{"whoami": true, "log-out": true, "offer-second-factor": true, "set-second-factor": true, "change-password": true, "list-logins": true, "end-login": true, "list-kinds": true, "list-people": true}
	session, err := client.New(server.URL, "").LogIn(t.Context(), "aino", demo.Password, "test")
	require.NoError(t, err)
	assert.Equal(t, wire.FactorNeeded, session.SecondFactor)
	ids := s.home("H-0701")
	for _, op := range api.Operations() {
		if op.Right == service.Public || open[op.ID] {
			continue
		}
		r, err := http.NewRequestWithContext(t.Context(), op.Method, server.URL+placeOf(op.Path, op.ID, ids), nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+session.Token)
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		var p wire.Problem
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&p), op.ID)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, "second-factor-needed", p.Code, op.ID)
	}
	_, err = client.New(server.URL, session.Token).WhoAmI(t.Context())
	require.NoError(t, err)
}
