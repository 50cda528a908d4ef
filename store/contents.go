package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm/clause"

	"kaiku/core/contents"
	"kaiku/core/dossier"
)

// contentsRow is what the newest reading of a folder brought, as it is stored: JSON, packed.
type contentsRow struct {
	HouseholdID homeID
	Folder      string
	EndedAt     string
	Body        []byte
}

const contentsTable = "folder_contents"

// PutContents stores what was read of a folder, in place of an earlier reading.
func (s *Store) PutContents(ctx context.Context, home homeID, c contents.Contents) error {
	var body bytes.Buffer
	z := gzip.NewWriter(&body)
	if err := errors.Join(json.NewEncoder(z).Encode(c), z.Close()); err != nil {
		return fmt.Errorf("write contents: %w", err)
	}
	row := contentsRow{home, string(c.Folder), c.Ended.UTC().Format(timeLayout), body.Bytes()}
	return asStoreError(s.writer.WithContext(ctx).Table(contentsTable).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
}

// Contents returns what the newest reading of a folder brought; ErrNotFound says that there was none.
func (s *Store) Contents(ctx context.Context, home homeID, folder dossier.ID[dossier.Folder]) (contents.Contents, error) {
	var row contentsRow
	var c contents.Contents
	if err := s.reader.WithContext(ctx).Table(contentsTable).Where("household_id = ? AND folder = ?", home, folder).Take(&row).Error; err != nil {
		return c, asStoreError(err)
	}
	z, err := gzip.NewReader(bytes.NewReader(row.Body))
	if err == nil {
		err = json.NewDecoder(z).Decode(&c)
	}
	if err != nil {
		return c, fmt.Errorf("read contents of %s: %w", folder, err)
	}
	return c, nil
}
