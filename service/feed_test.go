package service

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/wire"
)

func TestFollowersMissNothingThatIsRemembered(t *testing.T) {
	s := &Service{feed: newFeed(time.UnixMilli(1000))}
	home := dossier.Household{Code: "H-0001"}
	began := s.LastEvent()
	for n := range 3 {
		s.feed.publish(wire.Event{Household: home.Code, Revision: uint64(n)})
	}
	ids := func(events []wire.Event) (out []int64) {
		for _, e := range events {
			out = append(out, e.ID-began)
		}
		return out
	}
	for _, c := range []struct {
		name     string
		after    int64
		missed   []int64
		complete bool
	}{
		{"from the beginning", began, []int64{1, 2, 3}, true},
		{"one behind", began + 2, []int64{3}, true},
		{"up to date", began + 3, nil, true},
		{"of an earlier run", 5, nil, false},
		{"of the future", began + 99, nil, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			missed, complete, _, stop := s.Follow(c.after)
			defer stop()
			assert.Equal(t, c.missed, ids(missed))
			assert.Equal(t, c.complete, complete)
		})
	}
	for range remembered + 10 {
		s.feed.publish(wire.Event{Household: home.Code, Revision: 9})
	}
	_, complete, _, stop := s.Follow(began + 3)
	stop()
	stop() // twice is harmless
	assert.False(t, complete, "what was forgotten is not passed over in silence")
	assert.Len(t, s.feed.recent, remembered)
	assert.Empty(t, s.feed.listeners)
}

func TestAListenerThatIsTooSlowIsLetGo(t *testing.T) {
	s := &Service{feed: newFeed(time.UnixMilli(1000))}
	_, _, slow, stop := s.Follow(s.LastEvent())
	defer stop()
	_, _, quick, stopQuick := s.Follow(s.LastEvent())
	defer stopQuick()
	heard := 0
	for range 200 {
		s.feed.publish(wire.Event{Household: "H-0001", Revision: 1})
		e, open := <-quick
		require.True(t, open)
		heard++
		assert.Equal(t, s.LastEvent(), e.ID)
	}
	n := 0
	for range slow {
		n++
	}
	assert.Equal(t, 64, n, "it hears what it had room for, then its stream ends")
	assert.Equal(t, 200, heard)
}
