package probe

import (
	"context"
	"fmt"
	"net/netip"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
	"kaiku/practice"
	"kaiku/practice/layout"
)

// bare is a home of which nothing is recorded but its segments and that a line ends there.
func bare(h *practice.House) *dossier.Dossier {
	d := homes.Small()
	out := &dossier.Dossier{Household: d.Household}
	for n, prefix := range []netip.Prefix{h.Segment, h.Guest} {
		s := dossier.Segment{Name: []string{"home", "guest"}[n], Prefix: prefix}
		if n == 0 {
			s.Gateway, s.NamePort = h.Gateway.Address.Addr(), layout.NamePort
		}
		s.ID = homes.ID[dossier.Segment](n)
		out.Segments.Put(s)
	}
	line := dossier.Line{Name: "fibre", Kind: dossier.LineFibre}
	line.ID = homes.ID[dossier.Line](0)
	out.Lines.Put(line)
	return out
}

func gather(t testing.TB, d *dossier.Dossier) matching.Scan {
	ctx, stop := context.WithTimeout(t.Context(), 5*scanTime) // a scan ends by itself, long before
	defer stop()
	g, err := Prober{Guard: Guard{Within: loopback}, Late: time.Second}.Scan(ctx, d, nil)
	require.NoError(t, err)
	require.NoError(t, ctx.Err(), "it ends by itself")
	require.NoError(t, g.Check(d), "what is seen is what records can hold")
	g.ID = uuid.NewString()
	return g
}

func hostAt(t testing.TB, g matching.Scan, at netip.Addr) matching.Host {
	i := slices.IndexFunc(g.Hosts, func(h matching.Host) bool { return h.Address == at })
	require.GreaterOrEqual(t, i, 0, "%s was not seen", at)
	return g.Hosts[i]
}

// answer is how a host ended a question.
func answer(h matching.Host, way matching.Way) matching.Question {
	i := slices.IndexFunc(h.Answers, func(q matching.Question) bool { return q.Way == way })
	if i < 0 {
		return matching.Question{}
	}
	return h.Answers[i]
}

// filled takes over everything that is certain and records all that is new, and returns the home by lines such as
// "10 device.model = TK-4 Cellar": the host's number, then what is recorded.
func filled(t testing.TB, d *dossier.Dossier, g matching.Scan) []string {
	n := 0
	all := matching.Compare(d, g, matching.Scan{}, nil)
	chosen := matching.Choice{}
	for _, b := range all {
		for _, ref := range matching.Take(d, b, func(x matching.Difference) bool { return x.Certain || b.Status == matching.Unknown }, func() string {
			n++
			return fmt.Sprintf("01890000-ffff-7000-8000-%012x", n)
		}) {
			if ref.Kind == "device" {
				chosen[b.Key] = dossier.ID[dossier.Device](ref.ID)
			}
		}
	}
	for _, b := range matching.Compare(d, g, matching.Scan{}, chosen) { // what could be said only when devices were there
		matching.Take(d, b, func(x matching.Difference) bool { return x.Certain }, nil)
	}
	require.NoError(t, dossier.Apply(d, nil), "what was taken over is a home")
	var out []string
	for _, b := range matching.Compare(d, g, matching.Scan{}, chosen) {
		for _, x := range b.Differences {
			assert.Equal(t, matching.Same, x.Relation, "%s %s.%s", b.Host.Address, x.Kind, x.Member)
		}
		at := b.Host.Address.As4()
		for place, ref := range b.Records {
			k, r, ok := d.Record(ref)
			if !ok {
				continue
			}
			for _, f := range k.Fields {
				if slices.ContainsFunc(b.Differences, func(x matching.Difference) bool { return x.Place == place && x.Member == f.Name }) {
					out = append(out, fmt.Sprintf("%d.%d %s.%s = %s", at[2]%2, at[3], k.Name, f.Name, text(d, f, r)))
				}
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

func text(d *dossier.Dossier, f dossier.Field, r dossier.Record) string {
	if refs := f.Refs(r); len(refs) > 0 {
		return d.Label(refs[0])
	}
	switch v := f.Get(r).(type) {
	case []dossier.DecodingEntry:
		var out []string
		for _, e := range v {
			out = append(out, string(e.Format))
		}
		return strings.Join(out, " ")
	default:
		return fmt.Sprint(v)
	}
}

// keepersHouse reads the checked-in list of what can be discovered of the practice house, with its
// third octet put in.
func keepersHouse(t testing.TB, h *practice.House) []string {
	b, err := os.ReadFile("testdata/keepers-house.txt")
	require.NoError(t, err)
	octet, guest := fmt.Sprint(h.Segment.Addr().As4()[2]), fmt.Sprint(h.Guest.Addr().As4()[2])
	var out []string
	for line := range strings.Lines(string(b)) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
			out = append(out, strings.NewReplacer("127.77.N.", "127.77."+octet+".", "127.77.G.", "127.77."+guest+".").Replace(line))
		}
	}
	return out
}

// compared counts how many of the listed fields discovery filled, and lists what it filled
// otherwise than listed, and what it did not fill.
func compared(list, got []string) (right int, wrong, missing []string) {
	field := func(line string) string { f, _, _ := strings.Cut(line, " = "); return f }
	known := map[string]bool{}
	for _, line := range list {
		known[field(line)] = true
		if slices.Contains(got, line) {
			right++
		} else {
			missing = append(missing, line)
		}
	}
	for _, line := range got {
		if known[field(line)] && !slices.Contains(list, line) {
			wrong = append(wrong, line)
		}
	}
	return right, wrong, missing
}

// TestDiscoveryFillsTheInventory begins with the segments alone, and holds what is there after one
// look against the checked-in list.
func TestDiscoveryFillsTheInventory(t *testing.T) {
	h := start(t, 61)
	require.Empty(t, h.Notes)
	d := bare(h)
	g := gather(t, d)
	got := filled(t, d, g)
	if keep := os.Getenv("KAIKU_KEEP"); keep != "" {
		require.NoError(t, os.WriteFile(keep, []byte(strings.Join(got, "\n")+"\n"), 0o600))
	}
	list := keepersHouse(t, h)
	right, wrong, missing := compared(list, got)
	assert.Empty(t, wrong, "filled wrongly")
	// Of an access point that has only a page for people, nothing says what it is; of a second form of the same
	// stream, nothing announces where it is.
	assert.ElementsMatch(t, []string{"1.3 device.make = Orre", "1.3 device.model = OR-A Mast", "1.12 source.locator = /foghorn/index.m3u8", "1.12 source.protocol = hls"}, missing)
	t.Logf("%d of %d fields (%d %%)", right, len(list), 100*right/len(list))
	var said []string
	for _, line := range got {
		if field, _, _ := strings.Cut(line, " = "); !slices.ContainsFunc(list, func(l string) bool { return strings.HasPrefix(l, field+" = ") }) {
			said = append(said, line)
		}
	}
	assert.Empty(t, said, "filled, and not on the list")
}

// TestNothingOutsideIsAddressed records every address that is dialled, in a home where an address
// within a description, a redirect and a list lead elsewhere.
func TestNothingOutsideIsAddressed(t *testing.T) {
	h := start(t, 63)
	require.NoError(t, h.Switch("list-old-address", true))
	d := bare(h)
	var mu sync.Mutex
	dialled := map[netip.Addr]bool{}
	guard := Guard{Within: []netip.Prefix{h.Segment}, record: func(a netip.AddrPort) {
		mu.Lock()
		defer mu.Unlock()
		dialled[a.Addr()] = true
	}}
	elsewhere := []string{"http://127.99.0.1:9/description.xml", "http://localhost:9/x", "http://127.77.64.133:8300/description.xml"}
	stray := hostile(t, netip.MustParseAddr("127.77.63.201"), elsewhere)
	defer stray()
	g, err := Prober{Guard: guard, Late: time.Second}.Scan(t.Context(), d, nil)
	require.NoError(t, err)
	require.Len(t, g.Segments, 1, "the guest segment may not be asked")
	assert.NotEmpty(t, dialled)
	for a := range dialled {
		assert.True(t, h.Segment.Contains(a), "%s was addressed", a)
	}
	leads := hostAt(t, g, netip.MustParseAddr("127.77.63.201"))
	assert.Equal(t, matching.NotAsked, answer(leads, matching.ByUPnP).Ended)
	assert.Contains(t, answer(leads, matching.ByUPnP).Detail, "leads elsewhere")
}

// TestSilenceRefusalAndEmptinessAreToldApart looks at a house with a fault of each sort.
func TestSilenceRefusalAndEmptinessAreToldApart(t *testing.T) {
	for fault, want := range map[string]struct {
		host  string
		way   matching.Way
		ended matching.Ended
	}{
		"silent":             {"granite", matching.ByUPnP, matching.Silent},
		"connection-refused": {"granite", matching.ByUPnP, matching.Refused},
		"folders-hang":       {"granite", matching.ByDirectory, matching.Silent},
		"no-rights":          {"granite", matching.ByDirectory, matching.Denied},
		"rtsp-password":      {"harbour", matching.ByRTSP, matching.Denied},
		"exports-closed":     {"kelp", matching.ByNFS, matching.Empty},
		"guide-missing":      {"aerial", matching.ByGuide, matching.Empty},
		"share-hangs":        {"kelp", matching.BySMB, matching.Silent},
	} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel() // they wait more than they work
			octet := byte(140 + 2*slices.IndexFunc(layout.Faults, func(f layout.Fault) bool { return f.Name == fault }))
			h := practice.New(octet)
			require.NoError(t, h.Switch(fault, true))
			require.NoError(t, h.Start(t.Context()))
			t.Cleanup(h.Stop)
			g := gather(t, bare(h))
			assert.Equal(t, want.ended, answer(hostAt(t, g, h.Device(want.host).Address.Addr()), want.way).Ended)
			assert.False(t, g.Short)
		})
	}
}

func TestALookIsStoppedAndKeepsWhatWasSeen(t *testing.T) {
	h := start(t, 65)
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	g, err := Prober{Guard: Guard{Within: loopback}, Late: time.Second}.Scan(ctx, bare(h), func(p matching.Progress) {
		if p.Hosts > 2 {
			stop()
		}
	})
	require.NoError(t, err)
	assert.True(t, g.Short)
	assert.NotEmpty(t, g.Hosts)
}

func TestAShareIsReadAndNothingIsLeftOnIt(t *testing.T) {
	h := start(t, 67)
	writable := func() any {
		kelp := hostAt(t, gather(t, bare(h)), h.Device("kelp").Address.Addr())
		i := slices.IndexFunc(kelp.Seen, func(s matching.Seen) bool { return s.Members["protocol"] == dossier.ProtocolSMB })
		if i < 0 { // while the daemon reads its configuration it may refuse a log-in
			t.Log(kelp.Answers)
			return nil
		}
		assert.Equal(t, "/media", kelp.Seen[i].Members["locator"])
		return kelp.Seen[i].Members["writable"]
	}
	assert.Equal(t, dossier.No, writable())
	require.NoError(t, h.Switch("share-writable", true))
	require.Eventually(t, func() bool { return writable() == dossier.Yes }, 20*time.Second, time.Millisecond, "the daemon reads its configuration anew")
	left := h.ShareHolds()
	assert.NotEmpty(t, left)
	for _, name := range left {
		assert.NotContains(t, name, "kaiku")
	}
}

// TestAShareThatAsksForAnAccount is seen by guests and opened by who has one.
func TestAShareThatAsksForAnAccount(t *testing.T) {
	h := start(t, 77)
	look := func(login Login) (folders []any, denied bool) {
		g, err := Prober{Guard: Guard{Within: loopback}, Shares: login, Late: time.Second}.Scan(t.Context(), bare(h), nil)
		require.NoError(t, err)
		kelp := hostAt(t, g, h.Device("kelp").Address.Addr())
		for _, s := range kelp.Seen {
			if s.Kind == "folder" {
				folders = append(folders, s.Members["name"])
			}
		}
		return folders, slices.ContainsFunc(kelp.Answers, func(q matching.Question) bool {
			return q.Ended == matching.Denied && strings.HasPrefix(q.Detail, "share papers")
		})
	}
	folders, denied := look(Login{})
	assert.True(t, denied, "a guest may not")
	assert.NotContains(t, folders, "Manuals")
	folders, denied = look(Login{User: practice.ShareUser(), Password: practice.SharePassword})
	assert.False(t, denied)
	assert.Contains(t, folders, "Manuals")
	g, err := Prober{Guard: Guard{Within: loopback}, Shares: Login{User: practice.ShareUser(), Password: "guessed"}, Late: time.Second}.Scan(t.Context(), bare(h), nil)
	require.NoError(t, err)
	assert.Equal(t, matching.Denied, answer(hostAt(t, g, h.Device("kelp").Address.Addr()), matching.BySMB).Ended)
}

func TestALostGoodbyeAndAnOldAddressAreSeen(t *testing.T) {
	h := start(t, 69)
	require.NoError(t, h.Switch("old-address", true))
	g := gather(t, bare(h))
	granite := hostAt(t, g, h.Server.Address.Addr())
	assert.Equal(t, "announces 127.77.69.99:40210", answer(granite, matching.BySSDP).Detail)
	assert.False(t, slices.ContainsFunc(g.Hosts, func(o matching.Host) bool {
		return o.Address == netip.MustParseAddr("127.77.69.99") && len(o.Answers) == 0
	}))
	require.NoError(t, h.Switch("old-address", false))
	time.AfterFunc(600*time.Millisecond, func() { _ = h.Switch("goodbye", true) })
	assert.True(t, hostAt(t, gather(t, bare(h)), h.Server.Address.Addr()).Left)
}

// TestThroughADevicesEyes looks into the server as each device of the house would.
func TestThroughADevicesEyes(t *testing.T) {
	h := start(t, 73)
	d := bare(h)
	filled(t, d, gather(t, d))
	named := func(name string) dossier.ID[dossier.Device] {
		i := slices.IndexFunc(d.Devices, func(v dossier.Device) bool { return v.Name == name })
		require.GreaterOrEqual(t, i, 0, name)
		return d.Devices[i].ID
	}
	source := func(p dossier.Protocol, device string) dossier.ID[dossier.Source] {
		i := slices.IndexFunc(d.Sources, func(s dossier.Source) bool { return s.Protocol == p && d.Label(s.Device.Ref()) == device })
		require.GreaterOrEqual(t, i, 0, device)
		return d.Sources[i].ID
	}
	p := Prober{Guard: Guard{Within: loopback}}
	look := func(s dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) matching.View {
		v, err := p.View(t.Context(), d, s, as)
		require.NoError(t, err)
		return v
	}
	granite := source(dossier.ProtocolUPnPAV, layout.ServerName)
	screen, children := look(granite, named(layout.ScreenName)), look(granite, named("Kitchen screen"))
	assert.Equal(t, []matching.Side{{Folder: "Films", Items: []int{3, 3}}, {Folder: "Music", Items: []int{2, -1}, Differ: true}, {Folder: "Photos", Items: []int{240, -1}, Differ: true}},
		matching.SideBySide([]matching.View{screen, children}))
	require.NoError(t, h.Switch("index-unfinished", true))
	share := look(source(dossier.ProtocolSMB, "Kelp"), "")
	missing := matching.MissingFrom(share, look(granite, ""))
	assert.Equal(t, []matching.Missing{{Folder: "Films", Title: "oil-lamps.mp4"}, {Folder: "Music", Title: "foghorn-in-d.mp3"}}, missing)
	require.NoError(t, h.Switch("device-blocked", true))
	assert.Equal(t, matching.Empty, look(granite, named(layout.ScreenName)).Asked.Ended)
	assert.Equal(t, matching.Answered, look(granite, "").Asked.Ended)
	_, err := p.View(t.Context(), d, granite, named("Aerial"))
	require.ErrorIs(t, err, ErrNotAnnounced)
	channels := look(source(dossier.ProtocolM3U, "Aerial"), "")
	assert.Equal(t, []string{"Vesikarinne 1", "Vesikarinne 2", "Sea weather", "Chapel radio"}, channels.Folders[0].Titles)
	assert.Equal(t, matching.NotAsked, look(source(dossier.ProtocolRTSP, "Harbour view"), "").Asked.Ended)
}

// A scan of one host asks that host alone.
func TestAScanOfOneHostAsksNoOther(t *testing.T) {
	h := start(t, 96)
	d := bare(h)
	var asked sync.Map
	guard := Guard{Within: loopback, record: func(to netip.AddrPort) { asked.Store(to.Addr(), true) }}
	only := netip.MustParseAddr("127.77.96.10")
	g, err := Prober{Guard: guard, Late: time.Second}.ScanOf(t.Context(), d, matching.Wanted{Only: only}, nil)
	require.NoError(t, err)
	require.Len(t, g.Hosts, 1)
	assert.Equal(t, only, g.Hosts[0].Address)
	assert.Equal(t, only, g.Only)
	assert.True(t, slices.ContainsFunc(g.Hosts[0].Seen, func(s matching.Seen) bool { return s.Kind == "source" }))
	assert.True(t, slices.ContainsFunc(g.Hosts[0].Seen, func(s matching.Seen) bool { return s.Members["outsidePort"] != nil }), "the gateway tells of it")
	require.Len(t, g.Segments, 1)
	asked.Range(func(to, _ any) bool {
		assert.Contains(t, []netip.Addr{only, h.Gateway.Address.Addr()}, to, "only the gateway is asked beside")
		return true
	})
}

// What answered a search is noted with the UDP port at which it was heard; what only announces itself, or is deaf to searches, is not.
func TestUDPPortsThatAnsweredAreNoted(t *testing.T) {
	heard := func(h *practice.House) map[byte][]int {
		out := map[byte][]int{}
		for _, one := range gather(t, bare(h)).Hosts {
			if at := one.Address.As4(); h.Segment.Contains(one.Address) && len(one.Heard) > 0 {
				out[at[3]] = slices.Sorted(slices.Values(one.Heard))
			}
		}
		return out
	}
	h := start(t, 206)
	assert.Equal(t, map[byte][]int{1: {1900}, 3: {5353}, 10: {1900}, 11: {5353}, 12: {5353}, 13: {5353}, 14: {5353}, 15: {1900}, 21: {1900}, 22: {1900}, 23: {1900}, 24: {1900}, 31: {1900}}, heard(h))
	require.NoError(t, h.Switch("multicast-lost", true))
	assert.Empty(t, heard(h))
}
