package service

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"kaiku/core/assess"
	"kaiku/core/contents"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/matching"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// Prober asks the devices of a home.
type Prober interface {
	Probe(ctx context.Context, d *dossier.Dossier, t proving.Test) (proving.Result, error)
	// Watch watches the source of a path while a person works at it, and tells what it sees.
	Watch(ctx context.Context, d *dossier.Dossier, of dossier.ID[dossier.Path], what proving.Watched, tell func(proving.Moment)) error
	// ScanOf searches the recorded segments that this machine is connected to, or one host in them.
	ScanOf(ctx context.Context, d *dossier.Dossier, what matching.Wanted, tell func(matching.Progress)) (matching.Scan, error)
	// View browses a source as a device would, or as an unknown device.
	View(ctx context.Context, d *dossier.Dossier, source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error)
	// ReadFolder reads what lies in a media folder; errors are contents.ErrPlace and what the place answers.
	ReadFolder(ctx context.Context, d *dossier.Dossier, f dossier.Folder, what contents.Wanted, tell func(contents.Progress)) (contents.Contents, error)
	// Where says where this machine is, as its operating system knows it; nothing is asked for it.
	Where() (network.Place, error)
}

// Service carries out the use-cases on one store.
type Service struct {
	store  *store.Store
	prober Prober // nil where this Kaiku does not stand in a home
	now    func() time.Time
	behind func() time.Duration
	log    *slog.Logger

	writes   atomic.Int64
	jobs     jobs
	feed     *feed
	codes    codes
	patience patience
	hashes   chan struct{} // turns to work on a password
	pictures chan struct{} // turns to unpack a picture
	assessed assessed
	homes    homes

	factorFor  []Role
	nightPause time.Duration
}

// Options make a service. Prober is nil in the office, where nothing may be asked.
type Options struct {
	Prober Prober
	Now    func() time.Time
	Behind func() time.Duration // how far the machine's clock runs behind Now; nil: not at all
	Log    *slog.Logger

	SecondFactorFor []Role        // those who must have a second factor
	NightPause      time.Duration // how long after a failure overnight a test is carried out again; 0 is NightPause
}

// New returns a service on the store.
func New(s *store.Store, o Options) *Service {
	if o.Now == nil {
		o.Now = time.Now
	}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if o.Behind == nil {
		o.Behind = func() time.Duration { return 0 }
	}
	made := &Service{nightPause: cmp.Or(o.NightPause, NightPause), hashes: make(chan struct{}, hashesAtOnce), pictures: make(chan struct{}, picturesAtOnce), factorFor: o.SecondFactorFor, store: s, prober: o.Prober, now: o.Now, behind: o.Behind, log: o.Log, feed: newFeed(o.Now()), jobs: jobs{byID: map[string]*job{}}, codes: codes{invites: map[string]*invite{}, joins: map[string]*joining{}},
		assessed: assessed{of: map[dossier.ID[dossier.Household]]*assess.Assessment{}, seen: map[dossier.ID[dossier.Household]]knowledge.Knowledge{}}}
	if s != nil { // without one the operations can still be described
		s.SummariseBy(made.summarise)
	}
	return made
}

// OnSite reports whether this Kaiku is on a home's network and may ask its devices.
func (s *Service) OnSite() bool { return s.prober != nil }

// Ready reports whether the service can answer.
func (s *Service) Ready(ctx context.Context) error { return s.store.Ping(ctx) }

// ClockBehind is how far the machine's clock runs behind what is stored; more than a minute is
// worth a remark.
func (s *Service) ClockBehind() time.Duration { return s.behind() }

// Notice says what is wrong with the machine that the service runs on, or "".
func (s *Service) Notice() string {
	var said []string
	if behind := s.ClockBehind(); behind > time.Minute {
		said = append(said, wording.Say("clock-behind", map[string]string{"behind": behind.Round(time.Second).String()}))
	}
	if n := s.store.DamagedBodies(); n > 0 {
		said = append(said, wording.Say("bodies-damaged", map[string]string{"n": wording.Agree(n, "file is", "files are")}))
	}
	return strings.Join(said, " ")
}

// WriteCount is how many writes changed something since the start.
func (s *Service) WriteCount() int64 { return s.writes.Load() }

// newID makes a UUIDv7.
func newID() string { return uuid.Must(uuid.NewV7()).String() }

// clockSlack is how far another machine's clock may run ahead of this one's.
const clockSlack = time.Minute

// Request carries what a write needs beside its content: the idempotency key and a hash of what it
// is used for, and when it was done, if it is sent later.
type Request struct {
	Key, Hash string
	DoneAt    time.Time
	answer    func() ([]byte, error) // kept for a repeated request
}

// doneAt returns when the request was done: now, unless it says another time.
func (r Request) doneAt(now time.Time) time.Time {
	if r.DoneAt.IsZero() {
		return now
	}
	return r.DoneAt
}

// Home returns the dossier of the household with that code, for reading, if the actor may carry
// out the operation there. In a context that supposes changes, it is the home as they would leave it.
func (s *Service) Home(ctx context.Context, a Actor, operation, code string) (*dossier.Dossier, error) {
	if a.ID == "" {
		return nil, refuse("not-logged-in")
	}
	d, err := s.home(ctx, code)
	if err != nil {
		return nil, err
	}
	if err := a.require(operation, d, nil); err != nil {
		return nil, err
	}
	if steps, is := supposed(ctx); is {
		return s.suppose(ctx, a, d, steps)
	}
	return d, nil
}

func (s *Service) home(ctx context.Context, code string) (*dossier.Dossier, error) {
	id, err := s.store.HomeByCode(ctx, code)
	if errors.Is(err, store.ErrNotFound) {
		return nil, refuse("no-such-household", "code", code)
	}
	if err != nil {
		return nil, err
	}
	return s.store.Load(ctx, id)
}

// write opens the door for one operation. The right is decided inside, on the value that is
// changed; what else changes under a handover on offer outdates it in the same write.
func (s *Service) write(ctx context.Context, a Actor, operation, code, why string, r Request, change func(*dossier.Dossier) error) (store.Written, error) {
	return s.writeBy(ctx, s.store.Write, a, operation, code, why, r, change)
}

// entrance is one of the store's ways through the door.
type entrance func(context.Context, dossier.ID[dossier.Household], store.Cause, func(*dossier.Dossier) error) (store.Written, error)

func (s *Service) writeBy(ctx context.Context, door entrance, a Actor, operation, code, why string, r Request, change func(*dossier.Dossier) error) (store.Written, error) {
	id, err := s.store.HomeByCode(ctx, code)
	if errors.Is(err, store.ErrNotFound) {
		return store.Written{}, refuse("no-such-household", "code", code)
	}
	if err != nil {
		return store.Written{}, err
	}
	if a.Now.IsZero() {
		a.Now = s.now()
	}
	if r.DoneAt.After(s.now().Add(clockSlack)) {
		return store.Written{}, refuse("done-in-future", "at", r.DoneAt.Format(time.RFC3339))
	}
	cause := store.Cause{Actor: a.ID, Why: why, Key: r.Key, RequestHash: r.Hash, DoneAt: r.DoneAt, Answer: r.answer}
	defer s.beside(ctx, code)()
	w, err := door(ctx, id, cause, func(d *dossier.Dossier) error {
		if right, _ := RightOf(operation); right != Receives {
			if err := a.require(operation, d, nil); err != nil {
				return err
			}
		}
		if a.visits(d) {
			was := slices.Clone(d.Visits)
			plain := change
			change = func(d *dossier.Dossier) error {
				if err := plain(d); err != nil {
					return err
				}
				return a.plans(was, d)
			}
		}
		before := d
		if custody.OnOffer(d) { // otherwise there is nothing to outdate, so nothing to compare
			before = d.Clone()
		}
		if err := change(d); err != nil {
			return err
		}
		s.completes(before, d, r.doneAt(s.now()))
		return nil
	})
	if errors.Is(err, store.ErrKeyReused) {
		return w, refuse("key-reused")
	}
	if no := refusalOf(err); no != nil {
		return w, no
	}
	var taken *store.Taken
	if errors.As(err, &taken) {
		return w, refuse("taken-elsewhere", "id", taken.Subject.ID, "home", taken.Home)
	}
	s.tellOf(w, a)
	return w, err
}

// completes writes what every write brings along: a change that does not say when it was made was made then, and a handover on offer of
// which something changed is outdated.
func (s *Service) completes(before, d *dossier.Dossier, then time.Time) {
	for i := range d.Changes {
		if d.Changes[i].At.IsZero() {
			d.Changes[i].At = dossier.At(then)
		}
	}
	if before != d {
		custody.Outdate(before, d, func(h *dossier.Handover) { h.EndedAt = dossier.At(s.now()) })
	}
}

// tellOf tells who follows of a write, if there was one.
func (s *Service) tellOf(w store.Written, a Actor) {
	if len(w.Entries) > 0 {
		s.writes.Add(1)
		s.feed.publish(wire.Event{Household: w.Dossier.Home().Code, Revision: w.Dossier.Revision, By: a.ID})
	}
}
