package papers_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/papers"
)

func TestTextInEveryEncoding(t *testing.T) {
	const want = "name,floor\nkäytävä,0\n"
	utf16, err := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder().String(want)
	require.NoError(t, err)
	latin, err := charmap.ISO8859_1.NewEncoder().String(want)
	require.NoError(t, err)
	for name, in := range map[string]string{"UTF-8": want, "with a mark": "\uFEFF" + want, "UTF-16": utf16, "Latin-1": latin, "lines of other systems": strings.ReplaceAll(want, "\n", "\r\n")} {
		got, err := papers.Text([]byte(in))
		require.NoError(t, err, name)
		assert.Equal(t, want, got, name)
	}
	for in, why := range map[string]string{"\x7fELF\x00\x00": "it is not text", strings.Repeat("x", papers.MaxBytes+1): "more than the 4194304 that can be read"} {
		_, err := papers.Text([]byte(in))
		assert.ErrorContains(t, err, why)
	}
}

// What is written as CSV reads back as it was, for every kind and whatever is recorded.
func TestCSVReadsBackAsItWas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Sound(t)
		d := h.Dossier
		tricky := rapid.StringMatching(`[a-zå;,"\n\[=' ]{0,6}`)
		homes.Set(h, h.Server, func(v *dossier.Device) { v.Menus, v.Remote = tricky.Draw(t, "menus"), tricky.Draw(t, "remote") })
		homes.Set(h, h.Folder, func(f *dossier.Folder) { f.ReadableBy = []string{tricky.Draw(t, "reader"), "media"} })
		homes.Set(h, h.Home, func(s *dossier.Segment) { s.Name = "home" + tricky.Draw(t, "name") })
		for _, k := range dossier.Kinds {
			if !k.Allows(dossier.Set) || k.In(d).Len() == 0 {
				continue
			}
			text, err := papers.WriteCSV(d, k)
			require.NoError(t, err)
			rows, err := papers.ReadCSV(d, k, string(text))
			require.NoError(t, err, "%s\n%s", k.Name, text)
			require.Len(t, rows, k.In(d).Len())
			for i, row := range rows {
				require.NoError(t, row.Err, "%s\n%s", k.Name, text)
				require.True(t, row.Exists)
				require.Equal(t, k.In(d).At(i).Key(), row.ID)
				require.Empty(t, row.Members, "%s\n%s", k.Name, text)
			}
		}
	})
}

func TestCSVOfOthers(t *testing.T) {
	d := homes.Small().Clone()
	outlets := dossier.KindNamed("outlet")
	homes.PutIn(d, 1, dossier.Outlet{Room: homes.RoomID(0), Name: "A1", Note: "by the door"})
	for _, c := range []struct {
		name, text string
		want       string // the first row as JSON, or its error
		exists     bool
	}{
		{"by titles, with semicolons", "Room;Name;Cable;Tested rate (Mb/s)\nlamp room;B1;Cat 6a;940,5\n", `{"cable":"cat-6a","name":"B1","room":"` + string(homes.RoomID(1)) + `","testedMbps":940.5}`, false},
		{"by tabs, in another order", "name\troom\nA9\tCELLAR\n", `{"name":"A9","room":"` + string(homes.RoomID(0)) + `"}`, false},
		{"one that is there, by its name within its room", "room,name,note\ncellar,a1,behind the pump\n", `{"name":"a1","note":"behind the pump"}`, true},
		{"an empty cell clears", "room,name,note\ncellar,A1,\n", `{"note":null}`, true},
		{"in quotes, over two lines", "room,name,note\ncellar,A2,\"left,\nright\"\n", `{"name":"A2","note":"left,\nright","room":"` + string(homes.RoomID(0)) + `"}`, false},
		{"a room that is not there", "room,name\nattic,A1\n", `Room: there is no room called "attic"`, false},
		{"a cable nobody makes", "room,name,cable\ncellar,A3,string\n", `Cable: "string" is not one of cat-5, cat-5e, cat-6, cat-6a, cat-7, coax, fibre, telephone`, false},
		{"a rate that is none", "room,name,testedMbps\ncellar,A3,fast\n", `Tested rate (Mb/s): "fast" is not a number`, false},
		{"too many cells", "room,name\ncellar,A3,what\n", "it has 3 columns, but the first line has 2", false},
		{"a quote that does not end", "room,name\ncellar,\"A3\n", "extraneous or missing", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			rows, err := papers.ReadCSV(d, outlets, c.text)
			require.NoError(t, err)
			require.Len(t, rows, 1)
			if rows[0].Err != nil {
				assert.Contains(t, rows[0].Err.Error(), c.want)
				return
			}
			b, err := json.Marshal(rows[0].Members)
			require.NoError(t, err)
			assert.Equal(t, c.want, string(b))
			assert.Equal(t, c.exists, rows[0].Exists)
		})
	}
	for text, why := range map[string]string{"": "does not name columns", "cellar,A1\n": `"cellar" in its first line is not a column of outlets, which are id, room, name`, strings.Repeat("name,", 40) + "room\n": "41 columns, and a list of outlets has", "name,Name\nx,y\n": "occurs twice", "room,name\n" + strings.Repeat("cellar,A1\n", 10000): "more than 2000 lines"} {
		_, err := papers.ReadCSV(d, outlets, text)
		assert.ErrorContains(t, err, why)
	}
}

const isc = `# leases of the router
lease 10.20.4.100 {
  starts 2 2026/03/03 10:00:00;
  ends 2 2026/03/03 22:00:00;
  binding state active;
  hardware ethernet 02:4b:49:00:00:21;
  client-hostname "lamp-screen";
}
lease 10.20.4.101 {
  starts 1 2026/03/02 10:00:00;
  binding state free;
  hardware ethernet 02:4b:49:00:00:22;
}
lease 10.20.4.103 {
  starts 3 2026/03/04 10:00:00;
  binding state active;
  hardware ethernet 02:4b:49:00:00:21;
}
`

func TestTablesOfLeasesAndNeighbours(t *testing.T) {
	for _, c := range []struct{ name, text, form, want string }{
		{"of two leases of one adapter the newer counts, a free one does not", isc, "lease table (blocks)", "02:4b:49:00:00:21 10.20.4.103  lease"},
		{"leases in CSV", "address,hwaddr,client_id,valid_lifetime,expire,subnet_id,fqdn_fwd,fqdn_rev,hostname,state,user_context,pool_id\n10.20.4.100,02:4b:49:00:00:21,,3600,1772500000,1,0,0,lamp-screen.,0,,0\n10.20.4.101,02:4b:49:00:00:22,,3600,1772500000,1,0,0,gone,2,,0\n",
			"lease table (CSV)", "02:4b:49:00:00:21 10.20.4.100 lamp-screen lease"},
		{"leases in lines", "1772500000 02:4b:49:00:00:21 10.20.4.100 lamp-screen 01:02:4b:49:00:00:21\n1772500001 02:4b:49:00:00:23 10.20.4.105 * *\nduid 00:01\n", "lease table (lines)",
			"02:4b:49:00:00:21 10.20.4.100 lamp-screen lease; 02:4b:49:00:00:23 10.20.4.105  lease"},
		{"ip neigh, without those that did not answer", "10.20.4.1 dev eth0 lladdr 02:4b:49:00:00:01 REACHABLE\n10.20.4.9 dev eth0 FAILED\n10.20.4.8 dev eth0 lladdr 02:4b:49:00:00:08 FAILED\nfe80::1 dev eth0 lladdr 02:4b:49:00:00:01 router STALE\n",
			"neighbour table", "02:4b:49:00:00:01 10.20.4.1,fe80::1  "},
		{"neighbour table (JSON)", `[{"dst":"10.20.4.1","dev":"eth0","lladdr":"02:4b:49:00:00:01","state":["REACHABLE"]},{"dst":"10.20.4.9","dev":"eth0","state":["FAILED"]}]`, "neighbour table (JSON)", "02:4b:49:00:00:01 10.20.4.1  "},
		{"ip -j addr, without the loopback", `[{"ifname":"lo","link_type":"loopback","address":"00:00:00:00:00:00","addr_info":[{"local":"127.0.0.1","scope":"host"}]},{"ifname":"eth0","link_type":"ether","address":"02:4b:49:00:00:10","addr_info":[{"local":"10.20.4.10","scope":"global"},{"local":"fe80::2","scope":"link"}]}]`,
			"address table (JSON)", "02:4b:49:00:00:10 10.20.4.10 eth0 own"},
	} {
		t.Run(c.name, func(t *testing.T) {
			seen, form, err := papers.ReadTable(c.text)
			require.NoError(t, err)
			assert.Equal(t, c.form, form)
			var said []string
			for _, s := range seen {
				var addresses []string
				for _, a := range s.Addresses {
					addresses = append(addresses, a.String())
				}
				how := map[bool]string{true: "lease"}[s.Leased] + map[bool]string{true: "own"}[s.Own]
				said = append(said, fmt.Sprintf("%s %s %s %s", s.HardwareAddress, strings.Join(addresses, ","), s.Name, how))
			}
			assert.Equal(t, c.want, strings.Join(said, "; "))
		})
	}
	for _, text := range []string{"", "hello", "[", `{"a":1}`} {
		_, _, err := papers.ReadTable(text)
		assert.ErrorContains(t, err, "it is not a known form of table", text)
	}
}

func TestVCardReadsBackAsItWas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[A-Za-zåäö;,\\.\n ]{0,12}[a-z]`)
		var in []dossier.Contact
		for range rapid.IntRange(1, 3).Draw(t, "cards") {
			in = append(in, dossier.Contact{Name: rapid.StringMatching(`[A-Za-zåäö ]{0,12}[a-z]`).Draw(t, "name"), Phone: "555-0101", Note: text.Draw(t, "note")})
		}
		b, err := papers.WriteVCard(in)
		require.NoError(t, err)
		out, err := papers.ReadVCard(string(b))
		require.NoError(t, err)
		require.Len(t, out, len(in))
		for i := range in {
			require.Equal(t, strings.TrimSpace(in[i].Name), strings.TrimSpace(out[i].Name))
			require.Equal(t, in[i].Phone, out[i].Phone)
			require.Equal(t, strings.TrimSpace(in[i].Note), strings.TrimSpace(out[i].Note))
		}
	})
}

// Whatever comes in, reading ends with rows or an error.
func FuzzRead(f *testing.F) {
	d := homes.Small()
	f.Add([]byte("room,name\ncellar,A1\n"))
	f.Add([]byte(isc))
	f.Add([]byte("1772500000 02:4b:49:00:00:21 10.20.4.100 x *"))
	f.Add([]byte("BEGIN:VCARD\nVERSION:4.0\nFN:x\nEND:VCARD\n"))
	f.Add([]byte("\xff\xfea\x00,\x00b\x00"))
	f.Fuzz(func(t *testing.T, b []byte) {
		text, err := papers.Text(b)
		if err != nil {
			return
		}
		for _, kind := range []string{"outlet", "interface", "segment"} {
			if rows, err := papers.ReadCSV(d, dossier.KindNamed(kind), text); err == nil {
				for _, r := range rows {
					if r.Err == nil {
						_, err := json.Marshal(r.Members)
						require.NoError(t, err)
					}
				}
			}
		}
		_, _, _ = papers.ReadTable(text)
		_, _ = papers.ReadVCard(text)
	})
}
