package assess_test

import (
	"fmt"
	"net/netip"
	"testing"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/knowledge"
	"kaiku/core/load"
	"kaiku/core/matching"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/core/suspects"
	"kaiku/homes"
)

// estate is a home of 60 devices, 200 adapters, 12 segments and a path to each device but the
// server, about 800 tests and 2,000 attempts.
func estate() *dossier.Dossier {
	d := homes.Small().Clone()
	for n := 2; n < 12; n++ {
		s := dossier.Segment{Name: fmt.Sprint("segment ", n), Prefix: netip.PrefixFrom(netip.AddrFrom4([4]byte{10, 30, byte(n), 0}), 24)}
		s.ID = homes.ID[dossier.Segment](n)
		d.Segments.Put(s)
	}
	for n := 2; n < 60; n++ {
		v := dossier.Device{Name: fmt.Sprint("device ", n), Room: d.Rooms[n%2].ID}
		v.ID = homes.ID[dossier.Device](n)
		d.Devices.Put(v)
		p := d.Paths[0]
		p.ID, p.Name, p.Device = homes.ID[dossier.Path](n), fmt.Sprint("path ", n), v.ID
		d.Paths.Put(p)
	}
	for n := 2; n < 200; n++ {
		i := dossier.Interface{Device: d.Devices[n%60].ID, Name: fmt.Sprint("if ", n), Segment: d.Segments[n%12].ID, HardwareAddress: dossier.HardwareAddr(fmt.Sprintf("02:4b:49:00:01:%02x", n)),
			Addresses: []netip.Addr{d.Segments[n%12].Prefix.Addr().Next()}}
		for range n {
			i.Addresses[0] = i.Addresses[0].Next()
		}
		i.ID = homes.ID[dossier.Interface](n)
		d.Interfaces.Put(i)
	}
	d.Folders[0].ItemsOnDisk, d.Folders[0].ItemsInIndex = 3, 3
	for n, what := range []dossier.WishKind{dossier.WishKind(dossier.Film), dossier.WishResumeAcrossRooms} {
		w := dossier.Wish{What: what}
		w.ID = homes.ID[dossier.Wish](n)
		d.Wishes.Put(w)
	}
	tests := proving.NewPlan(d.Index()).Tests
	for n := range 2000 {
		t := tests[n%len(tests)]
		a := dossier.Attempt{Test: t.Kind.Name, Subjects: t.Subjects, Outcome: dossier.Pass, Facts: t.Facts(), Version: proving.Version, At: homes.Day.Add(time.Duration(n) * time.Second), By: homes.Person}
		a.ID = homes.AttemptID(10_000 + n)
		d.Attempts.Put(a)
	}
	return d
}

// BenchmarkAssessAHomeOf60Devices computes everything of such a home.
func BenchmarkAssessAHomeOf60Devices(b *testing.B) {
	d := estate()
	b.Logf("%d tests, %d attempts", len(proving.NewPlan(d.Index()).Tests), len(d.Attempts))
	for b.Loop() {
		assess.Assess(d, knowledge.Knowledge{}, homes.Day)
	}
	measured := float64(b.Elapsed().Microseconds()) / 1000 / float64(b.N)
	b.ReportMetric(6, "aim-ms")
	b.ReportMetric(measured, "measured-ms")
	b.ReportMetric(measured/6, "ratio")
}

// BenchmarkWays works out what is said of the paths of such a home, with 20 folders of 30 formats, a link and abilities of its own for each
// device: prerequisites, openings, whether both ends agree, forecast and load.
func BenchmarkWays(b *testing.B) {
	d := estate()
	d.Attempts = nil
	for n := range d.Paths {
		d.Paths[n].Folders = nil // they reach all of the source
	}
	for f := range 20 {
		one := d.Folders[0]
		one.ID, one.Name, one.Mix = homes.ID[dossier.Folder](100+f), fmt.Sprint("folder ", f), nil
		for n := range 30 {
			one.Mix = append(one.Mix, dossier.FormatEntry{Container: dossier.Matroska, Video: []dossier.VideoCodec{dossier.H264, dossier.HEVC}[f%2], Profile: dossier.ProfileMain, Level: []string{"3.1", "4", "4.1", "5.1"}[n%4],
				Height: 1080, Width: 1920, Sound: []dossier.SoundCodec{dossier.AAC, dossier.AC3}[n%2], Channels: 2 + n%5, AverageMbps: float64(n + f), Items: n})
		}
		d.Folders.Put(one)
	}
	for n, v := range d.Devices {
		of := dossier.Decoding{Device: v.ID, Entries: []dossier.DecodingEntry{
			{Part: dossier.PartContainer, Format: dossier.FormatTerm(dossier.Matroska), Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
			{Part: dossier.PartVideo, Format: dossier.FormatTerm(dossier.H264), Able: dossier.Yes, Evidence: dossier.EvidenceDeclared, Level: "4.1", ReferenceFrames: 4 + n},
			{Part: dossier.PartSound, Format: dossier.FormatTerm(dossier.AAC), Able: dossier.Yes, Evidence: dossier.EvidenceDeclared},
		}}
		of.ID = homes.ID[dossier.Decoding](100 + n)
		d.Decodings.Put(of)
		if n > 0 {
			l := dossier.Link{Near: d.InterfacesOf(v.ID)[0].ID, Far: d.InterfacesOf(d.Devices[0].ID)[0].ID, Kind: []dossier.LinkKind{dossier.LinkCable, dossier.LinkRadio}[n%2], RateMbps: 866, Channel: []int{0, 36}[n%2]}
			l.ID = homes.ID[dossier.Link](100 + n)
			d.Links.Put(l)
		}
	}
	x := d.Index()
	all := forecast.Of(x, knowledge.Knowledge{})
	b.Logf("%d forecasts, %d prerequisites", len(all.Cells)*30, len(proving.Prerequisites(x, nil, nil)))
	for b.Loop() {
		proving.Prerequisites(x, nil, nil)
		network.Openings(x)
		matching.Ends(x, nil, homes.Day)
		forecast.Of(x, knowledge.Knowledge{})
		load.Of(x, time.UTC)
	}
	measured := float64(b.Elapsed().Microseconds()) / 1000 / float64(b.N)
	b.ReportMetric(5, "aim-ms")
	b.ReportMetric(measured, "measured-ms")
	b.ReportMetric(measured/5, "ratio")
}

// BenchmarkPlanAndStatuses makes the plan of such a home and says where each test stands.
func BenchmarkPlanAndStatuses(b *testing.B) {
	d := estate()
	for b.Loop() {
		proving.Statuses(proving.NewPlan(d.Index()), proving.Against{})
	}
	measured := float64(b.Elapsed().Microseconds()) / 1000 / float64(b.N)
	b.ReportMetric(5, "aim-ms")
	b.ReportMetric(measured, "measured-ms")
	b.ReportMetric(measured/5, "ratio")
}

// The suspects of a home of 60 devices with hundreds of results, some of which failed on several devices, pairs and next steps included.
func BenchmarkSuspects(b *testing.B) {
	d := estate()
	failed := 0
	for i := range d.Attempts {
		if a := &d.Attempts[i]; failed < 12 && i%160 == 0 {
			a.Outcome, a.Observed = dossier.Fail, "time-out"
			failed++
		}
	}
	x := d.Index()
	plan := proving.NewPlan(x)
	statuses := proving.Statuses(plan, proving.Against{})
	l := load.Of(x, time.UTC)
	known := suspects.Case{Home: x, Plan: plan, Statuses: statuses, Load: &l, Faults: suspects.Shipped(), Now: time.Now()}
	out := suspects.Of(known)
	b.Logf("%d failures among %d pieces of evidence, %d suspects named", out.Failures, out.Evidence, len(out.List))
	for b.Loop() {
		suspects.Of(known)
	}
	measured := float64(b.Elapsed().Microseconds()) / 1000 / float64(b.N)
	b.ReportMetric(20, "aim-ms")
	b.ReportMetric(measured, "measured-ms")
	b.ReportMetric(measured/20, "ratio")
}
