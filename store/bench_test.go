package store_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/summary"
	"kaiku/homes"
	"kaiku/store"
)

// large is the small home with as many attempts as make it hold n records.
func large(n int) *dossier.Dossier {
	d := homes.Small().Clone()
	for i := range n {
		a := dossier.Attempt{Test: "plays", Subjects: []dossier.Ref{d.Paths[0].ID.Ref()}, Outcome: dossier.Pass, How: dossier.ByEye, By: homes.Person,
			At: homes.Day.Add(time.Duration(i) * time.Minute), Note: "The Long Ebb, three minutes", Facts: []dossier.Fact{{Subject: d.Paths[0].ID.Ref(), Name: "mode", Value: "through-server"}}}
		a.ID = homes.AttemptID(1000 + i)
		d.Attempts.Put(a)
	}
	return d
}

// report prints what was aimed at and measured. Where plain database/sql did the same work on
// the same file, its time and the ratio stand beside it; aim is then a ratio.
func report(b *testing.B, aim float64, plain time.Duration) {
	measured := b.Elapsed() / time.Duration(b.N)
	b.ReportMetric(float64(measured.Microseconds())/1000, "measured-ms")
	if plain > 0 {
		b.ReportMetric(float64(plain.Microseconds())/1000, "plain-ms")
		b.ReportMetric(float64(measured)/float64(plain), "ratio")
		b.ReportMetric(aim, "aim-ratio")
		return
	}
	b.ReportMetric(aim, "aim-ms")
	b.ReportMetric(float64(measured.Microseconds())/1000/aim, "ratio")
}

// plainly times work of plain database/sql on the file.
func plainly(b *testing.B, dir string, n int, work func(*sql.DB)) time.Duration {
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, store.FileName)+"?_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_txlock=immediate")
	require.NoError(b, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	work(db)
	began := time.Now()
	for range n {
		work(db)
	}
	return time.Since(began) / time.Duration(n)
}

func benchStore(b *testing.B) (s *store.Store, dir string, home dossier.ID[dossier.Household]) {
	dir = b.TempDir()
	s, err := store.Open(context.Background(), dir, store.Options{})
	require.NoError(b, err)
	b.Cleanup(func() { _ = s.Close() })
	require.NoError(b, s.AddPerson(context.Background(), store.Person{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician", PasswordHash: "x"}))
	return s, dir, putHome(b, s, large(600))
}

// readPlainly reads all rows of a home as a hand-written program would: each column scanned, what
// is JSON decoded.
func readPlainly(b *testing.B, home dossier.ID[dossier.Household]) func(*sql.DB) {
	return func(db *sql.DB) {
		for _, k := range dossier.Kinds {
			rows, err := db.Query("SELECT * FROM "+k.Table()+" WHERE household_id = ? ORDER BY id", home)
			require.NoError(b, err)
			columns, err := rows.Columns()
			require.NoError(b, err)
			for rows.Next() {
				cells, into := make([]sql.NullString, len(columns)), make([]any, len(columns))
				for i := range cells {
					into[i] = &cells[i]
				}
				require.NoError(b, rows.Scan(into...))
				for _, c := range cells {
					if c.Valid && c.String != "" && (c.String[0] == '[' || c.String[0] == '{') {
						var v any
						require.NoError(b, json.Unmarshal([]byte(c.String), &v))
					}
				}
			}
			require.NoError(b, rows.Close())
		}
	}
}

func BenchmarkOpenHomeCached(b *testing.B) {
	s, dir, home := benchStore(b)
	plain := plainly(b, dir, 20, readPlainly(b, home))
	for b.Loop() {
		_, err := s.Load(context.Background(), home)
		require.NoError(b, err)
	}
	report(b, 1, plain)
}

func BenchmarkOpenHomeCold(b *testing.B) {
	s, dir, home := benchStore(b)
	plain := plainly(b, dir, 20, readPlainly(b, home))
	for b.Loop() {
		s.Forget(home)
		_, err := s.Load(context.Background(), home)
		require.NoError(b, err)
	}
	report(b, 2.5, plain)
}

// The door's write of one attempt, and beside it a transaction that inserts the same row and a
// journal row and updates the summary, without a check of any kind.
func BenchmarkWriteInAHomeOf600Records(b *testing.B) {
	s, dir, home := benchStore(b)
	n := 0
	write := func() {
		n++
		_, err := s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			a := d.Attempts[0]
			a.ID = homes.AttemptID(100_000 + n)
			d.Attempts.Put(a)
			return nil
		})
		require.NoError(b, err)
	}
	for b.Loop() {
		write()
	}
	measured := b.Elapsed() / time.Duration(b.N)
	m := 0
	raw := plainly(b, dir, 50, func(db *sql.DB) {
		m++
		tx, err := db.Begin()
		require.NoError(b, err)
		_, err = tx.Exec("INSERT INTO attempts (id, household_id, revision, test, subjects, outcome, how, \"by\", at) VALUES (?, ?, 1, 'plays', '[]', 'pass', 'by-eye', ?, '2026-11-25T12:00:00.000Z')", fmt.Sprintf("raw-%d", m), home, homes.Person)
		require.NoError(b, err)
		_, err = tx.Exec("INSERT INTO journal (household_id, revision, n, at, \"by\", why, act, kind, record) VALUES (?, ?, 1, '2026-11-25T12:00:00.000Z', ?, '', 'added', 'attempt', 'x')", home, 1_000_000+m, homes.Person)
		require.NoError(b, err)
		_, err = tx.Exec("UPDATE summaries SET computed = '{}' WHERE household_id = ?", home)
		require.NoError(b, err)
		require.NoError(b, tx.Commit())
	})
	b.ReportMetric(4, "aim-ms")
	b.ReportMetric(float64(measured.Microseconds())/1000, "measured-ms")
	b.ReportMetric(float64(raw.Microseconds())/1000, "plain-ms")
	b.ReportMetric(float64(measured)/float64(raw), "ratio")
}

// firm has 20,000 households in its list.
func firm(b *testing.B) (*store.Store, string) {
	s, dir, _ := benchStore(b)
	require.NoError(b, s.Exec(context.Background(), fmt.Sprintf(`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 20000)
		INSERT INTO summaries (household_id, code, name, custodian, revision, changed_at, offered_to, computed, computed_as)
		SELECT 'home-' || i, printf('H-%%05d', i + 20000), 'Quay House ' || i, '%s', 1, '2026-11-25T12:00:00.000Z', '', printf('{"required":10,"proven":%%d,"unproven":%%d,"stale":%%d,"blockers":%%d,"openIssues":%%d,"dueOn":"","offeredTo":""}', i %% 10, 10 - i %% 10, i %% 3, i %% 7, i %% 5), '%s 1' FROM n`, homes.Person, summary.Version)))
	require.NoError(b, s.Exec(context.Background(), `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 20000)
		INSERT INTO findable (id, household_id, kind, record, label) SELECT 100000 + i, 'home-' || i, 'household', 'r' || i, 'Quay House ' || i FROM n`))
	require.NoError(b, s.Exec(context.Background(), `INSERT INTO findable_text (rowid, words, keys)
		SELECT id, label || char(10) || printf('555-%07d', id), printf('555%07d', id) FROM findable WHERE id > 100000`))
	return s, dir
}

func BenchmarkList50Of20000(b *testing.B) {
	s, dir := firm(b)
	plain := plainly(b, dir, 50, func(db *sql.DB) {
		rows, err := db.Query("SELECT * FROM summaries WHERE code > 'H-30000' ORDER BY code LIMIT 50")
		require.NoError(b, err)
		cells, into := make([]sql.NullString, 9), make([]any, 9)
		for i := range cells {
			into[i] = &cells[i]
		}
		columns, err := rows.Columns()
		require.NoError(b, err)
		for rows.Next() {
			require.NoError(b, rows.Scan(into[:len(columns)]...))
		}
		require.NoError(b, rows.Close())
	})
	for b.Loop() {
		list, err := s.Homes(context.Background(), store.HomesQuery{After: "H-30000", Limit: 50})
		require.NoError(b, err)
		require.Len(b, list, 50)
	}
	report(b, 2, plain)
}

func BenchmarkFindATelephoneAmong20000(b *testing.B) {
	s, _ := firm(b)
	for b.Loop() {
		words := []string{"5550107777"}
		list, err := s.Homes(context.Background(), store.HomesQuery{Words: words, Limit: 50})
		require.NoError(b, err)
		require.Len(b, list, 1)
		_, err = s.Found(context.Background(), words, list)
		require.NoError(b, err)
	}
	report(b, 20, 0)
}
