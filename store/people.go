package store

import (
	"context"
	"gorm.io/gorm"
	"time"

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

// UpdatePerson stores name, role, password and suspension of an existing person.
func (s *Store) UpdatePerson(ctx context.Context, p Person) error {
	return asStoreError(s.writer.WithContext(ctx).Table("people").Where("id = ?", p.ID).
		Select("name", "role", "password_hash", "suspended_at").Updates(&p).Error)
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

// AddSession stores a new session that ends at until, and forgets those that have ended.
func (s *Store) AddSession(ctx context.Context, in Session, until time.Time) error {
	now := s.now().UTC().Format(timeLayout)
	db := s.writer.WithContext(ctx)
	if err := db.Exec("DELETE FROM sessions WHERE expires_at < ?", now).Error; err != nil {
		return err
	}
	in.CreatedAt, in.ExpiresAt = now, until.UTC().Format(timeLayout)
	return db.Table("sessions").Create(&in).Error
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
	if id == "" {
		return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE person_id = ?", person).Error
	}
	return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE person_id = ? AND id = ?", person, id).Error
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
	return s.writer.WithContext(ctx).Exec("DELETE FROM sessions WHERE hash = ?", hash).Error
}
