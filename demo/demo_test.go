package demo_test

import (
	"fmt"
	"net/netip"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
	"kaiku/demo"
	"kaiku/practice"
	"kaiku/service"
	"kaiku/store"
)

// stand opens the practice houses of the demo.
func stand(t testing.TB) (houses []*practice.House) {
	for _, text := range demo.Houses(1) {
		form, octet, _ := strings.Cut(text, ":")
		n, err := strconv.Atoi(octet)
		require.NoError(t, err)
		h, err := practice.Build(form, byte(n))
		require.NoError(t, err)
		require.NoError(t, h.Start(t.Context()))
		t.Cleanup(h.Stop)
		houses = append(houses, h)
	}
	return houses
}

func fill(t testing.TB, today time.Time, codes ...string) (*service.Service, *store.Store) {
	stand(t)
	clock := demo.NewClock(today)
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{Now: clock.Now, Guard: true})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	s := service.New(st, service.Options{Now: clock.Now})
	require.NoError(t, demo.Fill(t.Context(), s, clock, 1, codes...))
	assert.True(t, clock.Now().Before(today), "the demo's history must lie in the past: %s", clock.Now())
	return s, st
}

var today = time.Date(2026, 3, 30, 8, 0, 0, 0, time.UTC)

func load(t testing.TB, st *store.Store, code string) *dossier.Dossier {
	home, err := st.HomeByCode(t.Context(), code)
	require.NoError(t, err)
	d, err := st.Load(t.Context(), home)
	require.NoError(t, err)
	return d
}

// The whole demo is built once, which takes its time, and looked at from several sides.
func TestTheWholeDemo(t *testing.T) {
	_, st := fill(t, today)
	t.Run("each home shows what it is there to show, and no other blocker", func(t *testing.T) { showsWhatItIsMeantTo(t, st) })
	t.Run("all of it is made up", func(t *testing.T) { isMadeUp(t, st) })
	t.Run("what is proven was carried out", func(t *testing.T) { isCarriedOut(t, st) })
}

func showsWhatItIsMeantTo(t *testing.T, st *store.Store) {
	for code, want := range map[string]struct {
		findings []string
		coverage proving.Coverage
	}{
		"H-0001": {[]string{"different-segments", "weak-signal", "same-channel-crowded", "behind", "ends-soon"}, proving.Coverage{Required: 19, Proven: 1, Failed: 1, Untried: 16, Waived: 1}},
		"H-0002": {[]string{"ends-soon"}, proving.Coverage{Required: 35, Proven: 25, Stale: 10}},
		"H-0003": {[]string{"outer-address-private", "listens-elsewhere"}, proving.Coverage{Required: 14, Untried: 13, NotServed: 1}},
		"H-0004": {[]string{"unknown-kind", "marks-kept-apart"}, proving.Coverage{Required: 27, Stale: 25, Untried: 2}},
		"H-0005": {[]string{"carrier-shared-address", "wake-impossible"}, proving.Coverage{Required: 6, Untried: 5, NotServed: 1}},
	} {
		d := load(t, st, code)
		var codes []string
		a := assess.Assess(d, knowledge.Knowledge{}, today)
		for _, f := range a.Findings {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, want.findings, codes, code)
		assert.Equal(t, want.coverage, a.Coverage, code)
		replayed := &dossier.Dossier{}
		journal, err := st.Journal(t.Context(), d.Home().ID, store.JournalQuery{})
		require.NoError(t, err)
		require.NoError(t, dossier.Apply(replayed, journal))
		assert.Equal(t, d, replayed, code)
	}
}

func TestTheKeepersHouseIsInTheMiddleOfCommissioning(t *testing.T) {
	_, st := fill(t, today, "H-0001")
	d := load(t, st, "H-0001")
	require.Len(t, d.Issues, 1)
	assert.Equal(t, dossier.IssueInHand, d.Issues[0].State)
	require.Len(t, d.Handovers, 1)
	assert.Equal(t, dossier.Offered, d.Handovers[0].State)
	for _, k := range dossier.Kinds {
		assert.NotZero(t, k.In(d).Len(), "the demo shows a "+k.Name)
	}
	journal, err := st.Journal(t.Context(), d.Home().ID, store.JournalQuery{})
	require.NoError(t, err)
	assert.WithinDuration(t, today.AddDate(0, 0, -21), journal[0].At, 24*time.Hour)
}

// The record of the house must say what its devices say of themselves.
func TestTheRecordFitsTheHouse(t *testing.T) {
	_, st := fill(t, time.Now(), "H-0001")
	d := load(t, st, "H-0001")
	h := practice.New(1)
	assert.Equal(t, h.Server.Address, netip.AddrPortFrom(d.AddressOf(d.Sources[0]), uint16(d.Sources[0].Port)))
	assert.Equal(t, h.Server.UDN, d.Sources[0].UDN)
	assert.Equal(t, h.Server.Name, d.Sources[0].ShownName)
	assert.Equal(t, h.Segment, d.Segments[0].Prefix)
}

// Only made-up data: telephone numbers, addresses and MAC addresses are of the kinds set
// aside for it.
func isMadeUp(t *testing.T, st *store.Store) {
	for n := 1; n <= 5; n++ {
		code := fmt.Sprintf("H-%04d", n)
		d := load(t, st, code)
		for _, c := range d.Home().Contacts {
			assert.Regexp(t, regexp.MustCompile(`^555-01\d\d$`), c.Phone)
			assert.Regexp(t, regexp.MustCompile(`@example\.org$`), c.Email)
		}
		for _, i := range d.Interfaces {
			assert.Regexp(t, regexp.MustCompile(`^.[26ae]:`), string(i.HardwareAddress), "locally administered")
			for _, a := range i.Addresses {
				if i.Facing == dossier.FacingOutside {
					continue
				}
				stands := n == 1 || n == 2 || n == 4
				assert.True(t, a.IsLoopback() == stands && (stands || a.IsPrivate()), "homes of which something is proven are on loopback, the others on paper: %s %s", code, a)
			}
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

// What is proven in the demo was carried out: no attempt says less than what was seen.
func isCarriedOut(t *testing.T, st *store.Store) {
	for _, a := range load(t, st, "H-0002").Attempts {
		assert.Equal(t, dossier.Pass, a.Outcome, "%s: %s", a.Test, a.Note)
		assert.Equal(t, "practice house", a.Conditions, a.Test)
		assert.Regexp(t, `\d|stopped when told to`, a.Note, "%s says what was seen", a.Test)
	}
}

func TestADemoWithBrokenHousesProvesNothing(t *testing.T) {
	houses := stand(t)
	require.NoError(t, houses[1].Switch("connection-refused", true))
	clock := demo.NewClock(today)
	st, err := store.Open(t.Context(), t.TempDir(), store.Options{Now: clock.Now})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, st.Close()) })
	require.NoError(t, demo.Fill(t.Context(), service.New(st, service.Options{Now: clock.Now}), clock, 1, "H-0002"))
	passed := map[string]bool{}
	for _, a := range load(t, st, "H-0002").Attempts {
		if a.Outcome == dossier.Pass {
			passed[a.Test] = true
		}
	}
	assert.Empty(t, passed)
}
