package service

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
	"github.com/pquerna/otp/totp"

	"kaiku/core/dossier"
	"kaiku/papers"
	"kaiku/store"
	"kaiku/wire"
)

// A code is one of six digits for each half minute; one before and one after are taken too, since clocks differ
// (RFC 6238, sections 4.1 and 5.2).
const (
	factorPeriod = 30 // seconds
	factorSkew   = 1
)

// missesFactor reports whether the firm asks the person for a second factor, and there is none yet.
func (s *Service) missesFactor(p store.Person) bool {
	return p.SecondFactor == nil && slices.Contains(s.factorFor, Role(p.Role))
}

// enrolling are the operations that are open to somebody who has to set up a second factor first.
var enrolling = []string{"whoami", "log-out", "offer-second-factor", "set-second-factor", "change-password", "list-logins", "end-login", "list-kinds", "list-people"}

// MayNow refuses an operation to somebody who has to set up a second factor before anything else.
func (a Actor) MayNow(operation string) error {
	if a.Enrols && !slices.Contains(enrolling, operation) {
		return refuse("second-factor-needed")
	}
	return nil
}

// OfferSecondFactor makes a secret for the program that is to show codes. Nothing is kept of it until a code made
// with it is sent back.
func (s *Service) OfferSecondFactor(ctx context.Context, a Actor) (wire.SecondFactorOffer, error) {
	if err := a.require("offer-second-factor", nil, nil); err != nil {
		return wire.SecondFactorOffer{}, err
	}
	p, err := s.store.PersonByID(ctx, a.ID)
	if err != nil {
		return wire.SecondFactorOffer{}, err
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Kaiku", AccountName: p.Login, Period: factorPeriod, SecretSize: 20})
	if err != nil {
		return wire.SecondFactorOffer{}, err
	}
	qr, err := papers.QR(key.URL())
	return wire.SecondFactorOffer{Secret: key.Secret(), Address: key.URL(), QR: qr}, err
}

// SetSecondFactor keeps the secret of an offer from which a code has been made. Other log-ins end: they were made
// without it.
func (s *Service) SetSecondFactor(ctx context.Context, a Actor, in wire.SetSecondFactor) error {
	if err := a.require("set-second-factor", nil, nil); err != nil {
		return err
	}
	if err := s.ownPassword(ctx, a, in.Password); err != nil {
		return err
	}
	step, ok := stepOf(in.Code, in.Secret, s.now(), 0)
	if !ok {
		return refuse("wrong-code")
	}
	sealed, err := s.store.SealFor(store.SecondFactorOf(a.ID), []byte(in.Secret))
	if err != nil {
		return err
	}
	_, err = s.changePerson(ctx, a, "set-second-factor", a.ID, func(p *store.Person) bool {
		p.SecondFactor, p.SecondFactorStep = sealed, step
		return false
	})
	if err != nil {
		return err
	}
	return s.store.EndOtherLogIns(ctx, a.ID, a.Session)
}

// RemoveSecondFactor takes one's own second factor away.
func (s *Service) RemoveSecondFactor(ctx context.Context, a Actor, in wire.RemoveSecondFactor) error {
	if err := a.require("remove-second-factor", nil, nil); err != nil {
		return err
	}
	if err := s.ownPassword(ctx, a, in.Password); err != nil {
		return err
	}
	if err := s.spendCode(ctx, a.ID, in.Code); err != nil {
		return err
	}
	_, err := s.changePerson(ctx, a, "remove-second-factor", a.ID, func(p *store.Person) bool {
		p.SecondFactor, p.SecondFactorStep = nil, 0
		return false
	})
	return err
}

// ownPassword checks the password of somebody who is logged in, with patience.
func (s *Service) ownPassword(ctx context.Context, a Actor, password string) error {
	p, err := s.store.PersonByID(ctx, a.ID)
	if err != nil {
		return err
	}
	of := by{"password of " + string(a.ID), 5}
	if wait := s.patience.try(s.now(), of); wait > 0 {
		return tooMany("too-many-tries", wait)
	}
	fits, err := s.fits(ctx, password, p.PasswordHash)
	if err != nil {
		return err
	}
	if !fits {
		return refuse("wrong-password")
	}
	s.patience.right(of)
	return nil
}

// spendCode takes a code of a person's second factor, each only once.
func (s *Service) spendCode(ctx context.Context, id dossier.PersonID, code string) error {
	_, err := s.store.ChangePerson(ctx, id, func(p *store.Person, _ []store.Person) (bool, error) {
		secret, err := s.store.OpenFor(store.SecondFactorOf(id), p.SecondFactor)
		if errors.Is(err, store.ErrKey) {
			return false, refuse("second-factor-lost")
		}
		if err != nil {
			return false, err
		}
		step, ok := stepOf(code, string(secret), s.now(), p.SecondFactorStep)
		if !ok {
			return false, refuse("wrong-code")
		}
		p.SecondFactorStep = step
		return false, nil
	})
	return err
}

// stepOf returns the time step of a code, if it is one of now and of none up to the last that was taken.
func stepOf(code, secret string, now time.Time, last int64) (int64, bool) {
	at := now.Unix() / factorPeriod
	for step := max(at-factorSkew, last+1); step <= at+factorSkew; step++ {
		fits, err := hotp.ValidateCustom(code, uint64(step), secret, hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err == nil && fits {
			return step, true
		}
	}
	return 0, false
}
