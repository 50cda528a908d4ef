package forecast

import (
	"cmp"
	"slices"

	"kaiku/core/dossier"
)

// Ahead is a part of a folder that more devices would play if it were converted ahead of time into one form.
type Ahead struct {
	Folder  dossier.ID[dossier.Folder]   `json:"folder"`
	Entry   int                          `json:"entry"` // its place in the folder's mix
	Into    dossier.FormatEntry          `json:"into"`
	For     []dossier.ID[dossier.Device] `json:"for"`   // the devices that would play it as it is, and do not now
	Plays   int                          `json:"plays"` // how many devices would play it as it is
	Of      int                          `json:"of"`    // of how many that a path leads to
	Gained  Share                        `json:"gained"`
	Before  float64                      `json:"before,omitzero"`  // GB (10^9 bytes); 0 if not known
	After   float64                      `json:"after,omitzero"`   // GB, estimated; 0 if the length is not known
	Largest float64                      `json:"largest,omitzero"` // GB of one copy, on average and estimated
}

// fat32 is the most that a file of the FAT32 file system may have, in GB: 2^32 - 1 bytes.
const fat32 = 4.294967295

// TooLargeForFAT32 reports whether a copy of average size does not fit a medium with the FAT32 file system.
func (a Ahead) TooLargeForFAT32() bool { return a.Largest > fat32 }

// target is a form into which things are converted, with the bit rate that it is given. Judgement: forms that most devices of
// the last ten years play, the better picture first.
type target struct {
	form dossier.FormatEntry
	mbps float64
}

var (
	moving = []target{
		{form(dossier.HEVC, dossier.ProfileMain, "4.1", 1920, 1080), 6},
		{form(dossier.H264, dossier.ProfileHigh, "4.1", 1920, 1080), 9},
		{form(dossier.H264, dossier.ProfileMain, "3.1", 1280, 720), 5},
	}
	heard = []target{
		{dossier.FormatEntry{Container: dossier.FLACFile, Sound: dossier.FLAC, Channels: 2, SampleRate: 44100, SoundBits: 16}, 0.9},
		{dossier.FormatEntry{Container: dossier.MPEGAudio, Sound: dossier.MP3, Channels: 2, SampleRate: 44100}, 0.32},
	}
	seen = []target{{dossier.FormatEntry{Container: dossier.JPEG, Width: 4096, Height: 4096}, 0}}
)

func form(codec dossier.VideoCodec, profile dossier.VideoProfile, level string, width, height int) dossier.FormatEntry {
	return dossier.FormatEntry{Container: dossier.MP4, Video: codec, Profile: profile, Level: level, Width: width, Height: height, Interlaced: dossier.No, BitDepth: 8, Chroma: dossier.Chroma420, Range: dossier.SDR,
		Sound: dossier.AAC, Channels: 2, SampleRate: 48000}
}

// targets are the forms for an entry, no larger and no faster than it is.
func targets(e *dossier.FormatEntry, out []target) []target {
	list := seen
	switch {
	case e.Video != "":
		list = moving
	case e.Sound != "":
		list = heard
	}
	out = append(out[:0], list...)
	for i := range out {
		t := &out[i]
		if t.form.Video == "" {
			continue
		}
		if e.Width > 0 && e.Height > 0 {
			if shrink := min(1, float64(t.form.Width)/float64(e.Width), float64(t.form.Height)/float64(e.Height)); shrink < 1 {
				t.form.Width, t.form.Height = even(float64(e.Width)*shrink), even(float64(e.Height)*shrink)
			} else {
				t.form.Width, t.form.Height = e.Width, e.Height
			}
		}
		t.form.FrameRate = min(cmp.Or(e.FrameRate, assumedFrames), 30)
		if e.Sound == "" {
			t.form.Sound, t.form.Channels, t.form.SampleRate = "", 0, 0
		}
	}
	return out
}

func even(n float64) int { return int(n/2) * 2 }

// gigabytesAnHour is what an hour at one Mb/s takes.
const gigabytesAnHour = 0.45

// ahead lists what would be worth converting ahead of time: for each folder and each format of which it is known that some
// device does not play it as it is, the form that most of the devices play. What gains most hours comes first. What is not
// known of a device counts as not played, before and after.
func (w *work) ahead(cells []Cell) (out []Ahead) {
	byFolder := map[dossier.ID[dossier.Folder]][]viewer{}
	for i := range cells {
		c := &cells[i]
		byFolder[c.Folder] = append(byFolder[c.Folder], viewer{c, w.known[c.Path]})
	}
	tried := map[parts][]answer{}
	var all []Ahead
	var order []int // so that small things are sorted
	for i := range w.x.Folders {
		folder := &w.x.Folders[i]
		for n := range folder.Mix {
			if a, worth := w.aheadOf(folder, n, byFolder[folder.ID], tried); worth {
				order, all = append(order, len(all)), append(all, a)
			}
		}
	}
	slices.SortStableFunc(order, func(i, j int) int {
		a, b := &all[i], &all[j]
		return cmp.Or(cmp.Compare(b.Gained.Hours*float64(len(b.For)), a.Gained.Hours*float64(len(a.For))), cmp.Compare(b.Gained.Items, a.Gained.Items))
	})
	out = make([]Ahead, len(all))
	for n, i := range order {
		out[n] = all[i]
	}
	return out
}

// viewer is a device that a path leads to, with what decides whether it plays something.
type viewer struct {
	*Cell
	*ends
}

// playsAsIs says whether a form plays at the end of a path; found holds what was asked before, by the number of the ends.
func (w *work) playsAsIs(v viewer, n parts, e *dossier.FormatEntry, found []answer) bool {
	a := &found[v.number]
	if *a == 0 {
		path, _ := w.x.Paths.Get(v.Path)
		results := w.parts(v.profile, n, e)
		o, _, _ := outcome(&results, v.converts(path), e, v.limit())
		*a = answerOf(o == AsIs)
	}
	return *a == yes
}

// aheadOf finds the form for one entry. Tried holds, for each form, what was found at the ends of the paths.
func (w *work) aheadOf(folder *dossier.Folder, n int, viewers []viewer, tried map[parts][]answer) (best Ahead, worth bool) {
	e := &folder.Mix[n]
	lacking := slices.ContainsFunc(viewers, func(v viewer) bool { return v.Lines[n].Outcome != AsIs && v.Lines[n].Outcome != NotKnown })
	if !lacking {
		return Ahead{}, false
	}
	w.targets = targets(e, w.targets)
	for i := range w.targets {
		t := &w.targets[i]
		parts := w.partsOf(&t.form)
		found := tried[parts]
		if found == nil {
			found = make([]answer, len(w.known))
			tried[parts] = found
		}
		w.helped = w.helped[:0]
		a := Ahead{Folder: folder.ID, Entry: n, Into: t.form, Of: len(viewers), Gained: Share{e.Items, e.Hours}, Before: e.Gigabytes}
		for _, v := range viewers {
			if !w.playsAsIs(v, parts, &t.form, found) {
				continue
			}
			if a.Plays++; v.Lines[n].Outcome != AsIs {
				w.helped = append(w.helped, v.Device)
			}
		}
		a.After = e.Hours * t.mbps * gigabytesAnHour
		a.Largest = a.After / float64(max(e.Items, 1))
		if len(w.helped) > 0 && (!worth || a.Plays > best.Plays) {
			a.For = append(best.For[:0], w.helped...)
			best, worth = a, true
		}
	}
	return best, worth
}
