package service

import (
	"context"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// mostDays is how many days of a home's history are worked out.
const mostDays = 60

// Coverage says how the proof of a home came about, room by room, over the days on which something was written.
func (s *Service) Coverage(ctx context.Context, a Actor, code string) (wire.CoverageHistory, error) {
	h, err := s.read(ctx, a, "show-coverage", code)
	if err != nil {
		return wire.CoverageHistory{}, err
	}
	entries, err := s.store.Journal(ctx, h.Home().ID, store.JournalQuery{})
	if err != nil {
		return wire.CoverageHistory{}, err
	}
	out := wire.CoverageHistory{Rooms: []wire.Named{}, Days: []wire.CoverageDay{}}
	then, from := &dossier.Dossier{}, 0
	rooms := map[string]int{}
	now := s.now()
	for _, end := range assess.DaysEnds(entries, now, mostDays) {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		if err := dossier.Apply(then, entries[from:end+1]); err != nil {
			return out, err
		}
		from = end + 1
		last := entries[end]
		y, m, day := last.At.In(now.Location()).Date()
		at := time.Date(y, m, day, 23, 59, 59, 0, now.Location())
		if at.After(now) {
			at = now
		}
		one := wire.CoverageDay{At: dossier.At(last.At), Revision: last.Revision, Rooms: []wire.CoverageRoom{}}
		for _, r := range assess.CoverageOf(then.Clone(), h.Knowledge, at) {
			n, seen := rooms[string(r.Room)]
			if !seen {
				n = len(out.Rooms)
				rooms[string(r.Room)] = n
				out.Rooms = append(out.Rooms, views.RoomThen(h.Dossier, then, r.Room))
			}
			one.Rooms = append(one.Rooms, wire.CoverageRoom{Room: n, Coverage: r.Coverage})
		}
		out.Days = append(out.Days, one)
	}
	return out, nil
}
