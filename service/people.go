package service

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
)

// hashing follows RFC 9106's second recommendation scaled to a small machine: 19 MiB, two passes.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// nobody is verified against when a log-in name does not exist, so that it takes as long.
var nobody, _ = argon2id.CreateHash("nobody", hashing)

// SessionTime is how long a log-in lasts.
const SessionTime = 30 * 24 * time.Hour

// LogIn checks a password, and the code of the second factor where there is one, and begins a session. Of one
// address and of one name from one address, wrong tries are slowed down.
func (s *Service) LogIn(ctx context.Context, from string, in wire.LogIn) (wire.Session, error) {
	of := []by{{"log-in " + in.Login + " from " + from, 5}, {"log-in from " + from, 40}}
	if wait := s.patience.try(s.now(), of...); wait > 0 {
		return wire.Session{}, tooMany("too-many-tries", wait)
	}
	p, err := s.store.PersonByLogin(ctx, in.Login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return wire.Session{}, err
	}
	hash := p.PasswordHash
	if err != nil {
		hash = nobody
	}
	fits, checkErr := s.fits(ctx, in.Password, hash)
	if checkErr != nil {
		return wire.Session{}, checkErr
	}
	if err != nil || !fits || p.SuspendedAt != nil {
		return wire.Session{}, refuse("wrong-login")
	}
	if p.SecondFactor != nil {
		if in.Code == "" {
			return wire.Session{}, refuse("code-needed")
		}
		if err := s.spendCode(ctx, p.ID, in.Code); err != nil {
			return wire.Session{}, err
		}
	}
	s.patience.right(of...)
	return s.begin(ctx, p, in.Client, "")
}

// fits reports whether a password is the one of the hash. Few are checked at once.
func (s *Service) fits(ctx context.Context, password, hash string) (bool, error) {
	done, err := s.hashing(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	return argon2id.ComparePasswordAndHash(password, hash)
}

// hashed returns the hash of a password.
func (s *Service) hashed(ctx context.Context, password string) (string, error) {
	done, err := s.hashing(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(password, hashing)
}

// logInAs begins a session of a person who has been identified by other means.
func (s *Service) logInAs(ctx context.Context, id dossier.PersonID, client, madeBy string) (wire.Session, error) {
	p, err := s.store.PersonByID(ctx, id)
	if err != nil {
		return wire.Session{}, err
	}
	if p.SuspendedAt != nil {
		return wire.Session{}, refuse("code-ended")
	}
	return s.begin(ctx, p, client, madeBy)
}

func (s *Service) begin(ctx context.Context, p store.Person, client, madeBy string) (wire.Session, error) {
	token := rand.Text() + rand.Text()
	session := store.Session{Hash: TokenHash(token), PersonID: p.ID, Name: client, ID: newID(), Kind: store.LogIn}
	until, err := s.store.AddSession(ctx, session, s.now().Add(SessionTime), madeBy)
	if errors.Is(err, store.ErrNotFound) { // suspended, or logged out, at this moment
		return wire.Session{}, refuse("code-ended")
	}
	if err != nil {
		return wire.Session{}, err
	}
	out := s.session(p)
	out.Token, out.Until = token, dossier.At(until)
	return out, nil
}

// TokenHash is the form in which a token is kept: its SHA-256.
func TokenHash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Actor returns who holds the token; the zero Actor when nobody does.
func (s *Service) Actor(ctx context.Context, token string) (Actor, error) {
	if token == "" {
		return Actor{}, nil
	}
	hash := TokenHash(token)
	p, err := s.store.PersonBySession(ctx, hash)
	if errors.Is(err, store.ErrNotFound) {
		return Actor{}, nil
	}
	a := s.actor(p)
	a.Session = hash
	if s.missesFactor(p) {
		kind, err := s.store.SessionKind(ctx, hash)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return Actor{}, err
		}
		a.Enrols = kind == store.LogIn
	}
	return a, err
}

func (s *Service) actor(p store.Person) Actor {
	return Actor{ID: p.ID, Name: p.Name, Role: Role(p.Role), Now: s.now()}
}

// SessionsEnded returns a channel that is closed when sessions may have ended; see Holds.
func (s *Service) SessionsEnded() <-chan struct{} { return s.store.SessionsEnded() }

// Holds reports whether the token still lets its holder in.
func (s *Service) Holds(ctx context.Context, token string) bool {
	a, err := s.Actor(ctx, token)
	return err == nil && a.ID != "" && a.MayNow("follow-events") == nil
}

// LogOut ends the session of the token.
func (s *Service) LogOut(ctx context.Context, token string) error {
	return s.store.EndSession(ctx, TokenHash(token))
}

// WhoAmI returns the actor as others see them.
func (s *Service) WhoAmI(ctx context.Context, a Actor) (wire.Session, error) {
	if err := a.require("whoami", nil, nil); err != nil {
		return wire.Session{}, err
	}
	p, err := s.store.PersonByID(ctx, a.ID)
	return s.session(p), err
}

// People lists the firm.
func (s *Service) People(ctx context.Context, a Actor) ([]wire.Person, error) {
	if err := a.require("list-people", nil, nil); err != nil {
		return nil, err
	}
	all, err := s.store.People(ctx)
	out := make([]wire.Person, len(all))
	for i, p := range all {
		out[i] = personOf(p)
	}
	return out, err
}

// session describes the session of a person who is logged in.
func (s *Service) session(p store.Person) wire.Session {
	factor := wire.FactorOff
	switch {
	case p.SecondFactor != nil:
		factor = wire.FactorOn
	case s.missesFactor(p):
		factor = wire.FactorNeeded
	}
	return wire.Session{Person: personOf(p), OnSite: s.OnSite(), Filters: wire.Filters(), Notice: s.Notice(), SecondFactor: factor}
}

// AddPerson adds someone to the firm, from the machine itself rather than over the network.
func (s *Service) AddPerson(ctx context.Context, login, name string, role Role, password string) (wire.Person, error) {
	hash, err := s.hashed(ctx, password)
	if err != nil {
		return wire.Person{}, fmt.Errorf("hash password: %w", err)
	}
	p := store.Person{ID: dossier.PersonID(newID()), Login: login, Name: name, Role: string(role), PasswordHash: hash}
	return personOf(p), s.store.AddPerson(ctx, p)
}

func personOf(p store.Person) wire.Person {
	return wire.Person{ID: p.ID, Login: p.Login, Name: p.Name, Role: p.Role, Suspended: p.SuspendedAt != nil}
}

// staff returns the people of the firm.
func (s *Service) staff(ctx context.Context) (views.People, error) {
	all, err := s.store.People(ctx)
	out := make(views.People, len(all))
	for i, p := range all {
		out[i] = personOf(p)
	}
	return out, err
}

// personNamed finds a person by id, log-in name or name.
func personNamed(people views.People, who string) (wire.Person, error) {
	for _, p := range people {
		if string(p.ID) == who || strings.EqualFold(p.Login, who) || strings.EqualFold(p.Name, who) {
			return p, nil
		}
	}
	return wire.Person{}, refuse("no-such-person", "name", who)
}

// receiver finds who can be answerable for a home.
func receiver(people views.People, who string) (wire.Person, error) {
	p, err := personNamed(people, who)
	if err != nil {
		return p, err
	}
	if Role(p.Role) == Observer || p.Suspended {
		return p, refuse("no-receiver", "name", p.Name)
	}
	return p, nil
}

// First makes the first coordinator of a new firm and returns the password, which is to be shown; FirstShown says
// that it was. Where a start ended between the two, the coordinator is given another one.
func (s *Service) First(ctx context.Context) (password string, err error) {
	p, err := s.store.FirstNotShown(ctx)
	isNew := errors.Is(err, store.ErrNotFound)
	if err != nil && !isNew {
		return "", err
	}
	if isNew {
		all, err := s.store.People(ctx)
		if err != nil || len(all) > 0 {
			return "", err
		}
	}
	password = newPassword()
	hash, err := s.hashed(ctx, password)
	if err != nil {
		return "", err
	}
	if isNew {
		_, err = s.store.AddFirst(ctx, store.Person{ID: dossier.PersonID(newID()), Login: "coordinator", Name: "Coordinator", Role: string(Coordinator), PasswordHash: hash})
		return password, err
	}
	_, err = s.store.ChangePerson(ctx, p.ID, func(p *store.Person, _ []store.Person) (bool, error) {
		p.PasswordHash = hash
		return true, nil
	})
	return password, err
}

// FirstShown says that the password of the first coordinator has been shown.
func (s *Service) FirstShown(ctx context.Context) error { return s.store.FirstShown(ctx) }

// Rescue makes somebody a coordinator who can log in, from the machine itself: the person with that log-in name, or
// a new one. The password is shown once; a suspension and a second factor end.
func (s *Service) Rescue(ctx context.Context, login string) (wire.PersonMade, error) {
	password := newPassword()
	hash, err := s.hashed(ctx, password)
	if err != nil {
		return wire.PersonMade{}, err
	}
	p, err := s.store.PersonByLogin(ctx, login)
	if errors.Is(err, store.ErrNotFound) {
		p = store.Person{ID: dossier.PersonID(newID()), Login: login, Name: login, Role: string(Coordinator), PasswordHash: hash}
		return wire.PersonMade{Person: personOf(p), Password: password}, s.store.AddPerson(ctx, p)
	}
	if err != nil {
		return wire.PersonMade{}, err
	}
	p, err = s.store.ChangePerson(ctx, p.ID, func(p *store.Person, _ []store.Person) (bool, error) {
		p.Role, p.PasswordHash, p.SuspendedAt, p.SecondFactor, p.SecondFactorStep = string(Coordinator), hash, nil, nil, 0
		return true, nil
	})
	return wire.PersonMade{Person: personOf(p), Password: password}, err
}
