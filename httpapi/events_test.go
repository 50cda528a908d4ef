package httpapi_test

import (
	"context"
	"testing"
	"time"

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
	require.Error(t, err)
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
