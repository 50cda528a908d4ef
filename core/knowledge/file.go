package knowledge

import (
	"encoding/json"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// FileFormat names the form in which sheets and releases are handed from firm to firm.
const FileFormat = "kaiku-knowledge/1"

// File is such a file.
type File struct {
	Format   string    `json:"format" enum:"kaiku-knowledge/1" doc:"The form of this file."`
	Sheets   []Sheet   `json:"sheets,omitempty" maxItems:"5000" doc:"What models of devices decode."`
	Releases []Release `json:"releases,omitempty" maxItems:"5000" doc:"The newest versions of programs and of firmware."`
}

// Change is one change of a table of the firm: recipes, sheets or releases.
type Change struct {
	Table   string
	Version uint64
	At      time.Time
	By      dossier.PersonID
	Entries []ChangedEntry
}

// ChangedEntry is an entry that was added, changed or removed, before and after as JSON.
type ChangedEntry struct {
	Act    dossier.Act     `json:"act"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// Key tells recipes apart.
func (r Recipe) Key() string { return strings.ToLower(strings.TrimSpace(r.Name)) }

// Keyed is an entry of a table of the firm: its key tells it from the others.
type Keyed interface{ Key() string }

// Differing lists what was added, changed and removed between two states of a table, by key.
func Differing[T Keyed](before, after []T) ([]ChangedEntry, error) {
	was := map[string][]byte{}
	for _, e := range before {
		b, err := json.Marshal(e)
		if err != nil {
			return nil, err
		}
		was[e.Key()] = b
	}
	out := []ChangedEntry{}
	for _, e := range after {
		b, err := json.Marshal(e)
		if err != nil {
			return nil, err
		}
		old, had := was[e.Key()]
		delete(was, e.Key())
		switch {
		case !had:
			out = append(out, ChangedEntry{Act: dossier.Added, After: b})
		case string(old) != string(b):
			out = append(out, ChangedEntry{Act: dossier.Changed, Before: old, After: b})
		}
	}
	for _, e := range before {
		if old, gone := was[e.Key()]; gone {
			out = append(out, ChangedEntry{Act: dossier.Removed, Before: old})
		}
	}
	return out, nil
}

// Merge puts the entries of a file into what there is: one with the same key takes the place of the older. With alone,
// what the file does not name goes.
func Merge(now, in File, alone bool) File {
	return File{Sheets: Merged(now.Sheets, in.Sheets, alone), Releases: Merged(now.Releases, in.Releases, alone)}
}

// Merged is one table with the entries of another in place of those with the same key, or behind them; with alone, what the other does not name goes.
func Merged[T Keyed](now, in []T, alone bool) []T {
	named := map[string]bool{}
	for _, e := range in {
		named[e.Key()] = true
	}
	place := map[string]int{}
	out := []T{}
	for _, e := range now {
		if named[e.Key()] || !alone {
			place[e.Key()] = len(out)
			out = append(out, e)
		}
	}
	for _, e := range in {
		if i, there := place[e.Key()]; there {
			out[i] = e
			continue
		}
		place[e.Key()] = len(out)
		out = append(out, e)
	}
	return out
}
