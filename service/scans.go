package service

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"time"

	"golang.org/x/time/rate"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// MaxScan is the largest scan that is taken from a laptop, in bytes.
const MaxScan = 16 << 20

// scansBack is how many scans are put together: of every segment the newest two.
const scansBack = 24

// Scan lets this machine look at the home's network, as a job. It tells whom it has seen as it
// goes; when it is stopped, what was seen until then is kept.
func (s *Service) Scan(ctx context.Context, a Actor, code string, in wire.RunScan) (wire.Job, error) {
	d, err := s.Home(ctx, a, "run-scan", code)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site-scan", "code", code)
	}
	what := matching.Wanted{Only: in.Only.Unmap(), Time: time.Duration(in.Seconds) * time.Second}
	if !what.Inside(d) {
		return wire.Job{}, refuse("host-outside", "address", what.Only.String())
	}
	return s.startJob(ctx, a, "scan", code, 0, func(ctx context.Context, j *job) error {
		told := rate.Sometimes{First: 1, Interval: tellEvery} // a scan asks hundreds of questions
		g, err := s.prober.ScanOf(ctx, d, what, func(p matching.Progress) {
			told.Do(func() {
				j.tell(func() { j.Done, j.Of, j.Seen, j.Doing = p.Done, p.Of, p.Hosts, cmp.Or(p.Doing, j.Doing) })
			})
		})
		if err != nil {
			return err
		}
		g.ID, g.By = newID(), a.ID
		return s.keepScan(context.WithoutCancel(ctx), code, g)
	})
}

// AddScan keeps what a laptop in the home has seen. It is checked against the home: nothing
// outside its recorded segments, nothing that no record can hold.
func (s *Service) AddScan(ctx context.Context, a Actor, code string, g matching.Scan) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "add-scan", code)
	if err != nil {
		return wire.Observations{}, err
	}
	if err := g.Check(d); err != nil {
		return wire.Observations{}, refuse("not-readable", "detail", err.Error())
	}
	if g.Ended.After(s.now().Add(clockSlack)) || g.Ended.Before(g.Began) {
		return wire.Observations{}, refuse("not-readable", "detail", "its times are not possible; check the laptop's clock")
	}
	g.By = a.ID
	if err := s.keepScan(ctx, code, g); err != nil {
		return wire.Observations{}, err
	}
	return s.Observations(ctx, a, code)
}

func (s *Service) keepScan(ctx context.Context, code string, g matching.Scan) error {
	id, err := s.store.HomeByCode(ctx, code)
	if err != nil {
		return err
	}
	err = s.store.AddScan(ctx, id, g)
	var taken *store.Taken
	if errors.As(err, &taken) {
		return refuse("taken-elsewhere", "id", taken.Subject.ID, "home", taken.Home)
	}
	if err != nil {
		return err
	}
	d, err := s.store.Load(ctx, id)
	if err == nil {
		err = s.store.Summarise(ctx, d) // what was seen may put proof in doubt
	}
	if err == nil {
		s.feed.publish(wire.Event{Household: code, Revision: d.Revision, By: g.By}) // pages ask again
	}
	return err
}

// tellEvery is how often a scan tells how far it is.
const tellEvery = 150 * time.Millisecond

// beside is a home's observations as they are computed: the scans put together, and each host
// compared with the record.
type beside struct {
	d           *dossier.Dossier
	now, before matching.Scan
	hosts       []matching.Beside
	seenFrom    map[string]time.Time // of each host, the earliest scan that is kept
	said        map[string]string
}

// What was said of hosts is kept under these beginnings.
const (
	identifiedKey = "is "
	ignoredKey    = "ignore "
)

// noneOf is the word for a host that is none of the recorded devices.
const noneOf = "new"

// besides loads the scans of a home and compares them with it.
func (s *Service) besides(ctx context.Context, d *dossier.Dossier) (beside, error) {
	b, err := s.scans(ctx, d)
	if err == nil {
		b.compare()
	}
	return b, err
}

// looks loads the scans of a home and what was said of its hosts, and compares nothing yet.
func (s *Service) scans(ctx context.Context, d *dossier.Dossier) (beside, error) {
	b := beside{d: d}
	id := d.Home().ID
	scans, err := s.store.Scans(ctx, id, scansBack)
	if err != nil {
		return b, err
	}
	if b.said, err = s.store.HostReviews(ctx, id); err != nil {
		return b, err
	}
	for i := range scans {
		scans[i].Fit(d)
	}
	b.now, b.before = matching.Latest(scans)
	b.seenFrom = map[string]time.Time{}
	for _, g := range scans {
		for _, h := range matching.Join(g.Hosts) {
			if key := matching.Key(h); b.seenFrom[key].IsZero() || g.Ended.Before(b.seenFrom[key]) {
				b.seenFrom[key] = g.Ended
			}
		}
	}
	return b, nil
}

// compare holds each host compared with the record.
func (b *beside) compare() {
	chosen := matching.Choice{}
	for what, value := range b.said {
		if key, is := strings.CutPrefix(what, identifiedKey); is {
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

// ignoreKey names a difference across scans, and ignoreValue what was seen: only that is ignored.
func ignoreKey(b matching.Beside, d matching.Difference) string {
	return ignoredKey + b.Key + " " + d.Kind + " " + d.Record.ID + " " + d.Member
}

func ignoreValue(d matching.Difference) string {
	h := fnv.New64a()
	fmt.Fprint(h, wording.SeenValue(d.Seen, nil))
	return fmt.Sprintf("%x", h.Sum64())
}

func (b beside) ignored(h matching.Beside, d matching.Difference) bool {
	return b.said[ignoreKey(h, d)] == ignoreValue(d)
}

// Observations returns what was seen on the network, compared with the record.
func (s *Service) Observations(ctx context.Context, a Actor, code string) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "show-scan", code)
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
	return views.Observations(views.Scanned{Dossier: d, Now: b.now, Before: b.before, Hosts: b.hosts, SeenFrom: b.seenFrom, Ignored: b.ignored,
		Identified: func(h matching.Beside) bool { _, said := b.said[identifiedKey+h.Key]; return said }}, people), nil
}

// sameScan refuses what was decided on another scan than the newest.
func (b beside) sameScan(id string) error {
	if b.now.ID == "" {
		return refuse("no-scan")
	}
	if b.now.ID != id {
		return refuse("scan-changed")
	}
	return nil
}

// RecordSeen writes into the record what was seen: everything that is certain, all of some hosts, or single
// values. What was not seen stays as it was.
func (s *Service) RecordSeen(ctx context.Context, a Actor, code string, in wire.RecordSeen, r Request) (wire.SeenRecorded, error) {
	d, err := s.Home(ctx, a, "record-scan", code)
	if err != nil {
		return wire.SeenRecorded{}, err
	}
	b, err := s.scans(ctx, d)
	if err != nil {
		return wire.SeenRecorded{}, err
	}
	if err := b.sameScan(in.Scan); err != nil {
		return wire.SeenRecorded{}, err
	}
	out := wire.SeenRecorded{Records: []wire.Named{}}
	var made map[string]string // which device each host was made that was new
	w, err := s.write(ctx, a, "record-scan", code, "recorded from a scan", r, func(d *dossier.Dossier) error {
		out.Values, made = 0, map[string]string{}
		b.d = d
		b.compare() // within the door: the home may have changed since the scan
		for _, h := range b.hosts {
			n, device := b.record(d, h, in)
			out.Values += n
			if h.Device == "" && device != "" {
				made[identifiedKey+h.Key] = device
			}
		}
		if out.Values == 0 {
			return refuse("nothing-recorded")
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	// What was recorded from a host is that host, though nothing unique may prove it next time.
	if err := s.store.ReviewHosts(ctx, d.Home().ID, a.ID, made); err != nil {
		return out, err
	}
	out.Revision = w.Dossier.Revision
	for _, e := range w.Entries {
		out.Records = append(out.Records, views.Named(w.Dossier, e.Subject))
	}
	slices.SortFunc(out.Records, func(a, b wire.Named) int { return a.Compare(b.Ref) })
	return out, nil
}

// record writes what is wanted of one host, and returns how many values that were, and the device if
// anything of it was written.
func (b beside) record(d *dossier.Dossier, h matching.Beside, in wire.RecordSeen) (n int, device string) {
	all := slices.Contains(in.Hosts, h.Key)
	written := matching.Take(d, h, func(x matching.Difference) bool {
		wanted := all && !b.ignored(h, x) || in.Certain && x.Certain && !b.ignored(h, x) || slices.Contains(in.Differences, views.DifferenceID(h, x))
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

// ReviewHosts keeps which device a host is, as a person said, and what is ignored.
func (s *Service) ReviewHosts(ctx context.Context, a Actor, code string, in wire.ReviewHosts) (wire.Observations, error) {
	d, err := s.Home(ctx, a, "review-scan", code)
	if err != nil {
		return wire.Observations{}, err
	}
	b, err := s.besides(ctx, d)
	if err != nil {
		return wire.Observations{}, err
	}
	if err := b.sameScan(in.Scan); err != nil {
		return wire.Observations{}, err
	}
	words := map[string]string{}
	for key, value := range in.Identify {
		if _, there := d.Devices.Get(dossier.ID[dossier.Device](value)); !there && value != noneOf && value != "" {
			return wire.Observations{}, refuse("no-such-record", "kind", "device", "id", value)
		}
		if !slices.ContainsFunc(b.hosts, func(h matching.Beside) bool { return h.Key == key }) {
			return wire.Observations{}, refuse("no-such-host", "key", key)
		}
		words[identifiedKey+key] = value
	}
	for _, h := range b.hosts {
		for _, x := range h.Differences {
			id := views.DifferenceID(h, x)
			if slices.Contains(in.Ignore, id) {
				words[ignoreKey(h, x)] = ignoreValue(x)
			}
			if slices.Contains(in.Restore, id) {
				words[ignoreKey(h, x)] = ""
			}
		}
	}
	if err := s.store.ReviewHosts(ctx, d.Home().ID, a.ID, words); err != nil {
		return wire.Observations{}, err
	}
	if err := s.store.Summarise(ctx, d); err != nil {
		return wire.Observations{}, err
	}
	return s.Observations(ctx, a, code)
}
