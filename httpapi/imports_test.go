package httpapi_test

import (
	"bytes"
	"fmt"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// What was written out comes in again and changes nothing, for every kind that can be added.
func TestAnExportImportsToTheSameDossier(t *testing.T) {
	s := newSite(t, nil)
	s.full("H-0701")
	before, err := s.as["ilona"].Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	for _, k := range dossier.Kinds {
		if !k.Allows(dossier.Add) {
			continue
		}
		text, err := s.as["ilona"].Export(t.Context(), "H-0701", k.Plural)
		require.NoError(t, err)
		done, err := s.as["ilona"].Import(t.Context(), "H-0701", text, wire.ImportOptions{What: k.Plural})
		require.NoError(t, err, k.Name)
		assert.Equal(t, map[string]int{wire.LineSame: k.In(before).Len()}, done.Counts, "%s: %v", k.Name, done.Lines)
	}
	after, err := s.as["ilona"].Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	assert.Equal(t, before, after)

	// And into an empty home: what refers to nothing else is made anew there, under its own ids.
	_, err = s.as["petri"].Begin(t.Context(), wire.NewHousehold{Code: "H-0709", Name: "again"})
	require.NoError(t, err)
	for _, what := range []string{"rooms", "devices", "contacts"} {
		text, err := s.as["ilona"].Export(t.Context(), "H-0701", what)
		require.NoError(t, err)
		text = bytes.ReplaceAll(text, []byte("01890000"), []byte("01890001"))
		done, err := s.as["petri"].Import(t.Context(), "H-0709", text, wire.ImportOptions{What: what})
		require.NoError(t, err)
		assert.Zero(t, done.Counts[wire.LineRefused], "%s: %v", what, done.Lines)
	}
}

func TestBringingIn(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	petri := s.as["petri"]
	text := "name,floor\nsolmu,3\nkäytävä,0\n"
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(text)
	require.NoError(t, err)
	latin, err := charmap.ISO8859_1.NewEncoder().String(text)
	require.NoError(t, err)
	for _, c := range []struct {
		name, text string
		o          wire.ImportOptions
		counts     map[string]int
		written    bool
	}{
		{"dry", text, wire.ImportOptions{What: "rooms", Dry: true}, map[string]int{"added": 2}, false},
		{"in UTF-16", utf16, wire.ImportOptions{What: "rooms"}, map[string]int{"added": 2}, true},
		{"the same again, in Latin-1", latin, wire.ImportOptions{What: "rooms"}, map[string]int{"unchanged": 2}, true},
		{"a name twice in one document", "name,floor\nporch,0\nporch,1\n", wire.ImportOptions{What: "rooms"}, map[string]int{"added": 1, "refused": 1}, false},
		{"a floor in the clouds", "name,floor\ntower,900\n", wire.ImportOptions{What: "rooms"}, map[string]int{"refused": 1}, false},
		{"what is right of it", "name,floor\ntower,900\nporch,0\n", wire.ImportOptions{What: "rooms", Partly: true}, map[string]int{"added": 1, "refused": 1}, true},
		{"a segment seen by its columns", "name,prefix,gateway\ncinema,10.20.60.0/24,10.20.60.1\n", wire.ImportOptions{}, map[string]int{"added": 1}, true},
		{"a pool that ends before it begins", "name,prefix,poolFirst,poolLast\nbar,10.20.61.0/24,10.20.61.9,10.20.61.2\n", wire.ImportOptions{}, map[string]int{"refused": 1}, false},
		{"an adapter nobody recorded", "1772500000 02:4b:49:00:77:01 10.20.60.77 frame *\n", wire.ImportOptions{}, map[string]int{"unknown": 1}, true},
		{"is added when asked", "1772500000 02:4b:49:00:77:01 10.20.60.77 frame *\n", wire.ImportOptions{AddUnknown: true}, map[string]int{"added": 1}, true},
		{"has another address the next time", "10.20.60.78 dev eth0 lladdr 02:4b:49:00:77:01 REACHABLE\n", wire.ImportOptions{}, map[string]int{"changed": 1}, true},
		{"a contact", "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Eila\r\nTEL:555-0101\r\nEND:VCARD\r\n", wire.ImportOptions{}, map[string]int{"added": 1}, true},
		{"completed", "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:eila\r\nEMAIL:eila@example.org\r\nEND:VCARD\r\n", wire.ImportOptions{}, map[string]int{"changed": 1}, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			done, err := petri.Import(t.Context(), "H-0701", []byte(c.text), c.o)
			require.NoError(t, err)
			assert.Equal(t, c.counts, done.Counts, done.Lines)
			assert.Equal(t, c.written, done.Written)
			for _, l := range done.Lines {
				if l.Act == wire.LineRefused {
					assert.NotEmpty(t, l.Detail)
				}
			}
		})
	}
	d, err := petri.Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	frame := d.Interfaces[len(d.Interfaces)-1]
	assert.Equal(t, []netip.Addr{netip.MustParseAddr("10.20.60.78")}, frame.Addresses)
	assert.Equal(t, dossier.ByLease, frame.AddressBy)
	assert.Equal(t, "cinema", d.Label(frame.Segment.Ref()))
	assert.Equal(t, []dossier.Contact{{Name: "Eila", Phone: "555-0101", Email: "eila@example.org"}}, d.Home().Contacts[len(d.Home().Contacts)-1:])
	rooms := ""
	for _, r := range d.Rooms {
		rooms += r.Name + " "
	}
	assert.Contains(t, rooms, "käytävä")
	assert.NotContains(t, rooms, "tower")

	own := `[{"ifname":"eth9","link_type":"ether","address":"02:4b:49:00:88:01","addr_info":[{"local":"10.20.60.9","scope":"global"}]}]`
	done, err := petri.Import(t.Context(), "H-0701", []byte(own), wire.ImportOptions{Device: ids["device"]})
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"added": 1}, done.Counts)

	for name, text := range map[string]string{
		"10,000 lines": "name,floor\n" + strings.Repeat("room,1\n", 10000), "a picture": "\x89PNG\x00\x00", "what it is cannot be seen": "a b c\n", "a column nobody knows": "name,colour\nx,y\n",
	} {
		_, err := petri.Import(t.Context(), "H-0701", []byte(text), wire.ImportOptions{What: map[bool]string{true: "rooms"}[strings.HasPrefix(text, "name")]})
		require.ErrorContains(t, err, "cannot be imported", name)
	}
}

// A large table of leases is brought in at once; of each adapter the newest lease counts.
func TestALongLeaseTable(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	var b strings.Builder
	for n := range 10000 {
		fmt.Fprintf(&b, "%d 02:4b:49:00:%02x:%02x 10.20.4.%d host%d *\n", 1772500000+n, n%16, n%200, 20+n%200, n%16)
	}
	done, err := s.as["petri"].Import(t.Context(), "H-0701", []byte(b.String()), wire.ImportOptions{Dry: true})
	require.NoError(t, err)
	assert.Equal(t, "lease table (lines)", done.Form)
	assert.LessOrEqual(t, len(done.Lines), 16*200)
}
