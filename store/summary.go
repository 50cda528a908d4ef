package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/summary"
)

// Summary is what firm-wide lists show of a household without loading it. What a write knows at once
// is stored with it; what is computed follows right after, outside the write lock.
type Summary struct {
	HouseholdID string `gorm:"primaryKey"`
	Code        string
	Name        string
	Custodian   string
	Revision    uint64
	ChangedAt   string
	OfferedTo   string // receiver of a handover on offer
	Computed    string // a summary.Row
	ComputedAs  string // version and revision that it is of
}

// Summariser computes the row of a home. The store's own knows nothing but the record; the service puts
// in its place one that knows what scans saw.
type Summariser func(context.Context, *dossier.Dossier) (summary.Row, error)

// SummariseBy has rows computed in that way from now on.
func (s *Store) SummariseBy(by Summariser) { s.summariser.Store(&by) }

func (s *Store) ownSummary(_ context.Context, d *dossier.Dossier) (summary.Row, error) {
	return summary.Of(assess.Assess(d, knowledge.Knowledge{}, s.now())), nil
}

// saveSummary stores what a write knows of the household at once.
func saveSummary(tx *gorm.DB, d *dossier.Dossier, at time.Time) error {
	h := d.Home()
	s := Summary{HouseholdID: string(h.ID), Code: h.Code, Name: h.Name, Custodian: string(h.Custodian), Revision: d.Revision, ChangedAt: at.UTC().Format(timeLayout)}
	if last, ok := custody.Latest(d); ok && last.State == dossier.Offered {
		s.OfferedTo = string(last.To)
	}
	known := []string{"code", "name", "custodian", "revision", "changed_at", "offered_to"}
	return tx.Table("summaries").Omit("Computed", "ComputedAs").Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "household_id"}}, DoUpdates: clause.AssignmentColumns(known)}).Create(&s).Error
}

// Summarise computes the row of a home and stores it, unless the home has changed meanwhile: then
// who changed it does so.
func (s *Store) Summarise(ctx context.Context, d *dossier.Dossier) error {
	row, err := (*s.summariser.Load())(ctx, d)
	if err != nil {
		return fmt.Errorf("summarise %s: %w", d.Home().Code, err)
	}
	body, err := json.Marshal(row)
	if err != nil {
		return fmt.Errorf("write summary: %w", err)
	}
	return asStoreError(s.writer.WithContext(ctx).Exec("UPDATE summaries SET computed = ?, computed_as = ? WHERE household_id = ? AND revision = ?", string(body), computedAs(d.Revision), d.Home().ID, d.Revision).Error)
}

func computedAs(revision uint64) string {
	return summary.Version + " " + strconv.FormatUint(revision, 10)
}

// SummariseEach computes the rows of all homes anew, one after the other: after what counts in all of them has changed.
func (s *Store) SummariseEach(ctx context.Context) error {
	return s.summariseThose(ctx, "SELECT household_id FROM summaries ORDER BY code")
}

// summariseAll computes the rows that are not of this program's version, or not of the newest revision:
// after an upgrade, and where a stop fell between a write and its row.
func (s *Store) summariseAll(ctx context.Context) error {
	return s.summariseThose(ctx, "SELECT household_id FROM summaries WHERE computed_as <> ? || ' ' || revision ORDER BY code", summary.Version)
}

// summariseThose computes the rows of the homes that a query names. It can take a while in a firm of many homes, and
// tells how far it is.
func (s *Store) summariseThose(ctx context.Context, query string, args ...any) error {
	var homes []string
	if err := s.reader.WithContext(ctx).Raw(query, args...).Scan(&homes).Error; err != nil {
		return asStoreError(err)
	}
	for n, id := range homes {
		if n > 0 && n%500 == 0 {
			s.log.InfoContext(ctx, "computing the lists of households anew", "done", n, "of", len(homes))
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		d, err := s.Load(ctx, homeID(id))
		if err != nil {
			return fmt.Errorf("load %s: %w", id, err)
		}
		if err := s.Summarise(ctx, d); err != nil {
			return err
		}
	}
	return nil
}
