package store

import (
	"context"

	"gorm.io/gorm/clause"

	"kaiku/core/dossier"
)

// Night is when the tests of a home are repeated every night, who asked for it, and what came of the last time, in JSON.
type Night struct {
	HouseholdID homeID
	At          string // clock time, such as 03:00
	ByPerson    dossier.PersonID
	Last        string
}

const nightsTable = "nights"

// Nights returns the homes whose tests are repeated.
func (s *Store) Nights(ctx context.Context) ([]Night, error) {
	var out []Night
	return out, asStoreError(s.reader.WithContext(ctx).Table(nightsTable).Where("at <> ''").Order("household_id").Find(&out).Error)
}

// NightOf returns when the tests of a home are repeated; the zero Night where they are not and never were.
func (s *Store) NightOf(ctx context.Context, home homeID) (Night, error) {
	var out []Night
	err := s.reader.WithContext(ctx).Table(nightsTable).Where("household_id = ?", home).Find(&out).Error
	if err != nil || len(out) == 0 {
		return Night{}, asStoreError(err)
	}
	return out[0], nil
}

// SetNight sets when the tests of a home are repeated, and on whose behalf; what came of the last time stays.
func (s *Store) SetNight(ctx context.Context, home homeID, at string, by dossier.PersonID) error {
	row := Night{HouseholdID: home, At: at, ByPerson: by}
	on := clause.OnConflict{Columns: []clause.Column{{Name: "household_id"}}, DoUpdates: clause.AssignmentColumns([]string{"at", "by_person"})}
	return asStoreError(s.writer.WithContext(ctx).Table(nightsTable).Clauses(on).Create(&row).Error)
}

// PutNightRun stores what came of the last repetition.
func (s *Store) PutNightRun(ctx context.Context, home homeID, last string) error {
	return asStoreError(s.writer.WithContext(ctx).Table(nightsTable).Where("household_id = ?", home).Update("last", last).Error)
}
