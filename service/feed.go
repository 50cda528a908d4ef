package service

import (
	"sync"
	"time"

	"kaiku/wire"
)

// feed tells listeners of every write, in one sequence for the firm. It remembers the newest
// events, so that who was away for a moment misses nothing.
type feed struct {
	mu        sync.Mutex
	last      int64
	recent    []wire.Event
	listeners map[chan wire.Event]bool
}

// remembered is how many events are kept for those who come back.
const remembered = 2048

// newFeed begins the sequence at the present instant, so that an id from before a restart is
// known to be too old.
func newFeed(now time.Time) *feed {
	return &feed{last: now.UnixMilli(), listeners: map[chan wire.Event]bool{}}
}

func (f *feed) publish(e wire.Event) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.last++
	e.ID = f.last
	if f.recent = append(f.recent, e); len(f.recent) > remembered {
		f.recent = f.recent[len(f.recent)-remembered:]
	}
	for l := range f.listeners {
		select {
		case l <- e:
		default: // too slow to follow: it is let go, comes back, and catches up
			delete(f.listeners, l)
			close(l)
		}
	}
}

// Follow returns the events after an id that are still known, and those to come, until stop is
// called; the channel is closed when the listener is too slow. Complete is false when events
// between were forgotten, or the id is of another run: then all must be asked again.
func (s *Service) Follow(after int64) (missed []wire.Event, complete bool, events <-chan wire.Event, stop func()) {
	f := s.feed
	f.mu.Lock()
	defer f.mu.Unlock()
	first := f.last - int64(len(f.recent)) + 1
	complete = after >= first-1 && after <= f.last
	for _, e := range f.recent {
		if complete && e.ID > after {
			missed = append(missed, e)
		}
	}
	l := make(chan wire.Event, 64)
	f.listeners[l] = true
	return missed, complete, l, func() {
		f.mu.Lock()
		defer f.mu.Unlock()
		if f.listeners[l] {
			delete(f.listeners, l)
			close(l)
		}
	}
}

// LastEvent is the id of the newest event.
func (s *Service) LastEvent() int64 {
	s.feed.mu.Lock()
	defer s.feed.mu.Unlock()
	return s.feed.last
}
