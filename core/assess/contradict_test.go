package assess_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
	"kaiku/homes"
)

// A result speaks against a forecast only where both are certain, and where nothing else explains it.
func TestResultsThatSpeakAgainstAForecast(t *testing.T) {
	film := dossier.FormatEntry{Container: dossier.MP4, Video: dossier.H264, Profile: dossier.ProfileHigh, Level: "4.1", Width: 1920, Height: 1080, FrameRate: 25, BitDepth: 8, Sound: dossier.AAC, Channels: 2, Items: 10, Hours: 20}
	line := func(part dossier.FormatPart, format string, able dossier.Answer) dossier.DecodingEntry {
		return dossier.DecodingEntry{Part: part, Format: dossier.FormatTerm(format), Able: able, Evidence: dossier.EvidenceDeclared}
	}
	lines := func(video, sound dossier.Answer) []dossier.DecodingEntry {
		return []dossier.DecodingEntry{line(dossier.PartContainer, "mp4", dossier.Yes), line(dossier.PartVideo, string(dossier.H264), video), line(dossier.PartSound, string(dossier.AAC), sound)}
	}
	type result struct {
		outcome  dossier.Outcome
		observed dossier.Observed
	}
	pass, fail := result{dossier.Pass, ""}, result{dossier.Fail, ""}
	for _, c := range []struct {
		name    string
		entries []dossier.DecodingEntry
		results map[string]result
		unread  int
		want    []string
	}{
		{"all is well", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": pass, "sound": pass}, 0, nil},
		{"it should play and does not", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": fail}, 0, []string{assess.FailsThoughFit}},
		{"the server refused", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": {dossier.Fail, "refused"}}, 0, nil},
		{"it stalled", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": {dossier.Fail, "stalled"}}, 0, nil},
		{"the renderer refused the form", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": {dossier.Fail, "renderer-refused"}}, 0, []string{assess.FailsThoughFit}},
		{"the folders do not open", lines(dossier.Yes, dossier.Yes), map[string]result{"opens": fail, "plays": fail}, 0, nil},
		{"some files were not read", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": fail}, 5, nil},
		{"it should not play and does not", lines(dossier.No, dossier.Yes), map[string]result{"plays": fail}, 0, nil},
		{"it should not play and does", lines(dossier.No, dossier.Yes), map[string]result{"plays": pass}, 0, []string{assess.PlaysThoughUnfit}},
		{"it should be silent and is heard", lines(dossier.Yes, dossier.No), map[string]result{"plays": pass, "sound": pass}, 0, []string{assess.HeardThoughSilent}},
		{"it should be heard and is silent", lines(dossier.Yes, dossier.Yes), map[string]result{"plays": pass, "sound": fail}, 0, []string{assess.SilentThoughHeard}},
		{"nothing is known of the device", nil, map[string]result{"plays": fail, "sound": fail}, 0, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			h := rapid.Custom(homes.Furnished).Example(3)
			d := h.Dossier
			d.Issues, d.Changes, d.Attempts, d.Decodings, d.ChainLinks = nil, nil, nil, nil, nil
			for i := range d.Folders {
				d.Folders[i].Mix, d.Folders[i].ItemsInIndex, d.Folders[i].ItemsOnDisk = []dossier.FormatEntry{film}, film.Items+c.unread, film.Items+c.unread
			}
			for i := range d.Sources {
				d.Sources[i].Converts = dossier.ConvertsNothing
			}
			if c.entries != nil {
				for n, v := range d.Devices {
					one := dossier.Decoding{Device: v.ID, Entries: c.entries, Complete: []dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound}}
					one.ID = homes.ID[dossier.Decoding](700 + n)
					d.Decodings.Put(one)
				}
			}
			n := 0
			for _, x := range proving.NewPlan(d.Index()).Tests {
				r, asked := c.results[x.Kind.Name]
				if !asked || x.Path != h.ScreenPath {
					continue
				}
				n++
				a := dossier.Attempt{Test: x.Kind.Name, Subjects: x.Subjects, Outcome: r.outcome, Observed: r.observed, Facts: x.Facts(), Version: proving.Version, At: noon, By: homes.Person, How: dossier.ByEye}
				a.ID = homes.AttemptID(7000 + n)
				d.Attempts.Put(a)
			}
			require.Equal(t, len(c.results), n, "the home has these tests")
			_, against := look(d).Against()
			var codes []string
			for _, one := range against {
				assert.Equal(t, h.ScreenPath, one.Path)
				codes = append(codes, one.Code)
			}
			assert.Equal(t, c.want, codes)
			// What is no longer certain speaks against nothing.
			homes.Set(h, h.Screen, func(v *dossier.Device) { v.Firmware += "9" })
			_, against = look(d).Against()
			assert.Empty(t, against)
		})
	}
}

// The coverage by room adds up to that of the home, and the history ends with the last entry.
func TestCoverageByRoom(t *testing.T) {
	for seed := range 5 {
		h := provenHome(t, seed)
		whole := look(h.Dossier).Coverage
		sum := proving.Coverage{NotServed: whole.NotServed, Required: whole.NotServed}
		for _, r := range assess.CoverageOf(h.Dossier, knowledge.Knowledge{}, now) {
			sum.Required += r.Required
			sum.Proven += r.Proven
			sum.Waived += r.Waived
		}
		assert.Equal(t, whole, sum)
	}
	entries := make([]dossier.Entry, 500)
	for i := range entries {
		entries[i].At = homes.Day.Add(time.Duration(i) * 7 * time.Hour)
	}
	all := assess.DaysEnds(entries, now, 1000)
	for n, at := range all[:len(all)-1] {
		assert.NotEqual(t, entries[at].At.In(now.Location()).YearDay(), entries[at+1].At.In(now.Location()).YearDay(), "the %d. day goes on", n)
	}
	few := assess.DaysEnds(entries, now, 60)
	assert.Len(t, few, 60)
	assert.Equal(t, 499, few[59])
	assert.IsIncreasing(t, few)
	assert.Empty(t, assess.DaysEnds(nil, now, 60))
}
