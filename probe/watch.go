package probe

import (
	"cmp"
	"context"
	"maps"
	"path"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

const (
	// watchFor is how long a source is watched. A server that checks its disks may take a quarter of an hour to start.
	watchFor = 30 * time.Minute
	// watchEach is how often it is asked, watchPatience how long one question waits.
	watchEach     = time.Second
	watchPatience = 4 * time.Second
	// awayAfter is how many questions in a row have to fail before it counts as gone: one may be lost.
	awayAfter = 2
)

// Watch watches the source of a path while a person restarts it, wakes it, or puts a sample clip into its folders, and tells what it sees when it
// sees it. It returns when all has been seen, when nothing more came in half an hour, or when ctx ends.
func (p Prober) Watch(ctx context.Context, d *dossier.Dossier, of dossier.ID[dossier.Path], what proving.Watched, tell func(proving.Moment)) error {
	one, _ := d.Paths.Get(of)
	source, _ := d.Sources.Get(one.Source)
	w := watch{prober: p, d: d, path: one, source: source, began: time.Now(), tell: tell}
	if !d.AddressOf(source).IsValid() || source.Port == 0 {
		w.say(proving.CannotSee, "no address and port are recorded for it")
		return nil
	}
	if err := p.Guard.ForHome(d).Allow(d.AddressOf(source)); err != nil {
		w.say(proving.CannotSee, "it is outside the networks that may be asked")
		return nil
	}
	next := w.returns
	switch what {
	case proving.WatchesWaking:
		next = w.wakes
	case proving.WatchesSamples:
		if source.Protocol != dossier.ProtocolUPnPAV {
			w.say(proving.CannotSee, "only the list of a UPnP AV server can be watched")
			return nil
		}
		next = w.samples
	}
	lasts, each := cmp.Or(p.WatchFor, watchFor), cmp.Or(p.WatchEach, watchEach)
	for time.Since(w.began) < lasts {
		if next(ctx) {
			return ctx.Err()
		}
		if !pause(ctx, each) {
			return ctx.Err()
		}
	}
	w.say(proving.GivenUp, "")
	return nil
}

// watch is a source while it is watched.
type watch struct {
	prober Prober
	d      *dossier.Dossier
	path   dossier.Path
	source dossier.Source
	began  time.Time
	tell   func(proving.Moment)

	failed int
	last   proving.Happening
	titles map[string]bool
}

func (w *watch) say(what proving.Happening, said string) {
	w.last = what
	w.tell(proving.Moment{What: what, After: time.Since(w.began), Said: said})
}

// visits makes one question, with a visit of its own, and reports whether it was answered well.
func (w *watch) visits(ctx context.Context, ask func(*visit, context.Context)) bool {
	ctx, cancel := context.WithTimeout(ctx, watchPatience)
	defer cancel()
	v := visit{prober: w.prober, guard: w.prober.Guard.ForHome(w.d), d: w.d, path: w.path, source: w.source,
		result: proving.Result{Outcome: dossier.Fail, Values: map[string]float64{}, Said: map[string]string{}}}
	ask(&v, ctx)
	return ctx.Err() == nil && v.result.Outcome == dossier.Pass
}

func (w *watch) answers(ctx context.Context) bool { return w.visits(ctx, (*visit).reach) }

// goesAway follows a source until it has gone, and reports whether it has.
func (w *watch) goesAway(ctx context.Context) bool {
	switch {
	case w.last == proving.IsAway || w.last == proving.Answers || w.last == proving.IsListed:
		return true
	case w.answers(ctx):
		w.failed = 0
		if w.last == "" {
			w.say(proving.IsThere, "")
		}
	case ctx.Err() != nil:
	default:
		if w.failed++; w.failed >= awayAfter {
			w.say(proving.IsAway, "")
		}
	}
	return false
}

// comesBack reports whether a source that had gone answers.
func (w *watch) comesBack(ctx context.Context) bool {
	if w.last == proving.IsAway && w.answers(ctx) {
		w.say(proving.Answers, "")
	}
	return w.last == proving.Answers || w.last == proving.IsListed
}

// returns follows a restart to its end: that the folders open again.
func (w *watch) returns(ctx context.Context) bool {
	if !w.goesAway(ctx) || !w.comesBack(ctx) {
		return false
	}
	if w.last == proving.Answers && w.source.Protocol == dossier.ProtocolUPnPAV {
		if !w.visits(ctx, (*visit).found) {
			return false
		}
		w.say(proving.IsListed, "")
	}
	if w.visits(ctx, (*visit).opensAll) {
		w.say(proving.OpensAgain, "")
		return true
	}
	return false
}

func (w *watch) wakes(ctx context.Context) bool { return w.goesAway(ctx) && w.comesBack(ctx) }

// samples follows sample clips into the list and out of it.
func (w *watch) samples(ctx context.Context) bool {
	now := map[string]bool{}
	whole := w.visits(ctx, func(v *visit, ctx context.Context) {
		directory, _, ok := v.directory(ctx)
		if !ok {
			return
		}
		for _, f := range v.d.Index().Reached(v.path) {
			top, there, err := folderNamed(ctx, directory, f.Name)
			if err == nil && there {
				_, err = eachItem(ctx, directory, top.id, func(_ string, o object) {
					if isSample(o) {
						now[o.title] = true
					}
				})
			}
			if err != nil {
				v.result.Outcome = dossier.Fail
				return
			}
		}
	})
	if !whole {
		return false // what could not be read says nothing
	}
	if w.titles == nil {
		w.titles = now // those that lay there before
		w.say(proving.IsThere, strings.Join(slices.Sorted(maps.Keys(now)), ", "))
		return false
	}
	for _, title := range slices.Sorted(maps.Keys(now)) {
		if !w.titles[title] {
			w.titles[title] = true
			w.say(proving.Appeared, title)
		}
	}
	if len(now) == 0 && len(w.titles) > 0 {
		w.say(proving.Gone, "")
		return true
	}
	return false
}

// isSample knows a sample clip by its title or the name of its file.
func isSample(o object) bool {
	return strings.HasPrefix(o.title, proving.SamplePrefix) || strings.HasPrefix(path.Base(o.res.address), proving.SamplePrefix) || strings.HasPrefix(o.fileName(), proving.SamplePrefix)
}
