package service

import (
	"context"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// ErasePersonal overwrites a home's personal data for good: contacts, address, access notes, who
// reported an issue, log-in names, whom a restriction is for. It cannot be undone. Notes in free
// text, photographs, and backups taken before are left to people.
func (s *Service) ErasePersonal(ctx context.Context, a Actor, code string, in wire.Erase, r Request) (wire.ErasedData, error) {
	at := dossier.At(s.now())
	w, err := s.writeBy(ctx, s.store.Erase, a, "erase-personal", code, in.Why, r, func(d *dossier.Dossier) error {
		if in.Code != code {
			return refuse("erase-other", "typed", in.Code, "code", code)
		}
		d.Household[0].ErasedAt = at
		return nil
	})
	return wire.ErasedData{At: at, Records: len(w.Entries)}, err
}
