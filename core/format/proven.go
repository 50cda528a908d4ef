package format

import (
	"slices"

	"kaiku/core/dossier"
)

// Shown returns what a test with a file of that format shows of the device that was to play it, as entries known by proof. A pass of playing shows
// that it decodes container and picture, or the sound of a file without one; a pass of the sound or of the subtitles shows that it decodes
// those. A failure shows something only where a single part can be to blame: of what plays, the sound or the subtitles; of what does not, the
// picture or the only sound, if the container is known to be decoded.
func Shown(recorded []dossier.DecodingEntry, e dossier.FormatEntry, test string, passed bool) []dossier.DecodingEntry {
	able := dossier.No
	if passed {
		able = dossier.Yes
	}
	entry := func(part dossier.FormatPart) (dossier.DecodingEntry, bool) {
		term, known := Term(e, part)
		d := dossier.DecodingEntry{Part: part, Format: term, Able: able, Evidence: dossier.EvidenceProven}
		switch part {
		case dossier.PartVideo:
			d.Profile, d.Level, d.Width, d.Height, d.FrameRate, d.Interlaced, d.BitDepth, d.Chroma = e.Profile, e.Level, e.Width, e.Height, e.FrameRate, e.Interlaced, e.BitDepth, e.Chroma
			if e.Range != dossier.SDR {
				d.Range = e.Range
			}
		case dossier.PartSound:
			d.Channels, d.SampleRate, d.SoundBits = e.Channels, e.SampleRate, e.SoundBits
		}
		return d, known && term != ""
	}
	var out []dossier.DecodingEntry
	add := func(part dossier.FormatPart) {
		if d, known := entry(part); known {
			out = append(out, d)
		}
	}
	main := dossier.PartVideo
	if e.Video == "" {
		main = dossier.PartSound
	}
	switch test {
	case "plays", "top-quality":
		container, known := entry(dossier.PartContainer)
		if passed {
			add(dossier.PartContainer)
			add(main)
			break
		}
		container.Able = dossier.Yes
		if known && slices.ContainsFunc(recorded, func(d dossier.DecodingEntry) bool {
			return d.Part == container.Part && d.Format == container.Format && d.Able == dossier.Yes
		}) {
			add(main)
		}
	case "sound":
		if e.Video != "" {
			add(dossier.PartSound)
		}
	case "subtitles":
		if e.Subtitles != "" {
			add(dossier.PartSubtitles)
		}
	}
	return out
}

// WithProof puts what was shown into what is recorded of a device: an older proof about the same thing is replaced, and what is known in another
// way stays beside it, where it weighs less.
func WithProof(recorded, shown []dossier.DecodingEntry) []dossier.DecodingEntry {
	out := slices.Clone(recorded)
	for _, d := range shown {
		out = slices.DeleteFunc(out, func(old dossier.DecodingEntry) bool {
			was := old
			was.Able, was.Limits = d.Able, d.Limits
			return old.Evidence == dossier.EvidenceProven && was == d
		})
		out = append(out, d)
	}
	return out
}
