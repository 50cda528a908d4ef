package service_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// Visits, waits, dates and waivers come up for whom they concern, when they do.
func TestTodaySaysVisitsWaitsAndDates(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{Now: func() time.Time { return noon }, Guard: true})
	require.NoError(t, err)
	defer func() { require.NoError(t, st.Close()) }()
	s := service.New(st, service.Options{Now: func() time.Time { return noon }})
	as := map[string]service.Actor{}
	for login, role := range map[string]service.Role{"petri": service.Technician, "maarit": service.Technician, "aino": service.Lead} {
		p, err := s.AddPerson(t.Context(), login, login, role, "a long password")
		require.NoError(t, err)
		as[login] = service.Actor{ID: p.ID, Name: p.Name, Role: role, Now: noon}
	}
	d, err := s.Begin(t.Context(), as["petri"], wire.NewHousehold{Code: "H-0001", Name: "Quay House"}, service.Request{})
	require.NoError(t, err)
	_, err = st.Write(context.Background(), d.Home().ID, store.Cause{Actor: as["petri"].ID}, func(d *dossier.Dossier) error {
		id := func(n string) string { return "01990000-0000-7000-8000-0000000000" + n }
		visit := func(n string, who string, starts time.Time, outcome string) {
			v := dossier.Visit{Purpose: "visit " + n, Technician: as[who].ID, Starts: starts, Outcome: outcome}
			v.ID = dossier.ID[dossier.Visit](id(n))
			d.Visits.Put(v)
		}
		visit("10", "maarit", noon.Add(-3*time.Hour), "")
		visit("11", "maarit", noon.AddDate(0, 0, 6), "")
		visit("12", "maarit", noon.AddDate(0, 0, 9), "")
		visit("13", "maarit", noon.Add(-2*time.Hour), "all proven")
		visit("14", "petri", noon.AddDate(0, 0, -1), "")
		wait := func(n string, expected, ended time.Time) {
			w := dossier.LongTask{What: "index " + n, ExpectedAt: expected, CheckedBy: as["maarit"].ID, EndedAt: ended}
			w.ID = dossier.ID[dossier.LongTask](id(n))
			d.LongTasks.Put(w)
		}
		wait("20", noon.Add(-time.Hour), time.Time{})
		wait("21", noon.Add(5*time.Hour), time.Time{})
		wait("22", noon.AddDate(0, 0, 3), time.Time{})
		wait("23", noon.Add(-time.Hour), noon)
		due := func(n string, on dossier.Date, who dossier.PersonID, done time.Time) {
			v := dossier.Due{What: "date " + n, Kind: "trial", On: on, Who: who, DoneAt: done}
			v.ID = dossier.ID[dossier.Due](id(n))
			d.Dues.Put(v)
		}
		due("30", "2026-11-20", "", time.Time{})
		due("31", "2026-12-09", "", time.Time{})
		due("32", "2026-12-10", "", time.Time{})
		due("33", "2026-11-20", "", noon)
		due("34", "2026-11-26", as["maarit"].ID, time.Time{})
		i := dossier.Issue{Symptom: "no sound", State: dossier.IssueInHand, Owner: as["petri"].ID, NextStep: "call", PromisedUntil: noon.Add(-time.Minute), OpenedBy: as["petri"].ID, OpenedAt: noon}
		i.ID = dossier.ID[dossier.Issue](id("40"))
		d.Issues.Put(i)
		e := dossier.Waiver{Test: "plays", Subjects: []dossier.Ref{{Kind: "issue", ID: id("40")}}, Why: "no screen yet", Until: "2026-11-25", By: as["aino"].ID, At: noon}
		e.ID = dossier.ID[dossier.Waiver](id("50"))
		d.Waivers.Put(e)
		return nil
	})
	require.NoError(t, err)
	for who, want := range map[string][]string{
		"petri":  {"Promised by 25 Nov 11:59 and still not closed: no sound", "Was due on 20 Nov 2026: date 30", "Issue in hand: no sound", "Due on 9 Dec 2026: date 31"},
		"maarit": {"Visit on 25 Nov 09:00: visit 10", "Visit on 1 Dec 12:00: visit 11", "Check index 20, expected to have finished on 25 Nov 11:00", "Running until about 25 Nov 17:00: index 21", "Due on 26 Nov 2026: date 34"},
		"aino":   {"Waiver due for review since 25 Nov 2026: Plays, no sound"},
	} {
		today, err := s.Today(t.Context(), as[who])
		require.NoError(t, err)
		var got []string
		for _, w := range today.Waiting {
			got = append(got, w.Sentence)
		}
		assert.Equal(t, want, got, who)
	}
}
