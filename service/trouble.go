package service

import (
	"errors"
	"sync/atomic"
	"time"

	"kaiku/store"
)

// TroubleOf returns the code, in the error table, of what is wrong with the machine or the data
// folder where an error comes from that, or "".
func TroubleOf(err error) string {
	trouble := store.Trouble(err)
	for _, known := range []struct {
		err  error
		code string
	}{
		{store.ErrOccupied, "data-occupied"}, {store.ErrNoBackup, "not-a-backup"}, {store.ErrBadBackup, "backup-damaged"},
		{store.ErrNewer, "data-newer"}, {store.ErrForeign, "data-foreign"}, {store.ErrDamaged, "data-damaged"},
		{store.ErrFull, "disk-full"}, {store.ErrNotWritable, "data-not-writable"}, {store.ErrFailing, "disk-failing"}, {store.ErrInUse, "data-in-use"}, {store.ErrHeld, "data-held"},
	} {
		if errors.Is(err, known.err) || trouble == known.err {
			return known.code
		}
	}
	return ""
}

// SteadyClock never runs backwards: where the machine's clock was set back behind what is
// written already, it stands until that clock has caught up. The newest attempt decides a
// status, so a time that runs backwards would bring old proofs back.
type SteadyClock struct {
	wall func() time.Time
	last atomic.Int64 // UnixNano of the newest time known
}

// NewSteadyClock returns a clock on the machine's, which does not run behind newest, the time
// of the newest entry written so far.
func NewSteadyClock(wall func() time.Time, newest time.Time) *SteadyClock {
	c := &SteadyClock{wall: wall}
	if !newest.IsZero() {
		c.last.Store(newest.UnixNano())
	}
	return c
}

// Now returns the machine's time, or the newest time known if that is later.
func (c *SteadyClock) Now() time.Time {
	now := c.wall()
	for {
		last := c.last.Load()
		if now.UnixNano() < last {
			return time.Unix(0, last)
		}
		if c.last.CompareAndSwap(last, now.UnixNano()) {
			return now
		}
	}
}

// Behind is how far the machine's clock runs behind the newest time known: 0 when it does not.
func (c *SteadyClock) Behind() time.Duration {
	return max(0, time.Duration(c.last.Load()-c.wall().UnixNano()))
}
