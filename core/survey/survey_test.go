package survey_test

import (
	"net/netip"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/core/survey"
	"kaiku/homes"
)

// gaps returns the codes at a stop, sorted.
func gaps(d *dossier.Dossier, room dossier.ID[dossier.Room]) []string {
	for _, s := range survey.Walk(d.Index()) {
		if s.Room == room {
			var out []string
			for _, g := range s.Gaps {
				out = append(out, g.Code)
			}
			slices.Sort(out)
			return out
		}
	}
	return nil
}

func TestWalkSaysWhatIsMissing(t *testing.T) {
	cellar, lamp := homes.RoomID(0), homes.RoomID(1)
	begun := []string{"no-hardware-address", "no-outlets", "no-photograph", "no-power", "no-serial"}
	put := func(d *dossier.Dossier, r dossier.Record) { homes.PutIn(d, 0, r) }
	for _, c := range []struct {
		name   string
		change func(*dossier.Dossier)
		room   dossier.ID[dossier.Room]
		want   []string
	}{
		{"a room with a server, as it was first seen", func(*dossier.Dossier) {}, cellar, begun},
		{"where a screen is, somebody must measure", func(*dossier.Dossier) {}, lamp, []string{"no-hardware-address", "no-outlets", "no-photograph", "no-power", "no-reading", "no-serial"}},
		{"where a film is wished too", func(d *dossier.Dossier) { put(d, dossier.Wish{What: dossier.WishKind(dossier.Film), Room: cellar}) }, cellar,
			[]string{"no-hardware-address", "no-outlets", "no-photograph", "no-power", "no-reading", "no-serial"}},
		{"a wish for the whole home asks no room", func(d *dossier.Dossier) { put(d, dossier.Wish{What: dossier.WishKind(dossier.Film)}) }, cellar, begun},
		{"an outlet is patched and tested", func(d *dossier.Dossier) { put(d, dossier.Outlet{Room: cellar, Name: "A1"}) }, cellar,
			[]string{"no-hardware-address", "no-photograph", "no-power", "no-serial", "outlet-unpatched", "outlet-untested"}},
		{"a coax outlet is not tested for its rate", func(d *dossier.Dossier) { put(d, dossier.Outlet{Room: cellar, Name: "A1", Cable: dossier.Coax}) }, cellar,
			[]string{"no-hardware-address", "no-photograph", "no-power", "no-serial"}},
		{"a device on radio has a signal", func(d *dossier.Dossier) { d.Interfaces[0].Medium = dossier.OnRadio }, cellar, append(slices.Clone(begun), "no-signal")},
		{"a signal read at its adapter counts", func(d *dossier.Dossier) {
			d.Interfaces[0].Medium = dossier.OnRadio
			put(d, dossier.Reading{What: dossier.SignalDbm, Value: -60, Subject: d.Interfaces[0].ID.Ref(), At: homes.Day})
		}, cellar, begun},
		{"a reading in the room counts", func(d *dossier.Dossier) {
			put(d, dossier.Reading{What: dossier.DownMbps, Value: 90, Room: lamp, At: homes.Day})
		}, lamp, begun},
		{"a photograph of a device counts for its room", func(d *dossier.Dossier) {
			put(d, dossier.Attachment{Subject: d.Interfaces[0].ID.Ref(), MediaType: "image/jpeg"})
		}, cellar, []string{"no-hardware-address", "no-outlets", "no-power", "no-serial"}},
		{"a text does not", func(d *dossier.Dossier) {
			put(d, dossier.Attachment{Subject: cellar.Ref(), MediaType: "text/plain"})
		}, cellar, begun},
		{"an empty room wants a photograph only", func(d *dossier.Dossier) { d.Devices[0].Room = lamp }, cellar, []string{"no-photograph"}},
		{"the home as a whole", func(*dossier.Dossier) {}, "", []string{"no-dhcp-server", "no-dhcp-server", "no-lease-pool", "no-lease-pool", "no-line", "no-router"}},
		{"a segment with a pool, served by a DHCP server of its own", func(d *dossier.Dossier) {
			d.Segments[0].PoolFirst = netip.MustParseAddr("10.20.4.100")
			put(d, dossier.DHCPServer{Device: d.Devices[0].ID, Segment: d.Segments[0].ID})
		}, "", []string{"no-dhcp-server", "no-lease-pool", "no-line", "no-router"}},
		{"a segment whose DHCP server is named", func(d *dossier.Dossier) {
			d.Segments[0].DHCPServers = []dossier.ID[dossier.Device]{d.Devices[0].ID}
		}, "", []string{"no-dhcp-server", "no-lease-pool", "no-lease-pool", "no-line", "no-router"}},
		{"a segment without DHCP wants neither", func(d *dossier.Dossier) { d.Segments[0].NoDHCP = true }, "", []string{"no-dhcp-server", "no-lease-pool", "no-line", "no-router"}},
		{"an outer address that is not the one that is seen from outside is known all the same", func(d *dossier.Dossier) {
			put(d, dossier.Line{Name: "fibre", DownMbps: 100, OuterAddress: netip.MustParseAddr("203.0.113.1"), SeenAddress: netip.MustParseAddr("203.0.113.2")})
			d.Segments = nil
		}, "", []string{"no-router", "no-segment"}},
		{"an adapter that faces outside, or has no address, needs no MAC address", func(d *dossier.Dossier) {
			d.Interfaces[0].Facing = dossier.FacingOutside
		}, cellar, []string{"no-outlets", "no-photograph", "no-power", "no-serial"}},
		{"an adapter without an address", func(d *dossier.Dossier) { d.Interfaces[0].Addresses = nil }, cellar, []string{"no-outlets", "no-photograph", "no-power", "no-serial"}},
		{"an outlet in another room is none here", func(d *dossier.Dossier) { put(d, dossier.Outlet{Room: lamp, Name: "A1"}) }, cellar, begun},
		{"a signal read at another device does not count", func(d *dossier.Dossier) {
			d.Interfaces[0].Medium = dossier.OnRadio
			put(d, dossier.Reading{What: dossier.SignalDbm, Value: -60, Subject: d.Devices[1].ID.Ref(), At: homes.Day})
		}, cellar, append(slices.Clone(begun), "no-signal")},
		{"a line nobody measured", func(d *dossier.Dossier) {
			put(d, dossier.Line{Name: "fibre"})
			d.Segments = nil
			d.Devices[0].Roles = []dossier.Role{dossier.RoleRouter}
		}, "", []string{"line-unmeasured", "no-outer-address", "no-segment"}},
		{"a device that stands nowhere, but for one that is carried about", func(d *dossier.Dossier) {
			d.Devices[0].Room, d.Devices[1].Room, d.Devices[1].Carried = "", "", true
			d.Devices[0].Serial, d.Devices[1].Serial = "1", "2"
			d.Interfaces = nil
		}, "", []string{"device-without-room", "no-adapter", "no-dhcp-server", "no-dhcp-server", "no-lease-pool", "no-lease-pool", "no-line", "no-router"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := homes.Small().Clone()
			c.change(d)
			assert.Equal(t, c.want, gaps(d, c.room))
		})
	}
}

// A gap that was answered is gone at its subject, and there alone; the answer is kept.
func TestAnAnswerHoldsForItsSubject(t *testing.T) {
	d := homes.Small().Clone()
	homes.PutIn(d, 0, dossier.GapAnswer{Gap: "no-serial", Subject: d.Devices[0].ID.Ref(), Answer: dossier.NoneHere})
	homes.PutIn(d, 1, dossier.GapAnswer{Gap: "no-power", Subject: d.Devices[0].ID.Ref(), Answer: dossier.NoneHere})
	assert.NotContains(t, gaps(d, homes.RoomID(0)), "no-serial")
	assert.Contains(t, gaps(d, homes.RoomID(0)), "no-power", "an answer about something else")
	assert.Contains(t, gaps(d, homes.RoomID(1)), "no-serial")
	for _, stop := range survey.Walk(d.Index()) {
		answered := 0
		if stop.Room == homes.RoomID(0) {
			answered = 1
		}
		assert.Len(t, stop.Answered, answered, "%s", stop.Room)
	}
}

func TestWalkGoesByFloorThenFromTheStairs(t *testing.T) {
	d := homes.Small().Clone()
	for n, r := range []dossier.Room{{Name: "attic", Floor: 2}, {Name: "kitchen", Order: 2}, {Name: "hall", Order: 1}} {
		homes.PutIn(d, n+5, r)
	}
	var names []string
	for _, s := range survey.Walk(d.Index()) {
		names = append(names, d.Label(s.Room.Ref()))
	}
	assert.Equal(t, []string{"cellar", "hall", "kitchen", "attic", "lamp room", ""}, names)
}

// Whatever is recorded: every gap is a declared one, its subject is there, and filling the members
// that it names is possible.
func TestEveryGapIsDeclared(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := homes.Draw(t)
		for _, s := range survey.Walk(d.Index()) {
			for _, g := range s.Gaps {
				i := slices.IndexFunc(survey.GapKinds, func(k survey.GapKind) bool { return k.Name == g.Code })
				require.GreaterOrEqual(t, i, 0, g.Code)
				kind := survey.GapKinds[i]
				require.NotNil(t, dossier.KindNamed(kind.Kind))
				for _, m := range kind.Members {
					_, ok := dossier.KindNamed(kind.Kind).Field(m)
					require.True(t, ok, m)
				}
				if len(kind.Members) > 0 {
					require.Equal(t, kind.Kind, g.Subject.Kind, g.Code)
				}
				require.True(t, g.Subject == dossier.Ref{} || d.Has(g.Subject))
			}
		}
	})
}

func TestFindingsStandInTheRoomOfWhatIsToBeChanged(t *testing.T) {
	d := homes.Small().Clone()
	d.Interfaces[1].Addresses = nil
	d.Folders[0].ItemsOnDisk, d.Folders[0].ItemsInIndex = 2, 1
	d.Segments[1].Prefix = d.Segments[0].Prefix
	by := survey.ByRoom(d, network.Findings(d.Index(), knowledge.Knowledge{}, time.Time{}))
	require.Len(t, by[homes.RoomID(0)], 1, "a folder is in the room of its server")
	assert.Equal(t, "titles-missing", by[homes.RoomID(0)][0].Code)
	assert.Equal(t, "segments-overlap", by[""][0].Code)
}
