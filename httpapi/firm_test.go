package httpapi_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/demo"
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
