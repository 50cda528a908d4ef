// Package safely runs work that must not end the program when it panics.
package safely

import (
	"fmt"
	"runtime/debug"
	"sync"
)

// Panicked is what came of work that panicked: what it said, and where.
type Panicked struct {
	Said  any
	Stack []byte
}

func (p *Panicked) Error() string { return fmt.Sprintf("panic: %v", p.Said) }

// Do carries out work, and returns its error, or a Panicked.
func Do(work func() error) (err error) {
	defer func() {
		if said := recover(); said != nil {
			err = &Panicked{said, debug.Stack()}
		}
	}()
	return work()
}

// Go carries out work in the background as part of a group. If it panics, tell hears of it, and nothing else stops.
func Go(group *sync.WaitGroup, tell func(*Panicked), work func()) {
	group.Go(func() {
		err := Do(func() error { work(); return nil })
		if p, fell := err.(*Panicked); fell {
			tell(p)
		}
	})
}
