package service

import (
	"context"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/matching"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// Forecast says what of a home's folders plays on which device.
func (s *Service) Forecast(ctx context.Context, a Actor, code string) (wire.Forecast, error) {
	h, err := s.read(ctx, a, "show-forecast", code)
	if err != nil {
		return wire.Forecast{}, err
	}
	return views.Forecast(h), nil
}

// Load says what a home's paths ask of its network.
func (s *Service) Load(ctx context.Context, a Actor, code string) (wire.Load, error) {
	h, err := s.read(ctx, a, "show-load", code)
	if err != nil {
		return wire.Load{}, err
	}
	return views.Load(h), nil
}

// LoadTogether says what paths that somebody names ask of the network when they are in use at once.
func (s *Service) LoadTogether(ctx context.Context, a Actor, code string, paths []string) (wire.LoadCase, error) {
	h, err := s.read(ctx, a, "show-load-together", code)
	if err != nil {
		return wire.LoadCase{}, err
	}
	var ids []dossier.ID[dossier.Path]
	for _, one := range paths {
		id := dossier.ID[dossier.Path](one)
		if _, ok := h.Paths.Get(id); !ok {
			return wire.LoadCase{}, refuse("no-such-record", "kind", "path", "id", one)
		}
		ids = append(ids, id)
	}
	return views.LoadCase(h, load.Together(h.Index, h.Now.Location(), ids)), nil
}

// Proposal says by which ways a device could get what is wished for.
func (s *Service) Proposal(ctx context.Context, a Actor, code, device string) (wire.Proposal, error) {
	h, err := s.read(ctx, a, "propose-paths", code)
	if err != nil {
		return wire.Proposal{}, err
	}
	v, ok := h.Devices.Get(dossier.ID[dossier.Device](device))
	if !ok {
		return wire.Proposal{}, refuse("no-such-record", "kind", "device", "id", device)
	}
	return views.Proposal(h, v), nil
}

// Openings says what the firewalls of a home have to let in for its paths.
func (s *Service) Openings(ctx context.Context, a Actor, code string) (wire.Openings, error) {
	h, err := s.read(ctx, a, "show-openings", code)
	if err != nil {
		return wire.Openings{}, err
	}
	b, err := s.besides(ctx, h.Dossier)
	if err != nil {
		return wire.Openings{}, err
	}
	return views.Openings(h, b.hosts), nil
}

// BrowseSource looks into a source as devices of the home would, from this Kaiku.
func (s *Service) BrowseSource(ctx context.Context, a Actor, code, source string, in wire.BrowseSource) (wire.SourceBrowse, error) {
	d, err := s.Home(ctx, a, "browse-source", code)
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	if s.prober == nil {
		return wire.SourceBrowse{}, refuse("not-on-site-browse", "code", code)
	}
	id := dossier.ID[dossier.Source](source)
	for _, one := range []dossier.ID[dossier.Source]{id, in.Against} {
		if _, ok := d.Sources.Get(one); !ok && one != "" {
			return wire.SourceBrowse{}, refuse("no-such-record", "kind", "source", "id", string(one))
		}
	}
	for _, as := range in.As {
		switch v, ok := d.Devices.Get(as); {
		case !ok:
			return wire.SourceBrowse{}, refuse("no-such-record", "kind", "device", "id", string(as))
		case v.Announces == "":
			return wire.SourceBrowse{}, refuse("not-announced", "device", v.Name)
		}
	}
	seen, unknown, against, err := in.Views(id, func(source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error) {
		return s.prober.View(ctx, d, source, as)
	})
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	return wire.SourceBrowseOf(d, seen, unknown, against, wire.Sayings{Asked: wording.Browsed, Recognised: wording.Recognised}), nil
}

// RoomCard says of a room what is there, how to watch, and what of that is proven.
func (s *Service) RoomCard(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Room]) (wire.RoomCard, error) {
	h, err := s.read(ctx, a, "show-room-card", code)
	if err != nil {
		return wire.RoomCard{}, err
	}
	room, ok := h.Rooms.Get(id)
	if !ok {
		return wire.RoomCard{}, refuse("no-such-record", "kind", "room", "id", string(id))
	}
	return views.RoomCard(h, room), nil
}

// Wakings says which machines have to be awake for a home's paths to work, and what has to wake them.
func (s *Service) Wakings(ctx context.Context, a Actor, code string) ([]wire.Waking, error) {
	h, err := s.read(ctx, a, "list-waking", code)
	if err != nil {
		return nil, err
	}
	return views.Wakings(h), nil
}

// BothEnds holds the ends of a home's paths against each other and against what the latest scan saw.
func (s *Service) BothEnds(ctx context.Context, a Actor, code string) (wire.BothEnds, error) {
	d, err := s.Home(ctx, a, "show-ends", code)
	if err != nil {
		return wire.BothEnds{}, err
	}
	b, err := s.besides(ctx, d)
	if err != nil {
		return wire.BothEnds{}, err
	}
	return views.BothEnds(d.Index(), b.now, b.hosts), nil
}
