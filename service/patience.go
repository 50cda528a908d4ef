package service

import (
	"context"
	"maps"
	"sync"
	"time"

	"kaiku/wording"
)

// patience slows down guessing without locking anyone out: after some wrong tries the next one has to wait for a
// second, then for two, four and so on. Tries are counted before they are checked, so that sending many at once
// does not get around it.
type patience struct {
	mu sync.Mutex
	of map[string]*guesses
}

// guesses are those of one name from one address, or of one address.
type guesses struct {
	wrong int
	until time.Time // none is taken before
	last  time.Time
}

// by is what tries are counted by, and how many of them are free.
type by struct {
	what string
	free int
}

// Bounds of patience.
const (
	longestWait  = 5 * time.Minute
	forgetsAfter = time.Hour
	mostGuessers = 20_000 // that are remembered
)

// try counts a try, and returns how long to wait instead if it comes too early.
func (p *patience) try(now time.Time, of ...by) time.Duration {
	p.mu.Lock()
	defer p.mu.Unlock()
	var wait time.Duration
	for _, b := range of {
		if g := p.of[b.what]; g != nil {
			wait = max(wait, g.until.Sub(now))
		}
	}
	if wait > 0 {
		return wait
	}
	p.tidy(now)
	for _, b := range of {
		g := p.of[b.what]
		if g == nil || now.Sub(g.last) > forgetsAfter {
			g = &guesses{}
			p.of[b.what] = g
		}
		g.wrong, g.last = g.wrong+1, now
		if over := g.wrong - b.free; over >= 0 {
			g.until = now.Add(min(time.Second<<min(over, 20), longestWait))
		}
	}
	return 0
}

// right says that the last try was right: what was counted for the first of them is forgotten, and that try for
// the others.
func (p *patience) right(of ...by) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for n, b := range of {
		g := p.of[b.what]
		switch {
		case g == nil:
		case n == 0:
			delete(p.of, b.what)
		default:
			g.wrong, g.until = g.wrong-1, time.Time{}
		}
	}
}

// tidy forgets what is old, and makes room where too much is remembered. The lock is held.
func (p *patience) tidy(now time.Time) {
	if p.of == nil {
		p.of = map[string]*guesses{}
	}
	if len(p.of) < mostGuessers {
		return
	}
	maps.DeleteFunc(p.of, func(_ string, g *guesses) bool { return now.Sub(g.last) > forgetsAfter })
	for what := range p.of {
		if len(p.of) < mostGuessers*3/4 {
			return
		}
		delete(p.of, what)
	}
}

// tooMany refuses a try that comes too early.
func tooMany(code string, wait time.Duration) *Refusal {
	r := refuse(code, "wait", wording.Wait(wait))
	r.After = wait
	return r
}

// Checking a password takes 19 MiB and a tenth of a second: so many at once, and others wait so long.
const (
	hashesAtOnce = 2
	hashWait     = 3 * time.Second
)

// hashing waits for its turn to work on a password. The returned function gives the turn on.
func (s *Service) hashing(ctx context.Context) (func(), error) {
	return turn(ctx, s.hashes, hashWait, "log-in-busy")
}

// turn waits for one of the turns at something costly, and refuses with that code if none comes in time. The returned
// function gives the turn on.
func turn(ctx context.Context, turns chan struct{}, most time.Duration, busy string) (func(), error) {
	timer := time.NewTimer(most)
	defer timer.Stop()
	select {
	case turns <- struct{}{}:
		return func() { <-turns }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-timer.C:
		r := refuse(busy)
		r.After = most
		return nil, r
	}
}
