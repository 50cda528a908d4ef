package probe

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"net/netip"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
	"kaiku/practice"
	"kaiku/practice/layout"
)

// everyWay is a home that records the practice house in that octet with a path of every kind to every source in it.
func everyWay(octet byte) *dossier.Dossier {
	d := recorded(octet).Clone()
	at := func(host byte) netip.Addr { return netip.AddrFrom4([4]byte{127, 77, octet, host}) }
	n := 100
	home := d.Segments[0].ID
	device := func(name string, host byte, roles ...dossier.Role) dossier.ID[dossier.Device] {
		n++
		v := dossier.Device{Name: name, Roles: roles}
		v.ID = homes.ID[dossier.Device](n)
		d.Devices.Put(v)
		i := dossier.Interface{Device: v.ID, Name: "eth0", Segment: home, Addresses: []netip.Addr{at(host)}}
		i.ID = homes.ID[dossier.Interface](n)
		d.Interfaces.Put(i)
		return v.ID
	}
	source := func(on dossier.ID[dossier.Device], name string, protocol dossier.Protocol, port int, locator string) dossier.ID[dossier.Source] {
		n++
		s := dossier.Source{Device: on, Name: name, Protocol: protocol, Port: port, Locator: locator}
		s.ID = homes.ID[dossier.Source](n)
		d.Sources.Put(s)
		return s.ID
	}
	folder := func(of dossier.ID[dossier.Source], name string, kind dossier.ContentKind, onDisk int) dossier.ID[dossier.Folder] {
		n++
		f := dossier.Folder{Source: of, Name: name, ContentKind: kind, ItemsOnDisk: onDisk}
		f.ID = homes.ID[dossier.Folder](n)
		d.Folders.Put(f)
		return f.ID
	}
	path := func(name string, kind dossier.PathKind, on dossier.ID[dossier.Device], from dossier.ID[dossier.Source], by dossier.FoundBy, folders ...dossier.ID[dossier.Folder]) {
		n++
		p := dossier.Path{Name: name, Kind: kind, Device: on, Source: from, FoundBy: by, Folders: folders}
		p.ID = homes.ID[dossier.Path](n)
		d.Paths.Put(p)
	}
	screen := d.Devices[1].ID
	granite := d.Sources[0].ID
	d.Folders[0].ItemsOnDisk = 3
	path("pushed films", dossier.AVPush, screen, granite, dossier.ByMulticast, d.Folders[0].ID)
	path("photographs", dossier.AVPull, screen, granite, dossier.ByMulticast, folder(granite, "Photos", dossier.Photo, 0))
	attic := source(device("attic", 15, dossier.RoleServer), "attic", dossier.ProtocolUPnPAV, 40215, layout.Locator)
	path("attic films", dossier.AVPull, screen, attic, dossier.ByTypedAddress)
	kelp, foghorn, aerial, harbour := device("kelp", 11, dossier.RoleStorage), device("foghorn", 12, dossier.RoleServer), device("aerial", 13, dossier.RoleTuner), device("harbour", 14, dossier.RoleServer)
	eila := device("eila", 31, dossier.RoleServer)
	source(eila, "telephone", dossier.ProtocolUPnPAV, 40231, layout.Locator)
	share := source(kelp, "share", dossier.ProtocolSMB, layout.SharePort, "media")
	path("shared films", dossier.Share, screen, share, dossier.ByTypedAddress, folder(share, "Films", dossier.Film, 0))
	export := source(kelp, "export", dossier.ProtocolNFS, layout.ExportPort, "kelp")
	path("exported films", dossier.Share, screen, export, dossier.ByTypedAddress, folder(export, "Films", dossier.Film, 0))
	path("fog stream", dossier.Stream, screen, source(foghorn, "one stream", dossier.ProtocolHTTP, layout.StreamPort, "/foghorn.ts"), dossier.ByTypedAddress)
	path("fog log", dossier.Feed, screen, source(foghorn, "log", dossier.ProtocolHTTP, layout.StreamPort, "/log.xml"), dossier.ByTypedAddress)
	path("parish stream", dossier.Stream, screen, source(foghorn, "stream", dossier.ProtocolHLS, layout.StreamPort, "/foghorn/index.m3u8"), dossier.ByTypedAddress)
	channels := source(aerial, "channels", dossier.ProtocolM3U, layout.TunerPort, "/aerial.m3u")
	d.Sources.Find(channels).Guide = "/guide.xml"
	path("television", dossier.Tuner, screen, channels, dossier.ByTypedAddress)
	path("harbour view", dossier.Stream, screen, source(harbour, "view", dossier.ProtocolRTSP, layout.RTSPPort, "/harbour"), dossier.ByTypedAddress)
	return d
}

// quickly is a prober that plays and searches for seconds instead of minutes.
func quickly() Prober {
	return Prober{Guard: Guard{Within: loopback}, PlaysFor: 4 * time.Second, SearchesOn: 4 * time.Second, SearchEach: time.Second}
}

// carryOutAll carries out all tests of a home that are for a machine, those that do not disturb each other side by side, and returns what
// came of each by kind and path.
func carryOutAll(ctx context.Context, t *testing.T, p Prober, d *dossier.Dossier) map[string]proving.Result {
	out := map[string]proving.Result{}
	var mu sync.Mutex
	var all sync.WaitGroup
	var pushed []proving.Test
	one := func(x proving.Test) {
		r, err := p.Probe(ctx, d, x)
		mu.Lock()
		defer mu.Unlock()
		if assert.NoError(t, err, x.ID()) {
			out[x.Kind.Name+", "+d.Label(x.Path.Ref())] = r
		}
	}
	for _, x := range proving.NewPlan(d.Index()).Tests {
		switch {
		case x.By != proving.Automatic:
		case slices.Contains([]string{"plays", "stops", "seeks", "converts", "long-play"}, x.Kind.Name):
			pushed = append(pushed, x)
		default:
			all.Go(func() { one(x) })
		}
	}
	all.Go(func() {
		for _, x := range pushed { // one screen plays one thing at a time
			one(x)
		}
	})
	all.Wait()
	return out
}

// badness orders results. That no stall was seen leaves to a person only whether the screen stays on, and is as good as a machine can say.
func badness(r proving.Result) int {
	if r.Observed == "no-stall-seen" {
		return 0
	}
	return slices.Index([]dossier.Outcome{dossier.Pass, dossier.Marginal, dossier.Impossible, dossier.Fail}, r.Outcome)
}

// A clean house fails nothing, and each of its faults is seen by exactly the tests that are declared for it. What is seen stands in
// docs/faults.md, which -update writes.
func TestEachFaultFailsItsTests(t *testing.T) {
	const houses = 6 // which wait more than they work
	todo := make(chan layout.Fault, len(layout.Faults))
	for _, f := range layout.Faults {
		todo <- f
	}
	close(todo)
	var mu sync.Mutex
	seen := map[string]map[string]proving.Result{}
	saw := homes.Observations{Home: everyWay(160), Faults: map[string][]homes.SeenOfTest{}}
	var all sync.WaitGroup
	for n := range houses {
		all.Go(func() {
			octet := byte(160 + 2*n)
			h := practice.New(octet)
			if !assert.NoError(t, h.Start(t.Context())) {
				return
			}
			defer h.Stop()
			d := everyWay(octet)
			clean := carryOutAll(t.Context(), t, quickly(), d)
			for name, r := range clean {
				assert.Less(t, badness(r), badness(proving.Result{Outcome: dossier.Impossible}), "%s: %s %v", name, r.Observed, r.Said)
			}
			for f := range todo {
				assert.NoError(t, h.Switch(f.Name, true))
				with := carryOutAll(t.Context(), t, quickly(), d)
				assert.NoError(t, h.Switch(f.Name, false))
				mu.Lock()
				saw.Faults[f.Name] = allSeen(with)
				mu.Unlock()
				maps.DeleteFunc(with, func(name string, r proving.Result) bool {
					return badness(r) <= badness(clean[name])
				})
				mu.Lock()
				seen[f.Name] = with
				mu.Unlock()
			}
		})
	}
	all.Wait()
	var doc strings.Builder
	doc.WriteString(faultsHead)
	for _, f := range layout.Faults {
		kinds, count := map[string]bool{}, map[string]int{}
		for name, r := range seen[f.Name] {
			kind, _, _ := strings.Cut(name, ", ")
			kinds[kind] = kinds[kind] || r.Outcome != dossier.Impossible
			count[fmt.Sprintf("%s: %s, `%s`", kind, r.Outcome, r.Observed)]++
		}
		maps.DeleteFunc(kinds, func(_ string, fails bool) bool { return !fails })
		var says []string
		for _, one := range slices.Sorted(maps.Keys(count)) {
			if n := count[one]; n > 1 {
				one += fmt.Sprintf(" (%d times)", n)
			}
			says = append(says, one)
		}
		got := slices.Sorted(maps.Keys(kinds))
		if f.Grows {
			assert.Subset(t, got, f.Machine, f.Name)
			got, says = f.Machine, []string{strings.Join(f.Machine, ", ") + " for as long as it lasts; what else depends on how far it is"}
		}
		assert.ElementsMatch(t, f.Machine, got, "%s: declared and seen\n %s", f.Name, strings.Join(says, "\n "))
		eye := slices.DeleteFunc(slices.Clone(f.Tests), func(k string) bool { return slices.Contains(got, k) })
		fmt.Fprintf(&doc, "| `%s` | %s | %s | %s |\n", f.Name, f.Says, cmp.Or(strings.Join(says, "<br>"), "nothing"), strings.Join(eye, ", "))
	}
	if *update {
		require.NoError(t, os.WriteFile("../docs/faults.md", []byte(doc.String()), 0o644))
		b, err := json.MarshalIndent(saw, "", " ")
		require.NoError(t, err)
		require.NoError(t, os.WriteFile("../core/suspects/testdata/seen.json", append(b, '\n'), 0o644))
	}
	was, err := os.ReadFile("../docs/faults.md")
	require.NoError(t, err)
	for _, f := range layout.Faults { // by how a test failed exactly, it may differ with who gives up first
		row := ""
		for line := range strings.Lines(string(was)) {
			if strings.HasPrefix(line, "| `"+f.Name+"` | "+f.Says+" |") {
				row = line
			}
		}
		for _, kind := range append(slices.Clone(f.Machine), f.Tests...) {
			assert.Contains(t, row, kind, "docs/faults.md says nothing of %s: go test ./probe -run EachFault -update writes it anew", f.Name)
		}
	}
}

func allSeen(results map[string]proving.Result) []homes.SeenOfTest {
	var out []homes.SeenOfTest
	for _, r := range results {
		out = append(out, homes.SeenOfTest{Test: r.Test, Outcome: r.Outcome, Observed: r.Observed})
	}
	slices.SortFunc(out, func(a, b homes.SeenOfTest) int { return strings.Compare(a.Test, b.Test) })
	return out
}

const faultsHead = `# Faults of the practice house, and what sees them

The practice house is simulated devices that speak the real protocols on real sockets. Each of its faults was switched on alone, and every
test that a machine can carry out was carried out in a home that reaches every source of the house. Without a fault, all of them pass, but for
one: whether a share refuses to delete is marginal while no sample clip lies on it. The last column names further tests that show the fault to a
person in front of the devices.

Which tests fail is held to what is seen by a test; this table is written by ` + "`go test ./probe -run EachFault -update`" + `.

| Fault | What is wrong | What a machine sees | Shown to a person by |
|---|---|---|---|
`

// A clean house fails nothing, however often it is asked. KAIKU_CLEAN_RUNS says how often: make bench asks fifty times.
func TestACleanHouseFailsNothing(t *testing.T) {
	runs, err := strconv.Atoi(cmp.Or(os.Getenv("KAIKU_CLEAN_RUNS"), "2"))
	require.NoError(t, err)
	todo := make(chan int, runs)
	for n := range runs {
		todo <- n
	}
	close(todo)
	var carried, wrong atomic.Int64
	var all sync.WaitGroup
	for n := range min(runs, 4) {
		all.Go(func() {
			octet := byte(180 + 2*n)
			h := practice.New(octet)
			if !assert.NoError(t, h.Start(t.Context())) {
				return
			}
			defer h.Stop()
			d := everyWay(octet)
			for range todo {
				for name, r := range carryOutAll(t.Context(), t, quickly(), d) {
					carried.Add(1)
					if badness(r) >= badness(proving.Result{Outcome: dossier.Impossible}) {
						wrong.Add(1)
						t.Errorf("%s: %s %s %v", name, r.Outcome, r.Observed, r.Said)
					}
				}
			}
		})
	}
	all.Wait()
	right := 100 * float64(carried.Load()-wrong.Load()) / float64(max(carried.Load(), 1))
	fmt.Printf("BenchmarkCleanHousePasses %d %d tests 100 least-%% %.2f measured-%% %.2f ratio\n", runs, carried.Load(), right, right/100) // for make bench
}

// What the plan gives to a machine, a machine can carry out.
func TestEveryAutomaticTestHasItsCarrier(t *testing.T) {
	used := map[string]bool{}
	whole := everyWay(90)
	screen := whole.Devices[1].ID
	whole.Devices.Find(screen).Announces, whole.Devices.Find(screen).Carried = "Norrvik/3.1", true
	// The server converts, and its films are watched outside too.
	whole.Sources[0].Converts, whole.Sources[0].OutsidePort, whole.Sources[0].OutsideBy = dossier.ConvertsAll, 40210, dossier.WayForwarding
	outside := dossier.Wish{What: dossier.WishOutsideViewing}
	outside.ID = homes.ID[dossier.Wish](990)
	whole.Wishes.Put(outside)
	for i := range whole.Paths {
		if whole.Paths[i].Source == whole.Sources[0].ID {
			whole.Paths[i].Mode = dossier.ThroughServer
		}
	}
	for n, r := range []dossier.Restriction{{Name: "always"}, {Name: "at night", From: "22:00", Until: "06:00"}} {
		r.Device, r.ID = screen, homes.ID[dossier.Restriction](n)
		whole.Restrictions.Put(r)
	}
	set := dossier.BusySet{Name: "evening"}
	set.ID = homes.ID[dossier.BusySet](1)
	for _, p := range whole.Paths {
		if p.Kind == dossier.AVPush {
			set.Paths = append(set.Paths, p.ID)
			songs := dossier.Folder{Source: p.Source, Name: "Music", ContentKind: dossier.Music}
			songs.ID = homes.ID[dossier.Folder](990)
			whole.Folders.Put(songs)
			p.Name, p.ID, p.Folders = "pushed music", homes.ID[dossier.Path](990), []dossier.ID[dossier.Folder]{songs.ID}
			whole.Paths.Put(p)
			set.Paths = append(set.Paths, p.ID)
			break
		}
	}
	whole.BusySets.Put(set)
	for _, x := range proving.NewPlan(whole.Index()).Tests {
		if x.By == proving.Automatic {
			used[x.Kind.Name] = true
		}
	}
	for _, k := range proving.Kinds {
		for _, kind := range dossier.PathKind("").Values() {
			for _, protocol := range dossier.Protocol("").Values() {
				d := everyWay(90)
				d.Paths[0].Kind, d.Sources[0].Protocol = dossier.PathKind(kind), dossier.Protocol(protocol)
				if x, planned := proving.NewPlan(d.Index()).Find(proving.TestID(k.Name, []dossier.Ref{d.Paths[0].ID.Ref()})); planned && x.By == proving.Automatic {
					assert.Contains(t, carriers, k.Name, "%s over %s", kind, protocol)
					used[k.Name] = true
				}
			}
		}
	}
	for name := range carriers {
		assert.True(t, used[name], "%s is never asked of a machine", name)
		k, _ := proving.KindNamed(name)
		assert.Equal(t, k.Lasts() > 0, Prober{}.lasts(name) > 10*time.Minute, name)
	}
}
