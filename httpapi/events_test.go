package httpapi_test

import (
	"context"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// listener follows the events of a site into a channel.
func (s *site) listen(who string, after int64) (<-chan wire.Event, context.CancelFunc) {
	s.t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	s.t.Cleanup(cancel)
	heard := make(chan wire.Event, 100)
	following := make(chan struct{})
	go func() {
		defer close(heard)
		_ = s.as[who].Follow(ctx, after, func() { close(following) }, func(e wire.Event) error {
			heard <- e
			return nil
		})
	}()
	select {
	case <-following:
	case <-ctx.Done():
		s.t.Fatal("the stream did not begin")
	}
	return heard, cancel
}

func TestEventsTellOfEveryWrite(t *testing.T) {
	s := newSite(t, nil)
	heard, stop := s.listen("tilit", 0)
	ids := s.home("H-0701")
	var last wire.Event
	for n := range 10 {
		e := <-heard
		assert.Equal(t, "H-0701", e.Household)
		assert.Equal(t, uint64(n+1), e.Revision)
		assert.Greater(t, e.ID, last.ID)
		last = e
	}
	stop()
	_, open := <-heard
	require.False(t, open)

	// What happens while nobody listens is told on return, once.
	rooms := dossier.KindNamed("room")
	for _, note := range []string{"wet", "dry"} {
		_, etag, err := s.as["petri"].Show(t.Context(), "H-0701", rooms, ids["room"])
		require.NoError(t, err)
		_, err = s.as["petri"].Set(t.Context(), "H-0701", rooms, ids["room"], etag, wire.Record{"note": note})
		require.NoError(t, err)
	}
	heard, _ = s.listen("tilit", last.ID)
	assert.Equal(t, uint64(11), (<-heard).Revision)
	assert.Equal(t, uint64(12), (<-heard).Revision)

	// An id that is too old is answered with a reset: no household, all must be asked again.
	heard, _ = s.listen("tilit", 7)
	assert.Empty(t, (<-heard).Household)

	// A write that changes nothing, or is refused, is no event.
	_, etag, err := s.as["petri"].Show(t.Context(), "H-0701", rooms, ids["room"])
	require.NoError(t, err)
	_, err = s.as["petri"].Set(t.Context(), "H-0701", rooms, ids["room"], etag, wire.Record{"note": "dry"})
	require.NoError(t, err)
	_, err = s.as["petri"].Add(t.Context(), "H-0701", rooms, wire.Record{"name": "cellar"})
	require.ErrorContains(t, err, "already used by another room")
	_, err = s.as["petri"].Add(t.Context(), "H-0701", rooms, wire.Record{"name": "attic"})
	require.NoError(t, err)
	assert.Equal(t, uint64(13), (<-heard).Revision)

	s.api.CloseStreams()
	s.api.CloseStreams()
	_, open = <-heard
	assert.False(t, open, "a shutdown ends the streams")
}

func TestFollowingNeedsALogIn(t *testing.T) {
	s := newSite(t, nil)
	err := s.as["nobody"].Follow(t.Context(), 0, func() {}, func(wire.Event) error { return nil })
	assert.True(t, client.IsProblem(err, "not-logged-in"), err)
}

// A stream outlives the time that a request may take, and ends with the session: on log-out, suspension, a reset and
// a change of password.
func TestAStreamLastsAsLongAsItsSession(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	server := httptest.NewUnstartedServer(s.api)
	const short = 200 * time.Millisecond
	server.Config.ReadTimeout, server.Config.WriteTimeout = short, short
	server.Start()
	defer server.Close()
	ctx, ilona := t.Context(), s.as["ilona"]
	yes, no := true, false
	petri := person(t, ilona, "petri").ID
	for _, c := range []struct {
		name string
		ends func(me *client.Client, password string) error
	}{
		{"log-out", func(me *client.Client, _ string) error { return me.LogOut(ctx) }},
		{"a change of password", func(me *client.Client, password string) error {
			return me.ChangePassword(ctx, wire.NewPassword{Old: password, New: "seven wet granite steps"})
		}},
		{"a reset", func(*client.Client, string) error {
			_, err := ilona.ResetPerson(ctx, petri)
			return err
		}},
		{"a suspension", func(*client.Client, string) error {
			_, err := ilona.ChangePerson(ctx, petri, wire.PersonChange{Suspended: &yes, HandOnTo: "maarit"})
			return err
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := ilona.ChangePerson(ctx, petri, wire.PersonChange{Suspended: &no})
			require.NoError(t, err)
			made, err := ilona.ResetPerson(ctx, petri)
			require.NoError(t, err)
			session, err := client.New(s.address, "").LogIn(ctx, "petri", made.Password, "test")
			require.NoError(t, err)
			me := client.New(server.URL, session.Token)
			following, heard, ended := make(chan struct{}), make(chan wire.Event, 100), make(chan error, 1)
			go func() {
				ended <- me.Follow(ctx, 0, func() { close(following) }, func(e wire.Event) error {
					heard <- e
					return nil
				})
			}()
			<-following
			room := dossier.KindNamed("room")
			for began := time.Now(); time.Since(began) < 3*short; {
				_, err := s.as["aino"].Add(ctx, "H-0701", room, wire.Record{"name": uuid.NewString()})
				require.NoError(t, err)
				require.Equal(t, "H-0701", (<-heard).Household)
			}
			require.NoError(t, c.ends(client.New(s.address, session.Token), made.Password)) // by the server that has time for a password
			<-ended
		})
	}
}
