package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/suspects"
)

// firmTable is one table of what the firm knows beside its homes.
type firmTable struct {
	Name      string `gorm:"primaryKey"`
	Version   uint64
	Body      string
	ChangedAt string
	ChangedBy dossier.PersonID
}

// firmChange is one change of such a table, for ever.
type firmChange struct {
	Name      string
	Version   uint64
	ChangedAt string
	ChangedBy dossier.PersonID
	Entries   string
}

// Names of the tables.
const (
	recipesTable  = "recipes"
	sheetsTable   = "sheets"
	releasesTable = "releases"
	faultsTable   = "faults"
	asksTable     = "questions"
	keptTable     = "kept-odds"
)

func entries[T knowledge.Keyed](db *gorm.DB, table string) ([]T, uint64, error) {
	var row firmTable
	err := db.Table("firm_tables").Where("name = ?", table).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, 0, nil
	}
	if err != nil {
		return nil, 0, asStoreError(err)
	}
	var out []T
	if err := json.Unmarshal([]byte(row.Body), &out); err != nil {
		return nil, 0, fmt.Errorf("read the firm's %s: %w", table, err)
	}
	return out, row.Version, nil
}

// changeEntries changes a table within a transaction, and keeps what was changed.
func changeEntries[T knowledge.Keyed](tx *gorm.DB, table string, by dossier.PersonID, at time.Time, change func([]T) ([]T, error)) error {
	now, version, err := entries[T](tx, table)
	if err != nil {
		return err
	}
	next, err := change(slices.Clone(now))
	if err != nil {
		return err
	}
	changed, err := knowledge.Differing(now, next)
	if err != nil || len(changed) == 0 {
		return err
	}
	body, err := json.Marshal(next)
	if err != nil {
		return err
	}
	kept, err := json.Marshal(changed)
	if err != nil {
		return err
	}
	when := at.UTC().Format(timeLayout)
	if err := tx.Table("firm_changes").Create(&firmChange{table, version + 1, when, by, string(kept)}).Error; err != nil {
		return asStoreError(err)
	}
	row := firmTable{table, version + 1, string(body), when, by}
	return asStoreError(tx.Table("firm_tables").Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
}

// Recipes returns the firm's recipes in the order in which they were added, and their version, which
// rises with every change; 0 while there are none.
func (s *Store) Recipes(ctx context.Context) ([]knowledge.Recipe, uint64, error) {
	return entries[knowledge.Recipe](s.reader.WithContext(ctx), recipesTable)
}

// ChangeRecipes changes the recipes in one transaction.
func (s *Store) ChangeRecipes(ctx context.Context, by dossier.PersonID, change func([]knowledge.Recipe) ([]knowledge.Recipe, error)) error {
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return changeEntries(tx, recipesTable, by, s.now(), change)
	})
}

// Knowledge returns what the firm knows of models and programs, with its recipes, and a revision that differs whenever
// any of it does. What was seen of a home is not among it.
func (s *Store) Knowledge(ctx context.Context) (knowledge.Knowledge, error) {
	now, err := firmVersions(s.reader.WithContext(ctx))
	if err != nil {
		return knowledge.Knowledge{}, err
	}
	if kept := s.known.Load(); kept != nil && kept.Revision == now {
		return *kept, nil
	}
	var k knowledge.Knowledge
	err = s.reader.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var err error
		if k.Revision, err = firmVersions(tx); err != nil {
			return err
		}
		if k.Recipes, _, err = entries[knowledge.Recipe](tx, recipesTable); err != nil {
			return err
		}
		if k.Sheets, _, err = entries[knowledge.Sheet](tx, sheetsTable); err != nil {
			return err
		}
		k.Releases, _, err = entries[knowledge.Release](tx, releasesTable)
		return err
	})
	if err != nil {
		return knowledge.Knowledge{}, err
	}
	k = k.Indexed()
	s.known.Store(&k)
	return k, nil
}

// firmVersions tells the versions of all tables of the firm.
func firmVersions(db *gorm.DB) (string, error) {
	var all []string
	err := db.Table("firm_tables").Order("name").Pluck("name || ' ' || version", &all).Error
	return strings.Join(all, ", "), asStoreError(err)
}

// ChangeKnowledge changes sheets and releases in one transaction.
func (s *Store) ChangeKnowledge(ctx context.Context, by dossier.PersonID, change func(knowledge.File) (knowledge.File, error)) error {
	return changeTwo(ctx, s, by, sheetsTable, releasesTable, func(sheets []knowledge.Sheet, releases []knowledge.Release) ([]knowledge.Sheet, []knowledge.Release, error) {
		next, err := change(knowledge.File{Sheets: sheets, Releases: releases})
		return next.Sheets, next.Releases, err
	})
}

// changeTwo changes two tables in one transaction, each knowing the other.
func changeTwo[A, B knowledge.Keyed](ctx context.Context, s *Store, by dossier.PersonID, first, second string, change func([]A, []B) ([]A, []B, error)) error {
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		a, _, err := entries[A](tx, first)
		if err != nil {
			return err
		}
		b, _, err := entries[B](tx, second)
		if err != nil {
			return err
		}
		if a, b, err = change(a, b); err != nil {
			return err
		}
		if err := changeEntries(tx, first, by, s.now(), func([]A) ([]A, error) { return a, nil }); err != nil {
			return err
		}
		return changeEntries(tx, second, by, s.now(), func([]B) ([]B, error) { return b, nil })
	})
}

// KnowledgeChanges returns the newest changes of the firm's tables, the newest first.
func (s *Store) KnowledgeChanges(ctx context.Context, limit int) ([]knowledge.Change, error) {
	var rows []firmChange
	err := s.reader.WithContext(ctx).Table("firm_changes").Order("changed_at DESC, name, version DESC").Limit(limit).Find(&rows).Error
	if err != nil {
		return nil, asStoreError(err)
	}
	out := make([]knowledge.Change, len(rows))
	for i, r := range rows {
		at, err := time.Parse(timeLayout, r.ChangedAt)
		if err != nil {
			return nil, fmt.Errorf("read when the firm's %s changed: %w", r.Name, err)
		}
		out[i] = knowledge.Change{Table: r.Name, Version: r.Version, At: at, By: r.ChangedBy}
		if err := json.Unmarshal([]byte(r.Entries), &out[i].Entries); err != nil {
			return nil, fmt.Errorf("read what changed in the firm's %s: %w", r.Name, err)
		}
	}
	return out, nil
}

// Faults returns the fault modes and questions of the firm itself, beside those that come with Kaiku.
func (s *Store) Faults(ctx context.Context) (out suspects.Faults, err error) {
	db := s.reader.WithContext(ctx)
	if out.Modes, _, err = entries[suspects.Mode](db, faultsTable); err != nil {
		return out, err
	}
	out.Questions, _, err = entries[suspects.Question](db, asksTable)
	return out, err
}

// ChangeFaults changes them in one transaction.
func (s *Store) ChangeFaults(ctx context.Context, by dossier.PersonID, change func(suspects.Faults) (suspects.Faults, error)) error {
	return changeTwo(ctx, s, by, faultsTable, asksTable, func(modes []suspects.Mode, questions []suspects.Question) ([]suspects.Mode, []suspects.Question, error) {
		next, err := change(suspects.Faults{Modes: modes, Questions: questions})
		return next.Modes, next.Questions, err
	})
}

// KeptOdds returns the modes whose odds the firm keeps as they came.
func (s *Store) KeptOdds(ctx context.Context) ([]suspects.KeptOdds, error) {
	out, _, err := entries[suspects.KeptOdds](s.reader.WithContext(ctx), keptTable)
	return out, err
}

// ChangeKeptOdds changes them in one transaction.
func (s *Store) ChangeKeptOdds(ctx context.Context, by dossier.PersonID, change func([]suspects.KeptOdds) ([]suspects.KeptOdds, error)) error {
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return changeEntries(tx, keptTable, by, s.now(), change)
	})
}

// FoundFault is a fault that was found with an issue which a test has closed.
type FoundFault struct {
	Fault     string // id of the mode
	Household string // code
	Issue     string // id
}

// FaultsFound returns the faults of all the firm's issues that a test has closed, ordered by home. An issue that was closed with only a reason proves
// nothing.
func (s *Store) FaultsFound(ctx context.Context) (out []FoundFault, err error) {
	err = s.reader.WithContext(ctx).Table("issues").Select("issues.fault AS fault, household.code AS household, issues.id AS issue").
		Joins("JOIN household ON household.id = issues.household_id").
		Where("issues.state = ? AND issues.fault IS NOT NULL AND issues.fault <> '' AND issues.proof IS NOT NULL AND issues.proof <> ''", string(dossier.IssueClosed)).
		Order("household.code, issues.id").Find(&out).Error
	return out, asStoreError(err)
}
