package forecast_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
	"kaiku/core/knowledge"
	"kaiku/homes"
)

// addDevice adds a device with a path like the first one, that leads to one folder or to all.
func addDevice(d *dossier.Dossier, name string, entries []dossier.DecodingEntry, folder dossier.ID[dossier.Folder]) dossier.ID[dossier.Device] {
	n := len(d.Devices)
	v, p, c := dossier.Device{Name: name, Roles: []dossier.Role{dossier.RolePlayer}}, d.Paths[0], dossier.Decoding{Entries: entries}
	v.ID, p.ID, c.ID = homes.ID[dossier.Device](200+n), homes.ID[dossier.Path](300+n), homes.ID[dossier.Decoding](400+n)
	p.Device, c.Device, p.Folders = v.ID, v.ID, nil
	if folder != "" {
		p.Folders = []dossier.ID[dossier.Folder]{folder}
	}
	c.Complete = []dossier.FormatPart{dossier.PartContainer, dossier.PartVideo, dossier.PartSound}
	d.Devices.Put(v)
	d.Paths.Put(p)
	d.Decodings.Put(c)
	return v.ID
}

// surround is the ability to decode the sound that screens mostly cannot.
var surround = able(dossier.PartSound, "ac-3", func(d *dossier.DecodingEntry) { d.Channels, d.SampleRate = 6, 48000 })

// putBehind puts the n-th device that decodes these behind another one, by that link.
func putBehind(d *dossier.Dossier, from dossier.ID[dossier.Device], n int, link dossier.ChainLink, entries ...dossier.DecodingEntry) dossier.ID[dossier.Device] {
	v := dossier.Device{Name: fmt.Sprint("behind ", n)}
	v.ID, link.ID = homes.ID[dossier.Device](500+n), homes.ID[dossier.ChainLink](500+n)
	link.From, link.To = from, v.ID
	decodes := dossier.Decoding{Device: v.ID, Entries: entries}
	decodes.ID = homes.ID[dossier.Decoding](500 + n)
	d.Devices.Put(v)
	d.ChainLinks.Put(link)
	d.Decodings.Put(decodes)
	return v.ID
}

func addFolder(d *dossier.Dossier, name string, mix ...dossier.FormatEntry) dossier.ID[dossier.Folder] {
	f := d.Folders[0]
	f.ID, f.Name, f.Mix = homes.ID[dossier.Folder](100+len(d.Folders)), name, mix
	d.Folders.Put(f)
	return f.ID
}

// What the other devices of a home decode, what stands behind them and where their paths lead makes no difference to a device.
func TestADeviceIsDecidedByItself(t *testing.T) {
	uhd := with(ten, func(e *dossier.FormatEntry) { e.Width, e.Height = 3840, 2160 })
	heavy := with(film, func(e *dossier.FormatEntry) { e.AverageMbps, e.Needed5Mbps = 30, 40 })
	lists := [][]dossier.DecodingEntry{screen, append(slices.Clone(screen), able(dossier.PartSound, "ac-3", nil)), append(slices.Clone(screen), able(dossier.PartVideo, "hevc", nil), able(dossier.PartContainer, "avi", nil))}
	rapid.Check(t, func(t *rapid.T) {
		d := home(dossier.AVPull, rapid.SampledFrom([]dossier.Conversion{"", dossier.ConvertsNothing, dossier.ConvertsSound, dossier.ConvertsAll}).Draw(t, "converts"), screen, film, loud, heavy)
		d.Sources[0].RateCapMbps = rapid.SampledFrom([]float64{0, 20}).Draw(t, "limit of the source")
		d.Paths[0].Folders = nil
		folders := []dossier.ID[dossier.Folder]{"", d.Folders[0].ID, addFolder(d, "second", ten, boxed, film), addFolder(d, "third", uhd, boxed, loud, loud)}
		for i := range rapid.IntRange(1, 4).Draw(t, "devices") {
			v := addDevice(d, string(rune('a'+i)), rapid.SampledFrom(lists).Draw(t, "decodes"), rapid.SampledFrom(folders).Draw(t, "folder"))
			limit := rapid.SampledFrom([]float64{0, 0, 10}).Draw(t, "limit")
			n := slices.IndexFunc(d.Devices, func(one dossier.Device) bool { return one.ID == v })
			d.Devices[n].RateCapMbps = limit
			if rapid.Bool().Draw(t, "behind it something") {
				putBehind(d, v, i, dossier.ChainLink{BestMode: rapid.SampledFrom([]string{"", "720p60, SDR"}).Draw(t, "mode"), SoundReturn: dossier.SoundReturn(rapid.SampledFrom(append(dossier.SoundReturnPlain.Values(), "")).Draw(t, "sound"))}, surround)
			}
		}
		all := forecast.Of(d.Index(), knowledge.Knowledge{})
		for _, p := range d.Paths {
			one := *d
			one.Paths = dossier.Records[dossier.Path]{p}
			alone := forecast.Of(one.Index(), knowledge.Knowledge{})
			require.Equal(t, alone.Cells, slices.DeleteFunc(slices.Clone(all.Cells), func(c forecast.Cell) bool { return c.Device != p.Device }))
			of := func(f forecast.Forecast) (out []forecast.Help) {
				for _, h := range f.Helps {
					if h.Device == p.Device && h.Kind == forecast.HelpDecodes {
						out = append(out, h)
					}
				}
				return out
			}
			require.ElementsMatch(t, of(alone), of(all))
		}
	})
}

// A home with more lines than places are made at once.
func TestALargeHome(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsNothing, screen, film)
	for i := range 40 {
		d.Folders[0].Mix = append(d.Folders[0].Mix, with(film, func(e *dossier.FormatEntry) { e.Items = i }))
	}
	mix := d.Folders[0].Mix
	for i := range 60 {
		addFolder(d, fmt.Sprint("folder ", i), mix...)
	}
	d.Paths[0].Folders = nil
	cells := forecast.Of(d.Index(), knowledge.Knowledge{}).Cells
	require.Len(t, cells, 61)
	for _, c := range cells {
		require.Len(t, c.Lines, 41)
		for _, l := range c.Lines {
			require.Equal(t, forecast.AsIs, l.Outcome)
		}
		assert.Equal(t, 10+40*39/2, c.Of[forecast.AsIs].Items)
	}
}

// What no mix tells of is counted.
func TestWhatWasNotReadIsCounted(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsNothing, screen, film)
	for onDisk, want := range map[int]int{0: 0, 10: 0, 15: 5} {
		d.Folders[0].ItemsOnDisk = onDisk
		assert.Equal(t, want, forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Unread)
	}
}

// The lower of two limits counts, and decides about each file by what that file needs.
func TestLimitsOfRateDecideAboutEachFile(t *testing.T) {
	slow, fast := with(film, func(e *dossier.FormatEntry) { e.AverageMbps, e.PeakMbps = 5, 6 }), with(film, func(e *dossier.FormatEntry) { e.AverageMbps, e.PeakMbps = 40, 50 })
	for _, c := range []struct{ source, device float64 }{{20, 0}, {0, 20}, {20, 60}, {60, 20}, {20, 20}} {
		for _, mix := range [][]dossier.FormatEntry{{slow, fast}, {fast, slow}} {
			d := home(dossier.AVPull, dossier.ConvertsAll, screen, mix...)
			d.Sources[0].RateCapMbps, d.Devices[1].RateCapMbps = c.source, c.device
			for i, l := range forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines {
				assert.Equal(t, mix[i].AverageMbps < 20, l.Outcome == forecast.AsIs, "%+v %s", c, l.Outcome)
			}
		}
	}
}

// What plays as it is does so on the weakest of what is known of its parts; a part that is not there says nothing.
func TestAPromiseIsAsGoodAsItsWeakestPart(t *testing.T) {
	silent := with(film, func(e *dossier.FormatEntry) { e.Sound, e.Channels, e.SampleRate = "", 0, 0 })
	order := []dossier.Evidence{dossier.EvidenceProven, dossier.EvidenceDeclared, dossier.EvidenceAssumed}
	for _, a := range order {
		for _, b := range order {
			for _, c := range order {
				entries := slices.Clone(screen)
				entries[0].Evidence, entries[1].Evidence, entries[2].Evidence = a, b, c
				lines := forecast.Of(home(dossier.AVPull, dossier.ConvertsNothing, entries, film, silent).Index(), knowledge.Knowledge{}).Cells[0].Lines
				require.Equal(t, []forecast.Outcome{forecast.AsIs, forecast.AsIs}, []forecast.Outcome{lines[0].Outcome, lines[1].Outcome})
				worst := func(of ...dossier.Evidence) dossier.Evidence {
					return slices.MaxFunc(of, func(x, y dossier.Evidence) int { return slices.Index(order, x) - slices.Index(order, y) })
				}
				assert.Equal(t, worst(a, b, c), lines[0].Evidence)
				assert.Equal(t, worst(a, b), lines[1].Evidence, "without sound")
			}
		}
	}
}

// Each thing that helps counts what it helps alone, once for each device.
func TestHelpsAreCountedByWhatTheyLift(t *testing.T) {
	older := with(film, func(e *dossier.FormatEntry) {
		e.Video, e.Profile, e.Level, e.Items, e.Hours = dossier.MPEG2, "", "", 3, 3
	})
	both := with(boxed, func(e *dossier.FormatEntry) { e.Video, e.Profile, e.BitDepth = dossier.HEVC, dossier.ProfileMain10, 10 })
	d := home(dossier.Share, dossier.ConvertsNothing, screen, ten, boxed, older, both, loud, ten)
	second := addDevice(d, "second", screen, "")
	got := map[string]int{}
	for _, h := range forecast.Of(d.Index(), knowledge.Knowledge{}).Helps {
		assert.Contains(t, []dossier.ID[dossier.Device]{d.Paths[0].Device, second}, h.Device)
		got[fmt.Sprint(h.Device == second, " ", h.Part, " ", h.Format)] += h.Gained.Items
	}
	want := map[string]int{}
	for _, of := range []string{"false ", "true "} {
		want[of+"video hevc"], want[of+"container avi"], want[of+"video mpeg-2"], want[of+"sound ac-3"] = 20, 10, 3, 10
	}
	assert.Equal(t, want, got, "of a file that has two faults neither gains anything")
	assert.Len(t, forecast.Of(d.Index(), knowledge.Knowledge{}).Helps, 8)
}

// Where neither the player nor what stands behind it decodes a sound, it is the player that is spoken of.
func TestThePlayerIsSpokenOfFirst(t *testing.T) {
	d := home(dossier.AVPull, dossier.ConvertsNothing, append(slices.Clone(screen), dossier.DecodingEntry{Part: dossier.PartSound, Format: "ac-3", Able: dossier.No, Evidence: dossier.EvidenceProven}), loud)
	putBehind(d, d.Devices[1].ID, 0, dossier.ChainLink{SoundReturn: dossier.SoundReturnEnhanced}, dossier.DecodingEntry{Part: dossier.PartSound, Format: "ac-3", Able: dossier.No, Evidence: dossier.EvidenceDeclared})
	l := forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0]
	assert.Equal(t, forecast.Silent, l.Outcome)
	assert.Equal(t, dossier.EvidenceProven, l.Decides.Evidence)
	assert.Equal(t, format.Cannot, l.Decides.Verdict)
}

// A chain is followed over eight links, so that one that is recorded as endless ends.
func TestHowFarAChainIsFollowed(t *testing.T) {
	for links, want := range map[int]forecast.Outcome{1: forecast.AsIs, 8: forecast.AsIs, 9: forecast.Silent} {
		d := home(dossier.AVPull, dossier.ConvertsNothing, screen, loud)
		last := d.Devices[1].ID
		for i := range links {
			var entries []dossier.DecodingEntry
			if i == links-1 {
				entries = append(entries, surround)
			}
			last = putBehind(d, last, i, dossier.ChainLink{SoundReturn: dossier.SoundReturnEnhanced}, entries...)
		}
		assert.Equal(t, want, forecast.Of(d.Index(), knowledge.Knowledge{}).Cells[0].Lines[0].Outcome, links)
	}
}
