package service

import (
	"context"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/wire"
	"kaiku/wording"
)

// LookInto looks into a source as devices of the home would, from this Kaiku.
func (s *Service) LookInto(ctx context.Context, a Actor, code, source string, in wire.LookInto) (wire.SourceLook, error) {
	d, err := s.Home(ctx, a, "look-into-source", code)
	if err != nil {
		return wire.SourceLook{}, err
	}
	if s.prober == nil {
		return wire.SourceLook{}, refuse("not-on-site-browse", "code", code)
	}
	id := dossier.ID[dossier.Source](source)
	for _, one := range []dossier.ID[dossier.Source]{id, in.Against} {
		if _, ok := d.Sources.Get(one); !ok && one != "" {
			return wire.SourceLook{}, refuse("no-such-record", "kind", "source", "id", string(one))
		}
	}
	if len(in.As) == 0 {
		in.As = []dossier.ID[dossier.Device]{""}
	}
	var views []matching.View
	for _, as := range in.As {
		v, ok := d.Devices.Get(as)
		switch {
		case !ok && as != "":
			return wire.SourceLook{}, refuse("no-such-record", "kind", "device", "id", string(as))
		case ok && v.Announces == "":
			return wire.SourceLook{}, refuse("not-announced", "device", v.Name)
		}
		view, err := s.prober.View(ctx, d, id, as)
		if err != nil {
			return wire.SourceLook{}, err
		}
		views = append(views, view)
	}
	var against *matching.View
	if in.Against != "" {
		other, err := s.prober.View(ctx, d, in.Against, "")
		if err != nil {
			return wire.SourceLook{}, err
		}
		against = &other
	}
	return wire.SourceLookOf(d, views, against, func(q matching.Question) string { return wording.Asked(q, "") }), nil
}
