package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"kaiku/core/dossier"
	"kaiku/core/summary"
)

type journalRow struct {
	HouseholdID string
	Revision    uint64
	N           int
	At          string
	DoneAt      *string
	By          string
	Why         string
	Act         string
	Kind        string
	Record      string
	Before      *string
	After       *string
}

func saveJournal(tx *gorm.DB, home homeID, entries []dossier.Entry) error {
	rows := make([]journalRow, len(entries))
	for i, e := range entries {
		var err error
		if rows[i], err = rowOf(home, e); err != nil {
			return err
		}
	}
	if err := tx.Table("journal").CreateInBatches(rows, 100).Error; err != nil {
		return fmt.Errorf("store journal: %w", err)
	}
	return nil
}

func rowOf(home homeID, e dossier.Entry) (r journalRow, err error) {
	r = journalRow{HouseholdID: string(home), Revision: e.Revision, N: e.N, At: e.At.UTC().Format(timeLayout), By: string(e.By), Why: e.Why,
		Act: string(e.Act), Kind: e.Subject.Kind, Record: e.Subject.ID}
	if !e.DoneAt.IsZero() {
		done := e.DoneAt.UTC().Format(timeLayout)
		r.DoneAt = &done
	}
	if r.Before, err = membersText(e.Before); err != nil {
		return r, err
	}
	r.After, err = membersText(e.After)
	return r, err
}

// eraseJournal overwrites what the entries of a household remember of personal members.
func eraseJournal(tx *gorm.DB, home homeID) error {
	var kinds []string
	for _, k := range dossier.Kinds {
		if k.HasPersonal() {
			kinds = append(kinds, k.Name)
		}
	}
	var rows []journalRow
	if err := tx.Table("journal").Where("household_id = ? AND kind IN ?", home, kinds).Find(&rows).Error; err != nil {
		return fmt.Errorf("read journal: %w", err)
	}
	for _, r := range rows {
		e, err := r.entry()
		if err != nil {
			return err
		}
		if !dossier.EraseEntry(&e) {
			continue
		}
		if r, err = rowOf(home, e); err != nil {
			return err
		}
		if err := tx.Exec("UPDATE journal SET before = ?, after = ? WHERE household_id = ? AND revision = ? AND n = ?", r.Before, r.After, home, r.Revision, r.N).Error; err != nil {
			return fmt.Errorf("erase in journal: %w", err)
		}
	}
	return nil
}

func membersText(m map[string]json.RawMessage) (*string, error) {
	if len(m) == 0 {
		return nil, nil
	}
	b, err := json.Marshal(m)
	text := string(b)
	return &text, err
}

// JournalQuery selects journal entries. Zero members select all.
type JournalQuery struct {
	After  uint64           // revisions greater than this
	Before uint64           // revisions less than this
	Record string           // id of a record
	By     dossier.PersonID // author
	Since  time.Time
	Word   string // text in the reason or in a value, whatever its case
	Newest bool   // newest first
	Limit  int
}

var likeEscaper = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// Journal returns entries of a household's journal, oldest first unless asked otherwise.
func (s *Store) Journal(ctx context.Context, home homeID, q JournalQuery) ([]dossier.Entry, error) {
	t := s.reader.WithContext(ctx).Table("journal").Where("household_id = ? AND revision > ?", home, q.After)
	if q.Before > 0 {
		t = t.Where("revision < ?", q.Before)
	}
	if q.Record != "" {
		t = t.Where("record = ?", q.Record)
	}
	if q.By != "" {
		t = t.Where(`"by" = ?`, q.By)
	}
	if !q.Since.IsZero() {
		t = t.Where("at >= ?", q.Since.UTC().Format(timeLayout))
	}
	if q.Word != "" {
		like := "%" + likeEscaper.Replace(q.Word) + "%"
		t = t.Where(`(why LIKE ? ESCAPE '\' OR before LIKE ? ESCAPE '\' OR after LIKE ? ESCAPE '\')`, like, like, like)
	}
	order := "revision, n"
	if q.Newest {
		order = "revision DESC, n"
	}
	if q.Limit > 0 {
		t = t.Limit(q.Limit)
	}
	var rows []journalRow
	if err := t.Order(order).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("read journal: %w", err)
	}
	out := make([]dossier.Entry, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.entry(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (r journalRow) entry() (dossier.Entry, error) {
	at, err := time.Parse(timeLayout, r.At)
	if err != nil {
		return dossier.Entry{}, fmt.Errorf("journal entry %d.%d: %w", r.Revision, r.N, err)
	}
	e := dossier.Entry{Revision: r.Revision, N: r.N, At: at, By: dossier.PersonID(r.By), Why: r.Why, Act: dossier.Act(r.Act),
		Subject: dossier.Ref{Kind: r.Kind, ID: r.Record}}
	if r.DoneAt != nil {
		if e.DoneAt, err = time.Parse(timeLayout, *r.DoneAt); err != nil {
			return e, fmt.Errorf("journal entry %d.%d: %w", r.Revision, r.N, err)
		}
	}
	if e.Before, err = members(r.Before); err != nil {
		return e, err
	}
	e.After, err = members(r.After)
	return e, err
}

func members(text *string) (map[string]json.RawMessage, error) {
	if text == nil {
		return nil, nil
	}
	var m map[string]json.RawMessage
	err := json.Unmarshal([]byte(*text), &m)
	return m, err
}

// At returns the dossier as it was after that revision, replayed from the journal, and the
// entries that came after it.
func (s *Store) At(ctx context.Context, home homeID, revision uint64) (*dossier.Dossier, []dossier.Entry, error) {
	all, err := s.Journal(ctx, home, JournalQuery{})
	if err != nil {
		return nil, nil, err
	}
	n := 0
	for n < len(all) && all[n].Revision <= revision {
		n++
	}
	d := &dossier.Dossier{}
	return d, all[n:], dossier.Apply(d, all[:n])
}

// Newest returns when the newest entry of any journal was written; zero when there is none.
func (s *Store) Newest(ctx context.Context) (time.Time, error) {
	var at []string
	err := s.reader.WithContext(ctx).Table("summaries").Order("changed_at DESC").Limit(1).Pluck("changed_at", &at).Error
	if err != nil || len(at) == 0 {
		return time.Time{}, err
	}
	return instant(at[0]), nil
}

// HomeByCode returns the id of the household with that code.
func (s *Store) HomeByCode(ctx context.Context, code string) (dossier.ID[dossier.Household], error) {
	var found []string
	err := s.reader.WithContext(ctx).Table("summaries").Where("code = ?", code).Pluck("household_id", &found).Error
	if err != nil {
		return "", err
	}
	if len(found) == 0 {
		return "", ErrNotFound
	}
	return dossier.ID[dossier.Household](found[0]), nil
}

// Changed is when the household last changed.
func (s Summary) Changed() time.Time {
	return instant(s.ChangedAt)
}

// Row is what was computed of the household.
func (s Summary) Row() summary.Row {
	row := summary.Row{}
	_ = json.Unmarshal([]byte(s.Computed), &row) // written by this package alone
	return row
}

// Involving lists the households that a person holds, has been offered, or has an open issue, a
// wait, a due date or a visit in.
func (s *Store) Involving(ctx context.Context, person dossier.PersonID) ([]Summary, error) {
	var out []Summary
	err := s.reader.WithContext(ctx).Table("summaries").
		Where(`custodian = @p OR offered_to = @p OR household_id IN (SELECT household_id FROM issues WHERE owner = @p AND state <> 'closed')
			OR household_id IN (SELECT household_id FROM long_tasks WHERE checked_by = @p AND ended_at IS NULL)
			OR household_id IN (SELECT household_id FROM due_dates WHERE who = @p AND done_at IS NULL)
			OR household_id IN (SELECT household_id FROM visits WHERE technician = @p AND COALESCE(cancelled, 0) = 0 AND starts >= @recently)`,
			map[string]any{"p": person, "recently": s.now().UTC().AddDate(0, 0, -1).Format(timeLayout)}).
		Order("code").Find(&out).Error
	return out, asStoreError(err)
}

// Scheduled lists the ids of the households in which a person has visits since then, looks at a
// wait again, sees to a date, or is custodian.
func (s *Store) Scheduled(ctx context.Context, person dossier.PersonID, since time.Time) ([]string, error) {
	var out []string
	err := s.reader.WithContext(ctx).Table("summaries").
		Where(`custodian = @p OR household_id IN (SELECT household_id FROM long_tasks WHERE checked_by = @p AND ended_at IS NULL)
			OR household_id IN (SELECT household_id FROM due_dates WHERE who = @p AND done_at IS NULL)
			OR household_id IN (SELECT household_id FROM visits WHERE technician = @p AND starts >= @since)`,
			map[string]any{"p": person, "since": since.UTC().Format(timeLayout)}).
		Order("code").Pluck("household_id", &out).Error
	return out, asStoreError(err)
}

// HeldBy lists the households of which a person is custodian.
func (s *Store) HeldBy(ctx context.Context, person dossier.PersonID) ([]Summary, error) {
	var out []Summary
	err := s.reader.WithContext(ctx).Table("summaries").Where("custodian = ?", person).Order("code").Find(&out).Error
	return out, asStoreError(err)
}

// OnOffer lists the households whose handover has not been answered yet.
func (s *Store) OnOffer(ctx context.Context) ([]Summary, error) {
	var out []Summary
	err := s.reader.WithContext(ctx).Table("summaries").Where("offered_to <> ''").Order("code").Find(&out).Error
	return out, asStoreError(err)
}

// RevisionAt returns the revision that a household had at that time: the one before the first of which
// something was done later. What was done by then but came to be written after that is not in it, so
// that nothing done later ever is.
func (s *Store) RevisionAt(ctx context.Context, home homeID, at time.Time) (uint64, error) {
	var found uint64
	err := s.reader.WithContext(ctx).Raw(`SELECT coalesce((SELECT min(revision) - 1 FROM journal WHERE household_id = @home AND coalesce(done_at, at) > @at),
		(SELECT max(revision) FROM journal WHERE household_id = @home), 0)`, map[string]any{"home": home, "at": at.UTC().Format(timeLayout)}).Scan(&found).Error
	return found, asStoreError(err)
}
