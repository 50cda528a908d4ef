package network

import (
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// view is a home as of an instant.
type view struct {
	*dossier.Index
	known knowledge.Knowledge
	now   time.Time
}

func look(d *dossier.Dossier, now time.Time) *view {
	return &view{d.Index(), knowledge.Knowledge{}, now}
}

// names says segments with their prefixes.
func (v *view) names(ids []dossier.ID[dossier.Segment]) dossier.Value {
	names := make([]string, len(ids))
	for i, id := range ids {
		s, _ := v.Segments.Get(id)
		names[i] = s.Name + " (" + s.Prefix.String() + ")"
	}
	return dossier.Named(names...)
}

func (v *view) labels(of []dossier.Ref) []string {
	var names []string
	for _, r := range of {
		names = append(names, v.Label(r))
	}
	return names
}

func shareOne(a, b []dossier.ID[dossier.Segment]) bool {
	return slices.ContainsFunc(a, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(b, s) })
}
