package service

import (
	"context"
	"crypto/rand"
	"errors"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/papers"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// Kit returns what the next visit must bring and what must be ready before it.
func (s *Service) Kit(ctx context.Context, a Actor, code string) (wire.Kit, error) {
	h, err := s.read(ctx, a, "show-kit", code)
	if err != nil {
		return wire.Kit{}, err
	}
	d := h.Dossier
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Kit{}, err
	}
	out := wire.Kit{Supplies: []wire.Supply{}, AccessNotes: d.Home().AccessNotes}
	if v, ok := survey.NextVisit(d, s.now()); ok {
		out.Visit, out.Starts, out.Technician = named(d, v.ID.Ref()), v.Starts, people.name(v.Technician)
	}
	for _, one := range h.Kit {
		said := wire.Supply{What: supplyName(one), Sort: one.Sort, Because: []string{}, About: []wire.Named{}, Ready: one.Ready, Written: one.Visit != ""}
		for _, b := range one.Because {
			said.Because = append(said.Because, wording.Because(b))
		}
		for _, r := range one.About {
			said.About = append(said.About, named(d, r))
		}
		out.Supplies = append(out.Supplies, said)
	}
	return out, nil
}

func supplyName(one survey.Supply) string {
	if one.Written {
		return one.Item
	}
	return wording.Supplies[one.Item]
}

// SetReady notes with the next visit whether a thing is ready; one that was only computed is
// written down with the visit by that.
func (s *Service) SetReady(ctx context.Context, a Actor, code string, in wire.SupplyReady, r Request) error {
	_, err := s.write(ctx, a, "set-ready", code, "", r, func(d *dossier.Dossier) error {
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
		x := d.Index()
		for _, one := range survey.Kit(d, survey.Walk(x), network.Findings(x, s.now()), s.now()) {
			if !strings.EqualFold(supplyName(one), in.What) {
				continue
			}
			item := dossier.Item{What: supplyName(one), Ready: in.Ready}
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
	return remarksOf(h.Dossier, h.Departure, func(r network.Remark) (string, bool) { return wording.Departure(r), false }), nil
}

// remarksOf says remarks, each with what it is about and whether it is not as recorded.
func remarksOf(d *dossier.Dossier, remarks []network.Remark, say func(network.Remark) (said string, differs bool)) []wire.Remark {
	out := []wire.Remark{}
	for _, r := range remarks {
		one := wire.Remark{Code: r.Code}
		one.Sentence, one.Differs = say(r)
		if r.Subject != (dossier.Ref{}) {
			one.About = named(d, r.Subject)
		}
		out = append(out, one)
	}
	return out
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
	return remarksOf(d, network.Arrive(d, place), wording.Arrival), nil
}

// feedYears is how long a calendar's address lasts unless someone ends it before.
const feedYears = 2

// NewFeed makes a secret address at which a calendar fetches one's visits. One made before ends.
func (s *Service) NewFeed(ctx context.Context, a Actor) (wire.FeedMade, error) {
	if err := a.require("add-feed", nil, nil); err != nil {
		return wire.FeedMade{}, err
	}
	old, err := s.store.Sessions(ctx, a.ID)
	if err != nil {
		return wire.FeedMade{}, err
	}
	for _, one := range old {
		if one.Kind == store.Feed {
			if err := s.store.EndSessions(ctx, a.ID, one.ID); err != nil {
				return wire.FeedMade{}, err
			}
		}
	}
	secret := rand.Text() + rand.Text()
	until := s.now().AddDate(feedYears, 0, 0)
	err = s.store.AddSession(ctx, store.Session{Hash: TokenHash(secret), PersonID: a.ID, Name: "calendar", ID: newID(), Kind: store.Feed}, until)
	return wire.FeedMade{Path: "/calendar/" + secret + ".ics", Ends: dossier.At(until)}, err
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
		events = append(events, eventsOf(d, p.ID, since, now.Location(), origin)...)
	}
	slices.SortFunc(events, func(a, b papers.Event) int { return strings.Compare(a.UID, b.UID) })
	return papers.Calendar("Visits of "+p.Name, now, events), nil
}

func eventsOf(d *dossier.Dossier, person dossier.PersonID, since time.Time, zone *time.Location, origin string) []papers.Event {
	h := d.Home()
	var out []papers.Event
	link := func(kind, id string) string {
		if origin == "" {
			return ""
		}
		return origin + "/households/" + h.Code + "/records/" + kind + "/" + id
	}
	for _, v := range d.Visits {
		if v.Technician != person || v.Starts.Before(since) {
			continue
		}
		minutes := v.Minutes
		if minutes == 0 {
			minutes = 60
		}
		var bring []string
		for _, i := range slices.Concat(v.Bring, v.Bench) {
			mark := "- "
			if i.Ready {
				mark = "+ "
			}
			bring = append(bring, mark+i.What)
		}
		out = append(out, papers.Event{UID: "visit-" + string(v.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ": " + v.Purpose, Place: h.Address, Description: strings.Join(bring, "\n"),
			URL: link("visit", string(v.ID)), Starts: v.Starts, Ends: v.Starts.Add(time.Duration(minutes) * time.Minute), Cancelled: v.Cancelled})
	}
	for _, w := range d.LongTasks {
		if w.CheckedBy == person && w.EndedAt.IsZero() {
			out = append(out, papers.Event{UID: "long-task-" + string(w.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ", check: " + w.What, URL: link("long-task", string(w.ID)), Starts: w.ExpectedAt, Ends: w.ExpectedAt.Add(15 * time.Minute)})
		}
	}
	for _, due := range d.Dues {
		who := due.Who
		if who == "" {
			who = h.Custodian
		}
		day, err := time.ParseInLocation(time.DateOnly, string(due.On), zone)
		if who == person && due.DoneAt.IsZero() && err == nil {
			out = append(out, papers.Event{UID: "due-" + string(due.ID) + "@kaiku", Summary: h.Code + " " + h.Name + ": " + due.What, URL: link("due", string(due.ID)), Day: day})
		}
	}
	return out
}
