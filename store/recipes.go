package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// firmTable is one table of what the firm knows beside its homes.
type firmTable struct {
	Name      string `gorm:"primaryKey"`
	Version   uint64
	Body      string
	ChangedAt string
	ChangedBy dossier.PersonID
}

const recipesTable = "recipes"

// Recipes returns the firm's recipes in the order in which they were added, and their version, which
// rises with every change; 0 while there are none.
func (s *Store) Recipes(ctx context.Context) ([]knowledge.Recipe, uint64, error) {
	return recipesOf(s.reader.WithContext(ctx))
}

func recipesOf(db *gorm.DB) ([]knowledge.Recipe, uint64, error) {
	var row firmTable
	err := db.Table("firm_tables").Where("name = ?", recipesTable).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, 0, nil
	}
	if err != nil {
		return nil, 0, asStoreError(err)
	}
	var out []knowledge.Recipe
	if err := json.Unmarshal([]byte(row.Body), &out); err != nil {
		return nil, 0, fmt.Errorf("read the recipes: %w", err)
	}
	return out, row.Version, nil
}

// ChangeRecipes changes the recipes in one transaction.
func (s *Store) ChangeRecipes(ctx context.Context, by dossier.PersonID, change func([]knowledge.Recipe) ([]knowledge.Recipe, error)) error {
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		now, version, err := recipesOf(tx)
		if err != nil {
			return err
		}
		next, err := change(now)
		if err != nil {
			return err
		}
		b, err := json.Marshal(next)
		if err != nil {
			return err
		}
		row := firmTable{recipesTable, version + 1, string(b), s.now().UTC().Format(timeLayout), by}
		return asStoreError(tx.Table("firm_tables").Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
	})
}
