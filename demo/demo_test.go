package demo_test

import (
	"fmt"
	"net/netip"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/demo"
	"kaiku/practice"
	"kaiku/service"
	"kaiku/store"
)

func fill(t *testing.T, today time.Time) (*service.Service, *store.Store) {
	clock := demo.NewClock(today)
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{Now: clock.Now, Guard: true})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := service.New(st, service.Options{Now: clock.Now})
	require.NoError(t, demo.Fill(t.Context(), s, clock, 1))
	assert.True(t, clock.Now().Before(today), "the demo's history must lie in the past: %s", clock.Now())
	return s, st
}

func TestTheKeepersHouseShowsWhatItIsMeantTo(t *testing.T) {
	today := time.Date(2026, 3, 30, 8, 0, 0, 0, time.UTC)
	_, st := fill(t, today)
	home, err := st.HomeByCode(t.Context(), "H-0001")
	require.NoError(t, err)
	d, err := st.Load(t.Context(), home)
	require.NoError(t, err)

	found := network.Findings(d, today)
	require.Len(t, found, 1, "the stick on the guest segment, and nothing else")
	assert.Equal(t, "different-segments", found[0].Code)
	assert.Equal(t, proving.Coverage{Required: 17, Proven: 1, Failed: 1, Untried: 14, Excepted: 1}, proving.Cover(proving.Standings(d)))
	require.Len(t, d.Issues, 1)
	assert.Equal(t, dossier.IssueInHand, d.Issues[0].State)
	require.Len(t, d.Handovers, 1)
	assert.Equal(t, dossier.Offered, d.Handovers[0].State)
	for _, k := range dossier.Kinds {
		assert.NotZero(t, k.In(d).Len(), "the demo shows a "+k.Name)
	}
	journal, err := st.Journal(t.Context(), home, store.JournalQuery{})
	require.NoError(t, err)
	assert.WithinDuration(t, today.AddDate(0, 0, -21), journal[0].At, 24*time.Hour)
	replayed := &dossier.Dossier{}
	require.NoError(t, dossier.Apply(replayed, journal))
	assert.Equal(t, d, replayed)
}

// The record of the house must say what its devices say of themselves.
func TestTheRecordFitsTheHouse(t *testing.T) {
	_, st := fill(t, time.Now())
	home, err := st.HomeByCode(t.Context(), "H-0001")
	require.NoError(t, err)
	d, err := st.Load(t.Context(), home)
	require.NoError(t, err)
	h := practice.New(1)
	assert.Equal(t, h.Server.Address, netip.AddrPortFrom(d.AddressOf(d.Sources[0]), uint16(d.Sources[0].Port)))
	assert.Equal(t, h.Server.UDN, d.Sources[0].UDN)
	assert.Equal(t, h.Server.Name, d.Sources[0].ShownName)
	assert.Equal(t, h.Segment, d.Segments[0].Prefix)
}

// Only made-up data: telephone numbers and hardware addresses are of the kinds set aside for it.
func TestTheDemoIsMadeUp(t *testing.T) {
	_, st := fill(t, time.Now())
	home, err := st.HomeByCode(t.Context(), "H-0001")
	require.NoError(t, err)
	d, err := st.Load(t.Context(), home)
	require.NoError(t, err)
	for _, c := range d.Home().Contacts {
		assert.Regexp(t, regexp.MustCompile(`^555-01\d\d$`), c.Phone)
		assert.Regexp(t, regexp.MustCompile(`@example\.org$`), c.Email)
	}
	for _, i := range d.Interfaces {
		assert.Regexp(t, regexp.MustCompile(`^.[26ae]:`), string(i.HardwareAddress), "locally administered")
		for _, a := range i.Addresses {
			assert.True(t, a.IsLoopback(), "the living house is on loopback: %s", a)
		}
	}
}

func TestTheStoryNamesItsOwnHouse(t *testing.T) {
	for _, octet := range []byte{7, 100} {
		text := fmt.Sprint(demo.Story(octet))
		assert.Contains(t, text, fmt.Sprintf("127.77.%d.10", octet))
		assert.NotContains(t, text, "HOME")
		assert.NotContains(t, text, "GUEST")
	}
	assert.Greater(t, len(demo.Story(7)), 50)
}
