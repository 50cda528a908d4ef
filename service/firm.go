package service

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
	"kaiku/wording"
)

// newPassword is for handing over once: easy to read out, hard to guess (80 bits).
func newPassword() string {
	return strings.ToLower(rand.Text()[:16])
}

// NewPerson adds someone to the firm, with a password that is shown only once.
func (s *Service) NewPerson(ctx context.Context, a Actor, in wire.NewPerson) (wire.PersonMade, error) {
	if err := a.require("add-person", nil, nil); err != nil {
		return wire.PersonMade{}, err
	}
	password := newPassword()
	p, err := s.AddPerson(ctx, in.Login, in.Name, Role(in.Role), password)
	if errors.Is(err, store.ErrTaken) {
		return wire.PersonMade{}, refuse("login-taken", "name", in.Login)
	}
	return wire.PersonMade{Person: p, Password: password}, err
}

// ChangePerson changes name, role or suspension. A person who is suspended, or becomes an observer, hands
// on every home held; all log-ins of a suspended person end.
func (s *Service) ChangePerson(ctx context.Context, a Actor, id dossier.PersonID, in wire.PersonChange) (wire.Person, error) {
	if err := a.require("change-person", nil, nil); err != nil {
		return wire.Person{}, err
	}
	p, err := s.store.PersonByID(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return wire.Person{}, refuse("no-such-person", "name", string(id))
	}
	if err != nil {
		return wire.Person{}, err
	}
	leaves := in.Suspended != nil && *in.Suspended
	demoted := in.Role != "" && in.Role != p.Role
	if id == a.ID && (leaves || demoted) {
		return wire.Person{}, refuse("yourself")
	}
	if leaves || demoted && Role(in.Role) == Observer {
		if err := s.handOn(ctx, a, p, in.HandOnTo); err != nil {
			return wire.Person{}, err
		}
	}
	p, err = s.changePerson(ctx, a, "change-person", id, func(p *store.Person) bool {
		p.Name, p.Role = cmp.Or(in.Name, p.Name), cmp.Or(in.Role, p.Role)
		if in.Suspended != nil {
			p.SuspendedAt = nil
			if leaves {
				at := s.now().UTC().Format(time.RFC3339)
				p.SuspendedAt = &at
			}
		}
		return leaves
	})
	return personOf(p), err
}

// changePerson changes a person if the actor still may at that moment: two coordinators who suspend each other at
// once do not leave the firm without one.
func (s *Service) changePerson(ctx context.Context, a Actor, operation string, id dossier.PersonID, change func(*store.Person) (endSessions bool)) (store.Person, error) {
	p, err := s.store.ChangePerson(ctx, id, func(p *store.Person, firm []store.Person) (bool, error) {
		i := slices.IndexFunc(firm, func(p store.Person) bool { return p.ID == a.ID })
		if i < 0 || firm[i].SuspendedAt != nil {
			return false, refuse("not-logged-in")
		}
		if err := s.actor(firm[i]).require(operation, nil, nil); err != nil {
			return false, err
		}
		return change(p), nil
	})
	if errors.Is(err, store.ErrNotFound) {
		return p, refuse("no-such-person", "name", string(id))
	}
	return p, err
}

// handOn assigns every home that someone holds to the person who takes over.
func (s *Service) handOn(ctx context.Context, a Actor, p store.Person, to string) error {
	held, err := s.store.HeldBy(ctx, p.ID)
	if err != nil || len(held) == 0 {
		return err
	}
	if to == "" {
		return refuse("homes-held", "name", p.Name, "n", wording.Count(len(held), "home"))
	}
	for _, h := range held {
		if err := s.Assign(ctx, a, h.Code, wire.Assign{To: to, Why: p.Name + " leaves"}, Request{}); err != nil {
			return err
		}
	}
	return nil
}

// ResetPerson gives someone a new password, which is shown only once, takes the second factor away, and ends all
// log-ins.
func (s *Service) ResetPerson(ctx context.Context, a Actor, id dossier.PersonID) (wire.PersonMade, error) {
	if err := a.require("reset-person", nil, nil); err != nil {
		return wire.PersonMade{}, err
	}
	password := newPassword()
	p, err := s.setPassword(ctx, a, "reset-person", id, password, func(p *store.Person) { p.SecondFactor, p.SecondFactorStep = nil, 0 })
	if err != nil {
		return wire.PersonMade{}, err
	}
	return wire.PersonMade{Person: personOf(p), Password: password}, nil
}

// ChangePassword changes one's own password; every log-in ends, also the one that asks.
func (s *Service) ChangePassword(ctx context.Context, a Actor, in wire.NewPassword) error {
	if err := a.require("change-password", nil, nil); err != nil {
		return err
	}
	p, err := s.store.PersonByID(ctx, a.ID)
	if err != nil {
		return err
	}
	if err := s.ownPassword(ctx, a, in.Old); err != nil {
		return err
	}
	if fault := passwordFault(in.New, p); fault != "" {
		return dossier.Faults{{Pointer: "/new", Code: dossier.FaultCode(fault)}}
	}
	_, err = s.setPassword(ctx, a, "change-password", a.ID, in.New, func(*store.Person) {})
	return err
}

// setPassword sets a password and ends every log-in.
func (s *Service) setPassword(ctx context.Context, a Actor, operation string, id dossier.PersonID, password string, further func(*store.Person)) (store.Person, error) {
	hash, err := s.hashed(ctx, password)
	if err != nil {
		return store.Person{}, err
	}
	return s.changePerson(ctx, a, operation, id, func(p *store.Person) bool {
		p.PasswordHash = hash
		further(p)
		return true
	})
}

// LogIns lists one's own log-ins and tokens; token is the one that asks.
func (s *Service) LogIns(ctx context.Context, a Actor, token string) ([]wire.LogInRow, error) {
	if err := a.require("list-logins", nil, nil); err != nil {
		return nil, err
	}
	all, err := s.store.Sessions(ctx, a.ID)
	out := make([]wire.LogInRow, len(all))
	for i, one := range all {
		out[i] = wire.LogInRow{ID: one.ID, Kind: one.Kind, Name: one.Name, Began: one.Created(), Ends: one.Expires(), Current: one.Hash == TokenHash(token)}
	}
	return out, err
}

// EndLogIn ends one of one's own log-ins or tokens; one that has ended already is not an error.
func (s *Service) EndLogIn(ctx context.Context, a Actor, id string) error {
	if err := a.require("end-login", nil, nil); err != nil {
		return err
	}
	return s.store.EndSessions(ctx, a.ID, id)
}

// NewToken makes a token for a program of one's own, which is shown only once. One that a token makes lasts no
// longer than that token.
func (s *Service) NewToken(ctx context.Context, a Actor, in wire.NewToken) (wire.TokenMade, error) {
	if err := a.require("add-token", nil, nil); err != nil {
		return wire.TokenMade{}, err
	}
	token := rand.Text() + rand.Text()
	until := s.now().AddDate(0, 0, in.Days)
	until, err := s.store.AddSession(ctx, store.Session{Hash: TokenHash(token), PersonID: a.ID, Name: in.Name, ID: newID(), Kind: store.Token}, until, a.Session)
	if err != nil {
		return wire.TokenMade{}, endedMeanwhile(err)
	}
	return wire.TokenMade{Token: token, Ends: dossier.At(until)}, nil
}

// endedMeanwhile turns it into a refusal that the log-in that asks has ended at this moment.
func endedMeanwhile(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return refuse("not-logged-in")
	}
	return err
}
