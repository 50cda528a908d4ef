package service

import (
	"context"

	"kaiku/core/proving"
	"kaiku/views"
	"kaiku/wire"
)

// Watch lets this machine watch a source, as a job, while a person carries out a test there. It records nothing: what it saw is given back, to be
// recorded with what the person says.
func (s *Service) Watch(ctx context.Context, a Actor, code string, in wire.Watch) (wire.Job, error) {
	h, err := s.read(ctx, a, "watch-source", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site", "code", code)
	}
	t, planned := h.Plan.Find(in.Test)
	if !planned {
		return wire.Job{}, refuse("no-such-test", "id", in.Test)
	}
	what := proving.WatchFor(t.Kind.Name)
	if what == proving.WatchesNothing {
		return wire.Job{}, refuse("nothing-to-watch", "test", views.TestTitle(h.Dossier, t))
	}
	return s.startJob(ctx, a, "watch", code, 0, func(ctx context.Context, j *job) error {
		var seen []proving.Moment
		return s.prober.Watch(ctx, h.Dossier, t.Path, what, func(m proving.Moment) {
			seen = append(seen, m)
			now := views.WatchSeen(in.Test, what, seen)
			j.tell(func() { j.Watched, j.Doing = &now, now.Moments[len(now.Moments)-1].Sentence })
		})
	})
}
