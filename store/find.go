package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"kaiku/core/dossier"
	"kaiku/core/summary"
)

// indexVersion is raised when records are indexed in another way; the index of an older one is
// rebuilt when the store is opened.
const indexVersion = "1"

// Found is a record that fits the words looked for, and the text of it that does.
type Found struct {
	HouseholdID string
	Kind        string
	Record      string
	Label       string
	Text        string
}

// index keeps the words of what was written, in the full-text table under the row id that the
// record has in the table findable. Where a label changed, the records that are called
// by it too are indexed again.
func index(tx *gorm.DB, old, next *dossier.Dossier, entries []dossier.Entry) error {
	renamed := false
	done := map[dossier.Ref]bool{}
	for _, e := range entries {
		done[e.Subject] = true
		if e.Act != dossier.Added {
			if err := unindex(tx, "record = ?", e.Subject.ID); err != nil {
				return fmt.Errorf("index %s: %w", e.Subject, err)
			}
		}
		if err := indexRecord(tx, next, e.Subject); err != nil {
			return err
		}
		renamed = renamed || e.Act == dossier.Changed && old.Label(e.Subject) != next.Label(e.Subject)
	}
	if !renamed {
		return nil
	}
	for _, k := range dossier.Kinds {
		rows := k.In(next)
		for i := range rows.Len() {
			ref := dossier.Ref{Kind: k.Name, ID: rows.At(i).Key()}
			if done[ref] || old.FullLabel(ref) == next.FullLabel(ref) {
				continue
			}
			if err := unindex(tx, "record = ?", ref.ID); err != nil {
				return fmt.Errorf("index %s: %w", ref, err)
			}
			if err := indexRecord(tx, next, ref); err != nil {
				return err
			}
		}
	}
	return nil
}

// indexRecord adds the words of a record that is there.
func indexRecord(tx *gorm.DB, d *dossier.Dossier, ref dossier.Ref) error {
	k, r, there := d.Record(ref)
	if !there {
		return nil
	}
	label, texts := d.FullLabel(ref), k.Texts(r)
	if len(texts) == 0 {
		return nil // found by what it is called after
	}
	var keys []string
	for _, t := range texts {
		keys = append(keys, dossier.SearchKeys(t)...)
	}
	if err := tx.Exec("INSERT INTO findable (household_id, kind, record, label) VALUES (?, ?, ?, ?)", d.Home().ID, ref.Kind, ref.ID, label).Error; err != nil {
		return fmt.Errorf("index %s: %w", ref, err)
	}
	return tx.Exec("INSERT INTO findable_text (rowid, words, keys) VALUES (last_insert_rowid(), ?, ?)", strings.Join(texts, "\n"), strings.Join(keys, " ")).Error
}

func unindex(tx *gorm.DB, where string, arg any) error {
	if err := tx.Exec("DELETE FROM findable_text WHERE rowid IN (SELECT id FROM findable WHERE "+where+")", arg).Error; err != nil {
		return err
	}
	return tx.Exec("DELETE FROM findable WHERE "+where, arg).Error
}

// keepIndexed makes index and summaries anew where they were made in another way, home by home.
func (s *Store) keepIndexed(ctx context.Context) error {
	var version []string
	db := s.writer.WithContext(ctx)
	if err := db.Table("remembered").Where("name = 'index'").Pluck("value", &version).Error; err != nil {
		return err
	}
	if slices.Equal(version, []string{indexVersion}) {
		return nil
	}
	var all []Summary
	if err := db.Table("summaries").Find(&all).Error; err != nil {
		return err
	}
	for n, row := range all {
		if n%1000 == 0 {
			s.log.Warn("rebuilding the search index", "homes", n, "of", len(all))
		}
		if err := db.Transaction(func(tx *gorm.DB) error { return s.reindex(tx, row) }); err != nil {
			return fmt.Errorf("index household %s: %w", row.Code, err)
		}
	}
	return db.Exec("INSERT INTO remembered (name, value) VALUES ('index', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value", indexVersion).Error
}

func (s *Store) reindex(tx *gorm.DB, row Summary) error {
	d, err := load(tx, homeID(row.HouseholdID))
	if err != nil {
		return err
	}
	d.Revision = row.Revision
	if err := unindex(tx, "household_id = ?", row.HouseholdID); err != nil {
		return err
	}
	for _, k := range dossier.Kinds {
		for i := range k.In(d).Len() {
			if err := indexRecord(tx, d, dossier.Ref{Kind: k.Name, ID: k.In(d).At(i).Key()}); err != nil {
				return err
			}
		}
	}
	return saveSummary(tx, d, row.Changed())
}

// HomesQuery selects, sorts and pages the households of the firm. Zero members select all.
type HomesQuery struct {
	Words     []string         // each is in a record of the home, or begins its custodian's name
	Custodian dossier.PersonID // the custodian
	With      []string         // what the homes have, each a key of homesWith
	Sort      string           // a key of homesBy, with "-" before it for the greatest first; "" is by code
	After     string           // code of the home after which the list goes on
	Limit     int
	Today     time.Time // what is due is so up to a fortnight from this day
}

// dueWithin is how many days before a date falls due the home is listed for it.
const dueWithin = 14

// homesWith says what a home can have, over its summary row.
var homesWith = func() map[string]string {
	out := map[string]string{}
	for _, c := range summary.Columns {
		if c.With != "" {
			value := column(c.Name)
			out[c.With] = map[summary.Where]string{summary.Positive: value + " > 0", summary.Given: value + " <> ''",
				summary.Today: value + " <> '' AND " + value + " <= @today", summary.Fortnight: value + " <> '' AND " + value + " <= @fortnight"}[c.Where]
		}
	}
	return out
}()

// homesBy says what homes are sorted by; a day that is not given comes last.
var homesBy = func() map[string]string {
	out := map[string]string{"code": "code", "name": "name COLLATE NOCASE", "changed": "changed_at"}
	for _, c := range summary.Columns {
		if c.By != "" {
			out[c.By] = fmt.Sprintf("CASE %[1]s WHEN '' THEN '9999' ELSE %[1]s END", column(c.Name))
		}
	}
	return out
}()

// column is the value of a column in the row of a home.
func column(name string) string { return "json_extract(computed, '$." + name + "')" }

// HomesWith and HomesBy are the words that a HomesQuery knows, sorted.
func HomesWith() []string { return slices.Sorted(maps.Keys(homesWith)) }

// HomesBy lists what homes can be sorted by.
func HomesBy() []string { return slices.Sorted(maps.Keys(homesBy)) }

// fits is true of the homes in which a word is found. Its arguments: the match, and twice what
// the custodian's name or log-in name holds.
const fits = `(household_id IN (SELECT f.household_id FROM findable_text t JOIN findable f ON f.id = t.rowid WHERE findable_text MATCH ?)
	OR custodian IN (SELECT id FROM people WHERE name LIKE ? ESCAPE '\' OR login LIKE ? ESCAPE '\'))`

// Homes lists households from their summary rows.
func (s *Store) Homes(ctx context.Context, q HomesQuery) ([]Summary, error) {
	t := s.reader.WithContext(ctx).Table("summaries")
	if q.Custodian != "" {
		t = t.Where("custodian = ?", q.Custodian)
	}
	for _, w := range q.With {
		condition, known := homesWith[w]
		if !known {
			return nil, fmt.Errorf("homes with %q: %w", w, ErrNotFound)
		}
		t = t.Where(condition, daysFor(condition, q.Today)...)
	}
	for _, w := range q.Words {
		if m := match(w); m != "" {
			like := likeEscaper.Replace(w) + "%"
			t = t.Where(fits, m, like, like)
		}
	}
	key, descending := strings.CutPrefix(q.Sort, "-")
	if key == "" {
		key = "code"
	}
	by, known := homesBy[key]
	if !known {
		return nil, fmt.Errorf("homes by %q: %w", key, ErrNotFound)
	}
	order, beyond := by+", code", ">"
	if descending {
		order, beyond = by+" DESC, code DESC", "<"
	}
	if q.After != "" {
		t = t.Where(fmt.Sprintf("(%s, code) %s (SELECT %s, code FROM summaries WHERE code = ?)", by, beyond, by), q.After)
	}
	var out []Summary
	err := t.Order(order).Limit(q.Limit).Find(&out).Error
	return out, asStoreError(err)
}

// daysFor are the arguments of a condition over days.
func daysFor(condition string, today time.Time) []any {
	if !strings.Contains(condition, "@") {
		return nil
	}
	return []any{map[string]any{"today": today.Format(time.DateOnly), "fortnight": today.AddDate(0, 0, dueWithin).Format(time.DateOnly)}}
}

// CountHomes counts, over the whole firm, the homes that have each of the things a HomesQuery
// can ask for.
func (s *Store) CountHomes(ctx context.Context, today time.Time) (map[string]int, error) {
	var columns []string
	for _, what := range HomesWith() {
		columns = append(columns, fmt.Sprintf("count(*) FILTER (WHERE %s) AS %q", homesWith[what], what))
	}
	query := "SELECT " + strings.Join(columns, ", ") + " FROM summaries"
	found := map[string]any{}
	if err := s.reader.WithContext(ctx).Raw(query, daysFor(query, today)...).Scan(&found).Error; err != nil {
		return nil, err
	}
	out := map[string]int{}
	for what, n := range found {
		if n, whole := n.(int64); whole {
			out[what] = int(n)
		}
	}
	return out, nil
}

// mostFound bounds how many records are looked at for saying why homes were found.
const mostFound = 600

// Found returns, for each of these homes, up to three records that the words fit best.
func (s *Store) Found(ctx context.Context, words []string, homes []Summary) (map[string][]Found, error) {
	var any []string
	for _, w := range words {
		if m := match(w); m != "" {
			any = append(any, "("+m+")")
		}
	}
	ids := make([]string, len(homes))
	for i, h := range homes {
		ids[i] = h.HouseholdID
	}
	out := map[string][]Found{}
	if len(any) == 0 || len(ids) == 0 {
		return out, nil
	}
	var rows []Found
	err := s.reader.WithContext(ctx).Raw(`SELECT f.household_id, f.kind, f.record, f.label, t.words AS text
		FROM findable_text t JOIN findable f ON f.id = t.rowid WHERE findable_text MATCH ? AND f.household_id IN ? ORDER BY rank LIMIT ?`,
		strings.Join(any, " OR "), ids, mostFound).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		if len(out[r.HouseholdID]) < 3 {
			r.Text = fitting(r.Text, words)
			out[r.HouseholdID] = append(out[r.HouseholdID], r)
		}
	}
	return out, nil
}

// match writes a word in the language of FTS5: as the beginning of a word, or without its
// separators as the beginning of a key. It is "" for a word of signs alone.
func match(word string) string {
	key := dossier.Folded(word)
	if key == "" && !strings.ContainsFunc(word, func(r rune) bool { return r > 127 }) {
		return ""
	}
	m := `"` + strings.ReplaceAll(word, `"`, `""`) + `"*`
	if key != "" && strings.ContainsAny(key, "0123456789") {
		m += ` OR keys : "` + key + `"*`
	}
	return m
}

// fitting picks the text that holds one of the words, or the first.
func fitting(all string, words []string) string {
	texts := strings.Split(all, "\n")
	for _, t := range texts {
		low, key := strings.ToLower(t), dossier.Folded(t)
		for _, w := range words {
			if strings.Contains(low, strings.ToLower(w)) || dossier.Folded(w) != "" && strings.Contains(key, dossier.Folded(w)) {
				return t
			}
		}
	}
	return texts[0]
}
