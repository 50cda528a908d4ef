package store

import (
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// KeptScans is how long what a scan of a network brought is kept.
const KeptScans = 90 * 24 * time.Hour

// scanRow is one scan, as it is stored.
type scanRow struct {
	ID          string
	HouseholdID string
	EndedAt     string
	Body        string
}

// AddScan stores what a scan brought, and forgets what is older than KeptScans. The same
// scan stored again replaces itself; Taken says that a scan of another household has its id.
func (s *Store) AddScan(ctx context.Context, home homeID, g matching.Scan) error {
	body, err := json.Marshal(g)
	if err != nil {
		return fmt.Errorf("write scan: %w", err)
	}
	row := scanRow{g.ID, string(home), g.Ended.UTC().Format(timeLayout), string(body)}
	return asStoreError(s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM scans WHERE ended_at < ?", s.now().Add(-KeptScans).UTC().Format(timeLayout)).Error; err != nil {
			return err
		}
		var other []string
		if err := tx.Raw("SELECT code FROM summaries JOIN scans USING (household_id) WHERE scans.id = ? AND household_id <> ?", g.ID, home).Scan(&other).Error; err != nil {
			return err
		}
		if len(other) > 0 {
			return &Taken{dossier.Ref{Kind: "scan", ID: g.ID}, other[0]}
		}
		return tx.Table("scans").Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error // the same one may be handed in twice
	}))
}

// Scans returns the newest scans of a home, the newest first, as they were stored.
func (s *Store) Scans(ctx context.Context, home homeID, most int) ([]matching.Scan, error) {
	var rows []scanRow
	err := s.reader.WithContext(ctx).Table("scans").Where("household_id = ?", home).Order("ended_at DESC, id DESC").Limit(most).Find(&rows).Error
	if err != nil {
		return nil, asStoreError(err)
	}
	out := make([]matching.Scan, len(rows))
	for n, r := range rows {
		if err := json.Unmarshal([]byte(r.Body), &out[n]); err != nil {
			return nil, fmt.Errorf("read scan %s: %w", r.ID, err)
		}
	}
	return out, nil
}

// ReviewHosts notes what someone said of observations: by what it is about, the value. An empty
// value takes it back.
func (s *Store) ReviewHosts(ctx context.Context, home homeID, by dossier.PersonID, said map[string]string) error {
	db := s.writer.WithContext(ctx)
	for what, value := range said {
		if value == "" {
			if err := db.Exec("DELETE FROM host_reviews WHERE household_id = ? AND what = ?", home, what).Error; err != nil {
				return asStoreError(err)
			}
			continue
		}
		err := db.Exec("INSERT INTO host_reviews (household_id, what, value, by_person, at) VALUES (?, ?, ?, ?, ?) ON CONFLICT (household_id, what) DO UPDATE SET value = excluded.value, by_person = excluded.by_person, at = excluded.at",
			home, what, value, by, s.now().UTC().Format(timeLayout)).Error
		if err != nil {
			return asStoreError(err)
		}
	}
	return nil
}

// HostReviews returns what was said of the observations of a home.
func (s *Store) HostReviews(ctx context.Context, home homeID) (map[string]string, error) {
	var rows []struct{ What, Value string }
	if err := s.reader.WithContext(ctx).Table("host_reviews").Where("household_id = ?", home).Find(&rows).Error; err != nil {
		return nil, asStoreError(err)
	}
	out := map[string]string{}
	for _, r := range rows {
		out[r.What] = r.Value
	}
	return out, nil
}

// forgetScans forgets what looks at a home brought: devices are called after people, and so are files.
func forgetScans(tx *gorm.DB, home homeID) error {
	for _, table := range []string{"scans", "host_reviews", contentsTable} {
		if err := tx.Exec("DELETE FROM "+table+" WHERE household_id = ?", home).Error; err != nil {
			return err
		}
	}
	return tx.Exec("UPDATE "+nightsTable+" SET last = '' WHERE household_id = ?", home).Error
}

// ScanMark returns a number that is another when scans of the home, or what was said of them, are
// others; 0 while there are none.
func (s *Store) ScanMark(ctx context.Context, home homeID) (uint64, error) {
	var row struct{ Scans, Said string }
	err := s.reader.WithContext(ctx).Raw(`SELECT
		(SELECT coalesce(group_concat(id || ended_at), '') FROM (SELECT id, ended_at FROM scans WHERE household_id = ? ORDER BY ended_at DESC, id DESC LIMIT 8)) AS scans,
		(SELECT coalesce(group_concat(what || value || at), '') FROM (SELECT what, value, at FROM host_reviews WHERE household_id = ? ORDER BY what)) AS said`, home, home).Scan(&row).Error
	if err != nil || row.Scans == "" {
		return 0, asStoreError(err)
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(row.Scans + row.Said)) // a hash never fails to be written to
	return h.Sum64() | 1, nil
}
