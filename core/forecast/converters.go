package forecast

import (
	"cmp"
	"math"
	"slices"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

// Converter is a source that has to convert pictures for some of its paths, and whether it has the power for it.
type Converter struct {
	Source dossier.ID[dossier.Source] `json:"source"`
	// Mpx is what the heaviest conversion takes, in Mpx/s: pixels decoded and encoded. It is an estimate.
	Mpx    float64                    `json:"mpx"`
	Device dossier.ID[dossier.Device] `json:"device"` // whose conversion that is
	Folder dossier.ID[dossier.Folder] `json:"folder"`
	Entry  int                        `json:"entry"`
	// Budget is what the source is recorded to manage, in Mpx/s; 0 if that is not known.
	Budget float64 `json:"budget,omitzero"`
	// AtOnce is how many conversions as heavy as the heaviest fit into the budget; it says nothing where Budget or Mpx is 0.
	AtOnce int `json:"atOnce"`
	// Devices is how many devices need conversion: how many might ask for it in one evening.
	Devices int `json:"devices"`
}

// Short says whether fewer conversions fit than there are devices that need one.
func (c Converter) Short() bool { return c.Budget > 0 && c.Mpx > 0 && c.AtOnce < c.Devices }

// What decoding a pixel costs beside one of H.264 with 8 bits, and what mapping the tones of one picture into another
// range adds. Judgement: orders of magnitude as they are seen on small servers without a circuit for it.
var decodingCost = map[dossier.VideoCodec]float64{dossier.MPEG2: 0.7, dossier.MPEG1: 0.5, dossier.HEVC: 1.5, dossier.VP9: 1.5, dossier.AV1: 2.5, dossier.VVC: 4}

const (
	tenBitCost    = 1.35
	toneMapCost   = 1
	assumedFrames = 25 // where the frame rate is not recorded
)

// conversionOf estimates what converting the picture of one item takes, in Mpx/s: what is decoded and what is encoded. The
// new picture is as large as the old one, or as large as the limit allows that it breaks. One picture stream of 1920 x
// 1080 at 30 frames per second is 62.2 Mpx/s.
func conversionOf(e dossier.FormatEntry, l *Line) float64 {
	if e.Width == 0 || e.Height == 0 {
		return 0
	}
	frames := cmp.Or(e.FrameRate, assumedFrames)
	cost := cmp.Or(decodingCost[e.Video], 1)
	if e.BitDepth > 8 {
		cost *= tenBitCost
	}
	if e.Range != "" && e.Range != dossier.SDR {
		cost += toneMapCost
	}
	pixels := float64(e.Width) * float64(e.Height)
	encoded := pixels
	if r := l.Decides; r.Reason == format.BeyondLimit {
		switch r.Limit {
		case "width":
			encoded *= math.Pow(float64(r.Entry.Width)/float64(e.Width), 2)
		case "height":
			encoded *= math.Pow(float64(r.Entry.Height)/float64(e.Height), 2)
		}
	}
	return math.Round((pixels*cost+encoded)*frames/1e5) / 10
}

// converters lists the sources that have to convert pictures, by the heaviest that they have to.
func (w *work) converters(cells []Cell) []Converter {
	by := map[dossier.ID[dossier.Source]]*Converter{}
	asks := map[dossier.ID[dossier.Source]]map[dossier.ID[dossier.Device]]bool{}
	for i := range cells {
		c := &cells[i]
		if _, some := c.Of[PictureConverted]; !some {
			continue
		}
		for n := range c.Lines {
			l := c.Lines[n]
			if l.Outcome != PictureConverted {
				continue
			}
			path, _ := w.x.Paths.Get(c.Path)
			one := by[path.Source]
			if one == nil {
				source, _ := w.x.Sources.Get(path.Source)
				one = &Converter{Source: path.Source, Budget: source.BudgetMpx}
				by[path.Source], asks[path.Source] = one, map[dossier.ID[dossier.Device]]bool{}
			}
			asks[path.Source][c.Device] = true
			if one.Device == "" || l.Mpx > one.Mpx {
				one.Mpx, one.Device, one.Folder, one.Entry = l.Mpx, c.Device, c.Folder, n
			}
		}
	}
	out := []Converter{}
	for id, one := range by {
		one.Devices = len(asks[id])
		if one.Mpx > 0 {
			one.AtOnce = int(one.Budget / one.Mpx)
		}
		out = append(out, *one)
	}
	slices.SortFunc(out, func(a, b Converter) int { return cmp.Compare(a.Source, b.Source) })
	return slices.Clip(out)
}

// Together is what paths of one source in use at once may ask of its power to convert pictures, of each path the heaviest.
type Together struct {
	Source dossier.ID[dossier.Source]
	Paths  []dossier.ID[dossier.Path] // those that may need it
	Mpx    float64                    // estimated
	Sized  bool                       // that of all of them is known
	Budget float64                    // 0 if it is not recorded
}

// Enough says whether the power is enough for all of them; it is not known where the power is not recorded, or what one of them takes and the
// others leave room.
func (t Together) Enough() (enough, known bool) {
	switch {
	case t.Budget <= 0:
		return false, false
	case t.Mpx > t.Budget:
		return false, true
	}
	return t.Sized, t.Sized
}

// Together says for each source with paths among these that may need a picture converted what they ask of it at once. A cell counts for the path that
// serves it best.
func (f Forecast) Together(x *dossier.Index, paths []dossier.ID[dossier.Path]) []Together {
	heaviest := map[dossier.ID[dossier.Path]]float64{}
	unsized := map[dossier.ID[dossier.Path]]bool{}
	for _, c := range f.Cells {
		for _, l := range c.Lines {
			if l.Outcome != PictureConverted || !slices.Contains(paths, c.Path) {
				continue
			}
			heaviest[c.Path] = max(heaviest[c.Path], l.Mpx)
			unsized[c.Path] = unsized[c.Path] || l.Mpx == 0
		}
	}
	by := map[dossier.ID[dossier.Source]]*Together{}
	for id, mpx := range heaviest {
		p, _ := x.Paths.Get(id)
		t := by[p.Source]
		if t == nil {
			source, _ := x.Sources.Get(p.Source)
			t = &Together{Source: p.Source, Sized: true, Budget: source.BudgetMpx}
			by[p.Source] = t
		}
		t.Paths, t.Mpx, t.Sized = append(t.Paths, id), t.Mpx+mpx, t.Sized && !unsized[id]
	}
	out := []Together{}
	for _, t := range by {
		slices.Sort(t.Paths)
		out = append(out, *t)
	}
	slices.SortFunc(out, func(a, b Together) int { return cmp.Compare(a.Source, b.Source) })
	return out
}
