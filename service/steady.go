package service

import (
	"context"
	"errors"
	"sync"
)

// errMoved says that a home was written between the reading on which a write was prepared and that write.
var errMoved = errors.New("the home was changed while a write to it was being prepared")

// homes are the gates of homes: many write beside each other, each through the door in turn; one who prepares a
// long write and was overtaken too often writes alone.
type homes struct{ gates sync.Map } // of codes, to *sync.RWMutex

func (h *homes) gate(code string) *sync.RWMutex {
	g, _ := h.gates.LoadOrStore(code, &sync.RWMutex{})
	return g.(*sync.RWMutex)
}

// aloneIn is the key of the code of the home in which the holder of a context writes alone.
type aloneIn struct{}

// beside waits while somebody writes to the home alone. The returned function lets others on.
func (s *Service) beside(ctx context.Context, code string) func() {
	if ctx.Value(aloneIn{}) == code {
		return func() {}
	}
	g := s.homes.gate(code)
	g.RLock()
	return g.RUnlock
}

// overtaken is how often a prepared write begins anew because somebody else has written.
const overtaken = 3

// steadily carries out a write that is prepared on a home as it is, outside of every lock, and returns errMoved
// if the home is not so any more when it comes to be written. It is tried again, and at last with all others who
// write to this home kept waiting for that one time.
func (s *Service) steadily(ctx context.Context, code string, attempt func(context.Context) error) error {
	for range overtaken {
		if err := attempt(ctx); !errors.Is(err, errMoved) {
			return err
		}
	}
	g := s.homes.gate(code)
	g.Lock()
	defer g.Unlock()
	err := attempt(context.WithValue(ctx, aloneIn{}, code))
	if errors.Is(err, errMoved) { // by another process, or by another way
		return refuse("home-busy")
	}
	return err
}
