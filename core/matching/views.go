package matching

import (
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// View is what a source shows to one who asks as some device.
type View struct {
	Source  dossier.ID[dossier.Source]
	As      dossier.ID[dossier.Device] // "" for one that no server knows
	Agent   string                     // what the asker said that he is
	Name    string                     // the name the source shows
	Folders []ViewFolder
	Asked   Question // how it ended
}

// ViewFolder is one folder at the top of a source, with what lies in it and below.
type ViewFolder struct {
	Name    string
	Content dossier.ContentKind
	Items   int
	Titles  []string // in the order of the source, at most MostTitles
	Whole   bool     // all of it was counted
}

// MostTitles bounds the titles that are kept of one folder.
const MostTitles = 5000

// Side is one folder in several views: how many items each shows, or -1 where it is not shown.
type Side struct {
	Folder string
	Items  []int
	Differ bool
}

// SideBySide lists the folders of all views, each with its count in every view.
func SideBySide(views []View) []Side {
	var out []Side
	for n, v := range views {
		for _, f := range v.Folders {
			i := slices.IndexFunc(out, func(s Side) bool { return strings.EqualFold(s.Folder, f.Name) })
			if i < 0 {
				i = len(out)
				out = append(out, Side{Folder: f.Name, Items: slices.Repeat([]int{-1}, len(views))})
			}
			out[i].Items[n] = f.Items
		}
	}
	for i, s := range out {
		out[i].Differ = slices.ContainsFunc(s.Items, func(n int) bool { return n != s.Items[0] })
	}
	return out
}

// Missing is a title that one source shows and another does not.
type Missing struct {
	Folder string
	Title  string
}

// MissingFrom lists the titles of a that b does not show in any folder, by their letters and digits
// alone: a file may have another name than its title, and one name may contain the other.
func MissingFrom(a, b View) []Missing {
	known := map[string]bool{}
	var all []string
	for _, f := range b.Folders {
		for _, t := range f.Titles {
			key := titleKey(t)
			known[key] = true
			all = append(all, key)
		}
	}
	var out []Missing
	for _, f := range a.Folders {
		for _, t := range f.Titles {
			key := titleKey(t)
			if key == "" || known[key] || len(key) >= heldFrom && slices.ContainsFunc(all, func(o string) bool { return holds(key, o) }) {
				continue
			}
			out = append(out, Missing{f.Name, t})
		}
	}
	return out
}

// heldFrom is from how many letters one name may be held by another: shorter ones are held by
// chance.
const heldFrom = 7

func holds(a, b string) bool {
	return len(b) >= heldFrom && (strings.Contains(a, b) || strings.Contains(b, a))
}

// titleKey is a title by its letters and digits, without the ending of a file.
func titleKey(s string) string {
	if i := strings.LastIndexByte(s, '.'); i > 0 && len(s)-i <= 6 && !strings.ContainsAny(s[i:], " ") {
		s = s[:i]
	}
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(" -_.:/,'’!?()[]&", r) {
			return -1
		}
		return r
	}, strings.ToLower(s))
}

// Recognition is what a view says of how the source takes the device.
type Recognition string

// Recognitions. That a device is shown the same as an unknown device does not prove that it is
// not recognised: the server may offer everything to everyone.
const (
	OwnView   Recognition = "own-view"   // it is shown something of its own
	AsUnknown Recognition = "as-unknown" // it is shown the same as an unknown device
	ShutOut   Recognition = "shut-out"   // it is shown nothing, and an unknown device is shown something
	NoAnswer  Recognition = "no-telling" // one of both views did not come to its end
)

// Recognised compares what a device is shown with what an unknown device is shown.
func Recognised(v, unknown View) Recognition {
	ended := func(v View) bool { return v.Asked.Ended == Answered || v.Asked.Ended == Empty }
	sides := SideBySide([]View{v, unknown})
	switch {
	case !ended(v) || !ended(unknown):
		return NoAnswer
	case len(v.Folders) == 0 && len(unknown.Folders) > 0:
		return ShutOut
	case slices.ContainsFunc(sides, func(s Side) bool { return s.Differ }):
		return OwnView
	}
	return AsUnknown
}
