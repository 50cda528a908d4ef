package store_test

import (
	"context"
	"fmt"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/store"
)

// quay begins a home of one server with an adapter.
func quay(t require.TestingT, s *store.Store, n int, change func(*dossier.Dossier)) {
	h := dossier.Household{Code: fmt.Sprintf("H-%04d", n), Name: fmt.Sprintf("Quay House %d", n), Custodian: homes.Person,
		Contacts: []dossier.Contact{{Name: "Aune Järvi", Phone: fmt.Sprintf("555-01%02d", n%100)}}}
	h.ID = homes.ID[dossier.Household](10_000 + n)
	_, err := s.Create(context.Background(), h, store.Cause{Actor: homes.Person})
	require.NoError(t, err)
	_, err = s.Write(context.Background(), h.ID, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error {
		server := dossier.Device{Name: "granite server", Roles: []dossier.Role{"server"}, Serial: fmt.Sprintf("TK-4471-%02d", n)}
		server.ID = homes.ID[dossier.Device](10_000 + n)
		eth := dossier.Interface{Device: server.ID, Name: "eth0", HardwareAddress: dossier.HardwareAddr(fmt.Sprintf("02:4b:49:00:%02x:10", n)), Addresses: []netip.Addr{netip.MustParseAddr(fmt.Sprintf("10.20.%d.10", n))}}
		eth.ID = homes.ID[dossier.Interface](10_000 + n)
		d.Devices.Put(server)
		d.Interfaces.Put(eth)
		if change != nil {
			change(d)
		}
		return nil
	})
	require.NoError(t, err)
}

func codes(list []store.Summary) string {
	var out []string
	for _, h := range list {
		out = append(out, h.Code)
	}
	return strings.Join(out, " ")
}

func TestHomesAreFoundByWhatPeopleReadOut(t *testing.T) {
	s := open(t, t.TempDir())
	defer func() { assert.NoError(t, s.Close()) }()
	quay(t, s, 1, nil)
	quay(t, s, 2, func(d *dossier.Dossier) {
		i := dossier.Issue{Symptom: "Lamp room stutters after \"ten\" minutes", State: "open", OpenedBy: homes.Person, OpenedAt: homes.Day}
		i.ID = homes.ID[dossier.Issue](500)
		d.Issues.Put(i)
	})
	for _, c := range []struct{ name, words, want, why string }{
		{"a code", "H-0002", "H-0002", "H-0002"},
		{"a code without its sign", "h0002", "H-0002", "H-0002"},
		{"a beginning", "qua", "H-0001 H-0002", "Quay House 1"},
		{"without the dots of its letters", "jarvi", "H-0001 H-0002", ""},
		{"a telephone number with blanks", "555 0102", "H-0002", "555-0102"},
		{"a telephone number in one", "5550101", "H-0001", "555-0101"},
		{"a serial without its signs", "tk447102", "H-0002", "TK-4471-02"},
		{"an address", "10.20.2.10", "H-0002", "10.20.2.10"},
		{"a hardware address as recorded", "02:4b:49:00:02:10", "H-0002", "02:4b:49:00:02:10"},
		{"with points", "024b.4900.0210", "H-0002", "02:4b:49:00:02:10"},
		{"with hyphens, in capitals", "02-4B-49-00-01-10", "H-0001", "02:4b:49:00:01:10"},
		{"its last four", "0110", "H-0001", "02:4b:49:00:01:10"},
		{"an issue's text", "stutters", "H-0002", "Lamp room stutters after \"ten\" minutes"},
		{"words of two records", "stutters granite", "H-0002", ""},
		{"whoever has it", "petri", "H-0001 H-0002", ""},
		{"nothing", "no-such-thing", "", ""},
		{"signs alone are no word", "-- ()", "H-0001 H-0002", ""},
		{"what would be a command of the index", "\"AND NEAR(", "", ""},
	} {
		words := strings.Fields(c.words)
		list, err := s.Homes(t.Context(), store.HomesQuery{Words: words, Limit: 10})
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, codes(list), c.name)
		found, err := s.Found(t.Context(), words, list)
		require.NoError(t, err, c.name)
		if c.why != "" {
			require.NotEmpty(t, found[list[0].HouseholdID], c.name)
			assert.Equal(t, c.why, found[list[0].HouseholdID][0].Text, c.name)
		}
	}
}

func TestTheIndexFollowsChangesAndNames(t *testing.T) {
	s := open(t, t.TempDir())
	defer func() { assert.NoError(t, s.Close()) }()
	quay(t, s, 1, nil)
	home := homes.ID[dossier.Household](10_001)
	label := func(words ...string) string {
		list, err := s.Homes(t.Context(), store.HomesQuery{Words: words, Limit: 10})
		require.NoError(t, err)
		found, err := s.Found(t.Context(), words, list)
		require.NoError(t, err)
		if len(list) == 0 {
			return ""
		}
		return found[list[0].HouseholdID][0].Label
	}
	change := func(do func(*dossier.Dossier)) {
		_, err := s.Write(t.Context(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { do(d); return nil })
		require.NoError(t, err)
	}
	assert.Equal(t, "granite server eth0", label("10.20.1.10"))
	change(func(d *dossier.Dossier) { d.Devices[0].Name = "slate server" })
	assert.Equal(t, "slate server eth0", label("10.20.1.10"), "an adapter is called after its device")
	assert.Empty(t, label("granite"))
	change(func(d *dossier.Dossier) { d.Devices.Delete(d.Devices[0].ID) })
	assert.Empty(t, label("10.20.1.10"), "it went along with its device")
}

// Whatever is written in whatever order, the index is the one that is made from what is stored.
func TestTheIndexIsThatOfWhatIsStored(t *testing.T) {
	dir := t.TempDir()
	n := 0
	rapid.Check(t, func(t *rapid.T) {
		n++
		folder := fmt.Sprintf("%s/%d", dir, n)
		s := open(t, folder)
		defer s.Close()
		d := &dossier.Dossier{}
		homes.Edit(t, d)
		home := putHome(t, s, d)
		for range rapid.IntRange(1, 5).Draw(t, "writes") {
			_, _ = s.Write(context.Background(), home, store.Cause{Actor: homes.Person}, func(d *dossier.Dossier) error { homes.Edit(t, d); return nil })
		}
		kept, err := s.IndexText(context.Background())
		require.NoError(t, err)
		require.NoError(t, s.IndexAnew(context.Background()))
		made, err := s.IndexText(context.Background())
		require.NoError(t, err)
		require.Equal(t, made, kept)
	})
}

func TestHomesFilteredSortedAndPaged(t *testing.T) {
	s := open(t, t.TempDir())
	defer func() { assert.NoError(t, s.Close()) }()
	for n := 1; n <= 6; n++ {
		quay(t, s, n, func(d *dossier.Dossier) {
			due := dossier.Due{What: "trial ends", Kind: "licence", On: dossier.Date(homes.Day.AddDate(0, 0, 5*n).Format("2006-01-02"))}
			due.ID = homes.ID[dossier.Due](700 + n)
			if n > 2 {
				d.Dues.Put(due)
			}
			if n%2 == 0 {
				w := dossier.LongTask{What: "first index", ExpectedAt: homes.Day, CheckedBy: homes.Person}
				w.ID = homes.ID[dossier.LongTask](700 + n)
				d.LongTasks.Put(w)
			}
		})
	}
	list := func(q store.HomesQuery) string {
		q.Today = homes.Day
		if q.Limit == 0 {
			q.Limit = 10
		}
		out, err := s.Homes(t.Context(), q)
		require.NoError(t, err)
		return codes(out)
	}
	assert.Equal(t, "H-0002 H-0004 H-0006", list(store.HomesQuery{With: []string{"long-tasks"}}))
	assert.Empty(t, list(store.HomesQuery{With: []string{"due"}}), "the first is due after 15 days")
	assert.Equal(t, "H-0003 H-0004 H-0005 H-0006 H-0001 H-0002", list(store.HomesQuery{Sort: "due"}))
	assert.Equal(t, "H-0006 H-0005 H-0004", list(store.HomesQuery{Sort: "-code", Limit: 3}))
	for _, by := range store.HomesBy() {
		for _, sign := range []string{"", "-"} {
			var got []string
			for after := ""; ; {
				page := list(store.HomesQuery{Sort: sign + by, After: after, Limit: 2})
				if page == "" {
					break
				}
				got = append(got, page)
				after = page[len(page)-6:]
			}
			assert.Equal(t, list(store.HomesQuery{Sort: sign + by}), strings.Join(got, " "), "pages by %s%s are the whole", sign, by)
		}
	}
	counts, err := s.CountHomes(t.Context(), homes.Day)
	require.NoError(t, err)
	for _, with := range store.HomesWith() {
		fits := strings.Fields(list(store.HomesQuery{With: []string{with}}))
		assert.Len(t, fits, counts[with], with)
	}
	assert.Equal(t, 3, counts["long-tasks"])
	_, err = s.Homes(t.Context(), store.HomesQuery{With: []string{"charm"}, Limit: 1})
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Homes(t.Context(), store.HomesQuery{Sort: "charm", Limit: 1})
	require.ErrorIs(t, err, store.ErrNotFound)
}
