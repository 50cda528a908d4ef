package service

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"kaiku/core/dossier"
	"kaiku/safely"
	"kaiku/wire"
	"kaiku/wording"
)

// keptJobs is how long a job that has ended can still be asked for.
const keptJobs = time.Hour

// jobs holds the long work that runs or has ended not long ago. It is kept in memory: what a job
// has recorded is stored by itself, and a restart ends those that run.
type jobs struct {
	mu      sync.Mutex
	byID    map[string]*job
	running sync.WaitGroup
	closed  bool
}

// job is one long work. Its members change under the lock of jobs.
type job struct {
	wire.Job
	service *Service
	by      dossier.PersonID
	stop    context.CancelFunc
	ended   chan struct{}
}

// startJob lets work run in the background, once for each kind and household.
func (s *Service) startJob(ctx context.Context, a Actor, kind, code string, of int, work func(context.Context, *job) error) (wire.Job, error) {
	s.jobs.mu.Lock()
	defer s.jobs.mu.Unlock()
	if j := s.jobs.underWay(kind, code); j != nil {
		return wire.Job{}, refuse("job-running", "by", j.By, "what", wording.Jobs[kind])
	}
	for id, j := range s.jobs.byID {
		if j.State != "running" && s.now().Sub(j.EndedAt) > keptJobs {
			delete(s.jobs.byID, id)
		}
	}
	if s.jobs.closed {
		return wire.Job{}, context.Canceled
	}
	ctx, stop := context.WithCancel(context.WithoutCancel(ctx))
	j := &job{Job: wire.Job{ID: newID(), Kind: kind, Household: code, By: a.Name, State: "running", Of: of, StartedAt: dossier.At(s.now())},
		service: s, by: a.ID, stop: stop, ended: make(chan struct{})}
	s.jobs.byID[j.ID] = j
	s.jobs.running.Go(func() {
		defer stop()
		j.end(ctx, safely.Do(func() error { return work(ctx, j) }))
	})
	return j.Job, nil
}

// runsIn reports whether a job of the kind runs on a household.
func (s *Service) runsIn(kind, code string) bool {
	s.jobs.mu.Lock()
	defer s.jobs.mu.Unlock()
	return s.jobs.underWay(kind, code) != nil
}

// underWay returns the job of the kind that runs on a household, or nil. The lock is held.
func (j *jobs) underWay(kind, code string) *job {
	for _, one := range j.byID {
		if one.State == "running" && one.Kind == kind && one.Household == code {
			return one
		}
	}
	return nil
}

// step says what the job does now.
func (j *job) step(doing string) {
	j.tell(func() { j.Doing = doing })
}

// did counts a step that was done, with what it recorded.
func (j *job) did(made wire.AttemptMade) {
	j.tell(func() {
		j.Done++
		j.Made = append(j.Made, made)
	})
}

// looked counts a step that was done and had nothing to record.
func (j *job) looked() {
	j.tell(func() { j.Done++ })
}

// leftOut counts a step that had not to be done, because an earlier one has failed.
func (j *job) leftOut() {
	j.tell(func() {
		j.Done++
		j.LeftOut++
	})
}

func (j *job) end(ctx context.Context, err error) {
	j.tell(func() {
		j.State, j.Doing, j.EndedAt = "ended", "", dossier.At(j.service.now())
		var refusal *Refusal
		var fell *safely.Panicked
		switch {
		case errors.As(err, &fell):
			j.service.log.Error("job panicked", "job", j.ID, "kind", j.Kind, "household", j.Household, "error", err, "stack", string(fell.Stack))
			j.State, j.Failed = "failed", refuse("internal", "request", j.ID).Problem()
		case ctx.Err() != nil:
			j.State = "stopped"
		case errors.As(err, &refusal):
			j.State, j.Failed = "failed", refusal.Problem()
		case err != nil:
			j.service.log.Error("job failed", "job", j.ID, "kind", j.Kind, "household", j.Household, "error", err)
			j.State, j.Failed = "failed", refuse("internal", "request", j.ID).Problem()
		}
	})
	close(j.ended)
}

// tell changes the job and tells those who follow, without what it recorded: that is in the
// answer to whoever asks for the job.
func (j *job) tell(change func()) {
	now := func() wire.Job {
		j.service.jobs.mu.Lock()
		defer j.service.jobs.mu.Unlock()
		change()
		return j.Job
	}()
	now.Made = nil
	j.service.feed.publish(wire.Event{Household: j.Household, By: j.by, Job: &now})
}

// Jobs lists what runs on a household, and what has ended within the hour, newest first.
func (s *Service) Jobs(ctx context.Context, a Actor, code string) ([]wire.Job, error) {
	if _, err := s.Home(ctx, a, "list-jobs", code); err != nil {
		return nil, err
	}
	s.jobs.mu.Lock()
	defer s.jobs.mu.Unlock()
	out := []wire.Job{}
	for _, j := range s.jobs.byID {
		if j.Household == code {
			out = append(out, j.Job)
		}
	}
	slices.SortFunc(out, func(a, b wire.Job) int { return cmp.Or(b.StartedAt.Compare(a.StartedAt), cmp.Compare(b.ID, a.ID)) })
	return out, nil
}

// Job returns a job; it waits up to that time for it to end.
func (s *Service) Job(ctx context.Context, a Actor, code, id string, wait time.Duration) (wire.Job, error) {
	if _, err := s.Home(ctx, a, "show-job", code); err != nil {
		return wire.Job{}, err
	}
	j, err := s.jobOf(code, id)
	if err != nil {
		return wire.Job{}, err
	}
	timer := time.NewTimer(wait)
	defer timer.Stop()
	select {
	case <-j.ended:
	case <-timer.C:
	case <-ctx.Done():
	}
	s.jobs.mu.Lock()
	defer s.jobs.mu.Unlock()
	return j.Job, nil
}

// StopJob stops a job and returns it as it ended. Stopping one that has ended changes nothing.
func (s *Service) StopJob(ctx context.Context, a Actor, code, id string) (wire.Job, error) {
	if _, err := s.Home(ctx, a, "stop-job", code); err != nil {
		return wire.Job{}, err
	}
	j, err := s.jobOf(code, id)
	if err != nil {
		return wire.Job{}, err
	}
	j.stop()
	return s.Job(ctx, a, code, id, 10*time.Second)
}

func (s *Service) jobOf(code, id string) (*job, error) {
	s.jobs.mu.Lock()
	defer s.jobs.mu.Unlock()
	j := s.jobs.byID[id]
	if j == nil || j.Household != code {
		return nil, refuse("no-such-job", "id", id)
	}
	return j, nil
}

// Settle waits until the jobs that run have ended.
func (s *Service) Settle() { s.jobs.running.Wait() }

// Close stops all jobs and waits for them: the store may be closed after.
func (s *Service) Close() {
	s.jobs.mu.Lock()
	s.jobs.closed = true
	for _, j := range s.jobs.byID {
		j.stop()
	}
	s.jobs.mu.Unlock()
	s.jobs.running.Wait()
}
