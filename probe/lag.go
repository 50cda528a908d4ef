package probe

import (
	"context"
	"sync/atomic"
	"time"
)

// lag measures how far this machine falls behind its own clock while a scan is under way. A machine that is busy
// with other things reads late what reached it in time, and a silence to which it did not listen says nothing. The
// zero value has just begun; nil is of a machine that never falls behind.
type lag struct {
	began time.Time
	lost  atomic.Int64 // nanoseconds
	most  atomic.Int64 // the greatest part by which a wait was prolonged so far, in thousandths
}

const (
	lagStep  = 20 * time.Millisecond
	lagBase  = 500 * time.Millisecond // the least time that a share is taken of: in less, a single late timer would count for too much
	lagSlack = 10 * time.Millisecond  // by which a timer may be late on a machine with nothing else to do
	mostLag  = 4                      // the most by which a wait is prolonged
)

// watching measures from now on until ctx ends. So much counts as lost already; 0 outside of tests.
func watching(ctx context.Context, lost time.Duration) *lag {
	l := &lag{began: time.Now()}
	l.lost.Store(int64(lost))
	go l.watch(ctx)
	return l
}

// watch measures until ctx ends.
func (l *lag) watch(ctx context.Context) {
	t := time.NewTimer(lagStep)
	defer t.Stop()
	for {
		before := time.Now()
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		l.slept(time.Since(before))
		t.Reset(lagStep)
	}
}

// slept counts a step that took that long.
func (l *lag) slept(d time.Duration) {
	if late := d - lagStep; late > lagSlack {
		l.lost.Add(int64(late))
	}
}

// share is the part of the time that was lost so far, from 0 to 1.
func (l *lag) share() float64 {
	if l == nil {
		return 0
	}
	passed := time.Since(l.began)
	return min(1, float64(l.lost.Load())/float64(max(passed, lagBase)))
}

// Below a twentieth nothing is prolonged; where more than half was lost, silence is not believed.
const (
	lagFelt = .05
	lagMuch = .5
)

// patient prolongs a wait by how far the machine has fallen behind: by four times the part that was lost, and to
// the fourfold at most, since every step of an answer waits for its turn anew.
func (l *lag) patient(wait time.Duration) time.Duration {
	share := l.share()
	if share < lagFelt {
		return wait
	}
	by := min(mostLag, 1+4*share)
	for more := int64(1000*by) + 1; ; {
		if before := l.most.Load(); before >= more || l.most.CompareAndSwap(before, more) {
			return time.Duration(float64(wait) * by)
		}
	}
}

// outlast prolongs the wait for many others by as much as the most prolonged of them.
func (l *lag) outlast(wait time.Duration) time.Duration {
	longest := l.patient(wait)
	if l == nil {
		return longest
	}
	return max(longest, time.Duration(float64(wait)*float64(l.most.Load())/1000))
}

// after calls end when the wait is over, which is prolonged once, when it would be over. It returns what calls
// it off.
func after(wait time.Duration, prolong func(time.Duration) time.Duration, end func()) (stop func()) {
	began := time.Now()
	ctx, cancel := context.WithCancel(context.Background())
	first := time.AfterFunc(wait, func() {
		more := time.NewTimer(max(0, prolong(wait)-time.Since(began)))
		defer more.Stop()
		select {
		case <-more.C:
			end()
		case <-ctx.Done():
		}
	})
	return func() { first.Stop(); cancel() }
}

// hears is what can be told to listen no longer.
type hears interface{ SetReadDeadline(time.Time) error }

// hear lets a connection be listened to for that long, or until ctx ends. It returns what ends that at once.
func (l *lag) hear(ctx context.Context, conn hears, wait time.Duration) (stop func()) {
	end := func() { _ = conn.SetReadDeadline(time.Unix(1, 0)) }
	_ = conn.SetReadDeadline(time.Time{})
	calledOff := after(wait, l.patient, end)
	ended := context.AfterFunc(ctx, end)
	return func() { calledOff(); ended() }
}
