package service

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"reflect"
	"slices"
	"strings"
	"time"

	"golang.org/x/time/rate"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/wire"
	"kaiku/wording"
)

// MaxGathering is the largest gathering that is taken from a laptop, in bytes.
const MaxGathering = 16 << 20

// looksBack is how many looks are put together: of every segment the newest two.
const looksBack = 24

// Gather lets this machine look at the home's network, as a job. It tells whom it has seen as it
// goes; when it is stopped, what was seen until then is kept.
func (s *Service) Gather(ctx context.Context, a Actor, code string) (wire.Job, error) {
	d, err := s.Home(ctx, a, "gather-observations", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site-look", "code", code)
	}
	return s.startJob(ctx, a, "gather", code, 0, func(ctx context.Context, j *job) error {
		told := rate.Sometimes{First: 1, Interval: tellEvery} // a look asks hundreds of questions
		g, err := s.prober.Gather(ctx, d, func(p matching.Progress) {
			told.Do(func() {
				j.tell(func() { j.Done, j.Of, j.Seen, j.Doing = p.Done, p.Of, p.Hosts, cmp.Or(p.Doing, j.Doing) })
			})
		})
		if err != nil {
			return err
		}
		g.ID, g.By = newID(), a.ID
		return s.keepGathering(context.WithoutCancel(ctx), code, g)
	})
}

// AddGathering keeps what a laptop in the home has seen. It is checked against the home: nothing
// outside its recorded segments, nothing that no record can hold.
func (s *Service) AddGathering(ctx context.Context, a Actor, code string, g matching.Gathering) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "add-gathering", code)
	if err != nil {
		return wire.Observations{}, err
	}
	if err := g.Check(d); err != nil {
		return wire.Observations{}, refuse("not-readable", "detail", err.Error())
	}
	if g.Ended.After(s.now().Add(clockSlack)) || g.Ended.Before(g.Began) {
		return wire.Observations{}, refuse("not-readable", "detail", "it ends before it begins, or in the future: set the laptop's clock")
	}
	g.By = a.ID
	if err := s.keepGathering(ctx, code, g); err != nil {
		return wire.Observations{}, err
	}
	return s.Observations(ctx, a, code)
}

func (s *Service) keepGathering(ctx context.Context, code string, g matching.Gathering) error {
	id, err := s.store.HomeByCode(ctx, code)
	if err != nil {
		return err
	}
	if err := s.store.AddGathering(ctx, id, g); err != nil {
		return err
	}
	d, err := s.store.Load(ctx, id)
	if err == nil {
		s.feed.publish(wire.Event{Household: code, Revision: d.Revision, By: g.By}) // pages ask again
	}
	return err
}

// tellEvery is how often a look tells how far it is.
const tellEvery = 150 * time.Millisecond

// beside is a home's observations as they are computed: the looks put together, and each host
// beside the record.
type beside struct {
	d           *dossier.Dossier
	now, before matching.Gathering
	hosts       []matching.Beside
	said        map[string]string
}

// What was said of hosts is kept under these beginnings.
const (
	saidIs    = "is "
	saidAside = "aside "
)

// noneOf is the word for a host that is none of the recorded devices.
const noneOf = "new"

// besides loads the looks at a home and compares them with it.
func (s *Service) besides(ctx context.Context, d *dossier.Dossier) (beside, error) {
	b, err := s.looks(ctx, d)
	if err == nil {
		b.compare()
	}
	return b, err
}

// looks loads the looks at a home and what was said of its hosts, and compares nothing yet.
func (s *Service) looks(ctx context.Context, d *dossier.Dossier) (beside, error) {
	b := beside{d: d}
	id := d.Home().ID
	looks, err := s.store.Gatherings(ctx, id, looksBack)
	if err != nil {
		return b, err
	}
	if b.said, err = s.store.SaidOfHosts(ctx, id); err != nil {
		return b, err
	}
	for i := range looks {
		looks[i].Fit(d)
	}
	b.now, b.before = matching.Latest(looks)
	return b, nil
}

// compare holds each host beside the record.
func (b *beside) compare() {
	chosen := matching.Choice{}
	for what, value := range b.said {
		if key, is := strings.CutPrefix(what, saidIs); is {
			device := dossier.ID[dossier.Device](value)
			if _, there := b.d.Devices.Get(device); there || value == noneOf {
				chosen[key] = device
			}
			if value == noneOf {
				chosen[key] = ""
			}
		}
	}
	b.hosts = matching.Compare(b.d, b.now, b.before, chosen)
}

// differenceID names a difference within a look.
func differenceID(b matching.Beside, d matching.Difference) string {
	return fmt.Sprintf("%s %d %s", b.Key, d.Place, d.Member)
}

// asideKey names a difference across looks, and asideValue what was seen: set aside is only that.
func asideKey(b matching.Beside, d matching.Difference) string {
	return saidAside + b.Key + " " + d.Kind + " " + d.Record.ID + " " + d.Member
}

func asideValue(d matching.Difference) string {
	h := fnv.New64a()
	fmt.Fprint(h, wording.SeenValue(d.Seen, nil))
	return fmt.Sprintf("%x", h.Sum64())
}

func (b beside) aside(h matching.Beside, d matching.Difference) bool {
	return b.said[asideKey(h, d)] == asideValue(d)
}

// Observations returns what was seen on the network, beside the record.
func (s *Service) Observations(ctx context.Context, a Actor, code string) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "list-observations", code)
	if err != nil {
		return wire.Observations{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.Observations{}, err
	}
	b, err := s.besides(ctx, d)
	if err != nil {
		return wire.Observations{}, err
	}
	return b.observations(people), nil
}

func (b beside) observations(people staff) wire.Observations {
	d := b.d
	out := wire.Observations{Look: b.now.ID, Began: b.now.Began, Ended: b.now.Ended, By: people.name(b.now.By), With: b.now.With, Short: b.now.Short, Before: b.before.Ended,
		Looked: []wire.LookedAt{}, Unseen: []wire.Named{}, Hosts: []wire.Observed{}, Answers: []wire.AskedQuestion{}}
	through := map[dossier.ID[dossier.Segment]]string{}
	for _, l := range b.now.Looked {
		out.Looked = append(out.Looked, wire.LookedAt{Segment: named(d, l.Segment.Ref()), From: l.From, Interface: l.Interface})
		through[l.Segment] = fmt.Sprintf(" from %s by %s", l.From, l.Interface)
	}
	for _, one := range d.Segments {
		if through[one.ID] == "" {
			out.Unseen = append(out.Unseen, named(d, one.ID.Ref()))
		}
	}
	for _, q := range b.now.Asked {
		where := " in segment " + d.Label(q.Segment.Ref()) + through[q.Segment]
		out.Answers = append(out.Answers, wire.AskedQuestion{Way: q.Way, Ended: q.Ended, Sentence: wording.Asked(q, where)})
	}
	say := func(id string) string { return said(d, people, id) }
	for _, h := range b.hosts {
		out.Hosts = append(out.Hosts, b.observed(h, through[h.Host.Segment], say, &out.Counts))
	}
	return out
}

func (b beside) observed(h matching.Beside, through string, say func(string) string, counts *wire.ObservedCounts) wire.Observed {
	d := b.d
	one := wire.Observed{Key: h.Key, Address: h.Host.Address, Segment: named(d, h.Host.Segment.Ref()), Called: h.Host.Called(), Standing: h.Standing, Since: h.Since,
		Changes: wording.SinceBefore(h.Changes), Because: because(h.Match.Reasons), Candidates: []wire.Candidate{}, Differences: []wire.Difference{}, Answers: []wire.AskedQuestion{}}
	if h.Device != "" {
		one.Device = named(d, h.Device.Ref())
		if h.Standing != matching.Unsure {
			one.Called = one.Device.Label
		}
	}
	_, one.Said = b.said[saidIs+h.Key]
	for _, c := range h.Match.Candidates {
		one.Candidates = append(one.Candidates, wire.Candidate{Device: named(d, c.Device.Ref()), Because: because(c.Reasons)})
	}
	open := 0
	for _, x := range h.Differences {
		k := dossier.KindNamed(x.Kind)
		f, _ := k.Field(x.Member)
		diff := wire.Difference{ID: differenceID(h, x), Record: wire.Named{Ref: dossier.Ref{Kind: x.Kind}, Label: k.Noun()}, Member: x.Member, Title: f.Title, Seen: wording.SeenValue(x.Seen, say),
			After: wording.SeenValue(x.After, say), By: x.By, Relation: x.Relation, Sure: x.Sure, Aside: b.aside(h, x)}
		if x.Record.ID != "" {
			diff.Record = wire.Named{Ref: x.Record, Label: strings.TrimSpace(k.Noun() + " " + d.Label(x.Record))}
			if v := reflect.ValueOf(x.Recorded); v.IsValid() && !v.IsZero() {
				diff.Recorded = wording.SeenValue(x.Recorded, say)
			}
		} else if name, ok := h.Host.Seen[x.Place].Members["name"].(string); ok {
			diff.Record.Label = k.Noun() + " " + name
		}
		if x.Relation != matching.Same && !diff.Aside {
			open++
			if x.Sure {
				counts.Sure++
			}
		}
		one.Differences = append(one.Differences, diff)
	}
	if h.Standing == matching.Changed && open == 0 {
		one.Standing, h.Standing = matching.AsRecorded, matching.AsRecorded
	}
	one.Sentence = wording.Beside(h, open, through)
	for _, q := range h.Host.Answers {
		one.Answers = append(one.Answers, wire.AskedQuestion{Way: q.Way, Ended: q.Ended, Sentence: wording.Asked(q, "")})
	}
	switch one.Standing {
	case matching.AsRecorded:
		counts.AsRecorded++
	case matching.Changed:
		counts.Changed++
	case matching.Unknown:
		counts.New++
	case matching.Unsure:
		counts.Unsure++
	case matching.NotSeen:
		counts.NotSeen++
	}
	return one
}

func because(reasons []matching.Reason) []string {
	out := []string{}
	for _, r := range reasons {
		out = append(out, wording.MatchReason(r))
	}
	return out
}

// sameLook refuses what was decided on another look than the newest.
func (b beside) sameLook(id string) error {
	if b.now.ID == "" {
		return refuse("no-look")
	}
	if b.now.ID != id {
		return refuse("look-changed")
	}
	return nil
}

// TakeOver takes over into the record what was seen: all that is sure, all of some hosts, or single
// values. What was not seen stays as it was.
func (s *Service) TakeOver(ctx context.Context, a Actor, code string, in wire.TakeOver, r Request) (wire.TakenOver, error) {
	d, err := s.Home(ctx, a, "take-observations", code)
	if err != nil {
		return wire.TakenOver{}, err
	}
	b, err := s.looks(ctx, d)
	if err != nil {
		return wire.TakenOver{}, err
	}
	if err := b.sameLook(in.Look); err != nil {
		return wire.TakenOver{}, err
	}
	out := wire.TakenOver{Records: []wire.Named{}}
	var made map[string]string // which device each host was made that was new
	w, err := s.write(ctx, a, "take-observations", code, "taken over from what was seen on the network", r, func(d *dossier.Dossier) error {
		out.Values, made = 0, map[string]string{}
		b.d = d
		b.compare() // within the door: the home may have changed since the look
		for _, h := range b.hosts {
			n, device := b.take(d, h, in)
			out.Values += n
			if h.Device == "" && device != "" {
				made[saidIs+h.Key] = device
			}
		}
		if out.Values == 0 {
			return refuse("nothing-taken")
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	// What was recorded from a host is that host, though nothing unique may prove it next time.
	if err := s.store.SayOfHosts(ctx, d.Home().ID, a.ID, made); err != nil {
		return out, err
	}
	for _, e := range w.Entries {
		out.Records = append(out.Records, named(w.Dossier, e.Subject))
	}
	slices.SortFunc(out.Records, func(a, b wire.Named) int { return a.Compare(b.Ref) })
	return out, nil
}

// take writes what is wanted of one host, and returns how many values that were, and the device if
// anything of it was written.
func (b beside) take(d *dossier.Dossier, h matching.Beside, in wire.TakeOver) (n int, device string) {
	all := slices.Contains(in.Hosts, h.Key)
	written := matching.Take(d, h, func(x matching.Difference) bool {
		wanted := all && !b.aside(h, x) || in.Sure && x.Sure && !b.aside(h, x) || slices.Contains(in.Differences, differenceID(h, x))
		if wanted {
			n++
		}
		return wanted
	}, newID)
	for _, ref := range written {
		if ref.Kind != "device" {
			continue
		}
		device = ref.ID
		if v, room := d.Devices.Find(dossier.ID[dossier.Device](ref.ID)), dossier.ID[dossier.Room](in.Rooms[h.Key]); v != nil && room != "" {
			v.Room = room
		}
	}
	return n, device
}

// SayOfHosts keeps which device a host is, by somebody's word, and what is set aside.
func (s *Service) SayOfHosts(ctx context.Context, a Actor, code string, in wire.SayOfHosts) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "say-of-observations", code)
	if err != nil {
		return wire.Observations{}, err
	}
	b, err := s.besides(ctx, d)
	if err != nil {
		return wire.Observations{}, err
	}
	if err := b.sameLook(in.Look); err != nil {
		return wire.Observations{}, err
	}
	words := map[string]string{}
	for key, value := range in.Is {
		if _, there := d.Devices.Get(dossier.ID[dossier.Device](value)); !there && value != noneOf && value != "" {
			return wire.Observations{}, refuse("no-such-record", "kind", "device", "id", value)
		}
		if !slices.ContainsFunc(b.hosts, func(h matching.Beside) bool { return h.Key == key }) {
			return wire.Observations{}, refuse("no-such-host", "key", key)
		}
		words[saidIs+key] = value
	}
	for _, h := range b.hosts {
		for _, x := range h.Differences {
			id := differenceID(h, x)
			if slices.Contains(in.Aside, id) {
				words[asideKey(h, x)] = asideValue(x)
			}
			if slices.Contains(in.Back, id) {
				words[asideKey(h, x)] = ""
			}
		}
	}
	if err := s.store.SayOfHosts(ctx, d.Home().ID, a.ID, words); err != nil {
		return wire.Observations{}, err
	}
	return s.Observations(ctx, a, code)
}
