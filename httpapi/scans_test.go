package httpapi_test

import (
	"context"
	"net/netip"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/wire"
)

// seenServer is what a laptop saw of the server of a test home, and of a frame that nobody recorded.
func seenServer(ids map[string]string, folders ...string) matching.Scan {
	segment := dossier.ID[dossier.Segment](ids["segment"])
	server := matching.NewHost(segment, netip.MustParseAddr("10.20.4.10"))
	server.Say(0, "model", "TK-4", matching.ByUPnP)
	server.Say(0, "hostName", "granite", matching.ByDNS)
	server.Say(1, "hardwareAddress", dossier.HardwareAddr("02:4b:49:00:00:10"), matching.ByNeighbours)
	source := server.Add("source", 0)
	server.Say(source, "protocol", dossier.ProtocolUPnPAV, matching.ByUPnP)
	server.Say(source, "port", 40210, matching.ByUPnP)
	server.Say(source, "udn", "uuid:10", matching.ByUPnP)
	for _, f := range folders {
		n := server.Add("folder", source)
		server.Say(n, "name", f, matching.ByDirectory)
		server.Say(n, "contentKind", dossier.Music, matching.ByDirectory)
	}
	server.Answers = append(server.Answers, matching.Question{Way: matching.ByDirectory, Ended: matching.Answered, Answers: len(folders)})
	frame := matching.NewHost(segment, netip.MustParseAddr("10.20.4.24"))
	frame.Say(0, "name", "Hallway frame", matching.ByUPnP)
	frame.Say(0, "roles", []dossier.Role{dossier.RoleRenderer}, matching.ByUPnP)
	frame.Say(0, "udn", "uuid:24", matching.ByUPnP)
	now := time.Now()
	return matching.Scan{ID: uuid.Must(uuid.NewV7()).String(), Began: now.Add(-2 * time.Second), Ended: now, With: "laptop", Hosts: []matching.Host{server, frame},
		Segments: []matching.CoveredSegment{{Segment: segment, From: netip.MustParseAddr("10.20.4.9"), Interface: "eth0"}},
		Asked:    []matching.Question{{Way: matching.BySSDP, Segment: segment, Ended: matching.Answered, Answers: 2, Seconds: 1.25}}}
}

func refusedAs(t *testing.T, err error, code string) {
	t.Helper()
	assert.True(t, client.IsProblem(err, code), "%v", err)
}

// dossier is the home as it is stored.
func (s *site) dossier(code string) *dossier.Dossier {
	id, err := s.store.HomeByCode(s.t.Context(), code)
	require.NoError(s.t, err)
	d, err := s.store.Load(s.t.Context(), id)
	require.NoError(s.t, err)
	return d
}

func host(t *testing.T, o wire.Observations, address string) wire.Observed {
	i := slices.IndexFunc(o.Hosts, func(h wire.Observed) bool { return h.Address.String() == address })
	require.GreaterOrEqual(t, i, 0, address)
	return o.Hosts[i]
}

// TestWhatALaptopSawIsTakenOver goes the whole way of a scan: handed in, told who is who, taken
// over, set aside, looked again.
func TestWhatALaptopSawIsTakenOver(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	o, err := petri.Observations(ctx, "H-0701")
	require.NoError(t, err)
	assert.Empty(t, o.Scan)
	assert.Len(t, o.NotScanned, 1, "nobody has looked into the segment")
	_, err = petri.RecordSeen(ctx, "H-0701", wire.RecordSeen{Scan: uuid.NewString(), Certain: true})
	refusedAs(t, err, "no-scan")

	g := seenServer(ids, "Films", "Music")
	o, err = petri.AddScan(ctx, "H-0701", g)
	require.NoError(t, err)
	assert.Equal(t, wire.ObservedCounts{New: 1, Unsure: 1, NotSeen: 1, Certain: 5}, o.Counts)
	assert.Equal(t, "SSDP search: 2 answers.", o.Answers[0].Sentence)
	assert.Equal(t, "laptop", o.With)
	server := host(t, o, "10.20.4.10")
	assert.Equal(t, matching.Unsure, server.Status)
	assert.Equal(t, "server", server.Candidates[0].Device.Label)
	assert.Equal(t, []string{"same address 10.20.4.10", "serves upnp-av on the same port"}, server.Candidates[0].Because)
	silent := host(t, o, "10.20.4.21")
	assert.Contains(t, silent.Sentence, "No answer from 10.20.4.9 by eth0")

	o, err = petri.ReviewHosts(ctx, "H-0701", wire.ReviewHosts{Scan: o.Scan, Identify: map[string]string{server.Key: ids["server"]}})
	require.NoError(t, err)
	server = host(t, o, "10.20.4.10")
	assert.Equal(t, matching.Changed, server.Status)
	assert.True(t, server.Identified)
	model := slices.IndexFunc(server.Differences, func(d wire.Difference) bool { return d.Member == "model" })
	o, err = petri.ReviewHosts(ctx, "H-0701", wire.ReviewHosts{Scan: o.Scan, Ignore: []string{server.Differences[model].ID}})
	require.NoError(t, err)
	assert.True(t, host(t, o, "10.20.4.10").Differences[model].Ignored)

	taken, err := petri.RecordSeen(ctx, "H-0701", wire.RecordSeen{Scan: o.Scan, Certain: true, Rooms: map[string]string{host(t, o, "10.20.4.24").Key: ids["room"]}})
	require.NoError(t, err)
	assert.Equal(t, o.Counts.Certain, taken.Values)
	d := s.dossier("H-0701")
	v, _ := d.Devices.Get(dossier.ID[dossier.Device](ids["server"]))
	assert.Equal(t, "granite", v.HostName)
	assert.Empty(t, v.Model, "set aside")
	assert.Equal(t, "uuid:10", d.Sources[0].UDN)
	assert.Len(t, d.Folders, 2)
	frame := slices.IndexFunc(d.Devices, func(v dossier.Device) bool { return v.Name == "Hallway frame" })
	require.GreaterOrEqual(t, frame, 0)
	assert.Equal(t, dossier.ID[dossier.Room](ids["room"]), d.Devices[frame].Room)
	_, err = petri.RecordSeen(ctx, "H-0701", wire.RecordSeen{Scan: o.Scan, Certain: true})
	refusedAs(t, err, "nothing-recorded")
	journal, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	assert.Equal(t, "recorded from a scan", journal[0].Why)

	// Looked at again: the frame is gone, a folder more is there.
	g = seenServer(ids, "Films", "Music", "Radio")
	g.Hosts = g.Hosts[:1]
	o, err = petri.AddScan(ctx, "H-0701", g)
	require.NoError(t, err)
	server = host(t, o, "10.20.4.10")
	assert.Equal(t, matching.Changed, server.Status)
	assert.Contains(t, server.Because, "same UPnP identifier uuid:10")
	assert.Equal(t, matching.SinceChanged, server.Since)
	assert.Contains(t, server.Changes, "Name of folder: not recorded → Radio")
	assert.Equal(t, matching.SinceGone, host(t, o, "10.20.4.24").Since)
	_, err = petri.RecordSeen(ctx, "H-0701", wire.RecordSeen{Scan: uuid.NewString(), Certain: true})
	refusedAs(t, err, "scan-changed")
	_, err = petri.ReviewHosts(ctx, "H-0701", wire.ReviewHosts{Scan: o.Scan, Identify: map[string]string{"nobody": "new"}})
	refusedAs(t, err, "no-such-host")
	_, err = petri.ReviewHosts(ctx, "H-0701", wire.ReviewHosts{Scan: o.Scan, Identify: map[string]string{server.Key: uuid.NewString()}})
	refusedAs(t, err, "no-such-record")

	// All that was recorded at once is undone at once, or none of it.
	before := len(s.dossier("H-0701").Devices)
	undone, err := petri.Undo(ctx, "H-0701", journal[0].Revision, 0)
	require.NoError(t, err)
	assert.Greater(t, undone.Entries, 3)
	assert.Len(t, s.dossier("H-0701").Devices, before-1)
	assert.Empty(t, s.dossier("H-0701").Sources[0].UDN)
	_, err = petri.Undo(ctx, "H-0701", journal[0].Revision, 0)
	refusedAs(t, err, "changed-since")
	_, err = petri.Undo(ctx, "H-0701", 99999, 0)
	refusedAs(t, err, "no-such-entry")

	// What looks brought goes with the personal data.
	_, err = s.as["ilona"].ErasePersonal(ctx, "H-0701", wire.Erase{Code: "H-0701", Why: "asked for"})
	require.NoError(t, err)
	o, err = petri.Observations(ctx, "H-0701")
	require.NoError(t, err)
	assert.Empty(t, o.Scan)
	assert.Empty(t, o.Hosts)
}

func TestAGatheringThatCannotBeIsRefused(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	for name, spoil := range map[string]func(*matching.Scan){
		"an end in the future":        func(g *matching.Scan) { g.Ended = time.Now().Add(time.Hour) },
		"an end before its beginning": func(g *matching.Scan) { g.Ended = g.Began.Add(-time.Hour) },
	} {
		t.Run(name, func(t *testing.T) {
			g := seenServer(ids)
			spoil(&g)
			_, err := s.as["petri"].AddScan(t.Context(), "H-0701", g)
			refusedAs(t, err, "not-readable")
		})
	}
	for name, spoil := range map[string]func(*matching.Scan){
		"a host outside the segments": func(g *matching.Scan) { g.Hosts[0].Address = netip.MustParseAddr("192.0.2.1") },
		"a member that nobody knows":  func(g *matching.Scan) { g.Hosts[0].Seen[0].Members["colour"] = "red" },
	} {
		t.Run(name, func(t *testing.T) {
			g := seenServer(ids)
			spoil(&g)
			o, err := s.as["petri"].AddScan(t.Context(), "H-0701", g)
			require.NoError(t, err, "the other host is kept")
			assert.True(t, o.Short)
			require.Len(t, o.Notes, 1)
			assert.Contains(t, o.Notes[0], "1 of 3 entries were left out")
			assert.False(t, slices.ContainsFunc(o.Hosts, func(h wire.Observed) bool { return h.Address.String() == "10.20.4.10" || h.Status == matching.NotSeen }))
		})
	}
	_, err := s.as["petri"].Scan(t.Context(), "H-0701", wire.RunScan{})
	refusedAs(t, err, "not-on-site-scan")
	_, err = s.as["petri"].BrowseSource(t.Context(), "H-0701", dossier.ID[dossier.Source](ids["source"]), wire.BrowseSource{})
	refusedAs(t, err, "not-on-site-browse")
}

// looker sees what it was given, after it was let go.
type looker struct {
	prober
	sees matching.Scan
	free chan struct{}
	what matching.Wanted // that was asked for last
}

func (l *looker) ScanOf(ctx context.Context, _ *dossier.Dossier, what matching.Wanted, tell func(matching.Progress)) (matching.Scan, error) {
	l.what = what
	tell(matching.Progress{Doing: "ssdp, home", Of: 4})
	select {
	case <-l.free:
	case <-ctx.Done():
	}
	g := l.sees
	g.Short = ctx.Err() != nil
	return g, nil
}

func (l *looker) View(_ context.Context, _ *dossier.Dossier, source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error) {
	return matching.View{Source: source, As: as, Folders: []matching.ViewFolder{{Name: "Films", Items: 2, Titles: []string{"a"}}}, Asked: matching.Question{Way: matching.ByDirectory, Ended: matching.Answered, Answers: 1}}, nil
}

func TestTheServiceLooksAsAJobThatIsStopped(t *testing.T) {
	l := &looker{free: make(chan struct{})}
	s := newSite(t, l)
	ids := s.home("H-0701")
	l.sees = seenServer(ids)
	ctx, petri := t.Context(), s.as["petri"]
	j, err := petri.Scan(ctx, "H-0701", wire.RunScan{})
	require.NoError(t, err)
	_, err = petri.Scan(ctx, "H-0701", wire.RunScan{})
	refusedAs(t, err, "job-running")
	j, err = petri.StopJob(ctx, "H-0701", j.ID)
	require.NoError(t, err)
	assert.Equal(t, "stopped", j.State)
	o, err := petri.Observations(ctx, "H-0701")
	require.NoError(t, err)
	assert.True(t, o.Short, "what was seen until then is kept")
	assert.Len(t, o.Hosts, 2, "who was not reached is not called silent")
	close(l.free)
	j, err = petri.Scan(ctx, "H-0701", wire.RunScan{Only: netip.MustParseAddr("10.20.4.10"), Seconds: 40})
	require.NoError(t, err)
	j, err = petri.WaitJob(ctx, "H-0701", j.ID)
	require.NoError(t, err)
	assert.Equal(t, "ended", j.State)
	assert.Equal(t, matching.Wanted{Only: netip.MustParseAddr("10.20.4.10"), Time: 40 * time.Second}, l.what)
	_, err = petri.Scan(ctx, "H-0701", wire.RunScan{Only: netip.MustParseAddr("192.0.2.1")})
	refusedAs(t, err, "host-outside")
	_, err = petri.Scan(ctx, "H-0701", wire.RunScan{Seconds: 121})
	refusedAs(t, err, "not-valid")

	_, err = petri.BrowseSource(ctx, "H-0701", dossier.ID[dossier.Source](ids["source"]), wire.BrowseSource{As: []dossier.ID[dossier.Device]{dossier.ID[dossier.Device](ids["device"])}})
	refusedAs(t, err, "not-announced")
	look, err := petri.BrowseSource(ctx, "H-0701", dossier.ID[dossier.Source](ids["source"]), wire.BrowseSource{Against: dossier.ID[dossier.Source](ids["source"])})
	require.NoError(t, err)
	assert.Equal(t, []wire.FolderSide{{Folder: "Films", Items: []int{2}}}, look.Folders)
	assert.Empty(t, look.MissingHere)
	assert.Equal(t, "UPnP folders (ContentDirectory): 1 answer.", look.Views[0].Sentence)
}

// A scan under the id of another home's scan is refused by name, and changes neither home.
func TestAScanDoesNotTakeTheIDOfAnotherHomes(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	g := seenServer(ids, "Films")
	first, err := petri.AddScan(ctx, "H-0701", g)
	require.NoError(t, err)
	other := s.home("H-0702")
	theirs := seenServer(other, "Music")
	theirs.ID = g.ID
	_, err = petri.AddScan(ctx, "H-0702", theirs)
	refusedAs(t, err, "taken-elsewhere")
	require.ErrorContains(t, err, "H-0701")
	now, err := petri.Observations(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, first.Hosts, now.Hosts)
	now, err = petri.Observations(ctx, "H-0702")
	require.NoError(t, err)
	assert.Empty(t, now.Scan)
	again, err := petri.AddScan(ctx, "H-0701", g)
	require.NoError(t, err, "the same one may be handed in twice")
	assert.Equal(t, first.Hosts, again.Hosts)
}

// Both ends of a path are held against what a laptop saw; what was seen of the server is recorded at once, what is entered on the device is not.
func TestBothEndsAreHeldAgainstAScan(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	s.set("H-0701", "source", ids["source"], wire.Record{"port": 40211})
	s.set("H-0701", "path", ids["path"], wire.Record{"deviceEnd": wire.Record{"port": 40210, "name": "Basalt"}})
	port := func() (wire.BothEnds, wire.EndRow) {
		both, err := petri.BothEnds(ctx, "H-0701")
		require.NoError(t, err)
		require.Len(t, both.Paths, 1)
		n := slices.IndexFunc(both.Paths[0].Rows, func(r wire.EndRow) bool { return r.Member == matching.EndPort })
		return both, both.Paths[0].Rows[n]
	}
	both, row := port()
	assert.Empty(t, both.Scan)
	assert.Equal(t, "No scan has recognised the server for certain, so what it has now is not known.", both.Paths[0].Said)
	assert.Equal(t, matching.DeviceOther, row.Agreement)
	assert.Contains(t, row.Said, "look at both")

	g := seenServer(ids)
	g.Hosts[0].Open, g.Hosts[0].Heard = []int{40210}, []int{1900}
	o, err := petri.AddScan(ctx, "H-0701", g)
	require.NoError(t, err)
	_, err = petri.ReviewHosts(ctx, "H-0701", wire.ReviewHosts{Scan: o.Scan, Identify: map[string]string{host(t, o, "10.20.4.10").Key: ids["server"]}})
	require.NoError(t, err)
	both, row = port()
	assert.Equal(t, o.Scan, both.Scan)
	assert.Equal(t, []string{"40210"}, row.Seen)
	assert.Equal(t, matching.RecordOld, row.Agreement)
	require.Len(t, row.Correct, 1)
	taken, err := petri.RecordSeen(ctx, "H-0701", wire.RecordSeen{Scan: both.Scan, Differences: row.Correct})
	require.NoError(t, err)
	assert.Equal(t, 1, taken.Values)
	_, row = port()
	assert.Equal(t, matching.Agree, row.Agreement)
	assert.Empty(t, row.Said)
	assert.Empty(t, row.Correct)

	openings, err := petri.Openings(ctx, "H-0701")
	require.NoError(t, err)
	for transport, port := range map[dossier.Transport]int{dossier.TCP: 40210, dossier.UDP: 1900} {
		n := slices.IndexFunc(openings.Needed, func(n wire.NeededOpening) bool { return n.Transport == transport && n.Port == port })
		assert.Equal(t, matching.Answered, openings.Needed[n].Seen, port)
		assert.Equal(t, "It answered the latest scan: from there it is open.", openings.Needed[n].SeenSaid, port)
	}
}
