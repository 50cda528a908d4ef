package store

import (
	"context"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"

	"kaiku/core/dossier"
)

// Person is someone of the firm.
type Person struct {
	ID           dossier.PersonID
	Login        string
	Name         string
	Role         string
	PasswordHash string
	SuspendedAt  *string
	CreatedAt    string

	SecondFactor     []byte // the secret of the second factor, sealed; nil where there is none
	SecondFactorStep int64  // the time step of the last code that was taken
}

// AddPerson stores a new person. ErrTaken when the log-in name is in use.
func (s *Store) AddPerson(ctx context.Context, p Person) error {
	p.CreatedAt = s.now().UTC().Format(timeLayout)
	return asStoreError(s.writer.WithContext(ctx).Table("people").Create(&p).Error)
}

// People lists everyone in the order of their names.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	var out []Person
	err := s.reader.WithContext(ctx).Table("people").Order("name, id").Find(&out).Error
	return out, asStoreError(err)
}

// PersonByLogin returns the person with that log-in name.
func (s *Store) PersonByLogin(ctx context.Context, login string) (Person, error) {
	return s.person(ctx, "login = ?", login)
}

// PersonByID returns the person with that id.
func (s *Store) PersonByID(ctx context.Context, id dossier.PersonID) (Person, error) {
	return s.person(ctx, "id = ?", id)
}

func (s *Store) person(ctx context.Context, where string, arg any) (Person, error) {
	var p Person
	err := s.reader.WithContext(ctx).Table("people").Where(where, arg).Take(&p).Error
	return p, asStoreError(err)
}

// ChangePerson reads a person, lets change do its work, and stores name, role, password, suspension and second
// factor, all in one transaction: nothing that happens beside it is undone by it. Where change says so, all
// sessions of the person end with it. The firm that change is given is as it is then.
func (s *Store) ChangePerson(ctx context.Context, id dossier.PersonID, change func(p *Person, firm []Person) (endSessions bool, err error)) (Person, error) {
	var p Person
	err := s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var firm []Person
		if err := tx.Table("people").Order("name, id").Find(&firm).Error; err != nil {
			return err
		}
		i := slices.IndexFunc(firm, func(p Person) bool { return p.ID == id })
		if i < 0 {
			return ErrNotFound
		}
		p = firm[i]
		end, err := change(&p, firm)
		if err != nil {
			return err
		}
		if err := tx.Table("people").Where("id = ?", id).Select("name", "role", "password_hash", "suspended_at", "second_factor", "second_factor_step").Updates(&p).Error; err != nil || !end {
			return err
		}
		return tx.Exec("DELETE FROM sessions WHERE person_id = ?", id).Error
	})
	s.sessions.fire()
	return p, asStoreError(err)
}

// Kinds of session: a log-in, or a named token for a program.
const (
	LogIn = "session"
	Token = "token"
	Feed  = "calendar" // opens one's calendar and nothing else
)

// Session is one log-in or token. Hash is the SHA-256 of its secret, which is kept nowhere.
type Session struct {
	Hash      string
	PersonID  dossier.PersonID
	Name      string
	CreatedAt string
	ExpiresAt string
	ID        string
	Kind      string
	Parent    *string // the hash of the token that made it, and with which it ends
}

// Created and Expires are the session's times.
func (s Session) Created() time.Time { return instant(s.CreatedAt) }

// Expires is when it ends by itself.
func (s Session) Expires() time.Time { return instant(s.ExpiresAt) }

// instant reads a time that this package wrote.
func instant(text string) time.Time {
	t, _ := time.Parse(timeLayout, text)
	return t
}

// AddSession stores a new session that ends at until, and forgets those that have ended. A session that a token
// makes ends with that token, and not after it. ErrNotFound: the person is suspended, or the token has ended.
func (s *Store) AddSession(ctx context.Context, in Session, until time.Time, madeBy string) (time.Time, error) {
	now := s.now().UTC().Format(timeLayout)
	err := s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM sessions WHERE expires_at < ?", now).Error; err != nil {
			return err
		}
		var p Person
		if err := tx.Table("people").Where("id = ? AND suspended_at IS NULL", in.PersonID).Take(&p).Error; err != nil {
			return err
		}
		if madeBy != "" {
			var by Session
			if err := tx.Table("sessions").Where("hash = ? AND person_id = ?", madeBy, in.PersonID).Take(&by).Error; err != nil {
				return err
			}
			if by.Kind == Token || by.Parent != nil {
				in.Parent = &by.Hash
				if ends := by.Expires(); ends.Before(until) {
					until = ends
				}
			}
		}
		if in.Kind == Feed { // a new address ends the one before
			if err := tx.Exec("DELETE FROM sessions WHERE person_id = ? AND kind = ?", in.PersonID, Feed).Error; err != nil {
				return err
			}
		}
		in.CreatedAt, in.ExpiresAt = now, until.UTC().Format(timeLayout)
		return tx.Table("sessions").Create(&in).Error
	})
	return until, asStoreError(err)
}

// Sessions lists a person's sessions and tokens that have not ended, newest first.
func (s *Store) Sessions(ctx context.Context, person dossier.PersonID) ([]Session, error) {
	var out []Session
	err := s.reader.WithContext(ctx).Table("sessions").Where("person_id = ? AND expires_at >= ?", person, s.now().UTC().Format(timeLayout)).
		Order("created_at DESC, id").Find(&out).Error
	return out, err
}

// EndSessions ends one session of a person, or with id "" all of them.
func (s *Store) EndSessions(ctx context.Context, person dossier.PersonID, id string) error {
	defer s.sessions.fire()
	if id == "" {
		return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE person_id = ?", person).Error
	}
	return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE person_id = ? AND id = ?", person, id).Error
}

// EndOtherLogIns ends a person's log-ins except one, and what they made; tokens stay.
func (s *Store) EndOtherLogIns(ctx context.Context, person dossier.PersonID, except string) error {
	defer s.sessions.fire()
	return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE person_id = ? AND kind = ? AND hash <> ?", person, LogIn, except).Error
}

// PersonBySession returns who holds the session with that hash, while it lasts and the person
// is not suspended.
func (s *Store) PersonBySession(ctx context.Context, hash string) (Person, error) {
	var p Person
	err := s.holder(ctx, hash).Where("sessions.kind <> ?", Feed).Take(&p).Error
	return p, asStoreError(err)
}

// PersonByFeed returns whose calendar has the address with that hash.
func (s *Store) PersonByFeed(ctx context.Context, hash string) (Person, error) {
	var p Person
	err := s.holder(ctx, hash).Where("sessions.kind = ?", Feed).Take(&p).Error
	return p, asStoreError(err)
}

func (s *Store) holder(ctx context.Context, hash string) *gorm.DB {
	return s.reader.WithContext(ctx).Table("people").Joins("JOIN sessions ON sessions.person_id = people.id").
		Where("sessions.hash = ? AND sessions.expires_at >= ? AND people.suspended_at IS NULL", hash, s.now().UTC().Format(timeLayout)).
		Select("people.*")
}

// EndSession ends one session; ending it twice is not an error.
func (s *Store) EndSession(ctx context.Context, hash string) error {
	defer s.sessions.fire()
	return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE hash = ?", hash).Error
}

// SessionKind returns of what kind the session with that hash is. ErrNotFound: there is none.
func (s *Store) SessionKind(ctx context.Context, hash string) (string, error) {
	var one Session
	err := s.reader.WithContext(ctx).Table("sessions").Where("hash = ?", hash).Take(&one).Error
	return one.Kind, asStoreError(err)
}

// sessionSignal tells those who wait that sessions may have ended.
type sessionSignal struct {
	mu   sync.Mutex
	next chan struct{}
}

func (g *sessionSignal) fire() {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.next != nil {
		close(g.next)
		g.next = nil
	}
}

// SessionsEnded returns a channel that is closed when sessions have ended before their time, or people have
// changed. Whoever goes on for long looks again then whether the session still is.
func (s *Store) SessionsEnded() <-chan struct{} {
	s.sessions.mu.Lock()
	defer s.sessions.mu.Unlock()
	if s.sessions.next == nil {
		s.sessions.next = make(chan struct{})
	}
	return s.sessions.next
}

// SecondFactorOf is the purpose for which a person's second factor is sealed.
func SecondFactorOf(id dossier.PersonID) string { return "second factor of " + string(id) }

// firstPassword is remembered with the id of the first person until the password has been shown.
const firstPassword = "first password of"

// AddFirst stores the first person of a new firm, whose password has not been shown yet. It reports whether the
// firm was empty. Both are written in one transaction, so that a start which was killed can be repeated.
func (s *Store) AddFirst(ctx context.Context, p Person) (made bool, err error) {
	p.CreatedAt = s.now().UTC().Format(timeLayout)
	err = s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var n int64
		if err := tx.Table("people").Count(&n).Error; err != nil || n > 0 {
			return err
		}
		made = true
		if err := tx.Table("people").Create(&p).Error; err != nil {
			return err
		}
		return tx.Exec("INSERT INTO remembered (name, value) VALUES (?, ?)", firstPassword, p.ID).Error
	})
	return made, asStoreError(err)
}

// FirstNotShown returns the first person while the password has not been shown. ErrNotFound: it has.
func (s *Store) FirstNotShown(ctx context.Context) (Person, error) {
	var ids []dossier.PersonID
	if err := s.reader.WithContext(ctx).Table("remembered").Where("name = ?", firstPassword).Pluck("value", &ids).Error; err != nil {
		return Person{}, err
	}
	if len(ids) == 0 {
		return Person{}, ErrNotFound
	}
	return s.PersonByID(ctx, ids[0])
}

// FirstShown forgets that the password of the first person has to be shown.
func (s *Store) FirstShown(ctx context.Context) error {
	return s.writer.WithContext(ctx).Exec("DELETE FROM remembered WHERE name = ?", firstPassword).Error
}
