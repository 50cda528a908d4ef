package probe

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"kaiku/core/dossier"
)

const (
	// nearEnd is how long before the end of the first track the machine jumps to.
	nearEnd = 8 * time.Second
	// gapSeen is the shortest gap that can be detected: positions are given in whole seconds, and polled five times a second.
	gapSeen = 2 * time.Second
	// nextWithin is how long after the end of the first track the second one has to come.
	nextWithin = 10 * time.Second
)

// gapless hands the renderer two tracks that follow each other in one container, and watches how the second follows the first. A machine can see a
// gap of some seconds, and cannot hear that there is none: what shows no gap is left to an ear.
func (v *visit) gapless(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) {
		return
	}
	first, second, ok := r.pair(ctx)
	if !ok || !r.hand(ctx, first) {
		return
	}
	defer r.end(ctx)
	if _, err := r.transport.call(ctx, "SetNextAVTransportURI", "InstanceID", "0", "NextURI", second.res.address, "NextURIMetaData", didlOf(second)); err != nil {
		var no *fault
		if errors.As(err, &no) { // it is not required of a renderer (AVTransport:1, section 2.4.2)
			v.see(dossier.Impossible, "no-next")
			return
		}
		r.refused(err)
		return
	}
	if _, ok := r.start(ctx); !ok {
		return
	}
	if to := first.length - nearEnd; to > nearEnd && !r.do(ctx, "Seek", "Unit", "REL_TIME", "Target", clockText(to)) {
		return
	}
	r.follows(ctx, first.length, second.title)
}

// pair is the first track, and the one that follows it in the same container, of those that the renderer says it takes and that are long enough.
func (r *renderer) pair(ctx context.Context) (first, second object, ok bool) {
	directory, _, there := r.directory(ctx)
	if !there {
		return first, second, false
	}
	for _, f := range r.d.Index().Reached(r.path) {
		top, there, err := folderNamed(ctx, directory, f.Name)
		if err == nil && there {
			last, lastIn := object{}, ""
			_, err = eachItem(ctx, directory, top.id, func(in string, o object) {
				fit := strings.HasPrefix(o.res.kind, "audio/") && o.res.address != "" && r.takes(o.res.kind)
				if fit && !ok && last.res.address != "" && lastIn == in {
					first, second, ok = last, o, true
				}
				if last, lastIn = (object{}), in; fit && o.length > nearEnd {
					last = o
				}
			})
		}
		if err != nil && !ok {
			r.folderFailed(err, f.Name, directory)
			return first, second, false
		}
	}
	if !ok {
		r.see(dossier.Impossible, "no-two-tracks")
	}
	return first, second, ok
}

// follows watches the position over the end of the first track: when that should come is known from each position before it, when the second
// began from the first position in it.
func (r *renderer) follows(ctx context.Context, length time.Duration, next string) {
	var ends time.Time // when the first track ends, by its latest position
	began, last := time.Now(), time.Duration(-1)
	for ends.IsZero() && time.Since(began) < startsLate || !ends.IsZero() && time.Since(ends) < nextWithin {
		if !pause(ctx, lookEach) {
			return
		}
		at, known, err := r.position(ctx)
		switch now := time.Now(); {
		case err != nil:
			r.refused(err)
			return
		case !known:
			r.see(dossier.Impossible, "position-not-told")
			return
		case at >= length-2*nearEnd: // one that stands still at the end says nothing new
			if at != last {
				ends = now.Add(length - at)
			}
			last = at
		case !ends.IsZero() && at > 0: // it is in the second
			gap := max(now.Add(-at).Sub(ends), 0)
			r.result.Values["gapS"] = gap.Seconds()
			if gap >= gapSeen {
				r.see(dossier.Fail, "gap", "title", next, "seconds", fmt.Sprintf("%.0f", gap.Seconds()))
				return
			}
			r.see(dossier.Impossible, "no-gap-seen", "title", next)
			return
		}
	}
	if ends.IsZero() {
		r.see(dossier.Fail, "does-not-start")
		return
	}
	r.see(dossier.Fail, "next-missing", "title", next, "seconds", fmt.Sprint(int(nextWithin.Seconds())))
}
