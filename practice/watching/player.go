package watching

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"sync/atomic"
	"time"
)

// Watched is how a film was seen.
type Watched struct {
	Stalls  int
	Stalled time.Duration // in all
	First   float64       // where in the film the first stall was, in seconds
}

// leastStall is how late a picture has to be to count: a tenth of the time for which one is shown.
const leastStall = time.Second / framesPerSecond / 10

// Watch plays a film from one of its frames on: it asks for the file from there on, waits so long, and then shows each frame when
// it is due, or as soon as it is there; what comes after is then shown that much later. Keep is how much of the film beyond what is shown is
// fetched at most; 0 for all.
func (f *Film) Watch(ctx context.Context, c *http.Client, url string, from int, wait, keep time.Duration) (Watched, error) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, url, nil)
	if err != nil {
		return Watched{}, err
	}
	req.Header.Set("Range", fmt.Sprintf("bytes=%d-", f.Frames[from].Offset))
	due := time.Now().Add(wait)
	answer, err := c.Do(req)
	if err != nil {
		return Watched{}, err
	}
	defer func() { _ = answer.Body.Close() }() // nothing is left to learn from it
	if answer.StatusCode != http.StatusPartialContent {
		return Watched{}, fmt.Errorf("the server answers %s in place of a part", answer.Status)
	}
	b := &buffer{more: make(chan struct{}, 1), shown: make(chan struct{}, 1), failed: make(chan error, 1)}
	b.got.Store(f.Frames[from].Offset)
	b.most.Store(f.upTo(from, keep))
	go b.fill(ctx, answer.Body)
	var out Watched
	for n := from; n < len(f.Frames); n++ {
		one := f.Frames[n]
		if err := until(ctx, due.Add(seconds(one.At-f.Frames[from].At))); err != nil {
			return out, err
		}
		asked := time.Now() // later than it was due, if the machine is busy: that is no fault of the way
		if err := b.await(ctx, one.end()); err != nil {
			return out, err
		}
		if late := time.Since(asked); late > leastStall {
			if out.Stalls++; out.Stalls == 1 {
				out.First = one.At
			}
			out.Stalled += late
			due = due.Add(late)
		}
		b.most.Store(f.upTo(n, keep))
		poke(b.shown)
	}
	return out, nil
}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

// upTo is how much of the file is fetched while a frame is shown.
func (f *Film) upTo(n int, keep time.Duration) int64 {
	last := len(f.Frames) - 1
	if keep > 0 {
		last = min(last, n+int(keep.Seconds()*framesPerSecond))
	}
	return f.Frames[last].end()
}

func until(ctx context.Context, at time.Time) error {
	timer := time.NewTimer(time.Until(at))
	defer timer.Stop()
	select {
	case <-timer.C:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// buffer is what a player has fetched, up to where in the file.
type buffer struct {
	got, most   atomic.Int64
	more, shown chan struct{}
	failed      chan error
}

func poke(c chan struct{}) {
	select {
	case c <- struct{}{}:
	default:
	}
}

// fill fetches as long as there is room.
func (b *buffer) fill(ctx context.Context, from io.Reader) {
	part := make([]byte, 16<<10)
	for {
		room := b.most.Load() - b.got.Load()
		if room <= 0 {
			select {
			case <-b.shown:
				continue
			case <-ctx.Done():
				return
			}
		}
		n, err := from.Read(part[:min(int64(len(part)), room)])
		b.got.Add(int64(n))
		poke(b.more)
		if err != nil {
			b.failed <- err
			return
		}
	}
}

// await waits until the file is there up to an offset.
func (b *buffer) await(ctx context.Context, end int64) error {
	for b.got.Load() < end {
		select {
		case <-b.more:
		case err := <-b.failed:
			if b.got.Load() >= end {
				return nil
			}
			return fmt.Errorf("the film broke off: %w", err)
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}
