package knowledge_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

func TestVersionsAreComparedNumberByNumber(t *testing.T) {
	for _, c := range []struct {
		a, b       string
		order      int
		comparable bool
	}{
		{"9", "10", -1, true}, {"10", "9", 1, true}, {"1.2", "1.10", -1, true}, {"10", "10.0", 0, true}, {"10", "10.0.1", -1, true}, {"v2.1", "V2.1", 0, true}, {"v2.1", "v2.2", -1, true},
		{"2024-03-01", "2024.3.2", -1, true}, {"007", "7", 0, true}, {"12345678901234567890123", "12345678901234567890124", -1, true},
		{"2.1", "2.1b", 0, false}, {"2.1a", "2.1b", 0, false}, {"v2", "2", 0, false}, {"", "1", 0, false}, {"1", "", 0, false}, {"rev B", "rev C", 0, false}, {"rev b", "REV B", 0, true}, {" 3 ", "3", 0, true},
	} {
		order, comparable := knowledge.CompareVersions(c.a, c.b)
		assert.Equal(t, c.comparable, comparable, "%q %q", c.a, c.b)
		assert.Equal(t, c.order, order, "%q %q", c.a, c.b)
	}
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.StringMatching(`[0-9a-c. -]{0,8}`)
		a, b := v.Draw(t, "a"), v.Draw(t, "b")
		x, ok := knowledge.CompareVersions(a, b)
		y, also := knowledge.CompareVersions(b, a)
		if ok != also || x != -y {
			t.Fatalf("%q and %q: %d %t, the other way round %d %t", a, b, x, ok, y, also)
		}
	})
}

func sheet(change func(*knowledge.Sheet)) knowledge.Sheet {
	s := knowledge.Sheet{Model: knowledge.Model{Make: "Ruska", Model: "TV-40", Variant: ""}, Source: "data sheet, edition 3",
		Entries: []dossier.DecodingEntry{{Part: dossier.PartVideo, Format: "hevc", Able: dossier.Yes, Evidence: dossier.EvidenceProven}}}
	if change != nil {
		change(&s)
	}
	return s
}

func TestASheetIsAboutAModelAndItsFirmware(t *testing.T) {
	device := dossier.Device{Make: "ruska", Model: " tv-40", Variant: "B", Firmware: "2.5"}
	for _, c := range []struct {
		name   string
		sheet  func(*knowledge.Sheet)
		device func(*dossier.Device)
		fit    knowledge.Fit
	}{
		{"the model, any firmware", nil, nil, knowledge.Surely},
		{"another model", func(s *knowledge.Sheet) { s.Model.Model = "TV-41" }, nil, knowledge.No},
		{"another make", func(s *knowledge.Sheet) { s.Make = "Other" }, nil, knowledge.No},
		{"any make", func(s *knowledge.Sheet) { s.Make = "" }, nil, knowledge.Surely},
		{"no model", func(s *knowledge.Sheet) { s.Model.Model = "" }, func(v *dossier.Device) { v.Model = "" }, knowledge.No},
		{"the variant", func(s *knowledge.Sheet) { s.Variant = "b" }, nil, knowledge.Surely},
		{"another variant", func(s *knowledge.Sheet) { s.Variant = "C" }, nil, knowledge.No},
		{"a variant that is not recorded", func(s *knowledge.Sheet) { s.Variant = "C" }, func(v *dossier.Device) { v.Variant = "" }, knowledge.Perhaps},
		{"from this firmware on", func(s *knowledge.Sheet) { s.From = "2.5" }, nil, knowledge.Surely},
		{"from a later one on", func(s *knowledge.Sheet) { s.From = "2.6" }, nil, knowledge.No},
		{"up to this one", func(s *knowledge.Sheet) { s.To = "2.5.0" }, nil, knowledge.Surely},
		{"up to an earlier one", func(s *knowledge.Sheet) { s.To = "2.4" }, nil, knowledge.No},
		{"firmware that is not recorded", func(s *knowledge.Sheet) { s.From = "2.4" }, func(v *dossier.Device) { v.Firmware = "" }, knowledge.Perhaps},
		{"firmware written otherwise", func(s *knowledge.Sheet) { s.To = "build C" }, nil, knowledge.Perhaps},
	} {
		v := device
		if c.device != nil {
			c.device(&v)
		}
		s := sheet(c.sheet)
		assert.Equal(t, c.fit, s.Fits(v), c.name)
		entries := knowledge.Knowledge{Sheets: []knowledge.Sheet{s}}.Profile(v, dossier.Decoding{}).Entries
		switch c.fit {
		case knowledge.Surely:
			assert.Equal(t, dossier.EvidenceDataSheet, entries[0].Evidence, c.name)
		case knowledge.Perhaps:
			assert.Equal(t, dossier.EvidenceAssumed, entries[0].Evidence, "%s: never more than assumed", c.name)
		default:
			assert.Empty(t, entries, c.name)
		}
	}
}

// What the record says of a device stays beside the sheets, and neither is written over the other.
func TestSheetsStandBesideTheRecord(t *testing.T) {
	v := dossier.Device{Make: "Ruska", Model: "TV-40"}
	recorded := dossier.Decoding{Entries: make([]dossier.DecodingEntry, 1, 8), Complete: []dossier.FormatPart{dossier.PartSound}}
	k := knowledge.Knowledge{Sheets: []knowledge.Sheet{sheet(nil)}}
	one, two := k.Profile(v, recorded), k.Profile(v, recorded)
	assert.Len(t, one.Entries, 2)
	assert.Len(t, recorded.Entries, 1)
	assert.Equal(t, one, two)
	one.Entries[1].Format = "av1"
	assert.Equal(t, dossier.FormatTerm("hevc"), two.Entries[1].Format, "they share nothing that can be written")
	assert.Equal(t, dossier.EvidenceProven, k.Sheets[0].Entries[0].Evidence)
	assert.Equal(t, recorded.Complete, one.Complete)
}

func TestHowVersionsStand(t *testing.T) {
	k := knowledge.Knowledge{Releases: []knowledge.Release{
		{Software: "Ahtola", Newest: "3.1", Source: "release notes"},
		{Model: knowledge.Model{Model: "TV-40"}, Newest: "10", Source: "support page"},
		{Model: knowledge.Model{Model: "TV-40", Variant: "B"}, Newest: "8", GivenUp: true, Source: "letter"},
	}}
	s := k.OfSoftware(dossier.Software{Name: "ahtola", Version: "2.6", NewestKnown: "2.6", GivenUp: true})
	assert.Equal(t, knowledge.Standing{Installed: "2.6", Newest: "3.1", Older: knowledge.Surely, Source: "release notes", Known: true}, s, "what the firm knows goes before the record")
	assert.Equal(t, knowledge.Standing{Installed: "1", Newest: "2", Older: knowledge.Surely, Known: true}, k.OfSoftware(dossier.Software{Name: "other", Version: "1", NewestKnown: "2"}))
	assert.Equal(t, knowledge.No, k.OfSoftware(dossier.Software{Name: "Ahtola", Version: "3.1"}).Older)
	assert.Equal(t, knowledge.No, k.OfSoftware(dossier.Software{Name: "Ahtola"}).Older, "what is installed is not known")
	assert.Equal(t, knowledge.Perhaps, k.OfSoftware(dossier.Software{Name: "Ahtola", Version: "nightly"}).Older)
	assert.False(t, k.OfSoftware(dossier.Software{Name: "other", Version: "1"}).Known)

	assert.Equal(t, knowledge.Surely, k.OfFirmware(dossier.Device{Model: "TV-40", Variant: "A", Firmware: "9"}).Older)
	b := k.OfFirmware(dossier.Device{Model: "tv-40", Variant: "b", Firmware: "9"})
	assert.True(t, b.GivenUp, "the variant's own entry goes before the model's")
	assert.Equal(t, knowledge.No, b.Older)
	assert.False(t, k.OfFirmware(dossier.Device{Model: "TV-41", Firmware: "1"}).Known)
	assert.Equal(t, "10", k.OfFirmware(dossier.Device{Model: "TV-40", Firmware: "9"}).Newest, "the variant is not known: what holds for all")
}

func TestWhatAFirmMayNotStore(t *testing.T) {
	codes := func(f dossier.Faults) map[string]dossier.FaultCode {
		out := map[string]dossier.FaultCode{}
		for _, one := range f {
			out[one.Pointer] = one.Code
		}
		return out
	}
	assert.Empty(t, sheet(nil).Check())
	assert.Equal(t, map[string]dossier.FaultCode{"/model": dossier.FaultRequired, "/source": dossier.FaultRequired, "/entries": dossier.FaultRequired}, codes(knowledge.Sheet{}.Check()))
	assert.Equal(t, map[string]dossier.FaultCode{"/to": dossier.FaultRange}, codes(sheet(func(s *knowledge.Sheet) { s.From, s.To = "3", "2" }).Check()))
	assert.Empty(t, sheet(func(s *knowledge.Sheet) { s.From, s.To = "2", "2" }).Check())
	assert.Equal(t, map[string]dossier.FaultCode{"/entries/0/able": dossier.FaultRequired, "/entries/0/part": dossier.FaultNotListed, "/entries/0/format": dossier.FaultRequired},
		codes(sheet(func(s *knowledge.Sheet) { s.Entries = []dossier.DecodingEntry{{Part: "soul"}} }).Check()))
	assert.Equal(t, map[string]dossier.FaultCode{"/software": dossier.FaultRequired, "/source": dossier.FaultRequired, "/newest": dossier.FaultRequired}, codes(knowledge.Release{}.Check()))
	assert.Empty(t, knowledge.Release{Software: "a", GivenUp: true, Source: "letter"}.Check())
	both := knowledge.Release{Software: "a", Model: knowledge.Model{Model: "b"}, Newest: "1", Source: "x"}
	assert.Equal(t, map[string]dossier.FaultCode{"/software": dossier.FaultRequired}, codes(both.Check()), "of a program or of a model, not of both")
}

func TestOneEntryForEachModelAndRange(t *testing.T) {
	assert.Equal(t, sheet(nil).Key(), sheet(func(s *knowledge.Sheet) { s.Make, s.Source = " RUSKA", "another" }).Key())
	for _, other := range []func(*knowledge.Sheet){func(s *knowledge.Sheet) { s.From = "1" }, func(s *knowledge.Sheet) { s.To = "1" }, func(s *knowledge.Sheet) { s.Variant = "B" }, func(s *knowledge.Sheet) { s.Model.Model = "x" }} {
		assert.NotEqual(t, sheet(nil).Key(), sheet(other).Key())
	}
	assert.Equal(t, knowledge.Release{Software: "A"}.Key(), knowledge.Release{Software: "a", Newest: "2"}.Key())
	assert.NotEqual(t, knowledge.Release{Software: "a"}.Key(), knowledge.Release{Model: knowledge.Model{Model: "a"}}.Key())
	assert.Equal(t, "Ruska TV-40", sheet(nil).String())
}

// Taking a file up twice is taking it up once; alone, the file is all there is.
func TestMergingFiles(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(label string) knowledge.File {
			var f knowledge.File
			for _, name := range rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "c", "d"}), 0, 6).Draw(t, label) {
				f.Releases = append(f.Releases, knowledge.Release{Software: name, Newest: rapid.SampledFrom([]string{"1", "2"}).Draw(t, "newest")})
			}
			return knowledge.Merge(knowledge.File{}, f, true)
		}
		a, b := draw("a"), draw("b")
		both := knowledge.Merge(a, b, false)
		if again := knowledge.Merge(both, b, false); !assert.Equal(t, both, again) {
			return
		}
		keys := map[string]bool{}
		for _, r := range both.Releases {
			if keys[r.Key()] {
				t.Fatalf("%s stands twice", r.Software)
			}
			keys[r.Key()] = true
		}
		alone := knowledge.Merge(a, b, true)
		assert.ElementsMatch(t, b.Releases, alone.Releases)
		changes, err := knowledge.Differing(a.Releases, both.Releases)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range changes {
			assert.NotEqual(t, dossier.Removed, c.Act)
		}
		assert.Len(t, both.Releases, len(a.Releases)+len(added(changes)))
	})
}

func added(list []knowledge.ChangedEntry) (out []knowledge.ChangedEntry) {
	for _, c := range list {
		if c.Act == dossier.Added {
			out = append(out, c)
		}
	}
	return out
}

// A sheet is found by its model through the index as without it.
func TestTheIndexFindsWhatASearchFinds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		names := rapid.SampledFrom([]string{"TV-40", "tv-40 ", "TV-41", ""})
		var k knowledge.Knowledge
		for n := range rapid.IntRange(0, 8).Draw(t, "sheets") {
			k.Sheets = append(k.Sheets, sheet(func(s *knowledge.Sheet) { s.Model.Model = names.Draw(t, "model"); s.Entries[0].Width = n + 1 }))
		}
		v := dossier.Device{Make: "Ruska", Model: names.Draw(t, "device")}
		assert.Equal(t, k.Profile(v, dossier.Decoding{}), k.Indexed().Profile(v, dossier.Decoding{}))
	})
}
