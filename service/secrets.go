package service

import (
	"context"
	"errors"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
)

// AddSecret seals a credential and records what it is for.
func (s *Service) AddSecret(ctx context.Context, a Actor, code string, in wire.NewSecret, r Request) (dossier.Secret, error) {
	body, err := s.seal(ctx, a, "add-secret", code, in.Body)
	if err != nil {
		return dossier.Secret{}, err
	}
	made := dossier.Secret{Name: in.Name, Kind: in.Kind, Device: in.Device, Segment: in.Segment, Note: in.Note, SealedAs: body, SealedAt: dossier.At(s.now())}
	stored, _, err := s.add(ctx, a, code, Change{Kind: dossier.KindNamed("secret"), ID: string(in.ID), Record: &made}, r)
	if err != nil {
		return dossier.Secret{}, err
	}
	return stored.(dossier.Secret), nil
}

// seal stores a body before the door opens, for who may.
func (s *Service) seal(ctx context.Context, a Actor, operation, code, body string) (string, error) {
	if _, err := s.Home(ctx, a, operation, code); err != nil {
		return "", err
	}
	id := newID()
	return id, s.store.Seal(ctx, id, []byte(body))
}

// RotateSecret replaces a credential by a new one.
func (s *Service) RotateSecret(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Secret], in wire.SecretBody, r Request) (dossier.Secret, error) {
	body, err := s.seal(ctx, a, "rotate-secret", code, in.Body)
	if err != nil {
		return dossier.Secret{}, err
	}
	w, err := s.write(ctx, a, "rotate-secret", code, in.Why, r, func(d *dossier.Dossier) error {
		secret := d.Secrets.Find(id)
		if secret == nil {
			return refuse("no-such-record", "kind", "secret", "id", string(id))
		}
		secret.SealedAs, secret.SealedAt = body, dossier.At(s.now())
		return nil
	})
	if err != nil {
		return dossier.Secret{}, err
	}
	now, _ := w.Dossier.Secrets.Get(id)
	return now, nil
}

// RevealSecret shows a credential for a reason; the journal keeps who looked, when and why. What
// is shown is read before, so that a key that does not fit leaves no showing behind.
func (s *Service) RevealSecret(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Secret], why string) (wire.SecretShown, error) {
	d, err := s.Home(ctx, a, "reveal-secret", code)
	if err != nil {
		return wire.SecretShown{}, err
	}
	secret, ok := d.Secrets.Get(id)
	if !ok {
		return wire.SecretShown{}, refuse("no-such-record", "kind", "secret", "id", string(id))
	}
	body, err := s.store.Unseal(ctx, secret.SealedAs)
	if errors.Is(err, store.ErrKey) || errors.Is(err, store.ErrNotFound) {
		return wire.SecretShown{}, refuse("not-sealed-here", "name", secret.Name)
	}
	if err != nil {
		return wire.SecretShown{}, err
	}
	_, err = s.write(ctx, a, "reveal-secret", code, why, Request{}, func(d *dossier.Dossier) error {
		now := d.Secrets.Find(id)
		if now == nil || now.SealedAs != secret.SealedAs {
			return refuse("record-changed", "label", secret.Name, "by", "somebody")
		}
		now.ShownAt, now.ShownTo = dossier.At(s.now()), a.ID
		return nil
	})
	return wire.SecretShown{Name: secret.Name, Body: string(body)}, err
}
