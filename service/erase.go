package service

import (
	"context"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
)

// ErasePersonal overwrites a home's personal data for good: contacts, address, access notes, who
// reported an issue, log-in names, whom a restriction is for. It cannot be undone. Notes in free
// text, photographs, and backups taken before are left to people.
func (s *Service) ErasePersonal(ctx context.Context, a Actor, code string, in wire.Erase, r Request) (wire.ErasedData, error) {
	d, err := s.Home(ctx, a, "erase-personal", code)
	if err != nil {
		return wire.ErasedData{}, err
	}
	if in.Code != code {
		return wire.ErasedData{}, refuse("erase-other", "typed", in.Code, "code", code)
	}
	at := dossier.At(s.now())
	w, err := s.store.Erase(ctx, d.Home().ID, store.Cause{Actor: a.ID, Why: in.Why, Key: r.Key, RequestHash: r.Hash}, func(d *dossier.Dossier) error {
		if err := a.require("erase-personal", d, nil); err != nil {
			return err
		}
		before := d.Clone()
		d.Household[0].ErasedAt = at
		custody.Outdate(before, d, func(h *dossier.Handover) { h.EndedAt = at })
		return nil
	})
	s.tellOf(w, a)
	return wire.ErasedData{At: at, Records: max(0, len(w.Entries))}, err
}
