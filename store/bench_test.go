package store_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/dossier/homes"
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

// report prints what was aimed at, what was measured and their ratio.
func report(b *testing.B, aim time.Duration) {
	measured := b.Elapsed() / time.Duration(b.N)
	b.ReportMetric(float64(aim.Microseconds())/1000, "aim-ms")
	b.ReportMetric(float64(measured.Microseconds())/1000, "measured-ms")
	b.ReportMetric(float64(measured)/float64(aim), "measured/aim")
}

func benchStore(b *testing.B) (*store.Store, dossier.ID[dossier.Household]) {
	s, err := store.Open(context.Background(), b.TempDir(), store.Options{})
	require.NoError(b, err)
	b.Cleanup(func() { _ = s.Close() })
	require.NoError(b, s.AddPerson(context.Background(), store.Person{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician", PasswordHash: "x"}))
	return s, putHome(b, s, large(600))
}

func BenchmarkOpenHomeCached(b *testing.B) {
	s, home := benchStore(b)
	for b.Loop() {
		_, err := s.Load(context.Background(), home)
		require.NoError(b, err)
	}
	report(b, 100*time.Microsecond)
}

func BenchmarkOpenHomeCold(b *testing.B) {
	s, home := benchStore(b)
	for b.Loop() {
		s.Forget(home)
		_, err := s.Load(context.Background(), home)
		require.NoError(b, err)
	}
	report(b, 15*time.Millisecond)
}

func BenchmarkWriteInAHomeOf600Records(b *testing.B) {
	s, home := benchStore(b)
	n := 0
	for b.Loop() {
		n++
		_, err := s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
			d.Rooms[0].Note = fmt.Sprint(n)
			return nil
		})
		require.NoError(b, err)
	}
	report(b, 4*time.Millisecond)
}
