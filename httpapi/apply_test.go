package httpapi_test

import (
	"context"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

const loft = `
household:
  name: Net Loft
  accessNotes: "Key at the harbour office, dog: friendly"
rooms:
  - {name: store, floor: -1}
  - {name: loft, floor: 1, order: 2}
paths:               # before what it refers to: the order is that of the kinds
  - {name: loft films, device: loft screen, source: media, folders: [Films], kind: av-pull, foundBy: multicast}
segments:
  - {name: home, prefix: 10.20.4.0/24, dhcpServers: [store server]}
devices:
  - {name: store server, room: store, roles: [server], serial: 0042, firmware: 3.10}
  - {name: loft screen, room: loft, roles: [screen, renderer]}
interfaces:
  - {device: store server, name: eth0, addresses: [10.20.4.10], segment: home}
  - {device: loft screen, name: eth0, addresses: [10.20.4.21], segment: home}
sources:
  - {device: store server, name: media, protocol: upnp-av, port: 40210}
folders:
  - {source: media, name: Films, contentKind: film, itemsOnDisk: 3}
visits:
  - {purpose: set it up, technician: maarit, starts: 2026-11-25T09:00:00Z}
readings:
  - {what: signal-dbm, value: -61, subject: device/loft screen, how: read, at: 2026-11-25T10:00:00Z}
`

// A home is entered with one document and given the next code; the same document again changes nothing.
func TestAHomeIsEnteredAtOnce(t *testing.T) {
	s := newSite(t, nil)
	ctx, petri := t.Context(), s.as["petri"]
	s.home("H-0041")
	would, err := petri.ApplyNew(ctx, []byte(loft), true)
	require.NoError(t, err)
	assert.True(t, would.Dry)
	assert.False(t, would.Written)
	_, err = petri.Overview(ctx, "H-0042")
	assert.True(t, client.IsProblem(err, "no-such-household"), "nothing is written on a dry run")

	done, err := petri.ApplyNew(ctx, []byte(loft), false)
	require.NoError(t, err)
	require.True(t, done.Written, "%+v", done.Lines)
	assert.Equal(t, "H-0042", done.Code)
	d, err := petri.Dossier(ctx, done.Code)
	require.NoError(t, err)
	o, err := petri.Overview(ctx, done.Code)
	require.NoError(t, err)
	assert.Equal(t, uint64(1), o.Revision, "one revision")
	assert.Equal(t, "Key at the harbour office, dog: friendly", d.Home().AccessNotes)
	assert.Equal(t, []string{"0042", "3.10"}, []string{d.Devices[0].Serial, d.Devices[0].Firmware}, "a text stays as it is written")
	assert.Equal(t, []dossier.ID[dossier.Folder]{d.Folders[0].ID}, d.Paths[0].Folders)
	assert.Equal(t, []dossier.ID[dossier.Device]{d.Devices[0].ID}, d.Segments[0].DHCPServers)

	again, err := petri.Apply(ctx, done.Code, []byte(loft), false)
	require.NoError(t, err)
	assert.Equal(t, map[string]int{wire.LineSame: len(again.Lines)}, again.Counts, "%+v", again.Lines)
	o, err = petri.Overview(ctx, done.Code)
	require.NoError(t, err)
	assert.Equal(t, uint64(1), o.Revision)
}

func TestADocumentIsAppliedWhollyOrNotAtAll(t *testing.T) {
	s := newSite(t, nil)
	ctx, petri := t.Context(), s.as["petri"]
	s.home("H-0701")
	done, err := petri.Apply(ctx, "H-0701", []byte(`{"rooms": [{"name": "cellar", "note": "damp"}, {"name": "attic"}]}`), false)
	require.NoError(t, err)
	assert.True(t, done.Written, "JSON is read too")
	assert.Equal(t, map[string]int{wire.LineChanged: 1, wire.LineAdded: 1}, done.Counts)
	then, err := petri.Overview(ctx, "H-0701")
	require.NoError(t, err)
	before, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, "damp", before.Rooms[0].Note)
	assert.Equal(t, -1, before.Rooms[0].Floor, "what the document does not mention stays")
	for _, c := range []struct{ name, document, says string }{
		{"a name that there is not", "devices:\n- {name: x, room: moon}\n", `room: there is no room called "moon"`},
		{"a value that cannot be", "segments:\n- {name: x, prefix: 10.300.0.0/24}\n", "is not a prefix"},
		{"a member that there is not", "rooms:\n- {name: x, colour: red}\n", "there is no such field"},
		{"somebody unknown", "visits:\n- {purpose: x, technician: nobody, starts: 2026-11-25T09:00:00Z}\n", "technician"},
		{"a member that moves by its own step", "issues:\n- {symptom: x}\n", ""},
	} {
		out, err := petri.Apply(ctx, "H-0701", []byte("wishes:\n- {what: film, room: cellar}\n"+c.document), false)
		if c.says == "" {
			assert.ErrorContains(t, err, "no records called")
			continue
		}
		require.NoError(t, err, c.name)
		assert.False(t, out.Written, c.name)
		assert.Equal(t, 1, out.Counts[wire.LineRefused], c.name)
		refused := ""
		for _, l := range out.Lines {
			refused += l.Detail
		}
		assert.Contains(t, refused, c.says, c.name)
		now, err := petri.Overview(ctx, "H-0701")
		require.NoError(t, err)
		assert.Equal(t, then.Revision, now.Revision, "%s: nothing is written, not even what is right", c.name)
	}
	for _, c := range []struct{ document, says string }{
		{"", "body is required"}, {"# nothing\n", "it is empty"}, {"- a\n", "expected kinds of records"}, {"rooms: 3\n", "needs a list"}, {"kettles: []\n", `no records called "kettles"`},
		{"rooms: [\n", "line"}, {"rooms: []\nrooms: []\n", "occurs twice"}, {"rooms:\n- {name: a, name: b}\n", `"name" occurs twice`}, {"rooms:\n- cellar\n", "line 2: expected room"},
	} {
		_, err := petri.Apply(ctx, "H-0701", []byte(c.document), false)
		assert.ErrorContains(t, err, c.says, c.document)
	}
	_, err = petri.ApplyNew(ctx, []byte("rooms: []\n"), false)
	assert.ErrorContains(t, err, "a new household needs a name")
}

// Homes that are begun at the same time get different codes.
func TestCodesAreGiven(t *testing.T) {
	s := newSite(t, nil)
	var mu sync.Mutex
	codes := map[string]bool{}
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			h, err := s.as["petri"].Begin(context.WithoutCancel(t.Context()), wire.NewHousehold{Name: "Home"})
			assert.NoError(t, err)
			mu.Lock()
			defer mu.Unlock()
			assert.False(t, codes[h.Code], h.Code)
			codes[h.Code] = true
		})
	}
	all.Wait()
	assert.True(t, codes["H-0001"] && codes["H-0008"], codes)
	_, err := s.as["petri"].Begin(t.Context(), wire.NewHousehold{Code: "H-0008", Name: "Home"})
	assert.True(t, client.IsProblem(err, "code-taken"))
}

// A gap can be answered, with who and when, and the answer be withdrawn.
func TestGapsAreAnswered(t *testing.T) {
	s := newSite(t, nil)
	ctx, petri := t.Context(), s.as["petri"]
	ids := s.home("H-0701")
	room := wire.Ref{Kind: "room", ID: ids["room"]}
	gaps := func(in wire.Survey, code string) (n int) {
		for _, stop := range in.Stops {
			for _, g := range stop.Gaps {
				if g.Code == code {
					n++
				}
			}
		}
		return n
	}
	before, err := petri.Survey(ctx, "H-0701")
	require.NoError(t, err)
	require.Equal(t, 1, gaps(before, "no-outlets"))
	require.NoError(t, petri.AnswerGap(ctx, "H-0701", wire.AnswerGap{Code: "no-outlets", About: room, Answer: dossier.NoneHere, Note: "granite"}))
	now, err := petri.Survey(ctx, "H-0701")
	require.NoError(t, err)
	assert.Zero(t, gaps(now, "no-outlets"))
	assert.Equal(t, before.Missing-1, now.Missing)
	answered := now.Stops[0].Answered
	require.Len(t, answered, 1)
	assert.Equal(t, "No outlets are recorded in cellar: none here.", answered[0].Sentence)
	assert.Equal(t, []string{"Petri Lokki", "granite"}, []string{answered[0].By, answered[0].Note})
	assert.False(t, answered[0].At.IsZero())
	for _, in := range []wire.AnswerGap{{Code: "no-outlets", About: room, Answer: dossier.NotNeeded}, {Code: "no-kettle", Answer: dossier.NotNeeded}, {Code: "no-line"}} {
		err := petri.AnswerGap(ctx, "H-0701", in)
		if in.Code == "no-outlets" {
			assert.NoError(t, err, "an answer can be changed")
			continue
		}
		assert.True(t, client.IsProblem(err, "no-such-gap"), in.Code)
	}
	require.NoError(t, petri.AnswerGap(ctx, "H-0701", wire.AnswerGap{Code: "no-outlets", About: room}))
	now, err = petri.Survey(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, before.Missing, now.Missing)

	// On purpose without DHCP, and an outlet that failed its test, are answers too.
	segment := dossier.KindNamed("segment")
	_, etag, err := petri.Show(ctx, "H-0701", segment, ids["segment"])
	require.NoError(t, err)
	_, err = petri.Set(ctx, "H-0701", segment, ids["segment"], etag, wire.Record{"noDhcp": true})
	require.NoError(t, err)
	outlet := func(members wire.Record) {
		members["room"] = ids["room"]
		_, err := petri.Add(ctx, "H-0701", dossier.KindNamed("outlet"), members)
		require.NoError(t, err)
	}
	outlet(wire.Record{"name": "A1", "cable": "cat-6", "tested": "failed", "notPatched": true})
	outlet(wire.Record{"name": "A2", "cable": "cat-6"})
	now, err = petri.Survey(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0, 1, 1}, []int{gaps(now, "no-dhcp-server"), gaps(now, "no-lease-pool"), gaps(now, "outlet-untested"), gaps(now, "outlet-unpatched")})
}
