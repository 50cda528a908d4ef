package views

import (
	"kaiku/core/dossier"
	"kaiku/wording"
)

// LabelThen is what people call the record now, or what the entry says it was called.
func LabelThen(d *dossier.Dossier, e dossier.Entry) string {
	if label := d.FullLabel(e.Subject); label != "" {
		return label
	}
	for _, f := range dossier.KindNamed(e.Subject.Kind).Fields {
		if v, ok := e.Before["/"+f.Name]; ok && f.Label {
			return wording.Value(v, nil)
		}
	}
	return ""
}

// Said gives an id as people say it.
func Said(d *dossier.Dossier, people People, id string) string {
	if name := people.Name(dossier.PersonID(id)); name != "" {
		return name
	}
	return readable(d, id)
}
