// Package knowledge holds what Kaiku knows beside a home's record: the firm's tables, and what scans
// last saw of the home. It is a value with a revision; what is computed with it can be kept until
// the revision is another.
package knowledge

import (
	"time"

	"kaiku/core/dossier"
)

// Knowledge is what is known beside the record of a home.
type Knowledge struct {
	Revision string
	Seen     []Seen   // of this home
	Recipes  []Recipe // of the firm, as the following
	Sheets   []Sheet
	Releases []Release
	byModel  map[string][]Sheet // as Indexed makes it; nil: all are looked through
}

// Indexed returns the same knowledge, in which the sheets of a model are found without looking through all.
func (k Knowledge) Indexed() Knowledge {
	k.byModel = map[string][]Sheet{}
	for _, s := range k.Sheets {
		at := fold(s.Model.Model)
		k.byModel[at] = append(k.byModel[at], s)
	}
	return k
}

// sheetsOf lists the sheets that may be about a model.
func (k Knowledge) sheetsOf(model string) []Sheet {
	if k.byModel == nil {
		return k.Sheets
	}
	return k.byModel[fold(model)]
}

// Seen is a member of a record of which the latest scan saw another value than the recorded one.
type Seen struct {
	Subject  dossier.Ref
	Member   string
	Recorded string
	Seen     string
	At       time.Time
}
