package service

import (
	"context"
	"crypto/rand"
	"errors"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/papers"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// Kit returns what the next visit must bring and what must be ready before it.
func (s *Service) Kit(ctx context.Context, a Actor, code string) (wire.Kit, error) {
	h, err := s.read(ctx, a, "show-kit", code)
	if err != nil {
		return wire.Kit{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Kit{}, err
	}
	parts, tests, err := s.wantedParts(ctx, h)
	if err != nil {
		return wire.Kit{}, err
	}
	return views.Kit(h, survey.With(h.Kit, parts), tests, people, s.now()), nil
}

// SetReady notes with the next visit whether a thing is ready; one that was only computed is
// written down with the visit by that.
func (s *Service) SetReady(ctx context.Context, a Actor, code string, in wire.SupplyReady, r Request) error {
	h, err := s.read(ctx, a, "set-ready", code)
	if err != nil {
		return err
	}
	parts, _, err := s.wantedParts(ctx, h)
	if err != nil {
		return err
	}
	_, err = s.write(ctx, a, "set-ready", code, "", r, func(d *dossier.Dossier) error {
		v, ok := survey.NextVisit(d, s.now())
		if !ok {
			return refuse("no-visit")
		}
		for _, list := range []*[]dossier.Item{&v.Bring, &v.Bench} {
			if i := slices.IndexFunc(*list, func(i dossier.Item) bool { return strings.EqualFold(i.What, in.What) }); i >= 0 {
				*list = slices.Clone(*list)
				(*list)[i].Ready = in.Ready
				d.Visits.Put(v)
				return nil
			}
		}
		for _, one := range survey.With(h.Kit, parts) {
			if !strings.EqualFold(views.SupplyName(one), in.What) {
				continue
			}
			item := dossier.Item{What: views.SupplyName(one), Ready: in.Ready}
			if one.Sort == survey.Bench {
				v.Bench = append(slices.Clone(v.Bench), item)
			} else {
				v.Bring = append(slices.Clone(v.Bring), item)
			}
			d.Visits.Put(v)
			return nil
		}
		return refuse("no-supply", "what", in.What)
	})
	return err
}

// Departure returns what still needs doing before leaving.
func (s *Service) Departure(ctx context.Context, a Actor, code string) ([]wire.Remark, error) {
	h, err := s.read(ctx, a, "show-departure", code)
	if err != nil {
		return nil, err
	}
	return views.Remarks(h.Dossier, h.Departure, func(r network.Remark) (string, bool) { return wording.Departure(r), false }), nil
}

// Arrival compares where this Kaiku's own machine is with what is recorded of the home.
func (s *Service) Arrival(ctx context.Context, a Actor, code string) ([]wire.Remark, error) {
	d, err := s.Home(ctx, a, "show-arrival", code)
	if err != nil {
		return nil, err
	}
	if s.prober == nil {
		return nil, refuse("not-on-site", "code", code)
	}
	place, err := s.prober.Where()
	if err != nil {
		return nil, err
	}
	return views.Remarks(d, network.Arrive(d, place), wording.Arrival), nil
}

// feedYears is how long a calendar's address lasts unless someone ends it before.
const feedYears = 2

// NewFeed makes a secret address at which a calendar fetches one's visits. One made before ends.
func (s *Service) NewFeed(ctx context.Context, a Actor) (wire.FeedMade, error) {
	if err := a.require("add-feed", nil, nil); err != nil {
		return wire.FeedMade{}, err
	}
	secret := rand.Text() + rand.Text()
	until := s.now().AddDate(feedYears, 0, 0)
	until, err := s.store.AddSession(ctx, store.Session{Hash: TokenHash(secret), PersonID: a.ID, Name: "calendar", ID: newID(), Kind: store.Feed}, until, a.Session)
	if err != nil {
		return wire.FeedMade{}, endedMeanwhile(err)
	}
	return wire.FeedMade{Path: "/calendar/" + secret + ".ics", Ends: dossier.At(until)}, nil
}

// Feed returns the calendar at a secret address: the person's visits, and what the person looks at
// again or sees to. It holds no access notes: calendars go to other people's machines.
func (s *Service) Feed(ctx context.Context, secret, origin string) ([]byte, error) {
	p, err := s.store.PersonByFeed(ctx, TokenHash(secret))
	if errors.Is(err, store.ErrNotFound) {
		return nil, refuse("no-such-feed")
	}
	if err != nil {
		return nil, err
	}
	now := s.now()
	since := now.AddDate(0, -3, 0)
	homes, err := s.store.Scheduled(ctx, p.ID, since)
	if err != nil {
		return nil, err
	}
	var events []papers.Event
	for _, id := range homes {
		d, err := s.store.Load(ctx, wire.HomeID(id))
		if err != nil {
			return nil, err
		}
		events = append(events, views.Events(d, p.ID, since, now.Location(), origin)...)
	}
	slices.SortFunc(events, func(a, b papers.Event) int { return strings.Compare(a.UID, b.UID) })
	return papers.Calendar("Visits of "+p.Name, now, events), nil
}
