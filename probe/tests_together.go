package probe

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"strings"
	"sync"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/safely"
)

// together pushes the heaviest item of each path of a set to its device, and watches all of them at once.
func (v *visit) together(ctx context.Context, t proving.Test) {
	set, _ := v.d.BusySets.Get(dossier.ID[dossier.BusySet](t.Subjects[0].ID))
	var all []*renderer
	for _, id := range set.Paths {
		path, there := v.d.Paths.Get(id)
		if !there || path.Retired {
			continue
		}
		own := *v
		own.path, own.result = path, proving.Result{Test: t.ID(), Outcome: dossier.Fail, Values: map[string]float64{}, Said: map[string]string{}}
		own.source, _ = v.d.Sources.Get(path.Source)
		r, ok := own.player(ctx)
		if ok = ok && r.free(ctx) && r.load(ctx); ok {
			defer r.end(ctx)
			_, ok = r.start(ctx)
		}
		if !ok { // what keeps one from playing keeps all
			v.result.Outcome, v.result.Observed = own.result.Outcome, own.result.Observed
			maps.Copy(v.result.Said, own.result.Said)
			return
		}
		all = append(all, r)
	}
	seen, done := make([]watched, len(all)), make([]bool, len(all))
	fell := make([]*safely.Panicked, len(all))
	var beside sync.WaitGroup
	for n, r := range all {
		safely.Go(&beside, func(p *safely.Panicked) { fell[n] = p }, func() { seen[n], done[n] = r.watch(ctx, cmp.Or(v.prober.PlaysFor, togetherFor)) })
	}
	beside.Wait()
	for _, p := range fell {
		if p != nil {
			panic(p) // for whoever began the test
		}
	}
	var stalled, names []string
	shortest := cmp.Or(v.prober.PlaysFor, togetherFor)
	for n, r := range all {
		name := v.d.Label(r.path.ID.Ref())
		names = append(names, name)
		if !done[n] {
			v.result.Outcome, v.result.Observed = r.result.Outcome, cmp.Or(r.result.Observed, "does-not-start")
			maps.Copy(v.result.Said, r.result.Said)
			return
		}
		shortest = min(shortest, seen[n].watched)
		switch {
		case seen[n].lies():
			v.see(dossier.Impossible, "position-lies", "moved", fmt.Sprintf("%.0f", seen[n].moved.Seconds()), "watched", fmt.Sprintf("%.0f", seen[n].watched.Seconds()))
			return
		case seen[n].stalls > 0, seen[n].stutters():
			stalled = append(stalled, name)
		}
	}
	v.result.Values["paths"], v.result.Values["stalled"], v.result.Values["watchedS"] = float64(len(all)), float64(len(stalled)), shortest.Seconds()
	if len(stalled) > 0 {
		v.see(dossier.Fail, "some-stalled", "stalled", strings.Join(stalled, ", "), "of", fmt.Sprint(len(all)), "watched", fmt.Sprintf("%.0f", shortest.Seconds()))
		return
	}
	v.see(dossier.Pass, "all-played", "names", strings.Join(names, ", "), "watched", fmt.Sprintf("%.0f", shortest.Seconds()))
}
