package remedy

import (
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// Before is how long before a fault began a change may have brought it about, and after is by how much the beginning may be told too early. Judgement.
const (
	Before = 14 * 24 * time.Hour
	after  = time.Hour
)

// mostBefore is how many changes are proposed at most.
const mostBefore = 10

// Begun is when an issue began, as far as it is known.
func Begun(i dossier.Issue) time.Time {
	if !i.Since.IsZero() {
		return i.Since
	}
	return i.OpenedAt
}

// ChangesBefore picks from a home's journal the changes after which something may have begun to fail: those within two weeks before it, of what the tests
// of the paths stand on; of all paths in use if none is named. The newest come first, and each record once.
func ChangesBefore(plan *proving.Plan, paths []dossier.ID[dossier.Path], journal []dossier.Entry, begun time.Time) []dossier.Entry {
	type member struct {
		of   dossier.Ref
		name string
	}
	facts := map[member]bool{}
	for _, t := range plan.Tests {
		if len(paths) == 0 || slices.Contains(paths, t.Path) {
			for _, f := range t.Facts() {
				facts[member{f.Subject, f.Name}] = true
			}
		}
	}
	touches := func(e dossier.Entry) bool {
		for p := range e.After {
			if name, _, _ := strings.Cut(p[1:], "/"); facts[member{e.Subject, name}] {
				return true
			}
		}
		for p := range e.Before {
			if name, _, _ := strings.Cut(p[1:], "/"); facts[member{e.Subject, name}] {
				return true
			}
		}
		return false
	}
	var out []dossier.Entry
	for _, e := range slices.Backward(journal) {
		at := e.At
		if !e.DoneAt.IsZero() {
			at = e.DoneAt
		}
		if e.Act != dossier.Changed || at.Before(begun.Add(-Before)) || at.After(begun.Add(after)) || !touches(e) {
			continue
		}
		if !slices.ContainsFunc(out, func(x dossier.Entry) bool { return x.Subject == e.Subject }) {
			out = append(out, e)
		}
	}
	return out[:min(len(out), mostBefore)]
}
